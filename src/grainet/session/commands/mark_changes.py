"""A line that begins with a mark's own tag: ``c1 0 to 420``, ``k2 30 deep``, ``m1 out``, ``c1 through``."""

from __future__ import annotations

import re

from grainet.session.commands.spoken_mark import Heard, stretch_of
from grainet.wood.defects import Defect
from grainet.wood.piece import Piece
from grainet.wood.value import BadEntry, Ring

_TAGGED = re.compile(r"([a-z][0-9]+)\s+(.+)", re.I)
_WORDS = ("out", "ends", "drop", "depth", "sev", "feature", "face", "is", "cleared", "mend")
_DEEP = re.compile(r"(?:d\s+)?(.+?)\s*(?:deep)?", re.I)


def of_a_mark(line: str, piece: Piece) -> tuple[Defect, str] | None:
    """A mark that a line begins with, and what is told of it; None where the line begins otherwise, or has no such mark."""
    told = _TAGGED.fullmatch(line)
    found = next((d for d in piece.defects if told is not None and d.id == told[1].lower()), None)
    return (found, told[2].strip()) if found is not None and told is not None else None


def as_a_word(mark: Defect, rest: str) -> str:
    """What is told as the tape line's own word has it: ``m1 out`` is ``out m1``, ``k2 30 deep`` is ``depth k2 30``.

    Raises BadEntry for what says nothing about a mark: it would be read as a new one, with its tag's number for a size.
    """
    word, _, more = rest.partition(" ")
    if word.lower() in _WORDS:
        return f"{word.lower()} {mark.id} {more}".strip()
    if rest.lower() in ("through", "edge"):
        return f"face {mark.id} {rest.lower()}"
    deep = _DEEP.fullmatch(rest) if re.search(r"deep$|^d\s", rest, re.I) else None
    if deep is None or re.search(r"[a-z]{3}", deep[1], re.I):
        raise BadEntry(
            f"{mark.id} is marked already: {mark.id} 12 deep, {mark.id} 0 to 420, {mark.id} 14 wide, {mark.id} through or {mark.id} drop changes it."
        )
    return f"depth {mark.id} {deep[1]}"


def reshaped(mark: Defect, rest: str, unit: str) -> Ring | None:
    """Its outline, stretched and moved to what is told: from where to where along, how long or wide, in the middle of which place.

    A mark that begins at the marked end goes on doing so. None where nothing of that is told. Raises BadEntry where something is left over.
    """
    heard = Heard(re.sub(r"(?<!\S)y\s+(?=[0-9])", "up ", rest), unit)
    stretch, spot = stretch_of(heard)
    long, wide = heard.said.pop("long", None), heard.said.pop("wide", None)
    up = heard.said.pop("up", None)
    if stretch is None and spot is None and long is None and wide is None and up is None:
        return None
    if stretch is not None and long is not None:
        raise BadEntry(f"How long {mark.id} is stands twice on the line; needs it once, such as {mark.id} 0 to 420.")
    if (more := heard.left.strip(" ,;")) or heard.said:
        left = more or "how deep it is"
        raise BadEntry(
            f"“{left}” is left over; {mark.id} takes one thing at a time, such as {mark.id} 0 to 420, or {mark.id} 12 deep."
        )
    xs, ys = [x for x, _ in mark.polygon], [y for _, y in mark.polygon]
    x0, x1, y0, y1 = min(xs), max(xs), min(ys), max(ys)
    length, middle = (x1 - x0 if long is None else long), (x0 + x1) / 2 if spot is None else spot
    low = x0 if x0 <= 0.5 and spot is None else middle - length / 2
    to_x = stretch or (low, low + length)
    width, centre = (y1 - y0 if wide is None else wide), (y0 + y1) / 2 if up is None else up
    to_y = (centre - width / 2, centre + width / 2)
    return tuple((_onto(x, x0, x1, *to_x), _onto(y, y0, y1, *to_y)) for x, y in mark.polygon)


def _onto(value: float, low: float, high: float, to_low: float, to_high: float) -> float:
    share = (value - low) / (high - low) if high > low else 0.5
    return round(to_low + share * (to_high - to_low), 3)
