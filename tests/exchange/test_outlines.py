"""Outlines in and out: files made by the libraries' own writers and by hand come in to 0.05 mm, what is open is said, what is written reads back."""

import math
import tempfile
import unittest
from pathlib import Path

import ezdxf
from ezdxf import units
from hypothesis import given
from hypothesis import strategies as st
from shapely.geometry import Polygon

from grainet.design.instrument import Instrument
from grainet.design.outline_body import asymmetry, body_from, tight_corners, turned_body, zone_at
from grainet.design.parts import drawable
from grainet.design.shape_library import BODIES
from grainet.design.starting_points import begin
from grainet.exchange.full_size import full_size_pdf
from grainet.exchange.json_file import Unusable
from grainet.exchange.outline_read import Stroke, joined, read_outlines
from grainet.exchange.outline_write import named_rings, write_outlines
from grainet.exchange.tiles import MM, PAPERS, tiling
from grainet.wood.value import BadEntry

VERSIONS = ("R12", "R2000", "R2004", "R2007", "R2010", "R2013", "R2018")
SQUARE = ((0, 0), (100, 0), (100, 100), (0, 100))


class Scratch(unittest.TestCase):
    def setUp(self):
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.folder = Path(scratch.name)

    def svg(self, body, head='width="200mm" height="200mm" viewBox="0 0 200 200"'):
        path = self.folder / "a.svg"
        path.write_text(f'<svg xmlns="http://www.w3.org/2000/svg" {head}>{body}</svg>')
        return path

    def dxf(self, version="R2010", unit=units.MM):
        document = ezdxf.new(version)
        document.units = unit
        return document, document.modelspace()

    def kept(self, document):
        path = self.folder / "a.dxf"
        document.saveas(path)
        return path

    def near(self, loop, wanted, within=0.05):
        self.assertLess(Polygon(loop.ring).hausdorff_distance(wanted), within)


class FromDxf(Scratch):
    def test_a_square_of_100_stays_100_in_every_version(self):
        for version in VERSIONS:
            document, space = self.dxf(version)
            for a, b in zip(SQUARE, (*SQUARE[1:], SQUARE[0])):
                space.add_line(a, b, dxfattribs={"layer": "body"})
            (loop,) = read_outlines(self.kept(document)).loops
            self.assertEqual((loop.size_mm, loop.name), ((100, 100), "body"), version)

    def test_every_kind_of_curve_within_five_hundredths(self):
        document, space = self.dxf()
        space.add_circle((0, 0), 50, dxfattribs={"layer": "circle"})
        space.add_ellipse((300, 0), (60, 0), 0.5, dxfattribs={"layer": "ellipse"})
        space.add_lwpolyline([(600, 0, 0, 0, 1), (700, 0, 0, 0, 1)], close=True, dxfattribs={"layer": "bulges"})
        space.add_arc((900, 0), 40, 0, 180, dxfattribs={"layer": "arcs"})
        space.add_arc((900, 0), 40, 180, 360, dxfattribs={"layer": "arcs"})
        space.add_polyline2d([(1100, 0), (1200, 0), (1150, 80)], close=True, dxfattribs={"layer": "polyline"})
        block = document.blocks.new("B")
        block.add_circle((0, 0), 10)
        space.add_blockref("B", (1300, 0), dxfattribs={"xscale": 2, "yscale": 2, "rotation": 30, "layer": "block"})
        space.add_text("words are no outline")
        found = {loop.name: loop for loop in read_outlines(self.kept(document)).loops}
        self.near(found["circle"], Polygon([(50 * math.cos(a / 500), 50 * math.sin(a / 500)) for a in range(3141)]))
        self.near(found["ellipse"], Polygon([(300 + 60 * math.cos(a / 500), 30 * math.sin(a / 500)) for a in range(3141)]))
        self.near(found["bulges"], Polygon([(650 + 50 * math.cos(a / 500), 50 * math.sin(a / 500)) for a in range(3141)]))
        self.near(found["arcs"], Polygon([(900 + 40 * math.cos(a / 500), 40 * math.sin(a / 500)) for a in range(3141)]))
        self.near(found["polyline"], Polygon([(1100, 0), (1200, 0), (1150, 80)]))
        self.near(found["0"], Polygon([(1300 + 20 * math.cos(a / 500), 20 * math.sin(a / 500)) for a in range(3141)]))

    def test_units_of_the_header(self):
        for unit, size in ((units.IN, 2540), (units.CM, 1000), (units.M, 100_000), (units.MM, 100)):
            document, space = self.dxf(unit=unit)
            space.add_lwpolyline(SQUARE, close=True)
            (loop,) = read_outlines(self.kept(document)).loops
            self.assertAlmostEqual(loop.size_mm[0], size, places=6)

    def test_small_gaps_are_closed_and_wide_ones_told_where(self):
        for gap, closed in ((0.05, True), (0.4, False)):
            document, space = self.dxf()
            space.add_lwpolyline([(0, 0), (100, 0), (100, 100), (0, 100), (0, gap)])
            path = self.kept(document)
            if closed:
                self.assertEqual(len(read_outlines(path).loops), 1)
            else:
                with self.assertRaisesRegex(Unusable, "no closed outline: open by 0.40 near 0.0, 0.2"):
                    read_outlines(path)

    def test_what_is_no_dxf_is_a_sentence(self):
        for name, text in (
            ("a.dxf", "not a drawing"),
            ("b.dxf", ""),
            ("c.svg", "<svg"),
            ("d.svg", "<p/>"),
            ("e.png", "x"),
            ("f.svg", '<!DOCTYPE svg [<!ENTITY a "b">]><svg xmlns="http://www.w3.org/2000/svg"/>'),
        ):
            path = self.folder / name
            path.write_text(text)
            with self.assertRaises(Unusable) as caught:
                read_outlines(path)
            self.assertIn(name, str(caught.exception))
        with self.assertRaises(Unusable):
            read_outlines(self.folder / "missing.dxf")


