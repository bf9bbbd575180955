"""What to mind where two woods meet."""

import unittest

from grainet.match.joint_warning import Member, warnings_of
from grainet.wood.species import find


def member(name, species, ring=45.0, moisture=8.5, width=80.0):
    return Member(name, find(species) if species else None, ring, moisture, width)


class JointWarnings(unittest.TestCase):
    def kinds(self, *members, **more):
        return {p.code: p for p in warnings_of(list(members), 7.5, 9.5, **more)}

    def test_red_dust_beside_pale_wood_makes_a_step(self):
        found = self.kinds(member("A", "African padauk"), member("B", "Sugar maple (hard)"))
        self.assertEqual(found["dust"].step, "scrape, vacuum, seal the pale side first")
        self.assertNotIn("dust", self.kinds(member("A", "African padauk"), member("B", "Wenge")))

    def test_tannin_minds_water_only(self):
        pair = (member("A", "White oak"), member("B", "White oak"))
        self.assertIn("little water, scrape", self.kinds(*pair)["tannin"].step)
        self.assertNotIn("tannin", self.kinds(*pair, water_based=False))

    def test_oil_hardness_and_movement(self):
        found = self.kinds(member("A", "Cocobolo", 0), member("B", "American basswood", 90), most_movement_mm=0.1)
        self.assertIn("oil", found)
        self.assertIn("times as hard", found["hardness"].text)
        self.assertIn("over a year", found["movement"].text)
        same = self.kinds(member("A", "Sugar maple (hard)", 80), member("B", "Sugar maple (hard)", 80))
        self.assertEqual(same, {})

    def test_a_gap_over_two_warns_and_over_three_blocks(self):
        ash = "White ash"
        self.assertNotIn("moisture", self.kinds(member("A", ash, moisture=8), member("B", ash, moisture=9.9)))
        self.assertEqual(self.kinds(member("A", ash, moisture=8), member("B", ash, moisture=10.5))["moisture"].grade, "warn")
        self.assertEqual(self.kinds(member("A", ash, moisture=8), member("B", ash, moisture=11.5))["moisture"].grade, "block")
        self.assertIn("not read", self.kinds(member("A", ash, moisture=None), member("B", ash))["moisture"].text)

    def test_the_gravest_comes_first(self):
        rows = warnings_of([member("A", "Cocobolo", moisture=8), member("B", "White oak", moisture=12)], 7.5, 9.5)
        self.assertEqual([p.grade for p in rows], sorted((p.grade for p in rows), key=["block", "warn", "note"].index))


if __name__ == "__main__":
    unittest.main()
