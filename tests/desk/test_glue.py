"""Glue and the bench in the real window: gates, letters, the clock that runs on; four keys that tick nothing by themselves."""

import re
import unittest
from datetime import datetime, timedelta
from itertools import pairwise
from unittest import mock

from PySide6.QtCore import QEvent, QPoint, Qt
from PySide6.QtGui import QImage, QKeyEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QMenu

from grainet.design.parts import design_of
from grainet.desk.screens.bench import screen as bench_screen
from grainet.desk.screens.bench.digits import Digits
from grainet.desk.screens.saw import screen as saw_screen
from grainet.desk.screens.saw.screen import MAP_FORMS
from grainet.present.running_sizes import running_sizes
from grainet.session import days as of_days
from grainet.session.bench_place import kept_place
from grainet.session.making import at_the_bench, called, do, letters_on
from grainet.session.sawing import tick
from grainet.session.stories import story_of
from grainet.store.photos import keep_photo
from tests.desk.app import WindowTest
from tests.exchange.paper import printed
from tests.work.test_making import WOOD, built


class Clock:
    """A clock that the test turns on."""

    def __init__(self):
        self.now = datetime(2026, 12, 1, 8, 0)

    def __call__(self):
        return self.now


class Laid(WindowTest):
    """A window with the set-neck guitar laid out."""

    empty = True

    def setUp(self):
        super().setUp()
        self.clock = self.shop.items.clock = Clock()
        g, job, plan = built("set")
        bought = ("rod.depth_mm", "rod.width_mm", "rod.curve_mm", "tuner.shank_mm", "nut_mm", "spread_mm")
        g = g.with_figures({"name": "Heron 8", **{path: g.figure(path) for path in bought}})
        self.shop.apply("begun", g, design_of(g), *WOOD)
        self.plan = self.shop.plans.accept(design_of(g), job, plan)
        self.settle()

    @property
    def at(self):
        return at_the_bench(self.shop, self.plan.id)

    def do_until(self, stop):
        """Do everything up to an operation, which is then the next."""
        for _ in range(400):
            bench = self.at
            if not bench.ready:
                self.clock.now += timedelta(hours=1)
                continue
            one = bench.ready[0]
            if stop(one):
                return one
            figures = {"fit": {"ends_mm": 0.0, "middle_mm": 0.0}, "trial": {"mm": 0.05}}.get(one.kind, {})
            letters = letters_on(bench.making, one) if one.kind == "glue" else ()
            do(bench, one, figures=figures, letters=letters, agreed=[c.code for c in one.cautions if c.grade == "A"])
            self.clock.now += timedelta(minutes=one.minutes)
        raise AssertionError("never came to it")


