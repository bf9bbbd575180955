"""What has to be bought for an instrument: each blank that the rack does not give, as least rough sizes, in trade units, with notes for the yard."""

from __future__ import annotations

import math
from dataclasses import dataclass

from grainet.design.allowances import Allowances
from grainet.design.blank import Blank
from grainet.design.blanks import blanks_of
from grainet.design.instrument import Instrument
from grainet.design.parts import alike, design_of, label_of
from grainet.kit.uses import use_of_role
from grainet.session.shop import Shop
from grainet.session.stock_answers import StockAnswer, needed_mm, stock_answer
from grainet.wood.units import LengthStyle, format_length

BOARD_FOOT_MM3 = 304.8 * 304.8 * 25.4
PLANING_MM = 3.0  # what sawn stock of a trade thickness usually loses until both its faces are clean; shipped judgement
TRADE_QUARTERS = (4, 5, 6, 8, 10, 12, 16)
MOST_SPECIES = 4


@dataclass(frozen=True)
class Missing:
    """One line of the list: the part, how many, the least stock that gives one, in mm, the trade thickness, woods, notes."""

    part: str
    label: str
    count: int
    size_mm: tuple[float, float, float]
    quarters: int | None
    species: tuple[str, ...]
    notes: tuple[str, ...]
    answer: StockAnswer

    @property
    def litres(self) -> float:
        """Wood of all of them, litres."""
        return math.prod(self.size_mm) * self.count / 1e6

    @property
    def board_feet(self) -> float:
        """The same in board feet, at the trade thickness where there is one."""
        thick = self.quarters * 25.4 / 4 if self.quarters else self.size_mm[2]
        return self.size_mm[0] * self.size_mm[1] * thick * self.count / BOARD_FOOT_MM3

    def size_text(self, style: LengthStyle) -> str:
        """ "at least 646 × 90 × 23.2", and the trade thickness."""
        sizes = " × ".join(format_length(math.ceil(v * 10 - 1e-6) / 10, style) for v in self.size_mm)
        return f"at least {sizes}" + (f", sawn {self.quarters}/4" if self.quarters else "")

    @property
    def tape(self) -> str:
        """The words that bring a bought one in: kind, sizes in mm, species."""
        sizes = "x".join(f"{math.ceil(v)}mm" for v in self.size_mm)
        kind = "fretboard" if self.part == "fretboard" else "plank"
        return f"{kind} {sizes} {self.species[0] if len(self.species) == 1 else ''}".strip()


def shopping_list(shop: Shop, g: Instrument) -> list[Missing]:
    """What the rack does not give of an instrument as it lies. Wood that would give it after work is not bought."""
    design = design_of(g)
    kit: Allowances = shop.kit.cuts.allowances
    blanks = {f"{g.id}.{blank.part}": (blank, count) for blank, count in alike(blanks_of(g, kit))}
    needs = design.recipes[-1].needs
    found = []
    for part in design.parts:
        blank, _ = blanks[part.id]
        answer = stock_answer(shop, part, blank, needs[part.id])
        if answer.word in ("gives", "if"):
            continue
        missing = needs[part.id] - (answer.count if answer.word == "wont" else 0)
        found.append(_missing(shop, blank, label_of(blank, needs[part.id]), max(1, missing), answer))
    return found


def _missing(shop: Shop, blank: Blank, label: str, count: int, answer: StockAnswer) -> Missing:
    size = needed_mm(blank)
    quarters = next((q for q in TRADE_QUARTERS if q * 25.4 / 4 >= size[2] + PLANING_MM), None) if size[2] >= 12 else None
    use = use_of_role(blank.role)
    rule = shop.kit.use(use) if use is not None else None
    notes = [f"dry to about {shop.kit.target_moisture_pct:.0f} %"]
    if rule is not None and rule.least_ring_deg:
        notes.append(f"rings at least {rule.least_ring_deg:g}° to the face")
    if rule is not None and rule.most_slope_deg is not None:
        notes.append(f"grain at most {rule.most_slope_deg:g}° off the length")
    if blank.leaves > 1:
        notes.append(f"{blank.leaves} leaves are resawn from it")
    return Missing(blank.part, label, count, size, quarters, blank.species[:MOST_SPECIES], tuple(notes), answer)
