"""Rectangles on boards by their free rectangles, in many orders: quick, and hard to beat where every part is one.

What is free of a board is kept as the largest rectangles in it (where outlines are followed), or as the rests of straight cuts. Parts go one
after another to the free rectangle that fits them closest; then two of them change places in the order, and what is worth no less stays.
Troubles count as taken, whatever they would bear; every place is asked for exactly afterwards.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from grainet.design.part import Part
from grainet.design.shape import is_rectangle
from grainet.fit.board_geometry import BoardGeometry
from grainet.fit.exact import Exact, ExactPlacement
from grainet.fit.orientation import Orientation, orientations_of
from grainet.job.job import Job
from grainet.plan.candidates import Candidate

MOST_ITEMS, MOST_BOARDS = 60, 12
TRIES = 500
EPS = 1e-7
Box = tuple[float, float, float, float]


@dataclass(frozen=True)
class _Item:
    """One copy of a part, in each way that its box differs: what it takes along and across with its kerf."""

    part: Part
    ways: tuple[tuple[float, float, Orientation], ...]


class Rectangles:
    """The rectangles of one job, and the boards that they go to. ``suits`` says whether this is of any use for it."""

    def __init__(self, job: Job, sheets: Mapping[str, BoardGeometry]) -> None:
        kit = job.kit
        self.straight = kit.cutting == "straight"
        kerf = kit.kerf_mm
        self.along, self.across = (kerf.crosscut, kerf.rip) if self.straight else (kerf.outline, kerf.outline)
        self.sheets = sheets
        self.items = self._items(job) if self._only_boxes(job) else []
        self.suits = 1 < len(self.items) <= MOST_ITEMS and len(sheets) <= MOST_BOARDS
        self.free = {piece: self._free_of(sheet) for piece, sheet in sheets.items()} if self.suits else {}
        self.fits = {(i.part.id, p) for i in self.items for p in self.free if self._may(i, sheets[p])} if self.suits else set()
        self.order = sorted(self.free, key=lambda p: (sheets[p].outline.area, p))

    @staticmethod
    def _only_boxes(job: Job) -> bool:
        plain = all(
            is_rectangle(p.ring) and p.per_set == 1 and not (p.in_pairs or p.has_block or p.clean or p.on_edge) for p in job.parts
        )
        return plain and not job.builds and not job.barred and all(p.leaves_max is None for p in job.parts)

    def _items(self, job: Job) -> list[_Item]:
        room = sum(sheet.usable.area for sheet in self.sheets.values())
        found: list[_Item] = []
        for part in job.parts:
            ways: dict[tuple[float, float], tuple[float, float, Orientation]] = {}
            for way in orientations_of(part):
                size = (round(way.length + self.along, 7), round(way.width + self.across, 7))
                if is_rectangle(way.ring) and way.angle_deg % 90 == 0:
                    ways.setdefault(size, (*size, way))
            if ways:
                most = int(room // max(1.0, min(w * h for w, h, _ in ways.values())))
                count = most if part.quantity is None else min(part.quantity, most)
                found += [_Item(part, tuple(ways.values()))] * min(count, MOST_ITEMS + 1)
        return found

    def _free_of(self, sheet: BoardGeometry) -> list[Box]:
        """What is free of an empty board, its troubles taken out; each part brings its kerf on two sides, so the board has one more."""
        x0, y0, x1, y1 = sheet.usable.bounds
        free = [(x0, y0, x1 + self.along, y1 + self.across)]
        shapes = [h.polygon for h in sheet.hazards] + ([sheet.metal] if sheet.metal is not None else [])
        for shape in shapes:
            bx0, by0, bx1, by1 = shape.bounds
            free = _without(free, (bx0, by0, bx1 + self.along, by1 + self.across), split=False)
        return free

    @staticmethod
    def _may(item: _Item, sheet: BoardGeometry) -> bool:
        return any(Exact(sheet, way).size_trouble() is None for _, _, way in item.ways)

    def laid(self, tries: int = TRIES, seed: int = 0, stop: Callable[[], bool] = lambda: False) -> list[Candidate]:
        """The best of so many orders, each place asked for exactly."""
        if not self.suits:
            return []
        r = np.random.default_rng(seed)
        order = sorted(range(len(self.items)), key=lambda k: -self.items[k].part.value)
        best, laid = self._in_order(order)
        for _ in range(tries):
            if stop() or len(laid) == len(self.items):
                break
            other = list(order)
            for _ in range(int(r.integers(1, 4))):
                a, b = r.integers(0, len(order), 2)
                other.insert(int(b), other.pop(int(a)))
            value, rows = self._in_order(other)
            if value >= best - EPS:
                order, best, laid = other, value, rows
        seated = [self._seated(*row) for row in laid]
        return [one for one in seated if one is not None]

    def _in_order(self, order: Sequence[int]) -> tuple[float, list[tuple[_Item, str, Orientation, float, float]]]:
        free = {piece: list(boxes) for piece, boxes in self.free.items()}
        value, rows = 0.0, []
        for k in order:
            item = self.items[k]
            for piece in self.order:
                if (item.part.id, piece) not in self.fits:
                    continue
                found = _closest(free[piece], item)
                if found is not None:
                    x, y, w, h, way, n = found
                    taken = (x, y, x + w, y + h)
                    free[piece] = _cut_off(free[piece], n, taken) if self.straight else _without(free[piece], taken, split=True)
                    value += item.part.value
                    rows.append((item, piece, way, x, y))
                    break
        return value, rows

    def _seated(self, item: _Item, piece: str, way: Orientation, x: float, y: float) -> Candidate | None:
        bx0, by0, _, _ = way.bounds
        seat = Exact(self.sheets[piece], way).seat(x - bx0, y - by0)
        return Candidate(item.part, piece, way, seat) if isinstance(seat, ExactPlacement) else None


def _closest(free: Sequence[Box], item: _Item) -> tuple[float, float, float, float, Orientation, int] | None:
    """Where an item fits closest: the free rectangle that is left least wider or longer."""
    best: tuple[float, float] | None = None
    found = None
    for n, (x0, y0, x1, y1) in enumerate(free):
        for w, h, way in item.ways:
            along, across = x1 - x0 - w, y1 - y0 - h
            if along >= -EPS and across >= -EPS:
                score = (min(along, across), max(along, across))
                if best is None or score < best:
                    best, found = score, (x0, y0, w, h, way, n)
    return found


def _without(free: Sequence[Box], taken: Box, *, split: bool) -> list[Box]:
    """The largest free rectangles once a box is taken. ``split`` drops those that lie within others."""
    tx0, ty0, tx1, ty1 = taken
    found: list[Box] = []
    for x0, y0, x1, y1 in free:
        if tx0 >= x1 - EPS or tx1 <= x0 + EPS or ty0 >= y1 - EPS or ty1 <= y0 + EPS:
            found.append((x0, y0, x1, y1))
            continue
        found += [(x0, y0, tx0, y1)] if tx0 > x0 + EPS else []
        found += [(tx1, y0, x1, y1)] if tx1 < x1 - EPS else []
        found += [(x0, y0, x1, ty0)] if ty0 > y0 + EPS else []
        found += [(x0, ty1, x1, y1)] if ty1 < y1 - EPS else []
    return _largest(found) if split or len(found) > 1 else found


def _largest(boxes: Sequence[Box]) -> list[Box]:
    kept: list[Box] = []
    for k, (x0, y0, x1, y1) in enumerate(boxes):
        within = any(
            a <= x0 + EPS and b <= y0 + EPS and c >= x1 - EPS and d >= y1 - EPS and (n < k or (a, b, c, d) != (x0, y0, x1, y1))
            for n, (a, b, c, d) in enumerate(boxes)
            if n != k
        )
        if not within:
            kept.append((x0, y0, x1, y1))
    return kept


def _cut_off(free: Sequence[Box], n: int, taken: Box) -> list[Box]:
    """What straight cuts leave of a free rectangle: the cut that leaves the larger rest in one comes first."""
    x0, y0, x1, y1 = free[n]
    _, _, tx1, ty1 = taken
    if (x1 - tx1) * (y1 - y0) >= (x1 - x0) * (y1 - ty1):
        rests = [(tx1, y0, x1, y1), (x0, ty1, tx1, y1)]
    else:
        rests = [(x0, ty1, x1, y1), (tx1, y0, x1, ty1)]
    return [*free[:n], *free[n + 1 :], *(b for b in rests if b[2] - b[0] > EPS and b[3] - b[1] > EPS)]
