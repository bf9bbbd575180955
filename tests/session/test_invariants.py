"""Invariants of taking in, with many made-up pieces: lists in and out, turning, sawing apart, suggestions, loss chains, questions."""

import math
import tempfile
import unittest
from pathlib import Path

import numpy as np
from hypothesis import assume, given, settings
from hypothesis import strategies as st
from shapely.geometry import Polygon

from grainet.exchange.stock import COLUMNS, read_rows, row_of, to_csv
from grainet.kit.cut_kit import CutKit, Kerfs
from grainet.kit.shop_profile import ShopProfile
from grainet.session.commands.line import read
from grainet.session.hand_cuts import sawn_apart
from grainet.session.missing_readings import tasks_of, unread_places
from grainet.session.query import matches, parse_query
from grainet.session.suggesting import accepted, suggested, without
from grainet.wood.coating import FINISHES, TREATMENTS, Coating, CoatTest, consequences
from grainet.wood.defects import Defect
from grainet.wood.figure import FIGURE_KINDS, HOUSE_WORDS, FigureZone, house_word
from grainet.wood.flags import flags_of
from grainet.wood.part_forecast import sub_piece
from grainet.wood.piece import PIECE_KINDS, Flatness, Layer, MoistureReading, Piece, Station, WidthStation, with_readings
from grainet.wood.record import CutSample, Happening, Paper, Rest, Supply, Surprise, Tap, Weighing
from grainet.wood.suggestion import Suggestion
from grainet.wood.tally import tally
from grainet.wood.thickness import ThicknessField
from grainet.wood.turning import flipped_over_the_end, rolled_over, turned_end_for_end
from grainet.wood.value import BadEntry

MM = st.floats(20, 2400).map(lambda v: round(v, 1))
TEXT = st.text(alphabet=st.characters(blacklist_categories=("Cs", "Cc")), max_size=40).map(str.strip)
KINDS = ("knot", "crack", "stain", "groove", "nail", "pith", "hole", "worm")


