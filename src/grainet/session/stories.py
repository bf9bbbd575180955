"""The story of an instrument, gathered from what the shop knows: boards, plans, the bench's log, mishaps, offcuts."""

from __future__ import annotations

from collections.abc import Iterator
from datetime import datetime

from grainet.session.making import BY_EYE, AtTheBench, at_the_bench, called, said
from grainet.session.mishaps import mishaps_of, sentence
from grainet.session.reports import density, price_of, sawn_boards
from grainet.session.shop import Shop
from grainet.wood.defects import name_of
from grainet.wood.piece import Piece
from grainet.wood.units import tell_gap
from grainet.wood.value import BadEntry
from grainet.work.bench_log import instant
from grainet.work.operation import Operation
from grainet.work.sawn_board import SHARES
from grainet.work.story import KINDS, Story, StoryBoard, StoryJoint, StoryOffcut, StoryPart, StoryPhoto

CONTROLLED = "trade_regulated"


def told_instruments(shop: Shop) -> list[tuple[str, str, bool]]:
    """Every build with a plan that is kept: its id, its name, whether it is whole."""
    names = {d.id: d.name for d in shop.designs()} | {g.id: g.name for g in shop.instruments.all()}
    found = []
    for under_way in shop.plans.accepted():
        bench = at_the_bench(shop, under_way.id)
        for design in under_way.designs:
            found.append((design, names.get(design, design), bench is not None and not bench.left))
    return found


def story_of(shop: Shop, design: str) -> Story | None:
    """The story of one build; None where no plan of it is kept."""
    under_way = shop.plans.accepted_for(design)
    bench = at_the_bench(shop, under_way.id) if under_way is not None else None
    if under_way is None or bench is None:
        return None
    log, everyone = bench.log, {p.id: p for p in shop.pieces(everything=True)}
    name = next((g.name for g in shop.instruments.all() if g.id == design), "") or next(
        (d.name for d in shop.designs() if d.id == design), design
    )
    rows = [r for r in sawn_boards(shop) if r.board in under_way.boards]
    days = sorted(_day(r.at) for r in log.rows)
    litres = sum(r.litres for r in rows)
    kg = forecast(shop, bench, design)
    went_wrong = [m for m in reversed(mishaps_of(shop)) if m.board in under_way.boards]
    boards = tuple(_board(shop, bench, design, number, everyone) for number in under_way.boards if _placed(bench, design, number))
    return Story(
        id=design, name=name, shop=shop.kit.name, begun=days[0] if days else "", finished=days[-1] if days and not bench.left else "",
        forecast_kg=kg[0], forecast_spread_kg=kg[1], weighed_kg=log.weighed_kg, hours=round(sum(r.minutes for r in rows) / 60, 1), litres=round(litres, 2),
        shares={s: round(sum(getattr(r, s) for r in rows) / litres, 4) for s in SHARES} if litres else {}, boards=boards, joints=tuple(_joints(bench, design)),
        mends=tuple(said(o) for o in bench.making.operations if o.kind in ("stabilise", "insert") and o.board in (design, *under_way.boards) and bench.done(o)),
        mishaps=tuple(sentence(m, shop.kit.length_style) for m in went_wrong), mishap_photos=tuple(m.photo for m in went_wrong if m.photo),
        part_photos=_part_photos(bench, design), set_aside=tuple(f"{o.rule}: {o.why}" for o in log.over), offcuts=tuple(_offcuts(shop, under_way.boards)), events=tuple(_events(bench, boards, everyone, days)),
        left_off=log.left_off,
    )  # fmt: skip


def _part_photos(bench: AtTheBench, design: str) -> tuple[StoryPhoto, ...]:
    mine = {w.id for w in bench.making.workpieces if (w.build or bench.under_way.designs[0]) == design}
    rows = sorted((p for p in bench.log.photos if p.workpiece in mine), key=lambda p: p.on)
    return tuple(StoryPhoto(name=called(p.workpiece), on=p.on, sha=p.sha) for p in rows)


def _day(at: str) -> str:
    """The local day of an instant."""
    return instant(at).astimezone().date().isoformat()


def _placed(bench: AtTheBench, design: str, board: str) -> bool:
    return any(p.piece == board and (p.build or bench.under_way.designs[0]) == design for p in bench.under_way.plan.placements)


