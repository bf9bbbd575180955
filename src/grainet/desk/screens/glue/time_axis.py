"""Time across the window: days and hours to pixels, with a tick for each day."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import datetime, time, timedelta


@dataclass(frozen=True)
class TimeAxis:
    """Spans ``begins`` to ``ends`` from ``left`` to ``right`` px."""

    begins: datetime
    ends: datetime
    left: float
    right: float

    def x(self, at: datetime) -> float:
        """The px of an instant, also beyond its ends."""
        whole = max(60.0, (self.ends - self.begins).total_seconds())
        return self.left + (self.right - self.left) * (at - self.begins).total_seconds() / whole

    def days(self) -> list[tuple[float, datetime]]:
        """Midnights within it, each with its px."""
        day = datetime.combine(self.begins.date(), time()) + timedelta(days=1)
        found = []
        while day < self.ends:
            found.append((self.x(day), day))
            day += timedelta(days=1)
        return found
