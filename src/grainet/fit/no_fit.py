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
from shapely.geometry import LineString, Polygon

Array = NDArray[np.float64]
STEP_MM = 2.0  # between the places of a table
COARSE = 3  # so many of them from one place to the next, where many are looked over at once
BAND = 2  # so many steps on either side of the border the depth is exact, further in it is that of the raster
SIMPLER_MM = 0.2  # what an outline may lose for fewer points; the clearance is that much wider
SHORT = 4.0  # steps: the sides of a border are looked at in stretches no longer than this
WINDOW = np.arange(int(SHORT) + 2 * BAND + 1)  # places round a stretch, along and across
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


def _inside(ring: Array, shape: tuple[int, int]) -> NDArray[np.uint8]:
    """Which places of a lattice (rows, columns) lie inside a closed ring, in steps: by how often its sides are crossed on the way there."""
    low, high = (f(ring[:-1, 1], ring[1:, 1]) for f in (np.minimum, np.maximum))
    first, count = np.ceil(low).astype(int), (np.ceil(high) - np.ceil(low)).astype(int)
    side = np.repeat(np.arange(len(count)), count)
    row = np.arange(len(side)) - np.repeat(np.cumsum(count) - count, count) + first[side]
    (x0, y0), (x1, y1) = ring[side].T, ring[side + 1].T
    column = np.ceil(x0 + (row - y0) / (y1 - y0) * (x1 - x0)).astype(int)
    crossed = np.zeros(shape, np.uint8)
    np.add.at(crossed, (row, column), 1)
    return np.add.accumulate(crossed, axis=1, dtype=np.uint8) % np.uint8(2)


def _from_border(ring: Array, shape: tuple[int, int]) -> Array:
    """How far the places of a lattice (rows, columns) lie from a closed ring, in steps; of those further off than ``BAND`` any more."""
    sides = np.diff(ring, axis=0)
    many = np.maximum(1, np.ceil(np.hypot(*sides.T) / SHORT)).astype(int)
    side = np.repeat(np.arange(len(many)), many)
    part = np.arange(len(side)) - np.repeat(np.cumsum(many) - many, many)
    along = sides[side] / many[side, None]
    begins = ring[side] + part[:, None] * along
    corner = np.floor(np.minimum(begins, begins + along)).astype(int) - BAND + 1
    x, y = corner[:, 0, None] + np.tile(WINDOW, len(WINDOW)), corner[:, 1, None] + np.repeat(WINDOW, len(WINDOW))
    u, v = x - begins[:, 0, None], y - begins[:, 1, None]
    on = np.clip((u * along[:, 0, None] + v * along[:, 1, None]) / (along**2).sum(axis=1)[:, None], 0, 1)
    away = np.hypot(u - on * along[:, 0, None], v - on * along[:, 1, None])
    found = np.full(shape, np.inf)
    there = (away <= BAND) & (x >= 0) & (y >= 0) & (x < shape[1]) & (y < shape[0])
    np.minimum.at(found.reshape(-1), (y * shape[1] + x)[there], away[there])
    return found


@dataclass(frozen=True, eq=False)
class Depths:
    """How deep in a no-fit polygon a shift lies, mm, below 0 outside: at the places of a lattice whose first node is (``column``,
    ``row``) steps from no shift at all. ``along`` and ``across`` are -1 where the lattice is read backwards: the shapes are turned, or
    mirrored, or have changed places."""

    column: int
    row: int
    table: NDArray[np.float16]
    along: int = 1
    across: int = 1

    @classmethod
    def of(cls, shape: Polygon) -> Depths:
        """Of a no-fit polygon: exact near its border."""
        x0, y0, x1, y1 = (v / STEP_MM for v in shape.bounds)
        column, row = int(np.floor(x0)) - BAND, int(np.floor(y0)) - BAND
        columns, rows = int(np.ceil(x1)) + BAND - column + 1, int(np.ceil(y1)) + BAND - row + 1
        ring = np.asarray(shape.exterior.coords) / STEP_MM - (column, row)
        inside = _inside(ring, (rows, columns))
        inner, outer = (cv2.distanceTransform(mask, cv2.DIST_L2, cv2.DIST_MASK_5) for mask in (inside, 1 - inside))
        # the nearest place on the other side of the border lies up to a step beyond it
        far = np.maximum(np.where(inside, inner, outer) - 0.5, BAND)
        away = np.minimum(_from_border(ring, (rows, columns)), far)
        depth = (np.where(inside, away, -np.minimum(away, BAND)) * STEP_MM).astype(np.float16)
        return cls(column, row, depth)

    @cached_property
    def depth(self) -> NDArray[np.float16]:
        """The depths as they are read: the same memory."""
        return self.table[:: self.across, :: self.along]

    @cached_property
    def coarse(self) -> NDArray[np.float32]:
        """Every so-many-th depth, 0 outside."""
        return np.maximum(self.depth[::COARSE, ::COARSE], 0, dtype=np.float32, order="C")

    @property
    def turned(self) -> Depths:
        """For the two shapes the other way round, or both turned by half a turn."""
        rows, columns = self.table.shape
        return Depths(1 - self.column - columns, 1 - self.row - rows, self.table, -self.along, -self.across)

    @property
    def mirrored(self) -> Depths:
        """For both shapes mirrored across the board."""
        return Depths(self.column, 1 - self.row - self.table.shape[0], self.table, self.along, -self.across)
