"""Bits of a line about an instrument: a length, sizes typed as one word, a length behind a word, "away"."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from grainet.wood.units import entry_unit, format_length, parse_length, with_plain_fractions
from grainet.wood.value import BadEntry

if TYPE_CHECKING:
    from grainet.session.commands.figures import FigureReader


_MIXED = re.compile(r"(?<![\d/.,-])(\d+)\s+(\d+\s*/\s*\d+)(?![\d/])")
_TIMES = re.compile(r"(?<=[0-9\"”])\s+x\s+(?=[0-9])", re.I)


def as_words(line: str) -> list[str]:
    """The words of a line; a whole number and a fraction are one of them (nut 1 11/16), so are sizes: cavity 70 x 60 x 45."""
    plain = with_plain_fractions(line).replace("×", "x")
    mixed = _MIXED.sub(lambda found: f"{found[1]}-{found[2].replace(' ', '')}", plain)
    return re.sub(r"[,;](?=\s|$)", " ", _TIMES.sub("x", mixed)).split()


def mm(reader: FigureReader, text: str) -> float:
    """A length in a word, mm. Raises BadEntry."""
    return parse_length(text, entry_unit(reader.style)).mm


def shown(reader: FigureReader, length_mm: float) -> str:
    """A length in the person's own unit."""
    return format_length(length_mm, reader.style)


def skip(reader: FigureReader, word: str) -> bool:
    """Take a word away where it stands next; whether it did."""
    if reader.words and reader.words[0].lower() == word:
        reader.words.pop(0)
        return True
    return False


def is_away(reader: FigureReader, told: str) -> bool:
    """Whether the part is taken away, which is told then."""
    if not skip(reader, "away"):
        return False
    reader.told.append(told)
    return True


def after(reader: FigureReader, word: str, example: str) -> float:
    """The length behind a word; 0 where the word does not stand next. Raises BadEntry."""
    if not skip(reader, word):
        return 0.0
    if not reader.words:
        raise BadEntry(f"{word} needs a length, such as {example}.")
    return mm(reader, reader.words.pop(0))


def sizes(reader: FigureReader, word: str, names: tuple[str, ...], example: str) -> list[float]:
    """Sizes typed as one word: 70x60x45. Raises BadEntry."""
    parts = reader.words.pop(0).lower().split("x") if reader.words else []
    if len(parts) != len(names):
        raise BadEntry(f"{word} needs its {', '.join(names[:-1])} and {names[-1]} in one: {example}.")
    return [mm(reader, part) for part in parts]


def whole(reader: FigureReader, word: str, wanted: str) -> int:
    """A whole number from 1 on. Raises BadEntry."""
    told = reader.words.pop(0) if reader.words else ""
    if not told.isdigit() or not int(told):
        raise BadEntry(f"{word} needs {wanted}; found “{told}”.")
    return int(told)


def signed(word: str, unit: str) -> float:
    """A length that may lie below the centre line. Raises BadEntry."""
    return -parse_length(word[1:], unit).mm if word.startswith("-") else parse_length(word, unit).mm if word.strip("0.") else 0.0
