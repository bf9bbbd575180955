"""An instrument as a drawing: the plan face up, the side cut on the centre line, the section at a place; rings and lines in mm.

Frame: x from the tail (0) to the head, y 0 the centre line with the bass side up, z 0 the body's face with the fretboard above it.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from grainet.design import formulas
from grainet.design.blanks import board_end_mm, board_end_width_mm
from grainet.design.instrument import Instrument, Plated
from grainet.design.let_in import recess_mm, top_outline
from grainet.kept import kept_per_value
from grainet.wood.value import Point, Ring

Line = tuple[Point, Point]
HEAD_FLARE_MM = 44.0  # from the nut to the head's full width
FLAT_HEAD_DROP_MM = 7.0  # how far a flat head's face lies under the board's underside; ours


@dataclass(frozen=True)
class Stations:
    """The vertical stations that both views share, mm from the tail."""

    bridge: float
    board_end: float
    join: float
    body_end: float
    nut: float
    head_end: float


@dataclass(frozen=True)
class Plan:
    """The instrument from above. ``zones`` are (name, kind, ring)."""

    body: Ring
    board: Ring
    neck: Ring
    head: Ring
    frets: tuple[Line, ...]
    zones: tuple[tuple[str, str, Ring], ...]


@dataclass(frozen=True)
class Side:
    """The instrument cut on its centre line, z up."""

    body: Ring
    cap: Ring
    board: Ring
    neck: Ring
    rod: Ring
    cavities: tuple[Ring, ...]
    strings: Line


@dataclass(frozen=True)
class Section:
    """The neck at a place: rings about the middle (y, z), and the sizes that they were drawn from."""

    board: Ring
    neck: Ring
    rod: Ring
    width_mm: float
    depth_mm: float
    left_mm: float


@kept_per_value()
def stations(g: Instrument) -> Stations:
    """Where bridge, board's end, joint, nut and head lie; of two scales along the centre line."""
    nut = g.tail_mm + _centre_scale(g)
    neck = max((x for x, y in g.body.outline if abs(y) < 40), default=0.0)
    along = g.head.length_mm * (1.0 if g.head.route == "flat" else math.cos(math.radians(g.head.angle_deg)))
    join = nut - formulas.fret_mm(_centre_scale(g), g.join_fret)
    return Stations(g.tail_mm, nut - board_end_mm(g), join, neck, nut, nut + along)


def _centre_scale(g: Instrument) -> float:
    return sum(g.scale_mm) / len(g.scale_mm)


def board_half_mm(g: Instrument, x_mm: float) -> float:
    """Half of the board's width at a place from the tail, nut and end no further than they are."""
    at = stations(g)
    from_nut = min(max(0.0, at.nut - x_mm), at.nut - at.board_end)
    return formulas.board_width_mm(g.nut_mm, g.spread_mm, g.string_to_edge_mm, g.scale, from_nut) / 2


@kept_per_value()
def plan_of(g: Instrument) -> Plan:
    """The plan."""
    at = stations(g)
    end, nut = board_half_mm(g, at.board_end), g.nut_mm / 2
    board = ((at.board_end, -end), (at.nut, -nut), (at.nut, nut), (at.board_end, end))
    inner = max(0.0, at.board_end - g.joint.length_mm if g.kind == "set" else at.board_end)
    start = 0.0 if g.kind == "through" else inner
    neck = ((start, -end), (at.board_end, -end), (at.nut, -nut), (at.nut, nut), (at.board_end, end), (start, end))
    zones = tuple((z.name, z.kind, z.polygon) for z in g.body.zones if z.polygon != "rest")
    cavities = tuple((c.name, "removed", c.polygon) for c in g.body.cavities)
    recess = (("the top, let in", "hidden", top_outline(g)),) if recess_mm(g) else ()
    plates = tuple((p.name, "hidden", _plate(at, p)) for p in g.plates)
    return Plan(g.body.outline, board, neck, _head(g, at), tuple(_frets(g, at)), zones + recess + cavities + plates)


def _plate(at: Stations, plate: Plated) -> Ring:
    """A plate in the neck's back, seen through the neck."""
    begins, half = at.nut - plate.at_mm, plate.width_mm / 2
    return ((begins - plate.length_mm, -half), (begins, -half), (begins, half), (begins - plate.length_mm, half))


