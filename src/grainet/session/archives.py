"""Another shop, or an older state of this one, beside this shop: what each has that the other has not, what differs, and bringing it in.

Everything that is brought in is one step of the journal, and one undo.
"""

from __future__ import annotations

import shutil
from collections.abc import Collection
from contextlib import suppress
from dataclasses import dataclass
from pathlib import Path

from grainet.session.import_preview import differences
from grainet.session.kinds import ALL, KIT, LEARNT, PIECES, ItemKind
from grainet.session.shop import Shop
from grainet.store.archive import Packed, write_archive
from grainet.store.photos import FOLDER as PHOTOS
from grainet.wood.value import Value
from grainet.work.bench_log import told

# what is called what it is: the plural by which a person knows a kind
WORDS: dict[str, str] = {
    "piece": "pieces", "design": "builds", "instrument": "guitars", "kit": "the kit book", "cut_plan": "plans", "progress": "progress of plans", "air": "logs of the air",
    "bench": "bench logs", "reservation": "promises", "record": "records", "mishap": "mishaps", "learnt": "what was learnt",
}  # fmt: skip

OWN = (KIT, LEARNT)  # never brought in


@dataclass(frozen=True)
class Beside:
    """One item of two shops: its kind and number, and whether it is only there, only here, or told otherwise (with how, in words)."""

    kind: str
    number: str
    stands: str  # "there", "here", "differs"
    words: str = ""

    @property
    def may_come(self) -> bool:
        """Whether it can be brought in at all: the kit book and what was learnt are this shop's own."""
        return self.kind not in {kind.name for kind in OWN}


def pack(shop: Shop, target: Path) -> Packed:
    """The whole shop as one file. Raises ShopUnusable."""
    return write_archive(shop.file.folder, target, shop.kit.name, told(shop.clock()))


def compared(shop: Shop, other: Shop) -> list[Beside]:
    """Everything that is not the same in both, kind by kind in the order of their making. What cannot be read in either is passed over."""
    found: list[Beside] = []
    for kind in ALL:
        mine, theirs = _values(shop, kind), _values(other, kind)
        for number, value in theirs.items():
            if kind in OWN and number not in mine:
                continue
            if number not in mine:
                found.append(Beside(kind.name, number, "there"))
            elif mine[number] != value:
                words = differences(mine[number], value) if kind is PIECES else ""  # type: ignore[arg-type]
                found.append(Beside(kind.name, number, "differs", words))
        found += [Beside(kind.name, number, "here") for number in mine if number not in theirs and kind not in OWN]
    return found


def _values(shop: Shop, kind: ItemKind) -> dict[str, Value]:  # type: ignore[type-arg]
    return {str(v.id): v for v in shop.items.all(kind)}


def counted(rows: Collection[Beside]) -> list[str]:
    """How many of each, in words: "12 pieces are only there"."""
    ends = {"there": "only there", "differs": "told otherwise there", "here": "only here"}
    found = []
    for stands, words in ends.items():
        for name, plural in WORDS.items():
            count = sum(r.kind == name and r.stands == stands for r in rows)
            if count:
                what = plural.removeprefix("the ") if name in ("kit", "learnt") else plural
                found.append(f"{count} {what} {words}" if name not in ("kit", "learnt") else f"{what} {words}")
    return found


def bring(shop: Shop, other: Shop, rows: Collection[Beside], *, replace: bool = False) -> int:
    """Bring in what is only there, and with ``replace`` what is told otherwise there; photos come along. The kit book is never replaced: it is
    this shop's own. How many items came. Raises ShopUnusable."""
    by_name: dict[str, ItemKind[Value]] = {kind.name: kind for kind in ALL}  # type: ignore[misc]
    wanted = {"there", "differs"} if replace else {"there"}
    values: list[Value] = []
    for row in rows:
        kind = by_name[row.kind]
        found = other.items.find(kind, row.number) if row.stands in wanted and row.may_come else None
        values += [found] if found is not None else []
    if not values:
        return 0
    _photos(shop, other)
    shop.apply(f"{len(values)} things from {other.kit.name}", *values)
    return len(values)


def _photos(shop: Shop, other: Shop) -> None:
    """Originals that are only there; each is called by its own checksum, so that none can take another's place."""
    target = shop.file.folder / PHOTOS
    target.mkdir(exist_ok=True)
    for photo in (other.file.folder / PHOTOS).glob("*"):
        if photo.is_file() and not photo.is_symlink() and not (target / photo.name).exists():
            with suppress(OSError):
                shutil.copy2(photo, target / photo.name)
