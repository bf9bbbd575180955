"""A size as a sum: its terms in order, each with its name, its amount and where it comes from. No size is a bare number."""

from __future__ import annotations

import math
from typing import Self

from pydantic import Field

from grainet.wood.units import MM_PER_INCH, LengthStyle
from grainet.wood.value import Value


class Term(Value):
    """One term, mm. ``source`` says in words where it comes from, ``figure`` names the figure that decides it (``scale_mm``), or the
    kit's loss (``kit.trim_mm``); ``lost`` where work takes it away again before the part is finished."""

    what: str
    mm: float
    source: str = Field(default="", alias="from")
    figure: str = ""
    lost: bool = False


class Sum(Value):
    """A size that stock must have, as the terms that make it; ``off`` names terms that are switched off and count for nothing."""

    terms: tuple[Term, ...]
    off: frozenset[str] = frozenset()

    @property
    def counted(self) -> tuple[Term, ...]:
        """The terms that count."""
        return tuple(t for t in self.terms if t.what not in self.off)

    @property
    def mm(self) -> float:
        """What the stock must measure."""
        return math.fsum(t.mm for t in self.counted)

    @property
    def finished_mm(self) -> float:
        """What the finished part measures: the terms that no work takes away again."""
        return math.fsum(t.mm for t in self.counted if not t.lost)

    def plus(self, *terms: Term) -> Self:
        """The sum with further terms; those of 0 are left out."""
        return self.changed(terms=(*self.terms, *(t for t in terms if t.mm)))

    def without(self, what: str) -> Self:
        """The sum with a term switched off."""
        return self.changed(off=self.off | {what})

    @property
    def text(self) -> str:
        """In words: "657.8 = 459.8 nut to the end of the board + 178 head + 20 two ends trimmed"."""
        return self.told("mm")

    def told(self, style: LengthStyle) -> str:
        """The same as a house reads it: in inches to thousandths, since fractions that are rounded one by one do not add up."""
        figures, unit = (1, 1.0) if style == "mm" else (3, MM_PER_INCH)

        def figure(mm: float) -> str:
            return f"{mm / unit:.{figures}f}".rstrip("0").rstrip(".")

        terms = " + ".join(f"{figure(t.mm)} {t.what}" for t in self.counted)
        return f"{figure(self.mm)} = {terms}".replace("+ -", "− ")


def given(what: str, mm: float, source: str, figure: str = "") -> Term:
    """A term that stays in the finished part."""
    return Term(what=what, mm=mm, source=source, figure=figure)


def taken(what: str, mm: float, source: str, figure: str = "") -> Term:
    """A term that work takes away again."""
    return Term(what=what, mm=mm, source=source, figure=figure, lost=True)


def sum_of(*terms: Term) -> Sum:
    """A sum of terms; those of 0 are left out, but not the last one that is left."""
    kept = tuple(t for t in terms if t.mm)
    return Sum(terms=kept or terms[:1])
