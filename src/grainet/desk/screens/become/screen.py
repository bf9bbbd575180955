"""What can this become: the pieces of the rack, and each instrument that they give, with its margins and the reach of its scale; what they
do not give, with the one number that fails. Asked one instrument after another, so that the first answers stand while the rest is looked at."""

from __future__ import annotations

import json
from typing import Self

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QHideEvent, QPainter, QPen, QResizeEvent
from PySide6.QtWidgets import QAbstractButton, QWidget
from typing_extensions import override

from grainet.design.blanks import blanks_of
from grainet.design.drawing import plan_of, whole_length_mm
from grainet.design.instrument import Instrument
from grainet.design.parts import alike, design_of, label_of
from grainet.design.starting_points import POINTS, begin
from grainet.design.ways import WAYS
from grainet.desk.painting import draw
from grainet.desk.painting.tokens import AXIS_X, LEFT, RIGHT
from grainet.desk.screens.become.heap import Heap
from grainet.desk.screens.screen import Desk, Screen
from grainet.desk.services.pictures import plain_colour
from grainet.desk.services.planner_process import WorkerClient
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import WordButton, count_of
from grainet.desk.widgets.scroll import ScrolledColumn
from grainet.plan.becoming import THICKEST_MM, Becoming, Shortfall, from_data, to_data
from grainet.session.heap_question import HeapQuestion, cuts_for, heap_question
from grainet.wood.units import format_length, lengths_in

ROW_H, TOP = 60, 58
LONGEST_SCALE = 1000.0  # the right end of the scale's reach


