"""What is done at the bench is kept: killed in the middle of ticks and cures, walked back and forth, opened again, in any order."""

import os
import random
import signal
import subprocess
import sys
import tempfile
import time
import unittest
from datetime import datetime, timedelta
from pathlib import Path

from grainet.design.parts import design_of
from grainet.session.making import (
    at_the_bench,
    bind_again,
    do,
    give_back,
    letters_on,
    log_of,
    methods_of,
    override,
    put_before,
    shelve,
    take_apart,
)
from grainet.session.shop import Shop
from grainet.work.holds import Held
from grainet.work.operation import Entry
from tests.work.test_making import WOOD, built

BOUGHT = ("rod.depth_mm", "rod.width_mm", "rod.curve_mm", "tuner.shank_mm", "nut_mm", "spread_mm")


class Clock:
    """A clock that the test turns on."""

    def __init__(self):
        self.now = datetime(2026, 12, 1, 8, 0)

    def __call__(self):
        return self.now


def begun(folder, clock):
    """A shop with the set-neck guitar laid out, its bought parts measured; the shop and the plan's id."""
    shop = Shop.open(folder, create=True, clock=clock)
    g, job, plan = built("set")
    g = g.with_figures({path: g.figure(path) for path in BOUGHT})
    shop.apply("begun", g, design_of(g), *WOOD)
    return shop, shop.plans.accept(design_of(g), job, plan).id


def do_next(shop, plan_id, clock, bench=None):
    """What comes next, with what it asks for; None where everything waits, and an hour goes by."""
    bench = bench or at_the_bench(shop, plan_id)
    if not bench.ready:
        clock.now += timedelta(hours=1)
        return None
    one = bench.ready[0]
    figures = {"fit": {"ends_mm": 0.0, "middle_mm": 0.0}, "trial": {"mm": 0.05}}.get(one.kind, {})
    letters = letters_on(bench.making, one) if one.kind == "glue" else ()
    do(bench, one, figures=figures, letters=letters, agreed=[c.code for c in one.cautions if c.grade == "A"])
    clock.now += timedelta(minutes=one.minutes)
    return one


KILLED = """
import sys
from pathlib import Path
from tests.session.test_bench_kept import Clock, begun, do_next
clock = Clock()
shop, plan = begun(Path(sys.argv[1]), clock)
print(plan, flush=True)
for _ in range(400):
    one = do_next(shop, plan, clock)
    if one is not None:
        print(one.id, flush=True)
"""


class Killed(unittest.TestCase):
    def test_every_tick_that_was_said_is_there_and_the_clocks_go_on(self):
        """Killed in the middle: a fresh program finds the ticks, the next step and the cures that run."""
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name) / "S.grainet"
            process = subprocess.Popen([sys.executable, "-c", KILLED, str(folder)], stdout=subprocess.PIPE, text=True)
            plan = process.stdout.readline().strip()
            told = [process.stdout.readline().strip() for _ in range(30)]
            time.sleep(0.02)
            os.kill(process.pid, signal.SIGKILL)
            told += [line.strip() for line in process.stdout.read().splitlines() if line.endswith("\n") or line]
            process.wait()
            process.stdout.close()
            clock = Clock()
            clock.now += timedelta(days=2)
            shop = Shop.open(folder, clock=clock)
            bench = at_the_bench(shop, plan)
            names = {o.id: o for o in bench.making.operations}
            for one in filter(names.get, told):
                self.assertTrue(bench.done(names[one]), one)
            for one in (o for o in bench.making.operations if o.kind == "glue" and bench.done(o)):
                self.assertGreater(bench.clamps_off_at(one), Clock().now)
                self.assertLess(bench.clamps_off_at(one), clock.now, "two days later every clamp is off")
            if bench.left:
                self.assertTrue(bench.ready or any(bench.waits_until(o) for o in bench.left))
            shop.close()


