"""What work takes from a blank whatever the instrument: trims, edges, skims and the resaw between two leaves."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True)
class Allowances:
    """All in mm: trim per end, edge per long side, skim per face, what lies between two resawn leaves."""

    trim_mm: float = 0.0
    edge_mm: float = 0.0
    skim_mm: float = 0.0
    leaf_loss_mm: float = 0.0
