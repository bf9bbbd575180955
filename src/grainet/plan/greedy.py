"""The plain baseline: parts one after another, each at the lowest place of the smallest piece that takes it.

It is what a careful person does by hand; the planner starts from it and the bench stands beside it.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from grainet.design.part import Part
from grainet.fit.board_geometry import BoardGeometry
from grainet.fit.exact import Exact, seats
from grainet.fit.field import Layers, fit_field
from grainet.fit.orientation import Orientation, orientations_of
from grainet.job.job import Job
from grainet.plan.candidates import Candidate
from grainet.plan.sawing import separable

ASKED_PLACES = 24  # of one part on one piece that are asked exactly at a time


KnownPlaces = dict[
    tuple[BoardGeometry, Part], Candidate | None
]  # the first place of a part on a board that nothing is laid on yet


@dataclass
class Occupancy:
    """Sheets with what has been laid on them so far."""

    sheets: Mapping[str, BoardGeometry]
    layers: dict[str, Layers]
    laid: dict[str, list[Candidate]]
    barred: frozenset[tuple[str, str]] = frozenset()  # (part, piece) that the job bars
    full: dict[str, set[str]] = field(
        default_factory=dict
    )  # per piece: parts that found no place there; more that is laid makes none

    known: KnownPlaces = field(default_factory=dict)

    @classmethod
    def of(cls, sheets: Mapping[str, BoardGeometry]) -> Occupancy:
        """Empty boards."""
        return cls(sheets, {k: Layers(s, guard=0.0) for k, s in sheets.items()}, {k: [] for k in sheets})

    def lay(self, one: Candidate) -> None:
        """Lay a candidate on its board."""
        kit = self.sheets[one.piece].kit
        kerf = kit.kerf_mm.outline if kit.cutting == "outline" else max(kit.kerf_mm.crosscut, kit.kerf_mm.rip)
        claimed = one.claimed(kit)
        shape = claimed if kit.cutting == "outline" else claimed.envelope
        self.layers[one.piece].take(shape.buffer(kerf, join_style="mitre") if kerf else shape)
        self.laid[one.piece].append(one)

    def lift(self, piece: str, keep: Sequence[Candidate]) -> None:
        """Take everything off a piece but ``keep``."""
        self.layers[piece].clear()
        self.laid[piece] = []
        self.full.pop(piece, None)
        for one in keep:
            self.lay(one)


def greedy_plan(job: Job, sheets: Mapping[str, BoardGeometry], known: KnownPlaces | None = None) -> list[Candidate]:
    """Footprints by the baseline, whole sets and whole recipes only, most worth first. ``known`` keeps what was found on empty boards for
    the next job on the same boards."""
    bench = Occupancy.of(sheets)
    if known is not None:
        bench.known = known
    bench.barred = frozenset((bar.part, bar.piece) for bar in job.barred)
    order = sorted(sheets, key=lambda p: (sheets[p].outline.area, p))
    done: list[Candidate] = []
    if not job.builds:
        for part in sorted(job.parts, key=lambda p: -p.value):
            made = 0
            while part.quantity is None or made < part.quantity:
                found = _lay_all(bench, order, [(part, part.per_set, part.same_piece)])
                if found is None:
                    break
                done += found
                made += 1
        return done
    orientations = sorted(((r.value, b, r) for b in job.builds for r in b.recipes), key=lambda w: -w[0])
    made_builds: set[str] = set()
    for _, build, recipe in orientations:
        if build.id in made_builds:
            continue
        wanted = [
            (job.part(p), job.part(p).per_set * (n if p in recipe.same_piece else 1), job.part(p).same_piece or p in recipe.same_piece)
            for p, n in recipe.needs.items() for _ in range(1 if p in recipe.same_piece else n)
        ]  # fmt: skip
        wanted.sort(key=lambda w: -w[0].thickness_mm * w[0].leaves)
        found = _lay_all(bench, order, wanted)
        if found is not None:
            done += found
            made_builds.add(build.id)
    return done


def worth_of(job: Job, chosen: Sequence[Candidate]) -> float:
    """What whole sets and whole recipes of some footprints are worth, the dearest recipe of each build first."""
    left = {part.id: sum(c.part.id == part.id for c in chosen) // part.per_set for part in job.parts}
    if not job.builds:
        return float(sum(part.value * left[part.id] for part in job.parts))
    made: set[str] = set()
    value = 0.0
    for worth, build, recipe in sorted(((r.value, b, r) for b in job.builds for r in b.recipes), key=lambda w: -w[0]):
        if build.id not in made and all(left[p] >= n for p, n in recipe.needs.items()):
            for p, n in recipe.needs.items():
                left[p] -= n
            made.add(build.id)
            value += worth
    return value


def _lay_all(bench: Occupancy, order: Sequence[str], wanted: Sequence[tuple[Part, int, bool]]) -> list[Candidate] | None:
    """Lay every group, or nothing."""
    laid: list[Candidate] = []
    for part, count, together in wanted:
        found = _lay_group(bench, order, part, count, together=together)
        if found is None:
            _undo(bench, laid)
            return None
        laid += found
    return laid


def _lay_group(bench: Occupancy, order: Sequence[str], part: Part, count: int, *, together: bool) -> list[Candidate] | None:
    laid: list[Candidate] = []
    for piece in (p for p in order if (part.id, p) not in bench.barred):
        here: list[Candidate] = []
        while len(laid) + len(here) < count and (one := first_place(bench, piece, part)) is not None:
            bench.lay(one)
            here.append(one)
        if together and len(here) < count:
            _undo(bench, here)
            continue
        laid += here
        if len(laid) == count:
            return laid
    _undo(bench, laid)
    return None


def _undo(bench: Occupancy, laid: Sequence[Candidate]) -> None:
    gone = set(map(id, laid))
    for piece in {c.piece for c in laid}:
        bench.lift(piece, [c for c in bench.laid[piece] if id(c) not in gone])


def first_place(bench: Occupancy, piece: str, part: Part) -> Candidate | None:
    """The place nearest the marked end and the near edge that holds, beside what is laid already."""
    sheet, empty = bench.sheets[piece], not bench.laid[piece]
    if (
        sheet,
        part,
    ) in bench.known:  # what is laid takes places away and makes none: the first one is the first as long as it is free
        first = bench.known[sheet, part]
        if empty or first is None or _free(bench, first):
            return first
    best: Candidate | None = None
    full = bench.full.setdefault(piece, set())
    if part.id in full:
        return None
    for orientation in orientations_of(part):
        exact = Exact(sheet, orientation)
        if exact.size_trouble() is not None:
            continue
        fits = fit_field(bench.layers[piece], orientation, want_covered=False)
        columns, rows = np.divmod(np.flatnonzero(np.ascontiguousarray(fits.fits.T)), max(1, fits.fits.shape[0]))
        if not len(rows):
            continue
        for tried in _asked_places(len(rows)):
            shifts = np.array([fits.shift(rows[k], columns[k]) for k in tried])
            one = _first_free(bench, piece, part, exact, orientation, shifts)
            if one is not None:
                if best is None or one.polygon.bounds[2] < best.polygon.bounds[2]:
                    best = one
                break
    if best is None:
        full.add(part.id)
    if empty:
        bench.known[sheet, part] = best
    return best


def _asked_places(count: int) -> list[list[int]]:
    """Which of so many places are asked exactly: the first ones; where none of them holds, some spread over all."""
    first = list(range(min(count, ASKED_PLACES)))
    spread = (
        sorted({round(k * (count - 1) / (ASKED_PLACES - 1)) for k in range(ASKED_PLACES)} - set(first))
        if count > ASKED_PLACES
        else []
    )
    return [first, spread] if spread else [first]


def _first_free(
    bench: Occupancy, piece: str, part: Part, exact: Exact, orientation: Orientation, shifts: np.ndarray
) -> Candidate | None:
    """The first of some places that holds beside what is laid."""
    for seat in seats(exact, shifts):
        one = None if seat is None else Candidate(part, piece, orientation, seat)
        if one is not None and _free(bench, one):
            return one
    return None


def _free(bench: Occupancy, one: Candidate) -> bool:
    kit = bench.sheets[one.piece].kit
    laid = bench.laid[one.piece]
    if kit.cutting == "straight":
        return separable([c.claimed(kit).bounds for c in [*laid, one]], kit.kerf_mm.crosscut, kit.kerf_mm.rip)
    mine = one.claimed(kit)
    if kit.kerf_mm.outline > 0:
        return all(c.claimed(kit).distance(mine) >= kit.kerf_mm.outline - 1e-6 for c in laid)
    return not any(
        c.claimed(kit).relate_pattern(mine, "T********") for c in laid
    )  # one within another does not overlap, but is in its way
