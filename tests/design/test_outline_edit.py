"""Outlines changed: what is out of reach stays, both sides alike stay alike, a stretch of the same line changes nothing."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from grainet.design.clip import area_mm2
from grainet.design.outline_edit import HANDLES, REACH, apart_mm, as_ring, blended, even, handles_of, pulled, share_near, shares
from grainet.design.shape_library import BODIES
from grainet.wood.value import BadEntry

SHAPES = sorted(BODIES)
SQUARE = ((0, -50), (100, -50), (100, 50), (0, 50))


class Even(unittest.TestCase):
    def test_it_begins_at_the_tail_runs_counter_clockwise_and_keeps_corners(self):
        for name in SHAPES:
            points = even(BODIES[name].outline)
            self.assertAlmostEqual(points[0, 1], 0, delta=4, msg=name)
            self.assertGreater(area_mm2(as_ring(points)), 0)
            self.assertLess(apart_mm(as_ring(points), BODIES[name].outline), 1e-3, name)
        self.assertEqual(
            set(as_ring(even(SQUARE[::-1]))), {(0, -50), (100, -50), (100, 50), (0, 50)} | set(as_ring(even(SQUARE))[:1])
        )

    def test_handles_stand_at_even_steps(self):
        places = handles_of(SQUARE)
        self.assertEqual(len(places), HANDLES)
        at = sorted(share_near(SQUARE, *p) for p in places)
        np.testing.assert_allclose(at, np.arange(HANDLES) / HANDLES, atol=0.006)


class Pulled(unittest.TestCase):
    @settings(max_examples=40, deadline=None)
    @given(st.sampled_from(SHAPES), st.floats(0, 1), st.floats(-8, 8), st.floats(-8, 8))
    def test_its_place_moves_as_told_and_what_is_out_of_reach_stays(self, name, share, dx, dy):
        ring = BODIES[name].outline
        points = even(ring)
        at = shares(points)
        away = np.minimum(np.abs(at - share), 1 - np.abs(at - share))
        k = int(np.argmin(away))
        moved = pulled(ring, share, dx, dy)
        self.assertLess(min(np.hypot(x - points[k, 0] - dx, y - points[k, 1] - dy) for x, y in even(moved, 0.5)), 0.6)
        from shapely.geometry import LinearRing, Point

        line = LinearRing(moved)
        for x, y in points[away > REACH / HANDLES + 0.01]:
            self.assertLess(line.distance(Point(x, y)), 0.01)

    @settings(max_examples=20, deadline=None)
    @given(st.floats(0, 1), st.floats(-6, 6), st.floats(-6, 6))
    def test_both_sides_alike_stay_alike(self, share, dx, dy):
        ring = tuple((x, y) for x, y in SQUARE)
        moved = pulled(ring, share, dx, dy, both_sides=True)
        self.assertLess(apart_mm(moved, tuple((x, -y) for x, y in moved[::-1])), 2.6)

    def test_nothing_moved_is_nothing_changed(self):
        ring = BODIES[SHAPES[0]].outline
        self.assertLess(apart_mm(pulled(ring, 0.3, 0, 0), ring), 0.01)


class Blended(unittest.TestCase):
    @settings(max_examples=30, deadline=None)
    @given(st.sampled_from(SHAPES), st.floats(0, 1), st.floats(0.1, 0.45))
    def test_a_stretch_of_the_same_line_changes_nothing(self, name, first, long):
        ring = BODIES[name].outline
        self.assertLess(apart_mm(blended(ring, ring, first, (first + long) % 1.0), ring), 0.05)

    def test_the_stretch_is_the_other_one_s_and_the_rest_stays(self):
        ring = SQUARE
        wider = tuple((x, y * 1.1) for x, y in ring)
        a, b = share_near(ring, 20, -50), share_near(ring, 80, -50)
        made = blended(ring, wider, a, b)
        low = min(y for _, y in made)
        self.assertAlmostEqual(low, -55, delta=0.05)
        self.assertAlmostEqual(max(y for _, y in made), 50, delta=1e-6)
        self.assertIn((100.0, 50.0), made)
        self.assertLess(min(np.hypot(x - 20, y + 50) for x, y in even(made, 0.5)), 0.6, "it begins where the outline was left")

    def test_too_short_a_stretch_is_a_sentence(self):
        with self.assertRaisesRegex(BadEntry, "further apart|too short"):
            blended(SQUARE, SQUARE, 0.2, 0.2)


if __name__ == "__main__":
    unittest.main()
