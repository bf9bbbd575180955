"""Taking in any piece by words: kinds, bundles, grids, coating, marks, suggestions, sawing apart."""

import tempfile
import unittest
from pathlib import Path

from grainet.session.commands.command import Command
from grainet.session.commands.line import read
from grainet.session.commands.sizes import grid_places
from grainet.session.missing_readings import tasks_of
from grainet.session.shop import Shop
from grainet.session.suggesting import suggested
from grainet.wood.coating import consequences
from grainet.wood.defects import counted
from grainet.wood.piece import PIECE_KINDS, Piece
from grainet.wood.suggestion import Suggestion
from grainet.wood.turning import rolled_over
from grainet.wood.value import BadEntry


def say(piece: Piece, *lines: str, style="mm", by="") -> Piece:
    for line in lines:
        piece = read(line, piece, 0.0, style, "2026-11-25", by=by).piece
    return piece


def meaning(line: str, piece: Piece | None = None) -> Command:
    return read(line, piece or Piece(id="18", racked=False), 0.0, "mm", "2026-11-25")


BOARD = say(Piece(id="18", racked=False), "plank 1500x180x32 white ash")


class Kinds(unittest.TestCase):
    def test_a_piece_is_opened_by_its_number_as_it_is_said(self):
        for line in ("#42", "no 42", "No. 42", "NO.42", "number 42"):
            self.assertEqual(meaning(line).opens, "42", line)
        self.assertEqual(meaning("no 42.1").opens, "42.1")
        with self.assertRaises(BadEntry):
            meaning("no")

    def test_a_figure_may_be_said_before_its_word(self):
        piece = Piece(id="18", racked=False)
        said = say(piece, "1500 long", "180 wide", "32 thick", "4.1 kg", "8.2 %")
        self.assertEqual(said, say(piece, "l 1500", "w 180", "t 32", "kg 4.1", "mc 8.2"))
        self.assertEqual(say(BOARD, "9 % moist"), say(BOARD, "mc 9"))
        inches = read("7 1/2 in wide", BOARD, 0.0, "fraction", "2026-11-25").piece
        self.assertAlmostEqual(inches.extents[3], 190.5)
        with self.assertRaises(BadEntry):
            meaning("wide", BOARD)

    def test_a_plural_is_the_word(self):
        """Verdicts and labels speak of rings: so may a person."""
        self.assertEqual(say(BOARD, "rings 80 70"), say(BOARD, "ring 80 70"))
        self.assertEqual(say(BOARD, "400 knots 24x18"), say(BOARD, "400 knot 24x18"))
        with self.assertRaisesRegex(BadEntry, "“xyzzys” is not a word"):
            meaning("xyzzys 3", BOARD)

    def test_a_slip_of_the_keys_is_told_the_word_near_to_it(self):
        for line, near in (("endsplit 90x4", "split"), ("knto 20x10", "knot"), ("planck 900x100x20", "plank")):
            with self.subTest(line), self.assertRaisesRegex(BadEntry, f"Near to it: {near}"):
                meaning(line)
        with self.assertRaises(BadEntry) as caught:
            meaning("xyzzy 3")
        self.assertNotIn("Near", str(caught.exception))

    def test_a_whole_line_of_a_measured_piece_begins_the_next_one(self):
        told = meaning("plank 900x110x42 european oak", BOARD)
        self.assertTrue(told.begins)
        self.assertTrue(told.gloss.startswith("a new piece, plank"))
        self.assertEqual((told.piece.racked, told.piece.extents[2], told.piece.moisture), (False, 900, ()))
        self.assertTrue(meaning("new plank 900x110x42 european oak", BOARD).begins)
        corrected = meaning("plank 1490x180x32", BOARD)  # sizes alone: those of the piece in hand
        self.assertFalse(corrected.begins)
        self.assertEqual(corrected.piece.species, BOARD.species)

    def test_every_kind_comes_in_with_one_line(self):
        for kind in PIECE_KINDS:
            piece = say(Piece(id="1"), f"{kind} 900x120x12 black walnut")
            self.assertEqual((piece.kind, piece.extents, piece.least_thickness_mm), (kind, (0, 0, 900, 120), 12))
            self.assertIn("walnut", piece.species.lower())

    def test_a_bundle_of_three_lengths_counts_as_twelve(self):
        found = meaning("bundle 5x760x58x12 4x700 3x620x60 sugar maple")
        self.assertTrue(found.replaces)
        self.assertEqual(len(found.more), 12)
        self.assertEqual([p.length_mm for p in found.more], [760] * 5 + [700] * 4 + [620] * 3)
        self.assertEqual({p.extents[3] for p in found.more[-3:]}, {60})
        self.assertEqual({p.bundle for p in found.more}, {"18"})
        self.assertEqual(len({p.id for p in found.more}), 12)

    def test_a_pack_keeps_its_sawn_order(self):
        self.assertEqual([p.sawn_order for p in meaning("pack 6x500x200x3 black cherry").more], [1, 2, 3, 4, 5, 6])

    def test_a_bundle_asks_for_what_it_lacks(self):
        for line in (
            "bundle maple",
            "bundle 5x760",
            "bundle 300x760x58x12",
            "bundle 0x760x58x12",
            "bundle 5x760x58x12 nosuchwood",
        ):
            with self.assertRaises(BadEntry):
                meaning(line)
        with self.assertRaisesRegex(BadEntry, "measured already"):
            meaning("bundle 5x760x58x12", BOARD)

    def test_a_panel_with_layers_says_when_they_do_not_add_up(self):
        found = meaning("layers 0.6 black walnut 18 lime across 0.6 black walnut", BOARD)
        self.assertEqual([(x.thickness_mm, x.across) for x in found.piece.layers], [(0.6, False), (18, True), (0.6, False)])
        self.assertIn("12.8 from the 32.0 read", found.gloss)

    def test_nominal_sizes_stand_beside_measured_ones(self):
        piece = say(BOARD, "nominal 8/4 x 8 in x 8 ft")
        self.assertAlmostEqual(piece.nominal_thickness_mm, 50.8)
        self.assertAlmostEqual(piece.nominal_width_mm, 203.2)
        self.assertAlmostEqual(piece.nominal_length_mm, 2438.4)
        self.assertEqual(piece.least_thickness_mm, 32)


