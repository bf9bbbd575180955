"""Nothing that stands on a line is bent, cut off or dropped: what the gloss says is what is stored, all else is asked about."""

import unittest

from grainet.grade.counted import as_counted
from grainet.grade.facts import Facts
from grainet.grade.rulebook import lines
from grainet.kit.shop_profile import ShopProfile
from grainet.session.commands.line import read
from grainet.session.missing_readings import tasks_of
from grainet.wood.piece import Piece
from grainet.wood.value import BadEntry, Choose

DAY = "2026-11-27"


def meaning(line, piece=None, at=0.0, style="mm"):
    return read(line, piece or PLANK, at, style, DAY)


def after(line, piece=None, at=0.0):
    return meaning(line, piece, at).piece


PLANK = read("plank 2390x231x52.4 white ash", Piece(id="8"), 0.0, "mm", DAY).piece
LONG = read("plank 3400x210x30 sugar maple", Piece(id="9"), 0.0, "mm", DAY).piece


class Spans(unittest.TestCase):
    def test_every_flatness_word_keeps_its_span(self):
        for word, field in (("bow", "bow"), ("crook", "crook"), ("twist", "rock"), ("rock", "rock")):
            flat = after(f"{word} 3 over 600").flatness
            self.assertEqual((getattr(flat, f"{field}_mm"), getattr(flat, f"{field}_span_mm")), (3, 600), word)
        self.assertEqual(after("cup 1 over 100").flatness.cup_span_mm, 100)
        self.assertIsNone(after("twist 9", after("twist 2 over 600")).flatness.rock_span_mm, "a reading over all of it")

    def test_a_twist_over_a_span_is_judged_by_it(self):
        board, rule = after("twist 9 over 600", LONG), ShopProfile().use("neck")
        line = next(x for x in lines(Facts(board, ShopProfile()), rule) if x.rule == "twist")
        self.assertEqual((line.outcome, line.reason.found), ("wont", 3.45), "9 over 600 is 3.45 over a neck of 690 x 70")
        self.assertAlmostEqual(as_counted(board).flatness.rock_mm, 51, msg="jobs have it over the whole length")

    def test_a_cut_piece_keeps_the_bow_of_its_span(self):
        from grainet.job.answer import Offcut
        from grainet.work.returning import offcut_piece

        board = after("bow 3 over 1500", read("plank 3000x200x30", Piece(id="5"), 0, "mm", DAY).piece)
        half = Offcut(id="a", piece="5", polygon=((0, 0), (1500, 0), (1500, 200), (0, 200)), thickness_mm=30.0)
        self.assertAlmostEqual(offcut_piece(board, half, "5.1").flatness.bow_mm, 3.0)

    def test_a_span_longer_than_the_board_is_asked_about(self):
        with self.assertRaisesRegex(BadEntry, "more than the board's 2390"):
            meaning("bow 3 over 6000")

    def test_a_rest_log_is_read_over_one_span(self):
        piece = after("rest 2.0 over 1500")
        self.assertEqual((piece.flatness.bow_mm, piece.flatness.bow_span_mm), (2, 1500))
        later = piece.changed(rests=tuple(r.changed(on="2026-11-01") for r in piece.rests))
        with self.assertRaisesRegex(BadEntry, "same span"):
            meaning("rest 2.0", later)

    def test_zero_is_a_reading(self):
        piece = after("cup 0", after("bow 0"))
        self.assertEqual(set(piece.flat_read), {"bow", "cup"})
        asked = {t.what for t in tasks_of(piece, 10)}
        self.assertFalse(asked & {"Bow", "Cup", "Bow and cup"})
        self.assertIn("Cup", {t.what for t in tasks_of(after("bow 0"), 10)})


