"""Labels of parts: one for each that lies here by itself, with its size and where it came from; a scanned one says where it is."""

import tempfile
from pathlib import Path

from grainet.exchange.labels import LabelSheet, write_labels
from grainet.session.making import shelve
from grainet.session.part_labels import labels_of, lies_here, part_told
from tests.session.test_making import Begun


class PartLabels(Begun):
    def test_nothing_is_labelled_before_it_is_cut(self):
        self.assertEqual(labels_of(self.bench), [])

    def test_every_part_that_lies_here_has_one_and_joined_ones_name_their_boards(self):
        glued = self.do_next(lambda one: one.kind == "glue")
        bench = self.bench
        here, labels = lies_here(bench), labels_of(bench)
        self.assertEqual(len(labels), len(here))
        self.assertFalse({w.id for w in here} & set(glued.works_on), "what is glued lies in something else")
        joined = next(label for w, label in zip(here, labels) if w.id == glued.gives[0])
        boards = {w.from_ for w in bench.making.workpieces if w.id in glued.works_on and w.from_}
        self.assertTrue(boards)
        text = " ".join(line for line, *_ in joined.lines)
        for board in boards:
            self.assertIn(board, text)
        cut = next(label for w, label in zip(here, labels) if w.from_)
        self.assertRegex(cut.lines[1][0], r"^\d+(\.\d+)? × \d+(\.\d+)? × \d+(\.\d+)? mm as sawn$")
        with tempfile.TemporaryDirectory() as scratch:
            path = Path(scratch) / "parts.pdf"
            self.assertEqual(write_labels(path, labels, LabelSheet()), 1 + (len(labels) - 1) // 24)
            self.assertGreater(path.stat().st_size, 2000)

    def test_a_scanned_part_says_what_and_where_it_is(self):
        self.do_next(lambda _: any(s in ("cut", "ready to glue", "spare") for s in self.bench.states.values()))
        bench = self.bench
        one = next(w for w in lies_here(bench) if bench.states[w.id] in ("cut", "ready to glue", "spare"))
        shelve(bench, one.id, "C3")
        told = part_told(self.shop, one.id.upper())
        self.assertIn(f"from No. {one.from_}", told)
        self.assertIn("on C3", told)
        self.assertEqual(part_told(self.shop, "nobody.B9"), "")
