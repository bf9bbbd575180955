"""One open shop: values in memory over the file, edits with undo and redo, verdicts kept until what they rest on changes.

A screen talks to the core through this: ``apply``, ``undo``, ``redo``, ``piece``, ``verdict``, ``job_for``. It knows no Qt.
"""

from __future__ import annotations

import json
import re
import threading
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import date, datetime
from functools import lru_cache
from pathlib import Path
from typing import TYPE_CHECKING, Self, TypeVar

from pydantic import ValidationError

from grainet.design.design import Design
from grainet.exchange.json_file import Unusable
from grainet.grade.counted import as_counted
from grainet.grade.crew import WORTH, Crew
from grainet.grade.verdict import Verdict
from grainet.job.answer import Plan
from grainet.job.job import Bar, Job
from grainet.kept import Kept
from grainet.kit.shop_kit import ShopKit
from grainet.kit.uses import rule_for_role, use_of_role
from grainet.session.promises import Promise, promised
from grainet.session.reservation import Reservation
from grainet.store.caches import cache_file
from grainet.store.guard import UNREADABLE
from grainet.store.shop_file import Change, Entry, ShopFile, ShopLost, ShopUnusable
from grainet.turns import in_turn
from grainet.wood.climate import AirLog, AirReading, YearAir, year_of
from grainet.wood.piece import Piece
from grainet.wood.value import Value, why_not
from grainet.work.cut_plan import CutPlan, Progress, UnderWay

if TYPE_CHECKING:
    from grainet.fit.field import Layers
    from grainet.grade.facts import Facts
    from grainet.grade.ranking import RankedPiece
    from grainet.grade.rulebook import RuleResult
    from grainet.grade.wanted import Wanted
    from grainet.session.asking import Query
    from grainet.session.finding import Finder

KINDS: dict[str, type[Value]] = {
    "piece": Piece, "design": Design, "kit": ShopKit, "cut_plan": CutPlan, "progress": Progress, "air": AirLog, "reservation": Reservation,
}  # fmt: skip
PREFIX = {
    "piece": "piece:",
    "design": "design:",
    "kit": "",
    "cut_plan": "cut_plan:",
    "progress": "progress:",
    "air": "air:",
    "reservation": "reservation:",
}
Listener = Callable[[], None]
T = TypeVar("T")
UNTOLD_KIT = ShopKit()
JUDGED = ("cuts", "temperature_c", "humidity", "limits", "rules", "species", "figure_words", "year")  # what verdicts rest on
MOST_VERDICTS, MOST_FACTS, MOST_LAYERS = 60_000, 25_000, 24  # kept at once: rasters are large, a verdict is small
CACHED_FROM = 400  # a smaller rack is worked out again sooner than read


def item_id(value: Value) -> str:
    """The id of an item in the file: its kind and its own id."""
    kind = kind_of(value)
    return PREFIX[kind] + str(value.id)  # type: ignore[attr-defined]


def kind_of(value: Value) -> str:
    return next(kind for kind, model in KINDS.items() if type(value) is model)


def _columns(kind: str, text: str | None) -> dict[str, object]:
    if kind != "piece" or text is None:
        return {}
    try:
        data = json.loads(text)
    except ValueError:  # a text that cannot be read is kept as it is, and found by nothing
        return {}
    if not isinstance(data, dict):
        return {}
    thick = (
        [s["thickness_mm"] for s in data.get("stations", [])] or [data["thickness_mm"]]
        if data.get("stations") or data.get("thickness_mm")
        else []
    )
    columns: dict[str, object] = {
        "species": data.get("species", "unknown"),
        "place": data.get("place", ""),
        "thickness_mm": min(thick, default=None),
    }
    if data.get("outline"):
        xs, ys = zip(*data["outline"])
        columns |= {"length_mm": max(xs) - min(xs), "width_mm": max(ys) - min(ys)}
    return columns


