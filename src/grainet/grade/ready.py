"""Whether a piece is ready for the shop's air, and if not, in how many days: as a range, never as one date.

The quick forecast by readings; weighings beat it, for they correct its pace, and a levelled-off series beats everything but an unread core.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta
from typing import Literal

from grainet.grade.forecast import forecast_of
from grainet.kit.shop_kit import ShopKit
from grainet.wood.moisture import moisture_state, settling_days
from grainet.wood.piece import Piece
from grainet.wood.settling import EMISSION_M_S
from grainet.wood.weighing import levelled_off, moisture_from_mass

THICK_ENOUGH_FOR_A_CORE_MM = 24.0
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

    def said(self, today: date) -> str:
        """In words with its dates."""
        if self.word == "ready":
            return f"ready: {self.worst_pct:.1f} %, air {self.target_pct:.1f}" + (
                f" ({self.by})" if self.by == "weighings" else ""
            )
        if self.word == "unread":
            return "moisture not read"
        if self.word == "core unread":
            return f"skin {self.worst_pct:.1f} %, core not read"
        soonest, _likely, latest = self.dates(today)
        return f"{self.worst_pct:.1f} % to {self.target_pct:.1f}: {day_words(soonest)} to {day_words(latest)} ({self.by})"


def day_words(day: date) -> str:
    return f"{day.day} {day:%b} {day.year}"


def readiness(piece: Piece, kit: ShopKit) -> Readiness:
    """The state of one piece against the shop's equilibrium and its own tolerance."""
    target, within = kit.target_moisture_pct, kit.rules.ready_within_pct
    state = moisture_state(piece.moisture_now, piece.least_thickness_mm, target)
    thick = piece.least_thickness_mm or 30.0
    if state.worst_pct is None:
        return Readiness("unread", None, target)
    since = max((r.on for r in piece.moisture_now if r.on), default="")
    by_weight = _by_weighings(piece, kit, state.worst_pct, since)
    if by_weight is not None:
        return by_weight
    if abs(state.worst_pct - target) <= within:
        unread_core = not state.core_read and thick >= THICK_ENOUGH_FOR_A_CORE_MM
        return Readiness("core unread" if unread_core else "ready", state.worst_pct, target, since=since, by="readings")
    species = kit.library.find(piece.species)
    s1, s2 = EMISSION_M_S[piece.stacking]
    one_sided = min(s1, s2) == 0
    forecast = settling_days(
        thick * (2 if one_sided else 1), state.worst_pct, target, species.basic_sg if species else 0.55, kit.temperature_c, within,
        max(s1, s2),
    )  # fmt: skip
    return Readiness(
        "waits", state.worst_pct, target, forecast.days, forecast.soonest_days, forecast.latest_days, since, "forecast"
    )


def _by_weighings(piece: Piece, kit: ShopKit, worst: float, read_on: str) -> Readiness | None:
    """What the weighing series says: levelled off is settled wherever it stands; three or more correct the forecast's pace."""
    rows = sorted(piece.weighings, key=lambda w: w.on)
    target = kit.target_moisture_pct
    if levelled_off(rows):
        known = (
            min(rows, key=lambda w: abs((date.fromisoformat(w.on) - date.fromisoformat(read_on)).days)) if read_on else rows[0]
        )
        now = moisture_from_mass(rows[-1].kg, known.kg, worst)
        return Readiness("ready", round(now, 1), target, since=rows[-1].on, by="weighings")
    if len(rows) < 3:
        return None
    forecast = forecast_of(piece, kit.library.find(piece.species), kit)
    if forecast is None or forecast.fit is None or forecast.started is None:
        return None
    days = forecast.days_until(kit.rules.ready_within_pct)
    if days is None or abs(worst - target) <= kit.rules.ready_within_pct:
        return None
    return Readiness("waits", worst, target, days[1], days[0], days[2], forecast.started.isoformat(), "weighings")
