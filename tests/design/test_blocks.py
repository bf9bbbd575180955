"""The heel's block, in one piece or stacked, and stiffeners beside the rod: blanks, walls, what is typed, where they stand in the tree."""

import tempfile
import unittest
from pathlib import Path

from grainet.design.allowances import Allowances
from grainet.design.blanks import blanks_of
from grainet.design.checks import checks_of
from grainet.design.parts import design_of
from grainet.design.starting_points import begin
from grainet.design.tree import tree_of
from grainet.exchange.guitar_file import read_guitar, write_guitar
from grainet.session.commands.figures import FigureReader
from grainet.session.shop import Shop
from grainet.wood.value import BadEntry

KIT = Allowances(trim_mm=4.0, edge_mm=1.0, skim_mm=0.6)


class Typed(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.scratch = tempfile.TemporaryDirectory()
        cls.shop = Shop.open(Path(cls.scratch.name) / "S.grainet", create=True)

    @classmethod
    def tearDownClass(cls):
        cls.shop.close()
        cls.scratch.cleanup()

    def read(self, line, g=None):
        return FigureReader(g or begin("set", "h", "H"), self.shop.instruments, self.shop.kit.library, "mm").read(line)

    def blank(self, g, part):
        return next(b for b in blanks_of(g, KIT) if b.part == part)

    def test_a_stacked_heel_is_its_layers_and_what_gluing_takes(self):
        """66 high in three: each 22, both faces flattened after gluing (0.6) and skimmed before (0.6): 24.4 of stock."""
        g = self.read("block 70x60x66 in 3 layers").after
        made = self.blank(g, "heel")
        self.assertEqual((made.count, made.way, made.thickness.finished_mm), (3, "stacked", 22.0))
        self.assertAlmostEqual(made.thickness.mm, 24.4)
        self.assertEqual((made.length.mm, made.width.mm), (78.0, 62.0))
        joint = {m.label: m.joint for m in tree_of(g, KIT).glue_ups}["the heel block on the neck"]
        self.assertEqual((joint.kind, joint.lines, joint.area_mm2), ("stack", 3, 3 * 70 * 60))
        self.assertEqual(self.blank(self.read("block 70x60x45").after, "heel").way, "one piece")
        self.assertIn("heel block's layers", {p.label for p in design_of(g).parts})
        self.assertNotIn("heel", {b.part for b in blanks_of(self.read("block away", g).after, KIT)})

    def test_two_channels_whose_axes_lie_9_apart_leave_2_6(self):
        """6.4 wide each: 9 - 6.4 = 2.6, which is under 3."""
        g = self.read("rodwidth 6.4 stiffener 400x6.4x8 2 beside 9").after
        found = {c.what: c for c in checks_of(g)}
        self.assertAlmostEqual(found["wall between rod and stiffener"].found, 2.6)
        self.assertFalse(found["wall between rod and stiffener"].holds)
        self.assertAlmostEqual(found["wood under the stiffener"].found, g.neck.depth_nut_mm - 8)
        rod = self.blank(g, "stiffener")
        self.assertEqual((rod.count, rod.length.mm, rod.width.mm), (2, 408.0, 10.0))
        self.assertAlmostEqual(rod.thickness.mm, 7.6)
        self.assertEqual({m.label: m.joint.kind for m in tree_of(g, KIT).glue_ups}["the stiffeners into the neck"], "insert")

    def test_bad_lines_are_sentences(self):
        for line, why in (
            ("block", "needs its length, width and height"), ("block 70x60", "in one: block 70x60x66 in 3"), ("block 70x60x66 in some", "found “some”"),
            ("stiffener 400", "stiffener 400x6x10 2 beside 11"),
        ):  # fmt: skip
            with self.subTest(line), self.assertRaisesRegex(BadEntry, why):
                self.read(line)

    def test_they_go_with_the_file(self):
        g = self.read("block 70x60x66 in 3 stiffener 400x6x10 1").after
        file = Path(self.scratch.name) / "g.json"
        write_guitar(file, g)
        self.assertEqual(read_guitar(file), g)
        self.assertEqual((g.stiffener.count, g.heel_block.layers), (1, 3))
