"""Ways out for a part that does not fit: each patch, applied, makes the planner place the part; the price is told; nothing is promised falsely."""

import json
import tempfile
import unittest
from pathlib import Path

from grainet.cli import main
from grainet.design.clip import area_mm2
from grainet.design.part import Part, Zone
from grainet.design.parts import design_of
from grainet.design.recipe import Build, Component, Recipe, Way
from grainet.design.starting_points import begin
from grainet.job.job import Job
from grainet.kit.shop_profile import GUESSED_CUTS
from grainet.plan.planner import PlannerCache, plainer_plan, plan_job
from grainet.plan.rescue import Rescuer
from grainet.plan.verify import check
from grainet.wood.defects import Defect
from grainet.wood.piece import Flatness, Piece
from tests.pace import within

HALF = ((0, 0), (400, 0), (400, 120), (300, 160), (0, 150))


def board(number, length, width, thick):
    return Piece(
        id=number, species="European ash", outline=((0, 0), (length, 0), (length, width), (0, width)), thickness_mm=thick
    )


def half_job(*pieces, **changes):
    part = Part(id="half", role="body_half", outline=HALF, thickness_mm=44.0, value=10, **changes)
    return Job(pieces=pieces, parts=(part,), builds=(Build(id="b", recipes=(Recipe(id="r", value=10, needs={"half": 1}),)),))


def patched(job, change):
    """A job with JSON Patch operations applied, by the plain rules of the standard."""
    data = json.loads(job.model_dump_json(exclude_defaults=True, by_alias=True))
    for op in change:
        *path, last = op["path"].strip("/").split("/")
        into = data
        for name in path:
            into = into[int(name)] if isinstance(into, list) else into[name]
        if isinstance(into, list):
            if last == "-":
                into.append(op["value"])
            elif op["op"] == "replace":
                into[int(last)] = op["value"]
        else:
            into[last] = op["value"]
    return Job.model_validate_json(json.dumps(data))


