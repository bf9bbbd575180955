"""Candidates: for one part on one piece, a few hundred exact seats that a good plan is likely to use.

They come from the ends of feasible runs of the (unguarded) fit field, from flush and chained positions, and, where the field
finds nothing though the sizes would allow it, from the exact inner positions. Every candidate has passed exact placement.
"""

from __future__ import annotations

import itertools
import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from functools import cached_property, lru_cache

import numpy as np
import scipy.ndimage
import shapely
from numpy.typing import NDArray
from shapely import affinity
from shapely.geometry import Polygon

from grainet.design.part import Part, stands, ways_laid
from grainet.fit.board_geometry import BoardGeometry, with_clean_up
from grainet.fit.exact import TINY, Exact, ExactPlacement, Misfit, inner_positions, seats
from grainet.fit.field import Field, Layers, fit_field
from grainet.fit.orientation import Orientation, orientations_of
from grainet.kit.cut_kit import CutKit
from grainet.plan.wishes import wished_shifts

Array = NDArray[np.float64]
MOST_STOPS, CHAIN_FROM_TROUBLE = 12, 6
MOST_MULTIPLES = 40
MOST_IN_ROWS = 240  # of one part in one way of lying on one piece
TIGHT_MM = 4.0  # slack that the raster may miss
EPS = 1e-6
NUDGES_MM = ((0, 0), (0, 1), (0, -1), (1, 0), (-1, 0), (0, 2), (0, -2), (2, 0), (-2, 0))


@dataclass(frozen=True, eq=False)
class Candidate:
    """One footprint that holds: a part on a piece, how it lies and where it sits."""

    part: Part
    piece: str
    orientation: Orientation
    seat: ExactPlacement
    pair: tuple[object, ...] | None = None  # what both copies of a pair that lies together have in common
    _claimed: tuple[CutKit, Polygon] | None = field(default=None, repr=False)

    @cached_property
    def ring(self) -> Array:
        """Its outline where it lies: shape (points, 2), mm."""
        return self.orientation.at(self.seat.x, self.seat.y)

    @cached_property
    def polygon(self) -> Polygon:
        """The same as a polygon."""
        return Polygon(self.ring)

    @cached_property
    def block(self) -> Polygon:
        """What is sawn for it: the footprint with the wood that stays on beyond a joint edge and beyond its sides."""
        if not self.part.has_block:
            return self.polygon
        return affinity.translate(self.orientation.block, self.seat.x, self.seat.y)

    def claimed(self, kit: CutKit) -> Polygon:
        """The block with what is cleaned off its sawn sides towards neighbours."""
        if not self.part.clean:
            return self.block
        if self._claimed is None or self._claimed[0] is not kit:
            object.__setattr__(self, "_claimed", (kit, with_clean_up(self.block, self.part, kit)))
        assert self._claimed is not None
        return self._claimed[1]

    @property
    def key(self) -> tuple[object, ...]:
        """What makes two candidates the same: part, piece, way and place."""
        return (
            self.part.id,
            self.piece,
            self.orientation.angle_deg,
            self.orientation.mirror,
            self.orientation.face_up,
            round(self.seat.x, 5),
            round(self.seat.y, 5),
            stands(self.part),
            self.part.leaves,
            self.pair,
        )


def clear_of(laid: Sequence[Candidate], one: Candidate, kit: CutKit) -> bool:
    """Whether a footprint keeps the saw's width from others, along outlines."""
    mine, kerf = one.claimed(kit), kit.kerf_mm.outline
    if kerf > 0:
        return all(c.claimed(kit).distance(mine) >= kerf - 1e-6 for c in laid)
    # one within another does not overlap, but is in its way
    return not any(c.claimed(kit).relate_pattern(mine, "T********") for c in laid)


@dataclass
class Pool:
    """All candidates of one job, without twins, in a stable order."""

    items: list[Candidate] = field(default_factory=list)
    _keys: set[tuple[object, ...]] = field(default_factory=set)

    def add(self, found: Sequence[Candidate]) -> int:
        """Add candidates that are not there yet; how many were new."""
        before = len(self.items)
        for one in found:
            if one.key not in self._keys:
                self._keys.add(one.key)
                self.items.append(one)
        return len(self.items) - before