@dataclass(frozen=True)
class SetAside:
    """An item of the file that cannot be understood: its name there, its kind, and why."""

    id: str
    kind: str
    why: str

    @property
    def said(self) -> str:
        """In a sentence: "Piece 18 cannot be understood: outline crosses itself near (412, 88)."."""
        number = self.id.partition(":")[2] or self.id
        return f"{self.kind.capitalize()} {number} cannot be understood: {self.why}."


class Shop:
    """An open shop folder."""

    def __init__(self, file: ShopFile) -> None:
        self.file = file
        self._values: dict[str, Value] = {}
        self._broken: dict[str, SetAside] = {}
        self._waiting: list[tuple[str, list[Change]]] = []
        self._waiting_undone: list[tuple[str, list[Change]]] = []
        self.adrift = ""  # why edits are kept in memory only, or empty
        self._order: dict[str, list[str]] = {}
        self._verdicts: Kept[tuple[str, str, str | None], tuple[object, Verdict]] = Kept(MOST_VERDICTS)
        self._wanted: Kept[tuple[str, str | None], tuple[object, Wanted]] = Kept(400)
        self._layers: Kept[str, tuple[object, Layers]] = Kept(MOST_LAYERS)
        self._facts: Kept[str, tuple[object, Facts]] = Kept(MOST_FACTS)
        self._mark: tuple[ShopKit, tuple[object, ...], object] | None = None
        self._finder: Finder | None = None
        self._finder_version = -1
        self._finder_lock = threading.Lock()  # asked and kept up from the window's pool
        self._standings: Kept[tuple[str, str, str | None], tuple[object, RankedPiece]] = Kept(MOST_VERDICTS)
        self.crew = Crew()
        self._sorting = threading.Lock()  # the crew answers one question at a time
        self._turn = threading.RLock()  # one board at a time is judged: two at once would only slow each other, and the window
        self._air: tuple[int, list[AirReading], tuple[object, YearAir] | None] | None = None
        self._listeners: list[Listener] = []
        self.version = 0
        self._promises: tuple[int, dict[str, Promise]] | None = None
        self._racks: dict[bool, tuple[int, list[Piece]]] = {}
        self._places: tuple[int, dict[str, int]] | None = None
        self._load_order()

    @classmethod
    def open(cls, folder: Path, create: bool = False, read_only: bool = False) -> Self:
        """Open (or make) a shop. Raises ShopUnusable with a sentence where that cannot be done."""
        return cls(ShopFile(Path(folder), create, read_only))

    def __enter__(self) -> Self:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def close(self) -> None:
        self.crew.close()
        self.file.close()

    # values -------------------------------------------------------------------------------------------------------
    def _load_order(self) -> None:
        self._texts: dict[str, tuple[str, str]] = {}
        self._order = {}
        try:
            items = self.file.items()
        except UNREADABLE as fault:
            raise ShopUnusable(f"{self.file.path.name} cannot be read: {fault}. It was left as it is.") from None
        for item in items:
            if not all(isinstance(part, str) for part in (item.id, item.kind, item.json)):
                self._broken[str(item.id)[:80]] = SetAside(str(item.id)[:80], str(item.kind), "it is not kept as text")
            elif item.kind not in KINDS:
                self._broken[item.id] = SetAside(item.id, item.kind, f"“{item.kind}” is no kind of thing that this Grainet knows")
            else:
                self._texts[item.id] = (item.kind, item.json)
                self._order.setdefault(item.kind, []).append(item.id)

    def _value(self, name: str) -> Value:
        """Parsed when first asked for, so that a large shop opens quickly. Raises ShopUnusable for one that is set aside."""
        if name not in self._values:
            if name not in self._broken:
                self._parse(name)
            if name in self._broken:
                raise ShopUnusable(f"{self._broken[name].said} It was left as it is.")
        return self._values[name]

    def _parse(self, name: str) -> None:
        """Read one item, or set it aside with the reason: one that cannot be understood must not keep the shop shut."""
        kind, text = self._texts[name]
        try:
            value = KINDS[kind].model_validate_json(text)
            if item_id(value) != name:
                raise ValueError(f"it stands under the name of {item_id(value)}")
        except ValidationError as fault:
            self._broken[name] = SetAside(name, kind, why_not(fault))
        except (ValueError, RecursionError) as fault:
            self._broken[name] = SetAside(name, kind, str(fault))
        else:
            self._values[name] = value

    def _readable(self, kind: str) -> list[Value]:
        """Every item of a kind that can be understood, in the order of their making."""
        found = []
        for name in self._order.get(kind, []):
            if name not in self._values and name not in self._broken:
                self._parse(name)
            if name in self._values:
                found.append(self._values[name])
        return found

    def _has(self, name: str) -> bool:
        """Whether an item is there and can be understood."""
        if name in self._values:
            return True
        if name not in self._texts:
            return False
        if name not in self._broken:
            self._parse(name)
        return name in self._values

    @property
    def set_aside(self) -> list[SetAside]:
        """The items that could not be understood, as far as they were asked for; the file has them as they were."""
        return list(self._broken.values())

    def look_through(self) -> list[SetAside]:
        """Read everything once, and what could not be understood."""
        for kind in KINDS:
            self._readable(kind)
        return self.set_aside

    def text_of(self, name: str) -> str:
        """What stands in the file for an item, understood or not."""
        return self._texts[name][1] if name in self._texts else ""

    def pieces(self, everything: bool = False) -> list[Piece]:
        """Pieces on the rack by number; ``everything`` has those sawn up too."""
        kept = self._racks.get(everything)
        if kept is None or kept[0] != self.version:
            kept = self._racks[everything] = (self.version, self._sorted_pieces(everything))
        return list(kept[1])

    def place_on_rack(self, piece_id: str) -> int | None:
        """Where a piece comes in ``pieces()``; None where it is not on the rack."""
        kept = self._places
        if kept is None or kept[0] != self.version:
            kept = self._places = (self.version, {p.id: k for k, p in enumerate(self.pieces())})
        return kept[1].get(piece_id)

    def _sorted_pieces(self, everything: bool) -> list[Piece]:
        found = self._readable("piece")
        rack = [p for p in found if isinstance(p, Piece) and (everything or not p.gone)]
        return sorted(rack, key=lambda p: _natural(p.id))

    def piece(self, piece_id: str) -> Piece:
        value = self._value(PREFIX["piece"] + piece_id)
        assert isinstance(value, Piece)
        return value

    def has_piece(self, piece_id: str) -> bool:
        return self._has(PREFIX["piece"] + piece_id)

    def number_taken(self, piece_id: str) -> bool:
        """Whether a number is used, by a piece that is set aside too."""
        return PREFIX["piece"] + piece_id in self._texts or PREFIX["piece"] + piece_id in self._broken

    @property
    def kit(self) -> ShopKit:
        value = self._value("kit") if self._has("kit") else UNTOLD_KIT  # one and the same, for verdicts rest on it
        assert isinstance(value, ShopKit)
        return value

    def designs(self) -> list[Design]:
        return self._readable("design")  # type: ignore[return-value]

    def cut_plans(self) -> list[CutPlan]:
        """Every plan that the shop keeps, the ones that were replaced too."""
        return self._readable("cut_plan")  # type: ignore[return-value]

    def under_way(self, plan_id: str) -> UnderWay | None:
        """A plan with its progress; None where there is no such plan."""
        name, progress = PREFIX["cut_plan"] + plan_id, PREFIX["progress"] + plan_id
        if not self._has(name):
            return None
        known = self._value(progress) if self._has(progress) else Progress(id=plan_id)
        return UnderWay(self._value(name), known)  # type: ignore[arg-type]

    def accepted(self) -> list[UnderWay]:
        """The plans that are sawn by, in the order in which they were accepted."""
        return [u for p in self.cut_plans() if p.state == "accepted" and (u := self.under_way(p.id)) is not None]

    def accepted_for(self, design_id: str | None) -> UnderWay | None:
        """The plan that a design is sawn by, if there is one; the newest where it is built more than once."""
        return next((u for u in reversed(self.accepted()) if design_id in u.designs), None)

    def accept(self, design: Design, job: Job, plan: Plan, opening: str = "") -> CutPlan:
        """Keep a plan as the one that a design is sawn by. A plan of which nothing is sawn gives way to it; of one that is being sawn the
        new one takes over what it has in common. Raises ShopUnusable."""
        old = self.accepted_for(design.id)
        taken = {p.id for p in self.cut_plans()}
        number = next(n for n in (design.id, *(f"{design.id}-{k}" for k in range(2, 10_000))) if n not in taken)
        new = CutPlan(id=number, designs=(design.id,), job=job, plan=plan, opening=opening)
        values: list[Value] = [new]
        if old is not None:
            values.append(old.cut_plan.changed(state="replaced", reason=f"planned anew as {number}"))
            common = set(new.names.values())
            done, agreed = (tuple(n for n in names if n in common) for names in (old.progress.done, old.progress.agreed))
            if done or agreed or old.returned:
                values.append(Progress(id=number, done=done, agreed=agreed, returned=old.returned))
        self.apply(f"{design.name} laid out", *values)
        return new

    def next_number(self, parent: str | None = None) -> str:
        """The next free number: 18 after 17, or 42.1 for an offcut of 42."""
        prefix = PREFIX["piece"]
        taken = {name.removeprefix(prefix) for name in (*self._order.get("piece", ()), *self._broken) if name.startswith(prefix)}
        if parent is not None:
            return next(f"{parent}.{n}" for n in range(1, 10_000) if f"{parent}.{n}" not in taken)
        numbers = [int(m[0]) for p in taken if (m := re.match(r"[0-9]{1,9}", p))]
        return str(max(numbers, default=0) + 1)

    # edits --------------------------------------------------------------------------------------------------------
    def apply(self, label: str, *values: Value, remove: Sequence[Value] = ()) -> bool:
        """Keep values (and drop others) in one journalled step. False where nothing changes. Raises ShopUnusable.

        Where the shop's file was moved, deleted or replaced meanwhile, the edit is kept in memory and ``adrift`` says so.
        """
        after: dict[str, tuple[str, str | None]] = {
            item_id(v): (kind_of(v), v.model_dump_json(exclude_defaults=True, by_alias=True)) for v in values
        }
        after |= {item_id(v): (kind_of(v), None) for v in remove}
        changes = self._write(label, after)
        if not changes:
            return False
        fresh = {item_id(v): v for v in values}
        for change in changes:
            self._follow(change.id, change.kind, change.after, fresh.get(change.id))
        self._changed()
        return True

    def _write(self, label: str, after: dict[str, tuple[str, str | None]]) -> Sequence[Change]:
        """Write to the file, and what waits in memory before it; to memory alone while the file is lost."""
        columns = {name: _columns(kind, text) for name, (kind, text) in after.items()}
        try:
            if self._waiting and not self.file.lost():
                self._write_waiting(self.file)
            entry = self.file.apply(label, _now(), after, columns)
            return entry.changes if entry is not None else ()
        except ShopLost as fault:
            self.adrift = str(fault)
        changes = [
            Change(name, kind, self._texts[name][1] if name in self._texts else None, text)
            for name, (kind, text) in after.items()
        ]
        changes = [c for c in changes if c.before != c.after]
        if changes:
            self._waiting.append((label, changes))
            self._waiting_undone.clear()
        return changes

    def _write_waiting(self, file: ShopFile) -> None:
        """Bring the edits that were kept in memory into a file, each as the step it was."""
        while self._waiting:
            label, changes = self._waiting[0]
            after = {c.id: (c.kind, c.after) for c in changes}
            file.apply(label, _now(), after, {c.id: _columns(c.kind, c.after) for c in changes})
            del self._waiting[0]
        self.adrift = ""

    def save_elsewhere(self, folder: Path) -> None:
        """Write the shop with everything in memory to a new folder and go on there. Raises ShopUnusable; then nothing changes."""
        self.file.copy_to(folder)
        fresh = ShopFile(folder)
        self._write_waiting(fresh)
        self.file.close()
        self.file = fresh
        self._changed()

    @property
    def kept_in_memory(self) -> int:
        """How many edits wait in memory because the shop's file is lost."""
        return len(self._waiting)

    def undo(self) -> str | None:
        """Take the last edit back; its label, or None when there is none."""
        if self._waiting:
            label, changes = self._waiting.pop()
            self._waiting_undone.append((label, changes))
            return self._step(Entry(0, "", label, "undo", None, tuple(Change(c.id, c.kind, c.after, c.before) for c in changes)))
        return self._step(self.file.undo(_now(), _columns))

    def redo(self) -> str | None:
        """Make the last undone edit again; its label, or None when there is none."""
        if self._waiting_undone:
            label, changes = self._waiting_undone.pop()
            self._waiting.append((label, changes))
            return self._step(Entry(0, "", label, "redo", None, tuple(changes)))
        return self._step(self.file.redo(_now(), _columns))

    def _step(self, entry: Entry | None) -> str | None:
        if entry is None:
            return None
        for change in entry.changes:
            self._follow(change.id, change.kind, change.after, None)
        self._changed()
        return str(entry.label)

    def _follow(self, name: str, kind: str, text: str | None, value: Value | None) -> None:
        self._values.pop(name, None)
        self._broken.pop(name, None)
        if text is None:
            self._texts.pop(name, None)
            if name in self._order.get(kind, []):
                self._order[kind].remove(name)
            return
        if name not in self._texts:
            self._order.setdefault(kind, []).append(name)
        self._texts[name] = (kind, text)
        if value is not None:
            self._values[name] = value

    def _changed(self) -> None:
        self.version += 1
        for listener in list(self._listeners):
            listener()

    def listen(self, listener: Listener) -> None:
        """Call ``listener`` after every change."""
        self._listeners.append(listener)

    def saw_apart(self, piece_id: str, tool: str, at_mm: float) -> tuple[Piece, Piece]:
        """Saw a piece apart by hand: two pieces come to the rack and the parent leaves it, in one step. Raises BadEntry."""
        from grainet.session.splitting import sawn_apart

        piece = self.piece(piece_id)
        first = self.next_number(piece_id)
        second = f"{piece_id}.{int(first.rpartition('.')[2]) + 1}"
        halves = sawn_apart(piece, tool, at_mm, self.kit.cuts, (first, second))
        self.apply(f"No. {piece_id} sawn apart", piece.changed(gone=tool), *halves)
        return halves

    def bring_in_stock(self, pieces: Sequence[Piece]) -> int:
        """Keep pieces from a list in one step. Raises Unusable where a number is taken by a different piece."""
        clash = [p.id for p in pieces if self.number_taken(p.id) and not (self.has_piece(p.id) and self.piece(p.id) == p)]
        if clash:
            raise Unusable(
                [f"stock: number {c} is on the rack already with other figures; nothing was brought in" for c in clash]
            )
        new = [p for p in pieces if not self.has_piece(p.id)]
        if new:
            self.apply(f"{len(new)} pieces from a list", *new)
        return len(new)

    # judging ------------------------------------------------------------------------------------------------------
    def wanted(self, use: str, design_id: str | None = None) -> Wanted:
        """What a use asks for while a build is in hand: the build's own part, else the use by size; one and the same while both stay."""
        from grainet.grade.wanted import wanted_for

        rule, design = self.kit.use(use), next((d for d in self.designs() if d.id == design_id), None)
        basis = (rule, design)  # the values themselves: an address may come to belong to another value
        kept = self._wanted.get((use, design_id))
        if kept is None or kept[0] != basis:
            kept = self._wanted.put((use, design_id), (basis, wanted_for(rule, design)))
        return kept[1]

    def verdict(self, piece_id: str, use: str, design_id: str | None = None) -> Verdict:
        """The verdict on a piece for a use, or for the part of that use of a build; anew only when what it rests on has changed."""
        from grainet.grade.judge import judge  # brings in SciPy and OpenCV: not at the start

        piece, kit, wanted = self.piece(piece_id), self.kit, self.wanted(use, design_id)
        basis = (piece, wanted, self._judged_by)
        kept = self._verdicts.get((piece_id, use, design_id))
        if kept is None or kept[0] != basis:
            with self._turn:
                made = judge(
                    as_counted(piece), wanted.rule, kit, lambda: self.layers(piece_id), self.facts(piece_id), wanted.part
                )
            kept = self._verdicts.put((piece_id, use, design_id), (basis, made))
        return kept[1]

    @property
    def _judged_by(self) -> object:
        """A mark that changes when what judging rests on in the kit changes: not with its colours, names or glues."""
        kit = self.kit
        if self._mark is None or self._mark[0] is not kit:
            told = tuple(getattr(kit, name) for name in JUDGED)
            same = self._mark is not None and self._mark[1] == told
            self._mark = (kit, told, self._mark[2] if same and self._mark else object())
        return self._mark[2]

    def known_verdict(self, piece_id: str, use: str, design_id: str | None = None) -> Verdict | None:
        """The verdict if it is worked out already and still true."""
        kept = self._verdicts.get((piece_id, use, design_id))
        basis = (self.piece(piece_id), self.wanted(use, design_id), self._judged_by)
        return kept[1] if kept is not None and kept[0] == basis else None

    def standings(
        self, use: str, today: date, design_id: str | None = None, go_on: Callable[[int], bool] | None = None
    ) -> dict[str, RankedPiece]:  # fmt: skip
        """Where every piece of the rack stands for a use; a large rack is judged by the crew. ``go_on`` hears how many were judged,
        and ends it early by saying no."""
        from grainet.grade.judging import Asked
        from grainet.grade.ranking import standing_of
        from grainet.grade.ready import prepare

        wanted, pieces = self.wanted(use, design_id), self.pieces()
        basis = {p.id: (p, wanted, self._judged_by, self.year, today) for p in pieces}
        kept = {p.id: self._standings.get((p.id, use, design_id)) for p in pieces}
        known = {name: k[1] for name, k in kept.items() if k is not None and k[0] == basis[name]}
        missing = [p for p in pieces if p.id not in known]
        if len(missing) >= WORTH:
            asked = Asked(self.kit, self.year, wanted, today)
            with self._sorting:
                found = self.crew.standings(missing, asked, None if go_on is None else lambda n: go_on(len(known) + n))
            for one in found:
                known[one.piece] = self._standings.put((one.piece, use, design_id), (basis[one.piece], one))[1]
        else:
            prepare(missing, self.kit)
        for piece in in_turn(p for p in missing if p.id not in known):
            if go_on is not None and not go_on(len(known)):
                break
            one = standing_of(self.facts(piece.id), wanted.rule, self.verdict(piece.id, use, design_id), today)
            known[piece.id] = self._standings.put((piece.id, use, design_id), (basis[piece.id], one))[1]
        return known

    def facts(self, piece_id: str) -> Facts:
        """What is known of a piece, kept while it, the kit and the air log stay as they are."""
        from grainet.grade.facts import Facts

        piece, kit, year = self.piece(piece_id), self.kit, self.year
        basis = (piece, self._judged_by, year)
        kept = self._facts.get(piece_id)
        if kept is None or kept[0] != basis:
            kept = self._facts.put(piece_id, (basis, Facts(piece, kit, year)))
        return kept[1]

    def rule_lines(self, piece_id: str, use: str, design_id: str | None = None) -> list[RuleResult]:
        """Every rule of a use on a piece: what was found, what is wanted, and what would help."""
        from grainet.grade.rulebook import lines

        return lines(self.facts(piece_id), self.wanted(use, design_id).rule)

    def steady(self, work: Callable[[], T]) -> T:
        """Work that reads the shop on another thread while the window edits it: done again where an edit came between and it failed."""
        for _ in range(4):
            version = self.version
            try:
                return work()
            except (KeyError, IndexError, ShopUnusable, RuntimeError):
                if self.version == version:
                    raise
        return work()

    # the shop's air -----------------------------------------------------------------------------------------------
    @property
    def air(self) -> list[AirReading]:
        """Every reading of the air log, oldest first."""
        if self._air is None or self._air[0] != self.version:
            logs = self._readable("air")
            found = sorted((r for log in logs if isinstance(log, AirLog) for r in log.readings), key=lambda r: r.at)
            if self._air is not None and self._air[1] == found:
                self._air = (self.version, self._air[1], self._air[2])
            else:
                self._air = (self.version, found, None)
        return self._air[1]

    @property
    def year(self) -> YearAir:
        """The year's air: the log where it reaches, the kit's guess elsewhere."""
        readings, guess = self.air, self.kit.year
        assert self._air is not None
        if self._air[2] is None or self._air[2][0] is not guess:
            self._air = (self._air[0], self._air[1], (guess, year_of(readings, guess)))
        assert self._air[2] is not None
        return self._air[2][1]

    def log_air(self, readings: Sequence[AirReading]) -> int:
        """Keep readings of the shop's air by month in one step; those of a time that is logged already are left out."""
        known = {r.at for r in self.air}
        fresh = {r.at: r for r in readings if r.at not in known}
        months: dict[str, list[AirReading]] = {}
        for one in fresh.values():
            months.setdefault(one.at[:7], []).append(one)
        logs = []
        for month, new in months.items():
            name = PREFIX["air"] + month
            old = self._value(name).readings if self._has(name) else ()  # type: ignore[attr-defined]
            logs.append(AirLog(id=month, readings=tuple(sorted((*old, *new), key=lambda r: r.at))))
        if logs:
            self.apply(f"{len(fresh)} readings of the air", *logs)
        return len(fresh)

    # asking the rack ----------------------------------------------------------------------------------------------
    def ask(self, query: Query) -> frozenset[str]:
        """The numbers of the pieces on the rack that answer a question and are free: what plans or claims hold is left out, or asked
        for by the word promised. Rows that are not kept up yet are looked at one by one."""
        free, held = self.answers(query)
        return held if "promised" in query.words else free

    def answers(self, query: Query) -> tuple[frozenset[str], frozenset[str]]:
        """The pieces that answer a question: those that are free, and those that plans or claims hold."""
        with self._finder_lock:
            found = self._finder_now().find(self.pieces(), query, self.kit)
        held = self.promises().keys() | {r.piece for r in self.reservations() if r.whole}
        return found - held, found & held

    def keep_rows(self, seconds: float = 0.2) -> int:
        """Work out rows of pieces that changed, for so long; how many are still to do. The last one writes the cache."""
        with self._finder_lock:
            finder, kit = self._finder_now(), self.kit
            pieces, texts = {p.id: p for p in self.pieces()}, self._rack_texts()
            missing = finder.missing(texts, kit)
            until = time.monotonic() + seconds
            left = len(missing)
            for name in in_turn(missing):
                if time.monotonic() >= until:
                    break
                finder.keep(pieces[name], texts[name], kit)
                left -= 1
            if missing and not left and len(texts) >= CACHED_FROM:
                finder.save(cache_file(self.file.folder, "rows.npz"))
            return left

    def _finder_now(self) -> Finder:
        """The rows; those of pieces that changed or are gone count no more."""
        from grainet.session.finding import Finder

        if self._finder is None:
            self._finder = Finder()
            self._finder.load(cache_file(self.file.folder, "rows.npz"))
        if self._finder_version != self.version:
            for name in self._finder.missing(self._rack_texts(), self.kit):
                self._finder.drop(name)
            self._finder_version = self.version
        return self._finder

    def _rack_texts(self) -> dict[str, str]:
        texts = self._texts
        return {p.id: texts[name][1] for p in self.pieces() if (name := PREFIX["piece"] + p.id) in texts}

    # reservations -------------------------------------------------------------------------------------------------
    def reservations(self) -> list[Reservation]:
        return self._readable("reservation")  # type: ignore[return-value]

    def layers(self, piece_id: str) -> Layers | None:
        """The rasters of a measured piece, kept while it and the kit stay as they are."""
        from grainet.fit.field import Layers
        from grainet.fit.sheet import Sheet
        from grainet.grade.judge import GRADE_STEP_MM

        piece, kit = self.piece(piece_id), self.kit
        if not piece.outline or not piece.all_thicknesses_mm:
            return None
        basis = (piece, self._judged_by)
        kept = self._layers.get(piece_id)
        if kept is None or kept[0] != basis:
            kept = self._layers.put(piece_id, (basis, Layers(Sheet(as_counted(piece), kit.cuts), GRADE_STEP_MM)))
        return kept[1]

    def promises(self) -> dict[str, Promise]:
        """The boards that accepted plans still want to saw, by number: nobody else is offered them."""
        if self._promises is None or self._promises[0] != self.version:
            self._promises = (self.version, promised(self.accepted(), self.designs()))
        return self._promises[1]

    # planning -----------------------------------------------------------------------------------------------------
    def rest_crew(self) -> None:
        """Let the judging programs go where they have nothing in hand: the planner wants the memory."""
        if self._sorting.acquire(blocking=False):
            try:
                self.crew.close()
            finally:
                self._sorting.release()

    def job_for(self, designs: Sequence[Design]) -> Job:
        """The job of planning builds over the rack: measured pieces only, and what the house rules bar."""
        kit = self.kit
        usable = [as_counted(p) for p in in_turn(self.pieces()) if p.outline and p.all_thicknesses_mm]
        parts = [p for d in designs for p in d.parts]
        owners = {p.id: frozenset(d.id for d in designs if p in d.parts) for p in parts}
        bars = [
            bar for piece in in_turn(usable) for part in parts if (bar := self._bar(piece, part, owners[part.id])) is not None
        ]
        thickest = max((kit.cuts.stack_mm(p.thickness_mm, p.leaves) for p in parts), default=0.0)
        return Job(
            kit=kit.cuts_for(thickest),
            pieces=tuple(usable),
            parts=tuple(parts),
            builds=tuple(d.build for d in designs),
            barred=tuple(bars),
        )

    def _bar(self, piece: Piece, part, owners: frozenset[str]) -> Bar | None:  # type: ignore[no-untyped-def]
        """Why the shop would not take a part from a piece, geometry apart."""
        from grainet.grade.rulebook import asked_first

        if piece.unswept_faces:
            return Bar(part=part.id, piece=piece.id, why=f"face {piece.unswept_faces[0]} is not swept for metal", code="metal")
        if part.species_wish:
            library = self.kit.library
            wished = {found.common for name in part.species_wish for found in library.matches(name)}
            species = library.find(piece.species)
            if species is None or species.common not in wished:
                return Bar(
                    part=part.id,
                    piece=piece.id,
                    why=f"{library.short_name(piece.species)} is not among the woods wanted",
                    code="species",
                )
        promise = self.promises().get(piece.id)
        if promise is not None and promise.design not in owners:
            return Bar(part=part.id, piece=piece.id, why=f"promised to {promise.name}", code="promised")
        claim = next((r for r in self.reservations() if r.piece == piece.id and r.whole and r.design not in owners), None)
        if claim is not None:
            return Bar(part=part.id, piece=piece.id, why=f"kept for {claim.claimed_for}", code="claimed")
        from grainet.grade.judge import plainly_too_small

        upright = not part.tilt_deg and all(t % 180 == 0 for t in part.turns_deg)
        if upright and plainly_too_small(piece, part, self.kit.cuts) is not None:
            return None  # the planner says so by the figures, and nobody needs to judge the wood
        rule = rule_for_role(self.kit.every_use, part.role)
        unknown = "" if use_of_role(part.role) else " (it has no role: judged as strictly as a neck)"
        for one in asked_first(self.facts(piece.id), rule):
            if one.outcome == "wont" or one.rule in ("moisture", "core", "rest"):
                return Bar(part=part.id, piece=piece.id, why=one.phrase + unknown, code=one.rule)
        return None


@lru_cache(maxsize=30_000)
def _natural(name: str) -> tuple[object, ...]:
    return tuple((0, int(t), "") if t[0] in "0123456789" else (1, 0, t) for t in re.findall(r"[0-9]{1,18}|[^0-9]+", name))


def _now() -> str:
    return datetime.now().isoformat(timespec="seconds")
