"""A trouble is told as its finder says it: a stretch, a place along and up, sizes with their names, in any order."""

import unittest

from hypothesis import given
from hypothesis import strategies as st

from grainet.session.commands.line import read
from grainet.wood.piece import Piece
from grainet.wood.value import BadEntry, Choose


def typed(line, piece, style="mm", at=0.0):
    return read(line, piece, at, style, "2026-11-29")


SLAB = typed("slab 1180x430x52 white ash", Piece(id="1", kind="plank")).piece


def mark(line, style="mm", at=0.0):
    """Kind, box (x0, y0, x1, y1), face and depth of the mark that a line makes."""
    found = typed(line, SLAB, style, at).piece.defects[-1]
    xs, ys = [x for x, _ in found.polygon], [y for _, y in found.polygon]
    return found.kind, tuple(round(v, 1) for v in (min(xs), min(ys), max(xs), max(ys))), found.face, found.depth_mm


class AsItIsSaid(unittest.TestCase):
    def test_a_groove_by_its_stretch(self):
        wanted = "groove", (300, 53, 880, 67), "2", 9
        for line in (
            "groove 300 to 880 at 60 14 wide 9 deep f2",
            "groove from 300 to 880 at 60, 14 wide, 9 deep, face 2",
            "groove on face 2, 9 deep, 14 wide, from 300 to 880, 60 up",
            "groove 880 to 300 14x9 60 up f 2",
            "590 groove 580 long at 60, 14 wide, 9 deep, on the face 2",
            "groove 580x14 9 at 590 60 f2",
        ):
            with self.subTest(line):
                self.assertEqual(mark(line), wanted)

    def test_a_place_is_along_then_up(self):
        self.assertEqual(mark("nail at 640 200, 6 across"), ("nail", (637, 197, 643, 203), "1", None))
        self.assertEqual(mark("nail 6x6 at 640, 200"), ("nail", (637, 197, 643, 203), "1", None))
        self.assertEqual(mark("800 knot 24x18 at 60"), ("knot", (788, 51, 812, 69), "1", None))
        self.assertEqual(mark("crack 200 to 520 at 210, 2 wide, through"), ("crack", (200, 209, 520, 211), "through", None))

    def test_without_a_place_it_lies_at_the_marker(self):
        self.assertEqual(mark("knot 20 across 60 up", at=500)[1], (490, 50, 510, 70))

    def test_figure_is_told_so_too(self):
        zone = typed("curl 300 to 700 at 120, 80 wide, s .6", SLAB).piece.figure[-1]
        self.assertEqual((min(zone.polygon), max(zone.polygon), zone.strength), ((300, 80), (700, 160), 0.6))

    def test_figure_of_which_no_size_is_told_is_all_over(self):
        whole = SLAB.outline
        for line, kind, strength, word in (
            ("figure curl", "curl", None, ""), ("curly", "curl", None, ""), ("figured quilt loud", "quilt", None, "loud"),
            ("flamed .6", "flame", 0.6, "loud"), ("fiddleback 40 %", "curl", 0.4, "lively"), ("figure ray fleck", "ray_fleck", None, ""),
            ("bird's eye", "birdseye", None, ""), ("figure birds eye face 1", "birdseye", None, ""),
        ):  # fmt: skip
            with self.subTest(line):
                zone = typed(line, SLAB).piece.figure[-1]
                self.assertEqual((zone.kind, zone.strength, zone.word, zone.polygon), (kind, strength, word, whole))
        zone = typed("curl 300 to 700 .6", SLAB).piece.figure[-1]
        self.assertEqual((min(zone.polygon), max(zone.polygon), zone.strength), ((300, 0), (700, 430), 0.6), "from edge to edge")
        zone = typed("curl 12 to 24 1/2", SLAB, "fraction").piece.figure[-1]
        self.assertEqual((round(min(zone.polygon)[0], 1), round(max(zone.polygon)[0], 1)), (304.8, 622.3))
        for line, said in (
            ("figured", "of which kind is not told"), ("figure fish", "“fish” is no kind of figure"), ("500 curl", "needs its size there"),
            ("curl at 500", "needs its size there"), ("curl all over", "left over"),
        ):  # fmt: skip
            with self.subTest(line), self.assertRaisesRegex(BadEntry, said):
                typed(line, SLAB)

    def test_inches_with_their_fractions(self):
        kind, box, face, depth = mark("groove 12 1/2 to 34 5/8 at 2 3/8, 1/2 wide, 3/8 deep, f2", "fraction")
        self.assertEqual((kind, face, round(depth, 1)), ("groove", "2", 9.5))
        self.assertEqual(box, (317.5, 54.0, 879.5, 66.7))

    def test_what_is_missing_or_stands_twice_is_said(self):
        for line, said in (
            ("groove 300 to 880 at 60 9 deep", "needs its width too, such as 14 wide"),
            ("crack 200 to 520", "needs its width too, such as 2 wide"),
            ("groove 14 wide 9 deep", "needs its length too"),
            ("590 groove 300 to 880 14 wide", "stands twice"),
            ("groove 300 to 880 580 long 14 wide", "stands twice"),
            ("nail at 640 200", "such as nail 6x6"),
            ("knot 20 at 1500 60", "is off the board"),
            ("knot 20 at 800 600", "is off the piece"),
        ):
            with self.subTest(line), self.assertRaisesRegex(BadEntry, said):
                typed(line, SLAB)

    @given(st.integers(0, 1000), st.integers(10, 170), st.integers(20, 400), st.integers(2, 18), st.permutations(range(4)))
    def test_the_order_says_nothing(self, x, size, y, wide, order):
        said = [f"{x} to {x + size}", f"{y} up", f"{wide} wide", "9 deep"]
        plain = mark(f"groove {', '.join(said)}")
        self.assertEqual(plain[1][0::2], (x, x + size))
        self.assertEqual(mark("groove " + " ".join(said[k] for k in order)), plain)


