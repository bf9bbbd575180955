"""Some parts laid together on one board, each wherever it is least in the way of the others, until none is.

All of them are laid, though they overlap; then one after another moves to the place where it lies least deep in the others, looked for
over the whole board at once and then finely, and pairs that stay in each other's way weigh more and more. What comes out is asked for
exactly before it counts. Deterministic: so many rounds, and a seed.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from grainet.design.part import Part, sets_each, stands, ways_laid
from grainet.fit.board_geometry import with_clean_up
from grainet.fit.depth_loops import COARSE, OF_ONE_WAY, STEP_MM, find_depths, move
from grainet.fit.depths import Depths, Reading
from grainet.fit.exact import Exact, seats
from grainet.fit.field import Field, Layers, fit_field
from grainet.fit.no_fit import BAYS_MM, SIMPLER_MM, bays_filled, convex_pieces, no_fit
from grainet.fit.orientation import Orientation, orientations_of
from grainet.fit.raster import Grid
from grainet.kit.cut_kit import CutKit
from grainet.plan.candidates import NUDGES_MM, Candidate, clear_of
from grainet.plan.greedy import asked_places

Array = NDArray[np.float64]
# tables are wrong by some 0.05 along a side and up to 0.3 at a few corners; what comes out is asked for exactly in any case
MARGIN_MM = 0.15
LEAST_DEPTH_MM = 0.02
HEAVIER, HEAVIEST, LIGHTER = 1.2, 0.8, 0.95  # how the weight of a pair grows by its depth, and falls again
PATIENCE = 60  # rounds without less in the way, after which two parts change places
# after so many rounds times parts, with so many mm a part in the way, it is given up: what goes has hardly ever more then
HOPELESS = ((60, 26.0), (80, 17.0), (100, 13.0), (130, 10.0), (180, 7.5), (270, 5.0), (480, 3.0), (900, 1.5))
MOST_PARTS = 16
MOST_BYTES = 56_000_000  # of tables that are kept
Lying = tuple[str, float, bool]  # an outline by the part that has it, its angle, and whether it lies turned over


@dataclass
class NoFits:
    """Depth tables of every two ways of lying that were asked for, whatever the board. What is turned or mirrored with both shapes alike is
    worked out once, and read backwards."""

    kit: CutKit
    shapes: dict[Orientation, tuple[bytes, Lying]] = field(default_factory=dict)
    pieces: dict[Lying, list[Array]] = field(default_factory=dict)
    depths: Depths = field(default_factory=Depths)
    readings: dict[tuple[Lying, Lying], Reading] = field(default_factory=dict)

    def make_room(self) -> None:
        """Forget all tables where there are too many. Those of one search must stay as long as it lasts."""
        if self.depths.nbytes > MOST_BYTES:
            self.depths.clear()
            self.readings.clear()

    def of(self, one: Orientation, other: Orientation) -> Reading:
        """How it is read how deep the other one lies in the first, by its shift against it."""
        return self._reading(self._lying(one), self._lying(other))

    def shape(self, way: Orientation) -> bytes:
        """What is sawn for a part in a way of lying, as a name that is the same for the same shape in the same place."""
        self._lying(way)
        return self.shapes[way][0]

    def _reading(self, a: Lying, b: Lying) -> Reading:
        if (a, b) not in self.readings:
            if (b, a) in self.readings:
                found = self.readings[b, a].turned
            elif a[1] >= 180:
                found = self._reading(self._half_turned(a), self._half_turned(b)).turned
            elif a[2]:
                found = self._reading(self._mirrored(a), self._mirrored(b)).mirrored
            else:
                found = self.depths.add(no_fit(self.pieces[a], self.pieces[b], self.kit.kerf_mm.outline + MARGIN_MM))
            self.readings[a, b] = found
        return self.readings[a, b]

    def _half_turned(self, lying: Lying) -> Lying:
        turned = (lying[0], (lying[1] + 180) % 360, lying[2])
        if turned not in self.pieces:
            self.pieces[turned] = [-ring for ring in self.pieces[lying]]
        return turned

    def _mirrored(self, lying: Lying) -> Lying:
        mirrored = (lying[0], -lying[1] % 360, not lying[2])
        if mirrored not in self.pieces:
            self.pieces[mirrored] = [ring * (1, -1) for ring in self.pieces[lying]]
        return mirrored

    def _lying(self, way: Orientation) -> Lying:
        if way not in self.shapes:
            block = with_clean_up(way.block, way.part, self.kit).simplify(SIMPLER_MM).normalize()
            lying = (f"{way.part.id}/{way.part.leaves}/{stands(way.part)}", way.angle_deg, way.turned_over)
            self.shapes[way] = np.round(np.asarray(block.exterior.coords), 3).tobytes(), lying
            if lying not in self.pieces:
                self.pieces[lying] = convex_pieces(bays_filled(block, BAYS_MM))
        return self.shapes[way][1]


@dataclass(frozen=True)
class _Lattice:
    """Where a part may lie in one way on a board (``twins`` differ in what shows alone): the extents that its shift stays in, and what the
    board allows among them."""

    twins: tuple[Orientation, ...]
    low: Array
    high: Array
    grid: Grid
    fits: NDArray[np.bool_]
    open: bool  # the board lets it lie anywhere among them

    @property
    def way(self) -> Orientation:
        """The way of lying."""
        return self.twins[0]

    @cached_property
    def nodes(self) -> tuple[Array, Array]:
        """The shifts of coarse places, along and across; the last of each lies at the very end."""
        size = COARSE * STEP_MM
        xs, ys = (np.append(a + size * np.arange(1 + int((b - a) / size)), b) for a, b in zip(self.low, self.high))
        return xs, ys

    @cached_property
    def stands(self) -> Array:
        """Where it is tried about each coarse place, (rows, columns, 2): there, or at the nearest place that the board allows; NaN where there
        is none."""
        x, y = np.meshgrid(*self.nodes)
        found = np.stack([x, y], axis=-1)
        if self.open:
            return found
        taken = ~self.allows(found.reshape(-1, 2)).reshape(x.shape)
        found[taken] = np.nan
        rows, columns = np.nonzero(self.fits)
        free = np.stack([columns, rows], axis=1) * self.grid.step + self.grid_corner
        size = COARSE * STEP_MM
        near = np.minimum(np.round((free - self.low) / size).astype(int), np.array(x.shape)[::-1] - 1)
        away = np.abs(free - self.low - near * size).sum(axis=1)
        order = np.argsort(-away, kind="stable")  # the nearest is written last
        near, free = near[order], free[order]
        mine = taken[near[:, 1], near[:, 0]]
        found[near[mine, 1], near[mine, 0]] = np.minimum(np.maximum(free[mine], self.low), self.high)
        return found

    def allows(self, shifts: Array) -> NDArray[np.bool_]:
        """Whether the board lets it lie at some shifts, to a step of its field."""
        if self.open:
            return np.ones(len(shifts), bool)
        cells = ((shifts - self.grid_corner) / self.grid.step + 0.5).astype(np.intp)
        columns, rows = np.minimum(np.maximum(cells, 0), self._last).T
        return np.asarray(self.fits[rows, columns])

    @cached_property
    def grid_corner(self) -> Array:
        """The shift that the first cell of the field stands for."""
        bx0, by0, *_ = self.way.bounds
        return np.array([self.grid.x0 - bx0, self.grid.y0 - by0])

    @cached_property
    def _last(self) -> NDArray[np.intp]:
        """The last cell, column and row."""
        rows, columns = self.fits.shape
        return np.array([columns - 1, rows - 1])


@dataclass(frozen=True)
class _Board:
    """What a board gives to parts in some ways, as the loops read it."""

    spots: Array
    nodes: NDArray[np.int64]
    stands: Array
    fits: NDArray[np.uint8]
    ground: NDArray[np.float32]  # room for what every coarse place costs in one way

    @classmethod
    def of(cls, ways: Sequence[_Lattice]) -> _Board:
        """Of so many ways."""
        shut = [way for way in ways if not way.open]
        stands_at = np.cumsum([0, *(way.stands.size // 2 for way in shut)]).tolist()
        fits_at = np.cumsum([0, *(way.fits.size for way in shut)]).tolist()
        begins = {id(way): at for way, *at in zip(shut, stands_at, fits_at)}
        nodes = [(*map(len, way.nodes), way.open, *begins.get(id(way), (0, 0)), *way.fits.shape) for way in ways]
        return cls(
            np.array([(*way.low, *way.high, *way.grid_corner, way.grid.step) for way in ways], float),
            np.array(nodes, np.int64),
            np.concatenate([np.empty((0, 2)), *(way.stands.reshape(-1, 2) for way in shut)]),
            np.concatenate([np.empty(0, np.uint8), *(way.fits.view(np.uint8).ravel() for way in shut)]),
            np.empty(max(row[0] * row[1] for row in nodes), np.float32),
        )


class Nest:
    """One board, on which parts are laid together."""

    def __init__(self, layers: Layers, no_fits: NoFits) -> None:
        self.layers, self.no_fits = layers, no_fits
        sheet = layers.sheet
        self.plain = not sheet.hazards and sheet.metal is None and sheet.usable.equals(sheet.usable.envelope)
        self.lattices: dict[Part, list[_Lattice]] = {}
        self.spent = 0  # rounds of the last search

    def ways(self, part: Part) -> list[_Lattice]:
        """The ways in which a part may lie on the board at all."""
        if part not in self.lattices:
            ways = [o for laid in ways_laid(part) if sets_each(laid) == 1 for o in orientations_of(laid)]
            fields = [(way, fit_field(self.layers, way, want_covered=False)) for way in ways]
            alike: dict[bytes, list[tuple[Orientation, Field]]] = defaultdict(list)
            for way, fits in fields:
                if fits.fits.any():
                    alike[self.no_fits.shape(way)].append((way, fits))
            self.lattices[part] = [self._lattice(rows) for rows in alike.values()]
        return self.lattices[part]

    def _lattice(self, rows: Sequence[tuple[Orientation, Field]]) -> _Lattice:
        x0, y0, x1, y1 = self.layers.sheet.usable.bounds
        bx0, by0, bx1, by1 = rows[0][0].bounds
        low, high = np.array([x0 - bx0, y0 - by0]), np.array([x1 - bx1, y1 - by1])
        fits = np.logical_or.reduce([f.fits for _, f in rows])
        # a clear board is its extents: there the raster, which may be a step out at the rim, has no say
        return _Lattice(tuple(way for way, _ in rows), low, np.maximum(low, high), rows[0][1].grid, fits, self.plain)

    def alone(self, part: Part) -> list[Candidate] | None:
        """A place for one part on the empty board, nearest the marked end; None where there is none."""
        for lattice in self.ways(part):
            rows, columns = np.nonzero(lattice.fits)
            order = np.lexsort((rows, columns))
            x0, y0, step = lattice.grid.x0, lattice.grid.y0, lattice.grid.step
            for tried in asked_places(len(order)):
                places = np.stack([columns[order[tried]], rows[order[tried]]], axis=1)
                shifts = places * step + (x0, y0) - lattice.way.bounds[:2]
                for way in lattice.twins:
                    for seat in seats(Exact(self.layers.sheet, way), shifts):
                        if seat is not None:
                            return [Candidate(way.part, self.layers.sheet.piece.id, way, seat)]
        return None

    def together(
        self, parts: Sequence[Part], start: Sequence[Candidate], rounds: int, seed: int = 0, stop: Callable[[], bool] = lambda: False
    ) -> list[Candidate] | None:  # fmt: skip
        """Places for all of some parts on the board; None where none were found. ``start``: where the first of them lie now."""
        self.spent = 0
        if not 1 < len(parts) <= MOST_PARTS or any(part.in_pairs for part in parts):
            return None
        choices = [self.ways(part) for part in parts]
        if any(not rows for rows in choices):
            return None
        search = _Search(choices, self.no_fits, np.random.default_rng(seed))
        search.begin(start)
        for self.spent in range(1, rounds + 1):
            if stop() or search.hopeless(self.spent):
                return None
            if search.settled():
                found = self._asked(search)
                if found is not None:
                    return found
                search.shake()
            search.round()
        return None

    def _asked(self, search: _Search) -> list[Candidate] | None:
        """The parts where the search has them, if exact answers allow it."""
        sheet = self.layers.sheet
        found: list[Candidate] = []
        for lattice, at in search.lying:
            shifts = at[None, :] + np.array(NUDGES_MM, float)
            tried = ((way, seat) for way in lattice.twins for seat in seats(Exact(sheet, way), shifts) if seat is not None)
            new = (Candidate(way.part, sheet.piece.id, way, seat) for way, seat in tried)
            one = next((c for c in new if clear_of(found, c, sheet.kit)), None)
            if one is None:
                return None
            found.append(one)
        return found


class _Search:
    """Parts that are all on the board: in which way each lies and where, and how much each pair weighs."""

    def __init__(self, choices: list[list[_Lattice]], no_fits: NoFits, rng: np.random.Generator) -> None:
        self.rng, self.count = rng, len(choices)
        self.ways = list({id(one): one for rows in choices for one in rows}.values())
        index = {id(one): k for k, one in enumerate(self.ways)}
        self.choices = [np.array([index[id(one)] for one in rows]) for rows in choices]
        no_fits.make_room()
        self.pair = np.array([[no_fits.of(a.way, b.way) for b in self.ways] for a in self.ways])
        self.fine, self.coarse = no_fits.depths.fine, no_fits.depths.coarse
        self.board = _Board.of(self.ways)
        self.lies = np.array([[0.0, 0.0, rows[0]] for rows in self.choices])
        self.weights = np.ones((self.count, self.count))
        self.depths = np.zeros((self.count, self.count))
        self.found = np.empty((1 + OF_ONE_WAY * max(len(rows) for rows in choices), 4))
        self.least = self.ever = np.inf
        self.idle = 0
        self.kept = self.lies.copy()

    @property
    def lying(self) -> list[tuple[_Lattice, Array]]:
        """The way of each part, and where it lies."""
        return [(self.ways[int(way)], np.array([x, y])) for x, y, way in self.lies]

    def begin(self, start: Sequence[Candidate]) -> None:
        """The first parts where they lie now, the others wherever they are least in the way of those."""
        for k, one in enumerate(start):
            same = (w for w in self.choices[k] if any(_lies_as(o, one.orientation) for o in self.ways[w].twins))
            self.lies[k] = one.seat.x, one.seat.y, next(same, self.choices[k][0])
        for k in range(len(start), self.count):
            self._move(k, k)

    def settled(self) -> bool:
        """Whether nothing is in the way of anything."""
        self._look()
        return bool(self.depths.max() < LEAST_DEPTH_MM)

    def round(self) -> None:
        """Every part that is in the way of another moves once, in a new order; pairs that stay so weigh more."""
        deep = self.depths
        grown = self.weights * (HEAVIER + HEAVIEST * deep / max(LEAST_DEPTH_MM, float(deep.max())))
        self.weights = np.where(deep >= LEAST_DEPTH_MM, grown, np.maximum(1, self.weights * LIGHTER))
        total = float(deep.sum())
        self.idle += 1
        if total < self.least:
            self.least, self.idle, self.kept = total, 0, self.lies.copy()
        if self.idle > PATIENCE:
            self.shake()
        bad = np.flatnonzero(deep.max(axis=1) >= LEAST_DEPTH_MM)
        for k in self.rng.permutation(bad).tolist():
            self._move(k, self.count)

    def hopeless(self, rounds: int) -> bool:
        """Whether so many rounds should have come further: what still lies in each other is too much."""
        self.ever = min(self.ever, self.least)
        return any(rounds * self.count > many and self.ever > deep * self.count for many, deep in HOPELESS)

    def shake(self) -> None:
        """Two parts change places in the best arrangement so far, and the pairs weigh alike again."""
        self.lies = self.kept.copy()
        a, b = self.rng.choice(self.count, 2, replace=False)
        self.lies[[a, b], :2] = self.lies[[b, a], :2]
        for k in (a, b):
            way = self.rng.choice(self.choices[k])
            self.lies[k] = *np.clip(self.lies[k, :2], self.ways[way].low, self.ways[way].high), way
        self.weights[:] = 1
        self.least, self.idle = np.inf, 0
        self._look()

    def _look(self) -> None:
        find_depths(self.depths, self.fine, self.pair, self.lies)

    def _move(self, k: int, among: int) -> None:
        """Lay a part where it is least in the way of the first so many others, in whichever way."""
        board, chance = self.board, self.rng.random(len(self.found))
        move(
            k, among, self.choices[k], chance, self.lies, self.weights, self.fine, self.coarse, self.pair,
            board.spots, board.nodes, board.stands, board.fits, board.ground, self.found,
        )  # fmt: skip


def _lies_as(one: Orientation, other: Orientation) -> bool:
    return one.part == other.part and (one.angle_deg, one.mirror, one.face_up) == (other.angle_deg, other.mirror, other.face_up)
