"""The calendar by constraints: never longer than the list, as short as trying every order on small cases, every rule kept."""

import unittest
from datetime import datetime, timedelta
from itertools import permutations

import numpy as np

from grainet.kit.machine import MachineKind
from grainet.kit.shop_profile import SHIPPED_MACHINES
from grainet.work.bench import Bench
from grainet.work.best_days import best_days, finish
from grainet.work.making import making_of
from grainet.work.operation import ClampSpot, Operation, ShopClamp, Tie
from grainet.work.schedule import Day, schedule
from tests.work.replay import faults_of
from tests.work.test_making import CLAMPS, built

START = datetime(2026, 12, 1, 8)
HOURS = ("08:00", "12:00")


def tried(operations, ties, away=()):
    """The earliest finish over every order in which one hand could do them: each as early as it may."""
    day, best = Day(HOURS, away), None
    needs = {o.id: [t.before for t in ties if t.after == o.id] for o in operations}
    for order in permutations(operations):
        done, free, last = {}, START, START
        for one in order:
            if any(n not in done for n in needs[one.id]):
                break
            at = day.fits(max([free, *(done[n] for n in needs[one.id])]), one.minutes)
            free = at + timedelta(minutes=one.minutes)
            done[one.id] = free + timedelta(minutes=one.wait_minutes)
            last = max(last, done[one.id])
        else:
            best = last if best is None else min(best, last)
    return best


class Best(unittest.TestCase):
    def test_as_short_as_every_order_tried(self):
        shorter = 0
        for seed in range(12):
            r = np.random.default_rng(seed)
            ops = [
                Operation(id=str(k), kind="drill", works_on=(str(k),), minutes=float(r.integers(10, 120)), wait_minutes=float(r.integers(0, 2)) * float(r.integers(60, 1500)))
                for k in range(6)
            ]  # fmt: skip
            ties = [Tie(before=str(a), after=str(b), rule="r") for a in range(6) for b in range(a + 1, 6) if r.random() < 0.25]
            found = best_days(ops, ties, START, 1, HOURS)
            listed = schedule(ops, ties, START, 1, HOURS)
            with self.subTest(seed):
                self.assertEqual(finish(ops, found), tried(ops, ties))
            shorter += finish(ops, found) < finish(ops, listed)
        self.assertGreater(shorter, 0, "the list is not always the best, or nothing is tested")

    def test_nobody_works_on_a_free_day_and_waits_run_through_it(self):
        away = (2, 5, 6)  # the second is a Wednesday
        for seed in range(6):
            r = np.random.default_rng(seed)
            ops = [
                Operation(id=str(k), kind="drill", works_on=(str(k),), minutes=float(r.integers(60, 200)), wait_minutes=float(r.integers(0, 2)) * 900.0)
                for k in range(5)
            ]  # fmt: skip
            ties = [Tie(before=str(a), after=str(a + 1), rule="r") for a in range(4) if r.random() < 0.5]
            listed = schedule(ops, ties, START, 1, HOURS, free=away)
            found = best_days(ops, ties, START, 1, HOURS, free=away)
            with self.subTest(seed):
                for entry in (*listed, *found):
                    self.assertNotIn(datetime.fromisoformat(entry.starts).weekday(), away)
                self.assertEqual(finish(ops, found), tried(ops, ties, away))
        friday = datetime(2026, 12, 4, 11, 30)
        self.assertEqual(Day(HOURS, (5, 6)).fits(friday, 60), datetime(2026, 12, 7, 8))
        self.assertEqual(Day(HOURS, range(7)).fits(friday, 10), friday)  # who is never there is taken to be there always

    def test_clamps_are_held_and_two_hands_share(self):
        spots = (ClampSpot(clamp="c1", x_mm=1, y_mm=1, side="over"),)
        ops = []
        for k in "ab":
            ops.append(Operation(id=f"glue {k}", kind="glue", works_on=(f"{k}1", f"{k}2"), gives=(k,), minutes=10, clamps=spots))
            ops.append(Operation(id=f"cure {k}", kind="cure", works_on=(k,), minutes=2, wait_minutes=60, needs=(f"glue {k}",)))
        found = {e.operation: datetime.fromisoformat(e.starts) for e in best_days(ops, [], START, 2)}
        first, second = sorted((found["glue a"], found["glue b"]))
        self.assertGreaterEqual(second - first, timedelta(minutes=72))

    def test_a_whole_instrument_keeps_every_rule_and_is_never_later(self):
        g, asked, plan = built("set")
        made = making_of(asked, plan, [g], Bench(clamps=CLAMPS), START)
        found = best_days(made.operations, made.rules, START, 1, made.hours)
        self.assertEqual(faults_of(made.changed(calendar=tuple(found)), asked, plan, SHIPPED_MACHINES), [])
        self.assertLessEqual(finish(made.operations, found), finish(made.operations, made.calendar))
        self.assertEqual(best_days(made.operations, made.rules, START, 1, made.hours), found)
        self.assertTrue(any(m.kind is MachineKind.ROUTER for m in SHIPPED_MACHINES))

    def test_what_stands_on_clamps_and_what_is_over_later_is_waited_for(self):
        spots = (ClampSpot(clamp="c1", x_mm=1, y_mm=1, side="over"),)
        ops = [
            Operation(id="glue a", kind="glue", works_on=("x", "y"), gives=("a",), minutes=10, clamps=spots, needs=("old",)),
            Operation(id="b", kind="drill", works_on=("z",), minutes=5),
        ]
        found = {
            e.operation: e.starts
            for e in best_days(ops, [], START, since={"old": START + timedelta(hours=1)}, busy={"c1": START + timedelta(hours=3)})
        }
        self.assertGreaterEqual(found["glue a"], "2026-12-01T11:00")
        self.assertEqual(found["b"], "2026-12-01T08:00")
        self.assertEqual(ShopClamp(id="c1", opens_mm=10, force_kn=1).kind, "bar")


if __name__ == "__main__":
    unittest.main()
