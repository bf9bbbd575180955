"""The answer to a guitar: its blanks with their sums, its ways, its checks and its weight (``grainet-blanks``)."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from grainet.design.allowances import Allowances
from grainet.design.blank import Blank
from grainet.design.blanks import blanks_of
from grainet.design.checks import checks_of
from grainet.design.instrument import Instrument
from grainet.design.parts import label_of
from grainet.design.sums import Sum
from grainet.design.ways import ways_for
from grainet.design.weight import weight_of
from grainet.wood.species import SpeciesLibrary
from grainet.wood.value import Value


class TermSaid(Value):
    """One term of a sum."""

    what: str
    mm: float
    source: str = Field(alias="from")


class SizeSaid(Value):
    """A size: what the stock must measure, what is finished, and the terms that add up to the first."""

    mm: float
    finished_mm: float
    sum: tuple[TermSaid, ...]


class BlankSaid(Value):
    """One blank of the answer."""

    part: str
    member: str
    component: str
    way: str
    count: int
    leaves: int
    species_wish: tuple[str, ...] = ()
    length: SizeSaid
    width: SizeSaid
    thickness: SizeSaid
    footprint_mm: float | None = None
    label: str = Field(default="", alias="x-label")


class CheckSaid(Value):
    """One check of the answer."""

    what: str
    found: float
    wanted: float
    holds: bool
    why: str = Field(default="", alias="x-why")


class WeightSaid(Value):
    """Kilograms, and one standard deviation."""

    mean: float
    sd: float


class Blanks(Value):
    """The whole answer."""

    format: Literal["grainet-blanks"] = "grainet-blanks"
    version: Literal[1] = 1
    blanks: tuple[BlankSaid, ...]
    ways: dict[str, tuple[str, ...]]
    checks: tuple[CheckSaid, ...]
    weight_kg: WeightSaid
    guessed: tuple[str, ...] = Field(default=(), alias="x-guessed")


def blanks_answer(g: Instrument, kit: Allowances, library: SpeciesLibrary) -> Blanks:
    """What a guitar asks for, with a kit's losses."""
    from grainet.design.figures import FIGURES

    weight = weight_of(g, library)
    return Blanks(
        blanks=tuple(_said(blank) for blank in blanks_of(g, kit)), ways=ways_for(g),
        checks=tuple(CheckSaid(what=c.what, found=c.found, wanted=c.wanted, holds=c.holds, why=c.why) for c in checks_of(g)),
        weight_kg=WeightSaid(mean=round(weight.kg, 4), sd=round(weight.spread_kg, 4)),
        guessed=tuple(f.path for f in FIGURES if g.is_guessed(f.path)),
    )  # fmt: skip


def _said(blank: Blank) -> BlankSaid:
    return BlankSaid(
        part=blank.part, member=blank.member, component=blank.component, way=blank.way, count=blank.count, leaves=blank.leaves,
        species_wish=blank.species, length=_size(blank.length), width=_size(blank.width), thickness=_size(blank.thickness),
        footprint_mm=blank.footprint.mm if blank.footprint is not None else None, label=label_of(blank),
    )  # fmt: skip


def _size(size: Sum) -> SizeSaid:
    terms = tuple(TermSaid(what=t.what, mm=t.mm, source=t.source or t.what) for t in size.counted)
    return SizeSaid(mm=size.mm, finished_mm=size.finished_mm, sum=terms)
