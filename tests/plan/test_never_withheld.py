"""Plans that were withheld: pieces of one cut that begin at one corner, metal without a clearance, a clearance met to the hair."""

import json
import random
import unittest
from unittest import mock

from shapely.geometry import Polygon, box

from grainet.demo.designs import HALF
from grainet.job.job import Job
from grainet.plan import planner
from grainet.plan.in_hand import in_order
from grainet.plan.planner import Planner, plan_job
from grainet.plan.verify import Fault, check
from tests.pace import within

KERF = {"crosscut": 3, "rip": 3, "resaw": 1.2, "outline": 3}


def board(long, wide, thick=45, defects=()):
    ring = [[0, 0], [long, 0], [long, wide], [0, wide]]
    return {"id": "A", "kind": "plank", "species": "unknown", "outline": ring, "thickness_mm": thick, "defects": list(defects)}


def job(pieces, parts, **kit):
    return Job.model_validate_json(
        json.dumps({"kit": {"kerf_mm": KERF, "trim_mm": 4, "edge_mm": 1, **kit}, "pieces": pieces, "parts": parts})
    )


def planned(asked):
    """The planner's own plan, with no plainer one behind it: it raises where the check refuses what was made."""
    return Planner(asked, seconds=within(3)).plan()


class Nested(unittest.TestCase):
    def test_halves_nested_in_one_another_are_sawn(self):
        old = [[0, 0], [2, 48], [18, 104], [58, 148], [112, 166], [168, 158], [214, 136], [258, 124], [302, 130], [346, 150], [388, 163], [424, 156], [446, 130], [448, 102], [430, 84], [408, 74], [396, 56], [394, 30], [394, 0]]  # fmt: skip
        for seed, ring in ((22, old), (8, [list(p) for p in HALF])):
            r = random.Random(seed)
            part = {
                "id": "h",
                "outline": ring,
                "thickness_mm": 40,
                "quantity": 8,
                "mirror": True,
                "tilt_deg": r.choice((0, 3, 6)),
                "value": 3,
            }
            asked = job([board(r.choice((1400, 1900)), r.choice((340, 420)))], [part])
            with self.subTest(seed):
                self.assertEqual(check(asked, planned(asked)), [])

    def test_no_shaped_half_is_resawn(self):
        """Nested halves in a board that is much thicker: what lies below them all comes off while the block has square sides."""
        half = {"id": "h", "outline": [list(p) for p in HALF], "thickness_mm": 40, "quantity": 4, "mirror": True, "value": 3}
        pair = {
            "id": "c",
            "outline": [[x * 0.9, y * 0.9] for x, y in HALF],
            "thickness_mm": 9,
            "leaves": 2,
            "quantity": 1,
            "value": 2,
        }
        resawn = 0
        for long, wide in ((1050, 300), (950, 340), (1400, 330)):
            asked = job([board(long, wide, 62)], [half, pair])
            plan = planned(asked)
            self.assertEqual(check(asked, plan), [])
            shaped = {name for cut in plan.cuts if cut.tool == "outline" for name in cut.gives[:1]}
            rows = [cut for cut in plan.cuts if cut.tool == "resaw"]
            self.assertTrue(all(cut.piece not in shaped for cut in rows), (long, wide))
            resawn += len(rows)
            rests = [o for o in plan.offcuts if o.keep and o.depth_mm > 30]
            self.assertTrue(rests and all(len(o.polygon) < 8 for o in rests), "what comes off below is a board")
        self.assertGreater(resawn, 2)

    def test_a_way_in_does_not_run_through_the_part_s_own_arm(self):
        """With a saw that takes nothing, a part along the edge is reached from the side where wood is."""
        outline = [[0, 0], [400, 0], [400, 5], [200, 5], [200, 75], [0, 75]]
        part = {"id": "h", "outline": outline, "thickness_mm": 44, "turns_deg": [0], "quantity": 1}
        asked = job([board(401, 151, 50)], [part], kerf_mm=dict.fromkeys(KERF, 0), trim_mm=0, edge_mm=0)
        plan = planned(asked)
        self.assertEqual((plan.made["h"], check(asked, plan)), (1, []))

    def test_where_one_board_spoils_a_plan_the_rest_of_it_is_kept(self):
        boards = [{**board(700, 300), "id": name} for name in "ABC"]
        part = {"id": "h", "outline": [list(p) for p in HALF], "thickness_mm": 40, "value": 3, "quantity": 6}
        asked = job(boards, [part])
        for most, want in ((1, 5), (0, 4)):

            def strict(told, plan, most=most):
                too_many = sum(p.piece == "B" for p in plan.placements) > most
                return [Fault("cut", "made up")] if too_many else check(told, plan)

            with self.subTest(most), mock.patch.object(planner, "check", strict):
                plan = plan_job(asked)
            self.assertEqual((plan.made["h"], check(asked, plan)), (want, []))

    def test_pieces_at_one_corner_come_the_larger_first(self):
        """Two rests that begin at one place within a twentieth of a millimetre are named by their size, here and by the check."""
        large, small = box(10.0, 5.0, 200.0, 60.0), box(9.97, 4.98, 40.0, 9.0)  # by place alone the small one would come first
        pieces = in_order((large - small.buffer(0.5)).union(small))
        self.assertEqual([round(p.area) for p in pieces], [round((large - small.buffer(0.5)).area), round(small.area)])
        apart = in_order(box(0, 0, 10, 10).union(box(20, 0, 90, 90)))
        self.assertEqual([p.area for p in apart], [100.0, 6300.0], "by place first")


