"""The buy list of the instrument in hand: what the rack does not give, as least rough sizes; a line that was bought goes to Bring in."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainter, QPen
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.painting.tokens import LEFT, RIGHT
from grainet.desk.screens.screen import Page
from grainet.desk.services.background import Failed
from grainet.desk.services.dialogs import file_to_write
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import WordButton, count_of
from grainet.desk.widgets.pick_list import Pick, PickList
from grainet.session.shopping import Missing, shopping_list


class BuyList(Page):
    """The screen."""

    prints = True

    def __init__(self, state: State) -> None:
        super().__init__(state)
        self.setObjectName("buyList")
        self.lines: list[Missing] | None = None
        self._basis: object = None
        self._asking = False
        self._rows: list[Pick] = []
        self.list = PickList(state, 250, self, "buyList.lines")
        self.list.picked.connect(self.bought)
        self.write = WordButton(state, "Write or print it", "Ctrl+P", chalk=True, parent=self, name="buyList.write")
        self.write.clicked.connect(lambda: self.save_as())
        state.changed.connect(self.refresh)

    def refresh(self) -> None:
        """Bring everything up to date and in its place."""
        if not self.isVisible():
            return
        g, shop = self.state.instrument, self.state.shop
        basis = (g, shop.version)
        if g is not None and basis != self._basis and not self._asking:
            self._asking = True
            self.state.background.start(
                lambda: shop.steady(lambda: shopping_list(shop, g)), lambda found: self._known(basis, found), 3
            )
        style = shop.kit.length_style
        rows = [
            Pick(f"{one.count} × {one.label}", "; ".join([one.size_text(style), ", ".join(one.species) or "any wood that suits", *one.notes]), f"{one.litres:.1f} l", one)
            for one in self.lines or []
        ]  # fmt: skip
        if rows != self._rows:
            self._rows = rows
            self.list.show_rows(rows)
        flow.row_to_right([self.write], self.width() - RIGHT, 14)
        self.write.setEnabled(bool(self.lines))
        flow.fill(self.list, LEFT - 8, 84, self.width() - RIGHT + 8, max(144, self.height() - 16))
        self.update()

    def _known(self, basis: object, found: object) -> None:
        self._asking, self._basis = False, basis
        self.lines = [] if isinstance(found, Failed) or not isinstance(found, list) else found
        self.refresh()

    def bought(self, line: object) -> None:
        """A line that was bought: its words stand in the tape line of Bring in, for a new piece."""
        if isinstance(line, Missing):
            self.state.screen_wanted.emit("bring_in")
            self.state.new_piece()
            self.state.tape_wanted.emit(line.tape)

    def primary_action(self) -> None:
        """What its chalk-filled button does."""
        self.save_as()

    def print_map(self, path: str | None = None) -> None:
        """The list as a page to print."""
        self.save_as(path)

    def save_as(self, path: str | None = None) -> None:
        """The list to PDF or CSV."""
        from grainet.exchange.json_file import Unusable
        from grainet.exchange.report_file import ReportRow, write_report

        g, shop = self.state.instrument, self.state.shop
        if g is None or not self.lines:
            self.state.notify(self.sentence)
            return
        chosen = path or file_to_write(self, "The buy list", f"{g.id}-buy.pdf", "PDF (*.pdf);;CSV table (*.csv)")[0]
        if not chosen:
            return
        style = shop.kit.length_style
        rows = [
            ReportRow("", str(one.count), f"{one.label}: {one.size_text(style)}", "; ".join([", ".join(one.species) or "any wood that suits", *one.notes]),
                      f"{one.litres:.1f} l, {one.board_feet:.2f} board feet")
            for one in self.lines
        ]  # fmt: skip
        try:
            write_report(Path(chosen), f"{shop.kit.name}: to buy for {g.shown_name}", self.sentence, rows)
        except (Unusable, ValueError) as fault:
            self.state.warn(str(fault))
            return
        self.state.notify(f"written: {Path(chosen).name}")

    @property
    def sentence(self) -> str:
        """What stands above the list."""
        g = self.state.instrument
        if g is None:
            return "No guitar is drawn up yet: F4."
        if self.lines is None:
            return f"The rack is being asked what {g.shown_name} still needs."
        if not self.lines:
            return f"Nothing has to be bought for {g.shown_name}: the rack gives every blank, some perhaps after work."
        return f"{count_of(len(self.lines), 'blank')} of {g.shown_name} to buy, trims and skims counted in. Press one when it is bought."

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        theme = self.state.theme
        p.fillRect(self.rect(), theme.bench)
        draw.text_at(p, LEFT, 32, "Buy list", theme.ink, 20, 700)
        draw.text_at(p, LEFT, 56, self.sentence, theme.ink2, 14.5, room=self.write.x() - LEFT - 16)
        p.setPen(QPen(theme.hair, 1))
        p.drawLine(QPointF(LEFT, 76), QPointF(self.width() - RIGHT, 76))
