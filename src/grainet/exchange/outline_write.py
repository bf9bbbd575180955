"""An instrument's outlines for other programs: DXF with a layer for each zone, SVG in millimetres with a class for each."""

from __future__ import annotations

import io
import re
from collections.abc import Iterator
from pathlib import Path
from xml.sax.saxutils import escape, quoteattr

from grainet.design.drawing import plan_of
from grainet.design.instrument import Instrument
from grainet.design.templates import templates_of
from grainet.exchange.json_file import Unusable, write_bytes, write_text
from grainet.wood.value import Ring

CENTRE = "centre line"


def named_rings(g: Instrument, *, mirrored: bool = False) -> Iterator[tuple[str, str, Ring]]:
    """(layer, kind, ring) of everything that is cut or drawn: body, neck, board, head, zones; mm, mirrored about the centre line if wanted."""
    plan = plan_of(g)
    rows = [
        ("body", "outline", plan.body),
        ("neck", "outline", plan.neck),
        ("fretboard", "outline", plan.board),
        ("head", "outline", plan.head),
    ]
    rows += [(name or kind, kind, ring) for name, kind, ring in plan.zones]
    for name, kind, ring in rows:
        yield name, kind, tuple((x, -y) for x, y in reversed(ring)) if mirrored else ring


def template_rings(g: Instrument, *, mirrored: bool = False) -> Iterator[tuple[str, str, Ring]]:
    """(name and what is to be known of it, kind, ring) of every template. Raises BadEntry."""
    for one in templates_of(g):
        ring = tuple((x, -y) for x, y in reversed(one.ring)) if mirrored else one.ring
        yield f"{one.name}: {one.note}", "outline" if not one.inside else "removed", ring


def write_outlines(path: Path, g: Instrument, *, mirrored: bool = False, templates: bool = False) -> None:
    """Outlines to a DXF or SVG file, by its ending. Raises Unusable."""
    if path.suffix.lower() == ".dxf":
        write_bytes(path, dxf_of(g, mirrored=mirrored, templates=templates))
    elif path.suffix.lower() == ".svg":
        write_text(path, svg_of(g, mirrored=mirrored, templates=templates))
    else:
        raise Unusable([f"{path.name}: outlines are written as .dxf or .svg"])


def dxf_of(g: Instrument, *, mirrored: bool = False, templates: bool = False) -> bytes:
    """A DXF of 2010, units mm, closed polylines on a layer for each name."""
    from ezdxf import units
    from ezdxf.filemanagement import new

    document = new("R2010")
    document.units = units.MM
    space = document.modelspace()
    rows = list(template_rings(g, mirrored=mirrored) if templates else named_rings(g, mirrored=mirrored))
    for name, _, ring in rows:
        layer = re.sub(r'[<>/\\":;?*|=\',`]+', " ", name).strip()[:60] or "outline"
        if layer not in document.layers:
            document.layers.add(layer)
        space.add_lwpolyline(ring, close=True, dxfattribs={"layer": layer})
    end = max(x for _, _, ring in rows for x, _ in ring)
    document.layers.add(CENTRE)
    space.add_line((0, 0), (end, 0), dxfattribs={"layer": CENTRE})
    stream = io.StringIO()
    document.write(stream)
    return stream.getvalue().encode("utf-8")


def svg_of(g: Instrument, *, mirrored: bool = False, templates: bool = False) -> str:
    """An SVG whose page is the drawing's size in mm; y runs down there, so the bass side stays up."""
    rows = list(template_rings(g, mirrored=mirrored) if templates else named_rings(g, mirrored=mirrored))
    xs = [x for _, _, ring in rows for x, _ in ring]
    ys = [y for _, _, ring in rows for _, y in ring]
    x0, y0, wide, high = min(xs) - 5, -max(ys) - 5, max(xs) - min(xs) + 10, max(ys) - min(ys) + 10
    lines = [
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{wide:.3f}mm" height="{high:.3f}mm" viewBox="{x0:.3f} {y0:.3f} {wide:.3f} {high:.3f}">',
        f"<title>{escape(g.shown_name)}</title>",
    ]
    for name, _, ring in rows:
        points = " L ".join(f"{x:.3f} {-y:.3f}" for x, y in ring)
        lines.append(f'<path class={quoteattr(name)} d="M {points} Z" fill="none" stroke="black" stroke-width="0.2"/>')
    lines.append(f'<path class="{CENTRE}" d="M 0 0 L {max(xs):.3f} 0" fill="none" stroke="black" stroke-width="0.1"/>')
    return "\n".join([*lines, "</svg>"]) + "\n"
