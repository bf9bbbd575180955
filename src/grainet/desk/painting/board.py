"""A board on the length axis: a face (or both), the near edge, its troubles with tags and handles. Shared by the screens.

Marks are drawn by dragging (rectangle), clicking (point) or clicking corners (polygon) while a kind is taken up; a taken mark
shows handles on its corners, which are dragged, as is the mark itself. Suggested marks wait dashed.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QMouseEvent, QPainter, QPainterPath, QPen, QPolygonF, QTransform
from PySide6.QtWidgets import QAbstractButton, QWidget
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.painting.axis import Axis
from grainet.desk.services.pictures import plain_colour
from grainet.desk.view_state import State
from grainet.desk.widgets.handles import handle_at
from grainet.present.ring_edit import handle_points, moved_ring
from grainet.wood.defects import SEVERITY_WORDS, Defect, label_of, long_ends, name_of
from grainet.wood.figure import FigureZone
from grainet.wood.piece import Piece
from grainet.wood.planing import planing_direction
from grainet.wood.units import format_length

TAG_ROOM, ROW, SLANT = 28, 24, 14
LEAST_EDGE_PX = 24
Ring = tuple[tuple[float, float], ...]


@dataclass(frozen=True)
class FaceBox:
    """Where a face lies on the widget; face 2 is rolled toward you, its far edge below."""

    face: str
    top: float
    height: float
    scale: float
    y0: float
    y1: float

    def y(self, mm: float) -> float:
        """The px of a place across, in mm."""
        return self.top + ((self.y1 - mm) if self.face == "1" else (mm - self.y0)) * self.scale

    def mm(self, px: float) -> float:
        """The place across of a px, in mm."""
        across = (px - self.top) / self.scale
        return self.y1 - across if self.face == "1" else self.y0 + across


@dataclass(frozen=True)
class Mark:
    """What a tag stands for: a trouble, or one that a picture suggests."""

    defect: Defect
    suggested: bool = False
    confidence: float = 1.0

    @property
    def middle_x(self) -> float:
        """The place along of its middle, mm."""
        xs = [x for x, _ in self.defect.polygon]
        return (min(xs) + max(xs)) / 2


class TagButton(QAbstractButton):
    """A trouble's tag in the gutter; pressing it takes the mark."""

    def __init__(self, board: BoardView, mark: Mark, face: str) -> None:
        super().__init__(board)
        self.board, self.mark, self.face = board, mark, face
        self.setFixedSize(44, 26)
        self.clicked.connect(self._take)

    def _take(self) -> None:
        tag = self.mark.defect.id
        self.board.state.choose_tag(None if self.board.state.chosen_tag == tag else tag)

    def set(self, piece: Piece, mark: Mark) -> None:
        """Show a mark of a piece."""
        self.mark, defect = mark, mark.defect
        self.setObjectName(f"trouble.{piece.id}.{defect.id}" + ("" if self.face == "1" else ".face2"))
        depth = "depth unknown" if defect.depth_mm is None else f"{self.board.state.told(defect.depth_mm, 'g')} deep"
        more = ", drawn out" if defect.resolved else ""
        more += f", {SEVERITY_WORDS[defect.severity - 1]}" if defect.severity else ""
        more += ", kept as a feature" if defect.keep else ""
        more += f", {defect.cleared}" if defect.cleared else ""
        name = f"{name_of(defect)} {defect.id}"
        if mark.suggested:
            name, depth, more = f"suggested {name}", f"{mark.confidence:.2f} sure", ""
        self.setAccessibleName(f"{name}, {depth}{more}")
        self.setToolTip(f"{name}, face {defect.face}, {depth}{more}. Press to take it")

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        defect = self.mark.defect
        chosen = self.board.state.chosen_tag == defect.id
        draw.tag(p, self.board.state.theme, QPointF(22, 13), defect.id, defect.kind, chosen=chosen, suggested=self.mark.suggested)
        if self.hasFocus():
            draw.focus_ring(p, self.board.state.theme, QRectF(self.rect()))


