"""Strips of a neck: sums, places, wedges that keep their width, folds, opposing grain, and the words that change them."""

import math
import tempfile
import unittest
from itertools import pairwise
from pathlib import Path

from hypothesis import given, settings
from hypothesis import strategies as st

from grainet.design.drawing import stations
from grainet.design.instrument import Strip
from grainet.design.lamination import (
    even_strips,
    lamination_of,
    mirrored_strips,
    strips_at,
    swapped_woods,
    told_strips,
    with_strips,
)
from grainet.design.starting_points import begin
from grainet.session.commands.figures import FigureReader
from grainet.session.shop import Shop
from grainet.wood.piece import Piece
from grainet.wood.species import library_with
from grainet.wood.value import BadEntry

THICK = st.floats(1, 30).map(lambda mm: round(mm, 1))
STRIPS = st.lists(st.builds(Strip, mm=THICK, taper_mm=st.one_of(st.none(), THICK), accent=st.booleans()), min_size=2, max_size=9)


def neck(*strips):
    g = begin("through", "t", "t")
    return with_strips(g, strips) if strips else g


class Laid(unittest.TestCase):
    @settings(max_examples=40, deadline=None)
    @given(STRIPS, st.floats(0, 1))
    def test_strips_lie_side_by_side_about_the_centre_and_sum_to_their_width(self, strips, share):
        g = neck(*strips)
        at = stations(g)
        x = at.board_end + share * (at.nut - at.board_end)
        rows = strips_at(g, x)
        for (low, _), (_, high) in pairwise(rows):
            self.assertAlmostEqual(low, high)
        self.assertAlmostEqual(rows[0][1], -rows[-1][0])
        wanted = math.fsum(s.mm + ((s.taper_mm if s.taper_mm is not None else s.mm) - s.mm) * share for s in strips)
        self.assertAlmostEqual(sum(high - low for low, high in rows), wanted, places=6)
        self.assertEqual(
            [(round(-b, 9), round(-a, 9)) for a, b in rows],
            [(round(a, 9), round(b, 9)) for a, b in strips_at(g.changed(hand="left"), x)],
        )

    def test_the_sums_the_sides_and_what_is_missing(self):
        g = neck(*(Strip(mm=mm) for mm in (12.1, 1.5, 10.0, 14.9, 10.0, 1.5, 12.0)))
        found = lamination_of(g)
        self.assertAlmostEqual(found.heel_mm, 62.0, places=6)
        self.assertEqual((round(found.bass_mm, 3), round(found.treble_mm, 3), found.joints, found.alike), (31.05, 30.95, 6, True))
        self.assertAlmostEqual(found.missing_mm, found.asked_mm - 62.0, places=6)
        self.assertFalse(lamination_of(neck(Strip(mm=12), Strip(mm=10), Strip(mm=11))).alike)

    def test_two_wedges_laid_against_each_other_keep_their_width_and_say_their_angle(self):
        g = neck(Strip(mm=10, taper_mm=5), Strip(mm=5, taper_mm=10))
        at = stations(g)
        for x in (at.board_end, (at.board_end + at.nut) / 2, at.nut):
            self.assertAlmostEqual(sum(high - low for low, high in strips_at(g, x)), 15, places=6)
        wedge = lamination_of(g).wedges[0]
        self.assertAlmostEqual(wedge.angle_deg, math.degrees(math.atan(5 / (at.nut - at.board_end))), places=6)
        self.assertAlmostEqual(wedge.rise_mm, 100 * 5 / (at.nut - at.board_end), places=6)
        self.assertAlmostEqual(wedge.push, 5 / (at.nut - at.board_end), places=6)

    def test_grain_against_its_neighbour_is_found_across_an_accent(self):
        strips = (Strip(mm=12, grain="head"), Strip(mm=1.5, accent=True), Strip(mm=12, grain="tail"), Strip(mm=12))
        self.assertEqual(lamination_of(neck(*strips)).opposing, ((1, 3),))

    def test_even_mirrored_and_swapped(self):
        g = neck()
        self.assertAlmostEqual(sum(s.mm for s in even_strips(g, 7)), lamination_of(g).asked_mm, delta=0.04)
        for count in (1, 16):
            with self.assertRaisesRegex(BadEntry, "2 to 15"):
                even_strips(g, count)
        odd = [Strip(mm=mm) for mm in (1, 2, 3, 4, 5)]
        self.assertEqual([s.mm for s in mirrored_strips(odd)], [1, 2, 3, 2, 1])
        self.assertEqual([s.mm for s in mirrored_strips(odd[:4])], [1, 2, 2, 1])
        woods = [Strip(mm=5, species=s) for s in ("a", "b", "a")]
        self.assertEqual([s.species for s in swapped_woods(woods)], ["b", "a", "b"])
        with self.assertRaisesRegex(BadEntry, "one wood"):
            swapped_woods(odd)


