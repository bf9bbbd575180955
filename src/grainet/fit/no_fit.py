"""Where one part may not lie beside another: no-fit polygons.

The no-fit polygon of two shapes holds every shift of the second at which it would come nearer to the first than the saw needs. It is the
sum of the first with the second turned about the origin, made of their convex pieces.
"""

from __future__ import annotations

from collections.abc import Sequence
from itertools import pairwise

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import LineString, Polygon

Array = NDArray[np.float64]
SIMPLER_MM = 0.2  # what an outline may lose for fewer points; the clearance is that much wider
BAYS_MM = 0.6  # what a hollow arc may lose for fewer convex pieces
ROUND = 4  # segments of a quarter turn of the clearance round a corner


def bays_filled(shape: Polygon, most_mm: float) -> Polygon:
    """A polygon without holes whose hollow arcs have fewer corners: each is spanned from corner to corner wherever no more than that lies
    between. It holds all of the shape, and falls into fewer convex pieces."""
    ring = np.asarray(shapely.geometry.polygon.orient(shape).exterior.coords)[:-1]
    before, after = ring - np.roll(ring, 1, axis=0), np.roll(ring, -1, axis=0) - ring
    hollow = before[:, 0] * after[:, 1] - before[:, 1] * after[:, 0] < 0
    start = int(np.argmin(hollow))
    ring, hollow = np.roll(ring, -start, axis=0), np.roll(hollow, -start)
    kept: list[Array] = []
    k = 0
    while k < len(ring):
        end = k
        while end < len(ring) and hollow[end]:
            end += 1
        if end == k:
            kept.append(ring[k : k + 1])
        else:
            run = LineString([ring[k - 1], *ring[k:end], ring[end % len(ring)]]).simplify(most_mm)
            kept.append(np.asarray(run.coords)[1:-1])
        k = max(end, k + 1)
    filled = Polygon(np.concatenate(kept))
    return filled if filled.is_valid else shape


def convex_pieces(shape: Polygon) -> list[Array]:
    """A polygon without holes cut into convex pieces: triangles, joined again wherever they stay convex. Each of shape (points, 2)."""
    triangles = shapely.constrained_delaunay_triangles(shape)
    pieces = [_counter_clockwise(np.asarray(t.exterior.coords)[:3]).tolist() for t in triangles.geoms]
    rings: list[list[tuple[float, float]] | None] = [[(x, y) for x, y in piece] for piece in pieces]
    owner = {edge: k for k, ring in enumerate(rings) if ring for edge in _edges(ring)}
    for edge in list(owner):
        a, b = owner.get(edge), owner.get((edge[1], edge[0]))
        if a is None or b is None or a == b:
            continue
        one, other = rings[a], rings[b]
        if one is None or other is None or (joined := _joined(one, other, edge)) is None:
            continue
        rings[a], rings[b] = joined, None
        owner.update(dict.fromkeys(_edges(joined), a))
    return [np.array(ring) for ring in rings if ring is not None]


def _counter_clockwise(ring: Array) -> Array:
    (ax, ay), (bx, by), (cx, cy) = ring
    return ring if (bx - ax) * (cy - ay) - (by - ay) * (cx - ax) > 0 else ring[::-1]


def _edges(ring: list[tuple[float, float]]) -> list[tuple[tuple[float, float], tuple[float, float]]]:
    return list(pairwise([*ring, ring[0]]))


def _joined(
    one: list[tuple[float, float]], other: list[tuple[float, float]], edge: tuple[tuple[float, float], tuple[float, float]]
) -> list[tuple[float, float]] | None:
    """Two counter-clockwise rings joined along an edge of the first, which the other has the other way round; None where it is not convex."""
    k, m = one.index(edge[1]), other.index(edge[0])
    around = one[k:] + one[:k]  # begins at the edge's end, and ends at its beginning
    beyond = other[m:] + other[:m]  # begins at its beginning
    ring = around + beyond[1:-1]
    turns = zip(ring, ring[1:] + ring[:1], ring[2:] + ring[:2])
    convex = all((bx - ax) * (cy - by) - (by - ay) * (cx - bx) >= -1e-9 for (ax, ay), (bx, by), (cx, cy) in turns)
    return ring if convex else None


def no_fit(one: Sequence[Array], other: Sequence[Array], clear_mm: float) -> Polygon:
    """The no-fit polygon of two shapes in convex pieces, mm in shift space; hollows in which the second could lie, but not get into, count
    as taken."""
    sums = [(a[:, None, :] - b[None, :, :]).reshape(-1, 2) for a in one for b in other]
    which = np.repeat(np.arange(len(sums)), [len(points) for points in sums])
    hulls = shapely.convex_hull(shapely.linestrings(np.concatenate(sums), indices=which))
    whole = shapely.union_all(hulls).buffer(clear_mm + SIMPLER_MM, quad_segs=ROUND)
    largest = max(getattr(whole, "geoms", [whole]), key=lambda g: g.area)
    return Polygon(largest.exterior)
