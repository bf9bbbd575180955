"""The kit book (Ctrl+K): what the shop has and holds to, page by page, editable in place; a change counts everywhere at once."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtGui import QPainter, QResizeEvent
from PySide6.QtWidgets import QStackedWidget, QWidget
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.painting.tokens import LEFT, RIGHT
from grainet.desk.screens.screen import Screen, tab_stops
from grainet.desk.screens.shop_profile.devices import DevicesPage
from grainet.desk.screens.shop_profile.machines import MachinesPage
from grainet.desk.screens.shop_profile.plain import BriefPage, GluingPage, MetersPage, RulesPage
from grainet.desk.screens.shop_profile.species import SpeciesPage
from grainet.desk.screens.shop_profile.uses import UsesPage
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import WordButton
from grainet.session.commands.command import Command

SIDE_W = 196
PAGES: tuple[tuple[str, str, Callable[[State], QWidget]], ...] = (
    ("machines", "Machines", MachinesPage),
    ("gluing", "Clamps and glues", GluingPage),
    ("meters", "Meters and air", MetersPage),
    ("devices", "Instruments", DevicesPage),
    ("rules", "House rules", RulesPage),
    ("uses", "What uses need", UsesPage),
    ("species", "Species", SpeciesPage),
    ("brief", "Brief", BriefPage),
)


class KitBook(Screen):
    """The screen: page names at the left, a page at the right."""

    def __init__(self, state: State) -> None:
        super().__init__(state)
        self.setObjectName("kitBook")
        self.stack = QStackedWidget(self)
        self.pages: dict[str, QWidget] = {}
        self.tabs: dict[str, WordButton] = {}
        for name, words, make in PAGES:
            self.pages[name] = make(state)
            self.stack.addWidget(self.pages[name])
            tab = WordButton(state, words, "", chalk=False, parent=self, name=f"kit.page.{name}")
            tab.setCheckable(True)
            tab.clicked.connect(lambda _=False, n=name: self.show_page(n))
            self.tabs[name] = tab
        self.page = "machines"
        state.changed.connect(self.update)
        self.show_page("machines")

    def show_page(self, name: str) -> None:
        """Show one of the pages."""
        self.page = name
        self.stack.setCurrentWidget(self.pages[name])
        for one, tab in self.tabs.items():
            tab.setChecked(one == name)
        self.update()

    def step_lane(self, by: int) -> None:
        """Up and down: the next one in the column."""
        names = [p[0] for p in PAGES]
        self.show_page(names[max(0, min(len(names) - 1, names.index(self.page) + by))])

    def first_stop(self) -> QWidget | None:
        """The page that is open."""
        page = self.stack.currentWidget()
        return next(iter(tab_stops(page)), super().first_stop()) if page is not None else super().first_stop()

    @override
    def reads(self, line: str) -> Command | None:
        """``port scale /dev/ttyUSB0 9600``: an instrument on a serial line. Raises BadEntry."""
        word, _, rest = line.strip().partition(" ")
        page = self.pages["devices"]
        if word.lower() != "port" or not isinstance(page, DevicesPage):
            return None
        device = page.port(rest)
        return Command(f"{device.words} at {device.baud} baud", does=lambda: page.use(device.kind, device))

    def typed_here(self) -> list[tuple[str, str, str]]:
        """What may be typed here alone."""
        return [("port what path speed", "an instrument on a serial line", "port scale /dev/ttyUSB0 9600")]

    def primary_action(self) -> None:
        """What its chalk-filled button does."""
        page = self.stack.currentWidget()
        if hasattr(page, "primary_action"):
            page.primary_action()

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        theme = self.state.theme
        p.fillRect(self.rect(), theme.bench)
        draw.text_at(p, LEFT, 34, "Kit book", theme.ink, 20, 700)

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        flow.column(self.tabs.values(), LEFT, 54, SIDE_W - LEFT - 8, high=42, gap=6)
        flow.fill(self.stack, SIDE_W + 12, 12, self.width() - RIGHT, self.height() - 8)
