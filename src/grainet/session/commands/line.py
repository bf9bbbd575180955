"""The tape line's language: short words such as ``760 t 2 1/16`` to an edit of the piece in hand, with a gloss beforehand.

A word is read once, here, with a sentence for what cannot be used; nothing is changed until the meaning is applied. Marks are
read by ``tape_marks``, whole pieces (kinds, bundles, turning, sawing apart) by ``tape_stock``.
"""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import replace

from grainet.kit.shop_profile import ShopProfile
from grainet.session.air_words import air_reading
from grainet.session.commands.command import Command
from grainet.session.commands.definition import SHOP, SIZES, Word, words_in
from grainet.session.commands.mark_changes import as_a_word, of_a_mark, reshaped
from grainet.session.commands.marks import ALL_DEFECTS, MarkWords
from grainet.session.commands.marks import FORMS as MARK_FORMS
from grainet.session.commands.reader_base import ReaderBase
from grainet.session.commands.sizes import SizeWords
from grainet.session.commands.spoken_figure import extent_of_figure, named_figure
from grainet.session.commands.spoken_mark import as_written
from grainet.session.commands.stock import StockWords
from grainet.session.commands.whole_piece import TIMES, Said, whole_piece
from grainet.session.commands.wood import WoodWords
from grainet.session.query import parse_query
from grainet.wood.defects import ALIASES, FAMILY, KIND_OF_CODE, Defect, label_of
from grainet.wood.figure import FIGURE_KINDS, HOUSE_WORDS
from grainet.wood.piece import PIECE_KINDS, Piece, with_readings
from grainet.wood.units import LENGTH, LengthStyle, entry_unit, parse_length, tell_length, with_plain_fractions
from grainet.wood.value import BadEntry, Choose, NoSuchWord

FORMS = (
    Word("760", SIZES, "760", "moves the marker there", "760", "marker place along go position"),
    Word("plank", SIZES, "plank L x W x T species", "a whole piece, in any order; after a measured one it begins the next", "plank 2390x231x52 white ash", "all beam board slab billet strip panel plate veneer blank fretboard furniture offcut reclaimed dimensions size ½ 1/2 × metres feet inch spaces"),
    Word("ask", SHOP, "ask size words", "asks the rack for wood", "ask 30 x 110 x 700 clear, quartered", "find search which where have", free=True),
    Word("#", SHOP, "#number", "opens a piece, as its label says; also no 18", "#18", "open go label scan number"),
    Word("air", SHOP, "air temperature humidity", "the shop's air now, °C (or F) and %", "air 20.5 46", "climate humidity rh temperature weather"),
)  # fmt: skip


# a figure said before its word, as people say it: 165 wide, 58 thick, 3.4 kg, 8.2 %
_SAID = {"long": "l", "wide": "w", "thick": "t", "kg": "kg", "kilos": "kg", "%": "mc", "percent": "mc", "moist": "mc"}
# the names that stand on the screen, where the tape line's own word is shorter
_NAMED = {
    "length": "l", "width": "w", "thickness": "t", "weight": "kg", "moisture": "mc", "species": "sp", "origin": "from", "source": "from",
    "treatment": "treated", "edges": "e",
}  # fmt: skip
_SPOKEN = re.compile(rf"({LENGTH}|[0-9.,]+)\s*%?\s*({'|'.join(_SAID)})", re.I)

_WEIGHED = re.compile(r"[0-9][0-9.,]*\s*(?:lbs?|pounds?|oz|ounces?|g|grams?)", re.I)


