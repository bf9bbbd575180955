"""What the rack would give for one part of a build: the piece that gives it, how many, what is to spare; or the nearest and what it lacks."""

from __future__ import annotations

from dataclasses import dataclass, replace
from functools import partial
from typing import Literal

from grainet.design.blank import Blank
from grainet.design.part import Part
from grainet.design.ways import FROM_ONE_BOARD
from grainet.session.shop import Shop
from grainet.wood.piece import Piece
from grainet.wood.units import LengthStyle, tell_length

Word = Literal["gives", "if", "wont", "none"]
MOST_JUDGED = 12  # pieces looked at exactly for one part; the rest are smaller or poorer by their plain sizes


@dataclass(frozen=True)
class StockAnswer:
    """One part's answer. ``room_mm`` what the piece has to spare in length, width and thickness; ``short`` what it lacks, in words."""

    word: Word
    piece: str = ""
    count: int = 0
    room_mm: tuple[float, float, float] = (0.0, 0.0, 0.0)
    short_mm: float = 0.0
    short: str = ""
    reason: str = ""
    others: tuple[str, ...] = ()  # further pieces that are needed for as many as are wanted
    wanted: int = 1
    style: LengthStyle = "mm"

    @property
    def text(self) -> str:
        """In words, as the lane says it."""
        if self.word == "none":
            return "nothing on the rack"
        number = (
            f"No. {self.piece}" if not self.others else f"Nos. {', '.join((self.piece, *self.others[:-1]))} and {self.others[-1]}"
        )
        if self.word == "wont":
            return f"{number} comes nearest: {self.reason or self.short}"
        length, width, thick = self.room_mm
        told = partial(tell_length, style=self.style)
        room = (
            f"{told(width)} across, {told(thick, form='.1f')} thick to spare"
            if width >= 0 and thick >= 0
            else f"{told(length)} along to spare"
        )
        if self.word == "if":
            return f"{number}, after work: {self.reason}" if self.reason else f"{number}: {self.count} possible, after work"
        verb = "give" if self.others else "gives"
        if self.count < self.wanted:
            return f"{number} {verb} {self.count} of {self.wanted}"
        return f"{number} {verb} {self.count}: {room}"


def needed_mm(blank: Blank) -> tuple[float, float, float]:
    """What the stock must measure: length, width, and the thickness of the leaves together."""
    return blank.length.mm, blank.width.mm, (blank.footprint or blank.thickness).mm


def room_of(piece: Piece, needed: tuple[float, float, float]) -> tuple[float, float, float]:
    """What a piece has beyond what is needed, by its plain sizes, mm; below 0 it lacks that much."""
    x0, y0, x1, y1 = piece.extents
    thick = max(piece.all_thicknesses_mm, default=0.0)
    return x1 - x0 - needed[0], y1 - y0 - needed[1], thick - needed[2]


def free_pieces(shop: Shop) -> list[Piece]:
    """What may be used for something new: measured, and not held by an accepted plan."""
    held = shop.promises.boards()
    return [p for p in shop.pieces() if p.outline and p.all_thicknesses_mm and p.id not in held]


def stock_answer(shop: Shop, part: Part, blank: Blank, wanted: int = 1) -> StockAnswer:
    """The best that the rack has for so many of a part, by the house's own judgement; wood that is promised or kept elsewhere is left
    out. Where one piece does not give them all, the next ones are taken to it; not where they must follow one another in one board."""
    needed = needed_mm(blank)
    if part.fold:  # both halves beside one rip
        needed = needed[0], 2 * needed[1] + shop.kit.cuts.kerf_mm.rip + 2 * part.joint_mm, needed[2]
    whole = wanted > 1 and blank.way in FROM_ONE_BOARD
    free = free_pieces(shop)
    if part.species_wish:
        free = [p for p in free if shop.kit.library.is_one_of(p.species, part.species_wish)]
    rows = sorted(((room_of(p, needed), p) for p in free), key=lambda row: (min(row[0]) < -1e-6, _waste(row[0]), row[1].id))
    if not rows:
        return StockAnswer("none")
    fits = [row for row in rows if min(row[0]) >= -1e-6][:MOST_JUDGED]
    found: list[StockAnswer] = []
    for room, piece in fits:
        verdict = shop.judgements.part_verdict(piece.id, part)
        count = verdict.gives or verdict.gives_if
        why = verdict.main_reason if verdict.outcome != "gives" else ""
        found.append(StockAnswer(verdict.outcome, piece.id, count, room, reason=why, style=shop.kit.length_style))
        enough = [a.count for a in found if a.word == "gives"]
        if (max(enough, default=0) if whole else sum(enough)) >= wanted:
            break
    order = {"gives": 0, "if": 1, "wont": 2, "none": 3}
    if found:
        best = min(found, key=lambda a: (order[a.word], -a.count if wanted > 1 else 0))
        if best.word not in ("gives", "if"):
            return replace(best, wanted=wanted)
        words = ("gives",) if best.word == "gives" else ("gives", "if")
        if whole:  # the one that gives all of them, though another were ready sooner
            best = next((a for a in found if a.word in ("gives", "if") and a.count >= wanted), best)
            return _together(best, [], wanted)
        return _together(best, [a for a in found if a.word in words and a is not best], wanted)
    room, piece = max(rows, key=lambda row: min(row[0]))
    k = min(range(3), key=lambda i: room[i])
    word = ("too short", "too narrow", "too thin")[k]
    short = tell_length(-room[k], shop.kit.length_style, ".0f" if k < 2 else ".1f")
    return StockAnswer("wont", piece.id, 0, room, -room[k], f"{short} {word}")


def _together(best: StockAnswer, more: list[StockAnswer], wanted: int) -> StockAnswer:
    """As many pieces as give what is wanted, the most generous first; fewer than wanted are no yes, and none after work either."""
    count, others = best.count, []
    for one in sorted(more, key=lambda a: -a.count):
        if count >= wanted:
            break
        count += one.count
        others.append(one.piece)
    word: Word = best.word if count >= wanted else "wont"
    short = f"{wanted - count} of {wanted} missing"
    return replace(
        best,
        word=word,
        count=count,
        others=tuple(others),
        wanted=wanted,
        short=short if word == "wont" else "",
        reason=f"{count} of {wanted}" if word == "wont" else best.reason,
    )


def _waste(room: tuple[float, float, float]) -> float:
    """How much more than needed a piece is: the smallest piece that serves is asked first."""
    return sum(max(0.0, r) * weight for r, weight in zip(room, (1.0, 3.0, 20.0)))


def worst_of(answers: list[StockAnswer]) -> StockAnswer | None:
    """The answer that decides where several blanks are asked for together; None where there are none."""
    order = {"none": 0, "wont": 1, "if": 2, "gives": 3}
    return min(answers, key=lambda a: order[a.word], default=None)
