"""Sort the rack (F11): what is fit for a use, best first and why not the others; wood by size and words; the stash; claims; suppliers.

Taking a row takes the piece in hand.
"""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QModelIndex, QTimer
from PySide6.QtGui import QPainter, QShowEvent
from PySide6.QtWidgets import QComboBox, QLineEdit, QListView, QWidget
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.painting.tokens import LEFT, RIGHT, font
from grainet.desk.screens.screen import Page
from grainet.desk.screens.sort_rack.rows import RowPainter, Rows
from grainet.desk.services.dialogs import file_to_write
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import WordButton
from grainet.kit.choosing import CRITERIA
from grainet.session import lists
from grainet.session.lists import Listed, ListRow
from grainet.session.query import Query, parse_query
from grainet.wood.units import entry_unit, parse_length
from grainet.wood.value import BadEntry

FEW = 40  # so many are judged before anybody could read how far it is
SIDE_W = 196
MODES = (
    ("use", "For a use"),
    ("part", "For a part"),
    ("find", "By size and words"),
    ("stash", "The stash"),
    ("claims", "Claims"),
    ("supply", "Suppliers"),
)
JUDGES = ("use", "part")  # lists that judge the rack for what is chosen
WEIGHTS = (0.0, 1.0, 2.0, 3.0, 5.0)  # what a press on a weight goes through
CHIPS = ("clear", "ready", "quartered", "figured", "swept", "reclaimed")


