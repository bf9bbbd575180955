"""Full-size prints of an instrument's outlines over pages that tile."""

from __future__ import annotations

import io
from collections.abc import Sequence
from pathlib import Path
from typing import Any

from grainet.design.instrument import Instrument
from grainet.exchange.json_file import write_bytes
from grainet.exchange.outline_write import named_rings, template_rings
from grainet.exchange.pdf_fonts import register_fonts
from grainet.exchange.tiles import Tiling, draw_tiled, tiling
from grainet.wood.value import Ring


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
    stream = io.BytesIO()
    canvas = Canvas(stream, invariant=1)
    title = (
        f"{g.shown_name}{', templates' if templates else ''}{', back, mirrored' if mirrored else ''}{', COPY' if copy else ''}"
    )
    canvas.setTitle(f"{title}, full size")
    notes = [name for name, _, _ in rows if ": " in name][:12]

    def draw(canvas: Any, scale: float, shift: tuple[float, float]) -> None:
        _draw(canvas, rows, scale, shift)
        canvas.setLineWidth(0.3)
        canvas.setDash([8, 3, 1, 3])
        y = shift[1] * scale  # the centre line
        canvas.line((origin[0] + shift[0]) * scale, y, (origin[0] + size[0] + shift[0]) * scale, y)
        canvas.setDash([])

    draw_tiled(canvas, title, draw, origin, tiles, f"{size[0] - 4:.1f} x {size[1] - 4:.1f} mm.", notes)
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
