"""The planner's answer: placements, cuts, offcuts, balance and refusals, as in the exchange contract."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from grainet.wood.value import Point, Ring, Value, says_nothing

Tool = Literal["crosscut", "rip", "resaw", "outline"]
Side = Literal["datum", "marked end", "far end", "near edge", "far edge", "face 1", "face 2"]  # what a figure is measured from


class Placement(Value):
    """One leaf of one copy of one set of a part, and where it lies on its piece. mm and degrees."""

    part: str
    set: int = Field(ge=1)
    copy_: int = Field(ge=1, alias="copy")
    leaf: int = Field(ge=1)
    piece: str
    x: float
    y: float
    angle_deg: float
    mirror: bool = False
    face_up: Literal["1", "2"] = "1"
    z_top_mm: float = 0.0
    polygon: Ring = Field(min_length=3)
    finished_mm: float
    spare_mm: float
    flattening: Literal["chain", "exact"] = "chain"
    build: str | None = None
    on_edge: bool = Field(default=False, exclude_if=lambda on_edge: not on_edge)

    @property
    def key(self) -> tuple[str | None, str, int, int, int]:
        """Which leaf of which copy of which set of which part it is, and for which build."""
        return self.build, self.part, self.set, self.copy_, self.leaf


class Mark(Value):
    """One edge of a kerf, measured from a side of the piece in hand (the datum: the board's own marked end). The kerf lies beyond the mark
    as seen from there ("after") or short of it ("before"). mm, to a tenth."""

    from_: Side = Field(alias="from")
    mm: float
    kerf: Literal["after", "before"]


class Cut(Value):
    """One saw cut on the piece in hand: ``line`` is the middle of the kerf; ``gives`` the side nearer the marked end first.

    A resaw goes through the thickness: its ``line`` runs along the piece in hand and ``depth_mm`` says how deep it lies.
    """

    n: int = Field(ge=1)
    piece: str
    tool: Tool
    line: tuple[Point, ...] = Field(min_length=2)
    gives: tuple[str, ...]
    depth_mm: float | None = Field(default=None, alias="x-depth_mm")
    marks: tuple[Mark, ...] = Field(
        default=(), exclude_if=lambda marks: not marks
    )  # the edges to set the saw to; none on an outline


class Offcut(Value):
    """What is left of a piece, with its outline in the piece's own axes. ``keep`` False is scrap."""

    id: str
    piece: str
    polygon: Ring = Field(min_length=3)
    thickness_mm: float
    keep: bool = True
    depth_mm: float = Field(default=0.0, alias="x-depth_mm")


class Shares(Value):
    """Where a piece's wood goes, by volume; sums to 1."""

    parts: float
    offcuts: float
    kerf: float
    skims: float
    waste: float

    @property
    def total(self) -> float:
        """The sum; 1 within 0.005 where the board balances."""
        return self.parts + self.offcuts + self.kerf + self.skims + self.waste


class Refusal(Value):
    """Why a part cannot come from a piece: in a sentence, and by its code (a misfit's rule, an exclusion's code, or "time")."""

    part: str
    piece: str
    why: str
    code: str = Field(default="", alias="x-code")


class Plan(Value):
    """A plan. ``bound`` is never below any feasible value within ``bound_scope``; ``bound_all`` is the same over everything there could be."""

    format: Literal["grainet-plan"] = "grainet-plan"
    version: Literal[1] = 1
    value: float
    bound: float
    bound_scope: Literal["all", "candidates"] = "candidates"
    bound_all: float | None = Field(
        default=None, alias="x-bound_all", exclude_if=lambda told: told is None
    )  # beside one over candidates
    capped: bool = False
    seconds: float = 0.0
    made: dict[str, int] = {}
    builds: dict[str, str | dict[str, str]] = {}  # the recipe; of a build in components the way of each
    placements: tuple[Placement, ...] = ()
    cuts: tuple[Cut, ...] = ()
    offcuts: tuple[Offcut, ...] = ()
    balance: dict[str, Shares] = {}
    refused: tuple[Refusal, ...] = ()
    displaced: tuple[str, ...] = Field(
        default=(), exclude_if=says_nothing
    )  # builds with something standing that are not made any more


class Plans(Value):
    """Several plans of one job, the best first, each another in at least one board or way."""

    format: Literal["grainet-plans"] = "grainet-plans"
    version: Literal[1] = 1
    plans: tuple[Plan, ...] = Field(min_length=1)
