"""What a shop learns: records from the bench, from what is typed and from weighings; what they propose; what a change moves before it is kept;
keeping it, leaving it as it was, taking it back. Nothing of the shop changes unless a person says so.
"""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import timedelta
from itertools import pairwise
from typing import TYPE_CHECKING

from grainet.session.kinds import LEARNT, RECORDS
from grainet.session.making import AtTheBench, making_for
from grainet.session.shop import Shop
from grainet.wood.units import LENGTH, LengthStyle, entry_unit, parse_length, tell_gap
from grainet.wood.value import BadEntry, Value
from grainet.work.bench_log import BenchLog, instant
from grainet.work.learning import RATIOS, Lane, lanes_of
from grainet.work.operation import SAWING, Operation
from grainet.work.record import KeptAsItWas, Learnt, PlannedWith, Record, What

if TYPE_CHECKING:
    from grainet.design.instrument import Instrument
    from grainet.job.job import Job
    from grainet.kit.machine import Machine
    from grainet.kit.shop_profile import ShopProfile

LOSSES: dict[str, str] = {"skim": "skim_mm", "edge": "edge_mm", "leaf skim": "resaw_skim_mm", "trim": "trim_mm"}
OF_MACHINES: dict[str, str] = {"kerf": "kerf_mm", "miss": "wander_mm", "lean": "lean_deg"}
NAMES: dict[str, str] = {
    "skim": "takes off a face", "edge": "takes off a joint edge", "leaf skim": "takes off a sawn leaf's face", "trim": "end trim", "kerf": "kerf", "miss": "misses its mark by",
    "lean": "leans", "snipe": "snipe at the ends", "minutes": "minutes", "settling": "settles",
}  # fmt: skip
SHORTEST_MIN, LONGEST_MIN = 0.3, 180.0  # between two ticks: less is a habit, more is a pause
PAUSE_MIN, PAUSE_TIMES = 15.0, 8.0  # a step that took longer than both, in minutes and against the book, was no work all along


def learnt_of(shop: Shop) -> Learnt:
    """What the shop made of its records so far."""
    return shop.items.find(LEARNT, "learnt") or Learnt()


# records -----------------------------------------------------------------------------------------------------------------
def records_of(shop: Shop) -> list[Record]:
    """All of them: what was measured and typed, how long steps took, how quickly pieces settled."""
    return [*shop.items.all(RECORDS), *_minutes(shop), *_settling(shop)]


def at_a_step(bench: AtTheBench, one: Operation, mm: float) -> Record | None:
    """The record of a figure that was measured at an operation; None where nothing is learnt from it. Told again it takes the first one's
    place."""
    what: What
    if one.kind in ("flatten", "joint"):
        what, planned = ("skim" if one.kind == "flatten" else "edge"), next(iter(one.takes_mm.values()), 0.0)
    elif one.kind == "thickness":
        what, planned = "miss", float(one.settings.get("thickness_mm", 0.0))
    elif one.kind in SAWING and one.marks:
        what, planned = "miss", one.marks[0].mm
    else:
        return None
    board = board_of(bench, one)
    x_mm = one.line[0][0] if one.kind == "crosscut" and one.line else None
    return Record(
        id=f"{bench.under_way.id}/{one.id}"[-200:], what=what, tool=one.machine, species=_wood_of(bench, board), planned=planned, measured=mm,
        on=bench.now.date().isoformat(), board=board, x_mm=x_mm,
    )  # fmt: skip


def board_of(bench: AtTheBench, one: Operation) -> str:
    """The board that an operation's wood comes from; of a joined piece its first member's."""
    by = {w.id: w for w in bench.making.workpieces}
    name = one.works_on[0]
    while name in by and not by[name].from_ and by[name].members:
        name = by[name].members[0]
    if name in by and by[name].from_:
        return by[name].from_
    boards = {p.id for p in bench.under_way.job.pieces}
    return (
        one.board if one.board in boards else next((b for b in sorted(boards, key=len, reverse=True) if name.startswith(b)), "")
    )


