"""Drawing shared by all bands: slips, dashed unknowns, wood clipped to an outline, trouble tags and fills, part patterns."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from functools import lru_cache, wraps
from typing import Any

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QFontMetricsF, QPainter, QPainterPath, QPaintEvent, QPen, QPixmap, QPolygonF

from grainet.desk.painting.defect_fills import fill
from grainet.desk.painting.spoken import tell, told_by
from grainet.desk.painting.tokens import HALF_VEIL, VEIL, Theme, font, told_apart, width_of
from grainet.desk.painting.tokens import LIGHT as LIGHT_ON_WOOD  # wood keeps its light colours, dimmed in dark
from grainet.turns import first
from grainet.wood.defects import FAMILY, Defect


def painted(paint: Callable[[Any, QPainter], None]) -> Callable[[Any, QPaintEvent], None]:
    """A widget's paintEvent from what paints it. The painter ends with the event whatever happens: a fault that leaves one behind
    brings the whole window down a moment later."""

    @wraps(paint)
    def paint_event(self: Any, _event: QPaintEvent) -> None:
        with first(), told_by(self), QPainter(self) as p:
            paint(self, p)

    return paint_event


def text_width(text: str, px: float, weight: int = 400, *, figures: bool = False) -> float:
    """How wide words are, px."""
    return width_of(text, px, weight, figures=figures)


LEAST_PX = 13.0


def fitted(text: str, room: float, px: float, weight: int = 500, *, figures: bool = False) -> str:
    """Words written short enough for a width, never cut with dots: the bracket goes first, then the last clauses, then words."""
    return _short(text, room, px, weight, figures=figures)


def fitted_name(name: str, room: float, px: float, weight: int = 400) -> str:
    """A species' name short enough for a width: what tells its kind comes last, so words go from the front."""
    while " " in name and text_width(name, px, weight) > room:
        name = name.partition(" ")[2]
    return name


@lru_cache(maxsize=2048)
def _short(text: str, room: float, px: float, weight: int, *, figures: bool) -> str:
    metrics = QFontMetricsF(font(px, weight, figures=figures))
    if metrics.horizontalAdvance(text) <= room:
        return text
    shorter = re.sub(r"\s*\([^()]*\)", "", text)
    for mark in (";", ":", ","):
        while metrics.horizontalAdvance(shorter) > room and mark in shorter:
            shorter = shorter.rpartition(mark)[0].rstrip()
        if metrics.horizontalAdvance(shorter) <= room:
            return shorter
        shorter = re.sub(r"\s*\([^()]*\)", "", text)
    while metrics.horizontalAdvance(shorter) > room and " " in shorter:
        shorter = shorter.rpartition(" ")[0].rstrip(" ,;:")
    while metrics.horizontalAdvance(shorter) > room and len(shorter) > 1:
        shorter = shorter[:-1]
    return shorter


def in_room(text: str, room: float, px: float, weight: int, *, figures: bool) -> tuple[str, float, bool]:
    """The words, their height and whether in the narrow letters, so that they fit a width: as they are, a little smaller, narrower, and only then written short."""
    ways = [(px, figures), (max(LEAST_PX, px - 1.5), figures), (max(LEAST_PX, px - 1), True), (max(LEAST_PX, px - 2.5), True)]
    for size, narrow in ways:
        if width_of(text, size, weight, figures=narrow) <= room:
            return text, size, narrow
    size, narrow = ways[-1]
    return fitted(text, room, size, weight, figures=narrow), size, narrow


def text_at(
    p: QPainter,
    x: float,
    baseline: float,
    text: str,
    colour: QColor,
    px: float = 14,
    weight: int = 400,
    *,
    figures: bool = False,
    room: float | None = None,
) -> float:
    """Text at a baseline, made to fit ``room`` without dots; returns its width."""
    shown, size, narrow = (text, px, figures) if room is None else in_room(text, room, px, weight, figures=figures)
    p.setFont(font(size, weight, figures=narrow))
    p.setPen(colour)
    p.drawText(QPointF(x, baseline), shown)
    tell(x, baseline, text)
    return width_of(shown, size, weight, figures=narrow)


def empty(p: QPainter, theme: Theme, box: QRectF, heading: str, told: Sequence[str]) -> None:
    """A screen that has nothing yet: a dashed board for what will lie here, the first step on it, and below what will be seen."""
    board = QRectF(box.x(), box.y(), box.width(), min(96.0, box.height() / 3))
    p.fillRect(board, theme.ground)
    pen = QPen(theme.edge, 1.5)
    pen.setDashPattern([4, 3])
    p.setPen(pen)
    p.drawRect(board)
    text_at(p, board.x() + 20, board.center().y() + 6, heading, theme.ink, 18, 700, room=board.width() - 40)
    p.setFont(font(15.5))
    p.setPen(theme.ink2)
    y = board.bottom() + 18
    for paragraph in told:
        room = QRectF(box.x(), y, min(box.width(), 860.0), max(0.0, box.bottom() - y))
        tell(box.x(), y, paragraph)
        y = p.drawText(room, Qt.TextFlag.TextWordWrap, paragraph).bottom() + 12


