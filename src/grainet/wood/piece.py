"""One piece of wood as the shop knows it.

Axes: marked end at the left, face 1 toward you; x along the grain, y up from the near edge, z into the wood from face 1.
Lengths mm, angles degrees, mass kg, moisture % of oven-dry mass.
"""

from __future__ import annotations

from datetime import date
from typing import Annotated, Any, Literal

from pydantic import Field, field_validator

from grainet.wood.coating import Coating
from grainet.wood.defects import Defect
from grainet.wood.figure import FigureZone
from grainet.wood.photo import Photo
from grainet.wood.record import CutSample, Happening, Rest, Supply, Tap, Weighing
from grainet.wood.suggestion import Suggestion
from grainet.wood.value import (
    Day,
    DayOrEmpty,
    DayOrWords,
    Name,
    OutlineOrEmpty,
    Place,
    Point,
    Ring,
    Value,
    says_nothing,
    twice_named,
)

PieceKind = Literal["slab", "plank", "billet", "strip", "panel", "furniture_part", "plate", "veneer", "fretboard_blank", "offcut"]
PIECE_KINDS: tuple[PieceKind, ...] = (
    "slab", "plank", "billet", "strip", "panel", "furniture_part", "plate", "veneer", "fretboard_blank", "offcut",
)  # fmt: skip
READINGS_HOLD_DAYS = 21  # wood on sticks moves on: an older reading is history, not the state
Positive = Annotated[float, Field(gt=0, le=20_000)]
OffFlat = Annotated[float, Field(ge=0, le=1000)]
Angle = Annotated[float, Field(ge=0, le=90)]


class Station(Value):
    """A thickness read at one place; ``top_mm`` is the height of face 1 over a flat bench, where it was taken."""

    x_mm: Place
    y_mm: Place
    thickness_mm: Positive
    top_mm: float | None = Field(default=None, ge=-1000, le=1000)
    by: str = ""  # which instrument gave it; empty: typed


class WidthStation(Value):
    """Where the two long edges lie at ``x_mm``: ``far_mm`` above and ``near_mm`` below the snapped line (both read up from it
    and down from it as positive numbers; on a straight board the line is the near edge and ``near_mm`` is 0)."""

    x_mm: float = Field(ge=0, le=20_000)
    far_mm: float = Field(ge=0, le=5000)
    near_mm: float = Field(default=0.0, ge=0, le=5000)
    by: str = ""


class Flatness(Value):
    """How far the piece is from flat; an absent span is the piece's own extent."""

    bow_mm: OffFlat = 0.0
    bow_span_mm: Positive | None = None
    cup_mm: OffFlat = 0.0
    cup_span_mm: Positive | None = None
    crook_mm: OffFlat = 0.0
    crook_span_mm: Positive | None = None
    rock_mm: OffFlat = 0.0
    rock_span_mm: Positive | None = None
    crook_in_outline: bool = False


class MoistureReading(Value):
    """One reading; it speaks only for its depth below the nearer face."""

    x_mm: Place
    y_mm: Place
    depth_mm: float = Field(ge=0, le=1000)
    moisture_pct: float = Field(ge=0, le=200)
    on: Day | None = None
    by: str = ""
    raw_pct: float | None = Field(default=None, ge=0, le=200)  # what the meter showed, before its table corrected it
    temperature_c: float | None = Field(default=None, ge=-20, le=80)
    doubt_pct: float = Field(default=0.0, ge=0, le=50)  # how far it may be off, where that is known


class Sweep(Value):
    """A metal sweep of one face: the day, how, and what it found."""

    face: Literal["1", "2"]
    on: DayOrEmpty
    how: str = "detector and eye"
    found: str = ""  # tags of the marks that the sweep left, or empty


class LookSkim(Value):
    """A light skim of a face to see the wood (``look_skim``): the day, how much came off, and whether what it showed was read since."""

    face: Literal["1", "2"]
    on: Day
    mm: float = Field(gt=0, le=2)
    seen: bool = False


class Layer(Value):
    """One layer of a panel or laminate, face 1 first."""

    species: str = "unknown"
    thickness_mm: Positive
    across: bool = False  # its grain lies across the length


