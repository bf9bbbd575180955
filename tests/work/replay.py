"""Steps done again by somebody who knows only the contract: every id given once and used up at most once, every rule kept, marks drawn
again, machines not overrun, no hand and no clamp twice at a time."""

from __future__ import annotations

import itertools
from collections import Counter
from datetime import datetime, timedelta

PLANES = {"flatten", "thickness", "joint", "shoot"}
CUTS = {"crosscut", "rip", "resaw", "outline"}


def faults_of(making, job, plan, machines=()):
    """Everything that does not hold, in words; nothing where all does."""
    return [
        *_flow(making, job),
        *_order(making),
        *_marks_again(making),
        *_calendar(making),
        *_cuts(making, plan),
        *_machines(making, machines),
    ]


def _flow(making, job):
    there = {p.id for p in job.pieces}
    given, used = set(there), set()
    known = {w.id: w for w in making.workpieces}
    for one in making.operations:
        for name in one.works_on:
            if name not in there:
                yield f"{one.id}: {name} is not there"
            if one.gives:
                if name in used:
                    yield f"{one.id}: {name} is used up twice"
                used.add(name)
        if one.gives:
            there -= set(one.works_on)
        for name in one.gives:
            if name in given:
                yield f"{one.id}: {name} is given twice"
            given.add(name)
            there.add(name)
        if one.kind == "glue" and set(known[one.gives[0]].members) != set(one.works_on):
            yield f"{one.id}: its members are others"
    yield from (f"{w.id} is never given" for w in making.workpieces if w.id not in given)
    for ids in (Counter(o.id for o in making.operations), Counter(w.id for w in making.workpieces)):
        yield from (f"{name} stands twice" for name, n in ids.items() if n > 1)


def _order(making):
    place = {o.id: k for k, o in enumerate(making.operations)}
    for one in making.operations:
        yield from (f"{one.id} comes before {n}, which it needs" for n in one.needs if place[n] >= place[one.id])
    for tie in making.rules:
        if tie.blocks and not tie.over and place[tie.before] >= place[tie.after]:
            yield f"{tie.rule}: {tie.after} comes before {tie.before}"
    batches = {}
    for one in making.operations:
        if one.batch:
            batches.setdefault(one.batch, []).append(place[one.id])
    for name, places in batches.items():
        within = making.operations[min(places) : max(places) + 1]
        if any(o.batch != name and o.kind not in ("mark",) for o in within):
            yield f"batch {name} is torn apart"


def _marks_again(making):
    marked, bare = set(), set()
    for one in making.operations:
        if one.kind == "mark":
            marked |= set(one.works_on)
            bare -= set(one.works_on)
        elif one.kind in PLANES | CUTS | {"glue"}:
            yield from (f"{one.id}: {w} was planed and not marked again" for w in one.works_on if w in bare)
        if one.gives and set(one.works_on) & marked:
            marked |= set(one.gives)
        if one.kind in PLANES:
            bare |= set(one.works_on) & marked


def _calendar(making):
    if not making.calendar:
        return
    by = {o.id: o for o in making.operations}
    at = {e.operation: (datetime.fromisoformat(e.starts), datetime.fromisoformat(e.ends)) for e in making.calendar}
    if set(at) != set(by):
        yield "the calendar has other operations"
        return
    busy = []
    for name, (starts, ends) in at.items():
        one = by[name]
        if not making.hours[0] <= starts.strftime("%H:%M") <= making.hours[1] or ends.strftime("%H:%M") > making.hours[1]:
            yield f"{name} is out of hours: {starts} to {ends}"
        if ends - starts < timedelta(minutes=one.minutes) - timedelta(seconds=1):
            yield f"{name} is too short"
        for need in one.needs:
            done = at[need][0] + timedelta(minutes=by[need].minutes + by[need].wait_minutes)
            if done > starts + timedelta(seconds=1):
                yield f"{name} starts at {starts}, {need} is done at {done}"
        busy += [(starts, 1), (ends, -1)]
    now = most = 0
    for _, step in sorted(busy, key=lambda b: (b[0], b[1])):
        now += step
        most = max(most, now)
    if most > making.hands:
        yield f"{most} hands at once, there are {making.hands}"
    held = {}
    for one in making.operations:
        for spot in one.clamps:
            cure = next(c for c in making.operations if c.kind == "cure" and set(c.works_on) & set(one.gives))
            until = at[cure.id][0] + timedelta(minutes=cure.minutes + cure.wait_minutes)
            held.setdefault(spot.clamp, []).append((at[one.id][0], until, one.id))
    for clamp, spans in held.items():
        spans.sort()
        for (_, until, a), (starts, _, b) in itertools.pairwise(spans):
            if starts < until - timedelta(seconds=61):
                yield f"{clamp} is in {a} until {until}, and in {b} from {starts}"


def _cuts(making, plan):
    sawn = {o.cut: o for o in making.operations if o.cut is not None}
    if set(sawn) != {c.n for c in plan.cuts}:
        yield "not every cut is an operation"
    for cut in plan.cuts:
        one = sawn[cut.n]
        if (one.kind, one.line, one.marks, len(one.gives)) != (cut.tool, cut.line, cut.marks, len(cut.gives)):
            yield f"{one.id} is another cut than the plan's"


def _machines(making, machines):
    names = {m.name.lower(): m for m in machines}
    for one in making.operations:
        machine = names.get(one.machine)
        if (
            one.kind == "thickness"
            and machine is not None
            and machine.thinnest_mm
            and one.settings["thickness_mm"] < machine.thinnest_mm - 1e-9
        ):
            yield f"{one.id}: thinner than the {one.machine} takes"
