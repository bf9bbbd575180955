"""Readings are items of their own: one more writes one more, undo and redo find them, a shop of before brings them along."""

import json
import sqlite3
import tempfile
import unittest
from contextlib import closing
from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st

from grainet.session.kinds import PIECES, texts_of
from grainet.session.shop import Shop
from grainet.store.migrations import FIRST, MIGRATIONS
from grainet.store.observations import OF_PIECES, name_of, read_name, whole_text
from grainet.wood.piece import MoistureReading, Piece, Sweep
from grainet.wood.record import Rest, Tap, Weighing

DAYS = st.integers(1, 28).map(lambda d: f"2026-11-{d:02d}")
WEIGHINGS = st.lists(st.builds(Weighing, on=DAYS, kg=st.floats(0.1, 99)), max_size=13)
MOISTURE = st.lists(
    st.builds(MoistureReading, x_mm=st.floats(0, 2000), y_mm=st.just(5.0), depth_mm=st.just(5.0), moisture_pct=st.floats(0, 40), on=DAYS),
    max_size=12,
)  # fmt: skip
READ = Piece(
    id="18", species="European ash",
    moisture=(MoistureReading(x_mm=60, y_mm=50, depth_mm=9, moisture_pct=9.5, on="2026-11-02"),),
    weighings=(Weighing(on="2026-11-02", kg=9.1), Weighing(on="2026-11-09", kg=9.0)),
    rests=(Rest(on="2026-11-03", bow_mm=1.2),), sweeps=(Sweep(face="1", on="2026-11-01"),),
    taps=(Tap(on="2026-11-04", hz=368, length_mm=800, width_mm=100, thickness_mm=20),),
)  # fmt: skip


class Names(unittest.TestCase):
    @given(st.text(min_size=1, max_size=9), st.sampled_from(OF_PIECES), st.integers(0, 10**6))
    def test_a_name_tells_its_piece_its_field_and_its_place(self, owner, field, place):
        self.assertEqual(read_name(name_of(owner, field, place)), (owner, field, place))

    def test_what_is_no_name_of_a_reading(self):
        for name in (
            "piece:1",
            "observation:",
            "observation:1/colour/0",
            "observation:/taps/0",
            "observation:1/taps/x",
            "observation:1/taps/",
        ):
            self.assertIsNone(read_name(name), name)

    @given(WEIGHINGS, MOISTURE)
    def test_apart_and_together_is_the_same_piece(self, weighings, moisture):
        piece = READ.changed(weighings=tuple(weighings), moisture=tuple(moisture))
        (own, *rest) = texts_of(piece).items()
        readings = {read_name(name)[1:]: text for name, (_, text) in rest}
        self.assertNotIn("weighings", json.loads(own[1][1]))
        self.assertEqual(Piece.model_validate_json(whole_text(own[1][1], readings)), piece)


