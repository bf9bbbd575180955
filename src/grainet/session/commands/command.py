"""What a line of words means before it is kept."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

from grainet.session.commands.figures import Change
from grainet.session.query import Query
from grainet.wood.climate import AirReading
from grainet.wood.piece import Piece


@dataclass(frozen=True)
class Command:
    """What a line of words means: the gloss, and the piece after it or the place that the plumb moves to.

    ``more`` are pieces that come with it (a bundle's items, the halves of a cut); ``replaces`` says that the piece in hand makes
    way for them. ``begins`` says that ``piece`` is a new one, which gets its number when it is kept.
    """

    gloss: str
    piece: Piece | None = None
    cursor_mm: float | None = None
    label: str = ""
    more: tuple[Piece, ...] = field(default=())
    replaces: bool = False
    begins: bool = False
    asks: Query | None = None  # what the rack is asked; an empty one asks for nothing
    opens: str | None = None  # a piece's number, as a label says it
    part: tuple[float, float, float, float] | None = None  # a part to try on the board, mm
    claims: str | None = None  # what the piece, or the part tried on it, is kept for
    air: AirReading | None = None  # a reading of the shop's air
    beside: str | None = None  # another piece's number, to be glued beside this one
    mates: bool = False  # which boards go with the piece in hand is asked
    frees: str | None = None  # a claim to give back, or * for all on the piece
    lists: str | None = None  # the words of the tape line are asked for, those that mean this
    draws: Change | None = None  # what it makes of the instrument in hand
    lost: str | None = None  # a part of the plan that saws the piece in hand, which is lost
    went: float | None = None  # where the next cut on it was made instead, mm
    does: Callable[[], None] | None = None  # what the screen in front makes of it
    cut: tuple[str, float] | None = None  # "crosscut", "rip" or "resaw", and where: the shop saws the piece apart
