"""Pictures of a piece by the solid-wood model, one millimetre a pixel or finer, clipped to nothing: the drawing clips.

An offcut is painted as the place of its parent that it is, so grain runs on across the saw cut.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from grainet.picture.solid import Block, Knot, Nail, look_of, paint_edge, paint_end, paint_face, seed_of
from grainet.wood.defects import Defect
from grainet.wood.piece import Piece

LONGEST_PIXELS = 2400
Image = NDArray[np.uint8]


def block_of(piece: Piece) -> Block:
    """The block that a piece is cut from, in the block's own axes: its species' look, ring angle, slope, knots and nails."""
    _x0, y0, _x1, y1 = piece.extents
    angles = [a for a in piece.ring_angle_deg or () if a is not None]
    thickness = piece.least_thickness_mm or 30.0
    sx, sy, _ = piece.picture_sign
    knots, nails = [], []
    for d in piece.defects:
        if d.kind not in ("knot", "loose_knot", "nail", "screw") or d.by:
            continue
        cx, cy, r = _round(d.polygon)
        place = (_to_block(piece, 0, cx), _to_block(piece, 1, cy))
        top, bottom = _depths(d, thickness)
        zs = sorted((_to_block(piece, 2, top), _to_block(piece, 2, bottom)))
        if d.kind in ("nail", "screw"):
            nails.append(Nail(*place, zs[1], zs[0]))
        else:
            knots.append(Knot(*place, r, zs[1] + (0 if d.depth_mm is not None and d.face == "1" else 999.0), zs[0]))
    width = max(y1 - y0, 40.0) if not piece.parent else max(y1 + piece.picture_at[1], 40.0)
    return Block(
        seed_of(piece.pictured_as or piece.id), look_of(piece.species), width, thickness,
        sum(angles) / len(angles) if angles else 25.0, (piece.grain_slope_deg or 0.0) * sx * sy, tuple(knots), tuple(nails),
    )  # fmt: skip


def _depths(defect: Defect, thickness: float) -> tuple[float, float]:
    if defect.depth_mm is None or defect.face in ("through", "edge"):
        return 0.0, thickness
    return (0.0, defect.depth_mm) if defect.face == "1" else (thickness - defect.depth_mm, thickness)


def _to_block(piece: Piece, k: int, mm: float) -> float:
    """A place on the piece (axis k) in the block that it was pictured from."""
    at = (*piece.picture_at, piece.picture_depth_mm)[k]
    return at + piece.picture_sign[k] * mm


def _block_axis(piece: Piece, k: int, low: float, high: float, step: float) -> NDArray[np.float32]:
    at = (*piece.picture_at, piece.picture_depth_mm)[k]
    return (at + piece.picture_sign[k] * _axis(low, high, step)).astype(np.float32)


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
    image = paint_face(
        block_of(piece), _block_axis(piece, 0, x0, x1, step), _block_axis(piece, 1, y0, y1, step), _to_block(piece, 2, depth_mm)
    )
    return np.ascontiguousarray(image[::-1])


def edge_picture(piece: Piece, px_per_mm: float = 1.0, *, far: bool = False) -> Image:
    """The near (or far) edge, row 0 at face 1."""
    x0, y0, x1, y1 = piece.extents
    step = max(1 / px_per_mm, (x1 - x0) / LONGEST_PIXELS)
    thickness = piece.least_thickness_mm or 30.0
    return paint_edge(
        block_of(piece), _block_axis(piece, 0, x0, x1, step), _block_axis(piece, 2, 0, thickness, step),
        _to_block(piece, 1, y1 if far else y0),
    )  # fmt: skip


def end_picture(piece: Piece, px_per_mm: float = 1.0, *, far: bool = False) -> Image:
    """An end with face 1 up: the marked one as seen from it has the near edge at the right; here it is drawn at the left."""
    x0, y0, x1, y1 = piece.extents
    thickness = piece.least_thickness_mm or 30.0
    step = 1 / px_per_mm
    return paint_end(
        block_of(piece), _block_axis(piece, 1, y0, y1, step), _block_axis(piece, 2, 0, thickness, step),
        _to_block(piece, 0, x1 if far else x0),
    )  # fmt: skip
