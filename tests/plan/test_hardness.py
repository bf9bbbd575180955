"""Loads that are no harder than others: where the larger part lies, the smaller one does; and what is pruned by it loses no plan."""

import unittest

import numpy as np

from grainet.design.part import Part
from grainet.fit.board_geometry import BoardGeometry
from grainet.fit.exact import Exact, ExactPlacement
from grainet.fit.orientation import orientations_of
from grainet.plan.hardness import Hardness, lies_within, no_harder, steps_harder, where_within
from tests.jobs import half_ring, job, part, piece, rect


def made(name, outline, thick=20, **more):
    return Part.model_validate({"id": name, "outline": outline, "thickness_mm": thick, **more}, strict=False)


def scaled(by):
    return [[x * by, y * by] for x, y in half_ring()]


class Within(unittest.TestCase):
    def test_the_smaller_lies_wherever_the_larger_does(self):
        r = np.random.default_rng(5)
        rot = {"id": "r", "kind": "rot", "face": "through", "polygon": rect(40, 20, 300, 60)}
        board = job([piece("A", 900, 260, 24, defects=[rot])], [part("x", 1, 1, 1)])
        sheet = BoardGeometry(board.pieces[0], board.kit)
        lay = 0
        for _ in range(12):
            small, large = sorted(r.uniform(0.5, 1.0, 2))
            one, other = made("s", scaled(float(small))), made("l", scaled(float(large)), 22)
            self.assertTrue(lies_within(one, other))
            self.assertFalse(lies_within(other, one))
            ways = list(zip(orientations_of(one), orientations_of(other)))
            for mine, theirs in ways:
                for _ in range(30):
                    x, y = float(r.uniform(0, 900)), float(r.uniform(0, 260))
                    if isinstance(Exact(sheet, theirs).seat(x, y), ExactPlacement):
                        self.assertIsInstance(Exact(sheet, mine).seat(x, y), ExactPlacement)
                        lay += 1
        self.assertGreater(lay, 40)

    def test_what_may_lie_in_fewer_ways_is_not_within(self):
        large = made("l", rect(200, 80), turns_deg=[0, 90], tilt_deg=1)
        self.assertTrue(lies_within(made("s", rect(190, 80), turns_deg=[0, 90, 180], tilt_deg=2), large))
        for change in ({"turns_deg": [0]}, {"tilt_deg": 0.5}, {"leaves": 2}, {"faces_up": ["1"]}, {"clean": True}):
            ways = {"turns_deg": [0, 90], "tilt_deg": 1, **change}
            self.assertFalse(lies_within(made("s", rect(190, 80), **ways), large), change)
        self.assertFalse(lies_within(made("s", rect(190, 80), 21, turns_deg=[0, 90], tilt_deg=1), large))

    def test_where_it_lies_within_it_does(self):
        self.assertEqual(where_within(made("s", rect(190, 80)), made("l", rect(200, 80))), (0.0, 0.0))
        off = made("s", rect(190, 80, 500, 300))
        dx, dy = where_within(off, made("l", rect(200, 80)))
        self.assertAlmostEqual(dx, -500, delta=0.05)
        self.assertAlmostEqual(dy, -300, delta=0.05)
        self.assertIsNone(where_within(made("s", rect(210, 80)), made("l", rect(200, 80))))

    def test_what_lies_by_a_rule_of_its_own_is_a_family_of_its_own(self):
        for rule in ({"fold": True, "per_set": 2, "mirror": True}, {"leaves_max": 3}):
            one, other = made("s", rect(190, 80), **rule), made("l", rect(200, 80), **rule)
            self.assertFalse(lies_within(one, other), rule)
            self.assertTrue(lies_within(one, one))

    def test_zones_count(self):
        zoned = {"zones": [{"kind": "critical", "polygon": "rest"}]}
        self.assertFalse(lies_within(made("s", rect(190, 80), **zoned), made("l", rect(200, 80))))


class Loads(unittest.TestCase):
    def test_alike_parts_are_equally_hard(self):
        parts = [made("a", rect(200, 80)), made("b", rect(200, 80)), made("c", rect(210, 80)), made("h", half_ring(), 40)]
        hardness = Hardness(parts)
        a, b, c, h = parts
        self.assertTrue(no_harder(hardness.of([a]), hardness.of([b])) and no_harder(hardness.of([b]), hardness.of([a])))
        self.assertTrue(no_harder(hardness.of([a, a]), hardness.of([c, b, h])))
        self.assertFalse(no_harder(hardness.of([c]), hardness.of([a, b])))
        self.assertFalse(no_harder(hardness.of([a, a, a]), hardness.of([c, c])))
        self.assertFalse(no_harder(hardness.of([h, h]), hardness.of([h, a])))

    def test_a_step_is_harder_by_one_size_or_one_part(self):
        parts = [*(made(f"a{n}", rect(200 + 10 * n, 80)) for n in range(4)), made("h", half_ring(), 40)]
        hardness = Hardness(parts)
        load = hardness.of([parts[0], parts[2], parts[2]])
        steps = steps_harder(load, hardness.ranks())
        for step in steps:
            self.assertTrue(no_harder(load, step) and not no_harder(step, load), step)
        # the small one larger, one of the middle ones larger (in either place the same), one small more, a half
        self.assertEqual(len({str(sorted((f, *row) for f, row in step.items())) for step in steps}), 4)
        self.assertEqual(steps_harder({}, hardness.ranks()), [hardness.of([parts[0]]), hardness.of([parts[4]])])


if __name__ == "__main__":
    unittest.main()
