"""A whole shop as one file: packed, opened elsewhere, compared and merged; hostile archives; and shops of every form that was ever kept."""

import contextlib
import io
import json
import lzma
import tempfile
import unittest
import zipfile
from pathlib import Path

from grainet.cli import main
from grainet.design.starting_points import begin
from grainet.session.archives import bring, compared, counted, pack
from grainet.session.kinds import CUT_PLANS, PROGRESS
from grainet.session.shop import Shop
from grainet.store.archive import LIST, read_list, unpack
from grainet.store.migrations import LATEST
from grainet.store.photos import keep_photo
from grainet.store.shop_file import ShopUnusable
from grainet.wood.piece import Piece
from tests.jobs import piece
from tests.session.test_making import Clock

FORMS = Path(__file__).parent / "forms"


def wood(number, wide=190):
    return Piece.model_validate_json(json.dumps(piece(number, 900, wide, 50)))


class InAFolder(unittest.TestCase):
    def setUp(self):
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.root = Path(scratch.name)

    def shop(self, name, *pieces):
        shop = Shop.open(self.root / f"{name}.grainet", create=True, clock=Clock())
        self.addCleanup(shop.close)
        for one in pieces:
            shop.apply(f"No. {one.id}", one)
        return shop

    def run_command(self, *words):
        out, err = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            code = main([str(w) for w in words])
        return code, out.getvalue(), err.getvalue()


class Packed(InAFolder):
    def setUp(self):
        super().setUp()
        self.here = self.shop("here", wood("1"), wood("2"))
        self.here.apply("drawn", begin("bolt-on", "b1", "Merrow 1"))
        self.sha = keep_photo(self.here.file.folder, b"a picture of oak" * 1000)
        self.file = self.root / "all.zip"

    def test_everything_comes_out_as_it_went_in_with_its_journal(self):
        told = pack(self.here, self.file)
        self.assertEqual((told.photos, read_list(self.file)), (1, told))
        unpack(self.file, self.root / "there.grainet")
        with Shop.open(self.root / "there.grainet") as there:
            self.assertEqual(compared(self.here, there), [])
            self.assertEqual([e.label for e in there.file.journal(99)], [e.label for e in self.here.file.journal(99)])
            there.undo()
            self.assertEqual([(r.kind, r.stands) for r in compared(self.here, there)], [("instrument", "here")])
        self.assertEqual((self.root / "there.grainet" / "photos" / self.sha).read_bytes(), b"a picture of oak" * 1000)
        with self.assertRaisesRegex(ShopUnusable, "there already"):
            unpack(self.file, self.root / "there.grainet")

    def test_what_is_only_there_comes_in_as_one_step_and_what_differs_only_when_asked(self):
        there = self.shop("there", wood("1", wide=180), wood("7"))
        sha = keep_photo(there.file.folder, b"another")
        rows = compared(self.here, there)
        self.assertIn("1 pieces only there", counted(rows))
        self.assertTrue(any(r.number == "1" and r.stands == "differs" and r.words for r in rows))
        self.assertEqual(bring(self.here, there, rows), 1)
        self.assertTrue(self.here.has_piece("7"))
        self.assertEqual(self.here.piece("1").extents[3], 190)
        self.assertTrue((self.here.file.folder / "photos" / sha).exists())
        self.assertEqual(bring(self.here, there, compared(self.here, there), replace=True), 1)
        self.assertEqual(self.here.piece("1").extents[3], 180)
        self.here.undo()
        self.here.undo()
        self.assertFalse(self.here.has_piece("7"))
        self.assertEqual(bring(self.here, there, []), 0)

    def test_the_commands_pack_unpack_compare_and_merge(self):
        folder = self.here.file.folder
        self.assertEqual(self.run_command("archive", folder, "--out", self.file)[0], 0)
        code, out, _ = self.run_command("compare", folder, self.file)
        self.assertEqual((code, out), (0, "nothing differs\n"))
        with Shop.open(self.root / "empty.grainet", create=True):
            pass
        code, out, _ = self.run_command("merge", self.root / "empty.grainet", self.file)
        self.assertEqual((code, out), (0, "3 things brought in\n"))
        self.assertEqual(self.run_command("unarchive", self.file, "--to", self.root / "again.grainet")[0], 0)
        code, out, _ = self.run_command("compare", self.root / "empty.grainet", self.root / "again.grainet")
        self.assertEqual((code, out), (0, "nothing differs\n"))
        code, _, err = self.run_command("unarchive", folder / "shop.sqlite", "--to", self.root / "x.grainet")
        self.assertEqual(code, 2)
        self.assertIn("is no archive of a shop", err)


