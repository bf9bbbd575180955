"""Charts to files: SVG as text, PDF with the shipped fonts, CSV of the table behind. PNG is the window's matter, which has the pixels."""

from __future__ import annotations

import csv
import io
from html import escape
from pathlib import Path
from typing import Any

from grainet.chart.colours import ON_PAPER
from grainet.chart.figure import Chart
from grainet.chart.layout import Fill, Primitive, Stroke, Words, laid_out
from grainet.exchange.csv_cells import as_cell
from grainet.exchange.json_file import write_bytes, write_text

PAGE = (1120.0, 640.0)


def rough_width(text: str, px: float) -> float:
    """About how wide words are, where no font is at hand."""
    return 0.52 * px * len(text)


def chart_svg(chart: Chart, width: float = PAGE[0], height: float = PAGE[1]) -> str:
    """A chart as SVG text with a title and a description for screen readers."""
    drawn = "\n".join(_svg(p) for p in laid_out(chart, width, height, rough_width))
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{width:g}" height="{height:g}" viewBox="0 0 {width:g} {height:g}" role="img" '
        f'font-family="Atkinson Hyperlegible Next, Helvetica, sans-serif">\n<title>{escape(chart.title)}</title>\n<desc>{escape(chart.message)}</desc>\n'
        f'<rect width="{width:g}" height="{height:g}" fill="#FFFFFF"/>\n{drawn}\n</svg>\n'
    )


def _svg(one: Primitive) -> str:
    if isinstance(one, Words):
        anchor = {"left": "start", "middle": "middle", "right": "end"}[one.align]
        weight = ' font-weight="700"' if one.bold else ""
        return f'<text x="{one.x:.1f}" y="{one.y:.1f}" font-size="{one.px:g}" fill="{ON_PAPER[one.ink]}" text-anchor="{anchor}"{weight}>{escape(one.text)}</text>'
    points = " ".join(f"{x:.1f},{y:.1f}" for x, y in one.points)
    if isinstance(one, Fill):
        return f'<polygon points="{points}" fill="{ON_PAPER[one.ink]}" fill-opacity="{one.alpha:g}"/>'
    dash = ' stroke-dasharray="5 3"' if one.dashed else ""
    tag = "polygon" if one.closed else "polyline"
    return f'<{tag} points="{points}" fill="none" stroke="{ON_PAPER[one.ink]}" stroke-width="{one.width:g}"{dash}/>'


def charts_pdf(charts: list[Chart], title: str, width: float = PAGE[0], height: float = PAGE[1]) -> bytes:
    """A page a chart, landscape A4, with the shipped fonts."""
    from reportlab.lib.colors import HexColor
    from reportlab.lib.pagesizes import A4, landscape
    from reportlab.pdfbase.pdfmetrics import stringWidth
    from reportlab.pdfgen.canvas import Canvas

    from grainet.exchange.pdf_fonts import register_fonts

    register_fonts()
    plain, bold = "Words", "Words-Bold"
    page = landscape(A4)
    memory = io.BytesIO()
    sheet = Canvas(memory, pagesize=page)
    sheet.setTitle(title)
    size = min((page[0] - 48) / width, (page[1] - 48) / height)
    for chart in charts:
        sheet.saveState()
        sheet.translate(24, page[1] - 24)
        sheet.scale(size, -size)
        for one in laid_out(chart, width, height, lambda text, px: float(stringWidth(text, plain, px))):
            colour = HexColor(ON_PAPER[one.ink])
            if isinstance(one, Words):
                _pdf_words(sheet, one, colour, bold if one.bold else plain)
                continue
            path = sheet.beginPath()
            path.moveTo(*one.points[0])
            for point in one.points[1:]:
                path.lineTo(*point)
            if isinstance(one, Stroke):
                sheet.setStrokeColor(colour)
                sheet.setLineWidth(one.width)
                sheet.setDash([5, 3] if one.dashed else [])
                if one.closed:
                    path.close()
                sheet.drawPath(path, stroke=1, fill=0)
            else:
                path.close()
                sheet.setFillColor(colour)
                sheet.setFillAlpha(one.alpha)
                sheet.drawPath(path, stroke=0, fill=1)
                sheet.setFillAlpha(1)
        sheet.restoreState()
        sheet.showPage()
    sheet.save()
    return memory.getvalue()


def _pdf_words(sheet: Any, one: Words, colour: Any, face: str) -> None:
    sheet.saveState()
    sheet.translate(one.x, one.y)
    sheet.scale(1, -1)
    sheet.setFillColor(colour)
    sheet.setFont(face, one.px)
    {"left": sheet.drawString, "middle": sheet.drawCentredString, "right": sheet.drawRightString}[one.align](0, 0, one.text)
    sheet.restoreState()


def chart_csv(chart: Chart) -> str:
    """The table behind a chart; a header row first."""
    made = io.StringIO()
    csv.writer(made, lineterminator="\n").writerows([as_cell(cell) for cell in row] for row in chart.table)
    return made.getvalue()


def write_chart(path: Path, chart: Chart) -> None:
    """Write a chart; the suffix tells the form (svg, pdf or csv). Raises ValueError on another one, Unusable where it cannot be written."""
    suffix = path.suffix.lower()
    if suffix == ".svg":
        write_text(path, chart_svg(chart))
    elif suffix == ".csv":
        write_text(path, chart_csv(chart))
    elif suffix == ".pdf":
        write_bytes(path, charts_pdf([chart], chart.title))
    else:
        raise ValueError(f"{path.name}: a chart is written as .svg, .pdf, .png or .csv")