class Glued(Laid):
    def test_a_joint_goes_through_its_gates_into_its_clamps_and_out(self):
        self.do_until(lambda o: o.kind == "measure" and "moisture" in o.id)
        self.window.show_screen("glue")
        self.settle()
        glue = self.window.in_front
        self.grab()
        joint = glue.joint
        self.assertEqual([g.name for g in glue.hand.gates if g.holds], ["prepared"])
        self.click("gate.measure")
        self.type("fit 0.2 0")
        self.assertIn("refused", self.message[-1])
        self.type("fit 0 0.01")
        self.click("gate.dry")
        for k, _ in enumerate(glue.hand.kit, 1):
            self.click(f"kit.{k}")
        self.assertEqual(glue.hand.first_open.name, "letters")
        self.type(" ".join(reversed(glue.hand.letters)))
        self.assertEqual(glue.hand.first_open.name, "letters", "still dry")
        self.key(Qt.Key.Key_Escape)
        self.type(" ".join(glue.hand.letters))
        self.assertIsNone(glue.hand.first_open)
        self.click("glue.start")
        self.assertTrue(glue.joint.done)
        self.assertEqual(glue.joint.id, joint.id)
        self.grab()
        self.assertIn("in clamps", self.window.rail.stops["glue"].line)
        self.click("glue.start")
        self.assertIn("stay on until", self.message[-1])
        off, start = glue.joint.off, glue.joint.at
        self.type("warm 15")
        self.assertAlmostEqual((glue.joint.off - start) / (off - start), 2.0, places=2)
        self.clock.now = glue.joint.off + timedelta(minutes=1)
        self.type("off")
        self.assertTrue(glue.joint.off_done)
        self.click("glue.start")
        self.assertNotEqual(glue.joint.id, joint.id)

    def test_a_thin_seam_is_taped_instead_and_a_fit_that_was_open_forbids_it(self):
        self.window.show_screen("glue")
        self.settle()
        glue = self.window.in_front
        seam = next(j for j in glue.shown.joints if "tape" in j.operation.settings.get("ways", ()))
        glue.choose(seam.id)
        self.settle()
        clamped = glue.hand.kit
        self.click("glue.pressed")
        self.assertEqual(glue.hand.joint.operation.settings["way"], "tape")
        self.assertTrue(any("strips of tape" in thing for thing in glue.hand.kit))
        self.assertIn("tape", self.message[-1])
        self.grab()
        self.type("way clamps")
        self.assertEqual(glue.hand.kit, clamped)
        self.assertEqual(glue.pressed_ways, ("clamps", "tape"))
        for line, words in (("way glue", "clamps or tape"), ("way", "clamps or tape")):
            self.type(line)
            self.assertIn(words, self.window.head.gloss)
            self.key(Qt.Key.Key_Escape)
        other = next(j for j in glue.shown.joints if not j.operation.settings.get("ways"))
        glue.choose(other.id)
        self.type("way tape")
        self.assertIn("in clamps alone: tape is for seams of at most 12", self.window.head.gloss)
        self.key(Qt.Key.Key_Escape)
        fit = next(o for o in self.at.making.operations if o.id in seam.operation.needs and o.kind == "fit")
        self.do_until(lambda o: o.id == fit.id)
        do(self.at, fit, figures={"ends_mm": 0.0, "middle_mm": 0.02})
        self.settle()
        glue.choose(seam.id)
        self.type("way tape")
        self.assertIn("two fingers", self.message[-1])
        self.assertEqual(glue.hand.joint.operation.settings["way"], "clamps")
        self.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier)
        self.settle()
        self.type("way tape")
        self.assertEqual(glue.hand.joint.operation.settings["way"], "tape")

    def test_clamps_hang_over_glue_and_answer_which_open_far_enough(self):
        one = self.do_until(lambda o: o.kind == "glue")
        do(self.at, one, letters=letters_on(self.at.making, one))
        self.window.show_screen("glue")
        self.settle()
        band = self.window.clamps
        self.grab()
        self.assertTrue(band.isVisible())
        self.assertFalse(self.window.rack.isVisible())
        owned = self.shop.kit.clamps
        self.assertEqual([g.count for g in band.groups], [k.count for k in owned])
        self.assertEqual(sum(g.count - g.free for g in band.groups), len({s.clamp for s in one.clamps}))
        held = [g for g in band.groups if g.free < g.count]
        self.assertTrue(all(g.on and g.until for g in held))
        self.assertEqual([band.answers(g) for g in band.groups], [k.reach_mm >= band.opens_mm for k in owned])
        self.click("clamps.question")
        self.assertEqual([band.answers(g) for g in band.groups], [g.free > 0 for g in band.groups])
        self.assertEqual(self.find("clamps.question").words(), "are free?")
        kit = self.shop.kit
        many = tuple(kit.clamps[0].changed(id=f"k{n}", name=f"Clamps of the kind {n}", reach_mm=100.0 * n) for n in range(1, 10))
        self.shop.apply("many kinds", kit.changed(clamps=many))
        self.settle()
        self.grab()
        shown = band.shown()
        self.assertLess(len(shown), len(band.groups))
        band.ask_other()
        self.assertTrue(band.answers(band.shown()[0]), "those that open far enough come first")
        self.shop.undo()
        self.settle()
        self.assertEqual(len(band.shown()), len(owned))
        self.clock.now += timedelta(hours=3)
        do(self.at, self.at.cure_of(one))
        self.settle()
        self.assertTrue(all(g.free == g.count for g in self.window.clamps.groups))
        self.window.show_screen("put_back")
        self.settle()
        self.assertFalse(band.isVisible())
        self.assertTrue(self.window.rack.isVisible())

    def test_a_joint_is_taken_apart_and_stands_open_again(self):
        one = self.do_until(lambda o: o.kind == "glue")
        do(self.at, one, letters=letters_on(self.at.making, one))
        self.clock.now += timedelta(hours=2)
        do(self.at, self.at.cure_of(one))
        self.window.show_screen("glue")
        self.settle()
        glue = self.window.in_front
        glue.choose(one.id)
        self.settle()
        self.grab()
        self.assertTrue(self.find("glue.apart").isVisible())
        glue.take_apart("sawn")
        self.settle()
        self.assertIn("narrower", self.message[-1])
        self.assertFalse(self.at.done(one))
        self.assertEqual([a.method for a in self.at.log.apart], ["sawn"])
        self.assertIn("prepared", [g.name for g in glue.hand.gates if not g.holds])
        self.assertFalse(self.find("glue.apart").isVisible())
        self.shop.undo()
        self.assertTrue(self.at.done(one))

    def test_an_empty_shop_says_where_joints_come_from_and_keys_choose(self):
        self.window.show_screen("glue")
        self.settle()
        glue = self.window.in_front
        first = glue.chosen
        QTest.keyClick(glue, Qt.Key.Key_Right)
        self.assertNotEqual(glue.chosen, first)
        other = next(b for b in glue.tree.buttons.values() if b.joint.id == first)
        other.click()
        self.assertEqual(glue.chosen, first)
        for word in ("fit 0", "off 25:00", "warm hot"):
            self.type(word)
            self.assertTrue(self.window.head.bad, word)
            self.key(Qt.Key.Key_Escape)
        self.click("glue.start")  # parts are not ready: the bench opens at the first step that lacks
        self.assertTrue(self.window.bench.isVisible())
        self.assertEqual(self.window.bench.at, glue.hand.lacking[0].id)


