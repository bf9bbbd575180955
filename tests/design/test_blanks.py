"""From an instrument to its blanks: every size a sum that adds up, every blank holding its finished part, whatever the instrument."""

import json
import math
import unittest

from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError
from shapely.geometry import Polygon, box
from shapely.ops import unary_union

from grainet.design.allowances import Allowances
from grainet.design.answer import blanks_answer
from grainet.design.blanks import blanks_of, body_slices
from grainet.design.checks import checks_of
from grainet.design.clip import area_mm2, clipped_to, mirrored, same_mirrored
from grainet.design.figures import FIGURES
from grainet.design.instrument import KINDS, ROUTES, Body, Head, Instrument, Strip
from grainet.design.parts import design_of, drawable, planned_mm
from grainet.design.shape_library import BODIES
from grainet.design.ways import WAYS, way_of, ways_for, with_way
from grainet.wood.species import library_with
from grainet.wood.value import BadEntry

KIT = Allowances(10, 2, 0.75, 2.0)
HERON = Instrument(id="heron-8", frets=22, head=Head(route="flat", length_mm=178.0, width_mm=82.0, thickness_mm=14.5),
                   body=Body(cap_mm=6.0), skim_after_glue_mm=0.0)  # fmt: skip


@st.composite
def instruments(draw):
    shape = BODIES[draw(st.sampled_from(sorted(BODIES)))]
    cap = draw(st.sampled_from([0.0, 6.0, 8.0]))
    g = Instrument(
        id="any", kind=draw(st.sampled_from(KINDS)), frets=draw(st.integers(12, 27)), nut_mm=draw(st.floats(34, 60)),
        scale_mm=tuple(draw(st.lists(st.floats(560, 900), min_size=1, max_size=2))), skim_after_glue_mm=draw(st.sampled_from([0.0, 0.6])),
        head=Head(route=draw(st.sampled_from(ROUTES)), angle_deg=draw(st.floats(4, 17)), length_mm=draw(st.floats(120, 230))),
        body=Body(outline=shape.outline, zones=shape.zones, cap_mm=cap, thickness_mm=draw(st.floats(30, 60))), snipe_mm=draw(st.sampled_from([0.0, 20.0])),
    )  # fmt: skip
    for component in sorted(ways_for(g)):
        g = with_way(g, component, draw(st.sampled_from(ways_for(g)[component])))
    return g


