"""What every reader of words shares: figures with their limits, options, species, kinds."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field

from grainet.kit.shop_profile import ShopProfile
from grainet.session.commands.whole_piece import TIMES
from grainet.wood.figure import HOUSE_WORDS
from grainet.wood.piece import PIECE_KINDS, Piece, PieceKind
from grainet.wood.quantity import FIGURE, PLAIN, Quantity, of_ten
from grainet.wood.record import Weighing
from grainet.wood.species import Species, SpeciesLibrary, plain
from grainet.wood.units import LENGTH, LengthStyle, format_length, parse_length, parse_pair, tell_length
from grainet.wood.value import BadEntry, Choose

MOST_CHOICES = 12
_ONE = re.compile(LENGTH, re.I)
ALSO_CALLED: dict[str, PieceKind] = {
    "board": "plank", "beam": "billet", "batten": "strip", "sheet": "panel", "leaf": "plate", "furniture": "furniture_part",
}  # fmt: skip


@dataclass(frozen=True)
class Wood:
    """A species as it was told, whether surely, and what else it may be."""

    name: str
    sure: bool = True
    others: tuple[str, ...] = ()

    @property
    def words(self) -> str:
        """As a gloss says it."""
        if self.name == "unknown":
            return "species unknown"
        return (
            self.name
            if self.sure
            else f"{', '.join((self.name, *self.others))}: unsure; the strictest caution of what it may be counts"
        )


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
    kit: ShopProfile = field(default_factory=ShopProfile)
    placed: bool = True  # a place was typed, or the plumb was moved off the marked end

    @property
    def library(self) -> SpeciesLibrary:
        """Every species that the shop knows."""
        return self.kit.library

    @property
    def inner(self) -> float:
        """Where a reading that needs the wood's inside is taken: here, or half way along while no place was said."""
        end = self.piece.length_mm or self.piece.extents[2]
        return self.at if self.placed or not end else round(end / 2, 1)

    def species_of(self, text: str) -> Species:
        """The one species of a name. Raises BadEntry, and Choose where several are called so."""
        name = text.strip()
        found = self.library.matches(name)
        if len(found) > 1:
            shown = [s.common for s in found[:MOST_CHOICES]]
            more = f" and {len(found) - len(shown)} more" if len(found) > len(shown) else ""
            unsure = f"{name}?"
            text = f"{len(found)} species are called {name}: {', '.join(shown)}{more}. Which one? {unsure} keeps it unsure."
            raise Choose(text, name, (*shown, unsure))
        if not found:
            if len(plain(name)) < 2:
                raise BadEntry(f"“{name}” names no species; needs a name such as sp white ash, or sp unknown.")
            raise BadEntry(f"“{name}” is not in the species library; add it in the kit book (Ctrl+K), or sp unknown.")
        return found[0]

    def wood_of(self, text: str) -> Wood:
        """What a piece is told to be: a species, *unknown*, or unsure: ``oak?`` is any of its family, ``oak or sweet chestnut`` any of both.

        Raises BadEntry, and Choose where several species are called so and nothing says that it is unsure.
        """
        name = text.strip()
        if name.lower() in ("unknown", "?"):
            return Wood("unknown", sure=False)
        parts = [part.strip("? ") for part in re.split(r"\s+or\s+", name, flags=re.I)]
        if len(parts) == 1 and not name.endswith("?"):
            return Wood(self.species_of(name).common)
        found = [s.common for part in parts for s in self.library.matches(part) or [self.species_of(part)]]
        first, *others = dict.fromkeys(found[:MOST_CHOICES])
        return Wood(first, sure=False, others=tuple(others))

    def depth_in_the_wood(self, message: str | None) -> float:
        """How deep a reading lies: as said, else where the pins reach, and the middle of wood that is thinner than they are long."""
        thick = self.piece.least_thickness_mm
        if message is None:
            return self.pin_depth_mm if thick is None or thick > self.pin_depth_mm else round(thick / 2, 2)
        depth = self.mm(message, "depth", least=-1e-9, most=1000)
        if thick is not None and depth > max(self.piece.all_thicknesses_mm) + 1e-9:
            raise BadEntry(
                f"{self.told(depth, 'g')} deep is through the wood, which is {self.told(thick, '.1f')} thick; at most that."
            )
        return depth

    # figures ------------------------------------------------------------------------------------------------------
    def sizes(self, words: list[str]) -> list[float]:
        """Sizes in mm. Raises BadEntry for one that cannot be used."""
        return [self.mm(word, "size") for word in words]

    def take_sizes(self, rest: str) -> tuple[list[str], str] | None:
        """Sizes at the head of what follows a word, and the rest: ``24x18 y 40``, ``94"x9"x2" ash``, ``18`` for one across.

        None where it does not begin with a size.
        """
        found = re.match(rf"({LENGTH}(?:{TIMES}{LENGTH})*)(?=$|\s)", rest, re.I)
        if found is None:
            if re.match(rf"{LENGTH}\s*x", rest, re.I):
                raise BadEntry(f"“{rest.split()[0]}” is not a size; needs one such as 24x18 or 2390x231x52.")
            return None
        return re.split(TIMES, found[1], flags=re.I), rest[found.end() :].strip()

    def weighed(self, kg: float, day: str) -> Piece:
        """The piece with a weighing in its series; the newest one is its weight."""
        others = [w for w in self.piece.weighings if w.on != day]
        rows = tuple(sorted((*others, Weighing(on=day, kg=kg, by=self.by)), key=lambda w: w.on))
        return self.read_by("mass_kg", mass_kg=rows[-1].kg, weighings=rows)

    def mm(self, text: str, name: str, least: float = 0.0, most: float = 20_000.0, beside: float | None = None) -> float:
        """One length in mm within limits, or two figures for it that agree. Raises BadEntry.

        ``beside`` is a figure for a like thing: one ten times as large or small is asked about, unless it ends with "!".
        """
        tidy, sure = _sure(text)
        pair = parse_pair(tidy, self.unit)
        if pair is not None and not pair.agrees:
            raise BadEntry(f"{text}: the two figures are {self.told(pair.apart_mm, '.1f')} apart. Measure once more.")
        sign = -1 if tidy.startswith("-") else 1
        mm = pair.first.mm if pair else sign * parse_length(tidy.removeprefix("-"), self.unit).mm
        if not least < mm <= most:
            reach = f"needs over {self.told(max(0.0, least), 'g')} and at most {self.told(most, 'g')}"
            raise BadEntry(f"{name} {self.told(mm, '.1f')} is out of reach; {reach}.")
        if not sure:
            self._of_ten(tidy, mm, beside, name)
        return mm

    def _of_ten(self, text: str, value: float, beside: float | None, name: str) -> None:
        if of_ten(value, beside):
            assert beside is not None
            choices = [c for c in (_slipped(text, value, beside),) if c]
            asked = f"{choices[0]} or {text}" if choices else text
            raise Choose(
                f"{name} {text} stands beside {beside:.4g}, about ten times apart: {asked}? {text}! keeps it.",
                text,
                (*choices, f"{text}!"),
            )

    def lengths(self, text: str, name: str, most: float, beside: float | None = None) -> list[float]:
        """One length, or several parted by blanks: ``52.4 52.1 51.6``; ``2 1/16`` and ``7 ft 10`` are one."""
        words = several(text)
        if len(words) < 2:
            return [self.mm(text, name, most=most, beside=beside)]
        figures: list[float] = []
        for word in words:
            figures.append(self.mm(word, name, most=most, beside=beside))
            beside = beside or figures[0]
        return figures

    def told(self, mm: float, form: str = ".0f") -> str:
        """A place or a size in a sentence, without its unit."""
        return tell_length(mm, self.style, form)

    def shown(self, mm: float) -> str:
        """A length as the shop writes it."""
        return format_length(mm, self.style, unit=True)

    def number(
        self, text: str, name: str, low: float, high: float, of: Quantity = PLAIN, beside: float | None = None,
        parse: Callable[[str, str], float] | None = None,
    ) -> float:  # fmt: skip
        """One figure of a quantity within limits, in the unit that is kept. Raises BadEntry."""
        tidy, sure = _sure(text)
        if not tidy:
            raise BadEntry(f"{name} needs a figure, {of.named.partition('such as')[2].strip() or 'such as 3'}.")
        value = (parse or of.parse)(tidy, name)
        if not low <= value <= high:
            raise BadEntry(f"{name} {value:g} is out of reach; needs {low:g} to {high:g}.")
        if not sure:
            self._of_ten(tidy, value, beside, name)
        return value

    def options(self, text: str, names: str | Sequence[str], flags: Sequence[str] = ()) -> Options:
        """``52.4 y 40 through`` to what stands before the options, the options and the flags; see ``Options``."""
        return Options.parse(text, tuple(names), tuple(flags))

    def nothing_more(self, rest: str, word: str) -> None:
        """Raises BadEntry where words that take nothing are followed by something."""
        if rest.strip():
            raise BadEntry(f"“{rest.strip()}” is left over: {word} needs nothing behind it.")

    def read_by(self, name: str, **changes: object) -> Piece:
        """The piece with some figures changed, and a note of the instrument that gave them."""
        others = tuple(pair for pair in self.piece.read_by if pair[0] != name)
        return self.piece.changed(read_by=(*others, (name, self.by)) if self.by else others, **changes)

    def kind_named(self, name: str) -> PieceKind | None:
        """A piece kind by its first letters, or by what the trade calls it besides."""
        tidy = name.strip().lower().replace(" ", "_").replace("-", "")
        if tidy in ALSO_CALLED:
            return ALSO_CALLED[tidy]
        return next((k for k in PIECE_KINDS if len(tidy) >= 4 and k.startswith(tidy)), None) or next(
            (k for k in PIECE_KINDS if tidy and k.startswith(tidy)), None
        )