class AtTheBench(Laid):
    def setUp(self):
        super().setUp()
        for name, value in (("STANDS_S", 0.0), ("BOUNCE_S", 0.0)):
            patch = mock.patch.object(bench_screen, name, value)
            patch.start()
            self.addCleanup(patch.stop)

    def press(self, *keys):
        for key in keys:
            QTest.keyClick(self.window.bench, key)
            self.settle()

    def test_four_keys_do_steps_and_the_place_is_kept(self):
        self.window.open_bench()
        self.settle()
        bench = self.window.bench
        first = bench.at
        self.grab()
        for _ in range(6):
            left = len(bench.step.ticks)
            before = len([o for o in self.at.making.operations if self.at.done(o)])
            self.press(*[Qt.Key.Key_Right] * left)
            self.press(Qt.Key.Key_Right)
            self.assertEqual(len([o for o in self.at.making.operations if self.at.done(o)]), before + 1)
        self.assertEqual(kept_place(self.shop.file.folder).operation, bench.at)
        here = bench.at
        self.press(Qt.Key.Key_Escape)
        self.assertFalse(bench.isVisible())
        self.window.bench = None  # as after a power cut
        self.window.open_bench()
        self.assertEqual(self.window.bench.at, here)
        self.press(*[Qt.Key.Key_Left] * 20)
        self.assertTrue(self.window.bench.step.done)
        self.assertNotEqual(first, "")

    def test_four_keys_alone_come_to_a_finished_guitar(self):
        """From the first cut to the last step with nothing but the four keys: what waits is left for what may be done, or waited for."""
        self.window.open_bench()
        bench, stood, said = self.window.bench, 0, set()
        while self.at.left:
            before = (bench.at, len(bench.ticked), len(self.at.left))
            if bench.step.operation.kind == "trial" and len(bench.ticked) == len(bench.step.ticks) and not bench.step.held:
                self.press_quick(Qt.Key.Key_Up, Qt.Key.Key_Right, Qt.Key.Key_Right, Qt.Key.Key_Right, Qt.Key.Key_Right)
            else:
                self.press_quick(Qt.Key.Key_Right)
            if (bench.at, len(bench.ticked), len(self.at.left)) == before:
                stood += 1
                said.add(bench.said)
                self.clock.now += timedelta(hours=1)
                bench.refresh()
            else:
                stood = 0
            self.assertLess(stood, 80, f"{bench.at}: {bench.said}")
        self.assertEqual(bench.said, "everything is made")
        self.assertTrue(said and all(re.match(r"It waits until \w{3} \d\d \w{3}, \d\d:\d\d: ", words) for words in said), said)
        self.grab()
        self.assertEqual(self.at.states["set.Heron_8"], "whole")
        self.assertTrue(
            all(word.startswith("in ") for name, word in self.at.states.items() if name != "set.Heron_8"), self.at.states
        )

    def test_what_rests_is_read_for_straightness_and_opens_later_for_it(self):
        one = self.do_until(lambda o: o.id == "rest set.D1, sawn")
        self.window.open_bench(one.id)
        bench = self.window.bench
        self.assertEqual(bench.step.next_word, "on sticks")
        self.press_quick(Qt.Key.Key_Up, *[Qt.Key.Key_Up] * 6)
        self.assertEqual(bench.digits.mm, 0.6)
        while bench.digits is not None:
            self.press_quick(Qt.Key.Key_Right)
        self.assertEqual([r.bow_mm for r in self.at.log.straight], [0.6])
        self.assertIn("D1: 0.6 from straight, read once", bench.said)
        self.shop.undo()
        self.assertEqual(self.at.log.straight, ())

    def press_quick(self, *keys):
        for key in keys:
            QTest.keyClick(self.window.bench, key)

    def test_a_held_key_and_a_bouncing_switch_tick_nothing(self):
        one = self.do_until(lambda o: o.kind == "glue")
        self.window.open_bench(one.id)
        bench = self.window.bench
        for _ in range(5):
            held = QKeyEvent(QEvent.Type.KeyPress, Qt.Key.Key_Right, Qt.KeyboardModifier.NoModifier, "", True)
            bench.keyPressEvent(held)
        self.assertEqual(bench.ticked, set())
        with mock.patch.object(bench_screen, "STANDS_S", 60.0):
            self.press(Qt.Key.Key_Right)
            self.assertEqual(bench.ticked, set(), "it has not stood long enough")
        with mock.patch.object(bench_screen, "BOUNCE_S", 60.0):
            self.press(Qt.Key.Key_Right, Qt.Key.Key_Right)
            self.assertLessEqual(len(bench.ticked), 1)
        self.assertFalse(self.at.done(one))
        QTest.mouseClick(bench, Qt.MouseButton.LeftButton, pos=bench.rect().center())
        self.assertFalse(self.at.done(one))
        self.press(*[Qt.Key.Key_Right] * 3)
        self.assertTrue(self.at.done(one))

    def test_a_figure_is_turned_and_kept_and_trouble_goes_to_the_saw(self):
        one = self.do_until(lambda o: o.kind == "thickness")
        do(self.at, one, agreed=[c.code for c in one.cautions if c.grade == "A"])
        self.window.open_bench(one.id)
        bench = self.window.bench
        self.press(Qt.Key.Key_Up)
        self.assertIsNotNone(bench.digits)
        self.grab()
        self.press(Qt.Key.Key_Up, Qt.Key.Key_Right)
        thick = float(one.settings["thickness_mm"])
        self.assertAlmostEqual(
            self.at.log.row(one.id).figures["mm"], round(thick, 1) + (0.1 if round(thick * 10) % 10 < 9 else -0.9), places=6
        )
        self.press(Qt.Key.Key_Down)
        self.grab()
        self.press(Qt.Key.Key_Down, Qt.Key.Key_Right)
        self.assertFalse(bench.isVisible())
        self.assertEqual(self.state.screen, "saw_and_wait")
        self.assertEqual(self.find("tape.line").text(), "nail ")

    def test_the_camera_key_takes_the_pair_that_is_to_be_photographed(self):
        one = next(o for o in self.at.making.operations if o.kind == "photograph")
        self.assertIn("in Match", one.text)
        self.window.open_bench(one.id)
        self.press(Qt.Key.Key_F12)
        self.settle()
        self.assertFalse(self.window.bench.isVisible())
        match = self.window.screens["match"]
        self.assertEqual((self.state.screen, match.pair.part.id), ("match", "set.cap"))
        self.assertIn("lock an opening first", self.message[-1])
        self.key(Qt.Key.Key_Return, Qt.KeyboardModifier.ControlModifier)
        self.window.open_bench(one.id)
        self.press(Qt.Key.Key_F12)
        menu = match.findChild(QMenu, "match.takePhoto.menu")
        self.assertIsNotNone(menu)
        menu.close()
        match.photograph("nothing")
        self.assertIn("no such pair", self.message[-1])

    def test_the_callipers_read_a_size_that_right_keeps(self):
        one = self.do_until(lambda o: o.kind == "thickness")
        do(self.at, one, agreed=[c.code for c in one.cautions if c.grade == "A"])
        self.window.open_bench(one.id)
        bench = self.window.bench
        self.press(Qt.Key.Key_Up)
        self.assertIn("F12", bench.said)
        self.window.bring_in.bench.stand_in("callipers").fault = "garbage"
        self.press(Qt.Key.Key_F12)
        self.settle()
        self.assertIn("not a figure", bench.said)
        self.window.bring_in.bench.stand_in("callipers").fault = ""
        self.press(Qt.Key.Key_F12)
        self.settle()
        self.assertIn("→ keeps it", bench.said)
        self.grab()
        read = bench.digits.mm
        self.assertAlmostEqual(read, float(one.settings["thickness_mm"]), delta=0.5)
        self.press(Qt.Key.Key_Right)
        self.assertEqual(self.at.log.row(one.id).figures["mm"], read)
        level = next(o for o in self.at.making.operations if o.kind == "flatten")
        self.window.open_bench(level.id)
        self.press(Qt.Key.Key_F12)
        self.assertIn("nothing that callipers measure", bench.said)

    def test_a_step_that_waits_says_so_and_goes_to_one_that_may_be(self):
        last = self.at.making.operations[-1]
        self.window.open_bench(last.id)
        bench = self.window.bench
        self.assertTrue(bench.step.held)
        self.press(Qt.Key.Key_Right)
        self.assertNotEqual(bench.at, last.id)
        self.assertFalse(self.at.done(last))


