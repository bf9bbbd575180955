"""A part that is wanted: its outline on the show side, zones, thickness, and the ways in which it may lie."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import AfterValidator, Field

from grainet.design.role import read_role
from grainet.design.shape import Array, as_array
from grainet.wood.value import Point, Ring, Value, says_nothing

ZoneKind = Literal["critical", "removed", "hidden", "seen"]
ZONE_ORDER: tuple[ZoneKind, ...] = ("critical", "removed", "hidden", "seen")


class Zone(Value):
    """A part of the outline with its own tolerance of troubles; "rest" is what no other zone covers."""

    kind: ZoneKind
    polygon: Annotated[Ring, Field(min_length=3)] | Literal["rest"]
    both_sides: bool = False
    name: str = ""


Beyond = Annotated[float, Field(ge=0, le=1000)]


class SideAllowance(Value):
    """Wood that stays on beyond a part's outline as drawn, towards each side, mm."""

    left: Beyond = 0.0
    right: Beyond = 0.0
    near: Beyond = 0.0
    far: Beyond = 0.0

    def __bool__(self) -> bool:
        """Whether anything stays on."""
        return bool(self.left or self.right or self.near or self.far)


class KeptFlaw(Value):
    """A flaw of one piece that is kept on purpose: the whole of it lies in that kind of zone of at least one copy."""

    defect: str = Field(min_length=1)
    piece: str = Field(min_length=1)
    zone: ZoneKind


class FigureWish(Value):
    """Figure of one piece that shall be seen: at least that share of its area lies in that kind of zone of at least one copy."""

    zone: ZoneKind
    polygon: Annotated[Ring, Field(min_length=3)]
    piece: str = Field(min_length=1)
    share: float = Field(default=1.0, gt=0, le=1)


class Part(Value):
    """One wanted part; lengths in mm, angles in degrees. ``quantity`` None is without limit; it counts sets.

    A set is ``per_set`` copies, each of ``leaves`` leaves that are resawn from one footprint.
    """

    id: str = Field(min_length=1)
    role: Annotated[str, AfterValidator(read_role)] = ""
    outline: Ring = Field(min_length=3)
    thickness_mm: float = Field(gt=0, le=2000)
    quantity: int | None = Field(default=None, ge=0, le=10_000)
    value: float = Field(default=1.0, ge=0, le=1e9)
    turns_deg: tuple[float, ...] = Field(default=(0.0, 180.0), min_length=1, max_length=36)
    tilt_deg: float = Field(default=0.0, ge=0, le=180)
    mirror: bool = False
    faces_up: tuple[Literal["1", "2"], ...] = Field(default=("1", "2"), min_length=1)
    zones: tuple[Zone, ...] = ()
    leaves: int = Field(default=1, ge=1, le=50)
    per_set: int = Field(default=1, ge=1, le=50)
    same_piece: bool = False
    clean: bool = False  # its sawn long sides and ends get the kit's edge and trim towards neighbours too
    # from version 2 of a job on; left out of a file where nothing is said, so that version 1 stays what it was
    on_edge: bool = Field(default=False, exclude_if=says_nothing)  # a rectangle whose width and thickness may change places
    hand: Literal["left", "right"] | None = Field(default=None, exclude_if=says_nothing)
    mate: str | None = Field(default=None, exclude_if=says_nothing)  # the part of the other hand
    fold: bool = Field(default=False, exclude_if=says_nothing)  # a set's two copies lie as mirror images beside one rip
    slip: bool = Field(default=False, exclude_if=says_nothing)  # the second copy follows the first along the board
    joint_edge: tuple[Point, Point] | None = Field(default=None, exclude_if=says_nothing)
    joint_mm: Beyond = Field(default=0.0, exclude_if=says_nothing)
    allowance_mm: SideAllowance = Field(default=SideAllowance(), exclude_if=says_nothing)
    # that many copies from one footprint, each a set of its own
    leaves_max: int | None = Field(default=None, ge=1, le=50, exclude_if=says_nothing)
    keep: tuple[KeptFlaw, ...] = Field(default=(), exclude_if=says_nothing)
    figure: tuple[FigureWish, ...] = Field(default=(), exclude_if=says_nothing)
    byproduct: bool = Field(default=False, exclude_if=says_nothing)  # placed in what the best plan without it leaves

    label: str = ""
    letter: str = ""
    pin: tuple[float, float] | None = None
    pin_name: str = ""
    ring_wish_deg: float | None = None
    species_wish: tuple[str, ...] = ()

    @property
    def ring(self) -> Array:
        """The outline as an array of shape (points, 2), mm."""
        return as_array(self.outline)

    @property
    def has_block(self) -> bool:
        """Whether wood beyond its outline stays on until it is jointed or trimmed."""
        return (self.joint_mm > 0 and self.joint_edge is not None) or bool(self.allowance_mm)

    @property
    def in_pairs(self) -> bool:
        """Whether the two copies of a set lie at places that follow from one another."""
        return self.fold or self.slip

    @property
    def shown_name(self) -> str:
        """What a person calls it: its label, else its id."""
        return self.label or self.id


class PartAsLaid(Part):
    """A part the way it is laid on a board, where that may differ: so many sets from one footprint, or on its edge."""

    sets_each: int = 1
    stands: bool = False


def ways_laid(part: Part) -> tuple[Part, ...]:
    """The part itself, or where it says so: with each number of leaves, the most first, and the same on edge."""
    if part.leaves_max is None and not part.on_edge:
        return (part,)
    told = {name: getattr(part, name) for name in Part.model_fields}
    found: list[Part] = []
    for leaves in range(part.leaves_max or 1, 0, -1):
        many = told if part.leaves_max is None else {**told, "leaves": leaves}
        found.append(PartAsLaid(**many, sets_each=leaves if part.leaves_max is not None else 1))
        if part.on_edge:
            found.append(
                PartAsLaid(**{**many, **_on_edge(part)}, sets_each=leaves if part.leaves_max is not None else 1, stands=True)
            )
    return tuple(found)


def _on_edge(part: Part) -> dict[str, object]:
    """What changes of a rectangle that stands on its edge: its outline is length by thickness, and what one of its zones forbids, all of
    it does, for its show side lies across the board."""
    ring = part.ring
    (x0, y0), (x1, y1) = ring.min(axis=0).tolist(), ring.max(axis=0).tolist()
    thick = part.thickness_mm
    strictest: ZoneKind = next((kind for kind in ZONE_ORDER for z in part.zones if z.kind == kind), "seen")
    return {
        "outline": ((x0, y0), (x1, y0), (x1, y0 + thick), (x0, y0 + thick)),
        "thickness_mm": y1 - y0,
        "zones": (Zone(kind=strictest, polygon="rest", both_sides=True),),
    }


def stands(part: Part) -> bool:
    """Whether a part, as it is laid, stands on its edge."""
    return isinstance(part, PartAsLaid) and part.stands


def sets_each(part: Part) -> int:
    """How many sets one footprint of a part, as it is laid, gives."""
    return part.sets_each if isinstance(part, PartAsLaid) else 1
