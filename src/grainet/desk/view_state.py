"""What the window is about right now: the shop, the piece and build in hand, the lane, the plumb. Screens read it and ask it."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date
from pathlib import Path
from typing import TYPE_CHECKING, NamedTuple

from PySide6.QtCore import QObject, QTimer, Signal

from grainet.desk.painting.tokens import Theme, theme_for
from grainet.desk.services.background import Background, Failed
from grainet.desk.services.pictures import Pictures
from grainet.kept import Kept
from grainet.session.commands.command import Command
from grainet.session.commands.elsewhere import station_of
from grainet.session.commands.figures import FigureReader
from grainet.session.commands.line import read
from grainet.session.mates import mates_of
from grainet.session.query import Query
from grainet.session.shop import Shop
from grainet.store.shop_file import ShopUnusable
from grainet.turns import first
from grainet.wood.climate import AirReading
from grainet.wood.piece import Piece
from grainet.wood.units import LengthStyle, tell_length
from grainet.wood.value import BadEntry, NoSuchWord, Value
from grainet.work.matching import Matched

if TYPE_CHECKING:
    from grainet.design.design import Design
    from grainet.design.instrument import Instrument
    from grainet.grade.ready import Readiness
    from grainet.grade.verdict import Verdict
    from grainet.grade.wanted import Wanted
    from grainet.job.answer import Plan
    from grainet.job.job import Job


def _clear(piece: Piece) -> float:
    from grainet.wood.tally import tally

    return tally(piece).clear_both


class Message(NamedTuple):
    """A sentence for the person, and whether it is a caution."""

    text: str
    caution: bool


class State(QObject):
    """One window's state; ``changed`` tells every band to look again, ``said`` carries a sentence for the person."""

    changed = Signal()
    message = Signal(Message)
    tape_wanted = Signal(str)
    part_lost = Signal()  # a part of a plan: what makes it again is looked for
    plan_kept = Signal(str)  # the id of a design: a plan of it was accepted
    plan_in_hand = Signal(object, object)  # Job and Plan: shown in Lay out, not kept yet
    plan_wanted = Signal(str)  # the id of a design: plan it, or the rest of it
    screen_wanted = Signal(str)
    top_changed = Signal()  # other clamps are free, another joint asks for them, another instrument is in hand
    bench_wanted = Signal(str)  # the id of an operation: the bench stands at it
    previewed = Signal()  # a change of the instrument is shown, or no longer

    def __init__(self, shop: Shop) -> None:
        super().__init__()
        self.shop = shop
        self.background = Background()
        self.background.setParent(self)
        self.background.failed.connect(lambda text: self.warn(text))
        self.background.quiet.connect(self._soon)
        self.pictures = Pictures(self.background, shop.file.folder)
        self.pictures.setParent(self)
        self.pictures.ready.connect(self._soon)
        pieces = shop.pieces()
        self.piece_id: str | None = pieces[0].id if pieces else None
        designs = shop.designs()
        self.design_id: str | None = designs[0].id if designs else None
        self.use = "body_half"
        self.cursor_mm = 0.0
        self.chosen_tag: str | None = None
        self.chosen_corner: int | None = None  # which handle of the taken mark the arrows move
        self.face_up = "1"  # the face that Bring in shows
        self.part_box: tuple[float, float, float, float] | None = None  # a part tried on the board, mm
        self.part_off: frozenset[str] = frozenset()  # links of its loss chain that are switched off
        self.asked: Query | None = None  # what the rack was asked, and which answer it
        self._answers: tuple[int, frozenset[str]] | None = None
        self._asking = False
        self.tape_by = ""  # the instrument whose words wait in the tape line
        self.screen = "bring_in"
        # what the head says of the screen in front: a name, and figures with their words; None: the piece in hand
        self.heads: Callable[[], tuple[str, list[tuple[str, str]]] | None] | None = None
        self.at_step: tuple[str, str, str] = ("", "", "")  # machine, kind and board of the step that the bench was left at
        self.words_here: Callable[[], list[tuple[str, str, str]]] = list  # what may be typed in the screen in front alone
        self.reads: Callable[[str], Command | None] | None = None  # what the screen in front reads of the tape line itself
        self.draw_mm = 700.0  # the marker in Draw up, from the tail
        self.preview: Instrument | None = None  # the instrument as a line that is being typed would make it
        self.rescue_part = ""  # the blank whose ways out are looked for
        self.rescue_piece = ""  # the piece that comes nearest to it, until its ways out are shown
        self.closing = False  # the window goes: long work for it ends at its next piece
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(15)
        self._timer.timeout.connect(self._tell)
        self._worked: Kept[tuple[str, str], tuple[tuple[object, object], object]] = Kept(4_000)
        self._working: set[tuple[str, str]] = set()
        self._judging: set[tuple[str, str]] = set()
        self._unjudged: Kept[tuple[str, str, str | None], int] = Kept(
            1_000
        )  # what failed, at which version: not tried again before a change
        self._waits_for_paint = True  # until the first paint: work in the background would only slow it
        shop.listen(self._soon)

    def begin(self) -> None:
        """After the first paint: let pictures and verdicts be worked out."""
        self._waits_for_paint = self.pictures.held = False
        self._soon()
        self.background.start(self._prepare_forecasts, lambda _: None, 0)
        self.background.start(self.pictures.tidy, lambda _: None, 0)
        if len(self.shop.pieces()) >= 100:  # a large rack gets its rows ready before anybody asks
            self.background.start(lambda: self.shop.questions.keep_rows(0.2), self._rows_left, 0)

    @property
    def _held(self) -> bool:
        """Whether work in the background waits: for the first paint, or for the end of quick stepping."""
        return self._waits_for_paint or self.background.held

    def _prepare_forecasts(self) -> None:
        """The ways to the air of all wet boards at once, before a list asks for them one by one."""
        from grainet.grade.ready import prepare

        prepare(self.shop.pieces(), self.shop.kit)

    def _rows_left(self, left: object) -> None:
        """Go on with the rows while nothing more urgent waits."""
        if isinstance(left, int) and left:
            self.background.start(lambda: self.shop.questions.keep_rows(0.2), self._rows_left, 0)

    def _soon(self) -> None:
        """Tell once for many small changes."""
        if not self._timer.isActive():
            self._timer.start()

    def _tell(self) -> None:
        with first():
            self.changed.emit()

    @property
    def theme(self) -> Theme:
        """The colours in use."""
        return theme_for(self.shop.kit.theme)

    @property
    def today(self) -> date:
        """The day on the shop's wall."""
        return self.shop.today

    @property
    def piece(self) -> Piece | None:
        """The piece in hand; None where there is none."""
        if self.piece_id is not None and self.shop.has_piece(self.piece_id):
            return self.shop.piece(self.piece_id)
        return None

    @property
    def drawing(self) -> bool:
        """Whether a guitar is drawn in the screen in front, so that the tape line and the marker mean it and a change may be shown."""
        return self.screen in ("draw_up", "strips", "outline")

    @property
    def design(self) -> Design | None:
        """The design in hand; None where there is none."""
        return next((d for d in self.shop.designs() if d.id == self.design_id), None)

    @property
    def instrument(self) -> Instrument | None:
        """The instrument in hand: the design's own, else the first one that was drawn up."""
        found = self.shop.instruments.find(self.design_id)
        return found if found is not None else next(iter(self.shop.instruments.all()), None)

    def choose_piece(self, piece_id: str) -> None:
        """Take another piece in hand."""
        if piece_id != self.piece_id:
            self.background.step()
            self.piece_id, self.chosen_tag, self.chosen_corner = piece_id, None, None
            self.part_box, self.part_off, self.face_up = None, frozenset(), "1"
            piece = self.piece
            end = piece.extents[2] if piece else 0.0
            self.cursor_mm = min(self.cursor_mm, end)
            self._soon()

    def ask(self, query: Query | None) -> None:
        """Ask the rack for wood; None shows every piece again."""
        self.asked, self._answers = query, None
        self._soon()

    def answers(self) -> frozenset[str] | None:
        """The numbers of the pieces that answer the question; None while there is none, or while it is worked out."""
        if self.asked is None:
            return None
        if (self._answers is None or self._answers[0] != self.shop.version) and not self._asking and not self._held:
            self._asking = True
            query, version = self.asked, self.shop.version
            self.background.start(lambda: self._answer(query), lambda found: self._answered(query, version, found), 4)
        return self._answers[1] if self._answers is not None else None

    def _answer(self, query: Query) -> tuple[frozenset[str], frozenset[str]]:
        self.shop.questions.keep_rows(0.5)
        free, held = self.shop.steady(lambda: self.shop.questions.answers(query))
        return (held, frozenset()) if "promised" in query.words else (free, held)

    def _answered(self, query: Query, version: int, found: object) -> None:
        self._asking = False
        if (
            isinstance(found, Failed) and query is self.asked
        ):  # no answer is an answer too: the question stands, nothing is hidden
            self._answers = (version, frozenset(p.id for p in self.shop.pieces()))
        if query is self.asked and isinstance(found, tuple):
            fresh = self._answers is None
            free, held = found
            self._answers = (version, free)
            if fresh:
                more = f"; {len(held)} more promised or kept: add promised" if held else ""
                asked = query.message(self.shop.kit.length_style)
                self.notify(f"{len(free)} of {len(self.shop.pieces())}: {asked}{more}; ask for nothing to see all")
        self._soon()

    def choose_use(self, use: str) -> None:
        """Look for another use."""
        self.use = use
        self._soon()

    def choose_design(self, design_id: str) -> None:
        """Take another design in hand."""
        self.design_id = design_id
        self._soon()

    def choose_tag(self, tag: str | None) -> None:
        """Take a mark on the board, or let go."""
        self.chosen_tag, self.chosen_corner = tag, None
        self._soon()

    def choose_corner(self, corner: int | None) -> None:
        """Take one of its handles."""
        self.chosen_corner = corner
        self._soon()

    def roll(self) -> None:
        """Show the other face in Bring in."""
        self.face_up, self.chosen_tag, self.chosen_corner = ("2" if self.face_up == "1" else "1"), None, None
        self._soon()

    def try_part(self, box: tuple[float, float, float, float] | None) -> None:
        """Try a part on the board, kept within it; None puts it away."""
        if box is not None and self.piece is not None:
            x0, y0, x1, y1 = self.piece.extents
            a, b = (max(x0, min(x1, v)) for v in (box[0], box[2]))
            c, d = (max(y0, min(y1, v)) for v in (box[1], box[3]))
            box = (round(a, 1), round(c, 1), round(b, 1), round(d, 1)) if b - a >= 1 and d - c >= 1 else self.part_box
        self.part_box = box
        if box is None:
            self.part_off = frozenset()
        self._soon()

    def reshape_mark(self, piece: Piece, tag: str, ring: tuple[tuple[float, float], ...]) -> bool:
        """Keep a trouble's new outline if it touches the piece and does not cross itself; a sentence says why not."""
        from grainet.wood.outline import ring_fault

        old = next(d for d in piece.defects if d.id == tag)
        x0, y0, x1, y1 = piece.extents
        xs, ys = zip(*ring)
        if max(xs) < x0 or min(xs) > x1 or max(ys) < y0 or min(ys) > y1:
            self.warn(f"{tag} would lie off the piece; it stays where it was.")
            return False
        if fault := ring_fault(ring):
            self.warn(f"{tag}: {fault}; it stays as it was.")
            return False
        new = old.changed(polygon=ring)
        return self.keep(f"{tag} moved", piece.changed(defects=tuple(new if d.id == tag else d for d in piece.defects)))

    def switch_link(self, name: str) -> None:
        """Switch a link of the tried part's loss chain off, or on again."""
        self.part_off = self.part_off ^ {name}
        self._soon()

    def move_cursor(self, mm: float) -> None:
        """Move the marker along the board, or along the instrument in Draw up, mm."""
        if self.drawing:
            self.draw_mm = max(0.0, min(3000.0, mm))
            self._soon()
            return
        piece = self.piece
        end = (piece.extents[2] or piece.length_mm or 0.0) if piece else 0.0
        self.cursor_mm = max(0.0, min(end, mm))
        self._soon()

    def step_piece(self, by: int) -> None:
        """The next piece on the rack, or the one before."""
        pieces = self.shop.pieces()
        if pieces:
            at = self.shop.rack.place_on_rack(self.piece_id or "") or 0
            self.choose_piece(pieces[max(0, min(len(pieces) - 1, at + by))].id)

    # edits --------------------------------------------------------------------------------------------------------
    def keep(self, label: str, *values: Value, remove: tuple[Value, ...] = ()) -> bool:
        """Apply an edit; a refusal is said in the window and nothing is lost."""
        try:
            return self.shop.apply(label, *values, remove=remove)
        except ShopUnusable as fault:
            self.warn(str(fault))
            return False

    # instruments --------------------------------------------------------------------------------------------------
    def look_for_ways_out(self, part: str, piece: str) -> None:
        """Show the ways out for a blank of the instrument in hand that a piece does not give."""
        self.rescue_part, self.rescue_piece = part, piece
        self.screen_wanted.emit("rescue")

    def show_preview(self, g: Instrument | None) -> None:
        """Show an instrument as it would be; None shows what is kept."""
        if g is not self.preview:
            self.preview = g
            self.previewed.emit()

    def keep_preview(self) -> None:
        """Keep what is shown."""
        if self.preview is not None:
            g, old = self.preview, self.instrument
            label = "changed" if old is not None and old.id == g.id else "begun"
            self.tape_wanted.emit("")
            self.keep_instrument(label, g)

    def keep_instrument(self, label: str, g: Instrument) -> bool:
        """Keep an instrument with its design and take it in hand; why not is said in the window."""
        self.show_preview(None)
        try:
            done = self.shop.instruments.keep(f"{g.shown_name}: {label}", g)
        except (BadEntry, ShopUnusable) as fault:
            self.warn(str(fault))
            return False
        self.choose_design(g.id)
        self.notify(f"kept: {label}" if done else f"{g.shown_name} is so already")
        return done

    def keep_brief(self, design: Design, label: str, make: Callable[[], Instrument | Design]) -> bool:
        """Keep a build with another brief; why not is said in the window."""
        from grainet.design.design import Design as Plain

        try:
            new = make()
        except BadEntry as fault:
            self.warn(str(fault))
            return False
        if isinstance(new, Plain):
            return self.keep(f"{design.name}: {label}", new)
        return self.keep_instrument(label, new)

    def remove_instrument(self, g: Instrument) -> None:
        """Take an instrument away; one that is being sawn stays."""
        if self.shop.plans.accepted_for(g.id) is not None:
            self.warn(f"{g.shown_name} is laid out; it stays while its plan does.")
            return
        names = [one.id for one in self.shop.instruments.all()]
        at = names.index(g.id) if g.id in names else 0
        rest = [name for name in names if name != g.id]
        try:
            self.shop.instruments.remove(g)
        except ShopUnusable as fault:
            self.warn(str(fault))
            return
        if rest:
            self.choose_design(rest[max(0, at - 1)])
        self.notify(f"{g.shown_name} taken away; undo brings it back")

    def accept_plan(self, design: Design, job: Job, plan: Plan, matched: tuple[Matched, ...] = (), reason: str = "") -> bool:
        """Keep a plan to saw by; a refusal is said in the window and nothing is lost."""
        from grainet.session.surprise import accept

        try:
            accept(self.shop, design, job, plan, matched, reason)
        except ShopUnusable as fault:
            self.warn(str(fault))
            return False
        self.plan_kept.emit(design.id)
        return True

    def tell_surprise(self, board: str, lost: str | None = None, went_mm: float | None = None) -> None:
        """In the middle of sawing a part is lost, or a cut went elsewhere."""
        from grainet.session import surprise  # brings in Shapely: not at the start

        try:
            said = (
                surprise.lose(self.shop, board, lost) if lost is not None else surprise.cut_went(self.shop, board, went_mm or 0.0)
            )
        except (BadEntry, ShopUnusable) as fault:
            self.warn(str(fault))
            return
        self.notify(said)
        if lost is not None:
            self.part_lost.emit()

    def understand(self, line: str, piece: Piece | None = None, by: str = "") -> Command:
        """What a line of words means here, for the piece in hand or another state of it. Raises BadEntry."""
        kit = self.shop.kit
        if self.reads is not None and (read_here := self.reads(line)) is not None:
            return read_here
        if (learnt := self._learnt(line)) is not None:
            return learnt
        if self.drawing:
            drawn = FigureReader(self.instrument, self.shop.instruments, kit.library, kit.length_style).read(line)
            if drawn is not None:
                return Command(drawn.gloss, draws=drawn)
        try:
            return read(
                line, piece or self.piece, self.cursor_mm, kit.length_style, self.today.isoformat(), kit.pin_depth_mm, by, kit.figure_words, kit,
            )  # fmt: skip
        except NoSuchWord:
            if not (station := station_of(line)):
                raise
            text = f"“{line.split()[0]}” is a word of {station}: go there, and Enter keeps the line."
            raise BadEntry(text) from None

    def _learnt(self, line: str) -> Command | None:
        """A figure that was measured, a mishap at the step in hand or on the piece in hand, an edge made sharp. Raises BadEntry."""
        from grainet.session.learning_words import reads

        return reads(self.shop, line, self.piece_id or "", self.at_step)

    def keep_meaning(self, meaning: Command) -> None:
        """Do what a tape line meant."""
        if meaning.does is not None:
            meaning.does()
            self.at_step = ("", "", "")
            return
        if meaning.draws is not None:
            self.keep_instrument(meaning.gloss, meaning.draws.after)
            return
        if meaning.cursor_mm is not None:
            self.move_cursor(meaning.cursor_mm)
        if meaning.asks is not None:
            self.ask(meaning.asks if meaning.asks != Query() else None)
        if meaning.opens is not None:
            self.open_piece(meaning.opens)
        if meaning.part is not None:
            self.try_part(meaning.part)
        if meaning.air is not None:
            self.log_air([meaning.air])
        if meaning.claims is not None and self.piece is not None:
            self.claim(meaning.claims)
        if meaning.beside is not None and self.piece is not None:
            self.say_beside(meaning.beside)
        if meaning.mates and self.piece is not None:
            self.say_mates()
        if meaning.frees is not None and self.piece is not None:
            self.free(self.piece.id, meaning.frees)
        if self.piece is not None and (meaning.lost is not None or meaning.went is not None):
            self.tell_surprise(self.piece.id, meaning.lost, meaning.went)
        elif meaning.piece is not None:
            self._keep_piece(meaning, meaning.piece.id)

    def _keep_piece(self, meaning: Command, number: str) -> None:
        """Keep what a line makes of the piece in hand: itself anew, its halves, or the pieces that take its place."""
        assert meaning.piece is not None
        if meaning.begins:
            number = self.shop.rack.next_number()
            if self.keep(f"No. {number} begun: {meaning.label}", meaning.piece.changed(id=number)):
                self.piece_id, self.cursor_mm = number, 0.0
                self.notify(f"No. {number} begun: {meaning.gloss.removeprefix('a new piece, ')}")
                self._soon()
        elif meaning.cut is not None:
            self._saw_apart(number, *meaning.cut)
        elif meaning.replaces:
            taken = [p.id for p in meaning.more if self.shop.has_piece(p.id)]
            if taken:
                self.warn(f"No. {taken[0]} is on the rack already; begin a new piece first: Ctrl+N")
            elif self.keep(f"No. {number}: {meaning.label}", *meaning.more, remove=(self.shop.piece(number),)):
                self.choose_piece(meaning.more[0].id)
                self.notify(f"on the rack: {meaning.gloss}")
        elif self.keep(f"No. {number}: {meaning.label}", meaning.piece):
            self.notify(f"kept: {meaning.gloss}")

    def log_air(self, readings: list[AirReading]) -> None:
        """Keep readings of the shop's air; those of a time that is logged already are left out."""
        try:
            count = self.shop.air.log(readings)
        except ShopUnusable as fault:
            self.warn(str(fault))
            return
        last = readings[-1] if readings else None
        words = (
            f"{last.temperature_c:g} °C, {100 * last.humidity:.0f} %: {last.equilibrium_pct:.1f} %"
            if last and count == 1
            else f"{count} readings of the air kept"
        )
        self.notify(words if count else "those readings are logged already")

    def say_beside(self, number: str) -> None:
        """Say what to mind where the piece in hand is glued beside another."""
        from grainet.work.glue_ups import beside

        if self.piece is None or not self.shop.has_piece(number) or number == self.piece.id:
            self.warn(f"No. {number} is not another piece of this shop")
            return
        found = beside(self.piece, self.shop.piece(number), self.shop.kit, self.shop.air.year)
        words = "; ".join(f"{p.text} ({p.step})" if p.step else p.text for p in found)
        self.notify(
            words or f"nothing stands against No. {self.piece.id} beside No. {number}",
            caution=any(p.grade != "note" for p in found),
        )

    def say_mates(self) -> None:
        """Which boards go best with the piece in hand."""
        if self.piece is None:
            return
        found = mates_of(self.shop, self.piece)
        if not found:
            self.notify(f"no other board of the rack is about as thick as No. {self.piece.id}")
            return
        self.notify("; ".join(f"No. {one.name}: {one.score:.0f} of 100, {one.why}" for one in found[:3]))

    def notify(self, text: str, *, caution: bool = False) -> None:
        """Say a sentence under the tape line."""
        self.message.emit(Message(text, caution))

    def warn(self, text: str) -> None:
        """Say what did not go, or what to be careful of."""
        self.notify(text, caution=True)

    def claim(self, what: str) -> None:
        """Keep the piece in hand, or the part tried on it, for something; a clash is said and both claims stay."""
        from grainet.session.claims import clashes_of, new_claim

        assert self.piece is not None
        made = new_claim(self.shop, self.piece.id, what, self.part_box, self.today.isoformat())
        if self.keep(f"No. {self.piece.id} kept for {what}", made):
            clash = clashes_of(made, self.shop.promises.claims())
            words = f"; it clashes with {clash[0].claimed_for}: sort it out under F11" if clash else ""
            self.notify(f"kept for {what}{words}", caution=bool(clash))

    def free(self, piece_id: str, what: str) -> None:
        """Give claims on a piece back."""
        gone = [
            r
            for r in self.shop.promises.claims()
            if r.piece == piece_id and (what == "*" or what.lower() in r.claimed_for.lower())
        ]
        if not gone:
            self.warn(f"No. {piece_id} has no such claim")
        elif self.keep(f"claims on No. {piece_id} given back", remove=tuple(gone)):
            self.notify(f"given back: {', '.join(r.claimed_for for r in gone)}")

    def _saw_apart(self, number: str, tool: str, at: float) -> None:
        try:
            halves = self.shop.rack.saw_apart(number, tool, at)
        except (BadEntry, ShopUnusable) as fault:
            self.warn(str(fault))
            return
        self.choose_piece(halves[0].id)
        self.notify(f"on the rack: {halves[0].id} and {halves[1].id}")

    def open_piece(self, number: str) -> None:
        """Take a piece in hand by its number, as a scanned label asks for it; one that is sawn up is said."""
        if not self.shop.has_piece(number):
            from grainet.session.part_labels import part_told

            told = part_told(self.shop, number)
            (self.notify if told else self.warn)(told or f"No. {number} is not in this shop")
            return
        gone = self.shop.piece(number).gone
        if gone:
            here = [p.id for p in self.shop.pieces() if p.parent == number]
            self.warn(f"No. {number} is sawn up ({gone})" + (f"; left of it: {', '.join(here)}" if here else ""))
            return
        self.choose_piece(number)
        self.notify(f"No. {number} in hand")

    def new_piece(self) -> None:
        """Begin a piece with the next free number."""
        number = self.shop.rack.next_number()
        if self.keep(f"No. {number} begun", Piece(id=number, racked=False)):
            self.piece_id, self.cursor_mm = number, 0.0
            self._soon()

    def save_elsewhere(self, folder: Path) -> None:
        """Write the shop to a new folder and go on there. Raises ShopUnusable."""
        self.shop.items.save_elsewhere(folder)
        self.pictures.folder = folder

    def undo(self, *, forward: bool = False) -> None:
        """Take the last edit back, or do it again; what it was is said."""
        try:
            label = self.shop.redo() if forward else self.shop.undo()
        except ShopUnusable as fault:
            self.warn(str(fault))
            return
        word = "done again" if forward else "taken back"
        self.notify(f"{word}: {label}" if label else f"nothing to be {word}")
        if self.piece is None:
            pieces = self.shop.pieces()
            self.piece_id = pieces[0].id if pieces else None
        self._soon()

    def clear_share(self, piece: Piece) -> float | None:
        """How much of the worse face is clear; None while it is worked out."""
        return self._worked_out("clear", piece, lambda: _clear(piece))  # type: ignore[return-value]

    def readiness(self, piece: Piece) -> Readiness:
        """Ready or not at once, with its days once the forecast was worked out."""
        facts = self.shop.judgements.facts(piece.id)
        if facts.ready_or_not.word != "waits":
            return facts.ready_or_not
        return self._worked_out("ready", piece, lambda: facts.ready) or facts.ready_or_not  # type: ignore[return-value]

    def _worked_out(self, what: str, piece: Piece, work: Callable[[], object]) -> object | None:
        """What is known of a piece as it is under this kit; None while it is worked out off the window's thread, or where that failed."""
        basis = (piece, self.shop.kit)
        kept = self._worked.get((what, piece.id))
        if kept is not None and kept[0][0] is basis[0] and kept[0][1] is basis[1]:
            return kept[1]
        if (what, piece.id) not in self._working and not self._held:
            self._working.add((what, piece.id))

            def take(found: object) -> None:
                self._working.discard((what, piece.id))
                self._worked.put((what, piece.id), (basis, None if isinstance(found, Failed) else found))
                self._soon()

            self.background.start(work, take, 1)
        return None

    @property
    def style(self) -> LengthStyle:
        """How this house reads lengths."""
        return self.shop.kit.length_style

    def told(self, mm: float, form: str = ".0f") -> str:
        """A length in a sentence, as this house reads it."""
        return tell_length(mm, self.style, form)

    def wanted(self, use: str | None = None) -> Wanted:
        """What the chosen lane (or another one) asks for: the part of the build in hand, or the use by size."""
        return self.shop.judgements.wanted(use or self.use, self.design_id)

    # judging in the background ------------------------------------------------------------------------------------
    def verdict(self, piece_id: str, use: str) -> Verdict | None:
        """The verdict if it is known; otherwise None, and it is worked out off the window's thread where the piece is there."""
        design_id = self.design_id
        if not self.shop.has_piece(piece_id):  # undone or sawn up since what asks was drawn
            return None
        known = self.shop.judgements.known_verdict(piece_id, use, design_id)
        failed = self._unjudged.get((piece_id, use, design_id)) == self.shop.version
        if known is None and not self._held and not failed and (piece_id, use) not in self._judging:
            self._judging.add((piece_id, use))
            priority = 2 if piece_id == self.piece_id else 1 if use == self.use else 0
            self.background.start(
                lambda: self._judge(piece_id, use, design_id), lambda made: self._judged(piece_id, use, design_id, made), priority
            )
        return known

    def _judge(self, piece_id: str, use: str, design_id: str | None) -> None:
        if self.shop.has_piece(piece_id):
            self.shop.judgements.verdict(piece_id, use, design_id)

    def _judged(self, piece_id: str, use: str, design_id: str | None, made: object) -> None:
        self._judging.discard((piece_id, use))
        if isinstance(made, Failed):
            self._unjudged.put((piece_id, use, design_id), self.shop.version)
        self._soon()
