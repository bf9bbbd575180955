"""Where a board's wood goes, reckoned from the operations: parts, offcuts, kerfs, what is planed, waste; it closes within half a percent."""

from __future__ import annotations

from collections.abc import Sequence

from shapely.geometry import Polygon

from grainet.job.answer import Plan, Shares
from grainet.job.job import Job
from grainet.plan.in_hand import Workpiece as Hand
from grainet.plan.in_hand import results_of
from grainet.wood.thickness import ThicknessField
from grainet.work.operation import Operation
from grainet.work.workpiece import Freed, mean_thickness


def balance_of(job: Job, plan: Plan, freed: Sequence[Freed], operations: Sequence[Operation]) -> dict[str, Shares]:
    """Every sawn board's shares by volume."""
    found = {}
    for board in dict.fromkeys(f.board for f in freed):
        found[board] = _of_board(job, plan, [f for f in freed if f.board == board], operations, board)
    return found


def _of_board(job: Job, plan: Plan, freed: Sequence[Freed], operations: Sequence[Operation], board: str) -> Shares:
    piece = job.piece(board)
    field = ThicknessField.of(piece)

    known: dict[
        tuple[str, float, float | None, float], float
    ] = {}  # of what was in hand: each is asked for as it comes and as it goes

    def volume(hand: Hand) -> float:
        key = (hand.id, hand.top_mm, hand.bottom_mm, float(hand.polygon.area))
        if key not in known:
            known[key] = reckoned(hand)
        return known[key]

    def reckoned(hand: Hand) -> float:
        bottom = hand.bottom_mm if hand.bottom_mm is not None else mean_thickness(hand.polygon, field)
        return float(hand.polygon.area) * max(0.0, bottom - hand.top_mm)

    hands = {board: Hand(board, Polygon(piece.outline))}
    whole, kerf = volume(hands[board]), 0.0
    for cut in (*job.cut, *plan.cuts):
        if (hand := hands.pop(cut.piece, None)) is not None:
            given = results_of(cut, hand, job.kit)
            hands.update((one.id, one) for one in given)
            kerf += max(0.0, volume(hand) - sum(map(volume, given)))
    by = {f.hand.id: f for f in freed}
    kept = {o.id for o in plan.offcuts if o.piece == board and o.keep}
    parts = planed = offcuts = waste = 0.0
    for name, hand in hands.items():
        if (one := by.get(name)) is not None:
            off = _planed_mm(one.workpiece.id, operations) + _before(one.workpiece.id, operations)
            parts += float(hand.polygon.area) * max(0.0, one.depth_mm - off)
            planed += float(hand.polygon.area) * min(off, one.depth_mm)
        elif name in kept:
            offcuts += volume(hand)
        else:
            waste += volume(hand)
    return Shares(
        parts=round(parts / whole, 5), offcuts=round(offcuts / whole, 5), kerf=round(kerf / whole, 5), skims=round(planed / whole, 5),
        waste=round(waste / whole, 5),
    )  # fmt: skip


def _planed_mm(name: str, operations: Sequence[Operation]) -> float:
    """What comes off a workpiece's faces until it is glued."""
    faces = ("face 1", "face 2", "thickness")
    return sum(mm for o in operations if name in o.works_on and not o.gives for side, mm in o.takes_mm.items() if side in faces)


def _before(name: str, operations: Sequence[Operation]) -> float:
    """What was levelled off the pieces that a workpiece was sawn from, as far as it has that face: below a resaw it has another."""
    giver = next((o for o in operations if name in o.gives), None)
    if giver is None or giver.kind == "glue" or (giver.kind == "resaw" and giver.gives[0] != name):
        return 0.0
    hand = giver.works_on[0]
    return sum(o.takes_mm.get("face 1", 0.0) for o in operations if not o.gives and hand in o.works_on) + _before(
        hand, operations
    )
