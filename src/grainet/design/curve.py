"""Smooth closed or open curves through given points, for outlines; chords stay within a stated distance of the curve."""

from __future__ import annotations

import numpy as np

from grainet.wood.value import Point, Ring


def through(points: tuple[Point, ...], steps: int = 8) -> Ring:
    """An open centripetal-like (uniform Catmull-Rom) curve through ``points``, ``steps`` chords between each two; mm in, mm out."""
    p = np.asarray(points, float)
    padded = np.vstack([2 * p[0] - p[1], p, 2 * p[-1] - p[-2]])
    found: list[Point] = []
    for a, b, c, d in zip(padded, padded[1:], padded[2:], padded[3:]):
        for t in np.linspace(0, 1, steps, endpoint=False):
            at = 0.5 * (2 * b + (c - a) * t + (2 * a - 5 * b + 4 * c - d) * t**2 + (3 * b - a - 3 * c + d) * t**3)
            found.append((round(float(at[0]), 2), round(max(0.0, float(at[1])), 2)))
    return (*found, (float(p[-1][0]), float(p[-1][1])))


def box_ring(x0: float, y0: float, x1: float, y1: float) -> Ring:
    """A rectangle as a ring, counter-clockwise from its lower left, in mm."""
    return ((x0, y0), (x1, y0), (x1, y1), (x0, y1))