@st.composite
def pieces(draw):
    """A measured piece with anything that taking in can leave on it: its texts are drawn one by one, its figures all from one seed, for
    two hundred draws a piece would take most of the tests' time."""
    by_chance = draw(st.randoms(use_true_random=True))
    texts = [draw(TEXT), draw(TEXT), ""]

    def between(low, high):
        return by_chance.choice((low, high)) if by_chance.random() < 0.15 else by_chance.uniform(low, high)

    length, width = between(300, 2400), between(60, 400)
    length, width = round(length, 1), round(width, 1)
    thick = round(between(4, 80), 1)
    live = by_chance.random() < 0.5
    edges = tuple(
        WidthStation(
            x_mm=round(length * k / 4, 1),
            far_mm=round(width * (0.5 + 0.04 * by_chance.randint(-3, 3)), 1),
            near_mm=round(width / 2, 1) if live else 0.0,
        )
        for k in range(5)
    )
    marks = []
    for k in range(by_chance.randint(0, 5)):
        x, y = between(0, length - 30), between(0, width / 3)
        w, h = between(4, 30), between(3, 20)
        ring = tuple((round(a, 2), round(b, 2)) for a, b in ((x, y), (x + w, y), (x + w, y + h), (x, y + h)))
        kind = by_chance.choice(KINDS)
        marks.append(
            Defect(
                id=f"d{k}", kind=kind, face=by_chance.choice(("1", "2", "through", "edge")), polygon=ring,
                depth_mm=(None if by_chance.random() < 0.5 else round(between(0, thick), 2)), severity=by_chance.choice((None, 1, 2, 3)),
                keep=(by_chance.random() < 0.5), ends_closed=by_chance.choice((None, (True, False), (False, True))), note=by_chance.choice(texts),
            )
        )  # fmt: skip
    rows = by_chance.randint(1, 2)
    stations = tuple(
        Station(x_mm=round(length * (k + 0.5) / 3, 1), y_mm=round(width * (j + 0.5) / 4, 1), thickness_mm=round(thick * between(0.9, 1.1), 2), by=by_chance.choice(("", "callipers 1")))
        for k in range(3) for j in range(rows)
    )  # fmt: skip
    piece = Piece(
        id=by_chance.choice(("1", "18", "42.1", "18-3")), kind=by_chance.choice(PIECE_KINDS), species=by_chance.choice(("unknown", "Red alder", "European ash")),
        stations=stations, defects=tuple(marks), mass_kg=(None if by_chance.random() < 0.5 else round(between(0.1, 60), 3)),
        flatness=Flatness(bow_mm=by_chance.choice((0, 1.5, 6)), cup_mm=by_chance.choice((0, 0.8)), rock_mm=by_chance.choice((0, 2.0))),
        ring_angle_deg=by_chance.choice((None, (70.0, 60.0), (None, 45.0))), grain_slope_deg=by_chance.choice((None, 1.5, -2.0)),
        runout_deg=by_chance.choice((None, 2.0, -1.0)), planing=by_chance.choice(("", "far", "marked", "both_ways_tear")),
        moisture=(MoistureReading(x_mm=length / 2, y_mm=width / 3, depth_mm=10, moisture_pct=round(between(5, 30), 1)),) if (by_chance.random() < 0.5) else (),
        reclaimed=(by_chance.random() < 0.5), coating=Coating(finish=by_chance.choice(("", *FINISHES)), treatment=by_chance.choice(("", *TREATMENTS))),
        figure=(FigureZone(id="f1", kind=by_chance.choice(FIGURE_KINDS), polygon=((5, 5), (100, 5), (100, 40), (5, 40)), strength=0.5),) if (by_chance.random() < 0.5) else (),
        layers=(Layer(thickness_mm=2.0), Layer(thickness_mm=3.0, across=True)) if (by_chance.random() < 0.5) else (), note=by_chance.choice(texts), origin=by_chance.choice(texts), place=by_chance.choice(texts),
        species_sure=(by_chance.random() < 0.5), candidates=by_chance.choice(((), ("European oak", "Iroko"))), look=by_chance.choice(((), ("ring", "brown"))),
        stacking=by_chance.choice(("", "sticks", "still", "bench", "sealed")), rest_waived=by_chance.choice(texts),
        weighings=tuple(Weighing(on=f"2026-0{k + 1}-11", kg=round(between(0.2, 40), 3)) for k in range(by_chance.randint(0, 4))),
        samples=(CutSample(on="2026-03-01", x_mm=length / 3, wet_g=52.4, dry_g=48.1, part="core"),) if (by_chance.random() < 0.5) else (),
        rests=(Rest(on="2026-03-01", bow_mm=1.5, twist_mm=by_chance.choice((None, 0.4))),) if (by_chance.random() < 0.5) else (),
        taps=(Tap(on="2026-03-01", hz=368, decay_s=0.09, length_mm=length, width_mm=width, thickness_mm=thick),) if (by_chance.random() < 0.5) else (),
        supply=Supply(supplier=by_chance.choice(texts), price=by_chance.choice((None, 0, 42.5)), papers=(Paper(kind="invoice", number="7"),), surprises=(Surprise(on="2026-03-01", what="nail"),)),
        history=(Happening(on="2026-03-01", what="species renamed"),) if (by_chance.random() < 0.5) else (),
    )  # fmt: skip
    return with_readings(piece, length_mm=length, width_stations=edges)


