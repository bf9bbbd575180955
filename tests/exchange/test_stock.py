"""Stock lists: 500 rows quickly and whole, odd headers, every field of the demo's pieces through JSON and back."""

import tempfile
import unittest
from pathlib import Path

from grainet.demo.rack import rack
from grainet.exchange.json_file import Unusable
from grainet.exchange.stock import COLUMNS, Stock, read_stock, write_stock
from grainet.session.shop import Shop


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
        pieces = read_stock(self.csv(",".join(COLUMNS) + "\n" + rows + "\n"))
        self.assertEqual(len(pieces), 500)
        with Shop.open(self.folder / "S.grainet", create=True) as shop:
            self.assertEqual(shop.bring_in_stock(pieces), 500)
            self.assertEqual(len(shop.file.journal()), 1, "one step, undone at once")
            shop.undo()
            self.assertEqual(shop.pieces(), [])

    def test_every_field_survives_json(self):
        path = self.folder / "s.json"
        write_stock(path, rack())
        self.assertEqual(list(read_stock(path)), rack())
        self.assertEqual(Stock.model_validate_json(path.read_text()).version, 1)

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
