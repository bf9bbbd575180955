"""The rack from the aisle: every piece end-on in true proportion, and its answer to one question."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRect, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QPainter, QPainterPath, QPen, QRegion, QResizeEvent, QWheelEvent
from PySide6.QtWidgets import QAbstractButton, QMenu, QWidget
from typing_extensions import override

from grainet.desk.bands.question import BandQuestion
from grainet.desk.painting import draw
from grainet.desk.painting.tokens import AXIS_X, LEFT, RACK_H
from grainet.desk.services.pictures import plain_colour
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import count_of
from grainet.grade.verdict import after_work
from grainet.wood.piece import Piece
from grainet.wood.species import short_name

END_W, SHELF_Y = 80, 45


class RackEnd(QAbstractButton):
    """One piece's end on the shelf, its number and its answer."""

    def __init__(self, state: State, piece: Piece, parent: QWidget) -> None:
        super().__init__(parent)
        self.state, self.piece, self.count = state, piece, 1
        self.setObjectName(f"rack.{piece.id}")
        self._looks: tuple[object, ...] = ()  # what it was painted with
        self.setFixedSize(END_W, RACK_H)
        self.setCheckable(True)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.clicked.connect(lambda: state.choose_piece(self.piece.id))

    @property
    def answer(self) -> str:
        """ "2", "2 possible, after work", "no" or "?" for the question of the lane."""
        if not self.state.shop.has_piece(self.piece.id):  # gone since this end was drawn
            return "?"
        known = self.state.verdict(self.piece.id, self.state.use)
        if known is None or not self.piece.outline or not self.piece.all_thicknesses_mm:
            return "?"
        return str(known.gives) if known.gives else after_work(known.gives_if) if known.outcome == "if" else "no"

    def refresh(self, piece: Piece, count: int = 1) -> None:
        """Show a piece, and how many lie behind this end."""
        self.piece, self.count = piece, count
        self.setChecked(piece.id == self.state.piece_id)
        more = f", {count} in bundle {piece.bundle}" if count > 1 else ""
        name = f"No. {piece.id}, {short_name(piece.species)}{more}: {self.answer}"
        self.setAccessibleName(name)
        self.setToolTip(f"{name}. Press to take it in hand (PgUp, PgDn).")
        looks = (piece, count, name, self.isChecked(), self.state.theme, self.state.pictures.get(piece, "end") is not None)
        if looks != self._looks:  # a dozen ends, painted at every change of anything, would cost more than the board
            self._looks = looks
            self.update()

    @override
    def sizeHint(self) -> QSize:
        return QSize(END_W, RACK_H)

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.state.theme
        p.fillRect(self.rect(), theme.bench if self.isChecked() else theme.shelf)
        if self.isChecked():
            p.fillRect(QRectF(0, 0, END_W, 4), theme.chalk)
        self._end(p)
        p.setPen(QPen(theme.edge, 2))
        p.drawLine(QPointF(0, SHELF_Y), QPointF(END_W, SHELF_Y))
        self._answer(p)
        if self.hasFocus():
            draw.focus_ring(p, theme, QRectF(self.rect()), theme.shelf)

    def _end(self, p: QPainter) -> None:
        theme, piece = self.state.theme, self.piece
        _, y0, _, y1 = piece.extents
        width, thick = (y1 - y0) or 120.0, piece.least_thickness_mm or 30.0
        scale = 0.3
        w, h = max(8.0, min(END_W - 12.0, width * scale)), max(4.0, min(36.0, thick * scale * 1.6))
        box = QRectF((END_W - w) / 2, SHELF_Y - h - 1, w, h)
        shape = QPainterPath()
        shape.addRect(box)
        unread = not piece.outline or not piece.all_thicknesses_mm
        if unread:
            draw.outline(p, shape, theme.ochre, 1.5, dashed=True)
            return
        draw.wood_texture(p, theme, shape, self.state.pictures.get(piece, "end"), box, plain_colour(piece.species))
        draw.outline(p, shape, theme.ink, 1)
        if self.count > 1:
            draw.label(
                p,
                theme,
                END_W - 4 - draw.text_width(f"×{self.count}", 13, 600, figures=True) - 12,
                6,
                f"×{self.count}",
                px=13,
                height=18,
            )

    def _answer(self, p: QPainter) -> None:
        theme, answer = self.state.theme, self.answer
        long = len(self.piece.id) > 3
        x = 4 + draw.text_at(p, 4, 70, self.piece.id, theme.ink, 15 if long else 17, 600, figures=True) + (3 if long else 6)
        box = QRectF(x, 56, 18, 16)
        if answer == "?":
            pen = QPen(theme.ochre, 1.5)
            pen.setDashPattern([3, 2])
            p.setPen(pen)
            p.drawRect(box)
            draw.text_at(p, box.right() + 4, 70, "?", theme.ochre, 15, 600)
        elif answer == "no":
            p.setPen(QPen(theme.ink2, 1.2))
            wide = min(16.0, END_W - x - 22)
            p.drawLine(QPointF(x, 71), QPointF(x + max(4.0, wide), 71))
            draw.text_at(p, x + max(4.0, wide) + 3, 70, "no", theme.ink2, 13)
        else:
            full, count = answer.isdigit(), answer.split()[0] if answer[0].isdigit() else ""
            shape = QPainterPath()
            shape.addRect(box if full else QRectF(x, 66, 18, 6))
            draw.wood_texture(p, theme, shape, self.state.pictures.get(self.piece, "end"), box, plain_colour(self.piece.species))
            draw.outline(p, shape, theme.ink if full else theme.ochre, 1.5)
            draw.text_at(p, box.right() + 5, 70, count, theme.ink if full else theme.ochre, 16, 600, figures=True)