def forecast(shop: Shop, bench: AtTheBench, design: str) -> tuple[float | None, float | None]:
    """What the wood of one build will weigh and how surely, kg; None where nothing of it is known."""
    from grainet.work.weights import together, weights_of

    placed = tuple(p for p in bench.under_way.plan.placements if (p.build or bench.under_way.designs[0]) == design)
    rows = weights_of(bench.under_way.job, bench.under_way.plan.changed(placements=placed), shop.kit)
    if not rows:
        return None, None
    whole = together(rows)
    return round(whole.kg, 2), round(whole.spread_kg, 2)


def _board(shop: Shop, bench: AtTheBench, design: str, number: str, everyone: dict[str, Piece]) -> StoryBoard:
    """One board of the instrument."""
    job, plan = bench.under_way.job, bench.under_way.plan
    piece = everyone.get(number) or job.piece(number)
    mine = [p for p in plan.placements if p.piece == number and (p.build or bench.under_way.designs[0]) == design]
    parts = tuple(
        StoryPart(letter=job.part(p.part).letter or job.part(p.part).shown_name, polygon=p.polygon) for p in mine if p.leaf == 1
    )
    kept = {k.defect for p in mine for k in job.part(p.part).keep if k.piece in (None, number)}
    flaws = tuple(f"{name_of(d)} {d.id}, kept on purpose" for d in job.piece(number).defects if d.id in kept)
    species = shop.kit.library.find(piece.species)
    from grainet.session.reports import volume
    from grainet.work.weights import together, weights_of

    own = weights_of(job, plan.changed(placements=tuple(mine)), shop.kit)
    moisture = _moisture(bench, piece, number)
    heavy = density(piece, volume(piece), species.density_12_kg_m3 if species is not None else None)
    controlled = species is not None and CONTROLLED in species.flags
    return StoryBoard(
        number=number, species=piece.species, made=tuple(dict.fromkeys(job.part(p.part).shown_name for p in mine)), roles=tuple(dict.fromkeys(job.part(p.part).role for p in mine)), source=tuple(_source(shop, piece, everyone)),
        moisture_pct=moisture[0], glued=moisture[1], kg=round(together(own).kg, 2) if own and heavy is not None else None, price=price_of(piece, everyone),
        lacks_paper=controlled and not piece.supply.papers, papers=tuple(" ".join(w for w in (p.kind, p.number, p.on) if w) for p in piece.supply.papers), flaws=flaws,
        outline=piece.outline, parts=parts, photos=tuple(p.sha for p in piece.photos),
    )  # fmt: skip


def _source(shop: Shop, piece: Piece, everyone: dict[str, Piece]) -> Iterator[str]:
    """Where a board came from, line by line."""
    parent = everyone.get(piece.parent or "")
    if parent is not None:
        plan = shop.plans.under_way(parent.gone) if parent.gone else None
        of = next((d.name for d in shop.designs() if plan is not None and d.id in plan.designs), "")
        yield f"an offcut of No. {parent.id}" + (f", left from {of}" if of else "")
    root = piece
    while root.parent and root.parent in everyone:
        root = everyone[root.parent]
    if root.origin:
        yield root.origin
    if root.supply.supplier:
        yield f"from {root.supply.supplier}" + (f", {root.arrived}" if root.arrived else "")
    elif root.arrived:
        yield f"here since {root.arrived}"
    for claim in (root.supply.age_claim, root.supply.drying_claim):
        if claim:
            yield claim
    for hidden in piece.supply.surprises:
        yield f"hid: {hidden.what}"


def _moisture(bench: AtTheBench, piece: Piece, number: str) -> tuple[float | None, bool]:
    """The last reading before its first joint was glued, and that it was; of today where none is yet."""
    glued = [
        r.at
        for o in bench.making.operations
        if o.kind == "glue" and number in _froms(bench, o) and (r := bench.log.row(o.id)) is not None
    ]
    until = _day(min(glued)) if glued else "9999"
    rows = [r for r in piece.moisture if not r.on or r.on <= until]
    if not rows:
        return None, bool(glued)
    newest = max(r.on or "" for r in rows)
    some = [r.moisture_pct for r in rows if (r.on or "") == newest]
    return round(sum(some) / len(some), 1), bool(glued)


def _froms(bench: AtTheBench, one: Operation) -> set[str]:
    """The boards that what an operation works on comes from."""
    by = {w.id: w for w in bench.making.workpieces}
    todo, found = list(one.works_on), set()
    while todo:
        piece = by.get(todo.pop())
        if piece is not None:
            todo += piece.members
            found |= {piece.from_} - {""}
    return found