class ByTheNamesOnTheScreen(unittest.TestCase):
    """What the screen calls a reading is understood too, and several moistures are read along like several thicknesses."""

    def test_the_whole_name_is_the_word(self):
        for said, short in (
            ("moisture 8.4", "mc 8.4"), ("weight 19.2", "kg 19.2"), ("300 width 430", "300 w 430"), ("300 thickness 52", "300 t 52"),
            ("length 1180", "l 1180"), ("species black cherry", "sp black cherry"), ("origin The Old Mill", "from The Old Mill"),
            ("source The Old Mill", "from The Old Mill"), ("treatment none", "treated none"), ("edges 140 180", "e 140 180"),
        ):  # fmt: skip
            with self.subTest(said):
                self.assertEqual(typed(said, SLAB), typed(short, SLAB))

    def test_several_moistures_lie_evenly_along(self):
        piece = typed("moisture 8.6, 8.4, 8.8 d 20", SLAB).piece
        self.assertEqual(
            [(r.x_mm, r.moisture_pct, r.depth_mm) for r in piece.moisture], [(196.7, 8.6, 20), (590, 8.4, 20), (983.3, 8.8, 20)]
        )
        again = typed("mc 8.5 8.4 8.9 d 20", piece).piece
        self.assertEqual([r.moisture_pct for r in again.moisture], [8.5, 8.4, 8.9])
        with self.assertRaises(Choose) as asked:
            typed("mc 8.4 20", SLAB)  # a depth, most likely
        self.assertEqual(asked.exception.choices, ("8.4 d 20", "8.4 20!"))
        self.assertEqual([r.moisture_pct for r in typed("mc 8.4 20!", SLAB).piece.moisture], [8.4, 20])
        with self.assertRaisesRegex(BadEntry, "its length"):
            typed("mc 8.6 8.4", Piece(id="1", kind="plank"))

    def test_a_face_is_said_in_three_ways(self):
        wanted = typed("bow 4 over 1180 f 1 cup 0.5 f 1", SLAB).piece
        for line in ("bow 4 over 1180 f1 cup 0.5", "bow 4 over 1180, hollow face 1, cup 0.5, f1"):
            self.assertEqual(typed(line, SLAB).piece, wanted, line)
        self.assertEqual(typed("k 24x18, face 2, s 2", SLAB), typed("k 24x18 f 2 s 2", SLAB))

    def test_an_unsure_name_is_unsure_in_every_line(self):
        oaks = typed("sp oak?", SLAB).piece
        fresh = Piece(id="2", kind="plank")
        for piece in (
            typed("slab 1180x430x52 oak? reclaimed", fresh).piece,
            typed("length 1180, width 430, thickness 52, oak?", fresh).piece,
            typed("bundle 2x760x58x12 oak?", fresh).more[1],
        ):
            self.assertEqual((piece.species, piece.candidates, piece.species_sure), (oaks.species, oaks.candidates, False))
        both = typed("sp oak or sweet chestnut", SLAB).piece
        self.assertEqual((both.candidates[:-1], both.candidates[-1]), (oaks.candidates, "Sweet chestnut"))
        with self.assertRaisesRegex(BadEntry, "not in the species library"):
            typed("sp oak or nosuchwood", SLAB)


