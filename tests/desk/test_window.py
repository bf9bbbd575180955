"""The window driven by its object names: bring in, look over, lay out, saw, put back; empty and crowded shops; sizes; undo."""

import itertools
import unittest

from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QMenu

from grainet.desk.painting import draw, tokens
from grainet.desk.painting.axis import Axis
from tests.desk.app import WindowTest

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


class BringIn(WindowTest):
    def test_a_board_by_keyboard_alone(self):
        self.key(Qt.Key.Key_N, CTRL)
        self.assertEqual(self.state.piece_id, "18")
        self.find("tape.line").clear()
        for words in ("l 900", "0 w 120", "450 t 32", "sp red alder", "kg 1.6", "450 mc 8.4 d 12", "ring 20 24", "slope 1"):
            self.type(words)
        piece = self.shop.piece("18")
        self.assertEqual(
            (piece.extents, piece.least_thickness_mm, piece.species, piece.mass_kg), ((0, 0, 900, 120), 32, "Red alder", 1.6)
        )
        self.assertFalse(piece.racked)
        self.key(Qt.Key.Key_Return, CTRL)
        self.assertTrue(self.shop.piece("18").racked)

    def test_a_bad_entry_is_a_sentence_and_the_old_value_stays(self):
        self.state.choose_piece("8")
        before = self.shop.piece("8")
        self.type("760 t 2 1/0")
        self.assertIn("lower number is 0", self.find("head").gloss)
        self.assertEqual(self.shop.piece("8"), before)
        self.key(Qt.Key.Key_Escape, target=self.find("tape.line"))
        self.assertEqual(self.find("tape.line").text(), "")

    def test_after_a_refused_line_typing_begins_anew_and_up_brings_it_back(self):
        line = self.find("tape.line")
        self.window.setFocus()
        for letters in ("zz 12", "mc 8.4"):
            for letter in letters:
                QTest.keyClick(self.app.focusWidget() or self.window, letter)
            QTest.keyClick(self.app.focusWidget(), Qt.Key.Key_Return)
        self.assertEqual((line.text(), line.selectedText()), ("", ""), "the second line was read for itself, and kept")
        self.assertEqual(self.state.piece.moisture[-1].moisture_pct, 8.4)
        QTest.keyClicks(line, "zz 12")
        QTest.keyClick(line, Qt.Key.Key_Return)
        self.assertEqual(line.selectedText(), "zz 12")
        QTest.keyClick(line, Qt.Key.Key_End)
        QTest.keyClick(line, "3")
        self.assertEqual(line.text(), "zz 123", "an arrow mends it")
        QTest.keyClick(line, Qt.Key.Key_Return)
        QTest.keyClick(line, Qt.Key.Key_Backspace)
        QTest.keyClick(line, Qt.Key.Key_Up)
        self.assertEqual(line.text(), "zz 123")
        QTest.keyClick(line, Qt.Key.Key_Escape)

    def test_after_a_refused_board_the_next_line_is_not_written_over_the_one_before(self):
        line, before = self.find("tape.line"), self.state.piece
        self.window.show_screen("bring_in")

        def enter(text):
            QTest.keyClicks(line, text)
            QTest.keyClick(line, Qt.Key.Key_Return)
            self.settle()

        line.setFocus()
        enter("plank 1180x430x52 rosewod")
        enter("mc 8.4")
        self.assertEqual(self.state.piece, before, "asked first")
        self.assertIn(f"would go to No. {before.id}", self.find("head").gloss)
        enter("slope 1")
        self.assertEqual(self.state.piece, before, "and so is the next line, which takes its place")
        enter("mc 8.4")
        QTest.keyClick(line, Qt.Key.Key_Return)
        self.settle()
        self.assertEqual(self.state.piece.moisture[-1].moisture_pct, 8.4, "Enter once more keeps it there")
        enter("plank 1180x430x52 rosewod")
        enter("kg 4")
        QTest.keyClick(line, Qt.Key.Key_Escape)
        QTest.keyClick(line, Qt.Key.Key_Up)
        self.assertEqual(line.text(), "plank 1180x430x52 rosewod")
        QTest.keyClick(line, Qt.Key.Key_Escape)
        mass = self.state.piece.mass_kg
        enter("plank 1180x430x52 rosewod")
        enter("kg 4")
        self.assertEqual(self.state.piece.mass_kg, mass, "what was asked of an earlier one is asked again")
        enter("plank 1180x430x52 rosewod")
        enter("kg 4")
        self.assertEqual(self.state.piece.mass_kg, mass, "so it is where the board is refused once more")
        enter("plank 1180x430x52 walnut?")
        self.assertNotEqual(self.state.piece_id, before.id, "a board that is begun after all asks nothing")
        enter("kg 4")
        self.assertEqual(self.state.piece.mass_kg, 4)

    def test_marks_by_mouse_move_by_arrows_and_go_by_delete(self):
        self.click("rail.bringIn")
        self.state.choose_piece("9")
        screen = self.find("bringIn")
        screen.take_mark("knot", polygon=False)
        self.settle()
        board = screen.board
        face = board.boxes()[0]
        a, b = QPoint(int(board.axis.x(300)), int(face.y(120))), QPoint(int(board.axis.x(360)), int(face.y(80)))
        QTest.mousePress(board, Qt.MouseButton.LeftButton, pos=a)
        QTest.mouseMove(board, b)
        QTest.mouseRelease(board, Qt.MouseButton.LeftButton, pos=b)
        self.settle()
        mark = self.shop.piece("9").defects[-1]
        self.assertEqual(mark.kind, "knot")
        self.assertAlmostEqual(min(x for x, _ in mark.polygon), 300, delta=3)
        self.assertAlmostEqual(max(y for _, y in mark.polygon), 120, delta=3)
        self.assertEqual(self.state.chosen_tag, mark.id)
        self.key(Qt.Key.Key_Right, SHIFT, self.window)
        moved = self.shop.piece("9").defects[-1]
        self.assertAlmostEqual(moved.polygon[0][0] - mark.polygon[0][0], 100)
        self.key(Qt.Key.Key_Delete, target=self.window)
        self.assertNotIn(mark.id, [d.id for d in self.shop.piece("9").defects])
        self.key(Qt.Key.Key_Z, CTRL, self.window)
        self.assertIn(mark.id, [d.id for d in self.shop.piece("9").defects])

    def test_a_polygon_by_its_corners(self):
        self.click("rail.bringIn")
        self.state.choose_piece("9")
        screen = self.find("bringIn")
        screen.take_mark("stain", polygon=True)
        self.settle()
        face = screen.board.boxes()[0]
        for x, y in ((500, 40), (600, 50), (550, 110)):
            QTest.mouseClick(screen.board, Qt.MouseButton.LeftButton, pos=QPoint(int(screen.board.axis.x(x)), int(face.y(y))))
        self.assertTrue(screen.board.close_polygon())
        self.assertEqual(len(self.shop.piece("9").defects[-1].polygon), 3)

    def test_sockets_open_the_tape_line_there(self):
        self.state.choose_piece("9")
        self.click("rail.bringIn")
        self.click("thick.1")
        self.assertEqual(self.find("tape.line").text(), "1000 t ")

    def test_the_unread_is_dashed_and_never_good(self):
        self.key(Qt.Key.Key_N, CTRL)
        self.type("l 800")
        self.assertIn("not read", self.told(self.find("rail.bringIn")))
        self.assertEqual(self.find("rack.18").answer, "?")

    def test_a_board_by_mouse_alone(self):
        self.click("rail.bringIn")
        self.click("bringIn.next")
        screen = self.find("bringIn")

        def drag(widget, a, b):
            QTest.mousePress(widget, Qt.MouseButton.LeftButton, pos=a)
            QTest.mouseMove(widget, b)
            QTest.mouseRelease(widget, Qt.MouseButton.LeftButton, pos=b)
            self.settle()

        box = screen.ghost_box().toRect()
        drag(screen, QPoint(box.right(), box.center().y()), QPoint(int(screen.board.axis.x(1200)), box.center().y()))
        self.assertAlmostEqual(self.shop.piece("18").length_mm, 1200, delta=4)
        box = screen.ghost_box().toRect()
        drag(
            screen,
            QPoint(box.center().x(), box.top()),
            QPoint(box.center().x(), box.bottom() - int(180 * screen.board.axis.px_per_mm)),
        )
        self.assertAlmostEqual(self.shop.piece("18").extents[3], 180, delta=4)
        which, k, spot = screen.board.edge_rings()[0]
        self.assertEqual(which, "far")
        drag(screen.board, spot.toPoint(), spot.toPoint() + QPoint(0, -int(20 * screen.board.axis.px_per_mm)))
        self.assertAlmostEqual(self.shop.piece("18").width_stations[k].far_mm, 200, delta=4)
        self.click("thick.1")
        self.click("tape.keys")
        for key in ("4", "5", "point", "2", "keep"):
            self.click(f"keypad.{key}")
        self.assertAlmostEqual(self.shop.piece("18").least_thickness_mm, 45.2)
        self.click("tape.keys")
        self.assertFalse(self.find("keypad").isVisible())


