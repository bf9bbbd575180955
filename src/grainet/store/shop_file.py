"""The shop folder on disk: one SQLite file of items and an append-only journal.

The journal is logbook, undo and crash safety in one: an undo appends the inverse of an entry, so it outlives a restart. The
file knows items as JSON texts; what they mean is the session's matter.
"""

from __future__ import annotations

import fcntl
import json
import os
import shutil
import sqlite3
import tempfile
from collections.abc import Iterator, Mapping, Sequence
from contextlib import closing, contextmanager, suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from grainet.store.backups import make_backup, newest_good_backup
from grainet.store.guard import FILE_NAME, LOCK_NAME, UNREADABLE, folder_fault, schema_fault
from grainet.store.migrations import LATEST, create, migrate


class ShopUnusable(Exception):
    """A shop that cannot be opened as it is; the text says why, and ``backup`` names the newest good copy if there is one."""

    def __init__(self, text: str, backup: Path | None = None) -> None:
        super().__init__(text)
        self.backup = backup


@dataclass(frozen=True)
class Item:
    """One stored thing: id, kind, version (raised with each change) and its JSON."""

    id: str
    kind: str
    version: int
    json: str


@dataclass(frozen=True)
class Change:
    """One thing as it was and as it is to be; None is "not there"."""

    id: str
    kind: str
    before: str | None
    after: str | None


@dataclass(frozen=True)
class Entry:
    """One line of the journal."""

    seq: int
    at: str
    label: str
    way: str  # do, undo, redo
    undoes: int | None
    changes: tuple[Change, ...]


class ShopLost(ShopUnusable):
    """The shop's file is not there any more, or is another one: what is written now would be lost in silence."""