class OnDays(Laid):
    def test_days_are_listed_printed_and_written_to_a_calendar(self):
        self.window.show_screen("days")
        self.settle()
        days = self.window.in_front
        self.grab()
        self.assertEqual(days.day, self.clock.now.date())
        self.assertGreater(len(days.listed), 5)
        self.assertEqual([w.words for w in days.days.what_ifs][:1], ["one more hand"])
        real, day = of_days._scheduled, timedelta(days=3)

        def worse(benches, now, hands, *rest, **named):
            """A solver whose budget ends before it finds with more what it found with less."""
            found = real(benches, now, hands, *rest, **named)
            return [e.changed(ends=(datetime.fromisoformat(e.ends) + day).isoformat()) for e in found] if hands > 1 else found

        with mock.patch.object(of_days, "_scheduled", worse):
            hand, *others = of_days.days_of(self.shop).what_ifs
        self.assertEqual(hand.days, 0.0, "the same days can still be kept")
        self.assertEqual(others, list(days.days.what_ifs[1:]))
        with printed() as paper:
            days.print_map(str(self.folder / "day.pdf"))
            days.print_batches(str(self.folder / "batches.pdf"))
        self.assertEqual((paper.outside(), paper.overprinted()), ([], []))
        days.save_as(str(self.folder / "bench.ics"))
        pages = [(self.folder / name).read_bytes().count(b"/Type /Page\n") for name in ("day.pdf", "batches.pdf")]
        self.assertEqual(pages, [1, 1])
        text = (self.folder / "bench.ics").read_bytes().decode()
        self.assertTrue(all(len(line.encode()) <= 75 for line in text.split("\r\n")))
        self.assertEqual(text.count("BEGIN:VEVENT"), text.count("END:VEVENT"))
        self.assertIn("clamps off", text)
        QTest.keyClick(days, Qt.Key.Key_Right)
        self.assertGreater(days.day, self.clock.now.date())
        self.grab()
        self.click("days.bench")
        self.assertEqual(self.window.bench.at, days.listed[0].operation.id)

    def test_a_glue_up_prints_on_one_page(self):
        self.window.show_screen("glue")
        self.settle()
        path = self.folder / "glue.pdf"
        glue = self.window.in_front
        for joint in [j.id for j in glue.shown.joints]:
            glue.choose(joint)
            with printed() as paper:
                glue.print_map(str(path))
            self.assertEqual(path.read_bytes().count(b"/Type /Page\n"), 1)
            self.assertEqual((paper.outside(), paper.overprinted()), ([], []), joint)
            words = " ".join(t.words for t in paper.texts)
            self.assertTrue(all(c.text.split()[0] in words for c in glue.joint.operation.cautions))
            self.assertIn(f"{glue.joint.operation.settings['clamps']} clamps", words)
        self.window.in_front.print_map(str(self.folder / "none" / "glue.pdf"))
        self.assertIn("cannot be written", self.message[-1])


