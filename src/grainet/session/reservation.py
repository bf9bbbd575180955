"""A claim on a piece, or on a region of it: what for, who gets it first, and what gets in its way."""

from __future__ import annotations

from pydantic import Field

from grainet.wood.value import DayOrEmpty, Name, Place, Value

Box = tuple[Place, Place, Place, Place]


class Reservation(Value):
    """One claim. ``box`` is the claimed region in mm from the marked end and the near edge; None claims the whole piece."""

    id: Name
    piece: Name
    claimed_for: str = Field(min_length=1, max_length=80)
    design: str = ""
    part: str = ""
    box: Box | None = None
    on: DayOrEmpty = ""
    note: str = Field(default="", max_length=200)

    @property
    def whole(self) -> bool:
        """Whether it claims the whole piece."""
        return self.box is None

    def meets(self, other: Reservation) -> bool:
        """Whether two claims want the same wood."""
        if self.piece != other.piece or self.id == other.id:
            return False
        if self.box is None or other.box is None:
            return True
        (ax0, ay0, ax1, ay1), (bx0, by0, bx1, by1) = self.box, other.box
        return ax0 < bx1 and bx0 < ax1 and ay0 < by1 and by0 < ay1
