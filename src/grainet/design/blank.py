"""One blank: stock for one part of the tree, its three sizes as sums; and the losses that every blank has."""

from __future__ import annotations

from dataclasses import dataclass

from grainet.design.allowances import Allowances
from grainet.design.instrument import Instrument
from grainet.design.sums import Sum, Term, sum_of, taken
from grainet.wood.value import Ring


@dataclass(frozen=True)
class Blank:
    """One kind of blank: which part and member of the tree it is, its way, how many, and its three sums.

    ``leaves`` come resawn from one piece of stock, ``footprint`` thick; ``outline`` is the finished part in its own frame, lower left at
    0, 0; ``mate`` names the other half of a pair.
    """

    part: str
    member: str
    component: str
    way: str
    length: Sum
    width: Sum
    thickness: Sum
    count: int = 1
    leaves: int = 1
    species: tuple[str, ...] = ()
    role: str = ""
    outline: Ring = ()
    frame_mm: tuple[float, float] = (0.0, 0.0)  # where its frame's 0, 0 lies in the instrument's
    footprint: Sum | None = None
    mate: str = ""
    joint_side: str = ""  # the side of its frame that is glued to its mate: low or high
    for_either: bool = False  # its outline holds either of two halves that differ; each is shaped to its own later
    cut: str = ""  # of a piece that mending cut from another: which (strip, third piece, insert, layer)


# what every blank loses -----------------------------------------------------------------------------------------------
def long_sum(instrument: Instrument, kit: Allowances, *terms: Term) -> Sum:
    """A length: what is finished, both ends trimmed, snipe."""
    return sum_of(*terms).plus(
        taken("two ends trimmed", 2 * kit.trim_mm, "kit: trim, each end", "kit.trim_mm"),
        taken("snipe at both ends", 2 * instrument.snipe_mm, "snipe", "snipe_mm"),
    )


def wide_sum(kit: Allowances, *terms: Term) -> Sum:
    """A width: what is finished, both long edges."""
    return sum_of(*terms).plus(taken("two edges", 2 * kit.edge_mm, "kit: edge, each long side", "kit.edge_mm"))


def thick_sum(kit: Allowances, *terms: Term) -> Sum:
    """A thickness: what is finished, both faces skimmed."""
    return sum_of(*terms).plus(taken("two faces skimmed", 2 * kit.skim_mm, "kit: skim, each face", "kit.skim_mm"))


def after_glue(instrument: Instrument, faces: int) -> Term:
    """What flattening takes once the part is glued up."""
    words = "one face" if faces == 1 else "both faces"
    return taken(
        f"{words} after gluing", faces * instrument.skim_after_glue_mm, "skim after gluing, each face", "skim_after_glue_mm"
    )


def box(length: float, width: float) -> Ring:
    """A rectangle at 0, 0."""
    return ((0.0, 0.0), (length, 0.0), (length, width), (0.0, width))
