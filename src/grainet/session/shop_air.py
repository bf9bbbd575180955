"""The shop's air: its log by month, and the year that judging reckons with."""

from __future__ import annotations

from collections.abc import Sequence

from grainet.session.items import Items
from grainet.session.kinds import AIR
from grainet.session.profile import kit_of
from grainet.wood.climate import AirLog, AirReading, YearAir, year_of


class ShopAir:
    """The air of one shop."""

    def __init__(self, items: Items) -> None:
        self.items = items
        self._known: tuple[int, list[AirReading], tuple[object, YearAir] | None] | None = None

    @property
    def readings(self) -> list[AirReading]:
        """Every reading of the log, oldest first."""
        version, known = self.items.version, self._known
        if known is None or known[0] != version:
            found = sorted((r for log in self.items.all(AIR) for r in log.readings), key=lambda r: r.at)
            same = known is not None and known[1] == found
            known = self._known = (version, known[1], known[2]) if same and known is not None else (version, found, None)
        return known[1]

    @property
    def year(self) -> YearAir:
        """The year's air: the log where it reaches, the profile's guess elsewhere; one and the same while both stay."""
        readings, guess = self.readings, kit_of(self.items).year
        assert self._known is not None
        if self._known[2] is None or self._known[2][0] is not guess:
            self._known = (self._known[0], self._known[1], (guess, year_of(readings, guess)))
        assert self._known[2] is not None
        return self._known[2][1]

    def log(self, readings: Sequence[AirReading]) -> int:
        """Keep readings by month in one step; those of a time that is logged already are left out. How many were new."""
        known = {r.at for r in self.readings}
        fresh = {r.at: r for r in readings if r.at not in known}
        months: dict[str, list[AirReading]] = {}
        for one in fresh.values():
            months.setdefault(one.at[:7], []).append(one)
        logs = []
        for month, new in months.items():
            old = self.items.find(AIR, month)
            rows = (*(old.readings if old is not None else ()), *new)
            logs.append(AirLog(id=month, readings=tuple(sorted(rows, key=lambda r: r.at))))
        if logs:
            self.items.apply(f"{len(fresh)} readings of the air", *logs)
        return len(fresh)
