"""A neck of strips in a real window: how many, which, mirrored and swapped, by mouse and by keys; shown before it is kept."""

import unittest

from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtGui import QWheelEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from grainet.design.drawing import stations
from grainet.design.lamination import lamination_of, strips_at
from tests.desk.test_draw_up import Case

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


class Strips(Case):
    def setUp(self):
        super().setUp()
        self.begin()

    def open(self):
        self.key(Qt.Key.Key_N, CTRL | SHIFT, self.window)
        return self.find("strips")

    def test_a_neck_becomes_one_of_strips_is_changed_and_kept(self):
        screen = self.open()
        self.grab()
        self.assertIn("not of strips", self.told(screen))
        self.click("strips.5")
        self.assertEqual(len(self.state.preview.strips), 5)
        self.assertEqual(self.g.strips, (), "shown, not kept")
        self.assertEqual(self.state.screen, "strips")
        self.click("strips.keep")
        self.assertEqual(len(self.g.strips), 5)
        self.type("strip 1 14 of maple")
        self.assertEqual(self.g.strips[0].mm, 14)
        self.grab()
        told = self.told(screen)
        self.assertIn("apart: mirror it", told)
        self.assertIn("glue lines", told)
        self.click("strips.mirror")
        self.click("strips.keep")
        self.assertEqual(self.g.strips[0], self.g.strips[4])
        self.assertTrue(lamination_of(self.g).alike)
        self.type("strip 2 of walnut")
        before = [s.species for s in self.g.strips]
        self.click("strips.swap")
        self.assertNotEqual([s.species for s in self.state.preview.strips], before)
        self.key(Qt.Key.Key_Escape, target=self.window)
        self.assertEqual([s.species for s in self.g.strips], before, "Esc leaves it as it was")
        self.click("strips.keep")
        self.assertEqual(self.state.screen, "draw_up")

    def test_a_strip_is_pressed_in_the_plan_and_turned_by_the_wheel(self):
        self.type("strips 12 10>5 14 10>5 12")
        screen = self.open()
        at = stations(self.g)
        x = (at.board_end + at.nut) / 2
        low, high = strips_at(self.g, x)[2]
        y = screen.mapFromGlobal(screen.mapToGlobal(QPoint(0, 0))).y() + 166 / 2 - (low + high) / 2 * screen._across_scale(self.g)
        QTest.mouseClick(screen, Qt.MouseButton.LeftButton, pos=QPoint(int(screen.axis_now.x(x)), int(y)))
        self.settle()
        self.assertEqual(self.window.head.tape.text(), "strip 3 ")
        slip = self.find("strip.2")
        turn = QWheelEvent(
            QPointF(5, 5), QPointF(slip.mapToGlobal(QPoint(5, 5))), QPoint(0, 0), QPoint(0, 120), Qt.MouseButton.NoButton,
            Qt.KeyboardModifier.NoModifier, Qt.ScrollPhase.NoScrollPhase, False,
        )  # fmt: skip
        QApplication.sendEvent(slip, turn)
        self.settle()
        self.assertEqual((self.state.preview.strips[1].mm, self.state.preview.strips[1].taper_mm), (10.5, 5))
        self.assertIn("10.5", slip.accessibleName())
        self.key(Qt.Key.Key_Return, CTRL, self.window)
        self.type("strip 1 grain head")
        self.type("strip 2 grain tail")
        self.grab()
        self.assertIn("runs against one another", self.told(screen))
        self.assertIn("wedge", self.told(screen))

    def test_the_door_stands_by_the_neck_and_many_strips_fit(self):
        self.screen.choose_lane("neck")
        self.settle()
        self.click("drawUp.strips")
        screen = self.find("strips")
        self.type("strips " + " ".join(["6"] * 15))
        self.grab()
        self.assertIn("15 of 6", self.told(screen), "kinds with their number, where lines would run into one another")
        self.assertLess(screen.axis_now.x(stations(self.g).head_end), screen.width(), "the head is in view")
        lefts = sorted(s.geometry().left() for s in screen.slips if s.isVisible())
        self.assertEqual(len(set(lefts)), 15)
        self.type("left")
        self.grab()
        self.type("strips 9 a1 9")
        self.assertEqual(len([s for s in screen.slips if s.isVisible()]), 3)


class Nothing(Case):
    empty = True

    def test_no_guitar_yet(self):
        self.key(Qt.Key.Key_N, CTRL | SHIFT, self.window)
        screen = self.find("strips")
        self.grab()
        self.assertIn("No guitar is drawn up", self.told(screen))
        self.key(Qt.Key.Key_Return, CTRL, self.window)
        self.assertEqual(self.state.screen, "draw_up")


if __name__ == "__main__":
    unittest.main()
