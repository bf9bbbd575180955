"""Polygons to boolean rasters, sound in the wanted direction: grown when they forbid, shrunk when they allow."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

Mask = NDArray[np.bool_]
_SHIFT = 5  # cv2's fixed-point bits: a 32nd of a pixel


@dataclass(frozen=True)
class Grid:
    """A lattice of square pixels of ``step`` mm; pixel (row j, column i) spans x0 + i step .. and y0 + j step .."""

    x0: float
    y0: float
    step: float
    columns: int
    rows: int

    @classmethod
    def over(cls, bounds: tuple[float, float, float, float], step: float) -> Grid:
        """The grid of square cells of so many mm that covers some bounds."""
        x0, y0, x1, y1 = bounds
        return cls(x0, y0, step, max(1, int(np.ceil((x1 - x0) / step - 1e-9))), max(1, int(np.ceil((y1 - y0) / step - 1e-9))))

    @property
    def shape(self) -> tuple[int, int]:
        """Rows and columns."""
        return self.rows, self.columns

    def centres(self) -> tuple[NDArray[np.floating], NDArray[np.floating]]:
        """The x of every column and the y of every row, mm."""
        return (self.x0 + (np.arange(self.columns) + 0.5) * self.step, self.y0 + (np.arange(self.rows) + 0.5) * self.step)


def fill(shape: BaseGeometry, grid: Grid) -> Mask:
    """Pixels whose centre a shape covers, and those that its outline runs through."""
    image = np.zeros(grid.shape, np.uint8)
    for polygon in getattr(shape, "geoms", [shape]):
        if not isinstance(polygon, Polygon) or polygon.is_empty:
            continue
        if not polygon.interiors:
            cv2.fillPoly(image, [_pixels(polygon.exterior.coords, grid)], 1, shift=_SHIFT)
            continue
        one = np.zeros_like(image)
        cv2.fillPoly(one, [_pixels(r.coords, grid) for r in (polygon.exterior, *polygon.interiors)], 1, shift=_SHIFT)
        image |= one
    return image.astype(bool)


def _pixels(coords: Any, grid: Grid) -> NDArray[np.int32]:
    points = (np.asarray(coords)[:, :2] - (grid.x0, grid.y0)) / grid.step - 0.5
    return np.clip(np.round(points * (1 << _SHIFT)), -(2**30), 2**30).astype(np.int32)


def forbids(shape: BaseGeometry, grid: Grid, guard: float = 1.0) -> Mask:
    """Every pixel that a shape touches: the shape grown by half a pixel's diagonal, times ``guard``."""
    return fill(shape.buffer(0.7072 * grid.step * guard, join_style="mitre", mitre_limit=2) if guard else shape, grid)


def allows(shape: BaseGeometry, grid: Grid, guard: float = 1.0) -> Mask:
    """Only pixels that lie wholly inside a shape (guard 1), or whose centre does (guard 0)."""
    if not guard:
        return fill(shape, grid)
    outside = (
        Polygon.from_bounds(grid.x0 - 9, grid.y0 - 9, grid.x0 + grid.columns * grid.step + 9, grid.y0 + grid.rows * grid.step + 9)
        - shape
    )
    return ~forbids(outside, grid, guard)
