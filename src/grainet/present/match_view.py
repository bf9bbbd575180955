"""The pairs of a plan as Match shows them: seam, openings with what they come to, the room to slide, the ridge, what lies at the seam."""

from __future__ import annotations

import math
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from grainet.design.joint_edge import ON_EDGE_MM, joint_of
from grainet.design.part import Part
from grainet.design.shape import Array, as_array, placed
from grainet.fit.board_geometry import BoardGeometry
from grainet.fit.exact import Exact, ExactPlacement
from grainet.fit.field import Field
from grainet.fit.orientation import Orientation
from grainet.job.answer import Placement, Plan
from grainet.job.job import Job
from grainet.match.opening import SEAMS, SHOWS, Between, Forecast, Seam, Show, angle_along, between, forecast
from grainet.picture.solid import look_of
from grainet.present.fit_view import FitView, fit_on_rack
from grainet.session.shop import Shop
from grainet.wood.piece import Piece
from grainet.work.matching import Matched

Place = tuple[float, float]
AT_SEAM_MM = 30.0  # what lies nearer to the seam than this is seen doubled along it
STEP_MM = 4.0  # a slide is tried this finely


@dataclass(frozen=True)
class Pair:
    """Two neighbouring leaves of one footprint."""

    part: Part
    piece: Piece
    upper: Placement
    lower: Placement
    first: bool  # of its plan

    @property
    def key(self) -> tuple[str, int]:
        """Part and set."""
        return self.upper.part, self.upper.set

    @property
    def name(self) -> str:
        """Its letter, and which leaves it is where the footprint gives more than two."""
        many = f" {self.upper.leaf} and {self.lower.leaf}" if self.part.leaves > 2 else ""
        return f"{self.part.letter}{many}"


def pairs_of(job: Job, plan: Plan) -> list[Pair]:
    """Every pair of leaves that a plan resaws from one footprint: leaves 1 and 2, 3 and 4, and so on."""
    by = {p.key: p for p in plan.placements}
    found: list[Pair] = []
    for one in plan.placements:
        part = job.part(one.part)
        if part.leaves < 2 or one.leaf % 2 == 0:
            continue
        mate = by.get((one.build, one.part, one.set, one.copy_, one.leaf + 1))
        if mate is not None:
            found.append(Pair(part, job.piece(one.piece), one, mate, not found))
    return found


@dataclass(frozen=True)
class Laid:
    """How and where a footprint lies: a way of lying and its place, mm."""

    way: Orientation
    x: float
    y: float

    @cached_property
    def ring(self) -> Array:
        """Its outline on the board."""
        return self.way.at(self.x, self.y)

    @cached_property
    def joint(self) -> tuple[Place, Place]:
        """The seam's two ends on the board, the one nearer the marked end first."""
        part = self.way.part
        told = joint_of(part) if part.joint_edge is not None else None
        x0, x1, y = told[:3] if told is not None else straight_rim(part.ring)
        ends = placed(as_array(((x0, y), (x1, y))), self.x, self.y, self.way.angle_deg, turned_over=self.way.turned_over)
        (ax, ay), (bx, by) = sorted(ends.tolist())
        return (ax, ay), (bx, by)

    @cached_property
    def lean_deg(self) -> float:
        """How far the seam leans off the board's length."""
        (ax, ay), (bx, by) = self.joint
        return math.degrees(math.atan2(by - ay, bx - ax))

    def across(self, points: Array) -> Array:
        """How far places on the board lie from the line of the seam, toward the footprint, mm: shape (n,)."""
        (ax, ay), (bx, by) = self.joint
        long = math.hypot(bx - ax, by - ay) or 1.0
        off = ((points[:, 1] - ay) * (bx - ax) - (points[:, 0] - ax) * (by - ay)) / long
        return np.asarray(off if self.seam == "near" else -off)

    @cached_property
    def seam(self) -> Seam:
        """Which edge of the footprint meets at the seam."""
        middle = sum(y for _, y in self.joint) / 2
        return "near" if float(self.ring[:, 1].mean()) > middle else "far"

    @cached_property
    def tail_left(self) -> bool:
        """Whether its tail lies toward the marked end."""
        ax, bx = placed(as_array(((0.0, 0.0), (1.0, 0.0))), 0, 0, self.way.angle_deg, turned_over=self.way.turned_over)[:, 0]
        return bool(bx > ax)

    @cached_property
    def tail_mm(self) -> float:
        """Where its tail stands along the board."""
        return float(self.ring[:, 0].min() if self.tail_left else self.ring[:, 0].max())

    def at_tail(self, mm: float) -> Laid:
        """The same with its tail elsewhere along the board."""
        return Laid(self.way, self.x + mm - self.tail_mm, self.y)


