"""Moisture, density, movement, rings and the loss chain against table values and closed forms."""

import itertools
import math
import unittest

import numpy as np

from grainet.wood.density import density_at_12, density_kg_m3
from grainet.wood.flatness import crook_loss, loss_chain
from grainet.wood.moisture import equilibrium_pct, moisture_state, settling_days
from grainet.wood.movement import shrinkage_across_face, width_change_mm
from grainet.wood.piece import Flatness, MoistureReading, Piece, Station, WidthStation, outline_from_readings, with_readings
from grainet.wood.rings import describe, least_angle
from grainet.wood.thickness import ThicknessField


class Moisture(unittest.TestCase):
    def test_equilibrium_against_the_handbook_table(self):
        for humidity, wanted in {0.30: 6.2, 0.50: 9.3, 0.65: 12.0, 0.80: 16.0}.items():  # about 20 C
            self.assertAlmostEqual(equilibrium_pct(20, humidity), wanted, delta=0.25)

    def test_equilibrium_rises_with_humidity_and_is_clamped(self):
        values = [equilibrium_pct(20, h) for h in np.linspace(0, 0.95, 60)]
        self.assertTrue(all(b > a for a, b in itertools.pairwise(values)))
        self.assertEqual(equilibrium_pct(20, 0.99), equilibrium_pct(20, 0.95))
        with self.assertRaises(ValueError):
            equilibrium_pct(20, 1.2)

    def test_a_thick_board_with_short_pins_has_an_unread_core(self):
        readings = [
            MoistureReading(x_mm=x, y_mm=50, depth_mm=6, moisture_pct=m)
            for x, m in ((100, 8.0), (200, 9.0), (300, 8.5), (400, 8.1), (500, 9.4))
        ]
        state = moisture_state(readings, 50, 8.5)
        self.assertFalse(state.core_read)
        self.assertAlmostEqual(state.mean_pct, 8.6)
        self.assertAlmostEqual(state.spread_pct, 1.4)
        self.assertEqual(state.worst_pct, 9.4)
        self.assertTrue(moisture_state([readings[0].changed(depth_mm=25.0)], 50, 8.5).core_read)
        self.assertFalse(moisture_state([], 50, 8.5).core_read)

    def test_settling_grows_with_the_square_of_thickness_once_diffusion_rules(self):
        thin, thick = settling_days(40, 16, 8, emission_m_s=1.0), settling_days(80, 16, 8, emission_m_s=1.0)
        self.assertAlmostEqual(thick.days / thin.days, 4, delta=0.01)
        self.assertEqual((thin.soonest_days, thin.latest_days), (thin.days / 2, thin.days * 2))
        self.assertEqual(settling_days(40, 8.4, 8).days, 0)


class Density(unittest.TestCase):
    def test_closed_form_and_round_trip(self):
        self.assertAlmostEqual(density_kg_m3(0.5, 30, 10), 650, 6)
        self.assertAlmostEqual(density_at_12(density_kg_m3(0.55, 8.0, 13.3), 8.0, 13.3), density_kg_m3(0.55, 12, 13.3), 3)


class Movement(unittest.TestCase):
    def test_worked_example(self):
        self.assertAlmostEqual(width_change_mm(200, 12, 8, 8), -2.24, delta=0.01)
        self.assertAlmostEqual(width_change_mm(200, 40, 35, 8), 0, 9)

    def test_quarter_moves_less_than_flat(self):
        self.assertAlmostEqual(shrinkage_across_face(8, 4, 0), 8)
        self.assertAlmostEqual(shrinkage_across_face(8, 4, 90), 4)
        self.assertAlmostEqual(shrinkage_across_face(8, 4, 45), 6)


class Rings(unittest.TestCase):
    def test_words(self):
        self.assertEqual(describe((72, 55)), "quarter/rift, mixed")
        self.assertEqual(describe((58, 57)), "rift, borderline")
        self.assertEqual(describe((None, 12)), "flat")
        self.assertEqual(describe(None), "not read")
        self.assertEqual(least_angle((72, 55)), 55)


