"""Flaws that are mended because a plan uses them: hardened or dowelled in the board before anything is sawn, plugged or let in once the part has
its thickness, each with its place, clear of slot, outline and cutters.

Source: CAPABILITIES C60 and C106.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial

import shapely
from shapely.geometry import Polygon

from grainet.design.shape import as_array, is_turned_over, placed
from grainet.wood.defects import GROWING, Defect, name_of
from grainet.wood.piece import Piece
from grainet.wood.value import Ring
from grainet.work.bench import Bench
from grainet.work.mends import CLEAR_MM, dowels_across
from grainet.work.operation import Said
from grainet.work.sheet import Sheet
from grainet.work.workpiece import Freed

ROUND_MM = 2.0  # a plug or an inlay is so much larger than its flaw all round
PLUG_DEEP_MM = 8.0  # at least, where the flaw is shallower
FIRM_H = 12.0
IN_THE_BOARD = ("harden", "dowels")


@dataclass(frozen=True)
class Let:
    """A plug or an inlay: its middle, its long and its wide side, how its long side lies (degrees from x), and how deep it goes, mm."""

    x_mm: float
    y_mm: float
    long_mm: float
    wide_mm: float
    angle_deg: float
    deep_mm: float


def used_by(flaw: Defect, freed: Sequence[Freed]) -> Freed | None:
    """The part that a flaw lies in; None where it lies in what is left."""
    ring = Polygon(flaw.polygon)
    return next((f for f in freed if Polygon(f.placement.polygon).intersects(ring)), None)


def make_firm(sheet: Sheet, board: Piece, code: str, freed: Sequence[Freed], *, kept: bool) -> None:
    """A flaw that stays is made firm before anything is sawn: thin glue, and across a crack dowels clear of what is cut later."""
    flaw = next((d for d in board.defects if d.id == code), None)
    one = used_by(flaw, freed) if flaw is not None else None
    pinned = flaw is not None and one is not None and (flaw.mend == "dowels" or (kept and flaw.kind in GROWING))
    dowels = dowels_across(flaw.polygon, one.placement.polygon, cut_later(one)) if pinned and flaw and one else ()
    words = f"Make {code} on No. {board.id} firm: " + ("it is kept and seen" if kept else "thin glue until it takes no more")
    words += f"; {len(dowels)} dowels across it" if dowels else ""
    said = () if dowels or not pinned else (_no_room(code),)
    told = [{"x_mm": d.at[0], "y_mm": d.at[1], "angle_deg": d.angle_deg, "long_mm": d.long_mm} for d in dowels]
    sheet.add(
        "stabilise", [board.id], code, settings={"dowels": told} if told else {}, minutes=10.0 + 4 * len(told), wait_minutes=60 * FIRM_H, board=board.id,
        cautions=said, text=words,
    )  # fmt: skip


def _no_room(code: str) -> Said:
    return Said(
        code="no_dowel",
        grade="B",
        text=f"No place for a dowel across {code} that is {CLEAR_MM:g} clear of slot, outline and cutters: glue alone holds it.",
    )


def mend_in_the_board(sheet: Sheet, board: Piece, freed: Sequence[Freed]) -> None:
    """Hardened and dowelled before the first cut, where a part uses the flaw."""
    for flaw in board.defects:
        if flaw.mend in IN_THE_BOARD and not flaw.cleared and used_by(flaw, freed) is not None:
            make_firm(sheet, board, flaw.id, freed, kept=False)


def let_in(sheet: Sheet, bench: Bench, one: Freed, board: Piece) -> None:
    """Plugs and inlays of a part that has its thickness: where, how large, how deep, measured from the part's own marked end and near
    edge."""
    for flaw in board.defects:
        if flaw.mend not in ("plug", "insert") or flaw.cleared or used_by(flaw, [one]) is None or _planed_away(flaw, one):
            continue
        let = let_of(flaw, one)
        x0, y0, _, _ = one.hand.polygon.bounds
        told = partial(bench.told, digits=".0f")
        at = f"{told(let.x_mm - x0)} from its marked end, {told(let.y_mm - y0)} up from its near edge"
        name = one.workpiece.id
        if flaw.mend == "plug":
            words = f"Plug {name_of(flaw)} {flaw.id} in {name}: {told(let.long_mm)} across, {told(let.deep_mm)} deep, {at}; its grain lies as the part's"
        else:
            words = f"Let wood in for {name_of(flaw)} {flaw.id} in {name}: {told(let.long_mm)} × {told(let.wide_mm)}, {told(let.deep_mm)} deep, {at}"
        settings = {
            "mend": flaw.mend, "x_mm": round(let.x_mm - x0, 1), "y_mm": round(let.y_mm - y0, 1), "long_mm": let.long_mm, "wide_mm": let.wide_mm,
            "angle_deg": let.angle_deg, "deep_mm": let.deep_mm,
        }  # fmt: skip
        sheet.add(
            "insert", [name], flaw.id, settings=settings, minutes=20.0, wait_minutes=60.0, cautions=_in_the_way(flaw, let, one),
            board=one.workpiece.build or board.id, text=words,
        )  # fmt: skip


def let_of(flaw: Defect, one: Freed) -> Let:
    """The plug or the inlay of a flaw: 2 larger than it all round, in whole mm, at least 8 deep and never through the part."""
    if flaw.mend == "plug":
        circle = shapely.minimum_bounding_circle(Polygon(flaw.polygon))
        x0, y0, x1, y1 = circle.bounds
        across = float(math.ceil(max(x1 - x0, y1 - y0) + 2 * ROUND_MM))
        x, y, long, wide, angle = (x0 + x1) / 2, (y0 + y1) / 2, across, across, 0.0
    else:
        box = list(Polygon(flaw.polygon).minimum_rotated_rectangle.exterior.coords)
        sides = [(math.dist(box[k], box[k + 1]), k) for k in (0, 1)]
        (long, k), (wide, _) = max(sides), min(sides)
        x, y = (box[0][0] + box[2][0]) / 2, (box[0][1] + box[2][1]) / 2
        long, wide = float(math.ceil(long + 2 * ROUND_MM)), float(math.ceil(wide + 2 * ROUND_MM))
        angle = math.degrees(math.atan2(box[k + 1][1] - box[k][1], box[k + 1][0] - box[k][0])) % 180
    finished = one.placement.finished_mm
    depth = finished if flaw.depth_mm is None or flaw.face == "through" else flaw.depth_mm - one.placement.z_top_mm
    deep = min(max(PLUG_DEEP_MM, depth + 1.0), finished)
    return Let(round(x, 1), round(y, 1), long, wide, round(angle, 1), round(deep, 1))


def _planed_away(flaw: Defect, one: Freed) -> bool:
    """Whether nothing of it is left once the part's face is level."""
    return flaw.face == "1" and flaw.depth_mm is not None and flaw.depth_mm <= one.placement.z_top_mm


