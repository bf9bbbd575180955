"""What is known of wood in figures: species, meters, samples, weighings, air, settling, rest, taps, movement, weight."""

import itertools
import math
import unittest
from datetime import date, timedelta

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import brentq

from grainet.wood.candidates import contradiction, possible_flags, standing, weighed_up
from grainet.wood.climate import SHIPPED_YEAR, AirReading, recent_pct, year_of
from grainet.wood.density import density_at_12, density_kg_m3, density_standing
from grainet.wood.meters import Correction, Meter, corrected, pin_pct, pinless_pct
from grainet.wood.moisture import equilibrium_pct, settling_days
from grainet.wood.movement import across_glue_line_mm, diamond_deg, free_cup_mm, over_a_year, thickness_shrinkage, width_change_mm
from grainet.wood.piece import MoistureReading, Piece
from grainet.wood.record import Rest, Tap, Weighing
from grainet.wood.rest import rest_state
from grainet.wood.settling import fitted_pace, settle
from grainet.wood.species import FLAGS, Species, find, library, library_with
from grainet.wood.tap import (
    decay_from_t60,
    expected_hz,
    facts_of,
    quality,
    radiation_ratio,
    speed_m_s,
    stiffness_gpa,
    timoshenko_factor,
    unlike,
)
from grainet.wood.weighing import heading, levelled_off, moisture_from_mass, sample_pct
from grainet.wood.weight import part_weight

LIBRARY = library_with()


def days_from(first, values, start=date(2026, 1, 1)):
    return tuple(Weighing(on=(start + timedelta(days=d)).isoformat(), kg=kg) for d, kg in zip(first, values))


class TheLibrary(unittest.TestCase):
    def test_its_figures_agree_with_one_another(self):
        self.assertEqual(len(library()), 126)
        for one in library():
            with self.subTest(one.common):
                calculated = density_kg_m3(one.basic_sg, 12, one.shrink_volumetric_pct)
                self.assertLess(abs(calculated / one.density_12_kg_m3 - 1), 0.03)
                self.assertLess(one.shrink_radial_pct, one.shrink_tangential_pct + 1e-9)
                self.assertTrue(one.colours)
                self.assertLessEqual(one.flags, set(FLAGS))
                self.assertIn(one.confidence, "ABC")

    def test_every_name_finds_its_species(self):
        for text, name in (
            ("hard maple", "Sugar maple (hard)"), ("Norway spruce", "European spruce"), ("khaya", "African mahogany (khaya)"),
            ("Juglans regia", "European walnut"), ("european ash", "European ash"), ("alder", "Red alder"), ("ROBINIA", "Black locust"),
        ):  # fmt: skip
            self.assertEqual(LIBRARY.best(text).common, name, text)
        self.assertIsNone(LIBRARY.find("unknown"))
        self.assertIsNone(LIBRARY.best("zzz"))

    def test_a_family_s_name_is_never_one_of_the_family(self):
        for text, least in (("maple", 7), ("walnut", 3), ("rosewood", 3), ("ash", 5), ("oak", 3), ("spruce", 4)):
            self.assertGreaterEqual(len(LIBRARY.matches(text)), least, text)
            self.assertIsNone(LIBRARY.best(text), text)
        for text in ("", " ", ".", "-", "a", "unknown"):
            self.assertEqual(LIBRARY.matches(text), (), text)

    def test_a_shop_s_own_species_is_equal_and_wins_over_a_shipped_one(self):
        own = Species(
            common="Bog oak",
            basic_sg=0.7,
            density_12_kg_m3=850,
            shrink_radial_pct=5,
            shrink_tangential_pct=10,
            flags=frozenset({"silica"}),
        )
        heavier = find("European ash").changed(density_12_kg_m3=720.0)
        both = library_with((own, heavier))
        self.assertEqual(both.find("bog OAK"), own)
        self.assertEqual(both.find("ash").density_12_kg_m3, 720)
        self.assertEqual(len(both.all), 127)
        self.assertEqual(find("European ash").density_12_kg_m3, LIBRARY.find("ash").density_12_kg_m3, "the shipped one stays")