def read(
    text: str, piece: Piece | None, cursor_mm: float, style: LengthStyle, today: str, pin_depth_mm: float = 10.0, by: str = "",
    house: tuple[str, ...] = HOUSE_WORDS, kit: ShopProfile | None = None,
) -> Command:  # fmt: skip
    """The meaning of a line for the piece in hand. Raises BadEntry with what was found and what is wanted."""
    line = " ".join(text.split())
    if (first := re.match(r"[A-Za-z]+", line)) is None or first[0].lower() not in FREE:
        line = with_plain_fractions(line.replace("×", "x"))
    if not line:
        raise BadEntry("Type a figure: 760 moves the marker, t 52.4 is a thickness there, ? lists the words.")
    kit = kit or ShopProfile()
    if (asked := _of_the_shop(line, style, today, by, house, kit)) is not None:
        return asked
    if piece is not None and (told := _whole_piece(line)) is not None:
        return Reader(piece, cursor_mm, entry_unit(style), style, today, pin_depth_mm, by, house, kit).whole(told)
    if piece is not None and (tagged := of_a_mark(line, piece)) is not None:
        reader = Reader(piece, cursor_mm, entry_unit(style), style, today, pin_depth_mm, by, house, kit)
        return reader.of_mark(*tagged)
    if said := _SPOKEN.fullmatch(line):
        line = f"{_SAID[said[2].lower()]} {said[1].strip()}"
    elif said := _WEIGHED.fullmatch(line):
        line = f"kg {line}"
    unit = entry_unit(style)
    place, word, rest = _split(line, unit)
    at = cursor_mm if place is None else place
    if not word:
        return _bare(at, piece, style)
    if piece is None:
        raise BadEntry("There is no piece in hand yet; press Ctrl+N for a new one.")
    reader = Reader(piece, at, unit, style, today, pin_depth_mm, by, house, kit, place is not None or cursor_mm > 0)
    word, rest = named_figure(word, rest)
    if word in FIGURE_KINDS:
        rest = extent_of_figure(rest, piece, place, house)
    if is_mark(_singular(word).lower()):
        place, rest = as_written(rest, place, unit, label_of(KIND_OF_CODE.get(word.lower(), _singular(word))))
        reader.at, reader.placed = at if place is None else place, reader.placed or place is not None
    if place is not None:
        reader.on_the_board(place)
    return reader.read(word, rest, place)


def _of_the_shop(line: str, style: LengthStyle, today: str, by: str, house: tuple[str, ...], kit: ShopProfile) -> Command | None:
    """What a line asks of the whole shop: the words, a piece by its number, wood by its size, its air; None for a word about a piece."""
    if line.startswith("?"):
        return Command("the words of the tape line", lists=line[1:].strip())
    if opened := re.fullmatch(r"(?:#|no\b\.?|number\b)\s*(.*)", line, re.I):
        if not opened[1]:
            raise BadEntry(f"{line} needs the number of a piece, such as no 42.")
        return Command(f"opens No. {opened[1]}", opens=opened[1])
    if re.match(r"ask\b", line, re.I):
        query = parse_query(line[3:], style, house, kit.library)
        return Command(f"asks the rack for {query.message(style) or 'every piece'}", asks=query)
    if re.match(r"air\b", line, re.I):
        made = air_reading(line[3:], today, by)
        gloss = f"{made.temperature_c:g} °C, {100 * made.humidity:.0f} %: wood in it heads for {made.equilibrium_pct:.1f} %"
        return Command(gloss, air=made)
    return None


def is_mark(word: str) -> bool:
    """Whether a word is a kind of trouble or figure, its code, or what builders call it."""
    return word in KIND_OF_CODE or word in ALL_DEFECTS or word in ALIASES or word in FIGURE_KINDS


SPACED = tuple(
    sorted((label_of(k) for k in (*PIECE_KINDS, *ALL_DEFECTS, *FIGURE_KINDS, *ALIASES) if "_" in k), key=len, reverse=True)
)
_PLACE = re.compile(rf"\s*({LENGTH})(?=$|\s|[A-Za-z])", re.I)


