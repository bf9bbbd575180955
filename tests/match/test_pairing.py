"""Boards that are no mates: quiet and alike first, loud last, and what is said of why."""

import dataclasses
import unittest
from itertools import pairwise

from hypothesis import given
from hypothesis import strategies as st

from grainet.kit.pair_limits import PairLimits
from grainet.match.pairing import Pairable, beside, likes_together, pair, ranked

QUIET = Pairable("1", "Red alder", frozenset({"brown"}), 70.0, 1.0, 420.0, 0.0, 900.0)


def other(name, **changes):
    return dataclasses.replace(QUIET, name=name, **changes)


class Pairs(unittest.TestCase):
    def test_of_six_boards_the_closest_is_first_and_the_loud_one_last(self):
        boards = [
            other("close", ring_angle_deg=66.0, density_kg_m3=425.0), other("tilted", ring_angle_deg=30.0), other("heavy", density_kg_m3=520.0),
            other("short", length_mm=500.0, ring_angle_deg=60.0), other("loud", loudness=1.0, ring_angle_deg=55.0), other("steep", slope_deg=6.0),
        ]  # fmt: skip
        found = ranked(QUIET, boards)
        self.assertEqual((found[0].name, found[-1].name), ("close", "loud"))
        self.assertEqual(found[0].why, "quiet and alike")
        self.assertIn("gives the joint away", found[-1].why)

    def test_another_species_is_worse_than_anything_but_its_own_kind_shouting(self):
        foreign, apart = (
            pair(QUIET, other("f", species="Wenge")),
            pair(QUIET, other("a", ring_angle_deg=20.0, density_kg_m3=500.0)),
        )
        self.assertLess(foreign.score, apart.score)
        self.assertEqual(foreign.why, "another species")

    @given(st.floats(0, 90), st.floats(0, 90), st.floats(300, 1100), st.floats(0, 1), st.floats(100, 2000))
    def test_it_is_the_same_both_ways_never_above_100_and_itself_is_best(self, ring, angle, density, loud, length):
        a, b = (
            other("a", ring_angle_deg=ring, loudness=loud),
            other("b", ring_angle_deg=angle, density_kg_m3=density, length_mm=length),
        )
        self.assertAlmostEqual(pair(a, b).score, pair(b, a).score)
        self.assertLessEqual(pair(a, b).score, 100)
        self.assertGreaterEqual(pair(QUIET, other("same")).score, pair(QUIET, b).score)
        more = dataclasses.replace(b, loudness=min(1.0, b.loudness + 0.2))
        self.assertLessEqual(pair(QUIET, more).score, pair(QUIET, b).score)

    def test_what_was_not_read_is_a_doubt_and_no_difference(self):
        unread = pair(QUIET, other("u", ring_angle_deg=None, density_kg_m3=None))
        self.assertGreater(unread.score, 85)
        self.assertLess(unread.score, 100)


if __name__ == "__main__":
    unittest.main()


class Limits(unittest.TestCase):
    def test_the_score_is_0_for_itself_and_1_at_the_limits(self):
        self.assertEqual(beside(QUIET, other("same"), PairLimits()).score, 0)
        at = other("at", ring_angle_deg=50.0, density_kg_m3=460.0, slope_deg=2.5, loudness=0.22)
        found = beside(QUIET, at, PairLimits())
        self.assertEqual((found.score, found.grade), (1.0, "within"))
        self.assertEqual([g.name for g in found.gaps if g.share is None], ["colour"], "not photographed, not counted")

    def test_what_is_over_its_limit_is_written_and_too_much_is_no_pair(self):
        leaning = beside(QUIET, other("l", ring_angle_deg=45.0), PairLimits())
        self.assertEqual((leaning.grade, leaning.why), ("if", "rings 25° apart"))
        self.assertEqual(beside(QUIET, other("f", species="Wenge"), PairLimits()).why, "other species")
        self.assertEqual(beside(QUIET, other("x", ring_angle_deg=5.0), PairLimits()).grade, "apart")
        pale, dark = (other(n, lab=(light, 5.0, 20.0)) for n, light in (("p", 70.0), ("d", 55.0)))
        self.assertIn("colour 15", beside(pale, dark, PairLimits()).why)
        self.assertEqual(beside(pale, dark, PairLimits(colour=20)).grade, "within")

    @given(st.lists(st.floats(0, 90), min_size=2, max_size=6, unique=True))
    def test_likes_lie_next_to_likes(self, angles):
        boards = [other(str(k), ring_angle_deg=a) for k, a in enumerate(angles)]
        row = [b.ring_angle_deg for b in likes_together(boards, PairLimits())]
        self.assertIn(row, (sorted(angles), sorted(angles, reverse=True)) if self.apart(angles) else (row,))
        self.assertEqual(sorted(row), sorted(angles))

    def apart(self, angles):
        """Scores are rounded: only angles that lie well apart have one best order."""
        order = sorted(angles)
        return all(b - a > 1 for a, b in pairwise(order))
