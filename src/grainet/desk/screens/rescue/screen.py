"""Ways out: a part that the piece in hand does not give, with what is missing hatched; each way out that the planner's own test took, as
a card with its price. One press keeps the way, and one step of undo takes it back."""

from __future__ import annotations

import json

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QHideEvent, QKeyEvent, QPainter, QPainterPath, QPen, QShowEvent
from PySide6.QtWidgets import QWidget
from typing_extensions import override

from grainet.design.parts import design_of
from grainet.desk.painting import draw
from grainet.desk.painting.axis import Axis
from grainet.desk.painting.tokens import AXIS_X, LEFT, RIGHT
from grainet.desk.screens.rescue.card import CARD_H, RescueCard
from grainet.desk.screens.screen import Page
from grainet.desk.services.pictures import plain_colour
from grainet.desk.services.planner_process import WorkerClient
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import WordButton, count_of, left_words
from grainet.desk.widgets.scroll import ScrolledColumn
from grainet.plan.rescuing import Rescue, way_from_data
from grainet.present.draw_up import Lane, lanes_of
from grainet.present.rescue import card_of, missing_words
from grainet.session.heap_question import HeapQuestion, cuts_for, heap_question
from grainet.session.stock_answers import free_pieces
from grainet.wood.piece import Piece
from grainet.wood.units import format_length

BOARD_H, HEAD_H, COLUMNS = 168, 54, 3


