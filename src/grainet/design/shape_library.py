"""Body outlines of our own drawing, one a starting point: two sides of a few points each, joined by smooth curves.

Frame of all of them: x from the tail (0) to the neck, y 0 the centre line, bass side up; mm. The neck comes in at the right.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from grainet.design.part import Zone
from grainet.wood.value import Point, Ring

Side = tuple[tuple[float, float], ...]


@dataclass(frozen=True)
class BodyShape:
    """One body: its outline and its zones."""

    outline: Ring
    zones: tuple[Zone, ...]


def smooth_side(points: Side, sharp_from: int, steps: int = 6) -> list[Point]:
    """A curve through the points of one side, tail first (centripetal Catmull-Rom); from the ``sharp_from``-th on straight lines: there the
    neck goes in. ``steps`` chords between two points."""
    curved = np.asarray(points[: sharp_from + 1], float)
    first = np.array([curved[1][0], -curved[1][1]])  # the tail runs on smoothly into the other side
    padded = np.vstack([first, curved, 2 * curved[-1] - curved[-2]])
    found: list[Point] = []
    for quad in zip(padded, padded[1:], padded[2:], padded[3:]):
        found += [(round(float(x), 2), round(float(y), 2)) for x, y in _span(quad, steps)]
    return [*found, *((float(x), float(y)) for x, y in points[sharp_from:])]


def _span(quad: tuple[np.ndarray, ...], steps: int) -> np.ndarray:
    """Points (steps, 2) from the second to the third of four, the third left out."""
    knots = np.cumsum([0.0, *(max(1e-6, float(np.hypot(*(b - a)))) ** 0.5 for a, b in pairwise(quad))])
    a, b, c, d = quad
    t0, t1, t2, t3 = knots
    t = np.linspace(t1, t2, steps, endpoint=False)[:, None]
    a1 = (t1 - t) / (t1 - t0) * a + (t - t0) / (t1 - t0) * b
    a2 = (t2 - t) / (t2 - t1) * b + (t - t1) / (t2 - t1) * c
    a3 = (t3 - t) / (t3 - t2) * c + (t - t2) / (t3 - t2) * d
    b1 = (t2 - t) / (t2 - t0) * a1 + (t - t0) / (t2 - t0) * a2
    b2 = (t3 - t) / (t3 - t1) * a2 + (t - t1) / (t3 - t1) * a3
    made: np.ndarray = (t2 - t) / (t2 - t1) * b1 + (t - t1) / (t2 - t1) * b2
    return made


def ring_of(bass: Side, treble: Side) -> Ring:
    """A closed outline, counter-clockwise: along the treble side (below) from tail to neck, back along the bass side."""
    below = [(x, -y) for x, y in smooth_side(treble, len(treble) - 2)]
    above = smooth_side(bass, len(bass) - 2)
    least = min(x for x, _ in (*below, *above))  # a curve may swing a little beyond its points
    ring = [(round(x - least, 2), y) for x, y in (*below, *reversed(above))]
    return tuple(p for k, p in enumerate(ring) if p != ring[k - 1])


def box_zone(name: str, kind: str, x0: float, y0: float, x1: float, y1: float) -> Zone:
    """A rectangular zone."""
    return Zone(kind=kind, polygon=((x0, y0), (x1, y0), (x1, y1), (x0, y1)), name=name)  # type: ignore[arg-type]


def usual_zones(
    bridge_mm: float, joint_mm: float, cover: tuple[float, float, float, float], long_mm: float = 70
) -> tuple[Zone, ...]:
    """Bridge, neck joint so long, pickups between them, a cover on the treble side; the rest is seen."""
    return (
        box_zone("neck joint", "critical", joint_mm - long_mm, -29, joint_mm, 29),
        box_zone("bridge", "critical", bridge_mm - 14, -44, bridge_mm + 14, 44),
        box_zone("pickups", "removed", bridge_mm + 32, -24, joint_mm - 78, 24),
        box_zone("under the cover", "hidden", *cover),
        Zone(kind="seen", polygon="rest", name="seen"),
    )


# Each side from the tail to where the neck comes in; the last two points are the corner and the middle of the neck's end.
_EGG = (  # one low shoulder on the bass side, a plain slope on the other
    ((0, 0), (20, 80), (80, 142), (160, 156), (240, 140), (310, 128), (372, 118), (398, 92), (386, 60), (362, 40), (353, 29), (353, 0)),
    ((0, 0), (16, 72), (72, 134), (150, 152), (230, 132), (290, 104), (332, 74), (348, 46), (353, 29), (353, 0)),
)  # fmt: skip
_DISC = (
    ((0, 0), (8, 60), (42, 116), (98, 152), (164, 164), (230, 152), (284, 126), (320, 92), (338, 58), (348, 29), (348, 0)),
    ((0, 0), (8, 58), (40, 112), (94, 147), (160, 159), (226, 147), (280, 122), (318, 89), (338, 56), (348, 29), (348, 0)),
)  # fmt: skip
_LEAF = (
    ((0, 0), (24, 58), (84, 110), (160, 148), (240, 164), (316, 156), (372, 124), (392, 82), (386, 48), (378, 29), (378, 0)),
    ((0, 0), (34, 84), (110, 140), (196, 152), (276, 128), (336, 88), (366, 52), (378, 29), (378, 0)),
)  # fmt: skip
_NOTCHED = (  # the tail drawn in between two wings
    ((36, 0), (2, 60), (12, 104), (68, 130), (150, 120), (230, 112), (310, 118), (380, 122), (408, 98), (386, 64), (364, 42), (356, 31), (356, 0)),
    ((36, 0), (0, 66), (16, 116), (80, 140), (166, 124), (246, 104), (310, 90), (344, 62), (356, 31), (356, 0)),
)  # fmt: skip
_PEAR = (
    ((0, 0), (10, 92), (60, 164), (140, 184), (222, 168), (290, 136), (346, 110), (380, 76), (390, 48), (392, 29), (392, 0)),
    ((0, 0), (10, 92), (60, 164), (140, 184), (222, 168), (290, 136), (346, 104), (378, 72), (390, 48), (392, 29), (392, 0)),
)  # fmt: skip
_LONG = (
    ((0, 0), (18, 70), (80, 128), (170, 146), (270, 138), (360, 130), (432, 122), (466, 92), (448, 62), (402, 44), (376, 31), (376, 0)),
    ((0, 0), (16, 66), (74, 124), (164, 144), (258, 128), (326, 96), (362, 60), (376, 31), (376, 0)),
)  # fmt: skip


def _shape(
    sides: tuple[Side, Side], bridge_mm: float, cover: tuple[float, float, float, float], long_mm: float = 70
) -> BodyShape:
    joint = max(x for x, y in sides[0] if y == 0)
    return BodyShape(ring_of(*sides), usual_zones(bridge_mm, joint, cover, long_mm))


BODIES: dict[str, BodyShape] = {
    "egg": _shape(_EGG, 118, (66, -126, 150, -76), 66),
    "disc": _shape(_DISC, 100, (62, -118, 150, -72), 62),
    "leaf": _shape(_LEAF, 124, (110, -124, 190, -76)),
    "notched": _shape(_NOTCHED, 110, (50, -118, 140, -70)),
    "pear": _shape(_PEAR, 128, (66, -142, 156, -92)),
    "long": _shape(_LONG, 68, (70, -112, 150, -68), 58),
}
