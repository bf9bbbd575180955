"""Python's collector of reference cycles, kept from stopping the window.

Looking through a shop of thousands of pieces takes it a third of a second, in which nothing else runs. What has lived through one
collection is set apart, so that each looks only at what came since; all of it is looked through only while nobody is there.
"""

from __future__ import annotations

import gc
import time

from PySide6.QtCore import QObject, QTimer

LOOK_S = 60  # how often it is asked whether somebody is there
GONE_S = 120.0  # so long nothing was touched: nobody is there
BETWEEN_S = 900.0  # the least time between two looks through everything


def set_apart(phase: str, info: dict[str, int]) -> None:
    """After a collection of more than the youngest: what is left need not be looked at again."""
    if phase == "stop" and info["generation"] >= 1:
        gc.freeze()


class Sweeper(QObject):
    """Keeps collections short while a window is open; ``stop`` gives the collector back as it was."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self.touched = self.swept = time.monotonic()
        gc.callbacks.append(set_apart)
        self._timer = QTimer(self)
        self._timer.setInterval(1000 * LOOK_S)
        self._timer.timeout.connect(self._look)
        self._timer.start()

    def touch(self) -> None:
        """Somebody is there."""
        self.touched = time.monotonic()

    def _look(self) -> None:
        now = time.monotonic()
        if now - self.touched > GONE_S and now - self.swept > BETWEEN_S:
            self.sweep()

    def sweep(self) -> None:
        """Look through everything, what was set apart too."""
        self.swept = time.monotonic()
        gc.unfreeze()
        gc.collect()

    def stop(self) -> None:
        """Give the collector back as it was."""
        self._timer.stop()
        if set_apart in gc.callbacks:
            gc.callbacks.remove(set_apart)
        gc.unfreeze()
