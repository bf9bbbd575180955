"""Instruments in a shop: begun, told by the tape line, copied, kept with their design, undone; what cannot be read is a sentence."""

import tempfile
import unittest
from pathlib import Path

from hypothesis import given
from hypothesis import strategies as st

from grainet.design.blanks import blanks_of
from grainet.design.drawing import plan_of, side_of
from grainet.design.figures import BY_WORD, FIGURES
from grainet.design.parts import design_of
from grainet.design.starting_points import POINTS, begin
from grainet.kit.shop_profile import GUESSED_CUTS
from grainet.present.draw_up import lanes_of
from grainet.session.commands.figures import FigureReader, words_for_drawing
from grainet.session.shop import Shop
from grainet.session.stock_answers import stock_answer
from grainet.wood.piece import MoistureReading, Piece
from grainet.wood.species import library_with
from grainet.wood.value import BadEntry


class InAShop(unittest.TestCase):
    def setUp(self):
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.folder = Path(scratch.name) / "S.grainet"
        self.shop = Shop.open(self.folder, create=True)
        self.addCleanup(lambda: self.shop.close())
        self.g = self.shop.instruments.new("bolt-on", "Heron 7")

    def read(self, line, g="held"):
        return FigureReader(self.g if g == "held" else g, self.shop.instruments, library_with(), "mm").read(line)

    def told(self, line):
        return self.read(line).after


class Keeping(InAShop):
    def test_an_instrument_and_its_design_are_one_step(self):
        self.assertTrue(self.shop.instruments.keep("Heron 7 begun", self.g))
        (design,) = self.shop.designs()
        self.assertEqual(design, design_of(self.g))
        wider = self.g.with_figure("head.width_mm", 90.0)
        self.shop.instruments.keep("wider head", wider)
        self.assertEqual(self.shop.designs()[0], design_of(wider))
        self.shop.undo()
        self.assertEqual(self.shop.designs(), [design])
        self.shop.undo()
        self.assertEqual((self.shop.designs(), self.shop.instruments.all()), ([], []))

    def test_what_was_never_said_is_guessed_over_a_restart(self):
        g = self.told("nut 42.5 spread 52 ordered rod 9.5? scale 640")
        self.shop.instruments.keep("told", g)
        self.shop.close()
        self.shop = Shop.open(self.folder)
        again = self.shop.instruments.find(g.id)
        self.assertEqual(again, g)
        guessed = {f.path for f in FIGURES if again.is_guessed(f.path)}
        self.assertTrue({"rod.depth_mm", "overhang_mm"} <= guessed)
        self.assertFalse({"nut_mm", "spread_mm", "scale_mm"} & guessed)
        self.assertEqual((again.status["spread_mm"], again.status["nut_mm"]), ("ordered", "in hand"))

    def test_another_one_takes_the_next_number(self):
        self.shop.instruments.keep("a", self.g)
        eight = self.read("as heron 7").after
        self.assertEqual((eight.name, eight.id), ("Heron 8", "heron-8"))
        self.shop.instruments.keep("b", eight)
        self.assertEqual(self.shop.instruments.like(self.g).name, "Heron 9")
        self.assertEqual([d.name for d in self.shop.designs()], ["Heron 7", "Heron 8"])
        self.shop.instruments.remove(eight)
        self.assertEqual([d.name for d in self.shop.designs()], ["Heron 7"])

    def test_figures_that_cannot_go_together_are_not_kept(self):
        with self.assertRaisesRegex(BadEntry, "A top of 60 leaves nothing of a body of 44"):
            self.shop.instruments.keep("x", self.g.with_figure("body.cap_mm", 60.0))
        self.assertEqual(self.shop.instruments.all(), [])


