"""The four openings as opened books, each with its two real faces, the miss that is forecast and one sentence; and the ridge."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPen, QPixmap
from PySide6.QtWidgets import QAbstractButton
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.screens.match.book import LAMP, Where
from grainet.desk.services.pictures import plain_colour
from grainet.desk.widgets.controls import wrapped
from grainet.present.match_view import Opening

if TYPE_CHECKING:
    from grainet.desk.screens.match.screen import Match

BOOK_W = 150
GAP_MM = 7.0  # between places of the tail that lie further apart it cannot stand


class OpeningCard(QAbstractButton):
    """One opening: a press or Alt and its number chooses it, Enter locks it."""

    def __init__(self, screen: Match, number: int) -> None:
        super().__init__(screen)
        self.screen, self.number = screen, number
        self.setObjectName(f"match.opening.{number}")
        self.setCheckable(True)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.clicked.connect(lambda: screen.choose(number))

    @property
    def opening(self) -> Opening | None:
        """What it shows."""
        ways = self.screen.ways
        return ways[self.number - 1] if self.number <= len(ways) else None

    def tell(self) -> None:
        """Bring its words for those who hear them up to date."""
        one = self.opening
        if one is None:
            return
        self.setEnabled(one.laid is not None)
        self.setChecked(self.number == self.screen.chosen)
        word, miss = self.words(one)
        told = f"{one.seam} edge in, {one.show} faces up: {word} {miss}. {one.why_not or one.at_seam}"
        self.setAccessibleName(f"Opening {self.number}, {told}")
        self.setToolTip(f"{self.accessibleName()}. Alt+{self.number} chooses it.")
        self.update()

    def words(self, one: Opening) -> tuple[str, str]:
        """One word and the miss in mm."""
        miss = one.forecast.miss_mm
        if miss is None:
            return "Not known", "?"
        best = min((w.forecast.miss_mm for w in self.screen.ways if w.laid and w.forecast.miss_mm is not None), default=miss)
        word = "Closest" if one.laid is not None and miss <= best + 0.05 else one.forecast.word(self.screen.limit_mm)
        return word, f"{miss:.1f}" if miss < 10 else f"{miss:.0f}"

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.screen.choose(self.number)
            self.screen.lock()
        elif event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self.screen.step(1 if event.key() == Qt.Key.Key_Right else -1)
        else:
            super().keyPressEvent(event)

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, one = self.screen.state.theme, self.opening
        p.setBrush(theme.slip)
        p.setPen(QPen(theme.chalk if self.isChecked() else theme.edge, 3 if self.isChecked() else 1.2))
        p.drawRoundedRect(QRectF(self.rect()).adjusted(1.5, 1.5, -1.5, -1.5), 4, 4)
        if one is None:
            return
        self._number(p)
        x = 42 + draw.text_at(p, 42, 26, f"{one.seam} edge in", theme.ink, 15, 600) + 8
        draw.text_at(p, x, 26, f"{one.show} faces up", theme.ink2, 14, room=self.width() - x - 8)
        if one.laid is not None:
            paint_book(p, self.screen, one, QRectF(10, 38, BOOK_W, self.height() - 48))
        left = 10 + BOOK_W + 14
        word, miss = self.words(one)
        far = one.forecast.miss_mm is None or one.forecast.miss_mm > self.screen.limit_mm
        ink = theme.ochre if far else theme.ink
        if one.laid is not None:
            wide = draw.text_width(miss, 30, 700, figures=True)
            draw.text_at(p, self.width() - 14 - wide, 64, miss, ink, 30, 700, figures=True)
            draw.text_at(p, left, 62, word, ink, 16, 600)
        y = 81
        for row in wrapped(one.why_not or one.at_seam, 13.5, self.width() - left - 12)[: 2 if self._locked(one) else 3]:
            draw.text_at(p, left, y, row, theme.ink2 if one.laid else theme.ochre, 13.5)
            y += 16
        self._measured(p, one, left)
        if self.hasFocus():
            draw.focus_ring(p, theme, QRectF(self.rect()), theme.slip)

    def _number(self, p: QPainter) -> None:
        theme = self.screen.state.theme
        box = QRectF(11, 10, 22, 22)
        on = self.isChecked()
        p.setBrush(theme.chalk if on else theme.slip)
        p.setPen(QPen(theme.chalk if on else theme.ink, 1.4))
        p.drawRoundedRect(box, 3, 3)
        text = str(self.number)
        at = box.center().x() - draw.text_width(text, 15, 600, figures=True) / 2
        draw.text_at(p, at, 26, text, theme.on_chalk if on else theme.ink, 15, 600, figures=True)

    def _locked(self, one: Opening) -> bool:
        kept = self.screen.kept
        return one.laid is not None and kept is not None and (kept.seam, kept.show) == (one.seam, one.show)

    def _measured(self, p: QPainter, one: Opening, left: float) -> None:
        """What was locked, and what was measured once it was sawn."""
        kept = self.screen.kept
        if kept is None or not self._locked(one):
            return
        theme = self.screen.state.theme
        wide = draw.text_width("locked", 14, 600) + 14
        box = QRectF(self.width() - wide - 10, 10, wide, 22)
        p.setBrush(theme.wine)
        p.setPen(Qt.PenStyle.NoPen)
        p.drawRoundedRect(box, 2, 2)
        draw.text_at(p, box.x() + 7, 26, "locked", theme.slip, 14, 600)
        told = "measured ?" if kept.measured_mm is None else f"measured {kept.measured_mm:g}"
        told += f", {100 * kept.photo.alike:.0f} % alike" if kept.photo is not None else ""
        left = min(left, self.width() - 10 - draw.text_width(told, 14) - 14)
        draw.label(p, theme, left, self.height() - 28, told, figures=False, px=14, dashed=kept.measured_mm is None)


def paint_book(p: QPainter, screen: Match, one: Opening, box: QRectF) -> None:
    """Both halves of an opening as they would be glued: the two real faces, so that a miss is seen."""
    pair = screen.pair
    assert pair is not None
    assert one.laid is not None
    ring = one.laid.ring
    x0, x1 = float(ring[:, 0].min()), float(ring[:, 0].max())
    deep = float(one.laid.across(ring).max())
    scale = min(box.width() / (x1 - x0), box.height() / 2 / max(1.0, deep))
    where = Where(one.laid, box.center().x() - (x1 - x0) * scale / 2, box.center().y(), scale, x0)
    as_it_lies, turned = one.depths_mm[::-1] if one.show == "sawn" else one.depths_mm
    half = draw.path_of([(float(x), float(y)) for x, y in ring], where.x, where.y)
    for transform, depth in ((where.level, as_it_lies), (where.mirrored, turned)):
        p.save()
        p.setTransform(transform, combine=True)
        _half(p, screen, where, half, screen.picture(pair.piece, depth))
        if screen.lamp_across and depth == turned:
            p.fillPath(half, LAMP)
        p.restore()
    p.setPen(QPen(screen.state.theme.chalk, 1.6))
    p.drawLine(QPointF(box.x() - 4, where.seam_px), QPointF(box.right() + 4, where.seam_px))


def _half(p: QPainter, screen: Match, where: Where, half: QPainterPath, picture: QPixmap | None) -> None:
    pair = screen.pair
    assert pair is not None
    _, target = where.board(pair.piece)
    draw.wood_texture(p, screen.state.theme, half, picture, target, plain_colour(pair.piece.species))
    draw.outline(p, half, screen.state.theme.ink, 1.6)


class Ridge(QAbstractButton):
    """How well the lines meet wherever the tail may stand: a press puts it there."""

    def __init__(self, screen: Match) -> None:
        super().__init__(screen)
        self.screen = screen
        self.setObjectName("match.ridge")
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)  # the book has the arrows
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.setToolTip("How well the lines meet if the tail stands there; press it to put the tail there")

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.screen.slide_to(self.screen.axis_now.mm(event.position().x() + self.x()))

    @override
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        self.mousePressEvent(event)

    def _height(self, miss: float) -> float:
        """The px of a miss: 0 at the top, twice the limit at the foot."""
        room = self.height() - 12
        return float(6 + room * min(1.0, miss / (2 * self.screen.limit_mm)))

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        screen, theme = self.screen, self.screen.state.theme
        tails, misses = screen.ridge
        known = [(screen.axis_now.x(t) - self.x(), m) for t, m in zip(tails, misses) if m is not None]
        if not known or not screen.ways:
            return
        path = self._hills(known)
        assert screen.pair is not None
        draw.wood_texture(p, theme, path, None, path.boundingRect(), plain_colour(screen.pair.piece.species), "if")
        draw.outline(p, path, theme.ink, 1.6)
        self._limit(p, known[-1][0])
        miss = screen.opening.forecast.miss_mm
        if miss is not None:
            at = QPointF(screen.axis_now.x(screen.shown.tail_mm) - self.x(), self._height(miss))
            p.setPen(QPen(theme.chalk, 2))
            p.drawLine(QPointF(at.x(), 0), at)
            p.setBrush(theme.chalk)
            p.drawEllipse(at, 5, 5)
            draw.label(p, theme, at.x() + 10, max(2.0, at.y() - 11), f"{miss:.1f}", chosen=True)

    def _hills(self, known: list[tuple[float, float]]) -> QPainterPath:
        """One hill for each stretch where the tail may stand."""
        foot, path = self.height() - 6.0, QPainterPath()
        runs: list[list[tuple[float, float]]] = []
        for x, miss in known:
            if not runs or x - runs[-1][-1][0] > GAP_MM * self.screen.axis_now.px_per_mm:
                runs.append([])
            runs[-1].append((x, miss))
        for run in runs:
            path.moveTo(run[0][0], foot)
            for x, miss in run:
                path.lineTo(x, self._height(miss))
            path.lineTo(max(run[-1][0], run[0][0] + 1.5), foot)
            path.closeSubpath()
        return path

    def _limit(self, p: QPainter, right: float) -> None:
        screen, theme = self.screen, self.screen.state.theme
        y = self._height(screen.limit_mm)
        pen = QPen(theme.ochre, 1.6)
        pen.setDashPattern([5, 4])
        p.setPen(pen)
        right = min(right + 14, self.width() - 120.0)
        p.drawLine(QPointF(screen.axis_now.left - self.x(), y), QPointF(right, y))
        wide = draw.text_at(p, right + 6, y + 5, f"{screen.limit_mm:.1f}", theme.ochre, 15, 600, figures=True)
        draw.text_at(p, right + 11 + wide, y + 5, "your limit", theme.ochre, 13.5)
