"""The wood of one operation, drawn large: the board with just this cut, the joint with its clamps, else what is worked on by its letters."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPolygonF

from grainet.desk.painting import draw
from grainet.desk.painting.tokens import Theme
from grainet.desk.screens.glue.joint import paint_clamps
from grainet.desk.services.pictures import plain_colour
from grainet.session.making import AtTheBench, called
from grainet.work.operation import SAWING, Operation


def paint_wood(p: QPainter, theme: Theme, bench: AtTheBench, one: Operation, at: QRectF) -> None:
    """The picture of an operation."""
    p.setPen(QPen(theme.edge, 1.5))
    p.setBrush(theme.ground)
    p.drawRect(at)
    inner = at.adjusted(16, 16, -16, -16)
    if one.kind in SAWING:
        _board(p, theme, bench, one, inner)
    elif one.kind in ("glue", "dry", "fit"):
        glued = (
            one
            if one.kind == "glue"
            else next((o for o in bench.making.operations if o.kind == "glue" and set(o.works_on) == set(one.works_on)), None)
        )
        if glued is not None:
            paint_clamps(p, theme, glued, _woods(bench, glued), inner)
            return
        _letters(p, theme, bench, one, inner)
    else:
        _letters(p, theme, bench, one, inner)


def _woods(bench: AtTheBench, one: Operation) -> list[str]:
    """The species of what an operation works on, by the first board of each."""
    pieces = {w.id: w for w in bench.making.workpieces}
    found = []
    for name in one.works_on:
        at = pieces.get(name)
        while at is not None and at.members:
            at = pieces.get(at.members[0])
        board = at.from_ if at is not None else name.partition(".")[0]
        known = next((p for p in bench.under_way.job.pieces if p.id == board), None)
        found.append(known.species if known is not None else "")
    return found


def _board(p: QPainter, theme: Theme, bench: AtTheBench, one: Operation, box: QRectF) -> None:
    """The piece in hand with just this cut, its mark and the side that the kerf lies on."""
    job, plan = bench.under_way.job, bench.under_way.plan
    piece = job.piece(one.board)
    from grainet.plan.in_hand import hands_after

    before = [c for c in plan.cuts if c.n < (one.cut or 0)]
    cut = next(c for c in plan.cuts if c.n == one.cut)
    hand = next((h for h in hands_after(piece, (*job.cut, *before), job.kit) if h.id == cut.piece), None)
    if hand is None:
        return
    x0, y0, x1, y1 = hand.polygon.bounds
    deep = (hand.bottom_mm if hand.bottom_mm is not None else piece.least_thickness_mm or 40.0) - hand.top_mm
    resaw = one.kind == "resaw"
    wide, high = x1 - x0, deep if resaw else y1 - y0
    scale = min(box.width() / max(1.0, wide), (box.height() - 60) / max(1.0, high))
    if resaw:
        scale = min(scale, 6.0)
    left, top = box.center().x() - wide * scale / 2, box.center().y() - high * scale / 2

    def to_x(mm: float) -> float:
        return float(left + (mm - x0) * scale)

    def to_y(mm: float) -> float:
        return float(top + (mm if resaw else y1 - mm) * scale)

    p.setPen(QPen(theme.ink, 2))
    p.setBrush(plain_colour(piece.species))
    if resaw:
        p.drawRect(QRectF(to_x(x0), to_y(0), wide * scale, high * scale))
    else:
        p.drawPath(draw.path_of([(x, y) for x, y in hand.polygon.exterior.coords[:-1]], to_x, to_y))
    p.setPen(QPen(theme.chalk, 4, Qt.PenStyle.DashLine))
    if resaw:
        y = to_y((cut.depth_mm or 0.0) - hand.top_mm)
        p.drawLine(QPointF(box.left(), y), QPointF(box.right(), y))
    else:
        p.drawPolyline(QPolygonF([QPointF(to_x(x), to_y(y)) for x, y in cut.line]))
    freed = [n for n in one.gives if n in {w.id for w in bench.making.workpieces}]
    words = ", ".join(called(n) for n in freed) or called(cut.piece)
    draw.label(p, theme, box.x() + 10, box.y() + 6, words, px=34, weight=700, height=46)


def _letters(p: QPainter, theme: Theme, bench: AtTheBench, one: Operation, box: QRectF) -> None:
    """What is worked on, each as a board of its wood with its letter."""
    woods, count = _woods(bench, one), max(1, len(one.works_on))
    high = min(120.0, (box.height() - 12 * (count - 1)) / count)
    top = box.center().y() - (high * count + 12 * (count - 1)) / 2
    for k, name in enumerate(one.works_on):
        board = QRectF(box.x() + 10, top + k * (high + 12), box.width() - 20, high)
        p.setPen(QPen(theme.ink, 2))
        p.setBrush(plain_colour(woods[k]) if woods[k] else theme.edge)
        p.drawRect(board)
        words = called(name)
        px = 34 if draw.text_width(words, 34, 700) < board.width() - 40 else 26
        draw.label(p, theme, board.x() + 14, board.center().y() - 23, words, px=px, weight=700, height=46)
        draw.grain_arrow(p, theme.ink, board.right() - 120, board.center().y(), 90)
