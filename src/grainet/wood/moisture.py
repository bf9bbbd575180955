"""Moisture: equilibrium with the air, what the readings say, and the quick settling forecast.

Sources: Hailwood-Horrobin with the Forest Products Laboratory's coefficients (Wood Handbook, SI form); diffusion coefficient
and surface emission as in the notes. Real wood varies by a factor of two, so a forecast is a range.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from grainet.wood.piece import MoistureReading

FIBRE_SATURATION_PCT = 30.0
HIGHEST_RH = 0.95  # the equation runs away above it
STICKERED_M_S = 2e-7  # surface emission with air on both faces
SECONDS_PER_DAY = 86_400.0
THICK_ENOUGH_FOR_A_CORE_MM = 24.0  # thinner wood dries through: its skin speaks for its core (notes)
CORE_REACH = 0.25  # a reading speaks for the core when it is this share of the thickness deep (a quarter: the pins' far half)


def equilibrium_pct(temperature_c: float, humidity: float) -> float:
    """Equilibrium moisture content in % for air at ``temperature_c`` and relative ``humidity`` (0 to 1).

    Good to about 95 % humidity and clamped above. Raises ValueError outside -40..100 C or below 0.
    """
    if not -40 <= temperature_c <= 100 or not 0 <= humidity <= 1:
        raise ValueError(f"{temperature_c} C at {humidity}: needs -40 to 100 C and a humidity of 0 to 1")
    t, h = temperature_c, min(humidity, HIGHEST_RH)
    w = 349 + 1.29 * t + 0.0135 * t * t
    k = 0.805 + 0.000736 * t - 0.00000273 * t * t
    k1 = 6.27 - 0.00938 * t - 0.000303 * t * t
    k2 = 1.91 + 0.0407 * t - 0.000293 * t * t
    kh = k * h
    return 1800 / w * (kh / (1 - kh) + (k1 * kh + 2 * k1 * k2 * kh * kh) / (1 + k1 * kh + k1 * k2 * kh * kh))


def humidity_for(moisture_pct: float, temperature_c: float) -> float | None:
    """The relative humidity (0 to 1) whose air holds wood at a moisture; None for wood wetter than any air here keeps it."""
    low, high = 0.0, HIGHEST_RH
    if moisture_pct > equilibrium_pct(temperature_c, high):
        return None
    for _ in range(60):  # the equilibrium rises with humidity all the way
        middle = (low + high) / 2
        low, high = (middle, high) if equilibrium_pct(temperature_c, middle) < moisture_pct else (low, middle)
    return (low + high) / 2


def dry_basis_pct(wet_basis_pct: float) -> float:
    """Moisture of the oven-dry weight from moisture of the wet weight: 20 % wet is 25 % dry. Raises ValueError outside 0..95."""
    if not 0 <= wet_basis_pct <= 95:
        raise ValueError(f"{wet_basis_pct:g} % of the wet weight: needs 0 to 95")
    return 100 * wet_basis_pct / (100 - wet_basis_pct)


def wet_basis_pct(moisture_pct: float) -> float:
    """Moisture of the wet weight from moisture of the oven-dry weight."""
    return 100 * moisture_pct / (100 + moisture_pct)


@dataclass(frozen=True)
class MoistureState:
    """What the readings say, in %. ``core_read`` is False when no reading reaches the middle of the thickness, ``has_core`` where the
    wood is too thin for that to matter."""

    mean_pct: float | None
    worst_pct: float | None
    spread_pct: float
    deepest_mm: float
    core_read: bool
    has_core: bool = False

    @property
    def core_unread(self) -> bool:
        """The one rule of the core: thick wood whose skin was read and whose middle was not."""
        return self.has_core and not self.core_read and self.worst_pct is not None


def moisture_state(readings: Sequence[MoistureReading], thickness_mm: float | None, target_pct: float) -> MoistureState:
    """Sum up readings against the target: mean, the one furthest from the target, spread, and whether the core is known."""
    thick = (thickness_mm or 0.0) >= THICK_ENOUGH_FOR_A_CORE_MM
    if not readings:
        return MoistureState(None, None, 0.0, 0.0, core_read=False, has_core=thick)
    values = [r.moisture_pct for r in readings]
    deepest = max(r.depth_mm for r in readings)
    core = thickness_mm is not None and deepest >= CORE_REACH * thickness_mm
    worst = max(values, key=lambda v: abs(v - target_pct))
    return MoistureState(sum(values) / len(values), worst, max(values) - min(values), deepest, core, thick)


def diffusion_m2_s(basic_sg: float, moisture_pct: float, temperature_c: float) -> float:
    """Diffusion coefficient across the grain in m2/s for a basic specific gravity (notes' fit to literature)."""
    m = min(moisture_pct, FIBRE_SATURATION_PCT)
    return float(9.57e-12 * basic_sg**-2.17 * math.exp(0.0894 * (m - 10) + 0.0505 * (temperature_c - 20)))


@dataclass(frozen=True)
class SettlingForecast:
    """Days until the core is within ``tolerance_pct`` of the target: the likely figure, half and double of it."""

    days: float
    soonest_days: float
    latest_days: float


def settling_days(
    thickness_mm: float, moisture_pct: float, target_pct: float, basic_sg: float = 0.5, temperature_c: float = 20.0,
    tolerance_pct: float = 1.0, emission_m_s: float = STICKERED_M_S,
) -> SettlingForecast:  # fmt: skip
    """The quick form of the settling forecast: (4L^2/(pi^2 D) + L/S) ln(1.27 gap/tol), L the half thickness."""
    gap = abs(moisture_pct - target_pct)
    if gap <= tolerance_pct / 1.27:
        return SettlingForecast(0.0, 0.0, 0.0)
    half = thickness_mm / 2000
    d = diffusion_m2_s(basic_sg, (moisture_pct + target_pct) / 2, temperature_c)
    days = (4 * half * half / (math.pi**2 * d) + half / emission_m_s) * math.log(1.27 * gap / tolerance_pct) / SECONDS_PER_DAY
    return SettlingForecast(days, days / 2, days * 2)
