"""Where a cutter tears: an ellipse in closed form, turned over, with leaning fibres; rectangles; what is said."""

import unittest

import numpy as np

from grainet.fit.tear_out import stretches, told
from tests.jobs import rect

ANGLES = np.linspace(0, 2 * np.pi, 240, endpoint=False)
ELLIPSE = np.stack([220 * np.cos(ANGLES), 90 * np.sin(ANGLES)], axis=1)


def quadrants(found, kind="tears"):
    """In which quadrants stretches of a kind have their middle: signs of x and y."""
    middles = [s.points[len(s.points) // 2] for s in found if s.kind == kind]
    return {(bool(x > 0), bool(y > 0)) for x, y in middles}


class AnEllipseAlongTheGrain(unittest.TestCase):
    def test_two_opposite_quadrants_tear_and_turned_over_the_other_two(self):
        one, other = stretches(ELLIPSE, 0), stretches(ELLIPSE, 0, turned_over=True)
        self.assertEqual(sum(s.kind == "tears" for s in one), 2)
        self.assertEqual(len(quadrants(one)), 2)
        (a, b), (c, d) = quadrants(one)
        self.assertEqual((a, b), (not c, not d))
        self.assertEqual(quadrants(one) & quadrants(other), set())
        self.assertEqual(len(quadrants(one) | quadrants(other)), 4)

    def test_the_ends_are_end_grain_whichever_side_is_up(self):
        for over in (False, True):
            ends = [s for s in stretches(ELLIPSE, 0, turned_over=over) if s.kind == "end"]
            self.assertEqual(sorted(round(float(s.points[len(s.points) // 2][0]), -1) for s in ends), [-220, 220])

    def test_the_way_in_which_the_outline_is_drawn_changes_nothing(self):
        self.assertEqual(quadrants(stretches(ELLIPSE, 7)), quadrants(stretches(ELLIPSE[::-1], 7)))

    def test_a_leaning_fibre_moves_the_stretches_round(self):
        def share(fibre):
            return sum(s.length_mm for s in stretches(ELLIPSE, fibre) if s.kind == "tears")

        straight = stretches(ELLIPSE, 0)
        lean = stretches(ELLIPSE, 25)
        self.assertNotAlmostEqual(share(0), share(25), delta=5)
        self.assertEqual(sum(s.kind == "tears" for s in lean), sum(s.kind == "tears" for s in straight))


class Plainer(unittest.TestCase):
    def test_a_rectangle_along_the_grain_has_ends_and_tears_nowhere(self):
        found = stretches(np.array(rect(300, 80)), 0)
        self.assertEqual([s.kind for s in found].count("end"), 2)
        self.assertEqual(told(found, found), "Nothing tears on this side up")

    def test_across_leaning_fibres_its_long_sides_differ(self):
        found = stretches(np.array(rect(300, 80)), 5)
        kinds = {s.kind for s in found}
        self.assertIn("tears", kinds)
        self.assertEqual(sum(s.kind == "tears" for s in found), 2)  # both long sides: the feed comes back along the other

    def test_it_says_how_many_and_how_long(self):
        one, other = stretches(ELLIPSE, 0), stretches(ELLIPSE, 0, turned_over=True)
        self.assertRegex(
            told(one, other), r"^Tears in 2 stretches, \d+ in all; turned over the other 2 would; leave more at 2 ends$"
        )


if __name__ == "__main__":
    unittest.main()
