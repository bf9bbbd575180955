"""Parts laid together on one board: what comes out holds exactly; what hand's rule and the search leave out finds room."""

import unittest

import numpy as np
from shapely.geometry import Polygon

from grainet.fit.board_geometry import BoardGeometry
from grainet.fit.field import Layers
from grainet.plan.greedy import greedy_plan, made_of, worth_of
from grainet.plan.nesting import Nest, NoFits
from grainet.plan.planner import plan_job
from grainet.plan.squeezing import Squeezer
from grainet.plan.verify import check
from tests.jobs import SAW, half_ring, job, part, piece, rect

HOOK = [[0, 0], [200, 0], [200, 60], [60, 60], [60, 160], [0, 160]]  # two of them make a block, one turned


def hooks(count, length, width, cutting="outline", **board):
    hook = {"id": "hook", "outline": HOOK, "thickness_mm": 20, "value": 1, "quantity": count, "tilt_deg": 0}
    return job([piece("A", length, width, 22, **board)], [hook], {**SAW, "cutting": cutting})


def nest_of(made):
    return Nest(Layers(BoardGeometry(made.pieces[0], made.kit), guard=0.0), NoFits(made.kit))


class OnOneBoard(unittest.TestCase):
    def each_holds(self, made, found):
        for k, one in enumerate(found):
            self.assertTrue(Polygon(made.pieces[0].outline).buffer(1e-6).covers(one.polygon))
            for other in found[:k]:
                self.assertGreaterEqual(one.polygon.distance(other.polygon), made.kit.kerf_mm.outline - 1e-6)

    def test_two_hooks_lie_in_each_others_bays(self):
        made = hooks(2, 264, 164)
        found = nest_of(made).together([made.parts[0]] * 2, (), 100)
        self.assertEqual(len(found), 2)
        self.each_holds(made, found)
        self.assertEqual(len({one.orientation.angle_deg for one in found}), 2)

    def test_what_cannot_be_is_none_and_is_given_up_soon(self):
        made = hooks(2, 230, 164)
        nest = nest_of(made)
        self.assertIsNone(nest.together([made.parts[0]] * 2, (), 200))
        self.assertLess(nest.spent, 200)

    def test_the_same_seed_gives_the_same_places(self):
        made = hooks(4, 540, 170)
        one, other = (nest_of(made).together([made.parts[0]] * 4, (), 200, seed=3) for _ in range(2))
        self.assertEqual([c.key for c in one], [c.key for c in other])
        self.each_holds(made, one)

    def test_troubles_of_the_board_are_kept_clear_of(self):
        rot = {"id": "r", "kind": "rot", "face": "through", "polygon": rect(40, 40, 250, 60)}
        made = hooks(4, 640, 170, defects=[rot])
        tried = [nest_of(made).together([made.parts[0]] * 4, (), 300, seed) for seed in range(4)]
        self.assertGreaterEqual(sum(found is not None for found in tried), 3)
        for found in tried:
            self.each_holds(made, found or [])
            for one in found or []:
                self.assertLess(one.polygon.intersection(Polygon(rot["polygon"])).area, 1e-9)

    def test_room_between_two_coarse_places_is_found(self):
        rots = [
            {"id": "a", "kind": "rot", "face": "through", "polygon": rect(640, 2, 0, 0)},
            {"id": "b", "kind": "rot", "face": "through", "polygon": rect(640, 1, 0, 165)},
        ]
        made = hooks(2, 640, 166, defects=rots)  # 163 are clear of rot for 160, and no coarse place lies there
        nest = nest_of(made)
        for lattice in nest.ways(made.parts[0]):
            for at in lattice.stands.reshape(-1, 2):
                self.assertTrue(np.isnan(at).all() or lattice.allows(at[None, :]).all())
        found = nest.together([made.parts[0]] * 2, (), 50)
        self.assertIsNotNone(found)
        self.each_holds(made, found)

    def test_a_part_that_begins_where_the_board_is_bad_leaves_it(self):
        rot = {"id": "r", "kind": "rot", "face": "through", "polygon": rect(150, 164, 0, 0)}
        made = hooks(2, 420, 164, defects=[rot])
        found = nest_of(made).together([made.parts[0]] * 2, (), 60)
        self.assertIsNotNone(found, "two make a block of 264 beside it")
        self.each_holds(made, found)

    def test_a_part_alone_lies_nearest_the_marked_end(self):
        made = hooks(1, 640, 170)
        (one,) = nest_of(made).alone(made.parts[0])
        self.assertLess(one.polygon.bounds[0], 2.1)


