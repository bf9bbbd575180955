"""Jobs of version 2: components with ways, strips on edge, hands, folds, slips, joint edges, allowances, leaves; planned, checked, refused."""

import itertools
import json
import tempfile
import unittest
from pathlib import Path

from hypothesis import given, settings
from hypothesis import strategies as st
from shapely.geometry import Polygon

from grainet.design.joint_edge import joint_of
from grainet.design.part import Part, ways_laid
from grainet.exchange.job_file import job_text, read_job
from grainet.exchange.json_file import Unusable
from grainet.fit.block import block_of
from grainet.job.job import Job
from grainet.plan.verify import check
from grainet.plan.verify_laid import block
from tests.jobs import planned as once_planned

KIT = {"kerf_mm": {"crosscut": 3, "rip": 3, "resaw": 1.2, "outline": 3}, "skim_mm": 0.5, "edge_mm": 1, "trim_mm": 5}
HALF = [[0, 0], [450, 0], [450, 100], [300, 170], [100, 170], [0, 100]]
OTHER = [[x, -y] for x, y in HALF]
JOINT = {"joint_edge": [[0, 0], [450, 0]], "joint_mm": 2}


def strip(number, long, wide, thick, **more):
    return {"id": number, "outline": [[0, 0], [long, 0], [long, wide], [0, wide]], "thickness_mm": thick, **more}


def half(number="h", outline=HALF, **more):
    return {"id": number, "outline": outline, "thickness_mm": 45, **more}


def board(number="A", long=1200, wide=400, thick=50, **more):
    ring = [[0, 0], [long, 0], [long, wide], [0, wide]]
    return {"id": number, "kind": "plank", "species": "unknown", "outline": ring, "thickness_mm": thick, **more}


def job(parts, builds=(), pieces=None, version=2, **kit):
    told = {"version": version, "kit": KIT | kit, "pieces": pieces or [board()], "parts": parts, "builds": list(builds)}
    return Job.model_validate_json(json.dumps(told))


class Case(unittest.TestCase):
    def planned(self, asked):
        """A plan of a job without faults; the planner raises where its own check finds one."""
        self.assertEqual(list(asked.faults()), [])
        plan = once_planned(asked)
        self.assertEqual(check(asked, plan), [])
        self.assertGreaterEqual(plan.bound, plan.value)
        return plan

    def codes(self, asked, plan, which, **changes):
        """What the check finds once one placement says something else."""
        rows = list(plan.placements)
        rows[which] = rows[which].model_copy(update=changes)
        return {fault.code for fault in check(asked, plan.model_copy(update={"placements": tuple(rows)}))}


class OnEdge(Case):
    def test_strips_that_are_too_thick_to_lie_flat_stand(self):
        """Nine strips 60 wide and 52 thick: a board 62 thick gives them on edge only."""
        asked = job([strip("s", 500, 60, 52, quantity=9, on_edge=True)], pieces=[board(thick=62)])
        plan = self.planned(asked)
        self.assertTrue(any(p.on_edge for p in plan.placements))
        self.assertTrue(all(p.finished_mm == (60 if p.on_edge else 52) for p in plan.placements))
        for one in plan.placements:
            _, y0, _, y1 = Polygon(one.polygon).bounds
            self.assertAlmostEqual(y1 - y0, 52 if one.on_edge else 60)

    def test_a_board_gives_more_on_edge_than_flat(self):
        flat = self.planned(job([strip("s", 700, 60, 20, quantity=30)], pieces=[board(thick=62)]))
        edge = self.planned(job([strip("s", 700, 60, 20, quantity=30, on_edge=True)], pieces=[board(thick=62)]))
        self.assertEqual(flat.value, 6)
        self.assertGreater(edge.value, 2 * flat.value)
        self.assertTrue(any(p.on_edge for p in edge.placements))

    def test_what_one_zone_forbids_the_whole_of_it_does_on_edge(self):
        """A knot that a hidden zone would bear lies in a critical one on edge."""
        zones = [{"kind": "critical", "polygon": [[0, 0], [50, 0], [50, 60], [0, 60]]}, {"kind": "hidden", "polygon": "rest"}]
        made = ways_laid(Part.model_validate_json(json.dumps(strip("s", 700, 60, 20, on_edge=True, zones=zones))))[1]
        self.assertEqual([(z.kind, z.polygon, z.both_sides) for z in made.zones], [("critical", "rest", True)])
        knot = {"id": "k", "kind": "knot", "face": "through", "polygon": [[340, 0], [360, 0], [360, 23], [340, 23]]}
        narrow = board(long=712, wide=23, thick=62, defects=[knot])
        self.assertEqual(
            self.planned(job([strip("s", 700, 60, 20, quantity=1, on_edge=True, zones=zones)], pieces=[narrow])).value, 0
        )
        clear = board(long=712, wide=23, thick=62)
        self.assertEqual(
            self.planned(job([strip("s", 700, 60, 20, quantity=1, on_edge=True, zones=zones)], pieces=[clear])).value, 1
        )

    def test_the_check_finds_what_only_says_that_it_stands(self):
        asked = job([strip("s", 700, 60, 20, quantity=1)])
        self.assertLessEqual({"on_edge", "outline", "thickness"}, self.codes(asked, self.planned(asked), 0, on_edge=True))


