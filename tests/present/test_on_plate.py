"""An outline over a photo of its joined pair: where its centre line comes to lie, what is left at the ends, and what a slide costs."""

import unittest

import numpy as np

from grainet.design.parts import design_of
from grainet.design.starting_points import begin
from grainet.match.opened_photo import SeamLines, measured, seam_lines, strips
from grainet.present.glue_view import kit_for, slid_on
from grainet.present.on_plate import OnPlate, cost_of, rings_of
from grainet.work.matching import Matched, OpenedPhoto
from tests.match.test_opened_photo import LONG, book
from tests.session.test_making import Begun

BOX = (np.array([(-20.0, 5.0), (0.0, 0.0), (100.0, 0.0), (100.0, 40.0), (-20.0, 40.0)]),)


class Outlines(unittest.TestCase):
    def test_a_top_has_its_instrument_s_outline_with_both_sides(self):
        g = begin("set", "set", "Set")
        part = design_of(g).part("set.cap")
        (ring,), long = rings_of(g, part)
        self.assertAlmostEqual(ring[:, 1].min(), min(y for _, y in g.body.outline))
        self.assertAlmostEqual(ring[:, 1].max(), max(y for _, y in g.body.outline))
        crossing = np.interp(0.0, *self.edge_at_end(ring))
        self.assertAlmostEqual(long, crossing, delta=0.5)
        halves, _ = rings_of(None, part)
        self.assertEqual(len(halves), 2, "without an instrument the part and its mirror")
        self.assertTrue(np.allclose(halves[0] * (1, -1), halves[1]))

    def edge_at_end(self, ring):
        """The far end's edge where it crosses the centre line: its ys, rising, and its xs."""
        ends = [(a, b) for a, b in zip(ring, np.roll(ring, -1, axis=0)) if a[1] * b[1] <= 0 and a[0] > ring[:, 0].max() / 2]
        (ax, ay), (bx, by) = ends[0]
        return ((ay, by), (ax, bx)) if ay < by else ((by, ay), (bx, ax))

    def test_it_begins_in_the_middle_and_tells_what_is_left_at_both_ends(self):
        on = OnPlate(BOX, 100.0, 140.0, 0.0)
        self.assertEqual((on.centred_mm, on.at(20.0).left_mm, on.at(-5.0).left_mm), (20.0, (20.0, 20.0), (-5.0, 45.0)))

    def test_the_tail_at_the_right_and_the_back_turn_it(self):
        on = OnPlate(BOX, 100.0, 140.0, 10.0)
        along, up = on.beside_seam()[0].T
        self.assertEqual((along.min(), along.max(), up.max()), (-10.0, 110.0, 40.0))
        right = OnPlate(BOX, 100.0, 140.0, 10.0, tail_left=False)
        along, up = right.beside_seam()[0].T
        self.assertEqual((along.min(), along.max(), up.min()), (30.0, 150.0, -40.0), "turned, not mirrored")
        self.assertEqual(right.reach, (30.0, 130.0))
        behind = OnPlate(BOX, 100.0, 140.0, 10.0, back=True).beside_seam()[0]
        self.assertTrue(np.allclose(behind, on.beside_seam()[0] * (1, -1)), "the back is its mirror across the seam")

    def test_what_lies_off_the_wood_is_told_where_the_wood_is_known(self):
        self.assertIsNone(OnPlate(BOX, 100.0, 140.0, 0.0).off_mm2)
        on = OnPlate(BOX, 100.0, 100.0, 0.0)
        self.assertAlmostEqual(on.off_mm2, 0.0)
        self.assertAlmostEqual(on.at(7.0).off_mm2, 7.0 * 40, delta=1.0)


class Costs(unittest.TestCase):
    def test_a_slide_s_cost_is_read_from_the_photo_along_the_outline_alone(self):
        """Half of the seam meets well, half of it does not: the outline is judged where it lies."""
        good, bad = (seam_lines(*strips(*book(1, 60, lost), LONG)) for lost in (0.3, 3.0))
        half = good.upper.shape[1] // 2
        both = SeamLines(
            *(np.concatenate([getattr(a, n)[:200, :half] for a in (good, bad)], axis=1) for n in ("upper", "lower")),
            good.px_per_mm,
        )
        on = OnPlate((), LONG * 0.4, float(LONG), LONG * 0.05)
        cost = cost_of(both, on.at(LONG * 0.55), on.tail_mm)
        self.assertGreater(cost.before.alike, cost.now.alike + 0.15)
        self.assertLess(cost.before.miss_mm, cost.now.miss_mm)
        self.assertIsNone(cost_of(both, on.at(-LONG), 0.0).now, "there is no seam there")

    def test_along_the_whole_seam_it_is_what_the_photo_tells(self):
        photo = book(0, 45, 2.2)
        lines = seam_lines(*strips(*photo, LONG))
        self.assertEqual(lines.between(0, LONG), measured(*photo, LONG))


class AtTheJoint(Begun):
    def test_the_joint_that_takes_the_slid_pair_has_its_outline_drawn_first(self):
        joints = {one.gives: one for one in self.bench.making.operations if one.kind == "glue"}
        self.assertEqual([slid_on(self.bench, one) for one in joints.values()], [[] for _ in joints])
        photo = OpenedPhoto(sha="x", marks=((0, 0), (9, 0)), apart_mm=390.0, alike=0.4, tail_mm=12.0)
        self.shop.apply("slid", self.plan.changed(matched=(Matched(part="set.cap", photo=photo),)))
        told = {gives: slid_on(self.bench, one) for gives, one in joints.items()}
        on_body = next(gives for gives, one in joints.items() if "set.top" in one.works_on)
        self.assertEqual([gives for gives, words in told.items() if words], [on_body])
        self.assertIn("12.0 from the tail end", told[on_body][0])
        self.assertIn(told[on_body][0], kit_for(self.bench, joints[on_body]))


if __name__ == "__main__":
    unittest.main()
