"""Records against planned figures: closed forms, bad data, what is proposed and what is asked instead."""

import random
import statistics
import unittest

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from grainet.wood.species import library_with
from grainet.work.learning import AGAIN, FROM, Lane, lanes_of
from grainet.work.record import KeptAsItWas, Learnt, Record
from grainet.work.wear import blunts, wear_of


def records(values, what="skim", planned=1.0, tool="planer", species="White ash"):
    return tuple(Record(id=f"r{k}", what=what, tool=tool, species=species, planned=planned, measured=v, on=f"2026-11-{k % 28 + 1:02d}", board="42") for k, v in enumerate(values))  # fmt: skip


def lane(values, assumed=1.0, what="skim", planned=1.0, kept_at=0):
    return Lane(what, "planer", "White ash", records(values, what, planned), assumed, kept_at)


class Figures(unittest.TestCase):
    def test_five_records_with_a_median_of_2_4_propose_it_in_place_of_1_0(self):
        found = lane([2.1, 2.2, 2.4, 2.6, 2.7])
        self.assertEqual((found.stand, found.figure), ("proposes", 2.4))
        self.assertEqual(found.middle_half, (2.2, 2.6))
        self.assertAlmostEqual(found.spread, statistics.stdev([2.1, 2.2, 2.4, 2.6, 2.7]))
        self.assertEqual(lane([2.1, 2.2, 2.4, 2.6]).stand, "few")
        self.assertEqual(lane([1.0, 1.02, 0.98, 1.0, 1.05]).stand, "agrees")
        self.assertEqual(lane([2.4] * 5, assumed=None).stand, "agrees")  # nothing is planned with it

    def test_a_middle_half_broader_than_half_the_median_asks_for_the_cause(self):
        for values, words in (
            ([0.9, 1.0, 1.2, 2.8, 3.1], "two groups"), ([0.5, 1.0, 1.6, 2.2, 2.8], "spread all along"), ([1.0, 1.0, 1.1, 1.7, 9.0], "stands alone, 9.0 on No. 42"),
        ):  # fmt: skip
            found = lane(values)
            with self.subTest(values):
                self.assertEqual(found.stand, "asks")
                self.assertIn(words, found.cause)
        just = lane([1.0, 1.5, 2.0, 2.5, 3.0])  # middle half 1.0 = half the median: not broader
        self.assertEqual(just.stand, "proposes")

    def test_one_wild_record_does_not_move_the_figure(self):
        found = lane([2.3, 2.4, 2.4, 2.5, 24.0])
        self.assertEqual((found.stand, found.figure), ("proposes", 2.4))

    def test_misses_are_planned_with_what_nine_of_ten_stay_within_and_a_bias_is_a_wrong_stop(self):
        both = [505 + d for d in (-0.4, 0.3, -0.2, 0.5, 0.1, -0.3)]
        found = lane(both, assumed=2.0, what="miss", planned=505)
        self.assertEqual(found.bias, 0.0)
        self.assertEqual(
            (found.stand, found.figure), ("proposes", round(float(np.percentile([0.4, 0.3, 0.2, 0.5, 0.1, 0.3], 90)), 1))
        )
        long = lane([505 + d for d in (0.6, 0.7, 0.5, 0.6, 0.8)], assumed=2.0, what="miss", planned=505)
        self.assertEqual((long.stand, long.bias), ("asks", 0.6))
        self.assertIn("0.6 long", long.cause)

    def test_times_are_shares_of_what_was_planned(self):
        found = lane([12, 14, 13, 12.5, 13.5], assumed=1.0, what="minutes", planned=10.0)
        self.assertEqual((found.stand, found.figure), ("proposes", 1.3))

    def test_a_lane_that_was_kept_is_silent_until_five_more_have_come(self):
        values = [2.4, 2.5, 2.3, 2.4, 2.6]
        self.assertEqual(lane(values, kept_at=5).stand, "kept")
        self.assertEqual(lane(values * 2, kept_at=5).stand, "proposes")
        self.assertEqual(lane((values * 2)[: FROM + AGAIN - 1], kept_at=5).stand, "kept")

    @given(st.lists(st.floats(0.1, 5), min_size=1, max_size=30), st.randoms())
    def test_order_does_not_matter_and_nothing_is_proposed_from_few(self, values, rng):
        shuffled = list(values)
        rng.shuffle(shuffled)
        one, other = lane(values), lane(shuffled)
        self.assertEqual((one.stand, one.median, one.middle_half), (other.stand, other.median, other.middle_half))
        self.assertAlmostEqual(one.median, statistics.median(values))
        self.assertEqual(one.stand == "few", len(values) < FROM)
        low, high = one.middle_half
        self.assertTrue(min(values) - 1e-9 <= low <= one.median + 1e-9 <= high + 2e-9 <= max(values) + 3e-9)

    def test_lanes_are_told_apart_by_what_tool_and_wood_and_those_that_speak_come_first(self):
        rows = [
            *records([2.4] * 5),
            *records([1.0] * 7, tool="thicknesser"),
            *records([2.4] * 3, species="Hard maple"),
            *records([0.9, 1.0, 1.2, 2.8, 3.1], what="edge"),
        ]
        random.Random(3).shuffle(rows)
        learnt = Learnt(kept=(KeptAsItWas(lane="skim|thicknesser|White ash", count=7, on="2026-11-20"),))
        found = lanes_of(rows, learnt, lambda what, _tool, _species: {"skim": 1.0, "edge": 1.5}.get(what))
        self.assertEqual([(f.what, f.tool, f.species, f.stand) for f in found], [
            ("skim", "planer", "White ash", "proposes"), ("edge", "planer", "White ash", "asks"), ("skim", "thicknesser", "White ash", "agrees"),
            ("skim", "planer", "Hard maple", "few")])  # fmt: skip
        self.assertEqual(found[2].kept_at, 7)


class Wearing(unittest.TestCase):
    def test_five_metres_of_siliceous_wood_count_twenty_five(self):
        siliceous = next(s for s in library_with().all if "silica" in s.flags)
        plain = next(s for s in library_with().all if not s.flags and s.basic_sg < 0.6)
        found = wear_of("table saw", [("2026-11-02", 5000, siliceous), ("2026-11-01", 9000, siliceous)], "2026-11-02")
        self.assertEqual((found.metres, found.counts), (5.0, 25.0))
        self.assertEqual((blunts(plain), blunts(None)), (1.0, 1.0))
        self.assertEqual(wear_of("x", [], "").counts, 0.0)
