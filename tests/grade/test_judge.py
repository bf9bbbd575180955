"""Verdicts: stretches, counts, reasons with figures, conditions that bar or ask."""

import unittest

import numpy as np

from grainet.grade.conditions import conditions, density_of
from grainet.grade.facts import Facts
from grainet.grade.judge import judge
from grainet.grade.rulebook import lines
from grainet.kit.shop_profile import ShopProfile
from grainet.wood.piece import MoistureReading, Piece
from tests.jobs import job, piece

KIT = ShopProfile()
DRY = [{"x_mm": 100, "y_mm": 50, "depth_mm": 25, "moisture_pct": 8.5}]


def made(**more) -> Piece:
    base = {
        "length": 2000,
        "width": 200,
        "thickness": 52,
        "moisture": DRY,
        "species": "White ash",
        "grain_slope_deg": 1,
        "ring_angle_deg": [80, 80],
        **more,
    }
    return job([piece("A", **base)], []).pieces[0]


class Stretches(unittest.TestCase):
    def test_a_clear_board_gives_by_count(self):
        verdict = judge(made(), KIT.use("body_half"), KIT)
        self.assertEqual([(s.verdict, s.count) for s in verdict.stretches], [("gives", 4)])
        self.assertEqual(verdict.outcome, "gives")

    def test_troubles_part_the_board_and_are_named(self):
        split = {
            "id": "c1",
            "kind": "split",
            "face": "through",
            "polygon": [[950, 0], [1050, 0], [1050, 200], [950, 200]],
            "ends_closed": [True, True],
        }
        verdict = judge(made(defects=[split]), KIT.use("body_half"), KIT)
        self.assertEqual([s.verdict for s in verdict.stretches], ["gives", "wont", "gives"])
        self.assertIn("split c1", verdict.stretches[1].reasons[0].text)
        self.assertLessEqual(verdict.stretches[0].to_mm, 950)

    def test_a_cover_hides_what_may_be_hidden(self):
        groove = {
            "id": "v1",
            "kind": "groove",
            "face": "1",
            "depth_mm": 20,
            "polygon": [[0, 80], [2000, 80], [2000, 100], [0, 100]],
        }
        verdict = judge(made(defects=[groove]), KIT.use("body_half"), KIT)
        self.assertEqual(verdict.outcome, "if")
        self.assertIn("v1 goes under the cover", verdict.main_reason)
        self.assertEqual(judge(made(defects=[groove]), KIT.use("neck"), KIT).outcome, "gives", "the neck lies beside it")

    def test_too_small_says_by_how_much(self):
        self.assertIn(
            "44.8 thick", judge(made(thickness=44.8 + 1.2), KIT.use("body_half").changed(thickness_mm=45.0), KIT).main_reason
        )
        self.assertIn("too narrow", judge(made(width=150), KIT.use("body_half"), KIT).main_reason)
        self.assertIn("too short", judge(made(length=400), KIT.use("body_half"), KIT).main_reason)

    def test_a_house_of_inches_is_told_in_inches(self):
        kit = KIT.changed(length_style="fraction")
        for board, words in (
            (made(width=80), "3 1/16 wide after edging, at least 6 25/32"),
            (made(thickness=40), "thick after flattening"),
        ):
            texts, usual = (
                [r.text for s in judge(board, k.use("body_half"), k).stretches for r in s.reasons] for k in (kit, KIT)
            )
            with self.subTest(words):
                self.assertTrue(any(words in text for text in texts), texts)
                self.assertEqual(len(texts), len(usual))
                self.assertTrue(set(texts).isdisjoint(usual))

    def test_a_rule_that_is_only_weighed_is_told_in_inches_too(self):
        bowed, said = made(flatness={"bow_mm": 60}), {}
        for style in ("mm", "fraction"):
            kit = KIT.changed(length_style=style)
            (said[style],) = (
                x.text for x in lines(Facts(bowed, kit), kit.use("neck").with_strictness("bow", "weigh")) if x.rule == "bow"
            )
        self.assertRegex(said["mm"], r"^if that suits you: bowed: [\d.]+ over the part, at most \d")
        self.assertRegex(said["fraction"], r"^if that suits you: bowed: [\d /]+ over the part, at most [\d /]+$")
        self.assertNotEqual(said["mm"], said["fraction"])

    def test_a_board_that_narrows_is_not_said_to_be_too_short(self):
        tapering = made(outline=[[0, 0], [2000, 0], [2000, 150], [0, 200]])
        last = judge(tapering, KIT.use("body_half"), KIT).stretches[-1]
        self.assertEqual((last.verdict, last.reasons[0].rule), ("wont", "width"))
        self.assertRegex(last.reasons[0].text, "^narrows to 1[0-9]+, at least")

    def test_what_is_found_falls_short_of_what_is_wanted(self):
        r = np.random.default_rng(2)
        seen = set()
        for _ in range(30):
            long, near, far = float(r.integers(500, 2400)), float(r.integers(90, 240)), float(r.integers(90, 240))
            spots = [
                (float(r.uniform(0, long - 60)), float(r.uniform(0, min(near, far) - 30))) for _ in range(int(r.integers(0, 3)))
            ]
            marks = [
                {"id": f"d{k}", "kind": "rot", "face": "through", "polygon": [[x, y], [x + 40, y], [x + 40, y + 20], [x, y + 20]]}
                for k, (x, y) in enumerate(spots)
            ]
            board = made(outline=[[0, 0], [long, 0], [long, far], [0, near]], defects=marks, thickness=float(r.uniform(20, 60)))
            for use in ("body_half", "neck", "matched_top", "fretboard"):
                for one in (o for s in judge(board, KIT.use(use), KIT).stretches for o in s.reasons):
                    if one.rule in ("length", "width") and one.found is not None and one.wanted is not None:
                        self.assertLess(one.found, one.wanted, one.text)
                        seen.add(one.rule)
        self.assertEqual(seen, {"length", "width"})

    def test_bow_makes_a_long_part_fail_and_a_short_one_pass(self):
        bowed = made(thickness=30, flatness={"bow_mm": 9})
        long, short = (KIT.use("neck").changed(thickness_mm=24.0, length_mm=length) for length in (1900.0, 690.0))
        self.assertEqual(judge(bowed, long, KIT).outcome, "wont")
        self.assertEqual(judge(bowed, short, KIT).outcome, "gives")

    def test_nothing_unread_counts_as_good(self):
        bare = Piece(id="B")
        for rule in KIT.uses:
            self.assertEqual(judge(bare, rule, KIT).outcome, "if")
        for missing in ({"moisture": []}, {"ring_angle_deg": None}, {"grain_slope_deg": None}):
            self.assertEqual(judge(made(**missing), KIT.use("neck"), KIT).outcome, "if", missing)


