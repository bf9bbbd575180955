"""What is said of a body's shaping: what it lays open, how thick a top would hide it, and where the body is thinnest."""

from __future__ import annotations

import math

from grainet.design.checks import place_words
from grainet.design.depth_map import STEP_MM, DepthMap, Opened
from grainet.design.instrument import Instrument
from grainet.design.shaping import Shaping
from grainet.design.ways import way_of
from grainet.wood.units import LengthStyle, format_length
from grainet.wood.value import BadEntry, Point

CONTOUR_MM = 12.0  # how deep a contour is when it is drawn; a line says another
LEAST_LINE_MM = 20.0
CAUTIONS = ("through", "chamber", "floor")


def sentences_of(deep: DepthMap, style: LengthStyle) -> list[tuple[str, bool]]:
    """(words, whether a caution), the worst first; says so where nothing is laid open."""
    found = [(_opened(deep, one, style), one.what in CAUTIONS) for one in deep.opened()]
    if not any(one.what == "core" for one in deep.opened()) and deep.top.any() and deep.least_top_mm:
        left = deep.instrument.body.cap_mm - deep.least_top_mm
        found.append(
            (f"The top covers the core everywhere; {format_length(round(left, 1), style)} is left where it is thinnest.", False)
        )
    left, at = deep.least_left()
    found.append((f"{format_length(round(left, 1), style)} is left of the body where it is thinnest, {place_words(at)}.", False))
    return found


def _opened(deep: DepthMap, one: Opened, style: LengthStyle) -> str:
    where = place_words(one.at)
    if one.what == "core":
        hidden = format_length(round(deep.least_top_mm, 1), style)
        words = f"The core shows round the top, {wide_words(deep, style)}; a top thicker than {hidden} hides it."
        joint = deep.joint_shows_mm()
        if joint >= 2 * STEP_MM and way_of(deep.instrument, "body") != "one piece":
            words += f" Its joint shows along {format_length(round(joint), style)}."
        return words
    return {
        "through": f"Front and back meet: the body is cut through, {where}.",
        "chamber": f"The front breaks into the {one.name}, {where}.",
        "floor": f"The back breaks into the {one.name}, {where}.",
        "top": f"The top shows behind, {where}.",
    }[one.what]


def wide_words(deep: DepthMap, style: LengthStyle) -> str:
    """How wide the open core is at its widest, seen from the front: reckoned along the rim, measured on the map beyond a contour."""
    from scipy.ndimage import distance_transform_edt

    body = deep.instrument.body
    rims = [s for s in body.shaping if s.kind != "contour" and not s.back and s.deep_mm > body.cap_mm]
    wide = max((_ribbon_mm(s, body.cap_mm) for s in rims), default=0.0)
    if any(s.kind == "contour" and not s.back for s in body.shaping):
        wide = max(wide, 2 * STEP_MM * float(distance_transform_edt(deep.core_shows).max()))
    return f"up to {format_length(round(wide, 1), style)} wide"


def _ribbon_mm(one: Shaping, cap_mm: float) -> float:
    """How far in from the rim a cut along it is deeper than the top is thick."""
    share, reach = cap_mm / one.deep_mm, one.in_mm or one.deep_mm
    return reach * (1 - share if one.kind == "bevel" else 1 - math.acos(1 - 2 * share) / math.pi)


def with_contour(g: Instrument, ends: tuple[Point, Point], *, back: bool) -> Instrument:
    """The instrument with a contour that begins at a line. Raises BadEntry for a line that is too short."""
    (ax, ay), (bx, by) = ends
    if ((ax - bx) ** 2 + (ay - by) ** 2) ** 0.5 < LEAST_LINE_MM:
        raise BadEntry(f"A contour's line needs {LEAST_LINE_MM:g} mm; drag along the line where the cut begins.")
    line = ((round(ax, 1), round(ay, 1)), (round(bx, 1), round(by, 1)))
    deep = min(CONTOUR_MM, g.body.thickness_mm / 2)
    made = Shaping.model_validate({"kind": "contour", "deep_mm": deep, "line": line, **({"back": True} if back else {})})
    rows = [*g.body.shaping, made]
    return g.with_figure("body.shaping", [s.model_dump(mode="json", exclude_unset=True) for s in rows])
