"""The one lens term: a radial bend about the middle of the picture, r' = r (1 + k r^2) with r in half diagonals."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

Array = NDArray[Any]


TABLE = 4096  # places at which a whole photo's radii are solved; between them a straight line is good to 1e-7 of a radius


def _away(points: Array, size: tuple[int, int]) -> tuple[Array, Array]:
    """From the middle of the picture, px, and the square of the radius in half diagonals, shape (..., 1)."""
    away = points - np.array(size, float) / 2
    x, y = away[..., 0], away[..., 1]
    return away, ((x * x + y * y) / (size[0] ** 2 + size[1] ** 2) * 4)[..., None]


def bend(points: Array, k: float, size: tuple[int, int]) -> Array:
    """Straight pixels, shape (..., 2), to where a lens with term ``k`` puts them; ``size`` is (width, height) in px."""
    away, r2 = _away(points, size)
    return np.asarray(away * (1 + k * r2) + np.array(size, float) / 2)


def unbend(points: Array, k: float, size: tuple[int, int]) -> Array:
    """The inverse of ``bend``; good to a thousandth of a pixel for |k| <= 0.2."""
    if not k:
        return points
    away, r2 = _away(points, size)
    if r2.size > TABLE:
        places = np.linspace(0.0, float(r2.max()), TABLE)
        share = np.interp(r2.ravel(), places, _share(np.sqrt(places), k)).reshape(r2.shape)
    else:
        share = _share(np.sqrt(r2), k)
    return np.asarray(away * share + np.array(size, float) / 2)


def _share(bent: Array, k: float) -> Array:
    """By how much bent radii, in half diagonals, are drawn in or out to be straight: Newton's steps on the radius."""
    r = bent.copy()
    for _ in range(6):
        r -= (r + k * r**3 - bent) / np.maximum(1 + 3 * k * r * r, 0.2)
    return np.asarray(np.where(bent > 1e-12, r / np.maximum(bent, 1e-12), 1.0))
