"""A table of kept values, one a row, edited in place: clamps, glues, meters, months, a brief."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

from pydantic import ValidationError
from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QAbstractItemView, QComboBox, QHeaderView, QStyledItemDelegate, QTableView, QWidget
from typing_extensions import override

from grainet.desk.painting.tokens import font
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import WordButton
from grainet.wood.units import entry_unit, format_length, parse_length
from grainet.wood.value import BadEntry, Value


@dataclass(frozen=True)
class Column:
    """One field of the values: its head, how it is shown and read, its choices where it has only some."""

    title: str
    field: str
    kind: str = "text"  # text, length, number, percent, choice, flag, words or fixed
    wide: int = 110
    choices: tuple[str, ...] = ()
    labels: tuple[str, ...] = ()  # the choices in words, in their order
    may_be_empty: bool = False

    def shown(self, value: Value, style: Any) -> str:
        """A value's field as it is written."""
        found = getattr(value, self.field)
        if found is None:
            return ""
        if self.kind == "length":
            return format_length(found, style)
        if self.kind == "words":
            return ", ".join(found)
        if self.kind == "percent":
            return f"{100 * found:g}"
        if self.kind == "flag":
            return "yes" if found else "no"
        if self.labels and found in self.choices:
            return self.labels[self.choices.index(found)]
        return f"{found:g}" if isinstance(found, float) else str(found)

    def read(self, text: str, style: Any) -> Any:
        """The field's value from words. Raises BadEntry."""
        tidy = text.strip()
        if self.may_be_empty and not tidy:
            return None
        if self.kind == "length":
            return parse_length(tidy, entry_unit(style)).mm
        if self.kind in ("number", "percent"):
            try:
                number = float(tidy.replace(",", ".").rstrip("% °C"))
            except ValueError:
                raise BadEntry(f"“{tidy}” is not a figure for {self.title.lower()}.") from None
            return number / 100 if self.kind == "percent" else number
        if self.kind == "flag":
            if tidy.lower() not in ("yes", "no", "y", "n"):
                raise BadEntry(f"{self.title} needs yes or no; found “{tidy}”.")
            return tidy.lower().startswith("y")
        if self.labels and tidy in self.labels:
            return self.choices[self.labels.index(tidy)]
        if self.kind == "choice" and tidy not in self.choices:
            raise BadEntry(f"{self.title} needs one of {', '.join(self.labels or self.choices)}; found “{tidy}”.")
        return tidy


class ValueTable(QAbstractTableModel):
    """The values as a table model; an edit makes a new value and hands all of them on."""

    def __init__(self, state: State, columns: Sequence[Column], keep: Callable[[str, tuple[Value, ...]], bool]) -> None:
        super().__init__()
        self.state, self.columns, self.keep = state, tuple(columns), keep
        self.values: tuple[Value, ...] = ()
        self.names: tuple[str, ...] = ()  # of the rows, where they have some

    def set_values(self, values: tuple[Value, ...]) -> None:
        """Show other rows."""
        if len(values) != len(self.values):
            self.beginResetModel()
            self.values = values
            self.endResetModel()
        elif values != self.values:
            self.values = values
            self.dataChanged.emit(self.index(0, 0), self.index(len(values) - 1, len(self.columns) - 1))

    @override
    def rowCount(self, parent: QModelIndex | QPersistentModelIndex = QModelIndex()) -> int:  # noqa: B008
        return 0 if parent.isValid() else len(self.values)

    @override
    def columnCount(self, parent: QModelIndex | QPersistentModelIndex = QModelIndex()) -> int:  # noqa: B008
        return len(self.columns)

    @override
    def headerData(self, section: int, orientation: Qt.Orientation, role: int = 0) -> Any:
        if role == Qt.ItemDataRole.DisplayRole and orientation == Qt.Orientation.Horizontal:
            return self.columns[section].title
        if role == Qt.ItemDataRole.DisplayRole and section < len(self.names):
            return self.names[section]
        return None

    @override
    def data(self, index: QModelIndex | QPersistentModelIndex, role: int = 0) -> Any:
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.EditRole):
            return self.columns[index.column()].shown(self.values[index.row()], self.state.shop.kit.length_style)
        value, column = self.values[index.row()], self.columns[index.column()]
        guessed = column.field in getattr(value, "guessed", ())
        if role == Qt.ItemDataRole.ToolTipRole:
            words = getattr(value, "source", "") or f"{column.title}: press twice, or type"
            return f"{words}\nonly guessed yet: what you type counts" if guessed else words
        if role == Qt.ItemDataRole.ForegroundRole and guessed:
            return self.state.theme.ochre
        return None

    @override
    def flags(self, index: QModelIndex | QPersistentModelIndex) -> Qt.ItemFlag:
        base = Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable
        return base if self.columns[index.column()].kind == "fixed" else base | Qt.ItemFlag.ItemIsEditable

    @override
    def setData(self, index: QModelIndex | QPersistentModelIndex, value: Any, role: int = 0) -> bool:
        column, old = self.columns[index.column()], self.values[index.row()]
        style = self.state.shop.kit.length_style
        if role != Qt.ItemDataRole.EditRole or str(value).strip() == column.shown(old, style):
            return False
        try:
            sure = {"guessed": old.guessed - {column.field}} if hasattr(old, "guessed") else {}
            new = old.changed(**{column.field: column.read(str(value), style)}, **sure)
        except BadEntry as fault:
            self.state.warn(f"{fault} Still {column.shown(old, style) or 'empty'}.")
            return False
        except ValidationError as fault:
            self.state.warn(
                f"{column.title} “{value}”: {fault.errors()[0]['msg'].lower()}. Still {column.shown(old, style) or 'empty'}."
            )
            return False
        rows = list(self.values)
        rows[index.row()] = new
        if not self.keep(f"{column.title.lower()} {value}", tuple(rows)):
            return False
        self.set_values(tuple(rows))  # at once: the next edit starts from this one
        return True


