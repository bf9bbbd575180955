"""The head: the piece or build in hand with its key figures, and the tape line."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from pydantic import ValidationError
from PySide6.QtCore import QEvent, QPoint, QRectF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QKeySequence, QPainter, QPen, QResizeEvent
from PySide6.QtWidgets import QLineEdit, QWidget
from typing_extensions import override

from grainet.desk.bands.tape_panel import TapePanel
from grainet.desk.painting import draw
from grainet.desk.painting.tokens import HEAD_H, LEFT, font
from grainet.desk.view_state import Message, State
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import WordButton, wrapped
from grainet.desk.widgets.keypad import Keypad
from grainet.present.draw_up import key_figures
from grainet.session.commands.command import Command
from grainet.session.commands.whole_piece import whole_piece
from grainet.wood.piece import Piece
from grainet.wood.rings import least_angle
from grainet.wood.units import LengthStyle, format_length
from grainet.wood.value import BadEntry, Choose, why_not

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
    density = state.shop.judgements.facts(piece.id).density
    if density:
        odd = bool(state.shop.judgements.facts(piece.id).question)
        found.append(Figure(f"{density:.0f}", "kg/m³ ?" if odd else "kg/m³", waits=odd))
    ready = state.shop.judgements.facts(piece.id).ready_or_not
    worst = ready.worst_pct
    found.append(Figure(f"{worst:g} %" if worst is not None else "?", "moist", worst is None, ready.word == "waits"))
    angle = least_angle(piece.ring_angle_deg)
    found.append(Figure(f"{angle:.0f}°" if angle is not None else "?", "rings", angle is None))
    return found


def _nominal(word: str, nominal_mm: float | None, style: LengthStyle) -> str:
    """The figure's word, and beside it what the piece was sold as."""
    return word if nominal_mm is None else f"{word}, sold as {format_length(nominal_mm, style)}"


INVITES = ("type a figure, or ?", "figure or ?", "?")  # what the empty tape line says, as its room allows


