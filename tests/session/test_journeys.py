"""Whole stories of wood from the door to the neck, told in the words that a builder types."""

import tempfile
import unittest
from datetime import date, timedelta
from pathlib import Path

import numpy as np

from grainet.chart.drying import moisture_chart, weight_chart
from grainet.design.brief import demands
from grainet.design.checks import checks_of
from grainet.grade.ready import readiness
from grainet.job.answer import Cut
from grainet.session import lists
from grainet.session.commands.line import read
from grainet.session.query import parse_query
from grainet.session.shop import Shop
from grainet.wood.candidates import standing
from grainet.wood.flags import flags_of
from grainet.wood.settling import settle
from grainet.work.cautions import cautions_for
from tests.session.test_shop import InShop


class Story(unittest.TestCase):
    """A shop of one's own and a day that moves on."""

    def setUp(self):
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.shop = Shop.open(Path(scratch.name) / "S.grainet", create=True)
        self.addCleanup(self.shop.close)
        self.day = date(2026, 3, 2)

    def say(self, *words, number="1", plumb=450.0):
        """Type lines for a piece, and keep what they mean."""
        for line in words:
            piece = self.shop.piece(number) if self.shop.has_piece(number) else None
            meaning = read(line, piece, plumb, "mm", self.day.isoformat(), kit=self.shop.kit)
            if meaning.piece is not None:
                self.shop.apply(meaning.label or line, meaning.piece)
            if meaning.air is not None:
                self.shop.air.log([meaning.air])
        return self.shop.piece(number)

    def wait(self, days):
        self.day += timedelta(days=days)

    def group(self, use="neck", number="1"):
        """The heading under which a piece stands for a use."""
        head = ""
        for row in lists.for_a_use(self.shop, use, self.day)[1]:
            head = row.head.rpartition(": ")[0] or head
            if row.piece == number:
                return head
        raise AssertionError(f"{number} is not listed")

    def asked(self, use="neck", number="1"):
        return {line.rule for line in self.shop.judgements.rule_lines(number, use) if line.outcome == "if"}


class TheWetUnnamedFind(Story):
    """Species uncertain, skin dry, core unknown: kept from neck use, sampled, rested, released, cautions throughout."""

    def test_from_the_door_to_the_neck(self):
        from grainet.wood.piece import Piece

        self.shop.apply("found", Piece(id="1", kind="plank", racked=True))
        self.say(
            "plank 900x110x42 european oak",
            "sp european oak?",
            "maybe sweet chestnut, iroko, cocobolo",
            "look ring, brown",
            "ring 74 72",
            "slope 1.1",
            "bow 1.0",
            "mc 9.0 d 5",
        )

        # the skin is dry; nothing dashed counts as good
        self.assertEqual(readiness(self.shop.piece("1"), self.shop.kit).word, "core unread")
        self.assertIn("core", self.asked())
        self.assertEqual(self.group(), lists.GROUP_WORDS["unread"])
        self.assertEqual(self.shop.questions.ask(parse_query("ready")), frozenset())

        # the strictest dust of all that it may be is carried from the start
        def texts():
            piece = self.shop.piece("1")
            cut = Cut(n=1, tool="crosscut", piece="1", line=((450, 0), (450, 110)), gives=("1.1", "1.2"))
            return " ".join(
                f"{c.grade} {c.text}" for c in cautions_for(cut, piece, piece.outline, self.shop.kit.cuts, self.shop.kit.library)
            )

        self.assertIn("A European oak or Sweet chestnut or Iroko or Cocobolo: its dust may irritate", texts())
        self.assertIn("wiped with solvent", texts())

        # a cut sample says that the core is wet
        self.say("sample 61.3 52.1 core")
        ready = readiness(self.shop.piece("1"), self.shop.kit)
        self.assertEqual(ready.word, "waits")
        self.assertAlmostEqual(ready.worst_pct, 17.7, delta=0.05)
        self.assertEqual(self.group(), lists.GROUP_WORDS["later"])
        self.assertTrue(any("WET" in flag for flag in flags_of(self.shop.piece("1"))))

        # its weight narrows what it may be; the cautions do not follow before the name is sure
        self.say("kg 2.95")
        left = {
            c.species.common
            for c in standing(self.shop.piece("1"), self.shop.kit.library, self.shop.judgements.facts("1").density)
            if c.stands
        }
        self.assertEqual(
            left, {"European oak", "Sweet chestnut"}, "cocobolo is far heavier and has no ring of pores, iroko neither"
        )
        self.assertIn("Cocobolo", texts())

        # it dries on sticks, weighed now and then, slower than the book
        thick, sg = 42.0, self.shop.kit.library.find("European oak").basic_sg
        true = settle(thick, 17.7, self.shop.kit.target_moisture_pct, 400, sg, pace=0.6)
        dry = 2.95 / 1.177
        start = self.day
        for days in (0, 14, 30, 60):
            self.day = start + timedelta(days=days)
            self.say(f"weigh {dry * (1 + float(np.interp(days, true.days, true.mean)) / 100):.4f}")
        facts = self.shop.judgements.facts("1")
        self.assertIn("Its 4 weighings", moisture_chart(facts, self.day).source)
        self.assertTrue(weight_chart(facts, self.day).marks)

        # the rest log moves, then stands still
        self.say("rest 1.0")
        self.wait(5)
        self.say("rest 1.6")
        self.assertIn("rest", self.asked())
        self.assertNotIn("rest", self.asked("body_half"), "a body only notes it")
        for _ in range(3):
            self.wait(5)
            self.say("rest 1.6")
        self.assertIn("rest", self.asked(), "straight, but it still loses weight")
        self.assertIn("weight still changes", self.shop.judgements.facts("1").rest.message)

        # months later it is read again, through and through, and named
        self.wait(300)
        self.say("mc 8.8 d 5", "sample 40.8 37.5 core", "surely sweet chestnut")
        self.assertEqual(readiness(self.shop.piece("1"), self.shop.kit).word, "ready")
        self.assertEqual(self.shop.questions.ask(parse_query("ready, sweet chestnut")), {"1"})
        self.assertNotIn("Cocobolo", texts())
        self.assertIn("European oak renamed Sweet chestnut", self.shop.piece("1").history[-1].what)
        self.assertEqual(self.asked() - {"rings"}, set())
        density = self.shop.judgements.verdict("1", "neck")
        self.assertIn(density.outcome, ("gives", "wont"), "what is left to say is its density, and that is measured")

        # everything can be taken back, line by line, to the empty piece
        count = 0
        while self.shop.undo() is not None:
            count += 1
        self.assertGreater(count, 15)
        self.assertFalse(self.shop.has_piece("1"))

    def test_the_shop_s_own_air_decides_what_ready_is(self):
        from grainet.wood.piece import Piece

        self.shop.apply("bought", Piece(id="1", kind="plank", racked=True))
        self.say("plank 900x110x20 white ash", "core 10.4")
        self.assertEqual(readiness(self.shop.piece("1"), self.shop.kit).word, "waits")
        self.shop.apply("a damp cellar", self.shop.kit.changed(humidity=0.55))
        self.assertEqual(readiness(self.shop.piece("1"), self.shop.kit).word, "ready")
        self.shop.undo()
        self.assertEqual(readiness(self.shop.piece("1"), self.shop.kit).word, "waits")
        for hour in range(4):
            self.say(f"air 20 {50 + hour}")
            self.wait(1)
        self.assertEqual(len(self.shop.air.readings), 4)
        self.assertTrue(self.shop.air.year.logged[2])


