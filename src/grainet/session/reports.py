"""What became of the wood: every board that was sawn up, as litres in parts, offcuts, kerfs, what was planed off and scrap, with its price, weight and
the hours that it took. It balances to the board.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from datetime import timedelta
from itertools import pairwise

from grainet.session.learning import LONGEST_MIN
from grainet.session.making import log_of, making_for
from grainet.session.shop import Shop
from grainet.wood.piece import Piece
from grainet.work.bench_log import instant
from grainet.work.cut_plan import UnderWay
from grainet.work.operation import Making
from grainet.work.sawn_board import NOT_SAID, SHARES, SawnBoard


def sawn_boards(shop: Shop) -> list[SawnBoard]:
    """Every board that was sawn up, plan by plan; one that several plans name, as it was planned anew while it was sawn, by the last of them."""
    everyone = {p.id: p for p in shop.pieces(everything=True)}
    found: dict[str, SawnBoard] = {}
    for plan in shop.plans.all():
        under_way = shop.plans.under_way(plan.id)
        if under_way is not None:
            found.update((row.board, row) for row in _of_plan(shop, under_way, everyone))
    return list(found.values())


def _of_plan(shop: Shop, under_way: UnderWay, everyone: dict[str, Piece]) -> Iterator[SawnBoard]:
    if not under_way.returned:
        return
    making = making_for(shop, under_way)
    minutes = _minutes(shop, under_way, making)
    whole = sum(minutes.values())
    names = {g.id: g.name for g in shop.instruments.all()} | {d.id: d.name for d in shop.designs()}
    builds = {p.piece: p.build or under_way.designs[0] for p in under_way.plan.placements}
    litres = {b: volume(everyone.get(b) or under_way.job.piece(b)) for b in under_way.returned}
    everything = sum(litres.values()) or 1.0
    for board in under_way.returned:
        piece, shares = (
            everyone.get(board) or under_way.job.piece(board),
            making.balance.get(board) or under_way.plan.balance.get(board),
        )
        if shares is None:
            continue
        build = builds.get(board, under_way.designs[0])
        each = {name: round(getattr(shares, name) * litres[board], 4) for name in SHARES}
        species = shop.kit.library.find(piece.species)
        heavy = density(piece, litres[board], species.density_12_kg_m3 if species is not None else None)
        own = sum(m for name, m in minutes.items() if _board_of(making, name, board))
        shared = (whole - _of_boards(making, minutes, under_way.returned)) * litres[board] / everything
        yield SawnBoard(
            board, piece.supply.supplier or NOT_SAID, piece.species, names.get(build, build), sawn_on(shop, under_way, making, board)[:7], round(litres[board], 4), **each,
            price=price_of(piece, everyone), kg=None if heavy is None else round(each["parts"] * heavy / 1000, 3), minutes=round(own + shared, 1),
        )  # fmt: skip


def volume(piece: Piece) -> float:
    """Litres of a piece as it was read."""
    from shapely.geometry import Polygon

    from grainet.plan.in_hand import Workpiece
    from grainet.wood.thickness import ThicknessField
    from grainet.work.workpiece import mean_thickness

    if not piece.outline or not piece.all_thicknesses_mm:
        return 0.0
    shape = Workpiece(piece.id, Polygon(piece.outline)).polygon
    return float(shape.area) * mean_thickness(shape, ThicknessField.of(piece)) / 1e6


def density(piece: Piece, litres: float, book: float | None) -> float | None:
    """kg/m3 of a piece: weighed, else the book's; None for neither."""
    if piece.mass_kg is not None and litres > 0:
        return 1000 * piece.mass_kg / litres
    return book


def price_of(piece: Piece, everyone: dict[str, Piece]) -> float | None:
    """What a board cost: its own price, else its share by volume of what its parent cost; None where nobody said."""
    if piece.supply.price is not None:
        return float(piece.supply.price)
    parent = everyone.get(piece.parent or "")
    if parent is None:
        return None
    whole = price_of(parent, everyone)
    size = volume(parent)
    return None if whole is None or size <= 0 else whole * volume(piece) / size


def _minutes(shop: Shop, under_way: UnderWay, making: Making) -> dict[str, float]:
    """Hand work on each operation that is done: from the tick before, where that was a span of work, else what was planned."""
    rows = sorted(log_of(shop, under_way.id).rows, key=lambda r: r.at)
    by = {o.id: o for o in making.operations}
    took = {b.operation: (instant(b.at) - instant(a.at)) / timedelta(minutes=1) for a, b in pairwise(rows)}
    found = {}
    for row in rows:
        one = by.get(row.operation)
        if one is not None:
            spent = took.get(row.operation, one.minutes)
            found[row.operation] = spent if 0 < spent <= LONGEST_MIN and one.kind not in ("cure", "rest") else one.minutes
    return found


def _board_of(making: Making, name: str, board: str) -> bool:
    """Whether an operation works on wood of one board alone."""
    one = making.operation(name)
    froms = {w.id: w.from_ for w in making.workpieces}
    return {froms.get(w) or one.board for w in one.works_on} == {board}


def _of_boards(making: Making, minutes: dict[str, float], boards: Sequence[str]) -> float:
    return sum(m for name, m in minutes.items() if any(_board_of(making, name, b) for b in boards))


def sawn_on(shop: Shop, under_way: UnderWay, making: Making, board: str) -> str:
    """The day of the last cut on a board; empty where no cut has its instant."""
    cuts = {o.id for o in making.operations if o.cut is not None and o.board == board}
    return max((r.at for r in log_of(shop, under_way.id).rows if r.operation in cuts), default="")[:10]
