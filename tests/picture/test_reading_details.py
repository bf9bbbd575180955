"""Details of reading pictures: signs, extents, near piths, closed gaps, edges by readings, and suggestions in the piece's own axes."""

import unittest
from dataclasses import replace

import numpy as np

from grainet.picture.board_edge import BoardEdges
from grainet.picture.end_grain import end_grain
from grainet.picture.figure import figure_of
from grainet.picture.grain import slope_of_grain
from grainet.picture.reading import side_rect, squared, suggestions_of
from grainet.picture.registration import register
from grainet.picture.solid import Block, look_of, paint_end
from grainet.picture.straightedge import gap_under, winding_angle
from grainet.picture.troubles import troubles_of
from grainet.session.commands.line import read
from grainet.wood.photo import Photo, TruePoint
from grainet.wood.piece import Piece
from grainet.wood.value import BadEntry
from tools import accuracy

BOARD = read("plank 900x180x40 white ash", Piece(id="1"), 0, "mm", "").piece


def lines(angle_deg, rows=240, columns=700, period=5.0):
    """A picture of straight lines that climb to the right by an angle, row 0 above."""
    x, y = np.meshgrid(np.arange(columns), np.arange(rows)[::-1])
    phase = (y - x * np.tan(np.radians(angle_deg))) / period
    tone = 128 + 60 * np.sin(2 * np.pi * phase) + np.random.default_rng(1).normal(0, 4, x.shape)
    return np.repeat(np.clip(tone, 0, 255).astype(np.uint8)[..., None], 3, axis=2)


class Grain(unittest.TestCase):
    def test_lines_of_known_slope_to_a_tenth_of_a_degree(self):
        for angle in (-6.0, -1.0, 0.0, 2.5, 7.0):
            with self.subTest(angle):
                found = slope_of_grain(lines(angle, period=2.6), 2.0)
                self.assertAlmostEqual(found.slope_deg, angle, delta=0.35)
                self.assertGreater(found.confidence, 0.5)

    def test_turned_end_for_end_it_stays_and_seen_from_behind_it_turns(self):
        picture = lines(3.0, period=2.6)
        self.assertAlmostEqual(slope_of_grain(picture[::-1, ::-1].copy(), 2.0).slope_deg, 3.0, delta=0.4)
        self.assertAlmostEqual(slope_of_grain(picture[::-1].copy(), 2.0).slope_deg, -3.0, delta=0.4)

    def test_too_small_a_picture_is_said(self):
        with self.assertRaisesRegex(ValueError, "needs 120 x 40"):
            slope_of_grain(lines(0, 30, 100), 1.0)


class Figure(unittest.TestCase):
    def waves(self, length=700, start=0, end=700, wave=12.0, lean=0.0, contrast=0.12):
        one = Block(4, look_of("maple"), 180, 30)
        picture = accuracy.face(one, length).astype(float)
        x = (np.arange(picture.shape[1]) + 0.5) * accuracy.STEP
        y = (np.arange(picture.shape[0])[::-1] + 0.5) * accuracy.STEP
        swing = (
            1
            + contrast
            * np.sin(2 * np.pi * (x[None, :] - np.tan(np.radians(lean)) * y[:, None]) / wave)
            * ((x >= start) & (x <= end))[None, :]
        )
        return np.clip(picture * swing[..., None], 0, 255).astype(np.uint8)

    def test_wavelength_strength_and_lean_of_known_waves(self):
        for wave, lean in ((8.0, 0.0), (14.0, 12.0), (20.0, -8.0)):
            found = figure_of(self.waves(wave=wave, lean=lean), 1 / accuracy.STEP)
            with self.subTest(wave):
                self.assertTrue(found.figured)
                self.assertAlmostEqual(found.wavelength_mm, wave, delta=0.08 * wave)
                self.assertAlmostEqual(abs(found.angle_deg), abs(lean), delta=4)
                self.assertAlmostEqual(found.strength, 0.12 / 0.16, delta=0.15)

    def test_its_extent_is_where_the_waves_are(self):
        found = figure_of(self.waves(start=350, end=700, contrast=0.16), 1 / accuracy.STEP)
        self.assertTrue(found.figured)
        self.assertAlmostEqual(found.extent_mm[0], 350, delta=60)
        self.assertGreater(found.extent_mm[2], 650)

    def test_coarse_blotches_are_not_figure(self):
        self.assertFalse(figure_of(self.waves(wave=60.0), 1 / accuracy.STEP).figured)


