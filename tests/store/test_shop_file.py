"""The shop on disk: journal, undo over a restart, migration, backups, damage, a second window, kill -9."""

import os
import signal
import sqlite3
import subprocess
import sys
import tempfile
import time
import unittest
from pathlib import Path

from grainet.store.backups import newest_good_backup
from grainet.store.migrations import FIRST, LATEST
from grainet.store.shop_file import ShopFile, ShopUnusable


def no_columns(_kind, _json):
    return {}


class Folder(unittest.TestCase):
    def setUp(self):
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.folder = Path(scratch.name) / "S.grainet"

    def open(self, **more):
        shop = ShopFile(self.folder, **more)
        self.addCleanup(shop.close)
        return shop

    def keep(self, shop, name, text, label="edit"):
        return shop.apply(label, "2026-11-24T10:00:00", {name: ("piece", text)}, {})


class Journal(Folder):
    def test_edits_undo_and_redo_outlive_a_restart(self):
        shop = self.open(create_new=True)
        for n in range(4):
            self.keep(shop, "a", f'{{"n": {n}}}', f"edit {n}")
        self.assertIsNotNone(shop.undo("t", no_columns))
        shop.close()
        shop = self.open()
        self.assertEqual(shop.item("a").json, '{"n": 2}')
        self.assertEqual((shop.undo_label, shop.redo_label), ("edit 2", "edit 3"))
        for wanted in ('{"n": 1}', '{"n": 0}', None):
            shop.undo("t", no_columns)
            self.assertEqual(shop.item("a").json if shop.item("a") else None, wanted)
        self.assertIsNone(shop.undo("t", no_columns))
        for _ in range(4):
            shop.redo("t", no_columns)
        self.assertEqual(shop.item("a").json, '{"n": 3}')
        self.assertIsNone(shop.redo("t", no_columns))
        self.assertEqual([e.way for e in shop.journal()], ["do"] * 4 + ["undo"] * 4 + ["redo"] * 4)

    def test_a_new_edit_closes_redo(self):
        shop = self.open(create_new=True)
        self.keep(shop, "a", "1")
        self.keep(shop, "a", "2")
        shop.undo("t", no_columns)
        self.keep(shop, "a", "3")
        self.assertIsNone(shop.redo_label)
        shop.undo("t", no_columns)
        self.assertEqual(shop.item("a").json, "1")

    def test_nothing_changed_is_no_entry(self):
        shop = self.open(create_new=True)
        self.keep(shop, "a", "1")
        self.assertIsNone(self.keep(shop, "a", "1"))
        self.assertEqual(len(shop.journal()), 1)

    def test_a_fault_in_the_middle_leaves_all_as_it_was(self):
        shop = self.open(create_new=True)
        self.keep(shop, "a", "1")
        with self.assertRaises(ShopUnusable):
            shop.apply("bad", "t", {"a": ("piece", "2"), "b": ("piece", "3")}, {"b": {"place": object()}})
        self.assertEqual((shop.item("a").json, shop.item("b")), ("1", None))
        self.assertEqual(len(shop.journal()), 1)


