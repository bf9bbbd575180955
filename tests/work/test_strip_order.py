"""Strips of several woods: mirrored about the middle for every number of each, nothing lost, alone where it cannot be."""

import unittest
from collections import Counter

from hypothesis import given
from hypothesis import strategies as st

from grainet.work.strip_order import alike_outwards
from tests.work.test_making import CLAMPS, START, WOOD, Bench, built, making_of


class Order(unittest.TestCase):
    def test_three_light_and_two_dark_take_turns(self):
        for strips in ("LLLDD", "DDLLL", "LDLDL"):
            self.assertEqual("".join(alike_outwards(strips, str)), "LDLDL")
        self.assertEqual("".join(alike_outwards("LLD", str)), "LDL")
        self.assertEqual("".join(alike_outwards("LLDDW", str)), "DLWLD")

    @given(st.lists(st.sampled_from("ABC"), max_size=11))
    def test_it_is_mirrored_where_that_can_be_and_nothing_is_lost(self, woods):
        strips = list(enumerate(woods))
        told = alike_outwards(strips, lambda one: one[1])
        self.assertEqual(sorted(told), strips)
        found = [wood for _, wood in told]
        if sum(n % 2 for n in Counter(woods).values()) <= 1 and len(woods) != 2:
            self.assertEqual(found, found[::-1])
        else:
            self.assertEqual(told, strips, "as they came")


class AtTheGlue(unittest.TestCase):
    def test_strips_of_two_boards_are_glued_alike_on_either_side(self):
        """A laminated neck whose strips come from two boards of different wood: its glue-up lays them by turns."""
        g, asked, plan = built("through")
        made = making_of(asked, plan, (g,), Bench(clamps=CLAMPS), START)
        species = {p.id: p.species for p in WOOD}
        stacks = [o for o in made.operations if o.kind == "glue" and len(o.works_on) > 3]
        told = 0
        boards = {w.id: w.from_ for w in made.workpieces}
        for one in stacks:
            woods = [species.get(boards.get(name, ""), "") for name in one.works_on]
            if sum(n % 2 for n in Counter(woods).values()) <= 1:
                self.assertEqual(woods, woods[::-1], one.id)
                told += len(set(woods)) > 1
        self.assertEqual(told, 1)


if __name__ == "__main__":
    unittest.main()
