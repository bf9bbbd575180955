"""Labels for what was cut and joined: each part of a plan that lies here by itself, with its letter, what it is, its size, where it came from."""

from __future__ import annotations

from collections.abc import Iterator

from grainet.exchange.labels import Label, code_of
from grainet.session.making import AtTheBench, at_the_bench, called
from grainet.session.shop import Shop
from grainet.wood.species import short_name
from grainet.wood.units import LengthStyle, format_length
from grainet.work.workpiece import Freed, Workpiece, freed_of

ELSEWHERE = ("in ", "not ", "on the rack", "lost")  # how the state of what does not lie here by itself begins
MOST_FROM = 4  # boards that a joined part is said to come from by their numbers


def lies_here(bench: AtTheBench) -> list[Workpiece]:
    """The workpieces of a plan that lie on the bench or a shelf by themselves."""
    return [
        w
        for w in bench.making.workpieces
        if not bench.states.get(w.id, "in ").startswith(ELSEWHERE) or bench.states[w.id] == "in clamps"
    ]


def labels_of(bench: AtTheBench, style: LengthStyle = "mm") -> list[Label]:
    """A label for each of them, in the order of the plan."""
    freed = {f.workpiece.id: f for f in freed_of(bench.under_way.job, bench.under_way.plan)}
    build = ", ".join(d.name for d in bench.shop.designs() if d.id in bench.under_way.designs)
    return [_label(bench, w, freed.get(w.id), build, style) for w in lies_here(bench)]


def _label(bench: AtTheBench, one: Workpiece, freed: Freed | None, build: str, style: LengthStyle) -> Label:
    what = build if freed is None else f"{build}: {freed.part.shown_name}"
    lines = [(what, "Words-Bold", 8.5)]
    if freed is not None:
        figures = (*freed.size_mm, freed.depth_mm)
        unit = " mm" if style == "mm" else ""
        lines.append((" × ".join(format_length(mm, style) for mm in figures) + f"{unit} as sawn", "Words", 8.5))
    boards = sorted(_boards(bench, one))
    wood = sorted({short_name(bench.shop.piece(b).species).lower() for b in boards if bench.shop.has_piece(b)})
    told = f"{', '.join(wood)} from No. {', '.join(boards[:MOST_FROM])}" + (
        f" and {len(boards) - MOST_FROM} more" if len(boards) > MOST_FROM else ""
    )
    lines.append((told, "Words", 8.5))
    lines.append((bench.states[one.id], "Words", 8.5))
    return Label(called(one.id), code_of(one.id), lines)


def _boards(bench: AtTheBench, one: Workpiece) -> set[str]:
    """The boards that a workpiece comes from, through all its joints."""
    by = {w.id: w for w in bench.making.workpieces}
    found = {one.from_} if one.from_ else set()
    return found.union(*(_boards(bench, by[m]) for m in one.members if m in by))


def _benches(shop: Shop) -> Iterator[AtTheBench]:
    for plan in shop.plans.accepted():
        bench = at_the_bench(shop, plan.id)
        if bench is not None:
            yield bench


def part_told(shop: Shop, name: str) -> str:
    """What a part is and where it lies, by the name that its label's code says; empty where no accepted plan has it."""
    for bench in _benches(shop):
        one = next((w for w in bench.making.workpieces if w.id.lower() == name.lower()), None)
        if one is not None:
            build = ", ".join(d.name for d in shop.designs() if d.id in bench.under_way.designs)
            return f"{called(one.id)} of {build}, from No. {', '.join(sorted(_boards(bench, one)))}: {bench.states[one.id]}"
    return ""
