"""Every closed form against its worked example."""

import math
import unittest

from hypothesis import given
from hypothesis import strategies as st

from grainet.design import formulas as f
from grainet.design.asked import KINDS, answer
from grainet.wood.value import BadEntry


class WorkedExamples(unittest.TestCase):
    def test_frets(self):
        self.assertAlmostEqual(f.fret_mm(628, 22), 451.8, delta=0.05)
        self.assertAlmostEqual(f.fret_mm(628, 24), 471.0, delta=0.05)
        self.assertEqual(f.fret_mm(628, 12), 314)
        self.assertAlmostEqual(f.board_length_mm((628,), 22, 8), 459.8, delta=0.05)
        self.assertAlmostEqual(f.board_width_mm(43, 52.5, 3, 628, 459.8), 54.3, delta=0.06)

    def test_two_scales_meet_at_the_square_fret(self):
        rows = f.fret_table((686, 648), 24, 7)
        self.assertEqual(rows[7], (0.0, 0.0))
        self.assertLess(rows[0][0], rows[0][1], "the longer string's nut lies further out")
        self.assertGreater(rows[24][0], rows[24][1])
        length = f.board_length_mm((686, 648), 24, 8, 7)
        self.assertAlmostEqual(length, rows[24][0] - rows[0][0] + 8)

    def test_heads_and_necks(self):
        self.assertAlmostEqual(f.solid_head_mm(190, 15, 14), 60.5, delta=0.05)
        self.assertAlmostEqual(f.scarf_face_mm(20, 14), 82.7, delta=0.05)
        self.assertAlmostEqual(f.scarf_run_mm(20, 14), 80.2, delta=0.05)
        self.assertAlmostEqual(f.through_depth_mm(46, 380, 2.5), 62.6, delta=0.05)
        self.assertAlmostEqual(f.through_depth_mm(46, 380, 4), 72.6, delta=0.05)
        self.assertEqual((f.layers_wanted(62.6, 34), f.layers_wanted(72.6, 34), f.layers_wanted(68, 34)), (2, 3, 2))
        self.assertEqual(f.ear_mm(88, 62, 3), 16)
        self.assertEqual(f.wood_under_rod_mm(20, 9.5), 10.5)
        self.assertEqual(f.wood_under_rod_mm(12, 9.5), 2.5)
        self.assertEqual(f.largest_scale_mm(980, 175, 95, 20), 690)
        with self.assertRaises(ValueError):
            f.scarf_face_mm(20, 0)

    def test_boards(self):
        self.assertAlmostEqual(f.board_edge_mm(6.0, 241, 56), 4.37, delta=0.01)
        self.assertAlmostEqual(f.board_edge_mm(5.2, 241, 56), 3.57, delta=0.01)
        with self.assertRaises(ValueError):
            f.board_edge_mm(6, 20, 56)

    def test_strips_stacks_and_pieces(self):
        self.assertEqual((f.strips_from(58, 8, 1.2), f.strips_from(58, 8, 3.2)), (6, 5))
        self.assertAlmostEqual(f.taper_half_angle_deg(60, 42, 600), 0.86, delta=0.02)
        made = f.stack_of((32, 8, 0.6), (2, 1), 44, 1)
        self.assertAlmostEqual(made.thickness_mm, 37.6)
        self.assertAlmostEqual(made.short_mm, 6.4)
        self.assertAlmostEqual(made.short_of_least_mm, 5.4)
        self.assertEqual(f.pieces_across(350, 125), 3)
        self.assertEqual(f.pieces_along(1000, 480, 3, 20), 2)
        self.assertAlmostEqual(f.body_kg(118_000, 45, 700), 3.61, delta=0.01)
        self.assertAlmostEqual(f.body_kg(118_000, 45, 700, 300), 3.40, delta=0.01)
        self.assertEqual(f.bow_after_shortening_mm(3, 1500, 750), 0.75)
        self.assertEqual(f.carve_left_mm(6, 8), -2)

    def test_templates_pockets_and_walls(self):
        self.assertAlmostEqual(f.template_offset_mm(19, 12.7), 3.15)
        self.assertAlmostEqual(f.pocket_mm(56, 0.1), 56.2)
        self.assertAlmostEqual(f.proud_mm(4, 3.6), 0.4)
        self.assertAlmostEqual(f.wall_between_mm(9, 6.4, 6.4), 2.6)
        self.assertAlmostEqual(f.strips_need_mm(4, 1.6, 3), 15.4)

    def test_a_cutter_tears_where_the_fibre_leads_into_the_part(self):
        self.assertTrue(f.tears(10, 0))
        self.assertFalse(f.tears(-10, 0))
        self.assertTrue(f.tears(190, 0), "a fibre has no front end")
        self.assertFalse(f.tears(10, 180 - 0 + 20 - 180), "along the fibre's far side")
        self.assertFalse(f.tears(0, 0))

    @given(st.floats(20, 80), st.floats(10, 80), st.floats(100, 900), st.floats(0, 1))
    def test_mating_wedges_sum_to_a_constant_width(self, wide, narrow, length, share):
        at = share * length
        self.assertAlmostEqual(
            f.wedge_mm(wide, narrow, length, at) + f.wedge_mm(narrow, wide, length, at), wide + narrow, places=9
        )

    @given(st.floats(200, 1200), st.integers(1, 35))
    def test_frets_come_ever_closer(self, scale, n):
        gap = f.fret_mm(scale, n) - f.fret_mm(scale, n - 1)
        self.assertAlmostEqual(f.fret_mm(scale, n + 1) - f.fret_mm(scale, n), gap * 2 ** (-1 / 12), places=6)


class Asked(unittest.TestCase):
    def test_the_contract_s_example(self):
        self.assertAlmostEqual(answer("scarf_face", {"stock_mm": 20, "angle_deg": 14}), 82.7, delta=0.05)
        self.assertEqual(len(answer("frets", {"scale_mm": 628, "frets": 22})), 22)
        self.assertEqual(answer("drift", {"kerf_mm": 1, "skims_mm": 1, "ring_angle_deg": 0})["drift_mm"], None)

    def test_what_is_missing_left_over_or_no_number_is_said(self):
        for kind, inputs, words in (
            ("scarf", {}, "is no kind of figure; needs one of fret, frets"), ("scarf_face", {"stock_mm": 20}, "angle_deg missing"),
            ("scarf_face", {"stock_mm": 20, "angle_deg": 14, "x": 1}, "“x” is left over"), ("scarf_face", {"stock_mm": "20", "angle_deg": 14}, "needs a number"),
            ("scarf_face", {"stock_mm": True, "angle_deg": 14}, "needs a number"), ("scarf_face", {"stock_mm": 20, "angle_deg": 0}, "between 0 and 90"),
            ("taper", {"wide_mm": 1, "narrow_mm": 1, "length_mm": math.nan}, "needs a number"),
        ):  # fmt: skip
            with self.assertRaisesRegex(BadEntry, words):
                answer(kind, inputs)

    @given(st.data())
    def test_any_numbers_give_an_answer_or_a_sentence(self, data):
        kind = data.draw(st.sampled_from(sorted(KINDS)))
        inputs = {}
        for p in KINDS[kind].inputs:
            number = st.floats(-1e4, 1e4) | st.integers(-50, 50)
            inputs[p.name] = data.draw(st.lists(number, max_size=3) if "list" in str(p.annotation) else number)
        try:
            answer(kind, inputs)
        except BadEntry as fault:
            self.assertTrue(str(fault).startswith(kind))


if __name__ == "__main__":
    unittest.main()
