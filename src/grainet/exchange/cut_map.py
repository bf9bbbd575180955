"""The cut map and cut list of one board as PDF: the list on A4, the map at true size on a page as long as the board."""

from __future__ import annotations

import io
from collections.abc import Sequence
from typing import Any

from grainet.design.shape import as_array
from grainet.exchange.pdf_fonts import register_fonts
from grainet.job.answer import Placement, Plan
from grainet.job.job import Job
from grainet.wood.piece import Piece
from grainet.wood.planing import planing_direction
from grainet.wood.species import short_name
from grainet.wood.units import LengthStyle, format_mark
from grainet.work.steps import Step
from grainet.wrapping import wrap

MARGIN_MM, BAR_MM, HEAD_MM = 15.0, 100.0, 22.0


def cut_map_pdf(job: Job, plan: Plan, piece: Piece, steps: Sequence[Step], style: LengthStyle = "mm", title: str = "") -> bytes:
    """A PDF with the list first and the map after it, 1 mm on the board being 1 mm on the page; a 100 mm bar proves it."""
    from reportlab.lib.pagesizes import A4
    from reportlab.lib.units import mm
    from reportlab.pdfgen.canvas import Canvas

    register_fonts()
    out = io.BytesIO()
    canvas = Canvas(out, pagesize=A4, invariant=True)
    canvas.setTitle(f"{title} cut map No. {piece.id}")
    _list_pages(canvas, A4, piece, steps, style, title)
    x0, y0, x1, y1 = piece.extents
    size = ((x1 - x0 + 2 * MARGIN_MM) * mm, (y1 - y0 + 2 * MARGIN_MM + HEAD_MM) * mm)
    canvas.setPageSize(size)
    _map(canvas, size, job, plan, piece, style, title, mm)
    canvas.showPage()
    canvas.save()
    return out.getvalue()


def _list_pages(canvas: Any, size: Any, piece: Piece, steps: Sequence[Step], style: LengthStyle, title: str) -> None:
    width, height = size
    y = height - 56
    canvas.setFont("Words-Bold", 17)
    canvas.drawString(48, y, f"{title}: saw No. {piece.id}, {short_name(piece.species)}")
    canvas.setFont("Words", 10)
    y -= 18
    canvas.drawString(
        48,
        y,
        f"Each figure is an edge of the kerf, measured on the piece in hand then from the side that is named; face 1 toward you. In {'mm' if style == 'mm' else 'inches'}.",
    )
    y -= 24
    for step in steps:
        lines = [c.sentence for c in step.cautions if c.grade in "AB"]
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


def _map(canvas: Any, size: Any, job: Job, plan: Plan, piece: Piece, style: LengthStyle, title: str, mm: float) -> None:
    x0, y0, _, _ = piece.extents

    def at(x: float, y: float) -> tuple[float, float]:
        return (x - x0 + MARGIN_MM) * mm, (y - y0 + MARGIN_MM) * mm

    top = size[1] - 8 * mm
    canvas.setFont("Words-Bold", 14)
    canvas.drawString(MARGIN_MM * mm, top, f"{title}: No. {piece.id}, face 1, true size")
    bar = top - 7 * mm
    canvas.setLineWidth(1)
    canvas.line(MARGIN_MM * mm, bar, (MARGIN_MM + BAR_MM) * mm, bar)
    for end in (MARGIN_MM, MARGIN_MM + BAR_MM):
        canvas.line(end * mm, bar - 4, end * mm, bar + 4)
    canvas.setFont("Words", 9)
    canvas.drawString(
        (MARGIN_MM + BAR_MM) * mm + 6,
        bar - 3,
        "this bar is 100 mm; if it is not, the print is not at true size. Thick outlines tear with the show side up; turn the part over for them",
    )
    canvas.setLineWidth(1.4)
    _ring(canvas, piece.outline, at)
    canvas.setLineWidth(3)
    canvas.line(*at(x0, y0), *at(x0, piece.extents[3]))
    _planing(canvas, piece, at, mm)
    canvas.setLineWidth(0.6)
    for defect in piece.defects:
        canvas.setDash(2, 2)
        _ring(canvas, defect.polygon, at)
        canvas.setDash()
        canvas.setFont("Words", 9)
        canvas.drawString(*at(max(x for x, _ in defect.polygon) + 1, min(y for _, y in defect.polygon)), defect.id)
    parts = {p.id: p for p in job.parts}
    canvas.setLineWidth(1.2)
    for one in plan.placements:
        if one.piece == piece.id and one.leaf == 1:
            _ring(canvas, one.polygon, at)
            _tearing(canvas, one, piece, at)
            xs, ys = zip(*one.polygon)
            part = parts[one.part]
            canvas.setFont("Words-Bold", 16)
            leaves = f", {part.leaves} leaves" if part.leaves > 1 else ""
            canvas.drawCentredString(
                *at(sum(xs) / len(xs), sum(ys) / len(ys)), f"{part.letter or part.id} {part.shown_name}{leaves}"
            )
    _cut_lines(canvas, plan, piece, style, at)


