"""Opening resawn leaves like a book: what lies between the faces that meet, and how far the lines will miss one another at the seam.

Each face drifts by d / tan a, so two faces that lost s between them miss by s / tan a; how alike they look falls steadily with
q = s cos a / ring width, the share of a ring that was lost. Raw likeness of two pictures swings once rings slip by half: it is measured
beside the forecast (``likeness``) and ranks nothing.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from grainet.kit.cut_kit import CutKit

Seam = Literal["near", "far"]
Show = Literal["sawn", "old"]
SEAMS: tuple[Seam, ...] = ("far", "near")
SHOWS: tuple[Show, ...] = ("sawn", "old")
HALF_ALIKE = 0.23  # of a ring: two faces that lost so much are half alike; measured on the solid-wood model, and kept as ours
FLATTEST_DEG = 3.0  # rings that lie flatter on the face miss by no figure worth telling
FIGURE_RANGE_MM = 15.0  # curl and flame change this slowly into the wood


@dataclass(frozen=True)
class Between:
    """What lies between the two faces that show: each term with its mm."""

    terms: tuple[tuple[str, float], ...]

    @property
    def lost_mm(self) -> float:
        """All of it."""
        return math.fsum(mm for _, mm in self.terms)


def between(kit: CutKit, show: Show, leaf_mm: float, *, outer_skim: bool = False) -> Between:
    """What lies between two neighbouring leaves' show faces. Sawn faces lost the kerf and a skim each, or the kerf alone where only the
    faces that do not show are skimmed; old faces lie two leaves further apart."""
    kerf, skim = kit.kerf_mm.resaw, kit.resaw_skim_mm
    if show == "sawn":
        return Between((("kerf", kerf), *(() if outer_skim else (("skim", skim), ("skim", skim)))))
    return Between((("kerf", kerf), ("skim", skim), ("skim", skim), ("leaf", leaf_mm), ("leaf", leaf_mm)))


@dataclass(frozen=True)
class Forecast:
    """How two faces that lost so much meet: the miss in mm, and how alike they look from 1 down to 0. None where the rings are not read."""

    lost_mm: float
    ring_angle_deg: float | None
    miss_mm: float | None
    alike: float | None

    def word(self, limit_mm: float) -> str:
        """One word for it."""
        if self.miss_mm is None:
            return "Not known"
        return "Close" if self.miss_mm <= limit_mm else "Misses" if self.miss_mm <= 4 * limit_mm else "Far off"


def forecast(lost_mm: float, ring_angle_deg: float | None, ring_mm: float, figured: float = 0.0) -> Forecast:
    """The forecast for rings that meet the face at an angle and are so wide. ``figured`` 0..1: how strongly curl or flame draws the eye,
    which forgives what the rings do."""
    if ring_angle_deg is None:
        return Forecast(lost_mm, None, None, None)
    angle = math.radians(max(FLATTEST_DEG, min(90.0, ring_angle_deg)))
    share = lost_mm * math.cos(angle) / ring_mm
    rings = 1 / (1 + (share / HALF_ALIKE) ** 2)
    figure = 1 / (1 + (lost_mm / FIGURE_RANGE_MM) ** 2)
    return Forecast(lost_mm, ring_angle_deg, lost_mm / math.tan(angle), (1 - figured) * rings + figured * figure)


def angle_along(ends: tuple[float | None, float | None] | None, share: float) -> float | None:
    """The ring angle part of the way from the marked end (0) to the far end (1), straight between what was read at both; the one that was
    read where only one was."""
    if ends is None or ends[0] is None or ends[1] is None:
        return next((a for a in ends or () if a is not None), None)
    return ends[0] + (ends[1] - ends[0]) * max(0.0, min(1.0, share))