class Clamps(unittest.TestCase):
    """Joints of one plan, and of two, with clamps that are alike: a busy one is stood in for, and never stands on two joints."""

    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.clock = Clock()
        self.shop, self.plan = begun(Path(folder.name) / "S.grainet", self.clock)
        self.addCleanup(lambda: self.shop.close())
        g, job, plan = built("bolt-on")
        g = g.with_figures({path: g.figure(path) for path in BOUGHT})
        self.shop.apply("another", g, design_of(g))
        self.other = self.shop.plans.accept(design_of(g), job, plan).id

    def count(self, bars):
        kit = self.shop.kit
        some = tuple(c.changed(count=bars if c.kind.startswith("bar") else 0) for c in kit.clamps)
        self.shop.apply("clamps", kit.changed(clamps=some))

    def until_glue(self, plan):
        for _ in range(300):
            bench = at_the_bench(self.shop, plan)
            ready = [o for o in bench.ready if o.kind == "glue"]
            if ready:
                return bench, ready[0]
            do_next(self.shop, plan, self.clock, bench)
        raise AssertionError("never came to it")

    def glue(self, bench, one):
        return do(bench, one, letters=letters_on(bench.making, one), agreed=[c.code for c in one.cautions if c.grade == "A"])

    def test_a_second_build_takes_others_that_are_alike(self):
        self.count(40)
        glued = [o for o in at_the_bench(self.shop, self.plan).making.operations if o.kind == "glue" and o.clamps]
        used = {o.gives[0]: {s.clamp for s in o.clamps} for o in glued}
        self.assertFalse(used["set.body"] & used["set.top"], "both are glued on the same morning")
        self.assertEqual(len(set().union(*used.values())), min(40, sum(map(len, used.values()))))
        _, late = self.until_glue(self.other)
        bench, first = self.until_glue(self.plan)
        bench = self.glue(bench, first)
        held = set(bench.clamps_on(first))
        self.assertEqual(len(held), len(first.clamps))
        other = at_the_bench(self.shop, self.other)
        self.assertEqual(set(other.busy_clamps), held, "what stands on one build is busy for the other")
        self.assertTrue(held & {s.clamp for s in late.clamps}, "both asked for the same ones: nothing is tried here")
        other = self.glue(other, late)
        mine = other.clamps_on(late)
        self.assertEqual(len(set(mine)), len(late.clamps))
        self.assertFalse(held & set(mine))
        self.assertEqual(other.log.row(late.id).clamps, mine)
        self.shop.undo()
        self.assertEqual(set(at_the_bench(self.shop, self.other).busy_clamps), held)

    def test_where_none_is_left_it_is_said_until_when(self):
        self.count(6)
        _, late = self.until_glue(self.other)
        bench, first = self.until_glue(self.plan)
        self.glue(bench, first)
        with self.assertRaisesRegex(Held, "of its clamps stand on another joint until"):
            self.glue(at_the_bench(self.shop, self.other), late)
        bench = at_the_bench(self.shop, self.plan)
        self.clock.now = bench.clamps_off_at(first).replace(tzinfo=None) + timedelta(minutes=1)
        bench = at_the_bench(self.shop, self.plan)
        do(bench, bench.cure_of(first))
        other = self.glue(at_the_bench(self.shop, self.other), late)
        self.assertEqual(other.log.row(late.id).clamps, (), "its own are free again")


