"""What a part needs between the saw and the glue: rest, a level face, a straight joint edge, its thickness; mates at one setting.

Which machine does it follows from the shop's limits (``capacity``).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import groupby, pairwise

from grainet.design.joint_edge import ON_EDGE_MM
from grainet.design.role import FACTS, role_of
from grainet.kit.machine import Work
from grainet.wood.piece import Piece
from grainet.work.bench import Bench
from grainet.work.capacity import HAND, Size, able
from grainet.work.mending import let_in
from grainet.work.operation import Operation
from grainet.work.order_rules import FACE_FIRST, MATES, REST
from grainet.work.sheet import Sheet
from grainet.work.workpiece import Freed, by_part

# hours that sawn wood rests before it is levelled, by how a part's role minds moving; shipped judgement
PLATE_MM, WIDE_PLATE_MM = 15.0, 80.0  # what is as thin and as wide is a plate
REST_H = {"neck": 72.0, "fretboard": 48.0, "body": 0.0}
LEAF_REST_H = 48.0  # a leaf that was inside a board


def prepare(sheet: Sheet, freed: Sequence[Freed], bench: Bench, boards: Mapping[str, Piece]) -> None:
    """Write down what every freed part needs, part by part; ``boards`` by number."""
    for _, rows in by_part(freed):
        _rest(sheet, rows)
        for one in rows:
            _level_one(sheet, bench, one)
        _edges(sheet, bench, rows)
        _thickness(sheet, bench, rows)
        for one in rows:
            if one.board in boards:
                let_in(sheet, bench, one, boards[one.board])
        leaves = [f.workpiece.id for f in rows if f.was_resawn and f.part.leaves > 1]
        if len(leaves) > 1:
            words = f"Photograph {' and '.join(leaves)} side by side: how far the lines miss is read from it in Match"
            sheet.add("photograph", leaves, "", minutes=2.0, board=rows[0].workpiece.build, text=words)


def _rest(sheet: Sheet, rows: Sequence[Freed]) -> None:
    """Sawn wood moves: it rests before it is levelled."""
    role = role_of(rows[0].part.role)
    hours = REST_H[FACTS[role].rest] if role is not None else 0.0
    for one in rows:
        wait = max(hours, LEAF_REST_H if one.was_resawn else 0.0)
        if wait and one.over_mm > 0:
            name = one.workpiece.id
            words = f"Let {name} rest {wait:.0f} h on sticks, air on both faces"
            sheet.add("rest", [name], "sawn", minutes=1.0, wait_minutes=60 * wait, board=one.workpiece.build, text=words)


def _level_one(sheet: Sheet, bench: Bench, one: Freed) -> None:
    take = level_mm(sheet, one)
    if take > 0:
        done = level(
            sheet, bench, [one.workpiece.id], (*one.size_mm, one.depth_mm), {"face 1": round(take, 2)}, one.workpiece.build
        )
        for rest in sheet.of(one.workpiece.id, "rest"):
            sheet.tie(rest.id, done.id, REST)


def level_mm(sheet: Sheet, one: Freed) -> float:
    """What levelling takes off its first face: what the plan counts there, half of what is over where that is a sawn face."""
    over = left_over_mm(sheet, one)
    counted = one.placement.z_top_mm - one.hand.top_mm - sheet.levelled.get(one.workpiece.id, 0.0)
    return min(over, counted) if counted > 1e-6 else over / 2


def left_over_mm(sheet: Sheet, one: Freed) -> float:
    """What still has to come off both faces: what was levelled before it was resawn is off already."""
    return max(0.0, one.over_mm - sheet.levelled.get(one.workpiece.id, 0.0))


def level(sheet: Sheet, bench: Bench, names: Sequence[str], size: Size, takes: dict[str, float], board: str) -> Operation:
    """A face made level."""
    by = able(bench, Work.FACE, size)
    words = (
        f"Level {' and '.join(names)}: {bench.told(next(iter(takes.values())))} off {next(iter(takes))}{_held_flat(names, size)}"
    )
    return sheet.add(
        "flatten", names, "", machine=by.machine, machine_kind=by.kind, settings=by.settings, takes_mm=takes, minutes=15.0 if by.kind == HAND else 5.0,
        cautions=by.cautions, board=board, text=words,
    )  # fmt: skip


def _held_flat(names: Sequence[str], size: Size, *, mates: bool = False) -> str:
    """What a thin plate asks for, or a pair of them: it bends under a plane, and two that lie apart come out unlike."""
    _, wide, thick = size
    if thick > PLATE_MM or wide < WIDE_PLATE_MM:
        return ""
    return ", held flat on a board" + (", side by side with its mate and planed as one" if mates or len(names) > 1 else "")


def _edges(sheet: Sheet, bench: Bench, rows: Sequence[Freed]) -> None:
    """Joint edges made straight, mates at one setting; those that meet are shot as a pair."""
    told = [(one, side, mm) for one in rows if (found := joint_side(one)) is not None for side, mm in (found,)]
    for one, side, mm in told:
        by = able(bench, Work.FACE, (one.size_mm[0], one.depth_mm, one.size_mm[1]))
        name = one.workpiece.id
        made = sheet.add(
            "joint", [name], side, machine=by.machine, machine_kind=by.kind, settings=by.settings, takes_mm={side: round(mm, 2)}, minutes=4.0,
            cautions=by.cautions,
            batch=f"joint {one.workpiece.build} {one.workpiece.part}" if len(told) > 1 else "", board=one.workpiece.build,
            text=f"Straighten the {side} of {name}: {bench.told(mm)} off, square to its level face",
        )  # fmt: skip
        for face in sheet.of(name, "flatten")[-1:]:
            sheet.tie(face.id, made.id, FACE_FIRST)


def joint_side(one: Freed) -> tuple[str, float] | None:
    """On which side of the piece as it lies its joint edge is, and what comes off there; None where none is told."""
    part = one.part
    if part.joint_edge is None:
        return None
    (_, first), (_, second) = part.joint_edge
    if abs(first - second) > ON_EDGE_MM:
        return None
    ys = [y for _, y in part.outline]
    low = abs(first - min(ys)) < abs(first - max(ys))
    turned = 90 < one.placement.angle_deg % 360 < 270
    flipped = one.placement.mirror != (one.placement.face_up == "2")
    return ("near edge" if low != (turned != flipped) else "far edge"), part.joint_mm


def _thickness(sheet: Sheet, bench: Bench, rows: Sequence[Freed]) -> None:
    """Each to its thickness: alike ones in one go, all of a part at one setting."""
    todo = [(one, round(left_over_mm(sheet, one), 2)) for one in rows]
    todo = [(one, take) for one, take in todo if take > 0]
    finished = rows[0].placement.finished_mm
    groups = [(take, [one for one, _ in group]) for take, group in groupby(sorted(todo, key=lambda t: (t[1], t[0].workpiece.id)), key=lambda t: t[1])]  # fmt: skip
    batch = f"thickness {rows[0].workpiece.build} {rows[0].workpiece.part}" if len(groups) > 1 else ""
    made = []
    for take, some in groups:
        names = [one.workpiece.id for one in some]
        size = (min(o.size_mm[0] for o in some), max(o.size_mm[1] for o in some), max(o.depth_mm for o in some))
        one = to_thickness(sheet, bench, names, size, finished, take, some[0].workpiece.build, batch=batch)
        made.append(one)
        for name in names:
            for face in sheet.of(name, "flatten")[-1:]:
                sheet.tie(face.id, one.id, FACE_FIRST)
    for before, after in pairwise(made):
        sheet.tie(before.id, after.id, MATES)


def to_thickness(
    sheet: Sheet, bench: Bench, names: Sequence[str], size: Size, finished_mm: float, take_mm: float, board: str, batch: str = ""
) -> Operation:  # fmt: skip
    """Some workpieces planed to a thickness at one setting."""
    by = able(bench, Work.THICKNESS, size)
    passes = 4.0 + (10.0 if by.kind == HAND else 1.5) * len(names)
    return sheet.add(
        "thickness", names, f"{finished_mm:.1f}", machine=by.machine, machine_kind=by.kind, settings={"thickness_mm": round(finished_mm, 2), **by.settings},
        takes_mm={"thickness": round(take_mm, 2)}, minutes=passes, batch=batch, cautions=by.cautions, board=board,
        text=f"Plane {' and '.join(names)} to {bench.told(finished_mm, '.1f')}" + (", at one setting" if len(names) > 1 or batch else "") + _held_flat(names, size, mates=bool(batch)),
    )  # fmt: skip
