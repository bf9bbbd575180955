"""The pieces in hand after some saw cuts: outlines, and the depths between which they lie.

Each cut is replayed on the polygons in hand; what it gives is named in the order in which sawing names it.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from functools import cmp_to_key

import shapely
from shapely.geometry import LineString, Polygon
from shapely.geometry.base import BaseGeometry

from grainet.job.answer import Cut
from grainet.kept import Kept
from grainet.kit.cut_kit import CutKit
from grainet.wood.piece import Piece

SPLINTER_MM2 = 4.0
DUST_MM2 = 1e-2
SAME_MM = 0.05
FAR_MM = 9e4
HAIR_MM = 1e-6
_sawn: Kept[tuple[object, ...], tuple[Cut, tuple[Workpiece, ...]]] = Kept(
    512
)  # the cut is held, so that its id is not given twice


@dataclass(frozen=True)
class Workpiece:
    """A piece in hand: its id, outline, and the depths between which it lies (bottom None: the board's own far face)."""

    id: str
    polygon: Polygon
    top_mm: float = 0.0
    bottom_mm: float | None = None

    @property
    def whole_depth(self) -> bool:
        """Whether it was never resawn."""
        return self.top_mm == 0.0 and self.bottom_mm is None


def hands_after(piece: Piece, cuts: Iterable[Cut], kit: CutKit) -> list[Workpiece]:
    """What is in hand of a piece after some cuts, among them perhaps cuts of other pieces; the piece itself where there are none."""
    hands = {piece.id: Workpiece(piece.id, Polygon(piece.outline))}
    for cut in cuts:
        if (hand := hands.pop(cut.piece, None)) is not None:
            hands.update((one.id, one) for one in results_of(cut, hand, kit))
    return list(hands.values())


def results_of(cut: Cut, hand: Workpiece, kit: CutKit) -> list[Workpiece]:
    """What one cut gives, by name: of a resaw the upper side first, of an outline the blank, else the side nearer the marked end or the
    near edge. What is less than a splinter has no name. Steps, balance and what comes free each saw a plan again, so it is kept."""
    key = (id(cut), getattr(kit.kerf_mm, cut.tool), hand)
    if (known := _sawn.get(key)) is not None:
        return list(known[1])
    return list(_sawn.put(key, (cut, tuple(_results(cut, hand, kit))))[1])


def forget() -> None:
    """Let go of every cut that was replayed, so that the next asking is timed like a first one."""
    _sawn.clear()


def _results(cut: Cut, hand: Workpiece, kit: CutKit) -> list[Workpiece]:
    if cut.tool == "resaw":
        half, depth = kit.kerf_mm.resaw / 2, cut.depth_mm or 0.0
        upper = Workpiece(cut.gives[0], hand.polygon, hand.top_mm, depth - half)
        return [upper, *(Workpiece(name, hand.polygon, depth + half, hand.bottom_mm) for name in cut.gives[1:2])]
    kerf = getattr(kit.kerf_mm, cut.tool)
    left = hand.polygon - (kerf_band(cut.line, kerf) if cut.tool == "outline" else _across(cut, kerf))
    largest = sorted((g for g in polygons_of(left) if g.area > DUST_MM2), key=lambda g: -g.area)[: len(cut.gives)]
    rest = sorted(largest, key=cmp_to_key(named_before))
    if cut.tool == "outline":
        ring = Polygon(cut.line[1:] if cut.line[0] != cut.line[-1] else cut.line).buffer(0)
        rest.sort(key=lambda g: g.intersection(ring).area < 0.5 * g.area)
    else:
        k = 0 if cut.tool == "crosscut" else 1
        at = (cut.line[0][k] + cut.line[-1][k]) / 2
        rest.sort(key=lambda g: (g.centroid.x, g.centroid.y)[k] > at)
    return [Workpiece(name, g, hand.top_mm, hand.bottom_mm) for name, g in zip(cut.gives, rest)]


def _across(cut: Cut, kerf_mm: float) -> BaseGeometry:
    (x0, y0), (x1, y1) = cut.line[0], cut.line[-1]
    size = ((x1 - x0) ** 2 + (y1 - y0) ** 2) ** 0.5 or 1.0
    dx, dy = (x1 - x0) / size * FAR_MM, (y1 - y0) / size * FAR_MM
    return LineString([(x0 - dx, y0 - dy), (x1 + dx, y1 + dy)]).buffer(max(kerf_mm / 2, HAIR_MM), cap_style="flat")


def kerf_band(line: Sequence[tuple[float, ...]], kerf_mm: float) -> BaseGeometry:
    """The wood that a saw following a line turns to dust."""
    return LineString(line).buffer(max(kerf_mm / 2, HAIR_MM), join_style="mitre", mitre_limit=3, cap_style="flat")


def polygons_of(shape: BaseGeometry) -> list[Polygon]:
    """The polygons that a shape consists of."""
    return [g for g in getattr(shape, "geoms", [shape]) if isinstance(g, Polygon) and not g.is_empty]


def in_order(shape: BaseGeometry) -> list[Polygon]:
    """The pieces that a cut leaves, by least x, then y, the larger first where two share a corner; splinters are dust."""
    return sorted((g for g in polygons_of(shape) if g.area > SPLINTER_MM2), key=cmp_to_key(named_before))


def named_before(a: Polygon, b: Polygon) -> int:
    """Below 0 where one piece is named before another. What differs by less than ``SAME_MM`` counts as equal: who saws again on polygons of
    its own must come to the same order."""
    for k in (0, 1):
        apart = a.bounds[k] - b.bounds[k]
        if abs(apart) > SAME_MM:
            return -1 if apart < 0 else 1
    return -1 if a.area > b.area else 1


def whole_depth_wood(hands: Iterable[Workpiece]) -> BaseGeometry:
    """The wood in hand that was never resawn. A saw without kerf is replayed as a hair's breadth, which is given back."""
    return shapely.union_all([h.polygon.buffer(0.9 * HAIR_MM, join_style="mitre") for h in hands if h.whole_depth])
