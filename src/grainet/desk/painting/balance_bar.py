"""Where the wood goes, as one bar in true proportion: wood where it is wood, plain where it is dust, each share named below."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QPainter, QPainterPath, QPen

from grainet.desk.painting import draw
from grainet.desk.painting.tokens import Theme
from grainet.desk.services.pictures import Pictures, plain_colour
from grainet.wood.piece import Piece

BAR_H, LEAST_PX, GAP_PX, WORDS_PX = 30, 0.5, 14.0, 13.5


@dataclass(frozen=True)
class BarShare:
    """One share: its name, how much of all, the piece whose wood it is (None: dust and shavings), and how it is veiled."""

    name: str
    share: float
    piece: Piece | None = None
    veil: str = ""


def balance_bar(
    p: QPainter, theme: Theme, pictures: Pictures, shares: Sequence[BarShare], x: float, y: float, wide: float, decimals: int = 1
) -> None:
    """Paint the bar and its words from a place on, so many px wide."""
    starts, words = [], [f"{one.name} {100 * one.share:.{decimals}f} %" for one in shares]
    right = x + wide
    for one in shares:
        box = QRectF(x, y, wide * one.share, BAR_H)
        if one.piece is not None:
            shape = QPainterPath()
            shape.addRect(box)
            target = QRectF(x, y, max(300.0, box.width()), 2 * BAR_H)
            wood = pictures.get(one.piece, "face1")
            draw.wood_texture(p, theme, shape, wood, target, plain_colour(one.piece.species), one.veil)
            draw.outline(p, shape, theme.ink, 1.2)
        elif box.width() > LEAST_PX:
            p.fillRect(box, {"kerf": theme.edge, "planed off": theme.hair, "offcuts": theme.hair}.get(one.name, theme.shelf))
            p.setPen(QPen(theme.edge, 1))
            p.setBrush(Qt.BrushStyle.NoBrush)
            p.drawRect(box)
        starts.append(x)
        x += box.width()
    for at, text in zip(side_by_side(starts, [draw.text_width(w, WORDS_PX) for w in words], right), words):
        draw.text_at(p, at, y + BAR_H + 18, text, theme.ink, WORDS_PX)


def side_by_side(starts: Sequence[float], widths: Sequence[float], right: float) -> list[float]:
    """Where words begin that would like to begin at their starts: moved right past the words before, then left to end by ``right``."""
    found: list[float] = []
    for start in starts:
        found.append(max(start, found[-1] + widths[len(found) - 1] + GAP_PX if found else start))
    limit = right
    for k in range(len(found) - 1, -1, -1):
        found[k] = min(found[k], limit - widths[k])
        limit = found[k] - GAP_PX
    return found
