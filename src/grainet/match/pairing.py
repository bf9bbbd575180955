"""How well two boards go together that were not sawn from one another: quiet wood of the same kind, colour, rings and weight joins unseen.

A score from 100 downward; every difference takes away what an eye would make of it at arm's length. The weights are shipped judgement:
a loud board gives its joint away however alike the other one is, so loudness weighs most after the species.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from grainet.kit.pair_limits import PairLimits

OTHER_SPECIES, OTHER_COLOUR, LOUD = 45.0, 15.0, 40.0
PER_RING_DEG, PER_SLOPE_DEG, PER_DENSITY_SHARE, PER_LENGTH_SHARE = 0.35, 2.0, 60.0, 8.0
UNREAD = 4.0  # for what is not known of either: a doubt, no difference


@dataclass(frozen=True)
class Pairable:
    """What of a board decides: ring angle and slope in degrees, density in kg/m3, length in mm; ``loudness`` the share of its face that is
    figured, weighted with the figure's strength. None where it was not read."""

    name: str
    species: str
    colours: frozenset[str]
    ring_angle_deg: float | None
    slope_deg: float | None
    density_kg_m3: float | None
    loudness: float
    length_mm: float
    lab: tuple[float, float, float] | None = None  # its face's mean colour in a photo, CIE L*a*b*


@dataclass(frozen=True)
class Pairing:
    """One board beside another: the score, at most 100, and what takes the most from it."""

    name: str
    score: float
    why: str


def pair(one: Pairable, other: Pairable) -> Pairing:
    """How well two boards go together. It is the same both ways but for the name."""
    losses = {
        "another species": 0.0 if one.species == other.species else OTHER_SPECIES,
        "another colour": 0.0 if not (one.colours and other.colours) or one.colours & other.colours else OTHER_COLOUR,
        "its figure gives the joint away": LOUD * max(one.loudness, other.loudness),
        "rings at another angle": _differ(one.ring_angle_deg, other.ring_angle_deg, PER_RING_DEG),
        "grain of another slope": _differ(one.slope_deg, other.slope_deg, PER_SLOPE_DEG),
        "heavier or lighter": _density(one.density_kg_m3, other.density_kg_m3),
        "shorter": PER_LENGTH_SHARE * abs(one.length_mm - other.length_mm) / max(one.length_mm, other.length_mm, 1.0),
    }
    worst = max(losses, key=lambda name: losses[name])
    why = worst if losses[worst] > UNREAD else "quiet and alike"
    return Pairing(other.name, round(max(0.0, 100.0 - sum(losses.values())), 1), why)


def _differ(a: float | None, b: float | None, per_degree: float) -> float:
    return UNREAD if a is None or b is None else per_degree * abs(a - b)


def _density(a: float | None, b: float | None) -> float:
    return UNREAD if not a or not b else PER_DENSITY_SHARE * abs(a - b) / max(a, b)


def ranked(one: Pairable, others: list[Pairable]) -> list[Pairing]:
    """The others, the one that goes best with it first."""
    return sorted((pair(one, other) for other in others), key=lambda p: (-p.score, p.name))


# every two boards, property by property ------------------------------------------------------------------------------
Grade = Literal["within", "if", "apart"]
TOO_FAR = 2.0  # so many limits apart in one property, two boards are no pair
UNITS = {"colour": "", "rings": "°", "density": " kg/m³", "slope": "°", "loudness": ""}


@dataclass(frozen=True)
class Gap:
    """One property of two boards: both figures, how far apart they lie (of loudness the louder one's), what may be; None is not read."""

    name: str
    one: float | None
    other: float | None
    apart: float | None
    limit: float

    @property
    def share(self) -> float | None:
        """How much of what may be: 1 at the limit; None where it is not read."""
        return None if self.apart is None else self.apart / self.limit


@dataclass(frozen=True)
class Beside:
    """Two boards beside each other: 0 as good as mates, 1 at the house's limits; how they go, and what is written of it."""

    one: str
    other: str
    gaps: tuple[Gap, ...]
    score: float
    grade: Grade
    why: str


def beside(one: Pairable, other: Pairable, limits: PairLimits) -> Beside:
    """Two boards, property by property. The score is the root of the mean square of what was read, so that one loud gap is not drowned."""
    gaps = _gaps(one, other, limits)
    shares = [g.share for g in gaps if g.share is not None]
    score = math.sqrt(sum(s * s for s in shares) / len(shares)) if shares else 0.0
    over = [g for g in gaps if g.share is not None and g.share > 1]
    words = [] if one.species == other.species else ["other species"]
    words += [
        f"{'loud' if g.name == 'loudness' else g.name} {g.apart:.3g}{UNITS[g.name]}{'' if g.name == 'loudness' else ' apart'}"
        for g in over
    ]
    grade: Grade = "within" if not words else "if"
    if any((g.share or 0) > TOO_FAR for g in gaps) or len(words) > 2:
        grade = "apart"
    return Beside(
        one.name, other.name, gaps, round(score + (0.0 if one.species == other.species else 1.0), 2), grade, ", ".join(words)
    )


def _gaps(one: Pairable, other: Pairable, limits: PairLimits) -> tuple[Gap, ...]:
    colour = None if one.lab is None or other.lab is None else math.dist(one.lab, other.lab)
    louder = 10 * max(one.loudness, other.loudness)
    rows = (
        ("rings", one.ring_angle_deg, other.ring_angle_deg, limits.rings_deg),
        ("density", one.density_kg_m3, other.density_kg_m3, limits.density_kg_m3),
        ("slope", one.slope_deg, other.slope_deg, limits.slope_deg),
    )
    light = (one.lab[0] if one.lab else None, other.lab[0] if other.lab else None)
    return (
        Gap("colour", *light, colour, limits.colour),
        *(Gap(name, a, b, None if a is None or b is None else abs(a - b), limit) for name, a, b, limit in rows),
        Gap("loudness", 10 * one.loudness, 10 * other.loudness, louder, limits.loudness),
    )


def likes_together(boards: Sequence[Pairable], limits: PairLimits) -> list[Pairable]:
    """Boards in a row with likes next to likes: the order with the least sum of neighbours' scores, exactly, for up to a dozen boards."""
    count = len(boards)
    if count < 3:
        return list(boards)
    apart = [[beside(a, b, limits).score for b in boards] for a in boards]
    best: dict[tuple[int, int], tuple[float, int]] = {(1 << k, k): (0.0, -1) for k in range(count)}
    for seen in range(1, 1 << count):
        for last in range(count):
            if (seen, last) not in best:
                continue
            cost = best[seen, last][0]
            for new in range(count):
                key = (seen | 1 << new, new)
                if not seen >> new & 1 and cost + apart[last][new] < best.get(key, (math.inf, -1))[0]:
                    best[key] = (cost + apart[last][new], last)
    seen = (1 << count) - 1
    last = min(range(count), key=lambda k: best[seen, k][0])
    order: list[int] = []
    while last >= 0:
        order.append(last)
        seen, last = seen & ~(1 << last), best[seen, last][1]
    return [boards[k] for k in order]
