"""Parts that are let in: a top in a recess, a plate in the neck's back: blanks, floors, templates, how they stand."""

import tempfile
import unittest
from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st
from shapely.geometry import Polygon

from grainet.design.allowances import Allowances
from grainet.design.blanks import blanks_of
from grainet.design.checks import checks_of
from grainet.design.drawing import plan_of, side_of
from grainet.design.let_in import proud, recess_mm, top_outline
from grainet.design.parts import design_of, drawable
from grainet.design.starting_points import begin
from grainet.design.templates import templates_of, walls_of
from grainet.design.weight import weight_of
from grainet.exchange.guitar_file import read_guitar, write_guitar
from grainet.kit.shop_profile import ShopProfile
from grainet.session.commands.figures import FigureReader
from grainet.session.shop import Shop
from grainet.wood.value import BadEntry

KIT = Allowances(trim_mm=4.0, edge_mm=1.0, skim_mm=0.6)
COVER = {"name": "cover", "thickness_mm": 4.0, "depth_mm": 3.6, "length_mm": 120.0, "width_mm": 30.0, "at_mm": 60.0}


def let_in(**more):
    return begin("set", "h", "H").with_figures({"body.cap_mm": 8.0, "body.rim_mm": 12.0, **more})


class Top(unittest.TestCase):
    @given(st.floats(3, 40))
    def test_its_blank_is_the_outline_within_the_rim_plus_allowances(self, rim):
        g = let_in(**{"body.rim_mm": rim})
        inner = Polygon(g.body.outline).buffer(-rim, quad_segs=16)
        blank = next(b for b in blanks_of(g, KIT) if b.part == "cap")
        x0, y0, x1, y1 = inner.bounds
        self.assertAlmostEqual(blank.length.mm, x1 - x0 + 8, delta=0.01)
        self.assertAlmostEqual(blank.width.mm, max(y1, -y0) + 2, delta=0.01)
        self.assertAlmostEqual(Polygon(top_outline(g)).symmetric_difference(inner).area, 0, delta=1)

    def test_the_body_keeps_its_thickness_and_is_seen_round_the_top(self):
        over, within = (
            {b.part: b.thickness.finished_mm for b in blanks_of(g, KIT)} for g in (let_in(**{"body.rim_mm": 0.0}), let_in())
        )
        self.assertEqual(within["body.bass"] - over["body.bass"], 8.0)
        part = next(p for p in design_of(let_in()).parts if p.id == "h.body.bass")
        kinds = {z.name: z.kind for z in part.zones}
        self.assertEqual(kinds["under the top"], "hidden")
        self.assertIn("seen", {z.kind for z in part.zones if z.polygon == "rest"})

    def test_the_floor_is_checked_and_the_rim_is_a_wall(self):
        g = let_in(**{"body.recess_mm": 7.6})
        found = {c.what: c for c in checks_of(g)}
        self.assertAlmostEqual(found["floor under the top"].found, 50 - 7.6)
        self.assertIn("0.4 proud", found["floor under the top"].why)
        self.assertAlmostEqual(min(w.mm for w in walls_of(g) if w.between == "the recess and the rim"), 12, delta=0.05)
        thin = let_in(**{"body.recess_mm": 46.0})
        self.assertFalse(next(c for c in checks_of(thin) if c.what == "floor under the top").holds)

    def test_the_recess_has_a_template(self):
        made = next(t for t in templates_of(let_in(**{"templates.bearing_mm": 19.0})) if t.name == "recess")
        self.assertTrue(made.inside)
        grown = Polygon(top_outline(let_in())).buffer(3.15, quad_segs=16)
        self.assertAlmostEqual(Polygon(made.ring).symmetric_difference(grown).area, 0, delta=2)
        self.assertIn("8 deep; the top stands flush", made.note)

    def test_weight_and_drawing_follow(self):
        library = ShopProfile().library
        whole, less = weight_of(let_in(**{"body.rim_mm": 0.0}), library).kg, weight_of(let_in(), library).kg
        self.assertAlmostEqual(whole, less, delta=0.35)
        self.assertIn("the top, let in", {name for name, _, _ in plan_of(let_in()).zones})
        self.assertEqual(max(z for _, z in side_of(let_in(**{"body.recess_mm": 7.6})).cap), 8.0 - 7.6)

    def test_without_a_rim_nothing_changes(self):
        g = begin("set", "h", "H")
        self.assertEqual((recess_mm(g), top_outline(g)), (0.0, g.body.outline))

    def test_a_rim_that_leaves_nothing_is_refused(self):
        with self.assertRaisesRegex(BadEntry, "leaves nothing for a top"):
            drawable(let_in(**{"body.rim_mm": 200.0}))
        with self.assertRaisesRegex(BadEntry, "leaves no floor"):
            drawable(let_in(**{"body.recess_mm": 60.0}))
        waist = [[0, -100], [200, -100], [200, -20], [240, -20], [240, -100], [400, -100], [400, 100], [240, 100], [240, 20], [200, 20], [200, 100], [0, 100]]  # fmt: skip
        with self.assertRaisesRegex(BadEntry, "leaves 2 pieces for a top"):
            drawable(let_in(**{"body.rim_mm": 30.0, "body.outline": waist}))

    def test_a_rim_or_a_recess_without_what_it_is_for_is_said(self):
        for told, why in (
            ({"body.cap_mm": 0.0}, "needs a top too"),
            ({"body.rim_mm": 0.0, "body.recess_mm": 5.0}, "needs a rim too"),
        ):
            with self.assertRaisesRegex(BadEntry, why):
                drawable(let_in(**told))


