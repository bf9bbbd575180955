"""A photo made true: points dragged onto known places of the board, the tape's ticks carried into the picture, and what it
suggests afterwards. A straightedge picture is read from two points. Very large pictures are shown reduced and measured whole.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from PySide6.QtCore import QEvent, QPointF, QRectF, Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent, QPainter, QPen, QPixmap, QPolygonF, QResizeEvent
from PySide6.QtWidgets import QLineEdit
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.painting.loupe import paint_loupe
from grainet.desk.painting.tokens import AXIS_X, LEFT, RIGHT, font
from grainet.desk.screens.screen import Screen
from grainet.desk.services.background import Failed
from grainet.desk.services.pictures import reduced
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import WordButton, left_words, wrapped
from grainet.desk.widgets.handles import GRIP_PX, handle_at
from grainet.wood.photo import FLATNESS_PICTURES, SIDE_WORDS, Photo, TruePoint
from grainet.wood.piece import Piece
from grainet.wood.suggestion import Suggestion
from grainet.wood.units import entry_unit, format_length, parse_length
from grainet.wood.value import BadEntry

STRIP_H = 104
TRUE_MM_IN_500, MOST_SHIFT_MM = 1.0, 15.0
NAMES = ("1", "2", "3", "4")


@dataclass
class Loaded:
    """A photo in hand: its bytes, pixels and reduced picture."""

    data: bytes
    image: Any
    pixmap: QPixmap
    sha: str = ""


@dataclass(frozen=True)
class Spot:
    """A point in the photo's pixels; ``u_mm`` and ``v_mm`` its place where it is an extra one."""

    px: float
    py: float
    u_mm: float | None = None
    v_mm: float | None = None


