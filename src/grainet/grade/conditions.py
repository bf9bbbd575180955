"""What holds for a whole piece whatever the place: moisture, core, rings, slope, density, sweeps, size.

Each rule answers with a Reason and whether it bars the use ("wont") or only asks for something first ("if").
"""

from __future__ import annotations

from collections.abc import Iterator

from grainet.grade.verdict import Reason, Word
from grainet.kit.shop_kit import ShopKit
from grainet.kit.uses import UseRule
from grainet.wood import species as species_table
from grainet.wood.coating import consequences
from grainet.wood.density import density_at_12
from grainet.wood.moisture import moisture_state, settling_days
from grainet.wood.piece import Piece
from grainet.wood.rings import describe, least_angle
from grainet.wood.thickness import ThicknessField

Condition = tuple[Word, Reason]
THICK_ENOUGH_FOR_A_CORE_MM = 24.0
METER_RULE = "moisture against the shop's equilibrium"


def conditions(piece: Piece, rule: UseRule, kit: ShopKit) -> Iterator[Condition]:
    """All conditions that a piece does not simply meet, the barring ones first."""
    found = [
        *_moisture(piece, rule, kit),
        *_rings(piece, rule),
        *_slope(piece, rule),
        *_density(piece, rule),
        *_sweeps(piece),
        *_coating(piece),
        *_cup(piece, rule),
    ]
    yield from sorted(found, key=lambda c: c[0] != "wont")


def density_of(piece: Piece) -> float | None:
    """Density at 12 % in kg/m3 from mass, outline and mean thickness; None while something of it is unread."""
    if piece.mass_kg is None or not piece.outline or not piece.all_thicknesses_mm:
        return None
    volume_m3 = outline_area_mm2(piece) * _mean_thickness(piece) / 1e9
    void = sum(_polygon_area(d.polygon) * (d.depth_mm or 0.0) for d in piece.defects if d.family == "void") / 1e9
    measured = piece.mass_kg / max(volume_m3 - void, 1e-9)
    readings = [r.moisture_pct for r in piece.moisture]
    species = species_table.find(piece.species)
    if not readings:
        return measured
    return density_at_12(measured, sum(readings) / len(readings), species.shrink_volumetric_pct if species else None)


def outline_area_mm2(piece: Piece) -> float:
    return _polygon_area(piece.outline)


def _polygon_area(ring: tuple[tuple[float, float], ...]) -> float:
    return abs(sum(x0 * y1 - x1 * y0 for (x0, y0), (x1, y1) in zip(ring, (*ring[1:], ring[0])))) / 2


def _mean_thickness(piece: Piece) -> float:
    """Mean over the extents on a coarse lattice of the thickness field."""
    import numpy as np

    x0, y0, x1, y1 = piece.extents
    grid = np.meshgrid(np.linspace(x0, x1, 25), np.linspace(y0, y1, 7))
    return float(ThicknessField.of(piece).at(*grid).mean())


def _moisture(piece: Piece, rule: UseRule, kit: ShopKit) -> Iterator[Condition]:
    target = kit.target_moisture_pct
    thickness = piece.least_thickness_mm
    state = moisture_state(piece.moisture, thickness, target)
    if state.worst_pct is None:
        yield (
            "if",
            Reason(rule="moisture", wanted=f"{target:.1f} %", text="if its moisture is read", source=METER_RULE, remedy="mc 8.4"),
        )
        return
    limit = target + rule.moisture_over_pct
    worst = max(r.moisture_pct for r in piece.moisture)
    if worst > limit:
        species = species_table.find(piece.species)
        days = settling_days(thickness or 30.0, worst, target, species.basic_sg if species else 0.55, kit.temperature_c)
        text = f"if it dries first: {worst:.1f} %, wants {limit:.1f}"
        yield (
            "if",
            Reason(
                rule="moisture",
                found=worst,
                wanted=round(limit, 1),
                text=text,
                source=METER_RULE,
                remedy=f"about {days.soonest_days:.0f} to {days.latest_days:.0f} days on sticks",
            ),
        )
    if rule.core_matters and not state.core_read and (thickness or 0) >= THICK_ENOUGH_FOR_A_CORE_MM:
        text = f"if its core is read: the pins reach {state.deepest_mm:.0f} of {thickness:.0f}"
        yield (
            "if",
            Reason(
                rule="core",
                found=state.deepest_mm,
                wanted=thickness,
                text=text,
                source="a reading speaks only for its depth",
                remedy="long pins, or a cut sample",
            ),
        )