class AMarkThatIsThere(unittest.TestCase):
    """A line that begins with a mark's own tag changes it, and never makes a new one by mistake."""

    def setUp(self):
        piece = SLAB
        for line in ("crack 0 to 260 at 215, 2 wide, through", "knot 20 at 800 60, 12 deep", "nail 6 at 640 200"):
            piece = typed(line, piece).piece
        self.piece = piece

    def changed(self, line):
        made = typed(line, self.piece).piece.defects
        return next((d for d in made if d.id == line[:2]), None), len(made)

    def box(self, line):
        found, count = self.changed(line)
        self.assertEqual(count, 3)
        return tuple(f(axis) for f in (min, max) for axis in zip(*found.polygon, strict=True))

    def test_its_stretch_width_and_place(self):
        self.assertEqual(self.box("c1 0 to 420"), (0, 214, 420, 216))
        self.assertEqual(self.box("c1 420 long"), (0, 214, 420, 216))
        self.assertEqual(self.box("c1 300 long 4 wide"), (0, 213, 300, 217))
        self.assertEqual(self.box("k1 30 long, 24 wide"), (785, 48, 815, 72))
        self.assertEqual(self.box("k1 at 700 80"), (690, 70, 710, 90))
        self.assertEqual(self.box("k1 y 40"), (790, 30, 810, 50))

    def test_a_drawn_one_keeps_its_shape(self):
        found = self.piece.defects[1].changed(polygon=((790, 60), (800, 50), (810, 60), (800, 70)))
        piece = self.piece.changed(defects=(found,))
        self.assertEqual(typed("k1 780 to 840", piece).piece.defects[0].polygon, ((780, 60), (810, 50), (840, 60), (810, 70)))

    def test_its_depth_face_and_end(self):
        for line, short in (
            ("k1 30 deep", "depth k1 30"), ("k1 d 30", "depth k1 30"), ("k1 through", "face k1 through"), ("m1 out", "out m1"),
            ("c1 ends far", "ends c1 far"), ("c1 mend dowels", "mend c1 dowels"), ("c1 drop", "drop c1"), ("k1 sev 3", "sev k1 3"),
        ):  # fmt: skip
            with self.subTest(line):
                self.assertEqual(typed(line, self.piece), typed(short, self.piece))

    def test_what_says_nothing_about_it_makes_no_new_one(self):
        for line, said in (
            ("c1 420", "marked already"), ("k1 18", "marked already"), ("c1 deeper", "marked already"),
            ("c1 0 to 4200", "reaches beyond the piece"), ("c1 0 to 420 3 deep", "one thing at a time"), ("c1 0 to 420, 300 long", "stands twice"),
        ):  # fmt: skip
            with self.subTest(line), self.assertRaisesRegex(BadEntry, said):
                typed(line, self.piece)
        self.assertEqual(typed("k18", self.piece).piece.defects[-1].id, "k2")
