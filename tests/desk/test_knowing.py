"""Knowing the wood at the window: the kit book's pages, plots, sorting the rack, every rule, what to mind of a plan."""

import tempfile
import unittest
from pathlib import Path

from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QImage
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QMenu

from grainet.kit.uses import shipped
from grainet.wood.piece import Piece
from tests.desk.app import WindowTest
from tests.jobs import planned

CTRL = Qt.KeyboardModifier.ControlModifier


class Case(WindowTest):
    def fill(self, name, text):
        """Type into a field as a person would, and Enter."""
        field = self.find(name)
        self.assertTrue(field.isVisible(), name)
        field.setFocus()
        field.clear()
        QTest.keyClicks(field, text)
        QTest.keyClick(field, Qt.Key.Key_Return)
        self.window.setFocus()
        self.settle()
        return field

    def page(self, name):
        self.key(Qt.Key.Key_K, Qt.KeyboardModifier.ControlModifier, target=self.window)
        self.click(f"kit.page.{name}")
        return self.find("kitBook").pages[name]


class KitPages(Case):
    def test_a_kerf_changes_at_once_what_counts_on_it(self):
        from grainet.demo.designs import PLOVER

        model = self.page("machines").machines.model

        def put(machine, title, text):
            row = [m.id for m in model.values].index(machine)
            column = [c.title for c in model.columns].index(title)
            return model.setData(model.index(row, column), text, Qt.ItemDataRole.EditRole)

        put("table", "Kerf", "3.2")
        wide = self.shop.jobs.job_for([PLOVER]).kit.kerf_mm.rip
        put("table", "Kerf", "1.2")
        self.assertEqual((wide, self.shop.jobs.job_for([PLOVER]).kit.kerf_mm.rip), (3.2, 1.2))
        put("curves", "Leans °", "3")
        self.assertAlmostEqual(self.shop.jobs.job_for([PLOVER]).kit.margin_mm, 44 * 0.0524, delta=0.05)
        router = next(k for k, m in enumerate(model.values) if m.id == "router")
        put("router", "Deepest", "45")
        self.assertEqual(self.shop.kit.machines[router].deepest_mm, 45)
        put("router", "Deepest", "")
        self.assertIsNone(self.shop.kit.machines[router].deepest_mm)
        self.assertFalse(put("table", "Kerf", "wide"))
        self.assertIn("Still 1.2", self.message[-1])
        self.assertFalse(put("table", "Does", "turn"))
        self.assertIn("no work of a machine", self.message[-1])
        self.assertEqual(self.shop.kit.cuts.kerf_mm.rip, 1.2)

    def test_a_second_saw_that_is_put_first_does_the_work(self):
        page = self.page("machines")
        self.click("kit.machines.add")
        row = len(page.machines.model.values) - 1
        for title, text in (("Does", "rip"), ("Kerf", "0.8"), ("Name", "Thin saw")):
            column = [c.title for c in page.machines.model.columns].index(title)
            page.machines.model.setData(page.machines.model.index(row, column), text, Qt.ItemDataRole.EditRole)
        self.assertNotEqual(self.shop.kit.cuts.kerf_mm.rip, 0.8)
        page.machines.table.setCurrentIndex(page.machines.model.index(row, 0))
        self.click("kit.machines.first")
        self.assertEqual((self.shop.kit.cuts.kerf_mm.rip, self.shop.kit.machines[0].name), (0.8, "Thin saw"))

    def test_a_guessed_figure_is_ochre_until_it_is_typed(self):
        model = self.page("machines").machines.model
        row = [m.id for m in model.values].index("resaw")
        at = model.index(row, [c.title for c in model.columns].index("Kerf"))
        self.assertEqual(at.data(Qt.ItemDataRole.ForegroundRole), self.state.theme.ochre)
        model.setData(at, "1.4", Qt.ItemDataRole.EditRole)
        self.assertIsNone(at.data(Qt.ItemDataRole.ForegroundRole))

    def test_every_page_shows_in_light_and_dark(self):
        for theme in ("light", "dark"):
            self.state.keep("light", self.shop.kit.changed(theme=theme))
            self.key(Qt.Key.Key_K, Qt.KeyboardModifier.ControlModifier, target=self.window)
            book = self.find("kitBook")
            for name in ("machines", "gluing", "meters", "rules", "uses", "species", "brief"):
                book.show_page(name)
                self.assertTrue(book.pages[name].isVisible())
                self.assertFalse(book.pages[name].grab().isNull())

    def test_clamps_and_glues_are_edited_in_their_tables(self):
        page = self.page("gluing")
        model = page.clamps.model
        self.assertTrue(model.setData(model.index(1, 4), "12", Qt.ItemDataRole.EditRole))
        self.assertEqual(self.shop.kit.clamps[1].count, 12)
        self.assertFalse(model.setData(model.index(1, 2), "wide", Qt.ItemDataRole.EditRole))
        self.assertIn("Still", self.message[-1])
        self.assertFalse(model.setData(model.index(1, 2), "99999", Qt.ItemDataRole.EditRole))
        self.click("kit.clamps.add")
        self.assertEqual(len(self.shop.kit.clamps), 4)
        page.clamps.table.setCurrentIndex(model.index(3, 0))
        self.click("kit.clamps.away")
        self.assertEqual(len(self.shop.kit.clamps), 3)
        glues = page.glues.model
        glues.setData(glues.index(0, 9), "2020-01-01", Qt.ItemDataRole.EditRole)
        self.assertTrue(self.shop.kit.glues[0].stale(self.state.today.isoformat()))
        page.use.setCurrentIndex(2)
        page.use.activated.emit(2)
        self.assertEqual(self.shop.kit.glue.id, "cross")
        self.key(Qt.Key.Key_Z, CTRL, self.window)
        self.assertEqual(self.shop.kit.glue.id, "yellow")

    def test_meters_corrections_and_months(self):
        page = self.page("meters")
        self.click("kit.corrections.add")
        model = page.corrections.model
        self.assertTrue(model.setData(model.index(0, 0), "oak", Qt.ItemDataRole.EditRole))
        self.assertTrue(model.setData(model.index(0, 1), "0.8", Qt.ItemDataRole.EditRole))
        self.assertEqual(self.shop.kit.meter.corrections[0].offset, 0.8)
        self.assertFalse(model.setData(model.index(0, 0), "plastic", Qt.ItemDataRole.EditRole))
        self.assertIn("not in the species library", self.message[-1])
        months = page.months.model
        self.assertTrue(months.setData(months.index(0, 1), "30", Qt.ItemDataRole.EditRole))
        self.assertAlmostEqual(self.shop.kit.year[0].humidity, 0.3)
        before = self.shop.kit.target_moisture_pct
        self.fill("kit.Humidity", "60")
        self.assertGreater(self.shop.kit.target_moisture_pct, before)

    def test_house_rules(self):
        page = self.page("rules")
        box = self.find("kit.AMovingNeckPiece")
        box.setCurrentText("advise")
        box.activated.emit(1)
        self.assertEqual(self.shop.kit.rules.rest_neck, "advise")
        self.fill("kit.StillFor", "14")
        self.assertEqual(self.shop.kit.rules.rest_days, 14)
        self.fill("kit.RankWords", "shelf, bench, front of the shop")
        self.assertEqual(self.shop.kit.rank_words, ("poor", "fair", "good", "choice"), "single words only")
        self.fill("kit.RankWords", "shelf, bench, best")
        self.assertEqual(self.shop.kit.rank_words, ("shelf", "bench", "best"))
        self.fill("kit.FigureWords", "plain, lively")
        self.assertEqual(self.shop.kit.figure_words, ("plain", "lively"))
        self.assertTrue(page.isVisible())

    def test_a_species_is_found_by_any_name_changed_added_and_put_back(self):
        page = self.page("species")
        self.fill("kit.speciesSearch", "hard maple")
        self.assertEqual(page.chosen.common, "Sugar maple (hard)")
        self.fill("kit.species.density_12_kg_m3", "740")
        self.assertEqual(self.shop.kit.library.find("rock maple").density_12_kg_m3, 740)
        self.fill("kit.species.colours", "sparkly")
        self.assertIn("Still pale", self.message[-1])
        self.click("kit.species.oily")
        self.assertIn("oily", self.shop.kit.library.find("hard maple").flags)
        self.click("kit.species.back")
        self.assertEqual(self.shop.kit.species, ())
        self.click("kit.species.add")
        self.fill("kit.species.common", "Bog yew")
        self.assertIsNotNone(self.shop.kit.library.find("bog yew"))
        self.assertEqual(len(self.shop.kit.species), 1, "renaming the new one leaves no other behind")
        self.state.choose_piece("3")
        self.type("sp bog yew")
        self.assertEqual(self.shop.piece("3").species, "Bog yew")
        page.choose("bog yew")
        self.click("kit.species.back")
        self.assertIn("rename it first", self.message[-1])

    def test_a_changed_species_counts_in_the_verdicts(self):
        self.assertEqual(self.shop.judgements.verdict("10", "neck").outcome, "wont")
        page = self.page("species")
        page.choose("Western redcedar")
        self.state.keep("unweighed", self.shop.piece("10").changed(mass_kg=None))
        self.fill("kit.species.density_12_kg_m3", "700")
        self.assertNotEqual(self.shop.judgements.verdict("10", "neck").outcome, "wont")

    def test_a_use_is_tried_before_it_is_kept(self):
        self.state.choose_use("neck")
        page = self.page("uses")
        self.fill("kit.use.least_ring_deg", "30")
        self.assertIsNotNone(page.draft)
        self.assertEqual({c.piece for c in page.changes}, {"4"})
        self.assertEqual(self.shop.kit.use("neck"), shipped("neck"), "nothing is kept yet")
        self.click("kit.use.keep")
        self.assertEqual(self.shop.kit.use("neck").least_ring_deg, 30)
        self.assertIn("changed by this house", self.shop.kit.use("neck").source)
        self.assertEqual(self.shop.judgements.verdict("4", "neck").outcome, "gives")
        self.fill("kit.use.most_slope_deg", "steep")
        self.assertIn("not a figure", self.message[-1])
        self.fill("kit.use.low", "2000")
        self.assertIn("the first under the second", self.message[-1])
        self.click("kit.preset.shipped")
        self.click("kit.use.keep")
        self.assertEqual(self.shop.kit.use("neck"), shipped("neck"))

    def test_presets_and_strictness_and_leaving_it(self):
        self.state.choose_use("body_half")
        page = self.page("uses")
        self.click("kit.preset.clear")
        self.assertTrue(page.changes)
        self.click("kit.use.drop")
        self.assertIsNone(page.draft)
        box = self.find("kit.how.twist")
        box.setCurrentIndex(2)
        box.activated.emit(2)
        self.settle()
        self.assertEqual(page.rule.strictness("twist"), "off")
        self.fill("kit.weight.slope", "3")
        self.assertEqual(page.rule.weight("slope"), 3)
        self.key(Qt.Key.Key_Escape, target=page)
        self.assertIsNone(page.draft)

    def test_the_brief(self):
        page = self.page("brief")
        page.design.activated.emit(0)
        model = page.table.model
        self.assertTrue(model.setData(model.index(0, 1), "11.5", Qt.ItemDataRole.EditRole))
        self.assertEqual(self.state.design.brief[0].mm, 11.5)
        self.assertTrue(model.setData(model.index(0, 2), "guessed", Qt.ItemDataRole.EditRole))
        self.assertTrue(any("cuts wait" in text for text, _ in page._warnings(self.state.design)))
        self.assertFalse(model.setData(model.index(1, 0), "Nut width", Qt.ItemDataRole.EditRole))
        self.assertIn("already", self.message[-1])


