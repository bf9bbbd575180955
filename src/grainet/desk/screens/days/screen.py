"""Days: what is done today and on the days after for all builds at once, when each instrument is done, and what would change that."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date, datetime, timedelta
from functools import partial
from pathlib import Path

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPen
from PySide6.QtWidgets import QWidget
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.painting.tokens import LEFT, RIGHT
from grainet.desk.screens.glue.time_axis import TimeAxis
from grainet.desk.screens.screen import Page
from grainet.desk.services.dialogs import file_to_write
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import WordButton, count_of
from grainet.exchange.json_file import Unusable, write_bytes, write_text
from grainet.kit.shop_profile import FREE_DAYS
from grainet.session.days import Dated, Days, batch_rows, day_rows, days_of, events_of
from grainet.session.making import said

LIST_W, ROW_H, LINE_H, HEAD_H, FOOT_H = 470, 46, 21, 44, 118
HAND = {"glue": "#b0722f", "cure": "#d9b47a", "rest": "#d9b47a"}
NOTHING = (
    "Lay out a build and keep its plan (F5). Its work then stands here on days: hands, hours and clamps are shared by all builds, what cures and rests goes on by night.",
    "The kit book says who works when, and with which clamps.",
)


class DaysScreen(Page):
    """The screen."""

    prints = True

    def __init__(self, state: State) -> None:
        super().__init__(state)
        self.setObjectName("days")
        self.days: Days | None = None
        self.day: date | None = None  # the day that is listed
        self._asked = -1
        self.print_it = WordButton(state, "The day's work", "Ctrl+P", chalk=True, parent=self, name="days.print")
        self.print_it.clicked.connect(lambda: self.print_map())
        self.batches = WordButton(state, "Batches", "", parent=self, name="days.batches")
        self.batches.clicked.connect(lambda: self.print_batches())
        self.calendar = WordButton(state, "To a calendar", "Ctrl+S", parent=self, name="days.calendar")
        self.calendar.clicked.connect(lambda: self.save_as())
        self.bench_it = WordButton(state, "Bench", "Ctrl+Alt+B", parent=self, name="days.bench")
        self.bench_it.clicked.connect(self.primary_action)
        state.changed.connect(self.refresh)

    # what is shown ------------------------------------------------------------------------------------------------
    @property
    def listed(self) -> list[Dated]:
        """The steps of the day that is listed."""
        return self.days.on(self.day) if self.days is not None and self.day is not None else []

    @property
    def dates(self) -> list[date]:
        """Every day on which something is done."""
        return list(dict.fromkeys(r.starts.date() for r in self.days.rows)) if self.days is not None else []

    def choose(self, day: date) -> None:
        """Another day is listed."""
        self.day = day
        self.refresh()

    def step_lane(self, by: int) -> None:
        """Up and down, left and right: the day before or after."""
        dates = self.dates
        if dates and self.day in dates:
            self.choose(dates[max(0, min(len(dates) - 1, dates.index(self.day) + by))])

    def primary_action(self) -> None:
        """The bench at the first step of the day."""
        if self.listed:
            self.state.bench_wanted.emit(self.listed[0].operation.id)
        else:
            self.state.screen_wanted.emit("lay_out")

    def first_stop(self) -> QWidget | None:
        """The bench."""
        return self.bench_it if self.bench_it.isVisibleTo(self) else super().first_stop()

    # files --------------------------------------------------------------------------------------------------------
    def print_map(self, path: str | None = None) -> None:
        """The work of the listed day on one page."""
        if self.days is None or self.day is None or not self.listed:
            self.state.warn("nothing is to be done on that day")
            return
        from grainet.exchange.bench_sheets import list_pdf

        title = f"{self.day:%A} {self.day.day} {self.day:%B}"
        minutes = sum(r.operation.minutes for r in self.listed)
        words = f"{self.state.shop.kit.name}: {count_of(len(self.listed), 'step')}, {minutes / 60:.1f} h of hand work. Every machine: extraction on, goggles down; a router is fed against its cutter's turn"
        self._write(path, f"work {self.day.isoformat()}.pdf", list_pdf(title, words, day_rows(self.days, self.day)))

    def print_batches(self, path: str | None = None) -> None:
        """What is left by machine and setting, on one page."""
        if self.days is None or not self.days.rows:
            self.state.warn("nothing is left to make")
            return
        from grainet.exchange.bench_sheets import list_pdf

        words = "each machine once at each setting; mates at one setting"
        self._write(path, "batches.pdf", list_pdf("Batches", words, batch_rows(self.days)))

    def save_as(self, path: str | None = None) -> None:
        """The days as a calendar file that a person's own calendar reads."""
        if self.days is None or not self.days.rows:
            self.state.warn("nothing is left to make")
            return
        from grainet.exchange.ics_file import ics_text

        path = path or file_to_write(self, "Days at the bench", "bench.ics", "Calendars (*.ics)")[0]
        if path:
            text = ics_text(events_of(self.days), self.days.now, self.state.shop.kit.name)
            self._keep(path, lambda p: write_text(p, text))

    def _write(self, path: str | None, name: str, data: bytes) -> None:
        path = path or file_to_write(self, "Print to a file", name, "PDF (*.pdf)")[0]
        if path:
            self._keep(path, lambda p: write_bytes(p, data))

    def _keep(self, path: str, write: Callable[[Path], None]) -> None:
        try:
            write(Path(path))
        except Unusable as fault:
            self.state.warn(str(fault))
        else:
            self.state.notify(f"written: {Path(path).name}")

    # placing --------------------------------------------------------------------------------------------------------
    @override
    def heads(self) -> tuple[str, list[tuple[str, str]]] | None:
        """What the head says: who works when."""
        kit = self.state.shop.kit
        if self.days is None:
            return None
        return "Days", [
            (str(kit.hands), "hands" if kit.hands > 1 else "hand"),
            (f"{kit.hours[0]} to {kit.hours[1]}", ""),
            (str(len(self.days.rows)), "steps left"),
        ]

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Left and right: another day."""
        by = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if by is not None and not event.modifiers():
            self.step_lane(by)
        else:
            super().keyPressEvent(event)

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        """A press on a day lists it."""
        axis = self._axis()
        if axis is not None and event.position().x() >= axis.left and event.position().y() < self.height() - FOOT_H:
            for day in self.dates:
                if (
                    axis.x(datetime.combine(day, datetime.min.time()))
                    <= event.position().x()
                    < axis.x(datetime.combine(day + timedelta(days=1), datetime.min.time()))
                ):
                    self.choose(day)

    def refresh(self) -> None:
        """Bring everything up to date and in its place; the calendar is reckoned beside the window."""
        if not self.isVisible():
            return
        if self._asked != self.state.shop.version:
            self._asked = self.state.shop.version
            for quick in (True, False):  # the list at once, then as short as a solver makes it
                work = partial(days_of, self.state.shop, quick=quick)
                self.state.background.start(partial(self.state.shop.steady, work), self._came, 5)
        self._place()

    def _came(self, found: object) -> None:
        if isinstance(found, Days) and (found.what_ifs or self.days is None or not found.rows or self.days.now != found.now):
            self.days = found
            if self.day not in self.dates:
                self.day = next(iter(self.dates), None)
            self._place()

    def _place(self) -> None:
        any_ = self.days is not None and bool(self.days.rows)
        y = self.height() - 54
        for button in (self.print_it, self.batches, self.calendar):
            button.setVisible(any_)
        self.bench_it.setVisible(True)
        self.bench_it.say("Bench" if any_ else "Lay out")
        flow.row([(self.print_it, 200), (self.batches, 100)], LEFT, y)
        flow.row_to_right([(self.bench_it, 160), (self.calendar, 180)], self.width() - RIGHT, y)
        self.update()

    def _axis(self) -> TimeAxis | None:
        if self.days is None or not self.days.rows:
            return None
        begins = datetime.combine(self.days.now.date(), datetime.min.time())
        ends = max(self.days.finish.values()) + timedelta(hours=12)
        return TimeAxis(begins, ends, LEFT + LIST_W + 24, self.width() - RIGHT)

    # painting -----------------------------------------------------------------------------------------------------
    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.state.theme
        p.fillRect(self.rect(), theme.bench)
        if self.days is None or not self.days.rows or self.day is None:
            words = "Nothing is left to make." if self.state.shop.plans.accepted() else "No plan is kept yet."
            draw.empty(p, theme, QRectF(LEFT, 40, self.width() - LEFT - RIGHT, self.height() - 120), words, NOTHING)
            return
        self._list(p)
        self._bars(p)
        self._foot(p)

    def _list(self, p: QPainter) -> None:
        """The steps of the day, one line each; what does not fit is counted."""
        theme, rows = self.state.theme, self.listed
        assert self.day is not None
        today = self.days is not None and self.day == self.days.now.date()
        head = f"{'Today, ' if today else ''}{self.day:%A} {self.day.day} {self.day:%B}"
        draw.text_at(p, LEFT, 30, head, theme.ink, 17, 700, room=LIST_W)
        room = int((self.height() - FOOT_H - HEAD_H - 26) / LINE_H)
        y = HEAD_H + 16.0
        for row in rows[:room]:
            draw.text_at(p, LEFT, y, f"{row.starts:%H:%M}", theme.chalk, 14, 600, figures=True)
            grave = any(c.grade == "A" for c in row.operation.cautions)
            draw.text_at(
                p, LEFT + 52, y, said(row.operation).partition(";")[0], theme.wine if grave else theme.ink, 13.5, room=LIST_W - 56
            )
            y += LINE_H
        if len(rows) > room:
            draw.text_at(p, LEFT, y, f"{len(rows) - room} more: printed with the day's work", theme.ink2, 13)

    def _bars(self, p: QPainter) -> None:
        """Each instrument as a row along days: hand work as strokes, what cures or rests as bars."""
        axis, days, theme = self._axis(), self.days, self.state.theme
        if axis is None or days is None or self.day is None:
            return
        each = (axis.right - axis.left) / max(1.0, (axis.ends - axis.begins).total_seconds() / 86400)
        for x, day in [(axis.left, axis.begins), *axis.days()]:
            if day.date() == self.day:
                p.fillRect(QRectF(x, 8, min(each, axis.right - x), self.height() - FOOT_H - 8), theme.chalk_wash)
            elif day.weekday() in FREE_DAYS[self.state.shop.kit.free_days]:
                p.fillRect(QRectF(x, 8, min(each, axis.right - x), self.height() - FOOT_H - 8), theme.ground)
            words = f"{day:%a} {day.day}"
            if min(each, axis.right - x) > draw.text_width(words, 13.5, 600) + 6:
                draw.text_at(p, x + 4, 28, words, theme.ink, 13.5, 600)
        p.setPen(QPen(theme.edge, 1))
        p.drawLine(QPointF(axis.left, 36), QPointF(axis.right, 36))
        y = HEAD_H + 12.0
        for name, done in days.finish.items():
            draw.text_at(p, axis.left + 6, y + 12, name, theme.ink, 15, 700)
            words = f"done {done:%a} {done.day} {done:%b}, {done:%H:%M}"
            draw.text_at(p, axis.right - draw.text_width(words, 13.5) - 4, y + 12, words, theme.ink2, 13.5)
            for row in days.rows:
                if row.name == name:
                    self._bar(p, axis, row, y + 20)
            y += ROW_H + 12
        p.setPen(QPen(theme.chalk, 2))
        x = axis.x(days.now)
        p.drawLine(QPointF(x, 36), QPointF(x, self.height() - FOOT_H - 6))

    def _bar(self, p: QPainter, axis: TimeAxis, row: Dated, y: float) -> None:
        x0, x1 = axis.x(row.starts), axis.x(row.ends)
        if row.operation.wait_minutes:
            p.fillRect(QRectF(x0, y + 12, max(1.0, axis.x(row.over) - x0), 5), QColor(HAND.get(row.operation.kind, "#d9b47a")))
        p.fillRect(
            QRectF(x0, y, max(1.5, x1 - x0), 10), QColor(HAND["glue"]) if row.operation.kind == "glue" else self.state.theme.ink
        )

    def _foot(self, p: QPainter) -> None:
        """What to start today, and what one change would do."""
        theme, days = self.state.theme, self.days
        assert days is not None
        top = self.height() - FOOT_H
        p.fillRect(QRectF(0, top, self.width(), FOOT_H), theme.ground)
        day = self.day or days.now.date()
        first = days.long_on(day)
        words = ", ".join(
            dict.fromkeys(said(r.operation).partition(":")[0].removeprefix("Let ").partition(" on ")[0] for r in first[:4])
        )
        when = "today" if day == days.now.date() else f"on {day:%A}"
        told = f"Start {when}, so that nothing waits for it later: {words}" if first else f"No long wait begins {when}"
        draw.text_at(p, LEFT, top + 24, told, theme.ink, 14, 600, room=self.width() - LEFT - RIGHT)
        changes = [f"{w.words}: {_sooner(w.days)}" for w in days.what_ifs]
        draw.text_at(p, LEFT, top + 46, "; ".join(changes), theme.ink2, 14, room=self.width() - LEFT - RIGHT)


def _sooner(days: float) -> str:
    """How much sooner in words."""
    if days < 1 / 24:
        return "no sooner"
    return f"{days * 24:.0f} h sooner" if days < 1 else f"{days:.0f} day{'s' if round(days) != 1 else ''} sooner"
