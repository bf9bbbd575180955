"""The camera stand-in: a photograph of a side of a piece as it lies on the bench, with chalk crosses and a tape in view.

The picture is the solid-wood model's, seen by a tilted, bent, noisy camera; the crosses' places are those that a builder would
chalk and measure.
"""

from __future__ import annotations

import math
from typing import Any

import numpy as np
from numpy.typing import NDArray

from grainet.design.shape import Array
from grainet.instruments.reading import InstrumentFault
from grainet.instruments.specimen import specimen_of
from grainet.instruments.stand_ins import StandIn
from grainet.picture.of_piece import edge_picture, end_picture, face_picture, plane_picture
from grainet.picture.rectify import TrueMap
from grainet.picture.scene import Camera, photograph
from grainet.wood.piece import Piece, WidthStation, with_readings
from grainet.wood.value import Point

Image = NDArray[Any]
CHALK, TAPE = (250, 250, 246), (236, 226, 170)


def take_photo(stand_in: StandIn, piece: Piece, side: str, megapixels: float | None = None) -> tuple[Image, TrueMap]:
    """A photo of one side (face1, face2, near_edge, far_edge, marked_end, far_end) and its exact map. Raises InstrumentFault."""
    megapixels = megapixels or stand_in.megapixels
    if stand_in.fault in ("no_answer", "unplugged"):
        raise InstrumentFault(f"{stand_in.name} gave no picture. Is it on? Or bring in a file.")
    if stand_in.fault == "garbage":
        raise InstrumentFault(f"{stand_in.name} sent a picture that is cut short; take it again.")
    whole = piece if piece.outline else _assumed(piece)
    if side in ("bow", "cup", "crook"):
        return _straightedge_photo(stand_in, whole, side, megapixels)
    if side == "twist":
        return _sticks_photo(stand_in, whole, megapixels)
    picture, rect, mask = _side(whole, side)
    margin = 0.12 * (rect[3] - rect[1]) + 14.0
    flat, big, on = _on_bench(picture, rect, margin, mask)
    if side in ("face1", "face2"):
        _tape(flat, big, rect)
    width = (megapixels * 1e6 * max(0.4, min(3.0, (big[2] - big[0]) / (big[3] - big[1])))) ** 0.5
    height = megapixels * 1e6 / width
    camera = Camera(round(width), round(height), 9.0, 5.0, 1.2, lens=-0.03, blur_px=0.5, uneven=0.15, grain=2.0, fill=0.93)
    image, true = photograph(flat, big, camera, 1 + stand_in.seed, on)
    return image, true


def take_opened_photo(
    stand_in: StandIn, piece: Piece, depths_mm: tuple[float, float], joint: tuple[Point, Point], ring: Array, *, above: bool
) -> tuple[Image, TrueMap]:
    """A photo of two leaves of a piece that lie open at a joint, held square over them: the plane at the first depth as it lies, on the upper
    side where it is ``above``, the one at the second mirrored beyond the seam, both sawn to the ``ring`` on the board, shape (points, 2).
    The map's u runs from the joint's first end, its v up from the seam, mm. Raises InstrumentFault."""
    import cv2

    if stand_in.fault in ("no_answer", "unplugged", "garbage"):
        raise InstrumentFault(f"{stand_in.name} gave no picture. Is it on? Or bring in a file.")
    (ax, ay), (bx, by) = joint
    long_mm = math.hypot(bx - ax, by - ay)
    ux, uy = (bx - ax) / long_mm, (by - ay) / long_mm
    away = (-uy, ux) if above else (uy, -ux)  # from the seam into the leaf as it lies
    sawn = (ring - (ax, ay)) @ np.array([[ux, away[0]], [uy, away[1]]])  # along the seam, away from it
    first, last, deep = float(sawn[:, 0].min()), float(sawn[:, 0].max()), float(sawn[:, 1].max())
    px = min(4.0, 3600 / (last - first))
    x0, _, _, y1 = piece.extents
    size = round((last - first) * px), round(deep * px)
    start = ax + first * ux, ay + first * uy
    leaves = []
    for depth in depths_mm:
        plane = plane_picture(piece, depth, px)
        scale = plane.shape[1] / (piece.extents[2] - x0)
        matrix = np.array([[ux, away[0], start[0] - x0], [-uy, -away[1], y1 - start[1]]]) * (scale / px, scale / px, scale)
        leaves.append(
            cv2.warpAffine(plane, matrix, size, flags=cv2.INTER_LINEAR | cv2.WARP_INVERSE_MAP, borderMode=cv2.BORDER_REPLICATE)
        )
    upper, lower = leaves if above else leaves[::-1]
    leaf = np.zeros((size[1], size[0]), np.uint8)
    cv2.fillPoly(leaf, [np.round((sawn - (first, 0.0)) * px).astype(np.int32)], (1,))
    picture, wood = np.concatenate([upper[::-1], lower]), np.concatenate([leaf[::-1], leaf]).astype(bool)
    width = round((last - first) * px * 1.15)
    high = round(width * max(0.3, 2.4 * deep / (1.15 * (last - first))))
    camera = Camera(width, high, 0.6, 0.4, 0.7, blur_px=0.5, uneven=0.12, grain=2.0, fill=0.92)
    return photograph(picture, (first, -deep, last, deep), camera, 1 + stand_in.seed, wood)


