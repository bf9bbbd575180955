"""A window that is closed goes, and its shop with it: nothing that outlives it holds on to it."""

import gc
import unittest
import weakref

from PySide6.QtGui import QGuiApplication

from .app import WindowTest


class Freed(unittest.TestCase):
    def test_a_closed_window_and_its_shop_are_freed(self):
        class Opened(WindowTest):
            def runTest(self):
                for name in ("look_over", "draw_up", "lay_out", "become", "bring_in"):
                    self.window.show_screen(name)
                    self.settle()
                QGuiApplication.styleHints().colorSchemeChanged.emit(QGuiApplication.styleHints().colorScheme())
                held.extend([weakref.ref(self.window), weakref.ref(self.state), weakref.ref(self.shop)])

        held: list[weakref.ref] = []
        result = unittest.TestResult()
        Opened().run(result)
        self.assertEqual((result.errors, result.failures), ([], []))
        gc.collect()
        self.assertEqual([type(ref()).__name__ for ref in held], ["NoneType"] * 3)


if __name__ == "__main__":
    unittest.main()
