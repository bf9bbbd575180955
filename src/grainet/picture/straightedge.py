"""Bow from a picture of a straightedge held to a board: the gap under it, from end to end.

The straightedge's lower rim and the wood's upper rim lie close together in the picture, so a bent lens bends both alike and
their distance stays true. The scale is the straightedge's own length.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from grainet.picture.grain import lightness
from grainet.wood.value import BadEntry, Point

Array = NDArray[Any]
UP = 10  # rows looked at above the clicked line


@dataclass(frozen=True)
class Gap:
    """The gap in mm at places along the straightedge (mm), its greatest value and how sure the reading is."""

    at_mm: Array
    gap_mm: Array
    bow_mm: float
    confidence: float


def winding_angle(near: tuple[Point, Point], far: tuple[Point, Point]) -> float:
    """The twist between two winding sticks in degrees, from the clicked ends of the near one and the far one.

    Sighted along the board, the sticks' upper rims lie apart by the twist over their distance. Raises BadEntry where a stick is
    too short in the picture to tell a tenth of a degree.
    """
    angles = []
    for name, ((ax, ay), (bx, by)) in (("near", near), ("far", far)):
        if (reach := float(np.hypot(bx - ax, by - ay))) < 150:
            raise BadEntry(f"The {name} stick is {reach:.0f} pixels long; at least 150 to tell a twist.")
        angles.append(np.degrees(np.arctan2(by - ay, bx - ax)))
    return float((angles[1] - angles[0] + 90) % 180 - 90)


def gap_under(image: NDArray[Any], left_px: tuple[float, float], right_px: tuple[float, float], length_mm: float) -> Gap:
    """The gap between a straightedge's lower rim, clicked at both its ends, and the wood under it.

    Raises BadEntry where the two clicks are too near each other or no wood is found beneath.
    """
    import cv2

    (ax, ay), (bx, by) = left_px, right_px
    reach = float(np.hypot(bx - ax, by - ay))
    if reach < 80:
        raise BadEntry(f"The two ends are {reach:.0f} pixels apart; needs the straightedge's own ends, at least 80.")
    scale = length_mm / reach
    deep = int(max(40, min(0.1 * reach, 45 / scale)))
    columns = int(reach)
    along = np.linspace(0, 1, columns)
    nx, ny = -(by - ay) / reach, (bx - ax) / reach  # down from the straightedge
    depth = np.arange(-UP, deep)
    xs = (ax + (bx - ax) * along)[None, :] + nx * depth[:, None]
    ys = (ay + (by - ay) * along)[None, :] + ny * depth[:, None]
    strip = cv2.remap(image, xs.astype(np.float32), ys.astype(np.float32), cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    rim = _rim(strip)
    top = _wood_top(strip, rim)
    gap = _steady(np.maximum(top - rim, 0.0) * scale)
    inner = slice(columns // 50, -(columns // 50) or None)
    u, g = along[inner], gap[inner]
    curve = np.polyfit(u, g, 4)
    rough = float(np.std(g - np.polyval(curve, u)))
    first, last = np.polyval(curve, [0.0, 1.0])
    smooth = np.polyval(curve, along) - (first + (last - first) * along)  # against the chord between the two ends
    bow = float(max(smooth.max(), -smooth.min()))
    return Gap(u * length_mm, g, bow, round(float(np.clip(1 - rough / max(0.4, bow), 0.1, 0.97)), 2))


def _rim(strip: NDArray[Any]) -> Array:
    """The straightedge's lower rim near the clicked line: the strongest step there, as a gentle curve (a bent lens bends it)."""
    import cv2

    light = cv2.GaussianBlur(lightness(strip), (0, 0), sigmaX=5, sigmaY=0.8)
    step = np.abs(light[2 : 2 * UP] - light[: 2 * UP - 2])
    best = step.argmax(axis=0) + 1.0
    k = best.astype(int) - 1
    columns = np.arange(step.shape[1])
    low, mid, high = step[np.maximum(k - 1, 0), columns], step[k, columns], step[np.minimum(k + 1, len(step) - 1), columns]
    best += np.clip(0.5 * (low - high) / np.minimum(low - 2 * mid + high, -1e-6), -0.5, 0.5)
    x = np.linspace(-1, 1, len(best))
    weight = mid.copy()
    for _ in range(4):
        curve = np.polyval(np.polyfit(x, best, 3, w=weight + 1e-6), x)
        weight = mid / (1 + ((best - curve) / 1.0) ** 2)
    return np.asarray(curve)


def _wood_top(strip: NDArray[Any], rim: Array) -> Array:
    """Where wood begins in each column, by its colour: the split below the rim that parts wood from what is not."""
    import cv2

    lab = cv2.cvtColor(cv2.GaussianBlur(strip, (0, 0), sigmaX=2.5, sigmaY=0.6), cv2.COLOR_RGB2LAB).astype(np.float32)
    shade = cv2.blur(lab[..., :1], (max(3, strip.shape[1] // 8), 1))[-8:].mean(axis=0)  # light is uneven along the board
    lab[..., 0] = (lab[..., 0] - shade.reshape(1, -1)) * 0.7
    sample = lab[-(len(lab) // 4) :].reshape(-1, 3)
    pick = sample[:: max(1, len(sample) // 3000)]
    cv2.setRNGSeed(7)
    _, _, centres = cv2.kmeans(
        pick, 3, None, (cv2.TERM_CRITERIA_EPS + cv2.TERM_CRITERIA_MAX_ITER, 20, 0.5), 2, cv2.KMEANS_PP_CENTERS
    )  # type: ignore[call-overload]
    far = np.min([np.sqrt(((lab - c) ** 2).sum(axis=-1)) for c in centres], axis=0)
    limit = float(np.percentile(far[-(len(far) // 4) :], 90)) + 2.0
    score = np.clip(far - limit, -12, 12)
    rows = np.arange(len(score))[:, None]
    below = rows >= np.ceil(rim)[None, :]
    total = np.cumsum(np.where(below, score, 0.0), axis=0)
    best = total.argmax(axis=0)
    top = np.where(total.max(axis=0) > 0, best + 1.0, np.ceil(rim))
    seen = total.max(axis=0) > 0
    if seen.mean() < 0.15:
        raise BadEntry("No gap is seen under the straightedge; light it from behind and click the lower rim's two ends.")
    # the row in which the colour passes the limit, to a fraction
    k = np.clip(top.astype(int), 1, len(far) - 1)
    columns = np.arange(far.shape[1])
    above, under = far[k - 1, columns], far[k, columns]
    top = np.where(seen, k - 0.5 + np.clip((above - limit) / np.maximum(above - under, 1e-3), 0, 1) - 0.5, rim)
    return np.asarray(top)


def _steady(values: Array) -> Array:
    from scipy.ndimage import median_filter

    known = np.flatnonzero(~np.isnan(values))
    filled = np.interp(np.arange(len(values)), known, values[known])
    return median_filter(filled, max(3, len(values) // 60) | 1, mode="nearest")  # type: ignore[no-any-return]
