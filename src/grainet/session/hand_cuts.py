"""Sawing a piece apart by hand, outside any plan: one cut, two pieces, the kerf between them, everything else carried over."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any

from grainet.kit.cut_kit import CutKit
from grainet.wood.piece import Piece
from grainet.wood.value import BadEntry

if TYPE_CHECKING:
    from shapely.geometry import Polygon


def sawn_apart(piece: Piece, tool: str, at_mm: float, kit: CutKit, numbers: tuple[str, str]) -> tuple[Piece, Piece]:
    """The two pieces that one cut leaves, the one at the marked end, near edge or face 1 first.

    ``tool`` is crosscut, rip or resaw; the kerf's middle lies at ``at_mm``. Raises BadEntry where a side would be all kerf.
    """
    from shapely.geometry import Polygon, box

    from grainet.job.answer import Offcut
    from grainet.wood.thickness import ThicknessField
    from grainet.work.returning import offcut_piece

    outline = Polygon(piece.outline)
    x0, y0, x1, y1 = outline.bounds
    half = getattr(kit.kerf_mm, tool) / 2
    least = ThicknessField.of(piece).least
    if tool == "resaw":
        depths = ((0.0, at_mm - half), (at_mm + half, least - at_mm - half))
        if min(thick for _, thick in depths) < 0.5:
            raise BadEntry(f"{at_mm:.1f} below face 1 leaves a side thinner than 0.5; the kerf takes {2 * half:.1f}.")
        sides = [(piece.outline, top, thick) for top, thick in depths]
    else:
        parts = (
            (box(x0, y0, at_mm - half, y1), box(at_mm + half, y0, x1, y1))
            if tool == "crosscut"
            else (box(x0, y0, x1, at_mm - half), box(x0, at_mm + half, x1, y1))
        )
        met = [_largest(outline.intersection(p)) for p in parts]
        if any(m is None or m.area < 25 for m in met):
            raise BadEntry(f"A cut at {at_mm:.1f} leaves nothing on one side; the kerf takes {2 * half:.1f}.")
        sides = [(tuple((x, y) for x, y in m.exterior.coords[:-1]), 0.0, _least_under(piece, m)) for m in met if m is not None]
    halves: list[Piece] = []
    for number, (ring, top, thick) in zip(numbers, sides):
        offcut = Offcut(
            id=number,
            piece=piece.id,
            polygon=tuple((float(x), float(y)) for x, y in ring),
            thickness_mm=round(thick, 3),
            keep=True,
            depth_mm=top,
        )
        made = offcut_piece(piece, offcut, number)
        kind = piece.kind if piece.kind != "slab" or tool == "resaw" else "offcut"
        halves.append(made.changed(kind=kind, racked=True, place=piece.place, ring_angle_deg=_angles(piece, tool, len(halves))))
    return halves[0], halves[1]


def _least_under(piece: Piece, shape: Polygon) -> float:
    import numpy as np

    from grainet.wood.thickness import ThicknessField

    return ThicknessField.of(piece).least_under(np.asarray(shape.exterior.coords[:-1], float))


def _angles(piece: Piece, tool: str, which: int) -> Any:
    """A crosscut keeps each half's own end; the freshly cut end is unread."""
    if tool != "crosscut" or piece.ring_angle_deg is None:
        return piece.ring_angle_deg
    return (piece.ring_angle_deg[0], None) if which == 0 else (None, piece.ring_angle_deg[1])


def _largest(met: Any) -> Polygon | None:
    from shapely.geometry import Polygon

    whole = [g for g in getattr(met, "geoms", [met]) if isinstance(g, Polygon)]
    return max(whole, key=lambda g: g.area, default=None)
