"""Verdicts as values: what each stretch of a piece gives for a use, and the reasons with their numbers."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from grainet.wood.value import Value

Word = Literal["gives", "if", "wont"]


class Reason(Value):
    """One rule looked at: what was found, what is wanted, and the sentence that a person reads."""

    rule: str
    found: float | str | None = None
    wanted: float | str | None = None
    text: str
    source: str = Field(default="", alias="x-source")
    remedy: str = Field(default="", alias="x-remedy")


class RuleSaid(Value):
    """One rule of a use on a piece, met or not: what was found and wanted, whose rule it is, and what would change it."""

    rule: str
    label: str
    word: Literal["holds", "if", "wont", "off", "note"]
    found: float | str | None = None
    wanted: float | str | None = None
    text: str
    source: str = Field(default="", alias="x-source")
    remedy: str = Field(default="", alias="x-remedy")


class Stretch(Value):
    """One stretch along a piece, in mm from the marked end. ``slides_mm``: how far the part can slide within it.

    What the contract does not name is written under keys of our own (``x-``)."""

    from_mm: float
    to_mm: float
    verdict: Word
    count: int = 0
    slides_mm: float = Field(default=0.0, alias="x-slides_mm")
    reasons: tuple[Reason, ...] = ()


class Verdict(Value):
    """What one piece gives for one use."""

    piece: str
    use: str
    stretches: tuple[Stretch, ...] = ()
    rules: tuple[RuleSaid, ...] = Field(default=(), alias="x-rules")  # all of them, where a file is written

    @property
    def gives(self) -> int:
        """How many come of it as it lies."""
        return sum(s.count for s in self.stretches if s.verdict == "gives")

    @property
    def gives_if(self) -> int:
        """How many would come of it after what is written."""
        return sum(s.count for s in self.stretches if s.verdict == "if")

    @property
    def outcome(self) -> Word:
        """The verdict in a word: gives where anything does as it lies, else if, else wont."""
        if self.gives:
            return "gives"
        return "if" if any(s.verdict == "if" for s in self.stretches) else "wont"

    @property
    def main_reason(self) -> str:
        """The reason to say first: the first "if", or the first "won't"."""
        for word in ("if", "wont"):
            for stretch in self.stretches:
                if stretch.verdict == word and stretch.reasons and (word == "wont" or not self.gives):
                    return stretch.reasons[0].text
        return ""


class Grades(Value):
    """All verdicts of a job, as the exchange contract has them."""

    format: Literal["grainet-grades"] = "grainet-grades"
    version: Literal[1] = 1
    verdicts: tuple[Verdict, ...] = ()


def after_work(count: int) -> str:
    """How many a piece gives once something is done to it first."""
    return f"{count} possible, after work" if count else "possible, after work"
