"""How the pair of a plan is to be opened: which edge meets at the seam, which faces show, where the skims go, and what was measured."""

from __future__ import annotations

from collections.abc import Sequence

from pydantic import Field

from grainet.match.opening import Seam, Show
from grainet.wood.value import Point, Value, says_nothing


class OpenedPhoto(Value):
    """A photo of the pair as it lies open, or joined: the original by its name, two marks on the seam in its pixels with how far they lie
    apart in mm, and how alike the leaves are beside it, 0 to 1. ``tail_mm``: how far the instrument's tail lies from the mark at its end,
    once its outline was slid over the photo; ``back``: it shows the side that is glued down."""

    sha: str = Field(min_length=1)
    marks: tuple[Point, Point]
    apart_mm: float = Field(gt=0, le=20_000)
    alike: float = Field(ge=0, le=1)
    tail_mm: float | None = Field(default=None, ge=-20_000, le=20_000, exclude_if=lambda mm: mm is None)
    back: bool = Field(default=False, exclude_if=says_nothing)


class Matched(Value):
    """The opening chosen for one set of a part; an empty ``part`` is the plan's first pair. ``measured_mm``: how far the lines missed
    once it was sawn; None while it is not."""

    part: str = ""
    set: int = Field(default=1, ge=1)
    seam: Seam = "near"
    show: Show = "sawn"
    outer_skim: bool = False  # only the faces that do not show are skimmed
    measured_mm: float | None = Field(default=None, ge=0, le=200)
    photo: OpenedPhoto | None = Field(default=None, exclude_if=lambda photo: photo is None)


def of_pair(matched: Sequence[Matched], part: str, number: int, *, first: bool) -> Matched | None:
    """What was chosen for a set of a part; ``first``: it is the plan's first pair. None while nothing was."""
    found = next((m for m in matched if (m.part, m.set) == (part, number)), None)
    return found or next((m for m in matched if first and not m.part), None)


def with_pair(matched: Sequence[Matched], one: Matched) -> tuple[Matched, ...]:
    """The choices with one made or changed."""
    return (*(m for m in matched if m.part and (m.part, m.set) != (one.part, one.set)), one)


def read_opening(key: str) -> tuple[Seam, Show] | None:
    """The opening of a plan as it was kept at first: ``near-sawn``; None for anything else."""
    seam, _, show = key.partition("-")
    if seam in ("near", "far") and show in ("sawn", "old"):
        return seam, show  # type: ignore[return-value]
    return None
