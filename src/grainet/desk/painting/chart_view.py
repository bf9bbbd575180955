"""A chart on the screen, and the same drawing as a PNG."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from PySide6.QtCore import QBuffer, QPointF, QSizeF, Qt, Signal
from PySide6.QtGui import QColor, QImage, QPainter, QPen, QPolygonF
from PySide6.QtWidgets import QWidget
from typing_extensions import override

from grainet.chart.figure import Chart
from grainet.chart.layout import Fill, Stroke, Words, laid_out
from grainet.desk.painting import draw
from grainet.desk.painting.tokens import LIGHT, Theme

PNG_SIZE, PNG_SCALE = (1120, 640), 2
WOOD = {False: QColor("#D9BE93"), True: QColor("#9A7F55")}


def ink(theme: Theme, name: str) -> QColor:
    """A chart's ink in the window's tokens."""
    return WOOD[theme.dark] if name == "wood" else QColor(getattr(theme, name))


def paint_chart(p: QPainter, theme: Theme, chart: Chart, width: float, height: float) -> None:
    """Draw a chart laid out on a page of that size."""
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    for one in laid_out(chart, width, height, lambda text, px: draw.text_width(text, px)):
        colour = ink(theme, one.ink)
        if isinstance(one, Words):
            weight = 700 if one.bold else 400
            wide = draw.text_width(one.text, one.px, weight, figures=one.figures)
            x = one.x - {"left": 0.0, "middle": wide / 2, "right": wide}[one.align]
            draw.text_at(p, x, one.y, one.text, colour, one.px, weight, figures=one.figures)
            continue
        shape = QPolygonF([QPointF(x, y) for x, y in one.points])
        if isinstance(one, Fill):
            colour.setAlphaF(one.alpha)
            p.setPen(Qt.PenStyle.NoPen)
            p.setBrush(colour)
            p.drawPolygon(shape)
        elif isinstance(one, Stroke):
            pen = QPen(colour, one.width)
            if one.dashed:
                pen.setDashPattern([4, 2.5])
            pen.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
            p.setPen(pen)
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawPolygon(shape) if one.closed else p.drawPolyline(shape)


def chart_image(chart: Chart, theme: Theme = LIGHT) -> QImage:
    """A chart as a picture at twice the screen's size."""
    width, height = PNG_SIZE
    image = QImage(width * PNG_SCALE, height * PNG_SCALE, QImage.Format.Format_RGB32)
    image.fill(theme.slip)
    p = QPainter(image)
    p.scale(PNG_SCALE, PNG_SCALE)
    paint_chart(p, theme, chart, width, height)
    p.end()
    return image


def write_any(path: Path, chart: Chart) -> None:
    """Write a chart in the form that the suffix tells: PDF, SVG, PNG or CSV. Raises ValueError or Unusable with a sentence."""
    from grainet.exchange.chart_file import write_chart
    from grainet.exchange.json_file import write_bytes

    if path.suffix.lower() != ".png":
        write_chart(path, chart)
        return
    memory = QBuffer()
    memory.open(QBuffer.OpenModeFlag.WriteOnly)
    chart_image(chart).save(memory, "PNG")  # type: ignore[call-overload]
    write_bytes(path, memory.data().data())


class ChartView(QWidget):
    """Shows one chart, as large as there is room."""

    pressed = Signal(float)  # the x in data units where it was pressed

    def __init__(self, theme_of: Any, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.theme_of = theme_of
        self.chart: Chart | None = None
        self.setObjectName("chart")
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)

    def show_chart(self, chart: Chart) -> None:
        """Show another chart; its sentence is what a screen reader says."""
        self.chart = chart
        self.setAccessibleName(chart.title)
        self.setAccessibleDescription(chart.message)
        self.setToolTip(chart.source)
        self.update()

    @override
    @draw.painted
    def paintEvent(self, p: QPainter) -> None:
        theme = self.theme_of()
        p.fillRect(self.rect(), theme.bench)
        if self.chart is not None:
            size = QSizeF(self.size())
            paint_chart(p, theme, self.chart, size.width(), size.height())
