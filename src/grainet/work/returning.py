"""Offcuts become pieces on the rack again: outline, thickness, defects, readings, grain and parent carried over, clipped to
what is left."""

from __future__ import annotations

from shapely.geometry import Point, Polygon

from grainet.job.answer import Offcut
from grainet.wood.defects import Defect
from grainet.wood.figure import FigureZone
from grainet.wood.flatness import twist_over
from grainet.wood.outline import sound_ring
from grainet.wood.photo import Photo
from grainet.wood.piece import Flatness, MoistureReading, Piece, Station
from grainet.wood.piece_fields import after_cut
from grainet.wood.thickness import ThicknessField
from grainet.wood.value import Ring

LEAST_DEFECT_MM2 = 1.0


def offcut_piece(parent: Piece, offcut: Offcut, number: str) -> Piece:
    """The piece that an offcut is, in axes of its own: x and y from its own lower left, marked end toward the parent's.

    Mass is the parent's share by volume; bow and crook shrink with the square of the length.
    """
    shape = Polygon(offcut.polygon)
    x0, y0, x1, y1 = shape.bounds
    px0, py0, px1, py1 = parent.extents
    through = offcut.depth_mm <= 0 and abs(offcut.thickness_mm - _least_under(parent, offcut.polygon)) < 0.5
    sign, (at_x, at_y) = parent.picture_sign, parent.picture_at
    heart_face, heart_mm = _heart(parent, offcut)
    return after_cut(parent, {
        "id": number, "kind": "offcut", "racked": False,
        "outline": sound_ring((x - x0, y - y0) for x, y in offcut.polygon) or (),
        "thickness_mm": None if through and parent.stations else round(offcut.thickness_mm, 2),
        "stations": _stations(parent, shape, x0, y0) if through else (),
        "heart_face": heart_face, "heart_mm": heart_mm,
        "flatness": _flatness(parent.flatness, (x1 - x0, y1 - y0), (px1 - px0, py1 - py0)),
        "mass_kg": _mass(parent, shape, offcut.thickness_mm),
        "moisture": _readings(parent, shape, x0, y0, offcut),
        "defects": _defects(parent, shape, x0, y0, offcut),
        "figure": _figure(parent, shape, x0, y0, offcut),
        "photos": _photos(parent, offcut, x0, y0),
        "layers": parent.layers if through else (),
        "parent": parent.id, "parent_outline": sound_ring(offcut.polygon, 6) or (), "pictured_as": parent.pictured_as or parent.id,
        "picture_at": (at_x + sign[0] * x0, at_y + sign[1] * y0),
        "picture_depth_mm": parent.picture_depth_mm + sign[2] * offcut.depth_mm,
        "supply": parent.supply.changed(price=None, surprises=()),  # where it came from stays with the wood, what was paid does not
    })  # fmt: skip


def _heart(parent: Piece, offcut: Offcut) -> tuple[str, float | None]:
    """On which side of what is left the pith lies, and how far: a leaf beyond it has it on the other face."""
    if not parent.heart_face or parent.heart_mm is None:
        return parent.heart_face, parent.heart_mm
    middle, new = (parent.least_thickness_mm or 0.0) / 2, offcut.depth_mm + offcut.thickness_mm / 2
    depth = middle + (parent.heart_mm if parent.heart_face == "2" else -parent.heart_mm)
    return ("2" if depth >= new else "1"), round(abs(depth - new), 1)


def _least_under(parent: Piece, ring: Ring) -> float:
    import numpy as np

    return ThicknessField.of(parent).least_under(np.asarray(ring, float))


def _moved(ring: Ring, dx: float, dy: float) -> Ring:
    return tuple((round(x + dx, 3), round(y + dy, 3)) for x, y in ring)


def _stations(parent: Piece, shape: Polygon, x0: float, y0: float) -> tuple[Station, ...]:
    """The parent's stations on the offcut, and readings of its field at the corners, so that nothing is lost at the rim."""
    field = ThicknessField.of(parent)
    kept = [
        s.changed(x_mm=s.x_mm - x0, y_mm=s.y_mm - y0, top_mm=None) for s in parent.stations if shape.covers(Point(s.x_mm, s.y_mm))
    ]
    bx0, by0, bx1, by1 = shape.bounds
    for x, y in ((bx0, by0), (bx1, by0), (bx1, by1), (bx0, by1)):
        place = (round(x - x0, 3), round(y - y0, 3))
        if not any((s.x_mm, s.y_mm) == place for s in kept):
            kept.append(Station(x_mm=place[0], y_mm=place[1], thickness_mm=round(float(field.at(x, y)), 2)))
    return tuple(kept)


