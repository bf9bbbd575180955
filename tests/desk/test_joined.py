"""Halves from one face in a real window: a top too high for the saw is folded instead, seen together, slid, locked and pinned by hand."""

from unittest import mock

from PySide6.QtCore import Qt

from grainet.design.ways import with_way
from grainet.wood.piece import MoistureReading, Piece
from tests.desk.app import WindowTest
from tests.jobs import quick_plan, rect

CTRL, ALT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.AltModifier


class TooHighForTheSaw(WindowTest):
    def setUp(self):
        super().setUp()
        self.state.choose_design("merrow")
        kit = self.shop.kit
        low = [m.changed(highest_mm=150.0) if "resaw" in {w.value for w in m.does} else m for m in kit.machines]
        self.state.keep("the saw takes 150", kit.changed(machines=tuple(low)))
        ring = tuple((float(x), float(y)) for x, y in rect(900, 360))
        dry = (MoistureReading(x_mm=450.0, y_mm=180.0, depth_mm=5.0, moisture_pct=8.5),)
        wide = Piece(
            id="70", species="European ash", outline=ring, thickness_mm=22.0, ring_angle_deg=(60.0, 60.0), grain_slope_deg=1.0,
            moisture=dry, mass_kg=5.0,
        )  # fmt: skip
        self.shop.apply("a wide board", wide)
        self.state.changed.emit()
        self.settle()
        self.click("rail.match")
        self.screen = self.find("match")

    def answered(self, act):
        """Do something that plans; the planner is asked and its answer given back."""
        asked = []
        with mock.patch.object(type(self.window.worker), "plan", lambda _self, job, *_more, **_named: asked.append(job)):
            act()
            self.settle()
        for job in asked:
            self.window.worker.planned.emit(job, quick_plan(job))
            self.settle()
        return asked

    def folded(self):
        self.answered(lambda: self.click("match.offer.fold"))
        self.click("rail.match")
        return self.find("match.joined")

    def test_the_ways_out_are_told_with_their_figures(self):
        found = self.screen.too_high
        self.assertRegex(found.told(), r"matched top: 1\d\d high to resaw, the saw takes 150")
        names = [o.name for o in found.offers]
        self.assertEqual(names[:3], ["Rip and fold", "Slip two lengths", "Two quiet boards"])
        self.assertRegex(next(o.words for o in found.offers if o.name.startswith("Two cuts")), r"\d deep from each edge")
        self.assertFalse(self.grab(self.screen).isNull())

    def test_a_fold_is_planned_seen_together_slid_and_locked(self):
        page = self.folded()
        self.assertTrue(page.isVisible())
        pair = page.pair
        self.assertEqual({pair.one.copy_, pair.two.copy_}, {1, 2})
        self.assertAlmostEqual(pair.lost_mm, self.shop.kit.cuts.kerf_mm.rip, places=4)
        self.assertAlmostEqual(float(pair.rings[1][:, 1].min()) + pair.move[1], pair.seam_y, places=6)
        self.assertGreater(pair.rings_lost, 0)
        back, on = page.room
        self.assertGreater(back + on, 100)
        page.setFocus()
        away = Qt.Key.Key_Right if on > 50 else Qt.Key.Key_Left
        for _ in range(4):
            self.key(away, target=page)
        self.assertEqual(abs(page.by_mm), 40)
        wanted = {(p.part, round(p.x + page.by_mm, 3), round(p.y, 3)) for p in (pair.one, pair.two)}
        (job,) = self.answered(lambda: self.key(Qt.Key.Key_Return, CTRL, self.window))
        self.assertEqual({(p.part, round(p.x, 3), round(p.y, 3)) for p in job.pins}, wanted)
        shown = self.window.planning.shown()[1]
        self.assertLessEqual(wanted, {(p.part, round(p.x, 3), round(p.y, 3)) for p in shown.placements})
        self.assertEqual(set(shown.builds), {"merrow"})
        self.assertFalse(self.grab(page).isNull())

    def test_both_halves_are_pinned_and_let_go_together_by_hand(self):
        self.folded()
        self.click("rail.layOut")
        lay_out = self.find("layOut")
        lay_out.choose_part("merrow.cap.bass")
        self.key(Qt.Key.Key_T, ALT, self.window)
        self.assertTrue(lay_out.holds, lay_out.answer)
        (job,) = self.answered(lambda: self.key(Qt.Key.Key_P, ALT, self.window))
        self.assertEqual(sorted(p.copy_ for p in job.pins), [1, 2])
        self.key(Qt.Key.Key_T, ALT, self.window)
        self.answered(lambda: self.key(Qt.Key.Key_P, ALT, self.window))
        self.assertEqual(self.window.planning.pins["merrow"], ())


class BesideAPairOfLeaves(WindowTest):
    def test_each_has_its_button_and_either_is_shown(self):
        guitar = self.shop.instruments.find("merrow")
        self.assertTrue(self.state.keep_instrument("folded body", with_way(guitar, "body", "fold")))
        ring = tuple((float(x), float(y)) for x, y in rect(900, 360))
        dry = (MoistureReading(x_mm=450.0, y_mm=180.0, depth_mm=12.0, moisture_pct=8.5),)
        wood = {"species": "Red alder", "outline": ring, "thickness_mm": 48.0, "moisture": dry, "mass_kg": 8.0}
        self.shop.apply("a wide board", Piece(id="70", grain_slope_deg=1.0, ring_angle_deg=(60.0, 60.0), **wood))
        self.state.choose_design("merrow")
        job = self.shop.jobs.job_for([d for d in self.shop.designs() if d.id == "merrow"])
        self.window.worker.planned.emit(job, quick_plan(job))
        self.settle()
        self.click("rail.match")
        screen = self.find("match")
        leaves, joined = screen.pairs[0].name, screen.joined_pairs[0].part.letter
        self.assertFalse(screen.joined_shown)
        self.click(f"match.pair.{joined}")
        self.assertTrue(self.find("match.joined").isVisible())
        self.assertEqual([b.isChecked() for b in screen.pair_buttons][:2], [False, True])
        self.assertFalse(screen.lock_it.geometry().intersects(self.find(f"match.pair.{joined}").geometry()))
        self.click(f"match.pair.{leaves}")
        self.assertFalse(self.find("match.joined").isVisible())
        self.assertTrue(screen.book.isVisible())