class SortRack(Page):
    """The screen."""

    prints = True

    def __init__(self, state: State) -> None:
        super().__init__(state)
        self.setObjectName("sortRack")
        self.mode = "use"
        self.message = ""
        self._key: tuple[object, ...] | None = None
        self._asked: tuple[object, ...] | None = None
        self._shown: tuple[object, ...] | None = None
        self._opened_for: object = None
        self.judged = 0  # pieces of the list that is being made
        self._counting = QTimer(self)
        self._counting.setInterval(300)
        self._counting.timeout.connect(self.update)
        self.model = Rows()
        self.list = QListView(self)
        self.list.setObjectName("sortRack.list")
        self.list.setModel(self.model)
        self.list.setItemDelegate(RowPainter(state, self.list))
        self.list.setUniformItemSizes(True)  # else every row of thousands is asked for its height
        self.list.setFrameShape(QListView.Shape.NoFrame)
        self.list.setVerticalScrollMode(QListView.ScrollMode.ScrollPerPixel)
        self.list.clicked.connect(self._taken)
        self.list.activated.connect(self._opened)
        self.list.doubleClicked.connect(self._opened)
        self.modes: dict[str, WordButton] = {}
        for name, words in MODES:
            tab = WordButton(state, words, "", chalk=False, parent=self, name=f"sortRack.{name}")
            tab.setCheckable(True)
            tab.clicked.connect(lambda _=False, n=name: self.show_mode(n))
            self.modes[name] = tab
        self.use = QComboBox(self)
        self.use.setObjectName("sortRack.useOf")
        self.use.setAccessibleName("The use that the rack is sorted for")
        self.use.setFont(font(16, 600))
        for rule in state.shop.kit.every_use:
            self.use.addItem(rule.label, rule.use)
        self.use.activated.connect(lambda k: self.state.choose_use(self.use.itemData(k)))
        self._form()
        self.weights: dict[str, WordButton] = {}
        for name, (words, what) in CRITERIA.items():
            button = WordButton(state, words, "", chalk=False, parent=self, name=f"sortRack.weight.{name}")
            button.setToolTip(f"{what}: how much it counts; press for the next, 0 counts nothing")
            button.clicked.connect(lambda _=False, n=name: self.next_weight(n))
            self.weights[name] = button
        self.open = WordButton(state, "Look it over", "F3", chalk=True, parent=self, name="sortRack.open")
        self.open.clicked.connect(lambda: self._opened(self.list.currentIndex()))
        self.second = WordButton(state, "", "", chalk=False, parent=self, name="sortRack.second")
        self.second.clicked.connect(self._second)
        self.third = WordButton(state, "Give it back", "", chalk=False, parent=self, name="sortRack.third")
        self.third.clicked.connect(self._give_back)
        state.changed.connect(self.refresh)

    def _form(self) -> None:
        """The same question as the tape line's ``ask``, by chips and fields."""
        self.sizes: list[QLineEdit] = []
        for name in ("thickness", "width", "length"):
            field = QLineEdit(self)
            field.setObjectName(f"sortRack.{name}")
            field.setAccessibleName(f"Least finished {name}")
            field.setPlaceholderText(name)
            field.setFont(font(16, 600, figures=True))
            field.editingFinished.connect(self.ask)
            self.sizes.append(field)
        self.words = QLineEdit(self)
        self.words.setObjectName("sortRack.words")
        self.words.setAccessibleName("More words: a species, a kind, at C3")
        self.words.setPlaceholderText("species, kind, at C3 ...")
        self.words.setFont(font(15, 500))
        self.words.editingFinished.connect(self.ask)
        self.chips: dict[str, WordButton] = {}
        for word in CHIPS:
            chip = WordButton(self.state, word, "", chalk=False, parent=self, name=f"sortRack.chip.{word}")
            chip.setCheckable(True)
            chip.clicked.connect(lambda _=False: self.ask())
            self.chips[word] = chip

    # what is shown ------------------------------------------------------------------------------------------------
    def showEvent(self, event: QShowEvent) -> None:
        """A question that the rack was asked opens on its answer."""
        if self.state.asked is not None and self.state.asked is not self._opened_for:
            self._opened_for = self.state.asked
            self.mode, self._key = "find", None
        super().showEvent(event)

    def show_mode(self, name: str) -> None:
        """Show another list."""
        self.mode = name
        self._key = None
        self.refresh()

    def step(self, by: int) -> None:
        """The next list, or the one before."""
        names = [m[0] for m in MODES]
        self.show_mode(names[max(0, min(len(names) - 1, names.index(self.mode) + by))])

    def step_lane(self, by: int) -> None:
        """Up and down: another use, as in Look over; another list where no use is sorted for."""
        if self.mode not in JUDGES:
            self.step(by)
            return
        uses = [self.use.itemData(k) for k in range(self.use.count())]
        self.state.choose_use(uses[max(0, min(len(uses) - 1, uses.index(self.state.use) + by))])

    def next_weight(self, name: str) -> None:
        """Let a criterion count more; after the most, nothing. It is kept with the house's rules."""
        kit = self.state.shop.kit
        at = getattr(kit.choosing, name)
        after = next((w for w in WEIGHTS if w > at), WEIGHTS[0])
        self.state.keep(f"{CRITERIA[name][0]} counts {after:g}", kit.changed(choosing=kit.choosing.changed(**{name: after})))

    def ask(self) -> None:
        """Ask the rack what the form says; a sentence tells what cannot be used."""
        kit = self.state.shop.kit
        unit = entry_unit(kit.length_style)
        try:
            size = tuple(parse_length(f.text(), unit).mm if f.text().strip() else 0.0 for f in self.sizes)
            asked = (
                parse_query(self.words.text(), kit.length_style, kit.figure_words, kit.library)
                if self.words.text().strip()
                else Query()
            )
        except BadEntry as fault:
            self.state.warn(str(fault))
            return
        words = asked.words | {w for w, chip in self.chips.items() if chip.isChecked()}
        if any(asked.size_mm):
            size = asked.size_mm
        query = Query(size, words, asked.kinds, asked.species, asked.places, asked.house)
        self.state.ask(query if query != Query() else None)
        self._key = None
        self.refresh()

    def refresh(self) -> None:
        """Bring everything up to date and in its place."""
        if not self.isVisible():
            return
        self._place()
        shop = self.state.shop
        if shop.kit.use(self.state.use) is not None:
            self.use.setCurrentIndex(self.use.findData(self.state.use))
        key = (
            self.mode,
            shop.version,
            self.state.use if self.mode in JUDGES else "",
            self.state.design_id if self.mode in JUDGES else "",
            self.state.asked if self.mode == "find" else None,
            self.state.today,
        )
        if self.mode == "find":
            key += (self.state.answers(),)
        if key != self._key and key != self._asked:
            self._asked = key
            make, shop = self._maker(key), shop
            self.judged = 0
            self._counting.start()
            self.state.background.start(lambda: shop.steady(make), lambda made: self._made(key, made), 4)
        self.list.viewport().update()
        self.update()

    def _made(self, key: tuple[object, ...], made: object) -> None:
        if key != self._asked:
            return
        self._key, self._asked = key, None
        self._counting.stop()
        if not isinstance(made, tuple):  # it failed: what went wrong was said, and the list is empty until something changes
            made = ("this list could not be made; what happened stands in the log", [])
        self.message, rows = made
        at = self.list.verticalScrollBar().value()
        self.model.set_rows(rows)
        self.list.verticalScrollBar().setValue(at)
        fresh = self._shown != (self.mode, self.state.use, self.state.asked)
        self._shown = (self.mode, self.state.use, self.state.asked)
        own = next((k for k, row in enumerate(rows) if row.piece == self.state.piece_id), None)
        if own is not None:
            self.list.setCurrentIndex(self.model.index(own))
        if fresh:
            self.list.scrollToTop()
        self.update()

    def _maker(self, key: tuple[object, ...]) -> Callable[[], Listed]:
        """What makes the chosen list, to be run off the window's thread; it ends early where another list was asked for since."""
        shop, use, today, design = self.state.shop, self.state.use, self.state.today, self.state.design_id
        if self.mode == "find":
            asked, answers = self.state.asked, self.state.answers()
            return lambda: lists.by_size(shop, asked, answers, today)
        return {
            "use": lambda: lists.for_a_use(shop, use, today, design, lambda k: self._go_on(key, k)),
            "part": lambda: lists.for_a_part(shop, use, today, design, lambda k: self._go_on(key, k)), "stash": lambda: lists.of_the_stash(shop, today), "claims": lambda: lists.of_claims(shop),
            "supply": lambda: lists.of_suppliers(shop, today),
        }[self.mode]  # fmt: skip

    def _go_on(self, key: tuple[object, ...], judged: int) -> bool:
        self.judged = judged
        return self._asked == key and not self.state.closing

    @property
    def sentence(self) -> str:
        """What stands above the list: what it shows, or how far it is."""
        if self._asked is not None and self._asked[0] in JUDGES and self.judged >= FEW:
            return f"judging the rack: {self.judged} of {len(self.state.shop.pieces())} pieces so far"
        return self.message or "looking over the rack"

    # acts ---------------------------------------------------------------------------------------------------------
    def _taken(self, index: QModelIndex) -> None:
        if index.isValid() and (number := self.model.rows[index.row()].piece) and self.state.shop.has_piece(number):
            self.state.choose_piece(number)

    def _opened(self, index: QModelIndex) -> None:
        if index.isValid() and self.model.rows[index.row()].piece:
            self._taken(index)
            window = self.window()
            if hasattr(window, "show_screen"):
                window.show_screen("look_over")

    def first_stop(self) -> QWidget | None:
        """The list."""
        return self.list

    def primary_action(self) -> None:
        """What its chalk-filled button does."""
        self._opened(self.list.currentIndex())

    def _second(self) -> None:
        """The other thing that one does in this list."""
        if self.mode == "find":
            for field in (*self.sizes, self.words):
                field.clear()
            for chip in self.chips.values():
                chip.setChecked(False)
            self.ask()
        else:
            self.state.tape_wanted.emit({"stash": "passed ", "supply": "surprise "}.get(self.mode, "keep for "))

    def _give_back(self) -> None:
        index = self.list.currentIndex()
        row = self.model.rows[index.row()] if index.isValid() else ListRow()
        claim = row.first.split(",")[0] if row.piece else ""
        if not claim:
            self.state.warn("Choose the claim to give back first.")
            return
        self.state.free(row.piece, claim)

    def save_as(self, path: str | None = None) -> None:
        """The list as it is shown, to CSV or PDF."""
        from grainet.exchange.json_file import Unusable
        from grainet.exchange.report_file import ReportRow, write_report

        label = self.state.wanted().message
        title = {
            "use": f"Sorted for a {label}",
            "part": f"Pieces for {label}",
            "find": "What answers",
            "stash": "The stash",
            "claims": "Claims",
            "supply": "Suppliers",
        }[self.mode]
        chosen = path or file_to_write(self, title, f"{title}.pdf", "PDF (*.pdf);;CSV table (*.csv)")[0]
        if not chosen:
            return
        rows = [ReportRow(r.head, r.piece, r.first, r.second, r.right) for r in self.model.rows]
        try:
            write_report(
                Path(chosen), f"{self.state.shop.kit.name}: {title.lower()}, {self.state.today.isoformat()}", self.message, rows
            )
        except (Unusable, ValueError) as fault:
            self.state.warn(fault.lines[0] if isinstance(fault, Unusable) else str(fault))
            return
        self.state.notify(f"written: {Path(chosen).name}")

    def print_map(self, path: str | None = None) -> None:
        """The list as a page to print."""
        self.save_as(path)

    # laying out ---------------------------------------------------------------------------------------------------
    def _place(self) -> None:
        for name, button in self.modes.items():
            button.setChecked(name == self.mode)
        below = flow.column([self.modes[name] for name, _ in MODES], LEFT, 54, SIDE_W - LEFT - 8, high=42, gap=6)
        flow.column([self.use], LEFT, below + 30, SIDE_W - LEFT - 8, high=40)
        self.use.setVisible(self.mode in JUDGES)
        choosing = self.state.shop.kit.choosing
        for name, button in self.weights.items():
            button.setVisible(self.mode == "part")
            button.say(f"{CRITERIA[name][0]} {getattr(choosing, name):g}")
        find = self.mode == "find"
        top = 48
        for field in (*self.sizes, *self.chips.values(), self.words):
            field.setVisible(find)
        x = flow.row([(field, 92) for field in self.sizes], SIDE_W + 8, top, high=38, gap=22)
        x = flow.row([(chip, chip.sizeHint().width() - 8) for chip in self.chips.values()], x, top - 3, gap=8)
        flow.row([(self.words, max(120, self.width() - RIGHT - x))], x, top, high=38)
        flow.row([(b, b.sizeHint().width()) for b in self.weights.values()], SIDE_W + 112, top, high=38, gap=8)
        list_top = top + 56 if find or self.mode == "part" else 46
        flow.fill(self.list, SIDE_W + 8, list_top, self.width() - RIGHT, self.height() - 56)
        flow.row_to_right([(self.open, 200), (self.second, 200), (self.third, 140)], self.width() - RIGHT, self.height() - 50)
        words = {
            "use": "Keep it for ...",
            "part": "Keep it for ...",
            "find": "Clear the question",
            "stash": "Say why it was passed",
            "claims": "Claim it ...",
            "supply": "Note a surprise",
        }[self.mode]
        self.second.say(words, enabled=self.mode == "find" or self.state.piece is not None)
        self.third.setVisible(self.mode == "claims")
        self.open.setEnabled(self.list.currentIndex().isValid())
        palette = self.list.palette()
        palette.setColor(palette.ColorRole.Base, self.state.theme.bench)
        self.list.setPalette(palette)

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        theme = self.state.theme
        p.fillRect(self.rect(), theme.bench)
        draw.text_at(p, LEFT, 34, "Sort the rack", theme.ink, 20, 700)
        draw.text_at(p, SIDE_W + 8, 34, self.sentence, theme.ink, 15, room=self.width() - SIDE_W - 30)
        if self.mode == "find":
            for field in self.sizes[:-1]:
                draw.text_at(p, field.geometry().right() + 7, field.geometry().center().y() + 5, "×", theme.ink2, 15)
        if self.mode in JUDGES:
            y = self.use.geometry().top() - 8
            draw.text_at(p, LEFT, y, "sorted for a" if self.mode == "use" else "the part", theme.ink2, 14)
        if self.mode == "part":
            draw.text_at(p, SIDE_W + 8, self.weights["grade"].geometry().center().y() + 5, "what counts:", theme.ink2, 14)
        if self.mode != "use" and not self.model.rows and self.message:
            draw.text_at(p, SIDE_W + 16, self.list.geometry().top() + 40, "Nothing to show.", theme.ink2, 15)
        hints = {
            "use": "length: how well every rule is met; full gives, low if, line won't; up and down pick the use, Tab the list",
            "part": "length: what counts, weighed; full gives, low if, line won't; press what counts to let it count more",
        }
        if hint := hints.get(self.mode):
            draw.text_at(p, SIDE_W + 8, self.height() - 22, hint, theme.ink2, 13.5)