class Ends(unittest.TestCase):
    def test_a_near_pith_is_found_and_quarter_and_flat_are_told_apart(self):
        for angle in (8.0, 84.0):
            one = Block(12, look_of("spruce"), 60, 60, angle)
            image = paint_end(one, np.arange(0, 60, 0.4) + 0.2, np.arange(0, 60, 0.4) + 0.2, 0.0)
            self.assertAlmostEqual(end_grain(image, 2.5).angle_deg, accuracy.true_angle(one), delta=4)

    def test_mirroring_the_end_keeps_the_angle(self):
        one = Block(31, look_of("ash"), 120, 45, 35.0)
        image = paint_end(one, np.arange(0, 120, 0.5) + 0.25, np.arange(0, 45, 0.5) + 0.25, 0.0)
        plain = end_grain(image, 2.0).angle_deg
        for turned in (image[:, ::-1], image[::-1], image[::-1, ::-1]):
            self.assertAlmostEqual(end_grain(turned.copy(), 2.0).angle_deg, plain, delta=1.0)

    def test_a_sliver_is_too_small(self):
        with self.assertRaisesRegex(ValueError, "too small"):
            end_grain(np.zeros((10, 200, 3), np.uint8), 3.0)


class Edges(unittest.TestCase):
    def test_readings_are_even_and_in_order(self):
        u = np.linspace(0, 1000, 501)
        edges = BoardEdges(u, 20 + 0.01 * u, 180 - 0.02 * u, 0.9)
        rows = edges.readings(5)
        self.assertEqual([r[0] for r in rows], [0, 250, 500, 750, 1000])
        self.assertEqual(rows[2], (500, 25.0, 170.0))


class Straightedges(unittest.TestCase):
    def test_a_closed_gap_or_a_hollow_one(self):
        photo, left, right, length = accuracy.straightedge_photo(3, 0.15, accuracy.Camera(2400, 700, 3, 2, 1))
        try:
            self.assertLess(gap_under(photo, left, right, length).bow_mm, 0.5)
        except BadEntry as fault:
            self.assertIn("No gap", str(fault))

    def test_the_scale_is_the_straightedge_s_length(self):
        photo, left, right, length = accuracy.straightedge_photo(2, 4.0, accuracy.Camera(2400, 700, 3, 2, 1))
        one, two = gap_under(photo, left, right, length), gap_under(photo, left, right, 2 * length)
        self.assertAlmostEqual(two.bow_mm, 2 * one.bow_mm, delta=0.3)

    def test_winding_sticks(self):
        self.assertAlmostEqual(
            winding_angle(((0, 0), (1000, 0)), ((100, -50), (900, -50 + 800 * np.tan(np.radians(1.2))))), 1.2, places=3
        )
        self.assertAlmostEqual(winding_angle(((0, 0), (1000, 20)), ((100, -50), (900, -34))), 0.0, places=3)
        with self.assertRaisesRegex(BadEntry, "far stick"):
            winding_angle(((0, 0), (1000, 0)), ((0, 0), (50, 0)))


class Troubles(unittest.TestCase):
    def test_outlines_lie_in_the_picture_and_do_not_overlap(self):
        knots = tuple(accuracy.Knot(150.0 + 200 * k, 60.0 + 30 * k, 12.0, 99.0) for k in range(3))
        picture = accuracy.face(Block(6, look_of("maple"), 180, 30, knots=knots), 800)
        found = troubles_of(picture, 1 / accuracy.STEP)
        self.assertGreaterEqual(len(found), 3)
        self.assertEqual([s.confidence for s in found], sorted((s.confidence for s in found), reverse=True))
        for spot in found:
            xs, ys = zip(*spot.ring)
            self.assertTrue(min(xs) > -10 and max(xs) < 810 and min(ys) > -10 and max(ys) < 190)
        for knot in knots:
            self.assertTrue(
                any(
                    abs(np.mean([x for x, _ in s.ring]) - knot.x) < 6 and abs(np.mean([y for _, y in s.ring]) - knot.y) < 6
                    for s in found
                )
            )

    def test_a_crowd_is_capped(self):
        rng = np.random.default_rng(3)
        picture = np.full((300, 1200, 3), 190, np.uint8)
        for _ in range(80):
            x, y = rng.integers(20, 1180), rng.integers(20, 280)
            picture[y - 6 : y + 6, x - 6 : x + 6] = (60, 40, 30)
        self.assertLessEqual(len(troubles_of(picture, 1.0, most=12)), 12)


