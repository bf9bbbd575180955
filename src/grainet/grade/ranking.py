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
WAITING_RULES = frozenset({"moisture", "core", "rest"})
READING_RULES = frozenset({"size"})
RANK_NAMES = {
    "rings": "rings", "slope": "slope", "density": "density", "moisture": "moisture", "twist": "twist", "bow": "bow", "cup": "cup",
    "movement": "movement", "figure": "figure", "tap": "knock", "core": "core", "rest": "rest",
}  # fmt: skip


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
    counted = [line for line in found if line.weight > 0 and line.word != "off" and (line.word != "note" or line.rule == "tap")]
    total = sum(line.weight for line in counted)
    rank = sum(line.weight * line.score for line in counted) / total if total else 0.0
    asks = [line for line in found if line.word == "if"]
    group, days = _group(facts, verdict, asks, today, soon_days)
    named = [line for line in counted if line.rule in RANK_NAMES]
    best = tuple(line.reason.text for line in sorted(named, key=lambda v: -v.score * v.weight)[:2] if line.score >= 0.8)
    worst = tuple(line.reason.text for line in sorted(named, key=lambda v: v.score) if line.score < 0.5)[:2]
    count = verdict.gives or verdict.gives_if
    return Standing(
        facts.piece.id, group, rank, count, days, _why(verdict, group), best, worst, tuple(line.reason.text.removeprefix("if ") for line in asks)
    )  # fmt: skip


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
        return ("soon" if days[2] <= soon else "later"), days
    if any(line.rule == "rest" for line in asks):
        return "soon", None
    return "now" if not [line for line in asks if line.rule != "rings"] else "soon", None


def _why(verdict: Verdict, group: Group) -> str:
    if group == "never":
        causes = [r.text for s in verdict.stretches for r in s.reasons]
        return "; ".join(dict.fromkeys(causes[:3]))
    return verdict.main_reason


def ranked(rows: list[Standing]) -> list[Standing]:
    """Best first within each group, the groups from now to never."""
    return sorted(rows, key=lambda s: s.sort_key)
