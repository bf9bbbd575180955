"""Rectangles by their free rectangles: what is laid holds, straight cuts free it, troubles are kept clear of, known best packings are found."""

import unittest

from shapely.geometry import Polygon

from grainet.fit.board_geometry import BoardGeometry
from grainet.plan.planner import plan_job
from grainet.plan.rectangles import Rectangles
from grainet.plan.sawing import separable
from grainet.plan.verify import check
from tests.jobs import SAW, half_ring, job, part, piece, rect

# fourteen sizes on one board, of which the packers of the bench come to 46.2
SIZES = [
    (309, 101),
    (513, 53),
    (189, 154),
    (325, 116),
    (127, 94),
    (398, 65),
    (247, 143),
    (171, 77),
    (462, 88),
    (286, 59),
    (350, 120),
    (140, 140),
]


def made(cutting, pieces, sizes=SIZES):
    parts = [part(f"p{k}", a, b, 20, value=a * b / 1e4, quantity=1, tilt_deg=0) for k, (a, b) in enumerate(sizes)]
    return job(pieces, parts, {**SAW, "cutting": cutting})


def laid(asked):
    return Rectangles(asked, {p.id: BoardGeometry(p, asked.kit) for p in asked.pieces}).laid(300)


class Laid(unittest.TestCase):
    def test_no_two_come_nearer_than_the_saw_needs(self):
        for cutting in ("outline", "straight"):
            asked = made(cutting, [piece("A", 900, 300, 22), piece("B", 700, 200, 22)])
            found = laid(asked)
            self.assertGreater(len(found), 6)
            for k, one in enumerate(found):
                for other in found[:k]:
                    if one.piece == other.piece:
                        self.assertGreaterEqual(one.polygon.distance(other.polygon), 3 - 1e-6)
            for board in asked.pieces if cutting == "straight" else ():
                boxes = [one.polygon.bounds for one in found if one.piece == board.id]
                self.assertTrue(separable(boxes, 3, 3), board.id)

    def test_four_that_fill_a_board_exactly_are_all_laid(self):
        asked = made("outline", [piece("A", 503, 303, 22)], [(200, 100), (300, 200), (200, 200), (300, 100)])
        self.assertEqual(len(laid(asked)), 4)

    def test_troubles_count_as_taken(self):
        rot = {"id": "r", "kind": "rot", "face": "through", "polygon": rect(60, 60, 400, 100)}
        asked = made("outline", [piece("A", 900, 300, 22, defects=[rot])])
        found = laid(asked)
        self.assertGreater(len(found), 4)
        for one in found:
            self.assertLess(one.polygon.intersection(Polygon(rot["polygon"])).area, 1e-9)

    def test_other_shapes_and_builds_are_not_for_it(self):
        half = {"id": "h", "outline": half_ring(), "thickness_mm": 20, "quantity": 2}
        for asked in (
            job([piece("A", 900, 300, 22)], [half, part("p", 200, 100, 20, quantity=2)], SAW),
            job(
                [piece("A", 900, 300, 22)],
                [part("p", 200, 100, 20)],
                SAW,
                [{"id": "b", "recipes": [{"id": "r", "value": 1, "needs": {"p": 2}}]}],
            ),
        ):
            self.assertEqual(laid(asked), [])

    def test_a_plan_is_worth_no_less_than_what_they_give(self):
        asked = made(
            "outline", [piece("A", 520, 200, 22)], SIZES[:6]
        )  # small, since no clock may end it on a machine that is busy
        plan = plan_job(asked)
        self.assertEqual(list(check(asked, plan)), [])
        self.assertGreaterEqual(plan.value + 1e-9, sum(one.part.value for one in laid(asked)))


if __name__ == "__main__":
    unittest.main()
