"""The wall: every instrument of the shop, how far it is, what it weighs, and the wood of each of its components."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass

from grainet.design.instrument import Instrument
from grainet.session.making import AtTheBench, at_the_bench, log_of
from grainet.session.shop import Shop
from grainet.session.stories import CONTROLLED, forecast
from grainet.wood.piece import Piece
from grainet.wood.species import SpeciesLibrary

# which component of the drawing a role is
COMPONENT: dict[str, str] = {
    "body_half": "body", "wing": "body", "core": "body", "matched_top": "cap", "neck": "neck", "laminate_strip": "neck", "heel": "neck", "ear": "neck", "fretboard": "fretboard",
    "head_plate": "plate", "binding": "cap",
}  # fmt: skip


@dataclass(frozen=True)
class Hung:
    """One instrument on the wall: how far it is; its weight in kg, and whether that was weighed; the species of each component; whether a listed
    species in it has no paper."""

    design: str
    name: str
    stage: str
    kg: float | None
    weighed: bool
    woods: Mapping[str, str]
    lacks_paper: bool
    drawing: Instrument | None

    @property
    def whole(self) -> bool:
        """Whether nothing is left to make."""
        return self.stage == FINISHED

    @property
    def weight_words(self) -> str:
        """ "3.36 kg", "about 3.4 kg" before it was weighed; empty where nothing can be said."""
        return "" if self.kg is None else f"{self.kg:.2f} kg" if self.weighed else f"about {self.kg:.1f} kg"


FINISHED, IN_CLAMPS, AT_BENCH, LAID_OUT, DRAWN = "finished", "in clamps", "at the bench", "laid out", "drawn up"
# what the wall can be asked, in this order, and which of them answers yes
QUESTIONS: dict[str, Callable[[Hung], bool]] = {
    "have a story?": lambda one: one.stage != DRAWN,
    "are finished?": lambda one: one.whole,
    "are under way?": lambda one: one.stage in (IN_CLAMPS, AT_BENCH, LAID_OUT),
    "lack a paper?": lambda one: one.lacks_paper,
}
_ORDER = (FINISHED, IN_CLAMPS, AT_BENCH, LAID_OUT, DRAWN)


def wall(shop: Shop) -> list[Hung]:
    """Every instrument of the shop: finished ones first, then as far as they are."""
    drawings = {g.id: g for g in shop.instruments.all()}
    names = {d.id: d.name for d in shop.designs()} | {i: g.name for i, g in drawings.items()}
    everyone = {p.id: p for p in shop.pieces(everything=True)}
    found, seen = [], set()
    for under_way in shop.plans.accepted():
        bench = at_the_bench(shop, under_way.id)
        for design in under_way.designs if bench is not None else ():
            if bench is not None and design not in seen:
                seen.add(design)
                found.append(_laid(shop, bench, design, names.get(design, design), drawings.get(design), everyone))
    for design, drawing in drawings.items():
        if design not in seen:
            found.append(Hung(design, drawing.name, DRAWN, kg=None, weighed=False, woods={}, lacks_paper=False, drawing=drawing))
    return sorted(found, key=lambda one: _ORDER.index(one.stage))


class Wall:
    """The wall of a shop, worked out anew only when the shop changed or a minute went by."""

    def __init__(self) -> None:
        self._known: tuple[object, list[Hung]] | None = None

    def hung(self, shop: Shop) -> list[Hung]:
        """What hangs on it now."""
        key = (id(shop), shop.version, f"{shop.clock():%d %H:%M}")
        if self._known is None or self._known[0] != key:
            self._known = (key, wall(shop))
        return self._known[1]


def _laid(
    shop: Shop, bench: AtTheBench, design: str, name: str, drawing: Instrument | None, everyone: Mapping[str, Piece]
) -> Hung:
    """An instrument with a plan that is kept."""
    under_way, log = bench.under_way, log_of(shop, bench.under_way.id)
    mine = [p for p in under_way.plan.placements if (p.build or under_way.designs[0]) == design]
    woods: dict[str, str] = {}
    for place in mine:
        component = COMPONENT.get(under_way.job.part(place.part).role)
        if component is not None:
            woods.setdefault(component, under_way.job.piece(place.piece).species)
    kg = log.weighed_kg if log.weighed_kg is not None else forecast(shop, bench, design)[0]
    boards = [everyone.get(n) or under_way.job.piece(n) for n in {p.piece for p in mine}]
    stage = FINISHED if not bench.left else IN_CLAMPS if bench.in_clamps else AT_BENCH if log.rows else LAID_OUT
    return Hung(
        design,
        name,
        stage,
        kg,
        log.weighed_kg is not None,
        woods,
        any(_lacks_paper(shop.kit.library, b) for b in boards),
        drawing,
    )


def _lacks_paper(library: SpeciesLibrary, piece: Piece) -> bool:
    """Whether a piece is of a listed species and no paper is kept with it."""
    species = library.find(piece.species)
    return species is not None and CONTROLLED in species.flags and not piece.supply.papers
