"""The shop profile: defaults that hold together, stack arithmetic, limits that are refused."""

import unittest

from pydantic import ValidationError

from grainet.kit.cut_kit import CutKit, Kerfs, Machines
from grainet.kit.shop_profile import ShopProfile
from grainet.kit.use import Use
from grainet.kit.uses import SHIPPED_USES


class Kit(unittest.TestCase):
    def test_absent_means_no_loss_and_no_limit(self):
        kit = CutKit()
        self.assertEqual(kit.stack_mm(7, 2), 14)
        self.assertIsNone(kit.machines.resaw_height_mm)
        self.assertEqual(set(Kerfs().model_dump().values()), {0})

    def test_a_stack_of_leaves_counts_each_saw_cut_and_both_its_skims(self):
        kit = CutKit(kerf_mm=Kerfs(resaw=1.2), resaw_skim_mm=0.4)
        self.assertAlmostEqual(kit.leaf_loss_mm, 2.0)
        self.assertAlmostEqual(kit.stack_mm(8, 6), 58)

    def test_absurd_figures_are_refused(self):
        for change in ({"skim_mm": -1}, {"trim_mm": 9999}, {"cutting": "laser"}, {"colour": 1}):
            with self.assertRaises(ValidationError):
                CutKit(**change)
        with self.assertRaises(ValidationError):
            Machines(resaw_height_mm=0)
        with self.assertRaises(ValidationError):
            ShopProfile(humidity=1.5)

    def test_every_use_has_one_rule_with_a_source(self):
        self.assertEqual(tuple(r.use for r in SHIPPED_USES), tuple(Use))
        for rule in SHIPPED_USES:
            self.assertTrue(rule.source)
            self.assertLess(rule.density_kg_m3[0], rule.density_kg_m3[1])

    def test_the_target_moisture_follows_the_climate(self):
        self.assertAlmostEqual(ShopProfile().target_moisture_pct, 8.5, delta=0.1)
        self.assertGreater(ShopProfile(humidity=0.6).target_moisture_pct, 10)

    def test_every_guessed_figure_is_one_that_the_kit_book_asks_for(self):
        from grainet.desk.screens.shop_profile.machines import COLUMNS

        guessed = {name for machine in ShopProfile().machines for name in machine.guessed}
        self.assertTrue(guessed)
        self.assertLessEqual(guessed, {column.field for column in COLUMNS})

    def test_values_are_frozen_and_change_by_copy(self):
        kit = ShopProfile()
        with self.assertRaises(ValidationError):
            kit.humidity = 0.5
        self.assertEqual(kit.changed(humidity=0.5).humidity, 0.5)
        with self.assertRaises(ValidationError):
            kit.changed(humidity=7.0)
