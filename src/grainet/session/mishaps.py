"""What went wrong in the shop, kept with its place, cause and fix; what has happened three times on a wood or at a tool speaks before the next
such step, and in the note of the species. And how far each edge has cut since it was sharp.
"""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import TYPE_CHECKING

from grainet.session.commands.reader_base import several
from grainet.session.kinds import BENCH, MISHAPS
from grainet.session.learning import learnt_of
from grainet.session.shop import Shop
from grainet.wood.units import LENGTH, LengthStyle, entry_unit, parse_length, tell_length
from grainet.wood.value import BadEntry
from grainet.work.bench_log import BenchLog, told
from grainet.work.operation import SAWING, Said
from grainet.work.record import Mishap, Sharpened
from grainet.work.wear import Wear, wear_of

if TYPE_CHECKING:
    from grainet.wood.species import Species

SPEAKS_FROM = 3
DEAR = 3.0  # times the middle price of the rack
# what usually goes wrong, and at which steps; any other word of the shop's own is as good
KINDS: dict[str, tuple[str, ...]] = {
    "tear-out": ("flatten", "thickness", "joint", "shoot", "profile", "cavity", "bevel"), "burn": ("rip", "drill", "profile", "cavity", "slot"),
    "wander": ("resaw", "outline", "rip"), "chip": ("crosscut", "profile", "slot", "cavity"), "split": ("drill", "insert", "dry", "glue"),
    "slip": ("glue",), "open seam": ("glue",), "snipe": ("flatten", "thickness"), "broken": (), "wrong cut": tuple(sorted(SAWING)),
}  # fmt: skip


def mishaps_of(shop: Shop) -> list[Mishap]:
    """All of them, the last one first."""
    return list(reversed(shop.items.all(MISHAPS)))


def typed(shop: Shop, words: str, board: str, *, tool: str = "", step: str = "", part: str = "", x_mm: float | None = None, y_mm: float | None = None) -> Mishap:  # fmt: skip
    """A mishap as it is told: ``tear-out 420 60 because fed from the marked end, helped: scraped``. The board is the one in hand. Raises
    BadEntry."""
    head, _, rest = words.strip().partition(" because ")
    cause, _, fix = re.sub(r",?\s*helped:?\s*", "\0", rest, count=1).partition("\0") if rest else ("", "", "")
    if not rest and " helped" in head:
        head, _, fix = re.sub(r",?\s+helped:?\s*", "\0", head, count=1).partition("\0")
    found = re.fullmatch(rf"(.*?)(?:\s+(?:at\s+)?({LENGTH}(?:[,\s]+{LENGTH})?))?(?:\s+up)?", head.strip(), re.I)
    kind = found[1].strip().lower() if found else ""
    if not kind or not any(c.isalpha() for c in kind):
        raise BadEntry(
            f"“mishap {words}”: needs what went wrong, such as mishap tear-out 420 60 because fed wrong, helped scraped."
        )
    if extra := re.search(r"(?<!\S)-?[0-9][0-9.,/]*(?!\S)", kind):
        raise BadEntry(
            f"“{extra[0]}” is left over: a mishap has its place along and up at the most, such as mishap tear-out 420 60."
        )
    if len(kind) > 40:
        raise BadEntry("What went wrong in a word or two; the rest after because and helped.")
    if found is not None and found[2]:
        unit = entry_unit(shop.kit.length_style)
        x_mm, *up = (parse_length(text, unit).mm for text in several(found[2]))
        y_mm = up[0] if up else y_mm
    piece = next((p for p in shop.pieces(everything=True) if p.id == board), None)
    taken = {m.id for m in shop.items.all(MISHAPS)}
    number = next(str(n) for n in range(1, 1_000_000) if str(n) not in taken)
    if len(cause) > 300 or len(fix) > 300:
        raise BadEntry("Cause and fix each in at most 300 letters.")
    return Mishap(
        id=number, kind=kind, on=shop.today.isoformat(), board=board, x_mm=x_mm, y_mm=y_mm, species=piece.species if piece is not None else "", tool=tool,
        step=step, part=part, cause=cause.strip(" ,."), fix=fix.strip(" ,."),
    )  # fmt: skip


def sentence(one: Mishap, style: LengthStyle = "mm") -> str:
    """A mishap in a line, its place as the house reads lengths."""
    where = f" on No. {one.board}" if one.board else ""
    if one.x_mm is not None:
        up = f", {tell_length(one.y_mm, style)} up" if one.y_mm is not None else ""
        where += f" at {tell_length(one.x_mm, style)}{up}"
    why = f"; because {one.cause}" if one.cause else ""
    return f"{one.kind.capitalize()}{where}{f', {one.tool}' if one.tool else ''}{why}" + (
        f"; helped: {one.fix}" if one.fix else ""
    )


# what repeats ----------------------------------------------------------------------------------------------------------
@dataclass(frozen=True)
class Repeated:
    """A kind of mishap that has happened three times or more on one wood, or at one tool."""

    kind: str
    species: str  # either the wood
    tool: str  # or the tool
    count: int
    cause: str  # the one that was named most
    fix: str

    @property
    def text(self) -> str:
        """As it is said before the next such step."""
        where = f"in {self.species.lower()}" if self.species else f"at the {self.tool}"
        why = f" Mostly because {self.cause}." if self.cause else ""
        return f"{self.kind.capitalize()} {where}, {self.count} times in this shop.{why}" + (
            f" What helped: {self.fix}." if self.fix else ""
        )


