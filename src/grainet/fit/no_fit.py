"""Where one part may not lie beside another: no-fit polygons, and how deep in them a place is, as a table that answers for any place at once.

The no-fit polygon of two shapes holds every shift of the second at which it would come nearer to the first than the saw needs. It is the
sum of the first with the second turned about the origin, made of their convex pieces.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

import cv2
import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import Polygon

Array = NDArray[np.float64]
STEP_MM = 2.0  # between the places of a table
BAND = 2  # so many steps on either side of the border the depth is exact, further in it is that of the raster
SIMPLER_MM = 0.2  # what an outline may lose for fewer points; the clearance is that much wider
ROUND = 4  # segments of a quarter turn of the clearance round a corner


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
    hulls = shapely.convex_hull(np.array([shapely.multipoints(points) for points in sums]))
    whole = shapely.union_all(hulls).buffer(clear_mm + SIMPLER_MM, quad_segs=ROUND)
    largest = max(getattr(whole, "geoms", [whole]), key=lambda g: g.area)
    return Polygon(largest.exterior)


@dataclass(frozen=True, eq=False)
class Depths:
    """How deep in a no-fit polygon a shift lies, mm, below 0 outside: at the places of a lattice whose first node is (``column``,
    ``row``) steps from no shift at all. ``along`` and ``across`` are -1 where the lattice is read backwards: the shapes are turned, or
    mirrored, or have changed places."""

    column: int
    row: int
    table: NDArray[np.float32]
    along: int = 1
    across: int = 1

    @classmethod
    def of(cls, shape: Polygon) -> Depths:
        """Of a no-fit polygon: exact near its border."""
        x0, y0, x1, y1 = (v / STEP_MM for v in shape.bounds)
        column, row = int(np.floor(x0)) - BAND, int(np.floor(y0)) - BAND
        columns, rows = int(np.ceil(x1)) + BAND - column + 1, int(np.ceil(y1)) + BAND - row + 1
        image = np.zeros((rows, columns), np.uint8)
        corners = (np.asarray(shape.exterior.coords) / STEP_MM - (column, row)) * 32
        cv2.fillPoly(image, [np.round(corners).astype(np.int32)], 1, shift=5)
        inner, outer = (cv2.distanceTransform(mask, cv2.DIST_L2, cv2.DIST_MASK_PRECISE) for mask in (image, 1 - image))
        depth = ((np.maximum(inner - 1, 0) - outer) * STEP_MM).astype(np.float32)  # the raster paints its border as well
        near = np.nonzero((inner < BAND + 1) & (outer < BAND))
        points = shapely.points((near[1] + column) * STEP_MM, (near[0] + row) * STEP_MM)
        shapely.prepare(shape)
        away = shapely.distance(shape.exterior, points)
        depth[near] = np.where(shapely.contains(shape, points), away, -away)
        return cls(column, row, depth)

    @cached_property
    def depth(self) -> NDArray[np.float32]:
        """The depths as they are read: the same memory."""
        return self.table[:: self.across, :: self.along]

    @property
    def turned(self) -> Depths:
        """For the two shapes the other way round, or both turned by half a turn."""
        rows, columns = self.table.shape
        return Depths(1 - self.column - columns, 1 - self.row - rows, self.table, -self.along, -self.across)

    @property
    def mirrored(self) -> Depths:
        """For both shapes mirrored across the board."""
        return Depths(self.column, 1 - self.row - self.table.shape[0], self.table, self.along, -self.across)
