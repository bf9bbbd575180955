"""Every field of a piece has its row, and cutting and turning do to it what the row says."""

import unittest

from grainet.demo.rack import rack
from grainet.job.answer import Offcut
from grainet.kit.shop_profile import GUESSED_CUTS
from grainet.session.hand_cuts import sawn_apart
from grainet.wood.piece import Piece
from grainet.wood.piece_fields import FATES, after_cut
from grainet.wood.turning import rolled_over, turned_end_for_end
from grainet.work.returning import offcut_piece


class Fates(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.pieces = [p for p in rack() if p.outline and p.all_thicknesses_mm]

    def test_no_field_is_forgotten(self):
        self.assertEqual(set(FATES), set(Piece.model_fields))

    def test_a_cut_keeps_and_resets_by_the_table(self):
        for piece in self.pieces:
            x0, y0, x1, y1 = piece.extents
            part = ((x0, y0), (x0 + 0.4 * (x1 - x0), y0), (x0 + 0.4 * (x1 - x0), y1), (x0, y1))
            thick = piece.least_thickness_mm
            for depth, left in ((0.0, thick), (0.4 * thick, 0.3 * thick)):
                made = offcut_piece(piece, Offcut(id="o", piece=piece.id, polygon=part, thickness_mm=left, depth_mm=depth), "o")
                for name, fate in FATES.items():
                    with self.subTest(piece=piece.id, field=name, depth=depth):
                        if fate.cut == "keep":
                            self.assertEqual(getattr(made, name), getattr(piece, name))
                        elif fate.cut == "reset":
                            self.assertEqual(getattr(made, name), Piece.model_fields[name].get_default(call_default_factory=True))

    def test_turning_changes_only_what_it_turns(self):
        seen = {"end": set(), "roll": set()}
        for piece in self.pieces:
            for how, made in (("end", turned_end_for_end(piece)), ("roll", rolled_over(piece))):
                changed = {n for n in Piece.model_fields if getattr(made, n) != getattr(piece, n)}
                allowed = {n for n, fate in FATES.items() if getattr(fate, how) == "turn"}
                self.assertLessEqual(changed, allowed, (piece.id, how))
                seen[how] |= changed
        self.assertGreater(min(len(s) for s in seen.values()), 7, "the demo's pieces have something to turn")

    def test_whoever_cuts_must_say_what_the_table_asks_for(self):
        with self.assertRaisesRegex(KeyError, "outline"):
            after_cut(self.pieces[0], {"id": "x"})

    def test_sawn_by_hand_a_half_keeps_its_shelf_and_its_own_end(self):
        piece = next(p for p in self.pieces if p.ring_angle_deg and None not in p.ring_angle_deg)
        first, second = sawn_apart(piece, "crosscut", piece.extents[2] / 2, GUESSED_CUTS, ("a", "b"))
        self.assertEqual((first.place, second.place), (piece.place, piece.place))
        self.assertEqual(
            (first.ring_angle_deg, second.ring_angle_deg), ((piece.ring_angle_deg[0], None), (None, piece.ring_angle_deg[1]))
        )