class Metal(unittest.TestCase):
    def nailed(self, seed, clear):
        r = random.Random(seed)
        long, wide = r.choice((800, 1200)), r.choice((200, 320))
        nails = []
        for k in range(r.randint(1, 6)):
            x, y, a = r.uniform(20, long - 30), r.uniform(10, wide - 15), r.choice((3, 4, 8))
            nails.append(
                {"id": f"n{k}", "kind": "nail", "face": "through", "polygon": [[x, y], [x + a, y], [x + a, y + a], [x, y + a]]}
            )
        parts = [
            {"id": "a", "outline": [[0, 0], [300, 0], [300, 90], [0, 90]], "thickness_mm": 20, "value": 2, "quantity": 3},
            {"id": "b", "outline": [[0, 0], [180, 0], [180, 60], [0, 60]], "thickness_mm": 20, "value": 1, "quantity": 3},
        ]
        more = {} if clear is None else {"metal_clear_mm": clear}
        return job([board(long, wide, 25, nails)], parts, cutting=r.choice(("straight", "outline")), **more)

    def test_no_kerf_and_no_part_meets_it_whatever_the_clearance(self):
        for seed in (0, 8, 17):
            for clear in (None, 15) if seed == 8 else (None,):
                asked = self.nailed(seed, clear)
                plan = planned(asked)
                nails = [Polygon(d.polygon) for d in asked.pieces[0].defects]
                with self.subTest(f"{seed} {clear}"):
                    self.assertEqual(check(asked, plan), [])
                    self.assertGreater(plan.value, 0)
                    for one in plan.placements:
                        self.assertTrue(all(Polygon(one.polygon).intersection(n).area < 1e-6 for n in nails))

    def test_the_check_finds_a_cut_through_a_nail_with_no_clearance(self):
        asked = job(
            [board(800, 200, 25)],
            [{"id": "a", "outline": [[0, 0], [300, 0], [300, 90], [0, 90]], "thickness_mm": 20}],
            cutting="straight",
        )
        plan = planned(asked)
        cut = next(c for c in plan.cuts if c.tool == "crosscut")
        x, y = cut.line[0][0], (cut.line[0][1] + cut.line[1][1]) / 2
        nail = {
            "id": "n",
            "kind": "nail",
            "face": "through",
            "polygon": [[x - 1, y - 2], [x + 1, y - 2], [x + 1, y + 2], [x - 1, y + 2]],
        }
        nailed = job([board(800, 200, 25, [nail])], [p.model_dump(mode="json") for p in asked.parts], cutting="straight")
        self.assertIn("runs through metal", " ".join(f.text for f in check(nailed, plan)))