class Plots(Case):
    def show_plot(self, name):
        self.key(Qt.Key.Key_P, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier, target=self.window)
        self.click(f"plots.{name}")
        self.settle()
        return self.find("plots").view.chart

    def test_every_plot_of_the_demo(self):
        self.state.choose_piece("17")
        for name in ("moisture", "weight", "rest", "movement", "air", "density", "overview", "taps"):
            chart = self.show_plot(name)
            self.assertEqual(chart.name, name)
            self.assertTrue(chart.marks, name)
        self.assertFalse(self.grab(self.find("chart")).isNull())

    def test_what_if_it_were_thinner(self):
        self.state.choose_piece("17")
        whole = self.show_plot("moisture")
        self.fill("plots.thickness", "10")
        thin = self.find("plots").view.chart
        self.assertIn("10 thick", thin.title)
        self.assertLess(float(thin.table[-1][0]), float(whole.table[-1][0]))
        self.fill("plots.thickness", "5000")
        self.assertIn("needs 1 to 400", " ".join(self.message))
        self.fill("plots.thickness", "")
        stack = self.find("plots.stacking")
        stack.setCurrentIndex(3)
        self.settle()
        self.assertIn("flat on a bench", self.find("plots").view.chart.title)

    def test_a_year_s_movement_of_any_blank(self):
        self.state.choose_piece("8")
        whole = self.show_plot("movement").message
        self.fill("plots.thickness", "60")
        narrow = self.find("plots").view.chart.message
        self.assertTrue(whole.startswith("231 wide") and narrow.startswith("60 wide"), (whole, narrow))
        self.fill("plots.thickness", "0.1")
        self.assertIn("needs 1 to 2000", " ".join(self.message))

    def test_what_to_mind_beside_another_piece(self):
        self.state.choose_piece("12")
        self.type("beside 3")
        self.assertIn("dust stains", " ".join(self.message))
        self.type("beside 99")
        self.assertIn("not another piece", self.message[-1])
        self.state.choose_piece("2")
        self.type("beside 3")
        self.assertIn("nothing stands against", self.message[-1])

    def test_saved_in_every_form_and_printed_together(self):
        self.state.choose_piece("17")
        self.show_plot("moisture")
        plots = self.find("plots")
        with tempfile.TemporaryDirectory() as folder:
            for suffix in ("pdf", "svg", "png", "csv"):
                plots.save_as(f"{folder}/m.{suffix}")
                self.assertGreater(Path(f"{folder}/m.{suffix}").stat().st_size, 500)
            self.assertEqual(QImage(f"{folder}/m.png").width(), 2240)
            plots.save_as(f"{folder}/m.bmp")
            self.assertIn("written as", self.message[-1])
            plots.print_map(f"{folder}/all.pdf")
            self.assertIn("4 pages", self.message[-1])
            plots.save_as(f"{folder}/none/m.svg")
            self.assertFalse(Path(f"{folder}/none").exists())

    def test_the_air_is_logged_by_word_logger_and_list(self):
        before = len(self.shop.air.readings)
        self.show_plot("air")
        self.type("air 20.5 46")
        self.assertEqual(len(self.shop.air.readings), before + 1)
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "air.csv"
            path.write_text("time,temp,rh\n2026-03-02 08:31,20,40\n2026-03-02 09:31,20,41\n")
            self.find("plots").bring_air(str(path))
            self.settle()
            self.assertEqual(len(self.shop.air.readings), before + 3)
            path.write_text("nothing\n")
            self.find("plots").bring_air(str(path))
            self.settle()
            self.assertIn("no readings", self.message[-1])

    def test_a_knock_from_a_sound_file_and_from_the_microphone(self):
        import wave

        import numpy as np

        self.state.choose_piece("7")
        self.assertIn("2 of 3", self.show_plot("taps").message)
        t = np.arange(22_050) / 44_100
        tone = (np.exp(-t / 0.08) * np.sin(2 * np.pi * 368 * t) * 20_000).astype("<i2")
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "knock.wav"
            with wave.open(str(path), "wb") as sound:
                sound.setnchannels(1)
                sound.setsampwidth(2)
                sound.setframerate(44_100)
                sound.writeframes(tone.tobytes())
            self.find("plots").bring_sound(str(path))
            self.settle()
            self.assertRegex(self.find("tape.line").text(), r"^tap 36[78]\.\d d 0\.0[78]")
            self.key(Qt.Key.Key_Return, target=self.find("tape.line"))
            self.assertEqual(len(self.shop.piece("7").taps), 2)
            path.write_bytes(b"RIFF no sound")
            self.find("plots").bring_sound(str(path))
            self.settle()
            self.assertIn("no plain WAV", self.message[-1])
        self.window.bring_in.bench._take("tap")
        self.settle()
        self.assertEqual(len(self.shop.piece("7").taps), 3)
        self.assertIsNotNone(self.shop.piece("7").taps[-1].decay_s)

    def test_weighing_from_the_plot(self):
        self.state.choose_piece("8")
        self.assertEqual(self.show_plot("weight").marks, ())
        self.click("plots.act")
        line = self.find("tape.line")
        self.assertEqual(line.text(), "weigh ")
        QTest.keyClicks(line, "18.2 on 2026-11-03")
        QTest.keyClick(line, Qt.Key.Key_Return)
        self.settle()
        self.type("weigh 18.1")
        self.assertEqual(len(self.shop.piece("8").weighings), 2)
        self.assertTrue(self.find("plots").view.chart.marks)


