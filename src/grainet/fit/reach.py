"""What a fit field means to the eye: the wood that some place of the part would cover, and the room at each place along."""

from __future__ import annotations

import numpy as np
import scipy.fft
from numpy.typing import NDArray

from grainet.fit.field import Field
from grainet.fit.raster import Grid, Mask, fill


def reach(field: Field) -> Mask:
    """Pixels of the sheet that lie under the part at some feasible place, shape of the grid."""
    grid = field.grid
    if not field.fits.any():
        return np.zeros(grid.shape, bool)
    own = Grid.over(field.orientation.bounds, grid.step)
    mask = fill(field.orientation.polygon, own)
    size = (
        scipy.fft.next_fast_len(grid.rows + own.rows, real=True),
        scipy.fft.next_fast_len(grid.columns + own.columns, real=True),
    )
    spread = scipy.fft.irfft2(
        scipy.fft.rfft2(field.fits.astype(np.float32), size) * scipy.fft.rfft2(mask.astype(np.float32), size), size
    )
    return np.asarray(spread[: grid.rows, : grid.columns] > 0.5)


def room_across(field: Field) -> NDArray[np.float64]:
    """For each column of the field, how far in mm the part can move across there (0: no place)."""
    return np.asarray(field.fits.sum(axis=0) * field.grid.step)


def runs_along(field: Field) -> list[tuple[float, float]]:
    """Runs of feasible places as (first, last) shift of the part's near end along the piece, in mm."""
    line = field.fits.any(axis=0) if field.fits.size else np.zeros(0, bool)
    padded = np.concatenate([[False], line, [False]]).astype(np.int8)
    change = np.diff(padded)
    x0, step = field.grid.x0, field.grid.step
    return [
        (x0 + a * step, x0 + (b - 1) * step)
        for a, b in zip(np.flatnonzero(change == 1).tolist(), np.flatnonzero(change == -1).tolist())
    ]
