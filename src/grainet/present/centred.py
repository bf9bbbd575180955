"""A part whose machining program is centred on its stock: whether real stock, narrower than the program was written for, still serves."""

from __future__ import annotations

from dataclasses import dataclass
from functools import partial

import numpy as np
from shapely.geometry import LineString, Polygon, box

from grainet.fit.orientation import Orientation
from grainet.wood.piece import Piece
from grainet.wood.units import LengthStyle, tell_length

LEAST_SIDE_MM = 5.0  # what is wanted beside the part on either side, to clamp and to clean; judgement


@dataclass(frozen=True)
class Centred:
    """The part in the middle of its stock across: the stock's own width there, the room on either side, where its shift goes, and what lies
    in the part or outside it."""

    nominal_mm: float
    real_mm: float
    side_mm: float
    y: float
    inside: tuple[str, ...]
    outside: tuple[tuple[str, float], ...]  # and how far from the stock's nearer edge

    @property
    def word(self) -> str:
        """Passes, passes with little room, or does not."""
        if self.side_mm < 0 or self.inside:
            return "does not pass"
        return "passes" if self.side_mm >= LEAST_SIDE_MM else "passes with little to clamp"

    def told(self, style: LengthStyle = "mm") -> str:
        """It in a sentence."""
        as_read = partial(tell_length, style=style, form=".1f")
        room = f"{as_read(abs(self.side_mm))} {'missing' if self.side_mm < 0 else ''} on each side".replace("  ", " ")
        flaws = [f"{name} lies in the part" for name in self.inside]
        flaws += [f"{name}, {tell_length(mm, style)} from the edge, lies outside" for name, mm in self.outside]
        return (
            f"{as_read(self.real_mm)} wide here, the program needs {tell_length(self.nominal_mm, style, 'g')}: {room}; "
            + "; ".join([*flaws, self.word])
        )


def centred(piece: Piece, way: Orientation, x: float, nominal_mm: float) -> Centred | None:
    """A part that lies in a way at a shift along, in the middle of the wood across; None where no wood lies there."""
    bx0, by0, bx1, by1 = way.bounds
    wood = Polygon(piece.outline)
    x0, _, x1, _ = wood.bounds
    low, high = -np.inf, np.inf
    for at in np.linspace(max(x0, bx0 + x) + 1e-6, min(x1, bx1 + x) - 1e-6, 25):
        across = wood.intersection(LineString([(at, wood.bounds[1] - 1), (at, wood.bounds[3] + 1)]))
        if across.is_empty:
            return None
        low, high = max(low, across.bounds[1]), min(high, across.bounds[3])
    if high <= low:
        return None
    y = (low + high) / 2 - (by0 + by1) / 2
    shape = Polygon(way.at(x, y))
    stock = box(bx0 + x, low, bx1 + x, high)
    inside, outside = [], []
    for mark in piece.defects:
        spot = Polygon(mark.polygon).buffer(0)
        name = f"{mark.kind.replace('_', ' ')} {mark.id}"
        if spot.intersection(shape).area > 1e-6:
            inside.append(name)
        elif spot.intersects(stock):
            outside.append((name, float(min(abs(spot.bounds[1] - low), abs(high - spot.bounds[3])))))
    return Centred(nominal_mm, high - low, (high - low - (by1 - by0)) / 2, y, tuple(inside), tuple(outside))
