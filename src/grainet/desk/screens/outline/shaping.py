"""A body's shaping drawn on its outline: how deep it goes, what it lays open, and the section across it at the plumb."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPainterPath, QPen, QPolygonF

from grainet.design.depth_map import STEP_MM, DepthMap
from grainet.design.shaping import Shaping
from grainet.desk.painting import draw
from grainet.desk.painting.axis import Axis
from grainet.desk.painting.tokens import Theme
from grainet.desk.services.pictures import plain_colour
from grainet.desk.widgets.controls import wrapped
from grainet.present.shaping import sentences_of
from grainet.wood.units import LengthStyle, format_length

DARKEST = 150  # of 255: how dark the deepest place is drawn
TOP_SCALE = 2.0  # a section is drawn so many times as thick as it is wide
CORE, TOP = QColor("#c9a878"), QColor("#8a5a34")
SECTION_H = 128


def depth_picture(deep: DepthMap, theme: Theme, core: QColor) -> QImage:
    """The shaping from the front, one px each place: darker the deeper, the core's own colour where it lies open, wine where it is cut
    through; behind is hatched by every third row."""
    high, wide = deep.inside.shape
    pixels = np.zeros((high, wide, 4), np.uint8)
    most = max(float(deep.front.max()), float(deep.back.max()), 1.0)
    pixels[..., 3] = np.where(deep.inside, DARKEST * deep.front / most, 0).astype(np.uint8)
    rows = (np.arange(high) // 2 % 3 == 0)[:, None]
    behind = deep.inside & (deep.back > 0) & (deep.front == 0) & rows
    pixels[behind] = (*_rgb(theme.ink2), 90)
    pixels[deep.core_shows] = (*_rgb(core), 255)
    pixels[deep.inside & (deep.left <= 0)] = (*_rgb(theme.wine), 255)
    pixels = np.ascontiguousarray(pixels[::-1])  # the bass side stands above
    return QImage(pixels.tobytes(), wide, high, 4 * wide, QImage.Format.Format_RGBA8888).copy()


def _rgb(colour: QColor) -> tuple[int, int, int]:
    return colour.red(), colour.green(), colour.blue()


def paint_depth(p: QPainter, theme: Theme, deep: DepthMap, axis: Axis, middle: float, outline: QPainterPath) -> None:
    """The depth over the drawn body, with the line where the core begins, and each contour's own line."""
    body = deep.instrument.body
    core = plain_colour(body.species[0]) if body.species else CORE
    half = STEP_MM / 2
    x0, x1 = axis.x(float(deep.x[0]) - half), axis.x(float(deep.x[-1]) + half)
    y0, y1 = (middle - (float(v)) * axis.px_per_mm for v in (deep.y[-1] + half, deep.y[0] - half))
    p.save()
    p.setClipPath(outline)
    p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
    p.drawImage(QRectF(x0, y0, x1 - x0, y1 - y0), depth_picture(deep, theme, core))
    for one in body.shaping:
        _line(p, theme, one, axis, middle)
    p.restore()


def _line(p: QPainter, theme: Theme, one: Shaping, axis: Axis, middle: float) -> None:
    if one.line is None:
        return
    a, b = (QPointF(axis.x(x), middle - y * axis.px_per_mm) for x, y in one.line)
    p.setPen(QPen(theme.ink, 1.4, Qt.PenStyle.DashLine if one.back else Qt.PenStyle.SolidLine))
    along = b - a
    p.drawLine(a - along * 4, b + along * 4)  # to the rim on both sides; the outline clips it


def shaping_words(deep: DepthMap, style: LengthStyle, room: float) -> list[tuple[str, bool]]:
    """The sentences about it, in lines of a width."""
    found: list[tuple[str, bool]] = []
    for text, caution in sentences_of(deep, style):
        found += [(line, caution) for line in wrapped(text, 13.5, room)]
    return found


def paint_section(p: QPainter, theme: Theme, deep: DepthMap, x_mm: float, at: QRectF, style: LengthStyle) -> None:
    """The body cut across at a place, twice as thick as it is wide: its top, its core, what is cut away pale."""
    body, rows = deep.instrument.body, deep.across(x_mm)
    draw.text_at(p, at.x(), at.y() + 14, f"Across at {format_length(round(x_mm), style)}", theme.ink, 14, 700)
    draw.text_at(p, at.right() - 122, at.y() + 14, "drawn twice as thick", theme.ink2, 13, room=122)
    if len(rows) < 2:
        draw.text_at(p, at.x(), at.y() + 40, "Move the marker onto the body.", theme.ink2, 13.5, room=at.width())
        return
    half = max(abs(rows[0][0]), abs(rows[-1][0]))
    scale = (at.width() - 4) / (2 * half)
    tall = min(TOP_SCALE, (at.height() - 46) / (body.thickness_mm * scale))
    top_y = at.y() + 28

    def spot(y_mm: float, depth: float) -> QPointF:
        return QPointF(at.center().x() - y_mm * scale, top_y + depth * scale * tall)

    whole = [spot(y, 0.0) for y, *_ in rows] + [spot(y, body.thickness_mm) for y, *_ in reversed(rows)]
    pale = QColor(theme.ink2)
    pale.setAlpha(40)
    p.setPen(Qt.PenStyle.NoPen)
    p.setBrush(pale)
    p.drawPolygon(QPolygonF(whole))
    left = [(y, min(front, body.thickness_mm), max(body.thickness_mm - back, front)) for y, front, back, _ in rows]
    core = plain_colour(body.species[0]) if body.species else CORE
    p.setBrush(core)
    p.drawPolygon(QPolygonF([spot(y, a) for y, a, _ in left] + [spot(y, b) for y, _, b in reversed(left)]))
    if deep.top.any():
        cap = plain_colour(body.cap_species[0]) if body.cap_species else TOP
        p.setBrush(cap)
        glue = [(y, front, min(max(front, line), body.thickness_mm - back)) for y, front, back, line in rows]
        p.drawPolygon(QPolygonF([spot(y, a) for y, a, _ in glue] + [spot(y, b) for y, _, b in reversed(glue)]))
    for word, at_x in (("bass", at.x()), ("treble", at.right() - 38)):
        draw.text_at(p, at_x, top_y + body.thickness_mm * scale * tall + 15, word, theme.ink2, 13)
    p.setPen(QPen(theme.ink, 1))
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.drawPolygon(QPolygonF([spot(y, a) for y, a, _ in left] + [spot(y, b) for y, _, b in reversed(left)]))
