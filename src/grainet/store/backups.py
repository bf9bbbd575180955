"""Copies of the shop file on clean opening: whole, ten kept, and the newest good one found when the shop is damaged."""

from __future__ import annotations

import sqlite3
from contextlib import closing, suppress
from pathlib import Path

KEPT = 10


def make_backup(db: sqlite3.Connection, folder: Path) -> Path | None:
    """A copy named by the journal's length; None when that state is backed up already or the disk has no room."""
    has_journal = db.execute("SELECT 1 FROM sqlite_master WHERE name = 'entry'").fetchone()
    seq = (db.execute("SELECT max(seq) FROM entry").fetchone()[0] or 0) if has_journal else 0
    version = db.execute("PRAGMA user_version").fetchone()[0]
    target = folder / "backups" / f"shop-{seq:08d}-v{version}.sqlite"
    if target.exists():
        return None
    try:
        target.parent.mkdir(exist_ok=True)
        aside = target.with_suffix(".part")
        with closing(sqlite3.connect(aside)) as copy:
            db.backup(copy)
        aside.replace(target)
    except (OSError, sqlite3.Error):
        with suppress(OSError):
            target.with_suffix(".part").unlink(missing_ok=True)
        return None
    for old in sorted(target.parent.glob("shop-*.sqlite"))[:-KEPT]:
        with suppress(OSError):
            old.unlink()
    return target


def newest_good_backup(folder: Path) -> Path | None:
    """The newest backup that passes SQLite's own check."""
    for copy in sorted((folder / "backups").glob("shop-*.sqlite"), reverse=True):
        try:
            with closing(sqlite3.connect(f"{copy.resolve().as_uri()}?mode=ro", uri=True)) as db:
                if db.execute("PRAGMA quick_check").fetchone()[0] == "ok":
                    return copy
        except (sqlite3.Error, UnicodeDecodeError):
            continue
    return None