class Leaves(Case):
    def test_as_many_leaves_as_the_thickness_gives(self):
        """50 thick: 4 leaves of 10 with three resaws of 1.2 and two skims of 0.5 take 44.6, five take 55.8."""
        asked = job([strip("s", 700, 60, 10, quantity=4, leaves_max=9)], pieces=[board(long=720, wide=70)])
        plan = self.planned(asked)
        self.assertEqual(
            (plan.value, [p.leaf for p in plan.placements], len({p.set for p in plan.placements})), (4, [1, 2, 3, 4], 4)
        )
        tops = [p.z_top_mm for p in plan.placements]
        self.assertTrue(all(abs(b - a - 11.2) < 1e-6 for a, b in itertools.pairwise(tops)))
        self.assertIn("leaf", self.codes(asked, plan, 3, leaf=3))
        self.assertIn("leaf", self.codes(asked, plan, 3, leaf=7))

    def test_no_more_than_are_allowed_or_wanted(self):
        two = self.planned(job([strip("s", 700, 60, 10, leaves_max=2)], pieces=[board(long=720, wide=70)]))
        self.assertEqual(two.value, 2)
        three = self.planned(job([strip("s", 700, 60, 10, quantity=3, leaves_max=9)], pieces=[board(long=720, wide=70)]))
        self.assertEqual(three.value, 3)


class Blocks(Case):
    def test_a_joint_edge_keeps_its_wood_inside_the_piece(self):
        """170 wide with 12 at the joint and an edge of 1 on the other side: 183 gives it, 182.8 does not."""
        part = half(quantity=1, joint_edge=JOINT["joint_edge"], joint_mm=12)
        self.assertEqual(self.planned(job([part], pieces=[board(wide=183)])).value, 1)
        self.assertEqual(self.planned(job([part], pieces=[board(wide=182.8)])).value, 0)

    def test_neighbours_keep_off_and_the_saw_goes_round_the_block(self):
        asked = job([half(quantity=2, allowance_mm={"near": 20, "left": 7})])
        plan = self.planned(asked)
        self.assertEqual(plan.value, 2)
        a, b = (block(asked.parts[0], p) for p in plan.placements)
        self.assertGreaterEqual(a.distance(b), 3 - 1e-5)
        self.assertAlmostEqual(a.bounds[3] - a.bounds[1], 190, 6)
        self.assertIn("outside", self.codes(asked, plan, 0, **_shifted(plan.placements[0], -8, 0)))

    def test_both_make_the_same_block(self):
        told = half(**JOINT, allowance_mm={"left": 3, "right": 5, "near": 0, "far": 2})
        part = Part.model_validate_json(json.dumps(told))
        plan = self.planned(job([told | {"quantity": 1}]))
        self.assertAlmostEqual(block(part, plan.placements[0]).area, block_of(part).area, 6)
        self.assertEqual(block_of(part).bounds, (-3, -2, 455, 172))


