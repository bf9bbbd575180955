"""Ways out of a part that does not fit, as values plain enough to go from one program to another."""

from __future__ import annotations

import json
from dataclasses import dataclass
from typing import Any

from grainet.design.instrument import Instrument


@dataclass(frozen=True)
class Rescue:
    """One way out: its kind, the patch, seams and days it costs, the wood it takes besides, what is to spare, whether it shows."""

    kind: str
    change: tuple[dict[str, Any], ...]
    seams: int
    days: int
    wood: tuple[tuple[str, float], ...]  # piece, length of it in mm
    margin_mm: float
    visible: bool
    keeps_drawing: bool = True
    guitar: Instrument | None = None  # as it would be kept; None where the instrument stays as it is

    @property
    def price(self) -> tuple[bool, int, int, float]:
        """What is weighed, in its order: what keeps the drawing, then seams, days, wood."""
        return (not self.keeps_drawing, self.seams, self.days, sum(mm for _, mm in self.wood))


@dataclass(frozen=True)
class Rescued:
    """The answer: how much is missing on the piece (None where nothing plain is), and the ways out, best first."""

    part: str
    piece: str
    short_mm: float | None
    what: str
    ways: tuple[Rescue, ...]
    tried: tuple[str, ...]  # kinds that were tried without help
    complete: bool = True  # whether every kind was reached in the time


def way_to_data(way: Rescue) -> dict[str, Any]:
    """A way out; the job's patch stays behind, the instrument that would be kept comes along."""
    guitar = way.guitar.model_dump(mode="json", exclude_unset=True, by_alias=True) if way.guitar is not None else None
    return {
        "kind": way.kind, "seams": way.seams, "days": way.days, "wood": list(way.wood), "margin_mm": way.margin_mm, "visible": way.visible,
        "keeps_drawing": way.keeps_drawing, "guitar": guitar,
    }  # fmt: skip


def way_from_data(data: dict[str, Any]) -> Rescue:
    """The other way round."""
    guitar = Instrument.model_validate_json(json.dumps(data["guitar"])) if data["guitar"] is not None else None
    return Rescue(
        data["kind"], (), data["seams"], data["days"], tuple((piece, mm) for piece, mm in data["wood"]), data["margin_mm"], data["visible"],
        data["keeps_drawing"], guitar,
    )  # fmt: skip


def rest_to_data(found: Rescued) -> dict[str, Any]:
    """What stands beside the ways: how much is short, and what was tried without help."""
    return {
        "short_mm": found.short_mm, "what": found.what, "tried": list(found.tried), "complete": found.complete, "order": [w.kind for w in found.ways]
    }  # fmt: skip
