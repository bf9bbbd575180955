"""The window: rack, head, ruler, work and rail, the keys that work everywhere, and the menu of every action."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QEvent, Qt, QTimer
from PySide6.QtGui import QAction, QGuiApplication, QIcon, QKeySequence
from PySide6.QtWidgets import QApplication, QFileDialog, QMenu, QMessageBox, QStackedWidget, QVBoxLayout, QWidget

from grainet.desk.board import moved_ring
from grainet.desk.controls import arrow_step_mm, count_of
from grainet.desk.head_band import HeadBand
from grainet.desk.rack_band import RackBand
from grainet.desk.rail import STOPS, Rail
from grainet.desk.ruler_band import RulerBand
from grainet.desk.state import State
from grainet.desk.tokens import font, palette
from grainet.desk.worker_client import WorkerClient
from grainet.exchange.json_file import Unusable
from grainet.session.shop import Shop
from grainet.wood.units import LENGTH_STYLES

if TYPE_CHECKING:
    from grainet.desk.bring_in import BringIn
    from grainet.desk.photo_screen import PhotoScreen
    from grainet.desk.stock_list import StockList

GUIDE = """<h3>The way of one board</h3>
<p><b>F2 Bring in</b>: type figures into the tape line: <b>760</b> moves the plumb, <b>t 52.4</b> is a thickness there, <b>w 231</b> a width,
<b>e 148 186</b> live edges, <b>kg 31.4</b>, <b>mc 8.4</b>, <b>k 24x18</b> a knot; <b>?</b> lists all words. Or press what is dashed.</p>
<p><b>F3 Look over</b>: lanes say what each stretch gives. Up and down pick a lane; the rack answers for it.</p>
<p><b>F4 Lay out</b>: drag a part on the board, plan the build over the whole rack (Ctrl+Enter), then Saw it (S).</p>
<p><b>F5 Saw and wait</b>: tick the cuts (Space or Ctrl+Enter); Ctrl+P prints the list and the true-size map.</p>
<p><b>F6 Put back</b>: offcuts come back to the rack; type their shelf: <b>at C3</b>.</p>
<p>At the bench: <b>F7</b> reads the instrument that is wanted next, <b>#18</b> (or a scanned label) opens a piece, <b>part 700x90</b> says what
flattening would leave of a part, <b>/</b> rolls the board over, photos are made true from four corners and points on the edges.</p>
<p><b>F11 Sort the rack</b>: what is fit for a use, best first, and why not the others; wood by size; the stash; claims; suppliers.
<b>F12 Plots</b>: settling, weighings, movement, air, density, the whole rack. <b>F8 Kit book</b>: machines, glues, meters, house rules, what
uses want, species, the brief. <b>Ctrl+U</b> in Look over lists every rule, <b>Ctrl+G</b> in Lay out what to mind.</p>
<p>PgUp and PgDn change the piece, arrows move the plumb, Tab steps through everything, Ctrl+Z and Ctrl+Shift+Z undo and redo,
F8 is the kit book, F9 changes light and dark, F10 lists every action.</p>
<p>Weight, strength and moisture figures are estimates. A listed cut is not a safe cut: follow manuals, local codes and trained practice.</p>"""


def _plain_screen(name: str):  # type: ignore[no-untyped-def]
    """The class of a screen that wants nothing but the window's state."""
    from importlib import import_module

    classes = {
        "saw_and_wait": "SawAndWait", "put_back": "PutBack", "kit_book": "KitBook", "photo_screen": "PhotoScreen", "stock_list": "StockList",
        "plots": "Plots", "sort_rack": "SortRack",
    }  # fmt: skip
    module = "photo_screen" if name == "photo" else name
    return getattr(import_module(f"grainet.desk.{module}"), classes[module])