def tilts_for(part: Part, sheet: BoardGeometry, effort: int = 1) -> list[float]:
    """Tilts worth trying within the part's tilt: none, steps up to it either way, and the slopes of the piece's long edges."""
    if part.tilt_deg <= 0 or sheet.kit.cutting == "straight":
        return [0.0]
    grid = [part.tilt_deg * k / effort for k in range(-effort, 1 + effort)]
    ring = np.asarray(sheet.outline.exterior.coords)
    slopes = [
        math.degrees(math.atan2(b[1] - a[1], b[0] - a[0]))
        for a, b in itertools.pairwise(ring)
        if math.hypot(*(b - a)) > 0.25 * sheet.length
    ]
    edges = [s - 180 * round(s / 180) for s in slopes]
    tilts = [t for t in [0.0, *edges, *grid] if abs(t) <= part.tilt_deg + 1e-9]
    return list(dict.fromkeys(round(t, 4) + 0.0 for t in tilts))


def candidates_as_laid(
    layers: Layers, part: Part, others: Sequence[Part] = (), most: int = 140, effort: int = 1, *, tilted: bool = True,
    wanted: int | None = None, quick: bool = False,
) -> tuple[list[Candidate], Misfit | None]:  # fmt: skip
    """Candidates of a part, laid in the one way in which it is given, on a sheet: at most about ``most`` besides its own rows, and the
    nearest miss where there are none. ``wanted``: how many footprints of it can be used at all; None is without limit. ``quick``: what the
    field does not find is not looked for exactly, and no miss is told."""
    sheet = layers.sheet
    found: list[Candidate] = []
    orientations, misses = [], []
    for orientation in orientations_of(part, tilts_for(part, sheet, effort) if tilted else (0.0,)):
        trouble = Exact(sheet, orientation).size_trouble()
        if trouble is None:
            orientations.append(orientation)
        else:
            misses.append((not _is_upright(orientation), miss_rank(trouble), trouble))
    if not orientations:  # a tilt makes a part only larger: what it misses as it stands upright is told
        return [], min(misses, key=lambda miss: miss[:2])[2] if misses else None
    upright = [w for w in orientations if _is_upright(w)]
    for orientation in orientations:
        share = (
            most * (0.7 / len(upright) if orientation in upright else 0.3 / (len(orientations) - len(upright)))
            if upright
            else most / len(orientations)
        )
        exact = Exact(sheet, orientation)
        chains = (
            _chain_lengths(others or (part,), sheet, orientation) if orientation in upright or not upright else ([0.0], [0.0])
        )
        shifts = _shifts(
            fit_field(layers, orientation), chains, _stops(sheet, exact.metal_clear, blocks=part.has_block), max(6, int(share))
        )
        found += _thinned(_seated(exact, part, shifts), max(6, int(share)))
        if orientation in upright or not upright:
            found += _seated_as_they_are(exact, part, _rows(sheet, orientation, _most_in_rows(wanted)))
        if part.keep or part.figure:
            found += _seated_as_they_are(exact, part, wished_shifts(sheet, orientation))
        if sheet.left is not None:
            found += _seated_as_they_are(exact, part, _tight_shifts(sheet, orientation))
    if quick:
        return found, None
    if not found:
        for orientation in orientations:
            found += _seated(Exact(sheet, orientation), part, _inner_shifts(sheet, orientation))
    return found, (None if found else why_not(layers, part, orientations))


def _is_upright(orientation: Orientation) -> bool:
    return any(abs((orientation.angle_deg - turn + 180) % 360 - 180) < 1e-6 for turn in orientation.part.turns_deg)


def _thinned(found: list[Candidate], most: int) -> list[Candidate]:
    """At most ``most``, spread evenly in their order, first and last kept."""
    if len(found) <= most:
        return found
    return [found[k] for k in dict.fromkeys(np.linspace(0, len(found) - 1, most).round().astype(int).tolist())]


