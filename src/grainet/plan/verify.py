"""The independent verifier: whether a plan keeps to its job, told from the values alone.

It imports ground values, Shapely and the standard library only, and works out placement, thickness, loss chain, zones,
metal, kerf, sets, cuts and balance again for itself. Tolerances: 1e-6 mm for lengths, 1e-3 mm2 for areas.
"""

from __future__ import annotations

import itertools
import math
from collections import Counter, defaultdict
from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import cmp_to_key

import shapely
from shapely.geometry import LineString, Point, Polygon, box
from shapely.geometry.base import BaseGeometry

from grainet.design.part import Part
from grainet.design.recipe import Build, Recipe, Way
from grainet.job.answer import Cut, Placement, Plan
from grainet.job.job import Job
from grainet.kit.cut_kit import CutKit
from grainet.plan.verify_laid import (
    AsLaid,
    as_laid,
    block,
    hand_faults,
    leaf_faults,
    leaves_here,
    moved,
    pair_faults,
    place_of,
    swept,
)
from grainet.plan.verify_standing import clear_faults, displaced_faults, in_hand_faults, pin_faults, pinned_of, sets_that_count
from grainet.wood.defects import FAMILY
from grainet.wood.piece import Piece, Station

TOL = 1e-6
PLACE_TOL = 1e-4  # a polygon written with fewer digits is still the same polygon
AREA_TOL = 1e-3
SCRATCH_MM = 0.02  # a curve sawn in chords may touch a part this deep
FURTHEST_MM = 20_000.0  # no board is longer, and nothing of a plan lies further out
SAME_MM = 0.05  # pieces that begin this near to one another begin at one place
DUST_MM2, SPLINTER_MM2 = 1e-2, 8.0  # below the first nobody names it, between the two somebody may
GROWING = {"crack", "split", "check", "shake"}


@dataclass(frozen=True)
class Fault:
    """One fault of a plan: its code, what was found and is wanted, and where."""

    code: str
    text: str
    where: str = ""

    def __str__(self) -> str:
        return f"{self.where}: {self.text}" if self.where else self.text

    def at(self, where: str) -> Fault:
        """The same fault, with the place where it lies."""
        return replace(self, where=where)


def check(job: Job, plan: Plan) -> list[Fault]:
    """Every fault of a plan; empty when it holds."""
    odd = list(_unusable(plan))
    if odd:  # figures and rings that no geometry can be asked about
        return odd
    pieces = {p.id: p for p in job.pieces}
    parts = {p.id: p for p in job.parts}
    faults: list[Fault] = []
    found: list[tuple[str, Placement]] = []
    for k, one in enumerate(plan.placements):
        where = f"placements[{k}] ({one.part} on {one.piece})"
        if one.part not in parts:
            faults.append(Fault("part", f"no part “{one.part}” in the job", where))
        elif one.piece not in pieces:
            faults.append(Fault("piece", f"no piece “{one.piece}” in the job", where))
        else:
            found.append((where, one))
    known = [one for _, one in found]
    leaves, pinned = leaves_here(known, parts), pinned_of(job, known)
    new = [one for one in known if id(one) not in pinned]
    for where, one in found:
        if id(one) in pinned:  # what stays is the job's own
            continue
        many = leaves.get(place_of(one), 1)
        by_chord = job.version == 2
        met = _placement(one, parts[one.part], pieces[one.piece], job.kit, many, by_chord=by_chord)
        faults += (f.at(where) for f in met)
    faults += _apart(known, parts, job.kit, pinned)
    needs = _needs(job, plan)
    counts, spare = sets_that_count(job, plan, known, pinned, needs)
    counting = [one for one in known if (one.part, one.set) not in spare]
    faults += _sets(counting, parts, plan, counts)
    faults += _pairs(counting, parts, job.kit)
    faults += _builds(job, plan, counting)
    faults += _wishes(job, counting, pieces)
    told = (
        *leaf_faults(new, parts), *hand_faults(known, parts), *pin_faults(job, plan), *clear_faults(job, new, parts),
        *displaced_faults(job, plan),
    )  # fmt: skip
    faults += (Fault(code, text) for code, text in told)
    faults += _value(job, plan)
    for piece in job.pieces:
        on_it = [p for p in known if p.piece == piece.id]
        replay = _Replay(piece, job, plan, on_it, parts)
        mine = [p for p in new if p.piece == piece.id]
        faults += (Fault(code, text) for code, text in in_hand_faults(mine, parts, replay.begun()))
        faults += replay.faults()
    faults += _balance(plan, known)
    return faults


def _unusable(plan: Plan) -> Iterator[Fault]:
    """What of a plan cannot even be looked at: rings that are none, figures beyond all wood, names that are no names."""
    for k, one in enumerate(plan.placements):
        where = f"placements[{k}] ({one.part} on {one.piece})"
        figures = (one.x, one.y, one.angle_deg, one.z_top_mm, one.finished_mm, one.spare_mm)
        if any(abs(v) > FURTHEST_MM for v in figures):
            yield Fault("figures", f"holds {max(figures, key=abs):.3g}, at most {FURTHEST_MM:.0f}", where)
        elif fault := _ring_fault(one.polygon):
            yield Fault("figures", f"its polygon {fault}", where)
    for cut in plan.cuts:
        if any(abs(v) > 5 * FURTHEST_MM for point in cut.line for v in point) or abs(cut.depth_mm or 0.0) > FURTHEST_MM:
            yield Fault(
                "figures", f"cut {cut.n} on {cut.piece}: its line lies beyond all wood, at most {5 * FURTHEST_MM:.0f} mm out"
            )
        yield from (Fault("name", text, f"cut {cut.n}") for name in cut.gives if (text := _name_fault(name)))
    for offcut in plan.offcuts:
        if text := _name_fault(offcut.id):
            yield Fault("name", f"offcut {text}")
        elif not 0 <= offcut.thickness_mm <= FURTHEST_MM or abs(offcut.depth_mm) > FURTHEST_MM:
            yield Fault("figures", f"offcut {offcut.id}: is {offcut.thickness_mm:.3g} thick, needs 0 to {FURTHEST_MM:.0f}")
        elif fault := _ring_fault(offcut.polygon):
            yield Fault("figures", f"offcut {offcut.id}: its polygon {fault}")


