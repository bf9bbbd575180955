"""How wide wood grows and shrinks with moisture. Source: Wood Handbook's dimensional-change relation."""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Any

from grainet.wood.moisture import FIBRE_SATURATION_PCT

UNKNOWN_PITH_MM = 100.0  # a usual distance for sawn boards, where nobody read it


def shrinkage_across_face(tangential_pct: float, radial_pct: float, ring_angle_deg: float) -> float:
    """Shrinkage in % across a face whose rings stand at an angle: St cos^2 a + Sr sin^2 a."""
    a = math.radians(ring_angle_deg)
    return tangential_pct * math.cos(a) ** 2 + radial_pct * math.sin(a) ** 2


def width_change_mm(width_mm: float, from_pct: float, to_pct: float, shrinkage_pct: float) -> float:
    """Change of width in mm (negative: narrower) from one moisture to another; ``width_mm`` is at the first."""
    m1, m2 = min(from_pct, FIBRE_SATURATION_PCT), min(to_pct, FIBRE_SATURATION_PCT)
    return width_mm * (m2 - m1) / (3000 / shrinkage_pct - 30 + m1)


def thickness_shrinkage(tangential_pct: float, radial_pct: float, ring_angle_deg: float) -> float:
    """Shrinkage in % through the thickness, square to the face: St sin^2 a + Sr cos^2 a."""
    return shrinkage_across_face(radial_pct, tangential_pct, ring_angle_deg)


def diamond_deg(tangential_pct: float, radial_pct: float, ring_angle_deg: float, from_pct: float, to_pct: float) -> float:
    """How far a square section goes out of square, in degrees: the shear part of the strain, greatest at 45 degrees."""
    a = math.radians(ring_angle_deg)
    strain = (_strain(tangential_pct, from_pct, to_pct) - _strain(radial_pct, from_pct, to_pct)) * math.sin(a) * math.cos(a)
    return math.degrees(2 * abs(strain))


def _strain(shrinkage_pct: float, from_pct: float, to_pct: float) -> float:
    """Relative change of length from one moisture to another (negative: shorter)."""
    return width_change_mm(1.0, from_pct, to_pct, shrinkage_pct)


def free_cup_mm(
    width_mm: float, tangential_pct: float, radial_pct: float, from_pct: float, to_pct: float, pith_mm: float, ring_angle_deg: float = 0.0,
) -> float:  # fmt: skip
    """Depth of the hollow in mm that a free board takes on across its face, at most; positive: hollow on the bark face.

    A board that is not free, or thick, stays flatter.
    """
    import numpy as np

    u, v = _mapped_face(width_mm, tangential_pct, radial_pct, from_pct, to_pct, pith_mm, ring_angle_deg)
    chord = np.array([u[-1] - u[0], v[-1] - v[0]])
    off = ((u - u[0]) * chord[1] - (v - v[0]) * chord[0]) / np.hypot(*chord)
    return float(off[np.argmax(np.abs(off))])


def face_change_mm(
    width_mm: float, tangential_pct: float, radial_pct: float, from_pct: float, to_pct: float, ring_angle_deg: float, pith_mm: float | None = None,
) -> float:  # fmt: skip
    """Change of a face's width in mm: by the rings' angle alone, or where the pith is known along the curve of the rings.

    Near the pith a flat-sawn face is flat-sawn in its middle only; its rims lie nearer to quarter and move less.
    """
    if pith_mm is None:
        return width_change_mm(width_mm, from_pct, to_pct, shrinkage_across_face(tangential_pct, radial_pct, ring_angle_deg))
    import numpy as np

    u, v = _mapped_face(width_mm, tangential_pct, radial_pct, from_pct, to_pct, pith_mm, ring_angle_deg)
    return float(np.hypot(u[-1] - u[0], v[-1] - v[0])) - width_mm


def _mapped_face(width_mm: float, tangential_pct: float, radial_pct: float, from_pct: float, to_pct: float, pith_mm: float, ring_angle_deg: float) -> Any:  # fmt: skip
    """Where the points of a face lie after it moved, u along and v across it (41,), with the pith in the origin.

    Every point moves as r -> r(1 - er), phi -> phi (1 - et)/(1 - er) about a pith ``pith_mm`` from the middle of the face (notes);
    ``ring_angle_deg`` 0 has the pith square below the face, 90 in the face's own line, where nothing cups.
    """
    import numpy as np

    er, et = -_strain(radial_pct, from_pct, to_pct), -_strain(tangential_pct, from_pct, to_pct)
    a = math.radians(ring_angle_deg)
    half = width_mm / 2
    # no nearer than just beyond the board's own edge, or the pith would lie within it
    far = max(pith_mm, half * math.sin(a) * 1.05 + 1e-6)
    px, py = far * math.sin(a), -far * math.cos(a)
    x = np.linspace(-half, half, 41)
    r, phi = np.hypot(x - px, -py), np.arctan2(x - px, -py)
    stretch = (1 - et) / (1 - er)
    middle = math.atan2(-px, -py)
    new = middle + (phi - middle) * stretch
    return r * (1 - er) * np.sin(new), r * (1 - er) * np.cos(new)


@dataclass(frozen=True)
class YearMovement:
    """What a blank does between the driest and the dampest month: width and thickness change in mm, cup in mm, its section's
    departure from square in degrees, and the moistures that it was worked out for."""

    width_mm: float
    thickness_mm: float
    cup_mm: float
    out_of_square_deg: float
    driest_pct: float
    dampest_pct: float


def over_a_year(
    width_mm: float, thickness_mm: float, tangential_pct: float, radial_pct: float, ring_angle_deg: float, driest_pct: float,
    dampest_pct: float, pith_mm: float | None = None,
) -> YearMovement:  # fmt: skip
    """The movement of a blank that follows the shop's air from the driest month to the dampest (dimensions at the driest).

    ``pith_mm`` None: not read; a usual one stands for it where the cup is asked for, and the width goes by the angle alone.
    """
    through = thickness_shrinkage(tangential_pct, radial_pct, ring_angle_deg)
    return YearMovement(
        face_change_mm(width_mm, tangential_pct, radial_pct, driest_pct, dampest_pct, ring_angle_deg, pith_mm),
        width_change_mm(thickness_mm, driest_pct, dampest_pct, through),
        abs(
            free_cup_mm(width_mm, tangential_pct, radial_pct, driest_pct, dampest_pct, pith_mm or UNKNOWN_PITH_MM, ring_angle_deg)
        ),
        diamond_deg(tangential_pct, radial_pct, ring_angle_deg, driest_pct, dampest_pct),
        driest_pct,
        dampest_pct,
    )


def across_glue_line_mm(
    width_mm: float, first: tuple[float, float, float], second: tuple[float, float, float], from_pct: float, to_pct: float
) -> float:
    """How much more one member of a glue line moves than the other over ``width_mm`` of it, in mm.

    ``first`` and ``second`` are (tangential %, radial %, ring angle); both go from one moisture to the other.
    """
    changes = [width_change_mm(width_mm, from_pct, to_pct, shrinkage_across_face(*member)) for member in (first, second)]
    return abs(changes[0] - changes[1])
