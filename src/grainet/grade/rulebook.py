"""Every rule of a use looked at for one piece, whatever the place: what was found, what is wanted, whose rule it is, what would help.

A result holds, asks for something first ("if"), bars ("wont"), is switched off, or is a note. Bars and asks are the conditions that
the verdict is made of, so that the list of rules and the verdict never disagree.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Any, Literal

from grainet.grade.facts import Facts
from grainet.grade.verdict import Reason, Word
from grainet.kit.shop_limits import MachineStep, refusals, remarks
from grainet.kit.uses import RULES, UseRule
from grainet.wood.coating import consequences
from grainet.wood.figure import house_word
from grainet.wood.flatness import twist_over
from grainet.wood.movement import face_change_mm
from grainet.wood.rings import describe, least_angle
from grainet.wood.tap import facts_of
from grainet.wood.units import format_length
from grainet.wood.weight import MEASURED_SPREAD, part_weight

Outcome = Literal["holds", "if", "wont", "off", "note"]
METER_RULE = "moisture against the shop's equilibrium"


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


def lines(facts: Facts, rule: UseRule) -> list[RuleResult]:
    """Every rule of a use on a piece, in the order in which a builder would look."""
    known = facts.last_results
    if known is None or known[0] is not rule:
        known = facts.last_results = (rule, [_strictly(one, rule) for look in LOOKS for one in look(facts, rule)])
    return list(known[1])


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


def _result(
    rule: UseRule, name: str, label: str, outcome: Outcome, score: float = 1.0, taste: str = "", **details: object
) -> RuleResult:
    return RuleResult(name, label, outcome, details, max(0.0, min(1.0, score)), rule.weight(name), taste)


def _moisture(facts: Facts, rule: UseRule) -> Iterator[RuleResult]:
    target, state, ready = facts.kit.target_moisture_pct, facts.moisture, facts.ready_or_not
    over = rule.moisture_over_pct
    limit = target + over
    if state.worst_pct is None:
        yield _result(
            rule, "moisture", "Moisture", "if", 0.0, wanted=f"{target:.1f} %", text="its moisture is read", source=METER_RULE, remedy="mc 8.4"
        )  # fmt: skip
        return
    settled = ready.word == "ready" and ready.by in ("weighings", "your word")
    worst = (
        ready.worst_pct
        if settled and ready.worst_pct is not None
        else max((r.moisture_pct for r in facts.piece.moisture_now), key=lambda m: abs(m - target))
    )
    score = 1 - abs(worst - target) / (2 * over or 1)
    if worst > limit and not settled:
        yield _result(
            rule, "moisture", "Moisture", "if", score, found=worst, wanted=round(limit, 1), source=METER_RULE, remedy=_days(facts, worst),
            text=f"it dries first: {worst:.1f} %, wants {limit:.1f}",
        )  # fmt: skip
    elif worst < target - over and not settled:
        yield _result(
            rule, "moisture", "Moisture", "if", score, found=worst, wanted=round(target - over, 1), source=METER_RULE, remedy=_days(facts, worst),
            text=f"it takes up moisture first: {worst:.1f} %, wants {target - over:.1f}",
        )  # fmt: skip
    else:
        text = f"{worst:.1f} % in air of {target:.1f}" + (f", spread {state.spread_pct:.1f}" if state.spread_pct >= 0.5 else "")
        yield _result(
            rule, "moisture", "Moisture", "holds", score, found=worst, wanted=round(limit, 1), text=text, source=METER_RULE
        )


def _days(facts: Facts, worst_pct: float) -> str:
    """How long the way to the air is, as it lies, and what it does to the width; worked out only for what is not there yet."""
    ready, target = facts.ready, facts.kit.target_moisture_pct
    return f"about {ready.soonest:.0f} to {ready.latest:.0f} days {_stacked(facts)}{_moves(facts, worst_pct, target)}"


def _moves(facts: Facts, from_pct: float, to_pct: float) -> str:
    """How much narrower or wider the whole piece gets on the way: "; 200 wide gets 1.5 narrower"."""
    _, y0, _, y1 = facts.piece.extents
    if facts.species is None or y1 - y0 <= 0:
        return ""
    angle = least_angle(facts.piece.ring_angle_deg)
    both = (facts.species.shrink_tangential_pct, facts.species.shrink_radial_pct)
    change = face_change_mm(y1 - y0, *both, from_pct, to_pct, angle or 0.0, facts.piece.heart_mm)
    return f"; {y1 - y0:.0f} wide gets {abs(change):.1f} {'narrower' if change < 0 else 'wider'}"


def _stacked(facts: Facts) -> str:
    from grainet.wood.settling import STACKING_WORDS

    return STACKING_WORDS[facts.piece.stacking]


def _core(facts: Facts, rule: UseRule) -> Iterator[RuleResult]:
    state, thickness = facts.moisture, facts.piece.least_thickness_mm
    if state.worst_pct is None or not rule.core_matters or not state.has_core:
        return
    if state.core_read:
        yield _result(
            rule, "core", "Core", "holds", found=state.deepest_mm, wanted=thickness, source="a reading speaks only for its depth",
            text=f"read {state.deepest_mm:.0f} deep of {thickness:.0f}",
        )  # fmt: skip
        return
    yield _result(
        rule, "core", "Core", "if", 0.3, found=state.deepest_mm, wanted=thickness, source="a reading speaks only for its depth",
        remedy="long pins, or a cut sample: sample 52.4 48.1", text=f"its core is read: the pins reach {state.deepest_mm:.0f} of {thickness:.0f}",
    )  # fmt: skip


def _rest(facts: Facts, rule: UseRule) -> Iterator[RuleResult]:
    state, gate = facts.rest, facts.kit.rules.rest_gate(rule.use)
    source = "house rule: how a moving piece is used"
    if state.word == "unread" or gate == "off":
        return
    if state.word == "settled" or facts.piece.rest_waived:
        why = f" ({facts.piece.rest_waived})" if facts.piece.rest_waived and state.word != "settled" else ""
        yield _result(
            rule,
            "rest",
            "Rest",
            "holds",
            text=state.said + why,
            found=state.still_days,
            wanted=facts.kit.rules.rest_days,
            source=source,
        )
        return
    text = (
        f"it stops moving: {state.said}"
        if state.word == "moving"
        else f"it stays still: {state.said}, wants {facts.kit.rules.rest_days}"
    )
    outcome: Outcome = "if"
    if gate != "block":
        outcome, text = "note", state.said
    yield _result(
        rule, "rest", "Rest", outcome, 0.2, found=round(state.last_move_mm, 1), wanted=facts.kit.rules.rest_within_mm, text=text,
        source=source, remedy="rest 2.0 logs its bow today; waive says why not to wait",
    )  # fmt: skip


def _rings(facts: Facts, rule: UseRule) -> Iterator[RuleResult]:
    if rule.least_ring_deg is None:
        return
    angles = facts.piece.ring_angle_deg
    angle = least_angle(angles)
    wanted = rule.least_ring_deg
    if angle is None:
        yield _result(
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
    ends = "/".join(f"{a:.0f}°" for a in angles or () if a is not None) + f" {describe(angles)}"
    if angle >= wanted:
        yield _result(rule, "rings", "Rings", "holds", 1.0, found=angle, wanted=wanted, text=ends, source=rule.source)
        return
    yield _result(
        rule, "rings", "Rings", "wont", angle / wanted, found=angle, wanted=wanted, source="quarter preferred, flat allowed with a reason",
        text=f"rings too flat: {ends}, wants {wanted:.0f}°", taste=f"flatter rings suit you: {ends}, wants {wanted:.0f}°",
        remedy="or turn it on edge and laminate",
    )  # fmt: skip


def _slope(facts: Facts, rule: UseRule) -> Iterator[RuleResult]:
    slope, most = facts.piece.grain_slope_deg, rule.most_slope_deg
    if slope is None:
        if most <= 3:
            yield _result(
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
        yield _result(
            rule, "slope", "Slope", "wont", score, found=slope, wanted=most, source=rule.source, remedy="lay the part along the grain",
            text=f"grain runs off: {abs(slope):.1f}°, wants {most:.0f}° or less",
        )  # fmt: skip
    else:
        yield _result(
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


def _density(facts: Facts, rule: UseRule) -> Iterator[RuleResult]:
    low, high = rule.density_kg_m3
    known = facts.density if facts.density is not None else facts.species.density_12_kg_m3 if facts.species else None
    measured = "weighed" if facts.density is not None else "the species' mean"
    if known is None:
        yield _result(
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
        yield _result(
            rule,
            "density",
            "Density",
            "wont",
            0.0,
            found=round(known),
            wanted=low,
            text=f"too soft: {known:.0f} kg/m³, wants {low:.0f}",
            source=rule.source,
        )
    elif known > high:
        yield _result(
            rule, "density", "Density", "wont", 0.0, found=round(known), wanted=high, source=rule.source,
            text=f"too heavy: {known:.0f} kg/m³, wants {high:.0f} or less",
        )  # fmt: skip
    else:
        yield _result(
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
        yield _result(rule, "density", "Species", "note", text=facts.question, source="the measured density against its species")


def _sweeps(facts: Facts, rule: UseRule) -> Iterator[RuleResult]:
    for face in facts.piece.unswept_faces:
        yield _result(
            rule, "metal", "Metal", "if", 0.5, wanted="a sweep", text=f"face {face} is swept for metal", source="reclaimed wood",
            remedy="detectors miss small and deep metal; look as well",
        )  # fmt: skip


def _coating(facts: Facts, rule: UseRule) -> Iterator[RuleResult]:
    """Old finish and treatment: what bars the piece from use, and what must be tested or declared first."""
    coating, source = facts.piece.coating, "old finish and treatment"
    for one in consequences(coating, facts.piece.reclaimed):
        if one.closes == "use":
            text = (
                f"treated ({coating.treatment.replace('_', ' ')}): not for an instrument unless known safe"
                if coating.barred
                else "its old finish was tested and is not clean"
            )
            yield _result(
                rule, "coating", "Coating", "wont", 0.0, wanted=one.cleared_by, text=text, source=source, remedy=one.cleared_by
            )
        elif one.closes == "machining":
            what = "is tested" if coating.finish else "is declared"
            text = f"its old finish ({coating.finish}) {what}" if coating.finish else f"its old finish {what}"
            yield _result(
                rule, "coating", "Coating", "if", 0.5, wanted=one.cleared_by, text=text, source=source, remedy=one.cleared_by
            )


def _shape(facts: Facts, rule: UseRule) -> Iterator[RuleResult]:
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
            yield _result(
                rule, name, label, "wont", 0.0, found=round(value, 2), wanted=most, source=rule.source, remedy="shorten or rip before flattening",
                text=f"{word}: {format_length(value)} over the part, wants {most:g} or less",
            )  # fmt: skip
        else:
            yield _result(
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
        text = f"cup too deep: {cup:.1f}, a plate allows {rule.most_cup_mm:.1f}" if word_ == "wont" else f"{cup:.1f}"
        yield _result(
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


def _movement(facts: Facts, rule: UseRule) -> Iterator[RuleResult]:
    if rule.most_movement_mm is None or facts.species is None:
        return
    angle = least_angle(facts.piece.ring_angle_deg)
    both, year = (facts.species.shrink_tangential_pct, facts.species.shrink_radial_pct), facts.year
    moves = face_change_mm(
        rule.width_mm, *both, year.driest_pct, year.dampest_pct, angle if angle is not None else 0.0, facts.piece.heart_mm
    )
    word: Outcome = "wont" if moves > rule.most_movement_mm else "holds"
    text = f"moves {moves:.1f} a year across {rule.width_mm:.0f}" + (
        f", wants {rule.most_movement_mm:g}" if word == "wont" else ""
    )
    yield _result(
        rule, "movement", "Movement", word, 1 - moves / (2 * rule.most_movement_mm), found=round(moves, 2), wanted=rule.most_movement_mm,
        text=text, source="the shop's year of air", remedy="quartered wood moves about half as much",
    )  # fmt: skip


def _figure(facts: Facts, rule: UseRule) -> Iterator[RuleResult]:
    if rule.wants_figure is None:
        return
    strongest = max((f.strength or 0.0 for f in facts.piece.figure if f.kind != "plain"), default=0.0)
    named = next((f.word for f in facts.piece.figure if f.word), "") or house_word(strongest, facts.kit.figure_words)
    enough = strongest >= rule.wants_figure
    word: Outcome = (
        "holds" if enough else "wont" if rule.strictness("figure") == "must" else "note"
    )  # a taste lowers the rank only
    text = f"{named or 'plain'}, {strongest:.0%}" + ("" if enough else f", wants {rule.wants_figure:.0%}")
    yield _result(
        rule, "figure", "Figure", word, strongest, found=strongest, wanted=rule.wants_figure, text=text, source="house taste"
    )


def _tap(facts: Facts, rule: UseRule) -> Iterator[RuleResult]:
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


def _machines(facts: Facts, rule: UseRule) -> Iterator[RuleResult]:
    kit, another = facts.kit, "another method, or by hand; the manual decides"
    steps: tuple[MachineStep, ...] = ("thicknesser", "planer", "router")
    found = [
        (text, another)
        for step in steps
        for text in refusals(kit.cuts.machines, kit.limits, step, rule.length_mm, rule.width_mm, rule.thickness_mm)
    ]
    found += [(text, "") for text in remarks(kit.limits, kit.cuts.skim_mm, rule.length_mm)]
    for text, remedy in found:
        yield _result(rule, "machines", "Machines", "note", text=text, source="the kit book", remedy=remedy)


def _weight(facts: Facts, rule: UseRule) -> Iterator[RuleResult]:
    """What the use's blank would weigh, with its spread; a finished part weighs less by what is shaped away."""
    known = facts.density if facts.density is not None else facts.species.density_12_kg_m3 if facts.species else None
    if known is None:
        return
    spread = MEASURED_SPREAD if facts.density is not None else facts.species.density_spread if facts.species else 0.1
    one = part_weight(rule.length_mm * rule.width_mm, rule.thickness_mm * rule.leaves, known, 0.0, spread, 1.0)
    yield _result(
        rule,
        "weight",
        "Weight",
        "note",
        text=f"its blank weighs {one.said}",
        source="density at 12 % × size; finished weights: Ctrl+G in Lay out",
    )


LOOKS: tuple[Callable[[Facts, UseRule], Iterator[RuleResult]], ...] = (
    _moisture, _core, _rest, _rings, _slope, _density, _sweeps, _coating, _shape, _movement, _figure, _tap, _weight, _machines,
)  # fmt: skip