class PhotoScreen(Screen):
    """The screen. ``finished`` tells that it is done with, kept or not."""

    def __init__(self, state: State) -> None:
        super().__init__(state)
        self.setObjectName("photo")
        self.side, self.loaded, self.busy = "face1", None, ""
        self.spots: list[Spot] = []
        self.taken: int | None = None
        self.guessed = False  # the points stand where the picture suggests them
        self.blind = False  # ... or just anywhere: they must be dragged first
        self.true: Any = None
        self.fault = ""
        self.number: str | None = None
        self._dragging = False
        self.adding = False
        self.ring: list[tuple[float, float]] = []  # clicked along one growth ring of an end
        self.fields: dict[str, QLineEdit] = {}
        for name, words in (
            ("along", "1 to 2"),
            ("across", "2 to 3"),
            ("from", "1 from the marked end"),
            ("up", "4 up from the edge"),
            ("at", "this point at"),
        ):
            field = QLineEdit(self)
            field.setObjectName(f"photo.{name}")
            field.setAccessibleName(words)
            field.setToolTip(f"{words}: a length; Enter keeps it")
            field.setFont(font(16, 500, figures=True))
            field.editingFinished.connect(self._typed)
            self.fields[name] = field
        self.later = WordButton(state, "Leave for later", "Esc", chalk=False, parent=self, name="photo.later")
        self.later.clicked.connect(self.leave)
        self.add = WordButton(state, "Add points on the edges", "", chalk=False, parent=self, name="photo.add")
        self.add.setCheckable(True)
        self.add.clicked.connect(self._toggle_adding)
        self.make = WordButton(state, "Make it true", "Ctrl+Enter", chalk=True, parent=self, name="photo.make")
        self.make.clicked.connect(self.primary_action)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)

    # loading ------------------------------------------------------------------------------------------------------
    def load(self, side: str, read: Callable[[], bytes], again: Photo | None = None) -> None:
        """Show a photo of a side; ``read`` gives its bytes, off the interface thread."""
        from grainet.exchange.json_file import Unusable
        from grainet.exchange.picture_file import decode
        from grainet.instruments.reading import InstrumentFault

        self.number = self.state.piece_id  # the photo stays this piece's, whatever is taken in hand meanwhile
        self.side, self.loaded, self.spots, self.taken, self.true, self.fault = side, None, [], None, None, ""
        self.adding, self.busy, self.ring = False, "opening the picture ...", []
        self._fill_fields()

        def work() -> object:
            try:
                data = read()
                image = decode(data)
                return data, image, reduced(image), (again is None and side not in FLATNESS_PICTURES and _quad(image)) or None
            except (Unusable, InstrumentFault) as fault:
                return str(fault)

        self.state.background.start(work, lambda result: self._show(result, again), 5)
        self.refresh()

    def _show(self, result: object, again: Photo | None) -> None:
        self.busy = ""
        if isinstance(result, (str, Failed)):
            self.state.warn(result if isinstance(result, str) else result.text)
            self.finished.emit()
            return
        found: Any = result
        data, image, reduced, quad = found
        self.loaded = Loaded(data, image, QPixmap.fromImage(reduced))
        height, width = image.shape[:2]
        if again is not None and again.points:
            self.spots = [Spot(p.px, p.py, *((None, None) if k < 4 else (p.u_mm, p.v_mm))) for k, p in enumerate(again.points)]
            self.guessed = self.blind = False
        elif self.side == "twist":
            self.spots = [Spot(x * width, y * height) for x, y in ((0.1, 0.6), (0.9, 0.6), (0.8, 0.4), (0.2, 0.4))]
            self.guessed = self.blind = True
        elif self.flat:
            self.spots = [Spot(0.15 * width, 0.45 * height), Spot(0.85 * width, 0.45 * height)]
            self.guessed = self.blind = True
        else:
            inset = ((0.12, 0.2), (0.88, 0.2), (0.88, 0.8), (0.12, 0.8))
            self.spots = [Spot(x, y) for x, y in quad] if quad else [Spot(x * width, y * height) for x, y in inset]
            self.guessed, self.blind = True, not quad
        self.taken = 0
        self._fit()
        self.setFocus()

    @property
    def piece(self) -> Piece | None:
        """The piece that is being photographed."""
        return self.state.shop.piece(self.number) if self.number and self.state.shop.has_piece(self.number) else None

    @property
    def flat(self) -> bool:
        """Whether this is a straightedge or winding-stick picture, which is read once and not kept."""
        return self.side in FLATNESS_PICTURES

    # places -------------------------------------------------------------------------------------------------------
    def _fill_fields(self) -> None:
        """The two lengths as the piece has them; nothing where it is unread."""
        piece, style = self.piece, self.state.shop.kit.length_style
        size = _size_of(piece, self.side)
        for name, value in zip(("along", "across"), size):
            self.fields[name].setText(format_length(value, style) if value else "")
        self.fields["from"].setText("0")
        self.fields["up"].setText("0")
        self.fields["at"].setText("")

    def _figure(self, name: str) -> float | None:
        text = self.fields[name].text().strip()
        if not text:
            return None
        unit = entry_unit(self.state.shop.kit.length_style)
        return parse_length(text, unit).mm

    def places(self) -> list[tuple[float, float]] | None:
        """The four corners' places in mm on the side, in the order 1 to 4; None while a length is missing."""
        along, across, start, up = (self._figure(n) for n in ("along", "across", "from", "up"))
        if not along or not across:
            return None
        u0, v0 = start or 0.0, up or 0.0
        top, bottom = (v0 + across, v0)
        if self.side in ("face2", "marked_end", "far_end", "near_edge", "far_edge"):
            top, bottom = bottom, top  # face 2 is seen from behind; edges and ends have face 1 above
        return [(u0, top), (u0 + along, top), (u0 + along, bottom), (u0, bottom)]

    def points(self) -> list[TruePoint]:
        """All points with their places, corners first. Raises BadEntry where a length is missing or is none."""
        places = self.places()
        if places is None:
            raise BadEntry("type the two lengths that your tape says: 1 to 2, and 2 to 3")
        found = [TruePoint(px=s.px, py=s.py, u_mm=u, v_mm=v) for s, (u, v) in zip(self.spots[:4], places)]
        for spot in self.spots[4:]:
            found.append(TruePoint(px=spot.px, py=spot.py, u_mm=spot.u_mm, v_mm=spot.v_mm if spot.v_mm is not None else 0.0))
        return found

    def _fit(self) -> None:
        from grainet.picture.rectify import fit

        self.true, self.fault = None, ""
        if self.loaded is not None and not self.flat:
            height, width = self.loaded.image.shape[:2]
            try:
                self.true = fit(self.points(), (width, height))
            except BadEntry as fault:
                self.fault = str(fault)
        self.refresh()

    @property
    def limit_mm(self) -> float:
        """A photo is true when no point misses by more than a millimetre in 500."""
        along = self._figure("along") or 500.0
        return max(TRUE_MM_IN_500, along / 500 * TRUE_MM_IN_500)

    def _typed(self) -> None:
        try:
            for name in self.fields:
                self._figure(name)
        except BadEntry as fault:
            self.state.warn(str(fault))
            return
        if self.taken is not None and self.taken >= 4 and self.fields["at"].text().strip():
            self.spots[self.taken] = replace(self.spots[self.taken], u_mm=self._figure("at"))
        self._fit()

    # mapping between the photo and the screen ----------------------------------------------------------------------
    def view(self) -> QRectF:
        """Where the picture stands, whole and in proportion."""
        room = QRectF(AXIS_X, 8, self.width() - AXIS_X - RIGHT, max(60, self.height() - STRIP_H - 16))
        if self.loaded is None:
            return room
        height, width = self.loaded.image.shape[:2]
        scale = min(room.width() / width, room.height() / height)
        return QRectF(room.center().x() - width * scale / 2, room.y(), width * scale, height * scale)

    def at(self, spot: Spot) -> QPointF:
        """A point of the photo on the screen."""
        view = self.view()
        assert self.loaded is not None
        return QPointF(
            view.x() + spot.px * view.width() / self.loaded.image.shape[1],
            view.y() + spot.py * view.height() / self.loaded.image.shape[0],
        )

    def _to_photo(self, at: QPointF) -> tuple[float, float]:
        view = self.view()
        assert self.loaded is not None
        height, width = self.loaded.image.shape[:2]
        x, y = (at.x() - view.x()) / view.width() * width, (at.y() - view.y()) / view.height() * height
        return float(np.clip(x, 0, width)), float(np.clip(y, 0, height))

    # hands --------------------------------------------------------------------------------------------------------
    def _toggle_adding(self) -> None:
        self.adding = not self.adding
        if self.adding and self._is_end():
            self.ring = []
            self.state.notify("click two places or more along one growth ring, near the middle of the end")
        elif self.adding:
            self.state.notify("click along the two long edges; type where a point lies if your tape tells it")
        self.refresh()

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        if self.loaded is None:
            return
        at = event.position()
        taken = handle_at(at, (self.at(s) for s in self.spots), GRIP_PX if self.adding else 2 * GRIP_PX)
        if taken is not None:
            self.taken, self._dragging = taken, True
        elif self.adding and self._is_end() and self.view().contains(at):
            self.ring.append(self._to_photo(at))
            angle = self.ring_angle()
            if angle is not None:
                self.state.notify(f"the ring lies at {angle:.0f}°; make it true to keep it")
        elif self.adding and self.view().contains(at):
            self._add_point(at)
        else:
            return
        self.refresh()

    def _is_end(self) -> bool:
        return self.side in ("marked_end", "far_end")

    def ring_angle(self) -> float | None:
        """The angle between the ring drawn on an end and the wide face, 0 to 90; None while it is not drawn or not true."""
        if self.true is None or len(self.ring) < 2:
            return None
        mm = self.true.to_mm(np.array(self.ring))
        away = mm - mm.mean(axis=0)
        du, dv = np.linalg.svd(away, full_matrices=False)[2][0]
        return float(np.degrees(np.arctan2(abs(dv), abs(du))))

    def _add_point(self, at: QPointF) -> None:
        """A point on the long edge that lies nearest, its place along it still unknown."""
        places = self.places()
        if places is None or len(self.spots) < 4:
            self.state.warn("the two lengths first")
            return
        px, py = self._to_photo(at)
        upper = _distance((px, py), self.spots[0], self.spots[1])
        lower = _distance((px, py), self.spots[3], self.spots[2])
        v = places[0][1] if upper <= lower else places[3][1]
        self.spots.append(Spot(px, py, None, v))
        self.taken = len(self.spots) - 1
        self.fields["at"].setText("")
        self._fit()

    @override
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._dragging and self.taken is not None:
            px, py = self._to_photo(event.position())
            self.spots[self.taken] = replace(self.spots[self.taken], px=px, py=py)
            self.guessed = self.blind = False
            if len(self.spots) == 4:
                self._fit()
            self.update()

    @override
    def mouseReleaseEvent(self, _event: QMouseEvent) -> None:
        if self._dragging:
            self._dragging = False
            self._fit()

    def event(self, event: QEvent) -> bool:
        """Tab takes the next point while the picture has the focus."""
        if event.type() == event.Type.KeyPress and event.key() in (Qt.Key.Key_Tab, Qt.Key.Key_Backtab) and self.spots:
            step = 1 if event.key() == Qt.Key.Key_Tab else -1
            self.taken = ((self.taken if self.taken is not None else -1) + step) % len(self.spots)
            self._show_at()
            self.refresh()
            return True
        return bool(super().event(event))

    def _show_at(self) -> None:
        spot = self.spots[self.taken] if self.taken is not None and self.taken >= 4 else None
        text = format_length(spot.u_mm, self.state.shop.kit.length_style) if spot is not None and spot.u_mm is not None else ""
        self.fields["at"].setText(text)

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        mods = event.modifiers()
        step = 10.0 if mods & Qt.KeyboardModifier.ShiftModifier else 0.25 if mods & Qt.KeyboardModifier.ControlModifier else 1.0
        moves: dict[int, tuple[float, float]] = {
            Qt.Key.Key_Left: (-step, 0),
            Qt.Key.Key_Right: (step, 0),
            Qt.Key.Key_Up: (0, -step),
            Qt.Key.Key_Down: (0, step),
        }
        if key == Qt.Key.Key_Escape:
            self.leave()
        elif key in moves and self.taken is not None and self.spots:
            spot = self.spots[self.taken]
            self.spots[self.taken] = replace(spot, px=spot.px + moves[key][0], py=spot.py + moves[key][1])
            self.guessed = self.blind = False
            self._fit()
        elif key == Qt.Key.Key_Delete and self.taken is not None and self.taken >= 4:
            del self.spots[self.taken]
            self.taken = len(self.spots) - 1
            self._fit()
        else:
            super().keyPressEvent(event)

    # keeping ------------------------------------------------------------------------------------------------------
    def leave(self) -> None:
        """Leave for later: the original is kept, not true yet; a straightedge picture is dropped."""
        if self.loaded is not None and not self.flat and self.piece is not None and self.piece.photo(self.side) is None:
            self._store(())
        self.loaded = None
        self.finished.emit()

    def primary_action(self) -> None:
        """Make it true, or read the bow."""
        if self.loaded is None:
            return
        if self.blind:
            self.state.warn("drag the points onto their places first")
        elif self.flat:
            self._read_flat()
        elif self.true is not None and self.true.miss_mm <= self.limit_mm:
            self._store(tuple(self.points()))
        else:
            self.state.warn(self.fault or f"worst miss {self.true.miss_mm:.1f}, at most {self.limit_mm:.1f}")

    def _store(self, points: tuple[TruePoint, ...]) -> None:
        """Keep the original and its points; when true, let it suggest what it shows."""
        from grainet.store.photos import keep_photo

        loaded, true, piece = self.loaded, self.true, self.piece
        if loaded is None or piece is None:
            return
        height, width = loaded.image.shape[:2]
        side, image, number = self.side, loaded.image, piece.id
        fitted = {"lens": float(np.clip(true.lens, -1, 1)), "miss_mm": true.miss_mm, "doubt_mm": true.doubt_mm} if points else {}
        today, folder = self.state.today.isoformat(), self.state.shop.file.folder

        def work() -> object:
            try:
                sha = keep_photo(folder, loaded.data)
            except OSError as fault:
                return f"the photo cannot be kept: {fault.strerror}"
            return Photo(side=side, sha=sha, width_px=width, height_px=height, points=points, taken=today, **fitted)

        self.busy = "keeping it ..."
        drawn = self.ring_angle() if points else None
        self.state.background.start(work, lambda photo: self._stored(number, photo, image, drawn), 5)
        self.refresh()

    def _stored(self, number: str, photo: object, image: Any, drawn: float | None) -> None:
        self.busy, self.loaded = "", None
        if not isinstance(photo, Photo) or not self.state.shop.has_piece(number):
            told = (
                photo.text
                if isinstance(photo, Failed)
                else photo
                if isinstance(photo, str)
                else f"No. {number} is not there any more"
            )
            self.state.warn(told)
            self.finished.emit()
            return
        piece = self.state.shop.piece(number)
        photos = (*(p for p in piece.photos if p.side != photo.side), photo)
        if drawn is not None:
            both = list(piece.ring_angle_deg or (None, None))
            both[0 if photo.side == "marked_end" else 1] = float(round(drawn))
            others = tuple(pair for pair in piece.read_by if pair[0] != "ring_angle_deg")
            piece = piece.changed(ring_angle_deg=tuple(both), read_by=(*others, ("ring_angle_deg", "drawn on the photo")))
        self.state.keep(f"No. {number}: photo of {SIDE_WORDS[photo.side].lower()}", piece.changed(photos=photos))
        if photo.is_true:
            self.state.notify("true; looking at what it shows ...")
            self.state.background.start(
                lambda: _suggestions(image, piece, photo), lambda found: self._suggested(number, photo, found), 2
            )
        self.finished.emit()

    def _suggested(self, number: str, photo: Photo, found: object) -> None:
        from grainet.session.suggesting import suggested

        if not self.state.shop.has_piece(number) or not isinstance(found, tuple):
            return
        piece = self.state.shop.piece(number)
        face = {"face1": "1", "face2": "2"}.get(photo.side, "end" if photo.side.endswith("_end") else "edge")
        message = ""
        if photo.side == "face2":
            piece, found, message = self._laid_on_face_1(piece, photo, found)
        new = suggested(piece, found, face)
        count = len(new.suggestions) - sum(s.face != face for s in piece.suggestions)
        if new != self.state.shop.piece(number):
            self.state.keep(f"No. {number}: what the photo suggests", new)
        told = f"{count} suggested by the photo; each waits to be kept or dropped" if count else "the photo suggests nothing"
        self.state.notify(f"{told}; {message}" if message else told)

    def _laid_on_face_1(self, piece: Piece, photo: Photo, found: tuple[Suggestion, ...]) -> Any:
        """Lay the photo of face 2 under face 1, so that marks that go through coincide: (piece, its suggestions, what to say).

        A small shift is taken over where a known through mark, or two marks together, ask for it; otherwise it is only said.
        """
        from grainet.picture.registration import register

        through = [
            ((min(x) + max(x)) / 2, (min(y) + max(y)) / 2)
            for d in piece.defects
            if d.face == "through"
            for x, y in [tuple(zip(*d.polygon))]
        ]
        seen = [s.middle for s in piece.suggestions if s.what == "defect" and s.face == "1" and s.middle]
        laid = register([*through, *seen], [s.middle for s in found if s.what == "defect" and s.middle], piece.extents[3])
        if laid is None:
            return piece, found, ""
        if not laid.right_way_round:
            return piece, found, "through marks fit only unmirrored: is it face 2, the right way up?"
        dx, dy = laid.shift_mm
        far = float(np.hypot(dx, dy))
        if far <= MOST_SHIFT_MM and (through or laid.pairs > 1):
            moved = photo.changed(shift_mm=(round(dx, 2), round(dy, 2)))
            piece = piece.changed(photos=tuple(moved if p == photo else p for p in piece.photos))
            found = tuple(s.changed(polygon=tuple((round(x + dx, 1), round(y + dy, 1)) for x, y in s.polygon)) for s in found)
            return piece, found, f"it was laid {far:.1f} over, so that what goes through coincides: it is the right way round"
        return piece, found, f"through marks lie {far:.0f} apart on the two faces"

    def winding(self) -> float | None:
        """The twist between the sticks in degrees; None where a stick is too short to tell."""
        from grainet.picture.straightedge import winding_angle

        one, two, three, four = ((s.px, s.py) for s in self.spots[:4])
        try:
            return winding_angle((one, two), (four, three))
        except BadEntry:
            return None

    def _read_flat(self) -> None:
        """Read what a straightedge or winding sticks show; it waits as a suggestion."""
        from grainet.picture.straightedge import gap_under

        along, piece, side = self._figure("along"), self.piece, self.side
        if self.loaded is None or piece is None:
            return
        if side == "twist":
            angle, width = self.winding(), piece.extents[3] - piece.extents[1]
            if angle is None or not width:
                self.state.warn("the sticks are too short in the picture" if width else "its width first: w 231")
                return
            high = abs(width * float(np.tan(np.radians(angle))))
            self._suggest_flat(
                piece.id, side, high, piece.extents[2], 0.8, f"twist {abs(angle):.2f}°, {high:.1f} under the fourth corner"
            )
            return
        if not along:
            self.state.warn("type the straightedge's length first: 1 to 2")
            return
        image, (a, b) = self.loaded.image, self.spots[:2]
        self.busy = "reading the gap ..."

        def work() -> object:
            try:
                return gap_under(image, (a.px, a.py), (b.px, b.py), along)
            except BadEntry as fault:
                return str(fault)

        self.state.background.start(work, lambda gap: self._gap_read(piece.id, side, along, gap), 5)
        self.refresh()

    def _gap_read(self, number: str, side: str, along: float, gap: Any) -> None:
        self.busy = ""
        if isinstance(gap, (str, Failed)):
            self.state.warn(gap if isinstance(gap, str) else gap.text)
            self.refresh()
            return
        self._suggest_flat(number, side, gap.bow_mm, along, gap.confidence, f"{side} {gap.bow_mm:.1f} over {along:.0f}")

    def _suggest_flat(self, number: str, side: str, figure: float, span: float, confidence: float, text: str) -> None:
        from grainet.session.suggesting import suggested

        kind: Any = side
        one = Suggestion(
            id=f"{side}?", what=kind, confidence=confidence, face="edge", figures=(round(figure, 2), span), text=text
        )
        piece = self.state.shop.piece(number)
        others = tuple(s for s in piece.suggestions if s.face == "edge" and s.what != side)
        self.state.keep(f"No. {number}: {side} by a picture", suggested(piece, (*others, one), "edge"))
        self.state.notify(f"{text}, {confidence:.2f} sure: keep it or drop it")
        self.loaded = None
        self.finished.emit()

    # looks --------------------------------------------------------------------------------------------------------
    def refresh(self) -> None:
        """Bring everything up to date and in its place."""
        straightedge = self.flat
        y = 152
        for name, field in self.fields.items():
            shown = self.loaded is not None and self.side != "twist" and (name == "along" or not straightedge)
            shown = shown and (name != "at" or (self.taken is not None and self.taken >= 4))
            field.setVisible(shown)
            if shown:
                y = flow.column([field], LEFT + 66, y, 82, high=34, gap=6)
        flow.row_to_right([(self.make, 240), (self.add, 240), (self.later, 190)], self.width() - RIGHT, self.height() - 54)
        self.add.setVisible(not straightedge)
        self.add.setChecked(self.adding)
        adding, begin = (
            ("Click along a ring; press when done", "Draw along a ring")
            if self._is_end()
            else ("Click the edges; press when done", "Add points on the edges")
        )
        self.add.say(adding if self.adding else begin, enabled=self.loaded is not None)
        ready = (
            self.loaded is not None
            and not self.busy
            and not self.blind
            and (straightedge or (self.true is not None and self.true.miss_mm <= self.limit_mm))
        )
        self.make.say(f"Read the {self.side}" if straightedge else "Make it true", enabled=ready)
        self.update()

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.refresh()

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.state.theme
        p.fillRect(self.rect(), theme.bench)
        p.fillRect(QRectF(0, self.height() - STRIP_H, self.width(), STRIP_H), theme.ground)
        title = f"{SIDE_WORDS[self.side]}: make it true" if not self.flat else SIDE_WORDS[self.side]
        self._left(p, title)
        view = self.view()
        if self.loaded is None:
            p.fillRect(view, theme.shelf)
            draw.text_at(p, view.x() + 20, view.y() + 40, self.busy or "no picture", theme.ink2, 17, 600)
            return
        p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        p.drawPixmap(view, self.loaded.pixmap, QRectF(self.loaded.pixmap.rect()))
        if self.flat:
            self._line(p, self.at(self.spots[0]), self.at(self.spots[1]))
            if self.side == "twist":
                self._line(p, self.at(self.spots[3]), self.at(self.spots[2]))
        else:
            self._frame(p)
        for k, spot in enumerate(self.spots):
            self._handle(p, k, self.at(spot))
        if self.ring:
            line = QPolygonF([self.at(Spot(x, y)) for x, y in self.ring])
            for pen in (QPen(theme.slip, 5), QPen(theme.teal, 2.4)):
                p.setPen(pen)
                p.drawPolyline(line)
        if self.taken is not None and self.taken < len(self.spots):
            self._under_the_loupe(p, self.spots[self.taken])
        self._below(p)

    def _left(self, p: QPainter, title: str) -> None:
        theme = self.state.theme
        if self.side == "twist":
            words = [("Drag 1 and 2 onto the ends of the near stick's upper rim, 4 and 3 onto the far one's.", theme.ink2)]
        elif self.flat:
            words = [
                ("Drag 1 and 2 onto the two ends of the straightedge's lower rim.", theme.ink2),
                ("Type its length.", theme.ink2),
            ]
        else:
            words = [("Drag 1 to 4 onto the corners, or onto chalk crosses. Tab takes the next, arrows move it.", theme.ink2)]
            if self.guessed:
                words.append(("Their places are guessed yet.", theme.ochre))
        left_words(p, self.state, 4, title, words)
        for name, field in self.fields.items():
            if field.isVisible():
                label = {"along": "1 to 2", "across": "2 to 3", "from": "from end", "up": "up", "at": "point at"}[name]
                draw.text_at(p, LEFT, field.y() + 22, label, theme.ink, 13.5, 600, room=64)

    def _line(self, p: QPainter, a: QPointF, b: QPointF) -> None:
        for pen in (QPen(self.state.theme.slip, 5), QPen(self.state.theme.chalk, 2)):
            p.setPen(pen)
            p.drawLine(a, b)

    def _frame(self, p: QPainter) -> None:
        """The four sides as the map carries them (a bent lens bends them), and ticks every hundred."""
        places = self.places()
        if self.true is None or places is None:
            corners = [self.at(s) for s in self.spots[:4]]
            for a, b in zip(corners, [*corners[1:], corners[0]]):
                self._line(p, a, b)
            return
        steps = np.linspace(0, 1, 25)[:, None]
        for a, b in zip(places, [*places[1:], places[0]]):
            mm = np.array(a) + (np.array(b) - np.array(a)) * steps
            line = QPolygonF([self.at(Spot(x, y)) for x, y in self.true.to_px(mm)])
            for pen in (QPen(self.state.theme.slip, 5), QPen(self.state.theme.chalk, 2)):
                p.setPen(pen)
                p.drawPolyline(line)
        (u0, top), (u1, _), (_, bottom), _ = places
        long = 12.0 if abs(u1 - u0) > 300 else 4.0
        step = 100.0 if abs(u1 - u0) > 300 else 10.0
        us = np.arange(np.ceil(min(u0, u1) / step) * step, max(u0, u1) + 1e-6, step)
        away = long if top > bottom else -long
        for v, w in ((top, top + away), (bottom, bottom - away)):
            starts, ends = (
                self.true.to_px(np.column_stack([us, np.full(len(us), v)])),
                self.true.to_px(np.column_stack([us, np.full(len(us), w)])),
            )
            for a, b in zip(starts, ends):
                self._line(p, self.at(Spot(*a)), self.at(Spot(*b)))

    def _handle(self, p: QPainter, k: int, at: QPointF) -> None:
        theme, held = self.state.theme, k == self.taken
        radius = 13.0 if k < 4 else 7.0
        p.setBrush(theme.chalk if held else theme.slip)
        pen = QPen(theme.slip if held else theme.chalk, 2)
        if self.guessed and not held and k < 4:
            pen.setDashPattern([3, 2])
        p.setPen(pen)
        p.drawEllipse(at, radius, radius)
        if k < 4:
            text = NAMES[k]
            draw.text_at(
                p,
                at.x() - draw.text_width(text, 15, 700, figures=True) / 2,
                at.y() + 5,
                text,
                theme.on_chalk if held else theme.chalk,
                15,
                700,
                figures=True,
            )

    def _under_the_loupe(self, p: QPainter, spot: Spot) -> None:
        assert self.loaded is not None
        paint_loupe(p, self.state.theme, self.loaded.image, (spot.px, spot.py), self.at(spot), self.view())

    def _below(self, p: QPainter) -> None:
        """How true it is, how far it may be off, and which way round it is seen."""
        theme = self.state.theme
        y = self.height() - STRIP_H + 28
        room = self.width() - RIGHT - 710 - LEFT
        if self.busy or self.fault:
            draw.text_at(p, LEFT, y, self.busy or self.fault, theme.ochre, 15, 600, room=self.width() - 60)
            return
        if self.flat:
            words = "The lower rim's two ends; the gap is read from end to end"
            if self.side == "twist":
                words = (
                    f"The sticks lie {self.winding():.2f}° apart"
                    if self.winding() is not None
                    else "The sticks are too short in the picture"
                )
            draw.text_at(p, LEFT, y, words, theme.ink, 15, 600)
            return
        if self.true is None:
            return
        if len(self.spots) > 4:
            good = self.true.miss_mm <= self.limit_mm
            draw.label(p, theme, LEFT, y - 18, f"worst miss {self.true.miss_mm:.1f}", dashed=not good, figures=False, height=26)
            draw.text_at(p, LEFT + 150, y, f"true when under {self.limit_mm:.1f}", theme.ink2, 14)
        else:
            draw.text_at(p, LEFT, y, "Four corners fix it", theme.ink, 15, 600)
        doubt = f"with these points places may be off by {self.true.doubt_mm:.1f}"
        if len(self.spots) < 6:
            doubt += ": a bent lens does not show in four corners; points along the edges find it"
        draw.text_at(
            p,
            LEFT + (330 if len(self.spots) > 4 else 160),
            y,
            doubt,
            theme.ochre if self.true.doubt_mm > 2 else theme.ink2,
            14,
            room=self.width() - LEFT - 380,
        )
        seen = {"face2": "Seen from behind: 1 and 2 lie on the near edge, so the picture is mirrored to lie under face 1."}.get(
            self.side, ""
        )
        for k, line in enumerate(wrapped(seen, 13.5, max(60, room))[:2]):
            draw.text_at(p, LEFT, y + 26 + 18 * k, line, theme.ink2, 13.5)


