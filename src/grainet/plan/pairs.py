"""Places of two copies that lie together: folded about one rip, as mirror images, or slipped along one crosscut.

Places are sought for both as one shape; each copy then passes exact placement for itself.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

import numpy as np
import shapely
from numpy.typing import NDArray
from shapely import affinity
from shapely.geometry import LineString, Point, Polygon
from shapely.ops import nearest_points

from grainet.design.joint_edge import joint_of
from grainet.design.part import Part, Zone
from grainet.design.shape import placed
from grainet.fit.exact import Exact, ExactPlacement, Misfit
from grainet.fit.field import Layers
from grainet.fit.orientation import Orientation, orientations_of
from grainet.kit.cut_kit import CutKit
from grainet.plan.candidates import Candidate, candidates_as_laid
from grainet.wood.value import Ring

Array = NDArray[np.float64]
LINK_MM = 0.2  # half as wide as what holds the two copies together while places are sought for both


def pairs_for(
    layers: Layers, part: Part, others: Sequence[Part], most: int, effort: int
) -> tuple[list[Candidate], Misfit | None]:
    """Both copies of each place found, one after the other, and the nearest miss where there is none."""
    sheet = layers.sheet
    found: list[Candidate] = []
    nearest: Misfit | None = None
    for one in _orientations(part):
        whole = _as_one(part, one, sheet.kit)
        places: set[tuple[float, float]] = set()
        for seeker in (whole, _geometry_only(whole)):
            some, trouble = candidates_as_laid(layers, seeker, others, max(12, most // 4), effort, tilted=False)
            places |= {(c.seat.x, c.seat.y) for c in some}
            nearest = nearest or trouble
        for x, y in sorted(places):
            found += _pair(layers, part, one, x, y)
    return found, None if found else nearest or Misfit("outline", "no place found for both copies")


def _orientations(part: Part) -> Iterator[Orientation]:
    """The ways in which the first copy may lie: of a fold only along the board, for its copies mirror about a line along it."""
    for one in orientations_of(part):
        if not part.fold or one.angle_deg % 180 == 0:
            yield one


def mate_of(one: Orientation, kit: CutKit) -> tuple[Orientation, float, float]:
    """How the second copy lies, and how far its shift is from the first's, mm."""
    part = one.part
    if part.slip:
        x0, _, x1, _ = one.block_bounds
        return one, x1 - x0 + kit.kerf_mm.crosscut, 0.0
    joint = joint_of(part)
    assert joint is not None
    _, _, y, above = joint
    gap = kit.kerf_mm.rip + 2 * part.joint_mm
    line = y - gap / 2 if above else y + gap / 2
    dx, dy = placed(np.array([[0.0, 2 * line]]), 0, 0, one.angle_deg, turned_over=one.turned_over)[0]
    return Orientation(part, one.angle_deg, not one.mirror, one.face_up), float(dx), float(dy)


def _as_one(part: Part, one: Orientation, kit: CutKit) -> Part:
    """Both copies as one part, as they lie on the board, held together where they are nearest."""
    mate, dx, dy = mate_of(one, kit)
    first, second = one.block, affinity.translate(mate.block, dx, dy)
    held = (
        LineString(nearest_points(first, second)).buffer(LINK_MM, cap_style="square") if second.distance(first) > 0 else Point()
    )
    shape = shapely.union_all([first, second, held])
    assert isinstance(shape, Polygon)
    over = one.face_up == "2"  # laid on face 2 it is turned over once more
    zones = [
        Zone(kind=patch.kind, polygon=_ring(affinity.translate(g, *by), over=over), both_sides=patch.both_sides)
        for lies, by in ((one, (0.0, 0.0)), (mate, (dx, dy)))
        for patch in lies.patches
        for g in getattr(patch.shape, "geoms", [patch.shape])
        if isinstance(g, Polygon)
    ]
    return Part(
        id=part.id, outline=_ring(shape, over=over), thickness_mm=part.thickness_mm, turns_deg=(0.0,), faces_up=("2",) if over else ("1",),
        zones=(*zones, Zone(kind="removed", polygon="rest")),
    )  # fmt: skip


def _geometry_only(whole: Part) -> Part:
    """The same where only the outline and metal count: what bends or shows is asked of each copy for itself."""
    return whole.changed(thickness_mm=0.1, zones=(Zone(kind="removed", polygon="rest"),))


def _ring(shape: Polygon, *, over: bool) -> Ring:
    return tuple((float(x), -float(y) if over else float(y)) for x, y in shape.exterior.coords[:-1])


def _pair(layers: Layers, part: Part, one: Orientation, x: float, y: float) -> list[Candidate]:
    """Both copies at a shift of the first, where both hold."""
    sheet = layers.sheet
    mate, dx, dy = mate_of(one, sheet.kit)
    key = (part.id, sheet.piece.id, round(x, 5), round(y, 5), one.angle_deg, one.mirror, one.face_up)
    seats = [(o, Exact(sheet, o).seat(u, v)) for o, u, v in ((one, x, y), (mate, x + dx, y + dy))]
    if any(not isinstance(seat, ExactPlacement) for _, seat in seats):
        return []
    return [Candidate(part, sheet.piece.id, o, seat, key) for o, seat in seats if isinstance(seat, ExactPlacement)]
