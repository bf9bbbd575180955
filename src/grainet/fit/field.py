"""The fit field: for every place at once, whether a part may lie there, by correlating its zones with what each forbids.

Guarded (the default) it never accepts what exact geometry refuses; unguarded it also offers places that exact geometry
must still confirm. A place is the lower left corner of the part's extents, on the sheet's lattice.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
import scipy.fft
import shapely
from numpy.typing import NDArray
from shapely.geometry.base import BaseGeometry

from grainet.design.part import ZONE_ORDER, ZoneKind
from grainet.fit.board_geometry import BoardGeometry, Hazard
from grainet.fit.exact import Exact
from grainet.fit.orientation import Orientation
from grainet.fit.raster import Grid, Mask, allows, fill, forbids
from grainet.fit.tolerance import forbidden_depths

Complex = NDArray[np.complexfloating]
STEP_MM = 2.0
MOST_DEPTHS = 4  # depths of the cut that one field tries


@dataclass(frozen=True)
class Field:
    """``fits`` has shape (rows, columns): entry (j, i) is the part with its lower left extent at x0 + i step, y0 + j step."""

    grid: Grid
    orientation: Orientation
    fits: Mask
    covered: NDArray[np.float32]
    room: tuple[float, float, float, float]  # extents of the usable wood

    def shift(self, row: int, column: int) -> tuple[float, float]:
        """The placement shift (x, y) in mm of an entry."""
        return self.grid.x0 + column * self.grid.step - self.orientation.bounds[
            0
        ], self.grid.y0 + row * self.grid.step - self.orientation.bounds[1]

    def entry(self, x: float, y: float) -> tuple[int, int]:
        """The nearest entry (row, column) of a shift; may lie outside the field."""
        step = self.grid.step
        return round((y + self.orientation.bounds[1] - self.grid.y0) / step), round(
            (x + self.orientation.bounds[0] - self.grid.x0) / step
        )


class Layers:
    """The rasters of one sheet and their transforms, kept for all the parts that are tried on it."""

    def __init__(self, sheet: BoardGeometry, step: float = STEP_MM, guard: float = 1.0) -> None:
        self.sheet, self.guard = sheet, guard
        self.grid = Grid.over(sheet.outline.bounds, step)
        self._thick: NDArray[np.float64] | None = None
        self._masks: dict[str, Mask] = {}
        self._spectra: dict[object, Complex] = {}
        self._taken: Mask = np.zeros(self.grid.shape, bool)
        self._taken_version = 0

    @cached_property
    def free(self) -> Mask:
        """Pixels that lie on usable wood."""
        return allows(self.sheet.usable, self.grid, self.guard)

    def take(self, shape: BaseGeometry) -> None:
        """Mark a footprint with its kerf as no longer free."""
        self._taken = self._taken | forbids(shape, self.grid, self.guard)
        self._taken_version += 1

    def forget_transforms(self) -> None:
        """Free the transforms; the rasters stay and the transforms are made again when asked for."""
        self._spectra.clear()

    def forget(self) -> None:
        """Free all that can be made again: of a board on which nothing lies."""
        self._spectra.clear()
        self._masks.clear()
        self._thick = None
        self.__dict__.pop("free", None)

    def clear(self) -> None:
        """Forget every footprint that was taken."""
        self._taken = np.zeros(self.grid.shape, bool)
        self._taken_version += 1

    def _thickness(self) -> NDArray[np.float64]:
        """Least thickness in each pixel, guarded by the steepest slope across half a pixel."""
        if self._thick is None:
            x, y = self.grid.centres()
            values = self.sheet.thickness.at(*np.meshgrid(x, y))
            if not self.sheet.thickness.constant and self.guard:
                gy, gx = np.gradient(values) if min(values.shape) > 1 else (np.zeros_like(values), np.zeros_like(values))
                values = values - (np.abs(gx) + np.abs(gy)) - 1e-9
            self._thick = values
        return self._thick

    def _hazard(self, hazard: Hazard) -> Mask:
        if hazard.id not in self._masks:
            self._masks[hazard.id] = forbids(hazard.polygon, self.grid, self.guard)
        return self._masks[hazard.id]

    def union(self, names: tuple[str, ...]) -> Mask:
        """All pixels that any of the named hazards touches."""
        return np.asarray(np.logical_or.reduce([self._hazard(h) for h in self.sheet.hazards if h.id in names]))

    def _metal(self, clear: float) -> Mask | None:
        if self.sheet.metal is None:
            return None
        key = f"metal {clear}"
        if key not in self._masks:
            self._masks[key] = forbids(self.sheet.metal.buffer(clear), self.grid, self.guard)
        return self._masks[key]

    def need_mm(self, exact: Exact) -> float:
        """How thick the wood must be: guarded by the loss chain, else what an exact answer by heights may do with."""
        return exact.need_mm if self.guard else exact.least_mm

    def blocked(self, exact: Exact) -> Mask:
        """What no zone of the part may touch: outside, metal, wood that is too thin, wood already taken."""
        mask = ~self.free | self._taken
        if self.need_mm(exact) > self.sheet.thickness.least + 1e-9 and self.sheet.thickness.constant:
            return np.ones_like(mask)
        if not self.sheet.thickness.constant:
            mask = mask | (self._thickness() < self.need_mm(exact) - 1e-9)
        metal = self._metal(exact.metal_clear)
        return mask if metal is None else mask | metal

    def too_narrow(self, exact: Exact) -> NDArray[np.bool_]:
        """Per column: where the piece is narrower than the part needs over its length (crook)."""
        if not exact.width_wanted:
            return np.zeros(self.grid.columns, bool)
        xs, widths = self.sheet.chords
        edges = self.grid.x0 + np.arange(self.grid.columns + 1) * self.grid.step
        at_edges = np.interp(edges, xs, widths)
        return np.asarray(np.minimum(at_edges[:-1], at_edges[1:]) < exact.width_wanted - 1e-6)

    def spectrum(self, key: tuple[object, ...], mask: Mask, size: tuple[int, int]) -> Complex:
        """The transform of a layer, kept under its name; what is taken changes only the blocked layer's."""
        full = (key, size, self._taken_version if key[0] == "blocked" else 0)
        if full not in self._spectra:
            if len(self._spectra) > 6:
                self._spectra.clear()
            self._spectra[full] = scipy.fft.rfft2(mask.astype(np.float32), size)
        return self._spectra[full]