def _quad(image: Any) -> Any:
    from grainet.picture.board_quad import board_quad

    return board_quad(image)


def _suggestions(image: Any, piece: Piece, photo: Photo) -> object:
    from grainet.picture.reading import suggestions_of

    try:
        return suggestions_of(image, piece, photo)
    except BadEntry:
        return ()


def _size_of(piece: Piece | None, side: str) -> tuple[float, float]:
    """What the two lengths are, as far as the piece is read; 0 where it is not."""
    if piece is None:
        return 0.0, 0.0
    x0, y0, x1, y1 = piece.extents
    length, width, thick = piece.length_mm or x1 - x0, y1 - y0, piece.least_thickness_mm or 0.0
    return {
        "face1": (length, width), "face2": (length, width), "near_edge": (length, thick), "far_edge": (length, thick),
        "marked_end": (width, thick), "far_end": (width, thick), "bow": (length, 0.0), "crook": (length, 0.0), "cup": (width, 0.0), "twist": (0.0, 0.0),
    }[side]  # fmt: skip


def _distance(at: tuple[float, float], a: Spot, b: Spot) -> float:
    """From a pixel to the line through two points."""
    dx, dy = b.px - a.px, b.py - a.py
    size = float(np.hypot(dx, dy)) or 1.0
    return abs((at[0] - a.px) * dy - (at[1] - a.py) * dx) / size
