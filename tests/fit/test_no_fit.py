"""No-fit polygons against a slow method: at random shifts two parts come too near exactly where the polygon says so, and so deep."""

import unittest

import numpy as np
from shapely import affinity
from shapely.geometry import Point, Polygon

from grainet.fit.depth_loops import BAND, COARSE, STEP_MM, fill_near
from grainet.fit.depths import Depths
from grainet.fit.no_fit import SIMPLER_MM, bays_filled, convex_pieces, no_fit
from tests.fit.depth_tables import coarse_table, table
from tests.jobs import half_ring, rect

HALF = Polygon(half_ring())
BAYED = Polygon([(0, 0), (200, 0), (200, 120), (130, 120), (120, 40), (80, 40), (70, 120), (0, 120)])
SHAPES = (HALF, BAYED, Polygon(rect(300, 80)), affinity.rotate(BAYED, 27, origin=(0, 0)))


class Pieces(unittest.TestCase):
    def test_they_are_convex_and_cover_the_shape_once(self):
        for shape in SHAPES:
            pieces = [Polygon(ring) for ring in convex_pieces(shape)]
            self.assertAlmostEqual(sum(p.area for p in pieces), shape.area, places=6)
            for piece in pieces:
                self.assertAlmostEqual(piece.convex_hull.area, piece.area, places=6)
                self.assertLess(piece.difference(shape.buffer(1e-6)).area, 1e-6)

    def test_they_are_fewer_than_triangles(self):
        self.assertEqual(len(convex_pieces(Polygon(rect(10, 5)))), 1)
        self.assertEqual(len(convex_pieces(HALF)), 1)
        self.assertLessEqual(len(convex_pieces(BAYED)), 4)


class Bays(unittest.TestCase):
    def test_a_filled_bay_holds_the_shape_and_little_more(self):
        waist = Polygon([(0, 0), (300, 0), *((300 - 3 * k, 150 - 40 * np.sin(np.pi * k / 100)) for k in range(101))])
        filled = bays_filled(waist, 0.6)
        self.assertTrue(filled.buffer(1e-9).covers(waist))
        self.assertLess(filled.hausdorff_distance(waist), 0.61)
        self.assertLess(len(convex_pieces(filled)), len(convex_pieces(waist)) / 2)

    def test_a_shape_without_hollows_stays_as_it_is(self):
        for shape in (Polygon(rect(300, 80)), HALF, BAYED):
            self.assertAlmostEqual(bays_filled(shape, 0.6).area, shape.area, places=6)


class NearAndFar(unittest.TestCase):
    def test_a_shift_is_inside_where_the_parts_come_too_near(self):
        r = np.random.default_rng(4)
        inside = outside = 0
        for one in SHAPES:
            for other in SHAPES:
                shape = no_fit(convex_pieces(one), convex_pieces(other), 3)
                x0, y0, x1, y1 = shape.bounds
                for _ in range(40):
                    x, y = float(r.uniform(x0, x1)), float(r.uniform(y0, y1))
                    apart = one.distance(affinity.translate(other, x, y))
                    if apart < 3:
                        self.assertTrue(shape.covers(Point(x, y)), (x, y, apart))
                        inside += 1
                    elif apart > 3 + 2 * SIMPLER_MM + 0.1 and not shape.covers(Point(x, y)):
                        outside += 1
        self.assertGreater(min(inside, outside), 60)

    def test_the_table_tells_the_depth_near_the_border(self):
        shape = no_fit(convex_pieces(HALF), convex_pieces(BAYED), 3)
        depths = Depths()
        reading = depths.add(shape)
        whole = table(depths, reading)
        r = np.random.default_rng(1)
        rows, columns = whole.shape
        for _ in range(300):
            i, j = int(r.integers(columns)), int(r.integers(rows))
            point = Point((i + reading.column) * STEP_MM, (j + reading.row) * STEP_MM)
            wanted = shape.exterior.distance(point) * (1 if shape.contains(point) else -1)
            slack = 0.01 if abs(wanted) < STEP_MM else 1.5 * STEP_MM + 0.08 * abs(wanted)
            told = max(wanted, -BAND * STEP_MM)  # further off it is only said that it is off
            self.assertAlmostEqual(float(whole[j, i]), told, delta=slack)
        self.assertTrue((coarse_table(depths, reading) == np.maximum(whole[::COARSE, ::COARSE], 0)).all())

    def test_a_lattice_is_told_inside_and_near_as_a_slow_method_does(self):
        r = np.random.default_rng(3)
        for shape in (BAYED, affinity.rotate(BAYED, 27), affinity.scale(HALF, 0.5, 0.5)):
            ring = np.asarray(affinity.scale(shape, 0.3, 0.3, origin=(0, 0)).exterior.coords)
            ring = ring - ring.min(axis=0) + r.uniform(2, 4, 2)
            rows, columns = (int(v) + 4 for v in ring.max(axis=0)[::-1])
            inside, away = np.zeros((rows, columns), np.uint8), np.full((rows, columns), np.inf, np.float32)
            fill_near(ring, away, inside)
            whole = Polygon(ring)
            for j, i in np.ndindex(rows, columns):
                far = whole.exterior.distance(Point(i, j))
                if far > 1e-9:
                    self.assertEqual(bool(inside[j, i]), whole.contains(Point(i, j)), (i, j))
                if far <= BAND - 1e-9:
                    self.assertAlmostEqual(float(away[j, i]), far, places=5)
                elif far > BAND + 1e-5:
                    self.assertEqual(float(away[j, i]), np.inf)

    def test_turned_and_mirrored_tables_are_those_of_turned_and_mirrored_shapes(self):
        one, other = convex_pieces(HALF), convex_pieces(BAYED)
        depths = Depths()
        reading = depths.add(no_fit(one, other, 3))
        cases = (
            (reading.turned, depths.add(no_fit(other, one, 3))),
            (reading.turned, depths.add(no_fit([-p for p in one], [-p for p in other], 3))),
            (reading.mirrored, depths.add(no_fit([p * (1, -1) for p in one], [p * (1, -1) for p in other], 3))),
            (reading.turned.turned, reading),
            (reading.mirrored.mirrored, reading),
        )
        for told, wanted in cases:
            for i, j in ((0, 0), (13, 20), (-40, 10), (66, -26), (-100, -33)):
                a, b = (table(depths, t)[j - t.row, i - t.column] for t in (told, wanted))
                self.assertAlmostEqual(float(a), float(b), delta=0.05)
        for way in (reading.turned, reading.mirrored, reading.turned.mirrored):
            every = np.maximum(table(depths, way)[::COARSE, ::COARSE], 0)
            self.assertTrue((coarse_table(depths, way) == every).all(), "backwards it is every so-many-th one of the same")


if __name__ == "__main__":
    unittest.main()
