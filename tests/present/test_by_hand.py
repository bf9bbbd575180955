"""Parts laid by hand: pinned where they lie, refused with a sentence where they cannot, and the rest solved round them."""

import unittest

from grainet.fit.orientation import orientations_of
from grainet.plan.planner import plan_job
from grainet.plan.verify import check
from grainet.present.by_hand import Hand, nearest_way, pinned, with_pins
from tests.jobs import SAW, job, part, piece, planned, rect

NAIL = {"id": "n1", "kind": "nail", "face": "through", "polygon": rect(6, 6, 800, 40)}


class Pinned(unittest.TestCase):
    def setUp(self):
        builds = [{"id": "b", "recipes": [{"id": "r", "value": 5, "needs": {"x": 2}}]}]
        self.job = job([piece("A", 1000, 100, 30, defects=[NAIL])], [part("x", 300, 90)], SAW | {"metal_clear_mm": 10}, builds)
        self.plan = planned(self.job)
        self.way = orientations_of(self.job.parts[0])[0]

    def hand(self, x, y=0.0, **more):
        return Hand("x", "A", self.way, x, y, **more)

    def test_it_stays_and_the_rest_is_solved_round_it(self):
        one = self.plan.placements[0]
        rows = pinned(self.job, self.hand(40.0, 5.0, taken=one), (), self.plan)
        self.assertEqual([(r.set, r.copy_, r.build, r.x, r.y) for r in rows], [(one.set, one.copy_, "b", 40.0, 5.0)])
        asked = with_pins(self.job, rows, self.plan)
        self.assertEqual([h.key for h in asked.hints], [self.plan.placements[1].key])
        again = plan_job(asked)
        self.assertEqual((again.builds, check(asked, again)), ({"b": "r"}, []))
        self.assertIn(rows[0], again.placements)

    def test_what_is_laid_already_stays_where_it_was_as_long_as_it_does(self):
        far = max(self.plan.placements, key=lambda p: p.x)
        near = min(self.plan.placements, key=lambda p: p.x)
        rows = pinned(self.job, self.hand(near.x, 7.0, taken=near), (), self.plan)
        again = plan_job(with_pins(self.job, rows, self.plan))
        self.assertIn((far.piece, far.x, far.y), {(p.piece, p.x, p.y) for p in again.placements})

    def test_it_takes_the_next_set_of_its_own_that_is_not_pinned(self):
        first = pinned(self.job, self.hand(0.0), (), self.plan)
        second = pinned(self.job, self.hand(400.0), first, self.plan)
        self.assertEqual({(r.set, r.build) for r in (*first, *second)}, {(1, "b"), (2, "b")})
        self.assertEqual(pinned(self.job, self.hand(0.0), (), None)[0].set, 1)

    def test_where_it_cannot_lie_is_a_sentence(self):
        first = pinned(self.job, self.hand(0.0), (), self.plan)
        for hand, why in ((self.hand(650.0), "metal"), (self.hand(900.0), "past"), (self.hand(200.0), "another part is pinned")):
            self.assertRegex(pinned(self.job, hand, first, self.plan), why)
        self.assertRegex(pinned(self.job, Hand("x", "Z", self.way, 0, 0), (), None), "promised, or not measured")

    def test_a_pin_in_wood_that_is_sawn_meanwhile_is_over(self):
        rows = pinned(self.job, self.hand(40.0, 5.0), (), self.plan)
        cut = self.plan.cuts[0].changed(piece="A", tool="crosscut", line=((100.0, 0.0), (100.0, 100.0)), gives=("A.1", "A.2"))
        self.assertEqual(with_pins(self.job.changed(version=2, cut=(cut,)), rows, self.plan).pins, ())
        self.assertEqual(with_pins(self.job.changed(pieces=()), rows, self.plan).pins, ())

    def test_the_way_of_a_placement(self):
        ways = orientations_of(self.job.parts[0])
        for k, way in enumerate(ways):
            one = self.plan.placements[0].changed(angle_deg=way.angle_deg + 1, mirror=way.mirror, face_up=way.face_up)
            self.assertEqual(nearest_way(ways, one), k)
