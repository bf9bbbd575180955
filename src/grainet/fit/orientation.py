"""The ways in which a part may lie: turned, tilted, mirrored, shown on either face, with its zones worked out to their order."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import Any

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from grainet.design.part import ZONE_ORDER, Part, ZoneKind
from grainet.design.shape import as_array, extents, is_rectangle, is_turned_over, placed
from grainet.fit.block import block_of

Array = NDArray[np.float64]


@dataclass(frozen=True)
class ZonePatch:
    """One zone of a part as it lies: kind, outline about the part's own origin, and whether both sides are seen."""

    kind: ZoneKind
    shape: BaseGeometry
    both_sides: bool


@dataclass(frozen=True, eq=False)
class Orientation:
    """One way of lying, about the part's own origin; placing it adds a shift in x and y."""

    part: Part
    angle_deg: float
    mirror: bool
    face_up: str

    @property
    def turned_over(self) -> bool:
        """Whether the outline as drawn lies mirrored on face 1: the part is a mirror image, or its show side lies at face 2, not both."""
        return is_turned_over(mirror=self.mirror, face_up=self.face_up)

    @cached_property
    def ring(self) -> Array:
        """The outline in this way of lying, at no shift: shape (points, 2), mm."""
        return placed(self.part.ring, 0, 0, self.angle_deg, turned_over=self.turned_over)

    @cached_property
    def polygon(self) -> Polygon:
        """The same as a polygon."""
        return Polygon(self.ring)

    @cached_property
    def block(self) -> Polygon:
        """What is sawn for it, at no shift: the outline, and the wood that stays on beyond it."""
        if not self.part.has_block:
            return self.polygon
        over, angle = self.turned_over, self.angle_deg
        return shapely.transform(block_of(self.part), lambda ring: placed(ring, 0, 0, angle, turned_over=over))

    @cached_property
    def block_bounds(self) -> tuple[float, float, float, float]:
        """Extents of the block at no shift, mm."""
        return self.bounds if not self.part.has_block else self.block.bounds

    @cached_property
    def bounds(self) -> tuple[float, float, float, float]:
        """Least x, least y, most x and most y at no shift, mm."""
        return extents(self.ring)

    @property
    def length(self) -> float:
        """Extent along the board, mm."""
        return self.bounds[2] - self.bounds[0]

    @property
    def width(self) -> float:
        """Extent across the board, mm."""
        return self.bounds[3] - self.bounds[1]

    @cached_property
    def rectangular(self) -> bool:
        """Whether it fills its own extents."""
        return is_rectangle(self.ring)

    @cached_property
    def patches(self) -> tuple[ZonePatch, ...]:
        """The zones, each without what a stricter one covers; wood that none covers is seen."""
        return zone_patches(self.part, lambda ring: placed(ring, 0, 0, self.angle_deg, turned_over=self.turned_over))

    def at(self, x: float, y: float) -> Array:
        """The polygon placed, computed as the contract writes it, shape (n, 2)."""
        return placed(self.part.ring, x, y, self.angle_deg, turned_over=self.turned_over)


def zone_patches(part: Part, move: Any) -> tuple[ZonePatch, ...]:
    """Patches of a part's zones after ``move``, an array function (n, 2) -> (n, 2)."""
    left: BaseGeometry = Polygon(move(part.ring))
    rest = [z for z in part.zones if z.polygon == "rest"]
    patches: list[ZonePatch] = []
    for kind in ZONE_ORDER:
        for zone in part.zones:
            if zone.kind != kind or zone.polygon == "rest":
                continue
            shape = left & Polygon(move(as_array(zone.polygon)))
            if shape.area > 0:
                patches.append(ZonePatch(kind, shape, zone.both_sides))
                left = left - shape
    if left.area > 0:
        patches.append(ZonePatch(rest[0].kind if rest else "seen", left, rest[0].both_sides if rest else False))
    return tuple(patches)


def orientations_of(part: Part, tilts_deg: Iterable[float] = (0.0,)) -> list[Orientation]:
    """Every distinct way of lying: turns x tilts within the part's tilt x mirror x face up, twins left out."""
    return list(_orientations(part, tuple(tilts_deg)))


@lru_cache(maxsize=512)
def _orientations(part: Part, tilts_deg: tuple[float, ...]) -> tuple[Orientation, ...]:
    found: list[Orientation] = []
    seen: set[tuple[object, ...]] = set()
    for turn in part.turns_deg:
        for tilt in tilts_deg:
            if abs(tilt) > part.tilt_deg + 1e-9:
                continue
            for face_up in dict.fromkeys(part.faces_up):
                for mirror in (False, True) if part.mirror else (False,):
                    one = Orientation(part, (turn + tilt) % 360, mirror, face_up)
                    if (key := _looks(one)) not in seen:
                        seen.add(key)
                        found.append(one)
    return tuple(found)


def _looks(one: Orientation) -> tuple[object, ...]:
    """What tells two ways of lying apart: outline and zones about their extents, and the face that shows."""
    x0, y0, _, _ = one.bounds

    def points(shape: BaseGeometry) -> frozenset[tuple[float, float]]:
        coords = shapely.get_coordinates(shape)
        return frozenset((round(float(x - x0), 4) + 0.0, round(float(y - y0), 4) + 0.0) for x, y in coords)

    zones = frozenset((p.kind, p.both_sides, points(p.shape)) for p in one.patches)
    return points(one.polygon), zones, one.face_up
