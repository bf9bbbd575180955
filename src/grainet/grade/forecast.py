"""One piece's settling forecast: the diffusion run from its first readings, and the pace that its weighings give it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date
from functools import lru_cache
from threading import Lock

import numpy as np
from numpy.typing import NDArray

from grainet.kept import Kept
from grainet.kit.shop_profile import ShopProfile
from grainet.wood.piece import MoistureReading, Piece
from grainet.wood.record import Weighing
from grainet.wood.settling import BAND, Board, PaceFit, Settling, Stacking, days_to_settle, fitted_pace, horizon_days, settle
from grainet.wood.species import Species
from grainet.wood.weighing import moisture_from_mass

LEAST_WEIGHINGS, UNKNOWN_SG = 3, 0.55
LEAST_BAND = 1.25  # however well the weighings fit: the rest of the way need not go as the first part did
MOST_KEPT, AT_ONCE = 40_000, 256  # days of so many different boards are kept, and worked out in one go


@dataclass(frozen=True)
class Basis:
    """What a forecast rests on: the board as one run takes it, the day it starts (ISO or empty), its weighings, and the tolerance."""

    board: Board
    started: str
    weighed: tuple[tuple[float, float], ...]  # days since the start, moisture in %
    within_pct: float
    pace: float = 1.0  # how quickly this shop's wood of the species settles against the book


@dataclass(frozen=True)
class Forecast:
    """The run at the book's pace, the day it starts (None: undated), the air's equilibrium in %, the pace and its band, and the
    day from which it is ready at the book's pace (None: beyond the run)."""

    run: Settling
    started: date | None
    air_pct: float
    pace: float
    slowest: float
    quickest: float
    fit: PaceFit | None
    book_days: float | None
    board: Board

    def run_to(self, days: float) -> Settling:
        """The run, carried on where it is shorter than so many days at the book's pace."""
        if days <= float(self.run.days[-1]):
            return self.run
        b = self.board
        return settle(b.thickness_mm, b.start_pct, b.air_pct, days, b.basic_sg, b.temperature_c, b.stacking)

    def days_until(self) -> tuple[float, float, float] | None:
        """Days from the start until all of it is within the tolerance of the air: soonest, likely, latest; None beyond the run."""
        day = self.book_days
        return None if day is None else (day / self.quickest, day / self.pace, day / self.slowest)


def basis_of(
    piece: Piece, species: Species | None, kit: ShopProfile, thickness_mm: float | None = None, stacking: Stacking | None = None,
    air_pct: float | None = None,
) -> Basis | None:  # fmt: skip
    """What the forecast of a piece rests on, or of a blank of another thickness, stacking or air; None while something is unread.

    With three weighings or more it starts from the oldest readings, and they correct its pace; else from the worst of the
    readings that speak for today, which is what the piece is judged by.
    """
    thick = thickness_mm or piece.least_thickness_mm
    if not piece.moisture_now or thick is None:
        return None
    air = kit.target_moisture_pct if air_pct is None else air_pct
    what_if = thickness_mm is not None or stacking is not None or air_pct is not None
    days, moistures = weighed_moistures(piece.moisture, () if what_if else piece.weighings)
    if len(days) >= LEAST_WEIGHINGS:
        start, day = first_moisture(piece.moisture)
        started, weighed = day.isoformat() if day else "", tuple(zip(days.tolist(), moistures.tolist()))
    else:
        start = max((r.moisture_pct for r in piece.moisture_now), key=lambda pct: abs(pct - kit.target_moisture_pct))
        started, weighed = max((r.on for r in piece.moisture_now if r.on), default=""), ()
    how: Stacking = piece.stacking if stacking is None else stacking
    board = Board(max(0.2, thick), start, air, species.basic_sg if species else UNKNOWN_SG, kit.temperature_c, how)
    pace = dict(kit.settles).get(piece.species, 1.0)
    return Basis(board, started, weighed, kit.rules.ready_within_pct, pace)


def forecast_of(
    piece: Piece, species: Species | None, kit: ShopProfile, thickness_mm: float | None = None, stacking: Stacking | None = None,
    air_pct: float | None = None,
) -> Forecast | None:  # fmt: skip
    """The forecast of a piece, or of a blank of another thickness, stacking or air; None while moisture or thickness is unread."""
    basis = basis_of(piece, species, kit, thickness_mm, stacking, air_pct)
    return None if basis is None else _forecast(basis)


