"""Taking in driven at the window: instruments, cards and handles, parts tried, photos, bundles, labels, lists, asking the rack."""

import itertools
import unittest

import numpy as np
from PySide6.QtCore import QPoint, QPointF, Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QMenu

from grainet.desk.painting import draw
from grainet.desk.screens.photo.screen import Spot
from grainet.exchange.stock import write_stock
from grainet.instruments.camera import flatness_of, take_photo
from grainet.store.photos import photo_path
from tests.desk.app import WindowTest

CTRL, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.ShiftModifier


def drag(widget, a, b):
    QTest.mousePress(widget, Qt.MouseButton.LeftButton, pos=a)
    QTest.mouseMove(widget, b)
    QTest.mouseRelease(widget, Qt.MouseButton.LeftButton, pos=b)


class Case(WindowTest):
    def take(self, number):
        self.click("rail.bringIn")
        self.state.choose_piece(number)
        self.settle()
        return self.find("bringIn")

    def menu(self, name):
        """The open menu, as flat text to action."""
        menu = self.window.findChild(QMenu, name)
        self.assertIsNotNone(menu, name)
        found = {}

        def walk(one):
            for action in one.actions():
                found[action.text()] = action
                if action.menu() is not None:
                    walk(action.menu())

        walk(menu)
        menu.close()
        return found


class Instruments(Case):
    def test_a_whole_take_in_with_the_instruments(self):
        self.key(Qt.Key.Key_N, CTRL)
        self.find("tape.line").clear()
        self.type("l 900")
        self.type("w 120 121")
        self.type("sp red alder")
        for _ in range(5):
            self.key(Qt.Key.Key_F12, target=self.window)
        piece = self.shop.piece("18")
        self.assertEqual(len(piece.stations), 3)
        self.assertTrue(all("callipers" in s.by for s in piece.stations))
        self.assertIn("bench scale", piece.source_of("mass_kg"))
        self.assertIn("pin meter", piece.moisture[0].by)
        density = piece.mass_kg / (0.9 * 0.1205 * piece.least_thickness_mm / 1000)
        self.assertAlmostEqual(density, 450, delta=120, msg="the stand-ins agree with one another")

    def test_one_whole_line_after_another_takes_in_one_board_after_another(self):
        before = self.shop.piece("1")
        count = len(self.shop.pieces())
        self.take("1")
        self.type("plank 900x110x42 european oak")
        self.type("mc 8.4")
        self.type("new plank 700x120x30 white ash")
        self.assertEqual(self.shop.piece("1"), before)
        self.assertEqual(len(self.shop.pieces()), count + 2)
        newest = self.shop.piece(self.state.piece_id)
        self.assertEqual((newest.species, newest.length_mm, newest.moisture), ("White ash", 700, ()))
        for _ in range(3):
            self.state.undo()
        self.assertEqual(len(self.shop.pieces()), count)

    def test_a_fault_is_said_and_nothing_is_kept(self):
        screen = self.take("18") if self.shop.has_piece("18") else self.take("8")
        before = self.shop.piece("8")
        screen.bench.in_hand = "callipers"
        for fault, words in (("no_answer", "no answer"), ("garbage", "not a figure"), ("unplugged", "unplugged")):
            screen.bench.stand_in("callipers").fault = fault
            self.key(Qt.Key.Key_F12, target=self.window)
            self.assertIn(words, self.message[-1])
            self.assertEqual(self.shop.piece("8"), before)
        screen.bench.stand_in("callipers").fault = "wrong_unit"
        self.key(Qt.Key.Key_F12, target=self.window)
        self.assertIn("inches", self.message[-1])
        self.assertEqual(self.shop.piece("8"), before, "it waits in the tape line to be confirmed")
        self.assertIn(" t ", self.find("tape.line").text())

    def test_the_climate_logger_sets_the_shop(self):
        screen = self.take("8")
        screen.bench._take("climate")
        self.settle()
        self.assertAlmostEqual(self.shop.kit.humidity, 0.46, delta=0.08)
        self.assertIn("settles at", self.message[-1])

    def test_the_menu_takes_one_in_hand_and_lets_it_misbehave(self):
        screen = self.take("8")
        menu = screen.bench.menu(screen)
        texts = [a.text() for a in menu.actions()]
        self.assertTrue(any("Callipers" in t for t in texts))
        sub = next(a.menu() for a in menu.actions() if a.menu() and "scale" in a.text())
        next(a for a in sub.actions() if a.text() == "sends garbage").trigger()
        self.assertEqual(screen.bench.stand_in("scale").fault, "garbage")


