"""The clock on the wall, passed in so that a test or a picture can stop it."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date, datetime, time

Clock = Callable[[], datetime]
NOON = time(12)


def wall_clock() -> datetime:
    """Now, in the shop's own time."""
    return datetime.now()


def stopped_at(day: date, at: time = NOON) -> Clock:
    """A clock that always says the same."""
    return lambda: datetime.combine(day, at)
