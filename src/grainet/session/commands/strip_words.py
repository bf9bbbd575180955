"""Words about the strips of a laminated neck: all of them on one line, or one of them."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from grainet.design.instrument import Instrument, Strip
from grainet.design.lamination import even_strips, mirrored_strips, swapped_woods, told_strips, with_strips
from grainet.wood.units import entry_unit, format_length, parse_length
from grainet.wood.value import BadEntry

if TYPE_CHECKING:
    from grainet.session.commands.figures import FigureReader

LETTERS = "abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ"


def read_strips(reader: FigureReader, g: Instrument) -> Instrument:
    """``strips m12 a1.5 w10>5 m15 =``: a wood's first letters and the thickness; ``>`` tapers, ``=`` mirrors, a is an accent. ``strips 5
    alike`` shares the width out, ``strips swap`` changes two woods about, ``strips =`` mirrors what is there. Raises BadEntry."""
    if not reader.words:
        raise BadEntry(
            "strips needs the strips from the bass side on: strips 12 a1.5 10 a1.5 12, or strips 12 a1.5 10 = to mirror."
        )
    first = reader.words[0].lower()
    if first == "swap":
        reader.words.pop(0)
        reader.told.append("two woods swapped")
        return with_strips(g, swapped_woods(told_strips(g)))
    if first.isdigit() and reader.words[1:] and reader.words[1].lower() == "alike":
        del reader.words[:2]
        reader.told.append(f"{first} strips, as thick as one another")
        return with_strips(g, even_strips(g, int(first)))
    strips: list[Strip] = []
    while reader.words:
        text = reader.words.pop(0)
        if text == "=":
            strips = mirrored_strips(told_strips(g)) if not strips else strips + strips[-2::-1]
            break
        strips.append(_strip(reader, g, text, strips))
    reader.told.append(f"{len(strips)} strips, {format_length(round(sum(s.mm for s in strips), 2), reader.style)} together")
    return with_strips(g, strips)


def read_strip(reader: FigureReader, g: Instrument) -> Instrument:
    """``strip 3 10>5``, ``strip 3 of walnut``, ``strip 3 turn``, ``strip 3 grain head``, ``strip 3 away``. Raises BadEntry."""
    strips = list(told_strips(g))
    number = reader.words.pop(0) if reader.words else ""
    if not number.isdigit() or not 1 <= int(number) <= len(strips):
        raise BadEntry(
            f"strip needs a number from 1 (bass side) to {len(strips)}, such as strip 2 10>5; found “{number or 'nothing'}”."
        )
    k = int(number) - 1
    if not reader.words:
        raise BadEntry(
            f"strip {number} needs what it is to be: a thickness such as 12 or 10>5, of walnut, turn, grain head, or away."
        )
    named = "of" in (w.lower() for w in reader.words)
    while reader.words:
        word = reader.words.pop(0).lower()
        if word == "away":
            del strips[k]
            break
        if word == "of":
            strips[k] = strips[k].changed(species=_wood(reader, " ".join(reader.words)))
            reader.words = []
        elif word == "turn":
            strips[k] = strips[k].changed(grain={"": "tail", "head": "tail", "tail": "head"}[strips[k].grain])
        elif word == "grain" and reader.words and reader.words[0].lower() in ("head", "tail"):
            strips[k] = strips[k].changed(grain=reader.words.pop(0).lower())
        else:
            sized = _strip(reader, g, word, strips[:k])
            strips[k] = strips[k].changed(mm=sized.mm, taper_mm=sized.taper_mm, accent=sized.accent or strips[k].accent)
    if len(strips) < 2:
        raise BadEntry("A neck of strips needs two of them at least; choose another way for it: neck one piece.")
    of = f" of {strips[k].species}" if named and k < len(strips) and strips[k].species else ""
    reader.told.append(f"strip {number}{of}")
    return with_strips(g, strips)


def _strip(reader: FigureReader, g: Instrument, text: str, before: Sequence[Strip]) -> Strip:
    letters = text[: len(text) - len(text.lstrip(LETTERS))].lower()
    wide, _, narrow = text[len(letters) :].partition(">")
    unit = entry_unit(reader.style)
    try:
        mm = parse_length(wide, unit).mm
        taper = parse_length(narrow, unit).mm if narrow else None
    except BadEntry:
        raise BadEntry(f"“{text}” is no strip; needs a thickness such as 12, a1.5 (an accent) or 10>5 (tapered).") from None
    accent = letters == "a"
    return Strip(species="" if accent else _by_letters(reader, g, letters, before), mm=mm, taper_mm=taper, accent=accent)


def _by_letters(reader: FigureReader, g: Instrument, letters: str, before: Sequence[Strip]) -> str:
    """A wood by its first letters: of those that the neck is told of, then of the rack's, then, from three letters on, of the library.
    Raises BadEntry."""
    if not letters:
        return ""
    known = dict.fromkeys([*g.neck.species, *(s.species for s in (*before, *g.strips) if s.species), *reader.rack_woods()])
    found = next((name for name in known if any(w.lower().startswith(letters) for w in name.split())), None)
    if found is not None:
        return found
    if len(letters) >= 3:
        return _wood(reader, letters)
    raise BadEntry(
        f"“{letters}” stands for no wood of this neck or of the rack; write three letters of it or more, or say neck of maple, walnut first."
    )


def _wood(reader: FigureReader, name: str) -> str:
    """A wood by name; of a family the one that the rack has most of."""
    if name.strip().lower() == "any":
        return ""
    found = reader.library.matches(name.strip())
    if not found:
        raise BadEntry(f"“{name.strip()}” is not in the species library; add it in the kit book (Ctrl+K), or say: of any.")
    names = [s.common for s in found]
    return next((n for n in reader.rack_woods() if n in names), names[0])