class Lists(unittest.TestCase):
    @given(st.lists(pieces(), min_size=1, max_size=4))
    @settings(max_examples=40, deadline=None)
    def test_a_csv_read_back_is_the_same(self, found):
        unique = [p.changed(id=f"{k}") for k, p in enumerate(found)]
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "s.csv"
            path.write_text(to_csv(unique), encoding="utf-8")
            rows = read_rows(path)
        self.assertEqual([r.fault for r in rows], [""] * len(unique))
        self.assertEqual([r.piece for r in rows], unique)

    @given(
        pieces(),
        st.sampled_from([c for c in COLUMNS[1:-1] if c not in ("length_mm", "width_mm", "moisture_pct")]),
        st.sampled_from(("3", "7.5", "yes", "oak", "x,y", "unknown", "")),
    )
    @settings(max_examples=53, deadline=None)
    def test_an_edited_cell_changes_its_own_column_or_is_named(self, piece, column, text):
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "s.csv"
            lines = to_csv([piece])
            import csv
            import io

            row = next(csv.DictReader(io.StringIO(lines)))
            row[column] = text
            out = io.StringIO(newline="")
            writer = csv.DictWriter(out, COLUMNS, lineterminator="\n")
            writer.writeheader()
            writer.writerow(row)
            path.write_text(out.getvalue(), encoding="utf-8")
            (read_back,) = read_rows(path)
        if read_back.piece is None:
            self.assertTrue(read_back.fault)
            return
        before, after = row_of(piece), row_of(read_back.piece)
        changed = {name for name in before if before[name] != after[name]}
        self.assertLessEqual(changed, {column, "ring_start_deg", "ring_end_deg"} if "ring" in column else {column})


class Turning(unittest.TestCase):
    @given(pieces())
    @settings(max_examples=40, deadline=None)
    def test_what_turning_keeps(self, piece):
        for turn in (turned_end_for_end, rolled_over, flipped_over_the_end):
            turned = turn(piece)
            self.assertAlmostEqual(Polygon(turned.outline).area, Polygon(piece.outline).area, delta=1e-3)
            self.assertEqual(sorted(s.thickness_mm for s in turned.stations), sorted(s.thickness_mm for s in piece.stations))
            before, after = tally(piece), tally(turned)
            self.assertEqual(before.by_kind, after.by_kind)
            self.assertAlmostEqual(before.clear_both, after.clear_both, places=6)
            self.assertEqual(flags_of(piece), flags_of(turned)) if turn is turned_end_for_end else None
            self.assertEqual({d.id: d.depth_mm for d in turned.defects}, {d.id: d.depth_mm for d in piece.defects})
            again = turn(turned)
            for old, new in zip(piece.defects, again.defects):
                self.assertEqual((old.face, old.ends_closed), (new.face, new.ends_closed))
                np.testing.assert_allclose(old.polygon, new.polygon, atol=1e-4)

    @given(pieces(), st.floats(0.1, 0.5), st.floats(0.3, 0.9))
    @settings(max_examples=40, deadline=None)
    def test_a_part_loses_the_same_wherever_the_board_is_turned(self, piece, start, share):
        _x0, _y0, x1, y1 = piece.extents
        box = (start * x1 * 0.8, 0.2 * y1, min(x1, (start * 0.8 + share * 0.5) * x1), 0.7 * y1)
        mirrored = (x1 - box[2], y1 - box[3], x1 - box[0], y1 - box[1])
        one, two = sub_piece(piece, box, 0.5, 1.0), sub_piece(turned_end_for_end(piece), mirrored, 0.5, 1.0)
        self.assertAlmostEqual(one.thickness.left_mm, two.thickness.left_mm, delta=0.02)
        self.assertAlmostEqual(one.width.left_mm, two.width.left_mm, delta=0.02)


class Chains(unittest.TestCase):
    @given(pieces(), st.floats(0, 0.5), st.floats(0.2, 0.5))
    @settings(max_examples=40, deadline=None)
    def test_links_sum_and_smaller_parts_never_lose_more_to_shape(self, piece, start, share):
        _x0, _y0, x1, y1 = piece.extents
        box = (start * x1, 0.1 * y1, (start + share) * x1, 0.8 * y1)
        found = sub_piece(piece, box, 0.6, 1.0)
        chain = found.thickness
        self.assertTrue(math.isclose(chain.reading_mm - sum(link.takes_mm for link in chain.links), chain.left_mm, abs_tol=1e-9))
        names = frozenset(link.name for link in chain.links)
        self.assertAlmostEqual(sub_piece(piece, box, 0.6, 1.0, names).thickness.left_mm, chain.reading_mm)
        half = (box[0], box[1], (box[0] + box[2]) / 2, box[3])
        smaller = {link.name: link.takes_mm for link in sub_piece(piece, half, 0.6, 1.0).thickness.links}
        for link in chain.links[:3]:
            self.assertLessEqual(smaller[link.name], link.takes_mm + 1e-9)
        self.assertGreaterEqual(chain.reading_mm, ThicknessField.of(piece).least - 1e-9)
        self.assertTrue(all(g.gains_mm >= 0 for g in found.gains))


