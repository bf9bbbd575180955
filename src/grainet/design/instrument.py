"""An instrument as it is drawn up: its figures, what it is joined from, and how sure each bought figure is.

The file ``grainet-guitar`` is this value. A figure that was never said has the shipped default and counts as guessed; what was said is
what stands in the value's set fields, so it is kept and written as it was given, never filled up with defaults.
"""

from __future__ import annotations

import json
from collections.abc import Iterator
from typing import Annotated, Any, Literal, Self

from pydantic import Field, ValidationInfo, field_validator

from grainet.design.mend import Mend
from grainet.design.part import Zone
from grainet.design.shape_library import BODIES
from grainet.design.shaping import Shaping
from grainet.wood.outline import ring_fault
from grainet.wood.value import BadEntry, Ring, Value

Mm = Annotated[float, Field(gt=0, le=3000)]
Some = Annotated[float, Field(ge=0, le=3000)]
Degrees = Annotated[float, Field(ge=0, le=30)]
Status = Literal["in hand", "ordered", "guessed"]
Kind = Literal["bolt-on", "set", "through"]
KINDS: tuple[Kind, ...] = ("bolt-on", "set", "through")
Route = Literal["flat", "solid", "stacked", "scarf"]
ROUTES: tuple[Route, ...] = ("flat", "solid", "stacked", "scarf")
Woods = tuple[Annotated[str, Field(min_length=1, max_length=80)], ...]


class Head(Value):
    """The head: how it is made, its pitch, its size; the length lies along its face."""

    route: Route = "flat"
    angle_deg: Degrees = 14.0
    length_mm: Mm = 180.0
    width_mm: Mm = 84.0
    thickness_mm: Mm = 15.0


class NeckJoint(Value):
    """How neck and body meet: pocket, tenon or the sloping run in the body; the heel's thickness; the neck's angle to the body; what the
    pocket is wider than the heel, on each side."""

    length_mm: Mm = 70.0
    heel_mm: Mm = 22.0
    angle_deg: Degrees = 0.0
    clearance_mm: Some = Field(default=0.1, alias="x-clearance_mm")


class Neck(Value):
    """The neck's depths without the fretboard, the curve of its back, its finished width where that is told apart from the head's."""

    depth_nut_mm: Mm = 15.0
    depth_heel_mm: Mm = 17.0
    back_curve_mm: Some = 0.0
    width_mm: Mm | None = None
    layer_mm: Some = Field(default=0.0, alias="x-layer_mm")  # planed stock of a layered neck: it says how many layers; 0 for two
    species: Woods = ()


class Rod(Value):
    """The rod's slot, how deep its curve lies below that, and which end adjusts it."""

    width_mm: Mm = 6.4
    depth_mm: Mm = 9.5
    curve_mm: Some = 0.0
    adjusts: Literal["head", "body", "none"] = "head"


class Fretboard(Value):
    """The board: its thickness, one radius or the nut's and the end's, binding, depth of the slots."""

    thickness_mm: Mm = 6.5
    radius_mm: Annotated[tuple[Mm, ...], Field(min_length=1, max_length=2)] = (305.0,)
    binding_mm: Some = 0.0
    slot_mm: Some = 3.0
    species: Woods = ()


class Plate(Value):
    """The head's plate; 0 thick where there is none."""

    thickness_mm: Some = 2.5
    species: Woods = ()


class Tuner(Value):
    """What the tuner's shank grips at most."""

    shank_mm: Mm = 16.0


class Cavity(Value):
    """A pocket routed into the body from its show side: its name, depth and outline in the body's frame."""

    name: str = Field(min_length=1, max_length=40)
    depth_mm: Mm
    polygon: Annotated[Ring, Field(min_length=3)]


class Body(Value):
    """The body: x from the tail (0) to the neck, y 0 the centre line, drawn on the show side, bass side up for a right-handed one."""

    outline: Annotated[Ring, Field(min_length=3)] = BODIES["egg"].outline
    zones: tuple[Zone, ...] = BODIES["egg"].zones
    thickness_mm: Mm = 44.0
    cap_mm: Some = 0.0
    species: Woods = ()
    cap_species: Woods = ()
    rim_mm: Some = Field(default=0.0, alias="x-rim_mm")  # of the body that stays round a top that is let in; 0: it covers all
    recess_mm: Some = Field(default=0.0, alias="x-recess_mm")  # how deep such a top is let in; 0: by its own thickness
    cavities: tuple[Cavity, ...] = ()
    shaping: Annotated[tuple[Shaping, ...], Field(max_length=20)] = Field(default=(), alias="x-shaping")  # cut into its faces

    @field_validator("outline")
    @classmethod
    def _is_a_ring(cls, ring: Ring, _info: ValidationInfo) -> Ring:
        if fault := ring_fault(ring):
            raise ValueError(fault)
        return ring


