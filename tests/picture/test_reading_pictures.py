"""Reading pictures of known truth: true to scale, slope, figure, rings, edges, troubles, bow. `./run accuracy` prints all rows."""

import unittest

import numpy as np

from grainet.demo.rack import rack
from grainet.instruments.camera import take_photo
from grainet.instruments.stand_ins import StandIn
from grainet.picture.lens import bend, unbend
from grainet.picture.reading import squared, suggestions_of
from grainet.picture.rectify import fit
from grainet.picture.registration import register
from grainet.picture.scene import Camera, true_map
from grainet.picture.straightedge import gap_under
from grainet.wood.photo import Photo, TruePoint
from grainet.wood.value import BadEntry
from tools import accuracy


class TrueToScale(unittest.TestCase):
    def test_a_known_place_comes_back_within_a_millimetre_in_500(self):
        rows = {r.case: r.figures for r in accuracy.rectifying(range(3))}
        self.assertLess(rows["4 corners, straight lens"][0], 1.0)
        self.assertLess(rows["4 + 6 on the edges, bent lens"][0], 1.0)

    def test_four_corners_say_how_far_a_bent_lens_may_put_them_off(self):
        rows = {r.case: r.figures for r in accuracy.rectifying(range(3))}
        worst, message = rows["4 corners, bent lens"]
        self.assertGreater(worst, 1.0)
        self.assertGreater(message * 500 / 1000, 0.5 * worst, "the doubt is of the size of the error")
        self.assertLess(rows["4 + 6 on the edges, bent lens"][1], 2.5)

    def test_no_place_is_farther_off_than_the_doubt_says(self):
        """Random cameras, lenses, boards and clicks: the worst place of a board, against what was told beforehand."""
        rng = np.random.default_rng(3)
        below = {False: 0, True: 0}
        for _ in range(40):
            length, width = rng.uniform(500, 3000), rng.uniform(80, 500)
            lens = float(rng.uniform(-0.06, 0.06))
            camera = Camera(3000, 1400, rng.uniform(-20, 20), rng.uniform(-20, 20), rng.uniform(-5, 5), lens)
            true = true_map(camera, (0, 0, length, width))
            for more in below:
                wanted = accuracy.corners_of(length, width) + (accuracy.along_edges(length, width) if more else [])
                found = fit(accuracy.clicked(true, wanted, rng, 0.7), true.size)
                grid = np.stack(np.meshgrid(np.linspace(0, length, 13), np.linspace(0, width, 7)), -1).reshape(-1, 2)
                off = np.hypot(*(found.to_mm(true.to_px(grid)) - grid).T).max()
                below[more] += off > found.doubt_mm
        self.assertEqual(below[False], 0, "four corners")
        self.assertLessEqual(below[True], 3, "one in twenty, once the lens is known")

    def test_bending_and_unbending_are_inverse(self):
        points = np.random.default_rng(1).uniform(0, 1000, (200, 2))
        for k in (-0.15, -0.03, 0.0, 0.08):
            np.testing.assert_allclose(unbend(bend(points, k, (1000, 800)), k, (1000, 800)), points, atol=0.02)

    def test_points_that_fix_nothing_are_refused_with_a_sentence(self):
        corner = [(0.0, 0.0), (100.0, 0.0), (100.0, 50.0), (0.0, 50.0)]

        def points(px):
            return [TruePoint(px=x, py=y, u_mm=u, v_mm=v) for (x, y), (u, v) in zip(px, corner)]

        with self.assertRaisesRegex(BadEntry, "four corners"):
            fit(points(corner)[:3], (200, 200))
        with self.assertRaisesRegex(BadEntry, "one line"):
            fit(points([(0, 0), (50, 0), (100, 0), (0, 50)]), (200, 200))
        with self.assertRaisesRegex(BadEntry, "cross over|one line"):
            fit(points([(0, 0), (100, 50), (100, 0), (0, 50)]), (200, 200))

    def test_a_wrong_click_shows_as_a_miss(self):
        true = accuracy.photograph(np.zeros((50, 250, 3), np.uint8), (0, 0, 1000, 200), accuracy.PLAIN)[1]
        places = accuracy.corners_of(1000, 200) + [(500.0, 200.0, True), (500.0, 0.0, True)]
        points = accuracy.clicked(true, places, np.random.default_rng(0), 0.0)
        self.assertLess(fit(points, true.size).miss_mm, 0.2)
        points[4] = points[4].changed(px=points[4].px + 15)
        self.assertGreater(fit(points, true.size).miss_mm, 2)


