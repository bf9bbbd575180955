"""The verifier refuses what is wrong with a plan: one planted fault at a time."""

import unittest

from grainet.plan.planner import plan_job
from grainet.plan.verify import check, least_thickness
from grainet.wood.thickness import ThicknessField
from tests.jobs import SAW, job, part, piece, random_job


class Planted(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        defects = [
            {"id": "m1", "kind": "nail", "polygon": [[760, 40], [764, 40], [764, 44], [760, 44]]},
            {
                "id": "k1",
                "kind": "knot",
                "face": "1",
                "polygon": [[420, 150], [440, 150], [440, 170], [420, 170]],
                "depth_mm": 12,
            },
        ]
        kit = {
            **SAW,
            "cutting": "straight",
            "skim_mm": 0.5,
            "trim_mm": 4,
            "edge_mm": 1,
            "metal_clear_mm": 15,
            "machines": {"resaw_height_mm": 150},
        }
        cls.job = job(
            [piece("A", 1400, 200, 26, defects=defects), piece("B", 400, 100, 30)],
            [part(quantity=3, mirror=False), part("t", 250, 80, 7, leaves=2, quantity=1)],
            kit,
        )
        cls.plan = plan_job(cls.job)

    def refused(self, words, plan):
        faults = check(self.job, plan)
        self.assertTrue(any(words in str(f) for f in faults), (words, faults))

    def with_placement(self, k=0, **changes):
        rows = list(self.plan.placements)
        rows[k] = rows[k].changed(**changes)
        return self.plan.changed(placements=tuple(rows))

    def moved(self, dx, dy, k=0):
        one = self.plan.placements[k]
        return self.with_placement(k, x=one.x + dx, y=one.y + dy, polygon=tuple((x + dx, y + dy) for x, y in one.polygon))

    def test_the_plan_itself_holds(self):
        self.assertEqual(check(self.job, self.plan), [])
        self.assertEqual(self.plan.made, {"p": 3, "t": 1})

    def test_polygon_value_bound_and_counts(self):
        one = self.plan.placements[0]
        self.refused("polygon is not", self.with_placement(polygon=tuple((x + 0.5, y) for x, y in one.polygon)))
        self.refused("value says", self.plan.changed(value=self.plan.value + 1, bound=self.plan.bound + 1))
        self.refused("bound", self.plan.changed(bound=self.plan.value - 1))
        self.refused("made says", self.plan.changed(made={"p": 2, "t": 1}))
        self.refused("needs 1 copies of 2", self.plan.changed(placements=tuple(p for p in self.plan.placements if p.leaf == 1)))

    def test_place(self):
        near_end = min(x for x, _ in self.plan.placements[0].polygon)
        self.refused("from an end", self.moved(2 - near_end, 0))
        self.refused("reaches past", self.moved(0, -400))
        others = [p for p in self.plan.placements if p.piece == self.plan.placements[0].piece and p.part == "p"]
        if len(others) > 1:
            a, b = others[:2]
            k = self.plan.placements.index(a)
            apart = [min(q[i] for q in b.polygon) - min(q[i] for q in a.polygon) for i in (0, 1)]
            self.refused("overlap", self.moved(apart[0] + 1, apart[1], k))

    def test_angle_face_and_mirror(self):
        self.refused("degrees", self.with_placement(angle_deg=7.0))
        self.refused("mirrored", self.with_placement(mirror=True))

    def test_depth(self):
        self.refused("its top lies", self.with_placement(z_top_mm=0.0))
        self.refused("deep where", self.with_placement(z_top_mm=20.0))
        self.refused("to spare", self.with_placement(spare_mm=99.0))
        self.refused("finished", self.with_placement(finished_mm=12.0))

    def test_metal_and_defects(self):
        ring = tuple((x - 20, y) for x, y in ((760, 30), (1060, 30), (1060, 120), (760, 120)))
        k = next(k for k, p in enumerate(self.plan.placements) if p.piece == "A")
        self.refused("from the nail", self.with_placement(k, x=740.0, y=30.0, polygon=ring, angle_deg=0.0, face_up="1"))
        knot = job(
            [piece("A", 320, 95, 22, defects=[{"id": "c1", "kind": "crack", "polygon": [[100, 20], [160, 20], [160, 24]]}])],
            [part(quantity=1)],
        )
        clean = job([piece("A", 320, 95, 22)], [part(quantity=1)])
        faults = check(knot, plan_job(clean))
        self.assertTrue(any("crack c1 lies in its seen zone" in f.text and f.code == "zone" for f in faults), faults)

    def test_cuts_that_do_not_cross_harm_a_part_or_leave_one_bound(self):
        cuts = list(self.plan.cuts)
        first = cuts[0]
        (x0, y0), (x1, y1) = first.line[0], first.line[-1]
        short = first.changed(line=((x0, y0), ((x0 + x1) / 2, (y0 + y1) / 2)))
        self.refused("does not cross", self.plan.changed(cuts=(short, *cuts[1:])))
        self.refused("not sawn free", self.plan.changed(cuts=tuple(cuts[:1])))
        one = next(p for p in self.plan.placements if p.piece == first.piece)
        middle = (one.polygon[0][0] + one.polygon[2][0]) / 2
        harm = first.changed(tool="crosscut", line=((middle, 0.0), (middle, 200.0)))
        self.refused("of a part", self.plan.changed(cuts=(harm, *cuts[1:])))

    def test_balance(self):
        piece_id, shares = next(iter(self.plan.balance.items()))
        self.refused(
            "sums to", self.plan.changed(balance={**self.plan.balance, piece_id: shares.changed(parts=shares.parts + 0.02)})
        )
        self.refused("no balance", self.plan.changed(balance={}))

    def test_unknown_names(self):
        self.refused("no part", self.with_placement(part="zz"))
        self.refused("no piece", self.with_placement(piece="zz"))


class Thickness(unittest.TestCase):
    def test_agrees_with_the_planners_field_though_worked_out_apart(self):
        import numpy as np
        from shapely.geometry import Polygon

        for seed in range(12):
            one = random_job(seed).pieces[0]
            if not one.stations:
                continue
            rng = np.random.default_rng(seed)
            x0, y0, x1, y1 = one.extents
            for _ in range(5):
                a, b = sorted(rng.uniform(x0, x1, 2))
                c, d = sorted(rng.uniform(y0, y1, 2))
                ring = np.array([(a, c), (b, c + 3), (b, d + 3), (a, d)])
                mine = ThicknessField.of(one).least_under(ring)
                self.assertAlmostEqual(mine, least_thickness(one, Polygon(ring).buffer(0)), delta=0.02)
