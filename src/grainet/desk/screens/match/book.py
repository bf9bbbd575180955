"""The opened board: the leaf as it lies on one side of the seam, its true mirror on the other, and what slides on both."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPen, QPixmap, QPolygonF, QTransform
from PySide6.QtWidgets import QAbstractButton
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.painting.veil import lay_veil
from grainet.desk.services.pictures import plain_colour
from grainet.desk.widgets.controls import arrow_step_mm
from grainet.wood.piece import Piece
from grainet.wood.units import format_length

if TYPE_CHECKING:
    from grainet.desk.screens.match.screen import Match
    from grainet.present.match_view import Laid

LAMP = QColor(10, 16, 14, 92)  # what the light across takes from the leaf that dulls


class Where:
    """Millimetres on the board to px of the book, x on the window's axis and y about the seam; ``level`` turns a seam that leans to lie
    level, ``mirrored`` is the mirror image beyond it."""

    def __init__(self, laid: Laid, left: float, seam_px: float, scale: float, from_mm: float = 0.0) -> None:
        (ax, ay), (bx, by) = laid.joint
        self.middle_mm, self.left, self.seam_px, self.scale, self.from_mm = (ay + by) / 2, left, seam_px, scale, from_mm
        self.a, self.b = QPointF(self.x(ax), self.y(ay)), QPointF(self.x(bx), self.y(by))
        self.above = laid.seam == "near"  # whether the leaf as it lies is the upper one
        self.slope = (self.b.y() - self.a.y()) / max(1e-9, self.b.x() - self.a.x())
        middle = (self.a + self.b) / 2
        self.level = QTransform()
        self.level.translate(middle.x(), middle.y())
        self.level.rotate(laid.lean_deg)  # y goes up in mm, down in px
        self.level.translate(-middle.x(), -middle.y())
        self.mirrored = self.level * QTransform(1, 0, 0, -1, 0, 2 * seam_px)

    def x(self, mm: float) -> float:
        """The px of a place along."""
        return self.left + (mm - self.from_mm) * self.scale

    def y(self, mm: float) -> float:
        """The px of a place across."""
        return self.seam_px - (mm - self.middle_mm) * self.scale

    def side(self) -> QPainterPath:
        """Everything on the leaf's side of the seam."""
        along = self.b - self.a
        long = math.hypot(along.x(), along.y()) or 1.0
        unit = QPointF(along.x() / long, along.y() / long) * 10_000
        away = QPointF(unit.y(), -unit.x()) if self.above else QPointF(-unit.y(), unit.x())
        path = QPainterPath()
        path.addPolygon(QPolygonF([self.a - unit, self.b + unit, self.b + unit + away, self.a - unit + away]))
        path.closeSubpath()
        return path

    def board(self, piece: Piece) -> tuple[QPainterPath, QRectF]:
        """The leaf's wood on its side of the seam, and where the picture of the whole board comes to."""
        x0, y0, x1, y1 = piece.extents
        shape = draw.path_of(piece.outline, self.x, self.y).intersected(self.side())
        return shape, QRectF(self.x(x0), self.y(y1), (x1 - x0) * self.scale, (y1 - y0) * self.scale)


