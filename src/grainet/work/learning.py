"""What records say: by lane (what was measured, with which tool, in which wood) the median, the middle half and the count; from five records on
a figure is proposed in place of the assumed one, or, where they lie too far apart, a cause to look for. Nothing here changes anything.

Source: MAKING.md, Learning; CAPABILITIES C96. Quartiles are linear between ordered values.
"""

from __future__ import annotations

import math
from collections import defaultdict
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise
from typing import Literal

import numpy as np

from grainet.work.record import Learnt, Record, What

FROM, AGAIN = 5, 5  # records from which on a lane speaks, and how many more after it was told to keep as it was
TOO_BROAD = 0.5  # of the median: a broader middle half is no figure to plan with
SAME_MM, SAME_SHARE, SAME_RATIO = 0.1, 0.05, 0.1  # nearer to what is planned there is nothing to learn
STEP: dict[What, float] = {"minutes": 0.05, "settling": 0.05, "kerf": 0.05}
USUAL_STEP = 0.1
RATIOS = ("minutes", "settling")  # measured over planned; all else is a size
UNSIGNED = ("miss",)  # how far off counts, not to which side
STRAY_SHARE = 0.9  # of the misses stay within what a saw is said to stray

SPREAD_OUT: dict[What, str] = {
    "minutes": "spread all along: long and short ones are counted as one kind of step, or there were pauses between",
    "settling": "spread all along: they lay in different places, or their readings were too few",
}
Stand = Literal["few", "agrees", "proposes", "asks", "kept"]


@dataclass(frozen=True)
class Lane:
    """The records of one kind, tool and wood. ``assumed`` is what the shop plans with now; None where nothing is planned with such a figure."""

    what: What
    tool: str
    species: str
    records: tuple[Record, ...]
    assumed: float | None
    kept_at: int = 0  # records when it was last told to keep as it was

    @property
    def key(self) -> str:
        """Its name: what, with which tool, in which wood."""
        return "|".join((self.what, self.tool, self.species))

    @cached_property
    def values(self) -> tuple[float, ...]:
        """What each record says, in the order in which they were made: sizes as measured, misses by how far, times as a share of what was
        planned."""
        return tuple(value_of(r) for r in self.records)

    @cached_property
    def median(self) -> float:
        """The middle one."""
        return float(np.median(self.values))

    @cached_property
    def middle_half(self) -> tuple[float, float]:
        """Between which half of them lie."""
        low, high = np.percentile(self.values, (25, 75))
        return float(low), float(high)

    @cached_property
    def spread(self) -> float:
        """Their standard deviation; 0 for a single one."""
        return float(np.std(self.values, ddof=1)) if len(self.values) > 1 else 0.0

    @cached_property
    def figure(self) -> float:
        """The figure to plan with: the median; for misses what nine of ten stay within."""
        step = STEP.get(self.what, USUAL_STEP)
        if self.what == "miss":
            return round(math.ceil(float(np.percentile(self.values, 100 * STRAY_SHARE)) / step - 1e-6) * step, 3)
        return round(round(self.median / step) * step, 3)

    @cached_property
    def too_broad(self) -> bool:
        """Whether they lie too far apart to plan with."""
        if self.what == "miss":
            return bool(self.bias)
        low, high = self.middle_half
        return high - low > TOO_BROAD * abs(self.median) + 1e-12

    @cached_property
    def bias(self) -> float:
        """Of misses: by how much all of them miss to one side, mm; 0 where they lie on both."""
        if self.what != "miss" or len(self.records) < FROM:
            return 0.0
        signed = [r.measured - r.planned for r in self.records]
        middle, off = float(np.median(signed)), float(np.std(signed, ddof=1))
        return round(middle, 2) if abs(middle) >= 2 * SAME_MM and abs(middle) > off else 0.0

    @property
    def stand(self) -> Stand:
        """Where it stands: too few, in agreement, proposing a figure, asking for a cause, or told to keep as it was."""
        if len(self.records) < FROM:
            return "few"
        if self.too_broad:
            return "asks"
        near = SAME_RATIO if self.what in RATIOS else max(SAME_MM, SAME_SHARE * abs(self.assumed or 0.0))
        if self.assumed is None or abs(self.figure - self.assumed) < near - 1e-9:
            return "agrees"
        return "kept" if len(self.records) < self.kept_at + AGAIN and self.kept_at else "proposes"

    @property
    def cause(self) -> str:
        """What to look for where they lie too far apart."""
        if self.bias:
            side = "long" if self.bias > 0 else "short"
            return f"every one about {abs(self.bias):.1f} {side}: set the stop or the scale, not the plan"
        found = _groups(self.values)
        if found is None:
            return SPREAD_OUT.get(
                self.what, "spread all along: a dull edge, a loose fence, or wood that moves while it is worked"
            )
        few, many = sorted(found, key=len)
        if len(few) == 1:
            at = self.records[self.values.index(few[0])]
            where = f" on No. {at.board}" if at.board else ""
            return f"one stands alone, {few[0]:.1f}{where}: a slip in reading, a tear-out, or another setting"
        return f"two groups, about {np.median(many):.1f} and {np.median(few):.1f}: two settings, or two ways of feeding"


def value_of(record: Record) -> float:
    """What a record says by itself: a size, how far a miss is off, or a share of what was planned."""
    if record.what in UNSIGNED:
        return abs(record.measured - record.planned)
    if record.what in RATIOS:
        return record.measured / record.planned if record.planned > 0 else 1.0
    return record.measured


def lanes_of(records: Sequence[Record], learnt: Learnt, assumed: Callable[[What, str, str], float | None]) -> list[Lane]:
    """All lanes, those that propose first, then those that ask, then by how many records they have. ``assumed`` gives what the shop plans
    with."""
    groups: dict[tuple[What, str, str], list[Record]] = defaultdict(list)
    for one in records:
        groups[one.what, one.tool, one.species].append(one)
    kept = {k.lane: k.count for k in learnt.kept}
    found = []
    for (what, tool, species), rows in groups.items():
        rows.sort(key=lambda r: r.on)
        lane = Lane(what, tool, species, tuple(rows), assumed(what, tool, species))
        found.append(Lane(what, tool, species, lane.records, lane.assumed, kept.get(lane.key, 0)))
    order = {"proposes": 0, "asks": 1, "kept": 2, "agrees": 3, "few": 4}
    return sorted(found, key=lambda lane: (order[lane.stand], lane.what in RATIOS, -len(lane.records), lane.key))


def _groups(values: Sequence[float]) -> tuple[list[float], list[float]] | None:
    """Two groups with a gap between them that is wider than either; None where there is no such gap."""
    ordered = sorted(values)
    gaps = [b - a for a, b in pairwise(ordered)]
    if not gaps:
        return None
    k = int(np.argmax(gaps))
    low, high = ordered[: k + 1], ordered[k + 1 :]
    return (low, high) if gaps[k] > max(low[-1] - low[0], high[-1] - high[0]) else None
