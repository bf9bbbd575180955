"""The wood that the stand-ins measure: made up from the piece's number and what is known of it, the same every time."""

from __future__ import annotations

import math
import zlib
from dataclasses import dataclass

from grainet.wood import species as species_table
from grainet.wood.density import density_kg_m3
from grainet.wood.piece import Piece


@dataclass(frozen=True)
class Specimen:
    """A hidden truth about a piece: lengths in mm, mass in kg, moisture in %, tone in Hz."""

    length_mm: float
    width_mm: float
    thickness_mm: float
    moisture_pct: float
    density_kg_m3: float
    seed: int

    def thickness_at(self, x_mm: float, y_mm: float) -> float:
        """A gentle taper and waviness about the nominal thickness."""
        u, v = x_mm / max(1.0, self.length_mm), y_mm / max(1.0, self.width_mm)
        wave = math.sin(6.3 * u + self.seed % 7) + 0.5 * math.cos(11 * u + 4 * v)
        return self.thickness_mm * (1 - 0.012 * u) + 0.18 * wave

    def moisture_at(self, x_mm: float, depth_mm: float) -> float:
        """Wetter within, and toward the far end."""
        return self.moisture_pct + 0.9 * min(1.0, depth_mm / (self.thickness_mm / 2)) + 0.5 * x_mm / max(1.0, self.length_mm)

    @property
    def mass_kg(self) -> float:
        """What it weighs, kg."""
        return self.length_mm * self.width_mm * self.thickness_mm / 1e9 * self.density_kg_m3

    @property
    def tone_hz(self) -> float:
        """The lowest free bending tone of a plain bar: E = 0.9464 rho f^2 L^4 / h^2 turned round, E from the density."""
        stiffness_pa = 16.5e6 * self.density_kg_m3
        return math.sqrt(
            stiffness_pa * (self.thickness_mm / 1000) ** 2 / (0.9464 * self.density_kg_m3 * (self.length_mm / 1000) ** 4)
        )


def specimen_of(piece: Piece) -> Specimen:
    """The made-up truth behind a piece: what was read of it holds, the rest follows from its number and species."""
    seed = zlib.crc32(piece.id.encode())
    x0, y0, x1, y1 = piece.extents
    species = species_table.find(piece.species)
    moisture = 7.8 + seed % 23 / 10
    density = density_kg_m3(species.basic_sg if species else 0.55, moisture, species.shrink_volumetric_pct if species else None)
    readings = piece.all_thicknesses_mm
    layers = sum(layer.thickness_mm for layer in piece.layers)
    thick = (
        sum(readings) / len(readings) if readings else (piece.nominal_thickness_mm or 0) * 0.9 or layers or 25.0 + seed % 270 / 10
    )
    return Specimen(
        piece.length_mm or (x1 - x0) or 900.0 + seed % 900,
        (y1 - y0) or 90.0 + seed % 130,
        thick,
        moisture,
        density * (0.95 + seed % 11 / 100),
        seed,
    )
