"""The shop as making reckons with it: machines, clamps one by one, glue, warmth, hands and hours."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, field
from typing import Literal

from grainet.kit.gluing import SHIPPED_GLUES, Clamp, Glue
from grainet.kit.machine import Machine
from grainet.kit.shop_profile import SHIPPED_MACHINES
from grainet.wood.species import SpeciesLibrary, library_with
from grainet.wood.units import LengthStyle, format_mark, tell_gap
from grainet.work.operation import Said, ShopClamp

NO_CLAMP = ("tape", "caul", "vacuum")  # presses, but is no clamp that stands at a place
YELLOW = next(g for g in SHIPPED_GLUES if g.id == "yellow")


@dataclass(frozen=True)
class Bench:
    """What the shop has. ``pressure_mpa`` is the house's own figure for every joint, where it has one; ``cavities`` says which school
    routes them: before the skins go on, or after."""

    machines: tuple[Machine, ...] = SHIPPED_MACHINES
    clamps: tuple[ShopClamp, ...] = ()
    tape: tuple[ShopClamp, ...] = ()  # strips of strong tape, each by itself
    glue: Glue = YELLOW
    temperature_c: float = 20.0
    hands: int = 1
    hours: tuple[str, str] = ("08:00", "17:00")
    free_days: tuple[int, ...] = ()  # weekdays without hand work; Monday is 0
    caul_mm: float = 20.0
    pressure_mpa: float | None = None
    seconds_a_face: float = 40.0
    spread_g_m2: float = 175.0
    hollow_mm: float = 0.2  # how open the middle of a joint of a metre may be; 0 is the flat school
    clamps_stay_h: float = 0.0  # at the least, whatever the label says
    cavities: Literal["before", "after"] = "before"
    paces: tuple[tuple[str, float], ...] = ()  # of kinds of steps: how long they take here against the usual minutes
    # what went wrong three times: at which kinds of steps (none: any), in which wood or at which machine, and what is said
    again: tuple[tuple[tuple[str, ...], str, str, Said], ...] = ()
    no_face: tuple[tuple[str, str], ...] = ()  # boards without a flat face by what is known of them now, and why
    library: SpeciesLibrary = field(default_factory=library_with)
    style: LengthStyle = "mm"  # how the sentences of operations say lengths

    def told(self, mm: float, digits: str = "g") -> str:
        """A length as a saw or a planer is set to it: with so many ``digits`` in mm, else in the house's own inches."""
        return f"{mm:{digits}}" if self.style == "mm" else format_mark(mm, self.style)

    def told_gap(self, mm: float) -> str:
        """A gap as a feeler gauge has it."""
        return tell_gap(mm, self.style)

    @property
    def pace(self) -> float:
        """How much longer glue takes here than at 20 °C: twice for every five degrees below it, half for every five above."""
        return float(2 ** ((20.0 - self.temperature_c) / 5))


def each_clamp(clamps: tuple[Clamp, ...]) -> tuple[ShopClamp, ...]:
    """Every clamp of a shop by itself: six bar clamps are bar1 to bar6. What is no clamp is left out."""
    return _each(c for c in clamps if c.kind not in NO_CLAMP)


def each_strip(clamps: tuple[Clamp, ...]) -> tuple[ShopClamp, ...]:
    """Every strip of tape of a shop by itself."""
    return _each(c for c in clamps if c.kind == "tape")


def _each(some: Iterable[Clamp]) -> tuple[ShopClamp, ...]:
    return tuple(
        ShopClamp(id=f"{c.id}{k + 1}", kind=c.kind, opens_mm=c.reach_mm, force_kn=c.force_kn)
        for c in some
        for k in range(c.count)
    )
