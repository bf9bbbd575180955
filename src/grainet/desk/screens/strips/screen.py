"""A neck of strips: in plan at its true tapers, in section at the heel and at the marker, folded on its centre, and what each kind of
strip takes from the rack. Each strip is pressed to change it, or stepped by the wheel; a change is shown before it is kept."""

from __future__ import annotations

from collections import Counter
from functools import partial

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPen, QWheelEvent
from PySide6.QtWidgets import QAbstractButton, QWidget
from typing_extensions import override

from grainet.design.drawing import plan_of, stations
from grainet.design.instrument import Instrument, Strip
from grainet.design.lamination import Lamination, lamination_of, strips_at
from grainet.design.ways import way_of
from grainet.desk.painting import draw
from grainet.desk.painting.axis import Axis
from grainet.desk.painting.tokens import AXIS_X, LEFT, RIGHT
from grainet.desk.screens.screen import Page
from grainet.desk.screens.strips import painting
from grainet.desk.services.pictures import plain_colour
from grainet.desk.services.rack_answers import RackAnswers
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import WordButton, wrapped
from grainet.present.draw_up import Lane, lanes_of
from grainet.session.commands.figures import words_for_drawing
from grainet.wood.units import format_length

PLAN_H, SECTION_H, ROW_H = 166, 208, 34
PANEL_W = 384
LEAST_ROW = 15.0  # px: a lower line of words runs into the next one
COUNTS = (3, 5, 7, 9)
PLAIN, ACCENT = QColor("#dcc59c"), QColor("#5d3a2a")  # a strip of no said wood, and an accent of none


class StripButton(QAbstractButton):
    """One strip's thickness on a slip under the section: pressed it opens the tape line, the wheel steps it."""

    def __init__(self, screen: StripsScreen, number: int) -> None:
        super().__init__(screen)
        self.screen, self.number, self.text_shown, self.dashed = screen, number, "", False
        self.setObjectName(f"strip.{number}")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.clicked.connect(lambda: screen.state.tape_wanted.emit(f"strip {number} "))

    def show_strip(self, strip: Strip, text: str, told: str) -> None:
        """Show a strip's thickness; ``told`` is all of it in words."""
        self.text_shown, self.dashed = text, strip.accent
        self.setAccessibleName(f"Strip {self.number}: {told}")
        self.setToolTip(f"Strip {self.number}: {told}\nPress and type, or turn the wheel")
        self.setFixedSize(int(draw.text_width(text, 14, 600, figures=True)) + 12, 24)
        self.update()

    @override
    def wheelEvent(self, event: QWheelEvent) -> None:
        """Half a millimetre more or less; with Ctrl a tenth."""
        if event.angleDelta().y():
            by = 0.1 if event.modifiers() & Qt.KeyboardModifier.ControlModifier else 0.5
            self.screen.step_strip(self.number, by if event.angleDelta().y() > 0 else -by)
        event.accept()

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.screen.state.theme
        p.setBrush(theme.slip)
        pen = QPen(theme.ochre if self.dashed else theme.ink, 1.4)
        if self.dashed:
            pen.setDashPattern([3, 2])
        p.setPen(pen)
        p.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 2, 2)
        draw.text_at(p, 6, 17, self.text_shown, theme.ochre if self.dashed else theme.ink, 14, 600, figures=True)
        if self.hasFocus():
            draw.focus_ring(p, theme, QRectF(self.rect()), theme.slip)


