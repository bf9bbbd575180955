"""One item that cannot be understood is shown, named and set aside; the rest of the shop opens. Stock, CSV and the shop's own file
go through one and the same check. A lost shop keeps its edits in memory until they are saved elsewhere."""

import json
import shutil
import sqlite3
import tempfile
import unittest
from contextlib import closing
from pathlib import Path

from pydantic import ValidationError

from grainet.demo.make import make_demo
from grainet.exchange.stock import read_rows, to_csv
from grainet.session.import_preview import preview
from grainet.session.shop import Shop
from grainet.store.shop_file import ShopUnusable
from grainet.wood.outline import ring_fault, sound_ring
from grainet.wood.piece import Piece
from grainet.wood.value import why_not

GOOD = {"id": "5", "outline": [[0, 0], [900, 0], [900, 110], [0, 110]], "thickness_mm": 26}
RING = [[100, 20], [140, 20], [140, 40], [100, 40]]
BAD = {
    "an impossible day": {**GOOD, "moisture": [{"x_mm": 1, "y_mm": 1, "depth_mm": 2, "moisture_pct": 8, "on": "2026-02-30"}]},
    "a day in a log": {**GOOD, "weighings": [{"on": "2026-13-01", "kg": 3}]},
    "a day in another script": {**GOOD, "weighings": [{"on": "２０２６-01-01", "kg": 3}]},
    "an arrival": {**GOOD, "arrived": "2026-02-30"},
    "two points": {**GOOD, "outline": [[0, 0], [900, 0]]},
    "no area": {**GOOD, "outline": [[0, 0], [900, 0], [1800, 0]]},
    "1e300": {**GOOD, "outline": [[0, 0], [1e300, 0], [900, 110]]},
    "1e9": {**GOOD, "stations": [{"x_mm": 1e9, "y_mm": 0, "thickness_mm": 20}]},
    "a bow of 1e9": {**GOOD, "flatness": {"bow_mm": 1e9}},
    "a crossing outline": {**GOOD, "outline": [[0, 0], [900, 110], [900, 0], [0, 110]]},
    "a crossing trouble": {**GOOD, "defects": [{"id": "k1", "kind": "knot", "polygon": [RING[0], RING[2], RING[1], RING[3]]}]},
    "tags twice": {**GOOD, "defects": [{"id": "k1", "kind": "knot", "polygon": RING}, {"id": "k1", "kind": "knot", "polygon": RING}]},
    "100,000 points": {**GOOD, "outline": [[k / 100, (k % 2) / 10] for k in range(100_000)]},
    "a number that cannot be printed": {**GOOD, "id": "5\n6"},
    "a photo that is a path": {**GOOD, "photos": [{"side": "face1", "sha": "../../../etc/passwd", "width_px": 10, "height_px": 10}]},
    "no number at all": {**GOOD, "thickness_mm": "26"},
}  # fmt: skip


class OneCheck(unittest.TestCase):
    def setUp(self):
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.root = Path(scratch.name)

    def test_the_value_a_json_list_and_the_shop_refuse_the_same_with_the_same_words(self):
        for name, data in BAD.items():
            with self.subTest(name):
                text = json.dumps(data)
                with self.assertRaises(ValidationError) as caught:
                    Piece.model_validate_json(text)
                words = why_not(caught.exception)
                path = self.root / "stock.json"
                path.write_text(json.dumps({"format": "grainet-stock", "version": 1, "pieces": [data, {**GOOD, "id": "6"}]}))
                rows = read_rows(path)
                self.assertIsNone(rows[0].piece)
                self.assertEqual(rows[0].fault, words)
                self.assertIsNotNone(rows[1].piece, "the good one beside it is good")
                self.assertNotIn("Value error", words)

    def test_a_csv_s_more_goes_through_it_too(self):
        good = Piece.model_validate_json(json.dumps(GOOD))
        text = to_csv([good, good.changed(id="6")])
        spoilt = text.replace(
            '""thickness_mm"":26.0', '""thickness_mm"":26.0,""weighings"":[{""on"":""2026-02-30"",""kg"":3}]', 1
        )
        self.assertNotEqual(text, spoilt)
        path = self.root / "stock.csv"
        path.write_text(spoilt)
        rows = read_rows(path)
        self.assertIn("not a day of the calendar", rows[0].fault)
        self.assertIsNotNone(rows[1].piece)

    def test_the_rest_of_the_shop_opens(self):
        for name, data in BAD.items():
            with self.subTest(name):
                folder = self.root / f"{abs(hash(name))}.grainet"
                with Shop.open(folder, create=True) as shop:
                    shop.apply("one", Piece(id="1", racked=True), Piece(id="5"))
                with closing(sqlite3.connect(folder / "shop.sqlite")) as db:
                    db.execute("UPDATE item SET json = ? WHERE id = 'piece:5'", (json.dumps(data),))
                    db.commit()
                with Shop.open(folder) as shop:
                    self.assertEqual([p.id for p in shop.pieces()], ["1"])
                    (aside,) = shop.items.set_aside
                    self.assertIn("Piece 5 cannot be understood", aside.message)
                    self.assertFalse(shop.has_piece("5"))
                    self.assertTrue(shop.rack.number_taken("5"), "its number is not given away")
                    self.assertEqual(shop.rack.next_number(), "6")
                    self.assertEqual(json.loads(shop.items.text_of("piece:5")), data, "it stands as it was")
                    shop.apply("works", Piece(id="2"))

    def test_odd_texts_kinds_and_names_are_set_aside_too(self):
        folder = self.root / "odd.grainet"
        with Shop.open(folder, create=True) as shop:
            shop.apply("one", Piece(id="1"))
        rows = (
            ("piece:7", "piece", "not json"),
            ("piece:8", "piece", '{"id": "9"}'),
            ("x:1", "wish", "{}"),
            ("piece:9", "piece", "[" * 3000),
            ("kit", "kit", '{"temperature_c": 900}'),
        )
        with closing(sqlite3.connect(folder / "shop.sqlite")) as db:
            for row in rows:
                db.execute("INSERT INTO item (id, kind, version, json) VALUES (?, ?, 1, ?)", row)
            db.execute("INSERT INTO item (id, kind, version, json) VALUES ('piece:10', 'piece', 1, x'00ff')")
            db.commit()
        with Shop.open(folder) as shop:
            self.assertEqual(
                {one.id for one in shop.items.look_through()}, {"piece:7", "piece:8", "x:1", "piece:9", "kit", "piece:10"}
            )
            self.assertEqual([p.id for p in shop.pieces()], ["1"])
            self.assertEqual(shop.kit.temperature_c, 20.0)

    def test_numbers_that_only_look_like_digits_sort_and_count(self):
        with Shop.open(self.root / "d.grainet", create=True) as shop:
            shop.apply("odd numbers", Piece(id="5²"), Piece(id="①"), Piece(id="٣"), Piece(id="12"), Piece(id="9" * 60))
            self.assertEqual(len(shop.pieces()), 5)
            self.assertTrue(int(shop.rack.next_number()) > 12)

    def test_a_family_s_name_in_a_list_comes_in_unsure(self):
        path = self.root / "s.json"
        path.write_text(json.dumps({"format": "grainet-stock", "version": 1, "pieces": [{**GOOD, "species": "walnut"}]}))
        with Shop.open(self.root / "f.grainet", create=True) as shop:
            (row,) = preview(shop, read_rows(path))
            self.assertIn("unsure until you say which", row.text)
            self.assertFalse(row.piece.species_sure)
            self.assertEqual(len(row.piece.candidates), 2)


