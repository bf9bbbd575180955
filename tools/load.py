"""The window over a large rack: how long each thing takes, how long the window was deaf meanwhile, and the memory.

    ./run load             5,000 pieces       ./run load 20000

A heartbeat every 5 ms tells how long the window answered nothing; it should never be more than a tenth of a second.
"""

from __future__ import annotations

import os
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
HERE = Path(__file__).resolve().parent.parent
sys.path.insert(0, str(HERE))
sys.path.insert(0, str(HERE / "tools"))

from bench import large_shop  # noqa: E402
from PySide6.QtCore import QPoint, QPointF, Qt, QTimer  # noqa: E402
from PySide6.QtGui import QWheelEvent  # noqa: E402
from PySide6.QtTest import QTest  # noqa: E402
from PySide6.QtWidgets import QApplication  # noqa: E402

from grainet.desk.main_window import Window, prepare  # noqa: E402
from grainet.desk.services.sweeper import Sweeper  # noqa: E402
from grainet.session.shop import Shop  # noqa: E402


class Heart:
    """The longest time between two beats of the event loop since the last look."""

    def __init__(self) -> None:
        self.worst, self.last = 0.0, time.perf_counter()
        self.timer = QTimer()
        self.timer.setTimerType(Qt.TimerType.PreciseTimer)
        self.timer.timeout.connect(self._beat)
        self.timer.start(5)

    def _beat(self) -> None:
        now = time.perf_counter()
        self.worst, self.last = max(self.worst, now - self.last), now

    def look(self) -> float:
        self._beat()
        worst, self.worst = self.worst, 0.0
        return worst


def memory_mb() -> float:
    """What the window and its programs hold now; pages that several share are counted once."""
    own, total = os.getpid(), 0
    for folder in Path("/proc").glob("[0-9]*"):
        try:
            parent = int((folder / "stat").read_text().rpartition(")")[2].split()[1])
            if own in (int(folder.name), parent):
                told = (folder / "smaps_rollup").read_text()
                total += next(int(line.split()[1]) for line in told.splitlines() if line.startswith("Pss:"))
        except (OSError, StopIteration):  # it ended meanwhile
            continue
    return total / 1024


class Load:
    """One window over one rack, and what was measured of it."""

    def __init__(self, app: QApplication, window: Window) -> None:
        self.app, self.window, self.heart = app, window, Heart()
        self.most_mb = 0.0

    def until(self, done: Callable[[], bool], seconds: float) -> bool:
        end = time.perf_counter() + seconds
        while time.perf_counter() < end:
            self.app.processEvents()
            if done():
                return True
            time.sleep(0.001)
        return False

    def measure(self, what: str, work: Callable[[], object], done: Callable[[], bool], seconds: float = 60.0) -> None:
        self.until(lambda: False, 0.3)
        self.heart.look()
        began = time.perf_counter()
        work()
        ended = self.until(done, seconds)
        took = time.perf_counter() - began
        self.until(lambda: False, 0.1)
        deaf, memory = 1000 * self.heart.look(), memory_mb()
        self.most_mb = max(self.most_mb, memory)
        print(f"{what:<52} {took:7.2f} s{'' if ended else ' (not done)'}   deaf {deaf:5.0f} ms   {memory:5.0f} MB", flush=True)


def turn_wheel(window: Window, notches: int) -> None:
    """Notches of the wheel over the rack, as fast as the window takes them."""
    band = window.rack
    at = QPointF(band.width() / 2, 40)
    for _ in range(notches):
        event = QWheelEvent(at, band.mapToGlobal(at), QPoint(), QPoint(0, -120), Qt.MouseButton.NoButton,
                            Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False)  # fmt: skip
        QApplication.sendEvent(band, event)
        QApplication.processEvents()


def ask(window: Window, words: str) -> None:
    window.head.tape.setText(f"ask {words}")
    QTest.keyClick(window.head.tape, Qt.Key.Key_Return)


def in_order(window: Window, use: str) -> bool:
    screen = window.screens["sort_rack"]
    return screen._shown is not None and screen._shown[:2] == ("use", use) and screen._asked is None


def main(count: int) -> None:
    app = QApplication([])
    prepare(app)
    Sweeper(app)
    with tempfile.TemporaryDirectory() as scratch:
        os.environ["XDG_CACHE_HOME"] = os.environ["XDG_DATA_HOME"] = scratch
        folder = Path(scratch) / "Large.grainet"
        with Shop.open(folder, create=True) as made:
            from grainet.demo.designs import PLOVER

            made.apply("racked", *large_shop(count), PLOVER)
        began = time.perf_counter()
        window = Window(Shop.open(folder))
        window.resize(1280, 740)
        window.show()
        app.processEvents()
        print(f"{'a window over ' + format(count, ',') + ' pieces, to its first paint':<52} {time.perf_counter() - began:7.2f} s")
        load, state = Load(app, window), window.state
        load.measure(
            "rows and pictures ready in the background",
            lambda: None,
            lambda: state.background.pool.activeThreadCount() == 0 and not state._judging,
            120,
        )
        load.measure("30 notches of the wheel over the rack", lambda: turn_wheel(window, 30), lambda: True)

        def answered() -> bool:
            return state.asked is not None and state._answers is not None and state.answers() is not None

        for words in ("20x80x600 clear", "30x110x700 quartered ready", "walnut"):
            load.measure(f"asked for {words}", lambda w=words: ask(window, w), answered)
        ask(window, "")
        for use in ("neck", "body_half"):
            state.choose_use(use)
            load.measure(
                f"the whole rack sorted for a {use.replace('_', ' ')}",
                lambda: window.show_screen("sort_rack"),
                lambda u=use: in_order(window, u),
                240,
            )
            window.show_screen("look_over")
        window.show_screen("lay_out")
        lay_out = window.screens["lay_out"]
        load.measure("Ctrl+Enter, until the planner has the job", lay_out.primary_action, lambda: not lay_out.asking, 60)
        load.measure("Esc, the planner stopped", lay_out.primary_action, lambda: not window.worker.busy, 10)
        load.measure(
            "an edit kept and shown", lambda: state.keep("moved", state.piece.changed(grain_slope_deg=1.5)), lambda: True
        )
        load.measure("undo", lambda: state.shop.undo(), lambda: True)
        print(f"most memory ever, with the planner and the judging programs: {load.most_mb:.0f} MB")
        window.close()


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 5000)
