"""Sheets for the bench, each on one page: a glue-up with its clamps drawn, a day's work, the batches that are made at one setting."""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import zip_longest
from typing import Any

from grainet.exchange.pdf_fonts import register_fonts
from grainet.wood.units import LengthStyle, format_length
from grainet.work.clamp_plan import is_taped
from grainet.work.operation import Operation

MARGIN, BOX = 44.0, 9.0
WIDE = 595.0  # of an A4 page
LARGEST, READABLE, LEAST = (
    10.5,
    8.5,
    7.0,
)  # of a list's letters: below the second it goes in two columns, below the third overleaf
LINES_A_ROW = 1.42
BETWEEN = 22.0  # two columns


@dataclass(frozen=True)
class SheetRow:
    """A heading, a note without a box, or a step: its number, what is done, what stands at the right, and a caution under it."""

    head: str = ""
    number: str = ""
    text: str = ""
    right: str = ""
    caution: str = ""
    note: str = ""


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


@dataclass(frozen=True)
class _Column:
    """How a list is set: so many columns of a width, letters of a size, and how much of it the words at the right may take."""

    count: int
    room: float
    size: float
    right: float
    split: Any

    @property
    def line(self) -> float:
        """From one line to the next."""
        return self.size * LINES_A_ROW

    @property
    def begins(self) -> float:
        """Where a step's words begin, after its box and number."""
        return 4.4 * self.size + 6

    def words(self, row: SheetRow) -> tuple[list[str], list[str], list[str]]:
        """A row's lines: what is done, what stands at the right, the caution."""
        from reportlab.pdfbase.pdfmetrics import stringWidth

        right = self.split(row.right, "Words", self.size - 0.5, self.right) if row.right else []
        beside = max((stringWidth(line, "Words", self.size - 0.5) + 8 for line in right), default=0.0)
        told = self.split(row.text, "Words", self.size, self.room - self.begins - beside)
        caution = self.split(row.caution, "Words", self.size - 1, self.room - self.begins) if row.caution else []
        return told or [""], right, caution

    def tall(self, row: SheetRow) -> float:
        """How much of the page a row takes."""
        if row.head:
            return self.size * 2.5
        if row.note:
            return self.line * len(self.split(row.note, "Words", self.size - 0.5, self.room))
        told, right, caution = self.words(row)
        return self.line * (max(len(told), len(right)) + len(caution))

    def pages(self, rows: Sequence[SheetRow], first: float, high: float) -> list[list[list[SheetRow]]]:
        """Rows by pages and columns; ``first`` is how high the columns of the first page are, ``high`` those of the others."""
        found: list[list[list[SheetRow]]] = [[[]]]
        left = first
        for k, row in enumerate(rows):
            need = self.tall(row) + (self.tall(rows[k + 1]) if row.head and k + 1 < len(rows) else 0.0)  # no heading stands alone
            if need > left and found[-1][-1]:
                if len(found[-1]) < self.count:
                    found[-1].append([])
                else:
                    found.append([[]])
                left = first if len(found) == 1 else high
            found[-1][-1].append(row)
            left -= self.tall(row)
        return found


def list_pdf(title: str, message: str, rows: Sequence[SheetRow]) -> bytes:
    """A list with a box to tick at every step, on one A4 page as long as its letters can be read at the bench: in two columns where one is too
    small for them. What does not fit even so goes on overleaf."""
    from reportlab.lib.pagesizes import A4
    from reportlab.pdfgen.canvas import Canvas

    register_fonts()
    height = A4[1]
    memory = io.BytesIO()
    page = Canvas(memory, pagesize=A4, invariant=True)
    page.setTitle(title)
    top = _head(page, title, message, height)
    column, pages = _set(rows, top - MARGIN, height - 2 * MARGIN)
    for number, columns in enumerate(pages):
        if number:
            page.showPage()
        for k, some in enumerate(columns):
            y = top if number == 0 else height - MARGIN
            for row in some:
                y = _row(page, row, MARGIN + k * (column.room + BETWEEN), y, column)
    page.save()
    return memory.getvalue()


def _set(rows: Sequence[SheetRow], first: float, high: float) -> tuple[_Column, list[list[list[SheetRow]]]]:
    """The largest letters with which a list stays on one page, and how it is set with them."""
    from reportlab.lib.utils import simpleSplit

    room = WIDE - 2 * MARGIN
    column, pages = _Column(1, room, LARGEST, 110.0, simpleSplit), [[list(rows)]]
    for count, least in ((1, READABLE), (2, LEAST)):
        each = (room - BETWEEN * (count - 1)) / count
        size = LARGEST
        while size >= least:
            column = _Column(count, each, size, 110.0 if count == 1 else 74.0, simpleSplit)
            pages = column.pages(rows, first, high)
            if len(pages) == 1:
                return column, pages
            size -= 0.25
    return column, pages


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


def _row(page: Any, row: SheetRow, x: float, y: float, column: _Column) -> float:
    """One row; where the next one begins."""
    size, line = column.size, column.line
    if row.head:
        y -= size
        page.setFont("Words-Bold", size + 2)
        page.drawString(x, y, row.head)
        page.line(x, y - 3, x + column.room, y - 3)
        return float(y - size * 1.5)
    if row.note:
        page.setFont("Words", size - 0.5)
        for text in column.split(row.note, "Words", size - 0.5, column.room):
            page.drawString(x, y, text)
            y -= line
        return float(y)
    box = min(BOX, size)
    page.rect(x, y - 1, box, box)
    page.setFont("Figures-Bold", size + 1)
    page.drawString(x + box + 5, y, row.number)
    words, right, caution = column.words(row)
    for text, told in zip_longest(words, right, fillvalue=""):
        page.setFont("Words", size - 0.5)
        page.drawRightString(x + column.room, y, told)
        page.setFont("Words", size)
        page.drawString(x + column.begins, y, text)
        y -= line
    for text in caution:
        page.setFont("Words-Bold", size - 1)
        page.drawString(x + column.begins, y, text)
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
        f"letters read off the wood, in order: {' '.join(told.letters)}", f"moisture in %: {'  '.join(f'{letter} ______' for letter in told.letters)}",
        f"fit: {told.fit_words}; ends ______ middle ______",
        f"dry run: {'drawn shut with tape' if is_taped(one) else 'every clamp at its place'}, then off again",
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
    y = _ticks(page, "Clocks", ["started at ______", *(f"{word}: {when}" for word, when in told.after)], y - 48)
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
    stack = f"from above: {told.letters[-1]} lies on top, {told.letters[0]} below; " if not edge and len(told.letters) > 1 else ""
    page.drawRightString(
        left + long * scale, bottom - 28, f"{stack}{format_length(round(long), style)} long; places from the left end"
    )
    return float(bottom - 44)
