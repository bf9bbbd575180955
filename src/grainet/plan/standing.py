"""What stands already when a job is planned once more: parts that stay, parts that are lost, cuts that are made, wood that is kept for a build.

Parts that stay are no candidates: nothing else comes near them, and their sets count by the numbers that they have.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass

import shapely
from shapely.geometry import Polygon, box
from shapely.geometry.base import BaseGeometry

from grainet.design.part import Part, stands, ways_laid
from grainet.fit.board_geometry import BoardGeometry
from grainet.fit.exact import Exact, ExactPlacement
from grainet.fit.orientation import Orientation
from grainet.job.answer import Placement
from grainet.job.job import Job
from grainet.kit.cut_kit import CutKit
from grainet.plan.candidates import Candidate
from grainet.plan.in_hand import Workpiece, hands_after, whole_depth_wood

Place = tuple[object, ...]
IN_HAND_MM = 1e-5  # what may be cut off a part by a replayed kerf's last digits
NEAR_MM = 5e-6  # nearer than this to a kerf is too near
HAIR_MM = 1e-7  # what may come exactly a kerf near is not left out for the last digit


@dataclass(frozen=True)
class StandingSet:
    """A set of a part of which something stays: its number, its build, the rows that stay, and how many copies on which piece are whole."""

    part: str
    number: int
    build: str | None
    rows: tuple[Placement, ...]
    copies: dict[str, int]
    whole: bool  # nothing more has to be laid for it
    open: bool  # the copies that it lacks may be laid

    @property
    def count(self) -> int:
        """Whole copies."""
        return sum(self.copies.values())


class Standing:
    """What of a job stands, by piece and by set."""

    def __init__(self, job: Job) -> None:
        self.job = job
        self.parts = {p.id: p for p in job.parts}
        self.anything = bool(job.pins or job.lost or job.cut or job.claims)
        self.sets = self._sets()
        self.footprints: dict[str, list[Candidate]] = defaultdict(list)
        self.leaves: dict[Place, frozenset[int]] = {}  # of each footprint that stays: which of its leaves do
        for rows in _by_place(job.pins).values():
            one = as_candidate(self.parts[rows[0].part], rows, job.kit)
            self.footprints[one.piece].append(one)
            self.leaves[one.key] = frozenset(r.leaf for r in rows)
        self._lost = [as_candidate(self.parts[rows[0].part], rows, job.kit) for rows in _by_place(job.lost).values()]
        self._hands: dict[str, list[Workpiece]] = {}
        self._wood: dict[str, list[BaseGeometry]] = {}

    # pieces -------------------------------------------------------------------------------------------------------
    def hands(self, piece_id: str) -> list[Workpiece]:
        """What is in hand of a piece after the cuts that are made."""
        if piece_id not in self._hands:
            self._hands[piece_id] = hands_after(self.job.piece(piece_id), self.job.cut, self.job.kit)
        return self._hands[piece_id]

    def _whole_hands(self, piece_id: str) -> list[BaseGeometry]:
        """The pieces in hand that were never resawn, each grown by what counts as equal."""
        if piece_id not in self._wood:
            self._wood[piece_id] = [
                h.polygon.buffer(IN_HAND_MM, join_style="mitre") for h in self.hands(piece_id) if h.whole_depth
            ]
        return self._wood[piece_id]

    def is_cut(self, piece_id: str) -> bool:
        """Whether a piece is sawn into already."""
        return len(self.hands(piece_id)) != 1 or self.hands(piece_id)[0].id != piece_id

    def left(self, piece_id: str) -> BaseGeometry | None:
        """The wood of a piece that is free; None where all of it is."""
        if not self.anything:
            return None
        taken = [self._room_of(c.claimed(self.job.kit)) for c in self.footprints[piece_id]]
        taken += [self._room_of(c.block) for c in self._lost if c.piece == piece_id]
        builds = {b.id for b in self.job.builds}
        kept = [Polygon(c.polygon) for c in self.job.claims if c.piece == piece_id and c.build not in builds]
        taken += [self._room_of(shape, corners=True) for shape in kept]
        if not taken and not self.is_cut(piece_id):
            return None
        wood = whole_depth_wood(self.hands(piece_id))
        return shapely.difference(wood, shapely.union_all(taken)) if taken else wood

    def _room_of(self, shape: BaseGeometry, *, corners: bool = False) -> BaseGeometry:
        """A shape with the kerf beside it, less a hair; with corners it is the simpler and a little the larger."""
        kit = self.job.kit
        if kit.cutting == "outline" and corners:
            return shape.buffer(max(0.0, kit.kerf_mm.outline - HAIR_MM), join_style="mitre", mitre_limit=10)
        if kit.cutting == "outline":
            return shape.buffer(max(0.0, kit.kerf_mm.outline - HAIR_MM), quad_segs=16)
        x0, y0, x1, y1 = shape.bounds
        along, across = kit.kerf_mm.crosscut - HAIR_MM, kit.kerf_mm.rip - HAIR_MM
        return box(x0 - along, y0 - across, x1 + along, y1 + across)

    def kept_for(self, piece_id: str) -> list[tuple[str, Polygon]]:
        """(build, outline) of the claims on a piece."""
        return [(c.build, Polygon(c.polygon)) for c in self.job.claims if c.piece == piece_id]

    def fits_beside(self, one: Candidate) -> bool:
        """Whether a new place lies in one piece in hand and keeps clear of what stays, also with what is cleaned off it, and of wood kept for
        another build."""
        kit = self.job.kit
        if self.is_cut(one.piece) and not any(h.covers(one.block) for h in self._whole_hands(one.piece)):
            return False
        grown = one.claimed(kit)
        if one.part.clean and any(
            grown.intersection(self._room_of(c.claimed(kit))).area > 1e-3 for c in self.footprints[one.piece]
        ):
            return False
        if kit.cutting == "outline":  # the kerf round a corner is told in chords, which lie a little nearer
            near = [*(c.claimed(kit) for c in self.footprints[one.piece]), *(c.block for c in self._lost if c.piece == one.piece)]
            if any(grown.distance(shape) < kit.kerf_mm.outline - NEAR_MM for shape in near):
                return False
        users = {o.build for b in self.job.builds for o in b.options if one.part.id in o.needs}
        return all(
            users == {build} or one.claimed(kit).intersection(self._room_of(shape)).area <= 1e-3
            for build, shape in self.kept_for(one.piece)
        )

    # sets ---------------------------------------------------------------------------------------------------------
    def _sets(self) -> list[StandingSet]:
        rows: dict[tuple[str, int], list[Placement]] = defaultdict(list)
        for one in self.job.pins:
            rows[one.part, one.set].append(one)
        return [self._set(self.parts[part], number, tuple(some)) for (part, number), some in sorted(rows.items())]

    def _set(self, part: Part, number: int, rows: tuple[Placement, ...]) -> StandingSet:
        each = 1 if part.leaves_max is not None else part.leaves
        by_copy: dict[int, list[Placement]] = defaultdict(list)
        for row in rows:
            by_copy[row.copy_].append(row)
        whole = [some for some in by_copy.values() if len(some) == each]
        copies: dict[str, int] = defaultdict(int)
        for some in whole:
            copies[some[0].piece] += 1
        one_piece = not part.same_piece or len(copies) <= 1
        complete = len(whole) == part.per_set and one_piece and len({r.build for r in rows}) == 1
        mendable = bool(whole) and len(whole) == len(by_copy) and one_piece and not part.in_pairs
        return StandingSet(part.id, number, rows[0].build, rows, dict(copies), complete, complete or mendable)

    def sets_of(self, part: str) -> list[StandingSet]:
        """The standing sets of a part that count or may come to count."""
        return [s for s in self.sets if s.part == part and s.open]

    def without(self) -> Job:
        """The job less what stands whole: what hand's rule still has to lay."""
        if not self.sets:
            return self.job
        have: dict[tuple[str | None, str], int] = defaultdict(int)
        for one in self.sets:
            have[one.build, one.part] += one.whole
        if not self.job.builds:
            parts = tuple(
                p if p.quantity is None else p.changed(quantity=max(0, p.quantity - have[None, p.id])) for p in self.job.parts
            )
            return self.job.changed(parts=parts)
        builds = []
        for build in self.job.builds:

            def needs_of(needs: dict[str, int], owner: str = build.id) -> dict[str, int]:
                return {p: n - have[owner, p] for p, n in needs.items() if n > have[owner, p]}

            if (fewer := build.remade(needs_of)) is not None:
                builds.append(fewer)
        return self.job.changed(builds=tuple(builds))

    def hinted(self, sheets: Mapping[str, BoardGeometry]) -> list[Candidate]:
        """The places of an earlier plan that still hold."""
        found: list[Candidate] = []
        known = [r for r in self.job.hints if r.part in self.parts and r.piece in sheets]
        for rows in _by_place(known).values():
            one = as_candidate(self.parts[rows[0].part], rows, self.job.kit)
            exact = Exact(sheets[one.piece], one.orientation)
            seat = exact.seat(one.seat.x, one.seat.y) if exact.size_trouble() is None else None
            pair = (one.part.id, rows[0].set) if one.part.in_pairs else None
            if isinstance(seat, ExactPlacement):
                found.append(Candidate(one.part, one.piece, one.orientation, seat, pair))
        return found

    def displaced(self, made: Iterable[str]) -> tuple[str, ...]:
        """Builds of the job that something stands, was lost or is kept for, and that are not made."""
        named = {r.build for r in (*self.job.pins, *self.job.lost)} | {c.build for c in self.job.claims}
        done = set(made)
        return tuple(b.id for b in self.job.builds if b.id in named and b.id not in done)


def _by_place(rows: Sequence[Placement]) -> dict[Place, list[Placement]]:
    """The leaves that come from one footprint."""
    found: dict[Place, list[Placement]] = defaultdict(list)
    for one in rows:
        found[one.part, one.piece, one.x, one.y, one.angle_deg, one.mirror, one.face_up, one.on_edge].append(one)
    return found


def as_candidate(part: Part, rows: Sequence[Placement], kit: CutKit) -> Candidate:
    """A footprint that is laid already, from the leaves that stand for it."""
    one = rows[0]
    leaves = max(r.leaf for r in rows) if part.leaves_max is not None else part.leaves
    laid = next((w for w in ways_laid(part) if w.leaves == leaves and stands(w) == one.on_edge), part)
    top = min(r.z_top_mm - (r.leaf - 1) * (laid.thickness_mm + kit.leaf_loss_mm) for r in rows)
    seat = ExactPlacement(one.x, one.y, top, one.spare_mm, 0.0, by_heights=one.flattening == "exact")
    return Candidate(laid, one.piece, Orientation(laid, one.angle_deg, one.mirror, one.face_up), seat)
