"""A shop that came from elsewhere, was taken away while open, or may only be read: told before anything is read, written or lost."""

import json
import os
import sqlite3
import subprocess
import sys
import tempfile
import unittest
from contextlib import closing
from pathlib import Path

from grainet.kit.shop_profile import ShopProfile
from grainet.store.migrations import FIRST, MIGRATIONS
from grainet.store.photos import keep_photo, photo_path, read_photo
from grainet.store.shop_file import ShopFile, ShopLost, ShopUnusable


class Folder(unittest.TestCase):
    def setUp(self):
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.root = Path(scratch.name)
        self.folder = self.root / "S.grainet"
        with_one = ShopFile(self.folder, create_new=True)
        with_one.apply("one", "2026-11-24T10:00:00", {"piece:1": ("piece", '{"id": "1"}')}, {})
        with_one.close()

    def refused(self, words):
        with self.assertRaises(ShopUnusable) as caught:
            ShopFile(self.folder)
        self.assertIn(words, str(caught.exception))
        self.assertIn("left as it is", str(caught.exception))

    def sql(self, *lines):
        with closing(sqlite3.connect(self.folder / "shop.sqlite")) as db:
            for line in lines:
                db.execute(line)
            db.commit()


class Damaged(Folder):
    def test_a_damaged_name_in_the_schema_is_told_as_damage(self):
        path = self.folder / "shop.sqlite"
        data = path.read_bytes()
        bent = data.replace(b"tableitemitem", b"tableit\xb5mitem")
        self.assertNotEqual(bent, data)
        path.write_bytes(bent.replace(b"CREATE TABLE item", b"CREATE TABL\xb5 item"))
        self.refused("damaged")


class Links(Folder):
    def test_a_lock_that_is_a_link_truncates_nothing(self):
        victim = self.root / "precious.txt"
        victim.write_text("precious")
        (self.folder / "writer.lock").unlink(missing_ok=True)
        (self.folder / "writer.lock").symlink_to(victim)
        self.refused("writer.lock is a link")
        self.assertEqual(victim.read_text(), "precious")

    def test_links_and_odd_kinds_are_refused(self):
        (self.root / "elsewhere").mkdir()
        for name in ("photos", "backups"):
            with self.subTest(name):
                path = self.folder / name
                if path.exists():
                    path.rename(self.root / f"old-{name}")
                path.symlink_to(self.root / "elsewhere")
                self.refused(f"{name} is a link")
                path.unlink()
        database = self.folder / "shop.sqlite"
        database.rename(self.root / "real.sqlite")
        database.symlink_to(self.root / "real.sqlite")
        self.refused("shop.sqlite is a link")
        database.unlink()
        os.mkfifo(database)
        self.refused("neither file nor folder")

    def test_a_photo_s_name_is_never_a_path(self):
        for sha in ("/dev/zero", "../..", "a" * 63, "A" * 64, "a" * 64 + "/x"):
            with self.assertRaises(OSError):
                photo_path(self.folder, sha)
        sha = keep_photo(self.folder, b"picture")
        self.assertEqual(read_photo(self.folder, sha), b"picture")
        path = photo_path(self.folder, sha)
        path.unlink()
        path.symlink_to("/dev/zero")
        with self.assertRaises(OSError):
            read_photo(self.folder, sha)