def _wood_of(bench: AtTheBench, board: str) -> str:
    return next((p.species for p in bench.under_way.job.pieces if p.id == board), "")


def typed(shop: Shop, words: str) -> Record:
    """A figure that is told by hand: ``jointer 2.4``, ``edge 1.8``, ``kerf table saw 3.1``, ``lean band saw 1.5``. The wood is that of
    the piece in hand, where the line ends in ``on 42``. Raises BadEntry."""
    told, _, number = words.strip().partition(" on ")
    style = shop.kit.length_style
    found = re.fullmatch(rf"(.*?)\s+(-?)({LENGTH})", told.strip(), re.I)
    if found is None:
        such = "planer 2.4, kerf table saw 3.1" if style == "mm" else "planer 3/32, kerf table saw 1/8"
        raise BadEntry(f"“{words}”: needs what and a figure, such as {such}, lean band saw 1.5.")
    species = _species_on(shop, number.strip())
    what, machine = _what_and_tool(shop.kit, found[1].strip().lower())
    size = parse_length(found[3], "mm" if what == "lean" else entry_unit(style)).mm if found[3].strip("0.,") else 0.0
    mm = -size if found[2] else size
    value = assumed(shop.kit, what, machine, species)
    records = shop.items.all(RECORDS)
    number_free = next(n for n in range(1, 1_000_000) if not any(r.id == f"typed/{n}" for r in records[-2000:]))
    if not (-1e-9 <= mm <= 200):
        raise BadEntry(f"“{words}”: found {told_figure(what, mm, style)}; needs 0 to {told_figure(what, 200, style)}.")
    return Record(
        id=f"typed/{number_free}", what=what, tool=machine, species=species, planned=value or 0.0, measured=mm, on=shop.today.isoformat(), board=number.strip()
    )  # fmt: skip


def told_figure(what: str, value: float, style: LengthStyle, form: str = "g") -> str:
    """A figure that was learnt, as the house reads it: a size in mm or in thousandths of an inch, a lean in degrees, a ratio as it is."""
    length = what != "lean" and what not in RATIOS
    return tell_gap(value, style) if length and style != "mm" else f"{value:{form}}"


def _species_on(shop: Shop, number: str) -> str:
    if not number:
        return ""
    found = next((p for p in shop.pieces(everything=True) if p.id == number), None)
    if found is None:
        raise BadEntry(f"No. {number} is not in this shop; leave “on {number}” out, or give a piece's number.")
    return found.species


def _what_and_tool(kit: ShopProfile, name: str) -> tuple[What, str]:
    """What is meant by a name: a loss alone, a machine alone (what it takes off), or a quantity and a machine. Raises BadEntry."""
    words: tuple[What, ...] = ("leaf skim", "skim", "edge", "trim", "kerf", "miss", "lean", "snipe")
    what: What | None = next((w for w in words if name == w or name.startswith(f"{w} ")), None)
    rest = name[len(what) :].strip() if what else name
    machine = _machine(kit, rest) if rest else None
    if rest and machine is None:
        raise BadEntry(f"“{rest}” is no machine of this shop; it has {', '.join(m.name.lower() for m in kit.machines)}.")
    if what is None:
        takes = machine is not None and machine.kind.value in ("planer", "thicknesser", "hand plane", "sander")
        if not takes:
            raise BadEntry(f"“{name}” with a figure alone: of a saw say kerf, miss or lean, such as kerf {name} 3.1.")
        what = "skim"
    if what in OF_MACHINES and machine is None:
        raise BadEntry(
            f"{what} needs its machine, such as {what} {next((m.name.lower() for m in kit.machines), 'table saw')} 1.5."
        )
    return what, machine.name.lower() if machine is not None else _usual(kit, what)


def _machine(kit: ShopProfile, words: str) -> Machine | None:
    exact = next((m for m in kit.machines if m.name.lower() == words), None)
    return exact or next((m for m in kit.machines if m.name.lower().startswith(words) or m.kind.value == words), None)


