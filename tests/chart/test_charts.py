"""Charts as values and as pages: what they say, that all of it lies on the page, and the files they become."""

import csv
import io
import tempfile
import unittest
import xml.etree.ElementTree as ET
from datetime import date
from pathlib import Path

from hypothesis import given, settings
from hypothesis import strategies as st

from grainet.chart import layout
from grainet.chart.drying import moisture_chart, rest_chart, weight_chart
from grainet.chart.figure import Block, Chart, Dots, Line, days_axis, nice_step, scale
from grainet.chart.layout import Fill, Stroke, Words, laid_out
from grainet.chart.rack import density_chart, overview_chart
from grainet.chart.year import air_chart, movement_chart
from grainet.demo.make import make_demo
from grainet.exchange.air_file import read_air
from grainet.exchange.chart_file import chart_csv, chart_svg, charts_pdf, rough_width, write_chart
from grainet.exchange.json_file import Unusable
from grainet.grade.facts import Facts
from grainet.kit.shop_profile import ShopProfile
from grainet.wood.climate import year_of
from grainet.wood.piece import Piece

TODAY = date(2026, 11, 24)


class Short(unittest.TestCase):
    def test_words_go_whole_and_a_name_keeps_what_tells_it_apart(self):
        def wide(text, px):
            return len(text) * px

        self.assertEqual(layout._fitted_name("European sycamore maple 16.5 l", 20, wide, 1), "maple 16.5 l")
        self.assertEqual(layout._fitted("ready in May, likely, by weighings", 21, wide, 1), "ready in May, likely")
        self.assertEqual(layout._fitted_name("ash", 1, wide, 1), "ash")


class Scales(unittest.TestCase):
    @settings(max_examples=100)
    @given(st.lists(st.floats(-1e4, 1e4), min_size=1, max_size=20))
    def test_an_axis_holds_its_values_and_has_round_ticks(self, values):
        axis = scale("x", values)
        self.assertTrue(axis.low <= min(values) and max(values) <= axis.high)
        self.assertTrue(2 <= len(axis.ticks) <= 9, len(axis.ticks))
        self.assertEqual(len({t.text for t in axis.ticks}), len(axis.ticks), "no two ticks read alike")
        self.assertTrue(all(abs(float(t.text) - t.at) < 1e-6 * max(1, abs(t.at)) for t in axis.ticks))

    def test_steps_and_days(self):
        self.assertEqual([nice_step(v) for v in (0.03, 0.11, 0.3, 2.1, 7)], [0.05, 0.2, 0.5, 2.5, 10])
        axis = days_axis(date(2026, 1, 1), 90)
        self.assertEqual(axis.ticks[0].text, "1 Jan")
        self.assertLessEqual(len(days_axis(date(2020, 1, 1), 2500).ticks), 10)


