"""What each use wants of its wood: size, moisture, rings, slope, density, troubles. House rules, all of them editable.

The defaults are ours; each says where it comes from. A weight rather than a ban where builders disagree.
"""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from grainet.wood.value import Value

UseId = Literal["body_half", "matched_top", "neck", "fretboard", "laminate_strip", "head_plate"]
USE_IDS: tuple[UseId, ...] = ("body_half", "matched_top", "neck", "fretboard", "laminate_strip", "head_plate")
Strictness = Literal["must", "weigh"]


class UseRule(Value):
    """One use and what it wants. Sizes are finished, in mm; a part of the job or build may bring sizes of its own."""

    use: UseId
    label: str
    length_mm: float = Field(gt=0)
    width_mm: float = Field(gt=0)
    thickness_mm: float = Field(gt=0)
    leaves: int = Field(default=1, ge=1)
    counted_as: str = "piece"
    allows_shows: bool = True
    allows_moves: bool = False
    hides_bites: bool = False
    moisture_over_pct: float = 1.5
    core_matters: bool = True
    least_ring_deg: float | None = None
    ring_strictness: Strictness = "weigh"
    most_slope_deg: float = 5.0
    density_kg_m3: tuple[float, float] = (0.0, 2000.0)
    most_cup_mm: float | None = None
    source: str = "house rule, shipped default"


SHIPPED_USES: tuple[UseRule, ...] = (
    UseRule(use="body_half", label="Body half", length_mm=470, width_mm=172, thickness_mm=44, counted_as="half",
            hides_bites=True, moisture_over_pct=2.0, most_slope_deg=10, density_kg_m3=(300, 850),
            source="two-piece body of 344 wide, jointed and planed"),
    UseRule(use="matched_top", label="Matched top", length_mm=470, width_mm=172, thickness_mm=7, leaves=2, counted_as="pair",
            moisture_over_pct=1.5, most_slope_deg=10, source="two leaves from one footprint, opened like a book"),
    UseRule(use="neck", label="Neck", length_mm=690, width_mm=70, thickness_mm=22, counted_as="neck", allows_shows=False,
            moisture_over_pct=1.0, least_ring_deg=60, ring_strictness="weigh", most_slope_deg=3, density_kg_m3=(520, 1000),
            source="bolt-on neck, head flat with the shaft; quarter preferred, flat allowed with a reason"),
    UseRule(use="fretboard", label="Fretboard", length_mm=485, width_mm=62, thickness_mm=6.5, counted_as="board",
            allows_shows=False, moisture_over_pct=1.0, most_slope_deg=5, density_kg_m3=(640, 1350),
            source="648 scale, 22 frets with overhang; hard enough to hold frets"),
    UseRule(use="laminate_strip", label="Laminate strip", length_mm=700, width_mm=58, thickness_mm=12, counted_as="strip",
            allows_shows=False, moisture_over_pct=1.0, most_slope_deg=4, density_kg_m3=(450, 1200),
            source="one member of a laminated neck, ripped from the board's width"),
    UseRule(use="head_plate", label="Head plate", length_mm=200, width_mm=82, thickness_mm=2.5, counted_as="plate",
            moisture_over_pct=2.0, most_slope_deg=15, most_cup_mm=2.0, source="covers a head of 190 x 78"),
)  # fmt: skip
