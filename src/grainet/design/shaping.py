"""What is cut off a body's faces after it is glued: bevels and carves along its rim, contours beyond a line."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from grainet.wood.value import Point, Value


class Shaping(Value):
    """One cut into a face: along the whole rim, straight (bevel) or arched (carve), so deep at the rim and so far in; or beyond a line
    over the body (contour), on the smaller side of it, flat from nothing at the line to its full depth at the rim's farthest place."""

    kind: Literal["bevel", "carve", "contour"]
    back: bool = False
    deep_mm: Annotated[float, Field(gt=0, le=200)]
    in_mm: Annotated[float, Field(ge=0, le=400)] = 0.0
    line: tuple[Point, Point] | None = None

    @property
    def words(self) -> str:
        """What it is called."""
        return f"{self.kind} {'behind' if self.back else 'in front'}, {self.deep_mm:g} deep"
