"""Ticking off saw steps, and what happens when the last one on a board is done: its remains become pieces on the rack."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from typing import TYPE_CHECKING

from grainet.kept import Kept
from grainet.kit.uses import use_of_role
from grainet.session.kinds import BENCH
from grainet.session.shop import Shop
from grainet.wood.piece import Piece
from grainet.work.bench_log import BenchLog, DoneRow, told
from grainet.work.cut_plan import UnderWay
from grainet.work.holds import Held, Hold, of_the_brief, of_the_piece, of_the_rest

if TYPE_CHECKING:
    from grainet.work.cautions import Caution, Grade
    from grainet.work.steps import Step


# steps by what they rest on, which is kept alive beside them so that nothing else takes its place
_kept: Kept[tuple[object, ...], tuple[tuple[object, ...], tuple[Step, ...]]] = Kept(24)
GRADES: dict[str, Grade] = {"block": "A", "warn": "B", "note": "C"}


def board_steps(shop: Shop, under_way: UnderWay, piece_id: str) -> list[Step]:
    """The steps of one board of a laid-out build; the last one says what to mind when its parts are glued."""
    piece = under_way.job.piece(piece_id)
    steps = _plain_steps(shop, under_way, piece)
    steps = [replace(s, cautions=(*s.cautions, *_by_experience(shop, s, piece))) for s in steps]
    if steps:
        steps[-1] = replace(steps[-1], cautions=(*steps[-1].cautions, *_before_gluing(shop, under_way, piece_id)))
    return steps


def no_face(shop: Shop, piece_id: str) -> str:
    """Why a piece has no flat face to lay down: it is bent by what was read since it was planned, or nobody has laid a straightedge on it,
    along and across, so that 0 is no reading; empty where it lies flat."""
    from grainet.work.steps import NO_FACE, off_flat

    if not shop.has_piece(piece_id):
        return ""
    piece = shop.piece(piece_id)
    if off_flat(piece):
        return NO_FACE
    flat = (("bow", piece.flatness.bow_mm), ("cup", piece.flatness.cup_mm))
    return "not read whether it lies flat" if any(not mm and word not in piece.flat_read for word, mm in flat) else ""


def _plain_steps(shop: Shop, under_way: UnderWay, piece: Piece) -> list[Step]:
    """The steps as plan and machines have them, worked out once for as long as those are the same."""
    from grainet.work.steps import steps_for  # brings in Shapely: not at the start

    kit, lacking = shop.kit, no_face(shop, piece.id)
    rests_on = (under_way.job, under_way.plan, piece, kit.library, kit.machines)
    key = (kit.length_style, lacking, *map(id, rests_on))
    if (known := _kept.get(key)) is not None:
        return list(known[1])
    steps = steps_for(under_way.job, under_way.plan, piece, kit.length_style, kit.library, kit.machines, no_face=lacking)
    return list(_kept.put(key, (rests_on, tuple(steps)))[1])


def _by_experience(shop: Shop, step: Step, piece: Piece) -> Iterator[Caution]:
    """What went wrong three times at such a cut in this wood, or at this machine; an edge that has cut far, before dear wood."""
    from grainet.session.mishaps import said_before, sharpen_first
    from grainet.work.cautions import Caution

    tool = step.tool.lower()
    for kinds, species, at, said in said_before(shop):
        if (not kinds or step.cut.tool in kinds) and (species == piece.species if species else at == tool):
            yield Caution(said.code, "shop", said.grade, said.text)
    if dull := sharpen_first(shop, tool, piece.id):
        yield Caution("dull", "blade", "B", dull)


def _before_gluing(shop: Shop, under_way: UnderWay, piece_id: str) -> Iterator[Caution]:
    """Dust, tannin, oil, moisture gaps, clamps and the glue itself, for the glue-ups that this board's parts go into.

    What speaks against gluing at all (a moisture gap, a stale bottle) is of grade A: it needs to be agreed to.
    """
    from grainet.work.cautions import Caution
    from grainet.work.glue_ups import joint_warnings

    mine = {p.part for p in under_way.plan.placements if p.piece == piece_id}
    for found in joint_warnings(under_way.job, under_way.plan, shop.kit, shop.air.year):
        if not found.parts or mine & found.parts:
            one = found.warning
            text = one.text + (f": {one.step}." if one.step else ".")
            yield Caution(f"glue_{one.code}", "glue", GRADES[one.grade], text, found.parts, found.name)


def tick(shop: Shop, under_way: UnderWay, piece_id: str, step: Step, *, agreed: bool = False) -> UnderWay:
    """Mark the next step of a board done (or the last done one undone).

    Raises Held with what it waits for: another step, a measuring anew, what closes the wood, a grade A caution not agreed to.
    """
    if under_way.done(step.cut):
        return _take_back(shop, under_way, piece_id, step)
    if (hold := next(holds(shop, under_way, piece_id, step), None)) is not None:
        raise Held(hold)
    grave = _not_agreed(shop, under_way, piece_id, step)
    if grave and not agreed and not under_way.agreed(step.cut):
        raise Held(Hold("caution", "agree to it", "First agree to the caution: " + grave[0].sentence))
    new = under_way.with_done(step.cut, agreed=bool(grave))
    log = _noted(shop, new, step)
    if new.sawn(piece_id):
        return _return_offcuts(shop, new, piece_id, log)
    shop.apply(f"step {step.n} on No. {piece_id} done", new.progress, log)
    return new


def _noted(shop: Shop, under_way: UnderWay, step: Step) -> BenchLog:
    """The bench's own log with the instant of a cut: how long work takes and how far a blade has cut is reckoned from it."""
    log = shop.items.find(BENCH, under_way.id) or BenchLog(id=under_way.id)
    return log.with_row(DoneRow(operation=under_way.cut_plan.names[step.cut.n], at=told(shop.clock())))


