"""What wood can become: every yes is one that the planner makes, every no has the one number that fails, the command writes both."""

import json
import tempfile
import unittest
from pathlib import Path
from unittest import mock

from grainet.cli import main
from grainet.design.outline_body import scaled_body
from grainet.design.starting_points import POINTS, begin
from grainet.kit.cut_kit import CutKit
from grainet.kit.shop_profile import GUESSED_CUTS
from grainet.plan import planner
from grainet.plan.become import Heap
from grainet.plan.planner import PlanFault, plainer_plan, plan_job
from grainet.plan.verify import Fault, check
from grainet.wood.piece import Piece
from tests.jobs import job, part, piece
from tests.pace import within


def board(number, length, width, thick, species="European ash"):
    return Piece(id=number, species=species, outline=((0, 0), (length, 0), (length, width), (0, width)), thickness_mm=thick)


PLENTY = (board("1", 1200.0, 380.0, 62.0), board("2", 1600.0, 120.0, 60.0), board("3", 900.0, 110.0, 12.0))


def made(job):
    """A plan that makes the build; by hand's rule where that does it, since the planner is never worse and takes seconds."""
    plan = plainer_plan(job, planner.PlannerCache())
    return plan if plan.builds else plan_job(job, seconds=within(20))


class Answers(unittest.TestCase):
    def test_every_yes_is_one_that_the_planner_makes(self):
        heap = Heap(PLENTY, GUESSED_CUTS)
        yes = 0
        for point in ("bolt-on", "through"):
            for answer in heap.becomes(begin(point, point, point)):
                if answer.fits:
                    yes += 1
                    job = heap.job_of(answer.instrument)
                    plan = made(job)
                    self.assertTrue(plan.builds, point)
                    self.assertEqual(list(check(job, plan)), [])
                    if point == "bolt-on":  # one is enough
                        grown = answer.instrument.with_figures({"scale_mm": [answer.largest_scale_mm]})
                        self.assertTrue(made(heap.job_of(grown)).builds, f"at {answer.largest_scale_mm}")
                    for margins in answer.margin_mm.values():
                        self.assertGreaterEqual(min(margins.values()), 0)
        self.assertGreaterEqual(yes, 1)

    def test_a_no_has_the_number_that_fails(self):
        heap = Heap([board("1", 600.0, 380.0, 62.0)], CutKit())
        (answer, *_) = heap.becomes(begin("bolt-on", "b", "b"))
        self.assertFalse(answer.fits)
        self.assertEqual((answer.fails.part, answer.fails.what, answer.fails.found), ("neck", "length", 600))
        self.assertAlmostEqual(answer.fails.wanted, 637.8, delta=0.1)

    def test_a_plank_and_a_board_become_a_through_neck_and_a_bolt_on(self):
        heap = Heap([board("a", 2100.0, 120.0, 38.0), board("b", 950.0, 210.0, 28.0)], CutKit())
        heap.patience_s = 30.0
        for point, kind in (("round", "bolt-on"), ("through", "through")):
            first = next((a for a in heap.becomes(begin(point, point, point)) if a.fits), None)
            self.assertEqual(first.instrument.kind if first else None, kind)

    def test_the_largest_scale_is_what_the_length_leaves(self):
        g = begin("through", "t", "t").with_figures(
            {"scale_mm": [600.0], "head.route": "flat", "head.length_mm": 175.0, "tail_mm": 95.0, "ways": {"neck": "one piece"}}
        )
        wide = (board("w", 980.0, 120.0, 60.0), board("b", 1400.0, 300.0, 60.0))
        limited = Heap([wide[0].changed(id="n"), wide[1].changed(thickness_mm=39.0)], CutKit(trim_mm=10.0))
        answer = limited.as_drawn(g)
        self.assertTrue(answer.fits, answer.fails)
        self.assertAlmostEqual(answer.largest_scale_mm, 690, delta=0.2)

    def test_the_thickest_and_the_widest_body_are_what_the_wood_leaves_and_the_planner_makes_them(self):
        g = begin("bolt-on", "b", "b")
        wood = [board("1", 2000.0, 190.0, 52.0), board("2", 1600.0, 120.0, 60.0), board("3", 900.0, 110.0, 12.0)]
        heap = Heap(wood, GUESSED_CUTS)
        answer = heap.with_reach(heap.as_drawn(g))
        self.assertTrue(answer.fits)
        self.assertGreaterEqual(answer.thickest_body_mm, g.body.thickness_mm)
        self.assertLessEqual(answer.thickest_body_mm, 60.0)
        wide = max(y for _, y in g.body.outline) - min(y for _, y in g.body.outline)
        self.assertGreater(answer.widest_body_mm, wide)
        self.assertLess(answer.widest_body_mm, 2 * 190)
        thick = heap.job_of(g.with_figure("body.thickness_mm", answer.thickest_body_mm))
        long = max(x for x, _ in g.body.outline) - min(x for x, _ in g.body.outline)
        broad = heap.job_of(scaled_body(g, long, answer.widest_body_mm))
        for asked in (thick, broad):
            self.assertTrue(made(asked).builds)

    def test_wood_of_another_species_than_is_wished_is_left_out(self):
        g = begin("bolt-on", "b", "b").with_figure("body.species", ["Red alder"])
        answer = Heap(PLENTY, GUESSED_CUTS).as_drawn(g)
        self.assertEqual((answer.fits, answer.fails.part.startswith("body")), (False, True))

    def test_nothing_at_all(self):
        answer = Heap([], CutKit()).as_drawn(begin("bolt-on", "b", "b"))
        self.assertFalse(answer.fits)
        self.assertEqual(answer.fails.found, 0)


