"""What holds for a whole piece whatever the place: the rulebook's lines that bar a use, or ask for something first."""

from __future__ import annotations

from collections.abc import Iterator

from grainet.grade.facts import Facts
from grainet.grade.facts import density_of as density_of
from grainet.grade.facts import outline_area_mm2 as outline_area_mm2
from grainet.grade.rulebook import conditions_of
from grainet.grade.verdict import Reason, Word
from grainet.kit.shop_profile import ShopProfile
from grainet.kit.uses import UseRule
from grainet.wood.piece import Piece

Condition = tuple[Word, Reason]


def conditions(piece: Piece, rule: UseRule, kit: ShopProfile, facts: Facts | None = None) -> Iterator[Condition]:
    """All conditions that a piece does not simply meet, the barring ones first."""
    yield from conditions_of(facts or Facts(piece, kit), rule)
