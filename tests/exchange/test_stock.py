"""Stock lists: 500 rows quickly and whole, odd headers, every field of the demo's pieces through JSON and back."""

import random
import tempfile
import unittest
from pathlib import Path

from grainet.demo.rack import rack
from grainet.exchange.json_file import Unusable
from grainet.exchange.stock import Stock, read_rows, read_stock, write_stock
from grainet.session.import_preview import bring_in, preview
from grainet.session.shop import Shop
from grainet.wood.piece import LookSkim
from grainet.wood.turning import rolled_over, turned_end_for_end


class Lists(unittest.TestCase):
    def setUp(self):
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.folder = Path(scratch.name)

    def csv(self, text):
        path = self.folder / "s.csv"
        path.write_text(text, encoding="utf-8")
        return path

    def test_five_hundred_rows(self):
        rows = "\n".join(
            f"{n},plank,Red alder,{900 + n},{100 + n % 80},{25 + n % 30},,8.5,,,A{n % 9},a mill" for n in range(1, 501)
        )
        head = "number,kind,species,length_mm,width_mm,thickness_mm,mass_kg,moisture_pct,ring_start_deg,ring_end_deg,place,origin"
        pieces = read_stock(self.csv(head + "\n" + rows + "\n"))
        self.assertEqual(len(pieces), 500)
        with Shop.open(self.folder / "S.grainet", create=True) as shop:
            self.assertEqual(shop.rack.bring_in_stock(pieces), 500)
            self.assertEqual(len(shop.file.journal()), 1, "one step, undone at once")
            shop.undo()
            self.assertEqual(shop.pieces(), [])

    def test_every_field_survives_json(self):
        path = self.folder / "s.json"
        write_stock(path, rack())
        self.assertEqual(list(read_stock(path)), rack())
        self.assertEqual(Stock.model_validate_json(path.read_text()).version, 1)

    def test_five_hundred_rich_pieces_go_out_and_come_in_again_without_a_difference(self):
        rng, found = random.Random(5), rack()
        skim = LookSkim(face="1", on="2026-11-01", mm=0.4)
        pieces = []
        for k in range(500):
            one = rng.choice(found)
            turn = rng.choice((turned_end_for_end, rolled_over, lambda p: p))(one)
            marks = tuple(d.changed(mend=rng.choice(("", "plug", "harden"))) for d in turn.defects)
            pieces.append(
                turn.changed(
                    id=f"P{k}",
                    defects=marks,
                    skims=(skim,) if rng.random() < 0.2 else (),
                    note=f"row {k}, “odd”; word\n{rng.random():.3f}",
                )
            )
        for name in ("s.json", "s.csv"):
            write_stock(self.folder / name, pieces)
            self.assertEqual(list(read_stock(self.folder / name)), pieces)

    def test_headers_that_lack_or_shift(self):
        with self.assertRaisesRegex(Unusable, "header lacks thickness_mm, width_mm"):
            read_stock(self.csv("number,length_mm\n1,2\n"))
        shifted = read_stock(self.csv("thickness_mm,number,width_mm,length_mm,colour\n20,5,90,800,red\n"))
        self.assertEqual((shifted[0].id, shifted[0].extents[2]), ("5", 800))
        with self.assertRaises(Unusable):
            read_stock(self.csv(""))

    def test_absurd_figures_are_named(self):
        for row, words in (
            ("1,99999999,90,20", "row 2"),
            ("1,-5,90,20", "row 2"),
            ("1,800,90,0", "row 2"),
            (",800,90,20", "number is wanted"),
            ("1,8OO,90,20", "not a figure"),
        ):
            with self.subTest(row), self.assertRaisesRegex(Unusable, words):
                read_stock(self.csv("number,length_mm,width_mm,thickness_mm\n" + row + "\n"))

    def test_a_byte_order_mark_and_windows_lines(self):
        path = self.folder / "w.csv"
        path.write_bytes("\ufeffnumber;length_mm;width_mm;thickness_mm\r\n7;800;90;20,5\r\n".encode())
        self.assertEqual(read_stock(path)[0].thickness_mm, 20.5)


