"""Laws that the physics of wood must keep whatever the figures: drying, weighing, moving, pairing, finding a name."""

import unittest
from datetime import date, timedelta

import numpy as np
from hypothesis import HealthCheck, assume, given, settings
from hypothesis import strategies as st

from grainet.kit.gluing import SHIPPED_GLUES
from grainet.kit.machine import Machine
from grainet.match.joint_warning import Member, warnings_of
from grainet.wood.candidates import weighed_up
from grainet.wood.climate import SHIPPED_YEAR, AirReading, year_of
from grainet.wood.density import density_standing
from grainet.wood.moisture import dry_basis_pct, equilibrium_pct, humidity_for, settling_days, wet_basis_pct
from grainet.wood.movement import (
    across_glue_line_mm,
    diamond_deg,
    face_change_mm,
    free_cup_mm,
    over_a_year,
    shrinkage_across_face,
    width_change_mm,
)
from grainet.wood.record import Rest, Weighing
from grainet.wood.rest import rest_state
from grainet.wood.settling import EMISSION_M_S, Board, days_to_settle, settle
from grainet.wood.species import library, library_with, plain
from grainet.wood.weighing import levelled_off, mass_at, moisture_from_mass, sample_pct
from grainet.work.clamping import clamps_wanted

PCT = st.floats(5, 28)
SHRINK = st.floats(2, 12)
ANGLE = st.floats(0, 90)
LIBRARY = library_with()
QUIET = settings(max_examples=40, deadline=None, suppress_health_check=[HealthCheck.filter_too_much])


class MovingByTheRings(unittest.TestCase):
    def test_near_the_heart_a_flat_face_moves_less_than_its_tangential_share(self):
        straight = width_change_mm(150, 12, 8, 9.1)
        near, far = (face_change_mm(150, 9.1, 5.0, 12, 8, 0.0, mm) for mm in (120, 5000))
        self.assertLess(abs(near), abs(straight) * 0.97)
        self.assertAlmostEqual(far, straight, delta=0.01)
        self.assertAlmostEqual(face_change_mm(150, 9.1, 5.0, 12, 8, 90.0, 5000), width_change_mm(150, 12, 8, 5.0), delta=0.03)
        self.assertEqual(face_change_mm(150, 9.1, 5.0, 12, 8, 0.0), straight)

    @QUIET
    @given(st.floats(20, 200), SHRINK, st.floats(10, 400))
    def test_a_curved_face_moves_between_its_radial_and_tangential_share(self, width, tangential, pith):
        radial = tangential * 0.5
        moved = abs(face_change_mm(width, tangential, radial, 12, 8, 0.0, pith))
        self.assertLessEqual(moved, abs(width_change_mm(width, 12, 8, tangential)) + 1e-6)
        self.assertGreaterEqual(moved, abs(width_change_mm(width, 12, 8, radial)) * 0.98)


class MoistureTold(unittest.TestCase):
    @QUIET
    @given(st.floats(0.05, 0.94), st.floats(5, 30))
    def test_the_air_that_holds_a_moisture_is_the_inverse(self, humidity, temperature):
        self.assertAlmostEqual(humidity_for(equilibrium_pct(temperature, humidity), temperature), humidity, places=6)

    def test_wet_and_dry_weight_and_weight_at_a_target(self):
        self.assertAlmostEqual(dry_basis_pct(20), 25)
        self.assertAlmostEqual(wet_basis_pct(25), 20)
        self.assertIsNone(humidity_for(40, 20))
        self.assertAlmostEqual(mass_at(11.2, 12, 8), 10.8)
        self.assertAlmostEqual(moisture_from_mass(mass_at(7.7, 14, 9), 7.7, 14), 9)


