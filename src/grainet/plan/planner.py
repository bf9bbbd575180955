"""One job in, one verified plan out: candidates, a greedy start, selection, refinement, cuts, balance, refusals.

The same job, effort and seed give the same plan; a wall-clock cap, when it bites, says so in the plan.
"""

from __future__ import annotations

import hashlib
import math
import time
from collections import defaultdict
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import partial
from typing import TYPE_CHECKING

from shapely.geometry import Polygon

from grainet.design.part import Part
from grainet.design.shape import area
from grainet.fit.board_geometry import BoardGeometry
from grainet.fit.field import Layers
from grainet.job.answer import Plan, Refusal, Shares
from grainet.job.job import Job
from grainet.plan.bound import value_bound
from grainet.plan.by_turns import laid_by_turns
from grainet.plan.candidates import Candidate, Pool
from grainet.plan.conflicts import Conflicts, conflicts
from grainet.plan.greedy import MANY_BOARDS, KnownPlaces, Occupancy, Unit, greedy_plan, worth_of
from grainet.plan.objective import measure_of
from grainet.plan.places import candidates_for
from grainet.plan.rectangles import Rectangles
from grainet.plan.sawing import Begun, CannotSaw, Sawn, saw, separable, whole_volume
from grainet.plan.selection import Budget, Choice, Selection, smallest_bad, worth
from grainet.plan.standing import Standing
from grainet.plan.verify import check
from grainet.plan.writing import Writer, as_told, numbered
from grainet.wood.piece import Piece

if TYPE_CHECKING:
    from grainet.plan.squeezing import Arrangement, Squeezer

Tell = Callable[[str, float], None]
Progress = Callable[[float, float], None]
# Deterministic seconds at effort 1: the first search, each later one at most, all of them together, and the tidying.
VALUE_BUDGET, AGAIN_BUDGET, TOTAL_BUDGET, TIDY_BUDGET = 2.4, 0.8, 4.0, 0.5
LEAST_BUDGET = 0.2
ROUNDS = 1  # of refinement at effort 1
BOX_TRIES = 1_500  # orders of rectangles at effort 1
SQUEEZES, SQUEEZES_A_PART = 108_000, 3_900  # parts times rounds at effort 1 of laying a board's parts anew with more
UNLOCKINGS = 6  # solves that only forbid what straight cuts cannot part, at effort 1
MOST_PLACES, POOL_LIMIT = 260, 4_500  # of one part on one piece, and of all, at effort 1
# turns of hand's rule at effort 1 on a rack and with wishes of the usual size (boards times builds), and how many places of theirs are kept
MOST_PAIRS, MOST_PAIRS_TO_SAVE, MOST_TO_REFINE = 900, 90, 8  # of parts and boards; boards in use
TURNS, TURNS_BEFORE_SQUEEZING, LEAST_TURNS, USUAL_RACK, MOST_TRIED = 40, 10, 8, 250, 1_200
LEAST_PLACES, LEAST_FOR_TILTS = 12, 24  # of one part on one piece
LEAST_TIDY_S = 0.1  # of clock time for each second of a cap that is all but used up
FOR_THE_END_S = 0.35
MOST_WHERE_ENOUGH = 80  # where the first plan makes everything, and only the wood can be saved


class PlanFault(Exception):
    """The verifier refused what the planner made: a fault of the program, never shown as a plan."""


@dataclass
class PlannerCache:
    """What one planning leaves for the next: sheets and candidates by what they were made from."""

    sheets: dict[str, tuple[BoardGeometry, Layers]] = field(default_factory=dict)
    found: dict[str, tuple[list[Candidate], Refusal | None]] = field(default_factory=dict)
    placed: dict[str, Conflicts] = field(default_factory=dict)
    first: KnownPlaces = field(default_factory=dict)


def _digest(*texts: str) -> str:
    return hashlib.sha256("\0".join(texts).encode()).hexdigest()


