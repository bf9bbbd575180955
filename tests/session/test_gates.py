"""What closes a cut or a use until it is cleared: live metal near a planned line, an untested finish, mixed rings, a torn glue-up."""

import tempfile
import unittest
from pathlib import Path

from grainet.demo.make import make_demo
from grainet.demo.rack import rack
from grainet.exchange.cut_map import cut_map_pdf
from grainet.plan.planner import plan_job
from grainet.plan.verify import check
from grainet.session.commands.line import read
from grainet.session.sawing import board_steps, tick
from grainet.wood.coating import Coating
from grainet.wood.planing import Member, tearing
from grainet.wood.tally import tally
from grainet.wood.value import BadEntry
from grainet.work.cautions import cautions_for
from grainet.work.glue_ups import tearing_of
from tests.jobs import SAW, job, part, piece, planned

NAIL = {"id": "m1", "kind": "nail", "face": "1", "polygon": [[310, 95], [314, 95], [314, 99], [310, 99]], "depth_mm": 40}


def straight_job(**nail):
    kit = {**SAW, "cutting": "straight", "metal_clear_mm": 15}
    return job([piece("A", 1000, 200, 30, defects=[{**NAIL, **nail}])], [part("p", 300, 200, 30, quantity=1, turns_deg=[0])], kit)


class Metal(unittest.TestCase):
    def test_a_line_ten_from_a_live_nail_is_refused_and_allowed_once_it_is_drawn(self):
        """The nail's rim lies 10 beyond the cut at 300; 15 is wanted clear of metal."""
        live, drawn = straight_job(), straight_job(resolved=True)
        plan = plan_job(drawn)
        one = plan.placements[0]
        moved = one.changed(x=0.0, polygon=tuple((x - one.x, y) for x, y in one.polygon))
        cuts = tuple(c.changed(line=((300 + 1.5, 0.0), (300 + 1.5, 200.0))) for c in plan.cuts[:1])
        there = plan.changed(placements=(moved,), cuts=cuts)
        self.assertTrue(any(f.code in ("metal", "zone") for f in check(live, there)), check(live, there))
        self.assertFalse(any(f.code in ("metal", "zone") for f in check(drawn, there)), check(drawn, there))
        for p in plan_job(live).placements:
            xs = [x for x, _ in p.polygon]
            self.assertTrue(max(xs) <= 310 - 15 or min(xs) >= 314 + 15, "the planner keeps clear by itself")

    def test_the_hole_stays_as_a_void(self):
        board = straight_job(resolved=True).pieces[0]
        self.assertEqual(board.defects[0].family, "void")
        self.assertTrue(board.defects[0].metal_drawn)


class Finish(unittest.TestCase):
    def setUp(self):
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.shop = make_demo(Path(scratch.name) / "D.grainet")
        self.addCleanup(self.shop.close)

    def test_no_step_is_ticked_on_untested_paint_and_the_caution_stands_at_it(self):
        design = self.shop.designs()[0]
        made = planned(self.shop.jobs.job_for([design]))
        laid = self.shop.plans.under_way(self.shop.plans.accept(design, self.shop.jobs.job_for([design]), made).id)
        board = next(b for b in laid.boards if laid.cuts_of(b))
        step = board_steps(self.shop, laid, board)[0]
        painted = self.shop.piece(board).changed(coating=Coating(finish="unknown", treatment="none"))
        self.shop.apply("painted", painted)
        with self.assertRaisesRegex(BadEntry, "Old finish.*tested"):
            tick(self.shop, laid, board, step, agreed=True)
        texts = [c.text for c in cautions_for(step.cut, painted, painted.outline, self.shop.kit.cuts) if c.grade == "A"]
        self.assertTrue(any("lead" in t and "respirator" in t for t in texts))
        self.shop.apply("tested", read("tested clean swab", painted, 0, "mm", "2026-11-25").piece)
        self.assertTrue(tick(self.shop, laid, board, step, agreed=True).done(step.cut))

    def test_an_undeclared_finish_of_reclaimed_wood_only_asks(self):
        piece = self.shop.piece("2").changed(coating=Coating())
        self.shop.apply("undeclared", piece)
        verdict = self.shop.judgements.verdict("2", "laminate_strip")
        self.assertFalse(verdict.gives)
        self.assertTrue(any("declared" in r.text for s in verdict.stretches for r in s.reasons))

    def test_mixed_rings_lower_a_neck_with_a_reason(self):
        piece = self.shop.piece("17").changed(ring_angle_deg=(72.0, 55.0), moisture=self.shop.piece("2").moisture)
        self.shop.apply("mixed", piece)
        reasons = [r.text for s in self.shop.judgements.verdict("17", "neck").stretches for r in s.reasons]
        self.assertTrue(any("quarter/rift, mixed" in t for t in reasons), reasons)


