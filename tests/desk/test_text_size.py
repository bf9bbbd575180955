"""Larger and smaller text, and a window smaller than its screens need: everything can still be reached."""

import os
import tempfile
import unittest
from pathlib import Path
from unittest import mock

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QApplication

from grainet.desk.screens.table import SCREENS
from grainet.desk.services import text_size
from grainet.desk.widgets.scroll import ScrollsWhenSmall
from tests.desk.app import WindowTest


class Kept(unittest.TestCase):
    def setUp(self):
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        patch = mock.patch.dict(os.environ, {"XDG_STATE_HOME": scratch.name})
        patch.start()
        self.addCleanup(patch.stop)
        self.file = Path(scratch.name) / "grainet" / "text-size"

    def test_it_is_100_until_it_is_kept(self):
        self.assertEqual(text_size.text_size_pct(), 100)
        text_size.keep_text_size(125)
        self.assertEqual(text_size.text_size_pct(), 125)
        for damaged in ("", "a lot", "127", "-4"):
            self.file.write_text(damaged)
            self.assertEqual(text_size.text_size_pct(), 100)

    def test_steps_end_at_both_ends(self):
        for by in (1, -1):
            for _ in range(20):
                text_size.keep_text_size(text_size.next_size_pct(by))
            self.assertEqual(text_size.text_size_pct(), text_size.SIZES_PCT[-1 if by > 0 else 0])
        self.assertEqual(text_size.next_size_pct(0), 100)

    def test_it_comes_on_top_of_what_the_desktop_asks_for_and_never_twice(self):
        text_size.keep_text_size(150)
        for outer, factor in ((None, "1.5"), ("2", "3"), ("x", "1.5")):
            given = {} if outer is None else {"QT_SCALE_FACTOR": outer}
            inside = dict(given)
            text_size.scale(inside)
            self.assertEqual(inside["QT_SCALE_FACTOR"], factor)
            again = text_size.without_our_size(inside)
            self.assertEqual(again, given)
            text_size.scale(again)
            self.assertEqual(again["QT_SCALE_FACTOR"], factor)

    def test_usual_size_leaves_the_environment_alone(self):
        inside = {}
        text_size.scale(inside)
        self.assertNotIn("QT_SCALE_FACTOR", inside)


class SmallWindow(WindowTest):
    def small(self, wide, high):
        self.window.resize(wide, high)
        self.settle()
        return self.window.findChildren(ScrollsWhenSmall)

    def test_nothing_scrolls_where_everything_fits(self):
        for area in self.small(1024, 700):
            for bar in (area.verticalScrollBar(), area.horizontalScrollBar()):
                self.assertEqual(bar.maximum(), bar.minimum())

    def test_a_window_of_640_by_400_reaches_every_screen_and_the_rack_gives_way(self):
        across, down = self.small(640, 400)
        self.assertGreater(across.horizontalScrollBar().maximum(), 0)
        self.assertGreater(down.verticalScrollBar().maximum(), 0)
        self.assertFalse(self.window.rack.isVisible())
        for name in SCREENS:
            if name != "photo":
                self.window.show_screen(name)
                self.settle()
                self.assertGreaterEqual(self.window.work.height(), 430, name)
        self.small(1280, 800)
        self.assertTrue(self.window.rack.isVisible())

    def test_the_control_that_tab_reaches_is_scrolled_into_view(self):
        _, down = self.small(640, 400)
        self.window.show_screen("kit_book")
        self.settle()
        last = self.find("kit.page.brief")
        down.ensureWidgetVisible(last)
        last.setFocus()
        self.key(Qt.Key.Key_Tab, target=last)
        shown = QApplication.focusWidget()
        self.assertIsNot(shown, last)
        middle = shown.mapTo(down.viewport(), shown.rect().center())
        self.assertTrue(0 <= middle.y() <= down.viewport().height())

    def test_arrows_move_the_marker_and_not_the_view(self):
        across, _ = self.small(640, 400)
        before = self.state.cursor_mm
        self.key(Qt.Key.Key_Right, target=self.window)
        self.assertGreater(self.state.cursor_mm, before)
        self.assertEqual(across.horizontalScrollBar().value(), 0)

    def test_the_keys_of_the_text_size_start_again_where_one_is(self):
        asked = []
        self.window.start_again = asked.append
        self.window.show_screen("lay_out")
        with tempfile.TemporaryDirectory() as scratch, mock.patch.dict(os.environ, {"XDG_STATE_HOME": scratch}):
            self.window.change_text_size(1)
            self.assertEqual(text_size.text_size_pct(), 110)
        self.assertEqual(asked, [["--at", "lay_out", self.state.piece.id]])
        self.window.go_to("sort_rack", ["no such piece", "9"])
        self.assertEqual((self.state.screen, self.state.piece.id), ("sort_rack", "9"))


if __name__ == "__main__":
    unittest.main()
