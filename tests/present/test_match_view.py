"""Pairs of a plan opened: real seams, the four openings, the room to slide, the ridge, and two boards that are no mates."""

import tempfile
import unittest
from dataclasses import replace
from datetime import date
from pathlib import Path

import numpy as np

from grainet.demo.make import make_demo
from grainet.fit.board_geometry import BoardGeometry
from grainet.fit.exact import Exact, ExactPlacement
from grainet.fit.field import Layers
from grainet.fit.orientation import Orientation
from grainet.present import match_view
from grainet.present.fit_view import fit_view
from grainet.session.mates import halves_of
from grainet.wood.defects import Defect
from grainet.wood.figure import FigureZone
from grainet.work.matching import Matched
from tests.jobs import planned


class Opened(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.scratch = tempfile.TemporaryDirectory()
        cls.addClassCleanup(cls.scratch.cleanup)
        cls.shop = make_demo(Path(cls.scratch.name) / "D.grainet")
        cls.addClassCleanup(cls.shop.close)
        cls.job = cls.shop.jobs.job_for([d for d in cls.shop.designs() if d.id == "merrow"])
        cls.plan = planned(cls.job)
        cls.pair = match_view.pairs_of(cls.job, cls.plan)[0]
        cls.laid = match_view.laid_as(cls.pair)
        cls.sheet = BoardGeometry(cls.pair.piece, cls.job.kit)
        cls.view = fit_view(Layers(cls.sheet), cls.pair.piece, cls.pair.part)

    def ways(self, *, outer=False):
        other, why = match_view.other_seam(self.laid, self.sheet, self.view)
        lies = {self.laid.seam: self.laid} | ({other.seam: other} if other else {})
        return match_view.openings_of(self.job, self.pair, lies, why, outer_skim=outer)

    def test_the_pair_is_the_two_leaves_of_one_footprint(self):
        self.assertEqual((self.pair.upper.leaf, self.pair.lower.leaf), (1, 2))
        self.assertEqual(self.pair.upper.polygon, self.pair.lower.polygon)
        self.assertEqual(match_view.pairs_of(self.job, self.plan.changed(placements=())), [])

    def test_the_seam_is_the_part_s_joint_edge_and_all_of_it_lies_on_one_side(self):
        for laid in (w.laid for w in self.ways() if w.laid is not None):
            across = laid.across(laid.ring)
            self.assertGreater(across.min(), -0.05, laid.seam)
            self.assertGreater(across.max(), 150)
            (ax, ay), (bx, _) = laid.joint
            self.assertLess(ax, bx)
            on_rim = np.hypot(laid.ring[:, 0] - ax, laid.ring[:, 1] - ay).min()
            self.assertLess(on_rim, 0.05, "the seam ends on the outline")

    def test_four_openings_each_at_a_place_that_holds(self):
        ways = self.ways()
        self.assertEqual(len({w.key for w in ways}), 4)
        for one in ways:
            if one.laid is None:
                self.assertTrue(one.why_not)
                continue
            self.assertEqual(one.laid.seam, one.seam)
            self.assertIsInstance(Exact(self.sheet, one.laid.way).seat(one.laid.x, one.laid.y), ExactPlacement)

    def test_the_faces_that_show_lie_as_deep_as_the_plan_saws_them(self):
        kit = self.job.kit
        for one in self.ways():
            top, bottom = one.depths_mm
            self.assertAlmostEqual(bottom - top, one.between.lost_mm, places=6)
        sawn, outer = self.ways()[0], self.ways(outer=True)[0]
        self.assertAlmostEqual(sawn.between.lost_mm - outer.between.lost_mm, 2 * kit.resaw_skim_mm)
        self.assertAlmostEqual(outer.depths_mm[1] - outer.depths_mm[0], kit.kerf_mm.resaw)
        self.assertLess(outer.forecast.miss_mm, sawn.forecast.miss_mm)

    def test_a_slide_is_free_as_far_as_is_told(self):
        ways = [w.laid for w in self.ways() if w.laid is not None]
        for laid in ways:
            room = match_view.slide_of(laid, self.sheet, self.view)
            exact = Exact(self.sheet, laid.way)
            for by in np.linspace(-room.back_mm, room.on_mm, 9):
                self.assertIsInstance(exact.seat(laid.x + by, laid.y), ExactPlacement, (laid.seam, by))
            moved = laid.at_tail(laid.tail_mm + room.on_mm)
            self.assertAlmostEqual(moved.tail_mm - laid.tail_mm, room.on_mm)

    def test_the_ridge_follows_the_rings(self):
        piece = self.pair.piece.changed(ring_angle_deg=(30.0, 80.0))
        pair = replace(self.pair, piece=piece)
        lost = self.ways()[0].between
        tails = [500.0, 900.0, 1300.0]
        misses = match_view.ridge(pair, self.laid, lost, tails)
        self.assertEqual(misses, sorted(misses, reverse=True))
        self.assertEqual(match_view.best_tail(tails, misses, 500.0)[0], 1300.0)
        unread = replace(self.pair, piece=piece.changed(ring_angle_deg=None))
        self.assertEqual(match_view.ridge(unread, self.laid, lost, tails), [None] * 3)
        self.assertIsNone(match_view.best_tail(tails, [None] * 3, 500.0))

    def test_mirroring_puts_the_tail_at_the_other_end_of_the_same_seam(self):
        other = match_view.mirrored(self.laid, self.sheet, self.view)
        self.assertEqual((other.seam, other.tail_left), (self.laid.seam, not self.laid.tail_left))
        self.assertIsInstance(Exact(self.sheet, other.way).seat(other.x, other.y), ExactPlacement)

    def test_what_lies_at_the_seam_is_told_and_figure_counts(self):
        (ax, ay), (bx, by) = self.laid.joint
        x, y = (ax + bx) / 2, (ay + by) / 2
        box = ((x - 8, y - 8), (x + 8, y - 8), (x + 8, y + 8), (x - 8, y + 8))
        knotty = self.pair.piece.changed(defects=(Defect(id="k9", kind="knot", polygon=box),))
        self.assertIn("knot k9 doubled at the seam", match_view.at_seam(knotty, self.laid))
        self.assertEqual(match_view.at_seam(knotty.changed(defects=()), self.laid), "clear beside the seam")
        wide = ((0, -50), (2400, -50), (2400, 400), (0, 400))
        curly = knotty.changed(figure=(FigureZone(id="f1", polygon=wide, strength=0.8),))
        self.assertGreater(match_view.figured_at(curly, self.laid), 0.7)
        self.assertEqual(match_view.figured_at(knotty, self.laid), 0)

    def test_what_was_chosen_is_the_chosen_one(self):
        ways = self.ways()
        for k, one in enumerate(ways):
            kept = Matched(part=self.pair.upper.part, seam=one.seam, show=one.show)
            self.assertEqual(match_view.chosen_of(ways, kept, self.laid), k)
        self.assertEqual(ways[match_view.chosen_of(ways, None, self.laid)].show, "sawn")

    def test_the_rack_s_halves_meet_once_each_and_both_lie_at_the_seam(self):
        part = next(p for p in self.job.parts if p.id == "merrow.body.bass")
        halves = halves_of(self.shop, part, date(2026, 3, 14))
        names = [b.name for b in halves.boards]
        self.assertGreater(len(names), 1)
        met = {frozenset((q.one, q.other)) for q in halves.pairs}
        self.assertEqual(len(met), len(names) * (len(names) - 1) // 2)
        self.assertEqual(halves.best.score, min(q.score for q in halves.pairs))
        upper, lower = match_view.lay_two(self.shop, part, halves.best.one, halves.best.other)
        self.assertEqual((upper.seam, lower.seam, upper.tail_left), ("near", "far", lower.tail_left))
        self.assertIsNone(match_view.lay_two(self.shop, part, names[0], "none"))

    def test_the_seam_of_a_half_that_is_drawn_below_it_is_its_upper_rim(self):
        part = self.pair.part
        below = part.changed(outline=tuple((x, -y) for x, y in reversed(part.outline)))
        for half, seam in ((part, "near"), (below, "far")):
            laid = match_view.Laid(Orientation(half, 0.0, False, "1"), 100.0, 200.0)
            self.assertEqual(laid.seam, seam)
            self.assertGreater(laid.across(laid.ring).min(), -0.05)