def straight_rim(ring: Array) -> tuple[float, float, float]:
    """The straight rim of an outline as drawn, the lower one where both are as long: from x, to x, and its y."""
    low, high = float(ring[:, 1].min()), float(ring[:, 1].max())
    y = max((low, high), key=lambda y: (_straight_at(ring, y), y == low))
    xs = ring[np.abs(ring[:, 1] - y) <= ON_EDGE_MM, 0]
    return float(xs.min()), float(xs.max()), y


def _straight_at(ring: Array, y: float) -> float:
    """How long an outline runs straight along at a height."""
    on = np.abs(ring[:, 1] - y) <= ON_EDGE_MM
    both = on & np.roll(on, -1)
    return round(float(np.abs(np.roll(ring[:, 0], -1) - ring[:, 0])[both].sum()), 3)


def laid_as(pair: Pair) -> Laid:
    """The pair as its plan has it."""
    one = pair.upper
    return Laid(Orientation(pair.part, one.angle_deg, one.mirror, one.face_up), one.x, one.y)


@dataclass(frozen=True)
class Opening:
    """One of the four ways to open a pair: where it lies for that, what is lost between the faces that show, and what it comes to."""

    seam: Seam
    show: Show
    laid: Laid | None  # None: it cannot lie so
    why_not: str
    between: Between
    forecast: Forecast
    depths_mm: tuple[float, float]  # of the two faces that show, from face 1
    at_seam: str  # what of the wood lies along the seam or keeps away from it

    @property
    def key(self) -> str:
        """Its name in records and tests."""
        return f"{self.seam}-{self.show}"


def openings_of(job: Job, pair: Pair, lies: Mapping[Seam, Laid], why_not: str, *, outer_skim: bool) -> list[Opening]:
    """The four openings, for a pair that lies so for each edge; ``why_not`` says it of an edge that the board does not give."""
    any_way = next(iter(lies.values()))
    beside = {seam: at_seam(pair.piece, one) for seam, one in lies.items()}
    found = []
    for show in SHOWS:
        lost = between(job.kit, show, pair.upper.finished_mm, outer_skim=outer_skim)
        depths = depths_of(pair, show, job.kit.resaw_skim_mm if outer_skim else 0.0)
        for seam in SEAMS:
            mine = lies.get(seam)
            told = forecast_at(pair, mine or any_way, lost)
            found.append(Opening(seam, show, mine, "" if mine else why_not, lost, told, depths, beside.get(seam, "")))
    return found


def depths_of(pair: Pair, show: Show, spared_mm: float = 0.0) -> tuple[float, float]:
    """How deep the two faces that show lie in the board, mm; ``spared_mm``: what is not skimmed from each sawn face."""
    top, bottom = pair.upper.z_top_mm, pair.lower.z_top_mm
    if show == "sawn":
        return top + pair.upper.finished_mm + spared_mm, bottom - spared_mm
    return top, bottom + pair.lower.finished_mm


def ring_mm_of(piece: Piece) -> float:
    """How wide the rings of a piece are, mm: what its species has on the mean, for nobody counts them."""
    return look_of(piece.species).ring_mm


def forecast_at(pair: Pair, laid: Laid, lost: Between) -> Forecast:
    """The forecast along the whole seam where a pair lies: the mean of what its rings do there."""
    (ax, _), (bx, _) = laid.joint
    x0, _, x1, _ = pair.piece.extents
    length = max(1.0, x1 - x0)
    angles = [angle_along(pair.piece.ring_angle_deg, (ax + (bx - ax) * s - x0) / length) for s in (0.1, 0.3, 0.5, 0.7, 0.9)]
    known = [a for a in angles if a is not None]
    angle = sum(known) / len(known) if known else None
    return forecast(lost.lost_mm, angle, ring_mm_of(pair.piece), figured_at(pair.piece, laid))


def figured_at(piece: Piece, laid: Laid) -> float:
    """How strongly the wood beside the seam is figured, 0 to 1: what of the seam's length lies in a zone of figure, times its strength."""
    (ax, ay), (bx, by) = laid.joint
    drawing = [z for z in piece.figure if z.kind not in ("plain", "cathedral", "spalt")]
    if not drawing or bx <= ax:
        return 0.0
    from shapely.geometry import LineString, Polygon

    line = LineString([(ax, ay), (bx, by)]).buffer(AT_SEAM_MM / 2)
    held = sum((Polygon(z.polygon) & line).area * (z.strength if z.strength is not None else 0.5) for z in drawing)
    return float(min(1.0, held / line.area * 2))  # only the footprint's side of the seam is in the book


