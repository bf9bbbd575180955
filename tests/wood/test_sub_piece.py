"""The loss chain of any part dragged out on a board, the exact flattening beside it, and what cutting first gains."""

import itertools
import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from grainet.wood.defects import Defect
from grainet.wood.part_forecast import exact_flattening, sub_piece
from grainet.wood.piece import Flatness, Piece, Station


def board(thickness=27.0, length=1500.0, width=180.0, **more):
    return Piece(id="A", outline=((0, 0), (length, 0), (length, width), (0, width)), thickness_mm=thickness, **more)


def box_mark(kind, x0, y0, x1, y1, **more):
    return Defect(id=more.pop("id", "v1"), kind=kind, polygon=((x0, y0), (x1, y0), (x1, y1), (x0, y1)), **more)


def heights(f, t, xs, ys):
    """Stations on a grid: face 1 at height f(x, y) over the bench, thickness t(x, y)."""
    return tuple(Station(x_mm=x, y_mm=y, thickness_mm=t(x, y), top_mm=f(x, y)) for x in xs for y in ys)


class Chain(unittest.TestCase):
    def test_the_worked_example_and_its_links(self):
        piece = board(flatness=Flatness(bow_mm=3, bow_span_mm=1500, cup_mm=1.0, cup_span_mm=180, rock_mm=2.0))
        found = sub_piece(piece, (0, 0, 750, 180), skim_mm=0.5)
        takes = {link.name: link.takes_mm for link in found.thickness.links}
        self.assertAlmostEqual(takes["bow"], 0.75)
        self.assertAlmostEqual(takes["cup"], 1.0)
        self.assertAlmostEqual(takes["rocking"], 0.5)
        self.assertAlmostEqual(takes["skims"], 1.0)
        self.assertAlmostEqual(found.thickness.left_mm, 23.75, delta=0.05)

    def test_switching_a_link_off_alters_the_sum_by_just_that_link(self):
        piece = board(
            flatness=Flatness(bow_mm=3, cup_mm=1.0, rock_mm=2.0), defects=(box_mark("groove", 100, 0, 200, 180, depth_mm=4),)
        )
        whole = sub_piece(piece, (0, 0, 900, 120), skim_mm=0.5)
        for link in whole.thickness.links:
            without = sub_piece(piece, (0, 0, 900, 120), skim_mm=0.5, off=frozenset({link.name}))
            self.assertAlmostEqual(without.thickness.left_mm - whole.thickness.left_mm, link.takes_mm, places=9)

    @given(st.floats(50, 700), st.floats(0.1, 8))
    @settings(max_examples=50, deadline=None)
    def test_twice_the_length_is_four_times_the_bow(self, length, bow):
        piece = board(flatness=Flatness(bow_mm=bow))
        one, two = (sub_piece(piece, (0, 0, n * length, 90)).thickness.links[0].takes_mm for n in (1, 2))
        self.assertAlmostEqual(two, 4 * one, places=9)

    def test_voids_take_thickness_only_where_they_lie_and_from_both_sides(self):
        groove = box_mark("groove", 400, 60, 900, 75, face="1", depth_mm=9)
        ridge = box_mark("groove", 0, 100, 1500, 110, face="2", depth_mm=3, id="v2")
        piece = board(32.0, defects=(groove, ridge))
        self.assertAlmostEqual(sub_piece(piece, (380, 40, 950, 90)).thickness.left_mm, 23)
        self.assertAlmostEqual(sub_piece(piece, (1000, 0, 1400, 90)).thickness.left_mm, 32)
        self.assertAlmostEqual(sub_piece(piece, (380, 40, 950, 120)).thickness.left_mm, 20)
        open_hole = board(32.0, defects=(box_mark("hole", 10, 10, 30, 30, face="1", depth_mm=None),))
        self.assertIn("no depth read", sub_piece(open_hole, (0, 0, 100, 100)).unread[0])

    def test_the_thin_half_has_its_own_least(self):
        stations = tuple(Station(x_mm=x, y_mm=90, thickness_mm=t) for x, t in ((0, 11.2), (500, 10.6), (1000, 9.8), (1500, 9.1)))
        piece = board(None, stations=stations)
        self.assertAlmostEqual(sub_piece(piece, (750, 0, 1500, 180)).thickness.left_mm, 9.1)
        self.assertAlmostEqual(sub_piece(piece, (0, 0, 500, 180)).thickness.left_mm, 10.6)

    def test_cutting_first_gains_what_the_chain_says(self):
        piece = board(30, flatness=Flatness(bow_mm=6, cup_mm=2))
        gains = {g.act: g.gains_mm for g in sub_piece(piece, (0, 0, 500, 90)).gains}
        self.assertAlmostEqual(gains["shortened first"], 6 * (1 - (500 / 1500) ** 2))
        self.assertAlmostEqual(gains["ripped first"], 2 * (1 - 0.5**2))
        self.assertAlmostEqual(gains["both first"], gains["shortened first"] + gains["ripped first"])

    def test_width_has_its_chain_too(self):
        piece = board(flatness=Flatness(crook_mm=4))
        found = sub_piece(piece, (0, 20, 750, 120), edge_mm=1)
        self.assertAlmostEqual(found.width.left_mm, 100 - 1 - 2)


