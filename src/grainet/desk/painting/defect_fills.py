"""What fills a defect on the wood: a sign for each kind, so that kinds are told apart without colour. A new sign is one row."""

from __future__ import annotations

import math
from collections.abc import Callable

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QPainter, QPainterPath, QPen

from grainet.wood.defects import FAMILY

Fill = Callable[[QPainter, QRectF], None]


def fill(p: QPainter, kind: str, box: QRectF, colour: QColor) -> None:
    """Fill the box of a defect with the sign of its kind, or of its family."""
    p.setPen(QPen(colour, 1.3))
    paint = FILLS.get(kind) or (_inner_box if FAMILY[kind] == "void" else None)
    if paint is not None:
        paint(p, box)


def _rings(p: QPainter, box: QRectF) -> None:
    for k in (0.3, 0.6, 0.9):
        p.drawEllipse(box.center(), box.width() / 2 * k, box.height() / 2 * k)


def _dashes(p: QPainter, box: QRectF) -> None:
    for row in range(math.ceil((box.height() - 4) / 6)):
        y = box.top() + 4 + 6 * row
        for k in range(int(box.width() / 12) + 1):
            p.drawLine(QPointF(box.left() + 12 * k, y), QPointF(box.left() + 12 * k + 6, y))


def _uprights(p: QPainter, box: QRectF) -> None:
    for k in range(int(box.width() / 6) + 1):
        p.drawLine(QPointF(box.left() + 6 * k, box.top()), QPointF(box.left() + 6 * k, box.bottom()))


def _waves(p: QPainter, box: QRectF) -> None:
    for row in range(math.ceil((box.height() - 6) / 9)):
        y = box.top() + 6 + 9 * row
        wave = QPainterPath(QPointF(box.left(), y))
        for k in range(int(box.width() / 6) + 1):
            wave.lineTo(box.left() + 6 * k, y + 3 * math.sin(k * 1.2))
        p.drawPath(wave)


def _arcs(p: QPainter, box: QRectF) -> None:
    for k in range(1, 6):
        p.drawArc(QRectF(box.left() - 8, box.top() + k * box.height() / 6, box.width() + 16, box.height()), 30 * 16, 120 * 16)


def _slants(p: QPainter, box: QRectF) -> None:
    for k in range(int((box.width() + box.height()) / 9) + 1):
        x = box.left() + 9 * k
        p.drawLine(QPointF(x, box.top()), QPointF(x - box.height(), box.bottom()))


def _cross(p: QPainter, box: QRectF) -> None:
    p.drawLine(box.topLeft(), box.bottomRight())
    p.drawLine(box.bottomLeft(), box.topRight())


def _specks(p: QPainter, box: QRectF) -> None:
    p.fillRect(box, QBrush(p.pen().color(), Qt.BrushStyle.Dense4Pattern))


def _holes(p: QPainter, box: QRectF) -> None:
    for k in range(8):
        at = QPointF(box.left() + (k * 0.37 % 1) * box.width(), box.top() + (k * 0.61 % 1) * box.height())
        p.drawEllipse(at, 2, 2)


def _inner_box(p: QPainter, box: QRectF) -> None:
    inner = box.adjusted(3, 3, -3, -3)
    if inner.width() > 2 and inner.height() > 2:
        p.drawRect(inner)


FILLS: dict[str, Fill] = {
    "knot": _rings, "loose_knot": _rings, "pith": _rings, "sap": _dashes, "pitch": _dashes, "stain": _uprights, "streak": _uprights, "wild_grain": _waves,
    "run_out": _waves, "shake": _arcs, "grit": _slants, "old_finish": _slants, "nail": _cross, "screw": _cross, "staple": _cross, "shot": _cross, "rot": _specks,
    "worm": _holes,
}  # fmt: skip