def at_seam(piece: Piece, laid: Laid) -> str:
    """What of the wood inside the footprint is doubled along the seam, or keeps to the rim, in a few words."""
    from shapely.geometry import LineString, Polygon

    shape = Polygon(laid.ring).buffer(0)
    seam = LineString(laid.joint)
    doubled: list[str] = []
    away: list[str] = []
    for mark in piece.defects:
        spot = Polygon(mark.polygon).buffer(0) if len(mark.polygon) > 2 else LineString(mark.polygon)
        if not spot.intersects(shape):
            continue
        (doubled if spot.distance(seam) < AT_SEAM_MM else away).append(f"{mark.kind.replace('_', ' ')} {mark.id}")
    words = [f"{', '.join(doubled)} doubled at the seam"] if doubled else []
    words += [f"{', '.join(away)} in each half"] if away else []
    return "; ".join(words) or "clear beside the seam"


def other_seam(laid: Laid, sheet: BoardGeometry, view: FitView) -> tuple[Laid | None, str]:
    """The pair with its other edge at the seam, as near along as the board gives it; or why not."""
    best: tuple[float, Laid] | None = None
    for way, field in zip(view.orientations, view.fields):
        probe = Laid(way, 0.0, 0.0)
        if probe.seam == laid.seam or probe.tail_left != laid.tail_left or not field.fits.size:
            continue
        for place in _nearest(field, probe, laid.tail_mm):
            tried = Laid(way, *place)
            if isinstance(Exact(sheet, way).seat(*place), ExactPlacement):
                apart = abs(tried.tail_mm - laid.tail_mm)
                best = (apart, tried) if best is None or apart < best[0] else best
                break
    if best is None:
        return None, f"the board does not give it with its {'near' if laid.seam == 'far' else 'far'} edge at the seam"
    return best[1], ""