class Templates(Value):
    """What templates are made for: the bearing that runs along them and the cutter below it, both across."""

    bearing_mm: Mm = 12.7
    cutter_mm: Mm = 12.7


class Strip(Value):
    """One strip of a laminated neck, from the bass side on: its true thickness, where it tapers to, whether it is an accent, and to which
    end its grain runs out at the top, where that was looked at."""

    species: str = ""
    mm: Mm
    taper_mm: Mm | None = None
    accent: bool = False
    grain: Literal["", "head", "tail"] = Field(default="", alias="x-grain")


class Plated(Value):
    """A plate let into the neck's back: where it begins from the nut, its size, how deep its recess is."""

    name: str = Field(min_length=1, max_length=40)
    thickness_mm: Mm
    depth_mm: Mm
    at_mm: Some = 0.0
    length_mm: Mm
    width_mm: Mm
    species: Woods = ()

    @property
    def part_name(self) -> str:
        """What its blank is called."""
        return f"plates.{self.name.lower().replace(' ', '_')}"


class HeelBlock(Value):
    """A block that is glued under the neck's heel: its finished size, and of how many layers it is stacked."""

    length_mm: Mm
    width_mm: Mm
    height_mm: Mm
    layers: int = Field(default=1, ge=1, le=12)
    species: Woods = ()


class Stiffener(Value):
    """Rods of wood let into the neck beside the truss rod: their size, how many, and how far from the middle their axes lie."""

    length_mm: Mm
    width_mm: Mm
    depth_mm: Mm
    count: int = Field(default=2, ge=1, le=8)
    beside_mm: Some = 0.0
    species: Woods = ()