def _usual(kit: ShopProfile, what: What) -> str:
    """The machine that usually takes a loss: the planer; nothing where the shop has none."""
    from grainet.kit.machine import Work, machine_for

    found = machine_for(kit.machines, Work.CROSSCUT if what == "trim" else Work.THICKNESS if what == "leaf skim" else Work.FACE)
    return found.name.lower() if found is not None else ""


def _minutes(shop: Shop) -> Iterator[Record]:
    """How long a step took: from the tick before it on the same plan, where that is a span of work and no pause."""
    seen: set[tuple[str, str]] = set()  # a plan made anew takes over what the one before it has done
    for plan in shop.plans.all():
        log = _log(shop, plan.id)
        under_way = shop.plans.under_way(plan.id) if len(log.rows) > 1 else None
        if under_way is None:
            continue
        making = {o.id: o for o in making_for(shop, under_way).operations}
        paces = dict(shop.kit.paces)
        rows = sorted(log.rows, key=lambda r: r.at)
        over = {
            r.operation: instant(r.at) + timedelta(minutes=making[r.operation].wait_minutes)
            for r in rows
            if r.operation in making
        }
        for before, row in pairwise(rows):
            one = making.get(row.operation)
            # what still cured or rested before it could begin is no work
            begun = max([instant(before.at), *(over[n] for n in (one.needs if one is not None else ()) if n in over)])
            took = (instant(row.at) - begun) / timedelta(minutes=1)
            if (row.operation, row.at) in seen:
                continue
            seen.add((row.operation, row.at))
            if one is None or one.kind in ("cure", "rest") or not SHORTEST_MIN <= took <= LONGEST_MIN:
                continue
            book = one.minutes / paces.get(one.kind, 1.0)
            if took > max(PAUSE_MIN, PAUSE_TIMES * book):
                continue  # somebody was called away
            yield Record(
                id=f"{under_way.id}/{one.id}/minutes"[-200:], what="minutes", tool=one.kind, planned=round(book, 2), measured=round(took, 2), on=row.at[:10]
            )  # fmt: skip


def _log(shop: Shop, plan_id: str) -> BenchLog:
    from grainet.session.making import log_of

    return log_of(shop, plan_id)


def _settling(shop: Shop) -> Iterator[Record]:
    """How quickly pieces settled that were weighed three times or more, as a share of the book's pace."""
    from grainet.grade.forecast import LEAST_WEIGHINGS, forecast_of

    for piece in shop.pieces(everything=True):
        if len(piece.weighings) < LEAST_WEIGHINGS:
            continue
        found = forecast_of(piece, shop.kit.library.find(piece.species), shop.kit)
        if found is not None and found.fit is not None:
            yield Record(
                id=f"{piece.id}/settling", what="settling", species=piece.species, planned=1.0, measured=round(found.fit.pace, 3), on=piece.weighings[-1].on, board=piece.id
            )  # fmt: skip


# what is planned with ------------------------------------------------------------------------------------------------------
def assumed(kit: ShopProfile, what: What, tool: str, species: str) -> float | None:
    """What the shop plans with now; None where nothing is planned with such a figure."""
    if what in LOSSES:
        return float(getattr(kit.losses, LOSSES[what]))
    if what in OF_MACHINES:
        machine = next((m for m in kit.machines if m.name.lower() == tool), None)
        found = getattr(machine, OF_MACHINES[what]) if machine is not None else None
        return None if found is None else float(found)
    if what == "snipe":
        return kit.snipe_mm
    if what == "minutes":
        return dict(kit.paces).get(tool, 1.0)
    return dict(kit.settles).get(species, 1.0) if what == "settling" else None


