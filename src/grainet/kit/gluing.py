"""Clamps, other sources of pressure, and glues, as a shop has them. Brand-free; the label in hand wins.

Sources of the shipped glue times: usual label ranges per family at 20 C (notes); each is editable and says so.
"""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from grainet.wood.value import DayOrEmpty, Value

Hours = Annotated[float, Field(ge=0, le=1000)]
Minutes = Annotated[float, Field(ge=0, le=10_000)]
PressureKind = Literal["light", "bar", "pipe", "parallel", "press", "vacuum", "tape", "caul"]
PRESSURE_KINDS: tuple[PressureKind, ...] = ("light", "bar", "pipe", "parallel", "press", "vacuum", "tape", "caul")
WORKING_FORCE_KN: dict[str, float] = {
    "light": 0.5, "bar": 2.0, "pipe": 3.5, "parallel": 3.0, "press": 20.0, "vacuum": 8.0, "tape": 0.1, "caul": 0.0,
}  # fmt: skip


class Clamp(Value):
    """A kind of clamp or other source of pressure: how far it opens, what it presses at work, how many there are."""

    id: str = Field(min_length=1)
    name: str = Field(min_length=1, max_length=60)
    kind: PressureKind = "bar"
    reach_mm: float = Field(gt=0, le=10_000)
    force_kn: float = Field(ge=0, le=200)
    count: int = Field(default=1, ge=0, le=1000)


class Glue(Value):
    """A glue: its family, its times at 20 C, its least temperature, and when the bottle in hand goes off."""

    id: str = Field(min_length=1)
    name: str = Field(min_length=1, max_length=60)
    open_min: Minutes
    closed_min: Minutes = 0.0
    handling_h: Hours
    machining_h: Hours
    full_h: Hours
    least_c: float = Field(default=10.0, ge=-10, le=60)
    fills_gaps: bool = False
    water_based: bool = True
    expires: DayOrEmpty = ""
    source: str = "shipped default, a usual range of its family; the label wins"

    def stale(self, today: str) -> bool:
        """Past the day that its label gives."""
        return bool(self.expires) and self.expires < today

    def slower_at(self, temperature_c: float) -> float:
        """Clamp times grow about twofold for every five degrees below 20 C (notes: doubles at 15 C); none above."""
        return float(2 ** (max(0.0, 20.0 - temperature_c) / 5))


SHIPPED_CLAMPS: tuple[Clamp, ...] = (
    Clamp(id="light", name="Light clamps", kind="light", reach_mm=150, force_kn=0.5, count=8),
    Clamp(id="bar", name="Bar clamps", kind="bar", reach_mm=600, force_kn=2.0, count=6),
    Clamp(id="tape", name="Strong tape", kind="tape", reach_mm=450, force_kn=0.1, count=20),
)
SHIPPED_GLUES: tuple[Glue, ...] = (
    Glue(id="white", name="White PVA", open_min=8, closed_min=15, handling_h=1, machining_h=12, full_h=24, least_c=10),
    Glue(id="yellow", name="Yellow aliphatic", open_min=5, closed_min=10, handling_h=0.75, machining_h=12, full_h=24, least_c=10),
    Glue(id="cross", name="Cross-linking PVA", open_min=5, closed_min=10, handling_h=1, machining_h=12, full_h=24, least_c=12),
    Glue(id="hide", name="Hot hide", open_min=1, closed_min=2, handling_h=2, machining_h=16, full_h=48, least_c=20),
    Glue(id="liquid_hide", name="Liquid hide", open_min=10, closed_min=15, handling_h=6, machining_h=24, full_h=72, least_c=15),
    Glue(id="urea", name="Urea powder", open_min=15, closed_min=20, handling_h=6, machining_h=24, full_h=72, least_c=18, fills_gaps=True),
    Glue(id="pur", name="Polyurethane", open_min=20, closed_min=30, handling_h=4, machining_h=12, full_h=24, least_c=10, water_based=False),
    Glue(id="epoxy", name="Slow epoxy", open_min=45, closed_min=60, handling_h=12, machining_h=24, full_h=168, least_c=15, fills_gaps=True, water_based=False),
    Glue(id="ca", name="Cyanoacrylate", open_min=0.5, closed_min=1, handling_h=0.1, machining_h=1, full_h=24, least_c=10, water_based=False),
)  # fmt: skip
