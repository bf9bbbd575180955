"""The rest log: whether a piece still moves or has settled, told from its straightness over days.

A house rule says how long and how still; which kinds of part a moving piece closes, and which it only advises against, is the
shop's own (sections on disagreement: block for necks and fretboards, advise for bodies).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from typing import Literal

from grainet.wood.piece import Piece, marked_settled
from grainet.wood.record import Rest
from grainet.wood.weighing import still_changing

RestWord = Literal["unread", "watching", "moving", "settled"]
STILL_WITHIN_MM, STILL_DAYS, STILL_READINGS = 0.2, 7, 3


@dataclass(frozen=True)
class RestState:
    """What the log says, over how many days the last readings have agreed, and by how much the last one moved."""

    word: RestWord
    still_days: int
    last_move_mm: float
    because: str = ""  # what else decides: a person's word, or a weight that still changes

    @property
    def message(self) -> str:
        """The state in words, with its figures."""
        if self.because:
            return self.because
        return {
            "unread": "no rest log yet",
            "watching": f"still for {self.still_days} days so far",
            "moving": f"moved {self.last_move_mm:.1f} at the last reading",
            "settled": f"still for {self.still_days} days",
        }[self.word]


def rest_of(piece: Piece, within_mm: float = STILL_WITHIN_MM, days: int = STILL_DAYS) -> RestState:
    """What a piece's log says, with its weight and a person's word: wood that still loses weight has not settled, however straight."""
    state = rest_state(piece.rests, within_mm, days)
    if marked_settled(piece):
        assert piece.settled is not None
        return RestState("settled", state.still_days, state.last_move_mm, f"by your word: {piece.settled.what}")
    weighed = max((w.on for w in piece.weighings), default="")
    newer = any(r.on and r.on > weighed for r in piece.moisture)  # a meter has spoken since, and judges by itself
    if state.word == "settled" and not newer and still_changing(piece.weighings):
        return RestState(
            "watching",
            state.still_days,
            state.last_move_mm,
            f"straight for {state.still_days} days, but its weight still changes",
        )
    return state


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


def still_since(rests: Sequence[Rest], within_mm: float = STILL_WITHIN_MM) -> date:
    """The day of the first of the last readings that agree with one another; at least one is wanted."""
    rows = sorted(rests, key=lambda r: r.on)
    first = next(k for k in range(len(rows)) if _agree(rows[k:], within_mm))
    return date.fromisoformat(rows[first].on)


def _agree(rows: Sequence[Rest], within: float) -> bool:
    bows = [r.bow_mm for r in rows]
    twists = [r.twist_mm for r in rows if r.twist_mm is not None]
    return max(bows) - min(bows) <= within + 1e-9 and (not twists or max(twists) - min(twists) <= within + 1e-9)


def _moved(before: Rest, after: Rest) -> float:
    twist = abs(after.twist_mm - before.twist_mm) if after.twist_mm is not None and before.twist_mm is not None else 0.0
    return max(abs(after.bow_mm - before.bow_mm), twist)
