"""A pair that no band saw of the shop can resaw, for it stands too high: what else makes a pair of it, with what each loses."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from grainet.design.design import Design
from grainet.design.instrument import Instrument
from grainet.design.part import Part
from grainet.design.ways import ways_for, with_way
from grainet.kit.cut_kit import CutKit
from grainet.kit.machine import Machine, MachineKind
from grainet.wood.units import LengthStyle, tell_length

WEB_MM = 6.0  # what two cuts from both edges leave in the middle for the hand saw; judgement
NAMES = {"fold": "Rip and fold", "slip": "Slip two lengths", "quiet pair": "Two quiet boards"}


@dataclass(frozen=True)
class Offer:
    """Another way to make the pair; ``makes`` is the guitar that has it, None where it is told only."""

    name: str
    words: str
    makes: Instrument | None = None


@dataclass(frozen=True)
class TooHigh:
    """A part that stands too high to be resawn whatever the board, what the saw takes, and the ways out."""

    part: Part
    high_mm: float
    takes_mm: float
    offers: tuple[Offer, ...]

    def told(self, style: LengthStyle = "mm") -> str:
        """It in a sentence."""
        high, takes = (tell_length(mm, style) for mm in (self.high_mm, self.takes_mm))
        return f"{self.part.letter} {self.part.shown_name}: {high} high to resaw, the saw takes {takes}"


def too_high(design: Design, kit: CutKit, machines: Sequence[Machine], guitar: Instrument | None) -> TooHigh | None:
    """The first part of a build that is to be resawn and stands higher than the saw takes, however it lies along a board."""
    takes = kit.machines.resaw_height_mm
    for part in design.parts if takes is not None else ():
        ring = part.ring
        high = float(ring[:, 1].max() - ring[:, 1].min())
        if takes is not None and part.leaves > 1 and high > takes + 1e-9:
            offers = [*_other_ways(part, kit, guitar), *_two_cuts(high, machines)]
            return TooHigh(part, high, takes, tuple(offers))
    return None


def _other_ways(part: Part, kit: CutKit, guitar: Instrument | None) -> list[Offer]:
    """Ways of the same component that need no resaw."""
    component = part.id.split(".")[1] if part.id.count(".") else ""
    if guitar is None or component not in ways_for(guitar):
        return []
    lost = {"fold": kit.kerf_mm.rip + 2 * part.joint_mm, "slip": kit.kerf_mm.crosscut}
    words = {
        "fold": f"ripped down the middle of one board: {lost['fold']:.1f} of its face is lost at the seam, and nothing of its thickness",
        "slip": f"one behind the other from one board: the picture repeats, {lost['slip']:.1f} between them",
        "quiet pair": "from two boards that go together: Match shows which",
    }
    open_ways = [w for w in ways_for(guitar)[component] if w in words]
    return [Offer(NAMES[w], words[w], with_way(guitar, component, w)) for w in open_ways]


def _two_cuts(high: float, machines: Sequence[Machine]) -> list[Offer]:
    """A cut from each edge on a table saw, with a web left between for the hand saw, where its blade reaches."""
    wanted = (high - WEB_MM) / 2
    saw = next((m for m in machines if m.kind is MachineKind.TABLE_SAW), None)
    if saw is None:
        return []
    name = f"Two cuts on the {saw.name.lower()}"
    kerf = f", kerf {saw.kerf_mm:.1f}" if saw.kerf_mm else ""
    if saw.highest_mm is None:
        return [Offer(name, f"{wanted:.1f} deep from each edge{kerf}: how high its blade reaches is not known")]
    if wanted > saw.highest_mm + 1e-9:
        return [Offer(name, f"{wanted:.1f} deep from each edge{kerf}: its blade reaches {saw.highest_mm:.1f}, too little")]
    care = "only with the guard or knife as the manual says, the last of it sawn by hand; another shop's band saw is safer"
    return [Offer(name, f"{wanted:.1f} deep from each edge{kerf}: {care}")]
