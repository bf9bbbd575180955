"""Words of the tape line about the instrument in hand: figures, ways and woods, several on one line as one change."""

from __future__ import annotations

from collections import Counter
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from pydantic import ValidationError

from grainet.design.figures import BY_WORD, FIGURES, Figure
from grainet.design.instrument import KINDS, ROUTES, Instrument
from grainet.design.mends import mends_of, without_mends
from grainet.design.outline_body import scaled_body, turned_body
from grainet.design.parts import drawable
from grainet.design.starting_points import POINTS
from grainet.design.ways import WAYS, with_way
from grainet.session.commands.bits import as_words, signed
from grainet.session.commands.part_words import read_block, read_let, read_stiffener
from grainet.session.commands.shape_words import read_contour, read_rim
from grainet.session.commands.strip_words import read_strip, read_strips
from grainet.session.instruments import Instruments
from grainet.session.kinds import PIECES
from grainet.wood.species import SpeciesLibrary
from grainet.wood.units import LengthStyle, entry_unit, format_length, parse_length
from grainet.wood.value import BadEntry, why_not

STATUS_WORDS = {"?": "guessed", "guessed": "guessed", "ordered": "ordered"}
WOODS = {
    "body": "body.species",
    "top": "body.cap_species",
    "neck": "neck.species",
    "board": "fretboard.species",
    "plate": "plate.species",
}
WAY_OF_WORD = {"body": "body", "top": "cap", "neck": "neck", "head": "head", "board": "fretboard", "plate": "plate"}
# how ways may be typed besides their names
WAY_WORDS = {
    "halves": "halves", "two": "halves", "one": "one piece", "three": "three", "wings": "wings", "core": "wings", "centre": "centre strip", "center": "centre strip",
    "skins": "skins", "fold": "fold", "folded": "fold", "slip": "slip", "quiet": "quiet pair", "resaw": "resaw", "resawn": "resaw", "none": "none", "ears": "ears",
    "strips": "strips", "layers": "layers", "flat": "flat", "solid": "solid", "stacked": "stacked", "scarf": "scarf", "bound": "bound", "unbound": "unbound",
}  # fmt: skip
OPENERS = (
    "new",
    "as",
    "outline",
    "cavity",
    "let",
    "block",
    "stiffener",
    "bevel",
    "carve",
    "contour",
    "name",
    "strips",
    "strip",
    "left",
    "right",
    "through",
    "bolt-on",
    "set",
)


@dataclass(frozen=True)
class Change:
    """What a line makes of the instrument: the new one, what was said, and whether it is another one than before."""

    after: Instrument
    gloss: str
    begins: bool = False


