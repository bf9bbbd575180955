"""The lists that the rack is sorted into, as rows of words: for a use, by size, the stash, claims, suppliers. A screen or a file shows them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import date, timedelta
from functools import partial
from typing import TYPE_CHECKING

from grainet.kit.choosing import CRITERIA
from grainet.session.query import Query
from grainet.session.shop import Shop
from grainet.wood.figure import house_word
from grainet.wood.units import format_length, tell_length

if TYPE_CHECKING:
    from grainet.grade.ranking import RankedPiece
    from grainet.kit.uses import UseRule
    from grainet.session.part_ranking import RankedForPart

GROUP_WORDS = {
    "now": "Can make it now", "soon": "Within a month, or once something is done", "later": "Later", "unread": "Not known yet: read what is missing", "never": "Never, and why",
}  # fmt: skip


@dataclass(frozen=True)
class ListRow:
    """One line of a list: a heading (no piece), or a piece with its figures and words.

    ``rank`` 0..1 and ``word`` (gives, if, wont, or empty) say how much wood stands; ``right`` is when or where.
    """

    head: str = ""
    piece: str = ""
    rank: float = 0.0
    count: str = ""
    word: str = ""
    first: str = ""
    second: str = ""
    right: str = ""
    caution: bool = False
    shown: str = ""  # how the piece is called where it is not by its own number: a bundle


Listed = tuple[str, list[ListRow]]  # the sentence above the list, and its rows


def for_a_use(
    shop: Shop, use: str, today: date, design_id: str | None = None, go_on: Callable[[int], bool] | None = None
) -> Listed:
    """What is fit for a use, best first in each group, and why not the others; ``go_on`` as in ``sorted_rack``."""
    from grainet.session.sorting import sorted_rack

    found = sorted_rack(shop, use, today, design_id, go_on)
    listed = _with_bundles(shop, found, use, today, design_id)
    counts = {group: sum(g == group for _, g in listed) for group in GROUP_WORDS}
    rows: list[ListRow] = []
    for group, words in GROUP_WORDS.items():
        if counts[group]:
            rows.append(ListRow(head=f"{words}: {counts[group]}"))
            rows += [row for row, g in listed if g == group]
    label = shop.judgements.wanted(use, design_id).message
    message = (
        f"{label}: {counts['now']} of {len(listed)} can make it now, {counts['soon']} within a month or once something is done"
    )
    if not listed:
        message = "Nothing is on the rack yet: what is fit for a use will stand here, best first, and why not the others"
    return message, rows


PART_GROUPS = {"gives": "Gives it", "if": "Gives it after work", "wont": "Does not give it, and why"}


def for_a_part(
    shop: Shop, use: str, today: date, design_id: str | None = None, go_on: Callable[[int], bool] | None = None
) -> Listed:
    """The pieces ranked for the part of a use of a build, the one to take first; ``go_on`` as in ``sorted_rack``."""
    from grainet.session.part_ranking import ranked_for_part

    asked = shop.judgements.wanted(use, design_id)
    design = next((d for d in shop.designs() if d.id == design_id), None)
    if asked.part is None or design is None:
        what = f"{design.name} has no {asked.rule.label.lower()}" if design is not None else "No build is in hand"
        return f"{what}. Choose a part: press a lane in Draw up (F4), or another use here.", []
    wanted = design.recipes[0].needs.get(asked.part.id, 1)
    found = ranked_for_part(shop, asked.part, wanted, today, go_on)
    rows: list[ListRow] = []
    for word, words in PART_GROUPS.items():
        group = [r for r in found if r.word == word]
        if group:
            rows.append(ListRow(head=f"{words}: {len(group)}"))
            rows += [_part_row(shop, r) for r in group]
    first = next((r for r in found if r.word == "gives"), None)
    best = f"take No. {first.piece}" if first is not None else "nothing gives it as it lies"
    return f"{asked.message}, {wanted} wanted: {best}", rows


def _part_row(shop: Shop, one: RankedForPart) -> ListRow:
    style = shop.kit.length_style
    name = shop.kit.library.short_name(shop.piece(one.piece).species)
    long, wide, thick = (format_length(max(0.0, v), style) for v in one.room_mm)
    room = f"to spare: {long} along, {wide} across, {thick} thick"
    high = [CRITERIA[k][0] for k, v in one.scores.items() if v >= 0.8 and getattr(shop.kit.choosing, k) > 0]
    low = [CRITERIA[k][0] for k, v in one.scores.items() if v < 0.4 and getattr(shop.kit.choosing, k) > 0]
    told = [f"for it: {', '.join(high)}"] if high else []
    told += [f"against it: {', '.join(low)}"] if low else []
    if one.kept_back:
        told.insert(0, "figured: kept for what is seen")
    if one.mate_score is not None:
        told.append(f"goes best with No. {one.mate}, {one.mate_score:.0f} of 100")
    return ListRow(
        piece=one.piece, rank=one.rank, count=str(one.count) if one.count else "", word=one.word, first=one.reason if one.word != "gives" else room,
        second="; ".join([name, *told]), right=f"{one.price:g}" if one.price is not None else "",
    )  # fmt: skip


def _with_bundles(
    shop: Shop, found: list[RankedPiece], use: str, today: date, design_id: str | None
) -> list[tuple[ListRow, str]]:
    """A row and its group for every piece; the items of a bundle are one row, in the best of their groups."""
    members: dict[str, list[RankedPiece]] = {}
    for one in found:
        members.setdefault(shop.piece(one.piece).bundle or one.piece, []).append(one)
    rows: list[tuple[ListRow, str]] = []
    for name, group in members.items():
        best = group[0]  # they come best first
        row = _standing_row(shop, best, today)
        if len(group) > 1:
            row = _bundle_row(shop, name, group, row, shop.judgements.wanted(use, design_id).rule)
        rows.append((row, best.group))
    return rows


def _bundle_row(shop: Shop, name: str, group: list[RankedPiece], row: ListRow, rule: UseRule) -> ListRow:
    """One row for a bundle: how many of it give the use alone, and what they make together."""
    from grainet.session.bundles import together_words

    items = [shop.piece(s.piece) for s in group]
    count = sum(s.count for s in group if s.group == group[0].group)
    alone = sum(s.group == group[0].group for s in group)
    both = together_words(items, rule, shop.kit.cuts)
    message = f"{alone} of {len(group)} like this" + (f"; {both}" if both else "")
    return replace(
        row,
        shown=f"{name} ×{len(group)}",
        count=str(count) if count else "",
        second=f"{message}; {row.second}" if row.second else message,
    )


def _standing_row(shop: Shop, one: RankedPiece, today: date) -> ListRow:
    word = "wont" if one.group == "never" else "gives" if one.group == "now" and not one.asked else "if"
    name = shop.kit.library.short_name(shop.piece(one.piece).species)
    first, tail = one.why, ""
    if word == "gives":
        own = house_word(one.rank**2, shop.kit.rank_words)  # squared: most pieces that give at all rank over a half
        first = f"{own}: {'; '.join(one.best) or 'as it lies'}"
        tail = f"but {'; '.join(one.worst)}" if one.worst else ""
    elif word == "if":
        more = [t for t in one.todo if t not in one.reasons]
        tail = f"also {'; '.join(more)}" if more else "; ".join(one.best)
    return ListRow(
        piece=one.piece, rank=one.rank, count=str(one.count) if one.count else "", word=word, first=first,
        second=f"{name}, {tail}" if tail else name, right=_when(one, today),
    )  # fmt: skip


def _when(one: RankedPiece, today: date) -> str:
    """The days until it is ready, as dates."""
    from grainet.grade.ready import day_words

    if one.days is None:
        return ""
    first, last = (today + timedelta(days=round(d)) for d in (one.days[0], one.days[2]))
    year = f" {first.year}" if first.year != today.year else ""
    return f"{'now' if first <= today else f'{first.day} {first:%b}{year}'} to {day_words(last)}"


def by_size(shop: Shop, asked: Query | None, answers: frozenset[str] | None, today: date) -> Listed:
    """What answers a question; ``answers`` None while it is being worked out."""
    if asked is None:
        return "Say a least size, press words, or type: the rack shows what answers (also Ctrl+F).", []
    if answers is None:
        return "asking the rack ...", []
    rows = [_plain_row(shop, p.id, today) for p in shop.pieces() if p.id in answers]
    return f"{len(rows)} of {len(shop.pieces())} answer: {asked.message(shop.kit.length_style)}", rows


def _plain_row(shop: Shop, number: str, today: date, second: str = "", right: str = "") -> ListRow:
    piece, facts = shop.piece(number), shop.judgements.facts(number)
    x0, y0, x1, y1 = piece.extents
    told = partial(tell_length, style=shop.kit.length_style)
    thick = told(piece.least_thickness_mm, form=".1f") if piece.least_thickness_mm else "?"
    density = f", {facts.density:.0f} kg/m³" if facts.density else ""
    first = f"{shop.kit.library.short_name(piece.species)}, {told(x1 - x0)} × {told(y1 - y0)} × {thick}"
    return ListRow(piece=number, first=first, second=second or facts.ready.message(today) + density, right=right or piece.place)


def of_the_stash(shop: Shop, today: date) -> Listed:
    """What has lain too long: why it was passed over, and what it fits now."""
    from grainet.session.stash import Aged, aged

    def fits(one: Aged) -> str:
        if one.offers:
            waste = [f" ({', '.join(o.in_waste)} in the waste)" if o.in_waste else "" for o in one.offers]
            return "fits " + "; ".join(f"{o.design} {o.part}{w}" for o, w in list(zip(one.offers, waste))[:3])
        return f"gives {', '.join(one.gives).lower()}" if one.gives else "fits nothing that the shop draws now"

    rows = [
        ListRow(
            piece=one.piece, first=fits(one), right=f"{one.days / 365:.1f} years",
            second=f"passed over {one.passed_over[-1]}" if one.passed_over else "nobody wrote why it was passed over: passed too short",
        )
        for one in aged(shop, today)
    ]  # fmt: skip
    pieces = "1 piece" if len(rows) == 1 else f"{len(rows)} pieces"
    return f"{pieces} older than {shop.kit.rules.stash_days} days, the oldest first", rows


def of_claims(shop: Shop) -> Listed:
    """Claims by piece, contested wood first, the one with the least choice on top."""
    from grainet.session.claims import clashes_of, least_choice_first

    claims = [r for r in shop.promises.claims() if shop.has_piece(r.piece) and not shop.piece(r.piece).gone]
    contested = {r.piece for r in claims if clashes_of(r, claims)}
    style = shop.kit.length_style
    rows: list[ListRow] = []
    for number in sorted({r.piece for r in claims}, key=lambda n: (n not in contested, n)):
        fought = number in contested
        rows.append(ListRow(head=f"No. {number}: claims on the same wood, least choice first" if fought else f"No. {number}"))
        for k, choice in enumerate(least_choice_first(shop, number)):
            box = choice.claim.box
            where = "the whole piece" if box is None else f"{tell_length(box[0], style)} to {tell_length(box[2], style)} along"
            first = f"{choice.claim.claimed_for}, {where}" + (", goes first" if fought and k == 0 else "")
            rows.append(
                ListRow(piece=number, first=first, second=choice.text, right=f"since {choice.claim.on}", caution=fought and k > 0)
            )
    return (
        f"{len(claims)} claims, {len(contested)} pieces contested; keep for Merrow neck claims the piece in hand, free gives it back",
        rows,
    )


def of_suppliers(shop: Shop, today: date) -> Listed:
    """Suppliers with what their wood hid, the worst first; then the pieces whose papers lack."""
    from grainet.session.suppliers import papers_wanted, supplier_records

    rows: list[ListRow] = []
    for one in supplier_records(shop):
        more = ", more than the house likes" if one.stands_out else ""
        rows.append(
            ListRow(head=f"{one.name}: {one.pieces} bought, {one.with_surprises} with a surprise ({one.rate_pct:.0f} %){more}")
        )
        for piece in shop.pieces(everything=True):
            if piece.supply.supplier == one.name and piece.parent is None:
                hid = "; ".join(s.what for s in piece.supply.surprises)
                claim = f"said to be {piece.supply.drying_claim}" if piece.supply.drying_claim else ""
                price = f"{piece.supply.price:g}" if piece.supply.price is not None else " "
                rows.append(_plain_row(shop, piece.id, today, f"hid {hid}" if hid else claim, price))
    lacking = papers_wanted(shop)
    if lacking:
        rows.append(ListRow(head=f"Papers wanted: {len(lacking)}; check current trade rules"))
        words = "may be of a controlled species, and no paper is kept with it: paper invoice 2019-117"
        rows += [_plain_row(shop, p.id, today, words, " ") for p in lacking]
    return "who sold it, what it hid, and which papers lack", rows
