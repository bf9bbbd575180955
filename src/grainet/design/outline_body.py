"""A body out of outlines that were drawn elsewhere: the largest loop its rim, the loops within it zones named by their layer or class."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from grainet.design.clip import area_mm2
from grainet.design.instrument import Instrument
from grainet.design.part import Zone, ZoneKind
from grainet.wood.value import BadEntry, Point, Ring

# words in a layer's or class's name, and what such a zone is
ZONE_WORDS: tuple[tuple[ZoneKind, tuple[str, ...]], ...] = (
    ("critical", ("joint", "pocket", "bridge", "post", "stud", "critical", "bear", "structural", "heel", "tenon")),
    ("hidden", ("cover", "plate", "hidden", "control", "lid")),
    ("removed", ("cavity", "cavities", "pickup", "removed", "rout", "hole", "channel", "chamber", "jack", "cut")),
    ("seen", ("seen", "show", "visible")),
)
LEAST_MM, MOST_MM = 150.0, 900.0  # a body is at least as long as the first and at most as the second; else its units are in doubt


def zone_kind(name: str) -> ZoneKind:
    """What a loop within a body is, by its name; one that says nothing is routed away."""
    tidy = name.lower()
    return next((kind for kind, words in ZONE_WORDS if any(w in tidy for w in words)), "removed")


def body_from(loops: Sequence[tuple[Ring, str]], centre_line: tuple[Point, Point] | None = None) -> dict[str, Any]:
    """The figures of a body (``body.outline``, ``body.zones``) from loops, the largest its rim. Its length lies along x, tail at 0; the centre
    line is the one that is drawn, else the drawing's own axis where it runs through the body, else its middle. Raises BadEntry for a
    size that no body has."""
    rim, _ = max(loops, key=lambda one: abs(area_mm2(one[0])))
    xs, ys = zip(*rim)
    long, wide = max(xs) - min(xs), max(ys) - min(ys)
    upright = wide > long * 1.15
    length = max(long, wide) if upright else long
    if not LEAST_MM <= length <= MOST_MM:
        raise BadEntry(
            f"The outline is {length:.1f} mm long; a body needs {LEAST_MM:g} to {MOST_MM:g}. In which unit was it drawn?"
        )

    def turned(p: Point) -> Point:
        return (p[1], -p[0]) if upright else p

    rings = [(tuple(turned(p) for p in ring), name) for ring, name in loops]
    rim = max((ring for ring, _ in rings), key=lambda r: abs(area_mm2(r)))
    xs, ys = zip(*rim)
    x0 = min(xs)
    margin = 0.1 * (max(ys) - min(ys))
    centre = 0.0 if min(ys) + margin < 0 < max(ys) - margin else (min(ys) + max(ys)) / 2
    if centre_line is not None:
        a, b = (turned(p)[1] for p in centre_line)
        if abs(a - b) < 0.5 and min(ys) < (a + b) / 2 < max(ys):
            centre = (a + b) / 2
    placed = [(tuple((round(x - x0, 3), round(y - centre, 3)) for x, y in _ccw(ring)), name) for ring, name in rings]
    outline = max((ring for ring, _ in placed), key=area_mm2)
    zones = [
        Zone(kind=zone_kind(name), polygon=ring, name=name[:40] or "routed").model_dump(mode="json")
        for ring, name in placed
        if ring is not outline and _within(ring, outline)
    ]
    seen = Zone(kind="seen", polygon="rest", name="seen").model_dump(mode="json")
    return {"body.outline": [list(p) for p in outline], "body.zones": [*zones, seen]}


def _ccw(ring: Ring) -> Ring:
    return ring if area_mm2(ring) > 0 else tuple(reversed(ring))


def _within(ring: Ring, rim: Ring) -> bool:
    """Whether the middle of a ring lies within another."""
    xs, ys = zip(*ring)
    return inside(((min(xs) + max(xs)) / 2, (min(ys) + max(ys)) / 2), rim)


def inside(p: Point, ring: Ring) -> bool:
    """Whether a point lies within a ring (even and odd crossings)."""
    x, y = p
    found = False
    for k, (x1, y1) in enumerate(ring):
        x0, y0 = ring[k - 1]
        if (y0 > y) != (y1 > y) and x < x0 + (x1 - x0) * (y - y0) / (y1 - y0):
            found = not found
    return found


def turned_body(g: Instrument, how: str) -> Instrument:
    """The body turned end for end (``turn``) or mirrored about its centre line (``mirror``), its zones with it."""
    length = max(x for x, _ in g.body.outline)

    def place(p: Point) -> list[float]:
        return [round(length - p[0], 3), round(-p[1], 3)] if how == "turn" else [p[0], -p[1]]

    def ring(points: Ring) -> list[list[float]]:
        made = [place(p) for p in points]
        return made if how == "turn" else made[::-1]

    zones = [
        zone.model_dump(mode="json")
        if zone.polygon == "rest"
        else {**zone.model_dump(mode="json"), "polygon": ring(zone.polygon)}
        for zone in g.body.zones
    ]
    cavities = [{**c.model_dump(mode="json"), "polygon": ring(c.polygon)} for c in g.body.cavities]
    told: dict[str, Any] = {"body.outline": ring(g.body.outline), "body.zones": zones}
    shaping = _shaping_moved(g, place)
    return g.with_figures(
        {**told, **({"body.cavities": cavities} if cavities else {}), **({"body.shaping": shaping} if shaping else {})}
    )


def _shaping_moved(g: Instrument, place: Callable[[Point], list[float]]) -> list[dict[str, Any]]:
    """The body's shaping with the lines of its contours moved as the outline is."""
    moved = [s.model_dump(mode="json", exclude_unset=True) for s in g.body.shaping]
    for one, was in zip(moved, g.body.shaping):
        if was.line is not None:
            one["line"] = [place(p) for p in was.line]
    return moved