class Words(unittest.TestCase):
    def setUp(self):
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.shop = Shop.open(Path(scratch.name) / "W.grainet", create=True)
        self.addCleanup(self.shop.close)

    def read(self, g, line):
        return FigureReader(g, self.shop.instruments, library_with(), "mm").read(line).after

    def test_letters_mean_what_is_on_the_rack(self):
        for k, wood in enumerate(("European walnut", "European walnut", "Wenge")):
            self.shop.apply("wood", Piece(id=str(k + 1), species=wood))
        self.assertEqual(self.read(neck(), "strips w12 w10").strips[0].species, "European walnut")

    def test_letters_are_woods_and_the_line_mirrors(self):
        g = self.read(neck(), "strips maple12 a1.5 walnut10>5 m15 =")
        names = [s.species for s in g.strips]
        self.assertEqual(len(names), 7)
        self.assertTrue("maple" in names[0] and names[0] == names[3] == names[6], names)
        self.assertTrue("walnut" in names[2] and names[2] == names[4], names)
        self.assertEqual(
            [(s.mm, s.taper_mm, s.accent) for s in g.strips][:3], [(12, None, False), (1.5, None, True), (10, 5, False)]
        )

    def test_a_strip_of_a_family_is_of_the_wood_that_the_rack_has(self):
        g = self.read(neck(), "strips 5 alike")
        self.assertIn("maple", self.read(g, "strip 1 of maple").strips[0].species)
        self.shop.apply("wood", Piece(id="7", species="Sugar maple (hard)"))
        self.assertEqual(self.read(g, "strip 1 of maple").strips[0].species, "Sugar maple (hard)")

    def test_one_strip_is_changed_turned_and_taken_away(self):
        g = self.read(neck(), "strips 5 alike")
        g = self.read(g, "strip 3 9>4 of walnut")
        self.assertEqual((g.strips[2].mm, g.strips[2].taper_mm), (9, 4))
        self.assertIn("walnut", g.strips[2].species)
        g = self.read(g, "strip 2 grain head")
        g = self.read(g, "strip 2 turn")
        self.assertEqual(g.strips[1].grain, "tail")
        self.assertEqual(len(self.read(g, "strip 5 away").strips), 4)
        self.assertEqual(told_strips(self.read(g, "strips ="))[4], g.strips[0])

    def test_bad_words_are_sentences(self):
        for line, said in (
            ("strip 9 12", "1 .bass side. to 5"), ("strip 2", "needs what it is to be"), ("strip 2 of unobtainium", "not in the species library"),
            ("strips q12", "stands for no wood"), ("strips twelve", "not in the species library|is no strip"), ("strips", "from the bass side on"),
        ):  # fmt: skip
            with self.subTest(line), self.assertRaisesRegex(BadEntry, said):
                self.read(neck(), line)


if __name__ == "__main__":
    unittest.main()
