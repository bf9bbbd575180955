"""Steps follow the cuts, pieces in hand add up, cautions come with their grade, waits are ranges."""

import unittest
from datetime import date

from shapely.geometry import Polygon

from grainet.kit.shop_profile import ShopProfile
from grainet.plan.planner import plan_job
from grainet.work.cautions import cautions_for
from grainet.work.steps import steps_for
from grainet.work.waiting import settling_wait
from tests.jobs import SAW, half_ring, job, part, piece, planned


class Steps(unittest.TestCase):
    def setUp(self):
        half = {"id": "h", "outline": half_ring(), "thickness_mm": 40, "quantity": 2}
        self.job = job(
            [piece("A", 1300, 200, 44), piece("B", 400, 120, 20)],
            [half, part("t", 300, 100, 7, leaves=2, quantity=1)],
            {**SAW, "skim_mm": 0.5, "machines": {"least_length_mm": 500}},
        )
        self.plan = planned(self.job)

    def test_every_cut_is_a_step_and_wood_only_grows_less(self):
        total = 0
        for board in ("A", "B"):
            steps = steps_for(self.job, self.plan, self.job.piece(board))
            total += len(steps)
            whole = Polygon(self.job.piece(board).outline).area
            for step in steps:
                flat = [h for h in step.after if h.bottom_mm is None or h.top_mm == 0]
                self.assertLessEqual(sum(Polygon(h.ring).area for h in flat), 2 * whole)
                self.assertEqual(set(step.cut.gives) - {h.id for h in step.after}, set())
        self.assertEqual(total, len(self.plan.cuts))

    def test_parts_come_free_and_a_resaw_gives_two_depths(self):
        last = steps_for(self.job, self.plan, self.job.piece("A"))[-1]
        self.assertEqual(sum(bool(h.part) for h in last.after), 2)
        resaw = next(s for s in steps_for(self.job, self.plan, self.job.piece("B")) if s.cut.tool == "resaw")
        upper, lower = (next(h for h in resaw.after if h.id == name) for name in resaw.cut.gives)
        self.assertAlmostEqual(lower.top_mm - upper.bottom_mm, 1.2)
        free = steps_for(self.job, self.plan, self.job.piece("B"))[-1].after
        self.assertEqual(sorted(h.part for h in free if h.part), ["t leaf 1", "t leaf 2"])

    def test_a_rest_that_is_resawn_off_is_no_part(self):
        made = job([piece("A", 320, 95, 40)], [part("thin", 300, 90, 7, quantity=1)], {**SAW, "skim_mm": 0.5})
        plan = plan_job(made)
        steps = steps_for(made, plan, made.pieces[0])
        self.assertTrue(any(s.cut.tool == "resaw" for s in steps))
        self.assertEqual([h.part for h in steps[-1].after if h.part], ["thin"])
        self.assertTrue(any("goes back" in s.note for s in steps if s.cut.tool == "resaw"))

    def test_cautions(self):
        b = self.job.piece("B")
        cut = self.plan.cuts[-1]
        short = cautions_for(cut, b, b.outline, self.job.kit)
        self.assertTrue(any(c.grade == "A" and "400 long" in c.text for c in short))
        dusty = cautions_for(cut, b.changed(species="Western redcedar", reclaimed=True), b.outline, self.job.kit)
        self.assertTrue(any("sensitize" in c.text for c in dusty))
        self.assertTrue(any("Reclaimed" in c.text for c in dusty))
        self.assertEqual([c.grade for c in dusty], sorted(c.grade for c in dusty))


class Waiting(unittest.TestCase):
    def test_a_wet_piece_waits_and_a_dry_one_does_not(self):
        def one(pct):
            return job(
                [piece("A", moisture=[{"x_mm": 1, "y_mm": 1, "depth_mm": 9, "moisture_pct": pct, "on": "2026-11-01"}])], []
            ).pieces[0]

        wait = settling_wait(one(14), ShopProfile(), date(2026, 11, 24))
        self.assertTrue(wait.soonest < wait.ready < wait.latest)
        self.assertEqual(wait.start, date(2026, 11, 1))
        self.assertEqual((wait.share_left(wait.start), wait.share_left(wait.latest)), (1, 0))
        self.assertIsNone(settling_wait(one(8.6), ShopProfile(), date(2026, 11, 24)))