class NothingThere(Case):
    empty = True

    def test_plots_sorting_and_kit_on_an_empty_shop(self):
        for key in (Qt.Key.Key_F11, Qt.Key.Key_F4, Qt.Key.Key_F1):
            self.key(key, target=self.window)
        self.key(Qt.Key.Key_P, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier, target=self.window)
        for name in ("moisture", "air", "density", "overview"):
            self.click(f"plots.{name}")
            self.assertGreater(len(self.find("plots").view.chart.message), 10)
        self.key(Qt.Key.Key_F11, target=self.window)
        for name in ("use", "find", "stash", "claims", "supply"):
            self.click(f"sortRack.{name}")
            self.assertEqual(self.find("sortRack").model.rows, [])
        self.key(Qt.Key.Key_K, Qt.KeyboardModifier.ControlModifier, target=self.window)
        for _ in range(7):
            self.find("kitBook").step_lane(1)
            self.assertFalse(self.grab(self.find("kitBook")).isNull())


class TooMuch(Case):
    def test_long_names_and_many_pieces(self):
        long = "Macassar ebony of the second growth with a very long trade name"
        pieces = [
            Piece(id=str(100 + k), species=long, outline=((0, 0), (3600, 0), (3600, 500), (0, 500)), thickness_mm=50.0 + k % 7)
            for k in range(120)
        ]
        self.state.keep("many", *pieces)
        self.state.choose_piece("100")
        self.key(Qt.Key.Key_F11, target=self.window)
        self.settle()
        self.assertGreater(len(self.find("sortRack").model.rows), 130)
        self.key(Qt.Key.Key_P, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier, target=self.window)
        for name in ("overview", "density", "moisture"):
            self.click(f"plots.{name}")
            self.assertFalse(self.grab(self.find("chart")).isNull())