def with_figure(kit: ShopProfile, what: What, tool: str, species: str, value: float) -> ShopProfile:
    """The shop planning with another figure. Raises ValidationError where that is no such figure."""
    if what in LOSSES:
        return kit.changed(losses=kit.losses.changed(**{LOSSES[what]: value}))
    if what in OF_MACHINES:
        name = OF_MACHINES[what]
        return kit.changed(
            machines=tuple(
                m.changed(**{name: value, "guessed": m.guessed - {name}}) if m.name.lower() == tool else m for m in kit.machines
            )
        )
    if what == "snipe":
        return kit.changed(snipe_mm=value)
    field, key = ("paces", tool) if what == "minutes" else ("settles", species)
    kept = {**dict(getattr(kit, field)), key: value}
    return kit.changed(**{field: tuple(sorted(kept.items()))})


def lanes(shop: Shop) -> list[Lane]:
    """Every lane, those that propose first."""
    kit = shop.kit
    return lanes_of(records_of(shop), learnt_of(shop), lambda what, tool, species: assumed(kit, what, tool, species))


def plan_with(shop: Shop, lane: Lane, value: float | None = None) -> float:
    """Plan with what a lane proposes, or with a figure that a person prefers; that figure. Raises ShopUnusable, ValidationError."""
    now = lane.figure if value is None else value
    learnt = learnt_of(shop)
    row = PlannedWith(lane=lane.key, was=lane.assumed or 0.0, now=now, count=len(lane.records), on=shop.today.isoformat())
    new = with_figure(shop.kit, lane.what, lane.tool, lane.species, now)
    told = learnt.changed(planned_with=(*learnt.planned_with, row))
    shop.apply(
        f"{title_of(lane)}: planned with {told_figure(lane.what, now, shop.kit.length_style)}", new, told, *_drawn_anew(shop, new)
    )
    return now


def keep(shop: Shop, lane: Lane) -> None:
    """Go on with what is assumed; the lane is silent until five more records have come."""
    learnt = learnt_of(shop)
    row = KeptAsItWas(lane=lane.key, count=len(lane.records), on=shop.today.isoformat())
    rest = tuple(k for k in learnt.kept if k.lane != lane.key)
    shop.apply(f"{title_of(lane)}: kept as it was", learnt.changed(kept=(*rest, row)))


def take_back(shop: Shop, lane: Lane) -> float | None:
    """What a lane changed is as it was before; that figure, or None where it changed nothing. The lane is silent then, as one that was kept."""
    learnt = learnt_of(shop)
    row = learnt.taken(lane.key)
    if row is None:
        return None
    rest = tuple(p for p in learnt.planned_with if p is not row)
    kept = (
        *(k for k in learnt.kept if k.lane != lane.key),
        KeptAsItWas(lane=lane.key, count=len(lane.records), on=shop.today.isoformat()),
    )
    new = with_figure(shop.kit, lane.what, lane.tool, lane.species, row.was)
    shop.apply(f"{title_of(lane)}: as it was", new, learnt.changed(planned_with=rest, kept=kept), *_drawn_anew(shop, new))
    return row.was


def title_of(lane: Lane) -> str:
    """A lane in words: Planer takes off a face, ash."""
    head = lane.species if lane.what == "settling" else lane.tool
    return f"{head[:1].upper()}{head[1:]} {NAMES[lane.what]}".strip()


# what a change moves -----------------------------------------------------------------------------------------------------
@dataclass(frozen=True)
class Change:
    """One thing that a figure would move: its words, and whether something no longer holds."""

    words: str
    breaks: bool = False


def changes(shop: Shop, lane: Lane, value: float) -> list[Change]:
    """What planning with a figure would move at once: accepted plans that would no longer hold, sizes of blanks that are not laid out yet,
    hours, days."""
    if lane.what == "minutes":
        return [_hours(shop, lane, value)]
    if lane.what == "settling":
        wet = [p for p in shop.pieces() if p.species == lane.species]
        return [
            Change(
                f"forecasts of {len(wet)} pieces of {lane.species}: {'sooner' if value > (lane.assumed or 1.0) else 'later'} ready"
            )
        ]
    new = with_figure(shop.kit, lane.what, lane.tool, lane.species, value)
    plans = [] if lane.what == "snipe" else list(_plans(shop, new))  # what is laid out has its snipe in its parts
    return [*plans, *_blanks(shop, new)] or [Change("no plan and no blank moves by it")]


