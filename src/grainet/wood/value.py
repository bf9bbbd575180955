"""The base of every persisted or exchanged value, the kinds of field that many of them share, and the sentence for an entry
that cannot be used."""

from __future__ import annotations

import json
import re
from collections.abc import Iterable
from datetime import date, datetime
from typing import Annotated, Any, Self

from pydantic import AfterValidator, BaseModel, ConfigDict, Field, ValidationError

Point = tuple[float, float]
Ring = tuple[Point, ...]
FURTHEST_MM = 20_000.0
FIRST_YEAR, LAST_YEAR = 1800, 2200


class BadEntry(ValueError):
    """An entry that cannot be used; the text says what was found and what is wanted, for a person to read."""


class NoSuchWord(BadEntry):
    """A line whose first word means nothing here."""


class Choose(BadEntry):
    """An entry that may mean several things: ``found`` is the part of it that is unclear, ``choices`` what may stand in its place."""

    def __init__(self, text: str, found: str, choices: Iterable[str]) -> None:
        super().__init__(text)
        self.found, self.choices = found, tuple(choices)


class Value(BaseModel):
    """A frozen, strict value: no unknown keys, no NaN, tuples for lists."""

    model_config = ConfigDict(
        frozen=True, strict=True, extra="forbid", allow_inf_nan=False, validate_by_name=True, validate_by_alias=True
    )

    def changed(self, **changes: Any) -> Self:
        """Return a copy with some fields changed, validated anew (raises ValidationError)."""
        return type(self)(**{**{name: getattr(self, name) for name in type(self).model_fields}, **changes})


def says_nothing(value: object) -> bool:
    """Whether a key may be left out of a file: for ``exclude_if`` of keys that only newer versions have."""
    return not value


# kinds of field -------------------------------------------------------------------------------------------------------
def real_day(text: str) -> str:
    """An ISO day that the calendar has. Raises ValueError with what was found and what is wanted."""
    try:
        if len(text) != 10 or not text.isascii():
            raise ValueError
        day = date.fromisoformat(text)
    except ValueError:
        raise ValueError(f"“{text[:40]}” is not a day of the calendar; needs one such as 2026-11-03") from None
    if not FIRST_YEAR <= day.year <= LAST_YEAR:
        raise ValueError(f"{text} is out of reach; needs a year from {FIRST_YEAR} to {LAST_YEAR}")
    return text


def real_time(text: str) -> str:
    """An ISO time to the minute or second, or a day alone. Raises ValueError."""
    real_day(text[:10])
    if len(text) > 10:
        try:
            if text[10] != "T" or not text.isascii() or len(text) not in (16, 19):
                raise ValueError
            datetime.fromisoformat(text)
        except ValueError:
            raise ValueError(f"“{text[:40]}” is not a time; needs one such as 2026-11-03T08:30") from None
    return text


def _day_or_empty(text: str) -> str:
    return real_day(text) if text else text


def _day_or_words(text: str) -> str:
    """A day where it looks like one; "spring 2019" is words and stays as it is."""
    if re.match(r"[0-9]{4}-[0-9]{2}-[0-9]{2}", text):
        real_day(text[:10])
    return text


def _usable_ring(ring: Ring) -> Ring:
    from grainet.wood.outline import ring_fault

    if fault := ring_fault(ring):
        raise ValueError(fault)
    return ring


def _usable_or_empty(ring: Ring) -> Ring:
    return _usable_ring(ring) if ring else ring


def real_hour(text: str) -> str:
    """A time of day to the minute. Raises ValueError."""
    try:
        if len(text) != 5 or not text.isascii():
            raise ValueError
        datetime.fromisoformat(f"2000-01-01T{text}")
    except ValueError:
        raise ValueError(f"“{text[:20]}” is no time of day; needs one such as 08:00") from None
    return text


def _printable(text: str) -> str:
    if not text.isprintable() or not text.strip():
        raise ValueError(f"{json.dumps(text[:40])} cannot be printed; needs letters and figures on one line")
    return text


Day = Annotated[str, AfterValidator(real_day)]
DayOrWords = Annotated[str, AfterValidator(_day_or_words)]
DayOrEmpty = Annotated[str, AfterValidator(_day_or_empty)]
Hour = Annotated[str, AfterValidator(real_hour)]
Time = Annotated[str, AfterValidator(real_time)]
Place = Annotated[float, Field(ge=-FURTHEST_MM, le=FURTHEST_MM)]  # a coordinate on a piece, mm
Outline = Annotated[Ring, AfterValidator(_usable_ring)]
OutlineOrEmpty = Annotated[Ring, AfterValidator(_usable_or_empty)]
Name = Annotated[str, Field(min_length=1, max_length=80), AfterValidator(_printable)]


def twice_named(what: str, names: Iterable[str]) -> None:
    """Raises ValueError where a name stands twice."""
    seen: set[str] = set()
    for name in names:
        if name in seen:
            raise ValueError(f"{what} “{name}” stands twice, needs a name of its own")
        seen.add(name)


# what is wrong with a value, in words ---------------------------------------------------------------------------------
def why_not(fault: ValidationError) -> str:
    """The first thing that is wrong with a value: its place, what was found and what is wanted."""
    first = fault.errors()[0]
    where = place_of(first["loc"])
    return f"{where}: {sentence_of(first)}" if where else sentence_of(first)


def place_of(where: tuple[int | str, ...]) -> str:
    """``pieces[3].outline`` from a validation error's location; names of alternatives are left out."""
    text = ""
    for step in where:
        if isinstance(step, int):
            text += f"[{step}]"
        elif not any(mark in step for mark in ("constrained", "literal[", "tuple[", "function-", "nullable", "[")):
            text += f".{step}" if text else step
    return text


def sentence_of(fault: Any) -> str:
    """One of a ValidationError's faults as a sentence part."""
    found, kind, context = fault.get("input"), fault["type"], fault.get("ctx", {})
    if kind == "value_error":
        return str(context.get("error", fault["msg"]))
    if kind == "extra_forbidden":
        return "no such key (keys of your own begin with x-)"
    if kind == "missing":
        return "missing"
    shown = json.dumps(found, default=str, ensure_ascii=False)
    shown = shown if len(shown) <= 60 else shown[:57] + "..."
    if kind == "too_short":
        return f"has {context.get('actual_length')} entries, at least {context.get('min_length')}"
    message = fault["msg"].replace("Input should be", "needs").replace("a valid array", "a list")
    return f"found {shown}, {message[0].lower() + message[1:]}"
