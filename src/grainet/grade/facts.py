"""What is known of one piece, worked out once and used by every rule: species, density, moisture, readiness, rest, movement."""

from __future__ import annotations

from functools import cached_property
from typing import Any

from grainet.grade.ready import Readiness, readiness, standing
from grainet.kit.shop_profile import ShopProfile
from grainet.wood.candidates import contradiction, possible_flags
from grainet.wood.climate import YearAir, year_of
from grainet.wood.density import DensityStanding, density_at_12, density_standing
from grainet.wood.moisture import MoistureState, moisture_state
from grainet.wood.piece import Piece
from grainet.wood.rest import RestState, rest_of
from grainet.wood.species import Species
from grainet.wood.thickness import ThicknessField


class Facts:
    """Figures of one piece under one kit; each is worked out when first asked for."""

    def __init__(self, piece: Piece, kit: ShopProfile, year: YearAir | None = None) -> None:
        self.piece, self.kit = piece, kit
        self._year = year
        self.last_results: tuple[object, list[Any]] | None = (
            None  # the last rule's lines: judging, ranking and showing ask for them in turn
        )

    @cached_property
    def species(self) -> Species | None:
        """The species as the shop knows it; None where it is unknown."""
        return self.kit.library.find(self.piece.species)

    @cached_property
    def flags(self) -> frozenset[str]:
        """Every flag that any of its candidates carries."""
        return possible_flags(self.piece, self.kit.library)

    @cached_property
    def density(self) -> float | None:
        """Measured density at 12 % in kg/m3, or None."""
        return density_of(self.piece, self.species)

    @cached_property
    def standing(self) -> DensityStanding | None:
        """The measured density against its species; None while either is unknown."""
        if self.density is None or self.species is None:
            return None
        return density_standing(
            self.density,
            self.species.density_12_kg_m3,
            self.species.density_spread,
            self.species.common.partition("(")[0].strip(),
        )

    @cached_property
    def question(self) -> str:
        """What the measurements make one ask: wrong species, or wet? Empty where all agrees."""
        return contradiction(self.piece, self.kit.library, self.density) or (self.standing.question if self.standing else "")

    @cached_property
    def moisture(self) -> MoistureState:
        """The readings that speak for today, summed up against the shop's air, %."""
        return moisture_state(self.piece.moisture_now, self.piece.least_thickness_mm, self.kit.target_moisture_pct)

    @cached_property
    def ready_or_not(self) -> Readiness:
        """Ready or not, without the days."""
        return standing(self.piece, self.kit)

    @cached_property
    def ready(self) -> Readiness:
        """Whether it is ready, with the days until it is."""
        return readiness(self.piece, self.kit)

    @cached_property
    def rest(self) -> RestState:
        """What its rest log says: still, moving, or not read."""
        return rest_of(self.piece, self.kit.rules.rest_within_mm, self.kit.rules.rest_days)

    @cached_property
    def year(self) -> YearAir:
        """The driest and dampest air of the year: the log where it was passed in, else the kit's guess."""
        return self._year or year_of((), self.kit.year)


def own_density_of(piece: Piece) -> float | None:
    """Density as it lies, at its own moisture, in kg/m3 from mass, outline and mean thickness; None while something is unread."""
    if piece.mass_kg is None or not piece.outline or not piece.all_thicknesses_mm:
        return None
    volume_m3 = outline_area_mm2(piece) * mean_thickness_mm(piece) / 1e9
    void = sum(_polygon_area(d.polygon) * (d.depth_mm or 0.0) for d in piece.defects if d.family == "void") / 1e9
    return piece.mass_kg / max(volume_m3 - void, 1e-9)


def density_of(piece: Piece, species: Species | None = None) -> float | None:
    """Density at 12 % in kg/m3; as it lies where its moisture is not read; None while weight or size is unread."""
    measured = own_density_of(piece)
    readings = [r.moisture_pct for r in piece.moisture_now]
    if measured is None or not readings:
        return measured
    return density_at_12(measured, sum(readings) / len(readings), species.shrink_volumetric_pct if species else None)


def outline_area_mm2(piece: Piece) -> float:
    """Area of a piece's outline, mm2; 0 where it has none."""
    return _polygon_area(piece.outline)


def _polygon_area(ring: tuple[tuple[float, float], ...]) -> float:
    return abs(sum(x0 * y1 - x1 * y0 for (x0, y0), (x1, y1) in zip(ring, (*ring[1:], ring[0])))) / 2


def mean_thickness_mm(piece: Piece) -> float:
    """Mean over the extents on a coarse lattice of the thickness field."""
    import numpy as np

    field = ThicknessField.of(piece)
    if field.constant:
        return field.least
    x0, y0, x1, y1 = piece.extents
    grid = np.meshgrid(np.linspace(x0, x1, 25), np.linspace(y0, y1, 7))
    return float(field.at(*grid).mean())
