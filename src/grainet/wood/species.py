"""The shipped species facts: a packaged table, read once, looked up by any of its names. Editing it is the kit's matter.

Source: ``data/species.csv``, recalled from standard wood-technology literature; confidence A to C stands in each row.
"""

from __future__ import annotations

import csv
import re
from dataclasses import dataclass
from functools import lru_cache
from importlib.resources import files

FLAGS = (
    "oily", "high_tannin", "bleeding_dust", "silica", "irritant_sensitizer_dust", "interlocked_tearout",
    "trade_regulated", "gum_pitch",
)  # fmt: skip
DENSITY_SPREAD = 0.10  # coefficient of variation within a species (Wood Handbook)


@dataclass(frozen=True)
class Species:
    """Facts of one species or trade group. Density kg/m3 at 12 %, shrinkage % green to oven-dry, stiffness GPa."""

    common: str
    scientific: str
    group: str
    basic_sg: float
    density_12_kg_m3: float
    shrink_radial_pct: float
    shrink_tangential_pct: float
    shrink_volumetric_pct: float | None
    janka_n: float | None
    moe_gpa: float | None
    porosity: str
    flags: frozenset[str]
    trade_note: str
    roles: tuple[str, ...]
    confidence: str
    note: str

    @property
    def density_band_kg_m3(self) -> tuple[float, float]:
        """Two standard deviations either way of the mean at 12 %."""
        return self.density_12_kg_m3 * (1 - 2 * DENSITY_SPREAD), self.density_12_kg_m3 * (1 + 2 * DENSITY_SPREAD)


def _number(text: str) -> float | None:
    return float(text) if text.strip() else None


def _from_row(row: dict[str, str]) -> Species:
    basic = float(row["basic_sg"])
    radial, tangential = float(row["shrink_radial_pct"]), float(row["shrink_tangential_pct"])
    return Species(
        common=row["common"], scientific=row["scientific"], group=row["group"], basic_sg=basic,
        density_12_kg_m3=float(row["density_12_kg_m3"]), shrink_radial_pct=radial, shrink_tangential_pct=tangential,
        shrink_volumetric_pct=_number(row["shrink_volumetric_pct"]), janka_n=_number(row["janka_N"]),
        moe_gpa=_number(row["moe_12_GPa"]), porosity=row["porosity"],
        flags=frozenset(flag for flag in FLAGS if row[flag] == "1"), trade_note=row["trade_note"],
        roles=tuple(r.strip() for r in row["roles"].split(";") if r.strip()), confidence=row["confidence"], note=row["note"],
    )  # fmt: skip


@lru_cache(maxsize=1)
def library() -> tuple[Species, ...]:
    """All shipped species in the table's order."""
    with (files("grainet.data") / "species.csv").open("r", encoding="utf-8") as table:
        return tuple(_from_row(row) for row in csv.DictReader(table))


def _plain(name: str) -> str:
    return re.sub(r"[^a-z0-9]+", " ", name.lower()).strip()


@lru_cache(maxsize=1)
def _index() -> dict[str, Species]:
    names: dict[str, Species] = {}
    for species in library():
        bare, _, inner = species.common.partition("(")
        for name in (species.scientific, species.common, bare, inner.rstrip(") "), *re.split(r"[/,]", bare)):
            if _plain(name):
                names.setdefault(_plain(name), species)
    return names


def find(name: str) -> Species | None:
    """The species of that common, trade or scientific name, or None ("unknown" and unlisted names)."""
    plain = _plain(name)
    if not plain or plain == "unknown":
        return None
    return _index().get(plain)


def suggest(text: str, most: int = 8) -> list[Species]:
    """Species whose names hold every typed word, those that begin with the text first."""
    words = _plain(text).split()
    hits = [s for s in library() if all(w in _plain(f"{s.common} {s.scientific}") for w in words)]
    return sorted(hits, key=lambda s: (not _plain(s.common).startswith(_plain(text)), s.common))[:most]


def short_name(name: str) -> str:
    """The name for a small label: the common name without its bracket."""
    species = find(name)
    return (species.common.partition("(")[0].strip() if species else name) or "unknown"
