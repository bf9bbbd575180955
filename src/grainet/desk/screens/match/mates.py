"""Boards that are no mates: every two that hold a half meet once, and the chosen two are opened at true scale with each property beside."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QKeyEvent, QPainter, QPainterPath, QPen, QPixmap
from PySide6.QtWidgets import QAbstractButton, QWidget
from typing_extensions import override

from grainet.design.shape import extents
from grainet.desk.painting import draw
from grainet.desk.painting.tokens import LEFT, RIGHT
from grainet.desk.screens.match.book import Where
from grainet.desk.services.pictures import plain_colour
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import wrapped
from grainet.match.pairing import UNITS, Beside, Gap, Pairable
from grainet.wood.species import short_name

if TYPE_CHECKING:
    from grainet.desk.screens.match.screen import Match
    from grainet.present.match_view import Laid
    from grainet.session.mates import Halves

LEFT_SHARE, HEAD_H, BOARD_H, ROW_H, SEAM_W = 0.58, 66, 78, 30, 104
HEIGHTS = {"within": 46.0, "if": 22.0, "apart": 3.0}


class Crossing(QAbstractButton):
    """Two boards where their lines cross, opened: as high as they go together."""

    def __init__(self, page: MatesPage, pair: Beside) -> None:
        super().__init__(page)
        self.page, self.pair = page, pair
        self.setObjectName(f"mates.{pair.one}.{pair.other}")
        self.setCheckable(True)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        words = {"within": "within every limit", "if": pair.why, "apart": f"too far apart: {pair.why}"}[pair.grade]
        self.setAccessibleName(f"No. {pair.one} beside No. {pair.other}: {pair.score:g}, {words}")
        self.setToolTip(self.accessibleName())
        self.clicked.connect(lambda: page.choose(pair))

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        moves = {Qt.Key.Key_Left: (-1, 0), Qt.Key.Key_Right: (1, 0), Qt.Key.Key_Up: (0, 1), Qt.Key.Key_Down: (0, -1)}
        if (by := moves.get(Qt.Key(event.key()))) is not None:
            self.page.walk(*by)
        else:
            super().keyPressEvent(event)

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, on = self.page.screen.state.theme, self.isChecked()
        high = HEIGHTS[self.pair.grade]
        box = QRectF(2, self.height() / 2 - high / 2, self.width() - 4, high)
        rim = theme.chalk if on else {"within": theme.ink, "if": theme.ochre, "apart": theme.edge}[self.pair.grade]
        for name, half in ((self.pair.one, QRectF(box.x(), box.y(), box.width(), high / 2)), (self.pair.other, QRectF(box.x(), box.center().y(), box.width(), high / 2))):  # fmt: skip
            path = QPainterPath()
            path.addRect(half)
            self.page.paint_wood(p, name, path, half)
        p.setPen(QPen(rim, 3 if on else 1.6))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawRect(box)
        draw.label(p, theme, box.center().x(), box.center().y() - 11, f"{self.pair.score:.1f}", centred=True, ochre=self.pair.grade == "if", chosen=on)  # fmt: skip
        if self.hasFocus():
            draw.focus_ring(p, theme, QRectF(self.rect()))


class MatesPage(QWidget):
    """The page: crossings at the left, the chosen two at the right."""

    def __init__(self, screen: Match) -> None:
        super().__init__(screen)
        self.screen = screen
        self.setObjectName("match.mates")
        self.halves: Halves | None = None
        self.chosen: Beside | None = None
        self.opened: tuple[Laid, Laid] | None = None  # how the chosen two lie, the upper half first
        self.crossings: list[Crossing] = []

    def show_halves(self, halves: Halves) -> None:
        """Show which boards there are."""
        for old in self.crossings:
            old.deleteLater()
        self.halves, self.chosen, self.opened = halves, None, None
        self.crossings = [Crossing(self, pair) for pair in halves.pairs]
        for crossing in self.crossings:
            crossing.show()
        self.place()
        if halves.best is not None:
            self.choose(halves.best)

    def choose(self, pair: Beside) -> None:
        """Open two boards."""
        self.chosen, self.opened = pair, None
        for one in self.crossings:
            one.setChecked(one.pair is pair)
        self.screen.open_mates(pair)
        self.update()

    def walk(self, across: int, up: int) -> None:
        """To the crossing beside, above or below."""
        if self.halves is None or self.chosen is None:
            return
        names = [b.name for b in self.halves.boards]
        i, j = sorted((names.index(self.chosen.one), names.index(self.chosen.other)))
        i, j = (i + across, j + across) if across else (i, j + up)
        found = next(
            (c for c in self.crossings if 0 <= i < j < len(names) and {c.pair.one, c.pair.other} == {names[i], names[j]}), None
        )
        if found is not None:
            self.choose(found.pair)
            found.setFocus()

    def named(self, one: str, other: str) -> Beside | None:
        """The pair of two boards by their numbers."""
        return next((c.pair for c in self.crossings if {c.pair.one, c.pair.other} == {one, other}), None)

    # layout -------------------------------------------------------------------------------------------------------
    @property
    def split(self) -> int:
        """Where the right side begins, px."""
        return round(self.width() * LEFT_SHARE)

    def _board_x(self, k: int) -> float:
        """The middle of a board along the bottom."""
        count = len(self.halves.boards) if self.halves is not None else 1
        each = (self.split - LEFT - 16) / max(1, count)
        return LEFT + each * (k + 0.5)

    def _level_y(self, level: int) -> float:
        """The middle of the crossings of boards so many apart."""
        count = len(self.halves.boards) if self.halves is not None else 2
        bottom = self.height() - BOARD_H - 34
        each = min(88.0, (bottom - HEAD_H - 20) / max(1, count - 1))
        return bottom - each * (level - 0.5)

    def place(self) -> None:
        """Put every crossing where its two boards' lines meet."""
        if self.halves is None:
            return
        names = [b.name for b in self.halves.boards]
        count = max(2, len(names))
        wide = min(SEAM_W, (self.split - LEFT - 16) / count - 8)
        high = min(52.0, abs(self._level_y(1) - self._level_y(2)) - 4) if count > 2 else 52.0
        for one in self.crossings:
            i, j = sorted((names.index(one.pair.one), names.index(one.pair.other)))
            x, y = (self._board_x(i) + self._board_x(j)) / 2, self._level_y(j - i)
            flow.fill(one, x - wide / 2, y - high / 2, x + wide / 2, y + high / 2)

    # painting -----------------------------------------------------------------------------------------------------
    def paint_wood(self, p: QPainter, number: str, path: QPainterPath, target: QRectF) -> None:
        """Some of a board's face in a shape, at the scale of the crossings."""
        state = self.screen.state
        if not state.shop.has_piece(number):
            return
        piece = state.shop.piece(number)
        picture: QPixmap | None = state.pictures.get(piece, "face1")
        if picture is not None:
            x0, _, x1, _ = piece.extents
            scale = picture.width() / max(1.0, x1 - x0)
            wide, high = target.width() * 2.2 * scale, target.height() * 2.2 * scale
            part = QRectF((picture.width() - wide) / 2, (picture.height() - high) / 2, wide, high).toRect()
            picture = picture.copy(part.intersected(picture.rect()))
        draw.wood_texture(p, state.theme, path, picture, target, plain_colour(piece.species))

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, halves = self.screen.state.theme, self.halves
        p.fillRect(self.rect(), theme.bench)
        p.fillRect(QRectF(0, 0, self.split, self.height()), theme.ground)
        if halves is None:
            draw.text_at(p, LEFT, 30, "Looking which boards hold a half each ...", theme.ink2, 16)
            return
        self._head(p, halves)
        self._lines(p, halves)
        for k, board in enumerate(halves.boards):
            self._board(p, k, board, len(halves.boards))
        if self.chosen is not None:
            self._opened(p, self.chosen)
            self._gaps(p, halves, self.chosen)

    def _head(self, p: QPainter, halves: Halves) -> None:
        theme, count = self.screen.state.theme, len(halves.boards)
        name = f"{halves.part.letter} {halves.part.shown_name}"
        if count < 2:
            x0, y0, x1, y1 = extents(halves.part.ring)
            told = self.screen.state.told
            need = f"at least {told(y1 - y0)} × {told(x1 - x0)} × {told(halves.part.thickness_mm)} and what the saw and the planer take"
            said = f"No. {halves.boards[0].name} alone holds a half" if count else "No board of the rack holds a half"
            draw.text_at(p, LEFT, 30, f"{name}: {said}", theme.ink, 18, 700, room=self.split - 2 * LEFT)
            draw.text_at(p, LEFT, 56, f"Buy: {need}", theme.ink2, 15, room=self.split - 2 * LEFT)
            return
        draw.text_at(p, LEFT, 28, f"{name}: {len(halves.pairs)} pair{'s' if len(halves.pairs) > 1 else ''}, each as it would meet", theme.ink, 18, 700)  # fmt: skip
        more = f"  {halves.more} more boards hold one; the nearest {count} are shown." if halves.more else ""
        words = f"0 as good as mates, 1 at your limits. Quiet wood goes first: loud lines show where they miss.{more}"
        draw.text_at(p, LEFT, 50, words, theme.ink2, 14, room=self.split - 2 * LEFT)
        y = HEAD_H + 22
        for grade, told in (("within", "within every limit"), ("if", "if what is written suits"), ("apart", "too far apart")):
            high = HEIGHTS[grade] / 2 + 2
            p.setPen(QPen({"within": theme.ink, "if": theme.ochre, "apart": theme.edge}[grade], 1.6))
            p.setBrush(theme.slip)
            p.drawRect(QRectF(LEFT, y - high / 2, 44, high))
            draw.text_at(p, LEFT + 54, y + 5, told, theme.ochre if grade == "if" else theme.ink2, 14)
            y += 34

    def _lines(self, p: QPainter, halves: Halves) -> None:
        """From each board up to where it meets the others."""
        theme, names = self.screen.state.theme, [b.name for b in halves.boards]
        for one in self.crossings:
            i, j = sorted((names.index(one.pair.one), names.index(one.pair.other)))
            top = QPointF((self._board_x(i) + self._board_x(j)) / 2, self._level_y(j - i))
            for a, b in ((i, j - 1), (i + 1, j)):
                low = QPointF(
                    (self._board_x(a) + self._board_x(b)) / 2, self._level_y(b - a) if b > a else self.height() - BOARD_H - 30
                )
                chosen = one.pair is self.chosen and j - i == 1
                p.setPen(QPen(theme.chalk if chosen else theme.hair, 2.4 if chosen else 1.2))
                p.drawLine(top, low)

    def _board(self, p: QPainter, k: int, board: Pairable, count: int) -> None:
        theme, x = self.screen.state.theme, self._board_x(k)
        wide = min(110.0, (self.split - LEFT - 16) / count - 10)
        box = QRectF(x - wide / 2, self.height() - BOARD_H - 30, wide, 36)
        path = QPainterPath()
        path.addRect(box)
        self.paint_wood(p, board.name, path, box)
        chosen = self.chosen is not None and board.name in (self.chosen.one, self.chosen.other)
        draw.outline(p, path, theme.chalk if chosen else theme.ink, 3 if chosen else 1.4)
        draw.label(p, theme, box.x() + 5, box.y() + 7, board.name, weight=600)
        loud = 10 * board.loudness > self.screen.state.shop.kit.pair_limits.loudness
        y = box.bottom() + 19
        rows = wrapped(short_name(board.species).lower(), 14, wide + 8, 600)[:2]
        for row in rows:
            draw.text_at(p, box.x(), y, row, theme.ink, 14, 600)
            y += 17
        told = f"loud {10 * board.loudness:.1f}" if loud else f"quiet {10 * board.loudness:.1f}"
        draw.text_at(p, box.x(), y, told, theme.ochre if loud else theme.ink2, 13.5)

    def _opened(self, p: QPainter, pair: Beside) -> None:
        """The two halves at true proportion, each from its own board."""
        theme, state = self.screen.state.theme, self.screen.state
        left, right = self.split + 20, self.width() - RIGHT
        draw.text_at(p, left, 28, f"{pair.one} and {pair.other} opened", theme.ink, 18, 700)
        box = QRectF(left, 84, right - left, self.height() - 84 - 5 * ROW_H - 34)
        p.fillRect(box, theme.ground)
        if self.opened is None:
            draw.text_at(p, box.x() + 12, box.center().y(), "laid on both boards ...", theme.ink2, 15)
            return
        upper, lower = self.opened
        places = " and ".join(f"{n} from {one.ring[:, 0].min():.0f}" for n, one in zip((pair.one, pair.other), self.opened))
        draw.text_at(p, left, 66, places, theme.ink2, 14, room=right - left - 240)
        deep = max(float(one.across(one.ring).max()) for one in self.opened)
        long = max(float(one.ring[:, 0].max() - one.ring[:, 0].min()) for one in self.opened)
        scale = min((box.width() - 24) / long, (box.height() - 16) / 2 / deep)
        for number, one, arrow in ((pair.one, upper, "▲"), (pair.other, lower, "▼")):
            start = float(one.ring[:, 0].min())
            where = Where(one, box.center().x() - long * scale / 2, box.center().y(), scale, start)
            piece = state.shop.piece(number)
            half = draw.path_of([(float(x), float(y)) for x, y in one.ring], where.x, where.y)
            p.save()
            p.setTransform(where.level if (arrow == "▲") == where.above else where.mirrored, combine=True)
            draw.wood_texture(
                p, theme, half, state.pictures.get(piece, "face1"), where.board(piece)[1], plain_colour(piece.species)
            )
            draw.outline(p, half, theme.ink, 2.2)
            p.restore()
            y = box.center().y() + (-0.5 if arrow == "▲" else 0.5) * deep * scale
            draw.label(p, theme, box.center().x(), y - 12, f"{self.halves.part.letter if self.halves else ''}{arrow} {number}", px=16, weight=600, height=24, centred=True)  # fmt: skip
        p.setPen(QPen(theme.chalk, 2))
        p.drawLine(QPointF(box.x(), box.center().y()), QPointF(box.right(), box.center().y()))

    def _gaps(self, p: QPainter, halves: Halves, pair: Beside) -> None:
        """A short scale for each property: both boards as triangles, the gap that may be as a wash, the others as ticks."""
        theme = self.screen.state.theme
        left, right = self.split + 20, self.width() - RIGHT
        y = self.height() - 5 * ROW_H - 8
        for gap in pair.gaps:
            draw.text_at(p, left, y + 5, gap.name, theme.ink, 14.5)
            told = (
                "not read"
                if gap.apart is None
                else f"{gap.apart:.3g}{UNITS[gap.name]} {'at most' if gap.name == 'loudness' else 'apart'}"
            )
            over = gap.share is not None and gap.share > 1
            words = f"under {gap.limit:g}"
            draw.text_at(p, right - draw.text_width(words, 14), y + 5, words, theme.ink2, 14)
            draw.text_at(p, right - 190, y + 5, told, theme.ochre if over or gap.apart is None else theme.ink, 14.5, 600)
            self._scale(p, gap, halves, QRectF(left + 80, y - 10, right - 210 - left - 80, 22))
            y += ROW_H

    def _scale(self, p: QPainter, gap: Gap, halves: Halves, box: QRectF) -> None:
        theme = self.screen.state.theme
        every = [v for b in halves.boards if (v := figure_of(b, gap.name)) is not None]
        if gap.one is None or gap.other is None or not every:
            return
        low, high = min(every), max(every)
        spare = max(gap.limit, 0.12 * (high - low))
        low, high = low - spare, high + spare

        def x(value: float) -> float:
            return float(box.x() + (value - low) / (high - low) * box.width())

        middle = (gap.one + gap.other) / 2
        p.fillRect(
            QRectF(x(middle - gap.limit / 2), box.y() + 4, x(middle + gap.limit / 2) - x(middle - gap.limit / 2), 14),
            theme.chalk_wash,
        )
        p.setPen(QPen(theme.edge, 1.2))
        p.drawLine(QPointF(box.x(), box.center().y()), QPointF(box.right(), box.center().y()))
        for value in every:
            p.drawLine(QPointF(x(value), box.center().y() - 5), QPointF(x(value), box.center().y() + 5))
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.chalk)
        for value, up in ((gap.one, True), (gap.other, False)):
            tip, back = box.center().y() + (-1 if up else 1), box.center().y() + (-11 if up else 11)
            p.drawPolygon([QPointF(x(value), tip), QPointF(x(value) - 6, back), QPointF(x(value) + 6, back)])


def figure_of(board: Pairable, name: str) -> float | None:
    """One property of a board, as the gaps have it."""
    if name == "colour":
        return board.lab[0] if board.lab else None
    if name == "loudness":
        return 10 * board.loudness
    return {"rings": board.ring_angle_deg, "density": board.density_kg_m3, "slope": board.slope_deg}[name]
