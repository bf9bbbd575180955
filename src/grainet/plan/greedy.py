"""The plain baseline: parts one after another, each at the lowest place of the smallest piece that takes it.

It is what a careful person does by hand; the planner starts from it and the bench stands beside it.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from grainet.design.part import Part, sets_each, ways_laid
from grainet.design.recipe import Build, Option
from grainet.fit.board_geometry import BoardGeometry
from grainet.fit.exact import Exact, ExactPlacement, seats
from grainet.fit.field import Layers, fit_field
from grainet.fit.orientation import Orientation, orientations_of
from grainet.job.job import Job
from grainet.plan.candidates import Candidate, clear_of
from grainet.plan.pairs import pairs_for
from grainet.plan.sawing import separable

ASKED_FIRST = 3  # places are asked at once, since the first ones mostly hold
MANY_BOARDS = 100  # of a rack of more, what the empty ones were looked over with is not kept
MOST_ASKED = 200_000  # answers that are kept
ASKED_PLACES = 24  # of one part on one piece that are asked exactly at a time


Left = dict[str, Counter[str]]  # footprints that are left of each part, by piece
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
    asked: dict[tuple[str, str, frozenset[object]], Candidate | None] = field(
        default_factory=dict
    )  # first places beside what lay there

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
    return [one for laid in Layer(job, sheets, known).lay_all().values() for one in laid]


Unit = tuple[str, int]  # a build and 0, or a part and which of its sets


class Layer:
    """Lays the builds of a job, or sets of its parts, one after another beside what lies there; what it laid it can take up again."""

    def __init__(self, job: Job, sheets: Mapping[str, BoardGeometry], known: KnownPlaces | None = None) -> None:
        self.job = job
        self.bench = Occupancy.of(sheets)
        if known is not None:
            self.bench.known = known
        self.bench.barred = frozenset((bar.part, bar.piece) for bar in job.barred)
        self.order = sorted(sheets, key=lambda p: (sheets[p].outline.area, p))
        self.groups: dict[str, list[Whole]] = {b.id: sorted(wholes_of(b), key=lambda g: -worth_of_whole(g)) for b in job.builds}

    def lay_all(self, stop: Callable[[], bool] = lambda: False) -> dict[Unit, list[Candidate]]:
        """Everything by the baseline, most worth first; what is laid until it is stopped."""
        if not self.job.builds:
            return self._all_sets(stop)
        done: dict[Unit, list[Candidate]] = {}
        ranked = sorted(((worth_of_whole(g), g) for b in self.job.builds for g in wholes_of(b)), key=lambda w: -w[0])
        for _, group in ranked:
            unit = (group.build.id, 0)
            if stop():
                break
            if unit not in done and (found := _lay_build(self.bench, self.order, self.job, group)) is not None:
                done[unit] = found
        return done

    def _all_sets(self, stop: Callable[[], bool]) -> dict[Unit, list[Candidate]]:
        done: dict[Unit, list[Candidate]] = {}
        for part in sorted(self.job.parts, key=lambda p: -p.value):
            made = 0
            while (
                not stop()
                and (part.quantity is None or made < part.quantity)
                and (found := self.lay((part.id, made))) is not None
            ):
                done[part.id, made] = found
                made += 1
        return done

    def lay(self, unit: Unit) -> list[Candidate] | None:
        """One build in its dearest way that can be laid now, or one set of a part; None where none can."""
        if self.job.builds:
            rows = self.groups[unit[0]]
            return next((f for g in rows if (f := _lay_build(self.bench, self.order, self.job, g)) is not None), None)
        part = self.job.part(unit[0])
        return _lay_all(self.bench, self.order, [(part, part.per_set, part.same_piece)])

    def take_up(self, laid: Sequence[Candidate]) -> None:
        """Take some footprints up again."""
        _undo(self.bench, laid)

    def put_back(self, laid: Sequence[Candidate]) -> None:
        """Lay footprints where they lay before."""
        for one in laid:
            self.bench.lay(one)


@dataclass(frozen=True)
class Whole:
    """All that makes a build: a recipe, or the ways of each component, the dearest first."""

    build: Build
    choices: tuple[tuple[Option, ...], ...]


def wholes_of(build: Build) -> list[Whole]:
    """A build's recipes one by one; of a build in components the one group of all of them."""
    whole = [Whole(build, ((o,),)) for o in build.options if not o.component]
    if build.components:
        ways = tuple(
            tuple(sorted((o for o in build.options if o.component == c.id), key=lambda o: -o.value)) for c in build.components
        )
        whole.append(Whole(build, ways))
    return whole


def worth_of_whole(group: Whole) -> float:
    """What a build is worth, made by the dearest of the ways given."""
    return (group.build.value if group.build.components else 0.0) + sum(max(o.value for o in ways) for ways in group.choices)


