"""A crew of judging programs: a rack of thousands is judged beside the window, on every core, in lots handed out as they come free."""

from __future__ import annotations

import logging
import os
import socket
import subprocess
import sys
from collections.abc import Callable, Iterator, Sequence
from multiprocessing.connection import Connection, wait
from pathlib import Path
from typing import TYPE_CHECKING

import grainet

if TYPE_CHECKING:
    from grainet.grade.judging import Asked
    from grainet.grade.ranking import RankedPiece
    from grainet.wood.piece import Piece

LOG = logging.getLogger("grainet")
WORTH = 250  # fewer pieces are judged sooner than programs start
LOT, AHEAD = 40, 2  # pieces in a lot, and lots that one program has in hand: it never waits for the next
MOST_HANDS = 4
LOOK_S = 0.2
# isolated: neither the working folder nor the environment may slip a module in
START = "import sys; sys.path.insert(0, sys.argv[1]); from grainet.grade.judging import main; main(int(sys.argv[2]))"


class _Hand:
    """One program and this end of its pipe."""

    def __init__(self) -> None:
        ours, theirs = socket.socketpair()
        source = str(Path(grainet.__file__).resolve().parent.parent)
        try:
            self.program = subprocess.Popen(
                [sys.executable, "-I", "-c", START, source, str(theirs.fileno())],
                pass_fds=(theirs.fileno(),),
                stdin=subprocess.DEVNULL,
            )
        except OSError:
            ours.close()
            raise
        finally:
            theirs.close()
        self.end = Connection(ours.detach())
        self.lots: list[int] = []  # where the lots in its hands begin

    def close(self) -> None:
        self.end.close()
        self.program.kill()
        self.program.wait()


class Crew:
    """Programs started when a rack is worth it, kept for the next question, ended by ``close`` or by ten seconds of rest."""

    def __init__(self, count: int | None = None) -> None:
        self.count = max(1, min(MOST_HANDS, os.cpu_count() or 1)) if count is None else count
        self._hands: list[_Hand] = []

    def close(self) -> None:
        """End the programs."""
        hands, self._hands = self._hands, []
        for hand in hands:
            hand.close()

    def standings(self, pieces: Sequence[Piece], asked: Asked, go_on: Callable[[int], bool] | None = None) -> list[RankedPiece]:
        """Standings of the pieces, in no order; those that a program could not judge, or left behind, are missing. ``go_on`` hears how
        many were judged, and ends it early by saying no."""
        found: list[RankedPiece] = []
        try:
            for done in self._under_way(iter(range(0, len(pieces), LOT)), pieces, asked):
                found += done
                if go_on is not None and not go_on(len(found)):
                    break
        finally:
            if any(hand.lots for hand in self._hands):
                self.close()  # what they have in hand would be taken for answers to the next question
        return found

    def _under_way(self, lots: Iterator[int], pieces: Sequence[Piece], asked: Asked) -> Iterator[list[RankedPiece]]:
        """The standings of each lot as it comes back; nothing now and then while none does."""
        self._begin(asked)
        for hand in list(self._hands):
            self._hand_out(hand, lots, pieces)
        while busy := {hand.end: hand for hand in self._hands if hand.lots}:
            try:
                ready = wait(list(busy), LOOK_S)
            except OSError:  # the shop was closed meanwhile
                return
            if not ready:
                yield []
            for end in ready:
                hand = busy[end]  # type: ignore[index]
                try:
                    what, number, told = hand.end.recv()
                except (EOFError, OSError):
                    self._lost(hand)
                    continue
                hand.lots.remove(number)
                if what == "fault":
                    LOG.warning("a judging program could not judge a lot: %s", told)
                self._hand_out(hand, lots, pieces)
                yield told if what == "lot" else []

    def _begin(self, asked: Asked) -> None:
        """Start what is missing, and tell every program what is asked."""
        for hand in [h for h in self._hands if h.program.poll() is not None]:  # gone to rest
            self._hands.remove(hand)
            hand.close()
        while len(self._hands) < self.count:
            try:
                self._hands.append(_Hand())
            except OSError:  # no more programs here: those that there are, or this one, do the work
                break
        for hand in list(self._hands):
            try:
                hand.end.send(("ask", asked))
            except OSError:
                self._hands.remove(hand)
                hand.close()

    def _hand_out(self, hand: _Hand, lots: Iterator[int], pieces: Sequence[Piece]) -> None:
        while hand in self._hands and len(hand.lots) < AHEAD:
            number = next(lots, None)
            if number is None:
                return
            hand.lots.append(number)
            try:
                hand.end.send(("lot", number, pieces[number : number + LOT]))
            except OSError:
                self._lost(hand)

    def _lost(self, hand: _Hand) -> None:
        """A program that ended."""
        LOG.warning("a judging program ended in the midst of its work")
        hand.lots.clear()
        self._hands.remove(hand)
        hand.close()
