"""Running sizes of a board's cuts: both edges of every kerf from one datum, the board's own marked end (its near edge for rips), so that all of
them can be marked out at once and roll up to the whole.

What the saw is set to is measured from what is in hand then, and stands in the lanes; the two agree where nothing was cut off before.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING, Literal

if TYPE_CHECKING:
    from grainet.kit.cut_kit import CutKit
    from grainet.work.steps import Step

State = Literal["done", "next", "later"]


@dataclass(frozen=True)
class KerfEdges:
    """One straight cut: its step, across the board or along it, both edges of its kerf from the datum in mm, and on the wood where it
    begins and ends the other way."""

    number: int
    across: bool
    low_mm: float
    high_mm: float
    from_mm: float
    to_mm: float
    state: State


def running_sizes(
    steps: Sequence[Step], kit: CutKit, done: Collection[int], upcoming: int | None, datum: tuple[float, float]
) -> list[KerfEdges]:
    """Of every crosscut and rip, in the order of the steps. ``done`` are numbers of cuts, ``upcoming`` the number of the next step;
    ``datum`` is the corner at the marked end and the near edge, mm."""
    found = []
    for step in steps:
        cut = step.cut
        if cut.tool not in ("crosscut", "rip"):
            continue
        across = cut.tool == "crosscut"
        axis = 0 if across else 1
        at, half = cut.line[0][axis] - datum[axis], getattr(kit.kerf_mm, cut.tool) / 2
        others = sorted(point[1 - axis] for point in cut.line)
        state: State = "done" if cut.n in done else "next" if step.n == upcoming else "later"
        found.append(
            KerfEdges(step.n, across, round(at - half, 1) + 0.0, round(at + half, 1) + 0.0, others[0], others[-1], state)
        )
    return found
