"""One piece made ready for planning: where a footprint may lie at all, what is in the way and how deep, how thick it is.

Works on the kit's allowances; knows nothing of parts.
"""

from __future__ import annotations

import itertools
import math
from dataclasses import dataclass
from functools import cached_property

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import affinity
from shapely.geometry import MultiPolygon, Polygon, box
from shapely.geometry.base import BaseGeometry

from grainet.design.part import Part
from grainet.design.shape import as_array
from grainet.fit.block import swept
from grainet.kit.cut_kit import CutKit
from grainet.wood.defects import GROWING, Defect, Family
from grainet.wood.flatness import crook_loss, flattening_links
from grainet.wood.outline import is_plain_box
from grainet.wood.piece import Piece
from grainet.wood.thickness import ThicknessField

Array = NDArray[np.float64]
TOLERANCE_MM = 1e-6
LEAST_HEIGHTS = 3  # places: fewer say nothing of how a face lies


@dataclass(frozen=True)
class Hazard:
    """A defect as planning sees it: its grown outline and the depths from face 1 between which it lies, in mm."""

    id: str
    kind: str
    family: Family
    polygon: BaseGeometry
    top_mm: float
    bottom_mm: float


def grown_along(polygon: Polygon, growth_mm: float, ends_closed: tuple[bool, bool] | None) -> BaseGeometry:
    """A crack's outline lengthened by ``growth_mm`` beyond both ends of its longest axis, but not past a closed end."""
    before = 0.0 if ends_closed and ends_closed[0] else growth_mm
    after = 0.0 if ends_closed and ends_closed[1] else growth_mm
    if before == after == 0:
        return polygon
    ux, uy = _longest_axis(polygon)
    grown: BaseGeometry = polygon
    for length in (-before, after):
        if length:
            grown = shapely.union_all([grown, *swept(polygon, ux * length, uy * length)])
    return grown


def _longest_axis(polygon: Polygon) -> tuple[float, float]:
    """Unit vector along the longest side of the least enclosing rectangle, pointing away from the marked end."""
    frame = polygon.minimum_rotated_rectangle
    if not isinstance(frame, Polygon):
        return 1.0, 0.0
    corners = list(frame.exterior.coords)
    sides = [(b[0] - a[0], b[1] - a[1]) for a, b in itertools.pairwise(corners)]
    dx, dy = max(sides, key=lambda s: math.hypot(*s))
    if dx < 0 or (abs(dx) < 1e-9 and dy < 0):
        dx, dy = -dx, -dy
    size = math.hypot(dx, dy) or 1.0
    return dx / size, dy / size


def with_clean_up(footprint: Polygon, part: Part, kit: CutKit) -> Polygon:
    """A footprint with what is cleaned off its sawn long sides and ends where the part asks for it; nobody else may lie there."""
    shape: BaseGeometry = footprint
    if not part.clean:
        return footprint
    for dx, dy in ((kit.trim_mm, 0.0), (0.0, kit.edge_mm)):
        if dx or dy:
            rings = getattr(shape, "geoms", [shape])
            shape = shapely.union_all([shape, *(g for r in rings for sign in (-1, 1) for g in swept(r, sign * dx, sign * dy))])
    return shape if isinstance(shape, Polygon) else shape.convex_hull


