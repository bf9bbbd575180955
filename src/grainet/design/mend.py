"""A way out that was taken where the rack did not give a blank as it is drawn: it stays with the instrument."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from grainet.wood.value import Value

MendKind = Literal[
    "shift and tilt", "swap or flip halves", "other end or face up", "shorten or rip before flattening", "centre strip", "third piece",
    "split and insert", "extra layer", "skins",
]  # fmt: skip
PLACING: tuple[MendKind, ...] = (
    "shift and tilt",
    "swap or flip halves",
    "other end or face up",
)  # these change how a part may lie, not what it is


class Mend(Value):
    """What is done to one part, and to its mirrored mate alike. ``at_mm``: of a cut the places from the joint's edge, one or two; of a
    layer or skins how thick they are."""

    part: str = Field(min_length=1, max_length=80)
    kind: MendKind
    at_mm: Annotated[tuple[Annotated[float, Field(gt=0, le=3000)], ...], Field(max_length=2)] = ()
