"""Pieces of the rack ranked for one part of a build: by grade, room to spare, mates, thrift and price, weighed as the house weighs them.

Wood that shows nothing on the instrument is never taken from a figured board while a plain one gives it, whatever the weights.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
from datetime import date
from typing import Literal

from grainet.design.clip import area_mm2
from grainet.design.part import Part
from grainet.design.role import FACTS, role_of
from grainet.design.shape import area, extents
from grainet.kit.choosing import CRITERIA
from grainet.kit.uses import UseRule
from grainet.match.pairing import Pairable, pair
from grainet.session.mates import loudness, pairable
from grainet.session.shop import Shop
from grainet.turns import in_turn
from grainet.wood.piece import Piece

Word = Literal["gives", "if", "wont"]
ORDER: dict[Word, int] = {"gives": 0, "if": 1, "wont": 2}
FULL_ROOM_MM = (40.0, 20.0, 4.0)  # along, across and in thickness: more than this to spare is no better; shipped judgement
FIGURED = 0.15  # the share of a face, weighed with its strength, from which a board counts as figured
NOT_KNOWN = 0.5  # where a price or a mate is not known


@dataclass(frozen=True)
class RankedForPart:
    """One piece's place for a part: what it gives, each criterion 0 to 1, the weighed mean, what it has to spare, its mate, its price."""

    piece: str
    word: Word
    count: int
    scores: dict[str, float]
    rank: float
    room_mm: tuple[float, float, float]
    mate: str = ""
    mate_score: float | None = None
    price: float | None = None
    reason: str = ""  # why it does not simply give
    kept_back: bool = False  # figured, for a part that shows nothing of it

    @property
    def sort_key(self) -> tuple[int, bool, float, str]:
        """Best first: what it gives, plain wood before figured where nothing shows, the rank."""
        return ORDER[self.word], self.kept_back, -round(self.rank, 6), self.piece


def ranked_for_part(
    shop: Shop, part: Part, wanted: int, today: date, go_on: Callable[[int], bool] | None = None
) -> list[RankedForPart]:
    """Every measured piece, the one to take for a part first. ``wanted`` copies are looked for; ``go_on`` hears how many were judged, and
    ends it early by saying no."""
    held = shop.promises.boards()
    pieces = [p for p in shop.pieces() if p.outline and p.all_thicknesses_mm and p.id not in held]
    dearest = max((c for p in pieces if (c := _price_per_mm3(p)) is not None), default=0.0)
    found: list[RankedForPart] = []
    for piece in in_turn(pieces):
        if go_on is not None and not go_on(len(found)):
            break
        found.append(_one(shop, piece, part, wanted, today, dearest))
    return sorted(_with_mates(shop, found, wanted), key=lambda r: r.sort_key)


def _one(shop: Shop, piece: Piece, part: Part, wanted: int, today: date, dearest: float) -> RankedForPart:
    from grainet.grade.ranking import standing_of
    from grainet.grade.wanted import sized_as
    from grainet.kit.uses import rule_for_role

    verdict = shop.judgements.part_verdict(piece.id, part)
    rule = sized_as(rule_for_role(shop.kit.every_use, part.role), part)
    standing = standing_of(shop.judgements.facts(piece.id), rule, verdict, today)
    room = _room(piece, part, shop)
    count = verdict.gives or verdict.gives_if
    scores = {
        "grade": standing.rank,
        "margin": _margin(room),
        "mate": 1.0 if count >= wanted else NOT_KNOWN,
        "thrift": _thrift(shop, piece, part, wanted),
        "price": _cheap(piece, part, wanted, dearest),
    }
    price = piece.supply.price
    word, reason = verdict.outcome, verdict.main_reason if verdict.outcome != "gives" else ""
    if part.species_wish and not shop.kit.library.is_one_of(piece.species, part.species_wish):
        word, reason = "wont", "not among the woods wanted"
    return RankedForPart(
        piece.id, word, count, scores, weighed(shop, scores), room, price=price, reason=reason, kept_back=not shows(part) and loudness(piece) >= FIGURED,
    )  # fmt: skip


def weighed(shop: Shop, scores: dict[str, float]) -> float:
    """The mean of some scores, weighed as the house weighs them; 0 where nothing counts."""
    weights = {name: getattr(shop.kit.choosing, name) for name in CRITERIA}
    total = sum(weights.values())
    return sum(weights[name] * scores[name] for name in CRITERIA) / total if total else 0.0


def shows(part: Part) -> bool:
    """Whether the wood of a part is seen on the finished instrument."""
    role = role_of(part.role)
    if role is not None and not FACTS[role].shows:
        return False
    return not part.zones or any(zone.kind in ("seen", "critical") for zone in part.zones if zone.polygon == "rest")


