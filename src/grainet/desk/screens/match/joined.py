"""Halves from one face, folded or slipped: as they lie on the board, and below moved together as they will be; both slide at once."""

from __future__ import annotations

from dataclasses import dataclass
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPen, QTransform
from PySide6.QtWidgets import QAbstractButton, QWidget
from typing_extensions import override

from grainet.design.joint_edge import ON_EDGE_MM
from grainet.desk.painting import draw
from grainet.desk.painting.tokens import AXIS_X, LEFT, RIGHT
from grainet.desk.services.pictures import plain_colour
from grainet.desk.widgets.controls import arrow_step_mm, left_words
from grainet.present.joined_view import Joined, room_to_slide
from grainet.wood.piece import Piece
from grainet.wood.units import format_length

if TYPE_CHECKING:
    from grainet.design.shape import Array
    from grainet.desk.screens.match.screen import Match

HEAD_H, APART, WORDS_H = 44, 34, 30


@dataclass(frozen=True)
class _Scale:
    """Millimetres to px: x0 mm lies at ``left``, y1 mm at ``top``."""

    left: float
    top: float
    x0: float
    y1: float
    px: float

    def x(self, mm: float) -> float:
        return self.left + (mm - self.x0) * self.px

    def y(self, mm: float) -> float:
        return self.top + (self.y1 - mm) * self.px

    def box(self, piece: Piece) -> QRectF:
        """Where the whole board comes to."""
        x0, y0, x1, y1 = piece.extents
        return QRectF(self.x(x0), self.y(y1), (x1 - x0) * self.px, (y1 - y0) * self.px)


