"""The lines of the rail: what waits at each station of the work, and whether it waits for the person."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from grainet.design.checks import checks_of
from grainet.job.answer import Plan
from grainet.job.job import Job
from grainet.session.kinds import BENCH
from grainet.session.missing_readings import tasks_of
from grainet.session.shop import Shop
from grainet.session.surprise import surprise_of
from grainet.wood.piece import Piece
from grainet.work.matching import Matched, of_pair

MOST_LETTERS = 19  # a live line is written short, never cut


@dataclass(frozen=True)
class StationLine:
    """What one station says, and whether it waits for the person."""

    text: str
    waits: bool


def counted(count: int, noun: str) -> str:
    """A count with its noun: "1 cut", "3 cuts"."""
    return f"{count} {noun}" + ("" if count == 1 else "s")


def fitting(*lines: str) -> str:
    """The first of some ways to say a thing that is short enough for a station, the last one otherwise."""
    return next((line for line in lines if len(line) <= MOST_LETTERS), lines[-1])


def station_lines(
    shop: Shop,
    piece: Piece | None,
    design_id: str | None,
    shown: tuple[Job, Plan] | None = None,
    matched: Sequence[Matched] = (),
    *,
    planned: bool,
    waiting: int,
) -> dict[str, StationLine]:
    """The line of every station. ``shown``: the plan of the design, and how its pairs are ``matched``; ``planned``: a plan of the design was just made and is not accepted yet; ``waiting``: pieces that settle."""
    bring_in, look_over = _of_the_piece(shop, piece)
    return {
        "bring_in": bring_in, "look_over": look_over, "draw_up": _draw_up(shop, design_id), "lay_out": _lay_out(shop, design_id, planned=planned),
        "match": _match(shown, matched), "saw_and_wait": _saw(shop, waiting),
        "glue": _glue(shop, design_id), "put_back": _put_back(shop),
    }  # fmt: skip


def _of_the_piece(shop: Shop, piece: Piece | None) -> tuple[StationLine, StationLine]:
    if piece is None:
        return StationLine("start here", waits=True), StationLine("after a first piece", waits=False)
    unread = len(tasks_of(piece, shop.kit.pin_depth_mm, shop.judgements.facts(piece.id).question))
    number, defects = f"No. {piece.id}", counted(len(piece.defects), "defect")
    read = fitting(f"{number}, {unread} not read", f"{unread} not read") if unread else fitting(f"{number}, all read", "all read")
    return StationLine(read, bool(unread)), StationLine(fitting(f"{number}, {defects}", defects), waits=False)


def _draw_up(shop: Shop, design_id: str | None) -> StationLine:
    g = shop.instruments.find(design_id) or next(iter(shop.instruments.all()), None)
    if g is None:
        return StationLine("begin a guitar", waits=False)
    red = sum(not check.holds for check in checks_of(g))
    word = counted(red, "figure") + " to mend" if red else "drawn up"
    return StationLine(fitting(f"{g.shown_name}: {word}", word), red > 0)


def _lay_out(shop: Shop, design_id: str | None, *, planned: bool) -> StationLine:
    design = next((d for d in shop.designs() if d.id == design_id), None)
    if design is None:
        return StationLine("no build yet", waits=False)
    kept = shop.plans.accepted_for(design.id)
    surprised = kept is not None and surprise_of(shop, kept)
    word = "Alt+S to saw it" if planned else "plan the rest" if surprised else "laid out" if kept is not None else "not planned"
    return StationLine(fitting(f"{design.name}: {word}", word), kept is None or bool(surprised))


def _match(shown: tuple[Job, Plan] | None, matched: Sequence[Matched]) -> StationLine:
    if shown is None:
        return StationLine("after a plan", waits=False)
    pairs = [(shown[0].part(p.part).letter, p.part, p.set) for p in shown[1].placements if p.leaf == 2]
    if not pairs:
        folded = next((p for p in shown[1].placements if shown[0].part(p.part).fold), None)
        if folded is not None:
            return StationLine(fitting(f"{shown[0].part(folded.part).letter}: folded from {folded.piece}", "folded"), waits=False)
        return StationLine("no pair yet", waits=False)
    kept = [of_pair(matched, part, number, first=k == 0) for k, (_, part, number) in enumerate(pairs)]
    for (letter, _, _), one in zip(pairs, kept):
        if one is None:
            return StationLine(fitting(f"{letter}: not locked yet", "not locked yet"), waits=False)
    seam = kept[0].seam if kept[0] is not None else ""
    return StationLine(fitting(f"{pairs[0][0]}: {seam} edge in", "locked"), waits=False)


def _saw(shop: Shop, waiting: int) -> StationLine:
    accepted = shop.plans.accepted()
    left = sum(one.left() for one in accepted)
    cuts = counted(left, "cut")
    if accepted:
        both = fitting(f"{waiting} waiting, {cuts}" if left else f"{cuts}, {waiting} waiting", cuts)  # what matters stands last
        return StationLine(both if waiting else cuts, left > 0)
    return StationLine(f"{waiting} waiting" if shop.pieces() else "nothing laid out", waits=False)


def _glue(shop: Shop, design_id: str | None) -> StationLine:
    """What is in clamps and until when; else how many joints are still to glue."""
    plans = [u for u in shop.plans.accepted() if design_id in u.designs] or shop.plans.accepted()[:1]
    if not plans:
        return StationLine("after a plan", waits=False)
    log = shop.items.find(BENCH, plans[0].id)
    glued = sum(r.operation.startswith("glue ") for r in log.rows) if log is not None else 0
    off = sum(r.operation.startswith("cure ") for r in log.rows) if log is not None else 0
    if glued > off:
        return StationLine(fitting(f"{counted(glued - off, 'joint')} in clamps"), waits=True)
    return StationLine(f"{counted(glued, 'joint')} glued" if glued else "nothing glued", waits=False)


def _put_back(shop: Shop) -> StationLine:
    loose = shop.rack.loose()
    text = fitting(f"{counted(loose, 'offcut')} to shelve", f"{loose} to shelve") if loose else "no offcuts yet"
    return StationLine(text, loose > 0)
