"""What screens show, without a window: where a part can lie, what a plan comes to, what waits at each station."""

import tempfile
import unittest
from pathlib import Path

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from grainet.demo.make import make_demo
from grainet.design.shape import area, as_array
from grainet.fit.board_geometry import BoardGeometry
from grainet.fit.field import Layers
from grainet.job.answer import Refusal
from grainet.present import plan_view
from grainet.present.fit_view import answer_at, fit_view, run_words, strokes
from grainet.present.ring_edit import MOST_HANDLES, handle_points, moved_ring, nearest_handle
from grainet.present.stations import MOST_LETTERS, station_lines
from grainet.session.shop import Shop
from tests.jobs import SAW, job, part, piece, planned

KNOT = {"id": "k1", "kind": "loose_knot", "polygon": [[400, 0], [440, 0], [440, 95], [400, 95]]}
LOPSIDED = [[0, 0], [300, 0], [300, 60], [250, 80], [0, 80]]


class Fits(unittest.TestCase):
    def setUp(self):
        # a board with a loose knot right across: the part lies to its left or to its right
        self.job = job([piece("A", 900, 95, 22, defects=[KNOT])], [part(outline=LOPSIDED, tilt_deg=0)], SAW)
        self.piece, self.part = self.job.pieces[0], self.job.parts[0]
        self.board = BoardGeometry(self.piece, self.job.kit)
        self.view = fit_view(Layers(self.board), self.piece, self.part)

    def test_runs_lie_beside_what_stops_it_and_the_longest_is_called_best(self):
        self.assertEqual(len(self.view.runs), 2)
        words = [text for _, text in run_words(self.view, "mm")]
        self.assertEqual([", best" in w for w in words].count(True), 1)
        best = words[[run == self.view.longest_run for run in self.view.runs].index(True)]
        self.assertTrue(best.endswith(", best"), words)

    def test_the_first_place_holds_and_so_does_the_one_it_is_turned_to(self):
        at = self.view.first_place()
        self.assertTrue(answer_at(self.view, 0, at, self.board, "mm").holds)
        new = self.view.next_orientation(0, over=False)
        self.assertIsNotNone(new)
        turned = self.view.moved_to_orientation(at, 0, new)
        corner = [a + b for a, b in zip(at, self.view.orientations[0].bounds[:2])]
        self.assertTrue(np.allclose(corner, [a + b for a, b in zip(turned, self.view.orientations[new].bounds[:2])]))
        over = self.view.next_orientation(0, over=True)
        self.assertNotEqual(self.view.orientations[over].face_up, self.view.orientations[0].face_up)

    def test_over_the_knot_it_says_why_not(self):
        found = answer_at(self.view, 0, (300.0, 5.0), self.board, "mm")
        self.assertEqual((found.holds, found.text[:4]), (False, "no: "))
        self.assertIn("k1", found.text)

    def test_every_stroke_is_a_place_that_holds(self):
        lines = list(strokes(self.view, 0, 20.0))
        self.assertTrue(lines)
        pin = self.part.pin or (0.0, 0.0)
        for one in lines:
            for y in (one.low, one.high):
                self.assertTrue(answer_at(self.view, 0, (one.x - pin[0], y - pin[1]), self.board, "mm").holds, one)

    def test_bright_wood_is_what_some_place_uses(self):
        grid = self.view.grid
        xs = grid.x0 + (np.arange(grid.columns) + 0.5) * grid.step
        column = self.view.bright.any(axis=0)
        self.assertFalse(column[(xs > 402) & (xs < 438)].any(), "nothing lies on the knot")
        self.assertTrue(column[(xs > 50) & (xs < 300)].all())

    def test_a_part_that_fits_nowhere_stands_at_the_board_s_corner(self):
        wide = job([piece("A", 300, 40, 22)], [part()], SAW)
        view = fit_view(Layers(BoardGeometry(wide.pieces[0], wide.kit)), wide.pieces[0], wide.parts[0])
        self.assertEqual((view.places, view.runs, view.longest_run), (0, (), None))
        at = view.first_place()
        self.assertEqual([a + b for a, b in zip(at, view.orientations[0].bounds[:2])], [0, 0])
        self.assertEqual(list(strokes(view, 0, 10)), [])