class FromSvg(Scratch):
    def test_shapes_transforms_and_classes(self):
        drawing = read_outlines(
            self.svg(
                '<rect class="body" x="10" y="10" width="100" height="100"/><g transform="translate(5,5) scale(2)"><circle id="cavity" cx="50" cy="50" r="10"/></g>'
            )
        )
        body, cavity = drawing.loops
        self.assertEqual((body.size_mm, body.name), ((100, 100), "body"))
        self.near(cavity, Polygon([(105 + 20 * math.cos(a / 500), -105 + 20 * math.sin(a / 500)) for a in range(3141)]))

    def test_units_and_view_boxes(self):
        square = '<polygon points="0,0 100,0 100,100 0,100"/>'
        for head, size in (
            ('width="200mm" height="200mm" viewBox="0 0 200 200"', 100), ('width="4in" height="4in" viewBox="0 0 400 400"', 25.4), ('viewBox="0 0 200 200"', 100),
            ('width="20cm" height="20cm" viewBox="0 0 100 100"', 200), ("", 100),
        ):  # fmt: skip
            (loop,) = read_outlines(self.svg(square, head)).loops
            self.assertAlmostEqual(loop.size_mm[0], size, delta=0.05, msg=head)

    def test_bezier_and_arc_paths(self):
        (loop,) = read_outlines(self.svg('<path d="M10,100 C 10,40 110,40 110,100 A 50 50 0 0 1 10 100 Z"/>')).loops
        wanted = [self.bezier((10, -100), (10, -40), (110, -40), (110, -100), k / 900) for k in range(900)]
        wanted += [(60 + 50 * math.cos(a), -100 + 50 * math.sin(a)) for a in (-k * math.pi / 900 for k in range(901))]
        self.near(loop, Polygon(wanted))

    @staticmethod
    def bezier(a, b, c, d, t):
        u = 1 - t
        return tuple(u**3 * p + 3 * u * u * t * q + 3 * u * t * t * r + t**3 * s for p, q, r, s in zip(a, b, c, d))


class Joining(unittest.TestCase):
    @given(st.permutations(range(6)), st.lists(st.booleans(), min_size=6, max_size=6))
    def test_strokes_in_any_order_and_direction_make_the_loop(self, order, turned):
        ring = [(60 * math.cos(k * math.pi / 3), 60 * math.sin(k * math.pi / 3)) for k in range(6)]
        sides = [((ring[k], ring[(k + 1) % 6]), turned[k]) for k in order]
        loops, gaps = joined([Stroke(side[::-1] if back else side) for side, back in sides])
        self.assertEqual(gaps, [])
        self.assertLess(Polygon(loops[0].ring).symmetric_difference(Polygon(ring)).area, 1)


