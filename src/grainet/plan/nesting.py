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
from grainet.fit.exact import Exact, seats
from grainet.fit.field import Field, Layers, fit_field
from grainet.fit.no_fit import BAYS_MM, SIMPLER_MM, STEP_MM, Depths, bays_filled, convex_pieces, no_fit
from grainet.fit.orientation import Orientation, orientations_of
from grainet.fit.raster import Grid
from grainet.kit.cut_kit import CutKit
from grainet.plan.candidates import NUDGES_MM, Candidate, clear_of

Array = NDArray[np.float64]
COARSE = 3  # steps of the depth tables between the places that are looked over at once
MARGIN_MM = 0.15  # the tables are this wrong at most, so parts are kept that much further apart
LEAST_DEPTH_MM = 0.02
HEAVIER, HEAVIEST, LIGHTER = 1.2, 0.8, 0.95  # how the weight of a pair grows by its depth, and falls again
PATIENCE = 60  # rounds without less in the way, after which two parts change places
HOPELESS = (
    (15, 14.0),
    (30, 8.0),
    (80, 4.0),
    (150, 2.0),
)  # after so many rounds, with so many mm a part in the way, it is given up
MOST_PARTS, MOST_LOOKED_AT = 16, 12
MOST_BYTES = 60_000_000  # of tables that are kept
SHUT = 1e6  # what a place costs that the board does not give


def _window(step: float, many: int) -> Array:
    along = np.arange(-many, many + 1) * step
    return np.stack(np.meshgrid(along, along), axis=-1).reshape(-1, 2)


WINDOWS = (_window(1.0, 6), _window(0.2, 5), _window(0.04, 5))  # shifts round a place, finer and finer


Lying = tuple[str, float, bool]  # an outline by the part that has it, its angle, and whether it lies turned over


