"""Ways out in a real window: a board too narrow for the halves is rescued by keys and by mouse, and one step of undo takes it back."""

import unittest

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from grainet.wood.piece import Piece
from tests.desk.test_draw_up import Case

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


def board(number, length, width, thick, species="Black cherry"):
    ring = ((0.0, 0.0), (length, 0.0), (length, width), (0.0, width))
    return Piece(id=number, species=species, outline=ring, thickness_mm=thick, racked=True)


class Rescue(Case):
    empty = True

    def rack(self, *pieces):
        self.begin()
        self.assertTrue(self.state.keep("boards", *pieces))
        self.window.show_screen("draw_up")
        self.settle()
        self.screen.choose_lane("body.treble" if any(x.blank.part == "body.treble" for x in self.screen.lanes) else "body.bass")
        self.settle()
        self.wait_until(lambda: self.screen.answer_of_chosen() is not None)

    def wait_until(self, true, seconds=90):
        for _ in range(seconds * 20):
            if true():
                return
            QTest.qWait(50)
        self.fail("it did not come about")

    def ask(self):
        self.settle()
        self.click("drawUp.waysOut")
        found = self.find("rescue")
        self.wait_until(lambda: found.rest is not None or found.fault)
        self.settle()
        return found

    def test_a_board_too_narrow_has_ways_out_and_the_chosen_one_is_kept_and_undone(self):
        self.rack(board("1", 2400.0, 128.0, 50.0))
        before = self.g
        self.assertEqual(self.screen.answer_of_chosen().word, "wont")
        found = self.ask()
        self.assertEqual(self.state.piece.id, "1", "the nearest piece is in hand")
        kinds = [way.kind for way in found.ways]
        self.assertIn("third piece", kinds)
        self.assertEqual(kinds, [w.kind for w in sorted(found.ways, key=lambda w: w.price)], "best first")
        self.grab()
        self.assertIn("too narrow", self.told(found))
        self.key(Qt.Key.Key_Right, target=found)
        self.assertEqual(found.chosen, min(2, len(kinds)))
        found.choose(kinds.index("third piece") + 1)
        self.assertIn("third piece", found.cards[found.chosen - 1].accessibleName().lower())
        self.click("rescue.take")
        self.settle()
        self.assertEqual((self.state.screen, [m.kind for m in self.g.mends]), ("draw_up", ["third piece"]))
        self.assertTrue(any(lane.blank.cut == "third piece" for lane in self.screen.lanes))
        self.settle()
        self.wait_until(lambda: self.screen.answer_of_chosen() is not None)
        self.assertIn(self.screen.answer_of_chosen().word, ("gives", "if"), "what was promised holds")
        self.type("body as drawn")
        self.assertEqual((self.g.mends, self.g.body.outline), ((), before.body.outline))
        self.key(Qt.Key.Key_Z, CTRL, self.window)
        self.assertEqual([m.kind for m in self.g.mends], ["third piece"])
        self.key(Qt.Key.Key_Z, CTRL, self.window)
        self.assertEqual(self.g, before)

    def test_another_board_is_taken_in_hand_and_asked_about_at_once(self):
        self.rack(board("1", 1240.0, 120.0, 50.0))
        self.state.keep("more", board("2", 2400.0, 240.0, 50.0, "European ash").changed(reclaimed=True))
        self.state.rescue_part = self.screen.chosen
        self.state.choose_piece("1")
        self.key(Qt.Key.Key_R, CTRL | SHIFT, self.window)
        found = self.find("rescue")
        self.wait_until(lambda: found.rest is not None)
        self.assertIn("another piece", [w.kind for w in found.ways])
        found.choose([w.kind for w in found.ways].index("another piece") + 1)
        card = found.cards[found.chosen - 1]
        self.assertIn("first, on No. 2: face 1 is swept for metal", card.accessibleName())
        self.grab()
        before = self.g
        self.key(Qt.Key.Key_Return, CTRL, self.window)
        self.settle()
        self.assertEqual((self.state.piece.id, self.g), ("2", before))
        self.assertIn("gives it as it is drawn", self.message[-1])
        self.key(Qt.Key.Key_R, CTRL | SHIFT, self.window)
        self.wait_until(lambda: found.rest is not None and found.rest.get("fits"))
        self.assertIn("Nothing needs a way out", found.sentences[0])
        self.assertFalse(found.take.isEnabled())

    def test_no_guitar_no_piece_and_a_piece_that_is_not_measured_are_sentences(self):
        self.key(Qt.Key.Key_R, CTRL | SHIFT, self.window)
        found = self.find("rescue")
        self.grab()
        self.assertIn("No part asks", self.told(found))
        self.key(Qt.Key.Key_Return, CTRL, self.window)
        self.key(Qt.Key.Key_F4, target=self.window)
        self.rack(board("1", 1240.0, 120.0, 50.0))
        self.state.keep("unmeasured", self.state.shop.piece("1").changed(thickness_mm=None, stations=()))
        self.key(Qt.Key.Key_R, CTRL | SHIFT, self.window)
        self.settle()
        self.assertIn("not measured", found.sentences[0])
        found.worker.failed.emit("The planner could not be started.")
        self.assertEqual(found.sentences[0], "The planner could not be started.")
        self.key(Qt.Key.Key_Escape, target=found)
        self.assertEqual(self.state.screen, "draw_up")


if __name__ == "__main__":
    unittest.main()
