"""More of the window: the why at the plumb, lineage, read-only shops, every trouble drawn, the menu and the guide, pictures kept."""

import os
import unittest
from typing import get_args
from unittest import mock

from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QImage, QPainter
from PySide6.QtTest import QTest

from grainet.desk.actions import ACTIONS, ALSO
from grainet.desk.main_window import Window
from grainet.desk.painting import draw, tokens
from grainet.desk.services.pictures import paint
from grainet.job.answer import Offcut
from grainet.paths import cache_folder
from grainet.session.missing_readings import tasks_of
from grainet.session.shop import Shop
from grainet.wood.defects import Defect, DefectKind
from grainet.wood.piece import Piece
from grainet.work.returning import offcut_piece
from tests.desk.app import WindowTest, application

CTRL = Qt.KeyboardModifier.ControlModifier


class Why(WindowTest):
    def test_it_says_every_reason_with_its_remedy_at_the_plumb(self):
        self.state.choose_piece("1")
        self.state.choose_use("neck")
        self.window.show_screen("look_over")
        self.settle()
        first, second = self.find("lookOver").why_text()
        self.assertIn("gives it once what stands below is done", first)
        self.assertIn("676 × 78 × 22", first)
        self.assertIn("Plover neck, by its outline", first)
        for words in ("11.3 %", "days on sticks", "18°/22°", "pins reach 10 of 52"):
            self.assertIn(words, second)

    def test_it_follows_the_plumb(self):
        self.state.choose_piece("8")
        self.window.show_screen("look_over")
        texts = []
        for place in (300, 2200):
            self.state.move_cursor(place)
            self.settle()
            texts.append(self.find("lookOver").why_text()[0])
        self.assertIn("gives it as it lies", texts[0])
        self.assertIn("will not give it", texts[1])


class Lineage(WindowTest):
    def test_offcuts_of_offcuts_are_shown_under_their_grandparent(self):
        ash = self.shop.piece("8")
        child = offcut_piece(
            ash, Offcut(id="a", piece="8", polygon=((0, 0), (1000, 0), (1000, 231), (0, 231)), thickness_mm=52.0), "8.1"
        )
        grandchild = offcut_piece(
            child, Offcut(id="b", piece="8.1", polygon=((400, 0), (900, 0), (900, 120), (400, 120)), thickness_mm=52.0), "8.1.1"
        )
        self.shop.apply("sawn", ash.changed(gone="plover"), child.changed(gone="plover"), grandchild)
        self.assertEqual(grandchild.picture_at, (400, 0))
        self.window.show_screen("put_back")
        self.state.choose_piece("8.1.1")
        self.settle()
        screen = self.find("putBack")
        self.assertEqual(screen.parent_piece.id, "8.1")
        self.click("putBack.8")
        self.assertEqual([[p.id for p in row] for _, row in screen._generations(self.shop.piece("8"))], [["8.1"], ["8.1.1"]])
        self.assertIn("1 offcut to shelve", self.told(self.find("rail.putBack")))


class ReadOnly(WindowTest):
    def test_a_second_window_shows_and_refuses_with_a_sentence(self):
        second = Window(Shop.open(self.folder / "D.grainet"))
        self.addCleanup(second.close)
        message = []
        second.state.message.connect(lambda said: message.append(tuple(said)))
        self.assertIn("read only", second.windowTitle())
        second.state.choose_piece("9")
        self.assertFalse(second.state.keep("x", second.state.shop.piece("9").changed(place="Q")))
        self.assertIn("another window", message[-1][0])
        self.assertTrue(message[-1][1])


class MenuAndGuide(WindowTest):
    def test_f10_lists_every_action_with_its_key_and_f1_explains(self):
        self.key(Qt.Key.Key_F10, target=self.window)
        panel, rows = self.find("actions"), self.find("actions.list").rows
        self.assertTrue(panel.isVisible())
        self.assertTrue(self.window.rect().contains(panel.geometry()), "it fits the window")
        self.assertGreaterEqual(len(rows.rows), 18)
        self.assertTrue(all(row.right for row in rows.rows), "each with its key")
        QTest.keyClicks(self.find("actions.search"), "light")
        self.assertEqual([row.left for row in rows.rows], ["Light or dark"])
        before = self.state.theme
        QTest.keyClick(self.find("actions.search"), Qt.Key.Key_Return)
        self.settle()
        self.assertFalse(panel.isVisible())
        self.assertIsNot(self.state.theme, before, "the first press does something")
        self.key(Qt.Key.Key_F1, target=self.window)
        self.assertEqual(self.state.screen, "guide")
        self.assertIn("trained practice", self.find("guide.page").toPlainText())

    def test_length_styles_go_round_and_the_head_follows(self):
        self.state.choose_piece("8")
        self.window.show_screen("look_over")
        seen = set()
        for _ in range(5):
            self.key(Qt.Key.Key_L, CTRL, self.window)
            seen.add(self.shop.kit.length_style)
        self.assertEqual(len(seen), 5)

    def test_light_goes_round(self):
        seen = [self.state.theme]
        for _ in range(4):
            self.key(Qt.Key.Key_D, Qt.KeyboardModifier.ControlModifier, target=self.window)
            self.assertIsNot(self.state.theme, seen[-1], "every press changes what is seen")
            seen.append(self.state.theme)