def repeated(mishaps: Sequence[Mishap]) -> list[Repeated]:
    """What has happened at least three times on a wood or at a tool, the most frequent first."""
    groups: dict[tuple[str, str, str], list[Mishap]] = defaultdict(list)
    for one in mishaps:
        if one.species:
            groups[one.kind, one.species, ""].append(one)
        if one.tool:
            groups[one.kind, "", one.tool].append(one)
    found = [
        Repeated(kind, species, tool, len(rows), _most([r.cause for r in rows]), _most([r.fix for r in rows]))
        for (kind, species, tool), rows in groups.items()
        if len(rows) >= SPEAKS_FROM
    ]
    return sorted(found, key=lambda r: (-r.count, r.kind, r.species, r.tool))


def _most(words: Sequence[str]) -> str:
    """The word that was said most, the last one of those alike; empty where none was."""
    said = [w for w in words if w]
    return max(reversed(said), key=said.count) if said else ""


def note_on(shop: Shop, species: str) -> list[str]:
    """What this shop's own mishaps say of a species."""
    return [r.text for r in repeated(shop.items.all(MISHAPS)) if r.species == species]


def said_before(shop: Shop) -> tuple[tuple[tuple[str, ...], str, str, Said], ...]:
    """What repeats, as cautions: at which kinds of steps (none: at any), in which wood or at which tool, and the words."""
    return tuple(
        (KINDS.get(r.kind, ()), r.species, r.tool, Said(code=f"again_{r.kind.replace(' ', '_')}", grade="B", text=r.text))
        for r in repeated(shop.items.all(MISHAPS))
    )


# edges -------------------------------------------------------------------------------------------------------------------
def wear(shop: Shop) -> list[Wear]:
    """Every machine that has cut something: how far since it was sharpened, the dullest first."""
    since = {s.tool: s.at for s in learnt_of(shop).sharpened}
    cuts: dict[str, list[tuple[str, float, Species | None]]] = defaultdict(list)
    for tool, at, long_mm, species in _cuts(shop):
        cuts[tool].append((at, long_mm, species))
    found = [wear_of(tool, rows, since.get(tool, "")) for tool, rows in cuts.items()]
    return sorted(found, key=lambda w: (-w.counts, w.tool))


def _cuts(shop: Shop) -> Iterator[tuple[str, str, float, Species | None]]:
    """Every cut and pass that was ticked: its machine, its instant, how long, in which wood."""
    from grainet.session.making import making_for

    seen: set[tuple[str, str]] = set()  # a plan made anew takes over what the one before it has done
    for plan in shop.plans.all():
        log = shop.items.find(BENCH, plan.id) or BenchLog(id=plan.id)
        under_way = shop.plans.under_way(plan.id) if log.rows else None
        if under_way is None:
            continue
        making = making_for(shop, under_way)
        by = {o.id: o for o in making.operations}
        woods = {p.id: shop.kit.library.find(p.species) for p in under_way.job.pieces}
        origin = {w.id: w.from_ for w in making.workpieces}
        sizes = {p.id: p.extents[2] - p.extents[0] for p in under_way.job.pieces}
        for row in log.rows:
            one = by.get(row.operation)
            if one is None or not one.machine or (row.operation, row.at) in seen:
                continue
            seen.add((row.operation, row.at))
            board = origin.get(one.works_on[0]) or one.board
            long = sum(((bx - ax) ** 2 + (by_ - ay) ** 2) ** 0.5 for (ax, ay), (bx, by_) in zip(one.line, one.line[1:]))
            if one.kind in ("flatten", "thickness", "joint") and not long:
                long = sizes.get(board, 0.0) * len(one.works_on)
            if long:
                yield one.machine, row.at, long, woods.get(board)


def sharpen(shop: Shop, tool: str) -> str:
    """An edge was made sharp; the machine's own name. Raises BadEntry for none of the shop's machines."""
    wanted = tool.strip().lower()
    names = [m.name.lower() for m in shop.kit.machines]
    found = next((n for n in names if n == wanted), None) or next((n for n in names if wanted and n.startswith(wanted)), None)
    if found is None:
        raise BadEntry(f"“{tool}” is no machine of this shop; it has {', '.join(names)}.")
    learnt = learnt_of(shop)
    kept = tuple(s for s in learnt.sharpened if s.tool != found)
    shop.apply(f"{found} sharpened", learnt.changed(sharpened=(*kept, Sharpened(tool=found, at=told(shop.clock())))))
    return found


def sharpen_first(shop: Shop, tool: str, board: str) -> str:
    """Why an edge is to be made sharp before a board, as a sentence: it has cut far, and the board is dear or figured; empty where not."""
    from statistics import median

    piece = next((p for p in shop.pieces(everything=True) if p.id == board), None)
    if piece is None or not tool:
        return ""
    prices = [p.supply.price for p in shop.pieces() if p.supply.price]
    dear = bool(piece.supply.price and prices and piece.supply.price >= DEAR * median(prices))
    if not piece.figure and not dear:
        return ""
    worn = next((w for w in wear(shop) if w.tool == tool and w.counts >= shop.kit.rules.dull_m), None)
    if worn is None:
        return ""
    what = f"No. {board} is {'figured' if piece.figure else 'dear'}"
    return (
        f"The {tool} has cut {worn.metres:.0f} m since it was sharp, which count {worn.counts:.0f}: {what}, so sharpen it first."
    )
