"""The solid-wood model: crops equal the whole, neighbouring planes are mates, species groups look apart."""

import unittest
from dataclasses import replace

import numpy as np

from grainet.demo.rack import rack
from grainet.match.likeness import likeness
from grainet.picture.figure import figure_of
from grainet.picture.of_piece import end_picture, face_picture, plane_picture
from grainet.picture.solid import LOOKS, Block, Knot, Nail, look_of, paint_edge, paint_end, paint_face


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

    def test_no_depth_is_unlike_the_next(self):
        xs, ys = np.arange(0, 400, 1.0), np.arange(0, 200, 1.0)
        for depth in (10.0, 20.0, 39.99, 40.0, 80.0):
            below, above = (paint_face(self.block, xs, ys, depth + d).astype(float).ravel() for d in (-0.05, 0.05))
            self.assertGreater(np.corrcoef(below, above)[0, 1], 0.95, depth)

    def test_face_edge_and_end_meet_along_their_arrises(self):
        for wood in ("walnut", "ash", "spruce"):
            block = Block(5, LOOKS[wood], 200, 60, 40, 2.0, (Knot(120, 10, 14, 40),), (Nail(300, 4, 25),), (((60, 0), (250, 3)),))
            xs, ys, zs = np.arange(0, 500, 1.0), np.arange(0, 200, 1.0), np.arange(0, 60, 1.0)
            face, edge, end = paint_face(block, xs, ys, 0.0), paint_edge(block, xs, zs, 0.0), paint_end(block, ys, zs, 0.0)
            for name, a, b in (
                ("face and edge", face[0], edge[0]),
                ("face and end", face[:, 0], end[0]),
                ("edge and end", edge[:, 0], end[:, 0]),
            ):
                self.assertGreater(np.corrcoef(a.astype(float).ravel(), b.astype(float).ravel())[0, 1], 0.99, (wood, name))

    def test_a_nail_shows_on_an_edge_only_as_deep_as_it_goes(self):
        with_it, without = (
            paint_edge(
                Block(5, LOOKS["ash"], 200, 60, 35, nails=nails), np.arange(80, 121, 1.0), np.arange(0, 60, 1.0), 1.0
            ).astype(int)
            for nails in ((Nail(100, 4, 25),), ())
        )
        stained = np.abs(with_it - without).sum(axis=(1, 2))
        self.assertGreater(stained[:25].min(), 500)
        self.assertLess(stained[50:].max(), 130, "a rounding at most")

    def test_rings_that_slip_lose_their_likeness_and_do_not_turn_into_their_negative(self):
        xs, ys = np.arange(0, 400, 1.0), np.arange(0, 200, 1.0)
        found = []
        for share in (0.2, 0.4, 0.6, 0.8):
            each = []
            for seed in range(3):
                block = Block(seed, replace(LOOKS["walnut"], ring_mm=4.2), 200, 60, 60)
                one, other = (paint_face(block, xs, ys, z) for z in (20.0, 20.0 + 4.2 * share))
                each.append(likeness(one, other, 1.0))
            found.append(float(np.mean(each)))
        self.assertEqual(found, sorted(found, reverse=True))
        self.assertGreater(found[0], 0.5)
        self.assertGreater(found[-1], -0.15)

    def test_plain_quartered_oak_is_not_called_figured(self):
        xs, ys = np.arange(0, 500, 1.0), np.arange(0, 180, 1.0)
        called = [s for s in range(10) if figure_of(paint_face(Block(s, LOOKS["oak"], 180, 30, 85), xs, ys, 0.0), 1.0).figured]
        self.assertEqual(called, [])

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
