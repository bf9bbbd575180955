"""The shop profile: what sawing takes, the climate, the house rules, and how the window shows lengths and light."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from grainet.kit.cut_kit import CutKit, Kerfs, Machines
from grainet.kit.uses import SHIPPED_USES, UseRule
from grainet.wood.figure import HOUSE_WORDS
from grainet.wood.moisture import equilibrium_pct
from grainet.wood.units import LengthStyle
from grainet.wood.value import Value

GUESSED_CUTS = CutKit(
    kerf_mm=Kerfs(crosscut=3.0, rip=3.0, resaw=1.2, outline=3.0),
    skim_mm=0.6, resaw_skim_mm=0.4, edge_mm=1.0, trim_mm=4.0, metal_clear_mm=15.0, growth_mm=25.0,
    machines=Machines(resaw_height_mm=300, planer_width_mm=260, thicknesser_width_mm=330, thicknesser_least_mm=5, least_length_mm=300),
)  # fmt: skip


class ShopKit(Value):
    """One shop's profile. ``guessed`` names the figures that nobody has confirmed yet (shown dashed)."""

    id: str = "kit"
    name: str = "Shop"
    cuts: CutKit = GUESSED_CUTS
    temperature_c: float = Field(default=20.0, ge=-20, le=60)
    humidity: float = Field(default=0.45, ge=0.05, le=0.95)
    pin_depth_mm: float = Field(default=10.0, gt=0, le=200)
    uses: tuple[UseRule, ...] = SHIPPED_USES
    figure_words: tuple[str, ...] = HOUSE_WORDS  # this house's own scale of figure, weakest first
    length_style: LengthStyle = "mm"
    theme: Literal["desktop", "light", "dark"] = "desktop"
    guessed: frozenset[str] = frozenset({"rip kerf", "resaw kerf", "resaw height", "thicknesser width", "planer width"})
    least_offcut_mm: tuple[float, float] = (150.0, 30.0)

    @property
    def target_moisture_pct(self) -> float:
        return equilibrium_pct(self.temperature_c, self.humidity)

    def use(self, use_id: str) -> UseRule:
        return next(rule for rule in self.uses if rule.use == use_id)
