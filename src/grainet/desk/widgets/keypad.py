"""A keypad for the tape line, so that a whole piece can be read in with the mouse (or a finger) alone."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter, QPen
from PySide6.QtWidgets import QGridLayout, QWidget
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.view_state import State
from grainet.desk.widgets.controls import WordButton

ROWS = ("7 8 9 /", "4 5 6 .", "1 2 3 x", "0 space back keep")


class Keypad(QWidget):
    """Figures and the marks that lengths need; "keep" is Enter."""

    def __init__(self, state: State, tape: Any, parent: QWidget) -> None:
        super().__init__(parent)
        self.state, self.tape = state, tape
        self.setObjectName("keypad")
        grid = QGridLayout(self)
        grid.setContentsMargins(8, 8, 8, 8)
        grid.setSpacing(6)
        for r, row in enumerate(ROWS):
            for c, key in enumerate(row.split()):
                button = WordButton(
                    state,
                    key,
                    "",
                    chalk=key == "keep",
                    parent=self,
                    name=f"keypad.{'point' if key == '.' else 'over' if key == '/' else key}",
                )
                button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
                button.setMinimumWidth(64)
                button.clicked.connect(lambda _=False, k=key: self._press(k))
                grid.addWidget(button, r, c)
        self.hide()

    def _press(self, key: str) -> None:
        if key == "keep":
            self.tape.returnPressed.emit()
        elif key == "back":
            self.tape.backspace()
        else:
            self.tape.insert(" " if key == "space" else key)

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        theme = self.state.theme
        p.setBrush(theme.shelf)
        p.setPen(QPen(theme.edge, 1))
        p.drawRoundedRect(QRectF(self.rect()).adjusted(0, 0, -1, -1), 4, 4)
