"""The tape line's panel, undo from it, what fails in the background, a planner that cannot start, a shop that is lost while open."""

import shutil
import sqlite3
import sys
import unittest
from contextlib import closing, suppress
from unittest import mock

from PySide6.QtCore import QEvent, Qt, qInstallMessageHandler
from PySide6.QtGui import QKeyEvent, QPainter, QPixmap
from PySide6.QtTest import QTest

from grainet.desk.main_window import Window
from grainet.desk.screens.lay_out.screen import whole_rows
from grainet.desk.screens.table import STATIONS
from grainet.desk.services.background import Failed
from grainet.session.commands.elsewhere import _OF_ONE
from grainet.session.shop import Shop
from tests.desk.app import WindowTest, demo_copy

CTRL = Qt.KeyboardModifier.ControlModifier


class Line(WindowTest):
    def typed(self, text):
        self.find("tape.line").clear()
        self.find("tape.line").setFocus()
        QTest.keyClicks(self.find("tape.line"), text)
        self.settle()

    def enter(self):
        QTest.keyClick(self.find("tape.line"), Qt.Key.Key_Return)
        self.settle()

    def test_after_enter_undo_takes_the_edit_back_though_the_line_has_the_keys(self):
        self.state.choose_piece("8")
        before = self.shop.piece("8").mass_kg
        self.typed("kg 18.25")
        self.enter()
        self.assertEqual(self.shop.piece("8").mass_kg, 18.25)
        self.assertTrue(self.find("tape.line").hasFocus())
        QTest.keyClick(self.find("tape.line"), Qt.Key.Key_Z, CTRL)
        self.settle()
        self.assertEqual(self.shop.piece("8").mass_kg, before)
        QTest.keyClick(self.find("tape.line"), Qt.Key.Key_Z, CTRL | Qt.KeyboardModifier.ShiftModifier)
        self.settle()
        self.assertEqual(self.shop.piece("8").mass_kg, 18.25)

    def test_a_bare_letter_turns_no_part(self):
        self.window.show_screen("lay_out")
        self.state.choose_piece("8")
        self.settle()
        lay = self.find("layOut")
        hand, turned = lay.ghost, []
        with mock.patch.object(lay, "turn", side_effect=lambda over=False: turned.append(over)):
            for modifiers in (Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.AltModifier):
                QTest.keyClick(hand, Qt.Key.Key_R, modifiers)
                QTest.keyClick(hand, Qt.Key.Key_B, modifiers)
        self.assertEqual(turned, [False, True])

    def test_an_empty_line_leaves_commands_to_the_window(self):
        line = self.find("tape.line")
        line.clear()
        line.setFocus()
        for key, mine in ((Qt.Key.Key_E, False), (Qt.Key.Key_K, False), (Qt.Key.Key_V, True)):
            event = QKeyEvent(QEvent.Type.ShortcutOverride, key, CTRL)
            event.ignore()
            line.event(event)
            self.assertEqual(event.isAccepted(), mine, key)

    def test_nothing_is_red_before_enter(self):
        head = self.find("head")
        for text in ("s", "sp", "sp wa", "t 2 1/", "k 24x"):
            self.typed(text)
            self.assertFalse(head.final, text)
        self.enter()
        self.assertTrue(head.bad and head.final)

    def test_a_long_answer_stands_whole_in_the_panel(self):
        panel = self.find("tape.panel")
        self.state.warn("First the caution that counts. " + "Then much more of what there is to say. " * 6)
        self.settle()
        self.assertTrue(panel.isVisible())
        self.assertTrue(panel.text.startswith("First the caution"))
        self.assertTrue(self.window.rect().contains(panel.geometry()))
        self.state.notify("short")
        self.assertFalse(panel.isVisible())

    def test_what_may_be_meant_is_pressed(self):
        self.state.choose_piece("8")
        self.typed("sp walnut")
        labels = [b.text() for b in self.find("tape.panel").choices]
        self.assertEqual(labels, ["European walnut", "Black walnut", "Claro walnut", "walnut?"])
        self.click("tape.choice1")
        self.assertEqual(self.find("tape.line").text(), "sp Black walnut")
        self.enter()
        self.assertEqual(self.shop.piece("8").species, "Black walnut")
        self.typed("sp oak")
        self.enter()  # whoever pressed Enter already need not press it again
        self.click("tape.choice0")
        self.assertEqual((self.shop.piece("8").species, self.find("tape.line").text()), ("European oak", ""))
        self.typed("l 2,390")
        self.assertEqual([b.text() for b in self.find("tape.panel").choices], ["2390", "2.390"])

    def test_the_words_of_other_stations_are_those_that_they_tell(self):
        screens = {"Match": "match", "Glue": "glue", "Lay out": "lay_out", "the kit book": "kit_book"}
        for first, station in _OF_ONE.items():
            screen = screens[station.partition(" (")[0]]
            told = {form.split()[0] for form, _, _ in self.window.screens[screen].typed_here()}
            self.assertIn(first, told, station)

    def test_a_line_of_another_station_says_which_one_and_is_kept_there(self):
        head = self.window.head
        for line, station in (
            ("fit 0 0.04", "Glue (F8)"), ("limit 1.5", "Match (F6)"), ("centred 120", "Lay out (F5)"),
            ("new bolt-on Harrow 1", "Draw up (F4)"),
        ):  # fmt: skip
            self.key(Qt.Key.Key_F3)
            self.typed(line)
            self.assertIn(f"is a word of {station}: go there", head.gloss)
        self.enter()
        self.key(Qt.Key.Key_F4)
        self.assertFalse(head.bad, head.gloss)
        self.enter()
        self.assertEqual(self.state.instrument.name, "Harrow 1")

    def test_the_words_are_searched_and_inserted_by_key_and_by_mouse(self):
        self.typed("?")
        words = self.find("tape.words")
        self.assertGreater(len(words.rows.rows), 60)
        self.typed("? beam")
        self.assertTrue(words.rows.rows[0].left.startswith("plank"))
        QTest.keyClick(self.find("tape.line"), Qt.Key.Key_Down)
        self.enter()
        self.assertEqual(self.find("tape.line").text(), "kind slab")
        self.typed("? nail")
        index = words.rows.index(0)
        QTest.mouseClick(words.viewport(), Qt.MouseButton.LeftButton, pos=words.visualRect(index).center())
        self.settle()
        self.assertEqual(self.find("tape.line").text(), "m 6x6")
        QTest.keyClick(self.find("tape.line"), Qt.Key.Key_Escape)
        self.assertFalse(self.find("tape.panel").isVisible())


