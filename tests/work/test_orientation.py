"""Which way round two mates are glued: both ways told, the better one first, and what turning over costs the match."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from grainet.work.bench import Bench
from grainet.work.making import making_of
from grainet.work.orientation import LEAST_MM, Half, ways_round
from tests.work.test_making import CLAMPS, START, built

bows = st.floats(-5, 5, allow_nan=False)
hearts = st.sampled_from((None, True, False))


class Rounds(unittest.TestCase):
    def test_two_bowed_halves_of_a_match_keep_the_mirror_and_tell_what_else_it_would_be(self):
        kept, turned = ways_round(Half(1.2, True), Half(0.8, True), edge=True, matched=True)
        self.assertEqual(
            (kept.turned, kept.where, round(kept.open_mm, 6), kept.rings, kept.mirror), (False, "seam", 0.4, "alike", True)
        )
        self.assertEqual((turned.turned, round(turned.open_mm, 6), turned.rings, turned.mirror), (True, 2.0, "by turns", False))
        self.assertEqual(kept.words, "As they lie: 0.4 a step along the seam; hearts alike, cups as one.")
        self.assertIn("the mirror is lost", turned.words)

    def test_faces_with_their_hollows_to_the_middle_close_and_open_ends_are_never_first(self):
        first, second = ways_round(Half(0.6), Half(-0.5), edge=False, matched=False)
        self.assertEqual((first.where, round(first.open_mm, 2)), ("middle", 0.1))
        self.assertTrue(first.turned)
        self.assertEqual((second.where, round(second.open_mm, 2)), ("middle", 1.1))
        first, second = ways_round(Half(-0.6), Half(0.5), edge=False, matched=True)
        self.assertEqual([w.where for w in (first, second)], ["ends", "ends"])
        first, second = ways_round(Half(-0.2), Half(0.6), edge=False, matched=True)
        self.assertEqual((first.turned, first.where), (True, "middle"), "the ends would stay open: the match gives way")
        self.assertIn("no clamp keeps it closed", second.words)

    def test_nothing_read_tells_nothing_and_arrows_go_end_for_end(self):
        self.assertEqual(ways_round(Half(), Half(), edge=True, matched=True), ())
        self.assertEqual(ways_round(Half(heart_up=True), Half(), edge=True, matched=True), ())
        first, second = ways_round(Half(0, True, True), Half(0, True, True), edge=True, matched=False)
        self.assertEqual((first.rings, first.turned), ("by turns", True))
        self.assertIn("end for end", first.words)
        self.assertEqual(second.words, "As they lie: hearts alike, cups as one.")

    @given(bows, bows, hearts, hearts, st.booleans(), st.booleans())
    def test_both_ways_stand_and_turning_both_halves_changes_nothing(self, a, b, up, other, edge, matched):
        ways = ways_round(Half(a, up), Half(b, other), edge=edge, matched=matched)
        if not ways:
            self.assertLess(max(abs(a), abs(b)), LEAST_MM)
            return
        self.assertEqual({w.turned for w in ways}, {False, True})
        refused = [w.where == "ends" and w.open_mm >= LEAST_MM for w in ways]
        self.assertLessEqual(refused[0], refused[1], "ends that stay open come last")
        apart = sorted(w.open_mm for w in ways)
        self.assertAlmostEqual(apart[0], abs(abs(a) - abs(b)), places=9)
        self.assertAlmostEqual(apart[1], abs(a) + abs(b), places=9)
        if edge:
            over = [None if h is None else not h for h in (up, other)]
            again = ways_round(Half(-a, over[0]), Half(-b, over[1]), edge=edge, matched=matched)
            self.assertEqual(ways, again, "the same plate seen from its back")


class InTheMaking(unittest.TestCase):
    def test_a_joint_of_two_halves_has_its_ways_once_its_board_was_read(self):
        g, asked, plan = built("set")
        self.assertFalse(
            [o for o in making_of(asked, plan, [g], Bench(clamps=CLAMPS), START).operations if "ways_round" in o.settings]
        )
        wood = [
            p.changed(flatness=p.flatness.changed(bow_mm=6.0, bow_span_mm=1700.0), hollow_face="1", heart_face="1")
            for p in asked.pieces
        ]
        made = making_of(asked.changed(pieces=tuple(wood)), plan, [g], Bench(clamps=CLAMPS), START)
        said = {o.gives[0]: o.settings["ways_round"] for o in made.operations if "ways_round" in o.settings}
        self.assertEqual(set(said), {"set.body", "set.top"}, "a scarf has its ways given")
        best, other = said["set.top"]  # two leaves, opened like a book: the mirror is kept though they step
        self.assertTrue(best.startswith("As they lie: 0.6 a step along the seam; hearts by turns"), best)
        self.assertIn("the mirror is lost", other)
        best, other = said["set.body"]  # one half shows face 1, the other face 2, and nothing is mirrored
        self.assertEqual({p.face_up for p in plan.placements if p.piece == "1"}, {"1", "2"})
        self.assertTrue(best.startswith("Second turned over: hearts alike"), best)
        self.assertNotIn("mirror", best)
        self.assertIn("a step along the seam", other)
        self.assertFalse([o for o in made.operations if o.kind == "glue" and len(o.works_on) > 2 and "ways_round" in o.settings])


if __name__ == "__main__":
    unittest.main()
