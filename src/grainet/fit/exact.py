"""Exact placement: whether a footprint may lie at a place, at which depth, and if not, why not.

Real polygons and real thickness; slower than a field and the last word before the independent verifier.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import affinity
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from grainet.fit.board_geometry import BoardGeometry
from grainet.fit.orientation import Orientation
from grainet.fit.tolerance import forbidden_depths, lowest_free
from grainet.wood.part_forecast import exact_flattening

Array = NDArray[np.float64]
LEAST_OVERLAP_MM2 = 1e-9
BY_HEIGHTS_MM = 0.05  # kept back where heights decide: the check looks for the two planes in a way of its own
LEAST_ON_METAL_MM2 = 1e-6  # less is touching, which is allowed
TINY = 5e-7  # mm by which a shape is taken smaller, so that a place without slack is found


@dataclass(frozen=True)
class ExactPlacement:
    """A place that holds: shift, depth of the cut from face 1, what is left over, and what bearable trouble it covers (mm2)."""

    x: float
    y: float
    z_top_mm: float
    spare_mm: float
    covered_mm2: float
    by_heights: bool = False  # flattened by the heights that were read over the bench, not by the loss chain


OF_LENGTHS = frozenset(
    {"length", "width", "thickness", "resaw", "crook", "metal"}
)  # misfits in whose sentence every figure is a length


@dataclass(frozen=True)
class Misfit:
    """Why a place does not hold, as a person would say it; ``short_mm`` where a size falls short."""

    rule: str
    text: str
    short_mm: float = 0.0


class Exact:
    """Answers for one orientation on one sheet; everything that does not depend on the place is worked out once."""

    def __init__(self, sheet: BoardGeometry, orientation: Orientation) -> None:
        self.sheet, self.orientation = sheet, orientation
        kit, part = sheet.kit, orientation.part
        self.flattening = sheet.flattening_mm(orientation.length, orientation.width)
        self.stack = kit.stack_mm(part.thickness_mm, part.leaves)
        step = part.thickness_mm + kit.leaf_loss_mm
        self.offsets = tuple(k * step for k in range(part.leaves))
        self.need_mm = self.stack + self.flattening + 2 * kit.skim_mm
        # where heights were read, what bow and twist take is known at each place, and may be nothing
        self.least_mm = self.stack + 2 * kit.skim_mm if sheet.heights_read else self.need_mm
        self.width_wanted = sheet.width_wanted_mm(orientation.length, orientation.width)
        self.metal_clear = kit.metal_clear_mm + (kit.kerf_mm.outline if kit.cutting == "outline" else 0.0)

    def size_trouble(self) -> Misfit | None:
        """What rules the whole piece out, wherever the part lies."""
        sheet, orientation, limit = self.sheet, self.orientation, self.sheet.kit.machines.resaw_height_mm
        if orientation.part.leaves > 1 and limit is not None and orientation.width > limit + 1e-9:
            return Misfit("resaw", f"{orientation.width:.1f} high to resaw, the saw takes {limit:.0f}", orientation.width - limit)
        if orientation.part.has_block and (trouble := self._block_trouble()) is not None:
            return trouble
        x0, y0, x1, y1 = sheet.usable.bounds if not sheet.usable.is_empty else (0.0, 0.0, 0.0, 0.0)
        if orientation.length > x1 - x0 + 1e-6:
            return Misfit(
                "length", f"{x1 - x0:.1f} long after trims, at least {orientation.length:.1f}", orientation.length - x1 + x0
            )
        if orientation.width > y1 - y0 + 1e-6:
            return Misfit(
                "width", f"{y1 - y0:.1f} wide after edging, at least {orientation.width:.1f}", orientation.width - y1 + y0
            )
        thickest = float(sheet.thickness.values.max()) if len(sheet.thickness.values) else sheet.thickness.least
        if self.least_mm > thickest + 1e-9:
            left = thickest - self.flattening - 2 * sheet.kit.skim_mm
            return Misfit(
                "thickness",
                f"{left:.1f} thick after flattening {orientation.length:.0f}, at least {self.stack:.1f}",
                self.stack - left,
            )
        return None

    def _block_trouble(self) -> Misfit | None:
        """Whether the block, with the wood that stays on, is larger than the whole piece."""
        x0, y0, x1, y1 = self.orientation.block_bounds
        for rule, has, wants, word in (
            ("length", self.sheet.length, x1 - x0, "long"),
            ("width", self.sheet.width, y1 - y0, "wide"),
        ):
            if wants > has + 1e-6:
                return Misfit(rule, f"{has:.1f} {word}, at least {wants:.1f} with what stays on", wants - has)
        return None

    def seat(self, x: float, y: float) -> ExactPlacement | Misfit:
        """The seat at a shift (x, y) mm, or the first trouble that it meets."""
        sheet = self.sheet
        ring = self.orientation.at(x, y)
        polygon = Polygon(ring)
        if not sheet.usable_with_tolerance.covers(polygon):
            return Misfit("outline", "reaches past the usable wood")
        block = affinity.translate(self.orientation.block, x, y) if self.orientation.part.has_block else polygon
        if block is not polygon and not sheet.outline_with_tolerance.covers(block):
            return Misfit("outline", "what stays on beyond it reaches past the piece")
        if sheet.metal is not None and bool(self.meets_metal(block)):
            what = f"nearer than {self.metal_clear:.0f} to metal" if self.metal_clear else "on metal"
            return Misfit("metal", what)
        if (short := self.width_wanted - sheet.least_chord(*polygon.bounds[::2])) > 1e-6:
            return Misfit(
                "crook", f"{self.width_wanted - short:.1f} wide, at least {self.width_wanted:.1f} with its crook", short
            )
        if (short := sheet.chord_short_mm(ring)) > 1e-6:
            return Misfit("crook", f"{short:.1f} too narrow somewhere along it, with its crook", short)
        spare = sheet.thickness.least_under(ring) - self.need_mm
        if spare < -1e-6:
            return self._by_heights(ring, polygon, x, y, spare)
        return self.depth(polygon, x, y, spare)

    def _by_heights(self, ring: Array, polygon: Polygon, x: float, y: float, spare: float) -> ExactPlacement | Misfit:
        """A place that the loss chain finds too thin: by the best pair of parallel planes in its own wood, where heights were read. How deep a
        flaw lies under planes that lean nobody can say, so one that is only borne at some depth is in the way."""
        if self.sheet.heights_read and spare + self.need_mm - self.least_mm >= -1e-6:
            thick = exact_flattening(self.sheet.piece, tuple((float(a), float(b)) for a, b in ring))
            over = -1.0 if thick is None else thick - self.least_mm - BY_HEIGHTS_MM
            spare = max(spare, over)
            if over >= 0:
                found = self.depth(polygon, x, y, 0.0, at_any_depth=True)
                return replace(found, spare_mm=over, by_heights=True) if isinstance(found, ExactPlacement) else found
        return Misfit("thickness", f"{spare + self.stack:.1f} thick after flattening, at least {self.stack:.1f}", -spare)

    def meets_metal(self, blocks: Any) -> Any:
        """Whether blocks (one, or an array) come nearer to metal than they may; with no clearance asked for, whether they lie on it."""
        metal = self.sheet.metal
        near = shapely.distance(metal, blocks) < self.metal_clear - 1e-9
        return near if self.metal_clear else near | (shapely.area(shapely.intersection(metal, blocks)) > LEAST_ON_METAL_MM2)

    def depth(
        self, polygon: Polygon, x: float, y: float, spare: float, *, at_any_depth: bool = False
    ) -> ExactPlacement | Misfit:  # fmt: skip
        """How deep to cut so that every zone bears what lies under it, given what is to spare; or what is in the way. ``at_any_depth``: what
        is not borne at every depth is in the way."""
        sheet, skim, part = self.sheet, self.sheet.kit.skim_mm, self.orientation.part
        intervals: list[tuple[float, float]] = []
        names: list[str] = []
        covered = 0.0
        for hazard in sheet.hazards:
            if not hazard.polygon.intersects(polygon):
                continue
            shape = shapely.transform(hazard.polygon, lambda c: c - (x, y))
            for patch in self.orientation.patches:
                overlap = patch.shape.intersection(shape).area
                if overlap <= LEAST_OVERLAP_MM2:
                    continue
                covered += overlap
                if any((k.defect, k.piece, k.zone) == (hazard.id, sheet.piece.id, patch.kind) for k in part.keep):
                    continue  # it is kept there on purpose
                found = forbidden_depths(
                    hazard,
                    patch.kind,
                    both_sides=patch.both_sides,
                    face_up=self.orientation.face_up,
                    thickness_mm=part.thickness_mm,
                    flattening_mm=self.flattening,
                    leaf_offsets_mm=self.offsets,
                )
                intervals += found
                names += [f"{hazard.kind.replace('_', ' ')} {hazard.id}" for _ in found]
        z = lowest_free(intervals, skim, skim + max(0.0, spare))
        if z is None or (at_any_depth and intervals):
            return Misfit("defect", " and ".join(dict.fromkeys(names)) + " in the way")
        return ExactPlacement(x, y, z, max(0.0, spare), covered)


def seats(exact: Exact, shifts: Array) -> list[ExactPlacement | None]:
    """Seats at many shifts at once, ``shifts`` of shape (n, 2) mm; None where the place does not hold.

    The cheap tests run on all polygons together; only what passes them is looked at one by one.
    """
    if not len(shifts):
        return []
    sheet = exact.sheet
    rings = exact.orientation.ring[None, :, :] + shifts[:, None, :]
    polygons = shapely.polygons(np.concatenate([rings, rings[:, :1]], axis=1))
    good = shapely.covers(sheet.usable_with_tolerance, polygons)
    blocks = polygons
    if exact.orientation.part.has_block:
        coords = np.asarray(exact.orientation.block.exterior.coords)
        blocks = shapely.polygons(coords[None, :, :] + shifts[:, None, :])
        good &= shapely.covers(sheet.outline_with_tolerance, blocks)
    if sheet.metal is not None:
        good &= ~exact.meets_metal(blocks)
    if exact.width_wanted:
        x0, x1 = exact.orientation.bounds[0] + shifts[:, 0], exact.orientation.bounds[2] + shifts[:, 0]
        good &= np.array([sheet.least_chord(a, b) >= exact.width_wanted - 1e-6 for a, b in zip(x0, x1)])
    found: list[ExactPlacement | None] = [None] * len(shifts)
    if sheet.by_chord and sheet.crooked:
        good &= np.array([bool(g) and sheet.chord_short_mm(ring) <= 1e-6 for g, ring in zip(good, rings)])
    left = np.flatnonzero(good)
    spares = sheet.thickness.least_under_many(exact.orientation.ring, shifts[left]) - exact.need_mm
    near = np.zeros(len(left), bool)
    for hazard in sheet.hazards:
        near |= shapely.intersects(hazard.polygon, polygons[left])
    for k, spare, troubled in zip(left, spares, near):
        x, y = float(shifts[k, 0]), float(shifts[k, 1])
        if spare < -1e-6:
            if sheet.heights_read and isinstance(by_heights := exact.seat(x, y), ExactPlacement):
                found[k] = by_heights
            continue
        if troubled:
            seat = exact.depth(polygons[k], x, y, float(spare))
            found[k] = seat if isinstance(seat, ExactPlacement) else None
        else:
            found[k] = ExactPlacement(x, y, sheet.kit.skim_mm, max(0.0, float(spare)), 0.0)
    return found


def inner_positions(shape: Polygon, room: BaseGeometry) -> BaseGeometry:
    """All shifts (x, y) at which ``shape`` lies within ``room``, exactly, as polygons in shift space (may be empty).

    The boundary shifts are the sums of each side of the room with each side of the reflected shape; what is left between
    them either fits everywhere or nowhere. Slack down to a micrometre survives, since the shape is taken that much smaller.
    """
    small = shape.buffer(-TINY, join_style="mitre")
    if small.is_empty or not isinstance(small, Polygon):
        return Polygon()
    part = np.asarray(small.exterior.coords)
    sides = _side_pairs(part)
    quads: list[BaseGeometry] = []
    for ring in _rings(room):
        quads += _sums(_side_pairs(np.asarray(ring.coords)), sides)
    x0, y0, x1, y1 = room.bounds
    px0, py0, px1, py1 = small.bounds
    if x1 - px1 <= x0 - px0 or y1 - py1 <= y0 - py0:
        return Polygon()
    frame = shapely.box(x0 - px0, y0 - py0, x1 - px1, y1 - py1)
    free = frame - shapely.union_all(quads)
    shapely.prepare(room)
    kept = []
    for cell in getattr(free, "geoms", [free]):
        if cell.is_empty:
            continue
        inside = cell.representative_point()
        if room.covers(shapely.transform(small, lambda c, p=inside: c + (p.x, p.y))):
            kept.append(cell)
    return shapely.union_all(kept) if kept else Polygon()


def _rings(room: BaseGeometry) -> list[BaseGeometry]:
    polygons = [g for g in getattr(room, "geoms", [room]) if isinstance(g, Polygon)]
    return [r for p in polygons for r in (p.exterior, *p.interiors)]


def _side_pairs(ring: Array) -> Array:
    return np.stack([ring[:-1], ring[1:]], axis=1)


def _sums(room_sides: Array, part_sides: Array) -> list[BaseGeometry]:
    """Parallelograms room side (+) reflected part side, and nothing for parallel sides but their line."""
    a, b = room_sides[:, None, 0], room_sides[:, None, 1]
    p, q = part_sides[None, :, 0], part_sides[None, :, 1]
    corners = np.stack([a - p, b - p, b - q, a - q], axis=2).reshape(-1, 4, 2)
    one, other = corners[:, 1] - corners[:, 0], corners[:, 3] - corners[:, 0]
    wide = np.abs(one[:, 0] * other[:, 1] - one[:, 1] * other[:, 0]) > 1e-9
    flat = corners[~wide]
    flat = flat[np.abs(np.ptp(flat, axis=1)).sum(axis=1) > 1e-9]
    lines = shapely.linestrings(np.stack([flat.min(axis=1), flat.max(axis=1)], axis=1))
    return [*shapely.polygons(corners[wide]), *shapely.buffer(lines, 1e-9, cap_style="flat")]
