"""Put back (F9): what a sawn board left, where it lay in its parent, to shelve; and where all of its wood went."""

from __future__ import annotations

import re
from datetime import date
from functools import lru_cache
from pathlib import Path
from typing import Any

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPen, QResizeEvent
from PySide6.QtWidgets import QAbstractButton, QMenu, QWidget
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.painting.axis import Axis
from grainet.desk.painting.balance_bar import BarShare, balance_bar
from grainet.desk.painting.tokens import AXIS_X, LEFT, RIGHT
from grainet.desk.screens.screen import Screen
from grainet.desk.services.dialogs import file_to_read, file_to_write
from grainet.desk.services.picture_kept import PICTURES, kept_picture
from grainet.desk.services.pictures import plain_colour
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import WordButton, count_of, left_words
from grainet.desk.widgets.picture_over import PictureOver
from grainet.exchange.json_file import Unusable
from grainet.session.commands.command import Command
from grainet.session.learning import misses_on
from grainet.session.making import AtTheBench, at_the_bench, called, give_back, shelve
from grainet.session.part_photos import photograph, photos_of
from grainet.store.shop_file import ShopUnusable
from grainet.wood.piece import Piece
from grainet.wood.species import short_name
from grainet.wood.units import format_length, format_mark
from grainet.wood.value import BadEntry, Ring
from grainet.work.cut_plan import UnderWay
from grainet.work.holds import Held

STRIP_H, TICKET_H = 54, 176
NEEDLE = 20.0  # a miss is drawn so many times as long


@lru_cache(maxsize=256)
def inner_spot(ring: Ring) -> tuple[float, float]:
    """The place furthest from a shape's rim, for its label."""
    import shapely

    x, y = shapely.maximum_inscribed_circle(shapely.Polygon(ring), tolerance=2.0).coords[0]
    return x, y


NOTHING_SAWN = (
    "When the last cut of a board is ticked, what is left of it comes here: each offcut with its size, its defects, what it still gives, and a place to shelve it.",
)


