"""Every rule of a use looked at for one piece, whatever the place: what was found, what is wanted, whose rule it is, what would help.

A result holds, asks for something first ("if"), bars ("wont"), is switched off, or is a note. Bars and asks are the conditions that
the verdict is made of, so that the list of rules and the verdict never disagree.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace

from grainet.grade.facts import Facts
from grainet.grade.rules import density, gates, grain, moisture, notes, shape
from grainet.grade.rules.result import RuleResult
from grainet.grade.verdict import Reason, Word
from grainet.kit.uses import RULES, UseRule
from grainet.wood.units import lengths_in

OF_LENGTHS = frozenset({"core", "twist", "bow", "cup", "movement"})
Look = Callable[[Facts, UseRule], Iterator[RuleResult]]
# in the order in which a builder would look; a new rule is its function in a file of its family, and its name here
LOOKS: tuple[Look, ...] = (
    moisture.moisture, moisture.core, moisture.rest, grain.rings, grain.slope, density.density, gates.sweeps, gates.coating, gates.looks, shape.shape, shape.movement,
    notes.figure, notes.tap, notes.weight, notes.machines,
)  # fmt: skip


def lines(facts: Facts, rule: UseRule) -> list[RuleResult]:
    """Every rule of a use on a piece, in the order in which a builder would look."""
    known = facts.last_results
    if known is None or known[0] is not rule:
        found = [_strictly(_in_house(one, facts), rule) for look in LOOKS for one in look(facts, rule)]
        known = facts.last_results = (rule, found)
    return list(known[1])


def _in_house(one: RuleResult, facts: Facts) -> RuleResult:
    """A result whose every figure is a length, as the house reads lengths."""
    if facts.kit.length_style == "mm" or one.rule not in OF_LENGTHS:
        return one
    return replace(one, details={**one.details, "text": lengths_in(str(one.details["text"]), facts.kit.length_style)})


def _strictly(one: RuleResult, rule: UseRule) -> RuleResult:
    """A result under the shop's own strictness: off counts nothing, weigh asks where must would bar."""
    how = rule.strictness(one.rule)
    if one.outcome == "note" and how != "off":
        return one
    if how == "off" and one.rule in RULES and one.rule != "tap":
        return replace(one, outcome="off", weight=0.0)
    if how == "weigh" and one.outcome == "wont":
        return replace(one, outcome="if", taste=one.taste or f"that suits you: {one.details['text']}")
    return one


def conditions_of(facts: Facts, rule: UseRule) -> Iterator[tuple[Word, Reason]]:
    """What a piece does not simply meet, the barring ones first."""
    for one in asked_first(facts, rule):
        yield ("wont" if one.outcome == "wont" else "if"), one.reason


def asked_first(facts: Facts, rule: UseRule) -> list[RuleResult]:
    """The results that bar a piece or ask for something first, the barring ones first."""
    found = [one for one in lines(facts, rule) if one.outcome in ("if", "wont")]
    return sorted(found, key=lambda one: one.outcome != "wont")