class Words(InAShop):
    def test_each_starting_point_begins(self):
        for point in POINTS:
            change = self.read(f"new {point} My {point}", None)
            self.assertTrue(change.begins)
            self.assertTrue(blanks_of(change.after, GUESSED_CUTS.allowances))
            self.assertEqual(list(change.after.faults()), [])

    def test_figures_several_on_one_line(self):
        g = self.told("scale 686 648 frets 24 head 14 scarf depth 14.5 16")
        self.assertEqual(
            (g.scale_mm, g.frets, g.head.route, g.head.angle_deg, g.neck.depth_nut_mm, g.neck.depth_heel_mm),
            ((686, 648), 24, "scarf", 14, 14.5, 16),
        )
        self.assertEqual(self.read("scale 640 frets 24").gloss, "scale 640, frets 24")

    def test_sizes_ways_woods_and_hands(self):
        self.assertEqual((self.told("head 178x82").head.length_mm, self.told("head 178×82").head.width_mm), (178, 82))
        self.assertEqual(self.told("body 44").body.thickness_mm, 44)
        body = self.told("body 400x316").body.outline
        self.assertAlmostEqual(max(y for _, y in body) - min(y for _, y in body), 316, places=1)
        self.assertEqual(self.told("neck ears").ways["neck"], "ears")
        self.assertEqual(self.told("neck one piece").ways["neck"], "one piece")
        self.assertEqual(self.told("top none").body.cap_mm, 0)
        self.assertEqual(self.told("body of ash or red alder").body.species[-1], "Red alder")
        self.assertEqual(self.told("body of ash").with_figure("nut_mm", 40.0).body.species, self.told("body of ash").body.species)
        left = self.told("left")
        self.assertEqual(left.hand, "left")
        self.assertEqual(max(y for _, y in left.body.outline), -min(y for _, y in self.g.body.outline))
        strips = self.told("strips 12 a1.5 walnut10>5 =").strips
        self.assertEqual(
            [(s.mm, s.taper_mm, s.accent) for s in strips],
            [(12, None, False), (1.5, None, True), (10, 5, False), (1.5, None, True), (12, None, False)],
        )
        self.assertEqual(self.told("bound 2").fretboard.binding_mm, 2)
        self.assertEqual(self.told("set").kind, "set")

    def test_inches_are_read_as_inches(self):
        reader = FigureReader(self.g, self.shop.instruments, library_with(), "fraction")
        self.assertAlmostEqual(reader.read("scale 25.5").after.scale, 647.7, places=3)

    def test_a_starting_point_by_its_first_letters(self):
        self.assertEqual(self.shop.instruments.point_named("Bolt"), "bolt-on")
        for text in ("", "harp", "b"):
            with self.subTest(text), self.assertRaisesRegex(BadEntry, "needs one of bolt-on"):
                self.shop.instruments.point_named(text)

    def test_what_cannot_be_read_is_a_sentence(self):
        for line, words in (
            ("scale", "scale needs a figure, such as scale 628"), ("scale big", "found “big”"), ("frets 21.5", "whole number"), ("nut -3", "nut"),
            ("new", "new needs a starting point"), ("new harp", "is no starting point"), ("as Owl", "is no instrument of this shop"), ("neck of unobtainium", "not in the species library"),
            ("scale 628 harp 3", "“harp” is no figure"), ("head", "head needs a size"), ("strips 12 zz", "is no strip"), ("scale 628 640 650", "one figure, or two"),
            ("head 14 8 scarf", "one figure"), ("plate of", "needs a wood"), ("name", "what it is called"), ("frets 900", "frets"),
        ):  # fmt: skip
            with self.subTest(line), self.assertRaisesRegex(BadEntry, words):
                self.read(line)
        with self.assertRaisesRegex(BadEntry, "no instrument yet: new bolt-on"):
            self.read("scale 628", None)
        for line in ("760", "t 52.4", "k 24x18", "", "kg 3"):
            self.assertIsNone(self.read(line), "a word about wood")

    def test_every_word_that_is_listed_is_read(self):
        for word, what, example in words_for_drawing():
            self.assertTrue(what)
            line = (
                example
                if word not in BY_WORD
                else f"{word} {max(1, int(self.g.figure(BY_WORD[word].path)[0] if isinstance(self.g.figure(BY_WORD[word].path), tuple) else self.g.figure(BY_WORD[word].path) or 1))}"
            )
            line = {"rim": "top 6 rim 9", "recess": "top 6 rim 9 recess 1"}.get(word, line)  # these are of a top that is let in
            if word != "as":
                self.assertIsNotNone(self.read(line), line)

    @given(
        st.lists(
            st.sampled_from(
                [
                    *BY_WORD,
                    "head",
                    "body",
                    "neck",
                    "strips",
                    "of",
                    "top",
                    "left",
                    "scarf",
                    "?",
                    "=",
                    "628",
                    "178x82",
                    "2 1/16",
                    "none",
                    "ash",
                    "-4",
                    "1e9",
                    "x",
                ]
            ),
            min_size=1,
            max_size=7,
        )
    )
    def test_any_words_mean_something_or_are_a_sentence(self, words):
        try:
            change = self.read(" ".join(words))
        except BadEntry:
            return
        if change is not None:
            design_of(change.after)
            lanes_of(change.after, GUESSED_CUTS.allowances, "mm")
            plan_of(change.after), side_of(change.after)