class ChoiceDelegate(QStyledItemDelegate):
    """Edits a choice with a list, everything else with a line."""

    @override
    def createEditor(self, parent: QWidget, option: Any, index: Any) -> QWidget:
        column: Column = index.model().columns[index.column()]
        choices = (column.labels or column.choices) if column.kind == "choice" else ("yes", "no") if column.kind == "flag" else ()
        if not choices:
            return super().createEditor(parent, option, index)
        box = QComboBox(parent)
        box.addItems(choices)
        box.activated.connect(lambda _: self.commitData.emit(box))
        return box

    @override
    def setEditorData(self, editor: QWidget, index: Any) -> None:
        if isinstance(editor, QComboBox):
            editor.setCurrentText(str(index.data()))
        else:
            super().setEditorData(editor, index)

    @override
    def setModelData(self, editor: QWidget, model: Any, index: Any) -> None:
        if isinstance(editor, QComboBox):
            model.setData(index, editor.currentText(), Qt.ItemDataRole.EditRole)
        else:
            super().setModelData(editor, model, index)


class TableBlock(QWidget):
    """One table with its add and take-away."""

    def __init__(
        self, state: State, name: str, columns: Sequence[Column], keep: Callable[[str, tuple[Value, ...]], bool],
        blank: Callable[[tuple[Value, ...]], Value] | None = None, parent: QWidget | None = None,
    ) -> None:  # fmt: skip
        super().__init__(parent)
        self.state, self.blank, self.keep = state, blank, keep
        self.model = ValueTable(state, columns, keep)
        self.table = QTableView(self)
        self.table.setObjectName(name)
        self.table.setModel(self.model)
        self.table.setItemDelegate(ChoiceDelegate(self.table))
        self.table.setFont(font(15, 500))
        self.table.verticalHeader().hide()
        self.table.verticalHeader().setDefaultSectionSize(34)
        self.table.setTabKeyNavigation(False)
        self.table.setShowGrid(False)
        self.table.setTextElideMode(Qt.TextElideMode.ElideNone)
        self.table.setWordWrap(True)
        self.table.setAlternatingRowColors(True)
        self.table.setSelectionMode(QAbstractItemView.SelectionMode.SingleSelection)
        self.table.setEditTriggers(QAbstractItemView.EditTrigger.DoubleClicked | QAbstractItemView.EditTrigger.AnyKeyPressed)
        for k, column in enumerate(columns):
            self.table.setColumnWidth(k, column.wide)
        self.table.horizontalHeader().setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        self.add = WordButton(state, "Add one", "", chalk=False, parent=self, name=f"{name}.add")
        self.add.clicked.connect(self.add_one)
        self.away = WordButton(state, "Take it away", "", chalk=False, parent=self, name=f"{name}.away")
        self.away.clicked.connect(self.take_away)
        for button in (self.add, self.away):
            button.setVisible(blank is not None)

    def add_one(self) -> None:
        """A new row, its name ready to be typed."""
        if self.blank is None:
            return
        new = self.blank(self.model.values)
        if self.keep("one added", (*self.model.values, new)):
            self.model.set_values((*self.model.values, new)) if new not in self.model.values else None
            index = self.model.index(len(self.model.values) - 1, 0)
            self.table.setCurrentIndex(index)
            self.table.edit(index)

    def take_away(self) -> None:
        """Take the chosen row away."""
        row = self.table.currentIndex().row()
        if not 0 <= row < len(self.model.values):
            self.state.warn("Choose the row to take away first.")
            return
        rest = self.model.values[:row] + self.model.values[row + 1 :]
        if self.keep("one taken away", rest):
            self.model.set_values(rest)

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        foot = 50 if self.blank is not None else 0
        flow.fill(self.table, 0, 0, self.width(), self.height() - foot)
        flow.row([(self.add, 120), (self.away, 150)], 0, self.height() - 44)


def free_id(values: Sequence[Any], stem: str) -> str:
    """An id that none of the values has yet."""
    taken = {v.id for v in values}
    return next(f"{stem}{n}" for n in range(1, 10_000) if f"{stem}{n}" not in taken)
