"""Whose turn it is: work over a whole rack gives way, piece by piece, while the window answers a person."""

from __future__ import annotations

import time
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from threading import get_ident
from typing import TypeVar

T = TypeVar("T")
LOOK_S, LONGEST_S = 0.0005, 0.1  # how often it is asked whether the window is done, and how long is waited in one go


class _Turn:
    """How many things the window is in the midst of, and which thread is its own; only that one counts up and down."""

    taken = 0
    owner = 0


@contextmanager
def first() -> Iterator[None]:
    """The window's own doing: long work waits at its next piece."""
    _Turn.owner = get_ident()
    _Turn.taken += 1
    try:
        yield
    finally:
        _Turn.taken -= 1


def in_turn(items: Iterable[T]) -> Iterator[T]:
    """The items one by one, each once the window needs nothing, or after a tenth of a second all the same: a question that stays open
    is no reason to wait for ever. For loops that run off the window's thread; on it they go straight on."""
    patience = LONGEST_S
    for item in items:
        if not _Turn.taken:
            patience = LONGEST_S
        elif patience > 0 and get_ident() != _Turn.owner:
            patience -= _waited(patience)
        yield item


def _waited(most_s: float) -> float:
    began = time.monotonic()
    while _Turn.taken and time.monotonic() - began < most_s:
        time.sleep(LOOK_S)
    return time.monotonic() - began
