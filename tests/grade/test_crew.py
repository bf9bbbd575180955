"""The crew of judging programs: the same standings as here, whatever becomes of a program, and none left behind."""

import os
import signal
import subprocess
import sys
import tempfile
import time
import unittest
from datetime import date
from pathlib import Path
from unittest import mock

import grainet
from grainet.demo.make import make_demo
from grainet.grade.crew import Crew
from grainet.grade.judging import Asked, standings
from grainet.session.shop import Shop

TODAY = date(2026, 11, 24)


def ended(pid: int) -> bool:
    """Whether a program is gone, or only waits to be counted."""
    try:
        return Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0] == "Z"
    except OSError:
        return True


class Crews(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.scratch = tempfile.TemporaryDirectory()
        cls.shop = make_demo(Path(cls.scratch.name) / "D.grainet")
        shop = cls.shop
        cls.asked = Asked(shop.kit, shop.air.year, shop.judgements.wanted("neck"), TODAY)
        cls.pieces = shop.pieces() * 3  # lots for more than one program
        cls.here = {s.piece: s for s in standings(shop.pieces(), cls.asked)}
        cls.crew = Crew(2)  # its programs take a second to start: one crew answers all that leaves it whole

    @classmethod
    def tearDownClass(cls):
        cls.crew.close()
        cls.shop.close()
        cls.scratch.cleanup()

    def setUp(self):
        small = mock.patch("grainet.grade.crew.LOT", 8)
        small.start()
        self.addCleanup(small.stop)

    def same(self, found):
        for one in found:
            self.assertEqual(one, self.here[one.piece])

    def test_it_says_what_is_said_here_again_and_again(self):
        for _ in range(2):
            found = self.crew.standings(self.pieces, self.asked)
            self.assertEqual(len(found), len(self.pieces))
            self.same(found)
        self.assertEqual(len(self.crew._hands), 2, "the programs stay for the next question")

    def test_a_program_that_is_killed_leaves_its_lots_and_nothing_false(self):
        crew = Crew(2)
        self.addCleanup(crew.close)

        def kill(_count):
            if crew._hands:
                os.kill(crew._hands[0].program.pid, signal.SIGKILL)
            return True

        with self.assertLogs("grainet", "WARNING"):
            found = crew.standings(self.pieces, self.asked, kill)
        self.assertLess(len(found), len(self.pieces))
        self.same(found)
        self.assertEqual(len(crew.standings(self.pieces, self.asked)), len(self.pieces), "the next question has new programs")

    def test_it_ends_early_and_answers_the_next_question(self):
        few = self.crew.standings(self.pieces, self.asked, lambda _count: False)
        self.assertLess(len(few), len(self.pieces))
        other = Asked(self.shop.kit, self.shop.air.year, self.shop.judgements.wanted("body_half"), TODAY)
        found = {s.piece: s for s in self.crew.standings(self.shop.pieces(), other)}
        self.assertEqual(found, {s.piece: s for s in standings(self.shop.pieces(), other)})

    def test_a_piece_that_cannot_be_judged_spoils_its_own_lot_alone(self):
        with self.assertLogs("grainet", "WARNING"):
            found = self.crew.standings([*self.pieces, "no piece"], self.asked)
        self.assertGreaterEqual(len(found), len(self.pieces) - 8)
        self.assertLess(len(found), len(self.pieces) + 1)

    def test_the_programs_end_with_the_one_that_asked(self):
        source = str(Path(grainet.__file__).resolve().parent.parent)
        words = (
            "import sys, time; sys.path.insert(0, sys.argv[1]); from grainet.grade.crew import _Hand;"
            "h = _Hand(); print(h.program.pid, flush=True); time.sleep(60)"
        )
        asking = subprocess.Popen([sys.executable, "-I", "-c", words, source], stdout=subprocess.PIPE, text=True)
        pid = int(asking.stdout.readline())
        asking.kill()
        asking.wait()
        asking.stdout.close()
        until = time.monotonic() + 60
        while not ended(pid) and time.monotonic() < until:
            time.sleep(0.05)
        self.assertTrue(ended(pid))


class LargeRack(unittest.TestCase):
    def test_a_shop_asks_the_crew_and_judges_what_is_left_itself(self):
        with tempfile.TemporaryDirectory() as scratch, make_demo(Path(scratch) / "D.grainet") as shop:
            alone = shop.judgements.standings("neck", TODAY)
            with Shop.open(shop.file.folder, read_only=True) as other, mock.patch("grainet.session.judgements.WORTH", 1):
                kept = other.judgements.crew.standings
                heard = []

                def all_but_two(pieces, asked, go_on):
                    return kept(pieces, asked, go_on)[2:]

                with mock.patch.object(other.judgements.crew, "standings", all_but_two):
                    found = other.judgements.standings("neck", TODAY, go_on=lambda n: heard.append(n) or True)
                self.assertEqual(found, alone)
                self.assertEqual(len(other.judgements._verdicts), 2, "only what was left was judged here")
                with mock.patch.object(other.judgements.crew, "standings", side_effect=AssertionError("nothing is left to ask")):
                    self.assertEqual(other.judgements.standings("neck", TODAY), alone)
