"""An operation: one thing done at the bench, as a value. Its text, its drawing, its printout and its lane are all made from this value.

Its id says what is done to what (``42 rip 120.5, 0.0 to 700.0``; ``thickness heron-8.B1 heron-8.B2, 44.0``): a plan made anew keeps what is
done already.
"""

from __future__ import annotations

from functools import cached_property
from typing import Any, Literal

from pydantic import Field

from grainet.job.answer import Mark, Shares
from grainet.wood.value import Point, Value, says_nothing
from grainet.work.workpiece import Workpiece

Kind = Literal[
    "mark", "crosscut", "rip", "resaw", "outline", "flatten", "thickness", "joint", "shoot", "trial", "fit", "dry", "glue", "cure", "rest",
    "slot", "cavity", "drill", "taper", "bevel", "insert", "stabilise", "profile", "measure", "photograph", "print", "shelve",
]  # fmt: skip
PLANING: frozenset[str] = frozenset({"flatten", "thickness", "joint", "shoot"})  # what planes marks away
SAWING: frozenset[str] = frozenset({"crosscut", "rip", "resaw", "outline"})


class Said(Value):
    """A caution as an operation carries it: its code, how grave it is (A is agreed to before the work), its words."""

    code: str
    grade: Literal["A", "B", "C"]
    text: str


class ClampSpot(Value):
    """Where one clamp of the shop stands on a joint: along it and across it from its lower left corner, over the wood or under it."""

    clamp: str
    x_mm: float
    y_mm: float
    side: Literal["over", "under"]


class Operation(Value):
    """One operation. An empty ``gives`` works in place; any other uses up what it works on. ``minutes`` are hand work, ``wait_minutes`` pass
    after them; ``needs`` are the operations that come before; ``batch`` joins those that are made at one setting."""

    id: str
    kind: Kind
    works_on: tuple[str, ...]
    gives: tuple[str, ...] = ()
    machine: str = Field(default="", exclude_if=says_nothing)
    machine_kind: str = Field(default="", exclude_if=says_nothing)
    cut: int | None = Field(default=None, exclude_if=lambda cut: cut is None)
    line: tuple[Point, ...] = Field(default=(), exclude_if=says_nothing)
    marks: tuple[Mark, ...] = Field(default=(), exclude_if=says_nothing)
    settings: dict[str, Any] = {}
    takes_mm: dict[str, float] = {}
    batch: str = Field(default="", exclude_if=says_nothing)
    minutes: float = Field(default=1.0, ge=0)
    wait_minutes: float = Field(default=0.0, ge=0)
    needs: tuple[str, ...] = ()
    cautions: tuple[Said, ...] = ()
    clamps: tuple[ClampSpot, ...] = Field(default=(), exclude_if=says_nothing)
    board: str = Field(default="", alias="x-board", exclude_if=says_nothing)  # the board, or the build that it is for
    text: str = Field(default="", alias="x-text", exclude_if=says_nothing)

    @property
    def is_long(self) -> bool:
        """Whether something waits after it for an hour or more."""
        return self.wait_minutes >= 60

    @property
    def by_the_glue(self) -> bool:
        """Whether its waiting is the glue's: in clamps, or until a joint may be machined; else it is the wood's, on sticks."""
        return bool(self.settings.get("glue", self.settings.get("until")))


class Tie(Value):
    """A rule between two operations: the one before, the one after, the rule's name, whether it blocks or only advises, and why it is
    overridden where it is."""

    before: str
    after: str
    rule: str
    blocks: bool = True
    over: str = Field(default="", exclude_if=says_nothing)


class Entry(Value):
    """When an operation's hand work starts and ends, local time to the minute."""

    operation: str
    starts: str
    ends: str


class ShopClamp(Value):
    """One clamp of the shop."""

    id: str
    kind: str = "bar"
    opens_mm: float = Field(gt=0, le=10_000)
    force_kn: float = Field(ge=0, le=200)


class Making(Value):
    """Everything that a plan's wood goes through, in order, with the shop that it was reckoned for (``grainet-steps``)."""

    format: Literal["grainet-steps"] = "grainet-steps"
    version: Literal[1] = 1
    hands: int = 1
    hours: tuple[str, str] = ("08:00", "17:00")
    temperature_c: float = 20.0
    clamps: tuple[ShopClamp, ...] = ()
    workpieces: tuple[Workpiece, ...] = ()
    missing: tuple[str, ...] = ()
    operations: tuple[Operation, ...] = ()
    rules: tuple[Tie, ...] = ()
    calendar: tuple[Entry, ...] = ()
    balance: dict[str, Shares] = {}

    def operation(self, name: str) -> Operation:
        """The operation of an id. Raises StopIteration where there is none."""
        return next(iter(self._by_id.get(name, ())))

    @cached_property
    def _by_id(self) -> dict[str, tuple[Operation]]:
        return {one.id: (one,) for one in reversed(self.operations)}
