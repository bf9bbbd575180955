"""Ring angle at an end: the local lie of the rings by a structure tensor, then the pith by weighted least squares.

Each gradient points along a radius; the pith is the point that all radii come nearest to. The angle between rings and the wide
face is good to a degree or two; the distance of a far pith is not.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from grainet.picture.grain import lightness


@dataclass(frozen=True)
class EndGrain:
    """Ring angle in degrees (0 flat, 90 quarter), confidence, and the pith in mm from the picture's upper left (u right, v down)."""

    angle_deg: float
    confidence: float
    pith_mm: tuple[float, float]


def end_grain(image: NDArray[Any], px_per_mm: float) -> EndGrain:
    """The rings of an end picture with the wide faces above and below. Raises ValueError where it is under 8 mm high."""
    import cv2

    rows, columns = image.shape[:2]
    if rows < 8 * px_per_mm or columns < 12 * px_per_mm:
        raise ValueError(f"{columns / px_per_mm:.0f} x {rows / px_per_mm:.0f} mm is too small to read its rings; needs 12 x 8")
    light = lightness(image)
    fine = cv2.GaussianBlur(light, (0, 0), max(0.8, 0.45 * px_per_mm))
    flat = fine - cv2.GaussianBlur(light, (0, 0), 6 * px_per_mm)
    gx, gy = cv2.Sobel(flat, cv2.CV_32F, 1, 0), cv2.Sobel(flat, cv2.CV_32F, 0, 1)
    spread = max(2.0, 2.2 * px_per_mm)
    xx, yy, xy = (cv2.GaussianBlur(a, (0, 0), spread) for a in (gx * gx, gy * gy, gx * gy))
    energy = xx + yy
    sure = np.sqrt((xx - yy) ** 2 + 4 * xy * xy) / np.maximum(energy, 1e-12)
    theta = 0.5 * np.arctan2(2 * xy, xx - yy)  # of the gradient: along a radius
    rim = max(1, round(1.2 * px_per_mm))
    step = max(1, round(px_per_mm))
    inner = (slice(rim, rows - rim, step), slice(rim, columns - rim, step))
    vs, us = np.mgrid[inner]
    weight = (np.minimum(energy, np.percentile(energy, 85)) * sure**2)[inner].ravel().astype(float)
    angle = theta[inner].ravel().astype(float)
    where = np.column_stack([us.ravel(), vs.ravel()]) / px_per_mm
    pith, weight = _pith(where, angle, weight)
    middle = np.array([columns, rows]) / px_per_mm / 2
    toward = pith - middle
    by_pith = np.degrees(np.arctan2(abs(toward[0]), abs(toward[1])))
    # the mean lie counts too: it does not mind a far pith
    cos2, sin2 = np.average(np.cos(2 * angle), weights=weight), np.average(np.sin(2 * angle), weights=weight)
    mean = abs(np.degrees(0.5 * np.arctan2(sin2, cos2)))
    by_mean = 90 - (mean if mean <= 90 else 180 - mean)
    far = np.hypot(*toward) / max(columns / px_per_mm, 1e-9)
    share = float(np.clip((far - 1.0) / 2.0, 0, 1))
    found = float((1 - share) * by_pith + share * by_mean)
    agreement = float(np.hypot(cos2, sin2))
    away = abs(by_pith - by_mean)
    confidence = float(np.clip(0.35 + 0.6 * np.average(sure[inner].ravel(), weights=weight + 1e-12) - away / 60, 0.05, 0.97))
    return EndGrain(
        float(np.clip(found, 0, 90)), round(confidence * (0.7 + 0.3 * agreement), 2), (float(pith[0]), float(pith[1]))
    )


def _pith(where: NDArray[Any], angle: NDArray[Any], weight: NDArray[Any]) -> Any:
    """The point nearest to all radii, reweighted three times so that scratches and knots lose their say."""
    normal = np.column_stack([-np.sin(angle), np.cos(angle)])
    offset = (normal * where).sum(axis=1)
    kept = weight.copy()
    pith = where.mean(axis=0)
    ridge = 1e-4 * kept.sum() / max(1, len(kept)) * len(kept)
    for _ in range(4):
        a = (normal * kept[:, None]).T @ normal + ridge * 1e-3 * np.eye(2)
        b = (normal * kept[:, None]).T @ offset + ridge * 1e-3 * where.mean(axis=0)
        pith = np.linalg.solve(a, b)
        radius = np.maximum(np.hypot(*(where - pith).T), 1.0)
        off = np.abs((normal @ pith - offset) / radius)  # sine of the angle by which a radius misses
        kept = weight / (1 + (off / 0.12) ** 2)
    return pith, kept
