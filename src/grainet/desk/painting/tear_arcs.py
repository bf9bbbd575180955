"""Where round an outline a cutter tears: thick hatched arcs; end grain: ochre; and arrows for the way in which it is fed."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from itertools import pairwise

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QColor, QPainter, QPen, QPolygonF

from grainet.desk.painting.tokens import Theme
from grainet.fit.tear_out import Stretch

PAPER = QColor(255, 255, 255, 225)
ARROW_EVERY_PX = 170.0
HATCH_PX = 7.0


def paint_stretches(
    p: QPainter, theme: Theme, found: Sequence[Stretch], to_x: Callable[[float], float], to_y: Callable[[float], float]
) -> None:
    """Draw the stretches of an outline over the part."""
    p.save()
    for one in found:
        line = [QPointF(to_x(float(x)), to_y(float(y))) for x, y in one.points]
        if one.kind == "tears":
            _line(p, line, QPen(PAPER, 8))
            _line(p, line, QPen(theme.wine, 3))
            _hatches(p, line, QPen(theme.wine, 1.8))
        elif one.kind == "end":
            _line(p, line, QPen(PAPER, 8))
            _line(p, line, QPen(theme.ochre, 3.4))
        _arrows(p, theme, line)
    p.restore()


def _line(p: QPainter, line: Sequence[QPointF], pen: QPen) -> None:
    pen.setCapStyle(Qt.PenCapStyle.FlatCap)
    p.setPen(pen)
    p.drawPolyline(QPolygonF(list(line)))


def _along(line: Sequence[QPointF], every: float, first: float) -> list[tuple[QPointF, float]]:
    """Places along a line so far apart, each with the direction there in radians."""
    found: list[tuple[QPointF, float]] = []
    left = first
    for a, b in pairwise(line):
        long = math.hypot(b.x() - a.x(), b.y() - a.y())
        way = math.atan2(b.y() - a.y(), b.x() - a.x())
        at = left
        while at <= long and long > 0:
            found.append((a + (b - a) * (at / long), way))
            at += every
        left = at - long
    return found


def _hatches(p: QPainter, line: Sequence[QPointF], pen: QPen) -> None:
    """Short strokes across, leaning as lifted fibres do."""
    p.setPen(pen)
    for at, way in _along(line, HATCH_PX, HATCH_PX / 2):
        lean = way - math.radians(55)
        step = QPointF(math.cos(lean), math.sin(lean)) * 7
        p.drawLine(at - step, at + step)


def _arrows(p: QPainter, theme: Theme, line: Sequence[QPointF]) -> None:
    """The way of the feed."""
    p.setPen(QPen(PAPER, 1))
    p.setBrush(theme.ink)
    for at, way in _along(line, ARROW_EVERY_PX, ARROW_EVERY_PX / 3):
        tip, back = QPointF(math.cos(way), math.sin(way)), QPointF(-math.sin(way), math.cos(way))
        p.drawPolygon(QPolygonF([at + tip * 9, at - tip * 5 + back * 5.5, at - tip * 5 - back * 5.5]))
    p.setBrush(Qt.BrushStyle.NoBrush)
