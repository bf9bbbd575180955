"""The ways in which each component can be made, one row each, and which one an instrument has chosen."""

from __future__ import annotations

from dataclasses import dataclass

from grainet.design.instrument import ROUTES, Instrument


@dataclass(frozen=True)
class Way:
    """One way: its name in files, its words on a chip, the joints that show, the days that glue asks for, whether it keeps the grain's picture."""

    name: str
    label: str
    joints: int
    days: int
    why: str


WAYS: dict[str, tuple[Way, ...]] = {
    "body": (
        Way("one piece", "one piece", 0, 0, "no joint; needs a board as wide as the body"),
        Way("halves", "two halves", 1, 1, "one joint on the centre line, two boards or two lengths of one"),
        Way("fold", "folded halves", 1, 1, "ripped down the middle and opened like a book: the picture mirrors"),
        Way("slip", "slipped halves", 1, 1, "one behind the other from one board: the picture repeats"),
        Way("quiet pair", "quiet pair", 1, 1, "two plain boards that agree in colour, rings and weight"),
        Way("three", "three pieces", 2, 1, "two joints; narrow boards serve"),
        Way("wings", "core and wings", 2, 1, "a core as wide as the neck, wings of unequal length"),
        Way("centre strip", "centre strip", 2, 1, "a strip between two halves: for halves a little too narrow"),
        Way("skins", "skins", 2, 1, "thin boards on both faces make a thin board thick"),
    ),
    "cap": (
        Way("none", "no top", 0, 0, "the body is its own face"),
        Way("resaw", "resawn pair", 1, 1, "two leaves from one piece, opened like a book"),
        Way("fold", "folded", 1, 1, "one thin piece ripped and opened"),
        Way("slip", "slipped", 1, 1, "two lengths of one thin piece, the picture repeats"),
        Way("quiet pair", "quiet pair", 1, 1, "two plain plates that agree"),
    ),
    "neck": (
        Way("one piece", "one piece", 0, 0, "as wide as its head"),
        Way("ears", "with ears", 2, 1, "a narrow blank, its head made wide by two ears"),
        Way("strips", "strips", 4, 1, "laminated: stiff and straight, narrow stock serves"),
        Way("layers", "layers", 1, 1, "two layers reach the depth"),
    ),
    "head": (
        Way("flat", "flat", 0, 0, "no pitch; thinned from the face"),
        Way("solid", "solid pitch", 0, 0, "out of deep stock"),
        Way("stacked", "stacked", 1, 1, "a block under the head"),
        Way("scarf", "scarf", 1, 1, "two blanks, grain along both"),
    ),
    "fretboard": (
        Way("unbound", "unbound", 0, 0, "as it is"),
        Way("bound", "bound", 2, 1, "strips cover the slots' ends"),
    ),
    "plate": (
        Way("one piece", "one piece", 0, 0, "as wide as the head"),
        Way("fold", "folded pair", 1, 1, "two narrow halves, mirrored"),
    ),
}  # fmt: skip
FROM_ONE_BOARD = ("fold", "slip")  # whose halves follow one another in one board: from two they would be another way
USUAL = {"body": "halves", "cap": "resaw", "neck": "one piece", "plate": "one piece"}


def way_of(g: Instrument, component: str) -> str:
    """The way that an instrument has chosen for a component, the usual one where it has chosen none."""
    if component == "head":
        return g.head.route
    if component == "fretboard":
        return "bound" if g.fretboard.binding_mm else "unbound"
    told = g.ways.get(component, "")
    told = "wings" if told == "core and wings" else told
    if component == "cap" and not g.body.cap_mm:
        return "none"
    if component == "body" and g.kind == "through":
        return "wings"
    known = {w.name for w in WAYS[component]}
    return told if told in known else USUAL[component]


def ways_for(g: Instrument) -> dict[str, tuple[str, ...]]:
    """The ways that are open to each component of an instrument."""
    found = {component: tuple(w.name for w in rows) for component, rows in WAYS.items()}
    found["cap"] = tuple(w for w in found["cap"] if g.body.cap_mm or w == "none")
    if g.kind == "through":
        found["body"] = ("wings",)
    if not g.plate.thickness_mm:
        del found["plate"]
    found["head"] = tuple(ROUTES)
    return found


def with_way(g: Instrument, component: str, way: str) -> Instrument:
    """The instrument with a component made another way. Raises ValueError for a way that it has not."""
    if way not in ways_for(g).get(component, ()):
        open_ = ", ".join(ways_for(g).get(component, ()))
        raise ValueError(f"“{way}” is no way to make the {component}; needs one of {open_}")
    if component == "head":
        return g.with_figure("head.route", way)
    if component == "fretboard":
        return g.with_figure("fretboard.binding_mm", 0.0 if way == "unbound" else (g.fretboard.binding_mm or 2.0))
    return g.changed(ways={**g.ways, component: way})
