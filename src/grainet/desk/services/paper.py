"""Pages as a PDF: A4 across, painted in the units of what is painted."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QMarginsF, QSizeF
from PySide6.QtGui import QPageLayout, QPageSize, QPainter, QPdfWriter

A4_MM = (210.0, 297.0)


def page_across(path: str, title: str, wide: float, high: float, *paints: Callable[[QPainter], None]) -> bool:
    """Write pages, each ``wide`` by ``high`` units as large as the sheet takes it and in its middle; False where the file cannot be written."""
    writer = QPdfWriter(path)
    writer.setTitle(title)
    size = QPageSize(QSizeF(*A4_MM), QPageSize.Unit.Millimeter)
    writer.setPageLayout(QPageLayout(size, QPageLayout.Orientation.Landscape, QMarginsF()))
    p = QPainter()
    if not p.begin(writer):
        return False
    scale = min(writer.width() / wide, writer.height() / high)
    for k, paint in enumerate(paints):
        if k:
            writer.newPage()
        p.save()
        p.translate((writer.width() - wide * scale) / 2, (writer.height() - high * scale) / 2)
        p.scale(scale, scale)
        paint(p)
        p.restore()
    return p.end()