class Planner:
    """Plans one job; ``tell`` hears what is being done and how far it is (0 to 1)."""

    def __init__(
        self,
        job: Job,
        effort: int = 1,
        seconds: float | None = None,
        seed: int = 0,
        tell: Tell | None = None,
        memory: PlannerCache | None = None,
    ) -> None:
        self.job, self.effort, self.seconds, self.seed = job, max(1, effort), seconds, seed
        self._tell, self._share = tell, 0.0
        # what sawing and checking take at the end is kept back, so that the whole keeps to the cap
        self._cap = None if seconds is None else seconds - min(FOR_THE_END_S, FOR_THE_END_S * seconds)
        self.memory = memory or PlannerCache()
        self.began = time.monotonic()
        self.capped = False
        self.sheets: dict[str, BoardGeometry] = {}
        self.layers: dict[str, Layers] = {}
        self.standing = Standing(job)
        self.pool = Pool()
        self.refused: list[Refusal] = []
        self._keys: dict[str, str] = {}
        self._before: set[tuple[object, ...]] = set()  # places of an earlier plan that still hold
        self._chosen_once = False
        self._over_all: float | None = None
        self._sawings: dict[tuple[object, ...], Sawn] = {}
        self._hand_laid: dict[Unit, list[Candidate]] = {}  # by hand's rule at once
        self._budget_left = TOTAL_BUDGET * self.effort
        self._spoilt: list[Candidate] = []  # what the verifier last refused
        self._last: tuple[Selection, list[int], list[int]] | None = None  # the programme of the last choice

    def plan(self, *, tidy: bool = True) -> Plan:
        """The best plan found within the budget. Raises PlanFault where the verifier refuses what was made. Without ``tidy`` it is not made
        to spoil the least wood: enough where one wants to know whether a thing can be made.
        """
        self._prepare()
        before = self._beside_what_stands(self.standing.hinted(self.sheets))
        self._before = {c.key for c in before}
        start = [] if before else self._start()  # first of all: the plan is never worse than it
        bound_of_all = self._bound_over_all()
        most = min(bound_of_all, self._demand()) - 1e-6
        self.pool.add(before)
        choice = self._choose([c.key for c in before], bound_of_all) if before and self.job.objective is None else None
        if choice is None or choice.value < most:  # else what was laid before still does, and all of it stays where it was
            choice = self._from_scratch([*before, *(start or self._start())], bound_of_all)
        for turn in range(ROUNDS * self.effort):
            in_use = {self.pool.items[k].piece for k in choice.chosen}
            if choice.value >= most or self._late(0.6) or len(in_use) > MOST_TO_REFINE * self.effort:
                break
            self.tell("looking for room beside what is laid", 0.6 + 0.2 * turn / (ROUNDS * self.effort))
            kept = [self.pool.items[k].key for k in choice.chosen]
            if not self._refine(choice):
                break
            better = self._choose(kept, bound_of_all)
            if better.value <= choice.value + 1e-9:
                choice.bound = max(choice.bound, better.bound)
                break
            choice = better
        choice = self._squeezed(choice, most, bound_of_all)
        if self.job.objective is not None or before or (tidy and not self._late(0.8)):
            choice = self._tidied(choice)
        self.chosen, self._bound_of_all = choice, bound_of_all
        return self._write(choice, bound_of_all)

    def smaller(self) -> Plan | None:
        """After a plan that the verifier refused, the most of it that holds: less one part of the board that spoils it, else less that
        board; None where no one board is to blame."""
        chosen = self._spoilt
        for piece in sorted({c.piece for c in chosen}):
            plan = self._only([c for c in chosen if c.piece != piece])
            if plan is None:
                continue
            for one in sorted((c for c in chosen if c.piece == piece), key=lambda c: c.block.area):
                more = self._only([c for c in chosen if c is not one])
                if more is not None and more.value > plan.value:
                    plan = more
                    break
            return plan
        return None

    def _only(self, places: Sequence[Candidate]) -> Plan | None:
        """The plan of a few places alone; None where it does not hold or the time is up."""
        if self._late():
            return None
        before = self.pool, self._last  # another plan is looked for among all places
        self.pool = Pool()
        self.pool.add(places)
        try:
            return self._write(self._choose([c.key for c in places], math.inf), self._bound_of_all)
        except PlanFault:
            return None
        finally:
            self.pool, self._last = before

    def _bound_over_all(self) -> float:
        """What no plan at all can pass; with no time left for it what is asked for."""
        if self._over_all is None:
            asked = self._demand()
            late = math.isfinite(asked) and self._late(0.6)
            left = self._left()
            wall = None if left is None else max(0.2, 0.3 * left)
            self._over_all = asked if late else value_bound(self.job, self.sheets, standing=self.standing, wall_seconds=wall)
        return self._over_all

    def _start(self) -> list[Candidate]:
        """What hand's rule lays, over and over where the rack is too small for all, as far as there is time. What it laid on the way is tried
        with the rest."""
        self.tell("laying a first plan by hand's rule", 0.02)
        wanted = len(self.job.builds) or sum(self._usable(p) or 20 for p in self.job.parts)
        many = TURNS_BEFORE_SQUEEZING if self.job.builds and self._may_squeeze() else TURNS
        turns = many * self.effort * min(1.0, USUAL_RACK / max(1, wanted * len(self.job.pieces)))
        tried: dict[tuple[object, ...], Candidate] = {}

        def keep(places: Sequence[Candidate]) -> None:
            self.tell(f"laying it in another order: {worth_of(self.job, places):g}", 0.03)
            if len(tried) < MOST_TRIED:
                tried.update((one.key, one) for one in places)

        def enough() -> float:
            return min(self._bound_over_all(), self._demand())

        rounds = max(LEAST_TURNS, round(turns))
        stop = partial(self._late, 0.5)
        found = laid_by_turns(
            self.standing.without(), self.sheets, enough, rounds, self.seed, stop=stop, keep=keep, first=self._hand_laid.update
        )
        self.pool.add(self._beside_what_stands(list(tried.values())))
        boxes = self._boxes_laid()
        if worth_of(self.job, boxes) > worth_of(self.job, found) + 1e-9:
            found = boxes
        return self._beside_what_stands(found)

    def _boxes_laid(self) -> list[Candidate]:
        """What many orders of free rectangles give, where all parts are rectangles and nothing stands yet."""
        if self.standing.anything:
            return []
        boxes = Rectangles(self.job, self.sheets).laid(BOX_TRIES * self.effort, self.seed, partial(self._late, 0.5))
        self.pool.add(boxes)
        return boxes

    def _from_scratch(self, start: Sequence[Candidate], bound_of_all: float) -> Choice:
        """The best choice of all places found, no worse than what hand's rule lays and what was laid before."""
        enough = worth_of(self.job, start) >= bound_of_all - 1e-6
        self.pool.add(start)
        self._gather(MOST_WHERE_ENOUGH if enough else MOST_PLACES, self._most_pairs(enough=enough))
        return self._choose([c.key for c in start], bound_of_all)

    def _most_pairs(self, *, enough: bool) -> int:
        """How many pairs of part and board are looked at: of a large rack fewer where all is made already, and only the wood can be saved."""
        if enough and self.job.objective is None and len(self.job.pieces) > MANY_BOARDS:
            return MOST_PAIRS_TO_SAVE
        return MOST_PAIRS // 3 if enough else MOST_PAIRS

    def another(self) -> Plan | None:
        """After a plan, the best one that differs from all before in at least one board or way; None where there is none worth anything."""
        assert self._last is not None
        selection = self._last[0]
        selection.differ_from(self.chosen)
        self._budget_left = max(self._budget_left, AGAIN_BUDGET * self.effort)
        choice = self._tidied(self._sawable(selection, AGAIN_BUDGET, [], lambda _value, _bound: None))
        if choice.value <= 0 or not choice.chosen:
            return None
        choice.bound = max(choice.bound, self.chosen.bound)  # what binds all plans binds this one
        self.chosen = choice
        return self._write(choice, self._bound_of_all)

    def prepare(self) -> None:
        """Make the sheets of every piece."""
        self._prepare()

    def by_hand(self) -> list[Candidate]:
        """What hand's rule lays beside what stands."""
        return self._beside_what_stands(greedy_plan(self.standing.without(), self.sheets))

    def _beside_what_stands(self, found: Sequence[Candidate]) -> list[Candidate]:
        """Places without those that come too near to what stands, where that depends on the part."""
        return [c for c in found if self.standing.fits_beside(c)] if self.standing.anything else list(found)

    def plan_with(self, candidates: Sequence[Candidate], *, plain_bound: bool = False) -> Plan:
        """The best plan out of given places alone. Raises PlanFault where the verifier refuses it.

        With ``plain_bound`` its bound is only what is asked for: enough where one wants to know whether a thing can be made.
        """
        if not self.sheets:
            self._prepare()
        asked = self._demand()
        bound_of_all = (
            asked if plain_bound and math.isfinite(asked) else value_bound(self.job, self.sheets, standing=self.standing)
        )
        self.pool.add(candidates)
        return self._write(self._choose([c.key for c in candidates], bound_of_all), bound_of_all)

    def tell(self, what: str, share: float) -> None:
        """Say what is being done; a later round never makes the share go back."""
        self._share = max(self._share, share)
        if self._tell is not None:
            self._tell(what, self._share)

    # time ---------------------------------------------------------------------------------------------------------
    def _left(self) -> float | None:
        return None if self._cap is None else max(0.0, self._cap - (time.monotonic() - self.began))

    def _late(self, share: float = 1.0) -> bool:
        """Whether this share of the cap is used up; a step left out for that makes the plan a capped one."""
        if self._cap is None or time.monotonic() - self.began < share * self._cap:
            return False
        self.capped = True
        return True

    # candidates ---------------------------------------------------------------------------------------------------
    def _prepare(self) -> None:
        kit = self.job.kit.model_dump_json()
        for piece in self.job.pieces:
            left = self.standing.left(piece.id)
            told = piece.model_dump_json(exclude={"place", "note", "name"})
            key = _digest(kit, told, str(self.job.version), "" if left is None else left.wkb_hex)
            if key not in self.memory.sheets:
                sheet = BoardGeometry(piece, self.job.kit, by_chord=self.job.version == 2, left=left)
                self.memory.sheets[key] = sheet, Layers(sheet, guard=0.0)
            self.sheets[piece.id], self.layers[piece.id] = self.memory.sheets[key]
            self._keys[piece.id] = key

    def _gather(self, most_places: int, most_pairs: int) -> None:
        pairs = [(p, s) for s in self.job.pieces for p in self.job.parts]
        places = most_places if self.job.kit.cutting == "outline" else most_places // 2  # straight cuts leave few ways
        pairs, likely = self._worth_trying(pairs, most_pairs * self.effort)
        most = max(LEAST_PLACES, min(places * self.effort, POOL_LIMIT * self.effort // max(1, likely)))
        # where many parts meet many boards, tilts are left to the rounds that look at few boards
        tilted = most >= LEAST_FOR_TILTS
        barred = {(bar.part, bar.piece): bar for bar in self.job.barred}
        for n, (part, piece) in enumerate(pairs):
            if (part.id, piece.id) in barred:
                bar = barred[part.id, piece.id]
                self.refused.append(Refusal(part=part.id, piece=piece.id, why=bar.why, code=bar.code))
                continue
            if n % 8 == 0:
                self.tell(f"trying {part.shown_name} on {piece.id}", 0.05 + 0.4 * n / len(pairs))
            if self._late(0.7):
                self.refused.append(Refusal(part=part.id, piece=piece.id, why="not tried: the time given ran out", code="time"))
                continue
            found, refusal = self._candidates(part, piece.id, most, tilted=tilted)
            if part is self.job.parts[-1]:
                # a whole rack's would fill the memory
                self.layers[piece.id].forget() if len(self.job.pieces) > MANY_BOARDS else self.layers[
                    piece.id
                ].forget_transforms()
            self.pool.add(self._beside_what_stands(found))
            if refusal is not None:
                self.refused.append(refusal)

    def _worth_trying(self, pairs: Sequence[tuple[Part, Piece]], most: int) -> tuple[list[tuple[Part, Piece]], int]:
        """Of a large rack the boards that hand's rule used, and for each part the smallest that may hold it by plain sizes; of any other rack
        all of it. And how many pairs of part and board may give places."""
        likely = [(part, piece) for part, piece in pairs if self._may_lie(part, piece.id)]
        if len(likely) <= most:
            return list(pairs), len(likely)
        used = {one.piece for one in self.pool.items}
        each = max(4, most // max(1, len(self.job.parts)))
        tried: set[tuple[str, str]] = set()
        for part in self.job.parts:
            mine = [piece for p, piece in likely if p is part]
            mine.sort(key=lambda piece: (piece.id not in used, self.sheets[piece.id].outline.area, piece.id))
            tried |= {(part.id, piece.id) for piece in mine[:each]}
        for part, piece in likely:
            if (part.id, piece.id) not in tried:
                self.refused.append(Refusal(part=part.id, piece=piece.id, why="not tried: other boards come nearer", code="time"))
        return [(part, piece) for part, piece in pairs if (part.id, piece.id) in tried], len(tried)

    def _may_lie(self, part: Part, piece: str) -> bool:
        """Whether a part may lie on a piece at all, by plain sizes: nothing is refused by it, it only says how many places there may be."""
        sheet = self.sheets[piece]
        if max(sheet.piece.all_thicknesses_mm, default=math.inf) < part.thickness_mm:
            return False
        (x0, y0), (x1, y1) = part.ring.min(axis=0).tolist(), part.ring.max(axis=0).tolist()
        long, wide = x1 - x0, y1 - y0
        upright = all(turn % 180 == 0 for turn in part.turns_deg)
        room = (sheet.length, sheet.width) if upright else (math.hypot(sheet.length, sheet.width),) * 2
        return bool(long <= room[0] + 1 and wide <= room[1] + 1)

    def _usable(self, part: Part) -> int | None:
        """How many footprints of a part can be used at all; None is without limit."""
        asked = 0
        for build in self.job.builds:
            most: dict[str, int] = defaultdict(int)  # of each component the dearest in this part; builds that share a part add up
            for option in build.options:
                most[option.component] = max(most[option.component], option.needs.get(part.id, 0))
            asked += sum(most.values())
        if asked:
            return asked * part.per_set
        return None if part.quantity is None else part.quantity * part.per_set

    def _candidates(
        self, part: Part, piece: str, most: int, *, tilted: bool = True, quick: bool = False
    ) -> tuple[list[Candidate], Refusal | None]:
        others = "".join(sorted(f"{p.outline}" for p in self.job.parts))
        key = _digest(
            self._keys[piece], part.model_dump_json(), others, f"{most} {self.effort} {tilted} {quick} {self._usable(part)}"
        )
        if key not in self.memory.found:
            found, trouble = candidates_for(
                self.layers[piece], part, self.job.parts, most, self.effort, tilted=tilted, wanted=self._usable(part)
            )
            refusal = None if trouble is None else Refusal(part=part.id, piece=piece, why=trouble.text, code=trouble.rule)
            self.memory.found[key] = found, refusal
        return self.memory.found[key]

    def _barred(self) -> set[tuple[str, str]]:
        return {(bar.part, bar.piece) for bar in self.job.barred}

    # choosing -----------------------------------------------------------------------------------------------------
    def _demand(self) -> float:
        if self.job.builds:
            return sum(b.most_worth for b in self.job.builds)
        return sum(p.value * p.quantity if p.quantity is not None else math.inf for p in self.job.parts)

    def _choose(self, hint_keys: Sequence[tuple[object, ...]], bound_of_all: float) -> Choice:
        items = list(self.pool.items)  # the pool may grow after it
        self._last = None  # two programmes at once would be the most memory that a plan takes
        self.tell(f"choosing among {len(items)} places", 0.5)
        selection = self._selection_over(items)
        index = {one.key: k for k, one in enumerate(items)}
        hint = [index[key] for key in hint_keys if key in index]

        def heard(value: float, bound: float) -> None:
            self.tell(f"value {value:g}, cannot pass {min(bound, bound_of_all):g}", 0.55)

        choice = self._sawable(selection, VALUE_BUDGET if not self._chosen_once else AGAIN_BUDGET, hint, heard)
        self._last = selection, *self._tastes(items)
        return choice

    def _tastes(self, items: Sequence[Candidate]) -> tuple[list[int], list[int]]:
        """What each place costs beside its wood, and what opening each board does."""
        spread = [round(self.sheets[p.id].outline.area / 4000) for p in self.job.pieces]
        return [self._dislike(one) for one in items], spread

    def _sawable(self, selection: Selection, deterministic: float, hint: Sequence[int], heard: Progress) -> Choice:
        """The best choice that can be sawn, as far as the budget goes."""
        choice = self._search(selection, deterministic, hint, heard)
        self._chosen_once = True
        best_bound = choice.bound
        sawable: Choice | None = None  # the best so far that can be sawn, for when the search ends locked
        for turn in range(UNLOCKINGS * self.effort + 1):
            bad = self._locked(choice)
            if not bad:
                break
            mended = self._unlocked(selection, choice, hint)
            if sawable is None or mended.value > sawable.value:
                sawable = mended
            spent = turn == UNLOCKINGS * self.effort or self._budget_left < LEAST_BUDGET or self._late(0.9)
            if spent or choice.value <= sawable.value + 1e-9:
                break
            selection.forbid_together([self._with_kin(group) for group in bad])
            kept = [k for k in choice.chosen if not any(k in group for group in bad)]
            choice = self._search(selection, AGAIN_BUDGET, kept, heard)
        if sawable is not None and (sawable.value > choice.value or self._locked(choice)):
            choice = sawable
        choice.bound = max(choice.value, best_bound)
        return choice

    def _search(self, selection: Selection, deterministic: float, hint: Sequence[int], heard: Progress) -> Choice:
        """One search, paid from the purse that all of them share."""
        share = max(LEAST_BUDGET, min(deterministic * self.effort, self._budget_left))
        choice = selection.solve(Budget(share, self.seed, self._left()), hint, heard)
        self._budget_left -= choice.spent
        self.capped = self.capped or choice.capped
        return choice

    def _tidied(self, choice: Choice) -> Choice:
        """The last choice with the least wood spoiled at its value, where that can be sawn too."""
        assert self._last is not None
        selection, dislike, spread = self._last
        left = self._left()
        wall = None if left is None else max(LEAST_TIDY_S * min(1.0, self.seconds or 1.0), left)
        tidy = selection.tidy(choice, dislike, spread, Budget(TIDY_BUDGET * self.effort, self.seed, wall))
        return choice if self._locked(tidy) else tidy

    def _unlocked(self, selection: Selection, choice: Choice, hint: Sequence[int]) -> Choice:
        """The better of the start, which can be sawn, and the choice without what locks it."""
        kept = list(choice.chosen)
        fewer = choice
        while bad := self._locked(fewer):
            lightest = {
                min(group, key=lambda k: (self.pool.items[k].part.value, area(self.pool.items[k].ring), k)) for group in bad
            }
            kept = [k for k in kept if k not in lightest]
            fewer = selection.best_of(kept)
        start = selection.best_of(hint)
        return start if start.value > fewer.value and not self._locked(start) else fewer

    def _conflicts(self, piece: str, places: Sequence[Candidate]) -> Conflicts:
        key = _digest(self._keys[piece], repr([one.key for one in places]))
        if key not in self.memory.placed:
            self.memory.placed[key] = conflicts(places, self.job.kit)
        return self.memory.placed[key]

    def _dislike(self, one: Candidate) -> int:
        """What taking a place costs beside its wood, in square centimetres: covered trouble, thick wood for thin parts, and
        a stand away from the marked end, so that the clear rest stays in one."""
        sheet = self.sheets[one.piece]
        x0 = one.polygon.bounds[0]
        from_end = x0 - sheet.x0
        waste = one.seat.spare_mm / max(1.0, sheet.thickness.least) * area(one.ring)
        return int(round((one.seat.covered_mm2 * 2 + waste * 0.6 + from_end * sheet.width * 0.05) / 100))

    def _locked(self, choice: Choice) -> list[list[int]]:
        """Groups of chosen footprints that no straight cut can part, also from what stands, or whose cuts would meet metal."""
        by_piece: dict[str, list[int]] = defaultdict(list)
        for k in choice.chosen:
            by_piece[self.pool.items[k].piece].append(k)
        bad = []
        for piece, members in by_piece.items():
            for group in self._in_one_hand(piece, members):
                locked = partial(self._inseparable, standing=self._boxes_that_stand(piece, group))
                if self.job.kit.cutting == "straight" and locked(group):
                    bad.append(smallest_bad(group, locked))
                    break
            else:
                try:
                    self._saw(piece, [self.pool.items[k] for k in members])
                except CannotSaw as stuck:
                    bad.append([members[k] for k in stuck.members if k < len(members)] or list(members))
        return bad

    def _in_one_hand(self, piece: str, members: Sequence[int]) -> list[list[int]]:
        """Members by the piece in hand that they lie in: what a cut has parted needs no other."""
        if not self.standing.anything or not self.standing.is_cut(piece):
            return [list(members)]
        groups = []
        for hand in self.standing.hands(piece):
            inside = [k for k in members if hand.polygon.intersects(self.pool.items[k].polygon)]
            groups += [inside] if inside else []
        return groups

    def _boxes_that_stand(self, piece: str, group: Sequence[int]) -> list[tuple[float, float, float, float]]:
        """Boxes of what stays, and of wood that is kept, in the piece in hand that a group lies in."""
        if not self.standing.anything:
            return []
        hand = next((h for h in self.standing.hands(piece) if h.polygon.intersects(self.pool.items[group[0]].polygon)), None)
        shapes = [c.claimed(self.job.kit) for c in self.standing.footprints[piece]]
        shapes += self._kept_whole(piece, [self.pool.items[k] for k in group])
        return [shape.bounds for shape in shapes if hand is None or shape.intersects(hand.polygon)]

    def _inseparable(self, group: Sequence[int], standing: Sequence[tuple[float, float, float, float]]) -> bool:
        kit = self.job.kit
        boxes = [self.pool.items[k].claimed(kit).bounds for k in group]
        return not separable([*boxes, *standing], kit.kerf_mm.crosscut, kit.kerf_mm.rip)

    def _kept_whole(self, piece: str, members: Sequence[Candidate]) -> list[Polygon]:
        """Wood of a piece that is kept for a build and not used by any of these places."""
        return [
            shape
            for _, shape in self.standing.kept_for(piece)
            if not any(one.polygon.intersection(shape).area > 1.0 for one in members)
        ]

    def _saw(self, piece: str, members: Sequence[Candidate]) -> Sawn:
        """The sawing of a board, worked out once for the same places in the same order. Raises CannotSaw."""
        key = (piece, *(c.key for c in members))
        if key not in self._sawings:
            there = [*members, *self.standing.footprints[piece]]
            self._sawings[key] = saw(self.sheets[piece], there, begun=self._begun(piece, there))
        return self._sawings[key]

    def _begun(self, piece: str, there: Sequence[Candidate]) -> Begun | None:
        """Where the sawing of a board goes on; None where it begins."""
        if not self.standing.anything:
            return None
        names = [name for cut in self.job.cut for name in cut.gives]
        mine = [n.removeprefix(f"{piece}.") for n in names if n.startswith(f"{piece}.")]
        last = max((int(n) for n in mine if n.isdecimal()), default=0)
        kept = self._kept_whole(piece, there)
        return Begun(tuple(self.standing.hands(piece)), last, tuple(kept), self.standing.leaves)

    def _with_kin(self, group: Sequence[int]) -> list[list[int]]:
        """Each member with its kin: places of the same part that overlap it by half and lock the group just as well.

        A rule of thumb that spares many solves; the bound does not rest on it.
        """
        kit, items = self.job.kit, self.pool.items
        kerf = kit.kerf_mm
        rows = []
        for member in group:
            one = items[member]
            others = [items[k].claimed(kit).bounds for k in group if k != member]
            x0, y0, x1, y1 = one.claimed(kit).bounds
            kin = [member]
            for k, other in enumerate(items):
                if k == member or other.piece != one.piece or other.part.id != one.part.id:
                    continue
                bx = other.claimed(kit).bounds
                if abs(bx[0] - x0) + abs(bx[2] - x1) < x1 - x0 and abs(bx[1] - y0) + abs(bx[3] - y1) < y1 - y0:
                    if not separable([*others, bx], kerf.crosscut, kerf.rip):
                        kin.append(k)
            rows.append(kin)
        return rows

    # refinement ---------------------------------------------------------------------------------------------------
    def _refine(self, choice: Choice) -> int:
        """New candidates in the room beside what is laid, on pieces in use: for every part still wanted, with all laid parts
        kept and with each one lifted in turn. Returns how many were new."""
        laid: dict[str, list[Candidate]] = defaultdict(list)
        for k in choice.chosen:
            laid[self.pool.items[k].piece].append(self.pool.items[k])
        bench = Occupancy.of({p: self.sheets[p] for p in laid})
        fresh = 0
        for piece, members in sorted(laid.items(), key=lambda item: -self.sheets[item[0]].outline.area)[: 4 * self.effort]:
            for lifted in [None, *members][: 5 * self.effort]:
                if self._late(0.6):
                    return fresh
                bench.lift(piece, [c for c in members if c is not lifted])
                for part in self._wanted(choice, piece, lifted):
                    found, _ = candidates_for(
                        bench.layers[piece], part, self.job.parts, 24, self.effort, tilted=self.effort > 2, wanted=1, quick=True
                    )
                    fresh += self.pool.add(self._beside_what_stands(found))
        return fresh

    def _squeezed(self, choice: Choice, most: float, bound_of_all: float) -> Choice:
        """The choice with parts laid closer together on boards that seem full, as long as that is worth more."""
        better = self._laid_closer(choice, most)
        if better is choice:
            return choice
        whole = self._choose([self.pool.items[k].key for k in better.chosen], bound_of_all)  # all places have a say once more
        return whole if whole.value >= better.value - 1e-9 else better

    def _laid_closer(self, choice: Choice, most: float) -> Choice:
        """The choice, or a better one among places that were not in the pool. What was tried on the way is forgotten: it takes much memory."""
        from grainet.plan.squeezing import Squeezer  # most plans do without it, and what it compiles takes memory

        budget = min(SQUEEZES, SQUEEZES_A_PART * len(choice.chosen)) * self.effort
        squeezer = Squeezer(self.job, self.layers, budget, self.seed, stop=partial(self._late, 0.8))
        better = choice
        if self.job.builds and self._may_squeeze() and better.value < most:
            better = self._exchanged(squeezer, better, most)
        while not self.job.builds and better.value < most and self._may_squeeze() and not squeezer.spent:
            now = dict(laid := self._arranged(better))
            for one in squeezer.with_parts(laid, partial(self._wanted, better, lifted=None)):
                now[one[0].piece] = tuple(one)
            found = self._beside_what_stands([one for row in now.values() for one in row])
            if now == laid or (choice := self._better_of(better, found)) is better:
                break
            better = choice
        return better

    def _better_of(self, choice: Choice, found: Sequence[Candidate]) -> Choice:
        """What may be chosen of an arrangement, where that is worth more than a choice; else that choice."""
        if not found:
            return choice
        self.pool.add(found)
        index = {one.key: k for k, one in enumerate(self.pool.items)}
        rows = [index[one.key] for one in found]
        selection = self._selection_over([self.pool.items[k] for k in rows])
        mine = selection.solve(Budget(LEAST_BUDGET, self.seed, self._left()), range(len(rows)), lambda _value, _bound: None)
        mine.chosen = [rows[k] for k in mine.chosen]
        if mine.value <= choice.value + 1e-9 or self._locked(mine):
            return choice
        mine.bound = max(choice.bound, mine.value)
        return mine

    def _exchanged(self, squeezer: Squeezer, choice: Choice, most: float) -> Choice:
        """The choice, or what comes of exchanging builds and of sharing boards out anew, from it and from what hand's rule lays at once: that fills
        board after board, which leaves more room in one than a choice that spares wood."""
        from grainet.plan.by_shares import exchanged_and_shared
        from grainet.plan.squeezing import all_of

        by_hand: Arrangement = defaultdict(tuple)
        for one in (one for row in self._hand_laid.values() for one in row):
            by_hand[one.piece] += (one,)

        def heard(worth: float) -> None:
            self.tell(f"laying parts closer together: {worth:g}", 0.8)

        now = exchanged_and_shared(squeezer, [by_hand, self._arranged(choice)], most, self.effort, heard)
        return self._better_of(choice, self._beside_what_stands(all_of(now)))

    def _arranged(self, choice: Choice) -> Arrangement:
        """What a choice lays, by board."""
        self.tell("laying parts closer together", 0.8)
        laid: Arrangement = defaultdict(tuple)
        for k in choice.chosen:
            laid[self.pool.items[k].piece] += (self.pool.items[k],)
        return laid

    def _may_squeeze(self) -> bool:
        """Whether parts may lie in each other's bays at all: not where only straight cuts part them, nor beside what stands."""
        return self.job.kit.cutting == "outline" and not self.standing.anything

    def _wanted(self, choice: Choice, piece: str, lifted: Candidate | None) -> list[Part]:
        """Parts that more room on a piece could serve: all but the barred and those made in full, unless one was lifted."""
        full = {p.id for p in self.job.parts if p.quantity is not None and choice.made[p.id] >= p.quantity}
        full |= self._of_builds_made(choice)
        barred = {part for part, where in self._barred() if where == piece}
        return [
            p
            for p in self.job.parts
            if p.id not in barred and (p.id not in full or (lifted is not None and lifted.part.id == p.id))
        ]

    def _selection_over(self, items: Sequence[Candidate]) -> Selection:
        """The programme over some places."""
        members: dict[str, list[int]] = defaultdict(list)
        for k, one in enumerate(items):
            members[one.piece].append(k)
        by_piece = {p: (m, self._conflicts(p, [items[k] for k in m])) for p, m in members.items()}
        before = [k for k, one in enumerate(items) if one.key in self._before]
        return Selection(self.job, items, by_piece, self.standing, measure_of(self.job, items, self.sheets), before)

    def _of_builds_made(self, choice: Choice) -> set[str]:
        """Parts that only builds want which are made in their best way: more room for them changes nothing."""
        made: dict[str, float] = defaultdict(float)
        for option in choice.options:
            made[option.build] += option.value
        short = [b for b in self.job.builds if made[b.id] + (b.value if b.components else 0.0) < b.most_worth - 1e-9]
        wanted = {part for b in short for o in b.options for part in o.needs}
        return {part for b in self.job.builds for o in b.options for part in o.needs} - wanted

    # writing ------------------------------------------------------------------------------------------------------
    def _write(self, choice: Choice, bound_of_all: float) -> Plan:
        self.tell("working out the cuts", 0.85)
        chosen = [self.pool.items[k] for k in choice.chosen]
        sawn, choice, chosen = self._sawn(choice, chosen)
        value, told = worth(self.job, choice.options, choice.made), as_told(choice.options)
        proven = bound_of_all <= value * (1 + 1e-9) + 1e-6 or bound_of_all <= choice.bound
        bound, scope = (bound_of_all, "all") if proven else (choice.bound, "candidates")
        over_all = None if proven or not math.isfinite(bound_of_all) else max(value, min(bound_of_all, self._demand()))
        plan = Plan(
            value=value, bound=max(value, bound), bound_scope=scope, bound_all=over_all, capped=self.capped,  # type: ignore[arg-type]
            seconds=round(time.monotonic() - self.began, 3), made=choice.made, builds=told,
            placements=tuple(Writer(self.job, self.standing).placements(choice, chosen)),
            cuts=numbered(sawn, max((c.n for c in self.job.cut), default=0)), displaced=self.standing.displaced(told), refused=tuple(self.refused),
            offcuts=tuple(o for s in sawn.values() for o in s.offcuts), balance=self._balance(sawn),
        )  # fmt: skip
        self.tell("checking the plan", 0.95)
        faults = check(self.job, plan)
        if faults:
            self._spoilt = chosen
            raise PlanFault("; ".join(str(f) for f in faults[:5]))
        return plan

    def _sawn(self, choice: Choice, chosen: list[Candidate]) -> tuple[dict[str, Sawn], Choice, list[Candidate]]:
        """The sawing of every piece in use. A piece whose parts cannot be sawn apart after all loses its sets."""
        sawn: dict[str, Sawn] = {}
        by_piece: dict[str, list[Candidate]] = defaultdict(list)
        for one in chosen:
            by_piece[one.piece].append(one)
        for board in self.job.pieces if self.standing.anything else ():
            if self.standing.is_cut(board.id) or self.standing.footprints[board.id]:
                by_piece[board.id] += []
        for piece, members in by_piece.items():
            try:
                sawn[piece] = self._saw(piece, members)
            except CannotSaw:
                if not members:
                    raise PlanFault(f"what stays on {piece} cannot be sawn apart by straight cuts") from None
                self.pool = Pool()
                self.pool.add([c for c in chosen if c.piece != piece])
                fewer = self._choose([c.key for c in self.pool.items], math.inf)
                return self._sawn(fewer, [self.pool.items[k] for k in fewer.chosen])
        return sawn, choice, chosen

    def _balance(self, sawn: dict[str, Sawn]) -> dict[str, Shares]:
        return {p: s.shares(whole_volume(self.sheets[p])) for p, s in sawn.items()}


def plan_job(
    job: Job,
    effort: int = 1,
    seconds: float | None = None,
    seed: int = 0,
    tell: Tell | None = None,
    memory: PlannerCache | None = None,
) -> Plan:
    """Plan a job. A plan that the independent verifier refuses gives way to a plainer one that holds; nothing laid at all always does.
    Raises PlanFault only where even that is refused, which is a fault of the program."""
    return plans_for(job.changed(plans=None), effort, seconds, seed, tell, memory)[0]


def plans_for(
    job: Job,
    effort: int = 1,
    seconds: float | None = None,
    seed: int = 0,
    tell: Tell | None = None,
    memory: PlannerCache | None = None,
) -> list[Plan]:
    """As many plans of a job as it asks for, the best first, each another in at least one board or way; fewer where there are no more worth
    anything, one at least. By-products are laid in what each leaves. Raises PlanFault."""
    kept = memory or PlannerCache()
    main = without_byproducts(job)
    planner = Planner(main, effort, seconds, seed, tell, kept)
    try:
        plans = [planner.plan()]
    except PlanFault as fault:
        less = planner.smaller() or plainer_plan(main, kept, tell, fault)
        return [with_byproducts(job, less, effort, seconds, seed, kept)]
    while len(plans) < (job.plans or 1):
        try:
            more = planner.another()
        except PlanFault:  # an alternative that does not hold is none
            break
        if more is None:
            break
        plans.append(more)
    return [with_byproducts(job, plan, effort, seconds, seed, kept) for plan in plans]


def without_byproducts(job: Job) -> Job:
    """The job less the parts that are laid in what is left, and what stands of them."""
    gone = {p.id for p in job.parts if p.byproduct}
    if not gone:
        return job
    return job.changed(
        parts=tuple(p for p in job.parts if p.id not in gone),
        pins=tuple(p for p in job.pins if p.part not in gone),
        lost=tuple(p for p in job.lost if p.part not in gone),
        hints=tuple(p for p in job.hints if p.part not in gone),
        barred=tuple(b for b in job.barred if b.part not in gone),
    )


def with_byproducts(job: Job, plan: Plan, effort: int, seconds: float | None, seed: int, memory: PlannerCache) -> Plan:
    """A plan with the by-products that find a place in what it leaves: all that it lays stays. Its bound is told over the places tried."""
    if not any(p.byproduct for p in job.parts):
        return plan
    stays = {p.key: p for p in (*job.pins, *plan.placements)}
    # what the plan lays stays, whatever it is for; only by-products may be added, and each counts by its own value
    parts = tuple(p if p.byproduct else p.changed(quantity=plan.made.get(p.id, 0), keep=(), figure=()) for p in job.parts)
    left = job.changed(version=2, parts=parts, builds=(), pins=tuple(stays.values()), hints=(), objective=None, plans=None)
    try:
        more = Planner(left, effort, seconds, seed, memory=memory).plan()
    except PlanFault:
        return plan
    before = sum(p.value * plan.made.get(p.id, 0) for p in job.parts)
    gained, room = (0.0, 0.0) if job.builds else (more.value - before, more.bound - before)
    over_all = None if plan.bound_all is None else plan.bound_all + room
    told = plan.changed(
        placements=more.placements, cuts=more.cuts, offcuts=more.offcuts, balance=more.balance, made=more.made, value=plan.value + gained,
        bound=plan.bound + room, bound_scope="candidates" if room else plan.bound_scope, bound_all=over_all,
        capped=plan.capped or more.capped, seconds=round(plan.seconds + more.seconds, 3), refused=(*plan.refused, *more.refused),
    )  # fmt: skip
    return told if not check(job, told) else plan


def plainer_plan(job: Job, memory: PlannerCache, tell: Tell | None = None, why: PlanFault | None = None) -> Plan:
    """A plan by hand's rule alone: all of it, else without the board that spoils it, else nothing. Raises PlanFault where none holds."""
    sheets = Planner(job, memory=memory, tell=tell)
    sheets.prepare()
    start = sheets.by_hand()
    pieces = sorted({c.piece for c in start})
    for left_out in [(), *((p,) for p in pieces), tuple(pieces)]:
        planner = Planner(job, memory=memory, tell=tell)
        try:
            return planner.plan_with([c for c in start if c.piece not in left_out])
        except PlanFault as fault:
            why = why or fault
    raise why or PlanFault("no plan holds, not even an empty one")
