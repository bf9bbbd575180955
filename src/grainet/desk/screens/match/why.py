"""Why the lines miss: each loss with its figure, the rings' lean in a small end section, and the seam under a loupe."""

from __future__ import annotations

import math
from typing import TYPE_CHECKING

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPen

from grainet.desk.painting import draw
from grainet.desk.painting.tokens import RIGHT
from grainet.desk.screens.match.book import Where
from grainet.desk.services.pictures import plain_colour
from grainet.present.match_view import Opening, reasons

if TYPE_CHECKING:
    from grainet.desk.screens.match.screen import Match

SECTION_W, SECTION_H, LOUPE = 104, 50, 56
LOUPE_PX_PER_MM = 2.4


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
        _loupe(p, screen, QPointF(right - LOUPE / 2, box.bottom() - SECTION_H / 2), one)


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


def _loupe(p: QPainter, screen: Match, middle: QPointF, one: Opening) -> None:
    """The middle of the seam at a larger scale, from the two real faces: what steps there is seen."""
    theme, pair, laid = screen.state.theme, screen.pair, one.laid
    assert pair is not None
    assert laid is not None
    r = LOUPE / 2
    (ax, _), (bx, _) = laid.joint
    where = Where(laid, middle.x() - r, middle.y(), LOUPE_PX_PER_MM, (ax + bx) / 2 - r / LOUPE_PX_PER_MM)
    p.save()
    glass = QPainterPath()
    glass.addEllipse(middle, r, r)
    p.setClipPath(glass, Qt.ClipOperation.IntersectClip)
    as_it_lies, turned = one.depths_mm[::-1] if one.show == "sawn" else one.depths_mm
    for transform, depth in ((where.level, as_it_lies), (where.mirrored, turned)):
        p.save()
        p.setTransform(transform, combine=True)
        shape, target = where.board(pair.piece)
        draw.wood_texture(p, theme, shape, screen.picture(pair.piece, depth), target, plain_colour(pair.piece.species))
        p.restore()
    p.setPen(QPen(theme.chalk, 1.6))
    p.drawLine(QPointF(middle.x() - r, middle.y()), QPointF(middle.x() + r, middle.y()))
    p.restore()
    draw.outline(p, glass, theme.ink, 1.6)
