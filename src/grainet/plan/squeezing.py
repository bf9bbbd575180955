"""One part more on a board that seems full, or a whole build more on a rack that does: what lies there is laid anew together with it.

What comes out is added to the places that a plan is chosen from; the choice decides over the whole rack.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from grainet.design.part import Part
from grainet.design.recipe import Build, Option
from grainet.design.shape import area, is_rectangle
from grainet.fit.field import Layers
from grainet.job.job import Job
from grainet.plan.candidates import Candidate
from grainet.plan.greedy import Whole, made_of, wanted_for, wholes_of, worth_of, worth_of_whole
from grainet.plan.hardness import Hardness, Load, no_harder
from grainet.plan.nesting import MOST_PARTS, Nest, NoFits

ROUNDS, ROUNDS_OF_A_BUILD = 400, 80  # of one attempt, and of one on the way to a whole build
MANY = 6
LEAST_ROUNDS = 10  # fewer are no attempt
NEAR, MOST_TRIES = 40, 3  # rounds after which an attempt that was not hopeless came near, and how often such a one is tried
PATIENCE, MOST_TAKEN_UP = 400, 3  # turns without more, and builds taken up in one
WORTH_NOISE, ROOM_NOISE = 0.15, 0.4  # how far a turn strays from the dearest build and the roomiest board first
SPARING = 0.0, 1.2  # the power of the wood that a build takes by which its worth is divided
SPARE_MM = 10.0  # boards that are so much thicker than a part are alike for it
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


@dataclass(frozen=True)
class Mood:
    """How far the orders of one turn stray; without chance not at all."""

    rng: np.random.Generator | None = None

    def of(self, noise: float) -> float:
        """By how much one thing is liked more than its due."""
        return 1.0 if self.rng is None else float(np.exp(noise * self.rng.normal()))

    def between(self, low: float, high: float) -> float:
        """Something between two bounds; without chance the lower."""
        return low if self.rng is None else float(self.rng.uniform(low, high))


@dataclass
class Squeezer:
    """The boards of one job, and what was tried on them: what is harder than what would not go is not tried. ``left`` is the budget, in parts times rounds."""

    job: Job
    layers: Mapping[str, Layers]
    left: int
    seed: int = 0
    cut_short: bool = False  # whether the last attempt ended for want of budget
    stop: Callable[[], bool] = lambda: False
    nests: dict[str, Nest] = field(default_factory=dict)
    known: dict[tuple[str, tuple[str, ...]], tuple[Candidate, ...]] = field(default_factory=dict)
    tries: Counter[tuple[str, tuple[str, ...]]] = field(default_factory=Counter)  # that failed
    failed: dict[str, list[Load]] = field(default_factory=lambda: defaultdict(list))  # what each board was found not to hold

    def __post_init__(self) -> None:
        self.hardness = Hardness(self.job.parts)
        self.no_fits = NoFits(self.job.kit)
        self.areas = {part.id: area(part.ring) for part in self.job.parts}
        self.room = {piece: max(1.0, float(layers.sheet.usable.area)) for piece, layers in self.layers.items()}
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
    def with_builds(self, laid: Arrangement, missing: Sequence[Build], mood: Mood | None = None) -> Arrangement:
        """What is laid with whole builds more, the dearest first (as a mood has it), wherever they find room."""
        mood, now, made = mood or Mood(), dict(laid), set()
        for whole in self._wholes(missing, mood):
            if whole.build.id in made or self.spent:
                continue
            wanted = [row for ways in whole.choices for row in wanted_for(self.job, ways[0])]
            found = self._with_all(now, sorted(wanted, key=lambda row: -row[0].thickness_mm * self.areas[row[0].id]), mood)
            if found is not None:
                now = found
                made.add(whole.build.id)
        return now

    def _wholes(self, builds: Sequence[Build], mood: Mood) -> list[Whole]:
        """Builds in the order in which they are laid: by what they are worth, for the wood that they take as far as a mood spares it."""
        sparing = mood.between(*SPARING)
        liking = {build.id: mood.of(WORTH_NOISE) for build in builds}
        wholes = [whole for build in builds for whole in wholes_of(build)]
        liked = [worth_of_whole(w) * liking[w.build.id] / max(1.0, self._wood_of(w)) ** sparing for w in wholes]
        return [wholes[k] for k in sorted(range(len(wholes)), key=lambda k: -liked[k])]

    def _wood_of(self, whole: Whole) -> float:
        """How much wood the dearest ways of a build take, mm3."""
        needs = [need for ways in whole.choices for need in ways[0].needs.items()]
        return sum(self.areas[p] * self.job.part(p).thickness_mm * n for p, n in needs)

    def exchanged(self, laid: Arrangement, chance: int = 0) -> Arrangement:
        """What is laid with builds more, then with some taken up and laid anew among those that are missing, in ever new orders; what is worth
        no less stays."""
        missing = [b for b in self.job.builds if b.id not in made_of(self.job, all_of(laid))]
        now = best = self.with_builds(laid, missing)
        value = most = worth_of(self.job, all_of(now))
        rng, idle = np.random.default_rng([self.seed, chance]), 0
        while not self.spent and idle < PATIENCE:
            made = made_of(self.job, all_of(now))
            if not 0 < len(made) < len(self.job.builds):
                break
            out = self._taken_up(now, made, rng)
            fewer = _without(now, self.job, [way for build in sorted(out) for way in made[build]])
            tried = self.with_builds(fewer, [b for b in self.job.builds if b.id not in made or b.id in out], Mood(rng))
            gained = worth_of(self.job, all_of(tried))
            idle = 0 if gained > most + 1e-9 else idle + 1
            if gained >= value - 1e-9:
                now, value = tried, gained
            if gained > most + 1e-9:
                best, most = tried, gained
        return best

    def _taken_up(self, laid: Arrangement, made: Mapping[str, Sequence[Option]], rng: np.random.Generator) -> set[str]:
        """Some builds that lie on one board or two."""
        boards = sorted(piece for piece, row in laid.items() if row)
        chosen = rng.choice(boards, min(len(boards), int(rng.integers(1, 3))), replace=False).tolist()
        there = {one.part.id for board in chosen for one in laid[board]}
        near = sorted(b for b, ways in made.items() if any(there & way.needs.keys() for way in ways))
        return (
            set(rng.choice(near, min(len(near), 1 + int(rng.integers(MOST_TAKEN_UP))), replace=False).tolist()) if near else set()
        )

    def _with_all(self, laid: Arrangement, wanted: Sequence[tuple[Part, int, bool]], mood: Mood) -> Arrangement | None:
        """What is laid with every group of parts more, or None."""
        now = dict(laid)
        for part, count, together in wanted:
            for lot in [count] if together else [1] * count:
                found = self._with_lot(now, part, lot, mood)
                if found is None:
                    return None
                now[found[0].piece] = tuple(found)
        return now

    def _with_lot(self, laid: Arrangement, part: Part, count: int, mood: Mood) -> list[Candidate] | None:
        """The first board, the thinnest and roomiest first, that holds so many of a part more."""
        rows = [_Attempt(piece, laid.get(piece, ()), (part,) * count) for piece in self.layers]
        liked = {a.piece: (self._waste(a), self._fullness(a) * mood.of(ROOM_NOISE), a.piece) for a in rows}
        for one in sorted((a for a in rows if self._may(a)), key=lambda a: liked[a.piece]):
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

    def _waste(self, one: _Attempt) -> int:
        """How much thicker than its part a board is, in steps that matter."""
        return int(max(0.0, self.layers[one.piece].sheet.thickness.least - one.more[0].thickness_mm) // SPARE_MM)

    def _fullness(self, one: _Attempt) -> float:
        """How full a board would be."""
        return sum(self.areas[part.id] for part in one.parts) / self.room[one.piece]

    def _tried(self, one: _Attempt, rounds: int) -> list[Candidate] | None:
        """The board with all of them, or None. What was found before is found again; what failed is not tried again, nor what is harder, but
        what came near once more with other chances."""
        what = one.piece, tuple(sorted(part.id for part in one.parts))
        if what in self.known:
            return list(self.known[what])
        load, failed = self.hardness.of(one.parts), self.failed[one.piece]
        if any(no_harder(known, load) for known in failed):
            return None
        if one.piece not in self.nests:
            self.nests[one.piece] = Nest(self.layers[one.piece], self.no_fits)
        nest = self.nests[one.piece]
        if not nest.ways(one.more[0]):
            return None
        found = self._nested(nest, one, one.laid, rounds, self.tries[what])
        near = len(one.parts) > 1 and nest.spent >= NEAR
        if found is None and len(one.parts) >= MANY and rounds == ROUNDS:  # of many, what lies there now may be a bad beginning
            found, near = self._nested(nest, one, (), rounds, self.tries[what]), False
        if found is not None:
            self.known[what] = tuple(found)
            return found
        if self.cut_short or self.stop():  # that was no trial: it says nothing about the board
            return None
        self.tries[what] += 1
        if not near or self.tries[what] >= MOST_TRIES:
            failed.append(load)
        return None

    def _nested(
        self, nest: Nest, one: _Attempt, start: tuple[Candidate, ...], rounds: int, chance: int
    ) -> list[Candidate] | None:
        self.cut_short = False
        if len(one.parts) == 1:
            return nest.alone(one.more[0])
        affordable = min(rounds, self.left // len(one.parts))
        if affordable < min(rounds, LEAST_ROUNDS):
            self.left, self.cut_short = min(self.left, 0), True  # what is left is too little for anything
            return None
        found = nest.together(one.parts, start, affordable, self.seed + chance, self.stop)
        self.left -= nest.spent * len(one.parts)
        self.cut_short = found is None and affordable < rounds and nest.spent == affordable
        return found


def all_of(laid: Arrangement) -> list[Candidate]:
    """All that is laid, whatever the board."""
    return [one for row in laid.values() for one in row]


def _without(laid: Arrangement, job: Job, options: Sequence[Option]) -> Arrangement:
    """What is laid less what a build uses; of parts that several builds use, any so many, from the boards with the fewest of them first."""
    gone: set[int] = set()
    for option in options:
        for part, count in option.needs.items():
            mine = [one for one in all_of(laid) if one.part.id == part and id(one) not in gone]
            per_board = Counter(one.piece for one in mine)
            mine.sort(key=lambda one: (per_board[one.piece], one.piece))
            gone |= {id(one) for one in mine[: count * job.part(part).per_set]}
    return {piece: tuple(one for one in row if id(one) not in gone) for piece, row in laid.items()}
