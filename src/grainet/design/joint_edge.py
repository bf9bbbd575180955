"""The edge at which a part is glued to its mate: whether it lies on the outline, and where a folded pair is ripped apart."""

from __future__ import annotations

import math

import numpy as np

from grainet.design.part import Part
from grainet.design.shape import Array

ON_EDGE_MM = 0.01  # a joint edge lies on the outline this closely


def joint_of(part: Part) -> tuple[float, float, float, bool] | None:
    """The joint edge of a part that is folded: from x, to x, its y, and whether the part lies above it. Where none is told it is the
    lower rim as drawn. None where the edge is not along x, or the part lies on both sides of it."""
    ring = part.ring
    low, high = float(ring[:, 1].min()), float(ring[:, 1].max())
    if part.joint_edge is None:
        return float(ring[:, 0].min()), float(ring[:, 0].max()), low, True
    (ax, ay), (bx, by) = part.joint_edge
    if abs(ay - by) > ON_EDGE_MM or min(abs(ay - low), abs(ay - high)) > ON_EDGE_MM:
        return None
    return min(ax, bx), max(ax, bx), ay, abs(ay - low) <= ON_EDGE_MM


def on_outline(part: Part) -> bool:
    """Whether both ends of a joint edge, and its middle, lie on the outline."""
    assert part.joint_edge is not None
    (ax, ay), (bx, by) = part.joint_edge
    places = ((ax, ay), ((ax + bx) / 2, (ay + by) / 2), (bx, by))
    return math.dist(*part.joint_edge) > 0 and all(_off(part.ring, x, y) <= ON_EDGE_MM for x, y in places)


def _off(ring: Array, x: float, y: float) -> float:
    """How far a place lies from a ring, mm."""
    ax, ay = ring[:, 0], ring[:, 1]
    dx, dy = np.roll(ax, -1) - ax, np.roll(ay, -1) - ay
    along = np.clip(((x - ax) * dx + (y - ay) * dy) / np.maximum(dx * dx + dy * dy, 1e-12), 0, 1)
    return float(np.hypot(ax + along * dx - x, ay + along * dy - y).min())
