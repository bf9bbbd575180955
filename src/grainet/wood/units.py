"""Lengths as builders write them, to and from millimetres.

Reads mm, decimal inches, inch fractions, feet and trade quarters; it stores nothing and rounds only for display.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from decimal import ROUND_HALF_UP, Decimal
from fractions import Fraction
from typing import Literal

from grainet.wood.quantity import FIGURE, parse_figure
from grainet.wood.value import BadEntry

MM_PER_INCH = 25.4
MM_PER_FOOT = 12 * MM_PER_INCH
LONGEST_MM = 20_000.0  # no plank on a guitar builder's rack is longer
MISMATCH_MM = 1.0  # two figures for one length further apart than this are asked about

LengthStyle = Literal["mm", "inch", "fraction", "feet", "quarters"]
LENGTH_STYLES: tuple[LengthStyle, ...] = ("mm", "inch", "fraction", "feet", "quarters")

_FRACTION = r"[0-9]+\s*/\s*[0-9]+"
_MIXED = rf"(?:{_FRACTION}|{FIGURE}(?:[\s-]+{_FRACTION})?)"
_FEET = r"(?:feet|foot|ft|'|′|’)"
_INCHES = r"(?:inches|inch|in|\"|″|”|'')"
_UNIT = rf"(?:millimet(?:re|er)s?|centimet(?:re|er)s?|met(?:re|er)s?|mm|cm|m|{_INCHES}|{_FEET})"
_ENDS = r"(?<![A-Za-z])|(?!(?!x\s*[0-9.,½¼¾])[A-Za-z])"  # a unit's word ends here: no letter follows, save the x of a size
# one length inside a longer line; a unit's word ends where it ends: "450 interlocked" holds no inches
LENGTH = rf"(?:{FIGURE}\s*{_FEET}\s*{_MIXED}(?:\s*{_INCHES})?(?:{_ENDS})!?|{_MIXED}\s*{_UNIT}(?:{_ENDS})!?|{_MIXED}!?)"
_AMOUNT = re.compile(rf"(?:(?P<whole>{FIGURE})(?:[\s-]+(?P<part>{_FRACTION}))?|(?P<only>{_FRACTION}))$")
_SPLIT_UNIT = re.compile(rf"(?P<amount>.*?)\s*(?P<unit>{_UNIT})?$", re.I | re.S)
_VULGAR = {
    "½": "1/2", "¼": "1/4", "¾": "3/4", "⅛": "1/8", "⅜": "3/8", "⅝": "5/8", "⅞": "7/8", "⅓": "1/3", "⅔": "2/3",
}  # fmt: skip
_UNIT_MM = {"mm": 1.0, "cm": 10.0, "m": 1000.0, "in": MM_PER_INCH, "ft": MM_PER_FOOT}
_UNIT_NAME = {
    "millimetre": "mm", "millimetres": "mm", "millimeter": "mm", "millimeters": "mm", "centimetre": "cm", "centimetres": "cm",
    "centimeter": "cm", "centimeters": "cm", "metre": "m", "metres": "m", "meter": "m", "meters": "m",
    "inch": "in", "inches": "in", '"': "in", "″": "in", "”": "in", "''": "in",
    "feet": "ft", "foot": "ft", "'": "ft", "′": "ft", "’": "ft",
}  # fmt: skip


@dataclass(frozen=True)
class Length:
    """A length in mm; ``nominal`` when it was given in trade quarters, which are never the actual thickness."""

    mm: float
    nominal: bool = False


def parse_length(text: str, default_unit: str = "mm") -> Length:
    """Read one length.

    Parameters
    ----------
    text : such as ``2390``, ``60,3``, ``2 3/8 in``, ``94.125"``, ``7 ft 10``, ``8/4``
    default_unit : ``mm`` or ``in``, what a bare number means

    Raises
    ------
    BadEntry
        With a sentence of what was found and what is wanted.
    """
    tidy = with_plain_fractions(" ".join(text.split()))
    if not tidy:
        raise BadEntry("Nothing was typed; needs a length such as 52.4, 2 1/16 in or 7 ft 10.")
    feet = re.match(rf"^(?P<ft>{FIGURE})\s*{_FEET}\s*(?P<rest>[^'\s].*)$", tidy, re.I)
    if feet:
        rest = re.sub(rf"\s*{_INCHES}$", "", feet["rest"], flags=re.I)
        inches, _ = _amount(rest, tidy)
        return _in_range(_number(feet["ft"]) * MM_PER_FOOT + inches * MM_PER_INCH, tidy)
    split = _SPLIT_UNIT.match(tidy)
    assert split is not None  # the pattern matches any text
    unit = (split["unit"] or "").lower()
    unit = _UNIT_NAME.get(unit, unit)
    amount, bare_fraction = _amount(split["amount"], tidy)
    if bare_fraction and not unit:  # 8/4 in the trade: quarters of an inch, sawn, not dressed
        return _in_range(amount * MM_PER_INCH, tidy, nominal=bool(re.search(r"/\s*4$", tidy)))
    if "/" in tidy and not unit:  # nobody writes fractions of a millimetre
        unit = "in"
    return _in_range(amount * _UNIT_MM[unit or default_unit], tidy)


def _amount(text: str, whole_entry: str) -> tuple[float, bool]:
    found = _AMOUNT.match(text.strip())
    if not found:
        raise BadEntry(f"“{whole_entry}” is not a length; needs one such as 52.4, 2 1/16 in or 7 ft 10.")
    if found["only"]:
        return _fraction(found["only"], whole_entry), True
    value = _number(found["whole"])
    if found["part"]:
        value += _fraction(found["part"], whole_entry)
    return value, False


def _number(text: str) -> float:
    return parse_figure(text)


def with_plain_fractions(text: str) -> str:
    """``2½`` as ``2 1/2``: the keyboard's own fractions in figures."""
    for sign, plain in _VULGAR.items():
        text = re.sub(rf"(?<=[0-9])\s*{sign}", f" {plain}", text).replace(sign, plain)
    return text.replace("⁄", "/")


