"""How well two boards go together that were not sawn from one another: quiet wood of the same kind, colour, rings and weight joins unseen.

A score from 100 downward; every difference takes away what an eye would make of it at arm's length. The weights are shipped judgement:
a loud board gives its joint away however alike the other one is, so loudness weighs most after the species.
"""

from __future__ import annotations

from dataclasses import dataclass

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