def _in_the_way(flaw: Defect, let: Let, one: Freed) -> tuple[Said, ...]:
    """What is cut later comes too near, or the part's own edge does."""
    half = shapely.Point(let.x_mm, let.y_mm).buffer(max(let.long_mm, let.wide_mm) / 2)
    near = any(Polygon(ring).distance(half) < CLEAR_MM for ring in cut_later(one))
    if near:
        text = f"It comes within {CLEAR_MM:g} of what is cut later: cut that first, or choose another place for the part."
        return (Said(code="mend_near", grade="B", text=text),)
    if not Polygon(one.placement.polygon).buffer(-CLEAR_MM).contains(half):
        text = f"{flaw.id} reaches the part's edge: let it in before the outline is routed, and feed the cutter away from it."
        return (Said(code="mend_edge", grade="B", text=text),)
    return ()


def cut_later(one: Freed) -> list[Ring]:
    """The zones of a part that are cut away or bear load, where it lies on its board."""
    at = one.placement
    over = is_turned_over(mirror=at.mirror, face_up=at.face_up)
    rings = [z.polygon for z in one.part.zones if z.polygon != "rest" and z.kind in ("removed", "critical")]
    return [
        tuple((float(x), float(y)) for x, y in placed(as_array(ring), at.x, at.y, at.angle_deg, turned_over=over))
        for ring in rings
    ]
