"""Asking the rack by part size and words: exactly the matching boards, against a slow independent search."""

import time
import unittest

import numpy as np
from shapely.geometry import Polygon, box

from grainet.kit.cut_kit import CutKit
from grainet.kit.shop_profile import ShopProfile
from grainet.session.query import Query, matches, parse_query
from grainet.wood.defects import Defect
from grainet.wood.flatness import flattening_links
from grainet.wood.piece import Flatness, MoistureReading, Piece
from grainet.wood.value import BadEntry

KIT = ShopProfile.of_cuts(CutKit(skim_mm=0.5, edge_mm=2.0, trim_mm=4.0))


def seeded(count=200):
    rng = np.random.default_rng(11)
    pieces = []
    for k in range(count):
        length, width = float(rng.integers(450, 2400)), float(rng.integers(70, 260))
        marks = []
        for j in range(int(rng.integers(0, 5))):
            x, y = rng.uniform(0, length - 40), rng.uniform(0, width - 30)
            w, h = rng.uniform(10, 90), rng.uniform(8, 30)
            ring = ((x, y), (x + w, y), (x + w, y + h), (x, y + h))
            marks.append(
                Defect(
                    id=f"k{j + 1}",
                    kind=["knot", "stain", "crack"][int(rng.integers(3))],
                    polygon=ring,
                    depth_mm=5,
                    ends_closed=(True, True),
                )
            )
        pieces.append(
            Piece(
                id=str(k + 1), species=["Red alder", "European ash", "Sugar maple (hard)"][k % 3], outline=((0, 0), (length, 0), (length, width), (0, width)),
                thickness_mm=float(rng.integers(18, 60)), flatness=Flatness(bow_mm=float(rng.uniform(0, 3)), cup_mm=float(rng.uniform(0, 1.5))),
                ring_angle_deg=(float(rng.integers(0, 90)), float(rng.integers(0, 90))), defects=tuple(marks),
                moisture=(MoistureReading(x_mm=100, y_mm=20, depth_mm=20, moisture_pct=float(rng.uniform(6, 14))),),
            )
        )  # fmt: skip
    return pieces


def slowly(piece, thick, width, length, kit):
    """Slide an exact rectangle over the board by 4 mm."""
    _, _, x1, y1 = piece.extents
    loss = sum(link.takes_mm for link in flattening_links(piece.flatness, length, width, x1, y1)) + 2 * kit.cuts.skim_mm
    if piece.thickness_mm - loss < thick:
        return False
    w, h = length + 2 * kit.cuts.trim_mm, width + 2 * kit.cuts.edge_mm
    marks = [Polygon(d.polygon) for d in piece.defects]
    for x in np.arange(0, x1 - w + 1e-9, 4):
        for y in np.arange(0, y1 - h + 1e-9, 4):
            if not any(box(x, y, x + w, y + h).intersects(m) for m in marks):
                return True
    return False


class Asking(unittest.TestCase):
    def test_exactly_the_matching_boards_of_two_hundred(self):
        pieces = seeded()
        query = parse_query("≥ 30 × 110 × 700 clear, quartered, ready")
        start = time.perf_counter()
        found = {p.id for p in pieces if matches(p, query, KIT)}
        seconds = time.perf_counter() - start
        target = KIT.target_moisture_pct
        wanted = {
            p.id for p in pieces
            if min(p.ring_angle_deg) >= 60 and abs(p.moisture[0].moisture_pct - target) <= 1 and slowly(p, 30, 110, 700, KIT)
        }  # fmt: skip
        self.assertEqual(found, wanted)
        self.assertGreater(len(found), 0)
        self.assertLess(seconds, 5, "said in the issue: under a second; the bench prints it")

    def test_size_alone_never_says_yes_wrongly_and_seldom_no(self):
        pieces = seeded(120)
        query = Query((24.0, 60.0, 420.0), frozenset({"clear"}))
        fast = {p.id for p in pieces if matches(p, query, KIT)}
        slow = {p.id for p in pieces if slowly(p, 24, 60, 420, KIT)}
        self.assertLessEqual(fast, slow)
        self.assertLessEqual(len(slow - fast), 2)

    def test_words(self):
        query = parse_query("ash plank, at c3, figured, lively, 2 x 20 in", "fraction")
        self.assertEqual((query.kinds, query.places, query.house, query.words), ({"plank"}, {"c3"}, {"lively"}, {"figured"}))
        self.assertEqual(query.species, {"ash"})
        self.assertAlmostEqual(query.size_mm[2], 508)
        self.assertIn("lively", query.message())
        for bad in ("sparkly", "30 x frog"):
            with self.subTest(bad), self.assertRaises(BadEntry):
                parse_query(bad)

    def test_kinds_species_and_places(self):
        piece = seeded(1)[0].changed(place="C3", kind="plank")
        for text, holds in (
            ("alder", True),
            ("ash", False),
            ("plank", True),
            ("slab", False),
            ("at c3", True),
            ("at c4", False),
            ("unread", False),
            ("measured", True),
        ):
            self.assertEqual(matches(piece, parse_query(text), KIT), holds, text)
