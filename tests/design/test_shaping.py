"""Bevels, carves and contours: how deep they go, what they lay open, what they weigh."""

import math
import tempfile
import unittest
from pathlib import Path

import numpy as np

from grainet.design.checks import checks_of
from grainet.design.depth_map import STEP_MM, depth_map
from grainet.design.outline_body import scaled_body, turned_body
from grainet.design.parts import drawable
from grainet.design.starting_points import begin
from grainet.design.weight import weight_of
from grainet.exchange.guitar_file import read_guitar, write_guitar
from grainet.kit.shop_profile import ShopProfile
from grainet.present.shaping import sentences_of, with_contour
from grainet.session.commands.figures import FigureReader
from grainet.session.shop import Shop
from grainet.wood.value import BadEntry

HALF = 150.5  # a row of the map then ends at its edge
SQUARE = [[0, -HALF], [400, -HALF], [400, HALF], [0, HALF]]


def body(*shaping, **told):
    """A rectangle of 400 x 301, 44 thick, shaped."""
    figures = {"body.outline": SQUARE, "body.zones": [], "body.thickness_mm": 44.0, "body.shaping": list(shaping)}
    return begin("bolt-on", "g", "G").with_figures({**figures, **{f"body.{k}": v for k, v in told.items()}})


def cut(kind, deep, reach=0.0, **more):
    return {"kind": kind, "deep_mm": deep, "in_mm": reach, **more}


def whats(g):
    return [one.what for one in depth_map(g).opened()]


class Depth(unittest.TestCase):
    def test_a_bevel_falls_straight_and_a_carve_in_an_arch(self):
        for kind, half in (("bevel", 5.0), ("carve", 5.0)):
            deep = depth_map(body(cut(kind, 10, 40)))
            middle = deep.across(200)
            at = {y: front for y, front, _, _ in middle}
            y = min(at, key=lambda v: abs(v - 130.5))  # half of the way in
            share = (HALF - abs(y)) / 40
            wanted = 10 * (1 - share) if kind == "bevel" else 5 * (1 - math.cos(math.pi * (1 - share)))
            self.assertAlmostEqual(at[y], wanted, places=6)
            self.assertAlmostEqual(at[y], half, delta=0.8)
            self.assertEqual(at[min(at, key=abs)], 0.0)

    def test_a_bevel_takes_its_wedge(self):
        deep = depth_map(body(cut("bevel", 10, 20)))
        # a wedge along the rim: half its section times the line through the section's own centre of gravity
        wedge = 10 * 20 / 2 * (2 * (400 + 2 * HALF) - 8 * 20 / 3)
        self.assertAlmostEqual(sum(deep.removed_mm3) / wedge, 1.0, delta=0.01)

    def test_a_contour_is_flat_from_its_line_to_the_rims_farthest_place(self):
        line = [[100, -90], [300, -90]]
        deep = depth_map(body(cut("contour", 12, line=line)))
        self.assertEqual(float(deep.front[deep.y > -90].max()), 0.0)
        rows = [(y, front) for y, front, _, _ in deep.across(200) if y < -90]
        for y, front in rows:
            self.assertAlmostEqual(front, 12 * (-90 - y) / 60.5, places=6)
        other = depth_map(body(cut("contour", 12, line=line[::-1])))
        np.testing.assert_allclose(deep.front, other.front)  # whichever end it was drawn from

    def test_behind_is_the_other_face(self):
        deep = depth_map(body(cut("bevel", 6, 6, back=True)))
        self.assertEqual(float(deep.front.max()), 0.0)
        self.assertGreater(float(deep.back.max()), 4.0)


