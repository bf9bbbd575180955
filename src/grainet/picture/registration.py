"""Laying the picture of one face onto the other: a knot or hole that goes through must coincide.

Both pictures are made true to places as seen on face 1, so the second is mirrored by its own corners; what is left is a small
shift, and the proof that it is the right way round: through marks lie nearer each other than they would unmirrored.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from grainet.wood.value import Point


@dataclass(frozen=True)
class Registration:
    """The shift in mm that lays face 2 onto face 1, how far apart through marks lie after it, and whether it is mirrored right."""

    shift_mm: Point
    apart_mm: float
    right_way_round: bool
    pairs: int


def register(face1: Sequence[Point], face2: Sequence[Point], width_mm: float, reach_mm: float = 40.0) -> Registration | None:
    """From middles of marks on both faces (mm as seen on face 1). None where no pair lies within reach either way round."""
    if not face1 or not face2:
        return None
    a, b = np.array(face1, float), np.array(face2, float)
    straight = _matched(a, b, reach_mm)
    turned = _matched(a, np.column_stack([b[:, 0], width_mm - b[:, 1]]), reach_mm)
    if not straight[0] and not turned[0]:
        return None
    right = (straight[0], -straight[1]) >= (turned[0], -turned[1])
    pairs, apart, shift = straight if right else turned
    return Registration((float(shift[0]), float(shift[1])), apart, right, pairs)


def _matched(a: Any, b: Any, reach: float) -> Any:
    """Pairs by the shift that most marks agree on: (count, mean distance after the shift, shift)."""
    best = (0, float("inf"), np.zeros(2))
    for p in a:
        for q in b:
            shift = p - q
            if np.hypot(*shift) > reach:
                continue
            distance = np.hypot(*((b + shift)[:, None] - a[None]).transpose(2, 0, 1))
            nearest = distance.min(axis=1)
            close = nearest < 6
            partners = a[distance.argmin(axis=1)[close]] - b[close]
            mean = partners.mean(axis=0)
            apart = float(np.hypot(*(partners - mean).T).mean())
            found = (int(close.sum()), apart + 0.02 * float(np.hypot(*mean)), mean)
            if (found[0], -found[1]) > (best[0], -best[1]):
                best = found
    return best
