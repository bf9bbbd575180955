"""What wood can become is what laying out takes: wood that the house refuses is no yes, and what is to be done first is told."""

import json
import tempfile
import unittest
from pathlib import Path

from grainet.design.curve import box_ring
from grainet.design.parts import design_of
from grainet.design.starting_points import begin
from grainet.kit.cut_kit import CutKit
from grainet.plan.become import Heap
from grainet.plan.becoming import RoleBar, from_data, to_data
from grainet.plan.rescue import Rescuer
from grainet.plan.worker import _heap_of
from grainet.session.heap_question import cuts_for, heap_question
from grainet.session.shop import Shop
from grainet.wood.piece import MoistureReading, Piece
from tests.jobs import planned


def board(number, species, length, width, thick, density, **more):
    kg = density * length * width * thick / 1e9
    wet = (MoistureReading(x_mm=length / 2, y_mm=width / 2, depth_mm=thick / 2, moisture_pct=8.4, on="2026-11-20"),)
    return Piece(
        id=number, kind="plank", species=species, outline=box_ring(0, 0, length, width), thickness_mm=thick, ring_angle_deg=(75, 75),
        grain_slope_deg=1.0, mass_kg=round(kg, 3), **{"moisture": wet, **more},
    )  # fmt: skip


class Asked(unittest.TestCase):
    def setUp(self):
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.shop = Shop.open(Path(scratch.name) / "s.grainet", create=True)
        self.addCleanup(self.shop.close)
        self.g = begin("bolt-on", "wren", "Wren")

    def asked(self, *pieces):
        self.shop.apply("brought in", *pieces)
        return heap_question(self.shop, self.shop.pieces())

    def answer(self, question):
        """By the way of the window: through the question's text."""
        kit = cuts_for(self.shop, design_of(self.g))
        heap = _heap_of(json.loads("{" + question.as_json(kit) + "}"))
        return next(heap.becomes(self.g)), heap

    def test_wood_that_the_house_refuses_is_no_yes(self):
        soft = board("1", "Sapele", 3600, 400, 60, 600)
        told, heap = self.answer(self.asked(soft))
        self.assertFalse(told.fits)
        self.assertEqual((told.fails.part, told.fails.what, told.fails.wanted), ("fretboard", "density", 640))
        self.assertLess(told.fails.found, 640)
        self.assertEqual(told.fails.why, f"No. 1 too soft: {told.fails.found:.0f} kg/m³, at least 640")
        self.assertEqual(from_data(to_data(told)), told)
        self.assertEqual((told.nearly, [one.part for one in told.lacks]), (True, ["fretboard"]), "one buys a fretboard for it")
        self.assertEqual(set(told.pieces.values()), {"1"})
        refused = {(bar.part, bar.piece, bar.code) for bar in heap.job_of(self.g).barred}
        self.assertIn(("wren.fretboard", "1", "density"), refused)

    def test_a_yes_is_laid_out_by_the_shop_itself(self):
        wood = board("1", "Sapele", 3600, 400, 60, 600), board("2", "Indian rosewood", 700, 90, 12, 830)
        told, _ = self.answer(self.asked(*wood))
        self.assertTrue(told.fits, told.fails)
        self.assertEqual(told.pieces["fretboard"], "2")
        self.shop.apply("drawn up", self.g)
        job = self.shop.jobs.job_for([design_of(self.g)])
        self.assertTrue(planned(job).builds)

    def test_what_is_to_be_done_first_counts_and_is_told(self):
        wet = (MoistureReading(x_mm=400, y_mm=50, depth_mm=8, moisture_pct=8.4, on="2026-11-20"),)
        wood = board("1", "Sapele", 3600, 400, 60, 600, moisture=wet), board("2", "Indian rosewood", 700, 90, 12, 830)
        question = self.asked(*wood)
        told, _ = self.answer(question)
        self.assertTrue(told.fits)
        self.assertIn("its core is read", question.first("neck", "1", "wren"))
        self.assertEqual(question.first("fretboard", "2", "wren"), "")
        self.assertIn("only if its core is read", " ".join(b.why for b in self.shop.jobs.job_for([design_of(self.g)]).barred))

    def test_ready_wood_is_taken_before_wood_that_asks_for_something(self):
        wet = (MoistureReading(x_mm=400, y_mm=50, depth_mm=8, moisture_pct=8.4, on="2026-11-20"),)
        rosewood = board("3", "Indian rosewood", 700, 90, 12, 830)
        question = self.asked(
            board("1", "Sapele", 2400, 400, 60, 600, moisture=wet), board("2", "Sapele", 2600, 400, 60, 600), rosewood
        )
        told, heap = self.answer(question)
        self.assertTrue(told.fits)
        self.assertEqual({where for part, where in told.pieces.items() if part in ("neck", "body.bass")}, {"2"})
        self.assertEqual(heap.bars, heap.surely)
        self.assertGreaterEqual(heap.with_reach(told).widest_body_mm, 300)

    def test_what_is_not_bought_by_itself_is_a_no(self):
        told, _ = self.answer(self.asked(board("1", "Sapele", 3600, 400, 60, 600).changed(grain_slope_deg=4.0)))
        self.assertEqual((told.nearly, told.fails.part, told.fails.what), (False, "neck", "slope"))
        told, _ = self.answer(self.asked(board("1", "Sapele", 3600, 80, 60, 600)))
        self.assertEqual((told.nearly, told.fails.part, told.fails.what), (False, "body.bass", "width"))

    def test_other_cuts_are_used_from_then_on(self):
        heap = Heap([board("1", "Sapele", 3600, 400, 60, 600)], CutKit())
        first = heap.memory
        heap.sawn_with(CutKit())
        self.assertIs(heap.memory, first)
        heap.sawn_with(CutKit(margin_mm=2))
        self.assertEqual((heap.kit.margin_mm, heap.memory is first), (2, False))


class WaysOut(unittest.TestCase):
    def test_no_way_out_takes_what_the_house_refuses(self):
        g = begin("bolt-on", "wren", "Wren")
        short = board("1", "Sapele", 620, 120, 60, 700)
        soft, fit = board("2", "Sapele", 1600, 120, 60, 500), board("3", "Sapele", 1600, 120, 60, 700)
        bars = [RoleBar(role, "2", "too soft", "density") for role in ("neck", "fretboard", "ear")]
        for rack, wanted in (((short, soft), set()), ((short, soft, fit), {"3"})):
            job = Heap(rack, CutKit(), bars).job_of(g)
            ways = list(Rescuer(job, "wren.neck", "1", [g], seconds=8, alone=True).ways())
            self.assertEqual({n for way in ways if way.kind == "another piece" for n, _ in way.wood}, wanted)
            for way in ways:
                self.assertNotIn("2", {n for n, _ in way.wood}, way.kind)


if __name__ == "__main__":
    unittest.main()
