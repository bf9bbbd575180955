"""A year of the demo shop's air: two readings a week from its logger, invented."""

from __future__ import annotations

import math
from datetime import date, timedelta

import numpy as np

from grainet.wood.climate import AirReading


def year_of_air(last: date = date(2026, 11, 23), days: int = 363) -> list[AirReading]:
    """Dry while the heating runs, damp in late summer, with the weather's own wandering."""
    rng = np.random.default_rng(23)
    rows = []
    wander = 0.0
    for k in range(0, days, 3):
        day = last - timedelta(days=days - k)
        wander = 0.7 * wander + 0.02 * float(rng.normal())
        season = math.cos(2 * math.pi * (day.timetuple().tm_yday - 222) / 365)
        humidity = 0.46 + 0.07 * season + wander
        temperature = 19.8 + 1.8 * season + 0.4 * float(rng.normal())
        rows.append(
            AirReading(
                at=f"{day.isoformat()}T08:30",
                temperature_c=round(temperature, 1),
                humidity=round(humidity, 3),
                by="climate logger (stand-in)",
            )
        )
    return rows
