"""The outline in a real window: a handle dragged and moved by keys, a zone drawn, lines from elsewhere taken whole and in part."""

import unittest

import cv2
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest

from grainet.design.outline_edit import apart_mm
from grainet.design.shape_library import BODIES
from grainet.design.starting_points import begin
from grainet.exchange.outline_write import write_outlines
from tests.desk.test_draw_up import Case
from tests.picture.test_trace import picture

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


class Outline(Case):
    def setUp(self):
        super().setUp()
        self.begin()
        self.key(Qt.Key.Key_D, CTRL | SHIFT, self.window)
        self.outline = self.find("outline")

    def wait_for_source(self, count):
        for _ in range(400):
            self.settle()
            if len(self.outline.sources) >= count:
                return
            QTest.qWait(20)
        self.fail("no lines came")

    def test_a_handle_is_dragged_shown_and_kept_and_esc_leaves_another_one(self):
        before = self.g.body.outline
        handle = self.find("handle.5")
        QTest.mousePress(handle, Qt.MouseButton.LeftButton, pos=QPoint(11, 11))
        QTest.mouseMove(handle, QPoint(11, -60))
        self.settle()
        QTest.mouseRelease(handle, Qt.MouseButton.LeftButton, pos=QPoint(11, 11))
        self.settle()
        self.assertIsNotNone(self.state.preview, "shown")
        ys = [self.outline.to_px(p)[1] for p in self.state.preview.body.outline]
        self.assertTrue(min(ys) > 0 and max(ys) < self.outline.height(), "all of it is in view again")
        self.assertEqual(self.g.body.outline, before, "not kept")
        self.assertGreater(apart_mm(self.state.preview.body.outline, before), 1.0)
        self.click("outline.keep")
        self.assertNotEqual(self.g.body.outline, before)
        kept = self.g.body.outline
        handle.setFocus()
        QTest.keyClick(handle, Qt.Key.Key_Up)
        self.settle()
        self.assertGreater(apart_mm(self.state.preview.body.outline, kept), 4.0)
        self.key(Qt.Key.Key_Escape, target=self.window)
        self.assertEqual((self.state.preview, self.g.body.outline), (None, kept))
        self.key(Qt.Key.Key_Z, CTRL, self.window)
        self.assertEqual(self.g.body.outline, before)

    def test_a_zone_is_drawn_chosen_and_taken_away(self):
        count = len(self.g.body.zones)
        self.click("zone.removed")
        a, b = (QPoint(*(int(v) for v in self.outline.to_px(c))) for c in ((250.0, -30.0), (300.0, 20.0)))
        QTest.mousePress(self.outline, Qt.MouseButton.LeftButton, pos=a)
        QTest.mouseMove(self.outline, b)
        QTest.mouseRelease(self.outline, Qt.MouseButton.LeftButton, pos=b)
        self.settle()
        self.click("outline.keep")
        self.assertEqual(len(self.g.body.zones), count + 1)
        self.assertEqual(self.g.body.zones[0].kind, "removed")
        QTest.mouseClick(self.outline, Qt.MouseButton.LeftButton, pos=(a + b) / 2)
        self.settle()
        self.assertEqual(self.outline.zone, 0)
        self.grab()
        QTest.keyClick(self.outline, Qt.Key.Key_Delete)
        self.settle()
        self.click("outline.keep")
        self.assertEqual(len(self.g.body.zones), count)

    def test_a_contours_line_is_drawn_and_its_depth_said(self):
        self.click("outline.contour.behind")
        a, b = (QPoint(*(int(v) for v in self.outline.to_px(c))) for c in ((120.0, -60.0), (260.0, -90.0)))
        QTest.mousePress(self.outline, Qt.MouseButton.LeftButton, pos=a)
        QTest.mouseMove(self.outline, b)
        self.grab()
        QTest.mouseRelease(self.outline, Qt.MouseButton.LeftButton, pos=b)
        self.settle()
        self.grab()
        self.assertFalse(self.find("outline.contour.behind").isChecked())
        self.click("outline.keep")
        self.type("contour behind 9")
        self.type("bevel 4 in 6")
        (contour, bevel) = self.g.body.shaping
        self.assertEqual((contour.kind, contour.back, contour.deep_mm), ("contour", True, 9.0))
        self.assertEqual((bevel.kind, bevel.in_mm), ("bevel", 6.0))
        self.state.move_cursor(200)
        self.grab()
        self.click("outline.carve")
        self.assertEqual(self.find("tape.line").text(), "carve ")
        self.click("zone.seen")  # one drag at a time
        self.click("outline.contour.front")
        self.assertIsNone(self.outline.marking)
        QTest.keyClick(self.outline, Qt.Key.Key_Escape)
        self.assertIsNone(self.outline.contouring)

    def test_lines_of_a_drawing_and_a_picture_are_taken_whole_or_in_part(self):
        other = begin("through", "t", "t")
        write_outlines(self.folder / "o.dxf", other)
        self.outline.bring_drawing(str(self.folder / "o.dxf"))
        self.wait_for_source(1)
        image, _ = picture(BODIES["egg"].outline, 1.0)
        cv2.imwrite(str(self.folder / "p.png"), image)
        self.outline.bring_picture(str(self.folder / "p.png"))
        self.wait_for_source(2)
        self.assertFalse(self.find("source.B.stretch").isEnabled(), "two handles first")
        before = self.g.body.outline
        self.find("handle.4").click()
        self.find("handle.7").click()
        self.settle()
        self.grab()
        self.click("source.C.stretch")
        shown = self.state.preview.body.outline
        self.assertGreater(apart_mm(shown, before), 0.5)
        far = self.outline.handles[12].at
        self.assertLess(min((x - far[0]) ** 2 + (y - far[1]) ** 2 for x, y in before), 25, "elsewhere it is as it was")
        self.click("source.B.all")
        self.assertLess(apart_mm(self.state.preview.body.outline, other.body.outline), 0.2)
        self.click("outline.keep")
        self.assertLess(apart_mm(self.g.body.outline, other.body.outline), 0.2)
        card = self.outline.cards[0]
        QTest.mouseClick(card, Qt.MouseButton.LeftButton, pos=QPoint(2, 2))  # beside all loops: nothing
        self.outline.bring_drawing(str(self.folder / "none.dxf"))
        self.settle()
        self.assertIn("none.dxf", self.message[-1])

    def test_it_is_written_and_printed_from_here(self):
        self.outline.save_as(str(self.folder / "w.svg"))
        self.outline.print_map(str(self.folder / "w.pdf"))
        self.assertGreater((self.folder / "w.svg").stat().st_size, 500)
        self.assertIn("print at 100 %", self.message[-1])
        self.key(Qt.Key.Key_F4, target=self.window)
        self.screen.choose_lane(next(x.blank.part for x in self.screen.lanes if x.blank.component == "body"))
        self.settle()
        self.click("drawUp.outline")
        self.assertEqual(self.state.screen, "outline")


class Nothing(Case):
    empty = True

    def test_no_guitar_yet(self):
        self.key(Qt.Key.Key_D, CTRL | SHIFT, self.window)
        found = self.find("outline")
        self.grab()
        self.assertIn("No guitar is drawn up", self.told(found))
        found.bring_picture("x.png")
        found.take_zone_away()
        found.save_as()
        self.assertIn("no guitar", self.message[-1])


if __name__ == "__main__":
    unittest.main()