class Piece(Value):
    """A piece of wood. The first block is what jobs exchange; the rest is what the shop knows besides.

    ``outline`` is empty while length and width are still unread.
    """

    id: Name
    kind: PieceKind = "plank"
    species: str = "unknown"
    outline: OutlineOrEmpty = ()
    thickness_mm: Positive | None = None
    stations: tuple[Station, ...] = ()
    flatness: Flatness = Flatness()
    crook_in_outline: bool = False
    ring_angle_deg: tuple[Angle | None, Angle | None] | None = None
    heart_face: Literal["", "1", "2"] = ""  # the face that the pith lies toward
    heart_mm: Annotated[float, Field(ge=0, le=5000)] | None = None  # from the middle of the board's section to the pith
    grain_slope_deg: float | None = Field(default=None, ge=-45, le=45)
    mass_kg: Annotated[float, Field(gt=0, le=2000)] | None = None
    moisture: tuple[MoistureReading, ...] = ()
    defects: tuple[Defect, ...] = ()

    name: str = ""
    length_mm: Positive | None = None
    width_stations: tuple[WidthStation, ...] = ()
    nominal_thickness_mm: Positive | None = None
    nominal_width_mm: Positive | None = None
    nominal_length_mm: Positive | None = None
    reading_grid: tuple[Annotated[int, Field(ge=1, le=25)], Annotated[int, Field(ge=1, le=9)]] = (3, 1)
    layers: tuple[Layer, ...] = ()
    bundle: str = ""  # the number of the bundle or pack that it came in with
    sawn_order: int | None = Field(default=None, ge=1)  # its place in the pack, as it was sawn
    coating: Coating = Coating()
    planing: Literal["", "far", "marked", "both_ways_tear"] = ""  # face 1 planes clean toward this end
    runout_deg: float | None = Field(default=None, ge=-45, le=45)  # on the near edge: fibres rise toward face 1 going right
    interlocked: bool = False
    flat_read: tuple[Literal["bow", "cup", "crook", "twist"], ...] = ()  # read, though it may be 0
    hollow_face: Literal["", "1", "2"] = ""  # the face that bow and cup leave hollow
    figure: tuple[FigureZone, ...] = ()
    photos: tuple[Photo, ...] = ()
    suggestions: tuple[Suggestion, ...] = ()
    read_by: tuple[tuple[str, str], ...] = ()  # field and the instrument that gave it
    reclaimed: bool = False
    sweeps: tuple[Sweep, ...] = ()
    skims: tuple[LookSkim, ...] = Field(default=(), exclude_if=says_nothing)
    origin: str = ""
    arrived: DayOrWords = ""
    place: str = ""
    parent: str | None = None
    parent_outline: OutlineOrEmpty = ()
    pictured_as: str = ""
    picture_at: tuple[Place, Place] = (0.0, 0.0)
    picture_depth_mm: Place = 0.0
    picture_sign: tuple[int, int, int] = (1, 1, 1)  # -1 where the piece was turned since it was pictured
    racked: bool = True
    gone: str = ""  # sawn up for this build, or empty while the piece lies on the rack
    label_printed: bool = False
    note: str = ""

    species_sure: bool = True
    candidates: tuple[str, ...] = ()  # other species that it may be
    look: tuple[str, ...] = ()  # pores and colours as seen, to narrow them
    stacking: Literal["", "sticks", "still", "bench", "sealed"] = ""  # how it rests; empty: on sticks
    weighings: tuple[Weighing, ...] = ()
    samples: tuple[CutSample, ...] = ()
    rests: tuple[Rest, ...] = ()
    settled: Happening | None = None  # marked as settled by hand: the day, and why
    rest_waived: str = ""  # why a moving piece is worked after all, in the builder's words
    taps: tuple[Tap, ...] = ()
    supply: Supply = Supply()
    passed_over: tuple[Happening, ...] = ()  # why it was left lying
    history: tuple[Happening, ...] = ()

    @field_validator("defects", "figure", "suggestions")
    @classmethod
    def _each_has_its_own_tag(cls, marks: tuple[Defect | FigureZone | Suggestion, ...]) -> Any:
        twice_named("the tag", (m.id for m in marks))
        return marks

    @property
    def extents(self) -> tuple[float, float, float, float]:
        """x0, y0, x1, y1 of the outline in mm (zeros while unread)."""
        if not self.outline:
            return 0.0, 0.0, 0.0, 0.0
        xs, ys = zip(*self.outline)
        return min(xs), min(ys), max(xs), max(ys)

    @property
    def all_thicknesses_mm(self) -> tuple[float, ...]:
        """Every thickness that was read, mm; the one figure where no places were."""
        return tuple(s.thickness_mm for s in self.stations) or ((self.thickness_mm,) if self.thickness_mm else ())

    @property
    def least_thickness_mm(self) -> float | None:
        """The least of them, mm; None while nothing is read."""
        return min(self.all_thicknesses_mm, default=None)

    @property
    def live_metal(self) -> tuple[Defect, ...]:
        """Metal that is still in it."""
        return tuple(d for d in self.defects if d.live_metal)

    @property
    def moisture_now(self) -> tuple[MoistureReading, ...]:
        """The readings that speak for today: those of the newest day and of three weeks before it, and undated ones."""
        days = [date.fromisoformat(r.on) for r in self.moisture if r.on]
        if not days:
            return self.moisture
        newest = max(days)
        return tuple(r for r in self.moisture if not r.on or (newest - date.fromisoformat(r.on)).days <= READINGS_HOLD_DAYS)

    def photo(self, side: str) -> Photo | None:
        """The newest photo of a side, if there is one."""
        return next((p for p in reversed(self.photos) if p.side == side), None)

    def source_of(self, field: str) -> str:
        """The instrument that gave a figure, or empty where it was typed."""
        return dict(self.read_by).get(field, "")

    @property
    def unswept_faces(self) -> tuple[str, ...]:
        """Faces of a reclaimed piece that no sweep has covered; a bought board needs none."""
        if not self.reclaimed:
            return ()
        swept = {s.face for s in self.sweeps}
        return tuple(face for face in ("1", "2") if face not in swept)


