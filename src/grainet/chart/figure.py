"""A chart as values: axes, series, washes and notes in data units, and the table behind it. It knows no screen and no file.

Inks are names of the window's tokens (ink, ink2, hair, edge, chalk, ochre, wine, teal, wood) so that each drawer has its own
colours for them, light and dark.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, field
from datetime import date, timedelta
from typing import Literal

Ink = Literal["ink", "ink2", "hair", "edge", "chalk", "ochre", "wine", "teal", "wood", "ochre_wash", "chalk_wash", "slip"]
Points = tuple[tuple[float, float], ...]


@dataclass(frozen=True)
class Tick:
    """A place on an axis and what is written there."""

    at: float
    text: str


@dataclass(frozen=True)
class Axis:
    """One axis: its words, its reach, its ticks; ``rows`` names a row at each whole number instead of a scale."""

    label: str
    low: float
    high: float
    ticks: tuple[Tick, ...] = ()
    rows: bool = False


@dataclass(frozen=True)
class Line:
    """A line through points; ``dashed`` for what is forecast, not measured."""

    points: Points
    ink: Ink
    name: str = ""
    width: float = 2.0
    dashed: bool = False


@dataclass(frozen=True)
class Band:
    """A wash between two lines over the same xs."""

    upper: Points
    lower: Points
    ink: Ink
    name: str = ""


@dataclass(frozen=True)
class Dots:
    """Measured places; ``shape`` tells kinds apart without colour."""

    points: Points
    ink: Ink
    name: str = ""
    shape: Literal["round", "diamond", "square", "tick"] = "round"
    labels: tuple[str, ...] = ()


@dataclass(frozen=True)
class Block:
    """A filled box in data units; ``share`` fills only that part of its height, from the bottom: a grade as wood left standing."""

    x0: float
    y0: float
    x1: float
    y1: float
    fill: Ink
    rim: Ink = "ink"
    dashed: bool = False
    share: float = 1.0
    label: str = ""


@dataclass(frozen=True)
class Post:
    """A standing line at an x with words at its top or bottom."""

    x: float
    text: str
    ink: Ink = "ink"
    dashed: bool = False


@dataclass(frozen=True)
class Note:
    """Words at a place."""

    x: float
    y: float
    text: str
    ink: Ink = "ink"
    align: Literal["left", "middle", "right"] = "left"


Mark = Line | Band | Dots | Block | Post | Note


@dataclass(frozen=True)
class Chart:
    """A whole chart. ``said`` is the sentence that a person takes away; ``table`` what a spreadsheet gets."""

    name: str
    title: str
    message: str
    x: Axis
    y: Axis
    marks: tuple[Mark, ...]
    source: str = ""
    table: tuple[tuple[str, ...], ...] = ()
    keys: tuple[str, ...] = field(default=())

    @property
    def legend(self) -> tuple[Line | Band | Dots, ...]:
        """The marks that carry a name of their own, each name once."""
        found: dict[str, Line | Band | Dots] = {}
        for mark in self.marks:
            if isinstance(mark, (Line, Band, Dots)) and mark.name:
                found.setdefault(mark.name, mark)
        return tuple(found.values())


def scale(
    label: str, values: Sequence[float], pad: float = 0.06, *, zero: bool = False, least: float = 1.0, most: int = 7
) -> Axis:
    """An axis over values with round ticks; never narrower than ``least``."""
    finite = [v for v in values if math.isfinite(v)] or [0.0, 1.0]
    low, high = min(finite), max(finite)
    if zero:
        low = min(0.0, low)
    if high - low < least:
        middle = (high + low) / 2
        low, high = middle - least / 2, middle + least / 2
        if zero and low < 0 <= min(finite):
            low, high = 0.0, least
    room = (high - low) * pad
    low, high = (low if zero and low == 0 else low - room), high + room
    step = nice_step((high - low) / most)
    first = math.ceil(low / step - 1e-9)
    digits = next(d for d in range(13) if abs(step * 10**d - round(step * 10**d)) < 1e-6)
    ticks = tuple(Tick(k * step, f"{k * step:.{digits}f}") for k in range(first, math.floor(high / step + 1e-9) + 1))
    return Axis(label, low, high, ticks)


def nice_step(rough: float) -> float:
    """1, 2, 2.5 or 5 times a power of ten, the least that is not under ``rough``."""
    power = 10 ** math.floor(math.log10(max(rough, 1e-12)))
    return float(next(m * power for m in (1, 2, 2.5, 5, 10) if m * power >= rough * (1 - 1e-9)))


def days_axis(first: date, days: float, back: float = 0.0, most: int = 9) -> Axis:
    """An axis of days since ``first``, with dates at its ticks."""
    steps = (1, 2, 7, 14, 28, 61, 122, 183, 365, 730)
    span = days + back
    step = next((s for s in steps if span / s <= most), steps[-1] * max(1, math.ceil(span / steps[-1] / most)))
    ticks = []
    k = math.ceil(-back / step)
    while k * step <= days + 1e-9:
        day = first + timedelta(days=k * step)
        ticks.append(Tick(k * step, f"{day.day} {day:%b}" + (f" {day:%y}" if step >= 61 else "")))
        k += 1
    return Axis("", -back, days, tuple(ticks))


def rows_axis(names: Sequence[str]) -> Axis:
    """An axis of named rows, the first on top."""
    count = len(names)
    return Axis("", 0, max(1, count), tuple(Tick(count - 1 - k + 0.5, name) for k, name in enumerate(names)), rows=True)


def empty(name: str, title: str, message: str) -> Chart:
    """A chart with nothing in it yet but the next step."""
    axis = Axis("", 0, 1)
    return Chart(name, title, message, axis, axis, ())
