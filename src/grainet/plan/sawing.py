"""From chosen footprints to a sequence of real saw cuts, and what they leave.

Straight cuts cross the whole piece in hand; outline cuts follow one part with a way in from the edge; resaws go through the
thickness. Each cut is worked out on the polygon in hand, so that the sequence replays by construction and is checked again
by the verifier.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import TYPE_CHECKING

import numpy as np
import shapely
from shapely.geometry import LineString, Point, Polygon, box
from shapely.geometry.base import BaseGeometry
from shapely.ops import nearest_points, substring

from grainet.design.clip import area_mm2
from grainet.fit.board_geometry import BoardGeometry
from grainet.job.answer import Cut, Mark, Offcut, Shares, Tool
from grainet.plan.in_hand import Workpiece, in_order, kerf_band
from grainet.plan.marks import Raw, marks_across, marks_along, marks_deep

if TYPE_CHECKING:  # replaying needs no candidates, and they bring in SciPy and OpenCV
    from grainet.plan.candidates import Candidate

EPS = 1e-6
FREE_MM = 0.01  # what a blank that is sawn already may stray from its part: the chords of a curve
LEAST_OFFCUT_MM = (150.0, 30.0)
LEAST_OFFCUT_THICKNESS_MM = 3.0
LARGER_IS_WORTH = 1.3  # an offcut of twice the wood is worth two and a half times as much; judgement
LEAST_RESAWN_REST_MM = 5.0  # a thinner rest is planed away rather than sawn off


@dataclass
class Sawn:
    """The sawing of one piece: cuts in order, what is left, the wood balance, and where each footprint's block ended."""

    cuts: list[Cut] = field(default_factory=list)
    offcuts: list[Offcut] = field(default_factory=list)
    freed: dict[tuple[int, int], str] = field(default_factory=dict)  # (member, leaf) -> id of its blank
    kerf_mm3: float = 0.0
    parts_mm3: float = 0.0
    offcut_mm3: float = 0.0
    waste_mm3: float = 0.0
    skims_mm3: float = 0.0

    def shares(self, whole_mm3: float) -> Shares:
        """Where the wood of a piece of so many mm3 goes, by volume."""
        return Shares(
            parts=self.parts_mm3 / whole_mm3, offcuts=self.offcut_mm3 / whole_mm3, kerf=self.kerf_mm3 / whole_mm3,
            skims=self.skims_mm3 / whole_mm3, waste=self.waste_mm3 / whole_mm3,
        )  # fmt: skip


class CannotSaw(Exception):
    """No sequence of straight cuts frees these parts; ``members`` are the footprints that lock one another."""

    def __init__(self, members: Sequence[int]) -> None:
        super().__init__("no cut crosses the piece without harming a part")
        self.members = list(members)


def separable(boxes: Sequence[tuple[float, float, float, float]], kerf_along: float, kerf_across: float) -> bool:
    """Whether straight cuts alone can part these boxes."""
    if len(boxes) < 2:
        return True
    for low, high, kerf in ((0, 2, kerf_along), (1, 3, kerf_across)):
        ordered = sorted(boxes, key=lambda b: (b[low], b[high]))
        reach = ordered[0][high]
        for k in range(1, len(ordered)):
            if ordered[k][low] - reach >= kerf - EPS:
                return separable(ordered[:k], kerf_along, kerf_across) and separable(ordered[k:], kerf_along, kerf_across)
            reach = max(reach, ordered[k][high])
    return False


@dataclass(frozen=True)
class Begun:
    """Where the sawing of a piece goes on: what is in hand, the highest number that a piece in hand ever had, wood that no cut may go
    through, and of footprints that are sawn already, by key, which leaves are still there."""

    hands: tuple[Workpiece, ...]
    last_id: int = 0
    kept: tuple[Polygon, ...] = ()
    leaves: Mapping[tuple[object, ...], frozenset[int]] = field(default_factory=dict)