def straightedge_flat(edge: Image, length: float, bow: float, step: float) -> tuple[Image, tuple[float, float, float, float]]:
    """A bowed board's edge with a steel straightedge on it, 100 mm of bench beyond each end: picture and rectangle in mm.

    The straightedge's lower rim lies at v = 80; the gap under it is ``bow`` in the middle.
    """
    xs = np.arange(-100, length + 100, step) + step / 2
    ys = np.arange(round(120 / step)) * step  # down from the top
    picture = np.full((len(ys), len(xs), 3), 235, np.uint8)
    sag = bow * (1 - ((xs - length / 2) / (length / 2)) ** 2)
    for k, x in enumerate(xs):
        top = 40 + max(0.0, float(sag[k])) if 0 <= x <= length else 40.0
        rows = ys >= top
        column = edge[np.minimum(((ys[rows] - top) / step).astype(int), len(edge) - 1), min(k, edge.shape[1] - 1)]
        picture[rows, k] = column
    rule = (ys[:, None] >= 14) & (ys[:, None] < 40) & (xs[None, :] >= 0) & (xs[None, :] <= length)
    picture[rule] = (52, 56, 60)
    return picture, (-100.0, 0.0, length + 100.0, 120.0)


def _straightedge_photo(stand_in: StandIn, piece: Piece, kind: str, megapixels: float) -> tuple[Image, TrueMap]:
    """An edge or end with a straightedge as long as it: along for bow and crook, across for cup."""
    wood = specimen_of(piece)
    length = wood.width_mm if kind == "cup" else wood.length_mm
    step = max(0.1, length / 2600)
    edge = edge_picture(piece.changed(outline=((-100, 0), (length + 100, 0), (length + 100, 90), (-100, 90))), 1 / step)
    tall = edge[np.minimum(np.arange(round(90 / step)) % max(1, len(edge)), len(edge) - 1)]
    picture, rect = straightedge_flat(tall, length, flatness_of(piece)[kind], step)
    width = (megapixels * 1e6 * 3.4) ** 0.5
    camera = Camera(round(width), round(width / 3.4), 3.0, 2.0, 0.8, lens=-0.02, blur_px=0.4, uneven=0.1, fill=0.93)
    return photograph(picture, rect, camera, 1 + stand_in.seed)


def flatness_of(piece: Piece) -> dict[str, float]:
    """The specimen's bow, cup and crook in mm and its twist in degrees, made up from its number."""
    seed = specimen_of(piece).seed
    return {
        "bow": 0.8 + seed % 31 / 10,
        "cup": 0.4 + seed % 13 / 10,
        "crook": 0.5 + seed % 17 / 10,
        "twist": 0.3 + seed % 11 / 10,
    }


