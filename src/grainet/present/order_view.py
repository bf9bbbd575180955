"""What Order shows: the steps of one member or one board in a row, the strings between them, the days, what waits."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from grainet.present.bench_view import TITLES
from grainet.session.making import AtTheBench, called
from grainet.work.clamp_plan import pressed_with
from grainet.work.operation import Operation, Tie
from grainet.work.order_rules import RULES
from grainet.work.workpiece import Workpiece


@dataclass(frozen=True)
class ShelfStep:
    """One step on the shelf: its number on the whole list, what stands under it, and the day on which it is done."""

    number: int
    operation: Operation
    title: str
    below: str
    day: str
    done: bool

    @property
    def id(self) -> str:
        """The operation's id."""
        return self.operation.id


@dataclass(frozen=True)
class String:
    """A rule between two steps; ``other`` is the number of a step that is not on the shelf."""

    tie: Tie
    from_number: int
    to_number: int

    @property
    def why(self) -> str:
        """The rule's reason, and the school that does otherwise."""
        rule = RULES[self.tie.rule]
        return rule.why + (f" Others: {rule.others}." if rule.others else "")


@dataclass(frozen=True)
class Shelf:
    """One group's steps with its strings."""

    group: str
    steps: tuple[ShelfStep, ...]
    strings: tuple[String, ...]
    waits: tuple[tuple[int, str], ...]  # after which number, and in words


def groups_of(bench: AtTheBench, build: str) -> dict[str, list[Operation]]:
    """The steps by what they make: each board that is sawn, each member that the last joint brings together, and the whole."""
    by = {w.id: w for w in bench.making.workpieces if w.build == build}
    used = {m for w in by.values() for m in w.members}
    owner: dict[str, str] = {}
    for top in (w for w in by.values() if w.id not in used):
        heads = top.members or (top.id,)
        for head in heads:
            for name in _below(head, by):
                owner[name] = called(head)
        if top.members:
            owner[top.id] = "the whole"
    found: dict[str, list[Operation]] = {}
    for one in bench.making.operations:
        mine = [owner[w] for w in (*one.works_on, *one.gives) if w in owner]
        if one.cut is None and mine:
            found.setdefault("the whole" if len(set(mine)) > 1 else mine[0], []).append(one)
        elif one.board in {p.id for p in bench.under_way.job.pieces}:
            found.setdefault(f"No. {one.board}", []).append(one)
    return found


def _below(name: str, by: Mapping[str, Workpiece]) -> list[str]:
    found = [name]
    for one in found:
        found += by[one].members if one in by else ()
    return found


def shelf_of(bench: AtTheBench, group: str, some: Sequence[Operation]) -> Shelf:
    """The shelf of one group. Marks that are drawn again stand with the step that asks for them."""
    place = {o.id: k + 1 for k, o in enumerate(bench.making.operations)}
    steps = tuple(_step(bench, o, place[o.id]) for o in some)
    ids = {s.id for s in steps}
    strings = tuple(
        String(t, place[t.before], place[t.after])
        for t in bench.making.rules
        if t.after in ids and t.before in ids and t.rule != "mark again after planing"
    )
    waits = tuple((place[o.id], _wait_words(o)) for o in some if o.is_long)
    return Shelf(group, steps, strings, waits)


def _step(bench: AtTheBench, one: Operation, number: int) -> ShelfStep:
    entry = bench.calendar.get(one.id)
    title = f"{TITLES[one.kind]} {', '.join(called(w) for w in one.works_on)}"
    below = one.machine.partition(",")[0] or pressed_with(one)
    return ShelfStep(number, one, title, below, entry.starts[:10] if entry is not None else "", bench.done(one))


def _wait_words(one: Operation) -> str:
    hours = one.wait_minutes / 60
    return f"{hours:.0f} h" if hours < 48 else f"{hours / 24:.0f} d"
