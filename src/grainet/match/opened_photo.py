"""A photo of a pair that lies open like a book: how far its lines miss at the seam and how alike they are, read from the wood itself.

Two marks on the ends of the seam square the photo, and the seam's own length gives its scale. The camera is held square over the book:
what a tilted one does to the wood within a finger's breadth of the seam lies below what an eye marks.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from grainet.match.likeness import PLAIN, SEAM_MM, Image, lines_alike, lines_missed_mm, lines_of
from grainet.wood.value import BadEntry

LEAST_MM, BAND_MM = 2 * SEAM_MM, 90.0  # of wood on either side that is looked at, at the least and at the most
FINEST_PX_PER_MM = 6.0  # finer is not asked of a photo
COARSEST_PX_PER_MM = 0.8  # below it lines cannot be told from one another
MOST_MISS_MM = 15.0
Vector = NDArray[np.float64]
Marks = tuple[tuple[float, float], tuple[float, float]]  # the seam's two ends in the photo, px, the left one first


@dataclass(frozen=True)
class Measured:
    """What a photo of an opened pair tells: the miss of the lines, mm, and how alike the leaves are beside the seam, 0 to 1."""

    miss_mm: float
    alike: float


def strips(photo: Image, marks: Marks, length_mm: float) -> tuple[Image, Image, float]:
    """The wood above and below the seam, squared, each with the seam along its row 0 and equally long; and their px per mm. ``photo`` RGB of
    shape (rows, columns, 3). Raises BadEntry where the marks lie too near together, or the wood beside the seam is not in the picture."""
    import cv2

    (ax, ay), (bx, by) = marks
    long_px = math.hypot(bx - ax, by - ay)
    native = long_px / length_mm
    if native < COARSEST_PX_PER_MM:
        needs = math.ceil(COARSEST_PX_PER_MM * length_mm)
        raise BadEntry(f"the seam is {long_px:.0f} px long in this photo; its {length_mm:.0f} mm need at least {needs}.")
    scale = min(FINEST_PX_PER_MM, native)
    along = np.array([bx - ax, by - ay]) / long_px * native / scale  # photo px for a px of the strip
    up = np.array([along[1], -along[0]])
    start = np.array([ax, ay])
    columns = math.floor(length_mm * scale)
    corners = (start, start + along * columns)
    reach = min(_room(photo, corner, away) for corner in corners for away in (up, -up))
    if reach < LEAST_MM * scale:
        raise BadEntry(f"the photo ends beside the seam; it needs {LEAST_MM:.0f} mm of both leaves.")
    rows = math.floor(min(BAND_MM * scale, reach))
    if native > 1.5 * scale:  # what is finer than the strip is blurred away first, else it comes back as noise
        photo = cv2.GaussianBlur(photo, (0, 0), 0.5 * native / scale)
    found = []
    for away in (up, -up):
        first = start + (along + away) / 2  # the middle of the first px beside the seam
        matrix = np.array([[along[0], away[0], first[0]], [along[1], away[1], first[1]]])
        flags = cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP
        found.append(cv2.warpAffine(photo, matrix, (columns, rows), flags=flags, borderMode=cv2.BORDER_REPLICATE))
    return found[0], found[1], scale


def _room(photo: Image, start: Vector, step: Vector) -> float:
    """How many steps from a place there are to the photo's edge."""
    most = np.array([photo.shape[1] - 1, photo.shape[0] - 1])
    with np.errstate(divide="ignore"):
        away = np.where(step > 0, (most - start) / step, np.where(step < 0, -start / step, np.inf))
    return float(away.min())


@dataclass(frozen=True)
class SeamLines:
    """The lines of the wood above and below a seam, shape (rows, columns) each with the seam along row 0, and their px per mm."""

    upper: Image
    lower: Image
    px_per_mm: float

    def between(self, from_mm: float, to_mm: float) -> Measured | None:
        """How the leaves meet along a stretch of the seam, mm from its first end; None where no lines are seen there, or less of it
        than an eye compares."""
        first, last = (min(self.upper.shape[1], max(0, round(mm * self.px_per_mm))) for mm in (from_mm, to_mm))
        if last - first < SEAM_MM * self.px_per_mm:
            return None
        a, b = self.upper[:, first:last], self.lower[:, first:last]
        if min(a.std(), b.std()) < PLAIN:
            return None
        rows = max(3, round(SEAM_MM * self.px_per_mm))
        miss = abs(lines_missed_mm(a, b, self.px_per_mm, MOST_MISS_MM))
        return Measured(round(miss, 1), round(max(0.0, lines_alike(a[:rows], b[:rows])), 2))

    @property
    def whole(self) -> Measured:
        """The same along all of it. Raises BadEntry where no lines are seen beside the seam."""
        found = self.between(0.0, self.upper.shape[1] / self.px_per_mm)
        if found is None:
            raise BadEntry("no lines are seen beside the seam; light it from the side and take it again.")
        return found


def seam_lines(upper: Image, lower: Image, px_per_mm: float) -> SeamLines:
    """The lines in strips that are squared already."""
    return SeamLines(lines_of(upper, px_per_mm), lines_of(lower, px_per_mm), px_per_mm)


def measured(photo: Image, marks: Marks, length_mm: float) -> Measured:
    """How a pair that lies open meets at its seam. Raises BadEntry as ``strips`` does, and where no lines are seen beside the seam."""
    return seam_lines(*strips(photo, marks, length_mm)).whole