class Analysis(unittest.TestCase):
    def test_slope_of_grain_on_plain_and_curly_wood(self):
        for row in accuracy.slopes(range(1, 2)):
            with self.subTest(row.case):
                self.assertLess(row.figures[0], 1.5 if "photos" in row.case else 1.0, row.text)

    def test_figure_is_called_where_it_is_and_only_there(self):
        rows = list(accuracy.figures(range(2)))
        for row in rows[:-1]:
            self.assertEqual(row.figures[0], 1.0, row.case)
            self.assertLess(row.figures[1], 0.1, "wavelength")
            self.assertLess(row.figures[2], 0.15, "strength")
        self.assertLessEqual(rows[-1].figures[0], 0.1)

    def test_ring_angle_at_the_end(self):
        for row in accuracy.rings(range(5)):
            self.assertLess(row.figures[0], 2.0, row.case)
            self.assertLess(row.figures[1], 4.0, row.case)

    def test_live_edges(self):
        for row in accuracy.live_edges(range(1)):
            self.assertLess(row.figures[0], 1.0, row.case)
            self.assertLess(row.figures[1], 4.0, row.case)
            self.assertEqual(row.figures[2], 0, row.case)

    def test_troubles_are_found_and_few_are_false(self):
        for row in accuracy.troubles(range(2)):
            knots, cracks, stains, false = row.figures
            self.assertGreaterEqual(knots, 0.6, row.case)
            self.assertGreaterEqual(cracks + stains, 0.9, row.case)
            self.assertLess(false, 1.0, row.case)

    def test_bow_from_a_straightedge(self):
        for row in accuracy.straightedges(range(1, 2)):
            self.assertLess(row.figures[1], 0.5, row.case)

    def test_no_gap_no_bow(self):
        flat = np.full((200, 900, 3), (200, 160, 120), np.uint8)
        with self.assertRaises(BadEntry):
            gap_under(flat, (50, 100), (850, 100), 800)
        with self.assertRaisesRegex(BadEntry, "apart"):
            gap_under(flat, (50, 100), (60, 100), 800)


class Nothing(unittest.TestCase):
    """Pictures that show nothing, or nonsense, suggest little and never fail."""

    def test_blank_black_white_and_noise(self):
        rng = np.random.default_rng(4)
        piece = next(p for p in rack() if p.id == "9")
        x1, y1 = piece.extents[2:]
        shapes = ((0, y1, 20, 20), (x1, y1, 580, 22), (x1, 0, 570, 180), (0, 0, 25, 175))
        for name, image in {
            "grey": np.full((200, 600, 3), 128, np.uint8), "black": np.zeros((200, 600, 3), np.uint8), "white": np.full((200, 600, 3), 255, np.uint8),
            "noise": rng.integers(0, 255, (200, 600, 3), dtype=np.uint8), "stripes": np.tile(np.arange(200, dtype=np.uint8)[:, None, None], (1, 600, 3)),
        }.items():  # fmt: skip
            for side, size in (("face1", (x1, y1)), ("face2", (x1, y1)), ("near_edge", (x1, 49)), ("marked_end", (y1, 49))):
                points = tuple(TruePoint(px=px, py=py, u_mm=u / x1 * size[0], v_mm=v / y1 * size[1]) for u, v, px, py in shapes)
                photo = Photo(side=side, sha="0" * 64, width_px=600, height_px=200, points=points)
                with self.subTest(f"{name} {side}"):
                    found = suggestions_of(image, piece, photo)
                    self.assertLess(len([s for s in found if s.what == "defect"]), 12)
                    self.assertTrue(all(0 <= s.confidence <= 1 for s in found))