class ShopFile:
    """An open shop. One writer at a time; a second one opens read-only, and ``read_only_because`` says why."""

    def __init__(self, folder: Path, *, create_new: bool = False, read_only: bool = False) -> None:
        self.folder = folder
        self.path = folder / FILE_NAME
        if create_new and not self.path.exists():
            try:
                (folder / "photos").mkdir(parents=True, exist_ok=True)
            except OSError as fault:
                raise ShopUnusable(f"{folder} cannot be made: {fault.strerror}.") from None
        if odd := folder_fault(folder):
            raise ShopUnusable(f"{folder.name} cannot be opened as a shop: {odd} It was left as it is.")
        if not self.path.exists() and not create_new:
            found = (
                f"{folder} holds no shop: there is no {FILE_NAME} in it" if folder.exists() else f"there is nothing at {folder}"
            )
            raise ShopUnusable(f"{found[:1].upper()}{found[1:]}.")
        self._locks: list[int] = []
        self._aside: tempfile.TemporaryDirectory[str] | None = None
        self.read_only_because = "it was asked for" if read_only else self._lock()
        self.read_only = bool(self.read_only_because)
        try:
            self._db = self._connect()
            self._open(create_new=create_new)
        except UNREADABLE as fault:
            self._release()
            raise self._damaged(str(fault)) from None
        except BaseException:
            self._release()
            raise
        self._identity = _identity(self.path)
        try:
            self._undo, self._redo = self._stacks()
        except (TypeError, ValueError, *UNREADABLE) as fault:
            self._release()
            raise self._damaged(f"its journal cannot be followed ({fault})") from None

    def _damaged(self, why: str) -> ShopUnusable:
        return ShopUnusable(f"{self.path.name} is damaged: {why}. It was left as it is.", newest_good_backup(self.folder))

    # opening ------------------------------------------------------------------------------------------------------
    def _lock(self) -> str:
        """Take the folder and the lock file for writing; empty, or why that cannot be. The folder's own lock cannot be deleted."""
        ways = ((self.folder, os.O_RDONLY | os.O_DIRECTORY), (self.folder / LOCK_NAME, os.O_RDWR | os.O_CREAT | os.O_NOFOLLOW))
        try:
            for path, flags in ways:
                self._locks.append(os.open(path, flags | os.O_CLOEXEC, 0o644))
                fcntl.flock(self._locks[-1], fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            why = "it is open in another window"
        except OSError as fault:
            why = f"its folder cannot be written ({fault.strerror})"
        else:
            if os.access(self.path, os.W_OK) or not self.path.exists():
                return ""
            why = f"{FILE_NAME} cannot be written"
        self._unlock()
        return why

    def _unlock(self) -> None:
        for handle in self._locks:
            with suppress(OSError):
                os.close(handle)
        self._locks.clear()

    def _release(self) -> None:
        with suppress(AttributeError):
            self._db.close()
        self._unlock()
        if self._aside is not None:
            self._aside.cleanup()

    def _connect(self) -> sqlite3.Connection:
        if self.read_only:
            return self._connect_to_read()
        db = sqlite3.connect(self.path, isolation_level=None)
        db.execute("PRAGMA trusted_schema = OFF")
        db.execute("PRAGMA foreign_keys = ON")
        return db

    def _connect_to_read(self) -> sqlite3.Connection:
        """A connection that writes nothing. Where SQLite cannot read in place (a folder that cannot be written, with edits not
        yet merged into the file), a copy aside is read."""
        uri = self.path.resolve().as_uri()
        ways = [f"{uri}?mode=ro"]
        wal = self.path.with_name(f"{FILE_NAME}-wal")
        if not wal.exists() or wal.stat().st_size == 0:
            ways.append(f"{uri}?mode=ro&immutable=1")
        for way in ways:
            db = sqlite3.connect(way, uri=True, isolation_level=None)
            try:
                db.execute("PRAGMA trusted_schema = OFF")
                db.execute("SELECT count(*) FROM sqlite_master").fetchone()
            except sqlite3.OperationalError:
                db.close()
                continue
            return db
        self._aside = tempfile.TemporaryDirectory(prefix="grainet-read-")
        for name in (FILE_NAME, f"{FILE_NAME}-wal"):
            with suppress(FileNotFoundError):
                shutil.copyfile(self.folder / name, Path(self._aside.name) / name)
        return sqlite3.connect(Path(self._aside.name) / FILE_NAME, isolation_level=None)

    def _open(self, *, create_new: bool) -> None:
        version = self._db.execute("PRAGMA user_version").fetchone()[0]
        if version > LATEST:
            raise ShopUnusable(
                f"This shop was written by a newer Grainet (format {version}); this one reads up to {LATEST}. It was left as it is."
            )
        fresh = version == 0 and not self._db.execute("SELECT 1 FROM sqlite_master").fetchone()
        if fresh and self.read_only:
            raise ShopUnusable(f"{self.folder} holds an empty shop that another window is making.")
        if fresh and create_new:
            create(self._db)
        elif version <= 0:
            raise ShopUnusable(f"{self.path.name} is no shop of Grainet's. It was left as it is.")
        elif odd := schema_fault(self._db, version):
            raise ShopUnusable(f"{self.path.name} is not made as a shop is: {odd} It was left as it is.")
        check = self._db.execute("PRAGMA quick_check").fetchone()[0]
        if check != "ok":
            raise self._damaged(check)
        if self.read_only:
            return
        if not fresh:
            make_backup(self._db, self.folder)
        if not fresh and version < LATEST:
            migrate(self._db, version)
        self._db.execute("PRAGMA journal_mode = WAL")
        self._db.execute("PRAGMA synchronous = FULL")

    def close(self) -> None:
        """Close the shop and let another window write."""
        with suppress(sqlite3.Error):
            if not self.read_only and not self.lost():
                self._db.execute("PRAGMA wal_checkpoint(TRUNCATE)")
        self._release()

    def lost(self) -> str:
        """Why what is written now would not be found again: the file is gone or another one; empty where all is well."""
        if self.read_only:
            return ""
        now = _identity(self.path)
        if now is None:
            return f"{self.folder.name} is not there any more: its folder was moved or deleted while it was open."
        if now != self._identity:
            return f"{self.folder.name} was replaced by another file while it was open."
        return ""

    def copy_to(self, folder: Path) -> None:
        """Write the whole shop as it stands here, journal and photos too, into a new folder. Raises ShopUnusable."""
        target = folder / FILE_NAME
        if target.exists():
            raise ShopUnusable(f"{folder.name} holds a shop already; needs a new folder.")
        try:
            (folder / "photos").mkdir(parents=True, exist_ok=True)
            with closing(sqlite3.connect(target)) as copy:
                self._db.backup(copy)
            for photo in (self.folder / "photos").glob("*"):
                if photo.is_file() and not photo.is_symlink():
                    shutil.copy2(photo, folder / "photos" / photo.name)
        except (OSError, sqlite3.Error) as fault:
            raise ShopUnusable(f"The shop could not be written to {folder}: {fault}.") from None

    # reading ------------------------------------------------------------------------------------------------------
    def items(self, kind: str | None = None) -> list[Item]:
        """All items of a kind, in the order of their making."""
        where, values = ("WHERE kind = ?", (kind,)) if kind else ("", ())
        return [
            Item(*row) for row in self._db.execute(f"SELECT id, kind, version, json FROM item {where} ORDER BY rowid", values)
        ]

    def item(self, item_id: str) -> Item | None:
        """One item, or None."""
        row = self._db.execute("SELECT id, kind, version, json FROM item WHERE id = ?", (item_id,)).fetchone()
        return Item(*row) if row else None

    def journal(self, last: int = 100) -> list[Entry]:
        """The last entries, oldest first."""
        rows = self._db.execute(
            "SELECT seq, at, label, way, undoes, changes FROM entry ORDER BY seq DESC LIMIT ?", (last,)
        ).fetchall()
        return [_entry(row) for row in reversed(rows)]

    @property
    def undo_label(self) -> str | None:
        """What undo would take back; None where there is nothing."""
        return self._label(self._undo)

    @property
    def redo_label(self) -> str | None:
        """What redo would do again; None where there is nothing."""
        return self._label(self._redo)

    def _label(self, stack: list[int]) -> str | None:
        return self._db.execute("SELECT label FROM entry WHERE seq = ?", (stack[-1],)).fetchone()[0] if stack else None

    # writing ------------------------------------------------------------------------------------------------------
    def apply(
        self, label: str, at: str, after: Mapping[str, tuple[str, str | None]], columns: Mapping[str, Mapping[str, object]]
    ) -> Entry | None:
        """Write items {id: (kind, JSON or None)} and one journal entry, or nothing. None where nothing changes."""
        changes = []
        for item_id, (kind, text) in after.items():
            before = self.item(item_id)
            if (before.json if before else None) != text:
                changes.append(Change(item_id, kind, before.json if before else None, text))
        if not changes:
            return None
        entry = self._append(label, at, "do", None, changes, columns)
        self._undo.append(entry.seq)
        self._redo.clear()
        return entry

    def undo(self, at: str, columns_of: Any) -> Entry | None:
        """Take the last edit back by appending its inverse. ``columns_of(kind, json)`` gives the search columns."""
        if not self._undo:
            return None
        entry = self._inverse(self._undo[-1], at, "undo", columns_of)
        self._redo.append(self._undo.pop())
        return entry

    def redo(self, at: str, columns_of: Any) -> Entry | None:
        """Make the last undone edit again."""
        if not self._redo:
            return None
        entry = self._inverse(self._redo[-1], at, "redo", columns_of)
        self._undo.append(self._redo.pop())
        return entry

    def _inverse(self, seq: int, at: str, way: str, columns_of: Any) -> Entry:
        row = self._db.execute("SELECT seq, at, label, way, undoes, changes FROM entry WHERE seq = ?", (seq,)).fetchone()
        old = _entry(row)
        changes = [Change(c.id, c.kind, c.after, c.before) if way == "undo" else c for c in old.changes]
        columns = {c.id: columns_of(c.kind, c.after) for c in changes if c.after is not None}
        return self._append(old.label, at, way, seq, changes, columns)

    def _append(
        self,
        label: str,
        at: str,
        way: str,
        undoes: int | None,
        changes: Sequence[Change],
        columns: Mapping[str, Mapping[str, object]],
    ) -> Entry:
        if self.read_only:
            raise ShopUnusable(f"Nothing can be kept in this shop: {self.read_only_because}; here it can only be read.")
        if gone := self.lost():
            raise ShopLost(gone)
        text = json.dumps([[c.id, c.kind, c.before, c.after] for c in changes])
        with self._transaction() as db:
            cursor = db.execute(
                "INSERT INTO entry (at, label, way, undoes, changes) VALUES (?, ?, ?, ?, ?)", (at, label, way, undoes, text)
            )
            seq = int(cursor.lastrowid or 0)
            for change in changes:
                self._write(db, change, columns.get(change.id, {}))
            db.execute("UPDATE head SET seq = ?", (seq,))
        return Entry(seq, at, label, way, undoes, tuple(changes))

    def _write(self, db: sqlite3.Connection, change: Change, columns: Mapping[str, object]) -> None:
        if change.after is None:
            db.execute("DELETE FROM item WHERE id = ?", (change.id,))
            return
        db.execute(
            "INSERT INTO item (id, kind, version, json, species, place, length_mm, width_mm, thickness_mm) VALUES (?, ?, 1, ?, ?, ?, ?, ?, ?) "
            "ON CONFLICT (id) DO UPDATE SET version = version + 1, json = excluded.json, species = excluded.species, place = excluded.place, "
            "length_mm = excluded.length_mm, width_mm = excluded.width_mm, thickness_mm = excluded.thickness_mm",
            (
                change.id,
                change.kind,
                change.after,
                *(columns.get(name) for name in ("species", "place", "length_mm", "width_mm", "thickness_mm")),
            ),
        )

    @contextmanager
    def _transaction(self) -> Iterator[sqlite3.Connection]:
        try:
            self._db.execute("BEGIN IMMEDIATE")
        except sqlite3.OperationalError as fault:
            raise ShopUnusable(f"The shop cannot be written: {fault}.") from None
        try:
            yield self._db
            self._db.execute("COMMIT")
        except (sqlite3.Error, UnicodeDecodeError) as fault:
            with suppress(sqlite3.Error):
                self._db.execute("ROLLBACK")
            raise ShopUnusable(f"The edit was not kept: {fault}. The shop is as it was before it.") from None
        except BaseException:
            with suppress(sqlite3.Error):
                self._db.execute("ROLLBACK")
            raise

    def _stacks(self) -> tuple[list[int], list[int]]:
        """What can be undone and done again, told from the journal alone, after the fence that a migration may have set."""
        fence = self._db.execute("SELECT fence FROM head").fetchone()[0]
        undo: list[int] = []
        redo: list[int] = []
        for seq, way in self._db.execute("SELECT seq, way FROM entry WHERE seq > ? ORDER BY seq", (fence,)):
            if way == "do":
                undo.append(seq)
                redo.clear()
            elif way == "undo" and undo:
                redo.append(undo.pop())
            elif way == "redo" and redo:
                undo.append(redo.pop())
        return undo, redo


def _identity(path: Path) -> tuple[int, int] | None:
    """Which file stands at a path; None where there is none."""
    try:
        found = path.stat()
    except OSError:
        return None
    return found.st_dev, found.st_ino


def _entry(row: tuple[int, str, str, str, int | None, str]) -> Entry:
    return Entry(*row[:5], tuple(Change(*c) for c in json.loads(row[5])))
