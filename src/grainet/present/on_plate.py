"""An instrument's outline over a photo of its opened or joined pair: slid along the seam, what it leaves at both ends and how the lines meet
along it, beside where it lay."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from grainet.design.instrument import Instrument
from grainet.design.joint_edge import joint_of
from grainet.design.let_in import top_outline
from grainet.design.part import Part
from grainet.design.shape import Array, as_array
from grainet.match.opened_photo import Measured, SeamLines
from grainet.present.match_view import straight_rim

CAP = "cap"
AS_PLANNED_MM = 6.0  # a seam that differs by no more from the outline is the one that was sawn to it


@dataclass(frozen=True)
class OnPlate:
    """Outlines beside a seam of so many mm, whose centre line begins ``tail_mm`` from the seam's end on the tail's side. ``rings`` as drawn:
    x from where the centre line begins at the tail, y away from the seam, each of shape (points, 2); ``long_mm`` is the centre line."""

    rings: tuple[Array, ...]
    long_mm: float
    seam_mm: float
    tail_mm: float
    tail_left: bool = True
    back: bool = False

    @property
    def centred_mm(self) -> float:
        """Where it begins with as much left at one end as at the other."""
        return round((self.seam_mm - self.long_mm) / 2, 1)

    @property
    def left_mm(self) -> tuple[float, float]:
        """What is left of the seam at the tail and at the other end; less than nothing where the centre line runs over the end."""
        return self.tail_mm, self.seam_mm - self.long_mm - self.tail_mm

    @property
    def reach(self) -> tuple[float, float]:
        """The stretch of the seam that it covers, mm from the first mark."""
        low = self.tail_mm if self.tail_left else self.left_mm[1]
        return low, low + self.long_mm

    def at(self, tail_mm: float) -> OnPlate:
        """The same with its tail elsewhere."""
        return replace(self, tail_mm=tail_mm)

    @property
    def off_mm2(self) -> float | None:
        """How much of it lies off the wood that was sawn to it, mm2; None where the seam is not as long as the plan has it, so that the wood
        is not what was planned."""
        if abs(self.seam_mm - self.long_mm) > AS_PLANNED_MM:
            return None
        from shapely import union_all
        from shapely.geometry import Polygon

        wood, now = (
            union_all([Polygon(ring).buffer(0) for ring in one.beside_seam()]) for one in (self.at(self.centred_mm), self)
        )
        return float(now.difference(wood).area)

    def beside_seam(self) -> list[Array]:
        """The outlines in the seam's own frame: from the first mark to the second, and up from it; a back seen as one sees it."""
        found = []
        for ring in self.rings:
            along, up = ring[:, 0] + self.tail_mm, ring[:, 1]
            if not self.tail_left:
                along, up = self.seam_mm - along, -up
            found.append(np.stack([along, -up if self.back else up], axis=1))
        return found


def rings_of(guitar: Instrument | None, part: Part) -> tuple[tuple[Array, ...], float]:
    """The outline that a pair of a part is for, x 0 where its centre line begins at the tail, and how long that line is, mm: of a top the
    instrument's own, else the part's outline and its mirror at the joint."""
    if guitar is not None and part.id.removeprefix(f"{guitar.id}.") == CAP and (covered := top_outline(guitar)):
        whole = as_array(covered)
        begins, ends = _on_centre(whole)
        return (whole - (begins, 0.0),), ends - begins
    ring = part.ring
    told = joint_of(part) if part.joint_edge is not None else None
    begins, ends, joint = told[:3] if told is not None else straight_rim(ring)
    half = ring - (begins, joint)
    return (half, half * (1.0, -1.0)), ends - begins


def _on_centre(ring: Array) -> tuple[float, float]:
    """Where an outline crosses its centre line, y 0, first and last."""
    ax, ay = ring[:, 0], ring[:, 1]
    bx, by = np.roll(ax, -1), np.roll(ay, -1)
    meets = ay * by <= 0
    share = np.where(by == ay, 0.0, ay / np.where(by == ay, 1.0, ay - by))
    xs = (ax + share * (bx - ax))[meets]
    return (float(xs.min()), float(xs.max())) if len(xs) else (float(ax.min()), float(ax.max()))


@dataclass(frozen=True)
class Cost:
    """How the lines meet along an outline where it lies now and where it lay; None where they are not seen."""

    now: Measured | None
    before: Measured | None


def cost_of(lines: SeamLines, now: OnPlate, before_mm: float) -> Cost:
    """What a slide does to the match, from the photo itself."""
    return Cost(lines.between(*now.reach), lines.between(*now.at(before_mm).reach))
