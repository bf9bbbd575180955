"""Where a board probably lies in a photo: four corners to begin clicking from, by its colour against the picture's rim."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

WORK_PX = 480


def board_quad(image: NDArray[Any]) -> tuple[tuple[float, float], ...] | None:
    """Four corners in px, clockwise from the upper left; None where nothing stands out from the rim."""
    import cv2

    scale = WORK_PX / max(image.shape[:2])
    small = cv2.resize(image, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
    lab = cv2.cvtColor(cv2.GaussianBlur(small, (0, 0), 2), cv2.COLOR_RGB2LAB).astype(np.float32)
    rim = max(3, min(lab.shape[:2]) // 40)
    edge = np.concatenate([a.reshape(-1, 3) for a in (lab[:rim], lab[-rim:], lab[:, :rim], lab[:, -rim:])])
    cv2.setRNGSeed(7)
    _, _, centres = cv2.kmeans(
        edge[::3], 2, None, (cv2.TERM_CRITERIA_EPS + cv2.TERM_CRITERIA_MAX_ITER, 20, 0.5), 2, cv2.KMEANS_PP_CENTERS
    )  # type: ignore[call-overload]
    weights = np.array([0.5, 1.2, 1.2], np.float32)
    far = np.min([np.sqrt((((lab - c) * weights) ** 2).sum(axis=-1)) for c in centres], axis=0)
    level, mask = cv2.threshold(np.clip(far * 4, 0, 255).astype(np.uint8), 0, 1, cv2.THRESH_BINARY + cv2.THRESH_OTSU)
    if level / 4 < 5:
        return None
    mask = cv2.morphologyEx(mask, cv2.MORPH_CLOSE, np.ones((9, 9), np.uint8))
    outlines, _ = cv2.findContours(mask, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_SIMPLE)
    if not outlines:
        return None
    hull = cv2.convexHull(max(outlines, key=cv2.contourArea))
    if cv2.contourArea(hull) < 0.04 * mask.size:
        return None
    corners = _four(hull)
    return tuple((float(x) / scale, float(y) / scale) for x, y in _clockwise(corners))


def _four(hull: NDArray[Any]) -> NDArray[Any]:
    """The hull's four corners: by simplifying it until four are left, else its least rectangle."""
    import cv2

    length = cv2.arcLength(hull, closed=True)
    for share in np.linspace(0.01, 0.12, 23):
        found = cv2.approxPolyDP(hull, share * length, closed=True)
        if len(found) == 4:
            return found.reshape(4, 2).astype(float)
    return np.asarray(cv2.boxPoints(cv2.minAreaRect(hull)), float)


def _clockwise(corners: NDArray[Any]) -> NDArray[Any]:
    """From the corner nearest the upper left, going round by the upper right."""
    middle = corners.mean(axis=0)
    order = np.argsort(np.arctan2(corners[:, 1] - middle[1], corners[:, 0] - middle[0]))
    turned = corners[order]
    return np.roll(turned, -int(np.argmin(turned.sum(axis=1))), axis=0)