class Rings(unittest.TestCase):
    def test_plain_arithmetic_and_the_geometry_library_agree(self):
        import random

        from shapely.geometry import Polygon

        r = random.Random(4)
        seen = set()
        for _ in range(400):
            ring = tuple((r.randint(0, 12) * 10.0, r.randint(0, 12) * 10.0) for _ in range(r.randint(3, 7)))
            sound = Polygon(ring).is_valid and Polygon(ring).area > 1e-6
            self.assertEqual(ring_fault(ring) is None, sound, ring)
            seen.add(sound)
            mended = sound_ring(ring)
            self.assertTrue(mended is None or ring_fault(mended) is None)
        self.assertEqual(seen, {True, False})


class Adrift(unittest.TestCase):
    def test_edits_wait_in_memory_are_undone_there_and_are_saved_elsewhere(self):
        with tempfile.TemporaryDirectory() as scratch:
            folder, saved = Path(scratch) / "a.grainet", Path(scratch) / "b.grainet"
            shop = Shop.open(folder, create=True)
            shop.apply("one", Piece(id="1"))
            shutil.rmtree(folder)
            self.assertTrue(shop.apply("two", Piece(id="2")))
            self.assertIn("not there any more", shop.items.adrift)
            self.assertTrue(shop.apply("three", Piece(id="3")))
            self.assertEqual(shop.items.kept_in_memory, 2)
            self.assertEqual(shop.undo(), "three")
            self.assertEqual([p.id for p in shop.pieces()], ["1", "2"])
            self.assertEqual(shop.redo(), "three")
            with self.assertRaises(ShopUnusable):
                shop.items.save_elsewhere(Path("/proc/nowhere"))
            self.assertEqual(shop.items.kept_in_memory, 2)
            shop.items.save_elsewhere(saved)
            self.assertEqual((shop.items.adrift, shop.items.kept_in_memory), ("", 0))
            shop.apply("four", Piece(id="4"))
            shop.close()
            with Shop.open(saved) as again:
                self.assertEqual([p.id for p in again.pieces()], ["1", "2", "3", "4"])
                for label in ("four", "three", "two", "one"):
                    self.assertEqual(again.undo(), label)

    def test_a_folder_that_comes_back_gets_what_waited(self):
        with tempfile.TemporaryDirectory() as scratch:
            folder, away = Path(scratch) / "a.grainet", Path(scratch) / "away"
            shop = Shop.open(folder, create=True)
            folder.rename(away)
            shop.apply("one", Piece(id="1"))
            self.assertEqual(shop.items.kept_in_memory, 1)
            away.rename(folder)
            shop.apply("two", Piece(id="2"))
            self.assertEqual((shop.items.kept_in_memory, shop.items.adrift), (0, ""))
            shop.close()
            with Shop.open(folder) as again:
                self.assertEqual([p.id for p in again.pieces()], ["1", "2"])


class Demo(unittest.TestCase):
    def test_a_demo_killed_while_being_made_is_made_anew_and_one_that_was_worked_in_is_kept(self):
        from grainet.demo.make import _edits

        with tempfile.TemporaryDirectory() as scratch:
            folder = Path(scratch) / "Demo.grainet"
            with Shop.open(folder, create=True) as half:
                for label, make in _edits()[:5]:
                    make(half, label)
            with make_demo(folder) as shop:
                self.assertEqual(len(shop.pieces()), 17)
                shop.apply("mine", shop.piece("9").changed(place="Q1"))
            with make_demo(folder) as again:
                self.assertEqual(again.piece("9").place, "Q1")
            self.assertEqual([p.name for p in Path(scratch).iterdir()], ["Demo.grainet"])


if __name__ == "__main__":
    unittest.main()