class Drawing(unittest.TestCase):
    def setUp(self):
        application()
        self.image = QImage(200, 120, QImage.Format.Format_RGB32)

    def test_every_kind_has_a_tag_and_a_fill_that_leave_ink(self):
        looks = set()
        for kind in get_args(DefectKind):
            self.image.fill(0xFFDDBB88)
            p = QPainter(self.image)
            defect = Defect(id="x1", kind=kind, polygon=((10, 10), (110, 10), (110, 80), (10, 80)))
            draw.trouble(p, tokens.LIGHT, defect, lambda x: x, lambda y: y)
            draw.tag(p, tokens.LIGHT, QPointF(160, 40), "x1", kind)
            p.end()
            data = bytes(self.image.constBits())
            self.assertGreater(len({data[k : k + 4] for k in range(0, len(data), 4)}), 6, kind)
            looks.add(data)
        self.assertGreaterEqual(len(looks), 12, "the kinds look apart")

    def test_tags_keep_their_order_and_stay_in_the_gutter(self):
        for count in (1, 5, 20, 40):
            wanted = sorted((k * 37.0) % 900 + 100 for k in range(count))
            places = draw.spread_tags(wanted, 198, 1234, 44)
            self.assertEqual(len(places), count)
            for row in (0, 1):
                xs = [x for x, r in places if r == row]
                self.assertEqual(xs, sorted(xs))
                self.assertTrue(all(197.9 <= x <= 1234.1 for x in xs))


class Pictures(WindowTest):
    def test_pictures_are_kept_on_disk_and_come_back_the_same(self):
        self.enterContext(mock.patch.dict(os.environ, XDG_CACHE_HOME=str(self.folder)))
        self.state.pictures._kept.clear()
        self.window.refresh()
        self.settle()
        painted = set((cache_folder() / "pictures").glob("*.png"))
        self.assertGreaterEqual(len(painted), 5)
        shown = {key: pixmap.toImage() for key, pixmap in self.state.pictures._kept.items()}
        self.state.pictures._kept.clear()
        with mock.patch("grainet.desk.services.pictures.paint", side_effect=AssertionError):  # read, not painted again
            self.window.refresh()
            self.settle()
        self.assertEqual({key: pixmap.toImage() for key, pixmap in self.state.pictures._kept.items()}, shown)
        piece = self.shop.piece("9")
        self.assertEqual(paint(piece, "end"), paint(piece, "end"))
        self.assertNotEqual(paint(piece, "face1"), paint(piece, "face2"))
        self.assertIsNone(self.state.pictures.get(Piece(id="zz"), "face1"))


class Tasks(unittest.TestCase):
    def test_what_is_unread_is_asked_in_the_order_of_measuring(self):
        empty = [t.what for t in tasks_of(Piece(id="1", reclaimed=True), 10)]
        self.assertEqual(empty[0], "Length")
        for wanted in (
            "Species",
            "Sweep face 1 for metal",
            "Weigh it",
            "Moisture",
            "Rings at both ends",
            "Slope of grain",
            "Origin",
        ):
            self.assertIn(wanted, empty)
        self.assertTrue(all(t.words for t in tasks_of(Piece(id="1"), 10)))


class PiecesForAPart(WindowTest):
    def test_the_rack_is_ranked_for_the_part_in_hand_and_a_weight_moves_it(self):
        self.state.choose_design("merrow")
        self.state.choose_use("fretboard")
        self.key(Qt.Key.Key_P, Qt.KeyboardModifier.ControlModifier | Qt.KeyboardModifier.AltModifier, self.window)
        screen = self.find("sortRack")
        self.settle()
        before = [row.piece for row in screen.model.rows if row.word == "gives"]
        self.assertRegex(screen.sentence, f"Merrow fretboard, 1 wanted: take No. {before[0]}")
        for _ in range(4):  # to 5 and round to nothing
            self.click("sortRack.weight.thrift")
        self.assertEqual(self.shop.kit.choosing.thrift, 2.0)
        while self.shop.kit.choosing.thrift:
            self.click("sortRack.weight.thrift")
        while self.shop.kit.choosing.margin < 5:
            self.click("sortRack.weight.margin")
        after = [row.piece for row in screen.model.rows if row.word == "gives"]
        self.assertEqual(set(after), set(before))
        self.assertNotEqual(after, before)
        self.assertFalse(self.find("sortRack.thickness").isVisible())
        self.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier, self.window)
        self.assertEqual(self.shop.kit.choosing.margin, 3.0, "a weight is one undo")


class Keys(unittest.TestCase):
    def test_no_key_means_two_things(self):
        keys = [key for row in ACTIONS for key in (row.key, *ALSO.get(row.key, ())) if key]
        self.assertEqual(len(keys), len(set(keys)), sorted(k for k in keys if keys.count(k) > 1))
