"""The story of an instrument in the real window: nothing yet, gathered, weighed, lines left off, printed and handed over."""

import tempfile
from pathlib import Path

from PySide6.QtCore import Qt

from tests.desk.app import WindowTest
from tests.desk.test_glue import Laid


class Nothing(WindowTest):
    empty = True

    def test_it_says_how_a_story_begins(self):
        self.window.show_screen("story")
        self.settle()
        self.window.grab()
        self.window.in_front.print_map()
        self.window.in_front.save_as()
        self.assertIsNone(self.window.in_front.story)


class Month(Laid):
    def test_nothing_then_strands_that_are_walked_and_printed(self):
        self.window.show_screen("month")
        self.settle()
        self.window.grab()
        screen = self.window.in_front
        self.assertIsNone(screen.view)
        screen.print_map()
        self.do_until(lambda one: one.kind == "glue")
        self.settle()
        self.window.grab()
        self.assertEqual(len(screen.view.rows), 4)
        self.assertEqual(screen.heads()[0], "December 2026")
        self.key(Qt.Key.Key_Left, target=screen)
        self.assertEqual(screen.month, "2026-12")
        with tempfile.TemporaryDirectory() as folder:
            screen.print_map(f"{folder}/m.pdf")
            self.assertTrue((Path(folder) / "m.pdf").read_bytes().startswith(b"%PDF"))
            screen.print_map(f"{folder}/none/m.pdf")  # said, and nothing is lost


class Told(Laid):
    def test_gathered_weighed_left_off_printed_and_handed_over(self):
        self.do_until(lambda one: one.kind == "glue")
        self.window.show_screen("story")
        self.settle()
        screen = self.window.in_front
        self.assertEqual({b.number for b in screen.story.boards}, {"1", "2", "4", "5"})
        self.window.grab()
        self.type("weighs heavy")
        self.assertTrue(self.window.head.bad)
        self.key(Qt.Key.Key_Escape)
        self.type("weighs 3.36")
        self.assertEqual(screen.story.weighed_kg, 3.36)
        self.click("story.on.hours")
        self.assertFalse(screen.story.shows("hours"))
        self.type("off board 2")
        self.settle()
        self.assertFalse(screen.story.shows("board 2"))
        self.click("story.on.board.2")
        self.assertTrue(screen.story.shows("board 2"))
        self.window.resize(860, 700)
        self.settle()
        self.window.grab()
        with tempfile.TemporaryDirectory() as folder:
            screen.print_map(f"{folder}/s.pdf")
            self.assertTrue((Path(folder) / "s.pdf").read_bytes().startswith(b"%PDF"))
            screen.save_as(folder)
            (made,) = (p for p in Path(folder).iterdir() if p.is_dir())
            self.assertTrue((made / "index.html").exists() and (made / "story.json").exists())
            screen.save_as(f"{folder}/s.pdf")  # a file where a folder is wanted: said, and nothing lost
