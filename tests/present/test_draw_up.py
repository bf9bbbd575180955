"""What Draw up shows, without a window: lanes, knock-ons, slips, ways and ways out."""

import unittest

from grainet.design.figures import BY_PATH
from grainet.design.starting_points import POINTS, begin
from grainet.kit.shop_profile import GUESSED_CUTS
from grainet.present.draw_up import (
    fret_rows,
    guessed_count,
    knock_ons,
    lanes_of,
    lanes_that_change,
    short_sum,
    slips_of,
    way_choices,
    ways_out,
    with_choice,
)

KIT = GUESSED_CUTS.allowances
HERON = begin("bolt-on", "heron", "Heron")


class Lanes(unittest.TestCase):
    def test_every_part_is_a_lane_under_the_place_that_it_makes(self):
        for point in POINTS:
            lanes = lanes_of(begin(point, "g", "G"), KIT, "mm")
            self.assertEqual([lane.letter for lane in lanes], list("ABCDEFGH"[: len(lanes)]))
            for lane in lanes:
                self.assertLess(lane.from_mm, lane.to_mm)
                self.assertIn(" × ", lane.size)
        neck = next(lane for lane in lanes_of(HERON, KIT, "mm") if lane.blank.part == "neck")
        self.assertEqual(short_sum(neck.blank.length), "645.8 = 459.8 board + 178 flat head + 8 trims")

    def test_a_slip_stands_for_every_figure_that_it_names(self):
        slips = slips_of(HERON, "mm")
        self.assertEqual(len({s.path for s in slips}), len(slips))
        self.assertTrue(all(s.path in BY_PATH for s in slips))
        self.assertEqual({s.path for s in slips if not s.guessed} & {"nut_mm"}, set())
        self.assertEqual(
            guessed_count(HERON.with_figure("nut_mm", 43.0).changed(status={})), guessed_count(HERON.changed(status={})) - 1
        )


class Changes(unittest.TestCase):
    def test_22_to_24_frets_moves_neck_board_join_and_pickup_room(self):
        rows = {row.what: row for row in knock_ons(HERON, HERON.with_figure("frets", 24), KIT, "mm")}
        self.assertEqual(rows["neck"].delta, "length +19.2")
        self.assertIn("length +19.2", rows["fretboard"].delta)
        self.assertEqual(rows["room for pickups"].delta, "-19.2")
        self.assertLessEqual({"end of the board", "neck", "fretboard", "room for pickups"}, set(rows))

    def test_what_gets_in_the_way_comes_first(self):
        rows = knock_ons(HERON, HERON.with_figures({"neck.depth_nut_mm": 11.0, "frets": 24}), KIT, "mm")
        self.assertEqual((rows[0].what, rows[0].trouble), ("wood under the rod", True))
        self.assertFalse(rows[-1].trouble)
        self.assertEqual(knock_ons(HERON, HERON, KIT, "mm"), [])

    def test_parts_that_come_and_go_are_told(self):
        rows = {row.what: row.delta for row in knock_ons(HERON, HERON.with_figure("head.route", "scarf"), KIT, "mm")}
        self.assertEqual(rows["neck head"], "new")
        back = {row.what: row.delta for row in knock_ons(HERON.with_figure("head.route", "scarf"), HERON, KIT, "mm")}
        self.assertEqual(back["neck head"], "gone")


class Ways(unittest.TestCase):
    def test_each_way_can_be_taken_and_asks_for_something_else(self):
        for component in ("body", "neck", "fretboard", "plate"):
            choices = way_choices(HERON, component, KIT)
            self.assertEqual(sum(c.chosen for c in choices if c.component == component), 1)
            for choice in choices:
                other = with_choice(HERON, choice)
                self.assertIsNotNone(other, choice.words)
                # of halves that differ only those from one board are sawn to another outline
                same = choice.chosen or (choice.way.name in ("quiet pair", "halves") and component == "body")
                self.assertEqual(bool(lanes_that_change(HERON, other, KIT, "mm")), not same, choice.words)

    def test_ways_out_take_off_what_the_best_piece_lacks(self):
        lanes = {lane.blank.part: lane for lane in lanes_of(HERON, KIT, "mm")}
        (thinner,) = ways_out(HERON, lanes["body.bass"], (0, 0, 4.2), "mm")
        self.assertEqual((thinner.words, with_choice(HERON, thinner).body.thickness_mm), ("body 39.5", 39.5))
        (shorter,) = ways_out(HERON, lanes["fretboard"], (12.0, 0, 0), "mm")
        after = {lane.blank.part: lane for lane in lanes_of(with_choice(HERON, shorter), KIT, "mm")}
        self.assertLess(after["fretboard"].blank.length.mm, lanes["fretboard"].blank.length.mm - 12)
        (narrower,) = ways_out(HERON, lanes["plate"], (0, 9.5, 0), "mm")
        self.assertEqual(with_choice(HERON, narrower).head.width_mm, 72)
        self.assertEqual(ways_out(HERON, lanes["body.bass"], (0, 0, 30), "mm"), [], "thinner than that is another instrument")
        self.assertEqual(ways_out(HERON, lanes["neck"], (400, 0, 0), "mm"), [])

    def test_fret_rows(self):
        self.assertEqual(fret_rows(HERON)[11], ("12", "314.0", ""))
        self.assertEqual(fret_rows(HERON.with_figure("scale_mm", [686.0, 648.0]))[11], ("12", "bass 343.0", "treble 324.0"))


if __name__ == "__main__":
    unittest.main()
