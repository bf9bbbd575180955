"""When each operation may be done: a list schedule over days, at once. Hands, hours and clamps are shared by all builds; waits run on
through the night; what stands first in the order goes first."""

from __future__ import annotations

import heapq
from collections.abc import Collection, Mapping, Sequence
from datetime import date, datetime, time, timedelta

from grainet.work.operation import Entry, Operation, Tie
from grainet.work.sequence import needs_of


class Day:
    """The hours in which hands work, the same every day but the weekdays that are ``free`` (Monday is 0; never all seven); local time, so that a
    summer-time change moves no working day."""

    def __init__(self, hours: tuple[str, str], free: Collection[int] = ()) -> None:
        self.free = frozenset(free) if len(frozenset(free)) < 7 else frozenset[int]()
        self.begins, self.ends = (time.fromisoformat(h) for h in hours)

    @property
    def minutes(self) -> float:
        """How long it is."""
        return (self.ends.hour - self.begins.hour) * 60.0 + self.ends.minute - self.begins.minute

    def fits(self, at: datetime, minutes: float) -> datetime:
        """The earliest start from a time on at which so many minutes fit into one day; longer work than a day begins in the morning."""
        long = min(minutes, self.minutes)
        start = max(at, datetime.combine(at.date(), self.begins))
        if self.works_on(start) and start + timedelta(minutes=long) <= datetime.combine(start.date(), self.ends):
            return start
        day = start.date() + timedelta(days=1)
        while not self.works_on(day):
            day += timedelta(days=1)
        return datetime.combine(day, self.begins)

    def works_on(self, day: date) -> bool:
        """Whether hands work on a day."""
        return day.weekday() not in self.free


def schedule(
    operations: Sequence[Operation], ties: Sequence[Tie], start: datetime, hands: int = 1, hours: tuple[str, str] = ("08:00", "17:00"),
    since: Mapping[str, datetime] | None = None, busy: Mapping[str, datetime] | None = None, free: Collection[int] = (),
) -> list[Entry]:  # fmt: skip
    """Start and end of every operation's hand work, in order of start. No two share a hand, or a clamp while it is held. ``since``: when
    operations that are done and not among these are over; ``busy``: until when clamps stand on something else; ``free``: weekdays without hand work."""
    day, before = Day(hours, free), needs_of(operations, ties)
    by = {one.id: one for one in operations}
    place = {one.id: k for k, one in enumerate(operations)}
    after: dict[str, list[str]] = {name: [] for name in before}
    for name, needs in before.items():
        for need in needs:
            after[need].append(name)
    left = {name: len(needs) for name, needs in before.items()}
    over = since or {}
    ready_at = {one.id: max([start, *(over[n] for n in one.needs if n in over)]) for one in operations}
    hand_free = [start] * max(1, hands)
    clamps: dict[str, datetime] = dict(busy or {})
    cures = cures_of(operations)
    waits_for = {cure: name for name, cure in cures.items()}
    held: set[str] = set()  # clamps on a joint whose cure has no time yet
    waiting = [(ready_at[n], place[n], n) for n in before if not left[n]]
    heapq.heapify(waiting)
    found: list[Entry] = []
    while waiting:
        hand = min(range(len(hand_free)), key=lambda k: hand_free[k])
        name = _next(waiting, hand_free[hand], {n for _, _, n in waiting if held.isdisjoint(s.clamp for s in by[n].clamps)})
        one = by[name]
        earliest = max(ready_at[name], hand_free[hand], *(clamps.get(s.clamp, start) for s in one.clamps), start)
        begins = day.fits(_whole(earliest), one.minutes)
        ends = begins + timedelta(minutes=one.minutes)
        hand_free[hand] = ends
        clamps |= dict.fromkeys((s.clamp for s in one.clamps), ends + timedelta(minutes=one.wait_minutes))
        if name in cures:
            held |= {s.clamp for s in one.clamps}
        if (glued := waits_for.get(name)) is not None:
            free_again = [s.clamp for s in by[glued].clamps]
            held -= set(free_again)
            clamps |= dict.fromkeys(free_again, ends + timedelta(minutes=one.wait_minutes))
        found.append(Entry(operation=name, starts=_told(begins), ends=_told(ends)))
        done = ends + timedelta(minutes=one.wait_minutes)
        for later in after[name]:
            ready_at[later] = max(ready_at[later], done)
            left[later] -= 1
            if not left[later]:
                heapq.heappush(waiting, (ready_at[later], place[later], later))
    return sorted(found, key=lambda e: (e.starts, place[e.operation]))


def cures_of(operations: Sequence[Operation]) -> dict[str, str]:
    """The first cure of each glue-up that has no wait of its own: until that is over its clamps stay on."""
    found = {}
    for one in operations:
        if one.kind == "glue" and not one.wait_minutes:
            cure = next((c for c in operations if c.kind == "cure" and set(c.works_on) & set(one.gives)), None)
            if cure is not None:
                found[one.id] = cure.id
    return found


def _next(waiting: list[tuple[datetime, int, str]], free: datetime, may: set[str]) -> str:
    """Of what may begin by the time a hand is free, what stands first in the order; else what may begin first. What wants clamps that stand
    on a joint comes later: a cure wants none, so there is always something else."""
    able = [row for row in waiting if row[0] <= free and row[2] in may]
    row = min(able, key=lambda r: r[1]) if able else min((r for r in waiting if r[2] in may), default=min(waiting))
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