class OffcutCard(QAbstractButton):
    """One offcut: number, size, weight, moisture, troubles, what it gives; pressing it takes it in hand."""

    def __init__(self, screen: PutBack, piece: Piece) -> None:
        super().__init__(screen)
        self.screen, self.piece = screen, piece
        self.setObjectName(f"ticket.{piece.id}")
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.clicked.connect(lambda: screen.state.choose_piece(self.piece.id))
        self.shelve = WordButton(screen.state, "shelve", "", chalk=False, parent=self, name=f"shelve.{piece.id}")
        self.shelve.clicked.connect(self._shelve)

    def _shelve(self) -> None:
        self.screen.state.choose_piece(self.piece.id)
        self.screen.state.tape_wanted.emit("at ")

    def set(self, piece: Piece) -> None:
        """Show an offcut."""
        self.piece = piece
        self.shelve.say(f"shelf {piece.place}" if piece.place else "shelve it")
        flow.row([(self.shelve, min(150, self.width() - 20))], 10, self.height() - 52)
        self.setAccessibleName(f"No. {piece.id}, {self.size_text()}, {'on ' + piece.place if piece.place else 'not shelved'}")
        self.setToolTip(self.accessibleName() + ". Press to take it in hand")
        self.update()

    def size_text(self) -> str:
        """Its extents and thickness, as the shop writes lengths."""
        style = self.screen.state.shop.kit.length_style
        x0, y0, x1, y1 = self.piece.extents
        return " × ".join(format_length(v, style) for v in (x1 - x0, y1 - y0, self.piece.least_thickness_mm or 0))

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        state, theme, piece = self.screen.state, self.screen.state.theme, self.piece
        chosen = state.piece_id == piece.id
        p.setBrush(theme.bench)
        pen = QPen(theme.chalk if chosen else theme.edge if piece.place else theme.ochre, 2.4 if chosen else 1.4)
        if not piece.place and not chosen:
            pen.setDashPattern([4, 3])
        p.setPen(pen)
        p.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 4, 4)
        room = self.width() - 20
        x = 12 + draw.text_at(p, 12, 30, piece.id, theme.ink, 22, 800, figures=True) + 10
        size, _, thick = self.size_text().rpartition(" × ")
        whole = draw.text_width(self.size_text(), 15, 600, figures=True) <= room + 8 - x
        draw.text_at(p, x, 28, self.size_text() if whole else size, theme.ink, 15, 600, figures=True, room=room + 8 - x)
        worst = max((r.moisture_pct for r in piece.moisture_now), default=None)
        words = ", ".join(
            w
            for w in (
                "" if whole else f"{thick} thick",
                f"{piece.mass_kg:.2f} kg" if piece.mass_kg else "",
                f"{worst:g} %" if worst is not None else "moisture ?",
            )
            if w
        )
        draw.text_at(p, 12, 50, words, theme.ink2, 14, room=room)
        for k, defect in enumerate(piece.defects[: max(0, int(room // 44))]):
            draw.tag(p, theme, QPointF(32 + k * 44, 68), defect.id, defect.kind)
        y = 96 if piece.defects else 74
        shown = 0
        for rule in state.shop.kit.every_use:
            verdict = state.verdict(piece.id, rule.use)
            if verdict is None or verdict.outcome == "wont" or y > self.height() - 56:
                continue
            full = verdict.outcome == "gives"
            p.setPen(QPen(theme.ink if full else theme.ochre, 1.4))
            p.setBrush(plain_colour(piece.species))
            p.drawRect(QRectF(12, y - 11, 16, 13) if full else QRectF(12, y - 2, 16, 4))
            count = verdict.gives or verdict.gives_if
            text = f"{count} {state.wanted(rule.use).label}" + ("" if full else f", {verdict.main_reason}")
            draw.text_at(p, 34, y, text, theme.ink if full else theme.ochre, 14, room=room - 26)
            y += 20
            shown += 1
        if not shown:
            draw.text_at(p, 12, y, "gives none of the uses as it is", theme.ink2, 14, room=room)
        if self.hasFocus():
            draw.focus_ring(p, theme, QRectF(self.rect()))


class PartChip(QAbstractButton):
    """A part that was cut from the board: its letter and what became of it; pressed it says what can be done with it."""

    def __init__(self, screen: PutBack) -> None:
        super().__init__(screen)
        self.screen, self.workpiece, self.words = screen, "", ""
        self.setCursor(Qt.CursorShape.PointingHandCursor)
        self.clicked.connect(lambda: screen.offer_part(self))

    def set(self, workpiece: str, words: str) -> None:
        """Show a part."""
        self.workpiece, self.words = workpiece, words
        self.setObjectName(f"part.{called(workpiece)}")
        self.setAccessibleName(f"Part {words}")
        self.setToolTip(f"{words}. Press for its shelf, or to give it back to the rack")
        self.update()

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.screen.state.theme
        draw.label(p, theme, 1, 1, self.words, px=14, figures=False, height=26, chosen=self.hasFocus())


class PutBack(Screen):
    """The screen."""

    has_axis = True

    def __init__(self, state: State) -> None:
        super().__init__(state)
        self.setObjectName("putBack")
        self.axis_now = Axis(0, 2400, 1280)
        self.parent_id: str | None = None
        self.buttons: list[WordButton] = []
        self.tickets: dict[str, OffcutCard] = {}
        self.chips: list[PartChip] = []
        self.shelve_it = WordButton(state, "Shelve the next", "Ctrl+Enter", chalk=True, parent=self, name="putBack.shelve")
        self.shelve_it.clicked.connect(self.primary_action)
        self.learnt = WordButton(state, "What was learnt", "Ctrl+Shift+W", parent=self, name="putBack.learnt")
        self.learnt.clicked.connect(lambda: state.screen_wanted.emit("learnt"))
        self.label_it = WordButton(state, "Labels of parts", "", parent=self, name="putBack.labels")
        self.label_it.clicked.connect(lambda _=False: self.print_labels())
        self.label_it.setFixedHeight(34)
        self.picture_over = PictureOver(state, self)

    # which parent -------------------------------------------------------------------------------------------------
    def parents(self) -> list[Piece]:
        """Boards that were sawn, the last one first."""
        return [p for p in reversed(self.state.shop.pieces(everything=True)) if p.gone]

    @property
    def parent_piece(self) -> Piece | None:
        """The board whose offcuts are shown."""
        parents = self.parents()
        hand = self.state.piece
        if hand is not None and hand.parent and any(p.id == hand.parent for p in parents):
            return next(p for p in parents if p.id == hand.parent)
        return next((p for p in parents if p.id == self.parent_id), parents[0] if parents else None)

    def offcuts(self, parent: Piece) -> list[Piece]:
        """What is left of a board."""
        return [p for p in self.state.shop.pieces() if p.parent == parent.id]

    def plan_of(self, parent: Piece) -> UnderWay | None:
        """The plan that a board was sawn for."""
        return self.state.shop.plans.under_way(parent.gone)

    def unshelved(self) -> list[Piece]:
        """Offcuts without a place."""
        return [p for p in self.state.shop.pieces() if p.parent and not p.place]

    def first_stop(self) -> QWidget | None:
        """The first offcut that waits for its place."""
        cards = [card for card in self.tickets.values() if card.isVisibleTo(self)]
        return cards[0] if cards else super().first_stop()

    def primary_action(self) -> None:
        """Take the next unshelved offcut in hand and open the tape line for its place."""
        waiting = self.unshelved()
        if waiting:
            self.state.choose_piece(waiting[0].id)
            self.state.tape_wanted.emit("at ")

    # layout -------------------------------------------------------------------------------------------------------
    def axis(self, width: int, height: int) -> Axis:
        """The axis that fits the board into so many px."""
        parent = self.parent_piece
        if parent is None:
            return Axis(0, 2400, width)
        across = parent.extents[3] - parent.extents[1]
        scale = min((width - AXIS_X - RIGHT) / max(1.0, parent.extents[2]), 120 / max(1.0, across))
        return Axis(0, (width - AXIS_X - RIGHT) / scale, width)

    def set_axis(self, axis: Axis) -> None:
        """Show the board on an axis."""
        self.axis_now = axis
        self.refresh()

    def refresh(self) -> None:
        """Bring everything up to date and in its place."""
        if not self.isVisible():
            return
        if self.picture_over.isVisible():
            self.picture_over.fit()
        parent = self.parent_piece
        self._parent_buttons(parent)
        cuts = self.offcuts(parent) if parent else []
        for gone in set(self.tickets) - {p.id for p in cuts}:
            self.tickets.pop(gone).deleteLater()
        top = self._tickets_top()
        room = self.width() - AXIS_X - RIGHT
        each = min(360, (room - 10 * max(0, len(cuts) - 1)) / max(1, len(cuts)))
        for k, piece in enumerate(sorted(cuts, key=lambda c: c.parent_outline[0][0] if c.parent_outline else 0)):
            ticket = self.tickets.get(piece.id)
            if ticket is None:
                ticket = self.tickets[piece.id] = OffcutCard(self, piece)
                ticket.show()
            flow.row([(ticket, max(120, each))], AXIS_X + k * (each + 10), top + 8, high=TICKET_H)
            ticket.set(piece)
        self._place_chips(parent)
        waiting = self.unshelved()
        self.shelve_it.say(
            "Shelve the next" if waiting else "All shelved" if cuts else "Nothing to put back", enabled=bool(waiting)
        )
        flow.row_to_right([(self.shelve_it, 230), (self.learnt, self.learnt.sizeHint().width())], self.width() - RIGHT, 5)
        self.update()

    def _parent_buttons(self, parent: Piece | None) -> None:
        parents = self.parents()[:8]
        if [b.property("parent") for b in self.buttons] != [p.id for p in parents]:
            for old in self.buttons:
                old.deleteLater()
            self.buttons = []
            for one in parents:
                button = WordButton(self.state, f"No. {one.id}", "", chalk=False, parent=self, name=f"putBack.{one.id}")
                button.setProperty("parent", one.id)
                button.setCheckable(True)
                button.clicked.connect(lambda _=False, i=one.id: self._choose(i))
                button.show()
                self.buttons.append(button)
        for button in self.buttons:
            button.setChecked(parent is not None and button.property("parent") == parent.id)
        flow.row([(button, 88) for button in self.buttons], LEFT, 5, gap=8)

    def _bench(self, parent: Piece | None) -> AtTheBench | None:
        """The making that a board was sawn for."""
        under_way = self.plan_of(parent) if parent is not None else None
        return at_the_bench(self.state.shop, under_way.id) if under_way is not None else None

    def _place_chips(self, parent: Piece | None) -> None:
        """The parts that were cut from a board, and what became of each, in a row under its balance."""
        bench = self._bench(parent)
        rows = [
            (w.id, f"{called(w.id)} {bench.states.get(w.id, '')}")
            for w in (bench.making.workpieces if bench is not None else ())
            if parent is not None and w.from_ == parent.id
        ]
        while len(self.chips) < len(rows):
            self.chips.append(PartChip(self))
        x, y = self.axis_now.left, self._tickets_top() + TICKET_H + 96
        self.label_it.setVisible(bool(rows))
        wide = self.label_it.sizeHint().width()
        flow.row_to_right([(self.label_it, wide)], self.width() - RIGHT, y - 3, high=34)
        end = self.width() - RIGHT - wide - 12
        for k, chip in enumerate(self.chips):
            wide = int(draw.text_width(rows[k][1], 14, 500)) + 16 if k < len(rows) else 0
            chip.setVisible(k < len(rows) and x + wide < end and y + 28 < self.height())
            if k < len(rows):
                chip.set(*rows[k])
                flow.row([(chip, wide)], x, y, high=28)
                x += wide + 8

    def offer_part(self, chip: PartChip) -> None:
        """What can be done with a part that was cut."""
        menu = QMenu(self)
        name = called(chip.workpiece)
        menu.addAction("On a shelf").triggered.connect(lambda: self.state.tape_wanted.emit(f"part {name} at "))
        menu.addAction("A photo of it ...").triggered.connect(lambda: self.photograph(chip.workpiece))
        bench = self._bench(self.parent_piece)
        for photo in photos_of(bench, chip.workpiece) if bench is not None else ():
            day = f"{date.fromisoformat(photo.on):%-d %b %Y}"
            look = menu.addAction(f"Its photo of {day}")
            look.triggered.connect(lambda _=False, sha=photo.sha, told=f"{name}, {day}": self.picture_over.show_photo(sha, told))
        menu.addAction("Back on the rack, as a piece").triggered.connect(lambda: self.give_back(chip.workpiece))
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.popup(chip.mapToGlobal(chip.rect().topLeft()))

    def photograph(self, workpiece: str, path: str = "") -> None:
        """A photo of a part that was cut, kept with it and told in the story."""
        bench = self._bench(self.parent_piece)
        path = path or file_to_read(self, f"A photo of {called(workpiece)}", PICTURES)
        sha = kept_picture(self.state, path) if path and bench is not None else None
        if sha is None or bench is None:
            return
        try:
            self.state.notify(photograph(bench, workpiece, sha))
        except (Held, ShopUnusable) as fault:
            self.state.warn(str(fault))

    def print_labels(self, path: str = "") -> None:
        """Labels of every part of the plan that lies here by itself, on sheets, as PDF."""
        bench = self._bench(self.parent_piece)
        if bench is None:
            return
        from grainet.exchange.labels import LabelSheet, write_labels
        from grainet.session.part_labels import labels_of

        style = self.state.shop.kit.length_style
        labels = labels_of(bench, style)
        if not labels:
            self.state.warn("no part of this plan lies here by itself")
            return
        if not path:
            path, _ = file_to_write(self, "Labels of parts as PDF", "parts.pdf", "PDF (*.pdf)")
        if not path:
            return
        try:
            pages = write_labels(Path(path), labels, LabelSheet(), style=style)
        except (OSError, Unusable) as fault:
            self.state.warn(f"{Path(path).name} cannot be written: {fault}")
            return
        self.state.notify(f"{count_of(len(labels), 'label')} on {count_of(pages, 'sheet')}: {Path(path).name}")

    def give_back(self, workpiece: str) -> None:
        """A part becomes a piece of the rack again."""
        bench = self._bench(self.parent_piece)
        if bench is None:
            return
        needed = not bench.states.get(workpiece, "").startswith("spare")
        try:
            number = give_back(bench, workpiece)
        except (Held, ShopUnusable) as fault:
            self.state.warn(str(fault))
            return
        more = "; the plan lacks it now, plan the rest again: F5" if needed else ""
        self.state.notify(f"{called(workpiece)} is No. {number} on the rack{more}")

    @override
    def reads(self, line: str) -> Command | None:
        """``part B1 at C3``: a part that was cut lies on a shelf. Raises BadEntry."""
        found = re.fullmatch(r"\s*part\s+(\S+)\s+at\s+(.+?)\s*", line, re.I)
        bench = self._bench(self.parent_piece)
        if found is None or bench is None:
            return None
        name = next((w.id for w in bench.making.workpieces if called(w.id).lower() == found[1].lower()), None)
        if name is None:
            raise BadEntry(
                f"“{found[1]}” is no part of this plan; it has {', '.join(called(w.id) for w in bench.making.workpieces if w.from_)}."
            )
        return Command(f"{found[1]} on {found[2]}", does=lambda: self._shelve_part(bench, name, found[2]))

    def _shelve_part(self, bench: AtTheBench, name: str, place: str) -> None:
        try:
            shelve(bench, name, place)
        except (Held, ShopUnusable) as fault:
            self.state.warn(str(fault))

    def typed_here(self) -> list[tuple[str, str, str]]:
        """What may be typed here alone."""
        return [("part letter at shelf", "where a part that was cut lies", "part B1 at C3")]

    def _choose(self, parent_id: str) -> None:
        self.parent_id = parent_id
        cuts = [p for p in self.state.shop.pieces() if p.parent == parent_id]
        if cuts:
            self.state.choose_piece(cuts[0].id)
        self.refresh()

    def _tickets_top(self) -> float:
        parent = self.parent_piece
        high = (parent.extents[3] - parent.extents[1]) * self.axis_now.px_per_mm if parent else 0
        rows = len(self._generations(parent)) if parent else 0
        return STRIP_H + 16 + high + 26 * rows + 14

    def _generations(self, parent: Piece) -> list[tuple[str, list[Piece]]]:
        """Lineage below a parent: its offcuts, their offcuts, and so on."""
        found: list[tuple[str, list[Piece]]] = []
        everyone = self.state.shop.pieces(everything=True)
        current = [parent]
        while True:
            ids = {p.id for p in current}
            current = [p for p in everyone if p.parent in ids]
            if not current or len(found) > 3:
                return found
            found.append(("its offcuts" if not found else "and theirs", current))

    # painting -----------------------------------------------------------------------------------------------------
    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.state.theme
        p.fillRect(self.rect(), theme.bench)
        parent = self.parent_piece
        if parent is None:
            draw.empty(
                p,
                theme,
                QRectF(AXIS_X, 64, self.width() - AXIS_X - RIGHT, self.height() - 76),
                "Nothing is sawn yet. Tick the cuts of a board first: F7",
                NOTHING_SAWN,
            )
            return
        self._where_they_lay(p, parent)
        top = self._tickets_top()
        p.fillRect(QRectF(0, top, self.width(), TICKET_H + 16), theme.ground)
        cuts = self.offcuts(parent)
        home = sum(bool(c.place) for c in cuts)
        left_words(
            p,
            self.state,
            top + 6,
            count_of(len(cuts), "offcut"),
            [
                (f"{home} shelved, {len(cuts) - home} to go", theme.ochre if home < len(cuts) else theme.ink2),
                ("press one and type its shelf, such as at C3", theme.ink2),
            ],
        )
        self._balance(p, parent, top + TICKET_H + 34)
        if any(chip.isVisibleTo(self) for chip in self.chips):
            left_words(p, self.state, top + TICKET_H + 98, "Its parts", [])

    def _where_they_lay(self, p: QPainter, parent: Piece) -> None:
        theme, axis = self.state.theme, self.axis_now
        y0, y1 = parent.extents[1], parent.extents[3]
        top = STRIP_H + 8.0

        def to_y(y: float) -> float:
            return top + (y1 - y) * axis.px_per_mm

        picture = self.state.pictures.get(parent, "face1")
        target = QRectF(axis.left, top, axis.x(parent.extents[2]) - axis.left, (y1 - y0) * axis.px_per_mm)
        whole = draw.path_of(parent.outline, axis.x, to_y)
        draw.wood_texture(p, theme, whole, picture, target, plain_colour(parent.species), "out")
        draw.outline(p, whole, theme.edge, 1.2)
        under_way = self.plan_of(parent)
        bench = at_the_bench(self.state.shop, under_way.id) if under_way is not None else None
        parts: list[tuple[QRectF, str]] = []
        if under_way is not None:
            for one in under_way.plan.placements:
                if one.piece == parent.id and one.leaf == 1:
                    path = draw.path_of(one.polygon, axis.x, to_y)
                    draw.outline(p, path, theme.ink2, 1.4, dashed=True)
                    told = (bench.state_of(one) if bench is not None else "") or under_way.job.part(one.part).letter
                    parts.append((path.boundingRect(), told))
        offcuts: list[tuple[QPointF, str]] = []
        for piece in self.offcuts(parent):
            shape = draw.path_of(piece.parent_outline, axis.x, to_y)
            draw.wood_texture(p, theme, shape, picture, target, plain_colour(parent.species))
            draw.outline(
                p,
                shape,
                theme.chalk if piece.id == self.state.piece_id else theme.ink,
                2.4 if piece.id == self.state.piece_id else 1.6,
            )
            spot = inner_spot(piece.parent_outline)
            offcuts.append((QPointF(axis.x(spot[0]), to_y(spot[1])), piece.id))
        self._names(p, parts, offcuts)
        p.fillRect(QRectF(axis.left - 7, top, 6, target.height()), theme.chalk)
        self._needles(p, parent, target)
        left_words(
            p,
            self.state,
            top - 6,
            "Where they lay",
            [(f"No. {parent.id}, {short_name(parent.species).lower()}", theme.ink2), ("pale: no longer here", theme.ink2)],
        )
        y = target.bottom() + 8
        for label, pieces in self._generations(parent):
            draw.text_at(p, 164 - draw.text_width(label, 13), y + 15, label, theme.ink2, 13)
            for piece in pieces:
                self._sliver(p, parent, piece, y, target, picture)
            y += 26

    def _names(self, p: QPainter, parts: list[tuple[QRectF, str]], offcuts: list[tuple[QPointF, str]]) -> None:
        """What lies where: the offcuts' numbers, then the parts, each by what became of it where that fits on its place, else by its mark. A name
        that would lie on another one is left out; all of them stand below."""
        theme = self.state.theme
        taken: list[QRectF] = []

        def put(x: float, y: float, text: str, px: int, *, figures: bool) -> None:
            wide = draw.text_width(text, px, 600 if figures else 500, figures=figures) + 16
            box = QRectF(x - wide / 2, y - 12, wide, 24)
            if not any(box.intersects(one) for one in taken):
                taken.append(box)
                draw.label(p, theme, x, y - 11, text, centred=True, px=px, figures=figures, weight=600 if figures else 500)

        for spot, number in offcuts:
            put(spot.x(), spot.y(), number, 16, figures=True)
        for place, told in parts:
            fits = draw.text_width(told, 13, 500) + 20 <= place.width() and place.height() > 20
            put(place.center().x(), place.center().y(), told if fits else told.partition(" ")[0], 13, figures=False)

    def _needles(self, p: QPainter, parent: Piece, target: QRectF) -> None:
        """Where a crosscut missed its mark: a needle as long as the miss, twenty times over, with what was planned and where it was cut."""
        theme, axis, style = self.state.theme, self.axis_now, self.state.shop.kit.length_style
        taken = -1e9
        for one in sorted(misses_on(self.state.shop, parent.id), key=lambda r: r.x_mm or 0.0):
            off, x = one.measured - one.planned, axis.x(one.x_mm or 0.0)
            ink = theme.ochre if abs(off) > 0.3 else theme.chalk
            p.setPen(QPen(ink, 3))
            p.drawLine(QPointF(x, target.bottom() + 3), QPointF(x + NEEDLE * off * axis.px_per_mm, target.bottom() + 3))
            p.setPen(QPen(ink, 1.4))
            p.drawLine(QPointF(x, target.bottom() - 6), QPointF(x, target.bottom() + 6))
            words = f"{format_mark(one.planned, style)} cut at {format_mark(one.measured, style)}"
            if x > taken:
                box = draw.label(p, theme, x + 4, target.bottom() - 24, words, px=13, height=18)
                taken = box.right() + 6

    def _sliver(self, p: QPainter, parent: Piece, piece: Piece, y: float, target: QRectF, picture: Any) -> None:
        """An offcut as a sliver in its parent's place along the axis."""
        offset = piece.picture_at[0] - parent.picture_at[0]
        a = self.axis_now.x(offset + parent.extents[0])
        b = self.axis_now.x(offset + parent.extents[0] + piece.extents[2] - piece.extents[0])
        shape = QPainterPath()
        shape.addRect(QRectF(a, y, max(2.0, b - a), 18))
        draw.wood_texture(
            p,
            self.state.theme,
            shape,
            picture,
            QRectF(target.x(), y, target.width(), 18),
            plain_colour(parent.species),
            "out" if piece.gone else "",
        )
        draw.outline(p, shape, self.state.theme.ink, 1.2)
        draw.label(p, self.state.theme, (a + b) / 2, y - 1, piece.id, centred=True, px=13, height=19)

    def _balance(self, p: QPainter, parent: Piece, top: float) -> None:
        """All of the board in true proportion, and that it closes."""
        theme = self.state.theme
        under_way = self.plan_of(parent)
        shares = under_way.plan.balance.get(parent.id) if under_way else None
        if shares is None:
            return
        draw.text_at(p, LEFT, top + 16, f"All of No. {parent.id}", theme.ink, 15, 700)
        draw.text_at(p, LEFT, top + 35, "by volume", theme.ink2, 13)
        rows = (
            BarShare("parts", shares.parts, parent, "out"), BarShare("offcuts", shares.offcuts, parent), BarShare("kerf", shares.kerf),
            BarShare("planed off", shares.skims), BarShare("scrap", shares.waste),
        )  # fmt: skip
        balance_bar(p, theme, self.state.pictures, rows, AXIS_X, top, self.width() - AXIS_X - RIGHT - 170)
        off = 100 * (shares.total - 1)
        draw.text_at(p, self.width() - RIGHT - 150, top + 8, f"{abs(off):.2f} % not found", theme.ink, 15, 600)
        draw.text_at(
            p,
            self.width() - RIGHT - 150,
            top + 26,
            "it closes" if abs(off) <= 0.5 else "it does not close",
            theme.ink2 if abs(off) <= 0.5 else theme.wine,
            14,
        )

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.refresh()
