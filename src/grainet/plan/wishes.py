"""Flaws that are kept on purpose and figure that shall be seen: which places serve a wish, and where to look for them."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from grainet.design.part import FigureWish, KeptFlaw, Part
from grainet.fit.board_geometry import BoardGeometry
from grainet.fit.orientation import Orientation
from grainet.wood.piece import Piece

Array = NDArray[np.float64]
Wish = KeptFlaw | FigureWish
SLACK_MM2 = 1e-3
TRIED = 7  # places each way


def wishes_of(part: Part) -> tuple[Wish, ...]:
    """Everything of the wood that at least one copy of a part shall show or bear."""
    return (*part.keep, *part.figure)


def wanted_shape(wish: Wish, piece: Piece) -> Polygon:
    """What shall lie in the zone."""
    if isinstance(wish, FigureWish):
        return Polygon(wish.polygon)
    return Polygon(next(d.polygon for d in piece.defects if d.id == wish.defect))


def zone_at(orientation: Orientation, wish: Wish, x: float = 0.0, y: float = 0.0) -> BaseGeometry:
    """The zones that a wish asks for, where a part lies."""
    shape = shapely.union_all([p.shape for p in orientation.patches if p.kind == wish.zone])
    return shapely.transform(shape, lambda c: c + (x, y))


def serves(wish: Wish, piece: Piece, orientation: Orientation, x: float, y: float) -> bool:
    """Whether a place on a piece serves a wish."""
    if wish.piece != piece.id:
        return False
    shape = wanted_shape(wish, piece)
    inside = zone_at(orientation, wish, x, y).intersection(shape).area
    share = wish.share if isinstance(wish, FigureWish) else 1.0
    return bool(inside >= share * shape.area - SLACK_MM2)


def wished_shifts(sheet: BoardGeometry, orientation: Orientation) -> Array:
    """Shifts at which what is wished for comes to lie in its zone, by their boxes, spread over all that do: shape (n, 2)."""
    found = [np.empty((0, 2))]
    for wish in wishes_of(orientation.part):
        zone = zone_at(orientation, wish)
        if wish.piece == sheet.piece.id and not zone.is_empty:
            found.append(np.array(list(_over(wanted_shape(wish, sheet.piece).bounds, zone.bounds))))
    return np.concatenate(found)


def _over(target: tuple[float, ...], zone: tuple[float, ...]) -> Iterator[tuple[float, float]]:
    """Shifts that bring a box over another one, or, where it is the larger, across it."""
    for x in np.linspace(target[2] - zone[2], target[0] - zone[0], TRIED):
        for y in np.linspace(target[3] - zone[3], target[1] - zone[1], TRIED):
            yield float(x), float(y)
