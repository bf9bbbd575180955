"""Whose turn it is: work over a whole rack gives way, piece by piece, while the window answers a person."""

from __future__ import annotations

import time
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from typing import TypeVar

T = TypeVar("T")
LOOK_S, LONGEST_S = 0.0005, 0.1  # how often it is asked whether the window is done, and how long one piece waits at most


class _Turn:
    """How many things the window is in the midst of; only its own thread counts up and down."""

    taken = 0


@contextmanager
def first() -> Iterator[None]:
    """The window's own doing: long work waits at its next piece."""
    _Turn.taken += 1
    try:
        yield
    finally:
        _Turn.taken -= 1


def in_turn(items: Iterable[T]) -> Iterator[T]:
    """The items one by one, each once the window wants nothing. For loops that run off the window's thread; harmless on it."""
    for item in items:
        if _Turn.taken:
            _wait()
        yield item


def _wait() -> None:
    until = time.monotonic() + LONGEST_S
    while _Turn.taken and time.monotonic() < until:
        time.sleep(LOOK_S)
