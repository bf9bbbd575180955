"""The list of Sort the rack: rows under headings as a model, each drawn with its piece's end and as much wood standing as its rank."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QModelIndex, QPersistentModelIndex, QPointF, QRectF, QSize, QStringListModel, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPen
from PySide6.QtWidgets import QStyle, QStyledItemDelegate, QStyleOptionViewItem, QWidget
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.services.pictures import plain_colour
from grainet.desk.view_state import State
from grainet.session.lists import ListRow

ROW_H = 52


class Rows(QStringListModel):
    """The list's rows. Qt counts them itself: a count that asks this program anew for every row takes a list of thousands a tenth of
    a second."""

    def __init__(self) -> None:
        super().__init__()
        self.rows: list[ListRow] = []

    def set_rows(self, rows: list[ListRow]) -> None:
        """Show other rows."""
        self.rows = rows
        self.setStringList([r.head or f"No. {r.piece}: {r.first} {r.second} {r.right}".strip() for r in rows])

    @override
    def data(self, index: QModelIndex | QPersistentModelIndex, role: int = 0) -> Any:
        row = self.rows[index.row()]
        if role == Qt.ItemDataRole.ToolTipRole and row.piece:
            return "\n".join(t for t in (f"No. {row.piece}", row.first, row.second, row.right) if t)
        return super().data(index, Qt.ItemDataRole.DisplayRole if role == Qt.ItemDataRole.AccessibleTextRole else role)

    @override
    def flags(self, index: QModelIndex | QPersistentModelIndex) -> Qt.ItemFlag:
        row = self.rows[index.row()]
        return Qt.ItemFlag.ItemIsEnabled | Qt.ItemFlag.ItemIsSelectable if row.piece else Qt.ItemFlag.ItemIsEnabled


class RowPainter(QStyledItemDelegate):
    """Draws a row: the piece's end, its number, as much wood standing as its rank, its words."""

    def __init__(self, state: State, parent: QWidget) -> None:
        super().__init__(parent)
        self.state = state

    @override
    def sizeHint(self, _option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex) -> QSize:
        return QSize(600, ROW_H)

    @override
    def paint(self, p: QPainter, option: QStyleOptionViewItem, index: QModelIndex | QPersistentModelIndex) -> None:
        row: ListRow = index.model().rows[index.row()]
        theme = self.state.theme
        p.save()
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        box = QRectF(option.rect)
        if row.head:
            draw.text_at(p, box.left() + 2, box.bottom() - 9, row.head, theme.ink, 15, 700)
            p.setPen(QPen(theme.edge, 1.2))
            p.drawLine(QPointF(box.left(), box.bottom() - 1), QPointF(box.right(), box.bottom() - 1))
            p.restore()
            return
        chosen = bool(option.state & QStyle.StateFlag.State_Selected) or row.piece == self.state.piece_id
        if chosen:
            p.fillRect(box, theme.chalk_wash)
            p.fillRect(QRectF(box.left(), box.top(), 5, box.height()), theme.chalk)
        self._end(p, row, box)
        x = box.left() + 76
        draw.text_at(p, x, box.top() + 31, row.shown or row.piece, theme.ink, 19, 600, figures=True, room=78)
        self._sliver(p, row, QRectF(x + 82, box.top() + 11, 120, 28))
        words = x + 224 if row.word else x + 84
        right = draw.text_width(row.right, 14) + 16 if row.right else 0.0
        room = box.right() - words - right - 8
        draw.text_at(p, words, box.top() + 22, row.first, theme.ochre if row.word == "if" else theme.ink, 14.5, 600, room=room)
        draw.text_at(p, words, box.top() + 41, row.second, theme.wine if row.caution else theme.ink2, 14, room=room)
        if row.right:
            draw.text_at(p, box.right() - right + 4, box.top() + 31, row.right, theme.ink, 14, 600)
        p.setPen(QPen(theme.hair, 1))
        p.drawLine(QPointF(box.left(), box.bottom() - 0.5), QPointF(box.right(), box.bottom() - 0.5))
        p.restore()

    def _end(self, p: QPainter, row: ListRow, box: QRectF) -> None:
        """The piece end-on in true proportion."""
        if not self.state.shop.has_piece(row.piece):
            return
        piece = self.state.shop.piece(row.piece)
        _, y0, _, y1 = piece.extents
        if not piece.outline:
            return
        w, h = max(8.0, min(56.0, (y1 - y0) * 0.22)), max(4.0, min(36.0, (piece.least_thickness_mm or 20) * 0.4))
        shape = QPainterPath()
        target = QRectF(box.left() + 40 - w / 2, box.center().y() - h / 2, w, h)
        shape.addRect(target)
        draw.wood_texture(p, self.state.theme, shape, self.state.pictures.get(piece, "end"), target, plain_colour(piece.species))
        draw.outline(p, shape, self.state.theme.ink, 1)

    def _sliver(self, p: QPainter, row: ListRow, box: QRectF) -> None:
        """As long as its rank and as high as its word: full, a third with an ochre rim, a bare line."""
        theme = self.state.theme
        if not row.word:
            return
        if row.word == "wont":
            p.setPen(QPen(theme.edge, 1.2))
            p.drawLine(QPointF(box.left(), box.center().y()), QPointF(box.left() + box.width() * row.rank, box.center().y()))
            return
        full = row.word == "gives"
        shape = QPainterPath()
        wide = max(6.0, box.width() * row.rank)
        shape.addRect(
            QRectF(box.left(), box.top(), wide, box.height()) if full else QRectF(box.left(), box.bottom() - 9, wide, 9)
        )
        species = self.state.shop.piece(row.piece).species if self.state.shop.has_piece(row.piece) else "unknown"
        p.fillPath(shape, plain_colour(species))
        draw.outline(p, shape, theme.ink if full else theme.ochre, 1.4)
        if row.count:
            draw.label(p, theme, box.left() + 4, box.top() + (4 if full else -3), row.count, px=14, height=20)
