"""The verifier on sets, builds, recipes, exact flattening, tapers and mirrored parts: good plans pass, planted faults do not."""

import unittest

from grainet.job.answer import Placement, Plan
from grainet.plan.planner import plan_job
from grainet.plan.verify import check
from tests.jobs import SAW, job, part, piece, rect


def alone(made, **more):
    """A plan of one placement of the first part on the first piece at its corner, without cuts."""
    ring = tuple((float(x), float(y)) for x, y in made.parts[0].outline)
    one = {
        "part": made.parts[0].id,
        "set": 1,
        "copy_": 1,
        "leaf": 1,
        "piece": made.pieces[0].id,
        "x": 0.0,
        "y": 0.0,
        "angle_deg": 0.0,
        "polygon": ring,
        "finished_mm": made.parts[0].thickness_mm,
        "spare_mm": 0.0,
        **more,
    }
    shares = {"parts": 1.0, "offcuts": 0.0, "kerf": 0.0, "skims": 0.0, "waste": 0.0}
    from grainet.job.answer import Shares

    return Plan(
        value=1.0,
        bound=1.0,
        made={made.parts[0].id: 1},
        placements=(Placement(**one),),
        balance={made.pieces[0].id: Shares(**shares)},
    )


class Sets(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        builds = [{"id": "b", "recipes": [{"id": "r", "value": 9, "needs": {"p": 2}, "same_piece": ["p"]}]}]
        cls.job = job([piece("A", 700, 95), piece("B", 700, 95)], [part(same_piece=True)], SAW, builds)
        cls.plan = plan_job(cls.job)

    def faults(self, plan):
        return " | ".join(map(str, check(self.job, plan)))

    def test_the_plan_holds(self):
        self.assertEqual(self.faults(self.plan), "")
        self.assertEqual(self.plan.builds, {"b": "r"})

    def test_builds_and_recipes(self):
        self.assertIn("no recipe", self.faults(self.plan.changed(builds={"b": "zz"})))
        self.assertIn("which is not made", self.faults(self.plan.changed(builds={})))
        fewer = self.plan.changed(placements=self.plan.placements[:1], made={"p": 1})
        self.assertIn("has 1 sets of p, its recipe r needs 2", self.faults(fewer))

    def test_same_piece(self):
        rows = list(self.plan.placements)
        other = "B" if rows[1].piece == "A" else "A"
        rows[1] = rows[1].changed(piece=other)
        self.assertIn("comes from 2 pieces, needs one", self.faults(self.plan.changed(placements=tuple(rows))))

    def test_two_of_one_set(self):
        rows = list(self.plan.placements)
        rows[1] = rows[1].changed(set=rows[0].set)
        self.assertIn("needs 1 copies", self.faults(self.plan.changed(placements=tuple(rows))))

    def test_quantity(self):
        made = job([piece("A", 700, 95)], [part(quantity=2)], SAW)
        plan = plan_job(made)
        strict = job([piece("A", 700, 95)], [part(quantity=1)], SAW)
        self.assertIn("wanted are at most 1", " ".join(map(str, check(strict, plan))))


class Flattening(unittest.TestCase):
    def wedge(self, tops):
        stations = [
            {"x_mm": x, "y_mm": y, "thickness_mm": 24, "top_mm": top}
            for (x, y), top in zip(((0, 0), (300, 0), (300, 90), (0, 90)), tops)
        ]
        return job([{"id": "A", "outline": rect(300, 90), "stations": stations, "flatness": {"bow_mm": 3}}], [part(thickness=23)])

    def test_exact_flattening_uses_the_tilt_of_the_board(self):
        tilted = self.wedge((24, 30, 30, 24))
        self.assertFalse([f for f in check(tilted, alone(tilted, flattening="exact", spare_mm=1.0)) if "planes" in f.text])
        twisted = self.wedge((24, 30, 24, 30))
        self.assertTrue([f for f in check(twisted, alone(twisted, flattening="exact", spare_mm=1.0)) if "planes" in f.text])

    def test_the_chain_refuses_what_bow_takes(self):
        bowed = self.wedge((24, 24, 24, 24))
        self.assertTrue([f for f in check(bowed, alone(bowed)) if "thick after flattening" in f.text])

    def test_crook_wants_width_unless_the_outline_shows_it(self):
        for shown, refused in ((False, True), (True, False)):
            made = job([piece("A", 300, 90, 20, flatness={"crook_mm": 2, "crook_in_outline": shown})], [part()])
            found = [f for f in check(made, alone(made)) if "wide there" in f.text]
            self.assertEqual(bool(found), refused)


class Mirrors(unittest.TestCase):
    def test_a_mirrored_part_lies_as_the_contract_writes_it(self):
        ring = [[0, 0], [300, 0], [250, 90], [0, 60]]
        made = job(
            [piece("A", 300, 90, 20)], [{"id": "p", "outline": ring, "thickness_mm": 20, "mirror": True, "faces_up": ["1", "2"]}]
        )
        moved = tuple((x, 90.0 - y) for x, y in ring)
        self.assertFalse([f for f in check(made, alone(made, y=90.0, mirror=True, polygon=moved)) if "polygon" in f.text])
        self.assertFalse([f for f in check(made, alone(made, y=90.0, face_up="2", polygon=moved)) if "polygon" in f.text])
        self.assertTrue(
            [f for f in check(made, alone(made, y=90.0, mirror=True, face_up="2", polygon=moved)) if "polygon" in f.text]
        )

    def test_the_planner_may_mirror_only_where_it_is_allowed(self):
        ring = [[0, 0], [300, 0], [0, 90]]
        bay = {"id": "A", "outline": [[0, 0], [300, 90], [0, 90]], "thickness_mm": 20, "flatness": {"crook_in_outline": True}}
        for allowed in (False, True):
            made = job(
                [bay],
                [
                    {
                        "id": "p",
                        "outline": ring,
                        "thickness_mm": 20,
                        "faces_up": ["1"],
                        "turns_deg": [0],
                        "mirror": allowed,
                        "quantity": 1,
                    }
                ],
            )
            plan = plan_job(made)
            self.assertEqual(plan.made["p"], int(allowed))
            self.assertEqual(check(made, plan), [])


class Contradictions(unittest.TestCase):
    def test_offcuts_that_cover_a_part_or_leave_the_piece(self):
        made = job([piece("A", 700, 200)], [part(quantity=1)], SAW)
        plan = plan_job(made)
        first = plan.offcuts[0]
        far = first.changed(polygon=tuple((x + 9000, y) for x, y in first.polygon))
        self.assertIn("reaches past its piece", " ".join(map(str, check(made, plan.changed(offcuts=(far,))))))
        over = first.changed(id="zz", polygon=plan.placements[0].polygon)
        self.assertIn("covers a part", " ".join(map(str, check(made, plan.changed(offcuts=(over,))))))

    def test_cuts_on_pieces_that_are_gone(self):
        made = job([piece("A", 700, 200)], [part(quantity=1)], SAW)
        plan = plan_job(made)
        again = plan.changed(cuts=(*plan.cuts, plan.cuts[0].changed(n=99)))
        self.assertIn("not in hand any more", " ".join(map(str, check(made, again))))
