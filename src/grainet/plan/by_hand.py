"""A quick plan by hand's rule, sawn and verified: enough to know that a thing can be made, and where the planner begins."""

from __future__ import annotations

from collections.abc import Callable

from grainet.job.answer import Plan
from grainet.job.job import Job
from grainet.plan.greedy import greedy_plan
from grainet.plan.planner import PlanFault, Planner, PlannerCache


def by_hand(job: Job, memory: PlannerCache, serves: Callable[[Plan], bool]) -> Plan | None:
    """A plan that serves out of what hand's rule lays, thickest part first or most worth first; None where neither does."""
    for asked in (job, without_builds(job)):
        planner = Planner(job, memory=memory)
        planner.prepare()
        start = greedy_plan(asked, planner.sheets, memory.first)
        if not start:
            continue
        try:
            plan = planner.plan_with(start, plain_bound=True)
        except PlanFault:
            continue
        if serves(plan):
            return plan
    return None


def without_builds(job: Job) -> Job:
    """The same parts in the numbers that the builds' first recipes, or first ways, need, each for itself."""
    if not job.builds:
        return job
    needs: dict[str, int] = {}
    for build in job.builds:
        for part, count in build.usual_needs.items():
            needs[part] = needs.get(part, 0) + count
    return job.changed(parts=tuple(p.changed(quantity=needs[p.id]) for p in job.parts if p.id in needs), builds=())
