"""What a stock list will do to the shop, row by row, before anything is stored."""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from typing import Literal

from grainet.exchange.stock import StockRow, row_of
from grainet.session.shop import Shop
from grainet.wood.piece import Piece
from grainet.wood.units import LengthStyle, tell_length

Outcome = Literal["new", "same", "changes", "broken"]
WORDS: dict[str, str] = {"new": "comes in", "same": "is here already", "changes": "would change", "broken": "cannot be used"}
COUNTED: dict[str, str] = {"new": "to come in", "same": "here already", "changes": "would change", "broken": "cannot be used"}


@dataclass(frozen=True)
class Row:
    """One row's outcome. ``text`` says what changes or what is wrong; ``by_default`` whether it goes in unless told otherwise."""

    where: str
    number: str
    outcome: Outcome
    text: str
    piece: Piece | None

    @property
    def by_default(self) -> bool:
        """Whether it goes in unless somebody takes it out."""
        return self.outcome == "new"

    @property
    def may_go_in(self) -> bool:
        """Whether it can go in at all."""
        return self.outcome in ("new", "changes")


def preview(shop: Shop, rows: Iterable[StockRow]) -> list[Row]:
    """The outcome of every row against what is in the shop; nothing is stored."""
    return [_outcome(shop, row) for row in rows]


def _outcome(shop: Shop, row: StockRow) -> Row:
    piece = row.piece
    if piece is None:
        return Row(row.where, row.number, "broken", row.fault, None)
    if not shop.has_piece(piece.id):
        if shop.rack.number_taken(piece.id):
            return Row(
                row.where, piece.id, "broken", f"number {piece.id} belongs to a piece that is set aside in this shop", None
            )
        piece, unsure = _family(shop, piece)
        return Row(row.where, piece.id, "new", _size(piece, shop.kit.length_style) + unsure, piece)
    here = shop.piece(piece.id)
    if here == piece:
        return Row(row.where, piece.id, "same", _size(piece, shop.kit.length_style), piece)
    return Row(row.where, piece.id, "changes", differences(here, piece), piece)


def _family(shop: Shop, piece: Piece) -> tuple[Piece, str]:
    """A new piece whose species is a family's name comes in unsure, with every one of the family as what it may be."""
    found = shop.kit.library.matches(piece.species)
    if len(found) < 2 or not piece.species_sure:
        return piece, ""
    names = [s.common for s in found[:12]]
    new = piece.changed(species=names[0], species_sure=False, candidates=tuple(names[1:]))
    return new, f"; “{piece.species}” may be {', '.join(names)}: unsure until you say which"


def _size(piece: Piece, style: LengthStyle) -> str:
    x0, y0, x1, y1 = piece.extents
    thick = piece.least_thickness_mm
    size = f"{tell_length(x1 - x0, style)} × {tell_length(y1 - y0, style)}" if piece.outline else "size not read"
    return f"{piece.kind.replace('_', ' ')}, {piece.species}, {size}" + (
        f" × {tell_length(thick, style, '.1f')}" if thick else ", thickness not read"
    )


def differences(old: Piece, new: Piece) -> str:
    """What differs between two records of one number, in words."""
    a, b = row_of(old), row_of(new)
    told = [f"{name} {a[name] or 'unread'} to {b[name] or 'unread'}" for name in a if a[name] != b[name]]
    fields = [name for name in type(old).model_fields if getattr(old, name) != getattr(new, name)]
    rest = [f for f in fields if f in ("defects", "stations", "moisture", "figure", "photos", "sweeps", "layers", "outline")]
    told += [f"{name} differ" for name in rest if not any(t.startswith(name) for t in told)]
    return ", ".join(told[:6]) + (f" and {len(told) - 6} more" if len(told) > 6 else "") if told else ", ".join(fields)


def bring_in(shop: Shop, chosen: Sequence[Row]) -> int:
    """Keep the chosen rows in one journalled step; how many went in. Broken and unchanged rows are passed over."""
    pieces = [row.piece for row in chosen if row.may_go_in and row.piece is not None]
    if pieces:
        shop.apply(f"{len(pieces)} piece{'s' if len(pieces) != 1 else ''} from a list", *pieces)
    return len(pieces)