class Plate(unittest.TestCase):
    def test_a_plate_of_4_let_in_3_6_stands_0_4_proud_and_its_floor_is_checked(self):
        g = begin("set", "h", "H").with_figure("plates", [COVER])
        blank = next(b for b in blanks_of(g, KIT) if b.component == "plates")
        self.assertEqual((blank.length.mm, blank.width.mm, blank.thickness.mm), (128.0, 32.0, 5.2))
        check = next(c for c in checks_of(g) if c.what == "wood over the cover")
        self.assertIn("0.4 proud", check.why)
        self.assertFalse(check.holds)
        deep = g.with_figures({"neck.depth_nut_mm": 18.0, "neck.depth_heel_mm": 20.0})
        self.assertTrue(next(c for c in checks_of(deep) if c.what == "wood over the cover").holds)
        self.assertIn("cover, let in", {p.label for p in design_of(g).parts})

    def test_one_that_reaches_past_the_neck_or_beside_it_is_red(self):
        g = begin("set", "h", "H").with_figure(
            "plates", [COVER | {"length_mm": 900.0}, COVER | {"name": "lid", "width_mm": 90.0}]
        )
        red = {c.what for c in checks_of(g) if not c.holds}
        self.assertLessEqual({"end of the cover from the nut", "lid across"}, red)
        self.assertNotIn("cover across", red)

    def test_two_of_one_name_are_refused(self):
        g = begin("set", "h", "H").with_figure("plates", [COVER, COVER | {"name": "Cover"}])
        with self.assertRaisesRegex(BadEntry, "“Cover” stands twice"):
            drawable(g)

    def test_how_it_stands(self):
        self.assertEqual([proud(4, 3.6), proud(4, 4.02), proud(4, 4.5)], ["0.4 proud", "flush", "0.5 below"])

    def test_it_is_typed_on_the_tape_line_and_goes_with_the_file(self):
        with tempfile.TemporaryDirectory() as scratch, Shop.open(Path(scratch) / "S.grainet", create=True) as shop:

            def read(g, line):
                return FigureReader(g, shop.instruments, shop.kit.library, "mm").read(line)

            g = begin("set", "h", "H")
            made = read(g, "let cover 4 deep 3.6 120x30 at 60")
            self.assertIn("0.4 proud", made.gloss)
            self.assertEqual(made.after.plates[0].model_dump(exclude={"species"}), COVER)
            self.assertEqual(read(made.after, "let cover away").after.plates, ())
            self.assertEqual(read(g, "rim 12 recess 7.6").after.body.recess_mm, 7.6)
            both = read(g, "let cover 4 deep 3.6 120x30 at 60 rim 12").after
            self.assertEqual((both.plates[0].at_mm, both.body.rim_mm), (60.0, 12.0), "two on one line")
            self.assertEqual(read(both, "top none").after.body.rim_mm, 0.0)
            for line, why in (
                ("let cover", "needs a name and a thickness"),
                ("let cover 4", "how deep and its size"),
                ("let lid away", "No plate “lid”"),
                ("let cover 4 3.6 120x30 at", "at needs a length"),
            ):
                with self.subTest(line), self.assertRaisesRegex(BadEntry, why):
                    read(g, line)
            file = Path(scratch) / "g.json"
            write_guitar(file, made.after)
            self.assertEqual(read_guitar(file), made.after)
