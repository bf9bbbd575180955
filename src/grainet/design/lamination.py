"""A neck of strips as it is glued up: where each strip lies at any place along it, what the strips sum to and lack, wedges, opposing grain.

Source: SCIENCE.md, "Neck and blank arithmetic" (tapers and sleds, laminations); a wedge between clamps is pushed by F tan a.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

from grainet.design.blanks import laminate_width_mm, strips_of
from grainet.design.drawing import stations
from grainet.design.instrument import Instrument, Strip
from grainet.wood.value import BadEntry

WITHIN_MM = 0.3  # what two sides may differ and still count as alike; shipped judgement
LEAST_MM = 0.2


@dataclass(frozen=True)
class Wedge:
    """A strip that tapers: its number from the bass side, its angle, what a sled rises in 100 mm, the share of the clamps' force that pushes it."""

    number: int
    angle_deg: float
    rise_mm: float
    push: float


@dataclass(frozen=True)
class Lamination:
    """A neck of strips: they sum to ``heel_mm`` and ``nut_mm`` where ``asked_mm`` is needed; ``bass_mm`` and ``treble_mm`` of the sides at the heel."""

    strips: tuple[Strip, ...]
    heel_mm: float
    nut_mm: float
    asked_mm: float
    bass_mm: float
    treble_mm: float
    joints: int
    wedges: tuple[Wedge, ...]
    opposing: tuple[tuple[int, int], ...]  # neighbours whose grain runs against one another, by number

    @property
    def missing_mm(self) -> float:
        """What the strips lack of the width that the neck asks for; below 0 there is that much to spare."""
        return self.asked_mm - self.heel_mm

    @property
    def alike(self) -> bool:
        """Whether both sides are as wide as one another."""
        return abs(self.bass_mm - self.treble_mm) <= WITHIN_MM


def told_strips(g: Instrument) -> tuple[Strip, ...]:
    """The strips as they are told, else the five that the width makes, as values that can be changed."""
    return g.strips or tuple(Strip(species=s, mm=mm, taper_mm=t, accent=a) for s, mm, t, a in strips_of(g))


def lamination_of(g: Instrument) -> Lamination:
    """What an instrument's strips come to."""
    strips = told_strips(g)
    at = stations(g)
    run = at.nut - at.board_end
    heel, nut = (math.fsum(_wide(s, share) for s in strips) for share in (0.0, 1.0))
    wedges = tuple(
        Wedge(k, math.degrees(angle), 100 * math.tan(angle), math.tan(angle))
        for k, s in enumerate(strips, 1)
        if s.taper_mm is not None and s.taper_mm != s.mm
        for angle in (math.atan(abs(s.mm - s.taper_mm) / run),)
    )
    thick = [(k, s) for k, s in enumerate(strips, 1) if not s.accent]
    opposing = tuple((a, b) for (a, one), (b, other) in pairwise(thick) if one.grain and other.grain and one.grain != other.grain)
    return Lamination(strips, heel, nut, laminate_width_mm(g), *_sides(strips), len(strips) - 1, wedges, opposing)


def _sides(strips: Sequence[Strip]) -> tuple[float, float]:
    """How wide the strips of either side are, the middle one of an odd number counting half to each."""
    middle = len(strips) // 2
    bass, treble = strips[:middle], strips[-middle:] if middle else ()
    half = strips[middle].mm / 2 if len(strips) % 2 else 0.0
    return math.fsum(s.mm for s in bass) + half, math.fsum(s.mm for s in treble) + half


def _wide(strip: Strip, share: float) -> float:
    """How wide a strip is at a share of the way from the heel to the nut; a taper runs on beyond both."""
    narrow = strip.mm if strip.taper_mm is None else strip.taper_mm
    return max(LEAST_MM, strip.mm + (narrow - strip.mm) * share)


def strips_at(g: Instrument, x_mm: float) -> list[tuple[float, float]]:
    """(low, high) of each strip beside the centre line at a place from the tail, mm, in the order of the strips: bass side first."""
    at = stations(g)
    share = (x_mm - at.board_end) / max(1.0, at.nut - at.board_end)
    wide = [_wide(s, share) for s in told_strips(g)]
    y = math.fsum(wide) / 2
    found = []
    for w in wide:
        found.append((y - w, y))
        y -= w
    return found if g.hand == "right" else [(-high, -low) for low, high in found]


# changes --------------------------------------------------------------------------------------------------------------
def with_strips(g: Instrument, strips: Sequence[Strip]) -> Instrument:
    """The instrument with a neck of these strips. Raises ValidationError."""
    data = [s.model_dump(mode="json") for s in strips]
    return g.with_figures({"strips": data, "ways": {**g.ways, "neck": "strips"}})


def even_strips(g: Instrument, count: int) -> list[Strip]:
    """So many strips that share the neck's width. Raises BadEntry."""
    if not 2 <= count <= 15:
        raise BadEntry(f"{count} strips: needs 2 to 15.")
    return [Strip(mm=round(laminate_width_mm(g) / count, 2)) for _ in range(count)]


def mirrored_strips(strips: Sequence[Strip]) -> list[Strip]:
    """The bass side's strips on both sides, the middle one kept."""
    half = list(strips[: (len(strips) + 1) // 2])
    return half + half[: len(strips) // 2][::-1]


def swapped_woods(strips: Sequence[Strip]) -> list[Strip]:
    """The two woods that most of the strips are of, each in the other's place. Raises BadEntry where there are no two."""
    woods = [name for name, _ in Counter(s.species for s in strips if not s.accent).most_common(2)]
    if len(woods) < 2:
        raise BadEntry("The strips are of one wood; say another first: strip 2 of walnut.")
    other = {woods[0]: woods[1], woods[1]: woods[0]}
    return [s.changed(species=other.get(s.species, s.species)) if not s.accent else s for s in strips]
