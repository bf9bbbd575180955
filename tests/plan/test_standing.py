"""Planning again: pins stay and are listed, lost parts take wood, cuts are made already, claimed wood stays whole, and the verifier sees each fault."""

import unittest

import numpy as np
from shapely.geometry import Polygon

from grainet.job.answer import Plan
from grainet.plan.in_hand import hands_after
from grainet.plan.planner import Planner, plan_job
from grainet.plan.selection import Budget
from grainet.plan.verify import check
from grainet.plan.verify_laid import block
from grainet.work.cut_plan import CutPlan, Progress, UnderWay
from grainet.work.going_on import going_on
from tests.jobs import SAW, half_ring, job, part, piece, planned, random_job, rect
from tests.pace import within


def ring(*box):
    return tuple(map(tuple, rect(*box)))


def codes(asked, plan):
    return {fault.code for fault in check(asked, plan)}


def sawn_so_far(asked, plan, count, lost=()):
    """The job of planning the rest once the first cuts of a plan are made and some parts are lost."""
    kept = CutPlan(id="p", designs=("d",), job=asked, plan=plan)
    done = tuple(kept.names[c.n] for c in plan.cuts[:count])
    under_way = UnderWay(kept, Progress(id="p", done=done, lost=tuple(lost)))
    going = going_on(under_way)
    return asked.changed(version=2) if going is None else going.asked_of(asked)


def two_boards(**more):
    return job([piece("A", 1000, 200, 30), piece("B", 700, 150, 30)], [part("x", 300, 90, quantity=4, value=2)], SAW).changed(
        **more
    )


class AfterCuts(unittest.TestCase):
    def test_going_on_is_never_worse_than_the_plan_and_holds_whatever_is_lost(self):
        tried = 0
        for seed in (4, 6):
            asked = random_job(seed)
            plan = planned(asked)
            r = np.random.default_rng(seed)
            count = int(r.integers(1, len(plan.cuts) + 1))
            rest = sawn_so_far(asked, plan, count)
            again = plan_job(rest, seconds=within(2))
            self.assertEqual(check(rest, again), [], seed)
            self.assertGreaterEqual(again.value, plan.value - 1e-9, seed)
            self.assertEqual({p.key for p in rest.pins} - {p.key for p in again.placements}, set(), seed)
            if rest.pins:
                tried += 1
                one = rest.pins[int(r.integers(len(rest.pins)))]
                less = sawn_so_far(asked, plan, count, [f"{one.part}/{one.set}/{one.copy_}/{one.leaf}"])
                fewer = plan_job(less, seconds=within(2))
                self.assertEqual(check(less, fewer), [], seed)
                self.assertLessEqual(fewer.value, max(fewer.bound, plan.bound) + 1e-9)
                self.assertNotIn(
                    one.key, {p.key for p in fewer.placements if p.piece == one.piece and (p.x, p.y) == (one.x, one.y)}
                )
        self.assertGreaterEqual(tried, 1)

    def test_new_cuts_begin_with_what_is_in_hand_and_names_are_never_given_twice(self):
        asked = two_boards()
        plan = planned(asked)
        rest = sawn_so_far(asked, plan, 2)
        again = plan_job(rest)
        names = [name for cut in (*rest.cut, *again.cuts) for name in cut.gives]
        self.assertEqual(len(names), len(set(names)))
        self.assertGreater(min(c.n for c in again.cuts), max(c.n for c in rest.cut))
        for board in asked.pieces:
            hands = hands_after(board, (*rest.cut, *again.cuts), asked.kit)
            for one in (p for p in again.placements if p.piece == board.id):
                shape = block(asked.part(one.part), one)
                self.assertTrue(any(h.polygon.symmetric_difference(shape).area < 0.02 * shape.length for h in hands), one.key)

    def test_the_wood_of_a_cut_is_gone(self):
        asked = job([piece("A", 620, 100, 30)], [part("x", 300, 90, quantity=2)], SAW)
        plan = planned(asked)
        self.assertEqual(plan.value, 2)
        first = next(c for c in plan.cuts if c.tool == "crosscut")
        wrong = first.changed(line=((200.0, 0.0), (200.0, 100.0)), gives=("A.1", "A.2"), piece="A", n=1)
        again = plan_job(asked.changed(version=2, cut=(wrong,)))
        self.assertEqual((again.value, again.bound), (1, 1))
        self.assertGreater(min(x for x, _ in again.placements[0].polygon), 200)


