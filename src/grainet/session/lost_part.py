"""A part that is lost: whether the rest of the rack makes another, from which board, what that displaces, and what it costs in days. Nothing is kept:
the plan that is found can be accepted, or not.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import datetime, timedelta

from grainet.design.design import Design
from grainet.job.answer import Placement, Plan
from grainet.job.job import Job
from grainet.session.making import AtTheBench, at_the_bench, log_of, making_for
from grainet.session.shop import Shop
from grainet.session.surprise import job_for_the_rest
from grainet.work.cut_plan import CutPlan, Progress, UnderWay, lost_key

Plans = Callable[[Job], Plan | None]


@dataclass(frozen=True)
class Again:
    """The answer: its sentence, the plan that makes the part again (None: nothing does), the builds that it takes wood from, and how many days later
    the instrument is done."""

    words: str
    job: Job | None = None
    plan: Plan | None = None
    displaces: tuple[str, ...] = ()
    days: float = 0.0


def made_again(shop: Shop, design: Design, plans: Plans) -> Again:
    """Whether a build whose part is lost can be made again. ``plans`` plans a job and gives None where that fails. Raises BadEntry where there is
    nothing to plan."""
    under_way = shop.plans.accepted_for(design.id)
    if under_way is None or not under_way.progress.lost:
        return Again("No part of it is lost.")
    job = job_for_the_rest(shop, design)
    for displacing, asked in ((False, job), (True, _with_promised(job))):
        if displacing and asked is job:
            continue
        plan = plans(asked)
        if plan is not None and design.id in plan.builds:
            return _told(shop, under_way, design, asked, plan)
    return Again(
        f"Nothing on the rack makes it again, not even what is promised to others. Look for ways out (Ctrl+Shift+R), or buy: the buy list says how much (Ctrl+B). {design.name} waits."
    )


def _with_promised(job: Job) -> Job:
    """The same with the boards that are promised to other builds, or kept for them; the job itself where there are none."""
    held = ("promised", "claimed")
    if not job.claims and not any(bar.code in held for bar in job.barred):
        return job
    return job.changed(barred=tuple(bar for bar in job.barred if bar.code not in held), claims=())


def _told(shop: Shop, under_way: UnderWay, design: Design, job: Job, plan: Plan) -> Again:
    old = {p.key: p for p in under_way.plan.placements}
    lost = set(under_way.progress.lost)
    new = [p for p in plan.placements if p.key not in old or lost_key(old[p.key]) in lost or p.polygon != old[p.key].polygon]
    named = {p.part: job.part(p.part).shown_name for p in new}
    where = list(dict.fromkeys(p.piece for p in new))
    displaces = _displaced(shop, design, new)
    days = _later(shop, under_way, job, plan)
    words = [f"{' and '.join(dict.fromkeys(named.values())) or 'It'} can be made again from {' and '.join(f'No. {b}' for b in where)}" if new else "What is left makes it again"]  # fmt: skip
    words.append(f"that takes wood from {' and '.join(displaces)}" if displaces else "nothing else gives way")
    words.append("it costs no day" if days < 0.05 else f"it costs {days * 24:.0f} hours" if days < 1 else f"it costs {days:.0f} day{'s' if round(days) != 1 else ''}")  # fmt: skip
    words[0] = words[0][:1].upper() + words[0][1:]
    return Again(f"{'; '.join(words)}. Lay out shows it: accept it (Alt+S), or leave it.", job, plan, displaces, days)


def _displaced(shop: Shop, design: Design, new: list[Placement]) -> tuple[str, ...]:
    """The builds and wishes that boards of the new places are promised to."""
    found = []
    for board in dict.fromkeys(p.piece for p in new):
        promise = shop.promises.boards().get(board)
        if promise is not None and design.id not in promise.designs:
            found.append(promise.name)
        found += [c.claimed_for for c in shop.promises.claims() if c.piece == board and c.design != design.id]
    return tuple(dict.fromkeys(found))


def _later(shop: Shop, under_way: UnderWay, job: Job, plan: Plan) -> float:
    """How many days later it is done than if nothing had been lost."""
    before = at_the_bench(shop, under_way.id)
    whole = plan.changed(cuts=(*job.cut, *plan.cuts)) if job.cut else plan
    asked = job.changed(pins=(), cut=(), hints=(), objective=None, plans=None) if job.version == 2 else job
    cut_plan = CutPlan(id=under_way.id, designs=under_way.designs, job=asked, plan=whole)
    known = set(cut_plan.names.values())
    done = tuple(n for n in under_way.progress.done if n in known)
    hypothetical = UnderWay(
        cut_plan, Progress(id=under_way.id, done=done, agreed=under_way.progress.agreed, returned=under_way.returned)
    )
    if before is None:
        return 0.0
    after = replace(before, under_way=hypothetical, making=making_for(shop, hypothetical), log=log_of(shop, under_way.id))
    return max(0.0, (_finish(after) - _finish(before)) / timedelta(days=1))


def _finish(bench: AtTheBench) -> datetime:
    """When everything that is left is done, waits counted."""
    waits = {o.id: o.wait_minutes for o in bench.making.operations}
    ends = [datetime.fromisoformat(e.ends) + timedelta(minutes=waits[name]) for name, e in bench.calendar.items()]
    return max(ends, default=bench.now)
