"""Saw: a cut that waits for a bought part that is only guessed has its way out beside it; running sizes lie on the wood."""

import unittest

from grainet.desk.screens.saw.running import _slips
from grainet.present.running_sizes import KerfEdges
from tests.desk.app import WindowTest


class Guessed(WindowTest):
    def setUp(self):
        super().setUp()
        g = self.shop.instruments.find("merrow")
        self.assertIsNotNone(g)
        self.state.keep_instrument("guessed", g.with_figures({"status": {**g.status, "spread_mm": "guessed"}}))
        self.lay_out("merrow")
        self.window.show_screen("saw_and_wait")
        self.settle()

    def test_a_note_begins_behind_the_board_and_behind_a_slip_that_is_longer(self):
        from grainet.desk.painting import draw

        screen = self.window.screens["saw_and_wait"]
        for wide, high in ((1280, 840), (1000, 640)):
            self.window.resize(wide, high)
            self.settle()
            for lane in screen.lanes:
                if not lane.isHidden():
                    slip = lane._slip_x() + draw.text_width(lane.step.text, 14, 500) + 14
                    self.assertGreater(lane.note_x(), slip)
                    self.assertGreater(lane.note_x(), screen.axis_now.x(lane.piece.extents[2]))
            board = screen._board_high()
            self.assertLessEqual(board + 2 * 40, screen.height() - screen._wait_high(), "steps stand under the widest board")

    def test_one_press_says_that_it_is_measured(self):
        screen, button = self.window.screens["saw_and_wait"], self.find("saw.measured")
        for _ in range(40):
            if screen.guessed is not None or screen.next_step() is None:
                break
            screen.primary_action()
            self.settle()
        self.assertIsNotNone(screen.guessed, "a cut that frees a part of the body waits")
        self.assertTrue(button.isVisible())
        _, row = screen.guessed
        self.assertIn(f"{row.mm:g} is measured", button.text())
        step = screen.next_step()
        screen.primary_action()
        self.assertIn("only guessed", self.message[-1])
        self.assertEqual(screen.next_step(), step, "no press on another button makes it so")
        self.click("saw.measured")
        self.assertEqual(self.shop.instruments.find("merrow").status["spread_mm"], "in hand")
        self.assertFalse(button.isVisible())
        screen.primary_action()
        self.settle()
        still = screen.guessed
        self.assertTrue(still is None or still[1].kind != row.kind, "it waits for that part no more")


class Running(unittest.TestCase):
    def slips(self, low, high, across=False):
        one = KerfEdges(1, across, low, high, 0.0, 100.0, "later")
        return [text for text, *_ in _slips(one, "mm", (0.0, 0.0), float, float, 0.0)]

    def test_a_kerf_that_hangs_over_an_edge_has_one_figure_and_that_lies_on_the_wood(self):
        self.assertEqual(self.slips(-2.0, 1.0), ["1.0 ▾ rip"])
        self.assertEqual(self.slips(31.7, 34.7), ["31.7 ▴ rip"])
        self.assertEqual(self.slips(-1.0, 2.0, across=True), ["◂ 2.0"])
        self.assertEqual(self.slips(505.0, 508.0, across=True), ["505.0 ▸", "◂ 508.0"])


if __name__ == "__main__":
    unittest.main()
