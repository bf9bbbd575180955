"""Roles: what a word means, and that every role and every use has its row."""

import unittest

from pydantic import ValidationError

from grainet.design.part import Part
from grainet.design.role import FACTS, Role, read_role, role_of
from grainet.kit.use import Use
from grainet.kit.uses import USES, use_of_role

SQUARE = ((0.0, 0.0), (100.0, 0.0), (100.0, 50.0), (0.0, 50.0))


class Roles(unittest.TestCase):
    def test_every_role_has_its_facts_and_a_use_and_every_use_is_shipped(self):
        self.assertEqual(set(FACTS), set(Role))
        self.assertEqual(set(USES), set(Use))
        self.assertEqual(
            {use_of_role(role) for role in Role}, set(Use), "no use is without a role, none of a role without a rule"
        )
        for use in Use:
            self.assertEqual(role_of(use), use, "a use is called by the name of a role")

    def test_no_word_means_two_roles(self):
        words = [word for facts in FACTS.values() for word in facts.words]
        self.assertEqual(len(words), len(set(words)))

    def test_builders_words_are_understood(self):
        for text, role in (
            ("bolt_on_neck", "neck"), ("Head plate", "head_plate"), ("neck laminate strips", "laminate_strip"), ("left wing", "wing"),
            ("fingerboard", "fretboard"), ("drop top", "matched_top"), ("widget", None), ("", None),
        ):  # fmt: skip
            self.assertEqual(role_of(text), role, text)

    def test_a_role_that_nobody_knows_is_refused_where_it_is_read(self):
        self.assertEqual(read_role(""), "")
        with self.assertRaises(ValidationError) as refused:
            Part(id="p", role="spoiler", outline=SQUARE, thickness_mm=10)
        self.assertIn("“spoiler” is no role of a part; needs one of neck, heel", str(refused.exception))
        self.assertEqual(Part(id="p", role="bolt-on neck", outline=SQUARE, thickness_mm=10).role, "bolt-on neck")