class Walked(unittest.TestCase):
    def setUp(self):
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder, self.clock = Path(folder.name) / "S.grainet", Clock()
        self.shop, self.plan = begun(self.folder, self.clock)
        self.addCleanup(lambda: self.shop.close())

    @property
    def bench(self):
        return at_the_bench(self.shop, self.plan)

    def kept(self):
        """All that the shop knows of the making, the saw's own record and the rack."""
        rows = [log_of(self.shop, self.plan).model_dump_json(), self.bench.under_way.progress.model_dump_json()]
        return "\n".join([*rows, *sorted(p.model_dump_json() for p in self.shop.pieces(everything=True))])

    def something(self, rng, *, gives_back=True):
        """One edit of the bench by chance; what it was, or empty where it was refused."""
        bench = self.bench
        what = rng.choice(("do", "do", "do", "do", "over", "bind", "before", "apart", "shelf", "back"))
        try:
            if what == "do":
                return what if do_next(self.shop, self.plan, self.clock, bench) else ""
            if what == "over":
                override(bench, rng.choice([t for t in bench.making.rules if t.blocks]), "a jig holds it")
            elif what == "bind" and bench.log.over:
                row = rng.choice(bench.log.over)
                bind_again(
                    bench, next(t for t in bench.making.rules if (t.before, t.after, t.rule) == (row.before, row.after, row.rule))
                )
            elif what == "before" and len(bench.left) > 2:
                first, later = sorted(rng.sample(range(len(bench.left)), 2))
                put_before(bench, bench.left[later], bench.left[first])
            elif what == "apart":
                glued = [o for o in bench.making.operations if o.kind == "glue" and methods_of(bench, o)]
                if not glued:
                    return ""
                take_apart(bench, one := rng.choice(glued), rng.choice(methods_of(bench, one)))
            elif what == "shelf":
                shelve(bench, rng.choice(sorted(bench.states)), "C3")
            elif what == "back" and gives_back and rng.random() < 0.3:
                give_back(bench, rng.choice(sorted(bench.states)))
            else:
                return ""
        except Held:
            return ""
        return what

    def test_back_to_nothing_and_forth_again_byte_for_byte(self):
        rng = random.Random(2)
        states, done = [self.kept()], []
        while len(done) < 32:
            if what := self.something(rng):
                if (now := self.kept()) != states[-1]:  # a rule that was set aside with the same words is no edit
                    states.append(now)
                    done.append(what)
                else:
                    self.assertEqual(what, "over")
        self.assertGreater(len(set(done)), 4, done)
        for k in range(len(done) - 1, -1, -1):
            self.assertIsNotNone(self.shop.undo())
            self.assertEqual(self.kept(), states[k], (k, done[k]))
        for k, what in enumerate(done, 1):
            self.assertIsNotNone(self.shop.redo())
            self.assertEqual(self.kept(), states[k], (k, what))
        self.shop.close()
        self.shop = Shop.open(self.folder, clock=self.clock)
        self.assertEqual(self.kept(), states[-1])
        for _ in done:
            self.shop.undo()
        self.assertEqual(self.kept(), states[0])

    def test_a_part_given_back_asks_the_saw_for_another_plan(self):
        while not any(word.startswith("cut") for word in self.bench.states.values()):
            do_next(self.shop, self.plan, self.clock)
        name = next(n for n, word in sorted(self.bench.states.items()) if word.startswith("cut"))
        self.assertTrue(self.shop.has_piece(give_back(self.bench, name)))
        self.assertTrue(self.bench.under_way.progress.lost)
        with self.assertRaisesRegex(Held, "plan the rest again"):
            for _ in range(400):
                do_next(self.shop, self.plan, self.clock)
        self.shop.undo()
        self.assertFalse(self.bench.under_way.progress.lost)

    def test_whatever_was_done_before_the_rest_still_comes_to_its_end(self):
        """After rules set aside, moves, joints taken apart and shelves, a list can still be made of what is left, and it leads to the end."""
        rng = random.Random(7)
        for _ in range(45):
            self.something(rng, gives_back=False)
            bench = self.bench
            self.assertEqual({e.operation for e in bench.calendar.values()}, {o.id for o in bench.left})
            self.assertTrue(all(isinstance(e, Entry) for e in bench.calendar.values()))
        for one in self.bench.log.apart:
            self.assertIn(one.operation, {o.id for o in self.bench.making.operations})
        for _ in range(600):
            if not self.bench.left:
                break
            do_next(self.shop, self.plan, self.clock)
        self.assertEqual([o.id for o in self.bench.left], [])


if __name__ == "__main__":
    unittest.main()