def faces_in_short(text: str) -> str:
    """A line's tail with the face as the words have it: ``f1``, ``face 1`` and ``hollow face 1`` are f 1; no comma behind a figure."""
    plain_tail = re.sub(r"[,;]+(?=\s|$)", " ", text)
    return re.sub(r"(?<!\S)(?:on\s+)?(?:the\s+)?(?:hollow\s+)?(?:face\s*|f)([12])(?!\S)", r"f \1", plain_tail, flags=re.I)


def several(text: str) -> list[str]:
    """Lengths that follow one another, each in words of its own: ``2 1/16 2 1/16 2`` are three; empty where something else stands there."""
    return [] if _ONE.sub("", text).strip(" ,") else [one[0] for one in _ONE.finditer(text)]


def _sure(text: str) -> tuple[str, bool]:
    """A figure and whether it was confirmed with "!": ``523!``."""
    tidy = text.strip()
    return (tidy[:-1].strip(), True) if tidy.endswith("!") else (tidy, False)


def _slipped(text: str, value: float, beside: float) -> str:
    """The figure with its point moved to where it agrees with the one beside it; empty where it is no plain figure."""
    if not re.fullmatch(FIGURE, text):
        return ""
    step = 10.0 if value < beside else 0.1
    moved = float(text.replace(",", ".")) * step
    if of_ten(value * step, beside):
        moved *= step
    return f"{moved:.6g}"