def fit_field(layers: Layers, orientation: Orientation, *, want_covered: bool = True) -> Field:
    """The field of one way of lying on one sheet; empty (0 x 0) where the part is larger than the piece.

    Without ``want_covered`` what a place covers may be left at 0, where that saves work.
    """
    exact = Exact(layers.sheet, orientation)
    grid = layers.grid
    own = Grid.over((orientation.bounds[0], orientation.bounds[1], orientation.bounds[2], orientation.bounds[3]), grid.step)
    rows, columns = grid.rows - own.rows + 1, grid.columns - own.columns + 1
    if rows < 1 or columns < 1 or (exact.size_trouble() is not None):
        return Field(grid, orientation, np.zeros((0, 0), bool), np.zeros((0, 0), np.float32), _room(layers))
    size = (scipy.fft.next_fast_len(grid.rows, real=True), scipy.fft.next_fast_len(grid.columns, real=True))
    blocked = layers.blocked(exact)
    fits = np.zeros((rows, columns), bool)
    covered = np.zeros((rows, columns), np.float32)
    touching = [h for h in layers.sheet.hazards if h.polygon.intersects(layers.sheet.outline)]
    if orientation.rectangular and (not touching or len(orientation.patches) == 1):
        fits, covered = _box_field(layers, exact, own, blocked, touching, want_covered=want_covered)
    else:
        whole = np.conj(scipy.fft.rfft2(_mask_of(orientation.polygon, own, layers.guard).astype(np.float32), size))
        base = layers.spectrum(("blocked", layers.need_mm(exact), exact.metal_clear), blocked, size) * whole
        zones = _zone_spectra(orientation, own, layers.guard, size) if touching else {}
        tried: set[tuple[tuple[str, ...], ...]] = set()
        for depth in depths_to_try(exact, touching):
            total = base
            standing = tuple(forbidding_names(exact, touching, kind, both=both, depth=depth) for kind, both in zones)
            if standing in tried:
                continue  # the same troubles stand in the way at this depth as at another
            tried.add(standing)
            for names, mask in zip(standing, zones.values()):
                if names:
                    total = total + layers.spectrum(("zone", names), layers.union(names), size) * np.conj(mask)
            hits = scipy.fft.irfft2(total, size)[:rows, :columns]
            fits |= hits < 0.5
        if touching and want_covered:
            anything = np.logical_or.reduce([layers._hazard(h) for h in touching])
            spectrum = layers.spectrum(("any",), anything, size) * whole
            covered = np.maximum(scipy.fft.irfft2(spectrum, size)[:rows, :columns], 0).astype(np.float32) * grid.step**2
    narrow = layers.too_narrow(exact)
    if narrow.any():
        fits &= _box_sums(narrow[None, :], (1, own.columns)) == 0
    return Field(grid, orientation, fits, covered, _room(layers))


