"""What the ways out say, worked out without a window: what is missing, and of each way what it is, costs and leaves."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from grainet.design.allowances import Allowances
from grainet.design.blanks import blanks_of
from grainet.design.instrument import Instrument
from grainet.design.mends import joints_of
from grainet.plan.rescuing import Rescue
from grainet.wood.units import LengthStyle, format_length

TITLES = {
    "shift and tilt": ("Shifted and tilted", "a little askew, off the weak place"),
    "swap or flip halves": ("Halves swapped or turned over", "each on the other's side of the board"),
    "other end or face up": ("Other end or face up", "turned end for end or over"),
    "shorten or rip before flattening": ("Ripped before flattening", "two narrow pieces lose less to the cup"),
    "another piece": ("Another board", "the drawing stays; the look changes"),
    "ears": ("Ears", "the head widened from the neck's own waste"),
    "centre strip": ("A centre strip", "let in at the joint"),
    "extra layer": ("An extra layer", "glued on to make the thickness"),
    "skins": ("Two skins", "front and back, the core between them"),
    "third piece": ("A third piece", "each half joined from two"),
    "core and wings": ("Core and wings", "wings at both sides of the neck's width"),
    "split and insert": ("Split and insert", "a strip let in where the board is weak"),
    "thinner body": ("A thinner body", "changes the drawing"),
    "shorter scale": ("A shorter scale", "changes the drawing"),
    "other head route": ("Another head", "made another way"),
}


@dataclass(frozen=True)
class WayCard:
    """A way out as its card says it; ``joints_mm`` where the body is joined then, beside the centre line; ``first`` what is to be done to its
    wood before."""

    title: str
    what: str
    seams: str
    days: str
    wood: str
    spare: str
    joints_mm: tuple[float, ...]
    guitar: Instrument
    first: tuple[tuple[str, str], ...] = ()  # piece, what is to be done to it

    @property
    def lines(self) -> tuple[str, ...]:
        """What it costs and leaves, and what comes first, each in a few words."""
        if not self.first:
            return self.seams, self.days, self.wood, self.spare
        (number, what), *others = self.first
        where = " and ".join(f"No. {n}" for n, _ in self.first)
        before = f"first, {where} ask for something: rest the mouse here" if others else f"first, No. {number}: {what}"
        return self.seams, self.days, self.wood, self.spare, before

    @property
    def told(self) -> str:
        """All of it, for those who listen."""
        first = [f"first, on No. {number}: {what}" for number, what in self.first]
        return "; ".join((f"{self.title}: {self.what}", *self.lines[:4], *first))


def card_of(
    way: Rescue, g: Instrument, piece: str, style: LengthStyle, first: Callable[[str], str] = lambda _piece: ""
) -> WayCard:
    """A way's card; ``g`` is the instrument as it is, ``piece`` the one that does not give the part; ``first``: what is to be done to a
    piece before it may be used."""
    title, what = TITLES[way.kind]
    after = way.guitar or g
    new = {*after.body.species, *after.body.cap_species} - {*g.body.species, *g.body.cap_species}
    if new:
        what += f", all of {', '.join(sorted(new))}"
    if way.kind == "thinner body":
        what = f"{format_length(after.body.thickness_mm, style)} instead of {format_length(g.body.thickness_mm, style)}"
    elif way.kind == "shorter scale":
        what = f"{' and '.join(format_length(s, style) for s in after.scale_mm)}; changes the drawing"
    elif way.kind == "other head route":
        what = {
            "flat": "flat, in line with the neck",
            "solid": "pitched, out of the solid",
            "stacked": "pitched, a block under it",
            "scarf": "pitched, on a scarf",
        }[after.head.route]
    seams = (
        "no seam more"
        if not way.seams
        else f"{way.seams} seam{'s' if way.seams > 1 else ''} more{'' if way.visible else ', hidden'}"
    )
    days = "no days more" if not way.days else f"{way.days} day{'s' if way.days > 1 else ''} to cure before planing"
    wood = (
        ", ".join(f"No. {number}, {format_length(round(mm), style)} of it" for number, mm in way.wood) or f"all from No. {piece}"
    )
    spare = f"{format_length(max(0.0, way.margin_mm), style)} thick to spare"
    joints = tuple(joints_of(blanks_of(after, Allowances())))
    asked = dict.fromkeys((n for n, _ in way.wood) if way.wood else (piece,))
    before = tuple((n, why) for n in asked if (why := first(n)))
    return WayCard(title, what, seams, days, wood, spare, joints, after, before)


def missing_words(short_mm: float | None, what: str, style: LengthStyle, count: int = 1) -> str:
    """What the piece lacks, in a few words."""
    if short_mm is None:
        return "no clear place on it" if count == 1 else f"no clear place for {count} of them"
    word = {"length": "too short", "width": "too narrow", "thickness": "too thin"}.get(what, "too small")
    return f"{format_length(round(short_mm, 1), style)} {word}"