class TheDemoTellsTheTruth(InShop):
    """The figures of the invented shop agree with one another, also those that were added over time."""

    def test_its_air_its_year_and_its_plots(self):
        self.assertEqual(len(self.shop.air.readings), 121)
        self.assertTrue(all(self.shop.air.year.logged))
        self.assertTrue(6 < self.shop.air.year.driest_pct < self.shop.air.year.dampest_pct < 12)
        target = self.shop.kit.target_moisture_pct
        mean = sum(self.shop.air.year.equilibrium_pct) / 12
        self.assertLess(abs(mean - target), 0.6, "the kit book and the log speak of one shop")

    def test_the_drying_board_agrees_with_its_own_readings(self):
        piece = self.shop.piece("17")
        self.assertEqual(piece.mass_kg, piece.weighings[-1].kg)
        masses = [w.kg for w in piece.weighings]
        self.assertEqual(masses, sorted(masses, reverse=True))
        from grainet.grade.forecast import weighed_moistures

        _, moistures = weighed_moistures(piece.moisture, piece.weighings)
        now = sum(r.moisture_pct for r in piece.moisture_now) / len(piece.moisture_now)
        self.assertAlmostEqual(float(moistures[-1]), now, delta=0.2)

    def test_every_name_claim_and_brief_means_something(self):
        library = self.shop.kit.library
        numbers = {p.id for p in self.shop.pieces()}
        for piece in self.shop.pieces():
            self.assertIsNotNone(library.find(piece.species), piece.id)
            self.assertTrue(all(library.find(c) for c in piece.candidates))
            self.assertTrue(all(w.on <= "2026-11-24" for w in (*piece.weighings, *piece.rests, *piece.taps)))
        designs = {d.id: d for d in self.shop.designs()}
        for claim in self.shop.promises.claims():
            self.assertIn(claim.piece, numbers)
            self.assertIn(claim.design, designs)
        for g in self.shop.instruments.all():
            self.assertEqual([c.text for c in checks_of(g) if not c.holds], [], g.shown_name)
            self.assertTrue(all(library.find(name) for name in (*g.body.species, *(s.species for s in g.strips))), g.shown_name)
        for design in (d for d in designs.values() if self.shop.instruments.find(d.id) is None):
            neck = next(p for p in design.parts if p.role == "neck")
            least = next(d.least_mm for d in demands(design.brief) if d.what == "Neck depth at the rod")
            self.assertGreaterEqual(neck.thickness_mm, least, design.name)
            half = next(p for p in design.parts if p.role == "body_half")
            deep = next(d.least_mm for d in demands(design.brief) if d.what == "Body thickness")
            self.assertGreaterEqual(half.thickness_mm, deep, design.name)

    def test_the_question_and_the_doubts_of_the_demo(self):
        odd = {p.id for p in self.shop.pieces() if self.shop.judgements.facts(p.id).question}
        self.assertEqual(odd, {"16"}, "the offcut that is too heavy for cherry")
        unsure = {p.id for p in self.shop.pieces() if not p.species_sure}
        self.assertEqual(unsure, {"6", "7"})


if __name__ == "__main__":
    unittest.main()