class OneForecast(unittest.TestCase):
    @settings(max_examples=12, deadline=None)
    @given(st.lists(st.tuples(st.floats(3, 90), st.floats(5, 40), st.sampled_from(sorted(EMISSION_M_S))), min_size=8, max_size=9))
    def test_many_boards_at_once_are_ready_when_each_alone_is(self, rows):
        boards = [Board(thick, pct, 8.5, 0.55, 20.0, how) for thick, pct, how in rows]
        together = days_to_settle(boards, 1.0)
        for board, day in zip(boards, together):
            alone = days_to_settle([board], 1.0)[0]
            if day is None or alone is None:
                self.assertEqual(day, alone)
            else:
                self.assertAlmostEqual(day, alone, places=6)


class Drying(unittest.TestCase):
    @settings(max_examples=25, deadline=None)
    @given(st.floats(3, 80), PCT, st.floats(6, 14), st.floats(0.3, 1.0), st.sampled_from(sorted(EMISSION_M_S)))
    def test_moisture_stays_between_start_and_air_and_only_goes_one_way(self, thick, start, air, sg, how):
        run = settle(thick, start, air, 120, sg, stacking=how)
        low, high = min(start, air) - 0.02, max(start, air) + 0.02
        for line in (run.core, run.mean, run.face1, run.face2):
            self.assertTrue((line >= low).all() and (line <= high).all())
        steps = np.diff(run.mean)
        ripple = 5e-4  # of a point, once it has settled
        self.assertTrue((steps <= ripple).all() if start > air else (steps >= -ripple).all())

    @settings(max_examples=20, deadline=None)
    @given(st.floats(8, 40), st.floats(12, 25), st.floats(0.35, 0.9))
    def test_thicker_wood_waits_longer(self, thick, start, sg):
        waits = [settle(t, start, 8.5, 1500, sg).day_when(8.5, 1.0) for t in (thick, 1.5 * thick)]
        assume(None not in waits)
        self.assertLess(*waits)
        quick = [settling_days(t, start, 8.5, sg).days for t in (thick, 1.5 * thick)]
        self.assertLess(*quick)

    @settings(max_examples=15, deadline=None)
    @given(st.floats(10, 50), st.floats(0.4, 2.5))
    def test_a_quicker_pace_is_the_same_curve_in_less_time(self, thick, pace):
        book, other = settle(thick, 16, 8, 200), settle(thick, 16, 8, 200, pace=pace)
        days = np.linspace(1, 200 / max(pace, 1), 20)
        self.assertLess(
            float(abs(np.interp(days, other.days, other.mean) - np.interp(days * pace, book.days, book.mean)).max()), 0.12
        )


class Weighing_(unittest.TestCase):
    @QUIET
    @given(st.floats(0.5, 60), PCT, st.floats(0.7, 1.4))
    def test_masses_and_moistures_are_inverse(self, kg, pct, factor):
        there = moisture_from_mass(kg * factor, kg, pct)
        self.assertAlmostEqual(moisture_from_mass(kg, kg * factor, there), pct, places=6)

    @QUIET
    @given(st.floats(1, 500), st.floats(0, 200))
    def test_a_sample_gives_its_moisture_back(self, dry, pct):
        self.assertAlmostEqual(sample_pct(dry * (1 + pct / 100), dry), pct, places=6)

    @QUIET
    @given(st.lists(st.floats(0.9995, 1.0005), min_size=3, max_size=8), st.floats(1, 50))
    def test_level_means_within_a_thousandth_over_a_week(self, wobble, kg):
        rows = [Weighing(on=(date(2026, 1, 1) + timedelta(days=4 * k)).isoformat(), kg=kg * w) for k, w in enumerate(wobble)]
        tail = [r.kg for r in rows[-3:]]
        expected = max(tail) - min(tail) <= 0.001 * min(tail) + 1e-12
        self.assertEqual(levelled_off(rows), expected, "three weighings four days apart span a week")

    @QUIET
    @given(st.lists(st.floats(0, 6).map(lambda v: round(v, 1)), min_size=1, max_size=10))
    def test_a_log_is_settled_only_when_its_last_week_is_still(self, bows):
        rows = [Rest(on=(date(2026, 1, 1) + timedelta(days=4 * k)).isoformat(), bow_mm=b) for k, b in enumerate(bows)]
        still = len(bows) >= 3 and max(bows[-3:]) - min(bows[-3:]) <= 0.2 + 1e-9
        self.assertEqual(rest_state(rows).word == "settled", still)