class InOrder(Laid):
    def setUp(self):
        super().setUp()
        self.window.show_screen("order")
        self.settle()
        self.order = self.window.in_front
        self.order.show_group("neck with its board")

    def number(self, what):
        return next(s.number for s in self.order.shelf.steps if what(s.operation))

    def test_a_rule_forbids_says_why_and_is_set_aside_with_a_reason_that_stays(self):
        slot, taper = (
            self.number(lambda o: o.kind == "slot" and o.id.endswith("frets")),
            self.number(lambda o: o.kind == "taper" and o.works_on == ("set.F1",)),
        )
        self.type(f"{taper} < {slot}")
        self.assertIn("parallel", self.order.why.text)
        self.grab()
        self.type("over x")
        self.assertEqual(self.at.log.over, ())
        self.key(Qt.Key.Key_Escape, target=self.order)
        self.assertIsNone(self.order.why)
        self.order.move(taper, slot)
        self.find("order.reason").setText("the board is slotted in a jig")
        self.click("order.over")
        self.assertEqual([o.why for o in self.at.log.over], ["the board is slotted in a jig"])
        order = [o.id for o in self.at.making.operations]
        slotted = next(o.id for o in self.at.making.operations if o.kind == "slot" and o.id.endswith("frets"))
        tapered = next(o.id for o in self.at.making.operations if o.kind == "taper" and o.works_on == ("set.F1",))
        self.assertLess(order.index(tapered), order.index(slotted))
        self.settle()
        string = next(s for s in self.order.shelf.strings if s.tie.over)
        self.order.press_string(string)
        self.grab()
        self.click("order.over")  # it binds again
        self.assertEqual(self.at.log.over, ())

    def test_a_step_that_nothing_holds_is_moved_and_the_move_is_one_undo(self):
        steps = [s for s in self.order.shelf.steps if s.operation.kind == "thickness"]
        first, second = steps[0], steps[1]
        self.order.move(second.number, first.number)
        order = [o.id for o in self.at.making.operations]
        self.assertLess(order.index(second.id), order.index(first.id))
        self.shop.undo()
        self.assertEqual(self.at.log.moved, ())

    def test_a_step_that_no_machine_takes_is_done_in_another_way_by_a_press_or_by_words(self):
        number = self.number(lambda o: "sled" in o.settings.get("ways", ()))
        self.order.choose(number)
        one = self.order.step(number).operation
        self.type("way pieces")  # not of this one
        self.assertTrue(self.window.head.bad)
        self.key(Qt.Key.Key_Escape)
        self.click("order.way.carrier")
        self.assertEqual(
            (self.at.making.operation(one.id).machine, self.at.making.operation(one.id).settings["way"]),
            ("thicknesser", "carrier"),
        )
        self.assertEqual(self.order.step(self.order.chosen).id, one.id)
        self.type("way sled")
        self.assertEqual(self.at.making.operation(one.id).settings["way"], "sled")
        self.grab()
        self.shop.undo()
        self.shop.undo()
        self.assertEqual(self.at.making.operation(one.id), one)

    def test_keys_walk_groups_change_and_what_is_not_there_is_said(self):
        before = self.order.chosen
        QTest.keyClick(self.order, Qt.Key.Key_Right)
        self.assertNotEqual(self.order.chosen, before)
        QTest.keyClick(self.order, Qt.Key.Key_Left, Qt.KeyboardModifier.AltModifier)
        self.settle()
        self.order.step_lane(1)
        self.assertNotEqual(self.order.group, "neck with its board")
        self.grab()
        self.type("900 < 901")
        self.assertTrue(self.window.head.bad)
        self.key(Qt.Key.Key_Escape)
        box = next(b for b in self.order.boxes if b.isVisible())
        QTest.mousePress(box, Qt.MouseButton.LeftButton)
        QTest.mouseMove(box, box.rect().center() + QPoint(260, 0))
        QTest.mouseRelease(box, Qt.MouseButton.LeftButton, pos=box.rect().center() + QPoint(260, 0))
        self.settle()
        self.grab()