def _head(g: Instrument, at: Stations) -> Ring:
    """A plain paddle of our own: out to its width, a little in again, its end cut round."""
    nut, half, end = g.nut_mm / 2, g.head.width_mm / 2, at.head_end
    flare = min(HEAD_FLARE_MM, (end - at.nut) * 0.4)
    top = [
        (at.nut, nut),
        (at.nut + flare * 0.5, nut + (half - nut) * 0.35),
        (at.nut + flare, half),
        (end - 12, half * 0.82),
        (end, half * 0.6),
    ]
    return tuple([(x, -y) for x, y in top] + [(x, y) for x, y in reversed(top)])


def _frets(g: Instrument, at: Stations) -> list[Line]:
    """Each fret across the board; with two scales a fan about the square fret."""
    bass, treble = g.scale_mm[0], g.scale_mm[-1]
    square = at.nut - formulas.fret_mm(_centre_scale(g), g.perpendicular_fret)
    lines = []
    for b, t in formulas.fret_table((bass, treble), g.frets, g.perpendicular_fret)[1:]:
        xb, xt = square - b, square - t
        lines.append(((xb, board_half_mm(g, xb)), (xt, -board_half_mm(g, xt))))
    return lines


# side -----------------------------------------------------------------------------------------------------------------
def side_of(g: Instrument) -> Side:
    """The side, cut on the centre line."""
    at = stations(g)
    body = ((0.0, -g.body.thickness_mm), (at.body_end, -g.body.thickness_mm), (at.body_end, 0.0), (0.0, 0.0))
    low = -(recess_mm(g) or g.body.cap_mm)
    begins, ends = g.body.rim_mm, at.body_end - g.body.rim_mm
    cap = ((begins, low), (ends, low), (ends, low + g.body.cap_mm), (begins, low + g.body.cap_mm)) if g.body.cap_mm else ()
    board = tuple(
        _tilted(g, at, p)
        for p in (
            (at.board_end, 0.0),
            (at.nut, 0.0),
            (at.nut, g.fretboard.thickness_mm),
            (at.board_end, g.fretboard.thickness_mm),
        )
    )
    rod = tuple(_tilted(g, at, p) for p in _rod(g, at))
    neck = tuple(_tilted(g, at, p) for p in _neck(g, at))
    high = g.fretboard.thickness_mm + 2.0
    strings = ((at.bridge, high + 4), _tilted(g, at, (at.nut, high)))
    return Side(body, cap, board, neck, rod, tuple(_cavity(c.polygon, c.depth_mm) for c in g.body.cavities), strings)


def _tilted(g: Instrument, at: Stations, p: Point) -> Point:
    """A point of the neck, laid back by the neck's angle about the end of the board."""
    if g.kind == "through":
        return p
    a = math.radians(g.joint.angle_deg)
    dx = p[0] - at.board_end
    return (at.board_end + dx * math.cos(a) + p[1] * math.sin(a), p[1] * math.cos(a) - dx * math.sin(a))


def _rod(g: Instrument, at: Stations) -> Ring:
    low = -g.rod.depth_mm
    mid = (at.board_end + at.nut) / 2
    return ((at.board_end + 12, 0.0), (at.board_end + 12, low), (mid, low - g.rod.curve_mm), (at.nut - 6, low), (at.nut - 6, 0.0))


def neck_depth_mm(g: Instrument, x_mm: float) -> float:
    """The neck's depth under the board at a place from the tail: evenly from the heel's to the nut's, less the back's own curve between."""
    at = stations(g)
    heel = at.join
    share = min(1.0, max(0.0, (at.nut - x_mm) / max(1.0, at.nut - heel)))
    straight = g.neck.depth_nut_mm + (g.neck.depth_heel_mm - g.neck.depth_nut_mm) * share
    return straight - g.neck.back_curve_mm * 4 * share * (1 - share)


def _neck(g: Instrument, at: Stations) -> Ring:
    heel = max(g.joint.heel_mm, g.neck.depth_heel_mm) if g.kind != "through" else g.body.thickness_mm
    start = 0.0 if g.kind == "through" else at.board_end - (g.joint.length_mm if g.kind == "set" else 0.0)
    foot = at.body_end if g.kind != "through" else max(at.join, at.body_end)
    under = [(x, -neck_depth_mm(g, x)) for x in _steps(min(foot + 46, at.nut - 40), at.nut, 6)]
    head = _side_head(g, at)
    return ((start, 0.0), (start, -heel), (foot, -heel), *under, *head, (at.nut, 0.0))


