"""The demo builds are sound jobs: outlines, zones within them, recipes that name their parts, halves that mirror."""

import unittest

from shapely.geometry import Polygon

from grainet.demo.designs import DESIGNS, HALF
from grainet.design.shape import as_array
from grainet.fit.orientation import orientations_of
from grainet.job.job import Job
from grainet.wood.outline import ring_fault


class Designs(unittest.TestCase):
    def test_every_part_and_zone_is_sound(self):
        for design in DESIGNS:
            letters = [p.letter for p in design.parts]
            self.assertEqual(len(set(letters)), len(letters))
            for part in design.parts:
                with self.subTest(part.id):
                    self.assertIsNone(ring_fault(part.outline))
                    whole = Polygon(part.outline)
                    for zone in part.zones:
                        if zone.polygon != "rest":
                            self.assertLess(Polygon(zone.polygon).difference(whole).area, 0.02 * Polygon(zone.polygon).area)
                    covered = sum(p.shape.area for p in orientations_of(part)[0].patches)
                    self.assertAlmostEqual(covered, whole.area, delta=0.5)

    def test_recipes_name_parts_that_there_are(self):
        for design in DESIGNS:
            job = Job(parts=design.parts, builds=(design.build,))
            self.assertEqual(list(job.faults()), [])

    def test_the_seam_is_straight_and_the_half_lies_on_one_side(self):
        ring = as_array(HALF)
        self.assertGreaterEqual(ring[:, 1].min(), 0)
        self.assertEqual(tuple(ring[0]), (0, 0))
        self.assertEqual(ring[-1][1], 0)

    def test_zones_follow_the_outline_when_it_is_turned_over(self):
        part = DESIGNS[0].parts[0]
        ways = orientations_of(part)
        areas = [{p.kind: round(p.shape.area, 3) for p in way.patches} for way in ways]
        self.assertTrue(all(a == areas[0] for a in areas))
        upper = {
            way.turned_over: next(p for p in way.patches if p.kind == "hidden").shape.centroid.y
            for way in ways
            if way.angle_deg == 0
        }
        self.assertAlmostEqual(upper[False], -upper[True], places=6)
