"""One board that was sawn up, by what became of its wood; and many of them together by supplier, species, instrument, month or year."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, fields
from typing import Literal

By = Literal["board", "supplier", "species", "instrument", "month", "year"]
GROUPS: tuple[By, ...] = ("board", "supplier", "species", "instrument", "month", "year")
NOT_SAID = "not said"
SHARES = ("parts", "offcuts", "kerf", "skims", "waste")


@dataclass(frozen=True)
class SawnBoard:
    """One board that was sawn up: litres whole and by what became of them, its price, the weight of its parts in kg, hand work in minutes."""

    board: str
    supplier: str
    species: str
    instrument: str
    month: str  # 2026-11; empty where no cut has its day
    litres: float
    parts: float
    offcuts: float
    kerf: float
    skims: float
    waste: float
    price: float | None
    kg: float | None
    minutes: float

    @property
    def year(self) -> str:
        """The year in which it was sawn."""
        return self.month[:4]


@dataclass(frozen=True)
class Total:
    """Some boards together; ``price`` and ``kg`` of those where they are known, ``unpriced`` how many are not."""

    name: str
    boards: tuple[str, ...]
    litres: float
    parts: float
    offcuts: float
    kerf: float
    skims: float
    waste: float
    price: float
    unpriced: int
    kg: float
    minutes: float

    @property
    def yield_pct(self) -> float:
        """The share that became parts, %."""
        return 100 * self.parts / self.litres if self.litres else 0.0


def together(rows: Sequence[SawnBoard], by: By) -> list[Total]:
    """The boards together by one of the groups, the newest month or year first, the others by litres."""
    groups: dict[str, list[SawnBoard]] = defaultdict(list)
    for row in rows:
        groups[str(getattr(row, by)) or NOT_SAID].append(row)
    found = [_total(name, some) for name, some in groups.items()]
    if by in ("month", "year"):
        return sorted(found, key=lambda t: t.name, reverse=True)
    return sorted(found, key=lambda t: (-t.litres, t.name))


def _total(name: str, some: Sequence[SawnBoard]) -> Total:
    shares = {s: sum(getattr(r, s) for r in some) for s in SHARES}
    return Total(
        name=name, boards=tuple(r.board for r in some), litres=sum(r.litres for r in some), **shares, price=sum(r.price or 0.0 for r in some),
        unpriced=sum(r.price is None for r in some), kg=sum(r.kg or 0.0 for r in some), minutes=sum(r.minutes for r in some),
    )  # fmt: skip


def table(rows: Sequence[SawnBoard]) -> list[tuple[str, ...]]:
    """Every board with every figure, for a spreadsheet; the first row names the columns."""
    names = [f.name for f in fields(SawnBoard)]
    return [
        tuple(names),
        *(
            tuple("" if (v := getattr(r, n)) is None else f"{v:g}" if isinstance(v, float) else str(v) for n in names)
            for r in rows
        ),
    ]
