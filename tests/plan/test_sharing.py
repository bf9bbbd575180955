"""Boards shared out among builds: the programme is as good as trying everything, what comes of it holds, is never worse and is the same again."""

import itertools
import unittest
from collections import Counter
from dataclasses import replace

import numpy as np

from grainet.fit.board_geometry import BoardGeometry
from grainet.fit.field import Layers
from grainet.plan.by_shares import SharingOut, _so_many_of, exchanged_and_shared
from grainet.plan.conflicts import conflicts
from grainet.plan.greedy import greedy_plan, wanted_for, worth_of
from grainet.plan.hardness import Hardness, no_harder
from grainet.plan.sharing import Holding, Sharing
from grainet.plan.squeezing import Squeezer, all_of
from tests.jobs import SAW, part, piece
from tests.plan.test_by_turns import scarce
from tests.plan.test_version_two import job as job_of


def job(pieces, parts, kit, builds=()):
    return job_of(parts, builds, pieces, **kit)


SIZES = (100, 140, 180, 220)


def little(r, builds=3):
    """Builds of one or two parts out of four sizes, of one board or of any."""
    parts = [part(f"p{size}", size, 60) for size in SIZES]
    wanted = []
    for k in range(builds):
        names = sorted({f"p{s}" for s in r.choice(SIZES, 2)})
        needs = {name: int(r.integers(1, 3)) for name in names}
        value = float(r.integers(10, 30))
        wanted.append({"id": f"b{k}", "recipes": [
            {"id": "one", "value": value + 5, "needs": needs, "same_piece": names[:1]}, {"id": "two", "value": value, "needs": needs},
        ]})  # fmt: skip
    return job([piece("A"), piece("B")], parts, SAW, wanted)


def best_by_trying(asked, hardness, holdings):
    """What is worth most of all ways to make the builds, whatever each board holds of what it may."""
    best = 0.0
    for held in itertools.product(*holdings.values()):
        for options in itertools.product(*((None, *b.options) for b in asked.builds)):
            value = sum(o.value for o in options if o is not None)
            lots = [row for o in options if o is not None for row in wanted_for(asked, o)]
            if value > best and goes(hardness, dict(zip(holdings, held)), lots):
                best = value
    return best


def goes(hardness, held, lots):
    """Whether lots can be dealt out so that no board gets more than it holds."""
    copies = []
    for one, count, together in lots:
        copies += [[one] * count] if together else [[one]] * count
    for boards in itertools.product(held, repeat=len(copies)):
        on = {board: [p for where, lot in zip(boards, copies) if where == board for p in lot] for board in held}
        if all(no_harder(hardness.of(on[board]), held[board].load) for board in held):
            return True
    return False