class Turned(unittest.TestCase):
    def test_digits_turn_round_and_grow_on_the_left_once(self):
        digits = Digits(9.9)
        digits.turn(1)
        self.assertEqual((digits.text, digits.mm), ("9.0", 9.0))
        self.assertEqual(digits.move(1), "kept")
        self.assertEqual([digits.move(-1), digits.move(-1)], ["", ""])
        digits.turn(1)
        self.assertEqual(digits.mm, 19.0)
        self.assertEqual(digits.move(-1), "")
        self.assertEqual(digits.move(-1), "left")

    def test_in_a_house_of_inches_thousandths_are_turned(self):
        digits = Digits(0.0, 2, "fraction")
        self.assertEqual(digits.text, "0.000")
        digits.turn(2)
        self.assertEqual((digits.text, round(digits.mm, 4)), ("0.002", 0.0508))
        self.assertEqual(Digits(44.0, 1, "fraction").text, "1.732")


class PartsOfABoard(Laid):
    def test_running_sizes_stand_over_the_wood_and_roll_up_with_the_kerfs(self):
        self.window.show_screen("saw_and_wait")
        screen = self.window.in_front
        screen._choose_board("1")
        self.settle()
        self.grab()
        piece, kit = self.shop.piece("1"), self.plan.job.kit
        kerfs = running_sizes(screen.steps(), kit, (), 1, (0.0, 0.0))
        self.assertEqual(len(screen.running), 2 * len(kerfs))
        cuts = sorted((k for k in kerfs if k.across), key=lambda k: k.low_mm)
        spans = [b.low_mm - a.high_mm for a, b in pairwise(cuts)]
        whole = cuts[0].low_mm + sum(spans) + len(cuts) * kit.kerf_mm.crosscut + piece.extents[2] - cuts[-1].high_mm
        self.assertAlmostEqual(whole, piece.extents[2], delta=0.1 * (len(cuts) + 1))
        first = screen.steps()[0]  # nothing is cut off before: what runs from the end is what the saw is set to
        self.assertEqual(
            {k.low_mm for k in kerfs if k.number == 1} | {k.high_mm for k in kerfs if k.number == 1},
            {m.mm for m in first.cut.marks},
        )
        tick(self.shop, screen.under_way, "1", first, agreed=True)
        self.settle()
        self.grab()
        self.assertEqual(len(screen.running), 2 * len(kerfs))

    def photos_of_a_part(self, put_back, name, chip):
        """A picture is kept and looked at; what is none, and a part that is not cut, are refused with words."""
        picture, text = self.folder / "part.png", self.folder / "part.txt"
        image = QImage(60, 40, QImage.Format.Format_RGB32)
        image.fill(0x805030)
        image.save(str(picture))
        text.write_text("no picture")
        put_back.photograph(name, str(text))
        self.assertIn("no picture", self.message[-1])
        later = next(w.id for w in self.at.making.workpieces if w.members)
        put_back.photograph(later, str(picture))
        self.assertIn("nothing of it to photograph", self.message[-1])
        put_back.photograph(name, str(picture))
        self.assertIn("kept with", self.message[-1])
        (kept,) = self.at.log.photos
        self.assertEqual(kept.workpiece, name)
        put_back.offer_part(chip)
        menu = put_back.findChildren(QMenu)[-1]
        look = next(a for a in menu.actions() if a.text().startswith("Its photo of"))
        look.trigger()
        menu.close()
        over = self.find("pictureOver")
        self.assertTrue(over.isVisible())
        self.assertEqual(over.picture.width(), 60)
        self.grab()
        QTest.keyClick(over, Qt.Key.Key_Escape)
        self.assertFalse(over.isVisible())
        over.show_photo(keep_photo(self.shop.file.folder, b"no picture"), "A1")
        self.assertIn("no picture that can be read", self.message[-1])
        over.show_photo("0" * 64, "A1")
        self.assertIn("is gone", self.message[-1])
        self.assertFalse(over.isVisible())
        story = story_of(self.shop, "set")
        self.assertEqual([(p.sha, p.name) for p in story.part_photos], [(kept.sha, called(name))])
        self.assertIn(kept.sha, story.photos)

    def test_a_part_is_shelved_and_given_back_to_the_rack(self):
        one = self.do_until(lambda o: o.kind == "thickness")
        board = next(w.from_ for w in self.at.making.workpieces if w.id == one.works_on[0])
        self.window.show_screen("put_back")
        put_back = self.window.in_front
        put_back._choose(board)
        self.settle()
        self.grab()
        name = one.works_on[0]
        letter = name.partition(".")[2]
        chip = self.find(f"part.{letter}")
        self.assertIn("cut", chip.words)
        self.type(f"part {letter} at C3")
        self.assertIn("on C3", self.at.states[name])
        self.type("part Z9 at C3")
        self.assertTrue(self.window.head.bad)
        self.key(Qt.Key.Key_Escape)
        self.photos_of_a_part(put_back, name, chip)
        before = {p.id for p in self.shop.pieces()}
        put_back.give_back(name)
        self.settle()
        (number,) = {p.id for p in self.shop.pieces()} - before
        piece = self.shop.piece(number)
        self.assertEqual(piece.parent, board)
        self.assertIn(number, self.at.states[name])
        self.assertTrue(self.at.under_way.progress.lost)
        put_back.give_back(name)
        self.assertIn("only a part that is cut", self.message[-1])
        self.shop.undo()
        self.assertFalse(self.shop.has_piece(number))
        self.assertIn("on C3", self.at.states[name])


