"""A whole piece as a person says it, in whatever order: ``94 1/8 x 8 1/4 x 2 walnut``, ``white ash 36 by 10 by 2``, ``1/2 thick, 3 ft long, 10 wide, cherry``."""

from __future__ import annotations

import re
from dataclasses import dataclass

from grainet.wood.units import LENGTH

TIMES = r"\s*(?:x|by(?=[\s0-9.]))\s*"  # between two sizes
_TRIPLE = re.compile(rf"(?<!\S)({LENGTH}(?:{TIMES}{LENGTH}){{2}})(?=$|[\s,;])", re.I)
_SPOKEN = {
    name: re.compile(rf"(?<!\S)(?:({LENGTH})\s*{name}\b|{noun}\s+({LENGTH})(?=$|[\s,;]))", re.I)
    for name, noun in (("long", "length"), ("wide", "width"), ("thick", "thickness"))
}
_FILLER = frozenset({"a", "an", "the", "and", "of", "piece", "new"})


@dataclass(frozen=True)
class Said:
    """What stands in a line: length, width and thickness as they were typed, and every other word that says something."""

    sizes: tuple[str, ...]
    words: tuple[str, ...]


def whole_piece(line: str) -> Said | None:
    """Three sizes in a line and the words beside them; None where it has not all three, or a place stands before them."""
    found = _TRIPLE.search(line)
    if found is not None and found.start() and line[0].isdigit():
        return None
    if found is not None:
        sizes, left = re.split(TIMES, found[1], flags=re.I), line[: found.start()] + " " + line[found.end() :]
    else:
        told = {name: form.search(line) for name, form in _SPOKEN.items()}
        if any(one is None for one in told.values()):
            return None
        sizes, left = [one[1] or one[2] for one in told.values() if one is not None], line
        for one in told.values():
            left = left.replace(one[0], " ", 1) if one is not None else left
    words = re.sub(r"[,;]+(?=\s|$)|(?<=\s)[,;]+", " ", left).split()
    return Said(tuple(sizes), tuple(w for w in words if w.lower() not in _FILLER))
