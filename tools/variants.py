"""Hundreds of random jobs, each told otherwise, made harder and made easier: what cannot be true is a fault, and how often an unproved
value goes the wrong way is counted."""

from __future__ import annotations

import time

from grainet.plan.planner import plan_job
from grainet.plan.verify import check
from tests.jobs import random_job
from tests.plan import variants as v


def main(count: int = 200, first: int = 1000) -> int:
    """So many jobs; how many faults."""
    faults = wrong_way = pairs = 0
    began = time.perf_counter()
    for seed in range(first, first + count):
        made = random_job(seed)
        plain = plan_job(made)
        rows = (
            ("same", "shuffled", v.shuffled(made, seed)), ("same", "mirrored", v.mirrored(made)), ("easier", "more wood", v.with_more_wood(made)),
            ("harder", "a crack", v.with_a_crack(made, seed)), ("harder", "a wider saw", v.with_a_wider_saw(made)),
        )  # fmt: skip
        for relation, name, asked in rows:
            plan = plan_job(asked)
            pairs += 1
            found = [str(f) for f in check(asked, plan)] + [text for text in (v.broken(plain, plan, relation),) if text]
            faults += len(found)
            for text in found:
                print(f"job {seed}, {name}: {text}")
            less, more = (plan, plain) if relation == "harder" else (plain, plan)
            if relation != "same" and less.value > more.value + 1e-6:
                wrong_way += 1
                print(f"job {seed}, {name}: {less.value:g} where it should be at most {more.value:g} (unproved)")
    print(
        f"{count} random jobs, {pairs} variants: {faults} faults; an unproved value went the wrong way {wrong_way} times; "
        f"{time.perf_counter() - began:.0f} s"
    )
    return faults
