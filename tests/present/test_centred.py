"""A part whose program is centred on its stock: narrower stock, flaws beside and in the part, tapering stock, none at all."""

import unittest

from grainet.fit.orientation import orientations_of
from grainet.present.centred import centred
from grainet.wood.defects import Defect
from grainet.wood.piece import Piece
from tests.jobs import part, rect


def stock(width, *marks, ring=None):
    return Piece(
        id="1", species="European ash", outline=tuple(map(tuple, ring or rect(500, width))), thickness_mm=22.0, defects=marks
    )


def knot(y, high=4.0):
    return Defect(id="k1", kind="knot", polygon=tuple(map(tuple, rect(20, high, 200, y))))


def way(width):
    made = part("p", 400, width, 20)
    from grainet.exchange.json_file import to_value
    from grainet.job.job import Job

    job = to_value({"format": "grainet-job", "version": 1, "pieces": [], "parts": [made]}, Job, "j")
    return orientations_of(job.parts[0])[0]


class NarrowerStock(unittest.TestCase):
    def test_room_enough_on_both_sides_passes_and_a_flaw_near_the_edge_lies_outside(self):
        found = centred(stock(112, knot(4)), way(92), 20, 120)
        self.assertEqual((found.real_mm, found.side_mm, found.y, found.word), (112, 10, 10, "passes"))
        self.assertEqual(found.outside, (("knot k1", 4.0),))
        self.assertIn("112.0 wide here, the program needs 120: 10.0 on each side", found.told())

    def test_a_flaw_eight_from_the_edge_touches_only_what_it_reaches(self):
        self.assertEqual(centred(stock(112, knot(8, 1.5)), way(92), 20, 120).inside, ())
        self.assertEqual(centred(stock(112, knot(8, 4)), way(92), 20, 120).word, "does not pass")

    def test_a_wider_part_leaves_little_to_clamp_and_a_still_wider_one_is_too_wide(self):
        self.assertEqual(centred(stock(112), way(106), 20, 120).word, "passes with little to clamp")
        found = centred(stock(112), way(118), 20, 120)
        self.assertEqual(found.word, "does not pass")
        self.assertIn("3.0 missing on each side", found.told())

    def test_tapering_stock_counts_where_it_is_narrowest_under_the_part(self):
        ring = [[0, 0], [500, 0], [500, 100], [0, 120]]
        found = centred(stock(0, ring=ring), way(60), 0, 120)
        self.assertAlmostEqual(found.real_mm, 104, delta=0.1)

    def test_beyond_the_wood_there_is_no_answer(self):
        self.assertIsNone(centred(stock(112), way(92), 900, 120))


if __name__ == "__main__":
    unittest.main()
