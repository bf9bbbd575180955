"""The window: rack, head, ruler, work and rail, the keys that work everywhere, and the menu of every action."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QEvent, Qt, QTimer
from PySide6.QtGui import QAction, QGuiApplication, QIcon, QKeySequence
from PySide6.QtWidgets import QApplication, QFileDialog, QMenu, QMessageBox, QStackedWidget, QVBoxLayout, QWidget

from grainet.desk.bring_in import BringIn
from grainet.desk.controls import arrow_step_mm, count_of
from grainet.desk.first_start import FirstStart
from grainet.desk.head_band import HeadBand
from grainet.desk.kit_book import KitBook
from grainet.desk.lay_out import LayOut
from grainet.desk.look_over import LookOver
from grainet.desk.put_back import PutBack
from grainet.desk.rack_band import RackBand
from grainet.desk.rail import STOPS, Rail
from grainet.desk.ruler_band import RulerBand
from grainet.desk.saw_and_wait import SawAndWait
from grainet.desk.state import State
from grainet.desk.tokens import font, palette
from grainet.desk.worker_client import WorkerClient
from grainet.session.shop import Shop
from grainet.wood.units import LENGTH_STYLES
from grainet.wood.value import BadEntry

GUIDE = """<h3>The way of one board</h3>
<p><b>F2 Bring in</b>: type figures into the tape line: <b>760</b> moves the plumb, <b>t 52.4</b> is a thickness there, <b>w 231</b> a width,
<b>e 148 186</b> live edges, <b>kg 31.4</b>, <b>mc 8.4</b>, <b>k 24x18</b> a knot; <b>?</b> lists all words. Or press what is dashed.</p>
<p><b>F3 Look over</b>: lanes say what each stretch gives. Up and down pick a lane; the rack answers for it.</p>
<p><b>F4 Lay out</b>: drag a part on the board, plan the build over the whole rack (Ctrl+Enter), then Saw it (S).</p>
<p><b>F5 Saw and wait</b>: tick the cuts (Space or Ctrl+Enter); Ctrl+P prints the list and the true-size map.</p>
<p><b>F6 Put back</b>: offcuts come back to the rack; type their shelf: <b>at C3</b>.</p>
<p>PgUp and PgDn change the piece, arrows move the plumb, Tab steps through everything, Ctrl+Z and Ctrl+Shift+Z undo and redo,
F8 is the kit book, F9 changes light and dark, F10 lists every action.</p>
<p>Weight, strength and moisture figures are estimates. A listed cut is not a safe cut: follow manuals, local codes and trained practice.</p>"""


class Window(QWidget):
    """Grainet's one window."""

    def __init__(self, shop: Shop, open_shop=None) -> None:  # type: ignore[no-untyped-def]
        super().__init__()
        self.state = State(shop)
        self.worker = WorkerClient()
        self.open_shop = open_shop
        name = shop.kit.name + (" (read only: open in another window)" if shop.file.read_only else "")
        self.setWindowTitle(f"Grainet: {name}")
        self.setObjectName("window")
        self.setMinimumSize(1024, 700)
        self.resize(1280, 800)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._bands()
        self._actions()
        self.state.changed.connect(self.refresh)
        QGuiApplication.styleHints().colorSchemeChanged.connect(lambda _: self.refresh())
        self.show_screen("bring_in" if not shop.pieces() else "look_over")
        self.setFocus()
        QTimer.singleShot(20, self.state.begin)
        QTimer.singleShot(600, self.worker.start)

    # building -----------------------------------------------------------------------------------------------------
    def _bands(self) -> None:
        state = self.state
        self.rack, self.head, self.ruler, self.rail = RackBand(state), HeadBand(state), RulerBand(state), Rail(state)
        self.first_start = FirstStart(state, self.bring_list, lambda: self.open_shop and self.open_shop("demo"))
        self.screens: dict[str, QWidget] = {
            "bring_in": BringIn(state), "look_over": LookOver(state), "lay_out": LayOut(state, self.worker), "saw_and_wait": SawAndWait(state),
            "put_back": PutBack(state), "kit_book": KitBook(state), "first_start": self.first_start,
        }  # fmt: skip
        self.work = QStackedWidget()
        self.work.setObjectName("work")
        for screen in self.screens.values():
            self.work.addWidget(screen)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        for band in (self.rack, self.head, self.ruler):
            column.addWidget(band)
        column.addWidget(self.work, 1)
        column.addWidget(self.rail)
        for name, stop in self.rail.stops.items():
            stop.clicked.connect(lambda _=False, n=name: self.show_screen(n))

    def _actions(self) -> None:
        rows = [(label, key, lambda s=screen: self.show_screen(s)) for screen, key, label in STOPS]
        rows += [
            ("Kit book", "F8", lambda: self.show_screen("kit_book")), ("Guide", "F1", self.show_guide), ("Light or dark", "F9", self.switch_light),
            ("All actions", "F10", self.show_menu), ("New piece", "Ctrl+N", self._new_piece), ("Ask the rack", "Ctrl+F", self.rack.question.click),
            ("Do the chalk action", "Ctrl+Return", self.chalk_action), ("Undo", "Ctrl+Z", self.state.undo), ("Redo", "Ctrl+Shift+Z", lambda: self.state.undo(forward=True)),
            ("Bring in a list", "Ctrl+O", self.bring_list), ("Write the stock to a file", "Ctrl+E", self.write_list), ("Print the cut map", "Ctrl+P", self._print),
            ("Open another shop", "Ctrl+Shift+O", lambda: self.open_shop and self.open_shop("choose")), ("Change how lengths are shown", "Ctrl+L", self.next_length_style),
            ("Next piece", "PgDown", lambda: self.state.step_piece(1)), ("Piece before", "PgUp", lambda: self.state.step_piece(-1)),
        ]  # fmt: skip
        self.actions_list: list[QAction] = []
        for label, key, act in rows:
            action = QAction(f"{label}", self)
            action.setShortcuts([QKeySequence(key)] + ([QKeySequence("Ctrl+Enter")] if key == "Ctrl+Return" else []))
            action.setToolTip(f"{label} ({key})")
            action.triggered.connect(lambda _=False, act=act: act())
            self.addAction(action)
            self.actions_list.append(action)

    # screens ------------------------------------------------------------------------------------------------------
    def show_screen(self, name: str) -> None:
        """Show a screen; an empty shop's Bring in is the first start."""
        self.state.screen = name
        if name == "bring_in" and not self.state.shop.pieces():
            name = "first_start"
        self.work.setCurrentWidget(self.screens[name])
        self.rail.show_screen(self.state.screen)
        self.refresh()

    def refresh(self) -> None:
        theme = self.state.theme
        made = palette(theme)
        if QApplication.instance() is not None and self.palette() != made:
            self.setPalette(made)
            QApplication.setPalette(made)
        if self.state.screen == "bring_in":
            wanted = self.screens["bring_in" if self.state.shop.pieces() else "first_start"]
            if self.work.currentWidget() is not wanted:
                self.work.setCurrentWidget(wanted)
        self._axis()
        self._rail_lines()
        for band in (self.rack, self.head, self.ruler, self.rail):
            band.update()
        for stop in self.rail.stops.values():
            stop.update()

    def _axis(self) -> None:
        screen = self.work.currentWidget()
        if hasattr(screen, "set_axis"):
            axis = screen.axis(self.width(), self.work.height())
            self.ruler.axis = axis
            screen.set_axis(axis)
        self.ruler.setVisible(hasattr(screen, "set_axis"))

    def _rail_lines(self) -> None:
        from grainet.desk.bring_in import tasks_of

        shop, stops = self.state.shop, self.rail.stops
        pieces = shop.pieces()
        piece = self.state.piece
        unread = len(tasks_of(piece, shop.kit.pin_depth_mm)) if piece else 0
        stops["bring_in"].say(
            f"No. {piece.id}, {unread} not read" if piece and unread else f"No. {piece.id}, all read" if piece else "start here",
            bool(unread) or piece is None,
        )
        stops["look_over"].say(
            f"No. {piece.id}, {count_of(len(piece.defects), 'trouble')}" if piece else "after the first piece", False
        )
        laid = shop.all_laid()
        design = self.state.design
        fresh = self.screens["lay_out"].fresh  # type: ignore[attr-defined]
        planned = design is not None and fresh is not None and fresh[0].builds[0].id == design.id
        said = (
            f"{design.name}: planned, press Saw it"
            if planned
            else f"{design.name}: laid out"
            if design and shop.laid(design.id)
            else f"{design.name}: not planned"
            if design
            else "no build yet"
        )
        stops["lay_out"].say(said, bool(design) and not shop.laid(design.id))  # type: ignore[union-attr]
        left = sum(1 for one in laid for b in one.boards for n in one.cuts_of(b) if n not in one.done)
        waits = len(self.screens["saw_and_wait"].waits())  # type: ignore[attr-defined]
        stops["saw_and_wait"].say(
            f"{left} cuts to make, {waits} waiting"
            if laid
            else f"nothing laid out, {waits} waiting"
            if pieces
            else "nothing laid out",
            left > 0,
        )
        loose = sum(1 for p in pieces if p.parent and not p.place)
        stops["put_back"].say(f"{count_of(loose, 'offcut')} to shelve" if loose else "nothing to put back", loose > 0)

    # actions ------------------------------------------------------------------------------------------------------
    def chalk_action(self) -> None:
        screen = self.work.currentWidget()
        if hasattr(screen, "chalk_action"):
            screen.chalk_action()

    def _new_piece(self) -> None:
        self.show_screen("bring_in")
        self.state.new_piece()
        self.state.tape_wanted.emit("l ")

    def _print(self) -> None:
        self.screens["saw_and_wait"].print_map()  # type: ignore[attr-defined]

    def next_length_style(self) -> None:
        """The next way of showing lengths; nothing stored changes."""
        kit = self.state.shop.kit
        at = LENGTH_STYLES.index(kit.length_style)
        self.state.keep("how lengths are shown", kit.changed(length_style=LENGTH_STYLES[(at + 1) % len(LENGTH_STYLES)]))

    def switch_light(self) -> None:
        """Light, dark, or what the desktop has."""
        kit = self.state.shop.kit
        order = ("light", "dark", "desktop")
        new = order[(order.index(kit.theme) + 1) % 3]
        self.state.keep(f"{new} colours", kit.changed(theme=new))
        self.state.said.emit(f"colours: {new}", False)

    def show_menu(self) -> None:
        menu = QMenu(self)
        menu.setObjectName("menu.all")
        for action in self.actions_list:
            menu.addAction(action)
        menu.popup(self.mapToGlobal(self.rail.geometry().topLeft()))

    def show_guide(self) -> None:
        box = QMessageBox(self)
        box.setWindowTitle("Guide")
        box.setObjectName("guide")
        box.setTextFormat(Qt.TextFormat.RichText)
        box.setText(GUIDE)
        box.setStandardButtons(QMessageBox.StandardButton.Close)
        box.open()

    def bring_list(self, path: str | None = None) -> None:
        """Bring in a stock list; faults are named row by row and nothing of it is taken then."""
        from grainet.exchange.json_file import Unusable
        from grainet.exchange.stock import read_stock

        if not path:
            path, _ = QFileDialog.getOpenFileName(self, "A stock list", "", "Stock (*.json *.csv)")
        if not path:
            return
        try:
            count = self.state.shop.bring_in_stock(read_stock(Path(path)))
        except Unusable as fault:
            self._show_faults(fault.lines)
            return
        self.state.said.emit(f"{count} pieces brought in", False)
        if self.state.piece is None and self.state.shop.pieces():
            self.state.choose_piece(self.state.shop.pieces()[0].id)

    def _show_faults(self, lines: list[str]) -> None:
        box = QMessageBox(self)
        box.setWindowTitle("Nothing was brought in")
        box.setText("\n".join(lines[:20]) + (f"\nand {len(lines) - 20} more" if len(lines) > 20 else ""))
        box.open()

    def write_list(self, path: str | None = None) -> None:
        from grainet.exchange.json_file import Unusable
        from grainet.exchange.stock import write_stock

        if not path:
            path, _ = QFileDialog.getSaveFileName(self, "Write the stock", "stock.json", "Stock (*.json *.csv)")
        if not path:
            return
        try:
            write_stock(Path(path), self.state.shop.pieces())
        except Unusable as fault:
            self.state.said.emit(str(fault), True)
            return
        self.state.said.emit(f"the stock is in {Path(path).name}", False)

    # keys ---------------------------------------------------------------------------------------------------------
    def keyPressEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        """What no control took: a taken mark first, then plumb, lanes, tape line."""
        if self._move_mark(event) or self._plain_key(event):
            return
        text = event.text()
        if (
            text
            and text.isprintable()
            and not text.isspace()
            and not event.modifiers() & (Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier)
        ):
            self.head.open_with(text)
            return
        super().keyPressEvent(event)

    def _plain_key(self, event) -> bool:  # type: ignore[no-untyped-def]
        key, screen = event.key(), self.work.currentWidget()
        step = arrow_step_mm(event)
        if key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self.state.move_plumb(self.state.plumb_mm + (step if key == Qt.Key.Key_Right else -step))
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down) and hasattr(screen, "step_lane"):
            screen.step_lane(1 if key == Qt.Key.Key_Down else -1)
        elif key == Qt.Key.Key_Slash:
            self.show_screen("look_over" if self.state.screen != "look_over" else "bring_in")
        elif key == Qt.Key.Key_S and self.state.screen == "lay_out":
            self.screens["lay_out"].keep_plan()  # type: ignore[attr-defined]
        elif key == Qt.Key.Key_Escape and isinstance(screen, BringIn):
            screen.let_go()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and isinstance(screen, BringIn) and screen.board.close_polygon():
            pass
        else:
            return False
        return True

    def _move_mark(self, event) -> bool:  # type: ignore[no-untyped-def]
        """Arrows move a taken mark 10 mm (Shift 100, Ctrl 1), Del removes it, Esc and Enter let it go."""
        piece, tag = self.state.piece, self.state.chosen_tag
        defect = next((d for d in piece.defects if d.id == tag), None) if piece else None
        if piece is None or defect is None:
            return False
        key = event.key()
        step = arrow_step_mm(event)
        moves = {Qt.Key.Key_Left: (-step, 0), Qt.Key.Key_Right: (step, 0), Qt.Key.Key_Up: (0, step), Qt.Key.Key_Down: (0, -step)}
        if key in (Qt.Key.Key_Escape, Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.state.choose_tag(None)
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self.state.choose_tag(None)
            self.state.keep(f"{defect.id} taken away", piece.changed(defects=tuple(d for d in piece.defects if d.id != tag)))
        elif key in moves:
            dx, dy = moves[key]
            moved = defect.changed(polygon=tuple((x + dx, y + dy) for x, y in defect.polygon))
            try:
                self._on_piece(piece, moved)
            except BadEntry as fault:
                self.state.said.emit(str(fault), True)
                return True
            self.state.keep(
                f"{defect.id} moved", piece.changed(defects=tuple(moved if d.id == tag else d for d in piece.defects))
            )
        else:
            return False
        return True

    def _on_piece(self, piece, defect) -> None:  # type: ignore[no-untyped-def]
        x0, y0, x1, y1 = piece.extents
        xs, ys = zip(*defect.polygon)
        if max(xs) < x0 or min(xs) > x1 or max(ys) < y0 or min(ys) > y1:
            raise BadEntry(f"{defect.id} would lie off the piece; it stays where it was.")

    # events -------------------------------------------------------------------------------------------------------
    def resizeEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        super().resizeEvent(event)
        QTimer.singleShot(0, self.refresh)

    def changeEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        super().changeEvent(event)
        if event.type() == QEvent.Type.ActivationChange:
            self.update()

    def closeEvent(self, event) -> None:  # type: ignore[no-untyped-def]
        self.worker.stop()
        self.state.background.pool.clear()
        self.state.background.wait(3000)
        self.state.shop.close()
        super().closeEvent(event)


def app_icon() -> QIcon:
    """The drawn mark: the end of a board with its rings."""
    from importlib.resources import files

    return QIcon(str(files("grainet.data") / "grainet.svg"))


def prepare(app: QApplication) -> None:
    """Fonts and style, once per program."""
    from grainet.desk.tokens import load_fonts

    load_fonts()
    app.setStyle("Fusion")
    app.setFont(font(14))
