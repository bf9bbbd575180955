"""The question put to the planner: kit, pieces, parts and builds, as in the exchange contract."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Literal

from pydantic import Field

from grainet.design.part import Part
from grainet.design.recipe import Build
from grainet.kit.cut_kit import CutKit
from grainet.wood.outline import ring_fault
from grainet.wood.piece import Piece
from grainet.wood.value import Value

Fault = tuple[str, str]  # where, what was found and is wanted


class Exclusion(Value):
    """A part that shall not come from a piece, and why: the shop's judgement, not geometry."""

    part: str
    piece: str
    why: str
    code: str = ""  # metal, species, promised, claimed, or the house rule that speaks against it


class Job(Value):
    """Everything that a plan depends on, effort and seed apart."""

    format: Literal["grainet-job"] = "grainet-job"
    version: Literal[1] = 1
    kit: CutKit = CutKit()
    pieces: tuple[Piece, ...] = ()
    parts: tuple[Part, ...] = ()
    builds: tuple[Build, ...] = ()
    barred: tuple[Exclusion, ...] = Field(default=(), alias="x-barred")

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
    yield from _clashes(f"{where}.recipes", [r.id for r in build.recipes])
    for j, recipe in enumerate(build.recipes):
        for name in recipe.needs:
            if name not in known:
                yield f"{where}.recipes[{j}].needs", f"names “{name}”, needs one of the job's parts"
        for name in recipe.same_piece:
            if name not in recipe.needs:
                yield f"{where}.recipes[{j}].same_piece", f"names “{name}”, which the recipe does not need"