@lru_cache(maxsize=256)
def _forecast(basis: Basis) -> Forecast:
    """The run for what a forecast rests on, kept: a window asks for it again with every change of anything."""
    book = book_days([basis])[0]
    fit = _fit(basis)
    pace, slow, quick = (fit.pace, fit.slowest, fit.quickest) if fit else (basis.pace, basis.pace / BAND, basis.pace * BAND)
    if fit is not None:
        slow, quick = min(slow, pace / LEAST_BAND), max(quick, pace * LEAST_BAND)
    board = basis.board
    shown = 2.2 * book if book else horizon_days(board, basis.within_pct)
    late = max((day for day, _ in basis.weighed), default=0.0) * pace
    run = settle(
        board.thickness_mm,
        board.start_pct,
        board.air_pct,
        max(10.0, shown, late),
        board.basic_sg,
        board.temperature_c,
        board.stacking,
    )
    started = date.fromisoformat(basis.started) if basis.started else None
    return Forecast(run, started, board.air_pct, pace, slow, quick, fit, book, board)


def _fit(basis: Basis) -> PaceFit | None:
    """The pace that the weighings give; None with fewer than three."""
    if len(basis.weighed) < LEAST_WEIGHINGS:
        return None
    days, moistures = np.array(basis.weighed).T
    board = basis.board
    run = settle(
        board.thickness_mm,
        board.start_pct,
        board.air_pct,
        max(10.0, 3 * float(days.max())),
        board.basic_sg,
        board.temperature_c,
        board.stacking,
    )
    return fitted_pace(run, days, moistures)


_known: Kept[tuple[Board, float], float] = Kept(MOST_KEPT)
_knowing = Lock()  # who finds it taken would otherwise work out the very same boards once more
BEYOND = float("inf")  # kept for a board that gets there in no time that counts


def book_days(bases: Sequence[Basis]) -> list[float | None]:
    """From which day on each board is ready at the book's pace; worked out for all unknown ones at once, and kept."""
    keys = [(b.board, b.within_pct) for b in bases]
    found = {key: days for key in dict.fromkeys(keys) if (days := _known.get(key)) is not None}
    if len(found) < len(set(keys)):
        with _knowing:
            _work_out([key for key in dict.fromkeys(keys) if key not in found], found)
    return [None if found[key] == BEYOND else found[key] for key in keys]


def _work_out(keys: list[tuple[Board, float]], found: dict[tuple[Board, float], float]) -> None:
    """Add what is not known yet, some hundred boards in one go; another thread may have come first."""
    found.update((key, days) for key in keys if (days := _known.get(key)) is not None)
    for within in {w for _, w in keys}:
        mine = [k for k in keys if k[1] == within and k not in found]
        for at in range(0, len(mine), AT_ONCE):
            part = mine[at : at + AT_ONCE]
            for key, days in zip(part, days_to_settle([board for board, _ in part], within)):
                found[key] = _known.put(key, BEYOND if days is None else days)


def first_moisture(readings: tuple[MoistureReading, ...]) -> tuple[float, date | None]:
    """The mean of the first day's readings, and that day."""
    days = sorted({r.on for r in readings if r.on})
    first = [r.moisture_pct for r in readings if not days or r.on == days[0]]
    return sum(first) / len(first), date.fromisoformat(days[0]) if days else None


def weighed_moistures(
    readings: tuple[MoistureReading, ...], weighings: tuple[Weighing, ...]
) -> tuple[NDArray[np.float64], NDArray[np.float64]]:
    """Days since the first reading and moistures in %, from the weighings through the oven-dry mass; each of shape (n,)."""
    rows = sorted(weighings, key=lambda w: w.on)
    start_pct, started = first_moisture(readings) if readings else (0.0, None)
    if not rows or started is None:
        return np.zeros(0), np.zeros(0)
    base = min(rows, key=lambda w: abs((date.fromisoformat(w.on) - started).days))
    days = np.array([(date.fromisoformat(w.on) - started).days for w in rows], float)
    return days, np.array([moisture_from_mass(w.kg, base.kg, start_pct) for w in rows])
