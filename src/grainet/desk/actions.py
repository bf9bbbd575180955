"""Every action of the window in one list that fits it (F10): searched by typing, taken by Enter or a press."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QAction, QPainter, QPen
from PySide6.QtWidgets import QLineEdit, QWidget

from grainet.desk.painting import draw
from grainet.desk.painting.tokens import font
from grainet.desk.view_state import State
from grainet.desk.widgets.pick_list import Pick, PickList

WIDE, TOP = 560, 96


class SearchField(QLineEdit):
    """The field: arrows step through the list, Enter takes, Esc puts it away."""

    def __init__(self, panel: ActionsPanel) -> None:
        super().__init__(panel)
        self.panel = panel

    def keyPressEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        key = event.key()
        if key == Qt.Key.Key_Escape:
            self.panel.away()
        elif key in (Qt.Key.Key_Down, Qt.Key.Key_Up):
            self.panel.list.step(1 if key == Qt.Key.Key_Down else -1)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.panel.list.take_current()
        else:
            super().keyPressEvent(event)


class ActionsPanel(QWidget):
    """Laid over the window; what is taken is done after it is put away."""

    def __init__(self, state: State, actions: Sequence[QAction], parent: QWidget) -> None:
        super().__init__(parent)
        self.state, self.actions_list = state, list(actions)
        self.setObjectName("actions")
        self.field = SearchField(self)
        self.field.setObjectName("actions.search")
        self.field.setAccessibleName("Search the actions")
        self.field.setPlaceholderText("type what you want to do")
        self.field.setFont(font(17, 500))
        self.field.textChanged.connect(self.search)
        self.list = PickList(state, 380, self, "actions.list")
        self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
        self.list.picked.connect(self._do)
        self.hide()

    def open(self) -> None:
        self.field.clear()
        self.search("")
        self.place()
        self.show()
        self.raise_()
        self.field.setFocus(Qt.FocusReason.ShortcutFocusReason)

    def search(self, text: str) -> None:
        """The actions that hold every typed word."""
        words = text.lower().split()
        keys = {action: action.shortcut().toString() for action in self.actions_list}
        shown = [a for a in self.actions_list if all(w in f"{a.text()} {keys[a]}".lower() for w in words)]
        rows = [Pick(a.text(), "", keys[a], a) for a in shown]
        self.list.show_rows(rows or [Pick("No action is called so.")])

    def place(self) -> None:
        room = self.parentWidget().size()
        wide, high = min(WIDE, room.width() - 40), max(240, room.height() - 2 * TOP)
        self.setGeometry((room.width() - wide) // 2, TOP, wide, high)
        self.field.setGeometry(14, 48, wide - 28, 44)
        self.list.setGeometry(8, 100, wide - 16, high - 108)

    def away(self) -> None:
        self.hide()
        self.window().setFocus()

    def _do(self, action: QAction) -> None:
        self.away()
        action.trigger()

    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.state.theme
        p.setBrush(theme.bench)
        p.setPen(QPen(theme.ink, 1.5))
        p.drawRoundedRect(QRectF(self.rect()).adjusted(1, 1, -1, -1), 4, 4)
        draw.text_at(p, 16, 32, "All actions", theme.ink, 18, 700)
        text = "Enter does it, Esc closes"
        draw.text_at(p, self.width() - 16 - draw.text_width(text, 14), 32, text, theme.ink2, 14)