class FirstStart(WindowTest):
    empty = True

    def test_an_empty_shop_says_the_next_step_and_takes_a_first_piece(self):
        self.assertTrue(self.find("firstStart").isVisible())
        self.click("first.inches")
        self.assertEqual(self.shop.kit.length_style, "fraction")
        self.click("first.mm")
        for name in ("rail.lookOver", "rail.layOut", "rail.sawAndWait", "rail.putBack", "rail.bringIn"):
            self.click(name)
        self.click("first.begin")
        self.assertTrue(self.find("tape.line").hasFocus())
        self.find("tape.line").clear()
        self.type("2390")
        self.assertEqual(self.shop.piece("1").length_mm, 2390)
        self.assertTrue(self.find("bringIn").isVisible())


class LookOver(WindowTest):
    def test_lanes_answer_and_the_rack_follows_the_chosen_one(self):
        self.state.choose_piece("8")
        self.key(Qt.Key.Key_F3)
        self.click("lane.neck")
        self.assertEqual(self.state.use, "neck")
        lane = self.find("lane.neck")
        self.assertIn("if", lane.accessibleName())
        self.assertIn("9.6", lane.toolTip())
        self.assertEqual(self.find("rack.3").answer, str(self.shop.judgements.verdict("3", "neck", self.state.design_id).gives))
        self.key(Qt.Key.Key_Up, target=self.window)
        self.assertEqual(self.state.use, "matched_top")

    def test_tags_are_named_pressed_and_told(self):
        self.state.choose_piece("8")
        self.settle()
        self.click("trouble.8.k1")
        self.assertEqual(self.state.chosen_tag, "k1")
        self.assertIn("24 deep", self.find("trouble.8.k1").accessibleName())
        self.assertIsNotNone(self.find("trouble.8.h1.face2"))

    def test_forty_tags_do_not_hide_one_another(self):
        places = draw.spread_tags(sorted([500.0 + 3 * k for k in range(40)]), 198, 1234, 44)
        for row in (0, 1):
            xs = [x for x, r in places if r == row]
            self.assertTrue(all(b - a >= 40 for a, b in itertools.pairwise(xs)), row)


