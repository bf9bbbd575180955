"""One plan of several as a card: the guitar in its woods, its boards, where the wood goes, what it comes to, and what it stands under."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QKeyEvent, QPainter, QPainterPath, QPen, QResizeEvent
from PySide6.QtWidgets import QAbstractButton, QWidget
from typing_extensions import override

from grainet.design.drawing import plan_of
from grainet.desk.painting import draw
from grainet.desk.painting.balance_bar import BarShare, balance_bar
from grainet.desk.painting.instrument import Wood, paint_plan
from grainet.desk.services.pictures import plain_colour
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import WordButton, count_of
from grainet.present import plan_view
from grainet.present.alternatives import Alternative
from grainet.wood.species import short_name

if TYPE_CHECKING:
    from grainet.desk.screens.alternatives.screen import Alternatives

PAD, GUITAR_H, BUTTON_H, FIGURES_H = 14, 104, 40, 74
MOST_BOARDS = 6


class AlternativeCard(QAbstractButton):
    """A card: pressed it is the chosen one; Enter keeps it."""

    def __init__(self, screen: Alternatives, number: int, parent: QWidget) -> None:
        super().__init__(parent)
        self.screen, self.number = screen, number
        self.shown: Alternative | None = None
        self.setObjectName(f"alternative.{number}")
        self.setCheckable(True)
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.clicked.connect(lambda: screen.choose(number))
        self.act = WordButton(screen.state, "", "", chalk=False, parent=self, name=f"alternative.{number}.act")
        self.act.clicked.connect(lambda: screen.act(number))

    def show_plan(self, shown: Alternative, *, chosen: bool) -> None:
        """Show a plan, chosen or not."""
        self.shown = shown
        self.setChecked(chosen)
        told = ", ".join(f"{f.shown} {f.label}" for f in shown.figures)
        self.setAccessibleName(f"Plan {self.number}: {shown.title}. {shown.built}. {told}. {shown.condition}")
        self.setToolTip(self.accessibleName())
        self.act.chalk = chosen
        self.act.say(f"Keep plan {self.number}" if chosen else f"Take plan {self.number} in hand")
        self._place()
        self.update()

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._place()

    def _place(self) -> None:
        flow.fill(self.act, PAD, self.height() - PAD - BUTTON_H, self.width() - PAD, self.height() - PAD)

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self.screen.step(1 if event.key() == Qt.Key.Key_Right else -1)
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.screen.act(self.number)
        else:
            super().keyPressEvent(event)

    # painting -----------------------------------------------------------------------------------------------------
    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, shown = self.screen.state.theme, self.shown
        frame = QRectF(self.rect()).adjusted(1.5, 1.5, -1.5, -1.5)
        p.setBrush(theme.slip)
        p.setPen(QPen(theme.chalk if self.isChecked() else theme.edge, 3 if self.isChecked() else 1.4))
        p.drawRoundedRect(frame, 4, 4)
        if shown is None:
            return
        self._head(p, shown)
        low = self.height() - PAD - BUTTON_H
        bottom = low - FIGURES_H - 118
        top = 58.0
        if bottom - top > GUITAR_H + 50:
            top += self._guitar(p, shown, top)
        self._boards(p, shown, top + 6, bottom - 8)
        self._wood(p, shown, bottom)
        self._figures(p, shown, bottom + 86)
        self._condition(p, shown, low - 26)
        if self.hasFocus():
            draw.focus_ring(p, theme, QRectF(self.rect()))

    def _head(self, p: QPainter, shown: Alternative) -> None:
        theme, on = self.screen.state.theme, self.isChecked()
        box = QRectF(PAD - 2, 12, 28, 28)
        p.setBrush(theme.chalk if on else theme.slip)
        p.setPen(QPen(theme.chalk if on else theme.ink, 1.6))
        p.drawRoundedRect(box, 2, 2)
        number = str(self.number)
        ink = theme.on_chalk if on else theme.ink
        draw.text_at(
            p, box.center().x() - draw.text_width(number, 17, 700, figures=True) / 2, 32, number, ink, 17, 700, figures=True
        )
        boards = f"{count_of(len(shown.boards), 'board')} opened"
        wide = draw.text_width(boards, 14)
        draw.text_at(p, box.right() + 10, 33, shown.title, theme.ink, 19, 700, room=self.width() - box.right() - wide - 40)
        draw.text_at(p, self.width() - PAD - wide, 33, boards, theme.ink2, 14)
        draw.text_at(p, PAD, 56, shown.built, theme.ink2, 13.5, room=self.width() - 2 * PAD)

    def _guitar(self, p: QPainter, shown: Alternative, top: float) -> float:
        """The guitar in the woods that the plan takes; how much room it took."""
        g = self.screen.instrument
        if g is None:
            return 0.0
        plan = plan_of(g)
        rings = (plan.body, plan.head, plan.board, plan.neck)
        xs, ys = [x for ring in rings for x, _ in ring], [y for ring in rings for _, y in ring]
        scale = min((self.width() - 2 * PAD) / (max(xs) - min(xs)), (GUITAR_H - 10) / (max(ys) - min(ys)))
        left, middle = PAD - min(xs) * scale, top + 8 + max(ys) * scale
        woods: dict[str, Wood] = {}
        for one in shown.plan.placements:
            name = one.part.split(".")[1] if "." in one.part else one.part
            woods.setdefault(name, (plain_colour(shown.job.piece(one.piece).species), ""))
        paint_plan(p, self.screen.state.theme, g, lambda x: left + x * scale, lambda y: middle - y * scale, woods)
        return (max(ys) - min(ys)) * scale + 16

    def _boards(self, p: QPainter, shown: Alternative, top: float, bottom: float) -> None:
        """Every board at one scale for all cards, what is taken bright."""
        theme, state, job = self.screen.state.theme, self.screen.state, shown.job
        boards = shown.boards[:MOST_BOARDS]
        pieces = [job.piece(b) for b in boards]
        tall = sum(q.extents[3] - q.extents[1] for q in pieces) or 1.0
        scale = min(self.screen.scale_px_per_mm, max(0.02, (bottom - top - 8 * len(pieces)) / tall))
        y = top
        for piece in pieces:
            x0, y0, x1, y1 = piece.extents

            def to_x(x: float, x0: float = x0) -> float:
                return float(PAD + (x - x0) * scale)

            def to_y(v: float, y: float = y, y1: float = y1) -> float:
                return float(y + (y1 - v) * scale)

            target = QRectF(PAD, y, (x1 - x0) * scale, (y1 - y0) * scale)
            picture = state.pictures.get(piece, "face1")
            whole = draw.path_of(piece.outline, to_x, to_y)
            draw.wood_texture(p, theme, whole, picture, target, plain_colour(piece.species), "out")
            draw.outline(p, whole, theme.edge, 1.2)
            mine = [one for one in shown.plan.placements if one.piece == piece.id]
            for one in mine:
                taken = draw.path_of(one.polygon, to_x, to_y)
                draw.wood_texture(p, theme, taken, picture, target, plain_colour(piece.species))
                draw.outline(p, taken, theme.ink, 1.6)
            letters = " ".join(dict.fromkeys(job.part(one.part).letter for one in mine))
            text = f"{letters}  No. {piece.id}"
            at = target.right() + 8
            room = self.width() - PAD - at
            base = target.center().y() + 5
            if room > draw.text_width(text, 14, 600):
                at += draw.text_at(p, at, base, text, theme.ink, 14, 600) + 8
                name = draw.fitted_name(short_name(piece.species).lower(), self.width() - PAD - at, 13)
                if draw.text_width(name, 13) <= self.width() - PAD - at:
                    draw.text_at(p, at, base, name, theme.ink2, 13)
            else:
                draw.label(
                    p,
                    theme,
                    target.right() - draw.text_width(text, 13, 600) - 22,
                    target.center().y() - 10,
                    text,
                    figures=False,
                    px=13,
                )
            y += target.height() + 8

    def _wood(self, p: QPainter, shown: Alternative, top: float) -> None:
        """Where the wood goes."""
        theme, job = self.screen.state.theme, shown.job
        draw.text_at(p, PAD, top + 14, "Where the wood goes", theme.ink, 14.5, 700)
        parts, whole = shown.litres
        text = f"{parts:.1f} of {whole:.1f} litres"
        wide = draw.text_width(text, 13.5)
        draw.text_at(p, self.width() - PAD - wide, top + 14, text, theme.ink2, 13.5)
        if "litres" in shown.best:
            p.fillRect(QRectF(self.width() - PAD - wide, top + 17, wide, 3), theme.chalk)
        wood = {job.part(o.part).letter: job.piece(o.piece) for o in reversed(shown.plan.placements)}
        rows = [BarShare(name, share, wood.get(name)) for name, share in plan_view.shares(job, shown.plan)]
        mine = [r for r in rows if r.piece is not None]
        if len(mine) > 3 and mine:  # more names than stand side by side
            mine = [BarShare("parts", sum(r.share for r in mine), max(mine, key=lambda r: r.share).piece)]
        told = [
            *mine,
            BarShare("offcuts", sum(r.share for r in rows if r.name == "offcuts")),
            BarShare("dust and scrap", sum(r.share for r in rows if r.piece is None and r.name != "offcuts")),
        ]
        balance_bar(p, theme, self.screen.state.pictures, told, PAD, top + 22, self.width() - 2 * PAD, 0)

    def _figures(self, p: QPainter, shown: Alternative, top: float) -> None:
        """What it comes to; the best of the plans underlined."""
        theme = self.screen.state.theme
        p.setPen(QPen(theme.hair, 1))
        p.drawLine(PAD, int(top), self.width() - PAD, int(top))
        x, base = float(PAD), top + 28
        for one in shown.figures:
            number, label = draw.text_width(one.shown, 20, 700, figures=True), draw.text_width(one.label, 13.5)
            if x > PAD and x + number + 6 + label > self.width() - PAD:
                x, base = float(PAD), base + 34
            draw.text_at(p, x, base, one.shown, theme.ink, 20, 700, figures=True)
            if one.name in shown.best:
                p.fillRect(QRectF(x, base + 4, number, 3), theme.chalk)
            draw.text_at(p, x + number + 6, base, one.label, theme.ink2, 13.5)
            x += number + label + 26

    def _condition(self, p: QPainter, shown: Alternative, top: float) -> None:
        theme = self.screen.state.theme
        shape = QPainterPath()
        shape.addRect(QRectF(PAD, top + (6 if shown.grave else 0), 24, 6 if shown.grave else 12))
        p.fillPath(shape, theme.ochre_wash if shown.grave else theme.shelf)
        draw.outline(p, shape, theme.ochre if shown.grave else theme.ink, 1.3)
        ink = theme.ochre if shown.grave else theme.ink
        draw.text_at(p, PAD + 34, top + 12, shown.condition, ink, 14, 600, room=self.width() - 2 * PAD - 34)
