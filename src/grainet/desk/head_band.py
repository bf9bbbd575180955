"""The head: the piece or build in hand with its key figures, and the tape line."""

from __future__ import annotations

from dataclasses import dataclass

from PySide6.QtCore import QRectF, Qt, Signal
from PySide6.QtGui import QPainter, QPen
from PySide6.QtWidgets import QLineEdit, QWidget

from grainet.desk import draw
from grainet.desk.controls import WordButton
from grainet.desk.keypad import Keypad
from grainet.desk.state import State
from grainet.desk.tokens import HEAD_H, LEFT, font
from grainet.session.meaning import Meaning
from grainet.wood.piece import Piece
from grainet.wood.rings import least_angle
from grainet.wood.units import LengthStyle, format_length
from grainet.wood.value import BadEntry

TAPE_W = 412


@dataclass(frozen=True)
class Figure:
    """One key figure: text, what it is, and whether it is still unread."""

    text: str
    unit: str
    unread: bool = False
    waits: bool = False


def figures_of(piece: Piece, state: State) -> list[Figure]:
    """The key figures of a piece, unread ones as "?"."""
    style = state.shop.kit.length_style
    x0, y0, x1, y1 = piece.extents
    length = piece.length_mm or (x1 - x0)
    thick = piece.least_thickness_mm
    widths = sorted(w.far_mm + w.near_mm for w in piece.width_stations) or ([y1 - y0] if piece.outline else [])
    shown = ""
    if widths:
        low, high = (format_length(v, style) for v in (widths[0], widths[-1]))
        shown = high if low == high or widths[-1] - widths[0] < 1.5 else f"{low}–{high}"
    found = [
        Figure(format_length(length, style) if length else "?", _nominal("long", piece.nominal_length_mm, style), not length), Figure(shown or "?", _nominal("wide", piece.nominal_width_mm, style), not widths),
        Figure(format_length(thick, style) if thick else "?", _nominal("thick", piece.nominal_thickness_mm, style), thick is None), Figure(f"{piece.mass_kg:g}" if piece.mass_kg else "?", "kg", piece.mass_kg is None),
    ]  # fmt: skip
    density = state.shop.facts(piece.id).density
    if density:
        odd = bool(state.shop.facts(piece.id).question)
        found.append(Figure(f"{density:.0f}", "kg/m³ ?" if odd else "kg/m³", waits=odd))
    ready = state.shop.facts(piece.id).ready
    worst = ready.worst_pct
    found.append(Figure(f"{worst:g} %" if worst is not None else "?", "moist", worst is None, ready.word == "waits"))
    angle = least_angle(piece.ring_angle_deg)
    found.append(Figure(f"{angle:.0f}°" if angle is not None else "?", "rings", angle is None))
    return found


def _nominal(word: str, nominal_mm: float | None, style: LengthStyle) -> str:
    """The figure's word, and beside it what the piece was sold as."""
    return word if nominal_mm is None else f"{word}, sold as {format_length(nominal_mm, style)}"


class TapeLine(QLineEdit):
    """The tape line: every key is its own while it is open; Enter keeps, Esc drops."""

    closed = Signal()

    def keyPressEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        if event.key() == Qt.Key.Key_Escape:
            self.clear()
            self.closed.emit()
            return
        super().keyPressEvent(event)


