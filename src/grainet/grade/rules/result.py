"""One rule looked at for one piece, and how it is said."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Any, Literal

from grainet.grade.verdict import Reason
from grainet.kit.uses import UseRule

Outcome = Literal["holds", "if", "wont", "off", "note"]


@dataclass(frozen=True)
class RuleResult:
    """One rule looked at. ``details`` hold what was found and is wanted, the bare phrase, source and remedy; ``score`` 0..1 says how well
    it is met, ``weight`` what it counts when pieces are ranked. What a rule asks for is a deed (read it, dry it) or a taste."""

    rule: str
    label: str
    outcome: Outcome
    details: Mapping[str, Any]
    score: float = 1.0
    weight: float = 1.0
    taste: str = ""  # the phrase where it asks for a taste

    @cached_property
    def reason(self) -> Reason:
        """The result as a reason; made when asked for, since most results of a large rack simply hold."""
        return Reason(rule=self.rule, **{**self.details, "text": self.text})

    @property
    def text(self) -> str:
        """What is said of it: a condition begins with "if"."""
        return f"if {self.phrase}" if self.outcome == "if" else self.phrase

    @property
    def phrase(self) -> str:
        """The same without its "if"."""
        return self.taste if self.outcome == "if" and self.taste else str(self.details["text"])

    @property
    def brief(self) -> str:
        """The phrase with the rule's name, where it does not name itself: "rings 82°/80° quarter"."""
        if self.outcome == "if" and not self.taste:
            return self.text
        text = str(self.details["text"])
        return text if self.outcome in ("wont", "if") else f"{self.label.lower()} {text}"


def result(
    rule: UseRule, name: str, label: str, outcome: Outcome, score: float = 1.0, taste: str = "", **details: object
) -> RuleResult:
    """A result of a rule with the weight that the use gives it; ``details`` are what was found and wanted, text, source, remedy."""
    return RuleResult(name, label, outcome, details, max(0.0, min(1.0, score)), rule.weight(name), taste)
