"""Draw up in a real window: a first guitar in an empty shop by mouse alone and by keyboard alone, figures, ways, previews, other instruments."""

import unittest
from unittest import mock

from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QMenu

from grainet.design.starting_points import POINTS
from tests.desk.app import WindowTest


class Case(WindowTest):
    def setUp(self):
        super().setUp()
        self.key(Qt.Key.Key_F4, target=self.window)
        self.settle()
        self.screen = self.find("drawUp")

    @property
    def g(self):
        return self.state.instrument

    def begin(self, point="bolt-on"):
        self.type(f"new {point} Heron 7")
        self.settle()
        return self.g

    def typed(self, text):
        """Words in the tape line that are not kept yet."""
        self.window.head.open_with(text)
        self.settle()


class Empty(Case):
    empty = True

    def test_a_first_guitar_by_mouse_alone(self):
        self.assertIsNone(self.g)
        self.click("begin.through")
        self.settle()
        self.assertEqual((self.g.kind, self.state.design.id), ("through", self.g.id))
        self.click("blank.fretboard")
        self.settle()
        self.click("way.fretboard.bound")
        self.settle()
        self.assertEqual((self.state.preview.fretboard.binding_mm, self.g.fretboard.binding_mm), (2.0, 0.0))
        self.click("drawUp.layOut")  # keeps it
        self.settle()
        self.assertEqual(self.g.fretboard.binding_mm, 2.0)
        self.click("drawUp.layOut")
        self.settle()
        self.assertEqual(self.state.screen, "lay_out")

    def test_a_first_guitar_by_keyboard_alone(self):
        self.key(Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier, self.window)
        self.settle()
        self.assertEqual(self.g.kind, "bolt-on")
        self.type("scale 640 frets 24 head 14 scarf")
        self.assertEqual((self.g.scale, self.g.frets, self.g.head.route), (640, 24, "scarf"))
        before = self.screen.chosen
        self.key(Qt.Key.Key_Down, target=self.window)
        self.settle()
        self.assertNotEqual(self.screen.chosen, before)
        self.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier, self.window)
        self.settle()
        self.assertEqual((self.g.scale, self.g.frets), (628, 22), "two figures on one line are one change and one undo")

    def test_an_empty_rack_says_what_to_buy(self):
        self.begin()
        self.background_done()
        answers = [row.answer for row in self.screen.rows if row.lane is not None]
        self.assertTrue(answers)
        self.assertEqual({a.word for a in answers}, {"none"})
        self.grab()
        self.assertIn("0 of", self.told(self.screen))

    def background_done(self):
        for _ in range(60):
            self.settle()
            if all(row.answer is not None for row in self.screen.rows if row.lane is not None):
                return

    def test_every_door_begins_and_can_be_undone(self):
        for point in POINTS:
            self.click(f"begin.{point}")
            self.settle()
            self.assertIsNotNone(self.g, point)
            self.grab()
            self.state.undo()
            self.settle()
            self.assertIsNone(self.g, point)


