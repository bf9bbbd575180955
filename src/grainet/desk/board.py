"""A board unrolled on the length axis: face 1, near edge, face 2, with its troubles and their tags. Shared by the screens.

Marks are drawn by dragging (rectangle), clicking (point) or clicking corners (polygon) while a kind is taken up.
"""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QPainter, QPainterPath, QPen, QPolygonF, QTransform
from PySide6.QtWidgets import QAbstractButton, QWidget

from grainet.desk import draw
from grainet.desk.axis import Axis
from grainet.desk.pictures import plain_colour
from grainet.desk.state import State
from grainet.wood.defects import Defect, label_of
from grainet.wood.piece import Piece
from grainet.wood.units import format_length

GUTTER, ROW = 28, 24
LEAST_EDGE_PX = 24


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
        return self.top + ((self.y1 - mm) if self.face == "1" else (mm - self.y0)) * self.scale

    def mm(self, px: float) -> float:
        across = (px - self.top) / self.scale
        return self.y1 - across if self.face == "1" else self.y0 + across


class TagButton(QAbstractButton):
    """A trouble's tag in the gutter; pressing it takes the mark."""

    def __init__(self, board: BoardView, defect: Defect, face: str) -> None:
        super().__init__(board)
        self.board, self.defect, self.face = board, defect, face
        self.setFixedSize(44, 26)
        self.clicked.connect(lambda: board.state.choose_tag(None if board.state.chosen_tag == self.defect.id else self.defect.id))

    def set(self, piece: Piece, defect: Defect) -> None:
        self.defect = defect
        self.setObjectName(f"trouble.{piece.id}.{defect.id}" + ("" if self.face == "1" else ".face2"))
        depth = "depth unknown" if defect.depth_mm is None else f"{defect.depth_mm:g} deep"
        drawn = ", drawn out" if defect.resolved else ""
        self.setAccessibleName(f"{label_of(defect.kind)} {defect.id}, {depth}{drawn}")
        self.setToolTip(
            f"{label_of(defect.kind)} {defect.id}, face {defect.face}, {depth}{drawn}. Press to take it: arrows move it, Del removes it"
        )

    def paintEvent(self, _event) -> None:  # type: ignore[no-untyped-def]
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        draw.tag(
            p,
            self.board.state.theme,
            QPointF(22, 13),
            self.defect.id,
            self.defect.kind,
            self.board.state.chosen_tag == self.defect.id,
        )
        if self.hasFocus():
            draw.focus_ring(p, self.board.state.theme, QRectF(self.rect()))


