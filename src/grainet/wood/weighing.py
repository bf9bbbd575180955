"""Moisture by the scale: cut samples, weighing series, whether they have levelled off, and where a series is heading.

Sources: oven-dry definition of moisture content; plateau and exponential end as in the notes.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date

import numpy as np

from grainet.wood.record import Weighing

PLATEAU_SHARE = 0.001  # three weighings within a thousandth ...
PLATEAU_DAYS = 7  # ... over a week
EARLY_SHARE = 0.15  # of the run: the first stretch is surface water and not an exponential
LEAST_FOR_A_FIT = 4


def sample_pct(wet_g: float, dry_g: float) -> float:
    """Moisture content in % of oven-dry mass: 100 (wet - dry) / dry. Raises ValueError where dry is no less than zero or over wet."""
    if not 0 < dry_g <= wet_g:
        raise ValueError(f"{wet_g:g} g wet and {dry_g:g} g dry: the dry weight needs to be the lesser and over 0")
    return 100 * (wet_g - dry_g) / dry_g


def moisture_from_mass(kg: float, known_kg: float, known_pct: float) -> float:
    """Moisture in % at a mass, from one pair of mass and moisture: through the oven-dry mass."""
    dry = known_kg / (1 + known_pct / 100)
    return 100 * (kg - dry) / dry


def mass_at(kg: float, now_pct: float, target_pct: float) -> float:
    """What a piece that weighs ``kg`` at one moisture will weigh at another, in kg."""
    return kg * (1 + target_pct / 100) / (1 + now_pct / 100)


def days_of(weighings: Sequence[Weighing]) -> np.ndarray:
    """Days since the first weighing, shape (n,)."""
    first = date.fromisoformat(weighings[0].on)
    return np.array([(date.fromisoformat(w.on) - first).days for w in weighings], float)


def levelled_off(weighings: Sequence[Weighing]) -> bool:
    """Whether the last three or more weighings agree within 0.1 % over at least a week."""
    rows = sorted(weighings, key=lambda w: w.on)
    if len(rows) < 3:
        return False
    days = days_of(rows)
    for k in range(len(rows) - 3, -1, -1):
        tail = [w.kg for w in rows[k:]]
        if max(tail) - min(tail) > PLATEAU_SHARE * min(tail) + 1e-12:
            return False
        if days[-1] - days[k] >= PLATEAU_DAYS:
            return True
    return False


def still_changing(weighings: Sequence[Weighing]) -> bool:
    """Whether the newest weighings say that the wood still gives off or takes up water: a series that has not levelled off."""
    rows = sorted(weighings, key=lambda w: w.on)
    if len(rows) < 2 or levelled_off(rows):
        return False
    return abs(rows[-1].kg - rows[-2].kg) > PLATEAU_SHARE * rows[-1].kg


@dataclass(frozen=True)
class Heading:
    """Where a weighing series is heading: kg(t) = end + fall x exp(-t / pace), t in days from the first weighing.

    ``near_day`` is when it will be within 0.1 % of its end; ``soonest`` and ``latest`` are that day for the quickest and slowest
    pace that still explain the weighings.
    """

    end_kg: float
    fall_kg: float
    pace_days: float
    near_day: float
    soonest_day: float
    latest_day: float
    rms_kg: float

    def kg_at(self, day: np.ndarray | float) -> np.ndarray:
        """Weight at days from the first weighing, kg."""
        return np.asarray(self.end_kg + self.fall_kg * np.exp(-np.asarray(day, float) / self.pace_days))


def heading(weighings: Sequence[Weighing]) -> Heading | None:
    """An exponential fitted to the weighings after the first 15 % of the run; None with fewer than four, or where none fits.

    For each pace the end and the fall are linear (least squares); the pace is searched over a log grid and refined.
    """
    rows = sorted(weighings, key=lambda w: w.on)
    if len(rows) < LEAST_FOR_A_FIT:
        return None
    days, kg = days_of(rows), np.array([w.kg for w in rows])
    late = days >= EARLY_SHARE * days[-1]
    if late.sum() < LEAST_FOR_A_FIT:
        late[:] = True
    t, y = days[late], kg[late]
    if t[-1] - t[0] < 1 or np.ptp(y) < 1e-6 * y.mean():
        return None
    paces = np.geomspace(0.3, 20 * (t[-1] - t[0] + 1), 240)
    fits = [_linear(t, y, pace) for pace in paces]
    errors = np.array([f[2] for f in fits])
    best = int(np.argmin(errors))
    pace = _refined(t, y, paces, best)
    end, fall, error = _linear(t, y, pace)
    if end <= 0 or not np.isfinite(error):
        return None
    noise = max(error / max(1, len(t) - 3), (2e-4 * y.mean()) ** 2)
    good = [p for p, e, f in zip(paces, errors, fits) if e <= error + 4 * noise and f[0] > 0] or [pace]
    days_at = sorted(_near(p, *_linear(t, y, p)[:2]) for p in (min(good), pace, max(good)))
    return Heading(
        end,
        fall,
        float(pace),
        _near(pace, end, fall),
        min(days_at[0], _near(pace, end, fall)),
        days_at[-1],
        float(np.sqrt(error / len(t))),
    )


def _linear(t: np.ndarray, y: np.ndarray, pace: float) -> tuple[float, float, float]:
    design = np.column_stack([np.ones_like(t), np.exp(-t / pace)])
    (end, fall), *_ = np.linalg.lstsq(design, y, rcond=None)
    return float(end), float(fall), float(((design @ (end, fall) - y) ** 2).sum())


def _refined(t: np.ndarray, y: np.ndarray, paces: np.ndarray, best: int) -> float:
    low, high = np.log(paces[max(0, best - 1)]), np.log(paces[min(len(paces) - 1, best + 1)])
    golden = (math.sqrt(5) - 1) / 2
    for _ in range(40):
        a, b = high - golden * (high - low), low + golden * (high - low)
        low, high = (low, b) if _linear(t, y, math.exp(a))[2] < _linear(t, y, math.exp(b))[2] else (a, high)
    return math.exp((low + high) / 2)


def _near(pace: float, end: float, fall: float) -> float:
    """The day when the fall left over is a thousandth of the end."""
    return float(pace * math.log(max(1.0, abs(fall) / (PLATEAU_SHARE * abs(end)))))
