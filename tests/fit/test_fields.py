"""The field against exact placement, and exact placement against closed forms."""

import unittest

import numpy as np
from shapely.geometry import Polygon, box

from grainet.fit.board_geometry import BoardGeometry, grown_along
from grainet.fit.exact import Exact, ExactPlacement, Misfit, inner_positions, seats
from grainet.fit.field import Layers, fit_field
from grainet.fit.orientation import orientations_of
from grainet.fit.reach import reach, room_across, runs_along
from tests.jobs import SAW, half_ring, job, part, piece, random_job


def setting(pieces, parts, kit=None):
    made = job([pieces], [parts], kit)
    sheet = BoardGeometry(made.pieces[0], made.kit)
    return sheet, made.parts[0]


class Soundness(unittest.TestCase):
    def test_a_guarded_field_never_accepts_what_exact_geometry_refuses(self):
        checked = 0
        for seed in range(8):
            made = random_job(seed)
            rng = np.random.default_rng(seed)
            for one in made.pieces:
                layers = Layers(BoardGeometry(one, made.kit))
                for wanted in made.parts:
                    for orientation in orientations_of(wanted, (0.0, 2.0))[:6]:
                        field = fit_field(layers, orientation)
                        rows, columns = np.nonzero(field.fits)
                        for k in rng.permutation(len(rows))[:6]:
                            found = Exact(layers.sheet, orientation).seat(*field.shift(rows[k], columns[k]))
                            self.assertIsInstance(found, ExactPlacement, (seed, one.id, wanted.id, found))
                            checked += 1
        self.assertGreater(checked, 300)

    def test_the_field_finds_nearly_all_that_exact_geometry_allows(self):
        sheet, wanted = setting(piece("A", 1200, 260, 50), {"id": "h", "outline": half_ring(), "thickness_mm": 44})
        orientation = orientations_of(wanted)[0]
        field = fit_field(Layers(sheet), orientation)
        self.assertGreater(int(field.fits.sum()) * 4, 0.95 * (1200 - orientation.length - 6) * (260 - orientation.width - 6))

    def test_half_turn_of_a_symmetric_board_is_the_mirror_of_the_field(self):
        sheet, wanted = setting(piece("A", 900, 240, 50), {"id": "h", "outline": half_ring(), "thickness_mm": 44})
        orientations = {w.angle_deg: fit_field(Layers(sheet), w).fits.sum() for w in orientations_of(wanted) if w.face_up == "1"}
        self.assertEqual(orientations[0.0], orientations[180.0])


class Exactness(unittest.TestCase):
    def test_a_part_as_large_as_the_board_fits_exactly_once(self):
        sheet, wanted = setting(piece("A", 300, 90, 20), part())
        orientation = orientations_of(wanted)[0]
        self.assertIsInstance(Exact(sheet, orientation).seat(0, 0), ExactPlacement)
        self.assertIsInstance(Exact(sheet, orientation).seat(0.001, 0), Misfit)
        inner = inner_positions(orientation.polygon, sheet.usable)
        self.assertAlmostEqual(inner.centroid.x, 0, 5)

    def test_inner_positions_of_a_rectangle_in_a_rectangle(self):
        found = inner_positions(box(0, 0, 100, 50), box(0, 0, 400, 80))
        for got, wanted in zip(found.bounds, (0, 0, 300, 30)):
            self.assertAlmostEqual(got, wanted, 5)

    def test_inner_positions_respect_a_bay(self):
        room = Polygon([(0, 0), (400, 0), (400, 100), (220, 100), (220, 40), (180, 40), (180, 100), (0, 100)])
        found = inner_positions(box(0, 0, 100, 90), room)
        self.assertEqual(len(found.geoms), 2)

    def test_allowances_add(self):
        kit = {**SAW, "trim_mm": 5, "margin_mm": 3, "edge_mm": 2}
        sheet, wanted = setting(piece("A", 316, 100, 20), part(), kit)
        exact = Exact(sheet, orientations_of(wanted)[0])
        self.assertIsInstance(exact.seat(8, 5), ExactPlacement)
        self.assertIsInstance(exact.seat(7.9, 5), Misfit)
        self.assertIsInstance(exact.seat(8, 4.9), Misfit)

    def test_metal_is_kept_clear_of_until_it_is_drawn(self):
        nail = {"id": "m1", "kind": "nail", "polygon": [[500, 100], [504, 100], [504, 104], [500, 104]], "depth_mm": 2}
        for resolved, wanted in ((False, Misfit), (True, ExactPlacement)):
            sheet, one = setting(
                piece(defects=[{**nail, "resolved": resolved}]), part(), {**SAW, "metal_clear_mm": 15, "skim_mm": 3}
            )
            self.assertIsInstance(Exact(sheet, orientations_of(one)[0]).seat(508, 5), wanted)

    def test_many_seats_at_once_are_the_same_as_one_by_one(self):
        for seed in range(4):
            made = random_job(seed)
            sheet, orientation = BoardGeometry(made.pieces[0], made.kit), orientations_of(made.parts[2])[0]
            exact = Exact(sheet, orientation)
            if exact.size_trouble():
                continue
            shifts = np.random.default_rng(seed).uniform((sheet.x0 - 20, sheet.y0 - 20), (sheet.x1, sheet.y1), (40, 2))
            for shift, found in zip(shifts, seats(exact, shifts)):
                alone = exact.seat(*shift)
                self.assertEqual(isinstance(alone, ExactPlacement), found is not None)
                if found is not None:
                    self.assertAlmostEqual(found.z_top_mm, alone.z_top_mm, 9)