class Closing(WindowTest):
    def test_a_list_that_is_being_made_ends_with_the_window(self):
        screen = self.window.screens["sort_rack"]
        screen._asked = key = ("use", 0)
        self.assertTrue(screen._go_on(key, 3))
        self.window.close()
        self.assertFalse(screen._go_on(key, 4))


class Failing(WindowTest):
    def test_work_that_fails_answers_with_a_sentence_and_is_not_asked_for_ever(self):
        calls = []

        def boom(*_args, **_more):
            calls.append(1)
            raise ZeroDivisionError("odd")

        with self.assertLogs("grainet", "ERROR"), mock.patch("grainet.session.lists.for_a_use", boom):
            self.window.show_screen("sort_rack")
            self.settle()
            self.assertIn("ZeroDivisionError: odd", self.find("head").gloss)
            self.assertIn("Nothing that was kept is lost", self.find("head").gloss)
            count = len(calls)
            self.settle()
            self.assertEqual(len(calls), count, "it is not tried again at every paint")
            self.assertIn("could not be made", self.find("sortRack").message)
        self.assertEqual(self.state.background.pool.activeThreadCount(), 0)

    def test_a_verdict_that_fails_is_said_once_and_tried_again_after_a_change(self):
        calls = []

        def boom(*_args, **_more):
            calls.append(1)
            raise KeyError("gone")

        self.state.choose_piece("9")
        self.shop.judgements._verdicts.clear()
        with self.assertLogs("grainet", "ERROR"), mock.patch("grainet.grade.judge.judge", boom):
            self.window.show_screen("look_over")
            self.settle()
            count = len(calls)
            self.assertGreater(count, 0)
            self.settle()
            self.assertEqual(len(calls), count)

    def test_every_receiver_takes_a_failure(self):
        told = Failed("it failed")
        photo = self.window.photo
        photo.busy = "opening"
        photo._show(told, None)
        self.assertEqual(photo.busy, "")
        photo._stored("9", told, None, None)
        photo._gap_read("9", "bow", 900.0, told)
        self.window._show_list("s.csv", told)
        self.window.bring_in.bench.busy = True
        self.window.bring_in.bench._come("scale", self.shop.piece("9"), 0, 0, told)
        self.assertFalse(self.window.bring_in.bench.busy)
        self.window.planning.asking = True
        self.window.planning.begin(told)
        self.assertFalse(self.window.planning.asking)
        self.state._asking, self.state.asked = True, None
        self.state._answered(None, self.shop.version, told)
        self.assertFalse(self.state._asking)
        plots = self.window.screens["plots"]
        plots._asked = ("k",)
        plots._made(("k",), told)
        self.assertEqual(plots._asked, None)

    def test_the_planner_is_started_before_anybody_asks(self):
        with mock.patch.object(type(self.window.worker), "start") as start:
            other = type(self.window)(self.shop)
            self.assertFalse(start.called)
            self.assertLess(other.PLANNER_AFTER_MS, 2000)
            for _ in range(600):  # a busy machine is late with its timers
                if start.called:
                    break
                QTest.qWait(50)
            self.assertTrue(start.called)
            other.close()

    def test_a_planner_that_cannot_start_says_so(self):
        message = []
        self.window.worker.stop()
        self.window.worker.failed.connect(message.append)
        with (
            mock.patch("grainet.desk.services.planner_process.sys.executable", "/nowhere/python"),
            self.assertLogs("grainet", "ERROR"),
        ):
            self.window.worker.plan(self.shop.jobs.job_for(self.shop.designs()[:1]))
            for _ in range(40):
                if message:
                    break
                self.settle()
        self.assertIn("could not be started", message[0])
        self.assertFalse(self.window.worker.busy)

    def test_what_nobody_foresaw_opens_a_window_and_goes_to_the_log(self):
        import os
        import sys
        import tempfile

        from grainet.desk.services.unexpected import Unexpected

        hooks = sys.excepthook
        with (
            tempfile.TemporaryDirectory() as scratch,
            mock.patch.dict(os.environ, {"XDG_STATE_HOME": scratch}),
            mock.patch("sys.__excepthook__"),
        ):
            one = Unexpected(self.app)
            try:
                sys.excepthook(ValueError, ValueError("odd"), None)
                self.settle()
                self.assertIn("ValueError: odd", one.box.text())
                self.assertIn("Everything that was kept is in the shop", one.box.informativeText())
                one.box.close()
            finally:
                import threading

                sys.excepthook, threading.excepthook = hooks, threading.__excepthook__


