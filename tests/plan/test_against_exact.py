"""The planner beside an independent slow method: exact two-dimensional packing of rectangles round holes by constraint solving."""

import unittest

import numpy as np
from ortools.sat.python import cp_model

from grainet.plan.planner import plan_job
from tests.jobs import job, part, piece


def instance(seed):
    r = np.random.default_rng(seed)
    length, width, kerf = int(r.integers(700, 1600)), int(r.integers(120, 300)), int(r.choice([0, 3]))
    parts = []
    for i in range(3):
        a, b = int(r.integers(120, 500)), int(r.integers(40, 140))
        parts.append((f"p{i}", a, b, round(a * b / 10000, 2), int(r.integers(1, 5))))
    holes = [
        (int(r.integers(0, length - 60)), int(r.integers(0, width - 30)), int(r.integers(10, 60)), int(r.integers(8, 30)))
        for _ in range(int(r.integers(0, 3)))
    ]
    return length, width, kerf, parts, holes


def exact_best(length, width, kerf, parts, holes) -> float:
    model = cp_model.CpModel()
    xs, ys, worth = [], [], []
    for _, a, b, value, quantity in parts:
        for _ in range(quantity):
            there = model.new_bool_var("")
            if a > length or b > width:
                model.add(there == 0)
            x, y = model.new_int_var(0, max(0, length - a), ""), model.new_int_var(0, max(0, width - b), "")
            xs.append(model.new_optional_fixed_size_interval_var(x, a + kerf, there, ""))
            ys.append(model.new_optional_fixed_size_interval_var(y, b + kerf, there, ""))
            worth.append(round(value * 100) * there)
            for hx, hy, ha, hb in holes:
                side = [model.new_bool_var("") for _ in range(4)]
                for literal, constraint in zip(side, (x + a <= hx, x >= hx + ha, y + b <= hy, y >= hy + hb)):
                    model.add(constraint).only_enforce_if(literal)
                model.add_bool_or(*side, there.negated())
    model.add_no_overlap_2d(xs, ys)
    model.maximize(sum(worth))
    solver = cp_model.CpSolver()
    solver.parameters.num_workers = 2
    solver.parameters.max_time_in_seconds = 20
    assert solver.solve(model) == cp_model.OPTIMAL
    return solver.objective_value / 100


class AgainstExact(unittest.TestCase):
    def test_value_and_bound(self):
        got = best = 0.0
        for seed in (0, 3, 5, 7, 13):
            length, width, kerf, parts, holes = instance(seed)
            marks = [
                {"id": f"v{k}", "kind": "hole", "face": "through", "polygon": [[x, y], [x + a, y], [x + a, y + b], [x, y + b]]}
                for k, (x, y, a, b) in enumerate(holes)
            ]
            wanted = [part(n, a, b, 20, value=v, quantity=q, turns_deg=[0]) for n, a, b, v, q in parts]
            plan = plan_job(
                job(
                    [piece("A", length, width, 30, defects=marks)],
                    wanted,
                    {"kerf_mm": dict.fromkeys(("outline", "crosscut", "rip"), kerf)},
                )
            )
            slow = exact_best(length, width, kerf, parts, holes)
            self.assertLessEqual(plan.value, slow + 1e-6, seed)
            if plan.bound_scope == "all":
                self.assertGreaterEqual(plan.bound, slow - 1e-6, seed)
            got, best = got + plan.value, best + slow
        self.assertGreaterEqual(got, 0.98 * best)
