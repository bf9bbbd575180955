"""Plans of one job that differ, each the best by an aim of its own: least wood opened, most figure seen, lightest, cheapest, fewest joints."""

from __future__ import annotations

from collections.abc import Callable, Iterator

from grainet.job.answer import Plan
from grainet.job.job import Job, Objective
from grainet.plan.planner import PlanFault, Planner, PlannerCache, plan_job

Key = tuple[tuple[str, ...], str]


def aims_for(job: Job, most: int = 3) -> list[Objective]:
    """Aims that make a difference on the wood at hand: nobody compares figure where there is none, or prices that nobody told."""
    aims: list[Objective] = ["yield"]
    if any(p.figure for p in job.pieces):
        aims.append("figure")
    if any(w.joints for b in job.builds for c in b.components for w in c.ways):
        aims.append("joints")
    aims.append("weight")
    if any(p.supply.price for p in job.pieces):
        aims.append("cost")
    return aims[:most]


def key_of(plan: Plan) -> Key:
    """What makes two plans the same to a person: the boards that are sawn, and how each build is made."""
    return tuple(sorted({p.piece for p in plan.placements})), repr(sorted(plan.builds.items()))


def alternatives(
    job: Job, aims: list[Objective], seconds: float | None = None, memory: PlannerCache | None = None,
    tell: Callable[[str, float], None] | None = None,
) -> Iterator[tuple[str, Plan]]:  # fmt: skip
    """A plan for each aim, as it is found; one that is the same as an earlier one gives way to the next best, which is called "other", and is
    left out where there is none."""
    kept, seen = memory or PlannerCache(), set[Key]()
    for aim in aims:
        planner = Planner(job.changed(version=2, objective=aim), seconds=seconds, memory=kept, tell=tell)
        try:
            plan: Plan | None = planner.plan()
            told: str = aim
            while plan is not None and key_of(plan) in seen:
                plan, told = planner.another(), "other"
        except PlanFault:  # what the verifier refuses is no alternative
            continue
        if plan is not None and plan.placements and key_of(plan) not in seen:
            seen.add(key_of(plan))
            yield told, plan
    if not seen:  # nothing can be made: what was refused is worth seeing all the same
        yield aims[0], plan_job(job, seconds=seconds, memory=kept)
