"""What a plan comes to, in figures and sentences: where the wood goes, its worth, what was refused, what tears."""

from __future__ import annotations

from collections import Counter

from grainet.design.shape import area, as_array
from grainet.fit.exact import OF_LENGTHS
from grainet.job.answer import Plan, Refusal
from grainet.job.job import Job
from grainet.wood.piece import Piece
from grainet.wood.units import LengthStyle, lengths_in

REST = (
    ("offcuts", "offcuts"),
    ("kerf", "kerf"),
    ("planed off", "skims"),
    ("scrap", "waste"),
)  # how it is called, and in the balance
REST_NAMES = frozenset(name for name, _ in REST)


def volume_mm3(piece: Piece) -> float:
    """How much wood a piece is, at its least thickness."""
    return area(as_array(piece.outline)) * (piece.least_thickness_mm or 0.0)


def shares(job: Job, plan: Plan) -> list[tuple[str, float]]:
    """Where the wood of the boards in use goes, by volume: each part by its letter, then the rest; what is nothing is left out."""
    volume = {q.id: volume_mm3(q) for q in job.pieces}
    used = sum(volume[b] for b in plan.balance) or 1.0
    found: dict[str, float] = {}
    for one in plan.placements:
        letter = job.part(one.part).letter
        found[letter] = found.get(letter, 0.0) + area(as_array(one.polygon)) * one.finished_mm / used
    rest = {name: sum(getattr(s, key) * volume[b] for b, s in plan.balance.items()) / used for name, key in REST}
    total = sum(found.values()) + sum(rest.values()) or 1.0
    return [(k, v / total) for k, v in [*sorted(found.items()), *rest.items()] if v > 0]


def summary(plan: Plan, job: Job | None = None) -> str:
    """A plan that was just made, in a sentence; of one that goes on from made cuts what stays and what has to go."""
    if job is not None and job.cut:
        stays = f"{len(job.cut)} cut{'s' if len(job.cut) > 1 else ''} and {len(job.pins)} part{'s' if len(job.pins) != 1 else ''} stay"
        if plan.displaced:
            return f"{stays}; what is left does not give the rest: see what was refused"
        return f"{stays}, the rest is planned again"
    if not plan.builds:
        return "the rack does not give this build; see what was refused"
    return f"planned: worth {plan.value:g} of at most {plan.bound:g}"


def worth(plan: Plan) -> str:
    """What a plan makes and is worth, against what is possible at most."""
    if not plan.placements:
        return "Nothing could be laid"
    scope = "over every way there is" if plan.bound_scope == "all" else "over the places tried"
    if plan.bound_all is not None and plan.bound_all > plan.bound + 1e-6:
        scope += f", {plan.bound_all:g} over every way there is"
    capped = ", capped" if plan.capped else ""
    ways = [
        w for told in plan.builds.values() for w in ([told] if isinstance(told, str) else [f"{c}: {w}" for c, w in told.items()])
    ]
    each = Counter(ways) if len(plan.builds) > 1 else {}
    several = (f"{n} builds {way}" if n > 1 else f"one {way}" for way, n in each.items())
    built = ", ".join(several if len(ways) == len(plan.builds) and each else ways)
    if plan.displaced:
        built = f"{', '.join(plan.displaced)} cannot be made now; what stays is shown"
    told = f"Worth {plan.value:g} of at most {plan.bound:g} {scope}{capped}; {plan.seconds:.1f} s"
    return f"{built}.  {told}" if built else told


def refusals(job: Job, plan: Plan, style: LengthStyle = "mm") -> list[str]:
    """Every refusal, as a sentence."""
    return [f"{job.part(r.part).letter} on No. {r.piece}: {_why(r, style)}" for r in plan.refused]


def _why(one: Refusal, style: LengthStyle) -> str:
    """A refusal's sentence with its lengths as the house reads them."""
    return lengths_in(one.why, style) if one.code in OF_LENGTHS else one.why


def near_refusals(job: Job, plan: Plan, style: LengthStyle = "mm") -> list[str]:
    """The refusals that a person could do something about, in short; a wood that nobody asked for is none of them."""
    near = [r for r in plan.refused if r.code not in ("species", "sawn") and not (r.code == "time" and plan.builds)]
    letters: dict[tuple[str, str], dict[str, None]] = {}  # of those that one board refuses for one reason
    for r in near:
        letters.setdefault((r.piece, _why(r, style)), {})[job.part(r.part).letter] = None
    boards: dict[tuple[str, str], list[str]] = {}  # that refuse the same parts for the same reason
    for (board, why), some in letters.items():
        boards.setdefault((", ".join(some), why), []).append(board)
    return [f"{parts} on {', '.join(some)}: {why}" for (parts, why), some in boards.items()] or ["nothing"]


def tearing(job: Job, plan: Plan) -> str:
    """What will tear under the plane once it is glued, and what to turn; empty where all planes one way or is not known."""
    from grainet.work.glue_ups import tearing_of

    turn = "turn the one from No. {} end for end"
    rows = tearing_of(job, plan)
    return "; ".join(
        f"{name} {found.text}" + (f": {turn.format(', '.join(found.turn))}" if found.turn else "") for name, found in rows
    )
