"""Saw and wait (F7): the cuts of one board as lanes of what is left after each, and below them what waits, in days."""

from __future__ import annotations

from dataclasses import replace
from datetime import date, timedelta
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any, Self

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QPainter, QPen, QPolygonF, QResizeEvent
from PySide6.QtWidgets import QAbstractButton, QMenu, QWidget
from typing_extensions import override

from grainet.design.brief import WORDS, Hardware
from grainet.design.design import Design
from grainet.design.shape import as_array
from grainet.desk.painting import draw
from grainet.desk.painting.axis import Axis
from grainet.desk.painting.tokens import AXIS_X, LEFT, RIGHT
from grainet.desk.screens.saw.running import draw_running
from grainet.desk.screens.screen import Screen
from grainet.desk.services.dialogs import file_to_write
from grainet.desk.services.pictures import plain_colour
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import WordButton, count_of, left_words
from grainet.desk.widgets.scroll import ScrolledColumn
from grainet.exchange.json_file import Unusable, write_bytes
from grainet.grade.ready import prepare
from grainet.present.running_sizes import running_sizes
from grainet.session.brief import measured
from grainet.session.making import before_cuts
from grainet.session.sawing import board_steps, holds, tick
from grainet.session.surprise import free_parts, surprise_of
from grainet.turns import in_turn
from grainet.wood.piece import Piece
from grainet.wood.species import short_name
from grainet.wood.value import BadEntry
from grainet.work.cautions import Caution
from grainet.work.cut_plan import UnderWay, lost_key
from grainet.work.holds import Held
from grainet.work.waiting import Wait, settling_wait

if TYPE_CHECKING:
    from grainet.desk.screens.screen import Desk
    from grainet.desk.services.planning import Planning
    from grainet.session.lost_part import Again
    from grainet.work.steps import Step

STRIP_H, LANE_H = 54, 40
LEAST_LANES = 5  # of them stand under the board, however wide it is
MOST_WAITS, NO_WAIT_H = 3, 40  # what settles that is drawn, and the height where nothing does
RUNNING_H = 24  # the row of running sizes over the wood
MOST_NOTES = 6  # the gravest; all of them stand in Lay out (Ctrl+G)
MAP_FORMS = {  # what a cut map may be written as, and the paper it tiles over
    "PDF, map over A4 pages (*.pdf)": "A4", "PDF, map over A3 pages (*.pdf)": "A3", "PDF, map over letter pages (*.pdf)": "letter",
    "PDF, map on one page as long as the board (*.pdf)": "", "The map alone, SVG (*.svg)": "", "The map alone, DXF (*.dxf)": "",
}  # fmt: skip
MANY = 400  # pieces from which what waits is worked out in the background


NOTHING_LAID = (
    "The cuts of a plan stand here one by one, each with the figure to set the saw to and what to mind at it. What still has to settle waits below, with its days.",
)