class SortTheRack(Case):
    def rows(self):
        return self.find("sortRack").model.rows

    def test_necks_best_first_and_why_not(self):
        self.state.choose_use("neck")
        self.key(Qt.Key.Key_F11, target=self.window)
        rows = self.rows()
        heads = [r.head for r in rows if r.head]
        self.assertEqual(heads[0], "Can make it now: 5")
        self.assertTrue(heads[-1].startswith("Never"))
        first = next(r for r in rows if r.piece)
        self.assertEqual((first.piece, first.word), ("3", "gives"))
        self.assertTrue(all(r.first for r in rows if r.piece))
        wet = next(r for r in rows if r.piece == "17")
        self.assertIn(" to ", wet.right)

    def test_keys_alone_sort_for_another_use_and_walk_the_columns(self):
        self.key(Qt.Key.Key_F11, target=self.window)
        for _ in range(2):
            self.key(Qt.Key.Key_Down, target=self.window)
        self.assertEqual(self.state.use, "neck")
        self.assertEqual(self.rows()[0].head, "Can make it now: 5")
        self.key(Qt.Key.Key_P, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier, target=self.window)
        self.key(Qt.Key.Key_Down, target=self.window)
        self.assertEqual(self.find("plots").kind, "weight")
        self.key(Qt.Key.Key_K, Qt.KeyboardModifier.ControlModifier, target=self.window)
        self.key(Qt.Key.Key_Down, target=self.window)
        self.assertEqual(self.find("kitBook").page, "gluing")

    def test_everything_is_reached_by_mouse_from_the_rail_and_the_rack(self):
        self.window.rail.more.click()
        texts = [row.left for row in self.find("actions.list").rows.rows]
        for label in ("Sort the rack", "Plots", "Kit book", "Every rule", "What to mind of the plan"):
            self.assertIn(label, texts)
        self.window.actions_panel.away()
        self.find("rack.question").click()
        menus = [m for m in self.window.rack.question.findChildren(QMenu) if m.isVisible()]
        wanted = next(a for m in menus for a in m.actions() if a.text().startswith("Sort the whole rack"))
        wanted.trigger()
        self.settle()
        self.assertEqual(self.state.screen, "sort_rack")
        for m in menus:
            m.close()

    def test_a_row_takes_the_piece_and_opens_it(self):
        self.key(Qt.Key.Key_F11, target=self.window)
        sort = self.find("sortRack")
        k = next(k for k, r in enumerate(self.rows()) if r.piece == "9")
        sort.list.scrollTo(sort.model.index(k))
        place = sort.list.visualRect(sort.model.index(k)).center()
        QTest.mouseClick(sort.list.viewport(), Qt.MouseButton.LeftButton, pos=place)
        self.settle()
        self.assertEqual(self.state.piece_id, "9")
        self.key(Qt.Key.Key_Return, CTRL, self.window)
        self.assertEqual(self.state.screen, "look_over")

    def test_the_form_asks_what_the_words_ask(self):
        self.key(Qt.Key.Key_F11, target=self.window)
        self.click("sortRack.find")
        for name, text in (("thickness", "30"), ("width", "60"), ("length", "700")):
            self.fill(f"sortRack.{name}", text)
        for chip in ("clear", "quartered", "ready"):
            self.click(f"sortRack.chip.{chip}")
        by_form = [r.piece for r in self.rows()]
        self.assertEqual(by_form, ["2", "3", "10"])
        self.click("sortRack.second")
        self.assertIsNone(self.state.asked)
        self.type("ask 30 x 60 x 700 clear, quartered, ready")
        self.assertEqual([r.piece for r in self.rows()], by_form)
        self.fill("sortRack.words", "sparkly")
        self.assertIn("not understood", self.message[-1])

    def test_claims_by_word_and_given_back_by_mouse(self):
        self.state.choose_piece("9")
        self.type("keep for Plover body halves")
        self.key(Qt.Key.Key_F11, target=self.window)
        self.click("sortRack.claims")
        self.assertTrue(any("Plover body halves" in r.first for r in self.rows()))
        sort = self.find("sortRack")
        k = next(k for k, r in enumerate(self.rows()) if "Plover body halves" in r.first)
        sort.list.setCurrentIndex(sort.model.index(k))
        self.click("sortRack.third")
        self.assertFalse(any("Plover body halves" in r.first for r in self.rows()))
        self.state.choose_piece("11")
        self.type("keep for Merrow fretboard")
        self.assertIn("clashes", " ".join(self.message))

    def test_the_list_is_written_as_pdf_and_csv(self):
        self.state.choose_use("neck")
        self.key(Qt.Key.Key_F11, target=self.window)
        sort = self.find("sortRack")
        with tempfile.TemporaryDirectory() as folder:
            sort.save_as(f"{folder}/n.csv")
            rows = Path(f"{folder}/n.csv").read_text(encoding="utf-8").splitlines()
            self.assertEqual(len(rows), 18)
            self.assertTrue(rows[1].startswith("Can make it now: 5,3,"))
            sort.print_map(f"{folder}/n.pdf")
            self.assertGreater(Path(f"{folder}/n.pdf").stat().st_size, 2000)
            sort.save_as(f"{folder}/n.txt")
            self.assertIn("written as", self.message[-1])

    def test_stash_and_suppliers(self):
        self.key(Qt.Key.Key_F11, target=self.window)
        self.click("sortRack.stash")
        self.assertTrue(any("in the waste" in r.first for r in self.rows()))
        self.click("sortRack.supply")
        self.assertTrue(any("Nether Holm" in r.head for r in self.rows()))
        self.assertTrue(any("Papers wanted" in r.head for r in self.rows()))


