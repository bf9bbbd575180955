"""The body's outline: handles that pull the line, zones drawn on it, lines from drawings, pictures and made-true photos beside it, of
which all or a stretch is taken; both sides held against one another. A change is shown before it is kept."""

from __future__ import annotations

from collections.abc import Callable
from itertools import pairwise
from pathlib import Path

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QKeyEvent, QMouseEvent, QPainter, QPainterPath, QPen
from PySide6.QtWidgets import QMenu, QWidget
from typing_extensions import override

from grainet.design.clip import area_mm2
from grainet.design.depth_map import depth_map
from grainet.design.instrument import Instrument
from grainet.design.outline_edit import even, handles_of, share_near, shares
from grainet.design.part import ZoneKind
from grainet.design.templates import Pocket, pocket_of
from grainet.desk.painting import draw
from grainet.desk.painting.axis import Axis
from grainet.desk.painting.tokens import AXIS_X, LEFT, RIGHT
from grainet.desk.screens.outline.controls import CARD_H, Handle, SourceCard
from grainet.desk.screens.outline.shaping import SECTION_H, TOP, paint_depth, paint_section, shaping_words
from grainet.desk.screens.screen import Page
from grainet.desk.services.dialogs import file_to_read
from grainet.desk.services.outline_files import print_full_size, save_outlines
from grainet.desk.services.pictures import plain_colour
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import WordButton
from grainet.desk.widgets.scroll import ScrolledColumn
from grainet.exchange.json_file import Unusable
from grainet.present.outline import (
    LETTERS,
    ZONE_WORDS,
    Source,
    audit,
    chosen_rim,
    from_drawing,
    from_picture,
    from_true_photo,
    loop_under,
    with_handle_moved,
    with_source,
    with_zone,
    without_zone,
    zone_under,
)
from grainet.present.shaping import with_contour
from grainet.session.commands.figures import words_for_drawing
from grainet.wood.units import LengthStyle, format_length, tell_length
from grainet.wood.value import BadEntry, Point, why_not

PANEL_W, FOOT_H = 360, 132
COLUMN_H = 40  # of what stands at the left, so that all of it stays above the foot
MOST_LINES = 8  # of what is said about the shaping
EXAMPLES = {"bevel": "bevel 10 in 14", "carve": "carve 8 in 60"}
PLAIN = QColor("#dcc59c")


