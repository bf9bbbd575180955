"""Numbered changes of the shop file's form, each run in one transaction after a backup."""

from __future__ import annotations

import json
import sqlite3

from grainet.store.observations import KIND as OBSERVATION
from grainet.store.observations import OF_PIECES, apart
from grainet.store.old_profiles import profile_of_form_6
from grainet.work.operation_name import names_of

FIRST = """
CREATE TABLE item (id TEXT PRIMARY KEY, kind TEXT NOT NULL, version INTEGER NOT NULL, json TEXT NOT NULL, species TEXT, place TEXT);
CREATE INDEX item_kind ON item (kind);
CREATE TABLE entry (seq INTEGER PRIMARY KEY AUTOINCREMENT, at TEXT NOT NULL, label TEXT NOT NULL, way TEXT NOT NULL,
                    undoes INTEGER REFERENCES entry (seq), changes TEXT NOT NULL);
CREATE TABLE head (seq INTEGER NOT NULL, fence INTEGER NOT NULL);
INSERT INTO head VALUES (0, 0);
PRAGMA user_version = 1;
"""


def _sizes_for_search(db: sqlite3.Connection) -> None:
    """1 to 2: sizes beside the JSON, so that the rack can be searched without parsing every piece."""
    for name in ("length_mm", "width_mm", "thickness_mm"):
        db.execute(f"ALTER TABLE item ADD COLUMN {name} REAL")
    for item_id, text in db.execute("SELECT id, json FROM item WHERE kind = 'piece'").fetchall():
        outline = json.loads(text).get("outline") or []
        if outline:
            xs, ys = zip(*outline)
            db.execute(
                "UPDATE item SET length_mm = ?, width_mm = ? WHERE id = ?", (max(xs) - min(xs), max(ys) - min(ys), item_id)
            )
    db.execute("CREATE INDEX item_size ON item (kind, length_mm, width_mm, thickness_mm)")


def _what_taking_in_knows(_db: sqlite3.Connection) -> None:
    """2 to 3: pieces may hold photos, suggestions, coatings, figure and more, which an older Grainet would not understand.

    Nothing of an older shop changes; the number alone tells an older program to leave a newer shop alone.
    """


def _what_the_wood_is(_db: sqlite3.Connection) -> None:
    """3 to 4: pieces may hold weighings, samples, rest logs, doubts of species and supplies; the kit more pages; air logs and claims.

    Nothing of an older shop changes; the number alone tells an older program to leave a newer shop alone.
    """


def _plans_of_their_own(db: sqlite3.Connection) -> None:
    """4 to 5: a plan has an identity of its own, its progress stands apart and names operations by what they do, not by numbers.

    What was undone before stays undone: the journal speaks of plans as they were.
    """
    rows = db.execute("SELECT id, json FROM item WHERE kind = 'laid'").fetchall()
    for item_id, text in rows:
        old = json.loads(text)
        names = _names_of_cuts(old)
        number = old["id"]
        kept = {"id": number, "designs": [number], **{k: old[k] for k in ("job", "plan", "opening") if k in old}}
        progress: dict[str, object] = {"id": number, "returned": old.get("returned", [])}
        for key in ("done", "agreed"):
            progress[key] = [names[n] for n in old.get(key, []) if n in names]
        db.execute("DELETE FROM item WHERE id = ?", (item_id,))
        for kind, value in (("cut_plan", kept), ("progress", progress)):
            db.execute(
                "INSERT INTO item (id, kind, version, json) VALUES (?, ?, 1, ?)", (f"{kind}:{number}", kind, json.dumps(value))
            )
    if rows or db.execute("SELECT 1 FROM entry WHERE changes LIKE '%\"laid:%' LIMIT 1").fetchone():
        db.execute("UPDATE head SET fence = (SELECT coalesce(max(seq), 0) FROM entry)")


def _names_of_cuts(old: dict) -> dict[int, str]:  # type: ignore[type-arg]
    """What each cut of a plan is called from form 5 on, by its number."""
    rows = ((c["n"], c["piece"], c["tool"], c["line"], c.get("x-depth_mm"), c["gives"]) for c in old["plan"].get("cuts", []))
    return names_of((p["id"] for p in old["job"].get("pieces", [])), rows)


