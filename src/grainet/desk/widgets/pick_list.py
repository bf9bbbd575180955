"""A list to pick from: each row a word or key at the left, what it is, and an example or key at the right; painted, never cut."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

from PySide6.QtCore import QAbstractListModel, QModelIndex, QPersistentModelIndex, QPointF, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QPainter, QPen
from PySide6.QtWidgets import QListView, QStyle, QStyledItemDelegate, QStyleOptionViewItem, QWidget
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.view_state import State
from grainet.desk.widgets.controls import wrapped

ROW_H, HEAD_H = 46, 30


@dataclass(frozen=True)
class Pick:
    """One row: a heading (no payload), or something that can be picked."""

    left: str
    text: str = ""
    right: str = ""
    payload: Any = None

    @property
    def heading(self) -> bool:
        """Whether it is a heading."""
        return self.payload is None


class PickRows(QAbstractListModel):
    """The rows as an item model, read by screen readers as they are painted."""

    def __init__(self) -> None:
        super().__init__()
        self.rows: list[Pick] = []

    @override
    def rowCount(self, _parent: QModelIndex | QPersistentModelIndex = QModelIndex()) -> int:  # noqa: B008
        return len(self.rows)

    @override
    def data(self, index: QModelIndex | QPersistentModelIndex, role: int = 0) -> Any:
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.AccessibleTextRole):
            row = self.rows[index.row()]
            return ", ".join(part for part in (row.left, row.text, row.right) if part)
        return None

    @override
    def flags(self, index: QModelIndex | QPersistentModelIndex) -> Qt.ItemFlag:
        heading = self.rows[index.row()].heading
        return Qt.ItemFlag.ItemIsEnabled if heading else Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable

    def set_rows(self, rows: Sequence[Pick]) -> None:
        """Show other rows."""
        self.beginResetModel()
        self.rows = list(rows)
        self.endResetModel()


class PickPainter(QStyledItemDelegate):
    """Paints a row: the left words bold, the middle plain, the right on a slip."""

    def __init__(self, state: State, left_w: int, parent: QWidget) -> None:
        super().__init__(parent)
        self.state, self.left_w = state, left_w

    @override
    def sizeHint(self, _option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex) -> QSize:
        row: Pick = index.model().rows[index.row()]
        return QSize(300, HEAD_H if row.heading else ROW_H)

    @override
    def paint(self, p: QPainter, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex) -> None:
        row: Pick = index.model().rows[index.row()]
        theme, box = self.state.theme, QRectF(option.rect)
        p.save()
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        if row.heading:
            draw.text_at(p, box.left() + 8, box.bottom() - 8, row.left, theme.ink2, 14, 700, room=box.width() - 16)
            p.restore()
            return
        if option.state & QStyle.StateFlag.State_Selected:
            p.fillRect(box, theme.chalk_wash)
            p.fillRect(QRectF(box.left(), box.top(), 4, box.height()), theme.chalk)
        base = box.center().y() + 5
        draw.text_at(p, box.left() + 12, base, row.left, theme.ink, 15, 600, room=self.left_w - 16)
        right = min(draw.text_width(row.right, 14, 500, figures=True), box.width() * 0.36) if row.right else 0.0
        room = box.width() - self.left_w - right - 34
        lines = wrapped(row.text, 13.5, max(40.0, room))[:2]
        for k, line in enumerate(lines):
            at = base if len(lines) == 1 else box.center().y() - 3 + 17 * k
            draw.text_at(p, box.left() + self.left_w, at, line, theme.ink2, 13.5, room=max(40.0, room))
        if row.right:
            draw.text_at(p, box.right() - right - 12, base, row.right, theme.chalk, 14, 500, figures=True, room=right + 2)
        p.setPen(QPen(theme.hair, 0.8))
        p.drawLine(QPointF(box.left() + 8, box.bottom() - 0.5), QPointF(box.right() - 8, box.bottom() - 0.5))
        p.restore()


class PickList(QListView):
    """The list; ``picked`` carries the payload of the row that was pressed or taken by Enter."""

    picked = Signal(object)

    def __init__(self, state: State, left_w: int, parent: QWidget, name: str) -> None:
        super().__init__(parent)
        self.setObjectName(name)
        self.rows = PickRows()
        self.setModel(self.rows)
        self.setItemDelegate(PickPainter(state, left_w, self))
        self.setFrameShape(QListView.Shape.NoFrame)
        self.setVerticalScrollMode(QListView.ScrollMode.ScrollPerPixel)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.clicked.connect(self._pressed)

    def show_rows(self, rows: Sequence[Pick], *, choose: bool = True) -> None:
        """Show other rows; the first that can be picked is chosen."""
        self.rows.set_rows(rows)
        first = next((k for k, row in enumerate(rows) if not row.heading), None)
        if choose and first is not None:
            self.setCurrentIndex(self.rows.index(first))
        self.scrollToTop()

    def height_of_all(self) -> int:
        """How high all rows are, px."""
        return sum(HEAD_H if row.heading else ROW_H for row in self.rows.rows)

    def step(self, by: int) -> None:
        """The next row that can be picked, up or down."""
        at = self.currentIndex().row() if self.currentIndex().isValid() else -1
        choices = [k for k, row in enumerate(self.rows.rows) if not row.heading]
        if not choices:
            return
        later = [k for k in choices if k > at] if by > 0 else [k for k in reversed(choices) if k < at]
        self.setCurrentIndex(self.rows.index(later[0] if later else at if at >= 0 else choices[0]))

    def take_current(self) -> bool:
        """Pick the chosen row; False where none is."""
        index = self.currentIndex()
        if not index.isValid() or self.rows.rows[index.row()].heading:
            return False
        self._take(index)
        return True

    def _pressed(self, index: QModelIndex) -> None:
        """A press answers once the view is done with it: what is picked may change the very rows that it stands in."""
        row = self.rows.rows[index.row()]
        if not row.heading:
            QTimer.singleShot(0, lambda: self.picked.emit(row.payload))

    def _take(self, index: QModelIndex) -> None:
        row = self.rows.rows[index.row()]
        if not row.heading:
            self.picked.emit(row.payload)