class Marks(Case):
    def test_handles_move_a_corner_and_the_inside_moves_the_mark(self):
        screen = self.take("8")
        self.state.choose_tag("w1")
        self.settle()
        board = screen.board
        before = self.shop.piece("8").defects[3]
        spots = board.handles()
        self.assertEqual(len(spots), 4)
        drag(board, spots[2].toPoint(), spots[2].toPoint() + QPoint(20, -10))
        self.settle()
        after = next(d for d in self.shop.piece("8").defects if d.id == "w1")
        self.assertEqual(after.polygon[0], before.polygon[0])
        self.assertAlmostEqual(after.polygon[2][0] - before.polygon[2][0], 20 / board.axis.px_per_mm, delta=1)
        middle = QPointF(board.axis.x(1650), board.boxes()[0].y(110)).toPoint()
        drag(board, middle, middle + QPoint(-30, 0))
        self.settle()
        moved = next(d for d in self.shop.piece("8").defects if d.id == "w1")
        self.assertAlmostEqual(moved.polygon[0][0] - after.polygon[0][0], -30 / board.axis.px_per_mm, delta=1)
        self.key(Qt.Key.Key_Z, CTRL, self.window)
        self.key(Qt.Key.Key_Z, CTRL, self.window)
        self.assertEqual(next(d for d in self.shop.piece("8").defects if d.id == "w1"), before)

    def test_corners_by_keyboard(self):
        self.take("8")
        self.state.choose_tag("w1")
        self.settle()
        before = next(d for d in self.shop.piece("8").defects if d.id == "w1").polygon
        self.key(Qt.Key.Key_End, target=self.window)
        self.assertEqual(self.state.chosen_corner, 0)
        self.key(Qt.Key.Key_Right, CTRL, self.window)
        after = next(d for d in self.shop.piece("8").defects if d.id == "w1").polygon
        self.assertEqual(after[0], (before[0][0] + 1, before[0][1]))
        self.assertEqual(after[1:], before[1:])
        self.key(Qt.Key.Key_Escape, target=self.window)
        self.assertIsNone(self.state.chosen_corner)
        self.assertEqual(self.state.chosen_tag, "w1")

    def test_a_mark_dragged_across_itself_stays(self):
        self.take("8")
        self.state.choose_tag("w1")
        self.settle()
        piece = self.shop.piece("8")
        ring = next(d for d in piece.defects if d.id == "w1").polygon
        crossed = (ring[0], ring[2], ring[1], ring[3])
        self.assertFalse(self.state.reshape_mark(piece, "w1", crossed))
        self.assertIn("stays", self.message[-1])
        self.assertEqual(self.shop.piece("8"), piece)

    def test_the_card_tells_and_changes_everything(self):
        screen = self.take("8")
        self.state.choose_tag("c1")
        self.settle()
        self.assertTrue(screen.card.isVisible())
        self.click("mark.endFar")
        self.assertEqual(self._mark("c1").ends_closed, (False, True))
        self.click("mark.endMarked")
        self.assertEqual(self._mark("c1").ends_closed, (True, True))
        self.click("mark.endFar")
        self.assertEqual(self._mark("c1").ends_closed, (True, False))
        self.click("mark.severity")
        self.click("mark.severity")
        self.assertEqual(self._mark("c1").severity, 2)
        self.click("mark.feature")
        self.assertTrue(self._mark("c1").keep)
        self.click("mark.face")
        self.assertEqual(self._mark("c1").face, "edge")
        self.click("mark.depth")
        self.assertEqual(self.find("tape.line").text(), "depth c1 ")
        self.find("tape.line").clear()
        self.click("mark.cleared")
        self.menu("mark.cleared.menu")["Glued"].trigger()
        self.settle()
        self.assertIn("glued", self._mark("c1").cleared)
        self.click("mark.drop")
        self.assertNotIn("c1", [d.id for d in self.shop.piece("8").defects])

    def _mark(self, tag):
        return next(d for d in self.shop.piece("8").defects if d.id == tag)

    def test_the_other_face_rolls_up_and_is_marked_there(self):
        screen = self.take("8")
        self.key(Qt.Key.Key_Slash, target=self.window)
        self.assertEqual(self.state.face_up, "2")
        self.assertEqual({m.defect.id for m in screen.board.marks("2")} & {"t1", "h1"}, {"t1", "h1"})
        screen.take_mark("stain", polygon=False)
        self.settle()
        face = screen.board.boxes()[0]
        self.assertEqual(face.face, "2")
        drag(
            screen.board,
            QPoint(int(screen.board.axis.x(300)), int(face.y(60))),
            QPoint(int(screen.board.axis.x(380)), int(face.y(90))),
        )
        self.settle()
        mark = self.shop.piece("8").defects[-1]
        self.assertEqual(mark.face, "2")
        self.assertAlmostEqual(min(y for _, y in mark.polygon), 60, delta=3)
        screen.let_go()
        spot = screen.fold_box().center().toPoint()
        QTest.mouseClick(screen, Qt.MouseButton.LeftButton, pos=spot)
        self.settle()
        self.assertEqual(self.state.face_up, "1")

    def test_forty_marks_keep_their_order_and_no_leaders_cross(self):
        rng = np.random.default_rng(5)
        for wanted in (sorted(rng.uniform(200, 1230, 40)), sorted(rng.normal(700, 30, 40)), sorted(rng.uniform(200, 320, 40))):
            places = draw.spread_tags(list(wanted), 198, 1234, 44)
            xs = [x for x, _ in places]
            self.assertEqual(xs, sorted(xs))
            for row in (0, 1):
                own = [x for x, r in places if r == row]
                self.assertTrue(all(b - a >= 43.9 for a, b in itertools.pairwise(own)), "tags of one row do not touch")
            self.assertGreaterEqual(min(xs), 197.9)
            self.assertLessEqual(max(xs), 1234.1)
            for (a, x), (b, y) in itertools.pairwise(zip(xs, wanted)):
                self.assertTrue(a <= b and x <= y, "one order above and below: slanted leaders cannot cross")

    def test_metal_finish_and_treatment_by_the_menu(self):
        screen = self.take("5")
        self.assertIn("not swept", screen.gate.text())
        self.click("bringIn.metal")
        found = self.menu("bringIn.metal.menu")
        self.assertTrue(any(t.startswith("log: face 1") for t in found))
        found["Face 2 swept today, nothing found but what is marked"].trigger()
        self.settle()
        self.assertIn("test it", screen.gate.text())
        self.click("bringIn.metal")
        self.menu("bringIn.metal.menu")["Decking"].trigger()
        self.settle()
        self.assertIn("Treated", screen.gate.text())
        verdict = self.shop.judgements.verdict("5", "body_half")
        self.assertEqual(verdict.outcome, "wont")


