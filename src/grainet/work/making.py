"""From a plan to finished blanks and bodies: every workpiece and every operation, in order, on the calendar, with the wood's balance.

Made from three sources: the plan's cuts (the saw), the instruments' trees (the glue) and their figures (slots, cavities, outlines).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from datetime import datetime
from functools import partial
from typing import Any

from grainet.design.allowances import Allowances
from grainet.design.instrument import Instrument
from grainet.design.tree import Member, tree_of
from grainet.job.answer import Plan
from grainet.job.job import Job
from grainet.wood.piece import Piece
from grainet.work.balance import balance_of
from grainet.work.bench import Bench
from grainet.work.bench_log import Moved, OtherWay, Overridden
from grainet.work.capacity import another_way
from grainet.work.features import Features
from grainet.work.from_saw import saw_boards
from grainet.work.joining import Gluing, Made
from grainet.work.operation import Making, Operation, Tie
from grainet.work.order_rules import BY_HAND
from grainet.work.pieces_first import pieces_first
from grainet.work.preparing import prepare
from grainet.work.schedule import schedule
from grainet.work.sequence import in_order, path_between
from grainet.work.sheet import Sheet
from grainet.work.workpiece import Workpiece, freed_of

WITHOUT_WORK = ("cure", "rest", "mark", "measure", "photograph", "print", "shelve")


def making_of(
    job: Job, plan: Plan, guitars: Sequence[Instrument] = (), bench: Bench | None = None, start: datetime | None = None,
    over: Sequence[Overridden] = (), moved: Sequence[Moved] = (), ways: Sequence[OtherWay] = (),
    read: Mapping[str, Piece] | None = None,
) -> Making:  # fmt: skip
    """The whole making of a plan. ``start`` puts it on the calendar; ``over`` are rules that were set aside, ``ways`` the ways that were chosen
    where no machine takes a piece; ``read`` are the plan's boards with what was read on them since it was made. Rules that lead round raise Circle."""
    bench = bench or Bench()
    freed = freed_of(job, plan)
    species = {piece.id: piece.species for piece in job.pieces}
    chosen = {way.operation: way.way for way in ways}
    sheet = Sheet(species, bench.library, partial(_as_chosen, bench, chosen))
    saw_boards(sheet, job, plan, freed, bench)
    boards = {piece.id: piece for piece in job.pieces}
    prepare(sheet, freed, bench, boards)
    workpieces = [f.workpiece for f in freed]
    members: dict[str, str] = {}
    clamps = list(bench.clamps)  # those that were not used for longest first
    missing: list[str] = []
    for g in guitars:
        mine = [f for f in freed if f.workpiece.build == g.id]
        gluing = Gluing(sheet, g, g.id, mine, bench, {**boards, **(read or {})}, clamps, chosen)
        _Instrument(gluing, Features(sheet, g, g.id, bench, gluing.joined), tree_of(g, Allowances())).write()
        members |= gluing.members
        workpieces += gluing.joined
        missing += [name if len(guitars) == 1 else f"{g.id}.{name}" for name in gluing.missing]
    aside = {(o.before, o.after, o.rule): o.why for o in over}
    ties = [t.changed(over=aside[key]) if (key := (t.before, t.after, t.rule)) in aside else t for t in sheet.ties]
    ties += _by_hand(list(sheet.operations.values()), ties, moved)
    operations, ties = pieces_first(_freed_of_rules(list(sheet.operations.values()), ties), ties, chosen, bench)
    operations = [_with_what_happened(o, bench, sheet) for o in operations] if bench.again else operations
    order = in_order(operations, ties)
    stuck = {spot.clamp for one in order for spot in one.clamps}
    entries = schedule(order, ties, start, bench.hands, bench.hours, free=bench.free_days) if start is not None else []
    return Making(
        hands=bench.hands, hours=bench.hours, temperature_c=bench.temperature_c, clamps=(*bench.clamps, *(strip for strip in bench.tape if strip.id in stuck)),
        workpieces=tuple(_with_member(w, members) for w in workpieces), missing=tuple(dict.fromkeys(missing)), operations=tuple(order),
        rules=tuple(ties), calendar=tuple(entries), balance=balance_of(job, plan, freed, order),
    )  # fmt: skip