class HeadBand(QWidget):
    """Name, figures, tape line and its gloss."""

    def __init__(self, state: State) -> None:
        super().__init__()
        self.state = state
        self.setObjectName("head")
        self.setFixedHeight(HEAD_H)
        self.tape = TapeLine(self)
        self.tape.setObjectName("tape.line")
        self.tape.setAccessibleName("Tape line")
        self.tape.setToolTip("Type a figure: 760 moves the plumb, t 52.4 a thickness there, ? lists the words")
        self.tape.setFrame(False)
        self.tape.setFont(font(20, 600, True))
        self.tape.setPlaceholderText("type a figure, or ?")
        self.tape.textChanged.connect(self._read)
        self.tape.returnPressed.connect(self._keep)
        self.tape.closed.connect(self._close)
        self.keys = WordButton(state, "123", "", False, self, "tape.keys")
        self.keys.setFixedHeight(34)
        self.keys.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.keys.setToolTip("Keys for the tape line, to read a piece in with the mouse alone")
        self.keys.clicked.connect(self._toggle_keypad)
        self.keypad: Keypad | None = None
        self.gloss, self.bad = "", False
        self.meaning: Meaning | None = None
        state.changed.connect(self.refresh)
        state.said.connect(self._said)
        state.tape_wanted.connect(self.open_with)
        self.refresh()

    # the tape line ------------------------------------------------------------------------------------------------
    def open_with(self, text: str) -> None:
        """Open the tape line with some words typed already."""
        self.tape.setFocus(Qt.FocusReason.ShortcutFocusReason)
        self.tape.setText(text)

    def _toggle_keypad(self) -> None:
        """Show or put away the keypad under the tape line."""
        if self.keypad is None:
            self.keypad = Keypad(self.state, self.tape, self.window())
        self.keypad.setVisible(not self.keypad.isVisible())
        box = self.tape_box()
        at = self.mapTo(self.window(), box.bottomRight().toPoint())
        size = self.keypad.sizeHint()
        self.keypad.setGeometry(at.x() - size.width(), at.y() + 4, size.width(), size.height())
        self.keypad.raise_()
        self.tape.setFocus()

    def _read(self, text: str) -> None:
        self.meaning, self.bad = None, False
        if text.strip():
            try:
                self.meaning = self.state.understand(text, by=self.state.tape_by)
                self.gloss = f"{self.meaning.gloss}: Enter keeps it"
            except BadEntry as fault:
                self.gloss, self.bad = str(fault), True
            except ValueError as fault:  # a figure that the value itself refuses
                first = str(fault).splitlines()
                self.gloss, self.bad = f"cannot be kept: {first[2].strip() if len(first) > 2 else first[0]}", True
        else:
            self.gloss = ""
        self.update()

    def _keep(self) -> None:
        if self.state.piece is None and self.tape.text().strip() and self.state.screen == "bring_in":
            self.state.new_piece()
            self._read(self.tape.text())
        if self.meaning is None:
            if self.tape.text().strip() and not self.bad:
                self._read(self.tape.text())
            return
        meaning = self.meaning
        self.state.tape_by = ""
        self.tape.clear()
        self.state.keep_meaning(meaning)

    def _close(self) -> None:
        self.state.tape_by = ""
        self.gloss = ""
        self.tape.clearFocus()
        parent = self.window()
        parent.setFocus()
        self.update()

    def _said(self, text: str, caution: bool) -> None:
        self.gloss, self.bad = text, caution
        self.update()

    # layout and painting ------------------------------------------------------------------------------------------
    def refresh(self) -> None:
        self.tape.setPalette(self.palette())
        self.update()

    def resizeEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        super().resizeEvent(event)
        box = self.tape_box()
        self.tape.setGeometry(int(box.x()) + 12, int(box.y()) + 4, self._tape_wide(box), int(box.height()) - 8)
        self.keys.setGeometry(int(box.right()) - 52, int(box.y()) + 4, 48, 34)

    def tape_box(self) -> QRectF:
        wide = TAPE_W if self.width() >= 1200 else max(300, TAPE_W - (1200 - self.width()))
        return QRectF(self.width() - wide - 26, 7, wide, HEAD_H - 14)

    def paintEvent(self, _event) -> None:  # type: ignore[no-untyped-def]
        p = QPainter(self)
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.state.theme
        p.fillRect(self.rect(), theme.bench)
        box = self.tape_box()
        p.setBrush(theme.slip)
        p.setPen(QPen(theme.chalk if self.tape.hasFocus() else theme.edge, 2 if self.tape.hasFocus() else 1))
        p.drawRoundedRect(box, 4, 4)
        colour = theme.wine if self.bad else theme.ink2
        self._gloss(
            p,
            QRectF(box.x() + self._tape_wide(box) + 12, box.y() + 3, box.width() - self._tape_wide(box) - 70, box.height() - 6),
            colour,
        )
        self._name(p, box.x() - 14)

    def _tape_wide(self, box: QRectF) -> int:
        return 160 if box.width() > 380 else 104

    def _gloss(self, p: QPainter, room: QRectF, colour) -> None:  # type: ignore[no-untyped-def]
        p.setFont(font(13))
        p.setPen(colour)
        p.drawText(room, int(Qt.AlignmentFlag.AlignVCenter | Qt.AlignmentFlag.AlignRight | Qt.TextFlag.TextWordWrap), self.gloss)

    def _species_words(self, piece: Piece) -> str:
        """The species as far as it is sure."""
        if piece.species == "unknown":
            return "species unknown"
        return self.state.shop.kit.library.short_name(piece.species) + ("" if piece.species_sure else " ?")

    def _name(self, p: QPainter, limit: float) -> None:
        theme, piece = self.state.theme, self.state.piece
        if piece is None:
            draw.write(p, LEFT, 36, "Nothing on the rack yet", theme.ink, 26, 800, room=limit - LEFT)
            return
        x = LEFT + draw.write(p, LEFT, 38, f"No. {piece.id}", theme.ink, 30, 800, True) + 14
        figures = figures_of(piece, self.state)
        if any(f.unit.startswith("kg/m³") for f in figures):
            figures = [f for f in figures if f.unit != "kg"]  # the density says it, and the name wants the room
        wide = sum(draw.text_width(f.text, 20, 600, True) + draw.text_width(f.unit, 13) + 22 for f in figures)
        name = ", ".join(dict.fromkeys([self._species_words(piece), piece.kind.replace("_", " ")]))
        x += (
            draw.write(
                p,
                x,
                36,
                name,
                theme.ink,
                17,
                700,
                room=max(min(190.0, draw.text_width(name, 17, 700) + 4), limit - x - wide - 10),
            )
            + 16
        )
        for figure in figures:
            need = draw.text_width(figure.text, 20, 600, True) + draw.text_width(figure.unit, 13) + 22
            if x + need > limit + 18:
                break
            if figure.unread:
                box = draw.slip(p, theme, x, 16, "?", dashed=True, height=24, px=16)
                x = box.right() + 4
            else:
                x += draw.write(p, x, 36, figure.text, theme.ochre if figure.waits else theme.ink, 20, 600, True) + 4
            x += draw.write(p, x, 36, figure.unit, theme.ink2, 13) + 14
