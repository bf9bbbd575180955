"""Workpieces that rest: once one was read, its straightness over days says when it may be levelled; a reason sets that aside."""

import unittest
from datetime import timedelta

from grainet.present.bench_view import bench_step
from grainet.session.learning_words import reads
from grainet.session.making import override
from grainet.session.resting import read_straight, still_until
from grainet.wood.value import BadEntry
from tests.session.test_making import Begun


class Resting(Begun):
    def setUp(self):
        super().setUp()
        self.rest = self.do_next(lambda one: one.id == "rest set.D1, sawn")  # the neck
        self.level = next(o for o in self.bench.left if self.rest.id in o.needs)
        self.start = self.clock.now

    def on_day(self, days, mm=None):
        """So many days after it was laid on sticks, read there."""
        self.clock.now = self.start + timedelta(days=days)
        return read_straight(self.bench, self.rest, mm) if mm is not None else ""

    def test_without_a_reading_the_clock_alone_decides(self):
        self.assertIsNotNone(self.bench.waits_until(self.level))
        self.on_day(3.1)
        self.assertIsNone(self.bench.waits_until(self.level))

    def test_what_moves_stays_closed_and_three_still_readings_over_a_week_open_it(self):
        self.on_day(0, 1.5)
        said = self.on_day(3, 2.0)
        self.assertIn("moved 0.5 at the last reading", said)
        self.on_day(6)
        self.assertIn("moved 0.5", next(h.text for h in self.bench.holds(self.level)), "its hours are over, and it still moves")
        self.assertNotIn(self.level, self.bench.ready)
        self.assertIn("still for 4 days", self.on_day(7, 2.0))
        self.assertEqual(still_until(self.bench, self.rest).date(), (self.start + timedelta(days=10)).date())
        self.assertGreaterEqual(
            self.bench.calendar[self.level.id].starts[:10], (self.start + timedelta(days=10)).date().isoformat()
        )
        self.on_day(12)
        self.assertNotIn(self.level, self.bench.ready, "the day has come, and nobody has read it")
        self.assertIn("has settled", self.on_day(12, 2.1))
        self.assertIsNone(self.bench.waits_until(self.level))
        self.assertIn("has settled", bench_step(self.bench, self.rest, "mm").then)

    def test_a_reason_in_the_order_sets_it_aside_and_undo_brings_it_back(self):
        self.on_day(0, 1.5)
        self.on_day(4, 2.5)
        self.assertNotIn(self.level, self.bench.ready)
        tie = next(t for t in self.bench.making.rules if (t.before, t.after) == (self.rest.id, self.level.id))
        override(self.bench, tie, "only a skim, it is levelled again next week")
        self.assertIn(self.level.id, [o.id for o in self.bench.ready])
        self.shop.undo()
        self.assertNotIn(self.level.id, [o.id for o in self.bench.ready])

    def test_it_is_typed_anywhere_with_its_wind_and_both_must_agree(self):
        def say(days, line):
            self.on_day(days)
            reads(self.shop, line).does()

        for days, line in ((0, "straight D1 1.5 0.2"), (4, "straight set.d1 1.5 0.9"), (8, "straight D1 1.5 0.9")):
            say(days, line)
        self.assertNotIn(self.level, self.bench.ready, "it was out of wind by other figures")
        self.assertEqual([r.twist_mm for r in self.bench.log.straight], [0.2, 0.9, 0.9])
        say(12, "straight D1 1.6 1.0")
        self.assertIn(self.level.id, [o.id for o in self.bench.ready])
        for line, words in (
            ("straight D1", "such as straight D1"), ("straight Z9 1", "does not rest"), ("straight D1 400", "at most 300"),
            ("straight D1 x", "x"), ("straight E1 1", "does not rest"),
        ):  # fmt: skip
            with self.subTest(line), self.assertRaisesRegex(BadEntry, words):
                reads(self.shop, line)

    def test_where_the_house_only_advises_it_is_told_and_waits_for_nothing(self):
        rules = self.shop.kit.rules.changed(rest_neck="advise")
        self.shop.apply("rules", self.shop.kit.changed(rules=rules))
        self.on_day(0, 1.5)
        self.assertIn("Nothing waits for it", self.on_day(4, 2.5))
        self.assertIn(self.level.id, [o.id for o in self.bench.ready])

    def test_a_reading_is_undone_and_the_last_of_a_day_counts(self):
        before = self.bench.log
        self.on_day(1, 1.0)
        self.on_day(1, 1.2)
        self.assertEqual([r.bow_mm for r in self.bench.log.straight], [1.2])
        self.shop.undo()
        self.shop.undo()
        self.assertEqual(self.bench.log, before)


if __name__ == "__main__":
    unittest.main()
