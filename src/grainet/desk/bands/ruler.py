"""The ruler: ticks on the shared axis and the plumb flag, which a click or drag moves."""

from __future__ import annotations

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QMouseEvent, QPainter, QPen, QPolygonF
from PySide6.QtWidgets import QWidget
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.painting.axis import Axis
from grainet.desk.painting.tokens import RULER_H
from grainet.desk.view_state import State
from grainet.wood.units import format_length


class RulerBand(QWidget):
    """Shows ``axis``; the window sets it for the screen in view."""

    def __init__(self, state: State) -> None:
        super().__init__()
        self.state = state
        self.axis = Axis(0, 1000, 1280)
        self.setObjectName("ruler")
        self.setFixedHeight(RULER_H)
        self.setCursor(Qt.CursorShape.SizeHorCursor)
        self.setToolTip("Click or drag to move the marker; arrow keys do it too")

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.state.move_cursor(round(self.axis.mm(event.position().x())))

    mouseMoveEvent = mousePressEvent

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, style = self.state.theme, self.state.shop.kit.length_style
        p.fillRect(self.rect(), theme.bench)
        drawn = self.state.drawing
        text, marker = ("from the tail", self.state.draw_mm) if drawn else ("from the marked end", self.state.cursor_mm)
        flag, flagged = self.axis.x(marker), drawn or self.state.piece is not None
        if flag > self.axis.left + 16 or not flagged:
            draw.text_at(p, 164 - draw.text_width(text, 14), 18, text, theme.ink2, 14)
        p.setPen(QPen(theme.edge, 1))
        p.drawLine(QPointF(self.axis.left, 30.5), QPointF(self.axis.right, 30.5))
        ticks = [(self.axis.x(mm), label, height) for mm, label, height in self.axis.ticks(style)]
        p.drawLines([QLineF(x, 30 - height, x, 30) for x, _, height in ticks])
        for x, label, _ in ticks:
            if label and abs(x - flag) > 34:
                draw.text_at(
                    p, x - draw.text_width(label, 15, 500, figures=True) / 2, 17, label, theme.ink, 15, 500, figures=True
                )
        if flagged:
            self._flag(p, flag, format_length(marker, style))

    def _flag(self, p: QPainter, x: float, text: str) -> None:
        theme = self.state.theme
        half = max(22.0, draw.text_width(text, 17, 600, figures=True) / 2 + 8)
        p.setBrush(theme.chalk)
        p.setPen(Qt.PenStyle.NoPen)
        p.drawRect(QRectF(x - half, 1, 2 * half, 20))
        p.drawPolygon(QPolygonF([QPointF(x - half, 21), QPointF(x + half, 21), QPointF(x, 32)]))
        draw.text_at(p, x - draw.text_width(text, 17, 600, figures=True) / 2, 17, text, theme.on_chalk, 17, 600, figures=True)
