"""Sawing: what straight cuts can part (against brute force), cuts that replay, offcuts worth keeping, the wood balance."""

import itertools
import unittest

import numpy as np
from shapely.geometry import Polygon, box

from grainet.fit.board_geometry import BoardGeometry
from grainet.fit.exact import Exact, ExactPlacement
from grainet.fit.orientation import orientations_of
from grainet.plan.candidates import Candidate
from grainet.plan.sawing import CannotSaw, kerf_band, saw, separable, whole_volume, worth_keeping
from grainet.plan.selection import smallest_bad
from tests.jobs import SAW, half_ring, job, part, piece


def laid(made, *places):
    """A sheet and candidates of the job's first piece at (part index, x, y)."""
    sheet = BoardGeometry(made.pieces[0], made.kit)
    found = []
    for index, x, y in places:
        orientation = orientations_of(made.parts[index])[0]
        seat = Exact(sheet, orientation).seat(x, y)
        assert isinstance(seat, ExactPlacement), seat
        found.append(Candidate(made.parts[index], made.pieces[0].id, orientation, seat))
    return sheet, found


def brute_separable(boxes, along, across):
    """Every cut line at every side, by recursion over all subsets: slow and plain."""
    if len(boxes) < 2:
        return True
    for axis, kerf in ((0, along), (1, across)):
        for at in {b[axis + 2] for b in boxes}:
            low = [b for b in boxes if b[axis + 2] <= at + 1e-9]
            high = [b for b in boxes if b[axis] >= at + kerf - 1e-9]
            if low and high and len(low) + len(high) == len(boxes):
                if brute_separable(low, along, across) and brute_separable(high, along, across):
                    return True
    return False


class Separable(unittest.TestCase):
    PINWHEEL = [(0, 0, 60, 30), (63, 0, 93, 60), (33, 63, 93, 93), (0, 33, 30, 93)]

    def test_a_pinwheel_is_locked_and_any_three_of_it_are_not(self):
        self.assertFalse(separable(self.PINWHEEL, 3, 3))
        for three in itertools.combinations(self.PINWHEEL, 3):
            self.assertTrue(separable(three, 3, 3))
        self.assertEqual(len(smallest_bad(range(4), lambda g: not separable([self.PINWHEEL[k] for k in g], 3, 3))), 4)

    def test_random_boxes_against_brute_force(self):
        seen = set()
        for seed in range(150):
            r = np.random.default_rng(seed)
            boxes = []
            for _ in range(40):
                x, y, w, h = r.integers(0, 120), r.integers(0, 120), r.integers(15, 70), r.integers(15, 70)
                one = (int(x), int(y), int(x + w), int(y + h))
                if all(one[0] >= b[2] + 2 or b[0] >= one[2] + 2 or one[1] >= b[3] + 2 or b[1] >= one[3] + 2 for b in boxes):
                    boxes.append(one)
            boxes = boxes[:6]
            wanted = brute_separable(boxes, 2, 2)
            self.assertEqual(separable(boxes, 2, 2), wanted, (seed, boxes))
            seen.add(wanted)
        self.assertEqual(seen, {True, False})


