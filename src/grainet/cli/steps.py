"""The command that says what a plan asks of the bench: every operation in order, with its calendar."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any


def add_to(commands: Any) -> None:
    """Add it to the program's commands."""
    steps = commands.add_parser(
        "steps", help="every operation of a plan in order: saw, plane, glue, wait, shape; with rules and a calendar"
    )
    steps.add_argument("job", type=Path)
    steps.add_argument("plan", type=Path)
    steps.add_argument("--guitar", type=Path, action="append", default=[], help="the guitar of a build; may stand several times")
    steps.add_argument("--shop", type=Path, help="machines, clamps, glue, warmth, hands, hours; without it the shipped ones")
    steps.add_argument(
        "--from", dest="start", help="when the calendar begins, such as 2026-12-01T08:00; without it there is none"
    )
    steps.add_argument("--out", type=Path, required=True)
    steps.set_defaults(run=_steps)


def _steps(options: argparse.Namespace) -> int:
    from grainet.exchange.guitar_file import read_guitar
    from grainet.exchange.job_file import read_job, read_plans
    from grainet.exchange.json_file import Unusable
    from grainet.exchange.steps_file import read_shop, read_start, write_steps
    from grainet.plan.verify import check
    from grainet.work.making import making_of
    from grainet.work.schedule import finish_of

    job, (plan, *more) = read_job(options.job), read_plans(options.plan)
    if more:
        raise Unusable([f"{options.plan.name}: holds {1 + len(more)} plans, needs one: the plan that is made"])
    if faults := list(check(job, plan)):
        raise Unusable([f"{options.plan.name}: the plan does not hold: {fault}" for fault in faults])
    guitars = [read_guitar(path) for path in options.guitar]
    builds = {p.build for p in plan.placements}
    for g, path in zip(guitars, options.guitar):
        if g.id not in builds:
            found = ", ".join(sorted(b for b in builds if b)) or "none"
            raise Unusable([f"{path.name}: the plan makes no build “{g.id}”; it makes {found}"])
    found_steps = making_of(job, plan, guitars, read_shop(options.shop), read_start(options.start))
    write_steps(options.out, found_steps)
    glued = sum(o.kind == "glue" for o in found_steps.operations)
    done = max(finish_of(found_steps.operations, found_steps.calendar).values(), default="")
    print(
        f"{len(found_steps.operations)} operations, {glued} glue-ups, {len(found_steps.workpieces)} workpieces"
        + (f"; missing: {', '.join(found_steps.missing)}" if found_steps.missing else "")
        + (f"; done {done.replace('T', ' ')}" if done else "")
    )
    return 0
