"""Machine limits beyond what a plan's contract holds, and whether a piece may be worked on a machine at all.

A limit that is unknown (None) refuses nothing; it is shown as not read.
"""

from __future__ import annotations

import math
from typing import Annotated, Literal

from pydantic import Field

from grainet.kit.cut_kit import Machines
from grainet.wood.value import Value

Mm = Annotated[float, Field(gt=0, le=20_000)]
MachineStep = Literal["planer", "thicknesser", "resaw", "router", "sander"]


class ShopLimits(Value):
    """Limits in mm and degrees that the shop knows of its machines."""

    thicknesser_most_mm: Mm | None = None  # the thickest that goes in
    planer_bench_mm: Mm | None = None  # its tables' whole length
    planer_deepest_mm: Mm | None = None  # the deepest cut in one pass
    router_reach_mm: Mm | None = None  # how deep the longest cutter goes
    rule_mm: Mm | None = None  # the longest straight rule
    saw_lean_deg: float = Field(default=0.0, ge=0, le=15)  # how far a rough cut leans
    saw_wobble_mm: float = Field(default=0.0, ge=0, le=20)  # how far it wanders from the line

    def rough_margin_mm(self, thickness_mm: float) -> float:
        """What to stay clear of a line on a thickness: wobble + T tan(saw error) (notes)."""
        return self.saw_wobble_mm + thickness_mm * math.tan(math.radians(self.saw_lean_deg))


def refusals(
    machines: Machines, limits: ShopLimits, step: MachineStep, length_mm: float, width_mm: float, thickness_mm: float
) -> list[str]:
    """Why a piece may not go through a machine of this shop, each as a sentence with its numbers; empty where nothing is known
    against it. It never says that a cut is safe: the machine's own manual does."""
    found: list[str] = []

    def over(value: float, limit: float | None, what: str) -> None:
        if limit is not None and value > limit + 1e-9:
            found.append(f"{value:.0f} {what}, the {step} takes {limit:.0f}")

    def under(value: float, limit: float | None, what: str) -> None:
        if limit is not None and value < limit - 1e-9:
            found.append(f"{value:g} {what}, the {step} wants {limit:g} at least")

    if step == "planer":
        over(width_mm, machines.planer_width_mm, "wide")
        under(length_mm, machines.least_length_mm, "long")
        if limits.planer_bench_mm is not None and length_mm > 2 * limits.planer_bench_mm:
            found.append(f"{length_mm:.0f} long on a bench of {limits.planer_bench_mm:.0f}: support it or plane by hand")
    elif step == "thicknesser":
        over(width_mm, machines.thicknesser_width_mm, "wide")
        over(thickness_mm, limits.thicknesser_most_mm, "thick")
        under(thickness_mm, machines.thicknesser_least_mm, "thick")
        under(length_mm, machines.least_length_mm, "long")
    elif step == "resaw":
        over(width_mm, machines.resaw_height_mm, "high")
    elif step == "router":
        over(thickness_mm, limits.router_reach_mm, "deep")
    return found


def remarks(limits: ShopLimits, skim_mm: float, length_mm: float) -> list[str]:
    """What the shop's own tools mean for a part without refusing it: the passes a skim takes, a rule shorter than the part."""
    found: list[str] = []
    if limits.planer_deepest_mm is not None and skim_mm > limits.planer_deepest_mm + 1e-9:
        passes = math.ceil(skim_mm / limits.planer_deepest_mm - 1e-9)
        found.append(f"{skim_mm:g} off a face is {passes} passes of {limits.planer_deepest_mm:g} at most")
    if limits.rule_mm is not None and length_mm > limits.rule_mm + 1e-9:
        found.append(f"{length_mm:.0f} long, the longest rule {limits.rule_mm:.0f}: a stretched line shows its straightness")
    return found
