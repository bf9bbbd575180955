"""Words broken into lines, for whatever draws them: a screen, a page, a chart."""

from __future__ import annotations

from collections.abc import Callable


def wrap(text: str, room: float, width_of: Callable[[str], float]) -> list[str]:
    """Lines no wider than ``room``, in the unit of ``width_of``; a single word that is wider stands alone."""
    lines: list[str] = []
    for word in text.split():
        longer = f"{lines[-1]} {word}" if lines else word
        if lines and width_of(longer) <= room:
            lines[-1] = longer
        else:
            lines.append(word)
    return lines
