"""Whether a folder may be opened as a shop: kinds of files, links and the database's schema, told before anything is read or written.

A shop may come from elsewhere. A link could lead a write out of its folder, a view or trigger could make reading hang or drop
what is written; neither is ever part of a shop.
"""

from __future__ import annotations

import os
import sqlite3
import stat
from contextlib import closing
from functools import lru_cache
from pathlib import Path

from grainet.store.migrations import FIRST, MIGRATIONS

FILE_NAME, LOCK_NAME = "shop.sqlite", "writer.lock"
UNREADABLE = (sqlite3.DatabaseError, UnicodeDecodeError)  # the second where a damaged name stands in what SQLite needs to say
PLAIN_FILES = (FILE_NAME, f"{FILE_NAME}-wal", f"{FILE_NAME}-shm", f"{FILE_NAME}-journal", LOCK_NAME)
PLAIN_FOLDERS = ("photos", "backups")


def folder_fault(folder: Path) -> str | None:
    """What is not as it should be in a shop's folder, as a sentence; None where all is plain files and folders."""
    for name in PLAIN_FILES:
        kind = _kind(folder / name)
        if kind not in (None, "a file"):
            return f"{name} is {kind}, needs a plain file of the shop's own."
    for name in PLAIN_FOLDERS:
        kind = _kind(folder / name)
        if kind not in (None, "a folder"):
            return f"{name} is {kind}, needs a plain folder of the shop's own."
    return None


def _kind(path: Path) -> str | None:
    """What stands at a path, links not followed."""
    try:
        mode = os.lstat(path).st_mode
    except OSError:
        return None
    if stat.S_ISLNK(mode):
        return "a link to somewhere else"
    if stat.S_ISREG(mode):
        return "a file"
    return "a folder" if stat.S_ISDIR(mode) else "neither file nor folder"


def schema_fault(db: sqlite3.Connection, version: int) -> str | None:
    """What stands in the database besides the tables and indexes of its version, as a sentence; None where nothing does."""
    wanted = _schema(version)
    found = {(kind, name): _tidy(sql) for kind, name, sql in db.execute("SELECT type, name, sql FROM sqlite_master")}
    own = {key: sql for key, sql in found.items() if not key[1].startswith("sqlite_")}
    for kind, name in sorted(own.keys() - wanted.keys()):
        return f"it holds the {kind} “{name[:40]}”, which no shop has."
    for key in sorted(wanted.keys() - own.keys()):
        return f"its {key[0]} “{key[1]}” is missing."
    for key, sql in own.items():
        if sql != wanted[key]:
            return f"its {key[0]} “{key[1]}” is not made as a shop's is."
    return None


@lru_cache(maxsize=16)
def _schema(version: int) -> dict[tuple[str, str], str]:
    """Kind and name of everything in a database of a version, with the words that made it."""
    with closing(sqlite3.connect(":memory:", isolation_level=None)) as db:
        db.executescript(FIRST)
        for step in range(2, version + 1):
            MIGRATIONS[step](db)
        rows = db.execute("SELECT type, name, sql FROM sqlite_master").fetchall()
    return {(kind, name): _tidy(sql) for kind, name, sql in rows if not name.startswith("sqlite_")}


def _tidy(sql: str | None) -> str:
    return " ".join((sql or "").split())
