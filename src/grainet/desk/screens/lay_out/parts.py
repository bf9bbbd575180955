"""The parts of a build as controls of Lay out: its chips in the strip, and the part in the hand."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPen
from PySide6.QtWidgets import QAbstractButton
from typing_extensions import override

from grainet.design.part import Part
from grainet.desk.painting import draw
from grainet.desk.widgets.controls import arrow_step_mm

if TYPE_CHECKING:
    from grainet.desk.screens.lay_out.screen import LayOut


class PartChip(QAbstractButton):
    """One part of the build: its letter and name; the chosen one is chalk."""

    def __init__(self, screen: LayOut, part: Part) -> None:
        super().__init__(screen)
        self.screen, self.part = screen, part
        self.letter_only = False  # where many parts must find room; its name stands on the tip
        self.setObjectName(f"part.{part.letter or part.id}")
        self.setFixedHeight(44)
        self.setCheckable(True)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName(f"{part.letter} {part.shown_name}")
        self.setToolTip(f"{part.shown_name}: press to see where it can lie on the piece in hand")
        self.clicked.connect(lambda: screen.choose_part(part.id))

    def wanted(self) -> int:
        """How wide it must be, px."""
        letter = draw.text_width(self.part.letter, 19, 700, figures=True)
        return int(letter + (22 if self.letter_only else draw.text_width(self.part.shown_name, 15, 600) + 30))

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, on = self.screen.state.theme, self.isChecked()
        p.setBrush(theme.chalk_wash if on else theme.slip)
        p.setPen(QPen(theme.chalk if on else theme.edge, 2 if on else 1.2))
        p.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 4, 4)
        x = 11 + draw.text_at(p, 11, 28, self.part.letter, theme.ink, 19, 700, figures=True) + 7
        if not self.letter_only:
            draw.text_at(p, x, 28, self.part.shown_name, theme.ink, 15, 600)
        if self.hasFocus():
            draw.focus_ring(p, theme, QRectF(self.rect()))


class DraggedPart(QAbstractButton):
    """The chosen part in the hand: drag it, or nudge it with arrows (Shift 100, Ctrl 1); it answers at every place."""

    def __init__(self, screen: LayOut) -> None:
        super().__init__(screen)
        self.screen = screen
        self.setObjectName("part.inHand")
        self.setCursor(Qt.CursorShape.OpenHandCursor)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setToolTip(
            "Drag it, or arrow keys: 10 mm, Shift 100, Ctrl 1; Alt+R turns it, Alt+B shows its other side, Esc lets go"
        )
        self._grip: QPointF | None = None

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._grip = event.position()
        self.setFocus()

    @override
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._grip is not None:
            moved = event.position() - self._grip
            scale = self.screen.axis_now.px_per_mm
            self.screen.nudge(moved.x() / scale, -moved.y() / scale)

    @override
    def mouseReleaseEvent(self, _event: QMouseEvent) -> None:
        self._grip = None

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        key, step = event.key(), arrow_step_mm(event)
        moves: dict[int, tuple[float, float]] = {
            Qt.Key.Key_Left: (-step, 0),
            Qt.Key.Key_Right: (step, 0),
            Qt.Key.Key_Up: (0, step),
            Qt.Key.Key_Down: (0, -step),
        }
        if key in moves:
            self.screen.nudge(*moves[key])
        elif key == Qt.Key.Key_R and event.modifiers() & Qt.KeyboardModifier.AltModifier:
            self.screen.turn()
        elif key == Qt.Key.Key_B and event.modifiers() & Qt.KeyboardModifier.AltModifier:
            self.screen.turn(over=True)
        elif key == Qt.Key.Key_Escape:
            self.clearFocus()
            self.window().setFocus()
        else:
            super().keyPressEvent(event)

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        if self.hasFocus():
            draw.focus_ring(p, self.screen.state.theme, QRectF(self.rect()))
