"""Laying out by hand in a real window: a part of the plan is taken by mouse or key, moved, pinned, and let go; the rest is solved round it."""

from unittest import mock

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from grainet.wood.value import BadEntry
from tests.desk.app import WindowTest
from tests.jobs import planned, quick_plan

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
            self.window.worker.planned.emit(job, quick_plan(job))
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
        self.assertFalse(self.grab(self.screen).isNull())
        self.assertEqual(self.pressed(Qt.Key.Key_P), [])
        self.assertEqual((self.screen.pins["plover"], "no longer pinned" in self.message[-1]), ((), True))

    def test_the_mouse_takes_what_the_plan_has_laid(self):
        self.grab(self.screen)
        path, one = next((path, one) for path, one in self.screen._laid if one.part == "plover.neck")
        QTest.mouseClick(self.screen, Qt.MouseButton.LeftButton, pos=path.boundingRect().center().toPoint())
        self.settle()
        self.assertEqual((self.screen.part.id, self.screen.taken.key, self.state.piece_id), (one.part, one.key, one.piece))

    def test_what_cannot_be_pinned_is_said(self):
        self.pressed(Qt.Key.Key_T)
        self.screen.nudge(5_000, 0)
        self.assertEqual(self.pressed(Qt.Key.Key_P), [])
        self.assertIn("cannot be pinned there", self.message[-1])

    def test_every_way_of_lying_is_searched_and_a_tilted_part_is_taken_as_it_lies(self):
        job, plan = self.screen.shown_plan()
        tilted = next((p for p in plan.placements if p.angle_deg % 90), None)
        if tilted is None:  # else one that lies tilted where it could lie
            one = plan.placements[0]
            tilted = one.changed(angle_deg=one.angle_deg + 1.0)
            self.window.planning.take(job, plan.changed(placements=(tilted, *plan.placements[1:])))
        self.screen.take(tilted)
        self.settle()
        way = self.screen.view.orientations[self.screen.orientation]
        self.assertAlmostEqual(way.angle_deg, tilted.angle_deg)
        self.assertEqual(self.screen.at, (tilted.x, tilted.y))
        self.screen.nudge(3_000, 0)
        self.assertFalse(self.screen.holds)
        self.key(Qt.Key.Key_F, ALT, self.window)
        self.settle()
        self.assertTrue(self.screen.holds, self.screen.answer)
        self.assertIn("ways tried", self.message[-1])

    def test_straight_cuts_are_chosen_for_a_plan(self):
        self.key(Qt.Key.Key_C, ALT, self.window)
        self.assertEqual(self.find("layOut.cutting").text(), "Straight cuts")
        asked = []
        with mock.patch.object(type(self.window.worker), "plan", lambda _self, job, **more: asked.append(job)):
            self.click("layOut.plan")
        self.assertEqual(asked[0].kit.cutting, "straight")
        self.assertEqual(self.shop.kit.losses.cutting, "outline", "the house goes on as it did")

    def test_two_builds_are_lit_planned_and_kept_together(self):
        self.window.planning.light("merrow")
        self.settle()
        self.assertEqual(self.find("layOut.plan").text(), "Plan 2 builds")
        asked = []
        with mock.patch.object(type(self.window.worker), "plan", lambda _self, job, **more: asked.append(job)):
            self.click("layOut.plan")
        self.assertEqual([b.id for b in asked[0].builds], ["plover", "merrow"])
        self.window.worker.planned.emit(asked[0], quick_plan(asked[0]))
        self.settle()
        plan = self.screen.fresh[1]
        self.assertEqual(set(plan.builds), {"plover", "merrow"})
        other = next(p for p in plan.placements if p.build == "merrow" and p.leaf == 1)
        self.screen.take(other)
        self.settle()
        self.assertEqual((self.state.design_id, self.screen.part.id), ("merrow", other.part))
        self.key(Qt.Key.Key_S, ALT, self.window)
        kept = self.shop.plans.accepted_for("plover")
        self.assertEqual((kept.id, set(kept.designs)), (self.shop.plans.accepted_for("merrow").id, {"plover", "merrow"}))
        self.assertEqual(
            {p.name for p in self.shop.promises.boards().values()}, {" and ".join(self.name(d) for d in kept.designs)}
        )
        again = self.shop.jobs.job_for([d for d in self.shop.designs() if d.id in kept.designs])
        self.assertFalse([b for b in again.barred if b.code == "promised"], "its own boards are its own")

    def name(self, design_id):
        return next(d.name for d in self.shop.designs() if d.id == design_id)

    def test_a_part_is_centred_on_its_stock_by_a_word_and_where_it_tears_is_drawn(self):
        self.pressed(Qt.Key.Key_T)
        self.type("centred 260")
        self.assertRegex(self.message[-1], r"wide here, the program needs 260: \d+\.\d on each side")
        ring = self.screen.view.orientations[self.screen.orientation].at(*self.screen.at)
        low, high = ring[:, 1].min(), ring[:, 1].max()
        ys = [y for _, y in self.state.piece.outline]
        self.assertAlmostEqual((low + high) / 2, (min(ys) + max(ys)) / 2, delta=6)
        with self.assertRaisesRegex(BadEntry, "as in: centred 120"):
            self.screen.reads("centred")
        for wanted in ("up", "over", ""):
            self.key(Qt.Key.Key_A, ALT, self.window)
            self.assertEqual(self.screen.tears, wanted)
            self.assertFalse(self.grab(self.screen).isNull())
        self.assertRegex(self.message[-1], "Turned over: tears in|Turned over: nothing tears")
