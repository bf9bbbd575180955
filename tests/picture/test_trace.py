"""Silhouettes traced from pictures of known truth, and what cannot be traced."""

import unittest

import cv2
import numpy as np

from grainet.design.clip import area_mm2
from grainet.design.outline_edit import apart_mm
from grainet.design.shape_library import BODIES
from grainet.picture.trace import silhouette
from grainet.wood.value import BadEntry

GROUND, WOOD = (120, 130, 125), (90, 150, 200)


def picture(ring, px_per_mm, noise=4.0, ground=GROUND, wood=WOOD):
    """A picture of a shape with 30 mm of ground around it, and where its lower left lies, mm."""
    xs, ys = zip(*ring)
    x0, y0 = min(xs) - 30, min(ys) - 30
    wide, high = (int((v + 60) * px_per_mm) for v in (max(xs) - min(xs), max(ys) - min(ys)))
    big = np.full((high * 4, wide * 4, 3), ground, np.uint8)
    px = np.array([[(x - x0) * px_per_mm, high - (y - y0) * px_per_mm] for x, y in ring])
    cv2.fillPoly(big, [np.round(px * 64 - 8).astype(np.int32)], wood, lineType=cv2.LINE_AA, shift=4)
    image = cv2.resize(big, (wide, high), interpolation=cv2.INTER_AREA).astype(float)
    image = np.clip(image + np.random.default_rng(1).normal(0, noise, image.shape), 0, 255).astype(np.uint8)
    return image, (x0, y0)


class Traced(unittest.TestCase):
    def test_every_body_comes_back_within_a_millimetre(self):
        for name in sorted(BODIES):
            ring = BODIES[name].outline
            image, (x0, y0) = picture(ring, 2.0)
            found = tuple((x + x0, y + y0) for x, y in silhouette(image, 2.0))
            with self.subTest(name):
                self.assertLess(apart_mm(found, ring), 1.0)
                self.assertGreater(area_mm2(found), 0, "counter-clockwise")
                self.assertAlmostEqual(area_mm2(found) / abs(area_mm2(ring)), 1.0, delta=0.006)

    def test_what_cannot_be_traced_is_said(self):
        plain = np.full((200, 300, 3), 128, np.uint8)
        with self.assertRaisesRegex(BadEntry, "stands out"):
            silhouette(plain, 1.0)
        ring = ((0, 0), (200, 0), (200, 100), (0, 100))
        image, _ = picture(ring, 1.0)
        with self.assertRaisesRegex(BadEntry, "runs out of the picture"):
            silhouette(image[60:], 1.0)
        speck = plain.copy()
        speck[90:102, 140:152] = 20
        with self.assertRaisesRegex(BadEntry, "No large thing"):
            silhouette(speck, 1.0)


if __name__ == "__main__":
    unittest.main()
