"""The way round a machine that is too narrow for a joined plate: each piece is planed by what would come off the plate, dowels keep them level
while they are glued, and the seam is only scraped.

It changes several operations at once, so it is applied to the whole list once that is written.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from grainet.work.bench import Bench
from grainet.work.capacity import HAND
from grainet.work.operation import Operation, Tie
from grainet.work.other_ways import PIECES
from grainet.work.step_cautions import cautions_at

PLANED = ("flatten", "thickness")
SCRAPE_MIN, DOWELS_MIN = 10.0, 12.0


def pieces_first(
    operations: Sequence[Operation], ties: Sequence[Tie], chosen: Mapping[str, str], bench: Bench
) -> tuple[list[Operation], list[Tie]]:
    """The operations and rules with every plate for which that way was chosen planed piece by piece; where a piece of it is not planed at all
    its operations stay as they are."""
    found, rules = list(operations), list(ties)
    for name in [n for n, way in chosen.items() if way == PIECES]:
        plate = next((o for o in found if o.id == name and not o.gives), None)
        if plate is not None:
            found, rules = _one_plate(found, rules, plate, bench)
    return found, rules


def _one_plate(operations: list[Operation], ties: list[Tie], plate: Operation, bench: Bench) -> tuple[list[Operation], list[Tie]]:
    joined = plate.works_on
    pieces = _pieces(operations, joined[0])
    on_plate = [o for o in operations if o.works_on == joined and o.kind in PLANED]
    on_pieces = [o for o in operations if o.kind == "thickness" and set(o.works_on) <= set(pieces)]
    if len(pieces) < 2 or {w for o in on_pieces for w in o.works_on} != set(pieces):
        return operations, ties
    skim = sum(mm for o in on_plate for mm in o.takes_mm.values())
    new = {o.id: _thinner(o, skim, bench) for o in on_pieces} | {o.id: _scraped(o, k) for k, o in enumerate(on_plate)}
    called = {old: one.id for old, one in new.items()}
    dowels, fits = _dowels(operations, pieces, called)
    found: list[Operation] = []
    for one in operations:
        one = new.get(one.id, one)
        needs = dict.fromkeys(called.get(n, n) for n in one.needs)
        if one.id in fits:
            if dowels.id not in {o.id for o in found}:
                found.append(dowels)
            needs[dowels.id] = None
        found.append(one.changed(needs=tuple(needs)))
    return found, [t.changed(before=called.get(t.before, t.before), after=called.get(t.after, t.after)) for t in ties]


def _pieces(operations: Sequence[Operation], name: str) -> list[str]:
    """What a joined workpiece was glued from, stages and all."""
    glued = next((o for o in operations if o.kind == "glue" and name in o.gives), None)
    if glued is None:
        return [name]
    return [piece for member in glued.works_on for piece in _pieces(operations, member)]


def _thinner(one: Operation, skim: float, bench: Bench) -> Operation:
    """Planed to what the plate shall be, by so much more."""
    finished = round(float(one.settings["thickness_mm"]) - skim, 2)
    takes = {side: round(mm + skim, 2) for side, mm in one.takes_mm.items()}
    head, _, _ = one.id.rpartition(", ")
    text = one.text.replace(f" to {bench.told(one.settings['thickness_mm'], '.1f')}", f" to {bench.told(finished, '.1f')}", 1)
    return one.changed(
        id=f"{head}, {finished:.1f}", settings={**one.settings, "thickness_mm": finished}, takes_mm=takes, text=text
    )


def _scraped(plate: Operation, number: int) -> Operation:
    """The seam scraped level on one face; nothing more comes off the plate."""
    face = "face 1" if number == 0 else "the other face"
    return plate.changed(
        machine="scraper", machine_kind=HAND, takes_mm={}, minutes=SCRAPE_MIN, settings={**plate.settings, "way": PIECES},
        cautions=tuple(s for s in plate.cautions if s.code not in ("planer", "ready")),
        text=f"Scrape the seam of {' and '.join(plate.works_on)} level on {face}: its pieces have their thickness already",
    )  # fmt: skip


def _dowels(operations: Sequence[Operation], pieces: Sequence[str], called: Mapping[str, str]) -> tuple[Operation, set[str]]:
    """The dowel holes in the edges that meet, and the dry fits that they come before."""
    fits = {o.id for o in operations if o.kind == "fit" and set(o.works_on) & set(pieces)}
    needs = dict.fromkeys(called.get(n, n) for o in operations if o.id in fits for n in o.needs if n not in fits)
    board = next((o.board for o in operations if o.id in fits), "")
    words = f"Dowel holes in the edges of {' and '.join(pieces)} that meet, every 150, clear of the outline: they keep the faces level"
    one = Operation.model_validate(
        {"id": f"drill {' '.join(pieces)}, dowels", "kind": "drill", "works_on": tuple(pieces), "needs": tuple(needs), "minutes": DOWELS_MIN,
         "settings": {"every_mm": 150.0}, "cautions": cautions_at("drill", "", ()), "x-board": board, "x-text": words}
    )  # fmt: skip
    return one, fits
