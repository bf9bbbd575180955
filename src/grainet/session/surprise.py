"""Surprises in the middle of sawing: a part that is lost, a cut that went elsewhere, a board that turned out otherwise; and planning the rest.

What is cut stays as it is. Each surprise is one edit with its undo; the plan goes on being what is sawn by until the rest is planned again.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

from grainet.design.design import Design
from grainet.job.answer import Placement, Plan
from grainet.job.job import Exclusion, Job
from grainet.session.sawing import finish, wood_of
from grainet.session.shop import Shop
from grainet.wood.units import tell_length
from grainet.wood.value import BadEntry
from grainet.work.cut_plan import UnderWay, lost_key
from grainet.work.matching import Matched

if TYPE_CHECKING:
    from shapely.geometry.base import BaseGeometry


def plan_of_board(shop: Shop, board: str, *, sawn_too: bool = True) -> UnderWay:
    """The accepted plan that saws a board, or has sawn it up. Raises BadEntry."""
    mine = [u for u in reversed(shop.plans.accepted()) if board in u.boards and (sawn_too or board not in u.returned)]
    found = next(iter(mine), None)
    if found is None:
        raise BadEntry(f"No. {board} is not being sawn by a plan; take one in hand that is: F7 lists them.")
    return found


def parts_of(under_way: UnderWay, board: str | None = None) -> dict[str, list[Placement]]:
    """The parts that a plan gives and that are not lost, by what a person calls them: "B", "B leaf 2", "S 3"."""
    found: dict[str, list[Placement]] = {}
    parts = {p.id: p for p in under_way.job.parts}
    copies = {p.id: len({(r.set, r.copy_) for r in under_way.plan.placements if r.part == p.id}) for p in under_way.job.parts}
    for one in under_way.plan.placements:
        part = parts[one.part]
        order = sorted({(r.set, r.copy_) for r in under_way.plan.placements if r.part == one.part})
        name = part.letter or part.shown_name
        if copies[one.part] > 1:
            name += f" {order.index((one.set, one.copy_)) + 1}"
        if part.leaves > 1:
            name += f" leaf {one.leaf}"
        if lost_key(one) not in under_way.progress.lost and board in (None, one.piece):
            found.setdefault(name, []).append(one)
    return found


def free_parts(under_way: UnderWay) -> dict[str, list[Placement]]:
    """The same, as far as a saw has freed them or follows their outline next: only these can be lost."""
    from grainet.work.going_on import going_on, in_the_saw

    going = going_on(under_way)
    free = {p.key for p in (*(going.pins if going is not None else ()), *in_the_saw(under_way))}
    found = {name: [r for r in rows if r.key in free] for name, rows in parts_of(under_way).items()}
    return {name: rows for name, rows in found.items() if rows}


def lose(shop: Shop, board: str, name: str) -> str:
    """A part of the plan that saws a board is lost: what is said of it. Raises BadEntry, ShopUnusable."""
    under_way = plan_of_board(shop, board)
    known, free = parts_of(under_way), free_parts(under_way)
    wanted = " ".join(name.split()).lower()
    if not wanted or not _called(known, wanted):
        raise BadEntry(f"“{name}” is no part of that plan; it gives {', '.join(sorted(known))}.")
    rows = _called(free, wanted)
    if not rows:
        told = "mark on the wood what showed there, such as crack 300 to 380, and it is planned round it"
        raise BadEntry(f"{name.strip()} is not cut yet; {told}.")
    progress = under_way.progress.changed(lost=tuple(dict.fromkeys((*under_way.progress.lost, *map(lost_key, rows)))))
    shop.apply(f"part {name.strip()} is lost", progress)
    return f"part {name.strip()} is lost; what is cut stays. Plan the rest again: F5"


def _called(rows: dict[str, list[Placement]], wanted: str) -> list[Placement]:
    """What goes by a name: "a", or "a 2", or all copies and leaves of it."""
    return [one for name, some in rows.items() for one in some if f"{name.lower()} ".startswith(wanted + " ")]


def cut_went(shop: Shop, board: str, at_mm: float) -> str:
    """The next cut on a board was made elsewhere: what is said of it. Raises BadEntry, ShopUnusable."""
    from grainet.plan.marks import measured_from
    from grainet.work.going_on import next_cut, went_wrong  # brings in Shapely, as planning the rest does: not at the start

    under_way = plan_of_board(shop, board, sawn_too=False)
    cut = next_cut(under_way, board)
    new = went_wrong(under_way, board, at_mm)
    where = tell_length(at_mm, shop.kit.length_style, "g")
    shop.apply(f"the {cut.tool if cut else 'cut'} on No. {board} went to {where}", new.cut_plan, new.progress)
    hit = len(new.progress.lost) - len(under_way.progress.lost)
    lost = "no part is hurt" if not hit else "one part is lost" if hit == 1 else f"{hit} parts are lost"
    side = f" from {measured_from(cut.marks[0])}" if cut is not None and cut.marks else ""
    return f"the cut went to {where}{side}: {lost}; what is cut stays. Plan the rest again: F5"


def surprise_of(shop: Shop, under_way: UnderWay) -> str:
    """Why a plan does not hold any more for what is still to saw, as a sentence; empty where it does."""
    if under_way.progress.lost:
        names = {lost_key(r): called for called, rows in parts_of_all(under_way).items() for r in rows}
        lost = [names[key] for key in under_way.progress.lost if key in names]
        return f"{'Part' if len(lost) == 1 else 'Parts'} {', '.join(lost)} {'is' if len(lost) == 1 else 'are'} lost."
    if under_way.cut_plan.stopped:
        return f"A cut on No. {under_way.cut_plan.stopped[-1]} went elsewhere."
    for board in under_way.boards:
        if board in under_way.returned or not shop.has_piece(board) or under_way.sawn(board):
            continue
        if wood_of(shop.piece(board)) != wood_of(under_way.job.piece(board)):
            return f"No. {board} is not as it was when it was planned."
    return ""


def parts_of_all(under_way: UnderWay) -> dict[str, list[Placement]]:
    """The same as ``parts_of``, the lost ones among them."""
    return parts_of(UnderWay(under_way.cut_plan, under_way.progress.changed(lost=())))


def wood_left(shop: Shop, board: str) -> BaseGeometry | None:
    """What is left of a board that a plan saws just now, what stays taken out; None where no cut is made on it."""
    from grainet.plan.standing import Standing
    from grainet.work.going_on import going_on

    under_way = next((u for u in shop.plans.accepted() if board in u.boards and u.made_of(board)), None)
    going = going_on(under_way) if under_way is not None and board not in under_way.returned else None
    return Standing(going.asked_of(under_way.job)).left(board) if under_way is not None and going is not None else None


def job_for_the_rest(shop: Shop, design: Design, *others: Design) -> Job:
    """The job of planning a build, alone or together with others: over the whole rack, or where it is being sawn, what is left of it and of
    what is built with it. Raises BadEntry where one of the others is being sawn by a plan of its own."""
    from grainet.work.going_on import going_on

    under_way = shop.plans.accepted_for(design.id)
    going = going_on(under_way) if under_way is not None else None
    for other in others:
        own = shop.plans.accepted_for(other.id)
        if own is not None and going_on(own) is not None and (under_way is None or own.id != under_way.id):
            raise BadEntry(f"{other.name} is being sawn; plan the rest of it by itself.")
    wanted = {d.id for d in (design, *others)} | (
        set(under_way.designs) if under_way is not None and going is not None else set()
    )
    job = shop.jobs.job_for([d for d in shop.designs() if d.id in wanted])
    if under_way is None or going is None:
        return job
    there = {p.id for p in job.pieces}
    stood_on = {r.piece for r in (*going.pins, *going.lost)} | set(under_way.cut_plan.cuts_by_board)
    more = tuple(p for p in under_way.job.pieces if p.id in stood_on - there)
    # what is left of a board that is sawn up lies on the rack by itself
    bars = [
        Exclusion(part=part.id, piece=board, why="it is sawn up", code="sawn")
        for board in under_way.returned
        for part in job.parts
    ]
    return going.asked_of(job.changed(pieces=(*job.pieces, *more), barred=(*job.barred, *bars)))


def accept(shop: Shop, design: Design, job: Job, plan: Plan, matched: tuple[Matched, ...] = (), reason: str = "") -> None:
    """Keep a plan to saw by; of one that goes on from made cuts, those stand before its own. Boards that it leaves nothing to saw on are put
    back at once. Raises ShopUnusable."""
    if job.cut:
        plan = plan.changed(cuts=(*job.cut, *plan.cuts))
    if job.version == 2:
        job = job.changed(pins=(), cut=(), hints=(), objective=None, plans=None)
    shop.plans.accept(design, job, plan, matched, reason)
    if (under_way := shop.plans.accepted_for(design.id)) is not None:
        finish(shop, under_way)