class LayOut(WindowTest):
    def choose_build(self, name):
        """Press its chip, or take it from the menu where the builds are folded into one button."""
        chip = self.find(f"build.{name.lower()}")
        if chip.isVisible():
            self.click(chip.objectName())
            return
        self.click("layOut.builds")
        menu = self.window.findChild(QMenu, "layOut.builds.menu")
        next(a for a in menu.actions() if a.text() == name).trigger()
        menu.close()
        self.settle()

    def test_drag_plan_keep_saw_and_put_back(self):
        self.state.choose_piece("8")
        self.key(Qt.Key.Key_F5)
        screen = self.find("layOut")
        self.assertIsNotNone(screen.view)
        self.assertTrue(screen.holds)
        before = screen.at
        ghost = self.find("part.inHand")
        ghost.setFocus()
        self.key(Qt.Key.Key_Right, SHIFT, ghost)
        self.assertAlmostEqual(screen.at[0] - before[0], 100)
        for _ in range(30):
            QTest.keyClick(ghost, Qt.Key.Key_Up, SHIFT)
        self.assertFalse(screen.holds)
        self.assertIn("reaches past", screen.answer)
        self.choose_build("Merrow")
        self.click("part.A")
        self.click("layOut.plan")
        if self.window.worker.busy:
            self.wait_for(self.window.worker.planned)
        self.assertIsNotNone(screen.fresh, self.message)
        self.assertEqual(screen.fresh[1].value, 170)
        self.assertTrue(any("not swept" in text for text in screen.refusals()))
        self.key(Qt.Key.Key_F7)
        saw = self.find("sawAndWait")
        self.grab(saw)
        self.assertIn("made, but not kept", saw.accessibleDescription())
        self.key(Qt.Key.Key_F5)
        self.click("layOut.keep")
        self.key(Qt.Key.Key_F7)
        board = saw.board_id
        pdf = self.folder / "map.pdf"
        saw.print_map(str(pdf))
        self.assertEqual(pdf.read_bytes()[:5], b"%PDF-")
        steps = len(saw.steps())
        for _ in range(3 * steps):
            if self.shop.plans.accepted_for("merrow").sawn(board):
                break
            saw._choose_board(board)
            self.click("saw.tick")
        self.assertIn(board, self.shop.plans.accepted_for("merrow").returned)
        self.key(Qt.Key.Key_F9)
        back = [p for p in self.shop.pieces() if p.parent == board]
        if back:
            self.click(f"shelve.{back[0].id}")
            self.assertEqual(self.find("tape.line").text(), "at ")
            self.find("tape.line").clear()
            self.type("at C3")
            self.assertEqual(self.shop.piece(back[0].id).place, "C3")

    def test_planning_can_be_stopped_and_nothing_is_changed(self):
        self.key(Qt.Key.Key_F5)
        self.click("layOut.plan")
        self.assertTrue(self.window.worker.busy)
        version = self.shop.version
        self.click("layOut.plan")
        self.assertFalse(self.window.worker.busy)
        self.assertEqual(self.shop.version, version)
        self.assertIn("planning stopped", self.message[-1])

    def test_a_worker_that_dies_is_said_and_the_next_one_works(self):
        self.key(Qt.Key.Key_F5)
        self.click("layOut.plan")
        self.window.worker._process.kill()
        self.wait_for(self.window.worker.failed, 10_000)
        self.assertIn("stopped before it was done", self.message[-1])
        self.assertFalse(self.window.worker.busy)


