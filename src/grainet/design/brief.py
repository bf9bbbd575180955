"""The brief of a build: what its bought parts measure, how sure that is, and what it makes of the blanks.

A figure that is only guessed holds the steps that depend on it. Sources: notes on neck and blank arithmetic; each default says why.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated, Literal

from pydantic import Field

from grainet.design.role import FACTS, Group, role_of
from grainet.wood.value import Value

Status = Literal["in hand", "ordered", "guessed"]
STATUSES: tuple[Status, ...] = ("in hand", "ordered", "guessed")
HardwareKind = Literal["rod_depth", "rod_curve", "tuner_shank", "nut_width", "bridge_spread", "pickup_depth", "cavity_depth"]
WORDS: dict[str, tuple[str, str]] = {
    "rod_depth": ("Rod, its slot's depth", "neck"), "rod_curve": ("Rod, how deep its curve lies below that", "neck"),
    "tuner_shank": ("Tuner, what its shank grips", "neck"), "nut_width": ("Nut width", "neck"), "bridge_spread": ("Bridge, string spread", "body"),
    "pickup_depth": ("Pickup cavity depth", "body"), "cavity_depth": ("Deepest cavity", "body"),
}  # fmt: skip
WOOD_UNDER_ROD_MM, FLOOR_UNDER_CAVITY_MM, STRING_TO_EDGE_MM = 3.0, 5.0, 3.0  # notes: at least 3 under the rod; shipped judgement


class Hardware(Value):
    """One bought part's measure in mm, and whether it lies here, is ordered, or is guessed."""

    kind: HardwareKind
    mm: Annotated[float, Field(gt=0, le=1000)]
    status: Status = "guessed"


@dataclass(frozen=True)
class Demand:
    """What the brief makes of a blank: the least of one measure, its sum in words, and the parts that are only guessed in it."""

    what: str
    measure: Literal["thickness", "width", "at most"]
    group: Group
    least_mm: float
    sum_text: str
    guessed: tuple[str, ...]


def demands(brief: tuple[Hardware, ...], wood_under_mm: float = WOOD_UNDER_ROD_MM) -> list[Demand]:
    """The least blank measures that the brief asks for; a figure that is not there asks for nothing."""
    by = {h.kind: h for h in brief}
    found = []
    if "rod_depth" in by:
        rows = [h for k in ("rod_depth", "rod_curve") if (h := by.get(k))]
        least = sum(h.mm for h in rows) + wood_under_mm
        text = " + ".join(f"{h.mm:g}" for h in rows) + f" + {wood_under_mm:g} of wood under it"
        found.append(Demand("Neck depth at the rod", "thickness", "neck", least, text, _guessed(rows)))
    if "tuner_shank" in by:
        found.append(
            Demand(
                "Head thickness, at most",
                "at most",
                "neck",
                by["tuner_shank"].mm,
                "what the tuner's shank grips",
                _guessed([by["tuner_shank"]]),
            )
        )
    if "nut_width" in by:
        found.append(Demand("Neck width at the nut", "width", "neck", by["nut_width"].mm, "the nut", _guessed([by["nut_width"]])))
    if "bridge_spread" in by:
        least = by["bridge_spread"].mm + 2 * STRING_TO_EDGE_MM
        found.append(
            Demand(
                "Board width at its end",
                "width",
                "neck",
                least,
                f"{by['bridge_spread'].mm:g} + 2 × {STRING_TO_EDGE_MM:g} beside the strings",
                _guessed([by["bridge_spread"]]),
            )
        )
    deep = [h for k in ("pickup_depth", "cavity_depth") if (h := by.get(k))]
    if deep:
        worst = max(deep, key=lambda h: h.mm)
        found.append(
            Demand(
                "Body thickness",
                "thickness",
                "body",
                worst.mm + FLOOR_UNDER_CAVITY_MM,
                f"{worst.mm:g} + a floor of {FLOOR_UNDER_CAVITY_MM:g}",
                _guessed(deep),
            )
        )
    return found


def _guessed(rows: list[Hardware]) -> tuple[str, ...]:
    return tuple(WORDS[h.kind][0].split(",")[0] for h in rows if h.status == "guessed")


def held_roles(brief: tuple[Hardware, ...]) -> dict[str, tuple[str, ...]]:
    """Roles of parts that must wait, and for which guessed figures, in words."""
    return {role: tuple(WORDS[kind][0].lower() for kind in kinds) for role, kinds in held_kinds(brief).items()}


def held_kinds(brief: tuple[Hardware, ...]) -> dict[str, tuple[HardwareKind, ...]]:
    """Roles of parts that must wait, and for which guessed figures."""
    found: dict[str, list[HardwareKind]] = {}
    for one in brief:
        if one.status == "guessed":
            for role in (r for r, facts in FACTS.items() if facts.group == WORDS[one.kind][1]):
                found.setdefault(role, []).append(one.kind)
    return {role: tuple(kinds) for role, kinds in found.items()}


def falls_short(brief: tuple[Hardware, ...], role: str, thickness_mm: float) -> str:
    """Why a part of a role and thickness is too thin for the brief; empty where it is not."""
    known = role_of(role)
    if known is None or not FACTS[known].holds_group:
        return ""
    for one in demands(brief):
        if (one.group, one.measure) == (FACTS[known].group, "thickness") and thickness_mm < one.least_mm - 1e-9:
            return f"{thickness_mm:g} thick, by the brief at least {one.least_mm:g} ({one.sum_text})"
    return ""
