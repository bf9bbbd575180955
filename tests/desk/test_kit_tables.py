"""Every figure and every table of the kit book: what is shown can be typed back, what cannot be used is said and nothing changes."""

import unittest

from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QComboBox, QLineEdit

from grainet.desk.screens.shop_profile.figures import Row
from grainet.desk.screens.shop_profile.machines import LOSS_ROWS
from grainet.desk.screens.shop_profile.plain import AIR_ROWS, RULE_ROWS
from grainet.desk.screens.shop_profile.tables import Column
from grainet.kit.shop_profile import ShopProfile
from grainet.wood.value import BadEntry
from tests.desk.app import WindowTest

EDIT = Qt.ItemDataRole.EditRole


class Rows(unittest.TestCase):
    def test_every_row_reads_back_what_it_writes_and_touches_nothing_else(self):
        kit = ShopProfile()
        for row in (*LOSS_ROWS, *AIR_ROWS, *RULE_ROWS):
            with self.subTest(row.name):
                value = (
                    row.choices[-1]
                    if row.choices
                    else int(row.low + 1)
                    if row.unit in ("days", "people")
                    else round((row.low + row.high) / 2, 1)
                )
                new = row.put(kit, value)
                self.assertEqual(row.get(new), value)
                others = [r for r in (*LOSS_ROWS, *AIR_ROWS, *RULE_ROWS) if r.name != row.name]
                self.assertEqual([r.get(new) for r in others], [r.get(kit) for r in others])
                if row.may_be_empty:
                    self.assertIsNone(row.get(row.put(kit, None)))
                self.assertEqual(row.put(new, row.get(kit)).model_dump(exclude={"meters"}), kit.model_dump(exclude={"meters"}))

    def test_names_are_one_of_a_kind_and_say_where_they_come_from(self):
        rows: tuple[Row, ...] = (*LOSS_ROWS, *AIR_ROWS, *RULE_ROWS)
        self.assertEqual(len({r.object_name for r in rows}), len(rows))
        self.assertGreater(sum(bool(r.why) for r in rows), 0.7 * len(rows))

    def test_columns_read_what_they_show(self):
        column = Column("How sure", "status", "choice", choices=("in hand", "guessed"), labels=("here", "a guess"))
        self.assertEqual(column.read("a guess", "mm"), "guessed")
        with self.assertRaises(BadEntry):
            column.read("perhaps", "mm")
        self.assertEqual(Column("Damp", "humidity", "percent").read("46 %", "mm"), 0.46)
        self.assertIs(Column("Fills", "fills_gaps", "flag").read("Yes", "mm"), True)
        self.assertAlmostEqual(Column("Opens", "reach_mm", "length").read("2 in", "mm"), 50.8)


