"""Stock lists from the command line: previewed, all or nothing, only the good rows, or with changes let in."""

import contextlib
import io
import tempfile
import unittest
from pathlib import Path

from grainet.cli import main
from grainet.demo.rack import rack
from grainet.exchange.stock import write_stock
from grainet.session.shop import Shop


class Import(unittest.TestCase):
    def setUp(self):
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.folder = Path(scratch.name)
        self.shop = self.folder / "S.grainet"
        with Shop.open(self.shop, create=True) as shop:
            shop.apply("in", *rack()[:2])
        self.list = self.folder / "s.csv"
        write_stock(self.list, [rack()[0], rack()[1].changed(place="Z9"), rack()[3]])
        with self.list.open("a") as file:
            file.write("77,plank,Red alder,abc,90,20\n")

    def run_it(self, *words):
        out, err = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            code = main(["import", str(self.list), "--shop", str(self.shop), *words])
        return code, out.getvalue(), err.getvalue()

    def numbers(self):
        with Shop.open(self.shop, read_only=True) as shop:
            return {p.id: p.place for p in shop.pieces()}

    def test_a_preview_tells_each_row_and_stores_nothing(self):
        code, out, _ = self.run_it("--preview")
        self.assertEqual(code, 0)
        self.assertEqual(len(out.splitlines()), 4)
        for words in ("is here already", "would change: place A1 to Z9", "comes in", "cannot be used: length_mm"):
            self.assertIn(words, out)
        self.assertEqual(set(self.numbers()), {"1", "2"})

    def test_without_leave_nothing_comes_in(self):
        code, _, err = self.run_it()
        self.assertEqual(code, 2)
        self.assertIn("row 5", err)
        self.assertIn("number 2 is on the rack already", err)
        self.assertIn("nothing was brought in", err)
        self.assertEqual(set(self.numbers()), {"1", "2"})

    def test_the_good_rows_go_in_and_changes_only_when_let(self):
        code, out, _ = self.run_it("--good")
        self.assertEqual((code, out.strip()), (0, "1 pieces brought in"))
        self.assertEqual(self.numbers()["2"], "A1")
        code, out, _ = self.run_it("--good", "--replace")
        self.assertEqual((code, out.strip()), (0, "1 pieces brought in"))
        self.assertEqual(self.numbers()["2"], "Z9")

    def test_out_and_in_again_is_all_the_same(self):
        self.list.unlink()
        with contextlib.redirect_stdout(io.StringIO()):
            self.assertEqual(main(["export", "--shop", str(self.shop), "--out", str(self.list)]), 0)
        code, out, _ = self.run_it("--preview")
        self.assertEqual(code, 0)
        self.assertEqual([line.count("is here already") for line in out.splitlines()], [1, 1])


if __name__ == "__main__":
    unittest.main()
