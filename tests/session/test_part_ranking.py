"""Pieces ranked for a part: by grade, room, mates, thrift and price as the house weighs them; figured wood is kept for what is seen."""

import tempfile
import unittest
from datetime import date
from pathlib import Path

from hypothesis import given, settings
from hypothesis import strategies as st

from grainet.demo.make import make_demo
from grainet.design.part import Part, Zone
from grainet.kit.choosing import CRITERIA, Choosing
from grainet.session import lists
from grainet.session.part_ranking import ranked_for_part, shows
from grainet.session.shop import Shop
from grainet.wood.figure import FigureZone
from grainet.wood.piece import Piece

TODAY = date(2026, 11, 24)


def board(number, length, width, thick, **more):
    ring = ((0.0, 0.0), (float(length), 0.0), (float(length), float(width)), (0.0, float(width)))
    return Piece(id=number, species="European ash", outline=ring, thickness_mm=float(thick), **more)


def box(number, long, wide, thick, role, **more):
    ring = ((0.0, 0.0), (float(long), 0.0), (float(long), float(wide)), (0.0, float(wide)))
    return Part(id=number, role=role, outline=ring, thickness_mm=float(thick), **more)


STICK = box("stick", 200, 30, 15, "test_stick")


class Ranking(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.scratch = tempfile.TemporaryDirectory()
        cls.shop = Shop.open(Path(cls.scratch.name) / "S.grainet", create=True)
        whole = ((0.0, 0.0), (900.0, 0.0), (900.0, 200.0), (0.0, 200.0))
        figured = board("1", 900, 200, 24, figure=(FigureZone(id="f1", kind="curl", polygon=whole, strength=0.8),))
        cls.shop.apply(
            "racked",
            figured,
            board("2", 260, 60, 20),
            board("3", 1200, 220, 50),
            board("4", 520, 180, 50),
            board("5", 520, 182, 50),
        )
        cls.known = {p.id: p for p in cls.shop.pieces()}

    @classmethod
    def tearDownClass(cls):
        cls.shop.close()
        cls.scratch.cleanup()

    def setUp(self):
        self.addCleanup(lambda: self.weigh(**Choosing().model_dump()))

    def weigh(self, **weights):
        kit = self.shop.kit
        self.shop.apply("weighed", kit.changed(choosing=Choosing(**weights)))

    def order(self, part, wanted=1):
        return [r.piece for r in ranked_for_part(self.shop, part, wanted, TODAY) if r.word != "wont"]

    @settings(max_examples=25)
    @given(st.fixed_dictionaries({name: st.sampled_from((0.0, 1.0, 3.0, 10.0)) for name in CRITERIA}))
    def test_a_test_stick_never_comes_from_a_figured_board_while_scrap_gives_it(self, weights):
        self.weigh(**weights)
        found = self.order(STICK)
        self.assertEqual(set(found), set("12345"))
        self.assertEqual(found[-1], "1")

    def test_scrap_comes_first_where_thrift_counts_and_the_largest_where_room_does(self):
        self.weigh(grade=0, margin=0, mate=0, thrift=3, price=0)
        self.assertEqual(self.order(STICK)[0], "2")
        self.weigh(grade=0, margin=3, mate=0, thrift=0, price=0)
        self.assertEqual(self.order(STICK)[-2], "2", "the scrap has the least room, and only the figured board stands below it")

    def test_a_price_counts_by_the_wood_that_is_taken(self):
        dear = self.known["4"].changed(supply=self.known["4"].supply.changed(price=90.0))
        cheap = self.known["5"].changed(supply=self.known["5"].supply.changed(price=9.0))
        self.shop.apply("paid", dear, cheap)
        self.addCleanup(lambda: self.shop.apply("back", self.known["4"], self.known["5"]))
        self.weigh(grade=0, margin=0, mate=0, thrift=0, price=1)
        found = [p for p in self.order(box("h", 450, 170, 44, "body_half")) if p in "45"]
        self.assertEqual(found, ["5", "4"])

    def test_where_one_board_does_not_give_both_the_best_mate_is_named(self):
        rows = {r.piece: r for r in ranked_for_part(self.shop, box("h", 450, 170, 44, "body_half"), 2, TODAY)}
        self.assertEqual(rows["3"].scores["mate"], 1.0, "gives both")
        self.assertEqual(rows["3"].mate, "")
        self.assertEqual((rows["4"].mate, rows["5"].mate), ("5", "4"))
        self.assertGreater(rows["4"].mate_score, 80)

    def test_nothing_counts_and_nothing_fails(self):
        self.weigh(**dict.fromkeys(CRITERIA, 0.0))
        self.assertEqual({r.rank for r in ranked_for_part(self.shop, STICK, 1, TODAY)}, {0.0})

    def test_every_score_is_a_share(self):
        for part in (STICK, box("h", 450, 170, 44, "body_half"), box("t", 450, 170, 7, "matched_top", leaves=2)):
            for row in ranked_for_part(self.shop, part, 2, TODAY):
                self.assertTrue(all(0 <= v <= 1 for v in (*row.scores.values(), row.rank)), row)

    def test_another_wood_than_is_wished_for_does_not_give_it(self):
        found = ranked_for_part(self.shop, STICK.changed(species_wish=("Red alder",)), 1, TODAY)
        self.assertEqual({(r.word, r.reason) for r in found}, {("wont", "not among the woods wanted")})

    def test_what_shows(self):
        self.assertTrue(shows(box("n", 600, 60, 22, "neck", zones=(Zone(kind="critical", polygon="rest"),))))
        self.assertFalse(shows(box("h", 450, 170, 44, "body_half", zones=(Zone(kind="hidden", polygon="rest"),))))
        self.assertFalse(shows(STICK))

    def test_it_ends_early(self):
        self.assertEqual(len(ranked_for_part(self.shop, STICK, 1, TODAY, lambda count: count < 2)), 2)


class Lists(unittest.TestCase):
    def test_the_list_names_the_piece_to_take(self):
        with tempfile.TemporaryDirectory() as scratch, make_demo(Path(scratch) / "D.grainet") as shop:
            message, rows = lists.for_a_part(shop, "body_half", TODAY, "merrow")
            self.assertRegex(message, "Merrow body halves, 2 wanted: take No. ")
            first = next(r for r in rows if r.piece)
            self.assertIn(f"take No. {first.piece}", message)
            self.assertRegex(first.first, "to spare: .* along, .* across, .* thick")
            message, rows = lists.for_a_part(shop, "binding", TODAY, "merrow")
            self.assertRegex(message, "Merrow has no binding")
            self.assertEqual(rows, [])
            self.assertRegex(lists.for_a_part(shop, "neck", TODAY, None)[0], "No build is in hand")
