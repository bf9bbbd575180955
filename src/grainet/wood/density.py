"""Density and mass: at a moisture, at 12 %, and of a piece. Source: Wood Handbook's relation of basic specific gravity."""

from __future__ import annotations

import math
from dataclasses import dataclass

from grainet.wood.moisture import FIBRE_SATURATION_PCT

REFERENCE_PCT = 12.0


def density_kg_m3(basic_sg: float, moisture_pct: float, shrink_volumetric_pct: float | None = None) -> float:
    """Density in kg/m3 at a moisture content; unknown volumetric shrinkage is taken as 26.5 times the specific gravity."""
    shrink = 26.5 * basic_sg if shrink_volumetric_pct is None else shrink_volumetric_pct
    dry_share = 1 - min(moisture_pct, FIBRE_SATURATION_PCT) / FIBRE_SATURATION_PCT
    return 1000 * basic_sg * (1 + moisture_pct / 100) / (1 - shrink * dry_share / 100)


def density_at_12(measured_kg_m3: float, moisture_pct: float, shrink_volumetric_pct: float | None = None) -> float:
    """A measured density carried over to 12 % moisture, by finding the specific gravity that explains it (bisection)."""
    low, high = 0.02, 1.6
    for _ in range(50):
        middle = (low + high) / 2
        low, high = (
            (middle, high) if density_kg_m3(middle, moisture_pct, shrink_volumetric_pct) < measured_kg_m3 else (low, middle)
        )
    return density_kg_m3((low + high) / 2, REFERENCE_PCT, shrink_volumetric_pct)


@dataclass(frozen=True)
class DensityStanding:
    """A density at 12 % against its species: standard deviations from the mean, percentile 0..100, the band of two deviations
    either way, and the question to ask where it lies outside."""

    density_kg_m3: float
    off_sd: float
    percentile: float
    low_kg_m3: float
    high_kg_m3: float
    question: str = ""

    @property
    def outlier(self) -> bool:
        """Whether the density lies so far from the species' mean that one should ask."""
        return bool(self.question)


def density_standing(density_12_kg_m3: float, mean_kg_m3: float, spread: float, name: str) -> DensityStanding:
    """Where a measured density at 12 % stands in its species' normal spread (coefficient of variation ``spread``)."""
    sd = mean_kg_m3 * spread
    off = (density_12_kg_m3 - mean_kg_m3) / sd
    low, high = mean_kg_m3 - 2 * sd, mean_kg_m3 + 2 * sd
    question = ""
    if abs(off) > 2:
        word = "heavier" if off > 0 else "lighter"
        guess = "wrong species or wet" if off > 0 else "wrong species, rotten or badly measured"
        question = f"{density_12_kg_m3:.0f} kg/m³ at 12 %, {word} than {name}'s {low:.0f} to {high:.0f}: {guess}? Weigh and measure again."
    return DensityStanding(density_12_kg_m3, off, 50 * (1 + math.erf(off / math.sqrt(2))), low, high, question)
