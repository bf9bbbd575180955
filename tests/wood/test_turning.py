"""Turning a piece carries everything with the wood; planing directions and tearing follow the fibres."""

import unittest

import numpy as np

from grainet.demo.rack import rack
from grainet.picture.of_piece import face_picture
from grainet.wood.figure import FigureZone
from grainet.wood.photo import Photo, TruePoint
from grainet.wood.piece import Piece
from grainet.wood.planing import Member, planing_direction, tearing
from grainet.wood.thickness import ThicknessField
from grainet.wood.turning import flipped_over_the_end, rolled_over, turned_end_for_end

RING = ((0.0, 0.0), (900.0, 0.0), (900.0, 90.0), (0.0, 90.0))


def rich_pieces():
    zone = FigureZone(id="f1", polygon=((10, 10), (200, 10), (200, 60), (10, 60)), strength=0.5, angle_deg=7)
    photo = Photo(
        side="face1",
        sha="0" * 64,
        width_px=100,
        height_px=50,
        points=tuple(TruePoint(px=k, py=k, u_mm=10 * k, v_mm=5 * k) for k in range(4)),
    )
    return [p.changed(figure=(zone,), photos=(photo,), planing="far", runout_deg=1.5) for p in rack()]


class Turning(unittest.TestCase):
    def test_twice_is_as_it_was(self):
        for turn in (turned_end_for_end, rolled_over, flipped_over_the_end):
            for piece in rich_pieces():
                again = turn(turn(piece))
                self.assertEqual(set(again.outline), set(piece.outline))
                for name in (
                    "defects",
                    "moisture",
                    "ring_angle_deg",
                    "grain_slope_deg",
                    "runout_deg",
                    "planing",
                    "figure",
                    "photos",
                    "sweeps",
                    "picture_sign",
                ):
                    self.assertEqual(getattr(again, name), getattr(piece, name), f"{turn.__name__} {piece.id} {name}")
                np.testing.assert_allclose(again.picture_at, piece.picture_at, atol=1e-6)
                self.assertEqual(sorted(again.stations, key=str), sorted(piece.stations, key=str))

    def test_over_the_end_is_both(self):
        for piece in rich_pieces():
            self.assertEqual(flipped_over_the_end(piece).defects, turned_end_for_end(rolled_over(piece)).defects)

    def test_the_wood_at_a_place_keeps_its_thickness_and_troubles(self):
        for piece in rich_pieces()[:8]:
            _x0, _y0, x1, y1 = piece.extents
            turned, rolled = turned_end_for_end(piece), rolled_over(piece)
            field, other, over = (ThicknessField.of(p) for p in (piece, turned, rolled))
            for x, y in ((100.0, 20.0), (x1 / 3, y1 / 2), (x1 - 50, y1 - 10)):
                self.assertAlmostEqual(float(field.at(x, y)), float(other.at(x1 - x, y1 - y)), places=6)
                self.assertAlmostEqual(float(field.at(x, y)), float(over.at(x, y1 - y)), places=6)
            self.assertEqual([d.depth_mm for d in rolled.defects], [d.depth_mm for d in piece.defects])

    def test_the_picture_turns_with_the_wood(self):
        piece = next(p for p in rack() if p.id == "9").changed(defects=())
        plain = face_picture(piece, "1", 0.3).astype(int)
        turned = face_picture(turned_end_for_end(piece), "1", 0.3).astype(int)
        self.assertLess(np.abs(turned[::-1, ::-1] - plain).mean(), 3)
        back = face_picture(piece, "2", 0.3).astype(int)
        rolled = face_picture(rolled_over(piece), "1", 0.3).astype(int)
        self.assertLess(np.abs(rolled[::-1] - back).mean(), 3)

    def test_the_arrow_turns_round_end_for_end_and_when_rolled_and_stays_over_the_end(self):
        piece = Piece(id="1", outline=RING, planing="far", runout_deg=2.0)
        self.assertEqual(turned_end_for_end(piece).planing, "marked")
        self.assertEqual(rolled_over(piece).planing, "marked")
        self.assertEqual(flipped_over_the_end(piece).planing, "far")
        for turn in (turned_end_for_end, rolled_over, flipped_over_the_end):
            turned = turn(piece)
            self.assertEqual(planing_direction(turned), planing_direction(turned.changed(planing="")), "run-out and note agree")


class Planing(unittest.TestCase):
    def test_from_the_run_out(self):
        piece = Piece(id="1", outline=RING, runout_deg=2.0)
        self.assertEqual(planing_direction(piece), "far")
        self.assertEqual(planing_direction(piece, "2"), "marked")
        self.assertEqual(planing_direction(piece.changed(runout_deg=0.2)), "")
        self.assertEqual(planing_direction(piece.changed(interlocked=True)), "both_ways_tear")

    def test_opposing_members_tear_and_the_turn_mends_it(self):
        pieces = [Piece(id=str(k), outline=RING, planing=way) for k, way in enumerate(("far", "marked", "far"), 1)]
        found = tearing([Member(p) for p in pieces])
        self.assertIn("will tear both ways", found.text)
        self.assertEqual(found.turn, ("2",))
        self.assertIsNone(tearing([Member(p, turned=p.id in found.turn) for p in pieces]))
        self.assertIsNone(tearing([Member(turned_end_for_end(p) if p.id in found.turn else p) for p in pieces]))
