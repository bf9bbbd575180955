"""The one lens term: a radial bend about the middle of the picture, r' = r (1 + k r^2) with r in half diagonals."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

Array = NDArray[Any]


def _radii(points: Array, size: tuple[int, int]) -> tuple[Array, float]:
    middle = np.array(size, float) / 2
    return points - middle, float(np.hypot(*middle))


def bend(points: Array, k: float, size: tuple[int, int]) -> Array:
    """Straight pixels, shape (..., 2), to where a lens with term ``k`` puts them; ``size`` is (width, height) in px."""
    away, half = _radii(points, size)
    r2 = (away**2).sum(axis=-1, keepdims=True) / half**2
    return np.asarray(away * (1 + k * r2) + np.array(size, float) / 2)


def unbend(points: Array, k: float, size: tuple[int, int]) -> Array:
    """The inverse of ``bend`` by Newton's steps on the radius; good to a thousandth of a pixel for |k| <= 0.2."""
    if not k:
        return points
    away, half = _radii(points, size)
    bent = np.sqrt((away**2).sum(axis=-1, keepdims=True)) / half
    r = bent.copy()
    for _ in range(6):
        r -= (r + k * r**3 - bent) / np.maximum(1 + 3 * k * r * r, 0.2)
    return np.asarray(away * (r / np.maximum(bent, 1e-12)) + np.array(size, float) / 2)
