"""Turning a piece: end for end, rolled over, or both. Every reading, mark, grain fact and photo goes with the wood.

A half turn about the upright axis swaps the ends and keeps face 1 up: a face's slope stays, fibres that rose to the right now
rise to the left, so the planing direction turns round. Rolling about the long axis swaps the faces: the slope is seen from
behind and changes sign, and the face now up planes the other way. Both together (over the end) leave the planing direction.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from grainet.wood.piece import Piece
from grainet.wood.value import Ring

_OTHER_FACE = {"1": "2", "2": "1"}
_OTHER_END = {"far": "marked", "marked": "far"}
_ENDS = {"marked_end": "far_end", "far_end": "marked_end", "near_edge": "far_edge", "far_edge": "near_edge"}
_ROLLED = {"face1": "face2", "face2": "face1", "near_edge": "far_edge", "far_edge": "near_edge"}


def turned_end_for_end(piece: Piece) -> Piece:
    """The same wood with its other end at the left, face 1 still up: (x, y) becomes (L - x, W - y)."""
    x0, y0, x1, y1 = piece.extents
    sx, sy = x0 + x1, y0 + y1

    def ring(points: Ring) -> Ring:
        return tuple((round(sx - x, 6), round(sy - y, 6)) for x, y in points)

    angles = piece.ring_angle_deg
    return _moved(piece, lambda x, y: (sx - x, sy - y), ring).changed(
        ring_angle_deg=(angles[1], angles[0]) if angles else None,
        planing=_OTHER_END.get(piece.planing, piece.planing),
        runout_deg=None if piece.runout_deg is None else -piece.runout_deg or 0.0,
        **_picture(piece, (True, True, False)),
        defects=tuple(
            d.changed(polygon=ring(d.polygon), ends_closed=(d.ends_closed[1], d.ends_closed[0]) if d.ends_closed else None)
            for d in piece.defects
        ),
        photos=tuple(p.changed(side=_ENDS.get(p.side, p.side), points=_points(p, sx, sy, piece, "end")) for p in piece.photos),
        width_stations=tuple(
            sorted(
                (w.changed(x_mm=round(sx - w.x_mm, 6), far_mm=w.near_mm, near_mm=w.far_mm) for w in piece.width_stations),
                key=lambda w: w.x_mm,
            )
        ) if _line_read(piece) else tuple(
            sorted((w.changed(x_mm=round(sx - w.x_mm, 6)) for w in piece.width_stations), key=lambda w: w.x_mm)
        ),
    )  # fmt: skip


def rolled_over(piece: Piece) -> Piece:
    """The same wood with face 2 up, the marked end still at the left: y becomes W - y, face 1 becomes face 2."""
    _x0, y0, _x1, y1 = piece.extents
    sy = y0 + y1
    thickness = max((s.thickness_mm for s in piece.stations), default=0.0)

    def ring(points: Ring) -> Ring:
        return tuple((x, round(sy - y, 6)) for x, y in points)

    tops = [s.thickness_mm - s.top_mm for s in piece.stations if s.top_mm is not None]
    low = min(tops, default=thickness)
    moved = _moved(piece, lambda x, y: (x, sy - y), ring)
    return moved.changed(
        stations=tuple(
            new.changed(top_mm=None if old.top_mm is None else round(old.thickness_mm - old.top_mm - low, 6))
            for old, new in zip(piece.stations, moved.stations)
        ),
        grain_slope_deg=None if piece.grain_slope_deg is None else -piece.grain_slope_deg or 0.0,
        planing=_OTHER_END.get(piece.planing, piece.planing),
        runout_deg=None if piece.runout_deg is None else -piece.runout_deg or 0.0,
        **_picture(piece, (False, True, True)),
        hollow_face=_OTHER_FACE.get(piece.hollow_face, ""),
        heart_face=_OTHER_FACE.get(piece.heart_face, ""),
        defects=tuple(d.changed(polygon=ring(d.polygon), face=_OTHER_FACE.get(d.face, d.face)) for d in piece.defects),
        figure=tuple(
            f.changed(polygon=ring(f.polygon), face=_OTHER_FACE.get(f.face, f.face), angle_deg=-f.angle_deg or 0.0)
            for f in piece.figure
        ),
        sweeps=tuple(s.changed(face=_OTHER_FACE[s.face]) for s in piece.sweeps),
        skims=tuple(s.changed(face=_OTHER_FACE[s.face]) for s in piece.skims),
        layers=tuple(reversed(piece.layers)),
        photos=tuple(p.changed(side=_ROLLED.get(p.side, p.side), points=_points(p, 0.0, sy, piece, "roll")) for p in piece.photos),
        suggestions=tuple(s.changed(polygon=ring(s.polygon), face=_OTHER_FACE.get(s.face, s.face)) for s in moved.suggestions),
        width_stations=tuple(w.changed(far_mm=w.near_mm, near_mm=w.far_mm) for w in piece.width_stations)
        if _line_read(piece)
        else piece.width_stations,
    )  # fmt: skip


def flipped_over_the_end(piece: Piece) -> Piece:
    """Both at once: over the end, as one turns a page lying along the bench."""
    return rolled_over(turned_end_for_end(piece))


def _line_read(piece: Piece) -> bool:
    """Edges read up and down from a snapped line swap sides; plain widths do not."""
    return any(w.near_mm for w in piece.width_stations)


def _moved(piece: Piece, place: Any, ring: Callable[[Ring], Ring]) -> Piece:
    """Outline, readings, figure and suggestions at their new places."""

    def at(reading: Any) -> Any:
        x, y = place(reading.x_mm, reading.y_mm)
        return reading.changed(x_mm=round(x, 6), y_mm=round(y, 6))

    outline = ring(piece.outline)
    return piece.changed(
        outline=outline if _left_handed(outline) == _left_handed(piece.outline) else tuple(reversed(outline)),
        stations=tuple(at(s) for s in piece.stations),
        moisture=tuple(at(m) for m in piece.moisture),
        samples=tuple(s.changed(x_mm=round(max(0.0, place(s.x_mm, 0.0)[0]), 6)) for s in piece.samples),
        figure=tuple(f.changed(polygon=ring(f.polygon)) for f in piece.figure),
        suggestions=tuple(s.changed(polygon=ring(s.polygon)) for s in piece.suggestions),
        pictured_as=piece.pictured_as or piece.id,
    )


def _picture(piece: Piece, flips: tuple[bool, bool, bool]) -> dict[str, object]:
    """How the turned piece lies in the block that it is painted from: block place = at + sign * own place, per axis."""
    x0, y0, x1, y1 = piece.extents
    sums = (x0 + x1, y0 + y1, piece.least_thickness_mm or 0.0)
    at = [*piece.picture_at, piece.picture_depth_mm]
    sign = list(piece.picture_sign)
    for k in range(3):
        if flips[k]:
            at[k] += sign[k] * sums[k]
            sign[k] = -sign[k]
    return {"picture_at": (at[0], at[1]), "picture_depth_mm": at[2], "picture_sign": tuple(sign)}


def _left_handed(ring: Ring) -> bool:
    return sum(x0 * y1 - x1 * y0 for (x0, y0), (x1, y1) in zip(ring, (*ring[1:], *ring[:1]))) > 0


def _points(photo: Any, sx: float, sy: float, piece: Piece, way: str) -> Any:
    """The places of a photo's clicked points after the turn; depths are turned about the least thickness."""
    depth = piece.least_thickness_mm or 0.0
    moved = []
    for point in photo.points:
        u, v = point.u_mm or 0.0, point.v_mm
        if photo.side in ("face1", "face2"):
            u, v = (sx - u if way == "end" else u), sy - v
        elif photo.side in ("near_edge", "far_edge"):
            u, v = (sx - u, v) if way == "end" else (u, depth - v)
        elif photo.side in ("marked_end", "far_end"):
            u, v = sy - u, (v if way == "end" else depth - v)
        moved.append(point.changed(u_mm=None if point.u_mm is None else round(u, 6), v_mm=round(v, 6)))
    return tuple(moved)