def _ring_fault(ring: tuple[tuple[float, float], ...]) -> str:
    far = max((abs(v) for point in ring for v in point), default=0.0)
    if len(ring) < 3:
        return f"has {len(ring)} points, at least 3"
    if far > FURTHEST_MM:
        return f"reaches {far:.3g} mm out, at most {FURTHEST_MM:.0f}"
    shape = Polygon(ring)
    if shape.convex_hull.area < 1e-6:
        return "encloses no area"
    return "" if shape.is_valid else "crosses itself"


def _name_fault(name: str) -> str:
    """Why a name is none that a piece may be called by: it could lead out of a folder or off a line."""
    shown = name[:40]
    if not name.strip() or len(name) > 80 or not name.isprintable():
        return f"{shown!r} is no name that can be printed on one line"
    if "/" in name or "\\" in name or name.startswith("."):
        return f"“{shown}” is a path, needs a name such as A.2"
    return ""


# placement ------------------------------------------------------------------------------------------------------------
def _placement(one: Placement, part: Part, piece: Piece, kit: CutKit, leaves: int, *, by_chord: bool) -> Iterator[Fault]:
    laid = as_laid(part, one)
    if one.on_edge and not part.on_edge:
        yield Fault("on_edge", "stands on edge, which the part does not allow")
    if one.mirror and not part.mirror and not part.fold:
        yield Fault("mirror", "is mirrored, which the part does not allow")
    if one.face_up not in part.faces_up:
        yield Fault("face", f"shows on face {one.face_up}, which the part does not allow")
    off = min(abs((one.angle_deg - turn + 180) % 360 - 180) for turn in part.turns_deg)
    if off > part.tilt_deg + 1e-6:
        yield Fault("turn", f"lies at {one.angle_deg:g} degrees, {off:.3g} off every allowed turn, at most {part.tilt_deg:g}")
    want = moved(laid.outline, one)
    if len(want) != len(one.polygon) or any(math.dist(a, b) > PLACE_TOL for a, b in zip(want, one.polygon)):
        yield Fault("outline", "its polygon is not the part's outline at x, y, angle and mirror")
    footprint = Polygon(want)
    if abs(one.finished_mm - laid.thickness_mm) > TOL:
        yield Fault("thickness", f"finished {one.finished_mm:g} instead of {laid.thickness_mm:g}")
    leaves = max(part.leaves, leaves)
    if not 1 <= one.leaf <= leaves:
        yield Fault("leaf", f"is leaf {one.leaf} of {leaves}")
    yield from _usable(footprint, piece, kit)
    sawn = block(part, one)
    if sawn.difference(Polygon(piece.outline).buffer(10 * TOL, join_style="mitre")).area > AREA_TOL:
        yield Fault("outside", "what stays on beyond it reaches past the piece")
    yield from _metal(sawn, piece, kit)
    yield from _crook(footprint, piece, kit, by_chord=by_chord)
    limit = kit.machines.resaw_height_mm
    _x0, y0, _x1, y1 = footprint.bounds
    if leaves > 1 and limit is not None and y1 - y0 > limit + TOL:
        yield Fault("resaw", f"{y1 - y0:.1f} high to resaw, the saw takes {limit:g}")
    yield from _depth(one, laid, leaves, footprint, piece=piece, kit=kit)


def _usable(footprint: Polygon, piece: Piece, kit: CutKit) -> Iterator[Fault]:
    outline = Polygon(piece.outline)
    if not outline.buffer(TOL, join_style="mitre").covers(footprint):
        yield Fault("outside", f"reaches past the piece by {footprint.difference(outline).area:.3g} mm2")
        return
    if kit.margin_mm and outline.exterior.distance(footprint) < kit.margin_mm - TOL:
        yield Fault("outside", f"is {outline.exterior.distance(footprint):.3g} from the rim, at least {kit.margin_mm:g}")
    px0, _, px1, _ = outline.bounds
    x0, _, x1, _ = footprint.bounds
    inset = kit.trim_mm + kit.margin_mm
    if x0 < px0 + inset - TOL or x1 > px1 - inset + TOL:
        yield Fault("outside", f"is {min(x0 - px0, px1 - x1):.3g} from an end, at least {inset:g}")
    if kit.edge_mm:
        inner = outline.buffer(-kit.margin_mm, join_style="mitre") if kit.margin_mm else outline
        around = shapely.union_all([footprint, *swept(footprint, 0, kit.edge_mm), *swept(footprint, 0, -kit.edge_mm)])
        if around.difference(inner.buffer(10 * TOL, join_style="mitre")).area > AREA_TOL:
            yield Fault("outside", f"leaves less than {kit.edge_mm:g} to plane off a long side")


def _metal(footprint: Polygon, piece: Piece, kit: CutKit) -> Iterator[Fault]:
    for defect in piece.defects:
        if FAMILY[defect.kind] == "metal" and not defect.resolved:
            shape = Polygon(defect.polygon)
            gap = footprint.distance(shape)
            if footprint.intersection(shape).area > 1e-6 or gap < kit.metal_clear_mm - TOL:
                yield Fault("metal", f"is {gap:.3g} from the {defect.kind} {defect.id}, at least {kit.metal_clear_mm:g}")


