"""The clamps of the shop on their rail, over Glue in place of the rack: busy ones pale, with the joint they stand on and until when; the question
beside them says which of them open far enough for the joint in hand."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen
from PySide6.QtWidgets import QWidget
from typing_extensions import override

from grainet.desk.bands.question import BandQuestion
from grainet.desk.painting import draw
from grainet.desk.painting.tokens import AXIS_X, LEFT, RACK_H, RIGHT, Theme
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.wood.units import format_length

if TYPE_CHECKING:
    from grainet.present.glue_view import ClampGroup

RAIL_Y, HANG, APART = 9.0, 36.0, 24.0
MOST_DRAWN = 9  # clamps of a kind; its words say how many there are
MORE_W = 96.0  # room for how many kinds more


class ClampsBand(QWidget):
    """The band."""

    def __init__(self, state: State) -> None:
        super().__init__()
        self.state = state
        self.setObjectName("clamps")
        self.setFixedHeight(RACK_H)
        self.groups: tuple[ClampGroup, ...] = ()
        self.opens_mm = 0.0
        self.asks_free = False
        self.question = BandQuestion(
            state, self, lambda: self.asks, self.ask_other, tip="Press to ask the other: which open far enough, or which are free"
        )
        flow.row([(self.question, 158)], 12, 31, high=50)

    def show_clamps(self, groups: Sequence[ClampGroup], opens_mm: float) -> None:
        """Show the groups of clamps, and how far the joint in hand asks them to open."""
        self.groups, self.opens_mm = tuple(groups), opens_mm
        told = "; ".join(f"{g.free} of {g.count} {g.name} free" for g in groups)
        self.setAccessibleDescription(f"Clamps: {told}")
        self.question.setAccessibleName(f"Which of the clamps {self.asks}")
        self.question.update()
        self.update()

    @property
    def asks(self) -> str:
        """What is asked."""
        style = self.state.shop.kit.length_style
        return "are free?" if self.asks_free else f"open over {format_length(round(self.opens_mm), style)}?"

    def ask_other(self) -> None:
        """Ask which are free in place of which open far enough, or the other way."""
        self.asks_free = not self.asks_free
        self.show_clamps(self.groups, self.opens_mm)

    def answers(self, group: ClampGroup) -> bool:
        """Whether a group answers the question with yes."""
        return group.free > 0 if self.asks_free else group.opens_mm >= self.opens_mm - 1e-9

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.state.theme
        p.fillRect(self.rect(), theme.shelf)
        free, whole = sum(g.free for g in self.groups), sum(g.count for g in self.groups)
        x = LEFT + draw.text_at(p, LEFT, 26, "Clamps", theme.ink, 20, 700) + 8
        draw.text_at(p, x, 26, f"{free} of {whole} free", theme.ink2, 14, room=AXIS_X - x)
        p.setPen(QPen(theme.edge, 2))
        p.drawLine(QPointF(AXIS_X, RAIL_Y), QPointF(self.width(), RAIL_Y))
        if not self.groups:
            draw.text_at(p, AXIS_X + 16, 44, "No clamps yet: the kit book has a page for them (Ctrl+K).", theme.ink2, 14)
        x = AXIS_X + 12.0
        shown = self.shown()
        for group in shown:
            x = self._group(p, theme, group, x)
        if more := len(self.groups) - len(shown):
            words = f"{more} more kind{'s' if more > 1 else ''}"
            draw.text_at(p, self.width() - RIGHT - draw.text_width(words, 14, 600), 41, words, theme.ink, 14, 600)

    def shown(self) -> list[ClampGroup]:
        """The kinds that have room; where not all have, those that answer with yes come first."""
        room = self.width() - AXIS_X - 12 - RIGHT
        wides = {g.name: self._wide(g) for g in self.groups}
        if sum(wides.values()) <= room:
            return list(self.groups)
        room, found = room - MORE_W, []
        for group in sorted(self.groups, key=self.answers, reverse=True):
            if wides[group.name] <= room:
                found.append(group)
                room -= wides[group.name]
        return found

    def _words(self, group: ClampGroup) -> tuple[str, str]:
        opens = format_length(round(group.opens_mm), self.state.shop.kit.length_style)
        return f"{group.count} {group.name.lower()}", f"{group.force_kn:g} kN, open {opens}"

    def _wide(self, group: ClampGroup) -> float:
        words, told = self._words(group)
        texts = draw.text_width(words, 14, 700) + draw.text_width(told, 13) + 8
        label = draw.text_width(f"{group.on} until {group.until}", 13, 600) + 12 if group.on else 0.0
        return max(min(group.count, MOST_DRAWN) * APART, texts, label) + 26

    def _group(self, p: QPainter, theme: Theme, group: ClampGroup, x: float) -> float:
        """One group on the rail; where the next one begins."""
        yes, shown, wide = self.answers(group), min(group.count, MOST_DRAWN), self._wide(group)
        words, told = self._words(group)
        if yes:
            p.fillRect(QRectF(x - 8, 0, wide - 10, 3), theme.chalk)
        busy = group.count - group.free
        for k in range(shown):
            colour = QColor(theme.ink if yes else theme.ink2)
            colour.setAlpha(70 if k < busy else 255)
            _clamp(p, colour, x + k * APART, small=group.opens_mm < 250)
        draw.text_at(p, x, 72, words, theme.ink if yes else theme.ink2, 14, 700)
        draw.text_at(p, x + draw.text_width(words, 14, 700) + 6, 72, told, theme.ink2, 13)
        if busy and group.until:
            draw.label(p, theme, x, 20, f"{group.on} until {group.until}", px=13, weight=600, ochre=True)
        return x + wide


def _clamp(p: QPainter, colour: QColor, x: float, *, small: bool) -> None:
    """One clamp hanging from the rail: its bar, its two jaws, its screw."""
    high = HANG * (0.6 if small else 1.0)
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(colour)
    p.drawRect(QRectF(x, RAIL_Y, 3, high))
    for y in (RAIL_Y + 2, RAIL_Y + high - 6):
        p.drawRect(QRectF(x, y, 13, 4))
        p.drawRect(QRectF(x + 10, y - 1, 3, 6))
