"""The page of a story, painted the same on the screen and on paper: the instrument from its own woods, a leader to each board with its source, its
moisture at glue-up and its weight; the line of its days; what was left over. It is 826 by 584 units large, as an A4 page lies."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping, Sequence
from datetime import date

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen, QPixmap

from grainet.design.drawing import plan_of
from grainet.design.instrument import Instrument
from grainet.desk.painting import draw
from grainet.desk.painting.instrument import Wood, paint_plan
from grainet.desk.painting.tokens import LIGHT
from grainet.desk.services.pictures import plain_colour
from grainet.desk.widgets.controls import count_of, wrapped
from grainet.present.wall_view import COMPONENT
from grainet.wood.species import short_name
from grainet.work.story import Story, StoryBoard

WIDE, HIGH, EDGE = 826.0, 584.0, 26.0
CELL_H, MOST, FURTHER, LINES = 106.0, 6, 12, 3
TOP_Y, LOW_Y, LINE_Y, LEFT_Y = 64.0, 380.0, 514.0, 556.0
INSTRUMENT = QRectF(EDGE + 40, 186, WIDE - 2 * EDGE - 80, 182)
# where on the instrument the leader of a component ends: a share of its length, and to which side
PLACES: dict[str, tuple[float, float]] = {
    "body": (0.1, -0.3),
    "cap": (0.14, 0.22),
    "neck": (0.62, -0.03),
    "fretboard": (0.68, 0.02),
    "plate": (0.94, 0.03),
}
CELLS: dict[str, int] = {"cap": 0, "fretboard": 1, "plate": 2, "body": 3, "neck": 4}  # above: 0 to 2, below: 3 to 5
Pictured = Callable[[str], QPixmap | None]  # of a board by its number


def pages_of(story: Story) -> int:
    """How many pages a story has: the first with six boards round the instrument, the further ones with twelve boards each."""
    return 1 + math.ceil(max(0, len(story.told().boards) - MOST) / FURTHER)


def paint_page(p: QPainter, story: Story, g: Instrument | None, pictured: Pictured, page: int = 0) -> None:
    """Paint a page into WIDE x HIGH units."""
    theme, told = LIGHT, story.told()
    p.setRenderHint(QPainter.RenderHint.Antialiasing)
    p.fillRect(QRectF(0, 0, WIDE, HIGH), theme.slip)
    if page:
        _further(p, told, page, pictured)
        return
    x = EDGE + draw.text_at(p, EDGE, 46, story.name, theme.ink, 34, 800, room=420) + 14
    draw.text_at(p, x, 45, "what it is made of, and where that grew", theme.ink2, 16, room=WIDE - EDGE - x - 120)
    if story.weighed_kg is not None:
        words = f"{story.weighed_kg:.2f} kg"
        draw.text_at(p, WIDE - EDGE - draw.text_width(words, 22, 700, figures=True), 45, words, theme.ink, 22, 700, figures=True)
    if g is not None:
        _instrument(p, told, g)
    for cell, board in placed(told).items():
        _board(p, board, _cell(cell), g, pictured)
    _facts(p, told)
    _days(p, told)
    _left_over(p, told)


def _further(p: QPainter, story: Story, page: int, pictured: Pictured) -> None:
    """A page of boards that found no room on the first."""
    x = EDGE + draw.text_at(p, EDGE, 46, story.name, LIGHT.ink, 34, 800, room=420) + 14
    draw.text_at(p, x, 45, f"its further boards, page {page + 1} of {pages_of(story)}", LIGHT.ink2, 16, room=WIDE - EDGE - x)
    wide, high = (WIDE - 2 * EDGE) / 3, CELL_H + 18
    first = MOST + (page - 1) * FURTHER
    for k, board in enumerate(story.boards[first : first + FURTHER]):
        _board(p, board, QRectF(EDGE + (k % 3) * wide, TOP_Y + 20 + (k // 3) * high, wide - 12, CELL_H), None, pictured)


def placed(story: Story) -> dict[int, StoryBoard]:
    """In which cell each board stands: near the place that it made, so that leaders do not cross; the first six."""
    found: dict[int, StoryBoard] = {}
    for board in story.boards[:MOST]:
        wanted = CELLS[component_of(board)]
        free = [k for k in range(MOST) if k not in found]
        found[min(free, key=lambda k: (k != wanted, abs(k % 3 - wanted % 3), k))] = board
    return found


def _cell(k: int) -> QRectF:
    """Where a board's words stand: three above the instrument, the others below it."""
    wide = (WIDE - 2 * EDGE) / 3
    above = k < 3
    return QRectF(EDGE + (k % 3) * wide, TOP_Y if above else LOW_Y, wide - 12, CELL_H)


