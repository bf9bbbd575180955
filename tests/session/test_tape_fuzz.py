"""The tape line against everything that could be typed: it answers with a meaning or a sentence, never with a fault."""

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st
from pydantic import ValidationError

from grainet.demo.rack import rack
from grainet.session.commands.line import read
from grainet.session.commands.word_list import WORD_LIST, found_words
from grainet.wood.piece import Piece
from grainet.wood.value import BadEntry

PIECES = [Piece(id="1"), *rack()[:3]]
WORD = st.sampled_from(
    [
        "l",
        "w",
        "e",
        "t",
        "kg",
        "mc",
        "core",
        "ring",
        "slope",
        "bow",
        "cup",
        "sp",
        "kind",
        "from",
        "at",
        "clear",
        "out",
        "ends",
        "drop",
        "k",
        "m",
        "c",
        "zz",
        "?",
    ]
)
FIGURE = st.one_of(
    st.integers(-99, 99999).map(str),
    st.floats(-10, 5000).map(lambda v: f"{v:.3f}"),
    st.sampled_from(["2 1/16", "8/4", "1/0", "24x18", "7 ft 10", "k1", "", "-", "1e9", "nan", "٣"]),
)


def tried(line, piece):
    """The meaning, or None for an entry that is answered with a sentence."""
    try:
        return read(line, piece, 300.0, "mm", "2026-11-24")
    except BadEntry as fault:
        assert str(fault).strip()
    except ValidationError:
        pass  # a figure that the value itself refuses is answered in the head band
    return None


class Fuzz(unittest.TestCase):
    @given(st.sampled_from(PIECES), FIGURE, WORD, FIGURE, FIGURE)
    @settings(max_examples=400, deadline=None)
    def test_words_and_figures_in_any_order(self, piece, place, word, first, second):
        for line in (f"{word} {first}", f"{place} {word} {first}", f"{place} {word} {first} {second}", f"{first} {second}"):
            meaning = tried(line, piece)
            if meaning is not None and meaning.piece is not None:
                again = Piece.model_validate_json(meaning.piece.model_dump_json())
                self.assertEqual(again, meaning.piece, "what is kept reads back")

    @given(st.text(max_size=30))
    @settings(max_examples=300, deadline=None)
    def test_any_text(self, text):
        tried(text, PIECES[1])

    def test_every_example_of_the_help_is_understood(self):
        from grainet.wood.defects import Defect
        from grainet.wood.piece import LookSkim
        from grainet.wood.suggestion import Suggestion

        ring = ((300, 40), (340, 40), (340, 60), (300, 60))
        piece = PIECES[2].changed(
            defects=(Defect(id="k1", kind="knot", polygon=ring), Defect(id="c1", kind="crack", polygon=ring), Defect(id="m1", kind="nail", polygon=ring, resolved=True)),
            suggestions=(Suggestion(id="k2?", what="defect", kind="knot", confidence=0.7, polygon=ring),), skims=(LookSkim(face="1", on="2026-11-01", mm=0.4),),
        )  # fmt: skip
        for word in WORD_LIST:
            with self.subTest(word.example):
                begun = Piece(id="90", racked=False)
                line = {"e 148 186": "100 e 148 186"}.get(word.example, word.example)
                self.assertIsNotNone(tried(line, begun if line.startswith("bundle") else piece))

    def test_every_word_that_is_read_stands_in_the_list(self):
        from grainet.session.commands.line import READ_BY, WORDS, Reader

        message = " ".join(f"{w.form} {w.does} {w.example} {w.also}" for w in WORD_LIST)
        for word, method in READ_BY.items():
            self.assertTrue(callable(getattr(Reader, method)))
            self.assertRegex(message, rf"(^|\W){word}(\W|$)")
        self.assertEqual(len(READ_BY), sum(bool(w.reader) for w in WORDS), "no word is defined twice")

    def test_a_builder_s_own_words_find_the_word(self):
        for typed, form in (
            ("beam", "plank"), ("reclaimed", "reclaimed"), ("paint", "finish"), ("bark", "e up"), ("blank", "plank"), ("metres", "plank"),
            ("k 18", "k L x W"), ("nail", "m "), ("heavy", "kg"), ("quartered", "ring"), ("½", "plank"), ("damp", "mc"),
        ):  # fmt: skip
            self.assertTrue(any(w.form.startswith(form) for w in found_words(typed)[:3]), typed)


class Meanings(unittest.TestCase):
    def test_a_reading_at_the_same_place_replaces_the_old_one(self):
        piece = PIECES[2]
        count = len(piece.stations)
        for value in ("57", "56.5"):
            piece = read(f"600 t {value}", piece, 0, "mm", "2026-11-24").piece
        self.assertEqual(len(piece.stations), count)
        self.assertIn(56.5, [s.thickness_mm for s in piece.stations])

    def test_inches_read_bare_numbers_as_inches(self):
        piece = read("6 t 2", PIECES[2], 0, "fraction", "2026-11-24").piece
        self.assertIn((152.4, 50.8), [(round(s.x_mm, 6), s.thickness_mm) for s in piece.stations])

    def test_closing_the_ends_of_a_crack_frees_the_wood_beyond(self):
        from grainet.fit.board_geometry import BoardGeometry
        from grainet.kit.shop_profile import GUESSED_CUTS

        slab = rack()[0]
        grown = next(h for h in BoardGeometry(slab, GUESSED_CUTS).hazards if h.id == "c1").polygon.bounds[2]
        closed = read("ends c1", slab, 0, "mm", "2026-11-24").piece
        self.assertAlmostEqual(
            grown - next(h for h in BoardGeometry(closed, GUESSED_CUTS).hazards if h.id == "c1").polygon.bounds[2], 25, delta=0.5
        )
