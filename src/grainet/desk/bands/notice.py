"""A band below the head that is only there when something stands between the work and the shop: a lost file, a shop that can only
be read, items that could not be understood. It says what is the matter and offers the way out."""

from __future__ import annotations

from PySide6.QtCore import QPointF, Signal
from PySide6.QtGui import QPainter, QPen, QResizeEvent
from PySide6.QtWidgets import QWidget
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.painting.tokens import LEFT, RIGHT
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import WordButton, count_of, wrapped

HIGH = 52


class NoticeBand(QWidget):
    """The band; ``save_wanted`` asks for the shop to be written elsewhere, ``aside_wanted`` for what could not be understood."""

    save_wanted = Signal()
    aside_wanted = Signal()

    def __init__(self, state: State) -> None:
        super().__init__()
        self.state = state
        self.setObjectName("notice")
        self.setFixedHeight(HIGH)
        self.text, self.grave, self.kind = "", False, ""
        self.act = WordButton(state, "", "", chalk=False, parent=self, name="notice.act")
        self.act.clicked.connect(self._do)
        self.hide()

    def refresh(self) -> None:
        """Say what is the matter now, the gravest first; gone where nothing is."""
        shop = self.state.shop
        if shop.items.adrift:
            count = count_of(shop.items.kept_in_memory, "edit")
            self._say(
                "adrift",
                f"{shop.items.adrift} {count.capitalize()} since then {'are' if count[:2] != '1 ' else 'is'} kept in memory only.",
                "Save it elsewhere",
                grave=True,
            )
        elif shop.file.read_only:
            self._say(
                "read",
                f"This shop can only be read: {shop.file.read_only_because}. What you change here cannot be kept.",
                "Save a copy elsewhere",
                grave=False,
            )
        elif shop.items.set_aside:
            first = shop.items.set_aside[0]
            more = f" And {len(shop.items.set_aside) - 1} more." if len(shop.items.set_aside) > 1 else ""
            self._say(
                "aside",
                f"{first.message} It was set aside as it is; the rest of the shop is open.{more}",
                "See what was set aside",
                grave=False,
            )
        else:
            self.kind = ""
            self.hide()

    def _say(self, kind: str, text: str, act: str, *, grave: bool) -> None:
        self.kind, self.text, self.grave = kind, text, grave
        self.setAccessibleName(text)
        self.act.say(act)
        self.show()
        self._place()
        self.update()

    def _do(self) -> None:
        (self.aside_wanted if self.kind == "aside" else self.save_wanted).emit()

    def _place(self) -> None:
        flow.row_to_right([self.act], self.width() - RIGHT, 4)

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._place()

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.state.theme
        p.fillRect(self.rect(), theme.wine_wash if self.grave else theme.ochre_wash)
        p.setPen(QPen(theme.wine if self.grave else theme.ochre, 1.5))
        p.drawLine(QPointF(0, self.height() - 1), QPointF(self.width(), self.height() - 1))
        lines = wrapped(self.text, 14.5, self.act.x() - LEFT - 20, 600)[:2]
        y = 31 if len(lines) == 1 else 21
        for k, line in enumerate(lines):
            draw.text_at(p, LEFT, y + 20 * k, line, theme.ink, 14.5, 600, room=self.act.x() - LEFT - 12)