class Depths(unittest.TestCase):
    def knot(self, **more):
        return {"id": "k1", "kind": "knot", "polygon": [[100, 20], [160, 20], [160, 60], [100, 60]], **more}

    def seat(self, defect, zones=(), face_up="1", thickness=30, kit=None):
        sheet, one = setting(
            piece(length=320, width=95, thickness=thickness, defects=[defect]), part(zones=list(zones), faces_up=[face_up]), kit
        )
        return Exact(sheet, orientations_of(one)[0]).seat(0, 2.0)

    def test_a_knot_is_planed_away_where_the_board_is_thick_enough(self):
        self.assertAlmostEqual(self.seat(self.knot(face="1", depth_mm=8)).z_top_mm, 8)
        self.assertIsInstance(self.seat(self.knot(face="1", depth_mm=12)), Misfit)

    def test_a_knot_of_the_far_side_may_stay_in_a_seen_zone_but_not_in_a_critical_one(self):
        far = self.knot(face="2", depth_mm=15)
        self.assertIsInstance(self.seat(far, thickness=25), ExactPlacement)
        self.assertIsInstance(self.seat(far, [{"kind": "critical", "polygon": "rest"}], thickness=25), Misfit)
        self.assertIsInstance(self.seat(far, [{"kind": "seen", "polygon": "rest", "both_sides": True}], thickness=25), Misfit)

    def test_unknown_depth_counts_as_full(self):
        self.assertIsInstance(self.seat(self.knot(face="1"), thickness=60), Misfit)

    def test_zones_tolerate_in_their_order(self):
        rot = {**self.knot(), "kind": "rot"}
        crack = {**self.knot(), "kind": "crack"}
        hidden, removed, critical = ([{"kind": k, "polygon": "rest"}] for k in ("hidden", "removed", "critical"))
        self.assertIsInstance(self.seat(crack, hidden), ExactPlacement)
        self.assertIsInstance(self.seat(rot, hidden), Misfit)
        self.assertIsInstance(self.seat(rot, removed), ExactPlacement)
        self.assertIsInstance(self.seat(crack, critical), Misfit)
        over = [
            {"kind": "removed", "polygon": [[0, 0], [300, 0], [300, 90], [0, 90]]},
            {"kind": "critical", "polygon": [[90, 0], [180, 0], [180, 90], [90, 90]]},
        ]
        self.assertIsInstance(self.seat(rot, over), Misfit, "critical comes before removed where they overlap")

    def test_cracks_grow_at_open_ends_only(self):
        crack = Polygon([(0, 0), (80, 0), (80, 2), (0, 2)])
        self.assertEqual(grown_along(crack, 25, None).bounds, (-25, 0, 105, 2))
        self.assertEqual(grown_along(crack, 25, (True, False)).bounds, (0, 0, 105, 2))
        self.assertEqual(grown_along(crack, 25, (True, True)).bounds, (0, 0, 80, 2))


class Reach(unittest.TestCase):
    def test_bright_wood_is_what_some_place_covers(self):
        sheet, one = setting(piece("A", 400, 100, 30), part())
        field = fit_field(Layers(sheet), orientations_of(one)[0])
        bright = reach(field)
        self.assertGreater(bright.mean(), 0.9)
        self.assertEqual(len(runs_along(field)), 1)
        self.assertLessEqual(room_across(field).max(), 10)

    def test_ways_of_lying_leave_out_twins(self):
        _, rectangle = setting(piece(), part(mirror=True))
        self.assertEqual(len(orientations_of(rectangle)), 2)  # only the face that shows tells them apart
        _, half = setting(piece(), {"id": "h", "outline": [[0, 0], [300, 0], [250, 90], [0, 60]], "thickness_mm": 20})
        self.assertEqual(len(orientations_of(half)), 4)
