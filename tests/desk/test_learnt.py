"""What was learnt, in the real window: told in words, proposed, accepted, taken back; mishaps where they happened; edges made sharp."""

from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QImage

from grainet.desk.screens.bench.screen import TROUBLES
from grainet.present.learnt_view import lane_view
from grainet.session.learning import lanes, misses_on
from grainet.session.making import measure_again
from grainet.session.mishaps import mishaps_of
from tests.desk.app import WindowTest
from tests.desk.test_glue import Laid


class Figures(Laid):
    def setUp(self):
        super().setUp()
        self.window.show_screen("learnt")
        self.settle()
        self.screen = self.window.in_front

    def test_nothing_then_five_figures_in_words_then_planned_with_and_back(self):
        self.grab()
        was = self.shop.kit.losses.skim_mm
        for figure in ("2.1", "2.2", "2.4", "2.6"):
            self.type(f"took planer {figure} on 2")
        self.assertEqual(len(self.screen.views), 1)
        self.assertIn("1 more record before", self.screen.views[0].more)
        self.assertFalse(self.screen.take.isVisible())
        self.type("took planer 2.7 on 2")
        self.settle()
        self.assertEqual(self.screen.take.text(), "Plan with 2.4")
        for _ in range(200):
            self.settle()
            if self.screen.moves is not None:
                break
        self.assertTrue(any(m.breaks for m in self.screen.moves))
        self.grab()
        self.click("learnt.take")
        self.assertEqual(self.shop.kit.losses.skim_mm, 2.4)
        self.settle()
        self.grab()
        self.click("learnt.back")
        self.assertEqual(self.shop.kit.losses.skim_mm, was)
        self.assertEqual(lane_view(self.shop, lanes(self.shop)[0]).take, "")

    def test_kept_as_it_was_lanes_by_keys_and_what_is_typed_wrong_is_said(self):
        for words in ["took edge 2.4 on 1"] * 5 + ["took trim 9"] * 5 + ["took kerf table saw 3.2"]:
            self.type(words)
        first = self.screen.key
        self.key(Qt.Key.Key_Down)
        self.assertNotEqual(self.screen.key, first)
        self.click("learnt.keep")
        self.assertIn("kept as it was", self.screen.in_hand.more)
        self.type("took lathe 3")
        self.assertTrue(self.window.head.bad)
        self.key(Qt.Key.Key_Escape)
        self.screen.choose(next(v.lane.key for v in self.screen.views if not v.take))
        self.screen.primary_action()  # says that nothing is proposed
        self.grab()
        self.assertEqual(self.screen.heads()[0], "What was learnt")


class WentWrong(Laid):
    def test_a_mishap_told_at_the_bench_carries_its_step_and_the_third_speaks(self):
        self.window.open_bench()
        bench = self.window.bench
        at = bench.bench.making.operations[1]
        for _ in range(3):
            self.window.open_bench(at.id)
            bench._pressed_at = 0.0
            bench.press("trouble")
            bench.troubles = next(k for k, (name, _) in enumerate(TROUBLES) if name == "tear-out")
            bench.press("next")
            self.assertEqual(self.window.head.tape.text(), "mishap tear-out ")
            self.type("mishap tear-out 300 40 because fed backwards, helped a scraper")
        rows = mishaps_of(self.shop)
        self.assertEqual({(m.step, m.tool, m.x_mm, m.cause) for m in rows}, {(at.kind, at.machine, 300.0, "fed backwards")})
        self.assertEqual(self.window.state.at_step, ("", "", ""))
        self.window.show_screen("learnt")
        screen = self.window.in_front
        screen.show_view("wrong")
        self.settle()
        self.grab()
        picture = Path(self.shop.file.folder).parent / "torn.png"
        QImage(40, 30, QImage.Format.Format_RGB32).save(str(picture))
        screen.add_photo(str(picture))
        self.assertTrue(mishaps_of(self.shop)[0].photo)
        self.settle()
        self.grab()
        (picture.parent / "no.png").write_text("no picture")
        screen.add_photo(str(picture.parent / "no.png"))
        screen.add_photo(str(picture.parent / "gone.png"))
        self.type("sharpened nothing")
        self.assertTrue(self.window.head.bad)
        self.key(Qt.Key.Key_Escape)
        tool = self.shop.kit.machines[0].name.lower()
        self.type(f"sharpened {tool}")
        screen.show_view("edges")
        self.settle()
        self.grab()

    def test_put_back_shows_where_a_cut_missed_its_mark(self):
        self.do_until(lambda one: one.kind == "glue")
        cut = next(o for o in self.at.making.operations if o.kind == "crosscut" and o.marks)
        measure_again(self.at, cut, cut.marks[0].mm + 0.4)
        (found,) = misses_on(self.shop, cut.board)
        self.assertEqual((round(found.measured - found.planned, 1), found.x_mm), (0.4, cut.line[0][0]))
        self.window.show_screen("put_back")
        self.window.in_front._choose(cut.board)
        self.settle()
        self.grab()

    def test_put_back_leads_here(self):
        self.window.show_screen("put_back")
        self.settle()
        self.click("putBack.learnt")
        self.assertEqual(self.window.state.screen, "learnt")


class Empty(WindowTest):
    empty = True

    def test_an_empty_shop_says_how_it_begins(self):
        self.window.show_screen("learnt")
        for view in ("figures", "wrong", "edges"):
            self.window.in_front.show_view(view)
            self.settle()
            self.grab()
        self.assertEqual(self.window.in_front.views, [])
