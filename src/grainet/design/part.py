"""A part that is wanted: its outline on the show side, zones, thickness, and the ways in which it may lie."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import AfterValidator, Field

from grainet.design.role import read_role
from grainet.design.shape import Array, as_array
from grainet.wood.value import Ring, Value

ZoneKind = Literal["critical", "removed", "hidden", "seen"]
ZONE_ORDER: tuple[ZoneKind, ...] = ("critical", "removed", "hidden", "seen")


class Zone(Value):
    """A part of the outline with its own tolerance of troubles; "rest" is what no other zone covers."""

    kind: ZoneKind
    polygon: Annotated[Ring, Field(min_length=3)] | Literal["rest"]
    both_sides: bool = False
    name: str = ""


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
    def shown_name(self) -> str:
        """What a person calls it: its label, else its id."""
        return self.label or self.id