class Instrument(Value):
    """One instrument that is drawn up. Lengths mm, angles degrees; ``scale_mm`` one scale, or the bass's and the treble's."""

    format: Literal["grainet-guitar"] = "grainet-guitar"
    version: Literal[1] = 1
    id: str = Field(min_length=1, max_length=60)
    name: str = Field(default="", max_length=60)
    kind: Kind = "bolt-on"
    hand: Literal["right", "left"] = "right"
    scale_mm: Annotated[tuple[Annotated[float, Field(ge=200, le=1200)], ...], Field(min_length=1, max_length=2)] = (628.0,)
    perpendicular_fret: float = Field(default=0.0, ge=0, le=36)
    frets: int = Field(default=22, ge=1, le=36)
    nut_mm: Mm = 43.0
    spread_mm: Mm = 52.5
    string_to_edge_mm: Some = 3.0
    overhang_mm: Some = 8.0
    tail_mm: Mm = 118.0
    join_fret: float = Field(default=17.0, ge=1, le=36)
    head: Head = Head()
    joint: NeckJoint = NeckJoint()
    neck: Neck = Neck()
    rod: Rod = Rod()
    tuner: Tuner = Tuner()
    fretboard: Fretboard = Fretboard()
    plate: Plate = Plate()
    body: Body = Body()
    status: dict[str, Status] = {}
    ways: dict[str, str] = {}
    strips: tuple[Strip, ...] = ()
    skim_after_glue_mm: Some = 0.6
    side_trim_mm: Some = 3.0
    snipe_mm: Some = 0.0
    reserve_mm: dict[str, Some] = {}
    spare: dict[str, Annotated[int, Field(ge=0, le=100)]] = {}
    templates: Templates = Field(default=Templates(), alias="x-templates")
    mends: Annotated[tuple[Mend, ...], Field(max_length=40)] = Field(default=(), alias="x-mends")  # ways out that were taken
    plates: Annotated[tuple[Plated, ...], Field(max_length=20)] = Field(default=(), alias="x-plates")  # let into the neck's back
    heel_block: HeelBlock | None = Field(default=None, alias="x-heel_block")
    stiffener: Stiffener | None = Field(default=None, alias="x-stiffener")
    off: tuple[str, ...] = Field(default=(), alias="x-off")  # terms that are switched off: "neck.length: two ends trimmed"

    def changed(self, **changes: Any) -> Self:
        """A copy with some fields changed, validated anew; what was never said stays unsaid (raises ValidationError)."""
        told = {name: getattr(self, name) for name in self.model_fields_set}
        return type(self)(**{**told, **changes})

    @property
    def shown_name(self) -> str:
        """What a person calls it."""
        return self.name or self.id

    @property
    def scale(self) -> float:
        """Its scale; of two the longer one."""
        return max(self.scale_mm)

    def with_figure(self, path: str, value: Any) -> Self:
        """The instrument with one figure told: ``head.width_mm``. Raises ValidationError, and BadEntry for a figure that is none."""
        return self.with_figures({path: value})

    def with_figures(self, told: dict[str, Any]) -> Self:
        """The instrument with some figures told at once; the values around them keep what was never said."""
        data = self.model_dump(mode="json", exclude_unset=True, by_alias=True)
        for path, value in told.items():
            *groups, name = path.split(".")
            into, model = data, type(self)
            for group in groups:
                field = model.model_fields.get(group)
                if field is None:
                    raise BadEntry(f"“{path}” is no figure of an instrument.")
                model = field.annotation  # type: ignore[assignment]
                into = into.setdefault(field.alias or group, {})
            if name not in model.model_fields:
                raise BadEntry(f"“{path}” is no figure of an instrument.")
            into[model.model_fields[name].alias or name] = value
        return type(self).model_validate_json(json.dumps(data))

    def figure(self, path: str) -> Any:
        """A figure by its path: ``head.width_mm``."""
        value: Any = self
        for name in path.split("."):
            value = getattr(value, name)
        return value

    def is_said(self, path: str) -> bool:
        """Whether a figure was told, by a person or a file; what was not is the shipped default."""
        value: Any = self
        for name in path.split("."):
            if name not in value.model_fields_set:
                return False
            value = getattr(value, name)
        return True

    def is_guessed(self, path: str) -> bool:
        """Whether a figure is only guessed: never told, or told so."""
        return self.status.get(path) == "guessed" or (path not in self.status and not self.is_said(path))

    def faults(self) -> Iterator[tuple[str, str]]:
        """(place, what was found) where the figures cannot go together; sizes alone are checked where they are read."""
        if self.join_fret > self.frets + 1:
            yield "join_fret", f"the body joins at fret {self.join_fret:g} of {self.frets}; at most the last fret"
        if len(self.scale_mm) == 2 and self.perpendicular_fret > self.frets:
            yield "perpendicular_fret", f"{self.perpendicular_fret:g} lies beyond the last fret, {self.frets}"
        if self.body.rim_mm and not self.body.cap_mm:
            yield "body.rim_mm", f"a rim of {self.body.rim_mm:g} is for a top that is let in; needs a top too, or rim 0"
        if self.body.recess_mm and not self.body.rim_mm:
            yield (
                "body.recess_mm",
                f"a recess of {self.body.recess_mm:g} is for a top that is let in; needs a rim too, or recess 0",
            )
        deep = max(self.body.recess_mm, self.body.cap_mm)
        if self.body.rim_mm and deep >= self.body.thickness_mm:
            yield "body.recess_mm", f"a recess of {deep:g} leaves no floor in a body of {self.body.thickness_mm:g}"
        for k, plate in enumerate(self.plates):
            if plate.part_name in [p.part_name for p in self.plates[:k]]:
                yield f"x-plates[{k}].name", f"“{plate.name}” stands twice, needs a name of its own"
        for k, one in enumerate(self.body.shaping):
            if one.deep_mm >= self.body.thickness_mm:
                yield f"body.x-shaping[{k}]", f"{one.words}, leaves nothing of a body of {self.body.thickness_mm:g}"
            if one.kind == "contour" and (one.line is None or one.line[0] == one.line[1]):
                yield f"body.x-shaping[{k}].line", "a contour needs the line where it begins, two places on the body"
        if self.body.cap_mm >= self.body.thickness_mm:
            yield "body.cap_mm", f"a top of {self.body.cap_mm:g} leaves nothing of a body of {self.body.thickness_mm:g}"
        ys = [y for _, y in self.body.outline]
        if not min(ys) < 0 < max(ys):
            yield "body.outline", f"lies from y {min(ys):g} to {max(ys):g}; it needs wood on both sides of its centre line, y 0"
        if self.joint.heel_mm > self.body.thickness_mm and self.kind == "bolt-on":
            yield "joint.heel_mm", f"a heel of {self.joint.heel_mm:g} is deeper than the body, {self.body.thickness_mm:g}"