class LossChain(unittest.TestCase):
    def chain(self):
        flat = Flatness(bow_mm=3, bow_span_mm=1500, cup_mm=1, rock_mm=2)
        return loss_chain(27, flat, (750, 100), (1500, 100), skim_mm=0.5)

    def test_worked_example(self):
        self.assertAlmostEqual(self.chain().left_mm, 23.75, 9)

    def test_switching_a_link_off_changes_it_by_just_that_much(self):
        chain = self.chain()
        for link in chain.links:
            self.assertAlmostEqual(chain.without(link.name).left_mm - chain.left_mm, link.takes_mm, 9)
        self.assertAlmostEqual(chain.without(*(link.name for link in chain.links)).left_mm, 27)

    def test_doubling_the_length_quadruples_bow(self):
        flat = Flatness(bow_mm=3)
        bow = [loss_chain(30, flat, (length, 50), (1600, 200)).links[0].takes_mm for length in (400, 800)]
        self.assertAlmostEqual(bow[1] / bow[0], 4)
        self.assertAlmostEqual(crook_loss(Flatness(crook_mm=4), 800, 1600), 1)


class Thickness(unittest.TestCase):
    def field(self, *stations):
        return ThicknessField(None, [Station(x_mm=x, y_mm=y, thickness_mm=t) for x, y, t in stations])

    def test_grid_is_bilinear_and_the_nearest_counts_beyond(self):
        field = self.field((0, 0, 10), (100, 0, 20), (0, 50, 30), (100, 50, 40))
        self.assertAlmostEqual(float(field.at(50.0, 25.0)), 25)
        self.assertAlmostEqual(float(field.at(-40.0, 0.0)), 10)

    def test_scattered_stations_are_linear_on_triangles(self):
        field = self.field((0, 0, 10), (100, 0, 20), (0, 100, 10), (110, 100, 21))
        self.assertAlmostEqual(float(field.at(30.0, 40.0)), 13, 6)

    def test_stations_in_a_row_are_linear_along_it(self):
        field = self.field((0, 60, 9.1), (500, 60, 11.2))
        self.assertAlmostEqual(float(field.at(250.0, 10.0)), 10.15)

    def test_the_least_under_a_footprint_is_used_never_the_mean(self):
        field = self.field((0, 60, 11.2), (500, 60, 9.1))
        thick, thin = (np.array([(x, 0.0), (x + 100, 0), (x + 100, 80), (x, 80)]) for x in (0.0, 400.0))
        self.assertAlmostEqual(field.least_under(thin), 9.1, 6)
        self.assertAlmostEqual(field.least_under(thick), 11.2 - 2.1 / 5, 6)

    def test_a_low_spot_inside_a_footprint_is_found(self):
        field = self.field((0, 0, 20), (200, 0, 20), (0, 100, 20), (200, 100, 20), (100, 50, 12))
        ring = np.array([(20.0, 10.0), (180, 10), (180, 90), (20, 90)])
        self.assertAlmostEqual(field.least_under(ring), 12)
        many = field.least_under_many(ring, np.array([(0.0, 0.0), (500.0, 0.0)]))
        self.assertEqual(many.tolist(), [12, 20])


class Readings(unittest.TestCase):
    def test_the_outline_follows_live_edge_readings(self):
        ring = outline_from_readings(
            1000,
            (
                WidthStation(x_mm=0, far_mm=100, near_mm=80),
                WidthStation(x_mm=500, far_mm=90, near_mm=95),
                WidthStation(x_mm=1000, far_mm=110, near_mm=70),
            ),
        )
        self.assertIn((500, 0), ring)
        self.assertIn((500, 185), ring)
        self.assertEqual(len(ring), 6)

    def test_straight_stations_leave_four_corners_and_carry_on_level(self):
        piece = with_readings(Piece(id="1"), length_mm=900.0, width_stations=(WidthStation(x_mm=450, far_mm=120),))
        self.assertEqual(piece.outline, ((0, 0), (900, 0), (900, 120), (0, 120)))
        self.assertTrue(math.isclose(piece.extents[2], 900))