def _rings(piece: Piece, rule: UseRule) -> Iterator[Condition]:
    if rule.least_ring_deg is None:
        return
    angle = least_angle(piece.ring_angle_deg)
    strict: Word = "wont" if rule.ring_strictness == "must" else "if"
    if angle is None:
        yield (
            "if",
            Reason(rule="rings", wanted=rule.least_ring_deg, text="if its rings are read on both ends", source=rule.source),
        )
    elif angle < rule.least_ring_deg:
        ends = "/".join(f"{a:.0f}°" for a in piece.ring_angle_deg or () if a is not None) + f" {describe(piece.ring_angle_deg)}"
        text = f"if flatter rings suit you: {ends}, wants {rule.least_ring_deg:.0f}°"
        yield (
            strict,
            Reason(
                rule="rings",
                found=angle,
                wanted=rule.least_ring_deg,
                text=text,
                source="quarter preferred, flat allowed with a reason",
                remedy="or turn it on edge and laminate",
            ),
        )


def _slope(piece: Piece, rule: UseRule) -> Iterator[Condition]:
    slope = piece.grain_slope_deg
    if slope is not None and abs(slope) > rule.most_slope_deg:
        yield (
            "wont",
            Reason(
                rule="slope",
                found=slope,
                wanted=rule.most_slope_deg,
                text=f"grain runs off: {abs(slope):.1f}°, wants {rule.most_slope_deg:.0f}° or less",
                source=rule.source,
            ),
        )
    elif slope is None and rule.most_slope_deg <= 3:
        yield ("if", Reason(rule="slope", wanted=rule.most_slope_deg, text="if its slope of grain is read", source=rule.source))


def _density(piece: Piece, rule: UseRule) -> Iterator[Condition]:
    low, high = rule.density_kg_m3
    density = density_of(piece)
    species = species_table.find(piece.species)
    known = density if density is not None else species.density_12_kg_m3 if species else None
    if known is None:
        yield ("if", Reason(rule="density", wanted=low, text="if it is weighed: no weight, no species", source=rule.source))
    elif known < low:
        yield (
            "wont",
            Reason(
                rule="density",
                found=round(known),
                wanted=low,
                text=f"too soft: {known:.0f} kg/m³, wants {low:.0f}",
                source=rule.source,
            ),
        )
    elif known > high:
        yield (
            "wont",
            Reason(
                rule="density",
                found=round(known),
                wanted=high,
                text=f"too heavy: {known:.0f} kg/m³, wants {high:.0f} or less",
                source=rule.source,
            ),
        )


def _sweeps(piece: Piece) -> Iterator[Condition]:
    for face in piece.unswept_faces:
        yield (
            "if",
            Reason(
                rule="metal",
                wanted="a sweep",
                text=f"if face {face} is swept for metal",
                source="reclaimed wood",
                remedy="detectors miss small and deep metal; look as well",
            ),
        )


def _coating(piece: Piece) -> Iterator[Condition]:
    """Old finish and treatment: what bars the piece from use, and what must be tested or declared first."""
    for one in consequences(piece.coating, piece.reclaimed):
        if one.closes == "use":
            treated = piece.coating.barred
            text = (
                f"treated ({piece.coating.treatment.replace('_', ' ')}): not for an instrument unless known safe"
                if treated
                else "its old finish was tested and is not clean"
            )
            yield (
                "wont",
                Reason(
                    rule="coating", wanted=one.cleared_by, text=text, source="old finish and treatment", remedy=one.cleared_by
                ),
            )
        elif one.closes == "machining":
            what = "is tested" if piece.coating.finish else "is declared"
            text = f"if its old finish ({piece.coating.finish}) {what}" if piece.coating.finish else f"if its old finish {what}"
            yield (
                "if",
                Reason(
                    rule="coating", wanted=one.cleared_by, text=text, source="old finish and treatment", remedy=one.cleared_by
                ),
            )


def _cup(piece: Piece, rule: UseRule) -> Iterator[Condition]:
    cup = piece.flatness.cup_mm
    if rule.most_cup_mm is not None and cup > rule.most_cup_mm:
        yield (
            "wont",
            Reason(
                rule="cup",
                found=cup,
                wanted=rule.most_cup_mm,
                text=f"cup too deep: {cup:.1f}, a plate allows {rule.most_cup_mm:.1f}",
                source=rule.source,
            ),
        )
