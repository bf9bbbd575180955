"""Sorting the rack for a use, and what a changed rule would change: the same verdicts as everywhere, asked for all pieces."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from datetime import date
from typing import TYPE_CHECKING, Any

from grainet.grade.verdict import after_work
from grainet.kit.shop_profile import ShopProfile
from grainet.kit.uses import UseRule
from grainet.session.shop import Shop

if TYPE_CHECKING:
    from grainet.grade.ranking import RankedPiece


def sorted_rack(
    shop: Shop, use: str, today: date, design_id: str | None = None, go_on: Callable[[int], bool] | None = None
) -> list[RankedPiece]:  # fmt: skip
    """Every piece's standing for a use, or for the part of that use of a build, best first. ``go_on`` hears how many were judged,
    and ends it early by saying no."""
    from grainet.grade.ranking import ranked

    return ranked([_held_back(shop, one) for one in shop.judgements.standings(use, today, design_id, go_on).values()])


def _held_back(shop: Shop, one: RankedPiece) -> RankedPiece:
    """A piece that an accepted plan or a claim holds cannot make it now, however good it is; who holds it is said first."""
    promise = shop.promises.boards().get(one.piece)
    claim = next((r for r in shop.promises.claims() if r.piece == one.piece and r.whole), None)
    if one.group == "never" or (promise is None and claim is None):
        return one
    why = f"if it is given back: promised to {promise.name}" if promise else f"if it is given back: kept for {claim.claimed_for}"  # type: ignore[union-attr]
    group = one.group if one.group in ("later", "unread") else "soon"
    return replace(one, group=group, reasons=(why, *one.reasons), todo=(why, *one.todo), asked=True)


@dataclass(frozen=True)
class Change:
    """One piece whose verdict a changed rule would change."""

    piece: str
    before: str
    after: str
    why: str


def preview(shop: Shop, rule: UseRule, kit: ShopProfile | None = None) -> list[Change]:
    """Which pieces change, and why, if a use's rule (or the kit) were as given; nothing is kept."""
    return list(_changes(shop, rule, kit or shop.kit))


def _changes(shop: Shop, rule: UseRule, kit: ShopProfile) -> Iterator[Change]:
    from grainet.grade.counted import as_counted
    from grainet.grade.facts import Facts
    from grainet.grade.judge import judge

    for piece in shop.pieces():
        before = shop.judgements.verdict(piece.id, rule.use)
        facts = shop.judgements.facts(piece.id) if kit is shop.kit else Facts(piece, kit, shop.air.year)
        layers = (lambda p=piece: shop.judgements.layers(p.id)) if kit.cuts == shop.kit.cuts else None
        after = judge(as_counted(piece), rule, kit, layers, facts)
        if (before.outcome, before.gives, before.gives_if) != (after.outcome, after.gives, after.gives_if):
            why = f"was: {before.main_reason}" if after.gives > before.gives and before.main_reason else after.main_reason
            yield Change(piece.id, message(before), message(after), why)


def message(verdict: Any) -> str:
    """A verdict in a few words: "2", "1 possible, after work", "won't"."""
    return str(verdict.gives) if verdict.gives else after_work(verdict.gives_if) if verdict.outcome == "if" else "won't"
