"""The window: rack, head, ruler, work and rail, the keys that work everywhere, and the menu of every action."""

from __future__ import annotations

import sys
from collections.abc import Callable
from functools import cached_property
from pathlib import Path
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QEvent, QSize, Qt, QTimer
from PySide6.QtGui import QCloseEvent, QGuiApplication, QIcon, QKeyEvent, QResizeEvent
from PySide6.QtWidgets import QAbstractButton, QApplication, QHBoxLayout, QMessageBox, QStackedWidget, QVBoxLayout, QWidget
from typing_extensions import override

from grainet.desk.actions import ActionsPanel, made_for
from grainet.desk.bands.clamps import ClampsBand
from grainet.desk.bands.head import HeadBand
from grainet.desk.bands.notice import NoticeBand
from grainet.desk.bands.rack import RackBand
from grainet.desk.bands.rail import Rail
from grainet.desk.bands.ruler import RulerBand
from grainet.desk.bands.tape_panel import TapePanel
from grainet.desk.painting.tokens import CLAMPS_SHOW_FROM, RACK_SHOWS_FROM, font, palette, theme_for
from grainet.desk.screens.screen import Desk, Screen
from grainet.desk.screens.table import SCREENS, STATIONS
from grainet.desk.services.dialogs import file_to_read, file_to_write, give_keys_back
from grainet.desk.services.planner_process import WorkerClient
from grainet.desk.services.planning import Planning
from grainet.desk.services.text_size import SIZES_PCT, keep_text_size, next_size_pct, text_size_pct
from grainet.desk.view_state import State
from grainet.desk.widgets.controls import arrow_step_mm, count_of
from grainet.desk.widgets.scroll import ScrollsWhenSmall, bar_apart
from grainet.exchange.json_file import Unusable
from grainet.present.ring_edit import moved_ring
from grainet.present.stations import station_lines
from grainet.session.shop import Shop
from grainet.store.archive import Packed
from grainet.store.shop_file import ShopUnusable
from grainet.wood.units import LENGTH_STYLES

if TYPE_CHECKING:
    from grainet.desk.bands.wall import WallBand
    from grainet.desk.screens.bench.screen import Bench
    from grainet.desk.screens.bring_in.screen import BringIn
    from grainet.desk.screens.lay_out.screen import LayOut
    from grainet.desk.screens.look_over.screen import LookOver
    from grainet.desk.screens.match.screen import Match
    from grainet.desk.screens.photo.screen import PhotoScreen
    from grainet.desk.screens.stock_list.screen import StockList
    from grainet.job.answer import Plan
    from grainet.job.job import Job


def _read_modules(names: list[str]) -> None:
    """Read the program text of screens off the window's thread: what they stand on takes a while."""
    for name in names:
        SCREENS[name].load()


OPENS_AT = (1280, 800)
NEEDS = (960, 430)  # px that the window across and a screen down want; below that they scroll
FRAME = (2, 40)  # a usual title bar and its rim, where nobody has told yet


def _words_anywhere() -> list[tuple[str, str, str]]:
    """What may be typed on every screen beside the words about wood; read when first asked for."""
    from grainet.session.learning_words import TYPED

    return TYPED


class Screens(dict[str, Screen]):
    """The window's screens by name; one that is asked for and not there yet is made."""

    def __init__(self, make: Callable[[str], Screen]) -> None:
        super().__init__()
        self.make = make

    def __missing__(self, name: str) -> Screen:
        self[name] = self.make(name)
        return self[name]


