"""Which rest of the wood a trial is cut in: of the same board first, else of the same species; the smallest that the cut goes into."""

from __future__ import annotations

from grainet.session.making import AtTheBench
from grainet.wood.piece import Piece
from grainet.work.operation import Operation
from grainet.work.order_rules import TRIAL

LEAST_LONG_MM, LEAST_WIDE_MM, UNDER_MM = 120.0, 30.0, 4.0  # of a scrap that is held safely; wood left under the cut


def boards_of(bench: AtTheBench, one: Operation) -> set[str]:
    """The boards that an operation's workpieces were cut from, through every joint."""
    by = {w.id: w for w in bench.making.workpieces}
    found: set[str] = set()
    todo = list(one.works_on)
    while todo:
        at = by.get(todo.pop())
        if at is not None:
            todo += at.members
            found |= {at.from_} - {""}
    return found


def scrap_for(bench: AtTheBench, trial: Operation) -> tuple[Piece, bool] | None:
    """A rest for a trial cut, and whether it is of the same board; None where the rack has none that is large enough."""
    after = {t.after for t in bench.making.rules if t.before == trial.id and t.rule == TRIAL}
    deep = max((float(o.settings.get("deepest_mm", 0.0)) for o in bench.making.operations if o.id in after), default=0.0)
    boards = boards_of(bench, trial)
    woods = {bench.under_way.job.piece(name).species for name in boards}
    found = []
    for piece in bench.shop.pieces():
        x0, y0, x1, y1 = piece.extents
        thick = min((s.thickness_mm for s in piece.stations), default=piece.thickness_mm or 0.0)
        if piece.kind != "offcut" or piece.species not in woods:
            continue
        if x1 - x0 >= LEAST_LONG_MM and y1 - y0 >= LEAST_WIDE_MM and thick >= deep + UNDER_MM:
            found.append((piece.parent not in boards, (x1 - x0) * (y1 - y0) * thick, piece.id, piece))
    if not found:
        return None
    elsewhere, _, _, piece = min(found)
    return piece, not elsewhere
