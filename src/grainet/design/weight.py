"""What the finished instrument will weigh, with its spread, before a board is chosen: species tables and shapes."""

from __future__ import annotations

import math
from collections.abc import Iterable
from dataclasses import dataclass

from grainet.design.allowances import Allowances
from grainet.design.blank import Blank
from grainet.design.blanks import blanks_of
from grainet.design.clip import area_mm2, clipped
from grainet.design.depth_map import depth_map
from grainet.design.drawing import made_where
from grainet.design.instrument import Instrument
from grainet.design.let_in import recess_mm, top_outline
from grainet.design.role import FACTS, Role
from grainet.wood.species import DENSITY_SPREAD, SpeciesLibrary
from grainet.wood.value import Ring
from grainet.wood.weight import Weight, part_weight

# kg/m3 at 12 % where no species was wished for, and how far that may be off: middling woods of each use; judgement
UNNAMED = {
    "body": 560.0,
    "cap": 600.0,
    "skins": 600.0,
    "neck": 700.0,
    "ears": 700.0,
    "fretboard": 950.0,
    "plate": 800.0,
    "plates": 800.0,
    "heel": 700.0,
    "stiffener": 700.0,
    "binding": 700.0,
}
UNNAMED_SPREAD = 0.2


def blank_weight(g: Instrument, blank: Blank, library: SpeciesLibrary) -> Weight:
    """One finished part, all of its copies."""
    density, spread = UNNAMED.get(blank.component, 650.0), UNNAMED_SPREAD
    known = [s for name in blank.species if (s := library.find(name)) is not None]
    if known:
        density, spread = sum(s.density_12_kg_m3 for s in known) / len(known), max(DENSITY_SPREAD, _apart(known))
    share = FACTS[Role(blank.role)].shaped if blank.role else 1.0
    area = _finished_mm2(g, blank)
    copies = max(1, blank.count - g.spare.get("accent", 0) if "accent" in blank.part else blank.count) * blank.leaves
    hollow = _hollow(g, blank) if blank.component in ("body", "cap") else 0.0
    return part_weight(area * copies, blank.thickness.finished_mm, density, hollow, spread, share)


def _apart(known: Iterable[object]) -> float:
    """Half the range of the wished species about their mean, as a share."""
    values = [s.density_12_kg_m3 for s in known]  # type: ignore[attr-defined]
    return float((max(values) - min(values)) / (max(values) + min(values)))


def _hollow(g: Instrument, blank: Blank) -> float:
    """Volume that cavities and shaping take from one part of the body or its top, by its share of the whole outline, mm3."""
    whole = abs(area_mm2(g.body.outline if blank.component == "body" else top_outline(g)))
    of_top, of_rest = depth_map(g).removed_mm3 if g.body.shaping else (0.0, 0.0)
    if blank.component == "cap":
        taken = of_top
    else:
        taken = of_rest + sum(abs(area_mm2(c.polygon)) * c.depth_mm for c in g.body.cavities)
        taken += abs(area_mm2(top_outline(g))) * recess_mm(g)
    return taken * _finished_mm2(g, blank) * blank.leaves / whole if whole else 0.0


def _finished_mm2(g: Instrument, blank: Blank) -> float:
    """The face of one finished part: half of the whole outline where the blank is sawn for either of two halves that differ."""
    if blank.for_either:
        return abs(area_mm2(top_outline(g) if blank.component == "cap" else g.body.outline)) / 2
    return abs(area_mm2(blank.outline))


def weight_of(g: Instrument, library: SpeciesLibrary) -> Weight:
    """The whole instrument's wood, kg."""
    total = Weight(0.0, 0.0)
    for blank in blanks_of(g, Allowances()):
        total = total + blank_weight(g, blank, library)
    return total


@dataclass(frozen=True)
class Balance:
    """Where the instrument's wood balances: from the tail, mm, and by how much the bass side is the heavier one, kg (below 0 the treble)."""

    from_tail_mm: float
    bass_less_treble_kg: float


def balance_of(g: Instrument, library: SpeciesLibrary) -> Balance:
    """The centre of the wood's weight along the instrument and the difference of its sides; hardware is not in it."""
    moment = mass = apart = 0.0
    for blank in blanks_of(g, Allowances()):
        kg = blank_weight(g, blank, library).kg
        x, bass = _middle(g, blank)
        moment, mass, apart = moment + kg * x, mass + kg, apart + kg * (2 * bass - 1)
    return Balance(moment / mass if mass else 0.0, apart)


def _middle(g: Instrument, blank: Blank) -> tuple[float, float]:
    """Where a finished part's middle lies along the instrument, mm from the tail, and which share of it lies on the bass side."""
    if blank.component not in ("body", "cap", "skins"):
        low, high = made_where(g, blank.part)
        return (low + high) / 2, 0.5
    if blank.leaves == 2:  # a folded pair opens to both sides
        low, high = made_where(g, blank.part)
        return (low + high) / 2, 0.5
    fx, fy = blank.frame_mm
    ring = tuple((x + fx, y + fy) for x, y in blank.outline)
    area = abs(area_mm2(ring))
    above = clipped(ring, 1, 0.0, above=True)
    bass = abs(area_mm2(above)) / area if len(above) > 2 and area else 0.0
    return _centre_x(ring), bass if g.hand == "right" else 1 - bass


def _centre_x(ring: Ring) -> float:
    """The x of a ring's centre of area, mm."""
    cross = [(x0 * y1 - x1 * y0, x0 + x1) for (x0, y0), (x1, y1) in zip(ring, (*ring[1:], ring[0]))]
    whole = math.fsum(c for c, _ in cross)
    return math.fsum(c * s for c, s in cross) / (3 * whole) if whole else ring[0][0]
