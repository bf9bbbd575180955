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

    def ranks(self) -> dict[int, list[int]]:
        """Of each family the ranks that its members have, the smallest first."""
        found: dict[int, set[int]] = defaultdict(set)
        for family, rank in self.rank.values():
            found[family].add(rank)
        return {family: sorted(ranks) for family, ranks in found.items()}

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


def steps_harder(load: Load, ranks: dict[int, list[int]]) -> list[Load]:
    """Loads that are one step harder: one part the next larger of its family, or one part more, the smallest of some family."""
    found: list[Load] = []
    for family, row in load.items():
        for k, rank in enumerate(row):
            larger = next((r for r in ranks.get(family, ()) if r > rank), None)
            if larger is not None:
                found.append({**load, family: sorted([*row[:k], larger, *row[k + 1 :]], reverse=True)})
    return found + [{**load, family: sorted([*load.get(family, ()), row[0]], reverse=True)} for family, row in ranks.items()]


def lies_within(small: Part, large: Part) -> bool:
    """Whether a part lies wherever another does: no thicker, no larger, and free to lie in all the ways in which that may."""
    if small is not large and (lies_by_rule(small) or lies_by_rule(large)):
        return False
    if small.thickness_mm > large.thickness_mm + 1e-9 or small.leaves != large.leaves or small.tilt_deg < large.tilt_deg - 1e-9:
        return False
    if not (set(large.turns_deg) <= set(small.turns_deg) and set(large.faces_up) <= set(small.faces_up)):
        return False
    plain = not (small.zones or large.zones or small.has_block or large.has_block or small.on_edge or large.on_edge)
    if not plain and _but_for_size(small) != _but_for_size(large):
        return False
    return large.mirror <= small.mirror and small.clean <= large.clean and where_within(small, large) is not None


def lies_by_rule(part: Part) -> bool:
    """Whether where its copies lie, or how many of them, follows from more than its outline: pairs, and leaves that one footprint gives."""
    return part.in_pairs or part.leaves_max is not None


def _but_for_size(part: Part) -> Part:
    return part.changed(
        id="x", label="", letter="", role="", thickness_mm=1.0, quantity=None, value=1.0, turns_deg=(0.0,), tilt_deg=0.0,
        mirror=False, clean=False, faces_up=("1",),
    )  # fmt: skip


def where_within(small: Part, large: Part) -> tuple[float, float] | None:
    """By how much a part is shifted to lie within the outline of another, as both are drawn: not at all, or flush at the lower left; None where it
    stands out of it."""
    room, shape = Polygon(large.outline).buffer(EQUAL_MM, join_style="mitre"), Polygon(small.outline)
    if room.contains(shape):
        return 0.0, 0.0
    (x0, y0, *_), (a0, b0, *_) = room.bounds, shape.bounds
    dx, dy = x0 + EQUAL_MM - a0, y0 + EQUAL_MM - b0
    return (dx, dy) if room.contains(affinity.translate(shape, dx, dy)) else None