class Changing(Case):
    def test_a_change_is_shown_before_it_is_kept_and_dropped_by_escape(self):
        self.begin()
        kept = self.g
        self.typed("frets 24")
        self.assertEqual((self.state.preview.frets, self.g), (24, kept))
        self.assertIn("frets", self.screen.moved_paths)
        self.grab()
        told = self.told(self.screen)
        self.assertIn("What it would do", told)
        self.assertIn("length +19.2", told)
        self.key(Qt.Key.Key_Escape, target=QApplication.focusWidget())
        self.settle()
        self.assertEqual((self.state.preview, self.g), (None, kept))
        self.typed("frets 24")
        self.window.show_screen("look_over")
        self.assertIsNone(self.state.preview, "another screen shows nothing that is not kept")

    def test_a_figure_is_pressed_and_turned_on_its_place(self):
        self.begin()
        self.click("figure.nut")
        self.assertEqual(self.window.head.tape.text(), "nut ")
        slip = self.find("figure.scale")
        wheel = QWheelEvent(
            QPointF(5, 5),
            slip.mapToGlobal(QPointF(5, 5)),
            QPoint(),
            QPoint(0, 120),
            Qt.MouseButton.NoButton,
            Qt.KeyboardModifier.NoModifier,
            Qt.ScrollPhase.NoScrollPhase,
            False,
        )
        QApplication.sendEvent(slip, wheel)
        self.settle()
        self.assertEqual((self.window.head.tape.text(), self.state.preview.scale), ("scale 629", 629))

    def test_a_bad_figure_is_a_sentence_and_changes_nothing(self):
        kept = self.begin()
        for line, words in (
            ("scale big", "needs a figure"),
            ("frets 400", "frets"),
            ("top 90", "leaves nothing of a body"),
            ("neck of moonwood", "species library"),
        ):
            self.type(line)
            told = self.window.head.gloss
            self.assertIn(words, told, line)
            self.assertEqual(self.g, kept)
            self.key(Qt.Key.Key_Escape, target=self.window.head.tape)

    def test_what_was_said_on_one_screen_does_not_hang_over_the_next(self):
        self.window.show_screen("bring_in")
        self.state.notify("kept: " + "a long answer that hangs below the tape line, " * 4)
        self.settle()
        self.assertTrue(self.window.panel.isVisible())
        self.key(Qt.Key.Key_F4, target=self.window)
        self.assertFalse(self.window.panel.isVisible())

    def test_words_about_wood_still_mean_wood(self):
        self.begin()
        self.state.choose_piece("9")
        self.type("kg 9.99")
        self.assertEqual(self.shop.piece("9").mass_kg, 9.99)

    def test_dashed_figures_become_sure_when_they_are_told(self):
        self.begin()
        self.assertIn("only guessed", self.find("figure.nut").accessibleName())
        self.type("nut 43")
        self.settle()
        self.assertNotIn("only guessed", self.find("figure.nut").accessibleName())
        self.type("nut 43 ?")
        self.settle()
        self.assertIn("only guessed", self.find("figure.nut").accessibleName())

    def test_the_marker_cuts_the_neck(self):
        self.begin()
        self.type("700")
        self.grab()
        self.assertIn("under the rod", self.told(self.screen))
        self.state.move_cursor(20)
        self.settle()
        self.grab()
        self.assertIn("Move the marker onto the neck", self.told(self.screen))

    def test_the_rack_answers_for_the_lane_that_is_chosen(self):
        self.begin()
        self.click("blank.fretboard")
        self.assertEqual(self.state.use, "fretboard")
        for _ in range(80):
            self.settle()
            row = next(r for r in self.screen.rows if r.lane.blank.part == "fretboard")
            if row.answer is not None:
                break
        self.assertEqual(row.answer.word, "gives")
        self.assertIn(f"No. {row.answer.piece} gives", row.accessibleName())

    def test_several_instruments_and_another_one_like_it(self):
        self.begin()
        self.click("drawUp.instruments")
        menu = self.window.findChild(QMenu, "drawUp.instruments.menu")
        texts = [a.text() for a in menu.actions()]
        self.assertIn("Another one like it: Heron 8", texts)
        next(a for a in menu.actions() if "Heron 8" in a.text()).trigger()
        menu.close()
        self.settle()
        self.assertEqual(self.g.name, "Heron 8")
        self.assertEqual([g.name for g in self.shop.instruments.all()][-2:], ["Heron 7", "Heron 8"])
        self.state.remove_instrument(self.g)
        self.settle()
        self.assertEqual(self.g.name, "Heron 7")

    def test_an_outline_out_of_a_file_is_shown_first_and_a_bad_file_is_a_sentence(self):
        kept = self.begin()
        path = self.folder / "body.svg"
        path.write_text(
            '<svg xmlns="http://www.w3.org/2000/svg" width="500mm" height="400mm" viewBox="0 -200 500 400">'
            '<ellipse class="body" cx="200" cy="0" rx="200" ry="150"/><rect class="pickup" x="150" y="-20" width="40" height="40"/></svg>'
        )
        self.screen.bring_outline(str(path))
        self.settle()
        self.assertEqual(self.g, kept)
        self.assertEqual([z.kind for z in self.state.preview.body.zones], ["removed", "seen"])
        self.key(Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier, self.window)
        self.settle()
        xs = [x for x, _ in self.g.body.outline]
        self.assertAlmostEqual(max(xs) - min(xs), 400, delta=0.1)
        path.write_text("<svg")
        self.screen.bring_outline(str(path))
        self.settle()
        self.assertIn("no SVG that can be read", self.message[-1])
        self.assertIsNone(self.state.preview)

    def test_outlines_are_written_and_printed_at_full_size(self):
        self.begin()
        for name, start in (("o.dxf", b"  0"), ("o.svg", b"<svg")):
            self.screen.save_as(str(self.folder / name))
            self.assertEqual((self.folder / name).read_bytes()[: len(start)], start)
        self.screen.save_as(str(self.folder / "o.png"))
        self.assertIn("written as .dxf or .svg", self.message[-1])
        self.screen.print_map(str(self.folder / "p.pdf"))
        self.assertEqual((self.folder / "p.pdf").read_bytes()[:5], b"%PDF-")
        self.assertIn("pages of A4", self.message[-1])

    def test_slips_of_one_line_never_lie_on_one_another(self):
        for point in POINTS:
            self.state.keep_instrument("begun", self.shop.instruments.new(point))
            for size in ((1024, 700), (1280, 800), (1920, 1080)):
                self.window.resize(*size)
                self.settle()
                boxes = [s.geometry() for s in self.screen.slips.values() if s.isVisible()]
                for k, a in enumerate(boxes):
                    for b in boxes[:k]:
                        if a.y() == b.y():
                            self.assertFalse(a.intersects(b), (point, size, a, b))


