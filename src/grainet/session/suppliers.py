"""What each supplier's wood turned out to be: pieces, surprises, papers that lack."""

from __future__ import annotations

from dataclasses import dataclass

from grainet.session.shop import Shop
from grainet.wood.candidates import possible_flags
from grainet.wood.piece import Piece


@dataclass(frozen=True)
class SupplierRecord:
    """One supplier: pieces (sawn ones too), how many hid something, the share in %, what it was, money spent."""

    name: str
    pieces: int
    with_surprises: int
    rate_pct: float
    surprises: tuple[str, ...]
    spent: float
    stands_out: bool


def supplier_records(shop: Shop) -> list[SupplierRecord]:
    """All suppliers that are named, the one with the most surprises first."""
    by_name: dict[str, list[Piece]] = {}
    for piece in shop.pieces(everything=True):
        if piece.supply.supplier and piece.parent is None:
            by_name.setdefault(piece.supply.supplier, []).append(piece)
    rows = []
    for name, pieces in by_name.items():
        bad = [p for p in pieces if p.supply.surprises]
        rate = 100 * len(bad) / len(pieces)
        what = tuple(f"No. {p.id}: {s.what}" for p in bad for s in p.supply.surprises)
        spent = sum(p.supply.price or 0.0 for p in pieces)
        rows.append(
            SupplierRecord(
                name, len(pieces), len(bad), rate, what, spent, len(bad) > 1 and rate >= shop.kit.rules.surprise_rate_pct
            )
        )
    return sorted(rows, key=lambda r: (-r.rate_pct, r.name))


def papers_wanted(shop: Shop) -> list[Piece]:
    """Pieces that are, or may be, of a controlled species and have no paper kept with them."""
    return [p for p in shop.pieces() if "trade_regulated" in possible_flags(p, shop.kit.library) and not p.supply.papers]
