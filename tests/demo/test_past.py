"""The demo shop tells it all: one instrument with its story, one in clamps, one laid out, a proposal, a mishap; made quickly, whatever day it is."""

import tempfile
import unittest
from datetime import datetime, timedelta
from pathlib import Path

from grainet.demo.make import make_demo
from grainet.demo.past import past_values
from grainet.plan.verify import check
from grainet.session.learning import lanes
from grainet.session.making import at_the_bench
from grainet.session.mishaps import mishaps_of
from grainet.session.reports import sawn_boards
from grainet.session.stories import story_of, told_instruments
from grainet.session.surprise import surprise_of


class Past(unittest.TestCase):
    def setUp(self):
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.now = datetime(2031, 3, 5, 23, 50)
        self.shop = make_demo(Path(scratch.name) / "D.grainet", lambda: self.now, past=True)
        self.addCleanup(self.shop.close)

    def test_one_is_whole_one_in_clamps_one_laid_out(self):
        self.assertEqual(self.shop.items.look_through(), [])
        told = {design: whole for design, _, whole in told_instruments(self.shop)}
        self.assertEqual(told, {"heron-5": True, "heron-6": False, "plover": False})
        story = story_of(self.shop, "heron-5")
        self.assertTrue(story.finished and story.weighed_kg and len(story.joints) == 7 and len(story.mishaps) == 1)
        self.assertTrue(all(b.source and b.moisture_pct for b in story.boards))
        plan = self.shop.plans.accepted_for("heron-6")
        bench = at_the_bench(self.shop, plan.id)
        (glued,) = bench.in_clamps
        self.assertTrue(self.now < bench.clamps_off_at(glued) < self.now + timedelta(hours=1))
        laid = self.shop.plans.accepted_for("plover")
        self.assertEqual((laid.progress.done, check(laid.job, laid.plan)), ((), []))
        self.assertEqual(surprise_of(self.shop, laid), "")

    def test_it_proposes_one_figure_and_days_lie_before_now(self):
        self.assertEqual([lane.figure for lane in lanes(self.shop) if lane.stand == "proposes"], [2.4])
        self.assertEqual(len(mishaps_of(self.shop)), 1)
        rows = sawn_boards(self.shop)
        self.assertEqual({r.instrument for r in rows}, {"Heron 5", "Heron 6"})
        for value in past_values(self.now):
            for day in (getattr(value, "on", None), getattr(value, "arrived", None)):
                if day:
                    self.assertLessEqual(day, self.now.date().isoformat())
        self.assertEqual(self.shop.undo(), "what has happened here so far")
        self.assertEqual((len(self.shop.pieces()), told_instruments(self.shop)), (17, []))