class Sets(unittest.TestCase):
    def test_a_set_of_which_a_copy_stays_is_completed_under_its_number(self):
        asked = job([piece("A", 1000, 200, 30)], [part("x", 300, 90, per_set=2, quantity=2)], SAW)
        plan = planned(asked)
        one = next(p for p in plan.placements if (p.set, p.copy_) == (2, 1))
        again = plan_job(asked.changed(version=2, pins=(one,)))
        self.assertEqual(again.made, {"x": 2})
        self.assertEqual(sorted((p.set, p.copy_) for p in again.placements), [(1, 1), (1, 2), (2, 1), (2, 2)])
        self.assertIn(one, again.placements)

    def test_pins_serve_their_own_build_and_what_is_given_up_is_named(self):
        builds = [
            {"id": name, "recipes": [{"id": "r", "value": value, "needs": {"x": 1, "y": 1}}]}
            for name, value in (("b1", 5), ("b2", 9))
        ]
        asked = job([piece("A", 640, 100, 30)], [part("x", 300, 90), part("y", 280, 90)], SAW, builds)
        self.assertEqual(planned(asked).builds, {"b2": "r"})
        mine = planned(asked).placements[0].changed(build="b1", set=7)
        again = plan_job(asked.changed(version=2, pins=(mine,)))
        self.assertEqual((again.builds, again.displaced), ({"b1": "r"}, ()))
        self.assertIn(mine, again.placements)
        none = plan_job(asked.changed(version=2, pins=(mine,), lost=(planned(asked).placements[1],)))
        self.assertEqual((none.builds, none.displaced, none.value), ({}, ("b1", "b2"), 0))
        self.assertEqual([p.key for p in none.placements], [mine.key], "what is cut stays, and is listed")

    def test_a_lost_part_takes_its_wood_and_kerf_and_counts_for_nothing(self):
        asked = job([piece("A", 1000, 100, 30)], [part("x", 300, 90, quantity=4)], SAW)
        plan = planned(asked)
        self.assertEqual(plan.value, 3)
        for lost in plan.placements:
            again = plan_job(asked.changed(version=2, lost=(lost,)))
            self.assertEqual(again.value, 2)
            gone = Polygon(lost.polygon)
            self.assertTrue(all(Polygon(p.polygon).distance(gone) >= 3 - 1e-5 for p in again.placements))


class Claims(unittest.TestCase):
    def claimed(self, build="heron", **kit):
        asked = job([piece("A", 1210, 100, 30)], [part("x", 300, 90, quantity=4)], {**SAW, **kit})
        return asked.changed(version=2, claims=({"piece": "A", "polygon": ring(400, 100, 400), "build": build},))

    def test_nobody_lies_in_claimed_wood_and_no_cut_goes_through_it(self):
        for cutting in ("outline", "straight"):
            asked = self.claimed(cutting=cutting)
            plan = plan_job(asked)
            self.assertEqual((plan.value, check(asked, plan)), (2, []))
            kept = Polygon(asked.claims[0].polygon)
            hands = hands_after(asked.pieces[0], plan.cuts, asked.kit)
            self.assertTrue(any(h.polygon.buffer(1e-3).covers(kept) for h in hands), cutting)

    def test_its_own_build_may_use_it(self):
        builds = [{"id": "heron", "recipes": [{"id": "r", "value": 5, "needs": {"x": 3}}]}]
        asked = job([piece("A", 1000, 100, 30)], [part("x", 300, 90), part("y", 300, 90)], SAW, builds)
        mine = asked.changed(version=2, claims=({"piece": "A", "polygon": ring(400, 100, 300), "build": "heron"},))
        self.assertEqual(plan_job(mine).value, 5)
        other = mine.changed(claims=({"piece": "A", "polygon": ring(400, 100, 300), "build": "plover"},))
        self.assertEqual(plan_job(other).value, 0)


