"""Asking the rack for wood by size and condition: ``at least 30 x 110 x 700 clear, quartered, ready``.

Sizes are finished: what flattening, skims and edging take is counted, and "clear" means a rectangle of that size without troubles.
Words narrow the rest; a word that is not understood is named.
"""

from __future__ import annotations

import re
from dataclasses import dataclass, field
from typing import Any

import numpy as np

from grainet.grade.ready import standing
from grainet.kit.shop_profile import ShopProfile
from grainet.wood.defects import GROWING
from grainet.wood.figure import HOUSE_WORDS
from grainet.wood.flatness import crook_loss, flattening_links
from grainet.wood.piece import PIECE_KINDS, Piece
from grainet.wood.rings import least_angle, sawn
from grainet.wood.species import SpeciesLibrary, library_with
from grainet.wood.thickness import ThicknessField
from grainet.wood.units import LengthStyle, entry_unit, format_length, parse_length
from grainet.wood.value import BadEntry

GRID_MM = 4.0
PLAIN_WORDS = (
    "clear",
    "ready",
    "quartered",
    "rift",
    "flat",
    "figured",
    "reclaimed",
    "bought",
    "swept",
    "measured",
    "unread",
    "promised",
)


@dataclass(frozen=True)
class Query:
    """What is asked: least finished thickness, width and length in mm (0 any), plain words, kinds, species, places, house words."""

    size_mm: tuple[float, float, float] = (0.0, 0.0, 0.0)
    words: frozenset[str] = field(default_factory=frozenset)
    kinds: frozenset[str] = field(default_factory=frozenset)
    species: frozenset[str] = field(default_factory=frozenset)
    places: frozenset[str] = field(default_factory=frozenset)
    house: frozenset[str] = field(default_factory=frozenset)

    def message(self, style: LengthStyle = "mm") -> str:
        """The question in words, as it was understood."""
        size = " × ".join(format_length(v, style) for v in self.size_mm) if any(self.size_mm) else ""
        return ", ".join(t for t in (f"at least {size}" if size else "", *sorted(self.words), *sorted(self.kinds), *sorted(self.species),
                                     *(f"at {p}" for p in sorted(self.places)), *sorted(self.house)) if t)  # fmt: skip


def parse_query(
    text: str, style: LengthStyle = "mm", house: tuple[str, ...] = HOUSE_WORDS, library: SpeciesLibrary | None = None
) -> Query:
    """Read a question. Raises BadEntry naming what is not understood."""
    tidy = " ".join(text.lower().replace("≥", " at least ").replace("×", "x").split())
    size: list[float] = []
    found = re.search(r"(?:at least )?((?:[\d.,/\" ]+(?:mm|in)?)(?: ?x ?[\d.,/\" ]+(?:mm|in)?){1,2})", tidy)
    if found:
        unit = entry_unit(style)
        size = [parse_length(part.strip(" ,"), unit).mm for part in re.split(r" ?x ?", found[1].strip(" ,"))]
        tidy = (tidy[: found.start()] + "," + tidy[found.end() :]).strip()
    if len(size) == 2:
        size = [0.0, *size]
    kept: dict[str, set[str]] = {name: set() for name in ("words", "kinds", "species", "places", "house")}
    for word in (w.strip(" .?") for w in tidy.replace("at least", "").split(",")):
        if word:
            _sort(word, kept, house, library or library_with())
    return Query(tuple(size) or (0.0, 0.0, 0.0), *(frozenset(kept[n]) for n in ("words", "kinds", "species", "places", "house")))  # type: ignore[arg-type]


def _sort(word: str, kept: dict[str, set[str]], house: tuple[str, ...], library: SpeciesLibrary) -> None:
    kind = next((k for k in PIECE_KINDS if word.rstrip("s").replace(" ", "_") == k), None)
    if word in PLAIN_WORDS:
        kept["words"].add(word)
    elif word in ("kept", "claimed"):
        kept["words"].add("promised")
    elif word == "quarter":
        kept["words"].add("quartered")
    elif kind:
        kept["kinds"].add(kind)
    elif word in house:
        kept["house"].add(word)
    elif word.startswith("at "):
        kept["places"].add(word[3:].strip())
    elif library.suggest(word, 1):
        kept["species"].add(word)
    elif " " in word:
        for part in word.split():
            _sort(part, kept, house, library)
    else:
        raise BadEntry(
            f"“{word}” is not understood; asks for a size such as 30 x 110 x 700, a species, a kind, at C3, or {', '.join(PLAIN_WORDS)}."
        )


def matches(piece: Piece, query: Query, kit: ShopProfile) -> bool:
    """Whether a piece answers a question."""
    return _words_hold(piece, query, kit) and (
        not any(query.size_mm) or room_for(piece, query.size_mm, kit, clear="clear" in query.words)
    )


def one_species(name: str, wanted: str, library: SpeciesLibrary) -> bool:
    """Whether a piece's species (in small letters) is what was asked for: a part of its name, or another name of it."""
    if wanted in name:
        return True
    found = library.find(name)
    return found is not None and library.find(wanted) is found


def _words_hold(piece: Piece, query: Query, kit: ShopProfile) -> bool:
    if query.kinds and piece.kind not in query.kinds:
        return False
    if query.species and not any(one_species(piece.species.lower(), wanted, kit.library) for wanted in query.species):
        return False
    if query.places and piece.place.lower() not in query.places:
        return False
    if query.house and not any(f.word in query.house for f in piece.figure):
        return False
    return all(_holds(piece, word, kit) for word in query.words)


