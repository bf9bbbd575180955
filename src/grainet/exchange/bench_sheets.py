"""Sheets for the bench, each on one page: a glue-up with its clamps drawn, a day's work, the batches that are made at one setting."""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import zip_longest
from typing import Any

from grainet.exchange.pdf_fonts import register_fonts
from grainet.wood.units import LengthStyle, format_length
from grainet.work.operation import Operation

MARGIN, BOX = 44.0, 9.0
WIDE = 595.0  # of an A4 page
LARGEST, LEAST = 10.5, 5.5  # of a list's letters, so that it stays on one page
LINES_A_ROW = 1.42
RIGHT = 150.0  # of the words at the right, with the room that a step begins after


@dataclass(frozen=True)
class SheetRow:
    """A heading, or a step: its number, what is done, what stands at the right, and a caution under it."""

    head: str = ""
    number: str = ""
    text: str = ""
    right: str = ""
    caution: str = ""


@dataclass(frozen=True)
class GlueSheet:
    """What a glue-up's sheet says beside its operation."""

    title: str
    letters: tuple[str, ...]
    kit: tuple[str, ...]
    glue: str
    why: str
    open_words: str
    clamp_words: tuple[str, ...]
    fit_words: str
    after: tuple[tuple[str, str], ...]  # clamps off, plane flush, full: and when


def list_pdf(title: str, message: str, rows: Sequence[SheetRow]) -> bytes:
    """A list with a box to tick at every step, its letters as large as one A4 page allows; what does not fit even so goes on."""
    from reportlab.lib.pagesizes import A4
    from reportlab.lib.utils import simpleSplit
    from reportlab.pdfgen.canvas import Canvas

    register_fonts()
    width, height = A4
    memory = io.BytesIO()
    page = Canvas(memory, pagesize=A4, invariant=True)
    page.setTitle(title)
    room = width - 2 * MARGIN
    size = LARGEST
    while size > LEAST and _tall(rows, size, room, simpleSplit) > height - 2 * MARGIN - 50:
        size -= 0.25
    y = _head(page, title, message, height)
    for row in rows:
        need = _row_tall(row, size, room, simpleSplit)
        if y - need < MARGIN:
            page.showPage()
            y = height - MARGIN
        y = _row(page, row, y, size, room, simpleSplit)
    page.save()
    return memory.getvalue()


def _head(page: Any, title: str, message: str, height: float) -> float:
    page.setFont("Words-Bold", 16)
    page.drawString(MARGIN, height - MARGIN - 6, title)
    from reportlab.lib.utils import simpleSplit

    y = height - MARGIN - 22
    for line in simpleSplit(message, "Words", 10, WIDE - 2 * MARGIN):
        page.setFont("Words", 10)
        page.drawString(MARGIN, y, line)
        y -= 13
    return y - 6


def _tall(rows: Sequence[SheetRow], size: float, room: float, split: Any) -> float:
    return sum(_row_tall(row, size, room, split) for row in rows)


def _row_tall(row: SheetRow, size: float, room: float, split: Any) -> float:
    if row.head:
        return size * 2.5
    lines = max(1, len(split(row.text, "Words", size, room - RIGHT - 10)), len(split(row.right, "Words", size - 0.5, RIGHT - 52)))
    return size * LINES_A_ROW * (lines + len(split(row.caution, "Words", size - 1, room - 90)))


def _row(page: Any, row: SheetRow, y: float, size: float, room: float, split: Any) -> float:
    """One row; where the next one begins."""
    line = size * LINES_A_ROW
    if row.head:
        y -= size
        page.setFont("Words-Bold", size + 2)
        page.drawString(MARGIN, y, row.head)
        page.line(MARGIN, y - 3, MARGIN + room, y - 3)
        return float(y - size * 1.5)
    box = min(BOX, size)
    page.rect(MARGIN, y - 1, box, box)
    page.setFont("Figures-Bold", size + 1)
    page.drawString(MARGIN + box + 6, y, row.number)
    words, right = split(row.text, "Words", size, room - RIGHT - 10), split(row.right, "Words", size - 0.5, RIGHT - 52)
    for text, told in zip_longest(words or [""], right, fillvalue=""):
        page.setFont("Words", size - 0.5)
        page.drawRightString(MARGIN + room, y, told)
        page.setFont("Words", size)
        page.drawString(MARGIN + 52, y, text)
        y -= line
    for text in split(row.caution, "Words", size - 1, room - 90) if row.caution else ():
        page.setFont("Words-Bold", size - 1)
        page.drawString(MARGIN + 52, y, text)
        y -= line
    return float(y)


