"""Painting an instrument: plan and side on one axis in the wood that the rack gives, and the neck's section."""

from __future__ import annotations

from collections.abc import Callable, Mapping

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen

from grainet.design.drawing import Plan, Section, Side, plan_of, section_at, side_of
from grainet.design.instrument import Instrument
from grainet.desk.painting import draw
from grainet.desk.painting.tokens import Theme
from grainet.wood.value import Ring

Wood = tuple[QColor, str]  # its colour, and "" bright, "if" half pale, "out" pale
To = Callable[[float], float]


def bare(theme: Theme) -> Wood:
    """What nothing on the rack gives."""
    return theme.bench, "out"


def _fill(p: QPainter, theme: Theme, ring: Ring, to_x: To, to_y: To, wood: Wood, rim: float = 1.6) -> QPainterPath:
    path = draw.path_of(ring, to_x, to_y)
    colour, pale = wood
    p.fillPath(path, colour)
    if theme.dark:
        p.fillPath(path, QColor(0, 0, 0, 60))
    if pale:
        veil = QColor(theme.bench)
        veil.setAlpha(200 if pale == "out" else 120)
        p.fillPath(path, veil)
    draw.outline(p, path, theme.ink, rim)
    return path


def paint_plan(
    p: QPainter, theme: Theme, g: Instrument, to_x: To, to_y: To, woods: Mapping[str, Wood], *, as_finished: bool = False, as_small: bool = False
) -> None:  # fmt: skip
    """The plan: body, head, neck and board, frets, what is routed; ``woods`` by component. ``as_finished`` leaves out what is only drawn to
    make it by: zones and the centre line; ``as_small`` the frets too, and its rims are thin."""
    plan = plan_of(g)
    rim = 0.8 if as_small else 1.6
    neck = woods.get("neck") or bare(theme)
    under = (as_finished or as_small) and "cap" in woods  # a top lies over the neck's tenon
    if under:
        _fill(p, theme, plan.neck, to_x, to_y, neck, rim)
    _fill(p, theme, plan.body, to_x, to_y, woods.get("cap") or woods.get("body") or bare(theme), rim)
    if not (as_finished or as_small):
        _routed(p, theme, plan, to_x, to_y)
    _fill(p, theme, plan.head, to_x, to_y, woods.get("plate") or neck, rim)
    if not under:
        _fill(p, theme, plan.neck, to_x, to_y, neck, rim)
    _fill(p, theme, plan.board, to_x, to_y, woods.get("fretboard") or bare(theme), rim)
    if as_small:
        return
    p.setPen(QPen(theme.edge, 1))
    for (x0, y0), (x1, y1) in plan.frets:
        p.drawLine(QPointF(to_x(x0), to_y(y0)), QPointF(to_x(x1), to_y(y1)))
    if not as_finished:
        _centre_line(p, theme, g, to_x, to_y)


def _routed(p: QPainter, theme: Theme, plan: Plan, to_x: To, to_y: To) -> None:
    for _, kind, ring in plan.zones:
        path = draw.path_of(ring, to_x, to_y)
        pen = QPen(theme.wine if kind == "critical" else theme.ink2, 1.2)
        if kind == "hidden":
            pen.setDashPattern([4, 3])
        p.setPen(pen)
        p.setBrush(Qt.BrushStyle.BDiagPattern if kind == "removed" else Qt.BrushStyle.NoBrush)
        p.drawPath(path)
    p.setBrush(Qt.BrushStyle.NoBrush)


def _centre_line(p: QPainter, theme: Theme, g: Instrument, to_x: To, to_y: To) -> None:
    pen = QPen(theme.chalk, 1)
    pen.setDashPattern([9, 3, 2, 3])
    p.setPen(pen)
    end = g.tail_mm + g.scale + g.head.length_mm
    p.drawLine(QPointF(to_x(-14), to_y(0)), QPointF(to_x(end + 14), to_y(0)))


def paint_outline(p: QPainter, colour: QColor, g: Instrument, to_x: To, to_y: To, width: float) -> None:
    """The bare rim of a plan: as it was, or as it would be."""
    plan = plan_of(g)
    for ring in (plan.body, plan.head, plan.board):
        draw.outline(p, draw.path_of(ring, to_x, to_y), colour, width)


def paint_side(p: QPainter, theme: Theme, g: Instrument, to_x: To, to_z: To, woods: Mapping[str, Wood]) -> None:
    """The side, cut on the centre line."""
    side: Side = side_of(g)
    _fill(p, theme, side.body, to_x, to_z, woods.get("body") or bare(theme))
    if side.cap:
        _fill(p, theme, side.cap, to_x, to_z, woods.get("cap") or bare(theme))
    _fill(p, theme, side.neck, to_x, to_z, woods.get("neck") or bare(theme))
    _fill(p, theme, side.board, to_x, to_z, woods.get("fretboard") or bare(theme))
    p.setPen(QPen(theme.ink2, 1))
    p.setBrush(Qt.BrushStyle.BDiagPattern)
    for ring in (side.rod, *side.cavities):
        p.drawPath(draw.path_of(ring, to_x, to_z))
    p.setBrush(Qt.BrushStyle.NoBrush)
    pen = QPen(theme.edge, 1)
    p.setPen(pen)
    (x0, z0), (x1, z1) = side.strings
    p.drawLine(QPointF(to_x(x0), to_z(z0)), QPointF(to_x(x1), to_z(z1)))


def paint_section(
    p: QPainter, theme: Theme, g: Instrument, x_mm: float, box: QRectF, woods: Mapping[str, Wood]
) -> Section | None:
    """The neck cut at a place, as large as the box allows; None off the board, and nothing is painted."""
    section = section_at(g, x_mm)
    if section is None:
        return None
    high = section.depth_mm + g.fretboard.thickness_mm
    scale = min(box.width() / section.width_mm, box.height() / high)
    mid, top = box.center().x(), box.top() + g.fretboard.thickness_mm * scale

    def to_x(y: float) -> float:
        return mid + y * scale

    def to_y(z: float) -> float:
        return top - z * scale

    _fill(p, theme, section.neck, to_x, to_y, woods.get("neck") or bare(theme))
    _fill(p, theme, section.board, to_x, to_y, woods.get("fretboard") or bare(theme))
    p.setPen(QPen(theme.ink2, 1.2))
    p.setBrush(Qt.BrushStyle.BDiagPattern)
    p.drawPath(draw.path_of(section.rod, to_x, to_y))
    p.setBrush(Qt.BrushStyle.NoBrush)
    return section
