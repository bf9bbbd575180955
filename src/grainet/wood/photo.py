"""A photo of one side of a piece, and how its pixels lie on the wood: clicked points with their places, one lens term."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from grainet.wood.value import DayOrEmpty, Place, Value

Side = Literal["face1", "face2", "near_edge", "far_edge", "marked_end", "far_end"]
SIDES: tuple[Side, ...] = ("face1", "face2", "near_edge", "far_edge", "marked_end", "far_end")
FLATNESS_PICTURES = ("bow", "cup", "crook", "twist")  # read once and not kept
SIDE_WORDS: dict[str, str] = {
    "face1": "Face 1", "face2": "Face 2", "near_edge": "Near edge", "far_edge": "Far edge", "marked_end": "Marked end",
    "far_end": "Far end", "bow": "Straightedge: bow", "cup": "Straightedge: cup", "crook": "Straightedge: crook", "twist": "Winding sticks",
}  # fmt: skip


Sha = Annotated[str, Field(pattern=r"^[0-9a-f]{64}$")]  # the SHA-256 of the original: a name in photos/, never a path
Pixel = Annotated[float, Field(ge=-1_000_000, le=1_000_000)]


class TruePoint(Value):
    """A clicked pixel (px, py) and where it lies on the side, in mm of the side's own axes (u, v).

    Faces: u = x, v = y as seen on face 1. Edges: u = x, v = depth from face 1. Ends: u = y, v = depth from face 1.
    ``u_mm`` None: somewhere on this straight edge, its place along it unknown.
    """

    px: Pixel
    py: Pixel
    v_mm: Place
    u_mm: Place | None = None


class Photo(Value):
    """One picture. ``sha`` names the untouched original in the shop's photos folder.

    ``points`` empty: not made true yet. ``lens`` is the one radial term, 0 where four points alone were clicked. ``miss_mm`` is the
    worst miss of the points; ``doubt_mm`` how far places between them may be off.
    """

    side: Side
    sha: Sha
    width_px: int = Field(gt=0, le=1_000_000)
    height_px: int = Field(gt=0, le=1_000_000)
    points: tuple[TruePoint, ...] = ()
    lens: float = Field(default=0.0, ge=-1, le=1)
    miss_mm: float = Field(default=0.0, ge=0)
    doubt_mm: float = Field(default=0.0, ge=0)
    shift_mm: tuple[Place, Place] = (0.0, 0.0)  # laid onto the other face by a through mark
    taken: DayOrEmpty = ""
    by: str = ""

    @property
    def is_true(self) -> bool:
        """Whether it was made true to scale."""
        return len(self.points) >= 4