class Screens(dict[str, QWidget]):
    """The window's screens by name; one that is asked for and not there yet is made."""

    def __init__(self, make: Callable[[str], QWidget]) -> None:
        super().__init__()
        self.make = make

    def __missing__(self, name: str) -> QWidget:
        self[name] = self.make(name)
        return self[name]


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
        self.state.screen_wanted.connect(self.show_screen)
        QGuiApplication.styleHints().colorSchemeChanged.connect(lambda _: self.refresh())
        self.show_screen("bring_in" if not shop.pieces() else "look_over")
        self.setFocus()
        QTimer.singleShot(20, self.state.begin)
        QTimer.singleShot(40, self._make_the_rest)
        QTimer.singleShot(600, self.worker.start)

    # building -----------------------------------------------------------------------------------------------------
    def _bands(self) -> None:
        state = self.state
        self.rack, self.head, self.ruler, self.rail = RackBand(state), HeadBand(state), RulerBand(state), Rail(state)
        self.screens = Screens(self._make_screen)
        self.work = QStackedWidget()
        self.work.setObjectName("work")
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        for band in (self.rack, self.head, self.ruler):
            column.addWidget(band)
        column.addWidget(self.work, 1)
        column.addWidget(self.rail)
        for name, stop in self.rail.stops.items():
            stop.clicked.connect(lambda _=False, n=name: self.show_screen(n))
        self.rail.more.clicked.connect(self.show_menu)

    def _actions(self) -> None:
        rows = [(label, key, lambda s=screen: self.show_screen(s)) for screen, key, label in STOPS]
        rows += [
            ("Sort the rack", "F11", lambda: self.show_screen("sort_rack")), ("Plots", "F12", lambda: self.show_screen("plots")),
            ("Kit book", "F8", lambda: self.show_screen("kit_book")), ("Guide", "F1", self.show_guide), ("Light or dark", "F9", self.switch_light),
            ("All actions", "F10", self.show_menu), ("New piece", "Ctrl+N", self._new_piece), ("Ask the rack", "Ctrl+F", lambda: self.state.tape_wanted.emit("ask ")),
            ("Read an instrument", "F7", lambda: self.bring_in.bench.read_next()), ("Photograph a side", "Ctrl+Shift+F", lambda: self._open_photos()),
            ("Print a label", "Ctrl+Shift+L", lambda: self.print_labels(False)), ("Print a sheet of labels", "Ctrl+Alt+L", lambda: self.print_labels(True)),
            ("Roll the board", "Ctrl+R", self.state.roll), ("Try a part", "Ctrl+T", lambda: self._try_part()), ("Every rule", "Ctrl+U", self._show_rules),
            ("What to mind of the plan", "Ctrl+G", lambda: self.screens["lay_out"].show_minds()),  # type: ignore[attr-defined]
            ("Do the chalk action", "Ctrl+Return", self.chalk_action), ("Undo", "Ctrl+Z", self.state.undo), ("Redo", "Ctrl+Shift+Z", lambda: self.state.undo(forward=True)),
            ("Bring in a list", "Ctrl+O", self.bring_list), ("Write the stock to a file", "Ctrl+E", self.write_list), ("Print", "Ctrl+P", self._print), ("Save the plot as a file", "Ctrl+S", self._save),
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

    def _make_screen(self, name: str) -> QWidget:
        """A screen, made and brought into the window when first asked for: the first paint waits for one only."""
        state = self.state
        screen: Any
        if name == "bring_in":
            from grainet.desk.bring_in import BringIn

            screen = BringIn(state)
            screen.photo_wanted.connect(self.bring_photo)
            screen.label_wanted.connect(self.print_labels)
        elif name == "look_over":
            from grainet.desk.look_over import LookOver

            screen = LookOver(state)
        elif name == "lay_out":
            from grainet.desk.lay_out import LayOut

            screen = LayOut(state, self.worker)
        elif name == "first_start":
            from grainet.desk.first_start import FirstStart

            screen = FirstStart(state, self.bring_list, lambda: self.open_shop and self.open_shop("demo"))
        else:
            screen = _plain_screen(name)(state)
        if hasattr(screen, "finished"):
            screen.finished.connect(lambda: self.show_screen("bring_in"))
        self.work.addWidget(screen)
        return screen  # type: ignore[no-any-return]

    def _make_the_rest(self) -> None:
        """After the first paint: the screens that the rail speaks of."""
        for name, _key, _label in STOPS:
            self.screens[name]
        self.refresh()

    @property
    def bring_in(self) -> BringIn:
        """Bring in; the other screens that are spoken to by name follow."""
        return self.screens["bring_in"]  # type: ignore[return-value]

    @property
    def photo(self) -> PhotoScreen:
        return self.screens["photo"]  # type: ignore[return-value]

    @property
    def stock_list(self) -> StockList:
        return self.screens["stock_list"]  # type: ignore[return-value]

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
        from grainet.session.take_in import tasks_of

        shop, stops = self.state.shop, self.rail.stops
        pieces = shop.pieces()
        piece = self.state.piece
        unread = len(tasks_of(piece, shop.kit.pin_depth_mm, shop.facts(piece.id).question)) if piece else 0
        stops["bring_in"].say(
            f"No. {piece.id}, {unread} not read" if piece and unread else f"No. {piece.id}, all read" if piece else "start here",
            bool(unread) or piece is None,
        )
        stops["look_over"].say(
            f"No. {piece.id}, {count_of(len(piece.defects), 'trouble')}" if piece else "after the first piece", False
        )
        laid = shop.all_laid()
        design = self.state.design
        fresh = getattr(self.screens.get("lay_out"), "fresh", None)
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
        saw: Any = self.screens.get("saw_and_wait")
        waits = len(saw.waits()) if saw is not None else 0
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
        self.state.tape_wanted.emit("")  # a bare figure is its length; plank 2390x231x52 ash is all at once

    def _print(self) -> None:
        """Print what the screen in front has to print; the cut map otherwise."""
        screen = self.work.currentWidget()
        (screen if hasattr(screen, "print_map") else self.screens["saw_and_wait"]).print_map()  # type: ignore[union-attr,attr-defined]

    def _show_rules(self) -> None:
        if self.state.screen != "look_over":
            self.show_screen("look_over")
            self.screens["look_over"].show_rules(True)  # type: ignore[attr-defined]
        else:
            self.screens["look_over"].show_rules()  # type: ignore[attr-defined]

    def show_kit_page(self, name: str) -> None:
        """Open the kit book at one of its pages."""
        self.show_screen("kit_book")
        self.screens["kit_book"].show_page(name)  # type: ignore[attr-defined]

    def _save(self) -> None:
        screen = self.work.currentWidget()
        if hasattr(screen, "save_as"):
            screen.save_as()
        else:
            self.state.said.emit(
                "everything is kept already; plots (F12) and lists (Ctrl+E) are what can be saved as a file", False
            )

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
        more = self.rail.more
        menu.popup(more.mapToGlobal(more.rect().topRight()) - menu.rect().bottomRight())

    def show_guide(self) -> None:
        box = QMessageBox(self)
        box.setWindowTitle("Guide")
        box.setObjectName("guide")
        box.setTextFormat(Qt.TextFormat.RichText)
        box.setText(GUIDE)
        box.setStandardButtons(QMessageBox.StandardButton.Close)
        box.open()

    def _open_photos(self) -> None:
        self.show_screen("bring_in")
        self.bring_in.menus.photos()

    def _try_part(self) -> None:
        self.show_screen("bring_in")
        self.bring_in.try_part(not self.bring_in.board.part_mode)

    def bring_photo(self, side: str, how: str, path: str | None = None) -> None:
        """Open a photo of a side: from the camera, a file, or the one that was kept."""
        from grainet.exchange.picture_file import encode, read_picture_bytes
        from grainet.store.photos import read_photo

        piece = self.state.piece
        if piece is None:
            return
        again = piece.photo(side) if how == "again" else None
        if how == "file" and not path:
            path, _ = QFileDialog.getOpenFileName(self, "A photo", "", "Pictures (*.png *.jpg *.jpeg)")
            if not path:
                return
        camera = self.bring_in.bench.stand_in("camera")

        def read() -> bytes:
            from grainet.instruments.camera import take_photo

            if again is not None:
                try:
                    return read_photo(self.state.shop.file.folder, again.sha)
                except OSError as fault:
                    raise Unusable([f"the original of this photo is gone: {fault.strerror}"]) from None
            if how == "camera":
                return encode(take_photo(camera, piece, side)[0])
            return read_picture_bytes(Path(path or ""))

        photo = self.photo
        self.show_screen("photo")
        photo.load(side, read, again)

    def print_labels(self, sheet: bool, path: str | None = None) -> None:
        """Labels as PDF: the piece in hand on a page of its own, or every piece that has none yet on sheets."""
        from grainet.exchange.labels import LabelSheet, write_labels

        pieces = self.state.shop.pieces()
        chosen = [p for p in pieces if not p.label_printed] or pieces
        if not sheet:
            chosen = [self.state.piece] if self.state.piece is not None else []
        if not chosen:
            self.state.said.emit("nothing to label yet", False)
            return
        if not path:
            name = "labels.pdf" if sheet else f"label-{chosen[0].id}.pdf"
            path, _ = QFileDialog.getSaveFileName(self, "Labels as PDF", name, "PDF (*.pdf)")
        if not path:
            return
        try:
            pages = write_labels(Path(path), chosen, LabelSheet() if sheet else None, style=self.state.shop.kit.length_style)
        except (Unusable, ValueError) as fault:
            self.state.said.emit(str(fault), True)
            return
        fresh = [p.changed(label_printed=True) for p in chosen if not p.label_printed]
        if fresh:
            self.state.keep(f"{len(fresh)} labels printed", *fresh)
        self.state.said.emit(f"{count_of(len(chosen), 'label')} on {count_of(pages, 'page')}; print at true size (100 %)", False)

    def bring_list(self, path: str | None = None) -> None:
        """Show row by row what a stock list would do; nothing is stored before it is said so."""
        from grainet.exchange.stock import read_rows
        from grainet.session.bringing_in import preview

        if not path:
            path, _ = QFileDialog.getOpenFileName(self, "A stock list", "", "Stock (*.json *.csv)")
        if not path:
            return
        file = Path(path)

        def work() -> object:
            try:
                return preview(self.state.shop, read_rows(file))
            except Unusable as fault:
                return fault

        self.state.background.start(work, lambda result: self._show_list(file.name, result), 5)

    def _show_list(self, name: str, result: object) -> None:
        if isinstance(result, Unusable):
            self._show_faults(result.lines)
            return
        if not isinstance(result, list):  # it failed, and what happened was said
            return
        shown = self.stock_list
        self.show_screen("stock_list")
        shown.show_rows(name, result)

    def _show_faults(self, lines: list[str]) -> None:
        box = QMessageBox(self)
        box.setWindowTitle("Nothing was brought in")
        box.setObjectName("faults")
        box.setText("\n".join(lines[:20]) + (f"\nand {len(lines) - 20} more" if len(lines) > 20 else ""))
        box.open()

    def write_list(self, path: str | None = None) -> None:
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

    def _taking_in(self) -> bool:
        """Whether Bring in is in view."""
        return self.work.currentWidget() is self.screens.get("bring_in")

    def _plain_key(self, event) -> bool:  # type: ignore[no-untyped-def]
        key, screen = event.key(), self.work.currentWidget()
        step = arrow_step_mm(event)
        if key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            self.state.move_plumb(self.state.plumb_mm + (step if key == Qt.Key.Key_Right else -step))
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down) and hasattr(screen, "step_lane"):
            screen.step_lane(1 if key == Qt.Key.Key_Down else -1)
        elif key == Qt.Key.Key_Slash and self._taking_in():
            self.state.roll()
        elif key == Qt.Key.Key_Slash:
            self.show_screen("look_over" if self.state.screen != "look_over" else "bring_in")
        elif key in (Qt.Key.Key_Home, Qt.Key.Key_End) and self._taking_in():
            screen.step_corner(-1 if key == Qt.Key.Key_Home else 1)
        elif key == Qt.Key.Key_S and self.state.screen == "lay_out":
            self.screens["lay_out"].keep_plan()  # type: ignore[attr-defined]
        elif key == Qt.Key.Key_Escape and self._taking_in():
            screen.let_go()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self._taking_in() and screen.board.close_polygon():
            pass
        else:
            return False
        return True

    def _move_mark(self, event) -> bool:  # type: ignore[no-untyped-def]
        """Arrows move a taken mark, or the corner of it that is taken, 10 mm (Shift 100, Ctrl 1); Del removes it, Esc and Enter
        let it go. A suggested mark is kept by Enter and dropped by Del."""
        piece, tag, key = self.state.piece, self.state.chosen_tag, event.key()
        if piece is None or tag is None:
            return False
        if any(s.id == tag for s in piece.suggestions):
            return self._answer_suggestion(key)
        defect = next((d for d in piece.defects if d.id == tag), None)
        if defect is None:
            return False
        step = arrow_step_mm(event)
        up = 1 if self.state.face_up == "1" or not self._taking_in() else -1
        moves = {
            Qt.Key.Key_Left: (-step, 0),
            Qt.Key.Key_Right: (step, 0),
            Qt.Key.Key_Up: (0, up * step),
            Qt.Key.Key_Down: (0, -up * step),
        }
        if key == Qt.Key.Key_Escape and self.state.chosen_corner is not None:
            self.state.choose_corner(None)
        elif key in (Qt.Key.Key_Escape, Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self.state.choose_tag(None)
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            self.state.choose_tag(None)
            self.state.keep(f"{defect.id} taken away", piece.changed(defects=tuple(d for d in piece.defects if d.id != tag)))
        elif key in moves:
            corner = self.state.chosen_corner
            self.state.reshape_mark(piece, tag, moved_ring(defect.polygon, corner, *moves[key]))
        else:
            return False
        return True

    def _answer_suggestion(self, key: int) -> bool:
        card = self.bring_in.card
        if key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            card.keep.click()
        elif key in (Qt.Key.Key_Delete, Qt.Key.Key_Backspace):
            card.wrong.click()
        elif key == Qt.Key.Key_Escape:
            self.state.choose_tag(None)
        else:
            return False
        return True

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
