"""Running sizes over the wood: one slip left of each crosscut's kerf and one right, and at each rip its own; the next cut's are in chalk."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QPainter, QPen

from grainet.desk.painting import draw
from grainet.desk.painting.tokens import Theme
from grainet.present.running_sizes import KerfEdges
from grainet.wood.units import LengthStyle, format_mark

HIGH = 22  # of a slip
ORDER = {"next": 0, "later": 1, "done": 2}  # who is written where there is no room for all


def draw_running(
    p: QPainter, theme: Theme, kerfs: Sequence[KerfEdges], style: LengthStyle, datum: tuple[float, float], to_x: Callable[[float], float],
    to_y: Callable[[float], float], top: float, wood: QRectF,
) -> list[str]:  # fmt: skip
    """Slips of a board's kerfs, those that find room of their own; what was written. ``top`` is where the row over the wood begins, px."""
    taken: list[QRectF] = []
    written: list[str] = []
    for one in sorted(kerfs, key=lambda k: (ORDER[k.state], k.number)):
        for text, x, y, right in _slips(one, style, datum, to_x, to_y, top):
            wide = draw.text_width(text, 14, 600, figures=True) + 12
            box = QRectF(x - wide if right else x, y, wide, HIGH)
            if box.left() < wood.left() - 30 or box.right() > wood.right() + 60 or any(box.intersects(t) for t in taken):
                continue
            taken.append(box.adjusted(-3, 0, 3, 0))
            written.append(text)
            _slip(p, theme, box, text, one.state)
        if one.across:
            p.setPen(QPen(theme.chalk if one.state == "next" else theme.ink2, 1.4 if one.state == "next" else 1))
            for mm in (one.low_mm, one.high_mm):
                x = to_x(datum[0] + mm)
                p.drawLine(QPointF(x, top + HIGH), QPointF(x, wood.top()))
    return written


def _slips(
    one: KerfEdges, style: LengthStyle, datum: tuple[float, float], to_x: Callable[[float], float], to_y: Callable[[float], float], top: float
) -> list[tuple[str, float, float, bool]]:  # fmt: skip
    """Each slip of a kerf: its words, where it stands, and whether that is its right end."""
    if one.across:
        low, high = to_x(datum[0] + one.low_mm), to_x(datum[0] + one.high_mm)
        rows = [(f"{format_mark(one.low_mm, style)} ▸", low - 1, top, True)] if one.low_mm > 0 else []
        return [*rows, (f"◂ {format_mark(one.high_mm, style)}", high + 1, top, False)]
    # of a kerf that hangs over the near edge only the other side lies on the wood
    mm, arrow = (one.low_mm, "▴") if one.low_mm > 0 else (one.high_mm, "▾")
    return [(f"{format_mark(mm, style)} {arrow} rip", to_x(one.from_mm) + 26, to_y(datum[1] + mm) - HIGH / 2, False)]


def _slip(p: QPainter, theme: Theme, box: QRectF, text: str, state: str) -> None:
    pale = state == "done"
    p.setBrush(theme.ground if pale else theme.slip)
    p.setPen(QPen(theme.chalk if state == "next" else theme.edge if pale else theme.ink, 1.5 if state == "next" else 1))
    p.drawRoundedRect(box, 2, 2)
    p.setBrush(Qt.BrushStyle.NoBrush)
    ink = theme.chalk if state == "next" else theme.ink2 if pale else theme.ink
    draw.text_at(p, box.x() + 6, box.y() + HIGH / 2 + 5, text, ink, 14, 600, figures=True)