def _fraction(text: str, whole_entry: str) -> float:
    top, bottom = (int(part) for part in text.split("/"))
    if bottom == 0:
        raise BadEntry(f"“{whole_entry}” is not a fraction: its lower number is 0.")
    return top / bottom


def _in_range(mm: float, entry: str, *, nominal: bool = False) -> Length:
    if not math.isfinite(mm) or mm > LONGEST_MM:
        raise BadEntry(f"“{entry}” is {mm / 1000:.3g} m; at most {LONGEST_MM / 1000:.0f} m.")
    return Length(round(mm, 6), nominal)  # 7/4 is 44.45, not a bit less


@dataclass(frozen=True)
class LengthPair:
    """Two figures for one length, in mm, and how far apart they are."""

    first: Length
    second: Length

    @property
    def apart_mm(self) -> float:
        """How far apart the two figures are, mm."""
        return abs(self.first.mm - self.second.mm)

    @property
    def agrees(self) -> bool:
        """Whether they are the same length within what measuring does."""
        return self.apart_mm <= MISMATCH_MM


def parse_pair(text: str, default_unit: str = "mm") -> LengthPair | None:
    """Read two figures for one length, such as ``2 in / 60 mm``; None when the text holds just one."""
    parts = re.split(r"\s+/\s+|\s*=\s*|\s*;\s*", text.strip())
    if len(parts) != 2:
        return None
    return LengthPair(parse_length(parts[0], default_unit), parse_length(parts[1], default_unit))


def entry_unit(style: LengthStyle) -> Literal["mm", "in"]:
    """The unit that a bare figure is meant in where lengths are shown in this style."""
    return "mm" if style == "mm" else "in"


