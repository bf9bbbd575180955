"""A photo of an opened pair: made from two planes of the solid wood, turned, shaded and grained, it tells what the planes themselves do."""

import itertools
import unittest
from functools import lru_cache

import cv2
import numpy as np

from grainet.match.likeness import at_the_seam, missed_mm
from grainet.match.opened_photo import BAND_MM, measured, strips
from grainet.picture.solid import Block, look_of, paint_face
from grainet.wood.value import BadEntry

LONG = 200


@lru_cache(maxsize=16)
def leaves(seed, angle, lost, px=3.0):
    """The faces of two leaves that lost so much between them, the seam along row 0."""
    xs, ys = np.arange(0, LONG, 1 / px), np.arange(30, 130, 1 / px)
    return [paint_face(Block(seed, look_of("ash"), 200, 60, angle), xs, ys, d) for d in (20.0, 20.0 + lost)]


def book(seed, angle, lost, px=3.0, lean_deg=4.0):
    """A photo of them, opened, and the seam's two ends in it."""
    upper, lower = leaves(seed, angle, lost, px)
    flat = np.concatenate([upper[::-1], lower]).astype(np.float32)
    rows, columns = flat.shape[:2]
    flat *= np.linspace(0.75, 1.1, columns)[None, :, None]  # lit from the right
    size = (columns + 200, rows + 300)
    turn = cv2.getRotationMatrix2D((columns / 2, rows / 2), lean_deg, 1.0)
    turn[:, 2] += (100, 150)
    photo = cv2.warpAffine(flat, turn, size, flags=cv2.INTER_LINEAR, borderValue=(60, 70, 60))
    photo += np.random.default_rng(seed).normal(0, 3, photo.shape)
    ends = [tuple(float(v) for v in turn @ (x - 0.5, rows / 2 - 0.5, 1)) for x in (0, columns)]
    return np.clip(photo, 0, 255).astype(np.uint8), tuple(ends)


class Photos(unittest.TestCase):
    def test_it_tells_the_miss_and_how_alike(self):
        for angle in (45, 60):
            alike = {0.7: 0.0, 2.2: 0.0}
            for lost, seed in itertools.product(alike, range(2)):
                found, faces = (
                    measured(*book(seed, angle, lost), LONG),
                    [one[: int(3 * BAND_MM)] for one in leaves(seed, angle, lost)],
                )
                with self.subTest(angle=angle, lost=lost, seed=seed):
                    self.assertAlmostEqual(found.miss_mm, abs(missed_mm(*faces, 3.0, 15.0)), delta=0.25)
                    self.assertAlmostEqual(found.alike, max(0.0, at_the_seam(*faces, 3.0)), delta=0.2)
                alike[lost] += found.alike
            self.assertGreater(alike[0.7], alike[2.2] + 0.1)

    def test_the_strips_are_squared_however_the_photo_lies(self):
        straight, leaning = (strips(*book(1, 50, 1.2, lean_deg=lean), LONG) for lean in (0.0, -12.0))
        for one, other in zip(straight[:2], leaning[:2]):
            rows, columns = (min(a, b) for a, b in zip(one.shape, other.shape[:2]))
            a, b = (cv2.GaussianBlur(s[:rows, :columns], (0, 0), 2).astype(float) for s in (one, other))
            self.assertLess(np.abs(a - b).mean(), 5)
        self.assertAlmostEqual(straight[2], 3.0, places=2)
        self.assertEqual(straight[0].shape[0], int(BAND_MM * 3))

    def test_a_photo_that_cannot_tell_says_why(self):
        photo, (a, b) = book(2, 60, 1.0)
        for marks, plain, told in (
            ((a, (a[0] + 60, a[1])), False, "needs? at least|need at least"),
            (((20.0, 6.0), (900.0, 6.0)), False, "ends beside the seam"),
            ((a, b), True, "no lines"),
        ):
            with self.subTest(told=told), self.assertRaisesRegex(BadEntry, told):
                measured(np.full_like(photo, 120) if plain else photo, marks, LONG)


if __name__ == "__main__":
    unittest.main()
