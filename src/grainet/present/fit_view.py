"""Where a part can lie on a board, as Lay out shows it: reachable wood, strokes where its pin may stand, the answer at a place."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from grainet.design.part import Part
from grainet.design.shape import as_array, placed
from grainet.fit.board_geometry import BoardGeometry
from grainet.fit.exact import OF_LENGTHS, Exact, ExactPlacement
from grainet.fit.field import Field, Layers, fit_field
from grainet.fit.orientation import Orientation, orientations_of
from grainet.fit.raster import Grid
from grainet.fit.reach import reach, runs_along
from grainet.session.shop import Shop
from grainet.wood.piece import Piece
from grainet.wood.units import LengthStyle, format_length, lengths_in

Place = tuple[float, float]
MOST_OFFERED = 60  # places of one way of lying that are asked exactly


@dataclass(frozen=True)
class FitView:
    """The fit of one part on one piece: every way of lying with its field, the way with most places first.

    ``bright`` has a row and a column for each cell of ``grid``: True where some place of the part would use the wood.
    """

    piece: Piece
    part: Part
    orientations: tuple[Orientation, ...]
    fields: tuple[Field, ...]
    bright: NDArray[np.bool_]
    grid: Grid
    runs: tuple[tuple[float, float], ...]  # mm along, of the first way

    @property
    def places(self) -> int:
        """How many places there are in all, over all ways."""
        return sum(int(f.fits.sum()) for f in self.fields)

    @property
    def longest_run(self) -> tuple[float, float] | None:
        """The run along which the part slides furthest."""
        return max(self.runs, key=lambda r: r[1] - r[0], default=None)

    def with_way(self, way: Orientation) -> FitView:
        """The same with one more way of lying (a tilt that a plan or a search found), which has no field of its own."""
        if any(same_way(way, one) for one in self.orientations):
            return self
        nothing = Field(self.grid, way, np.zeros((0, 0), bool), np.zeros((0, 0), np.float32), self.fields[0].room)
        return replace(self, orientations=(*self.orientations, way), fields=(*self.fields, nothing))

    def first_place(self) -> Place:
        """Where the part is shown first: at the head of the longest run, in the middle of the room across; else at the board's corner."""
        run, field = self.longest_run, self.fields[0]
        if run is None:
            x0, y0, _, _ = self.piece.extents
            return x0 - self.orientations[0].bounds[0], y0 - self.orientations[0].bounds[1]
        column = round((run[0] - field.grid.x0) / field.grid.step)
        rows = np.flatnonzero(field.fits[:, column])
        return field.shift(int(rows[len(rows) // 2]), column)

    def next_orientation(self, now: int, *, over: bool) -> int | None:
        """The next way of lying, turned, or on the other side; None where there is no other."""
        face = self.orientations[now].face_up
        order = [k for k, w in enumerate(self.orientations) if (w.face_up != face) == over and k != now]
        return next((k for k in order if k > now), order[0]) if order else None

    def moved_to_orientation(self, at: Place, now: int, new: int) -> Place:
        """The place in another way of lying that keeps the part's near left corner where it is."""
        old, fresh = self.orientations[now].bounds, self.orientations[new].bounds
        return at[0] + old[0] - fresh[0], at[1] + old[1] - fresh[1]


def same_way(one: Orientation, other: Orientation) -> bool:
    """Whether two ways of lying are one."""
    return (round(one.angle_deg, 6), one.mirror, one.face_up) == (round(other.angle_deg, 6), other.mirror, other.face_up)


@dataclass(frozen=True)
class BestPlace:
    """The best place of all ways of lying: how and where, how many ways were tried, and what is said of it."""

    way: Orientation
    x: float
    y: float
    tried: int
    told: str


def best_of_all_ways(view: FitView, layers: Layers, board: BoardGeometry, near: Place) -> BestPlace | None:
    """The place that covers least trouble over every way of lying, tilted ones too, nearest to where the part is held; None where none holds.
    A field offers places, the exact answer decides."""
    from grainet.plan.candidates import tilts_for

    held = view.orientations[0].bounds
    ways = orientations_of(view.part, tilts_for(view.part, board, 2))
    offered: list[tuple[float, float, int, Place]] = []
    for k, way in enumerate(ways):
        field = fit_field(layers, way)
        if not field.fits.size or not field.fits.any():
            continue
        rows, columns = np.nonzero(field.fits)
        x, y = field.shift(0, 0)
        away = np.hypot(
            x + columns * field.grid.step + way.bounds[0] - near[0] - held[0],
            y + rows * field.grid.step + way.bounds[1] - near[1] - held[1],
        )
        trouble = np.round(field.covered[rows, columns] / 25)
        for n in np.lexsort((away, trouble))[:MOST_OFFERED]:
            offered.append((float(trouble[n]), float(away[n]), k, field.shift(int(rows[n]), int(columns[n]))))
    for _, _, k, place in sorted(offered):
        found = Exact(board, ways[k]).seat(*place)
        if isinstance(found, ExactPlacement):
            return BestPlace(ways[k], *place, len(ways), _told(ways[k], found))
    return None


def _told(way: Orientation, found: ExactPlacement) -> str:
    """How a part lies, in words."""
    turn = (way.angle_deg + 180) % 360 - 180
    words = [f"turned {turn:g}°" if abs(turn) > 0.01 else "as drawn", f"face {way.face_up} up", "mirrored" if way.mirror else ""]
    trouble = f"{found.covered_mm2 / 100:.1f} cm² of defects under it" if found.covered_mm2 > 1 else "clear wood"
    return ", ".join([w for w in words if w] + [trouble])


def fit_on_rack(shop: Shop, piece: Piece, part: Part) -> tuple[FitView, BoardGeometry] | None:
    """The fit of a part on a piece of the rack and the board that it is asked of; None where the piece is not measured. Of a board that is
    being sawn only what is left counts."""
    from grainet.session.surprise import wood_left

    layers, left = shop.judgements.layers(piece.id), wood_left(shop, piece.id)
    if left is not None:
        layers = Layers(BoardGeometry(piece, shop.kit.cuts, left=left))
    return None if layers is None else (fit_view(layers, piece, part), layers.sheet)


def fit_view(layers: Layers, piece: Piece, part: Part) -> FitView:
    """The fit of a part on a measured piece; some tenths of a second for a large board."""
    orientations = orientations_of(part)
    fields = [fit_field(layers, orientation) for orientation in orientations]
    bright = np.zeros(layers.grid.shape, bool)
    for field in fields:
        if field.fits.size:
            bright |= reach(field)
    best = max(range(len(orientations)), key=lambda k: int(fields[k].fits.sum()))
    order = [best, *(k for k in range(len(orientations)) if k != best)]
    runs = tuple(runs_along(fields[best]))
    return FitView(piece, part, tuple(orientations[k] for k in order), tuple(fields[k] for k in order), bright, layers.grid, runs)


@dataclass(frozen=True)
class Stroke:
    """Room across for the part's pin at one place along, in mm; ``covered`` where the part would cover what it bears."""

    x: float
    low: float
    high: float
    covered: bool


def strokes(view: FitView, orientation: int, apart_mm: float) -> Iterator[Stroke]:
    """Strokes about so far apart, where the pin may stand in one way of lying."""
    field, lying = view.fields[orientation], view.orientations[orientation]
    if not field.fits.size:
        return
    px, py = placed(as_array([view.part.pin or (0.0, 0.0)]), 0, 0, lying.angle_deg, turned_over=lying.turned_over)[0]
    every = max(1, round(apart_mm / field.grid.step))
    for column in np.flatnonzero(field.fits.any(axis=0))[::every]:
        rows = np.flatnonzero(field.fits[:, column])
        covered = bool((field.covered[rows, column] > 1).all())
        (x, low), (_, high) = field.shift(int(rows[0]), int(column)), field.shift(int(rows[-1]), int(column))
        yield Stroke(x + float(px), low + float(py), high + float(py), covered)


@dataclass(frozen=True)
class PlaceAnswer:
    """Whether a part holds at a place, in a sentence."""

    holds: bool
    text: str


def answer_at(view: FitView, orientation: int, at: Place, board: BoardGeometry, style: LengthStyle) -> PlaceAnswer:
    """The exact answer for one place; it comes within a frame."""
    exact = Exact(board, view.orientations[orientation])
    found = exact.size_trouble() or exact.seat(*at)
    if not isinstance(found, ExactPlacement):
        return PlaceAnswer(holds=False, text=f"no: {lengths_in(found.text, style) if found.rule in OF_LENGTHS else found.text}")
    over = f", {found.covered_mm2 / 100:.1f} cm² of defects it bears" if found.covered_mm2 > 1 else ""
    spare, deep = format_length(found.spare_mm, style), format_length(found.z_top_mm, style)
    return PlaceAnswer(holds=True, text=f"holds: {spare} thick to spare, first cut {deep} deep{over}")


def run_words(view: FitView, style: LengthStyle) -> list[tuple[tuple[float, float], str]]:
    """Each run along which the part slides, with what is said of it."""
    best, several = view.longest_run, len(view.runs) > 1
    return [
        (run, f"free run {format_length(run[1] - run[0], style)}{', best' if several and run == best else ''}")
        for run in view.runs
    ]
