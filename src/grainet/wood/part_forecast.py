"""What would be left of a part sawn from anywhere on a board: the loss chain link by link, the exact flattening beside it,
and what shortening or ripping before flattening would gain.

Sources: the notes' chain (least reading, bow, cup, half the rocking gap, skims, voids); best pair of parallel planes by a small
linear programme over the readings whose heights are known.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from grainet.wood.defects import Defect
from grainet.wood.flatness import Link, LossChain, crook_loss, flattening_links
from grainet.wood.piece import Piece
from grainet.wood.thickness import ThicknessField
from grainet.wood.value import Ring

Box = tuple[float, float, float, float]  # x0, y0, x1, y1 in mm


@dataclass(frozen=True)
class Gain:
    """What a cut before flattening would gain, in mm of thickness, against flattening the whole board."""

    act: str
    left_mm: float
    gains_mm: float


@dataclass(frozen=True)
class SubPiece:
    """A part's forecast: thickness and width chains, the exact thickness (None where heights are unread), and what else to say."""

    box: Box
    thickness: LossChain
    width: LossChain
    exact_mm: float | None
    gains: tuple[Gain, ...]
    unread: tuple[str, ...]

    @property
    def length_mm(self) -> float:
        """Length of the tried part, mm."""
        return self.box[2] - self.box[0]


def sub_piece(
    piece: Piece, box: Box, skim_mm: float = 0.0, edge_mm: float = 0.0, off: frozenset[str] = frozenset()
) -> SubPiece:  # fmt: skip
    """The forecast for the part of a board within ``box``.

    ``off`` names links that are switched off; ``skim_mm`` per face, ``edge_mm`` per long side. Raises ValueError where no
    thickness was read or the box is empty.
    """
    x0, y0, x1, y1 = box
    if x1 - x0 < 1e-9 or y1 - y0 < 1e-9:
        raise ValueError("the part has no size")
    ring = ((x0, y0), (x1, y0), (x1, y1), (x0, y1))
    field = ThicknessField.of(piece)
    least = field.least_under(np.asarray(ring, float))
    px0, py0, px1, py1 = piece.extents
    whole = (px1 - px0, py1 - py0)
    part = (x1 - x0, y1 - y0)
    void_links, unread = void_depths(piece, box)
    links = (*flattening_links(piece.flatness, *part, *whole), Link("skims", 2 * skim_mm), *void_links)
    chain = LossChain(least, links, off)
    clear = clear_width(piece, x0, x1, y0, y1)
    width = LossChain(
        clear, (Link("crook", 0.0 if _crook_shown(piece) else crook_loss(piece.flatness, part[0], whole[0])), Link("edging", 2 * edge_mm)), off
    )  # fmt: skip
    exact = exact_flattening(piece, ring)
    if exact is not None:
        exact -= sum(link.takes_mm for link in links if link.name not in ("bow", "cup", "rocking") and link.name not in off)
    return SubPiece(box, chain, width, exact, _gains(piece, chain, least, part, whole), tuple(unread))


def _crook_shown(piece: Piece) -> bool:
    return piece.crook_in_outline or piece.flatness.crook_in_outline


def void_depths(piece: Piece, box: Box) -> tuple[list[Link], list[str]]:
    """What voids take from each face of the part: the deepest of each face; both sides add up, as ridged faces do."""
    deepest: dict[str, tuple[float, str]] = {}
    unread: list[str] = []
    for defect in piece.defects:
        if defect.family != "void" or not crosses(defect, box):
            continue
        if defect.face in ("through", "edge"):
            unread.append(f"{defect.id} goes through: no whole face there")
        elif defect.depth_mm is None:
            unread.append(f"{defect.id} has no depth read: counts as through")
        elif defect.depth_mm > deepest.get(defect.face, (0.0, ""))[0]:
            deepest[defect.face] = (defect.depth_mm, defect.id)
    links = [Link(f"{tag} on face {face}", depth) for face, (depth, tag) in sorted(deepest.items())]
    return links, unread


