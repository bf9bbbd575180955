"""Clamps wanted, weights and movement of a plan, and what its glue lines ask for."""

import unittest

from grainet.demo.designs import MERROW, PLOVER
from grainet.kit.gluing import SHIPPED_CLAMPS, SHIPPED_GLUES, Clamp
from grainet.kit.shop_profile import GUESSED_CUTS, HouseRules, ShopProfile
from grainet.wood.climate import year_of
from grainet.wood.weight import ROUNDING
from grainet.work.clamping import clamps_at_hand, clamps_wanted, pressure_mpa, short_of_clamps
from grainet.work.glue_ups import joint_warnings
from grainet.work.weights import movements_of, together, weights_of
from tests.jobs import job, piece, planned

YELLOW = next(g for g in SHIPPED_GLUES if g.id == "yellow")
EPOXY = next(g for g in SHIPPED_GLUES if g.id == "epoxy")


class Clamps(unittest.TestCase):
    def test_count_by_cover_and_by_force(self):
        wide = clamps_wanted(600, 20, 150, 300, 0.4, YELLOW, 5.0)
        self.assertEqual((wide.by, wide.count), ("coverage", 3), "600 long at 200 apart")
        thick = clamps_wanted(600, 45, 150, 300, 0.6, YELLOW, 2.0)
        self.assertEqual((thick.by, thick.count), ("force", 19), "600 x 45 at 1.4 MPa is 37.8 kN")
        self.assertAlmostEqual(thick.force_kn, 600 * 45 * 1.4 / 1000)

    def test_a_joint_that_is_just_so_many_spacings_long_wants_no_clamp_more(self):
        glue = SHIPPED_GLUES[1]
        self.assertEqual(clamps_wanted(152.4, 5.4, 5.4, 60, 0.5, glue).count, 3)
        self.assertEqual(clamps_wanted(152.6, 5.4, 5.4, 60, 0.5, glue).count, 4)

    def test_pressure_is_clipped_and_epoxy_wants_contact(self):
        self.assertEqual((pressure_mpa(0.1, YELLOW), pressure_mpa(1.0, YELLOW)), (0.7, 1.7))
        self.assertLess(pressure_mpa(0.6, EPOXY), 0.21)

    def test_three_long_clamps_where_six_are_wanted_are_flagged(self):
        clamps = (
            Clamp(id="long", name="Long", reach_mm=900, force_kn=2.5, count=3),
            Clamp(id="short", name="Short", reach_mm=200, count=20, force_kn=0.5),
        )
        wish = clamps_wanted(1000, 12, 120, 400, 0.5, YELLOW, 2.5)
        self.assertGreaterEqual(wish.count, 5)
        self.assertIn("3 at hand", short_of_clamps(clamps, wish))
        self.assertEqual(short_of_clamps((clamps[0].changed(count=12),), wish), "")
        self.assertEqual(clamps_at_hand(SHIPPED_CLAMPS, 400), 6, "tape is no clamp")

    def test_a_glue_goes_off_and_slows_in_the_cold(self):
        self.assertTrue(YELLOW.changed(expires="2025-01-01").stale("2026-01-01"))
        self.assertFalse(YELLOW.stale("2026-01-01"))
        self.assertAlmostEqual(YELLOW.slower_at(15), 2.0)
        self.assertEqual(YELLOW.slower_at(25), 1.0)


