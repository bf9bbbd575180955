"""Templates, the pocket as geometry, walls between hollows: worked examples, and what is written of them."""

import math
import tempfile
import unittest
from pathlib import Path

from shapely.geometry import LinearRing, Point, Polygon

from grainet.design.checks import checks_of
from grainet.design.drawing import board_half_mm, stations
from grainet.design.starting_points import POINTS, begin
from grainet.design.templates import pocket_of, templates_of, walls_of
from grainet.exchange.full_size import full_size_pdf, write_full_size
from grainet.exchange.outline_read import read_outlines
from grainet.exchange.outline_write import write_outlines
from grainet.session.commands.figures import FigureReader
from grainet.session.shop import Shop
from grainet.wood.species import library_with
from grainet.wood.value import BadEntry


def box(x, y, long, wide):
    return [[x, y], [x + long, y], [x + long, y + wide], [x, y + wide]]


def routed(*cavities):
    g = begin("bolt-on", "g", "g")
    rows = [{"name": name, "depth_mm": depth, "polygon": ring} for name, depth, ring in cavities]
    return g.with_figure("body.cavities", rows)


class SetOff(unittest.TestCase):
    def test_a_bearing_of_19_over_a_cutter_of_12_7_stands_off_by_3_15_everywhere(self):
        for point in POINTS:
            g = begin(point, "g", "g").with_figures({"templates.bearing_mm": 19.0, "templates.cutter_mm": 12.7})
            plain = {t.name: t for t in templates_of(begin(point, "g", "g"))}
            for one in templates_of(g):
                edge = LinearRing(plain[one.name].ring)
                away = [edge.distance(Point(p)) for p in one.ring]
                with self.subTest(f"{point} {one.name}"):
                    self.assertAlmostEqual(min(away), 3.15, delta=0.02)
                    self.assertLess(max(away), 3.2)
                    smaller, larger = sorted((Polygon(one.ring), Polygon(plain[one.name].ring)), key=lambda p: p.area)
                    self.assertEqual(
                        one.inside, smaller.equals(Polygon(plain[one.name].ring)), "a pocket's grows, a part's shrinks"
                    )
                    self.assertTrue(larger.buffer(0.01).contains(smaller))
                    self.assertIn("3.15", one.note)
                    self.assertIn("show side up", one.note)

    def test_the_same_width_is_the_part_itself_and_too_large_a_bearing_is_a_sentence(self):
        g = routed(("jack", 20.0, box(100, -60, 8, 8)))
        self.assertEqual(templates_of(g)[0].ring, g.body.outline)
        narrow = g.with_figures({"templates.bearing_mm": 6.0, "templates.cutter_mm": 16.0})
        with self.assertRaisesRegex(BadEntry, "too small"):
            templates_of(narrow)


class Seat(unittest.TestCase):
    def test_a_heel_of_56_gets_a_pocket_of_56_2(self):
        g = begin("bolt-on", "g", "g").with_figure("joint.length_mm", 70.0)
        at = stations(g)
        heel = 2 * board_half_mm(g, at.board_end)
        self.assertAlmostEqual(pocket_of(g).width_mm, heel + 0.2, places=6)
        self.assertAlmostEqual(pocket_of(g.with_figure("joint.clearance_mm", 0.25)).width_mm, heel + 0.5, places=6)

    def test_the_neck_s_angle_makes_the_wedge(self):
        g = begin("bolt-on", "g", "g").with_figure("joint.angle_deg", 2.0)
        found = pocket_of(g)
        self.assertAlmostEqual(found.wedge_mm, found.length_mm * math.tan(math.radians(2)), places=9)
        self.assertEqual(found.depth_mouth_mm, g.joint.heel_mm)
        self.assertAlmostEqual(found.length_mm, g.joint.length_mm)
        self.assertIsNone(pocket_of(begin("through", "t", "t")))
        tenon = begin("set", "s", "s")
        self.assertGreater(pocket_of(tenon).length_mm, tenon.joint.length_mm)

    def test_a_neck_that_does_not_fill_its_pocket_is_said(self):
        g = begin("bass", "b", "b").with_figure("joint.length_mm", 70.0)
        found = pocket_of(g)
        mouth = max(x for x, _ in found.ring)
        self.assertAlmostEqual(found.neck_in_it_mm, mouth - stations(g).board_end)
        self.assertLess(found.neck_in_it_mm, found.length_mm)
        note = next(t.note for t in templates_of(g) if t.name == "pocket")
        self.assertIn(f"reaches {found.neck_in_it_mm:.0f} of its {found.length_mm:.0f}", note)
        short = begin("bolt-on", "g", "g").with_figure("joint.length_mm", 60.0)
        whole = next(t.note for t in templates_of(short) if t.name == "pocket")
        self.assertNotIn("reaches", whole)

    def test_told_again_it_stays_one_figure(self):
        g = begin("bolt-on", "g", "g").with_figure("joint.clearance_mm", 0.2).with_figure("joint.clearance_mm", 0.3)
        self.assertEqual(g.joint.clearance_mm, 0.3)
        self.assertIn('"x-clearance_mm":0.3', g.model_dump_json(exclude_unset=True, by_alias=True))


