"""Which species an unsure piece may be: what density, pores and colour leave standing, and what contradicts a name.

The strictest hazard of all that are still possible counts. Nothing here names a species for certain: it narrows, and asks.
"""

from __future__ import annotations

from dataclasses import dataclass

from grainet.wood.piece import Piece
from grainet.wood.species import COLOURS, POROSITIES, Species, SpeciesLibrary

WIDEST_SD = 3.0  # a measured density further off than this rules a species out


@dataclass(frozen=True)
class Candidate:
    """One possible species, whether it still stands, and the sentence why not."""

    species: Species
    stands: bool
    why_not: str = ""
    off_sd: float | None = None  # how many standard deviations its mean lies from the measured density


def named_candidates(piece: Piece, library: SpeciesLibrary) -> list[Species]:
    """The species that a piece may be by its own record: its name, and the others that were thought of."""
    found = [library.find(name) for name in (piece.species, *piece.candidates)]
    return list(dict.fromkeys(s for s in found if s is not None))


def weighed_up(
    candidates: list[Species], density_12_kg_m3: float | None, look: tuple[str, ...] = ()
) -> list[Candidate]:  # fmt: skip
    """Each candidate against a density at 12 % (None: not measured) and words of its look (pores, colours), likeliest first."""
    rows = [_weigh(species, density_12_kg_m3, look) for species in candidates]
    return sorted(rows, key=lambda c: (not c.stands, abs(c.off_sd) if c.off_sd is not None else 9.0, c.species.common))


def _weigh(species: Species, density: float | None, look: tuple[str, ...]) -> Candidate:
    off = None
    if density is not None:
        off = (density - species.density_12_kg_m3) / (species.density_12_kg_m3 * species.density_spread)
        if abs(off) > WIDEST_SD:
            word = "heavier" if off > 0 else "lighter"
            return Candidate(
                species,
                stands=False,
                why_not=f"{density:.0f} kg/m³ is far {word} than its {species.density_12_kg_m3:.0f}",
                off_sd=off,
            )
    pores = {w for w in look if w in POROSITIES}
    if pores and species.porosity and species.porosity not in pores:
        return Candidate(
            species,
            stands=False,
            why_not=f"its pores are {_pores(species.porosity)}, {_pores(next(iter(pores)))} was seen",
            off_sd=off,
        )
    colours = {w for w in look if w in COLOURS}
    if colours and species.colours and not colours & set(species.colours):
        return Candidate(
            species,
            stands=False,
            why_not=f"it is {' to '.join(species.colours)}, {' and '.join(sorted(colours))} was seen",
            off_sd=off,
        )
    return Candidate(species, stands=True, off_sd=off)


def _pores(word: str) -> str:
    return {"ring": "in rings", "semi": "half in rings", "diffuse": "evenly spread", "none": "none, a softwood"}[word]


def standing(piece: Piece, library: SpeciesLibrary, density_12_kg_m3: float | None) -> list[Candidate]:
    """The piece's candidates weighed up; a piece without a name or candidates is weighed against the whole library."""
    named = named_candidates(piece, library)
    return weighed_up(named or list(library.all), density_12_kg_m3, piece.look)


def possible_flags(piece: Piece, library: SpeciesLibrary) -> frozenset[str]:
    """Every flag that any named candidate carries: the strictest hazard counts, whatever the measurements suggest.

    A piece whose species nobody can name is treated as dusty and irritant; what else it is stays unknown.
    """
    named = named_candidates(piece, library)
    if not named:
        return frozenset({"irritant_sensitizer_dust"})
    return frozenset().union(*(s.flags for s in named))


def contradiction(piece: Piece, library: SpeciesLibrary, density_12_kg_m3: float | None) -> str:
    """The question to ask where measurements contradict the name; empty where they agree or nothing is named."""
    named = named_candidates(piece, library)
    if not named:
        return ""
    rows = weighed_up(named, density_12_kg_m3, piece.look)
    first = next((r for r in rows if r.species is library.find(piece.species)), rows[0])
    if not any(r.stands for r in rows):
        return f"{first.species.common}: {first.why_not}. Wrong species, wet, or weighed wrongly?"
    if not first.stands:
        better = next(r for r in rows if r.stands)
        return f"{first.species.common}: {first.why_not}. Rather {better.species.common}?"
    return ""
