"""A photo of the pair as it lies open, or joined: two marks at its seam's ends, at once how far the lines miss there beside what was
forecast, and the instrument's outline to slide along it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QEvent, QPointF, QRectF, Qt
from PySide6.QtGui import QImage, QKeyEvent, QMouseEvent, QPainter, QPen, QPixmap
from PySide6.QtWidgets import QLineEdit, QWidget
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.painting.loupe import paint_loupe
from grainet.desk.painting.tokens import AXIS_X, LEFT, RIGHT, font
from grainet.desk.screens.match.plate import PlateOutline
from grainet.desk.services.background import Failed
from grainet.desk.services.pictures import reduced, to_image
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import WordButton, left_words
from grainet.desk.widgets.handles import GRIP_PX, handle_at
from grainet.match.opened_photo import Marks, Measured, SeamLines
from grainet.wood.units import entry_unit, format_length, parse_length
from grainet.wood.value import BadEntry
from grainet.work.matching import OpenedPhoto

if TYPE_CHECKING:
    from grainet.desk.screens.match.screen import Match

HEAD_H, FOOT_H, PROOF_H, BUTTON_H = 46, 152, 84, 36
OUTLINE = 2  # what the arrows move after both marks
STEPS = {Qt.KeyboardModifier.ShiftModifier: 10.0, Qt.KeyboardModifier.ControlModifier: 0.25}


@dataclass(frozen=True)
class Told:
    """What the marks tell: the figures and the seam as it was squared, or why not."""

    measured: Measured | None = None
    lines: SeamLines | None = None
    proof: QImage | None = None
    fault: str = ""


def read_seam(image: Any, marks: Marks, apart_mm: float) -> Told:
    """The seam of a photo, measured, with the wood on either side of it squared and laid together."""
    import numpy as np

    from grainet.match.opened_photo import seam_lines, strips

    try:
        upper, lower, scale = strips(image, marks, apart_mm)
        lines = seam_lines(upper, lower, scale)
        found = lines.whole
    except BadEntry as fault:
        return Told(fault=str(fault))
    rows = round(25 * scale)
    return Told(found, lines, to_image(np.concatenate([upper[:rows][::-1], lower[:rows]])))


class OpenedPage(QWidget):
    """The page over Match. Marks and outline are dragged, or moved by the arrows (1 px or mm, Shift 10, Ctrl a quarter); Tab takes the next."""

    def __init__(self, screen: Match) -> None:
        super().__init__(screen)
        self.screen, self.state = screen, screen.state
        self.setObjectName("match.photo")
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setAccessibleName("A photo of the opened pair: its seam is marked at two places")
        self.data, self.image, self.pixmap = b"", None, QPixmap()
        self.marks: Marks = ((0.0, 0.0), (1.0, 0.0))
        self.taken, self.touched, self.busy = 0, False, ""
        self.told = Told()
        self._dragging = False
        self._dragged_from = QPointF()
        self.plate = PlateOutline(self)
        self._asked: tuple[Any, Marks, float] = (None, self.marks, 0.0)
        self._reading = False
        self.of: object = None  # the pair that is photographed
        self.apart = QLineEdit(self)
        self.apart.setObjectName("match.photo.apart")
        self.apart.setAccessibleName("how far the two marks lie apart on the seam")
        self.apart.setToolTip("How far 1 and 2 lie apart on the seam, by your tape; Enter keeps it")
        self.apart.setFont(font(16, 500, figures=True))
        self.apart.editingFinished.connect(self.reckon)
        self.keep = WordButton(self.state, "Keep what it tells", "Ctrl+Enter", chalk=True, parent=self, name="match.photo.keep")
        self.keep.clicked.connect(self.primary_action)
        self.later = WordButton(self.state, "Leave it", "Esc", parent=self, name="match.photo.leave")
        self.later.clicked.connect(self.leave)
        self.over = WordButton(self.state, "", "Alt+B", parent=self, name="match.photo.over")
        self.over.clicked.connect(lambda _=False: self.plate.turn_over())
        for button in (self.keep, self.later, self.over):
            button.setFixedHeight(BUTTON_H)
        self.hide()

    # loading --------------------------------------------------------------------------------------------------------
    def load(self, read: Callable[[], bytes], apart_mm: float, again: OpenedPhoto | None = None) -> None:
        """Show a photo; ``read`` gives its bytes, off the window's thread."""
        from grainet.exchange.json_file import Unusable
        from grainet.exchange.picture_file import decode
        from grainet.instruments.reading import InstrumentFault

        self.of = self.screen.pair_in_hand
        self.image, self.told, self.touched, self.busy, self.taken = None, Told(), again is not None, "opening the picture ...", 0
        self.plate.begin(again)
        self.apart.setText(format_length(again.apart_mm if again else apart_mm, self.state.shop.kit.length_style))

        def work() -> object:
            try:
                data = read()
                image = decode(data)
                return data, image, reduced(image)
            except (Unusable, InstrumentFault) as fault:
                return str(fault)

        self.state.background.start(work, lambda found: self._show(found, again), 5)
        self.show()
        self.raise_()
        self.state.changed.emit()  # a photo has no axis
        self.setFocus()

    def _show(self, found: object, again: OpenedPhoto | None) -> None:
        self.busy = ""
        if not isinstance(found, tuple):
            self.state.warn(found.text if isinstance(found, Failed) else str(found))
            self.leave()
            return
        self.data, self.image, small = found
        self.pixmap = QPixmap.fromImage(small)
        high, wide = self.image.shape[:2]
        self.marks = again.marks if again is not None else ((0.08 * wide, high / 2), (0.92 * wide, high / 2))
        self.reckon()

    # places ---------------------------------------------------------------------------------------------------------
    def view(self) -> QRectF:
        """Where the picture stands, whole and in proportion."""
        room = QRectF(AXIS_X, HEAD_H, self.width() - AXIS_X - RIGHT, max(60, self.height() - HEAD_H - FOOT_H - 8))
        if self.image is None:
            return room
        high, wide = self.image.shape[:2]
        scale = min(room.width() / wide, room.height() / high)
        return QRectF(room.center().x() - wide * scale / 2, room.y(), wide * scale, high * scale)

    def at(self, k: int) -> QPointF:
        """A mark on the screen."""
        view, (x, y) = self.view(), self.marks[k]
        scale = view.width() / self.image.shape[1] if self.image is not None else 1.0
        return QPointF(view.x() + x * scale, view.y() + y * scale)

    def put(self, k: int, x: float, y: float) -> None:
        """A mark elsewhere in the photo, px; the left one stays the first."""
        if self.image is None:
            return
        high, wide = self.image.shape[:2]
        new = (max(0.0, min(wide - 1.0, x)), max(0.0, min(high - 1.0, y)))
        self.marks = (new, self.marks[1]) if k == 0 else (self.marks[0], new)
        if self.marks[0][0] > self.marks[1][0]:
            self.marks, self.taken = self.marks[::-1], 1 - self.taken
        self.touched = True

    # hands ----------------------------------------------------------------------------------------------------------
    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        self.setFocus()
        taken = handle_at(event.position(), (self.at(k) for k in (0, 1)), 2 * GRIP_PX) if self.image is not None else None
        if taken is not None:
            self.taken, self._dragging = taken, True
            self.update()
        elif self.image is not None and self.plate.holds(event.position()):
            self.taken, self._dragging, self._dragged_from = OUTLINE, True, event.position()
            self.update()

    @override
    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        if self._dragging and self.image is not None and self.taken == OUTLINE:
            self.plate.drag(event.position() - self._dragged_from)
            self._dragged_from = event.position()
        elif self._dragging and self.image is not None:
            view = self.view()
            scale = self.image.shape[1] / view.width()
            self.put(self.taken, (event.position().x() - view.x()) * scale, (event.position().y() - view.y()) * scale)
            self.update()

    @override
    def mouseReleaseEvent(self, _event: QMouseEvent) -> None:
        if self._dragging:
            self._dragging = False
            if self.taken != OUTLINE:
                self.reckon()

    def event(self, event: QEvent) -> bool:
        """Tab takes the next of the marks and the outline while the picture has the focus, Shift+Tab the one before."""
        if isinstance(event, QKeyEvent) and event.type() == QEvent.Type.KeyPress and self.image is not None:
            by = {Qt.Key.Key_Tab: 1, Qt.Key.Key_Backtab: -1}.get(Qt.Key(event.key()), 0)
            if by and 0 <= self.taken + by <= OUTLINE:
                self.taken += by
                self.update()
                return True
        return bool(super().event(event))

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        step = STEPS.get(event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier, 1.0)
        move = {
            Qt.Key.Key_Left: (-step, 0.0), Qt.Key.Key_Right: (step, 0.0), Qt.Key.Key_Up: (0.0, -step), Qt.Key.Key_Down: (0.0, step),
        }.get(Qt.Key(event.key()))  # fmt: skip
        if event.key() == Qt.Key.Key_Escape:
            self.leave()
        elif event.key() == Qt.Key.Key_B and event.modifiers() == Qt.KeyboardModifier.AltModifier:
            self.plate.turn_over()
        elif move is not None and self.image is not None and self.taken == OUTLINE:
            self.plate.slide(move[0])
        elif move is not None and self.image is not None:
            x, y = self.marks[self.taken]
            self.put(self.taken, x + move[0], y + move[1])
            self.reckon()
        else:
            super().keyPressEvent(event)

    # what it tells --------------------------------------------------------------------------------------------------
    def _apart_mm(self) -> float:
        """How far the marks lie apart. Raises BadEntry."""
        mm = parse_length(self.apart.text().strip() or "0", entry_unit(self.state.shop.kit.length_style)).mm
        if not 20 <= mm <= 20_000:
            raise BadEntry(f"{mm:g} between the marks: it needs 20 to 20,000 mm.")
        return mm

    def reckon(self) -> None:
        """Have the seam measured where the marks lie now, and the outline stand on it."""
        if self.image is None:
            return
        try:
            apart = self._apart_mm()
        except BadEntry as fault:
            self.told = Told(fault=str(fault))
            self.place()
            return
        self.plate.fit(apart)
        if self._asked[0] is self.image and self._asked[1:] == (self.marks, apart) and self.told.measured is not None:
            self.place()
            return
        self._asked, self.told = (self.image, self.marks, apart), Told()  # of other marks it tells nothing
        if not self._reading:
            self._read()
        self.place()

    def _read(self) -> None:
        """Read the seam for what was asked last; what is asked meanwhile is read next, and what lies between is left out."""
        image, marks, apart = asked = self._asked
        self._reading = True

        def take(found: object) -> None:
            self._reading = False
            if self.image is None:
                return
            if asked is self._asked:
                self.told = found if isinstance(found, Told) else Told(fault="the seam could not be read")
                self.place()
            else:
                self._read()

        self.state.background.start(lambda: read_seam(image, marks, apart), take, 4)

    def primary_action(self) -> None:
        """Keep what the photo tells with the pair."""
        found, image = self.told.measured, self.image
        if image is None:
            return
        if not self.touched:
            self.state.warn("drag 1 and 2 onto the seam's ends first: their places are guessed yet")
            return
        if found is None:
            self.state.warn(self.told.fault or "the seam is still being read")
            return
        try:
            if self._apart_mm() != self._asked[2]:  # typed, but not read yet
                self.reckon()
                self.state.warn("the seam is read anew with that length; press once more")
                return
        except BadEntry as fault:
            self.state.warn(str(fault))
            return
        from grainet.store.photos import keep_photo

        data, folder, marks, apart, of = self.data, self.state.shop.file.folder, self.marks, self._asked[2], self.of
        tail, back = self.plate.kept_mm, self.plate.back

        def take(sha: object) -> None:
            if isinstance(sha, str) and of == self.screen.pair_in_hand:
                kept = OpenedPhoto(sha=sha, marks=marks, apart_mm=apart, alike=found.alike, tail_mm=tail, back=back)
                self.screen.measure(found.miss_mm, kept)
            else:
                told = "another pair is in hand" if isinstance(sha, str) else getattr(sha, "text", str(sha))
                self.state.warn(f"the photo is not kept with the pair: {told}")

        def work() -> object:
            try:
                return keep_photo(folder, data)
            except OSError as fault:
                return fault

        self.leave()
        self.state.background.start(work, take, 5)

    def leave(self) -> None:
        """Back to the opened board."""
        self.image, self.told, self.pixmap, self.busy = None, Told(), QPixmap(), ""
        self.hide()
        self.state.changed.emit()  # the board lies on the window's axis again
        self.screen.book.setFocus()

    # placing and painting -------------------------------------------------------------------------------------------
    def place(self) -> None:
        """Everything in its place."""
        top = self.height() - FOOT_H
        flow.fill(self.apart, LEFT, top + 28, LEFT + 110, top + 62)
        self.keep.say("Keep what it tells", enabled=self.told.measured is not None and self.touched)
        self.over.say("It shows the front" if self.plate.back else "It shows the back")
        flow.row_to_right([(self.later, 130), (self.keep, 260), self.over], self.width() - RIGHT, 4, high=BUTTON_H)
        self.update()

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme, pair = self.state.theme, self.screen.pair
        p.fillRect(self.rect(), theme.bench)
        x = LEFT + draw.text_at(p, LEFT, 27, f"{pair.name if pair else ''} opened", theme.ink, 20, 700) + 12
        draw.text_at(p, x, 27, "a photo held square over it", theme.ink2, 15, room=self.over.x() - x - 12)
        words = [("Drag 1 and 2 to the seam's ends, the outline along it. Tab takes the next, arrows move it.", theme.ink2)]
        if self.image is not None and not self.touched:
            words.append(("Their places are guessed yet.", theme.ochre))
        left_words(p, self.state, HEAD_H, "The photo", words)
        top = self.height() - FOOT_H
        draw.text_at(p, LEFT, top + 18, "1 to 2 by tape", theme.ink, 14, 600)
        if self.busy:
            draw.text_at(p, AXIS_X, HEAD_H + 24, self.busy, theme.ink2, 15)
        if self.image is None:
            return
        p.drawPixmap(self.view(), self.pixmap, QRectF(self.pixmap.rect()))
        if self.touched:
            self.plate.paint(p, held=self.taken == OUTLINE and self.hasFocus())
        self._seam(p)
        self._figures(p, top)

    def _seam(self, p: QPainter) -> None:
        """The seam between the marks, and the taken one under a loupe."""
        theme = self.state.theme
        a, b = self.at(0), self.at(1)
        for pen in (QPen(theme.slip, 4), QPen(theme.chalk, 1.6)):
            p.setPen(pen)
            p.drawLine(a, b)
        for k, at in enumerate((a, b)):
            held = k == self.taken
            p.setBrush(theme.chalk if held else theme.slip)
            p.setPen(QPen(theme.slip if held else theme.chalk, 2))
            name = QPointF(at.x(), at.y() - 26)
            p.drawLine(at, name)
            p.drawEllipse(name, 12, 12)
            wide = draw.text_width(str(k + 1), 15, 700, figures=True)
            ink = theme.on_chalk if held else theme.chalk
            draw.text_at(p, name.x() - wide / 2, name.y() + 5, str(k + 1), ink, 15, 700, figures=True)
        if self.hasFocus() and self.taken != OUTLINE:
            paint_loupe(p, theme, self.image, self.marks[self.taken], self.at(self.taken), self.view())

    def _figures(self, p: QPainter, top: float) -> None:
        """What it tells, and the seam squared."""
        theme, found = self.state.theme, self.told.measured
        if found is None or not self.touched:
            told = (
                "1 and 2 at the seam's ends, and here stands how far its lines miss."
                if not self.touched
                else self.told.fault or "reading the seam ..."
            )
            draw.text_at(
                p, AXIS_X, top + 22, told, theme.ochre if self.told.fault else theme.ink2, 15, room=self.width() - AXIS_X - RIGHT
            )
            return
        x = AXIS_X + draw.text_at(p, AXIS_X, top + 22, "The lines miss by", theme.ink, 16, 600) + 7
        over = found.miss_mm > self.screen.limit_mm
        x += draw.text_at(p, x, top + 23, f"{found.miss_mm:.1f}", theme.ochre if over else theme.ink, 24, 700, figures=True) + 8
        told = f"at the seam, {100 * found.alike:.0f} % alike beside it"
        forecast = self.screen.opening.forecast.miss_mm if self.screen.ways else None
        told += f"; {forecast:.1f} was forecast" if forecast is not None else ""
        draw.text_at(p, x, top + 22, told, theme.ink2, 15, room=self.width() - RIGHT - x)
        self.plate.paint_words(p, top + 48)
        if self.told.proof is not None:
            box = QRectF(AXIS_X, top + 60, self.width() - AXIS_X - RIGHT, PROOF_H)
            whole = QRectF(self.told.proof.rect())
            high = min(whole.height(), box.height() * whole.width() / box.width())
            p.drawImage(box, self.told.proof, QRectF(0, (whole.height() - high) / 2, whole.width(), high))
            p.setPen(QPen(theme.chalk, 1))
            p.drawLine(QPointF(box.left() - 8, box.center().y()), QPointF(box.left() - 2, box.center().y()))
            p.drawLine(QPointF(box.right() + 2, box.center().y()), QPointF(box.right() + 8, box.center().y()))
