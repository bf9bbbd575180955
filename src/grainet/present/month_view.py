"""The wood of one month as strands: from each board that was sawn to the instruments, the rack, dust and scrap; and the year's months beside it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from grainet.wood.climate import MONTHS
from grainet.work.sawn_board import SawnBoard, Total, together

RACK, DUST, SCRAP = "On the rack again", "dust", "scrap"


@dataclass(frozen=True)
class Strand:
    """So many litres of a board that went somewhere."""

    board: str
    species: str
    to: str
    litres: float


@dataclass(frozen=True)
class MonthView:
    """One month: its boards with their litres, the largest first; where they went, instruments first; and the strands between."""

    month: str  # 2026-11
    rows: tuple[SawnBoard, ...]
    strands: tuple[Strand, ...]
    targets: tuple[tuple[str, float], ...]  # and the litres that came there
    year: tuple[
        tuple[str, float | None], ...
    ]  # the twelve months up to it, with the share that became instruments, %; None: no saw

    @property
    def title(self) -> str:
        """November 2026."""
        return f"{MONTHS[int(self.month[5:]) - 1]} {self.month[:4]}"

    @property
    def litres(self) -> float:
        """Of all its boards."""
        return sum(r.litres for r in self.rows)

    def share(self, *names: str) -> float:
        """The share of what went to some places, %."""
        return 100 * sum(litres for name, litres in self.targets if name in names) / self.litres if self.litres else 0.0

    @property
    def instruments(self) -> list[str]:
        """The instruments that grew."""
        return [name for name, _ in self.targets if name not in (RACK, DUST, SCRAP)]

    def of(self, instrument: str) -> Total:
        """What one instrument took: litres, price, hours."""
        return next(t for t in together(self.rows, "instrument") if t.name == instrument)

    @property
    def beside_last_year(self) -> str:
        """How it stands beside the same month a year before; empty where there was no saw then."""
        before = dict(self.year).get(f"{int(self.month[:4]) - 1}{self.month[4:]}")
        mine = self.share(*self.instruments)
        if before is None:
            return ""
        word = "Better" if mine > before + 0.5 else "Less" if mine < before - 0.5 else "As much"
        return f"{word} than a year ago: {mine:.0f} against {before:.0f} %"


def months_of(rows: Sequence[SawnBoard]) -> list[str]:
    """The months in which something was sawn, the newest first."""
    return sorted({r.month for r in rows if r.month}, reverse=True)


def month_view(rows: Sequence[SawnBoard], month: str) -> MonthView:
    """One month of the shop; nothing but the year where nothing was sawn in it."""
    mine = tuple(sorted((r for r in rows if r.month == month), key=lambda r: (-r.litres, r.board)))
    strands: list[Strand] = []
    for row in mine:
        ways = ((row.instrument, row.parts), (RACK, row.offcuts), (DUST, row.kerf + row.skims), (SCRAP, row.waste))
        strands += [Strand(row.board, row.species, to, litres) for to, litres in ways if litres > 1e-6]
    names = [*dict.fromkeys(r.instrument for r in mine), RACK, DUST, SCRAP]
    sums = ((name, sum(s.litres for s in strands if s.to == name)) for name in names)
    return MonthView(month, mine, tuple(strands), tuple((n, v) for n, v in sums if v > 0), tuple(_year(rows, month)))


def _year(rows: Sequence[SawnBoard], month: str) -> list[tuple[str, float | None]]:
    """Thirteen months up to this one, so that the same month a year before is among them."""
    totals = {t.name: t.yield_pct for t in together(rows, "month")}
    year, number = int(month[:4]), int(month[5:])
    found = []
    for back in range(12, -1, -1):
        at = year * 12 + number - 1 - back
        name = f"{at // 12}-{at % 12 + 1:02d}"
        found.append((name, totals.get(name)))
    return found
