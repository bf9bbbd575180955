"""Labels as PDF at true size: number large, what it is, its place and weight, warnings, and a QR code that opens the piece.

The code holds ``#`` and the number, which is what the tape line takes; a scanner that types is all that it needs.
"""

from __future__ import annotations

import io
from collections.abc import Sequence
from pathlib import Path
from typing import Any, NamedTuple

from grainet.exchange.json_file import write_bytes
from grainet.exchange.pdf_fonts import register_fonts
from grainet.wood.flags import flags_of
from grainet.wood.piece import Piece
from grainet.wood.species import short_name
from grainet.wood.units import LengthStyle, format_length
from grainet.wood.value import Value

MM = 72 / 25.4
A4_MM = (210.0, 297.0)


class LabelSheet(Value):
    """How labels lie on a sheet, in mm. The shipped one is A4 with 3 columns of 8; a single label is a page of its own size."""

    width_mm: float = 70.0
    height_mm: float = 37.0
    columns: int = 3
    rows: int = 8
    left_mm: float = 0.0
    top_mm: float = 0.5

    @property
    def count(self) -> int:
        """How many labels one sheet has."""
        return self.columns * self.rows


class Label(NamedTuple):
    """What stands on a label: its title, what its code says (none where it is empty), and its lines, each with its font and size in points."""

    title: str
    code: str
    lines: Sequence[tuple[str, str, float]]


def label_of_piece(piece: Piece, style: LengthStyle = "mm") -> Label:
    """The label of a piece of the rack."""
    return Label(f"No. {piece.id}", code_of(piece.id), _lines(piece, style))


def code_of(piece_id: str) -> str:
    """What a label's QR code says."""
    return f"#{piece_id}"


def write_labels(
    path: Path, pieces: Sequence[Piece | Label], sheet: LabelSheet | None = None, skip: int = 0, style: LengthStyle = "mm", *, outlines: bool = True
) -> int:  # fmt: skip
    """Write labels as PDF, of pieces or of whatever else is told: on sheets, ``skip`` places already used; or, without a sheet, each on a page
    of its own size.

    Returns the number of pages. Raises ValueError for no pieces or a sheet that does not fit on A4.
    """
    if not pieces:
        raise ValueError("no piece was chosen; a label needs one")
    from reportlab.pdfgen.canvas import Canvas

    plan = sheet or LabelSheet()
    if sheet is not None and (
        sheet.left_mm + sheet.columns * sheet.width_mm > A4_MM[0] + 0.01
        or sheet.top_mm + sheet.rows * sheet.height_mm > A4_MM[1] + 0.51
    ):
        raise ValueError(f"{sheet.columns} x {sheet.rows} labels of {sheet.width_mm:g} x {sheet.height_mm:g} do not fit on A4")
    out = io.BytesIO()
    page = A4_MM if sheet else (plan.width_mm, plan.height_mm)
    canvas = Canvas(out, pagesize=(page[0] * MM, page[1] * MM), invariant=1)
    canvas.setTitle("Labels")
    register_fonts()
    per_page = plan.count if sheet else 1
    places = [*range(skip % per_page, skip % per_page + len(pieces))] if sheet else [*range(len(pieces))]
    for k, (at, piece) in enumerate(zip(places, pieces)):
        if k and at % per_page == 0:
            canvas.showPage()
        column, row = (at % per_page % plan.columns, at % per_page // plan.columns) if sheet else (0, 0)
        x = (plan.left_mm if sheet else 0.0) + column * plan.width_mm
        y = page[1] - (plan.top_mm if sheet else 0.0) - (row + 1) * plan.height_mm
        told = piece if isinstance(piece, Label) else label_of_piece(piece, style)
        _label(canvas, told, x * MM, y * MM, plan.width_mm * MM, plan.height_mm * MM, frame=outlines and sheet is not None)
    canvas.save()
    write_bytes(path, out.getvalue())
    return places[-1] // per_page + 1 if sheet else len(pieces)


def _label(c: Any, told: Label, x: float, y: float, w: float, h: float, *, frame: bool) -> None:
    if frame:
        c.setLineWidth(0.25)
        c.setStrokeGray(0.7)
        c.rect(x, y, w, h)
    pad = 2.5 * MM
    side = min(h - 2 * pad, 24 * MM)
    _code(c, told.code, x + w - pad - side, y + h - pad - side, side)
    room = w - side - 3 * pad
    size = 26.0
    while size > 11 and c.stringWidth(told.title, "Figures-Bold", size) > room:
        size -= 1
    c.setFillGray(0)
    c.setFont("Figures-Bold", size)
    top = y + h - pad
    c.drawString(x + pad, top - 0.78 * size, told.title)
    line = top - size - 2
    for text, font, points in told.lines:
        line -= points + 2.2
        if line < y + 1.2 * MM:
            break
        wide = room if line + points > y + h - pad - side - 1 else w - 2 * pad
        while points > 6.2 and c.stringWidth(text, font, points) > wide:
            points -= 0.25
        c.setFont(font, points)
        c.drawString(x + pad, line, _cut(c, text, font, points, wide))


def _lines(piece: Piece, style: LengthStyle) -> list[tuple[str, str, float]]:
    x0, y0, x1, y1 = piece.extents
    thick = piece.least_thickness_mm
    size = " × ".join(format_length(v, style) for v in (x1 - x0, y1 - y0)) if piece.outline else "size not read"
    size += f" × {format_length(thick, style)}" if thick else ""
    unit = "" if style in ("fraction", "feet", "quarters") else " mm" if style == "mm" else " in"
    where = "  ·  ".join(
        t
        for t in (
            f"at {piece.place}" if piece.place else "",
            f"{piece.mass_kg:g} kg" if piece.mass_kg else "",
            f"bundle {piece.bundle}" if piece.bundle else "",
        )
        if t
    )
    species = "species unknown" if piece.species == "unknown" else short_name(piece.species)
    lines = [(f"{species}, {piece.kind.replace('_', ' ')}", "Words-Bold", 8.5), (size + unit, "Words", 8.5)]
    if where:
        lines.append((where, "Words", 8.5))
    return lines + [(flag, "Words-Bold", 7.5) for flag in flags_of(piece)]


def _cut(c: Any, text: str, font: str, points: float, room: float) -> str:
    if c.stringWidth(text, font, points) <= room:
        return text
    while text and c.stringWidth(text + "…", font, points) > room:
        text = text[:-1]
    return text + "…"


def _code(c: Any, said: str, x: float, y: float, side: float) -> None:
    """The QR code as filled squares, four modules of quiet rim within ``side``."""
    import segno

    rows = [bytes(r) for r in segno.make(said, error="m", micro=False).matrix]
    cell = side / (len(rows) + 8)
    c.setFillGray(0)
    for r, row in enumerate(rows):
        for k, dark in enumerate(row):
            if dark:
                c.rect(x + (k + 4) * cell, y + side - (r + 5) * cell, cell, cell, stroke=0, fill=1)
