"""The block that is sawn for a part: its outline with the wood that stays on beyond a joint edge and beyond its sides."""

from __future__ import annotations

import itertools
import math

import shapely
from shapely import affinity
from shapely.geometry import Polygon
from shapely.geometry.base import BaseGeometry

from grainet.design.part import Part


def block_of(part: Part) -> Polygon:
    """The block as the part is drawn, mm; the outline itself where nothing stays on."""
    outline = Polygon(part.ring)
    if not part.has_block:
        return outline
    allow = part.allowance_mm
    shape: BaseGeometry = outline
    for steps in (((-allow.left, 0.0), (allow.right, 0.0)), ((0.0, -allow.near), (0.0, allow.far))):
        shape = shapely.union_all([shape, *(s for dx, dy in steps if dx or dy for s in swept(shape, dx, dy))])
    if (strip := joint_strip(part)) is not None:
        shape = shapely.union_all([shape, strip])
    return shape if isinstance(shape, Polygon) else shape.convex_hull


def joint_strip(part: Part) -> Polygon | None:
    """What lies between a part's joint edge and the line ``joint_mm`` beyond it; None where no wood is kept there."""
    if part.joint_edge is None or part.joint_mm <= 0:
        return None
    (ax, ay), (bx, by) = part.joint_edge
    size = math.hypot(bx - ax, by - ay)
    nx, ny = (by - ay) / size, (ax - bx) / size
    middle = Polygon(part.ring).representative_point()
    if (middle.x - ax) * nx + (middle.y - ay) * ny > 0:  # away from the part
        nx, ny = -nx, -ny
    dx, dy = nx * part.joint_mm, ny * part.joint_mm
    return Polygon([(ax, ay), (bx, by), (bx + dx, by + dy), (ax + dx, ay + dy)])


def swept(shape: BaseGeometry, dx: float, dy: float) -> list[BaseGeometry]:
    """What a shape passes over when it moves by (dx, dy), in pieces; the shape where it ends among them."""
    found: list[BaseGeometry] = []
    for polygon in (g for g in getattr(shape, "geoms", [shape]) if isinstance(g, Polygon)):
        ring = list(polygon.exterior.coords)
        quads = [Polygon([a, b, (b[0] + dx, b[1] + dy), (a[0] + dx, a[1] + dy)]) for a, b in itertools.pairwise(ring)]
        found += [*(shapely.make_valid(q) for q in quads if q.area > 0), affinity.translate(polygon, dx, dy)]
    return found