def saw(
    sheet: BoardGeometry,
    members: Sequence[Candidate],
    least_offcut_mm: tuple[float, float] = LEAST_OFFCUT_MM,
    begun: Begun | None = None,
) -> Sawn:
    """The cuts that free all members of one piece, from where it was begun. Raises CannotSaw in "straight" cutting when none do; its members
    may be numbered beyond the given ones, which is wood that is kept.

    It is tried with and without shortening and narrowing first what several parts lie in: what leaves the better wood counts.
    """
    best: Sawn | None = None
    for rough_first in (True, False) if len(members) > 1 else (False,):
        try:
            made = _sawn(_Sawing(sheet, members, least_offcut_mm, begun or Begun(()), rough_first=rough_first), begun)
        except CannotSaw:
            if best is None and not rough_first:
                raise
            continue
        if best is None or _better(made, best):
            best = made
    assert best is not None  # the second way has either sawn or raised
    return best


def _sawn(job: _Sawing, begun: Begun | None) -> Sawn:
    if begun is None:
        job.part(Workpiece(job.sheet.piece.id, job.sheet.outline), list(range(len(job.members))))
        return job.done
    for hand in begun.hands:
        job.part(hand, job.inside(hand))
    job.done.kerf_mm3 += job.taken_already()
    return job.done


def _better(one: Sawn, other: Sawn) -> bool:
    """Whether one sawing leaves better wood than another: more of it, in larger pieces; of two alike the one with fewer cuts."""
    worths = [
        math.fsum((abs(area_mm2(o.polygon)) * o.thickness_mm) ** LARGER_IS_WORTH for o in sawn.offcuts if o.keep)
        for sawn in (one, other)
    ]
    if abs(worths[0] - worths[1]) > 1e-3 * max(worths):
        return worths[0] > worths[1]
    return len(one.cuts) < len(other.cuts)


