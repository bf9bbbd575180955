"""One reading of an instrument: a line of text becomes a figure with its unit, or a sentence of what is wrong with it.

Every instrument speaks in lines, whatever carries them: a serial port, a keyboard wedge, a file. This file alone knows how lines
are read, so a real instrument needs nothing but a source of them.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Literal

from grainet.wood.units import MM_PER_INCH

InstrumentKind = Literal["moisture", "scale", "callipers", "tap", "climate", "camera"]
INSTRUMENT_KINDS: tuple[InstrumentKind, ...] = ("callipers", "moisture", "scale", "tap", "climate", "camera")
_TAIL = r"(?:\s+[A-Z]{1,3}[:=]?[+-]?[\d.]+)*\s*$"  # meters add their settings, such as G0.55 T21
_LINE = re.compile(
    r"^\s*(?:[A-Z]{1,4}[:\s]\s*)?(?P<figure>[+-]?\d{1,9}(?:[.,]\d{1,6})?)\s*(?P<unit>%|mm|cm|in|\"|kg|g|lb|oz|Hz)?" + _TAIL, re.I
)
_UNITS: dict[str, dict[str, float]] = {
    "callipers": {"mm": 1.0, "cm": 10.0, "in": MM_PER_INCH, '"': MM_PER_INCH},
    "scale": {"kg": 1.0, "g": 0.001, "lb": 0.45359237, "oz": 0.028349523},
    "moisture": {"%": 1.0},
    "tap": {"hz": 1.0},
}
_CLIMATE = re.compile(r"^\s*(-?[\d.]+)\s*°?\s*([CF])[\s,;]+([\d.]+)\s*%\s*$", re.I)
UNITS: dict[str, str] = {"callipers": "mm", "scale": "kg", "moisture": "%", "tap": "Hz"}
_USUAL = {"callipers": "mm", "scale": "kg", "moisture": "%", "tap": "hz"}
_RANGE = {"callipers": (0.0, 1000.0), "scale": (0.0, 2000.0), "moisture": (0.0, 200.0), "tap": (15.0, 8000.0)}
_SWAPS = {"callipers": (("inches", MM_PER_INCH),), "scale": (("pounds", 0.45359237), ("grams", 0.001))}


class InstrumentFault(Exception):
    """An instrument that gave nothing to keep; the text says what was found and what to do."""


@dataclass(frozen=True)
class Reading:
    """One figure in the shop's unit (mm, kg, %, Hz), the line that it came from, and which instrument gave it."""

    kind: InstrumentKind
    value: float
    line: str
    by: str
    unit_said: bool
    doubt: str = ""  # a sentence where the unit may be mixed up


def parse_line(kind: InstrumentKind, line: str, by: str, expected: float | None = None) -> Reading:
    """The reading in a line. ``expected`` is about what it should be, to notice a unit that is mixed up. Raises InstrumentFault."""
    tidy = line.strip()
    found = _LINE.match(tidy)
    if not found or "#" in tidy or re.search(r"[^\x20-\x7e°]", tidy):
        raise InstrumentFault(f"{by} sent “{_shown(tidy)}”, which is not a figure. Read it once more, or type what it shows.")
    unit = (found["unit"] or "").lower()
    units = _UNITS[kind]
    if unit and unit not in units:
        raise InstrumentFault(f"{by} sent {found['figure']} {unit}; needs {' or '.join(units)}.")
    value = float(found["figure"].replace(",", ".")) * units[unit or _USUAL[kind]]
    low, high = _RANGE[kind]
    if not low < value <= high:
        raise InstrumentFault(
            f"{by} sent {tidy}; needs over {low:g} and at most {high:g} {_USUAL[kind]}. Zero it and read again."
        )
    return Reading(kind, value, tidy, by, bool(unit), _unit_doubt(kind, value, message=bool(unit), expected=expected))


@dataclass(frozen=True)
class Climate:
    """What a climate logger says: °C, and relative humidity 0 to 1."""

    temperature_c: float
    humidity: float


def parse_climate(line: str, by: str) -> Climate:
    """``20.3 C 46.0 %``, or in Fahrenheit. Raises InstrumentFault."""
    found = _CLIMATE.match(line)
    if not found:
        raise InstrumentFault(f"{by} sent “{_shown(line.strip())}”; needs such as 20.3 C 46 %.")
    celsius = float(found[1]) if found[2].upper() == "C" else (float(found[1]) - 32) / 1.8
    humidity = float(found[3]) / 100
    if not (-20 <= celsius <= 60 and 0.05 <= humidity <= 0.95):
        raise InstrumentFault(f"{by} sent {_shown(line.strip())}: out of reach, nothing was kept.")
    return Climate(celsius, humidity)


def meaning(kind: InstrumentKind, line: str, by: str = "it") -> str:
    """What a line means, in words, as it would be kept. Raises InstrumentFault."""
    if kind == "climate":
        air = parse_climate(line, by)
        return f"{air.temperature_c:.1f} °C, {air.humidity:.0%}"
    return f"{parse_line(kind, line, by).value:.6g} {UNITS[kind]}"


def _shown(text: str) -> str:
    return "".join(c if c.isprintable() else "?" for c in text)[:30]


def _unit_doubt(kind: str, value: float, *, message: bool, expected: float | None) -> str:
    """A sentence where a figure without a unit would fit far better in another one."""
    if message or expected is None or expected <= 0 or 0.5 < value / expected < 2:
        return ""
    for name, factor in _SWAPS.get(kind, ()):
        if 0.8 < value * factor / expected < 1.25:
            return f"it sent {value:g} and about {expected:.1f} was to be expected: set to {name}?"
    return f"it sent {value:g}, far from the {expected:.1f} to be expected"
