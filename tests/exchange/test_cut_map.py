"""A board's cut map on paper, as SVG and as DXF: at true size, the same geometry everywhere, no figure over another."""

import io
import random
import re
import tempfile
import unittest
from pathlib import Path
from xml.etree import ElementTree

import ezdxf
from shapely.geometry import LineString, Polygon
from shapely.ops import unary_union

from grainet.exchange.cut_drawing import LAYERS, drawing_of, shown_steps
from grainet.exchange.cut_map import cut_map_dxf, cut_map_pdf, cut_map_svg, write_cut_map
from grainet.exchange.json_file import Unusable
from grainet.exchange.tiles import FOOT_MM, MARGIN_MM, MM, tiling
from grainet.wood.units import format_mark
from grainet.work.steps import steps_for
from tests.exchange.paper import printed
from tests.jobs import SAW, half_ring, job, part, piece, planned, random_job

SVG = "{http://www.w3.org/2000/svg}"


def crowded():
    """A board whose cuts lie close together, with forty defects."""
    rng = random.Random(3)
    knots = []
    for k in range(40):
        x, y = rng.uniform(20, 2300), rng.uniform(5, 170)
        knots.append({"id": f"k{k + 1}", "kind": "knot", "polygon": [[x, y], [x + 6, y], [x + 6, y + 5], [x, y + 5]]})
    asked = job([piece("A", 2400, 190, 30, defects=knots)], [part("stick", 300, 14, 20), part("block", 90, 60, 20)], SAW, [
        {"id": "b", "recipes": [{"id": "r", "value": 1, "needs": {"stick": 6, "block": 5}}]}])  # fmt: skip
    return asked, planned(asked)


