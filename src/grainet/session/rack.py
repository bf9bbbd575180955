"""The pieces of the shop by number: those on the rack, those sawn up, numbers that are free, what comes and goes by hand."""

from __future__ import annotations

import re
from collections.abc import Sequence
from functools import lru_cache

from grainet.exchange.json_file import Unusable
from grainet.session.items import Items
from grainet.session.kinds import PIECES
from grainet.session.profile import kit_of
from grainet.wood.piece import Piece


class Rack:
    """The pieces of one shop."""

    def __init__(self, items: Items) -> None:
        self.items = items
        self._racks: dict[bool, tuple[int, list[Piece]]] = {}
        self._places: tuple[int, dict[str, int]] | None = None
        self._loose: tuple[int, int] | None = None

    def pieces(self, *, everything: bool = False) -> list[Piece]:
        """Pieces on the rack by number; ``everything`` has those sawn up too."""
        kept = self._racks.get(everything)
        if kept is None or kept[0] != self.items.version:
            kept = self._racks[everything] = (self.items.version, self._sorted_pieces(everything=everything))
        return list(kept[1])

    def loose(self) -> int:
        """How many offcuts have no place yet."""
        if self._loose is None or self._loose[0] != self.items.version:
            self._loose = (self.items.version, sum(1 for p in self.pieces() if p.parent and not p.place))
        return self._loose[1]

    def place_on_rack(self, piece_id: str) -> int | None:
        """Where a piece comes in ``pieces()``; None where it is not on the rack."""
        kept = self._places
        if kept is None or kept[0] != self.items.version:
            kept = self._places = (self.items.version, {p.id: k for k, p in enumerate(self.pieces())})
        return kept[1].get(piece_id)

    def _sorted_pieces(self, *, everything: bool) -> list[Piece]:
        found = self.items.all(PIECES)
        rack = [p for p in found if everything or not p.gone]
        return sorted(rack, key=lambda p: _natural(p.id))

    def piece(self, piece_id: str) -> Piece:
        """One piece. Raises ShopUnusable where it is not there or cannot be understood."""
        return self.items.get(PIECES, piece_id)

    def has_piece(self, piece_id: str) -> bool:
        """Whether a piece is there and can be understood."""
        return self.items.has(PIECES, piece_id)

    def number_taken(self, piece_id: str) -> bool:
        """Whether a number is used, by a piece that is set aside too."""
        return self.items.taken(PIECES, piece_id)

    def next_number(self, parent: str | None = None) -> str:
        """The next free number: 18 after 17, or 42.1 for an offcut of 42."""
        taken = set(self.items.names(PIECES))
        if parent is not None:
            return next(f"{parent}.{n}" for n in range(1, 10_000) if f"{parent}.{n}" not in taken)
        numbers = [int(m[0]) for p in taken if (m := re.match(r"[0-9]{1,9}", p))]
        return str(max(numbers, default=0) + 1)

    def saw_apart(self, piece_id: str, tool: str, at_mm: float) -> tuple[Piece, Piece]:
        """Saw a piece apart by hand: two pieces come to the rack and the parent leaves it, in one step. Raises BadEntry."""
        from grainet.session.hand_cuts import sawn_apart

        piece = self.piece(piece_id)
        first = self.next_number(piece_id)
        second = f"{piece_id}.{int(first.rpartition('.')[2]) + 1}"
        halves = sawn_apart(piece, tool, at_mm, kit_of(self.items).cuts, (first, second))
        self.items.apply(f"No. {piece_id} sawn apart", piece.changed(gone=tool), *halves)
        return halves

    def bring_in_stock(self, pieces: Sequence[Piece]) -> int:
        """Keep pieces from a list in one step. Raises Unusable where a number is taken by a different piece."""
        clash = [p.id for p in pieces if self.number_taken(p.id) and not (self.has_piece(p.id) and self.piece(p.id) == p)]
        if clash:
            raise Unusable(
                [f"stock: number {c} is on the rack already with other figures; nothing was brought in" for c in clash]
            )
        new = [p for p in pieces if not self.has_piece(p.id)]
        if new:
            self.items.apply(f"{len(new)} pieces from a list", *new)
        return len(new)


@lru_cache(maxsize=30_000)
def _natural(name: str) -> tuple[object, ...]:
    return tuple((0, int(t), "") if t[0] in "0123456789" else (1, 0, t) for t in re.findall(r"[0-9]{1,18}|[^0-9]+", name))
