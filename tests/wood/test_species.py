import unittest

from grainet.wood import species
from grainet.wood.defects import CODE, FAMILY, KIND_OF_CODE, Defect, next_defect_id


class Library(unittest.TestCase):
    def test_every_row_is_whole_and_plausible(self):
        rows = species.library()
        self.assertEqual(len(rows), 126)
        for row in rows:
            with self.subTest(row.common):
                self.assertTrue(80 < row.density_12_kg_m3 < 1500)
                self.assertLess(row.shrink_radial_pct, row.shrink_tangential_pct + 1e-9)
                self.assertLess(abs(row.density_12_kg_m3 / (1000 * row.basic_sg) - 1.2), 0.12)

    def test_any_of_its_names_finds_a_species(self):
        for name in ("Acer saccharum", "sugar maple", "SUGAR MAPLE (HARD)", "hard"):
            self.assertEqual(species.find(name).scientific, "Acer saccharum")
        self.assertIsNone(species.find("unknown"))
        self.assertIsNone(species.find("unobtainium"))
        self.assertIn("European walnut", [s.common for s in species.suggest("walnut")])


class Defects(unittest.TestCase):
    def test_every_kind_has_family_and_letter_and_every_letter_a_kind(self):
        self.assertEqual(set(FAMILY), set(CODE))
        for letter, kind in KIND_OF_CODE.items():
            self.assertEqual(CODE[kind], letter)

    def test_drawn_metal_is_a_void(self):
        nail = Defect(id="m1", kind="nail", polygon=((0, 0), (4, 0), (4, 4)))
        self.assertTrue(nail.live_metal)
        drawn = nail.changed(resolved=True)
        self.assertFalse(drawn.live_metal)
        self.assertEqual(drawn.family, "void")

    def test_the_lowest_free_tag_is_next(self):
        self.assertEqual(next_defect_id("knot", {"k1", "k3"}), "k2")
