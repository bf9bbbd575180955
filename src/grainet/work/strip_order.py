"""In which order strips of several woods are glued: alike on either side of the middle, so that the neck looks and moves the same both ways."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import TypeVar

T = TypeVar("T")
LEAST = 3  # two strips have no middle


def alike_outwards(strips: Sequence[T], wood_of: Callable[[T], str]) -> list[T]:
    """The strips with the same wood at the same distance from the middle; woods take turns from the middle out as far as their numbers
    give it. As they came where all are of one wood, or where more than one wood has an odd number: then no order is alike both ways."""
    by: dict[str, list[T]] = {}
    for strip in strips:
        by.setdefault(wood_of(strip), []).append(strip)
    odd = [wood for wood, some in by.items() if len(some) % 2]
    if len(strips) < LEAST or len(by) < 2 or len(odd) > 1:
        return list(strips)
    middle = by[odd[0]].pop() if odd else None
    outwards: list[tuple[T, T]] = []
    last = odd[0] if odd else ""
    while left := {wood: some for wood, some in by.items() if some}:
        wood = max((w for w in left if w != last or len(left) == 1), key=lambda w: len(left[w]))
        outwards.append((by[wood].pop(0), by[wood].pop()))
        last = wood
    near = [pair[0] for pair in reversed(outwards)]
    far = [pair[1] for pair in outwards]
    return [*near, *([middle] if middle is not None else []), *far]
