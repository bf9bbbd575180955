"""The plans that the shop keeps, which of them are sawn by, and how far each is."""

from __future__ import annotations

from collections.abc import Iterable

from grainet.design.design import Design
from grainet.job.answer import Plan
from grainet.job.job import Job
from grainet.session.items import Items
from grainet.session.kinds import BENCH, CUT_PLANS, PROGRESS
from grainet.wood.value import Value
from grainet.work.bench_log import BenchLog
from grainet.work.cut_plan import CutPlan, Progress, UnderWay
from grainet.work.matching import Matched


class Plans:
    """The cut plans of one shop."""

    def __init__(self, items: Items) -> None:
        self.items = items

    def all(self) -> list[CutPlan]:
        """Every plan that the shop keeps, the ones that were replaced too."""
        return self.items.all(CUT_PLANS)

    def under_way(self, plan_id: str) -> UnderWay | None:
        """A plan with its progress; None where there is no such plan."""
        plan = self.items.find(CUT_PLANS, plan_id)
        return None if plan is None else UnderWay(plan, self.items.find(PROGRESS, plan_id) or Progress(id=plan_id))

    def accepted(self) -> list[UnderWay]:
        """The plans that are sawn by, in the order in which they were accepted."""
        return [u for p in self.all() if p.state == "accepted" and (u := self.under_way(p.id)) is not None]

    def accepted_for(self, design_id: str | None) -> UnderWay | None:
        """The plan that a design is sawn by, if there is one; the newest where it is built more than once."""
        return next((u for u in reversed(self.accepted()) if design_id in u.designs), None)

    def in_hand(self, design_id: str | None) -> UnderWay | None:
        """The plan of a design, else the first that was accepted."""
        return self.accepted_for(design_id) or next(iter(self.accepted()), None)

    def accept(self, design: Design, job: Job, plan: Plan, matched: tuple[Matched, ...] = (), reason: str = "") -> CutPlan:
        """Keep a plan as the one that a design is sawn by, and every other build of its job with it. A plan of which nothing is sawn gives way
        to it; of one that is being sawn the new one takes over what it has in common. Raises ShopUnusable."""
        designs = tuple(dict.fromkeys((design.id, *(b.id for b in job.builds))))
        found = {u.id: u for d in designs if (u := self.accepted_for(d)) is not None}
        taken = {p.id for p in self.all()}
        number = next(n for n in (design.id, *(f"{design.id}-{k}" for k in range(2, 10_000))) if n not in taken)
        new = CutPlan(id=number, designs=designs, job=job, plan=plan, matched=matched, reason=reason)
        values: list[Value] = [new]
        values += [old.cut_plan.changed(state="replaced", reason=f"planned anew as {number}") for old in found.values()]
        common = set(new.names.values())
        done, agreed, returned = (
            tuple(
                dict.fromkeys(
                    n for old in found.values() for n in getattr(old.progress, what) if what == "returned" or n in common
                )
            )
            for what in ("done", "agreed", "returned")
        )
        if done or agreed or returned:
            values.append(Progress(id=number, done=done, agreed=agreed, returned=returned))
        if (log := self._log_of(number, found.values())) is not None:
            values.append(log)
        self.items.apply(f"{design.name} laid out", *values)
        return new

    def _log_of(self, number: str, found: Iterable[UnderWay]) -> BenchLog | None:
        """What the bench has done on the plans that a new one takes the place of: operations are named by what they do to what, so that what
        both have in common stays done."""
        old = [log for u in found if (log := self.items.find(BENCH, u.id)) is not None]
        if not old:
            return None
        fields = ("rows", "warmth", "over", "moved", "apart", "places", "ways", "left_off")
        together = {
            name: tuple(dict.fromkeys(one for log in old for one in getattr(log, name))) for name in fields if name != "rows"
        }
        rows = {row.operation: row for log in old for row in log.rows}
        return BenchLog(id=number, rows=tuple(rows.values())).changed(**together)