class StripsScreen(Page):
    """The screen."""

    has_axis = True

    def __init__(self, state: State) -> None:
        super().__init__(state)
        self.setObjectName("strips")
        self.axis_now = Axis(0, 700, 1280)
        self.slips: list[StripButton] = []
        self.answers = RackAnswers(state, self)
        self.answers.arrived.connect(self.update)
        self.keep_it = WordButton(state, "Back", "Ctrl+Enter", chalk=True, parent=self, name="strips.keep")
        self.keep_it.clicked.connect(self.primary_action)
        self.swap = WordButton(state, "Swap woods", "", parent=self, name="strips.swap")
        self.swap.setShortcut("Alt+W")
        self.swap.setToolTip("The two woods that most strips are of, each in the other's place (Alt+W)")
        self.swap.clicked.connect(lambda: state.tape_wanted.emit("strips swap"))
        self.mirror = WordButton(state, "Mirror it", "", parent=self, name="strips.mirror")
        self.mirror.setToolTip("The bass side's strips on both sides")
        self.mirror.clicked.connect(lambda: state.tape_wanted.emit("strips ="))
        self.counts = [WordButton(state, str(n), "", parent=self, name=f"strips.{n}") for n in COUNTS]
        for n, button in zip(COUNTS, self.counts):
            button.setAccessibleName(f"{n} strips, as thick as one another")
            button.clicked.connect(partial(state.tape_wanted.emit, f"strips {n} alike"))
        state.changed.connect(self.refresh)
        state.previewed.connect(self.refresh)

    @property
    def shown(self) -> Instrument | None:
        """The instrument as it is shown."""
        return self.state.preview or self.state.instrument

    # acts -----------------------------------------------------------------------------------------------------------
    def primary_action(self) -> None:
        """Keep what is shown; with nothing to keep, back to the drawing."""
        if self.state.preview is not None:
            self.state.keep_preview()
        else:
            self.state.screen_wanted.emit("draw_up")

    def step_strip(self, number: int, by: float) -> None:
        """A strip a little thicker or thinner, shown and not kept yet."""
        g = self.shown
        if g is None:
            return
        strip = lamination_of(g).strips[number - 1]
        narrow = "" if strip.taper_mm is None else f">{strip.taper_mm:g}mm"
        self.state.tape_wanted.emit(
            f"strip {number} {max(0.3, strip.mm + by):g}mm{narrow}"
        )  # in mm: no fraction of an inch is lost

    def typed_here(self) -> list[tuple[str, str, str]]:
        """Every word about an instrument."""
        return words_for_drawing()

    def first_stop(self) -> QWidget | None:
        """The bass side's strip."""
        return next((s for s in self.slips if s.isVisibleTo(self)), None) or super().first_stop()

    # placing --------------------------------------------------------------------------------------------------------
    def axis(self, width: int, height: int) -> Axis:
        """The neck and head from the heel on."""
        g = self.shown
        if g is None:
            return Axis(0, 700, width)
        at = stations(g)
        left = (0.0 if g.kind == "through" else at.board_end) - 20
        return Axis(left, at.head_end + 20, width)

    def set_axis(self, axis: Axis) -> None:
        """Show the neck on an axis."""
        if axis != self.axis_now:
            self.axis_now = axis
            self.refresh()

    @property
    def laminated(self) -> bool:
        """Whether the neck in hand is one of strips."""
        return self.shown is not None and way_of(self.shown, "neck") == "strips"

    def refresh(self) -> None:
        """Bring everything up to date and in its place."""
        if not self.isVisible():
            return
        g = self.shown
        for button in (self.swap, self.mirror):
            button.setVisible(self.laminated)
        for button in self.counts:
            button.setVisible(g is not None)
        self.keep_it.say("Keep it" if self.state.preview is not None else "Back to the drawing")
        x = self.width() - PANEL_W + 14
        y = PLAN_H + SECTION_H - 52
        flow.row_to_right([(self.keep_it, 240)], self.width() - RIGHT, y)
        flow.row([(b, 44) for b in self.counts], x + 84, PLAN_H + 108, gap=6)
        flow.column([self.swap, self.mirror], LEFT, PLAN_H + 60, 136, gap=6)
        self._place_slips(g)
        self.update()

    def _place_slips(self, g: Instrument | None) -> None:
        found = lamination_of(g).strips if g is not None and self.laminated else ()
        while len(self.slips) < len(found):
            self.slips.append(StripButton(self, len(self.slips) + 1))
        style = self.state.shop.kit.length_style
        for k, slip in enumerate(self.slips):
            slip.setVisible(k < len(found))
            if k < len(found):
                slip.show_strip(found[k], format_length(round(found[k].mm, 2), style), self.words_of(found[k]))
        if g is None or not found:
            return
        heel = stations(g).board_end
        to_x, _ = painting.section_scale(g, heel, self._box(0))
        for accent, row in ((False, PLAN_H + SECTION_H - 60), (True, PLAN_H + SECTION_H - 32)):
            least = float(AXIS_X)
            order = [(k, sum(w) / 2) for k, w in enumerate(strips_at(g, heel)) if found[k].accent == accent]
            for k, middle in sorted(order, key=lambda one: to_x(one[1])):
                slip = self.slips[k]
                least = max(least, to_x(middle) - slip.width() / 2)
                slip.move(int(least), row)
                least += slip.width() + 4

    def words_of(self, strip: Strip) -> str:
        """A strip in words."""
        style = self.state.shop.kit.length_style
        wood = strip.species or ("an accent of any wood" if strip.accent else "any wood that the neck is wished in")
        size = format_length(round(strip.mm, 2), style)
        taper = f", to {format_length(strip.taper_mm, style)} at the nut" if strip.taper_mm is not None else ""
        grain = f", grain out at the {strip.grain}" if strip.grain else ""
        return f"{wood}, {size}{taper}{grain}"

    def _box(self, k: int) -> QRectF:
        """Where a section stands: 0 at the heel, 1 at the marker."""
        wide = (self.width() - AXIS_X - PANEL_W - 40) / 2
        return QRectF(AXIS_X + k * (wide + 24), PLAN_H + 34, wide - 10, 104)

    def woods(self, found: Lamination, g: Instrument) -> dict[int, QColor]:
        """The colour of each strip: its own wood's, else that of the neck's first wish."""
        plain = plain_colour(g.neck.species[0]) if g.neck.species else PLAIN
        return {k: plain_colour(s.species) if s.species else ACCENT if s.accent else plain for k, s in enumerate(found.strips)}

    # the mouse ------------------------------------------------------------------------------------------------------
    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        """A strip that is pressed in the plan opens the tape line; elsewhere the marker goes there."""
        g, at = self.shown, event.position()
        if g is None or at.y() > PLAN_H:
            return
        mm = self.axis_now.mm(at.x())
        across = (PLAN_H / 2 - at.y()) / self._across_scale(g)
        number = next((k for k, (low, high) in enumerate(strips_at(g, mm), 1) if low <= across <= high), None)
        if self.laminated and number is not None:
            self.state.tape_wanted.emit(f"strip {number} ")
        self.state.move_cursor(round(mm))

    def _across_scale(self, g: Instrument) -> float:
        """Px per mm across the plan: to scale where it fits, never more than the axis."""
        widest = max(g.head.width_mm, lamination_of(g).heel_mm)
        return min(self.axis_now.px_per_mm, (PLAN_H - 26) / widest)

    # painting -------------------------------------------------------------------------------------------------------
    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, g = self.state.theme, self.shown
        p.fillRect(self.rect(), theme.bench)
        if g is None:
            told = ["Begin one in Draw up (F4); its neck may then be made of strips."]
            draw.empty(p, theme, QRectF(AXIS_X, 30, self.width() - AXIS_X - RIGHT, 100), "No guitar is drawn up yet.", told)
            return
        found = lamination_of(g)
        p.fillRect(QRectF(0, PLAN_H, self.width(), SECTION_H), theme.ground)
        if not self.laminated:
            such = "strips 12 a1.5 10 =" if self.state.style == "mm" else "strips 1/2 a1/16 3/8 ="
            words = [f"Choose how many strips share its width, or type them from the bass side on: {such}"]
            draw.empty(
                p,
                theme,
                QRectF(AXIS_X, 24, self.width() - AXIS_X - RIGHT, 100),
                f"{g.shown_name}'s neck is not of strips.",
                words,
            )
            draw.text_at(p, self.width() - PANEL_W + 14, PLAN_H + 136, "so many", theme.ink2, 14)
            return
        woods = self.woods(found, g)
        self._plan(p, g, found, woods)
        self._sections(p, g, found, woods)
        self._panel(p, g, found, woods)
        self._rows(p, g)

    def _plan(self, p: QPainter, g: Instrument, found: Lamination, woods: dict[int, QColor]) -> None:
        theme, at = self.state.theme, stations(g)
        scale = self._across_scale(g)

        def to_y(mm: float) -> float:
            return PLAN_H / 2 - mm * scale

        ends = (0.0 if g.kind == "through" else at.board_end, at.head_end)
        painting.paint_strips(p, theme, g, ends, self.axis_now.x, to_y, woods)
        painting.paint_neck_over(p, theme, plan_of(g), at, self.axis_now.x, to_y)
        opposed = {k for pair in found.opposing for k in pair}
        for k, (strip, (low, high)) in enumerate(zip(found.strips, strips_at(g, ends[0] + 90)), 1):
            painting.paint_grain(p, theme, strip, self.axis_now.x(ends[0] + 90), to_y((low + high) / 2), opposed=k in opposed)
        p.setPen(QPen(theme.chalk, 2))
        x = self.axis_now.x(self.state.draw_mm)
        p.drawLine(int(x), 0, int(x), PLAN_H)
        self._names(p, g, found, to_y, self.axis_now.x(ends[0]))

    def _names(self, p: QPainter, g: Instrument, found: Lamination, to_y: painting.To, end_px: float) -> None:
        """Each strip's wood and thickness at the left, on a leader."""
        theme, style = self.state.theme, self.state.shop.kit.length_style
        rows = list(zip(found.strips, strips_at(g, self.axis_now.mm(end_px))))
        if g.hand == "left":
            rows.reverse()
        each = min(19.0, (PLAN_H - 8) / max(1, len(rows)))
        if each < LEAST_ROW:
            self._kinds(p, found)
            return
        top = (PLAN_H - each * len(rows)) / 2
        for k, (strip, (low, high)) in enumerate(rows):
            y = top + each * k + each * 0.75
            ink = theme.ochre if strip.accent and not strip.species else theme.ink
            draw.text_at(p, LEFT, y, draw.fitted_name(self.short_name(strip), 84, 13, 600), ink, 13, 600)
            size = format_length(round(strip.mm, 2), style)
            draw.text_at(p, 148 - draw.text_width(size, 13, 600, figures=True), y, size, ink, 13, 600, figures=True)
            p.setPen(QPen(theme.edge, 1))
            p.drawLine(152, int(y - 4), 164, int(y - 4))
            p.drawLine(164, int(y - 4), int(end_px), int(to_y((low + high) / 2)))

    def short_name(self, strip: Strip) -> str:
        """What a strip is called beside the plan."""
        if strip.species:
            return self.state.shop.kit.library.short_name(strip.species).partition(" (")[0]
        return "accent" if strip.accent else "any wood"

    def _kinds(self, p: QPainter, found: Lamination) -> None:
        """Too many strips for a line each: how many there are of each wood and thickness."""
        theme, style = self.state.theme, self.state.shop.kit.length_style
        kinds = Counter((self.short_name(s), round(s.mm, 2)) for s in found.strips)
        for k, ((name, mm), count) in enumerate(kinds.most_common(8)):
            size = f"{count} of {format_length(mm, style)}"
            wide = draw.text_width(size, 13, 600, figures=True)
            draw.text_at(p, LEFT, 22 + 18 * k, draw.fitted_name(name, 136 - wide, 13, 600), theme.ink, 13, 600)
            draw.text_at(p, 164 - wide, 22 + 18 * k, size, theme.ink, 13, 600, figures=True)

    def _sections(self, p: QPainter, g: Instrument, found: Lamination, woods: dict[int, QColor]) -> None:
        theme, at, style = self.state.theme, stations(g), self.state.shop.kit.length_style
        draw.text_at(p, LEFT, PLAN_H + 24, "In section", theme.ink, 16, 700)
        draw.text_at(p, LEFT, PLAN_H + 44, "pale: carved away", theme.ink2, 13, room=148)
        marker = min(max(self.state.draw_mm, at.board_end), at.nut)
        for k, (x_mm, word) in enumerate(((at.board_end, "at the heel"), (marker, "at the marker"))):
            box = self._box(k)
            draw.text_at(p, box.x(), PLAN_H + 24, f"{word}, {format_length(round(x_mm, 1), style)}", theme.ink, 14, 600)
            painting.paint_section_of(p, theme, g, x_mm, box, woods)
        box = self._box(1)
        wide = strips_at(g, marker)
        here = format_length(round(sum(high - low for low, high in wide), 1), style)
        need = format_length(round(found.asked_mm, 1), style)
        have = format_length(round(found.heel_mm, 1), style)
        short = found.missing_mm > 0.1
        text = f"{here} here; {have} at the heel, at least {need}" + (
            f": {format_length(round(found.missing_mm, 1), style)} missing" if short else ""
        )
        draw.text_at(p, box.x(), PLAN_H + SECTION_H - 16, text, theme.wine if short else theme.ink2, 13.5, room=box.width() + 20)

    def _panel(self, p: QPainter, g: Instrument, found: Lamination, woods: dict[int, QColor]) -> None:
        theme, x, style = self.state.theme, self.width() - PANEL_W + 14, self.state.shop.kit.length_style
        p.setPen(QPen(theme.hair, 1))
        p.drawLine(int(x) - 14, PLAN_H + 12, int(x) - 14, PLAN_H + SECTION_H - 12)
        draw.text_at(p, x, PLAN_H + 24, "Folded on its centre", theme.ink, 15, 700)
        painting.paint_fold(p, theme, found, QRectF(x + 60, PLAN_H + 34, 210, 44), woods)
        for k, (side, mm) in enumerate((("bass", found.bass_mm), ("treble", found.treble_mm))):
            draw.text_at(p, x, PLAN_H + 49 + 22 * k, side, theme.ink2, 13.5)
            draw.text_at(p, x + 282, PLAN_H + 49 + 22 * k, format_length(round(mm, 2), style), theme.ink, 14, 600, figures=True)
        apart = abs(found.bass_mm - found.treble_mm)
        words = (
            "both sides are alike" if found.alike else f"{format_length(round(apart, 2), style)} apart: mirror it, or leave it so"
        )
        draw.text_at(p, x, PLAN_H + 97, words, theme.ink2 if found.alike else theme.ochre, 13.5)
        draw.text_at(p, x, PLAN_H + 136, "so many", theme.ink2, 14)

    def _advice(self, found: Lamination) -> list[tuple[str, bool]]:
        """(words, whether a caution) of joints, wedges and grain."""
        words = [(f"{found.joints} glue lines; strips are planed together, in one setting.", False)]
        for wedge in {round(w.angle_deg, 3): w for w in found.wedges}.values():
            alike = [str(w.number) for w in found.wedges if abs(w.angle_deg - wedge.angle_deg) < 1e-3]
            who = (
                f"Strip {alike[0]} is a wedge"
                if len(alike) == 1
                else f"Strips {', '.join(alike[:-1])} and {alike[-1]} are wedges"
            )
            words.append((
                f"{who} of {wedge.angle_deg:.2f}°: a sled that rises {wedge.rise_mm:.2f} in 100. The clamps push it with "
                f"{100 * wedge.push:.1f} % of their force toward its wide end: a stop there.", False,
            ))  # fmt: skip
        for a, b in found.opposing[:2]:
            words.append((f"Grain of strips {a} and {b} runs against one another; “strip {b} turn” turns one end for end.", True))
        return words

    def lanes(self) -> list[Lane]:
        """The neck's blanks."""
        g, kit = self.shown, self.state.shop.kit
        if g is None:
            return []
        return [lane for lane in lanes_of(g, kit.cuts.allowances, kit.length_style) if lane.blank.component == "neck"]

    def _rows(self, p: QPainter, g: Instrument) -> None:
        """What it takes: each kind of strip with what the rack gives, then joints, wedges and grain."""
        theme, y = self.state.theme, PLAN_H + SECTION_H + 24.0
        draw.text_at(p, LEFT, y, "What it takes", theme.ink, 16, 700)
        bottom = self.height()
        advice = self._advice(lamination_of(g))
        ay = y
        for text, caution in advice:
            for line in wrapped(text, 13.5, PANEL_W - 34):
                if ay < self.height() - 8:
                    draw.text_at(p, self.width() - PANEL_W + 14, ay, line, theme.ochre if caution else theme.ink2, 13.5)
                ay += 18
            ay += 4
        y += 8
        for lane in self.lanes():
            if y + ROW_H > bottom:
                draw.text_at(p, AXIS_X, y + 18, "more in Draw up (F4)", theme.ink2, 14)
                break
            answer = self.answers.of(lane)
            draw.text_at(p, LEFT, y + 16, lane.label[:1].upper() + lane.label[1:], theme.ink, 14, 600, room=150)
            draw.text_at(p, LEFT, y + 31, f"{lane.count} of {lane.size}", theme.ink2, 13, figures=True, room=180)
            text = (
                "asking the rack" if answer is None else answer.text if answer.word != "none" else f"buy: {lane.size} or larger"
            )
            ink = (
                theme.ink
                if answer is not None and answer.word == "gives"
                else theme.ochre
                if answer is not None and answer.word == "if"
                else theme.wine
            )
            draw.text_at(
                p,
                AXIS_X + 30,
                y + 20,
                text,
                theme.ink2 if answer is None else ink,
                14,
                600,
                room=self.width() - PANEL_W - AXIS_X - 50,
            )
            p.setPen(QPen(theme.hair, 1))
            p.drawLine(LEFT, int(y + ROW_H + 2), int(self.width() - PANEL_W - 6), int(y + ROW_H + 2))
            y += ROW_H + 4
