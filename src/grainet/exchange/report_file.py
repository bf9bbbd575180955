"""A report of rows under headings to CSV or PDF: what a list on the screen says, to be printed or sorted elsewhere."""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path

from grainet.exchange.csv_cells import as_cell
from grainet.exchange.json_file import write_bytes, write_text

MARGIN, LINE = 40.0, 13.0


@dataclass(frozen=True)
class ReportRow:
    """A heading, or a piece with what is said of it."""

    head: str = ""
    number: str = ""
    first: str = ""
    second: str = ""
    right: str = ""


def report_csv(rows: Sequence[ReportRow]) -> str:
    """One line a piece, its heading in the first column."""
    made = io.StringIO()
    writer = csv.writer(made, lineterminator="\n")
    writer.writerow(("group", "number", "says", "more", "when_or_where"))
    head = ""
    for row in rows:
        if row.head:
            head = row.head
        else:
            writer.writerow([as_cell(cell) for cell in (head, row.number, row.first, row.second, row.right.strip())])
    return made.getvalue()


def report_pdf(title: str, message: str, rows: Sequence[ReportRow]) -> bytes:
    """A4 pages with the shipped fonts; a heading is never left alone at the foot of a page."""
    from reportlab.lib.pagesizes import A4
    from reportlab.lib.utils import simpleSplit
    from reportlab.pdfgen.canvas import Canvas

    from grainet.exchange.pdf_fonts import register_fonts

    register_fonts()
    width, height = A4
    memory = io.BytesIO()
    page = Canvas(memory, pagesize=A4)
    page.setTitle(title)
    room = width - 2 * MARGIN
    y = height - MARGIN
    page.setFont("Words-Bold", 16)
    page.drawString(MARGIN, y, title)
    y -= 20
    for line in simpleSplit(message, "Words", 10.5, room):
        page.setFont("Words", 10.5)
        page.drawString(MARGIN, y, line)
        y -= LINE
    for row in rows:
        first = simpleSplit(row.first, "Words-Bold", 10, room - 130)
        second = simpleSplit(row.second, "Words", 9.5, room - 60)
        need = 60.0 if row.head else LINE * (len(first) + len(second)) + 8
        if y - need < MARGIN:
            page.showPage()
            y = height - MARGIN
        if row.head:
            y -= 18
            page.setFont("Words-Bold", 12)
            page.drawString(MARGIN, y, row.head)
            page.line(MARGIN, y - 4, width - MARGIN, y - 4)
            y -= 18
            continue
        page.setFont("Figures-Bold", 13)
        page.drawString(MARGIN, y, row.number)
        page.setFont("Words", 9.5)
        page.drawRightString(width - MARGIN, y, row.right.strip())
        for k, line in enumerate([*first, *second]):
            page.setFont("Words-Bold" if k < len(first) else "Words", 10 if k < len(first) else 9.5)
            page.drawString(MARGIN + 60, y, line)
            y -= LINE
        y -= 6
    page.save()
    return memory.getvalue()


def write_report(path: Path, title: str, message: str, rows: Sequence[ReportRow]) -> None:
    """Write a report; the suffix tells the form. Raises ValueError on another one, Unusable where it cannot be written."""
    if path.suffix.lower() == ".csv":
        write_text(path, report_csv(rows))
    elif path.suffix.lower() == ".pdf":
        write_bytes(path, report_pdf(title, message, rows))
    else:
        raise ValueError(f"{path.name}: a list is written as .pdf or .csv")
