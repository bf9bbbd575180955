"""The brief of a build in the shop: of a guitar that was drawn up its figures and how sure they are, of any other design its own rows."""

from __future__ import annotations

from collections.abc import Sequence

from grainet.design.brief import WORDS, Hardware, HardwareKind
from grainet.design.design import Design
from grainet.design.instrument import Instrument
from grainet.design.parts import HARDWARE
from grainet.session.shop import Shop
from grainet.wood.value import BadEntry

PATHS = dict(HARDWARE)


def with_brief(shop: Shop, design: Design, rows: Sequence[Hardware]) -> Instrument | Design:
    """A build with another brief: what is to be kept for it. Raises BadEntry for what a drawn guitar does not leave to its brief."""
    g = shop.instruments.find(design.id)
    if g is None:
        return design.changed(brief=tuple(rows))
    before, after = {h.kind: h for h in design.brief}, {h.kind: h for h in rows}
    if gone := sorted(before.keys() - after.keys()):
        raise BadEntry(
            f"{WORDS[gone[0]][0]}: {design.name} is drawn up with it; give it another figure, or leave it out in Draw up (F4)."
        )
    told: dict[str, object] = {}
    status: dict[str, str] = dict(g.status)
    for kind, row in after.items():
        if row == before.get(kind):
            continue
        path = PATHS.get(kind, "body.cavities" if kind == "cavity_depth" and kind in before else "")
        if not path or (kind not in PATHS and row.mm != before[kind].mm):
            raise BadEntry(
                f"{WORDS[kind][0]}: {design.name} has its hollows in the outline (Ctrl+Shift+D); they are made deeper there."
            )
        if kind in PATHS:
            told[path] = row.mm
        status[path] = row.status
    return g.with_figures({**told, "status": status})


def measured(shop: Shop, design: Design, kind: HardwareKind) -> Instrument | Design:
    """A build whose bought part was measured and is as the brief has it."""
    rows = tuple(h.changed(status="in hand") if h.kind == kind else h for h in design.brief)
    return with_brief(shop, design, rows)
