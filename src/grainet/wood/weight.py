"""What finished parts will weigh, and how far that may be off. Source: area x thickness x 0.97 for rounding, less cavities."""

from __future__ import annotations

from dataclasses import dataclass

ROUNDING = 0.97
MEASURED_SPREAD = 0.02  # a board that was weighed: its own density, within the error of measuring it


@dataclass(frozen=True)
class Weight:
    """A weight in kg with one standard deviation either way."""

    kg: float
    spread_kg: float

    def __add__(self, other: Weight) -> Weight:
        """Two parts of different boards: their errors are independent."""
        return Weight(self.kg + other.kg, (self.spread_kg**2 + other.spread_kg**2) ** 0.5)

    @property
    def message(self) -> str:
        """The weight with its spread, in g below 1 kg."""
        if self.kg < 1:
            return f"{1000 * self.kg:.0f} ± {1000 * self.spread_kg:.0f} g"
        return f"{self.kg:.2f} ± {self.spread_kg:.2f} kg"


def part_weight(
    area_mm2: float, thickness_mm: float, density_kg_m3: float, cavities_mm3: float = 0.0, spread: float = MEASURED_SPREAD,
    rounding: float = ROUNDING,
) -> Weight:  # fmt: skip
    """A finished part's weight: (area x thickness x rounding - cavities) x density, ``spread`` the density's relative error."""
    volume = max(0.0, area_mm2 * thickness_mm * rounding - cavities_mm3) / 1e9
    kg = volume * density_kg_m3
    return Weight(kg, kg * spread)
