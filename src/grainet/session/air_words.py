"""The shop's air by word and by logger: ``air 20.5 46`` is 20.5 C at 46 % humidity, now."""

from __future__ import annotations

import re

from grainet.clock import Clock, wall_clock
from grainet.instruments.reading import InstrumentFault
from grainet.instruments.stand_ins import StandIn
from grainet.wood.climate import AirReading
from grainet.wood.value import BadEntry


def now_on(day: str, clock: Clock) -> str:
    """The day with the clock's time, to the minute."""
    return f"{day}T{clock():%H:%M}"


def air_reading(text: str, day: str, by: str = "", clock: Clock = wall_clock) -> AirReading:
    """A typed reading. Raises BadEntry with what is wanted."""
    found = re.match(r"^\s*(-?[\d.,]+)\s*(c|f|°c|°f)?\s+([\d.,]+)\s*%?\s*$", text, re.I)
    if not found:
        raise BadEntry(f"“air {text.strip()}”: needs temperature and humidity, such as air 20.5 46 or air 68 F 46.")
    temperature, humidity = float(found[1].replace(",", ".")), float(found[3].replace(",", "."))
    if (found[2] or "").lower().endswith("f"):
        temperature = (temperature - 32) / 1.8
    if not -20 <= temperature <= 60 or not 1 <= humidity <= 100:
        raise BadEntry(f"{temperature:.1f} °C at {humidity:g} %: needs -20 to 60 °C and 1 to 100 %.")
    return AirReading(at=now_on(day, clock), temperature_c=round(temperature, 1), humidity=round(humidity / 100, 4), by=by)


def logger_reading(day: str, logger: StandIn | None = None, clock: Clock = wall_clock) -> AirReading:
    """One reading of the climate logger. Raises InstrumentFault with a sentence."""
    source = logger or StandIn("climate", seed=int(clock().timestamp()) % 10_000)
    if source.fault == "no_answer" or source.fault == "unplugged":
        raise InstrumentFault(f"{source.name} gave no answer. Is it on? Or type it: air 20.5 46.")
    if source.fault == "garbage":
        raise InstrumentFault(f"{source.name} sent something that is no reading. Read it once more, or type it: air 20.5 46.")
    temperature, humidity = source.climate()
    if source.fault == "wrong_unit":
        temperature = temperature * 1.8 + 32
    if not -20 <= temperature <= 60:
        raise InstrumentFault(f"{source.name} sent {temperature:.1f}: set to Fahrenheit? needs °C.")
    return AirReading(at=now_on(day, clock), temperature_c=round(temperature, 1), humidity=round(humidity, 3), by=source.name)
