"""The question put to the planner: kit, pieces, parts and builds, as in the exchange contract."""

from __future__ import annotations

import math
from collections.abc import Iterator
from typing import Literal

from pydantic import Field

from grainet.design.joint_edge import ON_EDGE_MM, joint_of, on_outline
from grainet.design.part import Part
from grainet.design.recipe import Build, Recipe, Way
from grainet.design.shape import is_rectangle, placed
from grainet.job.answer import Cut, Placement
from grainet.kit.cut_kit import CutKit
from grainet.wood.outline import ring_fault
from grainet.wood.piece import Piece
from grainet.wood.value import Ring, Value, says_nothing

PLACED_MM = 1e-3  # a polygon written with fewer digits is still the same
Objective = Literal["yield", "figure", "joints", "weight", "cost"]
Fault = tuple[str, str]  # where, what was found and is wanted


class Exclusion(Value):
    """A part that shall not come from a piece, and why: the shop's judgement, not geometry."""

    part: str
    piece: str
    why: str
    code: str = ""  # metal, species, promised, claimed, or the house rule that speaks against it


class Claim(Value):
    """Wood of a piece that is kept for a build: no other build's parts lie there, and unless that build uses it, no cut goes through."""

    piece: str
    polygon: Ring = Field(min_length=3)
    build: str = Field(min_length=1)


class Job(Value):
    """Everything that a plan depends on, effort and seed apart."""

    format: Literal["grainet-job"] = "grainet-job"
    version: Literal[1, 2] = 1
    kit: CutKit = CutKit()
    pieces: tuple[Piece, ...] = ()
    parts: tuple[Part, ...] = ()
    builds: tuple[Build, ...] = ()
    barred: tuple[Exclusion, ...] = Field(default=(), alias="x-barred")
    # from version 2 on: what stands already when it is planned once more
    pins: tuple[Placement, ...] = Field(default=(), exclude_if=says_nothing)  # stay as they are and are listed
    lost: tuple[Placement, ...] = Field(default=(), exclude_if=says_nothing)  # take wood and kerf and count for nothing
    cut: tuple[Cut, ...] = Field(default=(), exclude_if=says_nothing)  # made already; a plan tells the cuts that follow
    claims: tuple[Claim, ...] = Field(default=(), exclude_if=says_nothing)
    objective: Objective | None = Field(
        default=None, exclude_if=says_nothing
    )  # after the builds, before what their ways are worth
    plans: int | None = Field(default=None, ge=1, le=9, exclude_if=says_nothing)  # that differ in at least one board or way
    # places of an earlier plan that are not cut: tried first, so that a new plan is no worse than going on with the old one
    hints: tuple[Placement, ...] = Field(default=(), alias="x-hints", exclude_if=says_nothing)

    def faults(self) -> Iterator[Fault]:
        """What the shape of the values alone cannot tell: names that clash or lead nowhere, rings that cross themselves."""
        yield from _clashes("pieces", [p.id for p in self.pieces])
        yield from _clashes("parts", [p.id for p in self.parts])
        yield from _clashes("builds", [b.id for b in self.builds])
        for i, piece in enumerate(self.pieces):
            yield from _piece_faults(f"pieces[{i}]", piece)
        for i, part in enumerate(self.parts):
            yield from _part_faults(f"parts[{i}]", part)
        known = {p.id for p in self.parts}
        for i, build in enumerate(self.builds):
            yield from _build_faults(f"builds[{i}]", build, known)
        yield from (_second_faults if self.version == 2 else _first_faults)(self)

    def piece(self, piece_id: str) -> Piece:
        """The piece of an id. Raises StopIteration where there is none."""
        return next(p for p in self.pieces if p.id == piece_id)

    def part(self, part_id: str) -> Part:
        """The part of an id. Raises StopIteration where there is none."""
        return next(p for p in self.parts if p.id == part_id)


def _clashes(where: str, ids: list[str]) -> Iterator[Fault]:
    for i, found in enumerate(ids):
        if found in ids[:i]:
            yield f"{where}[{i}].id", f"“{found}” stands twice, needs a name of its own"


def _piece_faults(where: str, piece: Piece) -> Iterator[Fault]:
    if fault := ring_fault(piece.outline):
        yield f"{where}.outline", fault
    if piece.thickness_mm is None and not piece.stations:
        yield where, "has neither thickness_mm nor stations, needs one of them"
    seen: dict[tuple[float, float], float] = {}
    for j, station in enumerate(piece.stations):
        place = (station.x_mm, station.y_mm)
        if max(map(abs, place)) > 20_000:
            yield f"{where}.stations[{j}]", f"lies at {place}, at most 20000 mm out"
        if abs(seen.setdefault(place, station.thickness_mm) - station.thickness_mm) > 1e-9:
            yield (f"{where}.stations[{j}]", f"reads {station.thickness_mm} where {seen[place]} was read before at {place}")
    yield from _clashes(f"{where}.defects", [d.id for d in piece.defects])
    for j, defect in enumerate(piece.defects):
        if fault := ring_fault(defect.polygon):
            yield f"{where}.defects[{j}].polygon", fault


