"""How deep one part lies in another, as tables that answer for any shift at once: made of no-fit polygons, kept in one row of figures."""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray
from shapely.geometry import Polygon

from grainet.fit.depth_loops import BAND, COARSE, FAR, PER_MM, STEP_MM, fill_inward, fill_near

Array = NDArray[np.float64]
AT_FIRST = 1 << 20  # figures that there is room for to begin with


class Reading(NamedTuple):
    """How a table is read: its first node is (``column``, ``row``) steps from no shift at all; it has so many nodes, begins at a place in the row
    of figures, and is so many figures further one node along, one across. Then the same of the coarse one. A table read backwards is that of
    the shapes turned, or mirrored, or with their places changed."""

    column: int
    row: int
    wide: int
    high: int
    begin: int
    along: int
    across: int
    coarse_begin: int
    coarse_wide: int
    coarse_high: int
    coarse_along: int
    coarse_across: int

    @property
    def turned(self) -> Reading:
        """For the two shapes the other way round, or both turned by half a turn."""
        return self._replace(
            column=1 - self.column - self.wide,
            begin=self.begin + (self.wide - 1) * self.along,
            along=-self.along,
            coarse_begin=self.coarse_begin + (self.coarse_wide - 1) * self.coarse_along,
            coarse_along=-self.coarse_along,
        ).mirrored

    @property
    def mirrored(self) -> Reading:
        """For both shapes mirrored across the board."""
        return self._replace(
            row=1 - self.row - self.high,
            begin=self.begin + (self.high - 1) * self.across,
            across=-self.across,
            coarse_begin=self.coarse_begin + (self.coarse_high - 1) * self.coarse_across,
            coarse_across=-self.coarse_across,
        )


@dataclass
class Depths:
    """Tables one after another, fine ones and coarse ones, in hundredths of a millimetre: below 0 outside, as far as ``BAND`` steps."""

    fine: NDArray[np.int16] = field(default_factory=lambda: np.empty(AT_FIRST, np.int16))
    coarse: NDArray[np.int16] = field(default_factory=lambda: np.empty(AT_FIRST // 8, np.int16))
    used: int = 0
    used_coarse: int = 0

    @property
    def nbytes(self) -> int:
        """What the tables take."""
        return 2 * (self.used + self.used_coarse)

    def clear(self) -> None:
        """Forget them all."""
        self.used = self.used_coarse = 0

    def add(self, shape: Polygon) -> Reading:
        """The table of a no-fit polygon: exact near its border."""
        x0, y0, x1, y1 = (v / STEP_MM for v in shape.bounds)
        column, row = int(np.floor(x0)) - BAND, int(np.floor(y0)) - BAND
        # backwards, every so-many-th node must be one of the same again
        wide, high = (_whole(int(np.ceil(b)) + BAND - a + 1) for a, b in ((column, x1), (row, y1)))
        ring = np.ascontiguousarray(np.asarray(shape.exterior.coords) / STEP_MM - (column, row))
        away = np.full((high, wide), FAR, np.float32)
        inside = np.zeros((high, wide), np.uint8)
        fill_near(ring, away, inside)
        fill_inward(away, inside)
        depth = np.clip(away * (STEP_MM * PER_MM), -np.inf, np.iinfo(np.int16).max).round().astype(np.int16)
        begin, coarse_begin = self.used, self.used_coarse
        coarse = np.maximum(depth[::COARSE, ::COARSE], 0)
        self.fine, self.used = _appended(self.fine, begin, depth)
        self.coarse, self.used_coarse = _appended(self.coarse, coarse_begin, coarse)
        return Reading(
            column, row, wide, high, begin, 1, wide, coarse_begin, coarse.shape[1], coarse.shape[0], 1, coarse.shape[1]
        )


def _whole(count: int) -> int:
    return count + (1 - count) % COARSE


def _appended(row: NDArray[np.int16], used: int, more: NDArray[np.int16]) -> tuple[NDArray[np.int16], int]:
    """A row of figures with more behind those that are used, in a longer row where it has no room; and how many are used then."""
    end = used + more.size
    if end > len(row):
        longer = np.empty(max(end, len(row) * 3 // 2), np.int16)
        longer[:used] = row[:used]
        row = longer
    row[used:end] = more.ravel()
    return row, end
