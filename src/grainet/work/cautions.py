"""The usual cautions at a step: short, neutral, deferring to manuals, local codes and trained practice.

Grade A: the step stays closed until acknowledged; B: shown at the step; C: a note. Listing a cut never makes it safe.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from grainet.job.answer import Cut
from grainet.kit.cut_kit import CutKit
from grainet.wood.candidates import named_candidates, possible_flags
from grainet.wood.coating import consequences
from grainet.wood.piece import Piece
from grainet.wood.species import SpeciesLibrary, library_with
from grainet.wood.units import LengthStyle, tell_length
from grainet.wood.value import Ring

SHORT_STOCK_MM = 300.0


Grade = Literal["A", "B", "C"]
Topic = Literal[
    "metal", "finish", "dust", "blade", "oil", "trade", "machine", "glue", "shop"
]  # shop: what went wrong here before


@dataclass(frozen=True)
class Caution:
    """One caution: what it is by its code, what it is about, how grave, and its words. One about gluing names the joint and the ids of
    the parts that it joins (none: every joint)."""

    code: str
    topic: Topic
    grade: Grade
    text: str
    parts: frozenset[str] = frozenset()
    joint: str = ""

    @property
    def key(self) -> tuple[str, frozenset[str]]:
        """What is agreed to, however its words read."""
        return self.code, self.parts

    @property
    def sentence(self) -> str:
        """The whole of it for a reader who does not see where it stands."""
        return f"Before gluing {self.joint}: {self.text}" if self.topic == "glue" else self.text


AT_A_FENCE = Caution(
    "rip", "machine", "B", "Guard, riving knife and push tools as the saw's manual asks; a straight edge against the fence."
)
OFF_FLAT = Caution(
    "rip_off_flat",
    "machine",
    "B",
    "Never at a table saw's fence before a face is flat: band saw, its guard down to the wood, wedged so that it cannot rock, or on a sled.",
)


def cautions_for(
    cut: Cut, piece: Piece, hand: Ring, kit: CutKit, library: SpeciesLibrary | None = None, style: LengthStyle = "mm", *, fence: bool = True,
) -> tuple[Caution, ...]:  # fmt: skip
    """The cautions of one cut, the gravest first; ``library`` holds the shop's own species too. ``fence``: a rip runs along a fence."""
    found: list[Caution] = [*_of_the_wood(piece, library or library_with()), *_of_the_cut(cut, hand, kit, style)]
    if cut.tool == "rip":
        found.append(AT_A_FENCE if fence else OFF_FLAT)
    return tuple(sorted(found, key=lambda c: c.grade))


def _of_the_wood(piece: Piece, library: SpeciesLibrary) -> list[Caution]:
    found = []
    if piece.reclaimed:
        found.append(
            Caution(
                "reclaimed_metal",
                "metal",
                "A",
                "Reclaimed: look over every face and edge for metal again; detectors miss small, deep or non-ferrous pieces.",
            )
        )
    coats = consequences(piece.coating, reclaimed=piece.reclaimed)
    found += [Caution(c.code, "finish", c.grade, c.text) for c in coats]
    if not coats and any(d.kind == "old_finish" and not d.cleared for d in piece.defects) and not piece.coating.tested_clean:
        found.append(
            Caution(
                "old_finish", "finish", "A", "Old finish: do not sand, scrape dry or burn it until tested; follow local rules."
            )
        )
    named = named_candidates(piece, library)
    flags = possible_flags(piece, library)
    name = " or ".join(one.common for one in named)
    if not named:
        found.append(Caution("unknown_species", "dust", "B", "Species unknown: treat its dust as irritant; mask, extraction."))
    elif "irritant_sensitizer_dust" in flags:
        found.append(Caution("sensitizing_dust", "dust", "A", f"{name}: its dust may irritate or sensitize; mask, extraction."))
    if "silica" in flags or "gum_pitch" in flags:
        found.append(Caution("dulls_blades", "blade", "B", "Dulls and burns blades: a sharp spare blade, slow feed, respirator."))
    if "oily" in flags:
        found.append(
            Caution(
                "oily",
                "oil",
                "B",
                f"{name}: oily; before gluing a fresh face, wiped with solvent in moving air, no flame; gloves that its label names for the wiping.",
            )
        )
    trade = {one.trade_note: None for one in named if one.trade_note}
    if trade or "trade_regulated" in flags:
        kept = f"{len(piece.supply.papers)} papers kept with it" if piece.supply.papers else "no paper kept with it"
        found.append(
            Caution("trade", "trade", "C", f"{name}: {'; '.join({'check current trade rules': None, **trade})}; {kept}.")
        )
    finish = dict.fromkeys(one.finish_note for one in named if one.finish_note)
    found += [Caution("under_a_finish", "finish", "C", f"Under a finish: {note}.") for note in finish]
    return found


def _of_the_cut(cut: Cut, hand: Ring, kit: CutKit, style: LengthStyle) -> list[Caution]:
    xs, ys = zip(*hand)
    length, width = max(xs) - min(xs), max(ys) - min(ys)
    found = [
        Caution(
            "cutter",
            "machine",
            "C",
            "Dust captured, eyes and ears covered; no gloves, loose sleeves or jewellery at a turning blade. If a cut feels wrong, do not make it.",
        )
    ]
    limit = kit.machines.least_length_mm or SHORT_STOCK_MM
    if length < limit:
        found.append(
            Caution(
                "short_stock",
                "machine",
                "A",
                f"{tell_length(length, style)} long, this shop's machines want {tell_length(limit, style)}: keep to the manual's least length, or use a carrier or hand tools.",
            )
        )
    if cut.tool == "resaw":
        found.append(
            Caution(
                "resaw",
                "machine",
                "B",
                f"{tell_length(width, style)} high to resaw: tall fence, sharp wide blade, support in and out; stop if the kerf closes.",
            )
        )
    if cut.tool == "outline":
        found.append(Caution("outline", "machine", "B", "A flat reference face down first; plan the way out before sawing in."))
    return found