class WhichSpecies(unittest.TestCase):
    def test_a_density_of_1050_removes_light_candidates(self):
        rows = weighed_up([find(n) for n in ("Red alder", "Gabon ebony", "European oak")], 1050)
        self.assertEqual([c.species.common for c in rows if c.stands], ["Gabon ebony"])
        self.assertIn("far heavier", next(c for c in rows if c.species.common == "Red alder").why_not)

    def test_pores_and_colour_narrow_too(self):
        piece = Piece(
            id="1",
            species="European oak",
            species_sure=False,
            candidates=("European walnut", "European sycamore maple"),
            look=("ring", "brown"),
        )
        left = [c.species.common for c in standing(piece, LIBRARY, None) if c.stands]
        self.assertEqual(left, ["European oak"])
        unnamed = standing(Piece(id="2", look=("none", "pale")), LIBRARY, 420)
        kept = [c.species for c in unnamed if c.stands]
        self.assertTrue(kept and all(s.porosity == "none" for s in kept))

    def test_the_strictest_hazard_of_all_candidates_counts(self):
        piece = Piece(id="1", species="Sugar maple (hard)", species_sure=False, candidates=("Cocobolo", "Iroko"))
        flags = possible_flags(piece, LIBRARY)
        self.assertLessEqual({"irritant_sensitizer_dust", "oily", "silica", "trade_regulated"}, flags)
        self.assertEqual(possible_flags(Piece(id="2"), LIBRARY), {"irritant_sensitizer_dust"}, "unnamed wood counts as irritant")
        self.assertNotIn("oily", possible_flags(Piece(id="3", species="Sugar maple (hard)"), LIBRARY))

    def test_a_contradiction_is_a_question_and_names_a_better_candidate(self):
        alder = Piece(id="1", species="Red alder", candidates=("European oak",), species_sure=False)
        self.assertIn("Rather European oak?", contradiction(alder, LIBRARY, 700))
        self.assertIn("Wrong species, wet", contradiction(Piece(id="1", species="Red alder"), LIBRARY, 800))
        self.assertEqual(contradiction(Piece(id="1", species="Red alder"), LIBRARY, 450), "")
        self.assertEqual(contradiction(Piece(id="1"), LIBRARY, 450), "")


class Meters(unittest.TestCase):
    def test_nothing_is_corrected_at_twenty_degrees_and_warm_wood_reads_high(self):
        self.assertAlmostEqual(pin_pct(12.0, 20), 12.0)
        self.assertLess(pin_pct(12.0, 30), 11.5)
        self.assertGreater(pin_pct(12.0, 5), 13.0)
        self.assertAlmostEqual(pin_pct(12.0, 20, offset=1.0, slope=1.1), 10.0)

    def test_a_pinless_ratio_is_held_to_its_limits(self):
        self.assertAlmostEqual(pinless_pct(10, 0.5, 0.5), 10)
        self.assertAlmostEqual(pinless_pct(10, 0.5, 0.6), 10 * 0.5 / 0.6)
        self.assertAlmostEqual(pinless_pct(10, 0.5, 0.1), 14)
        self.assertAlmostEqual(pinless_pct(10, 0.3, 1.0), 7)

    def test_a_table_row_counts_under_any_name_and_doubt_is_said(self):
        meter = Meter(id="m", name="Pins", corrections=(Correction(species="oak", offset=0.5, slope=1.0),))
        oak = find("European oak")
        self.assertEqual(corrected(meter, 10, oak, find=LIBRARY.find).moisture_pct, 9.5)
        self.assertEqual(corrected(meter, 10, oak, find=LIBRARY.find).doubt_pct, 0.5)
        unknown = corrected(meter, 10, None)
        self.assertEqual((unknown.moisture_pct, unknown.doubt_pct), (10, 1.5))
        self.assertIn("unreliable", corrected(meter, 5, oak, find=LIBRARY.find).say)
        thin = corrected(Meter(id="p", name="Plate", kind="pinless"), 10, oak, thickness_mm=8)
        self.assertIn("reads the bench", thin.say)