class BoardView(QWidget):
    """One board on the axis. ``both`` shows face 2 unrolled; otherwise it is a folded strip."""

    marked = Signal(str, list)  # face, ring of (x, y) mm
    tapped = Signal(float)  # a place along the axis, mm
    edge_dragged = Signal(str, int, float)  # "far", "near" or "length", which station, mm

    def __init__(self, state: State, both: bool = True) -> None:
        super().__init__()
        self.state, self.both = state, both
        self.axis = Axis(0, 1000, 1280)
        self.mark_kind: str | None = None
        self.mark_polygon = False
        self._drag: tuple[QPointF, QPointF, FaceBox] | None = None
        self._held_edge: tuple[str, int] | None = None
        self._corners: list[tuple[float, float]] = []
        self._corner_face: FaceBox | None = None
        self.tags: dict[tuple[str, str], TagButton] = {}
        self.setMouseTracking(True)
        state.changed.connect(self.refresh)

    # layout -------------------------------------------------------------------------------------------------------
    @property
    def piece(self) -> Piece | None:
        return self.state.piece

    def _rows(self, face: str) -> int:
        return max((row for _, row, _ in self._spread(face)), default=0) + 1

    def _spread(self, face: str) -> list[tuple[float, int, Defect]]:
        """Tag places of a face: (x, row, defect), in order along the axis."""
        piece = self.piece
        if piece is None:
            return []
        own = [d for d in piece.defects if (d.face == "2") == (face == "2")]
        middles = sorted(((self.axis.x(sum(x for x, _ in d.polygon) / len(d.polygon)), d) for d in own), key=lambda m: m[0])
        placed = draw.spread_tags([x for x, _ in middles], self.axis.left + 20, self.axis.right - 20, 44)
        return [(x, row, d) for (x, row), (_, d) in zip(placed, middles)]

    def boxes(self) -> tuple[FaceBox, QRectF, FaceBox | None]:
        """Face 1, the edge strip and face 2 (None while folded)."""
        piece = self.piece
        _, y0, _, y1 = piece.extents if piece is not None else (0, 0, 0, 200)
        if y1 - y0 < 1:
            y0, y1 = 0.0, 200.0
        scale = self.axis.px_per_mm
        top = GUTTER + (self._rows("1") - 1) * ROW
        face1 = FaceBox("1", top, (y1 - y0) * scale, scale, y0, y1)
        thick = (piece.least_thickness_mm if piece else None) or 40.0
        edge = QRectF(self.axis.left, face1.top + face1.height + 3, 0, max(LEAST_EDGE_PX, thick * scale))
        face2 = FaceBox("2", edge.bottom() + 3, (y1 - y0) * scale, scale, y0, y1) if self.both else None
        return face1, edge, face2

    def wanted_height(self) -> int:
        _face1, edge, face2 = self.boxes()
        if face2 is None:
            return int(edge.bottom()) + 4
        return int(face2.top + face2.height + GUTTER + (self._rows("2") - 1) * ROW)

    def refresh(self) -> None:
        """Give every mark its tag, in place."""
        piece = self.piece
        wanted: set[tuple[str, str]] = set()
        if piece is not None and piece.outline and self.isVisible():
            face1, _, face2 = self.boxes()
            for face, box in (("1", face1), ("2", face2)):
                if box is None:
                    continue
                for x, row, defect in self._spread(face):
                    key = (face, defect.id)
                    wanted.add(key)
                    button = self.tags.get(key)
                    if button is None:
                        button = self.tags[key] = TagButton(self, defect, face)
                        button.show()
                    button.set(piece, defect)
                    y = box.top - GUTTER + 1 - row * ROW if face == "1" else box.top + box.height + 2 + row * ROW
                    button.move(int(x) - 22, int(y))
                    button.update()
        for key in set(self.tags) - wanted:
            self.tags.pop(key).deleteLater()
        self.update()

    # mouse --------------------------------------------------------------------------------------------------------
    def _face_at(self, at: QPointF) -> FaceBox | None:
        face1, _, face2 = self.boxes()
        return next((b for b in (face1, face2) if b is not None and b.top <= at.y() <= b.top + b.height), None)

    def mousePressEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        at = event.position()
        self._held_edge = self._ring_at(at)
        if self._held_edge is not None:
            return
        face = self._face_at(at)
        if self.mark_kind is None or face is None:
            self.state.choose_tag(None)
            self.tapped.emit(self.axis.mm(at.x()))
            return
        if self.mark_polygon:
            self._corner_face = self._corner_face or face
            self._corners.append((round(self.axis.mm(at.x()), 1), round(face.mm(at.y()), 1)))
            self.update()
            return
        self._drag = (at, at, face)

    def mouseMoveEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        if self._held_edge is not None:
            self._drag_edge(event.position(), keep=False)
        elif self._drag is not None:
            self._drag = (self._drag[0], event.position(), self._drag[2])
            self.update()
        else:
            over = self._ring_at(event.position())
            shape = (
                Qt.CursorShape.SizeHorCursor if over and over[0] == "length" else Qt.CursorShape.SizeVerCursor if over else None
            )
            if self.mark_kind is None:
                self.setCursor(shape or Qt.CursorShape.ArrowCursor)

    def mouseReleaseEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        if self._held_edge is not None:
            self._drag_edge(event.position(), keep=True)
            self._held_edge = None
            return
        if self._drag is None:
            return
        (a, b, face), self._drag = self._drag, None
        x0, x1 = sorted((self.axis.mm(a.x()), self.axis.mm(b.x())))
        y0, y1 = sorted((face.mm(a.y()), face.mm(b.y())))
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
        if self.mark_kind is not None:
            return None
        near = [(which, k) for which, k, spot in self.edge_rings() if (spot - at).manhattanLength() < 12]
        return near[0] if near else None

    def _drag_edge(self, at: QPointF, keep: bool) -> None:
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
            self.state.said.emit(f"{which} {mm:.0f}: let go to keep it", False)

    def mouseDoubleClickEvent(self, _event) -> None:  # type: ignore[no-untyped-def]
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
    def paintEvent(self, _event) -> None:  # type: ignore[no-untyped-def]
        piece = self.piece
        p = QPainter(self)
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

    def _face(self, p: QPainter, piece: Piece, box: FaceBox, end: float) -> None:
        theme = self.state.theme
        shape = draw.path_of(piece.outline, self.axis.x, box.y)
        picture = self.state.pictures.get(piece, "face1" if box.face == "1" else "face2")
        if picture is not None and box.face == "2":
            picture = picture.transformed(QTransform(1, 0, 0, -1, 0, 0))
        draw.wood(
            p,
            theme,
            shape,
            picture,
            QRectF(self.axis.left, box.top, end - self.axis.left, box.height),
            plain_colour(piece.species),
        )
        draw.outline(p, shape, theme.ink)
        for defect in piece.defects:
            if defect.face == box.face or defect.face in ("through", "edge"):
                draw.trouble(p, theme, defect, self.axis.x, box.y, self.state.chosen_tag == defect.id)

    def _edge(self, p: QPainter, piece: Piece, box: QRectF) -> None:
        theme, style = self.state.theme, self.state.shop.kit.length_style
        shape = QPainterPath()
        shape.addRect(box)
        draw.wood(p, theme, shape, self.state.pictures.get(piece, "edge"), box, plain_colour(piece.species))
        draw.outline(p, shape, theme.ink, 1)
        least = piece.least_thickness_mm
        if not self.both:
            return  # the sockets below say the figures
        for station in piece.stations:
            x = min(max(self.axis.x(station.x_mm), box.left() + 26), box.right() - 26)
            low = station.thickness_mm == least and len(piece.stations) > 1
            draw.slip(p, theme, x, box.center().y() - 11, format_length(station.thickness_mm, style), centred=True, ochre=low)

    def _leaders(self, p: QPainter, face1: FaceBox, face2: FaceBox | None) -> None:
        theme = self.state.theme
        for face, box in (("1", face1), ("2", face2)):
            if box is None:
                continue
            for x, row, defect in self._spread(face):
                middle = QPointF(self.axis.x(sum(a for a, _ in defect.polygon) / len(defect.polygon)), 0.0)
                ys = [box.y(b) for _, b in defect.polygon]
                start = box.top - 2 - row * ROW if face == "1" else box.top + box.height + 2 + row * ROW
                target = QPointF(middle.x(), min(ys) if face == "1" else max(ys))
                for pen in (QPen(theme.slip, 4), QPen(theme.ink, 1.2)):
                    p.setPen(pen)
                    p.drawLine(QPointF(x, start), target)

    def _plumb(self, p: QPainter, top: float, bottom: float) -> None:
        x = self.axis.x(self.state.plumb_mm)
        for pen in (QPen(self.state.theme.slip, 4), QPen(self.state.theme.chalk, 2)):
            p.setPen(pen)
            p.drawLine(QPointF(x, top), QPointF(x, bottom))

    def _being_drawn(self, p: QPainter) -> None:
        theme = self.state.theme
        pen = QPen(theme.chalk, 2)
        pen.setDashPattern([4, 3])
        p.setPen(pen)
        if self._drag is not None:
            p.drawRect(QRectF(self._drag[0], self._drag[1]).normalized())
        if self._corners and self._corner_face is not None:
            points = [QPointF(self.axis.x(x), self._corner_face.y(y)) for x, y in self._corners]
            p.drawPolyline(QPolygonF(points))
            for point in points:
                p.drawEllipse(point, 4, 4)