class BecomeRow(QAbstractButton):
    """One answer: a small plan in the woods that it would take, what it is, what is to spare, how far its scale reaches."""

    def __init__(self, screen: BecomeScreen, answer: Becoming) -> None:
        super().__init__(screen.scroll.inner)
        self.screen, self.answer = screen, answer
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        first, second = self.words()
        self.setAccessibleName(f"{first}: {second}")
        self.setToolTip(f"{first}\n{second}\n{self.body_words()}\nPress to draw it up".replace("\n\n", "\n"))
        self.clicked.connect(lambda: screen.draw_up(answer))

    def words(self) -> tuple[str, str]:
        """What it is, and what it takes or lacks."""
        a, style = self.answer, self.screen.state.shop.kit.length_style
        labels = {w.name: w.label for rows in WAYS.values() for w in rows}
        body, neck, head = (labels.get(a.ways.get(c, ""), a.ways.get(c, "")) for c in ("body", "neck", "head"))
        made = f"{body}, neck {neck}, {head} head".replace("flat head", "head flat").replace(
            "solid pitch head", "head out of the solid"
        )
        first = f"{self.screen.title_of(a.instrument)}: {made}"
        names = {
            blank.part: label_of(blank, count)
            for blank, count in alike(blanks_of(a.instrument, self.screen.state.shop.kit.cuts.allowances))
        }
        if a.nearly:
            tight, margin = min(((part, min(m.values())) for part, m in a.margin_mm.items()), key=lambda row: row[1])
            boards: dict[str, list[str]] = {}
            for part, where in a.pieces.items():
                boards.setdefault(where, []).append(names.get(part, part).replace(", ", " "))
            woods = "; ".join(f"No. {where}: {', '.join(some)}" for where, some in boards.items())
            lacks = "; ".join(f"{names.get(one.part, one.part)} ({self.why_not(one)})" for one in a.lacks)
            but = f"All but its {lacks}. " if lacks else ""
            spare = f"Tightest: {names.get(tight, tight)}, {format_length(round(margin, 1), style)} to spare."
            return first, f"{but}{self.before()}{woods}. {spare}"
        if a.fails is None:
            return first, "no"
        if a.fails.what == "parts laid":
            return (
                first,
                f"{a.fails.found:.0f} of {a.fails.wanted:.0f} parts can be laid; the {names.get(a.fails.part, a.fails.part)} is the tightest",
            )
        return first, f"{names.get(a.fails.part, a.fails.part)}: {self.why_not(a.fails)}"

    def why_not(self, one: Shortfall) -> str:
        """Why no piece gives a part, as the house reads lengths."""
        style = self.screen.state.shop.kit.length_style
        if one.why:
            return lengths_in(one.why, style)
        found, wanted = (format_length(round(v, 1), style) for v in (one.found, one.wanted))
        return f"{one.what} {found}, at least {wanted}"

    def before(self) -> str:
        """What is to be done with the wood first, before laying out takes it; empty where nothing is."""
        asked, g = self.screen.question, self.answer.instrument
        if asked is None:
            return ""
        roles = {blank.part: blank.role for blank, _ in alike(blanks_of(g, self.screen.state.shop.kit.cuts.allowances))}
        rows = [
            (n, asked.first(roles.get(part, ""), n, g.id))
            for part, where in self.answer.pieces.items()
            for n in where.split(", ")
        ]
        asks: dict[str, dict[str, None]] = {}
        for number, why in rows:
            if why:
                asks.setdefault(why.partition(":")[0], {})[number] = None
        return "".join(f"Only if {what}: No. {', '.join(numbers)}. " for what, numbers in asks.items())

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, a = self.screen.state.theme, self.answer
        p.setPen(QPen(theme.hair, 1))
        p.drawLine(QPointF(LEFT, self.height() - 0.5), QPointF(self.width() - RIGHT, self.height() - 0.5))
        self._guitar(p)
        first, second = self.words()
        room = self.width() - RIGHT - 330 - AXIS_X
        draw.text_at(p, AXIS_X, 25, first, theme.ink, 15.5, 700, room=room)
        draw.text_at(p, AXIS_X, 46, second, theme.ink2 if a.fits else theme.ochre if a.lacks else theme.wine, 14, room=room)
        if a.nearly:
            self._reach(p)
        if self.hasFocus():
            draw.focus_ring(p, theme, QRectF(self.rect()))

    def _guitar(self, p: QPainter) -> None:
        """The plan, small, in the woods of its body and neck; a bare rim where it does not fit."""
        theme, g, shop = self.screen.state.theme, self.answer.instrument, self.screen.state.shop
        scale = 140.0 / whole_length_mm(g)
        plan = plan_of(g)

        def wood(prefix: str) -> object:
            where = next((w for part, w in self.answer.pieces.items() if part.startswith(prefix)), "")
            number = where.split(",")[0]
            return plain_colour(shop.piece(number).species) if number and shop.has_piece(number) else None

        for ring, prefix in ((plan.body, "body"), (plan.head, "neck"), (plan.neck, "neck"), (plan.board, "fretboard")):
            path = draw.path_of(ring, lambda x: LEFT + x * scale, lambda y: ROW_H / 2 - y * scale)
            colour = wood(prefix)
            if colour is not None:
                p.fillPath(path, colour)
            draw.outline(p, path, theme.ink if self.answer.nearly else theme.edge, 1.2)

    def _reach(self, p: QPainter) -> None:
        """How far the scale reaches: from the drawn one to the largest that this wood allows."""
        theme, a = self.screen.state.theme, self.answer
        x0, x1, y = self.width() - RIGHT - 300, self.width() - RIGHT, 31.0
        p.setPen(QPen(theme.hair, 1))
        p.drawLine(QPointF(x0, y), QPointF(x1, y))
        largest = a.largest_scale_mm or a.instrument.scale

        def at(mm: float) -> float:
            return x0 + (x1 - x0) * max(0.0, min(1.0, (mm - 500) / (LONGEST_SCALE - 500)))

        box = QRectF(x0, y - 6, at(largest) - x0, 12)
        p.fillRect(box, theme.chalk_wash)
        p.setPen(QPen(theme.chalk, 1.4))
        p.drawRect(box)
        mark = at(a.instrument.scale)
        p.drawLine(QPointF(mark, y - 8), QPointF(mark, y + 8))
        style = self.screen.state.shop.kit.length_style
        drawn = format_length(a.instrument.scale, style)
        further = f"up to {format_length(float(int(largest)), style)}" if largest < 1199 else "any larger one too"
        words = f"scale {drawn}, {further if largest > a.instrument.scale + 1 else 'a larger one was not found'}"
        draw.text_at(p, x0, 19, words, theme.ink2, 13)
        draw.text_at(p, x0, 53, self.body_words(), theme.ink2, 13)

    def body_words(self) -> str:
        """How thick and wide its body might be of this wood."""
        a, style = self.answer, self.screen.state.shop.kit.length_style
        if a.thickest_body_mm is None or a.widest_body_mm is None:
            return ""
        thick, wide = (format_length(v, style) for v in (a.thickest_body_mm, a.widest_body_mm))
        more = " and more" if a.thickest_body_mm >= THICKEST_MM else ""
        return f"its body up to {thick}{more} thick, or {wide} wide"