class LaidOpen(unittest.TestCase):
    def test_a_bevel_deeper_than_the_top_shows_the_core_and_a_thicker_top_hides_it(self):
        thin = body(cut("bevel", 10, 30), cap_mm=7.0)
        self.assertEqual(whats(thin), ["core"])
        words = sentences_of(depth_map(thin), "mm")[0]
        self.assertIn("up to 9 wide", words[0])
        self.assertFalse(words[1])
        self.assertEqual(whats(body(cut("bevel", 10, 30), cap_mm=11.0)), [])
        self.assertEqual(whats(body(cut("bevel", 10, 30))), [])  # without a top there is nothing to show

    def test_the_ribbon_is_as_wide_as_reckoned(self):
        deep = depth_map(body(cut("bevel", 10, 30), cap_mm=7.0))
        on_the_middle = float(deep.core_shows[:, len(deep.x) // 2].sum()) * STEP_MM / 2
        self.assertAlmostEqual(on_the_middle, 9.0, delta=STEP_MM)

    def test_the_joint_shows_where_the_ribbon_crosses_the_centre_line(self):
        g = body(cut("bevel", 10, 30), cap_mm=7.0)
        self.assertAlmostEqual(depth_map(g).joint_shows_mm(), 18.0, delta=2 * STEP_MM)

    def test_front_and_back_meet(self):
        self.assertIn("through", whats(body(cut("bevel", 24, 20), cut("bevel", 24, 20, back=True))))
        self.assertNotIn("through", whats(body(cut("bevel", 10, 20), cut("bevel", 10, 20, back=True))))

    def test_a_contour_breaks_into_a_chamber_and_into_a_cavitys_floor(self):
        hollow = {"name": "chamber", "depth_mm": 30, "polygon": [[150, -140], [250, -140], [250, -100], [150, -100]]}
        line = [[100, -60], [300, -60]]
        g = body(cut("contour", 12, line=line), cap_mm=6.0, cavities=[hollow])
        self.assertEqual(whats(g)[0], "chamber")
        roof = next(c for c in checks_of(g) if c.what == "top over the chamber")
        self.assertFalse(roof.holds)
        pocket = {**hollow, "name": "control", "depth_mm": 36}
        g = body(cut("contour", 12, line=line, back=True), cavities=[pocket])
        self.assertEqual(whats(g), ["floor"])
        self.assertFalse(next(c for c in checks_of(g) if c.what == "floor under the control, shaped").holds)

    def test_a_let_in_top_is_only_covered_within_its_rim(self):
        g = body(cut("bevel", 10, 12), cap_mm=7.0, rim_mm=14.0)
        self.assertEqual(whats(g), [])


class Told(unittest.TestCase):
    def setUp(self):
        self.folder = tempfile.TemporaryDirectory()
        self.addCleanup(self.folder.cleanup)
        shop = Shop.open(Path(self.folder.name) / "S.grainet", create=True)
        self.addCleanup(shop.close)
        self.reader = lambda g: FigureReader(g, shop.instruments, ShopProfile().library, "mm")

    def test_words_shape_it_and_take_it_back(self):
        g = body(cap_mm=7.0)
        made = self.reader(g).read("bevel 10 in 14, ".strip(" ,")).after
        self.assertEqual([(s.kind, s.deep_mm, s.in_mm) for s in made.body.shaping], [("bevel", 10, 14)])
        made = self.reader(made).read("bevel 8").after  # one bevel a side
        self.assertEqual([(s.deep_mm, s.in_mm) for s in made.body.shaping], [(8, 8)])
        made = self.reader(made).read("bevel behind 3").after
        made = self.reader(made).read("contour 14 from 320 -60 to 120 -150").after
        made = self.reader(made).read("contour 16").after
        self.assertEqual([s.words for s in made.body.shaping][-1], "contour in front, 16 deep")
        for line in ("bevel away", "bevel behind away", "contour away"):
            made = self.reader(made).read(line).after
        self.assertEqual(made.body.shaping, ())

    def test_what_cannot_be_is_said(self):
        g = body()
        for line, wanted in (
            ("bevel", "how deep"), ("bevel 50", "leaves nothing"), ("contour 12", "No contour is drawn"), ("carve away", "no carve"),
            ("contour 12 from 3 4", "to"), ("contour 12 from 3 4 to 3 4", "two places"),
        ):  # fmt: skip
            with self.subTest(line), self.assertRaisesRegex(BadEntry, wanted):
                self.reader(g).read(line)

    def test_drawn_lines_make_contours(self):
        g = with_contour(body(), ((100, -60), (300, -60)), back=True)
        self.assertTrue(g.body.shaping[0].back)
        with self.assertRaises(BadEntry):
            with_contour(g, ((100, -60), (105, -60)), back=False)

    def test_it_turns_scales_weighs_and_is_written_with_the_body(self):
        g = body(cut("bevel", 10, 20), cut("contour", 12, line=[[100, -60], [300, -60]]))
        drawable(g)
        library = ShopProfile().library
        plain = body()
        lost = weight_of(plain, library).kg - weight_of(g, library).kg
        self.assertGreater(lost, 0.1)
        mirrored = turned_body(g, "mirror")
        self.assertEqual(mirrored.body.shaping[1].line, ((100, 60), (300, 60)))
        self.assertAlmostEqual(sum(depth_map(mirrored).removed_mm3), sum(depth_map(g).removed_mm3), delta=2000)
        self.assertEqual(scaled_body(g, 200, HALF).body.shaping[1].line, ((50, -30), (150, -30)))
        path = Path(self.folder.name) / "g.json"
        write_guitar(path, g)
        self.assertEqual(read_guitar(path), g)


if __name__ == "__main__":
    unittest.main()