class Counted(unittest.TestCase):
    def test_a_board_that_gives_too_few_is_no_yes_even_after_work(self):
        g = begin("through", "t", "t").with_figures({
            "body.thickness_mm": 46.0, "joint.length_mm": 380.0, "joint.angle_deg": 2.5, "ways": {"neck": "layers"}, "neck.layer_mm": 34.0,
        })  # fmt: skip
        with tempfile.TemporaryDirectory() as scratch, Shop.open(Path(scratch) / "C.grainet", create=True) as shop:
            ring = ((0.0, 0.0), (2300.0, 0.0), (2300.0, 120.0), (0.0, 120.0))
            shop.apply("one", Piece(id="1", species="Sugar maple (hard)", outline=ring, thickness_mm=38.0))
            found = {}
            for angle in (2.5, 4.0):
                lanes = lanes_of(g.with_figure("joint.angle_deg", angle), shop.kit.cuts.allowances, "mm")
                lane = next(one for one in lanes if one.blank.part == "neck.layer")
                answer = stock_answer(shop, lane.part, lane.blank, lane.count)
                found[lane.count] = (answer.word, answer.text)
        self.assertEqual(set(found), {2, 3}, "one and a half degrees make a third layer")
        self.assertEqual(found[2][0], "if")
        self.assertEqual(found[3][0], "wont", found)
        self.assertIn("of 3", found[3][1])

    def test_folded_and_slipped_halves_come_from_one_board(self):
        """Two boards that give one half each give two halves, and no fold."""
        outline = [[0, -150], [350, -150], [350, 150], [0, 150]]
        g = begin("bolt-on", "g", "G").with_figures({"body.outline": outline})
        read = (MoistureReading(x_mm=200.0, y_mm=80.0, depth_mm=10.0, moisture_pct=8.0),)
        with tempfile.TemporaryDirectory() as scratch, Shop.open(Path(scratch) / "C.grainet", create=True) as shop:
            ring = ((0.0, 0.0), (500.0, 0.0), (500.0, 170.0), (0.0, 170.0))
            wood = {"species": "European ash", "outline": ring, "thickness_mm": 52.0, "mass_kg": 3.0, "moisture": read, "ring_angle_deg": (80.0, 80.0), "grain_slope_deg": 1.0}  # fmt: skip
            shop.apply("two", Piece(id="1", **wood), Piece(id="2", **wood))
            for way, one_board in (("halves", False), ("quiet pair", False), ("fold", True), ("slip", True)):
                drawn = g.with_figures({"ways": {"body": way}})
                lane = next(one for one in lanes_of(drawn, shop.kit.cuts.allowances, "mm") if one.count == 2)
                answer = stock_answer(shop, lane.part, lane.blank, lane.count)
                with self.subTest(way):
                    self.assertEqual(answer.others, () if one_board else ("2",), answer)
                    self.assertEqual(answer.word == "wont", one_board, answer)
                    made = design_of(drawn)
                    if way == "fold":  # a pair by itself, beside one rip
                        self.assertTrue(next(p for p in made.parts if p.id == lane.part.id).fold)
                    else:
                        self.assertEqual(any(not r.same_piece for r in made.recipes), not one_board)


if __name__ == "__main__":
    unittest.main()