class Faults(unittest.TestCase):
    """What the verifier must see."""

    def setUp(self):
        self.plain = two_boards()
        self.plan = planned(self.plain)
        self.pin, *self.others = self.plan.placements
        self.asked = self.plain.changed(version=2, pins=(self.pin,))

    def test_a_pin_that_is_left_out_or_moved(self):
        self.assertEqual(codes(self.asked, plan_job(self.asked)), set())
        gone = self.plan.changed(placements=tuple(self.others), made={"x": 3}, value=6.0)
        self.assertIn("pin", codes(self.asked, gone))
        moved = self.pin.changed(x=self.pin.x + 1, polygon=tuple((x + 1, y) for x, y in self.pin.polygon))
        self.assertIn("pin", codes(self.asked, self.plan.changed(placements=(moved, *self.others))))

    def test_lost_wood_used_again_and_a_lost_part_that_counts(self):
        self.assertIn("standing", codes(self.plain.changed(version=2, lost=(self.pin,)), self.plan))

    def test_a_part_across_a_cut_that_is_made(self):
        first = self.plan.cuts[0]
        x0 = min(x for x, _ in self.pin.polygon)
        through = first.changed(piece=self.pin.piece, tool="crosscut", line=((x0 + 50, 0), (x0 + 50, 300)), gives=("q.1", "q.2"))
        self.assertIn("in_hand", codes(self.plain.changed(version=2, cut=(through,)), self.plan))

    def test_claimed_wood(self):
        claim = {"piece": self.pin.piece, "polygon": self.pin.polygon, "build": "plover"}
        self.assertIn("standing", codes(self.plain.changed(version=2, claims=(claim,)), self.plan))

    def test_builds_given_up_that_are_not_named(self):
        builds = [{"id": "b1", "recipes": [{"id": "r", "value": 5, "needs": {"x": 9}}]}]
        asked = job([piece("A", 640, 100, 30)], [part("x", 300, 90)], SAW, builds)
        pin = plan_job(asked.changed(builds=())).placements[0].changed(build="b1")
        again = asked.changed(version=2, pins=(pin,))
        plan = plan_job(again)
        self.assertEqual((plan.displaced, codes(again, plan)), (("b1",), set()))
        self.assertIn("displaced", codes(again, plan.changed(displaced=())))

    def test_what_leads_nowhere_is_told_with_its_place(self):
        stray = self.pin.changed(part="zz")
        cut = self.plan.cuts[0]
        bad = self.plain.changed(
            version=2,
            pins=(stray, self.pin, self.pin),
            cut=(cut, cut),
            claims=({"piece": "Z", "polygon": ring(9, 9), "build": "b"},),
        )
        places = {where for where, _ in bad.faults()}
        odd = (
            self.pin.changed(leaf=2), self.pin.changed(copy_=3, set=5), self.pin.changed(x=self.pin.x + 1, set=6),
            self.pin.changed(on_edge=True, set=7),
        )  # fmt: skip
        resaw = cut.changed(tool="resaw", gives=(), depth_mm=None)
        told = {where for where, _ in self.plain.changed(version=2, pins=odd, cut=(resaw,)).faults()}
        wanted = {"pins[0].leaf", "pins[1].copy", "pins[2].polygon", "pins[3].on_edge", "cut[0].gives", "cut[0].x-depth_mm"}
        self.assertEqual(told, wanted)
        self.assertLessEqual({"pins[0].part", "pins[2]", "cut[1].piece", "cut[1].gives", "claims[0].piece"}, places)
        first = {where for where, _ in self.plain.changed(pins=(self.pin,), cut=(cut,)).faults()}
        self.assertEqual(first, {"pins", "cut"})

    def test_a_plan_without_anything_standing_is_written_as_ever(self):
        told = Plan.model_validate_json(self.plan.model_dump_json(by_alias=True))
        self.assertEqual(told, self.plan)
        self.assertNotIn("displaced", self.plan.model_dump(by_alias=True))
        self.assertFalse({"pins", "lost", "cut", "claims", "x-hints"} & set(self.plain.model_dump(by_alias=True)))


class NoTimeLeft(unittest.TestCase):
    def test_what_is_not_hurt_stays_where_it_lay_though_nothing_else_is_weighed(self):
        """Two lie on the long board and one more is wanted; a choice that has none of them takes both again, with a budget for nothing."""
        few = [part("x", 300, 90, quantity=2, value=2)]
        lay = planned(job([piece("A", 1000, 200, 30)], few, SAW)).placements
        asked = two_boards(version=2, hints=lay)
        asked = asked.changed(parts=(asked.parts[0].changed(quantity=3),))
        planner = Planner(asked)
        again = planner.plan()
        self.assertEqual((check(asked, again), again.value), ([], 6.0))
        self.assertLessEqual({(p.piece, p.x, p.y) for p in lay}, {(p.piece, p.x, p.y) for p in again.placements})
        selection, dislike, spread = planner._last
        others = selection.best_of([k for k in range(len(selection.items)) if k not in selection.before])
        self.assertEqual((others.value, set(others.chosen) & set(selection.before)), (6.0, set()))
        tidied = selection.tidy(others, dislike, spread, Budget(0.0, 0))
        self.assertEqual((tidied.value, set(tidied.chosen) & set(selection.before)), (6.0, set(selection.before)))


class Folded(unittest.TestCase):
    def test_halves_that_are_cut_stay_beside_what_is_laid_anew(self):
        asked = job([piece("A", 1500, 240, 45)], [{"id": "h", "outline": half_ring(), "thickness_mm": 40, "quantity": 4}], SAW)
        plan = planned(asked)
        rest = sawn_so_far(asked, plan, max(1, len(plan.cuts) // 2))
        again = plan_job(rest)
        self.assertEqual((check(rest, again), again.value), ([], plan.value))
