"""Rings against lines and boxes, and rings against their mirror images, in plain arithmetic."""

from __future__ import annotations

import math
from functools import lru_cache

from grainet.wood.value import Point, Ring


def clipped(ring: Ring, axis: int, at_mm: float, *, above: bool) -> Ring:
    """The side of a ring above or below a line (Sutherland and Hodgman): ``axis`` 0 cuts at an x, 1 at a y. Points on the line stay."""
    sign = 1.0 if above else -1.0
    found: list[Point] = []
    for k, p in enumerate(ring):
        q = ring[k - 1]
        inside, before = sign * (p[axis] - at_mm) >= 0, sign * (q[axis] - at_mm) >= 0
        if inside != before:
            t = (at_mm - q[axis]) / (p[axis] - q[axis])
            cut = [q[0] + (p[0] - q[0]) * t, q[1] + (p[1] - q[1]) * t]
            cut[axis] = at_mm
            found.append((cut[0], cut[1]))
        if inside:
            found.append(p)
    return tuple(p for k, p in enumerate(found) if p != found[k - 1])


@lru_cache(maxsize=2048)  # the zones of a body are cut to the same halves for every way of making it
def clipped_to(ring: Ring, box: tuple[float, float, float, float]) -> Ring:
    """What of a ring lies in a box (x0, y0, x1, y1); empty where less than 1 mm2 does."""
    for axis, at, above in ((0, box[0], True), (0, box[2], False), (1, box[1], True), (1, box[3], False)):
        ring = clipped(ring, axis, at, above=above)
        if len(ring) < 3:
            return ()
    return ring if abs(area_mm2(ring)) >= 1.0 else ()


def area_mm2(ring: Ring) -> float:
    """Area within a ring, mm2; positive for one that runs counter-clockwise."""
    return math.fsum(x0 * y1 - x1 * y0 for (x0, y0), (x1, y1) in zip(ring, (*ring[1:], ring[0]))) / 2


def mirrored(ring: Ring) -> Ring:
    """A ring turned over its length (y to -y), counter-clockwise again."""
    return tuple((x, -y) for x, y in reversed(ring))


@lru_cache(maxsize=512)
def same_mirrored(one: Ring, other: Ring) -> bool:
    """Whether two rings, each in a frame of its own, are mirror images about the length."""
    high = max((y for _, y in one), default=0.0)
    turned = {(round(x, 2), round(high - y, 2)) for x, y in one}
    return turned == {(round(x, 2), round(y, 2)) for x, y in other}


def moved(ring: Ring) -> tuple[Ring, Point]:
    """A ring with its lower left at 0, 0, and where that lay."""
    x0, y0 = min(x for x, _ in ring), min(y for _, y in ring)
    return tuple((round(x - x0, 6), round(y - y0, 6)) for x, y in ring), (x0, y0)