# the criteria, each 0 to 1 --------------------------------------------------------------------------------------------
def _room(piece: Piece, part: Part, shop: Shop) -> tuple[float, float, float]:
    """What a piece has beyond a part and the kit's losses, by its plain sizes, mm."""
    x0, y0, x1, y1 = extents(part.ring)
    kit = shop.kit.cuts
    px0, py0, px1, py1 = piece.extents
    stack = kit.stack_mm(part.thickness_mm, part.leaves) + 2 * kit.skim_mm
    thick = min(piece.all_thicknesses_mm, default=0.0)
    return px1 - px0 - (x1 - x0) - 2 * kit.trim_mm, py1 - py0 - (y1 - y0) - 2 * kit.edge_mm, thick - stack


def _margin(room: tuple[float, float, float]) -> float:
    """How far the scantest of the three is from being too little; 1 from ``FULL_ROOM_MM`` on."""
    return max(0.0, min(1.0, *(has / full for has, full in zip(room, FULL_ROOM_MM))))


def _thrift(shop: Shop, piece: Piece, part: Part, wanted: int) -> float:
    """Half of it the share of the board that the part takes, half that no dearer use is lost with it."""
    lost = [u for u in shop.kit.every_use if _worth(u) > _part_worth(shop, part) and _could_give(piece, u)]
    worth = max((_worth(u) for u in lost), default=0.0)
    dearest = max((_worth(u) for u in shop.kit.every_use), default=1.0) or 1.0
    figured = 0.0 if shows(part) else loudness(piece)
    return 0.5 * min(1.0, _share(piece, part, wanted)) + 0.5 * (1.0 - max(worth / dearest, figured))


def _share(piece: Piece, part: Part, wanted: int) -> float:
    wood = area(part.ring) * part.thickness_mm * part.leaves * max(1, wanted)
    return wood / max(1.0, _volume_mm3(piece))


def _volume_mm3(piece: Piece) -> float:
    return abs(area_mm2(piece.outline)) * (piece.least_thickness_mm or min(piece.all_thicknesses_mm, default=0.0))


def _worth(rule: UseRule) -> float:
    """What a use is worth beside others: the wood that it takes in one clear piece."""
    return rule.length_mm * rule.width_mm * rule.thickness_mm * max(1, rule.leaves)


def _part_worth(shop: Shop, part: Part) -> float:
    from grainet.kit.uses import rule_for_role

    x0, y0, x1, y1 = extents(part.ring)
    own = (x1 - x0) * (y1 - y0) * part.thickness_mm * part.leaves
    return max(own, _worth(rule_for_role(shop.kit.every_use, part.role)))


def _could_give(piece: Piece, rule: UseRule) -> bool:
    """Whether a piece is large enough for a use by its plain sizes."""
    x0, y0, x1, y1 = piece.extents
    thick = max(piece.all_thicknesses_mm, default=0.0)
    return x1 - x0 >= rule.length_mm and y1 - y0 >= rule.width_mm and thick >= rule.thickness_mm * max(1, rule.leaves)


def _price_per_mm3(piece: Piece) -> float | None:
    price, volume = piece.supply.price, _volume_mm3(piece)
    return None if price is None or not volume else price / volume


def _cheap(piece: Piece, part: Part, wanted: int, dearest: float) -> float:
    """1 for wood that cost nothing, 0 for the dearest of the rack by volume; a half where nobody said."""
    price = _price_per_mm3(piece)
    return NOT_KNOWN if price is None or not dearest else 1.0 - price / dearest


# mates ----------------------------------------------------------------------------------------------------------------
def _with_mates(shop: Shop, rows: list[RankedForPart], wanted: int) -> list[RankedForPart]:
    """Where a part is wanted more often than a piece gives it: how well that piece goes with the best other one that gives."""
    giving = [r for r in rows if r.word != "wont"]
    if wanted < 2 or not any(r.count < wanted for r in giving):
        return rows
    known: dict[str, Pairable] = {r.piece: pairable(shop, shop.piece(r.piece)) for r in giving}
    found = []
    for row in rows:
        if row.piece in known and row.count < wanted:
            others = [pair(known[row.piece], one) for name, one in known.items() if name != row.piece]
            best = max(others, key=lambda p: (p.score, p.name), default=None)
            scores = row.scores | {"mate": best.score / 100 if best is not None else 0.0}
            row = replace(
                row, scores=scores, rank=weighed(shop, scores), mate=best.name if best is not None else "",
                mate_score=best.score if best is not None else None,
            )  # fmt: skip
        found.append(row)
    return found
