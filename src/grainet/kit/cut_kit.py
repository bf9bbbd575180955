"""What sawing and flattening take, and what the machines can hold: the kit of the exchange contract. Absent = no loss, no limit."""

from __future__ import annotations

from typing import Annotated, Literal

from pydantic import Field

from grainet.design.allowances import Allowances
from grainet.wood.value import Value

Loss = Annotated[float, Field(ge=0, le=500)]
Limit = Annotated[float, Field(gt=0, le=20_000)]


class Kerfs(Value):
    """Width of the cut in mm per kind of saw work."""

    crosscut: Loss = 0.0
    rip: Loss = 0.0
    resaw: Loss = 0.0
    outline: Loss = 0.0


class Machines(Value):
    """Limits in mm; None is no limit. A shop's own machines are values of their own (``machine.py``); this is their view."""

    resaw_height_mm: Limit | None = None
    planer_width_mm: Limit | None = None
    thicknesser_width_mm: Limit | None = None
    thicknesser_least_mm: Limit | None = None
    least_length_mm: Limit | None = None


class Losses(Value):
    """How the shop saws and what its levelling, its caution and the wood take, whatever the machine; all in mm."""

    cutting: Literal["outline", "straight"] = "outline"
    skim_mm: Loss = 0.0
    resaw_skim_mm: Loss = 0.0
    edge_mm: Loss = 0.0
    trim_mm: Loss = 0.0
    margin_mm: Loss = 0.0
    metal_clear_mm: Loss = 0.0
    growth_mm: Loss = 0.0


class CutKit(Losses):
    """Kerfs, losses and limits that planning and checking hold to, all in mm."""

    kerf_mm: Kerfs = Kerfs()
    machines: Machines = Machines()

    def stack_mm(self, thickness_mm: float, leaves: int) -> float:
        """What ``leaves`` leaves of a finished thickness take out of a board, saw cuts and their skims in, faces' skims not."""
        return leaves * thickness_mm + (leaves - 1) * self.leaf_loss_mm

    @property
    def leaf_loss_mm(self) -> float:
        """What lies between two leaves of one footprint: the kerf and a skim of each sawn face, mm."""
        return self.kerf_mm.resaw + 2 * self.resaw_skim_mm

    @property
    def allowances(self) -> Allowances:
        """What a blank loses by this kit, whatever the instrument."""
        return Allowances(self.trim_mm, self.edge_mm, self.skim_mm, self.leaf_loss_mm)
