"""Whether a piece is ready for the shop's air, and if not, in how many days: as a range, never as one date.

One forecast for lists, rails and plots alike; weighings correct its pace, a levelled-off series beats it, and a person's word
beats both until something newer is read.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta
from typing import Literal

from grainet.grade.forecast import basis_of, book_days, forecast_of
from grainet.kit.shop_profile import ShopProfile
from grainet.turns import in_turn
from grainet.wood.moisture import moisture_state
from grainet.wood.piece import Piece, marked_settled
from grainet.wood.record import Weighing
from grainet.wood.settling import BAND, LONGEST_DAYS
from grainet.wood.weighing import levelled_off, moisture_from_mass

USUAL_THICKNESS_MM = 30.0
ReadyWord = Literal["ready", "waits", "unread", "core unread"]


@dataclass(frozen=True)
class Readiness:
    """Ready or not, days from ``since`` (ISO, or empty) to ready: likely, soonest, latest; and what it was told by."""

    word: ReadyWord
    worst_pct: float | None
    target_pct: float
    days: float = 0.0
    soonest: float = 0.0
    latest: float = 0.0
    since: str = ""
    by: str = ""

    def dates(self, today: date) -> tuple[date, date, date]:
        """Soonest, likely and latest day; a day that has passed is today."""
        start = date.fromisoformat(self.since) if self.since else today
        return tuple(max(today, start + timedelta(days=round(d))) for d in (self.soonest, self.days, self.latest))  # type: ignore[return-value]

    def message(self, today: date) -> str:
        """In words with its dates."""
        if self.word == "ready":
            if self.worst_pct is None:
                return f"ready ({self.by})"
            return f"ready: {self.worst_pct:.1f} %, air {self.target_pct:.1f}" + (
                f" ({self.by})" if self.by != "readings" else ""
            )
        if self.word == "unread":
            return "moisture not read"
        if self.word == "core unread":
            return f"skin {self.worst_pct:.1f} %, core not read"
        soonest, _likely, latest = self.dates(today)
        return f"{self.worst_pct:.1f} % to {self.target_pct:.1f}: {day_words(soonest)} to {day_words(latest)} ({self.by})"


def day_words(day: date) -> str:
    """A day as a person writes it: 24 Feb 2027."""
    return f"{day.day} {day:%b} {day.year}"


def readiness(piece: Piece, kit: ShopProfile) -> Readiness:
    """The state of one piece against the shop's equilibrium and its own tolerance, with its days. The plot asks the same forecast."""
    found = standing(piece, kit)
    return (
        found if found.word != "waits" or found.worst_pct is None else _by_forecast(piece, kit, found.worst_pct, found.target_pct)
    )


def standing(piece: Piece, kit: ShopProfile) -> Readiness:
    """Ready or not, without the days until it is: what lists that only ask whether can have for nothing."""
    target, within = kit.target_moisture_pct, kit.rules.ready_within_pct
    state = moisture_state(piece.moisture_now, piece.least_thickness_mm or USUAL_THICKNESS_MM, target)
    since = max((r.on for r in piece.moisture_now if r.on), default="")
    if marked_settled(piece):
        assert piece.settled is not None
        return Readiness("ready", state.worst_pct, target, since=piece.settled.on, by="your word")
    if state.worst_pct is None:
        return Readiness("unread", None, target)
    rows = sorted(piece.weighings, key=lambda w: w.on)
    if levelled_off(rows):
        now = moisture_from_mass(rows[-1].kg, _weighed_when_read(rows, since).kg, state.worst_pct)
        return Readiness("ready", round(now, 1), target, since=rows[-1].on, by="weighings")
    if abs(state.worst_pct - target) <= within:
        return Readiness("core unread" if state.core_unread else "ready", state.worst_pct, target, since=since, by="readings")
    return Readiness("waits", state.worst_pct, target, since=since)


def _weighed_when_read(rows: list[Weighing], read_on: str) -> Weighing:
    """The weighing nearest to the day of the moisture readings."""
    if not read_on:
        return rows[0]
    return min(rows, key=lambda w: abs((date.fromisoformat(w.on) - date.fromisoformat(read_on)).days))


def _by_forecast(piece: Piece, kit: ShopProfile, worst: float, target: float) -> Readiness:
    """When it is ready by the one forecast, at the pace of its weighings where there are three or more."""
    species = kit.library.find(piece.species)
    basis = basis_of(piece, species, kit)
    if basis is None:  # no thickness read: a usual one stands for it
        basis = basis_of(piece, species, kit, thickness_mm=USUAL_THICKNESS_MM)
    assert basis is not None
    if basis.weighed:
        found = forecast_of(piece, species, kit)
        days = found.days_until() if found is not None else None
    else:
        book = book_days([basis])[0]
        here = None if book is None else book / basis.pace
        days = None if here is None else (here / BAND, here, here * BAND)
    soonest, likely, latest = days or (LONGEST_DAYS,) * 3
    return Readiness("waits", worst, target, likely, soonest, latest, basis.started, "weighings" if basis.weighed else "forecast")


def prepare(pieces: Sequence[Piece], kit: ShopProfile) -> None:
    """Work out the forecasts of many pieces at once, so that asking for each of them costs nothing."""
    target, within = kit.target_moisture_pct, kit.rules.ready_within_pct
    wet = [
        p for p in in_turn(pieces) if any(abs(r.moisture_pct - target) > within for r in p.moisture_now) and not marked_settled(p)
    ]
    bases = [basis_of(p, kit.library.find(p.species), kit) for p in in_turn(wet)]
    book_days([b for b in bases if b is not None and not b.weighed])