# a glue-up ---------------------------------------------------------------------------------------------------------------
def glue_sheet_pdf(one: Operation, told: GlueSheet, style: LengthStyle = "mm") -> bytes:
    """A glue-up on one page: the joint with every clamp in its place and its order, what lies ready, the gates with room to write, the
    clocks."""
    from reportlab.lib.pagesizes import A4
    from reportlab.lib.utils import simpleSplit
    from reportlab.pdfgen.canvas import Canvas

    register_fonts()
    width, height = A4
    memory = io.BytesIO()
    page = Canvas(memory, pagesize=A4, invariant=True)
    page.setTitle(told.title)
    y = _head(page, told.title, f"{' to '.join(told.letters)}; {told.glue}", height)
    y = _joint(page, one, told, MARGIN, y - 8, width - 2 * MARGIN, 190.0, style)
    for words in told.clamp_words:
        for line in simpleSplit(words, "Words", 10.5, width - 2 * MARGIN):
            page.setFont("Words", 10.5)
            page.drawString(MARGIN, y, line)
            y -= 15
    y = _ticks(page, "Before the glue", [
        f"letters read off the wood, in order: {' '.join(told.letters)}", "moisture of both read: ______ and ______ %", f"fit: {told.fit_words}; ends ______ middle ______",
        "dry run: every clamp at its place, then off again",
    ], y - 10)  # fmt: skip
    y = _ticks(page, "On the bench", list(told.kit), y - 8, columns=3)
    cautions = [c.text for c in one.cautions]
    if cautions:
        page.setFont("Words-Bold", 11)
        page.drawString(MARGIN, y - 8, "Mind")
        y -= 24
        for text in cautions:
            for line in simpleSplit(text, "Words", 10, width - 2 * MARGIN):
                page.setFont("Words", 10)
                page.drawString(MARGIN, y, line)
                y -= 13
    page.setFont("Words-Bold", 11)
    page.drawString(MARGIN, y - 10, f"Open time: {told.open_words}")
    page.setFont("Words", 10)
    page.drawString(MARGIN, y - 25, told.why)
    y = _ticks(page, "Clocks", ["started at ______", *(f"{word}: {when}" for word, when in told.after)], y - 36)
    page.save()
    return memory.getvalue()


def _ticks(page: Any, head: str, lines: Sequence[str], y: float, columns: int = 1) -> float:
    page.setFont("Words-Bold", 11)
    page.drawString(MARGIN, y, head)
    y -= 18
    each = 500.0 / columns
    for k, text in enumerate(lines):
        x = MARGIN + (k % columns) * each
        page.rect(x, y - 1, BOX, BOX)
        page.setFont("Words", 10.5)
        page.drawString(x + BOX + 6, y, text)
        if k % columns == columns - 1 or k == len(lines) - 1:
            y -= 16
    return y


def _joint(page: Any, one: Operation, told: GlueSheet, x: float, y: float, room: float, high: float, style: LengthStyle) -> float:
    """The joint from above, with clamps by their order and their places in mm along it; where the next line stands."""
    long, wide = float(one.settings.get("long_mm", 400.0)), float(one.settings.get("wide_mm", 40.0))
    edge = one.settings.get("joint") == "edge"
    across = max(float(one.settings.get("opens_mm", wide)), 1.0) if edge else wide
    scale = min(room / long, (high - 40) / across)
    left, top = x + (room - long * scale) / 2, y - 14
    bottom = top - max(24.0, across * scale)
    page.rect(left, bottom, long * scale, top - bottom)
    if edge:
        count = len(one.works_on)
        for k in range(1, count):
            line = top - (top - bottom) * k / count
            page.setLineWidth(1.6)
            page.line(left, line, left + long * scale, line)
            page.setLineWidth(1)
        for k, letter in enumerate(told.letters):
            page.setFont("Figures-Bold", 14)
            page.drawString(left + 6, top - (top - bottom) * (k + 0.5) / count - 5, letter)
    for order, spot in enumerate(one.clamps):
        at = left + spot.x_mm * scale
        middle = (top + bottom) / 2 if edge else top - spot.y_mm * (top - bottom) / wide
        if edge:
            page.setDash([3, 2] if spot.side == "under" else [])
            page.line(at, bottom - 8, at, top + 8)
            page.setDash([])
        page.setFillGray(1)
        page.circle(at, middle, 7, fill=1)
        page.setFillGray(0)
        page.setFont("Figures-Bold", 9)
        page.drawCentredString(at, middle - 3, str(order + 1))
        if edge or spot.y_mm < wide / max(1, int(one.settings.get("rows", 1))):
            page.setFont("Words", 7.5)
            page.drawCentredString(at, bottom - 18, format_length(round(spot.x_mm), style))
    page.setFont("Words", 8)
    page.drawRightString(left + long * scale, bottom - 28, f"{format_length(round(long), style)} long; places from the left end")
    return float(bottom - 44)