class OutlineScreen(Page):
    """The screen."""

    has_axis = True
    prints = True

    def __init__(self, state: State) -> None:
        super().__init__(state)
        self.setObjectName("outline")
        self.axis_now = Axis(0, 900, 1280)
        self.held: list[int] = []  # the two handles that were pressed last
        self.handles: list[Handle] = []
        self.sources: list[Source] = []
        self.cards: list[SourceCard] = []
        self.marking: ZoneKind | None = None
        self.contouring: bool | None = None  # whether the next drag is a contour's line, and whether behind
        self.zone: int | None = None  # the zone that is chosen
        self._corner: Point | None = None
        self._drawn: tuple[Point, Point] | None = None
        self._before: Instrument | None = None  # as it was when a drag began
        self._shape_top = 300.0  # px: where the words about its shape begin
        self.scroll = ScrolledColumn(self)
        self.keep_it = WordButton(state, "Back to the drawing", "Ctrl+Enter", chalk=True, parent=self, name="outline.keep")
        self.keep_it.clicked.connect(self.primary_action)
        self.bring = WordButton(state, "Bring lines", "", parent=self, name="outline.bring")
        self.bring.clicked.connect(self.open_menu)
        self.both = WordButton(state, "Both sides", "", parent=self, name="outline.both")
        self.both.setCheckable(True)
        self.both.setChecked(True)
        self.both.setToolTip("What is done to one side is done to the other")
        self.print_it = WordButton(state, "Print", "Ctrl+P", parent=self, name="outline.print")
        self.print_it.clicked.connect(lambda: self.print_map())
        self.away = WordButton(state, "Take it away", "Del", parent=self, name="outline.away")
        self.away.clicked.connect(self.take_zone_away)
        self.kinds = {kind: WordButton(state, word, "", parent=self, name=f"zone.{kind}") for kind, word in ZONE_WORDS}
        for kind, button in self.kinds.items():
            button.setCheckable(True)
            button.setToolTip("Press, then drag on the body from one corner of the zone to the other")
            button.clicked.connect(lambda on, kind=kind: self.mark(kind if on else None))
        self.contours = {
            False: WordButton(state, "contour in front", "", parent=self, name="outline.contour.front"),
            True: WordButton(state, "contour behind", "", parent=self, name="outline.contour.behind"),
        }
        for behind, button in self.contours.items():
            button.setCheckable(True)
            button.setToolTip("Press, then drag along the line where the cut begins; contour 14 says how deep it is at the rim")
            button.clicked.connect(lambda on, behind=behind: self.contour(behind if on else None))
        self.rims = {kind: WordButton(state, kind, "", parent=self, name=f"outline.{kind}") for kind in ("bevel", "carve")}
        for kind, button in self.rims.items():
            button.setToolTip(f"Along the whole rim, so deep and so far in: {EXAMPLES[kind]}")
            button.clicked.connect(lambda _=False, kind=kind: self.state.tape_wanted.emit(f"{kind} "))
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

    def _show(self, made: Instrument | str) -> None:
        if isinstance(made, str):
            self.state.warn(made)
        else:
            self.state.show_preview(made)

    def hold(self, number: int) -> None:
        """A handle was pressed: it and the one before hold a stretch."""
        if not self.held or self.held[-1] != number:
            self.held = [*self.held[-1:], number]
        self.refresh()

    def begin_drag(self) -> None:
        """A handle is taken: what is dragged starts from what is shown now."""
        self._before = self.shown

    def drag(self, number: int, at: Point, dx_mm: float, dy_mm: float) -> None:
        """The line as the handle would have it."""
        if self._before is not None:
            self._pull(self._before, at, dx_mm, dy_mm)

    def end_drag(self) -> None:
        """The handle is let go; what is shown waits to be kept."""
        self._before = None
        self.state.changed.emit()  # the axis fits what is shown now

    def move_handle(self, number: int, at: Point, dx_mm: float, dy_mm: float) -> None:
        """A handle moved by keys."""
        if self.shown is not None:
            self._pull(self.shown, at, dx_mm, dy_mm)

    def _pull(self, g: Instrument, at: Point, dx_mm: float, dy_mm: float) -> None:
        try:
            self._show(with_handle_moved(g, at, dx_mm, dy_mm, both_sides=self.both.isChecked()))
        except (BadEntry, ValueError) as fault:
            self._show(f"The line would cross itself there: {why_not(fault)}." if not isinstance(fault, BadEntry) else str(fault))

    def take(self, number: int, *, stretch: bool) -> None:
        """All of a source's lines, or what of them lies between the two handles."""
        g = self.shown
        if g is None:
            return
        try:
            self._show(with_source(g, self.sources[number], self._stretch(g) if stretch else None))
        except (BadEntry, ValueError) as fault:
            self._show(str(fault) if isinstance(fault, BadEntry) else f"Those lines do not go together here: {why_not(fault)}.")

    def _stretch(self, g: Instrument) -> tuple[Point, Point]:
        """The two held places, counter-clockwise the shorter way round."""
        a, b = (self.handles[n - 1].at for n in self.held)
        first, last = (share_near(g.body.outline, *p) for p in (a, b))
        return (a, b) if (last - first) % 1.0 <= 0.5 else (b, a)

    def choose_rim(self, number: int, at: Point) -> None:
        """Another loop of a source is the body's rim."""
        loop = loop_under(self.sources[number], at)
        if loop is None or loop == self.sources[number].rim:
            return
        try:
            self.sources[number] = chosen_rim(self.sources[number], loop)
        except BadEntry as fault:
            self.state.warn(str(fault))
            return
        self._fill_cards()
        self.refresh()

    # sources --------------------------------------------------------------------------------------------------------
    def open_menu(self) -> None:
        """Where lines may come from."""
        menu = QMenu(self)
        menu.setObjectName("outline.bring.menu")
        menu.addAction("A drawing, DXF or SVG", lambda: self.bring_drawing())
        menu.addAction("A picture of a body on a plain ground", lambda: self.bring_picture())
        piece = self.state.piece
        if piece is not None and piece.photo("face1") is not None:
            menu.addAction(f"The made-true photo of No. {piece.id}", self.bring_photo)
        menu.addSeparator()
        menu.addAction("Write the outlines as DXF or SVG (Ctrl+S)", lambda: self.save_as())
        menu.addAction("Print at full size, mirrored for the back", lambda: self.print_map(mirrored=True))
        menu.addSeparator()
        menu.addAction("Print the templates", lambda: self.print_templates())
        menu.addAction("Print a copy of the templates, marked as one", lambda: self.print_templates(copy=True))
        menu.addAction("Write the templates as DXF or SVG", lambda: self.save_templates())
        menu.addAction("Set bearing and cutter of the templates", lambda: self.state.tape_wanted.emit("bearing "))
        menu.popup(self.bring.mapToGlobal(self.bring.rect().bottomLeft()))

    def bring_drawing(self, path: str | None = None) -> None:
        """Lines out of a drawing."""
        chosen = path or file_to_read(self, "A drawing", "Outlines (*.dxf *.svg)")
        if chosen:
            self.state.background.start(lambda: _read(lambda: from_drawing(Path(chosen))), self._came, 5)

    def bring_picture(self, path: str | None = None) -> None:
        """The silhouette in a picture, as long as this body."""
        g = self.shown
        chosen = path or (file_to_read(self, "A picture", "Pictures (*.png *.jpg *.jpeg)") if g is not None else "")
        if g is not None and chosen:
            long = max(x for x, _ in g.body.outline) - min(x for x, _ in g.body.outline)
            self.state.background.start(lambda: _read(lambda: from_picture(Path(chosen), long)), self._came, 5)

    def bring_photo(self) -> None:
        """The outline of the piece in hand, out of its made-true photo."""
        piece, folder = self.state.piece, self.state.shop.file.folder
        if piece is None:
            return

        def work() -> Source:
            import cv2

            from grainet.store.photos import read_photo

            photo = piece.photo("face1")
            assert photo is not None
            image = cv2.imdecode(np.frombuffer(read_photo(folder, photo.sha), np.uint8), cv2.IMREAD_COLOR)
            if image is None:
                raise BadEntry(f"The photo of No. {piece.id} cannot be read any more.")
            return from_true_photo(image, piece)

        self.state.background.start(lambda: _read(work), self._came, 5)

    def _came(self, found: object) -> None:
        if isinstance(found, str):
            self.state.warn(found)
        elif isinstance(found, Source):
            self.sources = [*self.sources[-(len(LETTERS) - 1) :], found]
            self._fill_cards()
            self.state.notify(f"{found.name}: {found.told}")
            self.refresh()

    def _fill_cards(self) -> None:
        for card in self.cards:
            card.hide()
            card.deleteLater()
        self.cards = [SourceCard(self, k, LETTERS[k], source) for k, source in enumerate(self.sources)]

    def save_as(self, path: str | None = None) -> None:
        """Write the outlines as DXF or SVG."""
        save_outlines(self, self.state, self.shown, path)

    def print_map(self, path: str | None = None, *, mirrored: bool = False, paper: str = "A4") -> None:
        """Print the outlines at full size over pages that tile."""
        print_full_size(self, self.state, self.shown, path, mirrored=mirrored, paper=paper)

    def print_templates(self, path: str | None = None, *, copy: bool = False) -> None:
        """The templates at full size, set off for bearing and cutter."""
        print_full_size(self, self.state, self.shown, path, templates=True, copy=copy)

    def save_templates(self, path: str | None = None) -> None:
        """The templates as DXF or SVG."""
        save_outlines(self, self.state, self.shown, path, templates=True)

    # zones ----------------------------------------------------------------------------------------------------------
    def mark(self, kind: ZoneKind | None) -> None:
        """The next drag on the body draws a zone of this kind; None draws none."""
        self.marking = kind
        if kind is not None:
            self.contour(None)
        for one, button in self.kinds.items():
            button.setChecked(one == kind)

    def contour(self, behind: bool | None) -> None:  # noqa: FBT001 (front, behind, or none of them)
        """The next drag on the body draws the line where a contour begins; None draws none."""
        self.contouring = behind
        if behind is not None:
            self.mark(None)
        for one, button in self.contours.items():
            button.setChecked(one == behind)

    def take_zone_away(self) -> None:
        """The chosen zone goes; shown and not kept yet."""
        g = self.shown
        if g is not None and self.zone is not None and self.zone < len(g.body.zones):
            self._show(without_zone(g, self.zone))
            self.zone = None
            self.refresh()

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Begin a zone, or choose the one that is pressed."""
        at = self.to_mm(event.position())
        g = self.shown
        if g is None or not AXIS_X - 30 < event.position().x() < self.width() - PANEL_W:
            return
        if self.marking is not None or self.contouring is not None:
            self._corner, self._drawn = at, (at, at)
        else:
            self.zone = zone_under(g, at)
            self.state.move_cursor(round(at[0]))
        self.refresh()

    @override
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """The zone grows with the mouse."""
        if self._corner is not None:
            self._drawn = (self._corner, self.to_mm(event.position()))
            self.update()

    @override
    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """The zone is there; shown and not kept yet."""
        g, drawn, kind, behind = self.shown, self._drawn, self.marking, self.contouring
        self._corner = self._drawn = None
        if g is not None and drawn is not None and (kind is not None or behind is not None):
            self.mark(None)
            self.contour(None)
            try:
                self._show(with_zone(g, kind, drawn) if kind is not None else with_contour(g, drawn, back=bool(behind)))
            except BadEntry as fault:
                self.state.warn(str(fault))
        self.refresh()

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Del takes the chosen zone away, Esc draws none."""
        if event.key() == Qt.Key.Key_Delete and self.zone is not None:
            self.take_zone_away()
        elif event.key() == Qt.Key.Key_Escape and (self.marking is not None or self.contouring is not None):
            self.mark(None)
            self.contour(None)
        else:
            super().keyPressEvent(event)

    # placing --------------------------------------------------------------------------------------------------------
    def to_px(self, at: Point) -> tuple[float, float]:
        """The px of a place on the body."""
        return self.axis_now.x(at[0]), self._middle - at[1] * self.axis_now.px_per_mm

    def to_mm(self, at: QPointF) -> Point:
        """The place on the body under the mouse."""
        return self.axis_now.mm(at.x()), (self._middle - at.y()) / self.axis_now.px_per_mm

    @property
    def _middle(self) -> float:
        """The px of the centre line."""
        g = self.shown
        ys = [y for _, y in g.body.outline] if g is not None else [0.0]
        return (self.height() - FOOT_H) / 2 + (max(ys) + min(ys)) / 2 * self.axis_now.px_per_mm

    def axis(self, width: int, height: int) -> Axis:
        """The axis on which the whole body stands left of the panel."""
        g = self.shown
        xs, ys = zip(*g.body.outline) if g is not None else ((0.0, 400.0), (-160.0, 160.0))
        scale = min((width - PANEL_W - AXIS_X - 24) / (max(xs) + 6), (height - FOOT_H - 30) / (max(ys) - min(ys)))
        return Axis(0, (width - RIGHT - AXIS_X) / max(0.05, scale), width)

    def set_axis(self, axis: Axis) -> None:
        """Show the body on an axis; while a handle is dragged the scale stays."""
        if axis != self.axis_now and self._before is None:
            self.axis_now = axis
            self.refresh()

    def typed_here(self) -> list[tuple[str, str, str]]:
        """Every word about an instrument."""
        return words_for_drawing()

    def first_stop(self) -> QWidget | None:
        """The first handle."""
        return next((h for h in self.handles if h.isVisibleTo(self)), None) or super().first_stop()

    def refresh(self) -> None:
        """Bring everything up to date and in its place."""
        if not self.isVisible():
            return
        g, x = self.shown, self.width() - PANEL_W + 14
        for button in (self.bring, self.both, self.print_it, *self.kinds.values(), *self.contours.values(), *self.rims.values()):
            button.setVisible(g is not None)
        self.away.setVisible(g is not None and self.zone is not None and self.zone < len(g.body.zones))
        self.keep_it.say("Keep it" if self.state.preview is not None else "Back to the drawing")
        self._place_handles(g)
        flow.row([(self.bring, 116), (self.both, 102), (self.print_it, 100)], x, 40, gap=6)
        flow.row_to_right([(self.keep_it, 240)], self.width() - RIGHT, self.height() - 54)
        below = flow.column(self.kinds.values(), LEFT, 50, 130, high=COLUMN_H, gap=4)
        flow.row([(self.away, 130)], LEFT, below, high=COLUMN_H)
        self._shape_top = below + COLUMN_H + 16
        below = flow.column(self.contours.values(), LEFT, self._shape_top + 8, 130, high=COLUMN_H, gap=4)
        flow.row([(button, 63) for button in self.rims.values()], LEFT, below, high=COLUMN_H, gap=4)
        top = 96
        self.scroll.setVisible(bool(self.cards))
        flow.fill(self.scroll, x - 6, top, self.width(), self.height() - 66 - self._shape_room())
        for card in self.cards:
            card.show()
            card.place()
        flow.column(self.cards, 6, 0, PANEL_W - 30, high=CARD_H, gap=6)
        self.scroll.set_size(PANEL_W - 24, len(self.cards) * (CARD_H + 6))
        self.update()

    def _place_handles(self, g: Instrument | None) -> None:
        places = handles_of(g.body.outline) if g is not None else []
        while len(self.handles) < len(places):
            self.handles.append(Handle(self, len(self.handles) + 1))
        style = self.state.shop.kit.length_style
        for handle, at in zip(self.handles, places):
            side = (
                "on the centre line"
                if abs(at[1]) < 0.5
                else f"{format_length(round(abs(at[1]), 1), style)} to the {'bass' if at[1] > 0 else 'treble'}"
            )
            handle.show_place(at, f"{format_length(round(at[0], 1), style)} from the tail, {side}")
        for k, handle in enumerate(self.handles):
            handle.setVisible(k < len(places))

    # painting -------------------------------------------------------------------------------------------------------
    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, g = self.state.theme, self.shown
        p.fillRect(self.rect(), theme.bench)
        if g is None:
            told = ["Begin one in Draw up (F4); its outline is then changed here."]
            draw.empty(p, theme, QRectF(AXIS_X, 30, self.width() - AXIS_X - RIGHT, 100), "No guitar is drawn up yet.", told)
            return
        draw.text_at(p, LEFT, 22, "Zones", theme.ink, 16, 700)
        draw.text_at(p, LEFT, 42, "drag one on the body", theme.ink2, 13, room=146)
        draw.text_at(p, LEFT, self._shape_top, "Shape", theme.ink, 16, 700)
        self._body(p, g)
        p.fillRect(QRectF(self.width() - PANEL_W, 0, PANEL_W, self.height()), theme.ground)
        x = self.width() - PANEL_W + 14
        draw.text_at(p, x, 26, "Where its lines come from", theme.ink, 16, 700)
        if not self.sources:
            words = (
                "A: its own curve, by its handles.",
                "Bring a drawing, a picture, or a photo that was made",
                "true; take all of it, or the stretch between the two",
                "handles that you pressed last.",
            )
            for k, line in enumerate(words):
                draw.text_at(p, x, 118 + 20 * k, line, theme.ink2, 14, room=PANEL_W - 34)
        self._shape_panel(p, g)
        self._foot(p, g)

    def _shape_room(self) -> float:
        """How high what is said of the shaping stands above the panel's foot."""
        g = self.shown
        if g is None or not g.body.shaping or self._before is not None:
            return 0.0
        lines = shaping_words(depth_map(g), self.state.shop.kit.length_style, PANEL_W - 34)
        return SECTION_H + 30.0 + 19 * min(MOST_LINES, len(lines))

    def _shape_panel(self, p: QPainter, g: Instrument) -> None:
        """What the shaping lays open, and the section at the plumb."""
        if not g.body.shaping or self._before is not None:
            return
        theme, style, deep = self.state.theme, self.state.shop.kit.length_style, depth_map(g)
        x, y = self.width() - PANEL_W + 14.0, self.height() - 66 - self._shape_room() + 18
        draw.text_at(p, x, y, "What its shape lays open", theme.ink, 16, 700)
        for line, caution in shaping_words(deep, style, PANEL_W - 34)[:MOST_LINES]:
            y += 19
            draw.text_at(p, x, y, line, theme.wine if caution else theme.ink2, 13.5, room=PANEL_W - 34)
        paint_section(p, theme, deep, self.state.draw_mm, QRectF(x, y + 8, PANEL_W - 34, SECTION_H), style)

    def _body(self, p: QPainter, g: Instrument) -> None:
        theme = self.state.theme

        def to_x(mm: float) -> float:
            return self.axis_now.x(mm)

        def to_y(mm: float) -> float:
            return self.to_px((0.0, mm))[1]

        path = draw.path_of(g.body.outline, to_x, to_y)
        seen = g.body.cap_species if g.body.cap_mm else g.body.species
        wood = plain_colour(seen[0]) if seen else TOP if g.body.cap_mm else PLAIN
        p.fillPath(path, wood)
        if theme.dark:
            p.fillPath(path, QColor(0, 0, 0, 60))
        if self._before is None and g.body.shaping:  # a line that is dragged answers at once; its depths follow
            paint_depth(p, theme, depth_map(g), self.axis_now, self._middle, path)
        for k, zone in enumerate(g.body.zones):
            if zone.polygon != "rest":
                self._zone(p, draw.path_of(zone.polygon, to_x, to_y), zone.kind, chosen=k == self.zone)
        for cavity in g.body.cavities:
            hollow = draw.path_of(cavity.polygon, to_x, to_y)
            self._zone(p, hollow, "removed", chosen=False)
            at = hollow.boundingRect().center()
            words = f"{cavity.name} {self.state.told(cavity.depth_mm, 'g')} deep"
            draw.label(p, theme, at.x(), at.y() - 11, words, px=13, figures=False, centred=True)
        pocket = pocket_of(g)
        if pocket is not None:
            draw.outline(p, draw.path_of(pocket.ring, to_x, to_y), theme.wine, 1.4)
        old = self.state.instrument
        if self.state.preview is not None and old is not None and old.id == g.id:
            draw.outline(p, draw.path_of(old.body.outline, to_x, to_y), theme.edge, 1.2, dashed=True)
        draw.outline(p, path, theme.slip, 4.5)
        draw.outline(p, path, theme.chalk if self.state.preview is not None else theme.ink, 2.4)
        if pocket is not None:  # over the rim, which may run where its words stand
            box = draw.path_of(pocket.ring, to_x, to_y).boundingRect()
            words = _pocket_words(pocket, self.state.style)
            draw.label(p, theme, box.center().x(), box.bottom() + 4, words, px=13, figures=False, centred=True)
        if len(self.held) == 2:
            self._stretch_line(p, g)
        p.setPen(QPen(theme.chalk, 1.2, Qt.PenStyle.DashDotLine))
        p.drawLine(QPointF(to_x(0) - 10, to_y(0)), QPointF(to_x(max(x for x, _ in g.body.outline)) + 14, to_y(0)))
        if self._drawn is not None:
            (ax, ay), (bx, by) = (self.to_px(c) for c in self._drawn)
            p.setPen(QPen(theme.chalk, 1.6, Qt.PenStyle.DashLine))
            p.setBrush(Qt.BrushStyle.NoBrush)
            if self.contouring is not None:
                p.drawLine(QPointF(ax, ay), QPointF(bx, by))
            else:
                p.drawRect(QRectF(QPointF(ax, ay), QPointF(bx, by)).normalized())

    def _zone(self, p: QPainter, path: QPainterPath, kind: str, *, chosen: bool) -> None:
        """A zone in its manner: routed is hatched, covered dashed, what bears load ringed in wine."""
        theme = self.state.theme
        pen = QPen(theme.chalk if chosen else theme.wine if kind == "critical" else theme.ink, 3 if chosen else 1.5)
        if kind in ("hidden", "removed"):
            pen.setDashPattern([4, 3])
        p.setPen(pen)
        p.setBrush(QBrush(theme.ink2, Qt.BrushStyle.BDiagPattern) if kind == "removed" else Qt.BrushStyle.NoBrush)
        p.drawPath(path)
        p.setBrush(Qt.BrushStyle.NoBrush)

    def _stretch_line(self, p: QPainter, g: Instrument) -> None:
        """What lies between the two held handles, which a source may give."""
        points = even(g.body.outline)
        at = shares(points)
        first, last = (share_near(g.body.outline, *c) for c in self._stretch(g))
        on = points[((at - first) % 1.0) <= (last - first) % 1.0]
        order = np.argsort((at[((at - first) % 1.0) <= (last - first) % 1.0] - first) % 1.0)
        p.setPen(QPen(self.state.theme.chalk, 4))
        spots = [QPointF(*self.to_px((float(x), float(y)))) for x, y in on[order]]
        for a, b in pairwise(spots):
            p.drawLine(a, b)

    def _foot(self, p: QPainter, g: Instrument) -> None:
        """Its size, and both sides against one another at every 10 mm."""
        theme, style = self.state.theme, self.state.shop.kit.length_style
        top = self.height() - FOOT_H
        p.fillRect(QRectF(0, top, self.width() - PANEL_W, FOOT_H), theme.ground)
        xs, ys = zip(*g.body.outline)
        long, wide = (format_length(round(v, 1), style) for v in (max(xs) - min(xs), max(ys) - min(ys)))
        draw.text_at(p, LEFT, top + 40, "Left and right", theme.ink, 16, 700)
        draw.text_at(p, LEFT, top + 60, "bass less treble,", theme.ink2, 13)
        draw.text_at(p, LEFT, top + 77, "drawn 15 times as tall", theme.ink2, 13)
        found = audit(g)
        y = top + 40
        p.setPen(QPen(theme.edge, 1))
        p.drawLine(QPointF(self.axis_now.x(0), y), QPointF(self.axis_now.x(max(xs)), y))
        for x, apart in found.apart:
            tall = max(-26.0, min(26.0, apart * self.axis_now.px_per_mm * 15 / 10))
            p.setPen(QPen(theme.ochre if abs(apart) > 0.3 else theme.ink, 3))
            p.drawLine(QPointF(self.axis_now.x(x), y), QPointF(self.axis_now.x(x), y - tall))
        room = self.width() - PANEL_W - AXIS_X - 12
        size = f"{long} long, {wide} wide, {abs(area_mm2(g.body.outline)) / 100:.0f} cm²"
        draw.text_at(p, AXIS_X, top + 84, size, theme.ink, 14, 600, room=room)
        for k, (text, caution) in enumerate(found.sentences(self.state.style)[:2]):
            draw.text_at(p, AXIS_X, top + 103 + 18 * k, text, theme.ochre if caution else theme.ink2, 13.5, room=room)


def _read(work: Callable[[], Source]) -> Source | str:
    """What a reading gives, or the sentence that says why not."""
    try:
        return work()
    except (BadEntry, Unusable) as fault:
        return str(fault)


def _pocket_words(pocket: Pocket, style: LengthStyle) -> str:
    """A pocket's width and depths, and where the neck does not fill it how far it reaches."""
    words = f"pocket {tell_length(pocket.width_mm, style, '.1f')} wide, {tell_length(pocket.depth_mouth_mm, style, '.1f')} deep"
    if abs(pocket.wedge_mm) > 0.05:
        words += f", {tell_length(pocket.depth_end_mm, style, '.1f')} at its end"
    if pocket.neck_in_it_mm < pocket.length_mm - 1.0:
        words += (
            f"; the neck reaches {tell_length(pocket.neck_in_it_mm, style)} of {tell_length(pocket.length_mm, style)} into it"
        )
    return words