def small_job():
    return job(
        [piece("A", 900, 200, 30), piece("B", 700, 150, 30)], [part("x", 300, 90, quantity=3), part("y", 200, 60, quantity=2)]
    )


class NeverWithheld(unittest.TestCase):
    def test_a_plan_that_is_refused_gives_way_to_one_that_holds(self):
        asked = small_job()
        refused = []

        def strict(job, plan):
            if plan.placements and len(refused) < 2:
                refused.append(plan)
                return [Fault("balance", "made up")]
            return check(job, plan)

        with mock.patch.object(planner, "check", strict):
            plan = plan_job(asked)
        self.assertEqual(len(refused), 2)
        self.assertEqual(list(check(asked, plan)), [])

    def test_nothing_laid_always_holds(self):
        with mock.patch.object(planner, "check", lambda _job, plan: [Fault("balance", "made up")] if plan.placements else []):
            plan = plan_job(small_job())
        self.assertEqual((plan.placements, plan.value), ((), 0.0))
        with mock.patch.object(planner, "check", lambda _job, _plan: [Fault("balance", "made up")]), self.assertRaises(PlanFault):
            plan_job(small_job())


class Command(unittest.TestCase):
    def test_become_writes_answers_and_jobs(self):
        with tempfile.TemporaryDirectory() as scratch:
            folder = Path(scratch)
            pieces = [json.loads(p.model_dump_json(exclude_defaults=True)) for p in PLENTY]
            (folder / "stock.json").write_text(json.dumps({"format": "grainet-stock", "version": 1, "pieces": pieces}))
            guitar = {"format": "grainet-guitar", "version": 1, "id": "heron-8", "scale_mm": [628]}
            (folder / "g.json").write_text(json.dumps(guitar))
            code = main(
                [
                    "become",
                    str(folder / "stock.json"),
                    str(folder / "g.json"),
                    "--jobs",
                    str(folder / "jobs"),
                    "--out",
                    str(folder / "out.json"),
                ]
            )
            self.assertEqual(code, 0)
            answers = json.loads((folder / "out.json").read_text())["answers"]
            self.assertEqual(
                (answers[0]["guitar"], answers[0]["scale_mm"], answers[0]["fits"], answers[0]["fails"]),
                ("heron-8", 628, True, None),
            )
            (job,) = (folder / "jobs").iterdir()
            self.assertEqual(main(["plan", str(job), "--out", str(folder / "plan.json"), "--seconds", "20"]), 0)
            self.assertTrue(json.loads((folder / "plan.json").read_text())["builds"])
            (folder / "g.json").write_text(json.dumps({**guitar, "frets": 99}))
            self.assertEqual(
                main(["become", str(folder / "stock.json"), str(folder / "g.json"), "--out", str(folder / "out.json")]), 2
            )

    def test_every_starting_point_is_asked_about(self):
        heap = Heap([PLENTY[2]], GUESSED_CUTS)
        self.assertEqual([next(iter(heap.becomes(begin(p, p, p)))).fits for p in POINTS], [False] * 6)


if __name__ == "__main__":
    unittest.main()
