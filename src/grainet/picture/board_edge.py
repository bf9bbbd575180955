"""The live edges of a board in a picture made true: where wood ends and bench begins, column by column.

Bench colours are learnt from the picture's rim, wood colours (heart, sap, dark streaks) from its middle; each column's two edges
are where the two sorts part best, and a median along the board drops what single columns get wrong.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray


@dataclass(frozen=True)
class BoardEdges:
    """Places along the board (mm) and its two edges there (mm up from the picture's lower rim); confidence 0 to 1."""

    u_mm: NDArray[Any]
    near_mm: NDArray[Any]
    far_mm: NDArray[Any]
    confidence: float

    def readings(self, count: int) -> tuple[tuple[float, float, float], ...]:
        """``count`` evenly spaced (u, near, far), as edge readings."""
        at = np.linspace(self.u_mm[0], self.u_mm[-1], count)
        near, far = np.interp(at, self.u_mm, self.near_mm), np.interp(at, self.u_mm, self.far_mm)
        return tuple((round(float(u), 1), round(float(n), 1), round(float(f), 1)) for u, n, f in zip(at, near, far))


def board_edges(image: NDArray[Any], px_per_mm: float, rim_px: int | None = None) -> BoardEdges | None:
    """The edges of the wood in a picture whose upper and lower rims show bench; None where bench and wood cannot be told apart."""
    import cv2

    rows, columns = image.shape[:2]
    rim = rim_px or max(3, rows // 24)
    even = _evenly_lit(image, rim)
    lab = cv2.cvtColor(cv2.GaussianBlur(even, (0, 0), max(0.8, 0.6 * px_per_mm)), cv2.COLOR_RGB2LAB).astype(np.float32)
    bench = np.concatenate([lab[:rim].reshape(-1, 3), lab[-rim:].reshape(-1, 3)])
    third = slice(rows // 2 - rows // 10, rows // 2 + rows // 10 + 1)
    wood = lab[third].reshape(-1, 3)
    off = np.minimum(_distance(lab, wood, 4), 60.0) - np.minimum(_distance(lab, bench, 2), 60.0)  # over 0: bench
    separation = float(np.mean(off[:rim]) + np.mean(off[-rim:]) - 2 * np.mean(off[third])) / 2
    if separation < 4.0:
        return None
    score = cv2.blur(off, (max(1, round(3 * px_per_mm)), 1))
    # the far edge: bench above it and wood below it; the best split of the upper half, and the same from below
    middle = rows // 2
    far_row = np.argmax(np.cumsum(score[:middle], axis=0), axis=0) + 1.0
    near_row = rows - (np.argmax(np.cumsum(score[: middle - 1 : -1], axis=0), axis=0) + 1.0)
    width = max(3, round(7 * px_per_mm)) | 1
    far_row, near_row = _steadied(far_row, width), _steadied(near_row, width)
    u = (np.arange(columns) + 0.5) / px_per_mm
    wobble = float(np.median(np.abs(np.diff(far_row))) + np.median(np.abs(np.diff(near_row))))
    confidence = float(np.clip(separation / 30, 0.1, 0.97)) * float(np.clip(1 - wobble / 6, 0.3, 1))
    return BoardEdges(u, (rows - near_row) / px_per_mm, (rows - far_row) / px_per_mm, round(confidence, 2))


def _evenly_lit(image: NDArray[Any], rim: int) -> NDArray[Any]:
    """The picture as if its light were even: the bench along its two rims shows how the light falls, and is divided out."""
    import cv2

    light = image.astype(np.float32).mean(axis=2)
    upper, lower = (
        cv2.GaussianBlur(np.median(part, axis=0, keepdims=True), (0, 0), sigmaX=image.shape[1] / 16, sigmaY=0.01)
        for part in (light[:rim], light[-rim:])
    )
    down = np.linspace(0, 1, image.shape[0], dtype=np.float32)[:, None]
    shade = upper * (1 - down) + lower * down
    gain = np.clip(shade.mean() / np.maximum(shade, 4.0), 0.3, 4.0)
    return np.asarray(np.clip(image * gain[..., None], 0, 255).astype(np.uint8))


def _distance(lab: NDArray[Any], sample: NDArray[Any], sorts: int) -> NDArray[Any]:
    """Distance in colour to the nearest of a few sorts found in a sample, light counting half since it is uneven."""
    import cv2

    weights = np.array([0.5, 1.2, 1.2], np.float32)
    pick = sample[:: max(1, len(sample) // 4000)] * weights
    stop = (cv2.TERM_CRITERIA_EPS + cv2.TERM_CRITERIA_MAX_ITER, 20, 0.5)
    cv2.setRNGSeed(7)
    _, _, centres = cv2.kmeans(pick.astype(np.float32), sorts, None, stop, 2, cv2.KMEANS_PP_CENTERS)  # type: ignore[call-overload]
    scaled = lab * weights
    return np.min([np.sqrt(((scaled - c) ** 2).sum(axis=-1)) for c in centres], axis=0)  # type: ignore[no-any-return]


def _steadied(rows: NDArray[Any], width: int) -> NDArray[Any]:
    from scipy.ndimage import median_filter, uniform_filter1d

    return np.asarray(
        uniform_filter1d(median_filter(rows.astype(float), width, mode="nearest"), max(1, width // 3), mode="nearest")
    )
