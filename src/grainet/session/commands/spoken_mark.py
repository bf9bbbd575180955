"""A mark as a person says it: ``groove 300 to 880 at 60, 14 wide, 9 deep, face 2``; ``nail at 640 200, 6 across``."""

from __future__ import annotations

import re
from dataclasses import dataclass, field

from grainet.session.commands.whole_piece import TIMES
from grainet.wood.defects import FAMILY
from grainet.wood.units import LENGTH, parse_length
from grainet.wood.value import BadEntry

_L = rf"({LENGTH})"
_FROM_TO = re.compile(rf"(?<!\S)(?:from\s+)?{_L}\s*to\s+{_L}(?=$|[\s,;])", re.I)
_AT = re.compile(rf"(?<!\S)at\s+{_L}(?:\s*[,;]?\s+{_L}(?=$|[\s,;])(?!{TIMES}[0-9]))?(?=$|[\s,;])", re.I)
_FACE = re.compile(r"(?<!\S)(?:on\s+)?(?:the\s+)?(?:face\s*|f)([12])(?=$|[\s,;])", re.I)
_ON_THE_EDGE = re.compile(r"(?<!\S)on\s+(?:the\s+)?edge(?=$|[\s,;])", re.I)
_SIZED = {name: re.compile(rf"(?<!\S){_L}\s*{name}(?=$|[\s,;])", re.I) for name in ("long", "wide", "deep", "across")}
_UP = re.compile(rf"(?<!\S)(?:{_L}\s*up|up\s+{_L})(?=$|[\s,;])", re.I)
_SPOKEN = re.compile(r"(?<![a-z])(?:to|at|from|face|f[12]|on|long|wide|deep|across|up)(?![a-z])", re.I)


@dataclass
class Heard:
    """What is not yet understood of a line, and what was, in mm; each may be said once."""

    left: str
    unit: str
    said: dict[str, float] = field(default_factory=dict)

    def keep(self, name: str, text: str) -> None:
        """Keep what a size is. Raises BadEntry where it was said already."""
        if name in self.said:
            raise BadEntry(f"How far a mark is {name} stands twice on the line; needs it once.")
        self.said[name] = parse_length(text, self.unit).mm

    def take(self, form: re.Pattern[str]) -> re.Match[str] | None:
        """Take something out of the line where it stands there."""
        found = form.search(self.left)
        if found is not None:
            self.left = f"{self.left[: found.start()]} {self.left[found.end() :]}".strip()
        return found


def as_written(rest: str, place: float | None, unit: str, kind: str) -> tuple[float | None, str]:
    """Where a mark lies along (mm), and what follows its word as the tape line writes it: length x width, then its options.

    ``place`` is one that was typed before the word. What is written so already comes back as it is. Raises BadEntry where a figure stands
    twice, and where a stretch is told without how wide the mark is.
    """
    if not _SPOKEN.search(rest):
        return place, rest
    heard = Heard(rest, unit)
    options = _sides(heard)
    _named_sizes(heard)
    place = _along(heard, place)
    left = re.sub(r"\s*[,;]+(?=\s|$)", " ", heard.left).strip()
    sizes, left = _sizes(heard, left, kind)
    said = [f"{name} {heard.said[word]:.6g} mm" for word, name in (("up", "y"), ("deep", "d")) if word in heard.said]
    return place, " ".join((sizes, left, *said, *options)).strip()


def stretch_of(heard: Heard) -> tuple[tuple[float, float] | None, float | None]:
    """From where to where along, and a place along, in mm, each None where it is not told; sizes and how far up stay in ``heard.said``."""
    _named_sizes(heard)
    found = heard.take(_FROM_TO)
    if found is not None:
        low, high = sorted(parse_length(text, heard.unit).mm for text in found.groups())
        if (spot := _one_of(heard)) is not None:
            heard.keep("up", spot[1])
        return (low, high), None
    spot = heard.take(_AT)
    if spot is not None and spot[2]:
        heard.keep("up", spot[2])
    return None, parse_length(spot[1], heard.unit).mm if spot is not None else None


def _named_sizes(heard: Heard) -> None:
    """How long, wide, deep, across and how far up."""
    for name, form in _SIZED.items():
        if (found := heard.take(form)) is not None:
            heard.keep(name, found[1])
    if (found := heard.take(_UP)) is not None:
        heard.keep("up", found[1] or found[2])


def _sides(heard: Heard) -> list[str]:
    """The face or edge, as options."""
    face, edge = heard.take(_FACE), heard.take(_ON_THE_EDGE)
    return ([f"f {face[1]}"] if face is not None else []) + (["edge"] if edge is not None else [])


def _along(heard: Heard, place: float | None) -> float | None:
    """Where it lies along: half way of a stretch that was told, or the first figure after *at*; the other one is how far up."""
    if place is not None:
        if (spot := _one_of(heard)) is not None:
            heard.keep("up", spot[1])
        if heard.take(_FROM_TO) is not None:
            raise BadEntry("Where a mark lies along stands twice on the line; needs it once.")
        return place
    stretch, along = stretch_of(heard)
    if stretch is None:
        return along
    heard.keep("long", f"{stretch[1] - stretch[0]:.6g} mm")
    return sum(stretch) / 2


def _one_of(heard: Heard) -> re.Match[str] | None:
    """The one figure after *at* where the stretch along is known already."""
    return heard.take(re.compile(rf"(?<!\S)at\s+{_L}(?=$|[\s,;])", re.I))


def _sizes(heard: Heard, left: str, kind: str) -> tuple[str, str]:
    """Length x width of what was told, else as it stands in ``left``; and what is left then."""
    said = heard.said
    across = said.pop("across", None)
    long, wide = said.pop("long", across), said.pop("wide", across)
    if long is None and wide is None:
        return "", left
    both = re.match(rf"{_L}{TIMES}{_L}(?=$|\s)", left, re.I)
    if both is not None and wide is None and "deep" not in said:  # a stretch, then what its section is
        wide, said["deep"] = (parse_length(text, heard.unit).mm for text in both.groups())
        left = left[both.end() :].strip()
    bare = re.match(rf"{_L}(?=$|\s)", left, re.I)
    if bare is not None and (long is None or wide is None):
        left = left[bare.end() :].strip()
        other = parse_length(bare[1], heard.unit).mm
        long, wide = (other if long is None else long), (other if wide is None else wide)
    if long is None or wide is None:
        thin = FAMILY.get(kind.replace(" ", "_")) == "breaks"
        name, such = ("width", "2 wide" if thin else "14 wide") if wide is None else ("length", "300 to 880, or 580 long")
        raise BadEntry(f"A {kind} needs its {name} too, such as {such}.")
    return f"{long:.6g} mm x {wide:.6g} mm", left
