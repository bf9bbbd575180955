"""Plans: known best packings, random jobs through the independent verifier, bounds, determinism, sets and recipes."""

import itertools
import unittest

from grainet.plan.planner import plan_job
from grainet.plan.verify import check
from tests.jobs import SAW, half_ring, job, part, piece, planned, random_job, rect


class KnownBest(unittest.TestCase):
    def made(self, *arguments, **more):
        plan = plan_job(job(*arguments, **more))
        self.assertGreaterEqual(plan.bound, plan.value)
        return plan

    def test_rectangles_that_fill_a_board_to_the_kerf(self):
        for cutting in ("outline", "straight"):
            plan = self.made([piece("A", 3 * 300 + 2 * 3, 2 * 90 + 3)], [part(quantity=20)], {**SAW, "cutting": cutting})
            self.assertEqual(plan.made["p"], 6, cutting)

    def test_one_kerf_too_short_loses_a_column(self):
        plan = self.made([piece("A", 3 * 300 + 2 * 3 - 0.01, 2 * 90 + 3)], [part(quantity=20)], SAW)
        self.assertEqual(plan.made["p"], 4)

    def test_mixed_lengths(self):
        parts = [
            part("a", 400, 90, value=4),
            part("b", 250, 90, value=2.5, quantity=2),
            part("c", 150, 90, value=1.5, quantity=1),
        ]
        plan = self.made([piece("A", 400 + 250 + 250 + 150 + 9, 90)], parts, SAW)
        self.assertAlmostEqual(plan.value, 4 + 5 + 1.5)

    def test_two_halves_lie_head_to_tail(self):
        half = {"id": "h", "outline": half_ring(), "thickness_mm": 28, "quantity": 4}
        plan = self.made([piece("A", 2 * 470 + 3, 171)], [half], SAW)
        self.assertEqual(plan.made["h"], 2)

    def test_a_slab_that_just_fits_a_tilted_part(self):
        lean = [[0, 0], [600, 20.95], [600, 121], [0, 100.05]]  # two degrees
        part_ = {"id": "n", "outline": rect(590, 98), "thickness_mm": 20, "tilt_deg": 3, "quantity": 1}
        kit = {**SAW}
        plan = self.made([{"id": "A", "outline": lean, "thickness_mm": 25, "flatness": {"crook_in_outline": True}}], [part_], kit)
        self.assertEqual(plan.made["n"], 1)
        self.assertAlmostEqual(plan.placements[0].angle_deg % 180, 2.0, delta=0.3)

    def test_leaves_come_from_one_footprint_and_the_stack_counts_kerf_and_skims(self):
        kit = {**SAW, "resaw_skim_mm": 0.4, "skim_mm": 0.5}
        for thickness, wanted in ((7 * 2 + 1.2 + 0.8 + 1.0, 1), (7 * 2 + 1.2 + 0.8 + 0.99, 0)):
            plan = self.made([piece("A", 320, 100, round(thickness, 6))], [part(thickness=7, leaves=2, quantity=1)], kit)
            self.assertEqual(plan.made["p"], wanted, thickness)
        self.assertEqual(
            self.made(
                [piece("A", 320, 210, 30)], [part(width=205, thickness=7, leaves=2)], {"machines": {"resaw_height_mm": 200}}
            ).made["p"],
            0,
        )


class Sets(unittest.TestCase):
    def test_a_same_piece_set_is_not_split(self):
        small = [piece("A", 320, 95), piece("B", 320, 95)]
        self.assertEqual(plan_job(job(small, [part(per_set=2, same_piece=True)])).made["p"], 0)
        self.assertEqual(plan_job(job(small, [part(per_set=2)])).made["p"], 1)

    def test_the_better_recipe_is_taken_and_a_build_is_made_once(self):
        builds = [
            {
                "id": "b",
                "recipes": [
                    {"id": "one board", "value": 100, "needs": {"p": 2}, "same_piece": ["p"]},
                    {"id": "any", "value": 80, "needs": {"p": 2}},
                ],
            }
        ]
        split = plan_job(job([piece("A", 320, 95), piece("B", 320, 95)], [part()], SAW, builds))
        self.assertEqual((split.value, split.builds), (80, {"b": "any"}))
        whole = plan_job(job([piece("A", 320, 95), piece("B", 700, 95)], [part()], SAW, builds))
        self.assertEqual((whole.value, whole.builds), (100, {"b": "one board"}))
        self.assertEqual({p.piece for p in whole.placements}, {"B"})
        self.assertEqual(whole.bound_scope, "all")

    def test_parts_count_only_through_recipes(self):
        plan = plan_job(
            job(
                [piece()],
                [part(), part("q", 900, 190)],
                SAW,
                [{"id": "b", "recipes": [{"id": "r", "value": 9, "needs": {"p": 1, "q": 1}}]}],
            )
        )
        self.assertEqual((plan.value, plan.placements), (0, ()))

    def test_a_barred_piece_is_refused_with_its_reason(self):
        made = job([piece()], [part()])
        from grainet.job.job import Exclusion

        plan = plan_job(made.changed(barred=(Exclusion(part="p", piece="A", why="too wet"),)))
        self.assertEqual(plan.placements, ())
        self.assertEqual(plan.refused[0].why, "too wet")