class BecomeScreen(Screen):
    """The screen."""

    @classmethod
    def made(cls, desk: Desk) -> Self:
        """A screen in a window."""
        return cls(desk.state)

    def __init__(self, state: State) -> None:
        super().__init__(state)
        self.setObjectName("become")
        self.answers: list[Becoming] = []
        self.rows: list[BecomeRow] = []
        self._left: list[Instrument] = []
        self._reaching: Becoming | None = None  # the answer whose body's reach is looked for
        self.question: HeapQuestion | None = None  # what the house says of the wood that is asked about
        self._told = False  # whether the program that answers has the wood
        self.fault = ""
        self.worker = WorkerClient()
        self.worker.setParent(self)
        self.worker.answered.connect(self._known)
        self.worker.failed.connect(self._failed)
        self._asked_at = -1
        self.scroll = ScrolledColumn(self)
        self.ask_it = WordButton(state, "Ask anew", "Ctrl+Enter", chalk=True, parent=self, name="become.ask")
        self.ask_it.clicked.connect(self.primary_action)
        self.heap = Heap(state)
        self.heap_button = WordButton(state, self.heap.text(), "", chalk=False, parent=self, name="become.heap")
        self.heap_button.clicked.connect(self.choose_heap)
        state.changed.connect(self.refresh)

    # asking ---------------------------------------------------------------------------------------------------------
    def primary_action(self) -> None:
        """Ask about every instrument of the shop and the six starting points, in a program of its own."""
        shop = self.state.shop
        self.worker.cancel()
        self.answers, self._asked_at, self.fault, self._reaching = [], shop.version, "", None
        self._left = [*shop.instruments.all(), *(begin(point, f"begin-{point}", point) for point in POINTS)]
        pieces, version = self.heap.pieces(), shop.version
        self.question, self._told = None, False
        if not pieces:
            self._left = []
            self._next()
            return
        self.refresh()
        self.state.background.start(
            lambda: shop.steady(lambda: heap_question(shop, pieces)), lambda found: self._judged(version, found), 1
        )

    def _judged(self, version: int, found: object) -> None:
        """The house has said what it takes of the wood."""
        if isinstance(found, HeapQuestion) and version == self._asked_at and self._left:
            self.question = found
            self._next()

    def choose_heap(self) -> None:
        """Offer what may be used; another heap is asked about at once."""
        menu = self.heap.menu(self, self.primary_action)
        menu.popup(self.heap_button.mapToGlobal(self.heap_button.rect().bottomLeft()))

    def _next(self) -> None:
        self.refresh()
        if self._left and self.question is not None and not self.state.closing:
            g = self._left[0]
            kit = cuts_for(self.state.shop, design_of(g))
            wood = f'"kit": {kit.model_dump_json()}' if self._told else self.question.as_json(kit)
            self.worker.become(f'{{{wood}, "guitar": {g.model_dump_json(exclude_unset=True, by_alias=True)}}}')
            self._told = True
        elif not self._left:
            self._ask_reach()

    def _ask_reach(self) -> None:
        """Once every answer is there: how thick and wide the bodies of those that fit might be, one after the other."""
        self._reaching = next((a for a in self.answers if a.nearly and a.thickest_body_mm is None), None)
        if self._reaching is not None and not self.state.closing and self._asked_at == self.state.shop.version:
            self.worker.become(f'{{"reach": {json.dumps(to_data(self._reaching))}}}')

    def _known(self, found: list[dict[str, object]]) -> None:
        if self._reaching is not None and not self._left:
            reached = from_data(found[0])
            self.answers = [reached if a is self._reaching else a for a in self.answers]
            self._next()
        elif self._left:
            self._left.pop(0)
            self.answers += [from_data(one) for one in found]
            self._next()

    def _failed(self, text: str) -> None:
        self._left, self._reaching, self.fault = [], None, text
        self.refresh()

    def close_down(self) -> None:
        """The window goes: so does the program that answers."""
        self._left, self._reaching = [], None
        self.worker.stop()

    def hideEvent(self, event: QHideEvent) -> None:
        """Out of sight it asks no more; what is known stays."""
        super().hideEvent(event)
        if self._left or self._reaching is not None:
            self._asked_at = -1 if self._left else self._asked_at
            self._left, self._reaching = [], None
            self.worker.stop()

    @property
    def asking(self) -> bool:
        """Whether answers are still to come."""
        return bool(self._left)

    @property
    def reaching(self) -> bool:
        """Whether it is still looked for how thick and wide bodies might be."""
        return self._reaching is not None

    def title_of(self, g: Instrument) -> str:
        """What an instrument is called in the list."""
        point = g.id.removeprefix("begin-")
        return POINTS[point][0].removeprefix("a ").capitalize() if g.id.startswith("begin-") and point in POINTS else g.shown_name

    def draw_up(self, answer: Becoming) -> None:
        """Take an answer to the drawing board: an own instrument as it would be made, or a starting point under a name of its own."""
        g, shop = answer.instrument, self.state.shop
        if g.id.startswith("begin-"):
            name = shop.instruments.free_name(g.name.capitalize())
            g = g.changed(id=shop.instruments.free_id(name), name=name)
        if self.state.keep_instrument("drawn up from the wood", g):
            self.state.screen_wanted.emit("draw_up")
        elif shop.instruments.find(g.id) is not None:
            self.state.choose_design(g.id)
            self.state.screen_wanted.emit("draw_up")

    def first_stop(self) -> QWidget | None:
        """The first answer."""
        return self.rows[0] if self.rows else super().first_stop()

    # showing --------------------------------------------------------------------------------------------------------
    def refresh(self) -> None:
        """Bring everything up to date and in its place."""
        if not self.isVisible():
            return
        if self._asked_at < 0 and self.state.shop.pieces():
            self.primary_action()
            return
        shown = sorted(self.answers, key=lambda a: (not a.fits, not a.nearly))
        if [row.answer for row in self.rows] != shown:
            for row in self.rows:
                row.hide()
                row.deleteLater()
            self.rows = [BecomeRow(self, answer) for answer in shown]
            for k, row in enumerate(self.rows):
                row.setObjectName(f"become.{k + 1}")
        flow.column(self.rows, 0, 0, self.width(), high=ROW_H, gap=0)
        for row in self.rows:
            row.show()
        flow.fill(self.scroll, 0, TOP, self.width(), self.height())
        self.scroll.set_size(self.width(), len(self.rows) * ROW_H)
        self.heap_button.say(self.heap.text(), enabled=bool(self.state.shop.pieces()))
        flow.row_to_right([(self.ask_it, 170), self.heap_button], self.width() - RIGHT, 8, gap=12)
        self.update()

    @property
    def sentence(self) -> str:
        """What stands above the list."""
        shop = self.state.shop
        if not shop.pieces():
            return "Nothing is on the rack yet. Measure one piece: F2."
        heap = self.heap.pieces()
        if not heap:
            return "None of the pieces that are chosen is measured and free. Choose others, beside “Ask anew”."
        fits = len({a.instrument.id for a in self.answers if a.fits})
        if self.fault:
            return self.fault
        nearly = len({a.instrument.id for a in self.answers if a.nearly}) - fits
        bought = dict.fromkeys(one.part.rpartition(".")[2] for a in self.answers for one in a.lacks)
        words = f"{count_of(len(heap), 'piece')} can become {fits} of {len({a.instrument.id for a in self.answers})} instruments"
        words += f", {nearly} more but for the {' or '.join(bought)}" if nearly else ""
        if self.asking:
            return f"{words}; {len(self._left)} more are being looked at"
        stale = "; the shop has changed since: ask anew" if self._asked_at != shop.version else ""
        return words + stale

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.state.theme
        p.fillRect(self.rect(), theme.bench)
        draw.text_at(p, LEFT, 34, "From the wood", theme.ink, 20, 700)
        draw.text_at(p, AXIS_X, 33, self.sentence, theme.ink2, 15, room=self.heap_button.x() - AXIS_X - 12)

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.refresh()