def _cut_lines(canvas: Any, plan: Plan, piece: Piece, style: LengthStyle, at: Any) -> None:
    """Every cut of a board with the edges of its kerf, but for resaws."""
    canvas.setFont("Words", 8)
    mine = {piece.id}
    for cut in plan.cuts:
        if cut.piece not in mine:
            continue
        mine.update(cut.gives)
        if cut.tool == "resaw":
            continue
        canvas.setDash(6, 3)
        canvas.setLineWidth(0.7)
        path = canvas.beginPath()
        path.moveTo(*at(*cut.line[0]))
        for point in cut.line[1:]:
            path.lineTo(*at(*point))
        canvas.drawPath(path)
        canvas.setDash()
        px, py = at(*cut.line[0])
        figures = " | ".join(format_mark(m.mm, style) for m in sorted(cut.marks, key=lambda m: m.mm))
        told = f", {figures} from {cut.marks[0].from_}" if cut.marks else ""
        canvas.drawString(px + 3, py + 3, f"{cut.n} {cut.tool}{told}")


def _tearing(canvas: Any, one: Placement, piece: Piece, at: Any) -> None:
    """Thick lines where a cutter tears the outline with the show side up."""
    from grainet.fit.tear_out import stretches

    canvas.setLineWidth(4)
    for stretch in stretches(as_array(one.polygon), piece.grain_slope_deg or 0.0, turned_over=one.face_up == "2"):
        if stretch.kind == "tears":
            path = canvas.beginPath()
            path.moveTo(*at(*stretch.points[0]))
            for point in stretch.points[1:]:
                path.lineTo(*at(*point))
            canvas.drawPath(path)
    canvas.setLineWidth(1.2)


def _planing(canvas: Any, piece: Piece, at: Any, mm: float) -> None:
    """Chevrons at the marked end: toward which end face 1 planes clean, or that it tears both ways."""
    way = planing_direction(piece)
    if not way:
        return
    x, y = at(piece.extents[0] + 8, piece.extents[1] + 8)
    words = {"far": "planes clean this way", "marked": "planes clean this way"}.get(way, "tears both ways")
    canvas.setLineWidth(1.2)
    for k in range(3):
        s = 1 if way == "far" or (way == "both_ways_tear" and k == 2) else -1
        tip = x + (k * 3 + (3 if s > 0 else 0)) * mm
        canvas.line(tip, y, tip - s * 3 * mm, y + 2.5 * mm)
        canvas.line(tip, y, tip - s * 3 * mm, y - 2.5 * mm)
    canvas.setFont("Words", 8)
    canvas.drawString(x + 14 * mm, y - 3, words)


def _ring(canvas: Any, ring: Any, at: Any) -> None:
    path = canvas.beginPath()
    path.moveTo(*at(*ring[0]))
    for point in ring[1:]:
        path.lineTo(*at(*point))
    path.close()
    canvas.drawPath(path)
