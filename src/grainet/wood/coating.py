"""Old finish and treatment of a piece: what is declared, what that asks for, and what it closes until it is cleared.

The wording is general and defers to suitable tests and local rules; nothing here makes a coating safe by naming it.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from grainet.wood.value import DayOrEmpty, Value

Finish = Literal["", "none", "unknown", "paint", "varnish", "stain", "oil"]
Treatment = Literal["", "none", "unknown", "preservative", "decking", "railway", "fire_retardant"]
FINISHES: tuple[Finish, ...] = ("none", "unknown", "paint", "varnish", "stain", "oil")
TREATMENTS: tuple[Treatment, ...] = ("none", "unknown", "preservative", "decking", "railway", "fire_retardant")
MUST_BE_TESTED = frozenset({"unknown", "paint", "varnish", "stain"})  # old coats that may hold lead or other toxic matter
BARRED = frozenset({"unknown", "preservative", "decking", "railway", "fire_retardant"})


class CoatTest(Value):
    """A test of the old finish: the day, how, and whether it came out free of lead and other toxic matter."""

    on: DayOrEmpty
    how: str
    clean: bool


class Coating(Value):
    """What is declared of a piece's old finish and treatment; an empty word is "not declared"."""

    finish: Finish = ""
    treatment: Treatment = ""
    tests: tuple[CoatTest, ...] = ()
    known_safe: str = ""  # why a treated piece may be worked after all, in the owner's words

    @property
    def tested_clean(self) -> bool:
        """Whether the last test found nothing toxic."""
        return bool(self.tests) and self.tests[-1].clean

    @property
    def wants_test(self) -> bool:
        """An old coat that nobody has tested yet."""
        return self.finish in MUST_BE_TESTED and not self.tests

    @property
    def holds_poison(self) -> bool:
        """Whether the last test found something toxic."""
        return bool(self.tests) and not self.tests[-1].clean

    @property
    def barred(self) -> bool:
        """Treated wood that is not for an instrument while its treatment is not known to be safe."""
        return self.treatment in BARRED and not self.known_safe


@dataclass(frozen=True)
class Consequence:
    """What a declaration brings with it: its code, the caution's grade and text, what it closes, how that is cleared, and why in short."""

    code: Literal["treatment", "untested", "poison", "oiled", "finish_undeclared", "treatment_undeclared"]
    grade: Literal["A", "B", "C"]
    text: str
    closes: Literal["", "machining", "use"] = ""
    cleared_by: str = ""
    short: str = ""


def consequences(coating: Coating, *, reclaimed: bool) -> tuple[Consequence, ...]:
    """Every consequence of a piece's coating, the gravest first; reclaimed wood needs a declaration at all."""
    found: list[Consequence] = []
    if coating.barred:
        word = coating.treatment.replace("_", " ")
        found.append(
            Consequence(
                "treatment",
                "A",
                f"Treatment {word}: do not machine, sand, burn or use it for an instrument unless it is known and safe; "
                "keep it off bare skin and never burn its offcuts.",
                "use",
                "treated safe, and why",
                f"Treatment {word}",
            )
        )
    if coating.wants_test:
        found.append(
            Consequence(
                "untested",
                "A",
                f"Old finish ({coating.finish}): it may hold lead or other toxic matter. Do not sand, scrape dry or burn it until it is "
                "tested by a suitable method; follow local rules. Fitted respirator and extraction for what comes after.",
                "machining",
                "tested clean, or tested lead",
                f"Old finish ({coating.finish})",
            )
        )
    if coating.holds_poison:
        found.append(
            Consequence(
                "poison",
                "A",
                f"Old finish tested {coating.tests[-1].on} and not clean: follow local rules for lead work; it stays out of use here.",
                "use",
                "another test",
                f"Old finish tested {coating.tests[-1].on} and not clean",
            )
        )
    if coating.finish == "oil":
        found.append(
            Consequence(
                "oiled", "B", "Oiled: fresh surface before glue; oily rags can heat by themselves: spread them flat outdoors."
            )
        )
    if reclaimed and not coating.finish:
        found.append(
            Consequence(
                "finish_undeclared",
                "B",
                "Reclaimed, old finish not declared: treat it as unknown.",
                "machining",
                "finish none, or what it is",
            )
        )
    if reclaimed and not coating.treatment:
        found.append(
            Consequence("treatment_undeclared", "B", "Reclaimed, treatment not declared.", "", "treated none, or what it is")
        )
    return tuple(found)
