"""The instruments of a shop: drawn up, changed and copied, each kept together with the design that its blanks make."""

from __future__ import annotations

import re
from itertools import chain, count

from grainet.design.instrument import Instrument
from grainet.design.parts import design_of, drawable
from grainet.design.starting_points import POINTS, begin
from grainet.session.items import Items
from grainet.session.kinds import DESIGNS, INSTRUMENTS
from grainet.session.profile import kit_of
from grainet.wood.value import BadEntry


class Instruments:
    """What is drawn up in one shop."""

    def __init__(self, items: Items) -> None:
        self.items = items

    def all(self) -> list[Instrument]:
        """Every instrument, in the order of their making."""
        return self.items.all(INSTRUMENTS)

    def find(self, number: str | None) -> Instrument | None:
        """One instrument by its id; None where there is none."""
        return self.items.find(INSTRUMENTS, number) if number else None

    def named(self, name: str) -> Instrument | None:
        """One instrument by its name or id, whatever its case."""
        tidy = name.strip().lower()
        return next((g for g in self.all() if tidy in (g.id.lower(), g.shown_name.lower())), None)

    def keep(self, label: str, g: Instrument) -> bool:
        """Keep an instrument and the design that follows from it, in one step. Raises ShopUnusable, and BadEntry where its figures
        cannot go together."""
        return self.items.apply(label, drawable(g), design_of(g))

    def remove(self, g: Instrument) -> bool:
        """Take an instrument and its design away."""
        design = self.items.find(DESIGNS, g.id)
        return self.items.apply(f"{g.shown_name} taken away", remove=[g, *([design] if design is not None else [])])

    # beginning ------------------------------------------------------------------------------------------------------
    @staticmethod
    def point_named(text: str) -> str:
        """A starting point by its name, or by the first letters that no other has. Raises BadEntry."""
        named = [p for p in POINTS if p.startswith(text.lower())]
        if text.lower() not in POINTS and len(named) != 1:
            raise BadEntry(f"“{text}” is no starting point; needs one of {', '.join(POINTS)}.")
        return text.lower() if text.lower() in POINTS else named[0]

    def new(self, point: str, name: str = "") -> Instrument:
        """An instrument from one of the starting points, not kept yet. Raises BadEntry."""
        point = self.point_named(point)
        shown = self.free_name(name or point.capitalize())
        g = begin(point, self.free_id(shown), shown)
        snipe = kit_of(self.items).snipe_mm  # what the house has learnt its planer takes at the ends
        return g.with_figure("snipe_mm", snipe) if snipe else g

    def like(self, old: Instrument, name: str = "") -> Instrument:
        """Another one like it, with a name of its own, not kept yet."""
        shown = self.free_name(name or old.shown_name)
        return old.changed(id=self.free_id(shown), name=shown)

    def free_name(self, wished: str) -> str:
        """The name, or the next one of its row where it is taken: Heron 7, then Heron 8."""
        taken = {g.shown_name.lower() for g in self.all()} | {d.name.lower() for d in self.items.all(DESIGNS)}
        if wished.lower() not in taken:
            return wished[:60]
        stem, number = _stem(wished)
        return next(made for n in range(number + 1, 10_000) if (made := f"{stem} {n}"[:60]).lower() not in taken)

    def free_id(self, name: str) -> str:
        """An id that no instrument, design or plan has yet."""
        stem = re.sub(r"[^a-z0-9]+", "-", name.lower()).strip("-") or "guitar"
        taken = set(self.items.names(INSTRUMENTS)) | set(self.items.names(DESIGNS))
        return next(n for n in chain([stem], (f"{stem}-{k}" for k in count(2))) if n not in taken)


def _stem(name: str) -> tuple[str, int]:
    """A name and its number: "Heron 7" is Heron and 7; one without counts as the first."""
    found = re.fullmatch(r"(.*?)\s+(\d{1,4})", name.strip())
    return (found[1], int(found[2])) if found else (name.strip(), 1)