class RescueScreen(Page):
    """The screen. It is about the part that was asked for last and the piece in hand; another piece in hand is asked about at once."""

    has_axis = True

    def __init__(self, state: State) -> None:
        super().__init__(state)
        self.setObjectName("rescue")
        self.axis_now = Axis(0, 1360, 1280)
        self.ways: list[Rescue] = []
        self.cards: list[RescueCard] = []
        self.rest: dict[str, object] | None = None
        self.question: HeapQuestion | None = None  # the wood as it was asked about
        self.fault = ""
        self.chosen = 1
        self._asked: object = None
        self.worker = WorkerClient()
        self.worker.setParent(self)
        self.worker.way_found.connect(self._found)
        self.worker.rescued.connect(self._done)
        self.worker.failed.connect(self._failed)
        self.scroll = ScrolledColumn(self)
        self.take = WordButton(state, "Take this way", "Ctrl+Enter", chalk=True, parent=self, name="rescue.take")
        self.take.clicked.connect(self.primary_action)
        self.back = WordButton(state, "Back", "Esc", parent=self, name="rescue.back")
        self.back.clicked.connect(self.go_back)
        state.changed.connect(self.refresh)

    # what it is about ---------------------------------------------------------------------------------------------
    @property
    def lane(self) -> Lane | None:
        """The part that is asked for; None where no guitar is in hand or it has no such part."""
        g, kit = self.state.instrument, self.state.shop.kit
        if g is None:
            return None
        lanes = lanes_of(g, kit.cuts.allowances, kit.length_style)
        return next((one for one in lanes if one.blank.part == self.state.rescue_part), None)

    @property
    def of_neck(self) -> bool:
        """Whether the part is one of the neck's, so that the whole guitar is the better picture."""
        lane = self.lane
        return lane is not None and lane.blank.component not in ("body", "cap", "skins")

    def wood_of(self, way: Rescue) -> QColor:
        """The colour of the wood that a way takes."""
        number = way.wood[0][0] if way.kind == "another piece" and way.wood else self.state.piece_id
        shop = self.state.shop
        return plain_colour(shop.piece(number).species) if number and shop.has_piece(number) else self.state.theme.ground

    # asking -------------------------------------------------------------------------------------------------------
    def _ask(self, lane: Lane, piece: Piece) -> None:
        shop, g = self.state.shop, self.state.instrument
        assert g is not None
        self.ways, self.rest, self.fault, self.chosen = [], None, "", 1
        self._fill_cards()
        pieces = free_pieces(shop)
        if piece.id not in {p.id for p in pieces}:
            self.fault = f"No. {piece.id} is not measured yet, or an accepted plan holds it. Take another piece in hand."
            return
        said = f'"guitar": {g.model_dump_json(exclude_unset=True, by_alias=True)}, "part": {json.dumps(lane.part.id)}, "piece": {json.dumps(piece.id)}'
        kit, asked = cuts_for(shop, design_of(g)), self._asked

        def judged(found: object) -> None:
            if isinstance(found, HeapQuestion) and self._asked == asked:
                self.question = found
                self.worker.rescue(f"{{{said}, {found.as_json(kit)}}}")

        self.state.background.start(lambda: shop.steady(lambda: heap_question(shop, pieces)), judged, 1)

    def _found(self, data: dict[str, object]) -> None:
        self.ways.append(way_from_data(data))
        self.ways.sort(key=lambda w: w.price)
        self._fill_cards()
        self.refresh()

    def _done(self, data: dict[str, object]) -> None:
        self.rest = data
        self.refresh()

    def _failed(self, text: str) -> None:
        self.fault = text
        self.refresh()

    def close_down(self) -> None:
        """The window goes: so does the program that answers."""
        self.worker.stop()

    @override
    def hideEvent(self, event: QHideEvent) -> None:
        super().hideEvent(event)
        if self.worker.busy:
            self.worker.cancel()
            self._asked = None

    @override
    def showEvent(self, event: QShowEvent) -> None:
        nearest, self.state.rescue_piece = self.state.rescue_piece, ""
        if nearest and self.state.shop.has_piece(nearest):
            self.state.choose_piece(nearest)
        super().showEvent(event)

    # acts -----------------------------------------------------------------------------------------------------------
    def choose(self, number: int) -> None:
        """Choose a way; it is taken by the chalk button."""
        self.chosen = max(1, min(len(self.cards), number))
        for card in self.cards:
            card.setChecked(card.number == self.chosen)
        self.refresh()

    def step_lane(self, by: int) -> None:
        """Up and down: the card above or below."""
        self.choose(self.chosen + by * COLUMNS)

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Left and right pick a way, Esc goes back."""
        if event.key() in (Qt.Key.Key_Left, Qt.Key.Key_Right) and self.cards:
            self.choose(self.chosen + (1 if event.key() == Qt.Key.Key_Right else -1))
        elif event.key() == Qt.Key.Key_Escape:
            self.go_back()
        else:
            super().keyPressEvent(event)

    def go_back(self) -> None:
        """Back to the drawing, nothing changed."""
        self.state.screen_wanted.emit("draw_up")

    def primary_action(self) -> None:
        """Keep the chosen way: a changed guitar, or the piece that gives the part as it is drawn."""
        if not 1 <= self.chosen <= len(self.ways):
            return
        way = self.ways[self.chosen - 1]
        if way.guitar is None:
            number = way.wood[0][0] if way.wood else ""
            if number:
                self.state.choose_piece(number)
            self.state.screen_wanted.emit("draw_up")
            self.state.notify(f"No. {number} gives it as it is drawn; Lay out takes it from there")
        elif self.state.keep_instrument(f"way out: {way.kind}", way.guitar):
            self.state.screen_wanted.emit("draw_up")

    def first_stop(self) -> QWidget | None:
        """The chosen card."""
        return self.cards[self.chosen - 1] if self.cards else super().first_stop()

    # showing --------------------------------------------------------------------------------------------------------
    def axis(self, width: int, height: int) -> Axis:
        """The axis on which the piece lies, the part beside it where it is longer."""
        piece, lane = self.state.piece, self.lane
        long = max([piece.extents[2] - piece.extents[0]] if piece and piece.outline else [1000.0])
        across = piece.extents[3] - piece.extents[1] if piece and piece.outline else 200.0
        if lane is not None:
            long, across = max(long, lane.blank.length.mm), max(across, lane.blank.width.mm)
        scale = min((width - AXIS_X - RIGHT) / long, (BOARD_H - 74) / across)
        return Axis(0, (width - AXIS_X - RIGHT) / max(scale, 0.02), width)

    def set_axis(self, axis: Axis) -> None:
        """Show the piece on an axis."""
        if axis != self.axis_now:
            self.axis_now = axis
            self.refresh()

    def refresh(self) -> None:
        """Bring everything up to date and in its place."""
        if not self.isVisible():
            return
        lane, piece = self.lane, self.state.piece
        if lane is not None and piece is not None and piece.outline:
            key = (self.state.instrument, lane.part, piece, self.state.shop.kit.cuts, tuple(free_pieces(self.state.shop)))
            if key != self._asked:
                self._asked = key
                self._ask(lane, piece)
        each = (self.width() - LEFT - RIGHT - 16) / COLUMNS
        for k, card in enumerate(self.cards):
            flow.row([(card, each)], LEFT + (k % COLUMNS) * (each + 8), (k // COLUMNS) * (CARD_H + 8), high=CARD_H)
            card.show()
        top = BOARD_H + HEAD_H
        flow.fill(self.scroll, 0, top, self.width(), self.height())
        self.scroll.set_size(self.width(), -(-len(self.cards) // COLUMNS) * (CARD_H + 8))
        self.take.say(f"Take way {self.chosen}" if self.cards else "No way yet", enabled=bool(self.cards))
        flow.row_to_right([(self.take, 200), self.back], self.width() - RIGHT, BOARD_H + 5)
        self.update()

    def _fill_cards(self) -> None:
        for card in self.cards:
            card.hide()
            card.deleteLater()
        g, style = self.state.instrument, self.state.shop.kit.length_style
        assert g is not None
        made = [(way, card_of(way, g, self.state.piece_id, style, self._first)) for way in self.ways]
        self.cards = [RescueCard(self, k, way, card) for k, (way, card) in enumerate(made, 1)]
        for card in self.cards:
            card.setChecked(card.number == self.chosen)

    def _first(self, piece: str) -> str:
        """What is to be done before the part may come from a piece."""
        lane, g = self.lane, self.state.instrument
        if lane is None or g is None or self.question is None:
            return ""
        return self.question.first(lane.part.role, piece, g.id)

    @property
    def sentences(self) -> tuple[str, str]:
        """What stands beside the heading: how far the looking is, and what was tried without help."""
        if self.state.piece is None or not self.state.piece.outline:
            return "Take a measured piece in hand: its ways out are looked for.", ""
        if self.fault:
            return self.fault, ""
        if self.rest is None:
            found = f"{count_of(len(self.ways), 'way')} out so far; " if self.ways else ""
            return f"{found}each way is being tried by the planner's own test", ""
        if self.rest.get("fits"):
            return "This piece gives the part as it is drawn. Nothing needs a way out.", ""
        tried = self.rest["tried"]
        assert isinstance(tried, list)
        first = "Each was checked again with its own losses: first what keeps the drawing, then by seams, days, wood."
        if not self.ways:
            first = "Nothing that was tried makes this piece give it. Take another piece in hand, or change the drawing."
        rest = "" if self.rest["complete"] else "The time ran out before every way was tried. "
        return first, rest + (f"No help: {', '.join(tried)}." if tried else "")

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, lane, piece = self.state.theme, self.lane, self.state.piece
        p.fillRect(self.rect(), theme.bench)
        p.fillRect(QRectF(0, 0, self.width(), BOARD_H), theme.ground)
        if lane is None:
            told = ["Choose a lane in Draw up (F4) that the rack does not give, and press what it lacks."]
            draw.empty(p, theme, QRectF(AXIS_X, 30, self.width() - AXIS_X - RIGHT, 90), "No part asks for a way out.", told)
            return
        if piece is None or not piece.outline:
            draw.text_at(p, AXIS_X, 60, self.sentences[0], theme.ink, 16)
            return
        self._failing(p, lane, piece)
        draw.text_at(p, LEFT, BOARD_H + 33, "Ways out", theme.ink, 20, 700)
        first, second = self.sentences
        room = self.back.x() - AXIS_X - 16
        draw.text_at(p, AXIS_X, BOARD_H + 24, first, theme.ink2, 14, room=room)
        draw.text_at(p, AXIS_X, BOARD_H + 43, second, theme.ink2, 13.5, room=room)

    def _failing(self, p: QPainter, lane: Lane, piece: Piece) -> None:
        """The part on the piece as it is drawn; what of it lies beside the wood is hatched."""
        theme, axis, style = self.state.theme, self.axis_now, self.state.shop.kit.length_style
        x0, y0 = piece.extents[:2]
        bottom = float(BOARD_H - 14)

        def to_x(mm: float) -> float:
            return axis.x(mm - x0)

        def to_y(mm: float) -> float:
            return bottom - (mm - y0) * axis.px_per_mm

        wood = draw.path_of(piece.outline, to_x, to_y)
        box = wood.boundingRect()
        draw.wood_texture(p, theme, wood, self.state.pictures.get(piece, "face1"), box, plain_colour(piece.species))
        draw.outline(p, wood, theme.ink, 1.6)
        for defect in piece.defects:
            draw.trouble(p, theme, defect, to_x, to_y)
        part = draw.path_of(lane.part.outline, lambda mm: axis.x(mm), lambda mm: bottom - mm * axis.px_per_mm)
        beside = part.subtracted(wood)
        if not beside.isEmpty():
            _hatch(p, beside, theme.wine)
        draw.outline(p, part, theme.ground, 4)
        draw.outline(p, part, theme.ink, 2)
        draw.label(
            p, theme, part.boundingRect().center().x() - 12, part.boundingRect().center().y() - 14, lane.letter, px=16, weight=700
        )
        size = " × ".join(format_length(v, style) for v in (*_sizes(piece),))
        g = self.state.instrument
        lines = [(piece.species, theme.ink2), (size, theme.ink2), ("hatched: what lies beside the wood", theme.ink2)]
        left_words(p, self.state, 4, f"No. {piece.id}", lines)
        short = self.rest
        words = (
            missing_words(_number(short.get("short_mm")), str(short.get("what", "")), style, lane.count)
            if short
            else "being looked at"
        )
        if short and short.get("fits"):
            words = "fits"
        title = f"{g.shown_name if g is not None else ''}: {lane.label} from No. {piece.id}, {words}"
        draw.text_at(
            p, AXIS_X, 24, title, theme.ink if words == "fits" else theme.wine, 16, 700, room=self.width() - AXIS_X - RIGHT
        )
        sums = {"length": lane.blank.length, "width": lane.blank.width}
        asked = sums.get(str(short.get("what", "")) if short else "", lane.blank.footprint or lane.blank.thickness)
        if words != "fits" and short and short.get("short_mm") is not None:
            draw.text_at(p, AXIS_X, 43, f"at least {asked.text}", theme.ink2, 13.5, room=self.width() - AXIS_X - RIGHT)


def _hatch(p: QPainter, shape: QPainterPath, colour: QColor) -> None:
    """Slanted lines within a shape."""
    p.save()
    p.setClipPath(shape)
    p.setPen(QPen(colour, 1.6))
    box = shape.boundingRect()
    x = box.left() - box.height()
    while x < box.right():
        p.drawLine(QPointF(x, box.bottom()), QPointF(x + box.height(), box.top()))
        x += 7
    p.restore()
    draw.outline(p, shape, colour, 1.4)


def _sizes(piece: Piece) -> tuple[float, float, float]:
    x0, y0, x1, y1 = piece.extents
    return x1 - x0, y1 - y0, max(piece.all_thicknesses_mm, default=0.0)


def _number(value: object) -> float | None:
    return float(value) if isinstance(value, (int, float)) else None
