"""Everything that one true photo suggests about its piece, as suggestions with a confidence; nothing here changes the piece."""

from __future__ import annotations

import math
from typing import Any, Literal

from numpy.typing import NDArray

from grainet.picture.board_edge import board_edges
from grainet.picture.end_grain import EndGrain, end_grain
from grainet.picture.figure import figure_of
from grainet.picture.grain import slope_of_grain
from grainet.picture.rectify import TrueMap, fit, warp
from grainet.picture.troubles import troubles_of
from grainet.wood.photo import Photo
from grainet.wood.piece import Piece
from grainet.wood.suggestion import Suggestion

MOST_COLUMNS = 2600  # analysed at this width at most
END_PX_PER_MM = 3.0
MARGIN_MM = 30.0
EDGE_READINGS = 9
LEAST_CONFIDENCE = 0.12


def side_rect(piece: Piece, side: str, true: TrueMap | None = None) -> tuple[float, float, float, float]:
    """The rectangle of a side in mm (u0, v0, u1, v1); of an unread face, what the photo's points span."""
    x0, y0, x1, y1 = piece.extents
    thick = piece.least_thickness_mm or 30.0
    if side in ("face1", "face2"):
        return (x0, y0, x1, y1) if piece.outline else (0.0, 0.0, piece.length_mm or 0.0, 0.0)
    if side in ("near_edge", "far_edge"):
        return (x0, 0.0, x1 or (piece.length_mm or 0.0), thick)
    return (y0, 0.0, y1, thick)


def _points_rect(photo: Photo) -> tuple[float, float, float, float]:
    us = [p.u_mm for p in photo.points if p.u_mm is not None]
    vs = [p.v_mm for p in photo.points]
    return min(us), min(vs), max(us), max(vs)


def true_rect(piece: Piece, photo: Photo) -> tuple[float, float, float, float]:
    """What of the side a photo can show: the side itself, or its points' span where the side is unread."""
    rect = side_rect(piece, photo.side)
    if rect[2] - rect[0] < 1 or rect[3] - rect[1] < 1:
        return _points_rect(photo)
    return rect


def map_of(photo: Photo) -> TrueMap:
    """The map of a photo by its points. Raises BadEntry where they do not fix one."""
    return fit(photo.points, (photo.width_px, photo.height_px))


def squared(image: NDArray[Any], piece: Piece, photo: Photo, px_per_mm: float | None = None, margin_mm: float = 0.0) -> Any:
    """The side seen square on: (picture, rect, px_per_mm). Faces have the far edge above, edges and ends face 1."""
    u0, v0, u1, v1 = true_rect(piece, photo)
    rect = (u0, v0 - margin_mm, u1, v1 + margin_mm)
    scale = px_per_mm or min(2.0, MOST_COLUMNS / (u1 - u0), 1.1 * max(photo.width_px, photo.height_px) / (u1 - u0))
    true = map_of(photo)
    shift_u, shift_v = photo.shift_mm
    wanted = (rect[0] - shift_u, rect[1] - shift_v, rect[2] - shift_u, rect[3] - shift_v)
    return warp(image, true, wanted, scale, up=photo.side in ("face1", "face2")), rect, scale


def suggestions_of(image: NDArray[Any], piece: Piece, photo: Photo) -> tuple[Suggestion, ...]:
    """What a true photo suggests. Raises BadEntry where the photo's points do not fix a map."""
    if photo.side in ("face1", "face2"):
        return tuple(_of_face(image, piece, photo))
    if photo.side in ("marked_end", "far_end"):
        return tuple(_of_end(image, piece, photo))
    return tuple(_of_edge(image, piece, photo))


def _of_face(image: NDArray[Any], piece: Piece, photo: Photo) -> list[Suggestion]:
    face: Literal["1", "2"] = "1" if photo.side == "face1" else "2"
    found: list[Suggestion] = []
    if not piece.outline or piece.kind == "slab":
        found += _edges(image, piece, photo)
    picture, (u0, v0, _u1, v1), scale = squared(image, piece, photo)
    inner = _inner(picture, piece, scale)
    try:
        slope = slope_of_grain(inner, scale)
    except ValueError:
        slope = None
    if slope is not None and slope.confidence >= LEAST_CONFIDENCE:
        text = f"lines climb {slope.slope_deg:.1f}° to the right; cathedrals are not fibre, and a face shows no run-out"
        if face == "1":
            found.append(
                Suggestion(
                    id="slope?",
                    what="slope",
                    confidence=slope.confidence,
                    face=face,
                    figures=(round(slope.slope_deg, 2),),
                    text=text,
                )
            )
    figured = figure_of(inner, scale)
    if figured.figured:
        a, _, b, _ = figured.extent_mm
        ring = ((u0 + a, v0), (u0 + b, v0), (u0 + b, v1), (u0 + a, v1))
        found.append(
            Suggestion(
                id="figure?", what="figure", confidence=figured.confidence, face=face, polygon=tuple((round(x, 1), round(y, 1)) for x, y in ring),
                figures=(figured.strength, figured.wavelength_mm, figured.angle_deg), text=f"waves {figured.wavelength_mm:.0f} apart, {figured.strength:.0%} strong",
            )
        )  # fmt: skip
    for spot in troubles_of(picture, scale):
        outline = tuple((round(u0 + x, 1), round(v0 + y, 1)) for x, y in spot.ring)
        if not _on_wood(outline, piece):
            continue
        kind: Any = spot.kind
        found.append(
            Suggestion(id="mark?", what="defect", kind=kind, confidence=round(spot.confidence, 2), face=face, polygon=outline)
        )
    return found