def _holds(piece: Piece, word: str, kit: ShopProfile) -> bool:
    measured = bool(piece.outline and piece.all_thicknesses_mm)
    angle = least_angle(piece.ring_angle_deg)
    if word in ("quartered", "rift", "flat"):
        return angle is not None and sawn(angle) == {"quartered": "quarter"}.get(word, word)
    if word == "ready":
        return standing(piece, kit).word == "ready"
    return {
        "clear": True, "figured": any(f.kind != "plain" for f in piece.figure), "reclaimed": piece.reclaimed, "bought": not piece.reclaimed,
        "swept": not piece.unswept_faces and not piece.live_metal, "measured": measured, "unread": not measured, "promised": True,  # what is promised the shop knows, not the piece
    }[word]  # fmt: skip


def room_for(piece: Piece, size_mm: tuple[float, float, float], kit: ShopProfile, *, clear: bool) -> bool:
    """Whether a finished blank of (thickness, width, length) fits somewhere along the grain, losses counted; ``clear`` without
    any trouble in it. Worked on a 4 mm raster that never says yes where a trouble or the rim is touched."""
    if not piece.outline or not piece.all_thicknesses_mm:
        return False
    x0, y0, x1, y1 = piece.extents
    thick, width, length = size_mm
    cuts = kit.cuts
    whole = (x1 - x0, y1 - y0)
    need_w = width + 2 * cuts.edge_mm + (0.0 if piece.crook_in_outline else crook_loss(piece.flatness, length, whole[0]))
    if length + 2 * cuts.trim_mm > whole[0] + 1e-6 or need_w > whole[1] + 1e-6:
        return False
    loss = sum(link.takes_mm for link in flattening_links(piece.flatness, length, width, *whole)) + 2 * cuts.skim_mm
    return _window(usable_cells(piece, thick + loss if thick else 0.0, kit, clear=clear), need_w, length + 2 * cuts.trim_mm)


def usable_cells(piece: Piece, thick_mm: float, kit: ShopProfile, *, clear: bool) -> np.ndarray:
    """Cells of the raster, shape (rows, columns), that lie whole on thick enough, wanted wood."""
    import cv2

    x0, y0, x1, y1 = piece.extents
    columns, rows = int((x1 - x0) / GRID_MM + 1e-6), int((y1 - y0) / GRID_MM + 1e-6)
    if columns < 1 or rows < 1:
        return np.zeros((1, 1), bool)
    off = np.zeros((rows, columns), np.uint8)
    straight = len(piece.outline) == 4 and {x for x, _ in piece.outline} == {x0, x1} and {y for _, y in piece.outline} == {y0, y1}
    if not straight:
        on = np.zeros((rows + 2, columns + 2), np.uint8)
        cv2.fillPoly(on, [_cells(piece.outline, x0 - GRID_MM, y0 - GRID_MM)], (1,))
        line = np.zeros_like(on)
        cv2.polylines(line, [_cells(piece.outline, x0 - GRID_MM, y0 - GRID_MM)], isClosed=True, color=(1,))
        off |= ((on == 0) | (line == 1)).astype(np.uint8)[1:-1, 1:-1]
    for defect in piece.defects:
        if not clear and defect.family not in ("metal", "breaks"):
            continue
        grow = (
            kit.cuts.growth_mm
            if defect.kind in GROWING and not defect.cleared
            else kit.cuts.metal_clear_mm
            if defect.live_metal
            else 0.0
        )
        ring = [_cells(defect.polygon, x0, y0)]
        cv2.fillPoly(off, ring, (1,))
        cv2.polylines(off, ring, isClosed=True, color=(1,), thickness=1 + 2 * int(np.ceil(grow / GRID_MM)))
    if thick_mm:
        field = ThicknessField.of(piece)
        if field.constant:
            if field.least < thick_mm - 1e-9:
                off[:] = 1
        else:
            u, v = x0 + (np.arange(columns + 1)) * GRID_MM, y0 + np.arange(rows + 1) * GRID_MM
            thin = field.at(*np.meshgrid(u, v)) < thick_mm - 1e-9
            off |= (thin[:-1, :-1] | thin[1:, :-1] | thin[:-1, 1:] | thin[1:, 1:]).astype(np.uint8)
    return np.asarray(off == 0)


def _cells(ring: tuple[tuple[float, float], ...], x0: float, y0: float) -> Any:
    return np.array([(np.floor((x - x0) / GRID_MM), np.floor((y - y0) / GRID_MM)) for x, y in ring], np.int32)


def _window(good: np.ndarray, width_mm: float, length_mm: float) -> bool:
    """Whether a rectangle of good cells of that size is there: an integral image."""
    rows, columns = good.shape
    # a size that is a whole board's may miss a part of a cell at the rim; it was measured against the extents already
    high, wide = min(rows, int(np.ceil(width_mm / GRID_MM - 1e-9))), min(columns, int(np.ceil(length_mm / GRID_MM - 1e-9)))
    total = np.zeros((rows + 1, columns + 1), np.int64)
    total[1:, 1:] = good.cumsum(axis=0).cumsum(axis=1)
    sums = total[high:, wide:] - total[:-high, wide:] - total[high:, :-wide] + total[:-high, :-wide]
    return bool((sums == high * wide).any())
