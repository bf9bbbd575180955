"""What the outline's screen shows and does, worked out without a window: other sources of lines, both sides against one another, zones."""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from grainet.design.clip import area_mm2
from grainet.design.instrument import Instrument
from grainet.design.outline_body import asymmetry, body_from, inside, tight_corners
from grainet.design.outline_edit import blended, pulled, share_near
from grainet.design.part import Zone, ZoneKind
from grainet.design.parts import drawable
from grainet.wood.piece import Piece
from grainet.wood.units import LengthStyle, tell_length
from grainet.wood.value import BadEntry, Point, Ring

LETTERS = "BCDEFGH"  # A is the outline's own curve
CUTTER_MM = 6.0  # radius of the cutter that inside corners are held against; the smallest one of most shops
ALIKE_MM = 0.3
ZONE_WORDS: tuple[tuple[ZoneKind, str], ...] = (
    ("seen", "seen"), ("hidden", "covered"), ("removed", "cut away"), ("critical", "bears load"),
)  # fmt: skip
LEAST_ZONE_MM = 4.0
AROUND, MOST_PX = 0.03, 2400.0  # of the length, what ground is looked at around a board in its photo; px along it


@dataclass(frozen=True)
class Source:
    """Lines from elsewhere: ``loops`` as they were read, ``rim`` which of them is the body's; ``told`` says what was read of them."""

    name: str
    told: str
    loops: tuple[tuple[Ring, str], ...]
    centre: tuple[Point, Point] | None = None
    rim: int = 0
    zones: bool = True  # whether its loops within the rim are zones

    @property
    def figures(self) -> dict[str, Any]:
        """The body's figures by this source, tail at 0. Raises BadEntry for a rim of a size that no body has."""
        ring, name = self.loops[self.rim]
        within = [
            one
            for k, one in enumerate(self.loops)
            if k != self.rim and abs(area_mm2(one[0])) < abs(area_mm2(ring)) and _held(one[0], ring)
        ]
        found = body_from([(ring, name), *within], self.centre)
        return found if self.zones else {"body.outline": found["body.outline"]}

    @property
    def ring(self) -> Ring:
        """Its rim in the body's frame. Raises BadEntry."""
        return tuple((x, y) for x, y in self.figures["body.outline"])


def _held(ring: Ring, rim: Ring) -> bool:
    xs, ys = zip(*ring)
    return inside(((min(xs) + max(xs)) / 2, (min(ys) + max(ys)) / 2), rim)


def from_drawing(path: Path) -> Source:
    """Lines out of a DXF or SVG file. Raises Unusable, and BadEntry."""
    from grainet.exchange.outline_read import read_outlines

    drawing = read_outlines(path)
    loops = tuple((loop.ring, loop.name) for loop in drawing.loops)
    if not loops:
        gaps = "; ".join(gap.text for gap in drawing.gaps[:2])
        raise BadEntry(f"{path.name} has no closed outline" + (f": {gaps}." if gaps else "."))
    rim = max(range(len(loops)), key=lambda k: abs(area_mm2(loops[k][0])))
    open_ = f"; {drawing.gaps[0].text}" if drawing.gaps else ""
    told = f"{len(loops)} closed outlines, {drawing.units}{open_}"
    return Source(path.name, told, loops, drawing.centre, rim)


def from_picture(path: Path, length_mm: float) -> Source:
    """The silhouette in a picture, scaled to a length, since a picture alone has no scale. Raises BadEntry."""
    import cv2
    import numpy as np

    from grainet.picture.trace import silhouette

    try:
        image = cv2.imdecode(np.frombuffer(path.read_bytes(), np.uint8), cv2.IMREAD_COLOR)
    except OSError as fault:
        raise BadEntry(f"{path.name} cannot be read ({fault.strerror}).") from None
    if image is None:
        raise BadEntry(f"{path.name} is no picture that can be read; needs a PNG or JPEG.")
    ring = silhouette(image, 1.0)
    xs, ys = zip(*ring)
    scale = length_mm / max(max(xs) - min(xs), max(ys) - min(ys), 1e-6)
    told = f"traced, scaled to {length_mm:g} long as this body is"
    return Source(path.name, told, ((tuple((x * scale, y * scale) for x, y in ring), "traced"),), zones=False)


def from_true_photo(image: Any, piece: Piece) -> Source:
    """The outline of a board or template out of its own face photo, which was made true. Raises BadEntry."""
    from grainet.picture.reading import map_of
    from grainet.picture.rectify import warp
    from grainet.picture.trace import silhouette

    photo = piece.photo("face1")
    if photo is None:
        raise BadEntry(f"No. {piece.id} has no photo of its face; take one and make it true first (Ctrl+Shift+F).")
    x0, y0, x1, y1 = piece.extents
    around = AROUND * max(x1 - x0, y1 - y0)
    u, v = photo.shift_mm
    rect = (x0 - around - u, y0 - around - v, x1 + around - u, y1 + around - v)
    scale = min(2.0, MOST_PX / (rect[2] - rect[0]))
    ring = silhouette(warp(image, map_of(photo), rect, scale), scale)
    return Source(f"No. {piece.id}, photo", "traced out of its made-true photo", ((ring, "traced"),), zones=False)