class RowByRow(unittest.TestCase):
    """What a list will do is said for every row before anything is stored."""

    def setUp(self):
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.folder = Path(scratch.name)
        self.shop = Shop.open(self.folder / "S.grainet", create=True)
        self.addCleanup(self.shop.close)

    def test_csv_out_and_in_again_leaves_no_difference(self):
        pieces = rack() + [
            turned_end_for_end(rolled_over(rack()[0])).changed(id="1b", note='say "no", she said; twice\nand again')
        ]
        path = self.folder / "s.csv"
        write_stock(path, pieces)
        self.assertEqual(list(read_stock(path)), pieces)
        self.shop.apply("in", *pieces)
        self.assertEqual({r.outcome for r in preview(self.shop, read_rows(path))}, {"same"})

    def test_an_edited_column_wins_and_the_rest_stays(self):
        path = self.folder / "s.csv"
        write_stock(path, rack()[7:8])
        text = path.read_text().replace(",C1,", ",D9,").replace(",European ash,", ",European oak,")
        path.write_text(text)
        (piece,) = read_stock(path)
        self.assertEqual((piece.place, piece.species), ("D9", "European oak"))
        self.assertEqual(piece.defects, rack()[7].defects)
        self.assertEqual(piece.stations, rack()[7].stations)

    def test_semicolons_decimal_commas_and_empty_cells(self):
        path = self.folder / "s.csv"
        path.write_text(
            "number;length_mm;width_mm;thickness_mm;mass_kg;finish\n1;1200,5;90;20,4;3,2;paint\n2;900;;;;\n", encoding="utf-8-sig"
        )
        first, second = read_stock(path)
        self.assertEqual(
            (first.extents[2], first.thickness_mm, first.mass_kg, first.coating.finish), (1200.5, 20.4, 3.2, "paint")
        )
        self.assertEqual((second.length_mm, second.outline), (900, ()))

    def test_outcomes_and_only_good_rows_go_in(self):
        self.shop.apply("in", *rack()[:3])
        path = self.folder / "s.csv"
        write_stock(path, [rack()[0], rack()[1].changed(place="Z9"), rack()[4]])
        with path.open("a") as file:
            file.write(
                "77,plank,Red alder,abc,90,20\n78,plonk,Red alder,900,90,20\n5,plank,Red alder,900,90,20\n79,plank,Red alder,900,90,20\n"
            )
        found = preview(self.shop, read_rows(path))
        self.assertEqual([r.outcome for r in found], ["same", "changes", "new", "broken", "broken", "broken", "new"])
        self.assertIn("place A1 to Z9", found[1].text)
        self.assertIn("not a figure", found[3].text)
        self.assertIn("plonk", found[4].text)
        self.assertIn("stands in row 4 already", found[5].text)
        entries = len(self.shop.file.journal())
        self.assertEqual(bring_in(self.shop, [r for r in found if r.by_default]), 2)
        self.assertEqual(len(self.shop.file.journal()), entries + 1)
        self.assertEqual(self.shop.piece("2").place, "A1", "a change goes in only when asked")
        bring_in(self.shop, found)
        self.assertEqual(self.shop.piece("2").place, "Z9")
        self.shop.undo()
        self.shop.undo()
        self.assertEqual(len(self.shop.pieces()), 3)

    def test_json_rows_break_one_by_one(self):
        path = self.folder / "s.json"
        write_stock(path, rack()[:3])
        text = path.read_text().replace('"slab"', '"slob"', 1)
        path.write_text(text)
        rows = read_rows(path)
        self.assertEqual([r.piece is None for r in rows], [True, False, False])
        self.assertIn("kind", rows[0].fault)
        for broken in (
            "[]",
            '{"format":"grainet-job"}',
            '{"format":"grainet-stock","version":9}',
            "{",
            '{"format":"grainet-stock","version":1,"pieces":3}',
        ):
            path.write_text(broken)
            with self.subTest(broken), self.assertRaises(Unusable):
                read_rows(path)

    def test_a_row_that_is_longer_than_its_header_is_named(self):
        path = self.folder / "s.csv"
        path.write_text("number,length_mm,width_mm,thickness_mm\n1,900,90,20,7,8\n")
        self.assertIn("2 cells more", read_rows(path)[0].fault)