class Printed(Laid):
    def test_a_board_s_map_is_written_in_the_form_that_was_chosen(self):
        self.window.show_screen("saw_and_wait")
        self.settle()
        saw = self.window.in_front
        pages = {}
        for form, name in zip(MAP_FORMS, ("a4.pdf", "a3.pdf", "letter.pdf", "long.pdf", "map.svg", "map.dxf")):
            path = self.folder / name
            with mock.patch.object(saw_screen, "file_to_write", return_value=(str(path), form)) as asked:
                saw.print_map()
            self.assertIn(form, asked.call_args.args[-1])
            self.assertIn(name, self.message[-1])
            pages[name] = path.read_bytes().count(b"/Type /Page\n")
        self.assertEqual((pages["map.svg"], pages["map.dxf"]), (0, 0))
        self.assertEqual(pages["long.pdf"], 2)
        self.assertGreater(pages["a4.pdf"], pages["a3.pdf"])
        self.assertGreater(pages["a3.pdf"], 3)
        with mock.patch.object(saw_screen, "file_to_write", return_value=("", "")):
            saw.print_map()
        self.assertIn("map.dxf", self.message[-1], "nothing was chosen, nothing is said")
        saw.print_map(str(self.folder / "map.txt"))
        self.assertIn("written as", self.message[-1])
        saw.print_map(str(self.folder / "none" / "map.pdf"))
        self.assertIn("cannot be written", self.message[-1])


class Words(Laid):
    def test_words_of_the_screen_in_front_stand_first_in_the_list(self):
        for screen, word in (
            ("glue", "warm 16"),
            ("order", "9 < 8"),
            ("match", "open 2"),
            ("outline", "bevel 10 in 14"),
            ("saw_and_wait", "lost B"),
        ):
            self.window.show_screen(screen)
            self.settle()
            self.window.panel.list_words("")
            rows = self.window.panel.words.rows.rows
            self.assertEqual(rows[0].left, "Here", screen)
            self.assertIn(word, [form[2] for form in self.window.in_front.typed_here()])
            self.window.panel.away()
