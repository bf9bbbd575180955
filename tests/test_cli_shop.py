"""Finding, sorting and plotting a shop without a window."""

import contextlib
import io
import tempfile
import unittest
from pathlib import Path

from grainet.cli import main
from grainet.demo.make import make_demo


class ShopCommands(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.scratch = tempfile.TemporaryDirectory()
        cls.addClassCleanup(cls.scratch.cleanup)
        cls.folder = Path(cls.scratch.name) / "D.grainet"
        make_demo(cls.folder).close()

    def run_cli(self, *words):
        out, err = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
            code = main([str(w) for w in words])
        return code, out.getvalue(), err.getvalue()

    def test_find(self):
        code, out, err = self.run_cli("find", self.folder, "at least 30 x 60 x 700 clear, quartered, ready")
        self.assertEqual(code, 0)
        self.assertEqual([line.split("\t")[0] for line in out.splitlines()], ["No. 2", "No. 3", "No. 10"])
        self.assertIn("3 of 17", err)
        code, _, err = self.run_cli("find", self.folder, "sparkly")
        self.assertEqual(code, 2)
        self.assertIn("not understood", err)

    def test_sort(self):
        code, out, _ = self.run_cli("sort", self.folder, "--use", "fretboard")
        self.assertEqual(code, 0)
        groups = [line.split("\t")[0].split()[0] for line in out.splitlines()]
        order = ["now", "soon", "later", "unread", "never"]
        self.assertEqual(groups, sorted(groups, key=order.index))
        self.assertEqual(len(groups), 17)

    def test_plot(self):
        for name, more in (("moisture", ("--piece", "17")), ("overview", ("--use", "neck")), ("density", ())):
            for suffix in ("svg", "csv", "pdf"):
                target = Path(self.scratch.name) / f"{name}.{suffix}"
                self.assertEqual(self.run_cli("plot", self.folder, name, *more, "--out", target)[0], 0)
                self.assertGreater(target.stat().st_size, 300)
        for more, part in ((("moisture", "--out", "x.svg"), "needs a piece"), (("air", "--out", "x.docx"), "written as")):
            code, _, err = self.run_cli("plot", self.folder, *more)
            self.assertEqual(code, 2)
            self.assertIn(part, err)

    def test_a_folder_that_is_no_shop(self):
        code, _, err = self.run_cli("find", Path(self.scratch.name) / "none", "clear")
        self.assertEqual(code, 2)
        self.assertIn("There is nothing at", err)
        code, _, err = self.run_cli("find", Path(self.scratch.name), "clear")
        self.assertEqual(code, 2)
        self.assertIn("holds no shop", err)


if __name__ == "__main__":
    unittest.main()
