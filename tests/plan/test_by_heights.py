"""Exact flattening in planning: where heights over the bench were read, a twisted board gives what the loss chain would refuse."""

import unittest

import numpy as np

from grainet.fit.board_geometry import BoardGeometry
from grainet.fit.exact import Exact, ExactPlacement, Misfit
from grainet.fit.field import Layers, fit_field
from grainet.fit.orientation import orientations_of
from grainet.plan.planner import plan_job
from grainet.plan.verify import check
from tests.jobs import SAW, job, part, rect


def board(top, thickness=30.0, length=1200, width=200, across=3, along=7, **more):
    """A board whose face 1 stands so high over the bench at each place, read on a grid."""
    stations = [
        {"x_mm": float(x), "y_mm": float(y), "thickness_mm": thickness, "top_mm": round(float(top(x / length, y / width)), 3)}
        for x in np.linspace(0, length, along)
        for y in np.linspace(0, width, across)
    ]
    return {"id": "A", "outline": rect(length, width), "stations": stations, **more}


def twisted(by=8.0, **more):
    return board(lambda u, v: by * u * v + 30, flatness={"rock_mm": by}, **more)


def random_board(r):
    """A board that leans, twists and bows a little, and was read as bowed."""
    a, b, c, d = (float(v) for v in r.uniform(-3, 3, 4))
    return board(
        lambda u, v: 60 + 2 * a * u + b * v + c / 3 * u * v + d / 3 * (u - 0.5) ** 2, flatness={"bow_mm": float(r.uniform(2, 6))}
    )


class Wood(unittest.TestCase):
    def test_a_leaning_board_loses_nothing(self):
        """Bow was read as 6, but the heights say that the board only leans: two planes as far apart as it is thick lie in it."""
        leaning = board(lambda u, v: 40 + 6 * u - 2 * v, flatness={"bow_mm": 6})
        asked = job([leaning], [part("p", 1000, 150, 28, tilt_deg=0)], {**SAW, "skim_mm": 0.5})
        plan = plan_job(asked)
        self.assertEqual([(p.part, p.flattening) for p in plan.placements], [("p", "exact")])
        self.assertAlmostEqual(plan.placements[0].spare_mm, 1.0, delta=0.1)
        self.assertEqual(list(check(asked, plan)), [])
        for one in leaning["stations"]:
            del one["top_mm"]
        self.assertEqual(plan_job(job([leaning], [part("p", 1000, 150, 28, tilt_deg=0)], SAW)).placements, ())

    def test_twist_costs_a_part_what_its_own_corners_do(self):
        """Over a quarter of a hyperbolic paraboloid that rises 8 at its corner the best planes lie a quarter of its own rise apart on
        either side: T = t - h l w / (2 L W)."""
        for long, wide in ((600, 100), (600, 200), (300, 100)):
            rise = 8 * (long / 1200) * (wide / 200)
            sheet = BoardGeometry(job([twisted()], [part("p", 1, 1, 1)]).pieces[0], job([twisted()], [part("p", 1, 1, 1)]).kit)
            for thick, fits in ((30 - rise / 2 - 0.15, True), (30 - rise / 2 + 0.1, False)):
                own = job([twisted()], [part("p", long, wide, thick, tilt_deg=0)])
                exact = Exact(sheet, orientations_of(own.parts[0])[0])
                self.assertEqual(isinstance(exact.seat(0.0, 0.0), ExactPlacement), fits, (long, wide, thick))

    def test_what_holds_by_the_chain_is_told_by_the_chain(self):
        asked = job([twisted()], [part("p", 600, 100, 25, quantity=1, tilt_deg=0)], SAW)
        self.assertEqual({p.flattening for p in plan_job(asked).placements}, {"chain"})

    def test_a_flaw_of_some_depth_is_in_the_way_of_planes_that_lean(self):
        knot = {"id": "k", "kind": "rot", "face": "1", "polygon": rect(40, 40, 100, 80), "depth_mm": 0.2}
        leaning = board(lambda u, v: 40 + 6 * u, flatness={"bow_mm": 6}, defects=[knot])
        asked = job([leaning], [part("p", 1000, 190, 28, tilt_deg=0)], {**SAW, "skim_mm": 0.5})
        sheet = BoardGeometry(asked.pieces[0], asked.kit)
        found = Exact(sheet, orientations_of(asked.parts[0])[0]).seat(50.0, 5.0)
        self.assertIsInstance(found, Misfit)
        self.assertEqual(found.rule, "defect")

    def test_a_guarded_field_never_says_more_than_the_chain(self):
        leaning = board(lambda u, v: 40 + 6 * u, flatness={"bow_mm": 6})
        asked = job([leaning], [part("p", 1000, 150, 28, tilt_deg=0)], SAW)
        sheet = BoardGeometry(asked.pieces[0], asked.kit)
        way = orientations_of(asked.parts[0])[0]
        self.assertFalse(fit_field(Layers(sheet), way).fits.any() and Exact(sheet, way).need_mm > sheet.thickness.least)
        self.assertTrue(fit_field(Layers(sheet, guard=0.0), way).fits.any())


class Checked(unittest.TestCase):
    def test_random_boards_give_plans_that_the_check_takes(self):
        r = np.random.default_rng(7)
        by_heights = 0
        for _ in range(3):
            asked = job(
                [random_board(r)],
                [part("n", 690, 70, float(r.uniform(28.2, 28.9)), quantity=2, tilt_deg=1)],
                {**SAW, "skim_mm": 0.4},
            )
            plan = plan_job(asked)
            self.assertEqual(list(check(asked, plan)), [])
            by_heights += sum(p.flattening == "exact" for p in plan.placements)
        self.assertGreater(by_heights, 1)

    def test_planes_that_do_not_fit_are_refused(self):
        leaning = board(lambda u, v: 40 + 6 * u - 2 * v, flatness={"bow_mm": 6})
        asked, thicker = (job([leaning], [part("p", 1000, 150, thick, tilt_deg=0)], SAW) for thick in (28, 30.5))
        plan = plan_job(asked)
        self.assertEqual([p.flattening for p in plan.placements], ["exact"])
        told = plan.changed(placements=tuple(p.changed(finished_mm=30.5) for p in plan.placements))
        self.assertIn("no pair of parallel planes", " ".join(str(f) for f in check(thicker, told)))


if __name__ == "__main__":
    unittest.main()
