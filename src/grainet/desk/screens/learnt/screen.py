"""What was learnt: a lane for each figure that was measured with a tool in a wood; what went wrong; how far each edge has cut. Nothing of the
shop changes until “Plan with”, and what that moves stands below before it is pressed."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Literal

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter, QPixmap
from PySide6.QtWidgets import QWidget
from typing_extensions import override

from grainet.desk.painting import draw
from grainet.desk.painting.tokens import LEFT, RIGHT
from grainet.desk.screens.learnt.lane import LANE_H, STRIP_X, LaneButton
from grainet.desk.screens.screen import Page
from grainet.desk.services.dialogs import file_to_read
from grainet.desk.services.picture_kept import PICTURES, kept_picture
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import WordButton, count_of, wrapped
from grainet.desk.widgets.pick_list import Pick, PickList
from grainet.desk.widgets.scroll import ScrolledColumn
from grainet.present.learnt_view import LaneView, edges, lane_view, went_wrong
from grainet.session.learning import Change, changes, keep, lanes, plan_with, take_back, told_figure
from grainet.session.mishaps import mishaps_of, repeated, sentence
from grainet.store.photos import read_photo
from grainet.store.shop_file import ShopUnusable
from grainet.work.record import Mishap

HEAD_H, FOOT_H, LINE_H = 92, 164, 23
WRONG_Y, PHOTO_W, MOST_REPEATS = 66, 320, 5
View = Literal["figures", "wrong", "edges"]
NAMES: dict[View, str] = {"figures": "What the tools took", "wrong": "What went wrong", "edges": "Edges"}
NOTHING: dict[View, tuple[str, tuple[str, ...]]] = {
    "figures": ("Nothing is measured yet.", (
        "At the bench the key ↑ measures a step: how much came off, where a cut went. Here a figure is told in words, such as took planer 2.4 on 42.",
        "From five figures of a tool in a wood on, the shop's own is proposed in place of the assumed one.")),
    "wrong": ("Nothing has gone wrong yet, or nobody said so.", (
        "Say it where it happens: mishap tear-out 420 60 because fed from the marked end, helped scraped. The third of a kind speaks before the next such step.",)),
    "edges": ("No cut is ticked yet.", ("Each blade, and each set of knives, counts what it cuts, more in wood that blunts. Say when one is sharp again: sharpened table saw.",)),
}  # fmt: skip


class LearntScreen(Page):
    """The screen."""

    def __init__(self, state: State) -> None:
        super().__init__(state)
        self.setObjectName("learnt")
        self.view: View = "figures"
        self.views: list[LaneView] = []
        self.key = ""  # the lane in hand
        self.moves: list[Change] | None = None  # what planning with its figure would move; None while it is worked out
        self._asked: object = None
        self.tabs = []
        for name, words in NAMES.items():
            button = WordButton(state, words, "", parent=self, name=f"learnt.view.{name}")
            button.setCheckable(True)
            button.clicked.connect(partial(self.show_view, name))
            self.tabs.append(button)
        self.scroll = ScrolledColumn(self)
        self.rows: list[LaneButton] = []
        self.mishaps = PickList(state, 560, self, "learnt.mishaps")
        self.mishaps.picked.connect(self._choose_mishap)
        self.mishap = ""  # the id of the one in hand
        self.photo_it = WordButton(state, "Add a photo", "", parent=self, name="learnt.photo")
        self.photo_it.clicked.connect(lambda: self.add_photo())
        self._picture: tuple[str, QPixmap] = ("", QPixmap())
        self.take = WordButton(state, "Plan with", "Ctrl+Enter", chalk=True, parent=self, name="learnt.take")
        self.take.clicked.connect(self.primary_action)
        self.keep_it = WordButton(state, "Keep", "", parent=self, name="learnt.keep")
        self.keep_it.clicked.connect(self.keep_as_it_was)
        self.back = WordButton(state, "Take back", "", parent=self, name="learnt.back")
        self.back.clicked.connect(self.take_it_back)
        state.changed.connect(self.refresh)

    # acts -----------------------------------------------------------------------------------------------------------
    @property
    def in_hand(self) -> LaneView | None:
        """The lane in hand."""
        return next((v for v in self.views if v.lane.key == self.key), None)

    def show_view(self, name: View) -> None:
        """Figures, mishaps or edges."""
        self.view = name
        self.refresh()

    def choose(self, key: str) -> None:
        """Take a lane in hand."""
        self.key = key
        self.refresh()

    def step_lane(self, by: int) -> None:
        """Up and down: another lane."""
        keys = [v.lane.key for v in self.views]
        if keys:
            at = keys.index(self.key) if self.key in keys else 0
            self.choose(keys[max(0, min(len(keys) - 1, at + by))])
            self.scroll.ensureVisible(10, keys.index(self.key) * LANE_H + LANE_H // 2, 0, LANE_H)

    def primary_action(self) -> None:
        """Plan with what the lane in hand proposes."""
        view = self.in_hand
        if view is None or not view.take:
            self.state.warn("no lane in hand proposes a figure")
            return
        self._does(
            lambda: (
                f"{view.title}: planned with {self._told(plan_with(self.state.shop, view.lane))}; Ctrl+Z or “Take back” undoes it"
            )
        )

    def _told(self, value: float) -> str:
        """A figure of the lane in hand, as the house reads it."""
        return told_figure(self.in_hand.lane.what if self.in_hand is not None else "", value, self.state.style)

    def keep_as_it_was(self) -> None:
        """Go on with what is assumed."""
        view = self.in_hand
        if view is not None:
            self._does(lambda: self._kept(view))

    def _kept(self, view: LaneView) -> str:
        keep(self.state.shop, view.lane)
        return f"{view.title}: goes on as it was"

    def take_it_back(self) -> None:
        """What the lane changed is as it was before."""
        if (view := self.in_hand) is not None:
            self._does(lambda: f"{view.title}: {self._told(take_back(self.state.shop, view.lane))} again")

    def _choose_mishap(self, found: object) -> None:
        """A mishap is in hand."""
        self.mishap = str(getattr(found, "id", ""))
        self.refresh()

    def add_photo(self, path: str | None = None) -> None:
        """A photo of the mishap in hand; the original is kept untouched."""
        one = next((m for m in mishaps_of(self.state.shop) if m.id == self.mishap), None)
        if one is None:
            self.state.warn("choose what went wrong first")
            return
        chosen = path or file_to_read(self, "A photo of it", PICTURES)
        sha = kept_picture(self.state, chosen) if chosen else None
        if sha is None:
            return
        self._does(lambda: self._with_photo(one, sha))

    def _with_photo(self, one: Mishap, sha: str) -> str:
        self.state.shop.apply(f"a photo of the {one.kind}", one.changed(photo=sha))
        return f"the photo is kept with the {one.kind}"

    def _does(self, act: Callable[[], str]) -> None:
        """Do it and say what was done. What the shop cannot keep is said."""
        try:
            self.state.notify(act())
        except ShopUnusable as fault:
            self.state.warn(str(fault))

    @override
    def heads(self) -> tuple[str, list[tuple[str, str]]] | None:
        """What the head says: how much was measured."""
        count = sum(len(v.lane.records) for v in self.views)
        speaking = sum(bool(v.take) for v in self.views)
        return "What was learnt", [(str(count), "records"), (str(len(self.views)), "lanes"), (str(speaking), "propose")]

    def first_stop(self) -> QWidget | None:
        """The lane in hand."""
        return next((r for r in self.rows if r.isVisibleTo(self) and r.view is self.in_hand), None) or super().first_stop()

    # placing --------------------------------------------------------------------------------------------------------
    def refresh(self) -> None:
        """Bring everything up to date and in its place."""
        if not self.isVisible():
            return
        self.views = [lane_view(self.state.shop, lane) for lane in lanes(self.state.shop)]
        if self.in_hand is None:
            self.key = self.views[0].lane.key if self.views else ""
        for name, button in zip(NAMES, self.tabs):
            button.setChecked(name == self.view)
        flow.row([(b, max(120, b.sizeHint().width())) for b in self.tabs], LEFT, 6, gap=8)
        shown = self.view == "figures" and bool(self.views)
        while len(self.rows) < len(self.views):
            self.rows.append(LaneButton(self))
        for k, row in enumerate(self.rows):
            row.setVisible(shown and k < len(self.views))
            if k < len(self.views):
                row.set(self.views[k], k + 1)
        self.scroll.setVisible(shown)
        flow.fill(self.scroll, 0, HEAD_H, self.width(), self.height() - FOOT_H)
        flow.column(self.rows[: len(self.views)], 0, 0, self.width(), high=LANE_H, gap=0)
        self.scroll.set_size(self.width(), len(self.views) * LANE_H)
        self._place_mishaps()
        self._ask()
        self._buttons(shown=shown)
        self.update()

    def _place_mishaps(self) -> None:
        """Everything that went wrong as a list; of the one in hand its photo."""
        rows = mishaps_of(self.state.shop) if self.view == "wrong" else []
        if rows and self.mishap not in {m.id for m in rows}:
            self.mishap = rows[0].id
        self.mishaps.setVisible(bool(rows))
        self.photo_it.setVisible(bool(rows))
        if not rows:
            return
        self.mishaps.show_rows(
            [Pick(sentence(m, self.state.style), m.on, "photo" if m.photo else "", m) for m in rows], choose=False
        )
        top = WRONG_Y + (34 + 22 * min(MOST_REPEATS, len(repeated(rows))) if repeated(rows) else 0)
        flow.fill(self.mishaps, LEFT - 8, top, self.width() - RIGHT - PHOTO_W - 20, max(top + 60, self.height() - 12))
        flow.row([(self.photo_it, PHOTO_W)], self.width() - RIGHT - PHOTO_W, self.height() - 60)

    def _buttons(self, *, shown: bool) -> None:
        view = self.in_hand if shown else None
        some = []
        for button, words in ((self.take, view.take if view else ""), (self.keep_it, view.keep if view else ""), (self.back, view.back if view else "")):  # fmt: skip
            button.setVisible(bool(words))
            if words:
                button.say(words)
                some.append((button, max(120, button.sizeHint().width())))
        flow.row_to_right(some, self.width() - RIGHT, self.height() - 56)

    def _ask(self) -> None:
        """What the figure of the lane in hand would move, worked out beside the window."""
        view = self.in_hand
        shop = self.state.shop
        plans = tuple((u.id, u.progress.done) for u in shop.plans.accepted())
        asked = (shop.kit, plans, (view.lane.key, view.lane.figure) if view is not None and view.take else "")
        if asked == self._asked:
            return
        self._asked, self.moves = asked, None
        if view is not None and view.take:
            lane = view.lane
            work = partial(changes, shop, lane, lane.figure)
            self.state.background.start(partial(shop.steady, work), lambda found: self._came(asked, found), 3)

    def _came(self, asked: object, found: object) -> None:
        if asked == self._asked and isinstance(found, list):
            self.moves = found
            self.update()

    # painting -----------------------------------------------------------------------------------------------------
    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.state.theme
        p.fillRect(self.rect(), theme.bench)
        repeats, every = went_wrong(self.state.shop) if self.view == "wrong" else ([], [])
        worn = edges(self.state.shop) if self.view == "edges" else []
        if not (self.views if self.view == "figures" else every if self.view == "wrong" else worn):
            heading, told = NOTHING[self.view]
            draw.empty(p, theme, QRectF(LEFT, 70, self.width() - LEFT - RIGHT, self.height() - 130), heading, told)
        elif self.view == "figures":
            words = "each chip is one figure that was measured; the broken post is what is planned, the wash the middle half, the bar the middle one"
            draw.text_at(p, LEFT, 78, words, theme.ink2, 13.5, room=self.width() - LEFT - RIGHT)
            self._foot(p)
        elif self.view == "wrong":
            self._wrong(p, repeats, every)
        else:
            self._edges(p, worn)

    def _foot(self, p: QPainter) -> None:
        """What the figure of the lane in hand moves."""
        theme, view = self.state.theme, self.in_hand
        top = self.height() - FOOT_H
        p.fillRect(QRectF(0, top, self.width(), FOOT_H), theme.ground)
        if view is None:
            return
        if not view.take:
            draw.text_at(p, LEFT, top + 30, view.title, theme.ink, 16, 700)
            for k, line in enumerate(wrapped(f"{view.words}; {view.more}.", 14.5, self.width() - LEFT - RIGHT)[:3]):
                draw.text_at(p, LEFT, top + 56 + 22 * k, line, theme.ink2, 14.5)
            return
        draw.text_at(p, LEFT, top + 30, f"Planning with {self._told(view.lane.figure)} would move at once", theme.ink, 16, 700)
        if self.moves is None:
            draw.text_at(p, LEFT, top + 56, "it is worked out ...", theme.ink2, 14.5)
            return
        room = self.width() - LEFT - RIGHT
        for k, change in enumerate(self.moves[:3]):
            ink = theme.wine if change.breaks else theme.ink2
            draw.text_at(p, LEFT, top + 56 + LINE_H * k, change.words, ink, 14.5, 600 if change.breaks else 400, room=room)
        if len(self.moves) > 3:
            draw.text_at(p, LEFT, top + 56 + LINE_H * 3, f"and {count_of(len(self.moves) - 3, 'more thing')}", theme.ink2, 14)

    def _wrong(self, p: QPainter, repeats: list[str], every: list[str]) -> None:
        theme, y, room = self.state.theme, 84.0, self.width() - LEFT - RIGHT - PHOTO_W - 30
        if repeats:
            draw.text_at(p, LEFT, y, "Said before the next such step, and in the note of the species", theme.ink, 16, 700)
            y += 28
            for text in repeats[:MOST_REPEATS]:
                draw.text_at(p, LEFT, y, text, theme.ochre, 14.5, 600, room=room)
                y += 22
        one = next((m for m in mishaps_of(self.state.shop) if m.id == self.mishap), None)
        box = QRectF(self.width() - RIGHT - PHOTO_W, 76, PHOTO_W, self.height() - 150)
        picture = self._pictured(one)
        if picture is None:
            draw.text_at(p, box.x(), box.y() + 20, "no photo of it", theme.ink2, 14)
            return
        size = picture.size().scaled(box.size().toSize(), Qt.AspectRatioMode.KeepAspectRatio)
        p.drawPixmap(QRectF(box.x(), box.y(), size.width(), size.height()), picture, QRectF(picture.rect()))

    def _pictured(self, one: Mishap | None) -> QPixmap | None:
        """The photo of a mishap; None where there is none that can be read."""
        if one is None or not one.photo:
            return None
        if self._picture[0] != one.photo:
            found = QPixmap()
            try:
                found.loadFromData(read_photo(self.state.shop.file.folder, one.photo))
            except OSError:
                found = QPixmap()
            self._picture = (one.photo, found)
        return None if self._picture[1].isNull() else self._picture[1]

    def _edges(self, p: QPainter, worn: list[tuple[str, str, bool]]) -> None:
        theme, y = self.state.theme, 96.0
        for name, words, dull in worn:
            draw.text_at(p, LEFT, y, name, theme.ink, 15.5, 700, room=STRIP_X - LEFT)
            told = f"{words}: look at it before dear or figured wood" if dull else words
            draw.text_at(
                p,
                STRIP_X,
                y,
                told,
                theme.ochre if dull else theme.ink2,
                15,
                600 if dull else 400,
                room=self.width() - RIGHT - STRIP_X,
            )
            y += 30
        draw.text_at(p, LEFT, y + 12, "Say it when one is sharp again: sharpened table saw", theme.ink2, 14)