class _Sawing:
    def __init__(
        self, sheet: BoardGeometry, members: Sequence[Candidate], least_offcut_mm: tuple[float, float], begun: Begun, *, rough_first: bool,
    ) -> None:  # fmt: skip
        """``rough_first``: what several parts lie in is shortened and narrowed before straight cuts part them, not only before outlines."""
        self.sheet, self.members, self.kit = sheet, members, sheet.kit
        self.begun, self.rough_first = begun, rough_first
        self.least = least_offcut_mm
        self.straight = self.kit.cutting == "straight"
        self.done = Sawn()
        self.next_id = begun.last_id
        self.raw = Raw.of(sheet.piece.outline)
        self.shapes = [
            *(c.block for c in members),
            *begun.kept,
        ]  # wood that is kept is parted whole like a part, and never sawn free
        self.boxes = [shape.bounds for shape in self.shapes]
        self.mean = _MeanThickness(sheet)

    def inside(self, hand: Workpiece) -> list[int]:
        """The members and the kept wood that lie in a piece in hand; of one that was resawn those with a leaf in its depth."""
        here = [k for k, shape in enumerate(self.shapes) if hand.polygon.intersection(shape).area > 0.5 * shape.area]
        return here if hand.whole_depth else [k for k in here if k < len(self.members) and self._leaves_in(hand, k)]

    def _leaves_in(self, hand: Workpiece, member: int) -> list[int]:
        """Which leaves of a footprint lie in the depth of a piece in hand."""
        one = self.members[member]
        step, bottom = one.part.thickness_mm + self.kit.leaf_loss_mm, np.inf if hand.bottom_mm is None else hand.bottom_mm
        tops = [(leaf, one.seat.z_top_mm + (leaf - 1) * step) for leaf in range(1, one.part.leaves + 1)]
        return [leaf for leaf, top in tops if top >= hand.top_mm - EPS and top + one.part.thickness_mm <= bottom + EPS]

    def taken_already(self) -> float:
        """What the cuts that are made already took, mm3: all that is not in hand any more."""
        board = Workpiece("", self.sheet.outline)
        in_hand = sum(self.volume(hand, hand.polygon) for hand in self.begun.hands)
        return max(0.0, self.volume(board, board.polygon) - in_hand)

    # the recursion ------------------------------------------------------------------------------------------------
    def part(self, hand: Workpiece, inside: list[int]) -> None:
        """Part the piece in hand until every footprint is free."""
        if not inside:
            self.leave(hand)
        elif len(inside) > 1:
            self.separate(hand, inside)
        elif inside[0] >= len(self.members):
            self.leave(hand)
        else:
            self.free_one(hand, inside[0])

    def separate(self, hand: Workpiece, inside: list[int]) -> None:
        if self.rough_first:
            hand = self._roughed(hand, inside)
        tools: tuple[Tool, ...] = ("crosscut", "rip")
        for tool in tools:
            for at in self._gaps(inside, tool):
                if self._clear_of_metal(hand, tool, at):
                    low, high = self.cut_straight(hand, tool, at)
                    self._deal([*low, *high], inside)
                    return
        if self.straight:
            raise CannotSaw(inside)
        hand = self._without_what_lies_below(self._roughed(hand, inside), inside)
        room = [k for k in inside if k < len(self.members) and self._has_kerf_round_it(k, inside)]
        if not room:
            raise CannotSaw(inside)
        # what is still to be resawn comes last, when it lies alone in a block with square sides
        first = min(room, key=lambda k: (self._is_resawn(hand, k), self._lead_in(hand, k, inside).length, self.boxes[k]))
        blank, rest = self.cut_outline(hand, first, inside)
        self._leaves_of(blank, first)
        self._deal(rest, [k for k in inside if k != first])

    def _has_kerf_round_it(self, member: int, inside: Sequence[int]) -> bool:
        """Whether the saw passes between a part and all others; the copies of a pair may lie nearer, for a straight cut."""
        if self.members[member].pair is None:
            return True
        kerf = self.kit.kerf_mm.outline
        return all(self.shapes[member].distance(self.shapes[k]) >= kerf - 1e-5 for k in inside if k != member)

    def _deal(self, hands: Sequence[Workpiece], inside: Sequence[int]) -> None:
        for one in hands:
            self.part(one, [k for k in inside if one.polygon.intersection(self.shapes[k]).area > 0.5 * self.shapes[k].area])

    def _gaps(self, inside: list[int], tool: Tool) -> list[float]:
        """Middles of kerfs that part the members in two, the widest gaps first; flush with the nearer member, or with a rectangle that has
        a part of another shape before it: that needs no side of its own sawn, the rectangle does."""
        low, high = (0, 2) if tool == "crosscut" else (1, 3)
        kerf = self.kit.kerf_mm.crosscut if tool == "crosscut" else self.kit.kerf_mm.rip
        ordered = sorted(inside, key=lambda k: (self.boxes[k][low], self.boxes[k][high]))
        reach, found, nearest = self.boxes[ordered[0]][high], [], ordered[0]
        for k in ordered[1:]:
            gap = self.boxes[k][low] - reach
            if gap >= kerf - EPS:
                flush = [reach + kerf / 2, self.boxes[k][low] - kerf / 2] if gap > kerf + EPS else [reach + kerf / 2]
                if _is_box(self.shapes[k]) and not _is_box(self.shapes[nearest]):
                    flush.reverse()
                middle = [(reach + self.boxes[k][low]) / 2] if gap > kerf + EPS else []
                cleaned = any(
                    self.members[m].part.clean for m in inside if m < len(self.members)
                )  # then both sides want something to plane off
                places = [*middle, *flush] if cleaned else [*flush, *middle]
                found += [(gap - 1e-3 * n, at) for n, at in enumerate(places)]
            if self.boxes[k][high] >= reach:
                reach, nearest = self.boxes[k][high], k
        return [at for _, at in sorted(found, key=lambda f: -f[0])]

    def _clear_of_metal(self, hand: Workpiece, tool: Tool, at: float) -> bool:
        if self.sheet.metal is None:
            return True
        band = self._band(hand, tool, at).intersection(hand.polygon)
        return bool(band.is_empty or not self._near_metal(band))

    def _near_metal(self, shape: BaseGeometry) -> bool:
        """Whether a kerf would come nearer to metal than it may: through it never, whatever the clearance."""
        metal = self.sheet.metal
        if metal is None:
            return False
        return bool(shape.distance(metal) < self.kit.metal_clear_mm - EPS or shape.intersection(metal).area > EPS)

    # cuts ---------------------------------------------------------------------------------------------------------
    def _band(self, hand: Workpiece, tool: Tool, at: float) -> Polygon:
        x0, y0, x1, y1 = hand.polygon.bounds
        if tool == "crosscut":
            half = self.kit.kerf_mm.crosscut / 2
            return box(at - half, y0 - 1, at + half, y1 + 1)
        half = self.kit.kerf_mm.rip / 2
        return box(x0 - 1, at - half, x1 + 1, at + half)

    def cut_straight(self, hand: Workpiece, tool: Tool, at: float) -> tuple[list[Workpiece], list[Workpiece]]:
        """A cut right across at x (crosscut) or y (rip); the pieces on the marked-end or near-edge side first."""
        x0, y0, x1, y1 = hand.polygon.bounds
        band = self._band(hand, tool, at)
        bx0, by0, bx1, by1 = band.bounds
        if tool == "crosscut":
            sides = (box(x0 - 9, y0 - 9, bx0, y1 + 9), box(bx1, y0 - 9, x1 + 9, y1 + 9))
        else:
            sides = (box(x0 - 9, y0 - 9, x1 + 9, by0), box(x0 - 9, by1, x1 + 9, y1 + 9))
        low, high = ([self._new(hand, p) for p in in_order(hand.polygon & side)] for side in sides)
        touched = hand.polygon & band
        edge = touched.bounds if not touched.is_empty and touched.area > 0 else hand.polygon.bounds
        line = ((at, edge[1]), (at, edge[3])) if tool == "crosscut" else ((edge[0], at), (edge[2], at))
        here = [s for s in self.shapes if hand.polygon.intersection(s).area > 0.5 * s.area]
        if tool == "crosscut":
            marks = marks_across(hand, at, self.raw, self.kit, here)
        else:
            marks = marks_along(hand, at, self.kit, here)
        self._record(hand, tool, line, [*low, *high], marks=marks)
        self._kerf(hand, hand.polygon - shapely.union_all([h.polygon for h in [*low, *high]]))
        return low, high

    def cut_outline(self, hand: Workpiece, member: int, inside: Sequence[int]) -> tuple[Workpiece, list[Workpiece]]:
        """Saw along one footprint: the blank that comes free, and what is left around it."""
        kerf, shape = self.kit.kerf_mm.outline, self.shapes[member]
        path = _grown(shape, kerf / 2)
        lead = self._lead_in(hand, member, inside)
        line = list(path.exterior.coords)
        if lead.length > EPS:
            line = [_beyond(lead, max(kerf / 2, 0.01)), *_ring_from(path, Point(lead.coords[-1]))]
        band = kerf_band(line, kerf) - shape
        blank = self._new(hand, shape)
        rest = [self._new(hand, p) for p in in_order(hand.polygon - shape - band)]
        self._record(hand, "outline", line, [blank, *rest])
        self._kerf(hand, hand.polygon - shape - shapely.union_all([r.polygon for r in rest]))
        return blank, rest

    def _lead_in(self, hand: Workpiece, member: int, inside: Sequence[int]) -> LineString:
        """The shortest way in from the edge that harms no other part and keeps clear of metal; empty where none is needed."""
        half = self.kit.kerf_mm.outline / 2
        path, inner = _grown(self.shapes[member], half), self.shapes[member].buffer(-1e-3)
        edge = hand.polygon.exterior
        if not hand.polygon.contains(path):
            return LineString()
        others = shapely.union_all([self.shapes[k] for k in inside if k != member]) if len(inside) > 1 else Polygon()
        starts = [
            nearest_points(path.exterior, edge)[0],
            *(path.exterior.interpolate(t, normalized=True) for t in np.linspace(0, 1, 24)),
        ]
        orientations = []
        for start in starts:
            orientation = LineString([*nearest_points(edge, start)])
            if orientation.length < EPS:
                continue
            if orientation.intersection(inner).length > EPS:
                continue  # a part that lies along the edge: the nearest edge is on its other side
            lane = orientation.buffer(max(half, 0.01))
            if lane.intersection(others).area > 0 or lane.intersection(self.shapes[member]).area > 0.01 * lane.area + 0.5:
                continue
            if self._near_metal(lane):
                continue
            orientations.append(orientation)
        return min(orientations, key=lambda w: w.length, default=LineString())

    def _new(self, hand: Workpiece, polygon: Polygon) -> Workpiece:
        self.next_id += 1
        return Workpiece(f"{self.sheet.piece.id}.{self.next_id}", polygon, hand.top_mm, hand.bottom_mm)

    def _record(
        self,
        hand: Workpiece,
        tool: Tool,
        line: Sequence[tuple[float, ...]],
        gives: Sequence[Workpiece],
        depth: float | None = None,
        marks: tuple[Mark, ...] = (),
    ) -> None:
        points, names = tuple((float(p[0]), float(p[1])) for p in line), tuple(g.id for g in gives)
        n = len(self.done.cuts) + 1
        self.done.cuts.append(Cut(n=n, piece=hand.id, tool=tool, line=points, gives=names, depth_mm=depth, marks=marks))

    def _kerf(self, hand: Workpiece, area: BaseGeometry) -> None:
        self.done.kerf_mm3 += self.volume(hand, area)

    # one part left ------------------------------------------------------------------------------------------------
    def free_one(self, hand: Workpiece, member: int) -> None:
        """Trim the piece in hand round one footprint, resaw it where leaves are wanted, and saw its outline where it has one."""
        hand = self._trimmed(hand, member)
        if self.members[member].part.leaves > 1 and self._too_high(hand) and not self._is_free(hand, member):
            hand, rest = self.cut_outline(hand, member, [member])
            for other in rest:
                self.leave(other)
        self._leaves_of(hand, member)

    def _is_free(self, hand: Workpiece, member: int) -> bool:
        return self.straight or hand.polygon.symmetric_difference(self.shapes[member]).area < FREE_MM * hand.polygon.length

    def _leaves_of(self, hand: Workpiece, member: int) -> None:
        still = self.begun.leaves.get(self.members[member].key)
        for one, leaf in self._resawn(hand, member):
            if leaf is None or (still is not None and leaf not in still):
                self.leave(one)
                continue
            if not self._is_free(one, member):
                one, rest = self.cut_outline(one, member, [member])
                for other in rest:
                    self.leave(other)
            self._count(one, member, leaf)

    def _too_high(self, hand: Workpiece) -> bool:
        """Whether a piece in hand, on its edge, is higher than the saw resaws."""
        height = self.kit.machines.resaw_height_mm
        return height is not None and hand.polygon.bounds[3] - hand.polygon.bounds[1] > height + EPS

    def _roughed(self, hand: Workpiece, inside: Sequence[int]) -> Workpiece:
        """What several parts lie in, shortened and narrowed before they are parted, where that leaves something worth keeping: one block goes
        back instead of an end or a side of each of them. Ends that all of them have in common are sawn once."""
        boxes = np.array([self.boxes[k] for k in inside])
        around = (*boxes[:, :2].min(axis=0), *boxes[:, 2:].max(axis=0))
        sawn_straight = all(k < len(self.members) and (self.straight or _is_box(self.shapes[k])) for k in inside)
        in_common = [k for k in (0, 2) if sawn_straight and np.ptp(boxes[:, k]) < EPS]
        return self._cut_to(hand, around, max(inside, key=lambda k: self.shapes[k].area), ends=in_common)

    def _is_resawn(self, hand: Workpiece, member: int) -> bool:
        """Whether a footprint that lies in a piece in hand is still to be resawn."""
        return len(self._depths_to_saw(hand, member)) > 0

    def _without_what_lies_below(self, hand: Workpiece, inside: Sequence[int]) -> Workpiece:
        """A block that several parts lie in, resawn below the deepest of them while its sides are square, where enough is left there: one
        board goes back instead of shaped rests, and no shaped part is resawn."""
        if not hand.whole_depth or any(k >= len(self.members) for k in inside) or self._too_high(hand):
            return hand
        x0, y0, x1, y1 = hand.polygon.bounds
        flat = [self.sheet.flattening_mm(self.members[k].orientation.length, self.members[k].orientation.width) for k in inside]
        depth = max(self._bottom_of(k) for k in inside) + max(0.0, self.sheet.flattening_mm(x1 - x0, y1 - y0) - min(flat))
        least = self.sheet.thickness.least_under(np.asarray(hand.polygon.exterior.coords)[:-1])
        if least - depth - self.kit.kerf_mm.resaw < LEAST_RESAWN_REST_MM:
            return hand
        upper, lower = self._resaw(hand, depth)
        self.leave(lower)
        return upper

    def _bottom_of(self, member: int) -> float:
        """How deep below face 1 the stack of a footprint reaches at the most, with what is skimmed off its sawn face."""
        one, kit = self.members[member], self.kit
        flat = self.sheet.flattening_mm(one.orientation.length, one.orientation.width)
        stack = one.part.leaves * one.part.thickness_mm + (one.part.leaves - 1) * kit.leaf_loss_mm
        return one.seat.z_top_mm + flat + stack + kit.resaw_skim_mm

    def _resaw(self, hand: Workpiece, depth: float) -> tuple[Workpiece, Workpiece]:
        """A resaw at a depth from face 1: the wood above it and the wood below."""
        kerf = self.kit.kerf_mm.resaw
        self.next_id += 2
        name = self.sheet.piece.id
        upper = Workpiece(f"{name}.{self.next_id - 1}", hand.polygon, hand.top_mm, depth)
        lower = Workpiece(f"{name}.{self.next_id}", hand.polygon, depth + kerf, hand.bottom_mm)
        x0, y0, x1, y1 = hand.polygon.bounds
        middle, centre = (y0 + y1) / 2, depth + kerf / 2
        self._record(hand, "resaw", ((x0, middle), (x1, middle)), (upper, lower), centre, marks_deep(hand, centre, self.kit))
        self.done.kerf_mm3 += hand.polygon.area * kerf
        return upper, lower

    def _trimmed(self, hand: Workpiece, member: int) -> Workpiece:
        """The piece in hand cut to about one footprint: right to its sides where it is a rectangle (those are sawn straight), and to its
        width where it is to be resawn and stands too high for the saw, so that no shaped piece is."""
        close: tuple[Tool, ...] = ()
        if self.straight or _is_box(self.shapes[member]):
            close = ("crosscut", "rip")
        elif self.members[member].part.leaves > 1 and self._too_high(hand):
            close = ("rip",)
        return self._cut_to(hand, self.boxes[member], member, close)

    def _cut_to(
        self, hand: Workpiece, around: tuple[float, float, float, float], member: int, close: Sequence[Tool] | None = None, ends: Sequence[int] = (),
    ) -> Workpiece:  # fmt: skip
        """Cut off what lies beyond a box, on each side where enough lies there; with the tools of ``close`` whatever lies there, and so at
        the ``ends`` (0 the marked one, 2 the far one) that are named. Without ``close`` nothing must come off."""
        x0, y0, x1, y1 = around
        trims: tuple[tuple[Tool, float, int], ...] = (("crosscut", x0, -1), ("crosscut", x1, 1), ("rip", y0, -1), ("rip", y1, 1))
        for tool, side, sign in trims:
            kerf = self.kit.kerf_mm.crosscut if tool == "crosscut" else self.kit.kerf_mm.rip
            bounds = hand.polygon.bounds
            limit = bounds[(0 if sign < 0 else 2) if tool == "crosscut" else (1 if sign < 0 else 3)]
            room = (limit - side) * sign
            least = kerf + (self.least[0] if tool == "crosscut" else 2 * self.least[1])
            whole = tool in (close or ()) or (tool == "crosscut" and (0 if sign < 0 else 2) in ends)
            if not (room > (EPS if self.straight else FREE_MM) if whole else room >= least):
                continue
            at = side + sign * kerf / 2
            if not self._clear_of_metal(hand, tool, at):
                if self.straight and close is not None:
                    raise CannotSaw([member])
                continue
            low, high = self.cut_straight(hand, tool, at)
            keep = max([*low, *high], key=lambda h: h.polygon.intersection(self.shapes[member]).area)
            for other in [*low, *high]:
                if other is not keep:
                    self.leave(other)
            hand = keep
        return hand

    def _resawn(self, hand: Workpiece, member: int) -> list[tuple[Workpiece, int | None]]:
        """The leaves of a footprint from face 1 down, and a rest worth keeping; [(hand, leaf or None)]."""
        leaves = self.members[member].part.leaves
        found: list[tuple[Workpiece, int | None]] = []
        current, leaf = hand, min(self._leaves_in(hand, member), default=leaves + 1)
        for depth in self._depths_to_saw(hand, member):
            upper, current = self._resaw(current, depth)
            found.append((upper, leaf))
            leaf += 1
        found.append((current, leaf if leaf <= leaves else None))
        return found

    def _depths_to_saw(self, hand: Workpiece, member: int) -> list[float]:
        """At which depths from face 1 a footprint is resawn, as far as the piece in hand reaches."""
        one, kit = self.members[member], self.kit
        part, flat = one.part, self.sheet.flattening_mm(one.orientation.length, one.orientation.width)
        bottom = self.sheet.thickness.least_under(one.ring)
        if hand.bottom_mm is not None:
            bottom = min(bottom, hand.bottom_mm)
        found, at = [], one.seat.z_top_mm + flat
        for _ in range(part.leaves - 1):
            at += part.thickness_mm + kit.resaw_skim_mm
            found.append(at)
            at += kit.kerf_mm.resaw + kit.resaw_skim_mm
        at += part.thickness_mm + kit.resaw_skim_mm
        height = kit.machines.resaw_height_mm
        wide = hand.polygon.bounds[3] - hand.polygon.bounds[1]
        if bottom - at - kit.kerf_mm.resaw >= LEAST_RESAWN_REST_MM and (height is None or wide <= height):
            found.append(at)
        if not hand.whole_depth:  # what is resawn already is not resawn again
            bottom = np.inf if hand.bottom_mm is None else hand.bottom_mm
            found = [at for at in found if hand.top_mm + EPS < at and at + kit.kerf_mm.resaw < bottom - EPS]
        return found

    # the balance --------------------------------------------------------------------------------------------------
    def _count(self, hand: Workpiece, member: int, leaf: int) -> None:
        self.done.freed[member, leaf] = hand.id
        footprint = self.members[member].polygon
        finished = footprint.area * self.members[member].part.thickness_mm
        around = hand.polygon - footprint
        self.done.parts_mm3 += finished
        self.done.waste_mm3 += self.volume(hand, around)
        self.done.skims_mm3 += self.volume(hand, hand.polygon & footprint) - finished

    def leave(self, hand: Workpiece) -> None:
        """What no part needs: an offcut to keep, or scrap."""
        volume = self.volume(hand, hand.polygon)
        if hand.polygon.area < 1.0:
            self.done.waste_mm3 += volume
            return
        ring = np.asarray(hand.polygon.exterior.coords)[:-1]
        bottom = self.sheet.thickness.least_under(ring) if hand.bottom_mm is None else hand.bottom_mm
        thickness = bottom - hand.top_mm
        keep = worth_keeping(hand.polygon, thickness, self.least)
        outline = tuple((float(x), float(y)) for x, y in ring)
        if thickness > 0:
            self.done.offcuts.append(
                Offcut(
                    id=hand.id,
                    piece=self.sheet.piece.id,
                    polygon=outline,
                    thickness_mm=thickness,
                    keep=keep,
                    depth_mm=hand.top_mm,
                )
            )
        if keep:
            self.done.offcut_mm3 += volume
        else:
            self.done.waste_mm3 += volume

    def volume(self, hand: Workpiece, area: BaseGeometry) -> float:
        if area.is_empty or area.area == 0:
            return 0.0
        if hand.bottom_mm is not None:
            return float(area.area * (hand.bottom_mm - hand.top_mm))
        return float(area.area * (self.mean.under(area) - hand.top_mm))