def miss_rank(trouble: Misfit) -> tuple[int, float]:
    """Which of two misses is nearer: the rule that is asked last, then the least that is missing."""
    order = ("defect", "metal", "crook", "outline", "width", "length", "thickness", "resaw")
    return order.index(trouble.rule), trouble.short_mm


def _seated(exact: Exact, part: Part, shifts: Array) -> list[Candidate]:
    """Candidates at the shifts that hold, each nudged by up to two millimetres where it does not hold at once."""
    piece = exact.sheet.piece.id
    left = shifts
    found: list[Candidate] = []
    for nudge in NUDGES_MM:
        if not len(left):
            break
        tried = seats(exact, left + nudge)
        found += [Candidate(part, piece, exact.orientation, s) for s in tried if s is not None]
        left = left[[s is None for s in tried]]
    return found


def _chain_lengths(parts: Sequence[Part], sheet: BoardGeometry, mine: Orientation) -> tuple[list[float], list[float]]:
    """Sums of lengths and of widths, each with its kerf, that parts laid one after another would reach; the multiples of the part's own
    sizes are never crowded out by sums of others."""
    kerf = sheet.kit.kerf_mm
    along, across = (kerf.crosscut, kerf.rip) if sheet.kit.cutting == "straight" else (kerf.outline, kerf.outline)
    lengths, widths = set(), set()

    for orientation in (o for part in parts for way in ways_laid(part) for o in orientations_of(way)[:4]):
        long, wide = _steps(orientation, sheet.kit)
        if long - along <= sheet.length + EPS and wide - across <= sheet.width + EPS:  # what cannot lie there stops nobody
            lengths.add(long)
            widths.add(wide)
    own_long, own_wide = _steps(mine, sheet.kit)
    return (
        sorted({*_sums(frozenset(lengths), sheet.length, 28), *_multiples(own_long, sheet.length)}),
        sorted({*_sums(frozenset(widths), sheet.width, 14), *_multiples(own_wide, sheet.width)}),
    )


def _multiples(step: float, limit: float) -> list[float]:
    """0, one step, two, and so on below the limit, at most ``MOST_MULTIPLES``."""
    return [round(k * step, 6) for k in range(min(MOST_MULTIPLES, math.ceil(limit / step)))]


@lru_cache(maxsize=1024)
def _sums(steps: frozenset[float], limit: float, most: int) -> list[float]:
    reached = {0.0}
    frontier = [0.0]
    while frontier and len(reached) < 4 * most:
        frontier = [round(a + s, 6) for a in frontier for s in sorted(steps) if a + s < limit]
        frontier = sorted(set(frontier) - reached)[: 4 * most]
        reached.update(frontier)
    return sorted(reached)[:most]


def _shifts(fits: Field, chains: tuple[list[float], list[float]], stops: Stops, most: int) -> Array:
    """Shifts worth checking exactly, shape (n, 2)."""
    rows, _columns = fits.fits.shape
    if not rows:
        return np.empty((0, 2))
    places = _run_ends(fits, most) + _chained(fits, chains, stops, 2 * most)
    return np.array(sorted(set(places)), dtype=float).reshape(-1, 2)


def _run_ends(fits: Field, most: int) -> list[tuple[float, float]]:
    """First and last of the feasible runs down every few columns, the cheapest of the column, and the extremes along."""
    mask = fits.fits
    used = np.flatnonzero(mask.any(axis=0))
    if not len(used):
        return []
    step = max(1, math.ceil(3 * len(used) / most))
    chosen = sorted({*used[::step].tolist(), int(used[0]), int(used[-1]), *_edges_of_runs(np.atleast_1d(mask.any(axis=0)))})
    places: list[tuple[float, float]] = []
    for column in chosen:
        down = mask[:, column]
        picks = _edges_of_runs(down)
        if fits.covered[:, column][down].any():
            rows = np.flatnonzero(down)
            picks.append(int(rows[np.argmin(fits.covered[rows, column])]))
        places += [fits.shift(row, column) for row in picks]
    return places


def _edges_of_runs(line: NDArray[np.bool_]) -> list[int]:
    padded = np.concatenate([[False], line, [False]]).astype(np.int8)
    change = np.diff(padded)
    return sorted({*np.flatnonzero(change == 1).tolist(), *(np.flatnonzero(change == -1) - 1).tolist()})


