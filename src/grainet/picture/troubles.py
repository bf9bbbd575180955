"""Troubles that a face picture suggests: knots, cracks, dark stains round metal. Suggestions only: a person keeps or drops each.

Knots are dark, round, and the grain bends about them; cracks are thin, long and dark along the grain; iron stains are grey-black
and drawn out along it. Dark streaks look like cracks and stains, pale knots are missed: the confidence says how sure it is.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from grainet.picture.grain import lightness

CRACK_STEP = 0.08  # how much darker a crack is than the wood beside it, as a share


@dataclass(frozen=True)
class Spot:
    """One suggested trouble: its kind, outline (mm, from the picture's lower left) and confidence."""

    kind: str
    ring: tuple[tuple[float, float], ...]
    confidence: float


def troubles_of(image: NDArray[Any], px_per_mm: float, most: int = 30) -> list[Spot]:
    """Suggested troubles of a face picture (row 0 at the far edge), the surest first."""
    light = lightness(image)
    found = [*_blobs(image, light, px_per_mm), *_cracks(light, px_per_mm)]
    kept: list[Spot] = []
    for spot in sorted(found, key=lambda s: -s.confidence):
        if all(_apart(spot, other) for other in kept):
            kept.append(spot)
    return kept[:most]


def _relative(light: NDArray[Any], px_per_mm: float) -> NDArray[Any]:
    """Darkness against the wood about it, in units of its own spread; a column's and a row's usual tone is taken out first."""
    import cv2

    around = cv2.blur(light, (max(3, round(160 * px_per_mm)), max(3, round(5 * px_per_mm))))  # along the grain: streaks fade
    dark = (around - light) / (around + 0.08)
    spread = np.median(np.abs(dark)) * 1.48 + 0.012
    return np.asarray((dark / spread).astype(np.float32))


def _blobs(image: NDArray[Any], light: NDArray[Any], px_per_mm: float) -> list[Spot]:
    import cv2

    dark = cv2.GaussianBlur(_relative(light, px_per_mm), (0, 0), 1.6 * px_per_mm)
    mask: Any = (dark > 1.25).astype(np.uint8)
    reach = max(3, round(4 * px_per_mm)) | 1
    mask = cv2.morphologyEx(
        mask, cv2.MORPH_OPEN, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (max(3, round(3 * px_per_mm)) | 1,) * 2)
    )
    mask = cv2.morphologyEx(mask, cv2.MORPH_CLOSE, cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (reach, reach)))
    bend = _bend(light, px_per_mm)
    count, labels, stats, centres = cv2.connectedComponentsWithStats(mask)
    found = []
    rows = image.shape[0]
    for k in range(1, count):
        x, y, w, h, area = (int(v) for v in stats[k])
        wide, high = w / px_per_mm, h / px_per_mm
        if high < 4.5 or wide < 5 or high > 120 or wide > 200 or area < 0.42 * w * h:
            continue
        inside = labels[y : y + h, x : x + w] == k
        depth = float(dark[y : y + h, x : x + w][inside].mean())
        stretch = wide / high
        grey = _greyness(image[y : y + h, x : x + w], inside)
        contours, _ = cv2.findContours(inside.astype(np.uint8), cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_SIMPLE)
        hull = max(contours, key=cv2.contourArea)
        solid = cv2.contourArea(hull) / max(1.0, cv2.contourArea(cv2.convexHull(hull)))
        turned = float(bend[max(0, y - h // 2) : y + h + h // 2, max(0, x - w // 2) : x + w + w // 2].mean())
        if grey > 0.62 and depth > 2.2 and stretch > 1.2:
            kind, sure = "stain", 0.35 + 0.12 * min(depth, 4) + 0.2 * (grey - 0.5)
        elif stretch < 3.2 and solid > 0.72 and (depth > 1.7 or turned > 0.16):
            kind = "knot"
            sure = (
                0.15
                + 0.1 * min(depth, 4.5)
                + 0.22 * min(1.0, turned / 0.3)
                + 0.2 * (solid - 0.7)
                - 0.06 * max(0.0, stretch - 1.8)
            )
        else:
            continue
        cx, cy = float(centres[k][0]) / px_per_mm, (rows - float(centres[k][1])) / px_per_mm
        ring = _oval(cx, cy, wide / 2 * 1.08, high / 2 * 1.08)
        found.append(Spot(kind, ring, float(np.clip(sure, 0.05, 0.95))))
    return [s for s in found if s.confidence >= 0.4]


def _bend(light: NDArray[Any], px_per_mm: float) -> NDArray[Any]:
    """How far the lie of the lines turns away from the length, 0..1, smoothed: high about knots."""
    import cv2

    fine = cv2.GaussianBlur(light, (0, 0), 0.8 * px_per_mm)
    gx, gy = cv2.Sobel(fine, cv2.CV_32F, 1, 0), cv2.Sobel(fine, cv2.CV_32F, 0, 1)
    spread = 3 * px_per_mm
    xx, yy, xy = (cv2.GaussianBlur(a, (0, 0), spread) for a in (gx * gx, gy * gy, gx * gy))
    lie = 0.5 * np.arctan2(2 * xy, xx - yy)
    sure = np.sqrt((xx - yy) ** 2 + 4 * xy**2) / np.maximum(xx + yy, 1e-9)
    return np.asarray(cv2.GaussianBlur((np.cos(lie) ** 2 * sure).astype(np.float32), (0, 0), spread))


def _greyness(patch: NDArray[Any], inside: NDArray[Any]) -> float:
    """1 for a neutral black, 0 for the brown of wood."""
    pixels = patch[inside].astype(float)
    strong = pixels[pixels.sum(axis=1) <= np.percentile(pixels.sum(axis=1), 45)]
    top = strong.max(axis=1)
    return float(1 - np.mean((top - strong.min(axis=1)) / np.maximum(top, 20)))


def _cracks(light: NDArray[Any], px_per_mm: float) -> list[Spot]:
    """Thin dark lines along the grain: darker than the wood a few millimetres above and below, for at least 45 mm."""
    import cv2

    long = cv2.blur(light, (max(3, round(9 * px_per_mm)), 1))
    gap = max(2, round(2.6 * px_per_mm))
    above, below = np.roll(long, gap, axis=0), np.roll(long, -gap, axis=0)
    ridge = (np.minimum(above, below) - long) / (np.maximum(above, below) + 0.08)  # as a share: light is uneven
    ridge[:gap], ridge[-gap:] = 0, 0
    spread = np.median(np.abs(ridge)) * 1.48 + 0.004
    strong = (ridge > max(CRACK_STEP, 3.4 * spread)).astype(np.uint8)
    strong = cv2.morphologyEx(
        strong, cv2.MORPH_CLOSE, np.ones((max(1, round(2.5 * px_per_mm)), max(3, round(14 * px_per_mm))), np.uint8)
    )
    count, labels, stats, _ = cv2.connectedComponentsWithStats(strong)
    rows = light.shape[0]
    found = []
    for k in range(1, count):
        x, y, w, h, _area = (int(v) for v in stats[k])
        wide, high = w / px_per_mm, h / px_per_mm
        if wide < 45 or high > 0.4 * wide:
            continue
        inside = labels[y : y + h, x : x + w] == k
        depth = float(ridge[y : y + h, x : x + w][inside].mean())
        sure = float(np.clip(0.3 + 1.6 * (depth - CRACK_STEP) + 0.15 * min(1.0, wide / 150), 0.05, 0.95))
        if sure < 0.4:
            continue
        found.append(Spot("crack", _along(inside, x, y, rows, px_per_mm), sure))
    return found


def _along(inside: NDArray[Any], x: int, y: int, rows: int, px_per_mm: float) -> tuple[tuple[float, float], ...]:
    """A narrow ring about a crack's middle line."""
    columns = np.flatnonzero(inside.any(axis=0))
    picks = np.unique(np.linspace(columns[0], columns[-1], 6).astype(int))
    picks = picks[inside[:, picks].any(axis=0)]
    middle = [float(np.flatnonzero(inside[:, c]).mean()) for c in picks]
    line = [((x + c + 0.5) / px_per_mm, (rows - y - m - 0.5) / px_per_mm) for c, m in zip(picks, middle)]
    lower, upper = [(round(a, 1), round(b - 1.2, 1)) for a, b in line], [(round(a, 1), round(b + 1.2, 1)) for a, b in line]
    return (*lower, *reversed(upper))


def _oval(cx: float, cy: float, a: float, b: float) -> tuple[tuple[float, float], ...]:
    t = np.linspace(0, 2 * np.pi, 13)[:-1]
    return tuple((round(cx + a * float(np.cos(s)), 1), round(cy + b * float(np.sin(s)), 1)) for s in t)


def _apart(a: Spot, b: Spot) -> bool:
    ax, ay = zip(*a.ring)
    bx, by = zip(*b.ring)
    return bool(max(ax) < min(bx) or max(bx) < min(ax) or max(ay) < min(by) or max(by) < min(ay))
