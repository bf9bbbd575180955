"""A choice as a plan says it: copies gathered into sets, each set with its number and its build; what stands keeps both."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass

from grainet.design.part import Part, sets_each, stands
from grainet.design.recipe import Option
from grainet.job.answer import Cut, Placement
from grainet.job.job import Job
from grainet.kit.cut_kit import CutKit
from grainet.plan.candidates import Candidate
from grainet.plan.sawing import Sawn
from grainet.plan.selection import Choice
from grainet.plan.standing import Standing, StandingSet


@dataclass(frozen=True)
class _Given:
    """A copy that a footprint gives; where each leaf of it is a set of its own, the leaf."""

    at: Candidate
    leaf: int


@dataclass
class _Stock:
    """The new copies of a part by piece; what is taken is gone."""

    left: dict[str, list[_Given]]

    def take(self, count: int, piece: str | None = None) -> list[_Given]:
        """So many copies: of one piece where it is named, or where one has enough of them; else from several."""
        if piece is None:
            piece = next((p for p, some in self.left.items() if len(some) >= count), None)
        if piece is not None:
            return [self.left[piece].pop(0) for _ in range(count)]
        found = [one for some in self.left.values() for one in some][:count]
        for one in found:
            self.left[one.at.piece].remove(one)
        return found


class Writer:
    """Writes the placements of one job."""

    def __init__(self, job: Job, standing: Standing) -> None:
        self.job, self.standing = job, standing

    def placements(self, choice: Choice, chosen: Sequence[Candidate]) -> list[Placement]:
        """Every leaf of every set, what stands among them as it was."""
        rows: list[Placement] = []
        for part in self.job.parts:
            fresh = self._of_part(part, choice, [c for c in chosen if c.part.id == part.id])
            rows += sorted([*fresh, *(r for r in self.job.pins if r.part == part.id)], key=lambda r: (r.set, r.copy_, r.leaf))
        return rows

    def _of_part(self, part: Part, choice: Choice, copies: Sequence[Candidate]) -> Iterator[Placement]:
        stock = _stock(copies)
        used = [s for s in self.standing.sets if s.part == part.id and s.number in choice.standing.get(part.id, ())]
        for one in used:
            if not one.whole:
                yield from self._completed(part, one, stock)
        taken = {s.number for s in self.standing.sets if s.part == part.id}
        numbers = (n for n in range(1, 1_000_000) if n not in taken)
        for number, (build, members) in zip(numbers, self._new_sets(part, stock, choice, used)):
            for copy, given in enumerate(members, 1):
                yield from self._leaves(given, number, copy, build)

    def _completed(self, part: Part, one: StandingSet, stock: _Stock) -> Iterator[Placement]:
        """The copies that a standing set lacks."""
        there = {r.copy_ for r in one.rows}
        lacking = [c for c in range(1, part.per_set + 1) if c not in there]
        piece = next(iter(one.copies)) if part.same_piece else None
        for copy, given in zip(lacking, stock.take(len(lacking), piece)):
            yield from self._leaves(given, one.number, copy, one.build)

    def _new_sets(
        self, part: Part, stock: _Stock, choice: Choice, used: Sequence[StandingSet]
    ) -> Iterator[tuple[str | None, list[_Given]]]:
        """New sets, each with the build that it goes to: first those that must come from one piece with others."""
        have: dict[str | None, int] = defaultdict(int)
        for one in used:
            have[one.build] += 1
        for (part_id, piece), wanted in sorted(choice.bundles.items()):
            for build, count in wanted if part_id == part.id else ():
                for _ in range(count):
                    if have[build] > 0:
                        have[build] -= 1
                    else:
                        yield build, stock.take(part.per_set, piece)
        for goes_to in self._mixed_builds(part, choice):
            if have[goes_to] > 0:
                have[goes_to] -= 1
            else:
                yield goes_to, stock.take(part.per_set)

    def _mixed_builds(self, part: Part, choice: Choice) -> list[str | None]:
        """The build of every set that may come from any piece, in order."""
        if not self.job.builds:
            return [None] * choice.made[part.id]
        return [o.build for o in choice.options if part.id not in o.same_piece for _ in range(o.needs.get(part.id, 0))]

    def _leaves(self, given: _Given, number: int, copy: int, build: str | None) -> list[Placement]:
        part = given.at.part
        leaves = range(1, part.leaves + 1) if sets_each(part) == 1 else (given.leaf,)
        return leaves_of(given.at, leaves, number, copy, build, self.job.kit)


def leaves_of(one: Candidate, leaves: Iterable[int], number: int, copy: int, build: str | None, kit: CutKit) -> list[Placement]:
    """Leaves of one footprint as a plan says them, under the number of a set and copy."""
    part = one.part
    step = part.thickness_mm + kit.leaf_loss_mm
    outline = tuple((float(x), float(y)) for x, y in one.ring)
    return [
        Placement(
            part=part.id, set=number, copy_=copy, leaf=leaf, piece=one.piece, x=one.seat.x, y=one.seat.y,
            angle_deg=one.orientation.angle_deg, mirror=one.orientation.mirror, face_up=one.orientation.face_up,  # type: ignore[arg-type]
            z_top_mm=one.seat.z_top_mm + (leaf - 1) * step, polygon=outline, finished_mm=part.thickness_mm,
            spare_mm=one.seat.spare_mm, flattening="exact" if one.seat.by_heights else "chain", build=build, on_edge=stands(part),
        )
        for leaf in leaves
    ]  # fmt: skip


def _stock(copies: Sequence[Candidate]) -> _Stock:
    """The new copies of a part, the two of a pair one after the other."""
    together = defaultdict(list)
    for one in copies:
        together[one.pair].append((one.piece, one.seat.x, one.seat.y))
    ordered = sorted(
        copies, key=lambda c: (min(together[c.pair]) if c.pair else (c.piece, c.seat.x, c.seat.y), c.seat.x, c.seat.y)
    )
    left: dict[str, list[_Given]] = defaultdict(list)
    for one in ordered:
        left[one.piece] += [_Given(one, leaf) for leaf in range(1, sets_each(one.part) + 1)]
    return _Stock(left)


def as_told(options: Sequence[Option]) -> dict[str, str | dict[str, str]]:
    """What is chosen for each build as a plan says it: its recipe, or the way of each component."""
    told: dict[str, str | dict[str, str]] = {}
    for one in options:
        ways = told.setdefault(one.build, {})
        if one.component and isinstance(ways, dict):
            ways[one.component] = one.id
        else:
            told[one.build] = one.id
    return told


def numbered(sawn: dict[str, Sawn], after: int = 0) -> tuple[Cut, ...]:
    """All cuts of all pieces, numbered through, after those that are made."""
    cuts = [cut for s in sawn.values() for cut in s.cuts]
    return tuple(cut.changed(n=n) for n, cut in enumerate(cuts, after + 1))