class Readings(unittest.TestCase):
    def test_several_figures_go_evenly_along(self):
        piece = say(BOARD, "w 180 176 181", "t 32.1 31.8 31.5 31.9")
        self.assertEqual([w.x_mm for w in piece.width_stations], [0, 750, 1500])
        self.assertEqual([s.x_mm for s in piece.stations], [60, 520, 980, 1440])
        self.assertEqual(piece.least_thickness_mm, 31.5)

    def test_a_grid_is_filled_row_by_row(self):
        piece = say(BOARD, "grid 3x2", "t 30 31 32 33 34 35")
        self.assertEqual(
            {(s.x_mm, s.y_mm): s.thickness_mm for s in piece.stations}, dict(zip(grid_places(piece), (30, 31, 32, 33, 34, 35)))
        )
        with self.assertRaisesRegex(BadEntry, "needs 6 figures"):
            say(piece, "t 30 31")
        one = say(piece, "60 t 29.5 y 20 h 0.4")
        self.assertEqual(len(one.stations), 6)
        self.assertEqual(next(s for s in one.stations if s.x_mm == 60 and s.y_mm == 20).top_mm, 0.4)

    def test_live_edges_in_one_line(self):
        piece = say(Piece(id="1"), "l 1600", "e 148 186 150 190 146 188")
        self.assertEqual(
            [(w.x_mm, w.far_mm, w.near_mm) for w in piece.width_stations], [(0, 148, 186), (800, 150, 190), (1600, 146, 188)]
        )
        with self.assertRaisesRegex(BadEntry, "meet"):
            say(piece, "e 0 0")

    def test_flatness_with_spans_faces_and_twist(self):
        piece = say(BOARD, "bow 3 over 1200 f 2", "twist 1°")
        self.assertEqual((piece.flatness.bow_mm, piece.flatness.bow_span_mm, piece.hollow_face), (3, 1200, "2"))
        self.assertAlmostEqual(piece.flatness.rock_mm, 3.14, places=2)

    def test_a_second_figure_for_a_length_is_compared(self):
        with self.assertRaisesRegex(BadEntry, "9.2 apart"):
            say(BOARD, "l 2 in / 60 mm")

    def test_a_reading_says_which_instrument_gave_it(self):
        piece = say(BOARD, "t 31.2", "mc 8.4", "kg 4.2", "w 181", by="callipers 1")
        self.assertEqual(
            {piece.stations[0].by, piece.moisture[0].by, piece.source_of("mass_kg"), piece.width_stations[0].by}, {"callipers 1"}
        )
        self.assertEqual(say(piece, "kg 4.3").source_of("mass_kg"), "")


