"""Grain: ring angle and slope."""

from __future__ import annotations

from collections.abc import Iterator

from grainet.grade.facts import Facts
from grainet.grade.rules.result import RuleResult, result
from grainet.kit.uses import UseRule
from grainet.wood.rings import describe, least_angle
from grainet.wood.units import told_apart


def rings(facts: Facts, rule: UseRule) -> Iterator[RuleResult]:
    """The flatter of its two ends against the ring angle that the use needs."""
    if rule.least_ring_deg is None:
        return
    angles = facts.piece.ring_angle_deg
    angle = least_angle(angles)
    wanted = rule.least_ring_deg
    if angle is None:
        yield result(
            rule,
            "rings",
            "Rings",
            "if",
            0.3,
            wanted=wanted,
            text="its rings are read on both ends",
            source=rule.source,
            remedy="ring 38 36",
        )
        return
    form = ".1f" if angle < wanted and f"{angle:.0f}" == f"{wanted:.0f}" else ".0f"
    ends = "/".join(f"{a:{form}}°" for a in angles or () if a is not None) + f" {describe(angles)}"
    if angle >= wanted:
        yield result(rule, "rings", "Rings", "holds", 1.0, found=angle, wanted=wanted, text=ends, source=rule.source)
        return
    yield result(
        rule, "rings", "Rings", "wont", angle / wanted, found=angle, wanted=wanted, source="quarter preferred, flat allowed with a reason",
        text=f"rings too flat: {ends}, at least {wanted:.0f}°", taste=f"flatter rings suit you: {ends}, under {wanted:.0f}°",
        remedy="or turn it on edge and laminate",
    )  # fmt: skip


def slope(facts: Facts, rule: UseRule) -> Iterator[RuleResult]:
    """How far the grain runs off the axis on face 1."""
    slope, most = facts.piece.grain_slope_deg, rule.most_slope_deg
    if slope is None:
        if most <= 3:
            yield result(
                rule,
                "slope",
                "Slope",
                "if",
                0.4,
                wanted=most,
                text="its slope of grain is read",
                source=rule.source,
                remedy="slope 1.5",
            )
        return
    score = 1 - abs(slope) / (1.5 * most)
    if abs(slope) > most:
        yield result(
            rule, "slope", "Slope", "wont", score, found=slope, wanted=most, source=rule.source, remedy="lay the part along the grain",
            text="grain runs off: {}°, at most {}°".format(*told_apart(abs(slope), most, 1)),
        )  # fmt: skip
    else:
        yield result(
            rule,
            "slope",
            "Slope",
            "holds",
            score,
            found=slope,
            wanted=most,
            text=f"{abs(slope):.1f}° off the axis",
            source=rule.source,
        )
