"""Plans side by side in a real window: looked for, compared, one kept with its reason, another taken in hand, all by keys too."""

from unittest import mock

from PySide6.QtCore import Qt

from grainet.plan.alternatives import alternatives
from tests.desk.app import WindowTest
from tests.pace import within

CTRL = Qt.KeyboardModifier.ControlModifier


class SideBySide(WindowTest):
    found = None

    def setUp(self):
        super().setUp()
        self.state.choose_design("plover")
        self.key(Qt.Key.Key_C, CTRL | Qt.KeyboardModifier.ShiftModifier, self.window)
        self.screen = self.find("alternatives")
        self.assertTrue(self.screen.isVisible())

    def look(self):
        """Look for plans; what the worker would find stands in, found once for all tests."""
        asked = []
        with mock.patch.object(type(self.screen.worker), "compare", lambda _self, job, *_more, **_named: asked.append(job)):
            self.key(Qt.Key.Key_Return, CTRL, self.window)
            self.state.background.wait(30_000)
            self.settle()
        self.assertEqual(len(asked), 1)
        if SideBySide.found is None:
            SideBySide.found = list(alternatives(asked[0], ["yield", "weight"], seconds=within(3)))
        self.screen.worker.compared.emit(asked[0], SideBySide.found)
        self.settle()
        return asked[0]

    def test_two_that_differ_stand_beside_one_another_and_one_is_kept_with_its_reason(self):
        self.assertFalse(self.grab(self.screen).isNull())
        self.look()
        self.assertGreaterEqual(len(self.screen.shown), 2)
        names = [self.find(f"alternative.{k + 1}").accessibleName() for k in range(len(self.screen.shown))]
        self.assertIn("kg", names[0])
        self.assertNotEqual(names[0], names[1])
        self.assertEqual(self.find("alternative.1.act").text().split()[-2:], ["plan", "1"])
        self.key(Qt.Key.Key_Right, target=self.find("alternative.1"))
        self.assertEqual((self.screen.chosen, self.find("alternative.2").isChecked()), (2, True))
        self.find("alternatives.reason").setText("lighter on the shoulder")
        chosen = self.screen.shown[1].plan
        self.key(Qt.Key.Key_Return, CTRL, self.window)
        kept = self.shop.plans.accepted_for("plover")
        self.assertEqual((kept.plan.placements, kept.cut_plan.reason), (chosen.placements, "lighter on the shoulder"))
        self.assertEqual(self.state.screen, "lay_out")
        self.assertIn("lighter on the shoulder", self.told(self.find("layOut")) + self.message[-1])

    def test_another_is_taken_in_hand_and_nothing_is_kept(self):
        self.look()
        self.click("alternative.2.act")
        self.assertEqual((self.state.screen, self.shop.plans.accepted()), ("lay_out", []))
        self.assertEqual(self.find("layOut").fresh[1].placements, self.screen.shown[1].plan.placements)
        self.click("layOut.compare")
        self.assertEqual((self.state.screen, len(self.screen.shown) >= 2), ("alternatives", True))
        self.state.choose_design("merrow")
        self.settle()
        self.assertEqual(self.screen.shown, [], "they are of another build")

    def test_a_worker_that_fails_is_said_and_dark_paints_too(self):
        self.screen.worker.failed.emit("The planner stopped before it was done. Try once more.")
        self.settle()
        self.assertEqual(self.screen.fault[:11], "The planner")
        self.look()
        self.state.keep("dark", self.shop.kit.changed(theme="dark"))
        self.settle()
        self.assertFalse(self.grab(self.screen).isNull())