def _plans(shop: Shop, new: ShopProfile) -> Iterator[Change]:
    """Plans that are kept and not sawn yet: whether they hold with the new figures."""
    from grainet.plan.verify import check

    names = {d.id: d.name for d in shop.designs()}
    for under_way in shop.plans.accepted():
        if not under_way.left() or under_way.progress.done:
            continue
        thickest = max((new.cuts.stack_mm(p.thickness_mm, p.leaves) for p in under_way.job.parts), default=0.0)
        faults = check(under_way.job.changed(kit=new.cuts_for(thickest)), under_way.plan)
        name = names.get(under_way.designs[0], under_way.designs[0])
        if faults:
            yield Change(
                f"{name}'s plan no longer holds: {_in_words(under_way.job, str(faults[0]))}. Lay it out again (F5)", breaks=True
            )
        else:
            yield Change(f"{name}'s plan holds with it")


def _in_words(job: Job, fault: str) -> str:
    """A fault of the checker as a person reads it: parts by their names, and no place in a file."""
    text = re.sub(r"^\w+\[\d+\]\s*", "", fault)
    for part in sorted(job.parts, key=lambda p: -len(p.id)):
        text = text.replace(part.id, part.shown_name.lower())
    return re.sub(r"^\((.*?)\):", r"\1:", text)


def _blanks(shop: Shop, new: ShopProfile) -> Iterator[Change]:
    """Blanks of instruments that have no plan yet: those whose rough sizes move."""
    from grainet.design.blanks import blanks_of
    from grainet.design.parts import label_of

    for g in _not_planned(shop):
        before = {b.part: b for b in blanks_of(g, shop.kit.cuts.allowances)}
        for blank in blanks_of(_sniped(g, shop.kit, new), new.cuts.allowances):
            old = before.get(blank.part)
            sizes = (
                [(getattr(old, n).mm, getattr(blank, n).mm) for n in ("length", "width", "thickness")] if old is not None else []
            )
            if any(abs(a - b) > 0.049 for a, b in sizes):
                yield Change(
                    f"{g.name}: {label_of(blank).lower()} is {' × '.join(f'{b:.1f}' for _, b in sizes)} rough, was {' × '.join(f'{a:.1f}' for a, _ in sizes)}"
                )


def _not_planned(shop: Shop) -> list[Instrument]:
    """Instruments that are drawn up and have no plan yet."""
    planned = {d for u in shop.plans.accepted() for d in u.designs}
    return [g for g in shop.instruments.all() if g.id not in planned]


def _sniped(g: Instrument, old: ShopProfile, new: ShopProfile) -> Instrument:
    """An instrument that goes by the shop's snipe, with the shop's new one; one that has a snipe of its own keeps it."""
    return g.with_figure("snipe_mm", new.snipe_mm) if g.snipe_mm == old.snipe_mm != new.snipe_mm else g


def _drawn_anew(shop: Shop, new: ShopProfile) -> list[Value]:
    """The instruments without a plan that another snipe moves, each with its design."""
    from grainet.design.parts import design_of

    moved = [h for g in _not_planned(shop) if (h := _sniped(g, shop.kit, new)) is not g]
    return [value for g in moved for value in (g, design_of(g))]


def _hours(shop: Shop, lane: Lane, value: float) -> Change:
    """By how much the hand work that is left grows or shrinks."""
    from grainet.session.making import at_the_bench

    old = lane.assumed or 1.0
    left = sum(
        o.minutes
        for u in shop.plans.accepted()
        if (b := at_the_bench(shop, u.id)) is not None
        for o in b.left
        if o.kind == lane.tool
    )
    more = left * (value / old - 1)
    return Change(f"{abs(more):.0f} minutes {'more' if more > 0 else 'less'} in what is still to make")


def misses_on(shop: Shop, board: str) -> list[Record]:
    """What was measured of where the cuts across a board went."""
    return [r for r in shop.items.all(RECORDS) if r.what == "miss" and r.board == board and r.x_mm is not None]
