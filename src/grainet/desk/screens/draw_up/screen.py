"""Draw up (F4): the guitar that is wanted, on the millimetre axis like a board; its blanks beneath the places that they make, painted in the
wood that the rack would give. A figure that is typed or turned is shown before it is kept."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import Self

from PySide6.QtCore import QPointF, QRectF, Qt, QTimer
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPen, QResizeEvent
from PySide6.QtWidgets import QLabel, QMenu, QWidget
from typing_extensions import override

from grainet.design.checks import checks_of
from grainet.design.drawing import across_mm, board_half_mm, plan_of, stations, whole_length_mm
from grainet.design.figures import BY_PATH
from grainet.design.instrument import Instrument
from grainet.design.outline_body import body_from
from grainet.design.parts import drawable
from grainet.design.starting_points import POINTS, begin
from grainet.design.tree import tree_of
from grainet.design.weight import balance_of
from grainet.desk.painting import draw
from grainet.desk.painting.axis import Axis
from grainet.desk.painting.instrument import Wood, paint_outline, paint_plan, paint_section, paint_side
from grainet.desk.painting.tokens import AXIS_X, LEFT, RIGHT, font
from grainet.desk.screens.draw_up.controls import CHIPS_H, LANE_H, SLIP_H, PartLane, SlipButton, WayChip
from grainet.desk.screens.screen import Desk, Screen
from grainet.desk.services.dialogs import file_to_read, file_to_write
from grainet.desk.services.outline_files import print_full_size, save_outlines
from grainet.desk.services.pictures import plain_colour
from grainet.desk.services.rack_answers import RackAnswers
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import WordButton, left_words
from grainet.desk.widgets.scroll import ScrolledColumn
from grainet.match.joint_warning import JointWarning
from grainet.present.draw_up import (
    COMPONENT_WORD,
    Lane,
    WayChoice,
    as_drawn,
    guessed_count,
    knock_ons,
    lanes_of,
    lanes_that_change,
    slips_of,
    to_mind,
    way_choices,
    ways_out,
    with_choice,
)
from grainet.session.commands.figures import words_for_drawing
from grainet.session.stock_answers import StockAnswer, stock_answer, worst_of
from grainet.wood.units import format_length
from grainet.wood.value import BadEntry

PANEL_W, CHAIN_H, SIDE_H = 328, 22, 78
PLAN_LEAST, PLAN_MOST, LANES_WANT = 178, 360, 220  # px: the plan gives way to the lanes first
GHOST = 0.85  # the ghost of the empty screen against the axis
PALE = {"gives": "", "if": "if", "wont": "out", "none": "out"}


class DrawUp(Screen):
    """The screen."""

    has_axis = True
    prints = True

    @classmethod
    def made(cls, desk: Desk) -> Self:
        """A screen in a window."""
        return cls(desk.state)

    def __init__(self, state: State) -> None:
        super().__init__(state)
        self.setObjectName("drawUp")
        self.axis_now = Axis(0, 1360, 1280)
        self.lanes: list[Lane] = []
        self.moved_paths: frozenset[str] = frozenset()
        self.chosen = "neck"
        self.answers = RackAnswers(state, self)
        self._soon = QTimer(self)  # answers that come together are shown together
        self._soon.setSingleShot(True)
        self._soon.timeout.connect(self.refresh)
        self.answers.arrived.connect(self._soon.start)
        self._asking: set[str] = set()
        self._way_answers: dict[tuple[str, str], tuple[object, StockAnswer | None]] = {}
        self._lane_key: object = None
        self._chips_key: object = None
        self._mind_key: object = None
        self._minded: list[tuple[str, JointWarning]] = []
        self.slips: dict[str, SlipButton] = {}
        self.chips: list[WayChip] = []
        self.rows: list[PartLane] = []
        self.scroll = ScrolledColumn(self)
        self.keep_it = WordButton(state, "Lay out", "Ctrl+Enter", chalk=True, parent=self, name="drawUp.layOut")
        self.keep_it.clicked.connect(self.primary_action)
        self.leave_it = WordButton(state, "Leave it", "Esc", chalk=False, parent=self, name="drawUp.leave")
        self.leave_it.clicked.connect(self.leave)
        self.others = WordButton(state, "Instruments", "", chalk=False, parent=self, name="drawUp.instruments")
        self.others.clicked.connect(self.open_menu)
        self.from_wood = WordButton(
            state, "From the wood: what the rack can become", "Ctrl+Shift+B", chalk=False, parent=self, name="begin.fromTheWood"
        )
        self.from_wood.clicked.connect(lambda: state.screen_wanted.emit("become"))
        self.rescue_it = WordButton(state, "Every way out", "Ctrl+Shift+R", parent=self.scroll.inner, name="drawUp.waysOut")
        self.rescue_it.setFixedHeight(CHIPS_H - 4)
        self.rescue_it.clicked.connect(self.look_for_ways_out)
        self.strips_it = WordButton(state, "The strips", "Ctrl+Shift+N", parent=self.scroll.inner, name="drawUp.strips")
        self.strips_it.setFixedHeight(CHIPS_H - 4)
        self.strips_it.clicked.connect(lambda: state.screen_wanted.emit("strips"))
        self.outline_it = WordButton(state, "The outline", "Ctrl+Shift+D", parent=self.scroll.inner, name="drawUp.outline")
        self.outline_it.setFixedHeight(CHIPS_H - 4)
        self.outline_it.clicked.connect(lambda: state.screen_wanted.emit("outline"))
        self.groups: dict[str, QLabel] = {}
        self.doors = {point: self._door(point) for point in POINTS}
        state.changed.connect(self.refresh)
        state.previewed.connect(self.refresh)

    def _door(self, point: str) -> WordButton:
        door = WordButton(
            self.state,
            POINTS[point][0].removeprefix("a ").capitalize(),
            "",
            chalk=point == "bolt-on",
            parent=self,
            name=f"begin.{point}",
        )
        door.setToolTip(f"Begin with {POINTS[point][0]}; every figure can be changed (new {point})")
        door.clicked.connect(lambda: self.state.keep_instrument("begun", self.state.shop.instruments.new(point)))
        return door

    # what is shown --------------------------------------------------------------------------------------------------
    @property
    def kept(self) -> Instrument | None:
        """The instrument as it is kept."""
        return self.state.instrument

    @property
    def shown(self) -> Instrument | None:
        """The instrument as it is shown: the change that is being typed, else as it is kept."""
        return self.state.preview or self.kept

    @property
    def changing(self) -> bool:
        """Whether a change of the instrument in hand is shown that is not kept yet."""
        return self.state.preview is not None and self.kept is not None and self.state.preview.id == self.kept.id

    def answer(self, lane: Lane) -> StockAnswer | None:
        """The rack's answer for a lane; None while it is asked off the window's thread."""
        return self.answers.of(lane)

    def answer_of_chosen(self) -> StockAnswer | None:
        """The answer of the lane that is open."""
        return self.answers.known(self.chosen)

    def way_answer(self, choice: WayChoice) -> StockAnswer | None:
        """What the rack gives for a way of the chosen part; None while it is asked, or where the way asks for nothing new."""
        g, shop = self.shown, self.state.shop
        if g is None or choice.chosen:
            return None
        key = (g, choice.component, choice.way.name, shop.version)
        known = self._way_answers.get((choice.component, choice.way.name))
        if known is not None and known[0] == key:
            return known[1] or self.answer_of_chosen()  # a way that asks for nothing else gets what the drawn one gets
        name = f"{choice.component}.{choice.way.name}"
        if name not in self._asking:
            self._asking.add(name)
            self.state.background.start(
                lambda: shop.steady(lambda: self._ask_way(g, choice)), lambda found: self._way_known(name, choice, key, found), 0
            )
        return None

    def _ask_way(self, g: Instrument, choice: WayChoice) -> StockAnswer | None:
        """Off the window's thread: the blank that decides whether the rack gives a way."""
        shop, kit = self.state.shop, self.state.shop.kit
        other = with_choice(g, choice)
        if other is None:
            return StockAnswer("none")
        fresh = lanes_that_change(g, other, kit.cuts.allowances, kit.length_style)
        return worst_of([stock_answer(shop, lane.part, lane.blank, lane.count) for lane in fresh])

    def _way_known(self, name: str, choice: WayChoice, key: object, found: object) -> None:
        self._asking.discard(name)
        self._way_answers[(choice.component, choice.way.name)] = (key, found if isinstance(found, StockAnswer) else None)
        self._soon.start()

    def woods(self) -> dict[str, Wood]:
        """The wood of each component as the rack would give it."""
        found: dict[str, Wood] = {}
        for lane in self.lanes:
            answer = self.answers.known(lane.blank.part)
            if answer is None or lane.blank.component in found:
                continue
            shop = self.state.shop
            colour = (
                plain_colour(shop.piece(answer.piece).species)
                if answer.piece and shop.has_piece(answer.piece)
                else self.state.theme.ground
            )
            found[lane.blank.component] = (colour, PALE[answer.word])
        return found

    # acts -----------------------------------------------------------------------------------------------------------
    def primary_action(self) -> None:
        """Keep what is shown; with nothing to keep, lay the instrument out."""
        if self.state.preview is not None:
            self.state.keep_preview()
        elif self.kept is not None:
            self.state.choose_design(self.kept.id)
            self.state.screen_wanted.emit("lay_out")
        else:
            self.doors["bolt-on"].click()

    def leave(self) -> None:
        """Drop what is shown and not kept."""
        self.state.show_preview(None)
        self.state.tape_wanted.emit("")
        self.window().setFocus()

    def open_menu(self) -> None:
        """Every instrument, another one like this, a new one from a starting point."""
        menu = QMenu(self)
        menu.setObjectName("drawUp.instruments.menu")
        shop = self.state.shop
        for g in shop.instruments.all():
            menu.addAction(g.shown_name, lambda n=g.id: self.state.choose_design(n))
        g = self.kept
        if g is not None:
            menu.addSeparator()
            like = shop.instruments.like(g)
            menu.addAction(
                f"Another one like it: {like.shown_name}", lambda: self.state.keep_instrument(f"like {g.shown_name}", like)
            )
            menu.addAction(f"Take {g.shown_name} away", lambda: self.state.remove_instrument(g))
            menu.addSeparator()
            menu.addAction("Outline from a file (DXF or SVG)", lambda: self.bring_outline())
            menu.addAction("Write the outlines as DXF or SVG (Ctrl+S)", lambda: self.save_as())
            menu.addAction("Print the fret table", lambda: self.print_frets())
            menu.addAction("Print at full size (Ctrl+P)", lambda: self.print_map())
            menu.addAction("Print at full size, mirrored for the back", lambda: self.print_map(mirrored=True))
        menu.addSeparator()
        menu.addAction("Buy list (Ctrl+B)", lambda: self.state.screen_wanted.emit("buy_list"))
        menu.addAction("What the wood can become (Ctrl+Shift+B)", lambda: self.state.screen_wanted.emit("become"))
        for point, (words, _, _) in POINTS.items():
            menu.addAction(f"New: {words}", lambda n=point: self.state.keep_instrument("begun", shop.instruments.new(n)))
        menu.popup(self.others.mapToGlobal(self.others.rect().bottomLeft()))

    # outlines in and out --------------------------------------------------------------------------------------------
    def bring_outline(self, path: str | None = None) -> None:
        """A body's outline out of a file: it is shown first, and kept when it is said so."""
        from grainet.exchange.json_file import Unusable
        from grainet.exchange.outline_read import read_outlines

        g = self.kept
        chosen = path or file_to_read(self, "An outline", "Outlines (*.dxf *.svg)")
        if g is None or not chosen:
            return

        def work() -> object:
            try:
                drawing = read_outlines(Path(chosen))
                told = body_from([(loop.ring, loop.name) for loop in drawing.loops], drawing.centre)
                return drawable(g.with_figures(told)), drawing
            except (Unusable, BadEntry) as fault:
                return str(fault)

        self.state.background.start(work, self._show_outline, 5)

    def _show_outline(self, found: object) -> None:
        if isinstance(found, str):
            self.state.warn(found)
        elif isinstance(found, tuple):
            g, drawing = found
            open_ = f"; {'; '.join(gap.text for gap in drawing.gaps[:3])}" if drawing.gaps else ""
            self.state.show_preview(g)
            self.state.notify(
                f"{len(drawing.loops)} outlines, {drawing.units}{open_}: Ctrl+Enter keeps it, Esc leaves it", caution=bool(open_)
            )

    def save_as(self, path: str | None = None) -> None:
        """Write the outlines as DXF or SVG."""
        save_outlines(self, self.state, self.shown, path)

    def print_map(self, path: str | None = None, *, mirrored: bool = False, paper: str = "A4") -> None:
        """Print the outlines at full size over pages that tile."""
        print_full_size(self, self.state, self.shown, path, mirrored=mirrored, paper=paper)

    def print_frets(self, path: str | None = None) -> None:
        """The fret table, each fret from the nut and rounded once, to PDF or CSV."""
        from grainet.exchange.json_file import Unusable
        from grainet.exchange.report_file import ReportRow, write_report
        from grainet.present.draw_up import fret_rows

        g = self.shown
        chosen = path or (
            file_to_write(self, "The fret table", f"{g.id}-frets.pdf", "PDF (*.pdf);;CSV table (*.csv)")[0] if g else ""
        )
        if g is None or not chosen:
            return
        rows = [ReportRow("", number, first, second) for number, first, second in fret_rows(g)]
        scales = " and ".join(f"{s:g}" for s in g.scale_mm)
        try:
            write_report(
                Path(chosen),
                f"{g.shown_name}: fret table, scale {scales} mm",
                "Every figure from the nut, rounded once to a tenth. Check the print's own scale before you mark.",
                rows,
            )
        except (Unusable, ValueError) as fault:
            self.state.warn(str(fault))
            return
        self.state.notify(f"the fret table is in {Path(chosen).name}")

    def choose_lane(self, part: str) -> None:
        """Open a lane: its ways stand under it, and the rack answers for its use."""
        self.chosen = part
        QTimer.singleShot(0, self._show_chosen)
        use = next((row.use for row in self.rows if row.lane is not None and row.lane.blank.part == part), None)
        if use is not None:
            self.state.choose_use(use)
        self.refresh()

    def _show_chosen(self) -> None:
        """Scroll the chosen lane and its ways into view."""
        for row in self.rows:
            if row.isChecked() and row.isVisibleTo(self):
                low = max((chip.geometry().bottom() for chip in self.chips), default=row.geometry().bottom())
                self.scroll.ensureVisible(0, low, 0, 4)
                self.scroll.ensureVisible(0, row.y(), 0, 0)

    def look_for_ways_out(self) -> None:
        """Every way to make the chosen part in spite of what the nearest piece lacks."""
        answer = self.answer_of_chosen()
        self.state.look_for_ways_out(self.chosen, answer.piece if answer is not None else "")

    def step_lane(self, by: int) -> None:
        """Up and down: another lane."""
        names = [lane.blank.part for lane in self.lanes]
        if names:
            at = names.index(self.chosen) if self.chosen in names else 0
            self.choose_lane(names[max(0, min(len(names) - 1, at + by))])

    def typed_here(self) -> list[tuple[str, str, str]]:
        """Every word about an instrument."""
        return words_for_drawing()

    def first_stop(self) -> QWidget | None:
        """The chosen lane."""
        return next((row for row in self.rows if row.isChecked() and row.isVisibleTo(self)), None) or super().first_stop()

    # placing --------------------------------------------------------------------------------------------------------
    def axis(self, width: int, height: int) -> Axis:
        """The axis on which the whole instrument stands left of the panel."""
        g = self.shown
        if g is None:
            return Axis(0, 1360, width)
        top, low = across_mm(g)
        scale = min((width - PANEL_W - AXIS_X - 24) / (whole_length_mm(g) + 10), (self.plan_h_for(height) - 24) / (top - low))
        return Axis(0, (width - RIGHT - AXIS_X) / max(0.05, scale), width)

    def set_axis(self, axis: Axis) -> None:
        """Show the instrument on an axis."""
        if axis != self.axis_now:
            self.axis_now = axis
            self.refresh()

    @staticmethod
    def plan_h_for(height: int) -> int:
        """How high the plan is in a work area of so many px."""
        return max(PLAN_LEAST, min(PLAN_MOST, height - CHAIN_H - SIDE_H - 6 - LANES_WANT))

    @property
    def plan_h(self) -> int:
        """How high the plan is, px."""
        return self.plan_h_for(self.height())

    @property
    def lanes_top(self) -> int:
        """Where the lanes begin, px."""
        return self.plan_h + CHAIN_H + SIDE_H + 6

    def _y(self, mm: float) -> float:
        """The px of a place beside the centre line."""
        g = self.shown
        top, low = across_mm(g) if g is not None else (160.0, -160.0)
        return self.plan_h / 2 + (top + low) / 2 * self.axis_now.px_per_mm - mm * self.axis_now.px_per_mm

    def _z(self, mm: float) -> float:
        """The px of a height in the side view."""
        return self.plan_h + CHAIN_H + 26 - mm * self._z_scale

    @property
    def _z_scale(self) -> float:
        g = self.shown
        deep = max(g.body.thickness_mm, 40.0) if g is not None else 44.0
        return min(self.axis_now.px_per_mm, (SIDE_H - 30) / deep)

    def refresh(self) -> None:
        """Bring everything up to date and in its place."""
        if not self.isVisible():
            return
        g = self.shown
        if self.kept is not None and self.state.design_id != self.kept.id:
            self.state.choose_design(self.kept.id)
        for door in self.doors.values():
            door.setVisible(g is None)
        self.from_wood.setVisible(g is None)
        for button in (self.keep_it, self.others):
            button.setVisible(g is not None)
        self.leave_it.setVisible(self.state.preview is not None)
        self.scroll.setVisible(g is not None)
        if g is None:
            self._place_doors()
            for slip in self.slips.values():
                slip.hide()
            for chip in self.chips:
                chip.hide()
        else:
            self._fill(g)
        self.update()

    def _fill(self, g: Instrument) -> None:
        kit = self.state.shop.kit
        key = (g, kit.cuts, kit.length_style)
        if key != self._lane_key:
            self.lanes, self._lane_key = lanes_of(g, kit.cuts.allowances, kit.length_style), key
        self.moved_paths = self._moved(g)
        if self.lanes and self.chosen not in {lane.blank.part for lane in self.lanes}:
            self.chosen = next((n for n in ("neck",) if n in {lane.blank.part for lane in self.lanes}), self.lanes[0].blank.part)
        answer = self.answer_of_chosen()
        self.state.rescue_part = self.chosen
        self.state.rescue_piece = answer.piece if answer is not None and answer.word != "gives" else ""
        self._place_slips(g)
        self._place_lanes(g)
        x, y = self.width() - PANEL_W + 14, self.plan_h + CHAIN_H + SIDE_H - 56
        self.keep_it.say("Keep it" if self.state.preview is not None else "Lay out")
        flow.row_to_right([(self.keep_it, 158)], self.width() - RIGHT, y)
        flow.row([(self.leave_it, 110)], x, y)
        flow.row([(self.others, 128)], LEFT, self.plan_h - 52)

    def _moved(self, g: Instrument) -> frozenset[str]:
        """Figures that the change which is shown makes other."""
        old = self.kept
        if not self.changing or old is None:
            return frozenset()
        return frozenset(path for path in BY_PATH if g.figure(path) != old.figure(path))

    def _place_slips(self, g: Instrument) -> None:
        """Each slip on its place; those of one line are pushed apart, in their order."""
        wanted = slips_of(g, self.state.shop.kit.length_style)
        for slip in wanted:
            if slip.path not in self.slips:
                self.slips[slip.path] = SlipButton(self, slip)
            self.slips[slip.path].say(slip)
        for path, button in self.slips.items():
            button.setVisible(path in {s.path for s in wanted})
        lines: dict[tuple[str, int], list[SlipButton]] = {}
        for slip in wanted:
            lines.setdefault((slip.view, slip.row), []).append(self.slips[slip.path])
        most = self.width() - PANEL_W - 8
        for (view, row), buttons in lines.items():
            y = self._line_y(g, view, row)
            for button, x in zip(_in_order(buttons), _spread(_in_order(buttons), self.axis_now, most)):
                button.move(int(x), int(y))

    def _line_y(self, g: Instrument, view: str, row: int) -> float:
        if view == "chain":
            return self.plan_h
        if view == "side":
            base = (
                self._z(0)
                if row < 0
                else self._z(-g.body.thickness_mm / 2) - SLIP_H / 2
                if row == 0
                else self._z(-g.body.thickness_mm) + 2
            )
            return base - (SLIP_H + 4) if row < 0 else base
        half = g.head.width_mm / 2 * self.axis_now.px_per_mm
        return self._y(0) + (-half - SLIP_H - 8 if row < 0 else -SLIP_H / 2 if row == 0 else half + 8)

    def _place_lanes(self, g: Instrument) -> None:
        while len(self.rows) < len(self.lanes):
            self.rows.append(PartLane(self, self.scroll.inner))
        self._make_chips(g)
        wide, y = self.width(), 0
        for k, row in enumerate(self.rows):
            row.setVisible(k < len(self.lanes))
            if k >= len(self.lanes):
                continue
            lane = self.lanes[k]
            chosen = lane.blank.part == self.chosen
            row.say(lane, self.answer(lane), chosen=chosen)
            y = flow.column([row], 0, y, wide, high=LANE_H, gap=0)
            if chosen:
                y = self._place_chips(y, wide)
        flow.fill(self.scroll, 0, self.lanes_top, wide, self.height())
        self.scroll.set_size(wide, y)

    def _make_chips(self, g: Instrument) -> None:
        lane = next((one for one in self.lanes if one.blank.part == self.chosen), None)
        choices = way_choices(g, lane.blank.component, self.state.shop.kit.cuts.allowances) if lane is not None else []
        known = self.answer_of_chosen()
        if lane is not None and known is not None and known.word in ("wont", "none") and known.piece:
            lacks = tuple(max(0.0, -room) for room in known.room_mm)
            choices += ways_out(g, lane, lacks, self.state.shop.kit.length_style)
        choices += as_drawn(g, lane) if lane is not None else []
        if choices == self._chips_key:
            return
        self._chips_key = choices
        for chip in self.chips:
            chip.hide()
            chip.deleteLater()
        self.chips = [WayChip(self, choice) for choice in choices] if len(choices) > 1 else []
        for chip in self.chips:
            chip.setParent(self.scroll.inner)

    def _place_chips(self, y: int, wide: int) -> int:
        """The chips of the chosen lane in rows; the y below them."""
        x, before = AXIS_X, ""
        for label in self.groups.values():
            label.hide()
        answer = self.answer_of_chosen()
        self.rescue_it.setVisible(answer is not None and answer.word in ("wont", "if") and bool(answer.piece))
        chosen = next((lane for lane in self.lanes if lane.blank.part == self.chosen), None)
        self.strips_it.setVisible(chosen is not None and chosen.blank.component == "neck")
        self.outline_it.setVisible(chosen is not None and chosen.blank.component in ("body", "cap", "skins"))
        doors = [b for b in (self.outline_it, self.strips_it, self.rescue_it) if b.isVisibleTo(self.scroll.inner)]
        if not self.chips and not doors:
            return y
        for chip in self.chips:
            if chip.choice.component != before:
                x += 52 if before else 48
                before = chip.choice.component
                self._group(before, int(x) - 46, y + 2)
            if x + chip.width() > wide - RIGHT:
                x, y = AXIS_X + 48, y + CHIPS_H
            chip.answer = self.answer_of_chosen() if chip.choice.chosen else self.way_answer(chip.choice)
            chip.tell()
            chip.move(int(x), y + 2)
            chip.show()
            x += chip.width() + 6
        for door in doors:
            wanted = door.sizeHint().width()
            if x + wanted > wide - RIGHT:
                x, y = AXIS_X + 48, y + CHIPS_H
            x = flow.row([(door, wanted)], x, y + 2, high=CHIPS_H - 4, gap=6)
        return y + CHIPS_H

    def _group(self, component: str, x: int, y: int) -> None:
        """The component's word before its chips."""
        if component not in self.groups:
            self.groups[component] = QLabel(COMPONENT_WORD[component], self.scroll.inner)
            self.groups[component].setFont(font(14, 600))
        label = self.groups[component]
        flow.row([(label, 44)], x, y, high=CHIPS_H - 4)
        label.show()

    def _place_doors(self) -> None:
        below = flow.grid(list(self.doors.values()), AXIS_X, 250, 920, 3)
        flow.row([(self.from_wood, 456)], AXIS_X, below + 4)

    # the mouse ------------------------------------------------------------------------------------------------------
    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Where the drawing is pressed the marker goes."""
        if self.shown is not None and event.position().y() < self.lanes_top and event.position().x() < self.width() - PANEL_W:
            self.state.move_cursor(round(self.axis_now.mm(event.position().x())))

    mouseMoveEvent = mousePressEvent

    # painting -------------------------------------------------------------------------------------------------------
    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, g = self.state.theme, self.shown
        p.fillRect(self.rect(), theme.bench)
        if g is None:
            self._empty(p)
            return
        woods = self.woods()
        self._left_words(p, g)
        if self.changing and self.kept is not None:
            paint_outline(p, theme.edge, self.kept, self.axis_now.x, self._y, 1.2)
        paint_plan(p, theme, g, self.axis_now.x, self._y, woods)
        if self.changing:
            paint_outline(p, theme.chalk, g, self.axis_now.x, self._y, 2.4)
        self._chain(p, g)
        paint_side(p, theme, g, self.axis_now.x, self._z, woods)
        self._leaders(p, g)
        self._marker(p)
        self._panel(p, g, woods)

    def _left_words(self, p: QPainter, g: Instrument) -> None:
        theme = self.state.theme
        hand = "" if g.hand == "right" else ", left-handed"
        lines = [
            (f"face up{hand}", theme.ink2),
            ("in the wood that the rack would give; pale: after work, or not at all", theme.ink2),
        ]
        left_words(p, self.state, 4, "Plan", lines)
        draw.text_at(p, LEFT, self.plan_h + CHAIN_H + 20, "Side", theme.ink, 16, 700)
        draw.text_at(p, LEFT, self.plan_h + CHAIN_H + 38, "cut on the centre line", theme.ink2, 13.5)
        draw.text_at(p, LEFT, self.lanes_top - 6, "What it asks for", theme.ink, 15, 700)

    def _chain(self, p: QPainter, g: Instrument) -> None:
        """The chain of tail and scale between the views, with its stations."""
        theme, at = self.state.theme, stations(g)
        y = self.plan_h + SLIP_H / 2
        p.setPen(QPen(theme.ink2, 1.2))
        for a, b in ((0.0, at.bridge), (at.bridge, at.nut)):
            p.drawLine(QPointF(self.axis_now.x(a), y), QPointF(self.axis_now.x(b), y))
        p.setPen(QPen(theme.hair, 1))
        for x in (at.bridge, at.board_end, at.nut):
            p.drawLine(QPointF(self.axis_now.x(x), self._y(0)), QPointF(self.axis_now.x(x), self._z(0)))
        p.setPen(Qt.PenStyle.NoPen)
        p.setBrush(theme.ink)
        for x in (0.0, at.bridge, at.nut):
            p.drawEllipse(QPointF(self.axis_now.x(x), y), 3, 3)

    def _leaders(self, p: QPainter, g: Instrument) -> None:
        """A hairline from each slip beside the plan to the place that it measures."""
        p.setPen(QPen(self.state.theme.ink2, 1))
        for button in self.slips.values():
            slip = button.slip
            if slip.view == "plan" and slip.row and button.isVisible():
                x, half = self.axis_now.x(slip.x_mm), board_half_mm(g, slip.x_mm)
                box = button.geometry()
                end = QPointF(x, self._y(half if slip.row < 0 else -half))
                p.drawLine(QPointF(box.center().x(), box.bottom() if slip.row < 0 else box.top()), end)

    def _marker(self, p: QPainter) -> None:
        p.setPen(QPen(self.state.theme.chalk, 2))
        x = self.axis_now.x(self.state.draw_mm)
        p.drawLine(QPointF(x, 0), QPointF(x, self.lanes_top - 8))

    def _panel(self, p: QPainter, g: Instrument, woods: dict[str, Wood]) -> None:
        theme, x0 = self.state.theme, self.width() - PANEL_W
        p.fillRect(QRectF(x0, 0, PANEL_W, self.lanes_top - 8), theme.ground)
        if self.state.preview is not None:
            self._would(p, g, x0 + 16)
            return
        high = max(52.0, min(108.0, self.lanes_top - 8 - 44 - 56 - 104))
        box = QRectF(x0 + 40, 40, PANEL_W - 80, high)
        section = paint_section(p, theme, g, self.state.draw_mm, box, woods)
        draw.text_at(p, x0 + 16, 24, "Neck at the marker", theme.ink, 16, 700)
        y = 40 + high + 24
        if section is None:
            draw.text_at(p, x0 + 16, 70, "Move the marker onto the neck to cut it there.", theme.ink2, 14, room=PANEL_W - 30)
        else:
            text = "{} wide, {} deep, {} under the rod".format(
                *(self.state.told(mm, ".1f") for mm in (section.width_mm, section.depth_mm, section.left_mm))
            )
            draw.text_at(p, x0 + 16, y, text, theme.ink, 14.5, 600, room=PANEL_W - 30)
            y += 21
        self._checks(p, g, x0 + 16, y)

    def _checks(self, p: QPainter, g: Instrument, x: float, y: float) -> None:
        """What does not hold, first; then what the rack gives, what to mind at the joints, what is guessed, how it balances: as much as has
        room above the button."""
        bottom = self.lanes_top - 8 - 52
        for text, colour, weight in self._panel_rows(g):
            if y > bottom:
                return
            draw.text_at(p, x, y, text, colour, 14 if weight > 400 else 13.5, weight, room=PANEL_W - 30)
            y += 19

    def _to_mind(self, known: dict[str, StockAnswer]) -> list[tuple[str, JointWarning]]:
        """What to mind at the joints, worked out once for the lanes, the wood and the kit as they are."""
        shop = self.state.shop
        pieces = {part: shop.piece(a.piece) for part, a in known.items() if a.word in ("gives", "if") and shop.has_piece(a.piece)}
        key = (self._lane_key, tuple((part, id(piece)) for part, piece in pieces.items()), id(shop.kit))
        if key != self._mind_key:
            self._mind_key, self._minded = key, to_mind(self.lanes, pieces, shop.kit, shop.air.year)
        return self._minded

    def _panel_rows(self, g: Instrument) -> Iterator[tuple[str, QColor, int]]:
        """(words, colour, weight), what counts most first."""
        theme = self.state.theme
        red = [c for c in checks_of(g) if not c.holds]
        for check in red[:3]:
            yield check.text, theme.wine, 600
            yield check.why, theme.ink2, 400
        known = {lane.blank.part: answer for lane in self.lanes if (answer := self.answers.known(lane.blank.part)) is not None}
        gives = sum(answer.word == "gives" for answer in known.values())
        yield f"{gives} of {len(self.lanes)} blanks lie on the rack, each by itself.", theme.ink, 600
        shop = self.state.shop
        for joint, warning in self._to_mind(known)[:2]:
            yield f"{warning.text} ({joint})", theme.wine if warning.grade == "block" else theme.ochre, 400
        if not red:
            yield "Everything that follows from the figures holds.", theme.ink2, 400
        if guessed := guessed_count(g):
            yield f"{guessed} figures are only guessed: dashed ochre.", theme.ochre, 400
        balance = balance_of(g, shop.kit.library)
        grams = round(1000 * abs(balance.bass_less_treble_kg))
        side = f"; {'bass' if balance.bass_less_treble_kg > 0 else 'treble'} side {grams} g heavier" if grams >= 5 else ""
        yield f"Balances {format_length(round(balance.from_tail_mm), shop.kit.length_style)} from the tail{side}", theme.ink2, 400
        glued = [m.label for m in tree_of(g, shop.kit.cuts.allowances).glue_ups]
        if glued:
            yield f"{len(glued)} glue-ups, {glued[0]} first", theme.ink2, 400

    def _would(self, p: QPainter, g: Instrument, x: float) -> None:
        """What the change that is shown would do, what gets in the way first."""
        theme, kit = self.state.theme, self.state.shop.kit
        draw.text_at(p, x, 24, "What it would do", theme.ink, 16, 700)
        if not self.changing or self.kept is None:
            draw.text_at(p, x, 50, f"Begin {g.shown_name}. Enter keeps it.", theme.ink2, 14, room=PANEL_W - 30)
            return
        rows = knock_ons(self.kept, g, kit.cuts.allowances, kit.length_style)
        trouble = sum(r.trouble for r in rows)
        words = f"{len(rows)} things move" + (f", {trouble} in the way" if trouble else "") if rows else "Nothing else moves."
        draw.text_at(p, x, 44, words, theme.wine if trouble else theme.ink2, 14, 600, room=PANEL_W - 30)
        y, bottom = 68.0, self.lanes_top - 70
        for k, row in enumerate(rows):
            if y + 34 > bottom:
                draw.text_at(p, x, y, f"and {len(rows) - k} more", theme.ink2, 14)
                break
            ink = theme.wine if row.trouble else theme.ink
            wide = draw.text_width(row.delta, 14, 600, figures=True)
            draw.text_at(p, x, y, row.what[:1].upper() + row.what[1:], ink, 14, 600, room=PANEL_W - 44 - wide)
            draw.text_at(p, self.width() - RIGHT - wide, y, row.delta, theme.chalk, 14, 600, figures=True)
            draw.text_at(p, x, y + 16, f"{row.old} → {row.new}", theme.wine if row.trouble else theme.ink2, 13, room=PANEL_W - 42)
            y += 38

    def _empty(self, p: QPainter) -> None:
        """No instrument yet: a ghost of one, and the doors to begin by."""
        theme = self.state.theme
        ghost = begin("bolt-on", "ghost", "ghost")
        axis = Axis(0, 1360, self.width())
        pen = QPen(theme.hair, 1.4)
        pen.setDashPattern([5, 4])

        def to_y(mm: float) -> float:
            return 118 - mm * axis.px_per_mm * GHOST

        plan = plan_of(ghost)
        p.setPen(pen)
        p.setBrush(Qt.BrushStyle.NoBrush)
        for ring in (plan.body, plan.board, plan.head):
            p.drawPath(draw.path_of(ring, lambda mm: axis.x(mm * GHOST), to_y))
        left_words(
            p, self.state, 4, "No guitar yet", [("type scale 628 after you have begun, or press one of these", theme.ink2)]
        )
        draw.text_at(p, AXIS_X, 238, "Begin with", theme.ink, 16, 700)
        draw.text_at(p, AXIS_X, 432, "Each is our own drawing; every figure can be changed, and what you have not said stays dashed. Or type: new bolt-on Heron 7.",
                     theme.ink2, 14, room=self.width() - AXIS_X - RIGHT)  # fmt: skip

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        QTimer.singleShot(0, self.refresh)


def _in_order(buttons: list[SlipButton]) -> list[SlipButton]:
    return sorted(buttons, key=lambda b: b.slip.x_mm)


def _spread(buttons: list[SlipButton], axis: Axis, most: float) -> list[float]:
    """The left edges of slips on one line: as near to their places as they go without touching, none beyond the panel."""
    xs = [axis.x(b.slip.x_mm) - b.width() / 2 for b in buttons]
    for k in range(1, len(xs)):
        xs[k] = max(xs[k], xs[k - 1] + buttons[k - 1].width() + 4)
    limit = most
    for k in range(len(xs) - 1, -1, -1):
        xs[k] = max(AXIS_X - 40.0, min(xs[k], limit - buttons[k].width()))
        limit = xs[k] - 4
    return xs
