"""The tape line's words for what is learnt, wherever work is ticked or put back: a figure that was measured, a mishap, an edge made sharp."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from grainet.session.commands.command import Command
from grainet.session.learning import NAMES, told_figure, typed
from grainet.session.mishaps import sentence, sharpen
from grainet.session.mishaps import typed as typed_mishap
from grainet.session.resting import read_straight, rests_called
from grainet.session.shop import Shop
from grainet.wood.units import entry_unit, parse_length, tell_gap, tell_length
from grainet.wood.value import BadEntry, Value

if TYPE_CHECKING:
    from grainet.session.making import AtTheBench
    from grainet.work.operation import Operation

MOST_BOW_MM = 300.0

TYPED = [
    ("took tool figure on piece", "what a tool took off a face, or edge, trim, kerf, miss, lean, snipe", "took planer 2.4 on 42"),
    ("mishap what x y because why, helped what", "what went wrong, with its place on the wood", "mishap tear-out 420 60 because fed wrong, helped scraped"),
    ("straight part bow twist", "how far from straight a part on sticks is today, and out of wind", "straight D1 1.5 0.4"),
    ("sharpened tool", "an edge is sharp again", "sharpened table saw"),
]  # fmt: skip


def reads(shop: Shop, line: str, board: str = "", at_step: tuple[str, str, str] = ("", "", "")) -> Command | None:
    """What a line means where it is one of these words; None for all else. A mishap happened at a step (machine, kind, board), where one is
    known, else on ``board``. Raises BadEntry."""
    word, _, rest = line.strip().partition(" ")
    word = word.lower()
    if word == "took":
        found = typed(shop, rest if " on " in rest or not board else f"{rest} on {board}")
        gloss = f"{found.tool} {NAMES[found.what]} {told_figure(found.what, found.measured, shop.kit.length_style)}" + (
            f" in {found.species.lower()}" if found.species else ""
        )
        return Command(f"{gloss}: kept as a record", does=lambda: _keep(shop, f"took {rest}", found))
    if word == "mishap":
        tool, step, there = at_step
        one = typed_mishap(shop, rest, there or board, tool=tool, step=step)
        return Command(sentence(one, shop.kit.length_style), does=lambda: _keep(shop, f"mishap: {one.kind}", one))
    if word == "straight":
        return _straight(shop, rest.split())
    if word == "sharpened":
        if not rest.strip():
            raise BadEntry("sharpened needs the machine, such as sharpened table saw.")
        names = [m.name.lower() for m in shop.kit.machines]
        if not any(n.startswith(rest.strip().lower()) for n in names):
            raise BadEntry(f"“{rest}” is no machine of this shop; it has {', '.join(names)}.")
        return Command(f"{rest.strip()} is sharp again from now on", does=lambda: _sharp(shop, rest))
    return None


def _straight(shop: Shop, words: Sequence[str]) -> Command:
    """A part on sticks read for straightness. Raises BadEntry."""
    if not 2 <= len(words) <= 3:
        raise BadEntry("straight needs the part that rests and how far it is from straight, such as straight D1 1.5.")
    style = shop.kit.length_style
    unit = entry_unit(style)
    bow, *more = (0.0 if not w.strip("0.") else parse_length(w, unit).mm for w in words[1:])
    twist = more[0] if more else None
    if max(bow, twist or 0.0) > MOST_BOW_MM:
        raise BadEntry(
            f"{tell_gap(max(bow, twist or 0.0), style)} from straight: needs at most {tell_length(MOST_BOW_MM, style)}."
        )
    found = rests_called(shop, words[0])
    if not found:
        raise BadEntry(f"“{words[0]}” does not rest on sticks here: its step, let it rest, comes first.")
    if len(found) > 1:
        raise BadEntry(f"{words[0]} rests {len(found)} times: write {' or '.join(one.works_on[0] for _, one in found)}.")
    bench, one = found[0]
    wind = f", {told_figure('', twist, style)} out of wind" if twist is not None else ""
    return Command(
        f"{words[0].upper()} is {told_figure('', bow, style)} from straight{wind}", does=lambda: _read(bench, one, bow, twist)
    )


def _read(bench: AtTheBench, one: Operation, bow: float, twist: float | None) -> None:
    read_straight(bench, one, bow, twist)


def _keep(shop: Shop, label: str, value: Value) -> None:
    shop.apply(label, value)


def _sharp(shop: Shop, tool: str) -> None:
    sharpen(shop, tool)
