"""The rough treatment must be able to find something: a lost edit is told, the one act that was under way is not."""

import importlib.util
import unittest
from pathlib import Path

SPEC = importlib.util.spec_from_file_location("stress", Path(__file__).parent.parent / "tools" / "stress.py")
stress = importlib.util.module_from_spec(SPEC)
SPEC.loader.exec_module(stress)

BEFORE = {"1": "5.0", "2": "None"}
WORDS = [["begin", "1", "6.5"], ["kept", "1", "6.5"], ["begin", "2", "7.25"]]


class Kills(unittest.TestCase):
    def test_a_lost_or_a_stray_edit_is_told(self):
        self.assertEqual(len(stress.lost(BEFORE, WORDS, {"1": "5.0", "2": "None"})), 1)
        self.assertEqual(len(stress.lost(BEFORE, WORDS, {"1": "6.5", "2": "9.0"})), 1)
        self.assertEqual(len(stress.lost(BEFORE, WORDS, {"2": "None"})), 1)

    def test_what_was_under_way_may_be_there_or_not(self):
        for under_way in ("None", "7.25"):
            self.assertEqual(stress.lost(BEFORE, WORDS, {"1": "6.5", "2": under_way}), [])