def _part_faults(where: str, part: Part) -> Iterator[Fault]:
    if fault := ring_fault(part.outline):
        yield f"{where}.outline", fault
    for j, zone in enumerate(part.zones):
        if zone.polygon != "rest" and (fault := ring_fault(zone.polygon)):
            yield f"{where}.zones[{j}].polygon", fault


def _build_faults(where: str, build: Build, known: set[str]) -> Iterator[Fault]:
    if bool(build.recipes) == bool(build.components):
        yield (
            where,
            f"has {'both recipes and components' if build.recipes else 'neither recipes nor components'}, needs one of them",
        )
    yield from _clashes(f"{where}.recipes", [r.id for r in build.recipes])
    for j, recipe in enumerate(build.recipes):
        yield from _needs_faults(f"{where}.recipes[{j}]", recipe, known)
    yield from _clashes(f"{where}.components", [c.id for c in build.components])
    for j, component in enumerate(build.components):
        yield from _clashes(f"{where}.components[{j}].ways", [w.id for w in component.ways])
        for k, way in enumerate(component.ways):
            yield from _needs_faults(f"{where}.components[{j}].ways[{k}]", way, known)


def _needs_faults(where: str, option: Recipe | Way, known: set[str]) -> Iterator[Fault]:
    for name in option.needs:
        if name not in known:
            yield f"{where}.needs", f"names “{name}”, needs one of the job's parts"
    for name in option.same_piece:
        if name not in option.needs:
            yield f"{where}.same_piece", f"names “{name}”, which it does not need"


# version 2 ------------------------------------------------------------------------------------------------------------
OF_THE_JOB = ("pins", "lost", "cut", "claims", "objective", "plans")
SECOND = (
    "keep",
    "figure",
    "byproduct",
    "on_edge",
    "hand",
    "mate",
    "fold",
    "slip",
    "joint_edge",
    "joint_mm",
    "allowance_mm",
    "leaves_max",
)


def _first_faults(job: Job) -> Iterator[Fault]:
    """What a job of version 1 says that only version 2 knows."""
    for i, part in enumerate(job.parts):
        told = [name for name in SECOND if getattr(part, name)]
        yield from ((f"parts[{i}].{name}", "stands in a job of version 1, needs version 2") for name in told)
    for i, build in enumerate(job.builds):
        if build.components:
            yield f"builds[{i}].components", "stands in a job of version 1, needs version 2"
    for name in OF_THE_JOB:
        if getattr(job, name):
            yield name, "stands in a job of version 1, needs version 2"


def _second_faults(job: Job) -> Iterator[Fault]:
    """What of version 2 does not go together."""
    for i, part in enumerate(job.parts):
        where = f"parts[{i}]"
        if part.on_edge and not is_rectangle(part.ring):
            yield f"{where}.on_edge", "its outline is no rectangle along its own axes, needs one"
        if part.on_edge and part.joint_edge is not None:
            yield f"{where}.on_edge", "stands beside joint_edge, which is told of the part as it lies flat; needs one of the two"
        if part.leaves_max is not None and (part.leaves > 1 or part.per_set > 1):
            yield f"{where}.leaves_max", "stands beside leaves or per_set, needs a part of one leaf and one copy"
        if part.joint_mm and part.joint_edge is None:
            yield f"{where}.joint_mm", "has no joint_edge that it lies beyond, needs one"
        if part.joint_edge is not None and not on_outline(part):
            yield f"{where}.joint_edge", f"lies off the outline, needs to be on it within {ON_EDGE_MM:g}"
        yield from _pair_faults(where, part)
        yield from _hand_faults(where, part, job)
        yield from _wish_faults(where, part, job)
    yield from _standing_faults(job)


def _pair_faults(where: str, part: Part) -> Iterator[Fault]:
    if part.fold and part.slip:
        yield f"{where}.slip", "stands beside fold, needs one of the two"
    elif part.in_pairs and (part.per_set != 2 or part.leaves != 1 or part.on_edge):
        yield f"{where}.{'fold' if part.fold else 'slip'}", "needs per_set 2 of one leaf each, lying flat"
    if part.fold and joint_of(part) is None:
        yield f"{where}.fold", "its joint edge does not lie along x at the outline's rim, needs one that does"


def _hand_faults(where: str, part: Part, job: Job) -> Iterator[Fault]:
    if part.hand is not None and part.fold:
        yield f"{where}.fold", "stands beside hand, whose mate is the mirror image already; needs one of the two"
    if part.hand is not None and part.mirror:
        yield f"{where}.mirror", "stands beside hand, needs a part that is never mirrored"
    if part.mate is None:
        return
    mate = next((p for p in job.parts if p.id == part.mate), None)
    if mate is None:
        yield f"{where}.mate", f"names “{part.mate}”, needs one of the job's parts"
    elif part.hand is None or mate.hand == part.hand or mate.mate != part.id:
        yield f"{where}.mate", f"“{mate.id}” is no mate of the other hand, needs one that names this part"


