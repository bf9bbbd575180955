"""Smooth noise from a lattice of hashed points: the same at the same place whatever the crop, and no volume is ever stored.

Plain noise lies on two axes; solid noise fills space and is asked for on planes along its axes, so that planes which meet agree there.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.floating]
Lattice = NDArray[np.int64]
_DEPTH = 0x27D4EB2F  # sets the layers of solid noise apart


def _hash(ix: Lattice, iy: Lattice, seed: int | Lattice) -> Array:
    """Lattice points to -1..1; the three arguments may be of any shapes that go together."""
    h = ix.astype(np.uint64) * np.uint64(0x9E3779B1) ^ iy.astype(np.uint64) * np.uint64(0x85EBCA77)
    h = h + (np.asarray(seed).astype(np.uint64) * np.uint64(0xC2B2AE3D) & np.uint64(0xFFFFFFFF))
    h ^= h >> np.uint64(15)
    h *= np.uint64(0x2C1B3C6D)
    h &= np.uint64(0xFFFFFFFF)
    h ^= h >> np.uint64(12)
    h *= np.uint64(0x297A2D39)
    h &= np.uint64(0xFFFFFFFF)
    return np.asarray(h.astype(np.float32) / np.float32(2**31) - 1).astype(np.float32)


def scattered(n: Lattice, seed: int) -> Array:
    """One figure in -1..1 for each whole number, of any shape."""
    return _hash(n, np.zeros(1, np.int64), seed)


def _cells(u: Any) -> tuple[Lattice, Array]:
    """Which cell of the lattice, and how far into it, eased so that slopes are 0 at its points."""
    u = np.asarray(u)
    i = np.floor(u).astype(np.int64)
    f = (u - i).astype(np.float32)
    return i, f * f * (3 - 2 * f)


def noise(u: Array, v: Array, seed: int) -> Array:
    """Smooth noise in -1..1 on two 1-D axes u (columns) and v (rows), in lattice units; shape (len(v), len(u))."""
    (iu, fu), (iv, fv) = _cells(u), _cells(v)
    u0, v0 = iu.min(), iv.min()
    table = _hash(np.arange(u0, iu.max() + 2)[None, :], np.arange(v0, iv.max() + 2)[:, None], seed)
    ju, jv = iu - u0, iv - v0
    rows = table[jv] * (1 - fv)[:, None] + table[jv + 1] * fv[:, None]
    return np.asarray(rows[:, ju] * (1 - fu) + rows[:, ju + 1] * fu)


@dataclass(frozen=True)
class Plane:
    """A plane along the axes: two of x (along), y (across) and z (into the wood) as 1-D arrays in mm, the third one figure.

    Its picture has x as columns, or y where x is the one figure; rows are what is left.
    """

    x: Any
    y: Any
    z: Any

    @property
    def kind(self) -> str:
        """``face``, ``edge`` or ``end``: z, y or x is the one figure."""
        return "face" if np.ndim(self.z) == 0 else "edge" if np.ndim(self.y) == 0 else "end"

    def spread(self) -> tuple[Any, Any, Any]:
        """x, y and z shaped so that figures made of them have the picture's shape."""
        if self.kind == "face":
            return self.x[None, :], self.y[:, None], self.z
        return (self.x[None, :], self.y, self.z[:, None]) if self.kind == "edge" else (self.x, self.y[None, :], self.z[:, None])


def solid_noise(plane: Plane, cell: tuple[float, float, float], seed: int, climb: Any = None) -> Array:
    """Smooth noise in -1..1 that fills space, on a plane. ``cell``: the lattice along x, y and z in mm; ``climb``: by how many mm its
    cells have gone up in y at each x (one figure on an end)."""
    lx, ly, lz = cell
    rise = np.zeros(np.shape(plane.x), np.float32) if climb is None else climb
    if plane.kind == "face":
        return _on_face(plane.x / lx, plane.y / ly, plane.z / lz, rise / np.float32(ly), seed)
    if plane.kind == "edge":
        return _on_edge(plane.x / lx, (plane.y - rise) / ly, plane.z / lz, seed)
    return _on_end(plane.x / lx, (plane.y - rise) / ly, plane.z / lz, seed)


def _layer(seed: int, k: Any) -> Any:
    return np.asarray(seed + k * _DEPTH, dtype=np.int64)


def _on_face(u: Array, v: Array, w: float, climb: Array, seed: int) -> Array:
    iw, fw = _cells(w)
    (iu, fu), (iv, fv) = _cells(u), _cells(v[:, None] - climb[None, :])
    u0, v0 = iu.min(), iv.min()
    gu, gv = np.arange(u0, iu.max() + 2)[None, :], np.arange(v0, iv.max() + 2)[:, None]
    table = _hash(gu, gv, _layer(seed, iw)) * (1 - fw) + _hash(gu, gv, _layer(seed, iw + 1)) * fw
    ju, jv, fu = (iu - u0)[None, :], iv - v0, fu[None, :]
    if not climb.any():  # cells lie square: whole rows at a time
        jv, fv = jv[:, :1], fv[:, :1]
        rows = table[jv[:, 0]] * (1 - fv) + table[jv[:, 0] + 1] * fv
        return np.asarray(rows[:, ju[0]] * (1 - fu) + rows[:, ju[0] + 1] * fu)
    low = table[jv, ju] * (1 - fu) + table[jv, ju + 1] * fu
    high = table[jv + 1, ju] * (1 - fu) + table[jv + 1, ju + 1] * fu
    return np.asarray(low * (1 - fv) + high * fv)


def _on_edge(u: Array, v: Array, w: Array, seed: int) -> Array:
    (iu, fu), (iv, fv), (iw, fw) = _cells(u), _cells(v), _cells(w)
    w0 = iw.min()
    layers = _layer(seed, np.arange(w0, iw.max() + 2))[:, None]
    low = _hash(iu, iv, layers) * (1 - fu) + _hash(iu + 1, iv, layers) * fu
    high = _hash(iu, iv + 1, layers) * (1 - fu) + _hash(iu + 1, iv + 1, layers) * fu
    table = low * (1 - fv) + high * fv
    return np.asarray(table[iw - w0] * (1 - fw)[:, None] + table[iw - w0 + 1] * fw[:, None])


def _on_end(u: float, v: Array, w: Array, seed: int) -> Array:
    (iu, fu), (iv, fv), (iw, fw) = _cells(u), _cells(v), _cells(w)
    v0, w0 = iv.min(), iw.min()
    gv, layers = np.arange(v0, iv.max() + 2)[None, :], _layer(seed, np.arange(w0, iw.max() + 2))[:, None]
    table = _hash(iu, gv, layers) * (1 - fu) + _hash(iu + 1, gv, layers) * fu
    rows = table[iw - w0] * (1 - fw)[:, None] + table[iw - w0 + 1] * fw[:, None]
    return np.asarray(rows[:, iv - v0] * (1 - fv) + rows[:, iv - v0 + 1] * fv)