class Marks(unittest.TestCase):
    def span(self, line, at=0.0, axis=0):
        ring = after(line, at=at).defects[-1].polygon
        values = [p[axis] for p in ring]
        return min(values), max(values)

    def test_a_mark_at_an_end_begins_there(self):
        self.assertEqual(self.span("0 crack 250x3"), (0, 250))
        self.assertEqual(self.span("2390 crack 250x3"), (2140, 2390))
        self.assertEqual(self.span("1200 crack 250x3"), (1075, 1325))
        self.assertEqual(self.span("1200 k 20x20 y 0", axis=1), (0, 20))
        self.assertEqual(self.span("1200 k 20x20 y 231", axis=1), (211, 231))

    def test_wane_lies_along_an_edge(self):
        self.assertEqual((self.span("0 wane 400x15"), self.span("0 wane 400x15", axis=1)), ((0, 400), (0, 15)))
        self.assertEqual(self.span("0 wane 400x15 far", axis=1), (216, 231))

    def test_what_lies_beyond_the_wood_is_said(self):
        for line, words in {
            "100 crack 250x3": "25 beyond the marked end", "k 19999x19999": "larger than the board", "15000 t 52": "off the board",
            "900 k 40x40 d 400": "52.4 thick", "900 k 20x20 y 225": "beyond the far edge", "900 k 20x20 y 400": "off the piece",
            "mc 8 d 60": "through the wood", "900 k 20x20x90": "52.4 thick",
        }.items():  # fmt: skip
            with self.subTest(line), self.assertRaisesRegex(BadEntry, words):
                meaning(line)

    def test_pins_longer_than_a_plate_read_its_middle(self):
        plate = read("plate 500x200x5.2", Piece(id="7"), 0, "mm", DAY).piece
        found = meaning("mc 8.4", plate)
        self.assertEqual(found.piece.moisture[-1].depth_mm, 2.6)
        self.assertIn("2.6 deep", found.gloss)

    def test_depth_and_flags_are_kept_wherever_they_stand(self):
        for line in ("500 groove 60x140 12", "500 groove 60x140x12", "500 groove 60x140 d 12"):
            self.assertEqual(after(line).defects[-1].depth_mm, 12, line)
        crack = after("106 crack 212x8 y 154 through").defects[-1]
        self.assertEqual((crack.face, next(y for _, y in crack.polygon)), ("through", 150))
        self.assertEqual(after("500 k 20x20 grave edge").defects[-1].severity, 3)
        for line in (
            "500 k 20x20 40", "500 k 20x20 y 40 foo", "500 groove 60x140 12 d 9", "500 k 20x20 through d 4", "500 k 20x20 y 40 y 50", "500 k 20x20 y",
            "500 curl 300x120 lovely", "t 52 foo", "part 700x90 foo", "turn now", "interlocked maybe", "sev k1 1.9", "grid 5x3x2",
        ):  # fmt: skip
            with self.subTest(line), self.assertRaises(BadEntry):
                meaning(line, after("900 k 20x20"))

    def test_one_size_is_as_much_both_ways(self):
        ring = after("800 k 18").defects[-1].polygon
        self.assertEqual((ring[0], ring[2]), ((791, 106.5), (809, 124.5)))

    def test_bark_and_cathedrals_have_words(self):
        self.assertEqual(after("500 inbark 20x10").defects[-1].note, "inbark")
        self.assertEqual(after("210 cathedral 300x60").figure[-1].kind, "cathedral")
        self.assertEqual(after("500 loose knot 20x10").defects[-1].kind, "loose_knot")


class Figures(unittest.TestCase):
    def test_a_thousands_comma_is_asked_about(self):
        for line, choices in {
            "l 2,390": ("2390", "2.390"), "kg 1,234": ("1234", "1.234"), "price 1,200": ("1200", "1.200"), "price 1,234,567": ("1234567",),
        }.items():  # fmt: skip
            with self.subTest(line), self.assertRaises(Choose) as caught:
                meaning(line, Piece(id="1"))
            self.assertEqual(caught.exception.choices, choices)
        self.assertEqual(after("kg 31,4").mass_kg, 31.4)
        self.assertEqual(after("t 0,390", Piece(id="1")).stations[0].thickness_mm, 0.39)

    def test_a_slip_of_the_point_is_asked_about_and_can_be_kept(self):
        board = after("t 52.4 52.1 51.6")
        for line in ("t 523", "1195 t 5.2", "t 52.4 521 51.6"):
            with self.subTest(line), self.assertRaises(Choose) as caught:
                meaning(line, board)
            self.assertTrue(caught.exception.choices[-1].endswith("!"))
        self.assertEqual(after("t 523!", board).stations[0].thickness_mm, 523)
        self.assertEqual(after("t 52.4 45 51.6", board).stations[1].thickness_mm, 45)
        with self.assertRaises(Choose):
            meaning("kg 314", after("kg 31.4"))

    def test_units_belong_to_quantities(self):
        for line in (
            "ring 38%",
            "kg 31.4°",
            "mc 8.4 kg",
            "tap 368 kg",
            "price 12x5",
            "price 1e6",
            "price -42",
            "kg 5²",
            "kg ①",
            "kg ٣",
            "t 12 kg",
        ):
            with self.subTest(line), self.assertRaises(BadEntry):
                meaning(line)
        self.assertAlmostEqual(after("slope 5%").grain_slope_deg, 2.86)
        self.assertAlmostEqual(after("slope 1:20").grain_slope_deg, 2.86)
        self.assertAlmostEqual(after("kg 69 lb").mass_kg, 31.298, 3)
        self.assertEqual(after("price € 42.50").supply.price, 42.5)
        self.assertEqual(after("mc 20 wet").moisture[-1].moisture_pct, 25)

    def test_counts_and_layers_are_whole(self):
        for line in (
            "bundle 2.9x700x30x8",
            "bundle 0x700x30x8",
            "layers -1",
            "layers 0.6 black cherry 18",
            "layers 0.6 black cherry -2 lime",
        ):
            with self.subTest(line), self.assertRaises(BadEntry):
                meaning(line, Piece(id="1"))

    def test_quarters_are_shown_as_they_are(self):
        self.assertIn("44.45", meaning("t 7/4").gloss)
        self.assertEqual(after("t 7/4").nominal_thickness_mm, 44.45)

    def test_days_are_days(self):
        for line in (
            "weigh 31.4 on 2026-02-30",
            "weigh 31.4 on 2026-13-01",
            "rest 2 on 26-1-1",
            "weigh 31.4 on 2027-01-01",
            "arrived 2026-02-30",
        ):
            with self.subTest(line), self.assertRaises(BadEntry):
                meaning(line)


