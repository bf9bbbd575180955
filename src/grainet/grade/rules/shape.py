"""Twist, bow and cup, and how much it moves over a year."""

from __future__ import annotations

from collections.abc import Iterator

from grainet.grade.facts import Facts
from grainet.grade.rules.result import Outcome, RuleResult, result
from grainet.kit.uses import UseRule
from grainet.wood.flatness import twist_over
from grainet.wood.movement import face_change_mm
from grainet.wood.rings import least_angle
from grainet.wood.units import told_apart


def shape(facts: Facts, rule: UseRule) -> Iterator[RuleResult]:
    """Twist, bow and cup as they are over the part's own size; what is unread of them counts as flat in the loss chain too."""
    flat = facts.piece.flatness
    x0, y0, x1, y1 = facts.piece.extents
    long, wide = max(1.0, x1 - x0), max(1.0, y1 - y0)
    rows: list[tuple[str, str, float, float | None, str]] = [
        ("twist", "Twist", twist_over(flat, min(rule.length_mm, long), rule.width_mm, long, wide), rule.most_twist_mm, "twisted"),
        ("bow", "Bow", flat.bow_mm * (min(rule.length_mm, long) / (flat.bow_span_mm or long)) ** 2, rule.most_bow_mm, "bowed"),
    ]
    for name, label, value, most, word in rows:
        if most is None:
            continue
        if value > most:
            yield result(
                rule, name, label, "wont", 0.0, found=round(value, 2), wanted=most, source=rule.source, remedy="shorten or rip before flattening",
                text=word + ": {} over the part, at most {}".format(*told_apart(value, most, 1)),
            )  # fmt: skip
        else:
            yield result(
                rule,
                name,
                label,
                "holds",
                1 - value / most,
                found=round(value, 1),
                wanted=most,
                text=f"{value:.1f} over the part",
                source=rule.source,
            )
    if rule.most_cup_mm is not None:
        cup = flat.cup_mm * (wide / (flat.cup_span_mm or wide)) ** 2  # a plate is taken whole, so its whole cup counts
        word_: Outcome = "wont" if cup > rule.most_cup_mm else "holds"
        told = told_apart(cup, rule.most_cup_mm, 1)
        text = f"cup too deep: {told[0]}, a plate allows {told[1]}" if word_ == "wont" else f"{cup:.1f}"
        yield result(
            rule,
            "cup",
            "Cup",
            word_,
            1 - cup / rule.most_cup_mm,
            found=cup,
            wanted=rule.most_cup_mm,
            text=text,
            source=rule.source,
        )


def movement(facts: Facts, rule: UseRule) -> Iterator[RuleResult]:
    """How much its width moves between the year's driest and dampest air."""
    if rule.most_movement_mm is None or facts.species is None:
        return
    angle = least_angle(facts.piece.ring_angle_deg)
    both, year = (facts.species.shrink_tangential_pct, facts.species.shrink_radial_pct), facts.year
    moves = face_change_mm(
        rule.width_mm, *both, year.driest_pct, year.dampest_pct, angle if angle is not None else 0.0, facts.piece.heart_mm
    )
    word: Outcome = "wont" if moves > rule.most_movement_mm else "holds"
    found, most = told_apart(moves, rule.most_movement_mm, 1) if word == "wont" else (f"{moves:.1f}", "")
    text = f"moves {found} a year across {rule.width_mm:.0f}" + (f", at most {most}" if most else "")
    yield result(
        rule, "movement", "Movement", word, 1 - moves / (2 * rule.most_movement_mm), found=round(moves, 2), wanted=rule.most_movement_mm,
        text=text, source="the shop's year of air", remedy="quartered wood moves about half as much",
    )  # fmt: skip
