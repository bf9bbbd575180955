"""The tape line's words for what is learnt, wherever work is ticked or put back: a figure that was measured, a mishap, an edge made sharp."""

from __future__ import annotations

from grainet.session.commands.command import Command
from grainet.session.learning import NAMES, typed
from grainet.session.mishaps import sentence, sharpen
from grainet.session.mishaps import typed as typed_mishap
from grainet.session.shop import Shop
from grainet.wood.value import BadEntry, Value

TYPED = [
    ("took tool figure on piece", "what a tool took off a face, or edge, trim, kerf, miss, lean, snipe", "took planer 2.4 on 42"),
    ("mishap what x y because why, helped what", "what went wrong, with its place on the wood", "mishap tear-out 420 60 because fed wrong, helped scraped"),
    ("sharpened tool", "an edge is sharp again", "sharpened table saw"),
]  # fmt: skip


def reads(shop: Shop, line: str, board: str = "", at_step: tuple[str, str, str] = ("", "", "")) -> Command | None:
    """What a line means where it is one of these words; None for all else. A mishap happened at a step (machine, kind, board), where one is
    known, else on ``board``. Raises BadEntry."""
    word, _, rest = line.strip().partition(" ")
    word = word.lower()
    if word == "took":
        found = typed(shop, rest if " on " in rest or not board else f"{rest} on {board}")
        gloss = f"{found.tool} {NAMES[found.what]} {found.measured:g}" + (f" in {found.species.lower()}" if found.species else "")
        return Command(f"{gloss}: kept as a record", does=lambda: _keep(shop, f"took {rest}", found))
    if word == "mishap":
        tool, step, there = at_step
        one = typed_mishap(shop, rest, there or board, tool=tool, step=step)
        return Command(sentence(one), does=lambda: _keep(shop, f"mishap: {one.kind}", one))
    if word == "sharpened":
        if not rest.strip():
            raise BadEntry("sharpened needs the machine, such as sharpened table saw.")
        names = [m.name.lower() for m in shop.kit.machines]
        if not any(n.startswith(rest.strip().lower()) for n in names):
            raise BadEntry(f"“{rest}” is no machine of this shop; it has {', '.join(names)}.")
        return Command(f"{rest.strip()} is sharp again from now on", does=lambda: _sharp(shop, rest))
    return None


def _keep(shop: Shop, label: str, value: Value) -> None:
    shop.apply(label, value)


def _sharp(shop: Shop, tool: str) -> None:
    sharpen(shop, tool)
