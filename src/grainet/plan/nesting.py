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
from grainet.fit.no_fit import BAYS_MM, COARSE, SIMPLER_MM, STEP_MM, Depths, bays_filled, convex_pieces, no_fit
from grainet.fit.orientation import Orientation, orientations_of
from grainet.fit.raster import Grid
from grainet.kit.cut_kit import CutKit
from grainet.plan.candidates import NUDGES_MM, Candidate, clear_of

Array = NDArray[np.float64]
MARGIN_MM = 0.15  # the tables are this wrong at most, so parts are kept that much further apart
LEAST_DEPTH_MM = 0.02
HEAVIER, HEAVIEST, LIGHTER = 1.2, 0.8, 0.95  # how the weight of a pair grows by its depth, and falls again
PATIENCE = 60  # rounds without less in the way, after which two parts change places
# after so many rounds times parts, with so many mm a part in the way, it is given up: what goes has hardly ever more then
HOPELESS = ((60, 26.0), (80, 17.0), (100, 13.0), (130, 10.0), (180, 7.5), (270, 5.0), (480, 3.0), (900, 1.5))
MOST_PARTS, MOST_LOOKED_AT = 16, 12
# coarse places of a part in one way, places in whatever way that are made finer, and steps within which a place is the same again
OF_ONE_WAY, MOST_LOOKED_ROUND, BESIDE = 4, 4, 2
MOST_BYTES = 60_000_000  # of tables that are kept
SHUT = 1e6  # what a place costs that the board does not give


def _window(step: float, many: int) -> Array:
    along = np.arange(-many, many + 1) * step
    return np.stack(np.meshgrid(along, along), axis=-1).reshape(-1, 2)


WINDOWS = (_window(1.5, 3), _window(0.3, 3), _window(0.06, 3))  # shifts round a place, finer and finer


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
        if self.size > MOST_BYTES:  # the older half makes room
            for key in list(self.tables)[: len(self.tables) // 2]:
                del self.tables[key]
            self.size = sum({id(found.table): found.table.nbytes for found in self.tables.values()}.values())
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

    @cached_property
    def closed(self) -> NDArray[np.float32]:
        """A great depth wherever it may not lie about a coarse place."""
        return np.where(np.isnan(self.stands[..., 0]), SHUT, 0).astype(np.float32)

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
        return any(rounds * self.count > many and self.ever > deep * self.count for many, deep in HOPELESS)

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
        way, at = int(self.way_of[k]), self.at[k]
        now = self.ways[way].allows(at[None, :])[0]
        tried = [(float(self._deep(way, at[None, :], others)[0] @ weights), way, at)] if now else []
        tried += [place for way in self.choices[k] for place in self._places(way, others, weights)]
        tried.sort(key=lambda place: place[0])
        best = (np.inf, way, at)
        for cost, way, at in tried[:MOST_LOOKED_ROUND]:
            if cost < SHUT and best[0] > 0:
                cost, at = self._looked_round(way, at, cost, others, weights)
                best = min(best, (cost, way, at), key=lambda place: place[0])
        if best[0] < SHUT:
            _, self.way_of[k], self.at[k] = best

    def _places(self, way: int, others: NDArray[np.int_], weights: Array) -> list[tuple[float, int, Array]]:
        """The best coarse places of a part in one way, none beside another: what each costs, and where it is."""
        one = self.ways[way]
        ground = self._ground(one, way, others, weights)
        found = []
        for _ in range(OF_ONE_WAY):
            at = int(np.argmin(ground))
            if ground.flat[at] == 0:  # any free place, or all would begin crowded at one end
                at = int(self.rng.choice(np.flatnonzero(ground == 0)))
            j, i = divmod(at, ground.shape[1])
            if ground[j, i] >= SHUT:
                break
            found.append(one.stands[j, i])
            ground[max(0, j - BESIDE) : j + BESIDE + 1, max(0, i - BESIDE) : i + BESIDE + 1] = SHUT
        if not found:
            return []
        costs = self._deep(way, np.array(found), others) @ weights
        return [(float(cost), way, at) for cost, at in zip(costs, found)]

    def _ground(self, one: _Lattice, way: int, others: NDArray[np.int_], weights: Array) -> NDArray[np.float32]:
        """What every coarse place costs."""
        xs, ys = one.nodes
        ground = one.closed.copy()
        along, across = ((0, xs[0], len(xs) - 1), (len(xs) - 1, xs[-1], 1)), ((0, ys[0], len(ys) - 1), (len(ys) - 1, ys[-1], 1))
        for q, weight in zip(others.tolist(), weights.astype(np.float32)):
            table, (x, y) = self.tables[self.way_of[q]][way], self.at[q].tolist()
            deep = table.coarse
            # the nearest entry of the coarse table: up to a step beside, which is less than from one coarse place to the next
            columns = [(n, round(((first - x) / STEP_MM - table.column) / COARSE), count) for n, first, count in along]
            rows = [(n, round(((first - y) / STEP_MM - table.row) / COARSE), count) for n, first, count in across]
            for i, u, wide in columns:
                a, b = max(0, -u), min(wide, deep.shape[1] - u)
                for j, v, high in rows:
                    c, d = max(0, -v), min(high, deep.shape[0] - v)
                    if a < b and c < d:
                        ground[j + c : j + d, i + a : i + b] += weight * deep[v + c : v + d, u + a : u + b]
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


def _lies_as(one: Orientation, other: Orientation) -> bool:
    return one.part == other.part and (one.angle_deg, one.mirror, one.face_up) == (other.angle_deg, other.mirror, other.face_up)
