"""What could not be understood when the shop was opened: each item with its reason, and its text to write to a file for mending."""

from __future__ import annotations

import json
from pathlib import Path

from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainter, QPen
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.painting.tokens import LEFT, RIGHT
from grainet.desk.screens.screen import Page
from grainet.desk.services.dialogs import file_to_write
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import WordButton, count_of
from grainet.desk.widgets.pick_list import Pick, PickList
from grainet.exchange.json_file import Unusable, write_text


class AsideScreen(Page):
    """The screen."""

    def __init__(self, state: State) -> None:
        super().__init__(state)
        self.setObjectName("aside")
        self.list = PickList(state, 230, self, "aside.list")
        self.save = WordButton(state, "Write their texts to a file", "", chalk=True, parent=self, name="aside.save")
        self.save.clicked.connect(lambda: self.save_texts())
        state.changed.connect(self.refresh)

    def refresh(self) -> None:
        """Bring everything up to date and in its place."""
        if not self.isVisible():
            return
        found = self.state.shop.items.look_through()
        self.list.show_rows([Pick(f"{one.kind} {one.id.partition(':')[2] or one.id}", one.why, "", one) for one in found])
        self.save.setEnabled(bool(found))
        flow.row_to_right([self.save], self.width() - RIGHT, 14)
        flow.fill(self.list, LEFT - 8, 84, self.width() - RIGHT + 8, max(144, self.height() - 16))
        self.update()

    def primary_action(self) -> None:
        """What its chalk-filled button does."""
        self.save_texts()

    def save_texts(self, path: str | None = None) -> None:
        """Write what stands in the shop for every item that was set aside, as it stands there."""
        shop = self.state.shop
        if not shop.items.set_aside:
            self.state.notify("Nothing was set aside: everything in this shop is understood.")
            return
        chosen = path or file_to_write(self, "What was set aside", "set aside.json", "JSON (*.json)")[0]
        if not chosen:
            return
        rows = [{"item": one.id, "why": one.why, "text": shop.items.text_of(one.id)} for one in shop.items.set_aside]
        try:
            write_text(Path(chosen), json.dumps(rows, indent=1, ensure_ascii=False) + "\n")
        except Unusable as fault:
            self.state.warn(fault.lines[0])
            return
        self.state.notify(f"{count_of(len(rows), 'text')} written to {Path(chosen).name}")

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        theme = self.state.theme
        p.fillRect(self.rect(), theme.bench)
        draw.text_at(p, LEFT, 32, "Set aside", theme.ink, 20, 700)
        everything = not self.state.shop.items.set_aside
        words = (
            "Nothing was set aside: everything in this shop is understood."
            if everything
            else "These could not be understood. They stand in the shop as they were; everything else is open."
        )
        draw.text_at(p, LEFT, 56, words, theme.ink2, 14.5, room=self.save.x() - LEFT - 16)
        p.setPen(QPen(theme.hair, 1))
        p.drawLine(QPointF(LEFT, 76), QPointF(self.width() - RIGHT, 76))