class BoardGeometry:
    """A piece as the planner lays parts on it. ``left``: what of it may be used at all, where some is sawn off, taken or kept already."""

    def __init__(self, piece: Piece, kit: CutKit, *, by_chord: bool = False, left: BaseGeometry | None = None) -> None:
        self.piece, self.kit, self.left = piece, kit, left
        self.by_chord = by_chord  # a crook is asked about at each place along, as version 2 of a job has it
        self.outline = Polygon(piece.outline)
        self.x0, self.y0, self.x1, self.y1 = self.outline.bounds
        self.thickness = ThicknessField.of(piece)
        self.metal = shapely.union_all([Polygon(d.polygon) for d in piece.live_metal]) if piece.live_metal else None

    @property
    def length(self) -> float:
        """Extent of the usable wood along, mm."""
        return float(self.x1 - self.x0)

    @property
    def width(self) -> float:
        """Extent of the usable wood across, mm."""
        return float(self.y1 - self.y0)

    @cached_property
    def usable(self) -> Polygon | MultiPolygon:
        """Where a footprint may lie by margin, edge and trim alone (they add), and by what is left: a side that a saw has made counts as
        trimmed."""
        return self._usable_whole if self.left is None else _polygons_only(self._usable_whole & self.left)

    @cached_property
    def _usable_whole(self) -> Polygon | MultiPolygon:
        kit = self.kit
        if is_plain_box(self.piece.outline):  # the same answer, many times sooner
            along, across = kit.trim_mm + kit.margin_mm, kit.edge_mm + kit.margin_mm
            if self.length <= 2 * along or self.width <= 2 * across:
                return Polygon()
            return box(self.x0 + along, self.y0 + across, self.x1 - along, self.y1 - across)
        room: BaseGeometry = self.outline
        if kit.margin_mm:
            room = room.buffer(-kit.margin_mm, join_style="mitre", mitre_limit=20)
        if kit.edge_mm:
            steps = max(1, math.ceil(kit.edge_mm / 2))  # the whole way up and down must be wood, not only its ends
            moved = [affinity.translate(room, 0, side * kit.edge_mm * k / steps) for k in range(1, steps + 1) for side in (-1, 1)]
            room = shapely.intersection_all([room, *moved])
        inset = kit.trim_mm + kit.margin_mm
        if inset:
            room = room & box(self.x0 + inset, self.y0 - 1, self.x1 - inset, self.y1 + 1)
        return _polygons_only(room)

    @cached_property
    def usable_with_tolerance(self) -> BaseGeometry:
        """The usable wood grown by what counts as equal, so that touching its rim is allowed."""
        grown = self.usable.buffer(TOLERANCE_MM / 2, join_style="mitre")
        shapely.prepare(grown)
        return grown

    @cached_property
    def outline_with_tolerance(self) -> BaseGeometry:
        """The whole piece grown by what counts as equal: a block may reach its rim."""
        room = self.outline if self.left is None else self.outline & self.left
        grown = room.buffer(TOLERANCE_MM / 2, join_style="mitre")
        shapely.prepare(grown)
        return grown

    @cached_property
    def hazards(self) -> tuple[Hazard, ...]:
        """Everything but live metal, which is kept clear of by distance."""
        return tuple(self._hazard(d) for d in self.piece.defects if not d.live_metal)

    def _hazard(self, defect: Defect) -> Hazard:
        polygon = Polygon(defect.polygon)
        shape = grown_along(polygon, self.kit.growth_mm, defect.ends_closed) if defect.kind in GROWING else polygon
        top, bottom = -math.inf, math.inf  # from face 1 on it lies on that face too: an unplaned show side shows it
        if defect.depth_mm is not None and defect.face == "1":
            bottom = defect.depth_mm
        elif defect.depth_mm is not None and defect.face == "2":
            ring = np.asarray(_ring_of(shape))
            top = self.thickness.least_under(ring) - defect.depth_mm
        return Hazard(defect.id, defect.kind, defect.family, shape, top, bottom)

    @cached_property
    def heights_read(self) -> bool:
        """Whether heights of face 1 over a flat bench were read in enough places to know how a footprint's own wood lies."""
        return sum(s.top_mm is not None for s in self.piece.stations) >= LEAST_HEIGHTS

    def flattening_mm(self, part_length: float, part_width: float) -> float:
        """What bow, cup and rocking take from the thickness of a footprint of these extents."""
        return sum(
            link.takes_mm for link in flattening_links(self.piece.flatness, part_length, part_width, self.length, self.width)
        )

    def width_wanted_mm(self, part_length: float, part_width: float) -> float:
        """Least width that the piece must have over the part's length; 0 where it has no crook, or its outline shows it: then the outline
        decides, and a half that fits a tapering board askew fits."""
        flat = self.piece.flatness
        if self.by_chord or not self.crooked:
            return 0.0
        return part_width + crook_loss(flat, part_length, self.length) + 2 * self.kit.edge_mm

    @property
    def crooked(self) -> bool:
        """Whether it has a crook that its outline does not show."""
        flat = self.piece.flatness
        return flat.crook_mm > 0 and not flat.crook_in_outline and not self.piece.crook_in_outline

    def chord_short_mm(self, ring: Array) -> float:
        """By how much a part is too wide somewhere along its length, its own width there, the crook over its length and two edges together;
        0 or less where it fits, or the rule does not hold here. ``ring`` as it lies, shape (n, 2)."""
        if not (self.by_chord and self.crooked):
            return 0.0
        x0, x1 = float(ring[:, 0].min()), float(ring[:, 0].max())
        xs, widths = self.chords
        places = np.unique(np.concatenate([ring[:, 0], xs[(xs > x0) & (xs < x1)], np.linspace(x0, x1, 40)]))
        inside = np.clip(places, x0 + 1e-7, x1 - 1e-7)
        own = _longest_runs_across(ring, inside)
        extra = crook_loss(self.piece.flatness, x1 - x0, self.length) + 2 * self.kit.edge_mm
        return float((own + extra - np.interp(places, xs, widths)).max())

    @cached_property
    def chords(self) -> tuple[Array, Array]:
        """Stations xs and the piece's width there (longest run across), between which it is straight."""
        if is_plain_box(self.piece.outline):
            return np.array([self.x0, self.x1]), np.full(2, self.width)
        ring = as_array(self.piece.outline)
        xs = np.unique(np.concatenate([ring[:, 0], np.linspace(self.x0, self.x1, 40)]))
        just_inside = np.clip(xs, self.x0 + 1e-7, self.x1 - 1e-7)
        return xs, _longest_runs_across(ring, just_inside)

    def least_chord(self, from_x: float, to_x: float) -> float:
        """Least width of the piece between two places along it, in mm."""
        xs, widths = self.chords
        inside = widths[(xs >= from_x) & (xs <= to_x)]
        ends = np.interp([from_x, to_x], xs, widths)
        return float(min(ends.min(), inside.min() if len(inside) else math.inf))


