"""Every action of the window, one row each, and the list of them (F10): searched by typing, taken by Enter or a press."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import TYPE_CHECKING

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QAction, QKeyEvent, QKeySequence, QPainter, QPen
from PySide6.QtWidgets import QLineEdit, QWidget
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.painting.tokens import font
from grainet.desk.screens.table import ROWS as SCREEN_ROWS
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.desk.widgets.pick_list import Pick, PickList

if TYPE_CHECKING:
    from grainet.desk.main_window import Window

WIDE, TOP = 560, 96
Words = Callable[["Window"], str]


def _nothing(_window: Window) -> str:
    return ""


def _piece(window: Window) -> str:
    return "" if window.state.piece is not None else "no piece in hand"


def _to_read(window: Window) -> str:
    return "" if window.bench is not None and window.bench.isVisible() else _piece(window)


def _plan(window: Window) -> str:
    return "" if window.planning.fresh is not None else "no fresh plan"


@dataclass(frozen=True)
class ActionRow:
    """One action: its words and key, what it does, why it cannot be done now (empty: it can), and what more is said of it."""

    label: str
    key: str
    act: Callable[[Window], object]
    waits: Words = _nothing
    more: Words = _nothing


def _shows(name: str) -> Callable[[Window], object]:
    return lambda window: window.show_screen(name)


ACTIONS: tuple[ActionRow, ...] = (
    *(ActionRow(row.label, row.key, _shows(row.name)) for row in SCREEN_ROWS if row.key),
    ActionRow("Light or dark", "Ctrl+D", lambda w: w.switch_light()),
    ActionRow("Larger text", "Ctrl++", lambda w: w.change_text_size(1), more=lambda w: "the window opens anew, larger"),
    ActionRow("Smaller text", "Ctrl+-", lambda w: w.change_text_size(-1), more=lambda w: "the window opens anew, smaller"),
    ActionRow("Usual text size", "Ctrl+0", lambda w: w.change_text_size(0)),
    ActionRow("All actions", "F10", lambda w: w.show_actions()),
    ActionRow("New piece", "Ctrl+N", lambda w: w.new_piece()),
    ActionRow("Ask the rack", "Ctrl+F", lambda w: w.state.tape_wanted.emit("ask ")),
    ActionRow("Read an instrument", "F12", lambda w: w.read_instrument(), _to_read),
    ActionRow("Photograph a side", "Ctrl+Shift+F", lambda w: w.open_photos(), _piece),
    ActionRow("Print a label", "Ctrl+Shift+L", lambda w: w.print_labels(sheet=False), _piece),
    ActionRow("Print a sheet of labels", "Ctrl+Alt+L", lambda w: w.print_labels(sheet=True), _piece),
    ActionRow("Roll the board", "Ctrl+R", lambda w: w.state.roll(), _piece),
    ActionRow("Try a part", "Ctrl+T", lambda w: w.try_part(), _piece),
    ActionRow("Pieces for this part", "Ctrl+Alt+P", lambda w: w.rank_for_part()),
    ActionRow("Every rule", "Ctrl+U", lambda w: w.show_rules(), _piece),
    ActionRow("The bench: one step at a time", "Ctrl+Alt+B", lambda w: w.open_bench()),
    ActionRow("What to mind of the plan", "Ctrl+G", lambda w: w.lay_out.show_warnings()),
    ActionRow("Press the main button", "Ctrl+Return", lambda w: w.primary_action()),
    ActionRow("Undo", "Ctrl+Z", lambda w: w.state.undo(), lambda w: "" if w.state.shop.items.undo_label else "nothing to undo",
              lambda w: f"takes back: {w.state.shop.items.undo_label}"),
    ActionRow("Redo", "Ctrl+Shift+Z", lambda w: w.state.undo(forward=True),
              lambda w: "" if w.state.shop.items.redo_label else "nothing to do again", lambda w: f"does again: {w.state.shop.items.redo_label}"),
    ActionRow("Bring in a list", "Ctrl+O", lambda w: w.bring_list()),
    ActionRow("Write the stock to a file", "Ctrl+E", lambda w: w.write_list()),
    ActionRow("Print", "Ctrl+P", lambda w: w.print_what_is_shown()),
    ActionRow("Save the plot as a file", "Ctrl+S", lambda w: w.save_what_is_shown()),
    ActionRow("Accept the plan: saw it", "Alt+S", lambda w: w.lay_out.keep_plan(), _plan),
    ActionRow("Take the part where the plan has it", "Alt+T", lambda w: w.take_part()),
    ActionRow("Search every way in which the part can lie", "Alt+F", lambda w: w.lay_out_does(lambda s: s.search_all_ways())),
    ActionRow("Where a cutter tears the part in hand", "Alt+A", lambda w: w.lay_out_does(lambda s: s.turn_tears())),
    ActionRow("Cut round the outlines, or straight", "Alt+C", lambda w: w.lay_out_does(lambda s: s.planning.turn_cutting())),
    ActionRow("Pin the part in hand, or let it go", "Alt+P", lambda w: w.pin_part()),
    *(ActionRow(f"Opening {k} of the pair", f"Alt+{k}", lambda w, k=k: w.match(lambda m: m.choose(k))) for k in (1, 2, 3, 4)),
    ActionRow("Lamp along or across the seam", "Alt+L", lambda w: w.match(lambda m: m.turn_lamp())),
    ActionRow("Which end of the pair's board to lose", "Alt+E", lambda w: w.match(lambda m: m.lose_an_end())),
    ActionRow("A photo of the pair, open", "Alt+O", lambda w: w.match(lambda m: m.ask_photo())),
    ActionRow("Mirror both halves of the pair", "Alt+M", lambda w: w.match(lambda m: m.mirror())),
    ActionRow("A surprise while sawing", "Ctrl+Shift+X", lambda w: w.surprise()),
    ActionRow("Save a copy of the shop elsewhere", "Ctrl+Shift+S", lambda w: w.save_elsewhere()),
    ActionRow("The whole shop as one file", "Ctrl+Alt+S", lambda w: w.archive()),
    ActionRow("Every word of the tape line", "Ctrl+H", lambda w: w.state.tape_wanted.emit("?")),
    ActionRow("Open another shop", "Ctrl+Shift+O", lambda w: w.open_shop("choose") if w.open_shop else None),
    ActionRow("Change how lengths are shown", "Ctrl+L", lambda w: w.next_length_style()),
    ActionRow("Next piece", "PgDown", lambda w: w.state.step_piece(1)),
    ActionRow("Piece before", "PgUp", lambda w: w.state.step_piece(-1)),
)  # fmt: skip


ALSO = {"Ctrl+Return": ("Ctrl+Enter",), "Ctrl++": ("Ctrl+=",)}  # keys that mean the same where a keyboard has them elsewhere


def made_for(window: Window) -> dict[QAction, ActionRow]:
    """The actions of a window, each with its key. A key of one that waits works all the same: what it does says why not."""
    made = {}
    for row in ACTIONS:
        action = QAction(row.label, window)
        action.setShortcuts([QKeySequence(row.key), *(QKeySequence(k) for k in ALSO.get(row.key, ()))])
        action.setToolTip(f"{row.label} ({row.key})")
        action.triggered.connect(lambda _=False, row=row: row.act(window))
        window.addAction(action)
        made[action] = row
    return made


class SearchField(QLineEdit):
    """The field: arrows step through the list, Enter takes, Esc puts it away."""

    def __init__(self, panel: ActionsPanel) -> None:
        super().__init__(panel)
        self.panel = panel

    @override
    def keyPressEvent(self, event: QKeyEvent) -> None:
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

    def __init__(self, state: State, actions: dict[QAction, ActionRow], parent: Window) -> None:
        super().__init__(parent)
        self.state, self.rows_by_action, self.desk = state, actions, parent
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
        """Show every action, the keys in the search field."""
        self.field.clear()
        self.search("")
        self.place()
        self.show()
        self.raise_()
        self.field.setFocus(Qt.FocusReason.ShortcutFocusReason)

    def search(self, text: str) -> None:
        """The actions that hold every typed word."""
        words = text.lower().split()
        found = {a: f"{row.label} {row.key}".lower() for a, row in self.rows_by_action.items()}
        shown = [(a, self.rows_by_action[a]) for a, message in found.items() if all(w in message for w in words)]
        rows = [Pick(row.label, row.waits(self.desk) or row.more(self.desk), row.key, a) for a, row in shown]
        self.list.show_rows(rows or [Pick("No action is called so.")])

    def place(self) -> None:
        """In the middle of the window, as high as fits."""
        room = self.parentWidget().size()
        wide, high = min(WIDE, room.width() - 40), max(240, room.height() - 2 * TOP)
        left = (room.width() - wide) // 2
        flow.fill(self, left, TOP, left + wide, TOP + high)
        below = flow.column([self.field], 14, 48, wide - 28, gap=8)
        flow.fill(self.list, 8, below, wide - 8, high - 8)

    def away(self) -> None:
        """Put it away and give the keys back."""
        self.hide()
        self.window().setFocus()

    def _do(self, action: QAction) -> None:
        self.away()
        action.trigger()

    @override
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
