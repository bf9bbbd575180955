"""Which board is to hold which parts, so that the builds made of them are worth most: chosen among what each board is known to hold, and what
it might.

A small programme, for it knows nothing of places. What a board holds is told by the families and ranks of its parts (hardness.py): where a
larger part lies, so does a smaller of its family.
"""

from __future__ import annotations

from bisect import bisect_right
from collections import Counter, defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from operator import neg
from typing import Any

from grainet.design.part import Part
from grainet.design.recipe import Option
from grainet.job.job import Job
from grainet.plan.greedy import wanted_for
from grainet.plan.hardness import Hardness, Load
from grainet.plan.solver import solver_for

UNITS = 10_000  # that a build is worth on the mean: the programme reckons in whole ones
CLOSE_ENOUGH = 0.02  # of the best that could be, within which an answer will do


@dataclass(frozen=True)
class Holding:
    """What a board holds, or might hold where that was not tried."""

    load: Load
    tried: bool


@dataclass(frozen=True)
class Shares:
    """The ids of the parts on each board, what the builds made of them are worth, and the boards that would hold what was not tried."""

    value: float
    parts: Mapping[str, tuple[str, ...]]
    untried: tuple[str, ...]


class Sharing:
    """One programme over the builds of a job: which are made, what each board holds, which parts lie there."""

    def __init__(
        self, job: Job, hardness: Hardness, holdings: Mapping[str, Sequence[Holding]], may_lie: frozenset[tuple[str, str]],
        above: float, doubt: float = 0.0, most_untried: int = 0,
    ) -> None:  # fmt: skip
        """``may_lie``: part and board; ``above``: what the builds are to be worth more than; ``doubt``: of a build's worth, that a load is liked less
        for not having been tried; ``most_untried``: boards. A job without builds has nothing to share."""
        from ortools.sat.python import cp_model

        self.cp, self.model = cp_model, cp_model.CpModel()
        self.job, self.rank, self.may_lie = job, hardness.rank, may_lie
        self.ranks_there: dict[str, set[tuple[int, int]]] = defaultdict(set)
        for name, board in may_lie:
            self.ranks_there[board].add(self.rank[name])
        self.scale = UNITS * len(job.builds) / max(1e-9, sum(b.most_worth for b in job.builds))
        self.spent = 0.0  # deterministic seconds
        self.options = [o for b in job.builds for o in b.options]
        self.made = {o.key: self.model.new_bool_var("") for o in self.options}
        worth = self._worth()
        self.holds = {board: [(one, self.model.new_bool_var("")) for one in rows] for board, rows in holdings.items() if rows}
        for row in self.holds.values():
            self.model.add_at_most_one(var for _, var in row)
        untried = [var for row in self.holds.values() for one, var in row if not one.tried]
        self.model.add(sum(untried) <= most_untried)
        self.room: dict[tuple[str, tuple[int, int]], int] = {}
        self.taken: dict[tuple[str, int], list[tuple[int, int, Any]]] = defaultdict(list)  # board, family: rank, copies, lots
        self.lots: list[tuple[Option, Part, int, str, Any]] = []
        self.loose: list[tuple[tuple[int, int], str, Any]] = []
        self._share()
        self._keep_within()
        # each build's worth is rounded to a whole unit
        self.model.add(worth >= int(above * self.scale) + len(job.builds) + 1)
        laid = sum(var for *_, var in self.lots) + sum(var for *_, var in self.loose)
        self.model.maximize(worth - int(doubt * UNITS) * sum(untried) - laid)

    def _worth(self) -> Any:
        """What all builds that are made are worth, in units."""
        terms = [round(o.value * self.scale) * self.made[o.key] for o in self.options]
        for build in self.job.builds:
            self.model.add_at_most_one(self.made[o.key] for o in build.options if not o.component)
            if build.components:
                whole = self.model.new_bool_var("")
                terms.append(round(build.value * self.scale) * whole)
                for component in build.components:
                    self.model.add(sum(self.made[build.id, component.id, way.id] for way in component.ways) == whole)
        return sum(terms)

    def _share(self) -> None:
        """Parts that must come from one board lie there together; all others wherever there is room for their rank."""
        loose: dict[tuple[int, int], list[Any]] = defaultdict(list)
        for option in self.options:
            wanted = Counter((part.id, count, together and count > 1) for part, count, together in wanted_for(self.job, option))
            for (name, count, together), times in wanted.items():
                part = self.job.part(name)
                if together:
                    self._share_lots(option, part, count, times)
                else:
                    loose[self.rank[name]].append(count * times * self.made[option.key])
        for rank, terms in loose.items():
            rows = [(board, self._taking(board, rank, 1)) for board in self.holds if rank in self.ranks_there[board]]
            self.loose += [(rank, board, var) for board, var in rows if var is not None]
            self.model.add(sum(var for _, var in rows if var is not None) >= sum(terms))

    def _share_lots(self, option: Option, part: Part, count: int, times: int) -> None:
        boards = [board for board in self.holds if (part.id, board) in self.may_lie]
        rows = [(board, var) for board in boards if (var := self._taking(board, self.rank[part.id], count)) is not None]
        self.lots += [(option, part, count, board, var) for board, var in rows]
        self.model.add(sum(var for _, var in rows) >= times * self.made[option.key])

    def _taking(self, board: str, rank: tuple[int, int], copies: int) -> Any:
        """How many lots of so many copies lie on a board; None where nothing that it may hold has room for one."""
        most = self._most(board, rank) // copies
        if not most:
            return None
        var = self.model.new_int_var(0, most, "")
        self.taken[board, rank[0]].append((rank[1], copies, var))
        return var

    def _most(self, board: str, rank: tuple[int, int]) -> int:
        """How many parts of a rank at most lie on a board, whatever it holds."""
        if (board, rank) not in self.room:
            self.room[board, rank] = max(_at_least(one.load, *rank) for one, _ in self.holds[board])
        return self.room[board, rank]

    def _keep_within(self) -> None:
        """Of each size and larger no more parts lie on a board than what it holds has of them."""
        for (board, family), rows in self.taken.items():
            for least in {rank for rank, _, _ in rows}:
                there = [(var, copies) for rank, copies, var in rows if rank >= least]
                room = [(var, -count) for one, var in self.holds[board] if (count := _at_least(one.load, family, least))]
                variables, factors = zip(*there, *room)
                self.model.add(self.cp.LinearExpr.weighted_sum(variables, factors) <= 0)

    # the answer ---------------------------------------------------------------------------------------------------
    def solved(self, deterministic: float, seed: int) -> Shares | None:
        """The best shares found; None where none is worth more than was asked for, or none was found so soon."""
        solver = solver_for(deterministic, seed)
        solver.parameters.relative_gap_limit = CLOSE_ENOUGH
        status = solver.solve(self.model)
        self.spent = solver.response_proto.deterministic_time
        return self._told(solver) if status in (self.cp.OPTIMAL, self.cp.FEASIBLE) else None

    def _told(self, solver: Any) -> Shares:
        made = [o for o in self.options if solver.boolean_value(self.made[o.key])]
        whole = {o.build for o in made if o.component}
        value = sum(o.value for o in made) + sum(b.value for b in self.job.builds if b.id in whole)
        parts: dict[str, list[str]] = defaultdict(list)
        wanted: dict[tuple[int, int], list[str]] = defaultdict(list)
        for option in made:
            for part, count, together in wanted_for(self.job, option):
                if not (together and count > 1):
                    wanted[self.rank[part.id]] += [part.id] * count
        chosen = {o.key for o in made}
        for option, part, count, board, var in self.lots:
            if option.key in chosen:
                parts[board] += [part.id] * count * solver.value(var)
        for rank, board, var in self.loose:
            taken, wanted[rank] = wanted[rank][: solver.value(var)], wanted[rank][solver.value(var) :]
            parts[board] += taken
        untried = [b for b, row in self.holds.items() if any(not one.tried and solver.boolean_value(var) for one, var in row)]
        return Shares(value, {b: tuple(sorted(row)) for b, row in parts.items() if row}, tuple(b for b in untried if parts[b]))


def _at_least(load: Load, family: int, rank: int) -> int:
    """How many parts of a family a load has that are at least so large."""
    return bisect_right(load.get(family, ()), -rank, key=neg)
