"""How far blades, knives and bits have cut since they were sharp: metres of each cut, counted more in wood that blunts.

Siliceous wood counts five times (CAPABILITIES C94); gum and pitch, and density, by shipped judgement.
"""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from grainet.wood.species import Species

SILICA, GUM = 5.0, 1.5
DENSE_SG, DENSE = 0.65, 1.5  # basic specific gravity from which wood counts as dense


def blunts(species: Species | None) -> float:
    """How many metres one metre in a wood counts for."""
    if species is None:
        return 1.0
    factor = SILICA if "silica" in species.flags else GUM if "gum_pitch" in species.flags else 1.0
    return factor * (DENSE if species.basic_sg >= DENSE_SG and "silica" not in species.flags else 1.0)


@dataclass(frozen=True)
class Wear:
    """One tool: what it has cut since it was sharp, metres as they are and as they count, and since when (empty: nobody said)."""

    tool: str
    metres: float
    counts: float
    since: str


def wear_of(tool: str, cuts: Iterable[tuple[str, float, Species | None]], since: str) -> Wear:
    """Of the cuts of a tool, each with its day, its length in mm and its wood, those since it was sharpened."""
    metres = counts = 0.0
    for day, long_mm, species in cuts:
        if day >= since:
            metres += long_mm / 1000
            counts += long_mm / 1000 * blunts(species)
    return Wear(tool, round(metres, 2), round(counts, 2), since)