def roles_freed(under_way: UnderWay, step: Step) -> frozenset[str]:
    """Roles of the parts that a step brings to their size: whole or leaf, what it leaves under the saw's last line."""
    fresh = set(step.cut.gives)
    freed = {hand.part_id for hand in step.after if hand.id in fresh and hand.part_id}
    roles = (p.role for p in under_way.job.parts if p.id in freed)
    return frozenset(use_of_role(role) or role for role in roles)


def holds(shop: Shop, under_way: UnderWay, piece_id: str, step: Step) -> Iterator[Hold]:
    """What holds the next step of a board back, the order of the steps first; cautions to agree to are not among them."""
    cuts, made = under_way.cuts_of(piece_id), len(under_way.made_of(piece_id))
    if made < len(cuts) and step.cut.n != cuts[made].n:
        first = f"step {made + 1}"
        yield Hold("order", first, f"{first.capitalize()} comes first: each cut is made on what the one before it left.")
    piece = shop.piece(piece_id) if shop.has_piece(piece_id) else None
    if piece is not None and wood_of(piece) != wood_of(under_way.job.piece(piece_id)):
        yield Hold(
            "changed", "F5", f"No. {piece_id} is not as it was when it was planned. What is cut stays; plan the rest again: F5."
        )
    if under_way.progress.lost or under_way.cut_plan.stopped:
        what = "A part is lost" if under_way.progress.lost else "A cut went elsewhere"
        yield Hold("surprise", "F5", f"{what}. What is cut stays; plan the rest again: F5.")
    if piece is not None:
        yield from of_the_piece(piece)
    roles = roles_freed(under_way, step)
    for design in (d for d in shop.designs() if d.id in under_way.designs):
        yield from of_the_brief(design, roles)
    if piece is not None:
        yield from of_the_rest(piece, shop.kit.rules, roles)


def _not_agreed(shop: Shop, under_way: UnderWay, piece_id: str, step: Step) -> list[Caution]:
    """The grave cautions of a step that were not agreed to at one of the board's steps before."""
    known = {c.key for s in board_steps(shop, under_way, piece_id) if under_way.agreed(s.cut) for c in s.cautions}
    return [c for c in step.cautions if c.grade == "A" and c.key not in known]


def wood_of(piece: Piece) -> tuple[object, ...]:
    """What a plan rests on: shape, thickness, flatness, troubles."""
    return piece.outline, piece.thickness_mm, piece.stations, piece.flatness, piece.defects


def _take_back(shop: Shop, under_way: UnderWay, piece_id: str, step: Step) -> UnderWay:
    if piece_id in under_way.returned:
        raise Held(Hold("put_back", "Ctrl+Z", f"No. {piece_id} is sawn and its offcuts are on the rack; Ctrl+Z takes that back."))
    if step.cut.n != under_way.made_of(piece_id)[-1].n:
        raise Held(Hold("order", "the last step", "Only the last step done can be taken back."))
    new = under_way.without(step.cut)
    log = shop.items.find(BENCH, under_way.id) or BenchLog(id=under_way.id)
    shop.apply(f"step {step.n} on No. {piece_id} not done", new.progress, log.without(under_way.cut_plan.names[step.cut.n]))
    return new


def finish(shop: Shop, under_way: UnderWay) -> UnderWay:
    """Put back what is left of boards on which a plan that goes on from made cuts leaves nothing to saw."""
    for board in under_way.boards:
        if under_way.cuts_of(board) and under_way.sawn(board) and board not in under_way.returned and shop.has_piece(board):
            under_way = _return_offcuts(shop, under_way, board)
    return under_way


def _return_offcuts(shop: Shop, under_way: UnderWay, piece_id: str, *more: BenchLog) -> UnderWay:
    """The last step: the parent leaves the rack and its kept remains come to it, all in one edit."""
    from grainet.work.returning import offcut_piece

    parent = shop.piece(piece_id)
    kept = [o for o in under_way.plan.offcuts if o.piece == piece_id and o.keep]
    numbers: list[str] = []
    pieces = []
    taken = {p.id for p in shop.pieces(everything=True)}
    for offcut in kept:
        number = next(f"{piece_id}.{n}" for n in range(1, 10_000) if f"{piece_id}.{n}" not in taken)
        taken.add(number)
        numbers.append(number)
        pieces.append(offcut_piece(parent, offcut, number))
    new = under_way.with_returned(piece_id)
    shop.apply(
        f"No. {piece_id} sawn, {len(pieces)} offcuts back", new.progress, *more, parent.changed(gone=under_way.id), *pieces
    )
    return new