def _split(line: str, unit: str) -> tuple[float | None, str, str]:
    """``760 t 52`` to (760, t, 52): a leading length, the word, and what follows. A word is never cut apart for a unit in it."""
    if re.fullmatch(rf"{LENGTH}{TIMES}{LENGTH}", line, re.I):
        raise BadEntry(
            f"“{line}” is two sizes: a piece needs three, such as 2390x231x52; a mark its word before them, such as knot 24x18."
        )
    place, tail = None, line
    found = _PLACE.match(line)
    if found:
        text = found[1]
        if re.search(r"[0-9]\s*m$", text, re.I) and line[found.end() :].strip():
            text = re.sub(r"\s*m$", "", text, flags=re.I)  # metal at a place, not metres
        place = parse_length(text.removesuffix("!"), unit).mm
        tail = line[found.start(1) + len(text) :].strip()
    tail = re.sub(r"^bird'?s eye\b", "birdseye", tail, flags=re.I)
    lower = tail.lower()
    for name in SPACED:
        if lower == name or lower.startswith(f"{name} "):
            return place, name.replace(" ", "_"), tail[len(name) :].strip()
    word = re.match(r"([A-Za-z_]+)(?:\s+(.*)|([0-9].*))?$", tail, re.S)
    if word is None:
        if tail:
            raise BadEntry(f"“{line}” is not understood from “{tail}” on; ? lists the words.")
        return place, "", ""
    return place, _NAMED.get(word[1].lower(), word[1]), (word[2] or word[3] or "").strip()


def _whole_piece(line: str) -> Said | None:
    """A whole piece that is said without a word of the tape line in front of it."""
    first = re.match(r"[A-Za-z]+", line)
    word = first[0].lower() if first is not None else ""
    if (
        word != "reclaimed"
        and word
        and any(
            name in some
            for name in (word, _singular(word))
            for some in (READ_BY, KIND_OF_CODE, ALL_DEFECTS, ALIASES, FIGURE_KINDS)
        )
    ):
        return None
    return whole_piece(line)


def _bare(at: float, piece: Piece | None, style: LengthStyle) -> Command:
    unit = " mm" if style == "mm" else " in"
    if piece is not None and not piece.length_mm and not piece.outline:
        return Command(f"{tell_length(at, style)}{unit} long: Enter keeps it", with_readings(piece, length_mm=at), label="length")
    end = piece.length_mm or piece.extents[2] if piece else at
    if not 0 <= at <= end + 1e-6:
        raise BadEntry(f"{tell_length(at, style)} is off the piece, which ends at {tell_length(end, style)}.")
    return Command(f"the marker to {tell_length(at, style)}", cursor_mm=at)


