"""What becomes of each field of a piece when the wood is cut or turned: one row a field, so that a new one cannot be forgotten.

``clip`` and ``new`` are worked out by whoever cuts, ``turn`` by whoever turns; the rest is done from here.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any, Literal

from grainet.wood.piece import Piece

CutFate = Literal["keep", "clip", "reset", "new"]  # as it was; what of it lies on the part; as if never read; worked out anew
TurnFate = Literal["keep", "turn"]


@dataclass(frozen=True)
class Fate:
    """What sawing (along outlines and through the thickness), turning end for end and rolling over do to a field."""

    cut: CutFate
    end: TurnFate = "keep"
    roll: TurnFate = "keep"


KEEP, RESET, NEW = Fate("keep"), Fate("reset"), Fate("new")
CLIP, CLIP_BOTH = Fate("clip"), Fate("clip", "turn", "turn")
FATES: dict[str, Fate] = {
    # what the wood is stays with it
    "species": KEEP, "species_sure": KEEP, "candidates": KEEP, "look": KEEP, "coating": KEEP, "reclaimed": KEEP, "origin": KEEP, "arrived": KEEP, "history": KEEP,
    "interlocked": KEEP, "stacking": KEEP, "flat_read": KEEP, "crook_in_outline": KEEP,
    # grain is turned with it
    "ring_angle_deg": Fate("keep", "turn"), "grain_slope_deg": Fate("keep", "keep", "turn"), "planing": Fate("keep", "turn", "turn"),
    "runout_deg": Fate("keep", "turn", "turn"), "hollow_face": Fate("keep", "keep", "turn"), "sweeps": Fate("keep", "keep", "turn"),
    "skims": Fate("keep", "keep", "turn"),
    # what lies somewhere on it is clipped to the part, and moves when it is turned
    "outline": CLIP_BOTH, "stations": CLIP_BOTH, "moisture": CLIP_BOTH, "defects": CLIP_BOTH, "figure": CLIP_BOTH, "photos": CLIP_BOTH, "flatness": CLIP,
    "layers": Fate("clip", "keep", "turn"), "supply": CLIP,
    # worked out anew for what is left
    "id": NEW, "kind": NEW, "thickness_mm": NEW, "mass_kg": NEW, "heart_face": Fate("new", "keep", "turn"), "heart_mm": NEW, "parent": NEW, "parent_outline": NEW,
    "racked": NEW, "pictured_as": Fate("new", "turn", "turn"), "picture_at": Fate("new", "turn", "turn"), "picture_depth_mm": Fate("new", "keep", "turn"),
    "picture_sign": Fate("keep", "turn", "turn"),
    # the whole piece's own: series, logs, knocks, how it was sold, where it lies
    "name": RESET, "length_mm": RESET, "width_stations": Fate("reset", "turn", "turn"), "nominal_thickness_mm": RESET, "nominal_width_mm": RESET,
    "nominal_length_mm": RESET, "reading_grid": RESET, "bundle": RESET, "sawn_order": RESET, "read_by": RESET, "place": RESET, "gone": RESET, "label_printed": RESET,
    "note": RESET, "suggestions": Fate("reset", "turn", "turn"), "weighings": RESET, "samples": Fate("reset", "turn", "keep"), "rests": RESET, "settled": RESET,
    "rest_waived": RESET, "taps": RESET, "passed_over": RESET,
}  # fmt: skip


def after_cut(parent: Piece, worked_out: dict[str, Any]) -> Piece:
    """The piece that a cut left: kept and reset fields from the table, the others as they were worked out. Raises KeyError where
    one of those is missing, and ValidationError."""
    wanted = {name for name, fate in FATES.items() if fate.cut in ("clip", "new")}
    if wanted != worked_out.keys():
        raise KeyError(f"to be worked out for a cut: {', '.join(sorted(wanted ^ worked_out.keys()))}")
    reset = {n: Piece.model_fields[n].get_default(call_default_factory=True) for n, fate in FATES.items() if fate.cut == "reset"}
    return parent.changed(**reset, **worked_out)
