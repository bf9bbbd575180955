"""Bring in (F2): the portrait of a piece builds up reading by reading; what is unread is dashed and says so on the wood."""

from __future__ import annotations

from typing import Any, Self

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPen, QResizeEvent
from PySide6.QtWidgets import QWidget
from typing_extensions import override

from grainet.desk.cards.mark import MarkCard
from grainet.desk.cards.tried_part import PartCard
from grainet.desk.painting import draw
from grainet.desk.painting.axis import Axis
from grainet.desk.painting.board import BoardView
from grainet.desk.painting.tokens import AXIS_X, LEFT, RIGHT
from grainet.desk.screens.bring_in.bundle_form import BundleForm
from grainet.desk.screens.bring_in.menus import Menus
from grainet.desk.screens.screen import Desk, Screen
from grainet.desk.services.instruments import InstrumentPanel
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import ReadingButton, WordButton, count_of, left_words, wrapped
from grainet.present.ring_edit import handle_points
from grainet.session.commands.command import Command
from grainet.session.commands.examples import example_in
from grainet.session.commands.line import Reader
from grainet.session.commands.sizes import grid_places
from grainet.session.commands.word_list import WORD_LIST
from grainet.session.missing_readings import tasks_of
from grainet.wood.defects import ALIASES, label_of
from grainet.wood.figure import FIGURE_KINDS
from grainet.wood.moisture import moisture_state
from grainet.wood.piece import Piece, WidthStation, with_readings
from grainet.wood.place import near_place
from grainet.wood.units import LengthStyle, format_length, tell_length
from grainet.wood.value import BadEntry

LIST_H, ROWS = 200, 4