class RackBand(QWidget):
    """The band at the top: question, ends, and how many more there are."""

    question_pressed = Signal()

    def __init__(self, state: State) -> None:
        super().__init__()
        self.state = state
        self.setObjectName("rack")
        self.setFixedHeight(RACK_H)
        self.ends: dict[str, RackEnd] = {}
        self.first = 0
        self._ends_key: tuple[object, ...] | None = None
        self._ends_known: list[tuple[Piece, ...]] = []
        self._at: dict[str, int] = {}
        self.question = Question(state, self)
        flow.row([(self.question, 160)], 12, 31, high=50)
        self.refresh()

    def _room(self) -> int:
        return max(1, (self.width() - AXIS_X - 90) // END_W)

    def refresh(self) -> None:
        """Bring everything up to date and in its place."""
        key = (self.state.shop.version, self.state.answers())
        if self._ends_key != key:  # a rack of thousands is gone through only when it changed
            self._ends_key, self._ends_known = key, self._ends_of(self.state.shop.pieces())
            self._at = {m.id: k for k, end in enumerate(self._ends_known) for m in end}
        pieces = self._ends_known
        room = self._room()
        at = self._at.get(self.state.piece_id or "")
        if at is not None:
            self.first = min(max(self.first, at - room + 1), at)
        self.first = max(0, min(self.first, len(pieces) - room))
        # of a bundle the piece in hand stands for all where it is one of them
        shown = [
            (next((m for m in end if m.id == self.state.piece_id), end[0]), len(end))
            for end in pieces[self.first : self.first + room]
        ]
        for gone in set(self.ends) - {p.id for p, _ in shown}:
            end = self.ends.pop(gone)
            end.hide()
            end.deleteLater()
        for k, (piece, count) in enumerate(shown):
            end = self.ends.get(piece.id)
            if end is None:
                end = self.ends[piece.id] = RackEnd(self.state, piece, self)
                end.show()
            end.move(AXIS_X + 2 + k * END_W, 0)
            end.refresh(piece, count)
        self.more = len(pieces) - len(shown)
        self.question.update()
        ends = QRect(AXIS_X + 2, 0, len(shown) * END_W, RACK_H)  # they paint themselves, where anything about them changed
        self.update(QRegion(self.rect()).subtracted(QRegion(ends)))

    def _ends_of(self, pieces: list[Piece]) -> list[tuple[Piece, ...]]:
        """The pieces behind each end: a bundle lies as one end, and a question leaves only its answers."""
        answers = self.state.answers()
        if answers is not None:
            pieces = [p for p in pieces if p.id in answers]
        bundles: dict[str, list[Piece]] = {}
        for piece in pieces:
            if piece.bundle:
                bundles.setdefault(piece.bundle, []).append(piece)
        return [
            tuple(bundles[piece.bundle]) if piece.bundle else (piece,)
            for piece in pieces
            if not piece.bundle or piece is bundles[piece.bundle][0]
        ]

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.refresh()

    @override
    def wheelEvent(self, event: QWheelEvent) -> None:
        self.state.step_piece(-1 if event.angleDelta().y() > 0 else 1)

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        theme = self.state.theme
        p.fillRect(self.rect(), theme.shelf)
        count = len(self.state.shop.pieces())
        x = LEFT + draw.text_at(p, LEFT, 26, "Rack", theme.ink, 20, 700) + 8
        answers = self.state.answers()
        words = f"{len(answers)} of {count}" if answers is not None else count_of(count, "piece") if count else "empty"
        draw.text_at(p, x, 26, words, theme.chalk if answers is not None else theme.ink2, 14)
        p.setPen(QPen(theme.edge, 2))
        p.drawLine(QPointF(AXIS_X, SHELF_Y), QPointF(self.width(), SHELF_Y))
        if not count:
            box = QRectF(AXIS_X + 16, 16, 58, 28)
            pen = QPen(theme.edge, 1.5)
            pen.setDashPattern([4, 3])
            p.setPen(pen)
            p.drawRect(box)
            draw.text_at(p, box.right() + 14, 36, "your first piece will lie here, end-on", theme.ink2, 14)
        if self.more > 0:
            text = f"{self.more} more"
            draw.text_at(p, self.width() - 20 - draw.text_width(text, 14, 600), 28, text, theme.ink, 14, 600)
            draw.text_at(
                p,
                self.width() - 20 - draw.text_width("PgDn", 14, 400, figures=True),
                70,
                "PgDn",
                theme.ink2,
                14,
                400,
                figures=True,
            )


class Question(BandQuestion):
    """ "Which of them give a body half?": pressed, it offers the other uses."""

    def __init__(self, state: State, parent: QWidget) -> None:
        tip = "What the rack is asked; up and down in Look over change it too"
        super().__init__(state, parent, lambda: self.text_now, self._ask, tip=tip)
        self.setAccessibleName("The question that the rack answers")

    @property
    def text_now(self) -> str:
        """The question that the rack answers, in words."""
        wanted = self.state.wanted()
        label = wanted.label if wanted.part is not None else f"a {wanted.rule.label.lower()}"
        return f"give {label}?"

    def _ask(self) -> None:
        menu = QMenu(self)
        for rule in self.state.shop.kit.every_use:
            menu.addAction(rule.label, lambda use=rule.use: self.state.choose_use(use))
        menu.addSeparator()
        menu.addAction("Sort the whole rack for it ... (F11)", lambda: self.state.screen_wanted.emit("sort_rack"))
        menu.addAction("Ask for wood by size and words ... (Ctrl+F)", lambda: self.state.tape_wanted.emit("ask "))
        if self.state.asked is not None:
            menu.addAction("Every piece again", lambda: self.state.ask(None))
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.popup(self.mapToGlobal(self.rect().bottomLeft()))
