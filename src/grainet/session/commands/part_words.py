"""Words of the tape line about parts that only some guitars have: plates let into the neck's back, a heel block, stiffeners."""

from __future__ import annotations

from typing import TYPE_CHECKING

from grainet.design.instrument import Instrument
from grainet.design.let_in import proud
from grainet.session.commands.bits import after, is_away, mm, shown, sizes, skip, whole
from grainet.wood.value import BadEntry

if TYPE_CHECKING:
    from grainet.session.commands.figures import FigureReader

LET, BLOCK, STIFFENER = "let cover 4 deep 3.6 120x30 at 40", "block 70x60x66 in 3", "stiffener 400x6x10 2 beside 11"


def read_let(reader: FigureReader, g: Instrument) -> Instrument:
    """``let cover 4 deep 3.6 120x30 at 40`` (into the neck's back, from the nut), ``let cover away``. Raises BadEntry."""
    words = reader.words
    if len(words) < 2:
        raise BadEntry(f"let needs a name and a thickness, such as {LET}.")
    name, told = words.pop(0).lower(), words.pop(0)
    kept = [p.model_dump(mode="json") for p in g.plates if p.name.lower() != name]
    if told.lower() == "away":
        if len(kept) == len(g.plates):
            raise BadEntry(f"No plate “{name}” is let in; there are: {', '.join(p.name for p in g.plates) or 'none yet'}.")
        reader.told.append(f"no {name} let in")
        return g.with_figure("plates", kept)
    skip(reader, "deep")
    if len(words) < 2 or "x" not in words[1].lower():
        raise BadEntry(f"let {name} {told} needs how deep and its size: {LET}.")
    thick, deep = mm(reader, told), mm(reader, words.pop(0))
    long, wide = sizes(reader, "let", ("length", "width"), LET)
    at = after(reader, "at", LET)
    reader.told.append(f"{name} {shown(reader, thick)} let into the neck's back {shown(reader, deep)}: {proud(thick, deep)}")
    plate = {"name": name, "thickness_mm": thick, "depth_mm": deep, "length_mm": long, "width_mm": wide, "at_mm": at}
    return g.with_figure("plates", [*kept, plate])


def read_block(reader: FigureReader, g: Instrument) -> Instrument:
    """``block 70x60x45`` (along, across, high), ``block 70x60x66 in 3`` layers, ``block away``. Raises BadEntry."""
    if is_away(reader, "no heel block"):
        return g.with_figure("heel_block", None)
    long, wide, high = sizes(reader, "block", ("length", "width", "height"), BLOCK)
    layers = 1
    if skip(reader, "in"):
        layers = whole(reader, "block", f"how many layers, such as {BLOCK}")
        skip(reader, "layers")
    reader.told.append(f"heel block {shown(reader, high)} high" + (f" in {layers} layers" if layers > 1 else ""))
    return g.with_figure("heel_block", {"length_mm": long, "width_mm": wide, "height_mm": high, "layers": layers})


def read_stiffener(reader: FigureReader, g: Instrument) -> Instrument:
    """``stiffener 400x6x10 2 beside 11`` (along, across, deep; how many; from the middle), ``stiffener away``. Raises BadEntry."""
    if is_away(reader, "no stiffeners"):
        return g.with_figure("stiffener", None)
    long, wide, deep = sizes(reader, "stiffener", ("length", "width", "depth"), STIFFENER)
    count = whole(reader, "stiffener", "how many") if reader.words and reader.words[0].isdigit() else 2
    beside = after(reader, "beside", STIFFENER)
    some = "1 stiffener" if count == 1 else f"{count} stiffeners"
    reader.told.append(f"{some} {shown(reader, wide)} wide, {shown(reader, deep)} deep")
    told = {"length_mm": long, "width_mm": wide, "depth_mm": deep, "count": count, "beside_mm": beside}
    return g.with_figure("stiffener", told)