def _joints(bench: AtTheBench, design: str) -> Iterator[StoryJoint]:
    """Every joint that was glued, in its order."""
    glue = bench.shop.kit.glue.name.lower()
    for one in bench.making.operations:
        row = bench.log.row(one.id)
        if one.kind != "glue" or row is None or one.board != design:
            continue
        fit = next(
            (bench.log.row(t.before) for t in bench.making.rules if t.after == one.id and t.before.startswith("fit ")), None
        )
        warm = next((w.temperature_c for w in reversed(bench.log.warmth) if w.at <= row.at), bench.shop.kit.temperature_c)
        words = [glue, f"{warm:.0f} °C", f"{len(bench.clamps_on(one))} clamps"]
        if fit is not None:
            words.append(
                BY_EYE
                if fit.note == BY_EYE
                else "{} open at the ends, {} in the middle".format(
                    *(tell_gap(fit.figures.get(key, 0.0), bench.shop.kit.length_style) for key in ("ends_mm", "middle_mm"))
                )
            )
        label = one.text.partition(" with ")[0].removeprefix("Glue ")
        yield StoryJoint(name=label, on=_day(row.at), words=", ".join(words))


def _offcuts(shop: Shop, boards: list[str]) -> Iterator[StoryOffcut]:
    """What is left of the boards, and what it became."""
    names = {d.id: d.name for d in shop.designs()}
    for piece in shop.pieces(everything=True):
        if piece.parent not in boards:
            continue
        if piece.gone:
            plan = shop.plans.under_way(piece.gone)
            of = [names.get(d, d) for d in plan.designs] if plan is not None else []
            words = f"became {' and '.join(of)}" if of else "sawn up"
        else:
            words = f"on shelf {piece.place}" if piece.place else "on the rack"
        yield StoryOffcut(number=piece.id, species=piece.species, words=words)


def _events(
    bench: AtTheBench, boards: tuple[StoryBoard, ...], everyone: dict[str, Piece], days: list[str]
) -> Iterator[tuple[str, str]]:
    """Days of the story's line."""
    came = sorted({p.arrived[:10] for b in boards if (p := everyone.get(b.number)) is not None and _is_day(p.arrived[:10])})
    if came:
        yield came[0], "the first board comes in"
    cuts = sorted(_day(r.at) for o in bench.making.operations if o.cut is not None and (r := bench.log.row(o.id)) is not None)
    if cuts:
        yield cuts[0], "sawn"
    glued = sorted(_day(r.at) for o in bench.making.operations if o.kind == "glue" and (r := bench.log.row(o.id)) is not None)
    if glued:
        yield glued[0], "first joint"
    if days and not bench.left:
        yield days[-1], "whole"


def _is_day(text: str) -> bool:
    try:
        datetime.fromisoformat(text)
    except ValueError:
        return False
    return len(text) == 10


# what a person says of it -----------------------------------------------------------------------------------------------
def leave_off(shop: Shop, design: str, key: str) -> bool:
    """Leave a line off the page, or put it back; whether it is on the page now. Raises BadEntry for a line that is not there."""
    story = story_of(shop, design)
    bench = _bench_of(shop, design)
    if story is None or bench is None or key not in {*KINDS, *(f"board {b.number}" for b in story.boards)}:
        raise BadEntry(f"There is no line “{key}” in this story; it has {', '.join((*KINDS, 'board and its number'))}.")
    shown = key in bench.log.left_off
    kept = tuple(k for k in bench.log.left_off if k != key)
    shop.apply(f"{key} {'on' if shown else 'off'} the page", bench.log.changed(left_off=kept if shown else (*kept, key)))
    return shown


def weigh(shop: Shop, design: str, kg: float) -> None:
    """What the finished instrument weighs. Raises BadEntry."""
    bench = _bench_of(shop, design)
    if bench is None:
        raise BadEntry("There is no plan of this instrument; lay it out and keep its plan first (F5).")
    if not 0.2 <= kg <= 20:
        raise BadEntry(f"weighs {kg:g}: needs 0.2 to 20 kg.")
    shop.apply(f"{called(design)} weighs {kg:g} kg", bench.log.changed(weighed_kg=kg))


def _bench_of(shop: Shop, design: str) -> AtTheBench | None:
    under_way = shop.plans.accepted_for(design)
    return at_the_bench(shop, under_way.id) if under_way is not None else None