class Parts(Case):
    def test_a_part_dragged_out_shows_its_chain_and_links_switch(self):
        screen = self.take("6")
        self.click("bringIn.part")
        board, face = screen.board, screen.board.boxes()[0]
        drag(board, QPoint(int(board.axis.x(100)), int(face.y(90))), QPoint(int(board.axis.x(700)), int(face.y(30))))
        self.settle()
        self.assertTrue(screen.part.isVisible())
        found = screen.part.forecast()
        self.assertAlmostEqual(found.length_mm, 600, delta=3)
        left = found.thickness.left_mm
        self.click("link.bow")
        bow = next(link.takes_mm for link in found.thickness.links if link.name == "bow")
        self.assertAlmostEqual(screen.part.forecast().thickness.left_mm - left, bow, places=6)
        spot = board.part_handles()[3]
        drag(board, spot.toPoint(), spot.toPoint() + QPoint(-60, 0))
        self.settle()
        self.assertLess(self.state.part_box[2], found.box[2])
        self.click("part.away")
        self.assertIsNone(self.state.part_box)
        self.assertFalse(screen.part.isVisible())

    def test_by_words(self):
        self.take("6")
        self.type("100 part 500x60 y 20")
        self.assertEqual(self.state.part_box, (100, 20, 600, 80))
        self.type("part 5000x60")
        self.assertIn("does not lie", self.find("head").gloss)

    def test_a_grid_of_sockets_lies_on_the_wood(self):
        screen = self.take("6")
        self.type("grid 3x3")
        self.type("t 31 32 31 31.5 32.2 31.4 31 32 31")
        self.assertEqual(sum(s.isVisible() for s in screen.sockets), 9)
        rows = {s.y() for s in screen.sockets if s.isVisible()}
        self.assertEqual(len(rows), 3)


