import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from grainet.wood.units import LENGTH_STYLES, format_length, lengths_in, parse_length, parse_pair
from grainet.wood.value import BadEntry


class Parsing(unittest.TestCase):
    def test_every_way_of_writing_a_length(self):
        for text, mm in {
            "2390": 2390, "60,3 mm": 60.3, "2 3/8 in": 60.325, '2 3/8"': 60.325, "94.125 in": 2390.775, "7 ft 10": 2387.6,
            "7' 10 1/2\"": 2400.3, "2-3/8 in": 60.325, "6 cm": 60, "1.2 m": 1200, ".5 in": 12.7, "3/4": 19.05,
        }.items():  # fmt: skip
            with self.subTest(text):
                self.assertAlmostEqual(parse_length(text).mm, mm, 6)

    def test_trade_quarters_are_nominal(self):
        found = parse_length("8/4")
        self.assertAlmostEqual(found.mm, 50.8)
        self.assertTrue(found.nominal)
        self.assertFalse(parse_length("2 1/16").nominal)

    def test_a_fraction_without_a_unit_is_inches_even_on_a_metric_tape(self):
        self.assertAlmostEqual(parse_length("2 1/16", "mm").mm, 52.3875)

    def test_two_figures_for_one_length_are_compared(self):
        pair = parse_pair("2 in / 60 mm")
        self.assertAlmostEqual(pair.apart_mm, 9.2, 6)
        self.assertFalse(pair.agrees)
        self.assertTrue(parse_pair("2 in / 51 mm").agrees)
        self.assertIsNone(parse_pair("2 1/16"))

    def test_bad_entries_say_what_was_found_and_wanted(self):
        for text, words in {
            "2 1/0": "not a fraction",
            "": "Nothing was typed",
            "two": "not a length",
            "99999999": "at most",
            "1/2/3": "not a length",
            "-5": "not a length",
        }.items():
            with self.subTest(text), self.assertRaises(BadEntry) as caught:
                parse_length(text)
            self.assertIn(words, str(caught.exception))


class Formatting(unittest.TestCase):
    def test_known_values(self):
        self.assertEqual(format_length(60.325), "60.3")
        self.assertEqual(format_length(60.325, "fraction"), "2 3/8")
        self.assertEqual(format_length(50.8, "quarters"), "8/4")
        self.assertEqual(format_length(2387.6, "feet"), "7 ft 10")
        self.assertEqual(format_length(25.4, "inch", unit=True), "1 in")

    def test_a_sentence_of_lengths_in_the_house_s_own_measure(self):
        told = "too narrow: 74.2 wide after edging, at least 172.0"
        self.assertEqual(lengths_in(told, "mm"), told)
        self.assertEqual(lengths_in(told, "fraction"), "too narrow: 2 29/32 wide after edging, at least 6 25/32")
        self.assertEqual(
            lengths_in("knot k12 in the way, 45° of 8.4 %", "fraction"), "knot k12 in the way, 45° of 8.4 %", "no lengths"
        )
        near = lengths_in("171.9 wide, at least 172.0", "fraction")
        self.assertEqual(near, "6.768 wide, at least 6.772", "two that a 32nd cannot tell apart")

    @given(st.floats(min_value=1, max_value=5000), st.sampled_from([s for s in LENGTH_STYLES if s != "quarters"]))
    @settings(max_examples=200, deadline=None)
    def test_what_is_shown_reads_back_within_its_own_step(self, mm, style):
        shown = format_length(mm, style, unit=True)
        step = {"mm": 0.51, "inch": 0.02, "fraction": 0.8, "feet": 1.7}[style]
        self.assertAlmostEqual(parse_length(shown).mm, mm, delta=step)

    @given(st.text(max_size=12))
    @settings(max_examples=300, deadline=None)
    def test_no_text_breaks_the_parser(self, text):
        try:
            self.assertGreaterEqual(parse_length(text).mm, 0)
        except BadEntry as fault:
            self.assertTrue(str(fault))