class Marks(unittest.TestCase):
    def test_one_mark_is_told_everything(self):
        piece = say(
            BOARD, "300 c 80x4 y 90", "ends c1 far", "sev c1 grave", "depth c1 12", "face c1 through", "cleared c1 stabilised"
        )
        mark = piece.defects[0]
        self.assertEqual((mark.ends_closed, mark.severity, mark.depth_mm, mark.face), ((False, True), 3, 12, "through"))
        self.assertIn("stabilised", mark.cleared)
        self.assertEqual(counted(piece.defects)[0].ends_closed, (True, True), "dealt with, it grows no more")
        self.assertEqual(say(piece, "is c1 shake").defects[0].id, "h1")

    def test_the_bench_s_own_words_keep_their_name(self):
        from grainet.wood.defects import ALIASES, name_of

        piece = say(BOARD, "300 crush 24x18 d 2", "400 spall 30x8 y 176 d 3", "600 ridge 200x6 f 2 d 1.5")
        self.assertEqual(
            [(d.kind, name_of(d), d.family) for d in piece.defects],
            [("thin_spot", "crush", "void"), ("notch", "spall", "void"), ("groove", "ridge", "void")],
        )
        with self.assertRaisesRegex(BadEntry, "needs its size"):
            say(BOARD, "crush hard")
        self.assertTrue(ALIASES)

    def test_metal_is_cleared_by_drawing_it_out(self):
        piece = say(BOARD, "300 m 6x6")
        with self.assertRaisesRegex(BadEntry, "drawing it out"):
            say(piece, "cleared m1 looks fine")
        self.assertEqual(say(piece, "clear both detector").sweeps[0].found, "m1")
        self.assertEqual(say(piece, "out m1").defects[0].family, "void")

    def test_an_old_face_is_skimmed_only_once_swept_and_tested_and_read_again_then(self):
        old = say(BOARD, "finish varnish", "treated none", "300 k 24x18 d 0.3", "500 k 30x20 y 60 d 9").changed(reclaimed=True)
        for words, why in (("skimmed 1 0.4", "swept"), ("skimmed 1 3", "swept"), ("seen 1", "no such|No skim")):
            with self.assertRaisesRegex(BadEntry, why):
                say(old, words)
        with self.assertRaisesRegex(BadEntry, "not tested"):
            say(say(old, "clear both detector"), "skimmed 1 0.4")
        ready = say(old, "clear both detector", "tested clean swab")
        for words, why in (
            ("skimmed 1 3", "planing"),
            ("skimmed 3 0.4", "needs a face"),
            ("skimmed 1 much", "no figure"),
            ("skimmed 1 0", "more than 0"),
        ):
            with self.assertRaisesRegex(BadEntry, why):
                say(ready, words)
        asks = [t.words for t in tasks_of(ready, 10)]
        self.assertLess(asks.index("skimmed 1 "), asks.index("skimmed 2 "))
        bare = say(ready, "skimmed 1 0.4")
        self.assertEqual(
            [round(a - b, 3) for a, b in zip(ready.all_thicknesses_mm, bare.all_thicknesses_mm)],
            [0.4] * len(bare.all_thicknesses_mm),
        )
        self.assertEqual([(d.id, d.depth_mm) for d in bare.defects], [("k2", 8.6)])  # the shallow one went with it
        self.assertIn("seen 1", [t.words for t in tasks_of(bare, 10)])
        self.assertNotIn("seen 1", [t.words for t in tasks_of(say(bare, "seen 1"), 10)])
        self.assertEqual([s.face for s in rolled_over(bare).skims], ["2"])

    def test_a_flaw_is_told_how_it_is_mended_where_a_part_uses_it(self):
        piece = say(BOARD, "300 k 24x18", "500 m 6x6", "mend k1 plug")
        self.assertEqual(piece.defects[0].mend, "plug")
        self.assertEqual(say(piece, "mend k1 none").defects[0].mend, "")
        for words, why in (
            ("mend m1 plug", "draw it out"),
            ("mend k1 paint", "needs harden"),
            ("mend k9 plug", "k9"),
            ("mend", "mark and how"),
        ):
            with self.assertRaisesRegex(BadEntry, why):
                say(piece, words)

    def test_figure_with_facts_and_the_house_word(self):
        zone = say(BOARD, "400 curl 300x120 s .85 wl 12 a 4").figure[0]
        self.assertEqual((zone.kind, zone.strength, zone.wavelength_mm, zone.angle_deg, zone.word), ("curl", 0.85, 12, 4, "wild"))

    def test_suggestions_count_for_nothing_until_kept(self):
        ring = ((300, 40), (340, 40), (340, 60), (300, 60))
        found = (
            Suggestion(id="x", what="defect", kind="knot", confidence=0.8, polygon=ring),
            Suggestion(id="x", what="slope", confidence=0.9, figures=(1.26,)),
            Suggestion(id="x", what="rings", face="1", confidence=0.9, figures=(61.7, 1)),
            Suggestion(id="x", what="edges", confidence=0.9, edges=((0, 10, 190), (750, 14, 184), (1500, 12, 186))),
        )
        piece = suggested(BOARD, found, "1")
        self.assertEqual([s.id for s in piece.suggestions], ["k1?", "slope?", "rings?", "edges?"])
        self.assertEqual((piece.defects, piece.grain_slope_deg), ((), None))
        kept = say(piece, "take k1?", "take slope?", "take rings?", "take edges?")
        self.assertEqual((kept.defects[0].kind, kept.grain_slope_deg, kept.ring_angle_deg), ("knot", 1.3, (None, 62)))
        self.assertIn("picture", kept.defects[0].by)
        self.assertEqual(len(kept.width_stations), 3)
        self.assertEqual(kept.suggestions, ())
        self.assertEqual(len(say(piece, "drop k1?").suggestions), 3)
        again = suggested(kept, found[:1], "1")
        self.assertEqual(again.suggestions, (), "a mark that is known is not suggested again")