class Moving(unittest.TestCase):
    @QUIET
    @given(st.floats(20, 400), PCT, PCT, SHRINK)
    def test_there_and_back_is_where_one_began(self, width, a, b, shrink):
        there = width + width_change_mm(width, a, b, shrink)
        self.assertAlmostEqual(there + width_change_mm(there, b, a, shrink), width, delta=1e-6 * width)

    @QUIET
    @given(SHRINK, SHRINK, ANGLE)
    def test_across_a_face_lies_between_radial_and_tangential(self, tangential, radial, angle):
        found = shrinkage_across_face(tangential, radial, angle)
        self.assertTrue(min(tangential, radial) - 1e-9 <= found <= max(tangential, radial) + 1e-9)

    @QUIET
    @given(st.floats(40, 300), SHRINK, SHRINK, ANGLE, ANGLE, PCT, PCT)
    def test_a_glue_line_is_alike_from_both_sides_and_nothing_between_twins(self, width, t, r, a, b, m1, m2):
        first, second = (t, r, a), (t, r, b)
        self.assertAlmostEqual(
            across_glue_line_mm(width, first, second, m1, m2), across_glue_line_mm(width, second, first, m1, m2)
        )
        self.assertEqual(across_glue_line_mm(width, first, first, m1, m2), 0)

    @QUIET
    @given(st.floats(40, 250), st.floats(4, 12), st.floats(0.3, 0.9), st.floats(130, 500), st.floats(9, 20))
    def test_cup_turns_with_the_way_and_vanishes_when_wood_shrinks_alike(self, width, tangential, share, pith, wet):
        drying = free_cup_mm(width, tangential, tangential * share, wet, 7, pith)
        wetting = free_cup_mm(width, tangential, tangential * share, 7, wet, pith)
        self.assertGreater(drying, 0)
        self.assertLess(wetting, 0)
        self.assertLess(abs(free_cup_mm(width, tangential, tangential, wet, 7, pith)), 1e-6)
        self.assertGreater(
            drying, free_cup_mm(width, tangential, tangential * share, wet, 7, 3 * pith), "further from the pith cups less"
        )

    @QUIET
    @given(st.floats(40, 250), st.floats(5, 60), SHRINK, SHRINK, ANGLE)
    def test_a_year_is_never_negative_and_square_at_the_two_ends(self, width, thick, t, r, angle):
        year = over_a_year(width, thick, t, r, angle, 7.4, 9.7)
        self.assertTrue(min(year.width_mm, year.thickness_mm, year.cup_mm, year.out_of_square_deg) >= 0)
        self.assertLess(diamond_deg(t, r, 0, 12, 8) + diamond_deg(t, r, 90, 12, 8), 1e-9)

    @QUIET
    @given(st.floats(0.1, 0.9), st.floats(0.1, 0.9), st.floats(5, 35))
    def test_damper_air_never_asks_for_drier_wood(self, a, b, temperature):
        low, high = sorted((a, b))
        self.assertLessEqual(equilibrium_pct(temperature, low), equilibrium_pct(temperature, high) + 1e-9)

    @QUIET
    @given(st.lists(st.tuples(st.integers(1, 12), st.floats(0.2, 0.9)), max_size=60))
    def test_a_year_has_twelve_months_whatever_was_logged(self, rows):
        readings = [
            AirReading(at=f"2026-{m:02d}-{1 + k % 28:02d}T08:{k % 60:02d}", temperature_c=20, humidity=h)
            for k, (m, h) in enumerate(rows)
        ]
        year = year_of(readings, SHIPPED_YEAR)
        self.assertEqual((len(year.equilibrium_pct), len(year.logged)), (12, 12))
        for month in range(12):
            count = sum(m == month + 1 for m, _ in rows)
            self.assertEqual(year.logged[month], count >= 4)
        self.assertLessEqual(year.driest_pct, year.dampest_pct)


