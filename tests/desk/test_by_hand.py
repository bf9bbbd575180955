"""Laying out by hand in a real window: a part of the plan is taken by mouse or key, moved, pinned, and let go; the rest is solved round it."""

from unittest import mock

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from grainet.plan.planner import plan_job
from tests.desk.app import WindowTest
from tests.jobs import planned

ALT = Qt.KeyboardModifier.AltModifier


class ByHand(WindowTest):
    def setUp(self):
        super().setUp()
        self.state.choose_design("plover")
        self.click("rail.layOut")
        self.screen = self.find("layOut")
        job = self.shop.jobs.job_for([self.state.design])
        self.window.worker.planned.emit(job, planned(job))
        self.settle()

    def pressed(self, key):
        """Press a key; what the planner is asked is given back, and answered."""
        asked = []
        with mock.patch.object(type(self.window.worker), "plan", lambda _self, job, **more: asked.append((job, more))):
            self.key(key, ALT, self.window)
        for job, _ in asked:
            self.window.worker.planned.emit(job, plan_job(job, seconds=2))
            self.settle()
        return asked

    def test_a_part_is_taken_moved_pinned_and_let_go(self):
        self.pressed(Qt.Key.Key_T)
        one = self.screen.taken
        self.assertEqual(((one.x, one.y), one.piece), (self.screen.at, self.state.piece_id))
        self.assertTrue(self.screen.holds)
        ghost = self.find("part.inHand")
        ghost.setFocus()
        moved = False
        for key in (Qt.Key.Key_Right, Qt.Key.Key_Down, Qt.Key.Key_Left, Qt.Key.Key_Up):
            self.key(key, Qt.KeyboardModifier.ControlModifier, ghost)
            if self.screen.holds:
                moved = True
                break
        self.assertTrue(moved)
        at = self.screen.at
        asked = self.pressed(Qt.Key.Key_P)
        self.assertEqual(len(asked), 1)
        self.assertEqual([(p.part, p.x, p.y) for p in asked[0][0].pins], [(one.part, *at)])
        self.assertLessEqual(asked[0][1]["seconds"], 5)
        placed = self.screen.fresh[1].placements
        self.assertIn((one.part, *at), {(p.part, p.x, p.y) for p in placed})
        self.assertEqual(self.screen.fresh[1].builds.keys(), {"plover"})
        self.assertFalse(self.screen.grab().isNull())
        self.assertEqual(self.pressed(Qt.Key.Key_P), [])
        self.assertEqual((self.screen.pins["plover"], "no longer pinned" in self.message[-1]), ((), True))

    def test_the_mouse_takes_what_the_plan_has_laid(self):
        self.screen.grab()
        path, one = next((path, one) for path, one in self.screen._laid if one.part == "plover.neck")
        QTest.mouseClick(self.screen, Qt.MouseButton.LeftButton, pos=path.boundingRect().center().toPoint())
        self.settle()
        self.assertEqual((self.screen.part.id, self.screen.taken.key, self.state.piece_id), (one.part, one.key, one.piece))

    def test_what_cannot_be_pinned_is_said(self):
        self.pressed(Qt.Key.Key_T)
        self.screen.nudge(5_000, 0)
        self.assertEqual(self.pressed(Qt.Key.Key_P), [])
        self.assertIn("cannot be pinned there", self.message[-1])