class BringIn(Screen):
    """The screen."""

    has_axis = True

    photo_wanted = Signal(str, str)  # the side, and camera, file or again
    label_wanted = Signal()  # of the piece in hand
    label_sheet_wanted = Signal()

    @classmethod
    def made(cls, desk: Desk) -> Self:
        """A screen in a window."""
        screen = cls(desk.state)
        screen.photo_wanted.connect(desk.bring_photo)
        screen.label_wanted.connect(lambda: desk.print_labels(sheet=False))
        screen.label_sheet_wanted.connect(lambda: desk.print_labels(sheet=True))
        return screen

    def __init__(self, state: State) -> None:
        super().__init__(state)
        self.setObjectName("bringIn")
        self.socket_y = 0  # where the thicknesses stand, once it was laid out
        self.board = BoardView(state, both=False)
        self.board.setParent(self)
        self.board.marked.connect(self._marked)
        self.board.tapped.connect(state.move_cursor)
        self.board.edge_dragged.connect(self._edge_dragged)
        self.board.reshaped.connect(self._reshaped)
        self.board.part_drawn.connect(lambda a, b, c, d: state.try_part((a, b, c, d)))
        self.sockets: list[ReadingButton] = []
        self.tasks = []
        self.rows = [WordButton(state, "", parent=self, name=f"next.{k}") for k in range(ROWS)]
        for row in self.rows:
            row.clicked.connect(lambda _=False, r=row: self._do_task(r.property("words")))
        self.menus, self.bench = Menus(self), InstrumentPanel(state)
        self.bench.setParent(self)
        self.bench.photo_wanted.connect(lambda side: self.photo_wanted.emit(side, "camera"))
        self.bench.done.connect(self.refresh)
        self._buttons()
        self.card, self.part, self.bundle = MarkCard(state), PartCard(state), BundleForm(state)
        for panel in (self.card, self.part, self.bundle):
            panel.setParent(self)

    def _buttons(self) -> None:
        state, menus = self.state, self.menus

        def button(text: str, key: str, name: str, act: Any, *, chalk: bool = False) -> WordButton:
            made = WordButton(state, text, key, chalk=chalk, parent=self, name=f"bringIn.{name}")
            made.clicked.connect(lambda _=False: act())
            return made

        self.rack_it = button("Rack it as it is", "", "rack", self.primary_action, chalk=True)
        self.another = button("Next piece", "Ctrl+N", "next", state.new_piece)
        self.kind = button("Kind", "", "kind", menus.kind)
        self.species = button("Species", "", "species", menus.species)
        self.mark = button("Mark a defect", "", "mark", menus.mark)
        self.mark.setCheckable(True)
        self.gate = button("", "", "metal", menus.gate)
        self.read = button("Instruments", "F12", "read", self.bench.read_next)
        self.instruments = button("…", "", "instruments", lambda: self._bench_menu())
        self.photo = button("Photos", "", "photos", menus.photos)
        self.tried = button("Try a part", "", "part", lambda: self.try_part(on=not self.board.part_mode))
        self.tried.setCheckable(True)
        self.more = button("More", "", "more", menus.more)

    def _bench_menu(self) -> None:
        menu = self.bench.menu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.popup(self.instruments.mapToGlobal(self.instruments.rect().topLeft()))

    # the axis -----------------------------------------------------------------------------------------------------
    def axis(self, width: int, height: int) -> Axis:
        """The axis that fits the board into so many px."""
        piece = self.state.piece
        length = (piece.length_mm or piece.extents[2]) if piece else 0.0
        length = length or 2400.0
        _, y0, _, y1 = piece.extents if piece else (0, 0, 0, 200)
        across = max(60.0, (y1 - y0) or 200.0)
        room = height - LIST_H - 172
        scale = min((width - AXIS_X - RIGHT) / length, room / (across + ((piece.least_thickness_mm if piece else None) or 40)))
        return Axis(0, (width - AXIS_X - RIGHT) / max(scale, 0.02), width)

    def set_axis(self, axis: Axis) -> None:
        """Show the board on an axis."""
        self.board.axis = axis
        flow.fill(self.board, 0, 4, self.width(), 4 + max(60, self.board.wanted_height()))
        self.refresh()

    # the doings ---------------------------------------------------------------------------------------------------
    def primary_action(self) -> None:
        """Keep the suggestion in hand; else rack the piece as it is, which is always allowed."""
        piece = self.state.piece
        if piece is None:
            self.state.new_piece()
        elif self.card.suggestion is not None:
            self.card.keep.click()
        elif not piece.racked:
            self.state.keep(f"No. {piece.id} racked", piece.changed(racked=True))
            missing = len(tasks_of(piece, self.state.shop.kit.pin_depth_mm, self.state.shop.judgements.facts(piece.id).question))
            self.state.notify(
                f"No. {piece.id} is on the rack" + (f", {missing} things not read: its grades say if" if missing else "")
            )
        else:
            self.state.notify(f"No. {piece.id} is on the rack already")

    def _do_task(self, words: str) -> None:
        """A task that waits for nothing is done; the others open the tape line."""
        if words.startswith(("take ", "clear ")):
            self.menus.words(words)
        else:
            self.state.tape_wanted.emit(words)

    def try_part(self, *, on: bool) -> None:
        """Take up the frame: a part is dragged out on the wood; or put it down."""
        self.board.part_mode = on
        self.board.mark_kind = None
        self.board.setCursor(Qt.CursorShape.CrossCursor if on else Qt.CursorShape.ArrowCursor)
        if on:
            self.state.choose_tag(None)
            self.state.notify("drag a part out on the wood, or type part 700x90; Esc lets go")
        else:
            self.state.try_part(None)
        self.refresh()

    def _marked(self, face: str, ring: list[tuple[float, float]]) -> None:
        piece, kind = self.state.piece, self.board.mark_kind
        if piece is None or kind is None:
            return
        reader = Reader(piece, 0, "mm", "mm", self.state.today.isoformat(), self.state.shop.kit.pin_depth_mm)
        try:
            if kind in FIGURE_KINDS:
                meaning = _figure_in(reader, kind, ring)
            else:
                meaning = reader.add_defect(
                    ALIASES.get(kind, kind), tuple(ring), face, None, note=kind if kind in ALIASES else ""
                )
        except (BadEntry, ValueError) as fault:
            self.state.warn(str(fault).splitlines()[0])
            return
        self.state.keep_meaning(meaning)
        if meaning.piece is not None and kind not in FIGURE_KINDS:
            self.state.choose_tag(meaning.piece.defects[-1].id)

    def _reshaped(self, tag: str, ring: list[tuple[float, float]]) -> None:
        """Keep a mark as it was dragged, if it still touches the wood and does not cross itself."""
        piece = self.state.piece
        if piece is not None:
            self.state.reshape_mark(piece, tag, tuple(ring))

    def _edge_dragged(self, which: str, k: int, mm: float) -> None:
        """Keep an edge or the length as it was dragged."""
        piece = self.state.piece
        if piece is None:
            return
        if which == "length":
            beyond = [w.x_mm for w in piece.width_stations if w.x_mm > mm]
            if beyond or not 0 < mm <= 20_000:
                self.state.warn(
                    f"{self.state.told(mm)} long would cut off the width read at {self.state.told(max(beyond, default=0))}; read that anew first"
                )
                return
            self.state.keep(f"No. {piece.id}: length", with_readings(piece, length_mm=mm))
            return
        old = piece.width_stations[k]
        new = old.changed(**{f"{which}_mm": mm})
        if new.far_mm + new.near_mm < 1:
            self.state.warn("the two edges would meet there; the old reading stays")
            return
        stations = tuple(new if j == k else w for j, w in enumerate(piece.width_stations))
        self.state.keep(
            f"No. {piece.id}: {which} edge at {self.state.told(old.x_mm)}", with_readings(piece, width_stations=stations)
        )
        self.state.notify(f"{which} edge {self.state.told(mm)} at {self.state.told(old.x_mm)}")

    def ghost_box(self) -> QRectF:
        """Where the piece stands in before its outline is known."""
        piece, axis = self.state.piece, self.board.axis
        end = axis.x(piece.length_mm) if piece is not None and piece.length_mm else axis.right - 60
        return QRectF(axis.left, 60, end - axis.left, 150)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """On the folded face: it rolls up. On the ghost of an unread piece: its end sets the length, its upper rim the width; both are dragged."""
        piece = self.state.piece
        self._ghost_drag = None
        if piece is not None and piece.outline and self.fold_box().contains(event.position()):
            self.state.roll()
            return
        if piece is None or piece.outline:
            return
        box, at = self.ghost_box(), event.position()
        if abs(at.x() - box.right()) < 14 and box.top() - 8 < at.y() < box.bottom() + 8:
            self._ghost_drag = "length"
        elif piece.length_mm and box.left() < at.x() < box.right() and abs(at.y() - box.top()) < 14:
            self._ghost_drag = "width"

    @override
    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        piece, which = self.state.piece, getattr(self, "_ghost_drag", None)
        if piece is None or which is None:
            return
        axis, at = self.board.axis, event.position()
        if which == "length":
            mm = float(round(axis.mm(at.x())))
            if 1 <= mm <= 20_000:
                self.state.keep(f"No. {piece.id}: length", with_readings(piece, length_mm=mm))
        else:
            mm = float(max(1, round((self.ghost_box().bottom() - at.y()) / axis.px_per_mm)))
            ends = (0.0, piece.length_mm or 0.0)
            stations = tuple(WidthStation(x_mm=x, far_mm=mm) for x in ends)
            self.state.keep(f"No. {piece.id}: width", with_readings(piece, width_stations=stations))

    def take_mark(self, kind: str | None, *, polygon: bool) -> None:
        """Take a kind of mark up, to draw it on the wood; None puts it down."""
        self.board.part_mode = False
        self.board.mark_kind, self.board.mark_polygon = kind, polygon
        self.board.setCursor(Qt.CursorShape.CrossCursor if kind else Qt.CursorShape.ArrowCursor)
        if kind:
            how = "click its corners, double-click ends" if polygon else "drag over it, or click"
            self.state.notify(f"{label_of(kind)}: {how}; Esc lets go")
        self.refresh()

    def let_go(self) -> None:
        """Put down what is in hand: a mark's kind, the frame, the bundle."""
        self.take_mark(None, polygon=False)
        if self.state.part_box is not None:
            self.state.try_part(None)
        self.bundle.open = False
        self.refresh()

    def step_corner(self, by: int) -> bool:
        """Home and End take the corners of the taken mark, one after the other."""
        chosen = self.board.chosen_mark()
        if chosen is None:
            return False
        count = len(handle_points(chosen[0].polygon))
        at = self.state.chosen_corner
        self.state.choose_corner((0 if by > 0 else count - 1) if at is None else (at + by) % count)
        return True

    def _mouse_x(self) -> int:
        """Where the by-mouse controls begin; further left in a narrow window."""
        return max(AXIS_X + 380, min(AXIS_X + 620, self.width() - 452))

    # looks --------------------------------------------------------------------------------------------------------
    def refresh(self) -> None:
        """Bring everything up to date and in its place."""
        if not self.isVisible():
            return
        piece = self.state.piece
        self.board.setVisible(piece is not None and bool(piece.outline))  # the ghost takes the mouse itself
        self.board.refresh()
        self._place_sockets(piece)
        top = self.height() - LIST_H
        panel = self._panel()
        tasks = (
            tasks_of(
                piece, self.state.shop.kit.pin_depth_mm, self.state.shop.judgements.facts(piece.id).question, self.state.style
            )
            if piece
            else []
        )
        for k, row in enumerate(self.rows):
            task = tasks[k] if k < len(tasks) and panel is None else None
            row.setVisible(task is not None)
            if task is not None:
                row.say(task.words.strip() or "?")
                row.setProperty("words", task.words)
                row.setAccessibleName(f"{task.what}: {task.how}")
                flow.row([(row, 166)], self._mouse_x() - 190, top + 8 + k * 47)
        self.tasks = tasks
        self._place_buttons(piece, top)
        self.update()

    def _panel(self) -> QWidget | None:
        """The card that stands in place of the list of what is next, laid out and shown."""
        top = self.height() - LIST_H
        wanted: QWidget | None = None
        if self.bundle.wanted_now():
            wanted = self.bundle
        elif self.card.wanted:
            wanted = self.card
        elif self.state.part_box is not None:
            wanted = self.part
        for panel in (self.bundle, self.card, self.part):
            panel.setVisible(panel is wanted)
        if wanted is not None:
            flow.fill(wanted, AXIS_X - 14, top + 1, self._mouse_x() - 14, top + LIST_H - 1)
            wanted.refresh()
            wanted.raise_()
        return wanted

    def _place_buttons(self, piece: Piece | None, top: float) -> None:
        self.rack_it.chalk = not (self.bundle.open or self.card.suggestion is not None)  # one chalk action in a window
        flow.column([self.rack_it, self.another], LEFT, self.height() - 100, 144, gap=4)
        self.rack_it.say(
            "Rack it as it is" if piece is None or not piece.racked else "On the rack",
            enabled=piece is not None and not piece.racked,
        )
        reclaimed = piece is not None and piece.reclaimed
        self.kind.say(
            (label_of(piece.kind) + (", reclaimed" if reclaimed else "")).capitalize() if piece else "Kind",
            enabled=piece is not None,
        )
        self.species.say(piece.species if piece and piece.species != "unknown" else "Species unknown", enabled=piece is not None)
        marking = self.board.mark_kind
        self.mark.setChecked(marking is not None)
        measured = piece is not None and bool(piece.outline)
        self.mark.say(f"Marking: {label_of(marking)}" if marking else "Mark a defect", enabled=measured)
        text, caution = _gate_words(piece)
        self.gate.say(text, enabled=piece is not None)
        self.gate.caution = caution
        self.read.say(self.bench.label, enabled=piece is not None and not self.bench.busy)
        waiting = len(piece.suggestions) if piece else 0
        self.photo.say(
            f"Photos, {waiting} suggested" if waiting else f"Photos{f' ({len(piece.photos)})' if piece and piece.photos else ''}",
            enabled=piece is not None,
        )
        self.tried.setChecked(self.board.part_mode or self.state.part_box is not None)
        self.tried.say("Try a part", enabled=measured)
        self.more.say("More", enabled=piece is not None)
        self.instruments.setEnabled(piece is not None)
        x = self._mouse_x()
        wide = (self.width() - RIGHT - x - 8) // 2
        pairs = ((self.kind, self.species), (self.mark, self.gate), (self.read, self.photo), (self.tried, self.more))
        for r, pair in enumerate(pairs):
            flow.grid(pair, x, top + 8 + r * 48, 2 * wide + 8, 2, gap=8)
        flow.row([(self.read, wide - 46), (self.instruments, 42)], x, top + 8 + 2 * 48, gap=4)

    def _place_sockets(self, piece: Piece | None) -> None:
        """Thickness sockets where read and where wanted: one row under the near edge, or on the wood where rows are read."""
        axis, style, face = self.board.axis, self.state.shop.kit.length_style, self.board.boxes()[0]
        self.socket_y = int(self.board.y() + self.board.boxes()[1].bottom() + 8)
        places = self._socket_places(piece)
        rows = piece is not None and piece.reading_grid[1] > 1
        while len(self.sockets) < len(places):
            self.sockets.append(ReadingButton(self.state, "", self, f"thick.{len(self.sockets)}"))
        last: dict[int, float] = {}
        for k, socket in enumerate(self.sockets):
            hidden = rows and (self.state.part_box is not None or self.board.mark_kind is not None)  # they would lie on the wood
            socket.setVisible(k < len(places) and bool(piece and piece.outline) and not hidden)
            if k >= len(places):
                continue
            x, y, read, by = places[k]
            told = self.state.told
            words = f"{told(x)} t " if not rows else f"{told(x)} t  y {told(y)}"
            where = (
                f"thickness at {self.state.told(x)}"
                + (f", {self.state.told(y)} up" if rows else "")
                + (f", by {by}" if by else "")
            )
            socket.set(words, format_length(read, style) if read else "?", unread=read is None, what=where)
            row = round(y) if rows else 0
            px = max(axis.x(x) - 29, last.get(row, -100.0) + 60)
            last[row] = px
            socket.move(int(px), int(self.board.y() + face.y(y) - 18) if rows else self.socket_y)
            socket.raise_()

    def _socket_places(self, piece: Piece | None) -> list[tuple[float, float, float | None, str]]:
        """(x, y, reading or None, instrument) of every socket, in order along the board."""
        if piece is None:
            return []
        read = [(s.x_mm, s.y_mm, s.thickness_mm, s.by) for s in piece.stations]
        rows = piece.reading_grid[1] > 1
        if not rows:  # one row: where several were read across, the least of them counts
            least: dict[float, tuple[float, float, float, str]] = {}
            for one in read:
                if one[0] not in least or one[2] < least[one[0]][2]:
                    least[one[0]] = one
            read = list(least.values())
        wanted = (
            []
            if not rows and len(read) >= 3
            else [
                (x, y, None, "")
                for x, y in grid_places(piece)
                if not any(near_place((x, y), (r[0], r[1]), rows=rows) for r in read)
            ]
        )
        return sorted([*read, *wanted], key=lambda p: (p[0], p[1]))

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, piece = self.state.theme, self.state.piece
        p.fillRect(self.rect(), theme.bench)
        top = self.height() - LIST_H
        p.fillRect(QRectF(0, top, self.width(), LIST_H), theme.ground)
        if piece is None:
            return
        face1 = self.board.boxes()[0]
        unread = len(self.tasks) if hasattr(self, "tasks") else 0
        lines = [
            (
                f"{unread} thing{'s' if unread > 1 else ''} not read" if unread else "all read",
                theme.ochre if unread else theme.ink2,
            )
        ]
        if piece.origin:
            lines.append((piece.origin, theme.ink2))
        share = self.state.clear_share(piece) if piece.defects and piece.outline else None
        clear = f", {share:.0%} clear" if share is not None else ""
        lines.append((f"{count_of(len(piece.defects), 'defect')} marked{clear}", theme.ink2))
        photo = piece.photo(f"face{face1.face}")
        if photo is not None:
            told = f"photo, off by {photo.doubt_mm:.1f} at most" if photo.is_true else "its photo is not true yet"
            lines.insert(0, (told, theme.ink2 if photo.is_true else theme.ochre))
        if piece.suggestions:
            lines.insert(1, (f"{len(piece.suggestions)} suggested; none counts until you keep it", theme.ochre))
        lines = _that_fit(lines, face1.height - 22)
        left_words(
            p, self.state, self.board.y() + face1.top - 4, f"Face {face1.face}" + (", rolled" if face1.face == "2" else ""), lines
        )
        self._edge_words(p, piece)
        if not piece.outline:
            self._ghost(p, piece)
        self._next(p, top)

    def _edge_words(self, p: QPainter, piece: Piece) -> None:
        theme = self.state.theme
        if not piece.outline:
            return
        _, edge, _ = self.board.boxes()
        y = self.board.y()
        draw.text_at(p, LEFT, y + edge.center().y() + 5, "Near edge", theme.ink, 15, 700)
        grid = piece.reading_grid
        draw.text_at(
            p, LEFT, self.socket_y + 23, "thick" if grid[1] == 1 else f"thick: {grid[0]} × {grid[1]} on the wood", theme.ink2, 14
        )
        strip = self.socket_y + 46
        draw.text_at(p, LEFT, strip + 14, "Moisture", theme.ink, 15, 700)
        axis = self.board.axis
        used = self._readings(p, piece, strip + 14)
        note = _core_note(piece, self.state.style)
        if note:
            wide = draw.text_width(note, 14, 500) + 14
            left = max(axis.left, axis.x(piece.extents[2]) - wide)
            draw.label(p, theme, max(left, min(used, axis.right - wide)), strip - 2, note, dashed=True, figures=False, px=14)
        fold = self.fold_box()
        if fold.bottom() < self.height() - LIST_H - 2:
            self._fold(p, piece, fold)

    def _readings(self, p: QPainter, piece: Piece, y: float) -> float:
        """Today's moisture readings, each at its place or beside the one before it; how far they reach, px. Those that find no room
        are counted."""
        theme, axis = self.state.theme, self.board.axis
        limit = self.state.shop.kit.target_moisture_pct + 2
        used, rows = axis.left, sorted(piece.moisture_now, key=lambda r: r.x_mm)
        room = axis.right - (60 if len(rows) > 1 else 0)
        for k, reading in enumerate(rows):
            text = f"{reading.moisture_pct:g} % at {self.state.told(reading.depth_mm)} deep"
            wide = draw.text_width(text, 15, 500, figures=True)
            x = max(used, min(axis.x(reading.x_mm), room - wide))
            if x + wide > room + 0.5:
                return x + draw.text_at(p, x, y, f"{len(rows) - k} more", theme.ink2, 14) + 14
            draw.text_at(p, x, y, text, theme.ochre if reading.moisture_pct > limit else theme.ink, 15, 500, figures=True)
            used = x + wide + 14
        return used

    def fold_box(self) -> QRectF:
        """The strip that is the other face, folded."""
        piece, axis = self.state.piece, self.board.axis
        end = piece.extents[2] if piece else 0.0
        return QRectF(axis.left, self.socket_y + 72, axis.x(end) - axis.left, 30)

    def _fold(self, p: QPainter, piece: Piece, fold: QRectF) -> None:
        theme, other = self.state.theme, "2" if self.state.face_up == "1" else "1"
        unswept = other in piece.unswept_faces
        pen = QPen(theme.ochre if unswept else theme.edge, 1.5)
        pen.setDashPattern([4, 3])
        p.setPen(pen)
        p.setBrush(theme.ground)
        p.drawRect(fold)
        draw.text_at(p, LEFT, fold.center().y() + 5, f"Face {other}", theme.ink, 15, 700)
        draw.text_at(p, LEFT + 56, fold.center().y() + 5, "folded, / rolls", theme.ink2, 13)
        count = sum(d.face == other for d in piece.defects)
        photo = piece.photo(f"face{other}")
        words = (
            f"face {other} not swept for metal; no saw line will be offered here until it is"
            if unswept
            else f"{count_of(count, 'defect')} on face {other}" + (", its photo is true" if photo and photo.is_true else "")
        )
        draw.text_at(
            p, fold.x() + 12, fold.center().y() + 5, words, theme.ochre if unswept else theme.ink2, 14, room=fold.width() - 20
        )

    def _ghost(self, p: QPainter, piece: Piece) -> None:
        """The piece before its outline is known: a dashed ghost with what comes first."""
        theme, axis = self.state.theme, self.board.axis
        box = self.ghost_box()
        pen = QPen(theme.ochre, 1.5)
        pen.setDashPattern([5, 3])
        p.setPen(pen)
        p.setBrush(theme.ground)
        p.drawRect(box)
        p.setBrush(theme.bench)
        for k in range(3):
            p.drawEllipse(QPointF(box.left() + 20 + k * (box.width() - 40) / 2, box.top()), 6, 6)
            p.drawEllipse(QPointF(box.left() + 20 + k * (box.width() - 40) / 2, box.bottom()), 6, 6)
        p.fillRect(QRectF(axis.left - 7, box.y(), 6, box.height()), theme.chalk)
        p.setBrush(theme.chalk)
        p.drawEllipse(QPointF(box.right(), box.center().y()), 8, 8)
        if piece.length_mm:
            p.drawEllipse(QPointF(box.center().x(), box.top()), 8, 8)
        widths = ("231", "231 229 230", "148 186 150 190") if self.state.style == "mm" else ("9 1/8", "9 1/8 9 9", "5 3/4 7 1/2")
        first = (
            "its length: type it, such as 2390, or 94 1/8, or 7 ft 10; or drag the ring"
            if not piece.length_mm
            else f"its width: w {widths[0]}, or w {widths[1]} evenly along (e {widths[2]} for live edges)"
        )
        draw.label(p, theme, box.center().x(), box.y() + 40, first, centred=True, figures=False, px=15, chosen=True, height=28)
        draw.label(
            p,
            theme,
            box.center().x(),
            box.y() + 84,
            "dashed ochre: not read yet",
            centred=True,
            figures=False,
            px=14,
            dashed=True,
        )

    def _next(self, p: QPainter, top: float) -> None:
        theme = self.state.theme
        draw.text_at(p, LEFT, top + 26, "Next", theme.ink, 17, 700)
        more = len(self.tasks) - ROWS
        words = f"and {more} more" if more > 0 else "" if self.tasks else "All is read. Mark defects, or look it over: F3"
        for k, line in enumerate(wrapped(words, 13.5, 140)):
            draw.text_at(p, LEFT, top + 48 + 18 * k, line, theme.ink2, 13.5)
        if self.bundle.isVisible() or self.card.isVisible() or self.part.isVisible():
            return
        room = self._mouse_x() - 196 - AXIS_X - 190
        for k, task in enumerate(self.tasks[:ROWS]):
            y = top + 8 + k * 47
            if k == 0:
                p.fillRect(QRectF(AXIS_X - 14, y, self._mouse_x() - AXIS_X - 4, 44), theme.chalk_wash)
                p.fillRect(QRectF(AXIS_X - 14, y, 6, 44), theme.chalk)
            draw.text_at(p, AXIS_X, y + 28, task.what, theme.ink, 15, 600, room=185)
            lines = wrapped(task.how, 13.5, max(40.0, room))[:3]
            first, apart = ((28, 0), (19, 17), (14, 15))[len(lines) - 1] if lines else (28, 0)
            for n, line in enumerate(lines):
                draw.text_at(p, AXIS_X + 190, y + first + apart * n, line, theme.ink2, 13.5, room=max(30.0, room))
        for k, word in enumerate(WORD_LIST[: 2 * (ROWS - len(self.tasks)) if len(self.tasks) < ROWS else 0]):
            y = top + 8 + (len(self.tasks) + k // 2) * 47 + 27
            half = (self._mouse_x() - AXIS_X - 30) / 2
            x = AXIS_X + (k % 2) * half
            such = example_in(word, self.state.style)
            draw.label(p, theme, x, y - 16, such, px=14)
            used = draw.text_width(such, 14, 500, figures=True)
            room = half - used - 34
            lines = wrapped(word.does, 13, room)
            if len(lines) > 2:
                lines = wrapped(word.does.partition(";")[0], 13, room)[:2]  # what is said further stands in the list of words
            for j, line in enumerate(lines):
                draw.text_at(p, x + used + 20, y - 8 * (len(lines) - 1) + 16 * j, line, theme.ink2, 13, room=room)

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.refresh()


def _that_fit(lines: list[tuple[str, QColor]], room: float) -> list[tuple[str, QColor]]:
    """The first lines of the left column that end above what comes below them."""
    kept: list[tuple[str, QColor]] = []
    used = 0.0
    for text, colour in lines:
        used += 18 * len(wrapped(text, 13.5, 148)) + 2
        if used > room:
            break
        kept.append((text, colour))
    return kept


def _core_note(piece: Piece, style: LengthStyle) -> str:
    """What is not known of the moisture of thick wood; empty where it is known, or the wood is thin."""
    state = moisture_state(piece.moisture_now, piece.least_thickness_mm, 0.0)
    if state.has_core and state.worst_pct is None:
        return "moisture not read"
    reach = f"the pins reach {tell_length(state.deepest_mm, style)} of {tell_length(piece.least_thickness_mm or 0, style)}"
    return f"core not read: {reach}" if state.core_unread else ""


def _gate_words(piece: Piece | None) -> tuple[str, bool]:
    """What the gate's button says of metal, finish and treatment, and whether it is a caution."""
    if piece is None:
        return "Metal and finish", False
    if piece.live_metal:
        return f"Metal: {len(piece.live_metal)} live", True
    if piece.unswept_faces:
        return f"Metal: face {' and '.join(piece.unswept_faces)} not swept", True
    if piece.coating.barred:
        return f"Treated: {label_of(piece.coating.treatment)}", True
    if piece.coating.wants_test or piece.coating.holds_poison:
        return f"Finish: {piece.coating.finish}, " + ("test it" if piece.coating.wants_test else "not clean"), True
    if piece.reclaimed and not (piece.coating.finish and piece.coating.treatment):
        return "Finish not declared", True
    return "Metal and finish: clear", False


def _figure_in(reader: Reader, kind: str, ring: list[tuple[float, float]]) -> Command:
    """A figure zone over a dragged rectangle."""
    xs, ys = zip(*ring)
    reader.at = (min(xs) + max(xs)) / 2
    return reader.figure(kind, [max(xs) - min(xs), max(ys) - min(ys)], f"y {(min(ys) + max(ys)) / 2:.1f}")
