"""Full-size prints of an instrument's outlines over pages that tile: overlap, register marks, a bar with its length, a map of the pages."""

from __future__ import annotations

import io
import math
from collections.abc import Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from grainet.design.instrument import Instrument
from grainet.exchange.json_file import write_bytes
from grainet.exchange.outline_write import named_rings, template_rings
from grainet.exchange.pdf_fonts import register_fonts
from grainet.wood.value import Ring

MM = 72 / 25.4  # points a millimetre
PAPERS: dict[str, tuple[float, float]] = {"A4": (210.0, 297.0), "A3": (297.0, 420.0), "letter": (215.9, 279.4)}
MARGIN_MM, OVERLAP_MM, FOOT_MM = 8.0, 10.0, 12.0
BAR_MM = 100.0


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


def full_size_pdf(
    g: Instrument,
    paper: str = "A4",
    *,
    mirrored: bool = False,
    names: Sequence[str] = (),
    templates: bool = False,
    copy: bool = False,
) -> bytes:
    """A PDF at true size: a map of the pages first, then the pages from the lower left, row by row. ``names`` keeps to some outlines;
    ``templates`` prints the templates, set off for bearing and cutter, and a ``copy`` says on every page that it is one. Raises BadEntry."""
    from reportlab.pdfgen.canvas import Canvas

    register_fonts()
    every = template_rings(g, mirrored=mirrored) if templates else named_rings(g, mirrored=mirrored)
    rows = [(name, kind, ring) for name, kind, ring in every if not names or name in names]
    xs = [x for _, _, ring in rows for x, _ in ring]
    ys = [y for _, _, ring in rows for _, y in ring]
    origin = (min(xs) - 2, min(ys) - 2)
    size = (max(xs) - min(xs) + 4, max(ys) - min(ys) + 4)
    tiles = tiling(size, paper)
    page = (tiles.shown_mm[0] + 2 * MARGIN_MM, tiles.shown_mm[1] + 2 * MARGIN_MM + FOOT_MM)
    stream = io.BytesIO()
    canvas = Canvas(stream, pagesize=(page[0] * MM, page[1] * MM), invariant=1)
    title = (
        f"{g.shown_name}{', templates' if templates else ''}{', back, mirrored' if mirrored else ''}{', COPY' if copy else ''}"
    )
    canvas.setTitle(f"{title}, full size")
    _map(canvas, title, rows, origin, size, tiles, page)
    for r in range(tiles.rows):
        for c in range(tiles.columns):
            _page(canvas, title, rows, origin, tiles, (c, r), page)
    canvas.save()
    return stream.getvalue()


def write_full_size(
    path: Path, g: Instrument, paper: str = "A4", *, mirrored: bool = False, templates: bool = False, copy: bool = False
) -> Tiling:
    """The prints to a file; returns how they tile. Raises Unusable, and BadEntry."""
    write_bytes(path, full_size_pdf(g, paper, mirrored=mirrored, templates=templates, copy=copy))
    rings = [ring for _, _, ring in (template_rings(g) if templates else named_rings(g))]
    xs = [x for ring in rings for x, _ in ring]
    ys = [y for ring in rings for _, y in ring]
    return tiling((max(xs) - min(xs) + 4, max(ys) - min(ys) + 4), paper)


def _path(canvas: Any, ring: Ring, scale: float, shift: tuple[float, float]) -> Any:
    path = canvas.beginPath()
    for k, (x, y) in enumerate(ring):
        (path.lineTo if k else path.moveTo)((x + shift[0]) * scale, (y + shift[1]) * scale)
    path.close()
    return path


def _draw(canvas: Any, rows: Sequence[tuple[str, str, Ring]], scale: float, shift: tuple[float, float]) -> None:
    for _, kind, ring in rows:
        canvas.setLineWidth(0.7 if kind == "outline" else 0.5)
        canvas.setDash([] if kind in ("outline", "critical") else [3, 2])
        canvas.drawPath(_path(canvas, ring, scale, shift), stroke=1, fill=0)
    canvas.setDash([])


def _page(
    canvas: Any, title: str, rows: Sequence[tuple[str, str, Ring]], origin: tuple[float, float], tiles: Tiling, at: tuple[int, int], page: tuple[float, float],
) -> None:  # fmt: skip
    c, r = at
    low = (origin[0] + c * tiles.step_mm[0], origin[1] + r * tiles.step_mm[1])
    shift = (MARGIN_MM - low[0], MARGIN_MM + FOOT_MM - low[1])
    canvas.saveState()
    clip = canvas.beginPath()
    clip.rect(MARGIN_MM * MM, (MARGIN_MM + FOOT_MM) * MM, tiles.shown_mm[0] * MM, tiles.shown_mm[1] * MM)
    canvas.clipPath(clip, stroke=0, fill=0)
    _draw(canvas, rows, MM, shift)
    canvas.setLineWidth(0.3)
    canvas.setDash([8, 3, 1, 3])
    canvas.line(0, shift[1] * MM, page[0] * MM, shift[1] * MM)  # the centre line
    canvas.setDash([])
    canvas.restoreState()
    _register(canvas, tiles)
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
    canvas: Any, title: str, rows: Sequence[tuple[str, str, Ring]], origin: tuple[float, float], size: tuple[float, float], tiles: Tiling, page: tuple[float, float],
) -> None:  # fmt: skip
    """The first page: the whole drawing small, with every page's frame and number."""
    canvas.setFont("Words-Bold", 14)
    canvas.drawString(MARGIN_MM * MM, (page[1] - 14) * MM, f"{title}: full size on {tiles.pages} pages of {tiles.paper}")
    canvas.setFont("Words", 9)
    words = f"{size[0] - 4:.1f} x {size[1] - 4:.1f} mm. Pages overlap by {OVERLAP_MM:.0f}; lay the crosses on one another and check the bar."
    canvas.drawString(MARGIN_MM * MM, (page[1] - 20) * MM, words)
    notes = [name for name, _, _ in rows if ": " in name][:12]
    for k, note in enumerate(notes):
        canvas.drawString(MARGIN_MM * MM, (page[1] - 26 - 5 * k) * MM, note)
    whole = (tiles.step_mm[0] * tiles.columns + OVERLAP_MM, tiles.step_mm[1] * tiles.rows + OVERLAP_MM)
    scale = min((page[0] - 2 * MARGIN_MM) / whole[0], (page[1] - 50 - 5 * len(notes)) / whole[1])
    canvas.saveState()
    canvas.translate(MARGIN_MM * MM, 20 * MM)
    _draw(canvas, rows, scale * MM, (-origin[0], -origin[1]))
    canvas.setLineWidth(0.3)
    canvas.setFont("Words", 10)
    for r in range(tiles.rows):
        for c in range(tiles.columns):
            x, y = c * tiles.step_mm[0] * scale * MM, r * tiles.step_mm[1] * scale * MM
            canvas.rect(x, y, tiles.shown_mm[0] * scale * MM, tiles.shown_mm[1] * scale * MM)
            canvas.drawString(x + 5, y + 5, str(r * tiles.columns + c + 1))
    canvas.restoreState()
    canvas.showPage()
