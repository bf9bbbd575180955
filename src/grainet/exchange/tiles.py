"""A drawing at true size over pages that tile: overlap, register crosses, a bar with its length, a map of the pages first."""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

from grainet.wrapping import wrap

MM = 72 / 25.4  # points a millimetre
PAPERS: dict[str, tuple[float, float]] = {"A4": (210.0, 297.0), "A3": (297.0, 420.0), "letter": (215.9, 279.4)}
MARGIN_MM, OVERLAP_MM, FOOT_MM = 8.0, 10.0, 12.0
BAR_MM = 100.0

Draw = Callable[[Any, float, tuple[float, float]], None]
"""Draws everything on a canvas: points a millimetre, and by how many mm it is shifted."""


@dataclass(frozen=True)
class Tiling:
    """How a drawing is spread over pages: the paper, columns and rows, and what one page shows anew, mm."""

    paper: str
    columns: int
    rows: int
    step_mm: tuple[float, float]
    shown_mm: tuple[float, float]

    @property
    def pages(self) -> int:
        """How many pages, without the map."""
        return self.columns * self.rows

    @property
    def page_mm(self) -> tuple[float, float]:
        """A page's own size."""
        return self.shown_mm[0] + 2 * MARGIN_MM, self.shown_mm[1] + 2 * MARGIN_MM + FOOT_MM


def tiling(size_mm: tuple[float, float], paper: str) -> Tiling:
    """The pages that a drawing of a size takes, the paper laid the way that takes fewer. Raises KeyError for no known paper."""
    found = []
    wide, high = PAPERS[paper]
    for w, h in ((wide, high), (high, wide)):
        shown = (w - 2 * MARGIN_MM, h - 2 * MARGIN_MM - FOOT_MM)
        step = (shown[0] - OVERLAP_MM, shown[1] - OVERLAP_MM)
        columns, rows = (max(1, math.ceil((s - OVERLAP_MM) / t - 1e-9)) for s, t in zip(size_mm, step))
        found.append(Tiling(paper, columns, rows, step, shown))
    return min(found, key=lambda t: t.pages)


def draw_tiled(
    canvas: Any, title: str, draw: Draw, origin: tuple[float, float], tiles: Tiling, told: str, notes: Sequence[str] = ()
) -> None:
    """A map of the pages first, then the pages from the lower left, row by row; ``origin`` is the drawing's lower left corner."""
    canvas.setPageSize((tiles.page_mm[0] * MM, tiles.page_mm[1] * MM))
    _map(canvas, title, draw, origin, tiles, told, notes)
    for r in range(tiles.rows):
        for c in range(tiles.columns):
            _page(canvas, title, draw, origin, tiles, (c, r))


def _page(canvas: Any, title: str, draw: Draw, origin: tuple[float, float], tiles: Tiling, at: tuple[int, int]) -> None:
    c, r = at
    low = (origin[0] + c * tiles.step_mm[0], origin[1] + r * tiles.step_mm[1])
    shift = (MARGIN_MM - low[0], MARGIN_MM + FOOT_MM - low[1])
    _register(canvas, tiles)  # below the drawing: a figure there stays whole
    canvas.saveState()
    clip = canvas.beginPath()
    clip.rect(MARGIN_MM * MM, (MARGIN_MM + FOOT_MM) * MM, tiles.shown_mm[0] * MM, tiles.shown_mm[1] * MM)
    canvas.clipPath(clip, stroke=0, fill=0)
    draw(canvas, MM, shift)
    canvas.restoreState()
    canvas.setFont("Words", 8)
    number = r * tiles.columns + c + 1
    words = f"{title}: page {number} of {tiles.pages}, column {c + 1} of {tiles.columns}, row {r + 1} of {tiles.rows}; lay the crosses on one another"
    canvas.drawString(MARGIN_MM * MM, (MARGIN_MM + 1) * MM, words)
    _bar(canvas, MARGIN_MM, MARGIN_MM + 6)
    canvas.showPage()


def _register(canvas: Any, tiles: Tiling) -> None:
    """Crosses in the overlap: the same place of the drawing on both pages that share it."""
    canvas.setLineWidth(0.4)
    low = (MARGIN_MM + OVERLAP_MM / 2, MARGIN_MM + FOOT_MM + OVERLAP_MM / 2)
    for x in (low[0], low[0] + tiles.step_mm[0]):
        for y in (low[1], low[1] + tiles.step_mm[1]):
            canvas.line((x - 4) * MM, y * MM, (x + 4) * MM, y * MM)
            canvas.line(x * MM, (y - 4) * MM, x * MM, (y + 4) * MM)
            canvas.circle(x * MM, y * MM, 1.5 * MM)


def _bar(canvas: Any, x: float, y: float) -> None:
    """A bar that proves the print: its length stands on it."""
    canvas.setLineWidth(0.6)
    canvas.line(x * MM, y * MM, (x + BAR_MM) * MM, y * MM)
    for at in (x, x + BAR_MM / 2, x + BAR_MM):
        canvas.line(at * MM, (y - 1.5) * MM, at * MM, (y + 1.5) * MM)
    canvas.setFont("Words", 7)
    canvas.drawString((x + BAR_MM + 2) * MM, (y - 1) * MM, f"this bar is {BAR_MM:.0f} mm: print at 100 %, no fitting to the page")


def _map(
    canvas: Any, title: str, draw: Draw, origin: tuple[float, float], tiles: Tiling, told: str, notes: Sequence[str]
) -> None:  # fmt: skip
    """The first page: the whole drawing small, with every page's frame and number."""
    page = tiles.page_mm
    canvas.setFont("Words-Bold", 14)
    canvas.drawString(MARGIN_MM * MM, (page[1] - 14) * MM, f"{title}: full size on {tiles.pages} pages of {tiles.paper}")
    canvas.setFont("Words", 9)
    words = f"{told} Pages overlap by {OVERLAP_MM:.0f}; lay the crosses on one another and check the bar."
    room = (page[0] - 2 * MARGIN_MM) * MM
    rows = [row for text in (words, *notes) for row in wrap(text, room, lambda some: canvas.stringWidth(some, "Words", 9))]
    for k, row in enumerate(rows):
        canvas.drawString(MARGIN_MM * MM, (page[1] - 20 - 5 * k) * MM, row)
    whole = (tiles.step_mm[0] * tiles.columns + OVERLAP_MM, tiles.step_mm[1] * tiles.rows + OVERLAP_MM)
    scale = min((page[0] - 2 * MARGIN_MM) / whole[0], (page[1] - 45 - 5 * len(rows)) / whole[1])
    canvas.saveState()
    canvas.translate(MARGIN_MM * MM, 20 * MM)
    draw(canvas, scale * MM, (-origin[0], -origin[1]))
    canvas.setDash([])
    canvas.setLineWidth(0.3)
    canvas.setFont("Words", 10)
    for r in range(tiles.rows):
        for c in range(tiles.columns):
            x, y = c * tiles.step_mm[0] * scale * MM, r * tiles.step_mm[1] * scale * MM
            canvas.rect(x, y, tiles.shown_mm[0] * scale * MM, tiles.shown_mm[1] * scale * MM)
            canvas.drawString(x + 5, y + 5, str(r * tiles.columns + c + 1))
    canvas.restoreState()
    canvas.showPage()
