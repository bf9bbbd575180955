"""Surprises in the middle of sawing: what is cut stays, the rest is planned again, what cannot be made any more is named; never a dead end."""

import tempfile
import unittest
from pathlib import Path

from shapely.geometry import Polygon

from grainet.demo.make import make_demo
from grainet.plan.planner import plan_job
from grainet.plan.verify import check
from grainet.present.plan_view import summary
from grainet.present.stations import station_lines
from grainet.session import surprise
from grainet.session.sawing import board_steps, holds, tick
from grainet.session.shop import Shop
from grainet.wood.defects import Defect
from grainet.wood.value import BadEntry
from grainet.work.going_on import going_on, next_cut
from tests.jobs import planned, quick_plan
from tests.pace import within


def elsewhere(cut, by):
    """Where a cut is said to be that went so far up or along: as its first mark is measured."""
    return cut.marks[0].mm + (-by if cut.marks[0].from_.startswith("far") else by)


class Case(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.kept = tempfile.TemporaryDirectory()
        cls.addClassCleanup(cls.kept.cleanup)
        with make_demo(Path(cls.kept.name) / "D.grainet") as shop:
            design = next(d for d in shop.designs() if d.id == "plover")
            job = shop.jobs.job_for([design])
            shop.plans.accept(design, job, planned(job))

    def setUp(self):
        import shutil

        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        shutil.copytree(Path(self.kept.name) / "D.grainet", Path(scratch.name) / "D.grainet")
        self.shop = Shop.open(Path(scratch.name) / "D.grainet")
        self.addCleanup(self.shop.close)
        self.design = next(d for d in self.shop.designs() if d.id == "plover")
        self.board = max(self.now.boards, key=lambda b: len(self.now.cuts_of(b)))

    @property
    def now(self):
        return self.shop.plans.accepted_for("plover")

    def saw(self, count, board=None):
        board = board or self.board
        for step in board_steps(self.shop, self.now, board):
            if count and not self.now.done(step.cut):
                tick(self.shop, self.now, board, step, agreed=True)
                count -= 1

    def plan_the_rest(self, quick=True):
        job = surprise.job_for_the_rest(self.shop, self.design)
        self.assertEqual(list(job.faults()), [])
        plan = quick_plan(job) if quick else plan_job(job, seconds=within(4))
        self.assertEqual(check(job, plan), [])
        return job, plan

    def saw_to_the_end(self):
        for board in self.now.boards:
            if board not in self.now.returned:
                self.saw(99, board)


class WhatStays(Case):
    def test_nothing_sawn_and_nothing_lost_is_a_plan_like_any_other(self):
        self.assertIsNone(going_on(self.now))
        self.assertEqual(
            (surprise.surprise_of(self.shop, self.now), surprise.job_for_the_rest(self.shop, self.design).cut), ("", ())
        )

    def test_a_part_that_is_free_stays_and_one_that_is_not_may_lie_elsewhere(self):
        self.saw(2)
        going = going_on(self.now)
        self.assertEqual((len(going.cut), len(going.pins)), (2, 1))
        self.assertEqual({p.key for p in (*going.pins, *going.hints)}, {p.key for p in self.now.plan.placements})


class ACutThatWentElsewhere(Case):
    def test_what_is_cut_stays_the_rest_is_planned_again_and_sawn_to_the_end(self):
        self.saw(3)
        before = self.now
        cut = next_cut(before, self.board)
        said = surprise.cut_went(self.shop, self.board, elsewhere(cut, 15))
        self.assertRegex(said, "one part is lost; what is cut stays")
        self.assertIn("lost", surprise.surprise_of(self.shop, self.now))
        line = station_lines(self.shop, None, "plover", planned=False, waiting=0)["lay_out"]
        self.assertEqual((line.text.endswith("plan the rest"), line.waits), (True, True))
        job, plan = self.plan_the_rest()
        self.assertEqual((len(job.cut), plan.builds, plan.displaced), (4, {"plover": "halves of one board"}, ()))
        surprise.accept(self.shop, self.design, job, plan)
        self.assertEqual(len(self.now.made_of(self.board)), 4)
        self.assertEqual(surprise.surprise_of(self.shop, self.now), "")
        names = [name for c in self.now.plan.cuts for name in c.gives]
        self.assertEqual(len(names), len(set(names)))
        self.saw_to_the_end()
        self.assertEqual(set(self.now.returned), set(self.now.boards))
        self.assertTrue([p for p in self.shop.pieces() if p.parent == self.board])

    def test_each_surprise_is_one_undo(self):
        self.saw(3)
        before = self.now
        cut = next_cut(before, self.board)
        surprise.cut_went(self.shop, self.board, elsewhere(cut, 15))
        self.shop.undo()
        self.assertEqual((self.now.plan, self.now.progress), (before.plan, before.progress))

    def test_twice_on_one_board_and_no_name_is_given_again(self):
        self.saw(3)
        for by in (15, 9):
            before = self.now
            cut = next_cut(before, self.board)
            surprise.cut_went(self.shop, self.board, elsewhere(cut, by))
            job, plan = self.plan_the_rest()
            surprise.accept(self.shop, self.design, job, plan)
            names = [name for c in self.now.plan.cuts for name in c.gives]
            self.assertEqual(len(names), len(set(names)))
            self.assertLess(max(int(n.split(".")[1]) for n in names if n.startswith(f"{self.board}.")), 60)
            while next_cut(self.now, self.board) is not None and next_cut(self.now, self.board).tool == "outline":
                self.saw(1)
            if next_cut(self.now, self.board) is None:
                break
        self.saw_to_the_end()
        self.assertEqual(set(self.now.returned), set(self.now.boards))

    def test_a_place_that_cuts_nothing_and_an_outline_are_sentences(self):
        with self.assertRaisesRegex(BadEntry, "99000 from the marked end does not cut the piece in hand, which is 1510"):
            surprise.cut_went(self.shop, self.board, 99_000)
        self.saw(1)
        with self.assertRaisesRegex(BadEntry, "lost B"):
            surprise.cut_went(self.shop, self.board, 100)  # an outline comes next there
        self.saw(1)
        with self.assertRaisesRegex(BadEntry, "does not cut the piece in hand"):
            surprise.cut_went(self.shop, self.board, 99_000)
        with self.assertRaisesRegex(BadEntry, "not being sawn by a plan"):
            surprise.cut_went(self.shop, "1", 100)


class APartThatIsLost(Case):
    def test_it_is_made_from_other_wood_under_the_same_build(self):
        self.saw(5)
        name = sorted(surprise.free_parts(self.now))[0]
        self.assertRegex(surprise.lose(self.shop, self.board, name.lower()), "is lost; what is cut stays")
        with self.assertRaisesRegex(BadEntry, "no part of that plan; it gives"):
            surprise.lose(self.shop, self.board, "zz")
        with self.assertRaisesRegex(BadEntry, "not cut yet; mark on the wood"):
            surprise.lose(self.shop, self.board, "B")
        job, plan = self.plan_the_rest(quick=False)
        there = {(p.piece, p.x, p.y) for p in plan.placements}
        self.assertLessEqual({(p.piece, p.x, p.y) for p in job.hints}, there, "what is not hurt stays where it was laid")
        self.assertEqual((len(job.lost), set(plan.builds)), (1, {"plover"}))  # no longer halves of one board, which is sawn up
        self.assertIn("stay, the rest is planned again", summary(plan, job))
        surprise.accept(self.shop, self.design, job, plan)
        self.saw_to_the_end()
        self.assertEqual(len(self.now.plan.placements), 4)

    def test_where_the_rack_has_no_more_it_says_so_and_what_is_left_can_still_be_sawn_and_put_back(self):
        self.saw(2)
        self.saw(99, "3")
        surprise.lose(self.shop, "3", "B")
        away = [p for p in self.shop.pieces() if p.id not in self.now.boards]
        self.shop.apply("all other wood is gone", *(p.changed(gone="sold") for p in away))
        job, plan = self.plan_the_rest()
        self.assertEqual((plan.builds, plan.displaced), ({}, ("plover",)))
        self.assertIn("see what was refused", summary(plan, job))
        surprise.accept(self.shop, self.design, job, plan)
        self.saw_to_the_end()
        self.assertIn(self.board, self.now.returned)


class AnOutlineThatWentWrong(Case):
    def test_its_part_is_lost_though_it_was_not_free_and_its_wood_is_not_used_again(self):
        self.saw(1)
        self.assertEqual(next_cut(self.now, self.board).tool, "outline")
        (name,) = (name for name, rows in surprise.free_parts(self.now).items() if rows[0].piece == self.board)
        surprise.lose(self.shop, self.board, name)
        job, plan = self.plan_the_rest()
        (gone,) = job.lost
        shape = Polygon(gone.polygon)
        self.assertFalse(any(p.piece == gone.piece and Polygon(p.polygon).intersects(shape) for p in plan.placements))
        self.assertEqual(plan.builds, {"plover": "halves of one board"})


class TheWoodTurnedOutOtherwise(Case):
    def test_a_crack_marked_on_the_board_is_planned_round(self):
        self.saw(2)
        piece = self.shop.piece(self.board)
        going = going_on(self.now)
        spot = next(p for p in going.hints if p.piece == self.board)
        x, y = (sum(v) / len(spot.polygon) for v in zip(*spot.polygon))
        crack = Defect(
            id="new", kind="crack", face="through", polygon=((x - 40, y), (x + 40, y), (x + 40, y + 3), (x - 40, y + 3))
        )
        self.shop.apply("a crack showed", piece.changed(defects=(*piece.defects, crack)))
        step = next(s for s in board_steps(self.shop, self.now, self.board) if not self.now.done(s.cut))
        self.assertIn("changed", [h.kind for h in holds(self.shop, self.now, self.board, step)])
        self.assertIn("not as it was", surprise.surprise_of(self.shop, self.now))
        job, plan = self.plan_the_rest()
        self.assertEqual(len(job.pins), 1)
        moved = [p for p in plan.placements if p.key == spot.key or (p.part == spot.part and p not in job.pins)]
        self.assertTrue(all((p.piece, p.x, p.y) != (spot.piece, spot.x, spot.y) for p in moved))
        surprise.accept(self.shop, self.design, job, plan)
        step = next(s for s in board_steps(self.shop, self.now, self.board) if not self.now.done(s.cut))
        self.assertNotIn("changed", [h.kind for h in holds(self.shop, self.now, self.board, step)])


class TogetherWithOthers(unittest.TestCase):
    def test_a_build_that_is_being_sawn_by_itself_is_not_planned_with_another(self):
        with tempfile.TemporaryDirectory() as scratch, make_demo(Path(scratch) / "D.grainet") as shop:
            plover, merrow = (next(d for d in shop.designs() if d.id == name) for name in ("plover", "merrow"))
            job = surprise.job_for_the_rest(shop, plover, merrow)
            self.assertEqual([b.id for b in job.builds], ["plover", "merrow"])
            alone = shop.jobs.job_for([merrow])
            shop.plans.accept(merrow, alone, planned(alone))
            made = shop.plans.accepted_for("merrow")
            board = next(b for b in made.boards if len(made.cuts_of(b)) > 1)
            tick(shop, made, board, board_steps(shop, made, board)[0], agreed=True)
            with self.assertRaisesRegex(BadEntry, "Merrow is being sawn"):
                surprise.job_for_the_rest(shop, plover, merrow)
            self.assertEqual([b.id for b in surprise.job_for_the_rest(shop, plover).builds], ["plover"])