class Ways(unittest.TestCase):
    def each_holds(self, job, part, piece, guitars=()):
        found = Rescuer(job, part, piece, guitars).rescue()
        for way in found.ways:
            again = patched(job, way.change)
            plan = plainer_plan(again, PlannerCache())  # by hand's rule, which is quick and mostly enough
            if part not in {p.part for p in plan.placements}:
                plan = plan_job(again, seconds=within(10))
            self.assertIn(part, {p.part for p in plan.placements}, way.kind)
            self.assertEqual(list(check(again, plan)), [], way.kind)
            self.assertGreaterEqual(way.margin_mm, -1e-6, way.kind)
        return found, {w.kind: w for w in found.ways}

    def test_a_job_in_components_has_ways_out_too(self):
        """Ways keep their components; one that needs nothing stays as it is."""
        ways = (Way(id="halves", needs={"half": 1}), Way(id="other", needs={"spare": 1}))
        build = Build(
            id="b", value=5.0, components=(Component(id="body", ways=ways), Component(id="plate", ways=(Way(id="none"),)))
        )
        asked = half_job(board("A", 1000.0, 140.0, 50.0), board("B", 900.0, 60.0, 50.0))
        spare = asked.parts[0].changed(id="spare")
        asked = asked.changed(version=2, parts=(*asked.parts, spare), builds=(build,))
        _, kinds = self.each_holds(asked, "half", "A")
        self.assertIn("centre strip", kinds)
        changed = patched(asked, kinds["centre strip"].change).builds[0]
        self.assertEqual([c.id for c in changed.components], ["body", "plate"])
        self.assertGreater(len(changed.components[0].ways[0].needs), 1)
        self.assertEqual((changed.components[0].ways[1].needs, changed.components[1].ways[0].needs), ({"spare": 1}, {}))

    def test_too_narrow_a_board(self):
        job = half_job(board("A", 1000.0, 140.0, 50.0), board("B", 900.0, 60.0, 50.0))
        found, ways = self.each_holds(job, "half", "A")
        self.assertEqual((found.what, found.short_mm), ("width", 20.0))
        self.assertLessEqual({"centre strip", "third piece"}, set(ways))
        self.assertTrue(ways["centre strip"].visible)
        self.assertEqual((ways["third piece"].seams, ways["third piece"].days), (1, 1))
        self.assertTrue(ways["centre strip"].wood)

    def test_too_thin_a_board_has_four_ways_and_the_one_that_keeps_the_drawing_is_first(self):
        job = half_job(board("A", 1000.0, 200.0, 40.0), board("B", 900.0, 200.0, 9.0), board("C", 900.0, 200.0, 50.0))
        found, ways = self.each_holds(job, "half", "A")
        self.assertEqual((found.what, found.short_mm), ("thickness", 4.0))
        self.assertLessEqual({"another piece", "extra layer", "skins", "thinner body"}, set(ways))
        self.assertEqual(found.ways[0].kind, "another piece")
        self.assertEqual(found.ways[-1].kind, "thinner body", "what changes the drawing comes last")
        self.assertEqual(ways["another piece"].wood[0][0], "C")

    def test_a_cupped_board_is_ripped_before_flattening(self):
        cupped = board("A", 420.0, 330.0, 47.0).changed(flatness=Flatness(cup_mm=16.0))
        self.assertEqual(len(plan_job(half_job(cupped), seconds=1).placements), 0, "in one piece it is too thin")
        found, ways = self.each_holds(half_job(cupped), "half", "A")
        self.assertEqual(found.what, "thickness")
        rip = ways["shorten or rip before flattening"]
        self.assertEqual((rip.seams, rip.days, rip.keeps_drawing), (1, 1, True))
        # cup over half the width takes a quarter of it: 44 and 16 (80 / 330)^2 of 47
        self.assertAlmostEqual(rip.margin_mm, 47.0 - 44.0 - 16.0 * (80.0 / 330.0) ** 2, delta=0.02)
        bowed = board("A", 420.0, 330.0, 47.0).changed(flatness=Flatness(bow_mm=16.0))
        self.assertNotIn("shorten or rip before flattening", self.each_holds(half_job(bowed), "half", "A")[1])

    def test_a_nail_is_sawn_out_and_a_strip_let_in(self):
        nail = Defect(id="k1", kind="nail", polygon=((195, 72), (205, 72), (205, 78), (195, 78)), face="through")
        spoilt = board("A", 402.0, 170.0, 50.0).changed(defects=(nail,))
        job = half_job(spoilt, board("B", 500.0, 60.0, 50.0))
        found, ways = self.each_holds(job, "half", "A")
        self.assertIsNone(found.short_mm)
        insert = ways["split and insert"]
        self.assertEqual((insert.seams, insert.visible), (2, True))
        parts = {op["value"]["id"]: op["value"] for op in insert.change if op["path"].startswith("/parts")}
        self.assertEqual(set(parts), {"half", "half.other", "half.insert"})
        areas = [abs(area_mm2(tuple(map(tuple, p["outline"])))) for p in parts.values()]
        self.assertAlmostEqual(sum(areas), abs(area_mm2(HALF)), delta=1.0, msg="the three make the part, no more and no less")

    def test_a_half_that_only_fits_mirrored_or_turned(self):
        outline = ((0, 0), (400, 0), (400, 80), (200, 80), (200, 150), (0, 150))
        knot = Defect(id="k1", kind="knot", polygon=((20, 110), (60, 110), (60, 140), (20, 140)), face="through")
        spoilt = board("A", 401.0, 151.0, 50.0).changed(defects=(knot,))
        part = Part(
            id="half",
            role="body_half",
            outline=outline,
            thickness_mm=44.0,
            turns_deg=(0.0,),
            faces_up=("1",),
            zones=(Zone(kind="critical", polygon="rest"),),
        )
        job = Job(pieces=(spoilt,), parts=(part,))
        _, ways = self.each_holds(job, "half", "A")
        self.assertLessEqual({"swap or flip halves", "other end or face up"}, set(ways))
        self.assertNotIn("shift and tilt", ways)

    def test_an_instrument_s_neck_has_ears_other_heads_and_a_shorter_scale(self):
        g = begin("bolt-on", "heron", "Heron")
        design = design_of(g)
        build = Build(id=g.id, recipes=(design.recipes[-1],))
        pieces = (board("A", 700.0, 70.0, 30.0), board("B", 1200.0, 400.0, 60.0), board("C", 600.0, 80.0, 9.0))
        job = Job(kit=GUESSED_CUTS, pieces=pieces, parts=design.parts, builds=(build,))
        found, ways = self.each_holds(job, "heron.neck", "A", [g])
        self.assertEqual(found.what, "width")
        self.assertIn("ears", ways)
        self.assertEqual(ways["ears"].seams, 2)
        short = job.changed(pieces=(board("A", 635.0, 120.0, 30.0), *pieces[1:]))
        found, ways = self.each_holds(short, "heron.neck", "A", [g])
        self.assertEqual(found.what, "length")
        self.assertLessEqual({"other head route", "shorter scale", "another piece"}, set(ways))
        self.assertFalse(ways["shorter scale"].keeps_drawing)

    def test_where_nothing_helps_it_says_what_was_tried(self):
        found = Rescuer(half_job(board("A", 100.0, 50.0, 10.0)), "half", "A").rescue()
        self.assertEqual(found.ways, ())
        self.assertIn("another piece", found.tried)

    def test_what_the_time_did_not_reach_is_not_said_to_have_been_tried(self):
        pieces = [board(str(k), 500.0 + 20 * k, 60.0 + 3 * k, 20.0 + k / 2) for k in range(40)]
        found = Rescuer(half_job(*pieces), "half", "30", seconds=0.0).rescue()
        self.assertEqual((found.ways, found.tried), ((), ()))


class Command(unittest.TestCase):
    def test_rescue_writes_patches_and_refuses_strangers(self):
        with tempfile.TemporaryDirectory() as scratch:
            folder = Path(scratch)
            job = half_job(board("A", 1000.0, 140.0, 50.0), board("B", 900.0, 300.0, 50.0))
            (folder / "job.json").write_text(job.model_dump_json(exclude_defaults=False, by_alias=True, exclude_none=True))
            code = main(["rescue", str(folder / "job.json"), "--part", "half", "--piece", "A", "--out", str(folder / "out.json")])
            self.assertEqual(code, 0)
            answer = json.loads((folder / "out.json").read_text())
            self.assertEqual((answer["part"], answer["piece"], answer["short_mm"]), ("half", "A", 20.0))
            self.assertIn("another piece", [w["kind"] for w in answer["ways"]])
            self.assertEqual(set(answer["ways"][0]), {"kind", "change", "seams", "days", "wood", "margin_mm", "visible"})
            self.assertEqual(
                main(["rescue", str(folder / "job.json"), "--part", "nix", "--piece", "A", "--out", str(folder / "o")]), 2
            )


if __name__ == "__main__":
    unittest.main()
