"""The known-truth photographs themselves: maps that invert, marks where they belong, and the board found to begin from."""

import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from grainet.picture.board_quad import board_quad
from grainet.picture.lattice import Plane, solid_noise
from grainet.picture.rectify import fit, warp
from grainet.picture.scene import Camera, photograph, true_map
from grainet.picture.solid import Block, climb_of, look_of, paint_face
from tools import accuracy

RECT = (0.0, 0.0, 900.0, 180.0)


class Maps(unittest.TestCase):
    @given(st.floats(-25, 25), st.floats(-20, 20), st.floats(-6, 6), st.floats(-0.08, 0.05))
    @settings(max_examples=30, deadline=None)
    def test_places_and_pixels_are_inverse_and_in_view(self, pitch, yaw, roll, lens):
        camera = Camera(1200, 600, pitch, yaw, roll, lens)
        true = true_map(camera, RECT)
        places = np.random.default_rng(1).uniform((0, 0), (900, 180), (50, 2))
        px = true.to_px(places)
        np.testing.assert_allclose(true.to_mm(px), places, atol=0.05)
        margin = 0.12 * 1200
        self.assertTrue(((px > -margin) & (px < np.array(true.size) + margin)).all())

    @given(st.floats(-20, 20), st.floats(-15, 15), st.floats(-0.06, 0.04), st.integers(4, 10))
    @settings(max_examples=25, deadline=None)
    def test_a_fit_to_exact_points_is_exact(self, pitch, yaw, lens, extra):
        true = true_map(Camera(2400, 1100, pitch, yaw, 1.0, lens), RECT)
        places = accuracy.corners_of(900, 180) + [(900 * (k + 1) / (extra + 1), 180.0 * (k % 2), True) for k in range(extra)]
        found = fit(accuracy.clicked(true, places, np.random.default_rng(0), 0.0), true.size)
        self.assertLess(found.miss_mm, 0.6)
        grid = np.stack(np.meshgrid(np.linspace(0, 900, 7), np.linspace(0, 180, 4)), -1).reshape(-1, 2)
        self.assertLess(np.hypot(*(found.to_mm(true.to_px(grid)) - grid).T).max(), 1.5)

    def test_a_dot_on_the_board_is_where_the_map_says(self):
        picture = np.full((180, 900, 3), 160, np.uint8)
        picture[180 - 60 - 3 : 180 - 60 + 3, 400 - 3 : 400 + 3] = (250, 20, 20)  # at (400, 60) mm
        photo, true = photograph(picture, RECT, replace(Camera(), grain=0.0))
        x, y = true.to_px(np.array([(400.0, 60.0)]))[0]
        red = photo[..., 0].astype(int) - photo[..., 1]
        rows, columns = np.nonzero(red > 100)
        self.assertAlmostEqual(columns.mean() + 0.5, x, delta=1.0)
        self.assertAlmostEqual(rows.mean() + 0.5, y, delta=1.0)

    def test_laying_square_undoes_the_photograph(self):
        one = Block(5, look_of("European ash"), 180, 30)
        picture = accuracy.face(one, 900)
        photo, true = photograph(picture, RECT, replace(Camera(2400, 900), grain=0.0))
        back = warp(photo, true, RECT, 1 / accuracy.STEP)
        rows, columns = min(back.shape[0], picture.shape[0]), min(back.shape[1], picture.shape[1])
        a, b = (x[4 : rows - 4, 4 : columns - 4].astype(float).mean(axis=2).ravel() for x in (back, picture))
        self.assertGreater(np.corrcoef(a, b)[0, 1], 0.9)

    def test_the_large_photo_is_shrunk_before_it_is_warped(self):
        """Fine stripes of a large photo average out; they must not turn into coarse ones."""
        picture = np.zeros((720, 3600, 3), np.uint8)
        picture[:, ::2] = 255
        true = true_map(Camera(3600, 900, 0, 0, 0, fill=1.0), RECT)
        photo, _ = photograph(picture, RECT, Camera(3600, 900, 0, 0, 0, grain=0.0, fill=1.0))
        small = warp(photo, true, RECT, 0.25)
        self.assertLess(small[10:-10, 10:-10].astype(float).std(), 40)