class OfTheDemo(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.scratch = tempfile.TemporaryDirectory()
        cls.addClassCleanup(cls.scratch.cleanup)
        cls.shop = make_demo(Path(cls.scratch.name) / "D.grainet")
        cls.addClassCleanup(cls.shop.close)
        shop = cls.shop
        facts = [shop.judgements.facts(p.id) for p in shop.pieces()]
        verdicts = {p.id: shop.judgements.verdict(p.id, "neck") for p in shop.pieces()}
        wet = shop.judgements.facts("17")
        cls.charts = [
            moisture_chart(wet, TODAY), weight_chart(wet, TODAY), rest_chart(wet, TODAY), movement_chart(shop.judgements.facts("8")),
            air_chart(shop.air.readings, shop.air.year, shop.kit.target_moisture_pct, TODAY), air_chart([], year_of(()), 8.5, TODAY), density_chart(facts),
            overview_chart(facts, verdicts, shop.kit.use("neck")), moisture_chart(shop.judgements.facts("1"), TODAY, 20.0, "bench", 9.0),
        ]  # fmt: skip

    def chart(self, name):
        return next(c for c in self.charts if c.name == name)

    def test_all_of_a_chart_lies_on_its_page(self):
        for chart in self.charts:
            for width, height in ((1120, 640), (760, 420)):
                for one in laid_out(chart, width, height, rough_width):
                    points = [(one.x, one.y)] if isinstance(one, Words) else one.points
                    for x, y in points:
                        self.assertTrue(-2 <= x <= width + 2 and -2 <= y <= height + 2, (chart.name, one))

    def test_each_has_a_sentence_a_table_and_marks(self):
        for chart in self.charts:
            self.assertTrue(chart.message.endswith((".", "?")), chart.message)
            self.assertTrue(chart.marks and len(chart.table) > 1, chart.name)
            self.assertEqual(len({len(row) for row in chart.table}), 1, chart.name)

    def test_the_settling_plot_shows_core_mean_faces_band_and_readings(self):
        chart = self.chart("moisture")
        self.assertLessEqual({"core", "mean", "face 1", "ready", "by weight"}, {m.name for m in chart.legend})
        self.assertIn("Ready between", chart.message)
        core = next(m for m in chart.marks if isinstance(m, Line) and m.name == "core")
        self.assertGreater(core.points[0][1], core.points[-1][1])
        weighed = next(m for m in chart.marks if isinstance(m, Dots) and m.name == "by weight")
        self.assertEqual(len(weighed.points), 7)

    def test_the_plot_and_the_lists_say_one_date(self):
        """Every wet board: the day in the plot's sentence, in readiness and in the waits is one and the same."""
        from grainet.grade.ready import day_words
        from grainet.work.waiting import settling_wait

        shop = self.shop
        seen = 0
        for piece in shop.pieces():
            facts = shop.judgements.facts(piece.id)
            if facts.ready.word != "waits":
                continue
            seen += 1
            message = moisture_chart(facts, TODAY).message
            soonest, likely, latest = facts.ready.dates(TODAY)
            self.assertIn(f"Ready between {day_words(soonest)} and {day_words(latest)}, likely {day_words(likely)}", message)
            wait = settling_wait(piece, shop.kit, TODAY)
            self.assertEqual(max(TODAY, wait.ready), likely)
        self.assertGreaterEqual(seen, 3)

    def test_the_curve_goes_on_to_the_air_s_moisture(self):
        for number in ("1", "8", "17"):
            facts = self.shop.judgements.facts(number)
            chart = moisture_chart(facts, TODAY)
            for name in ("core", "mean", "face 1"):
                line = next(m for m in chart.marks if isinstance(m, Line) and m.name == name)
                self.assertLess(abs(line.points[-1][1] - facts.kit.target_moisture_pct), 1.0, (number, name))

    def test_what_if_another_thickness(self):
        facts = self.shop.judgements.facts("1")
        last = [float(moisture_chart(facts, TODAY, thick).table[-1][0]) for thick in (10.0, 60.0)]
        self.assertLess(*last)

    def test_a_heavy_offcut_stands_out(self):
        chart = self.chart("density")
        self.assertIn("1 of 17 lie outside", chart.message)
        wine = [m for m in chart.marks if isinstance(m, Dots) and m.ink == "wine"]
        self.assertEqual(len(wine), 1)

    def test_the_overview_stands_as_much_wood_as_is_given(self):
        chart = self.chart("overview")
        shares = {m.label: m.share for m in chart.marks if isinstance(m, Block)}
        self.assertEqual((shares["3"], shares["10"]), (1.0, 0.0))
        self.assertAlmostEqual(shares["17"], 0.34)
        self.assertEqual(len(shares), 17)
        unjudged = overview_chart([self.shop.judgements.facts("3")], {}, self.shop.kit.use("neck"))
        self.assertTrue(next(m for m in unjudged.marks if isinstance(m, Block)).dashed)

    def test_nothing_read_says_the_next_step(self):
        bare = Facts(Piece(id="1"), ShopProfile())
        for chart in (
            moisture_chart(bare, TODAY),
            weight_chart(bare, TODAY),
            rest_chart(bare, TODAY),
            movement_chart(bare),
            density_chart([bare]),
            overview_chart([bare], {}, ShopProfile().use("neck")),
        ):
            self.assertEqual(chart.marks, ())
            self.assertGreater(len(chart.message), 20)
            self.assertTrue(laid_out(chart, 800, 400, rough_width))

    def test_files(self):
        folder = Path(self.scratch.name)
        chart = self.chart("moisture")
        for suffix in ("svg", "pdf", "csv"):
            write_chart(folder / f"c.{suffix}", chart)
            self.assertGreater((folder / f"c.{suffix}").stat().st_size, 500)
        with self.assertRaises(ValueError):
            write_chart(folder / "c.docx", chart)
        self.assertEqual(list(folder.glob("*.part")), [])
        root = ET.fromstring(chart_svg(chart))
        self.assertEqual(root.find("{http://www.w3.org/2000/svg}title").text, chart.title)
        rows = list(csv.reader(io.StringIO(chart_csv(chart))))
        self.assertEqual(tuple(rows[0]), chart.table[0])
        self.assertEqual(
            charts_pdf(self.charts, "All").count(b"/Type /Page\n") or charts_pdf(self.charts, "All").count(b"/Type /Page "),
            len(self.charts),
        )

    def test_words_that_look_like_markup_stay_words(self):
        odd = Chart("x", "<b>& title", "a < b.", scale("x", [0, 1]), scale("y", [0, 1]), (Line(((0, 0), (1, 1)), "ink", "<i>"),))
        ET.fromstring(chart_svg(odd))
        kinds = {type(p) for p in laid_out(odd, 600, 300, rough_width)}
        self.assertEqual(kinds, {Stroke, Words})
        self.assertNotIn(Fill, kinds)


class AirLists(unittest.TestCase):
    def read(self, text):
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "air.csv"
            path.write_text(text, encoding="utf-8")
            return read_air(path)

    def test_common_forms(self):
        rows = self.read("time,temp (C),RH %\n2026-11-02 08:30,20.5,46\n2026-11-02T20:30:00,21,0.48\n\n")
        self.assertEqual(
            [(r.at, r.temperature_c, r.humidity) for r in rows],
            [("2026-11-02T08:30", 20.5, 0.46), ("2026-11-02T20:30", 21, 0.48)],
        )
        semi = self.read("Date;Temperature °F;Humidity\n02.11.2026 08:30;68;46,5\n")
        self.assertAlmostEqual(semi[0].temperature_c, 20, places=1)
        self.assertAlmostEqual(semi[0].humidity, 0.465)

    def test_what_cannot_be_used_is_named_and_nothing_comes_in(self):
        for text, part in (
            ("", "no readings"), ("time,temp\n2026-11-02,20\n", "a humidity"), ("time,temp,rh\nyesterday,20,46\n", "row 2"), ("time,temp,rh\n2026-11-02 08:30,warm,46\n", "row 2"),
            ("time,temp,rh\n2026-11-02 08:30,20,46\n2026-11-02 09:30,20\n", "row 3"), ("time,temp,rh\n2026-11-02 08:30,200,46\n", "row 2"),
        ):  # fmt: skip
            with self.assertRaises(Unusable) as caught:
                self.read(text)
            self.assertIn(part, caught.exception.lines[0])


if __name__ == "__main__":
    unittest.main()
