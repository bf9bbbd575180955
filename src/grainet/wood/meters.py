"""Meter corrections: what a pin or pinless meter showed becomes the moisture of this wood.

Sources: the pin equation with its temperature terms, and the first-order correction of pinless meters by specific gravity (notes).
Offset and slope belong to one meter and one species; a shop keeps its own in its kit.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

from pydantic import Field

from grainet.wood.species import Species, plain
from grainet.wood.value import Value

UNKNOWN_SPECIES_DOUBT_PCT = 1.5
PINS_UNRELIABLE_BELOW_PCT = 6.0
RATIO_LIMITS = (0.7, 1.4)  # a pinless meter set to another wood cannot be trusted beyond these
BENCH_SHOWS_MM = 20.0  # a pinless meter sees about so deep: a thinner board reads the bench under it


class Correction(Value):
    """One species on one meter: true = (corrected for temperature - offset) / slope."""

    species: str = Field(min_length=1)
    offset: float = Field(default=0.0, ge=-10, le=10)
    slope: float = Field(default=1.0, gt=0.3, le=3)


class Meter(Value):
    """A moisture meter of the shop."""

    id: str = Field(min_length=1)
    name: str = Field(min_length=1, max_length=60)
    kind: Literal["pin", "pinless"] = "pin"
    reach_mm: float = Field(default=10.0, gt=0, le=200)  # pins to their tips; pinless as deep as it sees
    set_to_sg: float = Field(default=0.5, gt=0.05, le=1.3)  # what a pinless meter is set to
    corrections: tuple[Correction, ...] = ()
    source: str = "shipped default: no correction known; fill in the maker's table"


@dataclass(frozen=True)
class Corrected:
    """A corrected reading in %, how far it may be off, and what to say of it."""

    moisture_pct: float
    doubt_pct: float
    say: str = ""


def pin_pct(reading_pct: float, temperature_c: float = 20.0, offset: float = 0.0, slope: float = 1.0) -> float:
    """True moisture from a pin meter's reading: ((R + 0.567 - 0.0260u + 0.000051u^2) / (0.881 x 1.0056^u) - offset) / slope,
    u = T + 2.8 (notes). Nothing is corrected for temperature at 20 C, where the meters are set."""
    return (_temperature(reading_pct, temperature_c) - offset) / slope


def _temperature(reading_pct: float, temperature_c: float) -> float:
    def raw(t: float) -> float:
        u = t + 2.8
        return float((reading_pct + 0.567 - 0.0260 * u + 0.000051 * u * u) / (0.881 * 1.0056**u))

    # the equation is off by some hundredths at 20 C; meters are set there, so its own answer at 20 C is taken as no correction
    return reading_pct + raw(temperature_c) - raw(20.0)


def pinless_pct(reading_pct: float, set_to_sg: float, board_sg: float) -> float:
    """True moisture from a pinless meter: reading x SG of the setting / SG of the board, the ratio held to 0.7..1.4 (notes)."""
    low, high = RATIO_LIMITS
    return reading_pct * min(high, max(low, set_to_sg / board_sg))


def corrected(
    meter: Meter, reading_pct: float, species: Species | None, temperature_c: float = 20.0, board_sg: float | None = None,
    thickness_mm: float | None = None, find: Callable[[str], Species | None] | None = None,
) -> Corrected:  # fmt: skip
    """A reading of one of the shop's meters as the moisture of this wood, with its doubt.

    ``find`` resolves a correction's species name, so that a trade name in the table still meets the piece's species.
    """
    say = []
    if meter.kind == "pinless":
        sg = board_sg or (species.basic_sg if species else None)
        value = pinless_pct(reading_pct, meter.set_to_sg, sg) if sg else reading_pct
        doubt = 1.0 if board_sg else UNKNOWN_SPECIES_DOUBT_PCT
        if thickness_mm is not None and thickness_mm < BENCH_SHOWS_MM:
            say.append(f"{thickness_mm:.0f} thick: hold it clear of the bench, or the meter reads the bench")
    else:
        row = next((c for c in meter.corrections if _same(c.species, species, find)), None)
        value = pin_pct(reading_pct, temperature_c, row.offset if row else 0.0, row.slope if row else 1.0)
        doubt = 0.5 if row else UNKNOWN_SPECIES_DOUBT_PCT if species is None else 1.0
        if row is None and species is not None:
            say.append(f"no table of {meter.name} for {species.common}")
        if value < PINS_UNRELIABLE_BELOW_PCT:
            say.append("below about 6 % pins are unreliable")
        if value > 30:
            say.append("above 30 % a meter only tells that it is wet")
    return Corrected(max(0.0, round(value, 1)), doubt, "; ".join(say))


def _same(name: str, species: Species | None, find: Callable[[str], Species | None] | None) -> bool:
    if species is None:
        return False
    found = find(name) if find else None
    return plain(name) == plain(species.common) or (found is not None and found.common == species.common)