class Sides(unittest.TestCase):
    def photo(self, side, size, shape=(300, 1200)):
        corners = (
            ((0, size[1]), (size[0], size[1]), (size[0], 0), (0, 0))
            if side.startswith("face")
            else ((0, 0), (size[0], 0), (size[0], size[1]), (0, size[1]))
        )
        pixels = ((0, 0), (shape[1], 0), (shape[1], shape[0]), (0, shape[0]))
        points = tuple(TruePoint(px=x, py=y, u_mm=u, v_mm=v) for (x, y), (u, v) in zip(pixels, corners))
        return Photo(side=side, sha="0" * 64, width_px=shape[1], height_px=shape[0], points=points)

    def test_rectangles_of_the_sides(self):
        self.assertEqual(side_rect(BOARD, "face1"), (0, 0, 900, 180))
        self.assertEqual(side_rect(BOARD, "near_edge"), (0, 0, 900, 40))
        self.assertEqual(side_rect(BOARD, "far_end"), (0, 0, 180, 40))

    def test_the_far_edge_is_above_on_faces_and_face_1_above_on_edges(self):
        image = np.zeros((300, 1200, 3), np.uint8)
        image[:150] = 200
        for side, size in (("face1", (900, 180)), ("near_edge", (900, 40))):
            flat, _, _ = squared(image, BOARD, self.photo(side, size))
            self.assertGreater(flat[: len(flat) // 3].mean(), 150, side)
            self.assertLess(flat[-len(flat) // 3 :].mean(), 50, side)

    def test_a_shift_moves_what_is_seen(self):
        image = np.zeros((300, 1200, 3), np.uint8)
        image[:, 600:608] = 255  # a line at x = 450
        photo = self.photo("face2", (900, 180))
        for dx in (0.0, 12.0, -20.0):
            flat, _, scale = squared(image, BOARD, replace_shift(photo, dx))
            column = float(np.argmax(flat.mean(axis=(0, 2)))) / scale
            self.assertAlmostEqual(column, 453 + dx, delta=4)

    def test_the_marked_and_the_far_end_are_told_apart(self):
        one = Block(8, look_of("oak"), 180, 40, 40.0)
        image = paint_end(one, np.linspace(0.1, 179.9, 1200), np.linspace(0.1, 39.9, 300), 0.0)
        for side, end in (("marked_end", 0), ("far_end", 1)):
            (found,) = suggestions_of(image, BOARD, self.photo(side, (180, 40)))
            self.assertEqual((found.what, found.figures[1]), ("rings", end))
            self.assertAlmostEqual(found.figures[0], accuracy.true_angle(one), delta=5)

    def test_marks_off_the_wood_are_left_out(self):
        slab = read("e 90 90 40 90 90 90", BOARD.changed(kind="slab"), 0, "mm", "").piece
        image = accuracy.face(
            Block(5, look_of("maple"), 180, 30, knots=(accuracy.Knot(450.0, 165.0, 9.0, 99.0),)), 900, step=0.75
        )
        found = suggestions_of(image, slab, self.photo("face1", (900, 180), image.shape[:2]))
        self.assertFalse([s for s in found if s.what == "defect" and abs(s.middle[0] - 450) < 15 and s.middle[1] > 150])


def replace_shift(photo, dx):
    return photo.changed(shift_mm=(dx, 0.0))


class Registering(unittest.TestCase):
    def test_the_shift_that_most_marks_agree_on(self):
        rng = np.random.default_rng(8)
        front = [(float(x), float(y)) for x, y in rng.uniform((0, 0), (2000, 200), (6, 2))]
        back = [(x - 7.0, y + 3.0) for x, y in front[:4]] + [(1234.0, 20.0)]
        found = register(front, back, 200.0)
        self.assertEqual(found.pairs, 4)
        self.assertAlmostEqual(found.shift_mm[0], 7, delta=0.5)
        self.assertAlmostEqual(found.shift_mm[1], -3, delta=0.5)
        self.assertIsNone(register([], back, 200.0))

    def test_one_pair_far_away_is_none(self):
        self.assertIsNone(register([(100.0, 100.0)], [(300.0, 100.0)], 200.0))


class Looks(unittest.TestCase):
    def test_curl_is_told_from_plain_at_every_strength_over_a_third(self):
        for curl in (0.35, 0.7):
            one = Block(77, look_of("maple"), 180, 30)
            one = replace(one, look=replace(one.look, curl=curl))
            self.assertTrue(figure_of(accuracy.face(one, 600), 1 / accuracy.STEP).figured)
