"""The veil that pales the wood which no place of a part would use."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QImage, QPainter, QPainterPath

from grainet.desk.painting.tokens import VEIL, Theme
from grainet.present.fit_view import FitView


def veil_of(view: FitView) -> QImage:
    """The mask of it, a pixel a cell, the far edge on top."""
    alpha = np.ascontiguousarray(np.where(view.bright, 0, VEIL).astype(np.uint8)[::-1])
    return QImage(alpha.tobytes(), alpha.shape[1], alpha.shape[0], alpha.shape[1], QImage.Format.Format_Alpha8).copy()


def lay_veil(p: QPainter, theme: Theme, mask: QImage, target: QRectF, shape: QPainterPath) -> None:
    """Lay it over a board: ``target`` is where the mask's rectangle comes to, px."""
    veil = QImage(mask.size(), QImage.Format.Format_ARGB32)
    veil.fill(theme.bench)
    veil.setAlphaChannel(mask)
    p.save()
    p.setClipPath(shape, Qt.ClipOperation.IntersectClip)
    p.drawImage(target, veil)
    p.restore()
