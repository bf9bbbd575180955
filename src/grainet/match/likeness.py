"""How alike two pictures of facing leaves are, and how far their lines miss at the seam: measured, from photos or from the wood model.

The lightness is kept between two finenesses (Gaussian 0.8 minus 12 mm): fibres of two planes never agree and broad tones always do.
Raw likeness swings once rings slip by half a pitch: it stands beside a forecast and ranks nothing.
"""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

from grainet.picture.grain import lightness

FINE_MM, BROAD_MM = 0.8, 12.0
SEAM_MM = 15.0  # the band beside a seam that an eye compares
ENOUGH_PX = 24  # a blur of so many px is as true as a wider one
PLAIN = 1e-4  # lightness that varies less than this shows no lines
Image = NDArray[Any]


def lines_of(image: Image, px_per_mm: float) -> NDArray[np.float32]:
    """The lightness of an RGB picture between the two finenesses, shape (rows, columns)."""
    import cv2

    light = lightness(image)
    return np.asarray(cv2.GaussianBlur(light, (0, 0), FINE_MM * px_per_mm) - _broad(light, BROAD_MM * px_per_mm))


def _broad(light: Image, sigma: float) -> Image:
    """A wide blur by way of a smaller picture, which loses nothing that it would show: thirty times as fast at 6 px per mm."""
    import cv2

    step = int(sigma // ENOUGH_PX)
    if step < 2:
        return cv2.GaussianBlur(light, (0, 0), sigma)
    rows, columns = light.shape
    small = cv2.resize(light, (max(1, round(columns / step)), max(1, round(rows / step))), interpolation=cv2.INTER_AREA)
    return cv2.resize(cv2.GaussianBlur(small, (0, 0), sigma / step), (columns, rows), interpolation=cv2.INTER_CUBIC)


def likeness(one: Image, other: Image, px_per_mm: float) -> float:
    """How alike two pictures of one shape are, place by place: 1 the same, 0 nothing in common. 0 where one of them is plain."""
    return lines_alike(lines_of(one, px_per_mm), lines_of(other, px_per_mm))


def at_the_seam(one: Image, other: Image, px_per_mm: float) -> float:
    """The same in the band beside the seam, which lies along row 0 of both pictures."""
    rows = max(3, round(SEAM_MM * px_per_mm))
    return lines_alike(lines_of(one, px_per_mm)[:rows], lines_of(other, px_per_mm)[:rows])


def missed_mm(one: Image, other: Image, px_per_mm: float, most_mm: float = 12.0) -> float:
    """How far the lines of one leaf lie from those of the other, in mm across the grain: the shift at which the two pictures agree best;
    positive where the other's lie higher up its rows."""
    return lines_missed_mm(lines_of(one, px_per_mm), lines_of(other, px_per_mm), px_per_mm, most_mm)


def lines_missed_mm(a: Image, b: Image, px_per_mm: float, most_mm: float) -> float:
    """The same of the lines of both."""
    rows = len(a)
    size = 2 * rows
    cross = np.fft.irfft((np.fft.rfft(a, size, axis=0).conj() * np.fft.rfft(b, size, axis=0)).sum(axis=1), size)
    reach = min(rows - 1, round(most_mm * px_per_mm))
    shifts = np.arange(-reach, reach + 1)
    overlap = rows - np.abs(shifts)
    found = cross[shifts] / overlap
    k = int(np.argmax(found))
    if 0 < k < len(found) - 1:  # the top of a parabola through three
        below, top, above = found[k - 1 : k + 2]
        bend = below - 2 * top + above
        return float(shifts[k] + (0.5 * (below - above) / bend if bend else 0.0)) / px_per_mm
    return float(shifts[k]) / px_per_mm


def lines_alike(a: Image, b: Image) -> float:
    """How alike the lines of two pictures of one shape are, place by place; 0 where one shows none."""
    a, b = a - a.mean(), b - b.mean()
    if min(a.std(), b.std()) < PLAIN:
        return 0.0
    return float((a * b).mean() / (a.std() * b.std()))
