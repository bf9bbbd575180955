"""Figures as people type them, each with the units that belong to what is measured: weight, moisture, angle, tone, money, counts.

Lengths have a file of their own (``units``). A figure is read strictly: nothing is rounded, cut off or guessed in silence.
"""

from __future__ import annotations

import math
import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass

from grainet.wood.value import BadEntry, Choose

FIGURE = r"(?:[0-9]+(?:[.,][0-9]+)*|[.,][0-9]+)"  # what is taken for one figure, before it is asked whether it is one
_PLAIN = re.compile(r"[0-9]+(?:[.,][0-9]+)?|[.,][0-9]+")
_THOUSANDS = re.compile(r"[1-9][0-9]{0,2}(?:,[0-9]{3})+(?:\.[0-9]+)?")
_SPLIT = re.compile(rf"(?P<sign>[-+−]?)\s*(?P<figure>{FIGURE})\s*(?P<unit>.*)", re.S)


def parse_figure(text: str) -> float:
    """One positive figure in ASCII digits, decimal point or comma. Raises BadEntry; a thousands comma is asked about."""
    tidy = text.strip()
    if _THOUSANDS.fullmatch(tidy):
        whole = tidy.replace(",", "")
        decimal = tidy.replace(",", ".")
        choices = (whole, decimal) if tidy.count(",") == 1 and "." not in tidy else (whole,)
        raise Choose(f"“{tidy}”: {' or '.join(_short(c) for c in choices)}? Type it without the comma.", tidy, choices)
    if not _PLAIN.fullmatch(tidy):
        raise BadEntry(f"“{text.strip()}” is not a figure; needs one such as 31.4.")
    return float(tidy.replace(",", "."))


def _short(figure: str) -> str:
    """2.390 as a person says it: 2.39."""
    return figure.rstrip("0").rstrip(".") if "." in figure else figure


def of_ten(value: float, beside: float | None, most: float = 14.0) -> bool:
    """Whether two figures for like things are about ten times apart: a slipped point rather than wood."""
    if not beside or not value:
        return False
    ratio = max(value / beside, beside / value)
    return 7.0 <= ratio <= most or 70.0 <= ratio <= 10 * most


@dataclass(frozen=True)
class Quantity:
    """A kind of figure: its units, each with what turns it into the unit that is kept, and how the units are named to a person."""

    units: Mapping[str, Callable[[float], float]]
    named: str

    def parse(self, text: str, name: str) -> float:
        """A figure with or without a unit of this quantity; a minus sign is kept. Raises BadEntry."""
        found = _SPLIT.fullmatch(text.strip())
        if found is None:
            raise BadEntry(f"“{text.strip()}” is not a figure for {name}; needs {self.named}.")
        value = parse_figure(found["figure"])
        unit = found["unit"].strip().lower()
        if unit not in self.units:
            raise BadEntry(f"“{text.strip()}”: “{found['unit'].strip()}” does not belong to {name}; needs {self.named}.")
        value = self.units[unit](value)
        return -value if found["sign"] in ("-", "−") else value


def _as_it_is(value: float) -> float:
    return value


def _times(factor: float) -> Callable[[float], float]:
    return lambda value: value * factor


WEIGHT = Quantity(
    {"": _as_it_is, "kg": _as_it_is, "kgs": _as_it_is, "g": _times(0.001), "lb": _times(0.45359237), "lbs": _times(0.45359237), "oz": _times(0.028349523125)},
    "a weight such as 31.4, in kg (g, lb or oz said)",
)  # fmt: skip
GRAMS = Quantity({"": _as_it_is, "g": _as_it_is, "kg": _times(1000.0)}, "a weight in grams, such as 52.4")
PERCENT = Quantity({"": _as_it_is, "%": _as_it_is, "percent": _as_it_is}, "a figure in %, such as 8.4")
ANGLE = Quantity(dict.fromkeys(("", "°", "deg", "degree", "degrees"), _as_it_is), "an angle in degrees, such as 38")
SLOPE = Quantity(
    {**ANGLE.units, "%": lambda value: math.degrees(math.atan(value / 100))}, "a slope in degrees, such as 1.5, or as 3 % or 1:20"
)
TONE = Quantity({"": _as_it_is, "hz": _as_it_is, "khz": _times(1000.0)}, "a tone in Hz, such as 368")
SECONDS = Quantity({"": _as_it_is, "s": _as_it_is, "sec": _as_it_is, "ms": _times(0.001)}, "seconds, such as .09")
CELSIUS = Quantity(
    {**dict.fromkeys(("", "°", "c", "°c"), _as_it_is), **dict.fromkeys(("f", "°f"), lambda value: (value - 32) / 1.8)},
    "a temperature in °C, such as 20.5, or in F",
)
SHARE = Quantity({"": _as_it_is, "%": _times(0.01)}, "a share from 0 to 1, such as .6")
PLAIN = Quantity({"": _as_it_is}, "a plain figure")
MONEY_SIGNS = ("€", "$", "£", "¥", "kr", "chf", "eur", "usd", "gbp", "dkk", "sek", "nok", "pln", "czk")
MONEY = Quantity(dict.fromkeys(("", *MONEY_SIGNS), _as_it_is), "a price such as 42 or 42.50")


def parse_slope(text: str, name: str) -> float:
    """A slope in degrees from degrees, ``3 %`` or ``1:20`` (``1 in 20``). Raises BadEntry."""
    ratio = re.fullmatch(rf"\s*(-?)\s*({FIGURE})\s*(?::|in)\s*({FIGURE})\s*", text, re.I)
    if ratio:
        rise, run = parse_figure(ratio[2]), parse_figure(ratio[3])
        if run <= 0:
            raise BadEntry(f"“{text.strip()}”: needs a slope such as 1:20.")
        return math.degrees(math.atan(rise / run)) * (-1 if ratio[1] else 1)
    return SLOPE.parse(text, name)


def parse_money(text: str) -> float:
    """A price, its sign before or behind. Raises BadEntry."""
    tidy = text.strip()
    for sign in MONEY_SIGNS:
        if tidy.lower().startswith(sign):
            tidy = tidy[len(sign) :].strip()
            break
    return MONEY.parse(tidy, "the price")


def parse_whole(text: str, name: str) -> int:
    """A whole number. Raises BadEntry."""
    if not re.fullmatch(r"\s*[0-9]+\s*", text):
        raise BadEntry(f"“{text.strip()}” is not a whole number; needs one such as 2 for {name}.")
    return int(text)
