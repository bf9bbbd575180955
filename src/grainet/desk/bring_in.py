"""Bring in (F2): the portrait of a piece builds up reading by reading; what is unread is dashed and says so on the wood."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import get_args

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen
from PySide6.QtWidgets import QMenu, QWidget

from grainet.desk import draw
from grainet.desk.axis import Axis
from grainet.desk.board import BoardView
from grainet.desk.controls import Socket, WordButton, count_of, left_words, wrapped
from grainet.desk.state import State
from grainet.desk.tokens import AXIS_X, LEFT, RIGHT
from grainet.session.tape_words import WORDS, Reader
from grainet.wood.defects import DefectKind, label_of
from grainet.wood.piece import PIECE_KINDS, Piece, WidthStation, with_readings
from grainet.wood.species import library
from grainet.wood.units import format_length
from grainet.wood.value import BadEntry

LIST_H, ROWS = 176, 4


@dataclass(frozen=True)
class Task:
    """One thing to read next: what, how, and the words that the tape line opens with."""

    what: str
    how: str
    words: str


def tasks_of(piece: Piece, pin_depth_mm: float) -> list[Task]:
    """What is still unread, in the order in which to measure."""
    found: list[Task] = []
    end = piece.length_mm or piece.extents[2]
    if not end:
        found.append(Task("Length", "from the marked end", "l "))
    if not piece.width_stations and not piece.outline:
        found += [
            Task(f"Width at {x:.0f}", "square across, or e for live edges", f"{x:.0f} w ")
            for x in ([end * k / 2 for k in range(3)] if end else [0.0])
        ]
    if not piece.all_thicknesses_mm:
        found += [
            Task(f"Thickness at {x:.0f}", "callipers at the edge", f"{x:.0f} t ")
            for x in ([60, end / 2, end - 60] if end > 200 else [end / 2])
        ]
    if piece.species == "unknown":
        found.append(Task("Species", "a name, or leave it unknown", "sp "))
    for face in piece.unswept_faces:
        found.append(Task(f"Sweep face {face} for metal", "or mark each find: m 6x6", f"clear {face}"))
    if piece.mass_kg is None:
        found.append(Task("Weigh it", "gives kg/m³", "kg "))
    if not piece.moisture:
        found.append(Task("Moisture", f"pins at {pin_depth_mm:.0f} deep", f"{end / 2:.0f} mc "))
    elif (piece.least_thickness_mm or 0) >= 24 and max(r.depth_mm for r in piece.moisture) < 0.25 * (
        piece.least_thickness_mm or 0
    ):
        found.append(Task("Core moisture", "long pins, or a cut sample", f"{end / 2:.0f} core "))
    if piece.ring_angle_deg is None:
        found.append(Task("Rings at both ends", "0 flat to 90 quarter", "ring "))
    if piece.grain_slope_deg is None:
        found.append(Task("Slope of grain", "degrees off the edge", "slope "))
    if piece.flatness.bow_mm == 0 and piece.flatness.cup_mm == 0:
        found.append(Task("Bow and cup", "straightedge along, across", "bow "))
    if not piece.origin:
        found.append(Task("Origin", "where it comes from", "from "))
    return found


class BringIn(QWidget):
    """The screen."""

    def __init__(self, state: State) -> None:
        super().__init__()
        self.state = state
        self.setObjectName("bringIn")
        self.board = BoardView(state, both=False)
        self.board.setParent(self)
        self.board.marked.connect(self._marked)
        self.board.tapped.connect(state.move_plumb)
        self.board.edge_dragged.connect(self._edge_dragged)
        self.sockets: list[Socket] = []
        self.rows = [WordButton(state, "", parent=self, name=f"next.{k}") for k in range(ROWS)]
        for row in self.rows:
            row.clicked.connect(lambda _=False, r=row: self.state.tape_wanted.emit(r.property("words")))
        self.rack_it = WordButton(state, "Rack it as it is", "Ctrl+Enter", True, self, "bringIn.rack")
        self.rack_it.clicked.connect(self.chalk_action)
        self.another = WordButton(state, "Next piece", "Ctrl+N", False, self, "bringIn.next")
        self.another.clicked.connect(state.new_piece)
        self.kind = WordButton(state, "Kind", "", False, self, "bringIn.kind")
        self.kind.clicked.connect(self._choose_kind)
        self.species = WordButton(state, "Species", "", False, self, "bringIn.species")
        self.species.clicked.connect(self._choose_species)
        self.mark = WordButton(state, "Mark a trouble", "", False, self, "bringIn.mark")
        self.mark.setCheckable(True)
        self.mark.clicked.connect(self._choose_mark)
        self.swept = WordButton(state, "", "", False, self, "bringIn.metal")
        self.swept.clicked.connect(self._metal_gate)
        state.changed.connect(self.refresh)

    # the axis -----------------------------------------------------------------------------------------------------
    def axis(self, width: int, height: int) -> Axis:
        piece = self.state.piece
        length = (piece.length_mm or piece.extents[2]) if piece else 0.0
        length = length or 2400.0
        _, y0, _, y1 = piece.extents if piece else (0, 0, 0, 200)
        across = max(60.0, (y1 - y0) or 200.0)
        room = height - LIST_H - 186
        scale = min((width - AXIS_X - RIGHT) / length, room / (across + ((piece.least_thickness_mm if piece else None) or 40)))
        return Axis(0, (width - AXIS_X - RIGHT) / max(scale, 0.02), width)

    def set_axis(self, axis: Axis) -> None:
        self.board.axis = axis
        self.board.setGeometry(0, 4, self.width(), max(60, self.board.wanted_height()))
        self.refresh()

    # the doings ---------------------------------------------------------------------------------------------------
    def chalk_action(self) -> None:
        """Rack the piece as it is; always allowed."""
        piece = self.state.piece
        if piece is None:
            self.state.new_piece()
        elif not piece.racked:
            self.state.keep(f"No. {piece.id} racked", piece.changed(racked=True))
            missing = len(tasks_of(piece, self.state.shop.kit.pin_depth_mm))
            self.state.said.emit(
                f"No. {piece.id} is on the rack" + (f", {missing} things not read: its grades say if" if missing else ""), False
            )
        else:
            self.state.said.emit(f"No. {piece.id} is on the rack already", False)

    def _marked(self, face: str, ring: list[tuple[float, float]]) -> None:
        piece, kind = self.state.piece, self.board.mark_kind
        if piece is None or kind is None:
            return
        reader = Reader(piece, 0, "mm", "mm", self.state.today.isoformat(), self.state.shop.kit.pin_depth_mm)
        try:
            meaning = reader.add_defect(kind, tuple(ring), face, None)
        except (BadEntry, ValueError) as fault:
            self.state.said.emit(str(fault).splitlines()[0], True)
            return
        self.state.keep_meaning(meaning)
        if meaning.piece is not None:
            self.state.choose_tag(meaning.piece.defects[-1].id)

    def _edge_dragged(self, which: str, k: int, mm: float) -> None:
        """Keep an edge or the length as it was dragged."""
        piece = self.state.piece
        if piece is None:
            return
        if which == "length":
            beyond = [w.x_mm for w in piece.width_stations if w.x_mm > mm]
            if beyond or not 0 < mm <= 20_000:
                self.state.said.emit(
                    f"{mm:.0f} long would cut off the width read at {max(beyond, default=0):.0f}; read that anew first", True
                )
                return
            self.state.keep(f"No. {piece.id}: length", with_readings(piece, length_mm=mm))
            return
        old = piece.width_stations[k]
        new = old.changed(**{f"{which}_mm": mm})
        if new.far_mm + new.near_mm < 1:
            self.state.said.emit("the two edges would meet there; the old reading stays", True)
            return
        stations = tuple(new if j == k else w for j, w in enumerate(piece.width_stations))
        self.state.keep(f"No. {piece.id}: {which} edge at {old.x_mm:.0f}", with_readings(piece, width_stations=stations))
        self.state.said.emit(f"{which} edge {mm:.0f} at {old.x_mm:.0f}", False)

    def ghost_box(self) -> QRectF:
        """Where the piece stands in before its outline is known."""
        piece, axis = self.state.piece, self.board.axis
        end = axis.x(piece.length_mm) if piece is not None and piece.length_mm else axis.right - 60
        return QRectF(axis.left, 60, end - axis.left, 150)

    def mousePressEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        """On the ghost of an unread piece: its end sets the length, its upper rim the width; both are dragged."""
        piece = self.state.piece
        self._ghost_drag = None
        if piece is None or piece.outline:
            return
        box, at = self.ghost_box(), event.position()
        if abs(at.x() - box.right()) < 14 and box.top() - 8 < at.y() < box.bottom() + 8:
            self._ghost_drag = "length"
        elif piece.length_mm and box.left() < at.x() < box.right() and abs(at.y() - box.top()) < 14:
            self._ghost_drag = "width"

    def mouseReleaseEvent(self, event) -> None:  # type: ignore[no-untyped-def]
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

    def _menu(self, button: WordButton, rows: list[tuple[str, Callable[[], None]]]) -> None:
        menu = QMenu(self)
        menu.setObjectName(f"{button.objectName()}.menu")
        for label, act in rows:
            menu.addAction(label, act)
        menu.popup(button.mapToGlobal(button.rect().topLeft()))

    def _choose_kind(self) -> None:
        piece = self.state.piece
        if piece is None:
            return
        rows: list[tuple[str, Callable[[], None]]] = [
            (label_of(k).capitalize(), lambda k=k: self.state.keep(f"No. {piece.id}: kind", piece.changed(kind=k)))
            for k in PIECE_KINDS
        ]
        other = "Bought, not reclaimed" if piece.reclaimed else "Reclaimed: wants a metal sweep"
        rows.append(
            (other, lambda: self.state.keep(f"No. {piece.id}: reclaimed", piece.changed(reclaimed=not piece.reclaimed)) and None)
        )
        self._menu(self.kind, rows)

    def _choose_species(self) -> None:
        piece = self.state.piece
        if piece is None:
            return
        menu = QMenu(self)
        menu.addAction("Unknown", lambda: self.state.keep(f"No. {piece.id}: species", piece.changed(species="unknown")))
        menu.addAction("Type a name ...", lambda: self.state.tape_wanted.emit("sp "))
        groups: dict[str, QMenu] = {}
        for species in sorted(library(), key=lambda s: s.common):
            first = species.common[0].upper()
            if first not in groups:
                groups[first] = menu.addMenu(first)
            groups[first].addAction(
                species.common, lambda s=species: self.state.keep(f"No. {piece.id}: species", piece.changed(species=s.common))
            )
        menu.popup(self.species.mapToGlobal(self.species.rect().topLeft()))

    def _choose_mark(self) -> None:
        if self.board.mark_kind is not None:
            self._take_mark(None, False)
            return
        menu = QMenu(self)
        polygons = menu.addMenu("By corners: click each, double-click ends")
        for kind in get_args(DefectKind):
            menu.addAction(label_of(kind).capitalize(), lambda k=kind: self._take_mark(k, False))
            polygons.addAction(label_of(kind).capitalize(), lambda k=kind: self._take_mark(k, True))
        menu.aboutToHide.connect(lambda: self.refresh())
        menu.popup(self.mark.mapToGlobal(self.mark.rect().topLeft()))

    def _take_mark(self, kind: str | None, polygon: bool) -> None:
        self.board.mark_kind, self.board.mark_polygon = kind, polygon
        self.board.setCursor(Qt.CursorShape.CrossCursor if kind else Qt.CursorShape.ArrowCursor)
        if kind:
            how = "click its corners, double-click ends" if polygon else "drag over it, or click"
            self.state.said.emit(f"{label_of(kind)}: {how}; Esc lets go", False)
        self.refresh()

    def let_go(self) -> None:
        """Put the marking kind down."""
        self._take_mark(None, False)

    def _metal_gate(self) -> None:
        piece = self.state.piece
        if piece is None:
            return
        rows: list[tuple[str, Callable[[], None]]] = [
            (f"Face {f} swept today, nothing found but what is marked", lambda f=f: self._sweep(f)) for f in ("1", "2")
        ]
        rows += [(f"{d.id} is drawn out", lambda d=d: self._drawn(d.id)) for d in piece.live_metal]
        self._menu(self.swept, rows)

    def _sweep(self, face: str) -> None:
        self._by_words(f"clear {face}")

    def _drawn(self, tag: str) -> None:
        self._by_words(f"out {tag}")

    def _by_words(self, words: str) -> None:
        from grainet.session.tape_words import read

        try:
            self.state.keep_meaning(read(words, self.state.piece, self.state.plumb_mm, "mm", self.state.today.isoformat()))
        except BadEntry as fault:
            self.state.said.emit(str(fault), True)

    def _mouse_x(self) -> int:
        """Where the by-mouse controls begin; further left in a narrow window."""
        return max(AXIS_X + 400, min(AXIS_X + 630, self.width() - 440))

    # looks --------------------------------------------------------------------------------------------------------
    def refresh(self) -> None:
        if not self.isVisible():
            return
        piece = self.state.piece
        self.board.setVisible(piece is not None and bool(piece.outline))  # the ghost takes the mouse itself
        self.board.refresh()
        self._place_sockets(piece)
        top = self.height() - LIST_H
        tasks = tasks_of(piece, self.state.shop.kit.pin_depth_mm) if piece else []
        for k, row in enumerate(self.rows):
            task = tasks[k] if k < len(tasks) else None
            row.setVisible(task is not None)
            if task is not None:
                row.say(task.words.strip() or "?")
                row.setProperty("words", task.words)
                row.setAccessibleName(f"{task.what}: {task.how}")
                row.setGeometry(self._mouse_x() - 230, top + 8 + k * 41, 180, 38)
                row.setFixedHeight(38)
        self.tasks = tasks
        self.another.setGeometry(LEFT, self.height() - 52, 148, 44)
        x = self._mouse_x()
        wide = (self.width() - RIGHT - x - 10) // 2
        reclaimed = piece is not None and piece.reclaimed
        self.kind.say(
            (label_of(piece.kind) + (", reclaimed" if reclaimed else "")).capitalize() if piece else "Kind", piece is not None
        )
        self.species.say(piece.species if piece and piece.species != "unknown" else "Species unknown", piece is not None)
        self.mark.setChecked(self.board.mark_kind is not None)
        self.mark.say(
            f"Marking: {label_of(self.board.mark_kind)}" if self.board.mark_kind else "Mark a trouble",
            piece is not None and bool(piece.outline),
        )
        gate = (
            (
                f"Metal: face {' and '.join(piece.unswept_faces)} not swept"
                if piece.unswept_faces
                else f"Metal: {len(piece.live_metal)} live"
                if piece.live_metal
                else "Metal: clear"
            )
            if piece
            else "Metal"
        )
        self.swept.say(gate, piece is not None)
        self.swept.caution = piece is not None and bool(piece.unswept_faces or piece.live_metal)
        for k, button in enumerate((self.kind, self.species, self.mark, self.swept)):
            button.setGeometry(x + (k % 2) * (wide + 10), top + 34 + (k // 2) * 48, wide, 44)
        self.rack_it.setGeometry(x, top + 130, 2 * wide + 10, 44)
        self.rack_it.say(
            "Rack it as it is" if piece is None or not piece.racked else "On the rack", piece is not None and not piece.racked
        )
        self.update()

    def _place_sockets(self, piece: Piece | None) -> None:
        """Thickness sockets under the near edge, where read and where wanted."""
        axis, style = self.board.axis, self.state.shop.kit.length_style
        end = (piece.length_mm or piece.extents[2]) if piece else 0.0
        places = {} if piece is None else {s.x_mm: s.thickness_mm for s in piece.stations}
        wanted = sorted({*places, *([60.0, end / 2, end - 60.0] if end > 200 and len(places) < 3 else [])})
        while len(self.sockets) < len(wanted):
            self.sockets.append(Socket(self.state, "", self, f"thick.{len(self.sockets)}"))
        y = int(self.board.y() + self.board.boxes()[1].bottom() + 8)
        self.socket_y = y
        last = -100.0
        for k, socket in enumerate(self.sockets):
            socket.setVisible(k < len(wanted) and bool(piece and piece.outline))
            if k < len(wanted):
                x = wanted[k]
                read = places.get(x)
                socket.set(f"{x:.0f} t ", format_length(read, style) if read else "?", read is None, f"thickness at {x:.0f}")
                px = max(axis.x(x) - 29, last + 60)
                last = px
                socket.move(int(px), y)

    def paintEvent(self, _event) -> None:  # type: ignore[no-untyped-def]
        p = QPainter(self)
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
        lines.append((f"{count_of(len(piece.defects), 'trouble')} marked", theme.ink2))
        lines = lines if face1.height > 100 else lines[:1] if face1.height > 40 else []
        left_words(p, self.state, self.board.y() + face1.top - 4, "Face 1", lines)
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
        draw.write(p, LEFT, y + edge.center().y() + 5, "Near edge", theme.ink, 15, 700)
        draw.write(p, LEFT, self.socket_y + 23, "thick", theme.ink2, 14)
        strip = self.socket_y + 46
        draw.write(p, LEFT, strip + 14, "Moisture", theme.ink, 15, 700)
        axis = self.board.axis
        for reading in piece.moisture:
            limit = self.state.shop.kit.target_moisture_pct + 2
            text = f"{reading.moisture_pct:g} % at {reading.depth_mm:.0f} deep"
            x = min(axis.x(reading.x_mm), axis.right - 150)
            draw.write(p, x, strip + 14, text, theme.ochre if reading.moisture_pct > limit else theme.ink, 15, 500, True)
        deepest = max((r.depth_mm for r in piece.moisture), default=0.0)
        thick = piece.least_thickness_mm
        note = (
            ""
            if thick is None or thick < 24
            else "moisture not read"
            if not piece.moisture
            else f"core not read: the pins reach {deepest:.0f} of {thick:.0f}"
            if deepest < 0.25 * thick
            else ""
        )
        if note:
            draw.slip(
                p,
                theme,
                max(axis.left, axis.x(piece.extents[2]) - draw.text_width(note, 14, 500) - 14),
                strip + 22,
                note,
                dashed=True,
                figures=False,
                px=14,
            )
        fold = QRectF(axis.left, strip + 50, axis.x(piece.extents[2]) - axis.left, 30)
        if fold.bottom() < self.height() - LIST_H - 2:
            pen = QPen(theme.ochre if piece.unswept_faces else theme.edge, 1.5)
            pen.setDashPattern([4, 3])
            p.setPen(pen)
            p.setBrush(theme.ground)
            p.drawRect(fold)
            draw.write(p, LEFT, fold.center().y() + 5, "Face 2", theme.ink, 15, 700)
            draw.write(p, LEFT + 56, fold.center().y() + 5, "folded, /", theme.ink2, 13)
            words = (
                f"face {piece.unswept_faces[0]} not swept for metal; no saw line will be offered here until it is"
                if piece.unswept_faces
                else f"{count_of(sum(d.face == '2' for d in piece.defects), 'trouble')} on face 2; / rolls it up (Look over)"
            )
            draw.write(
                p,
                fold.x() + 12,
                fold.center().y() + 5,
                words,
                theme.ochre if piece.unswept_faces else theme.ink2,
                14,
                room=fold.width() - 20,
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
        first = (
            "its length: type it, such as 2390, or 94 1/8, or 7 ft 10"
            if not piece.length_mm
            else "its width, at three places: w 231 (e 148 186 for live edges)"
        )
        draw.slip(p, theme, box.center().x(), box.y() + 40, first, centred=True, figures=False, px=15, chosen=True, height=28)
        draw.slip(
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
        draw.write(p, LEFT, top + 26, "Next", theme.ink, 17, 700)
        if not self.tasks:
            for k, line in enumerate(wrapped("Everything is read. Mark its troubles, or look it over: F3", 13.5, 140)):
                draw.write(p, LEFT, top + 48 + 18 * k, line, theme.ink2, 13.5)
        for k, task in enumerate(self.tasks[:ROWS]):
            y = top + 8 + k * 41
            if k == 0:
                p.fillRect(QRectF(AXIS_X - 14, y, self._mouse_x() - AXIS_X - 26, 38), theme.chalk_wash)
                p.fillRect(QRectF(AXIS_X - 14, y, 6, 38), theme.chalk)
            draw.write(p, AXIS_X, y + 25, task.what, theme.ink, 15, 600)
            draw.write(p, AXIS_X + 185, y + 25, task.how, theme.ink2, 13.5, room=max(10, self._mouse_x() - AXIS_X - 425))
        for k, (example, meaning) in enumerate(WORDS[: 2 * (ROWS - len(self.tasks)) if len(self.tasks) < ROWS else 0]):
            y = top + 8 + (len(self.tasks) + k // 2) * 41 + 25
            half = (self._mouse_x() - AXIS_X - 30) / 2
            x = AXIS_X + (k % 2) * half
            draw.slip(p, theme, x, y - 16, example, px=14)
            draw.write(
                p,
                x + draw.text_width(example, 14, 500, True) + 20,
                y,
                meaning,
                theme.ink2,
                13,
                room=half - draw.text_width(example, 14, 500, True) - 34,
            )
        more = len(self.tasks) - ROWS
        if more > 0:
            draw.write(p, LEFT, top + 48, f"and {more} more", theme.ink2, 13.5)
        draw.write(p, self._mouse_x(), top + 24, "By mouse", theme.ink, 15, 700)
        draw.write(p, self._mouse_x() + 80, top + 24, "sockets and rows open the tape line", theme.ink2, 13)

    def resizeEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        super().resizeEvent(event)
        self.refresh()