class TheProgramme(unittest.TestCase):
    def test_it_comes_to_what_trying_everything_comes_to(self):
        some = 0
        for seed in range(14):
            r = np.random.default_rng(seed)
            asked = little(r, 2)
            hardness = Hardness(asked.parts)

            def load(r=r, hardness=hardness, asked=asked):
                return hardness.of([asked.part(f"p{s}") for s in r.choice(SIZES, int(r.integers(1, 4)))])

            holdings = {board: [Holding(load(), tried=True) for _ in range(2)] for board in "AB"}
            anywhere = frozenset((p.id, board) for p in asked.parts for board in "AB")
            found = Sharing(asked, hardness, holdings, anywhere, 0.0).solved(5.0, 0)
            best = best_by_trying(asked, hardness, holdings)
            some += best > 0
            self.assertEqual(0.0 if found is None else found.value, best, seed)
            if found is None:
                continue
            for board, ids in found.parts.items():
                there = hardness.of(asked.part(name) for name in ids)
                self.assertTrue(any(no_harder(there, one.load) for one in holdings[board]), (seed, board))
            nothing_more = Sharing(asked, hardness, holdings, anywhere, best).solved(5.0, 0)
            self.assertIsNone(nothing_more, seed)
        self.assertGreater(some, 8)

    def test_a_part_that_may_not_lie_there_is_not_laid_there(self):
        asked = job([piece("A"), piece("B")], [part("p", 100, 60)], SAW, [
            {"id": "b", "recipes": [{"id": "r", "value": 7, "needs": {"p": 2}}]},
        ])  # fmt: skip
        hardness = Hardness(asked.parts)
        both = {board: [Holding(hardness.of([asked.part("p")] * 2), tried=True)] for board in "AB"}
        found = Sharing(asked, hardness, both, frozenset({("p", "B")}), 0.0).solved(5.0, 0)
        self.assertEqual(found.parts, {"B": ("p", "p")})
        self.assertIsNone(Sharing(asked, hardness, both, frozenset(), 0.0).solved(5.0, 0))

    def test_components_are_all_made_or_none(self):
        asked = job([piece("A")], [part("p", 100, 60), part("q", 300, 60)], SAW, [
            {"id": "b", "value": 9, "components": [
                {"id": "c", "ways": [{"id": "w", "value": 1, "needs": {"p": 1}}]},
                {"id": "d", "ways": [{"id": "w", "value": 0, "needs": {"q": 1}}, {"id": "none", "value": 0, "needs": {"p": 2}}]},
            ]},
        ])  # fmt: skip
        hardness = Hardness(asked.parts)
        anywhere = frozenset({("p", "A"), ("q", "A")})
        p, q = asked.part("p"), asked.part("q")
        for there, value in (([p], None), ([p, q], 10.0), ([p, p, p], 10.0)):
            holdings = {"A": [Holding(hardness.of(there), tried=True)]}
            found = Sharing(asked, hardness, holdings, anywhere, 0.0).solved(5.0, 0)
            self.assertEqual(None if found is None else found.value, value, there)


class OnARack(unittest.TestCase):
    def setUp(self):
        self.asked = scarce(6, 6, 6)
        self.sheets = {p.id: BoardGeometry(p, self.asked.kit) for p in self.asked.pieces}

    def shared(self, budget=2.0, seed=0):
        squeezer = Squeezer(self.asked, {p: Layers(s, guard=0.0) for p, s in self.sheets.items()}, 20_000, seed)
        laid = dict.fromkeys(self.sheets, ())
        for one in greedy_plan(self.asked, self.sheets):
            laid[one.piece] += (one,)
        most = sum(b.most_worth for b in self.asked.builds)
        return laid, SharingOut(squeezer, [laid], budget).improved(laid, most, budget)

    def worth(self, laid):
        return worth_of(self.asked, all_of(laid))

    def test_more_comes_of_it_and_nothing_overlaps(self):
        laid, found = self.shared()
        self.assertGreater(self.worth(found), self.worth(laid))
        for board, row in found.items():
            self.assertTrue(all(one.piece == board for one in row))
            told = conflicts(row, self.asked.kit)
            self.assertEqual((list(told.cliques), len(told.pairs)), ([], 0), board)

    def test_the_same_seed_gives_the_same(self):
        first, second = (self.shared(seed=4)[1] for _ in range(2))
        self.assertEqual(*({b: [one.key for one in row] for b, row in found.items()} for found in (first, second)))

    def test_without_a_budget_all_stays(self):
        laid, found = self.shared(budget=0.0)
        self.assertIs(found, laid)

    def test_parts_of_what_is_known_are_counted_out_with_pairs_whole(self):
        found = self.shared()[1]
        one = next(row for row in found.values() if row)[0]
        first, second = ([replace(one, pair=(n,)) for _ in range(2)] for n in range(2))
        name = one.part.id
        self.assertEqual(_so_many_of([*first, *second, one], Counter({name: 2})), tuple(first))
        self.assertEqual(_so_many_of([*first, *second, one], Counter({name: 5})), (*first, *second, one))
        self.assertIsNone(_so_many_of([*first, *second], Counter({name: 3})))


