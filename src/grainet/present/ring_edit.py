"""The handles of a ring and what moving one does: few corners are handles themselves, a ring of many is held by its frame."""

from __future__ import annotations

from collections.abc import Iterable
from math import hypot

from grainet.wood.value import Point, Ring

MOST_HANDLES = 14


def handle_points(ring: Ring) -> list[Point]:
    """The corners by which a ring is taken: its own, or those of its frame where it has more than ``MOST_HANDLES``."""
    if len(ring) <= MOST_HANDLES:
        return list(ring)
    xs, ys = zip(*ring)
    return [(min(xs), min(ys)), (max(xs), min(ys)), (max(xs), max(ys)), (min(xs), max(ys))]


def nearest_handle(at: Point, handles: Iterable[Point], within: float) -> int | None:
    """The number of the handle nearest to a point, in the unit of the points; None where none is within reach."""
    near = [(hypot(x - at[0], y - at[1]), k) for k, (x, y) in enumerate(handles)]
    best = min(near, default=(within + 1, -1))
    return best[1] if best[0] <= within else None


def moved_ring(ring: Ring, corner: int | None, dx: float, dy: float) -> Ring:
    """A ring with one handle moved, or all of it; a ring held by its frame is stretched with it, and never to less than 1 mm."""
    if corner is None:
        return tuple((x + dx, y + dy) for x, y in ring)
    if len(ring) <= MOST_HANDLES:
        return tuple((x + dx, y + dy) if k == corner else (x, y) for k, (x, y) in enumerate(ring))
    xs, ys = zip(*ring)
    x0, y0, x1, y1 = min(xs), min(ys), max(xs), max(ys)
    nx0, nx1 = (x0 + dx, x1) if corner in (0, 3) else (x0, x1 + dx)
    ny0, ny1 = (y0 + dy, y1) if corner in (0, 1) else (y0, y1 + dy)
    if nx1 - nx0 < 1 or ny1 - ny0 < 1:
        return ring
    return tuple((nx0 + (x - x0) / (x1 - x0) * (nx1 - nx0), ny0 + (y - y0) / (y1 - y0) * (ny1 - ny0)) for x, y in ring)
