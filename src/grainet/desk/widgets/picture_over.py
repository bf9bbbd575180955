"""A kept picture laid over a screen, with its words; a press, Enter or Esc puts it away."""

from __future__ import annotations

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPixmap
from PySide6.QtWidgets import QWidget
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.painting.tokens import LEFT, RIGHT
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.store.photos import read_photo

TOP, FOOT = 48, 16


class PictureOver(QWidget):
    """One at a time, as large as the widget that it lies over."""

    def __init__(self, state: State, parent: QWidget) -> None:
        super().__init__(parent)
        self.state, self.words, self.picture = state, "", QPixmap()
        self.setObjectName("pictureOver")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.hide()

    def show_photo(self, sha: str, words: str) -> None:
        """Show an original by its name; where it is gone that is said."""
        self.picture = QPixmap()
        try:
            self.picture.loadFromData(read_photo(self.state.shop.file.folder, sha))
        except OSError as fault:
            self.state.warn(f"the original of this photo is gone: {fault.strerror or fault}")
            return
        if self.picture.isNull():
            self.state.warn("the original of this photo is no picture that can be read any more")
            return
        self.words = words
        self.setAccessibleName(f"a photo: {words}")
        self.fit()
        self.show()
        self.raise_()
        self.setFocus()

    def fit(self) -> None:
        """As large as what it lies over."""
        above = self.parentWidget()
        flow.fill(self, 0, 0, above.width(), above.height())

    def away(self) -> None:
        """Put it away."""
        self.hide()
        self.picture = QPixmap()
        self.parentWidget().setFocus()

    @override
    def mousePressEvent(self, _event: QMouseEvent) -> None:
        self.away()

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Escape, Qt.Key.Key_Return, Qt.Key.Key_Enter, Qt.Key.Key_Space):
            self.away()
        else:
            super().keyPressEvent(event)

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        theme = self.state.theme
        p.fillRect(self.rect(), theme.bench)
        x = LEFT + draw.text_at(p, LEFT, 30, self.words, theme.ink, 20, 700) + 14
        draw.text_at(p, x, 30, "Esc puts it away", theme.ink2, 15)
        room = QRectF(LEFT, TOP, self.width() - LEFT - RIGHT, self.height() - TOP - FOOT)
        size = self.picture.size().scaled(room.size().toSize(), Qt.AspectRatioMode.KeepAspectRatio)
        p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        at = QRectF(room.x(), room.y(), size.width(), size.height())
        p.drawPixmap(at, self.picture, QRectF(self.picture.rect()))
