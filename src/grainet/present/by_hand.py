"""A part laid by hand: pinned where it lies, beside what else is pinned, so that the rest of a plan is solved round it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from grainet.design.part import Part
from grainet.fit.board_geometry import BoardGeometry
from grainet.fit.exact import Exact, ExactPlacement
from grainet.fit.orientation import Orientation
from grainet.job.answer import Placement, Plan
from grainet.job.job import Job
from grainet.kit.cut_kit import CutKit
from grainet.plan.candidates import Candidate
from grainet.plan.in_hand import hands_after
from grainet.plan.standing import Standing, as_candidate
from grainet.plan.writing import leaves_of

Key = tuple[str | None, str, int, int, int]


@dataclass(frozen=True)
class Hand:
    """A part in the hand: what it is, on which piece, how and where it lies, and which placement of a plan it is, where it is one."""

    part: str
    piece: str
    orientation: Orientation
    x: float
    y: float
    taken: Placement | None = None


def pinned(job: Job, hand: Hand, pins: Sequence[Placement], plan: Plan | None) -> tuple[Placement, ...] | str:
    """The placements of a part that is pinned where it is held, beside the job's own pins and others; or why it cannot lie there, as a
    sentence. It takes the set that it had in the plan, else the next of its own that is not pinned."""
    part = next((p for p in job.parts if p.id == hand.part), None)
    piece = next((p for p in job.pieces if p.id == hand.piece), None)
    if part is None or piece is None:
        return f"No. {hand.piece} cannot be planned on now: it is promised, or not measured."
    number, copy, build = _which(job, part, hand, pins, plan)
    others = tuple(
        p for p in (*job.pins, *pins) if (p.part, p.set, p.copy_) != (part.id, number, copy) and not _mates(part, p, number)
    )
    standing = Standing(job.changed(version=2, pins=others))
    sheet = BoardGeometry(piece, job.kit, by_chord=job.version == 2, left=standing.left(piece.id))
    exact = Exact(sheet, hand.orientation)
    seat = exact.size_trouble() or exact.seat(hand.x, hand.y)
    if not isinstance(seat, ExactPlacement):
        return f"{part.shown_name} cannot be pinned there: {seat.text}, or another part is pinned or cut there."
    one = Candidate(part, piece.id, hand.orientation, seat)
    if not standing.fits_beside(one):
        return f"{part.shown_name} cannot be pinned there: that wood is kept for another build, or is cut."
    return tuple(leaves_of(one, range(1, part.leaves + 1), number, copy, build, job.kit))


def _mates(part: Part, one: Placement, number: int) -> bool:
    """Whether a placement is of the pair that lies together: its copies are parted by one cut of their own."""
    return part.in_pairs and (one.part, one.set) == (part.id, number)


def with_mate(hand: Hand, part: Part, kit: CutKit, plan: Plan | None) -> tuple[Hand, ...]:
    """The part in the hand, and where it is one of a pair that lies together, the other one beside it."""
    if not part.in_pairs:
        return (hand,)
    from grainet.plan.pairs import mate_of

    way, dx, dy = mate_of(hand.orientation, kit)
    if part.slip and hand.taken is not None and hand.taken.copy_ == 2:
        dx = -dx
    rows = plan.placements if plan is not None and hand.taken is not None else ()
    own = (hand.taken.build, hand.taken.part, hand.taken.set) if hand.taken is not None else None
    other = next((p for p in rows if (p.build, p.part, p.set) == own and hand.taken and p.copy_ != hand.taken.copy_), None)
    return hand, Hand(hand.part, hand.piece, way, hand.x + dx, hand.y + dy, other)


def _which(job: Job, part: Part, hand: Hand, pins: Sequence[Placement], plan: Plan | None) -> tuple[int, int, str | None]:
    """Set, copy and build of a part in hand."""
    if hand.taken is not None:
        return hand.taken.set, hand.taken.copy_, hand.taken.build
    fixed = {(p.set, p.copy_) for p in (*job.pins, *pins) if p.part == part.id}
    laid = [] if plan is None else [p for p in plan.placements if p.part == part.id]
    free = next((p for p in laid if (p.set, p.copy_) not in fixed), None)
    if free is not None:
        return free.set, free.copy_, free.build
    owner = next((b.id for b in job.builds if any(part.id in o.needs for o in b.options)), None)
    number, copy = next((n, c) for n in range(1, 1000) for c in range(1, part.per_set + 1) if (n, c) not in fixed)
    return number, copy, owner


def with_pins(job: Job, pins: Sequence[Placement], plan: Plan | None) -> Job:
    """A job in which some parts stay where they were pinned by hand, and what a plan laid besides is tried first."""
    pins = [p for p in pins if _still_there(job, p)]
    if not pins:
        return job
    stays = {p.key for p in (*job.pins, *pins)}
    hints = () if plan is None else tuple(p for p in plan.placements if p.key not in stays)
    return job.changed(version=2, pins=(*job.pins, *pins), hints=(*hints, *(h for h in job.hints if h.key not in stays)))


def _still_there(job: Job, pin: Placement) -> bool:
    """Whether a part that was pinned lies in one piece that is still in hand, whole through."""
    if pin.piece not in {p.id for p in job.pieces} or pin.part not in {p.id for p in job.parts}:
        return False
    block = as_candidate(job.part(pin.part), [pin], job.kit).block
    hands = hands_after(job.piece(pin.piece), job.cut, job.kit)
    return any(h.whole_depth and h.polygon.buffer(1e-5, join_style="mitre").covers(block) for h in hands)


def nearest_way(orientations: Sequence[Orientation], one: Placement) -> int:
    """Which way of lying is the one of a placement, or comes nearest to it."""

    def apart(k: int) -> tuple[int, float]:
        way = orientations[k]
        other = (way.mirror != one.mirror) + (way.face_up != one.face_up)
        return other, abs((way.angle_deg - one.angle_deg + 180) % 360 - 180)

    return min(range(len(orientations)), key=apart)
