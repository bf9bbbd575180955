"""Density, and whether it speaks for the species."""

from __future__ import annotations

from collections.abc import Iterator

from grainet.grade.facts import Facts
from grainet.grade.rules.result import RuleResult, result
from grainet.kit.uses import UseRule
from grainet.wood.units import told_apart


def density(facts: Facts, rule: UseRule) -> Iterator[RuleResult]:
    """Whether it is as heavy as the use needs, weighed or by its species; a note where the weight speaks against the name."""
    low, high = rule.density_kg_m3
    known: float | None = (
        facts.density if facts.density is not None else facts.species.density_12_kg_m3 if facts.species else None
    )
    measured = "weighed" if facts.density is not None else "the species' mean"
    if known is None:
        yield result(
            rule,
            "density",
            "Density",
            "if",
            0.3,
            wanted=low,
            text="it is weighed: no weight, no species",
            source=rule.source,
            remedy="kg 31.4",
        )
        return
    middle, half = (low + high) / 2, (high - low) / 2 or 1
    score = 1 - 0.5 * abs(known - middle) / half
    if known < low:
        yield result(
            rule,
            "density",
            "Density",
            "wont",
            0.0,
            found=round(known),
            wanted=low,
            text="too soft: {} kg/m³, at least {}".format(*told_apart(known, low, 0)),
            source=rule.source,
        )
    elif known > high:
        yield result(
            rule, "density", "Density", "wont", 0.0, found=round(known), wanted=high, source=rule.source,
            text="too heavy: {} kg/m³, at most {}".format(*told_apart(known, high, 0)),
        )  # fmt: skip
    else:
        yield result(
            rule,
            "density",
            "Density",
            "holds",
            score,
            found=round(known),
            wanted=low,
            text=f"{known:.0f} kg/m³, {measured}",
            source=rule.source,
        )
    if facts.question:
        yield result(rule, "density", "Species", "note", text=facts.question, source="the measured density against its species")
