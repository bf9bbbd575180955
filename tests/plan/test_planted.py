"""Boards that were made for a plan: a grid of one part, alone and among others, is found whole; the bounds stand beside one another."""

import json
import random
import unittest

from grainet.job.job import Job
from grainet.plan.bound import value_bound
from grainet.plan.planner import Planner
from grainet.plan.verify import check

KERF = {"crosscut": 3, "rip": 3, "resaw": 1.2, "outline": 3}


def rectangle(number, long, wide, **more):
    outline = [[0, 0], [long, 0], [long, wide], [0, wide]]
    return {"id": number, "outline": outline, "thickness_mm": 20, "value": long * wide / 1000, **more}


def planted(size, count, cutting, others=()):
    """(job, worth of the grid): a board as large as ``count`` (along, across) parts of a size with a kerf between."""
    (long, wide), (along, across) = size, count
    x, y = along * long + (along - 1) * 3, across * wide + (across - 1) * 3
    wood = {"id": "A", "kind": "plank", "species": "unknown", "outline": [[0, 0], [x, 0], [x, y], [0, y]], "thickness_mm": 30}
    parts = [rectangle(f"p{k}", *s) for k, s in enumerate((size, *others))]
    told = {"kit": {"kerf_mm": KERF, "cutting": cutting}, "pieces": [wood], "parts": parts}
    return Job.model_validate_json(json.dumps(told)), along * across * long * wide / 1000


class Grids(unittest.TestCase):
    def found(self, asked, worth):
        plan = Planner(asked).plan()
        self.assertEqual(check(asked, plan), [])
        self.assertGreaterEqual(plan.value, worth - 1e-6)
        self.assertGreaterEqual(plan.bound_all if plan.bound_all is not None else plan.bound, plan.value - 1e-6)

    def test_a_board_for_a_grid_gives_all_of_it(self):
        """What it gave before its own rows were kept: 0.76 to 0.93 of it."""
        for size, count, cutting in (
            ((97, 41), (7, 5), "outline"),
            ((97, 41), (7, 5), "straight"),
            ((210, 55), (5, 8), "straight"),
        ):
            with self.subTest(f"{size} {cutting}"):
                self.found(*planted(size, count, cutting))

    def test_among_parts_of_other_sizes_too(self):
        self.found(*planted((97, 41), (6, 5), "straight", ((150, 33), (71, 19))))
        self.found(*planted((180, 70), (4, 4), "outline", ((95, 35), (260, 41))))

    def test_parts_beside_a_nail_keep_their_rows(self):
        asked, worth = planted((150, 60), (8, 5), "straight")
        nail = {"id": "n", "kind": "nail", "face": "through", "polygon": [[75, 20], [78, 20], [78, 23], [75, 23]]}
        data = json.loads(asked.model_dump_json(by_alias=True))
        data["pieces"][0]["defects"] = [nail]
        nailed = Job.model_validate_json(json.dumps(data))
        plan = Planner(nailed).plan()
        self.assertEqual(check(nailed, plan), [])
        self.assertAlmostEqual(plan.value, worth * 39 / 40, delta=1e-6)


class Bounds(unittest.TestCase):
    def test_both_are_given_and_neither_is_below_the_value_nor_above_what_is_asked_for(self):
        r = random.Random(5)
        for _ in range(2):
            asked, _ = planted((97, 41), (4, 3), "straight", ((150, 33), (r.randint(50, 90), 19)))
            asked = asked.changed(parts=tuple(p.changed(quantity=r.randint(3, 9)) for p in asked.parts))
            plan = Planner(asked).plan()
            demand = sum(p.value * p.quantity for p in asked.parts)
            self.assertLessEqual(plan.value, plan.bound + 1e-6)
            if plan.bound_scope == "candidates":
                self.assertIsNotNone(plan.bound_all)
                self.assertLessEqual(plan.value - 1e-6, plan.bound_all)
                self.assertLessEqual(plan.bound_all, demand + 1e-6)
            else:
                self.assertIsNone(plan.bound_all)

    def test_a_value_of_a_tenth_is_not_rounded_up(self):
        asked, _ = planted((97, 41), (2, 1), "straight")
        asked = asked.changed(parts=(asked.parts[0].changed(value=16.1, quantity=2),))
        planner = Planner(asked)
        planner.prepare()
        self.assertEqual(value_bound(asked, planner.sheets), 32.2)
