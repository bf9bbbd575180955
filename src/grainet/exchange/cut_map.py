"""The cut list and cut map of one board: a PDF with the list first and the map at true size, on one page as long as the board or over
pages that tile; the map alone as SVG or DXF, for a cutter or for another program."""

from __future__ import annotations

import io
import math
from collections.abc import Sequence
from pathlib import Path
from typing import Any
from xml.sax.saxutils import escape

from grainet.exchange.cut_drawing import LAYERS, CutDrawing, drawing_of
from grainet.exchange.json_file import Unusable, write_bytes, write_text
from grainet.exchange.pdf_fonts import register_fonts
from grainet.exchange.tiles import MM, draw_tiled, tiling
from grainet.job.answer import Plan
from grainet.job.job import Job
from grainet.wood.piece import Piece
from grainet.wood.species import short_name
from grainet.wood.units import LengthStyle
from grainet.work.steps import Step
from grainet.wrapping import wrap

MARGIN_MM, BAR_MM, HEAD_MM = 15.0, 100.0, 22.0
PENS: dict[str, tuple[float, list[float]]] = {  # points, dashes
    "board": (1.4, []), "datum": (3.0, []), "defect": (0.6, [2, 2]), "part": (1.2, []), "tears": (4.0, []), "cut": (0.7, [6, 3]), "planing": (1.2, []),
}  # fmt: skip
TOLD = "Thick outlines tear with the show side up; turn the part over for them."


def cut_map_pdf(
    job: Job, plan: Plan, piece: Piece, steps: Sequence[Step], style: LengthStyle = "mm", title: str = "", paper: str = ""
) -> bytes:
    """A PDF with the list first and the map after it, 1 mm on the board being 1 mm on the page; a 100 mm bar proves it. ``paper`` (A4, A3,
    letter) spreads the map over pages that tile; without one it is a single page as long as the board. Raises KeyError for another paper."""
    from reportlab.lib.pagesizes import A4
    from reportlab.pdfgen.canvas import Canvas

    register_fonts()
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=A4, invariant=True)
    canvas.setTitle(f"{title} cut map No. {piece.id}")
    _list_pages(canvas, A4, piece, steps, style, title)
    drawing = drawing_of(job, plan, piece, style, title)
    if paper:
        told = f"{drawing.size_mm[0]:.0f} x {drawing.size_mm[1]:.0f} mm with its words. {TOLD}"

        def draw(canvas: Any, scale: float, shift: tuple[float, float]) -> None:
            _draw(canvas, drawing, scale, shift)

        draw_tiled(canvas, drawing.title, draw, drawing.low, tiling(drawing.size_mm, paper), told)
    else:
        _one_page(canvas, drawing)
    canvas.save()
    return out.getvalue()


def write_cut_map(path: Path, job: Job, plan: Plan, piece: Piece, style: LengthStyle = "mm", title: str = "") -> None:
    """The map alone to a DXF or SVG file, by its ending. Raises Unusable."""
    drawing = drawing_of(job, plan, piece, style, title)
    if path.suffix.lower() == ".dxf":
        write_bytes(path, cut_map_dxf(drawing))
    elif path.suffix.lower() == ".svg":
        write_text(path, cut_map_svg(drawing))
    else:
        raise Unusable([f"{path.name}: a cut map is written as .pdf, .dxf or .svg"])


def cut_map_dxf(drawing: CutDrawing) -> bytes:
    """A DXF of 2010, units mm, a layer for each kind of line and its words."""
    from ezdxf import units
    from ezdxf.filemanagement import new

    document = new("R2010")
    document.units = units.MM
    space = document.modelspace()
    for layer in LAYERS:
        document.layers.add(layer)
    for stroke in drawing.strokes:
        space.add_lwpolyline(stroke.points, close=stroke.closed, dxfattribs={"layer": stroke.layer})
    for one in drawing.words:
        space.add_text(one.text, height=one.high * 0.7, dxfattribs={"layer": one.layer, "insert": (one.x, one.y)})
    stream = io.StringIO()
    document.write(stream)
    return stream.getvalue().encode("utf-8")


def cut_map_svg(drawing: CutDrawing) -> str:
    """An SVG whose page is the drawing's size in mm; a class for each kind of line and its words."""
    x0, (wide, high), top = drawing.low[0], drawing.size_mm, drawing.high[1]
    lines = [
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{wide:.3f}mm" height="{high:.3f}mm" viewBox="{x0:.3f} {-top:.3f} {wide:.3f} {high:.3f}">',
        f"<title>{escape(drawing.title)}</title>",
    ]
    for stroke in drawing.strokes:
        width, dashes = PENS[stroke.layer]
        points = " L ".join(f"{x:.3f} {-y:.3f}" for x, y in stroke.points)
        dashed = f' stroke-dasharray="{" ".join(f"{d / MM:.2f}" for d in dashes)}"' if dashes else ""
        lines.append(
            f'<path class="{stroke.layer}" d="M {points}{" Z" if stroke.closed else ""}" fill="none" stroke="black" stroke-width="{width / MM:.3f}"{dashed}/>'
        )
    for one in drawing.words:
        weight = ' font-weight="bold"' if one.bold else ""
        x0, y0, x1, y1 = one.box
        lines.append(
            f'<rect class="behind" x="{x0:.3f}" y="{-y1:.3f}" width="{x1 - x0:.3f}" height="{y1 - y0:.3f}" fill="white"/>'
        )
        lines.append(
            f'<text class="{one.layer}" x="{one.x:.3f}" y="{-one.y:.3f}" font-family="sans-serif" font-size="{one.high:.2f}"{weight}>{escape(one.text)}</text>'
        )
    return "\n".join([*lines, "</svg>"]) + "\n"