class Names(unittest.TestCase):
    def test_every_name_of_every_species_finds_a_species_of_that_name(self):
        for one in library():
            for name in one.names:
                found = LIBRARY.find(name)
                self.assertIsNotNone(found, name)
                self.assertIn(plain(name), {plain(n) for n in found.names})
            self.assertEqual(LIBRARY.find(one.common), one)
            self.assertEqual(LIBRARY.find(one.scientific).scientific, one.scientific)
            self.assertNotIn("(", LIBRARY.short_name(one.common))

    @QUIET
    @given(st.text(max_size=12))
    def test_any_text_is_searched_without_a_fault(self, text):
        found = LIBRARY.suggest(text, 5)
        self.assertLessEqual(len(found), 5)
        words = plain(text).split()
        self.assertTrue(all(all(w in " ".join(plain(n) for n in s.names) for w in words) for s in found))

    @QUIET
    @given(st.floats(100, 1300), st.sampled_from(library()))
    def test_a_candidate_falls_exactly_beyond_three_deviations(self, density, species):
        row = weighed_up([species], density)[0]
        off = (density - species.density_12_kg_m3) / (species.density_12_kg_m3 * species.density_spread)
        assume(abs(abs(off) - 3) > 1e-6)
        self.assertEqual(row.stands, abs(off) <= 3)
        standing = density_standing(density, species.density_12_kg_m3, species.density_spread, species.common)
        self.assertEqual(standing.outlier, abs(off) > 2)
        self.assertTrue(0 <= standing.percentile <= 100)


class Gluing(unittest.TestCase):
    @QUIET
    @given(st.sampled_from(library()), st.sampled_from(library()), ANGLE, ANGLE, st.one_of(st.none(), PCT), PCT)
    def test_a_pair_asks_for_the_same_whichever_is_named_first(self, a, b, ring_a, ring_b, wet_a, wet_b):
        one, other = Member("A", a, ring_a, wet_a, 80), Member("B", b, ring_b, wet_b, 80)
        first, second = ({(p.grade, p.code) for p in warnings_of(list(pair), 7.4, 9.7)} for pair in ((one, other), (other, one)))
        self.assertEqual(first, second)
        kinds = {kind for _, kind in first}
        self.assertEqual("oil" in kinds, "oily" in a.flags | b.flags)
        self.assertEqual("tannin" in kinds, "high_tannin" in a.flags | b.flags)

    @QUIET
    @given(
        st.floats(100, 1200),
        st.floats(5, 60),
        st.floats(30, 300),
        st.floats(0.3, 1.1),
        st.sampled_from(SHIPPED_GLUES),
        st.floats(0.5, 8),
    )
    def test_clamps_never_grow_fewer_with_a_longer_higher_joint(self, joint, high, narrow, sg, glue, force):
        one = clamps_wanted(joint, high, narrow, 2 * narrow, sg, glue, force)
        longer = clamps_wanted(1.5 * joint, high, narrow, 2 * narrow, sg, glue, force)
        higher = clamps_wanted(joint, 1.5 * high, narrow, 2 * narrow, sg, glue, force)
        self.assertGreaterEqual(longer.count, one.count)
        self.assertGreaterEqual(higher.count, one.count)
        self.assertGreaterEqual(one.count * force, one.force_kn - 1e-6)
        self.assertLessEqual(one.spacing_mm, 200 + 1e-9)

    @QUIET
    @given(st.floats(0, 15), st.floats(0, 20), st.floats(1, 120))
    def test_a_leaning_saw_wants_more_room_on_thicker_wood(self, lean, wobble, thick):
        saw = Machine(id="s", name="s", kind="band saw", lean_deg=lean, wander_mm=wobble)
        self.assertGreaterEqual(saw.rough_margin_mm(thick), wobble)
        self.assertGreaterEqual(saw.rough_margin_mm(2 * thick), saw.rough_margin_mm(thick))


if __name__ == "__main__":
    unittest.main()
