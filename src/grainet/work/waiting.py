"""What has to wait and until when: settling of pieces and of what was sawn, as a range of days with the next thing to do."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date, timedelta

from grainet.grade.forecast import forecast_of
from grainet.grade.ready import Readiness, readiness
from grainet.kit.shop_profile import ShopProfile
from grainet.wood.piece import Piece
from grainet.wood.settling import STACKING_WORDS


@dataclass(frozen=True)
class Wait:
    """A settling wait: from a day, at a moisture, to a likely day with the soonest and latest it could be."""

    name: str
    detail: str
    from_pct: float
    target_pct: float
    within_pct: float
    start: date
    ready: date
    soonest: date
    latest: date

    @property
    def wanted_pct(self) -> float:
        """The moisture from which it counts as ready, by the house's own figure: from above or from below."""
        return self.target_pct + (self.within_pct if self.from_pct > self.target_pct else -self.within_pct)

    def share_left(self, day: date) -> float:
        """How much of the gap is left on a day by the quick forecast, 1 at the start."""
        whole = max(1, (self.ready - self.start).days)
        return float(max(0.0, min(1.0, 1 - (day - self.start).days / whole)))


def settling_wait(
    piece: Piece, kit: ShopProfile, today: date, name: str = "", thickness_mm: float | None = None, known: Readiness | None = None
) -> Wait | None:
    """The wait of a piece (or of a blank of another thickness from it), or None when it is settled or not read.

    ``known`` is its readiness where that was worked out already.
    """
    if not piece.moisture_now:
        return None
    worst = max((r.moisture_pct for r in piece.moisture_now), key=lambda pct: abs(pct - kit.target_moisture_pct))
    target = kit.target_moisture_pct
    ready = known or readiness(piece, kit)
    if thickness_mm is None and ready.word != "waits":
        return None
    thick = thickness_mm or piece.least_thickness_mm or 30.0
    days, soonest, latest, since = ready.days, ready.soonest, ready.latest, ready.since
    if thickness_mm is not None:
        found = forecast_of(piece, kit.library.find(piece.species), kit, thickness_mm=thickness_mm)
        until = found.days_until() if found is not None else None
        soonest, days, latest = until or (0.0, 0.0, 0.0)
    if days < 0.5:
        return None
    start = date.fromisoformat(since) if since else today
    by = "by its weighings" if ready.by == "weighings" and thickness_mm is None else STACKING_WORDS[piece.stacking]
    return Wait(
        name=name or f"No. {piece.id}", detail=f"{thick:.0f} thick, {by}", from_pct=worst, target_pct=target, within_pct=kit.rules.ready_within_pct, start=start,
        ready=start + timedelta(days=round(days)), soonest=start + timedelta(days=round(soonest)), latest=start + timedelta(days=round(latest)),
    )  # fmt: skip
