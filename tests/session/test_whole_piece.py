"""A whole piece is typed as its owner says it: in any order, with or without its kind, in mm or in feet and fractions."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from grainet.session.commands.bits import as_words
from grainet.session.commands.examples import IN_INCHES, example_in
from grainet.session.commands.line import read
from grainet.session.commands.word_list import WORD_LIST
from grainet.wood.piece import Piece
from grainet.wood.value import BadEntry, Choose

FRESH = Piece(id="1", kind="plank")


def typed(line, style="mm", piece=FRESH):
    return read(line, piece, 0.0, style, "2026-11-29")


def what(line, style="mm"):
    """Kind, length, width, thickness in mm and species of what a line makes."""
    piece = typed(line, style).piece
    x0, y0, x1, y1 = piece.extents
    return piece.kind, *(round(mm) for mm in (x1 - x0, y1 - y0, piece.least_thickness_mm)), piece.species


class InInches(unittest.TestCase):
    """A house that reads inches: fractions follow one another, and every answer is in its own measure."""

    BOARD = typed("94 x 9 x 2 white ash", "fraction").piece

    def gloss(self, line):
        return typed(line, "fraction", self.BOARD).gloss

    def test_a_whole_number_and_its_fraction_are_one_figure(self):
        for line, widths in (
            ("w 9 1/8 9 8 15/16", (9.125, 9, 8.9375)),
            ("w 9 1/8, 9, 9", (9.125, 9, 9)),
            ("w 8 3/4 8-7/8", (8.75, 8.875)),
        ):
            with self.subTest(line):
                read_ = typed(line, "fraction", self.BOARD).piece.width_stations
                self.assertEqual([round(w.far_mm + w.near_mm, 3) for w in read_], [round(25.4 * w, 3) for w in widths])
        thick = typed("t 2 1/16 2 1/16 2", "fraction", self.BOARD).piece
        self.assertEqual([round(s.thickness_mm / 25.4, 4) for s in thick.stations], [2.0625, 2.0625, 2.0])

    def test_a_length_of_sixteenths_takes_readings_to_its_very_end(self):
        board = typed("94 1/8 x 9 x 2 white ash", "fraction").piece
        for line in ("w 9 1/8 9 9 1/8", "e 4 1/2 4 1/2 4 1/2 4 3/8", "t 2 2 1/16 2"):
            with self.subTest(line):
                self.assertIsNotNone(typed(line, "fraction", board).piece)

    def test_every_example_works_as_it_stands(self):
        board = typed("30 k 1x1 d 1/2", "fraction", self.BOARD).piece
        used = [w for w in WORD_LIST if example_in(w, "fraction") != w.example]
        self.assertEqual({w.example for w in used}, set(IN_INCHES), "each stands for one that there is")
        for one in used:
            line = example_in(one, "fraction")
            with self.subTest(line):
                fresh = line.startswith("bundle")
                self.assertTrue(typed(line, "fraction", Piece(id="90", racked=False) if fresh else board).gloss)

    def test_live_edges_are_pairs_of_whole_figures(self):
        """5 3/4 up and 7 1/2 down at one place, not 5 and 3/4 at one end and 7 and 1/2 at the other."""
        for line in ("e 5 3/4 7 1/2", "e 5-3/4 7-1/2"):
            self.assertEqual(self.gloss(line), "5 3/4 above the line, 7 1/2 below it, at 0")

    def test_answers_and_refusals_are_in_inches(self):
        for line, words in (
            ("30", "the marker to 30"), ("30 k 1 1/2 x 1 d 1/2", "29 1/4 to 30 3/4 along, 4 to 5 up, 1/2 deep"), ("bow 1/8 over 60", "bow 1/8 over 60"),
            ("part 27 x 3 1/2", "a part of 27 × 3 1/2 from 0"),
        ):  # fmt: skip
            self.assertIn(words, self.gloss(line), line)
        for line, words in (
            ("200", "200 is off the piece, which ends at 94"),
            ("93 k 4x2", "put it to 94"),
            ("30 k 1x1 d 3", "3 deep is more than the wood, 2 thick"),
        ):
            with self.subTest(line), self.assertRaisesRegex(BadEntry, words):
                self.gloss(line)

    def test_weights_may_be_said_in_pounds_alone(self):
        self.assertAlmostEqual(typed("14 lb", "fraction", self.BOARD).piece.mass_kg, 6.35, places=2)
        self.assertIn("weighs 0.6237 kg", self.gloss("22 oz"))

    def test_figures_of_a_guitar_too(self):
        self.assertEqual(as_words("nut 1 11/16, scale 24 3/4"), ["nut", "1-11/16", "scale", "24-3/4"])
        self.assertEqual(as_words("cavity neck 3 x 1½ x 1 3/4"), ["cavity", "neck", "3x1-1/2x1-3/4"])
        self.assertEqual(as_words("scale 648 622"), ["scale", "648", "622"])


class Said(unittest.TestCase):
    def test_one_board_in_many_words(self):
        wanted = ("plank", 2400.0, 230.0, 52.0, "White ash")
        for line in (
            "plank 2400x230x52 white ash", "2400x230x52 white ash", "2400 x 230 x 52 white ash", "white ash 2400x230x52", "white ash plank 2400 by 230 by 52",
            "a board of white ash, 2400 x 230 x 52", "52 thick, 230 wide, 2400 long, white ash", "2400 long and 230 wide, 52 thick white ash",
            "2.4 m x 23 cm x 52 mm white ash",
        ):  # fmt: skip
            with self.subTest(line):
                self.assertEqual(what(line), wanted)

    def test_fractions_and_feet(self):
        for line in (
            "94 1/8 x 8 1/4 x 2 1/4 white ash",
            "7 ft 10 1/8 x 8 1/4 in x 2 1/4 in white ash",
            'white ash 94 1/8" x 8 1/4" x 2 1/4"',
        ):
            with self.subTest(line):
                self.assertEqual(what(line, "fraction"), ("plank", 2391, 210, 57, "White ash"))

    def test_timber_as_it_is_sold_is_turned_round_and_says_so(self):
        self.assertEqual(what("billet 52 x 80 x 700 white ash"), ("billet", 700.0, 80.0, 52.0, "White ash"))
        self.assertIn("read as thickness, width, length", typed("52 x 80 x 700 white ash").gloss)
        self.assertEqual(what("strip 700 x 12 x 45"), ("strip", 700.0, 12.0, 45.0, "unknown"), "one on edge stays as it is told")

    def test_a_piece_in_hand_keeps_its_kind_and_one_that_is_measured_begins_the_next(self):
        self.assertEqual(typed("700x60x9 white ash", piece=Piece(id="4", kind="fretboard_blank")).piece.kind, "fretboard_blank")
        after = typed("2400x230x52 white ash")
        self.assertTrue(typed("900x120x30 sugar maple", piece=after.piece).begins)

    def test_reclaimed_wood_says_so(self):
        piece = typed("reclaimed 2000x180x40 white ash").piece
        self.assertEqual((piece.reclaimed, piece.species), (True, "White ash"))

    def test_what_is_left_over_is_asked_about(self):
        with self.assertRaisesRegex(BadEntry, "doorish"):
            typed("doorish 2400x230x52")
        with self.assertRaises(Choose):
            typed("2400x230x52 ash")
        with self.assertRaisesRegex(BadEntry, "old oakish wood"):
            typed("old oakish wood 2400x230x52")
        with self.assertRaisesRegex(BadEntry, "two sizes"):
            typed("52x30")
        with self.assertRaisesRegex(BadEntry, "60.7 m"):
            typed("2390 x 231 x 52", "fraction")

    def test_words_of_the_tape_line_keep_their_meaning(self):
        board = typed("2400x230x52 white ash").piece
        self.assertEqual(len(typed("760 knot 24x18", piece=board).piece.defects), 1)
        self.assertEqual(typed("nominal 52 x 230 x 2400", piece=board).piece.nominal_length_mm, 2400)
        self.assertIsNone(typed("760", piece=board).piece)

    @given(st.integers(300, 4000), st.integers(40, 280), st.integers(3, 39), st.permutations(("long", "wide", "thick")))
    def test_spoken_sizes_in_any_order(self, long, wide, thick, order):
        size = {"long": long, "wide": wide, "thick": thick}
        line = ", ".join(f"{size[name]} {name}" for name in order)
        self.assertEqual(what(line), ("plank", long, wide, thick, "unknown"))