@dataclass
class NoFits:
    """Depth tables of every two ways of lying that were asked for, whatever the board. What is turned or mirrored with both shapes alike is
    worked out once."""

    kit: CutKit
    shapes: dict[Orientation, tuple[bytes, Lying]] = field(default_factory=dict)
    pieces: dict[Lying, list[Array]] = field(default_factory=dict)
    tables: dict[tuple[Lying, Lying], Depths] = field(default_factory=dict)
    size: int = 0  # of all tables, bytes

    def of(self, one: Orientation, other: Orientation) -> Depths:
        """How deep the other one lies in the first, by its shift against it."""
        if self.size > MOST_BYTES:
            self.tables.clear()
            self.size = 0
        return self._table(self._lying(one), self._lying(other))

    def shape(self, way: Orientation) -> bytes:
        """What is sawn for a part in a way of lying, as a name that is the same for the same shape in the same place."""
        self._lying(way)
        return self.shapes[way][0]

    def _table(self, a: Lying, b: Lying) -> Depths:
        if (a, b) not in self.tables:
            if (b, a) in self.tables:
                found = self.tables[b, a].turned
            elif a[1] >= 180:
                found = self._table(self._half_turned(a), self._half_turned(b)).turned
            elif a[2]:
                found = self._table(self._mirrored(a), self._mirrored(b)).mirrored
            else:
                found = Depths.of(no_fit(self.pieces[a], self.pieces[b], self.kit.kerf_mm.outline + MARGIN_MM))
                self.size += found.table.nbytes
            self.tables[a, b] = found
        return self.tables[a, b]

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
    def closed(self) -> NDArray[np.float32]:
        """A great depth wherever it may not lie among the coarse places."""
        x, y = np.meshgrid(*self.nodes)
        if self.open:
            return np.zeros(x.shape, np.float32)
        free = self.allows(np.stack([x.ravel(), y.ravel()], axis=1))
        return np.where(free, 0, SHUT).astype(np.float32).reshape(x.shape)

    def allows(self, shifts: Array) -> NDArray[np.bool_]:
        """Whether the board lets it lie at some shifts, to a step of its field."""
        grid, fits = self.grid, self.fits
        columns = np.round((shifts[:, 0] + self.way.bounds[0] - grid.x0) / grid.step).astype(int)
        rows = np.round((shifts[:, 1] + self.way.bounds[1] - grid.y0) / grid.step).astype(int)
        return np.asarray(fits[rows.clip(0, fits.shape[0] - 1), columns.clip(0, fits.shape[1] - 1)])


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
            order = np.lexsort((rows, columns))[:MOST_LOOKED_AT]
            x0, y0, step = lattice.grid.x0, lattice.grid.y0, lattice.grid.step
            shifts = np.stack([x0 + columns[order] * step, y0 + rows[order] * step], axis=1) - lattice.way.bounds[:2]
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
        for lattice, at in zip(search.lying, search.at):
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
        self.choices = [[index[id(one)] for one in rows] for rows in choices]
        self.tables = [[no_fits.of(a.way, b.way) for b in self.ways] for a in self.ways]
        self._string_together()
        self.at = np.zeros((self.count, 2))
        self.way_of = np.array([rows[0] for rows in self.choices])
        self.weights = np.ones((self.count, self.count))
        self.least = self.ever = np.inf
        self.idle = 0
        self.kept: tuple[Array, NDArray[np.int_]] = (self.at.copy(), self.way_of.copy())

    def _string_together(self) -> None:
        """All tables in one row of figures, so that any depths of any pairs are read at once; and where each begins and which way it runs."""
        own = {id(t.table): t.table for row in self.tables for t in row}
        sizes = np.cumsum([0, *(table.size for table in own.values())])
        begins = dict(zip(own, sizes.tolist()))
        self.flat = np.concatenate([table.ravel() for table in own.values()])
        rows = [[self._figures(t, begins[id(t.table)]) for t in row] for row in self.tables]
        self.columns, self.rows, self.wide, self.high, self.begins, self.along, self.across = np.moveaxis(np.array(rows), -1, 0)

    @staticmethod
    def _figures(t: Depths, begin: int) -> tuple[int, ...]:
        high, wide = t.table.shape
        first = begin + (0 if t.along > 0 else wide - 1) + (0 if t.across > 0 else (high - 1) * wide)
        return t.column, t.row, wide, high, first, t.along, t.across * wide

    @property
    def lying(self) -> list[_Lattice]:
        """The way of each part."""
        return [self.ways[k] for k in self.way_of]

    def begin(self, start: Sequence[Candidate]) -> None:
        """The first parts where they lie now, the others wherever they are least in the way of those."""
        for k, one in enumerate(start):
            same = (w for w in self.choices[k] if any(_lies_as(o, one.orientation) for o in self.ways[w].twins))
            self.way_of[k] = next(same, self.choices[k][0])
            self.at[k] = one.seat.x, one.seat.y
        for k in range(len(start), self.count):
            self._move(k, range(k))

    def settled(self) -> bool:
        """Whether nothing is in the way of anything."""
        self.depths = self._depths()
        return bool(self.depths.max() < LEAST_DEPTH_MM)

    def round(self) -> None:
        """Every part that is in the way of another moves once, in a new order; pairs that stay so weigh more."""
        deep = self.depths
        grown = self.weights * (HEAVIER + HEAVIEST * deep / max(LEAST_DEPTH_MM, float(deep.max())))
        self.weights = np.where(deep >= LEAST_DEPTH_MM, grown, np.maximum(1, self.weights * LIGHTER))
        total = float(deep.sum())
        self.idle += 1
        if total < self.least:
            self.least, self.idle, self.kept = total, 0, (self.at.copy(), self.way_of.copy())
        if self.idle > PATIENCE:
            self.shake()
        bad = np.flatnonzero(deep.max(axis=1) >= LEAST_DEPTH_MM)
        for k in self.rng.permutation(bad).tolist():
            self._move(k, range(self.count))

    def hopeless(self, rounds: int) -> bool:
        """Whether so many rounds should have come further: what still lies in each other is too much."""
        self.ever = min(self.ever, self.least)
        return any(rounds > many and self.ever > deep * self.count for many, deep in HOPELESS)

    def shake(self) -> None:
        """Two parts change places in the best arrangement so far, and the pairs weigh alike again."""
        self.at, self.way_of = self.kept[0].copy(), self.kept[1].copy()
        a, b = self.rng.choice(self.count, 2, replace=False)
        self.at[[a, b]] = self.at[[b, a]]
        for k in (a, b):
            self.way_of[k] = self.rng.choice(self.choices[k])
            one = self.ways[self.way_of[k]]
            self.at[k] = np.clip(self.at[k], one.low, one.high)
        self.weights[:] = 1
        self.least, self.idle = np.inf, 0
        self.depths = self._depths()

    def _depths(self) -> Array:
        """How deep every two lie in each other."""
        found = np.array([self._deep(w, at[None, :], np.arange(self.count))[0] for w, at in zip(self.way_of, self.at)])
        np.fill_diagonal(found, 0)
        return np.asarray(np.maximum(found, found.T))

    def _deep(self, way: int, shifts: Array, others: NDArray[np.int_]) -> Array:
        """How deep a part would lie in others at some shifts: (shifts, others), mm."""
        w = self.way_of[others]
        at, wide, high = self.at[others], self.wide[w, way], self.high[w, way]
        u = shifts[:, 0, None] * (1 / STEP_MM) - (at[:, 0] / STEP_MM + self.columns[w, way])
        v = shifts[:, 1, None] * (1 / STEP_MM) - (at[:, 1] / STEP_MM + self.rows[w, way])
        m, q = np.nonzero((u >= 0) & (v >= 0) & (u < wide - 1) & (v < high - 1))
        found = np.zeros(u.shape)
        u, v = u[m, q], v[m, q]
        i, j = u.astype(int), v.astype(int)
        on, up = self.along[w, way][q], self.across[w, way][q]
        u, v, first = u - i, v - j, self.begins[w, way][q] + j * up + i * on
        flat = self.flat
        low = flat[first] * (1 - u) + flat[first + on] * u
        high = flat[first + up] * (1 - u) + flat[first + up + on] * u
        found[m, q] = np.maximum(low * (1 - v) + high * v, 0)
        return found

    def _move(self, k: int, among: range) -> None:
        """Lay a part where it is least in the way of some others, in whichever way."""
        others = np.array([q for q in among if q != k], int)
        weights = self.weights[k, others] if len(others) else np.ones(0)
        best = (np.inf, self.way_of[k], self.at[k])
        for way in self.choices[k]:
            for cost, at in self._places(way, others, weights, self.at[k] if way == self.way_of[k] else None):
                if cost < best[0]:
                    best = (cost, way, at)
        if best[0] < SHUT:
            _, self.way_of[k], self.at[k] = best

    def _places(self, way: int, others: NDArray[np.int_], weights: Array, now: Array | None) -> list[tuple[float, Array]]:
        """The two best places of a part in one way: of the coarse ones, looked round finely."""
        one = self.ways[way]
        ground = self._ground(one, way, others, weights).ravel()
        xs, ys = one.nodes
        top = np.argpartition(ground, min(MOST_LOOKED_AT, len(ground) - 1))[:MOST_LOOKED_AT]
        top = top[ground[top] < SHUT]
        tried = np.stack([xs[top % len(xs)], ys[top // len(xs)]], axis=1)
        if now is not None:
            tried = np.vstack([tried, now])
        if not len(tried):
            return []
        costs = self._deep(way, tried, others) @ weights
        return [self._looked_round(way, tried[s], float(costs[s]), others, weights) for s in np.argsort(costs, kind="stable")[:2]]

    def _ground(self, one: _Lattice, way: int, others: NDArray[np.int_], weights: Array) -> NDArray[np.float32]:
        """What every coarse place costs."""
        xs, ys = one.nodes
        ground = one.closed.copy()
        along, across = ((0, xs[0], len(xs) - 1), (len(xs) - 1, xs[-1], 1)), ((0, ys[0], len(ys) - 1), (len(ys) - 1, ys[-1], 1))
        for q, weight in zip(others.tolist(), weights.tolist()):
            table, (x, y) = self.tables[self.way_of[q]][way], self.at[q].tolist()
            deep = table.depth
            columns = [
                (n, *_overlap(round((first - x) / STEP_MM) - table.column, count, deep.shape[1])) for n, first, count in along
            ]
            rows = [(n, *_overlap(round((first - y) / STEP_MM) - table.row, count, deep.shape[0])) for n, first, count in across]
            for i, u, a, b in columns:
                for j, v, c, d in rows:
                    if a < b and c < d:
                        part = deep[v : v + (d - c) * COARSE : COARSE, u : u + (b - a) * COARSE : COARSE]
                        ground[j + c : j + d, i + a : i + b] += np.float32(weight) * np.maximum(part, 0)
        return ground

    def _looked_round(self, way: int, at: Array, cost: float, others: NDArray[np.int_], weights: Array) -> tuple[float, Array]:
        """A place made better within a few millimetres, as far as the board allows."""
        one = self.ways[way]
        near = self._near(way, at, others)
        others, weights = others[near], weights[near]
        for window in WINDOWS:
            if cost <= 0:
                break
            round_it = np.minimum(np.maximum(at + window, one.low), one.high)
            costs = self._deep(way, round_it, others) @ weights
            if not one.open:
                costs += np.where(one.allows(round_it), 0.0, SHUT)
            least = int(np.argmin(costs))
            if costs[least] < cost:
                at, cost = round_it[least], float(costs[least])
        return cost, at

    def _near(self, way: int, at: Array, others: NDArray[np.int_]) -> NDArray[np.bool_]:
        """Which of some parts a part could meet within a look round a place."""
        w, reach = self.way_of[others], COARSE
        u = (at[0] - self.at[others, 0]) / STEP_MM - self.columns[w, way]
        v = (at[1] - self.at[others, 1]) / STEP_MM - self.rows[w, way]
        return np.asarray((u > -reach) & (v > -reach) & (u < self.wide[w, way] + reach) & (v < self.high[w, way] + reach))


def _overlap(first: int, count: int, size: int) -> tuple[int, int, int]:
    """Of ``count`` coarse places the first of which lies at an entry of a table: the first entry inside it, and which places lie in it."""
    a = max(0, -(first // COARSE)) if first < 0 else 0
    b = min(count, (size - 1 - first) // COARSE + 1)
    return first + a * COARSE, a, b


def _lies_as(one: Orientation, other: Orientation) -> bool:
    return one.part == other.part and (one.angle_deg, one.mirror, one.face_up) == (other.angle_deg, other.mirror, other.face_up)