class Exact(unittest.TestCase):
    def test_a_pure_twist_and_a_pure_wedge(self):
        xs, ys = (0, 500, 1000, 1500), (0, 90, 180)
        twisted = heights(lambda x, y: 30 + 2 * (x / 1500) * (y / 180), lambda x, y: 30, xs, ys)
        ring = ((0, 0), (1500, 0), (1500, 180), (0, 180))
        piece = board(None, stations=twisted)
        self.assertAlmostEqual(exact_flattening(piece, ring), 29.0, places=6)  # half of the fourth corner's height
        wedge = heights(lambda x, y: 30 - x / 150, lambda x, y: 30 - x / 150, xs, ys)
        self.assertAlmostEqual(exact_flattening(board(None, stations=wedge), ring), 20.0, places=6)

    def test_never_worse_than_the_chain_for_a_bowed_board_and_best_against_a_slow_search(self):
        xs, ys = np.linspace(0, 1500, 7), (0.0, 90.0, 180.0)
        rng = np.random.default_rng(3)
        noise = rng.normal(0, 0.3, (len(xs), len(ys)))
        at = {(x, y): float(noise[i, j]) for i, x in enumerate(xs) for j, y in enumerate(ys)}
        stations = heights(
            lambda x, y: 30 + 4 * (x - 750) ** 2 / 750**2 + at[x, y], lambda x, y: 28 + at[x, y] / 3, map(float, xs), ys
        )
        piece = board(None, stations=stations)
        ring = ((0, 0), (1500, 0), (1500, 180), (0, 180))
        exact = exact_flattening(piece, ring)
        top = np.array([s.top_mm for s in stations])
        bottom = top - np.array([s.thickness_mm for s in stations])
        places = np.array([(s.x_mm, s.y_mm) for s in stations])
        best = 0.0
        for a, b in itertools.product(np.linspace(-0.004, 0.004, 161), np.linspace(-0.01, 0.01, 161)):
            tilt = places @ (a, b)
            best = max(best, (top - tilt).min() - (bottom - tilt).max())
        self.assertLessEqual(best, exact + 1e-6)
        self.assertAlmostEqual(best, exact, delta=0.03)

    def test_no_heights_no_exact_figure(self):
        self.assertIsNone(sub_piece(board(), (0, 0, 100, 100)).exact_mm)

    def test_a_flat_board_keeps_its_thickness_less_the_skims(self):
        piece = board(None, stations=heights(lambda x, y: 25, lambda x, y: 25, (0, 1500), (0, 180)))
        self.assertTrue(math.isclose(sub_piece(piece, (100, 10, 900, 150), skim_mm=0.5).exact_mm, 24.0, abs_tol=1e-6))
