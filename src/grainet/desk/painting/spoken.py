"""What a screen paints is also told to those who listen: every text that is drawn becomes the accessible description of its widget.

So no painted fact can be forgotten, and one that is written short for want of room is told in full.
"""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager

from PySide6.QtWidgets import QAbstractButton, QWidget

LINE_PX = 9.0  # texts whose baselines are nearer than this stand on one line
_listening: list[list[tuple[float, float, str]]] = []


def tell(x: float, baseline: float, text: str) -> None:
    """A text was drawn there, px."""
    if _listening and text.strip():
        _listening[-1].append((baseline, x, text))


@contextmanager
def told_by(widget: QWidget) -> Iterator[None]:
    """While a widget paints: its texts become its description, unless it is a button or describes itself."""
    _listening.append([])
    try:
        yield
    finally:
        words = in_reading_order(_listening.pop())
    before = widget.property("paintedWords") or ""
    if words != before and not isinstance(widget, QAbstractButton) and widget.accessibleDescription() in ("", before):
        widget.setProperty("paintedWords", words)
        widget.setAccessibleDescription(words)


def in_reading_order(texts: list[tuple[float, float, str]]) -> str:
    """Texts by (baseline, x) as they are read: line by line, each from the left, ended as sentences are."""
    lines: list[list[tuple[float, str]]] = []
    last = None
    for baseline, x, text in sorted(texts):
        if last is None or baseline - last > LINE_PX:
            lines.append([])
            last = baseline
        lines[-1].append((x, text.strip()))
    read = [", ".join(text for _, text in sorted(line)) for line in lines]
    return " ".join(line if line[-1:] in ".!?:;" else f"{line}." for line in read)