Stops = tuple[list[tuple[float, float]], list[tuple[float, float]]]  # (low, high) sides to lie flush with, along and across


def _stops(sheet: BoardGeometry, clear_of_metal: float, *, blocks: bool = False) -> Stops:
    """What parts come to lie flush with: the usable wood's extents, and either side of every trouble."""
    shapes = [h.polygon.bounds for h in sheet.hazards]
    if sheet.metal is not None:
        shapes.append(sheet.metal.buffer(clear_of_metal, join_style="mitre").bounds)
    x0, y0, x1, y1 = sheet.usable.bounds if not sheet.usable.is_empty else sheet.outline.bounds
    shapes = shapes[:MOST_STOPS]
    if blocks and sheet.outline.bounds != (x0, y0, x1, y1):  # a block may reach the rim of the piece itself
        shapes.append((sheet.x1, sheet.y1, sheet.x0, sheet.y0))
    return [(x0, x1), *((b[2], b[0]) for b in shapes)], [(y0, y1), *((b[3], b[1]) for b in shapes)]


def _flush(stops: list[tuple[float, float]], chain: list[float], size: float) -> list[float]:
    """Low ends of a part of a size that lies flush with a stop, or a chain of parts away from it."""
    found: set[float] = set()
    for k, (low, high) in enumerate(stops):
        reach = chain if k == 0 else chain[:CHAIN_FROM_TROUBLE]
        found |= {low + c for c in reach} | {high - size - c for c in reach}
    return sorted(found)


def _chained(fits: Field, chains: tuple[list[float], list[float]], stops: Stops, most: int) -> list[tuple[float, float]]:
    """Positions flush with a stop or a chain of parts away from it, where the field does not say no."""
    bx0, by0, bx1, by1 = fits.orientation.bounds
    grid = fits.grid
    kx0, ky0, kx1, ky1 = fits.orientation.block_bounds
    lows = [_flush(stops[0], chains[0], bx1 - bx0), _flush(stops[1], chains[1], by1 - by0)]
    if fits.orientation.part.has_block:  # the block's rim comes to lie there, the outline inside it
        lows[0] = sorted({*lows[0], *(x + bx0 - kx0 for x in _flush(stops[0], chains[0], kx1 - kx0))})
        lows[1] = sorted({*lows[1], *(y + by0 - ky0 for y in _flush(stops[1], chains[1], ky1 - ky0))})
    xs = np.array([x for x in lows[0] if x >= fits.room[0] - 1e-9])
    ys = np.array([y for y in lows[1] if y >= fits.room[1] - 1e-9])
    near = np.pad(scipy.ndimage.binary_dilation(fits.fits, np.ones((3, 3), bool)), ((0, 1), (0, 1)), mode="edge")
    rows, columns = (np.round((v - v0) / grid.step).astype(int) for v, v0 in ((ys, grid.y0), (xs, grid.x0)))
    inside_y, inside_x = (rows >= 0) & (rows < near.shape[0]), (columns >= 0) & (columns < near.shape[1])
    xs, ys = xs[inside_x], ys[inside_y]
    holds = near[np.ix_(rows[inside_y], columns[inside_x])]
    places = [(float(xs[c] - bx0), float(ys[r] - by0)) for c, r in np.argwhere(holds.T)]
    return places[:: math.ceil(len(places) / most)] if len(places) > most else places


def _steps(orientation: Orientation, kit: CutKit) -> tuple[float, float]:
    """How far on the next of the same part lies, along and across: its block, what is cleaned off it, and the kerf between."""
    kerf = kit.kerf_mm
    along, across = (kerf.crosscut, kerf.rip) if kit.cutting == "straight" else (kerf.outline, kerf.outline)
    trim, edge = (2 * kit.trim_mm, 2 * kit.edge_mm) if orientation.part.clean else (0.0, 0.0)
    x0, y0, x1, y1 = orientation.block_bounds
    return round(x1 - x0 + along + trim, 6), round(y1 - y0 + across + edge, 6)


