"""Ticking off saw steps, and what happens when the last one on a board is done: its remains become pieces on the rack."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from typing import TYPE_CHECKING

from grainet.kit.uses import use_of_role
from grainet.session.laid import Laid
from grainet.session.shop import Shop
from grainet.work.holds import Held, Hold, of_the_brief, of_the_piece, of_the_rest

if TYPE_CHECKING:
    from grainet.work.cautions import Caution, Grade
    from grainet.work.steps import Step


GRADES: dict[str, Grade] = {"block": "A", "warn": "B", "note": "C"}


def board_steps(shop: Shop, laid: Laid, piece_id: str) -> list[Step]:
    """The steps of one board of a laid-out build; the last one says what to mind when its parts are glued."""
    from grainet.work.steps import steps_for  # brings in Shapely: not at the start

    steps = steps_for(laid.job, laid.plan, laid.job.piece(piece_id), shop.kit.length_style, shop.kit.library)
    if steps:
        steps[-1] = replace(steps[-1], cautions=(*steps[-1].cautions, *_before_gluing(shop, laid, piece_id)))
    return steps


def _before_gluing(shop: Shop, laid: Laid, piece_id: str) -> Iterator[Caution]:
    """Dust, tannin, oil, moisture gaps, clamps and the glue itself, for the glue-ups that this board's parts go into.

    What speaks against gluing at all (a moisture gap, a stale bottle) is of grade A: it wants to be agreed to.
    """
    from grainet.work.cautions import Caution
    from grainet.work.glue_ups import joint_warnings

    mine = {p.part for p in laid.plan.placements if p.piece == piece_id}
    for found in joint_warnings(laid.job, laid.plan, shop.kit, shop.year):
        if not found.parts or mine & found.parts:
            one = found.warning
            text = one.text + (f": {one.step}." if one.step else ".")
            yield Caution(f"glue_{one.code}", "glue", GRADES[one.grade], text, found.parts, found.name)


def tick(shop: Shop, laid: Laid, piece_id: str, step: Step, agreed: bool = False) -> Laid:
    """Mark the next step of a board done (or the last done one undone).

    Raises Held with what it waits for: another step, a measuring anew, what closes the wood, a grade A caution not agreed to.
    """
    done = [n for n in laid.cuts_of(piece_id) if n in laid.done]
    if step.cut.n in laid.done:
        return _take_back(shop, laid, piece_id, step, done)
    if (hold := next(holds(shop, laid, piece_id, step), None)) is not None:
        raise Held(hold)
    grave = _not_agreed(shop, laid, piece_id, step)
    if grave and not agreed and step.cut.n not in laid.agreed:
        raise Held(Hold("caution", "agree to it", "First agree to the caution: " + grave[0].sentence))
    new = laid.changed(
        done=(*laid.done, step.cut.n), agreed=tuple(dict.fromkeys((*laid.agreed, step.cut.n))) if grave else laid.agreed
    )
    if new.sawn(piece_id):
        return _return_offcuts(shop, new, piece_id, step)
    shop.apply(f"step {step.n} on No. {piece_id} done", new)
    return new


def roles_freed(laid: Laid, step: Step) -> frozenset[str]:
    """Roles of the parts that a step brings to their size: whole or leaf, what it leaves under the saw's last line."""
    fresh = set(step.cut.gives)
    freed = {hand.part_id for hand in step.after if hand.id in fresh and hand.part_id}
    roles = (p.role for p in laid.job.parts if p.id in freed)
    return frozenset(use_of_role(role) or role for role in roles)


def holds(shop: Shop, laid: Laid, piece_id: str, step: Step) -> Iterator[Hold]:
    """What holds the next step of a board back, the order of the steps first; cautions to agree to are not among them."""
    numbers = laid.cuts_of(piece_id)
    done = [n for n in numbers if n in laid.done]
    if len(done) < len(numbers) and step.cut.n != numbers[len(done)]:
        first = f"step {len(done) + 1}"
        yield Hold("order", first, f"{first.capitalize()} comes first: each cut is made on what the one before it left.")
    piece = shop.piece(piece_id) if shop.has_piece(piece_id) else None
    if piece is not None and _wood(piece) != _wood(laid.job.piece(piece_id)):
        yield Hold("changed", "F4", f"No. {piece_id} was measured anew since it was planned. Plan the build once more: F4.")
    if piece is not None:
        yield from of_the_piece(piece)
    roles = roles_freed(laid, step)
    design = next((d for d in shop.designs() if d.id == laid.id), None)
    if design is not None:
        yield from of_the_brief(design, roles)
    if piece is not None:
        yield from of_the_rest(piece, shop.kit.rules, roles)


def _not_agreed(shop: Shop, laid: Laid, piece_id: str, step: Step) -> list[Caution]:
    """The grave cautions of a step that were not agreed to at one of the board's steps before."""
    known = {c.key for s in board_steps(shop, laid, piece_id) if s.cut.n in laid.agreed for c in s.cautions}
    return [c for c in step.cautions if c.grade == "A" and c.key not in known]


def _wood(piece):  # type: ignore[no-untyped-def]
    """What a plan rests on: shape, thickness, flatness, troubles."""
    return piece.outline, piece.thickness_mm, piece.stations, piece.flatness, piece.defects


def _take_back(shop: Shop, laid: Laid, piece_id: str, step: Step, done: list[int]) -> Laid:
    if piece_id in laid.returned:
        raise Held(Hold("put_back", "Ctrl+Z", f"No. {piece_id} is sawn and its offcuts are on the rack; Ctrl+Z takes that back."))
    if step.cut.n != done[-1]:
        raise Held(Hold("order", "the last step", "Only the last step done can be taken back."))
    new = laid.changed(done=tuple(n for n in laid.done if n != step.cut.n))
    shop.apply(f"step {step.n} on No. {piece_id} not done", new)
    return new


def _return_offcuts(shop: Shop, laid: Laid, piece_id: str, step: Step) -> Laid:
    """The last step: the parent leaves the rack and its kept remains come to it, all in one edit."""
    from grainet.work.returning import offcut_piece

    parent = shop.piece(piece_id)
    kept = [o for o in laid.plan.offcuts if o.piece == piece_id and o.keep]
    numbers: list[str] = []
    pieces = []
    taken = {p.id for p in shop.pieces(everything=True)}
    for offcut in kept:
        number = next(f"{piece_id}.{n}" for n in range(1, 10_000) if f"{piece_id}.{n}" not in taken)
        taken.add(number)
        numbers.append(number)
        pieces.append(offcut_piece(parent, offcut, number))
    new = laid.changed(returned=(*laid.returned, piece_id))
    shop.apply(f"No. {piece_id} sawn, {len(pieces)} offcuts back", new, parent.changed(gone=laid.id), *pieces)
    return new