class Lost(WindowTest):
    def test_a_lost_shop_says_so_keeps_the_edits_and_saves_them_elsewhere(self):
        notice = self.find("notice")
        self.assertFalse(notice.isVisible())
        shutil.rmtree(self.folder / "D.grainet")
        self.state.keep("kept", self.shop.piece("9").changed(place="Q7"))
        self.settle()
        self.assertTrue(notice.isVisible())
        self.assertIn("not there any more", notice.text)
        self.assertIn("1 edit", notice.text)
        self.window.save_elsewhere(str(self.folder / "Saved"))
        self.settle()
        self.assertFalse(notice.isVisible())
        self.shop.close()
        with Shop.open(self.folder / "Saved.grainet") as again:
            self.assertEqual(again.piece("9").place, "Q7")
            self.assertEqual(again.undo(), "kept")

    def test_a_shop_to_be_read_and_one_with_something_set_aside_say_so(self):
        folder = self.folder / "Two.grainet"
        demo_copy(folder).close()
        with closing(sqlite3.connect(folder / "shop.sqlite")) as db:
            db.execute("UPDATE item SET json = '{}' WHERE id = 'piece:4'")
            db.commit()
        held = Shop.open(folder)
        self.addCleanup(held.close)
        second = Window(Shop.open(folder))
        self.addCleanup(second.close)
        second.show()
        self.settle()
        self.assertIn("another window", second.notice.text)
        first = Window(held)
        self.addCleanup(first.close)
        first.show()
        self.settle()
        self.assertIn("Piece 4 cannot be understood", first.notice.text)
        first.notice.act.click()
        self.settle()
        self.assertEqual(first.state.screen, "aside")
        first.screens["aside"].save_texts(str(self.folder / "aside.json"))
        self.assertIn("piece:4", (self.folder / "aside.json").read_text())
        QTest.keyClick(first, Qt.Key.Key_Escape)
        self.assertEqual(first.state.screen, "look_over")


