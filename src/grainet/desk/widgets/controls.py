"""Plain controls in the window's hand: a worded button with its key, a dashed socket, and the left-column words."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QRectF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QWheelEvent
from PySide6.QtWidgets import QAbstractButton, QWidget
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.painting.tokens import LEFT
from grainet.desk.view_state import State
from grainet.wrapping import wrap


class WordButton(QAbstractButton):
    """A verb in words with its key; chalk-filled for the window's one chosen action, outlined otherwise."""

    def __init__(
        self, state: State, text: str, key: str = "", *, chalk: bool = False, parent: QWidget | None = None, name: str = ""
    ) -> None:
        super().__init__(parent)
        self.state, self.key, self.chalk, self.caution = state, key, chalk, False
        self.setText(text)
        self.setObjectName(name)
        self.setFixedHeight(44)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._tell()

    def _tell(self) -> None:
        self.setAccessibleName(self.text())
        self.setToolTip(f"{self.text()} ({self.key})" if self.key else self.text())

    def say(self, text: str, *, enabled: bool = True) -> None:
        """Other words, and whether it can be pressed."""
        if text != self.text():
            self.setText(text)
            self._tell()
            self.updateGeometry()
        self.setEnabled(enabled)
        self.update()

    @override
    def sizeHint(self) -> QSize:
        return QSize(
            int(
                draw.text_width(self.text(), 15, 600)
                + (draw.text_width(self.key, 15, 500, figures=True) + 8 if self.key else 0)
                + 30
            ),
            44,
        )

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.state.theme
        box = QRectF(self.rect()).adjusted(1, 1, -1, -1)
        filled = self.chalk and self.isEnabled()
        on = self.isCheckable() and self.isChecked()
        p.setBrush(theme.chalk if filled else theme.chalk_wash if on else theme.slip)
        p.setPen(QPen(theme.chalk if filled or on else theme.wine if self.caution else theme.edge, 1.5))
        p.drawRoundedRect(box, 4, 4)
        ink = theme.on_chalk if filled else theme.ink if self.isEnabled() else theme.ink2
        room = box.width() - 12
        wide = draw.text_width(self.text(), 15, 600) + (draw.text_width(self.key, 15, 500, figures=True) + 8 if self.key else 0)
        x = box.x() + max(6.0, (box.width() - wide) / 2)
        if self.key:
            x += (
                draw.text_at(
                    p, x, box.center().y() + 5.5, self.key, theme.on_chalk if filled else theme.chalk, 15, 500, figures=True
                )
                + 8
            )
        draw.text_at(p, x, box.center().y() + 5.5, self.text(), ink, 15, 600, room=room)
        if self.hasFocus():
            ground = theme.chalk if filled else theme.chalk_wash if on else theme.slip
            draw.focus_ring(p, theme, QRectF(self.rect()), ground)


class ReadingButton(QAbstractButton):
    """A figure's place under the wood: filled once read, dashed while not; pressing it opens the tape line there."""

    def __init__(self, state: State, words: str, parent: QWidget, name: str) -> None:
        super().__init__(parent)
        self.state, self.words, self.shown, self.unread = state, words, "?", True
        self.setObjectName(name)
        self.setFixedSize(58, 36)
        self.clicked.connect(lambda: state.tape_wanted.emit(self.words))

    def set(self, words: str, shown: str, *, unread: bool, what: str) -> None:
        """Show a reading, or that it is still to take."""
        self.words, self.shown, self.unread = words, shown, unread
        self.setAccessibleName(f"{what}: {'not read' if unread else shown}")
        self.setToolTip(f"{what}: {'not read; press and type' if unread else shown + '; press to type anew'}")
        self.update()

    @override
    def wheelEvent(self, event: QWheelEvent) -> None:
        try:
            value = float(self.shown)
        except ValueError:
            return
        step = 0.1 if event.angleDelta().y() > 0 else -0.1
        self.state.tape_wanted.emit(f"{self.words}{value + step:.1f}")

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        draw.label(p, self.state.theme, 29, 7, self.shown, dashed=self.unread, centred=True)
        if self.hasFocus():
            draw.focus_ring(p, self.state.theme, QRectF(self.rect()))


def left_words(p: QPainter, state: State, y: float, title: str, lines: list[tuple[str, QColor]]) -> float:
    """A title and short lines in the left column; returns the y below them."""
    theme = state.theme
    draw.text_at(p, LEFT, y + 14, title, theme.ink, 16, 700, room=150)
    y += 34
    for text, colour in lines:
        for part in wrapped(text, 13.5, 148):
            draw.text_at(p, LEFT, y, part, colour, 13.5)
            y += 18
        y += 2
    return y


def arrow_step_mm(event: Any) -> int:
    """How far an arrow key moves a thing that is taken: 10 mm, Shift 100, Ctrl 1."""
    mods = event.modifiers()
    return 100 if mods & Qt.KeyboardModifier.ShiftModifier else 1 if mods & Qt.KeyboardModifier.ControlModifier else 10


def count_of(number: int, noun: str) -> str:
    """ "1 trouble", "3 troubles", "no troubles"."""
    return f"{number or 'no'} {noun}{'' if number == 1 else 's'}"


def wrapped(text: str, px: float, room: float, weight: int = 400) -> list[str]:
    """Words broken into lines no wider than ``room`` px."""
    return wrap(text, room, lambda words: draw.text_width(words, px, weight))