def format_length(mm: float, style: LengthStyle = "mm", *, unit: bool = False) -> str:
    """Write a length in mm the way ``style`` reads it; ``unit`` adds the unit's sign."""
    if style == "mm":
        text = f"{_half_up(mm, 1)}" if abs(mm) < 99.95 else f"{_half_up(mm, 0)}"
        return (text.removesuffix(".0")) + (" mm" if unit else "")
    inches = mm / MM_PER_INCH
    if style == "inch":
        return f"{inches:.3f}".rstrip("0").rstrip(".") + (" in" if unit else "")
    if style == "quarters":
        return f"{round(inches * 4)}/4"
    if style == "feet" and abs(inches) >= 12:
        feet, rest = divmod(round(inches * 8) / 8, 12)
        return f"{int(feet)} ft {_mixed(rest, 8)}" if rest else f"{int(feet)} ft"
    return _mixed(inches, 32 if abs(inches) < 4 else 16) + (" in" if unit else "")


def tell_length(mm: float, style: LengthStyle, form: str = ".0f") -> str:
    """A length inside a sentence, without its unit: in mm as ``form`` has it, else in the house's own inches."""
    return f"{mm:{form}}" if style == "mm" else format_length(mm, style)


def told_apart(found: float, limit: float, digits: int) -> tuple[str, str]:
    """A figure that is beyond its limit, and the limit: with so many decimals, or as many more as it takes that they differ as told."""
    for more in range(digits, digits + 6):
        pair = f"{found:.{more}f}", f"{limit:.{more}f}"
        if pair[0] != pair[1]:
            break
    return pair[0], f"{limit:g}" if float(pair[1]) == limit else pair[1]


def tell_gap(mm: float, style: LengthStyle) -> str:
    """A gap that a feeler gauge reads: hundredths of a mm, or thousandths of an inch."""
    return f"{mm:.2f}" if style == "mm" else f"{mm / MM_PER_INCH:.3f}"


_BARE = re.compile(r"(?<![\w.,°-])[0-9]+(?:\.[0-9]+)?(?![\w.°]|,[0-9]|\s*%)")


def lengths_in(text: str, style: LengthStyle) -> str:
    """A sentence whose bare figures are all lengths in mm, in the house's own measure. Two that differ stay two: where a 32nd is too coarse
    to tell them apart they are told in thousandths of an inch."""
    if style == "mm":
        return text
    found = [one[0] for one in _BARE.finditer(text)]
    told = {figure: format_mark(float(figure), style).removesuffix(" in") for figure in found}
    if len(set(told.values())) < len({float(figure) for figure in found}):
        told = {figure: f"{float(figure) / MM_PER_INCH:.3f}" for figure in found}
    return _BARE.sub(lambda one: told[one[0]], text)


def format_mark(mm: float, style: LengthStyle = "mm") -> str:
    """Write a length that a saw is set to: to a tenth of a mm, or a 32nd of an inch."""
    if style == "mm":
        return f"{_half_up(mm, 1)}"
    return f"{mm / MM_PER_INCH:.3f}" if style == "inch" else _mixed(mm / MM_PER_INCH, 32)


def _half_up(value: float, places: int) -> Decimal:
    """Rounded as a person rounds: 44.45 is 44.5, whatever the last bit says."""
    return Decimal(f"{value:.9f}").quantize(Decimal(1).scaleb(-places), ROUND_HALF_UP)


def nominal_words(mm: float) -> str:
    """A trade size in mm without rounding: 7/4 is 44.45."""
    return f"{_half_up(mm, 2)}".rstrip("0").rstrip(".")


def _mixed(inches: float, denominator: int) -> str:
    sign = "-" if inches < 0 else ""
    whole, part = divmod(Fraction(round(abs(inches) * denominator), denominator), 1)
    if not part:
        return f"{sign}{whole}"
    return f"{sign}{whole} {part}" if whole else f"{sign}{part}"
