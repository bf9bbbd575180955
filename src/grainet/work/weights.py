"""What the parts of a plan will weigh when they are finished, each with its spread, and what they weigh together."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import shapely

from grainet.design.brief import Hardware
from grainet.design.role import FACTS, role_of
from grainet.design.shape import as_array
from grainet.fit.orientation import zone_patches
from grainet.grade.facts import density_of
from grainet.job.answer import Plan
from grainet.job.job import Job
from grainet.kit.shop_profile import ShopProfile
from grainet.wood.climate import YearAir
from grainet.wood.movement import YearMovement, over_a_year
from grainet.wood.piece import Piece
from grainet.wood.rings import least_angle
from grainet.wood.weight import MEASURED_SPREAD, ROUNDING, Weight, part_weight

USUAL_CAVITY_MM = 20.0


@dataclass(frozen=True)
class PartWeight:
    """One part of a plan: its name, the pieces that it comes from, and its weight; ``guessed`` where no piece was weighed."""

    name: str
    role: str
    pieces: tuple[str, ...]
    weight: Weight
    guessed: bool


def weights_of(job: Job, plan: Plan, kit: ShopProfile, brief: Sequence[Hardware] = ()) -> list[PartWeight]:
    """Each part of each build of a plan; a density that was not measured is the species' own, within its spread."""
    cavity = next((h.mm for h in brief if h.kind == "pickup_depth"), USUAL_CAVITY_MM)
    rows: dict[tuple[str, str], PartWeight] = {}
    for one in plan.placements:
        part, piece = job.part(one.part), job.piece(one.piece)
        density, spread, guessed = _density(piece, kit)
        if density is None:
            continue
        area = float(shapely.Polygon(part.outline).area)
        gone = sum(z.shape.area for z in zone_patches(part, lambda ring: as_array(ring)) if z.kind == "removed")
        role = role_of(part.role)
        rounding = FACTS[role].shaped if role is not None else ROUNDING
        weight = part_weight(area, part.thickness_mm, density, gone * min(cavity, part.thickness_mm), spread, rounding)
        key = (one.build or "", one.part)
        old = rows.get(key)
        if old is None:
            rows[key] = PartWeight(part.shown_name, part.role, (piece.id,), weight, guessed)
        else:
            # copies from one board share its error, copies from several do not
            both = (
                Weight(old.weight.kg + weight.kg, old.weight.spread_kg + weight.spread_kg)
                if piece.id in old.pieces
                else old.weight + weight
            )
            rows[key] = PartWeight(
                old.name, old.role, tuple(dict.fromkeys((*old.pieces, piece.id))), both, old.guessed or guessed
            )
    return list(rows.values())


def _density(piece: Piece, kit: ShopProfile) -> tuple[float | None, float, bool]:
    species = kit.library.find(piece.species)
    measured = density_of(piece, species)
    if measured is not None:
        return measured, MEASURED_SPREAD, False
    return (species.density_12_kg_m3, species.density_spread, True) if species else (None, 0.0, True)


def together(rows: Sequence[PartWeight]) -> Weight:
    """All parts at once."""
    total = Weight(0.0, 0.0)
    for row in rows:
        total = total + row.weight
    return total


@dataclass(frozen=True)
class PartMovement:
    """What one part does over a year of the shop's air: its name, piece, width in mm, and the movement; ``over`` the house's limit."""

    name: str
    piece: str
    width_mm: float
    year: YearMovement
    over: bool
    rings_read: bool


def movements_of(job: Job, plan: Plan, kit: ShopProfile, air: YearAir) -> list[PartMovement]:
    """Every part of a plan on its own board, from the driest to the dampest month; flat-sawn where the rings are not read."""
    rows: dict[tuple[str, str], PartMovement] = {}
    for one in plan.placements:
        part, piece = job.part(one.part), job.piece(one.piece)
        species = kit.library.find(piece.species)
        if species is None or (one.part, one.piece) in rows:
            continue
        ys = [y for _, y in part.outline]
        width, angle = max(ys) - min(ys), least_angle(piece.ring_angle_deg)
        year = over_a_year(
            width,
            part.thickness_mm,
            species.shrink_tangential_pct,
            species.shrink_radial_pct,
            angle or 0.0,
            air.driest_pct,
            air.dampest_pct,
            piece.heart_mm,
        )
        rows[one.part, one.piece] = PartMovement(
            part.shown_name, piece.id, width, year, year.width_mm > 2 * kit.rules.most_movement_mm, angle is not None
        )
    return list(rows.values())
