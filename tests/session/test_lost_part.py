"""A part that is lost: one answer says whether the rack makes another, from what, what it displaces and how many days it costs."""

from grainet.session import surprise
from grainet.session.lost_part import made_again
from grainet.work.cut_plan import lost_key
from tests.jobs import quick_plan
from tests.session.test_surprise import Case


class Lost(Case):
    def plans(self, job):
        self.asked.append(job)
        return quick_plan(job)

    def setUp(self):
        super().setUp()
        self.asked = []

    def lose_one(self):
        for board in self.now.boards:
            self.saw(99, board)
            free = surprise.free_parts(self.now)
            if free:
                self.name = sorted(free)[0]
                self.lost_part = free[self.name][0].part
                surprise.lose(self.shop, board, self.name)
                return
        raise AssertionError("nothing came free")

    def test_nothing_lost_nothing_asked(self):
        self.assertEqual(made_again(self.shop, self.design, self.plans).words, "No part of it is lost.")
        self.assertEqual(self.asked, [])

    def test_the_rack_makes_another_and_says_from_what_and_when(self):
        self.lose_one()
        before = self.now
        found = made_again(self.shop, self.design, self.plans)
        self.assertIsNotNone(found.plan, found.words)
        self.assertRegex(found.words, r"can be made again from No\. \d+|What is left makes it again")
        self.assertIn("nothing else gives way", found.words)
        self.assertEqual(found.displaces, ())
        self.assertGreaterEqual(found.days, 0.0)
        new = [p for p in found.plan.placements if p.part == self.lost_part]
        old = {p.key: p.polygon for p in before.plan.placements if lost_key(p) in before.progress.lost}
        self.assertTrue(any(p.polygon != old.get(p.key) for p in new))
        self.assertEqual(self.now, before)  # nothing is kept
        surprise.accept(self.shop, self.design, found.job, found.plan)
        self.assertEqual(surprise.surprise_of(self.shop, self.now), "")

    def test_only_promised_wood_is_named_as_what_gives_way_and_none_at_all_is_said(self):
        self.lose_one()
        merrow = next(d for d in self.shop.designs() if d.id == "merrow")
        job = self.shop.jobs.job_for([merrow])
        self.shop.plans.accept(merrow, job, quick_plan(job))
        held = self.shop.promises.boards()

        def only_promised(job):
            free = [p.id for p in job.pieces if p.id in held and "merrow" in held[p.id].designs]
            barred = {b.piece for b in job.barred if b.code == "promised"}
            self.asked.append(job)
            if barred & set(free):
                return None  # as if the free rest of the rack gave nothing
            return quick_plan(job)

        found = made_again(self.shop, self.design, only_promised)
        self.assertEqual(len(self.asked), 2)
        self.assertFalse([b for b in self.asked[1].barred if b.code == "promised"])
        self.assertIsNotNone(found.plan)
        none = made_again(self.shop, self.design, lambda _job: None)
        self.assertIsNone(none.plan)
        self.assertIn("Nothing on the rack makes it again", none.words)
