"""Mends: what a way out makes of the blanks; the same wood in sum, mirrored halves mended alike, taken back without a trace."""

import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from grainet.design.allowances import Allowances
from grainet.design.blanks import blanks_of
from grainet.design.clip import area_mm2, same_mirrored
from grainet.design.instrument import Instrument
from grainet.design.mend import Mend
from grainet.design.mends import joints_of, with_mend, without_mends
from grainet.design.parts import alike, design_of, label_of
from grainet.design.starting_points import POINTS, begin
from grainet.kit.shop_profile import GUESSED_CUTS

KIT = GUESSED_CUTS.allowances


def blanks(g, component="body"):
    return {b.part: b for b in blanks_of(g, KIT) if b.component == component}


class Cut(unittest.TestCase):
    @settings(max_examples=30, deadline=None)
    @given(st.sampled_from(sorted(POINTS)), st.floats(0.1, 0.9), st.sampled_from(("third piece", "centre strip")))
    def test_the_pieces_are_the_half_and_its_mate_is_cut_at_the_mirrored_place(self, point, share, kind):
        g = begin(point, "g", "g")
        before = blanks(g)
        part = next((p for p, b in before.items() if b.mate), None)
        if part is None:
            return
        high = max(y for _, y in before[part].outline)
        after = blanks(with_mend(g, Mend(part=part, kind=kind, at_mm=(round(high * share, 2),))))
        self.assertEqual(len(after), len(before) + 2, "both halves have a piece more")
        for name, whole in before.items():
            pieces = [b for b in after.values() if b.part.startswith(name)]
            if len(pieces) == 2:
                self.assertAlmostEqual(sum(abs(area_mm2(b.outline)) for b in pieces), abs(area_mm2(whole.outline)), delta=1)
                self.assertAlmostEqual(sum(b.width.finished_mm for b in pieces), whole.width.finished_mm, places=3)
                for b in pieces:
                    self.assertGreaterEqual(b.length.finished_mm + 1e-6, max(x for x, _ in b.outline))
                    self.assertGreaterEqual(b.thickness.mm, whole.thickness.mm, "gluing takes its skim")
        halves = [(after[p], after[after[p].mate]) for p in after if after[p].mate]
        self.assertTrue(halves)
        drawn_alike = same_mirrored(before[part].outline, before[before[part].mate].outline)
        for one, other in halves:
            self.assertEqual(same_mirrored(one.outline, other.outline), drawn_alike)

    def test_a_strip_let_in_parts_the_half_in_three(self):
        g = begin("bolt-on", "g", "g")
        part, whole = next((p, b) for p, b in blanks(g).items() if b.mate)
        mended = with_mend(g, Mend(part=part, kind="split and insert", at_mm=(60, 72)))
        pieces = {b.cut: b for b in blanks(mended).values() if b.part.startswith(part)}
        self.assertEqual(set(pieces), {"", "other side", "insert"})
        self.assertAlmostEqual(pieces["insert"].width.finished_mm, 12, places=6)
        self.assertAlmostEqual(sum(b.width.finished_mm for b in pieces.values()), whole.width.finished_mm, places=3)

    def test_a_layer_and_skins_leave_the_core_that_much_thinner(self):
        g = begin("bolt-on", "g", "g")
        part, whole = next((p, b) for p, b in blanks(g).items() if b.mate)
        for kind, takes, count in (("extra layer", 6, 1), ("skins", 12, 2)):
            pieces = {
                b.cut: b
                for b in blanks(with_mend(g, Mend(part=part, kind=kind, at_mm=(6.0,)))).values()
                if b.part.startswith(part)
            }
            core = pieces.pop("")
            (extra,) = pieces.values()
            self.assertAlmostEqual(core.thickness.finished_mm, whole.thickness.finished_mm - takes)
            self.assertEqual((extra.thickness.finished_mm, extra.count), (6, whole.count * count))

    def test_what_cannot_be_cut_is_left_as_it_is(self):
        g = begin("bolt-on", "g", "g")
        part = next(p for p, b in blanks(g).items() if b.mate)
        for mend in (
            Mend(part=part, kind="third piece", at_mm=(2000.0,)),
            Mend(part=part, kind="extra layer", at_mm=(500.0,)),
            Mend(part="no such part", kind="third piece", at_mm=(50.0,)),
            Mend(part=part, kind="third piece"),
        ):
            self.assertEqual(blanks(with_mend(g, mend)), blanks(g), mend)


class Kept(unittest.TestCase):
    def test_out_in_and_taken_back(self):
        g = begin("bolt-on", "g", "g")
        part = next(p for p, b in blanks(g).items() if b.mate)
        mended = with_mend(g, Mend(part=part, kind="third piece", at_mm=(80.0,)))
        again = Instrument.model_validate_json(mended.model_dump_json(exclude_unset=True, by_alias=True))
        self.assertEqual(again, mended)
        self.assertIn('"x-mends"', mended.model_dump_json(exclude_unset=True, by_alias=True))
        self.assertEqual(blanks(without_mends(mended, "body")), blanks(g))
        twice = with_mend(mended, Mend(part=part, kind="third piece", at_mm=(60.0,)))
        self.assertEqual(len(twice.mends), 1, "the later one counts")

    def test_the_design_asks_for_every_piece_and_only_halves_stay_on_one_board(self):
        g = begin("bolt-on", "g", "g")
        part = next(p for p, b in blanks(g).items() if b.mate)
        mended = with_mend(g, Mend(part=part, kind="centre strip", at_mm=(14.0,)))
        design = design_of(mended)
        strip = next(p for p in design.parts if p.id.endswith("strip"))
        strips = [p.id for p in design.parts if p.id.endswith("strip")]
        self.assertEqual(sum(design.recipes[-1].needs[name] for name in strips), 2)
        self.assertNotIn(strip.id, design.recipes[0].same_piece)
        labels = {label_of(b, n) for b, n in alike(blanks_of(mended, Allowances())) if b.cut}
        self.assertEqual(labels, {"body, treble half: strip", "body, bass half: strip"})

    def test_laid_otherwise_changes_no_blank_but_how_the_part_may_lie(self):
        g = begin("bolt-on", "g", "g")
        part = next(p for p, b in blanks(g).items() if b.mate)
        before = next(p for p in design_of(g).parts if p.role == "body_half")
        for kind in ("shift and tilt", "swap or flip halves"):
            mended = with_mend(g, Mend(part=part, kind=kind))
            self.assertEqual(blanks(mended), blanks(g))
            after = next(p for p in design_of(mended).parts if p.id == before.id)
            self.assertNotEqual((after.tilt_deg, after.mirror), (before.tilt_deg, before.mirror), kind)

    def test_joints_lie_where_the_pieces_meet(self):
        g = begin("bolt-on", "g", "g")
        self.assertEqual([round(y) for y in joints_of(blanks_of(g, Allowances()))], [0])
        part = next(p for p, b in blanks(g).items() if b.mate)
        mended = with_mend(g, Mend(part=part, kind="third piece", at_mm=(80.0,)))
        self.assertEqual([round(y) for y in joints_of(blanks_of(mended, Allowances()))], [-80, 0, 80])


if __name__ == "__main__":
    unittest.main()
