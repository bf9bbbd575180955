"""Lay out (F5): where the chosen part can lie on the board in hand, the plan of the build over the whole rack."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, Literal, Self

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QGuiApplication, QMouseEvent, QPainter, QPainterPath, QPen, QResizeEvent
from PySide6.QtWidgets import QMenu, QWidget
from typing_extensions import override

from grainet.design.design import Design
from grainet.design.part import Part
from grainet.design.parts import summary as instrument_in_words
from grainet.design.shape import as_array, placed
from grainet.desk.cards.what_to_mind import MindsPanel
from grainet.desk.painting import draw
from grainet.desk.painting.axis import Axis
from grainet.desk.painting.balance_bar import BarShare, balance_bar
from grainet.desk.painting.tear_arcs import paint_stretches
from grainet.desk.painting.tokens import AXIS_X, LEFT, RIGHT
from grainet.desk.painting.veil import lay_veil, veil_of
from grainet.desk.screens.lay_out.parts import DraggedPart, PartChip
from grainet.desk.screens.screen import Desk, Screen
from grainet.desk.services.pictures import plain_colour
from grainet.desk.services.planning import Planning
from grainet.desk.view_state import State
from grainet.desk.widgets import flow
from grainet.desk.widgets.controls import WordButton, left_words, wrapped
from grainet.fit.orientation import Orientation
from grainet.fit.tear_out import Stretch, stretches, told
from grainet.job.answer import Placement, Plan
from grainet.job.job import Job
from grainet.present import plan_view
from grainet.present.centred import centred
from grainet.present.fit_view import BestPlace, FitView, answer_at, best_of_all_ways, fit_on_rack, run_words, same_way, strokes
from grainet.present.plan_view import summary
from grainet.session.commands.command import Command
from grainet.wood.piece import Piece
from grainet.wood.species import short_name
from grainet.wood.units import entry_unit, parse_length
from grainet.wood.value import BadEntry

if TYPE_CHECKING:
    from grainet.fit.board_geometry import BoardGeometry

STRIP_H, BOTTOM_H, BOARDS_APART = 56, 132, 12
STROKE_GAP_PX = 9
COMPARE_W = 190
ACTS_W = 340  # px that what is done with a plan takes at the right
PAPER = QColor(255, 255, 255, 235)


NO_BUILD = (
    "Here the parts of a build are laid on the boards: bright wood is where a part can lie, and Ctrl+Enter plans the whole build over the rack.",
    "Begin a guitar in Draw up (F4), and it is laid out here. The demo shop has builds to try it with: Ctrl+Shift+O opens another shop; your own stays as it is.",
)


def whole_rows(told: list[str], most: int, room: float) -> list[str]:
    """As many whole clauses as so many rows take, and how many more there are; none is cut off."""
    for count in range(len(told), 0, -1):
        left = len(told) - count
        rows = wrapped(
            ";  ".join([*told[:count], *([f"and {left} more, told where the mouse rests"] if left else [])]), 13.5, room
        )
        if len(rows) <= most:
            return rows
    return rows[:most]


def _leaves_of(part: Part) -> str:
    """How many a footprint gives, behind a part's letter."""
    return f" ×{part.leaves}" if part.leaves > 1 else ""


