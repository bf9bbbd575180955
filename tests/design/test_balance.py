"""What an instrument weighs and where it balances: closed forms, mirrored and moved."""

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from grainet.design.allowances import Allowances
from grainet.design.blanks import blanks_of
from grainet.design.outline_body import turned_body
from grainet.design.starting_points import POINTS, begin
from grainet.design.weight import balance_of, blank_weight, weight_of
from grainet.wood.species import library_with

LIBRARY = library_with()


class Weighing(unittest.TestCase):
    def test_the_whole_is_the_sum_of_its_blanks_and_denser_wood_is_heavier(self):
        for point in POINTS:
            g = begin(point, "g", "g")
            self.assertAlmostEqual(
                weight_of(g, LIBRARY).kg, sum(blank_weight(g, b, LIBRARY).kg for b in blanks_of(g, Allowances()))
            )
            light, heavy = (weight_of(g.with_figure("body.species", [name]), LIBRARY).kg for name in ("Red alder", "Wenge"))
            self.assertLess(light, heavy)

    def test_a_cavity_takes_its_volume_away(self):
        g = begin("bolt-on", "g", "g").with_figure("body.species", ["Red alder"])
        ring = [[100, -60], [160, -60], [160, -10], [100, -10]]
        routed = g.with_figure("body.cavities", [{"name": "c", "depth_mm": 20.0, "polygon": ring}])
        less = weight_of(g, LIBRARY).kg - weight_of(routed, LIBRARY).kg
        self.assertAlmostEqual(less, 60 * 50 * 20 * 1e-9 * LIBRARY.find("Red alder").density_12_kg_m3, delta=0.004)


class Balancing(unittest.TestCase):
    def test_a_body_alike_on_both_sides_is_level(self):
        g = begin("bolt-on", "g", "g").with_figure("body.outline", [[0, -150], [400, -150], [400, 150], [0, 150]])
        found = balance_of(g, LIBRARY)
        self.assertAlmostEqual(found.bass_less_treble_kg, 0.0, places=9)
        self.assertGreater(found.from_tail_mm, 200, "the neck draws it beyond the body's middle")

    @settings(max_examples=12, deadline=None)
    @given(st.sampled_from(sorted(POINTS)))
    def test_a_mirrored_body_leans_to_the_other_side(self, point):
        g = begin(point, "g", "g")
        one, other = balance_of(g, LIBRARY), balance_of(turned_body(g, "mirror"), LIBRARY)
        self.assertAlmostEqual(one.bass_less_treble_kg, -other.bass_less_treble_kg, places=6)
        self.assertAlmostEqual(one.from_tail_mm, other.from_tail_mm, places=6)

    def test_a_left_handed_one_has_its_bass_side_below(self):
        g = begin("bolt-on", "g", "g")
        left = turned_body(g, "mirror").with_figure("hand", "left")
        self.assertAlmostEqual(
            balance_of(g, LIBRARY).bass_less_treble_kg, balance_of(left, LIBRARY).bass_less_treble_kg, places=6
        )


if __name__ == "__main__":
    unittest.main()
