"""Making a photo true: from clicked points with known places to a map between pixels and millimetres on the wood.

Four points fix a plane's perspective exactly and say nothing of the lens; further points (places on a tape, or just "on this
straight edge") fit one lens term and show how well all of it agrees. Least squares in millimetres.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from grainet.picture.lens import bend, unbend
from grainet.wood.photo import TruePoint
from grainet.wood.value import BadEntry

Array = NDArray[Any]
LIKELY_LENS = 0.07  # a phone's wide lens bends as much as this; what four points alone cannot see
LEAST_EXTRA_FOR_LENS = 2
CLICK_PX = 1.0  # how far off a click is taken to be; more where the points do not agree to that
SURE = 1.7  # so many times the spread of a place is its doubt: over a board's worst place 19 of 20 pictures keep within it


@dataclass(frozen=True)
class TrueMap:
    """Pixels to millimetres and back. ``plane`` is the 3x3 map from unbent pixels (in units of ``scale``) to mm."""

    plane: Array
    lens: float
    size: tuple[int, int]
    miss_mm: float
    doubt_mm: float

    def to_mm(self, px: Array) -> Array:
        """Pixels, shape (n, 2), to mm on the side."""
        return _project(self.plane, unbend(np.asarray(px, float), self.lens, self.size))

    def to_px(self, mm: Array) -> Array:
        """Places in mm, shape (n, 2), to pixels."""
        return bend(_project(np.linalg.inv(self.plane), np.asarray(mm, float)), self.lens, self.size)


def _project(matrix: Array, points: Array) -> Array:
    lifted = points @ matrix[:, :2].T + matrix[:, 2]
    return np.asarray(lifted[..., :2] / lifted[..., 2:])


def fit(points: Sequence[TruePoint], size: tuple[int, int]) -> TrueMap:
    """The map that the points describe. Raises BadEntry where they do not fix one.

    Points with both places known count twice (u and v); a point whose ``u_mm`` is None counts only across the side.
    """
    whole = [p for p in points if p.u_mm is not None]
    if len(whole) < 4:
        raise BadEntry(f"{len(whole)} points with known places; needs the four corners at least.")
    px = np.array([(p.px, p.py) for p in points], float)
    u = np.array([np.nan if p.u_mm is None else p.u_mm for p in points])
    v = np.array([p.v_mm for p in points], float)
    known = ~np.isnan(u)
    start = _plane(px[known][:4], np.column_stack([u, v])[known][:4])
    rest = len(points) - 4
    if rest == 0:
        return TrueMap(start, 0.0, size, 0.0, _doubt(px, np.column_stack([u, v]), size))
    with_lens = rest >= LEAST_EXTRA_FOR_LENS
    plane, lens, moved = _refined(start, px, u, v, size, with_lens=with_lens)
    found = _project(plane, unbend(px, lens, size))
    off_u, off_v = np.where(known, found[:, 0] - np.nan_to_num(u), 0.0), found[:, 1] - v
    miss = float(np.hypot(off_u, off_v).max())
    doubt = SURE * moved
    if not with_lens:
        doubt = max(doubt, _doubt(px[known][:4], np.column_stack([u, v])[known][:4], size))
    return TrueMap(plane, lens, size, miss, max(doubt, miss))


def _plane(px: Array, mm: Array) -> Array:
    """The perspective of four points, px to mm. Raises BadEntry where three of them lie on a line or two coincide."""
    for a, b, c in ((0, 1, 2), (1, 2, 3), (2, 3, 0), (3, 0, 1)):
        for where in (px, mm):
            (ax, ay), (bx, by) = where[b] - where[a], where[c] - where[a]
            if abs(ax * by - ay * bx) < 1e-6 * max(1.0, float(np.ptp(where))) ** 2:
                raise BadEntry(f"Points {a + 1}, {b + 1} and {c + 1} lie on one line; the four corners must stand apart.")
    rows, right = [], []
    for (x, y), (u, v) in zip(px, mm):
        rows += [[x, y, 1, 0, 0, 0, -u * x, -u * y], [0, 0, 0, x, y, 1, -v * x, -v * y]]
        right += [u, v]
    try:
        h = np.linalg.solve(np.array(rows), np.array(right))
    except np.linalg.LinAlgError:
        raise BadEntry("The four corners do not fix a plane; click each where it is.") from None
    plane = np.append(h, 1.0).reshape(3, 3)
    depth = px @ plane[2, :2] + plane[2, 2]
    if (depth > 0).any() and (depth < 0).any():
        raise BadEntry("The four corners cross over; go round the board: 1 to 2 along it, 2 to 3 across.")
    return plane


def _refined(
    start: Array, px: Array, u: Array, v: Array, size: tuple[int, int], *, with_lens: bool
) -> tuple[Array, float, float]:
    """The plane and lens nearest to all points, and how far the least certain place on the board is spread, in mm, by their clicks."""
    from scipy.optimize import least_squares

    known = ~np.isnan(u)
    base = start.ravel()[:8]
    scale = np.maximum(np.abs(base), 1e-6)

    def places(p: Array, at: Array) -> Array:
        plane = np.append(p[:8] * scale, 1.0).reshape(3, 3)
        return _project(plane, unbend(at, float(p[8]) if with_lens else 0.0, size))

    def off(p: Array, at: Array) -> Array:
        found = places(p, at)
        # a mild pull of the lens toward 0 keeps it quiet where the points cannot tell it
        pull = [0.3 * p[8] / LIKELY_LENS * 0.1] if with_lens else []
        return np.concatenate([(found[:, 0] - u)[known], found[:, 1] - v, pull])

    first = np.append(base / scale, 0.0 if with_lens else [])
    found = least_squares(off, first, x_scale=1.0, max_nfev=400, args=(px,))
    lens = float(np.clip(found.x[8], -0.5, 0.5)) if with_lens else 0.0
    plane = np.append(found.x[:8] * scale, 1.0).reshape(3, 3)
    corners = np.column_stack([u, v])[known][:4]
    grid = bend(_project(np.linalg.inv(plane), _over(corners)), lens, size)
    fitted = _steps(lambda p: places(p, grid), found.x, 1e-6)
    clicks = _steps(lambda c: off(found.x, c.reshape(px.shape)), px.ravel(), 0.05)
    turned = np.linalg.lstsq(found.jac, clicks, rcond=None)[0]
    spread = np.hypot(*np.sqrt(((fitted.reshape(-1, len(found.x)) @ turned) ** 2).sum(axis=1)).reshape(-1, 2).T)
    told = np.sqrt(float((found.fun**2).sum()) / max(1, len(found.fun) - len(found.x)))
    one_px = float(np.median(np.sqrt((clicks**2).sum(axis=1))[: len(found.fun)]))
    return plane, lens, float(spread.max()) * max(CLICK_PX, told / max(one_px, 1e-9))


def _steps(what: Any, at: Array, step: float) -> Array:
    """How each figure of ``what`` changes with each entry of ``at``: shape (figures, entries)."""
    changed = []
    for k in range(len(at)):
        moved = np.zeros(len(at))
        moved[k] = step
        changed.append((what(at + moved) - what(at - moved)).ravel() / (2 * step))
    return np.array(changed).T


def _over(corners: Array) -> Array:
    """Places all over the board between its four corners, shape (n, 2)."""
    a, b = (g.ravel()[:, None] for g in np.meshgrid(np.linspace(0, 1, 9), np.linspace(0, 1, 5)))
    first, second, third, fourth = corners
    return np.asarray((first * (1 - a) + second * a) * (1 - b) + (fourth * (1 - a) + third * a) * b)


def _doubt(px: Array, mm: Array, size: tuple[int, int]) -> float:
    """How far places may be off with four points, were the lens as bent as a phone's and the clicks not quite right: the worst place."""
    corners = mm[:4]
    grid = _over(corners)
    pixels = _project(np.linalg.inv(_plane(px[:4], corners)), grid)

    def seen(clicks: Array, k: float) -> Array:
        bent = _plane(unbend(clicks.reshape(4, 2), k, size), corners)
        return np.asarray(_project(bent, unbend(pixels, k, size)) - grid)

    lens = max(float(np.hypot(*seen(px[:4], k).T).max()) for k in (-LIKELY_LENS, LIKELY_LENS))
    clicks = _steps(lambda c: seen(c, 0.0), px[:4].ravel(), 0.5)
    spread = np.hypot(*np.sqrt((clicks**2).sum(axis=1)).reshape(-1, 2).T)
    return float(lens + SURE * CLICK_PX * spread.max())


