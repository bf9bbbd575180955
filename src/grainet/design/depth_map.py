"""How deep a body's shaping goes at every place, and what it lays open: the core under its top, a chamber, a cavity's floor.

Ours: depths cut from the front and from the back on a grid of places, held against the top's glue line, the chambers under it and the
cavities' floors.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property
from typing import TYPE_CHECKING, Literal

import numpy as np
from numpy.typing import NDArray

from grainet.design.instrument import Cavity, Instrument
from grainet.design.let_in import recess_mm, top_outline
from grainet.design.shaping import Shaping
from grainet.kept import kept_per_value
from grainet.wood.value import Point

if TYPE_CHECKING:
    from shapely import Polygon

Array = NDArray[np.float64]
Mask = NDArray[np.bool_]
STEP_MM = 1.0  # between the places of the map
SHOWS_MM2 = 30.0  # a ribbon of less is a scratch


@dataclass(frozen=True)
class Opened:
    """Something that the shaping lays open: what it is, how much of it, how wide at its widest, and where."""

    what: Literal["core", "top", "through", "chamber", "floor"]
    name: str
    area_mm2: float
    at: Point


@dataclass(frozen=True)
class DepthMap:
    """Depths cut from the front and from the back, mm, rows along y, columns along x; nought beside the body (``inside``)."""

    instrument: Instrument
    x: Array
    y: Array
    inside: Mask
    front: Array
    back: Array
    top: Array  # how deep the top's glue line lies under the face; nought where no top lies

    @cached_property
    def left(self) -> Array:
        """What is left of the body's thickness."""
        return np.asarray(self.instrument.body.thickness_mm - self.front - self.back)

    @cached_property
    def core_shows(self) -> Mask:
        """Where the core shows in front, though a top covers it."""
        return np.asarray(self.inside & (self.top > 0) & (self.front > self.top + 1e-9))

    @cached_property
    def top_shows(self) -> Mask:
        """Where the top shows behind, though the core covers it."""
        return np.asarray(self.inside & (self.top > 0) & (self.back > self.instrument.body.thickness_mm - self.top + 1e-9))

    @property
    def least_top_mm(self) -> float:
        """The thinnest top that the front's shaping does not go through."""
        covered = self.front[self.inside & (self.top > 0)]
        return float(covered.max()) if covered.size else 0.0

    @property
    def removed_mm3(self) -> tuple[float, float]:
        """What the shaping takes from the top, and from the rest."""
        of_top = float(np.minimum(self.front, self.top)[self.inside].sum()) * STEP_MM**2
        return of_top, float((self.front + self.back)[self.inside].sum()) * STEP_MM**2 - of_top

    def within(self, cavity: Cavity) -> Mask:
        """The places over a cavity."""
        import shapely

        grid = np.meshgrid(self.x, self.y)
        return np.asarray(shapely.contains_xy(shapely.Polygon(cavity.polygon), *grid) & self.inside)

    def opened(self) -> list[Opened]:
        """What is laid open, the worst first."""
        found = [self._told("through", "", self.inside & (self.left <= 1e-9))]
        for cavity in self.instrument.body.cavities:
            here = self.within(cavity)
            closed = is_chamber(cavity, self.instrument)
            if closed:
                found.append(self._told("chamber", cavity.name, here & (self.front > self.top + 1e-9)))
            floor = self.instrument.body.thickness_mm - cavity.depth_mm - (self.top if closed else 0.0)
            found.append(self._told("floor", cavity.name, here & (self.back > floor + 1e-9)))
        found += [self._told("core", "", self.core_shows), self._told("top", "", self.top_shows)]
        return [one for one in found if one.area_mm2 >= SHOWS_MM2]

    def _told(self, what: Literal["core", "top", "through", "chamber", "floor"], name: str, where: Mask) -> Opened:
        rows, columns = np.nonzero(where)
        if not rows.size:
            return Opened(what, name, 0.0, (0.0, 0.0))
        depth = (self.front + self.back)[rows, columns]
        worst = int(np.argmax(depth))
        return Opened(what, name, rows.size * STEP_MM**2, (float(self.x[columns[worst]]), float(self.y[rows[worst]])))

    def least_left(self) -> tuple[float, Point]:
        """The thinnest place, and where it is, cavities not reckoned."""
        left = np.where(self.inside, self.left, np.inf)
        row, column = np.unravel_index(int(np.argmin(left)), left.shape)
        return float(left[row, column]), (float(self.x[column]), float(self.y[row]))

    def joint_shows_mm(self) -> float:
        """How much of the body's joint on the centre line lies in the open core, mm along it."""
        middle = int(np.argmin(np.abs(self.y)))
        return float(self.core_shows[middle].sum()) * STEP_MM

    def across(self, x_mm: float) -> list[tuple[float, float, float, float]]:
        """A section at a place: (y, front's depth, back's depth, the top's glue line), bass last; empty beside the body."""
        column = int(np.argmin(np.abs(self.x - x_mm)))
        if abs(self.x[column] - x_mm) > STEP_MM:
            return []
        rows = np.nonzero(self.inside[:, column])[0]
        return [
            (float(self.y[r]), float(self.front[r, column]), float(self.back[r, column]), float(self.top[r, column]))
            for r in rows
        ]