class Everywhere(WindowTest):
    def test_every_button_has_a_name_and_a_tooltip_on_every_screen(self):
        from PySide6.QtWidgets import QAbstractButton

        for key in (Qt.Key.Key_F2, Qt.Key.Key_F3, Qt.Key.Key_F5, Qt.Key.Key_F7, Qt.Key.Key_F9, Qt.Key.Key_F4):
            self.key(key)
            for button in self.window.findChildren(QAbstractButton):
                if button.isVisible() and button.isEnabled():
                    self.assertTrue(button.accessibleName(), button.objectName())
                    self.assertTrue(button.toolTip(), button.objectName())

    def test_sizes_from_small_to_large_and_both_lights(self):
        for theme in ("light", "dark"):
            self.shop.apply("t", self.shop.kit.changed(theme=theme))
            for size in ((1024, 700), (3840, 2160), (1280, 800)):
                self.window.resize(*size)
                for screen in ("bring_in", "look_over", "lay_out", "saw_and_wait", "put_back", "kit_book"):
                    self.window.show_screen(screen)
                    self.app.processEvents()
                    image = self.grab().toImage()
                    self.assertEqual(image.pixelColor(4, image.height() // 2), self.state.theme.bench, (theme, size, screen))

    def test_text_contrast_is_at_least_four_and_a_half(self):
        for theme in (tokens.LIGHT, tokens.DARK):
            grounds = (theme.bench, theme.ground, theme.shelf, theme.slip)
            pairs = [(ink, g) for ink in (theme.ink, theme.ink2, theme.ochre, theme.wine) for g in grounds]
            pairs += [
                (theme.chalk, theme.bench),
                (theme.on_chalk, theme.chalk),
                (theme.rail_ink, theme.rail),
                (theme.rail_status, theme.rail),
                (theme.rail_ochre, theme.rail),
                (theme.ink, theme.chalk_wash),
                (theme.ochre, theme.chalk_wash),
            ]
            for ink, ground in pairs:
                self.assertGreaterEqual(tokens.contrast(ink, ground), 4.5, (theme.dark, ink.name(), ground.name()))

    def test_the_kit_book_keeps_good_figures_and_answers_bad_ones(self):
        self.key(Qt.Key.Key_K, Qt.KeyboardModifier.ControlModifier)
        field = self.find("kit.SkimEachFace")
        field.setText("2.2")
        field.editingFinished.emit()
        self.assertEqual(self.shop.kit.losses.skim_mm, 2.2)
        for bad in ("much", "99", "-1"):
            field.setText(bad)
            field.editingFinished.emit()
            self.assertIn("Still 2.2", self.message[-1])
            self.assertEqual(self.shop.kit.losses.skim_mm, 2.2)

    def test_undo_and_redo_from_anywhere(self):
        self.state.choose_piece("9")
        self.type("kg 9.99")
        self.assertEqual(self.shop.piece("9").mass_kg, 9.99)
        self.key(Qt.Key.Key_Z, CTRL, self.window)
        self.assertNotEqual(self.shop.piece("9").mass_kg, 9.99)
        self.key(Qt.Key.Key_Z, CTRL | SHIFT, self.window)
        self.assertEqual(self.shop.piece("9").mass_kg, 9.99)

    def test_lists_out_and_in_with_faults_named(self):
        path = self.folder / "stock.csv"
        self.window.write_list(str(path))
        self.assertIn("European ash", path.read_text())
        path.write_text("number,length_mm\n1,2\n")
        self.window.bring_list(str(path))
        self.settle()
        self.assertIn("the header lacks", self.find("faults").text())
        self.find("faults").close()
        self.assertEqual(len(self.shop.pieces()), 17)

    def test_pgdn_arrows_and_ruler(self):
        self.window.setFocus()
        self.key(Qt.Key.Key_PageDown, target=self.window)
        self.assertEqual(self.state.piece_id, "2")
        self.key(Qt.Key.Key_Right, SHIFT, self.window)
        self.assertEqual(self.state.cursor_mm, 100)
        ruler = self.find("ruler")
        QTest.mouseClick(ruler, Qt.MouseButton.LeftButton, pos=QPoint(int(ruler.axis.x(600)), 12))
        self.assertAlmostEqual(self.state.cursor_mm, 600, delta=2)


class TheAxis(unittest.TestCase):
    def test_mm_and_px_are_inverse_and_labels_keep_apart(self):
        for end in (90, 560, 2400, 3600):
            for style in ("mm", "fraction"):
                axis = Axis(0, end, 1280)
                self.assertAlmostEqual(axis.mm(axis.x(end / 3)), end / 3)
                labels = [axis.x(mm) for mm, label, _ in axis.ticks(style) if label]
                self.assertTrue(all(b - a >= 60 for a, b in itertools.pairwise(labels)), (end, style))
                self.assertGreaterEqual(len(labels), 2 if style == "mm" or end > 200 else 1)