def warp(
    photo: NDArray[Any], true: TrueMap, rect: tuple[float, float, float, float], px_per_mm: float, *, up: bool = True
) -> NDArray[Any]:
    """The side seen square on: RGB over ``rect`` (u0, v0, u1, v1 in mm), row 0 at v1 where ``up`` else at v0.

    Large photos are shrunk first to about the wanted resolution, so that fine grain does not alias.
    """
    import cv2

    u0, v0, u1, v1 = rect
    wide, high = max(1, round((u1 - u0) * px_per_mm)), max(1, round((v1 - v0) * px_per_mm))
    u = u0 + (np.arange(wide) + 0.5) / px_per_mm
    v = v0 + (np.arange(high) + 0.5) / px_per_mm
    grid = np.stack(np.meshgrid(u, v[::-1] if up else v), axis=-1)
    pixels = true.to_px(grid.reshape(-1, 2)).reshape(high, wide, 2)
    height, width = photo.shape[:2]
    middle = pixels[high // 2]
    density = float(np.median(np.hypot(*np.diff(middle, axis=0).T))) if wide > 1 else 1.0
    shrink = max(1.0, density / 1.2) * (max(width, height) / max(true.size))
    if shrink > 1.3:
        photo = cv2.resize(photo, None, fx=1 / shrink, fy=1 / shrink, interpolation=cv2.INTER_AREA)
    maps = pixels * (np.array(photo.shape[1::-1]) / np.array(true.size)) - 0.5
    return cv2.remap(
        photo, maps[..., 0].astype(np.float32), maps[..., 1].astype(np.float32), cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE
    )