def _crook(footprint: Polygon, piece: Piece, kit: CutKit, *, by_chord: bool) -> Iterator[Fault]:
    """Whether a crook that the outline does not show leaves a part its width: over its whole length, or (version 2) at each place along."""
    flat = piece.flatness
    if flat.crook_mm <= 0 or flat.crook_in_outline or piece.crook_in_outline:
        return
    outline = Polygon(piece.outline)
    px0, _py0, px1, _py1 = outline.bounds
    x0, y0, x1, y1 = footprint.bounds
    more = flat.crook_mm * ((x1 - x0) / (flat.crook_span_mm or px1 - px0)) ** 2 + 2 * kit.edge_mm
    corners = [x for x, _ in (*piece.outline, *footprint.exterior.coords) if x0 <= x <= x1]
    stations = {x0, x1, *corners, *(x0 + (x1 - x0) * k / 64 for k in range(65))}
    board = {x: _run_across(outline, min(max(x, px0 + 1e-7), px1 - 1e-7)) for x in stations}
    if not by_chord:
        narrowest, wanted = min(board.values()), y1 - y0 + more
        if narrowest < wanted - 1e-4:
            yield Fault("crook", f"the piece is {narrowest:.1f} wide there, at least {wanted:.1f} with its crook and edges")
        return
    short = max(_run_across(footprint, min(max(x, x0 + 1e-7), x1 - 1e-7)) + more - wide for x, wide in board.items())
    if short > 1e-3:
        yield Fault("crook", f"is {short:.2f} too wide somewhere along it, with its crook and edges")


def _run_across(outline: Polygon, x: float) -> float:
    _, y0, _, y1 = outline.bounds
    hit = outline.intersection(LineString([(x, y0 - 1), (x, y1 + 1)]))
    return max((g.length for g in getattr(hit, "geoms", [hit])), default=0.0)


# thickness ------------------------------------------------------------------------------------------------------------
def least_thickness(piece: Piece, shape: BaseGeometry) -> float:
    """Least thickness in mm under a shape: bilinear on a full grid, else on Delaunay triangles, beyond them the nearest."""
    stations = piece.stations
    if not stations:
        return float(piece.thickness_mm or 0.0)
    places = {(s.x_mm, s.y_mm): s.thickness_mm for s in stations}
    if len(places) == 1:
        return stations[0].thickness_mm
    if _collinear(list(places)):
        return _least_on_line(places, shape)
    xs, ys = sorted({x for x, _ in places}), sorted({y for _, y in places})
    if len(xs) * len(ys) == len(places):
        return _least_on_grid(xs, ys, places, shape)
    return _least_on_triangles(stations, places, shape)


def _collinear(points: list[tuple[float, float]]) -> bool:
    return bool(LineString(points).length == 0 or shapely.MultiPoint(points).convex_hull.area < 1e-6)


def _rings(shape: BaseGeometry) -> list[list[tuple[float, float]]]:
    return [
        [(c[0], c[1]) for c in g.exterior.coords]
        for g in getattr(shape, "geoms", [shape])
        if isinstance(g, Polygon) and not g.is_empty
    ]


def _dense(shape: BaseGeometry, step: float = 4.0) -> Iterator[tuple[float, float]]:
    for ring in _rings(shape):
        for a, b in itertools.pairwise(ring):
            n = max(1, math.ceil(math.dist(a, b) / step))
            for k in range(n):
                yield a[0] + (b[0] - a[0]) * k / n, a[1] + (b[1] - a[1]) * k / n


def _least_on_line(places: dict[tuple[float, float], float], shape: BaseGeometry) -> float:
    points = sorted(places)
    (ax, ay), (bx, by) = points[0], points[-1]
    size = math.dist(points[0], points[-1])
    ux, uy = (bx - ax) / size, (by - ay) / size
    line = sorted(((x - ax) * ux + (y - ay) * uy, t) for (x, y), t in places.items())
    spots = [(x - ax) * ux + (y - ay) * uy for ring in _rings(shape) for x, y in ring]
    low, high = min(spots), max(spots)

    def at(s: float) -> float:
        if s <= line[0][0]:
            return line[0][1]
        for (s0, t0), (s1, t1) in itertools.pairwise(line):
            if s <= s1:
                return t0 + (t1 - t0) * (s - s0) / (s1 - s0) if s1 > s0 else min(t0, t1)
        return line[-1][1]

    return min(at(low), at(high), *(t for s, t in line if low <= s <= high), math.inf)


def _least_on_grid(xs: list[float], ys: list[float], places: dict[tuple[float, float], float], shape: BaseGeometry) -> float:
    def cell(values: list[float], v: float) -> int:
        return max(0, min(len(values) - 2, sum(1 for x in values if x <= v) - 1))

    def at(x: float, y: float) -> float:
        x, y = min(max(x, xs[0]), xs[-1]), min(max(y, ys[0]), ys[-1])
        i, j = cell(xs, x), cell(ys, y)
        u, v = (x - xs[i]) / (xs[i + 1] - xs[i]), (y - ys[j]) / (ys[j + 1] - ys[j])
        low = places[xs[i], ys[j]] * (1 - u) + places[xs[i + 1], ys[j]] * u
        high = places[xs[i], ys[j + 1]] * (1 - u) + places[xs[i + 1], ys[j + 1]] * u
        return low * (1 - v) + high * v

    x0, y0, x1, y1 = shape.bounds
    least = min(at(x, y) for x, y in _dense(shape))
    for x in (v for v in xs if x0 <= v <= x1):  # the field bends on the grid lines
        hit = shape.intersection(LineString([(x, y0 - 1), (x, y1 + 1)]))
        least = min([least, *(at(cx, cy) for cx, cy in shapely.get_coordinates(hit).tolist())])
        least = min([least, *(at(x, y) for y in ys if y0 <= y <= y1 and shape.covers(Point(x, y)))])
    for y in (v for v in ys if y0 <= v <= y1):
        hit = shape.intersection(LineString([(x0 - 1, y), (x1 + 1, y)]))
        least = min([least, *(at(cx, cy) for cx, cy in shapely.get_coordinates(hit).tolist())])
    return least