class FromTheWood(Case):
    def test_what_the_rack_can_become_is_asked_in_a_program_of_its_own_and_drawn_up(self):
        self.key(Qt.Key.Key_B, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier, self.window)
        screen = self.find("become")
        for _ in range(600):
            if screen.rows:
                break
            QTest.qWait(100)
        row = screen.rows[0]
        self.assertTrue(row.answer.fits)
        self.assertIn("No. ", row.accessibleName())
        self.grab()
        self.assertIn("can become", self.told(screen))
        row.click()
        self.settle()
        self.assertEqual((self.state.screen, self.g.kind), ("draw_up", row.answer.instrument.kind))
        self.assertFalse(screen.asking, "out of sight it asks no more")

    def test_the_wood_that_is_asked_about_is_chosen_by_mouse_and_keyboard(self):
        self.window.show_screen("become")
        self.settle()
        screen = self.find("become")
        screen.worker.cancel()
        numbers = [p.id for p in self.shop.pieces()]
        self.click("become.heap")
        menu = self.window.findChild(QMenu, "become.heap.menu")
        rows = {a.text().split()[1]: a for a in menu.actions() if a.isCheckable()}
        self.assertEqual(list(rows), numbers)
        QTest.mouseClick(menu, Qt.MouseButton.LeftButton, pos=menu.actionGeometry(rows[numbers[0]]).center())
        menu.setActiveAction(rows[numbers[1]])
        QTest.keyClick(menu, Qt.Key.Key_Space)
        self.assertTrue(menu.isVisible(), "ticks do not close it")
        self.assertEqual(screen.heap.chosen, frozenset(numbers[2:]))
        QTest.keyClick(menu, Qt.Key.Key_Escape)
        self.settle()
        self.assertEqual(screen.heap_button.text(), f"From {len(numbers) - 2} pieces")
        self.assertIn(f"{len(screen.heap.pieces())} pieces can become", screen.sentence)
        self.assertTrue(screen.asking)
        screen.heap.chosen = frozenset()
        screen.primary_action()
        self.assertFalse(screen.asking)
        self.assertIn("Choose others", screen.sentence)

    def test_one_plank_is_asked_what_it_can_become(self):
        self.window.show_screen("become")
        self.settle()
        screen = self.find("become")
        menu = screen.heap.menu(screen, screen.primary_action)
        only = next(a for a in menu.actions() if a.text().startswith("Only No."))
        self.assertIn(self.state.piece.id, only.text())
        only.trigger()
        screen.primary_action()
        del screen._left[2:]  # two are enough to see it by
        for _ in range(600):
            if not screen.asking:
                break
            QTest.qWait(100)
        self.assertTrue(screen.answers)
        row = screen.rows[0]
        row.setFocus()
        with mock.patch.object(screen, "draw_up") as drawn:
            QTest.keyClick(row, Qt.Key.Key_Return)
            QTest.keyClick(row, Qt.Key.Key_Space)
        self.assertEqual([c.args for c in drawn.call_args_list], [(row.answer,), (row.answer,)])
        for answer in screen.answers:
            self.assertLessEqual({n for w in answer.pieces.values() for n in w.split(", ")}, {self.state.piece.id})

    def test_a_worker_that_cannot_start_is_said(self):
        self.window.show_screen("become")
        self.settle()
        screen = self.find("become")
        screen.worker.failed.emit("The planner could not be started.")
        self.assertEqual((screen.sentence, screen.asking), ("The planner could not be started.", False))


