"""Pictures of a piece by the solid-wood model, one millimetre a pixel or finer, clipped to nothing: the drawing clips.

An offcut is painted as the place of its parent that it is, so grain runs on across the saw cut.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from grainet.picture.solid import Block, Knot, look_of, paint_edge, paint_end, paint_face, seed_of
from grainet.wood.piece import Piece

LONGEST_PIXELS = 2400
Image = NDArray[np.uint8]


def block_of(piece: Piece) -> Block:
    """The block that a piece is cut from: its species' look, ring angle, slope and knots."""
    _x0, y0, _x1, y1 = piece.extents
    angles = [a for a in piece.ring_angle_deg or () if a is not None]
    thickness = piece.least_thickness_mm or 30.0
    dx, dy = piece.picture_at
    knots = tuple(
        Knot(cx + dx, cy + dy, r, d.depth_mm or 999.0)
        for d in piece.defects if d.kind in ("knot", "loose_knot") for cx, cy, r in [_round(d.polygon)]
    )  # fmt: skip
    nails = tuple((_round(d.polygon)[0] + dx, _round(d.polygon)[1] + dy) for d in piece.defects if d.kind in ("nail", "screw"))
    width = max(y1 - y0, 40.0) if not piece.parent else max(y1 + dy, 40.0)
    return Block(
        seed_of(piece.pictured_as or piece.id),
        look_of(piece.species),
        width,
        thickness,
        sum(angles) / len(angles) if angles else 25.0,
        piece.grain_slope_deg or 0.0,
        knots,
        nails,
    )


def _round(ring: tuple[tuple[float, float], ...]) -> tuple[float, float, float]:
    xs, ys = zip(*ring)
    return (min(xs) + max(xs)) / 2, (min(ys) + max(ys)) / 2, (max(xs) - min(xs) + max(ys) - min(ys)) / 4


def _axis(low: float, high: float, step: float) -> NDArray[np.float32]:
    return (low + (np.arange(max(1, round((high - low) / step))) + 0.5) * step).astype(np.float32)


def face_picture(piece: Piece, face: str, px_per_mm: float = 1.0) -> Image:
    """Face "1" or "2" as seen on face 1 (row 0 at the far edge), RGB uint8 over the piece's extents."""
    depth = 0.0 if face == "1" else (piece.least_thickness_mm or 30.0)
    return plane_picture(piece, depth, px_per_mm)


def plane_picture(piece: Piece, depth_mm: float, px_per_mm: float = 1.0) -> Image:
    """The inner plane at a depth from face 1, row 0 at the far edge."""
    x0, y0, x1, y1 = piece.extents
    step = max(1 / px_per_mm, (x1 - x0) / LONGEST_PIXELS)
    dx, dy = piece.picture_at
    image = paint_face(
        block_of(piece), _axis(x0 + dx, x1 + dx, step), _axis(y0 + dy, y1 + dy, step), piece.picture_depth_mm + depth_mm
    )
    return np.ascontiguousarray(image[::-1])


def edge_picture(piece: Piece, px_per_mm: float = 1.0) -> Image:
    """The near edge, row 0 at face 1."""
    x0, y0, x1, _ = piece.extents
    step = max(1 / px_per_mm, (x1 - x0) / LONGEST_PIXELS)
    thickness = piece.least_thickness_mm or 30.0
    dx, dy = piece.picture_at
    return paint_edge(block_of(piece), _axis(x0 + dx, x1 + dx, step), _axis(0, thickness, step), y0 + dy)


def end_picture(piece: Piece, px_per_mm: float = 1.0) -> Image:
    """The marked end as seen from it: near edge at the left, face 1 up."""
    x0, y0, _, y1 = piece.extents
    thickness = piece.least_thickness_mm or 30.0
    step = 1 / px_per_mm
    dx, dy = piece.picture_at
    return paint_end(block_of(piece), _axis(y0 + dy, y1 + dy, step), _axis(0, thickness, step), x0 + dx)