class Weighing_(unittest.TestCase):
    def test_a_sample_and_a_mass(self):
        self.assertAlmostEqual(sample_pct(52.4, 48.1), 8.94, places=2)
        for wet, dry in ((48, 52), (50, 0), (0, 0)):
            with self.assertRaises(ValueError):
                sample_pct(wet, dry)
        self.assertAlmostEqual(moisture_from_mass(10.5, 11.0, 15.5), 100 * (10.5 - 11 / 1.155) / (11 / 1.155))
        self.assertAlmostEqual(moisture_from_mass(11.0, 11.0, 15.5), 15.5)

    def test_three_within_a_thousandth_over_a_week_are_level(self):
        self.assertTrue(levelled_off(days_from((0, 20, 24, 27), (9.0, 8.001, 8.0, 8.003))))
        self.assertFalse(levelled_off(days_from((0, 20, 22, 24), (9.0, 8.001, 8.0, 8.003))), "four days are no week")
        self.assertFalse(levelled_off(days_from((20, 24, 27), (8.02, 8.0, 7.98))), "still falling")
        self.assertFalse(levelled_off(days_from((0, 9), (8.0, 8.0))), "two are not three")
        self.assertFalse(levelled_off(()))

    @settings(max_examples=40, deadline=None)
    @given(st.floats(3, 40), st.floats(0.05, 0.25), st.floats(8, 60))
    def test_an_exact_exponential_is_found_again(self, end, share, pace):
        t = np.linspace(0, 2.5 * pace, 9)
        found = heading(days_from([round(x) for x in t], [end * (1 + share * math.exp(-round(x) / pace)) for x in t]))
        self.assertLess(abs(found.end_kg / end - 1), 0.002)
        self.assertLess(abs(found.pace_days / pace - 1), 0.05)
        self.assertLessEqual(found.soonest_day, found.near_day + 1e-6)
        self.assertGreaterEqual(found.latest_day, found.near_day - 1e-6)

    def test_too_few_or_flat_weighings_fit_nothing(self):
        self.assertIsNone(heading(days_from((0, 5, 9), (9, 8.5, 8.2))))
        self.assertIsNone(heading(days_from((0, 5, 9, 14), (8, 8, 8, 8))))


class Air(unittest.TestCase):
    def test_logged_months_count_and_the_others_are_guessed(self):
        june = [AirReading(at=f"2026-06-{d:02d}T09:00", temperature_c=22, humidity=0.6) for d in (1, 8, 15, 22)]
        one = [AirReading(at="2026-02-03T09:00", temperature_c=18, humidity=0.2)]
        year = year_of([*june, *one])
        self.assertEqual([k for k, yes in enumerate(year.logged) if yes], [5], "one reading is no month")
        self.assertAlmostEqual(year.equilibrium_pct[5], equilibrium_pct(22, 0.6))
        self.assertAlmostEqual(year.equilibrium_pct[1], equilibrium_pct(SHIPPED_YEAR[1].temperature_c, SHIPPED_YEAR[1].humidity))
        self.assertAlmostEqual(recent_pct(june), equilibrium_pct(22, 0.6))
        self.assertIsNone(recent_pct(one))

    def test_the_book_value(self):
        self.assertAlmostEqual(equilibrium_pct(20, 0.5), 9.3, delta=0.1)


def series_mean(days, half_m, d, s):
    """The analytical mean of a plate with surface emission, as a share of the step (Crank's series), by 2,000 roots."""
    biot = s * half_m / d
    roots = np.array(
        [brentq(lambda b: b * math.tan(b) - biot, n * math.pi + 1e-9, n * math.pi + math.pi / 2 - 1e-9) for n in range(2000)]
    )
    weight = 2 * biot**2 / (roots**2 * (roots**2 + biot**2 + biot))
    return np.array([float((weight * np.exp(-(roots**2) * d * t * 86_400 / half_m**2)).sum()) for t in days])


