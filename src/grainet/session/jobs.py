"""The question that planning puts: the builds in hand over the rack, with what the house rules exclude."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from grainet.design.design import Design
from grainet.design.part import Part
from grainet.grade.counted import as_counted
from grainet.job.job import Claim, Exclusion, Job
from grainet.kit.uses import rule_for_role, use_of_role
from grainet.plan.becoming import RoleBar
from grainet.session.judgements import Judgements
from grainet.session.promises import Promises
from grainet.turns import in_turn
from grainet.wood.piece import Piece


class Jobs:
    """Makes the jobs of one shop."""

    def __init__(self, judgements: Judgements, promises: Promises) -> None:
        self.judgements, self.promises = judgements, promises

    def job_for(self, designs: Sequence[Design]) -> Job:
        """The job of planning builds over the rack: measured pieces only, and what the house rules bar."""
        kit = self.judgements.kit
        usable = [as_counted(p) for p in in_turn(self.judgements.rack.pieces()) if p.outline and p.all_thicknesses_mm]
        parts = [p for d in designs for p in d.parts]
        owners = {p.id: frozenset(d.id for d in designs if p in d.parts) for p in parts}
        bars = [
            bar for piece in in_turn(usable) for part in parts if (bar := self._bar(piece, part, owners[part.id])) is not None
        ]
        thickest = max((kit.cuts.stack_mm(p.thickness_mm, p.leaves) for p in parts), default=0.0)
        claims = tuple(self._claims({p.id for p in usable}, {d.id for d in designs}))
        return Job(
            version=2,
            claims=claims,
            kit=kit.cuts_for(thickest),
            pieces=tuple(usable),
            parts=tuple(parts),
            builds=tuple(d.build for d in designs),
            barred=tuple(bars),
        )

    def _claims(self, pieces: set[str], designs: set[str]) -> Iterator[Claim]:
        """Regions that are kept for other builds: whole pieces are barred."""
        for kept in self.promises.claims():
            if kept.box is not None and kept.piece in pieces and kept.design not in designs:
                x0, y0, x1, y1 = kept.box
                ring = ((x0, y0), (x1, y0), (x1, y1), (x0, y1))
                yield Claim(piece=kept.piece, polygon=ring, build=kept.design or kept.claimed_for)

    def _bar(self, piece: Piece, part: Part, owners: frozenset[str]) -> Exclusion | None:
        """Why the shop would not take a part from a piece, geometry apart."""
        if piece.unswept_faces:
            return Exclusion(
                part=part.id, piece=piece.id, why=f"face {piece.unswept_faces[0]} is not swept for metal", code="metal"
            )
        library = self.judgements.kit.library
        if part.species_wish and not library.is_one_of(piece.species, part.species_wish):
            why = f"{library.short_name(piece.species)} is not among the woods wanted"
            return Exclusion(part=part.id, piece=piece.id, why=why, code="species")
        promise = self.promises.boards().get(piece.id)
        if promise is not None and owners.isdisjoint(promise.designs):
            return Exclusion(part=part.id, piece=piece.id, why=f"promised to {promise.name}", code="promised")
        claim = next((r for r in self.promises.claims() if r.piece == piece.id and r.whole and r.design not in owners), None)
        if claim is not None:
            return Exclusion(part=part.id, piece=piece.id, why=f"kept for {claim.claimed_for}", code="claimed")
        from grainet.grade.judge import plainly_too_small

        upright = not part.tilt_deg and all(t % 180 == 0 for t in part.turns_deg)
        if upright and plainly_too_small(piece, part, self.judgements.kit.cuts) is not None:
            return None  # the planner says so by the figures, and nobody needs to judge the wood
        said = self.of_role(piece, part.role)
        if said is None:
            return None
        return Exclusion(part=part.id, piece=piece.id, why=said.why if said.surely else f"only if {said.why}", code=said.code)

    def of_role(self, piece: Piece, role: str) -> RoleBar | None:
        """What the house rules say against a part of a role from a piece, or ask for first; None where nothing."""
        from grainet.grade.rulebook import asked_first

        rule = rule_for_role(self.judgements.kit.every_use, role)
        unknown = "" if use_of_role(role) else " (it has no role: judged as strictly as a neck)"
        for one in asked_first(self.judgements.facts(piece.id), rule):
            if one.outcome == "wont" or one.rule in ("moisture", "core", "rest"):
                sure = one.outcome == "wont"
                figures = {name: float(v) for name in ("found", "wanted") if isinstance(v := one.details.get(name), int | float)}
                return RoleBar(role, piece.id, one.phrase + unknown, one.rule, sure, **figures)
        return None