class Pairs(Case):
    def test_a_fold_lies_about_one_rip(self):
        asked = job([half(quantity=1, per_set=2, fold=True, **JOINT)])
        plan = self.planned(asked)
        a, b = plan.placements
        self.assertEqual({a.mirror, b.mirror}, {True, False})
        low, high = sorted((Polygon(a.polygon), Polygon(b.polygon)), key=lambda p: p.bounds[1])
        self.assertAlmostEqual(high.bounds[1] - low.bounds[3], 3 + 2 * 2)
        self.assertIn("pair", self.codes(asked, plan, 1, **_shifted(b, 0, 1)))
        self.assertIn("pair", self.codes(asked, plan, 1, face_up="1" if b.face_up == "2" else "2"))
        self.assertIn("pair", self.codes(asked, plan, 1, **_shifted(b, 0.5, 0)))

    def test_a_fold_is_never_put_back_to_back(self):
        """Mirror images that turn their outer sides to one another are no fold."""
        asked = job([half(quantity=1, per_set=2, fold=True, **JOINT)], pieces=[board(wide=500)])
        plan = self.planned(asked)
        a, b = sorted(plan.placements, key=lambda p: p.y)
        apart = 2 * 170 + 2 * 2 + 3
        swapped = plan.model_copy(
            update={"placements": (a.model_copy(update=_shifted(a, 0, apart)), b.model_copy(update=_shifted(b, 0, -apart)))}
        )
        self.assertIn("pair", {f.code for f in check(asked, swapped)})

    def test_a_slip_follows_along_the_board(self):
        asked = job([half(quantity=1, per_set=2, slip=True, **JOINT)])
        plan = self.planned(asked)
        a, b = plan.placements
        self.assertAlmostEqual(abs(a.x - b.x), 450 + 3)
        self.assertEqual((a.y, a.angle_deg, a.face_up), (b.y, b.angle_deg, b.face_up))
        self.assertIn("pair", self.codes(asked, plan, 1, **_shifted(b, 2, 0)))

    def test_neither_half_of_a_pair_is_made_without_the_other(self):
        short = self.planned(job([half(per_set=2, slip=True, quantity=1)], pieces=[board(long=800, wide=200)]))
        self.assertEqual((short.value, short.placements), (0, ()))

    def test_with_a_rip_that_is_thinner_than_the_band(self):
        kerf = {"kerf_mm": {"crosscut": 3, "rip": 1.6, "resaw": 1.2, "outline": 3}}
        plan = self.planned(job([half(quantity=2, per_set=2, fold=True, **JOINT)], **kerf))
        self.assertEqual(plan.value, 2)

    def test_pairs_that_want_clean_edges_towards_others(self):
        plan = self.planned(job([half(quantity=2, per_set=2, slip=True, clean=True)]))
        self.assertEqual(plan.value, 2)

    def test_straight_cuts_part_them(self):
        plan = self.planned(job([half(quantity=2, per_set=2, fold=True, **JOINT)], cutting="straight"))
        self.assertEqual(plan.value, 2)


class Hands(Case):
    parts = (half("l", quantity=1, hand="left", mate="r", **JOINT), half("r", OTHER, quantity=1, hand="right", mate="l", **JOINT))

    def test_both_hands_show_one_face_of_their_board(self):
        asked = job(self.parts)
        plan = self.planned(asked)
        self.assertEqual(plan.value, 2)
        self.assertEqual(len({p.face_up for p in plan.placements}), 1)
        self.assertFalse(any(p.mirror for p in plan.placements))
        self.assertIn("hand", self.codes(asked, plan, 0, face_up="1" if plan.placements[0].face_up == "2" else "2"))

    def test_from_two_boards_each_shows_what_it_has(self):
        stain = {"id": "s", "kind": "stain", "polygon": [[200, 80], [220, 80], [220, 90], [200, 90]], "depth_mm": 8}
        pieces = [board(n, 470, 180, defects=[stain | {"face": f}]) for n, f in (("A", "1"), ("B", "2"))]
        plan = self.planned(job(self.parts, pieces=pieces))
        self.assertEqual((plan.value, {p.piece: p.face_up for p in plan.placements}), (2, {"A": "2", "B": "1"}))