def _longest_runs_across(ring: Array, xs: Array) -> Array:
    """The longest run across a polygon at each of some places along it; ``ring`` (n, 2), ``xs`` (m,), in mm."""
    x0, y0 = ring[:, 0], ring[:, 1]
    x1, y1 = np.roll(x0, -1), np.roll(y0, -1)
    at = xs[:, None]
    crosses = (x0 > at) != (x1 > at)
    ys = np.where(crosses, y0 + (at - x0) / np.where(x1 == x0, 1, x1 - x0) * (y1 - y0), np.inf)
    ys = np.sort(ys, axis=1)[:, : 2 * int(crosses.sum(axis=1).max(initial=0) // 2)]
    with np.errstate(invalid="ignore"):
        runs = ys[:, 1::2] - ys[:, 0::2]  # of what is not there, infinity less infinity
    return np.asarray(np.nan_to_num(runs, nan=0.0, posinf=0.0).max(axis=1, initial=0.0))


def _ring_of(shape: BaseGeometry) -> list[tuple[float, float]]:
    outer = shape.convex_hull if not isinstance(shape, Polygon) else shape
    return list(outer.exterior.coords)[:-1]


def _polygons_only(shape: BaseGeometry) -> Polygon | MultiPolygon:
    if isinstance(shape, (Polygon, MultiPolygon)):
        return shape
    return MultiPolygon([g for g in getattr(shape, "geoms", []) if isinstance(g, Polygon)])