class Conditions(unittest.TestCase):
    def rules(self, piece_, use):
        return {reason.rule: (word, reason.text) for word, reason in conditions(piece_, KIT.use(use), KIT)}

    def test_wet_wood_asks_for_days(self):
        wet = made().changed(moisture=(MoistureReading(x_mm=1, y_mm=1, depth_mm=26, moisture_pct=14.0),))
        word, text = self.rules(wet, "neck")["moisture"]
        self.assertEqual(word, "if")
        self.assertIn("14.0 %, at most 9.5", text)

    def test_flat_rings_are_a_weight_and_can_be_made_a_must(self):
        flat = made(ring_angle_deg=[20, 25])
        self.assertEqual(self.rules(flat, "neck")["rings"][0], "if")
        strict = KIT.use("neck").changed(ring_strictness="must")
        self.assertEqual(judge(flat, strict, KIT).outcome, "wont")

    def test_soft_heavy_and_sloping_wood_is_barred_with_the_figures(self):
        self.assertIn("too soft", self.rules(made(species="Western redcedar"), "fretboard")["density"][1])
        self.assertIn("grain runs off: 6.0", self.rules(made(grain_slope_deg=6), "neck")["slope"][1])
        self.assertIn("is swept for metal", self.rules(made(reclaimed=True), "neck")["metal"][1])

    def test_density_from_mass_and_size(self):
        board = Piece(id="d", outline=((0, 0), (900, 0), (900, 180), (0, 180)), thickness_mm=40.0, mass_kg=4.2)
        self.assertAlmostEqual(density_of(board), 648, delta=1)
        self.assertIsNone(density_of(Piece(id="e")))
