"""Workpieces that rest: how far from straight each was on which day, and from when on it may be levelled for that.

Hours alone do not tell that wood has come to rest. Once one was read on its sticks, the readings decide where the house lets moving wood
block its part; where it only advises, they are kept and told.
"""

from __future__ import annotations

from collections.abc import Iterator
from datetime import date, datetime, time, timedelta
from functools import partial
from typing import TYPE_CHECKING

from grainet.wood.rest import STILL_READINGS, RestState, rest_state, still_since
from grainet.wood.units import tell_length
from grainet.work.bench_log import StraightRead
from grainet.work.operation import Operation

if TYPE_CHECKING:
    from grainet.session.making import AtTheBench
    from grainet.session.shop import Shop

MORNING = time(8)


def read_straight(bench: AtTheBench, resting: Operation, mm: float, twist_mm: float | None = None) -> str:
    """How far from straight what rests is today, and out of wind where that was read; a second reading of a day replaces the first. What that
    means, in a sentence."""
    day = bench.now.date().isoformat()
    log = bench.log
    for name in resting.works_on:
        log = log.with_straight(StraightRead(workpiece=name, on=day, bow_mm=mm, twist_mm=twist_mm))
    as_read = partial(tell_length, style=bench.shop.kit.length_style, form="g")
    wind = f", {as_read(twist_mm)} out of wind" if twist_mm is not None else ""
    bench.shop.apply(f"rest: {as_read(mm)} from straight{wind}", log)
    from grainet.session.making import at_the_bench

    after = at_the_bench(bench.shop, log.id)
    assert after is not None
    return next((told for name in resting.works_on if (told := what_it_says(after, name))), "")


def rests_called(shop: Shop, name: str) -> list[tuple[AtTheBench, Operation]]:
    """What rests under a name, ``D1`` or ``heron-8.D1``, in every plan that is made: laid on its sticks already."""
    from grainet.session.making import at_the_bench, called

    found = []
    for under_way in shop.plans.accepted():
        bench = at_the_bench(shop, under_way.id)
        for one in bench.making.operations if bench is not None else ():
            named = {n.lower() for w in one.works_on for n in (w, called(w))}
            if bench is not None and one.kind == "rest" and not one.by_the_glue and name.lower() in named and bench.done(one):
                found.append((bench, one))
    return found


def what_it_says(bench: AtTheBench, workpiece: str) -> str:
    """What a workpiece's readings say, and what follows from that; empty where it was not read."""
    from grainet.session.making import called

    state, rules = _state(bench, workpiece), bench.shop.kit.rules
    if state.word == "unread":
        return ""
    if state.word == "settled":
        return f"{called(workpiece)} has settled: {state.message}"
    wanted = f"settled is {STILL_READINGS} readings within {rules.rest_within_mm:g} over {rules.rest_days} days"
    reads = bench.log.straightness_of(workpiece)
    so_far = f"{reads[0].bow_mm:g} from straight, read once" if len(reads) == 1 else state.message
    told = f"{called(workpiece)}: {so_far}; {wanted}"
    if _gate(bench, workpiece) != "block":
        return f"{told}. Nothing waits for it in this shop"
    until = _again(bench, workpiece)
    return f"{told}. Read it again on {until.day} {until:%b}, or set its rest aside in the order with a reason"


def still_until(bench: AtTheBench, resting: Operation) -> datetime | None:
    """The earliest at which what rests can count as settled by its readings; None where it does, was not read, or nothing waits for it."""
    found = [_again(bench, name) for name in _moving(bench, resting)]
    return datetime.combine(max(found), MORNING) if found else None


def moving_words(bench: AtTheBench, one: Operation) -> str:
    """Why an operation waits for wood that still moves; empty where it does not."""
    rests = [o for n in one.needs if (o := bench.making.operation(n)).kind == "rest"]
    name = next((name for o in rests if bench.done(o) for name in _moving(bench, o)), "")
    return what_it_says(bench, name) + "." if name else ""


def _moving(bench: AtTheBench, resting: Operation) -> Iterator[str]:
    for name in resting.works_on:
        if _state(bench, name).word not in ("unread", "settled") and _gate(bench, name) == "block":
            yield name


def _state(bench: AtTheBench, workpiece: str) -> RestState:
    rules = bench.shop.kit.rules
    return rest_state(bench.log.straightness_of(workpiece), rules.rest_within_mm, rules.rest_days)


def _again(bench: AtTheBench, workpiece: str) -> date:
    """The day on which a workpiece could count as settled, tomorrow at the earliest: somebody has to read it."""
    rules = bench.shop.kit.rules
    since = still_since(bench.log.straightness_of(workpiece), rules.rest_within_mm)
    return max(since + timedelta(days=rules.rest_days), bench.now.date() + timedelta(days=1))


def _gate(bench: AtTheBench, workpiece: str) -> str:
    one = next((w for w in bench.making.workpieces if w.id == workpiece), None)
    part = next((p for p in bench.under_way.job.parts if one is not None and p.id == one.part), None)
    return bench.shop.kit.rules.rest_gate(part.role if part is not None else "body")