class Grain(unittest.TestCase):
    def test_halves_that_plane_against_each_other_are_said_with_the_turn_that_mends_it(self):
        pieces = [piece("A", 700, 120, 30), piece("B", 700, 120, 30)]
        made = job(pieces, [part("half", 600, 110, 25, quantity=1, per_set=2, turns_deg=[0])], SAW)
        plan = plan_job(made)
        self.assertEqual({p.piece for p in plan.placements}, {"A", "B"})
        against = made.changed(pieces=(made.pieces[0].changed(planing="far"), made.pieces[1].changed(planing="marked")))
        ((_, found),) = tearing_of(against, plan)
        self.assertIn("will tear both ways", found.text)
        self.assertEqual(len(found.turn), 1)
        alike = made.changed(pieces=tuple(p.changed(planing="far") for p in made.pieces))
        self.assertEqual(list(tearing_of(alike, plan)), [])
        turned = plan.changed(placements=(plan.placements[0].changed(angle_deg=180.0), plan.placements[1]))
        self.assertEqual(len(list(tearing_of(alike, turned))), 1, "one laid the other way round planes the other way")

    def test_a_member_with_its_other_face_up_planes_the_other_way(self):
        board = rack()[8].changed(planing="far")
        self.assertIsNotNone(tearing([Member(board), Member(board, face_up="2")]))
        self.assertIsNone(tearing([Member(board), Member(board, turned=True, face_up="2")]))

    def test_the_arrow_is_in_the_print_and_turns_with_the_wood(self):
        import base64
        import re
        import zlib

        made = job([{**piece("A", 700, 120, 30), "planing": "far"}], [part()], SAW)
        plan = plan_job(made)

        def lines(board):
            data = cut_map_pdf(made, plan, board, [])
            streams = re.findall(rb"stream\r?\n(.*?)endstream", data, re.S)
            text = b"".join(
                zlib.decompress(base64.a85decode(b"<~" + s.strip(), adobe=True)) for s in streams if s.strip().endswith(b"~>")
            )
            self.assertIn(b"m", text)
            return text

        far, marked, unknown = (lines(made.pieces[0].changed(planing=way)) for way in ("far", "marked", ""))
        self.assertNotEqual(far, marked)
        self.assertGreater(len(far), len(unknown))


class Counting(unittest.TestCase):
    def test_totals_and_clear_share(self):
        board = read(
            "plank 1000x200x30",
            rack()[0].changed(id="1", outline=(), width_stations=(), length_mm=None, defects=(), figure=()),
            0,
            "mm",
            "",
        ).piece
        for line in (
            "100 k 50x40 y 50",
            "130 k 50x40 y 50",
            "500 c 100x4 y 100 f through",
            "700 t 100x100 y 150 f 2",
            "900 w 60x50 y 25",
        ):
            board = read(line, board, 0, "mm", "").piece
        found = tally(board)
        self.assertEqual(found.by_kind, {"knot": 2, "crack": 1, "stain": 1, "wild_grain": 1})
        # two knots overlap by 20
        face1 = 50 * 40 * 2 - 20 * 40 + 100 * 4 + 60 * 50
        self.assertAlmostEqual(found.clear["1"], 1 - face1 / 200_000, places=6)
        self.assertAlmostEqual(found.clear["2"], 1 - (100 * 4 + 100 * 100) / 200_000, places=6)
        self.assertEqual(found.clear_both, found.clear["2"])


if __name__ == "__main__":
    unittest.main()
