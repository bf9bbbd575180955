"""A neck of strips, painted: in plan at its true tapers, in section at two places, folded on its centre."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen

from grainet.design.drawing import Plan, Stations, section_at
from grainet.design.instrument import Instrument, Strip
from grainet.design.lamination import Lamination, strips_at
from grainet.desk.painting import draw
from grainet.desk.painting.tokens import Theme

To = Callable[[float], float]
Woods = Mapping[int, QColor]  # the colour of each strip, by its number from 0


def paint_strips(p: QPainter, theme: Theme, g: Instrument, ends: tuple[float, float], to_x: To, to_y: To, woods: Woods) -> None:
    """The strips between two places along the neck, in the colours of their woods; accents have a rim of their own."""
    (left, right), tip = ends, [strips_at(g, x) for x in ends]
    for k, ((low0, high0), (low1, high1)) in enumerate(zip(*tip)):
        ring = ((left, low0), (right, low1), (right, high1), (left, high0))
        path = draw.path_of(ring, to_x, to_y)
        p.fillPath(path, woods[k])
        draw.outline(p, path, theme.ink, 1.0)


def paint_neck_over(p: QPainter, theme: Theme, plan: Plan, at: Stations, to_x: To, to_y: To) -> None:
    """The finished neck and head over the strips, which go on beyond them."""
    for ring in (plan.neck, plan.head):
        path = draw.path_of(ring, to_x, to_y)
        draw.outline(p, path, theme.ground, 4)
        draw.outline(p, path, theme.ink, 2)
    p.setPen(QPen(theme.chalk, 1.2, Qt.PenStyle.DashDotLine))
    p.drawLine(QPointF(to_x(at.board_end) - 12, to_y(0)), QPointF(to_x(at.head_end) + 12, to_y(0)))


def paint_grain(p: QPainter, theme: Theme, strip: Strip, x: float, y: float, *, opposed: bool) -> None:
    """An arrow toward the end to which the grain runs out; ochre where it runs against a neighbour's."""
    if strip.grain:
        draw.grain_arrow(p, theme.ochre if opposed else theme.ink, x, y, 44, away=strip.grain == "head")


def section_scale(g: Instrument, x_mm: float, box: QRectF) -> tuple[To, float]:
    """Across a section in a box: mm beside the centre line to px, bass side at the left, and px per mm."""
    widths = strips_at(g, x_mm)
    across = max(1.0, max(high for _, high in widths) - min(low for low, _ in widths))
    scale = min(box.width() / across, box.height() / _deep(g, x_mm))
    return lambda y: box.center().x() - y * scale * (1 if g.hand == "right" else -1), scale


def _deep(g: Instrument, x_mm: float) -> float:
    section = section_at(g, x_mm)
    return max(section.depth_mm if section is not None else 0.0, g.neck.depth_heel_mm, 10.0)


def paint_section_of(p: QPainter, theme: Theme, g: Instrument, x_mm: float, box: QRectF, woods: Woods) -> None:
    """The strips cut across at a place, the carved neck and the rod's slot over them."""
    to_x, scale = section_scale(g, x_mm, box)
    section, deep = section_at(g, x_mm), _deep(g, x_mm)
    for k, (low, high) in enumerate(strips_at(g, x_mm)):
        a, b = sorted((to_x(low), to_x(high)))
        p.fillRect(QRectF(a, box.y(), b - a, deep * scale), woods[k])
        p.setPen(QPen(theme.ink, 1))
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.drawRect(QRectF(a, box.y(), b - a, deep * scale))
    if section is not None:
        _carved(p, theme, QRectF(box.x(), box.y(), box.width(), deep * scale), section.neck, section.rod, to_x, scale)


def _carved(
    p: QPainter,
    theme: Theme,
    box: QRectF,
    neck: tuple[tuple[float, float], ...],
    rod: tuple[tuple[float, float], ...],
    to_x: To,
    scale: float,
) -> None:
    """What is carved away is pale; the neck's own rim and its slot."""
    back = draw.path_of(neck, to_x, lambda z: box.y() - z * scale)
    whole = QPainterPath()
    whole.addRect(box)
    p.save()
    p.setClipPath(whole.subtracted(back))
    veil = QColor(theme.bench)
    veil.setAlpha(150)
    p.fillRect(box, veil)
    p.restore()
    draw.outline(p, back, theme.slip, 4)
    draw.outline(p, back, theme.ink, 2)
    slot = draw.path_of(rod, to_x, lambda z: box.y() - z * scale)
    p.fillPath(slot, theme.slip)
    p.setPen(QPen(theme.ink2, 1.2))
    p.setBrush(Qt.BrushStyle.BDiagPattern)
    p.drawPath(slot)
    p.setBrush(Qt.BrushStyle.NoBrush)


def paint_fold(p: QPainter, theme: Theme, found: Lamination, box: QRectF, woods: Woods) -> None:
    """Both sides laid on one another from the centre outward: what is not alike shows at once."""
    half = max(found.bass_mm, found.treble_mm, 1.0)
    scale = box.width() / half
    count = len(found.strips)
    middle = count // 2
    sides = (list(range(middle - 1, -1, -1)), list(range(count - middle, count)))
    for row, order in enumerate(sides):
        y, x = box.y() + row * (box.height() / 2), box.x()
        shown = [(middle, found.strips[middle].mm / 2)] if count % 2 else []
        for k, mm in shown + [(k, found.strips[k].mm) for k in order]:
            bar = QRectF(x, y, mm * scale, box.height() / 2 - 3)
            p.fillRect(bar, woods[k])
            p.setPen(QPen(theme.ink, 1))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRect(bar)
            x += mm * scale
