"""Arithmetic of necks, heads, boards and bodies: closed forms in mm and degrees, each usable alone.

Source of all of it: SCIENCE.md, "Neck and blank arithmetic", and the worked examples of CAPABILITIES.md, which the tests repeat.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

WOOD_UNDER_ROD_MM = 3.0  # least wood left under a rod's slot
SLOT_RESERVE_MM = 1.0  # wood under a fret slot at the board's edge
FLOOR_UNDER_CAVITY_MM = 5.0  # shipped judgement


# frets ------------------------------------------------------------------------------------------------------------------
def fret_mm(scale_mm: float, fret: float) -> float:
    """Fret ``fret`` from the nut: S(1 - 2^(-n/12)), always from the nut and never rounded on the way."""
    return float(scale_mm * (1 - 2 ** (-fret / 12)))


def fret_table(scales_mm: tuple[float, ...], frets: int, perpendicular: float = 0.0) -> list[tuple[float, ...]]:
    """Place of the nut (0) and each fret along each string's own length, measured from the perpendicular fret; negative toward the head."""
    return [tuple(fret_mm(s, n) - fret_mm(s, perpendicular) for s in scales_mm) for n in range(frets + 1)]


def board_length_mm(scales_mm: tuple[float, ...], frets: int, overhang_mm: float, perpendicular: float = 0.0) -> float:
    """Nut to the end of the board along the centre line; with two scales from the furthest nut to the furthest last fret."""
    ends, nuts = ([fret_mm(s, n) - fret_mm(s, perpendicular) for s in scales_mm] for n in (frets, 0))
    return max(ends) - min(nuts) + overhang_mm


def board_width_mm(nut_mm: float, spread_mm: float, string_to_edge_mm: float, scale_mm: float, at_mm: float) -> float:
    """Width of the board ``at_mm`` from the nut, binding and all: nut + (spread + 2 edge - nut) x / S."""
    return nut_mm + (spread_mm + 2 * string_to_edge_mm - nut_mm) * at_mm / scale_mm


def crown_drop_mm(radius_mm: float, width_mm: float) -> float:
    """How far a board's edge lies under its middle: R - sqrt(R^2 - (w/2)^2). Raises ValueError for a board wider than the circle."""
    if width_mm > 2 * radius_mm:
        raise ValueError(f"{width_mm:g} wide on a radius of {radius_mm:g}; a board is at most twice its radius wide")
    return radius_mm - math.sqrt(radius_mm**2 - (width_mm / 2) ** 2)


def board_edge_mm(thickness_mm: float, radius_mm: float, width_mm: float) -> float:
    """Thickness at a board's edge: T - (R - sqrt(R^2 - (w/2)^2))."""
    return thickness_mm - crown_drop_mm(radius_mm, width_mm)


# heads and necks ----------------------------------------------------------------------------------------------------------
def solid_head_mm(length_mm: float, thickness_mm: float, angle_deg: float) -> float:
    """Depth of stock that a pitched head out of the solid takes: l sin a + t cos a."""
    a = math.radians(angle_deg)
    return length_mm * math.sin(a) + thickness_mm * math.cos(a)


def scarf_face_mm(stock_mm: float, angle_deg: float) -> float:
    """Length of a scarf's face: t / sin a. Raises ValueError for an angle that makes none."""
    return stock_mm / math.sin(_pitch(angle_deg))


def scarf_run_mm(stock_mm: float, angle_deg: float) -> float:
    """How far a scarf runs along the stock: t / tan a. Raises ValueError for an angle that makes none."""
    return stock_mm / math.tan(_pitch(angle_deg))


def _pitch(angle_deg: float) -> float:
    if not 0 < angle_deg < 90:
        raise ValueError(f"{angle_deg:g} degrees; a scarf needs an angle between 0 and 90")
    return math.radians(angle_deg)


def through_depth_mm(thickness_mm: float, run_mm: float, angle_deg: float) -> float:
    """Depth of a through-neck: T / cos a + L sin a, T the body's thickness, L its run in the body."""
    a = math.radians(angle_deg)
    return thickness_mm / math.cos(a) + run_mm * math.sin(a)


def layers_wanted(depth_mm: float, layer_mm: float) -> int:
    """How many layers of planed stock reach a depth."""
    return max(1, math.ceil(depth_mm / layer_mm - 1e-9))


def ear_mm(head_mm: float, blank_mm: float, trim_mm: float) -> float:
    """Width of one ear that a narrow blank's head needs: (head - blank)/2 + trim."""
    return max(0.0, (head_mm - blank_mm) / 2 + trim_mm)


def wood_under_rod_mm(depth_mm: float, rod_mm: float, curve_mm: float = 0.0, back_curve_mm: float = 0.0) -> float:
    """Wood left under a rod: depth there - rod - its curve - the back's own curve."""
    return depth_mm - rod_mm - curve_mm - back_curve_mm