class BothFaces(unittest.TestCase):
    """A through knot photographed from both faces lies at one place, mirrored by its own corners."""

    def test_the_camera_sees_a_through_knot_at_one_place(self):
        piece = next(p for p in rack() if p.id == "9").changed(defects=())
        knot = next(p for p in rack() if p.id == "9").defects[0]
        piece = piece.changed(defects=(knot,))
        middles = []
        for side in ("face1", "face2"):
            image, true = take_photo(StandIn("camera"), piece, side)
            x1, y1 = piece.extents[2:]
            corners = accuracy.corners_of(x1, y1) + accuracy.along_edges(x1, y1)
            points = tuple(accuracy.clicked(true, corners, np.random.default_rng(2), 0.3))
            photo = Photo(side=side, sha="0" * 64, width_px=image.shape[1], height_px=image.shape[0], points=points)
            found = [s for s in suggestions_of(image, piece, photo) if s.what == "defect" and s.kind == "knot"]
            self.assertTrue(found, side)
            middles.append([s.middle for s in found])
        placed = register(middles[0], middles[1], piece.extents[3])
        self.assertIsNotNone(placed)
        self.assertTrue(placed.right_way_round)
        self.assertLess(np.hypot(*placed.shift_mm), 6)
        x, y = (sum(c) / len(c) for c in zip(*knot.polygon))
        self.assertLess(min(np.hypot(mx - x, my - y) for mx, my in middles[0]), 8)

    def test_an_unmirrored_back_is_noticed(self):
        front = [(300.0, 40.0), (900.0, 150.0), (1400.0, 60.0)]
        back = [(x, 200.0 - y) for x, y in front]
        self.assertFalse(register(front, back, 200.0).right_way_round)
        self.assertTrue(register(front, [(x + 4, y - 2) for x, y in front], 200.0).right_way_round)
        self.assertIsNone(register([(0.0, 0.0)], [(900.0, 100.0)], 200.0))

    def test_a_true_photo_laid_square_shows_the_board(self):
        piece = next(p for p in rack() if p.id == "10")
        image, true = take_photo(StandIn("camera"), piece, "face1")
        points = tuple(accuracy.clicked(true, accuracy.corners_of(*piece.extents[2:]), np.random.default_rng(2), 0.0))
        photo = Photo(side="face1", sha="0" * 64, width_px=image.shape[1], height_px=image.shape[0], points=points)
        flat, rect, scale = squared(image, piece, photo, 0.5)
        self.assertEqual(rect, piece.extents)
        self.assertAlmostEqual(flat.shape[1], 1510 * scale, delta=2)
        from grainet.picture.of_piece import face_picture

        drawn = face_picture(piece, "1", 0.5)[: flat.shape[0], : flat.shape[1]].astype(int)
        self.assertLess(np.abs(drawn.mean(axis=(0, 1)) - flat.mean(axis=(0, 1))).max(), 30)

    def test_every_side_gives_its_suggestions(self):
        piece = rack()[0]
        wanted = {"face1": {"edges", "slope"}, "marked_end": {"rings"}, "far_end": {"rings"}, "near_edge": {"slope"}}
        for side, kinds in wanted.items():
            image, true = take_photo(StandIn("camera"), piece, side)
            x0, y0, x1, y1 = piece.extents
            thick = piece.least_thickness_mm
            size = (x1 - x0, y1 - y0) if side.startswith("face") else (x1 - x0, thick) if "edge" in side else (y1 - y0, thick)
            points = tuple(accuracy.clicked(true, accuracy.corners_of(*size), np.random.default_rng(2), 0.2))
            photo = Photo(side=side, sha="0" * 64, width_px=image.shape[1], height_px=image.shape[0], points=points)
            found = suggestions_of(image, piece, photo)
            self.assertLessEqual(kinds, {s.what for s in found}, side)
            for one in found:
                if one.what == "rings":
                    self.assertAlmostEqual(one.figures[0], 20, delta=6)
                if one.what == "edges":
                    near = [n for _, n, _ in one.edges]
                    self.assertGreater(max(near), 5, "the live edge wanders")