def _most_in_rows(wanted: int | None) -> int:
    """How many places of its own rows a part needs: few where few are wanted, whatever the board."""
    return MOST_IN_ROWS if wanted is None else min(MOST_IN_ROWS, 4 + 6 * wanted)


def _rows(sheet: BoardGeometry, orientation: Orientation, most: int = MOST_IN_ROWS) -> Array:
    """The part beside itself in rows over the whole of the wood, from the near edge at the marked end on, shape (n, 2). A plan of many alike
    is made of these, so no thinning drops them; where there are too many, whole rows are left out."""
    if sheet.usable.is_empty:
        return np.empty((0, 2))
    long, wide = _steps(orientation, sheet.kit)
    x0, y0, x1, y1 = sheet.usable.bounds
    bx0, by0, bx1, by1 = orientation.bounds
    along = 1 + int((x1 - x0 - bx1 + bx0 + EPS) / long)
    across = 1 + int((y1 - y0 - by1 + by0 + EPS) / wide)
    across = max(1, min(across, most // max(1, along)))
    xs, ys = x0 - bx0 + long * np.arange(min(along, most)), y0 - by0 + wide * np.arange(across)
    return np.stack(np.meshgrid(xs, ys, indexing="ij"), axis=-1).reshape(-1, 2)


def _seated_as_they_are(exact: Exact, part: Part, shifts: Array) -> list[Candidate]:
    """Candidates at the shifts that hold, none moved: a row that is nudged is no row."""
    piece = exact.sheet.piece.id
    return [Candidate(part, piece, exact.orientation, s) for s in seats(exact, shifts) if s is not None]


def _inner_shifts(sheet: BoardGeometry, orientation: Orientation) -> Array:
    """Exact shifts where slack is small: corners and an inner point of each inner position."""
    inner = inner_positions(orientation.polygon, sheet.usable)
    cells = [g for g in getattr(inner, "geoms", [inner]) if not g.is_empty]
    corners = [shapely.get_coordinates(g)[:40] for g in cells]
    middles = [np.array([[p.x, p.y]]) for p in (g.representative_point() for g in cells)]
    return np.concatenate([*middles, *corners]) if cells else np.empty((0, 2))


def _tight_shifts(sheet: BoardGeometry, orientation: Orientation) -> Array:
    """Exact shifts in the pieces still in hand that are hardly larger than the part: no raster finds a place without slack."""
    found = [np.empty((0, 2))]
    for hand in getattr(sheet.usable, "geoms", [sheet.usable]):
        x0, y0, x1, y1 = hand.bounds if not hand.is_empty else (0.0, 0.0, 0.0, 0.0)
        slack = x1 - x0 - orientation.length, y1 - y0 - orientation.width
        if min(slack) > -2 * TINY and min(slack) < TIGHT_MM:
            inner = inner_positions(orientation.polygon, hand)
            for cell in (g for g in getattr(inner, "geoms", [inner]) if not g.is_empty):
                middle = cell.representative_point()
                found += [np.array([[middle.x, middle.y]]), shapely.get_coordinates(cell)[:12]]
    return np.concatenate(found)


def why_not(layers: Layers, part: Part, orientations: Sequence[Orientation]) -> Misfit:
    """Why a part of a size that would fit finds no place: the trouble met most often on a coarse walk over the piece."""
    sheet = layers.sheet
    met: dict[str, tuple[int, Misfit]] = {}
    for orientation in orientations[:4]:
        exact = Exact(sheet, orientation)
        x0, y0, x1, y1 = sheet.usable.bounds
        for x in np.linspace(x0, max(x0, x1 - orientation.length), 12):
            for y in np.linspace(y0, max(y0, y1 - orientation.width), 3):
                trouble = exact.seat(float(x) - orientation.bounds[0], float(y) - orientation.bounds[1])
                if isinstance(trouble, Misfit):
                    count, worst = met.get(trouble.rule, (0, trouble))
                    met[trouble.rule] = (count + 1, trouble if trouble.short_mm and trouble.short_mm < worst.short_mm else worst)
    if not met:
        return Misfit("outline", "no place found")
    return max(met.values(), key=lambda m: m[0])[1]