def is_chamber(cavity: Cavity, g: Instrument) -> bool:
    """Whether a cavity is closed by the top: its name says so, and there is a top."""
    return g.body.cap_mm > 0 and "chamber" in cavity.name.lower()


@kept_per_value()
def depth_map(g: Instrument) -> DepthMap:
    """The depth map of a body, every millimetre."""
    import shapely  # not at the start of the window

    ring = shapely.Polygon(g.body.outline)
    x0, y0, x1, y1 = ring.bounds
    x = np.arange(x0 + STEP_MM / 2, x1, STEP_MM)
    half = max(-y0, y1)
    y = np.arange(-np.ceil(half / STEP_MM) * STEP_MM, half + STEP_MM, STEP_MM)  # one row lies on the centre line
    grid_x, grid_y = np.meshgrid(x, y)
    shapely.prepare(ring)
    inside = np.asarray(shapely.contains_xy(ring, grid_x, grid_y))
    reach = max((s.in_mm or s.deep_mm for s in g.body.shaping if s.kind != "contour"), default=0.0)
    away = _from_the_rim(ring, inside, grid_x, grid_y, reach)
    depths = {side: np.zeros_like(grid_x) for side in (False, True)}
    for one in g.body.shaping:
        depth = _depth(one, away, grid_x, grid_y, np.array(g.body.outline))
        depths[one.back] = np.maximum(depths[one.back], np.where(inside, depth, 0.0))
    top = np.zeros_like(grid_x)
    if g.body.cap_mm:
        covered = shapely.contains_xy(shapely.Polygon(top_outline(g)), grid_x, grid_y) if g.body.rim_mm else inside
        top[covered & inside] = recess_mm(g) or g.body.cap_mm
    return DepthMap(g, x, y, inside, depths[False], depths[True], top)


def _from_the_rim(ring: Polygon, inside: Mask, x: Array, y: Array, reach: float) -> Array:
    """How far every place lies from the rim, exact as far as ``reach``; roughly beyond it."""
    import shapely
    from scipy.ndimage import distance_transform_edt

    if not reach:
        return np.zeros_like(x)
    away = np.asarray(distance_transform_edt(np.pad(inside, 1)))[1:-1, 1:-1] * STEP_MM
    near = inside & (away < reach + 2 * STEP_MM)
    rim = ring.exterior
    shapely.prepare(rim)
    away[near] = shapely.distance(rim, shapely.points(x[near], y[near]))
    return away


def _depth(one: Shaping, away: Array, x: Array, y: Array, outline: Array) -> Array:
    if one.kind == "contour":
        return _contour(one, x, y, outline)
    reach = one.in_mm or one.deep_mm
    share = np.clip(1 - away / reach, 0.0, 1.0)
    return np.asarray(one.deep_mm * (share if one.kind == "bevel" else (1 - np.cos(np.pi * share)) / 2))


def _contour(one: Shaping, x: Array, y: Array, outline: Array) -> Array:
    """A flat cut that begins at its line and falls away from it to the rim's farthest place."""
    if one.line is None:
        return np.zeros_like(x)
    (ax, ay), (bx, by) = one.line
    long = max(float(np.hypot(bx - ax, by - ay)), 1e-9)

    def beyond(px: Array, py: Array) -> Array:
        return np.asarray(((bx - ax) * (py - ay) - (by - ay) * (px - ax)) / long)

    rim, here = beyond(outline[:, 0], outline[:, 1]), beyond(x, y)
    if rim.max() > -rim.min():  # the smaller side of it
        rim, here = -rim, -here
    farthest = float(rim.max())
    return np.asarray(one.deep_mm * np.clip(here / farthest, 0.0, 1.0)) if farthest > 0 else np.zeros_like(x)
