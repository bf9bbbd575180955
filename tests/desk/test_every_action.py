"""Every menu entry and card button is pressed on odd pieces: none may raise, and what is kept reads back. Also odd photos and sizes."""

import unittest

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QMenu

from grainet.exchange.picture_file import encode
from grainet.session.commands.line import read
from grainet.wood.piece import Piece
from tests.desk.app import WindowTest

OPENS_A_DIALOG = ("file", "label", "sheet", "camera", "true anew", "Ask for wood")
MENUS = ("kind", "species", "mark", "gate", "photos", "more")


class EveryAction(WindowTest):
    def entries(self, menu):
        """All entries that do something, the submenus' too."""
        found = []
        for action in menu.actions():
            if action.menu() is not None:
                found += self.entries(action.menu())
            elif action.isEnabled() and not action.isSeparator() and not any(w in action.text() for w in OPENS_A_DIALOG):
                found.append(action.text())
        return found

    def open(self, name):
        screen = self.find("bringIn")
        getattr(screen.menus, name)()
        button = {"gate": "bringIn.metal"}.get(name, f"bringIn.{name}")
        return self.window.findChild(QMenu, f"{button}.menu")

    def press_all(self, number, most=22):
        pressed = 0
        for name in MENUS:
            self.state.choose_piece(number)
            self.settle_quickly()
            texts = self.entries(self.open(name))
            self.open(name).close()
            step = max(1, len(texts) // most)
            for k, text in enumerate(texts[::step]):
                if not self.shop.has_piece(number) or self.shop.piece(number).gone:
                    self.state.undo()
                self.state.choose_piece(number)
                menu = self.open(name)
                action = next((a for a in self.flat(menu) if a.text() == text), None)
                if action is not None:
                    action.trigger()
                    pressed += 1
                menu.close()
                self.find("bringIn").let_go()
                self.find("tape.line").clear()
                if k % 12 == 0:
                    self.settle_quickly()
        return pressed

    def flat(self, menu):
        for action in menu.actions():
            if action.menu() is not None:
                yield from self.flat(action.menu())
            else:
                yield action

    def settle_quickly(self):
        self.app.processEvents()
        QTest.qWait(20)

    def test_on_a_rich_piece_a_fresh_one_and_a_reclaimed_one(self):
        self.click("rail.bringIn")
        self.state.new_piece()
        total = 0
        for number in ("18", "2", "11"):
            total += self.press_all(number)
        self.assertGreater(total, 150)
        for piece in self.shop.pieces(everything=True):
            self.assertEqual(Piece.model_validate_json(piece.model_dump_json(exclude_defaults=True)), piece)
        while self.state.shop.undo() is not None:
            pass
        self.assertEqual(self.shop.pieces(everything=True), [], "every step is taken back, to before the first")

    def test_every_word_of_the_card(self):
        self.click("rail.bringIn")
        self.state.choose_piece("8")
        self.settle()
        for tag in [d.id for d in self.shop.piece("8").defects]:
            self.state.choose_tag(tag)
            self.settle_quickly()
            for name in ("severity", "feature", "face", "face", "endMarked", "endFar", "endMarked", "depth"):
                button = self.find(f"mark.{name}")
                if button.isVisible() and button.isEnabled():
                    QTest.mouseClick(button, Qt.MouseButton.LeftButton)
            self.find("tape.line").clear()
        self.settle()
        self.assertEqual(len(self.shop.piece("8").defects), 7)


class OddPhotos(WindowTest):
    def show(self, image):
        self.click("rail.bringIn")
        self.state.choose_piece("9")
        screen = self.window.photo
        self.window.show_screen("photo")
        screen.load("face1", lambda: encode(image))
        self.settle()
        return screen

    def test_portrait_tiny_flat_and_wide_pictures(self):
        rng = np.random.default_rng(2)
        for shape in ((900, 300), (60, 60), (40, 1200), (400, 4000)):
            image = rng.integers(0, 255, (*shape, 3), dtype=np.uint8) if shape[0] != 60 else np.full((*shape, 3), 128, np.uint8)
            with self.subTest(shape):
                screen = self.show(image)
                self.assertIsNotNone(screen.loaded)
                view = screen.view()
                self.assertAlmostEqual(view.width() / view.height(), shape[1] / shape[0], delta=0.05 * shape[1] / shape[0])
                for key in (Qt.Key.Key_Tab, Qt.Key.Key_Left, Qt.Key.Key_Down):
                    QTest.keyClick(screen, key)
                self.grab()
                QTest.keyClick(screen, Qt.Key.Key_Escape)
                self.settle()

    def test_a_picture_too_small_is_said(self):
        self.show(np.zeros((20, 20, 3), np.uint8))
        self.assertIn("too few", self.message[-1])

    def test_the_photo_stays_with_its_piece(self):
        screen = self.show(np.full((400, 900, 3), 120, np.uint8))
        QTest.keyClick(screen, Qt.Key.Key_Left)
        self.state.choose_piece("10")
        self.settle()
        screen.primary_action()
        self.settle()
        self.assertIsNotNone(self.shop.piece("9").photo("face1"))
        self.assertIsNone(self.shop.piece("10").photo("face1"))


class Sizes(WindowTest):
    def test_every_state_of_taking_in_paints_in_every_size(self):
        self.click("rail.bringIn")
        long = read("plank 3600x240x52", Piece(id="99", species="Sugar maple (hard)"), 0, "mm", "").piece
        for k in range(40):
            long = read(
                f"{100 + 80 * k} {'kcmvwtsoih'[k % 10]} {20 + k}x{8 + k % 9} y {20 + 5 * k} f {'1' if k % 3 else '2'}",
                long,
                0,
                "mm",
                "",
            ).piece
        self.state.keep("long", long.changed(species="Western redcedar", note="x" * 300))
        self.state.keep("thin", read("veneer 500x200x0.6", Piece(id="98"), 0, "mm", "").piece)
        self.state.keep("short", read("offcut 40x30x20", Piece(id="97"), 0, "mm", "").piece)
        for size in ((1024, 700), (1280, 800), (2560, 1440)):
            self.window.resize(*size)
            for theme in ("dark",) if size[0] == 1280 else ("light",):
                self.state.keep("theme", self.shop.kit.changed(theme=theme))
                for number in ("99", "98", "97", "1"):
                    self.state.choose_piece(number)
                    self.state.roll()
                    self.state.try_part((5, 2, 38, 25))
                    self.app.processEvents()
                    self.grab()
                    self.state.try_part(None)
                    marks = self.shop.piece(number).defects
                    self.state.choose_tag(marks[0].id if marks else None)
                    self.app.processEvents()
                    self.assertFalse(self.grab().isNull())
        self.settle()
        card = self.window.bring_in.card
        self.assertTrue(card.isVisible())


if __name__ == "__main__":
    unittest.main()
