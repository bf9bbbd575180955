"""A chart of a shop by its name: of one piece, or of all of it."""

from __future__ import annotations

from datetime import date

from grainet.chart.figure import Chart
from grainet.session.shop import Shop

OF_A_PIECE = ("moisture", "weight", "rest", "movement")
OF_THE_SHOP = ("air", "density", "overview", "taps", "yield")


def chart_of(shop: Shop, name: str, today: date, piece_id: str | None = None, use: str = "neck", by: str = "board") -> Chart:
    """The chart, every verdict that it needs worked out. Raises ValueError naming what is not there."""
    from grainet.chart import drying, rack, taps, year

    if name in OF_A_PIECE:
        if piece_id is None or not shop.has_piece(piece_id):
            raise ValueError(f"the plot {name} needs a piece of this shop; found {piece_id or 'none'}")
        facts = shop.judgements.facts(piece_id)
        if name == "movement":
            return year.movement_chart(facts)
        return {"moisture": drying.moisture_chart, "weight": drying.weight_chart, "rest": drying.rest_chart}[name](facts, today)
    if name == "air":
        return year.air_chart(shop.air.readings, shop.air.year, shop.kit.target_moisture_pct, today)
    if name == "yield":
        from grainet.chart.what_became import what_became_chart
        from grainet.session.reports import sawn_boards
        from grainet.work.sawn_board import GROUPS

        if by not in GROUPS:
            raise ValueError(f"found {by}, needs one of {', '.join(GROUPS)}")
        return what_became_chart(sawn_boards(shop), by)
    pieces = shop.pieces()
    facts_all = [shop.judgements.facts(p.id) for p in pieces]
    if name == "density":
        return rack.density_chart(facts_all)
    if name == "taps":
        return taps.taps_chart(facts_all, piece_id)
    if name == "overview":
        return rack.overview_chart(facts_all, {p.id: shop.judgements.verdict(p.id, use) for p in pieces}, shop.kit.use(use))
    raise ValueError(f"{name} is no plot; needs one of {', '.join((*OF_A_PIECE, *OF_THE_SHOP))}")