class Settling(unittest.TestCase):
    def test_it_agrees_with_the_analytical_series(self):
        for thick, d, s in ((50, 1e-10, 2e-7), (20, 3e-10, 5e-8)):
            run = settle(thick, 1.0, 0.0, 60, constant_d=d, emission_m_s=(s, s))
            wanted = series_mean(run.days[1:], thick / 2000, d, s)
            self.assertLess(float(abs(wanted - run.mean[1:]).max()), 0.002, thick)

    def test_sealed_wood_keeps_its_water_and_evens_out(self):
        run = settle(50, np.linspace(6, 14, 20), 8, 400, emission_m_s=(0.0, 0.0))
        self.assertLess(float(np.ptp(run.mean)), 1e-9)
        self.assertAlmostEqual(run.mean[-1], 10, delta=0.01)
        self.assertLess(float(np.ptp(run.profile)), 0.2)

    def test_the_core_lags_the_faces_and_everything_stays_between(self):
        run = settle(50, 14, 8.5, 200)
        self.assertTrue((run.core + 1e-9 >= run.mean).all() and (run.mean + 1e-9 >= run.face1).all())
        self.assertTrue((run.core <= 14 + 1e-6).all() and (run.face1 >= 8.5 - 1e-6).all())
        self.assertTrue(np.allclose(run.face1, run.face2, atol=1e-9))

    def test_a_board_on_a_bench_dries_from_one_face_like_one_twice_as_thick(self):
        one_sided = settle(25, 14, 8.5, 300, stacking="bench")
        double = settle(50, 14, 8.5, 300)
        self.assertLess(float(abs(one_sided.mean - double.mean).max()), 0.08)
        self.assertGreater(one_sided.face2[100], one_sided.face1[100])

    def test_stacking_orders_the_wait(self):
        waits = [settle(30, 14, 8.5, 1500, stacking=how).day_when(8.5, 1.0) for how in ("sticks", "still", "sealed")]
        self.assertEqual(waits, sorted(waits))
        quick = settling_days(30, 14, 8.5, 0.55).days
        self.assertLess(abs(waits[0] / quick - 1), 0.35, "the quick form is near the full one")

    def test_changing_air_is_followed(self):
        run = settle(10, 8, lambda day: 8.0 if day < 100 else 11.0, 200, 0.5)
        self.assertAlmostEqual(float(np.interp(95, run.days, run.mean)), 8.0, delta=0.05)
        self.assertGreater(run.mean[-1], 10.5)

    def test_a_pace_is_found_again_from_weighings(self):
        book = settle(40, 18, 8.5, 600, 0.6)
        for pace in (0.6, 1.0, 1.7):
            days = np.array([0, 10, 25, 45, 70], float)
            fit = fitted_pace(book, days, np.interp(days * pace, book.days, book.mean))
            self.assertLess(abs(fit.pace / pace - 1), 0.03)
            self.assertTrue(fit.slowest <= fit.pace <= fit.quickest)
        self.assertIsNone(fitted_pace(book, np.array([0.0, 5.0]), np.array([18.0, 17.0])))

    def test_sizes_that_are_no_board_are_refused(self):
        for thick, days in ((0, 10), (50, 0), (2000, 10)):
            with self.assertRaises(ValueError):
                settle(thick, 12, 8, days)


