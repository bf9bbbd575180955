"""One open shop: its items with undo, and what stands on them: rack, air, judgements, plans, promises, questions, jobs.

A screen talks to the core through this: ``apply``, ``undo``, ``redo``, ``piece``, and the parts by name. It knows no Qt.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from datetime import date
from pathlib import Path
from typing import Self, TypeVar

from grainet.clock import Clock, wall_clock
from grainet.design.design import Design
from grainet.kit.shop_profile import ShopProfile
from grainet.session.instruments import Instruments
from grainet.session.items import Items, Listener
from grainet.session.jobs import Jobs
from grainet.session.judgements import Judgements
from grainet.session.kinds import DESIGNS
from grainet.session.plans import Plans
from grainet.session.profile import kit_of
from grainet.session.promises import Promises
from grainet.session.questions import Questions
from grainet.session.rack import Rack
from grainet.session.shop_air import ShopAir
from grainet.store.shop_file import ShopFile, ShopUnusable
from grainet.wood.piece import Piece
from grainet.wood.value import Value

T = TypeVar("T")


class Shop:
    """An open shop folder."""

    def __init__(self, file: ShopFile, clock: Clock = wall_clock) -> None:
        self.items = Items(file, clock)
        self.rack = Rack(self.items)
        self.air = ShopAir(self.items)
        self.judgements = Judgements(self.rack, self.air)
        self.instruments = Instruments(self.items)
        self.plans = Plans(self.items)
        self.promises = Promises(self.items, self.plans)
        self.questions = Questions(self.rack, self.promises)
        self.jobs = Jobs(self.judgements, self.promises)

    @classmethod
    def open(cls, folder: Path, *, create: bool = False, read_only: bool = False, clock: Clock = wall_clock) -> Self:
        """Open (or make) a shop. Raises ShopUnusable with a sentence where that cannot be done."""
        return cls(ShopFile(Path(folder), create_new=create, read_only=read_only), clock)

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def close(self) -> None:
        """End what works for the shop, and let go of its file."""
        self.judgements.close()
        self.file.close()

    # the verbs that everybody uses --------------------------------------------------------------------------------
    @property
    def file(self) -> ShopFile:
        """The shop on disk."""
        return self.items.file

    @property
    def clock(self) -> Clock:
        """The clock on the shop's wall."""
        return self.items.clock

    @property
    def today(self) -> date:
        """The day on it."""
        return self.clock().date()

    @property
    def version(self) -> int:
        """Raised with every change."""
        return self.items.version

    @property
    def kit(self) -> ShopProfile:
        """The shop's profile."""
        return kit_of(self.items)

    def piece(self, piece_id: str) -> Piece:
        """One piece. Raises ShopUnusable where it is not there or cannot be understood."""
        return self.rack.piece(piece_id)

    def has_piece(self, piece_id: str) -> bool:
        """Whether a piece is there and can be understood."""
        return self.rack.has_piece(piece_id)

    def pieces(self, *, everything: bool = False) -> list[Piece]:
        """Pieces on the rack by number; ``everything`` has those sawn up too."""
        return self.rack.pieces(everything=everything)

    def designs(self) -> list[Design]:
        """Every design, in the order of their making."""
        return self.items.all(DESIGNS)

    def apply(self, label: str, *values: Value, remove: Sequence[Value] = ()) -> bool:
        """Keep values (and drop others) in one journalled step. False where nothing changes. Raises ShopUnusable."""
        return self.items.apply(label, *values, remove=remove)

    def undo(self) -> str | None:
        """Take the last edit back; its label, or None when there is none."""
        return self.items.undo()

    def redo(self) -> str | None:
        """Make the last undone edit again; its label, or None when there is none."""
        return self.items.redo()

    def listen(self, listener: Listener) -> None:
        """Call ``listener`` after every change."""
        self.items.listen(listener)

    def steady(self, work: Callable[[], T]) -> T:
        """Work that reads the shop on another thread while the window edits it: done again where an edit came between and it failed."""
        for _ in range(4):
            version = self.version
            try:
                return work()
            except (KeyError, IndexError, ShopUnusable, RuntimeError):
                if self.version == version:
                    raise
        return work()
