"""The items of one open shop: values in memory over the file, parsed when first asked for, with undo and redo.

Nothing here knows what a piece or a plan is; it keeps values of the registered kinds, and every edit through a crash. Where the shop's
file is lost, edits are kept in memory until they can be written.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import TypeVar

from pydantic import ValidationError

from grainet.clock import Clock, wall_clock
from grainet.session.kinds import KINDS, PIECES, ItemKind, item_id, kind_of, texts_of
from grainet.store.guard import UNREADABLE
from grainet.store.observations import KIND as OBSERVATION
from grainet.store.observations import read_name, whole_text
from grainet.store.shop_file import Change, Entry, ShopFile, ShopLost, ShopUnusable
from grainet.wood.value import Value, why_not

Listener = Callable[[], None]
V = TypeVar("V", bound=Value)


@dataclass(frozen=True)
class SetAside:
    """An item of the file that cannot be understood: its name there, its kind, and why."""

    id: str
    kind: str
    why: str

    @property
    def message(self) -> str:
        """In a sentence: "Piece 18 cannot be understood: outline crosses itself near (412, 88)."."""
        number = self.id.partition(":")[2] or self.id
        return f"{self.kind.capitalize()} {number} cannot be understood: {self.why}."


class Items:
    """Every value of a shop by kind and id."""

    def __init__(self, file: ShopFile, clock: Clock = wall_clock) -> None:
        self.file, self.clock = file, clock
        self.version = 0  # raised with every change
        self.adrift = ""  # why edits are kept in memory only, or empty
        self._values: dict[str, Value] = {}
        self._broken: dict[str, SetAside] = {}
        self._texts: dict[str, tuple[str, str]] = {}
        self._order: dict[str, list[str]] = {}
        self._readings: dict[str, dict[tuple[str, int], str]] = {}  # of each owner, the names of its readings
        self._whole: dict[str, str] = {}  # texts with the readings in their places, as far as they were asked for
        self._waiting: list[tuple[str, list[Change]]] = []
        self._waiting_undone: list[tuple[str, list[Change]]] = []
        self._listeners: list[Listener] = []
        self._load_order()

    # values -------------------------------------------------------------------------------------------------------
    def get(self, kind: ItemKind[V], number: str) -> V:
        """One value. Raises ShopUnusable where it is not there or cannot be understood."""
        name = kind.key(number)
        if not self._has(name):
            why = (
                self._broken[name].message
                if name in self._broken
                else f"There is no {kind.name.replace('_', ' ')} {number} in this shop."
            )
            raise ShopUnusable(f"{why} It was left as it is." if name in self._broken else why)
        value = self._values[name]
        assert isinstance(value, kind.model)
        return value

    def find(self, kind: ItemKind[V], number: str) -> V | None:
        """One value, or None where it is not there or cannot be understood."""
        return self.get(kind, number) if self._has(kind.key(number)) else None

    def has(self, kind: ItemKind[V], number: str) -> bool:
        """Whether a value is there and can be understood."""
        return self._has(kind.key(number))

    def taken(self, kind: ItemKind[V], number: str) -> bool:
        """Whether an id is used, by a value that is set aside too."""
        return kind.key(number) in self._texts or kind.key(number) in self._broken

    def all(self, kind: ItemKind[V]) -> list[V]:
        """Every value of a kind that can be understood, in the order of their making."""
        names = [n for n in self._order.get(kind.name, []) if self._has(n)]
        return [v for v in (self._values[n] for n in names) if isinstance(v, kind.model)]

    def names(self, kind: ItemKind[V]) -> list[str]:
        """The ids of a kind as they stand in the file, understood or not."""
        return [
            n.removeprefix(kind.prefix) for n in (*self._order.get(kind.name, []), *self._broken) if n.startswith(kind.prefix)
        ]

    def text(self, kind: ItemKind[V], number: str) -> str | None:
        """What stands in the file for a value; None where nothing does."""
        name = kind.key(number)
        return self.text_of(name) if name in self._texts else None

    def text_of(self, name: str) -> str:
        """What stands in the file under a name, with the readings that belong to it, understood or not."""
        if name not in self._texts:
            return ""
        if name not in self._whole:
            readings = {place: self._texts[one][1] for place, one in self._readings.get(name, {}).items()}
            self._whole[name] = whole_text(self._texts[name][1], readings)
        return self._whole[name]

    @property
    def set_aside(self) -> list[SetAside]:
        """What could not be understood, as far as it was asked for; the file has it as it was."""
        return list(self._broken.values())

    def look_through(self) -> list[SetAside]:
        """Read everything once, and what could not be understood."""
        for kind in KINDS.values():
            self.all(kind)
        return self.set_aside

    def _load_order(self) -> None:
        try:
            items = self.file.items()
        except UNREADABLE as fault:
            raise ShopUnusable(f"{self.file.path.name} cannot be read: {fault}. It was left as it is.") from None
        for item in items:
            if not all(isinstance(part, str) for part in (item.id, item.kind, item.json)):
                self._broken[str(item.id)[:80]] = SetAside(str(item.id)[:80], str(item.kind), "it is not kept as text")
            elif item.kind == OBSERVATION and (told := read_name(item.id)) is not None:
                self._texts[item.id] = (item.kind, item.json)
                self._readings.setdefault(PIECES.key(told[0]), {})[told[1:]] = item.id
            elif item.kind not in KINDS:
                self._broken[item.id] = SetAside(item.id, item.kind, f"“{item.kind}” is no kind of thing that this Grainet knows")
            else:
                self._texts[item.id] = (item.kind, item.json)
                self._order.setdefault(item.kind, []).append(item.id)
        self._without_owner()

    def _without_owner(self) -> None:
        """Readings whose piece is not there are set aside: nothing shows them, and nothing is lost."""
        for owner in [name for name in self._readings if name not in self._texts]:
            for name in self._readings.pop(owner).values():
                why = f"it was read on {owner.replace(':', ' ')}, which is not in this shop"
                self._broken[name] = SetAside(name, OBSERVATION, why)
                del self._texts[name]

    def _parse(self, name: str) -> None:
        """Read one item, or set it aside with the reason: one that cannot be understood must not keep the shop shut."""
        kind, _ = self._texts[name]
        try:
            value = KINDS[kind].model.model_validate_json(self.text_of(name))
            if item_id(value) != name:
                raise ValueError(f"it stands under the name of {item_id(value)}")
        except ValidationError as fault:
            self._broken[name] = SetAside(name, kind, why_not(fault))
        except (ValueError, RecursionError) as fault:
            self._broken[name] = SetAside(name, kind, str(fault))
        else:
            self._values[name] = value

    def _has(self, name: str) -> bool:
        """Whether an item is there and can be understood."""
        if name in self._values:
            return True
        if name not in self._texts:
            return False
        if name not in self._broken:
            self._parse(name)
        return name in self._values

    def _now(self) -> str:
        return self.clock().isoformat(timespec="seconds")

    # edits --------------------------------------------------------------------------------------------------------
    def apply(self, label: str, *values: Value, remove: Sequence[Value] = ()) -> bool:
        """Keep values (and drop others) in one journalled step. False where nothing changes. Raises ShopUnusable.

        Where the shop's file was moved, deleted or replaced meanwhile, the edit is kept in memory and ``adrift`` says so.
        """
        after: dict[str, tuple[str, str | None]] = {}
        for value in values:
            texts = texts_of(value)
            gone = (one for one in self._readings.get(item_id(value), {}).values() if one not in texts)
            after |= dict.fromkeys(gone, (OBSERVATION, None))
            after |= texts
        for value in remove:
            after |= dict.fromkeys(self._readings.get(item_id(value), {}).values(), (OBSERVATION, None))
            after[item_id(value)] = (kind_of(value).name, None)
        changes = self._write(label, after)
        if not changes:
            return False
        for change in changes:
            self._follow(change.id, change.kind, change.after)
        for value in values:  # known already, however many of its readings came with it
            self._values[item_id(value)] = value
        self._changed()
        return True

    def _write(self, label: str, after: dict[str, tuple[str, str | None]]) -> Sequence[Change]:
        """Write to the file, and what waits in memory before it; to memory alone while the file is lost."""
        columns = {name: columns_of(kind, text) for name, (kind, text) in after.items()}
        try:
            if self._waiting and not self.file.lost():
                self._write_waiting(self.file)
            entry = self.file.apply(label, self._now(), after, columns)
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
            file.apply(label, self._now(), after, {c.id: columns_of(c.kind, c.after) for c in changes})
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

    @property
    def undo_label(self) -> str | None:
        """What undo would take back."""
        return self._waiting[-1][0] if self._waiting else self.file.undo_label

    @property
    def redo_label(self) -> str | None:
        """What redo would do again."""
        return self._waiting_undone[-1][0] if self._waiting_undone else self.file.redo_label

    def undo(self) -> str | None:
        """Take the last edit back; its label, or None when there is none."""
        if self._waiting:
            label, changes = self._waiting.pop()
            self._waiting_undone.append((label, changes))
            return self._step(Entry(0, "", label, "undo", None, tuple(Change(c.id, c.kind, c.after, c.before) for c in changes)))
        return self._step(self.file.undo(self._now(), columns_of))

    def redo(self) -> str | None:
        """Make the last undone edit again; its label, or None when there is none."""
        if self._waiting_undone:
            label, changes = self._waiting_undone.pop()
            self._waiting.append((label, changes))
            return self._step(Entry(0, "", label, "redo", None, tuple(changes)))
        return self._step(self.file.redo(self._now(), columns_of))

    def _step(self, entry: Entry | None) -> str | None:
        if entry is None:
            return None
        for change in entry.changes:
            self._follow(change.id, change.kind, change.after)
        self._changed()
        return str(entry.label)

    def _follow(self, name: str, kind: str, text: str | None) -> None:
        """Take over what became of an item in the file; a reading makes its piece be read anew."""
        told = read_name(name) if kind == OBSERVATION else None
        owner = PIECES.key(told[0]) if told is not None else name
        for known in (self._values, self._broken, self._whole):
            known.pop(owner, None)
        if told is not None:
            readings = self._readings.setdefault(owner, {})
            if text is None:
                self._texts.pop(name, None)
                readings.pop(told[1:], None)
            else:
                self._texts[name] = (kind, text)
                readings[told[1:]] = name
            return
        if text is None:
            self._texts.pop(name, None)
            if name in self._order.get(kind, []):
                self._order[kind].remove(name)
            return
        if name not in self._texts:
            self._order.setdefault(kind, []).append(name)
        self._texts[name] = (kind, text)

    def _changed(self) -> None:
        self.version += 1
        for listener in list(self._listeners):
            listener()

    def listen(self, listener: Listener) -> None:
        """Call ``listener`` after every change."""
        self._listeners.append(listener)


def columns_of(kind: str, text: str | None) -> dict[str, object]:
    """The columns beside an item's text."""
    return KINDS[kind].columns(text) if text is not None and kind in KINDS else {}