def _wish_faults(where: str, part: Part, job: Job) -> Iterator[Fault]:
    """Flaws to keep and figure to show that no piece has; a by-product that a build needs."""
    pieces = {p.id: p for p in job.pieces}
    for k, flaw in enumerate(part.keep):
        if flaw.piece not in pieces:
            yield f"{where}.keep[{k}].piece", f"names “{flaw.piece}”, needs one of the job's pieces"
        elif flaw.defect not in {d.id for d in pieces[flaw.piece].defects}:
            yield f"{where}.keep[{k}].defect", f"names “{flaw.defect}”, needs one of the piece's defects"
    for k, wish in enumerate(part.figure):
        if wish.piece not in pieces:
            yield f"{where}.figure[{k}].piece", f"names “{wish.piece}”, needs one of the job's pieces"
        if fault := ring_fault(wish.polygon):
            yield f"{where}.figure[{k}].polygon", fault
    if part.byproduct and any(part.id in o.needs for b in job.builds for o in b.options):
        yield f"{where}.byproduct", "is needed by a build, needs a part that none asks for"


def _standing_faults(job: Job) -> Iterator[Fault]:
    """Pins, lost parts, cuts and claims that lead nowhere, or say one thing twice."""
    parts, pieces, builds = ({one.id for one in rows} for rows in (job.parts, job.pieces, job.builds))
    seen: dict[tuple[object, ...], str] = {}
    for name in ("pins", "lost"):
        for i, one in enumerate(getattr(job, name)):
            where = f"{name}[{i}]"
            if one.part not in parts:
                yield f"{where}.part", f"names “{one.part}”, needs one of the job's parts"
            if one.piece not in pieces:
                yield f"{where}.piece", f"names “{one.piece}”, needs one of the job's pieces"
            if one.build is not None and one.build not in builds:
                yield f"{where}.build", f"names “{one.build}”, needs one of the job's builds"
            if name == "pins" and (first := seen.setdefault(one.key[1:], where)) != where:
                yield where, f"is the same leaf of the same set as {first}, needs one of them"
            if fault := ring_fault(one.polygon):
                yield f"{where}.polygon", fault
            if one.part in parts:
                yield from _leaf_faults(where, one, job.part(one.part))
    for i, claim in enumerate(job.claims):
        if claim.piece not in pieces:
            yield f"claims[{i}].piece", f"names “{claim.piece}”, needs one of the job's pieces"
        if fault := ring_fault(claim.polygon):
            yield f"claims[{i}].polygon", fault
    yield from _cut_faults(job.cut, pieces)


def _leaf_faults(where: str, one: Placement, part: Part) -> Iterator[Fault]:
    """A placement that its part cannot have: a leaf or copy beyond those of a set, an outline that is not the part's own there."""
    leaves = part.leaves_max or part.leaves
    if one.leaf > leaves:
        yield f"{where}.leaf", f"is {one.leaf}, at most {leaves} for {part.id}"
    if one.copy_ > part.per_set:
        yield f"{where}.copy", f"is {one.copy_}, at most {part.per_set} for {part.id}"
    if one.on_edge:
        if not part.on_edge:
            yield f"{where}.on_edge", f"stands on edge, which {part.id} does not allow"
        return
    over = one.mirror != (one.face_up == "2")
    there = placed(part.ring, one.x, one.y, one.angle_deg, turned_over=over)
    off = max((math.dist(a, b) for a, b in zip(there.tolist(), one.polygon)), default=0.0)
    if len(there) != len(one.polygon) or off > PLACED_MM:
        yield (
            f"{where}.polygon",
            f"is not the outline of {part.id} at x, y, angle_deg and mirror, needs to be within {PLACED_MM:g}",
        )


def _cut_faults(cuts: tuple[Cut, ...], pieces: set[str]) -> Iterator[Fault]:
    """Cuts that do not follow from one another: each takes a piece in hand and gives new ones."""
    in_hand, gone = set(pieces), set[str]()
    for i, cut in enumerate(cuts):
        if cut.piece not in in_hand:
            what = "is sawn already" if cut.piece in gone else "is no piece in hand then"
            yield f"cut[{i}].piece", f"“{cut.piece}” {what}, needs one that is"
        if not cut.gives:
            yield f"cut[{i}].gives", "names nothing, needs the pieces that the cut gave"
        if cut.tool == "resaw" and cut.depth_mm is None:
            yield f"cut[{i}].x-depth_mm", "is missing, needs how deep a resaw's kerf lies from face 1"
        for name in cut.gives:
            if name in in_hand or name in gone:
                yield f"cut[{i}].gives", f"“{name}” is the name of another piece, needs one of its own"
        in_hand.discard(cut.piece)
        gone.add(cut.piece)
        in_hand.update(cut.gives)
