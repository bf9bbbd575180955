"""The instruments of the shop on the wall, over the story and the month in place of the rack: finished ones bright, others half pale; the question
beside them says which of them have a story, are finished, are under way, or lack a paper."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QPainter, QPen, QPixmap, QResizeEvent, QWheelEvent
from PySide6.QtWidgets import QAbstractButton, QWidget
from typing_extensions import override

from grainet.design.drawing import plan_of
from grainet.desk.bands.question import BandQuestion
from grainet.desk.painting import draw
from grainet.desk.painting.instrument import Wood, paint_plan
from grainet.desk.painting.tokens import AXIS_X, LEFT, RACK_H, RIGHT
from grainet.desk.services.pictures import plain_colour
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import wrapped
from grainet.present.wall_view import DRAWN, QUESTIONS, Hung

RAIL_Y, HANGS, WIDE, MORE_W = 6.0, 34.0, 142, 84.0


class WallHook(QAbstractButton):
    """One instrument on its hook: pressed, its story."""

    def __init__(self, band: WallBand) -> None:
        super().__init__(band)
        self.band = band
        self.hung: Hung | None = None
        self.setCheckable(True)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.clicked.connect(lambda: band.chosen.emit(self.hung.design) if self.hung is not None else None)
        self._picture: tuple[object, QPixmap] | None = None

    def show_hung(self, hung: Hung, *, in_hand: bool) -> None:
        """Show an instrument."""
        self.hung = hung
        self.setObjectName(f"wall.{hung.design}")
        self.setChecked(in_hand)
        told = ", ".join(w for w in (hung.name, hung.weight_words, hung.stage) if w)
        self.setAccessibleName(told)
        self.setToolTip(f"{told}. Press to read its story." if hung.stage != DRAWN else f"{told}. No plan of it is kept yet.")
        self.update()

    @override
    def sizeHint(self) -> QSize:
        return QSize(WIDE, RACK_H)

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        hung, theme = self.hung, self.band.state.theme
        if hung is None:
            return
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        p.fillRect(self.rect(), theme.bench if self.isChecked() else theme.shelf)
        if self.isChecked():
            p.fillRect(QRectF(0, 0, self.width(), 4), theme.chalk)
        p.setPen(QPen(theme.edge, 2))
        p.drawLine(QPointF(0, RAIL_Y), QPointF(self.width(), RAIL_Y))
        p.drawPixmap(QPointF(5, RAIL_Y), self._drawn(hung))
        self._words(p, hung, yes=QUESTIONS[self.band.asks](hung))
        if self.hasFocus():
            draw.focus_ring(p, theme, QRectF(self.rect()), theme.shelf)

    def _words(self, p: QPainter, hung: Hung, *, yes: bool) -> None:
        """Its name, its weight, how far it is. A long name stands on two small lines, its first words and its last."""
        theme, x, room = self.band.state.theme, HANGS + 6, self.width() - HANGS - 10
        ink, weight = (theme.ink, 700) if yes else (theme.ink2, 400)
        lines, px = [hung.name], 15.0
        if draw.text_width(hung.name, px, weight) > room:
            lines, px = wrapped(hung.name, 13, room, weight), 13.0
        two = len(lines) > 1
        draw.text_at(p, x, 24 if two else 32, lines[0], ink, px, weight, room=room)
        if two:
            draw.text_at(p, x, 40, lines[-1], ink, px, weight, room=room)
        draw.text_at(p, x, 57 if two else 51, hung.weight_words, ink, 14, 600, figures=True, room=room)
        draw.text_at(
            p, x, 74 if two else 70, hung.stage, theme.ink2 if hung.whole or hung.stage == DRAWN else theme.ochre, 13, room=room
        )

    def _drawn(self, hung: Hung) -> QPixmap:
        """The instrument hanging head up, drawn once for as long as nothing about it changes."""
        theme, ratio = self.band.state.theme, self.devicePixelRatioF()
        high = RACK_H - RAIL_Y - 6
        key = (hung.drawing, tuple(hung.woods.items()), hung.whole, theme, ratio)
        if self._picture is not None and self._picture[0] == key:
            return self._picture[1]
        picture = QPixmap(QSize(round(HANGS * ratio), round(high * ratio)))
        picture.setDevicePixelRatio(ratio)
        picture.fill(Qt.GlobalColor.transparent)
        if hung.drawing is not None:
            pale = "" if hung.whole else "out" if hung.stage == DRAWN else "if"
            woods: dict[str, Wood] = {c: (plain_colour(s), pale) for c, s in hung.woods.items()}
            plan = plan_of(hung.drawing)
            rings = [q for ring in (plan.body, plan.head, plan.board) for q in ring]
            xs, ys = [x for x, _ in rings], [y for _, y in rings]
            px = min((high - 2) / (max(xs) - min(xs)), (HANGS - 2) / (max(ys) - min(ys)))
            p = QPainter(picture)
            p.setRenderHint(QPainter.RenderHint.Antialiasing)
            p.translate(HANGS / 2, 1 + px * max(xs))
            p.rotate(-90)  # the head, which lies to the right, up
            middle = (max(ys) + min(ys)) / 2
            paint_plan(p, theme, hung.drawing, lambda x: x * px, lambda y: (middle - y) * px, woods, as_small=True)
            p.end()
        self._picture = (key, picture)
        return picture


class WallBand(QWidget):
    """The band."""

    chosen = Signal(str)  # the design whose story is asked for

    def __init__(self, state: State) -> None:
        super().__init__()
        self.state = state
        self.setObjectName("wall")
        self.setFixedHeight(RACK_H)
        self.hung: tuple[Hung, ...] = ()
        self.in_hand = ""
        self.first = 0
        self.asks = next(iter(QUESTIONS))
        self.hooks: list[WallHook] = []
        tip = "Press to ask something else: have a story, are finished, are under way, lack a paper"
        self.question = BandQuestion(state, self, lambda: self.asks, self.ask_next, tip=tip)
        flow.row([(self.question, 158)], 12, 31, high=50)

    def show_wall(self, hung: Sequence[Hung], in_hand: str) -> None:
        """Hang up the instruments; the one in hand is always among those that find room."""
        if in_hand != self.in_hand:
            self._bring_into_view(in_hand, hung)
        self.hung, self.in_hand = tuple(hung), in_hand
        self._place()

    def ask_next(self) -> None:
        """Ask the next question."""
        names = list(QUESTIONS)
        self.asks = names[(names.index(self.asks) + 1) % len(names)]
        self._place()

    @property
    def room(self) -> int:
        """How many hang side by side."""
        return max(1, int((self.width() - AXIS_X - RIGHT - MORE_W) // WIDE))

    def _bring_into_view(self, design: str, hung: Sequence[Hung]) -> None:
        at = next((k for k, one in enumerate(hung) if one.design == design), None)
        if at is not None:
            self.first = min(max(self.first, at - self.room + 1), at)

    def _place(self) -> None:
        self.first = max(0, min(self.first, len(self.hung) - self.room))
        shown = self.hung[self.first : self.first + self.room]
        while len(self.hooks) < len(shown):
            self.hooks.append(WallHook(self))
        for k, hook in enumerate(self.hooks):
            hook.setVisible(k < len(shown))
            if k < len(shown):
                hook.show_hung(shown[k], in_hand=shown[k].design == self.in_hand)
        flow.row([(hook, WIDE) for hook in self.hooks], AXIS_X + 2, 0, high=RACK_H, gap=0)
        yes = sum(map(QUESTIONS[self.asks], self.hung))
        self.setAccessibleDescription(f"The wall: {yes} of {len(self.hung)} {self.asks.removesuffix('?')}")
        self.question.setAccessibleName(f"Which of the instruments {self.asks}")
        self.question.update()
        self.update()

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._place()

    @override
    def wheelEvent(self, event: QWheelEvent) -> None:
        self.first += -1 if event.angleDelta().y() > 0 else 1
        self._place()

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.state.theme
        p.fillRect(self.rect(), theme.shelf)
        yes = sum(map(QUESTIONS[self.asks], self.hung))
        x = LEFT + draw.text_at(p, LEFT, 26, "Wall", theme.ink, 20, 700) + 8
        words = f"{yes} of {len(self.hung)}" if self.hung else "empty"
        draw.text_at(p, x, 26, words, theme.ink2, 14, room=AXIS_X - x)
        p.setPen(QPen(theme.edge, 2))
        p.drawLine(QPointF(AXIS_X, RAIL_Y), QPointF(self.width(), RAIL_Y))
        if not self.hung:
            draw.text_at(p, AXIS_X + 16, 44, "Your first instrument will hang here: draw one up (F4).", theme.ink2, 14)
        if more := len(self.hung) - min(len(self.hung), self.room):
            draw.text_at(
                p, self.width() - RIGHT - draw.text_width(f"{more} more", 14, 600), 44, f"{more} more", theme.ink, 14, 600
            )
