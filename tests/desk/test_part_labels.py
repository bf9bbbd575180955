"""Labels of parts in Put back, and a scanned one in the tape line."""

import tempfile
from pathlib import Path

from grainet.session.making import at_the_bench
from grainet.session.part_labels import lies_here
from tests.desk.app import WindowTest


class PartLabels(WindowTest):
    def test_they_print_once_parts_are_cut_and_a_scan_says_where_one_is(self):
        self.lay_out("merrow")
        self.window.show_screen("saw_and_wait")
        self.settle()
        saw = self.window.screens["saw_and_wait"]
        for _ in range(120):
            if (step := saw.next_step()) is None:
                break
            before = (saw.board_id, step.n)
            saw.primary_action()
            self.settle()
            if saw.next_step() is not None and (saw.board_id, saw.next_step().n) == before:
                saw.primary_action()  # agrees to what was shown
                self.settle()
            if any(p.gone for p in self.shop.pieces(everything=True)):
                break
        self.window.show_screen("put_back")
        self.settle()
        button = self.find("putBack.labels")
        self.assertTrue(button.isVisible())
        with tempfile.TemporaryDirectory() as scratch:
            path = Path(scratch) / "parts.pdf"
            self.window.screens["put_back"].print_labels(str(path))
            self.assertTrue(path.read_bytes().startswith(b"%PDF"))
            self.assertIn("label", self.message[-1])
            self.window.screens["put_back"].print_labels(str(Path(scratch) / "no" / "such" / "parts.pdf"))
            self.assertIn("cannot be written", self.message[-1])
        plan = next(p for p in self.shop.plans.accepted() if "merrow" in p.designs)
        one = lies_here(at_the_bench(self.shop, plan.id))[0]
        self.type(f"#{one.id}")
        self.assertIn(f"from No. {one.from_}", self.message[-1])