class ByHand(unittest.TestCase):
    def sizes(self, g, part):
        blank = next(b for b in blanks_of(g, KIT) if b.part == part)
        return tuple(round(s.mm, 1) for s in (blank.length, blank.width, blank.thickness))

    def test_a_guitar_reckoned_by_hand(self):
        self.assertEqual(self.sizes(HERON, "neck"), (657.8, 92, 23.5))
        self.assertEqual(self.sizes(HERON, "fretboard"), (479.8, 58.3, 8.0))
        self.assertEqual(self.sizes(HERON, "plate"), (198, 86, 4))
        self.assertEqual(self.sizes(HERON, "body.bass")[2], 39.5)
        neck = next(b for b in blanks_of(HERON, KIT) if b.part == "neck")
        self.assertEqual(neck.length.text, "657.8 = 459.8 nut to the end of the board + 178 flat head + 20 two ends trimmed")
        told = neck.length.told("fraction")
        self.assertEqual(told, "25.897 = 18.101 nut to the end of the board + 7.008 flat head + 0.787 two ends trimmed")
        whole, *terms = (float(word) for word in told.replace("=", " ").split() if word[0].isdigit())
        self.assertAlmostEqual(whole, sum(terms), delta=0.002, msg="in thousandths it adds up")
        self.assertAlmostEqual(neck.length.finished_mm, 637.8, delta=0.05)

    def test_each_head_route(self):
        for route, part, wanted in (
            ("solid", "neck", (652.5, 58.6)),
            ("scarf", "neck", (568.0, 23.5)),
            ("scarf", "neck.head", (288.9, 16.0)),
        ):
            long, _, thick = self.sizes(HERON.with_figure("head.route", route), part)
            self.assertEqual((long, thick), wanted, route)
        self.assertEqual(
            self.sizes(HERON.with_figure("head.route", "stacked"), "neck.head")[2],
            round(178 * math.sin(math.radians(14)) + 14.5 * math.cos(math.radians(14)) - 22 + 1.5, 1),
        )

    def test_a_through_neck_is_as_long_as_head_scale_and_tail(self):
        g = HERON.changed(kind="through", scale_mm=(690.0,), tail_mm=95.0).with_figures(
            {"head.length_mm": 175.0, "joint.length_mm": 380.0, "joint.angle_deg": 2.5, "body.thickness_mm": 46.0}
        )
        neck = next(b for b in blanks_of(g, Allowances(10, 0, 0, 0)) if b.part == "neck")
        self.assertAlmostEqual(neck.length.mm, 980)
        self.assertAlmostEqual(neck.thickness.mm, 62.6, delta=0.05)
        self.assertEqual([s.name for s in body_slices(g, way_of(g, "body"))], ["treble wing", "bass wing"])

    def test_ears_and_strips(self):
        g = HERON.with_figures({"head.width_mm": 88.0, "ways": {"neck": "ears"}})
        by = {b.part: b for b in blanks_of(g, Allowances())}
        narrow = by["neck"].width.mm
        self.assertAlmostEqual(by["neck.ear"].width.mm, (88 - narrow) / 2 + 3)
        self.assertEqual(by["neck.ear"].count, 2)
        strips = tuple(
            Strip(mm=m, species=s, accent=a)
            for m, s, a in (
                (12.0, "maple", False),
                (1.5, "walnut", True),
                (10.0, "maple", False),
                (1.5, "walnut", True),
                (12.0, "maple", False),
            )
        )
        g = HERON.changed(ways={"neck": "strips"}, strips=strips, spare={"accent": 1})
        rows = [(b.part, b.count, b.thickness.finished_mm) for b in blanks_of(g, KIT) if b.component == "neck"]
        self.assertEqual(rows, [("neck.strip1", 2, 12.0), ("neck.accent2", 3, 1.5), ("neck.strip3", 1, 10.0)])

    def test_switching_one_term_off_takes_just_that_amount(self):
        whole = next(b for b in blanks_of(HERON, KIT) if b.part == "neck")
        less = next(b for b in blanks_of(HERON.changed(off=("neck.length: two ends trimmed",)), KIT) if b.part == "neck")
        self.assertAlmostEqual(whole.length.mm - less.length.mm, 20)
        self.assertEqual(whole.width, less.width)

    def test_checks_say_what_holds_and_why(self):
        rows = {c.what: c for c in checks_of(HERON)}
        self.assertAlmostEqual(rows["wood under the rod"].found, 5.5)
        self.assertTrue(rows["wood under the rod"].holds)
        red = {
            c.what
            for c in checks_of(
                HERON.with_figures({"neck.depth_nut_mm": 12.0, "fretboard.radius_mm": [241.0], "fretboard.thickness_mm": 5.2})
            )
            if not c.holds
        }
        self.assertEqual(red, {"wood under the rod", "fretboard's edge"})

    def test_weight_follows_the_species(self):
        ash = HERON.with_figure("body.species", ["European ash"])
        cedar = HERON.with_figure("body.species", ["Western redcedar"])
        library = library_with()
        heavy, light = (blanks_answer(g, KIT, library).weight_kg for g in (ash, cedar))
        self.assertGreater(heavy.mean, light.mean + 1)
        self.assertTrue(1.5 < light.mean < heavy.mean < 6)
        self.assertGreater(heavy.sd, 0.05)


class Figures(unittest.TestCase):
    def test_what_was_never_said_is_guessed_and_stays_unsaid(self):
        self.assertTrue(HERON.is_guessed("nut_mm"))
        told = HERON.with_figure("nut_mm", 43.0)
        self.assertFalse(told.is_guessed("nut_mm"), "told as it was guessed")
        self.assertTrue(told.is_guessed("spread_mm"))
        self.assertTrue(told.changed(status={"nut_mm": "guessed"}).is_guessed("nut_mm"))
        kept = Instrument.model_validate_json(told.model_dump_json(exclude_unset=True, by_alias=True))
        self.assertEqual(
            (kept, kept.is_guessed("nut_mm"), kept.is_guessed("frets"), kept.is_guessed("tail_mm")), (told, False, False, True)
        )
        self.assertTrue(HERON.changed(name="Heron").is_guessed("nut_mm"), "another change says nothing of it")

    def test_every_row_leads_to_a_figure(self):
        for row in FIGURES:
            HERON.figure(row.path)
            self.assertTrue(row.label and row.word)
        self.assertEqual(len({row.word for row in FIGURES}), len(FIGURES))

    def test_two_figures_at_once_and_figures_that_are_none(self):
        g = HERON.with_figures({"scale_mm": [686.0, 648.0], "head.angle_deg": 9.0})
        self.assertEqual((g.scale, g.head.angle_deg), (686, 9))
        for path in ("colour", "head.colour", "tail.mm"):
            with self.assertRaises(BadEntry):
                HERON.with_figure(path, 1.0)
        with self.assertRaises(ValidationError):
            HERON.with_figure("nut_mm", -3)

    def test_figures_that_cannot_go_together_are_named(self):
        for told, place in (
            ({"join_fret": 30.0}, "join_fret"),
            ({"body.cap_mm": 50.0}, "body.cap_mm"),
            ({"body.outline": [[0, 1], [9, 1], [9, 8]]}, "body.outline"),
        ):
            self.assertIn(place, [p for p, _ in HERON.with_figures(told).faults()])
        self.assertEqual(list(HERON.faults()), [])


