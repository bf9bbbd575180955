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
