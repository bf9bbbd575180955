"""Opening a resawn footprint like a book: which picture meets which at the seam, and how well the lines should meet.

Drift and quality follow the notes: each face drifts by d / tan a, quality from q = s cos a / ring width.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from grainet.kit.cut_kit import CutKit

Seam = Literal["near", "far"]
Show = Literal["sawn", "old"]
GOOD, FAIR = 0.1, 0.25


@dataclass(frozen=True)
class Opening:
    """One way to open two leaves: which edge meets at the seam and which faces show; forecasts in mm."""

    seam: Seam
    show: Show
    lost_mm: float
    drift_mm: float
    quality: Literal["closest", "fair", "poor"]
    sentence: str

    @property
    def key(self) -> str:
        """The name under which a choice is kept."""
        return f"{self.seam}-{self.show}"


def openings(kit: CutKit, leaf_mm: float, ring_angle_deg: float | None, ring_width_mm: float) -> list[Opening]:
    """The four openings of two neighbouring leaves. Sawn faces lost kerf and skims between them; old faces lie two leaves apart."""
    between = {"sawn": kit.kerf_mm.resaw + 2 * kit.resaw_skim_mm, "old": kit.kerf_mm.resaw + 2 * kit.resaw_skim_mm + 2 * leaf_mm}
    found = []
    for show in ("sawn", "old"):
        lost = between[show]
        drift, quality = drift_of(lost, ring_angle_deg, ring_width_mm)
        for seam in ("near", "far"):
            found.append(Opening(seam, show, lost, drift, quality, _sentence(quality, show)))
    return found


def drift_of(
    lost_mm: float, ring_angle_deg: float | None, ring_width_mm: float
) -> tuple[float, Literal["closest", "fair", "poor"]]:
    """How far rings miss each other at the seam, s / tan a, and the quality from q = s cos a / ring width."""
    angle = math.radians(max(3.0, ring_angle_deg if ring_angle_deg is not None else 30.0))
    drift = lost_mm / math.tan(angle)
    q = lost_mm * math.cos(angle) / ring_width_mm
    return drift, "closest" if q < GOOD else "fair" if q <= FAIR else "poor"


def _sentence(quality: str, show: str) -> str:
    words = {
        "closest": "The lines meet closely",
        "fair": "The lines step a little at the seam",
        "poor": "The lines will not pair; the figure still mirrors",
    }
    return words[quality] + ("" if show == "sawn" else "; the old faces keep their colour")
