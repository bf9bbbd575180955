"""Wood that has lain long: why it was passed over, and which parts of the shop's designs it would give now, flaws in the waste."""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date

from grainet.grade.counted import as_counted
from grainet.session.shop import Shop
from grainet.wood.piece import Piece


@dataclass(frozen=True)
class Offer:
    """A part that a piece would give: whose, where its lower left corner lies, and the flaws of the piece outside its outline."""

    design: str
    part: str
    at_mm: tuple[float, float]
    in_waste: tuple[str, ...]
    covered: tuple[str, ...]


@dataclass(frozen=True)
class Aged:
    """One old piece: days on the rack, why it was passed over, what it gives by the house rules, and what it would fit."""

    piece: str
    days: int
    passed_over: tuple[str, ...]
    gives: tuple[str, ...]
    offers: tuple[Offer, ...]


def days_on_rack(piece: Piece, today: date) -> int | None:
    """Days since it arrived; None where no day was kept."""
    try:
        return (today - date.fromisoformat(piece.arrived[:10])).days
    except ValueError:
        return None


def aged(shop: Shop, today: date, *, with_offers: bool = True) -> list[Aged]:
    """Pieces that have lain longer than the house rule, the oldest first."""
    found = []
    for piece in shop.pieces():
        days = days_on_rack(piece, today)
        if days is None or days < shop.kit.rules.stash_days or piece.id in shop.promises.boards():
            continue
        gives = tuple(r.label for r in shop.kit.every_use if shop.judgements.verdict(piece.id, r.use).outcome == "gives")
        offers = tuple(offers_of(shop, piece)) if with_offers else ()
        reasons = tuple(f"{h.on}: {h.what}" for h in piece.passed_over)
        found.append(Aged(piece.id, days, reasons, gives, offers))
    return sorted(found, key=lambda a: -a.days)


def offers_of(shop: Shop, piece: Piece) -> list[Offer]:
    """Parts of the shop's designs whose exact outline lies on this piece; one place each, the one that covers least trouble."""
    import numpy as np
    import shapely

    from grainet.fit.exact import Exact, ExactPlacement
    from grainet.fit.field import fit_field
    from grainet.fit.orientation import orientations_of

    layers = shop.judgements.layers(piece.id)
    if layers is None:
        return []
    counted = as_counted(piece)
    found: list[Offer] = []
    for design in shop.designs():
        for part in design.parts:
            best: tuple[float, Offer] | None = None
            for way in orientations_of(part):
                field = fit_field(layers, way)
                if not field.fits.any():
                    continue
                cost = np.where(field.fits, field.covered, np.inf)
                row, column = np.unravel_index(int(np.argmin(cost)), cost.shape)
                x, y = field.shift(int(row), int(column))
                seat = Exact(layers.sheet, way).seat(x, y)
                if not isinstance(seat, ExactPlacement) or (best is not None and seat.covered_mm2 >= best[0]):
                    continue
                outline = shapely.Polygon(way.at(x, y))
                inside = tuple(h.id for h in layers.sheet.hazards if h.polygon.intersects(outline))
                waste = tuple(d.id for d in counted.defects if d.id not in inside)
                best = (
                    seat.covered_mm2,
                    Offer(design.name, part.shown_name, (x + way.bounds[0], y + way.bounds[1]), waste, inside),
                )
            if best is not None:
                found.append(best[1])
    return found
