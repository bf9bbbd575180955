"""Jobs told otherwise, made harder or easier: their values and bounds must go together, whatever the search found.

A few jobs here; ``./run bench variants`` runs hundreds, and counts how often an unproved value goes the wrong way.
"""

import unittest

from grainet.plan.planner import plan_job
from grainet.plan.verify import check
from tests.jobs import planned, random_job
from tests.plan import variants as v

SEEDS = (4,)


class Variants(unittest.TestCase):
    def test_values_and_bounds_of_variants_go_together(self):
        for seed in SEEDS:
            made = random_job(seed)
            plain = planned(made)
            rows = (
                ("same", v.shuffled(made, seed)), ("same", v.mirrored(made)), ("easier", v.with_more_wood(made)),
                ("harder", v.with_a_crack(made, seed)), ("harder", v.with_a_wider_saw(made)),
            )  # fmt: skip
            for n, (relation, asked) in enumerate(rows):
                with self.subTest(seed=seed, relation=relation, n=n):
                    plan = plan_job(asked)
                    self.assertEqual(list(check(asked, plan)), [])
                    self.assertEqual(v.broken(plain, plan, relation), "")

    def test_a_lie_is_found(self):
        plan = planned(random_job(4))
        self.assertIn("at most", v.broken(plan, plan.changed(value=v.most(plan) + 1), "harder"))
        low = plan.changed(bound=plan.value - 1, bound_scope="all")
        self.assertIn("says at most", v.broken(plan, low, "easier"))


if __name__ == "__main__":
    unittest.main()
