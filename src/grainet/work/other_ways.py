"""The ways in which an operation can be done otherwise, where a person chooses: round a machine that does not take a piece, and to press a joint.

No way ever takes a guard off. What a way changes is worked out where it belongs: ``capacity``, ``pieces_first``, ``clamp_plan``.
"""

from __future__ import annotations

CARRIER, SLED, OVER, PIECES, BY_HAND, AWAY = "carrier", "sled", "router", "pieces", "hand", "away"
CLAMPED, CAULS, TAPED = "clamps", "cauls", "tape"
PRESSED = (CLAMPED, CAULS, TAPED)  # the ways to press a joint
WAYS: dict[str, str] = {
    CARRIER: "on a carrier board long enough, blocked at both ends",
    SLED: "on a sled through the thicknesser",
    OVER: "a router on a sled over it",
    PIECES: "each piece planed before it is joined, dowels keep them level",
    BY_HAND: "by hand plane and straightedge",
    AWAY: "another shop with a wider machine",
    CLAMPED: "in clamps",
    CAULS: "under stiff cauls, each clamp over twice the length",
    TAPED: "strong tape drawn tight over the seam",
}
SHORT: dict[str, str] = {  # on a button
    CARRIER: "On a carrier board",
    SLED: "On a sled",
    OVER: "Router over it",
    PIECES: "Each piece first",
    BY_HAND: "By hand",
    AWAY: "Another shop",
    CLAMPED: "In clamps",
    CAULS: "Stiff cauls",
    TAPED: "Tape",
}
