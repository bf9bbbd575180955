"""Halves that differ, ripped from one board and opened: each is sawn to an outline that holds either, laid beside one rip, and made to its end."""

import unittest

from shapely import union_all
from shapely.affinity import translate
from shapely.geometry import Polygon

from grainet.design.parts import design_of
from grainet.design.starting_points import begin
from grainet.design.ways import with_way
from grainet.design.weight import weight_of
from grainet.plan.become import Heap
from grainet.plan.verify import check
from grainet.present.joined_view import joined_of
from grainet.wood.species import library_with
from grainet.work.bench import Bench
from grainet.work.making import making_of
from tests.jobs import planned
from tests.work.test_making import CLAMPS, GUESSED_CUTS, START, WOOD, wood


def drawn(way, component="body", kind="bolt-on"):
    return with_way(begin(kind, "g", "G"), component, way)


class Unlike(unittest.TestCase):
    def test_both_halves_are_one_part_that_holds_either(self):
        apart = {p.id: p.ring.max(axis=0) for p in design_of(drawn("halves")).parts if "body" in p.id}
        self.assertEqual(len(apart), 2, "as drawn the halves differ")
        for way in ("fold", "slip"):
            (one,) = (p for p in design_of(drawn(way)).parts if "body" in p.id)
            with self.subTest(way):
                self.assertEqual(one.fold, way == "fold")
                self.assertTrue(all((one.ring.max(axis=0) >= size - 1e-6).all() for size in apart.values()))

    def test_what_either_half_asks_for_the_one_outline_asks_for(self):
        """Every zone of either half lies in the zones of the part that is for both."""
        (one,) = (p for p in design_of(drawn("fold")).parts if "body" in p.id)
        halves = [p for p in design_of(drawn("halves")).parts if "body" in p.id]
        kinds = {
            kind: sum(z.kind == kind and z.polygon != "rest" for z in one.zones)
            for kind in ("hidden", "critical", "routed", "seen")
        }
        for half in halves:
            for kind, count in kinds.items():
                self.assertGreaterEqual(count, sum(z.kind == kind and z.polygon != "rest" for z in half.zones), kind)

    def test_the_finished_guitar_weighs_the_same_whichever_way_it_is_made(self):
        library = library_with()
        for component, kind, ways in (
            ("body", "bolt-on", ("halves", "fold", "slip")),
            ("cap", "set", ("quiet pair", "fold", "resaw")),
        ):
            told = [weight_of(drawn(way, component, kind), library).kg for way in ways]
            with self.subTest(component):
                for kg in told[1:]:
                    self.assertAlmostEqual(kg, told[0], delta=0.002)

    def test_it_is_laid_beside_one_rip_and_made_to_its_end(self):
        g = drawn("fold")
        rack = [wood("9", 900, 380, 52, "Honduran mahogany"), *WOOD[1:]]
        asked = Heap(rack, GUESSED_CUTS).job_of(g)
        plan = planned(asked)
        self.assertEqual(check(asked, plan), [])
        first, second = (p for p in plan.placements if p.part == "g.body.bass")
        self.assertEqual((first.piece, first.mirror), (second.piece, not second.mirror))
        (pair,) = joined_of(asked, plan)
        own = Polygon(pair.outline_of(g))
        both = union_all([Polygon(pair.rings[0]), translate(Polygon(pair.rings[1]), *pair.move)]).buffer(0.02)
        self.assertTrue(both.contains(own), "the guitar's own outline lies in what is sawn")
        self.assertLess(own.area, both.area - 1000)
        self.assertIsNone(pair.outline_of(None))
        made = making_of(asked, plan, (g,), Bench(clamps=CLAMPS), START)
        self.assertEqual(made.missing, ())
        joint = next(o for o in made.operations if o.kind == "glue" and len(set(o.works_on) & {"g.A1", "g.A2"}) == 2)
        self.assertTrue(joint.gives)


if __name__ == "__main__":
    unittest.main()
