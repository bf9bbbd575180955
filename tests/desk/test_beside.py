"""The shop as one file, and another shop beside it, in the real window."""

from pathlib import Path

from grainet.session.shop import Shop
from grainet.store.archive import read_list
from tests.desk.app import WindowTest
from tests.store.test_archive import wood


class OneFile(WindowTest):
    empty = True

    def wait_for(self, done):
        for _ in range(400):
            self.settle()
            if done():
                return
        raise AssertionError("it never came")

    def test_packed_laid_beside_and_brought_in(self):
        folder = Path(self.shop.file.folder).parent
        with Shop.open(folder / "other.grainet", create=True) as other:
            other.apply("kit", other.kit.changed(name="Ashby"))
            other.apply("two", wood("1", wide=150), wood("2"))
        self.shop.apply("one", wood("1"))
        self.window.archive(str(folder / "mine"))
        self.wait_for(lambda: (folder / "mine.zip").exists())
        self.assertEqual(read_list(folder / "mine.zip").photos, 0)
        self.window.show_screen("beside")
        self.settle()
        self.grab()
        screen = self.window.in_front
        screen.choose(str(folder / "mine.zip"))
        self.wait_for(lambda: screen.rows is not None)
        self.assertEqual(screen.rows, [])
        self.grab()
        screen.choose(str(folder / "other.grainet" / "shop.sqlite"))
        self.wait_for(lambda: screen.rows)
        self.grab()
        self.assertEqual(screen.name, "Ashby")
        self.click("beside.bring")
        self.assertTrue(self.shop.has_piece("2"))
        self.assertEqual(self.shop.piece("1").extents[3], 190)
        self.wait_for(lambda: not any(r.stands == "there" for r in screen.rows or [None]) if screen.rows else False)
        self.click("beside.replace")
        self.assertEqual(self.shop.piece("1").extents[3], 150)
        self.shop.undo()
        self.shop.undo()
        self.assertFalse(self.shop.has_piece("2"))
        (folder / "bad.zip").write_bytes(b"no zip")
        screen.choose(str(folder / "bad.zip"))
        self.wait_for(lambda: screen.path is None)
