"""How many clamps a glue-up needs, and whether the shop has them. Sources: notes on glue and clamps; the label in hand wins.

Count = the greater of coverage (a 45-degree cone from each clamp: spacing twice narrowest board + caul, at most 200 mm, ends within
half a spacing) and force (area x pressure / force of a clamp).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from grainet.kit.gluing import Clamp, Glue

MOST_SPACING_MM = 200.0
EPOXY_MPA = 0.1


@dataclass(frozen=True)
class ClampWish:
    """What a joint needs: clamps, their spacing in mm, the reach they need, pressure in MPa and whole force in kN."""

    count: int
    spacing_mm: float
    reach_mm: float
    pressure_mpa: float
    force_kn: float
    by: str  # "coverage" or "force"


def pressure_mpa(basic_sg: float, glue: Glue) -> float:
    """Pressure for a wood: 0.2 + 2 Gb MPa within 0.7 to 1.7 (notes); a gap-filling epoxy needs contact, 0.05 to 0.2."""
    if glue.fills_gaps and not glue.water_based:
        return EPOXY_MPA
    return min(1.7, max(0.7, 0.2 + 2 * basic_sg))


def clamps_wanted(
    joint_mm: float, height_mm: float, narrowest_mm: float, across_mm: float, basic_sg: float, glue: Glue, clamp_kn: float = 2.0,
    caul_mm: float = 20.0,
) -> ClampWish:  # fmt: skip
    """For an edge joint ``joint_mm`` long and ``height_mm`` high, the glued-up width ``across_mm``, the narrowest board given."""
    spacing = min(MOST_SPACING_MM, 2 * (narrowest_mm + caul_mm))
    by_cover = max(2, math.ceil(joint_mm / spacing - 1e-9))  # 152.4 at 50.8 is three, whatever the last bit says
    press = pressure_mpa(basic_sg, glue)
    force = joint_mm * height_mm * press / 1000
    by_force = math.ceil(force / clamp_kn - 1e-9) if clamp_kn > 0 else by_cover
    count = max(by_cover, by_force)
    return ClampWish(
        count, joint_mm / count, across_mm + 2 * caul_mm, press, force, "force" if by_force > by_cover else "coverage"
    )


def clamps_at_hand(clamps: tuple[Clamp, ...], reach_mm: float) -> int:
    """How many of the shop's clamps open far enough; tape and cauls do not count as clamps."""
    return sum(c.count for c in clamps if c.reach_mm >= reach_mm - 1e-9 and c.kind not in ("tape", "caul"))


def short_of_clamps(clamps: tuple[Clamp, ...], wish: ClampWish) -> str:
    """The sentence where the shop has too few, or empty."""
    have = clamps_at_hand(clamps, wish.reach_mm)
    if have >= wish.count:
        return ""
    return f"{wish.count} clamps wanted that open {wish.reach_mm:.0f}, {have} at hand: glue in stages, or borrow"