def _as_chosen(bench: Bench, chosen: Mapping[str, str], name: str, kind: str, told: dict[str, Any]) -> dict[str, Any]:
    """What is told of an operation, by the way that was chosen for it, and with the minutes that its kind takes in this shop."""
    pace = dict(bench.paces).get(kind, 1.0)
    if pace != 1.0:
        told = {**told, "minutes": round(told.get("minutes", 1.0) * pace, 2)}
    return another_way(bench, kind, chosen[name], told) if name in chosen else told


def _with_what_happened(one: Operation, bench: Bench, sheet: Sheet) -> Operation:
    """The operation with what went wrong three times at such a step in its wood, or at its machine."""
    woods = {wood for w in one.works_on for wood in sheet.woods.get(w, ())}
    said = {
        caution.code: caution
        for kinds, species, tool, caution in bench.again
        if (not kinds or one.kind in kinds)
        and (species in woods if species else tool == one.machine)
        and one.kind not in WITHOUT_WORK
    }
    return one.changed(cautions=(*one.cautions, *said.values())) if said else one


def _by_hand(operations: Sequence[Operation], ties: Sequence[Tie], moved: Sequence[Moved]) -> list[Tie]:
    """What a person put before something else, as far as it still goes: what would lead round is left out."""
    known = {o.id for o in operations}
    found: list[Tie] = []
    for one in moved:
        if {one.before, one.after} <= known and path_between(operations, [*ties, *found], one.after, one.before) is None:
            found.append(Tie(before=one.before, after=one.after, rule=BY_HAND))
    return found


def _freed_of_rules(operations: list[Operation], ties: Sequence[Tie]) -> list[Operation]:
    """Where a rule is set aside, what it bound no longer waits because both were written down on one workpiece one after the other; what the
    later one then needs is what the earlier one needed."""
    aside = {(t.before, t.after) for t in ties if t.over}
    by = {o.id: o for o in operations}
    found = []
    for one in operations:
        if gone := [n for n in one.needs if (n, one.id) in aside]:
            needs = dict.fromkeys((*(n for n in one.needs if n not in gone), *(n for g in gone for n in by[g].needs)))
            one = one.changed(needs=tuple(needs))
        found.append(one)
    return found


def _with_member(one: Workpiece, members: dict[str, str]) -> Workpiece:
    return one if one.member or one.id not in members else one.changed(member=members[one.id])


class _Instrument:
    """Walks one instrument's tree: each member is joined, then shaped as far as it is then whole."""

    def __init__(self, gluing: Gluing, features: Features, tree: Member) -> None:
        self.gluing, self.features, self.tree = gluing, features, tree
        self.body = tree.members[0].name if tree.members else ""
        self.neck = tree.members[1].name if len(tree.members) > 1 else ""
        gluing.shaped = self.shape
        gluing.covered = self.cover

    def write(self) -> None:
        """Everything that can be made of it."""
        if self.tree.joint is not None:
            self.gluing.member(self.tree)
        else:
            for one in self.tree.members:
                self.gluing.member(one)

    def shape(self, member: Member, made: Made) -> None:
        """What a member asks for once it is whole."""
        if member.name == "fretboard":
            self.features.board(made)
        elif member.name == "neck":
            self.features.shaft(made)
        if member.name == self.neck:
            self.features.neck(made)
        elif member.name == self.body:
            self.features.body(made)

    def cover(self, member: Member, below: Sequence[Made]) -> list[str]:
        """What is done to a body before its top goes on."""
        return self.features.under_the_top(below[0]) if member.name == "body with its top" else []