class RestLog(unittest.TestCase):
    def log(self, *rows):
        return [Rest(on=(date(2026, 1, 1) + timedelta(days=d)).isoformat(), bow_mm=b) for d, b in rows]

    def test_the_worked_example_becomes_settled(self):
        state = rest_state(self.log((0, 1.5), (3, 2.0), (7, 2.0), (10, 2.0)))
        self.assertEqual((state.word, state.still_days), ("settled", 7))
        self.assertEqual(rest_state(self.log((0, 1.5), (3, 2.0), (7, 2.0))).word, "watching")
        self.assertEqual(rest_state(self.log((0, 1.5), (3, 2.0))).word, "moving")
        self.assertEqual(rest_state([]).word, "unread")

    def test_creeping_is_not_still_however_small_each_step(self):
        self.assertNotEqual(rest_state(self.log(*((4 * k, 1 + 0.15 * k) for k in range(8)))).word, "settled")

    def test_twist_counts_as_movement(self):
        rows = [Rest(on=f"2026-01-{1 + 4 * k:02d}", bow_mm=1.0, twist_mm=0.5 * k) for k in range(4)]
        self.assertEqual(rest_state(rows).word, "moving")


class Taps(unittest.TestCase):
    def test_the_worked_example(self):
        self.assertLess(abs(stiffness_gpa(600, 368, 500, 20) / 12.4 - 1), 0.01)
        self.assertAlmostEqual(timoshenko_factor(500, 20), 1.034, delta=0.001)
        self.assertAlmostEqual(quality(368, 0.09), math.pi * 368 * 0.09)
        self.assertAlmostEqual(quality(368, decay_from_t60(0.5)), 0.4548 * 368 * 0.5, delta=0.1)
        self.assertAlmostEqual(speed_m_s(368, 500, 20), 0.9728 * 368 * 0.25 / 0.02 * math.sqrt(1.0341), delta=1)
        self.assertAlmostEqual(radiation_ratio(4551, 600), 7.585)

    def test_the_correction_has_no_step_at_any_length(self):
        factors = [timoshenko_factor(x * 22, 22) for x in (19.9, 19.999, 20.0, 20.001, 20.1, 700 / 22)]
        self.assertTrue(all(a >= b for a, b in itertools.pairwise(factors)))
        self.assertLess(factors[0] - factors[4], 0.002)
        self.assertAlmostEqual(factors[2], 1.053, delta=0.001)
        self.assertAlmostEqual(factors[-1], 1.021, delta=0.001, msg="a bar of 700 x 22 read 2.1 % low")

    def test_speed_and_stiffness_agree_for_a_slender_bar(self):
        e, c = stiffness_gpa(600, 368, 500, 20) * 1e9, speed_m_s(368, 500, 20)
        self.assertLess(abs(math.sqrt(e / 600) / c - 1), 0.001)

    def test_the_tone_of_a_stiffness_is_its_inverse_and_stubby_bars_are_corrected(self):
        for length, thick in ((500, 20), (300, 25)):
            self.assertAlmostEqual(stiffness_gpa(600, expected_hz(12, 600, length, thick), length, thick), 12)
        self.assertGreater(timoshenko_factor(300, 25), timoshenko_factor(500, 20))

    def test_only_like_sizes_are_compared(self):
        a = Tap(on="2026-01-01", hz=368, length_mm=500, width_mm=80, thickness_mm=20, density_kg_m3=600, decay_s=0.1)
        self.assertEqual(unlike(a, a.changed(hz=300.0, length_mm=510.0)), "")
        self.assertIn("length 500 and 600", unlike(a, a.changed(length_mm=600.0)))
        self.assertAlmostEqual(facts_of(a).stiffness_gpa, 12.4, delta=0.1)
        self.assertIsNone(facts_of(a.changed(density_kg_m3=None)).stiffness_gpa)


