"""Another shop, or an archive, beside the shop that is open: what is only there, what is told otherwise, what is only here; and bringing in what is
new, or letting what is told otherwise take the place of what is here. Nothing is changed there."""

from __future__ import annotations

from contextlib import ExitStack
from pathlib import Path

from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainter, QPen
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.painting.tokens import LEFT, RIGHT
from grainet.desk.screens.screen import Page
from grainet.desk.services.background import Failed
from grainet.desk.services.dialogs import file_to_read
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import WordButton
from grainet.desk.widgets.pick_list import Pick, PickList
from grainet.session.archives import WORDS, Beside, bring, compared, counted
from grainet.store.shop_file import ShopUnusable

STANDS = {"there": "only there", "differs": "told otherwise there", "here": "only here"}
MOST_ROWS = 400


class BesideScreen(Page):
    """The screen."""

    def __init__(self, state: State) -> None:
        super().__init__(state)
        self.setObjectName("beside")
        self.rows: list[Beside] | None = None  # None: nothing was chosen yet
        self.path: Path | None = None
        self.name = ""
        self.choose_it = WordButton(state, "Choose a shop or an archive", "", parent=self, name="beside.choose")
        self.choose_it.clicked.connect(lambda: self.choose())
        self.bring_it = WordButton(state, "Bring in what is new", "Ctrl+Enter", chalk=True, parent=self, name="beside.bring")
        self.bring_it.clicked.connect(self.primary_action)
        self.replace_it = WordButton(state, "And replace what differs", "", parent=self, name="beside.replace")
        self.replace_it.clicked.connect(lambda: self.bring(replace=True))
        self.list = PickList(state, 260, self, "beside.list")
        state.changed.connect(self.refresh)

    # acts -----------------------------------------------------------------------------------------------------------
    def choose(self, path: str | None = None) -> None:
        """Lay another shop beside this one: an archive, or the file of a shop's folder."""
        chosen = path or file_to_read(self, "A shop's file or an archive", "Shops and archives (*.zip shop.sqlite)")
        if not chosen:
            return
        found = Path(chosen)
        self.path = found.parent if found.name == "shop.sqlite" else found
        self.rows = None
        self._look()

    def _look(self) -> None:
        """Compare, off the window's thread."""
        path = self.path
        if path is None:
            return
        shop = self.state.shop

        def work() -> object:
            from grainet.cli.archive import opened

            try:
                with ExitStack() as stack:
                    other = stack.enter_context(opened(path))
                    return other.kit.name, compared(shop, other)
            except ShopUnusable as fault:
                return fault

        self.state.background.start(work, self._came, 4)

    def _came(self, found: object) -> None:
        if isinstance(found, tuple):
            self.name, self.rows = found
        elif isinstance(found, (ShopUnusable, Failed)):
            self.path = None
            self.state.warn(str(found) if isinstance(found, ShopUnusable) else found.text)
        self.refresh()

    def primary_action(self) -> None:
        """Bring in what is only there."""
        if self.rows is None:
            self.choose()
        else:
            self.bring()

    def bring(self, *, replace: bool = False) -> None:
        """Bring in what is new, and with ``replace`` what is told otherwise."""
        from grainet.cli.archive import opened

        if self.path is None or self.rows is None:
            return
        try:
            with opened(self.path) as other:
                count = bring(self.state.shop, other, self.rows, replace=replace)
        except ShopUnusable as fault:
            self.state.warn(str(fault))
            return
        self.state.notify(f"{count} things came from {self.name}; Ctrl+Z takes them back")
        self._look()

    # placing --------------------------------------------------------------------------------------------------------
    def refresh(self) -> None:
        """Bring everything up to date and in its place."""
        if not self.isVisible():
            return
        rows = self.rows or []
        self.bring_it.say("Bring in what is new", enabled=any(r.stands == "there" for r in rows))
        self.replace_it.say("And replace what differs", enabled=any(r.stands == "differs" and r.may_come for r in rows))
        for button in (self.bring_it, self.replace_it):
            button.setVisible(self.rows is not None)
        sizes = [(b, b.sizeHint().width()) for b in (self.bring_it, self.replace_it, self.choose_it) if b.isVisibleTo(self)]
        flow.row_to_right(sizes, self.width() - RIGHT, 10)
        self.list.show_rows([Pick(f"{_called(r)}", r.words or STANDS[r.stands], "", r) for r in rows[:MOST_ROWS]])
        self.list.setVisible(bool(rows))
        flow.fill(self.list, LEFT - 8, 150, self.width() - RIGHT + 8, max(220, self.height() - 16))
        self.update()

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        theme = self.state.theme
        p.fillRect(self.rect(), theme.bench)
        draw.text_at(p, LEFT, 38, f"{self.name} beside this shop" if self.rows is not None else "Another shop beside this one", theme.ink, 20, 700)  # fmt: skip
        if self.rows is None:
            words = ("it is read ...",) if self.path is not None else (
                "Choose an archive, or the file of another shop. What is only there, what is told otherwise and what is only here then stands below; nothing comes in before you say so.",
                "The kit book and what was learnt stay this shop's own.")  # fmt: skip
        else:
            words = (("; ".join(counted(self.rows)) or "Both are the same.") + ("" if not self.rows else "."),)
        for k, line in enumerate(words):
            draw.text_at(p, LEFT, 84 + 24 * k, line, theme.ink2, 15, room=self.width() - LEFT - RIGHT)
        p.setPen(QPen(theme.hair, 1))
        p.drawLine(QPointF(LEFT, 136), QPointF(self.width() - RIGHT, 136))


def _called(row: Beside) -> str:
    """An item as a person knows it."""
    return WORDS[row.kind] if row.kind in ("kit", "learnt") else f"{row.kind.replace('_', ' ')} {row.number}"
