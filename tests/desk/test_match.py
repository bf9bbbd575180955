"""Match: a pair opened, slid, mirrored, locked and measured; and two boards that are no mates taken."""

from dataclasses import replace
from unittest import mock

import numpy as np
from PySide6.QtCore import QPoint, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QMenu

from grainet.match.opened_photo import Measured
from grainet.wood.value import BadEntry
from tests.desk.app import WindowTest
from tests.jobs import planned

SHIFT, CTRL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier


class Matching(WindowTest):
    def setUp(self):
        super().setUp()
        self.state.choose_design("merrow")
        job = self.shop.jobs.job_for([d for d in self.shop.designs() if d.id == "merrow"])
        self.window.planning.take(job, planned(job))
        self.key(Qt.Key.Key_F6)
        self.screen = self.find("match")
        self.wait(lambda: self.screen.found is not None)
        self.asked = []
        spy = mock.patch.object(type(self.window.worker), "plan", lambda _self, job, **more: self.asked.append(job))
        spy.start()
        self.addCleanup(spy.stop)

    def wait(self, until):
        for _ in range(600):
            if until():
                return
            QTest.qWait(20)
        self.fail("it never came")

    def test_four_openings_are_told_and_one_is_chosen_by_key_and_press(self):
        cards = [self.find(f"match.opening.{k}") for k in (1, 2, 3, 4)]
        self.assertEqual([c.isVisible() for c in cards], [True] * 4)
        self.assertIn("edge in, sawn faces up", cards[0].accessibleName())
        able = [c for c in cards if c.isEnabled()]
        self.assertGreater(len(able), 2)
        for card in able:
            self.key(Qt.Key(Qt.Key.Key_0 + card.number), Qt.KeyboardModifier.AltModifier)
            self.assertEqual((self.screen.chosen, card.isChecked()), (card.number, True))
        self.click(able[0].objectName())
        self.assertEqual(self.screen.chosen, able[0].number)

    def test_arrows_drag_and_words_slide_it_within_what_the_board_gives(self):
        book = self.find("match.book")
        room, start = self.screen.slide, self.screen.shown.tail_mm
        way, most = (Qt.Key.Key_Right, room.on_mm) if room.on_mm > room.back_mm else (Qt.Key.Key_Left, room.back_mm)
        sign = 1 if way == Qt.Key.Key_Right else -1
        self.assertGreater(most, 12)
        QTest.keyClick(book, way)
        self.assertAlmostEqual(self.screen.shown.tail_mm - start, 10 * sign, delta=0.01)
        QTest.keyClick(book, way, CTRL)
        self.assertAlmostEqual(self.screen.shown.tail_mm - start, 11 * sign, delta=0.01)
        self.assertTrue(self.screen.moved)
        middle = book.rect().center()
        QTest.mousePress(book, Qt.MouseButton.LeftButton, pos=middle)
        QTest.mouseMove(book, middle - QPoint(5 * sign, 0))
        QTest.mouseRelease(book, Qt.MouseButton.LeftButton, pos=middle - QPoint(5 * sign, 0))
        self.assertLess(sign * (self.screen.shown.tail_mm - start), 11)
        held = self.screen.shown.tail_mm
        self.type("9999")
        self.assertEqual(self.screen.shown.tail_mm, held)
        with self.assertRaisesRegex(BadEntry, "the nearest place for the tail"):
            self.screen.reads("9999")

    def test_lock_keeps_the_opening_with_the_plan_and_a_slide_is_planned_round(self):
        self.key(Qt.Key.Key_Return, CTRL)
        kept = self.window.planning.matched["merrow"]
        self.assertEqual([(m.part, m.show) for m in kept], [("merrow.cap", "sawn")])
        self.assertEqual(self.asked, [], "nothing moved, nothing is planned again")
        self.key(Qt.Key.Key_S, Qt.KeyboardModifier.AltModifier)
        laid = self.shop.plans.accepted_for("merrow").cut_plan
        self.assertEqual(laid.matched, kept)
        self.type("measured 1.6")
        self.assertEqual(self.shop.plans.accepted_for("merrow").cut_plan.matched[0].measured_mm, 1.6)
        self.assertIn("was forecast", self.message[-1])
        self.key(Qt.Key.Key_Z, CTRL)
        self.assertIsNone(self.shop.plans.accepted_for("merrow").cut_plan.matched[0].measured_mm)

    def test_a_photo_of_the_opened_pair_tells_its_miss(self):
        page, alt_o = self.find("match.photo"), (Qt.Key.Key_O, Qt.KeyboardModifier.AltModifier)
        self.key(*alt_o)
        self.assertIn("lock an opening first", self.message[-1])
        self.key(Qt.Key.Key_Return, CTRL)
        self.key(*alt_o)
        menu = self.screen.findChild(QMenu, "match.takePhoto.menu")
        menu.actions()[0].trigger()
        menu.close()
        self.wait(lambda: page.image is not None and page.told.measured is not None)
        self.assertFalse(self.window.ruler.isVisible())
        self.key(Qt.Key.Key_Return, CTRL)
        self.assertIn("first: their places are guessed", self.message[-1])
        start = page.marks[0]
        at = page.at(0).toPoint()
        QTest.mousePress(page, Qt.MouseButton.LeftButton, pos=at)
        QTest.mouseMove(page, at + QPoint(-6, 3))
        QTest.mouseRelease(page, Qt.MouseButton.LeftButton, pos=at + QPoint(-6, 3))
        self.assertLess(page.marks[0][0], start[0])
        QTest.keyClick(page, Qt.Key.Key_Tab)
        before = page.marks[1]
        QTest.keyClick(page, Qt.Key.Key_Right, SHIFT)
        self.assertAlmostEqual(page.marks[1][0], before[0] + 10)
        self.put_on_the_seam(page)
        self.wait(lambda: page.told.measured is not None)
        forecast = self.screen.opening.forecast.miss_mm
        self.assertAlmostEqual(page.told.measured.miss_mm, forecast, delta=0.3 + 0.25 * forecast)
        self.key(Qt.Key.Key_Return, CTRL)
        self.wait(lambda: self.window.planning.matched["merrow"][0].photo is not None)
        kept = self.window.planning.matched["merrow"][0]
        self.assertAlmostEqual(kept.measured_mm, forecast, delta=0.3 + 0.25 * forecast)
        self.assertTrue((self.shop.file.folder / "photos" / kept.photo.sha).exists())
        self.assertFalse(page.isVisible())
        self.key(Qt.Key.Key_Return, CTRL)
        self.assertEqual(self.window.planning.matched["merrow"][0].photo, kept.photo, "locked again, it keeps what it told")
        self.screen.open_photo("again")
        self.wait(lambda: page.image is not None)
        self.assertEqual(page.marks, kept.photo.marks)
        page.apart.setText("9")
        page.reckon()
        self.assertIn("20 to 20,000", page.told.fault)
        self.wait(lambda: page.image is not None)
        page.told = replace(page.told, measured=Measured(1.0, 0.5))
        self.key(Qt.Key.Key_Return, CTRL)
        self.assertIn("20 to 20,000", self.message[-1], "a length that was not read yet keeps nothing")
        self.assertEqual(self.window.planning.matched["merrow"][0], kept)
        self.state.choose_design("plover")
        self.key(Qt.Key.Key_F6)
        self.assertFalse(page.isVisible(), "the photo is another pair's")

    def test_the_outline_is_slid_over_a_photo_of_the_joined_pair_and_undone(self):
        """Tab takes it after the marks; what it leaves and costs stands below; kept with the plan, told at the joint, and undo returns."""
        page = self.find("match.photo")
        self.key(Qt.Key.Key_S, Qt.KeyboardModifier.AltModifier)
        self.key(Qt.Key.Key_F6)
        self.wait(lambda: self.screen.found is not None)
        self.key(Qt.Key.Key_Return, CTRL)
        self.screen.open_photo("camera")
        self.wait(lambda: page.image is not None and page.told.measured is not None)
        self.put_on_the_seam(page)
        self.wait(lambda: page.told.measured is not None)
        page.setFocus()
        started = page.plate.on.tail_mm
        self.assertLess(abs(started), 1.0, "it begins where it was sawn")
        for key in (Qt.Key.Key_Tab, Qt.Key.Key_Tab, Qt.Key.Key_Tab, Qt.Key.Key_Backtab, Qt.Key.Key_Tab):
            page.setFocus()
            QTest.keyClick(page, key)
        page.setFocus()
        marks = page.marks
        QTest.keyClick(page, Qt.Key.Key_Right, SHIFT)
        QTest.keyClick(page, Qt.Key.Key_Left)
        by = page.plate.on.tail_mm - started
        self.assertAlmostEqual(abs(by), 9.0)
        self.assertEqual(page.marks, marks, "the marks stay")
        middle = page.plate.path(page.plate.on).boundingRect().center().toPoint() + QPoint(0, 30)
        QTest.mousePress(page, Qt.MouseButton.LeftButton, pos=middle)
        QTest.mouseMove(page, middle + QPoint(25, 40))
        QTest.mouseRelease(page, Qt.MouseButton.LeftButton, pos=middle + QPoint(25, 40))
        tail = page.plate.on.tail_mm
        self.assertGreater(abs(tail - started), 15.0)
        self.assertRegex(
            page.plate.cost_words(),
            r"\d+ cm² of it lie off the wood; along it \d+ % alike, a miss of [\d.]+; where it lay \d+ %, [\d.]+",
        )
        self.grab()
        self.key(Qt.Key.Key_Return, CTRL)
        self.wait(lambda: self.shop.plans.accepted_for("merrow").cut_plan.matched[0].photo is not None)
        kept = self.shop.plans.accepted_for("merrow").cut_plan.matched[0]
        self.assertEqual((kept.photo.tail_mm, kept.photo.back), (tail, False))
        self.assertIn("outline slid", self.message[-1])
        self.screen.open_photo("again")
        self.wait(lambda: page.image is not None and page.told.measured is not None)
        self.assertEqual(page.plate.on.tail_mm, tail)
        QTest.keyClick(page, Qt.Key.Key_B, Qt.KeyboardModifier.AltModifier)
        self.assertTrue(page.plate.on.back)
        self.grab()
        self.key(Qt.Key.Key_Return, CTRL)
        self.wait(lambda: self.shop.plans.accepted_for("merrow").cut_plan.matched[0].photo.back)
        self.assertEqual(self.shop.plans.accepted_for("merrow").cut_plan.matched[0].measured_mm, kept.measured_mm)
        self.assertIn("photo of its back", self.message[-1])
        for _ in range(2):
            self.key(Qt.Key.Key_Z, CTRL)
        self.assertIsNone(self.shop.plans.accepted_for("merrow").cut_plan.matched[0].photo)

    def put_on_the_seam(self, page):
        """Both marks where the camera had the seam."""
        from grainet.instruments.camera import take_opened_photo

        screen, one, laid = self.screen, self.screen.opening, self.screen.shown
        depths = one.depths_mm[::-1] if one.show == "sawn" else one.depths_mm
        above = laid.seam == "near"
        _, true = take_opened_photo(screen.camera(), screen.pair.piece, depths, laid.joint, laid.ring, above=above)
        (ax, ay), (bx, by) = laid.joint
        for k, (x, y) in enumerate(true.to_px(np.array([(0.0, 0.0), (np.hypot(bx - ax, by - ay), 0.0)]))):
            page.put(k, float(x), float(y))
        page.reckon()

    def test_a_photo_that_cannot_be_opened_leaves_the_board(self):
        self.key(Qt.Key.Key_Return, CTRL)
        self.screen.open_photo("file", "/nowhere/photo.jpg")
        self.wait(lambda: not self.find("match.photo").isVisible())
        self.assertIn("photo.jpg", self.message[-1])
        self.assertTrue(self.find("match.book").isVisible())

    def test_what_was_slid_is_pinned_there(self):
        sign = 1 if self.screen.slide.on_mm > self.screen.slide.back_mm else -1
        self.screen.slide_to(self.screen.shown.tail_mm + 10 * sign)
        at = (self.screen.shown.x, self.screen.shown.y)
        self.key(Qt.Key.Key_Return, CTRL)
        self.wait(lambda: self.asked)
        pins = [(p.part, p.x, p.y) for p in self.asked[0].pins if p.leaf == 1]
        self.assertEqual(pins, [("merrow.cap", *at)])

    def test_mirror_lamp_skim_and_limit(self):
        before, side = self.screen.shown, self.screen.side_of(up=True)
        self.key(Qt.Key.Key_M, Qt.KeyboardModifier.AltModifier)
        self.assertNotEqual(self.screen.shown.tail_left, before.tail_left)
        self.assertNotEqual(self.screen.side_of(up=True), side)
        miss = self.screen.opening.forecast.miss_mm
        self.type("skim outer")
        self.assertLess(self.screen.opening.forecast.miss_mm, miss)
        self.key(Qt.Key.Key_L, Qt.KeyboardModifier.AltModifier)
        self.assertTrue(self.screen.lamp_across)
        self.type("limit 3.5")
        self.assertEqual(self.shop.kit.match_limit_mm, 3.5)
        for line in ("open 9", "limit x", "limit 0", "skim some", "measured -1"):
            with self.assertRaises(BadEntry, msg=line):
                self.screen.reads(line)
        self.assertIsNone(self.screen.reads("mc 7.5"))
        self.key(Qt.Key.Key_D, CTRL)

    def test_boards_that_are_no_mates(self):
        self.state.choose_design("plover")
        self.key(Qt.Key.Key_F6)
        page = self.find("match.mates")
        self.wait(lambda: page.halves is not None and page.opened is not None)
        self.assertTrue(page.isVisible())
        self.assertEqual(len(page.crossings), len(page.halves.pairs))
        best = page.chosen
        last = page.halves.pairs[-1]
        self.type(f"{last.other} {last.one}")
        self.assertIs(page.chosen, last)
        page.choose(best)
        self.wait(lambda: page.opened is not None)
        self.key(Qt.Key.Key_Return, CTRL)
        self.wait(lambda: self.asked)
        self.assertEqual({p.piece for p in self.asked[0].pins}, {best.one, best.other})
        self.type("rings 60")
        self.assertEqual(self.shop.kit.pair_limits.rings_deg, 60)
        self.key(Qt.Key.Key_D, CTRL)

    def test_nothing_to_match_says_what_is_wanted(self):
        self.window.planning.fresh = None
        self.state.changed.emit()
        self.assertFalse(self.find("match.book").isVisible())
        self.key(Qt.Key.Key_Return, CTRL)
        self.assertIn("F5", self.message[-1])

    def test_halves_that_are_not_alike_meet_too(self):
        g = self.shop.instruments.new("bolt-on", "Wren")
        self.state.keep_instrument("begun", g)
        design = self.state.design
        self.assertTrue([p for p in design.parts if p.id.endswith(".treble")], "its halves differ")
        self.key(Qt.Key.Key_F6)
        page = self.find("match.mates")
        self.wait(lambda: page.halves is not None and (page.opened is not None or len(page.halves.boards) < 2))
        self.assertEqual([p.id.rsplit(".", 1)[1] for p in (one.way.part for one in page.opened)], ["bass", "treble"])
        self.assertTrue(all(one.across(one.ring).min() > -0.05 for one in page.opened))
