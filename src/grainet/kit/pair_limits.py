"""How far apart two boards that are no mates may lie and still be joined unseen: a house's own limits."""

from __future__ import annotations

from pydantic import Field

from grainet.wood.value import Value


class PairLimits(Value):
    """How far apart two boards may lie in this house and still go together unseen; shipped judgement, editable."""

    colour: float = Field(default=6.0, gt=0, le=100)  # as an eye counts it: 1 is just seen side by side
    rings_deg: float = Field(default=20.0, gt=0, le=90)
    density_kg_m3: float = Field(default=40.0, gt=0, le=500)
    slope_deg: float = Field(default=1.5, gt=0, le=20)
    loudness: float = Field(default=2.2, gt=0, le=10)
