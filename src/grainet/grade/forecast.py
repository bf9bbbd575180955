"""One piece's settling forecast: the diffusion run from its first readings, and the pace that its weighings give it."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from grainet.kit.shop_kit import ShopKit
from grainet.wood.piece import MoistureReading, Piece
from grainet.wood.record import Weighing
from grainet.wood.settling import BAND, PaceFit, Settling, Stacking, fitted_pace, settle
from grainet.wood.species import Species
from grainet.wood.weighing import moisture_from_mass

LONGEST_DAYS = 1500.0
LEAST_BAND = 1.25  # however well the weighings fit: the rest of the way need not go as the first part did


@dataclass(frozen=True)
class Forecast:
    """The run at the book's pace, the day it starts (None: undated), the air's equilibrium in %, and the pace and its band."""

    run: Settling
    started: date | None
    air_pct: float
    pace: float
    slowest: float
    quickest: float
    fit: PaceFit | None

    def days_until(self, within_pct: float) -> tuple[float, float, float] | None:
        """Days from the start until all of it is within ``within_pct`` of the air: soonest, likely, latest; None beyond the run."""
        day = self.run.day_when(self.air_pct, within_pct)
        return None if day is None else (day / self.quickest, day / self.pace, day / self.slowest)


def forecast_of(
    piece: Piece, species: Species | None, kit: ShopKit, thickness_mm: float | None = None, stacking: Stacking | None = None,
    air_pct: float | None = None,
) -> Forecast | None:  # fmt: skip
    """The forecast of a piece, or of a blank of another thickness, stacking or air; None while moisture or thickness is unread.

    It starts from the oldest readings, and weighings correct its pace as they come in.
    """
    thick = thickness_mm or piece.least_thickness_mm
    if not piece.moisture or thick is None:
        return None
    target = kit.target_moisture_pct if air_pct is None else air_pct
    what_if = thickness_mm is not None or stacking is not None or air_pct is not None
    return _forecast(
        piece.moisture, () if what_if else piece.weighings, thick, species.basic_sg if species else 0.55, target, kit.temperature_c,
        kit.rules.ready_within_pct, piece.stacking if stacking is None else stacking,
    )  # fmt: skip


@lru_cache(maxsize=1024)
def _forecast(
    readings: tuple[MoistureReading, ...], weighings: tuple[Weighing, ...], thick: float, sg: float, target: float, temperature_c: float,
    within: float, how: Stacking,
) -> Forecast:  # fmt: skip
    """The run for what a forecast rests on, kept: a window asks for it again with every change of anything."""
    start_pct, started = first_moisture(readings)
    days = 60.0
    run = settle(thick, start_pct, target, days, sg, temperature_c, how)
    while run.day_when(target, within) is None and days < LONGEST_DAYS:
        days = min(LONGEST_DAYS, days * 2.5)
        run = settle(thick, start_pct, target, days, sg, temperature_c, how)
    at, moistures = weighed_moistures(readings, weighings)
    fit = fitted_pace(run, at, moistures) if len(at) >= 3 else None
    if fit is None:
        return Forecast(run, started, target, 1.0, 1 / BAND, BAND, None)
    return Forecast(
        run, started, target, fit.pace, min(fit.slowest, fit.pace / LEAST_BAND), max(fit.quickest, fit.pace * LEAST_BAND), fit
    )


def first_moisture(readings: tuple[MoistureReading, ...]) -> tuple[float, date | None]:
    """The mean of the first day's readings, and that day."""
    days = sorted({r.on for r in readings if r.on})
    first = [r.moisture_pct for r in readings if not days or r.on == days[0]]
    return sum(first) / len(first), date.fromisoformat(days[0]) if days else None


def weighed_moistures(
    readings: tuple[MoistureReading, ...], weighings: tuple[Weighing, ...]
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Days since the first reading and moistures in %, from the weighings through the oven-dry mass; each of shape (n,)."""
    rows = sorted(weighings, key=lambda w: w.on)
    start_pct, started = first_moisture(readings) if readings else (0.0, None)
    if not rows or started is None:
        return np.zeros(0), np.zeros(0)
    base = min(rows, key=lambda w: abs((date.fromisoformat(w.on) - started).days))
    days = np.array([(date.fromisoformat(w.on) - started).days for w in rows], float)
    return days, np.array([moisture_from_mass(w.kg, base.kg, start_pct) for w in rows])