class SawnApart(unittest.TestCase):
    KIT = CutKit(kerf_mm=Kerfs(crosscut=3, rip=3, resaw=1.2, outline=3))

    @given(pieces(), st.sampled_from(("crosscut", "rip", "resaw")), st.floats(0.05, 0.95))
    @settings(max_examples=40, deadline=None)
    def test_wood_kerf_and_troubles_add_up(self, piece, tool, share):
        x0, y0, x1, y1 = piece.extents
        least = ThicknessField.of(piece).least
        at = {"crosscut": x0 + share * (x1 - x0), "rip": y0 + share * (y1 - y0), "resaw": share * least}[tool]
        try:
            one, two = sawn_apart(piece, tool, at, self.KIT, ("a.1", "a.2"))
        except BadEntry:
            return
        whole = Polygon(piece.outline).area
        if tool == "resaw":
            self.assertAlmostEqual(one.thickness_mm + two.thickness_mm + 1.2, least, delta=0.02)
        else:
            areas = Polygon(one.outline).area + Polygon(two.outline).area
            self.assertLessEqual(areas, whole + 1)
            across = (y1 - y0) if tool == "crosscut" else (x1 - x0)
            self.assertGreaterEqual(areas, whole - 3.01 * across - 0.06 * whole, "only the kerf and slivers are gone")
        self.assertLessEqual(len(one.figure), len(piece.figure))
        for half in (one, two):
            self.assertEqual((half.parent, half.species, half.coating), (piece.id, piece.species, piece.coating))
            hx0, hy0, hx1, hy1 = half.extents
            for mark in half.defects:
                for x, y in mark.polygon:
                    self.assertTrue(hx0 - 0.01 <= x <= hx1 + 0.01 and hy0 - 0.01 <= y <= hy1 + 0.01)
        if piece.mass_kg is not None and tool != "resaw":
            self.assertLessEqual(one.mass_kg + two.mass_kg, piece.mass_kg * 1.02 + 0.01)


class Suggestions(unittest.TestCase):
    @given(pieces(), st.integers(1, 6), st.floats(0, 1))
    @settings(max_examples=33, deadline=None)
    def test_keeping_and_dropping_empties_the_list_and_only_keeping_changes_the_wood(self, piece, count, sure):
        rng = np.random.default_rng(count)
        found = []
        for _ in range(count):
            x, y = rng.uniform(0, piece.extents[2] - 40), rng.uniform(0, piece.extents[3] - 15)
            ring = ((x, y), (x + 20, y), (x + 20, y + 10), (x, y + 10))
            found.append(Suggestion(id="?", what="defect", kind="knot", confidence=sure, polygon=ring))
        full = suggested(piece, tuple(found), "1")
        self.assertEqual(len({s.id for s in full.suggestions}), len(full.suggestions), "each has a tag of its own")
        self.assertFalse({s.id for s in full.suggestions} & {d.id for d in piece.defects})
        self.assertEqual(full.changed(suggestions=()), piece)
        dropped, kept = full, full
        for one in full.suggestions:
            dropped, kept = without(dropped, one.id), accepted(kept, one)
        self.assertEqual(dropped, piece)
        self.assertEqual(kept.suggestions, ())
        self.assertEqual(len(kept.defects), len(piece.defects) + len(full.suggestions))
        self.assertEqual(len({d.id for d in kept.defects}), len(kept.defects))


