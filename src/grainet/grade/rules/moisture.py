"""Moisture: of the readings, of the core, and whether the wood has stopped moving."""

from __future__ import annotations

from collections.abc import Iterator

from grainet.grade.facts import Facts
from grainet.grade.rules.result import Outcome, RuleResult, result
from grainet.kit.uses import UseRule
from grainet.wood.movement import face_change_mm
from grainet.wood.rings import least_angle
from grainet.wood.units import tell_length, told_apart

EPS_PCT = 1e-6  # sums of decimals that are equal on paper
METER_RULE = "moisture against the shop's equilibrium"


def moisture(facts: Facts, rule: UseRule) -> Iterator[RuleResult]:
    """The reading furthest from the shop's air against what the use allows."""
    target, state, ready = facts.kit.target_moisture_pct, facts.moisture, facts.ready_or_not
    over = rule.moisture_over_pct
    least, limit = target - over, target + over
    if state.worst_pct is None:
        yield result(
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
    if worst > limit + EPS_PCT and not settled:
        yield result(
            rule, "moisture", "Moisture", "if", score, found=worst, wanted=round(limit, 1), source=METER_RULE, remedy=_days(facts, worst),
            text="it dries first: {} %, at most {}".format(*told_apart(worst, limit, 1)),
        )  # fmt: skip
    elif worst < least - EPS_PCT and not settled:
        yield result(
            rule, "moisture", "Moisture", "if", score, found=worst, wanted=round(least, 1), source=METER_RULE, remedy=_days(facts, worst),
            text="it takes up moisture first: {} %, at least {}".format(*told_apart(worst, least, 1)),
        )  # fmt: skip
    else:
        text = f"{worst:.1f} % in air of {target:.1f}" + (f", spread {state.spread_pct:.1f}" if state.spread_pct >= 0.5 else "")
        yield result(
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
    style = facts.kit.length_style
    return f"; {tell_length(y1 - y0, style)} wide gets {tell_length(abs(change), style, '.1f')} {'narrower' if change < 0 else 'wider'}"


def _stacked(facts: Facts) -> str:
    from grainet.wood.settling import STACKING_WORDS

    return STACKING_WORDS[facts.piece.stacking]


def core(facts: Facts, rule: UseRule) -> Iterator[RuleResult]:
    """Whether a reading speaks for the middle of thick wood."""
    state, thickness = facts.moisture, facts.piece.least_thickness_mm
    if state.worst_pct is None or not rule.core_matters or not state.has_core:
        return
    if state.core_read:
        yield result(
            rule, "core", "Core", "holds", found=state.deepest_mm, wanted=thickness, source="a reading speaks only for its depth",
            text=f"read {state.deepest_mm:.0f} deep of {thickness:.0f}",
        )  # fmt: skip
        return
    yield result(
        rule, "core", "Core", "if", 0.3, found=state.deepest_mm, wanted=thickness, source="a reading speaks only for its depth",
        remedy="long pins, or a cut sample: sample 52.4 48.1", text=f"its core is read: the pins reach {state.deepest_mm:.0f} of {thickness:.0f}",
    )  # fmt: skip


def rest(facts: Facts, rule: UseRule) -> Iterator[RuleResult]:
    """Whether it has stopped moving, by its rest log."""
    state, gate = facts.rest, facts.kit.rules.rest_gate(rule.use)
    source = "house rule: how a moving piece is used"
    if state.word == "unread" or gate == "off":
        return
    if state.word == "settled" or facts.piece.rest_waived:
        why = f" ({facts.piece.rest_waived})" if facts.piece.rest_waived and state.word != "settled" else ""
        yield result(
            rule,
            "rest",
            "Rest",
            "holds",
            text=state.message + why,
            found=state.still_days,
            wanted=facts.kit.rules.rest_days,
            source=source,
        )
        return
    text = (
        f"it stops moving: {state.message}"
        if state.word == "moving"
        else f"it stays still: {state.message}, at least {facts.kit.rules.rest_days}"
    )
    outcome: Outcome = "if"
    if gate != "block":
        outcome, text = "note", state.message
    yield result(
        rule, "rest", "Rest", outcome, 0.2, found=round(state.last_move_mm, 1), wanted=facts.kit.rules.rest_within_mm, text=text,
        source=source, remedy="rest 2.0 logs its bow today; waive says why not to wait",
    )  # fmt: skip