class Book(QAbstractButton):
    """The opened board as a control: arrows slide the tail (10, Shift 100, Ctrl 1), a drag slides it too."""

    def __init__(self, screen: Match) -> None:
        super().__init__(screen)
        self.screen = screen
        self.setObjectName("match.book")
        self.setCursor(Qt.CursorShape.SizeHorCursor)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setToolTip("Drag it along the seam, or arrow keys: 10 mm, Shift 100, Ctrl 1; Alt+M mirrors both halves")
        self._grip: tuple[float, float] | None = None
        self._painted: tuple[object, QPixmap] | None = None

    @property
    def where(self) -> Where:
        """Where the board comes to in it."""
        screen = self.screen
        return Where(screen.shown, screen.axis_now.x(0) - self.x(), self.height() / 2, screen.axis_now.px_per_mm)

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._grip = event.position().x(), self.screen.shown.tail_mm
        self.setFocus()

    @override
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._grip is not None:
            px, tail = self._grip
            self.screen.slide_to(tail + (event.position().x() - px) / self.screen.axis_now.px_per_mm)

    @override
    def mouseReleaseEvent(self, _event: QMouseEvent) -> None:
        self._grip = None

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        by = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if by is not None:
            self.screen.slide_to(self.screen.shown.tail_mm + by * arrow_step_mm(event))
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.screen.lock()
        elif event.key() == Qt.Key.Key_Escape:
            self.clearFocus()
            self.window().setFocus()
        else:
            super().keyPressEvent(event)

    # painting -----------------------------------------------------------------------------------------------------
    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        screen = self.screen
        pair = screen.pair
        if pair is None or not screen.ways:
            return
        where = self.where
        theme = screen.state.theme
        picture = screen.picture(pair.piece, screen.opening.depths_mm[1 if screen.opening.show == "sawn" else 0])
        p.drawPixmap(0, 0, self._opened(where, picture))
        for turned in (where.level, where.mirrored):
            p.save()
            p.setTransform(turned, combine=True)
            half = draw.path_of([(float(x), float(y)) for x, y in screen.shown.ring], where.x, where.y)
            draw.outline(p, half, QColor(255, 255, 255, 235), 5)
            draw.outline(p, half, theme.chalk if screen.moved else QColor(0x13, 0x20, 0x1E), 2.4)
            p.restore()
        p.setPen(QPen(theme.chalk, 2))
        p.drawLine(QPointF(0, where.seam_px), QPointF(self.width(), where.seam_px))
        self._slips(p, where)
        if self.hasFocus():
            draw.focus_ring(p, theme, QRectF(self.rect()))

    def _opened(self, where: Where, picture: QPixmap | None) -> QPixmap:
        """The wood of both leaves with what lies in it, painted once for a seam: a slide moves only the outlines."""
        screen = self.screen
        assert screen.pair is not None
        line = (round(where.a.y() - where.slope * where.a.x(), 2), round(where.slope, 5), where.above)
        known = 0 if picture is None else picture.cacheKey()
        key = (screen.pair, line, self.size(), where.scale, known, screen.lamp_across, screen.veil, screen.state.theme)
        if self._painted is None or self._painted[0] != key:
            pixels = QPixmap(self.size() * self.devicePixelRatioF())
            pixels.setDevicePixelRatio(self.devicePixelRatioF())
            pixels.fill(screen.state.theme.bench)
            p = QPainter(pixels)
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            for turned in (where.level, where.mirrored):
                p.save()
                p.setTransform(turned, combine=True)
                self._leaf(p, where, picture)
                if screen.lamp_across and turned is where.mirrored:
                    p.fillPath(where.board(screen.pair.piece)[0], LAMP)
                p.restore()
            p.end()
            self._painted = (key, pixels)
        return self._painted[1]

    def _leaf(self, p: QPainter, where: Where, picture: QPixmap | None) -> None:
        """One leaf with what lies in it."""
        screen, theme = self.screen, self.screen.state.theme
        pair = screen.pair
        assert pair is not None
        shape, target = where.board(pair.piece)
        draw.wood_texture(p, theme, shape, picture, target, plain_colour(pair.piece.species))
        if screen.view is not None and screen.veil is not None:
            grid = screen.view.grid
            low = QRectF(
                where.x(grid.x0), where.y(grid.y0 + grid.rows * grid.step), grid.columns * grid.step * where.scale,
                grid.rows * grid.step * where.scale,
            )  # fmt: skip
            lay_veil(p, theme, screen.veil, low, shape)
        p.save()
        p.setClipPath(shape, Qt.ClipOperation.IntersectClip)
        for defect in pair.piece.defects:
            draw.trouble(p, theme, defect, where.x, where.y)
        p.restore()
        draw.outline(p, shape, theme.ink, 1.4)

    def _slips(self, p: QPainter, where: Where) -> None:
        """Names of the halves and sides, and the room each way."""
        screen, theme = self.screen, self.screen.state.theme
        pair = screen.pair
        assert pair is not None
        low, high = float(screen.shown.ring[:, 0].min()), float(screen.shown.ring[:, 0].max())
        middle = where.x((low + high) / 2)
        depth = abs(where.y(float(screen.shown.ring[:, 1].mean())) - where.seam_px)
        for up in (True, False):
            y = where.seam_px + (-depth if up else depth)
            arrow = "▲" if up == where.above else "▼"
            draw.label(p, theme, middle - 60, y - 12, f"{pair.part.letter}{arrow}", px=16, weight=600, height=24, centred=True)
            draw.label(p, theme, middle + 50, y - 12, screen.side_of(up=up), figures=False, centred=True, height=24)
        for x, mm, sign in ((where.x(low) - 10, screen.slide.back_mm, -1), (where.x(high) + 10, screen.slide.on_mm, 1)):
            y = where.seam_px + (-1.5 if where.above else 1.5) * depth  # beyond the halves' names
            _triangle(p, theme.chalk, x, y, sign)
            text = format_length(max(0.0, mm), screen.state.shop.kit.length_style)
            wide = draw.text_width(text, 15, 500, figures=True) + 12
            beside = x - wide - 12 if sign < 0 and x - wide - 12 >= 2 else x + 12  # near the end there is no room before it
            draw.label(p, theme, beside, y - 11, text)


def _triangle(p: QPainter, colour: QColor, x: float, y: float, sign: int) -> None:
    """A small arrowhead that points along the board."""
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(colour)
    p.drawPolygon(QPolygonF([QPointF(x + 8 * sign, y), QPointF(x, y - 7), QPointF(x, y + 7)]))
