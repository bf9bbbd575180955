"""A bundle in a list is one row: how many of its items give a use by themselves, and what they could make glued face to face."""

from __future__ import annotations

from collections.abc import Sequence

from grainet.kit.cut_kit import CutKit
from grainet.kit.uses import UseRule
from grainet.wood.piece import Piece

MOST_TOGETHER = 24  # strips in one blank: nobody laminates more


def sets_together(items: Sequence[Piece], rule: UseRule, cuts: CutKit) -> tuple[int, int]:
    """How many blanks of a use the items make glued face to face, and how many items the first takes; (0, 0) where none.

    An item's thickness adds to the blank's width, its width is the blank's thickness; each glued face loses a skim, the blank its
    edges, skims and trims.
    """
    length, high = rule.length_mm + 2 * cuts.trim_mm, rule.thickness_mm + 2 * cuts.skim_mm
    width = rule.width_mm + 2 * cuts.edge_mm
    layers = sorted(
        (p.least_thickness_mm - 2 * cuts.skim_mm for p in items if p.outline and p.least_thickness_mm and _is_as_large(p, length, high)), reverse=True
    )  # fmt: skip
    made = first = at = 0
    while at < len(layers):
        total, taken = 0.0, 0
        while at + taken < len(layers) and total < width - 1e-9:
            total += layers[at + taken]
            taken += 1
        if total < width - 1e-9 or taken > MOST_TOGETHER:
            break
        made, first, at = made + 1, first or taken, at + taken
    return made, first


def _is_as_large(piece: Piece, length_mm: float, width_mm: float) -> bool:
    x0, y0, x1, y1 = piece.extents
    return x1 - x0 >= length_mm - 1e-6 and y1 - y0 >= width_mm - 1e-6


def together_words(items: Sequence[Piece], rule: UseRule, cuts: CutKit) -> str:
    """What a bundle could make together, in words; empty where nothing."""
    made, each = sets_together(items, rule, cuts)
    if not made or each < 2:
        return ""
    return f"glued face to face {made} {rule.label.lower()}{'s' if made > 1 else ''} of {each} items"