def _edges(image: NDArray[Any], piece: Piece, photo: Photo) -> list[Suggestion]:
    picture, (u0, v0, _u1, _v1), scale = squared(image, piece, photo, margin_mm=MARGIN_MM)
    edges = board_edges(picture, scale)
    if edges is None:
        return []
    rows = tuple((round(u + u0, 1), round(near + v0, 1), round(far + v0, 1)) for u, near, far in edges.readings(EDGE_READINGS))
    rows = ((u0, *rows[0][1:]), *rows[1:-1], (round(u0 + picture.shape[1] / scale, 1), *rows[-1][1:]))
    return [
        Suggestion(
            id="edges?",
            what="edges",
            confidence=edges.confidence,
            face="1",
            edges=rows,
            text="live edges as the photo shows them",
        )
    ]


def _inner(picture: NDArray[Any], piece: Piece, scale: float) -> NDArray[Any]:
    """The band that lies on wood along the whole board."""
    rows = picture.shape[0]
    cut = round(rows * (0.18 if piece.kind == "slab" else 0.04))
    return picture[cut : rows - cut]


def _on_wood(ring: tuple[tuple[float, float], ...], piece: Piece) -> bool:
    if not piece.outline:
        return True
    from shapely.geometry import Polygon

    mark = Polygon(ring).buffer(0)
    return bool(Polygon(piece.outline).buffer(-3).intersection(mark).area > 0.7 * mark.area)


def _of_end(image: NDArray[Any], piece: Piece, photo: Photo) -> list[Suggestion]:
    picture, _rect, scale = squared(image, piece, photo, px_per_mm=END_PX_PER_MM)
    try:
        rings = end_grain(picture, scale)
    except ValueError:
        return []
    end = 0.0 if photo.side == "marked_end" else 1.0
    where = "marked" if end == 0 else "far"
    return [
        Suggestion(id="rings?", what="rings", confidence=rings.confidence, face="end", figures=(round(rings.angle_deg, 1), end, *_heart(rings, picture, scale)), text=f"rings {rings.angle_deg:.0f}° at the {where} end")
    ]  # fmt: skip


def _heart(rings: EndGrain, picture: NDArray[Any], scale: float) -> tuple[float, ...]:
    """The face (1 above) that the pith lies toward and its distance from the middle; nothing where it is too far to be told."""
    rows, columns = picture.shape[0] / scale, picture.shape[1] / scale
    across, down = rings.pith_mm[0] - columns / 2, rings.pith_mm[1] - rows / 2
    far = math.hypot(across, down)
    if abs(down) < 2.0 or rings.angle_deg > 60 or far > 3 * columns:
        return ()
    return (1.0 if down < 0 else 2.0, round(far, 0))


def _of_edge(image: NDArray[Any], piece: Piece, photo: Photo) -> list[Suggestion]:
    """Run-out from an edge: lines that climb toward face 1 to the right. The far edge is seen from the other side of the wood."""
    picture, _rect, scale = squared(image, piece, photo)
    tall = picture if picture.shape[0] >= 40 * scale else None
    try:
        slope = slope_of_grain(tall if tall is not None else _stacked(picture, scale), scale)
    except ValueError:
        return []
    text = f"on the edge lines climb {slope.slope_deg:.1f}° toward face 1"
    return [
        Suggestion(
            id="slope?",
            what="slope",
            confidence=round(slope.confidence * 0.9, 2),
            face="edge",
            figures=(round(slope.slope_deg, 2),),
            text=text,
        )
    ]


def _stacked(picture: NDArray[Any], scale: float) -> NDArray[Any]:
    """A thin edge mirrored upon itself would lie about its slope; it is repeated instead, with its own rows."""
    import numpy as np

    times = int(np.ceil(40 * scale / max(1, picture.shape[0]))) + 1
    return np.concatenate([picture] * times, axis=0)
