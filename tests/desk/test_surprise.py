"""A surprise while sawing, in a real window: told by menu and by word, shown on the wood, planned again by one press, sawn on."""

from unittest import mock

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QMenu

from grainet.session.surprise import free_parts
from tests.desk.app import WindowTest
from tests.jobs import planned, quick_plan

CTRL = Qt.KeyboardModifier.ControlModifier


class Surprises(WindowTest):
    def setUp(self):
        super().setUp()
        design = next(d for d in self.shop.designs() if d.id == "plover")
        job = self.shop.jobs.job_for([design])
        self.shop.plans.accept(design, job, planned(job))
        self.state.choose_design("plover")
        self.show("sawAndWait", "rail.sawAndWait")
        self.board = max(self.now.boards, key=lambda b: len(self.now.cuts_of(b)))
        self.state.choose_piece(self.board)
        self.settle()
        self.screen = self.find("sawAndWait")

    def show(self, name, door):
        self.click(door)
        self.assertTrue(self.find(name).isVisible())

    @property
    def now(self):
        return self.shop.plans.accepted_for("plover")

    def tick(self, count):
        for _ in range(3 * count):
            if len(self.now.progress.done) < count:
                self.key(Qt.Key.Key_Return, CTRL, self.window)

    def menu(self):
        self.key(Qt.Key.Key_X, CTRL | Qt.KeyboardModifier.ShiftModifier, self.window)
        return next(m for m in self.screen.findChildren(QMenu) if m.isVisible() and m.parent() is self.screen)

    def test_a_lost_part_by_menu_and_the_rest_planned_again_by_one_press(self):
        self.tick(2)
        self.assertEqual(len(self.now.progress.done), 2)
        menu = self.menu()
        self.assertEqual(next(a.text() for a in menu.actions()), "A crack showed")
        lost = next(a.menu() for a in menu.actions() if a.menu() is not None)
        name = sorted(free_parts(self.now))[0]
        next(a for a in lost.actions() if a.text() == name).trigger()
        menu.close()
        self.settle()
        self.assertTrue(any("is lost" in m for m in self.message))
        for _ in range(400):
            self.settle()
            if self.screen.again is not None:
                break
        self.assertIn("made again", self.screen.again.words)
        self.assertIs(self.window.planning.fresh[1], self.screen.again.plan)  # Lay out shows it, to be accepted or not
        self.assertEqual(self.find("saw.tick").text().split()[-1], "again")
        self.assertFalse(self.grab(self.screen).isNull())
        asked = []
        with mock.patch.object(type(self.window.worker), "plan", lambda _self, job, *_more, **_named: asked.append(job)):
            self.key(Qt.Key.Key_Return, CTRL, self.window)
            self.state.background.wait(30_000)
            self.settle()
        self.assertEqual((self.state.screen, len(asked[0].cut), len(asked[0].lost)), ("lay_out", 2, 1))
        self.window.worker.planned.emit(asked[0], quick_plan(asked[0]))
        self.settle()
        self.assertIn("stay", self.message[-1])
        self.key(Qt.Key.Key_S, Qt.KeyboardModifier.AltModifier, self.window)
        self.settle()
        self.assertEqual((len(self.now.progress.done), self.now.progress.lost), (2, ()))
        self.click("rail.sawAndWait")
        self.assertEqual(self.find("saw.tick").text().split()[-1], "done")

    def test_a_cut_that_went_elsewhere_by_words_and_taken_back(self):
        self.tick(2)
        step = self.screen.next_step()
        self.assertNotEqual(step.cut.tool, "outline")
        self.type(f"went {step.cut.marks[0].mm + 12:.0f}")
        self.assertTrue(any("what is cut stays" in said for said in self.message))
        self.assertIsNone(self.screen.next_step())
        self.assertEqual(self.screen._again_asked[1], self.now.progress.lost, "what it harmed is looked for too")
        self.key(Qt.Key.Key_Z, CTRL, self.window)
        self.assertEqual(self.screen.next_step().cut, step.cut)

    def test_where_nothing_is_sawn_the_words_are_a_sentence(self):
        self.state.choose_piece("1")
        self.settle()
        self.type("lost A")
        self.assertIn("not being sawn by a plan", self.message[-1])
