"""Where buttons, fields and lists stand: rows, columns and grids from a corner, for screens that paint on the same ground.

Qt's own layouts do not know where the painting ends. A screen says which widgets follow one another and from which edge; the counting
of pixels is done here and nowhere else. A widget goes alone, as wide as its words want, or in a pair with the width it is to have.
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence

from PySide6.QtWidgets import QWidget

HIGH = 44  # px: what a thumb hits
GAP = 10
Item = QWidget | tuple[QWidget, float]


def _parts(item: Item) -> tuple[QWidget, int]:
    widget, wide = item if isinstance(item, tuple) else (item, item.sizeHint().width())
    return widget, int(wide)


def fill(widget: QWidget, left: float, top: float, right: float, bottom: float) -> None:
    """All of a box given by its four edges, px; a box turned inside out is empty."""
    widget.setGeometry(int(left), int(top), max(0, int(right) - int(left)), max(0, int(bottom) - int(top)))


def row(items: Iterable[Item], left: float, top: float, *, high: float = HIGH, gap: float = GAP) -> int:
    """One after the other to the right; returns where the next one would begin, px."""
    x = int(left)
    for widget, wide in map(_parts, items):
        widget.setGeometry(x, int(top), wide, int(high))
        x += wide + int(gap)
    return x


def row_to_right(items: Iterable[Item], right: float, top: float, *, high: float = HIGH, gap: float = GAP) -> int:
    """The first of them ends at ``right``, each next one stands before it; returns where the next one would end, px."""
    x = int(right)
    for widget, wide in map(_parts, items):
        widget.setGeometry(x - wide, int(top), wide, int(high))
        x -= wide + int(gap)
    return x


def column(items: Iterable[QWidget], left: float, top: float, wide: float, *, high: float = HIGH, gap: float = GAP) -> int:
    """One below the other, all as wide; returns where the next one would begin, px."""
    y = int(top)
    for widget in items:
        widget.setGeometry(int(left), y, int(wide), int(high))
        y += int(high) + int(gap)
    return y


def grid(
    items: Sequence[QWidget], left: float, top: float, wide: float, columns: int, *, high: float = HIGH, gap: float = GAP
) -> int:
    """Row by row, so many in each, which share the width; returns where the next row would begin, px."""
    each = (wide - gap * (columns - 1)) / columns
    y = int(top)
    for first in range(0, len(items), columns):
        row([(widget, int(each)) for widget in items[first : first + columns]], left, y, high=high, gap=gap)
        y += int(high) + int(gap)
    return y


def wrapped(items: Iterable[Item], left: float, top: float, right: float, *, high: float = HIGH, gap: float = GAP) -> int:
    """To the right and on the next line where ``right`` is reached; none is wider than the line. Returns where the next line would
    begin, px: ``top`` where there was nothing to lay."""
    x, y, any_laid = int(left), int(top), False
    for widget, wanted in map(_parts, items):
        wide = min(wanted, int(right) - int(left))
        if x > left and x + wide > right:
            x, y = int(left), y + int(high) + int(gap)
        widget.setGeometry(x, y, wide, int(high))
        x += wide + int(gap)
        any_laid = True
    return y + int(high) + int(gap) if any_laid else y
