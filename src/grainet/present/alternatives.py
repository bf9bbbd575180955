"""Plans side by side: what each comes to in figures, which figure is the best of them, and the one condition that it stands under."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from datetime import date

from grainet.design.instrument import Instrument
from grainet.design.tree import tree_of
from grainet.job.answer import Plan
from grainet.job.job import Job
from grainet.kit.shop_profile import ShopProfile
from grainet.present import plan_view
from grainet.present.stations import counted
from grainet.wood.units import format_length
from grainet.work.glue_ups import groups_of
from grainet.work.waiting import Wait, settling_wait
from grainet.work.weights import together, weights_of

TITLES = {
    "yield": "Least wood opened", "figure": "Most figure seen", "joints": "Fewest joints", "weight": "Lightest", "cost": "Least paid",
    "other": "Another way",
}  # fmt: skip
LESS = ("kg", "glue", "days", "paid", "litres")  # the less of these, the better; of the others the more


@dataclass(frozen=True)
class Figure:
    """One figure of a plan: its name among all, how it is shown and what it is called, and the bare number."""

    name: str
    shown: str
    label: str
    value: float


@dataclass(frozen=True)
class Alternative:
    """One plan of several: what it is the best at, and all that its card says."""

    aim: str
    job: Job
    plan: Plan
    figures: tuple[Figure, ...]
    boards: tuple[str, ...]
    litres: tuple[float, float]  # of parts, of all that is opened
    condition: str
    grave: bool  # whether the condition has to be waited for or bargained over
    best: frozenset[str] = field(default=frozenset())

    @property
    def title(self) -> str:
        """What it is the best at."""
        return TITLES[self.aim]

    @property
    def built(self) -> str:
        """How the build is made."""
        told = [w if isinstance(w, str) else ", ".join(w.values()) for w in self.plan.builds.values()]
        return "; ".join(told)


def alternatives_of(
    rows: Sequence[tuple[str, Job, Plan]], kit: ShopProfile, today: date, instrument: Instrument | None = None
) -> list[Alternative]:
    """The cards of some plans, of a guitar where the build is one; the best of each figure is marked where they differ in it."""
    cards = [_alternative(aim, job, plan, kit, today, instrument) for aim, job, plan in rows]
    best: list[set[str]] = [set() for _ in cards]
    values = [{"litres": round(card.litres[1], 1), **{f.name: f.value for f in card.figures}} for card in cards]
    for name in {name for row in values for name in row}:
        found = {k: row[name] for k, row in enumerate(values) if name in row}
        if len(found) > 1 and max(found.values()) - min(found.values()) > 1e-9:
            top = min(found.values()) if name in LESS else max(found.values())
            for k, value in found.items():
                if abs(value - top) <= 1e-9:
                    best[k].add(name)
    return [replace(card, best=frozenset(names)) for card, names in zip(cards, best)]


def _alternative(aim: str, job: Job, plan: Plan, kit: ShopProfile, today: date, instrument: Instrument | None) -> Alternative:
    boards = tuple(dict.fromkeys(p.piece for p in plan.placements))
    volume = {b: plan_view.volume_mm3(job.piece(b)) / 1e6 for b in boards}
    parts = sum(plan.balance[b].parts * volume[b] for b in boards)
    waits = [wait for b in boards if (wait := settling_wait(job.piece(b), kit, today)) is not None]
    last = max(waits, key=lambda wait: wait.ready, default=None)
    days = max(0, (last.ready - today).days) if last is not None else 0
    weight = together(weights_of(job, plan, kit)).kg
    glue = _glue_lines(job, plan, kit, instrument)
    paid = [job.piece(b).supply.price for b in boards]
    room = min((p.spare_mm for p in plan.placements), default=0.0)
    figures = [
        Figure("kg", f"{weight:.1f}", "kg", round(weight, 1)),
        Figure("glue", f"{glue}", "glue line" if glue == 1 else "glue lines", glue),
        Figure("days", f"{days}", "day to wait" if days == 1 else "days to wait", days),
        Figure("room", format_length(room, kit.length_style), "least room", round(room, 1)),
    ]
    if any(price is not None for price in paid):
        total = sum(price or 0.0 for price in paid)
        figures.insert(3, Figure("paid", f"{total:g}", "paid", total))
    figures.append(Figure("worth", f"{plan.value:g}", f"worth, at most {plan.bound:g}", plan.value))
    condition, grave = _condition(job, plan, last if days else None)
    return Alternative(aim, job, plan, tuple(figures), boards, (parts, sum(volume.values())), condition, grave)


def _glue_lines(job: Job, plan: Plan, kit: ShopProfile, instrument: Instrument | None) -> int:
    """Glue lines of a build: those of its tree, but its panels and pairs as the plan lays them; without a tree only these."""
    within = sum(max(0, len(rows) - 1) for rows in groups_of(plan).values())
    within += sum(job.part(p).leaves > 1 for p in {r.part for r in plan.placements})
    if instrument is None:
        return within
    joints = [m.joint for m in tree_of(instrument, kit.cuts.allowances).glue_ups if m.joint is not None]
    return max(within, sum(joint.lines for joint in joints))


def _condition(job: Job, plan: Plan, wait: Wait | None) -> tuple[str, bool]:
    """The one thing that a plan stands under."""
    if not plan.builds:
        return "the rack does not give this build", True
    if wait is not None:
        return f"if it may wait: {wait.name} is dry about {wait.ready.day} {wait.ready:%b}", True
    tight = min(plan.placements, key=lambda p: p.spare_mm)
    if tight.spare_mm < 1.0:
        return f"{job.part(tight.part).shown_name} on No. {tight.piece} has {tight.spare_mm:.1f} thick to spare", True
    return f"{counted(len(plan.cuts), 'cut')} on {counted(len({p.piece for p in plan.placements}), 'board')}", False