def _list_pages(canvas: Any, size: Any, piece: Piece, steps: Sequence[Step], style: LengthStyle, title: str) -> None:
    width, height = size
    y = height - 56
    canvas.setFont("Words-Bold", 17)
    canvas.drawString(48, y, f"{title}: saw No. {piece.id}, {short_name(piece.species)}")
    canvas.setFont("Words", 10)
    y -= 18
    told = f"Each figure is an edge of the kerf, measured on the piece in hand then from the side that is named; face 1 toward you. In {'mm' if style == 'mm' else 'inches'}. First mark on the wood: its number, face 1, the near edge, the marked end. Outlines to saw along are on the map."
    for row in wrap(told, width - 96, lambda words: canvas.stringWidth(words, "Words", 10)):
        canvas.drawString(48, y, row)
        y -= 13
    told_of = {step.n: [c.sentence for c in step.cautions if c.grade in "AB"] for step in steps}
    always = (
        [line for line in told_of[steps[0].n] if len(steps) > 1 and all(line in some for some in told_of.values())]
        if steps
        else []
    )
    for line in always:
        y -= 2
        for row in wrap(f"! At every cut: {line}", width - 96, lambda words: canvas.stringWidth(words, "Words", 10)):
            canvas.drawString(48, y, row)
            y -= 13
    y -= 11
    for step in steps:
        lines = [line for line in told_of[step.n] if line not in always]
        if y < 70 + 13 * len(lines):
            canvas.showPage()
            y = height - 56
        canvas.rect(48, y - 2, 11, 11)
        canvas.setFont("Words-Bold", 11)
        canvas.drawString(68, y, f"{step.n}  {step.tool}: {step.text}")
        canvas.setFont("Words", 9.5)
        canvas.drawRightString(width - 48, y, f"on {step.worked_on.id}")
        y -= 14
        if step.note:
            canvas.drawString(82, y, step.note)
            y -= 13
        for line in lines:
            for row in wrap(line, width - 82 - 60, lambda words: canvas.stringWidth(words, "Words", 9.5)):
                canvas.drawString(82, y, ("! " if row is line or line.startswith(row[:8]) else "  ") + row)
                y -= 12
        y -= 6
    canvas.setFont("Words", 8.5)
    canvas.drawString(
        48,
        40,
        "The list does not make a cut safe: follow the tool's manual, local codes and trained practice. If a cut feels wrong, do not make it.",
    )
    canvas.showPage()


def _one_page(canvas: Any, drawing: CutDrawing) -> None:
    """The whole map on one page, with a bar that proves it."""
    wide, top = drawing.size_mm[0], MARGIN_MM * 2 + drawing.size_mm[1] + HEAD_MM
    canvas.setPageSize((max(wide + 2 * MARGIN_MM, 2 * MARGIN_MM + BAR_MM + 60) * MM, top * MM))
    canvas.setFont("Words-Bold", 14)
    canvas.drawString(MARGIN_MM * MM, (top - 8) * MM, f"{drawing.title}, true size")
    bar = (top - 15) * MM
    canvas.setLineWidth(1)
    canvas.line(MARGIN_MM * MM, bar, (MARGIN_MM + BAR_MM) * MM, bar)
    for end in (MARGIN_MM, MARGIN_MM + BAR_MM):
        canvas.line(end * MM, bar - 4, end * MM, bar + 4)
    canvas.setFont("Words", 9)
    canvas.drawString((MARGIN_MM + BAR_MM) * MM + 6, bar - 3, "this bar is 100 mm: print at 100 %")
    canvas.drawString(MARGIN_MM * MM, (top - 21) * MM, TOLD)
    _draw(canvas, drawing, MM, (MARGIN_MM - drawing.low[0], MARGIN_MM - drawing.low[1]))
    canvas.showPage()


def _draw(canvas: Any, drawing: CutDrawing, scale: float, shift: tuple[float, float]) -> None:
    """Every line and word; a small map keeps its letters in proportion."""
    for stroke in drawing.strokes:
        width, dashes = PENS[stroke.layer]
        canvas.setLineWidth(width * min(1.0, math.sqrt(scale / MM)))
        canvas.setDash(dashes)
        path = canvas.beginPath()
        for k, (x, y) in enumerate(stroke.points):
            (path.lineTo if k else path.moveTo)((x + shift[0]) * scale, (y + shift[1]) * scale)
        if stroke.closed:
            path.close()
        canvas.drawPath(path)
    canvas.setDash([])
    canvas.setFillGray(1)
    for one in drawing.words:  # no line runs through a figure
        x0, y0, x1, y1 = one.box
        canvas.rect((x0 + shift[0]) * scale, (y0 + shift[1]) * scale, (x1 - x0) * scale, (y1 - y0) * scale, stroke=0, fill=1)
    canvas.setFillGray(0)
    for one in drawing.words:
        canvas.setFont("Words-Bold" if one.bold else "Words", one.high * scale)
        canvas.drawString((one.x + shift[0]) * scale, (one.y + shift[1]) * scale, one.text)