class _MeanThickness:
    def __init__(self, sheet: BoardGeometry) -> None:
        self.field = sheet.thickness

    def under(self, shape: BaseGeometry) -> float:
        """Mean thickness under a shape: exact where level, else by the centres of its Delaunay triangles, each split in 16."""
        if self.field.constant:
            return self.field.least
        total = weight = 0.0
        for triangle in shapely.constrained_delaunay_triangles(shape).geoms:
            a, b, c = np.asarray(triangle.exterior.coords)[:3]
            n = 8
            u, v = np.meshgrid((np.arange(n) + 1 / 3) / n, (np.arange(n) + 1 / 3) / n)
            inside = (u + v < 1).ravel()
            p = a + u.ravel()[inside, None] * (b - a) + v.ravel()[inside, None] * (c - a)
            total += triangle.area * float(self.field.at(p[:, 0], p[:, 1]).mean())
            weight += triangle.area
        return total / weight if weight else self.field.least


def whole_volume(sheet: BoardGeometry) -> float:
    """Volume of a piece in mm3."""
    return float(sheet.outline.area * _MeanThickness(sheet).under(sheet.outline))


def worth_keeping(polygon: Polygon, thickness_mm: float, least_mm: tuple[float, float] = LEAST_OFFCUT_MM) -> bool:
    """Whether what is left is long, wide and thick enough to go back to the rack."""
    x0, y0, x1, y1 = polygon.bounds
    if thickness_mm < LEAST_OFFCUT_THICKNESS_MM or max(x1 - x0, y1 - y0) < least_mm[0] - EPS:
        return False
    hair = 0.01  # a rest just as wide as wanted still counts
    core = polygon.buffer(-least_mm[1] / 2 + hair)
    if core.is_empty:
        return False
    x0, y0, x1, y1 = core.bounds
    return bool(max(x1 - x0, y1 - y0) >= least_mm[0] - least_mm[1] - hair)


def _is_box(shape: Polygon) -> bool:
    """Whether a footprint is a rectangle along the board, so that straight cuts free it."""
    return bool(box(*shape.bounds).symmetric_difference(shape).area < FREE_MM * shape.length)


def _grown(shape: Polygon, by: float) -> Polygon:
    """The middle of the kerf round a shape: rounded at corners, a thousandth further out for the chords of the curves."""
    return shape.buffer(by + 1e-3, quad_segs=16) if by else shape


def _beyond(lead: LineString, by: float) -> tuple[float, float]:
    """The start of a way in, moved out over the edge, so that no corner of the kerf is left standing there."""
    (x0, y0), (x1, y1) = lead.coords[0][:2], lead.coords[-1][:2]
    return x0 + (x0 - x1) / lead.length * by, y0 + (y0 - y1) / lead.length * by


def _ring_from(path: Polygon, start: Point) -> list[tuple[float, ...]]:
    """The ring of a path, begun and ended at the place on it nearest to ``start``."""
    ring = path.exterior
    at = ring.project(start)
    around = [*substring(ring, at, ring.length).coords, *list(substring(ring, 0, at).coords)[1:]]
    return [tuple(c) for c in around]
