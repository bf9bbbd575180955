"""The month (Ctrl+Shift+M): each board that was sawn at the left, strands of its wood to the instruments, the rack, dust and scrap, as wide as their
litres; below it the year. Left and right walk the months."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPainterPath, QPen
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.painting.tokens import LEFT, LIGHT, RIGHT, Theme
from grainet.desk.screens.screen import Page
from grainet.desk.services.dialogs import file_to_write
from grainet.desk.services.paper import page_across
from grainet.desk.services.pictures import plain_colour
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import WordButton, count_of
from grainet.present.month_view import DUST, RACK, SCRAP, MonthView, month_view, months_of
from grainet.present.wall_view import Hung, Wall
from grainet.session.reports import sawn_boards
from grainet.wood.climate import MONTHS
from grainet.wood.species import short_name

FROM_X, TOP, YEAR_H, GAP, WORDS_W = 236.0, 66.0, 96.0, 10.0, 416.0
BOARD_H, TARGET_H = 34.0, 44.0  # the least that a board's and a target's words need
NOTHING = (
    "When the last cut of a board is ticked (F7), its wood stands here: what went into instruments, what lies on the rack again, what became dust.",
)


class MonthScreen(Page):
    """The screen."""

    prints = True

    def __init__(self, state: State) -> None:
        super().__init__(state)
        self.setObjectName("month")
        self.view: MonthView | None = None
        self.month = ""
        self._asked: object = None
        self.months: list[str] = []
        self._wall = Wall()
        self.back = WordButton(state, "Before", "←", parent=self, name="month.before")
        self.back.clicked.connect(lambda: self.walk(1))
        self.on = WordButton(state, "After", "→", parent=self, name="month.after")
        self.on.clicked.connect(lambda: self.walk(-1))
        self.print_it = WordButton(state, "Print", "Ctrl+P", chalk=True, parent=self, name="month.print")
        self.print_it.clicked.connect(lambda: self.print_map())
        self.to_saw = WordButton(state, "To the saw", "F7", chalk=True, parent=self, name="month.toSaw")
        self.to_saw.clicked.connect(lambda: state.screen_wanted.emit("saw_and_wait"))
        state.changed.connect(self.refresh)

    def walk(self, by: int) -> None:
        """Another month in which something was sawn: 1 is the one before."""
        if self.month in self.months:
            self.month = self.months[max(0, min(len(self.months) - 1, self.months.index(self.month) + by))]
            self._asked = None
            self.refresh()
            self.state.top_changed.emit()

    def step_lane(self, by: int) -> None:
        """Up and down: another month."""
        self.walk(by)

    def primary_action(self) -> None:
        """Print it."""
        self.print_map()

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Left and right: the month before, and the one after."""
        by = {Qt.Key.Key_Left: 1, Qt.Key.Key_Right: -1}.get(Qt.Key(event.key()))
        if by is not None and not event.modifiers():
            self.walk(by)
        else:
            super().keyPressEvent(event)

    @override
    def on_the_wall(self) -> tuple[list[Hung], str] | None:
        """The wall; pressed, an instrument tells its story."""
        return self._wall.hung(self.state.shop), ""

    @override
    def heads(self) -> tuple[str, list[tuple[str, str]]] | None:
        """What the head says: the month, its boards, what became of them."""
        view = self.view
        if view is None:
            return None
        made, back = view.share(*view.instruments), view.share(RACK)
        return view.title, [(str(len(view.rows)), "boards"), (f"{view.litres:.1f}", "litres"), (f"{made:.0f} %", "in instruments"), (f"{back:.0f} %", "on the rack")]  # fmt: skip

    def print_map(self, path: str | None = None) -> None:
        """The month as a PDF, A4 across."""
        if self.view is None:
            self.state.warn("no board was sawn up in this shop yet")
            return
        chosen = path or file_to_write(self, "Print the month", f"{self.view.title}.pdf", "PDF (*.pdf)")[0]
        if not chosen:
            return
        view, (wide, high) = self.view, (1280.0, 1280.0 * 210 / 297)
        title = f"The wood of {view.title}"

        def paint(p: QPainter) -> None:
            draw.text_at(p, LEFT, 48, title, LIGHT.ink, 30, 800)
            self._paint(p, LIGHT, view, wide, high)

        if page_across(chosen, title, wide, high, paint):
            self.state.notify(f"written: {Path(chosen).name}")
        else:
            self.state.warn(f"{Path(chosen).name} could not be written")

    # placing --------------------------------------------------------------------------------------------------------
    def refresh(self) -> None:
        """Bring everything up to date and in its place."""
        if not self.isVisible():
            return
        if self._asked != self.state.shop.version:
            self._asked = self.state.shop.version
            rows = sawn_boards(self.state.shop)
            self.months = months_of(rows)
            if self.month not in self.months:
                self.month = self.months[0] if self.months else ""
            self.view = month_view(rows, self.month) if self.month else None
        at = self.months.index(self.month) if self.month in self.months else -1
        for button in (self.back, self.on, self.print_it):
            button.setVisible(self.view is not None)
        self.back.say("Before", enabled=0 <= at < len(self.months) - 1)
        self.on.say("After", enabled=at > 0)
        self.to_saw.setVisible(self.view is None)
        flow.row_to_right([(self.to_saw, 160)], self.width() - RIGHT, 8)
        flow.row_to_right([(self.print_it, 130), (self.on, 110), (self.back, 120)], self.width() - RIGHT, 8)
        self.update()

    # painting -----------------------------------------------------------------------------------------------------
    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        theme = self.state.theme
        p.fillRect(self.rect(), theme.bench)
        if self.view is None:
            draw.empty(p, theme, QRectF(LEFT, 70, self.width() - LEFT - RIGHT, self.height() - 120), "No saw yet.", NOTHING)
            return
        draw.text_at(p, LEFT, 38, "Each strand is as wide as its litres", theme.ink2, 14.5)
        self._paint(p, theme, self.view, self.width(), self.height())

    def _paint(self, p: QPainter, theme: Theme, view: MonthView, wide: float, high: float) -> None:
        """All of it, on a page so large."""
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        to_x = wide - RIGHT - WORDS_W
        room = high - YEAR_H - TOP - 14
        boards, targets = [(r.board, r.litres) for r in view.rows], list(view.targets)
        px = room / max(0.1, view.litres)
        while px > 0.01 and max(_deep(boards, px, BOARD_H), _deep(targets, px, TARGET_H)) > room:
            px *= 0.97
        left, right = _stacked(boards, px, BOARD_H), _stacked(targets, px, TARGET_H)
        leave = {board: TOP + y for board, y in left.items()}
        arrive = {name: TOP + y for name, y in right.items()}
        starts, ends = dict(leave), dict(arrive)
        for strand in view.strands:
            deep = max(0.8, strand.litres * px)
            self._strand(p, theme, strand.species, strand.to, FROM_X, starts[strand.board], to_x, ends[strand.to], deep)
            starts[strand.board] += strand.litres * px
            ends[strand.to] += strand.litres * px
        for row in view.rows:
            y = leave[row.board]
            p.fillRect(QRectF(FROM_X - 3, y, 3, max(1.0, row.litres * px)), theme.ink)
            self._board(p, theme, row.board, row.species, row.litres, y)
        for name, litres in view.targets:
            self._target(p, theme, view, name, litres, to_x + 16, arrive[name], wide)
        self._year(p, theme, view, wide, high)

    @staticmethod
    def _strand(p: QPainter, theme: Theme, species: str, to: str, x0: float, y0: float, x1: float, y1: float, deep: float) -> None:  # fmt: skip
        """A strand of wood: bright into an instrument, pale to the rack, bare strokes as dust and scrap."""
        middle = (x0 + x1) / 2
        path = QPainterPath(QPointF(x0, y0))
        path.cubicTo(QPointF(middle, y0), QPointF(middle, y1), QPointF(x1, y1))
        path.lineTo(QPointF(x1, y1 + deep))
        path.cubicTo(QPointF(middle, y1 + deep), QPointF(middle, y0 + deep), QPointF(x0, y0 + deep))
        path.closeSubpath()
        colour = QColor(plain_colour(species))
        colour.setAlpha({RACK: 110, DUST: 60, SCRAP: 60}.get(to, 255))
        p.setBrush(colour)
        if to in (DUST, SCRAP):
            pen = QPen(theme.ink2, 0.8)
            pen.setDashPattern([1, 4] if to == DUST else [6, 4])
            p.setPen(pen)
        else:
            p.setPen(QPen(theme.ink if to != RACK else theme.edge, 1))
        p.drawPath(path)

    @staticmethod
    def _board(p: QPainter, theme: Theme, number: str, species: str, litres: float, y: float) -> None:
        x = LEFT + draw.text_at(p, LEFT, y + 15, number, theme.ink, 18, 800, figures=True) + 8
        draw.text_at(p, x, y + 14, short_name(species).lower(), theme.ink, 14, room=FROM_X - x - 12)
        draw.text_at(p, LEFT, y + 31, f"{litres:.1f} l", theme.ink2, 14, figures=True)

    @staticmethod
    def _target(p: QPainter, theme: Theme, view: MonthView, name: str, litres: float, x: float, y: float, wide: float) -> None:
        room = wide - RIGHT - x
        if name in view.instruments:
            whole = view.of(name)
            told = [
                f"{litres:.1f} litres",
                f"{whole.price:.0f} of wood" if whole.price else "",
                f"{whole.minutes / 60:.0f} h",
                f"{whole.kg:.2f} kg as cut",
            ]
            draw.text_at(p, x, y + 17, name, theme.ink, 19, 800, room=room)
        elif name == RACK:
            told = [f"{litres:.1f} litres, {view.share(RACK):.0f} %"]
            draw.text_at(p, x, y + 16, name, theme.ink, 16, 700, room=room)
        else:
            kerf, skims = sum(r.kerf for r in view.rows), sum(r.skims for r in view.rows)
            told = [
                f"{litres:.1f} litres, {view.share(name):.0f} %",
                *([f"kerfs {kerf:.1f}, planed off {skims:.1f}"] if name == DUST else ["to the stove"]),
            ]
            draw.text_at(p, x, y + 15, name, theme.ink, 15, 700, room=room)
        draw.text_at(p, x, y + 36, "   ".join(w for w in told if w), theme.ink2, 14.5, figures=True, room=room)

    @staticmethod
    def _year(p: QPainter, theme: Theme, view: MonthView, wide: float, high: float) -> None:
        """The months up to this one, as high as the share that became instruments."""
        top = high - YEAR_H
        p.fillRect(QRectF(0, top, wide, YEAR_H), theme.ground)
        draw.text_at(p, LEFT, top + 24, "The year", theme.ink, 15.5, 700)
        draw.text_at(p, LEFT, top + 44, "share in instruments", theme.ink2, 13)
        each = (wide - 178 - RIGHT - 300) / 13
        for k, (name, share) in enumerate(view.year):
            x, here = 178 + k * each, name == view.month
            tall = 44 * (share or 0.0) / 100
            if share is not None:
                p.fillRect(QRectF(x, top + 70 - tall, each - 8, tall), theme.chalk if here else theme.edge)
                draw.text_at(
                    p,
                    x,
                    top + 66 - tall,
                    f"{share:.0f}",
                    theme.chalk if here else theme.ink,
                    14,
                    700 if here else 500,
                    figures=True,
                )
            draw.text_at(
                p, x, top + 88, MONTHS[int(name[5:]) - 1][:3], theme.ink if here else theme.ink2, 13, 700 if here else 400
            )
        p.setPen(QPen(theme.edge, 1))
        p.drawLine(QPointF(178, top + 70), QPointF(178 + 13 * each, top + 70))
        told = view.beside_last_year or count_of(len(view.rows), "board") + " sawn up"
        draw.text_at(p, wide - RIGHT - 280, top + 44, told, theme.ink2, 14, room=280)


def _stacked(rows: list[tuple[str, float]], px: float, least: float) -> dict[str, float]:
    """Where each of some bars begins, one below another, each with room for its words."""
    found, y = {}, 0.0
    for name, litres in rows:
        found[name] = y
        y += max(least, litres * px) + GAP
    return found


def _deep(rows: list[tuple[str, float]], px: float, least: float) -> float:
    """How deep such a stack is, px."""
    return sum(max(least, litres * px) + GAP for _, litres in rows)
