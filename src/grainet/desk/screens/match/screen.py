"""Match (F6): the opened board with both half outlines on it, the slide with its ridge, why, and the four ways to open it."""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from dataclasses import dataclass, replace
from pathlib import Path
from typing import TYPE_CHECKING, Self

from pydantic import ValidationError
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QImage, QPainter, QPen, QPixmap, QResizeEvent, QShowEvent
from PySide6.QtWidgets import QMenu, QWidget
from typing_extensions import override

from grainet.design.design import Design
from grainet.design.part import Part
from grainet.design.shape import as_array
from grainet.design.ways import FROM_ONE_BOARD, WAYS, way_of
from grainet.desk.painting import draw
from grainet.desk.painting.axis import Axis
from grainet.desk.painting.tokens import AXIS_X, LEFT, RIGHT
from grainet.desk.painting.veil import veil_of
from grainet.desk.screens.match.book import Book
from grainet.desk.screens.match.joined import JoinedPage
from grainet.desk.screens.match.mates import MatesPage
from grainet.desk.screens.match.opened import OpenedPage
from grainet.desk.screens.match.openings import OpeningCard, Ridge
from grainet.desk.screens.match.why import LOUPE, SECTION_W, paint_why
from grainet.desk.screens.screen import Desk, Screen
from grainet.desk.services.dialogs import file_to_read
from grainet.desk.services.planning import Planning
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import WordButton, left_words
from grainet.job.answer import Plan
from grainet.job.job import Job
from grainet.match.opening import Seam
from grainet.match.pairing import Beside
from grainet.present import match_view
from grainet.present.end_trim import EndTrim, end_trims
from grainet.present.fit_view import FitView, fit_on_rack
from grainet.present.joined_view import Joined, hands_at, joined_of
from grainet.present.match_view import Laid, Opening, Pair, Slide
from grainet.present.too_high import TooHigh, too_high
from grainet.session.commands.command import Command
from grainet.wood.piece import Piece
from grainet.wood.species import short_name
from grainet.wood.units import LENGTH, entry_unit, parse_length
from grainet.wood.value import BadEntry
from grainet.work.matching import Matched, OpenedPhoto, of_pair, with_pair

if TYPE_CHECKING:
    from grainet.fit.board_geometry import BoardGeometry
    from grainet.instruments.stand_ins import StandIn
    from grainet.session.shop import Shop

HEAD_H, RIDGE_H, WHY_H, WAYS_H, CARDS_H, GAP = 38, 56, 40, 44, 132, 8
BUTTON_H, OFFERS_TOP, OFFER_H = 34, 116, 50
LIMITS = {"colour": "colour", "rings": "rings_deg", "density": "density_kg_m3", "slope": "slope_deg", "loudness": "loudness"}
NOTHING = (
    "Here a pair of leaves is opened like a book before anything is cut: both halves on the real wood, how far the lines will miss each other at the seam, and four ways to open it.",
    "It needs a plan that resaws a pair. Draw up a guitar with a matched top (F4), and plan it: Lay out (F5).",
)


APART = (
    "These halves come from one board, and each is laid for itself in Lay out (F5): only halves that mirror one another are opened or folded as a pair here.",
)


@dataclass(frozen=True)
class Found:
    """What is worked out of a pair off the window's thread."""

    view: FitView
    sheet: BoardGeometry
    laid: dict[Seam, Laid]
    why_not: str
    slides: dict[Seam, Slide]
    places: dict[Seam, list[Laid]]  # wherever it may lie, by its tail


def work_out(shop: Shop, pair: Pair) -> Found | None:
    """Where a pair lies with either edge at the seam, and how far it slides each way; None where the board is gone."""
    fit = fit_on_rack(shop, pair.piece, pair.part)
    if fit is None:
        return None
    view, sheet = fit
    here = match_view.laid_as(pair)
    other, why = match_view.other_seam(here, sheet, view)
    laid: dict[Seam, Laid] = {here.seam: here} if other is None else {here.seam: here, other.seam: other}
    slides = {seam: match_view.slide_of(one, sheet, view) for seam, one in laid.items()}
    return Found(view, sheet, laid, why, slides, {seam: match_view.places_of(one, view) for seam, one in laid.items()})