class Rings(unittest.TestCase):
    SQUARE = ((0.0, 0.0), (10.0, 0.0), (10.0, 10.0), (0.0, 10.0))
    ROUND = tuple((10 * np.cos(a), 5 * np.sin(a)) for a in np.linspace(0, 2 * np.pi, 40, endpoint=False))

    def test_few_corners_move_alone_and_many_with_their_frame(self):
        self.assertEqual(moved_ring(self.SQUARE, 2, 5, 5)[2], (15, 15))
        self.assertGreater(len(self.ROUND), MOST_HANDLES)
        wider = moved_ring(self.ROUND, 2, 10, 0)
        self.assertEqual(len(handle_points(self.ROUND)), 4)
        self.assertAlmostEqual(area(as_array(wider)) / area(as_array(self.ROUND)), 1.5, places=6)

    @settings(max_examples=60)
    @given(st.integers(0, 3), st.floats(-200, 200), st.floats(-200, 200))
    def test_a_frame_never_turns_inside_out(self, corner, dx, dy):
        ring = moved_ring(self.ROUND, corner, dx, dy)
        (x0, y0), _, (x1, y1), _ = handle_points(ring)
        self.assertGreaterEqual(x1 - x0, 1)
        self.assertGreaterEqual(y1 - y0, 1)

    def test_the_nearest_handle_is_taken_not_the_first(self):
        handles = [(0.0, 0.0), (8.0, 0.0), (100.0, 0.0)]
        self.assertEqual(nearest_handle((6.0, 0.0), handles, 11), 1)
        self.assertIsNone(nearest_handle((50.0, 0.0), handles, 11))
        self.assertIsNone(nearest_handle((0.0, 0.0), [], 11))


class Plans(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.scratch = tempfile.TemporaryDirectory()
        cls.shop = make_demo(Path(cls.scratch.name) / "D.grainet")
        cls.design = next(d for d in cls.shop.designs() if d.id == "merrow")
        cls.job = cls.shop.jobs.job_for([cls.design])
        cls.plan = planned(cls.job)

    @classmethod
    def tearDownClass(cls):
        cls.shop.close()
        cls.scratch.cleanup()

    def test_the_shares_are_all_of_the_wood(self):
        found = dict(plan_view.shares(self.job, self.plan))
        self.assertAlmostEqual(sum(found.values()), 1, places=9)
        self.assertTrue({self.job.part(p.part).letter for p in self.plan.placements} <= found.keys())
        self.assertLessEqual(set(found) - plan_view.REST_NAMES, {p.letter for p in self.job.parts})

    def test_worth_and_refusals_are_said(self):
        self.assertIn("Worth 170 of at most 170 over every way there is", plan_view.worth(self.plan))
        self.assertEqual(plan_view.worth(self.plan.changed(placements=(), cuts=())), "Nothing could be laid")
        several = self.plan.changed(builds={"a": "as drawn", "b": "as drawn", "c": "halves of one board"})
        self.assertTrue(plan_view.worth(several).startswith("2 builds as drawn, one halves of one board.  Worth"))
        self.assertIn("see what was refused", plan_view.summary(self.plan.changed(builds={})))
        every, near = plan_view.refusals(self.job, self.plan), plan_view.near_refusals(self.job, self.plan)
        self.assertGreater(len(every), len(near))
        self.assertEqual(plan_view.near_refusals(self.job, self.plan.changed(refused=())), ["nothing"])

    def test_one_reason_of_several_parts_and_boards_is_said_once(self):
        one, two = self.job.parts[0], self.job.parts[1]
        refused = [
            Refusal(part=part.id, piece=board, code="moisture", why=why)
            for board, part, why in (
                ("1", one, "too wet"),
                ("1", two, "too wet"),
                ("2", one, "too wet"),
                ("2", two, "too wet"),
                ("2", one, "no"),
            )
        ]
        letters = f"{one.letter}, {two.letter}"
        told = plan_view.near_refusals(self.job, self.plan.changed(refused=tuple(refused)))
        self.assertEqual(told, [f"{letters} on 1, 2: too wet", f"{one.letter} on 2: no"])


class Stations(unittest.TestCase):
    def test_an_empty_shop_and_one_with_work(self):
        with tempfile.TemporaryDirectory() as scratch:
            with Shop.open(Path(scratch) / "E.grainet", create=True) as shop:
                lines = station_lines(shop, None, None, planned=False, waiting=0)
                self.assertEqual((lines["bring_in"].text, lines["bring_in"].waits), ("start here", True))
                self.assertEqual(lines["saw_and_wait"].text, "nothing laid out")
            with make_demo(Path(scratch) / "D.grainet") as shop:
                design = next(d for d in shop.designs() if d.id == "plover")
                lines = station_lines(shop, shop.piece("1"), design.id, planned=False, waiting=3)
                self.assertTrue(lines["lay_out"].text.endswith("not planned"))
                self.assertTrue(lines["lay_out"].waits)
                job = shop.jobs.job_for([design])
                shop.plans.accept(design, job, planned(job))
                lines = station_lines(shop, shop.piece("1"), design.id, planned=False, waiting=3)
                self.assertFalse(lines["lay_out"].waits)
                self.assertRegex(lines["saw_and_wait"].text, r"\d+ cuts$")
                self.assertTrue(all(len(line.text) <= MOST_LETTERS + 8 for line in lines.values()))