class FromWhatLies(unittest.TestCase):
    """What is made of a few footprints that lie, where nobody else has a say."""

    def improved(self, made, lies, budget=2.0):
        sheets = {p.id: BoardGeometry(p, made.kit) for p in made.pieces}
        laid = dict.fromkeys(sheets, ())
        for one in greedy_plan(made, sheets):
            if lies(one):
                laid[one.piece] += (one,)
        squeezer = Squeezer(made, {p: Layers(s, guard=0.0) for p, s in sheets.items()}, 20_000)
        most = sum(b.most_worth for b in made.builds)
        found = SharingOut(squeezer, [laid], budget).improved(laid, most, budget)
        return [worth_of(made, all_of(row)) for row in (laid, found)], laid, found

    def test_halves_come_from_two_boards_where_one_has_no_room_for_both(self):
        halves = [part(f"h{k}", 300, 90, 20) for k in range(2)]
        builds = [
            {"id": f"b{k}", "recipes": [
                {"id": "one", "value": 120, "needs": {f"h{k}": 2}, "same_piece": [f"h{k}"]}, {"id": "two", "value": 100, "needs": {f"h{k}": 2}},
            ]} for k in range(2)
        ]  # fmt: skip
        made = job([piece("A", 320, 200, 22), piece("B", 320, 100, 22), piece("C", 320, 100, 22)], halves, SAW, builds)
        worth, _, found = self.improved(made, lambda one: one.piece == "A")
        self.assertEqual(worth, [120, 220])
        self.assertEqual({board: len(row) for board, row in found.items()}, {"A": 2, "B": 1, "C": 1})

    def test_a_folded_pair_stays_where_it_lies_and_the_rest_is_shared_out_round_it(self):
        fold = part("f", 300, 90, 20, per_set=2, fold=True, same_piece=True, mirror=True, joint_edge=[[0, 0], [300, 0]])
        made = job([piece("A", 320, 200, 22), piece("B", 520, 130, 22)], [fold, part("n", 500, 60, 20)], SAW, [
            {"id": "one", "recipes": [{"id": "r", "value": 20, "needs": {"f": 1, "n": 1}}]},
            {"id": "two", "recipes": [{"id": "r", "value": 5, "needs": {"n": 1}}]},
        ])  # fmt: skip
        worth, laid, found = self.improved(made, lambda one: one.part.id == "f")
        self.assertEqual(worth, [0, 25])
        self.assertEqual([one.key for one in found["A"]], [one.key for one in laid["A"]])
        self.assertEqual([one.part.id for one in found["B"]], ["n", "n"])

    def test_what_no_board_holds_is_not_made(self):
        made = job([piece("A", 320, 100, 22)], [part("h", 300, 90, 20)], SAW, [
            {"id": "b", "recipes": [{"id": "r", "value": 3, "needs": {"h": 2}}]},
        ])  # fmt: skip
        worth, laid, found = self.improved(made, lambda _one: True)
        self.assertEqual(worth, [0, 0])
        self.assertIs(found, laid)


class ByTurns(unittest.TestCase):
    def test_it_says_what_it_comes_to_and_ends_where_that_is_enough_or_it_is_stopped(self):
        asked = scarce(6, 6, 6)
        layers = {p.id: Layers(BoardGeometry(p, asked.kit), guard=0.0) for p in asked.pieces}
        nothing, heard = dict.fromkeys(layers, ()), []
        found = exchanged_and_shared(Squeezer(asked, layers, 6_000), [nothing], 500.0, heard=heard.append)
        self.assertGreaterEqual(worth_of(asked, all_of(found)), 500)
        self.assertEqual((heard[0], sorted(heard)), (0, heard))
        stopped = Squeezer(asked, layers, 6_000, stop=lambda: True)
        self.assertIs(exchanged_and_shared(stopped, [nothing], 500.0), nothing)


if __name__ == "__main__":
    unittest.main()
