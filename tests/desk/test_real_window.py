"""A few tests on a real X server, with real key and mouse events, in a process of their own."""

import os
import shutil
import subprocess
import sys
import unittest
from pathlib import Path

HERE = Path(__file__).resolve().parent.parent.parent

SCRIPT = """
import sys
from PySide6.QtCore import Qt, QPoint
from PySide6.QtTest import QTest
from tests.desk.app import WindowTest
import unittest

class Real(WindowTest):
    def test_type_click_and_see(self):
        self.assertEqual(self.app.platformName(), "xcb")
        self.window.activateWindow()
        QTest.qWaitForWindowActive(self.window, 3000)
        self.state.choose_piece("9")
        self.settle()
        handle = self.window.windowHandle()
        for letter in "kg 9.5":
            QTest.keyClick(handle, letter)
        QTest.keyClick(handle, Qt.Key.Key_Return)
        self.settle()
        self.assertEqual(self.shop.piece("9").mass_kg, 9.5)
        QTest.keyClick(handle, Qt.Key.Key_Escape)
        QTest.keyClick(handle, Qt.Key.Key_F2)
        self.settle()
        self.assertTrue(self.find("bringIn").isVisible())
        stop = self.find("rail.lookOver")
        QTest.mouseClick(handle, Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier, stop.mapTo(self.window, QPoint(60, 30)))
        self.settle()
        self.assertTrue(self.find("lookOver").isVisible())
        picture = self.app.primaryScreen().grabWindow(self.window.winId()).toImage()
        self.assertGreater(picture.width(), 1000)
        colours = {picture.pixel(x, 120) for x in range(0, picture.width(), 7)}
        self.assertGreater(len(colours), 3)

    def test_take_in_with_real_keys_and_a_real_drag(self):
        self.window.activateWindow()
        QTest.qWaitForWindowActive(self.window, 3000)
        handle = self.window.windowHandle()
        QTest.keyClick(handle, Qt.Key.Key_N, Qt.KeyboardModifier.ControlModifier)
        self.settle()
        for line in ("plank 900x120 white ash", "t 31 31.5 30.8"):
            for letter in line:
                QTest.keyClick(handle, letter)
            QTest.keyClick(handle, Qt.Key.Key_Return)
            self.settle()
        QTest.keyClick(handle, Qt.Key.Key_Escape)
        QTest.keyClick(handle, Qt.Key.Key_F12)
        self.settle()
        piece = self.shop.piece("18")
        self.assertEqual((piece.extents, len(piece.stations)), ((0, 0, 900, 120), 3))
        self.assertIn("bench scale", piece.source_of("mass_kg"))
        self.state.choose_piece("8")
        self.settle()
        self.state.choose_tag("w1")
        self.settle()
        board = self.window.bring_in.board
        at = board.mapTo(self.window, board.handles()[2].toPoint())
        plain, left = Qt.KeyboardModifier.NoModifier, Qt.MouseButton.LeftButton
        before = self.shop.piece("8").defects[3].polygon
        QTest.mousePress(handle, left, plain, at)
        QTest.mouseMove(handle, at + QPoint(12, 0))
        QTest.mouseRelease(handle, left, plain, at + QPoint(12, 0))
        self.settle()
        after = self.shop.piece("8").defects[3].polygon
        self.assertGreater(after[2][0], before[2][0] + 5)
        self.assertEqual(after[0], before[0])

    def test_sort_the_rack_for_necks_weigh_a_board_and_read_why(self):
        self.window.activateWindow()
        QTest.qWaitForWindowActive(self.window, 3000)
        handle = self.window.windowHandle()
        left, plain = Qt.MouseButton.LeftButton, Qt.KeyboardModifier.NoModifier
        QTest.keyClick(handle, Qt.Key.Key_F11)
        self.settle()
        for _ in range(2):
            QTest.keyClick(handle, Qt.Key.Key_Down)
            self.settle()
        sort = self.find("sortRack")
        rows = sort.model.rows
        self.assertEqual((self.state.use, rows[0].head, rows[1].piece), ("neck", "Can make it now: 5", "3"))
        k = next(k for k, r in enumerate(rows) if r.piece == "17")
        sort.list.scrollTo(sort.model.index(k))
        self.settle()
        at = sort.list.viewport().mapTo(self.window, sort.list.visualRect(sort.model.index(k)).center())
        QTest.mouseClick(handle, left, plain, at)
        self.settle()
        self.assertEqual(self.state.piece_id, "17")
        QTest.keyClick(handle, Qt.Key.Key_Escape)
        self.window.setFocus()
        for letter in "weigh 7.5":
            QTest.keyClick(handle, letter)
        QTest.keyClick(handle, Qt.Key.Key_Return)
        self.settle()
        self.assertEqual(len(self.shop.piece("17").weighings), 8)
        self.window.setFocus()
        QTest.keyClick(handle, Qt.Key.Key_P, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.ShiftModifier)
        self.settle()
        chart = self.find("plots").view.chart
        self.assertIn("Its 8 weighings", chart.source)
        QTest.keyClick(handle, Qt.Key.Key_F3)
        self.settle()
        QTest.keyClick(handle, Qt.Key.Key_U, Qt.KeyboardModifier.ControlModifier)
        self.settle()
        self.assertTrue(self.find("rules").isVisible())
        self.assertIn("Moisture if", self.told(self.find("rules")))
        picture = self.app.primaryScreen().grabWindow(self.window.winId()).toImage()
        shades = {picture.pixel(x, y) for y in range(500, 700, 9) for x in range(20, picture.width(), 3)}
        self.assertGreater(len(shades), 6, "the rules are painted on the real screen")

sys.exit(0 if unittest.main(argv=["x"], exit=False).result.wasSuccessful() else 1)
"""


@unittest.skipUnless(shutil.which("Xvfb") and shutil.which("xvfb-run"), "no Xvfb on this machine")
class RealWindow(unittest.TestCase):
    def test_under_xvfb(self):
        environment = {**os.environ, "QT_QPA_PLATFORM": "xcb", "PYTHONPATH": str(HERE)}
        out = subprocess.run(
            ["xvfb-run", "-a", "-s", "-screen 0 1400x900x24", sys.executable, "-c", SCRIPT], capture_output=True, text=True, timeout=180, env=environment, cwd=HERE, check=False,
        )  # fmt: skip
        self.assertEqual(out.returncode, 0, out.stdout + out.stderr)
