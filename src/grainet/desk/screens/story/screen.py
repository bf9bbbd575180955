"""The story (Ctrl+Shift+H): the page that is printed, at the size of the screen; beside it what every litre became and what is left off the page."""

from __future__ import annotations

from functools import partial
from pathlib import Path

from PySide6.QtCore import QRectF
from PySide6.QtGui import QPainter, QPixmap
from typing_extensions import override

from grainet.cli.story import photos_of
from grainet.desk.painting import draw
from grainet.desk.painting.balance_bar import BarShare, balance_bar
from grainet.desk.painting.tokens import LEFT, RACK_SHOWS_FROM, RIGHT
from grainet.desk.screens.screen import Page
from grainet.desk.screens.story.page import HIGH, WIDE, pages_of, paint_page
from grainet.desk.services.dialogs import file_to_write, folder_to_use
from grainet.desk.services.paper import page_across
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import WordButton
from grainet.exchange.json_file import Unusable
from grainet.present.wall_view import Hung, Wall
from grainet.session.commands.command import Command
from grainet.session.stories import leave_off, story_of, told_instruments, weigh
from grainet.store.shop_file import ShopUnusable
from grainet.wood.value import BadEntry
from grainet.work.story import KINDS, Story

UNDER, ALONE, SIDE_W, SIDE_GAP = 58, 12, 394, 28  # where the page begins below buttons, and where it has the screen to itself
NOTHING = (
    "Lay out a guitar and keep its plan (F5). From then on its story writes itself: every board with its source, each joint as it is glued, each offcut and what it becomes.",
)