class JoinedPage(QAbstractButton):
    """The page: arrows slide both copies (10, Shift 100, Ctrl 1), a drag slides them too, Enter locks them."""

    def __init__(self, screen: Match, parent: QWidget) -> None:
        super().__init__(parent)
        self.screen = screen
        self.setObjectName("match.joined")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.SizeHorCursor)
        self.setToolTip("Drag it along the board, or arrow keys: 10 mm, Shift 100, Ctrl 1; Ctrl+Enter locks it")
        self.pair: Joined | None = None
        self.room: tuple[float, float] | None = None  # None while it is worked out
        self.by_mm = 0.0  # how far it was slid
        self._asked: object = None
        self._grip: tuple[float, float] | None = None

    def show_pair(self, pair: Joined | None) -> None:
        """Show a pair, and have its room worked out."""
        if pair == self.pair:
            return
        self.pair, self.room, self.by_mm, self._asked = pair, None, 0.0, pair
        shown = self.screen.planning.shown()
        if pair is None or shown is None:
            return
        kit, plan = shown[0].kit, shown[1]
        mine = {pair.one.key, pair.two.key}
        others = [p for p in plan.placements if p.piece == pair.piece.id and p.key not in mine and p.leaf == 1]

        def work() -> object:
            from grainet.fit.board_geometry import BoardGeometry

            return room_to_slide(pair, BoardGeometry(pair.piece, kit), others)

        self.screen.state.background.start(work, lambda room: self._take(pair, room), 2)
        self.setAccessibleName(f"{pair.part.shown_name}: {pair.told(self.screen.state.style)}")
        self.update()

    def _take(self, asked: Joined, room: object) -> None:
        if asked == self._asked and isinstance(room, tuple):
            self.room = room
            self.update()

    def slide(self, by_mm: float) -> None:
        """Slide both copies, as far as the board gives it."""
        if self.room is not None:
            back, on = self.room
            self.by_mm = max(-back, min(on, by_mm))
            self.screen.refresh()
            self.update()

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._grip = event.position().x(), self.by_mm
        self.setFocus()

    @override
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._grip is not None and (scales := self._scales()) is not None:
            self.slide(self._grip[1] + (event.position().x() - self._grip[0]) / scales[0].px)

    @override
    def mouseReleaseEvent(self, _event: QMouseEvent) -> None:
        self._grip = None

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        by = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if by is not None:
            self.slide(self.by_mm + by * arrow_step_mm(event))
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.screen.lock()
        else:
            super().keyPressEvent(event)

    # painting -----------------------------------------------------------------------------------------------------
    def _scales(self) -> tuple[_Scale, _Scale] | None:
        """Of the board above and of what is joined below, at one scale."""
        pair = self.pair
        if pair is None:
            return None
        x0, y0, x1, y1 = pair.piece.extents
        deep = self._joined_deep(pair)
        high = self.height() - HEAD_H - APART - 2 * WORDS_H
        px = min((self.width() - AXIS_X - RIGHT) / max(1.0, x1 - x0), max(60.0, high) / max(1.0, (y1 - y0) + deep))
        board = _Scale(AXIS_X, HEAD_H, x0, y1, px)
        top = HEAD_H + (y1 - y0) * px + APART + WORDS_H
        low = min(float(pair.rings[0][:, 1].min()), pair.seam_y)
        return board, _Scale(AXIS_X, top, x0, low + deep, px)

    @staticmethod
    def _joined_deep(pair: Joined) -> float:
        one, two = pair.rings
        return float(one[:, 1].max() - one[:, 1].min() + two[:, 1].max() - two[:, 1].min())

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        pair, scales = self.pair, self._scales()
        if pair is None or scales is None:
            return
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, state = self.screen.state.theme, self.screen.state
        p.fillRect(self.rect(), theme.bench)
        x = LEFT + draw.text_at(p, LEFT, 28, state.design.name if state.design else "", theme.ink, 20, 700) + 12
        x += draw.text_at(p, x, 28, pair.part.letter, theme.chalk, 20, 600, figures=True) + 10
        draw.text_at(p, x, 28, f"{pair.part.shown_name} from No. {pair.piece.id}", theme.ink2, 15)
        self._board(p, pair, scales[0])
        self._joined(p, pair, scales[1])
        if self.hasFocus():
            draw.focus_ring(p, theme, QRectF(self.rect()))

    def _board(self, p: QPainter, pair: Joined, scale: _Scale) -> None:
        """Both copies where they lie, the cut between them, the room each way."""
        theme, state = self.screen.state.theme, self.screen.state
        shape = draw.path_of(pair.piece.outline, scale.x, scale.y)
        wood = plain_colour(pair.piece.species)
        draw.wood_texture(p, theme, shape, state.pictures.get(pair.piece, "face1"), scale.box(pair.piece), wood, "if")
        for ring in pair.rings:
            inside = draw.path_of(self._moved(ring), scale.x, scale.y)
            draw.wood_texture(p, theme, inside, state.pictures.get(pair.piece, "face1"), scale.box(pair.piece), wood)
            draw.outline(p, inside, QColor(255, 255, 255, 230), 4)
            draw.outline(p, inside, theme.ink, 2)
        draw.outline(p, shape, theme.ink, 1.2)
        for defect in pair.piece.defects:
            draw.trouble(p, theme, defect, scale.x, scale.y)
        pen = QPen(theme.chalk, 2)
        pen.setDashPattern([5, 4])
        p.setPen(pen)
        if pair.folded:
            y = scale.y(pair.seam_y + pair.lost_mm / 2)
            p.drawLine(QPointF(scale.box(pair.piece).left(), y), QPointF(scale.box(pair.piece).right(), y))
        else:
            x = scale.x(float(pair.rings[0][:, 0].max()) + pair.lost_mm / 2 + self.by_mm)
            p.drawLine(QPointF(x, scale.box(pair.piece).top()), QPointF(x, scale.box(pair.piece).bottom()))
        lines = [
            ("as it lies,", theme.ink2),
            ("ripped" if pair.folded else "crosscut", theme.ink2),
            ("at the dashes", theme.ink2),
        ]
        left_words(p, state, scale.top, f"No. {pair.piece.id}", lines)
        style = state.shop.kit.length_style
        if self.room is None:
            room = "the free run is worked out ..."
        else:
            back, on = (format_length(max(0.0, mm), style) for mm in (self.room[0] + self.by_mm, self.room[1] - self.by_mm))
            room = f"free run {back} toward the marked end, {on} away from it; arrows 10, Shift 100, Ctrl 1"
        draw.text_at(p, AXIS_X, scale.box(pair.piece).bottom() + 22, room, theme.ink2, 14, room=self.width() - AXIS_X - RIGHT)

    def _joined(self, p: QPainter, pair: Joined, scale: _Scale) -> None:
        """Both halves moved together, each with its own wood."""
        theme, state = self.screen.state.theme, self.screen.state
        words = pair.told(state.style)
        if pair.rings_lost is not None:
            words += f", about {pair.rings_lost:.1f} rings of it"
        draw.text_at(p, AXIS_X, scale.top - 12, words, theme.ink, 15, 600, room=self.width() - AXIS_X - RIGHT)
        dx, dy = pair.move
        wood, picture = plain_colour(pair.piece.species), self.screen.picture(pair.piece, pair.shown_at_mm)
        for ring, shift in zip(pair.rings, ((0.0, 0.0), (dx, dy))):
            p.save()
            p.setTransform(QTransform.fromTranslate(shift[0] * scale.px, -shift[1] * scale.px), combine=True)
            inside = draw.path_of(self._moved(ring), scale.x, scale.y)
            draw.wood_texture(p, theme, inside, picture, scale.box(pair.piece), wood)
            draw.outline(p, inside, theme.ink, 2)
            p.restore()
        own = pair.outline_of(state.shop.instruments.find(state.design_id or ""))
        if own is not None:
            pen = QPen(theme.slip, 1.6)
            pen.setDashPattern([5, 4])
            p.setPen(pen)
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawPath(draw.path_of(self._moved(own), scale.x, scale.y))
        at_seam = [x for x, y in self._moved(pair.rings[0]) if y >= pair.seam_y - ON_EDGE_MM]
        y = scale.y(pair.seam_y)
        p.setPen(QPen(theme.chalk, 2))
        p.drawLine(QPointF(scale.x(min(at_seam)), y), QPointF(scale.x(max(at_seam)), y))
        shows = ["the face that shows"] if pair.one.face_up == "1" else ["face 2 shows,", "seen from face 1"]
        shows += ["dashes: its own outline,", "the halves hold either side"] if own is not None else []
        left_words(p, state, scale.top, "Together", [(line, theme.ink2) for line in shows])

    def _moved(self, ring: Array) -> list[tuple[float, float]]:
        return [(float(x) + self.by_mm, float(y)) for x, y in ring]
