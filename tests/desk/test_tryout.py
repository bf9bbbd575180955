"""Three take-ins as a new user with a tape does them, by keyboard alone and by mouse alone, with every key and click counted.

The counts are printed, and held: a change that makes taking in longer fails here. Seconds of thought are the user's, not ours.
"""

import unittest

from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QMenu

from grainet.desk.screens.photo.screen import Spot
from grainet.instruments.camera import take_photo
from tests.desk.app import WindowTest

CTRL = Qt.KeyboardModifier.ControlModifier
PLANK = (
    "plank 2390x231 white ash",
    "w 231 230 231",
    "t 52.4 52.1 49.8",
    "kg 17.4",
    "mc 8.4",
    "core 8.9",
    "ring 38 36",
    "slope 1",
    "bow 2 cup 0",
    "from mill",
    "at C1",
)
SLAB = ("1620", "kind slab", "e 166 176 160 184 152 190 158 188 163 182 148 205 156 198 170 186 164 180", "t 52.6 52.4 52.1 51.8 51.6", "sp european walnut",
        "kg 20.1", "mc 10.6", "ring 18 22", "at floor")  # fmt: skip
BUNDLE = ("bundle 5x760x58x12 4x700 3x620 sugar maple",)


class TryOut(WindowTest):
    empty = True

    def setUp(self):
        super().setUp()
        self.keys = self.clicks = 0
        self.window.bring_in.bench.stand_in("camera").megapixels = 1.4

    # by keyboard ----------------------------------------------------------------------------------------------------
    def say(self, *lines):
        for line in lines:
            for letter in line:
                QTest.keyClick(self.app.focusWidget() or self.window, letter)
            QTest.keyClick(self.app.focusWidget(), Qt.Key.Key_Return)
            self.keys += len(line) + 1
            self.settle()

    def begin_by_key(self):
        self.key(Qt.Key.Key_N, CTRL)
        self.keys += 1

    def rack_by_key(self):
        self.key(Qt.Key.Key_Escape, target=self.app.focusWidget())
        self.key(Qt.Key.Key_Return, CTRL, self.window)
        self.keys += 2

    def report(self, what, limit):
        count = self.keys or self.clicks
        print(f"\n  {what}: {count} {'keys' if self.keys else 'clicks'}", end=" ")
        self.assertLessEqual(count, limit)

    def test_a_plank_by_keyboard(self):
        self.begin_by_key()
        self.say(*PLANK)
        self.rack_by_key()
        piece = self.shop.piece("1")
        self.assertTrue(piece.racked)
        self.assertEqual(
            (piece.extents[2], piece.least_thickness_mm, piece.place, len(piece.width_stations), len(piece.moisture)),
            (2390, 49.8, "C1", 3, 2),
        )
        self.assertEqual(self.window.bring_in.tasks, [])
        self.report("plank by keyboard", 140)

    def test_a_slab_by_keyboard(self):
        self.begin_by_key()
        self.say(*SLAB)
        self.rack_by_key()
        piece = self.shop.piece("1")
        self.assertEqual((len(piece.width_stations), len(piece.stations), piece.kind, piece.extents[2]), (9, 5, "slab", 1620))
        self.report("live-edge slab by keyboard", 176)

    def test_a_bundle_by_keyboard(self):
        self.begin_by_key()
        self.say(*BUNDLE)
        self.assertEqual(len(self.shop.pieces()), 12)
        self.report("bundle of twelve by keyboard", 46)

    # by mouse -------------------------------------------------------------------------------------------------------
    def press(self, name):
        self.click(name)
        self.clicks += 1

    def drag(self, widget, a, b):
        QTest.mousePress(widget, Qt.MouseButton.LeftButton, pos=a)
        QTest.mouseMove(widget, b)
        QTest.mouseRelease(widget, Qt.MouseButton.LeftButton, pos=b)
        self.clicks += 1
        self.settle()

    def pick(self, button, *path):
        """A menu by its button, then one click for every level."""
        self.press(button)
        menu = self.window.findChild(QMenu, f"{button}.menu")
        one = menu
        for text in path:
            action = next(a for a in one.actions() if a.text() == text)
            self.clicks += 1
            one = action.menu() or one
        action.trigger()
        menu.close()
        self.settle()

    def figure(self, digits):
        """Digits on the keypad under the tape line, then keep."""
        for digit in digits:
            self.press("keypad." + {".": "point", " ": "space"}.get(digit, digit))
        self.press("keypad.keep")

    def size_by_mouse(self, length, width):
        self.press("first.begin")
        screen = self.find("bringIn")
        box = screen.ghost_box().toRect()
        self.drag(screen, QPoint(box.right(), box.center().y()), QPoint(int(screen.board.axis.x(length)), box.center().y()))
        box = screen.ghost_box().toRect()
        self.drag(
            screen,
            QPoint(box.center().x(), box.top()),
            QPoint(box.center().x(), box.bottom() - int(width * screen.board.axis.px_per_mm)),
        )

    def test_a_plank_by_mouse(self):
        self.size_by_mouse(2390, 231)
        self.pick("bringIn.species", "E", "European ash")
        for _ in range(3):
            self.press("bringIn.read")
        self.press("bringIn.read")
        self.press("bringIn.read")
        self.press("tape.keys")
        for task, digits in (("ring", "38 36"), ("slope", "1"), ("bow", "2")):
            row = next(k for k, t in enumerate(self.window.bring_in.tasks[:4]) if t.words.startswith(task))
            self.press(f"next.{row}")
            self.figure(digits)
        self.press("bringIn.rack")
        piece = self.shop.piece("1")
        self.assertTrue(piece.racked)
        self.assertEqual(
            (len(piece.stations), piece.mass_kg is None, piece.ring_angle_deg, piece.grain_slope_deg), (3, False, (38, 36), 1)
        )
        self.report("plank by mouse, instruments reading", 36)

    def test_a_slab_by_mouse_with_a_photo(self):
        self.size_by_mouse(1620, 340)
        self.pick("bringIn.kind", "Slab")
        self.pick("bringIn.photos", "Face 1", "Take it with the camera")
        screen = self.find("photo")
        piece = self.state.piece
        true = take_photo(self.window.bring_in.bench.stand_in("camera"), piece, "face1")[1]
        x1, y1 = piece.extents[2:]
        for k, place in enumerate([(0, y1), (x1, y1), (x1, 0), (0, 0)]):
            at = screen.at(Spot(*map(float, true.to_px([place])[0])))
            self.drag(screen, screen.at(screen.spots[k]).toPoint(), at.toPoint())
        self.press("photo.make")
        self.settle()
        edges = next(s for s in self.shop.piece("1").suggestions if s.what == "edges")
        row = next(k for k, t in enumerate(self.window.bring_in.tasks) if t.words == f"take {edges.id}")
        if row < 4:
            self.press(f"next.{row}")
        else:
            self.pick("bringIn.photos", next(a for a in self._texts("bringIn.photos") if a.startswith(edges.id)), "Keep it")
        self.assertGreater(len(self.shop.piece("1").width_stations), 5)
        self.pick("bringIn.species", "E", "European walnut")
        for _ in range(5):
            self.press("bringIn.read")
        self.press("bringIn.rack")
        self.assertTrue(self.shop.piece("1").racked)
        self.report("live-edge slab by mouse, photo and instruments", 34)

    def _texts(self, button):
        self.click(button)
        menu = self.window.findChild(QMenu, f"{button}.menu")
        found = [a.text() for a in menu.actions()]
        menu.close()
        menu.deleteLater()
        self.settle()
        return found

    def test_a_bundle_by_mouse(self):
        self.press("first.begin")
        self.pick("bringIn.kind", "A bundle of strips ...")
        for row, steps in ((0, -1), (1, 4), (2, 3)):
            field = self.find(f"bundle.{row}.count")
            field.stepBy(steps)
            self.clicks += abs(steps)
        for row, length in ((1, 700), (2, 620)):
            field = self.find(f"bundle.{row}.length")
            field.setValue(length)  # the wheel, three turns
            self.clicks += 3
        self.settle()
        self.press("bundle.take")
        self.assertEqual(sorted(p.length_mm for p in self.shop.pieces()), [620] * 3 + [700] * 4 + [760] * 5)
        self.report("bundle of twelve by mouse", 22)


if __name__ == "__main__":
    unittest.main()
