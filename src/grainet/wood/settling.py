"""The settling forecast: how moisture moves out of (or into) a board's thickness, day by day.

One-dimensional diffusion with surface emission, finite volumes, Crank-Nicolson with implicit first steps. Source: the notes'
coefficients (fit to the literature, Wood Handbook); real wood varies by a factor of two, so a forecast is shown as a band.
Diffusion out of the ends is left out: short pieces settle sooner than this says.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from grainet.wood.moisture import FIBRE_SATURATION_PCT, SECONDS_PER_DAY, diffusion_m2_s

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
BAND = 2.0  # half to double


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
        outside = np.flatnonzero(off > within_pct)
        if not len(outside):
            return 0.0
        k = int(outside[-1])
        if k + 1 >= len(self.days):
            return None
        a, b = off[k], off[k + 1]
        share = (a - within_pct) / (a - b) if a > b else 1.0
        return float((self.days[k] + share * (self.days[k + 1] - self.days[k])) * slower)


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
        raise ValueError(f"{thickness_mm:g} thick for {days:g} days: wants 0.2 to 1000 mm and more than 0 days")
    edges = _edges(cells) * thickness_mm / 1000
    dx, depth = np.diff(edges), (edges[1:] + edges[:-1]) / 2000 * 1e6
    m = (
        np.full(cells, float(start_pct))
        if np.ndim(start_pct) == 0
        else _on_cells(np.asarray(start_pct, float), depth, thickness_mm)
    )
    s1, s2 = (s * pace for s in (emission_m_s or EMISSION_M_S[stacking]))
    times = days * np.linspace(0, 1, steps + 1) ** 2
    air = air_pct if callable(air_pct) else (lambda _day, level=float(air_pct): level)

    book = diffusion_m2_s(basic_sg, 0.0, temperature_c)  # D(M) = D(0) exp(0.0894 M), level above fibre saturation

    def coefficient(profile: Array) -> Array:
        if constant_d is not None:
            return np.full(cells, constant_d * pace)
        return pace * book * np.exp(0.0894 * np.minimum(profile, FIBRE_SATURATION_PCT))

    def surfaces(profile: Array, d: Array, level: float) -> tuple[float, float]:
        found = []
        for s, cell in ((s1, 0), (s2, -1)):
            inner = 2 * d[cell] / dx[cell]
            found.append(float((s * level + inner * profile[cell]) / (s + inner)))
        return found[0], found[1]

    rows = [(0.0, m, *surfaces(m, coefficient(m), air(0.0)))]
    for k in range(steps):
        dt = (times[k + 1] - times[k]) * SECONDS_PER_DAY
        level = air((times[k] + times[k + 1]) / 2)
        theta = 1.0 if k < 4 else 0.5
        guess = m
        for _ in range(2):  # the coefficient hangs on the moisture that is being found
            d = coefficient((m + guess) / 2)
            guess = _step(m, d, dx, dt, level, (s1, s2), theta)
        m = guess
        rows.append((times[k + 1], m, *surfaces(m, coefficient(m), air(times[k + 1]))))
    profiles = np.array([r[1] for r in rows])
    middle = (profiles[:, (cells - 1) // 2] + profiles[:, cells // 2]) / 2
    return Settling(
        np.array([r[0] for r in rows]),
        middle,
        np.array([r[2] for r in rows]),
        np.array([r[3] for r in rows]),
        profiles @ dx / dx.sum(),
        m,
        depth,
    )


def _edges(cells: int) -> Array:
    """Cell edges from 0 to 1, closer toward both faces, where moisture changes first."""
    even = np.linspace(0, 1, cells + 1)
    return np.asarray(0.25 * even + 0.75 * 0.5 * (1 - np.cos(np.pi * even)))


def _on_cells(profile: Array, depth_mm: Array, thickness_mm: float) -> Array:
    return np.interp(depth_mm, (np.arange(len(profile)) + 0.5) * thickness_mm / len(profile), profile)


def _step(m: Array, d: Array, dx: Array, dt: float, level: float, emission: tuple[float, float], theta: float) -> Array:
    """One step of the tridiagonal system; conductances per area in m/s between cells, and through each face to the air."""
    half = dx / (2 * d)
    between = 1 / (half[:-1] + half[1:])
    out = [0.0 if s == 0 else 1 / (1 / s + inner) for s, inner in zip(emission, (half[0], half[-1]))]
    left, right = np.concatenate([[out[0]], between]), np.concatenate([between, [out[1]]])
    r = dt / dx
    padded = np.concatenate([[level], m, [level]])
    flux = left * (padded[:-2] - m) + right * (padded[2:] - m)
    rhs = m + (1 - theta) * r * flux
    rhs[0] += theta * r[0] * out[0] * level
    rhs[-1] += theta * r[-1] * out[1] * level
    matrix = np.diag(
        1 + theta * r * (left + right)
    )  # some thirty cells: a dense solve costs less than bringing in another library
    inner = np.arange(len(m) - 1)
    matrix[inner + 1, inner], matrix[inner, inner + 1] = -theta * r[1:] * between, -theta * r[:-1] * between
    return np.asarray(np.linalg.solve(matrix, rhs))


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
