"""The rules by which operations follow one another: each with its reason, the school that holds it, and whether it blocks or advises.

A rule that blocks may be overridden with a reason, which is kept and printed; where builders disagree the other school is named.
"""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class OrderRule:
    """One rule: what it is called, why it is so, whether it blocks, and what others do instead (nothing where all agree)."""

    name: str
    why: str
    blocks: bool = True
    others: str = ""


FACE_FIRST = "reference face and edge first"
REMARK = "mark again after planing"
MATES = "mates at one setting"
REST = "rest between reductions"
SHORTEN = "shorten before an outline"
FIT, WET, DRY = "fit before glue", "moisture compared before glue", "dry run before glue"
GLUE_RESTS = "glue rests before planing flush"
SKINS = "cavities before skins"
PARALLEL = "slot while the sides are parallel"
THICK_FIRST = "thickness before profile"
LOCATE = "holes that locate come before the shape"
MEASURED, TRIAL = "rod measured before its slot", "trial cut before the slot"
PROFILE_FIRST = "profile before its bevels"
BY_HAND = "put there by hand"

RULES: dict[str, OrderRule] = {
    rule.name: rule
    for rule in (
        OrderRule(FACE_FIRST, "Every other side is measured from a flat face and a straight edge; without them nothing after it is square."),
        OrderRule(REMARK, "The plane took the marks; a cut without them goes by memory."),
        OrderRule(MATES, "One setting makes them alike to a hair; two settings never do.", blocks=False),
        OrderRule(REST, "Freed wood moves for days; what is planed at once is crooked next week.", others="well-settled wood is planed the same day"),
        OrderRule(SHORTEN, "Nobody swings a long plank round a band saw for one curve."),
        OrderRule(FIT, "A gap that clamps must close opens again in a dry winter."),
        OrderRule(WET, "Two moistures glued together pull the joint apart while they settle."),
        OrderRule(DRY, "Clamps that are not at hand are looked for while the glue skins over."),
        OrderRule(GLUE_RESTS, "Water swells the seam; planed flush too soon it sinks into a line under the finish."),
        OrderRule(SKINS, "A closed face hides what is routed under it.", others="routed through the top afterwards, from its own template"),
        OrderRule(PARALLEL, "A fence needs two sides that are parallel; a tapered blank leads the slot off the centre."),
        OrderRule(THICK_FIRST, "An outline follows the face that it stands on; planed afterwards its edges are no longer square to it."),
        OrderRule(LOCATE, "The shape takes away the edges that the holes are measured from."),
        OrderRule(MEASURED, "A slot cannot be made narrower again; rods of one kind differ by tenths."),
        OrderRule(TRIAL, "A scrap of the same wood shows what the setting really cuts."),
        OrderRule(BY_HAND, "You put it there; no rule asks for it."),
        OrderRule(PROFILE_FIRST, "A bevel is run along the finished edge.", blocks=False, others="cut while the waste still holds the clamps"),
    )
}  # fmt: skip