def _least_on_triangles(stations: tuple[Station, ...], places: dict[tuple[float, float], float], shape: BaseGeometry) -> float:
    least = math.inf
    hull = shapely.MultiPoint(list(places)).convex_hull
    for triangle in shapely.delaunay_triangles(shapely.MultiPoint(list(places))).geoms:
        met = triangle.intersection(shape)
        if met.is_empty:
            continue
        (x0, y0), (x1, y1), (x2, y2) = list(triangle.exterior.coords)[:3]
        det = (y1 - y2) * (x0 - x2) + (x2 - x1) * (y0 - y2)
        t0, t1, t2 = (places[p] for p in ((x0, y0), (x1, y1), (x2, y2)))
        for x, y in shapely.get_coordinates(met).tolist():
            a = ((y1 - y2) * (x - x2) + (x2 - x1) * (y - y2)) / det
            b = ((y2 - y0) * (x - x2) + (x0 - x2) * (y - y2)) / det
            least = min(least, a * t0 + b * t1 + (1 - a - b) * t2)
    beyond = shape.difference(hull)
    for x, y in _dense(beyond, 1.0):
        if not hull.covers(Point(x, y)):
            least = min(least, min(((math.dist(p, (x, y)), t) for p, t in places.items()))[1])
    return least


def _flattening(footprint: Polygon, piece: Piece) -> float:
    flat = piece.flatness
    px0, py0, px1, py1 = Polygon(piece.outline).bounds
    x0, y0, x1, y1 = footprint.bounds
    length, width, whole_l, whole_w = x1 - x0, y1 - y0, px1 - px0, py1 - py0
    bow = flat.bow_mm * (length / (flat.bow_span_mm or whole_l)) ** 2
    cup = flat.cup_mm * (width / (flat.cup_span_mm or whole_w)) ** 2
    return float(bow + cup + flat.rock_mm / 2 * length * width / ((flat.rock_span_mm or whole_l) * whole_w))


def _depth(one: Placement, laid: AsLaid, leaves: int, footprint: Polygon, *, piece: Piece, kit: CutKit) -> Iterator[Fault]:
    least = least_thickness(piece, footprint)
    step = laid.thickness_mm + kit.kerf_mm.resaw + 2 * kit.resaw_skim_mm
    stack = laid.thickness_mm + (leaves - 1) * step
    if one.flattening == "exact":
        loss = 0.0
        if not _planes_fit(piece, footprint, stack + 2 * kit.skim_mm):
            yield Fault("thickness", "no pair of parallel planes that far apart lies within the piece there")
    else:
        loss = _flattening(footprint, piece)
    spare = least - loss - stack - 2 * kit.skim_mm
    if spare < -1e-4 and one.flattening == "chain":
        yield Fault("thickness", f"{least - loss - 2 * kit.skim_mm:.2f} thick after flattening and skims, at least {stack:.2f}")
    first = one.z_top_mm - (one.leaf - 1) * step
    if first < kit.skim_mm - 1e-4:
        yield Fault("thickness", f"its top lies {first:.3g} deep, at least the skim of {kit.skim_mm:g}")
    if one.flattening == "chain" and first + loss + stack + kit.skim_mm > least + 1e-4:
        yield Fault("thickness", f"reaches {first + loss + stack + kit.skim_mm:.2f} deep where {least:.2f} is thick")
    if one.flattening == "chain" and abs(one.spare_mm - max(0.0, spare)) > 0.25:
        yield Fault("thickness", f"says {one.spare_mm:.2f} to spare, comes to {max(0.0, spare):.2f}")
    yield from _zones(one, laid, footprint, piece=piece, kit=kit, loss=loss)


def _planes_fit(piece: Piece, footprint: Polygon, apart: float) -> bool:
    """Whether two parallel planes ``apart`` mm apart lie within the wood under a footprint, by the stations' tops.

    Feasibility of c + a x + b y between the far face raised by ``apart`` and face 1 at every station near the footprint,
    looked for over the two slopes in ever smaller steps (what there is between the planes is concave in them).
    """
    near = [s for s in piece.stations if s.top_mm is not None and footprint.buffer(1.0).intersects(Point(s.x_mm, s.y_mm))]
    near = near or [s for s in piece.stations if s.top_mm is not None]
    if not near:
        return False
    mid_x, mid_y = sum(s.x_mm for s in near) / len(near), sum(s.y_mm for s in near) / len(near)

    far = max(1.0, *(abs(s.x_mm - mid_x) for s in near), *(abs(s.y_mm - mid_y) for s in near))
    wood = [((s.x_mm - mid_x) / far, (s.y_mm - mid_y) / far, s.top_mm or 0.0, s.thickness_mm) for s in near]

    def room(a: float, b: float) -> float:
        leaning = [(top - a * x - b * y, thick) for x, y, top, thick in wood]
        return min(top for top, _ in leaning) - max(top - thick for top, thick in leaning)

    a = b = 0.0
    best, size, turn = room(a, b), 8.0, 0.0
    while size > 1e-6 and best < apart:
        angles = [turn + math.pi * k / 8 for k in range(16)]  # turned each time, since the best lies along creases
        moves = [(a + math.cos(t) * size, b + math.sin(t) * size) for t in angles]
        top = max(moves, key=lambda m: room(*m))
        if room(*top) > best:
            (a, b), best = top, room(*top)
        else:
            size, turn = size / 1.5, turn + 2.4
    return best >= apart - 1e-6


# zones ----------------------------------------------------------------------------------------------------------------
def _zones(one: Placement, laid: AsLaid, footprint: Polygon, *, piece: Piece, kit: CutKit, loss: float) -> Iterator[Fault]:
    patches = _patches(one, laid, footprint)
    top, bottom = one.z_top_mm, one.z_top_mm + laid.thickness_mm + loss
    for defect in piece.defects:
        if FAMILY[defect.kind] == "metal" and not defect.resolved:
            continue
        shape: BaseGeometry = Polygon(defect.polygon)
        if defect.kind in GROWING and kit.growth_mm:
            shape = _lengthened(Polygon(defect.polygon), kit.growth_mm, defect.ends_closed)
        family = "void" if FAMILY[defect.kind] == "metal" else FAMILY[defect.kind]
        under = shape.intersection(footprint)
        if under.area <= 1e-6:
            continue
        low, high = -math.inf, math.inf
        if defect.depth_mm is not None and defect.face == "1":
            high = defect.depth_mm
        elif defect.depth_mm is not None and defect.face == "2":
            low = least_thickness(piece, under) - defect.depth_mm
        if not (low < bottom - 1e-4 and high > top + 1e-4):
            continue
        for kind, both, patch in patches:
            if any((k.defect, k.piece, k.zone) == (defect.id, piece.id, kind) for k in laid.keep):
                continue
            if patch.intersection(shape).area > 1e-6 and not _tolerated(
                kind,
                both=both,
                face_up=one.face_up,
                kind=defect.kind,
                family=family,
                depths=(low, high),
                part_depths=(top, bottom),
                thickness=laid.thickness_mm,
                loss=loss,
            ):
                yield Fault("zone", f"{defect.kind.replace('_', ' ')} {defect.id} lies in its {kind} zone")
                break


