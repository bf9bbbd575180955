"""Thickness over a piece: read at stations, carried over the face between them.

On a full grid bilinear, else linear on Delaunay triangles, collinear stations along their line; beyond them the nearest counts.
"""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from grainet.wood.piece import Piece, Station

Array = NDArray[np.float64]


class ThicknessField:
    """Thickness in mm at any place of a piece. ``at`` takes arrays of x and y in mm of one shape and returns that shape."""

    def __init__(self, thickness_mm: float | None, stations: Sequence[Station] = ()) -> None:
        self.level = thickness_mm
        self.points = np.array([(s.x_mm, s.y_mm) for s in stations], dtype=float).reshape(-1, 2)
        self.values = np.array([s.thickness_mm for s in stations], dtype=float)
        self._kind = self._choose()

    @classmethod
    def of(cls, piece: Piece) -> ThicknessField:
        """Of a piece with at least one thickness. Raises ValueError where none was read."""
        if not piece.stations and piece.thickness_mm is None:
            raise ValueError(f"piece {piece.id}: no thickness read")
        return cls(None if piece.stations else piece.thickness_mm, piece.stations)

    @property
    def least(self) -> float:
        """The least thickness that was read, mm."""
        return float(self.values.min()) if len(self.values) else float(self.level or 0)

    @property
    def constant(self) -> bool:
        """Whether it is one thickness everywhere."""
        return self._kind == "level"

    def at(self, x: Array, y: Array) -> Array:
        """Thickness at places, mm; x and y of one shape, mm."""
        x, y = np.broadcast_arrays(np.asarray(x, float), np.asarray(y, float))
        if self._kind == "level":
            return np.full(x.shape, self.least)
        if self._kind == "line":
            along = x * self._axis[0] + y * self._axis[1]
            return np.asarray(np.interp(along, self._along, self._line_values))
        if self._kind == "grid":
            return self._bilinear(x, y)
        return self._triangles(x, y)

    def breaks(self) -> tuple[Array, Array]:
        """Grid lines (xs, ys) on which the field bends, for sampling its least value; stations otherwise."""
        if self._kind == "level":
            return np.empty(0), np.empty(0)
        return np.unique(self.points[:, 0]), np.unique(self.points[:, 1])

    # how the stations lie -----------------------------------------------------------------------------------------
    def _choose(self) -> str:
        if len(self.values) <= 1 or np.ptp(self.values) < 1e-12:
            return "level"
        spread = self.points - self.points.mean(axis=0)
        _, size, axes = np.linalg.svd(spread, full_matrices=False)
        if len(size) < 2 or size[1] < 1e-6 * max(size[0], 1e-9):
            self._axis = axes[0]
            along = self.points @ axes[0]
            order = np.argsort(along)
            self._along, self._line_values = along[order], self.values[order]
            return "line"
        xs, ys = np.unique(self.points[:, 0]), np.unique(self.points[:, 1])
        if len(xs) * len(ys) == len(self.values) and len(np.unique(self.points, axis=0)) == len(self.values):
            self._xs, self._ys = xs, ys
            self._grid = np.empty((len(ys), len(xs)))
            self._grid[np.searchsorted(ys, self.points[:, 1]), np.searchsorted(xs, self.points[:, 0])] = self.values
            return "grid"
        return "triangles"

    def _bilinear(self, x: Array, y: Array) -> Array:
        xs, ys, grid = self._xs, self._ys, self._grid
        x, y = np.clip(x, xs[0], xs[-1]), np.clip(y, ys[0], ys[-1])
        i = np.clip(np.searchsorted(xs, x, side="right") - 1, 0, len(xs) - 2)
        j = np.clip(np.searchsorted(ys, y, side="right") - 1, 0, len(ys) - 2)
        u, v = (x - xs[i]) / (xs[i + 1] - xs[i]), (y - ys[j]) / (ys[j + 1] - ys[j])
        low = grid[j, i] * (1 - u) + grid[j, i + 1] * u
        high = grid[j + 1, i] * (1 - u) + grid[j + 1, i + 1] * u
        return np.asarray(low * (1 - v) + high * v)

    def _triangles(self, x: Array, y: Array) -> Array:
        from scipy.interpolate import LinearNDInterpolator, NearestNDInterpolator

        if not hasattr(self, "_linear"):
            self._linear = LinearNDInterpolator(self.points, self.values)
            self._nearest = NearestNDInterpolator(self.points, self.values)
        found = np.asarray(self._linear(x, y), float)
        outside = np.isnan(found)
        if outside.any():
            found[outside] = self._nearest(x[outside], y[outside])
        return found

    def least_under(self, ring: Array) -> float:
        """Least thickness in mm under a polygon, ``ring`` of shape (n, 2) in mm."""
        return float(self.least_under_many(ring, np.zeros((1, 2)))[0])

    def least_under_many(self, ring: Array, shifts: Array) -> Array:
        """Least thickness under one polygon at many shifts, shape (n,).

        Neither a linear nor a bilinear field is least within a cell, so the rim, taken every 2 mm, and the stations inside decide.
        """
        if self.constant:
            return np.full(len(shifts), self.least)
        rim = _along_ring(ring, 1.0 if self._kind == "triangles" else 2.0)  # beyond the hull the nearest station jumps
        least = np.empty(len(shifts))
        for k in range(0, len(shifts), 64):  # in slices, to keep the arrays small
            where = rim[None, :, :] + shifts[k : k + 64, None, :]
            least[k : k + 64] = self.at(where[..., 0], where[..., 1]).min(axis=1)
        low, high = ring.min(axis=0), ring.max(axis=0)
        for point, value in zip(self.points, self.values):
            there = point - shifts
            asked = np.flatnonzero(((there >= low) & (there <= high)).all(axis=1) & (value < least))
            least[asked[_points_in_ring(there[asked], ring)]] = value
        return least


def _along_ring(ring: Array, step: float) -> Array:
    """Places along a ring, both ends of every side and between them at most a step apart: shape (n, 2), mm."""
    sides = np.roll(ring, -1, axis=0) - ring
    counts = np.maximum(2, np.ceil(np.hypot(sides[:, 0], sides[:, 1]) / step).astype(int) + 1)
    starts = np.cumsum(counts) - counts
    share = (np.arange(counts.sum()) - np.repeat(starts, counts)) / np.repeat(counts - 1, counts)
    return np.asarray(np.repeat(ring, counts, axis=0) + np.repeat(sides, counts, axis=0) * share[:, None])


def _points_in_ring(points: Array, ring: Array) -> NDArray[np.bool_]:
    """Which of (n, 2) points lie inside a ring: even-odd rule."""
    if not len(points):
        return np.zeros(0, bool)
    x, y = points[:, 0][:, None], points[:, 1][:, None]
    x0, y0 = ring[:, 0], ring[:, 1]
    x1, y1 = np.roll(x0, -1), np.roll(y0, -1)
    with np.errstate(divide="ignore", invalid="ignore"):
        crosses = ((y0 > y) != (y1 > y)) & (x < (x1 - x0) * (y - y0) / (y1 - y0) + x0)
    return np.asarray(crosses.sum(axis=1) % 2 == 1)