def label(
    p: QPainter,
    theme: Theme,
    x: float,
    y: float,
    text: str,
    *,
    px: float = 15,
    weight: int = 500,
    figures: bool = True,
    dashed: bool = False,
    ochre: bool = False,
    height: float = 22,
    centred: bool = False,
    chosen: bool = False,
) -> QRectF:
    """Words on wood: a white slip; dashed ochre while not read. ``x`` is its left, or its middle when centred."""
    width = text_width(text, px, weight, figures=figures) + 12
    box = QRectF(x - width / 2 if centred else x, y, width, height)
    p.setBrush(theme.slip)
    pen = QPen(theme.ochre if dashed or ochre else theme.chalk if chosen else theme.ink, 1.5 if dashed or chosen else 1)
    if dashed:
        pen.setDashPattern([3, 2])
    p.setPen(pen)
    p.drawRoundedRect(box, 2, 2)
    text_at(
        p,
        box.x() + 6,
        box.y() + height / 2 + px * 0.36,
        text,
        theme.ochre if dashed or ochre else theme.ink,
        px,
        weight,
        figures=figures,
    )
    return box


def path_of(
    points: Sequence[tuple[float, float]], to_x: Callable[[float], float], to_y: Callable[[float], float]
) -> QPainterPath:
    """A closed path of mm points through two mappings to px."""
    path = QPainterPath()
    if points:
        path.addPolygon(QPolygonF([QPointF(to_x(x), to_y(y)) for x, y in points]))
        path.closeSubpath()
    return path


def wood_texture(
    p: QPainter, theme: Theme, shape: QPainterPath, picture: QPixmap | None, target: QRectF, fallback: QColor, pale: str = ""
) -> None:
    """A picture clipped to a shape; ``pale`` "out" or "if" lays the bench colour over it."""
    p.save()
    p.setClipPath(shape, Qt.ClipOperation.IntersectClip)
    if picture is not None and not picture.isNull():
        p.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform)
        p.drawPixmap(target, picture, QRectF(picture.rect()))
    else:
        p.fillPath(shape, fallback)
    if theme.dark:
        p.fillPath(shape, QColor(0, 0, 0, 71))
    if pale:
        veil = QColor(theme.bench)
        veil.setAlpha(VEIL if pale == "out" else HALF_VEIL)
        p.fillPath(shape, veil)
    p.restore()


def outline(p: QPainter, shape: QPainterPath, colour: QColor, width: float = 1.5, *, dashed: bool = False) -> None:
    """The rim of a shape."""
    pen = QPen(colour, width)
    if dashed:
        pen.setDashPattern([5, 3])
    p.setPen(pen)
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.drawPath(shape)


def focus_ring(p: QPainter, theme: Theme, box: QRectF, ground: QColor | None = None) -> None:
    """A ring round what has the keys, told apart from the ground that it lies on (the bench, unless another is given)."""
    p.setPen(QPen(told_apart(ground or theme.bench, theme.chalk, theme.ink, theme.on_chalk, theme.rail_ink), 3))
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.drawRoundedRect(box.adjusted(2, 2, -2, -2), 4, 4)


# troubles -------------------------------------------------------------------------------------------------------------
TAG_W, TAG_H = 36.0, 22.0


def family_colour(theme: Theme, family: str) -> QColor:
    """The colour of a family of defects."""
    return {"breaks": theme.wine, "metal": theme.chalk, "tool": theme.chalk, "moves": theme.teal}.get(family, theme.ink)


