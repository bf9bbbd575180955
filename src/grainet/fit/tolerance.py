"""Which troubles a zone tolerates, and at which depths: the contract's table, in one place for fields and exact placement."""

from __future__ import annotations

from grainet.design.part import ZoneKind
from grainet.fit.board_geometry import Hazard

Interval = tuple[float, float]  # open interval of z_top in mm that is forbidden
HIDDEN_FORBIDS = frozenset({"rot", "shake"})
BEARABLE_FAMILIES = frozenset({"shows", "moves"})


def forbidden_depths(
    hazard: Hazard, zone: ZoneKind, *, both_sides: bool, face_up: str, thickness_mm: float, flattening_mm: float,
    leaf_offsets_mm: tuple[float, ...],
) -> list[Interval]:  # fmt: skip
    """Open intervals of ``z_top`` for which a hazard under a zone forbids the placement.

    The finished leaf lies somewhere between z_top + offset and that + thickness + flattening, so all of it must be free.
    """
    if zone == "removed" or (zone == "hidden" and hazard.kind not in HIDDEN_FORBIDS):
        return []
    top, bottom = hazard.top_mm, hazard.bottom_mm
    depth = thickness_mm + flattening_mm
    found: list[Interval] = []
    for offset in leaf_offsets_mm:
        if zone == "seen" and hazard.family in BEARABLE_FAMILIES:
            if both_sides or face_up == "1":  # the show plane lies up to flattening_mm below z_top
                found.append((top - offset - flattening_mm, bottom - offset))
            if both_sides or face_up == "2":
                found.append((top - offset - depth, bottom - offset - thickness_mm))
        else:
            found.append((top - offset - depth, bottom - offset))
    return found


def lowest_free(intervals: list[Interval], least: float, most: float) -> float | None:
    """The lowest z_top in [least, most] outside all open intervals, or None."""
    z = least
    for low, high in sorted(intervals):
        if low < z < high:
            z = high
    # a later interval may start below an earlier end: sorting by start makes one pass enough
    return z if z <= most + 1e-9 else None