class BoardView(QWidget):
    """One board on the axis. ``both`` shows face 2 unrolled; otherwise ``state.face_up`` is the face that is seen."""

    marked = Signal(str, list)  # face, ring of (x, y) mm
    tapped = Signal(float)  # a place along the axis, mm
    edge_dragged = Signal(str, int, float)  # "far", "near" or "length", which station, mm
    reshaped = Signal(str, list)  # a mark's id and its new ring
    part_drawn = Signal(float, float, float, float)  # a part tried on the board: x0, y0, x1, y1 in mm

    def __init__(self, state: State, *, both: bool = True) -> None:
        super().__init__()
        self.state, self.both = state, both
        self.axis = Axis(0, 1000, 1280)
        self.mark_kind: str | None = None
        self.mark_polygon = False
        self.part_mode = False
        self._drag: tuple[QPointF, QPointF, FaceBox] | None = None
        self._held_edge: tuple[str, int] | None = None
        self._held_mark: tuple[str, int | None, QPointF, Ring] | None = None  # id, corner or None, where taken, ring before
        self._held_ring: Ring | None = None
        self._held_part: tuple[int, QPointF, tuple[float, float, float, float]] | None = None
        self._corners: list[tuple[float, float]] = []
        self._corner_face: FaceBox | None = None
        self.tags: dict[tuple[str, str], TagButton] = {}
        self.setMouseTracking(True)

    # layout -------------------------------------------------------------------------------------------------------
    @property
    def piece(self) -> Piece | None:
        """The piece in hand."""
        return self.state.piece

    @property
    def first_face(self) -> str:
        """The face that lies uppermost on this widget."""
        return "1" if self.both else self.state.face_up

    def marks(self, face: str) -> list[Mark]:
        """Troubles and suggestions that are tagged at a face."""
        piece = self.piece
        if piece is None:
            return []
        own = [Mark(d) for d in piece.defects if (d.face == "2") == (face == "2")]
        if not self.both:  # a through mark is tagged whichever face is up
            own = [Mark(d) for d in piece.defects if d.face == face or d.face in ("through", "edge")]
        for one in piece.suggestions:
            if one.what == "defect" and one.kind is not None and one.face == face:
                own.append(
                    Mark(
                        Defect(id=one.id, kind=one.kind, face=face, polygon=one.polygon),
                        suggested=True,
                        confidence=one.confidence,
                    )
                )
        return own

    def _rows(self, face: str) -> int:
        return max((row for _, row, _ in self._spread(face)), default=0) + 1

    def _spread(self, face: str) -> list[tuple[float, int, Mark]]:
        """Tag places of a face: (x, row, mark), in order along the axis."""
        middles = sorted(((self.axis.x(m.middle_x), m) for m in self.marks(face)), key=lambda m: m[0])
        placed = draw.spread_tags([x for x, _ in middles], self.axis.left + 20, self.axis.right - 20, 44)
        return [(x, row, m) for (x, row), (_, m) in zip(placed, middles)]

    def _slant(self, face: str) -> int:
        """Room for slanted leaders, where a tag had to move aside."""
        return SLANT if any(abs(x - self.axis.x(m.middle_x)) > 2 for x, _, m in self._spread(face)) else 0

    def _gutter(self, face: str) -> int:
        """What a face's tags and leaders take beside the wood."""
        if not self.marks(face):
            return 20
        return TAG_ROOM + self._slant(face) + (self._rows(face) - 1) * ROW

    def boxes(self) -> tuple[FaceBox, QRectF, FaceBox | None]:
        """The upper face, the edge strip and face 2 (None while folded)."""
        piece = self.piece
        _, y0, _, y1 = piece.extents if piece is not None else (0, 0, 0, 200)
        if y1 - y0 < 1:
            y0, y1 = 0.0, 200.0
        scale = self.axis.px_per_mm
        first = self.first_face
        top = self._gutter(first)
        face1 = FaceBox(first, top, (y1 - y0) * scale, scale, y0, y1)
        thick = (piece.least_thickness_mm if piece else None) or 40.0
        edge = QRectF(self.axis.left, face1.top + face1.height + 3, 0, max(LEAST_EDGE_PX, thick * scale))
        face2 = FaceBox("2", edge.bottom() + 3, (y1 - y0) * scale, scale, y0, y1) if self.both else None
        return face1, edge, face2

    def gutter_px(self) -> int:
        """What tags and their leaders take above and below the wood."""
        below = (self._gutter("2") if self.marks("2") else 6) if self.both else 4
        return self._gutter(self.first_face) + below

    def wanted_height(self) -> int:
        """How high it would be at its scale, px."""
        _face1, edge, face2 = self.boxes()
        if face2 is None:
            return int(edge.bottom()) + 4
        below = self._gutter("2") if self.marks("2") else 6
        return int(face2.top + face2.height + below)

    def refresh(self) -> None:
        """Give every mark its tag, in place."""
        piece = self.piece
        wanted: set[tuple[str, str]] = set()
        if piece is not None and piece.outline and self.isVisible():
            face1, _, face2 = self.boxes()
            for face, box in ((face1.face, face1), ("2", face2)):
                if box is None:
                    continue
                below, slant = box is face2, self._slant(face)
                for x, row, mark in self._spread(face):
                    key = (face, mark.defect.id)
                    wanted.add(key)
                    button = self.tags.get(key)
                    if button is None:
                        button = self.tags[key] = TagButton(self, mark, face)
                        button.show()
                    button.set(piece, mark)
                    y = box.top + box.height + slant + 2 + row * ROW if below else box.top - slant - TAG_ROOM + 1 - row * ROW
                    button.move(int(x) - 22, int(y))
                    button.update()
        for key in set(self.tags) - wanted:
            gone = self.tags.pop(key)
            gone.hide()
            gone.deleteLater()
        self.update()

    # mouse --------------------------------------------------------------------------------------------------------
    def _face_at(self, at: QPointF) -> FaceBox | None:
        face1, _, face2 = self.boxes()
        return next((b for b in (face1, face2) if b is not None and b.top <= at.y() <= b.top + b.height), None)

    def chosen_mark(self) -> tuple[Defect, FaceBox] | None:
        """The taken trouble and the face on which its handles stand."""
        piece, tag = self.piece, self.state.chosen_tag
        found = next((d for d in piece.defects if d.id == tag), None) if piece else None
        if found is None:
            return None
        face1, _, face2 = self.boxes()
        if self.both:
            return found, face2 if found.face == "2" and face2 is not None else face1
        return (found, face1) if found.face in (face1.face, "through", "edge") else None

    def handles(self) -> list[QPointF]:
        """Where the taken mark's corners stand, or the corners of its frame when it has very many."""
        chosen = self.chosen_mark()
        if chosen is None or self.mark_kind is not None:
            return []
        defect, box = chosen
        return [QPointF(self.axis.x(x), box.y(y)) for x, y in handle_points(defect.polygon)]

    def _press_mark(self, at: QPointF) -> bool:
        chosen = self.chosen_mark()
        if chosen is None or self.mark_kind is not None or self.part_mode:
            return False
        defect, box = chosen
        corner = handle_at(at, self.handles())
        inside = draw.path_of(defect.polygon, self.axis.x, box.y).contains(at)
        if corner is None and not inside:
            return False
        self._held_mark, self._held_ring = (defect.id, corner, at, defect.polygon), defect.polygon
        self.state.choose_corner(corner)
        return True

    def _drag_mark(self, at: QPointF) -> None:
        chosen = self.chosen_mark()
        if self._held_mark is None or chosen is None:
            return
        _, corner, start, ring = self._held_mark
        box = chosen[1]
        dx = (at.x() - start.x()) / self.axis.px_per_mm
        dy = box.mm(at.y()) - box.mm(start.y())
        self._held_ring = moved_ring(ring, corner, dx, dy)
        self.update()

    def _press_part(self, at: QPointF) -> bool:
        box, face = self.state.part_box, self.boxes()[0]
        if box is None or self.mark_kind is not None:
            return False
        k = handle_at(at, self.part_handles())
        inside = box[0] <= self.axis.mm(at.x()) <= box[2] and box[1] <= face.mm(at.y()) <= box[3]
        if k is None and not inside:
            return False
        self._held_part = (8 if k is None else k, at, box)
        return True

    def part_handles(self) -> list[QPointF]:
        """The eight handles of the tried part: corners and middles of its sides."""
        box, face = self.state.part_box, self.boxes()[0]
        if box is None:
            return []
        x0, y0, x1, y1 = box
        return [QPointF(self.axis.x(x), face.y(y)) for x, y in _box_spots(x0, y0, x1, y1)]

    def _drag_part(self, at: QPointF) -> None:
        if self._held_part is None or self.piece is None:
            return
        k, start, (x0, y0, x1, y1) = self._held_part
        face = self.boxes()[0]
        dx, dy = (at.x() - start.x()) / self.axis.px_per_mm, face.mm(at.y()) - face.mm(start.y())
        if k == 8:
            x0, x1, y0, y1 = x0 + dx, x1 + dx, y0 + dy, y1 + dy
        else:
            right, up = _SPOT_WAYS[k]
            x0, x1 = (x0 + dx if right < 0 else x0), (x1 + dx if right > 0 else x1)
            y0, y1 = (y0 + dy if up < 0 else y0), (y1 + dy if up > 0 else y1)
        self.part_drawn.emit(min(x0, x1), min(y0, y1), max(x0, x1), max(y0, y1))

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        if self._press_mark(at) or self._press_part(at):
            return
        self._held_edge = self._ring_at(at)
        if self._held_edge is not None:
            return
        face = self._face_at(at)
        if face is None or (self.mark_kind is None and not self.part_mode):
            self.state.choose_tag(self._mark_under(at, face))
            self.tapped.emit(self.axis.mm(at.x()))
            return
        if self.mark_polygon and not self.part_mode:
            self._corner_face = self._corner_face or face
            self._corners.append((round(self.axis.mm(at.x()), 1), round(face.mm(at.y()), 1)))
            self.update()
            return
        self._drag = (at, at, face)

    def _mark_under(self, at: QPointF, face: FaceBox | None) -> str | None:
        """The mark that a click on the wood hits, the smallest first."""
        if face is None:
            return None
        hit = [
            (path.boundingRect().width() * path.boundingRect().height(), m.defect.id)
            for m in self.marks(face.face)
            if (path := draw.path_of(m.defect.polygon, self.axis.x, face.y)).contains(at)
            or path.boundingRect().adjusted(-3, -3, 3, 3).contains(at)
        ]
        return min(hit)[1] if hit else None

    @override
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        at = event.position()
        if self._held_mark is not None:
            self._drag_mark(at)
        elif self._held_part is not None:
            self._drag_part(at)
        elif self._held_edge is not None:
            self._drag_edge(at, keep=False)
        elif self._drag is not None:
            self._drag = (self._drag[0], at, self._drag[2])
            self.update()
        else:
            self._point_at(at)

    def _point_at(self, at: QPointF) -> None:
        """The pointer's shape over what can be taken."""
        if self.mark_kind is not None or self.part_mode:
            return
        over = self._ring_at(at)
        shape = Qt.CursorShape.SizeHorCursor if over and over[0] == "length" else Qt.CursorShape.SizeVerCursor if over else None
        if handle_at(at, (*self.handles(), *self.part_handles())) is not None:
            shape = Qt.CursorShape.SizeAllCursor
        self.setCursor(shape or Qt.CursorShape.ArrowCursor)

    @override
    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if self._held_mark is not None:
            tag, _, _, before = self._held_mark
            ring, self._held_mark, self._held_ring = self._held_ring, None, None
            if ring is not None and ring != before:
                self.reshaped.emit(tag, [(round(x, 1), round(y, 1)) for x, y in ring])
            self.update()
            return
        if self._held_part is not None:
            self._held_part = None
            return
        if self._held_edge is not None:
            self._drag_edge(event.position(), keep=True)
            self._held_edge = None
            return
        if self._drag is None:
            return
        (a, b, face), self._drag = self._drag, None
        x0, x1 = sorted((self.axis.mm(a.x()), self.axis.mm(b.x())))
        y0, y1 = sorted((face.mm(a.y()), face.mm(b.y())))
        if self.part_mode:
            if (b - a).manhattanLength() >= 6:
                self.part_drawn.emit(x0, y0, x1, y1)
            return
        if (b - a).manhattanLength() < 6:  # a click: a small mark about the point
            x0, x1, y0, y1 = x0 - 8, x0 + 8, y0 - 8, y0 + 8
        self.marked.emit(face.face, [(round(x, 1), round(y, 1)) for x, y in ((x0, y0), (x1, y0), (x1, y1), (x0, y1))])

    def edge_rings(self) -> list[tuple[str, int, QPointF]]:
        """The rings by which edges are dragged: far and near at every width station, and the end of the piece."""
        piece = self.piece
        if self.both or piece is None or not piece.outline or not piece.width_stations or not piece.length_mm:
            return []
        face = self.boxes()[0]
        line = max(w.near_mm for w in piece.width_stations)
        found = []
        for k, one in enumerate(piece.width_stations):
            x = self.axis.x(one.x_mm)
            found += [("far", k, QPointF(x, face.y(line + one.far_mm))), ("near", k, QPointF(x, face.y(line - one.near_mm)))]
        found.append(("length", 0, QPointF(self.axis.x(piece.length_mm), face.top + face.height / 2)))
        return found

    def _ring_at(self, at: QPointF) -> tuple[str, int] | None:
        if self.mark_kind is not None or self.part_mode:
            return None
        rings = list(self.edge_rings())
        taken = handle_at(at, (spot for _, _, spot in rings))
        return None if taken is None else rings[taken][:2]

    def _drag_edge(self, at: QPointF, *, keep: bool) -> None:
        """Read the edge under the pointer, to a millimetre; kept when the button is let go."""
        piece = self.piece
        if piece is None or self._held_edge is None:
            return
        which, k = self._held_edge
        line = max(w.near_mm for w in piece.width_stations)
        y = self.boxes()[0].mm(at.y())
        mm = {"far": y - line, "near": line - y, "length": self.axis.mm(at.x())}[which]
        mm = float(max(0 if which == "near" else 1, round(mm)))
        if keep:
            self.edge_dragged.emit(which, k, mm)
        else:
            self.state.notify(f"{which} {self.state.told(mm)}: let go to keep it")

    @override
    def mouseDoubleClickEvent(self, _event: QMouseEvent) -> None:
        self.close_polygon()

    def close_polygon(self) -> bool:
        """Finish the polygon that is being clicked, if it has corners enough."""
        corners, face = list(dict.fromkeys(self._corners)), self._corner_face
        self._corners, self._corner_face = [], None
        self.update()
        if len(corners) >= 3 and face is not None:
            self.marked.emit(face.face, corners)
            return True
        return False

    # painting -----------------------------------------------------------------------------------------------------
    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        piece = self.piece
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        if piece is None or not piece.outline:
            return
        theme = self.state.theme
        face1, edge, face2 = self.boxes()
        end = self.axis.x(piece.extents[2])
        for box in (face1, face2):
            if box is not None:
                self._face(p, piece, box, end)
        self._edge(p, piece, QRectF(edge.x(), edge.y(), end - edge.x(), edge.height()))
        last = face2.top + face2.height if face2 else edge.bottom()
        p.fillRect(QRectF(self.axis.left - 7, face1.top, 6, last - face1.top), theme.chalk)
        self._leaders(p, face1, face2)
        self._plumb(p, face1.top - 4, last + 2)
        self._being_drawn(p)
        for _, _, spot in self.edge_rings():
            p.setBrush(theme.chalk)
            p.setPen(QPen(theme.slip, 2))
            p.drawEllipse(spot, 6, 6)
        self._part(p)
        self._taken(p)

    def _face(self, p: QPainter, piece: Piece, box: FaceBox, end: float) -> None:
        theme = self.state.theme
        shape = draw.path_of(piece.outline, self.axis.x, box.y)
        picture = self.state.pictures.get(piece, "face1" if box.face == "1" else "face2")
        if picture is not None and box.face == "2":
            picture = picture.transformed(QTransform(1, 0, 0, -1, 0, 0))
        draw.wood_texture(
            p,
            theme,
            shape,
            picture,
            QRectF(self.axis.left, box.top, end - self.axis.left, box.height),
            plain_colour(piece.species),
        )
        draw.outline(p, shape, theme.ink)
        self._snapped_line(p, piece, box, end)
        for zone in piece.figure:
            if zone.face in (box.face, "through"):
                self._figure(p, zone, box)
        for defect in piece.defects:
            if defect.face == box.face or defect.face in ("through", "edge"):
                held = self._held_ring if self._held_mark and self._held_mark[0] == defect.id and self._held_ring else None
                shown = defect.changed(polygon=held) if held else defect
                draw.trouble(p, theme, shown, self.axis.x, box.y, chosen=self.state.chosen_tag == defect.id)
        for mark in self.marks(box.face):
            if mark.suggested:
                draw.trouble(
                    p, theme, mark.defect, self.axis.x, box.y, chosen=self.state.chosen_tag == mark.defect.id, suggested=True
                )
        self._planing(p, piece, box)

    def _snapped_line(self, p: QPainter, piece: Piece, box: FaceBox, end: float) -> None:
        """The chalk line from which live edges were read up and down."""
        if not any(w.near_mm for w in piece.width_stations):
            return
        y = box.y(max(w.near_mm for w in piece.width_stations))
        theme = self.state.theme
        ink = QPen(theme.chalk, 1.6)
        ink.setDashPattern([8, 3, 1.5, 3])
        for pen in (QPen(theme.slip, 4), ink):
            p.setPen(pen)
            p.drawLine(QPointF(self.axis.left, y), QPointF(end, y))

    def _figure(self, p: QPainter, zone: FigureZone, box: FaceBox) -> None:
        """A figure zone: bands along its lower rim in the measured wave, and its words on a slip."""
        shape = draw.path_of(zone.polygon, self.axis.x, box.y).boundingRect()
        theme = self.state.theme
        pen = QPen(theme.slip, 3)
        step = max(6.0, (zone.wavelength_mm or 14.0) * self.axis.px_per_mm)
        for pen in (QPen(theme.slip, 3), QPen(theme.teal if not theme.dark else theme.ink, 1.2)):
            p.setPen(pen)
            p.drawLine(shape.bottomLeft(), shape.bottomRight())
            x = shape.left()
            while x <= shape.right():
                p.drawLine(QPointF(x, shape.bottom()), QPointF(x, shape.bottom() - 7))
                x += step
        strength = f" {zone.strength:.0%}" if zone.strength is not None else ""
        words = f"{zone.id} {label_of(zone.kind)}{strength}" + (f", {zone.word}" if zone.word else "")
        draw.label(p, theme, shape.left() + 4, shape.bottom() - 30, words, figures=False, px=13, height=20)

    def _planing(self, p: QPainter, piece: Piece, box: FaceBox) -> None:
        """Chevrons beside the face's name: which way it planes clean; against one another where it tears both ways."""
        way = planing_direction(piece, box.face)
        if not way:
            return
        theme, y = self.state.theme, box.top + 5
        if way == "both_ways_tear":
            draw.planing_chevrons(p, theme.ochre, 136, y, right=True, count=2)
            draw.planing_chevrons(p, theme.ochre, 160, y, right=False, count=2)
        else:
            draw.planing_chevrons(p, theme.ink, 138 if way == "far" else 158, y, right=way == "far")

    def _edge(self, p: QPainter, piece: Piece, box: QRectF) -> None:
        theme, style = self.state.theme, self.state.shop.kit.length_style
        shape, times = self._taper(piece, box)
        draw.wood_texture(p, theme, shape, self.state.pictures.get(piece, "edge"), box, plain_colour(piece.species))
        if times > 1 and not self.both:
            draw.text_at(p, 102, box.center().y() + 5, f"taper ×{times}", theme.ink2, 13)
        self._layers(p, piece, box)
        draw.outline(p, shape, theme.ink, 1)
        least = piece.least_thickness_mm
        if not self.both:
            return  # the sockets below say the figures
        for station in _one_row(piece):
            x = min(max(self.axis.x(station.x_mm), box.left() + 26), box.right() - 26)
            low = station.thickness_mm == least and len(piece.stations) > 1
            draw.label(p, theme, x, box.center().y() - 11, format_length(station.thickness_mm, style), centred=True, ochre=low)

    def _taper(self, piece: Piece, box: QRectF) -> tuple[QPainterPath, int]:
        """The edge as it tapers, its differences drawn so many times as large that they are seen; and how many times."""
        shape = QPainterPath()
        read = sorted((s.x_mm, s.thickness_mm) for s in _one_row(piece))
        most = max((t for _, t in read), default=0.0)
        span = most - min((t for _, t in read), default=0.0)
        if span < 0.25 or piece.layers:
            shape.addRect(box)
            return shape, 1
        times = max(1, min(20, int(0.4 * box.height() / (span * self.axis.px_per_mm))))
        low = [
            QPointF(min(max(self.axis.x(x), box.left()), box.right()), box.bottom() - (most - t) * self.axis.px_per_mm * times)
            for x, t in read
        ]
        rim = [QPointF(box.left(), low[0].y()), *low, QPointF(box.right(), low[-1].y())]
        shape.addPolygon(QPolygonF([box.topLeft(), *rim, box.topRight()]))
        shape.closeSubpath()
        return shape, times

    def _layers(self, p: QPainter, piece: Piece, box: QRectF) -> None:
        """The layers of a panel, in true proportion."""
        total = sum(layer.thickness_mm for layer in piece.layers)
        y = box.y()
        for layer in piece.layers:
            high = box.height() * layer.thickness_mm / total
            band = QRectF(box.x(), y, box.width(), high)
            p.fillRect(band, plain_colour(layer.species))
            p.setPen(QPen(self.state.theme.ink, 0.8))
            p.drawLine(band.bottomLeft(), band.bottomRight())
            y += high

    def _leaders(self, p: QPainter, face1: FaceBox, face2: FaceBox | None) -> None:
        for box, below in ((face1, False), (face2, True)):
            if box is None:
                continue
            slant = self._slant(box.face)
            for x, row, mark in self._spread(box.face):
                ys = [box.y(b) for _, b in mark.defect.polygon]
                target = QPointF(self.axis.x(mark.middle_x), max(ys) if below else min(ys))
                if below:
                    rim = box.top + box.height
                    start, bend = QPointF(x, rim + slant + 2 + row * ROW), rim + slant
                else:
                    rim = box.top
                    start, bend = QPointF(x, rim - slant - 2 - row * ROW), rim - slant
                chosen = self.state.chosen_tag == mark.defect.id
                draw.leader(p, self.state.theme, start, bend, rim, target, chosen=chosen, dashed=mark.suggested)

    def _plumb(self, p: QPainter, top: float, bottom: float) -> None:
        x = self.axis.x(self.state.cursor_mm)
        for pen in (QPen(self.state.theme.slip, 4), QPen(self.state.theme.chalk, 2)):
            p.setPen(pen)
            p.drawLine(QPointF(x, top), QPointF(x, bottom))

    def _taken(self, p: QPainter) -> None:
        """Handles on the taken mark; a crack's ends show whether it may grow there."""
        theme, chosen = self.state.theme, self.chosen_mark()
        if chosen is None or self.mark_kind is not None:
            return
        defect, box = chosen
        if self._held_ring is not None:
            defect = defect.changed(polygon=self._held_ring)
        for k, (x, y) in enumerate(handle_points(defect.polygon)):
            spot = QPointF(self.axis.x(x), box.y(y))
            held = k == self.state.chosen_corner
            p.setBrush(theme.chalk if held else theme.slip)
            p.setPen(QPen(theme.chalk, 2))
            p.drawRect(QRectF(spot.x() - 4, spot.y() - 4, 8, 8))
        if defect.ends_closed is not None or defect.family == "breaks":
            for closed, (x, y), side in zip(defect.ends_closed or (False, False), long_ends(defect.polygon), (-1, 1)):
                self._crack_end(p, QPointF(self.axis.x(x) + side * 12, box.y(y)), side, closed=closed)

    def _crack_end(self, p: QPainter, at: QPointF, side: int, *, closed: bool) -> None:
        """A post where the crack ends for certain; an open arrow where it may run on."""
        theme = self.state.theme
        for pen in (QPen(theme.slip, 5), QPen(theme.wine if not closed else theme.chalk, 2)):
            p.setPen(pen)
            if closed:
                p.drawLine(QPointF(at.x(), at.y() - 9), QPointF(at.x(), at.y() + 9))
            else:
                p.drawLine(QPointF(at.x(), at.y() - 5), QPointF(at.x() + side * 7, at.y()))
                p.drawLine(QPointF(at.x(), at.y() + 5), QPointF(at.x() + side * 7, at.y()))

    def _part(self, p: QPainter) -> None:
        """The part that is tried: a paper frame with handles."""
        box = self.state.part_box
        if box is None or self.both:
            return
        face, theme = self.boxes()[0], self.state.theme
        frame = QRectF(QPointF(self.axis.x(box[0]), face.y(box[3])), QPointF(self.axis.x(box[2]), face.y(box[1]))).normalized()
        p.setBrush(Qt.BrushStyle.NoBrush)
        for pen in (QPen(theme.slip, 5), QPen(theme.chalk, 2.2)):
            p.setPen(pen)
            p.drawRect(frame)
        style = self.state.shop.kit.length_style
        words = f"{format_length(box[2] - box[0], style)} × {format_length(box[3] - box[1], style)}"
        draw.label(p, theme, frame.center().x(), frame.center().y() - 12, words, centred=True, chosen=True, height=24, px=16)
        for spot in self.part_handles():
            p.setBrush(theme.slip)
            p.setPen(QPen(theme.chalk, 2))
            p.drawRect(QRectF(spot.x() - 4, spot.y() - 4, 8, 8))

    def _being_drawn(self, p: QPainter) -> None:
        theme = self.state.theme
        pen = QPen(theme.chalk, 2)
        pen.setDashPattern([4, 3])
        p.setPen(pen)
        p.setBrush(Qt.BrushStyle.NoBrush)
        if self._drag is not None:
            p.drawRect(QRectF(self._drag[0], self._drag[1]).normalized())
        if self._corners and self._corner_face is not None:
            points = [QPointF(self.axis.x(x), self._corner_face.y(y)) for x, y in self._corners]
            p.drawPolyline(QPolygonF(points))
            for point in points:
                p.drawEllipse(point, 4, 4)


_SPOT_WAYS = ((-1, -1), (0, -1), (1, -1), (1, 0), (1, 1), (0, 1), (-1, 1), (-1, 0))


def _box_spots(x0: float, y0: float, x1: float, y1: float) -> list[tuple[float, float]]:
    xm, ym = (x0 + x1) / 2, (y0 + y1) / 2
    return [(x0, y0), (xm, y0), (x1, y0), (x1, ym), (x1, y1), (xm, y1), (x0, y1), (x0, ym)]


def _one_row(piece: Piece) -> Any:
    """One thickness for each place along: the least of those across, so that figures do not lie over one another."""
    least: dict[float, float] = {}
    for s in piece.stations:
        least[s.x_mm] = min(least.get(s.x_mm, s.thickness_mm), s.thickness_mm)
    return [s for s in piece.stations if least.get(s.x_mm) == s.thickness_mm]