def marked_settled(piece: Piece) -> bool:
    """Whether a person's word that it is settled still counts: no reading or weighing has been taken since."""
    if piece.settled is None:
        return False
    days = [*(r.on for r in piece.moisture), *(w.on for w in piece.weighings), *(r.on for r in piece.rests)]
    return not any(day and day > piece.settled.on for day in days)


def outline_from_readings(length_mm: float, widths: tuple[WidthStation, ...]) -> Ring:
    """The outline that the edge readings describe, counter-clockwise from the near corner at the marked end.

    Straight between readings and carried on level beyond them; y is 0 on the lowest near-edge reading.
    """
    inside = sorted((w for w in widths if w.x_mm <= length_mm + 1e-9), key=lambda w: w.x_mm)
    if not inside:
        return ()
    line = max(w.near_mm for w in inside)
    near: list[Point] = [(w.x_mm, line - w.near_mm) for w in inside]
    far: list[Point] = [(w.x_mm, line + w.far_mm) for w in inside]
    for edge in (near, far):
        if edge[0][0] > 0:
            edge.insert(0, (0.0, edge[0][1]))
        if edge[-1][0] < length_mm:
            edge.append((length_mm, edge[-1][1]))
    return tuple(_without_straight_points(near)) + tuple(reversed(_without_straight_points(far)))


def _without_straight_points(edge: list[Point]) -> list[Point]:
    kept = edge[:1]
    for (x0, y0), (x1, y1), (x2, y2) in zip(edge, edge[1:], edge[2:]):
        if abs((x1 - x0) * (y2 - y0) - (x2 - x0) * (y1 - y0)) > 1e-6:
            kept.append((x1, y1))
    return kept + edge[-1:]


def with_readings(piece: Piece, **changes: object) -> Piece:
    """The piece with some readings changed and its outline worked out again from length and edges.

    An outline that did not come from edge readings (an imported one, an offcut's) is left as it is.
    """
    new = piece.changed(**changes)
    if new.length_mm and new.width_stations:
        return new.changed(outline=outline_from_readings(new.length_mm, new.width_stations))
    return new