class Coats(unittest.TestCase):
    def test_unknown_paint_forces_a_test_and_a_respirator(self):
        piece = say(BOARD, "kind reclaimed", "finish unknown")
        found = consequences(piece.coating, reclaimed=piece.reclaimed)
        self.assertTrue(any(c.closes == "machining" and "respirator" in c.text and c.grade == "A" for c in found))
        clean = say(piece, "tested clean swab kit", "treated none")
        self.assertEqual(consequences(clean.coating, reclaimed=True), ())
        self.assertTrue(any(c.closes == "use" for c in consequences(say(piece, "tested lead lab").coating, reclaimed=True)))

    def test_treated_decking_warns_for_burning_and_skin(self):
        piece = say(BOARD, "treated decking")
        text = " ".join(c.text for c in consequences(piece.coating, reclaimed=False))
        self.assertIn("burn", text)
        self.assertIn("skin", text)
        self.assertEqual(consequences(say(piece, "treated safe mill paper says heat only").coating, reclaimed=False), ())


class SawnApart(unittest.TestCase):
    def setUp(self):
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.shop = Shop.open(Path(scratch.name) / "S.grainet", create=True)
        self.addCleanup(self.shop.close)
        lines = (
            "kg 5.2",
            "ring 70 60",
            "planes far",
            "400 curl 300x120 s .6",
            "300 k 40x30 y 90 d 10",
            "700 k 40x30 y 60 d 9 f 2",
        )
        self.board = say(BOARD, *lines).changed(racked=True)
        self.shop.apply("in", self.board)

    def test_a_resaw_keeps_figure_in_both_leaves_and_shares_the_troubles(self):
        leaf1, leaf2 = self.shop.rack.saw_apart("18", "resaw", 16.0)
        self.assertEqual([len(leaf.figure) for leaf in (leaf1, leaf2)], [1, 1])
        self.assertEqual([[d.id for d in leaf.defects] for leaf in (leaf1, leaf2)], [["k1"], ["k2"]])
        self.assertAlmostEqual(leaf1.thickness_mm + leaf2.thickness_mm, 32 - self.shop.kit.cuts.kerf_mm.resaw, places=2)
        self.assertEqual(leaf1.planing, "far")
        self.assertEqual([p.id for p in self.shop.pieces()], ["18.1", "18.2"])
        self.shop.undo()
        self.assertEqual([p.id for p in self.shop.pieces()], ["18"])

    def test_a_crosscut_leaves_the_new_ends_unread(self):
        near, far = self.shop.rack.saw_apart("18", "crosscut", 600.0)
        self.assertEqual((near.ring_angle_deg, far.ring_angle_deg), ((70, None), (None, 60)))
        self.assertAlmostEqual(near.extents[2] + far.extents[2], 1500 - self.shop.kit.cuts.kerf_mm.crosscut, places=3)

    def test_a_cut_that_leaves_nothing_is_refused(self):
        with self.assertRaisesRegex(BadEntry, "kerf"):
            self.shop.rack.saw_apart("18", "resaw", 0.6)
        self.assertEqual([p.id for p in self.shop.pieces()], ["18"])
        with self.assertRaisesRegex(BadEntry, "metal"):
            meaning("cut 700", say(self.board, "100 m 5x5"))
