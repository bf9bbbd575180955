"""Boards shared out among builds over and over: which board would have to hold what, for the builds to be worth more; whether it does is then tried.

Exchanging builds finds what lies a few moves off. Here the whole rack is asked at once: of what each board is known to hold, and of what is
one step harder (two, three, where that gives nothing), the shares that are worth most are chosen, and what was not tried in them is laid. What
goes is known from then on; what does not, nor anything harder, is not asked for again.
"""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace

import numpy as np

from grainet.design.part import Part, sets_each
from grainet.design.shape import placed
from grainet.fit.orientation import Orientation
from grainet.plan.candidates import Candidate
from grainet.plan.greedy import worth_of
from grainet.plan.hardness import Load, lies_by_rule, no_harder, steps_harder, where_within
from grainet.plan.nesting import MOST_PARTS, Nest
from grainet.plan.sharing import Holding, Shares, Sharing
from grainet.plan.squeezing import FULLEST, NEAR, ROUNDS, Arrangement, Squeezer, all_of

TURNS = 4  # of exchanging and of sharing boards out
FOR_EXCHANGE, FOR_TRIALS = 5 / 9, 5 / 6  # of the squeezer's budget, for either over all turns
SHARING_BUDGET = 14.0  # deterministic seconds at effort 1 of choosing how boards are shared out
MOST_SHARED = 60  # boards: of a larger rack too much would have to be known
# by turns: how much less a load is liked for not having been tried, of a build's worth, and on how many boards it may be: more give more, and go less often
MOODS = (0.04, 3), (0.08, 2), (0.015, 5)
A_TURN, LEAST_A_TURN = 0.3, 0.1  # deterministic seconds to choose shares in, and what even a choice that takes less counts
MOST_STEPS = 4  # harder than anything known
MOST_AGAIN = 3  # times that all is asked for anew, once there is nothing more to ask for
MOST_UNTRIED_LOADS, MOST_OF_ALL = 400, 8_000  # of one board, and of all
CHANCES, MOST_HOPELESS = 5, 3  # tries of one load, and how many of them may end early
Held = tuple[tuple[int, tuple[int, ...]], ...]  # a load as a key


def exchanged_and_shared(
    squeezer: Squeezer, beginnings: Sequence[Arrangement], enough: float, effort: int = 1, heard: Callable[[float], None] = lambda _worth: None
) -> Arrangement:  # fmt: skip
    """The best of what comes of exchanging builds, from each beginning and then from the best so far, with boards shared out after each time:
    exchanging finds what boards hold, sharing makes the most of it. No further once it is worth ``enough``. ``heard`` is told what it is worth so far."""

    def worth(laid: Arrangement) -> float:
        return worth_of(squeezer.job, all_of(laid))

    whole, best = squeezer.left, max(beginnings, key=worth)
    sharing = SharingOut(squeezer, beginnings, SHARING_BUDGET * effort)
    shared = len(squeezer.job.pieces) <= MOST_SHARED
    for_exchange = FOR_EXCHANGE if shared else 1.0
    for turn in range(TURNS):
        if worth(best) >= enough or squeezer.stop():
            break
        heard(worth(best))
        squeezer.left = round(whole * for_exchange / TURNS)
        now = squeezer.exchanged(beginnings[turn] if turn < len(beginnings) else best, turn)
        best = max(best, now, key=worth)
        if shared:
            squeezer.left = round(whole * FOR_TRIALS / TURNS)
            sharing.learn_more([now, best])
            best = sharing.improved(best, enough, sharing.left / (TURNS - turn), heard)
    return best