class Components(Case):
    parts = (
        strip("one", 500, 340, 45), half("half"), strip("neck", 660, 70, 22), strip("strip", 660, 22, 15),
    )  # fmt: skip

    def build(self, number="b1", value=50, **more):
        body = [
            {"id": "one piece", "value": 20, "needs": {"one": 1}},
            {"id": "halves", "value": 10, "needs": {"half": 2}, "same_piece": ["half"]},
        ]
        neck = [{"id": "one piece", "value": 5, "needs": {"neck": 1}}, {"id": "strips", "needs": {"strip": 5}}]
        return {"id": number, "value": value, "components": [{"id": "body", "ways": body}, {"id": "neck", "ways": neck}, {"id": "plate", "ways": [{"id": "none"}]}], **more}  # fmt: skip

    def test_the_dearest_ways_that_the_wood_gives(self):
        plan = self.planned(job(self.parts, [self.build()]))
        self.assertEqual((plan.value, plan.builds), (75, {"b1": {"body": "one piece", "neck": "one piece", "plate": "none"}}))
        narrow = self.planned(job(self.parts, [self.build()], [board(wide=190), *(board(n, 700, 60) for n in "BCD")]))
        self.assertEqual(narrow.builds["b1"], {"body": "halves", "neck": "strips", "plate": "none"})
        self.assertEqual(narrow.value, 60)

    def test_a_build_is_made_whole_or_not_at_all(self):
        plan = self.planned(job(self.parts, [self.build()], [board(long=520)]))
        self.assertEqual((plan.value, plan.builds, plan.placements), (0, {}, ()))

    def test_the_check_asks_for_every_component(self):
        asked = job(self.parts, [self.build()])
        plan = self.planned(asked)
        for told in ({"body": "one piece", "neck": "one piece"}, {**plan.builds["b1"], "neck": "strips"}, "one piece"):
            wrong = plan.model_copy(update={"builds": {"b1": told}})
            with self.subTest(told):
                self.assertIn("build", {f.code for f in check(asked, wrong)})

    @settings(max_examples=4, deadline=None)
    @given(st.integers(0, 10_000))
    def test_it_is_worth_what_the_product_of_its_ways_is(self, seed):
        """Components planned as such are worth as much as one recipe for each product of ways."""
        import random

        rng = random.Random(seed)
        pieces = [
            board(f"P{k}", rng.choice((480, 700, 950)), rng.choice((60, 120, 190, 350)), rng.choice((24, 50))) for k in range(3)
        ]
        build = self.build(value=rng.choice((0, 50)))
        whole = {"id": "b1", "recipes": []}
        for body, neck in itertools.product(*(c["ways"] for c in build["components"][:2])):
            needs = body["needs"] | neck["needs"]
            worth = build["value"] + body.get("value", 0) + neck.get("value", 0)
            whole["recipes"].append(
                {"id": f"{body['id']} {neck['id']}", "value": worth, "needs": needs, "same_piece": body.get("same_piece", [])}
            )
        a, b = (self.planned(job(self.parts, [one], pieces)) for one in (build, whole))
        self.assertAlmostEqual(a.value, b.value, 6)


