"""Figure as a person says it: ``figure curl``, ``curly``, ``flamed 100 to 400``, ``quilted loud``; without a size it is all over the piece."""

from __future__ import annotations

import re
from collections.abc import Collection

from grainet.wood.defects import label_of
from grainet.wood.figure import FIGURE_KINDS
from grainet.wood.piece import Piece
from grainet.wood.value import BadEntry

SAID = {
    "curly": "curl", "curls": "curl", "fiddleback": "curl", "flamed": "flame", "flames": "flame", "quilted": "quilt", "burled": "burl",
    "spalted": "spalt", "ribboned": "ribbon", "flecked": "ray_fleck", "fleck": "ray_fleck", "birdseyed": "birdseye",
    "birds_eye": "birdseye",
}  # fmt: skip
_TWO_WORDS = re.compile(r"ray fleck|bird'?s eye", re.I)
_SHARE = re.compile(r"(?:0?\.[0-9]+|[0-9]{1,3}\s*%)(?=$|\s)")


def named_figure(word: str, rest: str) -> tuple[str, str]:
    """The kind of figure that a word names, and what follows it; any other word as it is. Raises BadEntry for figure of no kind."""
    lower = word.lower()
    if lower in SAID:
        return SAID[lower], rest
    if lower not in ("figure", "figured"):
        return word, rest
    first, _, more = _TWO_WORDS.sub(lambda two: two[0].replace(" ", "_").replace("'", ""), rest, count=1).partition(" ")
    kind = SAID.get(first.lower(), first.lower())
    if kind not in FIGURE_KINDS:
        kinds = ", ".join(label_of(k) for k in FIGURE_KINDS)
        found = f"“{first}” is no kind of figure" if first else "Figure of which kind is not told"
        raise BadEntry(f"{found}; needs one of {kinds}, such as figure curl.")
    return kind, more


def extent_of_figure(rest: str, piece: Piece, place: float | None, house: Collection[str]) -> str:
    """What follows a kind of figure; a stretch of which no width is told goes from edge to edge. Raises BadEntry for a place without a size."""
    rest = options_of_figure(rest, house)
    if (place is not None or re.match(r"at\b", rest, re.I)) and not re.search(r"[0-9]\s*(?:x|by|wide|long|across)", rest, re.I):
        raise BadEntry(
            "Figure at a place needs its size there, such as 300 curl 200x80; without a place it is all over the piece."
        )
    stretch = re.search(r"[0-9\"'/]\s*to\s+[0-9]", rest, re.I)
    if stretch is None or re.search(r"\b(?:wide|across)\b|[0-9]\s*x\s*[0-9]", rest, re.I) or not piece.outline:
        return rest
    _, y0, _, y1 = piece.extents
    return f"{rest} {y1 - y0:.6g} mm wide"


def options_of_figure(rest: str, house: Collection[str]) -> str:
    """What follows a figure's size: a bare share is its strength, a word of the house is its word."""
    if _SHARE.match(rest):
        return f"s {rest}"
    first, _, more = rest.partition(" ")
    return f"word {first.lower()} {more}".strip() if first.lower() in house else rest
