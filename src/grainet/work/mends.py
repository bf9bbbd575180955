"""Places of mends: dowels across a crack that is kept, at even steps, clear of what is cut later; and what a joint leaves that is taken apart.

Sources: CAPABILITIES C101 and C106. Dowels stand at most 60 apart and none within 8 of a slot, a cavity or the outline.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from grainet.wood.value import Point, Ring

MOST_APART_MM, CLEAR_MM = 60.0, 8.0
STEP_MM = 2.0  # how finely a place is looked for along the crack


@dataclass(frozen=True)
class Dowel:
    """One dowel: where its middle crosses the crack, the direction that it is driven in (degrees from x), and its length, mm."""

    at: Point
    angle_deg: float
    long_mm: float


def dowels_across(crack: Ring, outline: Ring, obstacles: Sequence[Ring] = (), long_mm: float = 40.0) -> tuple[Dowel, ...]:
    """Dowels square to a crack along its whole length, at most 60 apart, each within the outline and 8 clear of it and of everything that
    is cut later. Where no place is left for 60 the next one after it is taken; none where there is no room at all."""
    from shapely.geometry import LineString, Polygon

    (ax, ay), (bx, by), wide = _axis(crack)
    long = math.hypot(bx - ax, by - ay)
    if long <= 0:
        return ()
    room = Polygon(outline).buffer(-CLEAR_MM)
    for one in obstacles:
        room = room.difference(Polygon(one).buffer(CLEAR_MM))
    ux, uy = (bx - ax) / long, (by - ay) / long
    reach = max(long_mm, wide + 20.0) / 2

    def fits(at_mm: float) -> bool:
        x, y = ax + ux * at_mm, ay + uy * at_mm
        return bool(room.contains(LineString([(x - uy * reach, y + ux * reach), (x + uy * reach, y - ux * reach)])))

    able = [k * STEP_MM for k in range(int(long / STEP_MM) + 1) if fits(k * STEP_MM)]
    chosen: list[float] = []
    while able:
        if not chosen:
            chosen.append(able[0])
        nearest = [v for v in able if chosen[-1] < v <= chosen[-1] + MOST_APART_MM]
        beyond = [v for v in able if v > chosen[-1] + MOST_APART_MM]
        if nearest and (beyond or nearest[-1] > chosen[-1] + MOST_APART_MM / 2):
            chosen.append(nearest[-1])
        elif beyond:
            chosen.append(beyond[0])
        else:
            break
    angle = math.degrees(math.atan2(ux, -uy)) % 180
    return tuple(Dowel((round(ax + ux * v, 1), round(ay + uy * v, 1)), round(angle, 1), round(2 * reach, 1)) for v in chosen)


def _axis(ring: Ring) -> tuple[Point, Point, float]:
    """The long middle line of a shape, and how wide it is."""
    from shapely.geometry import Polygon

    box = Polygon(ring).minimum_rotated_rectangle
    corners = list(box.exterior.coords)[:4]
    sides = [(math.dist(corners[k], corners[(k + 1) % 4]), k) for k in range(2)]
    (long, k), (wide, _) = max(sides), min(sides)
    del long
    a, b, c, d = (corners[(k + n) % 4] for n in range(4))
    first = ((a[0] + d[0]) / 2, (a[1] + d[1]) / 2)
    last = ((b[0] + c[0]) / 2, (b[1] + c[1]) / 2)
    return (first, last, wide) if first <= last else (last, first, wide)


# a joint taken apart -------------------------------------------------------------------------------------------------------
Method = Literal["sawn", "heated", "planed off"]


@dataclass(frozen=True)
class Apart:
    """What each member of a joint has left in the direction across it, mm; None where it is gone."""

    method: Method
    first_mm: float | None
    second_mm: float | None


def taken_apart(first_mm: float, second_mm: float, method: Method, *, kerf_mm: float, clean_up_mm: float) -> Apart:
    """Two members that met at a seam, each so wide (at an edge) or thick (at a face): sawn along the seam each loses half the kerf and one
    clean-up, heated apart one clean-up, planed off the second one is gone and the first loses one clean-up. Raises ValueError where nothing
    would be left."""
    if method == "planed off":
        found = Apart(method, first_mm - clean_up_mm, None)
    else:
        loss = clean_up_mm + (kerf_mm / 2 if method == "sawn" else 0.0)
        found = Apart(method, first_mm - loss, second_mm - loss)
    if any(left is not None and left <= 0 for left in (found.first_mm, found.second_mm)):
        raise ValueError("nothing would be left of a member that is so thin")
    return found


def methods_for(glue_id: str) -> tuple[Method, ...]:
    """How a joint may be taken apart, by its glue: hide and white glues let go with warmth and moisture, the others are sawn or planed."""
    return ("heated", "sawn", "planed off") if glue_id in ("hide", "liquid_hide", "white", "yellow") else ("sawn", "planed off")
