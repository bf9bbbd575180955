"""Claims on wood: making them, seeing which clash, and who should get theirs first because nothing else would do."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from grainet.design.design import Design
from grainet.kit.uses import use_of_role
from grainet.session.reservation import Box, Reservation
from grainet.session.shop import Shop


def new_claim(shop: Shop, piece_id: str, what: str, box: Box | None, today: str) -> Reservation:
    """A claim for words such as "Merrow neck": a design and a part of the shop are recognised by their names."""
    taken = {r.id for r in shop.promises.claims()}
    number = next(f"R{n}" for n in range(1, 100_000) if f"R{n}" not in taken)
    design = next((d for d in shop.designs() if d.name.lower() in what.lower() or d.id.lower() in what.lower().split()), None)
    part = (
        next((p.id for p in design.parts if p.shown_name.lower() in what.lower() or p.id.lower() in what.lower().split()), "")
        if design
        else ""
    )
    return Reservation(
        id=number, piece=piece_id, claimed_for=what, design=design.id if design else "", part=part, box=box, on=today
    )


def clashes_of(one: Reservation, others: Sequence[Reservation]) -> list[Reservation]:
    """The other claims that want the same wood."""
    return [r for r in others if one.meets(r)]


@dataclass(frozen=True)
class Choice:
    """One claim on contested wood: what else on the rack would do for it, and why it goes first or waits."""

    claim: Reservation
    others: tuple[str, ...] | None  # None where what it needs is not known
    text: str


def least_choice_first(shop: Shop, piece_id: str) -> list[Choice]:
    """The claims on a piece, the one with the fewest other candidates first; what a claim needs is its part's role or a use that it names."""
    found = []
    for claim in (r for r in shop.promises.claims() if r.piece == piece_id):
        others = other_candidates(shop, claim)
        if others is None:
            found.append(
                Choice(claim, None, f"{claim.claimed_for}: not one of the shop's designs, so what else would do is not known")
            )
        elif not others:
            found.append(Choice(claim, (), f"{claim.claimed_for}: nothing else on the rack gives it, so it goes first"))
        else:
            found.append(
                Choice(claim, others, f"{claim.claimed_for}: {', '.join('No. ' + o for o in others[:4])} would do as well")
            )
    unknown = 10_000
    return sorted(found, key=lambda c: (unknown if c.others is None else len(c.others), c.claim.id))


def other_candidates(shop: Shop, claim: Reservation) -> tuple[str, ...] | None:
    """Other pieces that give the claimed part and are not claimed whole by someone else; None where the part is not known."""
    design = next((d for d in shop.designs() if d.id == claim.design), None)
    use = _use_of(shop, design, claim)
    if use is None:
        return None
    parts = design.parts if design else ()
    wished = {s.common for p in parts if p.id == claim.part for n in p.species_wish for s in shop.kit.library.matches(n)}
    taken = {r.piece for r in shop.promises.claims() if r.whole and r.id != claim.id}
    taken |= {piece for piece, promise in shop.promises.boards().items() if claim.design not in promise.designs}
    found = []
    for piece in shop.pieces():
        species = shop.kit.library.find(piece.species)
        if piece.id == claim.piece or piece.id in taken or (wished and (species is None or species.common not in wished)):
            continue
        if shop.judgements.verdict(piece.id, use).outcome == "gives":
            found.append(piece.id)
    return tuple(found)


def _use_of(shop: Shop, design: Design | None, claim: Reservation) -> str | None:
    """The use that a claim needs: its part's role, else a use that its words name."""
    part = next((p for p in design.parts if p.id == claim.part), None) if design else None
    if part is not None and (use := use_of_role(part.role)) is not None:
        return use
    return next((rule.use for rule in shop.kit.every_use if rule.label.lower() in claim.claimed_for.lower()), None)
