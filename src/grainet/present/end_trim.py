"""Which end of a board to lose: the part slid as far as it goes to either side, what is left in one, and what of figure and splits goes where."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from shapely.geometry import Polygon

from grainet.design.shape import Array
from grainet.wood.defects import FAMILY
from grainet.wood.piece import Piece

End = Literal["marked", "far"]
QUIET = ("plain", "spalt")  # zones of figure that nobody chooses an end for


@dataclass(frozen=True)
class EndTrim:
    """One choice: the end that is cut off, how far the part slides for it, how long the piece is that is left there, how many splits and other
    breaks go with it, and how much of the board's figure the part shows."""

    end: End
    by_mm: float
    left_mm: float
    breaks: int
    figure: float

    @property
    def told(self) -> str:
        """It in a few words."""
        lost = f", {self.breaks} {'break' if self.breaks == 1 else 'breaks'} with it" if self.breaks else ""
        seen = f", {100 * self.figure:.0f} % of the figure seen" if self.figure > 0 else ""
        return f"Cut at the {self.end} end: {self.left_mm:.0f} left there{lost}{seen}"


def end_trims(piece: Piece, ring: Array, back_mm: float, on_mm: float) -> list[EndTrim]:
    """Both choices for a part that can slide so far toward the marked end and away from it, the better one first: the one that shows more of
    the figure, then the one that loses more breaks, then the one that leaves more in one."""
    rows = [_choice(piece, ring, "far", -back_mm), _choice(piece, ring, "marked", on_mm)]
    return sorted(rows, key=lambda one: (-round(one.figure, 2), -one.breaks, -one.left_mm))


def _choice(piece: Piece, ring: Array, end: End, by_mm: float) -> EndTrim:
    x0, _, x1, _ = piece.extents
    low, high = float(ring[:, 0].min()) + by_mm, float(ring[:, 0].max()) + by_mm
    lost = (x0, low) if end == "marked" else (high, x1)
    breaks = sum(FAMILY[d.kind] == "breaks" and _within(d.polygon, lost) for d in piece.defects)
    shape = Polygon(ring + np.array([by_mm, 0.0])).buffer(0)
    zones = [Polygon(z.polygon).buffer(0) for z in piece.figure if z.kind not in QUIET]
    whole = sum(z.area for z in zones)
    seen = sum(z.intersection(shape).area for z in zones) / whole if whole else 0.0
    return EndTrim(end, by_mm, max(0.0, lost[1] - lost[0]), breaks, float(seen))


def _within(polygon: Sequence[tuple[float, float]], span: tuple[float, float]) -> bool:
    return all(span[0] - 1e-6 <= x <= span[1] + 1e-6 for x, _ in polygon)