class StepLane(QAbstractButton):
    """One step: its box, its words, what is left after it as slivers of wood. Space or a press ticks it."""

    def __init__(self, screen: SawAndWait, parent: QWidget) -> None:
        super().__init__(parent)
        self.screen, self.step, self.piece = screen, None, None
        self.done = self.next = False
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.clicked.connect(self._press)

    def set(self, step: Step, piece: Piece, *, done: bool, is_next: bool) -> None:
        """Show a step, done or not, and whether it is the next."""
        self.step, self.piece, self.done, self.next = step, piece, done, is_next
        self.setObjectName(f"step.{step.n}")
        state = "done" if done else "next" if is_next else "later"
        self.setAccessibleName(f"{step.n} {step.tool}: {step.text}, {state}")
        self.setToolTip("\n".join([self.accessibleName(), step.note, *(f"{c.grade}: {c.sentence}" for c in step.cautions)]))
        self.update()

    def _press(self) -> None:
        if self.step is not None:
            self.screen.tick(self.step)

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        if self.step is None or self.piece is None:
            return
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, state, step = self.screen.state.theme, self.screen.state, self.step
        if self.next:
            p.fillRect(self.rect(), theme.chalk_wash)
        box = QRectF(LEFT, 8, 24, 24)
        p.setBrush(theme.chalk if self.next else Qt.BrushStyle.NoBrush)
        p.setPen(QPen(theme.chalk if self.next else theme.edge if self.done else theme.ink, 1.6))
        p.drawRoundedRect(box, 2, 2)
        number = str(step.n)
        ink = theme.on_chalk if self.next else theme.ink2 if self.done else theme.ink
        draw.text_at(
            p, box.center().x() - draw.text_width(number, 15, 600, figures=True) / 2, 26, number, ink, 15, 600, figures=True
        )
        draw.text_at(p, 52, 26, step.tool, theme.ink2 if self.done else theme.ink, 14, 600, room=112)
        if self.done:
            p.setPen(QPen(theme.chalk, 2.4))
            p.drawPolyline(QPolygonF([QPointF(24, 20), QPointF(30, 27), QPointF(42, 11)]))
        self._wood(p)
        grave = next((c for c in step.cautions if c.grade == "A"), None)
        axis = self.screen.axis_now
        slip, x = self._slip_x(), self.note_x()
        room = axis.right - x
        if room > 90:
            note = grave.text if grave and self.next else step.note
            draw.text_at(
                p,
                x,
                26,
                note,
                theme.wine if grave and self.next else theme.ink2,
                13.5,
                600 if grave and self.next else 400,
                room=room,
            )
        draw.label(p, theme, slip, 9, step.text, figures=False, px=14)
        if self.hasFocus():
            draw.focus_ring(p, state.theme, QRectF(self.rect()))

    def note_x(self) -> float:
        """Where its note begins: behind the board, and behind the slip of a cut on a board shorter than the slip."""
        assert self.step is not None and self.piece is not None
        slip = self._slip_x() + draw.text_width(self.step.text, 14, 500) + 14
        return max(self.screen.axis_now.x(self.piece.extents[2]), slip) + 12

    def _slip_x(self) -> float:
        """Beside the cut, kept on the axis."""
        assert self.step is not None
        axis = self.screen.axis_now
        x = axis.x(self.step.cut.line[0][0]) + 8
        wide = draw.text_width(self.step.text, 14, 500) + 16
        end = axis.x(self.piece.extents[2]) if self.piece is not None else axis.right
        return max(axis.left + 4, min(x, end - wide))

    def _wood(self, p: QPainter) -> None:
        """The pieces in hand after this step, x true, y pressed into the lane; what the step works on is bright."""
        assert self.step is not None and self.piece is not None
        theme, state, axis, piece = self.screen.state.theme, self.screen.state, self.screen.axis_now, self.piece
        _, y0, _, y1 = piece.extents
        top, high = 5.0, self.height() - 11.0
        made = set(self.step.cut.gives)

        def to_y(y: float) -> float:
            return top + (y1 - y) / (y1 - y0) * high

        picture = state.pictures.get(piece, "face1")
        whole = QRectF(axis.left, top, axis.x(piece.extents[2]) - axis.left, high)
        for hand in self.step.after:
            shape = draw.path_of(hand.ring, axis.x, to_y)
            pale = "out" if self.done or (hand.id not in made and not hand.part) else "if" if hand.id not in made else ""
            draw.wood_texture(p, theme, shape, picture, whole, plain_colour(piece.species), pale)
            draw.outline(p, shape, theme.ink if hand.id in made and not self.done else theme.edge, 1.3)
        for hand in self.step.after:
            if hand.part and hand.id in made:
                xs = [x for x, _ in hand.ring]
                draw.label(
                    p, theme, axis.x(max(xs)) - draw.text_width(hand.part, 15, 500, figures=True) - 16, 9, hand.part, px=15
                )


