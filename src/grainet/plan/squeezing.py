"""One part more on a board that seems full, or a whole build more on a rack that does: what lies there is laid anew together with it.

What comes out is added to the places that a plan is chosen from; the choice decides over the whole rack.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field

from grainet.design.part import Part
from grainet.design.recipe import Build, Option
from grainet.design.shape import area, is_rectangle
from grainet.fit.field import Layers
from grainet.job.job import Job
from grainet.plan.candidates import Candidate
from grainet.plan.greedy import wanted_for, wholes_of, worth_of, worth_of_whole
from grainet.plan.hardness import Hardness, Load, no_harder
from grainet.plan.nesting import MOST_PARTS, Nest, NoFits

ROUNDS, ROUNDS_OF_A_BUILD = 200, 80  # of one attempt, and of one on the way to a whole build
MANY = 6
FULLEST = 0.92  # of a board's usable wood: no plan of odd shapes is fuller
Arrangement = dict[str, tuple[Candidate, ...]]  # what lies on each board


@dataclass(frozen=True)
class _Attempt:
    """So many parts on a board where some lie already."""

    piece: str
    laid: tuple[Candidate, ...]
    more: tuple[Part, ...]

    @property
    def parts(self) -> list[Part]:
        """All that is to lie there."""
        return [*(c.part for c in self.laid), *self.more]


@dataclass
class Squeezer:
    """The boards of one job, and what was tried on them: nothing is tried twice, nor what is harder than what would not go. ``left`` is the budget, in parts times rounds."""

    job: Job
    layers: Mapping[str, Layers]
    left: int
    seed: int = 0
    stop: Callable[[], bool] = lambda: False
    nests: dict[str, Nest] = field(default_factory=dict)
    failed: dict[str, list[Load]] = field(default_factory=lambda: defaultdict(list))  # what each board was found not to hold

    def __post_init__(self) -> None:
        self.hardness = Hardness(self.job.parts)
        self.no_fits = NoFits(self.job.kit)
        self.barred = {(bar.part, bar.piece) for bar in self.job.barred}

    @property
    def spent(self) -> bool:
        """Whether there is no budget, or no time, for more."""
        return self.left <= 0 or self.stop()

    # parts --------------------------------------------------------------------------------------------------------
    def with_parts(self, laid: Arrangement, wanted: Callable[[str], Sequence[Part]]) -> Iterator[list[Candidate]]:
        """Boards in use that hold all that is laid there and a wanted part more, the roomiest first; where that goes, another is tried
        beside it."""
        queue = [a for piece, members in laid.items() for a in self._attempts(piece, members, wanted(piece))]
        queue.sort(key=lambda a: (self._fullness(a), a.piece, a.more[0].id))
        while queue and not self.spent:
            one = queue.pop(0)
            found = self._tried(one, ROUNDS)
            if found is not None:
                yield found
                queue = [*self._attempts(one.piece, tuple(found), wanted(one.piece)), *queue]

    def _attempts(self, piece: str, laid: tuple[Candidate, ...], wanted: Sequence[Part]) -> list[_Attempt]:
        return [a for part in wanted if self._may(a := _Attempt(piece, laid, (part,)))]

    # builds -------------------------------------------------------------------------------------------------------
    def with_builds(self, laid: Arrangement, missing: Sequence[Build]) -> Arrangement:
        """What is laid with whole builds more, the dearest first, wherever they find room."""
        now = dict(laid)
        wholes = sorted((whole for build in missing for whole in wholes_of(build)), key=lambda w: -worth_of_whole(w))
        made: set[str] = set()
        for whole in wholes:
            if whole.build.id in made or self.spent:
                continue
            wanted = [row for ways in whole.choices for row in wanted_for(self.job, ways[0])]
            found = self._with_all(now, sorted(wanted, key=lambda row: -area(row[0].ring)))
            if found is not None:
                now = found
                made.add(whole.build.id)
        return now

    def exchanged(self, laid: Arrangement, made: Sequence[Option], missing: Sequence[Build]) -> Arrangement:
        """What is laid with builds taken up for others that are worth more in their place, the least worth taken up first."""
        now, value = laid, worth_of(self.job, _all(laid))
        worth = {b.id: b.most_worth for b in self.job.builds}
        for out in sorted({o.build for o in made}, key=lambda b: (worth[b], b)):
            if self.spent:
                break
            fewer = _without(now, self.job, [o for o in made if o.build == out])
            others = [*missing, next(b for b in self.job.builds if b.id == out)]
            tried = self.with_builds(fewer, others)
            gained = worth_of(self.job, _all(tried))
            if gained > value + 1e-9:
                now, value = tried, gained
                missing = [b for b in others if not self._is_made(tried, b)]
        return now

    def _is_made(self, laid: Arrangement, build: Build) -> bool:
        """Whether what is laid holds all that some way of a build needs."""
        there = Counter(one.part.id for one in _all(laid))
        return any(all(there[p] >= n * self.job.part(p).per_set for p, n in o.needs.items()) for o in build.options)

    def _with_all(self, laid: Arrangement, wanted: Sequence[tuple[Part, int, bool]]) -> Arrangement | None:
        """What is laid with every group of parts more, or None."""
        now = dict(laid)
        for part, count, together in wanted:
            for lot in [count] if together else [1] * count:
                found = self._with_lot(now, part, lot)
                if found is None:
                    return None
                now[found[0].piece] = tuple(found)
        return now

    def _with_lot(self, laid: Arrangement, part: Part, count: int) -> list[Candidate] | None:
        """The first board, the roomiest first, that holds so many of a part more."""
        rows = [_Attempt(piece, laid.get(piece, ()), (part,) * count) for piece in self.layers]
        for one in sorted((a for a in rows if self._may(a)), key=lambda a: (self._fullness(a), a.piece)):
            if self.spent:
                return None
            found = self._tried(one, ROUNDS_OF_A_BUILD)
            if found is not None:
                return found
        return None

    # one attempt --------------------------------------------------------------------------------------------------
    def _may(self, one: _Attempt) -> bool:
        """Whether an attempt has any prospect."""
        part = one.more[0]
        if any(p.in_pairs for p in one.parts) or len(one.parts) > MOST_PARTS or (part.id, one.piece) in self.barred:
            return False
        # rectangles alone have no bays to lie in, and many orders of them were tried where there are no builds
        if not self.job.builds and all(is_rectangle(p.ring) for p in one.parts):
            return False
        return self._fullness(one) <= FULLEST

    def _fullness(self, one: _Attempt) -> float:
        """How full a board would be."""
        return float(sum(area(part.ring) for part in one.parts) / max(1.0, self.layers[one.piece].sheet.usable.area))

    def _tried(self, one: _Attempt, rounds: int) -> list[Candidate] | None:
        """The board with all of them, or None; what was tried before is not tried again."""
        load, failed = self.hardness.of(one.parts), self.failed[one.piece]
        if any(no_harder(known, load) for known in failed):
            return None
        nest = self.nests.setdefault(one.piece, Nest(self.layers[one.piece], self.no_fits))
        if not nest.ways(one.more[0]):
            return None
        found = self._nested(nest, one, one.laid, rounds)
        if found is None and len(one.parts) >= MANY and rounds == ROUNDS:  # of many, what lies there now may be a bad beginning
            found = self._nested(nest, one, (), rounds)
        if found is None:
            failed.append(load)
        return found

    def _nested(self, nest: Nest, one: _Attempt, start: tuple[Candidate, ...], rounds: int) -> list[Candidate] | None:
        if len(one.parts) == 1:
            return nest.alone(one.more[0])
        affordable = min(rounds, self.left // len(one.parts))
        found = nest.together(one.parts, start, affordable, self.seed, self.stop)
        self.left -= nest.spent * len(one.parts)
        return found


def _all(laid: Arrangement) -> list[Candidate]:
    return [one for row in laid.values() for one in row]


def _without(laid: Arrangement, job: Job, options: Sequence[Option]) -> Arrangement:
    """What is laid less what a build uses; of parts that several builds use, any so many, from the boards with the fewest of them first."""
    gone: set[int] = set()
    for option in options:
        for part, count in option.needs.items():
            mine = [one for one in _all(laid) if one.part.id == part and id(one) not in gone]
            per_board = Counter(one.piece for one in mine)
            mine.sort(key=lambda one: (per_board[one.piece], one.piece))
            gone |= {id(one) for one in mine[: count * job.part(part).per_set]}
    return {piece: tuple(one for one in row if id(one) not in gone) for piece, row in laid.items()}
