"""Growth rings: the angle between the rings and the wide face at the end, 0 flat-sawn to 90 quarter-sawn."""

from __future__ import annotations

from typing import Literal

RIFT_FROM_DEG, QUARTER_FROM_DEG, BORDERLINE_DEG = 30.0, 60.0, 3.0
Sawn = Literal["flat", "rift", "quarter"]


def sawn(angle_deg: float) -> Sawn:
    """Flat below 30, rift to 60, quarter from 60 degrees."""
    return "flat" if angle_deg < RIFT_FROM_DEG else "rift" if angle_deg < QUARTER_FROM_DEG else "quarter"


def describe(angles: tuple[float | None, float | None] | None) -> str:
    """Both ends in words: "quarter", "quarter/rift, mixed", "rift, borderline", "not read"."""
    known = [a for a in angles or () if a is not None]
    if not known:
        return "not read"
    words = [sawn(a) for a in known]
    if len(set(words)) > 1:
        return f"{words[0]}/{words[1]}, mixed"
    near = min(abs(a - limit) for a in known for limit in (RIFT_FROM_DEG, QUARTER_FROM_DEG))
    return f"{words[0]}, borderline" if near <= BORDERLINE_DEG else words[0]


def least_angle(angles: tuple[float | None, float | None] | None) -> float | None:
    """The angle that counts: the worse end for a quartered wish; None while nothing is read."""
    return min((a for a in angles or () if a is not None), default=None)
