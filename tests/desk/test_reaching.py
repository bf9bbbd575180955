"""By keyboard and by ear: Tab reaches what a screen is about, the ring that shows it stands out, painted facts are told."""

import unittest

from PySide6.QtCore import Qt
from PySide6.QtGui import QImage, QPainter
from PySide6.QtWidgets import QApplication, QWidget

from grainet.desk.painting import draw, tokens
from grainet.desk.painting.spoken import in_reading_order, tell, told_by
from grainet.desk.screens.table import SCREENS
from tests.desk.app import WindowTest


class ByKeyboard(WindowTest):
    def after_tabs(self, screen, count=1):
        self.window.show_screen(screen)
        self.settle()
        self.window.setFocus()
        for _ in range(count):
            self.key(Qt.Key.Key_Tab, target=QApplication.focusWidget())
        return QApplication.focusWidget().objectName()

    def test_tab_reaches_what_the_screen_is_about_within_two_steps(self):
        self.state.choose_use("neck")
        for screen, wanted in (
            ("look_over", "lane.neck"), ("sort_rack", "sortRack.list"), ("guide", "guide.chapters"), ("aside", "aside.list"),
            ("kit_book", "kit.machines"),
        ):  # fmt: skip
            self.assertEqual(self.after_tabs(screen), wanted)

    def test_tab_leaves_a_table_again(self):
        self.assertEqual(self.after_tabs("kit_book", 2), "kit.machines.add")

    def test_tab_stays_within_the_window_s_screens(self):
        for screen in SCREENS:
            if screen not in ("photo", "saw_and_wait", "put_back"):
                self.after_tabs(screen)
                self.assertTrue(self.window.in_front.isAncestorOf(QApplication.focusWidget()), screen)

    def test_the_ring_stands_out_from_whatever_it_lies_on(self):
        for theme in (tokens.LIGHT, tokens.DARK):
            for ground in (theme.rail, theme.bench, theme.shelf, theme.slip, theme.chalk, theme.chalk_wash):
                image = QImage(40, 40, QImage.Format.Format_RGB32)
                image.fill(ground)
                with QPainter(image) as p:
                    draw.focus_ring(p, theme, image.rect().toRectF(), ground)
                self.assertGreaterEqual(tokens.contrast(image.pixelColor(20, 2), ground), 3, (theme.dark, ground.name()))


class ByEar(WindowTest):
    def test_every_screen_tells_what_it_paints(self):
        for screen in SCREENS:
            if screen not in ("photo", "guide"):
                self.window.show_screen(screen)
                self.settle()
                self.grab()
                self.assertGreater(len(self.told(self.window.in_front)), 8, screen)

    def test_the_head_tells_the_piece_and_follows_a_change(self):
        self.state.choose_piece("9")
        self.settle()
        self.grab()
        self.assertIn("No. 9", self.told(self.window.head))
        self.type("kg 3.33")
        self.settle()
        self.grab()
        told = self.told(self.window.head)
        self.state.choose_piece("1")
        self.settle()
        self.grab()
        self.assertNotEqual(self.told(self.window.head), told)

    def test_a_description_of_its_own_is_left_alone(self):
        widget = QWidget()
        with told_by(widget):
            tell(0, 10, "painted")
        self.assertEqual(widget.accessibleDescription(), "painted.")
        widget.setAccessibleDescription("its own")
        with told_by(widget):
            tell(0, 10, "painted anew")
        self.assertEqual(widget.accessibleDescription(), "its own")

    def test_texts_are_read_line_by_line(self):
        texts = [(30.0, 90.0, "56.8 thick"), (28.0, 10.0, "No. 2"), (60.0, 10.0, "Ready?"), (80.0, 5.0, "yes")]
        self.assertEqual(in_reading_order(texts), "No. 2, 56.8 thick. Ready? yes.")


if __name__ == "__main__":
    unittest.main()
