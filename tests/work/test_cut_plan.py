"""Plans with an identity of their own: progress by what was done, plans made anew, old shops brought along."""

import json
import sqlite3
import tempfile
import unittest
from pathlib import Path

from grainet.demo.make import make_demo
from grainet.plan.planner import plan_job
from grainet.session.sawing import board_steps, tick
from grainet.session.shop import Shop
from grainet.work.cut_plan import CutPlan, Progress, UnderWay
from grainet.work.operation_name import operation_name
from tests.jobs import planned
from tests.pace import within


class Names(unittest.TestCase):
    def test_a_cut_is_called_by_what_it_does(self):
        self.assertEqual(operation_name("42", "crosscut", ((505, 0), (505, 180))), "42 crosscut 505.0, 0.0 to 180.0")
        self.assertEqual(
            operation_name("42", "crosscut", ((505, 180), (505, 0))), "42 crosscut 505.0, 0.0 to 180.0", "either way"
        )
        self.assertEqual(operation_name("42", "rip", ((0, 120.46), (700, 120.46))), "42 rip 120.5, 0.0 to 700.0")
        self.assertEqual(operation_name("42", "resaw", ((0, 0), (700, 0)), 21.3), "42 resaw 21.3 deep, 0.0 to 700.0 at 0.0")
        first, second = (operation_name("42", "outline", ((0, 0), (50, k), (90, 40))) for k in (10, 11))
        self.assertNotEqual(first, second)
        self.assertTrue(first.startswith("42 outline 0.0 to 90.0, 0.0 to 40.0, "), first)


class InDemo(unittest.TestCase):
    def setUp(self):
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.folder = Path(scratch.name) / "D.grainet"
        self.shop = make_demo(self.folder)
        self.addCleanup(lambda: self.shop.close())
        self.design = next(d for d in self.shop.designs() if d.id == "plover")
        self.job = self.shop.jobs.job_for([self.design])
        self.plan = planned(self.job)

    def accepted(self):
        return self.shop.plans.under_way(self.shop.plans.accept(self.design, self.job, self.plan).id)

    def first_done(self, made):
        board = next(b for b in made.boards if len(made.cuts_of(b)) > 2)
        return board, tick(self.shop, made, board, board_steps(self.shop, made, board)[0], agreed=True)

    def test_every_cut_of_a_plan_has_a_name_of_its_own(self):
        for design in self.shop.designs():  # one of them is resawn and its leaves trimmed at the same place
            job = self.shop.jobs.job_for([design])
            shared = design.id in ("plover", "merrow")  # the others are long in the planning, and a start will do
            plan = planned(job) if shared else plan_job(job, seconds=within(3))
            names = CutPlan(id="p", designs=(design.id,), job=job, plan=plan).names
            self.assertEqual(len(names), len(plan.cuts))
            self.assertEqual(len(set(names.values())), len(names))

    def test_a_plan_made_anew_keeps_what_is_done_and_the_old_one_stays_with_its_reason(self):
        made = self.accepted()
        board, made = self.first_done(made)
        turned = self.plan.changed(
            cuts=tuple(c.changed(n=c.n + 100) for c in self.plan.cuts)
        )  # numbered otherwise, the same cuts
        again = self.shop.plans.accept(self.design, self.job, turned)
        new, old = self.shop.plans.under_way(again.id), self.shop.plans.under_way(made.id)
        self.assertEqual((new.id, old.cut_plan.state, old.cut_plan.reason), ("plover-2", "replaced", "planned anew as plover-2"))
        self.assertEqual([c.n for c in new.made_of(board)], [made.made_of(board)[0].n + 100])
        self.assertEqual(self.shop.plans.accepted_for("plover").id, "plover-2")
        self.assertEqual([u.id for u in self.shop.plans.accepted()], ["plover-2"])
        self.shop.undo()
        self.assertEqual(self.shop.plans.accepted_for("plover").id, "plover")

    def test_what_a_new_plan_does_not_have_counts_as_not_done(self):
        made = self.accepted()
        board, made = self.first_done(made)
        other = self.plan.changed(
            cuts=tuple(c.changed(line=tuple((x + 7.0, y + 7.0) for x, y in c.line)) for c in self.plan.cuts)
        )
        new = self.shop.plans.under_way(self.shop.plans.accept(self.design, self.job, other).id)
        self.assertEqual(new.made_of(board), [])
        self.assertEqual(new.left(), len(self.plan.cuts))

    def test_a_shop_with_plans_of_the_form_before_opens_with_its_progress(self):
        made = self.accepted()
        board, made = self.first_done(made)
        self.shop.close()
        self.back_to_form_four(made, board)
        self.shop = Shop.open(self.folder)
        again = self.shop.plans.accepted_for("plover")
        self.assertEqual((again.id, again.designs, again.cut_plan.plan), ("plover", ("plover",), self.plan))
        self.assertEqual(again.progress, made.progress)
        self.assertEqual([(m.part, m.seam, m.show) for m in again.cut_plan.matched], [("", "far", "sawn")])
        self.assertIsNone(self.shop.undo(), "the journal speaks of plans as they were")
        self.assertTrue(list((self.folder / "backups").glob("*-v4.sqlite")))

    def back_to_form_four(self, made: UnderWay, board: str) -> None:
        """The shop's file as a Grainet before form 5 would have written it."""
        first = made.cuts_of(board)[0].n
        db = sqlite3.connect(self.folder / "shop.sqlite", isolation_level=None)
        db.execute("DELETE FROM item WHERE kind IN ('cut_plan', 'progress')")
        plan, job = (v.model_dump(mode="json", by_alias=True, exclude_defaults=True) for v in (made.plan, made.job))
        text = json.dumps(
            {
                "id": "plover",
                "job": job,
                "plan": plan,
                "done": [first],
                "agreed": list(made.progress.agreed and [first]),
                "opening": "far-sawn",
            }
        )
        db.execute("INSERT INTO item (id, kind, version, json) VALUES ('laid:plover', 'laid', 1, ?)", (text,))
        db.execute("PRAGMA user_version = 4")
        db.close()

    def test_progress_of_a_plan_that_nobody_began_is_empty(self):
        made = self.accepted()
        self.assertEqual(made.progress, Progress(id=made.id))
        self.assertIsNone(self.shop.plans.under_way("nothing"))
        self.assertIsNone(self.shop.plans.accepted_for(None))
