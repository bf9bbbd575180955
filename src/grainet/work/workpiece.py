"""A workpiece: a part that was cut from a board, or several joined into one; which build it is for and where it comes from.

An id says build, part and number (``heron-8.B1``); a joint gives a new workpiece whose members lead back to boards, so every piece of an
instrument has its history up to the supplier and the moisture that was read.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np
import shapely
from pydantic import Field
from shapely.geometry import Polygon

from grainet.design.part import Part
from grainet.job.answer import Placement, Plan
from grainet.job.job import Job
from grainet.plan.in_hand import Workpiece as Hand
from grainet.plan.in_hand import hands_after
from grainet.plan.standing import as_candidate
from grainet.wood.thickness import ThicknessField
from grainet.wood.value import Value

GRID = 24  # places along and across, at which a mean thickness is taken
LOOSE = "parts"  # the build of parts that belong to none


class Workpiece(Value):
    """One workpiece. ``member`` is its name in the instrument's tree, ``from_`` the board that it was cut from (none where it was joined
    from ``members``)."""

    id: str
    build: str = ""
    part: str = ""
    member: str = ""
    from_: str = Field(default="", alias="from", exclude_if=lambda board: not board)
    members: tuple[str, ...] = ()


@dataclass(frozen=True)
class Freed:
    """A workpiece as its board gives it: where it lay, the piece in hand that it is once all is sawn, and that piece's own depth, mm."""

    workpiece: Workpiece
    placement: Placement
    part: Part
    hand: Hand
    depth_mm: float  # of the wood in hand, on the mean

    @property
    def board(self) -> str:
        """The board that it comes from."""
        return self.placement.piece

    @property
    def was_resawn(self) -> bool:
        """Whether a resaw freed one of its faces."""
        return not self.hand.whole_depth

    @property
    def over_mm(self) -> float:
        """What has to come off its thickness, both faces together."""
        return max(0.0, self.depth_mm - self.placement.finished_mm)

    @property
    def size_mm(self) -> tuple[float, float]:
        """Its length along the board and its width across it, as it is sawn."""
        x0, y0, x1, y1 = self.hand.polygon.bounds
        return x1 - x0, y1 - y0


def freed_of(job: Job, plan: Plan) -> list[Freed]:
    """Every part of a plan as a workpiece, board by board in the order of the plan's placements."""
    names = _names(job, plan)
    hands = {piece.id: hands_after(piece, (*job.cut, *plan.cuts), job.kit) for piece in job.pieces}
    fields = {piece.id: ThicknessField.of(piece) for piece in job.pieces}
    found = []
    for one in plan.placements:
        part = job.part(one.part)
        hand = _hand_of(one, part, hands[one.piece], job)
        if hand is not None:
            made = Workpiece.model_validate({"id": names[one.key], "build": one.build or "", "part": one.part, "from": one.piece})
            found.append(Freed(made, one, part, hand, _deep(hand, fields[one.piece])))
    return found


def _names(job: Job, plan: Plan) -> dict[tuple[str | None, str, int, int, int], str]:
    """The id of each leaf: its build, its part by its letter where that tells it apart, and its number."""
    parts: dict[str, list[str]] = defaultdict(list)
    for one in plan.placements:
        if one.part not in parts[one.build or ""]:
            parts[one.build or ""].append(one.part)
    short: dict[tuple[str, str], str] = {}
    for build, names in parts.items():
        letters = [job.part(name).letter for name in names]
        for name, letter in zip(names, letters):
            told = letter if letter and letters.count(letter) == 1 else name.removeprefix(f"{build}.")
            short[build, name] = told
    count: dict[tuple[str, str], int] = defaultdict(int)
    found = {}
    for one in sorted(plan.placements, key=lambda p: (p.build or "", p.part, p.set, p.copy_, p.leaf)):
        key = (one.build or "", one.part)
        count[key] += 1
        found[one.key] = f"{one.build or LOOSE}.{short[key]}{count[key]}"
    return found


def _hand_of(one: Placement, part: Part, hands: Sequence[Hand], job: Job) -> Hand | None:
    """The piece in hand in which a leaf lies once all is sawn."""
    spot = as_candidate(part, [one], job.kit).block.representative_point()
    middle = one.z_top_mm + one.finished_mm / 2
    for hand in hands:
        bottom = hand.bottom_mm if hand.bottom_mm is not None else float("inf")
        if hand.top_mm <= middle <= bottom and hand.polygon.contains(spot):
            return hand
    return None


def _deep(hand: Hand, field: ThicknessField) -> float:
    """How deep a piece in hand is on the mean."""
    bottom = hand.bottom_mm if hand.bottom_mm is not None else mean_thickness(hand.polygon, field)
    return bottom - hand.top_mm


def mean_thickness(shape: Polygon, field: ThicknessField) -> float:
    """The mean thickness of the board under a shape, on a grid of places that lie in it."""
    if field.constant:
        return field.least
    x0, y0, x1, y1 = shape.bounds
    steps = (np.arange(GRID) + 0.5) / GRID
    x, y = (v.ravel() for v in np.meshgrid(x0 + (x1 - x0) * steps, y0 + (y1 - y0) * steps))
    inside = shapely.contains_xy(shape, x, y)
    if not inside.any():
        inside[:] = True
    return float(field.at(x[inside], y[inside]).mean())


def by_part(freed: Sequence[Freed]) -> Iterator[tuple[tuple[str, str], list[Freed]]]:
    """The workpieces of each part of each build, in the order in which they were first met."""
    groups: dict[tuple[str, str], list[Freed]] = defaultdict(list)
    for one in freed:
        groups[one.workpiece.build, one.workpiece.part].append(one)
    yield from groups.items()
