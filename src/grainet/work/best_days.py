"""The calendar made shorter than the list schedule: intervals of hand work, waits, hands, hours and clamps as one constraint programme, with a
deterministic budget. The list schedule is its first answer, so it is never longer."""

from __future__ import annotations

import math
from collections.abc import Collection, Mapping, Sequence
from datetime import datetime, time, timedelta
from typing import Any

from grainet.work.operation import Entry, Operation, Tie
from grainet.work.schedule import Day, schedule
from grainet.work.sequence import needs_of

BUDGET = 0.5  # deterministic seconds of the solver
MOST = 900  # operations; more stay with the list schedule


def best_days(
    operations: Sequence[Operation], ties: Sequence[Tie], start: datetime, hands: int = 1, hours: tuple[str, str] = ("08:00", "17:00"),
    since: Mapping[str, datetime] | None = None, busy: Mapping[str, datetime] | None = None, free: Collection[int] = (), budget: float = BUDGET,
) -> list[Entry]:  # fmt: skip
    """Start and end of every operation, as ``schedule`` tells them, with the earliest finish that the budget finds."""
    listed = schedule(operations, ties, start, hands, hours, since, busy, free)
    if not 1 < len(operations) <= MOST:
        return listed
    solver = _Programme(operations, ties, start, hands, hours, since or {}, busy or {}, listed, free)
    return solver.solved(budget) or listed


def finish(operations: Sequence[Operation], entries: Sequence[Entry]) -> datetime:
    """When the last operation is over, its wait counted."""
    waits = {o.id: o.wait_minutes for o in operations}
    return max(datetime.fromisoformat(e.ends) + timedelta(minutes=waits[e.operation]) for e in entries)


class _Programme:
    """The constraint programme of one calendar; minutes are counted from the midnight before it begins."""

    def __init__(
        self, operations: Sequence[Operation], ties: Sequence[Tie], start: datetime, hands: int, hours: tuple[str, str], since: Mapping[str, datetime],
        busy: Mapping[str, datetime], listed: Sequence[Entry], free: Collection[int],
    ) -> None:  # fmt: skip
        from ortools.sat.python import cp_model

        self.cp = cp_model
        self.model: Any = cp_model.CpModel()
        self.operations, self.day = list(operations), Day(hours, free)
        self.midnight = datetime.combine(start.date(), time())
        self.listed = {e.operation: self._minute(datetime.fromisoformat(e.starts)) for e in listed}
        self.first = self._minute(start)
        self.needs = needs_of(operations, ties)
        last = max(self.listed[o.id] + self._long(o) + self._wait(o) for o in operations)
        self.days = last // 1440 + 2
        self.start: dict[str, Any] = {}
        self.interval: dict[str, Any] = {}
        for one in self.operations:
            self._place(one, max([self.first, *(self._minute(since[n]) for n in one.needs if n in since)]), busy)
        self._bind(last)
        self._share(hands)

    def _minute(self, at: datetime) -> int:
        return math.ceil((at - self.midnight).total_seconds() / 60 - 1e-6)

    @staticmethod
    def _long(one: Operation) -> int:
        return math.ceil(one.minutes - 1e-9)

    @staticmethod
    def _wait(one: Operation) -> int:
        return math.ceil(one.wait_minutes - 1e-9)

    def _place(self, one: Operation, earliest: int, busy: Mapping[str, datetime]) -> None:
        """Its start lies within a day's hours, so that the hand work ends within them too."""
        opens, closes = (60 * t.hour + t.minute for t in (self.day.begins, self.day.ends))
        long = self._long(one)
        earliest = max([earliest, *(self._minute(busy[s.clamp]) for s in one.clamps if s.clamp in busy)])
        spans = []
        for day in range(self.days):
            low = max(1440 * day + opens, earliest)
            high = 1440 * day + max(opens, closes - long)
            if low <= high and self.day.works_on(self.midnight + timedelta(days=day)):
                spans.append((low, high))
        name = one.id
        self.start[name] = self.model.new_int_var_from_domain(
            self.cp.Domain.from_intervals(spans or [(earliest, earliest)]), name
        )
        self.interval[name] = self.model.new_fixed_size_interval_var(self.start[name], max(1, long), name)
        self.model.add_hint(self.start[name], self.listed[name])

    def _bind(self, last: int) -> None:
        """What needs another starts when that is over; the whole is over as early as can be."""
        by = {o.id: o for o in self.operations}
        self.end = self.model.new_int_var(0, last, "end")
        for name, needs in self.needs.items():
            for need in needs:
                self.model.add(self.start[name] >= self.start[need] + self._long(by[need]) + self._wait(by[need]))
            self.model.add(self.end >= self.start[name] + self._long(by[name]) + self._wait(by[name]))
        self.model.minimize(self.end)

    def _share(self, hands: int) -> None:
        """Hands, and clamps from the glue until its cure is over."""
        if hands == 1:
            self.model.add_no_overlap(list(self.interval.values()))
        else:
            self.model.add_cumulative(list(self.interval.values()), [1] * len(self.interval), hands)
        held: dict[str, list[Any]] = {}
        for one in (o for o in self.operations if o.kind == "glue" and o.clamps):
            cure = next((c for c in self.operations if c.kind == "cure" and set(c.works_on) & set(one.gives)), None)
            until = self.start[one.id] + self._long(one)
            if cure is not None:
                until = self.start[cure.id] + self._long(cure) + self._wait(cure)
            size = self.model.new_int_var(1, 1440 * self.days, f"held {one.id}")
            end = self.model.new_int_var(0, 1440 * self.days * 2, f"free {one.id}")
            self.model.add(end == until)
            span = self.model.new_interval_var(self.start[one.id], size, end, f"clamps {one.id}")
            for spot in one.clamps:
                held.setdefault(spot.clamp, []).append(span)
        for spans in held.values():
            if len(spans) > 1:
                self.model.add_no_overlap(spans)

    def solved(self, budget: float) -> list[Entry] | None:
        """The calendar that was found; None where none was."""
        solver = self.cp.CpSolver()
        solver.parameters.num_workers = 1
        solver.parameters.random_seed = 0
        solver.parameters.max_deterministic_time = budget
        if solver.solve(self.model) not in (self.cp.OPTIMAL, self.cp.FEASIBLE):
            return None
        place = {o.id: k for k, o in enumerate(self.operations)}
        found = []
        for one in self.operations:
            starts = self.midnight + timedelta(minutes=solver.value(self.start[one.id]))
            ends = starts + timedelta(minutes=self._long(one))
            found.append(
                Entry(operation=one.id, starts=starts.isoformat(timespec="minutes"), ends=ends.isoformat(timespec="minutes"))
            )
        return sorted(found, key=lambda e: (e.starts, place[e.operation]))
