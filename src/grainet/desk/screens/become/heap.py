"""Which pieces may become something: the whole rack, those that answer a question to the rack, or those that are ticked one by one."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt, QTimer
from PySide6.QtGui import QAction, QKeyEvent, QMouseEvent
from PySide6.QtWidgets import QMenu, QWidget
from typing_extensions import override

from grainet.desk.view_state import State
from grainet.session.stock_answers import free_pieces
from grainet.wood.piece import Piece
from grainet.wood.units import format_length


class TickMenu(QMenu):
    """A menu that stays open while its ticks are set, by mouse, Space or Enter; Esc closes it."""

    @override
    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        if not self._ticked(self.actionAt(event.position().toPoint())):
            super().mouseReleaseEvent(event)

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
        if event.key() not in (Qt.Key.Key_Space, Qt.Key.Key_Return, Qt.Key.Key_Enter) or not self._ticked(self.activeAction()):
            super().keyPressEvent(event)

    @staticmethod
    def _ticked(action: QAction | None) -> bool:
        if action is None or not action.isCheckable():
            return False
        action.trigger()
        return True


class Heap:
    """The pieces that are asked about; None stands for the whole rack, whatever comes onto it."""

    def __init__(self, state: State) -> None:
        self.state = state
        self.chosen: frozenset[str] | None = None

    def pieces(self) -> list[Piece]:
        """What may be used: measured, and not held by an accepted plan."""
        free = free_pieces(self.state.shop)
        return free if self.chosen is None else [p for p in free if p.id in self.chosen]

    def text(self) -> str:
        """The heap in words, as the button says it."""
        if self.chosen is None:
            return "From the whole rack"
        known = [p.id for p in self.state.shop.pieces() if p.id in self.chosen]
        if not known:
            return "From no piece yet"
        return f"From No. {', '.join(known)}" if len(known) <= 3 else f"From {len(known)} pieces"

    def menu(self, parent: QWidget, asked: Callable[[], None]) -> TickMenu:
        """What may be chosen; ``asked`` is called once the menu closes, if the heap is another one than before."""
        state, before = self.state, self.chosen
        menu = TickMenu(parent)
        menu.setObjectName("become.heap.menu")
        menu.addAction("The whole rack", lambda: self._take(None))
        if state.piece is not None:
            number = state.piece.id
            menu.addAction(f"Only No. {number}, which is in hand", lambda: self._take(frozenset({number})))
        answers = state.answers()
        if state.asked is not None and answers:
            numbers = frozenset(answers)
            menu.addAction(f"The {len(numbers)} that answer “{state.asked.message()}”", lambda: self._take(numbers))
        menu.addSeparator()
        for piece in state.shop.pieces():
            action = menu.addAction(self._row(piece))
            action.setCheckable(True)
            action.setChecked(self.chosen is None or piece.id in self.chosen)
            action.triggered.connect(lambda on, number=piece.id: self._tick(number, on=on))
        # a menu closes before it says what was chosen in it
        menu.aboutToHide.connect(lambda: QTimer.singleShot(0, lambda: asked() if self.chosen != before else None))
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        return menu

    def _take(self, chosen: frozenset[str] | None) -> None:
        self.chosen = chosen

    def _tick(self, number: str, *, on: bool) -> None:
        every = frozenset(p.id for p in self.state.shop.pieces())
        now = every if self.chosen is None else self.chosen & every
        now = now | {number} if on else now - {number}
        self.chosen = None if now == every else now

    def _row(self, piece: Piece) -> str:
        x0, y0, x1, y1 = piece.extents
        sizes = [x1 - x0, y1 - y0, *([max(piece.all_thicknesses_mm)] if piece.all_thicknesses_mm else [])]
        shown = " × ".join(format_length(v, self.state.shop.kit.length_style) for v in sizes)
        return f"No. {piece.id}  {piece.species}, {shown}"