class Photos(Case):
    def open(self, number, side):
        self.take(number)
        self.window.bring_in.bench.stand_in("camera").megapixels = 1.4
        self.window.bring_photo(side, "camera")
        self.settle()
        screen = self.find("photo")
        self.assertTrue(screen.isVisible())
        self.assertIsNotNone(screen.loaded)
        return screen

    def truth(self, screen, side, places):
        """Put the points where the camera truly sees the places."""
        true = take_photo(self.window.bring_in.bench.stand_in("camera"), self.state.piece, side)[1]
        screen.blind = False  # as after a drag
        screen.spots = [Spot(*map(float, p)) for p in true.to_px(np.array(places, float))]
        return true

    def test_face_photo_made_true_suggests_and_shows(self):
        self.state.keep("no marks", self.shop.piece("9").changed(defects=()))
        self.state.keep("marks", self.shop.piece("9").changed(defects=()))
        screen = self.open("9", "face1")
        _, _, x1, y1 = self.state.piece.extents
        true = self.truth(screen, "face1", [(0, y1), (x1, y1), (x1, 0), (0, 0)])
        screen._fit()
        corners_alone = screen.true.doubt_mm
        self.assertGreater(corners_alone, 1, "four corners say how far they may be off")
        screen.adding = True
        for u in (500, 1100, 1700):
            for v in (0.0, y1):
                spot = Spot(*map(float, true.to_px(np.array([(u, v)]))[0]))
                QTest.mouseClick(screen, Qt.MouseButton.LeftButton, pos=screen.at(spot).toPoint())
        self.assertEqual(len(screen.spots), 10)
        self.assertLess(screen.true.doubt_mm, 0.7 * corners_alone)
        self.key(Qt.Key.Key_Return, CTRL, self.window)
        self.settle()
        self.settle()
        piece = self.shop.piece("9")
        photo = piece.photo("face1")
        self.assertTrue(photo.is_true)
        self.assertTrue(photo_path(self.folder / "D.grainet", photo.sha).exists(), "the original is kept")
        self.assertTrue(piece.suggestions)
        self.assertEqual(piece.defects, (), "nothing suggested counts")
        self.assertTrue(self.find("bringIn").isVisible())
        self.state.pictures.get(piece, "face1")  # as painting does; it comes when it is made
        self.settle()
        self.assertIsNotNone(self.state.pictures.get(piece, "face1"))

    def test_points_by_keys_and_lengths_typed(self):
        screen = self.open("9", "face1")
        taken, before = screen.taken, screen.spots[screen.taken]
        QTest.keyClick(screen, Qt.Key.Key_Right, SHIFT)
        self.assertEqual(screen.spots[taken].px, before.px + 10)
        QTest.keyClick(screen, Qt.Key.Key_Tab)
        self.assertEqual(screen.taken, taken + 1)
        field = self.find("photo.along")
        field.setText("84 in")
        field.editingFinished.emit()
        self.assertAlmostEqual(screen.places()[1][0], 2133.6, places=1)
        field.setText("quite long")
        field.editingFinished.emit()
        self.assertIn("not a length", self.message[-1])
        QTest.keyClick(screen, Qt.Key.Key_Escape)
        self.settle()
        self.assertFalse(self.shop.piece("9").photo("face1").is_true, "left for later, the original is kept")

    def test_a_crossed_frame_cannot_be_made_true(self):
        screen = self.open("9", "face1")
        screen.spots[0], screen.spots[1] = screen.spots[1], screen.spots[0]
        screen._fit()
        self.assertFalse(self.find("photo.make").isEnabled())
        screen.primary_action()
        self.assertIsNone(self.shop.piece("9").photo("face1"))

    def test_the_end_gives_its_rings_and_a_drawn_ring_counts(self):
        self.state.keep("rings unread", self.shop.piece("9").changed(ring_angle_deg=None))
        screen = self.open("9", "marked_end")
        width, thick = self.state.piece.extents[3], self.state.piece.least_thickness_mm
        true = self.truth(screen, "marked_end", [(0, 0), (width, 0), (width, thick), (0, thick)])
        screen._fit()
        screen.adding = True
        for u, v in ((80, 20), (110, 20 + 30 * np.tan(np.radians(35)))):
            spot = Spot(*map(float, true.to_px(np.array([(u, v)]))[0]))
            QTest.mouseClick(screen, Qt.MouseButton.LeftButton, pos=screen.at(spot).toPoint())
        self.assertAlmostEqual(screen.ring_angle(), 35, delta=3)
        screen.primary_action()
        self.settle()
        self.settle()
        piece = self.shop.piece("9")
        self.assertAlmostEqual(piece.ring_angle_deg[0], 35, delta=3)
        self.assertIsNone(piece.ring_angle_deg[1])
        self.assertEqual(piece.source_of("ring_angle_deg"), "drawn on the photo")
        self.assertTrue(any(s.what == "rings" for s in piece.suggestions))

    def test_straightedges_give_bow_cup_and_crook(self):
        for kind, length in (("bow", 2120.0), ("cup", 193.0), ("crook", 2120.0)):
            with self.subTest(kind):
                screen = self.open("9", kind)
                true = take_photo(self.window.bring_in.bench.stand_in("camera"), self.state.piece, kind)[1]
                screen.blind = False  # as after a drag
                screen.spots = [Spot(*map(float, p)) for p in true.to_px(np.array([(0.0, 80.0), (length, 80.0)]))]
                screen.primary_action()
                self.settle()
                piece = self.shop.piece("9")
                one = next(s for s in piece.suggestions if s.what == kind)
                self.assertAlmostEqual(one.figures[0], flatness_of(piece)[kind], delta=0.5 if length > 1000 else 0.15)
                self.type(f"take {one.id}")
                flat = self.shop.piece("9").flatness
                self.assertAlmostEqual(getattr(flat, f"{kind}_mm"), one.figures[0], delta=0.06)
                self.assertAlmostEqual(getattr(flat, f"{kind}_span_mm"), length, delta=1)

    def test_points_that_stand_just_anywhere_read_nothing(self):
        screen = self.open("9", "bow")
        self.assertFalse(self.find("photo.make").isEnabled())
        screen.primary_action()
        self.assertIn("drag the points", self.message[-1])
        self.assertEqual(self.shop.piece("9").suggestions, ())

    def test_winding_sticks_give_the_twist(self):
        screen = self.open("9", "twist")
        true = take_photo(self.window.bring_in.bench.stand_in("camera"), self.state.piece, "twist")[1]
        degrees = flatness_of(self.state.piece)["twist"]
        lean = np.tan(np.radians(degrees))
        ends = [(-220.0, 60.0), (220.0, 60.0), (150.0, 160 - 60 - 150 * lean), (-150.0, 160 - 60 + 150 * lean)]
        screen.blind = False  # as after a drag
        screen.spots = [Spot(*map(float, p)) for p in true.to_px(np.array(ends))]
        self.assertAlmostEqual(abs(screen.winding()), degrees, delta=0.1)
        screen.primary_action()
        self.settle()
        self.type("take twist?")
        width = self.shop.piece("9").extents[3]
        self.assertAlmostEqual(self.shop.piece("9").flatness.rock_mm, width * lean, delta=0.4)

    def test_the_back_is_laid_under_the_front_by_a_through_knot(self):
        """The points of face 2 are clicked 4 off along the board; the through knot puts it right."""
        self.state.keep("one knot", self.shop.piece("9").changed(defects=self.shop.piece("9").defects[:1]))
        screen = self.open("9", "face2")
        _, _, x1, y1 = self.state.piece.extents
        true = self.truth(screen, "face2", [(0, 0), (x1, 0), (x1, y1), (0, y1)])
        screen.blind = False  # as after a drag
        screen.spots = [Spot(*map(float, p)) for p in true.to_px(np.array([(4.0, 0), (x1 + 4, 0), (x1 + 4, y1), (4.0, y1)]))]
        screen._fit()
        screen.primary_action()
        self.settle()
        self.settle()
        photo = self.shop.piece("9").photo("face2")
        self.assertAlmostEqual(photo.shift_mm[0], 4, delta=2.5)
        self.assertIn("right way round", self.message[-1])

    def test_files_that_are_no_pictures_are_said(self):
        self.take("9")
        for name, data, words in (
            ("a.jpg", b"\xff\xd8\xff" + b"junk" * 50, "damaged"),
            ("b.png", b"hello", "neither PNG nor JPEG"),
            ("c.png", None, "cannot be read"),
        ):
            path = self.folder / name
            if data is not None:
                path.write_bytes(data)
            self.window.bring_photo("face1", "file", str(path))
            self.settle()
            self.assertIn(words, self.message[-1])
            self.assertTrue(self.find("bringIn").isVisible())
            self.assertIsNone(self.shop.piece("9").photo("face1"))

    def test_suggestions_are_kept_and_dropped_by_key_and_menu(self):
        from grainet.session.suggesting import suggested
        from grainet.wood.suggestion import Suggestion

        ring = ((300, 40), (340, 40), (340, 60), (300, 60))
        far = tuple((x + 900, y) for x, y in ring)
        found = tuple(Suggestion(id="x", what="defect", kind="knot", confidence=0.8, polygon=r) for r in (ring, far))
        piece = suggested(
            self.shop.piece("10"),
            (*found, Suggestion(id="x", what="slope", confidence=0.6, figures=(2.5,), text="lines climb")),
            "1",
        )
        self.state.keep("suggested", piece)
        self.take("10")
        first, second = [s.id for s in piece.suggestions if s.what == "defect"]
        self.click(f"trouble.10.{first}")
        self.assertTrue(self.find("mark.keep").isVisible())
        self.key(Qt.Key.Key_Return, target=self.window)
        self.assertIn("picture", self.shop.piece("10").defects[-1].by)
        self.click(f"trouble.10.{second}")
        self.key(Qt.Key.Key_Delete, target=self.window)
        self.assertEqual([s.what for s in self.shop.piece("10").suggestions], ["slope"])
        self.click("bringIn.photos")
        self.menu("bringIn.photos.menu")["Keep every suggestion"].trigger()
        self.settle()
        self.assertEqual(self.shop.piece("10").grain_slope_deg, 2.5)
        self.assertEqual(self.shop.piece("10").suggestions, ())


