"""The joint in hand, drawn: its members with every clamp in its place, the fit, and the seconds until the glue skins over."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QPainter, QPen, QPolygonF

from grainet.desk.painting import draw
from grainet.desk.painting.tokens import Theme
from grainet.desk.services.pictures import plain_colour
from grainet.desk.widgets.controls import wrapped
from grainet.present.glue_view import InHand, face_of
from grainet.session.making import letter_of
from grainet.wood.units import LengthStyle, tell_gap
from grainet.work.clamp_plan import is_taped
from grainet.work.operation import Operation

SEEN_MM = 0.005  # a gap of less is told as none
CAUL = QColor("#b98a5a")
TAPE, TAPE_RIM = QColor("#e9e2cf"), QColor("#3a3f3c")
BAR_H = 38


def paint_clamps(p: QPainter, theme: Theme, one: Operation, woods: list[str], at: QRectF) -> None:
    """The joint from above: an edge joint as its two sides with bars over and under by turns, a face joint with its rows of clamps."""
    long, wide = face_of(one)
    edge = one.settings.get("joint") == "edge"
    across = float(one.settings.get("opens_mm", wide)) if edge else wide
    scale = min(at.width() / long, (at.height() - 44) / max(1.0, across))
    box = QRectF(at.center().x() - long * scale / 2, at.y() + 22, long * scale, max(26.0, across * scale))
    colours = [plain_colour(w) if w else theme.edge for w in woods] or [theme.edge]
    if edge:
        _sides(p, theme, one, colours, box, cauls=not is_taped(one))
    else:
        p.setPen(QPen(theme.ink, 1))
        p.setBrush(colours[-1])
        p.drawRect(box)
    taped = is_taped(one)
    for order, spot in enumerate(one.clamps):  # under the letters, which must be read
        x = box.x() + spot.x_mm * scale
        if taped:
            _strip(p, QRectF(x - 5, box.top() + 4, 10, box.height() - 8), over=spot.side == "over")
            y = box.center().y()
        elif edge:
            pen = QPen(theme.ink, 4 if spot.side == "over" else 2)
            if spot.side == "under":
                pen.setDashPattern([3, 2])
            p.setPen(pen)
            p.drawLine(QPointF(x, box.top() - 12), QPointF(x, box.bottom() + 12))
            p.fillRect(QRectF(x - 6, box.top() - 18, 12, 10), theme.ink)
            p.fillRect(QRectF(x - 6, box.bottom() + 8, 12, 10), theme.ink)
            y = box.center().y()
        else:
            y = box.y() + spot.y_mm * scale * box.height() / max(1e-6, wide * scale)
            p.setPen(QPen(theme.ink, 2))
            p.setBrush(theme.shelf)
            p.drawEllipse(QPointF(x, y), 9, 9)
        _number(p, theme, x, y, order + 1, small=len(one.clamps) > 10)
    for k, name in enumerate(one.works_on if edge else ()):
        high = box.height() / max(1, len(one.works_on))
        draw.label(p, theme, box.center().x(), box.y() + (k + 0.5) * high - 12, letter_of(name), px=15, weight=600, centred=True)
    if not one.clamps:
        words = "no clamp of the shop opens this far"
        draw.label(
            p, theme, box.center().x(), box.center().y() - 11, words, px=13, weight=600, figures=False, centred=True, ochre=True
        )


def _strip(p: QPainter, at: QRectF, *, over: bool) -> None:
    """A strip of tape across the seam: whole over the wood, its rim alone under it."""
    p.setPen(QPen(TAPE_RIM, 1.2, Qt.PenStyle.SolidLine if over else Qt.PenStyle.DashLine))
    p.setBrush(TAPE if over else Qt.BrushStyle.NoBrush)
    p.drawRect(at)


def _sides(p: QPainter, theme: Theme, one: Operation, colours: list[QColor], box: QRectF, *, cauls: bool) -> None:
    """The members side by side with a caul at each rim, the seam between them."""
    caul = min(9.0, box.height() * 0.08) if cauls else 0.0
    for y in (box.top(), box.bottom() - caul) if cauls else ():
        p.setPen(QPen(theme.ink, 1))
        p.setBrush(CAUL)
        p.drawRect(QRectF(box.x(), y, box.width(), caul))
    count = len(one.works_on)
    high = (box.height() - 2 * caul) / max(1, count)
    for k in range(count):
        side = QRectF(box.x(), box.top() + caul + k * high, box.width(), high)
        p.setBrush(colours[k % len(colours)])
        p.setPen(QPen(theme.ink, 1))
        p.drawRect(side)
        if k:
            p.setPen(QPen(theme.chalk, 2.4))
            p.drawLine(side.topLeft(), side.topRight())


def _number(p: QPainter, theme: Theme, x: float, y: float, number: int, *, small: bool) -> None:
    size = 7.5 if small else 10.0
    p.setPen(QPen(theme.ink, 1.2))
    p.setBrush(theme.slip)
    p.drawEllipse(QPointF(x, y), size, size)
    px = 10 if small else 13
    words = str(number)
    draw.text_at(p, x - draw.text_width(words, px, 600, figures=True) / 2, y + px / 2.8, words, theme.ink, px, 600, figures=True)


def paint_fit(
    p: QPainter, theme: Theme, one: Operation, figures: dict[str, float], woods: list[str], at: QRectF, style: LengthStyle
) -> None:
    """The gap of the dry fit, drawn tall: both ends hatched, the hollow in the middle against what it may be."""
    colours = [plain_colour(w) if w else theme.edge for w in woods] or [theme.edge]
    most = float(one.settings.get("middle_mm", 0.0))
    middle = figures.get("middle_mm")
    half = at.height() / 2
    ends = 38.0
    bulge = min(half - 8, 600 * (middle if middle is not None else most) / 6)
    p.setPen(QPen(theme.ink, 1))
    for k, (y, sign) in enumerate(((at.y(), 1), (at.bottom(), -1))):
        p.setBrush(colours[k % len(colours)])
        seam = at.y() + half
        ring = QPolygonF(
            [QPointF(at.x(), y), QPointF(at.right(), y), QPointF(at.right(), seam), QPointF(at.right() - ends, seam)]
        )
        for i in range(13):
            share = i / 12
            ring.append(
                QPointF(at.right() - ends - (at.width() - 2 * ends) * share, seam - sign * bulge * 4 * share * (1 - share))
            )
        ring.append(QPointF(at.x() + ends, seam))
        ring.append(QPointF(at.x(), seam))
        p.drawPolygon(ring)
    for x in (at.x(), at.right() - ends):
        p.setPen(QPen(theme.wine, 1.4))
        p.setBrush(QBrush(theme.wine, Qt.BrushStyle.BDiagPattern))
        p.drawRect(QRectF(x, at.y() - 3, ends, at.height() + 6))
    words = (
        tell_gap(middle, style) if middle is not None else f"may be {tell_gap(most, style)}" if most >= SEEN_MM else "no light"
    )
    draw.label(p, theme, at.center().x(), at.center().y() - 12, words, px=15, weight=600, centred=True)


def paint_open_time(p: QPainter, theme: Theme, hand: InHand, gone_s: float | None, at: QRectF) -> None:
    """The open time as a bar: spreading, closing, the clamps, what is left; a mark where it stands while the glue is wet."""
    whole = max(hand.open_s, hand.open_s - hand.left_s, 1.0)
    x = at.x()
    rows = (
        ("spread", hand.spread_s, "#f0dc9a"),
        ("close", hand.close_s, "#e2c57e"),
        ("tape" if is_taped(hand.joint.operation) else "clamps", hand.clamps_s, "#cfa85f"),
    )
    for word, seconds, colour in rows:
        wide = at.width() * seconds / whole
        p.setPen(QPen(theme.ink, 1))
        p.setBrush(QColor(colour))
        p.drawRect(QRectF(x, at.y(), wide, BAR_H))
        for line, text in enumerate((word, f"{seconds:.0f}")):
            if draw.text_width(text, 13, 600) < wide - 4:
                draw.text_at(
                    p,
                    x + wide / 2 - draw.text_width(text, 13, 600) / 2,
                    at.y() + 16 + 16 * line,
                    text,
                    QColor("#1c211f"),
                    13,
                    600,
                )
        x += wide
    if hand.left_s > 0:
        wide = at.x() + at.width() * hand.open_s / whole - x
        p.setBrush(theme.slip)
        p.drawRect(QRectF(x, at.y(), wide, BAR_H))
        for line, text in enumerate(("left", f"{hand.left_s:.0f}")):
            draw.text_at(p, x + wide / 2 - draw.text_width(text, 13, 600) / 2, at.y() + 16 + 16 * line, text, theme.ink, 13, 600)
    skin = at.x() + at.width() * hand.open_s / whole
    p.setPen(QPen(theme.wine, 2))
    p.drawLine(QPointF(skin, at.y() - 4), QPointF(skin, at.y() + BAR_H + 4))
    if gone_s is not None:
        here = at.x() + at.width() * min(gone_s, whole) / whole
        p.setPen(QPen(theme.chalk, 3))
        p.drawLine(QPointF(here, at.y() - 6), QPointF(here, at.y() + BAR_H + 6))


def lines_at(
    p: QPainter, theme: Theme, text: str, x: float, y: float, room: float, *, colour: QColor | None = None, most: int = 3
) -> float:
    """Sentences in lines of a width; the height below them."""
    for line in wrapped(text, 13.5, room)[:most]:
        draw.text_at(p, x, y, line, colour or theme.ink2, 13.5, room=room)
        y += 18
    return y