class Match(Screen):
    """The screen."""

    @property
    def has_axis(self) -> bool:
        """Whether an opened board lies on the window's axis."""
        self._look()
        return self.pair is not None and not self.mates_shown and not self.opened.isVisibleTo(self)

    @classmethod
    def made(cls, desk: Desk) -> Self:
        """A screen in a window."""
        return cls(desk.state, desk.planning, desk.camera)

    def __init__(self, state: State, planning: Planning, camera: Callable[[], StandIn]) -> None:
        super().__init__(state)
        self.planning, self.camera = planning, camera
        self.setObjectName("match")
        self.axis_now = Axis(0, 2400, 1280)
        self.pairs: list[Pair] = []
        self.at = 0  # which of the pairs
        self.joined_at: int | None = None  # which of the pairs from one face was asked for
        self.mating = False  # whether boards that are no mates are shown though there is a pair of leaves
        self.chosen = 1
        self.ways: list[Opening] = []
        self.found: Found | None = None
        self.veil: QImage | None = None
        self.laid: dict[Seam, Laid] = {}
        self.outer_skim, self.lamp_across = False, False
        self.ridge: tuple[list[float], list[float | None]] = ([], [])
        self._of: tuple[Job, Plan] | None = None
        self._asked: object = None
        self._board_of: object = None  # the pair whose board was taken in hand
        self._ridge_of: object = None
        self.book, self.ridge_line = Book(self), Ridge(self)
        self.cards = [OpeningCard(self, k) for k in (1, 2, 3, 4)]
        self.mates = MatesPage(self)
        self._halves_of: object = None
        self.joined = JoinedPage(self, self)
        self.joined.hide()
        self.joined_pairs: list[Joined] = []  # from one face: folded or slipped
        self.offers: list[WordButton] = []  # what else makes a pair that stands too high for the saw
        self.pair_buttons: list[WordButton] = []
        self._make_buttons()
        self.opened = OpenedPage(self)
        shown = (
            self.book,
            self.ridge_line,
            self.lock_it,
            self.lamp,
            self.mirror_it,
            self.end_it,
            self.better,
            self.photo,
            self.take_them,
        )
        for one in (*shown, self.mates, *self.cards):
            one.hide()  # until there is a pair
        state.changed.connect(self._changed)
        planning.changed.connect(self.refresh)
        planning.made.connect(lambda *_: self.refresh())
        planning.over.connect(lambda _: self.refresh())

    def _make_buttons(self) -> None:
        def made(words: str, key: str, name: str, does: Callable[[], object], *, chalk: bool = False) -> WordButton:
            button = WordButton(self.state, words, key, chalk=chalk, parent=self, name=f"match.{name}")
            button.clicked.connect(lambda _=False: does())
            button.setFixedHeight(BUTTON_H)
            return button

        self.lock_it = made("Lock it", "Ctrl+Enter", "lock", self.lock, chalk=True)
        self.take_them = made("Take two boards", "Ctrl+Enter", "take", self.take_mates, chalk=True)
        self.lamp = made("Lamp along: alike", "Alt+L", "lamp", self.turn_lamp)
        self.mirror_it = made("Mirror both halves", "Alt+M", "mirror", self.mirror)
        self.end_it = made("Cut at an end", "Alt+E", "end", self.lose_an_end)
        self.better = made("", "", "better", lambda: self.skim(outer=not self.outer_skim))
        self.photo = made("Photo of it, open", "Alt+O", "takePhoto", self.ask_photo)

    def _changed(self) -> None:
        """Something of the shop changed: with an axis the window tells it."""
        if self.isVisible() and not self.has_axis:
            self.refresh()

    # what is shown ------------------------------------------------------------------------------------------------
    @property
    def pair(self) -> Pair | None:
        """The pair in hand."""
        return self.pairs[min(self.at, len(self.pairs) - 1)] if self.pairs else None

    @property
    def pair_in_hand(self) -> object:
        """What tells the pair in hand from any other, whatever is kept of it."""
        return (self.state.design_id, self.pair.key) if self.pair is not None else None

    @property
    def opening(self) -> Opening:
        """The chosen opening."""
        return self.ways[self.chosen - 1]

    @property
    def shown(self) -> Laid:
        """How the pair lies for the chosen opening."""
        laid = self.opening.laid
        assert laid is not None
        return laid

    @property
    def slide(self) -> Slide:
        """The room that is left each way from where it lies now."""
        if self.found is None or self.shown.seam not in self.found.slides:
            return Slide(0.0, 0.0)
        told, start = self.found.slides[self.shown.seam], self.found.laid[self.shown.seam]
        by = self.shown.tail_mm - start.tail_mm
        return Slide(told.back_mm + by, told.on_mm - by, told.trouble)

    @property
    def view(self) -> FitView | None:
        """Where the part can lie on the board; None while it is worked out."""
        return self.found.view if self.found is not None else None

    @property
    def moved(self) -> bool:
        """Whether the pair is held elsewhere than the plan has it."""
        if self.pair is None or not self.ways:
            return False
        planned = match_view.laid_as(self.pair)
        apart = abs(planned.x - self.shown.x) + abs(planned.y - self.shown.y)
        return apart > 0.05 or planned.seam != self.shown.seam or planned.tail_left != self.shown.tail_left

    @property
    def limit_mm(self) -> float:
        """How far lines may miss in this house."""
        return self.state.shop.kit.match_limit_mm

    @property
    def kept(self) -> Matched | None:
        """What was locked of this pair."""
        pair = self.pair
        return None if pair is None else of_pair(self.planning.matched_now(), *pair.key, first=pair.first)

    def picture(self, piece: Piece, depth_mm: float) -> QPixmap | None:
        """The wood at a depth, from its photo where that shows it; None while it is painted."""
        if depth_mm < 0.05 and piece.photo("face1") is not None:
            return self.state.pictures.get(piece, "face1")
        return self.state.pictures.get(piece, f"at:{depth_mm:.1f}")

    def side_of(self, *, up: bool) -> str:
        """Which side of the guitar a half is, seen from the front: with the tail at the left the bass side of a right-handed one is up."""
        g = self.state.shop.instruments.find(self.state.design_id or "")
        right = g is None or g.hand == "right"
        return "bass side" if (up == self.shown.tail_left) == right else "treble side"

    # what is done -------------------------------------------------------------------------------------------------
    def typed_here(self) -> list[tuple[str, str, str]]:
        """What may be typed here alone."""
        return [
            ("place", "puts the tail there", "430"),
            ("open 1 to 4", "another of the four openings", "open 2"),
            ("limit", "how far lines may miss in this house", "limit 1.5"),
            ("skim outer", "only the faces that do not show are skimmed, or both", "skim outer"),
            ("measured", "how far the lines missed once it was sawn", "measured 1.6"),
        ]

    def first_stop(self) -> QWidget | None:
        """The book."""
        if self.opened.isVisible():
            return self.opened
        return self.joined if self.joined_shown else self.book if self.ways else super().first_stop()

    def primary_action(self) -> None:
        """Lock the chosen opening, or take the two boards that are opened; of a photo keep what it tells."""
        if self.opened.isVisible():
            self.opened.primary_action()
        elif self.mates.isVisible():
            self.take_mates()
        else:
            self.lock()

    def choose(self, number: int) -> None:
        """Another opening is the chosen one."""
        if not self.ways:
            return
        one = self.ways[max(1, min(4, number)) - 1]
        if one.laid is None:
            self.state.warn(f"{one.seam} edge in: {one.why_not}")
            return
        self.chosen = self.ways.index(one) + 1
        self.refresh()

    def step(self, by: int) -> None:
        """The opening beside that can be."""
        able = [k + 1 for k, w in enumerate(self.ways) if w.laid is not None]
        if able:
            at = able.index(self.chosen) if self.chosen in able else 0
            self.choose(able[max(0, min(len(able) - 1, at + by))])
            self.cards[self.chosen - 1].setFocus()

    def slide_to(self, tail_mm: float) -> None:
        """Put the tail elsewhere along the seam, as far as the board gives it."""
        if not self.ways or self.found is None:
            return
        if self.kept is not None and self.kept.measured_mm is not None:
            self.state.warn("this pair is sawn and measured; it stays where it is")
            return
        self.laid[self.shown.seam] = self._at_tail(tail_mm)
        self._reckon()
        self._place_book()
        for one in (self, self.book, self.ridge_line, *self.cards):
            one.update()

    def _at_tail(self, tail_mm: float) -> Laid:
        """The pair with its tail as near to a mark as the board gives it: along the run where it lies, or on another."""
        assert self.found is not None
        seam, now, room = self.shown.seam, self.shown.tail_mm, self.slide
        low, high = now - max(0.0, room.back_mm), now + max(0.0, room.on_mm)
        if low - 0.05 <= tail_mm <= high + 0.05:
            return self.shown.at_tail(max(low, min(high, tail_mm)))
        near = min(self.found.places[seam], key=lambda one: abs(one.tail_mm - tail_mm), default=self.shown)
        if abs(near.tail_mm - tail_mm) > min(abs(low - tail_mm), abs(high - tail_mm)) - 1:
            return self.shown.at_tail(max(low, min(high, tail_mm)))
        slides = {**self.found.slides, seam: match_view.slide_of(near, self.found.sheet, self.found.view)}
        self.found = replace(self.found, laid={**self.found.laid, seam: near}, slides=slides)
        return near

    def mirror(self) -> None:
        """Mirror both halves: the tail at the other end, the same edge at the seam."""
        if not self.ways or self.found is None:
            return
        if self.kept is not None and self.kept.measured_mm is not None:
            self.state.warn("this pair is sawn and measured; it stays where it is")
            return
        other = match_view.mirrored(self.shown, self.found.sheet, self.found.view)
        if other is None:
            self.state.warn("the board does not give it with its tail at the other end")
            return
        seam = other.seam
        self.laid[seam] = other
        slides = {**self.found.slides, seam: match_view.slide_of(other, self.found.sheet, self.found.view)}
        places = {**self.found.places, seam: match_view.places_of(other, self.found.view)}
        self.found = replace(self.found, laid={**self.found.laid, seam: other}, slides=slides, places=places)
        self.state.notify("both halves are mirrored: bass and treble have changed sides")
        self.refresh()

    @property
    def end_trims(self) -> list[EndTrim]:
        """Which end of the board to lose: both choices, the better one first."""
        pair = self.pair
        if pair is None or not self.ways or self.found is None:
            return []
        return end_trims(pair.piece, self.shown.ring, max(0.0, self.slide.back_mm), max(0.0, self.slide.on_mm))

    def _next_end(self) -> EndTrim | None:
        """The choice that a press makes: the better one, or the other one where the pair lies so already."""
        choices = self.end_trims
        return next((one for one in choices if abs(one.by_mm) > 0.5), None)

    def lose_an_end(self) -> None:
        """Slide the pair so that all that is left lies at one end of the board."""
        one = self._next_end()
        if one is None:
            self.state.warn("the pair does not slide on this board; it stays where it lies")
            return
        self.slide_to(self.shown.tail_mm + one.by_mm)
        self.state.notify(one.told)
        self.refresh()

    def turn_lamp(self) -> None:
        """The light along the seam, or across it."""
        self.lamp_across = not self.lamp_across
        self.refresh()

    def skim(self, *, outer: bool) -> None:
        """Skim only the faces that do not show, or all of them."""
        self.outer_skim = outer
        self.refresh()

    def lock(self) -> None:
        """Keep the chosen opening; where the pair was slid or turned, pin it there and have the rest planned again."""
        pair, design = self.pair, self.state.design
        if self.joined_shown and design is not None:
            self._lock_joined(design)
            return
        if pair is None or design is None or not self.ways:
            self.state.warn("there is no pair to lock; plan a build that resaws one: F5")
            return
        one = self.opening
        before = self.kept
        measured = before.measured_mm if before is not None and (before.seam, before.show) == (one.seam, one.show) else None
        new = Matched(
            part=pair.upper.part,
            set=pair.upper.set,
            seam=one.seam,
            show=one.show,
            outer_skim=self.outer_skim,
            measured_mm=measured,
            photo=before.photo if before is not None and measured is not None else None,
        )
        moved = self.moved
        self._keep(new, f"{pair.name}: {one.seam} edge in, {one.show} faces up", fresh=moved)
        if moved:
            from grainet.present.by_hand import Hand

            laid = self.shown
            self.planning.gather(design, Hand(pair.part.id, pair.piece.id, laid.way, laid.x, laid.y, pair.upper))
            self.state.notify(f"{pair.name} is locked there; the rest is planned round it. Alt+S keeps the plan")
        else:
            self.state.notify(f"{pair.name} is locked: {one.seam} edge in, {one.show} faces up")
        self.state.changed.emit()

    def _lock_joined(self, design: Design) -> None:
        """Pin both halves from one face where they were slid, and have the rest planned round them."""
        held = self.joined.pair
        if held is None or abs(self.joined.by_mm) < 0.05:
            self.state.notify("it lies where the plan has it; slide it first to have it lie elsewhere")
            return
        self.planning.gather(design, *hands_at(held, self.joined.by_mm))
        self.state.notify(f"{held.part.letter} is locked there; the rest is planned round it. Alt+S keeps the plan")

    def measure(self, mm: float, photo: OpenedPhoto | None = None) -> None:
        """How far the lines missed once the pair was sawn, by the eye or by a photo."""
        kept = self.kept
        if kept is None or self.pair is None:
            self.state.warn("lock an opening first: Ctrl+Enter; what is measured stays with it")
            return
        pair = self.pair
        slid = photo is not None and photo.tail_mm is not None
        where = f", its outline slid {photo.tail_mm:g} from the end" if photo is not None and slid else ""
        if photo is not None and photo.back:  # the faces that show tell the miss, not those that are glued down
            new = kept.changed(part=pair.upper.part, set=pair.upper.set, photo=photo)
            self._keep(new, f"{pair.name}: a photo of its back{where}")
            self.state.notify(f"the photo of its back is kept{where}")
            self.refresh()
            return
        new = kept.changed(part=pair.upper.part, set=pair.upper.set, measured_mm=mm, photo=photo)
        self._keep(new, f"{pair.name}: measured {mm:g}{where}")
        told = self.opening.forecast.miss_mm
        self.state.notify(f"measured {mm:g}" + (f", {told:.1f} was forecast" if told is not None else "") + where)
        self.refresh()

    def photograph(self, part: str) -> None:
        """The pair of a part taken in hand, and a photo of it asked for."""
        self._look()
        k = next((k for k, pair in enumerate(self.pairs) if part in (pair.part.id, pair.part.id.partition(".")[2])), None)
        if k is None:  # never a photo kept with another pair
            self.state.warn("the plan that is shown has no such pair; show the one that is sawn: F5")
            return
        self.take_pair(k)
        self.refresh()
        self.ask_photo()

    def ask_photo(self) -> None:
        """A photo of the sawn pair as it lies open: by the camera or from a file; or the one that was kept, to look at its marks again."""
        if self.pair is None or not self.ways or self.mates_shown or self.joined_shown:
            self.state.warn("there is no opened pair here; plan a build that resaws one: F5")
            return
        if self.kept is None or not self.state.design_id:
            self.state.warn("lock an opening first: Ctrl+Enter; what the photo tells stays with it")
            return
        menu = QMenu(self)
        menu.addAction("Take it with the camera", lambda: self.open_photo("camera"))
        menu.addAction("From a file (PNG or JPEG) ...", lambda: self.open_photo("file"))
        if self.kept.photo is not None:
            menu.addAction("Look at the marks again", lambda: self.open_photo("again"))
        menu.setObjectName("match.takePhoto.menu")
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.popup(self.photo.mapToGlobal(self.photo.rect().bottomLeft()))

    def open_photo(self, how: str, path: str = "") -> None:
        """Show a photo of the opened pair: by the ``camera``, from a ``file``, or the one that was kept ``again``."""
        pair, kept = self.pair, self.kept
        if pair is None or kept is None:
            return
        if how == "file" and not path:
            path = file_to_read(self, "A photo of the pair, open", "Pictures (*.png *.jpg *.jpeg)")
            if not path:
                return
        again = kept.photo if how == "again" else None
        (ax, ay), (bx, by) = self.shown.joint
        camera, one, laid, folder = self.camera(), self.opening, self.shown, self.state.shop.file.folder

        def read() -> bytes:
            if again is not None:
                try:
                    return read_photo(folder, again.sha)
                except OSError as fault:
                    raise Unusable([f"the original of this photo is gone: {fault.strerror}"]) from None
            if how == "file":
                return read_picture_bytes(Path(path))
            depths = one.depths_mm[::-1] if one.show == "sawn" else one.depths_mm
            above = laid.seam == "near"
            return encode(take_opened_photo(camera, pair.piece, depths, laid.joint, laid.ring, above=above)[0])

        from grainet.exchange.json_file import Unusable
        from grainet.exchange.picture_file import encode, read_picture_bytes
        from grainet.instruments.camera import take_opened_photo
        from grainet.store.photos import read_photo

        self.opened.load(read, math.hypot(bx - ax, by - ay), again)

    def _keep(self, new: Matched, label: str, *, fresh: bool = False) -> None:
        """Keep what is said of a pair with the plan that is kept, or beside the one that is not kept yet."""
        design_id = self.state.design_id or ""
        shown, laid = self.planning.shown(), self.state.shop.plans.accepted_for(design_id)
        if not fresh and laid is not None and shown == (laid.job, laid.plan):
            self.state.keep(label, laid.cut_plan.changed(matched=with_pair(laid.cut_plan.matched, new)))
        else:
            self.planning.matched[design_id] = with_pair(self.planning.matched_now(), new)

    # boards that are no mates -------------------------------------------------------------------------------------
    @property
    def half(self) -> Part | None:
        """The part of the build in hand that is wanted twice and comes from two boards or one without a match; None where there is none."""
        design = self.state.design
        if design is None:
            return None
        twice = {name for recipe in design.recipes for name, count in recipe.needs.items() if count == 2}
        halves = [q for q in design.parts if q.leaves == 1 and (q.id in twice or self._other_half(q) is not q)]
        return next((q for q in halves if not self._from_one_face(q)), None)

    def _from_one_face(self, half: Part) -> bool:
        """Whether a half is to be folded or slipped: from one board, not from two that go together."""
        guitar = self.state.shop.instruments.find(self.state.design_id or "")
        component = half.id.split(".")[1] if half.id.count(".") else ""
        return guitar is not None and component in WAYS and way_of(guitar, component) in FROM_ONE_BOARD

    def _other_half(self, half: Part) -> Part:
        """The half that meets it at the seam: itself where both are alike, else the one of the other side."""
        design, name = self.state.design, half.id.removesuffix(".bass") + ".treble"
        others = design.parts if design is not None and half.id.endswith(".bass") else ()
        return next((q for q in others if q.id == name), half)

    @property
    def joined_shown(self) -> bool:
        """Whether halves from one face are shown: the plan has no pair of leaves, or they were asked for."""
        return bool(self.joined_pairs) and (not self.pairs or self.joined_at is not None) and not self.mating

    @property
    def too_high(self) -> TooHigh | None:
        """The part of the build in hand that no saw of the shop can resaw, and what else makes a pair of it."""
        design, kit = self.state.design, self.state.shop.kit
        if design is None or self.pairs or self.joined_pairs:
            return None
        return too_high(design, kit.cuts, kit.machines, self.state.shop.instruments.find(design.id))

    def _place_offers(self) -> None:
        found = None if self.mates_shown else self.too_high
        rows = [o for o in found.offers if o.makes is not None] if found is not None else []
        if [b.property("offer") for b in self.offers] != [o.name for o in rows]:
            for old in self.offers:
                old.deleteLater()
            self.offers = []
            for one in rows:
                button = WordButton(self.state, one.name, parent=self, name=f"match.offer.{one.name.split()[-1]}")
                button.setProperty("offer", one.name)
                button.setFixedHeight(BUTTON_H)
                button.clicked.connect(lambda _=False, name=one.name: self.take_offer(name))
                button.show()
                self.offers.append(button)
        for k, button in enumerate(self.offers):
            flow.row([(button, 200)], AXIS_X, OFFERS_TOP + k * OFFER_H, high=BUTTON_H)

    def take_offer(self, name: str) -> None:
        """Make the pair another way; the build is planned with it."""
        found = self.too_high
        one = next((o for o in found.offers if o.name == name), None) if found is not None else None
        if found is None or one is None or one.makes is None:
            return
        if self.state.keep_instrument(f"{found.part.shown_name}: {name.lower()}", one.makes):
            self.state.plan_wanted.emit(one.makes.id)

    def _paint_offers(self, p: QPainter, found: TooHigh) -> None:
        """Why there is nothing to match, and the ways out."""
        theme, room = self.state.theme, self.width() - AXIS_X - RIGHT
        draw.text_at(p, AXIS_X, 60, found.told(self.state.style), theme.wine, 20, 700, room=room)
        words = "It is not resawn here. What else makes a pair of it, and what each loses:"
        draw.text_at(p, AXIS_X, 92, words, theme.ink2, 15, room=room)
        able = [o for o in found.offers if o.makes is not None]
        for k, one in enumerate([*able, *(o for o in found.offers if o.makes is None)]):
            y = OFFERS_TOP + k * OFFER_H + 23
            x = AXIS_X + 216
            if one.makes is None:
                draw.text_at(p, AXIS_X, y, one.name, theme.ink, 15, 600, room=210)
            draw.text_at(p, x, y, one.words, theme.ink, 15, room=self.width() - RIGHT - x)

    @property
    def mates_shown(self) -> bool:
        """Whether boards that are no mates are shown: they were asked for, or the build has no pair of leaves."""
        design = self.state.design
        leaves = design is not None and any(q.leaves > 1 for q in design.parts)
        return self.half is not None and (self.mating or (not leaves and not self.joined_pairs))

    def _look_for_mates(self) -> None:
        """Ask which boards hold a half each, once for a state of the shop."""
        part, shop = self.half, self.state.shop
        asked = (part, shop.version)
        if part is None or asked == self._halves_of:
            return
        self._halves_of, today = asked, self.state.today

        def take(found: object) -> None:
            from grainet.session.mates import Halves

            if isinstance(found, Halves) and asked == self._halves_of:
                self.mates.show_halves(found)

        from grainet.session.mates import halves_of

        self.state.background.start(lambda: halves_of(shop, part, today), take, 2)

    def open_mates(self, pair: Beside) -> None:
        """Lay a half on each of two boards, off the window's thread."""
        part, shop = self.half, self.state.shop
        if part is None:
            return
        other = self._other_half(part)

        def work() -> object:
            return match_view.lay_two(shop, part, pair.one, pair.other, other)

        def take(found: object) -> None:
            if isinstance(found, tuple) and self.mates.chosen is pair:
                self.mates.opened = found
                self.mates.update()

        self.state.background.start(work, take, 3)

    def take_mates(self) -> None:
        """Take the two boards that are opened: a half is pinned on each, and the rest is planned round them."""
        from grainet.present.by_hand import Hand

        part, design, pair, opened = self.half, self.state.design, self.mates.chosen, self.mates.opened
        if part is None or design is None or pair is None or opened is None:
            self.state.warn("there are no two boards to take; each must hold a half")
            return
        hands = [Hand(one.way.part.id, number, one.way, one.x, one.y) for number, one in zip((pair.one, pair.other), opened)]
        self.planning.gather(design, *hands)
        self.state.notify(f"{pair.one} and {pair.other} are taken; the rest is planned round them. Alt+S keeps the plan: F5")

    # the tape line ------------------------------------------------------------------------------------------------
    @override
    def reads(self, line: str) -> Command | None:
        """What a line means here: a place for the tail, or one of the words of this screen; None for all else. Raises BadEntry."""
        if self.mates.isVisible():
            return self._mates_word(line)
        if not self.ways:
            return None
        word, _, rest = line.strip().lower().partition(" ")
        if re.fullmatch(LENGTH, line.strip(), re.I):
            return self._tail(parse_length(line, entry_unit(self.state.style)).mm)
        acts: dict[str, Callable[[str], Command]] = {
            "open": self._open_word, "limit": self._limit_word, "skim": self._skim_word, "measured": self._measured_word,
        }  # fmt: skip
        return acts[word](rest.strip()) if word in acts else None

    def _mates_word(self, line: str) -> Command | None:
        """Two numbers open a pair; a property's name and a figure set its limit."""
        words = line.split()
        if len(words) == 2 and (found := self.mates.named(*words)) is not None:
            return Command(f"No. {words[0]} beside No. {words[1]}: {found.score:g}", does=lambda: self.mates.choose(found))
        name = LIMITS.get(words[0].lower()) if len(words) == 2 else None
        if name is None:
            return None
        limit, kit = _figure(words[1], words[0], 0.1, 500), self.state.shop.kit

        def act() -> None:
            try:
                new = kit.pair_limits.changed(**{name: limit})
            except ValidationError:
                self.state.warn(f"{words[0]} {limit:g} is no limit of it")
                return
            self.state.keep(f"boards may lie {limit:g} apart in {words[0]}", kit.changed(pair_limits=new))

        return Command(f"boards may lie {limit:g} apart in {words[0]}", does=act)

    def _tail(self, mm: float) -> Command:
        assert self.pair is not None
        told = match_view.forecast_at(self.pair, self.shown.at_tail(mm), self.opening.between).miss_mm
        miss = f"the lines miss by {told:.1f}" if told is not None else "the rings are not read, so no miss is forecast"
        tails, room, now = self._tails(), self.slide, self.shown.tail_mm
        near = min(tails, key=lambda t: abs(t - mm))
        if abs(near - mm) > 5 and not now - room.back_mm - 0.05 <= mm <= now + room.on_mm + 0.05:
            raise BadEntry(
                f"{self.state.told(mm, 'g')}: the board does not give it there; the nearest place for the tail is {self.state.told(near)}."
            )
        return Command(f"{self.state.told(mm, 'g')}: {miss}", does=lambda: self.slide_to(mm))

    def _open_word(self, rest: str) -> Command:
        if rest not in ("1", "2", "3", "4"):
            raise BadEntry(f"open {rest}: needs one of the openings 1 to 4, as in: open 2.")
        one = self.ways[int(rest) - 1]
        return Command(f"open {rest}: {one.seam} edge in, {one.show} faces up", does=lambda: self.choose(int(rest)))

    def _limit_word(self, rest: str) -> Command:
        mm = _figure(rest, "limit", 0.1, 50)
        kit = self.state.shop.kit

        def act() -> None:
            self.state.keep(f"lines may miss by {mm:g}", kit.changed(match_limit_mm=mm))

        return Command(f"lines may miss by {mm:g} in this house", does=act)

    def _skim_word(self, rest: str) -> Command:
        if rest not in ("outer", "both"):
            raise BadEntry(f"skim {rest}: needs outer (only the faces that do not show) or both.")
        told = "only the faces that do not show are skimmed" if rest == "outer" else "the faces that meet are skimmed"
        return Command(told, does=lambda: self.skim(outer=rest == "outer"))

    def _measured_word(self, rest: str) -> Command:
        mm = _figure(rest, "measured", 0, 200)
        return Command(f"the lines missed by {mm:g} once sawn", does=lambda: self.measure(mm))

    @override
    def showEvent(self, event: QShowEvent) -> None:
        super().showEvent(event)
        self.refresh()

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        if not self.has_axis:  # else the window lays it out with its axis
            self.refresh()

    # working out --------------------------------------------------------------------------------------------------
    def _look(self) -> None:
        """The pairs of the plan that is shown; a new plan begins with its first one."""
        shown = self.planning.shown()
        if shown is None or shown != self._of:
            self._of, held = shown, self.pair
            self.pairs = match_view.pairs_of(*shown) if shown is not None else []
            self.joined_pairs = joined_of(*shown) if shown is not None else []
            self.at = next((k for k, q in enumerate(self.pairs) if held is not None and q.key == held.key), 0)
        pair = self.pair
        asked = (pair, self.state.shop.kit.cuts)
        if pair is not None and self._asked != asked:
            self._begin(pair, asked)
        if pair is None:
            self.ways, self._asked = [], None

    def _begin(self, pair: Pair, asked: object) -> None:
        """Show a pair as it is planned, and have the rest worked out."""
        self._asked, self.found, self.veil = asked, None, None
        here = match_view.laid_as(pair)
        self.laid = {here.seam: here}
        kept = self.kept
        self.outer_skim = kept.outer_skim if kept is not None else False
        self._reckon()
        self.chosen = match_view.chosen_of(self.ways, kept, here) + 1
        if self.ways[self.chosen - 1].laid is None:
            self.chosen = match_view.chosen_of(self.ways, None, here) + 1
        shop = self.state.shop
        self.state.background.start(lambda: work_out(shop, pair), lambda made: self._take(asked, made), 3)

    def _take_board(self) -> None:
        """The pair's board is the piece in hand, from when the pair is first seen on."""
        if self.pair is not None and self._board_of != self._asked:
            self._board_of = self._asked
            if self.state.piece_id != self.pair.piece.id:
                self.state.choose_piece(self.pair.piece.id)

    def _take(self, asked: object, made: object) -> None:
        if asked != self._asked or not isinstance(made, Found):
            return
        self.found, self.veil, self.laid = made, veil_of(made.view), dict(made.laid)
        self.refresh()

    def _reckon(self) -> None:
        """What each opening comes to, where the pair lies for it now."""
        pair, plan = self.pair, self._of
        if pair is None or plan is None:
            self.ways = []
            return
        why = "not worked out yet" if self.found is None else self.found.why_not
        self.ways = match_view.openings_of(plan[0], pair, self.laid, why, outer_skim=self.outer_skim)
        if self.ways[self.chosen - 1].laid is None:
            self.chosen = next(k for k, w in enumerate(self.ways) if w.laid is not None) + 1
        key = (self.found, self.shown.seam, self.shown.tail_left, self.opening.between)
        if key != self._ridge_of:  # it tells of every place, so a slide leaves it as it is
            self._ridge_of, tails = key, self._tails()
            self.ridge = (tails, match_view.ridge(pair, self.shown, self.opening.between, tails))

    def _tails(self) -> list[float]:
        """Where the tail may stand, some hundred places of it."""
        now, room = self.shown.tail_mm, self.slide
        tails = {round(now + by, 1) for by in (-room.back_mm, 0.0, room.on_mm)}
        places = self.found.places.get(self.shown.seam, []) if self.found is not None else []
        return sorted(tails | {round(one.tail_mm, 1) for one in places[:: 1 + len(places) // 400]})

    # layout -------------------------------------------------------------------------------------------------------
    def axis(self, width: int, height: int) -> Axis:
        """The axis that fits the opened board into so many px."""
        self._look()
        if self.pair is None:
            return Axis(0, 2400, width)
        x1 = self.pair.piece.extents[2]
        room = max(80, height - HEAD_H - RIDGE_H - WHY_H - WAYS_H - CARDS_H - 4 * GAP)
        scale = min((width - AXIS_X - RIGHT) / max(1.0, x1), room / max(1.0, 2 * self._deep()))
        return Axis(0, (width - AXIS_X - RIGHT) / max(scale, 0.02), width)

    def _deep(self) -> float:
        """How far the leaf's wood reaches from the seam, mm."""
        pair = self.pair
        if pair is None or not self.ways:
            return 200.0
        return max(20.0, float(self.shown.across(as_array(pair.piece.outline)).max()))

    def set_axis(self, axis: Axis) -> None:
        """Show the board on an axis."""
        self.axis_now = axis
        self.refresh()

    def _book_box(self) -> QRectF:
        high = 2 * self._deep() * self.axis_now.px_per_mm + 2
        return QRectF(AXIS_X - 8, HEAD_H + GAP, self.width() - AXIS_X - RIGHT + 22, high)

    def refresh(self) -> None:
        """Bring everything up to date and in its place."""
        if not self.isVisible():
            return
        self._look()
        self._reckon()
        there = bool(self.ways)
        self.mates.setVisible(self.mates_shown)
        there = there and not self.mates_shown and not self.joined_shown
        self._place_joined()
        if self.mates.isVisible():
            self._look_for_mates()
            flow.fill(self.mates, 0, 0, self.width(), self.height())
            self.mates.place()
            flow.row_to_right([(self.take_them, 230)], self.width() - RIGHT, 44, high=BUTTON_H)
            pair = self.mates.chosen
            self.take_them.say(f"Take {pair.one} and {pair.other}" if pair else "Take two boards", enabled=pair is not None)
            self.take_them.raise_()
        self.take_them.setVisible(self.mates.isVisible())
        for one in (self.book, self.ridge_line, self.lamp, self.mirror_it, self.end_it, self.better, self.photo, *self.cards):
            one.setVisible(there)
        self.lock_it.setVisible(there or self.joined_shown)
        if there:
            self._take_board()
        self._place_pairs()
        self._place_offers()
        if self.opened.isVisible() and self.opened.of != self.pair_in_hand:
            self.opened.hide()  # its photo is another pair's
        if self.opened.isVisible():
            flow.fill(self.opened, 0, 0, self.width(), self.height())
            self.opened.place()
            self.opened.raise_()
        if there:
            self._place_book()
            self._place_foot()
        self.update()

    def _place_book(self) -> None:
        box = self._book_box()
        flow.fill(self.book, box.left(), box.top(), box.right(), box.bottom())
        told = f"{self.pair.name if self.pair else ''} opened, tail at {self.state.told(self.shown.tail_mm)}"
        miss = self.opening.forecast.miss_mm
        self.book.setAccessibleName(told + (f", the lines miss by {miss:.1f}" if miss is not None else ""))
        top = box.bottom() + GAP
        flow.fill(self.ridge_line, box.left(), top, box.right(), top + RIDGE_H)

    def _place_joined(self) -> None:
        """The page of halves from one face, with its lock."""
        self.joined.setVisible(self.joined_shown)
        self.lock_it.raise_()
        if self.joined_shown:
            self.joined.show_pair(self.joined_pairs[min(self.joined_at or 0, len(self.joined_pairs) - 1)])
            flow.fill(self.joined, 0, 0, self.width(), self.height())
            # the pairs' buttons stand above
            flow.row_to_right([(self.lock_it, 170)], self.width() - RIGHT, self.height() - BUTTON_H - 12, high=BUTTON_H)

    def _place_foot(self) -> None:
        w, cards = self.width(), self.height() - CARDS_H - GAP
        ways = cards - WAYS_H
        self.lamp.say("Lamp across: one dulls" if self.lamp_across else "Lamp along: alike")
        self.better.say(*self._better())
        end = self._next_end()
        self.end_it.say(
            f"Cut at the {end.end} end: {self.state.told(end.left_mm)} left" if end is not None else "It does not slide",
            enabled=end is not None,
        )
        flow.row_to_right(
            [(self.lock_it, 150), (self.lamp, 236), (self.mirror_it, 222), (self.end_it, 330)], w - RIGHT, ways + 4, high=BUTTON_H
        )
        row = [(self.photo, 200), (self.better, 290)]
        flow.row_to_right(row[::-1], w - RIGHT - SECTION_W - LOUPE - 30, ways - WHY_H, high=BUTTON_H)
        each = (w - LEFT - RIGHT - 3 * 10) // 4
        flow.row([(card, each) for card in self.cards], LEFT, cards, high=CARDS_H, gap=10)
        for card in self.cards:
            card.tell()

    def _better(self) -> tuple[str]:
        """The one thing that would better it, or what takes it back."""
        if self.outer_skim:
            return ("Skim the faces that meet after all",)
        pair, plan = self.pair, self._of
        if pair is None or plan is None:
            return ("",)
        lost = match_view.between(plan[0].kit, self.opening.show, pair.upper.finished_mm, outer_skim=True)
        miss = match_view.forecast_at(pair, self.shown, lost).miss_mm
        return (f"Skim only the outer faces: {miss:.1f}" if miss is not None else "Skim only the outer faces",)

    def _place_pairs(self) -> None:
        half = self.half
        told = [(q.name, q.part.shown_name) for q in self.pairs]
        told += [(q.part.letter, q.part.shown_name) for q in self.joined_pairs]
        told += [(half.letter, half.shown_name)] if half is not None else []
        names = [name for name, _ in told]
        if [b.property("pair") for b in self.pair_buttons] != names:
            for old in self.pair_buttons:
                old.deleteLater()
            self.pair_buttons = []
            for k, (name, label) in enumerate(told):
                button = WordButton(self.state, f"{name} {label}", parent=self, name=f"match.pair.{name}")
                button.setProperty("pair", name)
                button.setCheckable(True)
                button.setFixedHeight(BUTTON_H)
                button.clicked.connect(lambda _=False, k=k: self.take_pair(k))
                self.pair_buttons.append(button)
        for k, button in enumerate(self.pair_buttons):
            button.setVisible(len(names) > 1)
            button.setChecked(k == self._shown_at)
            button.raise_()
        flow.row_to_right([(b, b.sizeHint().width()) for b in reversed(self.pair_buttons)], self.width() - RIGHT, 2, high=34)

    @property
    def _shown_at(self) -> int:
        """Which of the buttons is the one that is shown."""
        if self.mates_shown:
            return len(self.pairs) + len(self.joined_pairs)
        return len(self.pairs) + (self.joined_at or 0) if self.joined_shown else self.at

    def take_pair(self, k: int) -> None:
        """Another pair of the plan, or the boards that are no mates."""
        leaves, joined = len(self.pairs), len(self.joined_pairs)
        self.mating = k >= leaves + joined
        self.joined_at = k - leaves if leaves <= k < leaves + joined else None
        if k < leaves:
            self.at = k
        self.state.changed.emit()

    # painting -----------------------------------------------------------------------------------------------------
    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.state.theme
        p.fillRect(self.rect(), theme.bench)
        pair, plan = self.pair, self._of
        if self.joined_shown:
            return
        if (pair is None or not self.ways) and not self.mates_shown and (found := self.too_high) is not None:
            self._paint_offers(p, found)
            return
        if pair is None or plan is None or not self.ways:
            box = QRectF(AXIS_X, 70, self.width() - AXIS_X - RIGHT, self.height() - 80)
            apart = plan is not None and any(self._from_one_face(q) for q in plan[0].parts)
            draw.empty(
                p, theme, box, "Each half is laid for itself" if apart else "Nothing to match yet", APART if apart else NOTHING
            )
            return
        self._head(p, pair, plan[0])
        self._side(p, pair)
        self._ridge_words(p)
        ways = self.height() - CARDS_H - GAP - WAYS_H
        p.fillRect(QRectF(0, ways - 4, self.width(), self.height()), theme.ground)
        x = LEFT + draw.text_at(p, LEFT, ways + 27, "Four ways to open it", theme.ink, 18, 700) + 14
        room = self.end_it.x() - x - 14
        told = "how far the lines miss at the seam, forecast in mm"
        if room > draw.text_width(told, 14):  # else the cards say it
            draw.text_at(p, x, ways + 27, told, theme.ink2, 14)
        why = QRectF(LEFT, ways - WHY_H, self.width() - LEFT - RIGHT, WHY_H - 6)
        paint_why(p, self, why)
        p.fillRect(QRectF(AXIS_X - 7, self._book_box().top(), 6, self._book_box().height()), theme.chalk)

    def _head(self, p: QPainter, pair: Pair, job: Job) -> None:
        theme, design = self.state.theme, self.state.design
        x = LEFT + draw.text_at(p, LEFT, 27, design.name if design else "", theme.ink, 20, 700) + 12
        x += draw.text_at(p, x, 27, pair.name, theme.chalk, 20, 600, figures=True) + 10
        told = f"{pair.part.shown_name} from No. {pair.piece.id} {short_name(pair.piece.species).lower()}"
        x += draw.text_at(p, x, 27, told, theme.ink2, 15) + 30
        high, takes = match_view.too_high(pair, job)
        x += draw.text_at(p, x, 27, self.state.told(high), theme.ink, 17, 600, figures=True) + 5
        if takes is None:
            draw.text_at(p, x, 27, "high to resaw, no limit of the saw is known", theme.ink2, 15)
            return
        x += draw.text_at(p, x, 27, "high to resaw, the saw takes", theme.ink2, 15) + 5
        draw.text_at(p, x, 27, self.state.told(takes), theme.ink if high <= takes else theme.wine, 17, 600, figures=True)

    def _side(self, p: QPainter, pair: Pair) -> None:
        theme, box = self.state.theme, self._book_box()
        one, other = ("▲", "▼") if self.shown.seam == "near" else ("▼", "▲")
        ink, grey = theme.ink, theme.ink2
        lines = [(f"leaf {one} as it lies,", grey), (f"leaf {other} its mirror,", grey), ("show faces to you", grey)]
        lines += [("bright: both halves fit", ink)] if self.view is not None else [("worked out ...", grey)]
        lines += [(f"{self.state.told(pair.upper.spare_mm, '.1f')} thick to spare", ink)]
        photo = self.kept.photo if self.kept is not None else None
        if photo is not None and photo.tail_mm is not None:
            lines.append((f"slid on its photo: {self.state.told(photo.tail_mm, '.1f')} from the tail end", ink))
        keys = [("arrows slide it 10,", grey), ("Shift 100, Ctrl 1", grey)]
        room = int((box.height() - 26) // 19)
        left_words(p, self.state, box.top() + 8, f"No. {pair.piece.id}, opened", [*lines, *keys][: max(1, room)])

    def _ridge_words(self, p: QPainter) -> None:
        theme, top = self.state.theme, self._book_box().bottom() + GAP
        draw.text_at(p, LEFT, top + 16, "How well lines meet", theme.ink, 15, 600)
        best = match_view.best_tail(*self.ridge, self.shown.tail_mm)
        if best is None:
            draw.text_at(p, LEFT, top + 36, "rings not read", theme.ochre, 13.5)
            words = f"The rings of No. {self.pair.piece.id if self.pair else ''} are not read at an end, so no miss is forecast: ring 60 at an end tells them."
            box = QRectF(AXIS_X, top + 6, self.width() - AXIS_X - RIGHT, RIDGE_H - 12)
            pen = QPen(theme.ochre, 1.4)
            pen.setDashPattern([4, 3])
            p.setPen(pen)
            p.drawRect(box)
            draw.text_at(p, box.x() + 12, box.center().y() + 5, "?", theme.ochre, 20, 700)
            draw.text_at(p, box.x() + 34, box.center().y() + 5, words, theme.ink2, 14, room=box.width() - 44)
            return
        draw.text_at(p, LEFT, top + 35, f"best {best[1]:.1f}, tail at {self.state.told(best[0])}", theme.ink2, 13.5)
        draw.text_at(p, LEFT, top + 52, "press it to go there", theme.ink2, 13.5)


def _figure(text: str, word: str, low: float, high: float) -> float:
    """A figure within limits. Raises BadEntry."""
    mm = parse_length(text).mm
    if not low <= mm <= high:
        raise BadEntry(f"{word} {mm:g}: needs {low:g} to {high:g} mm.")
    return mm