class Quads(unittest.TestCase):
    def test_the_board_is_found_to_begin_from(self):
        for seed, wood in enumerate(("walnut", "Sugar maple", "European ash", "sycamore", "rosewood")):
            picture = accuracy.face(Block(seed, look_of(wood), 180, 30), 900)
            rect = (-40.0, -40.0, 940.0, 220.0)
            pad = round(40 / accuracy.STEP)
            flat = np.full((picture.shape[0] + 2 * pad, picture.shape[1] + 2 * pad, 3), 128, np.uint8)
            flat[pad:-pad, pad:-pad] = picture
            mask = np.zeros(flat.shape[:2], bool)
            mask[pad:-pad, pad:-pad] = True
            photo, true = photograph(flat, rect, Camera(), seed, mask)
            quad = board_quad(photo)
            with self.subTest(wood):
                self.assertIsNotNone(quad)
                wanted = true.to_px(np.array([(0.0, 180.0), (900.0, 180.0), (900.0, 0.0), (0.0, 0.0)]))
                self.assertLess(np.hypot(*(np.array(quad) - wanted).T).max(), 30, "near enough to drag from")

    def test_nothing_stands_out_of_a_blank_picture(self):
        self.assertIsNone(board_quad(np.full((300, 500, 3), 128, np.uint8)))


class Model(unittest.TestCase):
    def test_solid_noise_is_one_thing_on_every_plane_through_a_place(self):
        x, y, z = (np.arange(0, n, 0.7, dtype=np.float32) for n in (90, 40, 30))
        climb, cell = np.sin(x / 20).astype(np.float32) * 3, (11, 0.9, 1.3)
        face = solid_noise(Plane(x, y, float(z[9])), cell, 5, climb)
        edge = solid_noise(Plane(x, float(y[14]), z), cell, 5, climb)
        end = solid_noise(Plane(float(x[30]), y, z), cell, 5, climb[30])
        np.testing.assert_allclose(face[14], edge[9], atol=1e-4)
        np.testing.assert_allclose(face[:, 30], end[9], atol=1e-4)
        np.testing.assert_allclose(edge[:, 30], end[:, 14], atol=1e-4)

    def test_any_tile_equals_the_crop_with_a_slope_too(self):
        one = Block(9, look_of("oak"), 200, 40, slope_deg=3.0)
        xs, ys = np.arange(0, 300, 1.0) + 0.5, np.arange(0, 120, 1.0) + 0.5
        whole = paint_face(one, xs, ys, 0.0)
        tile = paint_face(one, xs[90:170], ys[30:80], 0.0)
        self.assertLessEqual(np.abs(whole[30:80, 90:170].astype(int) - tile).max(), 1)

    def test_the_fibres_follow_what_the_block_says(self):
        flat, steep = (climb_of(Block(3, look_of("maple"), 180, 30, slope_deg=s), np.array([0.0, 500.0])) for s in (0.0, 4.0))
        self.assertAlmostEqual(float((steep - flat)[1]), 500 * np.tan(np.radians(4)), delta=0.01)

    def test_cracks_are_painted_where_they_lie(self):
        crack = ((100.0, 60.0), (200.0, 62.0), (260.0, 58.0))
        xs, ys = np.arange(0, 300, 1.0) + 0.5, np.arange(0, 120, 1.0) + 0.5
        plain, cracked = (
            paint_face(Block(7, look_of("ash"), 120, 30, cracks=c), xs, ys, 0.0).astype(int) for c in ((), (crack,))
        )
        changed = np.abs(plain - cracked).sum(axis=2) > 30
        rows, columns = np.nonzero(changed)
        self.assertTrue(((columns >= 98) & (columns <= 262)).all())
        self.assertTrue((np.abs(rows - 60) < 6).all())
        self.assertGreater(len(rows), 120)
