"""The edges to set a saw to: they equal the geometry, a part lies against the first, a fence has a straight edge; and the order of cuts."""

import unittest

import numpy as np
from shapely.geometry import Polygon

from grainet.kit.cut_kit import CutKit
from grainet.plan.in_hand import Workpiece, hands_after
from grainet.plan.marks import Raw, marks_across, marks_along, marks_deep, straight_edge
from grainet.plan.planner import plan_job
from grainet.plan.verify import check
from tests.jobs import SAW, half_ring, job, part, piece, rect

KIT = CutKit.model_validate(SAW)


def hand(ring, top=0.0, bottom=None):
    return Workpiece("A.1", Polygon(ring), top, bottom)


def told(marks):
    return [(m.from_, m.mm, m.kerf) for m in marks]


class Figures(unittest.TestCase):
    def test_a_crosscut_is_measured_from_the_datum_while_the_raw_end_is_there(self):
        whole, raw = hand(rect(1000, 200)), Raw.of(rect(1000, 200))
        first = [Polygon(rect(500, 90))]
        self.assertEqual(
            told(marks_across(whole, 501.5, raw, KIT, first)), [("datum", 500.0, "after"), ("datum", 503.0, "before")]
        )
        rest = hand(rect(497, 200, 503))
        beyond = [Polygon(rect(300, 90, 703))]
        self.assertEqual(
            told(marks_across(rest, 701.5, raw, KIT, beyond)), [("marked end", 200.0, "before"), ("marked end", 197.0, "after")]
        )

    def test_where_only_the_far_end_is_straight_it_is_measured_from_there(self):
        ragged = hand([[0, 0], [600, 0], [600, 200], [40, 200], [80, 100]])
        self.assertEqual(told(marks_across(ragged, 301.5, Raw(-50, 600), KIT))[0][0], "far end")

    def test_a_rip_is_measured_from_the_edge_on_the_side_of_its_part(self):
        board = hand(rect(1000, 200))
        low, high = [Polygon(rect(1000, 80))], [Polygon(rect(1000, 80, 0, 120))]
        self.assertEqual(told(marks_along(board, 81.5, KIT, low))[0], ("near edge", 80.0, "after"))
        self.assertEqual(told(marks_along(board, 118.5, KIT, high))[0], ("far edge", 80.0, "after"))

    def test_a_wavy_edge_is_no_edge_to_measure_from(self):
        wavy = [[float(x), 6 * abs(np.sin(x / 90))] for x in range(0, 1001, 20)]
        board = hand([*wavy, [1000, 200], [0, 200]])
        self.assertFalse(straight_edge(board.polygon, 0.0))
        self.assertEqual(told(marks_along(board, 81.5, KIT, [Polygon(rect(900, 70, 0, 10))]))[0], ("far edge", 120.0, "before"))

    def test_a_resaw_is_measured_from_what_is_face_1_then(self):
        lower = hand(rect(500, 100), top=9.2)
        self.assertEqual(told(marks_deep(lower, 19.8, KIT)), [("face 1", 10.0, "after"), ("face 1", 11.2, "before")])

    def test_an_edge_of_the_kerf_beyond_the_wood_has_no_mark(self):
        board = hand(rect(1000, 200))
        self.assertEqual(told(marks_along(board, 199.5, KIT, [Polygon(rect(1000, 198))])), [("near edge", 198.0, "after")])


class OfWholePlans(unittest.TestCase):
    def test_a_wrong_mark_is_found(self):
        made = job([piece("A", 700, 200, 44)], [part("p", 300, 80, 20, quantity=3), part("t", 320, 90, 8, leaves=2)], SAW)
        plan = plan_job(made)
        self.assertEqual(list(check(made, plan)), [])
        self.assertEqual({c.tool for c in plan.cuts if c.marks} - {"rip", "crosscut", "resaw"}, set())
        for n, cut in enumerate(plan.cuts):
            self.assertEqual(bool(cut.marks), cut.tool != "outline", cut)
            for k, mark in enumerate(cut.marks):
                for wrong in (mark.changed(mm=mark.mm + 0.3), mark.changed(kerf="after" if mark.kerf == "before" else "before")):
                    off = cut.changed(marks=(*cut.marks[:k], wrong, *cut.marks[k + 1 :]))
                    found = check(made, plan.changed(cuts=(*plan.cuts[:n], off, *plan.cuts[n + 1 :])))
                    self.assertTrue(any(f.code == "marks" for f in found), (cut, wrong))

    def test_rectangles_are_sawn_straight(self):
        made = job([piece("A", 1300, 200, 22)], [part("p", 300, 80, 20, quantity=3)], SAW)
        plan = plan_job(made)
        self.assertEqual(plan.made, {"p": 3})
        self.assertEqual([c for c in plan.cuts if c.tool == "outline"], [])

    def test_no_shaped_piece_is_resawn_where_a_rip_makes_it_low_enough(self):
        half = {"id": "top", "outline": half_ring(), "thickness_mm": 8, "leaves": 2, "quantity": 1, "tilt_deg": 0}
        made = job([piece("A", 470, 215, 22)], [half], {**SAW, "machines": {"resaw_height_mm": 180}})
        plan = plan_job(made)
        tools = [c.tool for c in plan.cuts]
        self.assertEqual(plan.made, {"top": 1})
        self.assertLess(tools.index("rip"), tools.index("resaw"))
        self.assertLess(tools.index("resaw"), tools.index("outline"))

    def test_what_is_swung_round_an_outline_is_shortened_first(self):
        halves = {"id": "h", "outline": half_ring(), "thickness_mm": 40, "quantity": 2, "turns_deg": [0, 180], "tilt_deg": 0}
        made = job([piece("A", 2400, 262, 44)], [halves], SAW)
        plan = plan_job(made)
        self.assertEqual(plan.made, {"h": 2})
        for n, cut in enumerate(plan.cuts):
            if cut.tool == "outline":
                swung = next(h for h in hands_after(made.pieces[0], plan.cuts[:n], made.kit) if h.id == cut.piece)
                around = Polygon(cut.line[1:]).bounds
                x0, _, x1, _ = swung.polygon.bounds
                others = [Polygon(p.polygon) for p in plan.placements]
                spans = [o.bounds for o in others if swung.polygon.intersection(o).area > 0.5 * o.area]
                reach = (min(b[0] for b in spans), max(b[2] for b in spans))
                self.assertLess(max(reach[0] - x0, x1 - reach[1]), 300, (cut.n, around))


if __name__ == "__main__":
    unittest.main()
