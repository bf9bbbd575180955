"""Where round an outline a cutter tears the wood, and where it meets end grain, for the way in which it is fed.

The feed goes round the part counter-clockwise as seen from the side that lies up, against the cutter's turn; it is never turned about. The
other stretches are reached by turning the part over. A stretch tears where the fibre, followed forwards, leads into the part (SCIENCE).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import groupby
from typing import Literal

import numpy as np
from numpy.typing import NDArray
from shapely.geometry import Polygon

from grainet.design.formulas import tears

Array = NDArray[np.float64]
Kind = Literal["tears", "end", "clean"]
END_DEG = 70.0  # an edge that lies steeper across the fibre than this is end grain; judgement
LEAST_MM = 4.0  # shorter stretches are not worth telling
LEAST_DEG = 2.0  # an edge along the fibre neither tears nor is end grain


@dataclass(frozen=True)
class Stretch:
    """Part of an outline that cuts alike, in the order in which the cutter goes: shape (points, 2), mm."""

    kind: Kind
    points: Array

    @property
    def length_mm(self) -> float:
        """How long it is."""
        return float(np.hypot(*np.diff(self.points, axis=0).T).sum())


def stretches(ring: Array, fibre_deg: float, *, turned_over: bool = False) -> list[Stretch]:
    """The stretches of an outline that lies as seen on face 1, with fibres that lean so far off x; ``turned_over``: its other side is up."""
    ring = np.asarray(ring, float)
    if turned_over:
        return [Stretch(s.kind, s.points * (1, -1)) for s in stretches(ring * (1, -1), -fibre_deg)]
    if not Polygon(ring).exterior.is_ccw:
        ring = ring[::-1]
    kinds = [_kind(a, b, fibre_deg) for a, b in zip(ring, np.roll(ring, -1, axis=0))]
    start = next((k for k in range(len(kinds)) if kinds[k] != kinds[k - 1]), 0)
    closed = np.vstack([np.roll(ring, -start, axis=0), ring[start]])
    found: list[Stretch] = []
    at = 0
    for kind, group in groupby(kinds[start:] + kinds[:start]):
        count = len(list(group))
        found.append(Stretch(kind, closed[at : at + count + 1]))
        at += count
    return [one for one in found if one.length_mm >= LEAST_MM]


def _kind(a: Array, b: Array, fibre_deg: float) -> Kind:
    feed = math.degrees(math.atan2(b[1] - a[1], b[0] - a[0]))
    across = abs((feed - fibre_deg + 90) % 180 - 90)
    if across > END_DEG:
        return "end"
    return "tears" if across > LEAST_DEG and tears(fibre_deg, feed) else "clean"


def told(found: Sequence[Stretch], other: Sequence[Stretch], *, turned_over: bool = False) -> str:
    """What a feed round a part tears, against the same with its other side up."""
    turn = "turned back" if turned_over else "turned over"
    many, beyond = ([s for s in rows if s.kind == "tears"] for rows in (found, other))
    if not many:
        return "Nothing tears on this side up"
    size = sum(s.length_mm for s in many)
    rest = f"{turn} the other {len(beyond)} would" if beyond else f"{turn} nothing does"
    ends = sum(s.kind == "end" for s in found)
    leave = f"; leave more at {ends} end{'s' if ends > 1 else ''}" if ends else ""
    return f"Tears in {len(many)} stretch{'es' if len(many) > 1 else ''}, {size:.0f} in all; {rest}{leave}"