class Window(QWidget):
    """Grainet's one window."""

    state: State
    open_shop: Callable[[str], None] | None
    PLANNER_AFTER_MS = 600  # the planner is started in peace once the window stands

    def __init__(
        self, shop: Shop, open_shop: Callable[[str], None] | None = None, start_again: Callable[[list[str]], None] | None = None
    ) -> None:
        super().__init__()
        self.start_again = start_again
        self.state = State(shop)
        self.state.words_here = lambda: [*self.in_front.typed_here(), *_words_anywhere()]
        self.state.setParent(self)  # it goes with the window, and with it all that is connected to it
        self.worker = WorkerClient()
        self.worker.setParent(self)
        self.planning = Planning(self.state, self.worker)
        self.planning.setParent(self)
        self.desk = Desk(
            self.state, self.worker, self.planning, self.bring_photo, self.print_labels, self.bring_list,
            lambda: self.open_shop("demo") if self.open_shop else None, lambda: self.bring_in.bench.stand_in("camera"),
        )  # fmt: skip
        self.actions_panel: ActionsPanel | None = None
        self.bench: Bench | None = None
        self.before = "look_over"  # the screen that the guide was opened from
        self.open_shop = open_shop
        name = shop.kit.name + (f" (to be read only: {shop.file.read_only_because})" if shop.file.read_only else "")
        self.setWindowTitle(f"Grainet: {name}")
        self.setObjectName("window")
        self.setMinimumSize(480, 360)
        self.resize(self._free_size())
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self._bands()
        self.actions_by_row = made_for(self)
        self.state.changed.connect(self.refresh)
        self.state.screen_wanted.connect(self.show_screen)
        self.state.plan_wanted.connect(self.plan)
        self.state.plan_in_hand.connect(self.show_plan)
        self.state.bench_wanted.connect(self.open_bench)
        self.state.top_changed.connect(self._show_top)
        QGuiApplication.styleHints().colorSchemeChanged.connect(self.refresh)
        self.show_screen("bring_in" if not shop.pieces() else "look_over")
        self.setFocus()
        QTimer.singleShot(20, self.state.begin)
        QTimer.singleShot(40, self._make_the_rest)
        QTimer.singleShot(self.PLANNER_AFTER_MS, self.worker.start)

    def _free_size(self) -> QSize:
        """1280 x 800, or what the screen has free once a title bar and the desktop's own bars have theirs."""
        screen = self.screen() or QGuiApplication.primaryScreen()
        if screen is None:
            return QSize(*OPENS_AT)
        free = screen.availableGeometry().size() - QSize(*FRAME)
        if QGuiApplication.platformName() in ("offscreen", "minimal"):
            free = QSize(*OPENS_AT)
        return QSize(min(OPENS_AT[0], max(480, free.width())), min(OPENS_AT[1], max(360, free.height())))

    # building -----------------------------------------------------------------------------------------------------
    def _bands(self) -> None:
        state = self.state
        self.clamps = ClampsBand(state)
        self.rack, self.head, self.ruler, self.rail = RackBand(state), HeadBand(state), RulerBand(state), Rail(state)
        self.screens = Screens(self._make_screen)
        self.work = QStackedWidget()
        self.work.setObjectName("work")
        self.body = QWidget()
        whole, column = QHBoxLayout(self), QVBoxLayout(self.body)
        self.column = column
        for one in (whole, column):
            one.setContentsMargins(0, 0, 0, 0)
            one.setSpacing(0)
        whole.addWidget(ScrollsWhenSmall(self.body, least_width=NEEDS[0]))
        self.notice = NoticeBand(state)
        self.notice.save_wanted.connect(lambda: self.save_elsewhere())
        self.notice.aside_wanted.connect(lambda: self.show_screen("aside"))
        for band in (self.clamps, self.rack, self.head, self.notice, self.ruler):
            column.addWidget(band)
        self.panel = TapePanel(state, self)
        self.head.use_panel(self.panel)
        scrolled = ScrollsWhenSmall(self.work, least_height=NEEDS[1])
        column.addWidget(scrolled, 1)
        whole.addWidget(bar_apart(scrolled))
        column.addWidget(self.rail)
        for name, stop in self.rail.stops.items():
            stop.clicked.connect(lambda _=False, n=name: self.show_screen(n))
        self.rail.more.clicked.connect(self.show_actions)

    def _make_screen(self, name: str) -> Screen:
        """A screen, made and brought into the window when first asked for: the first paint waits for one only."""
        screen = SCREENS[name].load().made(self.desk)
        screen.finished.connect(lambda: self.show_screen("bring_in"))
        if name == "bring_in":
            screen.bench.devices_wanted.connect(lambda: self.show_kit_page("devices"))
        self.work.addWidget(screen)
        return screen

    def _make_the_rest(self) -> None:
        """After the first paint: the screens that the rail speaks of, one at a time; what they are made of is read off the thread."""
        names = [row.name for row in STATIONS]
        self.state.background.start(lambda: _read_modules(names), lambda _: self._make_next(names), 5)

    def _make_next(self, names: list[str]) -> None:
        name, *rest = names
        self.screens[name]
        if rest:
            QTimer.singleShot(0, lambda: self._make_next(rest))
        else:
            self.refresh()

    @property
    def bring_in(self) -> BringIn:
        """Bring in; the other screens that are spoken to by name follow."""
        return self.screens["bring_in"]  # type: ignore[return-value]

    @property
    def in_front(self) -> Screen:
        """The screen in front."""
        shown = self.work.currentWidget()
        assert isinstance(shown, Screen)
        return shown

    @property
    def look_over(self) -> LookOver:
        """Look over, made when first asked for."""
        return self.screens["look_over"]  # type: ignore[return-value]

    @property
    def lay_out(self) -> LayOut:
        """Lay out."""
        return self.screens["lay_out"]  # type: ignore[return-value]

    @property
    def photo(self) -> PhotoScreen:
        """The photo's screen."""
        return self.screens["photo"]  # type: ignore[return-value]

    @property
    def stock_list(self) -> StockList:
        """The list of stock."""
        return self.screens["stock_list"]  # type: ignore[return-value]

    # screens ------------------------------------------------------------------------------------------------------
    def show_screen(self, name: str) -> None:
        """Show a screen; an empty shop's Bring in is the first start."""
        if name in ("guide", "aside") and self.state.screen not in ("guide", "aside"):
            self.before = self.state.screen
        if not self.head.tape.text():
            self.panel.away()  # what was said on the screen before
            if name != self.state.screen and self.head.tape.hasFocus():
                self.setFocus()  # so that Tab goes to what this screen is about; a letter opens the tape line again
        self.state.screen = name
        if not self.state.drawing:
            self.state.show_preview(None)
        if name == "bring_in" and not self.state.shop.pieces():
            name = "first_start"
        self.work.setCurrentWidget(self.screens[name])
        self.rail.show_screen(self.state.screen)
        self.refresh()
        self.head.read_again()

    def go_to(self, screen: str, pieces: list[str]) -> None:
        """Show a screen with a piece in hand, as far as there are such ones."""
        known = {p.id for p in self.state.shop.pieces()}
        for number in pieces:
            if number in known:
                self.state.choose_piece(number)
        if screen in SCREENS:
            self.show_screen(screen)

    def refresh(self) -> None:
        """Colours, screen in front, axis and rail, after any change."""
        theme = self.state.theme
        made = palette(theme)
        if QApplication.instance() is not None and self.palette() != made:
            self.setPalette(made)
            QApplication.setPalette(made)
        if self.state.screen == "bring_in":
            wanted = self.screens["bring_in" if self.state.shop.pieces() else "first_start"]
            if self.work.currentWidget() is not wanted:
                self.work.setCurrentWidget(wanted)
        self.notice.refresh()
        self._axis()
        self._rail_lines()
        self.rack.refresh()
        self._show_top()
        for band in (self.head, self.ruler, self.rail):
            band.update()
        for stop in self.rail.stops.values():
            stop.update()

    def _show_top(self) -> None:
        """Clamps over Glue, the wall over story and month, the rack over everything else; none where the wood needs the room."""
        told, hung = self.in_front.clamps(), self.in_front.on_the_wall()
        room = self.height() >= RACK_SHOWS_FROM
        self.clamps.setVisible(told is not None and self.height() >= CLAMPS_SHOW_FROM)
        if hung is not None or "wall" in self.__dict__:
            self.wall.setVisible(hung is not None and room)
        self.rack.setVisible(told is None and hung is None and room)
        if told is not None:
            self.clamps.show_clamps(*told)
        if hung is not None:
            self.wall.show_wall(*hung)
        self.head.update()

    @cached_property
    def wall(self) -> WallBand:
        """The wall, made when a screen first hangs it up: it draws instruments, and what they are worked out with loads slowly."""
        from grainet.desk.bands.wall import WallBand

        made = WallBand(self.state)
        made.chosen.connect(self.show_story)
        self.column.insertWidget(0, made)
        return made

    def show_story(self, design: str) -> None:
        """The story of an instrument that was pressed on the wall."""
        story: Any = self.screens["story"]
        story.choose(design)
        self.show_screen("story")

    def _axis(self) -> None:
        screen = self.in_front
        if screen.has_axis:
            axis = screen.axis(self.body.width(), self.work.height())
            self.ruler.axis = axis
            screen.set_axis(axis)
        self.ruler.setVisible(screen.has_axis)

    def _rail_lines(self) -> None:
        """What waits at each station."""
        design, fresh = self.state.design_id, self.planning.fresh
        planned = fresh is not None and bool(fresh[1].placements) and any(b.id == design for b in fresh[0].builds)
        saw: Any = self.screens.get("saw_and_wait")
        waiting = len(saw.waits()) if saw is not None else 0
        pairs = (self.planning.shown(), self.planning.matched_now())
        for name, line in station_lines(
            self.state.shop, self.state.piece, design, *pairs, planned=planned, waiting=waiting
        ).items():
            self.rail.stops[name].say(line.text, waits=line.waits)

    # actions ------------------------------------------------------------------------------------------------------
    def primary_action(self) -> None:
        """What the chalk-filled button of the screen in front does."""
        self.in_front.primary_action()

    def read_instrument(self) -> None:
        """F12: at the bench what is being made is read, or photographed; elsewhere the instrument that is wanted reads the piece in hand."""
        if self.bench is not None and self.bench.isVisible():
            self.bench.read_instrument()
        else:
            self.bring_in.bench.read_next()

    def new_piece(self) -> None:
        """Begin a new piece in Bring in, or in Draw up another instrument."""
        if self.state.drawing:
            self.state.tape_wanted.emit("new bolt-on")
            return
        self.show_screen("bring_in")
        self.state.new_piece()
        self.state.tape_wanted.emit("")  # a bare figure is its length; plank 2390x231x52 white ash is all at once

    def print_what_is_shown(self) -> None:
        """Print what the screen in front has to print; the cut map otherwise."""
        (self.in_front if self.in_front.prints else self.screens["saw_and_wait"]).print_map()

    def plan(self, design_id: str) -> None:
        """Plan a design in Lay out, or what is left of it where it is being sawn."""
        self.state.choose_design(design_id)
        self.show_screen("lay_out")
        if not self.planning.busy:
            self.lay_out.primary_action()

    def show_plan(self, job: Job, plan: Plan) -> None:
        """A plan as one that was just made, in Lay out."""
        self.show_screen("lay_out")
        self.planning.take(job, plan)

    def match(self, act: Callable[[Match], object]) -> None:
        """Do something in Match, and show it."""
        self.show_screen("match")
        screen: Any = self.screens["match"]
        act(screen)

    def pin_part(self) -> None:
        """Pin the part in hand of Lay out, or let it go."""
        self.show_screen("lay_out")
        self.lay_out.pin()

    def lay_out_does(self, act: Callable[[LayOut], object]) -> None:
        """Do something in Lay out, and show it."""
        self.show_screen("lay_out")
        act(self.lay_out)

    def take_part(self) -> None:
        """Take the chosen part of Lay out where the plan has it."""
        self.show_screen("lay_out")
        self.lay_out.take_from_plan()

    def open_bench(self, operation: str = "") -> None:
        """One operation on the whole window, with four keys."""
        from grainet.desk.screens.bench.screen import Bench

        if self.bench is None:
            self.bench = Bench(self)
        self.bench.open_at(operation)

    def surprise(self) -> None:
        """What can go otherwise while sawing, offered in Saw and wait."""
        self.show_screen("saw_and_wait")
        saw: Any = self.screens["saw_and_wait"]
        saw.offer_surprises()

    def show_rules(self) -> None:
        """Every rule of the chosen use, or away again."""
        if self.state.screen != "look_over":
            self.show_screen("look_over")
            self.look_over.show_rules(on=True)
        else:
            self.look_over.show_rules()

    def rank_for_part(self) -> None:
        """The rack ranked for the part in hand of the build in hand."""
        self.show_screen("sort_rack")
        self.screens["sort_rack"].show_mode("part")

    def show_kit_page(self, name: str) -> None:
        """Open the kit book at one of its pages."""
        self.show_screen("kit_book")
        self.screens["kit_book"].show_page(name)

    def save_what_is_shown(self) -> None:
        """Save what the screen in front shows as a file."""
        self.in_front.save_as()

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
        if kit.theme == "desktop":  # the first press changes what is seen
            new = "light" if self.state.theme.dark else "dark"
        elif theme_for(new) is self.state.theme:
            new = order[(order.index(new) + 1) % 3]
        self.state.keep(f"{new} colours", kit.changed(theme=new))
        self.state.notify(f"colours: {new}")

    def change_text_size(self, by: int) -> None:
        """Everything one step larger or smaller, or back to 100 % (0): the window opens anew where it is, nothing is lost."""
        old, new = text_size_pct(), next_size_pct(by)
        if new == old:
            self.state.notify(f"text size is {old} %; it goes from {SIZES_PCT[0]} to {SIZES_PCT[-1]} %")
            return
        try:
            keep_text_size(new)
        except OSError as fault:
            self.state.warn(f"The text size cannot be kept: {fault.strerror}. Still {old} %.")
            return
        if self.start_again is None:
            self.state.notify(f"text size {new} % from the next start on")
        else:
            self.start_again(["--at", self.state.screen, *([self.state.piece.id] if self.state.piece else [])])

    def show_actions(self) -> None:
        """Every action in a list that is searched by typing; pressed again it goes away."""
        if self.actions_panel is None:
            self.actions_panel = ActionsPanel(self.state, self.actions_by_row, self)
        if self.actions_panel.isVisible():
            self.actions_panel.away()
        else:
            self.actions_panel.open()

    def save_elsewhere(self, path: str | None = None) -> None:
        """Write the whole shop, with what is kept in memory only, to a new folder and go on there."""
        chosen = (
            path
            or file_to_write(self, "Save the shop as a new folder", f"{self.state.shop.kit.name}.grainet", "Shops (*.grainet)")[0]
        )
        if not chosen:
            return
        folder = Path(chosen if chosen.endswith(".grainet") else f"{chosen}.grainet")
        try:
            self.state.save_elsewhere(folder)
        except ShopUnusable as fault:
            self.state.warn(str(fault))
            return
        self.state.notify(f"the shop is in {folder.name} now, and you are working in it")
        self.refresh()

    def archive(self, path: str | None = None) -> None:
        """Pack the whole shop, photos and journal too, into one file; the window goes on meanwhile."""
        from grainet.session.archives import pack

        name = f"{self.state.shop.kit.name} {self.state.today.isoformat()}.zip"
        chosen = path or file_to_write(self, "The whole shop as one file", name, "Archives (*.zip)")[0]
        if not chosen:
            return
        target = Path(chosen if chosen.endswith(".zip") else f"{chosen}.zip")

        def work() -> object:
            try:
                return pack(self.state.shop, target)
            except ShopUnusable as fault:
                return fault

        self.state.background.start(work, lambda found: self._packed(target, found), 3)

    def _packed(self, target: Path, found: object) -> None:
        if isinstance(found, ShopUnusable):
            self.state.warn(str(found))
        elif isinstance(found, Packed):
            self.state.notify(f"written: {target.name}, with {found.photos} photos; {target.stat().st_size / 1e6:.1f} MB")

    def open_photos(self) -> None:
        """The menu of photos."""
        self.show_screen("bring_in")
        self.bring_in.menus.photos()

    def try_part(self) -> None:
        """Try a part on the board, or put it away."""
        self.show_screen("bring_in")
        self.bring_in.try_part(on=not self.bring_in.board.part_mode)

    def bring_photo(self, side: str, how: str, path: str | None = None) -> None:
        """Open a photo of a side: from the camera, a file, or the one that was kept."""
        from grainet.exchange.picture_file import encode, read_picture_bytes
        from grainet.store.photos import read_photo

        piece = self.state.piece
        if piece is None:
            return
        again = piece.photo(side) if how == "again" else None
        if how == "file" and not path:
            path = file_to_read(self, "A photo", "Pictures (*.png *.jpg *.jpeg)")
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

    def print_labels(self, *, sheet: bool, path: str | None = None) -> None:
        """Labels as PDF: the piece in hand on a page of its own, or every piece that has none yet on sheets."""
        from grainet.exchange.labels import LabelSheet, write_labels

        pieces = self.state.shop.pieces()
        chosen = [p for p in pieces if not p.label_printed] or pieces
        if not sheet:
            chosen = [self.state.piece] if self.state.piece is not None else []
        if not chosen:
            self.state.notify("nothing to label yet")
            return
        if not path:
            name = "labels.pdf" if sheet else f"label-{chosen[0].id}.pdf"
            path, _ = file_to_write(self, "Labels as PDF", name, "PDF (*.pdf)")
        if not path:
            return
        try:
            pages = write_labels(Path(path), chosen, LabelSheet() if sheet else None, style=self.state.shop.kit.length_style)
        except (Unusable, ValueError) as fault:
            self.state.warn(str(fault))
            return
        fresh = [p.changed(label_printed=True) for p in chosen if not p.label_printed]
        if fresh:
            self.state.keep(f"{len(fresh)} labels printed", *fresh)
        self.state.notify(f"{count_of(len(chosen), 'label')} on {count_of(pages, 'page')}; print at true size (100 %)")

    def bring_list(self, path: str | None = None) -> None:
        """Show row by row what a stock list would do; nothing is stored before it is said so."""
        from grainet.exchange.stock import read_rows
        from grainet.session.import_preview import preview

        if not path:
            path = file_to_read(self, "A stock list", "Stock (*.json *.csv)")
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
        box.finished.connect(lambda _: give_keys_back(self))
        box.open()

    def write_list(self, path: str | None = None) -> None:
        """The stock to a file, JSON or CSV."""
        from grainet.exchange.stock import write_stock

        if not path:
            path, _ = file_to_write(self, "Write the stock", "stock.json", "Stock (*.json *.csv)")
        if not path:
            return
        try:
            write_stock(Path(path), self.state.shop.pieces())
        except Unusable as fault:
            self.state.warn(str(fault))
            return
        self.state.notify(f"the stock is in {Path(path).name}")

    # keys ---------------------------------------------------------------------------------------------------------
    def keyPressEvent(self, event: QKeyEvent) -> None:
        """What no control took: a taken mark first, then plumb, lanes, tape line."""
        if self._move_mark(event) or self._plain_key(event) or self._press_ringed(event):
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

    @override
    def focusNextPrevChild(self, forward: bool) -> bool:
        """From the window itself Tab goes straight to what the screen is about; from there on it steps as everywhere."""
        stop = self.in_front.first_stop() if forward and self.hasFocus() else None
        if stop is None:
            return super().focusNextPrevChild(forward)
        stop.setFocus(Qt.FocusReason.TabFocusReason)
        return True

    def _taking_in(self) -> bool:
        """Whether Bring in is in view."""
        return self.work.currentWidget() is self.screens.get("bring_in")

    def _plain_key(self, event: QKeyEvent) -> bool:
        key, screen = event.key(), self.work.currentWidget()
        step = arrow_step_mm(event)
        if key in (Qt.Key.Key_Left, Qt.Key.Key_Right):
            at = self.state.draw_mm if self.state.drawing else self.state.cursor_mm
            self.state.move_cursor(at + (step if key == Qt.Key.Key_Right else -step))
        elif key in (Qt.Key.Key_Up, Qt.Key.Key_Down):
            self.in_front.step_lane(1 if key == Qt.Key.Key_Down else -1)
        elif key == Qt.Key.Key_Slash and self._taking_in():
            self.state.roll()
        elif key == Qt.Key.Key_Slash:
            self.show_screen("look_over" if self.state.screen != "look_over" else "bring_in")
        elif key in (Qt.Key.Key_Home, Qt.Key.Key_End) and self._taking_in():
            screen.step_corner(-1 if key == Qt.Key.Key_Home else 1)
        elif key == Qt.Key.Key_Escape and self._taking_in():
            screen.let_go()
        elif key == Qt.Key.Key_Escape and self.state.preview is not None:
            self.state.show_preview(None)
        elif key == Qt.Key.Key_Escape and self.state.screen in ("guide", "aside"):
            self.show_screen(self.before)
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self._taking_in() and screen.board.close_polygon():
            pass
        else:
            return False
        return True

    def _press_ringed(self, event: QKeyEvent) -> bool:
        """What has the ring is pressed by Enter as by the space bar."""
        ringed, bent = self.focusWidget(), event.modifiers() & ~Qt.KeyboardModifier.KeypadModifier
        if event.key() not in (Qt.Key.Key_Return, Qt.Key.Key_Enter) or bent or not isinstance(ringed, QAbstractButton):
            return False
        ringed.click()
        return True

    def _move_mark(self, event: QKeyEvent) -> bool:
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
        moves: dict[int, tuple[float, float]] = {
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
    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self._show_top()
        if self.actions_panel is not None and self.actions_panel.isVisible():
            self.actions_panel.place()
        if self.bench is not None and self.bench.isVisible():
            self.bench.setGeometry(self.rect())
            self.bench.refresh()
        QTimer.singleShot(0, self.refresh)

    @override
    def changeEvent(self, event: QEvent) -> None:
        super().changeEvent(event)
        if event.type() == QEvent.Type.ActivationChange:
            self.update()

    @override
    def closeEvent(self, event: QCloseEvent) -> None:
        self.state.closing = True
        self.worker.stop()
        for screen in self.screens.values():
            screen.close_down()
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
    from grainet.desk.painting.tokens import load_fonts

    # every call into Qt hands the turn to work in the background, and gets it back only after this long
    sys.setswitchinterval(0.0005)
    load_fonts()
    app.setStyle("Fusion")
    app.setFont(font(14))