class Schema(Folder):
    def test_views_triggers_and_strange_tables_are_refused_before_they_are_read(self):
        lines = {
            "trigger": "CREATE TRIGGER gone AFTER INSERT ON entry BEGIN DELETE FROM item; END",
            "view": "CREATE VIEW endless AS WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n) SELECT i FROM n",
            "table": "CREATE TABLE extra (x TEXT)",
        }
        for kind, line in lines.items():
            with self.subTest(kind):
                self.sql(line)
                self.refused(f"holds the {kind}")
                self.sql(f"DROP {kind} {line.split()[2]}")
        ShopFile(self.folder).close()

    def test_a_view_in_a_table_s_place_is_refused(self):
        self.sql("ALTER TABLE item RENAME TO hidden", "CREATE VIEW item AS SELECT * FROM hidden, hidden AS h2")
        self.refused("holds the table")

    def test_a_table_made_otherwise_is_refused(self):
        self.sql("ALTER TABLE item ADD COLUMN more TEXT DEFAULT 'x'")
        self.refused("not made as a shop's is")

    def test_every_earlier_form_is_known(self):
        for version in range(1, 1 + len(MIGRATIONS)):
            folder = self.root / f"v{version}.grainet"
            folder.mkdir()
            with closing(sqlite3.connect(folder / "shop.sqlite", isolation_level=None)) as db:
                db.executescript(FIRST)
                for step in range(2, version + 1):
                    MIGRATIONS[step](db)
                db.execute(f"PRAGMA user_version = {version}")
            ShopFile(folder).close()

    def test_a_kit_of_form_5_and_its_journal_are_brought_along(self):
        old = {
            "name": "Old",
            "cuts": {"kerf_mm": {"rip": 2.5}, "skim_mm": 0.7, "machines": {"planer_width_mm": 300.0}},
            "guessed": ["rip kerf"],
        }
        before = json.dumps({**old, "name": "Older"})
        folder = self.root / "form5.grainet"
        folder.mkdir()
        with closing(sqlite3.connect(folder / "shop.sqlite", isolation_level=None)) as db:
            db.executescript(FIRST)
            for step in range(2, 6):
                MIGRATIONS[step](db)
            db.execute("INSERT INTO item (id, kind, version, json) VALUES ('kit', 'kit', 1, ?)", (json.dumps(old),))
            changes = json.dumps([["kit", "kit", before, json.dumps(old)], ["piece:1", "piece", None, "{}"]])
            db.execute(
                "INSERT INTO entry (at, label, way, changes) VALUES ('2026-11-01T10:00:00', 'renamed', 'do', ?)", (changes,)
            )
            db.execute("PRAGMA user_version = 5")
        shop = ShopFile(folder)
        self.addCleanup(shop.close)
        (item,) = shop.items("kit")
        kit = ShopProfile.model_validate_json(item.json)
        self.assertEqual((kit.cuts.kerf_mm.rip, kit.cuts.skim_mm, kit.cuts.machines.planer_width_mm), (2.5, 0.7, 300.0))
        self.assertIn("kerf_mm", next(m for m in kit.machines if m.id == "table").guessed)
        (undone,) = (c for c in shop.undo("2026-11-02T10:00:00", lambda _kind, _text: {}).changes if c.kind == "kit")
        self.assertEqual(ShopProfile.model_validate_json(undone.after).name, "Older")


class Gone(Folder):
    def open(self, **more):
        shop = ShopFile(self.folder, **more)
        self.addCleanup(shop.close)
        return shop

    def test_a_deleted_or_replaced_shop_says_so_and_accepts_nothing(self):
        import shutil

        for how in ("deleted", "replaced"):
            with self.subTest(how):
                self.setUp()
                shop = self.open()
                if how == "deleted":
                    shutil.rmtree(self.folder)
                else:
                    other = self.root / "other.sqlite"
                    shutil.copy(self.folder / "shop.sqlite", other)
                    other.replace(self.folder / "shop.sqlite")
                with self.assertRaises(ShopLost) as caught:
                    shop.apply("two", "2026-11-24T10:00:00", {"piece:2": ("piece", "{}")}, {})
                self.assertIn("not there any more" if how == "deleted" else "replaced", str(caught.exception))
                shop.copy_to(self.root / f"saved-{how}.grainet")
                saved = ShopFile(self.root / f"saved-{how}.grainet")
                self.assertEqual([i.id for i in saved.items()], ["piece:1"])
                self.assertEqual(saved.undo_label, "one")
                saved.close()

    def test_two_windows_never_write_though_the_lock_file_is_removed(self):
        first = self.open()
        (self.folder / "writer.lock").unlink()
        second = self.open()
        self.assertFalse(first.read_only)
        self.assertTrue(second.read_only)
        self.assertIn("another window", second.read_only_because)

    def test_a_folder_that_cannot_be_written_is_read_and_said_why(self):
        """As another user, for root may write everywhere."""
        if os.getuid() != 0:
            self.skipTest("needs to change the user")
        for path in (self.root, self.folder, *self.folder.rglob("*")):
            path.chmod(0o755 if path.is_dir() else 0o644)
        code = (
            "import os, sys; from pathlib import Path; from grainet.store.shop_file import ShopFile; os.setgid(65534); os.setuid(65534);"
            "s = ShopFile(Path(sys.argv[1])); print(s.read_only, s.read_only_because, len(s.items()))"
        )
        env = {**os.environ, "PYTHONPATH": os.pathsep.join(p for p in sys.path if p), "PYTHONDONTWRITEBYTECODE": "1"}
        found = subprocess.run([sys.executable, "-c", code, str(self.folder)], capture_output=True, text=True, env=env)
        self.assertIn("True its folder cannot be written", found.stdout, found.stderr)
        self.assertTrue(found.stdout.strip().endswith("1"))


if __name__ == "__main__":
    unittest.main()