@dataclass
class FigureReader:
    """Reads one line for one instrument; None while there is none yet."""

    before: Instrument | None
    instruments: Instruments
    library: SpeciesLibrary
    style: LengthStyle
    words: list[str] = field(default_factory=list)
    told: list[str] = field(default_factory=list)

    def read(self, line: str) -> Change | None:
        """What a line means; None where its first word is none of ours. Raises BadEntry."""
        self.words, self.told = as_words(line), []
        if not self.words or not self._is_ours(self.words[0].lower()):
            return None
        try:
            change = self._begin() if self.words[0].lower() in ("new", "as") else self._changes()
            drawable(change.after)
            return change
        except ValidationError as fault:
            raise BadEntry(f"{line.strip()}: {why_not(fault)}.") from None

    def rack_woods(self) -> list[str]:
        """The woods of the rack, the most of them first."""
        pieces = self.instruments.items.all(PIECES)
        return [name for name, _ in Counter(p.species for p in pieces if not p.gone and p.species != "unknown").most_common()]

    def _is_ours(self, word: str) -> bool:
        return word in BY_WORD or word in OPENERS or word in WAY_OF_WORD

    # whole instruments ----------------------------------------------------------------------------------------------
    def _begin(self) -> Change:
        verb, rest = self.words[0].lower(), self.words[1:]
        if verb == "as":
            old = self.instruments.named(" ".join(rest))
            if old is None:
                known = ", ".join(g.shown_name for g in self.instruments.all()) or "none yet"
                raise BadEntry(f"“{' '.join(rest)}” is no instrument of this shop; there are: {known}.")
            made = self.instruments.like(old)
            return Change(made, f"{made.shown_name}, another one like {old.shown_name}", begins=True)
        if not rest:
            raise BadEntry(f"new needs a starting point: {', '.join(POINTS)}; then a name if you like: new bolt-on Heron 8.")
        made = self.instruments.new(rest[0].lower(), " ".join(rest[1:]))
        return Change(made, f"{made.shown_name}: {POINTS[self.instruments.point_named(rest[0])][0]}", begins=True)

    # figures ----------------------------------------------------------------------------------------------------------
    def _changes(self) -> Change:
        if self.before is None:
            raise BadEntry(f"There is no instrument yet: new {next(iter(POINTS))}, or another of {', '.join(POINTS)}.")
        g = self.before
        while self.words:
            word = self.words.pop(0)
            g = self._one(g, word.lower())
        return Change(g, ", ".join(self.told))

    def _one(self, g: Instrument, word: str) -> Instrument:
        handler: Callable[[Instrument], Instrument] | None = {
            "name": self._name, "cavity": self._cavity, "let": lambda one: read_let(self, one), "block": lambda one: read_block(self, one), "stiffener": lambda one: read_stiffener(self, one), "strips": lambda one: read_strips(self, one), "strip": lambda one: read_strip(self, one), "head": self._head, "body": self._body, "top": self._top,
            "outline": self._outline, "contour": lambda one: read_contour(self, one),
            "bevel": lambda one: read_rim(self, one, "bevel"), "carve": lambda one: read_rim(self, one, "carve"),
            "left": lambda one: self._hand(one, "left"), "right": lambda one: self._hand(one, "right"),
        }.get(word)  # fmt: skip
        if handler is not None:
            return handler(g)
        if word in KINDS:
            self.told.append(f"{word} neck")
            return g.changed(kind=word)
        if word in WAY_OF_WORD and self.words and self._is_way_or_wood(self.words[0].lower()):
            return self._way_or_wood(g, word)
        if word not in BY_WORD:
            raise BadEntry(f"“{word}” is no figure of an instrument; the words are: {', '.join(BY_WORD)}.")
        return self._figure(g, BY_WORD[word])

    def _figure(self, g: Instrument, figure: Figure) -> Instrument:
        values = self._values(figure)
        path, value = figure.path, self._fitting(g, figure, values)
        told: dict[str, Any] = {path: value}
        if figure.word == "depth" and len(values) > 1:
            told = {path: values[0], "neck.depth_heel_mm": values[1]}
        status = self._status(figure)
        shown = " ".join(self._shown(v, figure) for v in values)
        self.told.append(f"{figure.label} {shown}{'' if status is None else f', {status}'}")
        kept: dict[str, str] = {p: s for p, s in g.status.items() if p not in told}
        if status is not None:
            kept |= dict.fromkeys(told, status)
        elif figure.bought:
            kept |= dict.fromkeys(told, "in hand")
        return g.with_figures({**told, "status": kept})

    def _fitting(self, g: Instrument, figure: Figure, values: list[float]) -> Any:
        """The value in the form that its field has: a list, a whole number, one figure."""
        now = g.figure(figure.path)
        if isinstance(now, tuple):
            if len(values) > 2:
                raise BadEntry(f"{figure.word} needs one figure, or two; found {len(values)}.")
            return values
        if len(values) > 1 and figure.word != "depth":
            raise BadEntry(f"{figure.word} needs one figure; found {len(values)}.")
        if isinstance(now, int):
            if values[0] != int(values[0]):
                raise BadEntry(f"{figure.word} {values[0]:g} needs a whole number.")
            return int(values[0])
        return values[0]

    def _values(self, figure: Figure) -> list[float]:
        """The figures that follow a word, as many as there are."""
        found: list[float] = []
        while self.words and (value := self._number(self.words[0], figure)) is not None:
            if self.words[0].endswith("?"):
                self.words[0] = "?"
                found.append(value)
                break
            self.words.pop(0)
            found.append(value)
        if not found:
            more = f"; found “{self.words[0]}”" if self.words else ""
            raise BadEntry(f"{figure.word} needs a figure, such as {figure.word} {self._example(figure)}{more}.")
        return found

    def _example(self, figure: Figure) -> str:
        value = (self.before or Instrument(id="x")).figure(figure.path)
        value = value[0] if isinstance(value, tuple) else value
        return self._shown(float(value or 0), figure)

    def _number(self, text: str, figure: Figure) -> float | None:
        bare = text.rstrip("?")
        if figure.unit != "mm":
            try:
                return float(bare.rstrip("°").replace(",", "."))
            except ValueError:
                return None
        try:
            return parse_length(bare, entry_unit(self.style)).mm
        except BadEntry:
            return 0.0 if bare == "none" else None

    def _status(self, figure: Figure) -> str | None:
        """How sure a figure is, where that was said behind it."""
        if not self.words:
            return None
        if self.words[0] in STATUS_WORDS:
            return STATUS_WORDS[self.words.pop(0)]
        if [w.lower() for w in self.words[:2]] == ["in", "hand"]:
            del self.words[:2]
            return "in hand"
        return None

    def _shown(self, value: float, figure: Figure) -> str:
        return format_length(value, self.style) if figure.unit == "mm" else f"{value:g}{figure.unit}"

    # ways, woods and the rest ---------------------------------------------------------------------------------------
    def _is_way_or_wood(self, word: str) -> bool:
        return word in ("of", "as") or word in WAY_WORDS

    def _way_or_wood(self, g: Instrument, word: str) -> Instrument:
        if self.words[0].lower() == "of":
            return self._wood(g, word)
        if self.words[0].lower() == "as":
            return self._as_drawn(g, word)
        component = WAY_OF_WORD[word]
        way = WAY_WORDS[self.words.pop(0).lower()]
        for filler in ("piece", "pair", "strip", "pieces"):
            if self.words and self.words[0].lower() == filler:
                self.words.pop(0)
        if way not in {w.name for w in WAYS[component]}:
            raise BadEntry(
                f"“{way}” is no way to make the {component}; needs one of {', '.join(w.name for w in WAYS[component])}."
            )
        self.told.append(f"{word}: {way}")
        try:
            return with_way(g, component, way)
        except ValueError as fault:
            raise BadEntry(f"{fault}.") from None

    def _as_drawn(self, g: Instrument, word: str) -> Instrument:
        """``body as drawn``: without the ways out that were taken for it."""
        del self.words[:2]
        component = WAY_OF_WORD[word]
        if not mends_of(g, component):
            raise BadEntry(f"The {word} is as it is drawn; no way out was taken for it.")
        self.told.append(f"{word} as drawn")
        return without_mends(g, component)

    def _wood(self, g: Instrument, word: str) -> Instrument:
        """``body of ash or alder``: the woods that a part is wished in; ``body of any`` wishes for none."""
        self.words.pop(0)
        names = " ".join(self.words).replace(" or ", ",").split(",")
        self.words = []
        if word not in WOODS:
            raise BadEntry(f"{word} has no wood of its own; needs one of {', '.join(WOODS)}.")
        if [n.strip().lower() for n in names] == ["any"]:
            self.told.append(f"{word} of any wood")
            return g.with_figure(WOODS[word], [])
        kept = []
        for name in (n.strip() for n in names if n.strip()):
            found = self.library.matches(name)
            if not found:
                raise BadEntry(f"“{name}” is not in the species library; add it in the kit book (Ctrl+K), or say: {word} of any.")
            kept += [s.common for s in found[:8]]
        if not kept:
            raise BadEntry(f"{word} of needs a wood, such as {word} of European ash, or {word} of any.")
        self.told.append(f"{word} of {', '.join(kept)}")
        return g.with_figure(WOODS[word], list(dict.fromkeys(kept)))

    def _name(self, g: Instrument) -> Instrument:
        name = " ".join(self.words)
        self.words = []
        if not name:
            raise BadEntry("name needs what it is called, such as name Heron 8.")
        self.told.append(f"called {name}")
        return g.changed(name=name)

    def _outline(self, g: Instrument) -> Instrument:
        """``outline turn`` lays the body end for end, ``outline mirror`` about its centre line."""
        how = self.words.pop(0).lower() if self.words else ""
        if how not in ("turn", "mirror"):
            raise BadEntry(
                "outline needs turn (end for end) or mirror (about the centre line); a file comes in by the menu of instruments."
            )
        self.told.append("the body turned end for end" if how == "turn" else "the body mirrored")
        return turned_body(g, how)

    def _cavity(self, g: Instrument) -> Instrument:
        """``cavity control 32 at 120 -80 60x40`` (from the tail, from the centre line, bass side up), ``cavity control 30``, ``cavity control
        away``."""
        example = "cavity control 32 at 120 -80 60x40"
        if len(self.words) < 2:
            raise BadEntry(f"cavity needs a name and a depth, such as {example}.")
        name, told = self.words.pop(0).lower(), self.words.pop(0)
        kept = [c.model_dump(mode="json") for c in g.body.cavities if c.name.lower() != name]
        old = next((c for c in g.body.cavities if c.name.lower() == name), None)
        if told.lower() == "away":
            if old is None:
                raise BadEntry(
                    f"There is no cavity “{name}”; there are: {', '.join(c.name for c in g.body.cavities) or 'none yet'}."
                )
            self.told.append(f"no cavity {name}")
            return g.with_figure("body.cavities", kept)
        unit = entry_unit(self.style)
        depth = parse_length(told, unit).mm
        if self.words and self.words[0].lower() == "at":
            if len(self.words) < 4 or "x" not in self.words[3]:
                raise BadEntry(f"cavity {name} {told} at needs its middle and its size: {example}.")
            x, y = (signed(word, unit) for word in self.words[1:3])
            long, wide = (parse_length(part, unit).mm / 2 for part in self.words[3].split("x", 1))
            del self.words[:4]
            ring = [[x - long, y - wide], [x + long, y - wide], [x + long, y + wide], [x - long, y + wide]]
        elif old is not None:
            ring = [list(p) for p in old.polygon]
        else:
            raise BadEntry(f"cavity {name} needs its place and size too: {example}.")
        self.told.append(f"cavity {name}, {format_length(depth, self.style)} deep")
        return g.with_figure("body.cavities", [*kept, {"name": name, "depth_mm": depth, "polygon": ring}])

    def _hand(self, g: Instrument, hand: str) -> Instrument:
        self.told.append(f"{hand}-handed")
        if hand == g.hand:
            return g
        return turned_body(g, "mirror").with_figure("hand", hand)

    def _head(self, g: Instrument) -> Instrument:
        """``head 178x82``, ``head flat``, ``head 14 scarf``."""
        if not self.words:
            raise BadEntry(f"head needs a size, a pitch or a way: head 178x82, head 14 scarf, head {ROUTES[0]}.")
        first = self.words[0].lower()
        if "x" in first and first not in WAY_WORDS:
            return self._size(g, "head", ("head.length_mm", "head.width_mm"))
        if first in WAY_WORDS:
            return self._way_or_wood(g, "head")
        return self._figure(g, BY_WORD["pitch"]) if not self._route_behind() else self._pitched(g)

    def _route_behind(self) -> bool:
        return len(self.words) > 1 and self.words[1].lower() in ROUTES

    def _pitched(self, g: Instrument) -> Instrument:
        angle, route = self.words.pop(0), self.words.pop(0).lower()
        value = self._number(angle, BY_WORD["pitch"])
        if value is None:
            raise BadEntry(f"“{angle}” is no angle; head needs one such as head 14 scarf.")
        self.told.append(f"{route} head, {value:g}°")
        return g.with_figures({"head.angle_deg": value, "head.route": route})

    def _size(self, g: Instrument, word: str, paths: tuple[str, str]) -> Instrument:
        texts = self.words.pop(0).split("x")
        if len(texts) != 2:
            raise BadEntry(f"{word} needs length x width, such as {word} 178x82.")
        sizes = [parse_length(t, entry_unit(self.style)).mm for t in texts]
        shown = " × ".join(format_length(v, self.style) for v in sizes)
        self.told.append(f"{word} {shown}")
        if word == "head":
            kept = {p: s for p, s in g.status.items() if p not in paths}
            return g.with_figures({**dict(zip(paths, sizes)), "status": kept})
        return scaled_body(g, *sizes)

    def _body(self, g: Instrument) -> Instrument:
        """``body 44``, ``body 400x316``, ``body halves``, ``body of ash``."""
        if self.words and self._is_way_or_wood(self.words[0].lower()):
            return self._way_or_wood(g, "body")
        if self.words and "x" in self.words[0]:
            return self._size(g, "body", ("", ""))
        return self._figure(g, BY_WORD["body"])

    def _top(self, g: Instrument) -> Instrument:
        """``top 6``, ``top none``, ``top resawn``, ``top of maple``."""
        if self.words and self.words[0].lower() == "none":
            self.words.pop(0)
            self.told.append("no top")
            return g.with_figures({"body.cap_mm": 0.0, "body.rim_mm": 0.0, "body.recess_mm": 0.0})
        if self.words and self._is_way_or_wood(self.words[0].lower()):
            return self._way_or_wood(g, "top")
        return self._figure(g, BY_WORD["top"])