def _in_columns(pieces: list[Piece], columns: int) -> list[list[Piece]]:
    """Boards in their order, in so many columns of about as many each."""
    each = -(-len(pieces) // columns)
    return [pieces[k : k + each] for k in range(0, len(pieces), each)]


def _scale_in(pieces: list[Piece], columns: int, right: float, room: float) -> float:
    """The px per mm at which boards find room in so many columns."""
    longest = max(q.extents[2] - q.extents[0] for q in pieces)
    wide = (right - LEFT) / columns - (AXIS_X - LEFT) - 8
    found = wide / longest
    for some in _in_columns(pieces, columns):
        tall = sum(q.extents[3] - q.extents[1] for q in some)
        found = min(found, (room - BOARDS_APART * len(some)) / max(1.0, tall))
    return float(found)


class LayOut(Screen):
    """The screen."""

    has_axis = True

    @classmethod
    def made(cls, desk: Desk) -> Self:
        """A screen in a window."""
        return cls(desk.state, desk.planning)

    def __init__(self, state: State, planning: Planning) -> None:
        super().__init__(state)
        self.planning = planning
        self.setObjectName("layOut")
        self.axis_now = Axis(0, 2400, 1280)
        self.part_id: str | None = None
        self.view: FitView | None = None
        self.sheet: BoardGeometry | None = None  # the board that the view was asked of
        self._asked: tuple[object, ...] = ()
        self.orientation = 0
        self.at: tuple[float, float] | None = None
        self.answer, self.holds = "", False
        self.taken: Placement | None = None  # of the plan, what the part in hand is
        self._slips: list[QRectF] = []  # with letters, on the boards that are drawn small
        self._laid: list[tuple[QPainterPath, Placement]] = []  # where the mouse takes parts of the plan
        self._torn: tuple[Plan, str] | None = None
        self.tears: Literal["", "up", "over"] = ""  # whether it is drawn where the part in hand tears, as it lies or turned over
        self.chips: list[PartChip] = []
        self.designs: list[WordButton] = []
        self.ghost = DraggedPart(self)
        self.plan_it = WordButton(state, "Plan the build", "Ctrl+Enter", chalk=True, parent=self, name="layOut.plan")
        self.plan_it.clicked.connect(self.primary_action)
        self.keep_it = WordButton(state, "Saw it", "Alt+S", chalk=False, parent=self, name="layOut.keep")
        self.keep_it.clicked.connect(self.keep_plan)
        self.minds = MindsPanel(state, self)
        self.minds.closed.connect(lambda: self.show_warnings(on=False))
        self.all_builds = WordButton(state, "Builds", "", chalk=False, parent=self, name="layOut.builds")
        self.all_builds.setToolTip("Choose another build")
        self.all_builds.clicked.connect(self._open_builds)
        self.warnings_button = WordButton(state, "What to mind", "Ctrl+G", chalk=False, parent=self, name="layOut.minds")
        self.warnings_button.clicked.connect(lambda: self.show_warnings(on=True))
        self.compare_it = WordButton(state, "Side by side", "Ctrl+Shift+C", chalk=False, parent=self, name="layOut.compare")
        self.cutting = WordButton(state, "Round the outline", "Alt+C", chalk=False, parent=self, name="layOut.cutting")
        self.cutting.clicked.connect(planning.turn_cutting)
        self.search_it = WordButton(state, "Search all ways", "Alt+F", chalk=False, parent=self, name="layOut.search")
        self.search_it.clicked.connect(self.search_all_ways)
        self.tears_it = WordButton(state, "Where it tears", "Alt+A", chalk=False, parent=self, name="layOut.tears")
        self.tears_it.clicked.connect(self.turn_tears)
        self.compare_it.clicked.connect(lambda: state.screen_wanted.emit("alternatives"))
        planning.changed.connect(self._planning)
        planning.made.connect(self.show_made)
        planning.over.connect(self._kept)

    # planning -----------------------------------------------------------------------------------------------------
    def typed_here(self) -> list[tuple[str, str, str]]:
        """What may be typed here alone."""
        return [
            ("centred width", "lays the part in the middle of its stock, for a program written for stock so wide", "centred 120")
        ]

    def first_stop(self) -> QWidget | None:
        """The part in hand."""
        return self.ghost if self.ghost.isVisibleTo(self) else super().first_stop()

    def primary_action(self) -> None:
        """Plan the build over the whole rack, or cancel the planning."""
        if self.planning.busy:
            self.planning.stop()
            return
        design = self.state.design
        if design is None:
            self.state.warn("there is no build to plan yet")
            return
        self.planning.gather(design)

    # by hand ------------------------------------------------------------------------------------------------------
    def pin(self) -> None:
        """Pin the part in hand where it lies, and solve the rest again; one that is pinned is let go."""
        design = self.state.design
        if design is None or self.view is None or self.at is None:
            self.state.warn("there is no part in hand to pin; choose one above, or press one of the plan")
            return
        mine = self.planning.pins.get(design.id, ())
        if self.taken is not None and self.taken.key in {p.key for p in mine} and self.at == (self.taken.x, self.taken.y):
            self.planning.let_go(self.taken, design.id)
            self.state.notify(f"{self.view.part.shown_name} is no longer pinned; Ctrl+Enter plans the build again")
            self.refresh()
            return
        if not self.holds:
            self.state.warn(f"{self.view.part.shown_name} cannot be pinned there: {self.answer}")
            return
        from grainet.present.by_hand import Hand, with_mate

        shown, way = self.shown_plan(), self.view.orientations[self.orientation]
        hand = Hand(self.view.part.id, self.view.piece.id, way, *self.at, self.taken)
        kit = shown[0].kit if shown is not None else self.state.shop.kit.cuts
        self.planning.gather(design, *with_mate(hand, self.view.part, kit, shown[1] if shown is not None else None))

    def take(self, one: Placement) -> None:
        """Take a part of the plan in the hand, where it lies."""
        if one.build is not None and one.build != self.state.design_id:  # of a build that was planned with the one in hand
            self.planning.lit ^= {one.build, self.state.design_id or ""} if one.build in self.planning.lit else set()
            self.state.choose_design(one.build)
        self.part_id, self.at, self.orientation, self.taken = one.part, None, 0, one
        if self.state.shop.has_piece(one.piece) and self.state.piece_id != one.piece:
            self.state.choose_piece(one.piece)
        if self.view is not None and (self.view.part.id, self.view.piece.id) == (one.part, one.piece):
            self._take_view(self._asked, (self.view, self.sheet))
        self.refresh()

    def take_from_plan(self) -> None:
        """Take the chosen part where the plan has it; of several the next one."""
        shown, part = self.shown_plan(), self.part
        laid = [p for p in shown[1].placements if part is not None and p.part == part.id and p.leaf == 1] if shown else []
        if not laid:
            self.state.warn("the plan has no such part; Ctrl+Enter plans the build")
            return
        keys = [p.key for p in laid]
        at = keys.index(self.taken.key) + 1 if self.taken is not None and self.taken.key in keys else 0
        self.take(laid[at % len(laid)])

    @override
    def mousePressEvent(self, event: QMouseEvent) -> None:
        hit = next((one for path, one in reversed(self._laid) if path.contains(event.position())), None)
        if hit is not None:
            self.take(hit)
            self.ghost.setFocus()
        else:
            super().mousePressEvent(event)

    def _planning(self) -> None:
        """The planner is further: a part in the hand that was pinned meanwhile is the plan's own."""
        pins = self.planning.pins.get(self.state.design_id or "", ())
        held = [p for p in pins if self.view is not None and (p.part, p.piece) == (self.view.part.id, self.view.piece.id)]
        self.taken = next((p for p in held if (p.x, p.y) == self.at), self.taken)
        self.refresh()

    def show_made(self, job: Job, plan: Plan) -> None:
        """Show a plan that was just made, not kept yet."""
        boards = list(dict.fromkeys(p.piece for p in plan.placements))
        holds = [p.piece for p in plan.placements if self.part is not None and p.part == self.part.id]
        if boards and self.state.piece_id not in (holds or boards):
            self.state.choose_piece((holds or boards)[0])  # the board that gives the part in hand
        self.state.notify(summary(plan, job))
        view, was = self.view, self.taken
        if view is not None and self.at == (view.first_place() if was is None else (was.x, was.y)):
            mine = [p for p in plan.placements if was is not None and (p.part, p.piece) == (was.part, was.piece)]
            stays = [p for p in mine if was is not None and (p.x, p.y) == (was.x, was.y)]
            again = [p for p in mine if was is not None and p.key == was.key]
            self.taken = next(iter(stays or again), None)
            self._take_view(self._asked, (view, self.sheet))  # nobody moved it by hand: it lies where the plan has it
        self.refresh()

    def show_warnings(self, *, on: bool | None = None) -> None:
        """Lay what to mind of the plan over the board, or take it away again."""
        self.minds.setVisible(not self.minds.isVisible() if on is None else on)
        self.refresh()

    def tearing(self) -> str:
        """What will tear under the plane once it is glued, and what to turn; empty where all planes one way or is not known."""
        shown = self.shown_plan()
        if shown is None:
            return ""
        if self._torn is None or self._torn[0] is not shown[1]:
            self._torn = (shown[1], plan_view.tearing(*shown))
        return self._torn[1]

    @property
    def fresh(self) -> tuple[Job, Plan] | None:
        """The plan that was just made and is not kept yet."""
        return self.planning.fresh

    @property
    def pins(self) -> dict[str, tuple[Placement, ...]]:
        """What was pinned by hand, by build."""
        return self.planning.pins

    def shown_plan(self) -> tuple[Job, Plan] | None:
        """The plan just made for this build, or the one that is kept."""
        return self.planning.shown()

    def keep_plan(self) -> None:
        """Accept the plan: its cuts become the steps of Saw and wait."""
        design = self.state.design
        if self.fresh is None or design is None or not self.fresh[1].placements:
            return
        job, plan = self.fresh
        if not plan.builds and not job.cut:
            self.state.warn(f"this plan does not make {design.name}; see what was refused, or what is pinned")
            return
        kept = self.state.shop.plans.accepted_for(design.id)
        if kept is not None and len(kept.progress.done) != len(job.cut):
            self.state.warn(f"{design.name} was sawn further since this was planned. Plan the rest again: F5.")
            return
        if self.state.accept_plan(design, job, plan, self.planning.matched.get(design.id, ())):
            self.state.notify(f"{design.name} is laid out; saw it: F7")

    def _kept(self, design_id: str) -> None:
        """A plan was accepted, here or elsewhere: what was tried and pinned on the way is over."""
        if self.state.design_id == design_id:
            self.taken = None
        self.refresh()

    # the part in hand ---------------------------------------------------------------------------------------------
    @property
    def part(self) -> Part | None:
        """The chosen part of the build in hand."""
        design = self.state.design
        if design is None or not design.parts:
            return None
        return next((p for p in design.parts if p.id == self.part_id), design.parts[0])

    def choose_part(self, part_id: str) -> None:
        """Show where another part can lie."""
        self.part_id, self.at, self.orientation, self.taken = part_id, None, 0, None
        self.state.changed.emit()  # a larger one asks for another axis

    def nudge(self, dx: float, dy: float) -> None:
        """Move the part in hand and ask the exact placement; an answer comes within the frame."""
        if self.at is None:
            return
        self.at = (self.at[0] + dx, self.at[1] + dy)
        self._ask()
        self._place_ghost()
        self.update()

    def turn(self, *, over: bool = False) -> None:
        """The next way of lying: turned, or on its other side."""
        if self.view is None or self.at is None:
            return
        new = self.view.next_orientation(self.orientation, over=over)
        if new is not None:
            self.at = self.view.moved_to_orientation(self.at, self.orientation, new)
            self.orientation = new
            self._ask()
            self._place_ghost()
            self.update()

    def search_all_ways(self) -> None:
        """Look through every way of lying, the tilted ones too, for the place that covers least trouble, nearest to where the part is held."""
        if self.view is None or self.at is None or self.sheet is None:
            self.state.warn("there is no part in hand to search for; choose one above")
            return
        view, sheet, at, key = self.view, self.sheet, self.at, self._asked
        shop, piece_id = self.state.shop, self.view.piece.id
        self.state.notify(f"searching every way in which {view.part.shown_name} can lie on No. {piece_id} ...")

        def work() -> object:
            layers = shop.judgements.layers(piece_id)
            return None if layers is None else best_of_all_ways(view, layers, sheet, at)

        self.state.background.start(work, lambda found: self._take_best(key, found), 4)

    def turn_tears(self) -> None:
        """Draw where a cutter tears the part in hand: as it lies, then with its other side up, then no more."""
        if self.view is None or self.at is None:
            self.state.warn("there is no part in hand; choose one of the build first")
            return
        after: dict[str, Literal["", "up", "over"]] = {"": "up", "up": "over", "over": ""}
        self.tears = after[self.tears]
        if self.tears:
            self.state.notify(self.tears_told())
        self.refresh()

    def _stretches(self, *, over: bool) -> list[Stretch]:
        """How the part in hand cuts round its outline."""
        piece = self.state.piece
        if self.view is None or self.at is None or piece is None:
            return []
        ring = self.view.orientations[self.orientation].at(*self.at)
        return stretches(ring, piece.grain_slope_deg or 0.0, turned_over=over)

    def tears_told(self) -> str:
        """Where the part in hand tears, in words."""
        over = self.tears == "over"
        text = told(self._stretches(over=over), self._stretches(over=not over), turned_over=over)
        side = "Turned over: " + text[0].lower() + text[1:] if over else text
        unread = self.state.piece is not None and self.state.piece.grain_slope_deg is None
        return side + (" (slope not read: the fibres are taken to run along)" if unread else "")

    @override
    def reads(self, line: str) -> Command | None:
        """What a line means here: `centred 120` lays the part in hand in the middle of its stock across. Raises BadEntry."""
        word, _, rest = line.strip().lower().partition(" ")
        if word != "centred":
            return None
        if self.view is None or self.at is None or self.state.piece is None:
            raise BadEntry("There is no part in hand to centre; choose one of the build first.")
        nominal = parse_length(rest, entry_unit(self.state.style)).mm if rest.strip() else 0.0
        if not 1 <= nominal <= 2000:
            raise BadEntry(
                f"centred: needs the width that the program was written for, as in: centred {'120' if self.state.style == 'mm' else '4 3/4'}."
            )
        found = centred(self.state.piece, self.view.orientations[self.orientation], self.at[0], nominal)
        if found is None:
            raise BadEntry("No wood lies under the whole length of the part there.")
        at = (self.at[0], found.y)
        told = found.told(self.state.style)
        return Command(told, does=lambda: self._put(at, told))

    def _put(self, at: tuple[float, float], told: str) -> None:
        """Lay the part in hand elsewhere."""
        self.at = at
        self._ask()
        self.refresh()
        self.state.notify(told)

    def _take_best(self, key: tuple[object, ...], found: object) -> None:
        """The best place of all ways has come."""
        if key != self._asked or self.view is None:
            return
        if not isinstance(found, BestPlace):
            self.state.warn(f"no way of lying holds {self.view.part.shown_name} on No. {self.view.piece.id}")
            return
        self.view = self.view.with_way(found.way)
        self.orientation = next(k for k, w in enumerate(self.view.orientations) if same_way(w, found.way))
        self.at, self.taken = (found.x, found.y), self.taken
        self._ask()
        told = f"{found.tried} ways tried: {found.told}"
        self.state.notify(told)
        self.refresh()

    def _ask(self) -> None:
        if self.view is None or self.at is None:
            return
        shop, piece = self.state.shop, self.view.piece
        if not shop.has_piece(piece.id):  # undone since the field was asked for
            self.view, self._asked = None, ()
            return
        assert self.sheet is not None
        found = answer_at(self.view, self.orientation, self.at, self.sheet, shop.kit.length_style)
        self.holds, self.answer = found.holds, found.text

    def _want_view(self) -> None:
        """Ask for the field of the chosen part on the chosen board, unless it is there."""
        piece, part = self.state.piece, self.part
        if piece is None or part is None or not piece.outline or not piece.all_thicknesses_mm:
            self.view, self._asked = None, ()
            return
        under_way = self.state.shop.plans.accepted_for(self.state.design_id)
        done = under_way.progress.done if under_way is not None else ()
        key = (piece, part, self.state.shop.kit, done)
        if key == self._asked:
            return
        self._asked, self.view, self.at = key, None, None
        shop = self.state.shop
        self.state.background.start(lambda: fit_on_rack(shop, piece, part), lambda view: self._take_view(key, view), 3)

    def _take_view(self, key: tuple[object, ...], view: object) -> None:
        if key != self._asked or not isinstance(view, tuple) or not self.state.shop.has_piece(view[0].piece.id):
            return
        view, self.sheet = view
        self.view, self.orientation, self.veil = view, 0, veil_of(view)
        taken = self.taken = self.taken or self._laid_of(view)
        if taken is not None and (taken.part, taken.piece) == (view.part.id, view.piece.id):
            from grainet.present.by_hand import nearest_way

            self.view = view = view.with_way(Orientation(view.part, taken.angle_deg, taken.mirror, taken.face_up))
            self.orientation, self.at = nearest_way(view.orientations, taken), (taken.x, taken.y)
        else:
            self.at, self.taken = view.first_place(), None
        self._ask()
        self.refresh()

    def _laid_of(self, view: FitView) -> Placement | None:
        """Where the shown plan has the part of a field on the field's own board."""
        shown = self.shown_plan()
        laid = shown[1].placements if shown is not None else ()
        mine = (p for p in laid if (p.part, p.piece, p.leaf) == (view.part.id, view.piece.id, 1))
        return next((p for p in mine if p.build in (None, self.state.design_id)), None)

    # layout -------------------------------------------------------------------------------------------------------
    def axis(self, width: int, height: int) -> Axis:
        """The axis that fits the board into so many px."""
        piece = self.state.piece
        _x0, y0, x1, y1 = piece.extents if piece and piece.outline else (0, 0, 2400, 200)
        plan = self.shown_plan()
        others = plan is not None and any(piece is None or o.piece != piece.id for o in plan[1].placements)
        spare = 420 if others else 370  # the plan's boards want room below the one in hand
        long, wide = self._part_size()  # a part in hand that the board is too small for is drawn whole as well
        scale = min((width - AXIS_X - RIGHT) / max(1.0, x1, long), max(120, height - spare) / max(1.0, y1 - y0, wide))
        return Axis(0, (width - AXIS_X - RIGHT) / max(scale, 0.02), width)

    def _part_size(self) -> tuple[float, float]:
        """Length and width of the part in hand as it is drawn, mm."""
        if self.part is None:
            return 0.0, 0.0
        xs, ys = zip(*self.part.outline)
        return max(xs) - min(xs), max(ys) - min(ys)

    def set_axis(self, axis: Axis) -> None:
        """Show the board on an axis."""
        self.axis_now = axis
        self.refresh()

    def _board_top(self) -> float:
        piece = self.state.piece
        high = piece.extents[3] - piece.extents[1] if piece and piece.outline else 0.0
        return STRIP_H + 26 + max(0.0, self._part_size()[1] - high) * self.axis_now.px_per_mm

    def _y(self, mm: float) -> float:
        piece = self.state.piece
        y1 = piece.extents[3] if piece else 0.0
        return self._board_top() + (y1 - mm) * self.axis_now.px_per_mm

    def _board_bottom(self) -> float:
        piece = self.state.piece
        return self._y(piece.extents[1]) if piece and piece.outline else self._board_top() + 120

    def refresh(self) -> None:
        """Bring everything up to date and in its place."""
        if not self.isVisible():
            return
        self._strip()
        self._want_view()
        self._place_ghost()
        plan = self.shown_plan()
        busy = self.planning.busy
        together = 1 + len(self.planning.beside(self.state.design)) if self.state.design is not None else 1
        plan_words = "Plan the build" if together == 1 else f"Plan {together} builds"
        self.plan_it.say("Stop planning" if busy else plan_words, enabled=self.state.design is not None)
        straight = (self.planning.cutting or self.state.shop.kit.losses.cutting) == "straight"
        self.cutting.say("Straight cuts" if straight else "Round the outline")
        self.keep_it.say(
            "Saw it" if self.fresh else "Laid out" if plan else "Saw it",
            enabled=self.fresh is not None and bool(self.fresh[1].placements) and not busy,
        )
        w = self.width()
        flow.row_to_right([(self.plan_it, 210), (self.keep_it, 110), (self.warnings_button, 170)], w - RIGHT, 6)
        self._place_plan_words(shown=plan is not None and not busy)
        self.warnings_button.setVisible(plan is not None and not busy)
        self.minds.look(plan)
        if self.minds.isVisible():
            if plan is None:
                self.minds.hide()
            flow.fill(self.minds, 0, 62, w, self.height())
            self.minds.raise_()
        self.update()

    def _place_plan_words(self, *, shown: bool) -> None:
        """What is done with the plan and the part in hand, at the right of the foot."""
        right, foot = self.width() - RIGHT, self.height() - BOTTOM_H
        self.compare_it.setVisible(shown)
        flow.fill(self.compare_it, right - COMPARE_W, foot + 82, right, foot + 120)
        self.cutting.setVisible(self.state.design is not None)
        self.search_it.setVisible(self.view is not None)
        self.tears_it.setVisible(self.view is not None and self.at is not None)
        self.tears_it.say({"": "Where it tears", "up": "Turn it over", "over": "No more arcs"}[self.tears])
        answer = self._board_bottom() + self._tags_high() + 34
        flow.row_to_right([(self.cutting, COMPARE_W), (self.search_it, COMPARE_W)], right, answer, gap=8)
        flow.row_to_right([(self.tears_it, COMPARE_W)], right, answer + 46)

    def _strip(self) -> None:
        designs = self.state.shop.designs()
        if [b.property("design") for b in self.designs] != [d.id for d in designs]:
            for old in self.designs:
                old.deleteLater()
            self.designs = []
            for design in designs:
                button = WordButton(self.state, design.name, "", chalk=False, parent=self, name=f"build.{design.id}")
                button.setProperty("design", design.id)
                button.setCheckable(True)
                button.setToolTip(f"{design.name}; with Ctrl it is planned together with the build in hand")
                button.clicked.connect(lambda _=False, d=design.id: self._choose_design(d))
                button.show()
                self.designs.append(button)
        design = self.state.design
        parts = list(design.parts) if design else []
        if [c.part for c in self.chips] != parts:
            for chip in self.chips:
                chip.hide()
                chip.deleteLater()
            self.chips = [PartChip(self, part) for part in parts]
            for chip in self.chips:
                chip.show()
        chosen = self.part
        for chip in self.chips:
            chip.letter_only = False
            chip.setChecked(chosen is not None and chip.part.id == chosen.id)
        x = self._place_builds() + 18
        tight = x + sum(chip.wanted() + 6 for chip in self.chips) > self.width() - RIGHT - self.acts_w
        for chip in self.chips:
            chip.letter_only = tight and not chip.isChecked()
            x = flow.row([(chip, chip.wanted())], x, 6, gap=6)

    @property
    def acts_w(self) -> int:
        """How many px what is done with a plan takes at the right; more while there is a plan to mind."""
        return ACTS_W + (180 if self.shown_plan() is not None else 0)

    def _place_builds(self) -> int:
        """The builds side by side, or behind one button where they would take the parts' room; the px where the parts begin."""
        wide = [int(draw.text_width(b.text(), 15, 600)) + 30 for b in self.designs]
        parts = sum(chip.wanted() + 6 for chip in self.chips)
        room = self.width() - LEFT - RIGHT - parts - 18 - self.acts_w
        folded = len(self.designs) > 1 and sum(wide) + 8 * len(wide) > room
        self.all_builds.setVisible(folded)
        x = LEFT
        for button, w in zip(self.designs, wide):
            button.setChecked(button.property("design") in {self.state.design_id, *self.planning.lit})
            button.setVisible(not folded)
            if not folded:
                x = flow.row([(button, w)], x, 6, gap=8)
        if folded:
            design = self.state.design
            lit = len(self.planning.beside(design)) if design is not None else 0
            name = "Builds" if design is None else f"{design.name} + {lit}" if lit else design.name
            self.all_builds.say(name)
            w = int(draw.text_width(name, 15, 600)) + 44
            x = flow.row([(self.all_builds, w)], x, 6, gap=8)
        return x

    def _open_builds(self) -> None:
        menu = QMenu(self)
        menu.setObjectName("layOut.builds.menu")
        for design in self.state.shop.designs():
            menu.addAction(design.name, lambda d=design.id: self._choose_design(d))
        menu.addSeparator()
        for design in self.state.shop.designs():
            if design.id != self.state.design_id:
                action = menu.addAction(f"Plan {design.name} together with it", lambda d=design.id: self.planning.light(d))
                action.setCheckable(True)
                action.setChecked(design.id in self.planning.lit)
        menu.popup(self.all_builds.mapToGlobal(self.all_builds.rect().bottomLeft()))

    def _choose_design(self, design_id: str) -> None:
        if QGuiApplication.keyboardModifiers() & Qt.KeyboardModifier.ControlModifier and design_id != self.state.design_id:
            self.planning.light(design_id)
            return
        self.part_id, self.at, self.taken = None, None, None
        self.planning.lit.discard(design_id)
        self.state.choose_design(design_id)

    def _place_ghost(self) -> None:
        if self.view is None or self.at is None:
            self.ghost.hide()
            return
        x0, y0, x1, y1 = self.view.orientations[self.orientation].bounds
        left, right = self.axis_now.x(x0 + self.at[0]), self.axis_now.x(x1 + self.at[0])
        top, bottom = self._y(y1 + self.at[1]), self._y(y0 + self.at[1])
        flow.fill(self.ghost, left - 2, max(STRIP_H, top - 2), right + 2, bottom + 2)
        self.ghost.setAccessibleName(f"{self.view.part.shown_name} in hand: {self.answer}")
        self.ghost.show()

    # painting -----------------------------------------------------------------------------------------------------
    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        p.setRenderHint(QPainter.RenderHint.Antialiasing)
        theme = self.state.theme
        p.fillRect(self.rect(), theme.bench)
        piece, design = self.state.piece, self.state.design
        if design is None:
            draw.empty(
                p,
                theme,
                QRectF(AXIS_X, 70, self.width() - AXIS_X - RIGHT, self.height() - 80),
                "No build is in this shop yet",
                NO_BUILD,
            )
            return
        if piece is not None and piece.outline:
            self._board(p, piece)
        plan = self.shown_plan()
        self._laid, self._slips = [], []
        bottom = self.height() - BOTTOM_H
        p.fillRect(QRectF(0, bottom, self.width(), BOTTOM_H), theme.ground)
        if plan is not None:
            self._others(p, plan, bottom, self.width() - RIGHT)
            self._sums(p, plan, bottom, self.width() - RIGHT)
        else:
            words = self.planning.told or f"{self._note(design)} Plan the build, and the whole rack is tried."
            draw.text_at(p, AXIS_X, bottom + 40, words, theme.ink2, 15)
        if self.planning.busy:
            self._progress(p, bottom)

    def _progress(self, p: QPainter, bottom: float) -> None:
        theme = self.state.theme
        right = self.width() - RIGHT
        if any(b.isVisible() and b.geometry().bottom() > bottom - 36 for b in (self.tears_it, self.cutting)):
            right -= COMPARE_W + 8  # beside what is done with the part in hand
        box = QRectF(AXIS_X, bottom - 34, right - AXIS_X, 28)
        p.fillRect(box, theme.chalk_wash)
        p.fillRect(QRectF(box.x(), box.bottom() - 4, box.width() * self.planning.share, 4), theme.chalk)
        draw.text_at(p, box.x() + 8, box.y() + 18, self.planning.told, theme.ink, 14, room=box.width() - 16)

    def _board(self, p: QPainter, piece: Piece) -> None:
        theme, axis = self.state.theme, self.axis_now
        top, end = self._board_top(), axis.x(piece.extents[2])
        target = QRectF(axis.left, top, end - axis.left, (piece.extents[3] - piece.extents[1]) * axis.px_per_mm)
        shape = draw.path_of(piece.outline, axis.x, self._y)
        draw.wood_texture(
            p,
            theme,
            shape,
            self.state.pictures.get(piece, "face1"),
            target,
            plain_colour(piece.species),
            "" if self.view else "if",
        )
        if self.view is not None:
            self._veil(p, shape, piece)
        draw.outline(p, shape, theme.ink)
        p.fillRect(QRectF(axis.left - 7, top, 6, target.height()), theme.chalk)
        for defect in piece.defects:
            draw.trouble(p, theme, defect, axis.x, self._y)
        self._stopper(p, piece)
        lines = [(short_name(piece.species), theme.ink2)]
        if self.view is not None:
            named = self.view.part.pin_name or "near end"
            lines += [
                (f"{self.view.part.letter}: where its {named} can stand", theme.ink2),
                (
                    f"{len(self.view.runs)} runs that hold"
                    if len(self.view.runs) != 1
                    else "1 run that holds"
                    if self.view.places
                    else "no place here",
                    theme.ink if self.view.places else theme.ochre,
                ),
            ]
        room = target.height()
        left_words(p, self.state, top - 8, f"No. {piece.id}", lines if room > 96 else lines[-1:] if room > 50 else [])
        self._laid_here(p, piece)
        if self.view is not None:
            self._strokes(p)
            self._run_words(p)
            self._hand(p)

    def _laid_here(self, p: QPainter, piece: Piece) -> None:
        """What the plan lays on this board, but for the part in hand: the mouse takes it."""
        shown = self.shown_plan()
        if shown is None:
            return
        for one in shown[1].placements:
            if one.piece == piece.id and one.leaf == 1 and (self.taken is None or one.key != self.taken.key):
                self._laid_part(p, shown[0], one, self.axis_now.x, self._y)

    def _veil(self, p: QPainter, shape: QPainterPath, piece: Piece) -> None:
        """Pale the wood that no place of the part would use."""
        assert self.view is not None
        grid, axis = self.view.grid, self.axis_now
        x, y = axis.x(grid.x0), self._y(grid.y0 + grid.rows * grid.step)
        wide, high = grid.columns * grid.step * axis.px_per_mm, grid.rows * grid.step * axis.px_per_mm
        lay_veil(p, self.state.theme, self.veil, QRectF(x, y, wide, high), shape)

    def _strokes(self, p: QPainter) -> None:
        """Strokes where the pin may stand: as long as the part has room across, broken ochre where trouble is covered."""
        assert self.view is not None
        axis = self.axis_now
        for one in strokes(self.view, self.orientation, STROKE_GAP_PX / axis.px_per_mm):
            # a pin outside the part's own wood may stand beyond the board, where words are
            sx, a, b = axis.x(one.x), self._y(one.high) - 3, min(self._y(one.low) + 3, self._board_bottom() + 5)
            if b - a < 6:
                continue
            p.setPen(QPen(PAPER, 4.5))
            p.drawLine(QPointF(sx, a), QPointF(sx, b))
            pen = QPen(draw.LIGHT_ON_WOOD.ochre if one.covered else draw.LIGHT_ON_WOOD.chalk, 2.2)
            if one.covered:
                pen.setDashPattern([2, 1.6])
            p.setPen(pen)
            p.drawLine(QPointF(sx, a), QPointF(sx, b))

    def _run_words(self, p: QPainter) -> None:
        assert self.view is not None
        theme, axis = self.state.theme, self.axis_now
        right = 0.0
        for run, text in run_words(self.view, self.state.shop.kit.length_style):
            x = max(axis.x(run[0]), right + 14)
            if x < axis.right - 60:
                # strokes of a part along the far edge rise above the wood
                p.fillRect(QRectF(x - 3, self._board_top() - 23, draw.text_width(text, 14, 600) + 6, 19), theme.bench)
                right = x + draw.text_at(p, x, self._board_top() - 9, text, theme.chalk, 14, 600)

    def _hand(self, p: QPainter) -> None:
        """The part in hand as a paper pattern, and its answer."""
        assert self.view is not None
        if self.at is None:
            return
        theme, orientation = self.state.theme, self.view.orientations[self.orientation]
        ring = [(float(x), float(y)) for x, y in orientation.at(*self.at)]
        path = draw.path_of(ring, self.axis_now.x, self._y)
        zones = []
        for zone in self.view.part.zones:
            if zone.polygon != "rest":
                moved = placed(
                    as_array(zone.polygon), self.at[0], self.at[1], orientation.angle_deg, turned_over=orientation.turned_over
                )
                zones.append((zone.kind, draw.path_of([(float(x), float(y)) for x, y in moved], self.axis_now.x, self._y)))
        draw.part_pattern(p, theme, self.view.part, path, zones, self.view.part.letter, "", ghost=True)
        if self.tears:
            paint_stretches(p, theme, self._stretches(over=self.tears == "over"), self.axis_now.x, self._y)
        y = self._board_bottom() + self._tags_high() + 22
        draw.text_at(p, LEFT, y, "in hand", theme.ink2, 14)
        draw.text_at(
            p, AXIS_X, y, self.answer, theme.ink if self.holds else theme.wine, 15, 600, room=self.width() - AXIS_X - 490
        )
        right = self.width() - RIGHT
        if text := self.tears_told() if self.tears else self.tearing() or self.minds.gravest:
            text = draw.fitted(text, 440, 14)
            draw.label(p, theme, right - draw.text_width(text, 14, 500) - 12, y - 17, text, figures=False, px=14, ochre=True)
        else:
            hint = "drag it, arrows, Alt+R turns, Alt+B other side, Alt+P pins it"
            draw.text_at(p, right - draw.text_width(hint, 13), y, hint, theme.ink2, 13)

    def _tags_high(self) -> int:
        """Height of the rows of tags under the board."""
        piece = self.state.piece
        if piece is None or not piece.defects:
            return 0
        xs = sorted(self.axis_now.x(sum(x for x, _ in d.polygon) / len(d.polygon)) for d in piece.defects)
        return 26 + 25 * max(row for _, row in draw.spread_tags(xs, self.axis_now.left + 20, self.axis_now.right - 20, 42))

    def _stopper(self, p: QPainter, piece: Piece) -> None:
        """Tags of what blocks the rest, under the board."""
        theme, axis = self.state.theme, self.axis_now
        if piece.defects:
            text = f"what stops {self.part.letter}" if self.part else "defects"
            draw.text_at(p, 164 - draw.text_width(text, 14), self._board_bottom() + 19, text, theme.ink2, 14)
            p.setPen(QPen(theme.hair, 1))
            p.drawLine(QPointF(axis.left, self._board_bottom() + 14), QPointF(axis.right, self._board_bottom() + 14))
        marks = sorted(((axis.x(sum(x for x, _ in d.polygon) / len(d.polygon)), d) for d in piece.defects), key=lambda m: m[0])
        for (x, row), (_, defect) in zip(draw.spread_tags([m[0] for m in marks], axis.left + 20, axis.right - 20, 42), marks):
            draw.tag(p, theme, QPointF(x, self._board_bottom() + 14 + 25 * row), defect.id, defect.kind)

    # the plan -----------------------------------------------------------------------------------------------------
    def _note(self, design: Design) -> str:
        """What the build is, as the house reads lengths."""
        g = self.state.shop.instruments.find(design.id)
        return instrument_in_words(g, self.state.style) if g is not None else design.note

    def _others(self, p: QPainter, plan: tuple[Job, Plan], bottom: float, right: float) -> None:
        """Every board of the plan, with its parts, at one scale."""
        job, made = plan
        boards = list(dict.fromkeys(o.piece for o in made.placements))
        if boards == [self.state.piece_id]:
            return  # it is drawn above, larger
        top = self._board_bottom() + self._tags_high() + 36
        right -= 2 * COMPARE_W + 20  # beside it stands what is done with the part in hand
        room = bottom - top - 6
        if not boards or room < 40:
            return
        pieces = [job.piece(b) for b in boards]
        columns, scale = max(((c, _scale_in(pieces, c, right, room)) for c in (1, 2, 3)), key=lambda found: (found[1], -found[0]))
        wide = (right - LEFT) / columns
        for c, some in enumerate(_in_columns(pieces, columns)):
            y = top
            for piece in some:
                self._small_board(p, job, made, piece, (LEFT + c * wide, y), scale)
                y += (piece.extents[3] - piece.extents[1]) * scale + BOARDS_APART

    def _small_board(self, p: QPainter, job: Job, made: Plan, piece: Piece, at: tuple[float, float], scale: float) -> None:
        """One board of the plan with its parts; ``at``: where its words and its far edge begin, px."""
        theme, (words, top) = self.state.theme, at
        left = words + AXIS_X - LEFT
        x0, y0, x1, y1 = piece.extents

        def to_x(x: float) -> float:
            return left + (x - x0) * scale

        def to_y(y: float) -> float:
            return top + (y1 - y) * scale

        shape = draw.path_of(piece.outline, to_x, to_y)
        target = QRectF(left, top, (x1 - x0) * scale, (y1 - y0) * scale)
        draw.wood_texture(p, theme, shape, self.state.pictures.get(piece, "face1"), target, plain_colour(piece.species))
        draw.outline(p, shape, theme.ink, 1.2)
        p.fillRect(QRectF(left - 6, top, 5, target.height()), theme.chalk)
        middle = top + min(target.height() / 2 + 5, 18)
        x = words + draw.text_at(p, words, middle, f"No. {piece.id}", theme.ink, 16, 600, figures=True) + 8
        name = draw.fitted_name(short_name(piece.species).lower(), left - 14 - x, 13)
        draw.text_at(p, x, middle, name, theme.ink2, 13)
        here = [one for one in made.placements if one.piece == piece.id and one.leaf == 1]
        for one in here:
            self._laid_part(p, job, one, to_x, to_y, short=True)
        for path, one in self._laid[-len(here) :] if here else ():
            part = job.part(one.part)
            self._small_slip(p, path.boundingRect(), part.letter + _leaves_of(part))

    def _laid_part(self, p: QPainter, job: Job, one: Placement, to_x: Any, to_y: Any, *, short: bool = False) -> None:
        part = job.part(one.part)
        path = draw.path_of(one.polygon, to_x, to_y)
        self._laid.append((path, one))
        zones = []
        for zone in part.zones:
            if zone.polygon != "rest":
                ring = placed(as_array(zone.polygon), one.x, one.y, one.angle_deg, turned_over=one.mirror != (one.face_up == "2"))
                zones.append((zone.kind, draw.path_of([(float(x), float(y)) for x, y in ring], to_x, to_y)))
        several = len(job.builds) > 1 and not short
        owner = next((b.id for b in job.builds if b.id == one.build), "") if several else ""
        names = {d.id: d.name for d in self.state.shop.designs()} if several else {}
        fixed = one.key in {q.key for q in self.pins.get(self.state.design_id or "", ())}
        draw.part_pattern(
            p,
            self.state.theme,
            part,
            path,
            zones,
            ""
            if short
            else part.letter + _leaves_of(part) + (f" {names.get(owner, owner)}" if owner else "") + (" pinned" if fixed else ""),
            "",
        )

    def _small_slip(self, p: QPainter, box: QRectF, name: str) -> None:
        """A part's letter on a board that is drawn small: in its middle, or beside it where another's slip lies there."""
        high = 24 if box.height() >= 24 else 17
        wide = draw.text_width(name, high * 2 / 3, 600, figures=True) + 12
        for away in (0.0, wide + 1, -wide - 1, 2 * wide + 2):
            slip = QRectF(box.center().x() - wide / 2 + away, box.center().y() - high / 2, wide, high)
            if not any(slip.intersects(other) for other in self._slips):
                self._slips.append(slip)
                draw.label(p, self.state.theme, slip.x(), slip.y(), name, px=high * 2 / 3, weight=600, height=high)
                return

    def _sums(self, p: QPainter, plan: tuple[Job, Plan], bottom: float, right: float) -> None:
        """Where the wood goes, what it is worth against the bound, and what was refused."""
        theme = self.state.theme
        job, made = plan
        draw.text_at(p, LEFT, bottom + 24, "Where the", theme.ink, 15, 700)
        draw.text_at(p, LEFT, bottom + 43, "wood goes", theme.ink, 15, 700)
        wood = {job.part(o.part).letter: job.piece(o.piece) for o in reversed(made.placements)}
        rows = [BarShare(name, share, wood.get(name)) for name, share in plan_view.shares(job, made)]
        balance_bar(p, theme, self.state.pictures, rows, AXIS_X, bottom + 10, right - AXIS_X, 0)
        draw.text_at(p, LEFT, bottom + 82, "The plan", theme.ink, 15, 700)
        kept = self.state.shop.plans.accepted_for(self.state.design_id) if self.fresh is None else None
        reason = f"Chosen: {kept.cut_plan.reason}.  " if kept is not None and kept.cut_plan.reason else ""
        draw.text_at(
            p, AXIS_X, bottom + 82, reason + plan_view.worth(made), theme.ink, 14.5, room=right - AXIS_X - COMPARE_W - 12
        )
        draw.text_at(p, LEFT, bottom + 106, "Refused", theme.ink, 15, 700)
        told = plan_view.near_refusals(job, made, self.state.style)
        room = right - AXIS_X - COMPARE_W - 12
        for k, row in enumerate(whole_rows(told, 2, room)):
            draw.text_at(p, AXIS_X, bottom + 105 + 18 * k, row, theme.ink2, 13.5, room=room + 10)
        self.setToolTip("\n".join(self.refusals()[:40]))

    def refusals(self) -> list[str]:
        """Every refusal of the shown plan, as sentences (for the guide and the tests)."""
        plan = self.shown_plan()
        return plan_view.refusals(*plan, self.state.style) if plan else []

    @override
    def resizeEvent(self, event: QResizeEvent) -> None:
        super().resizeEvent(event)
        self.refresh()