class Painting(WindowTest):
    def test_every_screen_can_be_painted_before_it_was_ever_laid_out(self):
        names = (
            *(row.name for row in STATIONS),
            "photo",
            "stock_list",
            "sort_rack",
            "plots",
            "kit_book",
            "guide",
            "aside",
            "first_start",
        )
        pixmap = QPixmap(900, 500)
        for name in names:
            screen = self.window._make_screen(name)  # a compositor may ask for paint before the window laid it out
            with self.subTest(name), QPainter(pixmap) as p:
                type(screen).paintEvent.__wrapped__(screen, p)

    def test_a_fault_while_painting_leaves_no_painter_behind(self):
        from grainet.desk.bands.head import HeadBand

        told = []
        before = qInstallMessageHandler(lambda _kind, _where, text: told.append(text))
        self.addCleanup(qInstallMessageHandler, before)
        hook, sys.excepthook = sys.excepthook, lambda *_: told.append("fault")
        self.addCleanup(setattr, sys, "excepthook", hook)
        with mock.patch.object(HeadBand, "_name", side_effect=ZeroDivisionError), suppress(ZeroDivisionError):
            self.find("head").repaint()
        self.window.repaint()
        self.assertFalse([t for t in told if "active painter" in t], told)

    def test_a_piece_that_is_gone_is_asked_for_without_a_fault(self):
        self.assertIsNone(self.state.verdict("no such piece", "neck"))
        self.assertEqual(self.state._judging, set())

    def test_who_steps_quickly_is_not_kept_waiting_by_what_each_piece_would_give(self):
        self.shop.judgements._verdicts.clear()
        for _ in range(4):
            self.state.step_piece(1)
        self.assertTrue(self.state.background.held)
        self.assertIsNone(self.state.verdict(self.state.piece_id, "neck"))
        self.assertEqual(self.state._judging, set())
        self.settle()
        self.assertFalse(self.state.background.held)
        self.assertIsNotNone(self.state.verdict(self.state.piece_id, self.state.use))


class Fits(WindowTest):
    def test_it_opens_within_the_free_area_and_its_rail_lies_in_it(self):
        for wide, high in ((1280, 740), (1280, 700), (1024, 640)):
            self.window.resize(wide, high)
            self.settle()
            self.assertEqual((self.window.width(), self.window.height()), (wide, high))
            rail = self.window.rail
            self.assertEqual(rail.y() + rail.height(), high)
        self.assertLessEqual(self.window.minimumHeight(), 640)

    def test_refusals_are_told_whole_and_the_rest_counted(self):
        told = [f"A on {k}: face 2 is not swept for metal" for k in range(30)]
        rows = whole_rows(told, 2, 700)
        self.assertEqual(len(rows), 2)
        self.assertRegex(" ".join(rows), r"and \d+ more, told where the mouse rests$")
        self.assertNotIn("...", " ".join(rows))
        self.assertEqual(whole_rows(told[:1], 2, 700), told[:1])

    def test_live_lines_are_short(self):
        for number in ("1", "17"):
            self.state.choose_piece(number)
            self.settle()
            for stop in self.window.rail.stops.values():
                self.assertLessEqual(len(stop.line), 19, stop.line)

    def test_words_are_never_cut_with_dots(self):
        from grainet.desk.painting import draw

        for text in ("Swamp ash (light selection)", "European sycamore maple", "nothing laid out, 3 waiting", "a" * 90):
            for room in (20, 60, 100, 160, 400):
                shown, size, _ = draw.in_room(text, room, 15, 600, figures=False)
                self.assertNotIn("…", shown)
                self.assertGreaterEqual(size, 13)
        self.assertEqual(draw.in_room("Swamp ash (light selection)", 90, 15, 600, figures=False)[0], "Swamp ash")


if __name__ == "__main__":
    unittest.main()
