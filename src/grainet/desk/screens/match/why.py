"""Why the lines miss: each loss with its figure, the rings' lean in a small end section, and the seam under a loupe."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPen

from grainet.desk.painting import draw
from grainet.desk.painting.tokens import RIGHT
from grainet.desk.services.pictures import plain_colour
from grainet.present.match_view import Opening, reasons

if TYPE_CHECKING:
    from grainet.desk.screens.match.screen import Match

SECTION_W, SECTION_H, LOUPE = 104, 50, 56


def paint_why(p: QPainter, screen: Match, box: QRectF) -> None:
    """The row of reasons, and beside it the section."""
    theme, one = screen.state.theme, screen.opening
    miss = one.forecast.miss_mm
    x, y = box.x(), box.y() + 23
    x += draw.text_at(p, x, y, f"Why {miss:.1f}:" if miss is not None else "Lost:", theme.ink, 16, 700) + 8
    for figure, name in reasons(one):
        x += draw.text_at(p, x, y, figure, theme.ink, 15, 600, figures=True) + 4
        x += draw.text_at(p, x, y, name, theme.ink2, 14) + 11
    alike = one.forecast.alike
    if alike is not None:
        x += draw.text_at(p, x, y, f"{100 * alike:.0f}", theme.ink, 15, 600, figures=True) + 4
        draw.text_at(p, x, y, "% alike", theme.ink2, 14)
    if miss is not None:
        right = screen.width() - RIGHT
        _section(p, screen, QRectF(right - SECTION_W - LOUPE - 12, box.bottom() - SECTION_H, SECTION_W, SECTION_H), one, miss)
        _loupe(p, screen, QPointF(right - LOUPE / 2, box.bottom() - SECTION_H / 2), miss)


def _section(p: QPainter, screen: Match, box: QRectF, one: Opening, miss: float) -> None:
    """The end of the two leaves with what was lost between, and one ring through them: where it leaves the one face and enters the other."""
    theme = screen.state.theme
    assert screen.pair is not None
    gap = box.height() * 0.28
    leaf = (box.height() - gap) / 2
    colour = plain_colour(screen.pair.piece.species)
    for top in (box.top(), box.bottom() - leaf):
        slab = QPainterPath()
        slab.addRect(QRectF(box.x(), top, box.width(), leaf))
        draw.wood_texture(p, theme, slab, None, slab.boundingRect(), colour)
        draw.outline(p, slab, theme.ink, 1.2)
    angle = math.radians(max(12.0, one.forecast.ring_angle_deg or 90.0))
    run = min(box.width() * 0.3, gap / math.tan(angle))  # the lean shown to scale of the gap
    middle = box.center().x()
    upper, lower = QPointF(middle - run / 2, box.top() + leaf), QPointF(middle + run / 2, box.bottom() - leaf)
    p.setPen(QPen(theme.ink, 2))
    slope = run / gap
    p.drawLine(QPointF(upper.x() - slope * leaf, box.top()), upper)
    p.drawLine(lower, QPointF(lower.x() + slope * leaf, box.bottom()))
    pen = QPen(theme.wine, 1.6)
    pen.setDashPattern([3, 2])
    p.setPen(pen)
    p.drawLine(upper, lower)
    draw.label(p, theme, min(box.right() - 34, lower.x() + 8), box.center().y() - 10, f"{miss:.1f}", px=14, height=20)


def _loupe(p: QPainter, screen: Match, middle: QPointF, miss: float) -> None:
    """The seam five times as large: lines from both sides, apart by the miss."""
    theme = screen.state.theme
    assert screen.pair is not None
    r = LOUPE / 2
    glass = QPainterPath()
    glass.addEllipse(middle, r, r)
    draw.wood_texture(p, theme, glass, None, glass.boundingRect(), plain_colour(screen.pair.piece.species))
    p.save()
    p.setClipPath(glass, Qt.ClipOperation.IntersectClip)
    p.setPen(QPen(theme.ink, 2))
    apart = min(r, 5 * miss * 0.55)
    for k in range(-4, 5):
        x = middle.x() + 14 * k
        p.drawLine(QPointF(x - r * 0.45, middle.y() - r), QPointF(x, middle.y()))
        p.drawLine(QPointF(x + apart, middle.y()), QPointF(x + apart - r * 0.45, middle.y() + r))
    p.setPen(QPen(theme.chalk, 2))
    p.drawLine(QPointF(middle.x() - r, middle.y()), QPointF(middle.x() + r, middle.y()))
    p.restore()
    draw.outline(p, glass, theme.ink, 1.6)
