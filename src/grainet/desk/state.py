"""What the window is about right now: the shop, the piece and build in hand, the lane, the plumb. Screens read it and ask it."""

from __future__ import annotations

from datetime import date

from PySide6.QtCore import QObject, QTimer, Signal

from grainet.desk.pictures import Background, Pictures
from grainet.desk.tokens import Theme, theme_for
from grainet.session.meaning import Meaning
from grainet.session.shop import Shop
from grainet.store.shop_file import ShopUnusable
from grainet.wood.piece import Piece
from grainet.wood.value import BadEntry, Value


class State(QObject):
    """One window's state; ``changed`` tells every band to look again, ``said`` carries a sentence for the person."""

    changed = Signal()
    said = Signal(str, bool)  # text, whether it is a caution
    tape_wanted = Signal(str)

    def __init__(self, shop: Shop) -> None:
        super().__init__()
        self.shop = shop
        self.background = Background()
        self.pictures = Pictures(self.background)
        self.pictures.ready.connect(self._soon)
        pieces = shop.pieces()
        self.piece_id: str | None = pieces[0].id if pieces else None
        designs = shop.designs()
        self.design_id: str | None = designs[0].id if designs else None
        self.use = "body_half"
        self.plumb_mm = 0.0
        self.chosen_tag: str | None = None
        self.screen = "bring_in"
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(15)
        self._timer.timeout.connect(self.changed)
        self._judging: set[tuple[str, str]] = set()
        self._held = True  # until the first paint: work in the background would only slow it
        shop.listen(self._soon)

    def begin(self) -> None:
        """After the first paint: let pictures and verdicts be worked out."""
        self._held = self.pictures.held = False
        self._soon()

    def _soon(self) -> None:
        """Tell once for many small changes."""
        if not self._timer.isActive():
            self._timer.start()

    @property
    def theme(self) -> Theme:
        return theme_for(self.shop.kit.theme)

    @property
    def today(self) -> date:
        return date.today()

    @property
    def piece(self) -> Piece | None:
        if self.piece_id is not None and self.shop.has_piece(self.piece_id):
            return self.shop.piece(self.piece_id)
        return None

    @property
    def design(self):  # type: ignore[no-untyped-def]
        return next((d for d in self.shop.designs() if d.id == self.design_id), None)

    def choose_piece(self, piece_id: str) -> None:
        if piece_id != self.piece_id:
            self.piece_id, self.chosen_tag = piece_id, None
            piece = self.piece
            end = piece.extents[2] if piece else 0.0
            self.plumb_mm = min(self.plumb_mm, end)
            self._soon()

    def choose_use(self, use: str) -> None:
        self.use = use
        self._soon()

    def choose_design(self, design_id: str) -> None:
        self.design_id = design_id
        self._soon()

    def choose_tag(self, tag: str | None) -> None:
        self.chosen_tag = tag
        self._soon()

    def move_plumb(self, mm: float) -> None:
        piece = self.piece
        end = (piece.extents[2] or piece.length_mm or 0.0) if piece else 0.0
        self.plumb_mm = max(0.0, min(end, mm))
        self._soon()

    def step_piece(self, by: int) -> None:
        ids = [p.id for p in self.shop.pieces()]
        if ids:
            at = ids.index(self.piece_id) if self.piece_id in ids else 0
            self.choose_piece(ids[max(0, min(len(ids) - 1, at + by))])

    # edits --------------------------------------------------------------------------------------------------------
    def keep(self, label: str, *values: Value, remove: tuple[Value, ...] = ()) -> bool:
        """Apply an edit; a refusal is said in the window and nothing is lost."""
        try:
            return self.shop.apply(label, *values, remove=remove)
        except ShopUnusable as fault:
            self.said.emit(str(fault), True)
            return False

    def keep_meaning(self, meaning: Meaning) -> None:
        """Do what a tape line meant."""
        if meaning.plumb_mm is not None:
            self.move_plumb(meaning.plumb_mm)
        if meaning.piece is None:
            return
        number = meaning.piece.id
        if meaning.cut is not None:
            self._saw_apart(number, *meaning.cut)
        elif meaning.replaces:
            taken = [p.id for p in meaning.more if self.shop.has_piece(p.id)]
            if taken:
                self.said.emit(f"No. {taken[0]} is on the rack already; begin a new piece first: Ctrl+N", True)
            elif self.keep(f"No. {number}: {meaning.label}", *meaning.more, remove=(self.shop.piece(number),)):
                self.choose_piece(meaning.more[0].id)
                self.said.emit(f"on the rack: {meaning.gloss}", False)
        elif self.keep(f"No. {number}: {meaning.label}", meaning.piece):
            self.said.emit(f"kept: {meaning.gloss}", False)

    def _saw_apart(self, number: str, tool: str, at: float) -> None:
        try:
            halves = self.shop.saw_apart(number, tool, at)
        except (BadEntry, ShopUnusable) as fault:
            self.said.emit(str(fault), True)
            return
        self.choose_piece(halves[0].id)
        self.said.emit(f"on the rack: {halves[0].id} and {halves[1].id}", False)

    def new_piece(self) -> None:
        number = self.shop.next_number()
        if self.keep(f"No. {number} begun", Piece(id=number, racked=False)):
            self.piece_id, self.plumb_mm = number, 0.0
            self._soon()

    def undo(self, forward: bool = False) -> None:
        try:
            label = self.shop.redo() if forward else self.shop.undo()
        except ShopUnusable as fault:
            self.said.emit(str(fault), True)
            return
        word = "done again" if forward else "taken back"
        self.said.emit(f"{word}: {label}" if label else f"nothing to be {word}", False)
        if self.piece is None:
            pieces = self.shop.pieces()
            self.piece_id = pieces[0].id if pieces else None
        self._soon()

    # judging in the background ------------------------------------------------------------------------------------
    def verdict(self, piece_id: str, use: str):  # type: ignore[no-untyped-def]
        """The verdict if it is known; otherwise None, and it is worked out off the interface thread."""
        known = self.shop.known_verdict(piece_id, use)
        if known is None and not self._held and (piece_id, use) not in self._judging:
            self._judging.add((piece_id, use))
            priority = 2 if piece_id == self.piece_id else 1 if use == self.use else 0
            self.background.start(lambda: self._judge(piece_id, use), lambda _: self._judged(piece_id, use), priority)
        return known

    def _judge(self, piece_id: str, use: str) -> None:
        if self.shop.has_piece(piece_id):
            self.shop.verdict(piece_id, use)

    def _judged(self, piece_id: str, use: str) -> None:
        self._judging.discard((piece_id, use))
        self._soon()
