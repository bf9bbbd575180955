"""Which laid-out parts are glued into one and planed as one, what to mind in that, and whether the shop has the clamps for it.

The copies of a part of one build (two halves, the strips of a laminated neck) make one glue-up; a neck and its fretboard, and a top
and its core, make others. A copy laid the other way round, or with the other side up, planes the other way.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from grainet.design.role import FACTS, Role, role_of
from grainet.job.answer import Placement, Plan
from grainet.job.job import Job
from grainet.kit.shop_profile import ShopProfile
from grainet.match.joint_warning import JointWarning, warnings_of
from grainet.match.joint_warning import Member as Glued
from grainet.wood.climate import YearAir
from grainet.wood.piece import Piece
from grainet.wood.planing import Member, Tearing, tearing
from grainet.wood.rings import least_angle
from grainet.work.clamping import clamps_wanted, short_of_clamps


def _member(job: Job, one: Placement) -> Member:
    turned = 90 < one.angle_deg % 360 < 270
    return Member(job.piece(one.piece), turned, one.face_up)


def groups_of(plan: Plan) -> dict[tuple[str, str], list[Placement]]:
    """The copies of each part of each build, first leaves only."""
    groups: dict[tuple[str, str], list[Placement]] = {}
    for one in plan.placements:
        if one.leaf == 1:
            groups.setdefault((one.build or "", one.part), []).append(one)
    return groups


def tearing_of(job: Job, plan: Plan) -> Iterator[tuple[str, Tearing]]:
    """Every glue-up of a plan that will tear both ways: the part's name and what to turn."""
    for (_, part_id), copies in groups_of(plan).items():
        if len(copies) > 1 and (found := tearing([_member(job, c) for c in copies])) is not None:
            yield job.part(part_id).shown_name, found


@dataclass(frozen=True)
class NamedWarning:
    """Something to mind at a glue-up: how the glue-up is called, the ids of the parts that it joins (none: every joint), and what."""

    name: str
    parts: frozenset[str]
    warning: JointWarning


def joint_warnings(job: Job, plan: Plan, kit: ShopProfile, year: YearAir, today: str = "") -> list[NamedWarning]:
    """Everything to mind at a plan's glue lines, gravest first; clamps that lack at the end."""
    found: list[NamedWarning] = []
    groups = groups_of(plan)
    for (_build, part_id), copies in groups.items():
        part = job.part(part_id)
        if len(copies) > 1:
            members = [_glued(job.piece(c.piece), part.thickness_mm, kit, f"No. {c.piece}") for c in copies]
            of_it = [*_of(members, kit, year), *_clamps(job, copies, kit)]
            found += [NamedWarning(part.shown_name, frozenset({part_id}), p) for p in of_it]
    by_role: dict[tuple[str, Role | None], list[Placement]] = {}
    for (build, part_id), copies in groups.items():
        by_role.setdefault((build, role_of(job.part(part_id).role)), []).extend(copies)
    for build in {b for b, _ in by_role}:
        for over, under in ((role, below) for role, facts in FACTS.items() for below in facts.glued_onto):
            a, b = by_role.get((build, under)), by_role.get((build, over))
            if a and b:
                found += _joined(job, a[0], b[0], kit, year)
    if found or any(len(c) > 1 for c in groups.values()):
        found += [NamedWarning("every joint", frozenset(), p) for p in of_the_glue(kit, today)]
    order = {"block": 0, "warn": 1, "note": 2}
    return sorted(dict.fromkeys(found), key=lambda f: order[f.warning.grade])


def _joined(job: Job, a: Placement, b: Placement, kit: ShopProfile, year: YearAir) -> list[NamedWarning]:
    """A neck and its fretboard, a top and what it lies on."""
    width = min(_across(a), _across(b))
    members = [_glued(job.piece(x.piece), width, kit, f"No. {x.piece}") for x in (a, b)]
    name = f"{job.part(a.part).shown_name} and {job.part(b.part).shown_name}"
    return [NamedWarning(name, frozenset({a.part, b.part}), p) for p in _of(members, kit, year)]


def beside(first: Piece, second: Piece, kit: ShopProfile, year: YearAir) -> list[JointWarning]:
    """What to mind where two pieces of the rack are glued face to face or edge to edge, over the narrower one's width."""
    width = min(max(1.0, p.extents[3] - p.extents[1]) for p in (first, second))
    return _of([_glued(p, width, kit, f"No. {p.id}") for p in (first, second)], kit, year)


def _of(members: list[Glued], kit: ShopProfile, year: YearAir) -> list[JointWarning]:
    rules = kit.rules
    return warnings_of(
        members, year.driest_pct, year.dampest_pct, water_based=kit.glue.water_based, most_movement_mm=rules.most_movement_mm, gap_warns_pct=rules.gap_warns_pct, gap_blocks_pct=rules.gap_blocks_pct
    )  # fmt: skip


def of_the_glue(kit: ShopProfile, today: str) -> list[JointWarning]:
    """The glue in use: its times in this shop's warmth, and what speaks against the bottle. The label in hand wins."""
    glue, slower = kit.glue, kit.glue.slower_at(kit.temperature_c)
    found = []
    if glue.stale(today):
        found.append(JointWarning("block", "stale_glue", f"{glue.name} went off on {glue.expires}", "a fresh bottle"))
    if kit.temperature_c < glue.least_c:
        found.append(
            JointWarning(
                "warn",
                "cold",
                f"{kit.temperature_c:g} °C, {glue.name.lower()} at least {glue.least_c:g}",
                "warm wood, glue and room first",
            )
        )
    if glue.id == "ca" or "cyano" in glue.name.lower():
        text = f"{glue.name}: its fumes and drips burn; with cotton or wool it can heat and burn at once"
        found.append(
            JointWarning("warn", "cyanoacrylate", text, "gloves that the label names, never cotton or wool; moving air, no flame")
        )
    text = f"{glue.name}: open {glue.open_min:g} min, closed within {glue.closed_min:g}, in clamps {glue.handling_h * slower:.2g} h, machine after {max(glue.machining_h * slower, 24.0 if glue.water_based else 0.0):.3g} h"
    found.append(
        JointWarning(
            "note",
            "glue_times",
            text,
            f"at {kit.temperature_c:.0f} °C; before a water-based joint is planed flush 24 h; the label wins",
        )
    )
    return found


def _glued(piece: Piece, width_mm: float, kit: ShopProfile, name: str) -> Glued:
    readings = [r.moisture_pct for r in piece.moisture_now]
    mean = sum(readings) / len(readings) if readings else None
    return Glued(name, kit.library.find(piece.species), least_angle(piece.ring_angle_deg), mean, width_mm)


def _across(one: Placement) -> float:
    ys = [y for _, y in one.polygon]
    return max(ys) - min(ys)


def _clamps(job: Job, copies: list[Placement], kit: ShopProfile) -> list[JointWarning]:
    part = job.part(copies[0].part)
    xs = [x for x, _ in copies[0].polygon]
    widths = [_across(c) for c in copies]
    species = kit.library.find(job.piece(copies[0].piece).species)
    wish = clamps_wanted(
        max(xs) - min(xs), part.thickness_mm, min(widths), sum(widths), species.basic_sg if species else 0.55, kit.glue,
        max((c.force_kn for c in kit.clamps if c.kind not in ("tape", "caul")), default=2.0),
    )  # fmt: skip
    text = short_of_clamps(kit.clamps, wish)
    return [JointWarning("warn", "clamps", text, f"{wish.pressure_mpa:.1f} MPa with {kit.glue.name.lower()}")] if text else []
