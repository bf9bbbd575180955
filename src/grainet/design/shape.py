"""Outlines in the plane: the placement transform, extents, areas, and the tests that a ring is usable."""

from __future__ import annotations

import math
from collections.abc import Iterable

import numpy as np
from numpy.typing import NDArray

from grainet.wood.value import Point

Array = NDArray[np.float64]


def as_array(ring: Iterable[Point]) -> Array:
    """A ring as an array of shape (points, 2), mm."""
    return np.asarray(tuple(ring), dtype=float).reshape(-1, 2)


def placed(ring: Array, x: float, y: float, angle_deg: float, *, turned_over: bool) -> Array:
    """T(x, y) . R(angle) . M . ring, where M turns y to -y when ``turned_over``. ``ring`` has shape (n, 2), mm.

    Quarter turns are exact, so that a rectangle stays one to the last bit.
    """
    quarter = round(angle_deg / 90)
    if abs(angle_deg - 90 * quarter) < 1e-12:
        cos, sin = ((1.0, 0.0), (0.0, 1.0), (-1.0, 0.0), (0.0, -1.0))[quarter % 4]
    else:
        cos, sin = math.cos(math.radians(angle_deg)), math.sin(math.radians(angle_deg))
    px, py = ring[:, 0], -ring[:, 1] if turned_over else ring[:, 1]
    return np.column_stack([cos * px - sin * py + x, sin * px + cos * py + y])


def is_turned_over(*, mirror: bool, face_up: str) -> bool:
    """M applies when exactly one of ``mirror`` and face up "2" holds."""
    return mirror != (face_up == "2")


def extents(ring: Array) -> tuple[float, float, float, float]:
    """Least x, least y, most x and most y of a ring of shape (points, 2), mm."""
    (x0, y0), (x1, y1) = ring.min(axis=0), ring.max(axis=0)
    return float(x0), float(y0), float(x1), float(y1)


def area(ring: Array) -> float:
    """Area in mm2 by the shoelace rule, always positive."""
    x, y = ring[:, 0], ring[:, 1]
    return abs(float(np.dot(x[:-1], y[1:]) - np.dot(y[:-1], x[1:]) + x[-1] * y[0] - y[-1] * x[0])) / 2


def is_rectangle(ring: Array, tolerance: float = 1e-6) -> bool:
    """Whether a ring fills its extents, its sides along the axes."""
    x0, y0, x1, y1 = extents(ring)
    return abs(area(ring) - (x1 - x0) * (y1 - y0)) <= tolerance * max(1.0, x1 - x0 + y1 - y0)
