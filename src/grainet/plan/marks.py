"""The edges of a kerf to set a saw to: measured from an end, an edge or a face of what is in hand then, on a tenth of a millimetre.

A straight cut has two edges. The first mark names the one that a part lies against, so that a stop or a fence set to it gives the part its
size; the second names the other, as a check. They are measured from a side that can be measured from: one that is straight there.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np
from shapely.geometry import Polygon

from grainet.job.answer import Mark, Side
from grainet.kit.cut_kit import CutKit
from grainet.plan.in_hand import Workpiece

STRAIGHT_MM = 0.05  # what a straight side strays
STRAIGHT_SHARE = 0.6  # so much of the width (an end) or length (an edge) lies on one line in a straight side
FLUSH_MM = 0.02


@dataclass(frozen=True)
class Raw:
    """The board that a workpiece came from: the ends and edges of it that no saw has touched."""

    x0: float
    x1: float

    @classmethod
    def of(cls, outline: Sequence[tuple[float, float]]) -> Raw:
        """Of a board's outline."""
        xs = [x for x, _ in outline]
        return cls(min(xs), max(xs))


def marks_across(hand: Workpiece, at: float, raw: Raw, kit: CutKit, parts: Iterable[Polygon] = ()) -> tuple[Mark, ...]:
    """Of a crosscut whose kerf's middle lies at x ``at``; ``parts`` are the shapes that are sawn out of what is in hand."""
    x0, _, x1, _ = hand.polygon.bounds
    low, high = at - kit.kerf_mm.crosscut / 2, at + kit.kerf_mm.crosscut / 2
    first = _against(low, high, [p.bounds[0::2] for p in parts])
    if straight_end(hand.polygon, x0) or not straight_end(hand.polygon, x1):
        return _from_low("datum" if x0 <= raw.x0 + FLUSH_MM else "marked end", low - x0, high - x0, x1 - x0, first)
    return _from_high("far end", x1 - low, x1 - high, x1 - x0, first)


def marks_along(hand: Workpiece, at: float, kit: CutKit, parts: Iterable[Polygon] = ()) -> tuple[Mark, ...]:
    """Of a rip whose kerf's middle lies at y ``at``: from a straight edge, on the side of the part that lies against the kerf."""
    _, y0, _, y1 = hand.polygon.bounds
    low, high = at - kit.kerf_mm.rip / 2, at + kit.kerf_mm.rip / 2
    first = _against(low, high, [p.bounds[1::2] for p in parts])
    near, far = straight_edge(hand.polygon, y0), straight_edge(hand.polygon, y1)
    from_far = far if near != far else first == "high" if near else False
    if from_far:
        return _from_high("far edge", y1 - low, y1 - high, y1 - y0, first)
    return _from_low("near edge", low - y0, high - y0, y1 - y0, first)


def marks_deep(hand: Workpiece, depth: float, kit: CutKit) -> tuple[Mark, ...]:
    """Of a resaw whose kerf's middle lies so deep below face 1 of the board: from what is face 1 of the piece in hand."""
    low, high = depth - kit.kerf_mm.resaw / 2 - hand.top_mm, depth + kit.kerf_mm.resaw / 2 - hand.top_mm
    return _from_low("face 1", low, high, np.inf if hand.bottom_mm is None else hand.bottom_mm - hand.top_mm, "low")


def measured_from(mark: Mark) -> str:
    """Where a mark is measured from, as a builder says it: the datum is the board's own marked end."""
    return "the marked end" if mark.from_ == "datum" else mark.from_ if "face" in mark.from_ else f"the {mark.from_}"


def straight_end(shape: Polygon, x: float) -> bool:
    """Whether most of an end lies on one line across."""
    _, y0, _, y1 = shape.bounds
    return bool(_lying(shape, 0, x) >= STRAIGHT_SHARE * (y1 - y0))


def straight_edge(shape: Polygon, y: float) -> bool:
    """Whether most of an edge lies on one line along, so that it runs true against a fence."""
    x0, _, x1, _ = shape.bounds
    return bool(_lying(shape, 1, y) >= STRAIGHT_SHARE * (x1 - x0))


def _lying(shape: Polygon, axis: int, at: float) -> float:
    """How much of a ring lies on the line where a coordinate is ``at``, mm."""
    ring = np.asarray(shape.exterior.coords)
    on = np.abs(ring[:, axis] - at) <= STRAIGHT_MM
    both = on[:-1] & on[1:]
    return float(np.abs(np.diff(ring[:, 1 - axis]))[both].sum())


def _against(low: float, high: float, spans: Iterable[Sequence[float]]) -> str:
    """Which side of a kerf a part lies flush against; the low one where both do, and where none does the one that has a part."""
    spans = list(spans)
    if any(abs(end - low) <= FLUSH_MM for _, end in spans):
        return "low"
    if any(abs(begin - high) <= FLUSH_MM for begin, _ in spans):
        return "high"
    return "low" if any(end <= low + FLUSH_MM for _, end in spans) else "high"


def _from_low(side: Side, low: float, high: float, size: float, first: str) -> tuple[Mark, ...]:
    return _ordered(_mark(side, low, "after", size), _mark(side, high, "before", size), first)


def _from_high(side: Side, low: float, high: float, size: float, first: str) -> tuple[Mark, ...]:
    return _ordered(_mark(side, low, "before", size), _mark(side, high, "after", size), first)


def _mark(side: Side, mm: float, kerf: str, size: float) -> Mark | None:
    """A mark; none where that edge of the kerf lies beyond the wood, as it does at a trim."""
    figure = round(mm, 1) + 0.0
    return Mark(from_=side, mm=figure, kerf=kerf) if 0 < figure <= size + 0.05 else None  # type: ignore[arg-type]


def _ordered(low: Mark | None, high: Mark | None, first: str) -> tuple[Mark, ...]:
    both = (low, high) if first == "low" else (high, low)
    return tuple(one for one in both if one is not None)