def _patches(one: Placement, laid: AsLaid, footprint: Polygon) -> list[tuple[str, bool, BaseGeometry]]:
    left: BaseGeometry = footprint
    found: list[tuple[str, bool, BaseGeometry]] = []
    for kind in ("critical", "removed", "hidden", "seen"):
        for zone in laid.zones:
            if zone.kind == kind and zone.polygon != "rest":
                shape = left.intersection(Polygon(moved(zone.polygon, one)))
                found.append((kind, zone.both_sides, shape))
                left = left.difference(shape)
    rest = next((z for z in laid.zones if z.polygon == "rest"), None)
    found.append((rest.kind if rest else "seen", rest.both_sides if rest else False, left))
    return found


def _wishes(job: Job, counting: list[Placement], pieces: dict[str, Piece]) -> Iterator[Fault]:
    """Flaws that are kept and figure that shall be seen, of every part that is made at all."""
    for part in job.parts:
        mine = [one for one in counting if one.part == part.id]
        for flaw in part.keep if mine else ():
            shape = next((Polygon(d.polygon) for d in pieces[flaw.piece].defects if d.id == flaw.defect), Polygon())
            most = _most_in_zone(part, mine, flaw.piece, flaw.zone, shape)
            if most < shape.area - AREA_TOL:
                yield Fault(
                    "keep", f"{part.id} keeps {most:.0f} of {shape.area:.0f} mm2 of {flaw.defect} in its {flaw.zone} zone"
                )
        for k, wish in enumerate(part.figure if mine else ()):
            shape = Polygon(wish.polygon)
            most = _most_in_zone(part, mine, wish.piece, wish.zone, shape)
            if most < wish.share * shape.area - AREA_TOL:
                found = f"{most / shape.area:.3f}"
                yield Fault("figure", f"{part.id} shows {found} of figure {k} in its {wish.zone} zone, at least {wish.share:g}")


def _most_in_zone(part: Part, mine: list[Placement], piece: str, zone: str, shape: Polygon) -> float:
    """The most of a shape, mm2, that lies in one kind of zone of one copy."""
    areas = [0.0]
    for one in mine:
        laid = as_laid(part, one)
        if one.piece == piece:
            zones = shapely.union_all(
                [p for kind, _, p in _patches(one, laid, Polygon(moved(laid.outline, one))) if kind == zone]
            )
            areas.append(zones.intersection(shape).area)
    return max(areas)


def _tolerated(zone: str, *, both: bool, face_up: str, kind: str, family: str, depths: tuple[float, float], part_depths: tuple[float, float], thickness: float, loss: float) -> bool:  # fmt: skip
    if zone == "removed":
        return True
    if zone == "hidden":
        return kind not in ("rot", "shake")
    if zone == "critical" or family not in ("shows", "moves"):
        return False
    low, high = depths
    top, bottom = part_depths
    reaches_1 = low < top + loss - 1e-4 and high > top + 1e-4
    reaches_2 = low < bottom - 1e-4 and high > top + thickness + 1e-4
    return not ((reaches_1 or reaches_2) if both else reaches_1 if face_up == "1" else reaches_2)


def _lengthened(polygon: Polygon, growth: float, closed: tuple[bool, bool] | None) -> BaseGeometry:
    frame = list(polygon.minimum_rotated_rectangle.exterior.coords)
    a, b, c = frame[0], frame[1], frame[2]
    long = (b[0] - a[0], b[1] - a[1]) if math.dist(a, b) >= math.dist(b, c) else (c[0] - b[0], c[1] - b[1])
    size = math.hypot(*long) or 1.0
    ux, uy = long[0] / size, long[1] / size
    if ux < 0 or (abs(ux) < 1e-9 and uy < 0):
        ux, uy = -ux, -uy
    before, after = closed or (False, False)
    shapes: list[BaseGeometry] = [polygon]
    if not before:
        shapes += swept(polygon, -ux * growth, -uy * growth)
    if not after:
        shapes += swept(polygon, ux * growth, uy * growth)
    return shapely.union_all(shapes)


# apart, sets, builds, value -------------------------------------------------------------------------------------------
def _apart(known: list[Placement], parts: dict[str, Part], kit: CutKit, pinned: set[int]) -> Iterator[Fault]:
    footprints: dict[str, list[tuple[Placement, Polygon]]] = defaultdict(list)
    seen: set[tuple[object, ...]] = set()
    for one in known:
        many = parts[one.part].leaves_max is not None
        key = place_of(one) if many else (one.part, one.set, one.copy_)
        if key not in seen:
            seen.add(key)
            footprints[one.piece].append((one, _with_clean_up(block(parts[one.part], one), parts[one.part], kit)))
    for piece, rows in footprints.items():
        for i, (a, shape_a) in enumerate(rows):
            for b, shape_b in rows[i + 1 :]:
                names = f"{a.part} {a.set}.{a.copy_} and {b.part} {b.set}.{b.copy_} on {piece}"
                if parts[a.part].in_pairs and (a.part, a.set) == (b.part, b.set):  # how these lie is told of the pair
                    continue
                if id(a) in pinned and id(b) in pinned:
                    continue
                if shape_a.intersection(shape_b).area > AREA_TOL:
                    yield Fault("apart", f"{names} overlap by {shape_a.intersection(shape_b).area:.3g} mm2")
                elif kit.cutting == "outline" and shape_a.distance(shape_b) < kit.kerf_mm.outline - 1e-5:
                    yield Fault("apart", f"{names} are {shape_a.distance(shape_b):.3g} apart, want {kit.kerf_mm.outline:g}")
                elif kit.cutting == "straight" and not _box_apart(shape_a.bounds, shape_b.bounds, kit):
                    yield Fault("apart", f"{names} leave no room for a straight cut between them")


