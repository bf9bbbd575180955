"""What is asked of wood that may be used: the pieces, the cuts, and what the house takes from none of them, so that the answer is one that
laying out will hold to."""

from __future__ import annotations

import json
from collections.abc import Iterator, Sequence
from dataclasses import asdict, dataclass, replace

from grainet.design.design import Design
from grainet.design.role import FACTS
from grainet.grade.counted import as_counted
from grainet.kit.cut_kit import CutKit
from grainet.plan.becoming import RoleBar
from grainet.session.shop import Shop
from grainet.wood.piece import Piece


@dataclass(frozen=True)
class HeapQuestion:
    """Pieces as judging and planning see them, and what the house says of each for each role."""

    pieces: tuple[Piece, ...]
    bars: tuple[RoleBar, ...]
    kept: dict[str, tuple[str, str]]  # pieces that are kept whole: the build's id and what for

    def as_json(self, kit: CutKit) -> str:
        """The fields of a question about this wood, without the braces."""
        pieces = ",".join(p.model_dump_json(by_alias=True) for p in self.pieces)
        bars = json.dumps([asdict(bar) for bar in self.bars])
        return f'"pieces": [{pieces}], "bars": {bars}, "kit": {kit.model_dump_json()}'

    def first(self, role: str, piece: str, build: str) -> str:
        """What is to be done before a part of a role may come from a piece for a build; empty where nothing is."""
        owner, claimed_for = self.kept.get(piece, ("", ""))
        if claimed_for and owner != build:
            return f"it is no longer kept for {claimed_for}"
        return next((bar.why for bar in self.bars if (bar.role, bar.piece) == (role, piece) and not bar.surely), "")


def heap_question(shop: Shop, pieces: Sequence[Piece]) -> HeapQuestion:
    """The question about some pieces of a shop. Judges each for each role: for a rack of thousands not on the window's thread."""
    kept = {r.piece: (r.design, r.claimed_for) for r in shop.promises.claims() if r.whole}
    return HeapQuestion(tuple(as_counted(p) for p in pieces), tuple(_bars(shop, pieces)), kept)


def cuts_for(shop: Shop, design: Design) -> CutKit:
    """The shop's cuts with the rough margin that its saw needs on the thickest part of a design."""
    cuts = shop.kit.cuts
    return shop.kit.cuts_for(max((cuts.stack_mm(p.thickness_mm, p.leaves) for p in design.parts), default=0.0))


def _bars(shop: Shop, pieces: Sequence[Piece]) -> Iterator[RoleBar]:
    first = {
        facts.use: role for role, facts in reversed(FACTS.items())
    }  # roles of one use are judged alike: one of them is asked
    for piece in pieces:
        if piece.unswept_faces:
            why = f"face {piece.unswept_faces[0]} is swept for metal"
            yield from (RoleBar(role, piece.id, why, "metal", surely=False) for role in FACTS)
            continue
        said = {use: shop.jobs.of_role(piece, role) for use, role in first.items()}
        yield from (replace(bar, role=role) for role, facts in FACTS.items() if (bar := said[facts.use]) is not None)