class Walls(unittest.TestCase):
    def test_two_channels_of_6_4_nine_apart_leave_2_6_and_it_is_red_with_its_place(self):
        g = routed(("one", 10.0, box(120, -60, 80, 6.4)), ("two", 10.0, box(120, -51, 80, 6.4)))
        wall = walls_of(g)[0]
        self.assertAlmostEqual(wall.mm, 2.6, places=6)
        red = next(c for c in checks_of(g) if c.what.startswith("wall between"))
        self.assertFalse(red.holds)
        self.assertIn("from the tail", red.why)
        wide = routed(("one", 10.0, box(120, -60, 80, 6.4)), ("two", 10.0, box(120, -48, 80, 6.4)))
        self.assertTrue(all(c.holds for c in checks_of(wide) if c.what.startswith("wall")))

    def test_hollows_that_run_together_have_no_wall(self):
        g = routed(("one", 10.0, box(120, -60, 80, 20)), ("two", 10.0, box(150, -50, 20, 40)))
        self.assertNotIn("the one and the two", {w.between for w in walls_of(g)})


class Written(unittest.TestCase):
    def setUp(self):
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.folder = Path(scratch.name)

    def test_files_hold_every_template_and_a_copy_says_so(self):
        g = routed(("control", 32.0, box(90, -110, 60, 40))).with_figures({"templates.bearing_mm": 19.0})
        for name in ("t.dxf", "t.svg"):
            write_outlines(self.folder / name, g, templates=True)
            loops = read_outlines(self.folder / name).loops
            self.assertEqual(len(loops), len(templates_of(g)), name)
        self.assertGreater(write_full_size(self.folder / "t.pdf", g, templates=True).pages, 1)
        plain, copy = (full_size_pdf(g, "A3", templates=True, copy=c) for c in (False, True))
        self.assertNotEqual(plain, copy)
        self.assertEqual(plain, full_size_pdf(g, "A3", templates=True), "the same prints the same")

    def test_cavities_come_deepen_and_go_by_words(self):
        with Shop.open(self.folder / "W.grainet", create=True) as shop:

            def read(g, line):
                return FigureReader(g, shop.instruments, library_with(), "mm").read(line).after

            g = read(begin("bolt-on", "g", "g"), "cavity control 32 at 120 -80 60x40")
            (made,) = [c for c in g.body.cavities if c.name == "control"]
            self.assertEqual((made.depth_mm, made.polygon[0], made.polygon[2]), (32, (90, -100), (150, -60)))
            g = read(g, "cavity control 28")
            self.assertEqual([(c.name, c.depth_mm) for c in g.body.cavities if c.name == "control"], [("control", 28)])
            self.assertEqual([c for c in read(g, "cavity control away").body.cavities if c.name == "control"], [])
            for line, said in (
                ("cavity", "a name and a depth"), ("cavity jack away", "no cavity"), ("cavity jack 20", "place and size"), ("cavity jack 20 at 5", "middle and its size"),
            ):  # fmt: skip
                with self.subTest(line), self.assertRaisesRegex(BadEntry, said):
                    read(g, line)


if __name__ == "__main__":
    unittest.main()


class StartingPoints(unittest.TestCase):
    def test_every_neck_fills_its_pocket(self):
        for point in POINTS:
            pocket = pocket_of(begin(point, point, point))
            if pocket is not None:
                with self.subTest(point):
                    self.assertGreaterEqual(pocket.neck_in_it_mm, pocket.length_mm - 1.0)
