"""A photo of one side of a piece, and how its pixels lie on the wood: clicked points with their places, one lens term."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from grainet.wood.value import Point, Value

Side = Literal["face1", "face2", "near_edge", "far_edge", "marked_end", "far_end"]
SIDES: tuple[Side, ...] = ("face1", "face2", "near_edge", "far_edge", "marked_end", "far_end")
FLATNESS_PICTURES = ("bow", "cup", "crook", "twist")  # read once and not kept
SIDE_WORDS: dict[str, str] = {
    "face1": "Face 1", "face2": "Face 2", "near_edge": "Near edge", "far_edge": "Far edge", "marked_end": "Marked end",
    "far_end": "Far end", "bow": "Straightedge: bow", "cup": "Straightedge: cup", "crook": "Straightedge: crook", "twist": "Winding sticks",
}  # fmt: skip


class TruePoint(Value):
    """A clicked pixel (px, py) and where it lies on the side, in mm of the side's own axes (u, v).

    Faces: u = x, v = y as seen on face 1. Edges: u = x, v = depth from face 1. Ends: u = y, v = depth from face 1.
    ``u_mm`` None: somewhere on this straight edge, its place along it unknown.
    """

    px: float
    py: float
    v_mm: float
    u_mm: float | None = None


class Photo(Value):
    """One picture. ``sha`` names the untouched original in the shop's photos folder.

    ``points`` empty: not made true yet. ``lens`` is the one radial term, 0 where four points alone were clicked. ``miss_mm`` is the
    worst miss of the points; ``doubt_mm`` how far places between them may be off.
    """

    side: Side
    sha: str = Field(min_length=8)
    width_px: int = Field(gt=0)
    height_px: int = Field(gt=0)
    points: tuple[TruePoint, ...] = ()
    lens: float = Field(default=0.0, ge=-1, le=1)
    miss_mm: float = Field(default=0.0, ge=0)
    doubt_mm: float = Field(default=0.0, ge=0)
    shift_mm: Point = (0.0, 0.0)  # laid onto the other face by a through mark
    taken: str = ""
    by: str = ""

    @property
    def is_true(self) -> bool:
        return len(self.points) >= 4
