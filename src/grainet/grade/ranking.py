"""What is fit for a use, best first, and why not the others: now, after a wait or a deed, or never.

The rank is a weighed mean of how well each rule is met; the weights are the shop's own, and a tap counts nothing unless it says so.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from typing import Literal

from grainet.grade.facts import Facts
from grainet.grade.rulebook import lines
from grainet.grade.rules.result import RuleResult
from grainet.grade.verdict import Verdict
from grainet.kit.uses import UseRule

Group = Literal["now", "soon", "later", "unread", "never"]
GROUPS: tuple[Group, ...] = ("now", "soon", "later", "unread", "never")
SOON_DAYS = 31
READING_RULES = frozenset({"size"})
TOLD_FIRST = ("rings", "slope", "density", "figure", "movement", "moisture", "bow", "twist", "cup", "tap", "rest", "core")
RANK_NAMES = frozenset(TOLD_FIRST)


@dataclass(frozen=True)
class RankedPiece:
    """One piece's place: group, rank 0..1, how many it gives, days until it is ready (soonest, likely, latest), and why."""

    piece: str
    group: Group
    rank: float
    count: int
    days: tuple[float, float, float] | None
    reasons: tuple[str, ...]  # why it does not simply give, the first thing first
    best: tuple[str, ...]  # the rules that lift it
    worst: tuple[str, ...]  # the rules that hold it down
    todo: tuple[str, ...]  # what must be done or read first
    asked: bool = False  # whether it gives only after something, or if it suits

    @property
    def why(self) -> str:
        """The reasons in one line."""
        return "; ".join(self.reasons)

    @property
    def sort_key(self) -> tuple[int, float, int]:
        """Best first: the group, then the rank, then how many it gives."""
        return GROUPS.index(self.group), -round(self.rank, 6), -self.count


def standing_of(facts: Facts, rule: UseRule, verdict: Verdict, today: date, soon_days: int = SOON_DAYS) -> RankedPiece:
    """Where one piece stands for a use, from its verdict and its rule lines."""
    found = lines(facts, rule)
    counted = [
        line
        for line in found
        if line.weight > 0 and line.outcome != "off" and (line.outcome != "note" or line.rule in ("tap", "figure"))
    ]
    total = sum(line.weight for line in counted)
    rank = sum(line.weight * line.score for line in counted) / total if total else 0.0
    asks = sorted((line for line in found if line.outcome == "if"), key=lambda line: line.rule == "rings")  # deeds before tastes
    group, days = _group(facts, verdict, asks, today, soon_days)
    named = [line for line in counted if line.rule in RANK_NAMES and line.outcome == "holds" and line.score >= 0.6]
    best = tuple(line.brief for line in sorted(named, key=lambda v: TOLD_FIRST.index(v.rule))[:3])
    low = [line for line in counted if line.rule in RANK_NAMES and line.score < 0.5]
    worst = tuple(line.brief for line in sorted(low, key=lambda v: v.score)[:2])
    count = verdict.gives or verdict.gives_if
    return RankedPiece(
        facts.piece.id, group, rank, count, days, _why(verdict, group, asks), best, worst, tuple(line.text for line in asks), bool(asks) or not verdict.gives,
    )  # fmt: skip


def _group(
    facts: Facts, verdict: Verdict, asks: list[RuleResult], today: date, soon: int
) -> tuple[Group, tuple[float, float, float] | None]:
    if verdict.outcome == "wont":
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


def _why(verdict: Verdict, group: Group, asks: list[RuleResult]) -> tuple[str, ...]:
    if group == "never":
        causes = [r.text for s in verdict.stretches for r in s.reasons]
        return tuple(dict.fromkeys(causes[:3]))
    if asks:
        return (asks[0].text,)
    return () if verdict.gives or not verdict.main_reason else (verdict.main_reason,)


def ranked(rows: list[RankedPiece]) -> list[RankedPiece]:
    """Best first within each group, the groups from now to never."""
    return sorted(rows, key=lambda s: s.sort_key)
