"""The plain baseline: parts one after another, each at the lowest place of the smallest piece that takes it.

It is what a careful person does by hand; the planner starts from it and the bench stands beside it.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from grainet.design.part import Part, sets_each, ways_laid
from grainet.design.recipe import Build, Option
from grainet.fit.board_geometry import BoardGeometry
from grainet.fit.exact import Exact, ExactPlacement, seats
from grainet.fit.field import Layers, fit_field
from grainet.fit.orientation import Orientation, orientations_of
from grainet.job.job import Job
from grainet.plan.candidates import Candidate
from grainet.plan.pairs import pairs_for
from grainet.plan.sawing import separable

ASKED_FIRST = 3  # places are asked at once, since the first ones mostly hold
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
    ranked = sorted(((_worth(group), group) for b in job.builds for group in _whole(b)), key=lambda w: -w[0])
    made_builds: set[str] = set()
    for _, group in ranked:
        if group.build.id in made_builds:
            continue
        found = _lay_build(bench, order, job, group)
        if found is not None:
            done += found
            made_builds.add(group.build.id)
    return done


@dataclass(frozen=True)
class _Whole:
    """All that makes a build: a recipe, or the ways of each component, the dearest first."""

    build: Build
    choices: tuple[tuple[Option, ...], ...]


def _whole(build: Build) -> list[_Whole]:
    """A build's recipes one by one; of a build in components the one group of all of them."""
    whole = [_Whole(build, ((o,),)) for o in build.options if not o.component]
    if build.components:
        ways = tuple(
            tuple(sorted((o for o in build.options if o.component == c.id), key=lambda o: -o.value)) for c in build.components
        )
        whole.append(_Whole(build, ways))
    return whole


def _worth(group: _Whole) -> float:
    return (group.build.value if group.build.components else 0.0) + sum(max(o.value for o in ways) for ways in group.choices)


def _lay_build(bench: Occupancy, order: Sequence[str], job: Job, group: _Whole) -> list[Candidate] | None:
    """Lay one way of each component (or the recipe), or nothing. The component whose part is thickest comes first."""
    laid: list[Candidate] = []
    thickness = {p.id: p.thickness_mm * p.leaves for p in job.parts}

    def thickest(ways: tuple[Option, ...]) -> float:
        return max((thickness[p] for o in ways for p in o.needs), default=0.0)

    for ways in sorted(group.choices, key=lambda w: -thickest(w)):
        found = next((f for o in ways if (f := _lay_all(bench, order, _wanted_for(job, o))) is not None), None)
        if found is None:
            _undo(bench, laid)
            return None
        laid += found
    return laid


def _wanted_for(job: Job, option: Option) -> list[tuple[Part, int, bool]]:
    """(part, copies, from one piece) for everything that a recipe or way needs, the thickest first."""
    wanted = [
        (job.part(p), job.part(p).per_set * (n if p in option.same_piece else 1), job.part(p).same_piece or p in option.same_piece)
        for p, n in option.needs.items() for _ in range(1 if p in option.same_piece else n)
    ]  # fmt: skip
    return sorted(wanted, key=lambda w: -w[0].thickness_mm * w[0].leaves)


