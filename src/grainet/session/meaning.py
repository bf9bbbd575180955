"""What a line of words means before it is kept, and what every reader of words shares: figures with their limits, options."""

from __future__ import annotations

import re
from dataclasses import dataclass, field

from grainet.kit.shop_kit import ShopKit
from grainet.session.asking import Query
from grainet.wood.climate import AirReading
from grainet.wood.figure import HOUSE_WORDS
from grainet.wood.piece import PIECE_KINDS, Piece, PieceKind
from grainet.wood.species import SpeciesLibrary
from grainet.wood.units import LengthStyle, format_length, parse_length, parse_pair
from grainet.wood.value import BadEntry

SAME_PLACE_MM = 0.5


@dataclass(frozen=True)
class Meaning:
    """What a line of words means: the gloss, and the piece after it or the place that the plumb moves to.

    ``more`` are pieces that come with it (a bundle's items, the halves of a cut); ``replaces`` says that the piece in hand makes
    way for them.
    """

    gloss: str
    piece: Piece | None = None
    plumb_mm: float | None = None
    label: str = ""
    more: tuple[Piece, ...] = field(default=())
    replaces: bool = False
    asks: Query | None = None  # what the rack is asked; an empty one asks for nothing
    opens: str | None = None  # a piece's number, as a label says it
    part: tuple[float, float, float, float] | None = None  # a part to try on the board, mm
    claims: str | None = None  # what the piece, or the part tried on it, is kept for
    air: AirReading | None = None  # a reading of the shop's air
    beside: str | None = None  # another piece's number, to be glued beside this one
    frees: str | None = None  # a claim to give back, or * for all on the piece
    cut: tuple[str, float] | None = None  # "crosscut", "rip" or "resaw", and where: the shop saws the piece apart


@dataclass
class ReaderBase:
    """One word for one piece at one place; ``by`` names the instrument that speaks, empty for a person."""

    piece: Piece
    at: float
    unit: str
    style: LengthStyle
    today: str
    pin_depth_mm: float
    by: str = ""
    house: tuple[str, ...] = HOUSE_WORDS
    kit: ShopKit = field(default_factory=ShopKit)
    placed: bool = True  # a place was typed, or the plumb was moved off the marked end

    @property
    def library(self) -> SpeciesLibrary:
        return self.kit.library

    @property
    def inner(self) -> float:
        """Where a reading that needs the wood's inside is taken: here, or half way along while no place was said."""
        end = self.piece.length_mm or self.piece.extents[2]
        return self.at if self.placed or not end else round(end / 2, 1)

    def mm(self, text: str, name: str, least: float = 0.0, most: float = 20_000.0) -> float:
        """One length in mm within limits, or two figures for it that agree. Raises BadEntry."""
        pair = parse_pair(text, self.unit)
        if pair is not None and not pair.agrees:
            raise BadEntry(f"{text}: the two figures are {pair.apart_mm:.1f} apart. Measure once more.")
        sign = -1 if text.strip().startswith("-") else 1
        mm = pair.first.mm if pair else sign * parse_length(text.strip().removeprefix("-"), self.unit).mm
        if not least < mm <= most:
            raise BadEntry(f"{name} {mm:.1f} wants to be over {least:g} and at most {most:g}.")
        return mm

    def lengths(self, text: str, name: str, most: float) -> list[float]:
        """One length, or several parted by blanks: ``52.4 52.1 51.6``; ``2 1/16`` and ``7 ft 10`` are one."""
        words = text.split()
        plain = len(words) > 1 and all(re.fullmatch(r"\d+(?:[.,]\d+)?|[.,]\d+", w) for w in words)
        return [self.mm(w, name, most=most) for w in words] if plain else [self.mm(text, name, most=most)]

    def shown(self, mm: float) -> str:
        return format_length(mm, self.style, unit=True)

    def number(self, text: str, name: str, low: float, high: float) -> float:
        """One plain figure within limits. Raises BadEntry."""
        try:
            value = float(text.replace(",", ".").rstrip("%°").strip())
        except ValueError:
            raise BadEntry(f"“{text}” is not a figure for {name}; wants {low:g} to {high:g}.") from None
        if not low <= value <= high:
            raise BadEntry(f"{name} {value:g} is out of reach; wants {low:g} to {high:g}.")
        return value

    def options(self, text: str, letters: str) -> tuple[str, dict[str, str]]:
        """``52.4 y 40 h 0.4`` to ("52.4", {"y": "40", "h": "0.4"})."""
        found = dict(re.findall(rf"(?:^|\s)([{letters}])\s+(\S+)", text))
        return re.sub(rf"(?:^|\s)[{letters}]\s+\S+", "", text).strip(), found

    def read_by(self, name: str, **changes: object) -> Piece:
        """The piece with some figures changed, and a note of the instrument that gave them."""
        others = tuple(pair for pair in self.piece.read_by if pair[0] != name)
        return self.piece.changed(read_by=(*others, (name, self.by)) if self.by else others, **changes)

    def kind_named(self, name: str) -> PieceKind | None:
        """A piece kind by its first letters."""
        tidy = name.strip().lower().replace(" ", "_")
        return next((k for k in PIECE_KINDS if len(tidy) >= 4 and k.startswith(tidy)), None) or next(
            (k for k in PIECE_KINDS if tidy and k.startswith(tidy)), None
        )


def with_option(rest: str, letter: str) -> tuple[str, str]:
    """``8.4 d 20`` to ("8.4", "20")."""
    found = re.match(rf"^(.*?)(?:\s+{letter}\s+(\S+))?$", rest)
    assert found is not None
    return found[1], found[2] or ""
