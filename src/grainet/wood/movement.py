"""How wide wood grows and shrinks with moisture. Source: Wood Handbook's dimensional-change relation."""

from __future__ import annotations

import math

from grainet.wood.moisture import FIBRE_SATURATION_PCT


def shrinkage_across_face(tangential_pct: float, radial_pct: float, ring_angle_deg: float) -> float:
    """Shrinkage in % across a face whose rings stand at an angle: St cos^2 a + Sr sin^2 a."""
    a = math.radians(ring_angle_deg)
    return tangential_pct * math.cos(a) ** 2 + radial_pct * math.sin(a) ** 2


def width_change_mm(width_mm: float, from_pct: float, to_pct: float, shrinkage_pct: float) -> float:
    """Change of width in mm (negative: narrower) from one moisture to another; ``width_mm`` is at the first."""
    m1, m2 = min(from_pct, FIBRE_SATURATION_PCT), min(to_pct, FIBRE_SATURATION_PCT)
    return width_mm * (m2 - m1) / (3000 / shrinkage_pct - 30 + m1)
