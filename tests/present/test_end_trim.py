"""Which end to lose: a split at one end and figure at the other, neither, and how far the part slides for it."""

import unittest

import numpy as np

from grainet.present.end_trim import end_trims
from grainet.wood.defects import Defect
from grainet.wood.figure import FigureZone
from grainet.wood.piece import Piece
from tests.jobs import rect


def ring(x=300.0):
    return np.array(rect(500, 150, x, 20), float)


def board(defects=(), figure=()):
    outline = tuple(map(tuple, rect(1300, 200)))
    return Piece(id="1", species="European ash", outline=outline, thickness_mm=22.0, defects=defects, figure=figure)


SPLIT = Defect(id="s1", kind="split", polygon=tuple(map(tuple, rect(70, 6, 0, 90))))


class AnEndIsLost(unittest.TestCase):
    def test_the_end_with_the_split_goes_and_what_is_left_stays_there(self):
        figure = FigureZone(id="f1", kind="curl", polygon=tuple(map(tuple, rect(300, 160, 950, 20))), strength=0.8)
        first, other = end_trims(board((SPLIT,), (figure,)), ring(), 200, 500)
        self.assertEqual((first.end, first.by_mm, first.left_mm, first.breaks), ("marked", 500, 800, 1))
        self.assertGreater(first.figure, 0.8)
        self.assertEqual((other.end, other.by_mm, other.left_mm, other.breaks, other.figure), ("far", -200, 700, 0, 0))
        self.assertRegex(first.told, r"^Cut at the marked end: 800 left there, 1 break with it, \d+ % of the figure seen$")

    def test_without_either_the_longer_rest_decides(self):
        first, other = end_trims(board(), ring(), 300, 500)
        self.assertEqual({first.end, other.end}, {"marked", "far"})
        self.assertGreaterEqual(first.left_mm, other.left_mm)
        self.assertEqual(other.told.split(":")[0], f"Cut at the {other.end} end")


if __name__ == "__main__":
    unittest.main()
