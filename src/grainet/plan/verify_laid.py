"""What a placement stands for, for the verifier: the part as it is laid (flat, or on its edge), the block that is sawn for it, how many
leaves its footprint gives, whether the copies of a pair lie as told and both hands show one face.

It imports ground values, Shapely and the standard library only.
"""

from __future__ import annotations

import itertools
import math
from collections import Counter, defaultdict
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass
from typing import Any

import shapely
from shapely import affinity
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from grainet.design.part import KeptFlaw, Part, Zone
from grainet.job.answer import Placement
from grainet.kit.cut_kit import CutKit
from grainet.wood.value import Ring

PLACE_TOL = 1e-4  # a place written with fewer digits is still the same place
STRICTEST = ("critical", "removed", "hidden", "seen")
Found = Iterator[tuple[str, str]]  # code, and what was found and is wanted


@dataclass(frozen=True)
class AsLaid:
    """A part as it lies on its board: outline as drawn, thickness through the board, zones, flaws that are kept."""

    outline: Ring
    thickness_mm: float
    zones: tuple[Zone, ...]
    keep: tuple[KeptFlaw, ...] = ()


def as_laid(part: Part, one: Placement) -> AsLaid:
    """The part as a placement has it: of one on edge, width and thickness have changed places, and all of it bears what its strictest
    zone bears."""
    if not one.on_edge:
        return AsLaid(part.outline, part.thickness_mm, part.zones, part.keep)
    xs, ys = [x for x, _ in part.outline], [y for _, y in part.outline]
    x0, x1, y0, y1 = min(xs), max(xs), min(ys), max(ys)
    high = y0 + part.thickness_mm
    kinds = [kind for kind in STRICTEST if any(z.kind == kind for z in part.zones)]
    zone = Zone(kind=kinds[0] if kinds else "seen", polygon="rest", both_sides=True)  # type: ignore[arg-type]
    return AsLaid(((x0, y0), (x1, y0), (x1, high), (x0, high)), y1 - y0, (zone,), part.keep)


def moved(ring: Any, one: Placement) -> list[tuple[float, float]]:
    """A ring as drawn to where a placement puts it: turned over where it is, turned, shifted."""
    over = one.mirror != (one.face_up == "2")
    turn = one.angle_deg % 360
    exact = {0: (1.0, 0.0), 90: (0.0, 1.0), 180: (-1.0, 0.0), 270: (0.0, -1.0)}
    c, s = exact.get(turn, (math.cos(math.radians(turn)), math.sin(math.radians(turn))))  # type: ignore[call-overload]
    there = []
    for x, y in ring:
        v = -y if over else y
        there.append((c * x - s * v + one.x, s * x + c * v + one.y))
    return there


def swept(shape: BaseGeometry, dx: float, dy: float) -> list[BaseGeometry]:
    """What a shape passes over on its way, in pieces."""
    found: list[BaseGeometry] = []
    for polygon in (g for g in getattr(shape, "geoms", [shape]) if isinstance(g, Polygon)):
        ring = list(polygon.exterior.coords)
        quads = (Polygon([a, b, (b[0] + dx, b[1] + dy), (a[0] + dx, a[1] + dy)]) for a, b in itertools.pairwise(ring))
        found += [*(q.buffer(0) if not q.is_valid else q for q in quads if q.area > 0), affinity.translate(polygon, dx, dy)]
    return found


def block(part: Part, one: Placement) -> Polygon:
    """The wood that is sawn for a part and nobody else's: its outline, what stays on beyond its sides, and beyond its joint edge."""
    drawn = as_laid(part, one).outline
    allow = part.allowance_mm
    shape: BaseGeometry = Polygon(drawn)
    for dx, dy in ((-allow.left, 0.0), (allow.right, 0.0)):
        shape = shapely.union_all([shape, *swept(Polygon(drawn), dx, dy)]) if dx else shape
    wide = shape
    for dx, dy in ((0.0, -allow.near), (0.0, allow.far)):
        shape = shapely.union_all([shape, *swept(wide, dx, dy)]) if dy else shape
    if part.joint_edge is not None and part.joint_mm > 0:
        shape = shapely.union_all([shape, _beyond_joint(part.outline, part.joint_edge, part.joint_mm)])
    if not isinstance(shape, Polygon):
        shape = shape.convex_hull
    return Polygon(moved(list(shape.exterior.coords)[:-1], one))


def _beyond_joint(outline: Ring, edge: Sequence[tuple[float, float]], by: float) -> Polygon:
    (ax, ay), (bx, by_) = edge
    size = math.hypot(bx - ax, by_ - ay)
    inside = Polygon(outline).representative_point()
    side = (bx - ax) * (inside.y - ay) - (by_ - ay) * (inside.x - ax)  # > 0 where the part lies to the left of a to b
    sign = 1.0 if side > 0 else -1.0
    ox, oy = sign * (by_ - ay) / size * by, -sign * (bx - ax) / size * by
    return Polygon([(ax, ay), (bx, by_), (bx + ox, by_ + oy), (ax + ox, ay + oy)])