def _sticks_photo(stand_in: StandIn, piece: Piece, megapixels: float) -> tuple[Image, TrueMap]:
    """Two winding sticks sighted along the board: the near one wide and low, the far one shorter and above it, turned by the twist."""
    step = 0.25
    picture = np.full((round(160 / step), round(500 / step), 3), 205, np.uint8)
    xs, ys = np.meshgrid(np.arange(picture.shape[1]) * step - 250, np.arange(picture.shape[0]) * step)
    lean = np.tan(np.radians(flatness_of(piece)["twist"]))
    picture[(ys >= 100) & (ys < 140) & (np.abs(xs) <= 220)] = (58, 52, 48)
    picture[(ys >= 60 + xs * lean) & (ys < 84 + xs * lean) & (np.abs(xs) <= 150)] = (92, 60, 40)
    width = (megapixels * 1e6 * 2.6) ** 0.5
    camera = Camera(round(width), round(width / 2.6), 0.0, 0.0, 1.0, blur_px=0.4, fill=0.9)
    return photograph(picture, (-250.0, 0.0, 250.0, 160.0), camera, 1 + stand_in.seed)


def _assumed(piece: Piece) -> Piece:
    """An unread piece has the size of its specimen."""
    wood = specimen_of(piece)
    edges = tuple(WidthStation(x_mm=x, far_mm=wood.width_mm) for x in (0.0, wood.length_mm))
    return with_readings(piece, length_mm=wood.length_mm, width_stations=edges)


def _side(piece: Piece, side: str) -> tuple[Image, tuple[float, float, float, float], NDArray[np.bool_] | None]:
    """The side's picture with its low v below, its rectangle in mm, and where there is wood."""
    x0, y0, x1, y1 = piece.extents
    scale = min(2.0, 2400 / (x1 - x0))
    if side in ("face1", "face2"):
        picture = face_picture(piece, side[-1], scale)
        return picture, (x0, y0, x1, y1), _wood_mask(piece, picture.shape)
    thick = piece.least_thickness_mm or 30.0
    if side in ("near_edge", "far_edge"):
        return edge_picture(piece, scale, far=side == "far_edge")[::-1], (x0, 0.0, x1, thick), None
    if side in ("marked_end", "far_end"):
        return end_picture(piece, 4.0, far=side == "far_end")[::-1], (y0, 0.0, y1, thick), None
    raise InstrumentFault(f"“{side}” is not a side of a board.")


def _wood_mask(piece: Piece, shape: tuple[int, ...]) -> NDArray[np.bool_]:
    import cv2

    x0, y0, x1, y1 = piece.extents
    ring = np.array([((x - x0) / (x1 - x0) * shape[1], (y1 - y) / (y1 - y0) * shape[0]) for x, y in piece.outline])
    mask = np.zeros(shape[:2], np.uint8)
    cv2.fillPoly(mask, [np.round(ring).astype(np.int32)], (1,))
    return mask.astype(bool)


def _on_bench(picture: Image, rect: Any, margin: float, mask: Any) -> Any:
    """The side with a rim of bench about it."""
    px = picture.shape[1] / (rect[2] - rect[0])
    pad = max(1, round(margin * px))
    shape = (picture.shape[0] + 2 * pad, picture.shape[1] + 2 * pad)
    flat = np.empty((*shape, 3), np.uint8)
    flat[:] = (124, 132, 128)
    flat[pad:-pad, pad:-pad] = picture
    on = np.zeros(shape, bool)
    on[pad:-pad, pad:-pad] = True if mask is None else mask
    mm = pad / px
    return flat, (rect[0] - mm, rect[1] - mm, rect[2] + mm, rect[3] + mm), on


def _tape(flat: Image, big: Any, rect: Any) -> None:
    """Chalk ticks every hundred along both long edges, so that points can be clicked there."""
    import cv2

    px = flat.shape[1] / (big[2] - big[0])
    for k in range(int((rect[2] - rect[0]) // 100) + 1):
        x = round((rect[0] + 100 * k - big[0]) * px)
        for v in (rect[1] + 7, rect[3] - 7):
            y = round((big[3] - v) * px)
            cv2.line(flat, (x, y - max(2, round(4 * px))), (x, y + max(2, round(4 * px))), CHALK, max(1, round(1.2 * px)))
