"""Rows, columns and grids: nothing overlaps, nothing leaves its box, and what comes next is told."""

import unittest

from PySide6.QtWidgets import QPushButton, QWidget

from grainet.desk.widgets import flow
from tests.desk.app import application


class Flow(unittest.TestCase):
    def setUp(self):
        application()
        self.parent = QWidget()
        self.parent.resize(800, 600)
        self.buttons = [QPushButton(str(k), self.parent) for k in range(7)]

    def boxes(self, count=7):
        return [b.geometry() for b in self.buttons[:count]]

    def apart(self, boxes):
        for k, one in enumerate(boxes):
            for other in boxes[:k]:
                self.assertFalse(one.intersects(other), (one, other))

    def test_a_row_goes_right_and_one_from_the_right_goes_left(self):
        end = flow.row([(b, 50) for b in self.buttons], 20, 5, gap=8)
        self.assertEqual(end, 20 + 7 * 58)
        self.apart(self.boxes())
        self.assertEqual((self.boxes()[0].x(), self.boxes()[0].height()), (20, flow.HIGH))
        left = flow.row_to_right([(self.buttons[0], 100), self.buttons[1]], 780, 5)
        self.assertEqual(self.buttons[0].geometry().right(), 779)
        self.assertEqual(self.buttons[1].geometry().right(), 780 - 100 - flow.GAP - 1)
        self.assertEqual(left, self.buttons[1].x() - flow.GAP)

    def test_a_column_and_a_grid_share_the_width(self):
        self.assertEqual(flow.column(self.buttons, 10, 0, 200, high=30, gap=5), 7 * 35)
        self.apart(self.boxes())
        below = flow.grid(self.buttons, 10, 0, 310, 3, high=40, gap=5)
        self.apart(self.boxes())
        self.assertEqual(below, 3 * 45)
        self.assertEqual({b.width() for b in self.boxes()}, {100})
        self.assertLessEqual(max(b.right() for b in self.boxes()), 10 + 310)

    def test_what_is_wrapped_stays_within_its_line_and_none_is_wider_than_it(self):
        below = flow.wrapped([(b, 130) for b in self.buttons[:-1]] + [(self.buttons[-1], 900)], 10, 0, 300, high=40, gap=6)
        self.apart(self.boxes())
        self.assertLessEqual(max(b.right() for b in self.boxes()), 300)
        self.assertEqual(below, max(b.bottom() for b in self.boxes()) + 1 + 6)
        self.assertEqual(flow.wrapped([], 10, 77, 300), 77)

    def test_a_box_turned_inside_out_is_empty(self):
        flow.fill(self.buttons[0], 10, 10, 200, 90)
        self.assertEqual((self.buttons[0].width(), self.buttons[0].height()), (190, 80))
        flow.fill(self.buttons[0], 200, 90, 10, 10)
        self.assertEqual((self.buttons[0].width(), self.buttons[0].height()), (0, 0))


if __name__ == "__main__":
    unittest.main()
