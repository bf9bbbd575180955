"""A loupe on a photo: its own pixels about a mark, beside it so that neither covers the other."""

from __future__ import annotations

from typing import Any

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPen, QPixmap

from grainet.desk.painting.tokens import Theme
from grainet.desk.services.pictures import to_image

RADIUS = 62


def paint_loupe(p: QPainter, theme: Theme, image: Any, spot: tuple[float, float], at: QPointF, view: QRectF) -> None:
    """The pixels about a spot of an RGB image, with a cross on it. ``at`` is where it lies on the screen, ``view`` where the photo stands."""
    height, width = image.shape[:2]
    cx = at.x() + (RADIUS + 40 if at.x() < view.center().x() else -RADIUS - 40)
    cy = min(max(at.y(), view.y() + RADIUS), max(view.y() + RADIUS, view.bottom() - RADIUS))
    reach = max(10, round(max(width, height) / 110))
    x0, y0 = (int(np.clip(v - reach, 0, max(0, most - 2 * reach))) for v, most in zip(spot, (width, height)))
    crop = np.ascontiguousarray(image[y0 : y0 + 2 * reach, x0 : x0 + 2 * reach])
    circle = QPainterPath()
    circle.addEllipse(QPointF(cx, cy), RADIUS, RADIUS)
    p.save()
    p.setClipPath(circle)
    target = QRectF(cx - RADIUS, cy - RADIUS, 2 * RADIUS, 2 * RADIUS)
    p.drawPixmap(target, QPixmap.fromImage(to_image(crop)), QRectF(0, 0, crop.shape[1], crop.shape[0]))
    p.restore()
    p.setBrush(Qt.BrushStyle.NoBrush)
    for pen in (QPen(theme.slip, 5), QPen(theme.chalk, 3)):
        p.setPen(pen)
        p.drawEllipse(QPointF(cx, cy), RADIUS, RADIUS)
    scale = RADIUS / reach
    x, y = cx - RADIUS + (spot[0] - x0) * scale, cy - RADIUS + (spot[1] - y0) * scale
    p.setPen(QPen(theme.chalk, 1.5))
    p.drawLine(QPointF(x, cy - RADIUS + 4), QPointF(x, cy + RADIUS - 4))
    p.drawLine(QPointF(cx - RADIUS + 4, y), QPointF(cx + RADIUS - 4, y))
