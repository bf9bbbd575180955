"""A stock list before it is stored: row by row what will happen, broken rows named, and which rows are to go in."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, Qt
from PySide6.QtGui import QKeyEvent, QPainter, QResizeEvent
from PySide6.QtWidgets import QAbstractItemView, QHeaderView, QTableView
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.painting.tokens import LEFT, RIGHT, font
from grainet.desk.screens.screen import Screen
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import WordButton, count_of
from grainet.session.import_preview import COUNTED, WORDS, Row, bring_in
from grainet.store.shop_file import ShopUnusable

HEADS = ("goes in", "row", "number", "what happens", "in detail")


class RowModel(QAbstractTableModel):
    """The rows of a list with a tick for each that may go in."""

    def __init__(self, state: State, rows: list[Row]) -> None:
        super().__init__()
        self.state, self.rows = state, rows
        self.ticked = {k for k, row in enumerate(rows) if row.by_default}

    @override
    def rowCount(self, parent: QModelIndex | QPersistentModelIndex = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else len(self.rows)

    @override
    def columnCount(self, parent: QModelIndex | QPersistentModelIndex = QModelIndex()) -> int:  # noqa: B008
        return len(HEADS)

    @override
    def headerData(self, section: int, orientation: Qt.Orientation, role: int = 0) -> Any:
        if role == Qt.ItemDataRole.DisplayRole and orientation == Qt.Orientation.Horizontal:
            return HEADS[section]
        return None

    @override
    def data(self, index: QModelIndex | QPersistentModelIndex, role: int = 0) -> Any:
        row = self.rows[index.row()]
        if role == Qt.ItemDataRole.CheckStateRole and index.column() == 0 and row.may_go_in:
            return Qt.CheckState.Checked if index.row() in self.ticked else Qt.CheckState.Unchecked
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.ToolTipRole):
            return ("", row.where, row.number or "?", WORDS[row.outcome], row.text)[index.column()]
        if role == Qt.ItemDataRole.ForegroundRole:
            theme = self.state.theme
            return {"broken": theme.wine, "changes": theme.ochre, "same": theme.ink2}.get(row.outcome, theme.ink)
        return None

    @override
    def flags(self, index: QModelIndex | QPersistentModelIndex) -> Qt.ItemFlag:
        base = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
        return base | Qt.ItemFlag.ItemIsUserCheckable if self.rows[index.row()].may_go_in and index.column() == 0 else base

    @override
    def setData(self, index: QModelIndex | QPersistentModelIndex, value: Any, role: int = 0) -> bool:
        if role != Qt.ItemDataRole.CheckStateRole or not self.rows[index.row()].may_go_in:
            return False
        on = value in (Qt.CheckState.Checked, Qt.CheckState.Checked.value)
        self.ticked = self.ticked | {index.row()} if on else self.ticked - {index.row()}
        self.dataChanged.emit(index, index)
        return True

    def tick_all(self, outcome: str, *, on: bool) -> None:
        """Tick or untick every row of one outcome."""
        found = {k for k, row in enumerate(self.rows) if row.outcome == outcome and row.may_go_in}
        self.ticked = self.ticked | found if on else self.ticked - found
        self.dataChanged.emit(self.index(0, 0), self.index(len(self.rows) - 1, 0))

    def chosen(self) -> list[Row]:
        """The rows that are ticked."""
        return [self.rows[k] for k in sorted(self.ticked)]


class StockList(Screen):
    """The screen. ``finished`` tells that it is done with."""

    def __init__(self, state: State) -> None:
        super().__init__(state)
        self.setObjectName("stockList")
        self.name, self.model = "", RowModel(state, [])
        self.table = QTableView(self)
        self.table.setObjectName("stockList.rows")
        self.table.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.table.verticalHeader().hide()
        self.table.setAlternatingRowColors(True)
        self.table.setShowGrid(False)
        self.table.setWordWrap(False)
        self.changes = WordButton(state, "Let changes in too", "", chalk=False, parent=self, name="stockList.changes")
        self.changes.setCheckable(True)
        self.changes.clicked.connect(lambda on: self.model.tick_all("changes", on=on))
        self.away = WordButton(state, "Leave it all", "Esc", chalk=False, parent=self, name="stockList.away")
        self.away.clicked.connect(self.finished)
        self.take = WordButton(state, "Bring in", "Ctrl+Enter", chalk=True, parent=self, name="stockList.take")
        self.take.clicked.connect(self.primary_action)

    def show_rows(self, name: str, rows: list[Row]) -> None:
        """Show what a list would do."""
        self.name, self.model = name, RowModel(self.state, rows)
        self.model.dataChanged.connect(self.refresh)
        self.table.setModel(self.model)
        self.table.setFont(font(14.5))
        header = self.table.horizontalHeader()
        for k, wide in enumerate((76, 92, 92, 150)):
            self.table.setColumnWidth(k, wide)
        header.setSectionResizeMode(4, QHeaderView.ResizeMode.Stretch)
        self.changes.setChecked(False)
        self.refresh()
        self.table.setFocus()
        if rows:
            self.table.setCurrentIndex(self.model.index(0, 0))

    def primary_action(self) -> None:
        """Keep the ticked rows in one step."""
        try:
            count = bring_in(self.state.shop, self.model.chosen())
        except ShopUnusable as fault:
            self.state.warn(str(fault))
            return
        self.state.notify(f"{count_of(count, 'piece')} brought in")
        self.finished.emit()

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() == Qt.Key.Key_Escape:
            self.finished.emit()
            return
        super().keyPressEvent(event)

    def refresh(self) -> None:
        """Bring everything up to date and in its place."""
        bottom = self.height() - 56
        right = self.width() - RIGHT
        flow.fill(self.table, LEFT, 62, right, max(122, bottom - 12))
        flow.row_to_right([(self.take, 280), (self.away, 160), (self.changes, 230)], right, bottom)
        count = len(self.model.ticked)
        self.take.say(f"Bring in {count_of(count, 'row')}", enabled=count > 0)
        self.changes.setVisible(any(r.outcome == "changes" for r in self.model.rows))
        self.update()

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.refresh()

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        theme = self.state.theme
        p.fillRect(self.rect(), theme.bench)
        x = LEFT + draw.text_at(p, LEFT, 30, self.name, theme.ink, 20, 700) + 16
        draw.text_at(p, x, 30, "nothing is stored yet", theme.ink2, 14)
        counts = [
            f"{sum(r.outcome == o for r in self.model.rows)} {words}"
            for o, words in COUNTED.items()
            if any(r.outcome == o for r in self.model.rows)
        ]
        draw.text_at(p, LEFT, 52, "; ".join(counts) or "the list is empty", theme.ink2, 14, room=self.width() - 60)