def _flatness(flat: Flatness, part: tuple[float, float], whole: tuple[float, float]) -> Flatness:
    """What is left of bow, cup, crook and twist over a smaller length and width; each counts from the span that it was read over."""
    bow, crook = part[0] / (flat.bow_span_mm or whole[0]), part[0] / (flat.crook_span_mm or whole[0])
    cup = part[1] / (flat.cup_span_mm or whole[1])
    return Flatness(
        bow_mm=round(flat.bow_mm * bow**2, 2), crook_mm=round(flat.crook_mm * crook**2, 2),
        cup_mm=round(flat.cup_mm * cup**2, 2), rock_mm=round(twist_over(flat, *part, *whole), 2), crook_in_outline=flat.crook_in_outline,
    )  # fmt: skip


def _mass(parent: Piece, shape: Polygon, thickness_mm: float) -> float | None:
    if parent.mass_kg is None:
        return None
    import numpy as np

    field = ThicknessField.of(parent)
    px0, py0, px1, py1 = parent.extents
    grid = np.meshgrid(np.linspace(px0, px1, 25), np.linspace(py0, py1, 7))
    whole = Polygon(parent.outline).area * float(field.at(*grid).mean())
    return float(round(max(0.001, parent.mass_kg * shape.area * thickness_mm / whole), 3))


def _readings(parent: Piece, shape: Polygon, x0: float, y0: float, offcut: Offcut) -> tuple[MoistureReading, ...]:
    """Readings taken on this part of the parent; where there was none, the nearest one stands for it."""
    own = [r for r in parent.moisture if shape.covers(Point(r.x_mm, r.y_mm))]
    if not own and parent.moisture:
        own = [min(parent.moisture, key=lambda r: shape.distance(Point(r.x_mm, r.y_mm)))]
    bx0, by0, bx1, by1 = shape.bounds
    return tuple(
        r.changed(x_mm=round(min(max(r.x_mm, bx0), bx1) - x0, 1), y_mm=round(min(max(r.y_mm, by0), by1) - y0, 1)) for r in own
    )


def _figure(parent: Piece, shape: Polygon, x0: float, y0: float, offcut: Offcut) -> tuple[FigureZone, ...]:
    """Figure zones that reach into the offcut; figure goes deep, so a resawn leaf keeps what lay on its near face."""
    kept = []
    for zone in parent.figure:
        met = Polygon(zone.polygon).intersection(shape)
        whole = max((g for g in getattr(met, "geoms", [met]) if isinstance(g, Polygon)), key=lambda g: g.area, default=None)
        if whole is not None and whole.area >= LEAST_DEFECT_MM2:
            ring = sound_ring((x - x0, y - y0) for x, y in whole.exterior.coords[:-1])
            kept += [zone.changed(polygon=ring)] if ring else []
    return tuple(kept)


def _photos(parent: Piece, offcut: Offcut, x0: float, y0: float) -> tuple[Photo, ...]:
    """The parent's true face photos go on showing what is left of those faces; edges and ends are new wood."""
    least = _least_under(parent, offcut.polygon)
    sides = (["face1"] if offcut.depth_mm <= 0.01 else []) + (
        ["face2"] if offcut.depth_mm + offcut.thickness_mm >= least - 0.5 else []
    )
    return tuple(
        p.changed(
            points=tuple(
                q.changed(u_mm=None if q.u_mm is None else round(q.u_mm - x0, 6), v_mm=round(q.v_mm - y0, 6)) for q in p.points
            )
        )
        for p in parent.photos
        if p.side in sides and p.is_true
    )


def _defects(parent: Piece, shape: Polygon, x0: float, y0: float, offcut: Offcut) -> tuple[Defect, ...]:
    """Troubles that reach into the offcut, clipped to it and to its depth."""
    kept: list[Defect] = []
    least = _least_under(parent, offcut.polygon)
    top, bottom = offcut.depth_mm, offcut.depth_mm + offcut.thickness_mm
    for defect in parent.defects:
        met = Polygon(defect.polygon).intersection(shape)
        whole = max((g for g in getattr(met, "geoms", [met]) if isinstance(g, Polygon)), key=lambda g: g.area, default=None)
        if whole is None or whole.area < LEAST_DEFECT_MM2:
            continue
        ring = sound_ring((x - x0, y - y0) for x, y in whole.exterior.coords[:-1])
        if ring is None:
            continue
        changes: dict[str, object] = {"polygon": ring}
        if defect.depth_mm is not None and defect.face in ("1", "2"):
            low, high = (0.0, defect.depth_mm) if defect.face == "1" else (least - defect.depth_mm, least)
            if high <= top or low >= bottom:
                continue
            changes["depth_mm"] = round(high - top if defect.face == "1" else bottom - low, 2)
        kept.append(defect.changed(**changes))
    return tuple(kept)