class Cuts(unittest.TestCase):
    def test_straight_cuts_free_every_box_and_the_balance_closes(self):
        made = job([piece("A", 700, 200, 30)], [part()], {**SAW, "cutting": "straight", "skim_mm": 0.5})
        sheet, members = laid(made, (0, 0, 0), (0, 0, 93), (0, 303, 0))
        done = saw(sheet, members)
        self.assertEqual(set(done.freed), {(0, 1), (1, 1), (2, 1)})
        self.assertAlmostEqual(done.shares(whole_volume(sheet)).total, 1, places=6)
        self.assertTrue(all(c.tool in ("crosscut", "rip", "resaw") for c in done.cuts))

    def test_a_locked_layout_cannot_be_sawn_straight_but_along_outlines(self):
        parts = [part("a", 60, 30), part("b", 30, 60)]
        for cutting in ("straight", "outline"):
            made = job([piece("A", 93, 93, 20)], parts, {**SAW, "cutting": cutting})
            sheet, members = laid(made, (0, 0, 0), (1, 63, 0), (0, 33, 63), (1, 0, 33))
            if cutting == "straight":
                with self.assertRaises(CannotSaw) as caught:
                    saw(sheet, members)
                self.assertEqual(len(caught.exception.members), 4)
            else:
                self.assertEqual(len(saw(sheet, members).freed), 4)

    def test_an_outline_cut_comes_in_from_the_edge_and_harms_no_part(self):
        half = {"id": "h", "outline": half_ring(), "thickness_mm": 28}
        made = job([piece("A", 700, 240, 30)], [half], SAW)
        sheet, members = laid(made, (0, 60, 30))
        done = saw(sheet, members)
        cut = next(c for c in done.cuts if c.tool == "outline")
        band = kerf_band(cut.line, 3)
        self.assertLess(band.intersection(members[0].polygon.buffer(-0.02)).area, 1e-3)
        hand = Polygon(made.pieces[0].outline)
        for trim in done.cuts[: done.cuts.index(cut)]:  # what the straight trims left of the board
            at = trim.line[0][0] if trim.tool == "crosscut" else trim.line[0][1]
            side = (-9, -9, at - 1.5, 999) if trim.tool == "crosscut" else (-9, -9, 999, at - 1.5)
            other = (at + 1.5, -9, 999, 999) if trim.tool == "crosscut" else (-9, at + 1.5, 999, 999)
            hand = max((hand & box(*side), hand & box(*other)), key=lambda g: g.intersection(members[0].polygon).area)
        left = hand - band
        self.assertEqual(len(left.geoms), len(cut.gives))
        self.assertTrue(all(not g.interiors for g in left.geoms), "the blade came in from an edge")

    def test_the_cut_beside_a_shaped_part_makes_the_rectangle_s_end(self):
        """Between a half and a rectangle a cut that lies at the half would leave a sliver to be crosscut once more."""
        made = job(
            [piece(length=1000, width=175)], [{"id": "h", "outline": half_ring(), "thickness_mm": 20}, part(width=170)], SAW
        )
        for half, rectangle in ((0.0, 474.5), (500.0, 196.3)):
            sheet, found = laid(made, (0, half, 0), (1, rectangle, 0))
            done = saw(sheet, found)
            between = 470.0 + 4.5 - 1.5 if half == 0.0 else 500.0 - 3.7 + 1.5
            crosscuts = sorted(cut.line[0][0] for cut in done.cuts if cut.tool == "crosscut")
            with self.subTest(half=half):
                self.assertEqual(len(crosscuts), 2, crosscuts)
                self.assertAlmostEqual(min(abs(x - between) for x in crosscuts), 0.0, delta=1e-6)

    def test_strips_side_by_side_leave_one_block_and_not_an_end_of_each(self):
        made = job([piece("A", 1100, 110, 30)], [part("strip", 630, 23)], kit=SAW)
        sheet, found = laid(made, *((0, 4, y) for y in (1, 27.5, 54, 80.5)))
        sawn = saw(sheet, found)
        kept = [Polygon(o.polygon).bounds for o in sawn.offcuts if o.keep]
        self.assertEqual([tuple(round(v) for v in b) for b in kept], [(637, 0, 1100, 110)])
        self.assertEqual([c.tool for c in sawn.cuts].count("crosscut"), 2, "each end once, for all of them")
        self.assertAlmostEqual(
            sawn.kerf_mm3 + sawn.parts_mm3 + sawn.offcut_mm3 + sawn.waste_mm3 + sawn.skims_mm3, whole_volume(sheet), delta=1
        )

    def test_a_long_side_is_kept_long_where_that_is_more_wood(self):
        made = job([piece("A", 1100, 200, 30)], [part("b", 240, 80)], kit=SAW)
        sheet, found = laid(made, (0, 4, 4), (0, 260, 4), (0, 520, 4), (0, 780, 4))
        kept = [Polygon(o.polygon).bounds for o in saw(sheet, found).offcuts if o.keep]
        self.assertIn(1100, [round(b[2] - b[0]) for b in kept])

    def test_no_cut_comes_near_live_metal(self):
        nail = {"id": "m1", "kind": "nail", "polygon": [[350, 150], [354, 150], [354, 154], [350, 154]]}
        made = job([piece("A", 700, 200, 30, defects=[nail])], [part()], {**SAW, "cutting": "straight", "metal_clear_mm": 15})
        sheet, members = laid(made, (0, 0, 0), (0, 395, 0))
        done = saw(sheet, members)
        metal = box(350, 150, 354, 154)
        for cut in done.cuts:
            (x0, y0), (x1, y1) = cut.line[0], cut.line[-1]
            self.assertGreaterEqual(
                box(min(x0, x1) - 1.5, min(y0, y1) - 1.5, max(x0, x1) + 1.5, max(y0, y1) + 1.5).distance(metal), 13.4
            )

    def test_a_thick_rest_under_a_thin_part_is_sawn_off_and_kept(self):
        made = job([piece("A", 400, 120, 40)], [part(thickness=7)], {**SAW, "skim_mm": 0.5})
        sheet, members = laid(made, (0, 0, 0))
        done = saw(sheet, members)
        rest = [o for o in done.offcuts if o.depth_mm > 0 and o.keep]
        self.assertTrue(rest)
        self.assertAlmostEqual(rest[0].thickness_mm + rest[0].depth_mm, 40, places=6)
        low = job([piece("A", 400, 120, 40)], [part(thickness=7)], {**SAW, "machines": {"resaw_height_mm": 50}})
        sheet, members = laid(low, (0, 0, 0))
        self.assertFalse(any(c.tool == "resaw" for c in saw(sheet, members).cuts), "the saw does not reach that high")

    def test_tapered_boards_balance_too(self):
        stations = [{"x_mm": x, "y_mm": y, "thickness_mm": 40 - x / 100 + y / 50} for x in (0, 700) for y in (0, 200)]
        tapered = {"id": "A", "outline": [[0, 0], [700, 20], [700, 190], [0, 200]], "stations": stations}
        made = job([tapered], [part()], SAW)
        sheet, members = laid(made, (0, 20, 40), (0, 340, 40))
        self.assertAlmostEqual(saw(sheet, members).shares(whole_volume(sheet)).total, 1, delta=0.002)


class Keeping(unittest.TestCase):
    def test_what_is_worth_keeping(self):
        self.assertTrue(worth_keeping(box(0, 0, 400, 60), 20))
        self.assertTrue(worth_keeping(box(0, 0, 150, 30), 20))
        self.assertFalse(worth_keeping(box(0, 0, 400, 25), 20), "too narrow")
        self.assertFalse(worth_keeping(box(0, 0, 120, 60), 20), "too short")
        self.assertFalse(worth_keeping(box(0, 0, 400, 60), 2), "too thin")
        frame = box(0, 0, 400, 200) - box(20, 20, 380, 180)
        self.assertFalse(worth_keeping(frame, 20), "only rims are left")