def component_of(board: StoryBoard) -> str:
    """Which component of the drawing a board made."""
    return next((COMPONENT[r] for r in board.roles if r in COMPONENT), "body")


def woods_of(story: Story) -> Mapping[str, Wood]:
    """The colour of each component: of a component of several boards the first one's."""
    found: dict[str, Wood] = {}
    for board in story.boards:
        for role in board.roles:
            if role in COMPONENT:
                found.setdefault(COMPONENT[role], (plain_colour(board.species), ""))
    return found


def _scale(g: Instrument) -> tuple[float, Callable[[float], float], Callable[[float], float]]:
    plan = plan_of(g)
    rings = [*plan.body, *plan.head, *plan.board]
    xs, ys = [x for x, _ in rings], [y for _, y in rings]
    px = min(INSTRUMENT.width() / (max(xs) - min(xs)), INSTRUMENT.height() / (max(ys) - min(ys)))
    left = INSTRUMENT.center().x() - px * (max(xs) + min(xs)) / 2
    middle = INSTRUMENT.center().y() + px * (max(ys) + min(ys)) / 2
    return px, lambda x: left + x * px, lambda y: middle - y * px


def _instrument(p: QPainter, story: Story, g: Instrument) -> None:
    _, to_x, to_y = _scale(g)
    paint_plan(p, LIGHT, g, to_x, to_y, woods_of(story), as_finished=True)


def _spot(g: Instrument, board: StoryBoard, *, above: bool) -> QPointF:
    """Where a board's leader ends on the instrument."""
    _, to_x, to_y = _scale(g)
    along, side = PLACES[component_of(board)]
    whole = g.tail_mm + g.scale + g.head.length_mm
    return QPointF(to_x(along * whole), to_y((abs(side) if above else -abs(side)) * 300))


def _board(p: QPainter, board: StoryBoard, cell: QRectF, g: Instrument | None, pictured: Pictured) -> None:
    """A board: a swatch of its wood, its number, what it made, where it came from, its figures; and a leader to its place."""
    theme, above = LIGHT, cell.y() < INSTRUMENT.top()
    swatch = QRectF(cell.x(), cell.y(), 62, 62)
    picture = pictured(board.number)
    p.fillRect(swatch, plain_colour(board.species))
    if picture is not None and not picture.isNull():
        side = min(picture.width(), picture.height())
        p.drawPixmap(swatch, picture, QRectF((picture.width() - side) / 2, (picture.height() - side) / 2, side, side))
    p.setPen(QPen(theme.ink, 1))
    p.setBrush(Qt.BrushStyle.NoBrush)
    p.drawRect(swatch)
    x, room = cell.x() + 72, cell.width() - 72
    wide = draw.text_at(p, x, cell.y() + 15, board.number, theme.ink, 19, 800, figures=True) + 7
    first, *rest = _two_lines(board.made_words, room - wide, room)
    draw.text_at(p, x + wide, cell.y() + 14, first, theme.ink, 14, 700, room=room - wide)
    y = cell.y() + 32
    for line in rest:
        draw.text_at(p, x, y, line, theme.ink, 14, 700, room=room)
        y += 17
    told = [short_name(board.species).lower(), *board.source, *([f"cost {board.price:.0f}"] if board.price is not None else [])]
    for line in _whole_lines(told, room, LINES - len(rest)):
        draw.text_at(p, x, y, line, theme.ink2, 13, room=room)
        y += 16
    figures = [board.moisture_words, f"{board.kg:.2f} kg" if board.kg is not None else ""]
    draw.text_at(p, x, y + 2, "   ".join(w for w in figures if w), theme.ink, 14.5, 600, figures=True, room=room)
    if board.flaws or board.lacks_paper:
        words, ink = (board.flaws[0], theme.ink2) if board.flaws else ("a listed species, no paper", theme.ochre)
        draw.text_at(p, x, y + 18, words, ink, 13, room=room)
    if g is not None:
        spot = _spot(g, board, above=above)
        p.setPen(QPen(theme.ink2, 1))
        p.drawLine(QPointF(x - 6, cell.bottom() if above else cell.y() - 4), spot)
        p.setBrush(theme.slip)
        p.setPen(QPen(theme.ink, 1.2))
        p.drawEllipse(spot, 3.5, 3.5)


