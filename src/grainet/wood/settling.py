"""The settling forecast: how moisture moves out of (or into) a board's thickness, day by day.

One-dimensional diffusion with surface emission, finite volumes, Crank-Nicolson with implicit first steps. Source: the notes'
coefficients (fit to the literature, Wood Handbook); real wood varies by a factor of two, so a forecast is shown as a band.
Diffusion out of the ends is left out: short pieces settle sooner than this says.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from grainet.turns import in_turn
from grainet.wood.moisture import FIBRE_SATURATION_PCT, SECONDS_PER_DAY, diffusion_m2_s, settling_days

Array = NDArray[np.float64]
Stacking = Literal["", "sticks", "still", "bench", "sealed"]
EMISSION_M_S: dict[str, tuple[float, float]] = {  # of face 1 and face 2
    "": (2e-7, 2e-7), "sticks": (2e-7, 2e-7), "still": (5e-8, 5e-8), "bench": (2e-7, 0.0), "sealed": (3e-9, 3e-9),
}  # fmt: skip
STACKING_WORDS = {
    "": "on sticks",
    "sticks": "on sticks",
    "still": "in a still stack",
    "bench": "flat on a bench",
    "sealed": "under a film of finish",
}
CELLS, STEPS = 32, 160
DATE_CELLS, DATE_STEPS = 24, 64  # enough for a date: 0.05 % off a run ten times as fine on the mean, 0.8 % at most
BAND = 2.0  # half to double
LONGEST_DAYS = 1500.0


@dataclass(frozen=True)
class Settling:
    """Moisture in % against days, arrays of shape (n,): at the core, at the two faces, and the mean; and the last
    profile with the depths of its cells below face 1, both (cells,)."""

    days: Array
    core: Array
    face1: Array
    face2: Array
    mean: Array
    profile: Array
    depth_mm: Array

    def day_when(self, target_pct: float, within_pct: float, slower: float = 1.0) -> float | None:
        """The first day from which the wettest and driest place stay within ``within_pct`` of a target; None if not in this run."""
        off = np.max([abs(line - target_pct) for line in (self.core, self.face1, self.face2, self.mean)], axis=0)
        day = _day_within(self.days, off, within_pct)
        return None if day is None else day * slower


def _day_within(days: Array, off: Array, within: float) -> float | None:
    """From which day on a distance stays within a limit: ``days`` and ``off`` of shape (n,)."""
    outside = np.flatnonzero(off > within)
    if not len(outside):
        return 0.0
    k = int(outside[-1])
    if k + 1 >= len(days):
        return None
    a, b = off[k], off[k + 1]
    share = (a - within) / (a - b) if a > b else 1.0
    return float(days[k] + share * (days[k + 1] - days[k]))


@dataclass(frozen=True)
class Board:
    """What one settling run rests on: thickness mm, moisture at the start and of the air in %, basic specific gravity, C, stacking."""

    thickness_mm: float
    start_pct: float
    air_pct: float
    basic_sg: float
    temperature_c: float
    stacking: Stacking = ""


def horizon_days(board: Board, within_pct: float) -> float:
    """How long a run has to be so that the board is ready within it, by the quick form; the run decides when it is."""
    s1, s2 = EMISSION_M_S[board.stacking]
    thick = board.thickness_mm * (2 if min(s1, s2) == 0 else 1)
    quick = settling_days(
        thick, board.start_pct, board.air_pct, board.basic_sg, board.temperature_c, within_pct, max(s1, s2)
    ).days
    return float(min(LONGEST_DAYS, max(10.0, 1.6 * quick)))


def days_to_settle(boards: Sequence[Board], within_pct: float) -> list[float | None]:
    """From which day on each board is within a tolerance of the air; None where that is beyond ``LONGEST_DAYS``.

    Many boards are run at once, at little more than the price of one.
    """
    found: list[float | None] = [None] * len(boards)
    days = {k: horizon_days(board, within_pct) for k, board in enumerate(boards)}
    while days:
        order = list(days)
        lines = _run([boards[k] for k in order], np.array([days[k] for k in order]), cells=DATE_CELLS, steps=DATE_STEPS)
        off = np.max([abs(line - np.array([boards[k].air_pct for k in order])) for line in lines[1:5]], axis=0)
        for n, k in enumerate(order):
            found[k] = _day_within(lines[0][:, n], off[:, n], within_pct)
            if found[k] is not None or days[k] >= LONGEST_DAYS:
                del days[k]
            else:
                days[k] = min(LONGEST_DAYS, 2.5 * days[k])
    return found


def settle(
    thickness_mm: float, start_pct: float | Array, air_pct: float | Callable[[float], float], days: float, basic_sg: float = 0.55,
    temperature_c: float = 20.0, stacking: Stacking = "sticks", pace: float = 1.0, emission_m_s: tuple[float, float] | None = None,
    cells: int = CELLS, steps: int = STEPS, constant_d: float | None = None,
) -> Settling:  # fmt: skip
    """Moisture through a thickness over some days.

    ``start_pct`` is one figure, or a profile of any number of values evenly spaced from face 1 to face 2; ``air_pct`` the equilibrium, or a function
    of the day. ``pace`` makes the wood quicker (2) or slower (0.5) than the book's. ``constant_d`` (m2/s) replaces the book's
    coefficient. Steps grow with time, for the first hours change most. Raises ValueError on sizes that are no board.
    """
    if not 0.2 <= thickness_mm <= 1000 or days <= 0 or pace <= 0:
        raise ValueError(f"{thickness_mm:g} thick for {days:g} days: needs 0.2 to 1000 mm and more than 0 days")
    air = air_pct if callable(air_pct) else None
    level = 0.0 if callable(air_pct) else float(air_pct)
    board = Board(thickness_mm, float(np.mean(start_pct)), level, basic_sg, temperature_c, stacking)
    start = None if np.ndim(start_pct) == 0 else np.asarray(start_pct, float)
    found = _run([board], np.array([days]), start, air, pace, emission_m_s, cells, steps, constant_d)
    depth = (_edges(cells)[1:] + _edges(cells)[:-1]) / 2 * thickness_mm
    when, core, face1, face2, mean = (line[:, 0] for line in found[:5])
    return Settling(when, core, face1, face2, mean, found[5][0], depth)


def _run(
    boards: Sequence[Board], days: Array, start: Array | None = None, air: Callable[[float], float] | None = None, pace: float = 1.0,
    emission_m_s: tuple[float, float] | None = None, cells: int = CELLS, steps: int = STEPS, constant_d: float | None = None,
) -> tuple[Array, Array, Array, Array, Array, Array]:  # fmt: skip
    """Runs of some boards at once: days, core, face 1, face 2 and mean, each (steps + 1, boards), and the last profiles (boards, cells).

    ``days`` (boards,) says how long each run is; ``start`` a profile and ``air`` a function of the day serve a single board.
    """
    thick = np.array([b.thickness_mm for b in boards])[:, None]
    edges = _edges(cells) * thick / 1000
    dx = np.diff(edges, axis=1)
    depth = (edges[:, 1:] + edges[:, :-1]) / 2 * 1000
    m = np.repeat(np.array([b.start_pct for b in boards])[:, None], cells, axis=1)
    if start is not None:
        m = _on_cells(start, depth[0], boards[0].thickness_mm)[None, :]
    emission = np.array([emission_m_s or EMISSION_M_S[b.stacking] for b in boards], float) * pace
    grid = _Cells.of(dx, emission)
    times = days[None, :] * np.linspace(0, 1, steps + 1)[:, None] ** 2
    still = np.array([b.air_pct for b in boards])
    # D(M) = D(0) exp(0.0894 M), level above fibre saturation
    book = np.array([diffusion_m2_s(b.basic_sg, 0.0, b.temperature_c) for b in boards])[:, None] * pace

    def coefficient(profile: Array) -> Array:
        if constant_d is not None:
            return np.full(profile.shape, constant_d * pace)
        return np.asarray(book * np.exp(0.0894 * np.minimum(profile, FIBRE_SATURATION_PCT)))

    def row(profile: Array, level: Array) -> tuple[Array, Array, Array, Array]:
        d = coefficient(profile)
        faces = [
            (emission[:, k] * level + (inner := 2 * d[:, cell] / dx[:, cell]) * profile[:, cell]) / (emission[:, k] + inner)
            for k, cell in ((0, 0), (1, -1))
        ]
        middle = (profile[:, (cells - 1) // 2] + profile[:, cells // 2]) / 2
        return middle, faces[0], faces[1], (profile * dx).sum(axis=1) / dx.sum(axis=1)

    def air_at(day: Array) -> Array:
        return still if air is None else np.array([air(float(day[0]))])

    rows = [row(m, air_at(times[0]))]
    for k in in_turn(range(steps)):
        dt = (times[k + 1] - times[k]) * SECONDS_PER_DAY
        level = air_at((times[k] + times[k + 1]) / 2)
        guess = m
        for _ in range(2):  # the coefficient hangs on the moisture that is being found
            d = coefficient((m + guess) / 2)
            guess = _kept_in(m, d, grid, dt, level, 1.0 if k < 4 else 0.5)
        m = guess
        rows.append(row(m, air_at(times[k + 1])))
    core, face1, face2, mean = (np.array([r[j] for r in rows]) for j in range(4))
    return times, core, face1, face2, mean, m


def _edges(cells: int) -> Array:
    """Cell edges from 0 to 1, closer toward both faces, where moisture changes first."""
    even = np.linspace(0, 1, cells + 1)
    return np.asarray(0.25 * even + 0.75 * 0.5 * (1 - np.cos(np.pi * even)))


def _on_cells(profile: Array, depth_mm: Array, thickness_mm: float) -> Array:
    return np.interp(depth_mm, (np.arange(len(profile)) + 0.5) * thickness_mm / len(profile), profile)


@dataclass(frozen=True)
class _Cells:
    """What does not change from step to step: cell sizes and half of them in m (boards, cells), the resistance of both faces' skins in s/m
    (boards, 2)."""

    dx: Array
    half: Array
    skin: Array

    @classmethod
    def of(cls, dx: Array, emission: Array) -> _Cells:
        with np.errstate(divide="ignore"):  # a sealed face lets nothing through
            return cls(dx, dx / 2, 1 / emission)

    def only(self, rows: Array) -> _Cells:
        return _Cells(self.dx[rows], self.half[rows], self.skin[rows])


def _kept_in(m: Array, d: Array, cells: _Cells, dt: Array, level: Array, theta: float) -> Array:
    """One step, taken again fully implicit for boards that it drove beyond the wood and the air that they began with."""
    new = _step(m, d, cells, dt, level, theta)
    if theta == 1.0:
        return new
    low, high = np.minimum(m.min(axis=1), level), np.maximum(m.max(axis=1), level)
    beyond = (new.min(axis=1) < low - 1e-12) | (new.max(axis=1) > high + 1e-12)
    if beyond.any():
        new[beyond] = _step(m[beyond], d[beyond], cells.only(beyond), dt[beyond], level[beyond], 1.0)
    return new


def _step(m: Array, d: Array, cells: _Cells, dt: Array, level: Array, theta: float) -> Array:
    """One step of the tridiagonal systems; conductances per area in m/s between cells, and through each face to the air.

    ``m`` and ``d`` are (boards, cells), ``dt`` and ``level`` (boards,).
    """
    half = cells.half / d
    between = 1 / (half[:, :-1] + half[:, 1:])
    near, far = 1 / (cells.skin[:, 0] + half[:, 0]), 1 / (cells.skin[:, 1] + half[:, -1])
    r = dt[:, None] / cells.dx
    conducts = np.empty_like(m)
    conducts[:, 1:-1] = between[:, :-1] + between[:, 1:]
    conducts[:, 0], conducts[:, -1] = between[:, 0] + near, between[:, -1] + far
    if theta == 1.0:
        rhs = m.copy()
    else:
        inward, flux = between * (m[:, 1:] - m[:, :-1]), np.empty_like(m)
        flux[:, 1:-1] = inward[:, 1:] - inward[:, :-1]
        flux[:, 0] = inward[:, 0] + near * (level - m[:, 0])
        flux[:, -1] = far * (level - m[:, -1]) - inward[:, -1]
        rhs = m + (1 - theta) * r * flux
    r *= theta
    rhs[:, 0] += r[:, 0] * near * level
    rhs[:, -1] += r[:, -1] * far * level
    return _solved(-r[:, 1:] * between, 1 + r * conducts, -r[:, :-1] * between, rhs)


def _solved(below: Array, middle: Array, above: Array, rhs: Array) -> Array:
    """Tridiagonal systems, one a row: one after the other for a few, one sweep over all boards at once for many."""
    boards, cells = middle.shape
    if boards <= 60:
        from scipy.linalg.lapack import dgtsv

        return np.array([dgtsv(*row)[3] for row in zip(below, middle, above, rhs)])
    b, c, x = below.T.copy(), above.T.copy(), rhs.T.copy()
    pivot = middle.T.copy()
    for k in range(1, cells):
        w = b[k - 1] / pivot[k - 1]
        pivot[k] -= w * c[k - 1]
        x[k] -= w * x[k - 1]
    x[-1] /= pivot[-1]
    for k in range(cells - 2, -1, -1):
        x[k] = (x[k] - c[k] * x[k + 1]) / pivot[k]
    return x.T


@dataclass(frozen=True)
class PaceFit:
    """How much quicker (over 1) or slower than the book a board dries by its weighings, and the band that they allow."""

    pace: float
    slowest: float
    quickest: float
    rms_pct: float


def fitted_pace(forecast: Settling, days: Array, moisture_pct: Array) -> PaceFit | None:
    """The pace that makes a forecast's mean agree with moistures from weighings at days since the start; None with fewer than three.

    A quicker board runs the same curve in less time, so one run serves: mean(pace x day) is compared. The band is where the
    squared misses stay within four times the noise of the least.
    """
    if len(days) < 3 or float(np.max(days)) <= 0:
        return None
    paces = np.geomspace(0.2, 5.0, 161)
    misses = np.array([((np.interp(days * p, forecast.days, forecast.mean) - moisture_pct) ** 2).sum() for p in paces])
    best = int(np.argmin(misses))
    noise = max(misses[best] / max(1, len(days) - 1), 0.05**2)
    good = paces[misses <= misses[best] + 4 * noise]
    return PaceFit(float(paces[best]), float(good.min()), float(good.max()), float(np.sqrt(misses[best] / len(days))))