class Opening(Folder):
    def test_a_second_window_reads_only_and_says_so(self):
        first = self.open(create_new=True)
        self.keep(first, "a", "1")
        second = self.open()
        self.assertTrue(second.read_only)
        self.assertEqual(second.item("a").json, "1")
        with self.assertRaisesRegex(ShopUnusable, "another window"):
            self.keep(second, "a", "2")

    def test_a_shop_of_every_earlier_version_opens_after_a_backup(self):
        self.folder.mkdir()
        db = sqlite3.connect(self.folder / "shop.sqlite", isolation_level=None)
        db.executescript(FIRST)
        db.execute(
            "INSERT INTO item VALUES ('piece:7', 'piece', 1, '{\"id\": \"7\", \"outline\": [[0,0],[900,0],[900,120],[0,120]]}', 'oak', 'A1')"
        )
        db.execute(
            "INSERT INTO entry (at, label, way, changes) VALUES ('t', 'racked', 'do', '[[\"piece:7\", \"piece\", null, \"{}\"]]')"
        )
        db.close()
        shop = self.open()
        self.assertEqual(shop._db.execute("PRAGMA user_version").fetchone()[0], LATEST)
        self.assertEqual(shop._db.execute("SELECT length_mm, width_mm FROM item").fetchone(), (900, 120))
        self.assertEqual(shop.undo_label, "racked")
        self.assertEqual(len(list((self.folder / "backups").glob("*-v1.sqlite"))), 1)

    def test_a_shop_of_version_two_opens_and_an_older_program_would_leave_it_alone_after(self):
        from grainet.store.migrations import MIGRATIONS

        self.folder.mkdir()
        db = sqlite3.connect(self.folder / "shop.sqlite", isolation_level=None)
        db.executescript(FIRST)
        MIGRATIONS[2](db)
        db.execute("PRAGMA user_version = 2")
        db.execute("INSERT INTO item (id, kind, version, json) VALUES ('piece:7', 'piece', 1, '{\"id\": \"7\"}')")
        db.close()
        shop = self.open()
        self.assertEqual(shop._db.execute("PRAGMA user_version").fetchone()[0], LATEST)
        self.assertEqual(shop.item("piece:7").json, '{"id": "7"}')
        self.assertEqual(len(list((self.folder / "backups").glob("*-v2.sqlite"))), 1)

    def test_newer_damaged_and_foreign_files_are_refused_and_left_untouched(self):
        shop = self.open(create_new=True)
        self.keep(shop, "a", "1")
        shop.close()
        self.open().close()  # makes a backup
        path = self.folder / "shop.sqlite"
        good = path.read_bytes()
        db = sqlite3.connect(path)
        db.execute(f"PRAGMA user_version = {LATEST + 1}")
        db.commit()
        db.close()
        with self.assertRaisesRegex(ShopUnusable, "newer Grainet"):
            ShopFile(self.folder)
        for bad in (good[: len(good) // 3], b"not a database at all" * 99, good[:100] + b"\xff" * 9000 + good[9100:]):
            path.write_bytes(bad)
            with self.assertRaises(ShopUnusable) as caught:
                ShopFile(self.folder)
            self.assertEqual(path.read_bytes(), bad)
            self.assertIsNotNone(caught.exception.backup)
        path.write_bytes(caught.exception.backup.read_bytes())
        self.assertEqual(self.open().item("a").json, "1")

    def test_an_empty_folder_is_no_shop(self):
        self.folder.mkdir()
        with self.assertRaisesRegex(ShopUnusable, "holds no shop"):
            ShopFile(self.folder)

    def test_ten_backups_are_kept(self):
        self.open(create_new=True).close()
        for n in range(13):
            shop = ShopFile(self.folder)
            self.keep(shop, "a", str(n))
            shop.close()
        self.assertEqual(len(list((self.folder / "backups").glob("*.sqlite"))), 10)
        self.assertIsNotNone(newest_good_backup(self.folder))


KILLED = """
import sys
from pathlib import Path
from grainet.store.shop_file import ShopFile
shop = ShopFile(Path(sys.argv[1]), create_new=True)
n = 0
while True:
    n += 1
    shop.apply(f"edit {n}", "t", {"a": ("piece", str(n)), "b": ("piece", str(n))}, {})
    print(n, flush=True)
"""


class Killed(Folder):
    def test_the_last_edit_that_was_accepted_is_there_after_kill_9(self):
        for pause in (0.05, 0.21):
            process = subprocess.Popen([sys.executable, "-c", KILLED, str(self.folder)], stdout=subprocess.PIPE, text=True)
            self.assertTrue(process.stdout.readline())
            time.sleep(pause)
            os.kill(process.pid, signal.SIGKILL)
            told = [int(line) for line in process.stdout.read().split()]
            process.wait()
            process.stdout.close()
            shop = ShopFile(self.folder)
            last = int(shop.item("a").json)
            self.assertGreaterEqual(last, told[-1] if told else 1)
            self.assertEqual(shop.item("b").json, shop.item("a").json, "both or neither")
            shop.close()

    def test_a_full_disk_loses_nothing(self):
        shop = self.open(create_new=True)
        self.keep(shop, "a", "1")
        pages = shop._db.execute("PRAGMA page_count").fetchone()[0]
        shop._db.execute(f"PRAGMA max_page_count = {pages}")
        with self.assertRaisesRegex(ShopUnusable, "was not kept"):
            self.keep(shop, "big", "x" * 2_000_000)
        shop._db.execute("PRAGMA max_page_count = 1000000")
        self.assertEqual(shop.item("a").json, "1")
        self.assertIsNotNone(self.keep(shop, "a", "2"))
