"""The wall: what hangs on it in which order, what it weighs, which of it answers a question."""

import tempfile
import unittest
from datetime import datetime
from pathlib import Path

from grainet.design.parts import design_of
from grainet.design.starting_points import begin
from grainet.present.wall_view import QUESTIONS, Wall, wall
from grainet.session.shop import Shop
from grainet.session.stories import weigh
from tests.work.test_making import WOOD, built


class OnTheWall(unittest.TestCase):
    def setUp(self):
        self.folder = tempfile.TemporaryDirectory()
        self.addCleanup(self.folder.cleanup)
        self.now = datetime(2026, 11, 24, 8, 0)
        self.shop = Shop.open(Path(self.folder.name) / "W.grainet", create=True, clock=lambda: self.now)

    def test_an_empty_shop_has_nothing_on_its_wall(self):
        self.assertEqual(wall(self.shop), [])

    def test_a_guitar_that_is_drawn_up_hangs_there_and_has_no_story_yet(self):
        g = begin("set", "tern-1", "Tern 1")
        self.shop.apply("drawn up", g)
        (one,) = wall(self.shop)
        self.assertEqual((one.name, one.stage, one.weight_words), ("Tern 1", "drawn up", ""))
        self.assertEqual([q for q, yes in QUESTIONS.items() if yes(one)], [])

    def test_laid_out_it_has_woods_and_a_forecast_that_the_scale_replaces(self):
        g, job, plan = built("set")
        self.shop.apply("begun", g, design_of(g), *WOOD)
        self.shop.plans.accept(design_of(g), job, plan)
        kept = Wall()
        (one,) = kept.hung(self.shop)
        self.assertEqual(one.stage, "laid out")
        self.assertTrue(one.weight_words.startswith("about "))
        self.assertTrue(set(one.woods.values()) <= {p.species for p in WOOD})
        self.assertIn("body", one.woods)
        self.assertIs(kept.hung(self.shop), kept.hung(self.shop))  # not worked out twice
        weigh(self.shop, one.design, 3.36)
        (after,) = kept.hung(self.shop)
        self.assertEqual(after.weight_words, "3.36 kg")
        self.assertEqual([q for q, yes in QUESTIONS.items() if yes(after)][:2], ["have a story?", "are under way?"])
