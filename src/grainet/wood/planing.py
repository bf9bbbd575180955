"""Which way a face planes clean, and what a glue-up of several pieces will do under the plane.

Fibres that rise toward face 1 going right are planed uphill toward the far end; a run-out of the other sign the other way;
interlocked wood tears both ways. Source: the geometry of fibres against the edge of a cutter.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal

from grainet.wood.piece import Piece

Direction = Literal["far", "marked", "both_ways_tear", ""]
LEAST_RUNOUT_DEG = 0.5  # flatter fibres plane either way


def planing_direction(piece: Piece, face: str = "1") -> Direction:
    """The end toward which a face planes clean: as noted, else from the run-out; empty where it is not known or either will do."""
    if piece.interlocked or piece.planing == "both_ways_tear":
        return "both_ways_tear"
    noted: Direction = piece.planing
    if not noted and piece.runout_deg is not None and abs(piece.runout_deg) >= LEAST_RUNOUT_DEG:
        noted = "far" if piece.runout_deg > 0 else "marked"
    if face == "2" and noted:
        return "marked" if noted == "far" else "far"
    return noted


@dataclass(frozen=True)
class Member:
    """One member of a glue-up: the piece, whether it lies turned end for end in it, and which of its faces is up."""

    piece: Piece
    turned: bool = False
    face_up: str = "1"

    @property
    def direction(self) -> Direction:
        """The end that its upper face planes clean toward as it lies."""
        found = planing_direction(self.piece, self.face_up)
        return found if not self.turned or found in ("", "both_ways_tear") else "marked" if found == "far" else "far"


@dataclass(frozen=True)
class Tearing:
    """What a glue-up will do under the plane: a sentence, and the members to turn end for end so that all plane one way."""

    text: str
    turn: tuple[str, ...] = ()


def tearing(members: Sequence[Member]) -> Tearing | None:
    """None when all members plane one way (or are not known); else what tears and which turns would mend it."""
    ways = [(m, m.direction) for m in members]
    stubborn = [m.piece.id for m, way in ways if way == "both_ways_tear"]
    if stubborn:
        return Tearing(f"No. {', '.join(stubborn)} will tear both ways: scrape it, or a sharp iron with a fine mouth.")
    far, near = ([m.piece.id for m, way in ways if way == word] for word in ("far", "marked"))
    if not far or not near:
        return None
    fewer = far if len(far) < len(near) else near
    one, other = (", ".join(dict.fromkeys(ids)) for ids in (far, near))
    return Tearing(f"will tear both ways: No. {one} planes one way, No. {other} the other", tuple(fewer))
