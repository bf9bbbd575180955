"""The outline of what lies on a plain ground, from a picture that is true to scale.

The ground's colour is what most of the picture's rim has; what differs from it is the thing (Otsu's threshold on the difference). Its
contour is read below the pixel where the difference crosses the threshold, and smoothed over less than a millimetre and a half.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from grainet.wood.value import BadEntry, Ring

Image = NDArray[Any]
SMOOTH_MM = 1.2
STEP_MM = 1.5
LEAST_SHARE = 0.02  # of the picture, for the thing that is traced


def silhouette(picture: Image, px_per_mm: float) -> Ring:
    """The rim of the largest thing in a picture, mm from its lower left, counter-clockwise. Raises BadEntry with what stands against it."""
    import cv2

    away = _away_from_ground(picture)
    level, mask = cv2.threshold(away, 0, 255, cv2.THRESH_BINARY + cv2.THRESH_OTSU)
    if level < 8:
        raise BadEntry("Nothing in the picture stands out from its ground; put it on a plain ground of another colour.")
    kernel = np.ones((5, 5), np.uint8)
    mask = cv2.morphologyEx(cv2.morphologyEx(mask, cv2.MORPH_OPEN, kernel), cv2.MORPH_CLOSE, kernel)
    found, _ = cv2.findContours(mask, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
    largest = max(found, key=cv2.contourArea, default=None)
    if largest is None or cv2.contourArea(largest) < LEAST_SHARE * mask.size:
        raise BadEntry("No large thing is seen in the picture; it must fill a good part of it and lie on a plain ground.")
    contour = largest[:, 0, :].astype(float)
    high, wide = mask.shape
    if contour[:, 0].min() <= 0 or contour[:, 1].min() <= 0 or contour[:, 0].max() >= wide - 1 or contour[:, 1].max() >= high - 1:
        raise BadEntry("What is to be traced runs out of the picture; some ground must be seen all around it.")
    points = _smoothed(_below_the_pixel(contour, away.astype(float), float(level)), px_per_mm)
    return tuple((round(float(x) / px_per_mm, 3), round((high - float(y)) / px_per_mm, 3)) for x, y in points)


def _away_from_ground(picture: Image) -> NDArray[np.uint8]:
    """How much each pixel differs from the colour of the picture's rim, 0 to 255."""
    import cv2

    lab = cv2.cvtColor(picture, cv2.COLOR_BGR2LAB).astype(np.float32)
    edge = max(2, min(picture.shape[:2]) // 60)
    rim = np.concatenate(
        [lab[:edge].reshape(-1, 3), lab[-edge:].reshape(-1, 3), lab[:, :edge].reshape(-1, 3), lab[:, -edge:].reshape(-1, 3)]
    )
    off = np.sqrt(((lab - np.median(rim, axis=0)) ** 2).sum(axis=2))
    return np.asarray(cv2.GaussianBlur(np.clip(off * 1.6, 0, 255).astype(np.uint8), (0, 0), 1.0))


def _below_the_pixel(contour: NDArray[Any], away: NDArray[Any], level: float) -> NDArray[Any]:
    """Contour points moved along the slope of the difference to where it crosses the level, by at most a pixel and a half; middles of
    pixels lie at halves."""
    down, across = np.gradient(away)
    x, y = contour[:, 0].astype(int), contour[:, 1].astype(int)
    gx, gy, value = across[y, x], down[y, x], away[y, x]
    steep = gx**2 + gy**2
    by = np.where(steep > 1.0, (level - value) / np.maximum(steep, 1.0), 0.0)
    move = np.stack([by * gx, by * gy], axis=1)
    long = np.hypot(move[:, 0], move[:, 1])
    return np.asarray(contour + 0.5 + move * (np.minimum(1.0, 1.5 / np.maximum(long, 1e-9)))[:, None])


def _smoothed(points: NDArray[Any], px_per_mm: float) -> NDArray[Any]:
    """Even steps along the ring, smoothed a little."""
    closed = np.vstack([points, points[:1]])
    run = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(closed, axis=0).T))])
    count = max(24, int(run[-1] / (0.5 * px_per_mm)))
    at = np.linspace(0, run[-1], count, endpoint=False)
    dense = np.stack([np.interp(at, run, closed[:, k]) for k in (0, 1)], axis=1)
    sigma = SMOOTH_MM * px_per_mm / (run[-1] / count)
    away = np.minimum(np.arange(count), count - np.arange(count))
    kernel = np.exp(-0.5 * (away / max(1e-6, sigma)) ** 2)
    spectrum = np.fft.rfft(kernel / kernel.sum())
    smooth = np.stack([np.fft.irfft(np.fft.rfft(dense[:, k]) * spectrum, count) for k in (0, 1)], axis=1)
    return np.asarray(smooth[:: max(1, int(STEP_MM / 0.5))])