class SharingOut:
    """What is known of the boards of a job: arrangements that go, loads that do not. ``left``: deterministic seconds for choosing shares."""

    def __init__(self, squeezer: Squeezer, arrangements: Sequence[Arrangement], left: float) -> None:
        self.squeezer, self.job, self.left = squeezer, squeezer.job, left
        self.rank = squeezer.hardness.rank
        free = {self.rank[part.id][0] for part in self.job.parts if not lies_by_rule(part)}
        self.ranks = {family: ranks for family, ranks in squeezer.hardness.ranks().items() if family in free}
        self.known: dict[str, dict[tuple[str, ...], tuple[Candidate, ...]]] = defaultdict(dict)
        self.most: dict[str, list[Load]] = defaultdict(list)  # of each board the loads that go and that none known is harder than
        self.failed: dict[str, list[Load]] = defaultdict(list)
        self.turn = 0
        # what nobody tried, by board and steps, until more is known of the board
        self.asked: dict[tuple[str, int], list[Load]] = {}
        self.may_lie: frozenset[tuple[str, str]] = frozenset()
        self.ranks_there: dict[str, set[tuple[int, int]]] = {}
        self.learn_more(arrangements)

    def learn_more(self, arrangements: Sequence[Arrangement]) -> None:
        """What has been found to go meanwhile, and some arrangements."""
        for (board, _), row in self.squeezer.known.items():
            self._learn(board, row)
        for laid in arrangements:
            for board, row in laid.items():
                self._learn(board, row)

    def _look_over(self) -> None:
        """Which part may lie on which board by itself, asked once."""
        self.may_lie = frozenset(self._that_may_lie())
        self.ranks_there = {
            board: {self.rank[name] for name, there in self.may_lie if there == board} for board in self.squeezer.layers
        }

    def _that_may_lie(self) -> Iterator[tuple[str, str]]:
        for board in self.squeezer.layers:
            nest = self._nest(board)
            known = {name for ids in self.known[board] for name in ids}
            for part in self.job.parts:
                if (part.id, board) not in self.squeezer.barred and (part.id in known or nest.ways(part)):
                    yield part.id, board

    def _nest(self, board: str) -> Nest:
        nests = self.squeezer.nests
        if board not in nests:
            nests[board] = Nest(self.squeezer.layers[board], self.squeezer.no_fits)
        return nests[board]

    def improved(
        self, laid: Arrangement, enough: float, seconds: float, heard: Callable[[float], None] = lambda _worth: None
    ) -> Arrangement:
        """What is laid, or an arrangement that is worth more; no further once it is worth ``enough``, nor after so many deterministic seconds."""
        if not self.may_lie:
            self._look_over()
        end = self.left - seconds
        best, value = laid, worth_of(self.job, all_of(laid))
        steps, again = 1, 0
        while value < enough and again <= MOST_AGAIN and self.left > max(0.0, end) and not self.squeezer.spent:
            self.turn += 1
            shares = self._shares(steps, value)
            if shares is None and steps == MOST_STEPS:
                self.failed.clear()  # what did not go gets other chances
                self.asked.clear()
                again += 1
            if shares is None:
                steps = steps % MOST_STEPS + 1
                continue
            before = sum(map(len, self.known.values()))
            found = self._laid(shares)
            if found is not None:
                best, value, again = found, shares.value, 0
                heard(value)
            if sum(map(len, self.known.values())) > before:
                steps = 1
        return best

    # what to ask for ----------------------------------------------------------------------------------------------
    def _shares(self, steps: int, above: float) -> Shares | None:
        """Shares that are worth more, with loads that are at most so many steps harder than what is known to go."""
        holdings = {
            board: [
                *(Holding(load, tried=True) for load in self.most[board]),
                *(Holding(load, tried=False) for load in self._untried(board, steps)),
            ]
            for board in self.squeezer.layers
        }
        programme = Sharing(self.job, self.squeezer.hardness, holdings, self.may_lie, above, *MOODS[self.turn % len(MOODS)])
        found = programme.solved(min(A_TURN, self.left), self.squeezer.seed + self.turn)
        self.left -= max(programme.spent, LEAST_A_TURN)
        return found

    def _untried(self, board: str, steps: int) -> list[Load]:
        """Loads that nobody tried on a board, so many steps from what goes there."""
        if (board, steps) not in self.asked:
            self.asked[board, steps] = self._steps_from_known(board, steps)
        return self.asked[board, steps]

    def _forget_asked(self, board: str) -> None:
        for steps in range(1, MOST_STEPS + 1):
            self.asked.pop((board, steps), None)

    def _steps_from_known(self, board: str, steps: int) -> list[Load]:
        found: dict[Held, Load] = {}
        rows: list[Load] = list(self.most[board]) or [{}]
        most = min(MOST_UNTRIED_LOADS, MOST_OF_ALL // len(self.squeezer.layers))
        for _ in range(steps):
            harder = {_key(load): load for row in rows for load in steps_harder(row, self.ranks)}
            rows = [load for key, load in harder.items() if key not in found and self._may_hold(board, load)]
            if len(rows) > (room := most - len(found)):  # some of them, others once more is known
                known = len(self.known[board]), len(self.failed[board])
                rng = np.random.default_rng([self.squeezer.seed, steps, *known])
                rows = [rows[k] for k in sorted(rng.choice(len(rows), room, replace=False).tolist())]
            found.update((_key(load), load) for load in rows)
        return list(found.values())

    def _may_hold(self, board: str, load: Load) -> bool:
        """Whether it is worth trying: every part may lie there by itself and by no rule of its own, and nothing easier has failed."""
        there = self.ranks_there[board]
        if sum(map(len, load.values())) > MOST_PARTS:
            return False
        if any(family not in self.ranks or (family, rank) not in there for family, row in load.items() for rank in row):
            return False
        return not any(no_harder(load, known) for known in self.most[board]) and not any(
            no_harder(failed, load) for failed in self.failed[board]
        )

    # whether it goes ----------------------------------------------------------------------------------------------
    def _laid(self, shares: Shares) -> Arrangement | None:
        """The arrangement that some shares stand for; None where a board does not hold its own. All that was not tried is tried: laying it takes
        less time than to choose shares anew."""
        rows = {board: self._held(board, shares.parts[board]) for board in sorted(shares.untried)}
        for board in shares.parts:
            if board not in rows and None not in rows.values():
                rows[board] = self._held(board, shares.parts[board])
        return None if None in rows.values() else {board: row for board, row in rows.items() if row is not None}

    def _held(self, board: str, ids: tuple[str, ...]) -> tuple[Candidate, ...] | None:
        """The parts where they lie on a board, as known or found out now."""
        row = self.known[board].get(ids) or self._part_of_known(board, ids)
        if row is not None:
            return row
        parts = [self.job.part(name) for name in ids]
        load = self.squeezer.hardness.of(parts)
        if not any(lies_by_rule(part) for part in parts):
            row = self._tried(board, ids)
        if row is None:
            self.failed[board].append(load)
            self._forget_asked(board)
            self.most[board] = [known for known in self.most[board] if not no_harder(load, known)]
            return None
        self._learn(board, row)
        return row

    def _part_of_known(self, board: str, ids: tuple[str, ...]) -> tuple[Candidate, ...] | None:
        """So many of the parts of a known arrangement, where it has them."""
        wanted = Counter(ids)
        rows = (row for known, row in self.known[board].items() if wanted <= Counter(known))
        return next((found for row in rows if (found := _so_many_of(row, wanted)) is not None), None)

    def _tried(self, board: str, ids: tuple[str, ...]) -> tuple[Candidate, ...] | None:
        """Laid as what goes there lies, each part in the place of one that is no smaller; else in ever new ways."""
        squeezer, nest = self.squeezer, self._nest(board)
        room = sum(squeezer.areas[name] for name in ids) / squeezer.room[board]
        parts = [self.job.part(name) for name in ids]
        if room > FULLEST or any((name, board) not in self.may_lie for name in ids):
            return None
        if len(parts) == 1:
            found = nest.alone(parts[0])
            return None if found is None else tuple(found)
        stood = self._in_the_place_of(board, parts)
        hopeless = 0
        for chance in range(CHANCES):
            start = stood if chance % 2 == 0 else []
            rest = Counter(ids) - Counter(one.part.id for one in start)
            row = [*(self.job.part(one.part.id) for one in start), *(self.job.part(name) for name in sorted(rest.elements()))]
            found = nest.together(row, start, ROUNDS, squeezer.seed + CHANCES * self.turn + chance, squeezer.stop)
            squeezer.left -= nest.spent * len(row)
            if found is not None:
                return tuple(found)
            hopeless += nest.spent < NEAR
            if hopeless >= MOST_HOPELESS or squeezer.spent:
                break
        return None

    def _in_the_place_of(self, board: str, parts: Sequence[Part]) -> list[Candidate]:
        """Where parts lie in the places of known ones: each that is no larger than one there; of all arrangements the one that places most."""
        best: list[Candidate] = []
        for row in self.known[board].values():
            if any(lies_by_rule(one.part) for one in row):
                continue
            placed_now = self._in_places(parts, row)
            if len(placed_now) > len(best):
                best = placed_now
        return best

    def _in_places(self, parts: Sequence[Part], row: Sequence[Candidate]) -> list[Candidate]:
        """Parts in the places of those that lie there: the same first, then each in that of the smallest that is no smaller."""
        free, left, found = list(row), [], []
        for part in parts:
            same = next((one for one in free if one.part.id == part.id), None)
            if same is None:
                left.append(part)
            else:
                free.remove(same)
                found.append(same)
        for part in sorted(left, key=lambda p: self.rank[p.id], reverse=True):
            family, rank = self.rank[part.id]
            larger = [one for one in free if self.rank[one.part.id][0] == family and self.rank[one.part.id][1] >= rank]
            if larger:
                slot = min(larger, key=lambda one: self.rank[one.part.id][1])
                free.remove(slot)
                found.append(_as(part, slot, self.job.part(slot.part.id)))
        return found

    def _learn(self, board: str, row: Sequence[Candidate]) -> None:
        """An arrangement that goes."""
        if not row:
            return
        ids = tuple(sorted(one.part.id for one in row for _ in range(sets_each(one.part))))
        self.known[board].setdefault(ids, tuple(row))
        load = self.squeezer.hardness.of(self.job.part(name) for name in ids)
        if not any(no_harder(load, known) for known in self.most[board]):
            self.most[board] = [*(known for known in self.most[board] if not no_harder(known, load)), load]
            self._forget_asked(board)


def _as(part: Part, slot: Candidate, larger: Part) -> Candidate:
    """A part in the place of a larger one of its family: where a search for the exact place may begin."""
    way = slot.orientation
    instead = Orientation(part, way.angle_deg, way.mirror, way.face_up)
    inside = where_within(part, larger) or (0.0, 0.0)
    ((dx, dy),) = placed(np.array([inside]), 0, 0, way.angle_deg, turned_over=way.turned_over).tolist()
    seat = replace(slot.seat, x=slot.seat.x + dx, y=slot.seat.y + dy)
    return Candidate(part, slot.piece, instead, seat)


def _so_many_of(row: Sequence[Candidate], wanted: Counter[str]) -> tuple[Candidate, ...] | None:
    """Footprints that give just so many of each part, pairs whole; None where they cannot be counted out."""
    lots: dict[object, list[Candidate]] = defaultdict(list)
    for one in row:
        lots[id(one) if one.pair is None else (one.part.id, one.pair)].append(one)
    left, found = wanted.copy(), []
    for lot in lots.values():
        name, count = lot[0].part.id, sum(sets_each(one.part) for one in lot)
        if left[name] >= count:
            left[name] -= count
            found += lot
    return None if any(left.values()) else tuple(found)


def _key(load: Load) -> Held:
    return tuple(sorted((family, tuple(row)) for family, row in load.items()))
