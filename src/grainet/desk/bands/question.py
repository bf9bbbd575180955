"""The one question that a top band always asks ("Which of them give a neck?"), as a button that changes it."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QAbstractButton, QWidget
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.view_state import State


class BandQuestion(QAbstractButton):
    """The question of a band; ``words`` says how it ends now, ``asked`` is done when it is pressed."""

    def __init__(self, state: State, band: QWidget, words: Callable[[], str], asked: Callable[[], None], *, tip: str) -> None:
        super().__init__(band)
        self.state, self.words = state, words
        self.setObjectName(f"{band.objectName()}.question")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setToolTip(tip)
        self.clicked.connect(lambda: asked())

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.state.theme
        draw.text_at(p, 8, 18, "Which of them", theme.ink2, 14)
        draw.text_at(p, 8, 41, self.words(), theme.chalk, 15, 600, room=self.width() - 8)
        if self.hasFocus():
            draw.focus_ring(p, theme, QRectF(self.rect()), theme.shelf)