class Plans(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.plans = [crowded()]
        for seed in (1, 3, 4):
            asked = random_job(seed)
            cls.plans.append((asked, planned(asked)))
        halves = [part("half", 420, 120, 20, outline=half_ring(420, 120))]
        nested = job(
            [piece("A", 1000, 330, 22)], halves, SAW, [{"id": "b", "recipes": [{"id": "r", "value": 1, "needs": {"half": 2}}]}]
        )
        cls.plans.append((nested, planned(nested)))

    def boards(self):
        for asked, plan in self.plans:
            for one in asked.pieces:
                if any(p.piece == one.id for p in plan.placements):
                    yield asked, plan, one


class Drawn(Plans):
    def test_no_words_lie_on_others_and_every_part_cut_and_defect_has_its_own(self):
        seen = 0
        for asked, plan, one in self.boards():
            drawing = drawing_of(asked, plan, one)
            boxes = [w.box for w in drawing.words]
            for k, a in enumerate(boxes):
                for b in boxes[k + 1 :]:
                    self.assertFalse(a[0] < b[2] and b[0] < a[2] and a[1] < b[3] and b[1] < a[3], (drawing.words[k], b))
                self.assertTrue(
                    drawing.low[0] < a[0] and a[2] < drawing.high[0] and drawing.low[1] < a[1] and a[3] < drawing.high[1]
                )
            count = {layer: sum(w.layer == layer for w in drawing.words) for layer in LAYERS}
            self.assertEqual(count["part"], sum(p.piece == one.id and p.leaf == 1 for p in plan.placements))
            self.assertEqual(count["cut"], len(shown_steps(asked, plan, one)))
            self.assertEqual(count["defect"], len(one.defects))
            seen += len(boxes)
        self.assertGreater(seen, 80)

    def test_figures_are_the_list_s_own(self):
        """Map and list agree: every mark of a step stands on the map, as it is set at the saw, with the side that it is measured from."""
        for style in ("mm", "in"):
            for asked, plan, one in self.boards():
                told = [w.text for w in drawing_of(asked, plan, one, style).words if w.layer == "cut"]
                for step in steps_for(asked, plan, one, style):
                    if step.cut.tool == "resaw":
                        continue
                    (mine,) = [t for t in told if t.startswith(f"{step.n} {step.cut.tool}")]
                    for mark in step.cut.marks:
                        self.assertIn(format_mark(mark.mm, style), mine)
                        self.assertIn(mark.from_, mine)

    def test_lines_are_the_plan_s(self):
        for asked, plan, one in self.boards():
            drawing = drawing_of(asked, plan, one)
            parts = [Polygon(s.points) for s in drawing.strokes if s.layer == "part"]
            placed = [Polygon(p.polygon) for p in plan.placements if p.piece == one.id and p.leaf == 1]
            self.assertAlmostEqual(sum(p.area for p in parts), sum(p.area for p in placed), places=6)
            lines = [s.points for s in drawing.strokes if s.layer == "cut"]
            for step in shown_steps(asked, plan, one):
                whole, wood = LineString(step.cut.line), step.worked_on.hand.polygon
                mine = [LineString(points) for points in lines if whole.buffer(1e-5).covers(LineString(points))]
                self.assertAlmostEqual(unary_union(mine).intersection(wood).length, whole.intersection(wood).length, delta=0.2)
                if not step.cut.marks or whole.intersection(wood).length < 0.2:  # a kerf along the very edge
                    continue
                self.assertTrue(
                    any(wood.buffer(1e-5).covers(line) for line in mine), "it runs on through what is cut out already"
                )

    def test_a_part_with_its_show_side_down_says_so(self):
        turned = 0
        for asked, plan, one in self.boards():
            words = [w.text for w in drawing_of(asked, plan, one).words if w.layer == "part"]
            down = sum(p.piece == one.id and p.leaf == 1 and p.face_up == "2" for p in plan.placements)
            self.assertEqual(sum("face 2 up" in w for w in words), down)
            turned += down
        self.assertGreater(turned, 0, "no part of the plans is turned over: the test says nothing")


class Printing(Plans):
    def test_pages_tile_at_true_size_and_all_that_is_drawn_lies_on_one_of_them(self):
        for asked, plan, one in list(self.boards())[:4]:
            drawing = drawing_of(asked, plan, one, "mm", "T")
            steps = steps_for(asked, plan, one)
            for paper in ("A4", "A3", "letter"):
                tiles = tiling(drawing.size_mm, paper)
                with printed() as paged:
                    pdf = cut_map_pdf(asked, plan, one, steps, "mm", "T", paper)
                boxes = [tuple(float(v) for v in m.split())[2:] for m in re.findall(rb"/MediaBox \[ ([^\]]+)\]", pdf)]
                self.assertEqual(len(boxes), len(paged.sizes))
                pages = paged.sizes[-tiles.pages :]
                self.assertTrue(all(abs(p[0] - tiles.page_mm[0] * MM) < 0.01 for p in pages))
                first = len(paged.sizes) - tiles.pages
                self.assertEqual([t.words for t in paged.outside() if t.page == first - 1], [], "the map of the pages")
                for word in drawing.words:
                    places = [t for t in paged.texts if t.page >= first and t.words == word.text]
                    self.assertEqual(len({t.page for t in places}), tiles.pages, "drawn on every page, clipped to it")
                    seen = [self.place(t, t.page - first, tiles, drawing) for t in places if self.shown(t, tiles)]
                    near = min(abs(x - word.x) + abs(y - word.y) for x, y in seen)
                    self.assertLess(near, 1e-6, word)

    @staticmethod
    def place(t, k, tiles, drawing):
        """Where a text of page k lies on the drawing."""
        at = (k % tiles.columns, k // tiles.columns)
        return (
            t.x / MM - MARGIN_MM + drawing.low[0] + at[0] * tiles.step_mm[0],
            t.y / MM - MARGIN_MM - FOOT_MM + drawing.low[1] + at[1] * tiles.step_mm[1],
        )

    @staticmethod
    def shown(t, tiles):
        x, y = t.x / MM - MARGIN_MM, t.y / MM - MARGIN_MM - FOOT_MM
        return -1e-6 <= x <= tiles.shown_mm[0] + 1e-6 and -1e-6 <= y <= tiles.shown_mm[1] + 1e-6

    def test_one_page_and_the_list_print_nothing_outside_or_over(self):
        for asked, plan, one in self.boards():
            with printed() as paged:
                cut_map_pdf(asked, plan, one, steps_for(asked, plan, one), "mm", "A long name of an instrument, the second")
            self.assertEqual(paged.outside(), [])
            self.assertEqual(paged.overprinted(), [])

    def test_no_such_paper(self):
        asked, plan = self.plans[0]
        with self.assertRaises(KeyError):
            cut_map_pdf(asked, plan, asked.pieces[0], [], paper="A9")


class Written(Plans):
    def test_no_line_runs_through_a_figure(self):
        for asked, plan, one in list(self.boards())[:3]:
            drawing = drawing_of(asked, plan, one, "mm", "T")
            svg = cut_map_svg(drawing)
            self.assertEqual(svg.count('<rect class="behind"'), len(drawing.words))
            self.assertLess(svg.rindex("<path"), svg.index('<rect class="behind"'), "words lie over every line")

    def test_svg_and_dxf_hold_the_same_lines_in_mm(self):
        for asked, plan, one in list(self.boards())[:6]:
            drawing = drawing_of(asked, plan, one)
            root = ElementTree.fromstring(cut_map_svg(drawing))
            self.assertEqual(root.get("width"), f"{drawing.size_mm[0]:.3f}mm")
            paths = root.findall(f"{SVG}path")
            self.assertEqual([p.get("class") for p in paths], [s.layer for s in drawing.strokes])
            self.assertEqual([t.text for t in root.findall(f"{SVG}text")], [w.text for w in drawing.words])
            document = ezdxf.read(io.StringIO(cut_map_dxf(drawing).decode()))
            self.assertEqual(document.units, ezdxf.units.MM)
            lines = list(document.modelspace().query("LWPOLYLINE"))
            self.assertEqual([len(line) for line in lines], [len(s.points) for s in drawing.strokes])
            for line, stroke, path in zip(lines, drawing.strokes, paths):
                self.assertEqual((line.dxf.layer, line.closed), (stroke.layer, stroke.closed))
                x, y = stroke.points[0]
                self.assertAlmostEqual(line[0][0], x, places=6)
                self.assertTrue(path.get("d").startswith(f"M {x:.3f} {-y:.3f} L"))

    def test_the_ending_says_the_form(self):
        asked, plan = self.plans[0]
        with tempfile.TemporaryDirectory() as name:
            for ending in ("svg", "DXF"):
                path = Path(name) / f"map.{ending}"
                write_cut_map(path, asked, plan, asked.pieces[0], "mm", "T")
                self.assertGreater(path.stat().st_size, 1000)
            with self.assertRaisesRegex(Unusable, "written as"):
                write_cut_map(Path(name) / "map.txt", asked, plan, asked.pieces[0])
            self.assertEqual(len(list(Path(name).iterdir())), 2)


if __name__ == "__main__":
    unittest.main()
