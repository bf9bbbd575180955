"""What is said of a guitar's joints with the wood that the rack would give, and what the cards of ways out say."""

import tempfile
import unittest
from pathlib import Path

from grainet.design.mend import Mend
from grainet.design.mends import with_mend
from grainet.design.starting_points import begin
from grainet.kit.shop_profile import GUESSED_CUTS
from grainet.plan.rescuing import Rescue, way_from_data, way_to_data
from grainet.present.draw_up import as_drawn, lanes_of, to_mind, with_choice
from grainet.present.rescue import TITLES, card_of, missing_words
from grainet.session.shop import Shop
from grainet.wood.piece import MoistureReading, Piece


def board(number, species, pct):
    ring = ((0.0, 0.0), (1000.0, 0.0), (1000.0, 200.0), (0.0, 200.0))
    read = (MoistureReading(x_mm=500, y_mm=100, depth_mm=10, moisture_pct=pct),)
    return Piece(id=number, species=species, outline=ring, thickness_mm=50.0, moisture=read)


class Joints(unittest.TestCase):
    def setUp(self):
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.shop = Shop.open(Path(scratch.name) / "J.grainet", create=True)
        self.addCleanup(self.shop.close)
        self.lanes = lanes_of(begin("bolt-on", "g", "g"), self.shop.kit.cuts.allowances, "mm")

    def told(self, **pieces):
        return to_mind(self.lanes, pieces, self.shop.kit, self.shop.air.year)

    def test_a_wet_board_beside_a_dry_one_and_a_hard_one_on_a_soft_one_are_said_with_their_joint(self):
        found = self.told(neck=board("1", "European sycamore maple", 8.0), fretboard=board("2", "Gabon ebony", 12.5))
        self.assertEqual(found[0][1].grade, "block", "the gravest first")
        self.assertIn("4.5 apart", found[0][1].text)
        self.assertEqual(found[0][0], "fretboard and neck")
        self.assertTrue(any("times as hard" in warning.text for _, warning in found))

    def test_two_halves_of_one_board_or_of_none_have_nothing_against_them(self):
        one = board("1", "Red alder", 8.0)
        self.assertEqual(self.told(**{"body.treble": one, "body.bass": one}), [])
        self.assertEqual(self.told(neck=one), [])


class Cards(unittest.TestCase):
    def test_every_kind_has_its_words_and_comes_through_the_pipe_unchanged(self):
        g = begin("bolt-on", "g", "g")
        for kind in TITLES:
            other = g.with_figure("body.thickness_mm", 40.0) if kind == "thinner body" else g.with_figure("scale_mm", [610.0])
            way = Rescue(kind, (), 2, 1, (("18", 1223.0),), 2.6, visible=True, keeps_drawing=False, guitar=other)
            card = card_of(way, g, "18", "mm")
            self.assertIn("2 seams more", card.told)
            self.assertIn("No. 18, 1223 of it", card.told)
            self.assertEqual(way_from_data(way_to_data(way)), way)
        self.assertEqual(card_of(Rescue("shift and tilt", (), 0, 0, (), 0.4, visible=False), g, "9", "mm").wood, "all from No. 9")
        self.assertEqual(missing_words(22.0, "width", "mm"), "22 too narrow")
        self.assertEqual(missing_words(None, "", "mm", 3), "no clear place for 3 of them")

    def test_a_mended_part_offers_to_be_as_drawn_again(self):
        g = begin("bolt-on", "g", "g")
        part = next(lane for lane in lanes_of(g, GUESSED_CUTS.allowances, "mm") if lane.blank.component == "body")
        self.assertEqual(as_drawn(g, part), [])
        mended = with_mend(g, Mend(part=part.blank.part, kind="third piece", at_mm=(60.0,)))
        lane = next(one for one in lanes_of(mended, GUESSED_CUTS.allowances, "mm") if one.blank.cut)
        (choice,) = as_drawn(mended, lane)
        self.assertEqual(with_choice(mended, choice).mends, ())
        self.assertEqual(choice.words, "body as drawn")


if __name__ == "__main__":
    unittest.main()
