"""What nobody foresaw: it goes to the log, and a window says what happened, where the log is, and that nothing kept was lost."""

from __future__ import annotations

import sys
import threading
from types import TracebackType

from PySide6.QtCore import QObject, Qt, Signal
from PySide6.QtWidgets import QApplication, QMessageBox

from grainet.store.log_file import LOG, begin_log


class Unexpected(QObject):
    """Hears of every exception that nobody caught; kept as long as the program runs."""

    happened = Signal(str)

    def __init__(self, app: QApplication) -> None:
        super().__init__(app)
        self.log = begin_log()
        self.box: QMessageBox | None = None
        self.count = 0
        self.happened.connect(self._show)  # from any thread to the interface's
        sys.excepthook = self._hook
        threading.excepthook = lambda told: self._hook(told.exc_type, told.exc_value, told.exc_traceback)

    def _hook(self, kind: type[BaseException], fault: BaseException | None, trace: TracebackType | None) -> None:
        if fault is None or issubclass(kind, KeyboardInterrupt):
            sys.__excepthook__(kind, fault or kind(), trace)
            return
        LOG.error("unexpected", exc_info=(kind, fault, trace))
        sys.__excepthook__(kind, fault, trace)
        self.happened.emit(f"{kind.__name__}: {fault}"[:300])

    def _show(self, text: str) -> None:
        self.count += 1
        if self.box is None:
            self.box = QMessageBox()
            self.box.setObjectName("unexpected")
            self.box.setWindowTitle("Grainet: something unexpected")
            self.box.setIcon(QMessageBox.Icon.Warning)
            self.box.setStandardButtons(QMessageBox.StandardButton.Close)
            self.box.setTextFormat(Qt.TextFormat.PlainText)
        times = f" It happened {self.count} times since the start." if self.count > 1 else ""
        self.box.setText(f"Something happened that Grainet did not foresee.{times}\n\n{text}")
        where = f"What led to it stands in {self.log}." if self.log else "The log could not be written."
        self.box.setInformativeText(f"{where} Everything that was kept is in the shop; you can go on working.")
        self.box.open()
