"""One lane of what was learnt: chips for the records, a broken post for what is planned, a wash for the middle half, a bar for the median."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen
from PySide6.QtWidgets import QAbstractButton
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.painting.tokens import LEFT, RIGHT
from grainet.desk.services.pictures import plain_colour
from grainet.present.learnt_view import LaneView
from grainet.session.learning import told_figure

if TYPE_CHECKING:
    from grainet.desk.screens.learnt.screen import LearntScreen

STRIP_X, STRIP_W, LANE_H, CHIP = 290, 380, 66, 11


class LaneButton(QAbstractButton):
    """A lane; pressed it is in hand."""

    def __init__(self, screen: LearntScreen) -> None:
        super().__init__(screen.scroll.inner)
        self.screen = screen
        self.view: LaneView | None = None
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.clicked.connect(lambda: screen.choose(self.view.lane.key) if self.view is not None else None)

    def set(self, view: LaneView, number: int) -> None:
        """Show a lane."""
        self.view = view
        self.setObjectName(f"learnt.lane.{number}")
        self.setAccessibleName(f"{view.title}, {view.below}: {view.words}; {view.more}")
        self.setToolTip(f"{view.words}. {view.more}")
        self.update()

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        view = self.view
        if view is None:
            return
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.screen.state.theme
        chosen = self.screen.key == view.lane.key
        p.fillRect(self.rect(), theme.chalk_wash if chosen else theme.bench)
        draw.text_at(p, LEFT, 26, view.title, theme.ink, 15.5, 700, room=STRIP_X - LEFT - 14)
        draw.text_at(p, LEFT, 46, view.below, theme.ink2, 13.5, room=STRIP_X - LEFT - 14)
        self._strip(p, view)
        x = STRIP_X + STRIP_W + 26
        broad = view.lane.stand == "asks"
        draw.text_at(p, x, 26, view.words, theme.ochre if broad else theme.ink, 15, 600, room=self.width() - RIGHT - x)
        draw.text_at(p, x, 46, view.more, theme.ink2, 14, room=self.width() - RIGHT - x)
        p.setPen(QPen(theme.hair, 1))
        p.drawLine(QPointF(LEFT, LANE_H - 0.5), QPointF(self.width() - RIGHT, LANE_H - 0.5))
        if self.hasFocus():
            draw.focus_ring(p, theme, QRectF(self.rect()))

    def _strip(self, p: QPainter, view: LaneView) -> None:
        """The records along their axis."""
        theme, lane = self.screen.state.theme, view.lane
        low, high = view.scale
        base = LANE_H - 22.0

        def at(value: float) -> float:
            return STRIP_X + STRIP_W * (value - low) / (high - low)

        a, b = lane.middle_half
        wash = QColor(
            theme.ochre_wash if lane.stand == "asks" else theme.chalk_wash if self.screen.key != lane.key else theme.slip
        )
        p.fillRect(QRectF(at(a) - 2, 8, max(4.0, at(b) - at(a) + 4), base - 8), wash)
        p.setPen(QPen(theme.edge, 1.2))
        p.drawLine(QPointF(STRIP_X, base), QPointF(STRIP_X + STRIP_W, base))
        heights: dict[int, int] = {}
        for record, value in zip(lane.records, lane.values):
            slot = int(at(value) // CHIP)
            heights[slot] = heights.get(slot, -1) + 1
            p.setPen(QPen(theme.ink, 1))
            p.setBrush(plain_colour(record.species) if record.species else theme.slip)
            p.drawRect(QRectF(at(value) - CHIP / 2, base - 9 - 9 * min(3, heights[slot]), CHIP, 8))
        if lane.assumed is not None:
            pen = QPen(theme.ink, 1.8)
            pen.setDashPattern([4, 3])
            p.setPen(pen)
            p.drawLine(QPointF(at(lane.assumed), 6), QPointF(at(lane.assumed), base))
        if lane.stand in ("proposes", "kept", "agrees"):
            p.setPen(QPen(theme.chalk, 2.4))
            p.drawLine(QPointF(at(lane.median), 6), QPointF(at(lane.median), base))
        for value in (low, (low + high) / 2, high):
            words = told_figure(lane.what, value, self.screen.state.style)
            wide = draw.text_width(words, 13, figures=True)
            draw.text_at(
                p,
                min(max(STRIP_X, at(value) - wide / 2), STRIP_X + STRIP_W - wide),
                base + 15,
                words,
                theme.ink2,
                13,
                figures=True,
            )
