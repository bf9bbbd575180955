"""Selection: one integer programme over the whole rack. First the most value, then, at that value, the least wood spoiled.

Deterministic: a deterministic-time budget, one worker and a fixed seed. The bound is the solver's own, over the candidates given.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import dataclass, field
from itertools import combinations
from typing import Any

from grainet.design.part import sets_each
from grainet.design.recipe import Option
from grainet.design.shape import area
from grainet.job.job import Job
from grainet.plan.candidates import Candidate
from grainet.plan.conflicts import Conflicts
from grainet.plan.objective import Measure
from grainet.plan.solver import solver_for
from grainet.plan.standing import Standing, StandingSet
from grainet.plan.wishes import Wish, serves, wishes_of
from grainet.wood.piece import Piece

LARGEST_TOTAL = 1e11  # the objective's scale keeps the integers well inside 64 bits


@dataclass(frozen=True)
class Budget:
    """Deterministic seconds for one search; ``wall_seconds`` only caps them."""

    deterministic: float
    seed: int = 0
    wall_seconds: float | None = None


@dataclass
class Choice:
    """What was chosen: candidate indices, sets made per part, recipes or ways per build, and the proven bound on value."""

    chosen: list[int]
    made: dict[str, int]
    options: list[Option]  # recipes, or the ways of components, of the builds that are made
    value: float
    bound: float
    capped: bool
    spent: float = 0.0  # deterministic seconds
    bundles: dict[tuple[str, str], list[tuple[str, int]]] = field(default_factory=dict)
    standing: dict[str, set[int]] = field(default_factory=dict)  # numbers of the standing sets that count, by part


class Selection:
    """The programme for one job; candidates by index, conflicts per piece. Extra cliques may be added between solves."""

    def __init__(
        self,
        job: Job,
        items: Sequence[Candidate],
        by_piece: Mapping[str, tuple[Sequence[int], Conflicts]],
        standing: Standing | None = None,
        measure: Measure | None = None,
        before: Sequence[int] = (),
    ) -> None:
        from ortools.sat.python import cp_model

        self.standing, self.measure, self.before = standing or Standing(job), measure, tuple(before)
        self._open: dict[str, Any] | None = None  # boards that are sawn into, once that matters

        self.cp = cp_model
        self.job, self.items = job, items
        self.model = cp_model.CpModel()
        self.take = [self.model.new_bool_var(f"c{k}") for k in range(len(items))]
        self.where: dict[tuple[str, str], list[int]] = defaultdict(list)
        for k, one in enumerate(items):
            self.where[one.part.id, one.piece].append(k)
        self.here: list[object] = []
        for members, found in by_piece.values():
            self._conflicts(members, found)
        self._areas(by_piece)
        self._pairs()
        self._hands()
        self.options = [option for build in job.builds for option in build.options]
        self.option = {o.key: self.model.new_bool_var("/".join(o.key)) for o in self.options}
        self.whole = {b.id: self.model.new_bool_var(f"{b.id} made") for b in job.builds if b.components}
        for build in job.builds:
            self.model.add_at_most_one(self.option[o.key] for o in build.options if not o.component)
            for component in build.components:  # made when each component is made by exactly one of its ways
                ways = [self.option[build.id, component.id, w.id] for w in component.ways]
                self.model.add(sum(ways) == self.whole[build.id])
        self.bundle: dict[tuple[tuple[str, str, str], str, str], object] = {}
        self.stays = {
            (s.part, s.number): self.model.new_bool_var(f"{s.part} {s.number} stays in use") for s in self.standing.sets if s.open
        }
        self.sets = {part.id: self._sets(part.id) for part in job.parts}
        self._wishes()
        self.scale, self.value = self._value()

    # constraints --------------------------------------------------------------------------------------------------
    def _conflicts(self, members: Sequence[int], found: Conflicts) -> None:
        for clique in found.cliques:
            self.model.add_at_most_one(self.take[members[k]] for k in clique)
        beside: dict[int, list[int]] = defaultdict(list)
        for a, b in found.pairs.tolist():
            beside[a].append(b)
        for a, others in beside.items():  # one row for all that a place excludes: a row for each pair takes a third of all memory
            self.model.add_bool_and(self.take[members[b]].negated() for b in others).only_enforce_if(self.take[members[a]])

    def _pairs(self) -> None:
        """The two copies of a pair are taken together or not at all."""
        pairs: dict[object, list[int]] = defaultdict(list)
        for k, one in enumerate(self.items):
            if one.pair is not None:
                pairs[one.part.id, one.piece, one.pair].append(k)
        for members in pairs.values():
            if len(members) == 2:
                self.model.add(self.take[members[0]] == self.take[members[1]])
            else:
                self.model.add(sum(self.take[k] for k in members) == 0)

    def _hands(self) -> None:
        """Both hands of a body that come from one board show the same face of it."""
        for part in self.job.parts:
            if part.hand != "left" or part.mate is None:
                continue
            for piece in self.job.pieces:
                both = [*self.where.get((part.id, piece.id), ()), *self.where.get((part.mate, piece.id), ())]
                first = self.model.new_bool_var(f"{part.id} and {part.mate} on face 1 of {piece.id}")
                for one in self.standing.footprints[piece.id]:
                    if one.part.id in (part.id, part.mate):
                        self.model.add(first == (one.orientation.face_up == "1"))
                for k in both:
                    self.model.add_implication(
                        self.take[k], first if self.items[k].orientation.face_up == "1" else first.negated()
                    )
                self.here.append(first)

    def _areas(self, by_piece: Mapping[str, tuple[Sequence[int], Conflicts]]) -> None:
        """Redundant: the footprints on a piece are not more than the piece. It helps the bound."""
        from grainet.design.shape import as_array

        for piece_id, (members, _) in by_piece.items():
            room = area(as_array(self.job.piece(piece_id).outline))
            self.model.add(sum(round(area(self.items[k].ring)) * self.take[k] for k in members) <= round(room) + len(members))

    def _sets(self, part_id: str) -> Any:
        """The number of sets of a part that the chosen footprints make; copies and same-piece rules held."""
        part, model = self.job.part(part_id), self.model
        old = self.standing.sets_of(part_id)
        pieces = [p.id for p in self.job.pieces if self.where.get((part_id, p.id)) or any(p.id in s.copies for s in old)]
        most = sum(sets_each(self.items[k].part) for p in pieces for k in self.where[part_id, p]) // part.per_set + len(old)
        if part.quantity is not None:
            most = min(most, part.quantity)
        sets = model.new_int_var(0, most, f"sets {part_id}")
        bundled = {p: self._bundles(part_id, p) for p in pieces}
        if self.job.builds:
            mixed = sum(o.needs.get(part_id, 0) * self.option[o.key] for o in self.options if part_id not in o.same_piece)
            self._one_piece_each(part_id, pieces)
            model.add(sets == mixed + sum(bundled.values()))
        copies = {p: self._copies(part_id, p, old) for p in pieces}
        self._standing(part_id, sets, old)
        if part.same_piece:
            for p in pieces:
                here = model.new_int_var(0, most, f"sets {part_id} on {p}")
                model.add(copies[p] == part.per_set * here)
                model.add(here >= bundled[p])
                self.here.append(here)
        else:
            for p in pieces:
                model.add(copies[p] >= part.per_set * bundled[p])
        model.add(sum(copies.values()) == part.per_set * sets)
        return sets

    def _copies(self, part_id: str, piece_id: str, old: Sequence[StandingSet]) -> Any:
        """Copies of a part from one piece: of the new places, and of the standing sets that stay in use."""
        new = sum(sets_each(self.items[k].part) * self.take[k] for k in self.where[part_id, piece_id])
        return new + sum(s.copies[piece_id] * self.stays[s.part, s.number] for s in old if piece_id in s.copies)

    def _standing(self, part_id: str, sets: Any, old: Sequence[StandingSet]) -> None:
        """Each standing set in use is a set of its own, for its own build; whole ones come before any that is cut anew."""
        part, model = self.job.part(part_id), self.model
        model.add(sets >= sum(self.stays[s.part, s.number] for s in old))
        if not self.job.builds:
            whole = [self.stays[s.part, s.number] for s in old if s.whole]
            enough = len(whole) if part.quantity is None else min(len(whole), part.quantity)
            model.add(sum(whole) >= enough)
            return
        for build in {s.build for s in old}:
            mine = [self.stays[s.part, s.number] for s in old if s.build == build]
            whole = [self.stays[s.part, s.number] for s in old if s.build == build and s.whole]
            wanting = [o for o in self.options if o.build == build and o.needs.get(part_id)]
            model.add(sum(mine) <= sum(o.needs[part_id] * self.option[o.key] for o in wanting))
            for option in wanting:
                model.add(sum(whole) >= min(len(whole), option.needs[part_id]) * self.option[option.key])

    def _wishes(self) -> None:
        """Where a part is made at all, at least one copy keeps each flaw and shows each figure that is wished for."""
        pieces = {p.id: p for p in self.job.pieces}
        for part in self.job.parts:
            for wish in wishes_of(part):
                rows = self.where.get((part.id, wish.piece), ())
                good = [k for k in rows if self._serves(wish, self.items[k], pieces)]
                there = any(self._serves(wish, c, pieces) for c in self.standing.footprints[wish.piece] if c.part.id == part.id)
                if not there:
                    made = self.model.new_bool_var(f"{part.id} made")
                    self.model.add(self.sets[part.id] == 0).only_enforce_if(made.negated())
                    self.model.add(sum(self.take[k] for k in good) >= 1).only_enforce_if(made)
                    self.here.append(made)

    @staticmethod
    def _serves(wish: Wish, one: Candidate, pieces: Mapping[str, Piece]) -> bool:
        return serves(wish, pieces[one.piece], one.orientation, one.seat.x, one.seat.y)

    def _bundles(self, part_id: str, piece_id: str) -> Any:
        """Sets of a part that recipes want from this one piece."""
        wanted = []
        for option in self.options:
            if part_id in option.same_piece:
                var = self.model.new_bool_var(f"{'/'.join(option.key)}/{part_id}@{piece_id}")
                self.bundle[option.key, part_id, piece_id] = var
                wanted.append(option.needs[part_id] * var)
        return sum(wanted)

    def _one_piece_each(self, part_id: str, pieces: Sequence[str]) -> None:
        for option in self.options:
            if part_id in option.same_piece:
                here = [self.bundle[option.key, part_id, p] for p in pieces]
                self.model.add(sum(here) == self.option[option.key])  # type: ignore[arg-type]
                for old in (s for s in self.standing.sets_of(part_id) if s.build == option.build):
                    there = [self.bundle[option.key, part_id, p] for p in old.copies if p in pieces]
                    used = self.stays[old.part, old.number]
                    self.model.add(sum(there) == 1).only_enforce_if(used, self.option[option.key])  # type: ignore[arg-type]

    def _value(self) -> Any:
        terms = self._terms()
        if self.job.builds:
            most = sum(b.most_worth for b in self.job.builds)
        else:
            most = sum(part.value * max(1, len(self.items)) for part in self.job.parts)
        scale = 1.0
        while scale < 1e6 and most * scale * 10 < LARGEST_TOTAL:
            scale *= 10
        return scale, sum(round(v * scale) * var for v, var in terms)

    def _terms(self) -> list[tuple[float, Any]]:
        """(worth, variable): of builds and what is chosen for them, else of sets. Where there is an objective, ways come after it."""
        if self.job.builds:
            made = [(b.value, self.whole[b.id]) for b in self.job.builds if b.components]
            counted = [o for o in self.options if self.job.objective is None or not o.component]
            return [*((o.value, self.option[o.key]) for o in counted), *made]
        return [(part.value, self.sets[part.id]) for part in self.job.parts]

    def forbid_together(self, groups: Iterable[Sequence[Sequence[int]]]) -> None:
        """Not one of each kin of a group at once; kin stand in one another's place, so that at most one of a kin is taken."""
        for group in groups:
            self.model.add(sum(self.take[k] for kin in group for k in kin) <= len(group) - 1)

    # solving ------------------------------------------------------------------------------------------------------
    def solve(self, budget: Budget, hint: Sequence[int] | None, tell: Callable[[float, float], None]) -> Choice:
        """The choice of most value that the budget finds; at the least the best of the hinted candidates."""
        cp = self.cp
        start = self._hint(hint)
        self.model.maximize(self.value)
        solver = self._solver(budget)
        status = solver.solve(self.model, _Told(cp, tell, self.scale))
        capped = status != cp.OPTIMAL and budget.wall_seconds is not None and solver.wall_time >= budget.wall_seconds
        if status not in (cp.OPTIMAL, cp.FEASIBLE):
            assert start is not None or status == cp.UNKNOWN
            return self._choice(start or self._only([]), self._trivial_bound(), capped=capped, searched=solver)
        bound = solver.best_objective_bound / self.scale + self._ways_after
        return self._choice(solver, bound, capped=capped, searched=solver)

    @property
    def _ways_after(self) -> float:
        """The most that the ways may be worth beside what was searched for."""
        if self.job.objective is None:
            return 0.0
        return sum(max(w.value for w in c.ways) for b in self.job.builds for c in b.components)

    def differ_from(self, choice: Choice) -> None:
        """From now on at least one board or one way is another than in a choice."""
        if self._open is None:
            self._open = {}
            members: dict[str, list[Any]] = defaultdict(list)
            for k, one in enumerate(self.items):
                members[one.piece].append(self.take[k])
            for piece, takes in members.items():
                var = self.model.new_bool_var(f"{piece} is sawn into")
                self.model.add_max_equality(var, takes)
                self._open[piece] = var
                self.here.append(var)
        boards = {self.items[k].piece for k in choice.chosen}
        others = [var.negated() if piece in boards else var for piece, var in self._open.items()]
        self.model.add_bool_or([*others, *(self.option[o.key].negated() for o in choice.options)])

    def tidy(self, choice: Choice, dislike: Sequence[int], spread: Sequence[int], budget: Budget) -> Choice:
        """At the same value, the least dislike of the places taken and of the pieces opened (both in square centimetres)."""
        solver = self._tidy(self._searched_for(choice), choice.chosen, dislike, spread, budget)
        return choice if solver is None else self._choice(solver, choice.bound, capped=choice.capped)

    def _searched_for(self, choice: Choice) -> int:
        """What a choice has of what was searched for."""
        left = 0.0 if self.job.objective is None else sum(o.value for o in choice.options if o.component)
        return int(round((choice.value - left) * self.scale))

    def best_of(self, some: Sequence[int]) -> Choice:
        """The best choice among a few candidates alone."""
        self.model.maximize(self.value)
        return self._choice(self._only(some), 0.0, capped=False)

    def _only(self, hint: Sequence[int]) -> Any:
        """The best choice among the hinted candidates alone: small, quickly whole, and a start for all variables."""
        model = self.model.clone()
        wanted = set(hint)
        for k, var in enumerate(self.take):
            if k not in wanted:
                model.add(model.get_bool_var_from_proto_index(var.index) == 0)
        solver = self.cp.CpSolver()
        solver.parameters.max_deterministic_time = 2.0
        solver.parameters.num_workers = 1
        status = solver.solve(model)
        assert status in (self.cp.OPTIMAL, self.cp.FEASIBLE), "taking nothing is always feasible"
        return solver

    def _hint(self, hint: Sequence[int] | None) -> Any:
        """Start from the best of the hinted candidates, every variable given."""
        self.model.clear_hints()  # type: ignore[no-untyped-call]
        if hint is None:
            return None
        self.model.maximize(self.value)
        start = self._only(hint)
        for var in self._all_variables():
            self.model.add_hint(var, start.value(var))
        return start

    def _all_variables(self) -> Any:
        return [
            *self.take,
            *self.option.values(),
            *self.whole.values(),
            *self.bundle.values(),
            *self.sets.values(),
            *self.stays.values(),
            *self.here,
        ]

    def _tidy(self, best: int, first: Sequence[int], dislike: Sequence[int], spread: Sequence[int], budget: Budget) -> Any:
        model = self.model.clone()
        take = [model.get_bool_var_from_proto_index(v.index) for v in self.take]
        model.add(self._clone_value(model) >= best)
        opened = []
        by_piece: dict[str, list[int]] = defaultdict(list)
        for k, one in enumerate(self.items):
            by_piece[one.piece].append(k)
        for piece_id, members in by_piece.items():
            var = model.new_bool_var(f"open {piece_id}")
            for k in members:
                model.add_implication(take[k], var)
            opened.append(var)
        order = list(by_piece)
        cost = {p.id: spread[i] for i, p in enumerate(self.job.pieces)}
        wanted = set(first)
        solver = self._staying(model, take, wanted) if self.before else None
        model.clear_hints()  # type: ignore[no-untyped-call]
        for k, var in enumerate(take):
            model.add_hint(var, solver.boolean_value(var) if solver is not None else k in wanted)
        spoiled = sum(dislike[k] * take[k] for k in range(len(take))) + sum(cost[p] * var for p, var in zip(order, opened))
        for aim in [
            *self._aims(model, take, dict(zip(order, opened))),
            spoiled,
        ]:  # one after the other, none at the cost of another
            model.minimize(aim)
            tried = self._solver(budget)
            if tried.solve(model) not in (self.cp.OPTIMAL, self.cp.FEASIBLE):
                break
            solver = tried
            if not isinstance(aim, int):
                model.add(aim <= round(tried.objective_value))
            model.clear_hints()  # type: ignore[no-untyped-call]
            for var in (*take, *opened):
                model.add_hint(var, tried.boolean_value(var))
        return solver

    def _staying(self, model: Any, take: Sequence[Any], chosen: set[int]) -> Any:
        """Of what is chosen and of what an earlier plan had, as much as can be where it had it, at the same value: a small question, so
        that a plan with no time left is still not laid elsewhere for nothing."""
        small = model.clone()
        few = chosen | set(self.before)
        for k, var in enumerate(take):
            if k not in few:
                small.add(small.get_bool_var_from_proto_index(var.index) == 0)
        small.minimize(-sum(small.get_bool_var_from_proto_index(take[k].index) for k in self.before))
        solver = self.cp.CpSolver()
        solver.parameters.max_deterministic_time = 0.5
        solver.parameters.num_workers = 1
        return solver if solver.solve(small) in (self.cp.OPTIMAL, self.cp.FEASIBLE) else None

    def _aims(self, model: Any, take: Sequence[Any], opened: Mapping[str, Any]) -> Any:
        """What comes before the wood that is spoiled: where the job has an objective its measure, then what the ways are worth; then that as
        many parts as can stay where an earlier plan had them."""
        measure = self.measure
        stay = [-sum(take[k] for k in self.before)] if self.before else []
        if measure is None:
            return stay
        twins = {key: model.get_bool_var_from_proto_index(var.index) for key, var in self.option.items()}
        first = (
            sum(measure.places[k] * take[k] for k in range(len(take)))
            + sum(measure.pieces.get(p, 0) * var for p, var in opened.items())
            + sum(measure.ways.get(key, 0) * var for key, var in twins.items())
        )
        ways = -sum(round(o.value * self.scale) * twins[o.key] for o in self.options if o.component)
        return [aim for aim in (first, ways, *stay) if not isinstance(aim, int)]

    def _clone_value(self, model: Any) -> Any:
        def twin(var: Any) -> Any:
            return model.get_int_var_from_proto_index(var.index)

        return sum(round(value * self.scale) * twin(var) for value, var in self._terms())

    def _solver(self, budget: Budget) -> Any:
        return solver_for(budget.deterministic, budget.seed, budget.wall_seconds)

    def _trivial_bound(self) -> float:
        if self.job.builds:
            return sum(b.most_worth for b in self.job.builds)
        return sum(p.value * len(self.items) for p in self.job.parts)

    def _choice(self, solver: Any, bound: float, *, capped: bool, searched: Any = None) -> Choice:
        chosen = [k for k, var in enumerate(self.take) if solver.boolean_value(var)]
        made = {p: int(solver.value(v)) for p, v in self.sets.items()}
        options = [o for o in self.options if solver.boolean_value(self.option[o.key])]
        bundles: dict[tuple[str, str], list[tuple[str, int]]] = defaultdict(list)
        for option in options:
            for part in option.same_piece:
                for piece in (p.id for p in self.job.pieces if (option.key, part, p.id) in self.bundle):
                    if solver.boolean_value(self.bundle[option.key, part, piece]):
                        bundles[part, piece].append((option.build, option.needs[part]))
        standing: dict[str, set[int]] = defaultdict(set)
        for (part, number), var in self.stays.items():
            if solver.boolean_value(var):
                standing[part].add(number)
        value = worth(self.job, options, made)
        spent = searched.response_proto.deterministic_time if searched is not None else 0.0
        return Choice(chosen, made, options, value, max(bound, value), capped, spent, dict(bundles), dict(standing))


def worth(job: Job, options: Sequence[Option], made: Mapping[str, int]) -> float:
    """What a choice is worth: its recipes; of builds in components the build itself and the ways; without builds the sets."""
    if not job.builds:
        return float(sum(p.value * made[p.id] for p in job.parts))
    whole = {o.build for o in options if o.component}
    return float(sum(o.value for o in options) + sum(b.value for b in job.builds if b.id in whole))


def _Told(cp: Any, tell: Callable[[float, float], None], scale: float) -> Any:
    class Told(cp.CpSolverSolutionCallback):  # type: ignore[misc]
        def on_solution_callback(self) -> None:
            tell(self.objective_value / scale, self.best_objective_bound / scale)

    return Told()


def smallest_bad(group: Sequence[int], is_bad: Callable[[Sequence[int]], bool]) -> list[int]:
    """A subset of a bad group that is bad and of which no member can be spared."""
    for pair in combinations(group, 3):
        if is_bad(pair):
            return list(pair)
    kept = list(group)
    for one in group:
        fewer = [k for k in kept if k != one]
        if len(fewer) > 1 and is_bad(fewer):
            kept = fewer
    return kept
