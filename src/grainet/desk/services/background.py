"""Work off the interface thread: every piece of it ends in a value or in a sentence, and what failed stands in the log."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import dataclass

from PySide6.QtCore import QObject, QRunnable, QThreadPool, QTimer, Signal, Slot

from grainet.store.log_file import LOG

REST_S = 0.15  # pieces that follow one another sooner than this are stepped over, not looked at


@dataclass(frozen=True)
class Failed:
    """What comes back instead of a value where work failed: a sentence for a person."""

    text: str


class _Work(QRunnable):
    def __init__(self, work: Callable[[], object], done: Callable[[object], None]) -> None:
        super().__init__()
        self.work, self.done = work, done

    @Slot()
    def run(self) -> None:
        try:
            result = self.work()
        except Exception as fault:  # whatever it was, somebody waits for an answer
            LOG.exception("work in the background failed")
            result = Failed(
                f"Something unexpected happened ({type(fault).__name__}: {str(fault)[:120]}). Nothing that was kept is lost."
            )
        try:
            self.done(result)
        except RuntimeError:  # the window closed while this was under way
            return


class Background(QObject):
    """Runs work on a thread pool and hands the result, or ``Failed``, back on the interface thread."""

    finished = Signal(object, object)
    failed = Signal(str)
    quiet = Signal()  # the quick stepping is over

    def __init__(self, threads: int = 2) -> None:
        super().__init__()
        self._stepped = self._held_until = 0.0
        self._rest = QTimer(self)
        self._rest.setSingleShot(True)
        self._rest.setInterval(round(1000 * REST_S))
        self._rest.timeout.connect(self.quiet)
        self.pool = QThreadPool()
        self.pool.setMaxThreadCount(threads)
        self.finished.connect(self._receive)

    def _receive(self, receive: Callable[[object], None], result: object) -> None:
        if isinstance(result, Failed):
            self.failed.emit(result.text)
        receive(result)

    def step(self) -> None:
        """The person moved on to another piece. Who steps quickly, as with a wheel, needs the window and not what each piece would give."""
        now = time.monotonic()
        if now - self._stepped < REST_S:
            self._held_until = now + REST_S
            self._rest.start()
        self._stepped = now

    @property
    def held(self) -> bool:
        """Whether work that a look asks for had better wait until the stepping is over."""
        return time.monotonic() < self._held_until

    def start(self, work: Callable[[], object], receive: Callable[[object], None], priority: int = 0) -> None:
        """Run work off the interface thread; what it gives, or Failed, is received on it. Higher priorities first."""
        self.pool.start(_Work(work, lambda result: self.finished.emit(receive, result)), priority)

    def wait(self, milliseconds: int = 20_000) -> bool:
        """Wait until nothing is under way; False where the time ran out."""
        return self.pool.waitForDone(milliseconds)
