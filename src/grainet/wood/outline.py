"""Whether a ring of points can be an outline: enough points, none too far out, some area, no crossing of itself.

One check for everything that is read from outside (stock, jobs, the shop's own file) and for everything that is drawn.
"""

from __future__ import annotations

from collections.abc import Iterable
from functools import lru_cache

from grainet.wood.value import FURTHEST_MM, Ring

MOST_POINTS = 5_000  # an edge traced every millimetre of a long plank has fewer
LEAST_AREA_MM2 = 1e-6
BY_HAND_TO = 40  # up to so many points plain arithmetic is quicker than bringing in the geometry library


@lru_cache(maxsize=2_000)
def ring_fault(ring: Ring) -> str | None:
    """What is wrong with a ring as an outline, as a sentence part; None when it is sound."""
    if len(ring) < 3:
        return f"has {len(ring)} points, at least 3"
    if len(ring) > MOST_POINTS:
        return f"has {len(ring)} points, at most {MOST_POINTS}"
    far = max(max(abs(x), abs(y)) for x, y in ring)
    if not far <= FURTHEST_MM:
        return f"reaches {far:.0f} mm out, at most {FURTHEST_MM:.0f}"
    if is_plain_box(ring):
        return None
    if len(ring) <= BY_HAND_TO and _plainly_sound(ring):
        return None
    return _told_by_geometry(ring)


def is_plain_box(outline: Ring) -> bool:
    """Whether an outline is four corners along the axes; plain comparisons, for it is asked of every piece of a rack."""
    if len(outline) != 4:
        return False
    (ax, ay), (bx, by), (cx, cy), (dx, dy) = outline
    if ay == by and bx == cx and cy == dy and dx == ax:
        return ax != bx and ay != cy
    return ax == bx and by == cy and cx == dx and dy == ay and ax != cx and ay != by


def _plainly_sound(ring: Ring) -> bool:
    """True only where no two edges come near touching and there is area; False leaves it to the geometry library."""
    edges = list(zip(ring, (*ring[1:], ring[0])))
    if abs(sum(ax * by - bx * ay for (ax, ay), (bx, by) in edges)) / 2 < 1.0 or any(a == b for a, b in edges):
        return False
    count = len(edges)
    for i, (a, b) in enumerate(edges):
        if _side(a, b, edges[(i + 1) % count][1]) == 0:  # a straight or doubled-back corner
            return False
        for j in range(i + 2, count - (i == 0)):
            c, d = edges[j]
            if _side(a, b, c) * _side(a, b, d) <= 0 and _side(c, d, a) * _side(c, d, b) <= 0:
                return False
    return True


def _side(a: tuple[float, float], b: tuple[float, float], p: tuple[float, float]) -> int:
    """On which side of a to b a point lies: 1, -1, or 0 where rounding could decide."""
    turn = (b[0] - a[0]) * (p[1] - a[1]) - (b[1] - a[1]) * (p[0] - a[0])
    return 0 if abs(turn) < 1e-6 else 1 if turn > 0 else -1


def _told_by_geometry(ring: Ring) -> str | None:
    from shapely.geometry import Polygon
    from shapely.validation import explain_validity

    polygon = Polygon(ring)
    if polygon.convex_hull.area < LEAST_AREA_MM2:
        return "encloses no area"
    if polygon.is_valid:
        return None
    text = explain_validity(polygon)
    if "[" not in text:
        return "crosses itself"
    x, y = (float(v) for v in text[text.index("[") + 1 : text.index("]")].split()[:2])
    return f"crosses itself near ({x:.0f}, {y:.0f})"


def sound_ring(points: Iterable[tuple[float, float]], places: int = 3) -> Ring | None:
    """A ring that was worked out (clipped, moved, traced), rounded, and mended where rounding made it touch itself.

    The largest part that is sound, else its hull; None where nothing with area is left.
    """
    ring = tuple((round(float(x), places), round(float(y), places)) for x, y in points)
    if len(ring) > 1 and ring[0] == ring[-1]:
        ring = ring[:-1]
    if ring_fault(ring) is None:
        return ring
    from shapely.geometry import Polygon

    if len(ring) < 3:
        return None
    whole = Polygon(ring).buffer(0)
    for shape in (max(getattr(whole, "geoms", [whole]), key=lambda g: g.area), Polygon(ring).convex_hull):
        if shape.geom_type == "Polygon" and not shape.is_empty:
            made = tuple((round(x, places), round(y, places)) for x, y in shape.exterior.coords[:-1])
            if ring_fault(made) is None:
                return made
    return None
