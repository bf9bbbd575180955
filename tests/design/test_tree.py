"""The tree read upward: every blank stands in it once, glue-ups come after those that they rest on, areas are those of the parts."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from grainet.design.allowances import Allowances
from grainet.design.blanks import blanks_of
from grainet.design.mend import Mend
from grainet.design.mends import with_mend
from grainet.design.starting_points import POINTS, begin
from grainet.design.tree import tree_of
from grainet.design.ways import ways_for, with_way

KIT = Allowances(trim_mm=4.0, edge_mm=1.0, skim_mm=0.6)


def glued(g):
    return {m.label: m.joint for m in tree_of(g, KIT).glue_ups}


class Tree(unittest.TestCase):
    @given(st.sampled_from(sorted(POINTS)), st.data())
    def test_every_blank_stands_in_it_once(self, point, data):
        g = begin(point, "g", "G")
        for component, ways in ways_for(g).items():
            g = with_way(g, component, data.draw(st.sampled_from(ways)))
        tree = tree_of(g, KIT)
        blanks = {b.part: b.count * b.leaves for b in blanks_of(g, KIT)}
        self.assertEqual({m.name: m.count for m in tree.stock}, blanks)
        self.assertEqual(len(list(tree.stock)), len(blanks))
        done = set()
        for member in tree.glue_ups:
            self.assertGreater(member.joint.area_mm2, 0, member.label)
            self.assertTrue({id(m) for one in member.members for m in one.glue_ups} <= done, "after what it rests on")
            done.add(id(member))

    def test_a_bolt_on_with_a_matched_top(self):
        g = begin("bolt-on", "g", "G").with_figures({"body.cap_mm": 6.0, "plate.thickness_mm": 0.0})
        found = glued(g)
        self.assertEqual(
            list(found), ["the body's pieces", "the top's halves", "the top on the body", "the fretboard on the neck"]
        )
        self.assertTrue(found["the top's halves"].bookmatched)
        self.assertFalse(found["the body's pieces"].bookmatched)
        self.assertEqual(found["the top on the body"].kind, "face")

    def test_a_through_neck_of_strips(self):
        g = begin("through", "g", "G")
        found = glued(g)
        self.assertEqual((found["the neck's strips"].kind, found["the neck's strips"].lines), ("face", 4))
        self.assertEqual((found["wings to the neck"].kind, found["wings to the neck"].lines), ("edge", 2))
        self.assertEqual(found["the scarf"].kind, "scarf")
        self.assertEqual(list(found)[-1], "wings to the neck", "the neck is whole before its wings are glued on")

    def test_spare_accents_are_no_joints(self):
        strips = [{"mm": 14.0}, {"mm": 3.0, "accent": True}, {"mm": 20.0}, {"mm": 3.0, "accent": True}, {"mm": 14.0}]
        g = begin("through", "g", "G").with_figures({"strips": strips, "spare": {"accent": 2}})
        self.assertEqual(glued(g)["the neck's strips"].lines, 4)

    def test_ears_board_and_binding(self):
        g = begin("bolt-on", "g", "G").with_figures({"ways": {"neck": "ears"}, "fretboard.binding_mm": 1.6})
        found = glued(g)
        self.assertEqual(found["ears on the head"].lines, 2)
        self.assertLess(list(found).index("the binding on the fretboard"), list(found).index("the fretboard on the neck"))

    def test_a_mended_half_is_made_whole_first(self):
        g = with_mend(begin("bolt-on", "g", "G"), Mend(part="body.bass", kind="third piece", at_mm=(30.0,)))
        found = list(glued(g))
        self.assertLess(found.index("body, bass, joined"), found.index("the body's pieces"))

    def test_a_set_neck_goes_into_its_body_last(self):
        self.assertEqual(list(glued(begin("set", "g", "G")))[-1], "neck into the body of G")
        self.assertEqual(glued(begin("set", "g", "G").with_figure("body.rim_mm", 12.0))["the top into its recess"].kind, "insert")
