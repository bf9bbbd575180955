"""The piece as judging and planning see it."""

from __future__ import annotations

from grainet.wood.defects import counted
from grainet.wood.flatness import over_the_whole
from grainet.wood.piece import Piece


def as_counted(piece: Piece) -> Piece:
    """The piece with troubles that were dealt with counting as such, and its twist over the whole length."""
    x0, _, x1, _ = piece.extents
    troubles, flat = counted(piece.defects), over_the_whole(piece.flatness, x1 - x0 or piece.length_mm or 1.0)
    same = troubles == piece.defects and flat is piece.flatness
    return piece if same else piece.changed(defects=troubles, flatness=flat)
