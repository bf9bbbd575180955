"""What a picture suggests: a mark or a figure with a confidence. It counts for nothing until a person keeps it."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from grainet.wood.defects import DefectKind
from grainet.wood.value import Name, OutlineOrEmpty, Place, Point, Value

SuggestionKind = Literal["defect", "slope", "rings", "figure", "edges", "bow", "cup", "crook", "twist"]


class Suggestion(Value):
    """One suggestion.

    ``polygon`` in mm as seen on face 1 (a defect's or a figure zone's); ``figures`` hold what was measured: the slope in degrees;
    the ring angle and its end (0 marked, 1 far), then the face that the heart lies toward and how far; strength, wavelength and angle of a figure; sag and span of a straightedge
    picture (bow, cup, crook); the fourth corner's height and the distance of winding sticks (twist). ``edges`` holds (x, near y, far y) of a live-edge outline in mm.
    """

    id: Name
    what: SuggestionKind
    confidence: float = Field(ge=0, le=1)
    face: Literal["1", "2", "edge", "end"] = "1"
    kind: DefectKind | None = None
    polygon: OutlineOrEmpty = ()
    figures: tuple[float, ...] = ()
    edges: tuple[tuple[Place, Place, Place], ...] = ()
    text: str = ""

    @property
    def middle(self) -> Point | None:
        """The middle of what is suggested, mm; None where it lies nowhere."""
        if not self.polygon:
            return None
        xs, ys = zip(*self.polygon)
        return (min(xs) + max(xs)) / 2, (min(ys) + max(ys)) / 2