class TapeLine(QLineEdit):
    """The tape line: every key is its own while it is open; Enter keeps, Esc drops. While it is empty, keys with Ctrl and Alt are
    the window's, undo and Ctrl+E among them; while words are listed below it, up and down step through them. A line that was refused is
    marked whole, so that typing begins anew and an arrow mends it; up on the empty line brings it back."""

    closed = Signal()
    stepped = Signal(int)
    refused = ""

    def refuse(self) -> None:
        """What stands in it cannot be kept."""
        self.refused = self.text()
        self.selectAll()

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        room = self.width() - 16
        fits = (words for words in INVITES if draw.text_width(words, 20, 600, figures=True) <= room)
        self.setPlaceholderText(next(fits, INVITES[-1]))

    def event(self, event: QEvent) -> bool:
        """While it is empty, keys with Ctrl or Alt are the window's; pasting is its own."""
        if event.type() == QEvent.Type.ShortcutOverride and not self.text():
            commands = Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier
            if event.modifiers() & commands and not event.matches(QKeySequence.StandardKey.Paste):
                event.ignore()
                return False
        return super().event(event)

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        key = event.key()
        if key == Qt.Key.Key_Escape:
            self.clear()
            self.closed.emit()
        elif key == Qt.Key.Key_Up and not self.text() and self.refused:
            self.setText(self.refused)
        elif key in (Qt.Key.Key_Down, Qt.Key.Key_Up):
            self.stepped.emit(1 if key == Qt.Key.Key_Down else -1)
        else:
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
        self.tape.setToolTip("Type a figure: 760 moves the marker, t 52.4 a thickness there, ? lists the words")
        self.tape.setFrame(False)
        self.tape.setFont(font(20, 600, figures=True))
        self.tape.setPlaceholderText(INVITES[0])
        self.tape.textChanged.connect(self._read)
        self.tape.returnPressed.connect(self._keep)
        self.tape.closed.connect(self._close)
        self.tape.stepped.connect(self._step_words)
        self.keys = WordButton(state, "123", "", chalk=False, parent=self, name="tape.keys")
        self.keys.setFixedHeight(34)
        self.keys.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.keys.setToolTip("Keys for the tape line, to read a piece in with the mouse alone")
        self.keys.clicked.connect(self._toggle_keypad)
        self.keypad: Keypad | None = None
        self.gloss, self.bad, self.final = "", False, False
        self.fault: BadEntry | None = None
        self.unbegun = ""  # the piece in hand when a line that begins another was refused
        self.asked_of = ""  # the line that was asked about since
        self.panel: TapePanel | None = None
        self.meaning: Command | None = None
        state.changed.connect(self.refresh)
        state.message.connect(self._said)
        state.tape_wanted.connect(self.open_with)
        self.refresh()

    # the tape line ------------------------------------------------------------------------------------------------
    def use_panel(self, panel: TapePanel) -> None:
        """The panel that hangs below: whole sentences, choices and the list of words."""
        self.panel = panel
        panel.chosen.connect(self._insert)
        panel.answered.connect(self._answer)

    def open_with(self, text: str) -> None:
        """Open the tape line with some words typed already."""
        self.tape.setFocus(Qt.FocusReason.ShortcutFocusReason)
        self.tape.setText(text)

    def _step_words(self, by: int) -> None:
        if self.panel is not None and self.panel.lists:
            self.panel.words.step(by)

    def _insert(self, text: object) -> None:
        """A word's example."""
        self.open_with(str(text))

    def _answer(self, text: str) -> None:
        """The line with what was meant in place of what was unclear; whoever pressed Enter already need not press it again."""
        entered = self.final
        self.open_with(text)
        if entered and self.meaning is not None:
            self._keep()

    def read_again(self) -> None:
        """Another station is in front: each has words of its own, so a line that is typed already may mean something now."""
        if self.tape.text().strip():
            self._read(self.tape.text())

    def _toggle_keypad(self) -> None:
        """Show or put away the keypad under the tape line."""
        if self.keypad is None:
            self.keypad = Keypad(self.state, self.tape, self.window())
        self.keypad.setVisible(not self.keypad.isVisible())
        at = self._below()
        size = self.keypad.sizeHint()
        flow.row_to_right([(self.keypad, size.width())], at.x(), at.y(), high=size.height())
        self.keypad.raise_()
        self.tape.setFocus()
        self._look()

    def _below(self) -> QPoint:
        """The corner that hangs from the tape line's lower right."""
        corner = self.tape_box().bottomRight().toPoint()
        return self.mapTo(self.window(), corner) + QPoint(0, 4)

    def _read(self, text: str) -> None:
        self.meaning, self.bad, self.final, self.fault = None, False, False, None
        if text.strip():
            try:
                self.meaning = self.state.understand(text, by=self.state.tape_by)
                listing = self.meaning.lists is not None
                self.gloss = "up and down, then Enter" if listing else f"{self.meaning.gloss}: Enter keeps it"
            except BadEntry as fault:
                self.gloss, self.bad, self.fault = str(fault), True, fault
            except ValidationError as fault:  # a figure that the value itself refuses
                self.gloss, self.bad = f"This cannot be kept: {why_not(fault)}.", True
        else:
            self.gloss = ""
        drawn = self.meaning.draws if self.meaning is not None else None
        self.state.show_preview(drawn.after if drawn is not None else None)
        self._look()

    def _keep(self) -> None:
        if self.panel is not None and self.panel.lists and self.panel.words.take_current():
            return
        if self.state.piece is None and self.tape.text().strip() and self.state.screen == "bring_in":
            self.state.new_piece()
            self._read(self.tape.text())
        if self.meaning is None:
            if self.tape.text().strip() and not self.bad:
                self._read(self.tape.text())
            self.final = True  # now the person has finished typing, and what is wrong may be said in red
            self.tape.refuse()
            if self.state.piece is not None and self.state.piece.outline and whole_piece(self.tape.text()) is not None:
                self.unbegun, self.asked_of = self.state.piece_id, ""
            self._look()
            return
        meaning = self.meaning
        if meaning.lists is not None or self._meant_for_another(meaning):
            return
        self.state.tape_by = ""
        self.tape.clear()
        self.tape.refused = ""
        self.state.keep_meaning(meaning)

    def _meant_for_another(self, meaning: Command) -> bool:
        """Whether it would go to the piece before one whose line was refused: asked until it is entered twice. Who types without looking would write over a board."""
        earlier, line = self.unbegun, self.tape.text()
        harmless = earlier != self.state.piece_id or meaning.piece is None or meaning.begins
        if not earlier or harmless or line == self.asked_of:
            self.unbegun = self.asked_of = ""
            return False
        self.asked_of = line  # another line is asked about too, until one is entered twice
        self.gloss = (
            f"“{self.tape.refused}” was refused, so this would go to No. {earlier}. Enter once more keeps it there; "
            "Esc and then an arrow up brings that line back."
        )
        self.bad = self.final = True
        self.tape.selectAll()
        self._look()
        return True

    def _close(self) -> None:
        self.state.tape_by = self.unbegun = self.asked_of = ""
        self.gloss = ""
        self.state.show_preview(None)
        if self.panel is not None:
            self.panel.away()
        self.tape.clearFocus()
        parent = self.window()
        parent.setFocus()
        self.update()

    def _said(self, message: Message) -> None:
        self.gloss, self.bad, self.final, self.fault = message.text, message.caution, message.caution, None
        self._look()

    def _look(self) -> None:
        """Show the answer where it fits: in the head, or whole in the panel, with what may be chosen."""
        self.update()
        if self.panel is None:
            return
        left = self.keypad.width() + 8 if self.keypad is not None and self.keypad.isVisible() else 0
        box = self.tape_box()
        corner = self.mapTo(self.window(), QPoint(0, 0))
        beside = QRectF(corner.x() + 12, corner.y() + 3, box.left() - 22, HEAD_H - 6)
        self.panel.under(self._below() - QPoint(left, 0), beside)
        typed = self.tape.text()
        if typed.strip().startswith("?"):
            self.panel.list_words(typed.strip()[1:])
        elif isinstance(self.fault, Choose):
            self.panel.offer(self.gloss, typed, self.fault.found, self.fault.choices, caution=self.final)
        elif self.gloss and not self._fits():
            self.panel.say(self.gloss, caution=self.bad and self.final)
        else:
            self.panel.away()

    def _gloss_room(self) -> QRectF:
        box = self.tape_box()
        wide = self._tape_wide(box)
        return QRectF(box.x() + wide + 12, box.y() + 3, box.width() - wide - 70, box.height() - 6)

    def _fits(self) -> bool:
        """Whether the answer stands whole in the head, in two lines."""
        return len(wrapped(self.gloss, 13, self._gloss_room().width() - 2)) <= 2

    # layout and painting ------------------------------------------------------------------------------------------
    def refresh(self) -> None:
        """Bring everything up to date and in its place."""
        self.tape.setPalette(self.palette())
        self.update()

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        box = self.tape_box()
        flow.row([(self.tape, self._tape_wide(box))], box.x() + 12, box.y() + 4, high=int(box.height()) - 8)
        flow.row_to_right([(self.keys, 48)], int(box.right()) - 4, box.y() + 4, high=34)

    def tape_box(self) -> QRectF:
        """Where the tape line stands."""
        wide = TAPE_W if self.width() >= 1200 else max(300, TAPE_W - (1200 - self.width()))
        return QRectF(self.width() - wide - 26, 7, wide, HEAD_H - 14)

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.state.theme
        p.fillRect(self.rect(), theme.bench)
        box = self.tape_box()
        p.setBrush(theme.slip)
        p.setPen(QPen(theme.chalk if self.tape.hasFocus() else theme.edge, 2 if self.tape.hasFocus() else 1))
        p.drawRoundedRect(box, 4, 4)
        colour = theme.wine if self.bad and self.final else theme.ink2
        if self._fits():
            self._gloss(p, self._gloss_room(), colour)
        self._name(p, box.x() - 14)

    def _tape_wide(self, box: QRectF) -> int:
        return 160 if box.width() > 380 else 104

    def _gloss(self, p: QPainter, room: QRectF, colour: Any) -> None:
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
        if self.state.heads is not None and (told := self.state.heads()) is not None:
            self._told(p, limit, *told)
            return
        if self.state.drawing:
            self._instrument(p, limit)
            return
        if piece is None:
            draw.text_at(p, LEFT, 36, "Nothing on the rack yet", theme.ink, 26, 800, room=limit - LEFT)
            return
        x = LEFT + draw.text_at(p, LEFT, 38, f"No. {piece.id}", theme.ink, 30, 800, figures=True) + 14
        figures = figures_of(piece, self.state)
        if any(f.unit.startswith("kg/m³") for f in figures):
            figures = [f for f in figures if f.unit != "kg"]  # the density says it, and the name needs the room
        wide = sum(draw.text_width(f.text, 20, 600, figures=True) + draw.text_width(f.unit, 13) + 22 for f in figures)
        name = ", ".join(dict.fromkeys([self._species_words(piece), piece.kind.replace("_", " ")]))
        x += (
            draw.text_at(
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
            need = draw.text_width(figure.text, 20, 600, figures=True) + draw.text_width(figure.unit, 13) + 22
            if x + need > limit + 18:
                break
            if figure.unread:
                box = draw.label(p, theme, x, 16, "?", dashed=True, height=24, px=16)
                x = box.right() + 4
            else:
                x += draw.text_at(p, x, 36, figure.text, theme.ochre if figure.waits else theme.ink, 20, 600, figures=True) + 4
            x += draw.text_at(p, x, 36, figure.unit, theme.ink2, 13) + 14

    def _told(self, p: QPainter, limit: float, name: str, figures: list[tuple[str, str]]) -> None:
        """What the screen in front says: a name, and figures with their words, as many as there is room for."""
        theme = self.state.theme
        x = LEFT + draw.text_at(p, LEFT, 38, name, theme.ink, 28, 800, room=260) + 16
        for text, unit in figures:
            need = draw.text_width(text, 20, 600, figures=True) + draw.text_width(unit, 13) + 22
            if x + need > limit + 18:
                break
            x += draw.text_at(p, x, 36, text, theme.ink, 20, 600, figures=True) + 5
            x += draw.text_at(p, x, 36, unit, theme.ink2, 13) + 14

    def _instrument(self, p: QPainter, limit: float) -> None:
        """The instrument in hand: its name, kind and main figures."""
        theme, g = self.state.theme, self.state.preview or self.state.instrument
        if g is None:
            draw.text_at(p, LEFT, 36, "No guitar drawn up yet", theme.ink, 26, 800, room=limit - LEFT)
            return
        x = LEFT + draw.text_at(p, LEFT, 38, g.shown_name, theme.ink, 28, 800, room=260) + 14
        x += (
            draw.text_at(
                p, x, 36, f"{g.kind}{', with a top' if g.body.cap_mm else ''}", theme.ink, 17, 700, room=max(60.0, limit - x)
            )
            + 16
        )
        for text, unit in key_figures(g, self.state.shop.kit):
            need = draw.text_width(text, 20, 600, figures=True) + draw.text_width(unit, 13) + 22
            if x + need > limit + 18:
                break
            x += draw.text_at(p, x, 36, text, theme.ink, 20, 600, figures=True) + 4
            x += draw.text_at(p, x, 36, unit, theme.ink2, 13) + 14