class Bodies(Scratch):
    def test_written_and_read_again_in_both_forms_to_five_hundredths(self):
        for shape in ("egg", "notched"):
            g = begin("bolt-on", "g", "g").with_figures({"body.outline": [list(p) for p in BODIES[shape].outline]})
            for name in ("o.dxf", "o.svg"):
                path = self.folder / name
                write_outlines(path, g)
                drawing = read_outlines(path)
                self.assertEqual(len(drawing.loops), len(list(named_rings(g))))
                body = next(loop for loop in drawing.loops if loop.name == "body")
                self.assertAlmostEqual(body.area_mm2, Polygon(g.body.outline).area, delta=1)
                loops = [(loop.ring, loop.name) for loop in drawing.loops if loop.name not in ("neck", "fretboard", "head")]
                told = body_from(loops, drawing.centre)
                again = drawable(Instrument(id="x").with_figures(told))
                self.assertLess(Polygon(again.body.outline).hausdorff_distance(Polygon(g.body.outline)), 0.05)
                self.assertEqual({z.kind for z in again.body.zones}, {z.kind for z in g.body.zones})

    def test_an_upright_drawing_is_laid_along_and_one_beside_the_axis_is_centred(self):
        ring = tuple((x, y) for x, y in ((0, 0), (320, 0), (320, 420), (0, 420)))
        outline = body_from([(ring, "body")])["body.outline"]
        xs, ys = zip(*outline)
        self.assertEqual((min(xs), max(xs), min(ys), max(ys)), (0, 420, -160, 160))
        for size in (40, 4000):
            with self.assertRaisesRegex(BadEntry, "In which unit"):
                body_from([(tuple((x * size / 420, y * size / 420) for x, y in ring), "body")])

    def test_turned_and_mirrored_twice_is_itself(self):
        g = begin("bolt-on", "g", "g")
        for how in ("turn", "mirror"):
            once = turned_body(g, how)
            twice = turned_body(once, how)
            self.assertNotEqual(once.body.outline, g.body.outline)
            self.assertLess(Polygon(twice.body.outline).symmetric_difference(Polygon(g.body.outline)).area, 0.1)

    def test_zones_are_found_by_place_on_both_sides_and_follow_the_outline(self):
        g = begin("bolt-on", "g", "g")
        self.assertEqual(
            (zone_at(g, (118, 0)), zone_at(g, (100, -100)), zone_at(g, (20, 40)), zone_at(g, (-5, 0))),
            ("critical", "hidden", "seen", "outside"),
        )
        self.assertEqual(zone_at(g, (118, 0), back=True), "back")
        self.assertEqual(zone_at(turned_body(g, "mirror"), (100, 100)), "hidden")

    def test_the_audit_tells_unlike_sides_and_tight_corners(self):
        def box(up, down):
            return Instrument(id="a").with_figure("body.outline", [[0, -down], [300, -down], [300, up], [0, up]])

        self.assertEqual(asymmetry(box(28.1, 27.6))[0][1:], (28.1, 27.6))
        self.assertEqual(asymmetry(box(28, 28)), [])
        ring = (
            [(0, 0), (100, 0), (100, 100)]
            + [(50 + 4 * math.cos(a), 100 - 4 * math.sin(a)) for a in (k * math.pi / 12 for k in range(13))]
            + [(0, 100)]
        )
        self.assertTrue(tight_corners(tuple(ring), 6.0))
        self.assertAlmostEqual(min(r for _, r in tight_corners(tuple(ring), 6.0) if r > 0), 4, delta=0.2)
        self.assertFalse(tight_corners(((0, 0), (100, 0), (100, 100), (0, 100)), 6.0))


class FullSize(unittest.TestCase):
    def test_pages_cover_the_drawing_with_their_overlap(self):
        for paper in PAPERS:
            for size in ((924.0, 330.0), (1183.0, 300.0), (150.0, 150.0)):
                tiles = tiling(size, paper)
                for k, count in enumerate((tiles.columns, tiles.rows)):
                    covered = (count - 1) * tiles.step_mm[k] + tiles.shown_mm[k]
                    self.assertGreaterEqual(covered, size[k] - 1e-9)
                    self.assertLess(covered - tiles.step_mm[k], size[k])

    def test_the_pdf_has_every_page_and_a_bar_of_its_length(self):
        g = begin("bolt-on", "g", "Heron 7")
        for mirrored in (False, True):
            pdf = full_size_pdf(g, "A3", mirrored=mirrored)
            self.assertEqual(pdf[:5], b"%PDF-")
            xs = [x for _, _, ring in named_rings(g) for x, _ in ring]
            ys = [y for _, _, ring in named_rings(g) for _, y in ring]
            tiles = tiling((max(xs) - min(xs) + 4, max(ys) - min(ys) + 4), "A3")
            self.assertEqual(pdf.count(b"/Type /Page\n") + pdf.count(b"/Type /Page "), tiles.pages + 1)
        self.assertAlmostEqual(MM * 100, 283.46, delta=0.01)
        right = sorted(y for _, _, ring in named_rings(g) for _, y in ring)
        back = sorted(-y for _, _, ring in named_rings(g, mirrored=True) for _, y in ring)
        self.assertEqual(right, back)


if __name__ == "__main__":
    unittest.main()