def _lay_build(bench: Occupancy, order: Sequence[str], job: Job, group: Whole) -> list[Candidate] | None:
    """Lay one way of each component (or the recipe), or nothing. The component whose part is thickest comes first."""
    laid: list[Candidate] = []
    thickness = {p.id: p.thickness_mm * p.leaves for p in job.parts}

    def thickest(ways: tuple[Option, ...]) -> float:
        return max((thickness[p] for o in ways for p in o.needs), default=0.0)

    for ways in sorted(group.choices, key=lambda w: -thickest(w)):
        found = next((f for o in ways if (f := _lay_all(bench, order, wanted_for(job, o))) is not None), None)
        if found is None:
            _undo(bench, laid)
            return None
        laid += found
    return laid


def wanted_for(job: Job, option: Option) -> list[tuple[Part, int, bool]]:
    """(part, copies, from one piece) for everything that a recipe or way needs, the thickest first."""
    wanted = [
        (job.part(p), job.part(p).per_set * (n if p in option.same_piece else 1), job.part(p).same_piece or p in option.same_piece)
        for p, n in option.needs.items() for _ in range(1 if p in option.same_piece else n)
    ]  # fmt: skip
    return sorted(wanted, key=lambda w: -w[0].thickness_mm * w[0].leaves)


def worth_of(job: Job, chosen: Sequence[Candidate]) -> float:
    """What whole sets and whole builds of some footprints are worth, the dearest way of each first."""
    if job.builds:
        values = {b.id: b.value if b.components else 0.0 for b in job.builds}
        return sum(values[build] + sum(way.value for way in ways) for build, ways in made_of(job, chosen).items())
    count = Counter(one.part.id for one in chosen for _ in range(sets_each(one.part)))
    return float(sum(part.value * (count[part.id] // part.per_set) for part in job.parts))


def made_of(job: Job, chosen: Sequence[Candidate]) -> dict[str, list[Option]]:
    """The builds that some footprints make, each in its dearest ways, the dearest first."""
    left: Left = {part.id: Counter() for part in job.parts}
    for one in chosen:
        left[one.part.id][one.piece] += sets_each(one.part)
    made: dict[str, list[Option]] = {}
    for group in sorted((group for build in job.builds for group in wholes_of(build)), key=lambda w: -worth_of_whole(w)):
        if group.build.id not in made and (taken := _taken_from(job, left, group)) is not None:
            made[group.build.id] = taken
    return made


def _taken_from(job: Job, left: Left, group: Whole) -> list[Option] | None:
    """The dearest ways that what is left makes, taken out of it; None where a component has none."""
    after = {part: counts.copy() for part, counts in left.items()}
    taken: list[Option] = []
    for ways in group.choices:
        one = next((o for o in ways if _take(job, after, o)), None)
        if one is None:
            return None
        taken.append(one)
    left.update(after)
    return taken


def _take(job: Job, left: Left, option: Option) -> bool:
    """Take what a way needs out of what is left, from one piece where it says so; False leaves it as it was."""
    before = {part: left[part].copy() for part in option.needs if part in left}
    for part, count in option.needs.items():
        rows, per_set = left.get(part, Counter()), job.part(part).per_set
        if part in option.same_piece:
            lots = [count * per_set]
        else:
            lots = [per_set] * count if job.part(part).same_piece else [1] * (count * per_set)
        for lot in lots:
            enough = min(((n, piece) for piece, n in rows.items() if n >= lot), default=None)
            if enough is None:
                left.update(before)
                return False
            rows[enough[1]] -= lot
    return True


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
    """The place nearest the marked end and the near edge that holds, beside what is laid already; asked once for each arrangement."""
    key = (piece, part.id, frozenset(one.key for one in bench.laid[piece]))
    if key not in bench.asked:
        if len(bench.asked) > MOST_ASKED:
            bench.asked.clear()
        bench.asked[key] = _first_place(bench, piece, part)
    return bench.asked[key]


def _first_place(bench: Occupancy, piece: str, part: Part) -> Candidate | None:
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
        for tried in asked_places(len(rows)):
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
        if len(bench.sheets) > MANY_BOARDS:
            bench.layers[piece].forget()
    return best


def _at_the_corner(sheet: BoardGeometry, exact: Exact) -> ExactPlacement | None:
    """The place flush with the marked end and the near edge, where it holds: nothing lies nearer."""
    x0, y0, _, _ = sheet.usable.bounds
    bx0, by0, _, _ = exact.orientation.bounds
    found = exact.seat(x0 - bx0, y0 - by0)
    return found if isinstance(found, ExactPlacement) else None


def asked_places(count: int) -> list[list[int]]:
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
    return clear_of(laid, one, kit)