@dataclass(frozen=True)
class Options:
    """A line's tail taken apart: the words before the first option, options with their figure (``y 40``), bare flags (``through``),
    and what follows them all. Whoever reads a line says what becomes of every one of these; ``left`` must never be dropped."""

    first: str
    given: dict[str, str]
    flags: tuple[str, ...]
    left: str

    @classmethod
    def parse(cls, text: str, names: tuple[str, ...], flags: tuple[str, ...] = ()) -> Options:
        """Take a tail apart. Raises BadEntry where an option has no figure or stands twice."""
        first: list[str] = []
        left: list[str] = []
        given: dict[str, str] = {}
        found: list[str] = []
        words = faces_in_short(text).split() if "f" in names else text.split()
        k = 0
        while k < len(words):
            word = words[k].lower()
            if word in names:
                if k + 1 == len(words) or words[k + 1].lower() in names:
                    raise BadEntry(f"“{word}” needs a figure behind it, such as {word} 40.")
                if word in given:
                    raise BadEntry(f"“{word}” stands twice on the line.")
                k += 2
                given[word] = words[k - 1]
                while (
                    k < len(words)
                    and words[k].lower() not in names
                    and re.fullmatch(r"[0-9]+/[0-9]+|mm|cm|in|inch|ft|%|°|hz|s", words[k], re.I)
                ):
                    given[word] += f" {words[k]}"  # y 2 1/16, d 9 mm
                    k += 1
                continue
            if word in flags:
                found.append(word)
            else:
                (left if given or found else first).append(words[k])
            k += 1
        return cls(" ".join(first), given, tuple(found), " ".join(left))

    def all_used(self, wanted: str) -> None:
        """Raises BadEntry where something is left over."""
        if self.left:
            raise BadEntry(f"“{self.left}” is left over; {wanted}")
