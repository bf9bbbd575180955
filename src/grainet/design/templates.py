"""Templates of an instrument: the body, the neck's pocket or mortise, every cavity, each set off for a bearing and a cutter.

A bearing wider than its cutter keeps the cut away from the template's edge by (bearing - cutter) / 2: a template that is cut around is
that much smaller than its part, one that is cut within that much larger than its pocket. Source: SCIENCE.md, "Neck and blank arithmetic".
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass

from grainet.design import formulas
from grainet.design.clip import clipped
from grainet.design.drawing import board_half_mm, stations
from grainet.design.instrument import Instrument
from grainet.design.let_in import proud, recess_mm, top_outline
from grainet.wood.value import BadEntry, Ring


@dataclass(frozen=True)
class Template:
    """One template: ``ring`` is its own edge, mm in the body's frame, drawn on the show side; ``inside`` where it is cut within."""

    name: str
    ring: Ring
    inside: bool
    note: str


@dataclass(frozen=True)
class Pocket:
    """Where the neck sits in the body: its outline with the clearance, its depth at the mouth and at its end, and the wedge between them."""

    ring: Ring
    length_mm: float
    width_mm: float
    depth_mouth_mm: float
    depth_end_mm: float
    neck_in_it_mm: float  # how far the neck reaches into it

    @property
    def wedge_mm(self) -> float:
        """How much deeper the mouth is than the end: what the neck's angle makes over the length."""
        return self.depth_mouth_mm - self.depth_end_mm


def pocket_of(g: Instrument) -> Pocket | None:
    """The pocket of a bolt-on neck or the mortise of a set one; None where the neck runs through."""
    if g.kind == "through":
        return None
    at, clear = stations(g), g.joint.clearance_mm
    mouth = _mouth(g)
    end = mouth - g.joint.length_mm if g.kind == "bolt-on" else at.board_end - g.joint.length_mm
    narrow, wide = (board_half_mm(g, x) + clear for x in (mouth, max(end, at.board_end)))
    ring = ((end - clear, -wide), (mouth, -narrow), (mouth, narrow), (end - clear, wide))
    length = mouth - end
    fall = length * math.tan(math.radians(g.joint.angle_deg))
    return Pocket(
        ring, length, 2 * wide, g.joint.heel_mm, g.joint.heel_mm - fall, mouth - (at.board_end if g.kind == "bolt-on" else end)
    )


def _mouth(g: Instrument) -> float:
    """Where the body ends on its centre line, mm from the tail: there the neck comes out of it."""
    upper = clipped(g.body.outline, 1, 0.0, above=True)
    return max((x for x, y in upper if abs(y) < 1e-6), default=stations(g).body_end)


def templates_of(g: Instrument) -> list[Template]:
    """Every template, body first. Raises BadEntry where a set-off leaves nothing of one."""
    off = formulas.template_offset_mm(g.templates.bearing_mm, g.templates.cutter_mm)
    told = f"bearing {g.templates.bearing_mm:g}, cutter {g.templates.cutter_mm:g}: edge {abs(off):.2f} "
    words = {
        True: told + ("outside the pocket" if off >= 0 else "within the pocket"),
        False: told + ("within the part" if off >= 0 else "outside the part"),
    }
    return [
        Template(name, _set_off(name, ring, off if inside else -off), inside, f"{words[inside]}; {more}")
        for name, ring, inside, more in _edges(g)
    ]


def _edges(g: Instrument) -> Iterator[tuple[str, Ring, bool, str]]:
    """(name, finished edge, whether it is cut within, what more is said)."""
    yield "body", g.body.outline, False, "show side up"
    pocket = pocket_of(g)
    if pocket is not None:
        depth = f"{pocket.depth_mouth_mm:.1f} deep at the mouth"
        if abs(pocket.wedge_mm) > 0.05:
            depth += f", {pocket.depth_end_mm:.1f} at its end"
        if pocket.neck_in_it_mm < pocket.length_mm - 1.0:
            depth += f"; the neck reaches {pocket.neck_in_it_mm:.0f} of its {pocket.length_mm:.0f} into it"
        name = "pocket" if g.kind == "bolt-on" else "mortise"
        yield name, pocket.ring, True, f"{depth}, {g.joint.clearance_mm:g} of clearance a side; show side up"
    if deep := recess_mm(g):
        yield "recess", top_outline(g), True, f"{deep:g} deep; the top stands {proud(g.body.cap_mm, deep)}; show side up"
    for cavity in g.body.cavities:
        yield cavity.name, cavity.polygon, True, f"{cavity.depth_mm:g} deep; show side up"
    for zone in g.body.zones:
        if zone.kind == "removed" and zone.polygon != "rest" and zone.name not in {c.name for c in g.body.cavities}:
            yield zone.name or "routed", zone.polygon, True, "show side up"


def _set_off(name: str, ring: Ring, by_mm: float) -> Ring:
    """A ring grown (or shrunk) by a distance, corners of what grows rounded as a bearing rounds them. Raises BadEntry."""
    from shapely.geometry import Polygon

    if abs(by_mm) < 1e-9:
        return ring
    grown = Polygon(ring).buffer(by_mm, quad_segs=16)
    if grown.is_empty or grown.geom_type != "Polygon":
        raise BadEntry(f"The {name} is too small for a template that stands off by {abs(by_mm):.2f}; take a smaller bearing.")
    return tuple((round(x, 4), round(y, 4)) for x, y in list(grown.exterior.coords)[:-1])


# walls ------------------------------------------------------------------------------------------------------------------
@dataclass(frozen=True)
class Wall:
    """The least wood between two hollows, or a hollow and the rim, and where."""

    between: str
    mm: float
    at: tuple[float, float]


def walls_of(g: Instrument) -> list[Wall]:
    """Every wall between cavities, to the pocket and to the rim, thinnest first; hollows that run into one another have none."""
    from shapely.geometry import LinearRing, Polygon
    from shapely.ops import nearest_points

    hollows = [(c.name, Polygon(c.polygon)) for c in g.body.cavities]
    if recess_mm(g):
        hollows.append(("recess", Polygon(top_outline(g))))
    pocket = pocket_of(g)
    if pocket is not None:
        hollows.append(("pocket" if g.kind == "bolt-on" else "mortise", Polygon(pocket.ring)))
    rim = LinearRing(g.body.outline)
    found = []
    for k, (name, one) in enumerate(hollows):
        for other_name, other in hollows[k + 1 :]:
            if not one.intersects(other):
                at = nearest_points(one, other)[0]
                found.append(Wall(f"the {name} and the {other_name}", float(one.distance(other)), (at.x, at.y)))
        if name not in ("pocket", "mortise") and not one.intersects(rim):
            at = nearest_points(one, rim)[1]
            found.append(Wall(f"the {name} and the rim", float(one.distance(rim)), (at.x, at.y)))
    return sorted(found, key=lambda w: w.mm)