def _tag_path(family: str, x: float, y: float, w: float, h: float) -> QPainterPath:
    """The shape of a family's tags about a point, half so wide and high."""
    path = QPainterPath()
    if family == "breaks":
        path.addPolygon(
            QPolygonF([QPointF(x - w, y - h), QPointF(x + w, y - h), QPointF(x + w - 6, y + h), QPointF(x - w + 6, y + h)])
        )
    elif family in ("metal", "tool"):
        path.addRect(QRectF(x - w + 4, y - h, 2 * w - 8, 2 * h))
    elif family == "moves":
        path.moveTo(x - w - 2, y)
        path.quadTo(x, y - 2 * h, x + w + 2, y)
        path.quadTo(x, y + 2 * h, x - w - 2, y)
    elif family == "void":
        path.addPolygon(
            QPolygonF(
                [
                    QPointF(x - w + 2, y - h),
                    QPointF(x - 6, y - h),
                    QPointF(x - 6, y - h + 4),
                    QPointF(x + 6, y - h + 4),
                    QPointF(x + 6, y - h),
                    QPointF(x + w - 2, y - h),
                    QPointF(x + w - 2, y + h),
                    QPointF(x - w + 2, y + h),
                ]
            )
        )
    else:
        path.addPolygon(
            QPolygonF(
                [
                    QPointF(x - w, y),
                    QPointF(x - w + 7, y - h),
                    QPointF(x + w - 7, y - h),
                    QPointF(x + w, y),
                    QPointF(x + w - 7, y + h),
                    QPointF(x - w + 7, y + h),
                ]
            )
        )
    path.closeSubpath()
    return path


def tag(
    p: QPainter, theme: Theme, centre: QPointF, code: str, kind: str, *, chosen: bool = False, suggested: bool = False
) -> None:  # fmt: skip
    """A trouble's tag: its family's shape with its letter and number; dashed ochre while it is only suggested."""
    family = FAMILY[kind]
    colour = theme.ochre if suggested else family_colour(theme, family)
    x, y, w, h = centre.x(), centre.y(), TAG_W / 2, TAG_H / 2
    path = _tag_path(family, x, y, w, h)
    solid = family in ("breaks", "void") and not suggested
    p.setPen(QPen(theme.slip, 4))
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.drawPath(path)
    rim = QPen(theme.chalk if chosen else colour, 2.6 if chosen else 1.8)
    if suggested:
        rim.setDashPattern([3, 2])
    p.setPen(rim)
    p.setBrush(colour if solid else theme.slip)
    p.drawPath(path)
    if family in ("metal", "tool"):
        p.setBrush(Qt.BrushStyle.NoBrush)
        p.setPen(QPen(colour, 1))
        p.drawRect(QRectF(x - w + 7, y - h + 3, 2 * w - 14, 2 * h - 6))
    ink = theme.slip if solid else colour
    text_at(p, x - text_width(code, 14, 600, figures=True) / 2, y + 5, code, ink, 14, 600, figures=True)


def trouble(
    p: QPainter, theme: Theme, defect: Defect, to_x: Callable[[float], float], to_y: Callable[[float], float], *, chosen: bool = False, suggested: bool = False
) -> None:  # fmt: skip
    """A trouble at its true size: white rim, its family's colour, its kind's fill; dashed ochre while only suggested."""
    shape = path_of(defect.polygon, to_x, to_y)
    box = shape.boundingRect()
    colour = LIGHT_ON_WOOD.ochre if suggested else family_colour(LIGHT_ON_WOOD, FAMILY[defect.kind])
    p.save()
    p.setPen(QPen(QColor(255, 255, 255, 225), 4.5))
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.drawPath(shape)
    wash = QColor(255, 255, 255, 120)
    thin = min(box.width(), box.height()) < 5
    if not thin:
        p.fillPath(shape, wash)
        p.setClipPath(shape, Qt.ClipOperation.IntersectClip)
        fill(p, defect.kind, box, colour)
        p.setClipping(False)
    p.restore()
    rim = QPen(theme.chalk if chosen else colour, 2.4 if chosen else 1.6)
    if suggested:
        rim.setDashPattern([4, 3])
    p.setPen(rim)
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.drawPath(shape)
    if defect.keep:
        p.setPen(QPen(theme.chalk, 1.2))
        p.drawRect(box.adjusted(-3, -3, 3, 3))
    if defect.live_metal and not suggested:
        pen = QPen(colour, 1.5)
        pen.setDashPattern([3, 2])
        p.setPen(pen)
        reach = max(box.width(), 10.0)
        p.drawEllipse(box.center(), reach, reach)


def spread_tags(wanted: Sequence[float], low: float, high: float, gap: float = 40.0) -> list[tuple[float, int]]:
    """Places for tags along a gutter, order kept, ``gap`` apart; a second row where one would shift by more than a gap.

    Returns (x, row) per wanted x; ``wanted`` must be sorted.
    """
    one = _spaced(wanted, low, high, gap)
    if len(wanted) * gap <= high - low and all(abs(a - b) <= gap for a, b in zip(one, wanted)):
        return [(x, 0) for x in one]
    # half the gap from tag to tag: each row keeps a whole gap, and the upper row's leaders drop between the lower row's tags
    return [(x, k % 2) for k, x in enumerate(_spaced(wanted, low, high, gap / 2))]


