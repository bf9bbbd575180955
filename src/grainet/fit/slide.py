"""A rectangle slid along a rectangular board whose troubles are boxes: every place at once, exactly, without a raster.

Most boards of a rack are such boards, and a rack of thousands is judged by it. What is not box-like is left to the fields.
"""

from __future__ import annotations

import itertools
from collections.abc import Sequence

from shapely.geometry.base import BaseGeometry

from grainet.fit.board_geometry import BoardGeometry
from grainet.fit.exact import Exact
from grainet.fit.field import depths_to_try, forbidding_names
from grainet.fit.orientation import Orientation
from grainet.wood.outline import is_plain_box

BOX_SHARE = 0.75  # a trouble that fills so much of its box counts as the box: a round knot does, a slanting crack does not
THIN_MM = 3.0  # a crack this thin along or across counts as its box whatever it fills
Run = tuple[float, float]
Box = tuple[float, float, float, float]


def slides(sheet: BoardGeometry, orientations: Sequence[Orientation]) -> list[Run] | None:
    """Runs (first and last x of the part's lower left corner) over all ways of lying; None where this cannot tell.

    Sound: a place that exact geometry refuses is never in a run. Where the board has troubles, ways must be rectangles that
    tolerate alike all over.
    """
    if not is_plain_box(sheet.piece.outline):
        return None
    touching = [h for h in sheet.hazards if h.polygon.intersects(sheet.outline)]
    spotless = not touching and sheet.metal is None  # then any outline lies wherever its box does
    if not spotless and any(not w.rectangular or len(w.patches) != 1 for w in orientations):
        return None
    if not all(_boxlike(h.polygon) for h in touching):
        return None
    boxes = {h.id: h.polygon.bounds for h in touching}
    found: list[Run] = []
    for orientation in orientations:
        exact = Exact(sheet, orientation)
        if exact.size_trouble() is not None:
            continue
        if exact.need_mm > sheet.thickness.least + 1e-9:
            return None  # thin somewhere: only the field knows where
        if exact.width_wanted > sheet.width + 1e-6:
            continue
        room = sheet.usable.bounds
        metal = _metal(sheet, exact.metal_clear)
        patch = orientation.patches[0]
        tried: set[tuple[str, ...]] = set()
        for depth in depths_to_try(exact, touching):
            names = forbidding_names(exact, touching, patch.kind, both=patch.both_sides, depth=depth)
            if names not in tried:
                tried.add(names)
                found += _free(room, orientation.length, orientation.width, [*(boxes[n] for n in names), *metal])
    return _joined(found)


def _boxlike(shape: BaseGeometry) -> bool:
    x0, y0, x1, y1 = shape.bounds
    wide, high = x1 - x0, y1 - y0
    return bool(min(wide, high) <= THIN_MM or shape.area >= BOX_SHARE * wide * high)


def _metal(sheet: BoardGeometry, clear: float) -> list[Box]:
    found = []
    for defect in sheet.piece.live_metal:
        xs, ys = zip(*defect.polygon)
        found.append((min(xs) - clear, min(ys) - clear, max(xs) + clear, max(ys) + clear))
    return found


def _free(room: Box, length: float, width: float, boxes: Sequence[Box]) -> list[Run]:
    """Stretches of x in which some y keeps the rectangle off every box."""
    low, high = room[0], room[2] - length
    if high < low - 1e-9:
        return []
    cuts = {low, max(low, high)}
    for x0, _, x1, _ in boxes:
        cuts.update(v for v in (x0 - length, x1) if low < v < high)
    stops = sorted(cuts)
    found: list[Run] = []
    for a, b in itertools.pairwise(stops) if len(stops) > 1 else [(low, low)]:
        middle = (a + b) / 2
        active = sorted((y0, y1) for x0, y0, x1, y1 in boxes if x0 < middle + length - 1e-12 and x1 > middle + 1e-12)
        if _gap(room[1], room[3], active) >= width - 1e-9:
            found.append((a, b))
    return found


def _gap(low: float, high: float, taken: Sequence[tuple[float, float]]) -> float:
    """The widest free run between two heights, ``taken`` sorted by its lower ends."""
    best, at = 0.0, low
    for y0, y1 in taken:
        best = max(best, min(y0, high) - at)
        at = max(at, y1)
    return max(best, high - at)


def _joined(runs: Sequence[Run]) -> list[Run]:
    joined: list[Run] = []
    for a, b in sorted(runs):
        if joined and a <= joined[-1][1] + 1e-6:
            joined[-1] = (joined[-1][0], max(joined[-1][1], b))
        else:
            joined.append((a, b))
    return joined
