"""The solid-wood model: crops equal the whole, neighbouring planes are mates, species groups look apart."""

import unittest

import numpy as np

from grainet.demo.rack import rack
from grainet.picture.of_piece import end_picture, face_picture, plane_picture
from grainet.picture.solid import LOOKS, Block, Knot, look_of, paint_face


class Solid(unittest.TestCase):
    block = Block(5, LOOKS["ash"], 200, 40, 35, knots=(Knot(300, 100, 15, 30),))

    def test_any_tile_equals_the_crop_of_the_whole_and_repeats(self):
        xs, ys = np.arange(0, 600, 1.0), np.arange(0, 200, 1.0)
        whole = paint_face(self.block, xs, ys, 3.0)
        tile = paint_face(self.block, xs[250:400], ys[50:120], 3.0)
        self.assertTrue(np.array_equal(whole[50:120, 250:400], tile))
        self.assertTrue(np.array_equal(whole, paint_face(self.block, xs, ys, 3.0)))

    def test_leaves_a_kerf_apart_are_mates_and_far_ones_are_not(self):
        xs, ys = np.arange(0, 900, 2.0), np.arange(0, 200, 2.0)

        def smooth(z):
            image = paint_face(Block(5, LOOKS["ash"], 200, 40, 60), xs, ys, z).astype(float).mean(axis=2)
            return image.reshape(50, 2, 450).mean(axis=1).reshape(50, 45, 10).mean(axis=2)

        near, far = (np.corrcoef(smooth(10).ravel(), smooth(z).ravel())[0, 1] for z in (10.4, 30))
        self.assertGreater(near, far + 0.1)

    def test_a_knot_shows_only_as_deep_as_it_goes(self):
        xs, ys = np.arange(285, 316, 1.0), np.arange(85, 116, 1.0)
        plain = Block(5, LOOKS["ash"], 200, 40, 35)
        shallow = np.abs(paint_face(self.block, xs, ys, 0).astype(int) - paint_face(plain, xs, ys, 0)).mean()
        deep = np.abs(paint_face(self.block, xs, ys, 38).astype(int) - paint_face(plain, xs, ys, 38)).mean()
        self.assertGreater(shallow, 2.5 * deep)

    def test_species_groups_are_told_apart_by_colour(self):
        means = {name: face_picture(p, "1", 0.2).reshape(-1, 3).mean(axis=0) for p in rack() for name in [p.species]}
        names = list(means)
        for a in names:
            for b in names:
                if look_of(a) != look_of(b):
                    self.assertGreater(np.abs(means[a] - means[b]).sum(), 6, (a, b))

    def test_all_sides_of_the_demo_rack_paint(self):
        for piece in rack():
            x0, y0, x1, y1 = piece.extents
            face = face_picture(piece, "1", 0.5)
            self.assertEqual(
                face.shape[:2], (round((y1 - y0) * 0.5), round((x1 - x0) * 0.5)) if (x1 - x0) * 0.5 < 2400 else face.shape[:2]
            )
            self.assertGreater(face.std(), 1.5)
            self.assertEqual(end_picture(piece).shape[1], round(y1 - y0))
        self.assertFalse(np.array_equal(plane_picture(rack()[10], 9.0), plane_picture(rack()[10], 18.0)))