def place_of(one: Placement) -> tuple[object, ...]:
    """Which footprint a placement is a leaf of."""
    return one.part, one.piece, one.x, one.y, one.angle_deg, one.mirror, one.face_up, one.on_edge


def leaves_here(known: Iterable[Placement], parts: dict[str, Part]) -> dict[tuple[object, ...], int]:
    """How many leaves each footprint gives where a part takes as many as its board has."""
    return Counter(place_of(one) for one in known if parts[one.part].leaves_max is not None)


def leaf_faults(known: Iterable[Placement], parts: dict[str, Part]) -> Found:
    """Footprints that give several sets: leaves 1, 2, 3 and so on, each once, no more than the part allows."""
    rows: dict[tuple[object, ...], list[int]] = defaultdict(list)
    for one in known:
        if parts[one.part].leaves_max is not None:
            rows[place_of(one)].append(one.leaf)
    for (part_id, *_), leaves in rows.items():
        most = parts[str(part_id)].leaves_max or 1
        if sorted(leaves) != list(range(1, len(leaves) + 1)) or len(leaves) > most:
            yield "leaf", f"one place of {part_id} gives leaves {sorted(leaves)}, needs 1 to at most {most}, each once"


def pair_faults(part: Part, rows: Sequence[Placement], kit: CutKit) -> Found:
    """Whether a set's two copies lie folded about one rip, or the second slipped along by one crosscut."""
    if len(rows) != 2 or rows[0].piece != rows[1].piece:
        yield "pair", f"set {rows[0].set} of {part.id} lies on {len({r.piece for r in rows})} pieces, needs two copies on one"
        return
    a, b = rows
    if a.face_up != b.face_up:
        yield "pair", f"set {a.set} of {part.id} shows both faces, needs one"
    yield from _fold_faults(part, a, b, kit) if part.fold else _slip_faults(part, a, b, kit)


def _fold_faults(part: Part, a: Placement, b: Placement, kit: CutKit) -> Found:
    ring_a, ring_b = moved(part.outline, a), moved(part.outline, b)
    twice = ring_a[0][1] + ring_b[0][1]
    if any(abs(p[0] - q[0]) > PLACE_TOL or abs(p[1] + q[1] - twice) > PLACE_TOL for p, q in zip(ring_a, ring_b)):
        yield "pair", f"the copies of set {a.set} of {part.id} are no mirror images about a line along the board"
        return
    if part.mirror is False and a.mirror and b.mirror:
        yield "mirror", "both copies are mirrored, which the part does not allow"
    ys = [y for _, y in part.outline]
    joint = part.joint_edge or ((0.0, min(ys)), (1.0, min(ys)))
    (_, ja), (_, jb) = moved(joint[:1], a)[0], moved(joint[:1], b)[0]
    apart, wanted = abs(ja - jb), kit.kerf_mm.rip + 2 * part.joint_mm
    inner = (Polygon(ring_a).centroid.y - ja) * (
        ja - twice / 2
    ) > 0  # each part lies away from the line, its joint edge toward it
    if abs(apart - wanted) > PLACE_TOL or not inner:
        yield "pair", f"the joint edges of set {a.set} of {part.id} lie {apart:.4g} apart, need {wanted:g} and to face each other"


def _slip_faults(part: Part, a: Placement, b: Placement, kit: CutKit) -> Found:
    x0, _, x1, _ = block(part, a).bounds
    wanted = x1 - x0 + kit.kerf_mm.crosscut
    same = (a.angle_deg, a.mirror) == (b.angle_deg, b.mirror) and abs(a.y - b.y) <= PLACE_TOL
    if not same or abs(abs(b.x - a.x) - wanted) > PLACE_TOL:
        yield (
            "pair",
            f"set {a.set} of {part.id}: the second copy lies {abs(b.x - a.x):.4g} on, needs {wanted:.4g}, same y and turn",
        )


def hand_faults(known: Iterable[Placement], parts: dict[str, Part]) -> Found:
    """Both hands of a body that come from one board show the same face of it; none is mirrored."""
    faces: dict[tuple[object, ...], set[str]] = defaultdict(set)
    for one in known:
        part = parts[one.part]
        if part.hand is not None and one.mirror:
            yield "mirror", f"{part.id} has a hand and is mirrored"
        if part.hand is not None and part.mate is not None:
            faces[one.build, one.piece, *sorted((part.id, part.mate))].add(one.face_up)
    for (_, piece, left, right), shown in faces.items():
        if len(shown) > 1:
            yield "hand", f"{left} and {right} show both faces of {piece}, need one"
