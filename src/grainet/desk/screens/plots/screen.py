"""Plots (Ctrl+Shift+P): one figure at a time, of the piece in hand or of the whole rack, large enough to read from the bench.

Beside the settling forecast stand the three questions that a builder asks it: another thickness, another way of stacking, other air.
"""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from PySide6.QtGui import QPainter, QResizeEvent, QShowEvent
from PySide6.QtWidgets import QComboBox, QLineEdit, QMenu
from typing_extensions import override

from grainet.chart.figure import Chart, empty
from grainet.desk.painting import draw
from grainet.desk.painting.chart_view import ChartView, write_any
from grainet.desk.painting.tokens import LEFT, RIGHT, font
from grainet.desk.screens.screen import Screen
from grainet.desk.services.background import Failed
from grainet.desk.services.dialogs import file_to_read, file_to_write
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import WordButton
from grainet.exchange.json_file import Unusable
from grainet.session.charts import chart_of
from grainet.wood.settling import STACKING_WORDS, Stacking
from grainet.wood.units import entry_unit, format_length, parse_length
from grainet.wood.value import BadEntry
from grainet.work.sawn_board import GROUPS

SIDE_W, FOOT_H = 196, 64
KINDS: tuple[tuple[str, str, bool], ...] = (  # name, words, whether it is of the piece in hand
    ("moisture", "Settling", True), ("weight", "Weighings", True), ("rest", "Straightness", True), ("movement", "A year's movement", True),
    ("air", "The shop's air", False), ("density", "Density", False), ("overview", "The rack", False), ("taps", "Knocks", False), ("yield", "What became of it", False),
)  # fmt: skip
NEXT_WORD = {
    "moisture": ("mc ", "Read moisture"),
    "weight": ("weigh ", "Weigh it"),
    "rest": ("rest ", "Log its bow"),
    "movement": ("ring ", "Read rings"),
}
FORMS = "PDF page (*.pdf);;SVG drawing (*.svg);;PNG picture (*.png);;CSV table (*.csv)"
STACKINGS: tuple[Stacking, ...] = ("", "sticks", "still", "bench", "sealed")


