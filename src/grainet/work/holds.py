"""What holds a step back until it is cleared: metal, an old finish, a guessed part, moving wood, an order of steps, a caution not agreed to.

A hold is a value with its kind; nobody has to read its sentence to know what it is.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator
from dataclasses import dataclass
from typing import Literal

from grainet.design.brief import WORDS, HardwareKind, held_kinds
from grainet.design.design import Design
from grainet.kit.shop_profile import HouseRules
from grainet.wood.coating import consequences
from grainet.wood.piece import Piece
from grainet.wood.rest import rest_of
from grainet.wood.value import BadEntry

Kind = Literal["order", "changed", "finish", "metal", "guessed", "rest", "caution", "put_back", "surprise"]


@dataclass(frozen=True)
class Hold:
    """One reason why a step waits: its kind, what clears it, and the sentence."""

    kind: Kind
    remedy: str
    text: str
    about: tuple[str, HardwareKind] | None = None  # a design, and what of its brief is only guessed


class Held(BadEntry):
    """A step was asked for that waits."""

    def __init__(self, hold: Hold) -> None:
        super().__init__(hold.text)
        self.hold = hold


def of_the_piece(piece: Piece) -> Iterator[Hold]:
    """What closes every machining step on a piece: an untested old finish, a treatment, a face not swept for metal."""
    for one in consequences(piece.coating, reclaimed=piece.reclaimed):
        if one.closes and one.grade == "A":
            yield Hold("finish", one.cleared_by, f"No. {piece.id} waits: {one.short} ({one.cleared_by}).")
    for face in piece.unswept_faces[:1]:
        remedy = f"clear {face}"
        yield Hold("metal", remedy, f"No. {piece.id} waits: face {face} is not swept for metal ({remedy}).")


def of_the_brief(design: Design, roles: Iterable[str]) -> Iterator[Hold]:
    """A bought part that is only guessed holds the cut that brings its blank to size."""
    held = held_kinds(design.brief)
    for role in sorted(set(roles) & held.keys()):
        kind = held[role][0]
        mm = next(h.mm for h in design.brief if h.kind == kind)
        what = f"{WORDS[kind][0].lower()}, {mm:g} mm, is only guessed for {design.name}"
        text = f"This cut waits: {what}. Measure it: one press says that it is so; another figure goes into the brief (Ctrl+K)."
        yield Hold("guessed", "the brief (Ctrl+K)", text, (design.id, kind))


def of_the_rest(piece: Piece, rules: HouseRules, roles: Iterable[str]) -> Iterator[Hold]:
    """A piece that still moves closes the cut that brings a neck or fretboard to its final size."""
    state = rest_of(piece, rules.rest_within_mm, rules.rest_days)
    if state.word in ("unread", "settled") or piece.rest_waived:
        return
    for role in [r for r in sorted(roles) if rules.rest_gate(r) == "block"][:1]:
        remedy = "rest 2.0, or waive with a reason"
        wanted = f"needs {rules.rest_days} days still for a {role.replace('_', ' ')}"
        yield Hold("rest", remedy, f"No. {piece.id} waits: {state.message}, {wanted} ({remedy}).")