class Tables(WindowTest):
    def book(self, page):
        self.key(Qt.Key.Key_K, Qt.KeyboardModifier.ControlModifier, target=self.window)
        self.click(f"kit.page.{page}")
        return self.find("kitBook").pages[page]

    def blocks(self):
        gluing = self.book("gluing")
        yield gluing.clamps
        yield gluing.glues
        meters = self.book("meters")
        yield meters.meters
        yield meters.months
        yield self.book("brief").table

    def test_what_a_cell_shows_can_be_typed_back_and_garbage_changes_nothing(self):
        for block in self.blocks():
            model = block.model
            before = model.values
            for row in range(min(2, model.rowCount())):
                for column in range(model.columnCount()):
                    index = model.index(row, column)
                    shown = model.data(index, EDIT)
                    self.assertFalse(model.setData(index, shown, EDIT), "the same again is no edit")
                    kind = model.columns[column].kind
                    if kind != "text":
                        self.assertFalse(model.setData(index, "?!", EDIT))
                        self.assertIn("Still", self.message[-1])
            self.settle()
            self.assertEqual(model.values, before)

    def test_a_cell_is_edited_by_key_as_a_person_would(self):
        page = self.book("gluing")
        table = page.clamps.table
        table.setFocus()
        table.setCurrentIndex(page.clamps.model.index(1, 4))
        QTest.keyClick(table, "9")
        editor = table.findChild(QLineEdit)
        self.assertIsNotNone(editor, "typing edits the cell and does not open the tape line")
        self.assertEqual(editor.text(), "9")
        QTest.keyClick(editor, Qt.Key.Key_Return)
        self.settle()
        self.assertEqual(self.shop.kit.clamps[1].count, 9)

    def test_a_choice_is_edited_from_its_list(self):
        page = self.book("gluing")
        table = page.clamps.table
        index = page.clamps.model.index(1, 1)
        table.setCurrentIndex(index)
        table.edit(index)
        box = table.findChild(QComboBox)
        self.assertIn("parallel", [box.itemText(k) for k in range(box.count())])
        box.setCurrentText("parallel")
        box.activated.emit(box.currentIndex())
        self.settle()
        self.assertEqual(self.shop.kit.clamps[1].kind, "parallel")

    def test_lengths_follow_the_shop_s_way_of_showing_them(self):
        page = self.book("gluing")
        self.assertEqual(page.clamps.model.data(page.clamps.model.index(1, 2)), "600")
        self.state.keep("inches", self.shop.kit.changed(length_style="inch"))
        self.settle()
        self.assertRegex(page.clamps.model.data(page.clamps.model.index(1, 2)), r"^23\.6")
        page.clamps.model.setData(page.clamps.model.index(1, 2), "24", EDIT)
        self.assertAlmostEqual(self.shop.kit.clamps[1].reach_mm, 609.6)

    def test_taking_away_needs_a_row_and_can_be_undone(self):
        page = self.book("gluing")
        page.glues.table.setCurrentIndex(page.glues.model.index(-1, -1))
        self.click("kit.glues.away")
        self.assertIn("Choose the row", self.message[-1])
        page.glues.table.setCurrentIndex(page.glues.model.index(8, 0))
        self.click("kit.glues.away")
        self.assertEqual(len(self.shop.kit.glues), 8)
        self.key(Qt.Key.Key_Z, Qt.KeyboardModifier.ControlModifier, self.window)
        self.assertEqual(len(self.shop.kit.glues), 9)
        self.assertEqual(len(page.glues.model.values), 9)


class Species(WindowTest):
    def test_a_doubtful_piece_s_candidates_stand_first_with_what_speaks_against_them(self):
        self.state.keep("doubt", self.shop.piece("6").changed(candidates=("Sweet chestnut", "Gabon ebony", "European beech")))
        self.state.choose_piece("6")
        self.key(Qt.Key.Key_K, Qt.KeyboardModifier.ControlModifier, target=self.window)
        self.click("kit.page.species")
        names = self.find("kit.speciesList")
        texts = [names.item(k).text() for k in range(5)]
        self.assertTrue(texts[0].startswith("European oak: may be"))
        self.assertIn("Gabon ebony: not No. 6", texts)
        tips = [names.item(k).toolTip() for k in range(4)]
        self.assertTrue(any("pores" in t for t in tips), "beech has no ring of pores")

    def test_a_species_in_use_follows_its_new_figures_everywhere(self):
        self.state.choose_piece("9")
        self.settle()
        before = self.shop.judgements.facts("9").standing.percentile
        self.key(Qt.Key.Key_K, Qt.KeyboardModifier.ControlModifier, target=self.window)
        self.click("kit.page.species")
        page = self.find("kitBook").pages["species"]
        page.choose("alder")
        field = self.find("kit.species.density_12_kg_m3")
        field.setFocus()
        field.clear()
        QTest.keyClicks(field, "380")
        QTest.keyClick(field, Qt.Key.Key_Return)
        self.settle()
        self.assertGreater(self.shop.judgements.facts("9").standing.percentile, before)
        self.assertIn("this shop", self.shop.kit.library.find("alder").source)

    def test_what_cannot_be_a_species_is_said(self):
        self.key(Qt.Key.Key_K, Qt.KeyboardModifier.ControlModifier, target=self.window)
        self.click("kit.page.species")
        page = self.find("kitBook").pages["species"]
        page.choose("alder")
        for name, text in (
            ("basic_sg", "heavy"),
            ("density_12_kg_m3", "9000"),
            ("porosity", "spongy"),
            ("common", "European ash"),
            ("shrink_radial_pct", ""),
        ):
            field = self.find(f"kit.species.{name}")
            before = field.text()
            field.setFocus()
            field.clear()
            QTest.keyClicks(field, text)
            QTest.keyClick(field, Qt.Key.Key_Return)
            self.window.setFocus()
            self.settle()
            self.assertEqual(field.text(), before, name)
            self.assertEqual(self.shop.kit.species, (), name)


if __name__ == "__main__":
    unittest.main()