class Plots(Screen):
    """The screen."""

    prints = True

    def __init__(self, state: State) -> None:
        super().__init__(state)
        self.setObjectName("plots")
        self.kind = "moisture"
        self._key: tuple[object, ...] | None = None
        self._asked: tuple[object, ...] | None = None
        self.view = ChartView(lambda: state.theme, self)
        self.tabs: dict[str, WordButton] = {}
        for name, words, _ in KINDS:
            tab = WordButton(state, words, "", chalk=False, parent=self, name=f"plots.{name}")
            tab.setCheckable(True)
            tab.clicked.connect(lambda _=False, n=name: self.show_kind(n))
            self.tabs[name] = tab
        self.thick = self._field("plots.thickness", "Thickness to forecast; empty: as it is")
        self.air = self._field("plots.air", "The air's equilibrium in %; empty: the kit book's")
        self.stack = QComboBox(self)
        self.stack.setObjectName("plots.stacking")
        self.stack.setAccessibleName("How it rests")
        self.stack.setFont(font(15, 500))
        self.stack.addItems(["as it lies", *(STACKING_WORDS[s] for s in STACKINGS[1:])])
        self.stack.currentIndexChanged.connect(lambda _: self._again())
        self.by = QComboBox(self)
        self.by.setObjectName("plots.by")
        self.by.setAccessibleName("Boards together by")
        self.by.setFont(font(15, 500))
        self.by.addItems([f"by {name}" for name in GROUPS])
        self.by.currentIndexChanged.connect(lambda _: self._again())
        self.act = WordButton(state, "Weigh it", "", chalk=True, parent=self, name="plots.act")
        self.act.clicked.connect(self.primary_action)
        self.save = WordButton(state, "Save as ...", "Ctrl+S", chalk=False, parent=self, name="plots.save")
        self.save.clicked.connect(lambda: self.save_as())
        self.print = WordButton(state, "Print all", "Ctrl+P", chalk=False, parent=self, name="plots.print")
        self.print.clicked.connect(lambda: self.print_map())
        state.changed.connect(self.refresh)

    def _field(self, name: str, words: str) -> QLineEdit:
        field = QLineEdit(self)
        field.setObjectName(name)
        field.setAccessibleName(words)
        field.setToolTip(f"{words}; Enter draws it")
        field.setFont(font(16, 600, figures=True))
        field.editingFinished.connect(self._again)
        return field

    def show_kind(self, name: str) -> None:
        """Show one of the plots."""
        if name != self.kind:
            self.thick.clear()  # a thickness in one plot, a width in another
        self.kind = name
        self.thick.setPlaceholderText(self._as_it_is())
        self._again()

    def step_lane(self, by: int) -> None:
        """Up and down: the next one in the column."""
        names = [k[0] for k in KINDS]
        self.show_kind(names[max(0, min(len(names) - 1, names.index(self.kind) + by))])

    def _again(self) -> None:
        self._key = None
        self.refresh()

    @property
    def of_piece(self) -> bool:
        """Whether the plot is of the piece in hand."""
        return next(own for name, _, own in KINDS if name == self.kind)

    # drawing ------------------------------------------------------------------------------------------------------
    def refresh(self) -> None:
        """Bring everything up to date and in its place."""
        if not self.isVisible():
            return
        self._place()
        key = (
            self.kind,
            self.state.shop.version,
            self.state.piece_id if self.of_piece or self.kind == "taps" else self.state.use,
            self.state.today,
            self.by.currentIndex() if self.kind == "yield" else None,
            *self._what_if(),
        )
        if key == self._key or key == self._asked:
            return
        self._asked = key
        make, shop = self._maker(), self.state.shop
        self.state.background.start(lambda: shop.steady(make), lambda chart: self._made(key, chart), 5)

    def _made(self, key: tuple[object, ...], chart: object) -> None:
        if key != self._asked:
            return
        self._key, self._asked = key, None
        if isinstance(chart, Failed):
            self.view.show_chart(empty("failed", "This plot could not be drawn", chart.text))
            self.update()
        elif isinstance(chart, Chart):
            self.view.show_chart(chart)
            self.update()

    def _what_if(self) -> tuple[float | None, Stacking | None, float | None]:
        """Thickness, stacking and air as asked; a sentence says what cannot be used, and it counts as not asked."""
        kit = self.state.shop.kit
        thick = air = None
        try:
            if self.thick.text().strip():
                thick = parse_length(self.thick.text(), entry_unit(kit.length_style)).mm
                if not 1 <= thick <= 400:
                    raise BadEntry(f"{thick:g} thick: a forecast needs 1 to 400.")
            if self.air.text().strip():
                air = float(self.air.text().replace(",", ".").rstrip("% "))
                if not 2 <= air <= 25:
                    raise BadEntry(f"{air:g} %: the air's equilibrium needs 2 to 25.")
        except (BadEntry, ValueError) as fault:
            self.state.warn(str(fault) if isinstance(fault, BadEntry) else f"“{self.air.text()}” is not a figure.")
            return None, None, None
        k = self.stack.currentIndex()
        return thick, STACKINGS[k] if k > 0 else None, air

    def _blank_width(self) -> float | None:
        """The blank's width as asked; None for the piece's own."""
        text = self.thick.text().strip()
        try:
            width = parse_length(text, entry_unit(self.state.shop.kit.length_style)).mm if text else None
            if width is not None and not 1 <= width <= 2000:
                raise BadEntry(f"{width:g} wide: a blank needs 1 to 2000.")
        except BadEntry as fault:
            self.state.warn(str(fault))
            return None
        return width

    def _maker(self) -> Callable[[], Chart]:
        """What draws the chosen plot, to be run off the window's thread."""
        state, shop, today = self.state, self.state.shop, self.state.today
        piece = state.piece
        if self.of_piece and piece is None:
            return lambda: empty(self.kind, "No piece in hand", "Nothing on the rack. Measure one piece: F2")
        kind, number, use = self.kind, piece.id if piece else None, state.use
        if kind == "moisture" and piece is not None:
            facts, what = shop.judgements.facts(piece.id), self._what_if()
            return lambda: _moisture_chart(facts, today, *what)
        if kind == "movement" and piece is not None:
            facts, wide = shop.judgements.facts(piece.id), self._blank_width()
            return lambda: _movement_chart(facts, wide)
        by = GROUPS[max(0, self.by.currentIndex())]
        return lambda: chart_of(shop, kind, today, number, use, by)

    def _place(self) -> None:
        y = 54
        for k, (name, _, own) in enumerate(KINDS):
            y += 22 if k and own != KINDS[k - 1][2] else 0
            tab = self.tabs[name]
            tab.setChecked(name == self.kind)
            y = flow.column([tab], LEFT, y, SIDE_W - LEFT - 8, high=40, gap=4)
        flow.fill(self.view, SIDE_W, 4, self.width(), self.height() - FOOT_H)
        foot = self.height() - FOOT_H + 10
        what_if = self.kind == "moisture"
        for widget, x, w in ((self.thick, SIDE_W + 128, 84), (self.stack, SIDE_W + 226, 160), (self.air, SIDE_W + 436, 72)):
            flow.row([(widget, w)], x, foot, high=38)
            widget.setVisible(what_if or (widget is self.thick and self.kind == "movement"))
        self.by.setVisible(self.kind == "yield")
        flow.row([(self.by, 200)], SIDE_W + 8, foot, high=38)
        flow.row_to_right([(self.print, 138), (self.save, 160), (self.act, 160)], self.width() - RIGHT, foot - 3, gap=8)
        self.act.setVisible(self.kind in NEXT_WORD or self.kind in ("air", "taps"))
        self.act.say(
            {"air": "Log the air", "taps": "Knock it"}.get(self.kind) or NEXT_WORD.get(self.kind, ("", ""))[1], enabled=True
        )

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        theme = self.state.theme
        p.fillRect(self.rect(), theme.bench)
        piece = self.state.piece
        draw.text_at(p, LEFT, 40, f"No. {piece.id}" if piece else "No piece", theme.ink, 20, 700)
        if self._asked is not None:
            draw.text_at(
                p,
                SIDE_W + 20,
                self.height() - FOOT_H + 34,
                "drawing ..." if self.kind not in ("moisture", "movement") else "",
                theme.ink2,
                14,
            )
        own = self.tabs["movement"].geometry().bottom()
        draw.text_at(p, LEFT, own + 18, "the whole shop", theme.ink2, 13)
        if self.kind == "movement":
            draw.text_at(p, SIDE_W + 4, self.height() - FOOT_H + 34, "A blank so wide", theme.ink2, 14, room=122)
        if self.kind == "moisture":
            foot = self.height() - FOOT_H + 34
            unit = entry_unit(self.state.shop.kit.length_style)
            draw.text_at(p, SIDE_W + 4, foot, f"What if it were, {unit}", theme.ink2, 14, room=122)
            draw.text_at(p, SIDE_W + 394, foot, "in air", theme.ink2, 14)
            draw.text_at(p, SIDE_W + 514, foot, "%", theme.ink2, 14)

    # acts ---------------------------------------------------------------------------------------------------------
    def primary_action(self) -> None:
        """The next reading that this plot needs."""
        if self.kind == "air":
            self._log_air()
        elif self.kind == "taps":
            self._knock()
        elif self.kind in NEXT_WORD:
            self.state.tape_wanted.emit(NEXT_WORD[self.kind][0])

    def _log_air(self) -> None:
        menu = QMenu(self)
        menu.addAction("Type it: air 20.5 46", lambda: self.state.tape_wanted.emit("air "))
        menu.addAction("Read the climate logger (stand-in)", self.read_logger)
        menu.addAction("From a list (CSV) ...", lambda: self.bring_air())
        menu.popup(self.act.mapToGlobal(self.act.rect().topLeft()))

    def _knock(self) -> None:
        menu = QMenu(self)
        menu.addAction("Type it: tap 368 d .09", lambda: self.state.tape_wanted.emit("tap "))
        menu.addAction("From a sound file (WAV) ...", lambda: self.bring_sound())
        menu.popup(self.act.mapToGlobal(self.act.rect().topLeft()))

    def bring_sound(self, path: str | None = None) -> None:
        """A knock from a sound file: its tone and decay wait in the tape line to be kept."""
        from grainet.exchange.wav import after_the_knock, read_wav
        from grainet.instruments.stand_ins import tone_of

        chosen = path or file_to_read(self, "A knock on the piece in hand", "WAV (*.wav)")
        if not chosen:
            return

        def work() -> object:
            try:
                samples, rate = read_wav(Path(chosen))
                return tone_of(after_the_knock(samples, rate), rate)
            except Unusable as fault:
                return fault

        def heard(found: object) -> None:
            if isinstance(found, Unusable):
                self.state.warn(found.lines[0])
            elif isinstance(found, tuple):
                self.state.tape_by = Path(chosen).name
                self.state.tape_wanted.emit(f"tap {found[0]:.1f} d {found[1]:.3f}")

        self.state.background.start(work, heard, 5)

    def read_logger(self) -> None:
        """A reading of the climate logger goes into the log."""
        from grainet.instruments.reading import InstrumentFault
        from grainet.session.air_words import logger_reading

        try:
            self.state.log_air([logger_reading(self.state.today.isoformat(), clock=self.state.shop.clock)])
        except InstrumentFault as fault:
            self.state.warn(str(fault))

    def bring_air(self, path: str | None = None) -> None:
        """Readings of the air from a CSV list."""
        from grainet.exchange.air_file import read_air

        chosen = path or file_to_read(self, "A list of the air's readings", "CSV (*.csv *.txt)")
        if not chosen:
            return

        def work() -> object:
            try:
                return read_air(Path(chosen))
            except Unusable as fault:
                return fault

        def come(found: object) -> None:
            if isinstance(found, Unusable):
                more = f" (and {len(found.lines) - 1} more)" if len(found.lines) > 1 else ""
                self.state.warn(found.lines[0] + more)
            elif isinstance(found, list):
                self.state.log_air(found)

        self.state.background.start(work, come, 5)

    def save_as(self, path: str | None = None) -> None:
        """Write the plot that is shown: PDF, SVG, PNG or CSV."""
        if self.view.chart is None:
            return
        name = f"{self.view.chart.name}-{self.state.piece_id}" if self.of_piece else self.view.chart.name
        form = ""
        chosen = path
        if not chosen:
            chosen, form = file_to_write(self, "Save the plot", f"{name}.pdf", FORMS)
        if not chosen:
            return
        target = Path(chosen)
        if not target.suffix and "*." in form:
            target = target.with_suffix("." + form.split("*.")[1].rstrip(")"))
        try:
            write_any(target, self.view.chart)
        except (Unusable, ValueError) as fault:
            self.state.warn(fault.lines[0] if isinstance(fault, Unusable) else str(fault))
            return
        self.state.notify(f"written: {target.name}")

    def print_map(self, path: str | None = None) -> None:
        """Every plot that says something, of the piece in hand or of the shop, as one PDF to print."""
        from grainet.exchange.chart_file import charts_pdf
        from grainet.exchange.json_file import write_bytes

        name = f"No {self.state.piece_id}" if self.of_piece else "The shop"
        chosen = path or file_to_write(self, "Plots to print", f"{name} plots.pdf", "PDF (*.pdf)")[0]
        if not chosen:
            return
        kept, charts = self.kind, []
        for kind, _, own in KINDS:
            if own == self.of_piece:
                self.kind = kind
                charts.append(self._maker()())
        self.kind = kept
        full = [c for c in charts if c.marks] or charts[:1]
        target = Path(chosen)
        try:
            write_bytes(target, charts_pdf(full, name))
        except Unusable as fault:
            self.state.warn(fault.lines[0])
            return
        self.state.notify(f"written: {target.name}, {len(full)} pages")

    @override
    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.thick.setPlaceholderText(self._as_it_is())
        self._again()

    def _as_it_is(self) -> str:
        piece = self.state.piece
        thick = piece.least_thickness_mm if piece else None
        if self.kind == "movement" and piece:
            thick = piece.extents[3] - piece.extents[1]
        return format_length(thick, self.state.shop.kit.length_style) if thick else ""

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.refresh()


def _moisture_chart(*what: Any) -> Any:
    from grainet.chart.drying import moisture_chart

    return moisture_chart(*what)


def _movement_chart(*what: Any) -> Any:
    from grainet.chart.year import movement_chart

    return movement_chart(*what)
