"""Which parts are no harder to lay than others: where the larger of two alike lies, so does the smaller.

What a board was found not to hold, it does not hold with a larger part in the place of a smaller, nor with one more.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Sequence

from shapely import affinity
from shapely.geometry import Polygon

from grainet.design.part import Part
from grainet.design.shape import area

EQUAL_MM = 0.02  # by which a part may stand out of another and still lie where that lies: what a saw strays
Load = dict[int, list[int]]  # of each family how large its members are, the largest first


class Hardness:
    """The parts of a job in families: each member lies wherever a larger one of its family does."""

    def __init__(self, parts: Sequence[Part]) -> None:
        largest: list[tuple[Part, int]] = []  # of each family, and its rank
        self.rank: dict[str, tuple[int, int]] = {}  # family, and place in it by size; the same for parts that are alike
        for part in sorted(parts, key=lambda p: (area(p.ring) * p.thickness_mm, p.id)):
            family = next((n for n, (last, _) in enumerate(largest) if lies_within(last, part)), len(largest))
            if family == len(largest):
                largest.append((part, 0))
            else:
                last, rank = largest[family]
                largest[family] = part, rank + (not lies_within(part, last))
            self.rank[part.id] = family, largest[family][1]

    def of(self, parts: Iterable[Part]) -> Load:
        """How hard some parts are to lay together."""
        found: Load = defaultdict(list)
        for part in parts:
            family, rank = self.rank[part.id]
            found[family].append(rank)
        return {family: sorted(ranks, reverse=True) for family, ranks in found.items()}


def no_harder(one: Load, other: Load) -> bool:
    """Whether one load has, for each of its parts, one in the other that is at least as large."""
    return all(
        family in other and len(ranks) <= len(other[family]) and all(a <= b for a, b in zip(ranks, other[family]))
        for family, ranks in one.items()
    )


def lies_within(small: Part, large: Part) -> bool:
    """Whether a part lies wherever another does: no thicker, no larger, and free to lie in all the ways in which that may."""
    if small.thickness_mm > large.thickness_mm + 1e-9 or small.leaves != large.leaves or small.tilt_deg < large.tilt_deg - 1e-9:
        return False
    if not (set(large.turns_deg) <= set(small.turns_deg) and set(large.faces_up) <= set(small.faces_up)):
        return False
    plain = not (small.zones or large.zones or small.has_block or large.has_block or small.on_edge or large.on_edge)
    if not plain and _but_for_size(small) != _but_for_size(large):
        return False
    return large.mirror <= small.mirror and small.clean <= large.clean and _outline_within(small, large)


def _but_for_size(part: Part) -> Part:
    return part.changed(
        id="x", label="", letter="", role="", thickness_mm=1.0, quantity=None, value=1.0, turns_deg=(0.0,), tilt_deg=0.0,
        mirror=False, clean=False, faces_up=("1",),
    )  # fmt: skip


def _outline_within(small: Part, large: Part) -> bool:
    """Whether an outline lies within another, with their origins together or flush at the lower left."""
    room, shape = Polygon(large.outline).buffer(EQUAL_MM, join_style="mitre"), Polygon(small.outline)
    if room.contains(shape):
        return True
    (x0, y0, *_), (a0, b0, *_) = room.bounds, shape.bounds
    return bool(room.contains(affinity.translate(shape, x0 + EQUAL_MM - a0, y0 + EQUAL_MM - b0)))