class OfAPlan(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        wet = [{"x_mm": 1, "y_mm": 1, "depth_mm": 25, "moisture_pct": 8.5}]
        rack = [
            piece("A", 1000, 190, 50, species="Red alder", moisture=wet, mass_kg=4.3, ring_angle_deg=[20, 20]),
            piece("B", 760, 90, 30, species="Sugar maple (hard)", moisture=wet, ring_angle_deg=[80, 80]),
            piece(
                "C",
                540,
                74,
                10,
                species="Indian rosewood",
                moisture=[{"x_mm": 1, "y_mm": 1, "depth_mm": 5, "moisture_pct": 12.5}],
            ),
        ]
        made = job(rack, [], None)
        cls.job = made.changed(kit=GUESSED_CUTS, parts=PLOVER.parts, builds=(PLOVER.build,))
        cls.plan = planned(cls.job)
        cls.kit = ShopProfile()

    def test_weights_have_a_spread_and_sum(self):
        rows = weights_of(self.job, self.plan, self.kit, PLOVER.brief)
        self.assertEqual({r.role for r in rows}, {"body_half", "neck", "fretboard"})
        body = next(r for r in rows if r.role == "body_half")
        density = 4.3 / (1.0 * 0.19 * 0.05)
        whole = 2 * 2 * 0.5 * 0.47 * 0.172 * 0.044 * density * ROUNDING
        self.assertTrue(0.5 * whole < body.weight.kg < whole, "an outline with cavities is less than its rectangle")
        self.assertFalse(body.guessed)
        neck = next(r for r in rows if r.role == "neck")
        self.assertTrue(neck.guessed and neck.weight.spread_kg > 0.05 * neck.weight.kg, "never weighed: the species' own spread")
        self.assertAlmostEqual(together(rows).kg, sum(r.weight.kg for r in rows))

    def test_every_part_has_its_movement(self):
        rows = movements_of(self.job, self.plan, self.kit, year_of(()))
        self.assertEqual(len(rows), 3)
        body = next(r for r in rows if r.piece == "A")
        self.assertGreater(body.year.width_mm, body.year.thickness_mm)
        tight = self.kit.changed(rules=HouseRules(most_movement_mm=0.05))
        self.assertTrue(all(r.over for r in movements_of(self.job, self.plan, tight, year_of(()))))

    def test_what_the_glue_lines_ask_for(self):
        found = joint_warnings(self.job, self.plan, self.kit, year_of(()))
        kinds = {(m.name, m.warning.code, m.warning.grade) for m in found}
        self.assertIn(("neck and fretboard", "dust", "warn"), kinds, "rosewood dust on maple")
        self.assertIn(("neck and fretboard", "moisture", "block"), kinds, "12.5 beside 8.5")
        self.assertIn(("body halves", "clamps", "warn"), kinds)
        lax = self.kit.changed(rules=HouseRules(gap_warns_pct=5.0, gap_blocks_pct=6.0))
        self.assertNotIn(
            "moisture", {m.warning.code for m in joint_warnings(self.job, self.plan, lax, year_of(()))}, "the house rule decides"
        )
        many = self.kit.changed(clamps=(Clamp(id="b", name="Bars", reach_mm=900, force_kn=2.0, count=30),))
        self.assertNotIn("clamps", {m.warning.code for m in joint_warnings(self.job, self.plan, many, year_of(()))})

    def test_a_name_with_and_in_it_keeps_its_cautions(self):
        """The glue-up is known by its parts, not by words in its name."""
        parts = tuple(p.changed(label="top and back" if p.role == "neck" else p.label) for p in self.job.parts)
        plain, named = (
            joint_warnings(self.job, self.plan, self.kit, year_of(())),
            joint_warnings(self.job.changed(parts=parts), self.plan, self.kit, year_of(())),
        )
        self.assertEqual([m.parts for m in plain], [m.parts for m in named])
        joined = next(m for m in named if m.warning.code == "moisture")
        self.assertEqual({self.job.part(p).role for p in joined.parts}, {"neck", "fretboard"})

    def test_a_role_of_other_words_is_the_same_joint(self):
        parts = tuple(p.changed(role="bolt_on_neck" if p.role == "neck" else p.role) for p in self.job.parts)
        found = joint_warnings(self.job.changed(parts=parts), self.plan, self.kit, year_of(()))
        self.assertIn("moisture", {m.warning.code for m in found})

    def test_gloves_never_at_a_blade_and_never_cotton_with_cyanoacrylate(self):
        from grainet.demo.rack import rack
        from grainet.kit.shop_profile import ShopProfile
        from grainet.work.glue_ups import of_the_glue
        from grainet.work.steps import steps_for

        board = rack()[7].changed(species="Cocobolo", candidates=(), species_sure=True)
        for species in ("Cocobolo", "unknown"):
            made = self.job.changed(pieces=tuple(p.changed(species=species) for p in self.job.pieces))
            for one in made.pieces:
                for step in steps_for(made, self.plan, one):
                    for caution in step.cautions:
                        if "gloves" in caution.text:
                            self.assertRegex(caution.text, "no gloves|for the wiping", caution.text)
        self.assertTrue(board.species)
        ca = ShopProfile(glue_in_use="ca")
        self.assertTrue(any("never cotton" in p.step for p in of_the_glue(ca, "2026-11-24")))

    def test_the_glue_in_use_and_its_times_in_this_warmth(self):
        from grainet.work.glue_ups import of_the_glue

        warm = of_the_glue(self.kit, "2026-11-24")
        self.assertIn(f"closed within {self.kit.glue.closed_min:g}", warm[-1].text)
        self.assertEqual([(p.grade, p.code) for p in warm], [("note", "glue_times")])
        self.assertIn("in clamps 0.75 h, machine after 24 h", warm[0].text)
        cold = self.kit.changed(temperature_c=5.0, glues=tuple(g.changed(expires="2020-01-01") for g in self.kit.glues))
        grades = [p.grade for p in of_the_glue(cold, "2026-11-24")]
        self.assertEqual(grades, ["block", "warn", "note"])
        self.assertIn("in clamps 6 h", of_the_glue(cold, "2026-11-24")[-1].text, "eight times as long at 5 °C")


class Brief(unittest.TestCase):
    def test_rod_depth_by_two_alters_the_least_neck_depth(self):
        from grainet.design.brief import Hardware, demands, falls_short, held_roles

        brief = MERROW.brief
        deeper = tuple(h.changed(mm=h.mm + 2) if h.kind == "rod_depth" else h for h in brief)
        least = [next(d.least_mm for d in demands(b) if d.what == "Neck depth at the rod") for b in (brief, deeper)]
        self.assertAlmostEqual(least[1] - least[0], 2)
        self.assertEqual(falls_short(brief, "neck", 22), "")
        self.assertIn("14.5", falls_short(brief, "neck", 12))
        self.assertEqual(held_roles(brief), {})
        guessed = tuple(h.changed(status="guessed") if h.kind == "rod_depth" else h for h in brief)
        self.assertIn("neck", held_roles(guessed))
        self.assertNotIn("body_half", held_roles(guessed))
        self.assertEqual(demands(()), [])
        self.assertEqual(demands((Hardware(kind="nut_width", mm=42, status="guessed"),))[0].guessed, ("Nut width",))


if __name__ == "__main__":
    unittest.main()