class MovementAndWeight(unittest.TestCase):
    def test_the_worked_example_and_the_ready_board(self):
        self.assertAlmostEqual(-width_change_mm(200, 12, 8, 8), 2.2, delta=0.05)
        self.assertAlmostEqual(-width_change_mm(200, 12, 9.3, 8), 1.5, delta=0.05)

    def test_quartered_wood_moves_less_and_its_thickness_more(self):
        flat, quarter = (over_a_year(200, 25, 8, 4, a, 7, 10) for a in (0, 90))
        self.assertGreater(flat.width_mm, 1.9 * quarter.width_mm)
        self.assertGreater(quarter.thickness_mm, flat.thickness_mm)
        self.assertAlmostEqual(thickness_shrinkage(8, 4, 0), 4)
        self.assertGreater(diamond_deg(8, 4, 45, 12, 8), diamond_deg(8, 4, 10, 12, 8))
        self.assertAlmostEqual(diamond_deg(8, 4, 0, 12, 8), 0)

    def test_cup_against_the_mapping_worked_by_hand(self):
        """Two points of the mapping: the middle and the edge of a flat-sawn face."""
        width, pith = 180.0, 120.0
        er, et = -width_change_mm(1, 12, 8, 4), -width_change_mm(1, 12, 8, 8)
        r, phi = math.hypot(width / 2, pith), math.atan2(width / 2, pith)
        edge = r * (1 - er) * math.cos(phi * (1 - et) / (1 - er))
        wanted = edge - pith * (1 - er)
        self.assertAlmostEqual(free_cup_mm(width, 8, 4, 12, 8, pith), wanted, places=6)
        self.assertGreater(wanted, 0, "drying leaves the bark face hollow")
        self.assertLess(free_cup_mm(width, 8, 4, 8, 12, pith), 0)
        self.assertLess(abs(free_cup_mm(width, 8, 4, 12, 8, pith, 89)), 0.05 * wanted)

    def test_across_a_glue_line(self):
        self.assertAlmostEqual(across_glue_line_mm(100, (8, 4, 0), (8, 4, 0), 7, 10), 0)
        apart = across_glue_line_mm(100, (8, 4, 0), (8, 4, 90), 7, 10)
        self.assertAlmostEqual(apart, width_change_mm(100, 7, 10, 8) - width_change_mm(100, 7, 10, 4))

    def test_density_and_its_standing(self):
        self.assertAlmostEqual(4.2 / (0.9 * 0.18 * 0.04), 648.1, delta=0.1)
        self.assertAlmostEqual(density_at_12(density_kg_m3(0.55, 12), 12), density_kg_m3(0.55, 12), delta=0.5)
        middle = density_standing(600, 600, 0.1, "Ash")
        self.assertAlmostEqual(middle.percentile, 50)
        self.assertFalse(middle.outlier)
        self.assertIn("wrong species or wet", density_standing(790, 600, 0.1, "Ash").question)
        self.assertIn("lighter", density_standing(430, 600, 0.1, "Ash").question)
        self.assertAlmostEqual(density_standing(660, 600, 0.1, "Ash").percentile, 84.1, delta=0.1)

    def test_a_finished_part_s_weight_and_spread(self):
        one = part_weight(100_000, 44, 550, cavities_mm3=300_000, spread=0.1)
        self.assertAlmostEqual(one.kg, (100_000 * 44 * 0.97 - 300_000) / 1e9 * 550)
        self.assertAlmostEqual(one.spread_kg, 0.1 * one.kg)
        both = one + one
        self.assertAlmostEqual(both.kg, 2 * one.kg)
        self.assertAlmostEqual(both.spread_kg, math.sqrt(2) * one.spread_kg)


class ReadingsOverTime(unittest.TestCase):
    def test_old_readings_are_history(self):
        rows = tuple(
            MoistureReading(x_mm=1, y_mm=1, depth_mm=20, moisture_pct=m, on=on)
            for m, on in ((25, "2026-01-01"), (12, "2026-06-20"), (9, "2026-07-01"))
        )
        piece = Piece(id="1", moisture=rows)
        self.assertEqual([r.moisture_pct for r in piece.moisture_now], [12, 9])
        undated = piece.changed(moisture=tuple(r.changed(on=None) for r in rows))
        self.assertEqual(len(undated.moisture_now), 3)


if __name__ == "__main__":
    unittest.main()
