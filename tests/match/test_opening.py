import unittest

from grainet.kit.cut_kit import CutKit, Kerfs
from grainet.match.opening import drift_of, openings


class Openings(unittest.TestCase):
    def test_drift_is_the_loss_over_the_tangent(self):
        self.assertAlmostEqual(drift_of(2.2, 30, 3)[0], 3.81, delta=0.01)
        self.assertAlmostEqual(drift_of(6.2, 30, 3)[0], 10.74, delta=0.01)
        self.assertLess(drift_of(1.2, 80, 3)[0], 0.25)

    def test_quality_falls_steadily_with_the_loss(self):
        order = ["closest", "fair", "poor"]
        seen = [order.index(drift_of(s / 10, 60, 3)[1]) for s in range(1, 60)]
        self.assertEqual(seen, sorted(seen))
        self.assertEqual((seen[0], seen[-1]), (0, 2))

    def test_four_openings_and_the_old_faces_lie_further_apart(self):
        kit = CutKit(kerf_mm=Kerfs(resaw=1.2), resaw_skim_mm=0.4)
        found = openings(kit, 7, 85, 2.8)
        self.assertEqual(len({o.key for o in found}), 4)
        self.assertAlmostEqual(found[0].lost_mm, 2.0)
        self.assertGreater(found[-1].drift_mm, found[0].drift_mm)
