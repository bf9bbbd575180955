"""The shop as a file says it (``grainet-shop``), and the steps of a plan (``grainet-steps``)."""

from __future__ import annotations

from datetime import datetime
from pathlib import Path
from typing import Annotated, Literal

from pydantic import AfterValidator, BeforeValidator, Field

from grainet.exchange.json_file import Unusable, read_value, write_json
from grainet.kit.cut_kit import Limit, Loss
from grainet.kit.gluing import SHIPPED_CLAMPS, SHIPPED_GLUES, Glue
from grainet.kit.machine import USUAL_WORK, Machine, MachineKind, Work
from grainet.kit.shop_profile import SHIPPED_MACHINES
from grainet.wood.value import Hour, Value, twice_named
from grainet.work.bench import YELLOW, Bench, each_clamp, each_strip
from grainet.work.operation import Making, ShopClamp

FAMILIES: dict[str, Glue] = {name: glue for glue in SHIPPED_GLUES for name in (glue.name.lower(), glue.id)} | {
    "cyanoacrylate": next(g for g in SHIPPED_GLUES if g.id == "ca")
}


def _family(text: str) -> str:
    if text.lower() not in FAMILIES:
        raise ValueError(f"“{text[:40]}” is no family of glue; needs one of {', '.join(g.name.lower() for g in SHIPPED_GLUES)}")
    return text


class ShopMachine(Value):
    """One machine: what it is and what it takes; without ``does`` it does what its kind usually does."""

    name: str = Field(min_length=1, max_length=60)
    kind: Annotated[MachineKind, BeforeValidator(MachineKind)]
    does: tuple[Annotated[Work, BeforeValidator(Work)], ...] = ()
    kerf_mm: Loss | None = None
    highest_mm: Limit | None = None
    widest_mm: Limit | None = None
    shortest_mm: Limit | None = None
    thinnest_mm: Limit | None = None
    deepest_mm: Limit | None = None
    bench_mm: Limit | None = None

    def as_machine(self, number: int) -> Machine:
        """As the shop keeps it."""
        told = {name: getattr(self, name) for name in type(self).model_fields}
        return Machine(**{**told, "id": f"m{number}", "does": self.does or USUAL_WORK[self.kind]})


class ShopFile(Value):
    """A shop: everything may be left out, and has the shipped default then."""

    format: Literal["grainet-shop"] = "grainet-shop"
    version: Literal[1] = 1
    hands: int = Field(default=1, ge=1, le=20)
    hours: tuple[Hour, Hour] = ("08:00", "17:00")
    temperature_c: float = Field(default=20.0, ge=-20, le=60)
    clamps: tuple[ShopClamp, ...] | None = None
    glue: Annotated[str, AfterValidator(_family)] = "yellow aliphatic"
    machines: tuple[ShopMachine, ...] | None = None

    def bench(self) -> Bench:
        """The shop as making reckons with it. Raises ValueError for hours that do not go on, or a clamp that stands twice."""
        if self.hours[0] >= self.hours[1]:
            raise ValueError(f"hours: {self.hours[0]} to {self.hours[1]}; the day must end after it begins")
        clamps = each_clamp(SHIPPED_CLAMPS) if self.clamps is None else self.clamps
        twice_named("clamp", [c.id for c in clamps])
        machines = SHIPPED_MACHINES if self.machines is None else tuple(m.as_machine(k + 1) for k, m in enumerate(self.machines))
        glue = FAMILIES.get(self.glue.lower(), YELLOW)
        tape = each_strip(SHIPPED_CLAMPS) if self.clamps is None else tuple(c for c in clamps if c.kind == "tape")
        clamps = tuple(c for c in clamps if c.kind != "tape")
        return Bench(machines, clamps, tape, glue, self.temperature_c, self.hands, self.hours)


def read_shop(path: Path | None) -> Bench:
    """The shop of a file; the shipped one without a file. Raises Unusable with one line per fault."""
    if path is None:
        return ShopFile().bench()
    try:
        return read_value(path, ShopFile).bench()
    except ValueError as fault:
        raise Unusable([f"{path.name}: {fault}"]) from None


def read_start(text: str | None) -> datetime | None:
    """When the calendar begins, local time. Raises Unusable."""
    if text is None:
        return None
    try:
        start = datetime.fromisoformat(text)
        if start.tzinfo is not None:
            raise ValueError
    except ValueError:
        raise Unusable([f"--from: found “{text[:40]}”, needs a local time such as 2026-12-01T08:00"]) from None
    return start


def write_steps(path: Path, making: Making) -> None:
    """Steps to a file. Raises Unusable where it cannot be written."""
    write_json(path, making)