def words_for_drawing() -> list[tuple[str, str, str]]:
    """(word, what it does, an example) of everything that may be typed about an instrument."""
    rows = [
        ("new", "begins an instrument from a starting point", "new bolt-on Heron 8"),
        ("as", "another one like it", "as Heron 7"),
    ]
    rows += [(f.word, f.label + (f": {f.help}" if f.help else ""), f.word) for f in FIGURES]
    rows += [
        ("head", "size, pitch and way of the head", "head 178x82"), ("body", "thickness, size, way or wood of the body", "body 400x316"),
        ("neck", "way or wood of the neck", "neck strips"), ("strips", "the strips of a laminated neck; swap changes their woods about", "strips 12 a1.5 10 ="), ("strip", "one strip: its thickness, taper, wood, grain", "strip 3 10>5 of walnut"),
        ("top", "thickness, way or wood of the top", "top 6"), ("left", "a left-handed instrument", "left"), ("outline", "turns or mirrors the body's outline", "outline turn"), ("cavity", "a hollow routed from the show side: its name, depth, middle and size", "cavity control 32 at 120 -80 60x40"), ("let", "a plate let into the neck's back: its name, thickness, how deep, size, from the nut", "let cover 4 deep 3.6 120x30 at 40"), ("block", "a block under the heel: along, across and high, and in how many layers", "block 70x60x66 in 3"), ("stiffener", "rods of wood beside the truss rod: size, how many, from the middle", "stiffener 400x6x10 2 beside 11"), ("bevel", "a slant along the rim: how deep, how far in", "bevel 10 in 14"), ("carve", "an arched face: how deep at the rim, how far in", "carve 8 in 60"), ("contour", "a flat cut beyond a line over the body: how deep at the rim, its line", "contour 14 from 320 -60 to 120 -150"), ("name", "what it is called", "name Heron 8"),
    ]  # fmt: skip
    return rows
