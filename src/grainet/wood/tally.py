"""What lies on a piece in figures: marks by kind and how much of each face is clear of them."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass

from grainet.wood.piece import Piece


@dataclass(frozen=True)
class Tally:
    """Marks by kind, and the clear share of each face, 0 to 1."""

    by_kind: dict[str, int]
    clear: dict[str, float]

    @property
    def clear_both(self) -> float:
        """The clear share of the face that is less so."""
        return min(self.clear.values(), default=1.0)


def tally(piece: Piece) -> Tally:
    """Count and measure by polygons: marks that overlap count once, and only what lies on the wood."""
    from shapely import union_all
    from shapely.geometry import Polygon

    counts: Counter[str] = Counter(d.kind for d in piece.defects)
    if not piece.outline:
        return Tally(dict(counts), {})
    outline = Polygon(piece.outline).buffer(0)
    clear = {}
    for face in ("1", "2"):
        marks = [Polygon(d.polygon).buffer(0) for d in piece.defects if d.face in (face, "through", "edge")]
        covered = union_all(marks).intersection(outline).area if marks else 0.0
        clear[face] = 1.0 - covered / outline.area
    return Tally(dict(counts), clear)
