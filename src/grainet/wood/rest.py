"""The rest log: whether a piece still moves or has settled, told from its straightness over days.

A house rule says how long and how still; which kinds of part a moving piece closes, and which it only advises against, is the
shop's own (sections on disagreement: block for necks and fretboards, advise for bodies).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from typing import Literal

from grainet.wood.record import Rest

RestWord = Literal["unread", "watching", "moving", "settled"]
STILL_WITHIN_MM, STILL_DAYS, STILL_READINGS = 0.2, 7, 3


@dataclass(frozen=True)
class RestState:
    """What the log says, over how many days the last readings have agreed, and by how much the last one moved."""

    word: RestWord
    still_days: int
    last_move_mm: float

    @property
    def said(self) -> str:
        return {
            "unread": "no rest log yet",
            "watching": f"still for {self.still_days} days so far",
            "moving": f"moved {self.last_move_mm:.1f} at the last reading",
            "settled": f"still for {self.still_days} days",
        }[self.word]


def rest_state(
    rests: Sequence[Rest], within_mm: float = STILL_WITHIN_MM, days: int = STILL_DAYS, readings: int = STILL_READINGS
) -> RestState:  # fmt: skip
    """Settled when at least ``readings`` last readings over at least ``days`` days agree within ``within_mm``."""
    rows = sorted(rests, key=lambda r: r.on)
    if not rows:
        return RestState("unread", 0, 0.0)
    count, still = 1, 0
    for k in range(len(rows) - 2, -1, -1):
        if not _agree(rows[k:], within_mm):
            break
        count, still = count + 1, (date.fromisoformat(rows[-1].on) - date.fromisoformat(rows[k].on)).days
    move = _moved(rows[-2], rows[-1]) if len(rows) > 1 else 0.0
    if count >= readings and still >= days:
        return RestState("settled", still, move)
    return RestState("moving" if move > within_mm else "watching", still, move)


def _agree(rows: Sequence[Rest], within: float) -> bool:
    bows = [r.bow_mm for r in rows]
    twists = [r.twist_mm for r in rows if r.twist_mm is not None]
    return max(bows) - min(bows) <= within + 1e-9 and (not twists or max(twists) - min(twists) <= within + 1e-9)


def _moved(before: Rest, after: Rest) -> float:
    twist = abs(after.twist_mm - before.twist_mm) if after.twist_mm is not None and before.twist_mm is not None else 0.0
    return max(abs(after.bow_mm - before.bow_mm), twist)
