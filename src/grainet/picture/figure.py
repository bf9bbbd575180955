"""Figure on a face seen square on: how strong, how long the waves, how far off square, and where, from the light along 4 mm rows.

It is called figured only where the band of 5 to 30 mm holds most of the energy along the grain and its peak lies inside the
band; ray fleck and blotches do neither.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from grainet.picture.grain import lightness

WAVES_MM = (5.0, 30.0)
ROW_MM = 4.0
ROWS_AGREE = 0.5  # flecks of quartered wood come near a half where the picture is coarse
FULL_CONTRAST = 0.16  # relative change of light that counts as strength 1


@dataclass(frozen=True)
class Figured:
    """One answer: whether figured, strength 0..1, wavelength in mm, bands' angle off square in degrees, confidence, extent in mm."""

    figured: bool
    strength: float
    wavelength_mm: float
    angle_deg: float
    confidence: float
    extent_mm: tuple[float, float, float, float]  # u0, v0, u1, v1 from the picture's lower left


def figure_of(image: NDArray[Any], px_per_mm: float) -> Figured:
    """What figure a face picture shows (row 0 at the far edge)."""
    rows = _rows(lightness(image), px_per_mm)
    _count, length = rows.shape
    spacing = 1 / px_per_mm
    window = np.hanning(length)
    spectrum = np.fft.rfft(rows * window, axis=1)
    power = np.abs(spectrum) ** 2
    freq = np.fft.rfftfreq(length, spacing)
    band = (freq >= 1 / WAVES_MM[1]) & (freq <= 1 / WAVES_MM[0])
    wide = (freq >= 1 / 120) & (freq <= 0.5)
    mean = np.median(power, axis=0) + 0.25 * power.mean(axis=0)
    smooth = np.convolve(mean, np.hanning(9) / np.hanning(9).sum(), "same")
    share = float(mean[band].sum() / max(mean[wide].sum(), 1e-12))
    peak = int(np.flatnonzero(band)[np.argmax(smooth[band])]) if band.any() else 0
    inside = 1 / WAVES_MM[1] * 1.12 < freq[peak] < 1 / WAVES_MM[0] * 0.9
    around = smooth[peak] / max(float(np.median(smooth[wide])), 1e-12)
    agree = _rows_agree(spectrum, peak)
    amplitude = _amplitude(rows, freq, peak, spacing)
    figured = bool(share > 0.5 and inside and around > 4 and amplitude > 0.012 and agree > ROWS_AGREE)
    angle = _angle(spectrum, freq, peak) if figured else 0.0
    confidence = (
        float(np.clip((share - 0.45) * 2.0, 0, 0.6) + np.clip((agree - 0.3) * 0.6, 0, 0.38))
        if figured
        else float(np.clip(1 - share, 0.1, 0.9))
    )
    extent = _extent(rows, freq, peak, px_per_mm, image.shape) if figured else (0.0, 0.0, 0.0, 0.0)
    strength = float(np.clip(amplitude / FULL_CONTRAST, 0, 1)) if figured else 0.0
    return Figured(figured, round(strength, 3), float(1 / freq[peak]) if figured else 0.0, angle, round(confidence, 2), extent)


def _rows(light: NDArray[Any], px_per_mm: float) -> NDArray[Any]:
    """Relative light along the grain of rows 4 mm wide: shape (rows, columns), mean 0, slow changes taken out."""
    import cv2

    step = max(1, round(ROW_MM * px_per_mm))
    count = max(1, light.shape[0] // step)
    rows = light[: count * step].reshape(count, -1, light.shape[1]).mean(axis=1)
    slow = cv2.GaussianBlur(rows, (0, 0), sigmaX=22 * px_per_mm, sigmaY=0.01)
    relative = rows / np.maximum(slow, 0.02) - 1
    limit = 3.5 * np.median(np.abs(relative)) + 1e-6
    return np.asarray(np.clip(relative, -limit, limit).astype(float))  # knots and cracks must not ring through the spectrum


def _rows_agree(spectrum: NDArray[Any], peak: int) -> float:
    """How well neighbouring rows wave together about the peak, 0 to 1: figure goes on across rows, flecks and noise do not."""
    lobe = spectrum[:, max(1, peak - 6) : peak + 7]
    if len(lobe) < 2:
        return 0.0
    cross = np.abs((lobe[1:] * lobe[:-1].conj()).sum(axis=1))
    size = np.sqrt((np.abs(lobe[1:]) ** 2).sum(axis=1) * (np.abs(lobe[:-1]) ** 2).sum(axis=1))
    return float(np.median(cross / np.maximum(size, 1e-12)))


def _amplitude(rows: NDArray[Any], freq: NDArray[Any], peak: int, spacing: float) -> float:
    """Half the swing of the waves near the peak, as a share of the light."""
    spectrum = np.fft.rfft(rows, axis=1)
    keep = (freq > freq[peak] * 0.55) & (freq < freq[peak] * 1.7)
    waves = np.fft.irfft(spectrum * keep, n=rows.shape[1], axis=1)
    return float(np.sqrt(2) * np.median(waves.std(axis=1)))


def _angle(spectrum: NDArray[Any], freq: NDArray[Any], peak: int) -> float:
    """How the bands lean off square, from the phase that they gain from row to row."""
    lobe = spectrum[:, max(1, peak - 6) : peak + 7]
    gain = np.angle((lobe[1:] * lobe[:-1].conj()).sum()) if len(lobe) > 1 else 0.0
    shift_mm = -gain / (2 * np.pi * freq[peak])  # along x per row downward
    return float(np.degrees(np.arctan2(-shift_mm, ROW_MM)))


def _extent(
    rows: NDArray[Any], freq: NDArray[Any], peak: int, px_per_mm: float, shape: tuple[int, ...]
) -> tuple[float, float, float, float]:
    """The stretch of the length over which the waves keep at least two fifths of their best swing."""
    import cv2

    keep = (freq > freq[peak] * 0.55) & (freq < freq[peak] * 1.7)
    waves = np.fft.irfft(np.fft.rfft(rows, axis=1) * keep, n=rows.shape[1], axis=1)
    swing = np.sqrt(cv2.GaussianBlur((waves**2).mean(axis=0, keepdims=True), (0, 0), sigmaX=30 * px_per_mm, sigmaY=0.01))[0]
    strong = np.flatnonzero(swing > 0.4 * np.percentile(swing, 90))
    return float(strong[0] / px_per_mm), 0.0, float((strong[-1] + 1) / px_per_mm), float(shape[0] / px_per_mm)