def scaled_body(g: Instrument, length: float, width: float) -> Instrument:
    """The body's outline and zones stretched to a length and a width."""
    xs, ys = zip(*g.body.outline)
    a, b = length / (max(xs) - min(xs)), width / (max(ys) - min(ys))
    zones = [z.model_dump(mode="json") for z in g.body.zones]
    for zone in zones:
        if zone["polygon"] != "rest":
            zone["polygon"] = [[x * a, y * b] for x, y in zone["polygon"]]
    told = {"body.outline": [[round(x * a, 3), round(y * b, 3)] for x, y in g.body.outline], "body.zones": zones}
    shaping = _shaping_moved(g, lambda p: [round(p[0] * a, 3), round(p[1] * b, 3)])
    return g.with_figures({**told, **({"body.shaping": shaping} if shaping else {})})


def zone_at(g: Instrument, p: Point, *, back: bool = False) -> str:
    """The kind of zone at a place of the body: the one that says most; "outside" beside it. On the back only zones of both sides count."""
    if not inside(p, g.body.outline):
        return "outside"
    kinds = {z.kind for z in g.body.zones if z.polygon != "rest" and (z.both_sides or not back) and inside(p, z.polygon)}
    return next((kind for kind in ("critical", "removed", "hidden", "seen") if kind in kinds), "back" if back else "seen")


def asymmetry(g: Instrument, step_mm: float = 10.0, least_mm: float = 0.3) -> list[tuple[float, float, float]]:
    """(x, bass side, treble side) of every station where the two sides' half widths differ by more than ``least_mm``."""
    found = []
    length = max(x for x, _ in g.body.outline)
    for k in range(1, int(length / step_mm)):
        x = k * step_mm
        up, down = _half_widths(g.body.outline, x)
        if abs(up - down) > least_mm:
            found.append((x, up, down))
    return found


def _half_widths(ring: Ring, x: float) -> tuple[float, float]:
    """How far the ring reaches above and below y 0 at a place along."""
    ys = [0.0]
    for k, (x1, y1) in enumerate(ring):
        x0, y0 = ring[k - 1]
        if (x0 - x) * (x1 - x) <= 0 and x0 != x1:
            ys.append(y0 + (y1 - y0) * (x - x0) / (x1 - x0))
    return max(ys), -min(ys)


def tight_corners(ring: Ring, cutter_mm: float) -> list[tuple[Point, float]]:
    """(place, radius) of inside corners that are tighter than a cutter of a radius; sharp ones have radius 0."""
    found = []
    count = len(ring)
    for k in range(count):
        a, b, c = ring[k - 1], ring[k], ring[(k + 1) % count]
        turn = (b[0] - a[0]) * (c[1] - b[1]) - (b[1] - a[1]) * (c[0] - b[0])
        if turn >= -1e-9:  # convex, or straight
            continue
        radius = _radius(a, b, c)
        if radius < cutter_mm - 1e-6:
            found.append((b, radius))
    return found


def _radius(a: Point, b: Point, c: Point) -> float:
    """Radius of the circle through three points; 0 at a corner whose legs are long beside it."""
    from math import dist

    p, q, r = dist(a, b), dist(b, c), dist(a, c)
    twice = abs((b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]))
    if twice < 1e-9:
        return float("inf")
    radius = p * q * r / (2 * twice)
    sharp = r < 0.94 * (p + q) and max(p, q) > 2.0
    return 0.0 if sharp else radius
