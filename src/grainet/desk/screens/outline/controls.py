"""What is taken hold of on the outline's screen: a handle on the line, and the card of a source of lines."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPen
from PySide6.QtWidgets import QAbstractButton, QWidget
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import WordButton, arrow_step_mm, wrapped
from grainet.present.outline import Source
from grainet.wood.value import BadEntry, Point

if TYPE_CHECKING:
    from grainet.desk.screens.outline.screen import OutlineScreen

GRIP = 22  # px: how wide a handle is to the mouse
CARD_H, PICTURE_W = 116, 112


class Handle(QAbstractButton):
    """A place on the outline: dragged or moved by arrows the line goes with it; the two pressed last hold a stretch between them."""

    def __init__(self, screen: OutlineScreen, number: int) -> None:
        super().__init__(screen)
        self.screen, self.number, self.at = screen, number, (0.0, 0.0)
        self.setObjectName(f"handle.{number}")
        self.setFixedSize(GRIP, GRIP)
        self.setCursor(Qt.CursorShape.SizeAllCursor)
        self.clicked.connect(lambda: screen.hold(number))
        self._from: tuple[QPointF, Point] | None = None

    def show_place(self, at: Point, words: str) -> None:
        """Stand at a place; ``words`` say it."""
        self.at = at
        self.setAccessibleName(f"Handle {self.number}: {words}")
        self.setToolTip(f"{words}\nDrag it, or move it with the arrows: 10, with Shift 100, with Ctrl 1")
        x, y = self.screen.to_px(at)
        self.move(int(x - GRIP / 2), int(y - GRIP / 2))
        self.update()

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows move it."""
        step = arrow_step_mm(event)
        moves = {Qt.Key.Key_Left: (-step, 0), Qt.Key.Key_Right: (step, 0), Qt.Key.Key_Up: (0, step), Qt.Key.Key_Down: (0, -step)}
        move = moves.get(Qt.Key(event.key()))
        if move is None:
            super().keyPressEvent(event)
            return
        self.screen.hold(self.number)
        self.screen.move_handle(self.number, self.at, float(move[0]), float(move[1]))

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        self._from = (event.globalPosition(), self.at)
        self.screen.begin_drag()
        self.setFocus(Qt.FocusReason.MouseFocusReason)
        event.accept()

    @override
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """The line follows; nothing is kept yet."""
        if self._from is not None:
            away = (event.globalPosition() - self._from[0]) / self.screen.axis_now.px_per_mm
            self.screen.drag(self.number, self._from[1], away.x(), -away.y())

    @override
    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        moved = self._from is not None and (event.globalPosition() - self._from[0]).manhattanLength() > 3
        self._from = None
        self.screen.end_drag()
        if not moved:
            self.click()

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.screen.state.theme
        held = self.number in self.screen.held
        p.setPen(QPen(theme.slip, 1.5))
        p.setBrush(theme.chalk if held else theme.ink)
        middle = QPointF(GRIP / 2, GRIP / 2)
        p.drawEllipse(middle, 6.5 if held else 5.0, 6.5 if held else 5.0)
        if self.hasFocus():
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.setPen(QPen(theme.chalk, 2))
            p.drawEllipse(middle, 9.5, 9.5)


class SourceCard(QWidget):
    """Lines from elsewhere: a picture of their loops, in which the rim is chosen, what was read of them, and what to take."""

    def __init__(self, screen: OutlineScreen, number: int, letter: str, source: Source) -> None:
        super().__init__(screen.scroll.inner)
        self.screen, self.number, self.letter, self.source = screen, number, letter, source
        self.setObjectName(f"source.{letter}")
        self.all_of_it = WordButton(screen.state, "All of it", "", parent=self, name=f"source.{letter}.all")
        self.all_of_it.clicked.connect(lambda: screen.take(number, stretch=False))
        self.stretch = WordButton(screen.state, "The stretch", "", parent=self, name=f"source.{letter}.stretch")
        self.stretch.clicked.connect(lambda: screen.take(number, stretch=True))
        self.setAccessibleName(f"Source {letter}: {source.name}, {source.told}")

    def place(self) -> None:
        """Put the buttons in their place."""
        flow.row([(self.all_of_it, 82), (self.stretch, 104)], PICTURE_W + 18, CARD_H - 50, gap=6)
        self.stretch.setEnabled(len(self.screen.held) == 2)
        self.stretch.setToolTip(
            "Between the two handles that were pressed last" if len(self.screen.held) == 2 else "Press two handles first"
        )

    def _mapping(self) -> tuple[float, float, float]:
        """Px per mm and the px of the drawing's lower left."""
        points = [p for ring, _ in self.source.loops for p in ring]
        xs, ys = zip(*points)
        scale = min((PICTURE_W - 12) / max(1e-6, max(xs) - min(xs)), (CARD_H - 20) / max(1e-6, max(ys) - min(ys)))
        left = 8 + (PICTURE_W - 12 - (max(xs) - min(xs)) * scale) / 2 - min(xs) * scale
        bottom = CARD_H / 2 + (max(ys) + min(ys)) / 2 * scale
        return scale, left, bottom

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        """A loop that is pressed in the picture becomes the rim."""
        scale, left, bottom = self._mapping()
        self.screen.choose_rim(self.number, ((event.position().x() - left) / scale, (bottom - event.position().y()) / scale))

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.screen.state.theme
        p.fillRect(QRectF(0, 0, self.width(), CARD_H - 4), theme.bench)
        scale, left, bottom = self._mapping()
        for k, (ring, _) in enumerate(self.source.loops):
            path = draw.path_of(ring, lambda x: left + x * scale, lambda y: bottom - y * scale)
            draw.outline(p, path, theme.chalk if k == self.source.rim else theme.ink2, 2.2 if k == self.source.rim else 1.2)
        x, room = PICTURE_W + 18.0, self.width() - PICTURE_W - 26.0
        draw.text_at(p, x, 18, f"{self.letter}  {self.source.name}", theme.ink, 14.5, 700, room=room)
        lines = wrapped(self.size_words() + self.source.told, 13, room)[:2]
        for k, line in enumerate(lines):
            draw.text_at(p, x, 36 + 17 * k, line, theme.ink2, 13, room=room)

    def size_words(self) -> str:
        """How long and wide its rim is; why not, where it is no body's."""
        try:
            xs, ys = zip(*self.source.ring)
        except BadEntry as fault:
            return f"{fault} "
        return f"{max(xs) - min(xs):.1f} × {max(ys) - min(ys):.1f}; "