def _side_head(g: Instrument, at: Stations) -> tuple[Point, ...]:
    """The head from under the nut, out along its back and home along its face."""
    t = g.head.thickness_mm
    if g.head.route == "flat":
        low = -FLAT_HEAD_DROP_MM
        return ((at.nut + 22, low - t), (at.head_end, low - t), (at.head_end, low), (at.nut + 22, low))
    a = math.radians(g.head.angle_deg)
    dx, dz = math.cos(a), -math.sin(a)
    face = (at.nut + g.head.length_mm * dx, g.head.length_mm * dz)
    back = (face[0] - t * math.sin(a), face[1] - t * math.cos(a))
    root = (at.nut - t * math.sin(a), -t * math.cos(a))
    return ((root[0] + 8, min(root[1], -g.neck.depth_nut_mm)), back, face)


def _steps(low: float, high: float, count: int) -> list[float]:
    return [low + (high - low) * k / (count - 1) for k in range(count)]


def _cavity(ring: Ring, depth: float) -> Ring:
    xs = [x for x, _ in ring]
    return ((min(xs), -depth), (max(xs), -depth), (max(xs), 0.0), (min(xs), 0.0))


# section --------------------------------------------------------------------------------------------------------------
def section_at(g: Instrument, x_mm: float) -> Section | None:
    """The neck's section at a place from the tail; None off the board."""
    at = stations(g)
    if not at.board_end - 1e-6 <= x_mm <= at.nut + 1e-6:
        return None
    half, depth = board_half_mm(g, x_mm), neck_depth_mm(g, x_mm)
    share = (at.nut - x_mm) / max(1.0, at.nut - at.board_end)
    radius = g.fretboard.radius_mm[0] + (g.fretboard.radius_mm[-1] - g.fretboard.radius_mm[0]) * share
    t, usable = g.fretboard.thickness_mm, min(half, radius)
    crown = [(y, t - (radius - math.sqrt(max(0.0, radius**2 - y**2)))) for y in _steps(-usable, usable, 21)]
    board = ((half, 0.0), *reversed(crown), (-half, 0.0))
    back = [(half * math.cos(a), -depth * math.sin(a)) for a in _steps(0.0, math.pi, 25)]
    w = g.rod.width_mm / 2
    rod = ((-w, 0.0), (-w, -g.rod.depth_mm), (w, -g.rod.depth_mm), (w, 0.0))
    curve = g.rod.curve_mm * 4 * share * (1 - share)
    return Section(tuple(board), tuple(back), rod, 2 * half, depth, depth - g.rod.depth_mm - curve)


def made_where(g: Instrument, part: str) -> tuple[float, float]:
    """The stretch from the tail that a blank's part makes, mm."""
    at = stations(g)
    if part.startswith(("body", "cap")):
        xs = [x for x, _ in g.body.outline]
        return min(xs), max(xs)
    if part == "heel" and g.heel_block is not None:
        return at.body_end - g.heel_block.length_mm, at.body_end
    if part == "stiffener" and g.stiffener is not None:
        return at.nut - g.stiffener.length_mm, at.nut
    if part.startswith("plates."):
        plate = next((p for p in g.plates if p.part_name == part), None)
        begins = at.nut - (plate.at_mm if plate is not None else 0.0)
        return begins - (plate.length_mm if plate is not None else 0.0), begins
    if part.startswith("neck.head") or part in ("plate", "neck.ear"):
        return at.nut, at.head_end
    if part.startswith("neck"):
        return (0.0 if g.kind == "through" else at.board_end - (g.joint.length_mm if g.kind == "set" else 0.0)), at.head_end
    return at.board_end, at.nut


def whole_length_mm(g: Instrument) -> float:
    """From the tail to the head's end."""
    at = stations(g)
    return max(at.head_end, max(x for x, _ in g.body.outline))


@kept_per_value()
def across_mm(g: Instrument) -> tuple[float, float]:
    """How wide the drawing is: bass side, treble side."""
    ys = [y for _, y in g.body.outline] + [g.head.width_mm / 2, -g.head.width_mm / 2, board_end_width_mm(g) / 2]
    return max(ys), min(ys)
