"""Version 2 of a job: flaws that are kept, figure that is seen, by-products, objectives, and plans that differ."""

import json
import tempfile
import unittest
from pathlib import Path

from shapely.geometry import Polygon

from grainet.cli import main
from grainet.design.recipe import Build
from grainet.exchange.job_file import with_prices
from grainet.exchange.json_file import to_value
from grainet.job.job import Job
from grainet.plan.planner import plan_job, plans_for
from grainet.plan.verify import check
from tests.jobs import SAW, job, part, piece, rect

KNOT = {"id": "k1", "kind": "knot", "face": "through", "polygon": rect(20, 20, 700, 40)}
SEEN = [{"kind": "seen", "polygon": rect(120, 60, 20, 15)}, {"kind": "critical", "polygon": "rest"}]


def second(asked, **more):
    made = asked.changed(version=2, **more)
    assert not list(made.faults()), list(made.faults())
    return made


def codes(asked, plan):
    return {fault.code for fault in check(asked, plan)}


class Kept(unittest.TestCase):
    def asked(self, **more):
        plain = job(
            [piece("A", 1000, 120, 30, defects=[KNOT]), piece("B", 1000, 120, 30)],
            [part("x", 300, 90, zones=SEEN, quantity=2)],
            SAW,
        )
        return second(plain, parts=(plain.parts[0].changed(**more),))

    def test_a_flaw_lies_whole_in_the_zone_of_at_least_one_copy(self):
        free = plan_job(self.asked())
        asked = self.asked(keep=({"defect": "k1", "piece": "A", "zone": "seen"},))
        plan = plan_job(asked)
        self.assertEqual((plan.made, check(asked, plan)), ({"x": 2}, []))
        shape = Polygon(KNOT["polygon"])
        self.assertTrue(any(Polygon(p.polygon).covers(shape) for p in plan.placements if p.piece == "A"))
        self.assertEqual(codes(self.asked(), free), set())
        bearing = next(p for p in plan.placements if Polygon(p.polygon).covers(shape))
        away = bearing.changed(x=bearing.x - 60, polygon=tuple((x - 60, y) for x, y in bearing.polygon))
        moved = plan.changed(placements=tuple(away if p is bearing else p for p in plan.placements))
        self.assertIn("keep", codes(asked, moved))

    def test_one_that_cannot_be_kept_makes_no_part(self):
        asked = self.asked(keep=({"defect": "k1", "piece": "A", "zone": "hidden"},))
        self.assertEqual(plan_job(asked).placements, ())

    def test_the_share_of_a_figure(self):
        ring = tuple(map(tuple, rect(100, 50, 400, 30)))
        asked = self.asked(figure=({"zone": "seen", "polygon": ring, "piece": "B", "share": 0.9},))
        plan = plan_job(asked)
        self.assertEqual((plan.made, check(asked, plan)), ({"x": 2}, []))
        away = self.asked(figure=({"zone": "seen", "polygon": tuple((x + 300, y) for x, y in ring), "piece": "B", "share": 0.9},))
        self.assertIn("figure", codes(away, plan))

    def test_what_leads_nowhere_is_told(self):
        plain = job([piece("A", 900, 120, 30)], [part("x", 300, 90)], SAW)
        bad = plain.parts[0].changed(
            keep=({"defect": "q", "piece": "A", "zone": "seen"}, {"defect": "q", "piece": "Z", "zone": "seen"}),
            figure=({"zone": "seen", "polygon": ((0, 0), (9, 0), (9, 9)), "piece": "Z"},), byproduct=True,
        )  # fmt: skip
        build = Build(id="b", recipes=({"id": "r", "needs": {"x": 1}},))
        places = {where for where, _ in plain.changed(version=2, parts=(bad,), builds=(build,)).faults()}
        wanted = {"parts[0].keep[0].defect", "parts[0].keep[1].piece", "parts[0].figure[0].piece", "parts[0].byproduct"}
        self.assertLessEqual(wanted, places)


class ByProducts(unittest.TestCase):
    def test_they_fill_what_is_left_and_displace_nothing(self):
        plain = job([piece("A", 1000, 100, 30)], [part("x", 300, 90, quantity=2, value=1), part("y", 60, 60, value=50)], SAW)
        greedy = plan_job(plain)
        self.assertLess(greedy.made["x"], 2, "by value alone they would take all of it")
        asked = second(plain, parts=(plain.parts[0], plain.parts[1].changed(byproduct=True)))
        plan = plan_job(asked)
        self.assertEqual((plan.made["x"], check(asked, plan)), (2, []))
        self.assertGreaterEqual(plan.made["y"], 4)
        self.assertGreaterEqual(plan.bound, plan.value)

    def test_straight_cuts_part_them_too_and_a_build_stays_whole(self):
        builds = [{"id": "b", "recipes": [{"id": "r", "value": 9, "needs": {"x": 2}}]}]
        plain = job(
            [piece("A", 1000, 100, 30)],
            [part("x", 300, 90), part("y", 60, 60, quantity=2)],
            {**SAW, "cutting": "straight"},
            builds,
        )
        asked = second(plain, parts=(plain.parts[0], plain.parts[1].changed(byproduct=True)))
        plan = plan_job(asked)
        self.assertEqual((plan.builds, plan.value, plan.made, check(asked, plan)), ({"b": "r"}, 9, {"x": 2, "y": 2}, []))


