"""What was measured where something was planned: one record for each figure, kept for good; what was made of them; and what went wrong."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from grainet.wood.value import Day, Value, says_nothing

# what a record is of: what levelling took, a joint edge, a leaf's face, an end; how wide a kerf is; how far a cut, a thickness, a saw's
# upright missed; how deep a snipe; how long it took; how quickly wood settles
What = Literal["skim", "edge", "leaf skim", "trim", "kerf", "miss", "lean", "snipe", "minutes", "settling"]


class Record(Value):
    """One figure that was measured against what was planned, mm (degrees for a lean, minutes for a time). ``tool`` is the machine by its name,
    in small letters; ``x_mm`` where along the board, where that is known."""

    id: str = Field(min_length=1, max_length=200)
    what: What
    tool: str = Field(default="", max_length=60)
    species: str = Field(default="", max_length=80)
    planned: float = Field(ge=-10_000, le=10_000)
    measured: float = Field(ge=-10_000, le=10_000)
    on: Day
    board: str = Field(default="", exclude_if=says_nothing)
    x_mm: float | None = Field(default=None, exclude_if=lambda x: x is None)
    by: str = Field(default="", exclude_if=says_nothing)  # the instrument that read it; empty: a person


class PlannedWith(Value):
    """A figure of the shop that records changed: which lane, what it was and is, on how many records it rests, and the day."""

    lane: str
    was: float
    now: float
    count: int = Field(ge=1)
    on: Day


class KeptAsItWas(Value):
    """A proposal that was not taken: the lane is silent until five more records have come."""

    lane: str
    count: int = Field(ge=1)
    on: Day


class Sharpened(Value):
    """A blade, a set of knives or a bit that was made sharp, and when (UTC)."""

    tool: str = Field(min_length=1, max_length=60)
    at: str


class Learnt(Value):
    """What the shop made of its records."""

    id: str = "learnt"
    planned_with: tuple[PlannedWith, ...] = ()
    kept: tuple[KeptAsItWas, ...] = ()
    sharpened: tuple[Sharpened, ...] = ()

    def taken(self, lane: str) -> PlannedWith | None:
        """The last change that a lane made."""
        return next((p for p in reversed(self.planned_with) if p.lane == lane), None)


class Mishap(Value):
    """What went wrong: where on the wood, at which step, why, and what helped; in the shop's own words."""

    id: str = Field(min_length=1, max_length=60)
    kind: str = Field(min_length=1, max_length=40)
    on: Day
    board: str = Field(default="", max_length=60)
    x_mm: float | None = None
    y_mm: float | None = None
    species: str = Field(default="", max_length=80)
    tool: str = Field(default="", max_length=60)
    step: str = Field(default="", max_length=40)  # the kind of the operation
    part: str = Field(default="", max_length=60)
    cause: str = Field(default="", max_length=300)
    fix: str = Field(default="", max_length=300)
    photo: str = Field(default="", max_length=200)
