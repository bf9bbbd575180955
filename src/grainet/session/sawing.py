"""Ticking off saw steps, and what happens when the last one on a board is done: its remains become pieces on the rack."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from typing import TYPE_CHECKING

from grainet.kit.uses import use_of_role
from grainet.session.laid import Laid
from grainet.session.shop import Shop
from grainet.wood.coating import consequences
from grainet.wood.piece import Piece
from grainet.wood.value import BadEntry

if TYPE_CHECKING:
    from grainet.work.cautions import Caution
    from grainet.work.steps import Step


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
    from grainet.work.glue_ups import minded

    mine = {p.part for p in laid.plan.placements if p.piece == piece_id}
    for found in minded(laid.job, laid.plan, shop.kit, shop.year):
        if not found.parts or mine & found.parts:
            one = found.pairing
            grade = {"block": "A", "warn": "B", "note": "C"}[one.grade]
            yield Caution(grade, f"Before gluing {found.name}: {one.text}" + (f": {one.step}." if one.step else "."))  # type: ignore[arg-type]


def tick(shop: Shop, laid: Laid, piece_id: str, step: Step, agreed: bool = False) -> Laid:
    """Mark the next step of a board done (or the last done one undone).

    Raises BadEntry when the step is not next, when its grade A cautions are not agreed to, or when the board has changed
    since it was planned.
    """
    numbers = laid.cuts_of(piece_id)
    done = [n for n in numbers if n in laid.done]
    if step.cut.n in laid.done:
        return _take_back(shop, laid, piece_id, step, done)
    if len(done) < len(numbers) and step.cut.n != numbers[len(done)]:
        raise BadEntry(f"Step {len(done) + 1} comes first: each cut is made on what the one before it left.")
    if shop.has_piece(piece_id) and _wood(shop.piece(piece_id)) != _wood(laid.job.piece(piece_id)):
        raise BadEntry(f"No. {piece_id} was measured anew since it was planned. Plan the build once more: F4.")
    if shop.has_piece(piece_id):
        _gate(shop.piece(piece_id))
    _brief_gate(shop, laid, step)
    _rest_gate(shop, laid, piece_id, step)
    known = {c.text for s in board_steps(shop, laid, piece_id) if s.cut.n in laid.agreed for c in s.cautions}
    grave = [c.text for c in step.cautions if c.grade == "A" and c.text not in known]
    if grave and not agreed and step.cut.n not in laid.agreed:
        raise BadEntry("First agree to the caution: " + grave[0])
    new = laid.changed(
        done=(*laid.done, step.cut.n), agreed=tuple(dict.fromkeys((*laid.agreed, step.cut.n))) if grave else laid.agreed
    )
    if new.sawn(piece_id):
        return _return_offcuts(shop, new, piece_id, step)
    shop.apply(f"step {step.n} on No. {piece_id} done", new)
    return new


def _gate(piece: Piece) -> None:
    """What closes every machining step until it is cleared: an untested old finish, a treatment. Raises BadEntry."""
    for one in consequences(piece.coating, piece.reclaimed):
        if one.closes and one.grade == "A":
            raise BadEntry(f"No. {piece.id} waits: {one.text.split('.')[0].split(':')[0]} ({one.cleared_by}).")
    if piece.unswept_faces:
        raise BadEntry(
            f"No. {piece.id} waits: face {piece.unswept_faces[0]} is not swept for metal (clear {piece.unswept_faces[0]})."
        )


def roles_freed(laid: Laid, step: Step) -> frozenset[str]:
    """Roles of the parts that a step brings to their size: whole or leaf, what it leaves under the saw's last line."""
    fresh = set(step.cut.gives)
    freed = {hand.part_id for hand in step.after if hand.id in fresh and hand.part_id}
    roles = (p.role for p in laid.job.parts if p.id in freed)
    return frozenset(use_of_role(role) or role for role in roles)


def _brief_gate(shop: Shop, laid: Laid, step: Step) -> None:
    """A bought part that is only guessed holds the cut that brings its blank to size. Raises BadEntry."""
    from grainet.build.brief import held_roles

    design = next((d for d in shop.designs() if d.id == laid.id), None)
    if design is None:
        return
    held = held_roles(design.brief)
    for role in sorted(roles_freed(laid, step)):
        if role in held:
            raise BadEntry(
                f"This cut waits: {held[role][0]} is only guessed for {design.name}. Measure it and say so in the brief (F8)."
            )


def _rest_gate(shop: Shop, laid: Laid, piece_id: str, step: Step) -> None:
    """A piece that still moves closes the cut that brings a neck or fretboard to its final size. Raises BadEntry."""
    from grainet.wood.rest import rest_of

    if not shop.has_piece(piece_id):
        return
    piece, rules = shop.piece(piece_id), shop.kit.rules
    state = rest_of(piece, rules.rest_within_mm, rules.rest_days)
    if state.word in ("unread", "settled") or piece.rest_waived:
        return
    closed = [role for role in sorted(roles_freed(laid, step)) if rules.rest_gate(role) == "block"]
    if closed:
        raise BadEntry(
            f"No. {piece_id} waits: {state.said}, wants {rules.rest_days} days still for a {closed[0].replace('_', ' ')} (rest 2.0, or waive with a reason)."
        )


def _wood(piece):  # type: ignore[no-untyped-def]
    """What a plan rests on: shape, thickness, flatness, troubles."""
    return piece.outline, piece.thickness_mm, piece.stations, piece.flatness, piece.defects


def _take_back(shop: Shop, laid: Laid, piece_id: str, step: Step, done: list[int]) -> Laid:
    if piece_id in laid.returned:
        raise BadEntry(f"No. {piece_id} is sawn and its offcuts are on the rack; Ctrl+Z takes that back.")
    if step.cut.n != done[-1]:
        raise BadEntry("Only the last step done can be taken back.")
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