class WoodOfAnEmptyShop(Case):
    empty = True

    def test_what_is_missing_is_listed_written_and_goes_to_bring_in_once_it_is_bought(self):
        self.begin()
        self.type("neck of sugar maple")
        self.key(Qt.Key.Key_B, Qt.KeyboardModifier.ControlModifier, self.window)
        self.settle()
        buy = self.find("buyList")
        self.assertEqual([one.part for one in buy.lines], ["body.treble", "body.bass", "neck", "fretboard", "plate"])
        neck = buy.lines[2]
        self.assertIn("at least 646 × 90 × 23.2, sawn 5/4", neck.size_text("mm"))
        self.assertIn("grain at most", "; ".join(neck.notes))
        self.assertAlmostEqual(neck.board_feet, 0.645 * 0.09 / 0.0023597 * 0.03175, delta=0.03)
        for name in ("buy.pdf", "buy.csv"):
            buy.save_as(str(self.folder / name))
        self.assertIn("646", (self.folder / "buy.csv").read_text())
        buy.bought(neck)
        self.settle()
        self.assertEqual(self.state.screen, "bring_in")
        self.key(Qt.Key.Key_Return, target=self.window.head.tape)
        self.settle()
        (piece,) = self.shop.pieces()
        self.assertGreaterEqual(piece.extents[2], neck.size_mm[0])
        self.assertEqual(piece.species, "Sugar maple (hard)")
        self.key(Qt.Key.Key_B, Qt.KeyboardModifier.ControlModifier, self.window)
        self.settle()
        self.assertNotIn("neck", [one.part for one in buy.lines], "it is on the rack now")

    def test_the_fret_table_is_written_for_one_scale_and_two(self):
        self.begin()
        self.screen.print_frets(str(self.folder / "f.csv"))
        self.assertIn(",12,314.0,", (self.folder / "f.csv").read_text())
        self.type("scale 686 648")
        self.screen.print_frets(str(self.folder / "g.csv"))
        self.assertIn(",12,bass 343.0,treble 324.0,", (self.folder / "g.csv").read_text())

    def test_an_empty_rack_asks_for_a_first_piece(self):
        self.click("begin.fromTheWood")
        self.grab()
        self.assertIn("Nothing is on the rack yet", self.told(self.find("become")))


if __name__ == "__main__":
    unittest.main()
