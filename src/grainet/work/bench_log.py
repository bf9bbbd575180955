"""What was done at the bench, kept for good: each operation with its instant, its figures and what was agreed to; rules that were
overridden, with the reason; and how warm it was, so that glue clocks run on through closing, sleep and changes of the clock."""

from __future__ import annotations

from collections.abc import Sequence
from datetime import UTC, datetime, timedelta
from functools import cached_property
from typing import Self

from pydantic import Field

from grainet.wood.record import Rest
from grainet.wood.value import Day, Value


class DoneRow(Value):
    """One operation that is done: when (UTC), what was measured, what was written beside it, which cautions were agreed to; of a glue-up its
    clamps, where others of their kind stood in for some that were busy."""

    operation: str
    at: str
    figures: dict[str, float] = {}
    note: str = Field(default="", max_length=500)
    agreed: tuple[str, ...] = ()
    clamps: tuple[str, ...] = Field(default=(), exclude_if=lambda clamps: not clamps)


class Warmth(Value):
    """How warm the shop was from an instant on (UTC), °C."""

    at: str
    temperature_c: float = Field(ge=-20, le=60)


class Overridden(Value):
    """A rule between two operations that a person set aside, and why."""

    before: str
    after: str
    rule: str
    why: str = Field(min_length=3, max_length=500)


class Moved(Value):
    """An operation that a person put before another one, where no rule forbids it."""

    before: str
    after: str


class OtherWay(Value):
    """A legal way that a person chose for an operation that no machine takes (``capacity``)."""

    operation: str
    way: str


class TakenApart(Value):
    """A joint that was taken apart: its glue-up, how, when (UTC), and how much narrower or thinner each member is for it, mm."""

    operation: str
    method: str
    at: str
    lost_mm: float = 0.0


class Whereabouts(Value):
    """Where a workpiece is: its shelf, or the piece of the rack that it was given back as."""

    workpiece: str
    place: str = Field(default="", max_length=40)
    piece: str = ""


class StraightRead(Value):
    """How far from straight a workpiece that rests was on a day, and out of wind where that was read too, mm."""

    workpiece: str
    on: Day
    bow_mm: float = Field(ge=0, le=300)
    twist_mm: float | None = Field(default=None, ge=0, le=300, exclude_if=lambda mm: mm is None)


class PartPhoto(Value):
    """A photo of a workpiece: the day, and the original by its name."""

    workpiece: str
    on: Day
    sha: str = Field(min_length=1)


class BenchLog(Value):
    """All of it for one plan."""

    id: str = Field(min_length=1)  # of the plan
    rows: tuple[DoneRow, ...] = ()
    warmth: tuple[Warmth, ...] = ()
    over: tuple[Overridden, ...] = ()
    moved: tuple[Moved, ...] = ()
    apart: tuple[TakenApart, ...] = ()
    places: tuple[Whereabouts, ...] = ()
    weighed_kg: float | None = Field(default=None, gt=0, le=50, exclude_if=lambda kg: kg is None)  # the finished instrument
    left_off: tuple[str, ...] = Field(default=(), exclude_if=lambda keys: not keys)  # of its story's page
    ways: tuple[OtherWay, ...] = Field(default=(), exclude_if=lambda ways: not ways)
    straight: tuple[StraightRead, ...] = Field(default=(), exclude_if=lambda reads: not reads)
    photos: tuple[PartPhoto, ...] = Field(default=(), exclude_if=lambda photos: not photos)

    def row(self, operation: str) -> DoneRow | None:
        """What is known of an operation; None while it is not done."""
        return self._row_of.get(operation)

    @cached_property
    def _row_of(self) -> dict[str, DoneRow]:
        return {row.operation: row for row in reversed(self.rows)}

    def where(self, workpiece: str) -> Whereabouts | None:
        """Where a workpiece is; None where nobody said."""
        return next((w for w in self.places if w.workpiece == workpiece), None)

    def straightness_of(self, workpiece: str) -> tuple[Rest, ...]:
        """The readings of a workpiece that rests."""
        return tuple(Rest(on=r.on, bow_mm=r.bow_mm, twist_mm=r.twist_mm) for r in self.straight if r.workpiece == workpiece)

    def with_straight(self, read: StraightRead) -> Self:
        """One reading more; the last of a day counts."""
        others = (r for r in self.straight if (r.workpiece, r.on) != (read.workpiece, read.on))
        return self.changed(straight=(*others, read))

    def with_photo(self, photo: PartPhoto) -> Self:
        """One photo more; the same picture of a workpiece is kept once."""
        others = (p for p in self.photos if (p.workpiece, p.sha) != (photo.workpiece, photo.sha))
        return self.changed(photos=(*others, photo))

    def placed(self, one: Whereabouts) -> Self:
        """A workpiece lies somewhere else now."""
        return self.changed(places=(*(w for w in self.places if w.workpiece != one.workpiece), one))

    def with_row(self, row: DoneRow) -> Self:
        """One operation more is done."""
        return self.changed(rows=(*(r for r in self.rows if r.operation != row.operation), row))

    def without(self, operation: str) -> Self:
        """An operation taken back."""
        return self.changed(rows=tuple(r for r in self.rows if r.operation != operation))


# glue clocks -----------------------------------------------------------------------------------------------------------
def told(instant: datetime) -> str:
    """An instant as it is kept: UTC to the second. A local time without a zone is the shop's own."""
    return instant.astimezone(UTC).isoformat(timespec="seconds")


def instant(text: str) -> datetime:
    """An instant that was kept."""
    return datetime.fromisoformat(text)


def pace_at(temperature_c: float) -> float:
    """How much longer glue takes than at 20 °C: twice for every five degrees below, half for every five above."""
    return float(2 ** ((20.0 - temperature_c) / 5))


def ends_at(
    started: datetime, minutes_at_20: float, warmth: Sequence[Warmth], now: datetime, floor_minutes: float = 0.0
) -> datetime:
    """When so many minutes of curing (reckoned at 20 °C) are over: a warmth that changed scales what was left then, the last one goes on.
    Never before ``floor_minutes`` by the clock on the wall. All instants with their zone."""
    left, at = minutes_at_20, started
    stops = [w for w in warmth if instant(w.at) <= started][-1:] + [w for w in warmth if started < instant(w.at) <= now]
    for k, one in enumerate(stops):
        until = instant(stops[k + 1].at) if k + 1 < len(stops) else None
        pace = pace_at(one.temperature_c)
        if until is None or left * pace <= (until - at).total_seconds() / 60:
            at += timedelta(minutes=left * pace)
            left = 0.0
            break
        left -= (until - at).total_seconds() / 60 / pace
        at = until
    if left:
        at += timedelta(minutes=left)
    return max(at, started + timedelta(minutes=floor_minutes))
