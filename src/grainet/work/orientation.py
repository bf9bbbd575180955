"""Which way round two mates are glued: what their hollow leaves open, how their rings lie to each other, and what turning one over costs
the match. The builder chooses; both ways are told.

Hollows that meet leave a joint open in the middle, which clamps close; crowns that meet leave its ends open, which no clamp keeps closed.
Halves on an edge joint step along the seam by as much as their bows differ. Hearts alike cup as one arc; laid by turns they cup against one
another, and a plate of two stays four times as flat (the sagitta of an arc grows with the square of its width).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from grainet.design.formulas import bow_after_shortening_mm
from grainet.wood.piece import Piece
from grainet.wood.planing import planing_direction
from grainet.work.workpiece import Freed

LEAST_MM = 0.05  # of a bow that is told
Open = Literal["middle", "ends", "seam"]


@dataclass(frozen=True)
class Half:
    """One of two mates as it lies with its show side up: how hollow that side is over the part's length (a crown counts below 0), whether the
    heart of the tree lies under it, none where it was not read; whether its planing direction is known."""

    hollow_mm: float = 0.0
    heart_up: bool | None = None
    arrow: bool = False


@dataclass(frozen=True)
class Way:
    """One way round: what stays open and where, how the rings lie, whether the mirror is kept."""

    turned: bool
    open_mm: float
    where: Open
    rings: Literal["", "alike", "by turns"]
    mirror: bool
    loses: bool  # it would be kept the other way
    arrows: bool  # turned end for end as well, so that both plane the same way

    @property
    def words(self) -> str:
        """The way in a sentence."""
        said = ["Second turned over" if self.turned else "As they lie"]
        if self.open_mm >= LEAST_MM:
            what = {
                "middle": "open in the middle",
                "ends": "open at the ends, no clamp keeps it closed",
                "seam": "a step along the seam",
            }
            said.append(f"{self.open_mm:.1f} {what[self.where]}")
        if self.rings:
            said.append("hearts alike, cups as one" if self.rings == "alike" else "hearts by turns, cups less")
        if self.turned:
            said.append("the mirror is lost" if self.loses else "its back shows")
        if self.turned and self.arrows:
            said.append("end for end too, so that both plane one way")
        return f"{said[0]}: {'; '.join(said[1:])}." if said[1:] else f"{said[0]}."


def half_of(one: Freed, piece: Piece, long_mm: float) -> Half:
    """A mate from what was read on its board. Leaves that open like a book show the two sides of one cut: the second one its lower side."""
    flat, show = piece.flatness, one.placement.face_up
    if one.part.leaves > 1 and not one.part.slip and one.placement.leaf % 2 == 0:
        show = "2" if show == "1" else "1"
    bow = bow_after_shortening_mm(flat.bow_mm, flat.bow_span_mm or piece.extents[2] - piece.extents[0], long_mm)
    hollow = 0.0 if not piece.hollow_face else bow if piece.hollow_face == show else -bow
    return Half(hollow, None if not piece.heart_face else piece.heart_face == show, bool(planing_direction(piece)))


def ways_round(first: Half, second: Half, *, edge: bool, matched: bool) -> tuple[Way, ...]:
    """The two ways, the one to be preferred first; none where nothing was read that tells them apart. A match is kept unless that leaves
    the ends open; else closed ends come first, then the lesser gap, then hearts by turns."""
    if max(abs(first.hollow_mm), abs(second.hollow_mm)) < LEAST_MM and None in (first.heart_up, second.heart_up):
        return ()
    found = [_way(first, second, edge=edge, matched=matched, turned=turned) for turned in (False, True)]
    return tuple(sorted(found, key=lambda w: (_refused(w), not w.mirror, round(w.open_mm, 2), w.rings != "by turns", w.turned)))


def _refused(way: Way) -> bool:
    return way.where == "ends" and way.open_mm >= LEAST_MM


def _way(first: Half, second: Half, *, edge: bool, matched: bool, turned: bool) -> Way:
    """One of them. Of a face joint the first one's upper face meets the second one's lower face."""
    apart = first.hollow_mm - (-second.hollow_mm if turned else second.hollow_mm)
    where: Open = "seam" if edge else "middle" if apart >= 0 else "ends"
    rings: Literal["", "alike", "by turns"] = ""
    if first.heart_up is not None and second.heart_up is not None:
        rings = "alike" if (first.heart_up == second.heart_up) != turned else "by turns"
    return Way(turned, abs(apart), where, rings, matched and not turned, matched and turned, first.arrow and second.arrow)