class Stock(Case):
    def test_a_bundle_by_one_line_lies_as_one_end(self):
        self.key(Qt.Key.Key_N, CTRL)
        self.find("tape.line").clear()
        self.type("bundle 5x760x58x12 4x700 3x620 sugar maple")
        self.assertEqual(len([p for p in self.shop.pieces() if p.bundle == "18"]), 12)
        self.assertFalse(self.shop.has_piece("18"))
        end = self.find("rack.18-1")
        self.assertIn("12 in bundle 18", end.accessibleName())
        self.assertIsNone(self.window.findChild(type(end), "rack.18-2"))
        self.key(Qt.Key.Key_PageDown, target=self.window)
        self.assertEqual(self.state.piece_id, "18-2")
        self.key(Qt.Key.Key_Z, CTRL, self.window)
        self.assertTrue(self.shop.has_piece("18"))

    def test_a_bundle_by_the_form(self):
        screen = self.take("8")
        self.click("bringIn.next")
        screen.bundle.show_form("pack")
        self.settle()
        self.find("bundle.0.count").setValue(4)
        self.find("bundle.1.count").setValue(2)
        self.find("bundle.1.length").setValue(400)
        self.click("bundle.take")
        found = [p for p in self.shop.pieces() if p.bundle == "18"]
        self.assertEqual([p.length_mm for p in found], [500] * 4 + [400] * 2)
        self.assertEqual({p.kind for p in found}, {"veneer"})
        self.assertFalse(screen.bundle.isVisible())

    def test_a_scanned_label_opens_the_piece(self):
        self.type("#12")
        self.assertEqual(self.state.piece_id, "12")
        self.type("#99")
        self.assertIn("not in this shop", self.message[-1])
        self.assertEqual(self.state.piece_id, "12")

    def test_labels_print_and_are_remembered(self):
        path = self.folder / "l.pdf"
        self.take("8")
        self.window.print_labels(sheet=False, path=str(path))
        self.assertTrue(path.read_bytes().startswith(b"%PDF"))
        self.assertTrue(self.shop.piece("8").label_printed)
        self.window.print_labels(sheet=True, path=str(path))
        self.assertTrue(all(p.label_printed for p in self.shop.pieces()))
        self.window.print_labels(sheet=True, path=str(self.folder / "none" / "x.pdf"))
        self.assertIn("cannot be written", self.message[-1])

    def test_a_list_is_shown_before_it_is_stored(self):
        path = self.folder / "s.csv"
        write_stock(path, [self.shop.piece("1"), self.shop.piece("2").changed(place="Z9"), self.shop.piece("3").changed(id="40")])
        with path.open("a") as file:
            file.write("77,plank,Red alder,abc,90,20\n")
        entries = len(self.shop.file.journal())
        self.window.bring_list(str(path))
        self.settle()
        screen = self.find("stockList")
        self.assertTrue(screen.isVisible())
        model = screen.model
        self.assertEqual(
            [model.data(model.index(k, 3), Qt.ItemDataRole.DisplayRole) for k in range(4)],
            ["is here already", "would change", "comes in", "cannot be used"],
        )
        self.assertEqual(len(self.shop.file.journal()), entries, "nothing is stored yet")
        self.assertEqual(model.ticked, {2})
        self.click("stockList.changes")
        self.assertEqual(model.ticked, {1, 2})
        self.assertTrue(model.setData(model.index(2, 0), Qt.CheckState.Unchecked, Qt.ItemDataRole.CheckStateRole))
        self.assertFalse(model.setData(model.index(3, 0), Qt.CheckState.Checked, Qt.ItemDataRole.CheckStateRole))
        self.key(Qt.Key.Key_Return, CTRL, self.window)
        self.assertEqual(self.shop.piece("2").place, "Z9")
        self.assertFalse(self.shop.has_piece("40"))
        self.assertTrue(self.find("bringIn").isVisible())

    def test_leaving_a_list_stores_nothing(self):
        path = self.folder / "s.json"
        write_stock(path, [self.shop.piece("3").changed(id="40")])
        self.window.bring_list(str(path))
        self.settle()
        self.click("stockList.away")
        self.assertFalse(self.shop.has_piece("40"))

    def test_asking_the_rack(self):
        self.key(Qt.Key.Key_F, CTRL, self.window)
        self.assertEqual(self.find("tape.line").text(), "ask ")
        self.find("tape.line").clear()
        self.type("ask 40 x 120 x 900, ash")
        self.settle()
        self.assertEqual(self.state.answers(), frozenset({"8"}))
        self.assertEqual(list(self.find("rack").ends), ["8"])
        self.type("ask glittering")
        self.assertIn("not understood", self.find("head").gloss)
        self.find("tape.line").clear()
        self.type("ask")
        self.assertIsNone(self.state.answers())
        self.assertGreater(len(self.find("rack").ends), 10)

    def test_turning_and_sawing_apart_by_the_menu(self):
        screen = self.take("14")
        self.state.keep("planes", self.shop.piece("14").changed(planing="far"))
        self.settle()
        self.click("bringIn.more")
        self.menu("bringIn.more.menu")["Turn it end for end"].trigger()
        self.settle()
        self.assertEqual(self.shop.piece("14").planing, "marked")
        self.type("400")
        self.click("bringIn.more")
        self.menu("bringIn.more.menu")["Crosscut at the marker"].trigger()
        self.settle()
        self.assertEqual({"14.1", "14.2"} & {p.id for p in self.shop.pieces()}, {"14.1", "14.2"})
        self.assertEqual(screen.state.piece_id, "14.1")
        self.type("#14")
        self.assertIn("sawn up", self.message[-1])

    def test_house_words_are_this_house_s(self):
        self.key(Qt.Key.Key_K, Qt.KeyboardModifier.ControlModifier, target=self.window)
        field = self.find("kit.FigureWords")
        field.setText("tame, brisk, fierce")
        field.editingFinished.emit()
        self.take("11")
        self.type("200 curl 200x150 s .9")
        self.assertEqual(self.shop.piece("11").figure[-1].word, "fierce")
        self.type("ask fierce")
        self.settle()
        self.assertIn("1 more promised or kept", self.message[-1])
        self.type("ask fierce, promised")
        self.settle()
        self.assertEqual(self.state.answers(), frozenset({"11"}))
        field.setText("one")
        field.editingFinished.emit()
        self.assertIn("two to nine", self.message[-1])


if __name__ == "__main__":
    unittest.main()