def worth_of(job: Job, chosen: Sequence[Candidate]) -> float:
    """What whole sets and whole builds of some footprints are worth, the dearest way of each first."""
    left = {part.id: sum(sets_each(c.part) for c in chosen if c.part.id == part.id) // part.per_set for part in job.parts}
    if not job.builds:
        return float(sum(part.value * left[part.id] for part in job.parts))
    made: set[str] = set()
    value = 0.0
    for _, group in sorted(((_worth(group), group) for b in job.builds for group in _whole(b)), key=lambda w: -w[0]):
        if group.build.id not in made and (taken := _taken_from(left, group)) is not None:
            made.add(group.build.id)
            value += (group.build.value if group.build.components else 0.0) + sum(o.value for o in taken)
    return value


def _taken_from(left: dict[str, int], group: _Whole) -> list[Option] | None:
    """The dearest ways that what is left makes, taken out of it; None where a component has none."""
    after = dict(left)
    taken: list[Option] = []
    for ways in group.choices:
        one = next((o for o in ways if all(after.get(p, 0) >= n for p, n in o.needs.items())), None)
        if one is None:
            return None
        taken.append(one)
        for p, n in one.needs.items():
            after[p] -= n
    left.update(after)
    return taken


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
        while len(laid) + len(here) < count and (found := _next_place(bench, piece, part)):
            for one in found:
                bench.lay(one)
            here += found
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


def _next_place(bench: Occupancy, piece: str, part: Part) -> list[Candidate]:
    """The first place that holds; of a part whose copies lie in pairs, both of the first pair."""
    if not part.in_pairs:
        one = first_place(bench, piece, part)
        return [] if one is None else [one]
    both, _ = pairs_for(bench.layers[piece], part, (part,), 4 * ASKED_PLACES, 1)
    pairs = zip(both[::2], both[1::2])
    return next(([a, b] for a, b in sorted(pairs, key=lambda ab: _end(*ab)) if _free(bench, a) and _free(bench, b)), [])


def _end(a: Candidate, b: Candidate) -> tuple[float, float]:
    return max(a.polygon.bounds[2], b.polygon.bounds[2]), a.seat.y


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
    for orientation in (o for way in ways_laid(part) if sets_each(way) == 1 for o in orientations_of(way)):
        exact = Exact(sheet, orientation)
        if exact.size_trouble() is not None:
            continue
        if best is not None and sheet.usable.bounds[0] + orientation.length >= best.polygon.bounds[2] - 1e-9:
            continue  # even at the very end of the wood it would reach no less far
        if empty and (corner := _at_the_corner(sheet, exact)) is not None:  # clear wood needs no field
            best = Candidate(orientation.part, piece, orientation, corner)
            continue
        fits = fit_field(bench.layers[piece], orientation, want_covered=False)
        columns, rows = np.divmod(np.flatnonzero(np.ascontiguousarray(fits.fits.T)), max(1, fits.fits.shape[0]))
        if not len(rows):
            continue
        for tried in _asked_places(len(rows)):
            shifts = np.array([fits.shift(rows[k], columns[k]) for k in tried])
            one = _first_free(bench, piece, exact, orientation, shifts)
            if one is not None:
                if best is None or one.polygon.bounds[2] < best.polygon.bounds[2]:
                    best = one
                break
    if best is None:
        full.add(part.id)
    if empty:
        bench.known[sheet, part] = best
    return best


def _at_the_corner(sheet: BoardGeometry, exact: Exact) -> ExactPlacement | None:
    """The place flush with the marked end and the near edge, where it holds: nothing lies nearer."""
    x0, y0, _, _ = sheet.usable.bounds
    bx0, by0, _, _ = exact.orientation.bounds
    found = exact.seat(x0 - bx0, y0 - by0)
    return found if isinstance(found, ExactPlacement) else None


def _asked_places(count: int) -> list[list[int]]:
    """Which of so many places are asked exactly: the first few, the next ones; where none of them holds, some spread over all."""
    first = list(range(min(count, ASKED_PLACES)))
    spread = (
        sorted({round(k * (count - 1) / (ASKED_PLACES - 1)) for k in range(ASKED_PLACES)} - set(first))
        if count > ASKED_PLACES
        else []
    )
    return [asked for asked in (first[:ASKED_FIRST], first[ASKED_FIRST:], spread) if asked]


def _first_free(bench: Occupancy, piece: str, exact: Exact, orientation: Orientation, shifts: np.ndarray) -> Candidate | None:
    """The first of some places that holds beside what is laid."""
    for seat in seats(exact, shifts):
        one = None if seat is None else Candidate(orientation.part, piece, orientation, seat)
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