class StoryScreen(Page):
    """The screen."""

    prints = True

    def __init__(self, state: State) -> None:
        super().__init__(state)
        self.setObjectName("story")
        self.story: Story | None = None
        self.design = ""
        self._asked: object = None
        self._wall = Wall()
        self.page = 0  # which of the pages is shown
        self.builds: list[WordButton] = []
        self.toggles: dict[str, WordButton] = {}
        self.print_it = WordButton(state, "Print", "Ctrl+P", chalk=True, parent=self, name="story.print")
        self.print_it.clicked.connect(lambda: self.print_map())
        self.hand_over = WordButton(state, "Hand over as a folder", "Ctrl+S", parent=self, name="story.folder")
        self.hand_over.clicked.connect(lambda: self.save_as())
        self.turn_it = WordButton(state, "Next page", "", parent=self, name="story.turn")
        self.turn_it.clicked.connect(lambda _=False: self.turn())
        self.lay_out = WordButton(state, "Lay it out", "F5", chalk=True, parent=self, name="story.layOut")
        self.lay_out.clicked.connect(self._lay_out)
        state.changed.connect(self.refresh)

    # what is shown ------------------------------------------------------------------------------------------------
    def choose(self, design: str) -> None:
        """Another instrument."""
        self.design = design
        self.refresh()
        self.state.top_changed.emit()

    def _load(self) -> None:
        told = told_instruments(self.state.shop)
        ids = [d for d, _, _ in told]
        known = {
            *ids,
            *(g.id for g in self.state.shop.instruments.all()),
        }  # one that is only drawn up says that it has no story yet
        if self.design not in known:
            self.design = self.state.design_id if self.state.design_id in ids else ids[0] if ids else ""
        asked = (self.state.shop.version, self.design)
        if asked != self._asked:
            self._asked = asked
            self.story = story_of(self.state.shop, self.design) if self.design else None
        self.page = min(self.page, self._pages - 1)
        while len(self.builds) < len(told):
            self.builds.append(WordButton(self.state, "", "", parent=self, name=f"story.build.{len(self.builds) + 1}"))
            self.builds[-1].setCheckable(True)
            self.builds[-1].clicked.connect(lambda _=False, b=self.builds[-1]: self.choose(str(b.property("design"))))
        for k, button in enumerate(self.builds):
            button.setVisible(k < len(told) and self._low)  # else they hang on the wall
            if k < len(told):
                button.setProperty("design", told[k][0])
                button.say(told[k][1])
                button.setChecked(told[k][0] == self.design)

    @property
    def _pages(self) -> int:
        return pages_of(self.story) if self.story is not None else 1

    def turn(self) -> None:
        """The next page; after the last one the first."""
        self.page = (self.page + 1) % self._pages
        self.refresh()

    def _lay_out(self) -> None:
        """To Lay out, with the guitar that has no story yet."""
        if self.design in {d.id for d in self.state.shop.designs()}:
            self.state.choose_design(self.design)
        self.state.screen_wanted.emit("lay_out")

    def step_lane(self, by: int) -> None:
        """Up and down: another instrument."""
        ids = [one.design for one in self._wall.hung(self.state.shop)]
        if self.design in ids:
            self.choose(ids[max(0, min(len(ids) - 1, ids.index(self.design) + by))])

    @override
    def on_the_wall(self) -> tuple[list[Hung], str] | None:
        """The wall, with the instrument whose story is read."""
        return self._wall.hung(self.state.shop), self.design

    @override
    def heads(self) -> tuple[str, list[tuple[str, str]]] | None:
        """What the head says."""
        if self.story is None:
            name = next((g.name for g in self.state.shop.instruments.all() if g.id == self.design), "")
            return (name, [("no plan of it is kept yet", "")]) if name else None
        done = f"finished {self.story.finished}" if self.story.finished else "not finished yet"
        return self.story.name, [("the wood's story", ""), (done, "")]

    # acts -----------------------------------------------------------------------------------------------------------
    def toggle(self, key: str) -> None:
        """Leave a line off the page, or put it back."""
        try:
            leave_off(self.state.shop, self.design, key)
        except (BadEntry, ShopUnusable) as fault:
            self.state.warn(str(fault))

    @override
    def reads(self, line: str) -> Command | None:
        """``weighs 3.36``: the finished instrument on the scale; ``off prices``: leaves a line off the page, or puts it back. Raises BadEntry."""
        word, _, rest = line.strip().partition(" ")
        if self.story is None or word.lower() not in ("weighs", "off"):
            return None
        if word.lower() == "off":
            return Command(f"{rest} off the page, or back on it", does=lambda: self.toggle(rest.strip().lower()))
        try:
            kg = float(rest.replace(",", ".").removesuffix("kg").strip())
        except ValueError:
            raise BadEntry(f"weighs: found “{rest}”, needs kilograms, such as weighs 3.36.") from None
        if not 0.2 <= kg <= 20:
            raise BadEntry(f"weighs: found {kg:g}, needs 0.2 to 20 kg.")
        return Command(f"{self.story.name} weighs {kg:g} kg", does=partial(weigh, self.state.shop, self.design, kg))

    def typed_here(self) -> list[tuple[str, str, str]]:
        """What may be typed here alone."""
        return [
            ("weighs kg", "what the finished instrument weighs", "weighs 3.36"),
            ("off line", "leaves a line off the page, or puts it back", "off prices"),
        ]

    def primary_action(self) -> None:
        """Print it; where there is no story yet, lay the guitar out."""
        self.print_map() if self.story is not None else self._lay_out()

    def print_map(self, path: str | None = None) -> None:
        """The page as a PDF, A4 across."""
        if self.story is None:
            self.state.warn("there is no story yet: lay out a guitar and keep its plan (F5)")
            return
        chosen = path or file_to_write(self, "Print the story", f"{self.story.name}.pdf", "PDF (*.pdf)")[0]
        if not chosen:
            return
        if page_across(
            chosen,
            f"{self.story.name}: the wood's story",
            WIDE,
            HIGH,
            *(partial(self._paint, page=k) for k in range(self._pages)),
        ):
            self.state.notify(f"written: {Path(chosen).name}")
        else:
            self.state.warn(f"{Path(chosen).name} could not be written")

    def save_as(self, path: str | None = None) -> None:
        """The folder to hand over: a page that opens offline, the same as JSON, the photos."""
        if self.story is None:
            self.state.warn("there is no story yet: lay out a guitar and keep its plan (F5)")
            return
        from grainet.exchange.story_file import write_story

        chosen = path or folder_to_use(self, "A folder for the story")
        if not chosen:
            return
        folder = Path(chosen) / f"{self.story.name}, its story".replace("/", "-")
        try:
            files = write_story(folder, self.story, photos_of(self.state.shop, self.story))
        except (Unusable, OSError) as fault:
            self.state.warn(str(fault))
            return
        self.state.notify(f"{len(files)} files in {folder.name}: open index.html in any browser")

    # placing --------------------------------------------------------------------------------------------------------
    def refresh(self) -> None:
        """Bring everything up to date and in its place."""
        if not self.isVisible():
            return
        self._load()
        flow.row([(b, max(90, b.sizeHint().width())) for b in self.builds if b.isVisibleTo(self)], LEFT, 8, gap=6)
        for button in (self.print_it, self.hand_over):
            button.setVisible(self.story is not None)
        self.lay_out.setVisible(self.story is None)
        flow.row_to_right([(self.lay_out, 160)], self.width() - RIGHT, 8)
        flow.row_to_right([(self.print_it, 130), (self.hand_over, 250)], self.width() - RIGHT, 8)
        self.turn_it.setVisible(self._pages > 1 and self._side_x is not None)
        if self.turn_it.isVisibleTo(self):
            self.turn_it.say(f"Page {self.page + 1} of {self._pages}: turn it over")
            flow.row([(self.turn_it, 250)], self._side_x or 0, UNDER + 116, high=34)
        self._place_toggles()
        self.update()

    def _keys(self) -> dict[str, str]:
        """What can be left off, and what each button says."""
        if self.story is None:
            return {}
        has = {
            "prices": any(b.price is not None for b in self.story.boards), "hours": self.story.hours > 0, "joints": bool(self.story.joints),
            "flaws": any(b.flaws for b in self.story.boards), "mends": bool(self.story.mends), "mishaps": bool(self.story.mishaps), "rules": bool(self.story.set_aside),
            "offcuts": bool(self.story.offcuts),
        }  # fmt: skip
        boards = {f"board {b.number}": f"No. {b.number}" for b in self.story.boards}
        return {**{k: KINDS[k] for k, there in has.items() if there}, **boards}

    def _place_toggles(self) -> None:
        keys = self._keys()
        for key, words in keys.items():
            if key not in self.toggles:
                button = self.toggles[key] = WordButton(
                    self.state, words, "", parent=self, name=f"story.on.{key.replace(' ', '.')}"
                )
                button.setCheckable(True)
                button.clicked.connect(partial(self.toggle, key))
        for key, button in self.toggles.items():
            button.setVisible(key in keys and self._side_x is not None)
            button.setChecked(self.story is not None and self.story.shows(key))
        if self._side_x is not None:
            shown = [(b, max(64, b.sizeHint().width() - 12)) for k, b in self.toggles.items() if k in keys]
            flow.wrapped(shown, self._side_x, UNDER + 210, self.width() - RIGHT, gap=6)

    @property
    def _page(self) -> QRectF:
        """Where the page lies: as large as the screen has room for it beside the column, or alone where the window is too narrow for both."""
        wide = self.width() - LEFT - RIGHT - (SIDE_W + SIDE_GAP if self.width() >= 900 else 0)
        top = ALONE if self.width() >= 900 and not self._low else UNDER
        scale = min(wide / WIDE, (self.height() - top - 12) / HIGH)
        return QRectF(LEFT, top, WIDE * scale, HIGH * scale)

    @property
    def _low(self) -> bool:
        """Whether the wall has no room over the screen, so that the instruments are buttons on it."""
        return self.window().height() < RACK_SHOWS_FROM

    @property
    def _side_x(self) -> int | None:
        """Where the column beside the page begins; None where the window is too narrow for it."""
        return int(self._page.right()) + SIDE_GAP if self.width() >= 900 else None

    # painting -----------------------------------------------------------------------------------------------------
    def _pictured(self, number: str) -> QPixmap | None:
        piece = next((p for p in self.state.shop.pieces(everything=True) if p.id == number), None)
        return self.state.pictures.get(piece, "face1") if piece is not None else None

    def _paint(self, p: QPainter, page: int = 0) -> None:
        assert self.story is not None
        paint_page(p, self.story, self.state.shop.instruments.find(self.design), self._pictured, page)

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        theme = self.state.theme
        p.fillRect(self.rect(), theme.ground)
        if self.story is None:
            draw.empty(p, theme, QRectF(LEFT, 70, self.width() - LEFT - RIGHT, self.height() - 120), "No story yet.", NOTHING)
            return
        side = self._side_x
        page = self._page
        p.save()
        p.translate(page.x(), page.y())
        p.scale(page.width() / WIDE, page.width() / WIDE)
        self._paint(p, self.page)
        p.restore()
        if side is not None:
            self._side(p, side)

    def _side(self, p: QPainter, x: int) -> None:
        """What every litre became, and what the buttons below are."""
        theme, story = self.state.theme, self.story
        assert story is not None
        draw.text_at(p, x, UNDER + 18, "Of every litre taken", theme.ink, 16, 700)
        if story.shares:
            draw.text_at(p, x + 170, UNDER + 18, f"{story.litres:.1f} in all", theme.ink2, 14)
            wood = next((q for b in story.boards for q in self.state.shop.pieces(everything=True) if q.id == b.number), None)
            names = {"parts": "in it", "offcuts": "kept", "kerf": "kerf", "skims": "planed", "waste": "scrap"}
            rows = [
                BarShare(names[k], share, wood if k in ("parts", "offcuts") else None, "out" if k == "offcuts" else "")
                for k, share in story.shares.items()
            ]
            balance_bar(p, theme, self.state.pictures, rows, x, UNDER + 34, self.width() - RIGHT - x, 0)
        else:
            draw.text_at(p, x, UNDER + 46, "no board of it is sawn up yet", theme.ink2, 14)
        draw.text_at(p, x, UNDER + 178, "On the page", theme.ink, 16, 700)
        draw.text_at(p, x + 110, UNDER + 178, "press one to leave it off", theme.ink2, 14)
        lacking = [b.number for b in story.boards if b.lacks_paper]
        if lacking:
            words = f"No. {', '.join(lacking)}: a listed species, and no paper is kept with it. Take it in hand: paper permit 123"
            from grainet.desk.widgets.controls import wrapped

            for k, line in enumerate(wrapped(words, 14, self.width() - RIGHT - x)):
                draw.text_at(p, x, self.height() - 70 + 19 * k, line, theme.ochre, 14)