class Anything(unittest.TestCase):
    @given(instruments())
    def test_sums_add_up_and_blanks_hold_their_finished_parts(self, g):
        blanks = blanks_of(g, KIT)
        self.assertEqual(len({b.part for b in blanks}), len(blanks))
        for blank in blanks:
            for size, loss in ((blank.length, 20), (blank.width, 4), (blank.thickness, 1.5)):
                self.assertAlmostEqual(sum(t.mm for t in size.terms), size.mm, delta=1e-6)
                self.assertGreater(size.finished_mm, 0)
                self.assertGreaterEqual(size.mm, size.finished_mm + loss - 1e-9)
                self.assertAlmostEqual(planned_mm(size), size.mm - loss, delta=1e-6)
            xs, ys = zip(*blank.outline)
            self.assertLessEqual(max(xs) - min(xs), blank.length.finished_mm + 1e-6)
            self.assertLessEqual(max(ys) - min(ys), blank.width.finished_mm + 1e-6)
            if blank.footprint is not None:
                self.assertGreater(blank.footprint.mm, 2 * blank.thickness.finished_mm)

    @given(instruments())
    def test_the_body_s_pieces_make_the_whole_body(self, g):
        way = way_of(g, "body")
        slices = body_slices(g, way)
        whole = Polygon(g.body.outline)
        if g.kind == "through":
            half = -min(s.low_mm for s in slices if s.low_mm > 0) if any(s.low_mm > 0 for s in slices) else 0
            core = whole.intersection(box(-1e3, half, 1e4, -half))
            slices_area = unary_union([Polygon(s.ring) for s in slices] + [core])
        else:
            slices_area = unary_union([Polygon(s.ring) for s in slices])
        self.assertLess(slices_area.symmetric_difference(whole).area, 0.5)

    @given(instruments())
    def test_the_answer_is_written_and_the_design_is_one_that_jobs_take(self, g):
        found = blanks_answer(g, KIT, library_with())
        data = json.loads(found.model_dump_json(by_alias=True))
        for row in data["blanks"]:
            for size in ("length", "width", "thickness"):
                self.assertAlmostEqual(sum(t["mm"] for t in row[size]["sum"]), row[size]["mm"], delta=1e-6)
        design = design_of(g)
        needed = set(design.recipes[-1].needs)
        self.assertEqual(needed, {p.id for p in design.parts})
        for part in design.parts:
            self.assertTrue(Polygon(part.outline).is_valid)
            for zone in part.zones:
                if zone.polygon != "rest":
                    self.assertTrue(Polygon(part.outline).buffer(1).envelope.contains(Polygon(zone.polygon).envelope))

    @given(instruments())
    def test_out_and_in_again_is_the_same(self, g):
        again = Instrument.model_validate_json(g.model_dump_json(exclude_unset=True, by_alias=True))
        self.assertEqual(again, g)
        self.assertEqual([again.is_guessed(f.path) for f in FIGURES], [g.is_guessed(f.path) for f in FIGURES])


class Shapes(unittest.TestCase):
    def test_every_outline_is_whole_with_its_zones_inside(self):
        for name, shape in BODIES.items():
            body = Polygon(shape.outline)
            self.assertTrue(body.is_valid and body.exterior.is_ccw, name)
            self.assertTrue(80_000 < body.area < 130_000, name)
            self.assertEqual(min(x for x, _ in shape.outline), 0, name)
            for zone in shape.zones:
                if zone.polygon != "rest":
                    self.assertTrue(body.buffer(0.5).contains(Polygon(zone.polygon)), (name, zone.name))

    def test_mirrored_twice_is_itself_and_halves_rejoin_without_a_gap(self):
        ring = BODIES["egg"].outline
        self.assertEqual(mirrored(mirrored(ring)), ring)
        self.assertAlmostEqual(area_mm2(mirrored(ring)), area_mm2(ring))
        self.assertFalse(same_mirrored(ring, ring))
        self.assertTrue(same_mirrored(((0, 0), (5, 0), (4, 3)), ((0, 3), (5, 3), (4, 0))))
        a, b = body_slices(HERON, "halves")
        self.assertLess(Polygon(a.ring).union(Polygon(b.ring)).symmetric_difference(Polygon(ring)).area, 1e-6)
        self.assertEqual(clipped_to(ring, (900, 0, 950, 5)), ())

    def test_a_way_or_a_component_that_nobody_knows_is_refused(self):
        for ways, words in (
            ({"neck": "of straw"}, "no way to make the neck; needs one of one piece"),
            ({"tail": "x"}, "no component; needs one of body"),
        ):
            with self.assertRaisesRegex(BadEntry, words):
                drawable(HERON.changed(ways=ways))
        self.assertEqual(way_of(drawable(HERON.changed(ways={"body": "core and wings"})), "body"), "wings")

    def test_every_way_is_told(self):
        for rows in WAYS.values():
            for way in rows:
                self.assertTrue(way.label and way.why, way.name)
        with self.assertRaisesRegex(ValueError, "no way to make the neck; needs one of one piece"):
            with_way(HERON, "neck", "of straw")


if __name__ == "__main__":
    unittest.main()
