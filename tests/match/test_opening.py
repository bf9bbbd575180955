"""Openings: what is lost, the miss at the seam and how alike the faces look; and that the pictures of the wood agree with it."""

import unittest
from functools import lru_cache

import numpy as np

from grainet.kit.cut_kit import CutKit, Kerfs
from grainet.match.likeness import at_the_seam, likeness, missed_mm
from grainet.match.opening import angle_along, between, forecast
from grainet.picture.solid import Block, look_of, paint_face

KIT = CutKit(kerf_mm=Kerfs(resaw=1.2), resaw_skim_mm=0.5)


class Openings(unittest.TestCase):
    def test_the_miss_is_the_loss_over_the_tangent(self):
        self.assertAlmostEqual(forecast(2.2, 30, 3).miss_mm, 3.81, delta=0.01)
        self.assertAlmostEqual(forecast(6.2, 30, 3).miss_mm, 10.74, delta=0.01)
        self.assertLess(forecast(1.2, 80, 3).miss_mm, 0.25)
        self.assertEqual(forecast(1.2, None, 3).word(2), "Not known")

    def test_how_alike_falls_steadily_with_the_loss_and_never_swings(self):
        for angle in (5, 30, 60, 85):
            seen = [forecast(s / 10, angle, 3).alike for s in range(120)]
            self.assertEqual(seen, sorted(seen, reverse=True))
            self.assertEqual(seen[0], 1)
            self.assertGreater(seen[-1], 0)

    def test_what_lies_between_is_told_term_by_term(self):
        self.assertAlmostEqual(between(KIT, "sawn", 7).lost_mm, 2.2)
        self.assertEqual(between(KIT, "sawn", 7, outer_skim=True).terms, (("kerf", 1.2),))
        self.assertAlmostEqual(between(KIT, "old", 7).lost_mm, 16.2)
        thinner = CutKit(kerf_mm=Kerfs(resaw=0.7), resaw_skim_mm=0.5)
        self.assertLess(between(thinner, "sawn", 7).lost_mm, between(KIT, "sawn", 7).lost_mm)

    def test_rings_that_change_along_the_board_count_where_the_seam_lies(self):
        self.assertEqual([angle_along((20.0, 60.0), s) for s in (-1, 0, 0.25, 1, 2)], [20, 20, 30, 60, 60])
        self.assertEqual([angle_along(e, 0.5) for e in ((None, 40.0), (40.0, None), (None, None), None)], [40, 40, None, None])

    def test_figure_forgives(self):
        self.assertGreater(forecast(2.2, 45, 3, figured=0.8).alike, forecast(2.2, 45, 3).alike + 0.3)


class PicturesAgree(unittest.TestCase):
    """The forecast against planes of the solid wood, over ring angles, kerfs and skims."""

    def test_the_lines_miss_by_what_was_forecast(self):
        for angle in (30, 45, 60, 75):
            for lost in (0.7, 1.2, 2.2):
                found = [self.opened(seed, angle, lost) for seed in range(2)]
                told = forecast(lost, angle, look_of("ash").ring_mm).miss_mm
                with self.subTest(angle=angle, lost=lost):
                    self.assertAlmostEqual(float(np.mean([f[0] for f in found])), told, delta=0.3 + 0.25 * told)

    def test_they_look_as_alike_as_was_forecast(self):
        told, seen = [], []
        for angle in (30, 45, 60, 75, 85):
            for kerf, skim in ((0.7, 0.0), (1.2, 0.0), (1.2, 0.5)):
                lost = kerf + 2 * skim
                told.append(forecast(lost, angle, look_of("ash").ring_mm).alike)
                seen.append(float(np.mean([self.opened(seed, angle, lost)[1] for seed in range(2)])))
        self.assertLess(np.abs(np.array(told) - np.maximum(seen, 0)).max(), 0.22)
        order = np.argsort(np.argsort(told)), np.argsort(np.argsort(seen))
        self.assertGreater(np.corrcoef(*order)[0, 1], 0.97, "the better forecast is the better picture")

    def test_likeness_knows_the_same_and_a_stranger(self):
        one, other = (self.plane(seed, 60, 10.0) for seed in (1, 2))
        self.assertAlmostEqual(likeness(one, one, 1.0), 1, places=5)
        self.assertAlmostEqual(at_the_seam(one, one, 1.0), 1, places=5)
        self.assertLess(abs(likeness(one, other, 1.0)), 0.35)
        self.assertEqual(likeness(one, np.full_like(one, 90), 1.0), 0)
        self.assertAlmostEqual(missed_mm(one[:-7], one[7:], 1.0), -7, delta=0.1)

    def opened(self, seed: int, angle: float, lost: float):
        one, other = self.plane(seed, angle, 20.0, 2.0), self.plane(seed, angle, 20.0 + lost, 2.0)
        return missed_mm(one, other, 2.0), likeness(one, other, 2.0)

    @staticmethod
    @lru_cache(maxsize=64)
    def plane(seed: int, angle: float, depth: float, px: float = 1.0):
        xs, ys = np.arange(0, 180, 1 / px), np.arange(30, 170, 1 / px)
        return paint_face(Block(seed, look_of("ash"), 200, 60, angle), xs, ys, depth)