def _machines_by_name(db: sqlite3.Connection) -> None:
    """5 to 6: machines are values with a name, where the profile knew four kerfs and some limits. The journal is brought along, so that
    every change of the kit can still be undone."""
    for item_id, text in db.execute("SELECT id, json FROM item WHERE kind = 'kit'").fetchall():
        db.execute("UPDATE item SET json = ? WHERE id = ?", (_profile(text), item_id))
    for seq, text in db.execute("SELECT seq, changes FROM entry WHERE changes LIKE '%\"kit\"%'").fetchall():
        rows = [[i, k, _profile(b), _profile(a)] if k == "kit" else [i, k, b, a] for i, k, b, a in json.loads(text)]
        db.execute("UPDATE entry SET changes = ? WHERE seq = ?", (json.dumps(rows), seq))


def _profile(text: str | None) -> str | None:
    """A profile's JSON in form 6; what cannot be read stays as it is and is set aside when it is."""
    try:
        old = json.loads(text) if text is not None else None
    except ValueError:
        return text
    return json.dumps(profile_of_form_6(old)) if isinstance(old, dict) else text


def _readings_of_their_own(db: sqlite3.Connection) -> None:
    """6 to 7: what grows with every reading stands beside its piece, in the journal too, so that every step can still be undone."""
    for item_id, text in db.execute("SELECT id, json FROM item WHERE kind = 'piece'").fetchall():
        own, *readings = _apart(item_id, text)
        if readings:
            db.execute("UPDATE item SET json = ? WHERE id = ?", (own[1], item_id))
            row = "INSERT INTO item (id, kind, version, json) VALUES (?, 'observation', 1, ?)"
            db.executemany(row, readings)
    for seq, text in db.execute("SELECT seq, changes FROM entry").fetchall():
        old = json.loads(text)
        new = [change for one in old for change in (_changes_apart(*one) if one[1] == "piece" else [one])]
        if new != old:
            db.execute("UPDATE entry SET changes = ? WHERE seq = ?", (json.dumps(new), seq))


def _changes_apart(item_id: str, kind: str, before: str | None, after: str | None) -> list[list[str | None]]:
    """One change of a piece as changes of its own text and of its readings."""
    was, now = dict(_apart(item_id, before)), dict(_apart(item_id, after))
    names = [item_id, *sorted((was.keys() | now.keys()) - {item_id})]
    rows = [[n, kind if n == item_id else OBSERVATION, was.get(n), now.get(n)] for n in names]
    return [row for row in rows if row[2] != row[3]]


def _apart(item_id: str, text: str | None) -> list[tuple[str, str]]:
    """(name, JSON) of a piece's own text and of each of its readings; one that cannot be read stays as it is."""
    if text is None:
        return []
    try:
        data = json.loads(text)
    except (ValueError, RecursionError):
        return [(item_id, text)]
    if not isinstance(data, dict) or not any(isinstance(data.get(f), list) and data[f] for f in OF_PIECES):
        return [(item_id, text)]
    lists = {f: [_compact(one) for one in data.pop(f)] for f in OF_PIECES if isinstance(data.get(f), list)}
    return [(item_id, _compact(data)), *apart(item_id.removeprefix("piece:"), lists).items()]


def _the_bench(_db: sqlite3.Connection) -> None:
    """7 to 8: what was done at the bench is kept, beside the cuts; the kit has hands and hours.

    Nothing of an older shop changes; the number alone tells an older program to leave a newer shop alone.
    """


def _what_was_learnt(_db: sqlite3.Connection) -> None:
    """8 to 9: a shop may hold records, mishaps and what it made of them; pieces mends and skims, bench logs other ways.

    Nothing of an older shop changes; the number alone tells an older program to leave a newer shop alone.
    """


def _compact(data: object) -> str:
    return json.dumps(data, separators=(",", ":"), ensure_ascii=False)


MIGRATIONS = {
    2: _sizes_for_search,
    3: _what_taking_in_knows,
    4: _what_the_wood_is,
    5: _plans_of_their_own,
    6: _machines_by_name,
    7: _readings_of_their_own,
    8: _the_bench,
    9: _what_was_learnt,
}
LATEST = 1 + len(MIGRATIONS)


def create(db: sqlite3.Connection) -> None:
    """A new shop in the latest form."""
    db.executescript("BEGIN;" + FIRST + "COMMIT;")
    migrate(db, 1)


def migrate(db: sqlite3.Connection, version: int) -> None:
    """Bring a shop file from ``version`` to the latest form, all or nothing."""
    db.execute("BEGIN IMMEDIATE")
    try:
        for step in range(version + 1, LATEST + 1):
            MIGRATIONS[step](db)
        db.execute(f"PRAGMA user_version = {LATEST}")
        db.execute("COMMIT")
    except BaseException:
        db.execute("ROLLBACK")
        raise
