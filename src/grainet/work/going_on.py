"""A plan in the middle of its sawing: which cuts are made, which parts stay, which are lost, which places are not cut yet.

What stays is what a saw has freed, and what lies in a piece that is resawn for it; all else may be planned again.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass
from itertools import count, islice

from shapely.geometry import Polygon, box

from grainet.design.part import Part
from grainet.job.answer import Cut, Placement
from grainet.job.job import Job
from grainet.kit.cut_kit import CutKit
from grainet.plan.in_hand import Workpiece, hands_after, results_of
from grainet.plan.marks import measured_from
from grainet.plan.standing import as_candidate
from grainet.wood.value import BadEntry
from grainet.work.cut_plan import UnderWay, lost_key

FREE_MM = 0.02  # a curve sawn in chords strays so far
MOST_GIVEN = 20  # pieces that one straight cut through a live edge gives
HIT_MM2 = 0.5  # less of a part under a kerf is a scratch


@dataclass(frozen=True)
class GoingOn:
    """What planning again must know of a plan that is being sawn."""

    cut: tuple[Cut, ...]
    pins: tuple[Placement, ...]
    lost: tuple[Placement, ...]
    hints: tuple[Placement, ...]

    def asked_of(self, job: Job) -> Job:
        """A job that plans what is left: with the parts that it still knows, and all boards that something stands on."""
        parts, builds = {p.id for p in job.parts}, {b.id for b in job.builds}

        def known(rows: tuple[Placement, ...]) -> tuple[Placement, ...]:
            return tuple(r for r in rows if r.part in parts and (r.build is None or r.build in builds))

        return job.changed(
            version=2, cut=self.cut, pins=known(self.pins), lost=known((*job.lost, *self.lost)), hints=known(self.hints)
        )


def going_on(under_way: UnderWay) -> GoingOn | None:
    """How far a plan is sawn; None where no cut is made yet and nothing is lost."""
    plan, job = under_way.plan, under_way.job
    made = tuple(cut for board in under_way.boards for cut in under_way.made_of(board))
    gone = set(under_way.progress.lost)
    if not made and not gone and not job.lost:
        return None
    hands = {board: hands_after(job.piece(board), made, job.kit) for board in under_way.boards}
    made = tuple(cut for board in under_way.boards for cut in _named_apart(under_way, board))
    pins, lost, hints = [], list(job.lost), []
    for one in plan.placements:
        if lost_key(one) in gone:
            lost.append(one)
        elif stays(one, job.part(one.part), hands[one.piece], job.kit):
            pins.append(one)
        else:
            hints.append(one)
    return GoingOn(made, tuple(pins), tuple(lost), tuple(hints))


def _named_apart(under_way: UnderWay, board: str) -> list[Cut]:
    """The cuts made on a board; of one that is sawn up with names of their own, since its offcuts on the rack are called alike."""
    made = under_way.made_of(board)
    if board not in under_way.returned:
        return made
    given = {name: f"{name} sawn" for cut in made for name in cut.gives if not name.endswith(" sawn")}
    return [
        cut.changed(piece=given.get(cut.piece, cut.piece), gives=tuple(given.get(name, name) for name in cut.gives))
        for cut in made
    ]


def stays(one: Placement, part: Part, hands: list[Workpiece], kit: CutKit) -> bool:
    """Whether a saw has freed a leaf, or resawn the piece that it lies in."""
    shape = as_candidate(part, [one], kit).block
    middle = one.z_top_mm + one.finished_mm / 2
    for hand in hands:
        if not hand.top_mm <= middle <= (hand.bottom_mm if hand.bottom_mm is not None else float("inf")):
            continue
        if shape.difference(hand.polygon).area > FREE_MM * shape.length:
            continue
        if not hand.whole_depth:
            return True
        wanted = box(*shape.bounds).intersection(hand.polygon) if kit.cutting == "straight" else shape
        if part.leaves == 1 and hand.polygon.symmetric_difference(wanted).area <= FREE_MM * wanted.length:
            return True
    return False


# a cut that went wrong -------------------------------------------------------------------------------------------------
def next_cut(under_way: UnderWay, board: str) -> Cut | None:
    """The cut of a board that comes next."""
    return next((c for c in under_way.cuts_of(board) if not under_way.done(c)), None)


def in_the_saw(under_way: UnderWay) -> list[Placement]:
    """The parts whose outline is sawn next: where that goes wrong they are spoilt, though none of them is free."""
    found: list[Placement] = []
    for board in under_way.boards:
        cut = next_cut(under_way, board)
        if cut is not None and cut.tool == "outline":
            around = Polygon(cut.line[1:] if cut.line[0] != cut.line[-1] else cut.line).buffer(0)
            for one in (p for p in under_way.plan.placements if p.piece == board):
                shape = as_candidate(under_way.job.part(one.part), [one], under_way.job.kit).block
                if shape.intersection(around).area > 0.9 * max(shape.area, around.area * 0.9):
                    found.append(one)
    return found


def went_wrong(under_way: UnderWay, board: str, at_mm: float) -> UnderWay:
    """The plan with its next cut on a board made at another place: the cuts after it are off, and the parts under its kerf are lost.

    ``at_mm`` is measured as the cut's first mark is; in a plan without marks it is where the kerf's middle lies, from the marked end for a
    crosscut, from the near edge for a rip, from face 1 for a resaw. Raises BadEntry.
    """
    cut = next_cut(under_way, board)
    if cut is None:
        raise BadEntry(f"Every cut on No. {board} is made; none is left that could have gone elsewhere.")
    if cut.tool == "outline":
        raise BadEntry("The next cut follows an outline: where it went wrong its part is lost, such as lost B.")
    job, made = under_way.job, under_way.made_of(board)
    hand = next(h for h in hands_after(job.piece(board), made, job.kit) if h.id == cut.piece)
    actual = _moved(cut, hand, at_mm, job, _names_after(under_way, board))
    cuts = tuple(c for c in under_way.plan.cuts if c not in under_way.cuts_of(board) or c in made)
    offcuts = tuple(o for o in under_way.plan.offcuts if o.piece != board)  # what is left is told once it is planned again
    plan = under_way.plan.changed(cuts=(*cuts, actual), offcuts=offcuts)
    old = under_way.cut_plan
    new = old.changed(plan=plan, stopped=(*old.stopped, board))
    hit = [lost_key(p) for p in under_way.plan.placements if p.piece == board and _is_hit(p, actual, hand, job)]
    now = under_way.progress
    progress = now.changed(done=(*now.done, new.names[actual.n]), lost=tuple(dict.fromkeys((*now.lost, *hit))))
    return UnderWay(new, progress)


def _names_after(under_way: UnderWay, board: str) -> Iterator[str]:
    """Names for pieces of a board that no piece of it had yet."""
    given = [name for cut in under_way.cuts_of(board) for name in cut.gives]
    numbers = [int(tail) for name in given if (tail := name.removeprefix(f"{board}.")).isdecimal()]
    return (f"{board}.{n}" for n in count(max(numbers, default=0) + 1))


def _moved(cut: Cut, hand: Workpiece, at_mm: float, job: Job, names: Iterator[str]) -> Cut:
    """The cut at another place, with names for all that it gives."""
    x0, y0, x1, y1 = hand.polygon.bounds
    low, high = {"crosscut": (x0, x1), "rip": (y0, y1)}.get(cut.tool, (hand.top_mm, hand.bottom_mm or float("inf")))
    at = _middle(cut, at_mm)
    if not low < at < high:
        if cut.marks:
            size = f", which is {high - low:.1f}" if high < float("inf") else ""
            raise BadEntry(f"{at_mm:g} from {measured_from(cut.marks[0])} does not cut the piece in hand{size}.")
        what = f"{low:.0f} to {high:.0f}" if high < float("inf") else f"more than {low:.0f}"
        raise BadEntry(f"{at_mm:g} does not cut the piece in hand, which reaches from {what}.")
    if cut.tool == "resaw":
        return cut.changed(depth_mm=at, marks=())
    line = ((at, y0), (at, y1)) if cut.tool == "crosscut" else ((x0, at), (x1, at))
    many = cut.changed(line=line, marks=(), gives=(*cut.gives, *islice(names, MOST_GIVEN)))
    given = results_of(many, hand, job.kit)
    return many.changed(gives=many.gives[: len(given)])


def _middle(cut: Cut, at_mm: float) -> float:
    """Where the middle of a kerf lies that is measured as the cut's first mark is: as far from the planned one as the figures differ."""
    if not cut.marks:
        return at_mm
    planned = cut.depth_mm or 0.0 if cut.tool == "resaw" else cut.line[0][0 if cut.tool == "crosscut" else 1]
    back = cut.marks[0].from_ in ("far end", "far edge", "face 2")
    return planned + (cut.marks[0].mm - at_mm if back else at_mm - cut.marks[0].mm)


def _is_hit(one: Placement, cut: Cut, hand: Workpiece, job: Job) -> bool:
    shape = as_candidate(job.part(one.part), [one], job.kit).block
    if hand.polygon.intersection(shape).area < 0.5 * shape.area:
        return False
    half = getattr(job.kit.kerf_mm, cut.tool) / 2
    if cut.tool == "resaw":
        depth = cut.depth_mm or 0.0
        return bool(one.z_top_mm < depth + half and depth - half < one.z_top_mm + one.finished_mm)
    k, at = (0, cut.line[0][0]) if cut.tool == "crosscut" else (1, cut.line[0][1])
    x0, y0, x1, y1 = hand.polygon.bounds
    kerf = box(at - half, y0 - 1, at + half, y1 + 1) if k == 0 else box(x0 - 1, at - half, x1 + 1, at + half)
    return bool(Polygon(shape).intersection(kerf).area > HIT_MM2)