def _with_clean_up(footprint: Polygon, part: Part, kit: CutKit) -> BaseGeometry:
    """A footprint with the edge and trim that it asks for towards its neighbours."""
    shape: BaseGeometry = footprint
    if part.clean:
        for dx, dy in ((kit.trim_mm, 0.0), (0.0, kit.edge_mm)):
            grown = [s for g in getattr(shape, "geoms", [shape]) for sign in (-1, 1) for s in swept(g, sign * dx, sign * dy)]
            shape = shapely.union_all([shape, *grown])
    return shape


def _box_apart(a: tuple[float, ...], b: tuple[float, ...], kit: CutKit) -> bool:
    along = max(a[0] - b[2], b[0] - a[2])
    across = max(a[1] - b[3], b[1] - a[3])
    return along >= kit.kerf_mm.crosscut - 1e-5 or across >= kit.kerf_mm.rip - 1e-5


def _sets(known: list[Placement], parts: dict[str, Part], plan: Plan, counts: dict[str, int]) -> Iterator[Fault]:
    for (part_id, number), rows in _by_set(known).items():
        part = parts[part_id]
        want = {(c, leaf) for c in range(1, part.per_set + 1) for leaf in range(1, part.leaves + 1)}
        have = [(r.copy_, 1 if part.leaves_max is not None else r.leaf) for r in rows]
        if set(have) != want or len(have) != len(want):
            yield Fault("set", f"set {number} of {part_id} has {len(have)} leaves, needs {part.per_set} copies of {part.leaves}")
        if part.same_piece and len({r.piece for r in rows}) > 1:
            yield Fault("set", f"set {number} of {part_id} comes from several pieces, needs one")
        for copy in range(1, part.per_set + 1):
            if len({place_of(r) for r in rows if r.copy_ == copy}) > 1:
                yield Fault("set", f"leaves of set {number} of {part_id} do not lie at one place of the board")
        if len({r.build for r in rows}) > 1:
            yield Fault("set", f"set {number} of {part_id} goes to several builds")
    for part_id, part in parts.items():
        if plan.made.get(part_id, 0) != counts.get(part_id, 0):
            yield Fault(
                "set", f"made says {plan.made.get(part_id, 0)} of {part_id}, the placements make {counts.get(part_id, 0)}"
            )
        if part.quantity is not None and counts.get(part_id, 0) > part.quantity:
            yield Fault("set", f"{counts[part_id]} of {part_id} made, wanted are at most {part.quantity}")


def _by_set(known: list[Placement]) -> dict[tuple[str, int], list[Placement]]:
    sets: dict[tuple[str, int], list[Placement]] = defaultdict(list)
    for one in known:
        sets[one.part, one.set].append(one)
    return sets


def _pairs(known: list[Placement], parts: dict[str, Part], kit: CutKit) -> Iterator[Fault]:
    for (part_id, _), rows in _by_set(known).items():
        if parts[part_id].in_pairs:
            found = pair_faults(parts[part_id], sorted(rows, key=lambda r: r.copy_), kit)
            yield from (Fault(code, text) for code, text in found)


def _needs(job: Job, plan: Plan) -> dict[tuple[str, str], int]:
    """How many sets of each part the builds need that are made, by (build, part)."""
    needs: dict[tuple[str, str], int] = defaultdict(int)
    for build in job.builds:
        for option in (_chosen(build, plan.builds[build.id]) or ()) if build.id in plan.builds else ():
            for part, count in option.needs.items():
                needs[build.id, part] += count
    return needs


def _builds(job: Job, plan: Plan, known: list[Placement]) -> Iterator[Fault]:
    by_id = {b.id: b for b in job.builds}
    for build, told in plan.builds.items():
        chosen = _chosen(by_id[build], told) if build in by_id else None
        if chosen is None:
            yield Fault("build", f"builds: no recipe “{told}” for “{build}” in the job" if isinstance(told, str) else
                        f"builds: “{build}” is not made by one way of each of its components")  # fmt: skip
            continue
        yield from _made_by(build, chosen, [one for one in known if one.build == build])
    besides = {p.id for p in job.parts if p.byproduct}
    if job.builds:
        for one in known:
            if one.build not in plan.builds and one.part not in besides:
                yield Fault("build", f"{one.part} set {one.set} goes to build “{one.build}”, which is not made")


def _chosen(build: Build, told: str | dict[str, str]) -> list[Recipe | Way] | None:
    """The recipe, or the way of each component, that a plan names; None where it names none, or not every component."""
    if isinstance(told, str):
        return [r for r in build.recipes if r.id == told] or None
    ways = [w for c in build.components for w in c.ways if told.get(c.id) == w.id]
    whole = build.components and set(told) == {c.id for c in build.components} and len(ways) == len(build.components)
    return list(ways) if whole else None


def _made_by(build: str, chosen: list[Recipe | Way], mine: list[Placement]) -> Iterator[Fault]:
    """Whether a build has the sets that its recipe or ways need, and from one piece where they say so."""
    needs: dict[str, int] = defaultdict(int)
    sets: dict[str, set[int]] = defaultdict(set)
    pieces: dict[str, set[str]] = defaultdict(set)
    for option in chosen:
        for part_id, count in option.needs.items():
            needs[part_id] += count
    for one in mine:
        sets[one.part].add(one.set)
        pieces[one.part].add(one.piece)
    names = ", ".join(o.id for o in chosen)
    for part_id in {*needs, *sets}:
        if len(sets[part_id]) != needs.get(part_id, 0):
            have, want = len(sets[part_id]), needs.get(part_id, 0)
            yield Fault("build", f"build {build} has {have} sets of {part_id}, its recipe {names} needs {want}")
    for part_id in (p for o in chosen for p in o.same_piece):
        if len(pieces[part_id]) > 1:
            yield Fault("build", f"build {build}: {part_id} comes from {len(pieces[part_id])} pieces, needs one")