def crosses(defect: Defect, box: Box) -> bool:
    """Whether a mark's polygon and a box share area."""
    from shapely.geometry import Polygon
    from shapely.geometry import box as make_box

    return bool(Polygon(defect.polygon).buffer(0).intersection(make_box(*box)).area > 1e-9)


def clear_width(piece: Piece, x0: float, x1: float, y0: float, y1: float) -> float:
    """The width of wood that runs the whole length between x0 and x1, within y0 to y1, in mm."""
    from shapely.geometry import LineString, Polygon

    outline = Polygon(piece.outline)
    low, high = y0, y1
    stops = sorted({x0 + 1e-6, x1 - 1e-6, *(x for x, _ in piece.outline if x0 < x < x1)})
    for x in stops:
        met = outline.intersection(LineString([(x, y0 - 1), (x, y1 + 1)]))
        if met.is_empty:
            return 0.0
        low, high = max(low, met.bounds[1]), min(high, met.bounds[3])
    return max(0.0, high - low)


def exact_flattening(piece: Piece, ring: Ring) -> float | None:
    """The greatest distance between two parallel planes inside the wood under a ring, in mm; None without heights.

    maximise d with a x + b y + c <= top and a x + b y + c - d >= top - thickness at every station under the ring and, where
    the readings form a field, at the ring's corners. The tilt is small, so d counts along z.
    """
    read = [s for s in piece.stations if s.top_mm is not None]
    if len(read) < 3:
        return None
    from scipy.optimize import linprog

    # shifted by a metre, since a field needs figures over 0 and a height may be 0
    tops = ThicknessField(None, [s.changed(thickness_mm=(s.top_mm or 0.0) + 1000.0) for s in read])
    field = ThicknessField.of(piece)
    x0, y0, x1, y1 = min(x for x, _ in ring), min(y for _, y in ring), max(x for x, _ in ring), max(y for _, y in ring)
    inside = [(s.x_mm, s.y_mm) for s in read if x0 - 1e-9 <= s.x_mm <= x1 + 1e-9 and y0 - 1e-9 <= s.y_mm <= y1 + 1e-9]
    lines_x = sorted({x0, x1, *(x for x, _ in inside)})
    lines_y = sorted({y0, y1, *(y for _, y in inside)})
    places = np.array(sorted({*inside, *((x, y) for x in lines_x for y in lines_y), *ring}))
    top = tops.at(places[:, 0], places[:, 1]) - 1000.0
    bottom = top - field.at(places[:, 0], places[:, 1])
    u, v = (places[:, 0] - x0) / max(1.0, x1 - x0), (places[:, 1] - y0) / max(1.0, y1 - y0)
    one, none = np.ones(len(u)), np.zeros(len(u))
    above = np.column_stack([u, v, one, none])
    below = np.column_stack([-u, -v, -one, one])
    found = linprog(
        [0, 0, 0, -1], A_ub=np.vstack([above, below]), b_ub=np.concatenate([top, -bottom]),
        bounds=[(None, None)] * 3 + [(None, None)], method="highs",
    )  # fmt: skip
    return max(0.0, float(-found.fun)) if found.success else None


def _gains(
    piece: Piece, chain: LossChain, least: float, part: tuple[float, float], whole: tuple[float, float]
) -> tuple[Gain, ...]:
    """Flattening the whole board, or cutting to length or width first; only what differs by a tenth of a millimetre is said."""

    def left(length: float, width: float) -> float:
        links = (*flattening_links(piece.flatness, length, width, *whole), *chain.links[3:])
        return LossChain(least, links, chain.off).left_mm

    uncut = left(*whole)
    rows = (
        Gain("flattened whole", uncut, 0.0),
        Gain("shortened first", left(part[0], whole[1]), left(part[0], whole[1]) - uncut),
        Gain("ripped first", left(whole[0], part[1]), left(whole[0], part[1]) - uncut),
        Gain("both first", chain.left_mm, chain.left_mm - uncut),
    )
    return tuple(g for k, g in enumerate(rows) if k == 0 or g.gains_mm >= 0.05)