class SawAndWait(Screen):
    """The screen."""

    planned = Signal(object, object)  # Job, Plan: what would make a lost part again

    @classmethod
    @override
    def made(cls, desk: Desk) -> Self:
        """A screen in a window: what would make a lost part again is the plan that Lay out shows."""
        screen = cls(desk.state, desk.planning)
        screen.planned.connect(desk.planning.take)
        return screen

    has_axis = True
    prints = True

    def __init__(self, state: State, planning: Planning) -> None:
        super().__init__(state)
        self.planning = planning
        self._board: str | None = None  # chosen by hand
        self._surprised = ""  # why the plan does not hold any more
        state.part_lost.connect(self.look_again)
        self.again: Again | None = None  # whether a lost part can be made again; None while that is looked for
        self._again_asked: object = None
        self._no_answer = ""  # why nothing could be looked for
        self.running: list[str] = []  # the running sizes that found room over the wood
        self.setObjectName("sawAndWait")
        self.axis_now = Axis(0, 2400, 1280)
        self._waits: tuple[tuple[int, date], list[Wait]] | None = None
        self._wait_of: dict[str, tuple[tuple[object, ...], Wait | None]] = {}
        self._waiting_for: tuple[int, date] | None = None
        self.builds: list[WordButton] = []
        self.boards: list[WordButton] = []
        self.lanes: list[StepLane] = []
        self.scroll = ScrolledColumn(self)
        self.tick_it = WordButton(state, "Step done", "Ctrl+Enter", chalk=True, parent=self, name="saw.tick")
        self.tick_it.clicked.connect(self.primary_action)
        self.print_it = WordButton(state, "Cut map", "Ctrl+P", chalk=False, parent=self, name="saw.print")
        self.print_it.clicked.connect(self.print_map)
        self.surprise_it = WordButton(state, "A surprise", "Ctrl+Shift+X", chalk=False, parent=self, name="saw.surprise")
        self.surprise_it.clicked.connect(self.offer_surprises)
        self.measured_it = WordButton(state, "It is measured", "", parent=self, name="saw.measured")
        self.measured_it.clicked.connect(self.say_measured)
        self.measured_it.setFixedHeight(RUNNING_H + 6)
        self.measured_it.hide()

    # which build, which board -------------------------------------------------------------------------------------
    @property
    def under_way(self) -> UnderWay | None:
        """The plan of the build in hand, else the first that was accepted."""
        return self.state.shop.plans.in_hand(self.state.design_id)

    @property
    def board_id(self) -> str | None:
        """The board whose steps are shown: the piece in hand, the chosen one, or the first that is not sawn."""
        under_way = self.under_way
        if under_way is None:
            return None
        if self.state.piece_id in under_way.boards:
            return self.state.piece_id
        if self._board in under_way.boards:
            return self._board
        return next((b for b in under_way.boards if not under_way.sawn(b)), under_way.boards[0] if under_way.boards else None)

    def _choose_board(self, board: str) -> None:
        self._board = board
        if self.state.shop.has_piece(board) and not self.state.shop.piece(board).gone:
            self.state.choose_piece(board)
        self.refresh()

    def steps(self) -> list[Step]:
        """The steps of that board."""
        under_way, board = self.under_way, self.board_id
        if under_way is None or board is None:
            return []
        key = (under_way.plan, board, self.state.shop.kit.length_style)
        if getattr(self, "_steps_key", None) != key:
            first = before_cuts(self.state.shop, under_way, board)
            self._steps_key = key
            self._steps = [
                replace(s, note="; ".join(w for w in (first.get(s.cut.n, ""), s.note) if w))
                for s in board_steps(self.state.shop, under_way, board)
            ]
        return self._steps

    # doing --------------------------------------------------------------------------------------------------------
    def next_step(self) -> Step | None:
        """The first step that is not done."""
        under_way = self.under_way
        return next((s for s in self.steps() if under_way is not None and not under_way.done(s.cut)), None)

    def typed_here(self) -> list[tuple[str, str, str]]:
        """What may be typed here alone."""
        return [
            ("went place", "the next cut was made elsewhere", "went 612"),
            ("lost part", "a part of the plan is lost", "lost B"),
        ]

    def first_stop(self) -> QWidget | None:
        """The step that comes next."""
        upcoming = self.next_step()
        lanes = [lane for lane in self.lanes if lane.isVisibleTo(self)]
        return next((lane for lane in lanes if lane.step is upcoming), lanes[0] if lanes else super().first_stop())

    def primary_action(self) -> None:
        """What its chalk-filled button does: the next step; after a surprise planning what is left."""
        if self.surprise() and self.under_way is not None:
            self.state.plan_wanted.emit(self.under_way.designs[0])
            return
        step = self.next_step()
        if step is not None:
            self.tick(step)

    def tick(self, step: Step) -> None:
        """Tick a step; a grave caution is shown first and a second press agrees to it."""
        under_way, board = self.under_way, self.board_id
        if under_way is None or board is None:
            return
        agreed = getattr(self, "_asked", None) == (board, step.cut.n)
        try:
            new = tick(self.state.shop, under_way, board, step, agreed=agreed)
        except Held as fault:
            self._asked = (board, step.cut.n) if fault.hold.kind == "caution" else None
            self.state.warn(str(fault) + (" Press once more to agree." if self._asked else ""))
            self.refresh()
            return
        self._asked = None
        if board in new.returned and board not in under_way.returned:
            back = sum(o.keep for o in new.plan.offcuts if o.piece == board)
            self._board = board
            self.state.notify(f"No. {board} is sawn; {count_of(back, 'offcut')} came back: F9")
            self.state.choose_piece(next((b for b in new.boards if not new.sawn(b)), self.state.piece_id or ""))
        else:
            self.state.notify(f"step {step.n} {'done' if new.done(step.cut) else 'taken back'}")

    # what is only guessed -----------------------------------------------------------------------------------------
    @property
    def guessed(self) -> tuple[Design, Hardware] | None:
        """The bought part that holds the next cut because it is only guessed; None where none does."""
        under_way, board, step = self.under_way, self.board_id, self.next_step()
        if under_way is None or board is None or step is None:
            return None
        hold = next(holds(self.state.shop, under_way, board, step), None)
        if hold is None or hold.about is None:
            return None
        design = next((d for d in self.state.shop.designs() if d.id == hold.about[0]), None)
        row = next((h for h in design.brief if h.kind == hold.about[1]), None) if design is not None else None
        return (design, row) if design is not None and row is not None else None

    def say_measured(self) -> None:
        """The part that is only guessed was measured, and is as the brief has it."""
        if (found := self.guessed) is not None:
            design, row = found
            label = f"{WORDS[row.kind][0].lower()} {self.state.told(row.mm, 'g')}, in hand"
            self.state.keep_brief(design, label, lambda: measured(self.state.shop, design, row.kind))

    # surprises ----------------------------------------------------------------------------------------------------
    def surprise(self) -> str:
        """Why the plan does not hold any more for what is still to saw; empty where it does."""
        under_way = self.under_way
        return surprise_of(self.state.shop, under_way) if under_way is not None else ""

    def offer_surprises(self) -> None:
        """What can go otherwise while sawing: a crack, metal, a cut that went elsewhere, a part that is lost."""
        under_way, board = self.under_way, self.board_id
        if under_way is None or board is None:
            self.state.warn("nothing is being sawn here; plan a build first: F5")
            return
        menu = QMenu(self)
        sawn = board in under_way.returned or not self.state.shop.has_piece(board)
        if not sawn:
            self.state.choose_piece(board)
        onwards = (("A crack showed", "crack "), ("Metal showed", "nail "), ("The next cut went elsewhere", "went "))
        for label, words in () if sawn else onwards:
            menu.addAction(label).triggered.connect(lambda _=False, words=words: self.state.tape_wanted.emit(words))
        free = sorted(free_parts(under_way))
        lost = menu.addMenu("A part is lost")
        lost.setEnabled(bool(free))  # what is not cut yet cannot be lost: the wood is marked
        for name in free:
            lost.addAction(name).triggered.connect(lambda _=False, name=name: self.state.tell_surprise(board, name))
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.popup(self.surprise_it.mapToGlobal(self.surprise_it.rect().bottomLeft()))

    def look_again(self) -> None:
        """Look for what makes a lost part again, beside the window; the sentence stands where the surprise does."""
        under_way = self.under_way
        if under_way is None or not under_way.progress.lost:
            return
        shop = self.state.shop
        design = next((d for d in shop.designs() if d.id in under_way.designs), None)
        asked = (under_way.id, under_way.progress.lost)
        if design is None or self._again_asked == asked:
            return
        self._again_asked, self.again, self._no_answer = asked, None, ""

        def work() -> object:
            from grainet.desk.services.plan_apart import plan_apart
            from grainet.session.lost_part import made_again

            try:
                return made_again(shop, design, plan_apart)
            except BadEntry as fault:
                return str(fault)

        self.state.background.start(work, partial(self._found_again, asked), 3)

    def _found_again(self, asked: object, found: object) -> None:
        if asked != self._again_asked:
            return
        from grainet.session.lost_part import Again

        if isinstance(found, Again):
            self.again = found
            if found.job is not None and found.plan is not None:
                self.planned.emit(found.job, found.plan)
            self.state.notify(found.words)
        elif isinstance(found, str):
            self._no_answer = found
            self.state.warn(found)
        self.refresh()

    def print_map(self, path: str | None = None, paper: str | None = None) -> None:
        """The board's cut list and true-size map as PDF, or the map alone as SVG or DXF, by the name's ending."""
        from grainet.exchange.cut_map import cut_map_pdf, write_cut_map

        under_way, board = self.under_way, self.board_id
        if under_way is None or board is None:
            self.state.warn("there is no plan to print yet: F5")
            return
        if not path:
            path, form = file_to_write(self, "Cut map", f"{under_way.id} No {board}.pdf", ";;".join(MAP_FORMS))
            paper = MAP_FORMS.get(form, "A4") if paper is None else paper
        if not path:
            return
        name = next((d.name for d in self.state.shop.designs() if d.id in under_way.designs), under_way.id)
        style, wood = self.state.shop.kit.length_style, under_way.job.piece(board)
        try:
            if Path(path).suffix.lower() == ".pdf":
                write_bytes(Path(path), cut_map_pdf(under_way.job, under_way.plan, wood, self.steps(), style, name, paper or ""))
            else:
                write_cut_map(Path(path), under_way.job, under_way.plan, wood, style, name)
        except Unusable as fault:
            self.state.warn(str(fault))
            return
        self.state.notify(f"the cut map of No. {board} is in {Path(path).name}; print at 100 %")

    # layout -------------------------------------------------------------------------------------------------------
    def axis(self, width: int, height: int) -> Axis:
        """The axis that fits the board into so many px."""
        under_way, board = self.under_way, self.board_id
        if under_way is None or board is None:
            return Axis(0, 2400, width)
        piece = under_way.job.piece(board)
        x1, across = piece.extents[2], piece.extents[3] - piece.extents[1]
        most = max(110, height - STRIP_H - RUNNING_H - 16 - LEAST_LANES * LANE_H - self._wait_high())
        scale = min((width - AXIS_X - RIGHT) / max(1.0, x1), most / max(1.0, across))
        scale = min(scale, 0.72 * (width - AXIS_X - RIGHT) / max(1.0, x1))  # room for the notes beside the lanes
        return Axis(0, (width - AXIS_X - RIGHT) / scale, width)

    def set_axis(self, axis: Axis) -> None:
        """Show the board on an axis."""
        self.axis_now = axis
        self.refresh()

    def _wait_high(self) -> int:
        """How high the foot is where what settles stands."""
        shown = len(self.waits()[:MOST_WAITS])
        return 48 + 40 * shown if shown else NO_WAIT_H

    def _board_high(self) -> float:
        under_way, board = self.under_way, self.board_id
        if under_way is None or board is None:
            return 0.0
        piece = under_way.job.piece(board)
        return (piece.extents[3] - piece.extents[1]) * self.axis_now.px_per_mm

    def refresh(self) -> None:
        """Bring everything up to date and in its place."""
        if not self.isVisible():
            return
        under_way, board = self.under_way, self.board_id
        self._buttons(under_way, board)
        steps = self.steps()
        while len(self.lanes) < len(steps):
            self.lanes.append(StepLane(self, self.scroll.inner))
        upcoming = self.next_step()
        for k, lane in enumerate(self.lanes):
            lane.setVisible(k < len(steps))
            if k < len(steps) and under_way is not None and board is not None:
                lane.set(
                    steps[k],
                    under_way.job.piece(board),
                    done=under_way.done(steps[k].cut),
                    is_next=upcoming is not None and steps[k].n == upcoming.n,
                )
        flow.column(self.lanes[: len(steps)], 0, 0, self.width(), high=LANE_H, gap=0)
        top = int(STRIP_H + RUNNING_H + self._board_high() + 16)
        notes = len(self.before_gluing())
        bottom = self.height() - self._wait_high() - (notes * 19 + 12 if notes else 0)
        flow.fill(self.scroll, 0, top, self.width(), max(top + 40, bottom))
        self.scroll.set_size(self.width(), len(steps) * LANE_H)
        if upcoming is not None and getattr(self, "_shown_step", None) != (board, upcoming.n):
            self._shown_step = (board, upcoming.n)
            self.scroll.ensureVisible(10, upcoming.n * LANE_H - LANE_H // 2, 0, 2 * LANE_H)
        self._surprised = self.surprise()
        if self._surprised:
            self.look_again()  # a shop that was closed meanwhile asks again
        words = (
            "Plan the rest again" if self._surprised else "Step done" if upcoming else "All sawn" if steps else "Nothing to saw"
        )
        self.tick_it.say(words, enabled=upcoming is not None or bool(self._surprised))
        self.scroll.setVisible(under_way is not None and board is not None)
        sizes = [(self.tick_it, 180), (self.print_it, 120), (self.surprise_it, 120)]
        flow.row_to_right([(b, max(least, b.sizeHint().width())) for b, least in sizes], self.width() - RIGHT, 5)
        self.print_it.say("Cut map", enabled=bool(steps))
        found = self.guessed if not self._surprised else None
        self.measured_it.setVisible(found is not None)
        if found is not None:
            self.measured_it.say(f"{self.state.told(found[1].mm, 'g')} is measured")
            self.measured_it.setToolTip(
                f"{WORDS[found[1].kind][0]} of {found[0].name} was measured: {self.state.told(found[1].mm, 'g')}, in hand"
            )
            flow.row_to_right(
                [(self.measured_it, self.measured_it.sizeHint().width())], self.width() - RIGHT, STRIP_H - 4, high=RUNNING_H + 6
            )
        self.surprise_it.say("A surprise", enabled=bool(steps))
        self.update()

    def _buttons(self, under_way: UnderWay | None, board: str | None) -> None:
        names = {d.id: d.name for d in self.state.shop.designs()}
        accepted = self.state.shop.plans.accepted()
        wanted = [("build", one.designs[0], names.get(one.designs[0], one.id)) for one in accepted] + [
            ("board", b, f"No. {b}") for b in (under_way.boards if under_way else [])
        ]
        if [b.property("means") for b in self.builds] != [(k, i) for k, i, _ in wanted]:
            for old in self.builds:
                old.deleteLater()
            self.builds = []
            for kind, ident, label in wanted:
                button = WordButton(self.state, label, "", chalk=False, parent=self, name=f"saw.{kind}.{ident}")
                button.setProperty("means", (kind, ident))
                button.setCheckable(True)
                act = self.state.choose_design if kind == "build" else self._choose_board
                button.clicked.connect(lambda _=False, act=act, ident=ident: act(ident))
                button.show()
                self.builds.append(button)
        x = LEFT
        for button, (kind, ident, label) in zip(self.builds, wanted):
            done = kind == "board" and under_way is not None and under_way.sawn(ident)
            button.say(label + (" sawn" if done else ""))
            button.setChecked(ident == (under_way.designs[0] if kind == "build" and under_way else board))
            wide = int(draw.text_width(button.text(), 15, 600)) + 28
            x = flow.row([(button, wide)], x, 5, gap=8 if kind == "board" else 14)

    # painting -----------------------------------------------------------------------------------------------------
    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.state.theme
        p.fillRect(self.rect(), theme.bench)
        under_way, board = self.under_way, self.board_id
        if under_way is None or board is None:
            room = QRectF(AXIS_X, STRIP_H + 10, self.width() - AXIS_X - RIGHT, self.height() - self._wait_high() - STRIP_H - 20)
            not_kept = self.planning.fresh is not None and bool(self.planning.fresh[1].placements)
            first = (
                "A plan is made, but not kept: F5, then Alt+S" if not_kept else "Nothing is laid out yet. Plan a build first: F5"
            )
            draw.empty(p, theme, room, first, NOTHING_LAID)
        else:
            p.fillRect(QRectF(0, self.scroll.y(), self.width(), self.scroll.height()), theme.ground)
            self._live(p, under_way, under_way.job.piece(board))
            self._gluing(p)
        self._waiting(p)

    def _live(self, p: QPainter, under_way: UnderWay, piece: Piece) -> None:
        """The board: what is in hand for the next step is bright, the rest pale; face mark, grain arrow, cut line."""
        theme, axis = self.state.theme, self.axis_now
        steps, upcoming = self.steps(), self.next_step()
        y0, y1 = piece.extents[1], piece.extents[3]

        def to_y(y: float) -> float:
            return STRIP_H + RUNNING_H + 6 + (y1 - y) * axis.px_per_mm

        picture = self.state.pictures.get(piece, "face1")
        target = QRectF(axis.left, to_y(y1), axis.x(piece.extents[2]) - axis.left, to_y(y0) - to_y(y1))
        whole = draw.path_of(piece.outline, axis.x, to_y)
        draw.wood_texture(p, theme, whole, picture, target, plain_colour(piece.species), "out")
        draw.outline(p, whole, theme.edge, 1.2)
        left = steps[-1].after if steps and self._surprised and upcoming is None else ()  # what is planned again
        for hand in [upcoming.worked_on] if upcoming is not None else left:
            shape = draw.path_of(hand.ring, axis.x, to_y)
            draw.wood_texture(p, theme, shape, picture, target, plain_colour(piece.species))
            draw.outline(p, shape, theme.ink, 2)
        shop = self.state.shop
        for defect in (
            shop.piece(piece.id) if shop.has_piece(piece.id) else piece
        ).defects:  # what showed since it was planned, too
            draw.trouble(p, theme, defect, axis.x, to_y)
        for one in under_way.plan.placements:
            if one.piece == piece.id and one.leaf == 1:
                part = under_way.job.part(one.part)
                path = draw.path_of(one.polygon, axis.x, to_y)
                lost = lost_key(one) in under_way.progress.lost
                name = part.letter + (f" ×{part.leaves}" if part.leaves > 1 else "") + (" lost" if lost else "")
                draw.part_pattern(p, theme, part, path, [], name, "")
        if upcoming is not None:
            self._kerf(p, upcoming, to_y, under_way)
        p.fillRect(QRectF(axis.left - 7, target.y(), 6, target.height()), theme.chalk)
        corner = QPolygonF([target.topLeft(), QPointF(target.x() + 22, target.y()), QPointF(target.x(), target.y() + 22)])
        p.setBrush(draw.LIGHT_ON_WOOD.chalk)
        p.setPen(Qt.PenStyle.NoPen)
        p.drawPolygon(corner)
        draw.grain_arrow(p, draw.LIGHT_ON_WOOD.ink, target.x() + 34, target.bottom() - 12)
        x0 = piece.extents[0]
        sawn = {s.cut.n for s in steps if under_way.done(s.cut)}
        kerfs = running_sizes(steps, under_way.job.kit, sawn, upcoming.n if upcoming is not None else None, (x0, y0))
        self.running = draw_running(
            p, theme, kerfs, self.state.shop.kit.length_style, (x0, y0), axis.x, to_y, STRIP_H + 2, target
        )
        done = len(under_way.made_of(piece.id))
        lines = [
            (f"{short_name(piece.species).lower()}, face 1 up", theme.ink2),
            (f"{done} of {len(steps)} cuts done", theme.ink),
            *([("running sizes above", theme.ink2)] if kerfs and target.height() > 60 else []),  # else the steps stand there
        ]
        left_words(p, self.state, target.y() - 6, f"No. {piece.id}", lines)
        if (upcoming is not None or self._surprised) and axis.right - target.right() > 120:
            self._cautions(p, upcoming, target.right() + 14, target.y() + 8, axis.right - target.right() - 14, target.bottom())

    def _kerf(self, p: QPainter, step: Step, to_y: Any, under_way: UnderWay) -> None:
        """The kerf of the next cut at its true width, under a dashed line."""
        if step.cut.tool == "resaw":
            return
        points = QPolygonF([QPointF(self.axis_now.x(x), to_y(y)) for x, y in as_array(step.cut.line)])
        width = getattr(under_way.job.kit.kerf_mm, step.cut.tool) * self.axis_now.px_per_mm
        for pen in (QPen(draw.LIGHT_ON_WOOD.slip, max(5.0, width + 3)), QPen(draw.LIGHT_ON_WOOD.ink, max(1.6, width))):
            p.setPen(pen)
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawPolyline(points)

    def _cautions(self, p: QPainter, step: Step | None, x: float, y: float, room: float, bottom: float) -> None:
        from grainet.desk.widgets.controls import wrapped

        theme = self.state.theme
        told = [("A", f"{self._surprised} What is cut stays; plan the rest again.")] if self._surprised else []
        if told and self.under_way is not None and self.under_way.progress.lost:
            waits = self._no_answer or "Whether the rack makes another is looked for ..."
            told.append(("B", self.again.words if self.again is not None else waits))
        told += [(c.grade, c.text) for c in step.cautions if c.topic != "glue"] if step is not None and not told else []
        for k, (grade, text) in enumerate(told):
            rows = wrapped(text, 13, room, 600 if grade == "A" else 400)
            more_below = 17 if k < len(told) - 1 else 0  # the line that says how many more there are wants its room too
            if k and y + 17 * (len(rows) - 1) + more_below > bottom + 4:  # a caution stands whole or not at all
                draw.text_at(p, x, y + 4, f"and {len(told) - k} more, told where the mouse rests", theme.ink2, 13, room=room)
                return
            for line in rows:
                draw.text_at(p, x, y + 4, line, theme.wine if grade == "A" else theme.ink2, 13, 600 if grade == "A" else 400)
                y += 17
            y += 3

    def before_gluing(self) -> list[Caution]:
        """What the step in hand says of gluing its board's parts, once it is the last one."""
        step = self.next_step() if self.under_way is not None and self.board_id is not None else None
        return [c for c in step.cautions if c.topic == "glue"][:MOST_NOTES] if step is not None else []

    def _gluing(self, p: QPainter) -> None:
        """What to mind before gluing, between the lanes and what waits."""
        theme, notes = self.state.theme, self.before_gluing()
        if not notes:
            return
        foot = self.height() - self._wait_high()
        top = foot - len(notes) * 19 - 10
        p.fillRect(QRectF(0, top, self.width(), foot - top), theme.ground)
        draw.text_at(p, LEFT, top + 18, "Before gluing", theme.ink, 15, 700)
        for k, note in enumerate(notes):
            ink = {"A": theme.wine, "B": theme.ochre}.get(note.grade, theme.ink)
            draw.text_at(
                p,
                AXIS_X,
                top + 18 + 19 * k,
                f"{note.joint}: {note.text}",
                ink,
                14,
                600 if note.grade == "A" else 400,
                room=self.width() - AXIS_X - RIGHT,
            )

    # waiting ------------------------------------------------------------------------------------------------------
    def waits(self) -> list[Wait]:
        """What settles: every piece on the rack that is not dry yet."""
        basis = (self.state.shop.version, self.state.today)
        if self._waits is None or self._waits[0] != basis:
            pieces = self.state.shop.pieces()
            if len(pieces) < MANY:
                self._waits = (basis, self._settling(pieces))
            elif self._waiting_for != basis:  # a rack of thousands is looked over off the window's thread
                self._waiting_for = basis
                shop = self.state.shop
                self.state.background.start(
                    lambda: shop.steady(lambda: self._settling(pieces)), lambda found: self._looked(basis, found), 1
                )
        return self._waits[1] if self._waits is not None else []

    def _settling(self, pieces: list[Piece]) -> list[Wait]:
        """The waits of these pieces, the soonest ready first; those of pieces that stayed as they were are taken from the last time."""
        shop, today, kit, year = self.state.shop, self.state.today, self.state.shop.kit, self.state.shop.air.year
        old, kept = self._wait_of, {}

        def same(p: Piece) -> bool:
            told = old[p.id][0] if p.id in old else (None,) * 4
            return told[0] is p and told[1] is kit and told[2] is year and told[3] == today

        fresh = [p for p in pieces if not same(p)]
        prepare(fresh, kit)  # all of them in one go
        anew = {p.id for p in fresh}
        for p in in_turn(pieces):
            if p.id not in anew:
                kept[p.id] = old[p.id]
            elif shop.has_piece(p.id):
                wait = settling_wait(p, kit, today, known=shop.judgements.facts(p.id).ready) if p.all_thicknesses_mm else None
                kept[p.id] = ((p, kit, year, today), wait)
        self._wait_of = kept
        return sorted((w for _, w in kept.values() if w is not None), key=lambda w: w.ready)

    def _looked(self, basis: tuple[object, ...], found: object) -> None:
        if basis == self._waiting_for:
            self._waits = (basis, found if isinstance(found, list) else [])
            self.update()

    def _waiting(self, p: QPainter) -> None:
        theme = self.state.theme
        high = self._wait_high()
        top = self.height() - high
        p.fillRect(QRectF(0, top, self.width(), high), theme.bench)
        p.setPen(QPen(theme.hair, 1))
        p.drawLine(QPointF(0, top), QPointF(self.width(), top))
        draw.text_at(p, LEFT, top + 24, "Waiting", theme.ink, 16, 700)
        waits = self.waits()[:MOST_WAITS]
        if not waits:
            settled = "Nothing waits: every piece that was read is settled."
            draw.text_at(p, AXIS_X, top + 24, settled if self.state.shop.pieces() else "Nothing waits yet.", theme.ink2, 15)
            return
        today = self.state.today
        first = min([today, *(w.start for w in waits)])
        last = max(w.latest for w in waits)
        days = max(14, (last - first).days + 8)
        left, right = float(AXIS_X), self.width() - RIGHT

        def x_of(day: date) -> float:
            return left + (right - left) * (day - first).days / days

        self._calendar(p, top, first, days, x_of)
        for k, wait in enumerate(waits):
            self._wedge(p, wait, top + 46 + k * 40, x_of, today)
        flag = x_of(today)
        for pen in (QPen(theme.bench, 4), QPen(theme.chalk, 2)):
            p.setPen(pen)
            p.drawLine(QPointF(flag, top + 30), QPointF(flag, top + high - 4))
        text = f"{today:%a} {today.day}"
        wide = draw.text_width(text, 14, 600, figures=True) + 12
        p.fillRect(QRectF(flag - wide / 2, top + 8, wide, 20), theme.chalk)
        draw.text_at(p, flag - wide / 2 + 6, top + 23, text, theme.on_chalk, 14, 600, figures=True)

    def _calendar(self, p: QPainter, top: float, first: date, days: int, x_of: Any) -> None:
        theme = self.state.theme
        step = 7 if days < 80 else 14 if days < 160 else 28
        p.setPen(QPen(theme.edge, 1))
        p.drawLine(QPointF(x_of(first), top + 32), QPointF(x_of(first + timedelta(days=days)), top + 32))
        flag = x_of(self.state.today)
        for k in range(0, days + 1, step):
            day = first + timedelta(days=k)
            x = x_of(day)
            p.setPen(QPen(theme.edge, 1))
            p.drawLine(QPointF(x, top + 32), QPointF(x, top + 38))
            if abs(x - flag) > 56:
                draw.text_at(p, x, top + 26, f"{day.day} {day:%b}", theme.ink, 14, 500, figures=True)

    def _wedge(self, p: QPainter, wait: Wait, y: float, x_of: Any, today: date) -> None:
        """A wedge that tapers with the moisture gap: what is past solid, what is forecast pale, half to double as a bar."""
        theme = self.state.theme
        draw.text_at(p, LEFT, y + 14, wait.name, theme.ink, 15, 600)
        draw.text_at(p, LEFT, y + 30, wait.detail, theme.ink2, 13, room=150)
        a, b, now = x_of(wait.start), x_of(wait.ready), min(max(x_of(today), x_of(wait.start)), x_of(wait.ready))
        high = 18.0
        share = (b - now) / max(1.0, b - a)
        pale = QPolygonF([QPointF(now, y + 24), QPointF(now, y + 24 - high * share), QPointF(b, y + 22), QPointF(b, y + 24)])
        solid = QPolygonF(
            [QPointF(a, y + 24), QPointF(a, y + 24 - high), QPointF(now, y + 24 - high * share), QPointF(now, y + 24)]
        )
        p.setPen(QPen(theme.ochre, 1.3))
        p.setBrush(theme.ochre_wash)
        p.drawPolygon(pale)
        p.setBrush(theme.ochre)
        p.drawPolygon(solid)
        p.setPen(QPen(theme.ink, 2))
        p.drawLine(QPointF(b, y + 2), QPointF(b, y + 26))
        pen = QPen(theme.ochre, 1.5)
        pen.setDashPattern([3, 2])
        p.setPen(pen)
        p.drawLine(QPointF(x_of(wait.soonest), y + 30), QPointF(x_of(wait.latest), y + 30))
        text = f"{wait.from_pct:g} % now, on its way to {wait.wanted_pct:.1f}; ready about {wait.ready.day} {wait.ready:%b}, {wait.soonest.day} {wait.soonest:%b} to {wait.latest.day} {wait.latest:%b}; weigh it again in a week"
        if wait.ready <= today:
            text = f"{wait.from_pct:g} % on {wait.start.day} {wait.start:%b}, on its way to {wait.wanted_pct:.1f}; it should have settled by {wait.ready.day} {wait.ready:%b}: read it again"
        wide = draw.text_width(text, 13.5)
        x = b + 10 if b + 14 + wide < self.width() - RIGHT else max(now + 8, self.width() - RIGHT - wide)
        if x < b:
            draw.label(p, theme, x - 6, y - 1, text, figures=False, px=13, height=20)
        else:
            draw.text_at(p, x, y + 18, text, theme.ink, 13.5)

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.refresh()
