"""Which boards of the rack go with one that has no true mate."""

from __future__ import annotations

import math

from grainet.design.clip import area_mm2
from grainet.match.pairing import Pairable, Pairing, ranked
from grainet.session.shop import Shop
from grainet.wood.piece import Piece


def loudness(piece: Piece) -> float:
    """The share of a piece's face that is figured, weighed with how strongly, 0 to 1."""
    face = abs(area_mm2(piece.outline)) or 1.0
    return min(
        1.0, math.fsum(abs(area_mm2(z.polygon)) * (z.strength if z.strength is not None else 0.5) for z in piece.figure) / face
    )


def pairable(shop: Shop, piece: Piece) -> Pairable:
    """What of a piece decides how it goes with another."""
    rings = [a for a in (piece.ring_angle_deg or ()) if a is not None]
    species = shop.kit.library.find(piece.species)
    x0, _, x1, _ = piece.extents
    return Pairable(
        name=piece.id, species=piece.species, colours=frozenset(species.colours if species is not None else ()),
        ring_angle_deg=sum(rings) / len(rings) if rings else None, slope_deg=piece.grain_slope_deg,
        density_kg_m3=shop.judgements.facts(piece.id).density, loudness=loudness(piece), length_mm=x1 - x0,
    )  # fmt: skip


def mates_of(shop: Shop, piece: Piece, thick_mm: float = 5.0) -> list[Pairing]:
    """Every measured board of the rack that is about as thick, the one that goes best with it first."""
    own = max(piece.all_thicknesses_mm, default=0.0)
    others = [
        p
        for p in shop.pieces()
        if p.id != piece.id and p.outline and abs(max(p.all_thicknesses_mm, default=0.0) - own) <= thick_mm
    ]
    return ranked(pairable(shop, piece), [pairable(shop, p) for p in others])
