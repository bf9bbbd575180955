"""Under the tape line: whole sentences, what may be meant to choose from, and the words to search and insert."""

from __future__ import annotations

from PySide6.QtCore import QPoint, QRectF, Qt, Signal
from PySide6.QtGui import QPainter, QPen
from PySide6.QtWidgets import QWidget
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import WordButton, wrapped
from grainet.desk.widgets.pick_list import Pick, PickList
from grainet.session.commands.examples import example_in
from grainet.session.commands.word_list import found_words

WIDE, LINE_H, PAD, TIGHT = 760, 21, 14, 4
MOST_LIST_H = 400


class TapePanel(QWidget):
    """Opens below the head where its line is too short for what is to be said; ``chosen`` is text for the tape line, ``answered`` the line
    with what was meant."""

    chosen = Signal(str)
    answered = Signal(str)

    def __init__(self, state: State, parent: QWidget) -> None:
        super().__init__(parent)
        self.state = state
        self.setObjectName("tape.panel")
        self.text, self.caution = "", False
        self.typed, self.found = "", ""
        self.choices: list[WordButton] = []
        self.words = PickList(state, 190, self, "tape.words")
        self.words.setFocusPolicy(Qt.FocusPolicy.NoFocus)  # the tape line keeps the keys
        self.words.picked.connect(self.chosen.emit)
        self.right_edge, self.top_edge, self.room_beside = 0, 0, QRectF()
        self.hide()

    def say(self, text: str, *, caution: bool) -> None:
        """A whole sentence, and nothing to choose."""
        self._set(text, caution=caution, choices=(), rows=[])

    def offer(self, text: str, typed: str, found: str, choices: tuple[str, ...], *, caution: bool) -> None:
        """A sentence with what ``found`` in the typed line may stand for; pressing one puts it into the line."""
        self.typed, self.found = typed, found
        self._set(text, caution=caution, choices=choices, rows=[])

    def list_words(self, wanted: str) -> None:
        """The words that a person may mean, grouped as they stand in the list where nothing is searched for."""
        rows: list[Pick] = []
        group = ""
        here = [w for w in self.state.words_here() if wanted.strip().lower() in " ".join(w).lower()]
        if here:
            rows.append(Pick("Here"))
        rows += [Pick(form, does, example, example) for form, does, example in here]
        found = found_words(wanted)
        for one in found:
            if not wanted.strip() and one.group != group:
                group = one.group
                rows.append(Pick(group))
            such = example_in(one, self.state.style)
            rows.append(Pick(one.form, one.does, such, such))
        message = "Press a word to put its example into the line, or search: ? beam, ? paint, ? blank." if found or here else ""
        self._set(
            message or f"No word means “{wanted.strip()}”. Try another: ? lists them all.", caution=False, choices=(), rows=rows
        )

    def away(self) -> None:
        """Put it away and give the keys back."""
        self.hide()
        self.text = ""

    @property
    def lists(self) -> bool:
        """Whether words are shown that the arrows can step through."""
        return self.isVisible() and bool(self.words.rows.rows)

    def _set(self, text: str, *, caution: bool, choices: tuple[str, ...], rows: list[Pick]) -> None:
        self.text, self.caution = text, caution
        self.setAccessibleName(text)
        for old in self.choices:
            old.hide()
            old.deleteLater()
        self.choices = []
        for k, choice in enumerate(choices):
            button = WordButton(self.state, choice, "", chalk=False, parent=self, name=f"tape.choice{k}")
            button.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            button.clicked.connect(lambda _=False, c=choice: self.answered.emit(self._with(c)))
            button.show()
            self.choices.append(button)
        self.words.show_rows(rows)
        self.words.setVisible(bool(rows))
        self._place()
        self.show()
        self.raise_()
        self.update()

    def _with(self, choice: str) -> str:
        """The typed line with a choice in place of what was unclear."""
        at = self.typed.rfind(self.found)
        return f"{self.typed[:at]}{choice}{self.typed[at + len(self.found) :]}" if at >= 0 else f"{self.typed} {choice}"

    def under(self, corner: QPoint, beside: QRectF) -> None:
        """Hang the panel with its upper right corner there; a sentence that fits ``beside`` the tape line stands there, so that no button of
        the screen is covered."""
        self.right_edge, self.top_edge, self.room_beside = corner.x(), corner.y(), beside
        if self.isVisible():
            self._place()

    def _stands_beside(self) -> bool:
        """Whether there is nothing to press, and the sentence fits in two lines beside the tape line."""
        room = self.room_beside
        alone = not self.choices and not self.words.rows.rows
        return alone and len(wrapped(self.text, 15, room.width() - 2 * PAD)) * LINE_H + 2 * TIGHT <= room.height()

    def _place(self) -> None:
        if self._stands_beside():
            room = self.room_beside
            wide = room.width()  # the name below it is covered whole, or, by a short one, not at all
            if len(wrapped(self.text, 15, wide - 2 * PAD)) == 1:
                wide = draw.text_width(self.text, 15) + 2 * PAD + 4
            flow.row([(self, wide)], room.right() - wide, room.top(), high=room.height())
            return
        room = self.parentWidget().size()
        wide = min(WIDE, room.width() - 40)
        lines = wrapped(self.text, 15, wide - 2 * PAD) if self.text else []
        y = PAD + LINE_H * len(lines) + (4 if lines else 0)
        y = flow.wrapped(self.choices, PAD, y, wide - PAD, gap=8)
        if self.words.rows.rows:
            most = max(120, min(MOST_LIST_H, room.height() - self.top_edge - y - 80))
            high = min(most, self.words.height_of_all() + 2)
            y = flow.column([self.words], 6, y, wide - 12, high=high, gap=0)
        right = min(self.right_edge, room.width() - 8)
        flow.row([(self, wide)], max(8, right - wide), self.top_edge, high=y + PAD - 4)

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.state.theme
        p.setBrush(theme.slip)
        p.setPen(QPen(theme.wine if self.caution else theme.edge, 1.5))
        p.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 4, 4)
        lines = wrapped(self.text, 15, self.width() - 2 * PAD)
        top = (self.height() - LINE_H * len(lines)) / 2 if self._stands_beside() else PAD - 2
        for k, line in enumerate(lines):
            draw.text_at(p, PAD, top + LINE_H * k + 15, line, theme.wine if self.caution else theme.ink, 15)