class ByMouse(Case):
    """What the words say, the buttons of Bring in say too."""

    def menu(self, button):
        """The open menu of a button, as flat text to action."""
        self.click(button)
        menu = self.window.findChild(QMenu, f"{button}.menu")
        self.assertIsNotNone(menu, button)
        found = {}

        def walk(one):
            for action in one.actions():
                found.setdefault(action.text(), action)
                if action.menu() is not None:
                    walk(action.menu())

        walk(menu)
        return menu, found

    def press(self, button, text):
        menu, found = self.menu(button)
        found[text].trigger()
        menu.close()
        self.settle()

    def test_doubt_candidates_look_and_certainty(self):
        self.click("rail.bringIn")
        self.state.choose_piece("15")
        self.settle()
        species = self.window.bring_in.species.objectName()
        self.press(species, "Not sure of it")
        self.press(species, "Iroko")
        self.assertEqual((self.shop.piece("15").species_sure, self.shop.piece("15").candidates), (False, ("Iroko",)))
        self.press(species, "In rings")
        self.press(species, "Brown")
        self.assertEqual(self.shop.piece("15").look, ("ring", "brown"))
        self.press(species, "Nothing seen")
        self.assertEqual(self.shop.piece("15").look, ())
        self.press(species, "Surely Iroko")
        piece = self.shop.piece("15")
        self.assertEqual((piece.species, piece.species_sure), ("Iroko", True))
        self.assertIn("renamed Iroko", piece.history[-1].what)
        self.press(species, "Weigh the candidates up (Ctrl+K)")
        self.assertEqual(self.find("kitBook").page, "species")

    def test_stacking_claims_and_what_opens_the_tape_line(self):
        self.click("rail.bringIn")
        self.state.choose_piece("9")
        self.settle()
        more = self.window.bring_in.more.objectName()
        self.press(more, "In a still stack")
        self.assertEqual(self.shop.piece("9").stacking, "still")
        for text, words in (
            ("Weigh it for its series ...", "weigh "),
            ("A paper kept with it ...", "paper "),
            ("Keep it for ...", "keep for "),
            ("A knock ...", "tap "),
            ("A cut sample, wet and dry ...", "sample "),
        ):
            self.press(more, text)
            self.assertEqual(self.find("tape.line").text(), words)
            self.key(Qt.Key.Key_Escape, target=self.find("tape.line"))
        self.type("keep for a stool")
        self.press(more, "Give its claims back")
        self.assertEqual([r for r in self.shop.promises.claims() if r.piece == "9"], [])

    def test_a_shop_s_own_species_stands_in_the_menu(self):
        own = self.shop.kit.library.find("alder").changed(common="Quince", scientific="", other_names=())
        self.state.keep("own", self.shop.kit.changed(species=(own,)))
        self.click("rail.bringIn")
        self.state.choose_piece("3")
        self.settle()
        self.press(self.window.bring_in.species.objectName(), "Quince")
        self.assertIn("Quince", (self.shop.piece("3").species, *self.shop.piece("3").candidates))


