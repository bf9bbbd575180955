"""One answer to what wood can become, as a value: plain enough to go from one program to another."""

from __future__ import annotations

import json
from dataclasses import asdict, dataclass, field
from typing import Any

from grainet.design.instrument import Instrument

THICKEST_MM = 90.0  # how far a thicker body is looked for


@dataclass(frozen=True)
class RoleBar:
    """Why the house takes no part of a role from a piece, with the figures that were found and wanted where the rule has some.

    Where it is not ``surely``, only not before something is done: then the piece counts, and what is to be done is told.
    """

    role: str
    piece: str
    why: str
    code: str = ""
    surely: bool = True
    found: float = 0.0
    wanted: float = 0.0


@dataclass(frozen=True)
class Shortfall:
    """Why something fails: the part, the measure, what the best piece has and what is wanted, as stock sizes in mm; where it is the house
    that takes no such wood, its rule's code and figures, and ``why`` in words."""

    part: str
    what: str
    found: float
    wanted: float
    why: str = ""


@dataclass(frozen=True)
class Becoming:
    """One answer: the instrument as it would be made, whether it fits, from which pieces, with what to spare, or what fails."""

    instrument: Instrument
    ways: dict[str, str]
    fits: bool
    pieces: dict[str, str] = field(default_factory=dict)
    margin_mm: dict[str, dict[str, float]] = field(default_factory=dict)
    fails: Shortfall | None = None
    largest_scale_mm: float | None = None
    thickest_body_mm: float | None = None
    widest_body_mm: float | None = None
    lacks: tuple[Shortfall, ...] = ()  # what is often bought by itself, such as a fretboard, where all else fits

    @property
    def nearly(self) -> bool:
        """Whether it fits, or lacks only what is often bought by itself."""
        return self.fits or bool(self.lacks)


def to_data(answer: Becoming) -> dict[str, Any]:
    """An answer as plain data, for the pipe between programs."""
    return {**asdict(answer), "instrument": json.loads(answer.instrument.model_dump_json(exclude_unset=True, by_alias=True))}


def from_data(data: dict[str, Any]) -> Becoming:
    """The answer again. Raises ValueError where it is none."""
    g = Instrument.model_validate_json(json.dumps(data["instrument"]))
    fails = Shortfall(**data["fails"]) if data.get("fails") else None
    lacks = tuple(Shortfall(**one) for one in data.get("lacks", ()))
    return Becoming(**{**data, "instrument": g, "fails": fails, "lacks": lacks})
