"""Taking hold of a handle with the mouse."""

from __future__ import annotations

from collections.abc import Iterable

from PySide6.QtCore import QPointF

from grainet.present.ring_edit import nearest_handle

GRIP_PX = 11.0  # how near the mouse must be


def handle_at(at: QPointF, spots: Iterable[QPointF], within: float = GRIP_PX) -> int | None:
    """The number of the handle under the mouse, the nearest where several are; None where none is."""
    return nearest_handle((at.x(), at.y()), ((s.x(), s.y()) for s in spots), within)
