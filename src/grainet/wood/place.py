"""When two places on a board count as the same one."""

from __future__ import annotations

SAME_PLACE_MM = 0.5  # along: a figure there replaces the one before
NEAR_ALONG_MM, NEAR_ACROSS_MM = 30.0, 12.0  # so near a wanted place, it counts as read


def near_place(a: tuple[float, float], b: tuple[float, float], *, rows: bool) -> bool:
    """Whether a reading at ``b`` does for a wanted place ``a``; across counts only where rows are read."""
    return abs(a[0] - b[0]) <= NEAR_ALONG_MM and (not rows or abs(a[1] - b[1]) <= NEAR_ACROSS_MM)
