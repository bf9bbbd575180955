"""When each operation may be done: a list schedule over days, at once. Hands, hours and clamps are shared by all builds; waits run on
through the night; what stands first in the order goes first."""

from __future__ import annotations

import heapq
from collections.abc import Mapping, Sequence
from datetime import datetime, time, timedelta

from grainet.work.operation import Entry, Operation, Tie
from grainet.work.sequence import needs_of


class Day:
    """The hours in which hands work, the same every day; local time, so that a summer-time change moves no working day."""

    def __init__(self, hours: tuple[str, str]) -> None:
        self.begins, self.ends = (time.fromisoformat(h) for h in hours)

    @property
    def minutes(self) -> float:
        """How long it is."""
        return (self.ends.hour - self.begins.hour) * 60.0 + self.ends.minute - self.begins.minute

    def fits(self, at: datetime, minutes: float) -> datetime:
        """The earliest start from a time on at which so many minutes fit into one day; longer work than a day begins in the morning."""
        long = min(minutes, self.minutes)
        start = max(at, datetime.combine(at.date(), self.begins))
        if start + timedelta(minutes=long) <= datetime.combine(start.date(), self.ends):
            return start
        return datetime.combine(start.date() + timedelta(days=1), self.begins)


def schedule(
    operations: Sequence[Operation], ties: Sequence[Tie], start: datetime, hands: int = 1, hours: tuple[str, str] = ("08:00", "17:00"),
    since: Mapping[str, datetime] | None = None, busy: Mapping[str, datetime] | None = None,
) -> list[Entry]:  # fmt: skip
    """Start and end of every operation's hand work, in order of start. No two share a hand, or a clamp while it is held. ``since``: when
    operations that are done and not among these are over; ``busy``: until when clamps stand on something else."""
    day, before = Day(hours), needs_of(operations, ties)
    by = {one.id: one for one in operations}
    place = {one.id: k for k, one in enumerate(operations)}
    after: dict[str, list[str]] = {name: [] for name in before}
    for name, needs in before.items():
        for need in needs:
            after[need].append(name)
    left = {name: len(needs) for name, needs in before.items()}
    over = since or {}
    ready_at = {one.id: max([start, *(over[n] for n in one.needs if n in over)]) for one in operations}
    free = [start] * max(1, hands)
    clamps: dict[str, datetime] = dict(busy or {})
    held = held_until(operations)
    waiting = [(ready_at[n], place[n], n) for n in before if not left[n]]
    heapq.heapify(waiting)
    found: list[Entry] = []
    while waiting:
        hand = min(range(len(free)), key=lambda k: free[k])
        name = _next(waiting, free[hand])
        one = by[name]
        earliest = max(ready_at[name], free[hand], *(clamps.get(s.clamp, start) for s in one.clamps), start)
        begins = day.fits(_whole(earliest), one.minutes)
        ends = begins + timedelta(minutes=one.minutes)
        free[hand] = ends
        for spot in one.clamps:
            clamps[spot.clamp] = ends + timedelta(minutes=one.wait_minutes + held.get(name, 0.0))
        found.append(Entry(operation=name, starts=_told(begins), ends=_told(ends)))
        done = ends + timedelta(minutes=one.wait_minutes)
        for later in after[name]:
            ready_at[later] = max(ready_at[later], done)
            left[later] -= 1
            if not left[later]:
                heapq.heappush(waiting, (ready_at[later], place[later], later))
    return sorted(found, key=lambda e: (e.starts, place[e.operation]))


def held_until(operations: Sequence[Operation]) -> dict[str, float]:
    """How long each glue-up's clamps stay on after its own work and wait: through the hand work and the wait of its first cure where the
    glue-up itself has none."""
    found = {}
    for one in operations:
        if one.kind == "glue" and not one.wait_minutes:
            cure = next((c for c in operations if c.kind == "cure" and set(c.works_on) & set(one.gives)), None)
            found[one.id] = cure.minutes + cure.wait_minutes if cure is not None else 0.0
    return found


def _next(waiting: list[tuple[datetime, int, str]], free: datetime) -> str:
    """Of what may begin by the time a hand is free, what stands first in the order; else what may begin first."""
    able = [row for row in waiting if row[0] <= free] or [waiting[0]]
    row = min(able, key=lambda r: r[1])
    waiting.remove(row)
    heapq.heapify(waiting)
    return row[2]


def _whole(at: datetime) -> datetime:
    """The next whole minute."""
    return at if not (at.second or at.microsecond) else at.replace(second=0, microsecond=0) + timedelta(minutes=1)


def _told(at: datetime) -> str:
    return _whole(at).isoformat(timespec="minutes")


def finish_of(operations: Sequence[Operation], entries: Sequence[Entry]) -> Mapping[str, str]:
    """When each build or board is done, waits counted: its last operation's end and wait."""
    by = {one.id: one for one in operations}
    found: dict[str, str] = {}
    for entry in entries:
        one = by[entry.operation]
        done = _told(datetime.fromisoformat(entry.ends) + timedelta(minutes=one.wait_minutes))
        found[one.board] = max(found.get(one.board, ""), done)
    return found
