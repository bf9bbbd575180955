"""Placement transform, areas, rings that cannot be used, curves; checked against closed forms and with random turns."""

import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from grainet.design.curve import box_ring, through
from grainet.design.shape import area, as_array, extents, is_rectangle, is_turned_over, placed
from grainet.wood.outline import ring_fault

RING = as_array([(0, 0), (300, 0), (250, 90), (0, 60)])
NUMBERS = st.floats(min_value=-2000, max_value=2000)


class Placement(unittest.TestCase):
    def test_the_contract_written_out(self):
        moved = placed(as_array([(10, 0)]), 100, 50, 90, turned_over=False)
        self.assertEqual(moved.tolist(), [[100, 60]])
        over = placed(as_array([(10, 5)]), 0, 0, 0, turned_over=True)
        self.assertEqual(over.tolist(), [[10, -5]])
        both = placed(as_array([(10, 5)]), 0, 0, 180, turned_over=True)
        np.testing.assert_allclose(both, [[-10, 5]], atol=1e-12)

    def test_mirror_and_face_up_cancel_one_another(self):
        self.assertFalse(is_turned_over(mirror=False, face_up="1"))
        self.assertTrue(is_turned_over(mirror=True, face_up="1"))
        self.assertTrue(is_turned_over(mirror=False, face_up="2"))
        self.assertFalse(is_turned_over(mirror=True, face_up="2"))

    @given(NUMBERS, NUMBERS, st.floats(min_value=-720, max_value=720), st.booleans())
    @settings(max_examples=200, deadline=None)
    def test_it_keeps_lengths_and_area(self, x, y, angle, over):
        moved = placed(RING, x, y, angle, turned_over=over)
        self.assertAlmostEqual(area(moved), area(RING), delta=1e-6 * area(RING))
        for k in range(4):
            before, after = (math.dist(r[k], r[(k + 1) % 4]) for r in (RING, moved))
            self.assertAlmostEqual(before, after, delta=1e-7)

    @given(NUMBERS, NUMBERS, st.floats(min_value=-180, max_value=180))
    @settings(max_examples=100, deadline=None)
    def test_turning_back_gives_the_ring_again(self, x, y, angle):
        there = placed(RING, 0, 0, angle, turned_over=False)
        np.testing.assert_allclose(placed(there, 0, 0, -angle, turned_over=False), RING, atol=1e-8)
        shifted = placed(RING, x, y, angle, turned_over=False)
        np.testing.assert_allclose(shifted - there, np.broadcast_to((x, y), there.shape), atol=1e-9)

    def test_quarter_turns_are_exact_to_the_last_bit(self):
        rectangle = as_array(box_ring(0, 0, 333.3, 77.7))
        for quarter in range(-4, 5):
            self.assertTrue(is_rectangle(placed(rectangle, 0.1, 0.2, 90.0 * quarter, turned_over=False), 1e-12))


class Rings(unittest.TestCase):
    def test_what_is_wrong_is_said(self):
        self.assertIn("has 2 points", ring_fault(((0, 0), (1, 1))))
        self.assertIn("crosses itself near (50, 50)", ring_fault(((0, 0), (100, 100), (100, 0), (0, 100))))
        self.assertIn("no area", ring_fault(((0, 0), (10, 0), (20, 0))))
        self.assertIn("at most 20000", ring_fault(((0, 0), (1e6, 0), (0, 10))))
        self.assertIsNone(ring_fault(box_ring(0, 0, 10, 10)))

    def test_direction_does_not_matter(self):
        ring = box_ring(0, 0, 40, 20)
        self.assertEqual(area(as_array(ring)), area(as_array(ring[::-1])))
        self.assertEqual(extents(as_array(ring)), (0, 0, 40, 20))
        self.assertFalse(is_rectangle(RING))


class Curves(unittest.TestCase):
    def test_a_curve_goes_through_its_points(self):
        points = ((0.0, 0.0), (20.0, 60.0), (90.0, 80.0), (160.0, 20.0), (200.0, 0.0))
        curve = as_array(through(points, 8))
        for point in points:
            self.assertLess(np.hypot(*(curve - point).T).min(), 0.02)
        self.assertEqual(len(curve), 4 * 8 + 1)
        self.assertGreaterEqual(curve[:, 1].min(), 0)
