"""Which station understands a line that the one in front does not."""

from __future__ import annotations

from grainet.session.commands.figures import words_for_drawing

DRAW_UP, MATCH, GLUE = "Draw up (F4)", "Match (F6)", "Glue (F8)"
# words that one station alone reads
_OF_ONE = {
    "centred": "Lay out (F5)", "limit": MATCH, "skim": MATCH, "measured": MATCH, "open": MATCH, "fit": GLUE, "off": GLUE,
    "warm": GLUE, "way": "Glue (F8) and Order (Ctrl+J)", "port": "the kit book (Ctrl+K)",
}  # fmt: skip


def station_of(line: str) -> str:
    """The station whose word a line begins with, as a person would look for it; empty where none has it."""
    first = line.split()[0].lower() if line.split() else ""
    if first in _OF_ONE:
        return _OF_ONE[first]
    return DRAW_UP if first in {row[0] for row in words_for_drawing()} else ""