# changes --------------------------------------------------------------------------------------------------------------
def with_outline(g: Instrument, ring: Ring) -> Instrument:
    """The instrument with another outline. Raises BadEntry, and ValidationError where lines cross."""
    return drawable(g.with_figure("body.outline", [list(p) for p in ring]))


def with_handle_moved(g: Instrument, at: Point, dx_mm: float, dy_mm: float, *, both_sides: bool) -> Instrument:
    """The instrument with the outline pulled at a place. Raises as ``with_outline``."""
    ring = g.body.outline
    return with_outline(g, pulled(ring, share_near(ring, *at), dx_mm, dy_mm, both_sides=both_sides))


def with_source(g: Instrument, source: Source, stretch: tuple[Point, Point] | None) -> Instrument:
    """The instrument with all of a source's lines, or a stretch of them between two places, counter-clockwise. Raises BadEntry."""
    if stretch is None:
        return drawable(g.with_figures(source.figures))
    ring = g.body.outline
    first, last = (share_near(ring, *p) for p in stretch)
    return with_outline(g, blended(ring, source.ring, first, last))


def with_zone(g: Instrument, kind: ZoneKind, corners: tuple[Point, Point]) -> Instrument:
    """The instrument with a zone between two corners. Raises BadEntry for one that is too small or beside the body."""
    (x0, y0), (x1, y1) = corners
    x0, x1 = sorted((x0, x1))
    y0, y1 = sorted((y0, y1))
    if x1 - x0 < LEAST_ZONE_MM or y1 - y0 < LEAST_ZONE_MM:
        raise BadEntry(f"A zone needs {LEAST_ZONE_MM:g} mm both ways; drag from one corner to the other.")
    if not inside(((x0 + x1) / 2, (y0 + y1) / 2), g.body.outline):
        raise BadEntry("A zone's middle must lie on the body.")
    ring = tuple((round(x, 1), round(y, 1)) for x, y in ((x0, y0), (x1, y0), (x1, y1), (x0, y1)))
    word = dict(ZONE_WORDS)[kind]
    made = Zone(kind=kind, polygon=ring, name=word)
    return _with_zones(g, (made, *g.body.zones))


def without_zone(g: Instrument, number: int) -> Instrument:
    """The instrument without one of its zones."""
    return _with_zones(g, tuple(z for k, z in enumerate(g.body.zones) if k != number))


def _with_zones(g: Instrument, zones: tuple[Zone, ...]) -> Instrument:
    return g.with_figure("body.zones", [z.model_dump(mode="json") for z in zones])


def zone_under(g: Instrument, at: Point) -> int | None:
    """The number of the smallest zone at a place; None where only the rest is."""
    found = [(abs(area_mm2(z.polygon)), k) for k, z in enumerate(g.body.zones) if z.polygon != "rest" and inside(at, z.polygon)]
    return min(found)[1] if found else None


# what is seen of it -----------------------------------------------------------------------------------------------------
@dataclass(frozen=True)
class Audit:
    """Both sides against one another at every 10 mm, bass less treble, and inside corners that a cutter does not reach."""

    apart: tuple[tuple[float, float], ...]
    corners: tuple[tuple[Point, float], ...]

    def sentences(self, style: LengthStyle = "mm") -> list[tuple[str, bool]]:
        """(words, whether a caution)."""
        worst = max(self.apart, key=lambda row: abs(row[1]), default=(0.0, 0.0))
        if abs(worst[1]) <= ALIKE_MM:
            found = [("Both sides are alike.", False)]
        else:
            by, where = tell_length(abs(worst[1]), style, ".1f"), tell_length(worst[0], style)
            found = [(f"The sides differ by up to {by}, at {where} from the tail: meant so, or turn on both sides.", True)]
        if self.corners:
            tight = min(r for _, r in self.corners)
            many = "one inside corner" if len(self.corners) == 1 else f"{len(self.corners)} inside corners"
            radius, cutter = tell_length(tight, style, ".1f"), tell_length(CUTTER_MM, style, "g")
            found.append((f"{many} of radius {radius}: a cutter of radius {cutter} leaves wood there to pare.", True))
        return found


def audit(g: Instrument) -> Audit:
    """What is to be seen to in an outline."""
    apart = tuple((x, up - down) for x, up, down in asymmetry(g, 10.0, 0.0))
    return Audit(apart, tuple(tight_corners(g.body.outline, CUTTER_MM)))


def loop_under(source: Source, at: Point) -> int | None:
    """The number of the smallest of a source's own loops at a place of its drawing; None beside all."""
    found = [(abs(area_mm2(ring)), k) for k, (ring, _) in enumerate(source.loops) if inside(at, ring)]
    return min(found)[1] if found else None


def chosen_rim(source: Source, number: int) -> Source:
    """A source with another of its loops as the rim. Raises BadEntry where that one is no body's."""
    made = replace(source, rim=number)
    _ = made.figures
    return made
