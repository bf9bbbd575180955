"""Stiffness from a knock: a free-free bar on two supports at 0.224 of its length. Recorded, and weightless unless a shop says so.

Sources: Euler-Bernoulli bar, E = 0.9464 rho f^2 L^4 / h^2 with the Timoshenko factor F at every length, c = 0.9728 f L^2 / h sqrt F,
Q = pi f tau (notes). It cannot foretell a finished instrument's tone.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from grainet.wood.record import Tap

SUPPORTS_AT = 0.224
LIKE_WITHIN = 0.05  # sizes further apart than this share are not compared
TRUST_WITHIN = 0.25  # of the tone that the species would give


def stiffness_gpa(density_kg_m3: float, hz: float, length_mm: float, thickness_mm: float) -> float:
    """Young's modulus along the grain in GPa from the first bending tone of a free-free bar of its own density."""
    length, h = length_mm / 1000, thickness_mm / 1000
    e = 0.9464 * density_kg_m3 * hz**2 * length**4 / h**2
    return e * timoshenko_factor(length_mm, thickness_mm) / 1e9


def timoshenko_factor(length_mm: float, thickness_mm: float, stiff_over_shear: float = 14.0) -> float:
    """What shear and rotary inertia make of the simple formula, at every length: 1.053 at L/h 20, 1.017 at 35.

    First mode of Goens' solution, E/G about 14 along the grain, shear coefficient 5/6.
    """
    ratio = (thickness_mm / length_mm) ** 2
    return 1 + ratio / 12 * (49.48 + 12.30 * stiff_over_shear / (5 / 6))


def expected_hz(moe_gpa: float, density_kg_m3: float, length_mm: float, thickness_mm: float) -> float:
    """The first tone that a bar of a stiffness would have; the inverse of ``stiffness_gpa``."""
    length, h = length_mm / 1000, thickness_mm / 1000
    return math.sqrt(moe_gpa * 1e9 * h**2 / (0.9464 * density_kg_m3 * length**4) / timoshenko_factor(length_mm, thickness_mm))


def speed_m_s(hz: float, length_mm: float, thickness_mm: float) -> float:
    """Speed of sound along the grain in m/s: 0.9728 f L^2 / h, by the root of the same factor as the stiffness."""
    return 0.9728 * hz * (length_mm / 1000) ** 2 / (thickness_mm / 1000) * math.sqrt(timoshenko_factor(length_mm, thickness_mm))


def quality(hz: float, decay_s: float) -> float:
    """Q = pi f tau, tau the time to 1/e."""
    return math.pi * hz * decay_s


def decay_from_t60(t60_s: float) -> float:
    """The time to 1/e from the time in which a tone falls by 60 dB; Q is 0.4548 f t60 then."""
    return t60_s / math.log(1000)


def radiation_ratio(speed_m_s: float, density_kg_m3: float) -> float:
    """How much sound a plate of it gives off for its weight: speed over density, in m4/(kg s)."""
    return speed_m_s / density_kg_m3


@dataclass(frozen=True)
class TapFacts:
    """What a knock says: stiffness GPa and radiation ratio m4/(kg s) (None without a density), speed m/s, Q (None without a decay)."""

    stiffness_gpa: float | None
    speed_m_s: float
    quality: float | None
    radiation: float | None = None


def facts_of(tap: Tap) -> TapFacts:
    """What a knock says: speed in m/s, stiffness in GPa, Q, radiation ratio."""
    stiff = stiffness_gpa(tap.density_kg_m3, tap.hz, tap.length_mm, tap.thickness_mm) if tap.density_kg_m3 else None
    speed = speed_m_s(tap.hz, tap.length_mm, tap.thickness_mm)
    return TapFacts(
        stiff,
        speed,
        quality(tap.hz, tap.decay_s) if tap.decay_s else None,
        radiation_ratio(speed, tap.density_kg_m3) if tap.density_kg_m3 else None,
    )


def unlike(a: Tap, b: Tap) -> str:
    """Why two knocks may not be compared fairly: a sentence, or empty where their sizes are alike."""
    apart = [
        f"{name} {x:g} and {y:g}"
        for name, x, y in (
            ("length", a.length_mm, b.length_mm),
            ("width", a.width_mm, b.width_mm),
            ("thickness", a.thickness_mm, b.thickness_mm),
        )
        if abs(x - y) > LIKE_WITHIN * max(x, y)
    ]
    return f"Not a fair comparison: {', '.join(apart)}." if apart else ""