class Objectives(unittest.TestCase):
    def asked(self, objective, **more):
        ways = [
            {"id": "one", "value": 3, "needs": {"x": 1}, "joints": 0},
            {"id": "two", "value": 5, "needs": {"y": 2}, "joints": 1},
        ]
        build = {"id": "b", "value": 10, "components": [{"id": "neck", "ways": ways}]}
        pieces = [piece("A", 700, 100, 30, mass_kg=2.0), piece("B", 700, 100, 30, mass_kg=0.9)]
        told = {
            "format": "grainet-job", "version": 2, "kit": SAW, "pieces": pieces, "builds": [build],
            "parts": [part("x", 600, 80), part("y", 300, 80)], **({"objective": objective} if objective else {}), **more,
        }  # fmt: skip
        made = to_value(with_prices(told), Job, "job")
        self.assertEqual(list(made.faults()), [])
        return made

    def planned(self, objective, **more):
        asked = self.asked(objective, **more)
        plan = plan_job(asked)
        self.assertEqual(check(asked, plan), [])
        self.assertGreaterEqual(plan.bound, plan.value)
        return plan

    def test_builds_come_first_then_the_objective_then_what_the_ways_are_worth(self):
        self.assertEqual((self.planned(None).builds["b"], self.planned(None).value), ({"neck": "two"}, 15))
        joints = self.planned("joints")
        self.assertEqual((joints.builds["b"], joints.value), ({"neck": "one"}, 13))
        self.assertEqual(self.planned("yield").builds["b"], {"neck": "two"})

    def test_weight_takes_the_light_board_and_cost_the_cheap_one(self):
        self.assertEqual({p.piece for p in self.planned("weight").placements}, {"B"})
        dear = [piece("A", 700, 100, 30, price=10), piece("B", 700, 100, 30, price=90)]
        self.assertEqual({p.piece for p in self.planned("cost", pieces=dear).placements}, {"A"})
        dear.reverse()
        self.assertEqual({p.piece for p in self.planned("cost", pieces=dear).placements}, {"A"})

    def test_figure_is_laid_where_it_is_seen(self):
        curl = [{"id": "f1", "kind": "curl", "face": "through", "polygon": rect(330, 100, 370, 0), "strength": 1.0}]
        boards = [piece("A", 700, 100, 30, figure=curl)]
        only = self.asked("figure", pieces=boards)
        ways = only.builds[0].components[0].ways[1].changed(needs={"y": 1})
        one = only.changed(builds=(only.builds[0].changed(components=(only.builds[0].components[0].changed(ways=(ways,)),)),))
        plan = plan_job(one)
        self.assertGreaterEqual(min(x for x, _ in plan.placements[0].polygon), 330)


class Alternatives(unittest.TestCase):
    def test_plans_differ_in_a_board_or_a_way_and_the_best_comes_first(self):
        asked = Objectives.asked(self, None, plans=4)
        plans = plans_for(asked)
        self.assertEqual(len(plans), 4)
        told = {(tuple(sorted({p.piece for p in plan.placements})), plan.builds["b"]["neck"]) for plan in plans}
        self.assertEqual(len(told), 4)
        self.assertEqual([plan.value for plan in plans], sorted((plan.value for plan in plans), reverse=True))
        for plan in plans:
            self.assertEqual(check(asked, plan), [])
        self.assertLess(len(plans_for(asked.changed(plans=9))), 9, "no more than there are")

    def test_the_command_writes_them_and_checks_them(self):
        with tempfile.TemporaryDirectory() as scratch:
            folder = Path(scratch)
            asked = Objectives.asked(self, "joints", plans=2)
            (folder / "job.json").write_text(asked.model_dump_json(by_alias=True, exclude_none=True))
            self.assertEqual(main(["plan", str(folder / "job.json"), "--out", str(folder / "plans.json")]), 0)
            told = json.loads((folder / "plans.json").read_text())
            self.assertEqual((told["format"], len(told["plans"])), ("grainet-plans", 2))
            self.assertEqual(main(["check", str(folder / "job.json"), str(folder / "plans.json")]), 0)
            told["plans"][1]["value"] += 1
            (folder / "plans.json").write_text(json.dumps(told))
            self.assertNotEqual(main(["check", str(folder / "job.json"), str(folder / "plans.json")]), 0)
