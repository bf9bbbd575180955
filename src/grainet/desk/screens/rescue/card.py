"""One way out as a card: a small body with its seams, and what the way costs and leaves."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen
from PySide6.QtWidgets import QAbstractButton
from typing_extensions import override

from grainet.design.drawing import plan_of
from grainet.desk.painting import draw
from grainet.plan.rescuing import Rescue
from grainet.present.rescue import WayCard

if TYPE_CHECKING:
    from grainet.desk.screens.rescue.screen import RescueScreen

CARD_H, PICTURE_W = 158, 140


class RescueCard(QAbstractButton):
    """Pressed it is the way that would be taken."""

    def __init__(self, screen: RescueScreen, number: int, way: Rescue, card: WayCard) -> None:
        super().__init__(screen.scroll.inner)
        self.screen, self.number, self.way, self.card = screen, number, way, card
        self.setCheckable(True)
        self.setObjectName(f"rescue.{number}")
        self.setAccessibleName(f"{number}: {card.told}")
        self.setToolTip(card.told)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.clicked.connect(lambda: screen.choose(number))

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, on = self.screen.state.theme, self.isChecked()
        p.setBrush(theme.chalk_wash if on else theme.ground)
        p.setPen(QPen(theme.chalk if on else theme.edge, 2.5 if on else 1.2))
        p.drawRoundedRect(QRectF(self.rect()).adjusted(1.5, 1.5, -1.5, -1.5), 4, 4)
        draw.label(p, theme, 10, 9, str(self.number), px=15, weight=700, chosen=on)
        title_w = draw.text_at(p, 46, 26, self.card.title, theme.ink, 16.5, 700, room=self.width() - 58)
        draw.text_at(p, 46 + title_w + 10, 26, self.card.what, theme.ink2, 13.5, room=self.width() - 68 - title_w)
        self._picture(p, QRectF(14, 42, PICTURE_W, CARD_H - 54))
        x, room = PICTURE_W + 30.0, self.width() - PICTURE_W - 42.0
        self._strokes(p, x, 56)
        p.setPen(QPen(theme.edge, 1.3))
        p.setBrush(theme.chalk if self.way.days else Qt.BrushStyle.NoBrush)
        p.drawRect(QRectF(x, 74 if len(self.card.lines) > 4 else 80, 12, 12))
        tight = len(self.card.lines) > 4
        for text, y in zip(self.card.lines, (62, 85, 107, 128, 149) if tight else (62, 91, 120, 145)):
            draw.text_at(p, x + 40, y, text, theme.ink, 14, 600, room=room - 40)
        if self.hasFocus():
            draw.focus_ring(p, theme, QRectF(self.rect()), theme.chalk_wash if on else theme.ground)

    def _strokes(self, p: QPainter, x: float, y: float) -> None:
        """A stroke for each seam that the way adds."""
        p.setPen(QPen(self.screen.state.theme.chalk, 2))
        for k in range(min(6, self.way.seams)):
            p.drawLine(QPointF(x + 2 + 5 * k, y - 7), QPointF(x + 2 + 5 * k, y + 7))

    def _picture(self, p: QPainter, box: QRectF) -> None:
        """The plan as it would be, with the joints of its body; one that changes the drawing has the old rim dashed behind it."""
        theme, after = self.screen.state.theme, plan_of(self.card.guitar)
        rings = (after.body, after.neck, after.head) if not self.card.joints_mm or self.screen.of_neck else (after.body,)
        xs = [x for ring in rings for x, _ in ring]
        ys = [y for ring in rings for _, y in ring]
        scale = min(box.width() / (max(xs) - min(xs)), box.height() / (max(ys) - min(ys)))
        middle = (max(ys) + min(ys)) / 2

        def to_x(mm: float) -> float:
            return box.x() + (mm - min(xs)) * scale

        def to_y(mm: float) -> float:
            return box.center().y() - (mm - middle) * scale

        for ring in rings:
            path = draw.path_of(ring, to_x, to_y)
            p.fillPath(path, self.screen.wood_of(self.way))
            draw.outline(p, path, theme.ink, 1.4)
        body = draw.path_of(after.body, to_x, to_y)
        p.save()
        p.setClipPath(body)
        p.setPen(QPen(theme.chalk, 1.6))
        for y in self.card.joints_mm:
            p.drawLine(QPointF(box.x(), to_y(y)), QPointF(box.right(), to_y(y)))
        p.restore()