class Coats(unittest.TestCase):
    def test_every_declaration_has_its_consequences_and_a_way_to_clear_them(self):
        for finish in ("", *FINISHES):
            for treatment in ("", *TREATMENTS):
                for tests in (
                    (),
                    (CoatTest(on="2026-11-01", how="h", clean=True),),
                    (CoatTest(on="2026-11-01", how="h", clean=False),),
                ):
                    coat = Coating(finish=finish, treatment=treatment, tests=tests)
                    for reclaimed in (False, True):
                        found = consequences(coat, reclaimed=reclaimed)
                        for one in found:
                            self.assertTrue(one.text.endswith(".") or one.text[-1].isalpha())
                            self.assertEqual(bool(one.closes) and not one.cleared_by, False, "what closes says how it is cleared")
                        if treatment not in ("", "none"):
                            self.assertTrue(any(c.closes == "use" for c in found))
                        if tests and not tests[-1].clean:
                            self.assertTrue(any(c.closes == "use" for c in found))
                        cleared = coat.changed(
                            finish=finish or "none", treatment="none", tests=(CoatTest(on="2026-11-01", how="h", clean=True),)
                        )
                        self.assertFalse(any(c.closes for c in consequences(cleared, reclaimed=reclaimed)))


class Reading(unittest.TestCase):
    @given(pieces())
    @settings(max_examples=33, deadline=None)
    def test_every_task_s_words_are_understood(self, piece):
        for task in tasks_of(piece, 10.0):
            self.assertTrue(task.what and task.how and task.words)
            try:
                read(task.words, piece, 0.0, "mm", "2026-11-25")
            except BadEntry as fault:
                self.assertNotIn("is not a word", str(fault), task.words)

    @given(st.integers(1, 9), st.integers(1, 5), pieces())
    @settings(max_examples=40, deadline=None)
    def test_a_grid_filled_leaves_no_place_unread(self, along, across, piece):
        gridded = piece.changed(reading_grid=(along, across), stations=())
        wanted = unread_places(gridded)
        assume(len(wanted) == along * across)
        figures = " ".join(f"{20 + k % 7}.{k % 10}" for k in range(len(wanted)))
        if len(wanted) == 1:
            filled = read(f"{wanted[0][0]} t {figures} y {wanted[0][1]}", gridded, 0.0, "mm", "").piece
        else:
            filled = read(f"t {figures}", gridded, 0.0, "mm", "").piece
        self.assertEqual(len(filled.stations), along * across)
        self.assertEqual(unread_places(filled), [])

    @given(st.floats(0, 1))
    def test_house_words_cover_the_scale_in_order(self, strength):
        word = house_word(strength)
        self.assertIn(word, HOUSE_WORDS)
        self.assertLessEqual(HOUSE_WORDS.index(house_word(strength / 2)), HOUSE_WORDS.index(word))


class Questions(unittest.TestCase):
    @given(st.text(max_size=40))
    @settings(max_examples=200, deadline=None)
    def test_any_text_is_a_question_or_a_sentence(self, text):
        try:
            parse_query(text)
        except BadEntry as fault:
            self.assertTrue(str(fault))

    @given(pieces(), st.floats(1, 60), st.floats(10, 300), st.floats(50, 2000))
    @settings(max_examples=40, deadline=None)
    def test_asking_for_less_finds_no_fewer(self, piece, thick, width, length):
        kit = ShopProfile()
        large = matches(piece, parse_query(f"{thick:.1f} x {width:.1f} x {length:.1f} clear"), kit)
        small = matches(piece, parse_query(f"{thick * 0.9:.1f} x {width * 0.9:.1f} x {length * 0.9:.1f} clear"), kit)
        anyhow = matches(piece, parse_query(f"{thick:.1f} x {width:.1f} x {length:.1f}"), kit)
        self.assertLessEqual(large, small)
        self.assertLessEqual(large, anyhow)


if __name__ == "__main__":
    unittest.main()