def _two_lines(words: str, first: float, then: float) -> list[str]:
    """Words on a first line with so much room, and what is left on a second."""
    lines = wrapped(words, 14, first, 700)
    if len(lines) < 2:
        return lines
    return [lines[0], wrapped(words[len(lines[0]) :].strip(), 14, then, 700)[0]]


def _whole_lines(told: Sequence[str], room: float, most: int) -> list[str]:
    """As many of the things that are told as stand whole in so many lines; the folder that is handed over has them all."""
    for count in range(len(told), 0, -1):
        lines = wrapped("; ".join(told[:count]), 13, room)
        if len(lines) <= most:
            return lines
    return lines[:most]


def _facts(p: QPainter, story: Story) -> None:
    """What does not hang on one board: forecast, hours, joints, further boards."""
    told = []
    if story.forecast_kg is not None:
        told.append(f"its wood was forecast at {story.forecast_kg:.2f} ± {story.forecast_spread_kg or 0.0:.2f} kg")
    if story.hours:
        told.append(f"{story.hours:.1f} hours of hand work")
    if story.joints:
        told.append(f"{count_of(len(story.joints), 'joint')} glued")
    if len(story.boards) > MOST:
        told.append(f"{count_of(len(story.boards) - MOST, 'board')} more overleaf")
    draw.text_at(p, EDGE, LINE_Y - 22, "; ".join(told), LIGHT.ink2, 13.5, room=WIDE - 2 * EDGE)


def _days(p: QPainter, story: Story) -> None:
    """The line of its days; each stands where there is room for its words."""
    theme = LIGHT
    p.setPen(QPen(theme.ink, 1.4))
    p.drawLine(QPointF(EDGE, LINE_Y), QPointF(WIDE - EDGE, LINE_Y))
    each = (WIDE - 2 * EDGE) / max(1, len(story.events))
    for k, (day, words) in enumerate(story.events):
        x = EDGE + k * each
        p.setPen(QPen(theme.ink, 1.4))
        p.drawLine(QPointF(x, LINE_Y - 6), QPointF(x, LINE_Y + 6))
        when = date.fromisoformat(day)
        draw.text_at(p, x + 2, LINE_Y + 18, f"{when.day} {when:%b %Y}", theme.ink, 14, 700, figures=True)
        draw.text_at(p, x + 2, LINE_Y + 34, words, theme.ink2, 13, room=each - 8)


def _left_over(p: QPainter, story: Story) -> None:
    """Offcuts, and what they became; those that find no room are counted."""
    if not story.offcuts:
        return
    theme, x = LIGHT, EDGE
    x += draw.text_at(p, x, LEFT_Y + 14, "Left over", theme.ink, 14.5, 700) + 12
    for k, one in enumerate(story.offcuts):
        words = f"{one.number} {one.words}"
        wide = 26 + draw.text_width(words, 13) + 14
        more = f"and {len(story.offcuts) - k} more"
        if x + wide > WIDE - EDGE - (draw.text_width(more, 13) if k + 1 < len(story.offcuts) else 0):
            draw.text_at(p, x, LEFT_Y + 14, more, theme.ink2, 13)
            return
        p.setBrush(plain_colour(one.species))
        p.setPen(QPen(theme.ink, 1))
        p.drawRect(QRectF(x, LEFT_Y + 3, 20, 13))
        draw.text_at(p, x + 26, LEFT_Y + 14, words, theme.ink2, 13)
        x += wide