def _nearest(field: Field, probe: Laid, tail_mm: float, most: int = 12) -> Iterator[Place]:
    """Places of a field, the ones with the tail nearest to a mark first, in the middle of the room across."""
    fits = field.fits
    columns = np.flatnonzero(fits.any(axis=0))
    tails = np.array([field.shift(0, int(c))[0] for c in columns]) + probe.tail_mm
    for k in np.argsort(np.abs(tails - tail_mm))[:most]:
        rows = np.flatnonzero(fits[:, columns[k]])
        yield field.shift(int(rows[len(rows) // 2]), int(columns[k]))


def mirrored(laid: Laid, sheet: BoardGeometry, view: FitView) -> Laid | None:
    """Both halves mirrored end for end: the tail at the other end, the same edge at the seam; None where the board does not give it."""
    for way, field in zip(view.orientations, view.fields):
        probe = Laid(way, 0.0, 0.0)
        if probe.seam != laid.seam or probe.tail_left == laid.tail_left or not field.fits.size:
            continue
        middle = float(laid.ring[:, 0].min() + laid.ring[:, 0].max()) / 2
        half = float(probe.ring[:, 0].max() - probe.ring[:, 0].min()) / 2
        for place in _nearest(field, probe, middle + (half if not probe.tail_left else -half)):
            if isinstance(Exact(sheet, way).seat(*place), ExactPlacement):
                return Laid(way, *place)
    return None


@dataclass(frozen=True)
class Slide:
    """How far a pair can slide along its seam each way, mm, and whether it holds where it is."""

    back_mm: float
    on_mm: float
    trouble: str = ""


def slide_of(laid: Laid, sheet: BoardGeometry, view: FitView, most_mm: float = 4000.0) -> Slide:
    """The room to slide each way: by the field where it lies as the field knows it, else by exact answers at every step."""
    exact = Exact(sheet, laid.way)
    trouble = exact.size_trouble() or exact.seat(laid.x, laid.y)
    if not isinstance(trouble, ExactPlacement):
        return Slide(0.0, 0.0, trouble.text)
    for way, field in zip(view.orientations, view.fields):
        if (way.angle_deg, way.mirror, way.face_up) == (
            laid.way.angle_deg,
            laid.way.mirror,
            laid.way.face_up,
        ) and field.fits.size:
            row, column = field.entry(laid.x, laid.y)
            if 0 <= row < field.fits.shape[0] and 0 <= column < field.fits.shape[1] and field.fits[row, column]:
                free, step = field.fits[row], field.grid.step
                off = field.shift(row, column)[0] - laid.x
                return Slide(_run(free[column::-1]) * step - off, _run(free[column:]) * step + off)

    def holds(by: float) -> bool:
        return isinstance(exact.seat(laid.x + by, laid.y), ExactPlacement)

    return Slide(as_far_as(holds, -1, most_mm), as_far_as(holds, 1, most_mm))


def _run(free: NDArray[np.bool_]) -> int:
    """How many entries after the first go on being free."""
    blocked = np.flatnonzero(~free)
    return int(blocked[0] if len(blocked) else len(free)) - 1


def as_far_as(holds: Callable[[float], bool], sign: int, most: float = 4000.0) -> float:
    """How far one can go in steps that all hold, to half a millimetre."""
    far = 0.0
    for step in (STEP_MM, 0.5):
        while far + step <= most and holds(sign * (far + step)):
            far += step
    return far


def places_of(laid: Laid, view: FitView) -> list[Laid]:
    """Wherever the tail may stand along the board with the same edge at the seam and the same end for the tail, by the field: at each place
    along the one across that is nearest to where it lies now."""
    found = []
    for way, field in zip(view.orientations, view.fields):
        probe = Laid(way, 0.0, 0.0)
        if probe.seam != laid.seam or probe.tail_left != laid.tail_left or not field.fits.size:
            continue
        row, _ = field.entry(laid.x, laid.y)
        for column in np.flatnonzero(field.fits.any(axis=0)):
            rows = np.flatnonzero(field.fits[:, column])
            found.append(Laid(way, *field.shift(int(rows[np.argmin(np.abs(rows - row))]), int(column))))
        break
    return sorted(found, key=lambda one: one.tail_mm)


def ridge(pair: Pair, laid: Laid, lost: Between, tails: Sequence[float]) -> list[float | None]:
    """How far the lines miss if the tail stands at each of some places."""
    return [forecast_at(pair, laid.at_tail(t), lost).miss_mm for t in tails]


def best_tail(tails: Sequence[float], misses: Sequence[float | None], now: float) -> tuple[float, float] | None:
    """Where the lines miss least, nearest to where the tail stands, and by how much; None where the rings are not read."""
    known = [(m, abs(t - now), t) for t, m in zip(tails, misses) if m is not None]
    if not known:
        return None
    least = min(m for m, _, _ in known)
    miss, _, tail = min((k for k in known if k[0] <= least + 0.05), key=lambda k: k[1])
    return tail, miss


def lay_two(shop: Shop, part: Part, upper: str, lower: str, other: Part | None = None) -> tuple[Laid, Laid] | None:
    """How a half (and the other one, where they differ) lies on each of two boards that are no mates: the upper one with its near edge at the seam, the lower one with its far
    edge, both tails the same way where the boards give it; None where one of them does not."""
    rows = [(number, half) for number, half in ((upper, part), (lower, other or part)) if shop.has_piece(number)]
    fits = [fit_on_rack(shop, shop.piece(number), half) for number, half in rows]
    if len(fits) < 2:
        return None
    best: tuple[int, Laid, Laid] | None = None
    for one in _first_places(fits[0]):
        for two in _first_places(fits[1]):
            cost = 2 * (one.tail_left != two.tail_left) + (one.seam != "near") + (two.seam != "far")
            if best is None or cost < best[0]:
                best = (cost, one, two)
    return None if best is None else best[1:]


def _first_places(fit: tuple[FitView, BoardGeometry] | None) -> Iterator[Laid]:
    """For each way of lying the first place that an exact answer allows, from the middle of the board outward."""
    if fit is None:
        return
    view, sheet = fit
    for way, field in zip(view.orientations, view.fields):
        if not field.fits.size or not field.fits.any():
            continue
        probe = Laid(way, 0.0, 0.0)
        x0, _, x1, _ = view.piece.extents
        for place in _nearest(field, probe, (x0 + x1) / 2):
            if isinstance(Exact(sheet, way).seat(*place), ExactPlacement):
                yield Laid(way, *place)
                break


def chosen_of(ways: Sequence[Opening], matched: Matched | None, laid: Laid) -> int:
    """Which opening is the chosen one: what was kept, else the closest of those whose edge lies at the seam already."""
    if matched is not None:
        kept = next((k for k, w in enumerate(ways) if (w.seam, w.show) == (matched.seam, matched.show)), None)
        if kept is not None:
            return kept
    return next((k for k, w in enumerate(ways) if w.seam == laid.seam and w.show == "sawn"), 0)


def reasons(opening: Opening) -> list[tuple[str, str]]:
    """Why it comes to that, figure and word by turns: "1.1 kerf", "0.5 skim", "2.1 lost", "58° rings"."""
    rows = [(f"{mm:.1f}", name) for name, mm in opening.between.terms]
    rows.append((f"{opening.between.lost_mm:.1f}", "lost"))
    if opening.forecast.ring_angle_deg is not None:
        rows.append((f"{opening.forecast.ring_angle_deg:.0f}°", "rings to the face"))
    return rows


def too_high(pair: Pair, job: Job) -> tuple[float, float | None]:
    """How high the footprint stands to be resawn, and what the saw takes; None where no limit is known."""
    ys = [y for _, y in pair.upper.polygon]
    return max(ys) - min(ys), job.kit.machines.resaw_height_mm