def _value(job: Job, plan: Plan) -> Iterator[Fault]:
    if job.builds:
        value = 0.0
        for build in job.builds:
            chosen = _chosen(build, plan.builds[build.id]) if build.id in plan.builds else None
            value += (build.value if chosen and build.components else 0.0) + sum(o.value for o in chosen or ())
    else:
        value = sum(p.value * plan.made.get(p.id, 0) for p in job.parts)
    if abs(value - plan.value) > 1e-6 * max(1.0, abs(value)):
        yield Fault("value", f"value says {plan.value:g}, comes to {value:g}")
    if plan.bound_all is not None and plan.bound_all < plan.value - 1e-6 * max(1.0, abs(value)):
        yield Fault("bound", f"x-bound_all {plan.bound_all:g} lies below the value {plan.value:g}")
    if plan.bound < plan.value - 1e-6 * max(1.0, abs(value)):
        yield Fault("bound", f"bound {plan.bound:g} lies below the value {plan.value:g}")


# cuts -----------------------------------------------------------------------------------------------------------------
class _Replay:
    """Saws one piece again, cut by cut, on polygons, and sees whether every part comes out whole."""

    def __init__(self, piece: Piece, job: Job, plan: Plan, placed: list[Placement], parts: dict[str, Part]) -> None:
        self.piece, self.kit, self.parts = piece, job.kit, parts
        self.hands: dict[str, BaseGeometry] = {piece.id: Polygon(piece.outline)}
        self.mine: set[str] = {piece.id}
        self.plan, self.placed, self.made = plan, placed, job.cut
        self.resawn: set[str] = set()
        self.tops: dict[str, float] = {}  # how deep below face 1 what is in hand begins
        self.blocks = {place_of(p): block(parts[p.part], p) for p in placed}
        self.footprints = list(self.blocks.values())
        metal = [Polygon(d.polygon) for d in piece.defects if FAMILY[d.kind] == "metal" and not d.resolved]
        self.metal = shapely.union_all(metal) if metal else None

    def begun(self) -> list[Polygon]:
        """Saw what the job says is cut already; the pieces in hand then that were never resawn."""
        for cut in self.made:
            if cut.piece in self.mine:
                for _ in self._cut(cut, made=True):  # whatever was met then, it is done
                    pass
        whole = [h for name, h in self.hands.items() if name not in self.resawn]
        return [g for h in whole for g in getattr(h, "geoms", [h]) if isinstance(g, Polygon)]

    def faults(self) -> Iterator[Fault]:
        for cut in self.plan.cuts:
            if cut.piece == self.piece.id or cut.piece in self.mine:
                yield from (f.at(f"cut {cut.n} on {cut.piece}") for f in self._cut(cut))
        if not self.placed:
            return
        if self.plan.cuts or self.made:
            yield from self._parts_free()
        for offcut in (o for o in self.plan.offcuts if o.piece == self.piece.id):
            shape = Polygon(offcut.polygon)
            if (
                any(shape.intersection(f).area > 1.0 for f in self.footprints)
                and offcut.depth_mm == 0
                and offcut.id not in self.hands
            ):
                yield Fault("offcut", f"offcut {offcut.id} covers a part")
            if shape.difference(Polygon(self.piece.outline).buffer(1e-3)).area > 1.0:
                yield Fault("offcut", f"offcut {offcut.id} reaches past its piece")

    def _cut(self, cut: Cut, *, made: bool = False) -> Iterator[Fault]:
        hand = self.hands.pop(cut.piece, None)
        if hand is None:
            yield Fault("order", "that piece is not in hand any more")
            return
        self.mine.update(cut.gives)
        yield from self._marks_met(cut, hand)
        if cut.tool == "resaw" or cut.piece in self.resawn:
            self.resawn.update(cut.gives)
        if cut.tool == "resaw":
            self.hands.update(dict.fromkeys(cut.gives, hand))
            top, half = self.tops.get(cut.piece, 0.0), self.kit.kerf_mm.resaw / 2
            self.tops.update(zip(cut.gives, (top, (cut.depth_mm or 0.0) + half)))
            limit, height = self.kit.machines.resaw_height_mm, hand.bounds[3] - hand.bounds[1]
            if limit is not None and height > limit + 1e-4:
                yield Fault("resaw", f"{height:.1f} high to resaw, the saw takes {limit:g}")
            return
        kerf = getattr(self.kit.kerf_mm, cut.tool)
        line = LineString(cut.line)
        if cut.tool == "outline":
            band = line.buffer(max(kerf / 2, 1e-6), join_style="mitre", mitre_limit=3, cap_style="flat")
        else:
            yield from self._crosses(cut, hand, kerf)
            (x0, y0), (x1, y1) = cut.line[0], cut.line[-1]
            size = math.dist((x0, y0), (x1, y1)) or 1.0
            dx, dy = (x1 - x0) / size * 9e4, (y1 - y0) / size * 9e4
            band = LineString([(x0 - dx, y0 - dy), (x1 + dx, y1 + dy)]).buffer(max(kerf / 2, 1e-6), cap_style="flat")
        taken = band.intersection(hand)
        for shape in () if made else self.footprints:
            if taken.intersection(shape.buffer(-SCRATCH_MM)).area > AREA_TOL:
                yield Fault("cut", f"takes {taken.intersection(shape).area:.3g} mm2 of a part")
        yield from self._metal_met(cut, taken)
        left = hand.difference(band)
        rest = sorted((g for g in getattr(left, "geoms", [left]) if g.area > DUST_MM2), key=lambda g: -g.area)
        sure = sum(g.area > SPLINTER_MM2 for g in rest)
        if not sure <= len(cut.gives) <= len(rest):
            yield Fault("cut", f"gives {sure} pieces, names {len(cut.gives)}")
        self._deal(cut, rest[: len(cut.gives)])

    def _metal_met(self, cut: Cut, taken: BaseGeometry) -> Iterator[Fault]:
        """No kerf runs through metal, whatever the clearance, nor comes nearer; along an outline a cut may stray a little."""
        if self.metal is None or taken.is_empty:
            return
        slack = SCRATCH_MM if cut.tool == "outline" else 1e-4
        through = taken.intersection(self.metal.buffer(-slack)).area
        if through > AREA_TOL:
            yield Fault("metal", f"runs through metal, {through:.3g} mm2 of it")
        elif (near := taken.distance(self.metal)) < self.kit.metal_clear_mm - slack:
            yield Fault("metal", f"comes {near:.4g} near metal, at least {self.kit.metal_clear_mm:g}")

    def _crosses(self, cut: Cut, hand: BaseGeometry, kerf: float) -> Iterator[Fault]:
        (x0, y0), (x1, y1) = cut.line[0], cut.line[-1]
        _hx0, _hy0, _hx1, _hy1 = hand.bounds
        along = LineString([(x0, y0), (x1, y1)])
        size = along.length or 1.0
        dx, dy = (x1 - x0) / size * 9e4, (y1 - y0) / size * 9e4
        whole = LineString([(x0 - dx, y0 - dy), (x1 + dx, y1 + dy)]).intersection(hand)
        if whole.length > along.intersection(hand).length + kerf / 2 + 1e-3:
            yield Fault("cut", "does not cross the whole piece in hand")
        if whole.is_empty and hand.distance(along) > kerf / 2 + 1e-6:
            yield Fault("cut", "misses the piece in hand")

    def _deal(self, cut: Cut, rest: list[BaseGeometry]) -> None:
        """Name what the cut gave: the blank of an outline cut first, else the side nearer the marked end or the near edge."""
        if cut.tool == "outline":
            ring = LineString(cut.line)
            inside = Polygon(
                list(ring.coords)[1:] if len(ring.coords) > 4 and ring.coords[0] != ring.coords[-1] else ring.coords
            ).buffer(0)
            rest.sort(key=cmp_to_key(_before))
            rest.sort(key=lambda g: g.intersection(inside).area < 0.5 * g.area)
        elif cut.tool == "crosscut":
            at = (cut.line[0][0] + cut.line[-1][0]) / 2
            rest.sort(key=cmp_to_key(_before))
            rest.sort(key=lambda g: g.centroid.x > at)
        else:
            at = (cut.line[0][1] + cut.line[-1][1]) / 2
            rest.sort(key=cmp_to_key(_before))
            rest.sort(key=lambda g: g.centroid.y > at)
        self.hands.update(zip(cut.gives, rest))
        self.tops.update(dict.fromkeys(cut.gives, self.tops.get(cut.piece, 0.0)))

    def _marks_met(self, cut: Cut, hand: BaseGeometry) -> Iterator[Fault]:
        """Each mark names an edge of the kerf, measured from a side of what is in hand then."""
        x0, y0, x1, y1 = hand.bounds
        (ax, ay), (bx, by) = cut.line[0], cut.line[-1]
        at = {"crosscut": (ax + bx) / 2, "rip": (ay + by) / 2, "resaw": cut.depth_mm or 0.0}.get(cut.tool)
        sides = {
            "crosscut": {"datum": (min(x for x, _ in self.piece.outline), 1), "marked end": (x0, 1), "far end": (x1, -1)},
            "rip": {"near edge": (y0, 1), "far edge": (y1, -1)},
            "resaw": {"face 1": (self.tops.get(cut.piece, 0.0), 1)},
        }.get(cut.tool, {})
        for mark in cut.marks:
            if mark.from_ not in sides or at is None:
                yield Fault("marks", f"a mark from {mark.from_}: a {cut.tool} is not measured from there")
                continue
            side, way = sides[mark.from_]
            half = getattr(self.kit.kerf_mm, cut.tool) / 2
            found = (at - side) * way + (-half if mark.kerf == "after" else half)
            if abs(found - mark.mm) > 0.05 + 1e-4:
                yield Fault("marks", f"a mark at {mark.mm:g} from {mark.from_}: the kerf's edge lies at {found:.2f}")

    def _parts_free(self) -> Iterator[Fault]:
        """Every part lies in a piece of its own, sawn to its outline (in straight cutting, to its box)."""
        listed = Counter(place_of(p) for p in self.placed)  # of a footprint of which leaves are lost only the ones that stay
        for one in {place_of(p): p for p in self.placed}.values():
            part, number, copy, shape = one.part, one.set, one.copy_, self.blocks[place_of(one)]
            holding = [h for h in self.hands.values() if h.intersection(shape).area > 0.5 * shape.area]
            wanted = box(*shape.bounds).intersection(Polygon(self.piece.outline)) if self.kit.cutting == "straight" else shape
            free = [h for h in holding if h.symmetric_difference(wanted).area <= SCRATCH_MM * wanted.length]
            if len(free) < listed[place_of(one)]:
                yield Fault("sawn_free", f"{part} {number}.{copy} on {self.piece.id} is not sawn free by the cuts")


def _before(a: BaseGeometry, b: BaseGeometry) -> int:
    """Below 0 where one piece is named before another: by least x, then y, equal within ``SAME_MM``; of two at one corner the larger."""
    for k in (0, 1):
        apart = a.bounds[k] - b.bounds[k]
        if abs(apart) > SAME_MM:
            return -1 if apart < 0 else 1
    return -1 if a.area > b.area else 1


def _balance(plan: Plan, known: list[Placement]) -> Iterator[Fault]:
    for piece, shares in plan.balance.items():
        if abs(shares.total - 1) > 0.005:
            yield Fault("balance", f"the balance of {piece} sums to {shares.total:.4f}, needs 1")
        if min(shares.parts, shares.offcuts, shares.kerf, shares.skims, shares.waste) < -0.005:
            yield Fault("balance", f"the balance of {piece} has a share below 0")
    for piece in {p.piece for p in known} - set(plan.balance):
        yield Fault("balance", f"no balance for {piece}, which is cut")
