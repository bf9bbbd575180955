"""Slope of grain on a face seen square on: an FFT wedge finds the fibres' lie, a structure tensor of what lies near it refines it.

Figure, rays and cathedral lines are not fibre: the wedge looks only near the length axis and at fibre's fineness, and the answer
carries a confidence. Realistic to half a degree; a plain structure tensor is wrong by degrees on curly wood.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

Array = NDArray[Any]
WEDGE_DEG, NEAR_DEG = 25.0, 3.0
HIGH_PASS_MM = 1.2  # growth rings are coarser than this and need not follow the fibres; cathedrals do not
FINE_CYCLES_MM = (0.6, 1.6)


@dataclass(frozen=True)
class Slope:
    """Slope in degrees, positive where fibres climb to the right; confidence 0 to 1."""

    slope_deg: float
    confidence: float


def lightness(image: NDArray[Any]) -> NDArray[Any]:
    """Perceived lightness 0..1 of an RGB picture, shape (rows, columns)."""
    return (image.astype(np.float32) @ np.array([0.30, 0.59, 0.11], np.float32)) / np.float32(255)


def slope_of_grain(image: NDArray[Any], px_per_mm: float) -> Slope:
    """The slope on a face picture (row 0 at the far edge). Raises ValueError for pictures under 40 mm across or
    120 along, and for those that show no lines."""
    rows, columns = image.shape[:2]
    if rows < 40 * px_per_mm or columns < 120 * px_per_mm:
        raise ValueError(
            f"{columns / px_per_mm:.0f} x {rows / px_per_mm:.0f} mm is too little to see the grain's lie; needs 120 x 40"
        )
    flat = _high_passed(lightness(image), px_per_mm)
    found = [_wedge(tile, px_per_mm) for tile in _tiles(flat, px_per_mm)]
    angles, weights = np.array([a for a, _ in found]), np.array([w for _, w in found])
    if not np.isfinite(weights).all() or weights.sum() < 1e-9:
        raise ValueError("no lines are seen in this picture")
    middle = _weighted_median(angles, weights)
    near = np.abs(angles - middle) < 6.0  # a knot turns the lines of its own tile; the rest of the board still speaks
    slope = float(np.average(angles[near], weights=weights[near]))
    spread = float(np.average(np.abs(angles - middle), weights=weights))
    confidence = float(np.clip(1.05 - spread / 5.0, 0.05, 0.98)) * float(np.clip(np.mean(weights) * 2.5, 0.3, 1.0))
    return Slope(slope, round(min(confidence, 0.98), 2))


def _high_passed(light: NDArray[Any], px_per_mm: float) -> NDArray[Any]:
    import cv2

    low = cv2.GaussianBlur(light, (0, 0), HIGH_PASS_MM * px_per_mm)
    spread = np.sqrt(cv2.GaussianBlur((light - low) ** 2, (0, 0), 4 * px_per_mm)) + 0.004
    return np.clip((light - low) / spread, -2.5, 2.5)  # clipped, so that knots and cracks do not outweigh the fibres


def _tiles(flat: NDArray[Any], px_per_mm: float) -> list[NDArray[Any]]:
    """Overlapping windows about 120 x 80 mm, or what there is."""
    rows, columns = flat.shape
    high, wide = min(rows, round(80 * px_per_mm)), min(columns, round(120 * px_per_mm))
    ys = np.unique(np.linspace(0, rows - high, max(1, round(2 * rows / high) - 1)).astype(int))
    xs = np.unique(np.linspace(0, columns - wide, max(1, min(15, round(2 * columns / wide) - 1))).astype(int))
    return [flat[y : y + high, x : x + wide] for y in ys for x in xs]


def _wedge(tile: NDArray[Any], px_per_mm: float) -> tuple[float, float]:
    """The angle of the strongest lie within the wedge, degrees, and the share of the energy that agrees with it."""
    rows, columns = tile.shape
    window = np.hanning(rows)[:, None] * np.hanning(columns)[None, :]
    power = np.abs(np.fft.rfft2(tile * window)) ** 2
    fy, fx = np.fft.fftfreq(rows) * px_per_mm, np.fft.rfftfreq(columns) * px_per_mm
    size = np.hypot(fy[:, None], fx[None, :])
    # a coarse picture has nothing so fine: then the finest that it shows
    low, high = min(FINE_CYCLES_MM[0], 0.3 * px_per_mm), min(FINE_CYCLES_MM[1], 0.45 * px_per_mm)
    band = (size >= low) & (size <= high)
    # lines that climb to the right by a have frequencies along (sin a, cos a) in rows down: fx/fy = tan a
    angle = np.degrees(np.arctan2(fx[None, :], np.abs(fy[:, None]))) * np.sign(fy[:, None] + 1e-12)
    inside = band & (np.abs(angle) <= WEDGE_DEG) & (np.abs(fy[:, None]) > 0)
    bins = np.arange(-WEDGE_DEG, WEDGE_DEG + 0.25, 0.25)
    weight = power * size
    hist, _ = np.histogram(angle[inside], bins=bins, weights=weight[inside])
    count, _ = np.histogram(angle[inside], bins=bins)
    smooth = np.convolve(hist, np.hanning(11), "same") / np.maximum(np.convolve(count, np.hanning(11), "same"), 0.5)
    k = int(np.argmax(smooth))
    centre = (bins[k] + bins[k + 1]) / 2
    near = inside & (np.abs(angle - centre) < NEAR_DEG)
    return _lie(fx, fy, power, near, centre), float(weight[near].sum() / max(weight[band].sum(), 1e-12))


def _lie(fx: NDArray[Any], fy: NDArray[Any], power: NDArray[Any], near: NDArray[Any], centre: float) -> float:
    """The structure tensor of what lies near the strongest direction, summed over frequencies: exact derivatives, so that fine
    lines are not pulled toward the pixel rows as small difference kernels pull them."""
    kx, ky = np.broadcast_to(fx[None, :], power.shape)[near], np.broadcast_to(fy[:, None], power.shape)[near]
    if not len(kx):
        return centre
    strength = power[near]
    xx, yy, xy = float((strength * kx * kx).sum()), float((strength * ky * ky).sum()), float((strength * kx * ky).sum())
    gradient = np.degrees(0.5 * np.arctan2(2 * xy, xx - yy))  # of the gradient, rows down
    lie = gradient + 90
    lie = -((lie + 90) % 180 - 90)
    return float(lie) if abs(lie - centre) < NEAR_DEG else centre


def _weighted_median(values: Array, weights: Array) -> float:
    order = np.argsort(values)
    total = np.cumsum(weights[order])
    return float(values[order][np.searchsorted(total, total[-1] / 2)])
