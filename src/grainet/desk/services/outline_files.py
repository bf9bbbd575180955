"""Outlines written as files and printed at full size: asked for by the drawing and by the outline's own screen."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QWidget

from grainet.design.instrument import Instrument
from grainet.desk.services.dialogs import file_to_write
from grainet.desk.view_state import State
from grainet.exchange.json_file import Unusable
from grainet.wood.value import BadEntry


def save_outlines(
    parent: QWidget, state: State, g: Instrument | None, path: str | None = None, *, templates: bool = False
) -> None:
    """Write the outlines, or the templates, as DXF or SVG; what came of it is said."""
    from grainet.exchange.outline_write import write_outlines

    if g is None:
        state.notify("no guitar is drawn up yet")
        return
    what = "templates" if templates else "outlines"
    name = f"{g.id}-templates.dxf" if templates else f"{g.id}.dxf"
    chosen = path or file_to_write(parent, f"Write the {what}", name, "Outlines (*.dxf *.svg)")[0]
    if not chosen:
        return
    try:
        write_outlines(Path(chosen), g, templates=templates)
    except (Unusable, BadEntry) as fault:
        state.warn(str(fault))
        return
    state.notify(f"the {what} are in {Path(chosen).name}")


def print_full_size(
    parent: QWidget, state: State, g: Instrument | None, path: str | None = None, *, mirrored: bool = False,
    paper: str = "A4", templates: bool = False, copy: bool = False,
) -> None:  # fmt: skip
    """Print the outlines, or the templates, at full size over pages that tile; what came of it is said."""
    from grainet.exchange.full_size import write_full_size

    if g is None:
        state.notify("no guitar is drawn up yet")
        return
    what = "templates" if templates else "full-size"
    chosen = path or file_to_write(parent, "Print at full size", f"{g.id}-{what}.pdf", "PDF (*.pdf)")[0]
    if not chosen:
        return
    try:
        tiles = write_full_size(Path(chosen), g, paper, mirrored=mirrored, templates=templates, copy=copy)
    except (Unusable, BadEntry) as fault:
        state.warn(str(fault))
        return
    state.notify(f"{tiles.pages} pages of {paper} and a map in {Path(chosen).name}; print at 100 %")
