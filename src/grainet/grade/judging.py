"""A judging program: lots of pieces in, their standings out, over one end of a socket pair. It ends when the other end closes, also in
the midst of a lot, and when nobody asked for ten seconds.

It takes ``("ask", Asked)`` once and then ``("lot", number, pieces)``; it answers ``("lot", number, standings)`` or ``("fault", number, text)``.
"""

from __future__ import annotations

import os
import traceback
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from multiprocessing.connection import Connection

from grainet.grade.counted import as_counted
from grainet.grade.facts import Facts
from grainet.grade.judge import GRADE_STEP_MM, judge
from grainet.grade.ranking import RankedPiece, standing_of
from grainet.grade.ready import prepare
from grainet.grade.wanted import Wanted
from grainet.kit.shop_profile import ShopProfile
from grainet.wood.climate import YearAir
from grainet.wood.piece import Piece

IDLE_S = 10.0
NICE = 5  # the window goes first


@dataclass(frozen=True)
class Asked:
    """What all pieces of a rack are judged by."""

    kit: ShopProfile
    year: YearAir
    wanted: Wanted
    today: date


def standing(piece: Piece, asked: Asked) -> RankedPiece:
    """One piece's standing, with nothing kept of it."""
    from grainet.fit.board_geometry import BoardGeometry
    from grainet.fit.field import Layers

    seen, facts, kit = as_counted(piece), Facts(piece, asked.kit, asked.year), asked.kit
    made = judge(
        seen, asked.wanted.rule, kit, lambda: Layers(BoardGeometry(seen, kit.cuts), GRADE_STEP_MM), facts, asked.wanted.part
    )
    return standing_of(facts, asked.wanted.rule, made, asked.today)


def standings(pieces: Sequence[Piece], asked: Asked) -> list[RankedPiece]:
    """The standings of a lot."""
    prepare(pieces, asked.kit)
    return [standing(p, asked) for p in pieces]


def serve(end: Connection) -> None:
    """Answer until the other end closes."""
    asked: Asked | None = None
    while end.poll(IDLE_S):
        what, *rest = end.recv()
        if what == "ask":
            (asked,) = rest
            continue
        number, pieces = rest
        try:
            assert asked is not None
            end.send(("lot", number, standings(pieces, asked)))
        except OSError:
            raise
        except Exception:  # whatever it was, the lot is judged in the window's program and the fault told there
            end.send(("fault", number, traceback.format_exc()))


def main(descriptor: int) -> None:
    """The program."""
    os.nice(NICE)
    try:
        serve(Connection(descriptor))
    except (EOFError, OSError):  # who asked is gone
        return
