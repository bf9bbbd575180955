"""The story of an instrument in the real window: nothing yet, gathered, weighed, lines left off, printed and handed over."""

import re
import tempfile
from pathlib import Path

from PySide6.QtCore import Qt

from grainet.design.starting_points import begin
from grainet.desk.screens.story.page import pages_of
from tests.desk.app import WindowTest
from tests.desk.test_glue import Laid


class Nothing(WindowTest):
    empty = True

    def test_it_says_how_a_story_begins(self):
        self.window.show_screen("story")
        self.settle()
        self.grab()
        self.window.in_front.print_map()
        self.window.in_front.save_as()
        self.assertIsNone(self.window.in_front.story)


class Month(Laid):
    def test_nothing_then_strands_that_are_walked_and_printed(self):
        self.window.show_screen("month")
        self.settle()
        self.grab()
        screen = self.window.in_front
        self.assertIsNone(screen.view)
        screen.print_map()
        self.do_until(lambda one: one.kind == "glue")
        self.settle()
        self.grab()
        self.assertEqual(len(screen.view.rows), 4)
        self.assertEqual(screen.heads()[0], "December 2026")
        self.key(Qt.Key.Key_Left, target=screen)
        self.assertEqual(screen.month, "2026-12")
        with tempfile.TemporaryDirectory() as folder:
            screen.print_map(f"{folder}/m.pdf")
            self.assertTrue((Path(folder) / "m.pdf").read_bytes().startswith(b"%PDF"))
            screen.print_map(f"{folder}/none/m.pdf")
            self.assertIn("m.pdf could not be written", self.window.head.gloss)
            self.assertEqual(screen.month, "2026-12")


class ManyBoards(Laid):
    def test_what_finds_no_room_on_the_first_page_stands_on_the_next(self):
        self.do_until(lambda one: one.kind == "glue")
        self.window.show_screen("story")
        self.settle()
        screen = self.window.in_front
        self.assertEqual(pages_of(screen.story), 1)
        self.assertFalse(screen.turn_it.isVisible())
        boards = [b.changed(number=f"{b.number}{tail}") for tail in ("", "x", "y", "z", "w") for b in screen.story.boards]
        screen.story = screen.story.changed(boards=tuple(boards))
        self.assertEqual(pages_of(screen.story), 1 + -(-(len(boards) - 6) // 12))
        screen.refresh()
        self.assertIn("Page 1 of", screen.turn_it.text())
        first = self.grab().toImage()
        self.click("story.turn")
        self.assertEqual(screen.page, 1)
        self.assertNotEqual(self.grab().toImage(), first)
        with tempfile.TemporaryDirectory() as folder:
            screen.print_map(f"{folder}/s.pdf")
            data = (Path(folder) / "s.pdf").read_bytes()
            self.assertEqual(len(re.findall(rb"/Type\s*/Page\b", data)), pages_of(screen.story))
        for _ in range(pages_of(screen.story) - 1):
            self.click("story.turn")
        self.assertEqual(screen.page, 0, "after the last the first")


class Told(Laid):
    def test_gathered_weighed_left_off_printed_and_handed_over(self):
        self.do_until(lambda one: one.kind == "glue")
        self.window.show_screen("story")
        self.settle()
        screen = self.window.in_front
        self.assertEqual({b.number for b in screen.story.boards}, {"1", "2", "4", "5"})
        self.grab()
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
        self.grab()
        with tempfile.TemporaryDirectory() as folder:
            screen.print_map(f"{folder}/s.pdf")
            self.assertTrue((Path(folder) / "s.pdf").read_bytes().startswith(b"%PDF"))
            screen.save_as(folder)
            (made,) = (p for p in Path(folder).iterdir() if p.is_dir())
            self.assertTrue((made / "index.html").exists() and (made / "story.json").exists())
            screen.save_as(f"{folder}/s.pdf")  # a file where a folder is wanted: said, and nothing lost


class Wall(Laid):
    def test_the_instruments_hang_over_the_story_and_answer_questions(self):
        another = begin("bolt-on", "tern-2", "Tern 2")
        self.shop.apply("drawn up", another)
        self.window.show_screen("month")
        self.settle()
        band = self.window.wall
        self.assertTrue(band.isVisible() and not self.window.rack.isVisible())
        self.assertEqual([h.name for h in band.hung], ["Heron 8", "Tern 2"])
        self.grab()
        asked = []
        for _ in range(4):
            asked.append(band.asks)
            self.click("wall.question")
            self.grab()
        self.assertEqual(band.asks, asked[0])
        self.assertEqual(len(set(asked)), 4)
        self.click("wall.set")
        self.assertEqual(self.window.state.screen, "story")
        self.assertEqual(self.window.in_front.story.name, "Heron 8")
        self.click("wall.tern-2")  # drawn up alone: no story yet, and it says how one begins
        self.assertIsNone(self.window.in_front.story)
        self.grab()
        self.window.show_screen("look_over")
        self.settle()
        self.assertTrue(self.window.rack.isVisible() and not band.isVisible())

    def test_many_instruments_scroll_and_the_one_in_hand_stays_in_view(self):
        self.shop.apply("many", *(begin("bolt-on", f"tern-{k}", f"Tern {k} of a long name") for k in range(30)))
        self.window.show_screen("story")
        self.settle()
        band, screen = self.window.wall, self.window.in_front
        for _ in range(30):
            screen.step_lane(1)
            self.settle()
            shown = [h.hung.design for h in band.hooks if h.isVisible()]
            self.assertIn(screen.design, shown)
        self.assertGreater(band.first, 0)
        self.grab()
        self.window.resize(900, 420)  # no room for a wall: the builds are buttons on the screen
        self.settle()
        self.assertFalse(band.isVisible())
        self.assertTrue(screen.builds[0].isVisible())
        self.grab()