class CleanUp(unittest.TestCase):
    """Strips ripped side by side keep what is planed off both sawn sides; a part that does not ask lies a kerf away."""

    def gaps(self, cutting, clean):
        made = job([piece("A", 800, 200, 20)], [part("s", 700, 30, thickness_mm=18, clean=clean)], {
            "kerf_mm": {"crosscut": 3, "rip": 3, "resaw": 1.2, "outline": 3}, "edge_mm": 1, "trim_mm": 4, "cutting": cutting,
        })  # fmt: skip
        plan = plan_job(made)
        self.assertEqual(check(made, plan), [])
        ys = sorted((min(y for _, y in p.polygon), max(y for _, y in p.polygon)) for p in plan.placements)
        return plan, made, [b[0] - a[1] for a, b in itertools.pairwise(ys)]

    def test_between_neighbours(self):
        for cutting in ("straight", "outline"):
            with self.subTest(cutting):
                self.assertAlmostEqual(min(self.gaps(cutting, False)[2]), 3, places=5)
                self.assertGreaterEqual(min(self.gaps(cutting, True)[2]), 5 - 1e-6)

    def test_the_verifier_wants_it_too(self):
        plan, made, _ = self.gaps("outline", False)
        asked = made.changed(parts=tuple(p.changed(clean=True) for p in made.parts))
        self.assertTrue("apart" in {fault.code for fault in check(asked, plan)})


class Whole(unittest.TestCase):
    def test_random_jobs_give_plans_that_the_verifier_takes(self):
        for seed in (1, 3, 4, 5):
            with self.subTest(seed):
                made = random_job(seed)
                plan = planned(made)  # raises PlanFault where the verifier refuses
                self.assertEqual(check(made, plan), [])
                for shares in plan.balance.values():
                    self.assertAlmostEqual(shares.total, 1, delta=0.005)

    def test_the_same_job_effort_and_seed_give_the_same_plan(self):
        made = random_job(3)
        first, second = (plan_job(made).changed(seconds=0.0) for _ in range(2))
        self.assertEqual(first, second)

    def test_refusals_say_the_figures(self):
        plan = plan_job(job([piece("A", 250, 200), piece("B", 400, 80), piece("C", 400, 200, 19)], [part()], {"trim_mm": 4}))
        why = {r.piece: r.why for r in plan.refused}
        self.assertIn("242.0 long", why["A"])
        self.assertIn("80.0 wide", why["B"])
        self.assertIn("19.0 thick", why["C"])

    def test_a_refusal_is_of_the_part_as_it_stands_not_as_it_was_tried_at_a_lean(self):
        """A board that is just as wide as the part and too thin is too thin; leaning the part would want it wider."""
        made = job([piece("A", 700, 92, 14)], [part("p", 638, 88, 22, tilt_deg=1.0)], {"edge_mm": 2, "skim_mm": 0.6})
        (told,) = plan_job(made).refused
        self.assertIn("12.8 thick after flattening", told.why)
        self.assertEqual(told.code, "thickness")

    def test_a_cap_on_the_seconds_says_so_or_changes_nothing(self):
        made = random_job(0)
        plan = plan_job(made, seconds=0.05)
        self.assertTrue(plan.capped)
        self.assertEqual(check(made, plan), [])

    def test_nothing_to_do(self):
        self.assertEqual(plan_job(job([], [part()])).value, 0)
        self.assertEqual(plan_job(job([piece()], [])).value, 0)