class InAShop(unittest.TestCase):
    def setUp(self):
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.folder = Path(scratch.name) / "S.grainet"
        self.shop = Shop.open(self.folder, create=True)
        self.shop.apply("one", READ, Piece(id="2"))

    def tearDown(self):
        self.shop.close()

    def again(self):
        self.shop.close()
        self.shop = Shop.open(self.folder)
        return self.shop

    def weighed(self, kg):
        piece = self.shop.piece("18")
        self.shop.apply(f"kg {kg}", piece.changed(weighings=(*piece.weighings, Weighing(on="2026-11-16", kg=kg))))

    def test_one_more_reading_writes_one_item_and_nothing_else(self):
        before = self.shop.items.text(PIECES, "18")
        self.weighed(8.9)
        (change,) = self.shop.file.journal(1)[0].changes
        self.assertEqual((change.id, change.before), ("observation:18/weighings/2", None))
        self.assertLess(len(change.after), 60)
        self.assertNotEqual(self.shop.items.text(PIECES, "18"), before, "who watches the text sees the reading")
        self.assertEqual([w.kg for w in self.again().piece("18").weighings], [9.1, 9.0, 8.9])

    def test_undo_and_redo_over_a_restart(self):
        self.weighed(8.9)
        self.again().undo()
        self.assertEqual(self.shop.piece("18"), READ)
        self.again().redo()
        self.assertEqual(self.shop.piece("18").weighings[-1].kg, 8.9)
        self.shop.undo()
        self.shop.undo()
        self.assertFalse(self.shop.has_piece("18"))
        self.assertEqual(self.shop.file.items(), [])

    def test_a_shorter_list_takes_the_rest_away_and_a_piece_its_readings(self):
        self.shop.apply("fewer", READ.changed(weighings=READ.weighings[1:], moisture=()))
        self.assertEqual(self.again().piece("18"), READ.changed(weighings=READ.weighings[1:], moisture=()))
        self.shop.apply("gone", remove=[self.shop.piece("18")])
        self.assertEqual([i.id for i in self.shop.file.items()], ["piece:2"])
        self.shop.undo()
        self.shop.undo()
        self.assertEqual(self.again().piece("18"), READ)

    def test_what_changes_nothing_writes_nothing(self):
        self.assertFalse(self.shop.apply("same", self.shop.piece("18")))
        again = self.again()
        self.assertFalse(again.apply("same", again.piece("18")))

    def test_a_damaged_reading_sets_its_piece_aside_and_an_orphan_itself(self):
        self.shop.close()
        with closing(sqlite3.connect(self.folder / "shop.sqlite")) as db:
            db.execute("UPDATE item SET json = '{\"on\": \"2026-02-30\"}' WHERE id = 'observation:18/weighings/1'")
            db.execute("INSERT INTO item (id, kind, version, json) VALUES ('observation:77/taps/0', 'observation', 1, '{}')")
            db.execute("INSERT INTO item (id, kind, version, json) VALUES ('observation:odd', 'observation', 1, '{}')")
            db.commit()
        self.shop = Shop.open(self.folder)
        aside = {one.id: one.why for one in self.shop.items.look_through()}
        self.assertEqual(set(aside), {"piece:18", "observation:77/taps/0", "observation:odd"})
        self.assertIn("not a day", aside["piece:18"])
        self.assertIn("piece 77", aside["observation:77/taps/0"])
        self.assertEqual([p.id for p in self.shop.pieces()], ["2"])
        self.assertIn("2026-02-30", self.shop.items.text_of("piece:18"))

    def test_kept_in_memory_while_the_file_is_lost(self):
        hidden = self.folder.with_suffix(".away")
        self.folder.rename(hidden)
        self.weighed(8.8)
        self.assertEqual(self.shop.piece("18").weighings[-1].kg, 8.8)
        self.shop.undo()
        self.assertEqual(self.shop.piece("18"), READ)
        self.shop.redo()
        elsewhere = self.folder.with_name("E.grainet")
        hidden.rename(self.folder)
        self.shop.items.save_elsewhere(elsewhere)
        self.shop.close()
        self.shop = Shop.open(elsewhere)
        self.assertEqual(self.shop.piece("18").weighings[-1].kg, 8.8)


class FromForm6(unittest.TestCase):
    def test_pieces_and_their_journal_are_brought_along(self):
        whole, before = (
            READ.model_dump_json(exclude_defaults=True),
            READ.changed(weighings=(), taps=()).model_dump_json(exclude_defaults=True),
        )
        with tempfile.TemporaryDirectory() as scratch:
            folder = Path(scratch) / "old.grainet"
            folder.mkdir()
            with closing(sqlite3.connect(folder / "shop.sqlite", isolation_level=None)) as db:
                db.executescript(FIRST)
                for step in range(2, 7):
                    MIGRATIONS[step](db)
                row = "INSERT INTO item (id, kind, version, json) VALUES (?, 'piece', 1, ?)"
                db.executemany(row, [("piece:18", whole), ("piece:5", "not json")])
                entry = "INSERT INTO entry (at, label, way, changes) VALUES ('2026-11-01T10:00:00', ?, 'do', ?)"
                db.execute(entry, ("new", json.dumps([["piece:18", "piece", None, before]])))
                db.execute(entry, ("read", json.dumps([["piece:18", "piece", before, whole]])))
                db.execute("UPDATE head SET seq = 2")
                db.execute("PRAGMA user_version = 6")
            with Shop.open(folder) as shop:
                self.assertEqual(shop.piece("18"), READ)
                self.assertFalse(shop.apply("same", shop.piece("18")), "brought along is kept alike")
                self.assertEqual([one.id for one in shop.items.look_through()], ["piece:5"])
                shop.undo()
                self.assertEqual(shop.piece("18"), READ.changed(weighings=(), taps=()))
                shop.undo()
                self.assertFalse(shop.has_piece("18"))
                shop.redo()
                shop.redo()
                self.assertEqual(shop.piece("18"), READ)


if __name__ == "__main__":
    unittest.main()