class Refused(unittest.TestCase):
    """What does not go together is told with its place."""

    def faults(self, part, version=2, builds=()):
        return [f"{where}: {what}" for where, what in job([part], builds, version=version).faults()]

    def test_by_name(self):
        rows = (
            (half(on_edge=True), r"parts\[0\]\.on_edge: its outline is no rectangle"),
            (strip("s", 9, 9, 9, leaves_max=2, leaves=2), "leaves_max: stands beside leaves"),
            (half(joint_mm=2), "joint_mm: has no joint_edge"),
            (half(joint_edge=[[0, 5], [450, 5]], joint_mm=2), "joint_edge: lies off the outline"),
            (half(fold=True, slip=True, per_set=2), "slip: stands beside fold"),
            (half(fold=True), "fold: needs per_set 2"),
            (half(fold=True, per_set=2, joint_edge=[[450, 0], [450, 100]]), "fold: its joint edge does not lie along x"),
            (half(hand="left", mirror=True), "mirror: stands beside hand"),
            (strip("s", 90, 9, 9, on_edge=True, joint_edge=[[0, 0], [90, 0]]), "on_edge: stands beside joint_edge"),
            (half(hand="left", fold=True, per_set=2), "fold: stands beside hand"),
            (half(hand="left", mate="x"), "mate: names “x”"),
            (half(hand="left", mate="h"), "mate: “h” is no mate of the other hand"),
        )
        for part, wanted in rows:
            with self.subTest(wanted):
                found = self.faults(part)
                self.assertEqual(len(found), 1, found)
                self.assertRegex(found[0], wanted)

    def test_builds_that_say_both_or_nothing(self):
        recipe, component = (
            {"id": "r", "needs": {"h": 1}},
            {"id": "c", "ways": [{"id": "w", "needs": {"x": 1}, "same_piece": ["h"]}]},
        )
        self.assertRegex(self.faults(half(), builds=[{"id": "b"}])[0], "neither recipes nor components")
        self.assertRegex(
            self.faults(half(), builds=[{"id": "b", "recipes": [recipe], "components": [component]}])[0], "both recipes"
        )
        found = self.faults(half(), builds=[{"id": "b", "components": [component]}])
        self.assertRegex(found[0], r"builds\[0\]\.components\[0\]\.ways\[0\]\.needs: names “x”")
        self.assertRegex(found[1], "same_piece: names “h”")

    def test_version_1_stays_what_it_was(self):
        """Its file has no key of version 2; one that has is refused by name."""
        plain = job([half(quantity=2)], [{"id": "b", "recipes": [{"id": "r", "needs": {"h": 2}}]}], version=1)
        for key in ("on_edge", "hand", "mate", "fold", "slip", "joint", "allowance", "leaves_max", "components"):
            self.assertNotIn(key, job_text(plain))
        told = (half(on_edge=True), half(leaves_max=2), half(allowance_mm={"near": 1}), half(hand="left"))
        for part in told:
            self.assertTrue(any("needs version 2" in fault for fault in self.faults(part, version=1)))

    def test_a_file_comes_back_as_it_was(self):
        asked = job([*Hands.parts, strip("s", 700, 60, 10, on_edge=True, leaves_max=3, allowance_mm={"near": 1})], [Components().build() | {"components": [{"id": "c", "ways": [{"id": "w", "needs": {"s": 1}, "joints": 2, "days": 1}]}]}])  # fmt: skip
        with tempfile.TemporaryDirectory() as scratch:
            file = Path(scratch) / "job.json"
            file.write_text(job_text(asked))
            self.assertEqual(read_job(file), asked)
            file.write_text(job_text(asked).replace('"mate":"r"', '"mate":"nobody"'))
            with self.assertRaisesRegex(Unusable, "names “nobody”"):
                read_job(file)

    def test_the_joint_of_a_part_without_one_is_its_lower_rim(self):
        self.assertEqual(joint_of(Part.model_validate_json(json.dumps(half()))), (0, 450, 0, True))
        self.assertEqual(joint_of(Part.model_validate_json(json.dumps(half(outline=OTHER, **JOINT)))), (0, 450, 0, False))


def _shifted(one, dx, dy):
    """What changes of a placement that is moved."""
    return {"x": one.x + dx, "y": one.y + dy, "polygon": tuple((x + dx, y + dy) for x, y in one.polygon)}


class Crook(Case):
    """A board that tapers, with a crook that its outline does not show: asked about at each place along, as the parts' own widths are."""

    def planned_on(self, version, crook):
        ring = [[0, 0], [500, 0], [500, 110], [300, 180], [100, 180], [0, 110]]
        wood = board() | {"id": "A", "outline": ring, "flatness": {"crook_mm": crook, "crook_span_mm": 500}}
        return self.planned(job([half(quantity=1, tilt_deg=0)], pieces=[wood], version=version, trim_mm=0))

    def test_a_half_that_tapers_with_its_board_fits_in_version_2_only(self):
        self.assertEqual(self.planned_on(2, 2.0).value, 1)
        self.assertEqual(self.planned_on(1, 2.0).value, 0)
        self.assertEqual(self.planned_on(2, 12.0).value, 0, "the crook takes 12 at its widest")

    def test_without_a_crook_the_outline_decides(self):
        self.assertEqual(self.planned_on(1, 0.0).value, 1)

    def test_the_check_finds_a_half_that_the_crook_spoils(self):
        narrow = board(wide=176, flatness={"crook_mm": 20.0, "crook_span_mm": 1200.0})
        asked = job([half(quantity=1)], pieces=[narrow])
        plan = self.planned(asked)
        worse = asked.model_copy(
            update={"pieces": (asked.pieces[0].changed(flatness=asked.pieces[0].flatness.changed(crook_mm=90.0)),)}
        )
        self.assertEqual(plan.value, 1)
        self.assertIn("crook", {f.code for f in check(worse, plan)})
