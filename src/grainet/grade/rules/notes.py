"""What is told and lowers the rank at most: figure, a knock, weight, machines."""

from __future__ import annotations

from collections.abc import Iterator

from grainet.grade.facts import Facts
from grainet.grade.rules.result import Outcome, RuleResult, result
from grainet.kit.machine import Stuff, Work, refusals, remarks
from grainet.kit.uses import UseRule
from grainet.wood.figure import house_word
from grainet.wood.tap import facts_of
from grainet.wood.weight import MEASURED_SPREAD, part_weight


def figure(facts: Facts, rule: UseRule) -> Iterator[RuleResult]:
    """Its strongest figure against the house's taste; it lowers the rank only, unless the house says must."""
    if rule.wants_figure is None:
        return
    strongest = max((f.strength or 0.0 for f in facts.piece.figure if f.kind != "plain"), default=0.0)
    named = next((f.word for f in facts.piece.figure if f.word), "") or house_word(strongest, facts.kit.figure_words)
    enough = strongest >= rule.wants_figure
    word: Outcome = (
        "holds" if enough else "wont" if rule.strictness("figure") == "must" else "note"
    )  # a taste lowers the rank only
    text = f"{named or 'plain'}, {strongest:.0%}" + ("" if enough else f", at least {rule.wants_figure:.0%}")
    yield result(
        rule, "figure", "Figure", word, strongest, found=strongest, wanted=rule.wants_figure, text=text, source="house taste"
    )


def tap(facts: Facts, rule: UseRule) -> Iterator[RuleResult]:
    """What the last knock says: recorded, and counted only where the shop gives it weight."""
    if not facts.piece.taps:
        return
    last = facts_of(facts.piece.taps[-1])
    stiff = f"{last.stiffness_gpa:.1f} GPa, " if last.stiffness_gpa else ""
    text = (
        f"{stiff}{last.speed_m_s:.0f} m/s"
        + (f", Q {last.quality:.0f}" if last.quality else "")
        + (f", radiates {last.radiation:.1f}" if last.radiation else "")
    )
    weight = facts.kit.rules.tap_weight or rule.weight("tap")
    details = {"found": text, "text": text, "source": "by ear or by measurement; weightless unless the house says so"}
    yield RuleResult("tap", "Knock", "note", details, min(1.0, last.speed_m_s / 6000), weight)


def weight(facts: Facts, rule: UseRule) -> Iterator[RuleResult]:
    """What the use's blank would weigh, with its spread; a finished part weighs less by what is shaped away."""
    known = facts.density if facts.density is not None else facts.species.density_12_kg_m3 if facts.species else None
    if known is None:
        return
    spread = MEASURED_SPREAD if facts.density is not None else facts.species.density_spread if facts.species else 0.1
    one = part_weight(rule.length_mm * rule.width_mm, rule.thickness_mm * rule.leaves, known, 0.0, spread, 1.0)
    yield result(
        rule,
        "weight",
        "Weight",
        "note",
        text=f"its blank weighs {one.message}",
        source="density at 12 % × size; finished weights: Ctrl+G in Lay out",
    )


def machines(facts: Facts, rule: UseRule) -> Iterator[RuleResult]:
    """What the shop's machines refuse of the use's blank, and what they take several passes for."""
    kit, another = facts.kit, "another method, or by hand; the manual decides"
    stuff = Stuff(rule.length_mm, rule.width_mm, rule.thickness_mm)
    works = (Work.THICKNESS, Work.FACE, Work.ROUT)
    found = [(text, another) for work in works for text in refusals(kit.machines, work, stuff, kit.length_style)]
    found += [(text, "") for text in remarks(kit.machines, kit.rule_mm, kit.cuts.skim_mm, rule.length_mm, kit.length_style)]
    for text, remedy in found:
        yield result(rule, "machines", "Machines", "note", text=text, source="the kit book", remedy=remedy)
