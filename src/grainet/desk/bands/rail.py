"""The rail: the stations of the work, each with a live line of what waits there."""

from __future__ import annotations

import re

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF
from PySide6.QtWidgets import QAbstractButton, QHBoxLayout, QWidget
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.painting.tokens import RAIL_H
from grainet.desk.screens.table import SCREENS, STATIONS
from grainet.desk.view_state import State

MORE_W, INSET = 124, 16


class NavButton(QAbstractButton):
    """One station."""

    def __init__(self, state: State, screen: str, key: str, label: str) -> None:
        super().__init__()
        self.state, self.name, self.key, self.label = state, screen, key, label
        self.line, self.waits = "", False
        self.setObjectName(f"rail.{SCREENS[screen].camel if screen in SCREENS else screen}")
        self.setCheckable(True)
        self.setFixedHeight(RAIL_H)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setAccessibleName(label)
        self.setToolTip(f"{label} ({key})")

    def say(self, line: str, *, waits: bool) -> None:
        """Its live line, and whether something waits there for the person."""
        self.line, self.waits = line, waits
        self.setAccessibleDescription(line)
        self.update()

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.state.theme
        p.fillRect(self.rect(), theme.rail)
        here = self.isChecked()
        if here:
            p.setBrush(theme.bench)
            p.setPen(Qt.PenStyle.NoPen)
            w = self.width()
            p.drawPolygon(QPolygonF([QPointF(0, 0), QPointF(w, 0), QPointF(w - 14, RAIL_H), QPointF(14, RAIL_H)]))
        else:
            p.setPen(QPen(theme.edge, 1))
            p.drawLine(QPointF(self.width() - 1, 16), QPointF(self.width() - 1, 48))
        x = INSET + draw.text_at(p, INSET, 27, self.key, theme.chalk if here else theme.rail_status, 15, 500, figures=True) + 8
        draw.text_at(p, x, 27, self.label, theme.ink if here else theme.rail_ink, 16, 700, room=self.width() - x - 4)
        ochre = theme.ochre if here else theme.rail_ochre
        told = ochre if self.waits else theme.ink2 if here else theme.rail_status
        room = self.width() - 2 * INSET
        line = self.line
        if draw.in_room(line, room, 13, 400, figures=False)[0] != line:  # too narrow: what matters stands last
            line = re.split(r"[,:] ", line)[-1]
        draw.text_at(p, INSET, 48, line, told, 13, room=room)
        if self.hasFocus():
            draw.focus_ring(p, theme, QRectF(self.rect()), theme.bench if here else theme.rail)


class Rail(QWidget):
    """All stations side by side."""

    def __init__(self, state: State) -> None:
        super().__init__()
        self.state = state
        self.setObjectName("rail")
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        row.setSpacing(0)
        self.stops = {row.name: NavButton(state, row.name, row.key, row.label) for row in STATIONS}
        for stop in self.stops.values():
            row.addWidget(stop, 1)
        self.more = NavButton(state, "more", "F10", "More")
        self.more.setCheckable(False)
        self.more.setFixedWidth(MORE_W)
        self.more.say("sort, plots, kit", waits=False)
        self.more.setToolTip("Sort the rack (F11), plots (Ctrl+Shift+P), kit book (Ctrl+K) and every other action (F10)")
        row.addWidget(self.more)

    def show_screen(self, screen: str) -> None:
        """Mark the station that is in front."""
        for name, stop in self.stops.items():
            stop.setChecked(name == screen)