class Words(unittest.TestCase):
    def test_a_unit_belongs_to_a_figure_before_it(self):
        self.assertTrue(after("interlocked").interlocked)
        self.assertTrue(after("450 interlocked").interlocked)
        self.assertIn("450 says nothing here", meaning("450 interlocked").gloss)
        self.assertEqual(after("12 m 6x6").defects[-1].kind, "nail")
        self.assertEqual(meaning("2 m", Piece(id="1")).piece.length_mm, 2000)

    def test_a_kind_alone_is_understood(self):
        self.assertEqual(after("fretboard blank").kind, "fretboard_blank")
        self.assertEqual(after("beam").kind, "billet")
        self.assertTrue(after("reclaimed").reclaimed)
        self.assertTrue(after("beam 2390x100x100 white ash reclaimed", Piece(id="1")).reclaimed)

    def test_sizes_as_people_write_them(self):
        for line in (
            'plank 94"x9"x2"',
            "plank 94 in × 9 in × 2 in",
            'plank 94 " x 9 " x 2 "',
            "plank 7 ft 10 x 9 in x 2 in",
            "plank 2.3876 m x 228.6 x 50.8",
        ):
            piece = after(f"{line} white ash", Piece(id="1"))
            self.assertEqual(
                [round(v, 1) for v in (piece.extents[2], piece.extents[3], piece.least_thickness_mm)], [2387.6, 228.6, 50.8], line
            )

    def test_a_name_that_names_nothing_renames_nothing(self):
        for line in ("sp", "sp .", "sp -", "sp a"):
            with self.subTest(line), self.assertRaises(BadEntry):
                meaning(line)

    def test_a_family_is_chosen_from(self):
        for line in ("sp maple", "sp walnut", "sp rosewood", "plank 900x100x20 walnut", "bundle 2x700x30x8 maple", "maybe oak"):
            with self.subTest(line), self.assertRaises(Choose) as caught:
                meaning(line, Piece(id="1"))
            self.assertGreaterEqual(len(caught.exception.choices), 3)
        unsure = after("sp walnut?")
        self.assertEqual((unsure.species_sure, len(unsure.candidates)), (False, 2))

    def test_a_person_s_own_words_stay_letter_for_letter(self):
        self.assertEqual(after("note 5 × 3 and ½").note, "5 × 3 and ½")

    def test_a_length_that_leaves_readings_beyond_it_is_asked_about(self):
        board = after("t 52.4 52.1 51.6")
        with self.assertRaises(Choose):
            meaning("l 900", board)
        self.assertEqual(after("l 900!", board).length_mm, 900)


class Settled(unittest.TestCase):
    def test_a_person_s_word_counts_until_something_newer_is_read(self):
        from grainet.grade.ready import readiness

        wet = after("mc 14")
        self.assertEqual(readiness(wet, ShopProfile()).word, "waits")
        told = after("settled two years in this room", wet)
        self.assertEqual((readiness(told, ShopProfile()).word, readiness(told, ShopProfile()).by), ("ready", "your word"))
        newer = told.changed(moisture=(told.moisture[0].changed(on="2026-11-28"),))
        self.assertEqual(readiness(newer, ShopProfile()).word, "waits")
        self.assertEqual(readiness(after("settled no", told), ShopProfile()).word, "waits")

    def test_the_heart_s_side_tells_hollow_from_crown(self):
        from grainet.chart.year import movement_chart
        from grainet.wood.turning import rolled_over

        board = after("heart 2 120", after("ring 4 6"))
        self.assertIn("hollow on face 1 and crowned on face 2", movement_chart(Facts(board, ShopProfile())).message)
        self.assertIn("hollow on face 2", movement_chart(Facts(rolled_over(board), ShopProfile())).message)


if __name__ == "__main__":
    unittest.main()