class Reader(SizeWords, MarkWords, StockWords, WoodWords, ReaderBase):
    """Reads one word for one piece at one place."""

    def read(self, word: str, rest: str, place: float | None = None) -> Command:
        """What a word with what follows it means. A place that says nothing about the word is told in the gloss."""
        word = _singular(word)
        meaning = self._of_word(word, rest)
        lower = word.lower()
        if place is None or lower in PLACED or is_mark(lower):
            return meaning
        return replace(meaning, gloss=f"{meaning.gloss} (of the whole piece: {self.told(place)} says nothing here)")

    def _of_word(self, word: str, rest: str) -> Command:
        lower = word.lower()
        if lower == "new" and self.kind_named(rest.partition(" ")[0][:40]):
            word, _, rest = rest.partition(" ")  # new plank 2390x231x52 white ash
            lower = word.lower()
        sized = self.take_sizes(rest)
        if sized is not None and (len(sized[0]) > 1 or lower not in READ_BY):  # t 52 is a thickness, t 60x40 a stain
            words, tail = sized
            if lower in KIND_OF_CODE or lower in ALL_DEFECTS:
                return self.defect(KIND_OF_CODE.get(lower, lower), self.sizes(words), tail)
            if lower in ALIASES:
                return self.defect(ALIASES[lower], self.sizes(words), tail, lower)
            if lower in FIGURE_KINDS:
                return self.figure(lower, self.sizes(words), tail)
            if (
                len(lower) >= 4 and len(words) > 1 and (kind := self.kind_named(lower))
            ):  # one slipped key must not reshape a piece
                return self.sized_piece(kind, self.sizes(words), tail)
        if lower in READ_BY:
            read_it: Callable[[str], Command] = getattr(self, READ_BY[lower])
            return read_it(rest)
        if lower in KIND_OF_CODE or lower in ALL_DEFECTS or lower in ALIASES:
            raise BadEntry(_wants_its_size(lower))
        if lower in FIGURE_KINDS:
            return self.figure(lower, None, rest)
        if len(lower) >= 4 and (kind := self.kind_named(lower)):
            if rest:
                raise BadEntry(f"“{rest}” is not a size; needs length x width x thickness, such as {label_of(kind)} 2390x231x52.")
            return self._kind(kind)
        near = nearest(lower)
        hint = f" Near to it: {near}." if near else ""
        raise NoSuchWord(
            f"“{label_of(word)}” is not a word of the tape line; ? lists them, and finds them by what they mean.{hint}"
        )

    def whole(self, told: Said) -> Command:
        """A whole piece: its kind where one is named, else that of a piece in hand that is not measured yet, else a plank."""
        kinds = [w for w in told.words if len(w) >= 4 and self.kind_named(w)]
        kind = self.kind_named(kinds[0]) if kinds else "plank" if self.piece.outline else self.piece.kind
        assert kind is not None
        left = [w for w in told.words if w not in kinds[:1]]
        wood = " ".join(w for w in left if w.lower() != "reclaimed")
        if wood and not self._known(wood):
            near = nearest(left[0].lower())
            hint = f" Near to it: {near}." if near else ""
            raise BadEntry(
                f"“{wood}” is no kind of piece and no species of the library; the kit book (Ctrl+K) takes one, or leave it out.{hint}"
            )
        return self.sized_piece(kind, self.sizes(list(told.sizes)), " ".join(left))

    def of_mark(self, mark: Defect, rest: str) -> Command:
        """What is so now of a mark that is there."""
        if (ring := reshaped(mark, rest, self.unit)) is not None:
            return self.reshape(mark, ring)
        word, _, more = as_a_word(mark, rest).partition(" ")
        return self.read(word, more)

    def _known(self, wood: str) -> bool:
        """Whether some species of the library is meant, however unsurely."""
        try:
            self.wood_of(wood)
        except Choose:
            return True
        except BadEntry:
            return False
        return True

    def on_the_board(self, place: float) -> None:
        """Raises BadEntry where a place along lies off the board."""
        end = self.piece.length_mm or self.piece.extents[2]
        if end and place > end + 0.5:
            raise BadEntry(f"{self.told(place)} is off the board, which ends at {self.told(end)}.")


def _wants_its_size(word: str) -> str:
    """What a trouble without a size is answered, with sizes that such a thing has."""
    kind = KIND_OF_CODE.get(word) or ALIASES.get(word) or word
    such = {"metal": ("6x6", "6 across"), "breaks": ("250x3", "250 long, 3 wide")}.get(FAMILY[kind], ("24x18", "18 across"))
    return f"A {label_of(KIND_OF_CODE.get(word, word))} needs its size, such as {label_of(word)} {such[0]}, or {such[1]}."


READERS: tuple[type, ...] = (SizeWords, MarkWords, WoodWords, StockWords)
WORDS: tuple[Word, ...] = (*FORMS, *MARK_FORMS, *(one for reader in READERS for one in words_in(reader)))


def _singular(word: str) -> str:
    """A word in the plural, as a verdict or a label has it, as the tape line has it: rings 80 80 is ring 80 80."""
    lower = word.lower()
    known = (READ_BY, KIND_OF_CODE, ALL_DEFECTS, ALIASES, FIGURE_KINDS)
    if lower.endswith("s") and not any(lower in some for some in known) and any(lower[:-1] in some for some in known):
        return word[:-1]
    return word


def nearest(word: str) -> str:
    """The word of the tape line that a slip of the keys was meant for, or that stands inside it; empty where none is near."""
    import difflib

    known = sorted({label_of(w) for w in (*READ_BY, *PIECE_KINDS, *ALL_DEFECTS, *ALIASES, *FIGURE_KINDS) if len(w) > 3})
    inside = max((w for w in known if w in word), key=len, default="")
    return inside or next(iter(difflib.get_close_matches(word, known, n=1, cutoff=0.75)), "")


READ_BY = {one.word: one.reader for one in WORDS if one.reader}
FREE = frozenset(one.word for one in WORDS if one.free)
FREE |= {name for name, word in _NAMED.items() if word in FREE}
PLACED = frozenset(one.word for one in WORDS if one.placed)