def _box_field(
    layers: Layers, exact: Exact, own: Grid, blocked: Mask, touching: list[Hazard], *, want_covered: bool
) -> tuple[Mask, NDArray[np.float32]]:
    """The field of a rectangle whose wood all tolerates alike, by integral images: the same answer many times sooner."""
    step = layers.grid.step
    if not touching:
        fits = _box_sums(blocked, own.shape) == 0
        return fits, np.zeros(fits.shape, np.float32)
    patch = exact.orientation.patches[0]
    fits = np.zeros((0, 0), bool)
    tried: set[tuple[str, ...]] = set()
    for depth in depths_to_try(exact, touching):
        standing = forbidding_names(exact, touching, patch.kind, both=patch.both_sides, depth=depth)
        if standing in tried:
            continue
        tried.add(standing)
        free = _box_sums(blocked | layers.union(standing) if standing else blocked, own.shape) == 0
        fits = fits | free if fits.size else free
    if not want_covered:
        return fits, np.zeros(fits.shape, np.float32)
    anything = np.logical_or.reduce([layers._hazard(h) for h in touching])
    return fits, _box_sums(anything, own.shape).astype(np.float32) * step**2


def _room(layers: Layers) -> tuple[float, float, float, float]:
    usable = layers.sheet.usable
    x0, y0, x1, y1 = usable.bounds if not usable.is_empty else layers.sheet.outline.bounds
    return x0, y0, x1, y1


def _mask_of(shape: BaseGeometry, own: Grid, guard: float) -> Mask:
    return forbids(shape, own, guard) if guard else fill(shape, own)


def _box_sums(mask: Mask, size: tuple[int, int]) -> NDArray[np.generic]:
    """Sums of a mask under a box of ``size`` at every place, by an integral image."""
    import cv2

    total = cv2.integral(mask.view(np.uint8) if mask.flags.c_contiguous else mask.astype(np.uint8))
    h, w = size
    return np.asarray(total[h:, w:] - total[:-h, w:] - total[h:, :-w] + total[:-h, :-w])


def _zone_spectra(
    orientation: Orientation, own: Grid, guard: float, size: tuple[int, int]
) -> dict[tuple[ZoneKind, bool], Complex]:
    found: dict[tuple[ZoneKind, bool], Complex] = {}
    for kind in ZONE_ORDER:
        for both in (False, True):
            patches = [p.shape for p in orientation.patches if p.kind == kind and p.both_sides == both]
            if patches:
                mask = _mask_of(shapely.union_all(patches), own, guard)
                found[kind, both] = scipy.fft.rfft2(mask.astype(np.float32), size)
    return found


def depths_to_try(exact: Exact, hazards: list[Hazard]) -> list[float]:
    """Depths of the cut worth trying: as shallow as may be, as deep as may be, and just below each shallow trouble."""
    skim = exact.sheet.kit.skim_mm
    deepest = skim + max(0.0, exact.sheet.thickness.least - exact.need_mm)
    between = sorted({h.bottom_mm for h in hazards if skim < h.bottom_mm <= deepest})
    return list(dict.fromkeys([skim, *between[: MOST_DEPTHS - 2], deepest]))


def forbidding_names(exact: Exact, hazards: list[Hazard], kind: ZoneKind, *, both: bool, depth: float) -> tuple[str, ...]:
    """Names of the hazards that a zone kind does not tolerate at a depth of the cut."""
    orientation, names = exact.orientation, []
    for hazard in hazards:
        intervals = forbidden_depths(
            hazard,
            kind,
            both_sides=both,
            face_up=orientation.face_up,
            thickness_mm=orientation.part.thickness_mm,
            flattening_mm=exact.flattening,
            leaf_offsets_mm=exact.offsets,
        )
        if any(low < depth < high for low, high in intervals):
            names.append(hazard.id)
    return tuple(names)