class InAPlan(unittest.TestCase):
    def test_mirrored_halves_on_a_strip_lie_closer_than_their_boxes(self):
        ring = half_ring()
        other = [[x, -y] for x, y in ring][::-1]
        rows = [
            {"id": name, "outline": r, "thickness_mm": 20, "value": 1, "quantity": 2, "tilt_deg": 0}
            for name, r in (("left", ring), ("right", other))
        ]
        made = job([piece("A", 905, 300, 22)], rows, SAW)  # two boxes of 470 along and their kerf take 943
        plan = plan_job(made)
        self.assertEqual((plan.value, list(check(made, plan))), (4, []))

    def test_a_build_that_hand_leaves_out_finds_room_where_all_is_laid_anew(self):
        hook = {"id": "hook", "outline": HOOK, "thickness_mm": 20, "tilt_deg": 0}
        builds = [{"id": f"b{k}", "recipes": [{"id": "r", "value": 10, "needs": {"hook": 2}}]} for k in range(2)]
        made = job([piece("A", 533, 164, 22)], [hook], SAW, builds)
        sheets = {"A": BoardGeometry(made.pieces[0], made.kit)}
        laid = greedy_plan(made, sheets)
        squeezer = Squeezer(made, {"A": Layers(sheets["A"], guard=0.0)}, 4000)
        missing = list(made.builds)[int(worth_of(made, laid)) // 10 :]
        now = squeezer.with_builds({"A": tuple(laid)} if laid else {}, missing)
        self.assertEqual(worth_of(made, [one for row in now.values() for one in row]), 20)

    def test_builds_are_exchanged_for_others_that_are_worth_more(self):
        """Hand takes the dearest build, which fills the board; two cheaper ones beside each other are worth more."""
        wide = {"id": "wide", "outline": rect(520, 160), "thickness_mm": 20, "tilt_deg": 0}
        hook = {"id": "hook", "outline": HOOK, "thickness_mm": 20, "tilt_deg": 0}
        builds = [{"id": "w", "recipes": [{"id": "r", "value": 12, "needs": {"wide": 1}}]}]
        builds += [{"id": f"b{k}", "recipes": [{"id": "r", "value": 10, "needs": {"hook": 2}}]} for k in range(2)]
        made = job([piece("A", 545, 170, 22)], [wide, hook], SAW, builds)
        sheets = {"A": BoardGeometry(made.pieces[0], made.kit)}
        laid = greedy_plan(made, sheets)
        self.assertEqual(worth_of(made, laid), 12)
        squeezer = Squeezer(made, {"A": Layers(sheets["A"], guard=0.0)}, 8000)
        now = squeezer.exchanged({"A": tuple(laid)})
        self.assertEqual(worth_of(made, now["A"]), 20)
        self.assertEqual(made_of(made, now["A"]).keys(), {"b0", "b1"})

    def test_straight_cuts_leave_no_bays(self):
        made = hooks(2, 264, 164, cutting="straight")
        self.assertEqual(plan_job(made).made, {"hook": 1})

    def test_more_effort_is_never_worse(self):
        made = job(
            [piece("A", 700, 330, 22)],
            [part("p", 300, 90, 20, quantity=4), {"id": "hook", "outline": HOOK, "thickness_mm": 20, "quantity": 3, "value": 2}],
            SAW,
        )
        values = [plan_job(made, effort=effort).value for effort in (1, 2)]
        self.assertGreaterEqual(values[1], values[0])


if __name__ == "__main__":
    unittest.main()
