"""The troubles that wood can have: kinds, families, the letters that tag them, and the defect value."""

from __future__ import annotations

from typing import Literal

from pydantic import Field

from grainet.wood.value import Name, Outline, Ring, Value, says_nothing

Family = Literal["metal", "breaks", "void", "moves", "tool", "shows"]
DefectKind = Literal[
    "nail", "screw", "staple", "shot",
    "crack", "split", "check", "shake", "rot", "loose_knot",
    "groove", "housing", "notch", "mortise", "hole", "wane", "thin_spot",
    "pith", "wild_grain", "run_out",
    "grit", "old_finish",
    "knot", "sap", "stain", "streak", "worm", "pitch",
]  # fmt: skip
Face = Literal["1", "2", "edge", "through"]

FAMILY: dict[str, Family] = {
    **dict.fromkeys(("nail", "screw", "staple", "shot"), "metal"),
    **dict.fromkeys(("crack", "split", "check", "shake", "rot", "loose_knot"), "breaks"),
    **dict.fromkeys(("groove", "housing", "notch", "mortise", "hole", "wane", "thin_spot"), "void"),
    **dict.fromkeys(("pith", "wild_grain", "run_out"), "moves"),
    **dict.fromkeys(("grit", "old_finish"), "tool"),
    **dict.fromkeys(("knot", "sap", "stain", "streak", "worm", "pitch"), "shows"),
}

# The letter that a person types and that the tag shows.
CODE: dict[str, str] = {
    **dict.fromkeys(("nail", "screw", "staple", "shot"), "m"),
    **dict.fromkeys(("crack", "split", "check"), "c"),
    "shake": "h", "rot": "r", "loose_knot": "l",
    **dict.fromkeys(("groove", "housing", "notch", "mortise", "hole", "wane", "thin_spot"), "v"),
    "pith": "p", "wild_grain": "w", "run_out": "w",
    "grit": "g", "old_finish": "g",
    "knot": "k", "sap": "s", "stain": "t", "streak": "t", "worm": "o", "pitch": "i",
}  # fmt: skip
KIND_OF_CODE: dict[str, DefectKind] = {
    "m": "nail", "c": "crack", "h": "shake", "r": "rot", "l": "loose_knot", "v": "groove", "p": "pith", "w": "wild_grain",
    "g": "grit", "k": "knot", "s": "sap", "t": "stain", "o": "worm", "i": "pitch",
}  # fmt: skip
# Words of the bench for kinds that the exchange has under another name; the word is kept as the mark's note.
ALIASES: dict[str, DefectKind] = {
    "crush": "thin_spot",
    "dent": "thin_spot",
    "spall": "notch",
    "chip": "notch",
    "ridge": "groove",
    "tenon_hole": "mortise",
    "inbark": "hole",  # bark grown in: no wood there, and nobody sees how deep
    "bark": "hole",
    "resin": "pitch",
    "gum": "pitch",
    "honeycomb": "check",
}
DEEPEST_MM = 1000.0
GROWING = frozenset({"crack", "split", "check", "shake"})  # they may run on unseen beyond their ends


class Defect(Value):
    """One trouble on a piece.

    ``polygon`` in mm as seen on face 1, whatever face it concerns; ``depth_mm`` None is unknown and counts as full.
    ``ends_closed``: the end nearer the marked end first. ``resolved`` is for metal that has been drawn out.
    """

    id: Name
    kind: DefectKind
    face: Face = "1"
    polygon: Outline
    depth_mm: float | None = Field(default=None, ge=0, le=DEEPEST_MM)
    resolved: bool = False
    ends_closed: tuple[bool, bool] | None = None
    keep: bool = False
    severity: Literal[1, 2, 3] | None = None  # slight, plain, grave; None: not judged
    cleared: str = ""  # how and when it was dealt with (stabilised, plugged, probed), empty while not
    mend: Literal["", "harden", "dowels", "plug", "insert"] = Field(default="", exclude_if=says_nothing)  # where a part uses it
    by: str = ""  # what found it; empty: a person
    note: str = ""

    @property
    def family(self) -> Family:
        """Its family: what it does to wood, tool or eye."""
        return "void" if self.metal_drawn else FAMILY[self.kind]

    @property
    def metal_drawn(self) -> bool:
        """Metal that was drawn out leaves a hole."""
        return self.resolved and FAMILY[self.kind] == "metal"

    @property
    def live_metal(self) -> bool:
        """Whether it is metal that is still in the wood."""
        return FAMILY[self.kind] == "metal" and not self.resolved


def counted(defects: tuple[Defect, ...]) -> tuple[Defect, ...]:
    """The troubles as judging and planning count them: what bit the tool and was cleared away is gone, a crack that was dealt
    with no longer grows; all else stays, since glue does not make wood whole."""
    kept = []
    for one in defects:
        if one.cleared and FAMILY[one.kind] == "tool":
            continue
        kept.append(one.changed(ends_closed=(True, True)) if one.cleared and one.kind in GROWING else one)
    return tuple(kept)


SEVERITY_WORDS = ("slight", "plain", "grave")


def long_ends(ring: Ring) -> tuple[tuple[float, float], tuple[float, float]]:
    """The two ends of a long mark, the one nearer the marked end first: middles of the far points along its longest axis."""
    pairs = [(a, b) for i, a in enumerate(ring) for b in ring[i + 1 :]]
    a, b = max(pairs, key=lambda p: (p[0][0] - p[1][0]) ** 2 + (p[0][1] - p[1][1]) ** 2)
    return (a, b) if a <= b else (b, a)


def next_defect_id(kind: str, taken: set[str]) -> str:
    """The next free tag for a kind: its letter and the lowest free number."""
    letter = CODE[kind]
    return next(f"{letter}{n}" for n in range(1, 10_000) if f"{letter}{n}" not in taken)


def name_of(defect: Defect) -> str:
    """What a person calls this mark: the bench's word where one was used, else its kind."""
    return label_of(defect.note if defect.note in ALIASES else defect.kind)


def label_of(kind: str) -> str:
    """A kind as it is written for a person."""
    return kind.replace("_", " ")
