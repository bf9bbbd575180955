"""What to mind where two woods meet at a glue line: dust that stains, tannin, hard beside soft, oil, moisture and movement gaps.

Sources: notes on glue and clamps; moisture gap over 2 points warns, over 3 blocks. Every text is brand-free and defers to the label.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import combinations
from typing import Literal

from grainet.wood.movement import across_glue_line_mm
from grainet.wood.species import Species

GAP_WARNS_PCT, GAP_BLOCKS_PCT = 2.0, 3.0
HARD_BESIDE_SOFT = 2.5  # ratio of hardness from which a scraper or sander digs the softer one out
MOST_MOVEMENT_MM = 0.6  # difference over a year across a glue line that shows and strains it (house rule, editable)


@dataclass(frozen=True)
class Member:
    """One member of a glue line: its name, species (None: unknown), ring angle, moisture (None: unread), width glued in mm."""

    name: str
    species: Species | None
    ring_angle_deg: float | None
    moisture_pct: float | None
    width_mm: float


@dataclass(frozen=True)
class JointWarning:
    """One thing to mind: how grave, what it is, and the step that answers it."""

    grade: Literal["block", "warn", "note"]
    code: str
    text: str
    step: str = ""


def warnings_of(
    members: list[Member], driest_pct: float, dampest_pct: float, *, water_based: bool = True, most_movement_mm: float = MOST_MOVEMENT_MM,
    gap_warns_pct: float = GAP_WARNS_PCT, gap_blocks_pct: float = GAP_BLOCKS_PCT,
) -> list[JointWarning]:  # fmt: skip
    """Everything to mind among the members of one glue-up, gravest first, each kind of trouble once."""
    found = [*_moisture(members, gap_warns_pct, gap_blocks_pct)]
    found += [p for m in members if m.species for p in _single(m, water_based=water_based)]
    for a, b in combinations(members, 2):
        if a.species and b.species:
            found += _two(a, b, driest_pct, dampest_pct, most_movement_mm)
    order = {"block": 0, "warn": 1, "note": 2}
    return sorted({(p.code, p.text): p for p in found}.values(), key=lambda p: order[p.grade])


def _moisture(members: list[Member], warns: float, blocks: float) -> list[JointWarning]:
    read = [m for m in members if m.moisture_pct is not None]
    if len(read) < len(members):
        unread = ", ".join(m.name for m in members if m.moisture_pct is None)
        return [
            JointWarning("warn", "moisture", f"{unread}: moisture not read, so it cannot be compared", "read it before gluing")
        ]
    if not read:
        return []
    low, high = (f(read, key=lambda m: m.moisture_pct or 0.0) for f in (min, max))
    gap = (high.moisture_pct or 0) - (low.moisture_pct or 0)
    if gap <= warns:
        return []
    text = f"{high.name} {high.moisture_pct:.1f} % beside {low.name} {low.moisture_pct:.1f} %: {gap:.1f} apart, at most {warns:g}"
    return [JointWarning("block" if gap > blocks else "warn", "moisture", text, "let both settle in one place first")]


def _single(m: Member, *, water_based: bool) -> list[JointWarning]:
    assert m.species is not None
    found = []
    if "high_tannin" in m.species.flags and water_based:
        found.append(
            JointWarning(
                "note",
                "tannin",
                f"{m.species.common}: tannin, water-based glue and iron stain",
                "little water, scrape; no steel wool, no bare iron clamps on wet glue",
            )
        )
    if "oily" in m.species.flags:
        found.append(
            JointWarning(
                "warn",
                "oil",
                f"{m.species.common}: oily, glue holds badly on an old face",
                "fresh face, wipe (moving air, no flame, gloves that the label names), glue soon, test joint",
            )
        )
    return found


def _two(a: Member, b: Member, driest: float, dampest: float, most: float) -> list[JointWarning]:
    assert a.species is not None
    assert b.species is not None
    found = []
    for stainer, pale in ((a, b), (b, a)):
        assert stainer.species is not None
        assert pale.species is not None
        if "bleeding_dust" in stainer.species.flags and "pale" in pale.species.colours:
            found.append(
                JointWarning(
                    "warn",
                    "dust",
                    f"{stainer.species.common} dust stains {pale.species.common}",
                    "scrape, vacuum, seal the pale side first",
                )
            )
    if a.species.janka_n and b.species.janka_n:
        hard, soft = (a, b) if a.species.janka_n >= b.species.janka_n else (b, a)
        ratio = hard.species.janka_n / soft.species.janka_n  # type: ignore[union-attr,operator]
        if ratio >= HARD_BESIDE_SOFT:
            found.append(
                JointWarning(
                    "note",
                    "hardness",
                    f"{hard.species.common} is {ratio:.1f} times as hard as {soft.species.common}",  # type: ignore[union-attr]
                    "level with a plane or a hard block, not a soft pad",
                )
            )
    width = min(a.width_mm, b.width_mm)
    first = (
        a.species.shrink_tangential_pct,
        a.species.shrink_radial_pct,
        a.ring_angle_deg if a.ring_angle_deg is not None else 0.0,
    )
    second = (
        b.species.shrink_tangential_pct,
        b.species.shrink_radial_pct,
        b.ring_angle_deg if b.ring_angle_deg is not None else 0.0,
    )
    gap = across_glue_line_mm(width, first, second, driest, dampest)
    if gap > most:
        text = f"{a.name} and {b.name} move {gap:.1f} apart over a year across {width:.0f}, at most {most:g}"
        found.append(JointWarning("warn", "movement", text, "turn the rings alike, or keep the joint narrow"))
    return found