class Hostile(InAFolder):
    def setUp(self):
        super().setUp()
        shop = self.shop("here", wood("1"))
        keep_photo(shop.file.folder, b"picture")
        self.good = self.root / "good.zip"
        pack(shop, self.good)

    def changed(self, change):
        """The archive with its files and its list changed: ``change(files, told)``."""
        with zipfile.ZipFile(self.good) as packed:
            files = {n: packed.read(n) for n in packed.namelist() if n != LIST}
            told = json.loads(packed.read(LIST))
        change(files, told)
        bad = self.root / "bad.zip"
        with zipfile.ZipFile(bad, "w", zipfile.ZIP_DEFLATED) as packed:
            if told is not None:
                packed.writestr(LIST, json.dumps(told))
            for name, data in files.items():
                packed.writestr(name, data)
        return bad

    def test_none_of_them_writes_anything(self):
        def listed(files, told, name, data=b"x", sha=None):
            import hashlib

            files[name] = data
            told["files"][name] = {"sha256": sha or hashlib.sha256(data).hexdigest(), "bytes": len(data)}

        zeros = b"\0" * 30_000_000
        for words, change in (
            ("no shop has", lambda f, t: listed(f, t, "../evil.txt")),
            ("no shop has", lambda f, t: listed(f, t, "/etc/evil")),
            ("no shop has", lambda f, t: listed(f, t, "photos/../../evil")),
            ("no shop has", lambda f, t: listed(f, t, "backups/x.sqlite")),
            ("not called by its checksum", lambda f, t: listed(f, t, "photos/" + "0" * 64)),
            ("list and what it holds differ", lambda f, t: f.update({"photos/" + "1" * 64: b"y"})),
            ("list and what it holds differ", lambda f, t: t["files"].update({"photos/" + "2" * 64: {"sha256": "2" * 64, "bytes": 3}})),
            ("packed tighter", lambda f, t: listed(f, t, "shop.sqlite", zeros)),
            ("larger than a shop", lambda f, t: t["files"]["shop.sqlite"].update(bytes=10**12)),
            ("the list says", lambda f, t: t["files"]["shop.sqlite"].update(bytes=5)),
            ("checksum says", lambda f, t: t["files"]["shop.sqlite"].update(sha256="0" * 64)),
            ("found 'x' version 1", lambda f, t: t.update(format="x")),
            ("cannot be read", lambda f, t: t.update(files=[])),
        ):  # fmt: skip
            bad = self.changed(change)
            with self.subTest(words), self.assertRaisesRegex(ShopUnusable, words):
                unpack(bad, self.root / "new.grainet")
            self.assertEqual({p.name for p in self.root.iterdir()}, {"here.grainet", "good.zip", "bad.zip"})

    def test_damage_anywhere_is_told_and_leaves_nothing(self):
        data = self.good.read_bytes()
        for at in range(40, len(data), max(1, len(data) // 60)):
            (self.root / "bad.zip").write_bytes(data[:at] + bytes([data[at] ^ 0x5A]) + data[at + 1 :])
            with contextlib.suppress(ShopUnusable):
                unpack(self.root / "bad.zip", self.root / "new.grainet")
                Shop.open(self.root / "new.grainet").close()  # a byte that nothing rests on, such as a date in the zip
                import shutil

                shutil.rmtree(self.root / "new.grainet")
            self.assertFalse((self.root / "new.grainet").exists() and not (self.root / "new.grainet" / "shop.sqlite").exists())
        with self.assertRaisesRegex(ShopUnusable, "no archive"):
            unpack(self.root / "here.grainet" / "shop.sqlite", self.root / "n.grainet")


class EveryForm(InAFolder):
    def test_a_kept_shop_of_every_earlier_form_opens_whole_and_its_journal_goes_on(self):
        kept = sorted(FORMS.glob("form_*.sqlite.xz"))
        self.assertEqual([int(p.name[5]) for p in kept], list(range(2, LATEST)))
        for sample in kept:
            folder = self.root / f"{sample.name[:6]}.grainet"
            folder.mkdir()
            (folder / "shop.sqlite").write_bytes(lzma.decompress(sample.read_bytes()))
            with self.subTest(sample.name), Shop.open(folder, clock=Clock()) as shop:
                self.assertEqual(shop.items.look_through(), [])
                pieces = shop.pieces()
                self.assertEqual(pieces[0].note, "kept through every form")
                self.assertEqual((len(pieces), shop.kit.name), (17, "Kettle Lane"))
                (plan,) = shop.items.all(CUT_PLANS)
                under_way = shop.plans.under_way(plan.id)
                self.assertEqual(len(shop.items.all(PROGRESS)[0].done), 1)
                self.assertEqual(sum(len(under_way.made_of(b)) for b in under_way.boards), 1)
                if (
                    int(sample.name[5]) < 5
                ):  # their journal spoke of plans as they were then: it is kept to be read, not to go back by
                    self.assertIsNone(shop.undo())
                    continue
                self.assertEqual(shop.undo(), "kit")
                self.assertEqual(shop.undo(), "note")
                self.assertNotEqual(shop.piece(pieces[0].id).note, "kept through every form")
                shop.redo()
                self.assertEqual(shop.piece(pieces[0].id).note, "kept through every form")
