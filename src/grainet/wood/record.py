"""What is written down of a piece over time: weighings, cut samples, the rest log, taps, its supply, and what happened to it."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from grainet.wood.value import Day, DayOrEmpty, Value

Money = Annotated[float, Field(ge=0, le=1_000_000)]


class Weighing(Value):
    """The whole piece on the scale on a day."""

    on: Day
    kg: float = Field(gt=0, le=2000)
    by: str = ""


class CutSample(Value):
    """A slice sawn from a piece, weighed wet and oven-dry (grams); it speaks for the whole section, the shell or the core."""

    on: Day
    x_mm: float = Field(ge=0, le=20_000)
    wet_g: float = Field(gt=0, le=100_000)
    dry_g: float = Field(gt=0, le=100_000)
    part: Literal["whole", "shell", "core"] = "whole"


class Rest(Value):
    """How far from straight the piece was on a day: bow, and twist under the fourth corner, in mm."""

    on: Day
    bow_mm: float = Field(ge=0, le=300)
    twist_mm: float | None = Field(default=None, ge=0, le=300)
    over_mm: float | None = Field(default=None, gt=0, le=20_000)  # the span it was read over; None: the whole piece


class Tap(Value):
    """A knock: its tone, how long it rang (to 1/e), and the size and weight of the piece at that time."""

    on: Day
    hz: float = Field(gt=0, le=20_000)
    decay_s: float | None = Field(default=None, gt=0, le=60)
    length_mm: float = Field(gt=0, le=20_000)
    width_mm: float = Field(gt=0, le=5000)
    thickness_mm: float = Field(gt=0, le=1000)
    density_kg_m3: float | None = Field(default=None, gt=0, le=2500)
    by: str = ""
    word: str = ""  # by ear


class Paper(Value):
    """Proof of origin: what it is, its number, the day."""

    kind: str = Field(min_length=1, max_length=60)
    number: str = ""
    on: DayOrEmpty = ""


class Surprise(Value):
    """A flaw that nobody saw when the piece came in."""

    on: Day
    what: str = Field(min_length=1, max_length=200)


class Supply(Value):
    """Where a piece came from, for how much, what was claimed of it, its papers, and what it hid."""

    supplier: str = Field(default="", max_length=80)
    price: Money | None = None
    age_claim: str = ""
    drying_claim: str = ""
    papers: tuple[Paper, ...] = ()
    surprises: tuple[Surprise, ...] = ()


class Happening(Value):
    """One line of a piece's own story."""

    on: Day
    what: str = Field(min_length=1, max_length=300)
