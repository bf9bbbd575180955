"""What is pressed in Draw up: a figure on its place, the lane of a blank, a way as a chip."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPen, QWheelEvent
from PySide6.QtWidgets import QAbstractButton, QWidget
from typing_extensions import override

from grainet.design.figures import BY_PATH
from grainet.desk.painting import draw
from grainet.desk.painting.tokens import LEFT, RIGHT
from grainet.desk.services.pictures import plain_colour
from grainet.kit.uses import use_of_role
from grainet.present.draw_up import FigureSlip, Lane, WayChoice, short_sum
from grainet.session.stock_answers import StockAnswer
from grainet.wood.units import format_length

if TYPE_CHECKING:
    from grainet.desk.screens.draw_up.screen import DrawUp

SIZE_W = 130  # px: what the size of a lane has
SLIP_H, LANE_H, CHIPS_H = 22, 36, 40
STEPS = {"mm": 1.0, "°": 0.5, "": 1.0}  # what one notch of the wheel changes; with Ctrl a tenth of it


class SlipButton(QAbstractButton):
    """One figure on the drawing: pressed it opens the tape line with its word, the wheel steps it, both shown before they are kept."""

    def __init__(self, screen: DrawUp, slip: FigureSlip) -> None:
        super().__init__(screen)
        self.screen, self.slip = screen, slip
        self.setObjectName(f"figure.{slip.word}")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.clicked.connect(lambda: screen.state.tape_wanted.emit(f"{self.slip.word} "))
        self.say(slip)

    def say(self, slip: FigureSlip) -> None:
        """Show a figure."""
        self.slip = slip
        figure = BY_PATH[slip.path]
        sure = ", only guessed" if slip.guessed else ""
        self.setAccessibleName(f"{figure.label}: {slip.text}{sure}")
        self.setToolTip(f"{figure.label}{sure}{'. ' + figure.help if figure.help else ''}\nPress and type, or turn the wheel")
        self.setFixedSize(int(draw.text_width(slip.text, 14, 500, figures=True)) + 14, SLIP_H)
        self.update()

    def wheelEvent(self, event: QWheelEvent) -> None:
        """One step more or less; with Ctrl a tenth of it."""
        g, figure = self.screen.shown, BY_PATH[self.slip.path]
        value = g.figure(self.slip.path) if g is not None else None
        if value is None or not event.angleDelta().y():
            return
        fine = event.modifiers() & Qt.KeyboardModifier.ControlModifier and figure.unit
        step = STEPS[figure.unit] * (0.1 if fine else 1.0) * (1 if event.angleDelta().y() > 0 else -1)
        values = [max(0.0, round(v + step, 2)) for v in (value if isinstance(value, tuple) else (value,))]
        style = self.screen.state.shop.kit.length_style
        told = [format_length(v, style) if figure.unit == "mm" and style != "mm" else f"{v:g}" for v in values]
        self.screen.state.tape_wanted.emit(f"{figure.word} {' '.join(told)}")
        event.accept()

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.screen.state.theme
        moved = self.slip.path in self.screen.moved_paths
        p.setBrush(theme.chalk if moved else theme.slip)
        pen = QPen(theme.chalk if moved else theme.ochre if self.slip.guessed else theme.ink, 1.5 if self.slip.guessed else 1)
        if self.slip.guessed and not moved:
            pen.setDashPattern([3, 2])
        p.setPen(pen)
        p.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 2, 2)
        ink = theme.on_chalk if moved else theme.ochre if self.slip.guessed else theme.ink
        draw.text_at(p, 7, 16, self.slip.text, ink, 14, 500, figures=True)
        if self.hasFocus():
            draw.focus_ring(p, theme, QRectF(self.rect()), theme.slip)


class PartLane(QAbstractButton):
    """One blank: letter, part, size; under the place that it makes a bar in the wood that the rack gives; the sum that it is."""

    def __init__(self, screen: DrawUp, parent: QWidget) -> None:
        super().__init__(parent)
        self.screen = screen
        self.lane: Lane | None = None
        self.answer: StockAnswer | None = None
        self.setCheckable(True)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.clicked.connect(self._press)

    def _press(self) -> None:
        if self.lane is not None:
            self.screen.choose_lane(self.lane.blank.part)

    def say(self, lane: Lane, answer: StockAnswer | None, *, chosen: bool) -> None:
        """Show a blank and its answer."""
        self.lane, self.answer = lane, answer
        self.setObjectName(f"blank.{lane.blank.part}")
        self.setChecked(chosen)
        told = answer.text if answer is not None else "the rack is being asked"
        count = f", {lane.count} of them" if lane.count > 1 else ""
        self.setAccessibleName(f"{lane.letter}, {lane.label}, {lane.size}{count}: {told}")
        sums = "\n".join(s.text for s in (lane.blank.length, lane.blank.width, lane.blank.footprint or lane.blank.thickness))
        self.setToolTip(f"{lane.label}{count}: {told}\n{sums}")
        self.update()

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        if self.lane is None:
            return
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, lane = self.screen.state.theme, self.lane
        if self.isChecked():
            p.fillRect(self.rect(), theme.chalk_wash)
            p.fillRect(QRectF(0, 0, 6, self.height()), theme.chalk)
        p.setPen(QPen(theme.hair, 1))
        p.drawLine(QPointF(LEFT, self.height() - 0.5), QPointF(self.width() - RIGHT, self.height() - 0.5))
        draw.text_at(p, LEFT, 22, lane.letter, theme.ink, 17, 700)
        count = f"×{lane.count}" if lane.count > 1 else ""
        draw.text_at(p, 44, 16, lane.label[:1].upper() + lane.label[1:], theme.ink, 14.5, 600, room=96 if count else 124)
        if count:
            draw.text_at(p, 168 - draw.text_width(count, 14, 600), 16, count, theme.ink, 14, 600)
        size = lane.size if draw.text_width(lane.size, draw.LEAST_PX, figures=True) <= SIZE_W else lane.size.replace(" × ", "×")
        draw.text_at(p, 44, 31, size, theme.ink2, 13, 400, figures=True, room=SIZE_W)
        self._bar(p, lane)
        if self.hasFocus():
            draw.focus_ring(p, theme, QRectF(self.rect()), theme.chalk_wash if self.isChecked() else theme.bench)

    def _bar(self, p: QPainter, lane: Lane) -> None:
        """The blank at its length beneath the place that it makes, full, low or a bare span."""
        state, theme, axis = self.screen.state, self.screen.state.theme, self.screen.axis_now
        x0, x1 = axis.x(lane.from_mm), max(axis.x(lane.to_mm), axis.x(lane.from_mm) + 40)
        answer, words_x, edge = self.answer, x0 + 8, self.width() - RIGHT
        sum_text = draw.fitted(short_sum(lane.blank.length, state.style), 360, 13)
        left_of_sum = edge - draw.text_width(sum_text, 13) - 16
        if answer is None:
            draw.text_at(p, words_x, 23, "asking the rack", theme.ink2, 14)
        elif answer.word in ("gives", "if"):
            full = answer.word == "gives"
            box = QRectF(x0, 5, x1 - x0, 26) if full else QRectF(x0, 24, x1 - x0, 8)
            piece = state.shop.piece(answer.piece) if state.shop.has_piece(answer.piece) else None
            shape = QPainterPath()
            shape.addRect(box)
            if piece is not None:
                draw.wood_texture(p, theme, shape, state.pictures.get(piece, "face1"), box, plain_colour(piece.species))
            draw.outline(p, shape, theme.ink if full else theme.ochre, 1.5)
            if full:
                draw.label(
                    p,
                    theme,
                    words_x,
                    8,
                    draw.fitted(answer.text, left_of_sum - words_x - 14, 14),
                    px=14,
                    height=20,
                    figures=False,
                )
            else:
                draw.text_at(p, x0, 19, answer.text, theme.ochre, 14, 600, room=left_of_sum - x0)
        else:
            p.setPen(QPen(theme.edge, 1.4))
            p.drawLine(QPointF(x0, 27), QPointF(x1, 27))
            for post in (x0, x1):
                p.drawLine(QPointF(post, 22), QPointF(post, 32))
            text = answer.text if answer.word == "wont" else f"buy: {lane.size} or larger"
            draw.text_at(p, x0, 18, text, theme.wine, 14, 600, room=left_of_sum - x0)
        if left_of_sum > x1 or answer is None or answer.word != "gives":
            draw.text_at(p, edge - draw.text_width(sum_text, 13), 22, sum_text, theme.ink2, 13)

    @property
    def use(self) -> str | None:
        """The use of the house that its wood goes by."""
        return use_of_role(self.lane.part.role) if self.lane is not None else None


class WayChip(QAbstractButton):
    """One way to make the chosen part: pressed, its words stand in the tape line and the drawing shows it; Enter keeps it."""

    def __init__(self, screen: DrawUp, choice: WayChoice) -> None:
        super().__init__(screen)
        self.screen, self.choice = screen, choice
        self.setCheckable(True)
        self.setChecked(choice.chosen)
        self.setObjectName(f"way.{choice.component}.{choice.way.name.replace(' ', '_')}")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.answer: StockAnswer | None = None
        self.tell()
        wide = max(draw.text_width(choice.way.label, 14, 600), draw.text_width(choice.cost, 13))
        self.setFixedSize(int(wide) + 46, CHIPS_H - 4)
        self.clicked.connect(self._press)

    def tell(self) -> None:
        """Its name and tip, with what the rack gives for it."""
        choice, answer = self.choice, self.answer
        rack = f": {answer.text}" if answer is not None else ""
        self.setAccessibleName(f"{choice.component}: {choice.way.label}, {choice.cost}" + (", chosen" if choice.chosen else rack))
        self.setToolTip(f"{choice.way.label}: {choice.way.why}{rack}")
        self.update()

    def _press(self) -> None:
        self.setChecked(self.choice.chosen)
        self.screen.state.tape_wanted.emit(self.choice.words)

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, on = self.screen.state.theme, self.choice.chosen
        p.setBrush(theme.chalk_wash if on else theme.slip)
        p.setPen(QPen(theme.chalk if on else theme.edge, 1.5))
        p.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 4, 4)
        self._mark(p)
        draw.text_at(p, 35, 16, self.choice.way.label, theme.ink, 14, 600)
        draw.text_at(p, 35, 30, self.choice.cost, theme.ink2, 13)
        if self.hasFocus():
            draw.focus_ring(p, theme, QRectF(self.rect()), theme.chalk_wash if on else theme.slip)

    def _mark(self, p: QPainter) -> None:
        """Whether the rack gives it: a full block, a low one in ochre, a bare span; nothing while it is asked."""
        theme, state = self.screen.state.theme, self.screen.state
        if self.answer is None:
            return
        word = self.answer.word
        if word in ("gives", "if"):
            piece = state.shop.piece(self.answer.piece) if state.shop.has_piece(self.answer.piece) else None
            box = QRectF(9, 9, 18, 16) if word == "gives" else QRectF(9, 19, 18, 6)
            p.fillRect(box, plain_colour(piece.species) if piece is not None else theme.ground)
            p.setPen(QPen(theme.ink if word == "gives" else theme.ochre, 1.5))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRect(box)
        else:
            p.setPen(QPen(theme.edge, 1.4))
            p.drawLine(QPointF(9, 18), QPointF(27, 18))
            for x in (9, 27):
                p.drawLine(QPointF(x, 13), QPointF(x, 23))
