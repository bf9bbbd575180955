"""The brief of a build: of a guitar that was drawn up it is the guitar's own figures, so that neither says otherwise than the other."""

import tempfile
import unittest
from pathlib import Path

from grainet.session.brief import measured, with_brief
from grainet.session.shop import Shop
from grainet.wood.value import BadEntry


class Briefs(unittest.TestCase):
    def setUp(self):
        scratch = tempfile.TemporaryDirectory()
        self.addCleanup(scratch.cleanup)
        self.shop = Shop.open(Path(scratch.name) / "B.grainet", create=True)
        self.addCleanup(self.shop.close)
        self.shop.instruments.keep("begun", self.shop.instruments.new("bolt-on", "Wren"))

    @property
    def design(self):
        return next(d for d in self.shop.designs() if d.name == "Wren")

    def row(self, kind):
        return next(h for h in self.design.brief if h.kind == kind)

    def test_a_measured_part_is_in_hand_in_both_and_stays_so(self):
        self.assertEqual(self.row("bridge_spread").status, "guessed")
        self.shop.instruments.keep("measured", measured(self.shop, self.design, "bridge_spread"))
        g = self.shop.instruments.find(self.design.id)
        self.assertEqual((g.status["spread_mm"], self.row("bridge_spread").status), ("in hand", "in hand"))
        self.shop.instruments.keep("longer", g.with_figures({"scale_mm": [650.0]}))
        self.assertEqual(self.row("bridge_spread").status, "in hand", "another figure changes nothing of it")

    def test_another_figure_in_the_brief_is_the_guitars(self):
        rows = [h.changed(mm=54.0, status="ordered") if h.kind == "bridge_spread" else h for h in self.design.brief]
        self.shop.instruments.keep("ordered", with_brief(self.shop, self.design, rows))
        g = self.shop.instruments.find(self.design.id)
        self.assertEqual((g.spread_mm, g.status["spread_mm"]), (54.0, "ordered"))
        self.assertEqual((self.row("bridge_spread").mm, self.row("bridge_spread").status), (54.0, "ordered"))

    def test_what_a_guitar_is_drawn_with_is_not_taken_out(self):
        rows = [h for h in self.design.brief if h.kind != "nut_width"]
        with self.assertRaisesRegex(BadEntry, "Draw up"):
            with_brief(self.shop, self.design, rows)

    def test_any_other_design_has_its_own_rows(self):
        from grainet.design.design import Design

        one = self.design
        plain = Design(id="p", name="P", parts=one.parts, recipes=one.recipes)
        row = self.row("nut_width").changed(status="in hand")
        self.assertEqual(with_brief(self.shop, plain, [row]).brief, (row,))


if __name__ == "__main__":
    unittest.main()