class Rules(Case):
    def test_every_rule_over_the_lanes(self):
        self.state.choose_piece("8")
        self.state.choose_use("neck")
        self.click("rail.lookOver")
        self.click("lookOver.rules")
        panel = self.find("rules")
        self.assertTrue(panel.isVisible())
        self.assertIn("Slope", self.told(panel))
        self.assertFalse(self.grab(panel).isNull())
        self.key(Qt.Key.Key_U, CTRL, self.window)
        self.assertFalse(panel.isVisible())
        self.key(Qt.Key.Key_U, CTRL, self.window)
        self.click("rules.edit")
        self.assertEqual(self.find("kitBook").page, "uses")

    def test_more_lanes_than_fit_scroll_with_the_choice(self):
        self.state.choose_piece("8")
        self.click("rail.lookOver")
        screen = self.find("lookOver")
        for use in ("core", "body_half"):
            self.state.choose_use(use)
            self.settle()
            self.assertTrue(screen.lanes[use].isVisible(), use)
        self.assertGreater(screen.hidden, 0)
        self.assertIsInstance(screen.mapFromGlobal(QPoint(0, 0)), QPoint)


class WhatToMind(Case):
    def test_weights_movement_and_glue_lines_of_a_plan(self):
        self.state.choose_design("plover")
        self.click("rail.layOut")
        screen = self.find("layOut")
        job = self.shop.jobs.job_for([self.state.design])
        self.window.worker.planned.emit(job, planned(job))
        self.settle()
        self.click("layOut.minds")
        panel = self.find("minds")
        self.assertTrue(panel.isVisible())
        self.assertTrue(any("kg" in kg or " g" in kg for _, kg in panel.weights))
        self.assertTrue(panel.moves)
        self.assertTrue(any("clamps" in text for _, _, text, _ in panel.minds))
        self.assertFalse(self.grab(panel).isNull())
        self.key(Qt.Key.Key_G, CTRL, self.window)
        self.assertFalse(panel.isVisible())
        screen.keep_plan()
        self.settle()
        self.click("rail.sawAndWait")
        saw = self.find("sawAndWait")
        board = min(saw.under_way.boards, key=lambda b: len(saw.under_way.cuts_of(b)))
        saw._choose_board(board)
        self.settle()
        for _ in range(60):
            if saw.before_gluing():
                break
            saw.primary_action()
            self.settle()
        self.assertTrue(any("every joint: Yellow aliphatic" in c.sentence for c in saw.before_gluing()))
        self.assertFalse(self.grab(saw).isNull())


if __name__ == "__main__":
    unittest.main()