def leader(
    p: QPainter,
    theme: Theme,
    start: QPointF,
    bend_y: float,
    rim_y: float,
    target: QPointF,
    *,
    chosen: bool = False,
    dashed: bool = False,
) -> None:
    """A tag's leader: straight out of the gutter, over to the mark's own place while still off the wood, then straight in.

    Tags and marks stand in one order, so the slanted parts cannot cross, and neither can the straight ones.
    """
    path = QPainterPath(start)
    path.lineTo(start.x(), bend_y)
    path.lineTo(target.x(), rim_y)
    path.lineTo(target)
    ink = QPen(theme.chalk if chosen else theme.ochre if dashed else theme.ink, 2.0 if chosen else 1.2)
    if dashed:
        ink.setDashPattern([4, 3])
    p.setBrush(Qt.BrushStyle.NoBrush)
    for pen in (QPen(theme.slip, 3.6), ink):
        p.setPen(pen)
        p.drawPath(path)


def _spaced(wanted: Sequence[float], low: float, high: float, gap: float) -> list[float]:
    """Places nearest to the wanted ones (least squares) that keep their order and a gap, within the gutter.

    Neighbours that would come too near pool and share their shift, so that a crowd spreads to both sides alike.
    """
    if not wanted:
        return []
    gap = min(gap, (high - low) / max(1, len(wanted) - 1)) if len(wanted) > 1 else gap
    pools: list[tuple[float, int]] = []  # mean of (wanted - k gap), how many
    for k, x in enumerate(wanted):
        mean, count = x - k * gap, 1
        while pools and pools[-1][0] > mean:
            before, many = pools.pop()
            mean, count = (mean * count + before * many) / (count + many), count + many
        pools.append((mean, count))
    last = high - gap * (len(wanted) - 1)
    level = [min(max(mean, low), max(low, last)) for mean, count in pools for _ in range(count)]
    return [x + k * gap for k, x in enumerate(level)]


def part_pattern(
    p: QPainter,
    theme: Theme,
    part: Any,
    ring_path: QPainterPath,
    zone_paths: Any,
    letter: str,
    arrow: str,
    *,
    ghost: bool = False,
) -> None:
    """A part as a paper pattern: outline, zones, its letter on a slip; never a coloured block."""
    p.setPen(QPen(QColor(255, 255, 255, 235), 5))
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.drawPath(ring_path)
    for kind, path in zone_paths:
        p.save()
        p.setClipPath(ring_path, Qt.ClipOperation.IntersectClip)
        if kind == "hidden":
            p.fillPath(path, QColor(255, 255, 255, 150))
        elif kind == "removed":
            p.fillPath(path, QBrush(QColor(0x13, 0x20, 0x1E, 190), Qt.BrushStyle.BDiagPattern))
        p.setPen(
            QPen(
                LIGHT_ON_WOOD.wine if kind == "critical" else QColor(0x13, 0x20, 0x1E),
                1.5,
                Qt.PenStyle.SolidLine if kind == "critical" else Qt.PenStyle.DashLine,
            )
        )
        if kind != "seen":
            p.drawPath(path)
        p.restore()
    pen = QPen(theme.chalk if ghost else QColor(0x13, 0x20, 0x1E), 2.2)
    p.setPen(pen)
    p.drawPath(ring_path)
    box = ring_path.boundingRect()
    name = f"{letter} {arrow}".strip()
    if not name:
        return
    label(p, theme, box.center().x(), box.center().y() - 12, name, px=16, weight=600, height=24, centred=True, chosen=ghost)


def planing_chevrons(p: QPainter, colour: QColor, x: float, y: float, *, right: bool, count: int = 3) -> None:
    """Chevrons that say which way a face planes clean."""
    p.setPen(QPen(colour, 2.0))
    s = 1 if right else -1
    for k in range(count):
        at = x + s * k * 7
        p.drawLine(QPointF(at, y - 5), QPointF(at + s * 5, y))
        p.drawLine(QPointF(at + s * 5, y), QPointF(at, y + 5))


def grain_arrow(p: QPainter, colour: QColor, x: float, y: float, length: float = 44, *, away: bool = True) -> None:
    """The fletched grain arrow."""
    s = 1 if away else -1
    p.setPen(QPen(colour, 1.8))
    p.drawLine(QPointF(x, y), QPointF(x + s * length, y))
    for k in (0, 6):
        p.drawLine(QPointF(x + s * k, y), QPointF(x + s * (k - 5), y - 5))
        p.drawLine(QPointF(x + s * k, y), QPointF(x + s * (k - 5), y + 5))
    head = QPolygonF(
        [QPointF(x + s * (length + 7), y), QPointF(x + s * (length - 3), y - 5), QPointF(x + s * (length - 3), y + 5)]
    )
    p.setBrush(colour)
    p.drawPolygon(head)