def largest_scale_mm(piece_mm: float, head_mm: float, tail_mm: float, trims_mm: float) -> float:
    """The largest scale that a clear length gives a through-neck: what head, tail and trims leave."""
    return piece_mm - head_mm - tail_mm - trims_mm


# strips, stacks, pieces ---------------------------------------------------------------------------------------------------
def strips_from(billet_mm: float, strip_mm: float, kerf_mm: float, clean_up_mm: float = 0.0) -> int:
    """Strips from a billet: floor((T + kerf) / (strip + clean-up + kerf))."""
    return max(0, math.floor((billet_mm + kerf_mm) / (strip_mm + clean_up_mm + kerf_mm) + 1e-9))


def taper_half_angle_deg(wide_mm: float, narrow_mm: float, length_mm: float) -> float:
    """Half angle of a strip that tapers evenly to both sides."""
    return math.degrees(math.atan2((wide_mm - narrow_mm) / 2, length_mm))


def wedge_mm(wide_mm: float, narrow_mm: float, length_mm: float, at_mm: float) -> float:
    """Width of a tapered strip at a place from its wide end."""
    return wide_mm + (narrow_mm - wide_mm) * at_mm / length_mm


def pieces_along(length_mm: float, piece_mm: float, kerf_mm: float, trims_mm: float = 0.0) -> int:
    """How many lengths a board gives one behind another: n lengths, n - 1 kerfs, both trims."""
    return max(0, math.floor((length_mm - trims_mm + kerf_mm) / (piece_mm + kerf_mm) + 1e-9))


def pieces_across(wanted_mm: float, usable_mm: float) -> int:
    """How many boards side by side make a width."""
    return max(1, math.ceil(wanted_mm / usable_mm - 1e-9))


@dataclass(frozen=True)
class Stack:
    """A stack of layers: how thick it ends, and how much it misses of a wanted range (negative: too thick)."""

    thickness_mm: float
    short_mm: float
    short_of_least_mm: float


def stack_of(layers_mm: tuple[float, ...], skims_mm: tuple[float, ...], wanted_mm: float, within_mm: float = 0.0) -> Stack:
    """Layers less what is planed off after each glue-up, against a wanted thickness and how far it may be off."""
    made = math.fsum(layers_mm) - math.fsum(skims_mm)
    return Stack(made, wanted_mm - made, max(0.0, wanted_mm - within_mm - made))


# templates and let-in parts -----------------------------------------------------------------------------------------------
def template_offset_mm(bearing_mm: float, cutter_mm: float) -> float:
    """How far a template stands off the line that is cut: (bearing - cutter) / 2; below 0 the cutter is the wider one."""
    return (bearing_mm - cutter_mm) / 2


def pocket_mm(heel_mm: float, clearance_mm: float) -> float:
    """A pocket's width for a heel, a clearance on both sides."""
    return heel_mm + 2 * clearance_mm


def proud_mm(thickness_mm: float, recess_mm: float) -> float:
    """How far a let-in part stands proud of its recess; below 0 it lies under the surface."""
    return thickness_mm - recess_mm


def wall_between_mm(axes_mm: float, first_mm: float, second_mm: float) -> float:
    """The wall between two channels side by side: what their axes lie apart less half of each."""
    return axes_mm - (first_mm + second_mm) / 2


def strips_need_mm(count: int, strip_mm: float, kerf_mm: float) -> float:
    """The width that so many strips need: n strips and n - 1 kerfs."""
    return count * strip_mm + max(0, count - 1) * kerf_mm


# bodies -------------------------------------------------------------------------------------------------------------------
def body_kg(area_mm2: float, thickness_mm: float, density_kg_m3: float, hollow_cm3: float = 0.0, rounded: float = 0.03) -> float:
    """Mass of a body: (area x thickness x what rounding over leaves - hollows) x density."""
    volume_m3 = area_mm2 * thickness_mm * (1 - rounded) * 1e-9 - hollow_cm3 * 1e-6
    return max(0.0, volume_m3) * density_kg_m3


def bow_after_shortening_mm(bow_mm: float, over_mm: float, part_mm: float) -> float:
    """What is left of a bow in a shorter part: b (l/L)^2."""
    return bow_mm * (part_mm / over_mm) ** 2


def carve_left_mm(cap_mm: float, carve_mm: float) -> float:
    """What a carve leaves of a cap; below 0 it breaks through into the core by that much."""
    return cap_mm - carve_mm


def tears(fibre_deg: float, feed_deg: float) -> bool:
    """Whether a cutter that travels along ``feed_deg`` lifts fibres that lie along ``fibre_deg`` (both from x, show side): where the
    fibre, followed forwards, leads into the part, which lies to the left of the feed."""
    turn = math.radians(fibre_deg - feed_deg)
    forwards = math.copysign(1.0, math.cos(turn)) if abs(math.cos(turn)) > 1e-12 else 1.0
    return forwards * math.sin(turn) > 1e-9
