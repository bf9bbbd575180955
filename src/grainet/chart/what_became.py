"""A chart of what became of the wood: each group as one bar of its litres, parts first, with yield, price, weight and hours beside it."""

from __future__ import annotations

from collections.abc import Sequence

from grainet.chart.figure import Axis, Block, Chart, Ink, Line, Mark, Note, Tick, empty, rows_axis
from grainet.work.sawn_board import SHARES, By, SawnBoard, table, together

MOST_ROWS = 18
INKS: dict[str, Ink] = {"parts": "wood", "offcuts": "slip", "kerf": "ink2", "skims": "hair", "waste": "ochre_wash"}
WORDS = {"parts": "in instruments", "offcuts": "on the rack again", "kerf": "kerf", "skims": "planed off", "waste": "scrap"}


def what_became_chart(rows: Sequence[SawnBoard], by: By) -> Chart:
    """Bars by one of the groups."""
    title = f"What became of the wood, by {by}"
    if not rows:
        return empty("yield", title, "No board is sawn up yet: when the last cut of one is ticked (F7), it stands here.")
    groups = together(rows, by)
    shown = groups[:MOST_ROWS]
    most = max(g.litres for g in shown)
    marks: list[Mark] = []
    for k, one in enumerate(shown):
        y, at = len(shown) - 1 - k, 0.0
        for name in SHARES:
            litres = getattr(one, name)
            if litres > 0:
                share = f"{100 * litres / one.litres:.0f} %" if litres > 0.06 * most else ""
                marks.append(Block(at, y + 0.22, at + litres, y + 0.78, INKS[name], label=share))
            at += litres
        told = [f"{one.litres:.1f} l, {one.yield_pct:.0f} %", f"{one.kg:.2f} kg", f"{one.minutes / 60:.1f} h"]
        if one.price:
            told.insert(1, f"{one.price:.0f}" + (f" and {one.unpriced} unpriced" if one.unpriced else "") + " paid")
        marks.append(Note(at + most * 0.015, y + 0.4, ", ".join(told), "ink2"))
    marks += [Line(((0, -1), (0, -1)), INKS[name], WORDS[name], 6.0) for name in SHARES]
    litres, parts, back = (sum(getattr(g, n) for g in groups) for n in ("litres", "parts", "offcuts"))
    message = f"{litres:.1f} litres of {len(rows)} boards: {100 * parts / litres:.0f} % became instruments, {100 * back / litres:.0f} % lie on the rack again."
    if len(groups) > MOST_ROWS:
        message += f" The first {MOST_ROWS} of {len(groups)} are shown."
    step = next(s for s in (0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500, 1000) if most / s <= 8)
    ticks = tuple(Tick(k * step, f"{k * step:g}") for k in range(int(most / step) + 1))
    return Chart("yield", title, message, Axis("litres", 0, most * 1.45, ticks), rows_axis([f"No. {g.name}" if by == "board" else g.name for g in shown]), tuple(marks), "By volume, from what was read of each board and what each step takes.", tuple(table(rows)))  # fmt: skip
