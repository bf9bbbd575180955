"""A real window on a demo shop for the interface tests, driven by object names."""

from __future__ import annotations

import shutil
import tempfile
import unittest
from datetime import date
from pathlib import Path
from unittest import mock

from PySide6.QtCore import QEvent, QEventLoop, Qt, QTimer
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QLineEdit, QWidget

from grainet.clock import stopped_at
from grainet.demo.make import make_demo
from grainet.desk.main_window import Window, prepare
from grainet.session.shop import Shop
from tests.desk.known_wood import KnownWood

CLOCK = stopped_at(date(2026, 11, 24))


def application() -> QApplication:
    app = QApplication.instance()
    if app is None:
        app = QApplication([])
        prepare(app)
    return app  # type: ignore[return-value]


_KEPT: list[tempfile.TemporaryDirectory] = []
_WOOD = KnownWood()


def demo_copy(folder: Path) -> Shop:
    """The demo shop, made once and copied for each test."""
    if not _KEPT:
        _KEPT.append(tempfile.TemporaryDirectory())
        make_demo(Path(_KEPT[0].name) / "D.grainet").close()
    shutil.copytree(Path(_KEPT[0].name) / "D.grainet", folder)
    shop = Shop.open(folder, clock=CLOCK)
    _WOOD.give(shop)
    return shop


class WindowTest(unittest.TestCase):
    """Opens a window on a fresh shop for every test."""

    empty = False
    planner_after_ms = 10**8  # hundreds of planners that nobody asks would cost a quarter of all tests
    painted_each = 8  # settling: painting is half of what these tests cost; the end of each is painted too

    def setUp(self):
        self._settled = 0
        self.app = application()
        self.faults: list[str] = []
        self._watch_faults()
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.folder = Path(scratch.name)
        self.shop = (
            Shop.open(self.folder / "E.grainet", create=True, clock=CLOCK) if self.empty else demo_copy(self.folder / "D.grainet")
        )
        with mock.patch.object(Window, "PLANNER_AFTER_MS", self.planner_after_ms):
            self.window = Window(self.shop)
        if not self.empty:
            _WOOD.give_pictures(self.window.state.pictures)
        self.window.resize(1280, 800)
        self.window.show()
        QTest.qWaitForWindowExposed(self.window)
        self.app.processEvents()
        self.addCleanup(self._away)
        self.state = self.window.state
        self.message: list[str] = []
        self.state.message.connect(lambda said: self.message.append(said.text))
        self.settle()

    def _away(self):
        """Close the window and free it: hundreds of them would fill the memory and answer every event."""
        self.paint()
        self.state.background.wait(30_000)
        self.app.processEvents()
        if not self.empty:
            _WOOD.learn(self.shop)
            _WOOD.learn_pictures(self.state.pictures)
        self.window.close()
        self.window.deleteLater()
        self.app.sendPostedEvents(None, QEvent.Type.DeferredDelete)
        del self.window, self.state
        self.app.processEvents()

    def _watch_faults(self):
        """An exception in a slot or a paintEvent only prints; here it fails the test."""
        import sys
        import traceback

        before = sys.excepthook
        sys.excepthook = lambda kind, fault, trace: self.faults.append("".join(traceback.format_exception(kind, fault, trace)))

        def look():
            sys.excepthook = before
            self.assertEqual(self.faults, [])

        self.addCleanup(look)

    def settle(self):
        """Until the window has nothing more to do, and painted once then, if it is its turn."""
        self.window.setUpdatesEnabled(False)
        self._quiet()
        self._settled += 1
        if self._settled % self.painted_each == 0:
            self.paint()

    def paint(self):
        """The window as it is now."""
        self.window.setUpdatesEnabled(True)
        self.app.processEvents()

    def grab(self, widget: QWidget | None = None):
        """A picture of the window or of something in it; what its painting raises fails the test."""
        self.paint()
        return (widget or self.window).grab()

    def told(self, widget: QWidget) -> str:
        """What a widget says of what it paints."""
        self.paint()
        return widget.accessibleDescription()

    def _quiet(self):
        """Events, work in the background, and the state's own short timer."""
        for turn in range(8):
            self.app.processEvents()
            while self.state.background.held:
                QTest.qWait(20)
            self.state.background.wait(30_000)
            for _ in range(4):
                self.app.processEvents()
            busy = self.state._timer.isActive() or self.state.background.pool.activeThreadCount()
            if turn > 1 and not busy:
                return
            QTest.qWait(10)

    def find(self, name: str) -> QWidget:
        found = self.window.findChild(QWidget, name)
        self.assertIsNotNone(found, name)
        return found

    def click(self, name: str):
        widget = self.find(name)
        self.assertTrue(widget.isVisible(), f"{name} is not to be seen")
        QTest.mouseClick(widget, Qt.MouseButton.LeftButton)
        self.settle()

    def key(self, key, modifiers=Qt.KeyboardModifier.NoModifier, target=None):
        QTest.keyClick(target or self.app.focusWidget() or self.window, key, modifiers)
        self.settle()

    def lay_out(self, name: str):
        """Plan a guitar of the shop and accept the plan."""
        from tests.jobs import planned

        self.state.choose_design(name)
        design = next(d for d in self.shop.designs() if d.id == name)
        job = self.shop.jobs.job_for([design])
        self.state.accept_plan(design, job, planned(job))

    def type(self, text: str):
        """Type as a person would: the first letter opens the tape line, what follows is put in at once, Enter keeps."""
        self.window.setFocus()
        QTest.keyClick(self.app.focusWidget() or self.window, text[0])
        line = self.app.focusWidget()
        if isinstance(line, QLineEdit) and line.text() == text[0]:
            line.insert(text[1:])
        else:
            for letter in text[1:]:
                QTest.keyClick(self.app.focusWidget() or self.window, letter)
        QTest.keyClick(self.app.focusWidget(), Qt.Key.Key_Return)
        self.window.setFocus()
        self.settle()

    def wait_for(self, signal, milliseconds=60_000):
        loop = QEventLoop()
        signal.connect(loop.quit)
        QTimer.singleShot(milliseconds, loop.quit)
        loop.exec()
        self.settle()
