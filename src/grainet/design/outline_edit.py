"""Changing an outline: handles at even steps along it, one pulled with what lies beside it, a stretch taken from another outline.

A place on an outline is its *share* of the way round, 0 at the tail on the centre line, counter-clockwise. Ours: a raised cosine falls
off smoothly and leaves what is beyond its reach exactly where it was.
"""

from __future__ import annotations

import math
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray

from grainet.design.clip import area_mm2
from grainet.wood.value import BadEntry, Ring

Array = NDArray[np.float64]
STEP_MM = 2.5  # between the points of an outline that is changed
HANDLES = 16
REACH = 1.25  # of the way to the next handle
JOIN_MM = 25.0  # along which a stretch from elsewhere is drawn to the ends that it must meet


def even(ring: Ring, step_mm: float = STEP_MM) -> Array:
    """The ring with points at even steps, counter-clockwise from the tail on the centre line on, shape (n, 2); sharp corners stay."""
    points = np.array(ring if area_mm2(ring) > 0 else ring[::-1], float)
    nearest = min(range(len(points)), key=lambda k: (points[k, 0] + 3 * abs(points[k, 1]), k))
    points = np.roll(points, -nearest, axis=0)
    closed = np.vstack([points, points[:1]])
    found = []
    for a, b in pairwise(closed):
        count = max(1, round(float(np.hypot(*(b - a))) / step_mm))
        found += [a + (b - a) * k / count for k in range(count)]
    return np.array(found)


def as_ring(points: Array) -> Ring:
    """Points as a ring, to a thousandth; those that lie on the line between their neighbours are left out."""
    before, after = np.roll(points, 1, axis=0), np.roll(points, -1, axis=0)
    one, two = points - before, after - points
    bends = np.abs(one[:, 0] * two[:, 1] - one[:, 1] * two[:, 0]) > 1e-6
    kept = points[bends] if bends.sum() >= 3 else points
    return tuple((round(float(x), 3), round(float(y), 3)) for x, y in kept)


def shares(points: Array) -> Array:
    """The share of the way round at which each point lies."""
    steps = np.hypot(*(np.roll(points, -1, axis=0) - points).T)
    return np.asarray(np.concatenate([[0.0], np.cumsum(steps)[:-1]]) / steps.sum())


def handles_of(ring: Ring, count: int = HANDLES) -> list[tuple[float, float]]:
    """Places of the handles, evenly along the outline from the tail on, mm."""
    points = even(ring)
    at = shares(points)
    return [tuple(float(v) for v in points[int(np.argmin(_apart(at, k / count)))]) for k in range(count)]  # type: ignore[misc]


def _apart(at: Array, share: float) -> Array:
    """How far shares lie from one, the shorter way round."""
    away = np.abs(at - share)
    return np.asarray(np.minimum(away, 1 - away))


def share_near(ring: Ring, x_mm: float, y_mm: float) -> float:
    """The share of the outline's place nearest to a point."""
    points = even(ring)
    return float(shares(points)[int(np.argmin(np.hypot(points[:, 0] - x_mm, points[:, 1] - y_mm)))])


def pulled(ring: Ring, share: float, dx_mm: float, dy_mm: float, *, both_sides: bool = False, count: int = HANDLES) -> Ring:
    """The outline with one place moved and its neighbours after it, as far as the next handle; ``both_sides`` moves the mirrored place alike."""
    points = even(ring)
    at = shares(points)
    x, y = points[int(np.argmin(_apart(at, share)))]
    moves = [(share, dx_mm, dy_mm)]
    if both_sides:
        other = share_near(ring, x, -y)
        if float(_apart(np.array([other]), share)[0]) > 0.5 / count:
            moves.append((other, dx_mm, -dy_mm))
        else:
            moves = [(share, dx_mm, 0.0)]  # on the centre line it stays there
    moved = points.copy()
    for where, dx, dy in moves:
        near = np.clip(_apart(at, where) * count / REACH, 0, 1)
        moved += (0.5 + 0.5 * np.cos(math.pi * near))[:, None] * np.array([dx, dy])
    return as_ring(moved)


def blended(ring: Ring, other: Ring, from_share: float, to_share: float) -> Ring:
    """The outline with the stretch between two shares, counter-clockwise, taken from another outline where that lies nearest; its ends are
    drawn to where the outline goes on. Raises BadEntry where the other one has no such stretch."""
    a, b = even(ring), even(other)
    at, theirs = shares(a), shares(b)
    first, last = (int(np.argmin(_apart(at, s))) for s in (from_share, to_share))
    near = [int(np.argmin(np.hypot(*(b - a[k]).T))) for k in (first, last)]
    if near[0] == near[1] or first == last:
        raise BadEntry("The two outlines are too far apart there, or the stretch is too short; take handles further apart.")
    stretch = _between(b, near[0], near[1])
    kept = _between(a, last, first)
    long = float((theirs[near[1]] - theirs[near[0]]) % 1.0)
    mine = float((at[last] - at[first]) % 1.0)
    if not 0.4 < long / max(1e-9, mine) < 2.5:
        raise BadEntry("The other outline goes quite another way there; take another stretch, or all of it.")
    run = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(stretch, axis=0).T))])
    reach = max(1e-9, min(JOIN_MM, run[-1] / 2))
    start, end = a[first] - stretch[0], a[last] - stretch[-1]
    stretch = stretch + _fall(run, reach)[:, None] * start + _fall(run[-1] - run, reach)[:, None] * end
    return as_ring(np.vstack([stretch[:-1], kept[:-1]]))


def _fall(away: Array, reach: float) -> Array:
    return np.asarray(0.5 + 0.5 * np.cos(math.pi * np.clip(away / reach, 0, 1)))


def _between(points: Array, first: int, last: int) -> Array:
    """The points from one index to another, counter-clockwise, both with them."""
    count = (last - first) % len(points)
    return points[[(first + k) % len(points) for k in range(count + 1)]]


def apart_mm(ring: Ring, other: Ring) -> float:
    """How far two outlines lie apart at most: the furthest place of one from the other, mm."""
    from shapely.geometry import LinearRing, Point

    line = LinearRing(other)
    return max(float(line.distance(Point(p))) for p in even(ring, 4.0))
