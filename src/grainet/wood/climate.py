"""The shop's air: readings of temperature and humidity, the equilibrium that wood would have in it, and a year of months.

A month that was logged counts as it was; one that was not is the shop's own guess of a year.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Annotated

from pydantic import Field

from grainet.wood.moisture import equilibrium_pct
from grainet.wood.value import Time, Value

Humidity = Annotated[float, Field(ge=0, le=1)]
Celsius = Annotated[float, Field(ge=-40, le=60)]
LEAST_READINGS_A_MONTH = 4
MONTHS = (
    "January",
    "February",
    "March",
    "April",
    "May",
    "June",
    "July",
    "August",
    "September",
    "October",
    "November",
    "December",
)


class AirReading(Value):
    """The air at a time (ISO, to the minute): C, and relative humidity 0..1."""

    at: Time
    temperature_c: Celsius
    humidity: Humidity
    by: str = ""

    @property
    def equilibrium_pct(self) -> float:
        """The moisture that wood comes to in this air, %."""
        return equilibrium_pct(self.temperature_c, self.humidity)

    @property
    def time(self) -> datetime:
        """When it was read."""
        return datetime.fromisoformat(self.at)


class AirLog(Value):
    """The readings of one month, ``id`` such as "2026-11"; kept by month so that a long log is never rewritten whole."""

    id: str = Field(pattern=r"^[0-9]{4}-[0-9]{2}$")
    readings: tuple[AirReading, ...] = ()


class MonthAir(Value):
    """A month as the shop guesses it."""

    temperature_c: Celsius
    humidity: Humidity


# a heated shop in a temperate climate: dry air while the heating runs (shipped default, editable)
SHIPPED_YEAR: tuple[MonthAir, ...] = tuple(
    MonthAir(temperature_c=t, humidity=h)
    for t, h in (
        (18.5, 0.38), (18.5, 0.38), (19.0, 0.41), (19.5, 0.44), (20.0, 0.48), (21.5, 0.52),
        (22.0, 0.54), (22.0, 0.54), (20.5, 0.51), (19.5, 0.48), (19.0, 0.43), (18.5, 0.40),
    )
)  # fmt: skip


@dataclass(frozen=True)
class YearAir:
    """Equilibrium moisture in % per month (12), which months were logged, and the year's driest and dampest."""

    equilibrium_pct: tuple[float, ...]
    logged: tuple[bool, ...]

    @property
    def driest_pct(self) -> float:
        """Equilibrium of the driest month, %."""
        return min(self.equilibrium_pct)

    @property
    def dampest_pct(self) -> float:
        """Equilibrium of the dampest month, %."""
        return max(self.equilibrium_pct)


def year_of(readings: Sequence[AirReading], guess: Sequence[MonthAir] = SHIPPED_YEAR) -> YearAir:
    """Twelve months: the mean equilibrium of each month that has enough readings, the guess for the others."""
    by_month: dict[int, list[float]] = {}
    for one in readings:
        by_month.setdefault(int(one.at[5:7]), []).append(one.equilibrium_pct)
    found, logged = [], []
    for month, air in enumerate(guess, 1):
        values = by_month.get(month, [])
        enough = len(values) >= LEAST_READINGS_A_MONTH
        found.append(sum(values) / len(values) if enough else equilibrium_pct(air.temperature_c, air.humidity))
        logged.append(enough)
    return YearAir(tuple(found), tuple(logged))


def recent_pct(readings: Sequence[AirReading], days: float = 28.0) -> float | None:
    """Mean equilibrium in % over the last ``days`` of a log; None with fewer than four readings in them."""
    if not readings:
        return None
    last = max(r.time for r in readings)
    near = [r.equilibrium_pct for r in readings if (last - r.time).total_seconds() <= days * 86_400]
    return sum(near) / len(near) if len(near) >= LEAST_READINGS_A_MONTH else None
