"""What is fit for a use, best first, and why not the others: now, after a wait or a deed, or never.

The rank is a weighed mean of how well each rule is met; the weights are the shop's own, and a tap counts nothing unless it says so.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from typing import Literal

from grainet.grade.facts import Facts
from grainet.grade.rulebook import Line, lines
from grainet.grade.verdict import Verdict
from grainet.kit.uses import UseRule

Group = Literal["now", "soon", "later", "unread", "never"]
GROUPS: tuple[Group, ...] = ("now", "soon", "later", "unread", "never")
SOON_DAYS = 31
READING_RULES = frozenset({"size"})
TOLD_FIRST = ("rings", "slope", "density", "figure", "movement", "moisture", "bow", "twist", "cup", "tap", "rest", "core")
RANK_NAMES = frozenset(TOLD_FIRST)


@dataclass(frozen=True)
class Standing:
    """One piece's place: group, rank 0..1, how many it gives, days until it is ready (soonest, likely, latest), and why."""

    piece: str
    group: Group
    rank: float
    count: int
    days: tuple[float, float, float] | None
    why: str
    best: tuple[str, ...]  # the rules that lift it
    worst: tuple[str, ...]  # the rules that hold it down
    todo: tuple[str, ...]  # what must be done or read first

    @property
    def sort_key(self) -> tuple[int, float, int]:
        return GROUPS.index(self.group), -round(self.rank, 6), -self.count


def standing_of(facts: Facts, rule: UseRule, verdict: Verdict, today: date, soon_days: int = SOON_DAYS) -> Standing:
    """Where one piece stands for a use, from its verdict and its rule lines."""
    found = lines(facts, rule)
    counted = [
        line
        for line in found
        if line.weight > 0 and line.word != "off" and (line.word != "note" or line.rule in ("tap", "figure"))
    ]
    total = sum(line.weight for line in counted)
    rank = sum(line.weight * line.score for line in counted) / total if total else 0.0
    asks = sorted((line for line in found if line.word == "if"), key=lambda line: line.rule == "rings")  # deeds before tastes
    group, days = _group(facts, verdict, asks, today, soon_days)
    named = [line for line in counted if line.rule in RANK_NAMES and line.word == "holds" and line.score >= 0.6]
    best = tuple(_short(line) for line in sorted(named, key=lambda v: TOLD_FIRST.index(v.rule))[:3])
    low = [line for line in counted if line.rule in RANK_NAMES and line.score < 0.5]
    worst = tuple(_short(line) for line in sorted(low, key=lambda v: v.score)[:2])
    count = verdict.gives or verdict.gives_if
    return Standing(
        facts.piece.id, group, rank, count, days, _why(verdict, group, asks), best, worst, tuple(line.reason.text for line in asks)
    )  # fmt: skip


def _short(line: Line) -> str:
    """A rule's line with its name: "rings 82°/80° quarter"."""
    text = line.reason.text.removeprefix("if that suits you: ")
    return text if text.startswith(("if ", "too ", "grain ")) else f"{line.label.lower()} {text}"


def _group(
    facts: Facts, verdict: Verdict, asks: list[Line], today: date, soon: int
) -> tuple[Group, tuple[float, float, float] | None]:
    if verdict.word == "wont":
        return "never", None
    if any(r.rule in READING_RULES for s in verdict.stretches for r in s.reasons):
        return "unread", None
    ready = facts.ready
    days = None
    if ready.word == "waits" and any(line.rule == "moisture" for line in asks):
        first, likely, last = ready.dates(today)
        days = (float((first - today).days), float((likely - today).days), float((last - today).days))
    if verdict.gives and not asks:
        return "now", None
    unread = [line for line in asks if line.reason.found is None and line.rule not in ("metal", "coating")]
    if unread or any(line.rule == "core" for line in asks):
        return "unread", days
    if days is not None:
        return ("soon" if days[1] <= soon else "later"), days
    if any(line.rule == "rest" for line in asks):
        return "soon", None
    return "now" if not [line for line in asks if line.rule != "rings"] else "soon", None


def _why(verdict: Verdict, group: Group, asks: list[Line]) -> str:
    if group == "never":
        causes = [r.text for s in verdict.stretches for r in s.reasons]
        return "; ".join(dict.fromkeys(causes[:3]))
    if asks or not verdict.gives:
        return asks[0].reason.text if asks else verdict.main_reason
    return ""


def ranked(rows: list[Standing]) -> list[Standing]:
    """Best first within each group, the groups from now to never."""
    return sorted(rows, key=lambda s: s.sort_key)
