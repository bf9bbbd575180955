"""Which boards of the rack go with one that has no true mate."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from datetime import date
from itertools import combinations

from grainet.design.clip import area_mm2
from grainet.design.part import Part
from grainet.match.pairing import Beside, Pairable, Pairing, beside, likes_together, ranked
from grainet.session.shop import Shop
from grainet.wood.piece import Piece
from grainet.wood.value import BadEntry


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


def colour_of(shop: Shop, piece: Piece) -> tuple[float, float, float] | None:
    """The mean colour of face 1 in its photo, CIE L*a*b*; None while it was not photographed true to scale."""
    photo = piece.photo("face1")
    if photo is None or not photo.is_true:
        return None
    import cv2
    import numpy as np

    from grainet.exchange.json_file import Unusable
    from grainet.exchange.picture_file import decode
    from grainet.picture.reading import squared
    from grainet.store.photos import read_photo

    try:
        flat, _, _ = squared(decode(read_photo(shop.file.folder, photo.sha)), piece, photo, 0.2)
    except (OSError, Unusable, BadEntry):
        return None
    lab = cv2.cvtColor((flat / 255).astype(np.float32), cv2.COLOR_RGB2LAB).reshape(-1, 3)
    light, red, yellow = (float(v) for v in np.median(lab, axis=0))
    return light, red, yellow


@dataclass(frozen=True)
class Halves:
    """The boards of a rack that hold a half each, likes next to likes, every two of them beside each other, and how many more there are."""

    part: Part
    boards: tuple[Pairable, ...]
    pairs: tuple[Beside, ...]
    more: int

    @property
    def best(self) -> Beside | None:
        """The two that go best together."""
        return min(self.pairs, key=lambda p: (p.grade != "within", p.score), default=None)


def halves_of(shop: Shop, part: Part, today: date, most: int = 8) -> Halves:
    """Which boards hold a half of a pair each, and how every two of them go together. Of more than ``most`` the ones that go best with
    another are kept."""
    from grainet.session.part_ranking import ranked_for_part

    limits = shop.kit.pair_limits
    holds = [r.piece for r in ranked_for_part(shop, part, 1, today) if r.word == "gives"]
    all_of_them = [replace(pairable(shop, shop.piece(n)), lab=colour_of(shop, shop.piece(n))) for n in holds]
    if len(all_of_them) > most:
        nearest = {a.name: min(beside(a, b, limits).score for b in all_of_them if b is not a) for a in all_of_them}
        kept = sorted(all_of_them, key=lambda a: (nearest[a.name], a.name))[:most]
    else:
        kept = all_of_them
    row = likes_together(kept, limits)
    pairs = tuple(beside(a, b, limits) for a, b in combinations(row, 2))
    return Halves(part, tuple(row), pairs, len(all_of_them) - len(kept))


def mates_of(shop: Shop, piece: Piece, thick_mm: float = 5.0) -> list[Pairing]:
    """Every measured board of the rack that is about as thick, the one that goes best with it first."""
    own = max(piece.all_thicknesses_mm, default=0.0)
    others = [
        p
        for p in shop.pieces()
        if p.id != piece.id and p.outline and abs(max(p.all_thicknesses_mm, default=0.0) - own) <= thick_mm
    ]
    return ranked(pairable(shop, piece), [pairable(shop, p) for p in others])
